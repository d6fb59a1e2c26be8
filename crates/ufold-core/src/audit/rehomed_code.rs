//! Static members that went to another class: before and after.

use std::sync::Arc;

use super::file::File;
use crate::names::Source;
use crate::tree::NodeId;

/// A class before and after.
#[derive(Clone, Copy)]
pub(super) struct ClassPair<'f> {
    pub f: &'f File,
    pub old: NodeId,
    pub new: NodeId,
}

/// What the files are, laid over each other.
#[derive(Default)]
pub(super) struct Laid<'f> {
    /// The class that gave members, with them.
    pub from: Option<(ClassPair<'f>, Vec<NodeId>)>,
    /// The class that has them now.
    pub to: Option<(ClassPair<'f>, Vec<NodeId>)>,
    pub words: Vec<Word<'f>>,
    /// Declarations that say otherwise who may name them.
    pub opened: Vec<Word<'f>>,
}

/// An old word and the new one, with what stands before their dots where that is not the same.
#[derive(Clone, Copy)]
pub(super) struct Word<'f> {
    pub o: &'f Arc<Source>,
    pub s: &'f Arc<Source>,
    pub a: NodeId,
    pub b: NodeId,
    pub moved: bool,
    pub objects: (Option<NodeId>, Option<NodeId>),
}

/// What went from where to where.
pub(super) struct Before<'f> {
    pub source: ClassPair<'f>,
    pub gone: Vec<NodeId>,
    pub home: ClassPair<'f>,
    pub added: Vec<NodeId>,
}
