//! JavaScript's scoping: `var` and functions belong to their function, `let`, `const` and classes to their block; loop
//! heads, `catch` and `switch` are blocks; `this` and `arguments` are names of every function but the arrows.
//!
//! TypeScript's types are names of the same scopes, in a space of their own: `type_word` tells them.
//! Fails for functions declared in blocks of sloppy code when they are called from outside their block: such
//! calls stay unresolved.

use crate::names::{BindKind, Builder, ImportRef, Names, ScopeId, ScopeKind, Space, Use};
use crate::tree::{Field, NodeId, Role, Tree};

/// What a word can be that stands in a type.
type TypeWord = fn(&Tree, NodeId) -> Option<&'static [Space]>;

pub fn names(tree: &Tree, text: &str, type_word: TypeWord) -> Names {
    let mut w = Walk { b: Builder::new(tree).with_types_joining_values(), tree, text, type_word };
    if !tree.is_empty() {
        w.own_names(Tree::ROOT, Names::MODULE);
        w.visit_all(tree.children(Tree::ROOT), Names::MODULE);
    }
    w.b.finish()
}

struct Walk<'a> {
    b: Builder<'a>,
    tree: &'a Tree,
    text: &'a str,
    type_word: TypeWord,
}

/// How the words of a declaration bind.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Binds {
    /// In the function around it, from its start on.
    Function,
    Block,
    Parameter,
    /// Not at all: an assignment.
    Nothing,
}

