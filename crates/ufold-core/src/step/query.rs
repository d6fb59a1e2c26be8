//! `extract --query`: a variable's value becomes a function, and its call takes the variable's place.
//!
//! An extraction of the value, then an inlining of the variable: right where both are.

use std::slice::from_ref;

use serde::{Deserialize, Serialize};

use super::chain::Progress;
use super::{ExtractRequest, InlineRequest, Plan, Request, Step};
use crate::change::{Claim, Code, Found, Link, Outcome, Place, Reason, Verdict, place_of, reason};
use crate::index::Project;
use crate::names::Source;
use crate::plan::wishes::Wishes;
use crate::text::Span;
use crate::tree::{Field, NodeId, Role};

/// What a person may edit of it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct QueryRequest {
    /// Where it is, for messages.
    pub finding: String,
    /// The statement that gives the variable its value, or the value in it.
    pub place: Place,
    /// The function that computes it.
    pub function: Wishes,
}

impl Step for QueryRequest {
    fn finding(&self) -> &str {
        &self.finding
    }

    fn places(&self) -> &[Place] {
        from_ref(&self.place)
    }

    fn claim(&self) -> Claim {
        Claim::InTurn
    }

    fn title(&self, _: &Outcome) -> String {
        let name = self.function.name.as_deref().unwrap_or("a function");
        format!("Replace the variable at {} by {name}", self.finding)
    }

    fn plan(&self, project: &Project) -> Plan {
        Plan::of(project, Request::Query(self.clone()), run(project, self))
    }
}

fn run(project: &Project, request: &QueryRequest) -> Found<Outcome> {
    let s = project.ordered_source_at(&request.place)?;
    let span = Span::new(request.place.start_byte, request.place.end_byte);
    let (name, value) = given_at(&s, span)?;
    let (name, value) = (place_of(&s, s.tree.span(name)), place_of(&s, s.tree.span(value)));
    let finding = request.finding.clone();
    let mut at = Progress::new(&s);
    let mut out = Outcome { verdict: Verdict::Ready, ..Outcome::refused(Vec::new()) };
    let function = request.function.clone();
    let extract =
        ExtractRequest { finding: finding.clone(), copies: vec![value], function, ..ExtractRequest::default() };
    let link = Link { claim: extract.claim(), result: at.asked(project, |p| extract.plan(p).result)? };
    at.add(&mut out, project, link)?;
    let moved = at.moved(&name).ok_or_else(|| {
        let message = "the variable can't be told from its value".to_string();
        vec![Reason { code: Code::NoSingleValue, message, file: s.path.clone(), line: name.start_line }]
    })?;
    let inline = InlineRequest { finding, place: moved, except: Vec::new(), slide: false };
    let link = Link { claim: inline.claim(), result: at.asked(project, |p| inline.at_once(p).result)? };
    at.add(&mut out, project, link)?;
    (out.files, out.saves) = at.finish();
    Ok(out)
}

/// The variable and its value, of the statement that gives it.
fn given_at(s: &Source, span: Span) -> Found<(NodeId, NodeId)> {
    let t = &s.tree;
    let inner = t.covering(span);
    let around = std::iter::once(inner).chain(t.ancestors(inner)).chain(t.subtree(inner));
    let found = around.filter(|n| t.role(*n) == Role::Assign).find_map(|a| {
        let (left, right) = (t.child(a, Field::Left)?, t.child(a, Field::Right)?);
        let meant = span.contains(t.span(right)) || t.span(right).contains(span) || span == t.span(left);
        (meant && t.role(left) == Role::Name).then_some((left, right))
    });
    found.ok_or_else(|| vec![reason(s, inner, Code::NoSingleValue, "no statement gives a variable its value here")])
}
