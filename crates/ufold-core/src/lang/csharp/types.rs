//! Types of values: from declarations, literals, operators, casts, the project's own members and the library's table.
//!
//! A type that is not of the library is known by its name in its file, and is the same only there. What a generic method
//! would find, what a lambda's place gives its parameters, tuples with names, anonymous and dynamic types are unknown. A
//! local that is `var` has the type of its value. Fails (tells nothing) for members of classes that are in no file of the
//! project which this one finds.

use std::sync::Arc;

use super::classes::class_word;
use super::library::{Answer, LIBRARY};
use super::spelling::{has_space, literal, of, wider, word};
use crate::lang::Definitions;
use crate::names::{BindKind, BindingId, Source, Space, Use};
use crate::tree::{Field, NodeId, Role, Tree};
use crate::types::{Kind, Ty};

/// A class of the project.
pub enum Home<'a> {
    Own(&'a Source),
    Other(Arc<Source>),
}

impl Home<'_> {
    pub fn source(&self) -> &Source {
        match self {
            Home::Own(s) => s,
            Home::Other(s) => s,
        }
    }
}

/// Deeper chains of inference are given up.
const MOST_STEPS: usize = 12;

/// Types of one file's code.
#[derive(Clone, Copy)]
pub struct Types<'a> {
    pub s: &'a Source,
    pub definitions: &'a Definitions<'a>,
    depth: usize,
}

impl<'a> Types<'a> {
    pub fn new(s: &'a Source, definitions: &'a Definitions<'a>) -> Types<'a> {
        Types { s, definitions, depth: 0 }
    }

    /// The same of another file.
    pub(super) fn there(self, s: &'a Source) -> Types<'a> {
        Types { s, ..self }
    }

    pub(super) fn deeper(self) -> Option<Types<'a>> {
        (self.depth < MOST_STEPS).then_some(Types { depth: self.depth + 1, ..self })
    }

    pub(super) fn t(&self) -> &'a Tree {
        &self.s.tree
    }

    /// The type of an expression, or of the local that a name declares.
    pub fn value(self, node: NodeId) -> Ty {
        self.deeper().and_then(|d| d.found(node)).unwrap_or(Ty::UNKNOWN)
    }

    fn found(self, node: NodeId) -> Option<Ty> {
        let (s, t) = (self.s, self.t());
        let own = |f: Field| t.child(node, f);
        match t.role(node) {
            Role::Literal => literal(s.str(node)),
            Role::Template => Some(of("string")),
            Role::Name => self.name(node),
            Role::Paren => Some(self.value(t.children(node).next()?)),
            Role::NotOp | Role::Compare => Some(of("bool")),
            Role::BoolOp => match own(Field::Operator).map(|o| s.str(o))? {
                "??" => {
                    let (a, b) = (self.value(own(Field::Left)?), self.value(own(Field::Right)?));
                    (a == b).then_some(a)
                }
                _ => Some(of("bool")),
            },
            Role::UnaryOp => self.unary(node),
            Role::BinaryOp => self.operation(node),
            Role::Assign | Role::AugAssign => Some(self.value(own(Field::Left)?)),
            Role::Conditional => {
                let [_, a, b] = t.conditional_parts(node)?;
                let (a, b) = (self.value(a), self.value(b));
                (a == b).then_some(a)
            }
            Role::Member => self.member(node),
            Role::Index => self.element_at(node),
            Role::List => self.array(node),
            Role::Call => self.call(node),
            Role::Await => match self.value(t.children(node).find(|c| t.role(*c).is_expression())?).kind() {
                Kind::Named { name, arguments, .. } if name == "Task" || name == "ValueTask" => {
                    Some(arguments.first().copied().unwrap_or(of("void")))
                }
                _ => None,
            },
            _ => None,
        }
        .and_then(Ty::known)
        .and_then(|ty| self.perhaps_nothing(node, ty))
    }

