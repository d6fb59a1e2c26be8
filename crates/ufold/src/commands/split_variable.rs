//! `split-variable`: a later value of a variable gets a variable of its own.

use ufold_core::step::{Request, SplitVariableRequest};

use super::pointed;
use crate::args::SplitVariable;
use crate::session::Session;

pub fn run(s: &Session, a: &SplitVariable) -> anyhow::Result<u8> {
    pointed::run(s, &a.step, a.save_plan.as_deref(), |project| {
        let place = pointed::name(s, project, &a.place)?;
        let name = pointed::new_name(project, &place, &a.name)?;
        let finding = a.place.clone();
        Ok(Request::SplitVariable(SplitVariableRequest { finding, place, name }))
    })
}
