//! What a scan keeps of a file once its tree is gone: statements as hashes and ranges, the names and literals in them
//! as numbers, functions, imports. About 60 bytes a statement and 4 a name.

use std::hash::Hasher;

use rustc_hash::FxHasher;
use serde::{Deserialize, Serialize};

use super::classes::{self, ClassFact};
use super::imported::{self, ImportFact};
use super::measures::{Measure, Measures};
use crate::lang::{Following, NameSpaces};
use crate::text::LineIndex;
use crate::tree::{Field, NodeId, Role, Tree, mix};

#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct StatementFact {
    pub shape: u64,
    pub exact: u64,
    /// The same for statements that differ in whole expressions only.
    pub skeleton: u64,
    /// The shape without nested blocks.
    pub header: u64,
    /// Leaves that count, those of nested statements too.
    pub weight: u32,
    pub lines: (u32, u32),
    /// Lines with code.
    pub code_lines: u32,
    pub bytes: (u32, u32),
    /// Range in [`FileFacts::atoms`].
    pub atoms: (u32, u32),
    pub role: StatementRole,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub enum StatementRole {
    Plain,
    /// A function that is a member of a module or class: a copy of its own, never part of a longer one.
    Definition,
    /// It holds functions, which are found by themselves: part of nothing but a series.
    Holder,
    /// Never part of a copy: classes, imports, what could not be parsed.
    Barrier,
}

#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct BlockFact {
    /// Range in [`FileFacts::statements`].
    pub statements: (u32, u32),
    /// Index in [`FileFacts::functions`].
    pub within: Option<u32>,
}

#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct FunctionFact {
    /// With the classes and functions around it, joined by dots.
    pub name: String,
    pub lines: (u32, u32),
    pub bytes: (u32, u32),
    pub measures: Measures,
    pub exact: u64,
}

#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub struct FileFacts {
    pub path: String,
    pub language: String,
    pub lines: u32,
    /// Lines with code.
    pub code_lines: u32,
    pub statements: Vec<StatementFact>,
    pub blocks: Vec<BlockFact>,
    /// Names and literals in preorder, as [`atom`] numbers.
    pub atoms: Vec<u32>,
    pub functions: Vec<FunctionFact>,
    /// Calculations and conditions of some weight.
    #[serde(default)]
    pub expressions: Vec<ExpressionFact>,
    pub imports: Vec<ImportFact>,
    /// Classes of its own level.
    #[serde(default)]
    pub classes: Vec<ClassFact>,
    /// Sorted hashes of all words: names, members, and strings that look like names.
    pub words: Vec<u32>,
    /// Sorted hashes of the names that it gives to functions and members.
    #[serde(default)]
    pub members: Vec<u32>,
    /// Lines that could not be parsed.
    pub broken: Vec<u32>,
    /// The top level only defines.
    pub plain: bool,
    /// How it exports and imports; files of different ways don't mix.
    pub module_system: Option<String>,
    /// Classes that other files of the package see without naming this one.
    #[serde(default)]
    pub shared: Vec<String>,
    #[serde(default)]
    pub spaces: Option<NameSpaces>,
    /// What those who import its names see change.
    #[serde(default)]
    pub following: Following,
    /// The oldest edition of its language that has all that it uses.
    #[serde(default)]
    pub edition: u8,
    /// A program made it small: nothing else is kept of it.
    #[serde(default)]
    pub crowded: bool,
}

/// An expression by its words.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct ExpressionFact {
    pub exact: u64,
    pub bytes: (u32, u32),
    pub lines: (u32, u32),
    /// Names, members and literals.
    pub atoms: u32,
}

impl FileFacts {
    /// Its code may name what files of that language have.
    pub fn is_of_family(&self, lang: &dyn crate::lang::Language) -> bool {
        crate::lang::by_name(&self.language).is_some_and(|l| l.family() == lang.family())
    }

    /// Without what only the search for findings looks at, which is most of it.
    pub fn for_index(&self) -> FileFacts {
        FileFacts {
            path: self.path.clone(),
            language: self.language.clone(),
            lines: self.lines,
            code_lines: self.code_lines,
            statements: Vec::new(),
            blocks: Vec::new(),
            atoms: Vec::new(),
            functions: Vec::new(),
            expressions: Vec::new(),
            imports: self.imports.clone(),
            classes: Vec::new(),
            words: self.words.clone(),
            members: self.members.clone(),
            broken: self.broken.clone(),
            plain: self.plain,
            module_system: self.module_system.clone(),
            shared: self.shared.clone(),
            spaces: self.spaces.clone(),
            following: self.following.clone(),
            edition: self.edition,
            crowded: self.crowded,
        }
    }

