//! One flat syntax tree for all languages.
//!
//! A file is parsed with tree-sitter and lowered at once to preorder arrays; the parser's tree is dropped. A subtree is
//! the index range `id..end(id)`, so walking is a loop and comparing is comparing slices. Comments and pure punctuation
//! are not nodes; comments are kept aside with their ranges. Each node carries two hashes of its subtree: `exact` (kinds
//! and texts) and `shape` (the same without names and literals).
//!
//! Fails where the grammar does: an unparsable stretch becomes a node of role [`Role::Error`], and whoever edits or
//! compares must stay away from it ([`Tree::has_error`]).

mod lower;
mod role;

pub(crate) use lower::mix;
pub use lower::{ParseError, STACK, parse};
pub use role::{Field, Gathered, Grammar, Role, Standing};

use crate::text::Span;

/// Index of a node in its tree.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct NodeId(pub u32);

impl NodeId {
    pub fn index(self) -> usize {
        self.0 as usize
    }
}

#[derive(Clone, Debug)]
pub(crate) struct Node {
    pub role: Role,
    pub field: Field,
    /// The grammar's own number of the node's kind.
    pub kind: u16,
    pub parent: u32,
    /// One past the last node of the subtree.
    pub end: u32,
    pub start_byte: u32,
    pub end_byte: u32,
    pub exact: u64,
    pub shape: u64,
}

#[derive(Clone, Debug, Default)]
pub struct Tree {
    pub(crate) nodes: Vec<Node>,
    pub(crate) comments: Vec<Span>,
    pub(crate) errors: Vec<Span>,
    /// Some node is a jump to a place that is told by its name.
    pub(crate) has_jumps: bool,
    /// Jumps that say how many loops they leave, or mean as many, where a `switch` counts as a loop.
    pub(crate) levels: rustc_hash::FxHashMap<NodeId, Levels>,
}

/// How far a jump goes.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Levels {
    pub count: usize,
    /// With the next round of the last of them.
    pub goes_on: bool,
}

impl Tree {
    pub const ROOT: NodeId = NodeId(0);

