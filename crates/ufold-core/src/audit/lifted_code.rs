//! Classes whose members are their base's: before and after.

use super::file::File;
use crate::names::Source;
use crate::tree::{NodeId, Role, Tree};

/// A class of which members went.
pub(super) struct Emptied<'f> {
    pub f: &'f File,
    pub old: NodeId,
    pub new: NodeId,
    /// Old members that are the base's.
    pub gone: Vec<NodeId>,
    /// The constructor before and, where it is still there, after.
    pub constructor: Option<(NodeId, Option<NodeId>)>,
}

/// The class that has them now.
pub(super) struct Base<'f> {
    pub f: &'f File,
    pub name: String,
    pub old: Option<NodeId>,
    pub new: NodeId,
    pub added: Vec<NodeId>,
}

/// The classes of a file's own level.
pub(super) fn classes(s: &Source) -> Vec<NodeId> {
    let t = &s.tree;
    t.children(Tree::ROOT).map(|n| t.definition_in(n)).filter(|n| t.role(*n) == Role::Class).collect()
}