    /// The type of a whole path with `?.` in it, which may have no value.
    fn perhaps_nothing(self, node: NodeId, ty: Ty) -> Option<Ty> {
        let t = self.t();
        let inner = matches!(t.field(node), Field::Object | Field::Callee);
        let path =
            std::iter::successors(Some(node), |n| t.child(*n, Field::Callee).or_else(|| t.child(*n, Field::Object)));
        let is_path = matches!(t.role(node), Role::Member | Role::Call | Role::Index) && !inner;
        let marked = |n: NodeId| t.children(n).any(|c| t.role(c) == Role::OptionalMark);
        if !is_path || !path.into_iter().any(marked) {
            return Some(ty);
        }
        match ty.kind() {
            Kind::Array(_) | Kind::Nullable(_) => Some(ty),
            Kind::Primitive(w) if w == "void" || w == "string" || w == "object" => Some(ty),
            Kind::Primitive(_) => Some(Ty::new(Kind::Nullable(ty))),
            _ => self.class(ty).is_some_and(|(home, c)| class_word(home.source(), c) == "class").then_some(ty),
        }
    }

    fn unary(self, node: NodeId) -> Option<Ty> {
        let (s, t) = (self.s, self.t());
        let text = s.str(node);
        let expression = t.child(node, Field::Expression);
        match t.child(node, Field::Type) {
            Some(_) if text.starts_with("typeof") => Some(Ty::named("Type", Vec::new())),
            Some(written) => self.of_node(written).known(),
            None if text.ends_with('!') || text.starts_with("checked") || text.starts_with("unchecked") => {
                Some(self.value(expression?))
            }
            None if text.starts_with(['-', '+', '~']) => {
                let of_it = self.value(expression?);
                wider(of_it, of("int")).filter(|_| word(of_it).is_some_and(|w| w != "uint" && w != "ulong"))
            }
            None => None,
        }
    }

    fn operation(self, node: NodeId) -> Option<Ty> {
        let t = self.t();
        let [left, right] =
            [Field::Left, Field::Right].map(|f| t.child(node, f).map_or(Ty::UNKNOWN, |n| self.value(n)));
        match t.child(node, Field::Operator).map_or("", |o| self.s.str(o)) {
            "+" if left == of("string") || right == of("string") => Some(of("string")),
            "<<" | ">>" => wider(left, of("int")).filter(|w| *w == wider(left, left).unwrap_or(Ty::UNKNOWN)),
            "&" | "|" | "^" if left == right && (left == of("bool") || self.is_enum(left)) => Some(left),
            _ => wider(left, right),
        }
    }

    /// An enumeration of the file, of another one or of the library.
    fn is_enum(self, of_it: Ty) -> bool {
        let own = self.class(of_it).is_some_and(|(home, node)| class_word(home.source(), node) == "enum");
        own || LIBRARY.is_enum(of_it)
    }

    /// A type as it is written.
    pub fn of_node(self, node: NodeId) -> Ty {
        self.of_type(node).unwrap_or(Ty::UNKNOWN)
    }

    fn of_type(self, node: NodeId) -> Option<Ty> {
        let (s, t) = (self.s, self.t());
        let text = s.str(node);
        if t.role(node) == Role::Name {
            return self.named(node, text, Vec::new());
        }
        if t.role(node) != Role::Type || text == "var" || text == "dynamic" {
            return None;
        }
        let inner: Vec<NodeId> = t.children(node).filter(|c| t.role(*c) != Role::Token).collect();
        if super::words::PREDEFINED.contains(&text) {
            return Some(of(text));
        }
        if text.ends_with('?') {
            return Some(Ty::new(Kind::Nullable(self.of_node(*inner.first()?).known()?)));
        }
        if text.ends_with("[]") {
            return Ty::array_of(self.of_node(*inner.first()?)).known();
        }
        // a path, or a tuple: as it is written, when its parts are no type parameters
        let words = || t.subtree(node).filter(|n| t.role(*n) == Role::Name);
        let is_parameter = |n: NodeId| self.is_type_parameter(n);
        if text.ends_with('>') && !text.starts_with('(') {
            let base = *inner.first()?;
            if t.role(base) == Role::Name {
                let list = inner.get(1)?;
                let all = t.children(*list).filter(|c| t.role(*c) != Role::Token);
                let arguments: Vec<Ty> = all.map(|a| self.of_node(a)).collect();
                return if arguments.iter().all(|a| a.is_known()) {
                    self.named(base, s.str(base), arguments)
                } else {
                    None
                };
            }
        }
        let plain = !text.contains(['*', '&', '\n', '[']) && !text.starts_with("ref") && !text.contains("delegate");
        let written = plain && !words().any(is_parameter);
        written.then(|| {
            Ty::new(Kind::Named { name: text.to_string(), arguments: Vec::new(), only_in: Some(s.path.clone()) })
        })
    }

