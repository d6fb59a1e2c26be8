//! Static members that went to another class: before and after.

use std::sync::Arc;

use super::file::File;
use crate::lang::Reach;
use crate::names::Source;
use crate::tree::{Field, NodeId, Role};

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

/// A declaration can be named from a place: both are in one outermost class, or it is not kept from the other's file.
pub(super) fn sees(h: &Source, declaration: NodeId, s: &Source, place: NodeId) -> bool {
    let outermost = |s: &Source, n: NodeId| {
        std::iter::once(n).chain(s.tree.ancestors(n)).filter(|a| s.tree.role(*a) == Role::Class).last()
    };
    if h.path == s.path && outermost(h, declaration) == outermost(s, place) {
        return true;
    }
    let near = h.package() == s.package();
    let open = |d: NodeId| !h.lang.hides_from_others(h, d) && (near || h.lang.is_open(h, d));
    let around =
        std::iter::once(declaration).chain(h.tree.ancestors(declaration).filter(|a| h.tree.role(*a) == Role::Class));
    around.into_iter().all(open)
}

/// Words that say who may name a declaration.
pub(super) fn reach_words(s: &Source, declaration: NodeId) -> Vec<NodeId> {
    let edits = s.lang.with_reach(s, declaration, Reach::Near).unwrap_or_default();
    let t = &s.tree;
    let token = |c: &NodeId| t.role(*c) == Role::Token && edits.iter().any(|e| e.span.contains(t.span(*c)));
    t.children(declaration).filter(token).collect()
}

/// How many values the call of a word hands on, where it is called.
pub(super) fn given(s: &Source, word: NodeId) -> Option<usize> {
    let t = &s.tree;
    let call = t.ancestors(word).find(|a| t.role(*a) == Role::Call || t.role(*a).is_sequence())?;
    let callee = t.child(call, Field::Callee)?;
    let list = t.child(call, Field::Arguments).filter(|_| t.contains(callee, word) && t.end(callee) == t.end(word))?;
    Some(t.children(list).filter(|c| t.role(*c) != Role::Token).count())
}

/// A function takes that many values, or may.
pub(super) fn takes(s: &Source, function: NodeId, many: Option<usize>) -> bool {
    let Some((many, list)) = many.zip(s.tree.child(function, Field::Parameters)) else { return true };
    s.str(list).contains("...") || s.tree.children(list).filter(|c| s.tree.role(*c) != Role::Token).count() == many
}
