//! `apply`: a saved plan, computed again from its request.

use ufold_core::index::Project;
use ufold_core::step::{PLAN_SCHEMA, Plan, plan};
use ufold_project::files::Disk;
use ufold_project::{Error, apply, root};

use super::step;
use crate::args::Apply;
use crate::session::Session;

pub fn run(s: &Session, a: &Apply) -> anyhow::Result<u8> {
    let saved = read(&a.plan)?;
    let files = saved.request.places().iter().map(|c| &c.file).chain(saved.result.files.iter().map(|f| &f.file));
    for f in files.chain(saved.request.wishes().and_then(|w| w.into.as_ref())) {
        root::inside(&s.root, f)?;
    }
    // says which file is not what it was
    apply::texts(s.journal()?.tree(), &saved.result.files)?;
    let scanned = s.scan(&[])?;
    let disk = Disk::new(&s.root, &scanned);
    let project = Project::new(&scanned.facts, &disk);
    let plan = plan(&project, &saved.request);
    step::carry_out(s, &plan, &a.step)
}

/// A plan as it was saved, perhaps edited since.
pub fn read(path: &std::path::Path) -> Result<Plan, Error> {
    let text = std::fs::read_to_string(path).map_err(|e| Error::io("read", path, &e))?;
    let wrong = |what: String| Error::Usage(format!("{}: not a plan of ufold: {what}", path.display()));
    let value: serde_json::Value = serde_json::from_str(&text).map_err(|e| wrong(e.to_string()))?;
    match value["schema"].as_str() {
        Some(PLAN_SCHEMA) => serde_json::from_value(value).map_err(|e| wrong(e.to_string())),
        schema => Err(wrong(format!("its schema is `{}`, expected `{PLAN_SCHEMA}`", schema.unwrap_or("")))),
    }
}
