//! `extract`: statements or an expression that a person points at become a function, and so do other copies of them.
//!
//! The one region decides what the function takes; a copy joins when it needs no parameter more.

use serde::{Deserialize, Serialize};

use super::proven::proven;
use super::{Plan, Request, Step};
use crate::change::{Claim, Code, Outcome, Place, Verdict, place_of};
use crate::index::Project;
use crate::plan::calls::planned;
use crate::plan::range::alike;
use crate::plan::region::locate;
use crate::plan::wishes::{Asked, Wishes};
use crate::text::Span;
use crate::tree::NodeId;

/// Reasons that speak of how the region is left, and with what: another range may not be left so.
const LEAVING: &[Code] =
    &[Code::PartialReturn, Code::LeavesLoop, Code::ReadWhenLeft, Code::NeverRuns, Code::SeveralResults];

/// Copies that could join; more are not looked at.
const MOST_COPIES: usize = 60;

/// Other ranges that are tried when one is refused.
const MOST_RANGES: usize = 20;

/// What a person may edit of an extraction.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct ExtractRequest {
    /// Where the region is, for messages.
    pub finding: String,
    /// The region, then its other copies; those in `except` stay as they are.
    pub copies: Vec<Place>,
    /// Numbers of copies to leave out, from 1.
    #[serde(default)]
    pub except: Vec<usize>,
    #[serde(default)]
    pub function: Wishes,
}

impl ExtractRequest {
    fn asked(&self) -> Asked<'_> {
        Asked { copies: &self.copies, except: &self.except, wishes: &self.function }
    }
}

impl Step for ExtractRequest {
    fn finding(&self) -> &str {
        &self.finding
    }

    fn places(&self) -> &[Place] {
        &self.copies
    }

    fn claim(&self) -> Claim {
        Claim::Called { types: self.function.types.clone() }
    }

    fn wishes(&self) -> Option<&Wishes> {
        Some(&self.function)
    }

    fn wishes_mut(&mut self) -> Option<&mut Wishes> {
        Some(&mut self.function)
    }

    fn title(&self, result: &Outcome) -> String {
        match (&result.function, result.sites.len()) {
            (Some(f), 1) => format!("Extract {}", f.path()),
            (Some(f), n) => format!("Extract {} from {n} copies", f.path()),
            (None, _) => format!("Extract {}", self.finding),
        }
    }

    /// The first copy is the region, the others are its copies.
    fn plan(&self, project: &Project) -> Plan {
        let result = planned(project, self.asked(), 1);
        let mut result = proven(project, &self.claim(), result);
        if result.verdict == Verdict::Refused && result.reasons.iter().any(|r| LEAVING.contains(&r.code)) {
            result.remarks.extend(ranges_without_exits(project, self));
        }
        Plan::new(Request::Extract(self.clone()), result)
    }
}

/// The longest smaller range and the shortest larger one that could be taken out.
fn ranges_without_exits(project: &Project, request: &ExtractRequest) -> Option<String> {
    let own = &request.copies[0];
    let source = project.source_at(own).ok()?;
    let region = locate(&source, own).ok().filter(|r| !r.is_expression)?;
    let t = &source.tree;
    let statements = region.statements();
    let n = statements.len();
    let place = |a: NodeId, z: NodeId| place_of(&source, Span::new(t.span(a).start, t.span(z).end));
    let parts = (1..n).rev().flat_map(|len| (0..=n - len).map(move |from| (from, from + len - 1)));
    let smaller = parts.take(MOST_RANGES).map(|(a, z)| place(statements[a], statements[z]));
    let after = t.parent(region.last).map_or(Vec::new(), |b| t.children(b).filter(|c| *c > region.last).collect());
    let larger = after.into_iter().take(MOST_RANGES).map(|z| place(region.first, z));
    let fits = |p: &Place| {
        let one = Asked { copies: std::slice::from_ref(p), except: &[], ..request.asked() };
        p.end_line > p.start_line && planned(project, one, 1).verdict != Verdict::Refused
    };
    let found: Vec<Place> = smaller.into_iter().find(fits).into_iter().chain(larger.into_iter().find(fits)).collect();
    let ranges: Vec<String> = found.iter().map(|p| format!("{}-{}", p.start_line, p.end_line)).collect();
    (!ranges.is_empty()).then(|| format!("lines {} can be taken out", ranges.join(" or ")))
}

/// Other copies of the request's region.
#[derive(Default)]
pub struct Others {
    /// They need no parameter more.
    pub joining: Vec<Place>,
    /// They would, or they do not fit for another reason.
    pub differing: Vec<Place>,
}

/// Copies of the region in its file, or in the whole project.
pub fn copies_of(project: &Project, request: &ExtractRequest, everywhere: bool) -> Others {
    let mut out = Others::default();
    let own = &request.copies[0];
    let Some(home) = project.index(&own.file) else { return out };
    let Ok(source) = project.source(home) else { return out };
    let Ok(region) = locate(&source, own) else { return out };
    let alone = planned(project, Asked { copies: std::slice::from_ref(own), ..request.asked() }, 1);
    if alone.verdict == Verdict::Refused {
        return out;
    }
    let mut taken = vec![(home, Span::new(own.start_byte, own.end_byte))];
    let language = &project.facts[home].language;
    let files =
        (0..project.facts.len()).filter(|f| *f == home || everywhere && project.facts[*f].language == *language);
    for file in files {
        let Ok(other) = project.source(file) else { continue };
        for span in alike(&other, &region) {
            if taken.iter().any(|(f, s)| *f == file && s.overlaps(span)) || taken.len() > MOST_COPIES {
                continue;
            }
            let place = place_of(&other, span);
            let both = [own.clone(), place.clone()];
            let pair = planned(project, Asked { copies: &both, except: &[], ..request.asked() }, 2);
            taken.push((file, span));
            if fits(&alone, &pair) { out.joining.push(place) } else { out.differing.push(place) }
        }
    }
    out
}

fn fits(alone: &Outcome, pair: &Outcome) -> bool {
    pair.verdict != Verdict::Refused
        && pair.sites.len() == 2
        && pair.parameters.len() == alone.parameters.len()
        && !pair.parameters.iter().any(|p| p.is_function)
}
