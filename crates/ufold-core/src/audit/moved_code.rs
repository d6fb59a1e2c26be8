//! Code that moved, laid over the code that it was: statements, and the leaves in them.

use std::sync::Arc;

use rustc_hash::{FxHashMap, FxHashSet};

use super::{Opinion, object};
use crate::names::Source;
use crate::tree::{Field, NodeId, Role};

/// An old node and the new one that it became, each in its file.
pub(super) struct Pair<'a> {
    pub old: &'a Arc<Source>,
    pub new: &'a Arc<Source>,
    pub a: NodeId,
    pub b: NodeId,
    /// It went to the other file.
    pub moved: bool,
    /// Old and new nodes that name the file which something is taken from.
    pub files: Arc<[FxHashSet<NodeId>; 2]>,
}

/// A statement that only says what a file has from others, or gives them.
pub(super) fn only_links(s: &Source, n: NodeId) -> bool {
    let t = &s.tree;
    match t.role(n) {
        Role::Import | Role::ImportFrom => true,
        Role::Declare => !s.lang.imports_of(t, n, &s.text).is_empty(),
        // a list of names
        Role::Decorated => {
            let listed = t.subtree(n).any(|x| t.role(x) == Role::ImportAlias);
            t.child(n, Field::Definition).is_none() && listed && !t.subtree(n).any(|x| acts_here(t.role(x)))
        }
        Role::ExprStmt => t.children(n).next().is_some_and(|x| only_links(s, x)),
        Role::Assign => {
            let Some((left, right)) = t.child(n, Field::Left).zip(t.child(n, Field::Right)) else { return false };
            let public = s.lang.public_list().is_some_and(|p| s.str(left) == p);
            let object = t.child(left, Field::Object).map_or("", |o| s.str(o));
            let exports = s.lang.is_exports(s, s.str(left)) || s.lang.is_exports(s, object);
            let plain = t
                .subtree(right)
                .all(|x| matches!(t.role(x), Role::Name | Role::Pair | Role::Dict | Role::MemberName | Role::Token));
            public && t.subtree(right).all(|x| !acts_here(t.role(x))) || exports && plain
        }
        _ => false,
    }
}

fn acts_here(role: Role) -> bool {
    matches!(role, Role::Call | Role::Function | Role::Class | Role::Lambda | Role::Assign | Role::Await)
}

/// A definition without the word that exports it.
pub(super) fn bare(s: &Source, n: NodeId) -> NodeId {
    let t = &s.tree;
    let marked = t.role(n) == Role::Decorated && t.children(n).all(|c| t.role(c) != Role::Decorator);
    t.child(n, Field::Definition).filter(|_| marked).unwrap_or(n)
}

/// What of a statement is compared: imports, the word of an export, and files that are named are left out.
fn compared(s: &Source, n: NodeId, without: &FxHashSet<NodeId>) -> Vec<NodeId> {
    let t = &s.tree;
    let out = |x: NodeId| matches!(t.role(x), Role::Import | Role::ImportFrom) || without.contains(&x);
    let own = |x: &NodeId| !out(*x) && !t.ancestors(*x).any(out);
    t.subtree(bare(s, n)).filter(own).collect()
}

/// The same words in the same order.
pub(super) fn reads_alike(
    (old, a): (&Source, NodeId),
    (new, b): (&Source, NodeId),
    through: &[FxHashSet<NodeId>; 2],
) -> bool {
    let leaves = |s: &Source, n: NodeId, without: &FxHashSet<NodeId>| -> Vec<NodeId> {
        compared(s, n, without).into_iter().filter(|x| s.tree.is_leaf(*x)).collect()
    };
    let (x, y) = (leaves(old, a, &through[0]), leaves(new, b, &through[1]));
    let same = |(p, q): (&NodeId, &NodeId)| {
        old.tree.exact(*p) == new.tree.exact(*q) && old.tree.role(*p) == new.tree.role(*q) && old.str(*p) == new.str(*q)
    };
    x.len() == y.len() && x.iter().zip(&y).all(same)
}

/// Leaves of an old node to those of the new one.
pub(super) fn leaf_map(p: &Pair) -> Opinion<FxHashMap<NodeId, NodeId>> {
    let (x, y) = (compared(p.old, p.a, &p.files[0]), compared(p.new, p.b, &p.files[1]));
    let shape = |s: &Source, all: &[NodeId]| -> Vec<(Role, Field)> {
        all.iter().skip(1).map(|n| (s.tree.role(*n), s.tree.field(*n))).collect()
    };
    if shape(p.old, &x) != shape(p.new, &y) {
        return object(p.old, p.a, "this is put together in another way now");
    }
    Ok(x.into_iter().zip(y).filter(|(a, _)| p.old.tree.is_leaf(*a)).collect())
}
