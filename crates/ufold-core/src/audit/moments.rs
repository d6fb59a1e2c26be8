//! Values and parameters of what was inlined: in which order they are evaluated, and which may be at any time.

use super::file::File;
use crate::audit::first::is_evaluated_first;
use crate::names::{BindingId, Names, Source};
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
        Name => o.names.at(n).and_then(|r| r.target).is_some_and(|b| {
            let b = o.names.binding(b);
            let own = !ever && b.scope != Names::MODULE;
            !b.rebound_inside && (b.writes <= 1 || own)
        }),
        _ => false,
    }
}

/// The variable that a parameter declares.
pub(super) fn parameter(o: &Source, p: NodeId) -> Option<BindingId> {
    let t = &o.tree;
    let name = t.child(p, Field::Name).or_else(|| t.subtree(p).find(|x| t.role(*x) == Role::Name));
    o.names.at(name?)?.target
}
