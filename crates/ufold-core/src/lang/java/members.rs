//! Members of Java's types: what a method gives and throws, and the class that declares what a word names.

use super::classes::type_parameters;
use super::known::{Answer, LIBRARY};
use super::typing::{Types, is_construction};
use crate::lang::MemberOf;
use crate::names::{BindKind, BindingId, Names, Source, Space};
use crate::tree::{Field, NodeId, Role, Tree};
use crate::types::{Kind, Ty};

pub(super) enum Called {
    Of(Ty),
    Answer(Answer),
}

pub(super) enum Found {
    Own(Ty, Option<Vec<Ty>>),
    Library(Answer, Option<Vec<String>>),
}

/// The types of a method's `throws`.
pub fn throws_of(s: &Source, function: NodeId) -> Vec<NodeId> {
    let t = &s.tree;
    let clause = t.children(function).find(|c| t.role(*c) == Role::Other && s.str(*c).starts_with("throws"));
    clause.map_or(Vec::new(), |c| t.children(c).collect())
}

/// Packages of which making a value, or asking a class for one, does nothing that could be seen.
const QUIET: &[&str] = &["java.util.", "java.text.", "java.math.", "java.lang.", "java.nio.charset."];
/// Classes of these that do more.
const LOUD: &[&str] = &["System", "Thread", "Runtime", "Class", "Timer", "Scanner", "Process", "ProcessBuilder"];

fn makes_quietly(of: Ty) -> bool {
    let Kind::Named { name, .. } = of.kind() else { return false };
    let quiet = |p: &&str| name.strip_prefix(*p).is_some_and(|rest| !LOUD.contains(&rest));
    LIBRARY.classes.contains_key(&name) && !name.starts_with("java.util.concurrent") && QUIET.iter().any(quiet)
}

impl<'a> Types<'a> {
    /// A field that a class has from those it extends.
    pub(super) fn inherited(self, class: NodeId, name: &str) -> Option<Ty> {
        let bases = self.supertypes(self.s, class);
        bases.into_iter().find_map(|b| self.field_of(b, name))
    }

    pub(super) fn field_of(self, of: Ty, name: &str) -> Option<Ty> {
        let d = self.deeper()?;
        let Kind::Named { name: class, arguments, .. } = of.kind() else { return None };
        if let Some(c) = d.class(of) {
            let (s, t) = (c.source(), &c.source().tree);
            let types = Types { s, definitions: d.definitions, depth: d.depth };
            let scope = s.names.scope_of(c.node)?;
            if let Some(b) = s.names.declared_as(scope, Space::Values, name) {
                let given: Vec<(String, Ty)> = c.parameters().into_iter().zip(arguments).collect();
                let declared = t.parent(s.names.binding(b).first)?;
                let constant = t.role(declared) == Role::ClassField;
                return if constant { Some(of) } else { types.binding(b).map(|x| c.given(x, &given)) };
            }
            return types.inherited(c.node, name);
        }
        match LIBRARY.member(&class, &arguments, name)?.0 {
            Answer::Is(t) => Some(t),
            _ => None,
        }
    }

    pub(super) fn called(self, call: NodeId) -> Option<Called> {
        let (s, t) = (self.s, self.t());
        let callee = t.child(call, Field::Callee)?;
        let count = t.child(call, Field::Arguments).map_or(0, |a| t.children(a).count());
        let found = match t.role(callee) {
            Role::Name => {
                let class = self.class_of_method(callee)?;
                self.method(self.this_of(class), s.str(callee), count)?
            }
            _ => {
                let (object, member) = (t.child(callee, Field::Object)?, t.child(callee, Field::Member)?);
                self.method(self.owner(object), s.str(member), count)?
            }
        };
        Some(match found {
            Found::Own(result, _) => Called::Of(result),
            Found::Library(answer, _) => Called::Answer(answer),
        })
    }

    /// A method of the library that only computes; whether it makes an object.
    pub(super) fn computes(self, call: NodeId) -> Option<bool> {
        let t = self.t();
        let callee = t.child(call, Field::Callee)?;
        let (object, member) = (t.child(callee, Field::Object)?, t.child(callee, Field::Member)?);
        match self.owner(object).kind() {
            Kind::Named { name, .. } => LIBRARY.computes(&name, self.s.str(member)),
            _ => None,
        }
    }