    fn is_type_parameter(self, node: NodeId) -> bool {
        let (s, t) = (self.s, self.t());
        let target = s.names.at(node).and_then(|r| r.target);
        target.is_some_and(|b| {
            let first = s.names.binding(b).first;
            t.ancestors(first).take(2).any(|a| t.role(a) == Role::TypeParams)
        })
    }

    /// A type by a bare name, with its type arguments.
    fn named(self, node: NodeId, name: &str, arguments: Vec<Ty>) -> Option<Ty> {
        let (s, t) = (self.s, self.t());
        let target = s.names.at(node).and_then(|r| r.target).filter(|b| s.names.binding(*b).space == Space::Types);
        if name == "dynamic" || name == "var" {
            return None;
        }
        if self.is_type_parameter(node) {
            let b = target?;
            let first = s.names.binding(b).first;
            let owner = t.ancestor(first, &[Role::Class, Role::Function])?;
            // what is said of it can't be said of another one
            let bound = t.children(owner).any(|c| t.role(c) == Role::Other && s.str(c).starts_with("where"));
            let declared = format!("{}:{}", s.path, t.span(first).start);
            return (t.role(owner) == Role::Class || !bound)
                .then(|| Ty::new(Kind::Parameter { name: name.to_string(), declared }));
        }
        let of_library =
            target.is_none() && LIBRARY.class(name, arguments.len()).is_some() && (self.definitions)(s, name).is_none();
        let only_in = (!of_library).then(|| s.path.clone());
        Some(Ty::new(Kind::Named { name: name.to_string(), arguments, only_in }))
    }

    fn name(self, node: NodeId) -> Option<Ty> {
        let (s, t) = (self.s, self.t());
        if s.str(node) == "this" {
            return self.this_of(t.ancestor(node, &[Role::Class])?);
        }
        let declared = || (0..s.names.bindings.len() as u32).map(BindingId).find(|b| s.names.binding(*b).first == node);
        let b = match s.names.at(node) {
            Some(r) => r.target,
            None => declared(),
        };
        // an indexer's functions see its parameters
        let given = b.map(|b| s.names.binding(b).first).filter(|f| t.role(*f) == Role::Function);
        if let Some(list) = given.and_then(|f| t.child(t.parent(f)?, Field::Parameters)) {
            let named = |p: &NodeId| t.child(*p, Field::Name).is_some_and(|n| s.str(n) == s.str(node));
            if let Some(p) = t.children(list).find(named) {
                return self.of_node(t.child(p, Field::Type)?).known();
            }
        }
        if s.str(node) == "value" && b.is_some_and(|b| t.role(s.names.binding(b).first) == Role::Function) {
            return self.of_property(t.ancestor(node, &[Role::ClassField])?);
        }
        match b {
            Some(b) => self.binding(b),
            None => self.inherited(t.ancestor(node, &[Role::Class])?, &format!(".{}", s.str(node))),
        }
    }

    fn of_property(self, field: NodeId) -> Option<Ty> {
        self.of_node(self.t().child(field, Field::Type)?).known()
    }

    /// The object in a class: with its own type parameters as arguments.
    pub(super) fn this_of(self, class: NodeId) -> Option<Ty> {
        let (s, t) = (self.s, self.t());
        let name = t.child(class, Field::Name)?;
        let generic = t.ancestors(class).any(|a| t.role(a) == Role::Class && t.child(a, Field::TypeParams).is_some());
        let own = t.child(class, Field::TypeParams).is_none() && !generic;
        own.then(|| {
            Ty::new(Kind::Named { name: s.str(name).into(), arguments: Vec::new(), only_in: Some(s.path.clone()) })
        })
    }

    /// What a loop over a value gives.
    pub(super) fn element(self, of: Ty) -> Ty {
        match of.kind() {
            Kind::Array(e) => e,
            _ => LIBRARY.element(of).filter(|t| !t.parts().contains(&Ty::UNKNOWN)).unwrap_or(Ty::UNKNOWN),
        }
    }

    fn element_at(self, node: NodeId) -> Option<Ty> {
        let t = self.t();
        let of_it = self.value(t.child(node, Field::Object)?);
        if t.children(node).filter(|c| t.field(*c) == Field::Index).count() != 1 {
            return None;
        }
        match of_it.kind() {
            Kind::Array(e) => Some(e),
            Kind::Primitive(w) if w == "string" => Some(of("char")),
            Kind::Named { name, arguments, only_in: None } => match (name.as_str(), &arguments[..]) {
                ("List" | "IList" | "IReadOnlyList", [e]) => Some(*e),
                ("Dictionary" | "IDictionary" | "SortedDictionary", [_, v]) => Some(*v),
                ("StringBuilder", []) => Some(of("char")),
                _ => None,
            },
            _ => None,
        }
    }

