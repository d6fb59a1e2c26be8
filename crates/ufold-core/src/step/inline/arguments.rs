//! Arguments that take the place of parameters: each is evaluated as often, and in the order, as before.

use super::values::{is_fixed, is_local};
use crate::index::quiet::is_quiet_call;
use crate::names::{BindingId, Source, Use};
use crate::tree::{NodeId, Role};

/// Each argument is computed where and as often as before, or could be at any time.
pub fn in_order(
    s: &Source,
    parameters: &[BindingId],
    value: NodeId,
    at: &Source,
    given: &[NodeId],
) -> Result<(), &'static str> {
    let mut order = Vec::new();
    for (p, g) in parameters.iter().zip(given) {
        let uses: Vec<NodeId> = s.names.references_to(*p).filter(|r| r.usage == Use::Read).map(|r| r.node).collect();
        let written = s.names.binding(*p).writes > 1 || s.names.binding(*p).captured;
        let fixed = (is_fixed(at, *g) || is_local(at, *g)) && !is_written_by(at, *g, given);
        let when = uses.first().and_then(|u| crate::plan::evaluate::moment_of(s, value, *u));
        let acts = at.tree.subtree(*g).any(|n| may_act(at, n));
        let early = |w: crate::plan::evaluate::When| !w.after_effects && !(acts && (w.after_throws || w.after_reads));
        let once = uses.len() == 1 && when.is_some_and(|w| !w.conditional && !w.in_closure && early(w));
        if written || !fixed && !once {
            return Err("an argument would be computed at another time, or not once");
        }
        if !fixed {
            order.push(uses[0]);
        }
    }
    match order.windows(2).any(|w| w[0] > w[1]) {
        true => Err("the arguments would be computed in another order"),
        false => Ok(()),
    }
}

/// Evaluating it may change something.
pub(super) fn may_act(s: &Source, n: NodeId) -> bool {
    use Role::*;
    let quiet = match s.tree.role(n) {
        Call => is_quiet_call(s, n),
        Arguments => s.tree.parent(n).is_some_and(|c| is_quiet_call(s, c)),
        _ => false,
    };
    !quiet
        && !matches!(
            s.tree.role(n),
            Name | Literal | Token | Member | MemberName | BinaryOp | UnaryOp | Compare | Paren
        )
        || s.names.at(n).is_some_and(|r| r.usage.writes())
}

/// A call, or the list of its arguments, of a method that most likely only computes.
pub(super) fn is_likely(s: &Source, n: NodeId) -> bool {
    let call = if s.tree.role(n) == Role::Arguments { s.tree.parent(n) } else { Some(n) };
    call.is_some_and(|c| s.likely_quiet(c).is_some())
}

/// One of the other arguments gives a variable of this one another value.
pub fn is_written_by(s: &Source, argument: NodeId, all: &[NodeId]) -> bool {
    let t = &s.tree;
    let target = |n: NodeId| s.names.at(n).and_then(|r| r.target);
    let written: Vec<_> = all.iter().filter(|g| **g != argument).flat_map(|g| t.subtree(*g)).collect();
    let written = written.into_iter().filter(|n| s.names.at(*n).is_some_and(|r| r.usage.writes())).map(target);
    let written: Vec<_> = written.collect();
    t.subtree(argument).any(|n| target(n).is_some() && written.contains(&target(n)))
}