    /// The class in whose code a bare method name is found: the innermost one that has it.
    pub(super) fn class_of_method(self, name: NodeId) -> Option<NodeId> {
        let (s, t) = (self.s, self.t());
        match s.names.at(name)?.target {
            Some(b) => {
                let first = s.names.binding(b).first;
                let sketch = t.parent(first).and_then(|f| t.parent(f)).filter(|top| *top == Tree::ROOT);
                t.ancestor(first, &[Role::Class]).or(sketch)
            }
            None => t.ancestor(name, &[Role::Class]),
        }
    }

    /// A method of a type by its name and the number of its arguments.
    pub(super) fn method(self, of: Ty, name: &str, count: usize) -> Option<Found> {
        let d = self.deeper()?;
        let Kind::Named { name: class, arguments, .. } = of.kind() else {
            return None;
        };
        let Some(c) = d.class(of) else {
            let (answer, throws) = LIBRARY.member(&class, &arguments, name)?;
            return Some(Found::Library(answer, throws));
        };
        let (s, t) = (c.source(), &c.source().tree);
        let types = Types { s, definitions: d.definitions, depth: d.depth };
        let named = |m: &NodeId| {
            t.role(*m) == Role::Function
                && t.child(*m, Field::Name).is_some_and(|n| t.role(n) == Role::Name && s.str(n) == name)
        };
        let all: Vec<NodeId> = c.members().into_iter().filter(named).collect();
        let takes = |m: &NodeId| t.child(*m, Field::Parameters).map_or(0, |p| t.children(p).count());
        let open = |m: &NodeId| t.child(*m, Field::Parameters).is_some_and(|p| s.str(p).contains("..."));
        let fit: Vec<NodeId> = all.iter().copied().filter(|m| takes(m) == count || open(m)).collect();
        let Some(first) = fit.first() else {
            if t.child(c.node, Field::Parameters).is_some() && count == 0 {
                // a record gives its components
                return types.field_of(of, name).map(|x| Found::Own(x, Some(Vec::new())));
            }
            let above = types.supertypes(s, c.node);
            let given: Vec<(String, Ty)> = c.parameters().into_iter().zip(arguments).collect();
            let above = above.into_iter().map(|b| b.with(&given));
            let is_enum = super::scopes::class_word(s, c.node) == "enum"
                && ["name", "ordinal", "toString", "compareTo"].contains(&name);
            let more = is_enum.then(|| Ty::named("java.lang.Enum", Vec::new()));
            return above.into_iter().chain(more).find_map(|b| types.method(b, name, count));
        };
        let given: Vec<(String, Ty)> = c.parameters().into_iter().zip(arguments).collect();
        let result = |m: NodeId| {
            let own = type_parameters(s, m);
            let written = t.child(m, Field::ReturnType).map_or(Ty::UNKNOWN, |r| types.of_node(r));
            let inferred =
                written.parts().iter().any(|p| matches!(p.kind(), Kind::Parameter { name, .. } if own.contains(&name)));
            if inferred { Ty::UNKNOWN } else { c.given(written, &given) }
        };
        let of_first = result(*first);
        let same = fit.iter().all(|m| result(*m) == of_first);
        let mut thrown = Some(Vec::new());
        for m in &fit {
            let more = types.declared_throws(*m);
            thrown = thrown.zip(more).map(|(mut all, more): (Vec<Ty>, Vec<Ty>)| {
                all.extend(more.into_iter().filter(|x| !all.contains(x)).collect::<Vec<_>>());
                all
            });
        }
        Some(Found::Own(if same { of_first } else { Ty::UNKNOWN }, thrown))
    }

