//! Classes of Java: the one that a name means, where it is declared, what it extends.
//!
//! A bare name is of the innermost class around it that declares or inherits one of that name, then of the file, its
//! imports and its package (JLS 6.3 to 6.5). What classes outside the project have in them is known for the library only,
//! by a list of names.

use std::sync::Arc;

use super::known::{LIBRARY, NESTED};
use super::typing::Types;
use crate::lang::{MemberOf, Stored};
use crate::names::{BindingId, Source, Space};
use crate::tree::{Field, NodeId, Role, Tree};
use crate::types::{Kind, Ty};

/// A class of the project.
pub struct Class<'a> {
    home: Held<'a>,
    pub(super) node: NodeId,
}

enum Held<'a> {
    Own(&'a Source),
    Other(Arc<Source>),
}

/// Ends of the names of classes outside the project whose objects are meant to be stored.
const STORED: &[&str] = &["Exception", "Error", "Throwable", "Serializable", "Externalizable"];

impl Class<'_> {
    pub fn source(&self) -> &Source {
        match &self.home {
            Held::Own(s) => s,
            Held::Other(s) => s,
        }
    }
    pub(super) fn members(&self) -> Vec<NodeId> {
        let t = &self.source().tree;
        let body = if self.node == Tree::ROOT { Some(Tree::ROOT) } else { t.child(self.node, Field::Body) };
        body.map_or(Vec::new(), |b| t.children(b).collect())
    }
    pub(super) fn parameters(&self) -> Vec<String> {
        type_parameters(self.source(), self.node)
    }
    /// The type of a member for these type arguments; without them it is not known.
    pub(super) fn given(&self, member: Ty, arguments: &[(String, Ty)]) -> Ty {
        let own = self.parameters();
        let lacks = |p: &Ty| matches!(p.kind(), Kind::Parameter { name, .. } if own.contains(&name));
        if arguments.len() < own.len() && member.parts().iter().any(lacks) {
            Ty::UNKNOWN
        } else {
            member.with(arguments)
        }
    }
}

pub(super) fn type_parameters(s: &Source, declaration: NodeId) -> Vec<String> {
    let list = s.tree.child(declaration, Field::TypeParams);
    let first = |p: NodeId| s.tree.children(p).next().map(|n| s.str(n).to_string());
    list.map_or(Vec::new(), |l| s.tree.children(l).filter_map(first).collect())
}

/// The package that a file says it is in.
pub fn package(s: &Source) -> &str {
    let t = &s.tree;
    let statement = t.children(Tree::ROOT).find(|c| t.role(*c) == Role::Doc);
    statement.map_or("", |p| s.str(p).trim_start_matches("package").trim_end_matches(';').trim())
}

/// Packages that a file imports whole.
pub(super) fn wildcards(s: &Source) -> Vec<String> {
    super::scopes::wildcards(&s.tree, &s.text).map(|(_, i)| i.module).collect()
}

/// The class that the members of a sketch are of has no name: the file tells it.
fn sketch(s: &Source) -> String {
    format!("members of {}", s.path)
}

pub(super) fn full(package: &str, name: &str) -> String {
    if package.is_empty() { name.to_string() } else { format!("{package}.{name}") }
}

impl<'a> Types<'a> {
    pub(super) fn type_name(self, node: NodeId) -> Ty {
        self.class_of_name(node).0
    }

    /// What a name would mean among the classes above those around a place.
    pub fn class_above_place(self, place: NodeId, name: &str) -> MemberOf {
        let t = self.t();
        let within =
            |c: &NodeId| t.role(*c) == Role::Class && t.child(*c, Field::Body).is_some_and(|b| t.contains(b, place));
        let all: Vec<MemberOf> = t.ancestors(place).filter(within).map(|c| self.nested_above(c, name)).collect();
        all.into_iter().find(|f| *f != MemberOf::Other).unwrap_or(MemberOf::Other)
    }

