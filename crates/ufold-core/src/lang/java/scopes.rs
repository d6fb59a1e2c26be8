//! Java's scoping: locals belong to their block from their declaration on, members are seen in all of their class and in
//! what stands in it, methods and types have names of their own spaces; `this` is a name of every method.
//!
//! Variables of patterns are taken for variables of the block around their statement, which sees them where the language
//! does. Members that a class inherits are not in its file: such names stay free, or reach a member of a class further
//! out, where only who knows the supertypes can tell (see `is_sure`).

use crate::lang::Reach;
use crate::names::{BindKind, Builder, ImportRef, Names, ScopeId, ScopeKind, Source, Space, Use};
use crate::tree::{Field, NodeId, Role, Tree};

pub fn names(tree: &Tree, text: &str) -> Names {
    let mut w = Walk { b: Builder::new(tree).with_members_in_sight().with_locals_from_declaration(), tree, text };
    if !tree.is_empty() {
        let top = w.children(Tree::ROOT);
        // sketches have members and statements without a class
        w.declare_members(&top, Names::MODULE);
        w.visit_all(top, Names::MODULE);
    }
    w.b.finish()
}

struct Walk<'a> {
    b: Builder<'a>,
    tree: &'a Tree,
    text: &'a str,
}

const VALUES: &[Space] = &[Space::Values];
const FUNCTIONS: &[Space] = &[Space::Functions];
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
            Role::ClassField => self.field(id, scope),
            Role::Block
                if t.parent(id).is_some_and(|p| t.role(p) == Role::Case && t.child(p, Field::Operator).is_none()) =>
            {
                // the cases of a `switch` share one scope
                self.visit_all(self.children(id), scope)
            }
            Role::Block | Role::Switch | Role::CountedFor | Role::Try | Role::Except => {
                let inner = self.b.open(id, ScopeKind::Block, Some(scope));
                for c in self.children(id) {
                    if t.role(id) == Role::Except && t.role(c) == Role::Other {
                        self.caught(c, inner)
                    } else {
                        self.visit(c, inner)
                    }
                }
            }
            Role::For => {
                let inner = self.b.open(id, ScopeKind::Block, Some(scope));
                for c in self.children(id) {
                    if t.field(c) == Field::Left {
                        self.bind(c, inner, BindKind::Variable, Space::Values)
                    } else {
                        self.visit(c, inner)
                    }
                }
            }
            Role::Declare => self.children(id).into_iter().for_each(|c| self.declared(c, scope)),
            // a resource declares
            Role::Assign if t.child(id, Field::Type).is_some() => self.declared(id, scope),
            Role::Assign => {
                for c in self.children(id) {
                    let plain = t.field(c) == Field::Left && t.role(c) == Role::Name;
                    if plain { self.b.refer(c, self.str(c), scope, Use::Write) } else { self.visit(c, scope) }
                }
            }
            Role::AugAssign => {
                for c in self.children(id) {
                    if t.field(c) == Field::Left { self.update(c, scope) } else { self.visit(c, scope) }
                }
            }
            Role::Compare => {
                for c in self.children(id) {
                    if t.field(c) == Field::Name { self.pattern_variable(c, scope) } else { self.visit(c, scope) }
                }
            }
            Role::Other if self.is_pattern(id) => self.pattern(id, scope),
            Role::Decorator => {
                let inside = self.children(id).into_iter().filter(|c| t.field(*c) != Field::Name);
                self.visit_all(inside.collect::<Vec<_>>(), scope)
            }
            Role::ImportFrom => self.import(id, scope),
            Role::Token | Role::MemberName | Role::KeywordName | Role::Label | Role::Error | Role::Doc => {}
            Role::DottedName => {}
            _ => self.visit_all(self.children(id), scope),
        }
    }

    fn name(&mut self, id: NodeId, scope: ScopeId) {
        let t = self.tree;
        let parent = t.parent(id).unwrap_or(Tree::ROOT);
        let spaces = match (t.role(parent), t.field(id)) {
            (Role::Call, Field::Callee) if ["this", "super"].contains(&self.str(id)) => VALUES,
            // `new X()` names a type
            (Role::Call, Field::Callee) if self.is_made(parent, id) => TYPES,
            (Role::Call, Field::Callee) if t.child(parent, Field::Object).is_some() => TYPES,
            (Role::Call, Field::Callee) => FUNCTIONS,
            (Role::Type | Role::TypeParams, _) | (_, Field::Type | Field::ReturnType | Field::Bases) => TYPES,
            (Role::Member, Field::Object) => EITHER,
            _ if self.is_type_place(id, parent) => TYPES,
            _ if t.text(parent, self.text).contains("::") && t.role(parent) == Role::Other => EITHER,
            _ => VALUES,
        };
        self.read(id, scope, spaces);
    }

    /// Where only a type can stand: caught types, `throws`, bounds, classes of literals, what follows `instanceof`.
    fn is_type_place(&self, id: NodeId, parent: NodeId) -> bool {
        let t = self.tree;
        match t.role(parent) {
            Role::Other => {
                let own = self.str(parent);
                let listed = t.ancestors(id).any(|a| t.field(a) == Field::Bases) && !self.in_code(id);
                listed
                    || own.starts_with("throws")
                    || own.ends_with(".class")
                    || self.is_caught(parent)
                    || self.is_bound(parent)
                    || own.starts_with("permits")
                    || own.starts_with("extends")
            }
            Role::Compare => {
                t.field(id) == Field::Right && !["==", "!=", "<", ">", "<=", ">="].contains(&self.operator(parent))
            }
            Role::List => t.children(parent).next() == Some(id) && self.str(parent).starts_with("new"),
            Role::Parameter => t.field(id) != Field::Name,
            _ => false,
        }
    }

    fn in_code(&self, id: NodeId) -> bool {
        let t = self.tree;
        t.ancestors(id).take_while(|a| t.field(*a) != Field::Bases).any(|a| t.role(a) == Role::Block)
    }
    fn operator(&self, id: NodeId) -> &'a str {
        self.tree.child(id, Field::Operator).map_or("", |o| self.str(o))
    }
    fn is_caught(&self, id: NodeId) -> bool {
        let t = self.tree;
        t.parent(id).is_some_and(|p| t.role(p) == Role::Other && t.parent(p).is_some_and(|e| t.role(e) == Role::Except))
            || t.parent(id).is_some_and(|e| t.role(e) == Role::Except)
    }
    fn is_bound(&self, id: NodeId) -> bool {
        self.tree.ancestors(id).take(3).any(|a| self.tree.role(a) == Role::TypeParams)
    }

    fn update(&mut self, id: NodeId, scope: ScopeId) {
        match self.tree.role(id) {
            Role::Name => self.b.refer(id, self.str(id), scope, Use::Update),
            Role::Paren => self.children(id).into_iter().for_each(|c| self.update(c, scope)),
            _ => self.visit(id, scope),
        }
    }

    /// A part of a declaration: the words and the type are read, names are bound.
    fn declared(&mut self, c: NodeId, scope: ScopeId) {
        let t = self.tree;
        if t.role(c) != Role::Assign {
            return self.visit(c, scope);
        }
        let left = t.child(c, Field::Left);
        for x in self.children(c).into_iter().filter(|x| Some(*x) != left) {
            self.visit(x, scope);
        }
        let Some(l) = left.filter(|l| t.role(*l) == Role::Name) else { return };
        // without a value it is declared and has none
        if t.child(c, Field::Right).is_some() {
            self.bind(l, scope, BindKind::Variable, Space::Values);
        } else {
            self.b.declare(l, self.str(l), scope, BindKind::Variable, None);
        }
    }

    fn caught(&mut self, id: NodeId, scope: ScopeId) {
        let t = self.tree;
        for c in self.children(id) {
            if t.field(c) == Field::Name {
                self.bind(c, scope, BindKind::Variable, Space::Values)
            } else {
                self.visit(c, scope)
            }
        }
    }

    fn is_pattern(&self, id: NodeId) -> bool {
        let t = self.tree;
        let first = t.children(id).next();
        let in_label = || t.ancestors(id).take(3).any(|a| t.role(a) == Role::Case || t.role(a) == Role::Compare);
        let typed = first.is_some_and(|f| matches!(t.role(f), Role::Name | Role::Type | Role::Other));
        typed
            && in_label()
            && t.children(id).count() > 1
            && !self.str(id).starts_with("case")
            && !self.str(id).contains("->")
            && !self.str(id).contains("::")
            && !self.str(id).ends_with(".class")
    }

    /// `Ship s`, `Berth(int n, var s)`: the last word of each part is bound.
    fn pattern(&mut self, id: NodeId, scope: ScopeId) {
        let t = self.tree;
        let all = self.children(id);
        let last = all.last().copied();
        for (i, c) in all.iter().copied().enumerate() {
            match t.role(c) {
                Role::Name if Some(c) == last && i > 0 => self.pattern_variable(c, scope),
                Role::Name => self.read(c, scope, TYPES),
                Role::Other => self.pattern(c, scope),
                _ => self.visit(c, scope),
            }
        }
    }

    fn pattern_variable(&mut self, id: NodeId, scope: ScopeId) {
        self.bind(id, scope, BindKind::Variable, Space::Values);
    }

    /// Members of a class, or of a sketch, before any of them is read.
    fn declare_members(&mut self, members: &[NodeId], scope: ScopeId) {
        let t = self.tree;
        for m in members {
            let name = t.child(*m, Field::Name).filter(|n| t.role(*n) == Role::Name);
            match (t.role(*m), name) {
                (Role::Function, Some(n)) => self.bind(n, scope, BindKind::Function, Space::Functions),
                (Role::Class, Some(n)) => self.bind(n, scope, BindKind::Class, Space::Types),
                (Role::ClassField, Some(n)) if t.child(*m, Field::Type).is_none() => {
                    self.bind(n, scope, BindKind::Variable, Space::Values)
                }
                (Role::ClassField, _) => {
                    for d in t.children(*m).filter(|d| t.role(*d) == Role::Assign) {
                        let left = t.child(d, Field::Left).filter(|l| t.role(*l) == Role::Name);
                        left.into_iter().for_each(|l| self.bind(l, scope, BindKind::Variable, Space::Values));
                    }
                }
                _ => {}
            }
            if let Some(n) = name {
                self.b.hoist_as(
                    scope,
                    self.str(n),
                    if t.role(*m) == Role::Class { Space::Types } else { Space::Functions },
                );
            }
        }
    }

    /// A field's value is computed with an object of its own.
    fn field(&mut self, id: NodeId, scope: ScopeId) {
        let t = self.tree;
        let own = self.b.open(id, ScopeKind::Function, Some(scope));
        self.b.implicit(id, "this", own);
        for c in self.children(id) {
            match (t.role(c), t.field(c)) {
                (_, Field::Name) => {}
                (Role::Assign, _) => {
                    let value = self.children(c).into_iter().filter(|x| t.field(*x) != Field::Left);
                    self.visit_all(value.collect::<Vec<_>>(), own);
                }
                _ => self.visit(c, own),
            }
        }
    }

    fn function(&mut self, id: NodeId, scope: ScopeId) {
        let t = self.tree;
        let inner = self.b.open(id, ScopeKind::Function, Some(scope));
        self.b.implicit(id, "this", inner);
        let parts = self.children(id);
        parts.iter().filter(|c| t.role(**c) == Role::TypeParams).for_each(|c| self.type_parameters(*c, inner));
        if t.child(id, Field::Parameters).is_none() {
            self.components(id, inner);
        }
        for c in parts {
            match t.field(c) {
                Field::Name => {}
                Field::TypeParams if t.role(c) == Role::TypeParams => {}
                Field::Parameters => self.parameters(c, inner),
                Field::Body => self.visit_all(self.children(c), inner),
                _ => self.visit(c, inner),
            }
        }
    }

    /// The parameters of a record's compact constructor are its components.
    fn components(&mut self, id: NodeId, inner: ScopeId) {
        let t = self.tree;
        let record = t.ancestor(id, &[Role::Class]);
        let list = record.and_then(|r| t.child(r, Field::Parameters));
        for p in list.map_or(Vec::new(), |l| self.children(l)) {
            if let Some(n) = t.child(p, Field::Name) {
                self.b.implicit(id, self.str(n), inner);
            }
        }
    }

    fn lambda(&mut self, id: NodeId, scope: ScopeId) {
        let t = self.tree;
        let inner = self.b.open(id, ScopeKind::Function, Some(scope));
        for c in self.children(id) {
            match (t.field(c), t.role(c)) {
                (Field::Parameters, Role::Name) => self.bind(c, inner, BindKind::Parameter, Space::Values),
                (Field::Parameters, _) => self.parameters(c, inner),
                (Field::Body, Role::Block) => self.visit_all(self.children(c), inner),
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
                let name = match t.role(c) {
                    Role::Assign => t.child(c, Field::Left),
                    _ => Some(c).filter(|c| t.field(*c) == Field::Name),
                };
                match name {
                    Some(n) => self.bind(n, inner, BindKind::Parameter, Space::Values),
                    None => self.visit(c, inner),
                }
            }
        }
    }

    fn type_parameters(&mut self, id: NodeId, inner: ScopeId) {
        for p in self.children(id) {
            for (i, c) in self.children(p).into_iter().enumerate() {
                if i == 0 && self.tree.role(c) == Role::Name {
                    self.bind(c, inner, BindKind::Class, Space::Types);
                    self.b.hoist_as(inner, self.str(c), Space::Types);
                } else {
                    self.visit(c, inner);
                }
            }
        }
    }

    fn class(&mut self, id: NodeId, scope: ScopeId) {
        let t = self.tree;
        // a member has its name already
        let names = self.b.names();
        let name = t.child(id, Field::Name).filter(|n| t.role(*n) == Role::Name);
        if let Some(n) = name.filter(|n| names.declared_as(scope, Space::Types, self.str(*n)).is_none()) {
            self.bind(n, scope, BindKind::Class, Space::Types);
            self.b.hoist_as(scope, self.str(n), Space::Types);
        }
        let body = t.child(id, Field::Body).unwrap_or(id);
        let generics = self.b.open(body, ScopeKind::Block, Some(scope));
        let inner = self.b.open(id, ScopeKind::Class, Some(generics));
        let parts = self.children(id);
        parts.iter().filter(|c| t.role(**c) == Role::TypeParams).for_each(|c| self.type_parameters(*c, generics));
        let members = self.children(body);
        self.declare_members(&members, inner);
        for c in parts {
            match t.field(c) {
                Field::Name => {}
                Field::TypeParams if t.role(c) == Role::TypeParams => {}
                Field::Parameters => self.record_components(c, inner),
                Field::Body => self.visit_all(members.clone(), inner),
                _ => self.visit(c, generics),
            }
        }
    }

    /// `new` stands before the class; a method may be called so that it begins with these letters.
    fn is_made(&self, call: NodeId, class: NodeId) -> bool {
        let before = &self.text[self.tree.span(call).start..self.tree.span(class).start];
        before.split_whitespace().any(|w| w == "new" || w.ends_with(".new"))
    }

    /// The components of a record are its fields.
    fn record_components(&mut self, list: NodeId, inner: ScopeId) {
        let t = self.tree;
        for p in self.children(list) {
            for c in self.children(p) {
                if t.field(c) == Field::Name {
                    self.bind(c, inner, BindKind::Variable, Space::Values)
                } else {
                    self.visit(c, inner)
                }
            }
        }
    }

    fn import(&mut self, id: NodeId, scope: ScopeId) {
        let Some(import) = imports(self.tree, id, self.text) else { return };
        let Some(member) = import.member.as_deref().filter(|_| !import.wildcard) else { return self.b.set_wildcard() };
        let Some(node) = self.tree.children(id).find(|c| matches!(self.tree.role(*c), Role::DottedName | Role::Name))
        else {
            return;
        };
        let is_static = self.tree.children(id).any(|c| self.str(c) == "static");
        let space = match is_static {
            // every static member of that name; by custom the letters tell which one is meant
            true if member.starts_with(char::is_uppercase) && member.contains(char::is_lowercase) => Space::Types,
            true if member.contains(char::is_lowercase) => Space::Functions,
            true => Space::Values,
            false => Space::Types,
        };
        let member = member.to_string();
        let perhaps: &[Space] = if is_static { &[Space::Values, Space::Functions, Space::Types] } else { &[] };
        self.b.bind_import(node, &member, scope, space, perhaps, import.clone());
        self.b.hoist_as(scope, &member, space);
    }
}

