//! Values and parameters of what was inlined: in which order they are evaluated, and which may be at any time.

use super::file::File;
use crate::audit::first::is_evaluated_first;
use crate::audit::order::Order;
use crate::names::{BindKind, BindingId, Names, Source};
use crate::tree::{Field, NodeId, Role};

/// Arguments are computed in the order in which they were, and once, or are always the same.
pub(super) fn same_moments(f: &File, o: &Source, parameters: &[BindingId], value: NodeId, given: &[NodeId]) -> bool {
    let t = &o.tree;
    let target = |n: NodeId| o.names.at(n).and_then(|r| r.target);
    let is_argument = |n: NodeId| target(n).is_some_and(|b| parameters.contains(&b));
    let mut last = value;
    parameters.len() == given.len()
        && parameters.iter().zip(given).all(|(p, g)| {
            if f.old.tree.subtree(*g).all(|n| is_settled(&f.old, n, false)) && !f.is_rewritten(*g, given) {
                return true;
            }
            let places: Vec<NodeId> = t.subtree(value).filter(|n| target(*n) == Some(*p)).collect();
            let [one] = places[..] else { return false };
            let ordered = std::mem::replace(&mut last, one) <= one;
            ordered && is_evaluated_first(o, value, one, is_argument)
        })
}

/// Gives the same at any time: a literal, or a variable that no one changes in between; `ever`: at all.
pub(super) fn is_settled(o: &Source, n: NodeId, ever: bool) -> bool {
    use Role::*;
    match o.tree.role(n) {
        Literal | Token | Tuple | Concat | Paren | TemplateText | UnaryOp => true,
        Name => {
            o.names.at(n).and_then(|r| r.target).is_some_and(|b| {
                let b = o.names.binding(b);
                let own = !ever && b.scope != Names::MODULE;
                !b.rebound_inside && (b.writes <= 1 || own)
            }) && is_there(o, n)
        }
        _ => false,
    }
}

/// A variable of the function around a place surely has a value there: a statement before it in a block around it gives it
/// one on all its ways, or the loop around it does.
fn is_there(o: &Source, n: NodeId) -> bool {
    let t = &o.tree;
    let Some(b) = o.names.at(n).and_then(|r| r.target) else { return true };
    let binding = o.names.binding(b);
    let own = Some(o.names.scope(o.names.frame_of(b)).node) == t.callable_around(n);
    if binding.kind != BindKind::Variable || !own || o.names.is_member(b) {
        return true;
    }
    if o.lang.declares_locals() {
        return binding.hoisted || binding.first < n;
    }
    let order = Order { source: o, variable: Some(b) };
    let frame = t.callable_around(n);
    t.ancestors(n).take_while(|a| Some(*a) != frame).any(|a| {
        let goes_through = t.role(a).is_loop()
            && t.child(a, Field::Body).is_some_and(|x| t.contains(x, n))
            && t.child(a, Field::Left)
                .is_some_and(|l| t.subtree(l).any(|x| o.names.at(x).and_then(|r| r.target) == Some(b)));
        goes_through || t.role(a).is_sequence() && t.children(a).any(|c| t.end(c) <= n && order.node(c).settles)
    })
}

/// The variable that a parameter declares.
pub(super) fn parameter(o: &Source, p: NodeId) -> Option<BindingId> {
    let t = &o.tree;
    let name = t.child(p, Field::Name).or_else(|| t.subtree(p).find(|x| t.role(*x) == Role::Name));
    o.names.at(name?)?.target
}
