//! `fold`: one finding.

use ufold_core::index::Project;
use ufold_project::files::Disk;

use super::step;
use crate::args::Fold;
use crate::session::{Session, choose, plan_chosen};

pub fn run(s: &Session, a: &Fold) -> anyhow::Result<u8> {
    let Some(typed) = &a.finding else { return super::fold_all::run(s, a) };
    let scanned = s.scan(&[])?;
    let finding = &choose(s, &scanned, typed)?;
    step::check_numbers(&a.request.choice.sites, finding.copies.len(), "copy", "copies")?;
    let disk = Disk::new(&s.root, &scanned);
    let project = Project::new(&scanned.facts, &disk);
    let plan = plan_chosen(s, &project, finding, typed, &a.request)?;
    step::save(s, &plan, a.save_plan.as_deref())?;
    step::carry_out(s, &plan, &a.step)
}