/// What an import statement names.
pub fn imports(t: &Tree, id: NodeId, text: &str) -> Option<ImportRef> {
    let name = t.children(id).find(|c| matches!(t.role(*c), Role::DottedName | Role::Name))?;
    let full: String = t.text(name, text).split_whitespace().collect();
    if t.children(id).any(|c| t.role(c) == Role::Wildcard) {
        return Some(ImportRef { level: 0, module: full, member: None, wildcard: true });
    }
    let (module, member) = full.rsplit_once('.')?;
    Some(ImportRef { level: 0, module: module.into(), member: Some(member.into()), wildcard: false })
}

/// Imports of all that a package or a class has; they are asked for often.
pub fn wildcards<'s>(t: &'s Tree, text: &'s str) -> impl Iterator<Item = (NodeId, ImportRef)> + 's {
    let all = t.children(Tree::ROOT).filter(|c| t.role(*c) == Role::ImportFrom);
    let whole = all.filter(|i| t.children(*i).any(|c| t.role(c) == Role::Wildcard));
    whole.filter_map(move |i| Some((i, imports(t, i, text)?)))
}

/// Whether the class that a bare member name reaches is surely the one that has it: no class on the way could have
/// inherited another one.
pub fn is_sure(source: &Source, name: NodeId) -> bool {
    let (t, names) = (&source.tree, &source.names);
    let Some(r) = names.at(name) else { return true };
    let home = r.target.map(|b| names.binding(b).scope);
    if r.target.is_some_and(|b| !names.is_member(b) && names.binding(b).scope != Names::MODULE) {
        return true;
    }
    let inner = names.scope_chain(r.scope).take_while(|s| Some(*s) != home);
    inner.filter(|s| names.scope(*s).kind == ScopeKind::Class).all(|s| !has_supertypes(t, names.scope(s).node))
}

