//! Types of values, as they would be written: from annotations, literals, constructors, signatures and members of the
//! same file, loops over arrays, and the everyday members of the library.
//!
//! A variable whose written type is a union may have been narrowed by a condition before the code; where that can't be
//! told the type is unknown. Types of other files, and what generics would infer, are unknown too.

use std::sync::Arc;

use crate::lang::{Definitions, Joined};
use crate::names::{BindKind, BindingId, Source, Use};
use crate::tree::{Field, NodeId, Role, Tree};
use crate::types::{self, Ty};

/// Deeper chains of inference are given up.
const MOST_STEPS: usize = 12;

pub fn type_of(source: &Source, node: NodeId, definitions: &Definitions) -> Option<String> {
    let types = Types { s: source, at: node, definitions };
    let found = types.value(node, 0)?;
    types.as_written_here(found)
}

/// More literals than this are a plain text.
const MOST_LITERALS: usize = 4;

/// A union of more named types is no type that a person would write.
const MOST_TYPES: usize = 3;

/// The union of all.
pub fn join(list: &[Ty]) -> Option<Joined> {
    let mut all: Vec<String> = Vec::new();
    let parts: Option<Vec<Vec<String>>> = list
        .iter()
        .map(|t| match t.kind() {
            types::Kind::Written(text) => Some(split_union(&text)),
            _ => None,
        })
        .collect();
    let parts = parts?;
    for part in parts.iter().flatten().filter(|p| !p.is_empty()) {
        if !all.contains(part) {
            all.push(part.clone());
        }
    }
    let named = all.iter().filter(|t| !["null", "undefined"].contains(&t.as_str())).count();
    // code that one copy has for the whole union is right for it
    let is_wider = all.len() > 1 && parts.iter().all(|p| p.len() < all.len());
    (named <= MOST_TYPES).then(|| Joined { ty: Ty::written(&all.join(" | ")), is_wider })
}

/// The union of a few texts.
pub fn of_literals(texts: &[&str]) -> Option<String> {
    let mut all = texts.to_vec();
    all.sort_unstable();
    all.dedup();
    let quoted = all.iter().all(|t| t.starts_with(['\'', '"']));
    quoted.then(|| if all.len() <= MOST_LITERALS { all.join(" | ") } else { "string".into() })
}

/// Parts of a union that are not inside brackets.
fn split_union(text: &str) -> Vec<String> {
    if text.contains(['(', '{', '<']) {
        return vec![text.to_string()];
    }
    text.split('|').map(|p| p.trim().to_string()).collect()
}

/// A type's text and the file whose names it is written in; none for the file that asks.
#[derive(Clone)]
struct Kind {
    text: String,
    home: Option<Arc<Source>>,
}

impl From<&str> for Kind {
    fn from(text: &str) -> Kind {
        Kind { text: text.to_string(), home: None }
    }
}

impl From<String> for Kind {
    fn from(text: String) -> Kind {
        Kind { text, home: None }
    }
}

impl Kind {
    /// Another type of the same file.
    fn with(&self, text: impl Into<String>) -> Kind {
        Kind { text: text.into(), home: self.home.clone() }
    }
    fn is(&self, text: &str) -> bool {
        self.text == text
    }
}

struct Types<'a> {
    s: &'a Source,
    definitions: &'a Definitions<'a>,
    /// Where the type is asked for.
    at: NodeId,
}

