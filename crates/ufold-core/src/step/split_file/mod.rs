//! `split FILE`: an overlong file becomes several, each about one thing.
//!
//! What goes together is found by [`crate::plan::clusters`]; each new file is a `move` of its own, planned on the texts
//! that the others leave, those first that others use. A part that can't go is left out where all were asked for, and
//! refuses the step where it was named. Fails where nearly all uses nearly all: then nothing is proposed.

mod file_names;
mod graph;
mod movable;
mod propose;

use std::slice::from_ref;
use std::sync::Arc;

use serde::{Deserialize, Serialize};

use self::movable::place_named;
pub use self::propose::{ProposedFile, StaysThere, propose_files};
use super::chain::Several;
use super::{MoveRequest, Plan, Request, Step};
use crate::change::{Claim, Code, Found, Link, Outcome, Place, Reason, Verdict, reason};
use crate::index::Project;
use crate::names::Source;
use crate::tree::Tree;

/// What a person may edit of a file's split.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct SplitFileRequest {
    /// The file as it was typed, for messages.
    pub finding: String,
    /// The whole file.
    pub place: Place,
    /// The new files; each may use those before it.
    pub parts: Vec<FilePart>,
    /// Numbers of parts to leave where they are, from 1.
    #[serde(default)]
    pub except: Vec<usize>,
    /// Parts were chosen by a person: one that can't go refuses the step.
    #[serde(default)]
    pub chosen: bool,
    /// The old file does not pass names on only because somebody unseen may import them from there.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub no_stay: bool,
}

/// A new file.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct FilePart {
    /// The file, relative to the root; it is made where it is not there.
    pub to: String,
    /// The definitions that go there.
    pub names: Vec<String>,
}

impl FilePart {
    /// Where its definitions stand.
    fn places(&self, s: &Source) -> Vec<Place> {
        self.names.iter().filter_map(|name| place_named(s, name)).collect()
    }
}

impl Step for SplitFileRequest {
    fn finding(&self) -> &str {
        &self.finding
    }

    fn places(&self) -> &[Place] {
        from_ref(&self.place)
    }

    fn new_files(&self) -> Vec<&str> {
        self.taken().map(|(_, p)| p.to.as_str()).collect()
    }

    fn places_for(&self, project: &Project, file: &str) -> Vec<Place> {
        let part = self.parts.iter().find(|p| p.to == file);
        let own = part.and_then(|p| Some(p.places(&*project.source_at(&self.place).ok()?)));
        own.filter(|p| !p.is_empty()).unwrap_or_else(|| self.places().to_vec())
    }

    fn claim(&self) -> Claim {
        Claim::InTurn
    }

    fn title(&self, result: &Outcome) -> String {
        match result.links.len() {
            // of what was named each goes somewhere
            _ if self.finding != self.place.file => {
                let to: Vec<&str> = self.taken().map(|(_, p)| p.to.as_str()).collect();
                format!("Move {} to {}", self.finding, to.join(", "))
            }
            1 => format!("Split {}: 1 part", self.finding),
            n => format!("Split {} into {n} parts and the rest", self.finding),
        }
    }

    fn plan(&self, project: &Project) -> Plan {
        Plan::of(project, Request::SplitFile(self.clone()), self.run(project))
    }
}

impl SplitFileRequest {
    /// The parts that go, with their numbers.
    fn taken(&self) -> impl Iterator<Item = (usize, &FilePart)> {
        self.parts.iter().enumerate().map(|(i, p)| (i + 1, p)).filter(|(n, _)| !self.except.contains(n))
    }

    fn run(&self, project: &Project) -> Found<Outcome> {
        let s = project.source_at(&self.place)?;
        if self.taken().next().is_none() {
            let why = "no part of this file is worth a file of its own";
            return Err(vec![reason(&s, Tree::ROOT, Code::NoPart, why)]);
        }
        let (mut at, mut out) = (Several::default(), Outcome::refused(Vec::new()));
        out.verdict = Verdict::Ready;
        for (n, part) in self.taken() {
            let mut next = at.clone();
            match self.moved(project, &mut next, (&s, part)) {
                Ok(link) => {
                    out.reasons.extend(link.result.reasons.iter().map(|r| at.before(r)));
                    out.verdict = out.verdict.max(link.result.verdict);
                    out.remarks.extend(link.result.remarks.iter().map(|r| format!("part {n}: {r}")));
                    out.links.push(link);
                    at = next;
                }
                Err(reasons) => out.left_out.extend(reasons.iter().map(|r| (n, at.before(r)))),
            }
        }
        if out.links.is_empty() || self.chosen && !out.left_out.is_empty() {
            return Err(out.left_out.into_iter().map(|(_, r)| r).collect());
        }
        let mut seen: Vec<Reason> = Vec::new();
        out.reasons.retain(|r| {
            !seen.contains(r) && {
                seen.push(r.clone());
                true
            }
        });
        (out.files, out.saves) = at.finish();
        Ok(out)
    }

    /// One part goes.
    fn moved(&self, project: &Project, at: &mut Several, (s, part): (&Arc<Source>, &FilePart)) -> Found<Link> {
        let now = at.now(s);
        let places = part.places(&now);
        if places.is_empty() {
            let why = format!("none of what {} should get is defined here", part.to);
            return Err(vec![reason(s, Tree::ROOT, Code::NoPart, why)]);
        }
        let finding = format!("{}:{}", s.path, part.names.join(","));
        let request = MoveRequest { finding, places, to: part.to.clone(), no_stay: self.no_stay };
        let result = at.asked(project, |p| request.plan(p).result)?;
        if result.is_refused() {
            return Err(result.reasons);
        }
        let link = Link { claim: request.claim(), result };
        at.follow(project, &link)?;
        Ok(link)
    }
}