/// A class that extends or implements another one, or has no name.
pub fn has_supertypes(t: &Tree, class: NodeId) -> bool {
    t.child(class, Field::Bases).is_some() || t.child(class, Field::Name).is_none()
}

/// Who sees a member by its modifiers.
pub fn reach_of(source: &Source, declaration: NodeId) -> Reach {
    match super::has_word(source, declaration, "public") {
        true => Reach::All,
        false if super::has_word(source, declaration, "private") => Reach::Own,
        false if super::has_word(source, declaration, "protected") => Reach::Below,
        false => Reach::Near,
    }
}

/// `class`, `interface`, `enum`, `record`, or nothing for an anonymous one.
pub fn class_word(source: &Source, class: NodeId) -> &str {
    let t = &source.tree;
    let Some(name) = t.child(class, Field::Name) else { return "" };
    let head = &source.text[t.span(class).start..t.span(name).start];
    head.split_whitespace().last().unwrap_or("").trim_start_matches('@')
}

/// The declaration of a member.
fn declaration(source: &Source, member: crate::names::BindingId) -> Option<NodeId> {
    let t = &source.tree;
    let parent = t.parent(source.names.binding(member).first)?;
    Some(if t.role(parent) == Role::Assign { t.parent(parent)? } else { parent })
}

