//! C#'s scoping: locals belong to their block from their declaration on, members are seen in all of their class and in what
//! stands in it, types have names of their own; `this` is a name of every method, `value` of what gives a property another
//! value.
//!
//! What `out x` gives is a write where the call stands; `ref x` an update. Parameters that are `ref` or `out`, variables for
//! which a `ref` local or a pointer stands, and structs that change in their place are shared: others see what is done to
//! them. Variables of patterns and of `out var` are taken for those of the block around their statement, as the language
//! has it for most statements. Fails for members that a class inherits, which stay free, and for structs of other files
//! and packages that are not in the list of well-known ones.

use rustc_hash::FxHashSet;

use super::words;
use crate::names::{BindKind, BindingId, Builder, ImportRef, Names, ScopeId, ScopeKind, Space, Use};
use crate::tree::{Field, NodeId, Role, Tree};

pub fn names(tree: &Tree, text: &str) -> Names {
    let b = Builder::new(tree).with_members_in_sight().with_locals_from_declaration();
    let mut w = Walk { b, tree, text };
    if !tree.is_empty() {
        let top = w.children(Tree::ROOT);
        w.declare_members(&top, Names::MODULE);
        w.visit_all(top, Names::MODULE);
    }
    let mut names = w.b.finish();
    share(&mut names, tree, text);
    names
}

struct Walk<'a> {
    b: Builder<'a>,
    tree: &'a Tree,
    text: &'a str,
}