    fn array(self, node: NodeId) -> Option<Ty> {
        let (s, t) = (self.s, self.t());
        if let Some(written) = t.child(node, Field::Type) {
            // the sizes stand in the type
            let inner = t.child(written, Field::Type)?;
            let head = s.str(written);
            return (head.matches('[').count() == 1 && !head.contains(','))
                .then(|| Ty::array_of(self.of_node(inner)))
                .and_then(Ty::known);
        }
        let list = t.child(node, Field::Value).filter(|_| s.str(node).starts_with("new"))?;
        let mut all = t.children(list).map(|e| self.value(e));
        let first = all.next()?.known()?;
        all.all(|x| x == first).then(|| Ty::array_of(first))
    }

    fn member(self, node: NodeId) -> Option<Ty> {
        let (s, t) = (self.s, self.t());
        let (object, member) = (t.child(node, Field::Object)?, s.str(t.child(node, Field::Member)?));
        let of_it = self.owner(object);
        match of_it.kind() {
            Kind::Array(_) if ["Length", "Rank"].contains(&member) => Some(of("int")),
            Kind::Nullable(inner) => match member {
                "HasValue" => Some(of("bool")),
                "Value" => Some(inner),
                _ => self.member_of(inner, &format!(".{member}"), &[]),
            },
            _ => self.member_of(of_it, &format!(".{member}"), &[]),
        }
    }

    /// The name of a type stands there, not a value.
    pub fn is_type(self, object: NodeId) -> bool {
        let (s, t) = (self.s, self.t());
        if t.role(object) != Role::Name || ["this", "base"].contains(&s.str(object)) {
            return t.role(object) == Role::Type;
        }
        match s.names.at(object).and_then(|r| r.target) {
            Some(b) => s.names.binding(b).space == Space::Types,
            None => {
                let known = LIBRARY.class(s.str(object), 0).filter(|c| has_space(s, &c.space));
                known.is_some() && s.str(object).starts_with(char::is_uppercase)
                    || (self.definitions)(s, s.str(object)).is_some()
            }
        }
    }

    /// What a member is taken from: a value, or a type.
    pub fn owner(self, object: NodeId) -> Ty {
        match (self.is_type(object), self.t().role(object)) {
            (true, Role::Name) => self.named(object, self.s.str(object), Vec::new()).unwrap_or(Ty::UNKNOWN),
            (true, _) => self.of_node(object),
            _ => self.value(object),
        }
    }

    /// What a member of a type is, or gives when it is called with these arguments; a dot before the name of one that is
    /// no method.
    fn member_of(self, of_it: Ty, name: &str, arguments: &[NodeId]) -> Option<Ty> {
        let of_it = if let Kind::Nullable(inner) = of_it.kind() { inner } else { of_it };
        match of_it.kind() {
            Kind::Array(e) => {
                let seen = Ty::named("IEnumerable", vec![e]);
                self.answered(LIBRARY.member(seen, name)?, arguments)
            }
            Kind::Named { only_in: Some(_), arguments, .. } if arguments.is_empty() => match self.class(of_it)? {
                (Home::Own(_), node) => self.inherited(node, name),
                (Home::Other(home), node) => self.elsewhere(&home, node, name),
            },
            // one of its constants
            Kind::Named { only_in: None, .. } if name.starts_with('.') && LIBRARY.is_enum(of_it) => Some(of_it),
            Kind::Named { only_in: None, .. } | Kind::Primitive(_) => {
                self.answered(LIBRARY.member(of_it, name)?, arguments)
            }
            _ => None,
        }
    }

    fn answered(self, answer: Answer, arguments: &[NodeId]) -> Option<Ty> {
        match answer {
            Answer::Depends => None,
            Answer::Is(t) => (!t.parts().contains(&Ty::UNKNOWN)).then_some(t),
            Answer::WidestArgument => {
                let mut types = arguments.iter().map(|a| self.value(*a));
                let first = types.next()?.known()?;
                types.try_fold(first, wider)
            }
        }
    }

