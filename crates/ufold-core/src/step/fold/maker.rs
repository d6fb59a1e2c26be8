//! Whole functions without a name that differ in one captured value: a function that takes the value and returns them.
//!
//! `on('open', (call) => { … 'north' … })` becomes `on('open', opened('north'))`. Each site makes its function where and
//! when it made it before, so this is the extraction of an expression, with its rules. Functions with a name stay, and
//! call what they share: their name is seen from outside, in tracebacks and by those who look it up. Functions that are
//! called on the spot, and those whose parameters get their types from where they stand, are left alone.

use super::FoldRequest;
use crate::change::{Outcome, Place, Verdict, place_of};
use crate::index::Project;
use crate::names::Source;
use crate::plan::calls::planned;
use crate::plan::region::locate;
use crate::step::Step;
use crate::step::proven::proven;
use crate::tree::{Field, NodeId, Role};

/// The plan for functions that are made, when it saves as much as the bodies' plan.
pub fn made(project: &Project, request: &FoldRequest, bodies: &Outcome) -> Option<(FoldRequest, Outcome)> {
    let copies: Vec<Place> = request.copies.iter().map(|p| whole(project, p)).collect::<Option<_>>()?;
    let request = FoldRequest { copies, ..request.clone() };
    let outcome = planned(project, request.asked(), 2);
    let one = outcome.parameters.len() == 1 && outcome.parameters.iter().all(|p| !p.is_function);
    let least = if bodies.verdict == Verdict::Refused { 1 } else { bodies.saves };
    let least = least.max(request.least.unwrap_or(least));
    let fits = outcome.verdict == Verdict::Ready && one && outcome.left_out.is_empty() && outcome.saves >= least;
    let plain = fits && outcome.function.as_ref().is_some_and(|f| f.class.is_none());
    let outcome = plain.then(|| proven(project, &request.claim(), outcome))?;
    (outcome.verdict == Verdict::Ready).then_some((request, outcome))
}

/// The function whose whole body a copy is.
fn whole(project: &Project, place: &Place) -> Option<Place> {
    let source = project.source_at(place).ok()?;
    let region = locate(&source, place).ok().filter(|r| !r.is_expression)?;
    let t = &source.tree;
    let body = t.parent(region.first)?;
    let function = t.parent(body).filter(|f| t.role(*f) == Role::Lambda)?;
    let all = t.children(body).count() == region.statements().len();
    let outer = std::iter::successors(Some(function), |n| t.parent(*n).filter(|p| t.role(*p) == Role::Paren)).last()?;
    let called = t.field(outer) == Field::Callee;
    let plain = all && !called && t.child(function, Field::Name).is_none() && knows_its_types(&source, function);
    plain.then(|| place_of(&source, t.span(function)))
}

/// Its parameters do not get their types from where it stands.
fn knows_its_types(source: &Source, function: NodeId) -> bool {
    let t = &source.tree;
    let list = t.child(function, Field::Parameters);
    let typed = |p: NodeId| t.child(p, Field::Type).is_some() || t.child(p, Field::Value).is_some();
    !source.lang.needs_types() || list.is_none_or(|l| t.role(l) != Role::Name && t.children(l).all(typed))
}