    pub fn has_word(&self, word: &str) -> bool {
        self.words.binary_search(&word_hash(word)).is_ok()
    }

    /// It gives that name to a function or to a member of something.
    pub fn gives_member(&self, word: &str) -> bool {
        self.members.binary_search(&word_hash(word)).is_ok()
    }

    /// The name of the smallest function around a range, or of the one that it is.
    pub fn function_around(&self, bytes: (u32, u32)) -> Option<String> {
        let around = |x: &&FunctionFact| {
            (x.bytes.0 <= bytes.0 && bytes.1 <= x.bytes.1) || (bytes.0 <= x.bytes.0 && bytes.1 == x.bytes.1)
        };
        let all = self.functions.iter().filter(around);
        all.min_by_key(|x| x.bytes.1 - x.bytes.0).map(|x| x.name.clone())
    }

    pub fn folder(&self) -> &str {
        self.path.rsplit_once('/').map_or("", |p| p.0)
    }

    /// Whether an import of the file starts from its own place.
    pub fn imports_relative(&self) -> bool {
        self.imports.iter().any(|i| i.import.level > 0)
    }
}

pub fn word_hash(word: &str) -> u32 {
    let mut h = FxHasher::default();
    h.write(word.as_bytes());
    (mix(h.finish()) >> 32) as u32
}

/// Two bits that say what it is, thirty of its hash.
pub mod atom {
    pub const NAME: u32 = 0;
    pub const BOUND: u32 = 1;
    pub const MEMBER: u32 = 2;
    pub const LITERAL: u32 = 3;
    pub fn kind(a: u32) -> u32 {
        a >> 30
    }
    pub fn hash(a: u32) -> u32 {
        a & 0x3fff_ffff
    }
    pub fn new(kind: u32, hash: u64) -> u32 {
        kind << 30 | (hash >> 34) as u32
    }
}

/// A name that a function, a member that is assigned, a field or an entry gets here.
fn names_member(t: &Tree, id: NodeId) -> bool {
    let Some(p) = t.parent(id) else { return false };
    match t.role(p) {
        Role::Function => t.field(id) == Field::Name,
        Role::Member => t.field(id) == Field::Member && t.field(p) == Field::Left,
        Role::Pair => t.children(p).next() == Some(id),
        Role::ClassField => true,
        // `setattr(of, "name", …)`
        Role::Arguments => t.role(id) == Role::Literal && t.children(p).next() != Some(id),
        role => {
            let holder = || t.ancestor(p, &[Role::Function, Role::Lambda, Role::Class]);
            role.assigns() && t.field(id) == Field::Left && holder().is_some_and(|h| t.role(h) == Role::Class)
        }
    }
}

/// Facts of a parsed file. `words` and imports are taken from the same walk.
pub fn facts(path: &str, text: &str, tree: &Tree, lang: &dyn crate::lang::Language) -> FileFacts {
    let lines = LineIndex::new(text);
    let mut f = FileFacts {
        path: path.to_string(),
        language: lang.name().to_string(),
        lines: lines.count(text) as u32,
        ..FileFacts::default()
    };
    let border = |c: &&crate::text::Span| lang.is_no_comment(&text[c.start..c.end]);
    let borders = tree.comments().iter().filter(border).map(|c| c.start).collect();
    let mut c = Collector {
        tree,
        text,
        lines: &lines,
        lang,
        borders,
        weights: Vec::new(),
        atoms: Vec::new(),
        code: Vec::new(),
    };
    c.leaves(&mut f);
    c.structure(&mut f);
    if f.is_crowded() {
        return FileFacts { path: f.path, language: f.language, crowded: true, ..FileFacts::default() };
    }
    f.broken = tree.errors().iter().map(|e| lines.line(e.start) as u32).collect();
    f.plain = tree.children(Tree::ROOT).all(|s| lang.is_plain_top_level(tree, s, text));
    f.module_system = lang.module_system(path, tree, text).map(str::to_string);
    f.edition = lang.edition(tree, text);
    f.imports = imported::imports(tree, text, lang);
    f.following = lang.following(tree, text);
    f.classes = classes::facts(tree, text, &lines);
    f.shared = classes::shared(tree, text, lang);
    f.spaces = lang.name_spaces(tree, text);
    f
}