    /// A class in another one of the file, where only one has that name.
    pub(super) fn nested(self, name: &str) -> Option<BindingId> {
        let s = self.s;
        let mut all = (0..s.names.bindings.len() as u32).map(BindingId).filter(|b| {
            let x = s.names.binding(*b);
            x.space == Space::Types && x.kind == BindKind::Class && x.name == name
        });
        all.next().filter(|_| all.next().is_none())
    }

    /// A member of a class of another file, of a type that means the same here.
    fn elsewhere(self, home: &Source, node: NodeId, name: &str) -> Option<Ty> {
        let there = self.there(home).deeper()?;
        let found = there.inherited(node, name)?;
        match found.kind() {
            Kind::Named { only_in: Some(_), name, arguments } if arguments.is_empty() => {
                let same = match (self.definitions)(self.s, &name) {
                    Some((h, n)) => (there.definitions)(home, &name)
                        .map_or(h.path == home.path, |(o, m)| (o.path.as_str(), m) == (h.path.as_str(), n)),
                    None => false,
                };
                same.then(|| Ty::new(Kind::Named { name, arguments, only_in: Some(self.s.path.clone()) }))
            }
            _ => Some(found).filter(|f| {
                f.parts()
                    .iter()
                    .all(|p| !matches!(p.kind(), Kind::Named { only_in: Some(_), .. } | Kind::Parameter { .. }))
            }),
        }
    }

    /// A member that a class of the file declares, or one that it extends.
    fn inherited(self, class: NodeId, name: &str) -> Option<Ty> {
        let (s, t) = (self.s, self.t());
        let scope = s.names.scope_of(class)?;
        let bare = name.trim_start_matches('.');
        if let Some(b) = s.names.declared_as(scope, Space::Values, bare) {
            return self.declared_member(b, name.starts_with('.'));
        }
        if class_word(s, class) == "enum" {
            return None;
        }
        let list = t.child(class, Field::Bases)?;
        let above: Vec<NodeId> = t.children(list).filter(|c| matches!(t.role(*c), Role::Name | Role::Type)).collect();
        above.into_iter().find_map(|b| self.deeper()?.member_of(self.of_node(b).known()?, name, &[]))
    }

    fn declared_member(self, b: BindingId, is_value: bool) -> Option<Ty> {
        let (s, t) = (self.s, self.t());
        if is_value {
            return self.binding(b);
        }
        let names = s.names.references_to(b).filter(|r| r.usage == Use::Write).map(|r| r.node);
        let functions = names.filter_map(|n| t.parent(n)).filter(|f| t.role(*f) == Role::Function);
        let mut types = functions.map(|f| match (t.child(f, Field::ReturnType), t.child(f, Field::TypeParams)) {
            (Some(r), None) => self.of_node(r),
            _ => Ty::UNKNOWN,
        });
        let first = types.next()?.known()?;
        types.all(|x| x == first).then_some(first)
    }

    fn call(self, node: NodeId) -> Option<Ty> {
        let (s, t) = (self.s, self.t());
        let callee = t.child(node, Field::Callee)?;
        let head = s.text[t.span(node).start..t.span(callee).start].trim();
        if head == "new" {
            return self.of_node(callee).known();
        }
        let arguments: Vec<NodeId> = t.child(node, Field::Arguments).map_or(Vec::new(), |a| t.children(a).collect());
        match t.role(callee) {
            Role::Name if s.str(callee) == "nameof" => Some(of("string")),
            Role::Name => match s.names.at(callee)?.target {
                Some(b) if s.names.binding(b).kind == BindKind::Function => self.declared_member(b, false),
                // a variable that holds a function
                Some(b) => self.binding(b).and_then(given_by),
                None => self.inherited(t.ancestor(node, &[Role::Class])?, s.str(callee)),
            },
            Role::Member => {
                let (object, member) = (t.child(callee, Field::Object)?, s.str(t.child(callee, Field::Member)?));
                self.member_of(self.owner(object), member, &arguments)
            }
            _ => None,
        }
    }
}

/// What a call of a function of the type gives.
fn given_by(of_it: Ty) -> Option<Ty> {
    match of_it.kind() {
        Kind::Named { name, arguments, .. } if name == "Func" => arguments.last().copied(),
        Kind::Named { name, .. } if name == "Action" => Some(of("void")),
        Kind::Named { name, .. } if name == "Predicate" => Some(of("bool")),
        _ => None,
    }
}
