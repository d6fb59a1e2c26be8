//! `inline`: a variable or a function goes, and its value takes its place.

use ufold_core::step::Request;

use super::pointed;
use crate::args::Inline;
use crate::session::Session;

pub fn run(s: &Session, a: &Inline) -> anyhow::Result<u8> {
    pointed::run(s, "inline", &a.step, a.save_plan.as_deref(), |project| {
        let place = pointed::name(s, project, &a.place)?;
        Ok(Request { finding: a.place.clone(), copies: vec![place], ..Request::default() })
    })
}