struct Collector<'a> {
    tree: &'a Tree,
    text: &'a str,
    lines: &'a LineIndex,
    lang: &'a dyn crate::lang::Language,
    /// Per node: leaves that count before it; one more at the end.
    /// Comments that no copy crosses.
    borders: Vec<usize>,
    weights: Vec<u32>,
    /// Per node: atoms before it; one more at the end.
    atoms: Vec<u32>,
    /// Per line (from 0): code lines before it; one more at the end.
    code: Vec<u32>,
}

impl Collector<'_> {
    /// One pass over the nodes: weights, atoms, words, code lines.
    fn leaves(&mut self, f: &mut FileFacts) {
        let t = self.tree;
        let mut weight = 0;
        let (mut doc_until, mut light_until) = (0, 0);
        let mut code = vec![false; f.lines as usize + 2];
        let mut expressions: Vec<NodeId> = Vec::new();
        self.weights.reserve(t.len() + 1);
        self.atoms.reserve(t.len() + 1);
        for id in t.ids() {
            self.weights.push(weight);
            self.atoms.push(f.atoms.len() as u32);
            let role = t.role(id);
            if role == Role::Doc {
                doc_until = t.end(id).0;
            }
            if id.0 < doc_until {
                continue;
            }
            let says_little = || {
                is_trivial(t, id)
                    || is_data(t, id)
                    || imported::only_loads(t, id, self.text, self.lang)
                    || self.names_option(id)
            };
            if id.0 >= light_until && says_little() {
                light_until = t.end(id).0;
            }
            if !t.is_leaf(id) {
                if id.0 >= light_until && super::calculations::is_kept(t, id) {
                    expressions.push(id);
                }
                continue;
            }
            let (from, to) = self.line_range(id);
            code[from as usize..=to as usize].fill(true);
            weight += u32::from(id.0 >= light_until);
            let kind = match role {
                Role::Name if binds(t, id) => atom::BOUND,
                Role::Name => atom::NAME,
                Role::MemberName => atom::MEMBER,
                Role::Literal | Role::TemplateText => atom::LITERAL,
                Role::KeywordName => {
                    f.words.push(word_hash(t.text(id, self.text)));
                    continue;
                }
                _ => continue,
            };
            f.atoms.push(atom::new(kind, t.exact(id)));
            if names_member(t, id) {
                f.members.push(word_hash(t.text(id, self.text).trim_matches(['"', '\''])));
            }
            if kind == atom::LITERAL {
                let text = t.text(id, self.text);
                f.words.extend(self.lang.frame_texts().iter().filter(|w| text.contains(**w)).map(|w| word_hash(w)));
            }
            let word = t.text(id, self.text).trim_matches(['"', '\'']);
            // a string may name something, by itself or with its module
            let names = || word.split('.').all(|p| self.lang.is_identifier(p));
            if word.len() < 100 && (kind != atom::LITERAL || names()) {
                f.words.push(word_hash(word));
            }
        }
        self.weights.push(weight);
        self.atoms.push(f.atoms.len() as u32);
        f.expressions = expressions.into_iter().map(|id| self.expression(id)).collect();
        f.words.sort_unstable();
        f.words.dedup();
        f.members.sort_unstable();
        f.members.dedup();
        let mut n = 0;
        for c in code {
            self.code.push(n);
            n += u32::from(c);
        }
        self.code.push(n);
        f.code_lines = n;
    }

    fn expression(&self, id: NodeId) -> ExpressionFact {
        let (t, span) = (self.tree, self.tree.span(id));
        ExpressionFact {
            exact: t.exact(id),
            bytes: (span.start as u32, span.end as u32),
            lines: self.line_range(id),
            atoms: self.atoms[t.end(id).index()] - self.atoms[id.index()],
        }
    }

    fn line_range(&self, id: NodeId) -> (u32, u32) {
        let s = self.tree.span(id);
        (self.lines.line(s.start) as u32, self.lines.line(s.end.max(s.start + 1) - 1) as u32)
    }

    /// A function that something is given.
    fn is_value(&self, id: NodeId) -> bool {
        let t = self.tree;
        let given = || t.parent(id).is_some_and(|p| t.role(p) == Role::Assign);
        t.role(id) == Role::Lambda || t.role(id) == Role::Function && given()
    }

    fn structure(&self, f: &mut FileFacts) {
        let t = self.tree;
        let mut around: Vec<(NodeId, Option<u32>, String)> = Vec::new();
        let mut functions: Vec<NodeId> = Vec::new();
        for id in t.ids() {
            while around.last().is_some_and(|(end, ..)| id >= *end) {
                around.pop();
            }
            match t.role(id) {
                role @ (Role::Function | Role::Class | Role::Lambda)
                    if role != Role::Lambda || t.holds_statements(id) =>
                {
                    let own = t.name_of_callable(id).map_or("", |n| t.text(n, self.text));
                    let name = match around.last() {
                        Some((_, _, outer)) if own.is_empty() => outer.clone(),
                        Some((_, _, outer)) if !outer.is_empty() => format!("{outer}.{own}"),
                        _ => own.to_string(),
                    };
                    let mut index = around.last().and_then(|a| a.1);
                    if role != Role::Class {
                        index = Some(f.functions.len() as u32);
                        let lines = self.line_range(id);
                        functions.push(id);
                        f.functions.push(FunctionFact {
                            name: name.clone(),
                            lines,
                            bytes: (t.span(id).start as u32, t.span(id).end as u32),
                            measures: Measures::default(),
                            exact: t.exact(id),
                        });
                    }
                    around.push((t.end(id), index, name));
                }
                Role::Module | Role::Block => self.block(id, around.last().and_then(|a| a.1), f),
                _ => {}
            }
        }
        let measured = Measure { tree: t, text: self.text, lang: self.lang }.of(&functions);
        let count = |from: u32, to: u32| self.code[to as usize + 1] - self.code[from as usize];
        // functions around the one at hand
        let mut around: Vec<usize> = Vec::new();
        for (i, m) in measured.into_iter().enumerate() {
            let ((from, to), bytes) = (f.functions[i].lines, f.functions[i].bytes);
            around.retain(|o| bytes.1 <= f.functions[*o].bytes.1);
            if let Some(o) = around.last().filter(|_| from < to) {
                let own = &mut f.functions[*o].measures.own_lines;
                *own = own.saturating_sub(count(from + 1, to));
            }
            let code_lines = count(from, to);
            f.functions[i].measures = Measures { code_lines, own_lines: code_lines, ..m };
            around.push(i);
        }
    }

    /// A row of the table of what a program takes.
    fn names_option(&self, s: NodeId) -> bool {
        let t = self.tree;
        let callee = t.children(s).next().filter(|c| t.role(*c) == Role::Call).and_then(|c| t.child(c, Field::Callee));
        let member = callee.filter(|_| t.role(s) == Role::ExprStmt).and_then(|c| t.child(c, Field::Member));
        member.is_some_and(|m| self.lang.option_members().contains(&t.text(m, self.text)))
    }

    fn block(&self, id: NodeId, within: Option<u32>, f: &mut FileFacts) {
        let t = self.tree;
        let mut first = f.statements.len() as u32;
        let mut last = t.span(id).start;
        let in_class = t.role(id) == Role::Module || t.parent(id).is_some_and(|p| t.role(p) == Role::Class);
        for s in t.children(id) {
            // no copy crosses what is no comment
            let apart = self.borders.iter().any(|b| (last..t.span(s).start).contains(b));
            let here = f.statements.len() as u32;
            if apart && here > first {
                f.blocks.push(BlockFact { statements: (first, here), within });
                first = here;
            }
            last = t.span(s).end;
            let role = match t.role(s) {
                Role::Doc => continue,
                _ if self.lang.shows_value(t, self.text, s) => StatementRole::Barrier,
                // one that only its function sees goes where the function goes
                Role::Class if self.in_function(id) => StatementRole::Plain,
                Role::Class | Role::Import | Role::ImportFrom | Role::Global | Role::Nonlocal | Role::Case => {
                    StatementRole::Barrier
                }
                Role::ClassField | Role::TypeAlias => StatementRole::Barrier,
                // the end of a case
                Role::Break if t.parent(id).is_some_and(|p| t.role(p) == Role::Case) => StatementRole::Barrier,
                // what it holds is found by itself
                Role::ExprStmt | Role::Declare | Role::Return
                    if !self.in_function(id) && t.subtree(s).any(|n| self.is_value(n) && t.holds_statements(n)) =>
                {
                    StatementRole::Holder
                }
                _ if t.has_error(t.span(s)) || imported::only_loads(t, s, self.text, self.lang) => {
                    StatementRole::Barrier
                }
                Role::Function if in_class || self.lang.declares_locals() => StatementRole::Definition,
                Role::Decorated if in_class && t.role(t.definition_in(s)) == Role::Function => {
                    StatementRole::Definition
                }
                Role::Decorated if in_class => StatementRole::Barrier,
                _ => StatementRole::Plain,
            };
            let (a, z) = (s.index(), t.end(s).index());
            let lines = self.line_range(s);
            f.statements.push(StatementFact {
                shape: t.shape(s),
                exact: t.exact(s),
                skeleton: skeleton(t, s),
                header: header(t, s),
                weight: self.weights[z] - self.weights[a],
                lines,
                code_lines: self.code[lines.1 as usize + 1] - self.code[lines.0 as usize],
                bytes: (t.span(s).start as u32, t.span(s).end as u32),
                atoms: (self.atoms[a], self.atoms[z]),
                role,
            });
        }
        let end = f.statements.len() as u32;
        if end > first {
            f.blocks.push(BlockFact { statements: (first, end), within });
        }
    }
}