impl Types<'_> {
    fn tree(&self) -> &Tree {
        &self.s.tree
    }

    fn value(&self, node: NodeId, depth: usize) -> Option<Kind> {
        if depth > MOST_STEPS {
            return None;
        }
        let (s, t) = (self.s, self.tree());
        let own = |f: Field| t.child(node, f);
        match t.role(node) {
            Role::Literal => literal(s.str(node)).map(Kind::from),
            Role::Template => Some("string".into()),
            Role::Fresh => Some("RegExp".into()),
            Role::Name => self.name(node, depth),
            Role::NotOp | Role::Compare => Some("boolean".into()),
            Role::UnaryOp if s.str(node).starts_with("typeof") => Some("string".into()),
            Role::UnaryOp | Role::AugAssign => self.value(own(Field::Expression).or(own(Field::Left))?, depth + 1),
            Role::BinaryOp => self.operation(node, depth),
            Role::BoolOp | Role::Conditional => {
                let sides = if t.role(node) == Role::BoolOp {
                    [Field::Left, Field::Right]
                } else {
                    [Field::Body, Field::Alternative]
                };
                let [a, b] = sides.map(|f| own(f).and_then(|n| self.value(n, depth + 1)));
                a.filter(|a| b.is_some_and(|b| b.is(&a.text)))
            }
            Role::Paren => self.bracketed(node, depth),
            Role::Await => {
                let inner = t.children(node).find(|c| t.role(*c) != Role::AsyncMark)?;
                let kind = self.value(inner, depth + 1)?;
                Some(argument_of(&kind.text, "Promise").map_or(kind.clone(), |t| kind.with(t)))
            }
            Role::List => {
                let types: Vec<Kind> = t.children(node).map(|c| self.value(c, depth + 1)).collect::<Option<_>>()?;
                let first = types.first()?;
                types.iter().all(|x| x.is(&first.text)).then(|| first.with(array_of(&first.text)))
            }
            Role::Member => self.enumerated(node).or_else(|| self.member(node, depth)),
            Role::Index => element(&self.value(own(Field::Object)?, depth + 1)?),
            Role::Call => self.call(node, depth),
            _ => None,
        }
    }

    /// Brackets, `x as T`, `x!`.
    fn bracketed(&self, node: NodeId, depth: usize) -> Option<Kind> {
        let t = self.tree();
        let parts: Vec<NodeId> = t.children(node).filter(|c| t.role(*c) != Role::Token).collect();
        let words: Vec<&str> = t.children(node).filter(|c| t.role(*c) == Role::Token).map(|c| self.s.str(c)).collect();
        match parts[..] {
            [_, written] if !words.contains(&"satisfies") => {
                let text = self.s.str(written);
                (text != "const").then(|| text.into())
            }
            [inner, ..] if words.contains(&"!") => {
                let kind = self.value(inner, depth + 1)?;
                let kept: Vec<&str> =
                    kind.text.split('|').map(str::trim).filter(|p| !["null", "undefined"].contains(p)).collect();
                Some(kind.with(kept.join(" | ")))
            }
            [inner, ..] => self.value(inner, depth + 1),
            [] => None,
        }
    }

    /// `Kind.Open`: one of an enumeration has the type of that.
    fn enumerated(&self, node: NodeId) -> Option<Kind> {
        let (s, t) = (self.s, self.tree());
        let object = t.child(node, Field::Object).filter(|o| t.role(*o) == Role::Name)?;
        let (home, definition) = (self.definitions)(s, s.str(object))?;
        let is_enum = home.str(definition).trim_start_matches("const ").starts_with("enum ");
        is_enum.then(|| Kind::from(s.str(object)))
    }

    fn operation(&self, node: NodeId, depth: usize) -> Option<Kind> {
        let t = self.tree();
        let [a, b] = [Field::Left, Field::Right].map(|f| t.child(node, f).and_then(|n| self.value(n, depth + 1)));
        let operator = t.child(node, Field::Operator).map_or("", |o| self.s.str(o));
        if operator == "+" && [&a, &b].into_iter().flatten().any(|x| x.is("string")) {
            return Some("string".into());
        }
        [a, b].iter().all(|x| x.as_ref().is_some_and(|x| x.is("number"))).then(|| "number".into())
    }

    fn name(&self, node: NodeId, depth: usize) -> Option<Kind> {
        let (s, t) = (self.s, self.tree());
        let b = s.names.at(node)?.target?;
        if s.str(node) == "this" {
            let owner = s.names.scope(s.names.binding(b).scope).node;
            let class = t.ancestor(owner, &[Role::Class, Role::Function, Role::Lambda])?;
            let generic = t.child(class, Field::TypeParams).is_some();
            let name = t.child(class, Field::Name).filter(|_| t.role(class) == Role::Class && !generic)?;
            return Some(s.str(name).into());
        }
        let kind = self.binding(b, depth)?;
        let loose = !self.is_one_thing(&kind);
        (!loose || !self.narrowed(b)).then_some(kind)
    }

    fn binding(&self, b: BindingId, depth: usize) -> Option<Kind> {
        let (s, t) = (self.s, self.tree());
        let binding = s.names.binding(b);
        let first = binding.first;
        let parent = t.parent(first)?;
        if let Some(written) = written_type(s, parent).filter(|_| t.role(first) == Role::Name) {
            let optional = s.str(parent)[s.str(first).len()..].trim_start().starts_with('?');
            return Some(if optional { format!("{written} | undefined").into() } else { written.into() });
        }
        match (binding.kind, t.role(parent)) {
            (BindKind::Class, Role::Class) => Some(format!("typeof {}", binding.name).into()),
            (BindKind::Function, Role::Function) => self.signature(parent),
            (_, Role::Assign) => self.value(t.child(parent, Field::Right)?, depth + 1),
            (_, Role::Parameter) => {
                let default = t.child(parent, Field::Value).and_then(|v| self.value(v, depth + 1));
                default.or_else(|| self.given(first, parent, depth))
            }
            (_, Role::For) if s.str(parent).contains(" of ") => {
                element(&self.value(t.child(parent, Field::Right)?, depth + 1)?)
            }
            (BindKind::Parameter, Role::Parameters | Role::Lambda) => self.given(first, first, depth),
            (_, Role::Pattern) => self.unpacked(first, parent, depth),
            _ => None,
        }
    }

    /// `const { a } = row`
    fn unpacked(&self, name: NodeId, pair: NodeId, depth: usize) -> Option<Kind> {
        let (s, t) = (self.s, self.tree());
        let key = t.child(pair, Field::Key)?;
        let assign = t.parent(t.parent(pair)?).filter(|a| t.role(*a) == Role::Assign)?;
        let whole = match written_type(s, assign) {
            Some(w) => w.into(),
            None => self.value(t.child(assign, Field::Right)?, depth + 1)?,
        };
        (t.child(pair, Field::Value) == Some(name)).then(|| self.property(&whole, s.str(key), depth))?
    }

    /// The parameter of a function that is handed to a method of an array.
    fn given(&self, name: NodeId, parameter: NodeId, depth: usize) -> Option<Kind> {
        let (s, t) = (self.s, self.tree());
        let lambda = t.callable_around(name).filter(|l| t.role(*l) == Role::Lambda)?;
        let arguments = t.parent(lambda).filter(|a| t.role(*a) == Role::Arguments)?;
        let callee = t.child(t.parent(arguments)?, Field::Callee).filter(|c| t.role(*c) == Role::Member)?;
        let position = match t.child(lambda, Field::Parameters)? {
            one if t.role(one) == Role::Name => 0,
            list => t.children(list).position(|p| p == parameter)?,
        };
        let each = ["map", "forEach", "filter", "some", "every", "find", "findIndex", "flatMap"];
        let method = s.str(t.child(callee, Field::Member)?);
        let of = element(&self.value(t.child(callee, Field::Object)?, depth + 1)?)?;
        match (position, method) {
            (0, m) if each.contains(&m) => Some(of),
            (1, m) if each.contains(&m) => Some("number".into()),
            (0 | 1, "sort") => Some(of),
            _ => None,
        }
    }

    fn signature(&self, function: NodeId) -> Option<Kind> {
        let (s, t) = (self.s, self.tree());
        let list = t.child(function, Field::Parameters)?;
        let result = t.child(function, Field::ReturnType)?;
        let parameters: Vec<&str> =
            t.children(list).map(|p| t.child(p, Field::Type).map(|_| s.str(p))).collect::<Option<_>>()?;
        let plain = t.child(function, Field::TypeParams).is_none()
            && !t.children(list).any(|p| t.child(p, Field::Value).is_some());
        plain.then(|| format!("({}) => {}", parameters.join(", "), unmarked(s.str(result))).into())
    }

    fn member(&self, node: NodeId, depth: usize) -> Option<Kind> {
        let t = self.tree();
        let (object, member) = (t.child(node, Field::Object)?, t.child(node, Field::Member)?);
        if t.children(node).any(|c| t.role(c) == Role::OptionalMark) {
            return None;
        }
        let of = self.value(object, depth + 1)?;
        let found = self.property(&of, self.s.str(member), depth)?;
        let mentioned = || {
            let same = self.s.str(node);
            self.conditions().any(|c| self.s.str(c).contains(same))
        };
        (!found.text.contains('|') || !mentioned()).then_some(found)
    }

    /// A member of a type of the project, or an everyday one of the library.
    fn property(&self, of: &Kind, member: &str, _depth: usize) -> Option<Kind> {
        let collection = of.text.starts_with("Map<") || of.text.starts_with("Set<");
        if member == "length" && (of.is("string") || element(of).is_some()) || member == "size" && collection {
            return Some("number".into());
        }
        let (d, definition) = self.definition(of)?;
        let t = &d.tree;
        if t.child(definition, Field::TypeParams).is_some() {
            return None;
        }
        let body = t.child(definition, Field::Body).or_else(|| t.child(definition, Field::Value))?;
        let own = t.children(body).find(|m| {
            let name = t.child(*m, Field::Name).or_else(|| t.child(*m, Field::Member));
            name.is_some_and(|n| d.str(n) == member)
        })?;
        let written = unmarked(d.str(t.child(own, Field::Type)?)).to_string();
        let optional = d.str(own).split(':').next().unwrap_or("").trim_end().ends_with('?');
        let text = if optional { format!("{written} | undefined") } else { written };
        Some(Kind { text, home: Some(d) })
    }

    /// Where a named type is defined.
    fn definition(&self, of: &Kind) -> Option<(Arc<Source>, NodeId)> {
        let asker = of.home.as_deref().unwrap_or(self.s);
        (self.definitions)(asker, &of.text)
    }

    /// The text, when its names mean the same in the file that asks.
    fn as_written_here(&self, kind: Kind) -> Option<String> {
        let Some(home) = kind.home.as_deref().filter(|h| h.path != self.s.path) else { return Some(kind.text) };
        let words = kind.text.split(|c: char| !c.is_alphanumeric() && c != '_' && c != '$');
        for word in words.filter(|w| home.names.in_module(w).is_some()) {
            let (there, here) = ((self.definitions)(home, word)?, (self.definitions)(self.s, word)?);
            if there.0.path != here.0.path || there.1 != here.1 {
                return None;
            }
        }
        Some(kind.text)
    }

    fn call(&self, node: NodeId, depth: usize) -> Option<Kind> {
        let (s, t) = (self.s, self.tree());
        let callee = t.child(node, Field::Callee)?;
        if s.str(node).starts_with("new ") {
            let generic = t.child(node, Field::TypeParams).map_or("", |g| s.str(g));
            return Some(format!("{}{generic}", s.str(callee)).into());
        }
        let name = s.str(callee);
        if t.role(callee) == Role::Name {
            let known = match name {
                "String" => Some("string"),
                "Number" | "parseInt" | "parseFloat" => Some("number"),
                "Boolean" | "isNaN" => Some("boolean"),
                _ => None,
            };
            let own = || {
                let function = t.parent(s.names.binding(s.names.at(callee)?.target?).first)?;
                let generic = t.child(function, Field::TypeParams).is_some();
                t.child(function, Field::ReturnType).filter(|_| !generic).map(|r| Kind::from(unmarked(s.str(r))))
            };
            return known.map(Kind::from).or_else(own);
        }
        let (object, member) = (t.child(callee, Field::Object)?, s.str(t.child(callee, Field::Member)?));
        if s.str(object) == "Math" || name == "Date.now" {
            return Some("number".into());
        }
        if name == "JSON.stringify" || ["toFixed", "join", "toString"].contains(&member) {
            return Some("string".into());
        }
        let of = self.value(object, depth + 1)?;
        match member {
            "trim" | "toUpperCase" | "toLowerCase" | "slice" | "padStart" | "padEnd" | "replace" | "repeat"
            | "trimEnd"
                if of.is("string") =>
            {
                Some(of)
            }
            "split" if of.is("string") => Some("string[]".into()),
            "includes" | "startsWith" | "endsWith" | "some" | "every" => Some("boolean".into()),
            "indexOf" | "findIndex" => Some("number".into()),
            "filter" | "slice" | "reverse" | "sort" | "concat" if element(&of).is_some() => Some(of),
            _ => self.method_result(&of, member),
        }
    }

    fn method_result(&self, of: &Kind, member: &str) -> Option<Kind> {
        let (d, class) = self.definition(of)?;
        let t = &d.tree;
        let body = t.child(class, Field::Body)?;
        let own = t.children(body).find(|m| t.child(*m, Field::Name).is_some_and(|n| d.str(n) == member))?;
        let text = t.child(own, Field::ReturnType).map(|r| unmarked(d.str(r)).to_string())?;
        Some(Kind { text, home: Some(d) })
    }

    /// Conditions of the function around that stand before the place.
    fn conditions(&self) -> impl Iterator<Item = NodeId> + '_ {
        let t = self.tree();
        // a condition around an inner function may hold in it too
        let callables = t.ancestors(self.at).filter(|a| t.role(*a).is_callable());
        let function = callables.last().unwrap_or(Tree::ROOT);
        let before = (function.0..self.at.0).map(NodeId);
        before.filter(|n| {
            let logical = t.parent(*n).is_some_and(|p| t.role(p) == Role::BoolOp) && t.field(*n) == Field::Left;
            matches!(t.field(*n), Field::Condition | Field::Subject) || logical
        })
    }

    /// A type that no condition makes narrower: a primitive, an array, a class or an interface. What a name of another
    /// kind stands for may be a union.
    fn is_one_thing(&self, kind: &Kind) -> bool {
        let primitive = ["string", "number", "boolean", "bigint", "symbol"].contains(&kind.text.as_str());
        let defined = || {
            let (d, node) = self.definition(kind)?;
            Some(d.tree.role(node) == Role::Class || d.str(node).starts_with("interface"))
        };
        primitive || element(kind).is_some() && !kind.text.contains('|') || defined() == Some(true)
    }

    /// Perhaps known more narrowly where it is used than where it was declared.
    fn narrowed(&self, b: BindingId) -> bool {
        let (s, t) = (self.s, self.tree());
        let tested = self.conditions().any(|c| s.names.in_range(c, t.end(c)).iter().any(|r| r.target == Some(b)));
        tested || s.names.references_to(b).any(|r| r.usage != Use::Read && r.node != s.names.binding(b).first)
    }
}

