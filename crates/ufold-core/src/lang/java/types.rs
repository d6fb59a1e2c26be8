//! Types of values: from declarations, literals, operators, casts, the project's own signatures and the library's table.
//!
//! What a generic method would infer, what a lambda's place gives its parameters, `?:` of different types and members of
//! classes that are neither in the project nor in the table are unknown.

use super::known::{Answer, LIBRARY};
use super::members::Called;
use super::spelling::{literal, promoted, unboxed, wider};
use super::typing::{Types, is_construction};
use crate::lang::MemberOf;
use crate::names::{BindKind, BindingId, Space, Use};
use crate::tree::{Field, NodeId, Role, Tree};
use crate::types::{Kind, Ty};

pub(super) fn only(mut all: impl Iterator<Item = NodeId>) -> Option<NodeId> {
    let first = all.next()?;
    all.next().is_none().then_some(first)
}

/// A type of the language itself, `void` among them.
pub fn is_primitive(t: &Tree, node: NodeId) -> bool {
    t.role(node) == Role::Type && t.children(node).all(|c| t.role(c) == Role::Token)
}

impl<'a> Types<'a> {
    /// The type of an expression, or of the local that a name declares.
    pub fn value(self, node: NodeId) -> Ty {
        let Some(d) = self.deeper() else { return Ty::UNKNOWN };
        // what a wildcard stands for has no name
        let named = |t: &Ty| !matches!(t.kind(), Kind::Written(_));
        d.found(node).filter(named).unwrap_or(Ty::UNKNOWN)
    }

    pub(super) fn found(self, node: NodeId) -> Option<Ty> {
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

    pub(super) fn of_type(self, node: NodeId) -> Option<Ty> {
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
        let outer = self.of_node(outer);
        match outer.kind() {
            Kind::Named { name, only_in, arguments } if arguments.is_empty() => {
                if let MemberOf::Class(c) = self.nested_in(outer, s.str(inner)) {
                    return Some(c);
                }
                let name = format!("{name}.{}", s.str(inner));
                Some(Ty::new(Kind::Named { name, arguments: Vec::new(), only_in }))
            }
            _ => None,
        }
    }

    /// A type argument; wildcards stay as they are written.
    pub(super) fn argument(self, node: NodeId) -> Ty {
        let text = self.s.str(node);
        if text.starts_with('?') { Ty::written(text) } else { self.of_node(node) }
    }

    pub(super) fn name(self, node: NodeId) -> Option<Ty> {
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

    /// The declared type of a variable, or of what it is first given.
    pub(super) fn binding(self, b: BindingId) -> Option<Ty> {
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
    pub(super) fn declared(self, name: NodeId) -> Option<Ty> {
        let (s, t) = (self.s, self.t());
        let parent = t.parent(name)?;
        // `byte sent[]`
        let marks = t.children(parent).filter(|c| t.role(*c) == Role::Token && s.str(*c).starts_with('['));
        let deeper = marks.map(|c| s.str(c).matches('[').count()).sum::<usize>();
        let of = |written: NodeId, value: Option<NodeId>| match s.str(written) {
            "var" => value.map_or(Ty::UNKNOWN, |v| self.value(v)),
            _ => (0..deeper).fold(self.of_node(written), |of, _| of.known().map_or(of, Ty::array_of)),
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
    pub(super) fn given(self, name: NodeId) -> Option<Ty> {
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
    pub(super) fn element(self, of: Ty) -> Ty {
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

    pub(super) fn operation(self, node: NodeId) -> Option<Ty> {
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

    pub(super) fn array(self, node: NodeId) -> Option<Ty> {
        let (s, t) = (self.s, self.t());
        let element = self.of_node(t.child(node, Field::Type)?);
        let head = s.str(node).split('{').next().unwrap_or("");
        (0..head.matches('[').count()).fold(element, |e, _| Ty::array_of(e)).known()
    }

    pub(super) fn field(self, node: NodeId) -> Option<Ty> {
        let (s, t) = (self.s, self.t());
        let (object, member) = (t.child(node, Field::Object)?, s.str(t.child(node, Field::Member)?));
        if member == "this" {
            let named = |c: &NodeId| t.child(*c, Field::Name).is_some_and(|n| s.str(n) == s.str(object));
            return t.ancestors(node).filter(|a| t.role(*a) == Role::Class).find(named).map(|c| self.this_of(c));
        }
        let of = self.owner(object);
        if member == "length" && matches!(of.kind(), Kind::Array(_)) {
            return Some(Ty::primitive("int"));
        }
        self.field_of(of, member)
    }

    /// What a member is taken from: a value, or a class.
    pub(super) fn owner(self, object: NodeId) -> Ty {
        let (s, t) = (self.s, self.t());
        let target = s.names.at(object).and_then(|r| r.target);
        let class = target.is_some_and(|b| s.names.binding(b).space == Space::Types);
        let free = t.role(object) == Role::Name && target.is_none() && s.str(object).starts_with(char::is_uppercase);
        if class || free {
            return self.type_name(object);
        }
        // `port.fees.Fees`
        let path = t.child(object, Field::Member).filter(|_| t.role(object) == Role::Member);
        match path.filter(|m| s.str(*m).starts_with(char::is_uppercase)).map(|m| self.class_named(m)) {
            Some(MemberOf::Class(c)) => c,
            _ => self.value(object),
        }
    }

    pub(super) fn call(self, node: NodeId) -> Option<Ty> {
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
}
