//! A whole class that stands in a file of its own now: before and after.

use std::sync::Arc;

use crate::change::Change;
use crate::index::Project;
use crate::names::Source;
use crate::tree::{Field, NodeId};

/// A file before and after.
pub(super) struct Pair {
    pub o: Arc<Source>,
    pub s: Arc<Source>,
}

/// An old node and the new one.
#[derive(Clone, Copy)]
pub(super) struct Laid<'f> {
    pub o: &'f Arc<Source>,
    pub a: NodeId,
    pub s: &'f Arc<Source>,
    pub b: NodeId,
}

/// What went where, laid over each other.
pub(super) struct Settled<'f> {
    /// As it is, without the new file.
    pub project: &'f Project<'f>,
    pub with_new: &'f Project<'f>,
    pub change: &'f Change<'f>,
    pub pairs: &'f [Pair],
    pub from: &'f Pair,
    pub to: &'f Pair,
    pub old: NodeId,
    /// Names of the classes around it, from the outermost one.
    pub outer: Vec<String>,
    pub new: NodeId,
    /// The packages, as the files say them.
    pub packages: [Vec<String>; 2],
    pub laid: Vec<Laid<'f>>,
    /// Declarations of the class that say otherwise who may name them, before and after.
    pub opened: Vec<(NodeId, NodeId)>,
    /// The same of what stays in the old file.
    pub opened_there: Vec<(NodeId, NodeId)>,
}

impl Settled<'_> {
    pub fn name(&self) -> &str {
        let o = &self.from.o;
        o.tree.child(self.old, Field::Name).map_or("", |n| o.str(n))
    }

    /// The path of the class, before or after.
    pub fn path(&self, after: bool) -> String {
        let outer: &[String] = if after { &[] } else { &self.outer };
        let words = self.packages[usize::from(after)].iter().chain(outer).map(String::as_str);
        words.chain([self.name()]).collect::<Vec<_>>().join(".")
    }

    pub fn same_path(&self) -> bool {
        self.path(false) == self.path(true)
    }

    pub fn near(&self) -> bool {
        self.packages[0] == self.packages[1]
    }
}