/// The written type of a declaration.
fn written_type(s: &Source, declaration: NodeId) -> Option<String> {
    let t = &s.tree;
    let fits = matches!(t.role(declaration), Role::Assign | Role::Parameter);
    let own = t.child(declaration, Field::Type).filter(|_| fits)?;
    Some(unmarked(s.str(own)).to_string())
}

/// `: T` without its mark.
fn unmarked(annotation: &str) -> &str {
    annotation.trim_start_matches(':').trim()
}

fn literal(text: &str) -> Option<&'static str> {
    match text.chars().next()? {
        '"' | '\'' | '`' => Some("string"),
        c if c.is_ascii_digit() || c == '.' => Some(if text.ends_with('n') { "bigint" } else { "number" }),
        't' | 'f' => Some("boolean"),
        'n' => Some("null"),
        'u' => Some("undefined"),
        _ => None,
    }
}

fn array_of(element: &str) -> String {
    if element.contains(['|', ' ', '&']) { format!("({element})[]") } else { format!("{element}[]") }
}

/// The only type argument of a generic type.
fn argument_of(text: &str, generic: &str) -> Option<String> {
    let inner = text.strip_prefix(generic)?.strip_prefix('<')?.strip_suffix('>')?;
    (!inner.contains(',')).then(|| inner.to_string())
}

/// What an array, or another collection of one kind of things, holds.
fn element(kind: &Kind) -> Option<Kind> {
    let text = kind.text.strip_prefix("readonly ").unwrap_or(&kind.text);
    if let Some(inner) = text.strip_suffix("[]") {
        let bare = inner.strip_prefix('(').and_then(|i| i.strip_suffix(')')).unwrap_or(inner);
        return Some(kind.with(bare));
    }
    let generics = ["Array", "ReadonlyArray", "Set", "Iterable", "ReadonlySet"];
    generics.into_iter().find_map(|g| argument_of(text, g)).map(|t| kind.with(t))
}
