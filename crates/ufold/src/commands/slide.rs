//! `slide`: statements move next to their first use, or where a person says.

use ufold_core::change::place_of;
use ufold_core::step::{Request, SlideRequest};

use super::{Ranged, pointed};
use crate::args::Slide;
use crate::output;
use crate::session::Session;

pub fn run(s: &Session, a: &Slide) -> anyhow::Result<u8> {
    let typed = Ranged::parse(&s.expanded(&a.range))?;
    pointed::run(s, &a.step, a.save_plan.as_deref(), |project| {
        let source = pointed::source(s, project, &typed.path)?;
        let place = place_of(&source, typed.covered(&source)?);
        let finding = output::place(&source.path, place.start_line);
        Ok(Request::Slide(SlideRequest { finding, place, before: a.before, after: a.after, below_comment: false }))
    })
}
