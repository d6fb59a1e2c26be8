//! Types of values: from annotations, literals, constructors, signatures, members, loops over collections, what functions
//! without an annotation return, and what conditions have told ([`super::narrow`]).
//!
//! A type that would be inferred from the arguments of a generic call, and what stands in declaration files of packages,
//! is unknown. So is a variable of several types where the code tells them apart in a way that is not understood.

use std::sync::Arc;

use super::written::{Reader, Seen, spelled};
use crate::lang::{Definitions, Joined};
use crate::names::{BindKind, BindingId, Source};
use crate::tree::{Field, NodeId, Role, Tree};
use crate::types::{Kind, Ty};

/// Deeper chains of inference are given up.
const MOST_STEPS: usize = 14;

/// More literals than this are a plain text.
const MOST_LITERALS: usize = 4;

/// A union of more named types is no type that a person would write.
const MOST_TYPES: usize = 3;

/// The type of a value that is taken at `from`, or at its own place.
pub fn type_of(source: &Source, node: NodeId, from: NodeId, definitions: &Definitions) -> Ty {
    let seen = Seen::default();
    let types = Types { s: source, root: node, from, definitions, seen: &seen, depth: 0 };
    types.value(node).filter(|t| *t != Ty::primitive("never")).unwrap_or(Ty::UNKNOWN)
}

pub fn spell(ty: Ty, at: &Source, definitions: &Definitions) -> Option<String> {
    spelled(ty, at, definitions)
}

/// The union of all.
pub fn join(list: &[Ty]) -> Option<Joined> {
    let ty = Ty::union(list.to_vec()).known()?;
    let all = ty.alternatives();
    let nothing = |t: &Ty| [Ty::primitive("null"), Ty::primitive("undefined")].contains(t);
    let named = all.iter().filter(|t| !nothing(t)).count();
    // code that one copy has for the whole union is right for it
    let is_wider = all.len() > 1 && list.iter().all(|t| t.alternatives().len() < all.len());
    (named <= MOST_TYPES).then_some(Joined { ty, is_wider })
}

/// The union of a few texts or numbers.
pub fn of_literals(texts: &[&str]) -> Option<String> {
    let mut all = texts.to_vec();
    all.sort_unstable();
    all.dedup();
    let of = |start: &dyn Fn(char) -> bool| all.iter().all(|t| t.starts_with(start));
    let general = match () {
        _ if of(&|c| ['\'', '"'].contains(&c)) => "string",
        _ if of(&|c| c.is_ascii_digit()) => "number",
        _ => return None,
    };
    Some(if all.len() <= MOST_LITERALS { all.join(" | ") } else { general.into() })
}

/// The type of all texts, numbers, truths or members of an enumeration for one of them.
pub fn general(ty: Ty) -> Ty {
    match ty.kind() {
        Kind::Literal(text) => Ty::primitive(match text.chars().next() {
            Some('"' | '\'' | '`') => "string",
            Some('t' | 'f') => "boolean",
            _ if text.ends_with('n') => "bigint",
            _ => "number",
        }),
        Kind::Named { name, arguments, .. } if name.contains('.') && arguments.len() == 1 => arguments[0],
        Kind::Union(parts) => Ty::union(parts.into_iter().map(general).collect()),
        _ => ty,
    }
}

pub fn string() -> Ty {
    Ty::primitive("string")
}

pub fn undefined() -> Ty {
    Ty::primitive("undefined")
}

/// Without `null` and `undefined`.
pub fn something(ty: Ty) -> Ty {
    let nothing = [Ty::primitive("null"), undefined(), Ty::primitive("void")];
    Ty::union(ty.alternatives().into_iter().filter(|t| !nothing.contains(t)).collect())
}

#[derive(Clone, Copy)]
pub struct Types<'a> {
    pub s: &'a Source,
    pub definitions: &'a Definitions<'a>,
    /// The value whose type is asked for.
    pub root: NodeId,
    /// Where it is taken; between that and its own place conditions may tell more.
    pub from: NodeId,
    pub seen: &'a Seen,
    pub depth: usize,
}

