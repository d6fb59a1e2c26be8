//! Types of values: from declarations, literals, operators, casts, the project's own signatures and the library's table.
//!
//! What a generic method would infer, what a lambda's place gives its parameters, `?:` of different types and members of
//! classes that are neither in the project nor in the table are unknown.

use std::sync::Arc;

use super::known::{Answer, LIBRARY};
use crate::lang::{Definitions, MemberOf};
use crate::names::{BindKind, BindingId, Source, Space, Use};
use crate::tree::{Field, NodeId, Role, Tree};
use crate::types::{Kind, Ty};

/// Deeper chains of inference are given up.
const MOST_STEPS: usize = 12;

/// Types of one file's code.
#[derive(Clone, Copy)]
pub struct Types<'a> {
    pub s: &'a Source,
    pub definitions: &'a Definitions<'a>,
    pub depth: usize,
}

/// A class of the project.
pub struct Class<'a> {
    home: Held<'a>,
    node: NodeId,
}

enum Held<'a> {
    Own(&'a Source),
    Other(Arc<Source>),
}

impl Class<'_> {
    pub fn source(&self) -> &Source {
        match &self.home {
            Held::Own(s) => s,
            Held::Other(s) => s,
        }
    }
    fn members(&self) -> Vec<NodeId> {
        let t = &self.source().tree;
        t.child(self.node, Field::Body).map_or(Vec::new(), |b| t.children(b).collect())
    }
    fn parameters(&self) -> Vec<String> {
        type_parameters(self.source(), self.node)
    }
    /// The type of a member for these type arguments; without them it is not known.
    fn given(&self, member: Ty, arguments: &[(String, Ty)]) -> Ty {
        let own = self.parameters();
        let lacks = |p: &Ty| matches!(p.kind(), Kind::Parameter { name, .. } if own.contains(&name));
        if arguments.len() < own.len() && member.parts().iter().any(lacks) {
            Ty::UNKNOWN
        } else {
            member.with(arguments)
        }
    }
}

fn type_parameters(s: &Source, declaration: NodeId) -> Vec<String> {
    let list = s.tree.child(declaration, Field::TypeParams);
    let first = |p: NodeId| s.tree.children(p).next().map(|n| s.str(n).to_string());
    list.map_or(Vec::new(), |l| s.tree.children(l).filter_map(first).collect())
}

const NUMERIC: [&str; 7] = ["byte", "short", "char", "int", "long", "float", "double"];

impl<'a> Types<'a> {
    pub fn new(s: &'a Source, definitions: &'a Definitions<'a>) -> Types<'a> {
        Types { s, definitions, depth: 0 }
    }

    fn deeper(self) -> Option<Types<'a>> {
        (self.depth < MOST_STEPS).then_some(Types { depth: self.depth + 1, ..self })
    }

