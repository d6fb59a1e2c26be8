//! `inline`: a variable or a function goes, and its value takes its place.

use ufold_core::step::{InlineRequest, Request, uses_of};

use super::{pointed, step};
use crate::args::Inline;
use crate::session::Session;

pub fn run(s: &Session, a: &Inline) -> anyhow::Result<u8> {
    pointed::run(s, &a.step, a.save_plan.as_deref(), |project| {
        let place = pointed::name(s, project, &a.place)?;
        let uses = uses_of(project, &place);
        step::check_numbers(&a.sites, uses, "use", "uses")?;
        let except = a.sites.left_out(uses);
        Ok(Request::Inline(InlineRequest { finding: a.place.clone(), place, except, slide: false }))
    })
}