    pub fn len(&self) -> usize {
        self.nodes.len()
    }
    pub fn is_empty(&self) -> bool {
        self.nodes.is_empty()
    }
    pub fn ids(&self) -> impl Iterator<Item = NodeId> + use<> {
        (0..self.nodes.len() as u32).map(NodeId)
    }
    pub fn role(&self, id: NodeId) -> Role {
        self.nodes[id.index()].role
    }
    pub fn field(&self, id: NodeId) -> Field {
        self.nodes[id.index()].field
    }
    pub fn kind(&self, id: NodeId) -> u16 {
        self.nodes[id.index()].kind
    }
    pub fn exact(&self, id: NodeId) -> u64 {
        self.nodes[id.index()].exact
    }
    pub fn shape(&self, id: NodeId) -> u64 {
        self.nodes[id.index()].shape
    }
    pub fn span(&self, id: NodeId) -> Span {
        let n = &self.nodes[id.index()];
        Span::new(n.start_byte as usize, n.end_byte as usize)
    }
    pub fn text<'t>(&self, id: NodeId, text: &'t str) -> &'t str {
        let s = self.span(id);
        &text[s.start..s.end]
    }
    /// One past the last node of the subtree.
    pub fn end(&self, id: NodeId) -> NodeId {
        NodeId(self.nodes[id.index()].end)
    }
    pub fn parent(&self, id: NodeId) -> Option<NodeId> {
        (id.0 != 0).then(|| NodeId(self.nodes[id.index()].parent))
    }
    pub fn is_leaf(&self, id: NodeId) -> bool {
        self.nodes[id.index()].end == id.0 + 1
    }
    /// The node and all its descendants, in preorder.
    pub fn subtree(&self, id: NodeId) -> impl Iterator<Item = NodeId> + use<> {
        (id.0..self.nodes[id.index()].end).map(NodeId)
    }
    pub fn children(&self, id: NodeId) -> Children<'_> {
        Children { tree: self, next: id.0 + 1, end: self.nodes[id.index()].end }
    }
    /// The parent, its parent, and so on up to the root.
    pub fn ancestors(&self, id: NodeId) -> impl Iterator<Item = NodeId> + '_ {
        std::iter::successors(self.parent(id), |n| self.parent(*n))
    }
    pub fn child(&self, id: NodeId, field: Field) -> Option<NodeId> {
        self.children(id).find(|c| self.field(*c) == field)
    }
    pub fn child_of_role(&self, id: NodeId, role: Role) -> Option<NodeId> {
        self.children(id).find(|c| self.role(*c) == role)
    }
    pub fn contains(&self, outer: NodeId, inner: NodeId) -> bool {
        outer <= inner && inner < self.end(outer)
    }
    /// Nearest ancestor of one of the roles.
    /// Those of some nodes that stand in no other of them.
    pub fn outermost(&self, mut nodes: Vec<NodeId>) -> Vec<NodeId> {
        nodes.sort_unstable();
        let mut out: Vec<NodeId> = Vec::new();
        for n in nodes {
            if out.last().is_none_or(|o| !self.contains(*o, n)) {
                out.push(n);
            }
        }
        out
    }

    /// No class and no function is around a node.
    pub fn is_outermost(&self, id: NodeId) -> bool {
        self.ancestor(id, &[Role::Class, Role::Function]).is_none()
    }

    pub fn ancestor(&self, id: NodeId, roles: &[Role]) -> Option<NodeId> {
        self.ancestors(id).find(|a| roles.contains(&self.role(*a)))
    }
    /// Condition, value if it holds, value if not.
    pub fn conditional_parts(&self, id: NodeId) -> Option<[NodeId; 3]> {
        if let Some(condition) = self.child(id, Field::Condition) {
            return Some([condition, self.child(id, Field::Body)?, self.child(id, Field::Alternative)?]);
        }
        let parts: Vec<NodeId> = self.children(id).filter(|c| self.role(*c) != Role::Token).collect();
        let [value, condition, other] = parts[..] else { return None };
        Some([condition, value, other])
    }
    /// The word by which people know a function: its own name, or that of what it is given to.
    pub fn name_of_callable(&self, id: NodeId) -> Option<NodeId> {
        if let Some(own) = self.child(id, Field::Name) {
            return Some(own);
        }
        let parent = self.parent(id)?;
        let target = match self.role(parent) {
            Role::Assign => self.child(parent, Field::Left)?,
            Role::Pair => self.child(parent, Field::Key)?,
            Role::ClassField => self.child(parent, Field::Name).or_else(|| self.child(parent, Field::Member))?,
            _ => return None,
        };
        let last = self.child(target, Field::Member).unwrap_or(target);
        matches!(self.role(last), Role::Name | Role::MemberName).then_some(last)
    }
    /// A function, or a lambda whose body is statements.
    pub fn holds_statements(&self, id: NodeId) -> bool {
        let block = || self.child(id, Field::Body).is_some_and(|b| self.role(b) == Role::Block);
        self.role(id) == Role::Function || self.role(id) == Role::Lambda && block()
    }
    /// Nearest function or lambda around a node.
    pub fn callable_around(&self, id: NodeId) -> Option<NodeId> {
        self.ancestors(id).find(|a| self.role(*a).is_callable())
    }
    /// The function in whose body a node stands: it runs when that is called. Default values run where they stand.
    pub fn body_around(&self, id: NodeId) -> Option<NodeId> {
        let within = |f: &NodeId| self.child(*f, Field::Body).is_some_and(|b| self.contains(b, id));
        self.ancestors(id).find(|f| self.role(*f).is_callable() && within(f))
    }
    /// What a wrapper such as an export or a decorated definition defines; the node itself when it is no wrapper.
    pub fn definition_in(&self, id: NodeId) -> NodeId {
        self.child(id, Field::Definition).unwrap_or(id)
    }
    pub fn comments(&self) -> &[Span] {
        &self.comments
    }
    pub fn errors(&self) -> &[Span] {
        &self.errors
    }
    pub fn has_error(&self, span: Span) -> bool {
        self.errors.iter().any(|e| e.start < span.end.max(span.start + 1) && span.start <= e.end)
    }
    /// The smallest node that covers the span.
    pub fn covering(&self, span: Span) -> NodeId {
        let mut at = Self::ROOT;
        while let Some(c) = self.children(at).find(|c| self.span(*c).contains(span)) {
            at = c;
        }
        at
    }
}

pub struct Children<'t> {
    tree: &'t Tree,
    next: u32,
    end: u32,
}

impl Iterator for Children<'_> {
    type Item = NodeId;
    fn next(&mut self) -> Option<NodeId> {
        if self.next >= self.end {
            return None;
        }
        let id = NodeId(self.next);
        self.next = self.tree.nodes[id.index()].end;
        Some(id)
    }
}