impl Collector<'_> {
    fn in_function(&self, block: NodeId) -> bool {
        self.tree.callable_around(block).is_some()
    }
}

/// Hash of a statement with the values in it left out: what is done, not with what.
fn skeleton(t: &Tree, id: NodeId) -> u64 {
    let mut h = FxHasher::default();
    h.write_u16(t.kind(id));
    for c in t.children(id) {
        let value = t.role(c).is_expression() && t.field(c) != Field::Left;
        match (t.role(c), value) {
            (Role::Doc, _) => continue,
            // a call for its effect is known by what it calls
            (Role::Call, true) if t.role(id) == Role::ExprStmt => {
                h.write_u64(t.child(c, Field::Callee).map_or(0, |f| t.shape(f)));
            }
            (_, true) => h.write_u8(1),
            (Role::Token, _) | (_, false) if t.is_leaf(c) => h.write_u64(t.shape(c)),
            _ if t.field(c) == Field::Left => h.write_u64(t.shape(c)),
            _ => h.write_u64(skeleton(t, c)),
        }
    }
    mix(h.finish())
}

/// Hash of the shape of a statement without the blocks in it.
fn header(t: &Tree, id: NodeId) -> u64 {
    if t.role(id) != Role::Block && !t.subtree(id).any(|n| t.role(n) == Role::Block) {
        return t.shape(id);
    }
    let mut h = FxHasher::default();
    h.write_u16(t.kind(id));
    t.children(id).filter(|c| t.role(*c) != Role::Block).for_each(|c| h.write_u64(header(t, c)));
    mix(h.finish())
}