    /// The call can only mean one function of the project, whatever the types of its arguments.
    pub fn is_only_target(self, call: NodeId) -> bool {
        let (s, t) = (self.s, self.t());
        let Some(callee) = t.child(call, Field::Callee) else { return false };
        let makes = is_construction(s, call);
        let (of, name) = match (makes, t.role(callee)) {
            (true, _) => (self.of_node(callee), ""),
            (_, Role::Name) => match self.class_of_method(callee) {
                Some(class) => (self.this_of(class), s.str(callee)),
                None => return false,
            },
            _ => match (t.child(callee, Field::Object), t.child(callee, Field::Member)) {
                (Some(object), Some(member)) => (self.owner(object), s.str(member)),
                _ => return false,
            },
        };
        let Some(c) = self.class(of) else { return false };
        let (home, h) = (c.source(), &c.source().tree);
        let types = Types { s: home, definitions: self.definitions, depth: self.depth };
        let named = |m: &NodeId| match makes {
            true => h.child(*m, Field::ReturnType).is_none(),
            false => h.child(*m, Field::Name).is_some_and(|n| home.str(n) == name),
        };
        let all: Vec<NodeId> = c.members().into_iter().filter(|m| h.role(*m) == Role::Function && named(m)).collect();
        let open = |m: NodeId| h.child(m, Field::Parameters).is_some_and(|p| home.str(p).contains("..."));
        // what it extends may have others of the name
        matches!(all[..], [one] if !open(one)) && (makes || types.supertypes(home, c.node).is_empty())
    }

    /// What a method says that it throws; none where a type of it is not known.
    pub fn declared_throws(self, function: NodeId) -> Option<Vec<Ty>> {
        throws_of(self.s, function).into_iter().map(|n| self.of_node(n).known()).collect()
    }

    /// Checked exceptions that a call may throw; none where that is not known.
    pub fn thrown_by(self, call: NodeId) -> Option<Vec<Ty>> {
        let (s, t) = (self.s, self.t());
        let callee = t.child(call, Field::Callee)?;
        let count = t.child(call, Field::Arguments).map_or(0, |a| t.children(a).count());
        let of_names = |names: Option<Vec<String>>| names.map(|n| n.iter().map(|x| Ty::named(x, Vec::new())).collect());
        if is_construction(s, call) {
            let of = match self.of_node(callee).known() {
                Some(t) => t,
                // without its type arguments
                None => self.of_node(t.children(callee).next()?).known()?,
            };
            let Some(c) = self.class(of) else {
                let Kind::Named { name, .. } = of.kind() else { return None };
                let class = LIBRARY.classes.get(&name)?;
                return class.members.get("-").map_or(Some(Vec::new()), |m| of_names(m.throws.clone()));
            };
            let (s, t) = (c.source(), &c.source().tree);
            let types = Types { s, definitions: self.definitions, depth: self.depth };
            let constructor = |m: &NodeId| t.role(*m) == Role::Function && t.child(*m, Field::ReturnType).is_none();
            let all: Option<Vec<Vec<Ty>>> =
                c.members().into_iter().filter(constructor).map(|m| types.declared_throws(m)).collect();
            return all.map(|v| v.concat());
        }
        let found = match t.role(callee) {
            Role::Name => self.method(self.this_of(self.class_of_method(callee)?), s.str(callee), count)?,
            _ => {
                let (object, member) = (t.child(callee, Field::Object)?, t.child(callee, Field::Member)?);
                let owner = self.owner(object);
                if matches!(owner.kind(), Kind::Array(_)) {
                    return (s.str(member) == "clone").then(Vec::new);
                }
                self.method(owner, s.str(member), count)?
            }
        };
        match found {
            Found::Own(_, thrown) => thrown,
            Found::Library(_, thrown) => of_names(thrown),
        }
    }

    /// A field or block of a class calls something, or makes objects of the project's classes, when the class is loaded.
    pub fn acts_when_made(self, member: NodeId) -> bool {
        let (s, t) = (self.s, self.t());
        let acts = |n: NodeId| match t.role(n) {
            Role::Block => true,
            Role::Call if is_construction(s, n) => {
                // perhaps without its type arguments
                let made = t.child(n, Field::Callee).into_iter().flat_map(|c| [Some(c), t.children(c).next()]);
                !made.flatten().any(|c| makes_quietly(self.of_node(c)))
            }
            Role::Call => {
                let object = t.child(n, Field::Callee).and_then(|c| t.child(c, Field::Object));
                !object.is_some_and(|o| t.role(o) == Role::Name && makes_quietly(self.type_name(o)))
            }
            _ => false,
        };
        t.subtree(member).any(acts)
    }