    fn t(&self) -> &'a Tree {
        &self.s.tree
    }

    /// The type of an expression, or of the local that a name declares.
    pub fn value(self, node: NodeId) -> Ty {
        let Some(d) = self.deeper() else { return Ty::UNKNOWN };
        // what a wildcard stands for has no name
        let named = |t: &Ty| !matches!(t.kind(), Kind::Written(_));
        d.found(node).filter(named).unwrap_or(Ty::UNKNOWN)
    }

    fn found(self, node: NodeId) -> Option<Ty> {
        let (s, t) = (self.s, self.t());
        let own = |f: Field| t.child(node, f);
        match t.role(node) {
            Role::Literal => literal(s.str(node)),
            Role::Name => self.name(node),
            Role::Paren => Some(self.value(t.children(node).next()?)),
            Role::NotOp | Role::Compare | Role::BoolOp => Some(Ty::primitive("boolean")),
            Role::UnaryOp => match own(Field::Type) {
                Some(written) => self.of_node(written).known(),
                None => promoted(self.value(own(Field::Expression)?)),
            },
            Role::BinaryOp => self.operation(node),
            Role::Assign | Role::AugAssign => Some(self.value(own(Field::Left)?)),
            Role::Conditional => {
                let [_, a, b] = t.conditional_parts(node)?;
                let (a, b) = (self.value(a), self.value(b));
                (a == b).then_some(a)
            }
            Role::Member => self.field(node),
            Role::Index => match self.value(own(Field::Object)?).kind() {
                Kind::Array(element) => Some(element),
                _ => None,
            },
            Role::List => self.array(node),
            Role::Call => self.call(node),
            _ => None,
        }
    }

    /// A type as it is written.
    pub fn of_node(self, node: NodeId) -> Ty {
        self.of_type(node).unwrap_or(Ty::UNKNOWN)
    }

    fn of_type(self, node: NodeId) -> Option<Ty> {
        let (s, t) = (self.s, self.t());
        if is_primitive(t, node) {
            return Some(Ty::primitive(s.str(node)));
        }
        if t.role(node) == Role::Name {
            return self.type_name(node).known();
        }
        let children: Vec<NodeId> = t.children(node).collect();
        let text = s.str(node);
        if text.ends_with(']') {
            let element = self.of_node(*children.first()?);
            let dimensions = children.get(1).map_or("", |d| s.str(*d));
            return (0..dimensions.matches('[').count()).fold(element, |e, _| Ty::array_of(e)).known();
        }
        if text.ends_with('>') {
            let [base, list] = children[..] else { return None };
            let arguments: Vec<Ty> =
                t.children(list).filter(|c| t.role(*c) != Role::Token).map(|a| self.argument(a)).collect();
            return match self.of_node(base).kind() {
                Kind::Named { name, only_in, .. }
                    if arguments.iter().all(|a| a.is_known()) && !arguments.is_empty() =>
                {
                    Some(Ty::new(Kind::Named { name, arguments, only_in }))
                }
                _ => None,
            };
        }
        // with its package before it
        if text.starts_with(char::is_lowercase) && text.contains('.') {
            let word = t.subtree(node).find(|n| t.is_leaf(*n) && t.role(*n) == Role::Name)?;
            let is_package = s.names.at(word).is_none_or(|r| r.target.is_none());
            return is_package.then(|| Ty::named(text, Vec::new()));
        }
        // `Map.Entry`
        let [outer, inner] = children[..] else { return None };
        match self.of_node(outer).kind() {
            Kind::Named { name, only_in, arguments } if arguments.is_empty() => {
                let name = format!("{name}.{}", s.str(inner));
                Some(Ty::new(Kind::Named { name, arguments: Vec::new(), only_in }))
            }
            _ => None,
        }
    }

    /// A type argument; wildcards stay as they are written.
    fn argument(self, node: NodeId) -> Ty {
        let text = self.s.str(node);
        if text.starts_with('?') { Ty::written(text) } else { self.of_node(node) }
    }

    fn type_name(self, node: NodeId) -> Ty {
        let (s, name) = (self.s, self.s.str(node));
        let target = s.names.at(node).and_then(|r| r.target);
        match target {
            Some(b) => self.of_class_binding(b),
            None => self.free_type(name),
        }
    }

    fn of_class_binding(self, b: BindingId) -> Ty {
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
    fn is_nested_static(self, class: NodeId) -> bool {
        let word = super::scopes::class_word(self.s, class);
        let in_interface = self
            .t()
            .ancestor(class, &[Role::Class])
            .is_some_and(|c| super::scopes::class_word(self.s, c) == "interface");
        super::has_word(self.s, class, "static") || in_interface || ["enum", "record", "interface"].contains(&word)
    }

    /// A type that nothing in the file names: of the package, of `java.lang`, or of a package that is imported whole.
    fn free_type(self, name: &str) -> Ty {
        if name == "var" {
            return Ty::UNKNOWN;
        }
        if let Some((home, node)) = (self.definitions)(self.s, name) {
            let types = Types { s: &home, definitions: self.definitions, depth: self.depth };
            return if home.tree.role(node) == Role::Class { types.of_class(node) } else { Ty::UNKNOWN };
        }
        if let Some(full) = LIBRARY.of_lang(name) {
            return Ty::named(&full, Vec::new());
        }
        let wild = wildcards(self.s);
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

    fn name(self, node: NodeId) -> Option<Ty> {
        let (s, t) = (self.s, self.t());
        // a declaration without a value is no use of the name
        let declared = || {
            let mut all = (0..s.names.bindings.len() as u32).map(BindingId);
            all.find(|b| s.names.binding(*b).first == node)
        };
        let b = match s.names.at(node) {
            Some(r) => r.target,
            None => declared(),
        };
        if s.str(node) == "this" {
            let owner = s.names.scope(s.names.binding(b?).scope).node;
            return Some(self.this_of(t.ancestor(owner, &[Role::Class])?));
        }
        match b {
            Some(b) => self.binding(b),
            None => {
                let class = t.ancestor(node, &[Role::Class])?;
                self.inherited(class, s.str(node))
            }
        }
    }

    /// The type of the object in a class: with its own type parameters as arguments.
    fn this_of(self, class: NodeId) -> Ty {
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

    fn type_name_of(self, s: &Source, node: NodeId) -> Ty {
        let target = s.names.at(node).and_then(|r| r.target);
        target.map_or(Ty::UNKNOWN, |b| self.of_class_binding(b))
    }

    /// A field that a class has from those it extends.
    fn inherited(self, class: NodeId, name: &str) -> Option<Ty> {
        let bases = self.supertypes(self.s, class);
        bases.into_iter().find_map(|b| self.field_of(b, name))
    }

    fn supertypes(self, s: &Source, class: NodeId) -> Vec<Ty> {
        let types = Types { s, definitions: self.definitions, depth: self.depth };
        let t = &s.tree;
        let lists = t.children(class).filter(|c| t.field(*c) == Field::Bases || t.role(*c) == Role::Other);
        let mut out = Vec::new();
        for l in lists {
            let mut at: Vec<NodeId> = t.children(l).collect();
            if let [one] = at[..]
                && t.role(one) == Role::Other
            {
                at = t.children(one).collect();
            }
            let is_type = |n: &NodeId| matches!(t.role(*n), Role::Name | Role::Type);
            out.extend(at.into_iter().filter(is_type).map(|n| types.of_node(n)));
        }
        out
    }

    /// The declared type of a variable, or of what it is first given.
    fn binding(self, b: BindingId) -> Option<Ty> {
        let (s, t) = (self.s, self.t());
        let binding = s.names.binding(b);
        let mut places: Vec<NodeId> = vec![binding.first];
        // a variable of a pattern may be declared again
        places.extend(s.names.references_to(b).filter(|r| r.usage == Use::Write).map(|r| r.node));
        let mut types = places.into_iter().filter_map(|n| self.declared(n));
        let first = types.next()?;
        (binding.kind != BindKind::Import && t.role(binding.first) == Role::Name && types.all(|x| x == first))
            .then_some(first)
    }

    /// The type that is written where a variable is declared.
    fn declared(self, name: NodeId) -> Option<Ty> {
        let (s, t) = (self.s, self.t());
        let parent = t.parent(name)?;
        if t.children(parent).any(|c| t.role(c) == Role::Token && s.str(c).starts_with('[')) {
            return Some(Ty::UNKNOWN);
        }
        let of = |written: NodeId, value: Option<NodeId>| match s.str(written) {
            "var" => value.map_or(Ty::UNKNOWN, |v| self.value(v)),
            _ => self.of_node(written),
        };
        match t.role(parent) {
            Role::Assign => {
                if t.field(name) != Field::Left {
                    return None;
                }
                let value = t.child(parent, Field::Right);
                if let Some(written) = t.child(parent, Field::Type) {
                    return Some(of(written, value));
                }
                let around = t.parent(parent)?;
                match t.role(around) {
                    Role::Declare | Role::ClassField => Some(of(t.child(around, Field::Type)?, value)),
                    Role::Parameter => Some(Ty::array_of(t.children(around).find_map(|c| self.of_node(c).known())?)),
                    _ => None,
                }
            }
            Role::Parameter => Some(of(t.child(parent, Field::Type)?, None)),
            Role::For => match t.child(parent, Field::Type)? {
                written if s.str(written) == "var" => Some(self.element(self.value(t.child(parent, Field::Right)?))),
                written => Some(self.of_node(written)),
            },
            Role::Compare => Some(self.of_node(t.child(parent, Field::Right)?)),
            Role::ClassField => Some(self.of_class(t.ancestor(parent, &[Role::Class])?)),
            Role::Other => {
                let written = t.children(parent).find(|c| *c != name && t.role(*c) != Role::Token)?;
                // of several caught types none is the type
                let one = if t.role(written) == Role::Other { only(t.children(written))? } else { written };
                Some(self.of_node(one))
            }
            Role::Parameters | Role::Lambda => Some(self.given(name).unwrap_or(Ty::UNKNOWN)),
            _ => None,
        }
    }

    /// The parameter of a lambda that is handed to an everyday method of a collection or a stream.
    fn given(self, name: NodeId) -> Option<Ty> {
        let (s, t) = (self.s, self.t());
        let lambda = t.ancestor(name, &[Role::Lambda])?;
        let list = t.child(lambda, Field::Parameters)?;
        let all: Vec<NodeId> = if list == name { vec![name] } else { t.children(list).collect() };
        let place = all.iter().position(|n| *n == name)?;
        let arguments = t.parent(lambda).filter(|a| t.role(*a) == Role::Arguments && t.children(*a).count() == 1)?;
        let callee = t.child(t.parent(arguments)?, Field::Callee).filter(|c| t.role(*c) == Role::Member)?;
        let Kind::Named { name: class, arguments, .. } = self.value(t.child(callee, Field::Object)?).kind() else {
            return None;
        };
        let method = s.str(t.child(callee, Field::Member)?);
        let each = [
            "forEach",
            "removeIf",
            "filter",
            "map",
            "flatMap",
            "mapToInt",
            "mapToDouble",
            "mapToLong",
            "anyMatch",
            "allMatch",
            "noneMatch",
            "peek",
            "ifPresent",
        ];
        let element = ["java.lang.Iterable", "java.util.stream.Stream", "java.util.Optional"]
            .into_iter()
            .find_map(|wanted| LIBRARY.seen_as(&class, &arguments, wanted)?.first().copied());
        let entry = || LIBRARY.seen_as(&class, &arguments, "java.util.Map")?.get(place).copied();
        let found = match (element, method) {
            (Some(e), m) if each.contains(&m) && all.len() == 1 => Some(e),
            (None, "forEach") if all.len() == 2 => entry(),
            _ => None,
        };
        found.filter(|t| !matches!(t.kind(), Kind::Written(_)))
    }

    /// What a loop over a value gives.
    fn element(self, of: Ty) -> Ty {
        match of.kind() {
            Kind::Array(e) => e,
            Kind::Named { name, arguments, .. } => {
                let seen = LIBRARY.seen_as(&name, &arguments, "java.lang.Iterable");
                seen.and_then(|a| a.first().copied())
                    .filter(|t| !matches!(t.kind(), Kind::Written(_)))
                    .unwrap_or(Ty::UNKNOWN)
            }
            _ => Ty::UNKNOWN,
        }
    }

    fn operation(self, node: NodeId) -> Option<Ty> {
        let t = self.t();
        let [left, right] =
            [Field::Left, Field::Right].map(|f| t.child(node, f).map_or(Ty::UNKNOWN, |n| self.value(n)));
        let text = Ty::named("java.lang.String", Vec::new());
        match t.child(node, Field::Operator).map_or("", |o| self.s.str(o)) {
            "+" if left == text || right == text => Some(text),
            "<<" | ">>" | ">>>" => promoted(left),
            "&" | "|" | "^" if left == right && unboxed(left) == Some("boolean".into()) => {
                Some(Ty::primitive("boolean"))
            }
            _ => wider(left, right),
        }
    }

    fn array(self, node: NodeId) -> Option<Ty> {
        let (s, t) = (self.s, self.t());
        let element = self.of_node(t.child(node, Field::Type)?);
        let head = s.str(node).split('{').next().unwrap_or("");
        (0..head.matches('[').count()).fold(element, |e, _| Ty::array_of(e)).known()
    }

    fn field(self, node: NodeId) -> Option<Ty> {
        let (s, t) = (self.s, self.t());
        let (object, member) = (t.child(node, Field::Object)?, s.str(t.child(node, Field::Member)?));
        let of = self.owner(object);
        if member == "length" && matches!(of.kind(), Kind::Array(_)) {
            return Some(Ty::primitive("int"));
        }
        self.field_of(of, member)
    }

    /// What a member is taken from: a value, or a class.
    fn owner(self, object: NodeId) -> Ty {
        let (s, t) = (self.s, self.t());
        let target = s.names.at(object).and_then(|r| r.target);
        let class = target.is_some_and(|b| s.names.binding(b).space == Space::Types);
        let free = t.role(object) == Role::Name && target.is_none() && s.str(object).starts_with(char::is_uppercase);
        if class || free { self.type_name(object) } else { self.value(object) }
    }

    fn field_of(self, of: Ty, name: &str) -> Option<Ty> {
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

    /// The class of the project that a type names.
    pub fn class(self, of: Ty) -> Option<Class<'a>> {
        let Kind::Named { name, .. } = of.kind() else { return None };
        if LIBRARY.classes.contains_key(&name) {
            return None;
        }
        let s = self.s;
        let t = self.t();
        let own = t.ids().filter(|n| t.role(*n) == Role::Class && t.child(*n, Field::Name).is_some());
        for c in own {
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

    fn call(self, node: NodeId) -> Option<Ty> {
        let (s, t) = (self.s, self.t());
        let callee = t.child(node, Field::Callee)?;
        if is_construction(s, node) {
            let anonymous = t.children(node).any(|c| t.role(c) == Role::Class);
            let inner = t.children(node).next() != Some(callee) && t.child(node, Field::Object).is_some();
            return if anonymous || inner { None } else { self.of_node(callee).known() };
        }
        let arguments: Vec<NodeId> = t.child(node, Field::Arguments).map_or(Vec::new(), |a| t.children(a).collect());
        match self.called(node)? {
            Called::Of(result) => result.known(),
            Called::Answer(Answer::Is(result)) => Some(result),
            Called::Answer(Answer::WidestArgument) => {
                let mut types = arguments.iter().map(|a| self.value(*a));
                let first = promoted(types.next()?)?;
                types.try_fold(first, wider)
            }
            Called::Answer(Answer::Depends) => None,
        }
    }

    fn called(self, call: NodeId) -> Option<Called> {
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

    /// The class in whose code a bare method name is found: the innermost one that has it.
    fn class_of_method(self, name: NodeId) -> Option<NodeId> {
        let (s, t) = (self.s, self.t());
        match s.names.at(name)?.target {
            Some(b) => t.ancestor(s.names.binding(b).first, &[Role::Class]),
            None => t.ancestor(name, &[Role::Class]),
        }
    }

    /// A method of a type by its name and the number of its arguments.
    fn method(self, of: Ty, name: &str, count: usize) -> Option<Found> {
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
            let is_enum =
                s.str(c.node).contains("enum ") && ["name", "ordinal", "toString", "compareTo"].contains(&name);
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

    /// Types that a class extends, that of an anonymous one too.
    pub fn above(self, class: NodeId) -> Vec<Ty> {
        let t = self.t();
        let anonymous = t.child(class, Field::Name).is_none();
        let base = t.parent(class).and_then(|n| t.child(n, Field::Callee)).filter(|_| anonymous);
        self.supertypes(self.s, class).into_iter().chain(base.map(|b| self.of_node(b))).collect()
    }

    /// The class that declares what a word names.
    pub fn member_of(self, word: NodeId) -> MemberOf {
        let (s, t) = (self.s, self.t());
        let Some(parent) = t.parent(word) else { return MemberOf::Other };
        let called =
            t.field(word) == Field::Callee || t.field(parent) == Field::Callee && t.role(parent) == Role::Member;
        let reference = t.role(parent) == Role::Other && s.str(parent).contains("::");
        let space = if called || reference { Space::Functions } else { Space::Values };
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
            let object = t.children(parent).next().filter(|_| reference);
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
            Some(b) if s.names.is_member(b) => {
                let class = s.names.scope(s.names.binding(b).scope).node;
                let own = MemberOf::Class(self.of_class(class));
                if super::scopes::is_sure(s, word) { own } else { self.from_inside(word, s.str(word), space) }
            }
            Some(b) => match &s.names.binding(b).import {
                Some(i) if s.names.binding(b).space != Space::Types => {
                    self.declaring(Ty::named(&i.module, Vec::new()), s.str(word), space)
                }
                _ => MemberOf::Other,
            },
            None if matches!(t.field(word), Field::Type | Field::ReturnType | Field::Bases) => MemberOf::Other,
            None => self.from_inside(word, s.str(word), space),
        }
    }

    /// A field that is declared without a value is no use of its name.
    fn declared_member(self, word: NodeId) -> MemberOf {
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
    fn object(self, object: NodeId) -> Ty {
        if self.s.str(object) == "super" {
            let class = self.t().ancestor(object, &[Role::Class]);
            return class.and_then(|c| self.above(c).first().copied()).unwrap_or(Ty::UNKNOWN);
        }
        self.owner(object)
    }

    /// A bare name: of the innermost class around it that has or inherits it.
    fn from_inside(self, word: NodeId, name: &str, space: Space) -> MemberOf {
        let t = self.t();
        for class in t.ancestors(word).filter(|a| t.role(*a) == Role::Class) {
            match self.in_class(self.s, class, name, space) {
                MemberOf::Other => {}
                found => return found,
            }
        }
        // classes whose static members are imported all at once
        let imports = t.children(Tree::ROOT).filter(|c| t.role(*c) == Role::ImportFrom);
        let all = imports.filter(|i| t.children(*i).any(|c| self.s.str(c) == "static"));
        let whole = all.filter_map(|i| super::scopes::imports(t, i, &self.s.text)).filter(|i| i.wildcard);
        let found = whole.map(|i| self.declaring(Ty::named(&i.module, Vec::new()), name, space));
        found.into_iter().find(|f| *f != MemberOf::Other).unwrap_or(MemberOf::Other)
    }

    /// Of a type, or of what it extends; what is neither is of something outside the project.
    fn declaring(self, of: Ty, name: &str, space: Space) -> MemberOf {
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
                MemberOf::Unknown => unknown = f,
                MemberOf::Other => {}
            }
        }
        unknown
    }

    fn in_class(self, s: &Source, class: NodeId, name: &str, space: Space) -> MemberOf {
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

    /// Whether a class may have a member of that name from those that it extends: one of them has it, or is not known.
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

enum Called {
    Of(Ty),
    Answer(Answer),
}

enum Found {
    Own(Ty, Option<Vec<Ty>>),
    Library(Answer, Option<Vec<String>>),
}

fn only(mut all: impl Iterator<Item = NodeId>) -> Option<NodeId> {
    let first = all.next()?;
    all.next().is_none().then_some(first)
}

/// A type of the language itself, `void` among them.
pub fn is_primitive(t: &Tree, node: NodeId) -> bool {
    t.role(node) == Role::Type && t.children(node).all(|c| t.role(c) == Role::Token)
}

/// `new X()`, also of an inner class.
pub fn is_construction(s: &Source, call: NodeId) -> bool {
    let t = &s.tree;
    let callee = t.child(call, Field::Callee);
    let before = callee.map_or("", |c| &s.text[t.span(call).start..t.span(c).start]);
    before.split_whitespace().last() == Some("new") || before.contains("new ")
}

/// The types of a method's `throws`.
pub fn throws_of(s: &Source, function: NodeId) -> Vec<NodeId> {
    let t = &s.tree;
    let clause = t.children(function).find(|c| t.role(*c) == Role::Other && s.str(*c).starts_with("throws"));
    clause.map_or(Vec::new(), |c| t.children(c).collect())
}

/// The package that a file says it is in.
pub fn package(s: &Source) -> &str {
    let t = &s.tree;
    let statement = t.children(Tree::ROOT).find(|c| t.role(*c) == Role::Doc);
    statement.map_or("", |p| s.str(p).trim_start_matches("package").trim_end_matches(';').trim())
}

/// Packages that a file imports whole.
fn wildcards(s: &Source) -> Vec<String> {
    let t = &s.tree;
    let imports = t.children(Tree::ROOT).filter(|c| t.role(*c) == Role::ImportFrom);
    imports.filter_map(|i| super::scopes::imports(t, i, &s.text)).filter(|i| i.wildcard).map(|i| i.module).collect()
}

fn full(package: &str, name: &str) -> String {
    if package.is_empty() { name.to_string() } else { format!("{package}.{name}") }
}

pub fn literal(text: &str) -> Option<Ty> {
    let digits = text.starts_with(|c: char| c.is_ascii_digit() || c == '.');
    let hex = text.starts_with("0x") || text.starts_with("0X");
    let name = match text.chars().last()? {
        '"' => return Some(Ty::named("java.lang.String", Vec::new())),
        '\'' => "char",
        'l' | 'L' if digits => "long",
        'f' | 'F' if digits && !hex => "float",
        'd' | 'D' if digits && !hex => "double",
        _ if digits
            && (text.contains('.') || !hex && text.contains(['e', 'E']) || hex && text.contains(['p', 'P'])) =>
        {
            "double"
        }
        _ if digits => "int",
        _ if text == "true" || text == "false" => "boolean",
        _ => return None,
    };
    Some(Ty::primitive(name))
}

/// The primitive that a type is or holds.
pub fn unboxed(t: Ty) -> Option<String> {
    match t.kind() {
        Kind::Primitive(p) => Some(p),
        Kind::Named { name, .. } => {
            let p = match name.as_str() {
                "java.lang.Integer" => "int",
                "java.lang.Long" => "long",
                "java.lang.Double" => "double",
                "java.lang.Float" => "float",
                "java.lang.Short" => "short",
                "java.lang.Byte" => "byte",
                "java.lang.Character" => "char",
                "java.lang.Boolean" => "boolean",
                _ => return None,
            };
            Some(p.to_string())
        }
        _ => None,
    }
}

/// Unary numeric promotion (JLS 5.6).
fn promoted(t: Ty) -> Option<Ty> {
    wider(t, Ty::primitive("int"))
}

/// Binary numeric promotion (JLS 5.6).
fn wider(a: Ty, b: Ty) -> Option<Ty> {
    let place = |t: Ty| unboxed(t).and_then(|p| NUMERIC.iter().position(|n| *n == p));
    let widest = place(a)?.max(place(b)?).max(3);
    Some(Ty::primitive(NUMERIC[widest]))
}

/// The text of a type at a place of a file, when its names mean the same there.
pub fn spelled(of: Ty, at: &Source, definitions: &Definitions) -> Option<String> {
    match of.kind() {
        Kind::Primitive(word) | Kind::Written(word) => Some(word),
        Kind::Array(element) => spelled(element, at, definitions).map(|e| format!("{e}[]")),
        Kind::Parameter { name, .. } => Some(name),
        Kind::Named { name, arguments, only_in } => {
            if only_in.as_ref().is_some_and(|o| o.split(':').next() != Some(at.path.as_str())) {
                return None;
            }
            let head = visible_name(&name, only_in.is_some(), at, definitions)?;
            let all: Option<Vec<String>> = arguments.iter().map(|a| spelled(*a, at, definitions)).collect();
            let all = all?;
            Some(if all.is_empty() { head } else { format!("{head}<{}>", all.join(", ")) })
        }
        _ => None,
    }
}

/// The shortest name by which a file sees a class.
fn visible_name(full: &str, is_local: bool, at: &Source, definitions: &Definitions) -> Option<String> {
    let types = Types::new(at, definitions);
    let parts: Vec<&str> = full.split('.').collect();
    let simple = *parts.last()?;
    if is_local {
        return Some(simple.to_string());
    }
    let means = |name: &str| match at.names.in_module_as(Space::Types, name) {
        Some(b) => types.of_class_binding(b),
        None => types.free_type(name),
    };
    // a class in a class is named with that, or by itself where the file has it
    for k in (0..parts.len()).rev() {
        let found = matches!(means(parts[k]).kind(), Kind::Named { name, .. } if name == parts[..=k].join("."));
        if found {
            let nested_here = k + 1 < parts.len()
                && types.class(Ty::named(full, Vec::new())).is_some_and(|c| c.source().path == at.path);
            return Some(if nested_here { simple.to_string() } else { parts[k..].join(".") });
        }
    }
    (parts.len() > 1 && full.starts_with(char::is_lowercase)).then(|| full.to_string())
}