    /// Whether objects of a class show its name: records and exceptions as texts, others where they are stored.
    pub fn shows_its_name(self, class: NodeId) -> bool {
        let (s, t) = (self.s, self.t());
        let own = s.names.scope_of(class).and_then(|x| s.names.declared_as(x, Space::Functions, "toString"));
        let record = super::scopes::class_word(s, class) == "record";
        let above = self.deeper().map_or(Vec::new(), |d| d.above(class));
        let shown = |b: Ty| {
            let Kind::Named { name, .. } = b.kind() else { return false };
            match self.class(b) {
                Some(c) => Types { s: c.source(), ..self.deeper().unwrap_or(self) }.shows_its_name(c.node),
                None => STORED.iter().any(|e| name.ends_with(e)),
            }
        };
        t.role(class) == Role::Class && (record && own.is_none() || above.into_iter().any(shown))
    }

    /// A class that can be stored, perhaps without saying by which number its form is known.
    pub fn stored(self, class: NodeId) -> Stored {
        let scope = self.s.names.scope_of(class);
        let numbered = scope.is_some_and(|x| self.s.names.declared_as(x, Space::Values, "serialVersionUID").is_some());
        let by_name = numbered || ["record", "enum"].contains(&super::scopes::class_word(self.s, class));
        match self.is_stored(class) {
            false => Stored::Not,
            true if by_name => Stored::ByName,
            true => Stored::ByMembers,
        }
    }

    fn is_stored(self, class: NodeId) -> bool {
        let above = self.deeper().map_or(Vec::new(), |d| d.above(class));
        above.into_iter().any(|b| {
            let Kind::Named { name, .. } = b.kind() else { return false };
            match self.class(b) {
                Some(c) => Types { s: c.source(), ..self.deeper().unwrap_or(self) }.is_stored(c.node),
                None => STORED.iter().any(|e| name.ends_with(e)),
            }
        })
    }

    /// What a bare name means among the types, and whether that is sure: a class that something outside the project
    /// brings along may hide it.
    fn class_of_name(self, node: NodeId) -> (Ty, bool) {
        let (s, t) = (self.s, self.t());
        let target = s.names.at(node).and_then(|r| r.target);
        let own = target.map(|b| s.names.scope(s.names.binding(b).scope).node);
        let mut sure = true;
        for class in t.ancestors(node).filter(|a| t.role(*a) == Role::Class) {
            if own.is_some_and(|o| t.contains(class, o)) {
                break;
            }
            // a class's own head does not see what it inherits
            if t.child(class, Field::Body).is_none_or(|b| !t.contains(b, node)) {
                continue;
            }
            match self.nested_above(class, s.str(node)) {
                MemberOf::Class(c) => return (c, sure),
                MemberOf::Likely(_) | MemberOf::Unknown => sure = false,
                MemberOf::Other => {}
            }
        }
        (target.map_or_else(|| self.free_type(s.str(node)), |b| self.of_class_binding(b)), sure)
    }

    /// A class of that name in those that a class extends.
    fn nested_above(self, class: NodeId, name: &str) -> MemberOf {
        let inherited = |s: &Source, c: NodeId| !super::has_word(s, c, "private");
        let Some(d) = self.deeper() else { return MemberOf::Unknown };
        let all: Vec<MemberOf> = d.above(class).into_iter().map(|b| d.nested(b, name, &inherited)).collect();
        let known = all.iter().find(|f| matches!(f, MemberOf::Class(_)));
        known.or(all.iter().find(|f| **f == MemberOf::Unknown)).copied().unwrap_or(MemberOf::Other)
    }

    /// A class of that name in a type, or in those that it extends.
    pub(super) fn nested_in(self, of: Ty, name: &str) -> MemberOf {
        self.nested(of, name, &|_, _| true)
    }

