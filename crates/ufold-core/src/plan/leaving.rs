//! How code that returns, jumps or yields can leave its function for one that a call runs.

use crate::align::Region;
use crate::flow::RegionFlow;
use crate::lang::Leaving;
use crate::names::Source;
use crate::tree::{Field, NodeId, Role};

/// Whether what yields here can be a generator that its function delegates to: one that does not wait, with no handler
/// around that could see the difference between an end and an error.
pub fn delegates(s: &Source, function: NodeId, flow: &RegionFlow, first: NodeId) -> bool {
    let t = &s.tree;
    let waits = t.children(function).any(|c| t.role(c) == Role::AsyncMark) || !flow.exits.awaits.is_empty();
    let handled = t.ancestors(first).take_while(|a| *a != function).any(|a| t.role(a) == Role::Try);
    !flow.exits.yields.is_empty() && !waits && !handled && !s.lang.yields_keys()
}

/// The ways in which a call can stand for code that returns or jumps on some of its paths, the shortest first; none for
/// code that does not, or that no call can stand for.
pub fn ways_of_leaving(region: Region, flow: &RegionFlow, function: NodeId) -> Vec<Leaving> {
    let (returns, jumps) = (&flow.exits.returns, &flow.exits.breaks);
    if !flow.falls_through || !flow.exits.yields.is_empty() || returns.is_empty() == jumps.is_empty() {
        return Vec::new();
    }
    if returns.is_empty() { ways_of_jumping(region, flow) } else { ways_of_returning(region, flow, function) }
}

fn ways_of_returning(region: Region, flow: &RegionFlow, function: NodeId) -> Vec<Leaving> {
    let (s, t) = (region.source, &region.source.tree);
    let mut out = Vec::new();
    if !flow.outs.is_empty() {
        return out;
    }
    let body = t.child(function, Field::Body);
    if body.is_some() && t.parent(region.last) == body && body.is_some_and(|b| t.end(b) == region.end()) {
        out.push(Leaving::Tail);
    }
    let value = |r: &NodeId| t.children(*r).next();
    use Role::*;
    let something = |r: &NodeId| {
        value(r).is_some_and(|v| match t.role(v) {
            Literal => !s.lang.is_nothing(s.str(v)),
            Template | Concat | List | Dict | Set | Tuple | Comprehension | Lambda | NotOp => true,
            _ => false,
        })
    };
    if flow.exits.returns.iter().all(|r| value(r).is_none()) {
        out.push(Leaving::Guard);
    } else if flow.exits.returns.iter().all(something) && s.lang.may_give_nothing(s, function) {
        out.push(Leaving::Value);
    }
    out
}

/// All jumps are of one kind and leave one loop.
fn ways_of_jumping(region: Region, flow: &RegionFlow) -> Vec<Leaving> {
    let t = &region.source.tree;
    let jumps = &flow.exits.breaks;
    let left = crate::flow::left_by(t, jumps[0]);
    let same = |j: &NodeId| t.role(*j) == t.role(jumps[0]) && crate::flow::left_by(t, *j) == left;
    let mut out = Vec::new();
    let plain = |j: &NodeId| t.child(*j, Field::Label).is_none() && t.child(*j, Field::Value).is_none();
    if left.is_none() || !jumps.iter().all(|j| same(j) && plain(j)) {
        return out;
    }
    let goes_on = t.role(jumps[0]) == Role::Continue;
    let body = left.and_then(|l| t.child(l, Field::Body));
    let at_end = body.is_some_and(|b| t.parent(region.last) == Some(b) && t.end(b) == region.end());
    if goes_on && at_end && flow.outs.iter().all(|o| flow.ins.contains(o)) {
        out.push(Leaving::Round);
    }
    if flow.outs.is_empty() {
        out.push(if goes_on { Leaving::Continue } else { Leaving::Break });
    }
    out
}
