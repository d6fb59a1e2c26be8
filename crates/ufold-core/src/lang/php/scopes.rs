//! PHP's scoping: a variable belongs to the function in which it stands, whole, and no function sees one of another but
//! what `use`, `fn` and `global` bring; functions and classes are names of the file.
//!
//! What a closure takes by `use`, or `fn` by itself, is read here as the variable around it, though it is a copy. A
//! variable that a reference stands for (`&$x`, `static $x`) is one that others may write at any time. What is written
//! through an index is written in the variable: arrays are values. Fails (tells nothing) where names are made by texts
//! (`$$x`, `extract`), and for parameters taken by reference in functions of other files.

use rustc_hash::{FxHashMap, FxHashSet};

use super::library::{self, Passing};
use super::places::{by_ref, by_reference, called_as, passing_in};
use crate::names::{BindKind, Builder, ImportRef, Names, ScopeId, ScopeKind, Space, Use};
use crate::tree::{Field, NodeId, Role, Tree};

pub fn names(tree: &Tree, text: &str) -> Names {
    let module = Frame { scope: Names::MODULE, takes: Takes::Nothing };
    let mut w = Walk {
        b: Builder::new(tree),
        tree,
        text,
        frames: vec![module],
        declared: FxHashMap::default(),
        spaces: Vec::new(),
        passing: Vec::new(),
    };
    if !tree.is_empty() {
        w.passing = by_reference(tree, text);
        let says = |n: NodeId| tree.child(n, Field::Name).filter(|c| tree.role(*c) == Role::DottedName);
        let all = tree.children(Tree::ROOT).filter(|n| tree.text(*n, text).starts_with("namespace"));
        w.spaces = all.map(|n| says(n).map_or("", |c| tree.text(c, text))).collect();
        let named = tree.ids().filter(|n| tree.role(*n).is_definition()).filter_map(|n| tree.child(n, Field::Name));
        w.declared = named.map(|n| tree.text(n, text)).map(|name| (name.to_ascii_lowercase(), name)).collect();
        w.frame_words(Tree::ROOT, Names::MODULE);
        w.visit_all(tree.children(Tree::ROOT));
    }
    w.b.finish()
}

/// What a function takes of the variables around it.
enum Takes {
    Nothing,
    /// `use ($x)`
    Some(FxHashSet<String>),
    /// `fn`
    All,
}

struct Frame {
    scope: ScopeId,
    takes: Takes,
}

struct Walk<'a> {
    b: Builder<'a>,
    tree: &'a Tree,
    text: &'a str,
    frames: Vec<Frame>,
    /// The file's functions and classes, as they are written, by their names in lower case: letters are all one there.
    declared: FxHashMap<String, &'a str>,
    /// The name spaces that it says it is in.
    spaces: Vec<&'a str>,
    /// The file's functions that take something by reference.
    passing: Vec<(String, Vec<Passing>)>,
}

/// Words by which a function tells its own name or place.
const FRAME_WORDS: [&str; 3] = ["__FUNCTION__", "__METHOD__", "__LINE__"];