    fn nested(self, of: Ty, name: &str, counts: &dyn Fn(&Source, NodeId) -> bool) -> MemberOf {
        let Kind::Named { name: full, .. } = of.kind() else { return MemberOf::Unknown };
        let Some(c) = self.class(of) else {
            let library = LIBRARY.classes.contains_key(&full) || full.starts_with("java.");
            return if library && !NESTED.contains(&name) { MemberOf::Other } else { MemberOf::Unknown };
        };
        let s = c.source();
        let types = Types { s, definitions: self.definitions, depth: self.depth };
        let declared = s.names.scope_of(c.node).and_then(|x| s.names.declared_as(x, Space::Types, name));
        let of_it = |b: &BindingId| s.tree.parent(s.names.binding(*b).first).is_some_and(|c| counts(s, c));
        match declared.filter(of_it).map(|b| types.of_class_binding(b)) {
            // a type parameter is of the class alone
            Some(ty) if matches!(ty.kind(), Kind::Named { .. }) => MemberOf::Class(ty),
            Some(Ty::UNKNOWN) => MemberOf::Unknown,
            _ => types.nested_above(c.node, name),
        }
    }

    pub(super) fn of_class_binding(self, b: BindingId) -> Ty {
        let (s, t) = (self.s, self.t());
        let binding = s.names.binding(b);
        if let Some(i) = &binding.import {
            let member = i.member.as_deref().unwrap_or("");
            return Ty::named(&format!("{}.{member}", i.module), Vec::new());
        }
        let Some(declaration) = t.parent(binding.first) else { return Ty::UNKNOWN };
        if t.role(declaration) != Role::Class {
            let declared = format!("{}:{}", s.path, t.span(binding.first).start);
            return Ty::new(Kind::Parameter { name: binding.name.clone(), declared });
        }
        self.of_class(declaration)
    }

    /// The type that a class declaration makes, without type arguments.
    pub fn of_class(self, declaration: NodeId) -> Ty {
        let (s, t) = (self.s, self.t());
        if declaration == Tree::ROOT {
            return Ty::named(&sketch(s), Vec::new());
        }
        let around = || std::iter::once(declaration).chain(t.ancestors(declaration));
        let local = t.callable_around(declaration).is_some();
        // an inner class of a generic one has its type arguments, which are not told
        let generic = |c: NodeId| t.child(c, Field::TypeParams).is_some();
        let mut outer = around().filter(|a| t.role(*a) == Role::Class).skip(1);
        if !self.is_nested_static(declaration) && outer.any(generic) {
            return Ty::UNKNOWN;
        }
        let mut names: Vec<&str> = Vec::new();
        for c in around().filter(|a| t.role(*a) == Role::Class) {
            match t.child(c, Field::Name) {
                Some(n) => names.push(s.str(n)),
                None => return Ty::UNKNOWN,
            }
        }
        names.reverse();
        let name = full(package(s), &names.join("."));
        Ty::new(Kind::Named {
            name,
            arguments: Vec::new(),
            only_in: local.then(|| format!("{}:{}", s.path, declaration.0)),
        })
    }

    /// A class that needs no object of the one around it.
    pub(super) fn is_nested_static(self, class: NodeId) -> bool {
        let word = super::scopes::class_word(self.s, class);
        let in_interface = self
            .t()
            .ancestor(class, &[Role::Class])
            .is_some_and(|c| super::scopes::class_word(self.s, c) == "interface");
        super::has_word(self.s, class, "static") || in_interface || ["enum", "record", "interface"].contains(&word)
    }

