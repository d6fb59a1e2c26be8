//! `param`: a value inside a function becomes its parameter.

use ufold_core::change::Request;

use super::pointed;
use crate::args::Param;
use crate::session::Session;

pub fn run(s: &Session, a: &Param) -> anyhow::Result<u8> {
    pointed::run(s, "param", &a.step, a.save_plan.as_deref(), |project| {
        let place = pointed::value(s, project, &a.place)?;
        pointed::new_name(project, &place, &a.name)?;
        let name = Some(a.name.clone());
        let finding = a.place.clone();
        Ok(Request { finding, copies: vec![place], name, all_equal: a.all_equal, ..Request::default() })
    })
}