impl<'a> Walk<'a> {
    fn str(&self, id: NodeId) -> &'a str {
        self.tree.text(id, self.text)
    }

    fn children(&self, id: NodeId) -> Vec<NodeId> {
        self.tree.children(id).collect()
    }

    fn visit_all(&mut self, ids: impl IntoIterator<Item = NodeId>, scope: ScopeId) {
        for c in ids {
            self.visit(c, scope);
        }
    }

    fn own_names(&mut self, node: NodeId, scope: ScopeId) {
        self.b.implicit(node, "this", scope);
        self.b.implicit(node, "arguments", scope);
    }

    fn bind(&mut self, node: NodeId, scope: ScopeId, kind: BindKind) {
        self.b.bind(node, self.str(node), scope, kind, None);
    }

    /// A name that stands for a type alone.
    fn bind_type(&mut self, node: NodeId, scope: ScopeId) {
        self.b.bind_as(node, self.str(node), scope, BindKind::Class, Space::Types);
        self.b.hoist_as(scope, self.str(node), Space::Types);
    }

    fn read(&mut self, id: NodeId, scope: ScopeId) {
        let of_type = (self.type_word)(self.tree, id);
        // what is handed out may be either, and is both where it is both
        let given = |p: NodeId| matches!(self.tree.role(p), Role::ImportAlias | Role::Decorated);
        let spaces: &[Space] = match self.tree.parent(id).is_some_and(given) {
            true => &[Space::Values, Space::Types],
            false => of_type.unwrap_or(&[Space::Values]),
        };
        self.b.refer_to(id, self.str(id), scope, Use::Read, spaces);
    }

    fn visit(&mut self, id: NodeId, scope: ScopeId) {
        let t = self.tree;
        match t.role(id) {
            Role::Name => self.read(id, scope),
            Role::Function => self.function(id, scope),
            Role::Lambda => self.lambda(id, scope),
            Role::Class => self.class(id, scope),
            Role::TypeAlias => self.type_definition(id, scope),
            // the cases of a `switch` share one scope
            Role::Block if t.parent(id).is_some_and(|p| t.role(p) == Role::Case) => {
                self.visit_all(self.children(id), scope)
            }
            Role::Block => {
                let inner = self.b.open(id, ScopeKind::Block, Some(scope));
                self.visit_all(self.children(id), inner);
            }
            Role::Switch | Role::CountedFor => {
                let inner = self.b.open(id, ScopeKind::Block, Some(scope));
                self.visit_all(self.children(id), inner);
            }
            Role::For => self.for_loop(id, scope),
            Role::Except => {
                let inner = self.b.open(id, ScopeKind::Block, Some(scope));
                for c in self.children(id) {
                    if t.field(c) == Field::Left { self.target(c, inner, Binds::Block) } else { self.visit(c, inner) }
                }
            }
            Role::Declare => self.declare(id, scope),
            Role::Assign => {
                for c in self.children(id) {
                    if t.field(c) == Field::Left { self.target(c, scope, Binds::Nothing) } else { self.visit(c, scope) }
                }
            }
            Role::AugAssign | Role::OrAssign => {
                for c in self.children(id) {
                    if t.field(c) == Field::Left { self.update(c, scope) } else { self.visit(c, scope) }
                }
            }
            Role::ImportFrom => self.import(id, scope),
            Role::MarkupTag => {
                for c in self.children(id) {
                    // a tag in lower case is a word of the markup
                    let word = t.role(c) == Role::Name && self.str(c).starts_with(|c: char| c.is_ascii_lowercase());
                    if !word {
                        self.visit(c, scope);
                    }
                }
            }
            Role::ImportAlias => {
                if let Some(n) = t.child(id, Field::Name) {
                    self.visit(n, scope);
                }
            }
            Role::Token | Role::MemberName | Role::KeywordName | Role::Label | Role::Error | Role::Doc => {}
            _ => self.visit_all(self.children(id), scope),
        }
    }

    fn update(&mut self, id: NodeId, scope: ScopeId) {
        match self.tree.role(id) {
            Role::Name => self.b.refer(id, self.str(id), scope, Use::Update),
            Role::Paren => self.children(id).into_iter().for_each(|c| self.update(c, scope)),
            _ => self.visit(id, scope),
        }
    }

    fn for_loop(&mut self, id: NodeId, scope: ScopeId) {
        let t = self.tree;
        let inner = self.b.open(id, ScopeKind::Block, Some(scope));
        let keyword = t.children(id).filter(|c| t.role(*c) == Role::Token).map(|c| self.str(c));
        let how = keyword.into_iter().find_map(binds_of).unwrap_or(Binds::Nothing);
        for c in self.children(id) {
            if t.field(c) == Field::Left { self.target(c, inner, how) } else { self.visit(c, inner) }
        }
    }

    fn declare(&mut self, id: NodeId, scope: ScopeId) {
        let t = self.tree;
        let keyword = t.children(id).find(|c| t.role(*c) == Role::Token).map_or("", |c| self.str(c));
        let how = binds_of(keyword).unwrap_or(Binds::Block);
        for d in self.children(id).into_iter().filter(|c| t.role(*c) == Role::Assign) {
            let (left, right) = (t.child(d, Field::Left), t.child(d, Field::Right));
            let member = right.and_then(|r| t.child(r, Field::Member)).map(|m| self.str(m));
            let path = right.map(|r| t.child(r, Field::Object).filter(|_| member.is_some()).unwrap_or(r));
            if let Some(module) = path.and_then(|r| required(t, r, self.text)) {
                self.required(left, module, member, scope, how);
                self.visit_all(right, scope);
                continue;
            }
            for c in self.children(d) {
                match (t.field(c), t.role(c)) {
                    // `var x;` changes nothing that x had before
                    (Field::Left, Role::Name) if right.is_none() && how == Binds::Function => {
                        let home = self.home(scope, how);
                        self.b.declare(c, self.str(c), home, BindKind::Variable, None);
                        self.b.hoist(home, self.str(c));
                    }
                    (Field::Left, _) => self.target(c, scope, how),
                    _ => self.visit(c, scope),
                }
            }
        }
    }

    /// `const { a, b: c } = require("./m")`
    fn required(&mut self, left: Option<NodeId>, module: &str, of: Option<&str>, scope: ScopeId, how: Binds) {
        let t = self.tree;
        let home = self.home(scope, how);
        let Some(left) = left else { return };
        let import = |member: Option<&str>| ImportRef {
            level: 0,
            module: module.to_string(),
            member: member.map(str::to_string),
            wildcard: false,
        };
        if t.role(left) == Role::Name {
            return self.b.bind(left, self.str(left), home, BindKind::Import, Some(import(of)));
        }
        for p in self.children(left) {
            match (t.child(p, Field::Key), t.child(p, Field::Value)) {
                (Some(k), Some(v)) if t.role(v) == Role::Name && of.is_none() => {
                    self.b.bind(v, self.str(v), home, BindKind::Import, Some(import(Some(self.str(k)))));
                }
                _ => self.target(p, scope, how),
            }
        }
    }

    fn home(&self, scope: ScopeId, how: Binds) -> ScopeId {
        let names = self.b.names();
        let function = |s: &ScopeId| matches!(names.scope(*s).kind, ScopeKind::Function | ScopeKind::Module);
        if how == Binds::Function { names.scope_chain(scope).find(function).unwrap_or(scope) } else { scope }
    }

    /// What is assigned to, or declared: names in patterns bind, keys and defaults are evaluated.
    fn target(&mut self, id: NodeId, scope: ScopeId, how: Binds) {
        let t = self.tree;
        match t.role(id) {
            Role::Name => {
                let home = self.home(scope, how);
                let kind = if how == Binds::Parameter { BindKind::Parameter } else { BindKind::Variable };
                if how != Binds::Nothing {
                    self.b.declare(id, self.str(id), home, kind, None);
                }
                if how == Binds::Function {
                    self.b.hoist(home, self.str(id));
                }
                self.b.refer(id, self.str(id), scope, Use::Write);
            }
            Role::Pattern | Role::Paren | Role::List | Role::Dict | Role::Spread => {
                for c in self.children(id) {
                    self.target(c, scope, how);
                }
            }
            Role::Pair => self.children(id).into_iter().for_each(|c| self.target(c, scope, how)),
            Role::Default | Role::Assign => {
                for c in self.children(id) {
                    if t.field(c) == Field::Left { self.target(c, scope, how) } else { self.visit(c, scope) }
                }
            }
            _ => self.visit(id, scope),
        }
    }

    fn function(&mut self, id: NodeId, scope: ScopeId) {
        let t = self.tree;
        let name = t.child(id, Field::Name).filter(|n| t.role(*n) == Role::Name);
        let member = self.b.names().scope(scope).kind == ScopeKind::Class;
        let statement = t.parent(id).is_some_and(|p| {
            t.role(p).is_sequence() || matches!(t.role(p), Role::Decorated | Role::Case | Role::Labeled | Role::If)
        });
        if let Some(n) = name.filter(|_| member || statement) {
            self.bind(n, scope, BindKind::Function);
            self.b.hoist(scope, self.str(n));
        }
        let inner = self.b.open(id, ScopeKind::Function, Some(scope));
        self.own_names(id, inner);
        for c in self.children(id) {
            match t.field(c) {
                Field::Name if t.role(c) == Role::Name => {}
                // a computed name is evaluated outside
                Field::Name => self.visit(c, scope),
                _ => self.function_part(c, inner),
            }
        }
    }

    fn function_part(&mut self, c: NodeId, inner: ScopeId) {
        let t = self.tree;
        match t.field(c) {
            Field::Parameters if t.role(c) == Role::Parameters => self.parameters(c, inner),
            Field::Parameters => self.target(c, inner, Binds::Parameter),
            Field::TypeParams => self.type_parameters(c, inner),
            Field::Body if t.role(c) == Role::Block => self.visit_all(self.children(c), inner),
            _ => self.visit(c, inner),
        }
    }

    fn lambda(&mut self, id: NodeId, scope: ScopeId) {
        let t = self.tree;
        let inner = self.b.open(id, ScopeKind::Function, Some(scope));
        // only an arrow has neither a word of its own nor a name
        let is_arrow = !self.str(id).trim_start_matches("async").trim_start().starts_with("function");
        if !is_arrow {
            self.own_names(id, inner);
        }
        for c in self.children(id) {
            if t.field(c) == Field::Name {
                self.b.declare(c, self.str(c), inner, BindKind::Function, None);
                self.b.refer(c, self.str(c), inner, Use::Write);
                self.b.hoist(inner, self.str(c));
            } else {
                self.function_part(c, inner);
            }
        }
    }

    fn parameters(&mut self, id: NodeId, inner: ScopeId) {
        let t = self.tree;
        for p in self.children(id) {
            if t.role(p) != Role::Parameter {
                self.target(p, inner, Binds::Parameter);
                continue;
            }
            for c in self.children(p) {
                let is_this = self.str(c) == "this";
                match t.field(c) {
                    Field::Name if is_this => {}
                    Field::Name => self.target(c, inner, Binds::Parameter),
                    _ => self.visit(c, inner),
                }
            }
        }
    }

    fn type_parameters(&mut self, id: NodeId, inner: ScopeId) {
        let t = self.tree;
        for p in self.children(id) {
            for c in self.children(p) {
                if t.field(c) == Field::Name { self.bind_type(c, inner) } else { self.visit(c, inner) }
            }
        }
    }

    /// Interfaces, aliases and signatures.
    fn type_definition(&mut self, id: NodeId, scope: ScopeId) {
        let t = self.tree;
        if let Some(n) = t.child(id, Field::Name).filter(|n| t.role(*n) == Role::Name) {
            if (self.type_word)(t, n).is_some() {
                self.bind_type(n, scope);
            } else {
                self.bind(n, scope, BindKind::Class);
                self.b.hoist(scope, self.str(n));
            }
        }
        let inner = self.b.open(id, ScopeKind::Block, Some(scope));
        for c in self.children(id) {
            match t.field(c) {
                Field::Name => {}
                Field::TypeParams => self.type_parameters(c, inner),
                Field::Parameters => self.parameters(c, inner),
                _ => self.visit(c, inner),
            }
        }
    }

    fn class(&mut self, id: NodeId, scope: ScopeId) {
        let t = self.tree;
        let statement =
            t.parent(id).is_some_and(|p| t.role(p).is_sequence() || matches!(t.role(p), Role::Decorated | Role::Case));
        // the name of a class that is a value is seen only inside it
        let around = if statement { scope } else { self.b.open(id, ScopeKind::Block, Some(scope)) };
        if let Some(name) = t.child(id, Field::Name) {
            self.bind(name, around, BindKind::Class);
            self.b.is_type_too(around, self.str(name));
        }
        let body = t.child(id, Field::Body).unwrap_or(id);
        let generics = self.b.open(body, ScopeKind::Block, Some(around));
        let inner = self.b.open(id, ScopeKind::Class, Some(generics));
        for c in self.children(id) {
            match t.field(c) {
                Field::Name => {}
                Field::TypeParams => self.type_parameters(c, generics),
                Field::Body => self.members(c, inner, generics),
                _ => self.visit(c, generics),
            }
        }
    }

    fn members(&mut self, body: NodeId, inner: ScopeId, around: ScopeId) {
        let t = self.tree;
        for m in self.children(body) {
            if t.role(m) == Role::Function {
                self.function(m, inner);
            } else if t.role(m) == Role::ClassField {
                // a field's value is computed with an object of its own
                let own = self.b.open(m, ScopeKind::Function, Some(around));
                self.own_names(m, own);
                self.visit_all(self.children(m), own);
            } else {
                self.visit(m, around);
            }
        }
    }

    fn import(&mut self, id: NodeId, scope: ScopeId) {
        for (bound, import) in imports(self.tree, id, self.text) {
            if let Some(n) = bound {
                self.b.bind(n, self.str(n), scope, BindKind::Import, Some(import));
                self.b.is_type_too(scope, self.str(n));
                self.b.hoist(scope, self.str(n));
            }
        }
    }
}