const VALUES: &[Space] = &[Space::Values];
const TYPES: &[Space] = &[Space::Types];
/// A bare word before a dot may be a variable or a type.
const EITHER: &[Space] = &[Space::Values, Space::Types];

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
    fn bind(&mut self, node: NodeId, scope: ScopeId, kind: BindKind, space: Space) {
        self.b.bind_as(node, self.str(node), scope, kind, space);
    }
    fn read(&mut self, node: NodeId, scope: ScopeId, spaces: &'static [Space]) {
        self.b.refer_to(node, self.str(node), scope, Use::Read, spaces);
    }

    fn visit(&mut self, id: NodeId, scope: ScopeId) {
        let t = self.tree;
        match t.role(id) {
            Role::Name => self.name(id, scope),
            Role::Function => self.function(id, scope),
            Role::Lambda => self.lambda(id, scope),
            Role::Class => self.class(id, scope),
            Role::TypeAlias => self.delegate(id, scope),
            Role::ClassField => self.field(id, scope),
            // the cases of a `switch` share one scope
            Role::Block if t.parent(id).is_some_and(|p| t.role(p) == Role::Case) => self.statements(id, scope),
            Role::Block => {
                let inner = self.b.open(id, ScopeKind::Block, Some(scope));
                self.statements(id, inner)
            }
            Role::Switch
            | Role::CountedFor
            | Role::While
            | Role::DoWhile
            | Role::With
            | Role::Try
            | Role::Except
            | Role::Else => {
                let inner = self.b.open(id, ScopeKind::Block, Some(scope));
                self.visit_parts(id, inner);
            }
            Role::For => {
                let inner = self.b.open(id, ScopeKind::Block, Some(scope));
                for c in self.children(id) {
                    if t.field(c) == Field::Left { self.bind_pattern(c, inner) } else { self.visit(c, inner) }
                }
            }
            Role::Generator => {
                let inner = self.b.open(id, ScopeKind::Lazy, Some(scope));
                self.visit_all(self.children(id), inner)
            }
            Role::Declare => self.visit_parts(id, scope),
            Role::Assign => {
                for c in self.children(id) {
                    if t.field(c) == Field::Left { self.target(c, scope) } else { self.visit(c, scope) }
                }
            }
            Role::AugAssign | Role::OrAssign => {
                for c in self.children(id) {
                    if t.field(c) == Field::Left { self.update(c, scope) } else { self.visit(c, scope) }
                }
            }
            Role::Decorator => self.decorator(id, scope),
            Role::ImportFrom => self.import(id, scope),
            Role::KeywordArg | Role::Spread if self.passes(id).is_some() => self.passed(id, scope),
            Role::Other if self.is_named_by(id) => {
                for c in self.children(id) {
                    let is_name = t.field(c) == Field::Name && t.role(c) == Role::Name;
                    if is_name { self.bind(c, scope, BindKind::Variable, Space::Values) } else { self.visit(c, scope) }
                }
            }
            Role::Token | Role::MemberName | Role::KeywordName | Role::Label | Role::Error | Role::Doc => {}
            Role::AsyncMark | Role::DottedName => {}
            _ => self.visit_all(self.children(id), scope),
        }
    }

    /// Of a declaration, or what declares among other things.
    fn visit_parts(&mut self, id: NodeId, scope: ScopeId) {
        let t = self.tree;
        for c in self.children(id) {
            if t.role(c) == Role::Assign && t.child(id, Field::Type).is_some() {
                self.declared(c, scope)
            } else {
                self.visit(c, scope)
            }
        }
    }

    fn name(&mut self, id: NodeId, scope: ScopeId) {
        let t = self.tree;
        let parent = t.parent(id).unwrap_or(Tree::ROOT);
        let spaces = match (t.role(parent), t.field(id)) {
            (Role::Call, Field::Callee) if self.is_made(parent, id) => TYPES,
            // `Fee<int>(3)`
            (Role::Type, _) if t.field(parent) == Field::Callee && !self.is_made_by(parent) => VALUES,
            (Role::Type | Role::TypeParams, _) | (_, Field::Type | Field::ReturnType | Field::Bases) => TYPES,
            (Role::Member, Field::Object) => EITHER,
            (Role::Compare, Field::Right) if self.operator(parent).is_empty() => TYPES,
            (Role::Other, _) if t.ancestors(id).any(|a| t.field(a) == Field::Bases) => TYPES,
            (Role::Other, _) if t.ancestors(id).take(3).any(|a| t.role(a) == Role::Compare) => EITHER,
            (Role::Other, _) if t.role(t.parent(parent).unwrap_or(Tree::ROOT)) == Role::Function => TYPES,
            _ => VALUES,
        };
        // what is thrown away
        if self.str(id) != "_" || self.b.resolves(scope, "_").is_some() {
            self.read(id, scope, spaces);
        }
    }

    fn operator(&self, id: NodeId) -> &'a str {
        self.tree.child(id, Field::Operator).map_or("", |o| self.str(o))
    }

    fn is_made_by(&self, callee: NodeId) -> bool {
        self.tree.parent(callee).is_some_and(|call| self.is_made(call, callee))
    }

    /// `new` stands before the class.
    fn is_made(&self, call: NodeId, class: NodeId) -> bool {
        let before = &self.text[self.tree.span(call).start..self.tree.span(class).start];
        before.trim() == "new"
    }

    /// What an argument is passed by, where that is not its value.
    fn passes(&self, id: NodeId) -> Option<&'a str> {
        let t = self.tree;
        let word = t.children(id).find(|c| t.role(*c) == Role::Token).map(|c| self.str(c))?;
        let argument = t.parent(id).is_some_and(|p| matches!(t.role(p), Role::Arguments | Role::Index));
        Some(word).filter(|w| argument && ["ref", "out"].contains(w))
    }

    fn passed(&mut self, id: NodeId, scope: ScopeId) {
        let t = self.tree;
        let usage = if self.passes(id) == Some("out") { Use::Write } else { Use::Update };
        for c in self.children(id) {
            match t.role(c) {
                Role::Name if self.str(c) != "_" => self.b.refer(c, self.str(c), scope, usage),
                Role::Name => {}
                _ => self.visit(c, scope),
            }
        }
    }

    /// What gets a value: names, and parts of `(a, b) = …`.
    fn target(&mut self, id: NodeId, scope: ScopeId) {
        let t = self.tree;
        match t.role(id) {
            Role::Name if self.str(id) != "_" => self.b.refer(id, self.str(id), scope, Use::Write),
            Role::Name => {}
            Role::Tuple => self.children(id).into_iter().for_each(|c| self.target(c, scope)),
            Role::Paren => self.children(id).into_iter().for_each(|c| self.target(c, scope)),
            _ => self.visit(id, scope),
        }
    }

    fn update(&mut self, id: NodeId, scope: ScopeId) {
        match self.tree.role(id) {
            Role::Name => self.b.refer(id, self.str(id), scope, Use::Update),
            Role::Paren => self.children(id).into_iter().for_each(|c| self.update(c, scope)),
            _ => self.visit(id, scope),
        }
    }

    /// One of the variables of a declaration.
    fn declared(&mut self, c: NodeId, scope: ScopeId) {
        let t = self.tree;
        let left = t.child(c, Field::Left);
        for x in self.children(c).into_iter().filter(|x| Some(*x) != left) {
            self.visit(x, scope);
        }
        match left {
            // without a value it is declared and has none
            Some(l) if t.role(l) == Role::Name && t.child(c, Field::Right).is_none() => {
                self.b.declare(l, self.str(l), scope, BindKind::Variable, None)
            }
            Some(l) => self.bind_pattern(l, scope),
            None => {}
        }
    }

    fn bind_pattern(&mut self, id: NodeId, scope: ScopeId) {
        match self.tree.role(id) {
            Role::Name if self.str(id) != "_" => self.bind(id, scope, BindKind::Variable, Space::Values),
            Role::Name => {}
            Role::Pattern | Role::Tuple => self.children(id).into_iter().for_each(|c| self.bind_pattern(c, scope)),
            _ => self.visit(id, scope),
        }
    }

    /// A part of code that gives a variable its name: `out var x`, `is Ship s`, `catch (E e)`, `from x in …`.
    fn is_named_by(&self, id: NodeId) -> bool {
        let t = self.tree;
        let own = t.child(id, Field::Name).is_some_and(|n| t.role(n) == Role::Name);
        own && t.parent(id).is_some_and(|p| t.role(p) != Role::Type)
    }

    /// Of a block; a local function is there in all of it.
    fn statements(&mut self, block: NodeId, scope: ScopeId) {
        let t = self.tree;
        for f in self.children(block).into_iter().filter(|f| t.role(*f) == Role::Function) {
            if let Some(n) = t.child(f, Field::Name).filter(|n| t.role(*n) == Role::Name) {
                self.bind(n, scope, BindKind::Function, Space::Values);
                self.b.hoist(scope, self.str(n));
            }
        }
        self.visit_all(self.children(block), scope);
    }

    /// Members of a class before any of them is read.
    fn declare_members(&mut self, members: &[NodeId], scope: ScopeId) {
        let t = self.tree;
        for m in members {
            let name = t.child(*m, Field::Name).filter(|n| t.role(*n) == Role::Name);
            let space = if matches!(t.role(*m), Role::Class | Role::TypeAlias) { Space::Types } else { Space::Values };
            match (t.role(*m), name) {
                (Role::Function, Some(n)) => self.bind(n, scope, BindKind::Function, space),
                (Role::Class | Role::TypeAlias, Some(n)) => self.bind(n, scope, BindKind::Class, space),
                (Role::ClassField, Some(n)) => self.bind(n, scope, BindKind::Variable, space),
                (Role::ClassField, None) => {
                    for d in t.children(*m).filter(|d| t.role(*d) == Role::Assign) {
                        let left = t.child(d, Field::Left).filter(|l| t.role(*l) == Role::Name);
                        left.into_iter().for_each(|l| self.bind(l, scope, BindKind::Variable, Space::Values));
                    }
                }
                // what stands between `#if` and `#endif`
                (Role::Other, _) => self.declare_members(&self.children(*m), scope),
                _ => {}
            }
            if let Some(n) = name.filter(|_| t.role(*m) != Role::Other) {
                self.b.hoist_as(scope, self.str(n), space);
            }
        }
    }

    /// What a field or a property is made with, and the functions of a property.
    fn field(&mut self, id: NodeId, scope: ScopeId) {
        let t = self.tree;
        let own = self.b.open(id, ScopeKind::Function, Some(scope));
        self.b.implicit(id, "this", own);
        let parameters = t.child(id, Field::Parameters);
        for c in self.children(id) {
            match (t.role(c), t.field(c)) {
                (_, Field::Name) => {}
                (_, Field::Parameters) => self.parameters(c, own),
                (Role::Function, _) => self.accessor(c, parameters, scope),
                (Role::Assign, _) => {
                    let value = self.children(c).into_iter().filter(|x| t.field(*x) != Field::Left);
                    self.visit_all(value.collect::<Vec<_>>(), own);
                }
                _ => self.visit(c, own),
            }
        }
    }

    /// `get`, `set` and the like; those of an indexer see its parameters.
    fn accessor(&mut self, id: NodeId, parameters: Option<NodeId>, scope: ScopeId) {
        let t = self.tree;
        let inner = self.b.open(id, ScopeKind::Function, Some(scope));
        self.b.implicit(id, "this", inner);
        if t.child(id, Field::Name).is_some_and(|n| self.str(n) != "get") {
            self.b.implicit(id, "value", inner);
        }
        let list = parameters.map_or(Vec::new(), |l| self.children(l));
        for n in list.into_iter().filter_map(|p| t.child(p, Field::Name)) {
            self.b.implicit(id, self.str(n), inner);
        }
        self.body(id, inner);
    }

    fn body(&mut self, id: NodeId, inner: ScopeId) {
        let t = self.tree;
        for c in self.children(id) {
            match (t.field(c), t.role(c)) {
                (Field::Name, _) => {}
                (Field::Body, Role::Block) => self.statements(c, inner),
                _ => self.visit(c, inner),
            }
        }
    }

    fn function(&mut self, id: NodeId, scope: ScopeId) {
        let t = self.tree;
        let inner = self.b.open(id, ScopeKind::Function, Some(scope));
        let local = t.ancestors(id).find(|a| t.role(*a).is_callable() || t.role(*a) == Role::Class);
        if local.is_none_or(|a| t.role(a) == Role::Class) {
            self.b.implicit(id, "this", inner);
        }
        let parts = self.children(id);
        parts.iter().filter(|c| t.role(**c) == Role::TypeParams).for_each(|c| self.type_parameters(*c, inner));
        for c in parts {
            match t.field(c) {
                Field::Name => {}
                Field::TypeParams if t.role(c) == Role::TypeParams => {}
                Field::Parameters => self.parameters(c, inner),
                Field::Body if t.role(c) == Role::Block => self.statements(c, inner),
                _ => self.visit(c, inner),
            }
        }
    }

    fn lambda(&mut self, id: NodeId, scope: ScopeId) {
        let t = self.tree;
        let inner = self.b.open(id, ScopeKind::Function, Some(scope));
        for c in self.children(id) {
            match (t.field(c), t.role(c)) {
                (Field::Parameters, Role::Parameters) => self.parameters(c, inner),
                (Field::Parameters, _) => {
                    let name = t.subtree(c).find(|n| t.role(*n) == Role::Name);
                    name.into_iter().for_each(|n| self.bind(n, inner, BindKind::Parameter, Space::Values))
                }
                (Field::Body, Role::Block) => self.statements(c, inner),
                _ => self.visit(c, inner),
            }
        }
    }

    fn parameters(&mut self, id: NodeId, inner: ScopeId) {
        let t = self.tree;
        for p in self.children(id) {
            if t.role(p) == Role::Name {
                self.bind(p, inner, BindKind::Parameter, Space::Values);
                continue;
            }
            for c in self.children(p) {
                let is_name = t.field(c) == Field::Name && t.role(c) == Role::Name;
                if is_name { self.bind(c, inner, BindKind::Parameter, Space::Values) } else { self.visit(c, inner) }
            }
        }
    }

    fn type_parameters(&mut self, id: NodeId, inner: ScopeId) {
        let t = self.tree;
        for p in self.children(id) {
            let name = t.child(p, Field::Name).or(Some(p)).filter(|n| t.role(*n) == Role::Name);
            if let Some(n) = name {
                self.bind(n, inner, BindKind::Class, Space::Types);
                self.b.hoist_as(inner, self.str(n), Space::Types);
            }
        }
    }

    /// A type of functions.
    fn delegate(&mut self, id: NodeId, scope: ScopeId) {
        let t = self.tree;
        let inner = self.b.open(id, ScopeKind::Function, Some(scope));
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
        let body = t.child(id, Field::Body).unwrap_or(id);
        let generics = self.b.open(body, ScopeKind::Block, Some(scope));
        let inner = self.b.open(id, ScopeKind::Class, Some(generics));
        let parts = self.children(id);
        parts.iter().filter(|c| t.role(**c) == Role::TypeParams).for_each(|c| self.type_parameters(*c, generics));
        let members = if body == id { Vec::new() } else { self.children(body) };
        self.declare_members(&members, inner);
        for c in parts {
            match t.field(c) {
                Field::Name => {}
                Field::TypeParams if t.role(c) == Role::TypeParams => {}
                Field::Parameters => self.components(c, inner),
                Field::Body => self.visit_all(members.clone(), inner),
                _ => self.visit(c, generics),
            }
        }
    }

    /// The parameters of a class are seen in all of it.
    fn components(&mut self, list: NodeId, inner: ScopeId) {
        let t = self.tree;
        for p in self.children(list) {
            for c in self.children(p) {
                let is_name = t.field(c) == Field::Name && t.role(c) == Role::Name;
                if is_name { self.bind(c, inner, BindKind::Variable, Space::Values) } else { self.visit(c, inner) }
            }
        }
    }

    /// Names of attributes and of their members are looked up elsewhere.
    fn decorator(&mut self, id: NodeId, scope: ScopeId) {
        let t = self.tree;
        for c in self.children(id) {
            match t.role(c) {
                Role::Assign | Role::KeywordArg => {
                    let values =
                        self.children(c).into_iter().filter(|x| !matches!(t.field(*x), Field::Left | Field::Key));
                    self.visit_all(values.collect::<Vec<_>>(), scope)
                }
                Role::Type | Role::DottedName => {}
                Role::Arguments | Role::Other | Role::Paren => self.decorator(c, scope),
                _ => self.visit(c, scope),
            }
        }
    }

    fn import(&mut self, id: NodeId, scope: ScopeId) {
        let t = self.tree;
        let is_static = self.children(id).iter().any(|c| self.str(*c) == "static");
        if is_static {
            return self.b.set_wildcard();
        }
        let Some(name) = t.child(id, Field::Name).filter(|n| t.role(*n) == Role::Name) else { return };
        let word = self.str(name);
        let module = self.str(id).split_once('=').map_or("", |(_, m)| m).trim_end_matches(';').trim().to_string();
        let import = ImportRef { level: 0, module, member: Some(word.to_string()), wildcard: false };
        self.b.bind_import(name, word, scope, Space::Types, &[], import);
        self.b.hoist_as(scope, word, Space::Types);
    }
}

