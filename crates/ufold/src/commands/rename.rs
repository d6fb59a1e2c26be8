//! `rename`: one name, with every reference.

use ufold_core::change::Request;

use super::pointed;
use crate::args::Rename;
use crate::session::Session;

pub fn run(s: &Session, a: &Rename) -> anyhow::Result<u8> {
    pointed::run(s, "rename", &a.step, a.save_plan.as_deref(), |project| {
        let place = pointed::name(s, project, &a.place)?;
        pointed::new_name(project, &place, &a.name)?;
        let name = Some(a.name.clone());
        Ok(Request { finding: a.place.clone(), copies: vec![place], name, ..Request::default() })
    })
}