    /// Static fields and blocks of a class, or of one above it, may run code: they call something, or make objects of
    /// the project's classes.
    pub fn acts_when_loaded(self, class: NodeId) -> bool {
        let Some(d) = self.deeper() else { return true };
        let (s, t) = (self.s, self.t());
        let word = super::scopes::class_word(s, class);
        let members = t.child(class, Field::Body).map_or(Vec::new(), |b| t.children(b).collect());
        let fields = members.into_iter().filter(|m| t.role(*m) == Role::ClassField);
        let mut shared = fields.filter(|f| super::has_word(s, *f, "static") || word == "interface");
        word == "enum"
            || shared.any(|f| self.acts_when_made(f))
            || self.above(class).into_iter().any(|b| {
                d.class(b).is_some_and(|c| {
                    Types { s: c.source(), definitions: d.definitions, depth: d.depth }.acts_when_loaded(c.node)
                })
            })
    }

    /// An enumeration's constant, or a static final field: by the class's name.
    pub fn is_constant(self, path: NodeId) -> bool {
        let (s, t) = (self.s, self.t());
        let Some((object, member)) = t.child(path, Field::Object).zip(t.child(path, Field::Member)) else {
            return false;
        };
        let is_type = s.names.at(object).is_some_and(|r| match r.target {
            Some(b) => s.names.binding(b).space == Space::Types,
            None => s.str(object).starts_with(char::is_uppercase),
        });
        let of = self.type_name(object);
        if t.role(path) != Role::Member || t.role(object) != Role::Name || !is_type {
            return false;
        }
        if let Kind::Named { name, .. } = of.kind()
            && LIBRARY.classes.contains_key(&name)
        {
            return s.str(member).chars().all(|c| c.is_ascii_uppercase() || c == '_');
        }
        let Some(c) = self.class(of) else { return false };
        let (s2, t2) = (c.source(), &c.source().tree);
        // loading the class may run code of its own
        let runs = c
            .members()
            .into_iter()
            .any(|m| t2.role(m) == Role::ClassField && t2.children(m).any(|x| t2.role(x) == Role::Block));
        let scope = s2.names.scope_of(c.node);
        let b = scope.and_then(|x| s2.names.declared_as(x, Space::Values, s.str(member)));
        !runs && b.is_some_and(|b| super::scopes::is_static(s2, b) && super::scopes::is_final(s2, b))
    }

    /// What is called is a method, by a reference too.
    fn space_at(self, word: NodeId) -> Space {
        let t = self.t();
        let member = t.role(word) == Role::MemberName;
        let called = t.parent(word).is_some_and(|p| {
            t.field(word) == Field::Callee
                || member && t.field(p) == Field::Callee && t.role(p) == Role::Member
                || member && t.role(p) == Role::Other && self.s.str(p).contains("::")
        });
        if called { Space::Functions } else { Space::Values }
    }

    /// A bare name in the place of a word, as a member of the innermost class around it that has or inherits one.
    pub fn member_around(self, word: NodeId, name: &str) -> MemberOf {
        let (t, space) = (self.t(), self.space_at(word));
        let around = t.ancestors(word).filter(|a| t.role(*a) == Role::Class);
        let found = around.map(|class| self.in_class(self.s, class, name, space));
        found.into_iter().find(|f| *f != MemberOf::Other).unwrap_or(MemberOf::Other)
    }

