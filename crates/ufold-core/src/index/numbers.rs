//! Numbers that are known to be numbers: written ones, and locals that only ever get and count them.

use crate::names::{BindKind, BindingId, Source, Use};
use crate::tree::{Field, NodeId, Role};

/// Operators on numbers that neither fail nor do anything else.
const PLAIN: &[&str] = &["+", "-", "*", "<", ">", "<=", ">=", "==", "!=", "===", "!==", "++", "--", "+=", "-=", "*="];

/// An operation, of written numbers and of counters, that can do nothing but compute.
pub(crate) fn only_counts(s: &Source, operation: NodeId) -> bool {
    let t = &s.tree;
    let operator = t.children(operation).find(|c| t.role(*c) == Role::Token).map_or("", |o| s.str(o));
    let mut parts = t.children(operation).filter(|c| t.role(*c) != Role::Token);
    PLAIN.contains(&operator) && parts.all(|c| is_number(s, c) || is_counter(s, c))
}

fn is_number(s: &Source, n: NodeId) -> bool {
    s.tree.role(n) == Role::Literal && s.str(n).starts_with(|d: char| d.is_ascii_digit())
}

fn is_counter(s: &Source, name: NodeId) -> bool {
    struct Known(bool);
    let target = s.names.at(name).filter(|_| s.tree.role(name) == Role::Name).and_then(|r| r.target);
    let Some(b) = target else { return false };
    let first = s.names.binding(b).first;
    s.remember((first, Some(first)), || Known(counts(s, b))).0
}

fn counts(s: &Source, b: BindingId) -> bool {
    let (t, binding) = (&s.tree, s.names.binding(b));
    let of_function = t.role(s.names.scope(s.names.frame_of(b)).node).is_callable();
    let given = |n: NodeId| {
        let Some(parent) = t.parent(n).filter(|_| t.field(n) == Field::Left) else { return false };
        let right = t.child(parent, Field::Right);
        match t.role(parent) {
            Role::Assign => right.is_some_and(|r| is_number(s, r)),
            Role::AugAssign => {
                let operator = t.children(parent).find(|c| t.role(*c) == Role::Token).map_or("", |o| s.str(o));
                PLAIN.contains(&operator) && right.is_none_or(|r| is_number(s, r))
            }
            _ => false,
        }
    };
    let mut writes = s.names.references_to(b).filter(|r| r.usage != Use::Read);
    binding.kind == BindKind::Variable && of_function && !binding.rebound_inside && writes.all(|r| given(r.node))
}
