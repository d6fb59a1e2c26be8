//! Room for a part of a function: what is given a value above it, and used by nothing before it, goes along with it.
//!
//! Such statements slide down to the part, so that what they give is no parameter of it. Only plain ones without a comment
//! of their own are looked at, of the part's own block, and only where less comes in afterwards.

use crate::change::{Code, Found, Link, Place, place_of, reason};
use crate::flow::Effects;
use crate::index::Project;
use crate::names::{BindKind, BindingId, Source};
use crate::plan::lines::{comments_above, line_start};
use crate::plan::parts::{Part, leaves_enough};
use crate::step::chain::Progress;
use crate::step::{SlideRequest, Step};
use crate::text::Span;
use crate::tree::{NodeId, Role};

/// The statements that go along, in their order.
pub(super) fn companions(s: &Source, function: NodeId, part: &Part, taken: &dyn Fn(NodeId) -> bool) -> Vec<NodeId> {
    let t = &s.tree;
    let Some(block) = t.parent(part.first) else { return Vec::new() };
    let mut all: Vec<NodeId> = Vec::new();
    for d in t.children(block).take_while(|c| *c < part.first).collect::<Vec<_>>().into_iter().rev() {
        let within = |n: NodeId| {
            t.contains(d, n) || all.iter().any(|c| t.contains(*c, n)) || part.first <= n && n < t.end(part.last)
        };
        let given = given_by(s, d);
        let only_here = |b: &BindingId| s.names.references_to(*b).all(|r| within(r.node) || r.node >= t.end(part.last));
        let used = |b: &BindingId| s.names.references_to(*b).any(|r| !t.contains(d, r.node) && within(r.node));
        // what several parts work on is no matter of one of them
        let shared = |b: &BindingId| {
            let mut below = s.names.references_to(*b).filter(|r| r.node >= t.end(part.last));
            let written = s.names.references_to(*b).any(|r| r.usage.writes() && part.first <= r.node);
            !written && below.any(|r| taken(r.node))
        };
        let given: Vec<BindingId> = if given.iter().any(shared) { Vec::new() } else { given };
        let plain = matches!(t.role(d), Role::ExprStmt | Role::Declare | Role::Assign) && !has_comment(s, d);
        if plain && !taken(d) && !given.is_empty() && given.iter().all(only_here) && given.iter().all(used) {
            all.push(d);
        }
    }
    all.reverse();
    let part_span = Span::new(t.span(part.first).start, t.span(part.last).end);
    let gone: Vec<Span> = all.iter().map(|d| t.span(*d)).chain([part_span]).collect();
    let fewer = || comes_in(s, function, part, &all) < comes_in(s, function, part, &[]);
    if leaves_enough(s, function, &gone) && fewer() { all } else { Vec::new() }
}

/// Variables of the function that a statement gives a value, or declares.
fn given_by(s: &Source, statement: NodeId) -> Vec<BindingId> {
    let inside = s.names.in_range(statement, s.tree.end(statement)).iter();
    inside.filter(|r| r.usage.writes()).filter_map(|r| r.target).collect()
}

/// What a statement that goes along gives to code below the part; what the part gives a value itself is told with it.
pub(super) fn given_on(s: &Source, statement: &Place, part: &Part) -> Vec<String> {
    let t = &s.tree;
    let span = Span::new(statement.start_byte, statement.end_byte);
    let below = t.end(part.last);
    let Some(d) = t.ids().find(|n| t.span(*n) == span) else { return Vec::new() };
    let later = |b: &BindingId| s.names.references_to(*b).any(|r| r.node >= below);
    let own =
        |b: &BindingId| s.names.references_to(*b).any(|r| part.first <= r.node && r.node < below && r.usage.writes());
    let all = given_by(s, d).into_iter().filter(|b| later(b) && !own(b));
    all.map(|b| s.names.binding(b).name.clone()).collect()
}

fn has_comment(s: &Source, statement: NodeId) -> bool {
    let at = line_start(&s.text, s.tree.span(statement).start);
    comments_above(s, at) < at
}

/// How many variables the part reads that neither it nor those that go along give a value.
fn comes_in(s: &Source, function: NodeId, part: &Part, along: &[NodeId]) -> usize {
    let t = &s.tree;
    let own = |n: NodeId| part.first <= n && n < t.end(part.last);
    let block = t.parent(part.first);
    let statements: Vec<NodeId> =
        block.into_iter().flat_map(|b| t.children(b)).filter(|c| own(*c) || along.contains(c)).collect();
    let effects: Vec<Effects> = statements.iter().map(|n| Effects::of(s, function, *n)).collect();
    let mut read: Vec<BindingId> = effects.iter().flat_map(|e| e.reads.iter().copied()).collect();
    read.sort_unstable();
    read.dedup();
    let outside = |b: &&BindingId| {
        let mut given = s.names.references_to(**b).filter(|r| r.usage.writes());
        given.any(|r| !statements.iter().any(|c| t.contains(*c, r.node)))
            || s.names.binding(**b).kind == BindKind::Parameter
    };
    read.iter().filter(outside).count()
}

/// Slides the statements to the head of a part; the part with them.
pub(super) fn make(at: &mut Progress, project: &Project, part: &Place, along: &[Place]) -> Found<(Place, Vec<Link>)> {
    let mut links = Vec::new();
    for (k, d) in along.iter().enumerate().rev() {
        let behind = along.len() - 1 - k;
        let s = at.now.clone();
        let t = &s.tree;
        let moved = |p: &Place| at.moved(p).ok_or_else(|| vec![gone(at, p)]);
        let (d, head) = (moved(d)?, head(&s, &moved(part)?, behind).ok_or_else(|| vec![gone(at, part)])?);
        let own = Span::new(d.start_byte, d.end_byte);
        let next = t.children(t.parent(head).unwrap_or(head)).take_while(|c| *c < head).last();
        let adjacent = next.is_some_and(|n| t.span(n) == own);
        if adjacent && !has_comment(&s, head) {
            continue;
        }
        let request = SlideRequest {
            finding: String::new(),
            place: d,
            before: Some(s.line(head)),
            after: None,
            below_comment: true,
        };
        let result = at.asked(project, |p| request.plan(p).result)?;
        if result.is_refused() {
            return Err(result.reasons);
        }
        let link = Link { claim: request.claim(), result };
        at.follow(project, &link)?;
        links.push(link);
    }
    let s = at.now.clone();
    let place = at.moved(part).ok_or_else(|| vec![gone(at, part)])?;
    let first = head(&s, &place, along.len()).ok_or_else(|| vec![gone(at, part)])?;
    Ok((place_of(&s, Span::new(s.tree.span(first).start, place.end_byte)), links))
}

fn gone(at: &Progress, place: &Place) -> crate::change::Reason {
    let node = at.original.tree.covering(Span::new(place.start_byte, place.end_byte));
    reason(&at.original, node, Code::Overlap, "this part overlaps another one")
}

/// The statement that stands so many before the first of a part.
fn head(s: &Source, part: &Place, before: usize) -> Option<NodeId> {
    let t = &s.tree;
    let begins =
        |n: &NodeId| t.span(*n).start == part.start_byte && t.parent(*n).is_some_and(|b| t.role(b).is_sequence());
    let first = t.ids().find(begins)?;
    let above: Vec<NodeId> = t.children(t.parent(first)?).take_while(|c| *c <= first).collect();
    above.len().checked_sub(before + 1).map(|i| above[i])
}
