//! `rename`: one name, with every reference.

use ufold_core::step::{RenameRequest, Request};

use super::pointed;
use crate::args::Rename;
use crate::session::Session;

pub fn run(s: &Session, a: &Rename) -> anyhow::Result<u8> {
    pointed::run(s, &a.step, a.save_plan.as_deref(), |project| {
        let place = pointed::name(s, project, &a.place)?;
        let name = pointed::new_name(project, &place, &a.name)?;
        Ok(Request::Rename(RenameRequest { finding: a.place.clone(), place, name }))
    })
}