    /// The class that declares what a word names.
    pub fn member_of(self, word: NodeId) -> MemberOf {
        let (s, t) = (self.s, self.t());
        let Some(parent) = t.parent(word) else { return MemberOf::Other };
        let space = self.space_at(word);
        if let Some(import) = t.ancestor(word, &[Role::ImportFrom]) {
            let Some(i) = super::scopes::imports(t, import, &s.text) else { return MemberOf::Other };
            let last = t.span(word).end == t.span(parent).end && t.parent(parent) == Some(import);
            let is_static = t.children(import).any(|c| s.str(c) == "static");
            if !last || !is_static || i.wildcard {
                return MemberOf::Other;
            }
            let of = Ty::named(&i.module, Vec::new());
            let found = [Space::Functions, Space::Values].map(|x| self.declaring(of, s.str(word), x));
            return found.into_iter().find(|f| *f != MemberOf::Other).unwrap_or(MemberOf::Other);
        }
        if t.role(word) == Role::MemberName {
            if t.role(parent) == Role::Member && t.field(word) == Field::Member {
                let Some(object) = t.child(parent, Field::Object) else { return MemberOf::Unknown };
                return self.declaring(self.object(object), s.str(word), space);
            }
            let object = t.children(parent).next().filter(|_| space == Space::Functions);
            return object.map_or(MemberOf::Other, |o| self.declaring(self.object(o), s.str(word), space));
        }
        // a constant of the enumeration that is told apart
        let label = t.role(parent) == Role::Other && t.parent(parent).is_some_and(|c| t.role(c) == Role::Case);
        if label {
            let switch = t.ancestor(parent, &[Role::Switch]);
            let subject = switch.and_then(|x| t.child(x, Field::Subject)).map_or(Ty::UNKNOWN, |x| self.value(x));
            match self.declaring(subject, s.str(word), Space::Values) {
                MemberOf::Other => {}
                found => return found,
            }
        }
        let Some(r) = s.names.at(word) else { return self.declared_member(word) };
        match r.target {
            Some(b) if s.names.binding(b).space == Space::Types => match &s.names.binding(b).import {
                // written like a class, and perhaps a static field of one
                Some(i) if !matches!(t.field(word), Field::Type | Field::ReturnType | Field::Bases) => {
                    self.declaring(Ty::named(&i.module, Vec::new()), s.str(word), space)
                }
                _ => MemberOf::Other,
            },
            Some(b) if s.names.is_member(b) => {
                let class = s.names.scope(s.names.binding(b).scope).node;
                let own = MemberOf::Class(self.of_class(class));
                if super::scopes::is_sure(s, word) { own } else { self.bare_name(word, space) }
            }
            Some(b) if self.is_of_sketch(b) => match self.member_around(word, s.str(word)) {
                MemberOf::Other => MemberOf::Class(self.of_class(Tree::ROOT)),
                found => found,
            },
            Some(b) => match &s.names.binding(b).import {
                Some(i) if s.names.binding(b).space != Space::Types => match self.member_around(word, s.str(word)) {
                    MemberOf::Other => self.declaring(Ty::named(&i.module, Vec::new()), s.str(word), space),
                    found => found,
                },
                _ => MemberOf::Other,
            },
            None if matches!(t.field(word), Field::Type | Field::ReturnType | Field::Bases) => MemberOf::Other,
            None => self.bare_name(word, space),
        }
    }

    /// A method that stands without a class.
    fn is_of_sketch(self, b: BindingId) -> bool {
        let binding = self.s.names.binding(b);
        binding.scope == Names::MODULE && binding.kind == BindKind::Function
    }

    /// A field that is declared without a value is no use of its name.
    pub(super) fn declared_member(self, word: NodeId) -> MemberOf {
        let (s, t) = (self.s, self.t());
        let class =
            t.ancestor(word, &[Role::Class, Role::Function, Role::Lambda]).filter(|c| t.role(*c) == Role::Class);
        let scope = class.and_then(|c| s.names.scope_of(c));
        let own = scope.and_then(|x| s.names.declared_as(x, Space::Values, s.str(word)));
        match class.filter(|_| own.is_some_and(|b| s.names.binding(b).first == word)) {
            Some(c) => MemberOf::Class(self.of_class(c)),
            None => MemberOf::Other,
        }
    }

    /// What a member is taken from: a value, a class, or the object of the class above.
    pub(super) fn object(self, object: NodeId) -> Ty {
        if self.s.str(object) == "super" {
            let class = self.t().ancestor(object, &[Role::Class]);
            return class.and_then(|c| self.above(c).first().copied()).unwrap_or(Ty::UNKNOWN);
        }
        self.owner(object)
    }

    /// A bare name: of the innermost class around it that has or inherits it, or of one that is imported whole.
    fn bare_name(self, word: NodeId, space: Space) -> MemberOf {
        let (t, name) = (self.t(), self.s.str(word));
        match self.member_around(word, name) {
            MemberOf::Other => {}
            found => return found,
        }
        // classes whose static members are imported all at once
        let whole = super::scopes::wildcards(t, &self.s.text);
        let of_members = whole.filter(|(i, _)| t.children(*i).any(|c| self.s.str(c) == "static"));
        let found = of_members.map(|(_, i)| self.declaring(Ty::named(&i.module, Vec::new()), name, space));
        found.into_iter().find(|f| *f != MemberOf::Other).unwrap_or(MemberOf::Other)
    }

