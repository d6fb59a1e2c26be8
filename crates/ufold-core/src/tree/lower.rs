//! Parsing with tree-sitter and lowering to the flat tree, in one pass over the parser's tree.

use std::hash::Hasher;

use rustc_hash::FxHasher;
use tree_sitter::TreeCursor;

use super::{Field, Gathered, Grammar, Levels, Node, Role, Standing, Tree};
use crate::lang::Language;
use crate::text::Span;

#[derive(Debug, thiserror::Error)]
pub enum ParseError {
    #[error("the parser gave up")]
    Parser,
    #[error("over 4 GiB of text")]
    TooLarge,
    #[error("nested more than {0} levels deep")]
    TooDeep(usize),
}

/// Deeper code is written by programs, not people; engines that recurse rely on this bound, and on threads with [`STACK`].
const MAX_DEPTH: usize = 5000;

/// Bytes of stack that a thread needs for the deepest code; only what is used takes memory.
pub const STACK: usize = 1 << 30;

/// Parses a text. Never fails on bad code, only on what no parser could take; see [`Tree::errors`].
pub fn parse(text: &str, lang: &dyn Language) -> Result<Tree, ParseError> {
    if u32::try_from(text.len()).is_err() {
        return Err(ParseError::TooLarge);
    }
    let grammar = lang.grammar();
    let mut parser = tree_sitter::Parser::new();
    parser.set_language(&grammar.language).map_err(|_| ParseError::Parser)?;
    let mut parsed = parser.parse(&*lang.parsed(text), None).ok_or(ParseError::Parser)?;
    let mut tree = Tree::default();
    if parsed.root_node().has_error()
        && let Some((reduced, unread)) = lang.reduced(text)
    {
        let again = parser.parse(&reduced, None).ok_or(ParseError::Parser)?;
        // what is no code either way is read as it stands
        if !again.root_node().has_error() {
            (parsed, tree.errors) = (again, unread);
        }
    }
    let mut lowering = Lowering { text, grammar, lang, tree, depth: 0, group: None };
    lowering.tree.nodes.reserve(text.len() / 4);
    let mut cursor = parsed.walk();
    let root = Standing { node: cursor.node(), around: None, before: None };
    lowering.node(&mut cursor, 0, Role::Other, &root)?;
    Ok(lowering.tree)
}

struct Lowering<'a> {
    text: &'a str,
    grammar: &'a Grammar,
    lang: &'a dyn Language,
    tree: Tree,
    depth: usize,
    /// The node that was put around the children at hand, and what it gathers.
    group: Option<(u32, Gathered)>,
}