impl Types<'_> {
    pub fn tree(&self) -> &Tree {
        &self.s.tree
    }

    /// The type of a value at its own place.
    pub fn own(&self, node: NodeId) -> Option<Ty> {
        Types { root: node, from: node, depth: self.depth + 1, ..*self }.value(node)
    }

    /// What is written at a place.
    pub fn read(&self, text: &str, place: NodeId) -> Ty {
        let home = Some((self.s, place));
        Reader { home, parameters: &[], definitions: self.definitions, seen: self.seen }.read(text)
    }

    /// The type that a declaration, or the result of a function, is given in writing.
    pub fn annotation(&self, node: NodeId, field: Field) -> Option<Ty> {
        let written = self.tree().child(node, field)?;
        Some(self.read(self.s.str(written).trim_start_matches(':'), node))
    }

    /// The type of a value; none where it is not known.
    pub fn value(&self, node: NodeId) -> Option<Ty> {
        let (found, may_lack) = self.chained(node)?;
        let found = found.known()?;
        Some(if may_lack { Ty::union(vec![found, undefined()]) } else { found })
    }

    pub fn deeper(&self) -> Self {
        Types { depth: self.depth + 1, ..*self }
    }

    /// The same, and whether `?.` may have ended it before.
    fn chained(&self, node: NodeId) -> Option<(Ty, bool)> {
        let t = self.tree();
        if self.depth > MOST_STEPS {
            return None;
        }
        let on = match t.role(node) {
            Role::Member | Role::Index => t.child(node, Field::Object),
            Role::Call => t.child(node, Field::Callee).filter(|c| t.role(*c) == Role::Member),
            _ => None,
        };
        let Some(object) = on else { return Some((self.deeper().single(node)?, false)) };
        if t.role(node) == Role::Call {
            return self.deeper().method_call(node, object);
        }
        if let Some(known) = self.narrowed_path(node) {
            return Some((known?, false));
        }
        if let Some(of) = self.enumerated(node).or_else(|| self.of_object(node)) {
            return Some((of, false));
        }
        let (of, may_lack) = self.deeper().chained(object)?;
        let (of, may_lack) = self.entered(node, of, may_lack);
        let found = match t.role(node) {
            Role::Member => self.deeper().property(of, self.s.str(t.child(node, Field::Member)?))?,
            _ => self.deeper().item(of, t.child(node, Field::Index)?)?,
        };
        Some((found, may_lack))
    }

    /// The object of a member that is asked for with `?.`.
    fn entered(&self, node: NodeId, of: Ty, may_lack: bool) -> (Ty, bool) {
        let t = self.tree();
        let optional = t.children(node).any(|c| t.role(c) == Role::OptionalMark);
        match optional {
            true => (something(of), may_lack || something(of) != of),
            false => (of, may_lack),
        }
    }

    fn method_call(&self, call: NodeId, callee: NodeId) -> Option<(Ty, bool)> {
        let (s, t) = (self.s, self.tree());
        if s.str(call).starts_with("new ") {
            return Some((self.made(call, callee)?, false));
        }
        let (object, member) = (t.child(callee, Field::Object)?, s.str(t.child(callee, Field::Member)?));
        if let Some(given) = self.of_library_object(object, member, call) {
            return Some((given, false));
        }
        let (of, may_lack) = self.chained(object)?;
        let (of, may_lack) = self.entered(callee, of, may_lack);
        Some((self.method_result(of, member, call)?, may_lack))
    }

    fn single(&self, node: NodeId) -> Option<Ty> {
        let (s, t) = (self.s, self.tree());
        let own = |f: Field| t.child(node, f);
        match t.role(node) {
            Role::Literal => literal(s.str(node)).map(general),
            Role::Template => Some(string()),
            Role::Fresh => Some(Ty::named("RegExp", Vec::new())),
            Role::Name => self.name(node),
            Role::NotOp | Role::Compare => Some(Ty::primitive("boolean")),
            Role::UnaryOp => match own(Field::Operator).map_or("", |o| s.str(o)) {
                "typeof" => Some(string()),
                "void" => Some(undefined()),
                _ => self.number(own(Field::Expression)?),
            },
            Role::AugAssign => match self.value(own(Field::Left)?).map(general)? {
                text if text == string() => Some(text),
                _ => self.number(own(Field::Left)?),
            },
            Role::BinaryOp => self.operation(node),
            Role::BoolOp => self.logical(node),
            Role::Conditional => {
                let [a, b] = [Field::Body, Field::Alternative].map(|f| own(f).and_then(|n| self.value(n)));
                self.either(a?, b?)
            }
            Role::Paren => self.bracketed(node),
            Role::Await => {
                let inner = t.children(node).find(|c| t.role(*c) != Role::AsyncMark)?;
                let of = self.value(inner)?;
                match of.kind() {
                    Kind::Named { name, arguments, only_in: None } if name == "Promise" => arguments.first().copied(),
                    Kind::Union(_) | Kind::Parameter { .. } => None,
                    // an alias may stand for a promise
                    Kind::Named { .. } if self.is_loose(of) || self.expanded(of) != of => None,
                    _ => Some(of),
                }
            }
            Role::List => {
                let all: Option<Vec<Ty>> = t.children(node).map(|c| self.value(c)).collect();
                let of = Ty::union(all?);
                (of.is_known() && of.alternatives().len() <= 2).then(|| Ty::array_of(of))
            }
            Role::Dict => self.object(node),
            Role::Lambda => self.signature(node),
            Role::Call => self.call(node),
            _ => None,
        }
    }

    /// Brackets, `x as T`, `x!`.
    fn bracketed(&self, node: NodeId) -> Option<Ty> {
        let t = self.tree();
        let parts: Vec<NodeId> = t.children(node).filter(|c| t.role(*c) != Role::Token).collect();
        let words: Vec<&str> = t.children(node).filter(|c| t.role(*c) == Role::Token).map(|c| self.s.str(c)).collect();
        match parts[..] {
            [_, written] if !words.contains(&"satisfies") => {
                let text = self.s.str(written);
                (text != "const").then(|| self.read(text, written))
            }
            [inner] if words.contains(&"!") => Some(something(self.value(inner)?)),
            [inner] => (!words.contains(&"const")).then(|| self.value(inner))?,
            _ => None,
        }
    }

    /// `Kind.Open`: one of an enumeration has the type of that.
    fn enumerated(&self, node: NodeId) -> Option<Ty> {
        let (s, t) = (self.s, self.tree());
        let object = t.child(node, Field::Object).filter(|o| t.role(*o) == Role::Name)?;
        let (home, definition) = (self.definitions)(s, s.str(object))?;
        is_enum(&home, definition).then(|| self.read(s.str(object), node))
    }

    fn number(&self, operand: NodeId) -> Option<Ty> {
        let of = self.value(operand).map(general)?;
        (of == Ty::primitive("number")).then_some(of)
    }

    fn operation(&self, node: NodeId) -> Option<Ty> {
        let t = self.tree();
        let sides = [Field::Left, Field::Right].map(|f| t.child(node, f).and_then(|n| self.value(n)).map(general));
        let operator = t.child(node, Field::Operator).map_or("", |o| self.s.str(o));
        if operator == "+" && sides.contains(&Some(string())) {
            return Some(string());
        }
        sides.iter().all(|x| *x == Some(Ty::primitive("number"))).then(|| Ty::primitive("number"))
    }

    fn logical(&self, node: NodeId) -> Option<Ty> {
        let t = self.tree();
        let [a, b] = [Field::Left, Field::Right].map(|f| t.child(node, f));
        let (a, b) = (self.value(a?)?, self.value(b?)?);
        match t.child(node, Field::Operator).map_or("", |o| self.s.str(o)) {
            "??" | "||" => self.either(something(a), b),
            _ if a == b && a == Ty::primitive("boolean") => Some(a),
            _ => None,
        }
    }

    /// What is one or the other, where a person would say so.
    fn either(&self, a: Ty, b: Ty) -> Option<Ty> {
        let of = Ty::union(vec![a, b]);
        let plain = of.alternatives().iter().all(|p| !matches!(p.kind(), Kind::Shape(_) | Kind::Function { .. }));
        (a == b || of.alternatives().len() <= MOST_TYPES && plain).then_some(of)?.known()
    }

    /// An object by its members.
    fn object(&self, node: NodeId) -> Option<Ty> {
        let (s, t) = (self.s, self.tree());
        let member = |p: NodeId| {
            let key = t.child(p, Field::Key).filter(|k| t.role(*k) == Role::MemberName)?;
            let bare = s.lang.is_identifier(s.str(key));
            let value = t.child(p, Field::Value)?;
            let plain = t.role(p) == Role::Pair && bare && !t.role(value).is_callable();
            Some((s.str(key).to_string(), general(self.value(value).filter(|_| plain)?)))
        };
        let members = t.children(node).map(member).collect::<Option<Vec<_>>>()?;
        (!members.is_empty()).then(|| Ty::new(Kind::Shape(members)))
    }

    fn name(&self, node: NodeId) -> Option<Ty> {
        let (s, t) = (self.s, self.tree());
        let b = s.names.at(node)?.target?;
        if s.str(node) == "this" {
            let owner = s.names.scope(s.names.binding(b).scope).node;
            let class = t.ancestor(owner, &[Role::Class, Role::Function, Role::Lambda])?;
            let generic = t.child(class, Field::TypeParams).is_some();
            let name = t.child(class, Field::Name).filter(|_| t.role(class) == Role::Class && !generic)?;
            return Some(self.read(s.str(name), class));
        }
        self.narrowed(node, b, self.binding(b)?)
    }

    /// The type that a variable is declared with.
    pub fn binding(&self, b: BindingId) -> Option<Ty> {
        let (s, t) = (self.s, self.tree());
        let binding = s.names.binding(b);
        let first = binding.first;
        let parent = t.parent(first)?;
        if binding.import.is_some() {
            let (home, definition) = (self.definitions)(s, &binding.name)?;
            return self.in_file(&home, definition, |types| types.defined(definition));
        }
        match (binding.kind, t.role(parent)) {
            (BindKind::Class, Role::Class) | (BindKind::Function, Role::Function) => self.defined(parent),
            (_, Role::Assign) if t.field(first) == Field::Left => self.defined(parent),
            (_, Role::Parameter) => self.parameter(parent),
            (_, Role::For) if t.field(first) == Field::Left => self.turn(parent),
            (_, Role::Except) => Some(Ty::primitive("unknown")),
            (BindKind::Parameter, Role::Lambda) => self.given(parent, 0),
            (_, Role::Pattern | Role::Default) => self.unpacked(first),
            _ => None,
        }
    }

    /// What another file knows, which reads its own words.
    pub fn in_file<T>(&self, home: &Arc<Source>, at: NodeId, ask: impl FnOnce(&Types) -> Option<T>) -> Option<T> {
        ask(&Types { s: home, root: at, from: at, depth: self.depth + 1, ..*self })
    }

    /// The type of what a declaration makes.
    fn defined(&self, declaration: NodeId) -> Option<Ty> {
        let (s, t) = (self.s, self.tree());
        match t.role(declaration) {
            Role::Class => {
                let name = s.str(t.child(declaration, Field::Name)?);
                let only_in = Some(s.path.clone());
                Some(Ty::new(Kind::Named { name: format!("typeof {name}"), arguments: Vec::new(), only_in }))
            }
            Role::Function => self.signature(declaration),
            Role::Assign => {
                let value = t.child(declaration, Field::Right);
                if let Some(written) = self.annotation(declaration, Field::Type) {
                    return written.known();
                }
                let value = value?;
                let declare = t.parent(declaration).filter(|d| t.role(*d) == Role::Declare)?;
                let fixed = s.str(declare).split_whitespace().next().is_some_and(|w| w == "const");
                match t.role(value) {
                    Role::Literal if fixed => literal(s.str(value)),
                    _ if fixed => self.own(value),
                    _ => self.own(value).map(general).filter(|of| !is_nothing(*of)),
                }
            }
            _ => None,
        }
    }

    pub fn parameter(&self, parameter: NodeId) -> Option<Ty> {
        let t = self.tree();
        let value = t.child(parameter, Field::Value);
        let optional = t.children(parameter).any(|c| t.role(c) == Role::Token && self.s.str(c) == "?");
        if let Some(written) = self.annotation(parameter, Field::Type) {
            return match (optional, value) {
                (true, _) => Ty::union(vec![written, undefined()]).known(),
                (_, Some(value)) => {
                    let given = self.own(value);
                    match given {
                        Some(given) if something(given) == given => without(written, undefined()).known(),
                        Some(_) => written.known(),
                        None => written.known().filter(|of| !self.is_loose(*of)),
                    }
                }
                _ => written.known(),
            };
        }
        if let Some(value) = value {
            return self.own(value);
        }
        let list = t.parent(parameter)?;
        let lambda = t.parent(list).filter(|l| t.role(*l) == Role::Lambda)?;
        self.given(lambda, t.children(list).position(|p| p == parameter)?)
    }

    /// What a loop gives in each turn.
    fn turn(&self, each: NodeId) -> Option<Ty> {
        let t = self.tree();
        match t.child(each, Field::Operator).map_or("", |o| self.s.str(o)) {
            "in" => Some(string()),
            "of" => self.deeper().element(self.own(t.child(each, Field::Right)?)?),
            _ => None,
        }
    }

    /// A name in a pattern: `{ a: name }`, `[, name]`, with a value for what is not there.
    fn unpacked(&self, part: NodeId) -> Option<Ty> {
        let (s, t) = (self.s, self.tree());
        let parent = t.parent(part)?;
        let deeper = self.deeper();
        match t.role(parent) {
            Role::Default if t.field(part) == Field::Left => {
                let of = without(deeper.unpacked(parent)?, undefined());
                let value = general(self.own(t.child(parent, Field::Right)?)?);
                deeper.either(general(of), value)
            }
            Role::Pattern if t.child(parent, Field::Key).is_some() => {
                let key = s.str(t.child(parent, Field::Key)?);
                deeper.property(deeper.whole(t.parent(parent)?)?, key)
            }
            Role::Pattern if s.str(parent).starts_with('[') => {
                let of = deeper.whole(parent)?;
                // a place that nothing takes has no node
                let list = s.str(parent);
                let before = &list[1..t.span(part).start - t.span(parent).start];
                match of.kind() {
                    Kind::Tuple(parts) => parts.get(before.matches(',').count()).copied(),
                    _ => deeper.element(of),
                }
            }
            Role::Pattern if s.str(parent).starts_with("...") && t.role(t.parent(parent)?) == Role::Parameter => {
                self.annotation(t.parent(parent)?, Field::Type)
            }
            _ => None,
        }
    }

    /// What a pattern takes apart.
    fn whole(&self, pattern: NodeId) -> Option<Ty> {
        let t = self.tree();
        let parent = t.parent(pattern)?;
        match t.role(parent) {
            Role::Assign if t.field(pattern) == Field::Left => {
                let written = self.annotation(parent, Field::Type);
                written.or_else(|| self.own(t.child(parent, Field::Right)?))
            }
            Role::Parameter => self.parameter(parent),
            Role::For => self.turn(parent),
            Role::Pattern | Role::Default => self.unpacked(pattern),
            _ => None,
        }
    }
}

/// The type of a literal, as narrow as it is.
pub fn literal(text: &str) -> Option<Ty> {
    match text.chars().next()? {
        '"' | '\'' => Some(Ty::literal(text)),
        '`' => Some(string()),
        c if c.is_ascii_digit() || c == '.' => Some(Ty::literal(text)),
        't' | 'f' => Some(Ty::literal(text)),
        'n' => Some(Ty::primitive("null")),
        'u' => Some(undefined()),
        _ => None,
    }
}

pub fn is_enum(home: &Source, definition: NodeId) -> bool {
    home.str(definition).trim_start_matches("const ").starts_with("enum ")
}

pub fn is_nothing(of: Ty) -> bool {
    of.alternatives().iter().all(|p| [Ty::primitive("null"), undefined()].contains(p))
}

fn without(of: Ty, part: Ty) -> Ty {
    Ty::union(of.alternatives().into_iter().filter(|p| *p != part).collect())
}