impl<'a> Walk<'a> {
    fn str(&self, id: NodeId) -> &'a str {
        self.tree.text(id, self.text)
    }

    fn children(&self, id: NodeId) -> Vec<NodeId> {
        self.tree.children(id).collect()
    }

    fn visit_all(&mut self, ids: impl IntoIterator<Item = NodeId>) {
        for c in ids {
            self.visit(c);
        }
    }

    fn scope(&self) -> ScopeId {
        self.frames.last().expect("the module's is there").scope
    }

    fn frame_words(&mut self, node: NodeId, scope: ScopeId) {
        for w in FRAME_WORDS {
            self.b.implicit(node, w, scope);
        }
    }

    /// The scope whose variable a name is, where it is not one of all files.
    fn home(&self, name: &str) -> Option<ScopeId> {
        if name == "$this" || library::SUPERGLOBALS.contains(&name) {
            return None;
        }
        let own = |f: &&Frame| match &f.takes {
            Takes::Nothing => true,
            Takes::Some(taken) => !taken.contains(name),
            Takes::All => self.b.names().declared_in(f.scope, name).is_some(),
        };
        self.frames.iter().rev().find(own).map(|f| f.scope)
    }

    /// A use of a variable, which its function has from then on.
    fn variable(&mut self, id: NodeId, usage: Use) {
        let name = self.str(id);
        if let Some(home) = self.home(name) {
            self.b.declare(id, name, home, BindKind::Variable, None);
        }
        self.b.refer(id, name, self.scope(), usage);
    }

    /// Another name, or a place, stands for the variable from now on.
    fn shared(&mut self, id: NodeId, usage: Use) {
        let t = self.tree;
        match t.role(id) {
            Role::Name if self.is_variable(id) => {
                let name = self.str(id);
                if let Some(home) = self.home(name) {
                    self.b.declare(id, name, home, BindKind::Variable, None);
                    self.b.share(home, name);
                }
                self.b.refer(id, name, self.scope(), usage);
            }
            Role::Index => self.through_index(id, true),
            _ => self.visit(id),
        }
    }

    /// What is written through an index is written in what holds it.
    fn through_index(&mut self, id: NodeId, shares: bool) {
        let t = self.tree;
        for c in self.children(id) {
            let holder = t.field(c) == Field::Object;
            match t.role(c) {
                Role::Name if holder && shares => self.shared(c, Use::Update),
                Role::Name if holder && self.is_variable(c) => self.variable(c, Use::Update),
                Role::Index if holder => self.through_index(c, shares),
                _ => self.visit(c),
            }
        }
    }

    fn is_variable(&self, id: NodeId) -> bool {
        self.str(id).starts_with('$')
    }

    fn visit(&mut self, id: NodeId) {
        let t = self.tree;
        match t.role(id) {
            Role::Name => self.name(id),
            Role::Function => self.function(id),
            Role::Lambda => self.lambda(id),
            Role::Class => self.class(id),
            Role::Assign => self.assign(id),
            Role::AugAssign | Role::OrAssign => {
                for c in self.children(id) {
                    if t.field(c) == Field::Left { self.target(c, Use::Update) } else { self.visit(c) }
                }
            }
            Role::For => {
                for c in self.children(id) {
                    if t.field(c) == Field::Left { self.target(c, Use::Write) } else { self.source(id, c) }
                }
            }
            Role::Except => {
                for c in self.children(id) {
                    if t.field(c) == Field::Left { self.target(c, Use::Write) } else { self.visit(c) }
                }
            }
            Role::Delete => {
                for c in self.children(id) {
                    self.target(c, Use::Delete);
                }
            }
            Role::Call => self.call(id),
            Role::Global => {}
            Role::ImportFrom => self.import(id),
            Role::Other if by_ref(t, id, self.text) => {
                for c in self.children(id) {
                    self.shared(c, Use::Update);
                }
            }
            Role::FrameName => self.kept(id),
            Role::Token | Role::MemberName | Role::KeywordName | Role::Label | Role::Error | Role::Doc => {}
            _ => self.visit_all(self.children(id)),
        }
    }

    /// `static $n = 0;`, or text around the code.
    fn kept(&mut self, id: NodeId) {
        let t = self.tree;
        let is_static = self.str(id).starts_with("static");
        for c in self.children(id) {
            let name = t.child(c, Field::Name).filter(|_| is_static);
            match name {
                Some(n) => {
                    self.shared(n, Use::Write);
                    self.visit_all(t.child(c, Field::Value));
                }
                None => self.visit(c),
            }
        }
    }

    /// A bare word is a function, a class or a constant by its place.
    fn name(&mut self, id: NodeId) {
        let t = self.tree;
        let word = self.str(id);
        if word.starts_with('$') {
            return self.variable(id, Use::Read);
        }
        let parent = t.parent(id).unwrap_or(Tree::ROOT);
        let of_class = match t.role(parent) {
            Role::Type | Role::Other | Role::Decorator => true,
            Role::Member => t.field(id) == Field::Object,
            Role::Call => t.field(id) == Field::Callee && self.str(parent).starts_with("new"),
            Role::Compare => t.field(id) == Field::Right,
            _ => false,
        };
        let (word, usage) = self.at_end_of_path(word);
        let word = match t.field(id) == Field::Callee || of_class {
            true => self.declared.get(&word.to_ascii_lowercase()).copied().unwrap_or(word),
            false => word,
        };
        let spaces: &[Space] = if of_class { &[Space::Types] } else { &[Space::Values] };
        self.b.refer_to(id, word, self.scope(), usage, spaces);
    }

    /// What the file declares and a path leads to. Of a file with several name spaces it may be another one: as good as one
    /// that is given another meaning here.
    fn at_end_of_path(&self, word: &'a str) -> (&'a str, Use) {
        let Some((before, last)) = word.rsplit_once('\\') else { return (word, Use::Read) };
        if !self.declared.contains_key(&last.to_ascii_lowercase()) {
            return (word, Use::Read);
        }
        let own = |space: &str| before.strip_prefix('\\').unwrap_or(before).eq_ignore_ascii_case(space);
        match &self.spaces[..] {
            _ if before.eq_ignore_ascii_case("namespace") => (last, Use::Read),
            [] if before.is_empty() => (last, Use::Read),
            [one] if own(one) && before.starts_with('\\') => (last, Use::Read),
            [] | [_] => (word, Use::Read),
            _ => (last, Use::Write),
        }
    }

    fn assign(&mut self, id: NodeId) {
        let t = self.tree;
        // `$a = &$b`
        let refers = t.children(id).any(|c| t.role(c) == Role::Token && self.str(c) == "&");
        for c in self.children(id) {
            match t.field(c) {
                Field::Left if refers => self.shared(c, Use::Write),
                Field::Right if refers => self.shared(c, Use::Update),
                Field::Left => self.target(c, Use::Write),
                _ => self.visit(c),
            }
        }
    }

    /// What a loop goes through is written by one that has its elements by reference.
    fn source(&mut self, of: NodeId, id: NodeId) {
        let t = self.tree;
        let left = t.child(of, Field::Left);
        let refers = left.is_some_and(|l| t.subtree(l).any(|n| by_ref(t, n, self.text)));
        if refers && t.field(id) == Field::Right { self.shared(id, Use::Update) } else { self.visit(id) }
    }

    fn target(&mut self, id: NodeId, usage: Use) {
        let t = self.tree;
        match t.role(id) {
            Role::Name if self.is_variable(id) => self.variable(id, usage),
            Role::Pattern => {
                let is_list = self.str(id).starts_with(['[', 'l']);
                for c in self.children(id) {
                    let is_key = is_list && t.children(id).any(|mark| self.is_arrow(mark, c));
                    if is_key { self.visit(c) } else { self.target(c, usage) }
                }
            }
            Role::Other if by_ref(t, id, self.text) => {
                for c in self.children(id) {
                    self.shared(c, usage);
                }
            }
            Role::Index => self.through_index(id, false),
            _ => self.visit(id),
        }
    }

    /// `=>` right behind a key
    fn is_arrow(&self, mark: NodeId, key: NodeId) -> bool {
        let t = self.tree;
        t.role(mark) == Role::Token && self.str(mark) == "=>" && t.end(key) == mark
    }

    fn call(&mut self, id: NodeId) {
        let t = self.tree;
        let passing = passing_in(&self.passing, &called_as(t, id, self.text));
        for c in self.children(id) {
            if t.field(c) != Field::Arguments || passing.is_empty() {
                self.visit(c);
                continue;
            }
            for (i, a) in self.children(c).into_iter().enumerate() {
                match passing.iter().find(|p| p.takes(i)).map(|p| p.how) {
                    Some(b'~') => self.shared(a, Use::Update),
                    Some(b'=') => self.target(a, Use::Write),
                    Some(_) => self.target(a, Use::Update),
                    None => self.visit(a),
                }
            }
        }
    }

    /// A `global` anywhere in a function is looked for before the uses.
    fn globals_first(&mut self, body: NodeId, scope: ScopeId) {
        let t = self.tree;
        let (mut at, end) = (body, t.end(body));
        while at < end {
            if t.role(at).is_callable() || t.role(at) == Role::Class {
                at = t.end(at);
                continue;
            }
            if t.role(at) == Role::Global {
                for c in self.children(at) {
                    self.b.redirect(scope, self.str(c), true);
                }
            }
            at = NodeId(at.0 + 1);
        }
    }

    fn function(&mut self, id: NodeId) {
        let t = self.tree;
        let class = self.b.names().scope(self.scope()).kind == ScopeKind::Class;
        if let Some(n) = t.child(id, Field::Name).filter(|n| t.role(*n) == Role::Name) {
            let home = if class { self.scope() } else { Names::MODULE };
            self.b.bind(n, self.str(n), home, BindKind::Function, None);
            let around = |a: NodeId| matches!(t.role(a), Role::Module | Role::Block | Role::Other);
            if class || t.ancestors(id).all(around) {
                self.b.hoist(home, self.str(n));
            }
        }
        let around = if class { self.scope() } else { Names::MODULE };
        let inner = self.b.open(id, ScopeKind::Function, Some(around));
        let is_static = t.children(id).any(|c| t.role(c) == Role::Token && self.str(c) == "static");
        if class && !is_static {
            self.b.implicit(id, "$this", inner);
        }
        self.callable(id, inner, Takes::Nothing);
    }

    fn callable(&mut self, id: NodeId, inner: ScopeId, takes: Takes) {
        let t = self.tree;
        self.frame_words(id, inner);
        self.frames.push(Frame { scope: inner, takes });
        for c in self.children(id) {
            match t.field(c) {
                Field::Name => {}
                Field::Parameters => self.parameters(c, inner),
                Field::Body if t.role(c) == Role::Block => {
                    self.globals_first(c, inner);
                    self.visit_all(self.children(c));
                }
                _ => self.visit(c),
            }
        }
        self.frames.pop();
    }

    fn parameters(&mut self, id: NodeId, inner: ScopeId) {
        let t = self.tree;
        for p in self.children(id) {
            let by_reference = t.children(p).any(|c| t.role(c) == Role::Token && self.str(c) == "&");
            for c in self.children(p) {
                if t.field(c) != Field::Name {
                    self.visit(c);
                    continue;
                }
                self.b.bind(c, self.str(c), inner, BindKind::Parameter, None);
                if by_reference {
                    self.b.share(inner, self.str(c));
                }
            }
        }
    }

    fn lambda(&mut self, id: NodeId) {
        let t = self.tree;
        let inner = self.b.open(id, ScopeKind::Function, Some(self.scope()));
        let is_arrow = self.str(id).trim_start_matches("static").trim_start().starts_with("fn");
        let clause = t.children(id).find(|c| t.role(*c) == Role::Other && self.str(*c).starts_with("use"));
        let names = clause.into_iter().flat_map(|c| t.subtree(c)).filter(|n| t.role(*n) == Role::Name);
        let taken = names.map(|n| self.str(n).to_string()).collect();
        self.callable(id, inner, if is_arrow { Takes::All } else { Takes::Some(taken) });
    }

    fn class(&mut self, id: NodeId) {
        let t = self.tree;
        if let Some(n) = t.child(id, Field::Name) {
            self.b.bind_as(n, self.str(n), Names::MODULE, BindKind::Class, Space::Types);
            self.b.hoist_as(Names::MODULE, self.str(n), Space::Types);
        }
        let inner = self.b.open(id, ScopeKind::Class, Some(self.scope()));
        for c in self.children(id) {
            match t.field(c) {
                Field::Name => {}
                Field::Body => {
                    self.frames.push(Frame { scope: inner, takes: Takes::Nothing });
                    self.visit_all(self.children(c));
                    self.frames.pop();
                }
                _ => self.visit(c),
            }
        }
    }

    fn import(&mut self, id: NodeId) {
        let t = self.tree;
        for (bound, import, of_function) in imports(t, id, self.text) {
            let name = self.str(bound).rsplit('\\').next().unwrap_or("");
            let space = if of_function { Space::Values } else { Space::Types };
            self.b.bind_import(bound, name, Names::MODULE, space, &[], import);
            self.b.hoist_as(Names::MODULE, name, space);
        }
    }
}

/// What `use` names: the node that it binds, and whether that is a function.
pub fn imports(t: &Tree, id: NodeId, text: &str) -> Vec<(NodeId, ImportRef, bool)> {
    let group = t.children(id).find(|c| t.role(*c) == Role::DottedName).map(|c| t.text(c, text));
    let is_function = |n: NodeId| t.children(n).any(|c| t.role(c) == Role::Token && t.text(c, text) == "function");
    let mut out = Vec::new();
    for clause in t.subtree(id).filter(|n| t.role(*n) == Role::ImportAlias) {
        let Some(name) = t.children(clause).find(|c| t.role(*c) == Role::Name) else { continue };
        let path = t.text(name, text).trim_start_matches('\\');
        let full = group.map_or(path.to_string(), |g| format!("{g}\\{path}"));
        let (module, member) = full.rsplit_once('\\').unwrap_or(("", &full));
        let import =
            ImportRef { level: 0, module: module.to_string(), member: Some(member.to_string()), wildcard: false };
        let bound = t.child(clause, Field::Alias).unwrap_or(name);
        out.push((bound, import, is_function(id) || is_function(clause)));
    }
    out
}