/// What others see or change while the code at hand runs.
fn share(names: &mut Names, t: &Tree, text: &str) {
    let str = |n: NodeId| t.text(n, text);
    let structs: FxHashSet<&str> = t
        .ids()
        .filter(|n| t.role(*n) == Role::Class && super::classes::class_word_in(t, text, *n) == "struct")
        .filter_map(|c| t.child(c, Field::Name).map(str))
        .collect();
    let is_struct = |name: &str| structs.contains(name) || words::CHANGING_STRUCTS.contains(&name);
    let mut found: Vec<BindingId> = Vec::new();
    for b in (0..names.bindings.len() as u32).map(BindingId) {
        let binding = names.binding(b);
        let Some(p) = t.parent(binding.first) else { continue };
        let marked = |w: &str| t.children(p).any(|c| t.role(c) == Role::Token && str(c) == w);
        let by_reference = t.role(p) == Role::Parameter && (marked("ref") || marked("out"));
        let declared = type_of_declared(t, binding.first);
        if by_reference || declared.is_some_and(|d| str(d).starts_with("ref ")) {
            found.push(b);
        }
    }
    let target = |n: NodeId| names.at(n).and_then(|r| r.target);
    for n in t.ids() {
        let role = t.role(n);
        // `ref x` behind `=` or `return`, `&x`
        let refers = role == Role::Other && str(n).starts_with("ref ");
        let points = role == Role::UnaryOp && str(n).starts_with('&');
        if refers || points {
            found.extend(t.subtree(n).filter_map(target));
        }
        if role != Role::Name || t.field(n) != Field::Object {
            continue;
        }
        let Some(b) = target(n).filter(|b| !names.is_member(*b)) else { continue };
        let of = |d: NodeId| str(d).split('<').next().unwrap_or("").to_string();
        let declared = type_of_declared(t, names.binding(b).first).map(of);
        if declared.is_some_and(|d| is_struct(&d)) && changes(t, n) {
            found.push(b);
        }
    }
    for b in found {
        names.share(b);
    }
}

/// Something is done to a part of the value, or by the value, that may change it.
fn changes(t: &Tree, object: NodeId) -> bool {
    let mut at = object;
    while let Some(p) = t.parent(at) {
        match t.role(p) {
            Role::Member | Role::Index if t.field(at) == Field::Object => at = p,
            Role::Call => return t.field(at) == Field::Callee,
            role if role.assigns() => return t.field(at) == Field::Left,
            Role::Tuple => at = p,
            Role::Spread => return true,
            _ => return false,
        }
    }
    false
}

/// The type that a variable is declared with, or made of.
pub fn type_of_declared(t: &Tree, name: NodeId) -> Option<NodeId> {
    let p = t.parent(name)?;
    let around = t.parent(p);
    let own = t.child(p, Field::Type).or_else(|| around.and_then(|a| t.child(a, Field::Type)))?;
    let made = t.child(p, Field::Right).and_then(|r| t.child(r, Field::Callee)).filter(|_| t.role(p) == Role::Assign);
    let is_word = t.role(own) == Role::Type && t.children(own).all(|c| t.role(c) == Role::Token);
    made.filter(|m| is_word && t.role(*m) != Role::Member).or(Some(own))
}
