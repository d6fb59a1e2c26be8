//! Constants that a compiler knows the values of.

use crate::names::Source;
use crate::tree::{NodeId, Role};

/// A place where the compiler takes a constant for more than its type: alone, or with the constants beside it.
pub fn is_looked_at(s: &Source, place: NodeId) -> bool {
    use Role::*;
    let t = &s.tree;
    let mut at = place;
    loop {
        let Some(parent) = t.parent(at) else { return true };
        let beside = t.children(parent).filter(|c| *c != at && !t.contains(*c, place));
        let all = beside.into_iter().all(|c| t.role(c) == Token || s.lang.may_be_constant(s, c));
        match t.role(parent) {
            BinaryOp | UnaryOp | BoolOp if !all => return false,
            // constant texts are one object
            Compare if !all => return t.subtree(parent).any(|n| ["==", "!="].contains(&s.str(n))),
            Paren | BinaryOp | UnaryOp | BoolOp | NotOp | Compare => at = parent,
            role => return matches!(role, Conditional | While | DoWhile | CountedFor | If | Other),
        }
    }
}
