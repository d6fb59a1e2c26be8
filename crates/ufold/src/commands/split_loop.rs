//! `split-loop`: some lines of a loop's body go into a loop of their own behind it.

use ufold_core::step::{Request, SplitLoopRequest};
use ufold_project::Error;

use super::pointed;
use crate::args::SplitLoop;
use crate::session::Session;

pub fn run(s: &Session, a: &SplitLoop) -> anyhow::Result<u8> {
    pointed::run(s, &a.step, a.save_plan.as_deref(), |project| {
        if s.pointer(&a.place)?.is_none() {
            return Err(Error::Usage(format!("{} is no place such as fees.py:12, a loop's first line", a.place)));
        }
        let place = pointed::function(s, project, &a.place)?;
        Ok(Request::SplitLoop(SplitLoopRequest { finding: a.place.clone(), place, lines: a.lines.clone() }))
    })
}
