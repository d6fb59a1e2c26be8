//! `split`: an overlong function becomes several, each a run of its statements, in one step.
//!
//! Where to cut is found by [`crate::plan::parts`]; each part is an extraction of its own, made on the text that the
//! others leave, from the last part to the first: so they come to stand below the function in the order of use. A part
//! that can't be taken out is left out where all were asked for, and refuses the step where it was named.

mod beforehand;
mod propose;
mod room;

use std::slice::from_ref;

use serde::{Deserialize, Serialize};

pub use self::beforehand::Beforehand;
use self::beforehand::Prepared;
pub use self::propose::{Proposed, propose_split};
use super::chain::Progress;
use super::{ExtractRequest, Plan, Request, Step};
use crate::change::{Claim, Code, Found, Link, Outcome, Place, Reason, reason};
use crate::index::Project;
use crate::plan::wishes::Wishes;
use crate::text::{Span, apply_edits};

/// What a person may edit of a split.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct SplitRequest {
    /// The function as it was typed, for messages.
    pub finding: String,
    /// The function.
    pub place: Place,
    /// Changes that are made first.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub first: Vec<Beforehand>,
    /// Its parts, in the order in which they stand; their places are of the text that `first` leaves.
    pub parts: Vec<PartRequest>,
    /// Numbers of parts to leave where they are, from 1.
    #[serde(default)]
    pub except: Vec<usize>,
    /// Parts were chosen by a person: one that can't be taken out refuses the step.
    #[serde(default)]
    pub chosen: bool,
}

/// One part of a function.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct PartRequest {
    pub place: Place,
    /// Statements above it that slide to it first and go along with it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub along: Vec<Place>,
    #[serde(default)]
    pub function: Wishes,
}

impl Step for SplitRequest {
    fn finding(&self) -> &str {
        &self.finding
    }

    fn places(&self) -> &[Place] {
        from_ref(&self.place)
    }

    fn claim(&self) -> Claim {
        Claim::InTurn
    }

    fn title(&self, result: &Outcome) -> String {
        match result.links.iter().filter(|l| l.result.function.is_some()).count() {
            1 => format!("Split {}: 1 part", self.finding),
            n => format!("Split {} into {n} parts", self.finding),
        }
    }

    fn plan(&self, project: &Project) -> Plan {
        Plan::of(project, Request::Split(self.clone()), Split { project, request: self }.run())
    }
}

/// One part, with what goes along, out of the text that is now: the slides and the extraction.
fn take_out(project: &Project, at: &mut Progress, finding: &str, part: &PartRequest) -> Found<Vec<Link>> {
    let s = at.original.clone();
    let overlap = || {
        let message = "this part overlaps another one".to_string();
        vec![Reason { code: Code::Overlap, message, file: s.path.clone(), line: part.place.start_line }]
    };
    at.moved(&part.place).ok_or_else(overlap)?;
    let (place, mut links) = room::make(at, project, &part.place, &part.along)?;
    let function = part.function.clone();
    let request = ExtractRequest { finding: finding.to_string(), copies: vec![place], except: Vec::new(), function };
    let result = at.asked(project, |p| request.plan(p).result)?;
    if result.is_refused() {
        return Err(result.reasons);
    }
    if result.files.iter().any(|f| f.file != s.path || f.creates) {
        let message = "the part would go to another file".to_string();
        let line = part.place.start_line;
        return Err(vec![Reason { code: Code::NoHome, message, file: s.path.clone(), line }]);
    }
    links.push(Link { claim: request.claim(), result });
    Ok(links)
}

struct Split<'a> {
    project: &'a Project<'a>,
    request: &'a SplitRequest,
}

impl Split<'_> {
    fn run(&self) -> Found<Outcome> {
        let r = self.request;
        let s = self.project.ordered_source_at(&r.place)?;
        let numbers: Vec<usize> = (1..=r.parts.len()).filter(|n| !r.except.contains(n)).collect();
        if numbers.is_empty() {
            let at = s.tree.covering(Span::new(r.place.start_byte, r.place.end_byte));
            return Err(vec![reason(&s, at, Code::NoPart, "no part of this function is worth a function of its own")]);
        }
        let Prepared { mut at, mut out, told } = Prepared::new(&s).with(self.project, &r.first)?;
        out.remarks.splice(0..0, told);
        let before = out.links.len();
        for n in numbers.into_iter().rev() {
            let part = &r.parts[n - 1];
            let mut next = at.clone();
            match take_out(self.project, &mut next, &r.finding, part) {
                Ok(links) => {
                    let (last, slides) = links.split_last().expect("an extraction is the last of them");
                    for (link, before) in slides.iter().map(|l| (l, &at)).chain([(last, &next)]) {
                        let own = |r: &Reason| Reason { line: before.line_before(r.line), ..r.clone() };
                        out.reasons.extend(link.result.reasons.iter().map(own));
                        out.verdict = out.verdict.max(link.result.verdict);
                        out.remarks.extend(link.result.remarks.iter().map(|r| format!("part {n}: {r}")));
                    }
                    next.follow(self.project, last)?;
                    out.remarks.extend(part.along.iter().map(|d| format!("part {n}: {} first", goes_along(d))));
                    out.links.extend(links);
                    at = next;
                }
                Err(reasons) => {
                    let own = |r: Reason| (n, Reason { line: at.line_before(r.line), ..r });
                    out.left_out.extend(reasons.into_iter().map(own));
                }
            }
        }
        out.left_out.reverse();
        if out.links.len() == before || r.chosen && !out.left_out.is_empty() {
            return Err(out.left_out.into_iter().map(|(_, r)| r).collect());
        }
        out.reasons.sort_by_key(|r| r.line);
        out.reasons.dedup();
        (out.files, out.saves) = at.finish();
        Ok(out)
    }
}

/// What happens to a statement that a part takes along.
fn goes_along(place: &Place) -> String {
    match place.start_line == place.end_line {
        true => format!("line {} slides to it", place.start_line),
        false => format!("lines {}-{} slide to it", place.start_line, place.end_line),
    }
}

/// How the function reads when a plan is done, from its head on.
pub fn afterwards(project: &Project, plan: &Plan) -> Option<String> {
    let Request::Split(r) = &plan.request else { return None };
    let s = project.ordered_source_at(&r.place).ok()?;
    let edits = plan.result.files.iter().find(|f| f.file == s.path).map_or(&[][..], |f| &f.edits);
    let new = project.parse(&s.path, apply_edits(&s.text, edits).ok()?.into()).ok()?;
    let before = edits.iter().filter(|e| e.span.end <= r.place.start_byte);
    let shift: i64 = before.map(|e| e.text.len() as i64 - (e.span.end - e.span.start) as i64).sum();
    let start = (r.place.start_byte as i64 + shift) as usize;
    let t = &new.tree;
    let function = t.ids().find(|f| t.span(*f).start == start && t.holds_statements(*f))?;
    let from = new.text[..start].rfind('\n').map_or(0, |i| i + 1);
    Some(new.text[from..t.span(function).end].to_string())
}
