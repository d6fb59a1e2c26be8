//! Statements behind one that is never left by its end. They stay where they do something by being there: they make the
//! function a generator, bind a name that is used elsewhere, or are there before anything runs.

use super::Candidate;
use crate::find::Clutter;
use crate::flow::Flow;
use crate::names::Source;
use crate::plan::lines::with_blank_lines;
use crate::text::{Edit, Span};
use crate::tree::{NodeId, Role, Tree};

pub(super) fn found(s: &Source) -> Vec<Candidate> {
    let t = &s.tree;
    let mut out = Vec::new();
    for block in t.ids().filter(|b| t.role(*b) == Role::Block) {
        let Some(function) = t.callable_around(block).filter(|f| t.holds_statements(*f)) else { continue };
        let all: Vec<NodeId> = t.children(block).collect();
        let leaves =
            |n: &NodeId| matches!(t.role(*n), Role::Return | Role::Raise | Role::Break | Role::Continue | Role::If);
        let Some(k) = all.iter().position(|n| leaves(n) && !falls_through(s, function, *n)) else { continue };
        // functions that are there before anything runs may stand behind a return
        let is_there = |n: &NodeId| s.lang.functions_come_first() && t.role(*n) == Role::Function;
        let rest: Vec<NodeId> =
            all[k + 1..].iter().copied().skip_while(is_there).take_while(|n| !is_there(n)).collect();
        // a label is reached from elsewhere, and the parts of a switch from its head
        if let (Some(first), Some(last)) = (rest.first(), rest.last()) {
            out.push(item(s, function, *first, *last));
        }
    }
    out
}

fn falls_through(s: &Source, function: NodeId, statement: NodeId) -> bool {
    let flow = Flow::of(s, function, statement);
    flow.region(&s.tree, &s.names, statement, statement).is_none_or(|r| r.falls_through)
}

fn item(s: &Source, function: NodeId, first: NodeId, last: NodeId) -> Candidate {
    let t = &s.tree;
    let (start, end) = (t.span(first).start, t.span(last).end);
    let (above, below) = (with_blank_lines(s, first), with_blank_lines(s, last));
    let (from, to) = (s.lines.line(start), s.lines.line(end.max(1) - 1));
    let lines = if from == to { format!("line {from}") } else { format!("lines {from}-{to}") };
    Candidate {
        more: Vec::new(),
        kind: Clutter::Unreachable,
        span: Span::new(start, end),
        edit: Edit::new(above.start, below.end, ""),
        node: Some(first),
        what: format!("nothing reaches {lines}"),
        needs: why_it_matters(s, function, first, last).map(str::to_string),
        local: None,
    }
}

/// What the statements do without being run.
fn why_it_matters(s: &Source, function: NodeId, first: NodeId, last: NodeId) -> Option<&'static str> {
    let t = &s.tree;
    let stop = t.end(last);
    let within = |n: NodeId| first <= n && n < stop;
    let inner = |n: NodeId| t.callable_around(n) != Some(function);
    let nodes = || (first.0..stop.0).map(NodeId);
    if nodes().any(|n| {
        matches!(t.role(n), Role::Yield | Role::Global | Role::Nonlocal | Role::Labeled | Role::JumpTarget) && !inner(n)
    }) {
        return Some("it says what the function is");
    }
    let bound =
        s.names.in_range(first, stop).iter().filter(|r| r.usage.writes() || r.usage == crate::names::Use::Delete);
    let used = bound.filter_map(|r| r.target).any(|b| s.names.references_to(b).any(|r| !within(r.node)));
    if used || nodes().any(|n| t.role(n) == Role::DynamicScope) {
        return Some("a name that it binds is used outside of it");
    }
    let hoisted = nodes().any(|n| {
        let r = s.names.at(n).and_then(|r| r.target);
        r.is_some_and(|b| s.names.binding(b).hoisted && s.names.binding(b).first == n && !is_inside(t, n, first, stop))
    });
    hoisted.then_some("what it declares is there before anything runs")
}

/// Bound in a function that goes along.
fn is_inside(t: &Tree, n: NodeId, first: NodeId, stop: NodeId) -> bool {
    t.ancestors(n).any(|a| first <= a && a < stop && t.role(a).is_callable())
}