/// A declaration that no function would make shorter: `self.x = x`, `a = 1`, `b: int`, `pass`.
fn is_trivial(t: &Tree, id: NodeId) -> bool {
    match t.role(id) {
        Role::Import | Role::ImportFrom | Role::Global | Role::Nonlocal | Role::Pass => true,
        Role::Assign => match t.child(id, Field::Right) {
            None => true,
            Some(r) => {
                matches!(t.role(r), Role::Name | Role::Literal)
                    || is_path(t, r) && t.ancestors(id).take(2).any(|a| t.role(a) == Role::Module)
                    || matches!(t.role(r), Role::List | Role::Dict | Role::Tuple) && t.is_leaf(r)
            }
        },
        Role::ExprStmt => t.children(id).all(|c| t.role(c) == Role::Literal),
        Role::Declare => t.children(id).all(|c| t.role(c) == Role::Token || is_trivial(t, c)),
        _ => false,
    }
}

/// Members of members of a name: at a file's own level another word for what a module has.
fn is_path(t: &Tree, id: NodeId) -> bool {
    match t.role(id) {
        Role::Name => true,
        Role::Member => t.child(id, Field::Object).is_some_and(|o| is_path(t, o)),
        _ => false,
    }
}

/// A display of plain values only.
fn is_data(t: &Tree, id: NodeId) -> bool {
    matches!(t.role(id), Role::List | Role::Dict | Role::Tuple | Role::Set)
        && t.end(id).0 - id.0 > 4
        && t.subtree(id).all(|n| {
            use Role::*;
            matches!(t.role(n), List | Dict | Tuple | Set | Pair | Literal | Concat | UnaryOp | Token | Paren)
        })
}

/// Whether a name is bound where it stands, as far as its surroundings tell.
fn binds(t: &Tree, id: NodeId) -> bool {
    let mut at = id;
    while let Some(p) = t.parent(at) {
        let field = t.field(at);
        match t.role(p) {
            Role::Pattern | Role::Tuple | Role::List | Role::AsTarget | Role::Paren => at = p,
            Role::Default if field == Field::Left => at = p,
            Role::Assign | Role::AugAssign | Role::OrAssign | Role::For | Role::CompFor => return field == Field::Left,
            Role::NamedExpr | Role::Function | Role::Class => return field == Field::Name,
            Role::Parameter => return field == Field::Name || field == Field::None,
            Role::Parameters => return true,
            Role::AsPattern | Role::Except => return field == Field::Alias,
            Role::Case => return true,
            _ => return false,
        }
    }
    false
}