fn binds_of(keyword: &str) -> Option<Binds> {
    match keyword {
        "var" => Some(Binds::Function),
        "let" | "const" | "using" => Some(Binds::Block),
        _ => None,
    }
}

/// The module of `require("./m")`.
pub fn required<'t>(t: &Tree, value: NodeId, text: &'t str) -> Option<&'t str> {
    let callee = t.child(value, Field::Callee).filter(|_| t.role(value) == Role::Call)?;
    let argument = t.child(value, Field::Arguments).and_then(|a| t.children(a).next())?;
    let plain = t.text(callee, text) == "require" && t.role(argument) == Role::Literal;
    plain.then(|| t.text(argument, text).trim_matches(['"', '\'', '`']))
}

/// What an import statement, or a declaration by `require`, names; each with the node that it binds.
pub fn imports(t: &Tree, id: NodeId, text: &str) -> Vec<(Option<NodeId>, ImportRef)> {
    let import = |module: &str, member: Option<&str>| ImportRef {
        level: 0,
        module: module.to_string(),
        member: member.map(str::to_string),
        wildcard: false,
    };
    if t.role(id) == Role::Declare {
        let values = t.children(id).filter_map(|d| t.child(d, Field::Right));
        let called = |r: NodeId| t.child(r, Field::Object).unwrap_or(r);
        return values.map(called).filter_map(|r| required(t, r, text)).map(|m| (None, import(m, None))).collect();
    }
    let Some(source) = t.subtree(id).find(|c| t.field(*c) == Field::Source) else { return Vec::new() };
    let module = t.text(source, text).trim_matches(['"', '\'']);
    let mut out = Vec::new();
    let binds = t.text(id, text).starts_with("import");
    for c in t.subtree(id) {
        let parent = t.parent(c).unwrap_or(Tree::ROOT);
        match t.role(c) {
            Role::ImportAlias if binds => {
                let name = t.child(c, Field::Name);
                let bound = t.child(c, Field::Alias).or(name);
                out.push((bound, import(module, name.map(|n| t.text(n, text)))));
            }
            Role::Wildcard if binds => {
                out.push((t.children(c).find(|n| t.role(*n) == Role::Name), import(module, None)));
            }
            Role::Name if binds && t.role(parent) == Role::Other => {
                out.push((Some(c), import(module, Some("default"))));
            }
            _ => {}
        }
    }
    if out.is_empty() {
        out.push((None, import(module, None)));
    }
    out
}
