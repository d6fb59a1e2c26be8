//! `param`: a value inside a function becomes its parameter.

use ufold_core::step::{ParamRequest, Request};

use super::pointed;
use crate::args::Param;
use crate::session::Session;

pub fn run(s: &Session, a: &Param) -> anyhow::Result<u8> {
    pointed::run(s, &a.step, a.save_plan.as_deref(), |project| {
        let place = pointed::value(s, project, &a.place)?;
        let name = pointed::new_name(project, &place, &a.name)?;
        let file = project.index(&place.file).and_then(|f| project.source(f).ok());
        let name = file.map_or(name.clone(), |f| pointed::as_variable(f.lang, &name));
        Ok(Request::Param(ParamRequest { finding: a.place.clone(), place, name, all_equal: a.all_equal }))
    })
}
