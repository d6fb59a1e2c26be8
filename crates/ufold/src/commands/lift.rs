//! `lift`: members that classes repeat go to the class that all of them extend.

use ufold_core::change::Place;
use ufold_core::index::Project;
use ufold_core::step::{LiftRequest, Request, file_for_base, members_like};
use ufold_project::Error;

use super::pointed;
use crate::args::Lift;
use crate::session::Session;

pub fn run(s: &Session, a: &Lift) -> anyhow::Result<u8> {
    let typed = s.expanded(&a.place);
    let into = a.into.as_deref().map(|p| s.new_path(p)).transpose()?;
    let to = a.to.as_deref().map(|t| t.rsplit(':').next().unwrap_or(t).to_string());
    pointed::run(s, &a.step, a.save_plan.as_deref(), |project| {
        let places = members_like(project, &pointed_at(s, project, &typed)?, a.new_base.is_some());
        let into = into.or_else(|| file_for_base(project, &places, a.new_base.as_deref()?));
        let new_base = a.new_base.clone();
        Ok(Request::Lift(LiftRequest { finding: typed.to_string(), places, to, new_base, into, narrow: false }))
    })
}

/// `FILE:Class.member,member`, or one place.
fn pointed_at(s: &Session, project: &Project, typed: &str) -> Result<Vec<Place>, Error> {
    let Some((head, first)) = typed.rsplit_once('.').filter(|(_, names)| names.contains(',')) else {
        return Ok(vec![pointed::name(s, project, typed)?]);
    };
    first.split(',').map(|name| pointed::name(s, project, &format!("{head}.{}", name.trim()))).collect()
}
