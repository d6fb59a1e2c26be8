//! `move`: definitions of a file go to another one, and all imports follow.

use ufold_core::lang;
use ufold_core::step::{MoveRequest, Request};
use ufold_project::Error;

use super::pointed;
use crate::args::Move;
use crate::session::Session;

pub fn run(s: &Session, a: &Move) -> anyhow::Result<u8> {
    let to = s.new_path(&a.to)?;
    if lang::for_path(&to).is_none() {
        Err(Error::Usage(format!("--to {}: no file of a known language", a.to)))?;
    }
    let typed = s.expanded(&a.place);
    pointed::run(s, &a.step, a.save_plan.as_deref(), |project| {
        let places = pointed::names(s, project, &typed)?;
        Ok(Request::Move(MoveRequest { finding: typed.to_string(), places, to: to.clone(), no_stay: a.no_stay }))
    })
}