impl Lowering<'_> {
    fn node<'t>(
        &mut self,
        cursor: &mut TreeCursor<'t>,
        parent: u32,
        parent_role: Role,
        at: &Standing<'t>,
    ) -> Result<(), ParseError> {
        let n = at.node;
        let (kind, start, end) = (n.kind_id(), n.start_byte(), n.end_byte());
        let unknown = self.grammar.role(kind) == Some(Role::Other);
        if n.is_extra() && !n.is_error() && self.grammar.is_named(kind) && unknown {
            if self.lang.is_comment(n.kind()) {
                self.tree.comments.push(Span::new(start, end));
            }
            return Ok(());
        }
        let missing = n.is_missing();
        let Some(mut role) = self.grammar.role(kind) else {
            if missing {
                self.tree.errors.push(Span::new(start, end));
            }
            return Ok(());
        };
        if n.is_error() || missing {
            role = Role::Error;
            self.tree.errors.push(Span::new(start, end));
        }
        let mut field = self.grammar.field(cursor.field_id());
        if let Some((_, g)) = self.group.filter(|(id, _)| *id == parent) {
            field = g.inside.unwrap_or(field);
        }
        if self.grammar.is_transparent(kind, parent_role) || self.grammar.is_list_of_one(&n) {
            if cursor.goto_first_child() {
                self.children(cursor, parent, parent_role, n)?;
                cursor.goto_parent();
            }
            return Ok(());
        }
        if let Some(s) = self.grammar.shorthand(kind) {
            self.shorthand(s, field, parent, Span::new(start, end));
            return Ok(());
        }
        if let Some(member) = self.grammar.path(kind, parent_role).filter(|_| n.named_child_count() > 1) {
            self.path(&n, member, field, parent);
            return Ok(());
        }
        let first = self.tree.nodes.len() as u32 == parent + 1;
        let (refined, field) = self.lang.refine(role, field, parent_role, first, at);
        let said = std::mem::replace(&mut role, refined);
        if role == Role::Error && said != Role::Error {
            self.tree.errors.push(Span::new(start, end));
        }
        self.depth += 1;
        if self.depth > MAX_DEPTH {
            return Err(ParseError::TooDeep(MAX_DEPTH));
        }
        let id = self.push(role, field, kind, parent, Span::new(start, end));
        if self.grammar.counts_loops() && (said == Role::Continue || said == Role::Break && role == Role::Jump) {
            let count = n.named_child(0).and_then(|c| self.text[c.byte_range()].parse().ok());
            let levels = Levels { count: count.unwrap_or(1), goes_on: said == Role::Continue };
            self.tree.levels.insert(super::NodeId(id), levels);
        }
        use Role::*;
        // a node around a word is that word
        let word = matches!(role, Token | AsyncMark) && n.named_child_count() == 0;
        let solid = word || matches!(role, Literal | TemplateText | Fresh | Name | MemberName);
        let has_children = cursor.goto_first_child();
        if has_children {
            if !solid {
                self.children(cursor, id, role, n)?;
            }
            cursor.goto_parent();
        }
        self.depth -= 1;
        self.finish(id, solid || !has_children);
        Ok(())
    }

    fn children<'t>(
        &mut self,
        cursor: &mut TreeCursor<'t>,
        parent: u32,
        role: Role,
        of: tree_sitter::Node<'t>,
    ) -> Result<(), ParseError> {
        let around = self.group.take();
        let (mut before, mut last) = (None, None);
        loop {
            let n = cursor.node();
            if self.grammar.is_terminator(n.kind_id()) {
                if let Some(id) = last {
                    self.tree.nodes[id as usize].end_byte = n.end_byte() as u32;
                }
                if !cursor.goto_next_sibling() {
                    break;
                }
                continue;
            }
            let own = self.tree.nodes.len();
            let at = Standing { node: n, around: Some(of), before };
            before = Some(n);
            let wanted = self.grammar.gathered(role, self.grammar.field(cursor.field_id()), &at);
            if !n.is_extra() && (self.group.map(|(_, g)| g) != wanted || wanted.is_some_and(|g| g.alone)) {
                if let Some((id, _)) = self.group.take() {
                    self.finish(id, false);
                }
                let span = Span::new(n.start_byte(), n.end_byte());
                self.group = wanted.map(|g| (self.push(g.role, g.field, g.kind, parent, span), g));
            }
            match self.group {
                Some((id, g)) => {
                    self.node(cursor, id, g.role, &at)?;
                    if !n.is_extra() {
                        self.tree.nodes[id as usize].end_byte = n.end_byte() as u32;
                    }
                }
                None => self.node(cursor, parent, role, &at)?,
            }
            last = if self.tree.nodes.len() > own { Some(own as u32) } else { last };
            if !cursor.goto_next_sibling() {
                break;
            }
        }
        if let Some((id, _)) = std::mem::replace(&mut self.group, around) {
            self.finish(id, false);
        }
        Ok(())
    }

    fn push(&mut self, role: Role, field: Field, kind: u16, parent: u32, span: Span) -> u32 {
        let id = self.tree.nodes.len() as u32;
        let (start_byte, end_byte) = (span.start as u32, span.end as u32);
        self.tree.has_jumps |= role == Role::Jump;
        self.tree.nodes.push(Node { role, field, kind, parent, end: id + 1, start_byte, end_byte, exact: 0, shape: 0 });
        id
    }

    /// The long form of a word that is a key and a value at once.
    fn shorthand(&mut self, s: super::role::Shorthand, field: Field, parent: u32, span: Span) {
        let role = self.grammar.role(s.pair).unwrap_or(Role::Pair);
        let pair = self.push(role, field, s.pair, parent, span);
        for (role, field, kind) in [(Role::MemberName, Field::Key, s.key), (Role::Name, Field::Value, s.value)] {
            let leaf = self.push(role, field, kind, pair, span);
            self.finish(leaf, true);
        }
        self.finish(pair, false);
    }

    /// Members of members for words with dots between them.
    fn path(&mut self, n: &tree_sitter::Node, kind: u16, mut field: Field, mut parent: u32) {
        let words: Vec<(u16, Span)> = (0..n.named_child_count() as u32)
            .filter_map(|i| n.named_child(i as _).filter(|w| !w.is_extra()))
            .map(|w| (w.kind_id(), Span::new(w.start_byte(), w.end_byte())))
            .collect();
        let mut members = Vec::new();
        for (_, last) in words[1..].iter().rev() {
            parent = self.push(Role::Member, field, kind, parent, Span::new(n.start_byte(), last.end));
            members.push(parent);
            field = Field::Object;
        }
        let first = self.push(Role::Name, Field::Object, words[0].0, parent, words[0].1);
        self.finish(first, true);
        for (member, (kind, span)) in members.iter().rev().zip(&words[1..]) {
            let word = self.push(Role::MemberName, Field::Member, *kind, *member, *span);
            self.finish(word, true);
            self.finish(*member, false);
        }
    }

    /// Sets the subtree's end and hashes once all its nodes are there.
    fn finish(&mut self, id: u32, texted: bool) {
        let end = self.tree.nodes.len() as u32;
        let (mut exact, mut shape) = (FxHasher::default(), FxHasher::default());
        let node = &self.tree.nodes[id as usize];
        exact.write_u16(node.kind);
        let mut child = id + 1;
        if child == end {
            if texted {
                exact.write(&self.text.as_bytes()[node.start_byte as usize..node.end_byte as usize]);
            }
            shape.write_u64(match node.role {
                Role::Name => 1,
                Role::MemberName => 2,
                Role::Literal => 3,
                Role::TemplateText => 4,
                _ => exact.finish(),
            });
        } else {
            shape.write_u16(node.kind);
        }
        while child < end {
            let c = &self.tree.nodes[child as usize];
            if c.role != Role::Doc {
                exact.write_u8(c.field as u8);
                exact.write_u64(c.exact);
                shape.write_u8(c.field as u8);
                shape.write_u64(c.shape);
            }
            child = c.end;
        }
        let (exact, shape) = (mix(exact.finish()), mix(shape.finish()));
        let node = &mut self.tree.nodes[id as usize];
        (node.end, node.exact, node.shape) = (end, exact, shape);
    }
}

/// Spreads the bits: the hasher above is fast but leaves its low bits weak.
pub(crate) fn mix(h: u64) -> u64 {
    let h = (h ^ (h >> 32)).wrapping_mul(0xd6e8_feb8_6659_fd93);
    h ^ (h >> 32)
}