    /// A type that nothing in the file names: of the package, of `java.lang`, or of a package that is imported whole.
    pub(super) fn free_type(self, name: &str) -> Ty {
        if name == "var" {
            return Ty::UNKNOWN;
        }
        if let Some((home, node)) = (self.definitions)(self.s, name) {
            let types = Types { s: &home, definitions: self.definitions, depth: self.depth };
            return if home.tree.role(node) == Role::Class { types.of_class(node) } else { Ty::UNKNOWN };
        }
        let wild = wildcards(self.s);
        // whole packages, and all classes in a class
        for owner in &wild {
            if let Some(c) = self.class(Ty::named(&format!("{owner}.{name}"), Vec::new())) {
                let types = Types { s: c.source(), definitions: self.definitions, depth: self.depth };
                return types.of_class(c.node);
            }
            if self.class(Ty::named(owner, Vec::new())).is_some()
                && let MemberOf::Class(c) = self.nested_in(Ty::named(owner, Vec::new()), name)
            {
                return c;
            }
        }
        if let Some(full) = LIBRARY.of_lang(name) {
            return Ty::named(&full, Vec::new());
        }
        let known =
            LIBRARY.full.get(name).filter(|f| wild.iter().any(|w| f.rsplit_once('.').is_some_and(|(p, _)| p == w)));
        match known {
            Some(full) => Ty::named(full, Vec::new()),
            None => {
                let only_in = (!wild.is_empty()).then(|| self.s.path.clone());
                Ty::new(Kind::Named { name: full(package(self.s), name), arguments: Vec::new(), only_in })
            }
        }
    }

    /// The type of the object in a class: with its own type parameters as arguments.
    pub(super) fn this_of(self, class: NodeId) -> Ty {
        let (s, t) = (self.s, self.t());
        let list = t.child(class, Field::TypeParams);
        let own = |p: NodeId| t.children(p).next().map_or(Ty::UNKNOWN, |n| self.type_name_of(s, n));
        let all = list.map_or(Vec::new(), |l| t.children(l).filter(|c| t.role(*c) != Role::Token).collect::<Vec<_>>());
        let arguments: Vec<Ty> = all.into_iter().map(own).collect();
        match self.of_class(class).kind() {
            Kind::Named { name, only_in, .. } => Ty::new(Kind::Named { name, arguments, only_in }),
            _ => Ty::UNKNOWN,
        }
    }

    pub(super) fn type_name_of(self, s: &Source, node: NodeId) -> Ty {
        let target = s.names.at(node).and_then(|r| r.target);
        target.map_or(Ty::UNKNOWN, |b| self.of_class_binding(b))
    }

    pub(super) fn supertypes(self, s: &Source, class: NodeId) -> Vec<Ty> {
        let types = Types { s, definitions: self.definitions, depth: self.depth };
        let t = &s.tree;
        let lists = t.children(class).filter(|c| t.field(*c) == Field::Bases || t.role(*c) == Role::Other);
        let mut out = Vec::new();
        out.extend(lists.flat_map(|l| types.types_in(l)));
        out
    }

    /// Types that a list of what a class extends or implements names.
    pub(super) fn types_in(self, list: NodeId) -> Vec<Ty> {
        let t = self.t();
        let mut at: Vec<NodeId> = t.children(list).collect();
        if let [one] = at[..]
            && t.role(one) == Role::Other
        {
            at = t.children(one).collect();
        }
        let is_type = |n: &NodeId| matches!(t.role(*n), Role::Name | Role::Type);
        at.into_iter().filter(is_type).map(|n| self.of_node(n)).collect()
    }

