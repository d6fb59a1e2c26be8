//! What types are asked of: one file's code, and how deep the asking goes.

use crate::lang::Definitions;
use crate::names::Source;
use crate::tree::{Field, NodeId, Tree};

/// Deeper chains of inference are given up.
pub(super) const MOST_STEPS: usize = 12;

/// Types of one file's code.
#[derive(Clone, Copy)]
pub struct Types<'a> {
    pub s: &'a Source,
    pub definitions: &'a Definitions<'a>,
    pub depth: usize,
}

/// `new X()`, also of an inner class.
pub fn is_construction(s: &Source, call: NodeId) -> bool {
    let t = &s.tree;
    let callee = t.child(call, Field::Callee);
    let before = callee.map_or("", |c| &s.text[t.span(call).start..t.span(c).start]);
    before.split_whitespace().last() == Some("new") || before.contains("new ")
}

impl<'a> Types<'a> {
    pub fn new(s: &'a Source, definitions: &'a Definitions<'a>) -> Types<'a> {
        Types { s, definitions, depth: 0 }
    }

    pub(super) fn deeper(self) -> Option<Types<'a>> {
        (self.depth < MOST_STEPS).then_some(Types { depth: self.depth + 1, ..self })
    }

    pub(super) fn t(&self) -> &'a Tree {
        &self.s.tree
    }
}
