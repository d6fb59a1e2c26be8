//! Which expressions are kept of a file: calculations and conditions of some weight.

use crate::tree::{Field, NodeId, Role, Tree};

/// Names, members and literals of the smallest expression that is kept.
const FEWEST_ATOMS: usize = 6;

/// Of those how many are names or members.
const FEWEST_NAMES: usize = 3;

/// Nodes of the largest.
const MOST_NODES: u32 = 400;

/// Whether an expression is a calculation or a condition that may be kept.
pub(super) fn is_kept(t: &Tree, id: NodeId) -> bool {
    if !matches!(t.role(id), Role::BinaryOp | Role::BoolOp | Role::Compare | Role::Conditional) {
        return false;
    }
    // of a chain only the whole
    let operator = |n: NodeId| t.child(n, Field::Operator).map(|o| t.exact(o));
    let chained = |p: NodeId| t.role(p) == t.role(id) && operator(p) == operator(id);
    if t.end(id).0 - id.0 > MOST_NODES || t.field(id) == Field::Left && t.parent(id).is_some_and(chained) {
        return false;
    }
    let (mut atoms, mut names) = (0, 0);
    for n in t.subtree(id) {
        match t.role(n) {
            Role::Name | Role::MemberName => (atoms, names) = (atoms + 1, names + 1),
            Role::Literal => atoms += 1,
            Role::Lambda | Role::Function | Role::Await | Role::Yield => return false,
            role if role.assigns() => return false,
            _ => {}
        }
    }
    atoms >= FEWEST_ATOMS && names >= FEWEST_NAMES
}