    /// The class of the project that a type names.
    pub fn class(self, of: Ty) -> Option<Class<'a>> {
        let Kind::Named { name, .. } = of.kind() else { return None };
        if LIBRARY.classes.contains_key(&name) {
            return None;
        }
        let s = self.s;
        let t = self.t();
        if name == sketch(s) {
            return Some(Class { home: Held::Own(s), node: Tree::ROOT });
        }
        let last = name.rsplit('.').next();
        let named = |n: &NodeId| t.role(*n) == Role::Class && t.child(*n, Field::Name).map(|w| s.str(w)) == last;
        for c in s.names.scopes.iter().map(|x| x.node).filter(named) {
            if matches!(self.of_class(c).kind(), Kind::Named { name: n, .. } if n == name) {
                return Some(Class { home: Held::Own(s), node: c });
            }
        }
        // the file's class, then those in it
        let parts: Vec<&str> = name.split('.').collect();
        for k in (1..=parts.len()).rev() {
            let Some((home, top)) = (self.definitions)(s, &parts[..k].join(".")) else { continue };
            let mut node = top;
            for inner in &parts[k..] {
                let h = &home.tree;
                let body = h.child(node, Field::Body)?;
                let named = |c: &NodeId| {
                    h.role(*c) == Role::Class && h.child(*c, Field::Name).is_some_and(|n| home.str(n) == *inner)
                };
                node = h.children(body).find(named)?;
            }
            return (home.tree.role(node) == Role::Class).then_some(Class { home: Held::Other(home), node });
        }
        None
    }

    /// Types that a class extends, that of an anonymous one too.
    pub fn above(self, class: NodeId) -> Vec<Ty> {
        let t = self.t();
        let anonymous = t.child(class, Field::Name).is_none();
        let made = t.parent(class).filter(|_| anonymous);
        let base = made.and_then(|n| t.child(n, Field::Callee)).map(|b| self.of_node(b));
        // the body of a constant extends its enumeration
        let constant = made.filter(|n| t.role(*n) == Role::ClassField).and_then(|n| t.ancestor(n, &[Role::Class]));
        let base = base.or(constant.map(|e| self.of_class(e)));
        self.supertypes(self.s, class).into_iter().chain(base).collect()
    }

    /// The class that a word names: in a type, before a member, in an import, as a constructor's name.
    pub fn class_named(self, word: NodeId) -> MemberOf {
        let (s, t) = (self.s, self.t());
        let Some(parent) = t.parent(word) else { return MemberOf::Other };
        if t.ancestor(word, &[Role::ImportFrom]).is_some() {
            // the path up to the word
            let whole = t.ancestors(word).take_while(|a| t.role(*a) == Role::DottedName).last().unwrap_or(word);
            let path: String = s.text[t.span(whole).start..t.span(word).end].split_whitespace().collect();
            return self.of_project(Ty::named(&path, Vec::new()));
        }
        if t.role(word) == Role::MemberName {
            return self.class_as_member(word, parent);
        }
        let target = s.names.at(word).and_then(|r| r.target);
        if target.is_some_and(|b| s.names.binding(b).space != Space::Types) {
            return MemberOf::Other;
        }
        if t.field(word) == Field::Name && t.role(parent) == Role::Class {
            return self.of_project(self.of_class(parent));
        }
        match self.class_of_name(word) {
            (ty, true) => self.of_project(ty),
            (ty, false) => match self.of_project(ty) {
                MemberOf::Class(c) => MemberOf::Likely(c),
                other => other,
            },
        }
    }

    fn of_project(self, ty: Ty) -> MemberOf {
        match ty.kind() {
            Kind::Named { .. } if self.class(ty).is_some() => MemberOf::Class(ty.bare()),
            Kind::Named { only_in: Some(_), .. } => MemberOf::Unknown,
            // a class of the project would have been found
            _ => MemberOf::Other,
        }
    }

    /// `port.Ship`, `Outer.Inner`, and the name of a constructor.
    fn class_as_member(self, word: NodeId, parent: NodeId) -> MemberOf {
        let (s, t) = (self.s, self.t());
        match t.role(parent) {
            Role::Function => {
                let class = t.ancestor(parent, &[Role::Class]);
                class.map_or(MemberOf::Other, |c| self.of_project(self.of_class(c)))
            }
            Role::Type => self.of_project(self.of_node(parent).bare()),
            Role::Member if s.str(parent).ends_with(s.str(word)) => {
                let of = t.child(parent, Field::Object).map_or(Ty::UNKNOWN, |o| self.owner(o));
                if matches!(of.kind(), Kind::Named { .. }) && self.class(of).is_some() {
                    return self.nested_in(of, s.str(word));
                }
                let path: String = s.str(parent).split_whitespace().collect();
                match self.of_project(Ty::named(&path, Vec::new())) {
                    MemberOf::Unknown => MemberOf::Other,
                    found => found,
                }
            }
            _ => MemberOf::Other,
        }
    }
}