/// A member of the class itself: all declarations of the name say so, or the place does.
pub fn is_static(source: &Source, member: crate::names::BindingId) -> bool {
    let t = &source.tree;
    let names = source.names.references_to(member).filter(|r| r.usage == Use::Write).map(|r| r.node);
    let declared =
        names.filter_map(|n| t.parent(n)).map(|p| if t.role(p) == Role::Assign { t.parent(p).unwrap_or(p) } else { p });
    let mut declared: Vec<NodeId> =
        declared.filter(|d| matches!(t.role(*d), Role::Function | Role::ClassField | Role::Class)).collect();
    declared.extend(declaration(source, member));
    let by_place = |d: NodeId| {
        let class = t.ancestor(d, &[Role::Class]);
        let constant = t.role(d) == Role::ClassField
            && (t.child(d, Field::Type).is_none() || class.is_some_and(|c| class_word(source, c) == "interface"));
        constant || t.role(d) == Role::Class
    };
    declared.iter().all(|d| by_place(*d) || super::has_word(source, *d, "static"))
}

/// A field that gets its value once.
pub fn is_final(source: &Source, member: crate::names::BindingId) -> bool {
    let t = &source.tree;
    declaration(source, member).is_some_and(|d| {
        let component = t.role(d) == Role::Parameter;
        let constant = t.role(d) == Role::ClassField
            && (t.child(d, Field::Type).is_none()
                || t.ancestor(d, &[Role::Class]).is_some_and(|c| class_word(source, c) == "interface"));
        component || constant || super::has_word(source, d, "final")
    })
}