    /// Of a type, or of what it extends; what is neither is of something outside the project.
    pub(super) fn declaring(self, of: Ty, name: &str, space: Space) -> MemberOf {
        let Some(d) = self.deeper() else { return MemberOf::Unknown };
        match of.kind() {
            Kind::Named { .. } => match d.class(of) {
                Some(c) => d.in_class(c.source(), c.node, name, space),
                None => MemberOf::Other,
            },
            Kind::Array(_) | Kind::Primitive(_) => MemberOf::Other,
            _ => MemberOf::Unknown,
        }
    }

    /// The class above that declares a method of that name.
    pub fn method_above(self, class: NodeId, name: &str) -> MemberOf {
        let found = self.above(class).into_iter().map(|b| self.declaring(b, name, Space::Functions));
        let mut unknown = MemberOf::Other;
        for f in found {
            match f {
                MemberOf::Class(_) => return f,
                MemberOf::Likely(_) | MemberOf::Unknown => unknown = f,
                MemberOf::Other => {}
            }
        }
        unknown
    }

    pub(super) fn in_class(self, s: &Source, class: NodeId, name: &str, space: Space) -> MemberOf {
        let types = Types { s, definitions: self.definitions, depth: self.depth };
        let scope = s.names.scope_of(class);
        if scope.is_some_and(|x| s.names.declared_as(x, space, name).is_some()) {
            let own = types.of_class(class);
            return if own.is_known() { MemberOf::Class(own) } else { MemberOf::Unknown };
        }
        let Some(d) = types.deeper() else { return MemberOf::Unknown };
        let found: Vec<MemberOf> = d.above(class).into_iter().map(|b| d.declaring(b, name, space)).collect();
        let known = found.iter().find(|f| matches!(f, MemberOf::Class(_)));
        known.or(found.iter().find(|f| **f == MemberOf::Unknown)).copied().unwrap_or(MemberOf::Other)
    }

    /// Whether a class may have a member of that name from those outside the project that it extends: one of them has
    /// it, or is not known.
    pub fn may_inherit(self, class: NodeId, name: &str) -> bool {
        let Some(d) = self.deeper() else { return true };
        d.above(class).into_iter().any(|b| {
            let Kind::Named { name: full, .. } = b.kind() else { return true };
            match d.class(b) {
                Some(c) => {
                    Types { s: c.source(), definitions: d.definitions, depth: d.depth }.may_inherit(c.node, name)
                }
                None => !LIBRARY.lacks(&full, name),
            }
        })
    }

    /// The same of the interfaces that it names.
    pub fn may_get_besides(self, class: NodeId, name: &str) -> bool {
        let (s, t) = (self.s, self.t());
        let Some(d) = self.deeper() else { return true };
        let implements = |c: &NodeId| s.str(*c).starts_with("implements");
        let interfaces = t.children(class).filter(implements).flat_map(|l| d.types_in(l));
        interfaces.into_iter().any(|of| {
            let Kind::Named { name: full, .. } = of.kind() else { return true };
            match d.class(of) {
                Some(c) => {
                    let there = Types { s: c.source(), definitions: d.definitions, depth: d.depth };
                    let own = c.source().names.scope_of(c.node);
                    let spaces = [Space::Functions, Space::Values, Space::Types];
                    let has = |x| spaces.iter().any(|k| c.source().names.declared_as(x, *k, name).is_some());
                    own.is_none_or(has) || there.may_inherit(c.node, name)
                }
                None => !LIBRARY.lacks(&full, name),
            }
        })
    }

    /// Whether an exception need not be declared; none where that is not known.
    pub fn is_unchecked(self, exception: Ty) -> Option<bool> {
        let d = self.deeper()?;
        let Kind::Named { name, .. } = exception.kind() else { return None };
        if let Some(c) = d.class(exception) {
            let base = d.supertypes(c.source(), c.node).first().copied()?;
            return d.is_unchecked(base);
        }
        LIBRARY.is_unchecked(&name)
    }
}
