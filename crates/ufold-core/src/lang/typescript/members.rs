//! Members of a type: of the project's classes, interfaces, enumerations and objects, and of the everyday library.

use std::sync::Arc;

use super::library::{self, Block};
use super::types::{Types, general, is_enum, something, string, undefined};
use super::written::Reader;
use crate::names::Source;
use crate::tree::{Field, NodeId, Role};
use crate::types::{Kind, Ty};

/// Bases that are looked through for a member.
const MOST_BASES: usize = 8;

/// Everyday types of which no members are told.
const ONE_THING: &[&str] =
    &["Promise", "Record", "Iterable", "IterableIterator", "Generator", "Uint8Array", "ArrayBuffer"];

impl Types<'_> {
    /// Where a named type of the project is defined, with its type arguments.
    fn definition(&self, of: Ty) -> Option<(Arc<Source>, NodeId, Vec<Ty>)> {
        let Kind::Named { name, arguments, only_in: Some(path) } = of.kind() else { return None };
        let (home, node) = self.seen.borrow().get(&(path, name)).cloned()?;
        Some((home, node, arguments))
    }

    /// What an alias stands for.
    pub fn expanded(&self, of: Ty) -> Ty {
        let Some((home, node, arguments)) = self.definition(of) else { return of };
        let t = &home.tree;
        let value = t.child(node, Field::Value).filter(|_| t.role(node) == Role::TypeAlias);
        let Some(value) = value.filter(|_| self.depth < MOST_BASES) else { return of };
        let found = self.in_file(&home, node, |types| {
            let read = types.read(home.str(value), value);
            let opaque = matches!(read.kind(), Kind::Named { ref name, .. } if *name == home.str(value));
            let read = types.filled(node, read, &arguments)?;
            (!opaque).then(|| types.expanded(read))
        });
        found.unwrap_or(of)
    }

    /// Those of which a value has one, aliases taken apart.
    pub fn parts(&self, of: Ty) -> Vec<Ty> {
        let inner = |t: Ty| match self.expanded(t) {
            same if same == t => vec![t],
            other => self.parts(other),
        };
        of.alternatives().into_iter().flat_map(inner).collect()
    }

    /// A type with the type arguments of its definition put in; none when they are not told.
    fn filled(&self, definition: NodeId, of: Ty, arguments: &[Ty]) -> Option<Ty> {
        let (s, t) = (self.s, self.tree());
        let Some(list) = t.child(definition, Field::TypeParams) else { return of.known() };
        let names: Vec<String> =
            t.children(list).filter_map(|p| t.child(p, Field::Name)).map(|n| s.str(n).to_string()).collect();
        let given: Vec<(String, Ty)> = names.iter().cloned().zip(arguments.iter().copied()).collect();
        (names.len() == arguments.len()).then(|| of.with(&given))?.known()
    }

    /// The type of a member.
    pub fn property(&self, of: Ty, member: &str) -> Option<Ty> {
        if let Kind::Shape(members) = of.kind() {
            let named = |(n, _): &&(String, Ty)| n.trim_end_matches('?').trim_start_matches("readonly ") == member;
            let (name, found) = members.iter().find(named)?;
            return Some(if name.ends_with('?') { Ty::union(vec![*found, undefined()]) } else { *found });
        }
        let parts = self.parts(of);
        if let [first, rest @ ..] = &parts[..]
            && !rest.is_empty()
        {
            let all: Option<Vec<Ty>> = [first].into_iter().chain(rest).map(|p| self.property(*p, member)).collect();
            return Ty::union(all?).known();
        }
        let of = *parts.first()?;
        if matches!(of.kind(), Kind::Shape(_)) {
            return self.property(of, member);
        }
        if let Some((block, arguments)) = block_of(of) {
            let own = block.member(member).filter(|m| !m.is_called)?;
            return self.of_library(block, &own.of, of, &arguments);
        }
        let (home, node, arguments) = self.definition(of)?;
        self.in_file(&home, node, |types| types.member_of(node, member, &arguments, 0))
    }

    /// The type of a member of a class or an interface, or of those that it extends.
    fn member_of(&self, definition: NodeId, member: &str, arguments: &[Ty], depth: usize) -> Option<Ty> {
        let (s, t) = (self.s, self.tree());
        if is_enum(s, definition) || depth > MOST_BASES {
            return None;
        }
        let body = t.child(definition, Field::Body).or_else(|| t.child(definition, Field::Value))?;
        let named = |m: NodeId| {
            let name = t.child(m, Field::Name).or_else(|| t.children(m).find(|c| t.role(*c) == Role::MemberName));
            name.is_some_and(|n| s.str(n) == member)
        };
        let is_static = |m: NodeId| t.children(m).any(|c| s.str(c) == "static");
        let own: Vec<NodeId> = t.children(body).filter(|m| named(*m) && !is_static(*m)).collect();
        let found = match own[..] {
            [] => self.constructed(body, member),
            [one] => Some(self.declared(one)),
            // a getter and its setter
            [a, b] => [a, b].into_iter().find(|m| s.str(*m).contains("get ")).map(|m| self.declared(m)),
            _ => return None,
        };
        match found {
            Some(of) => self.filled(definition, of?, arguments),
            None => self.bases(definition).into_iter().find_map(|base| {
                if let Some((block, arguments)) = block_of(base) {
                    let own = block.member(member).filter(|m| !m.is_called)?;
                    return self.of_library(block, &own.of, base, &arguments);
                }
                let (home, node, arguments) = self.definition(base)?;
                self.in_file(&home, node, |types| types.member_of(node, member, &arguments, depth + 1))
            }),
        }
    }

    /// `constructor(private name: T)`
    fn constructed(&self, body: NodeId, member: &str) -> Option<Option<Ty>> {
        let (s, t) = (self.s, self.tree());
        let is_it = |m: &NodeId| t.child(*m, Field::Name).is_some_and(|n| s.str(n) == "constructor");
        let list = t.children(body).find(is_it).and_then(|c| t.child(c, Field::Parameters))?;
        let own = t.children(list).find(|p| {
            let marked = t.children(*p).any(|c| t.role(c) == Role::Token && s.str(c) != "?");
            marked && t.child(*p, Field::Name).is_some_and(|n| s.str(n) == member)
        })?;
        Some(self.annotation(own, Field::Type))
    }

    fn declared(&self, member: NodeId) -> Option<Ty> {
        let (s, t) = (self.s, self.tree());
        let has = |word: &str| t.children(member).any(|c| t.role(c) == Role::Token && s.str(c) == word);
        if t.child(member, Field::Parameters).is_some() {
            let of = if has("get") { self.result(member)? } else { self.signature(member)? };
            return if has("?") { Ty::union(vec![of, undefined()]) } else { of }.known();
        }
        let of = match self.annotation(member, Field::Type) {
            Some(written) => written,
            None if has("readonly") => self.own(t.child(member, Field::Value)?)?,
            None => general(self.own(t.child(member, Field::Value)?)?),
        };
        let of = if has("?") { Ty::union(vec![of, undefined()]) } else { of };
        of.known()
    }

    /// What a class or an interface says that it extends.
    pub fn bases(&self, definition: NodeId) -> Vec<Ty> {
        let (s, t) = (self.s, self.tree());
        let clauses = t.children(definition).flat_map(|c| {
            let deeper: Vec<NodeId> = if t.field(c) == Field::Bases { t.children(c).collect() } else { vec![c] };
            deeper
        });
        let texts = clauses.filter_map(|c| s.str(c).strip_prefix("extends ").map(|rest| (c, rest)));
        texts.flat_map(|(c, rest)| rest.split(", ").map(move |b| self.read(b, c))).collect()
    }

    /// What is at an index.
    pub fn item(&self, of: Ty, index: NodeId) -> Option<Ty> {
        let (s, t) = (self.s, self.tree());
        let text = s.str(index);
        let literal = t.role(index) == Role::Literal;
        match of.kind() {
            Kind::Tuple(parts) => parts.get(text.parse::<usize>().ok()?).copied(),
            Kind::Named { name, arguments, only_in: None } if name == "Record" => {
                let open = arguments.first().is_some_and(|k| [string(), Ty::primitive("number")].contains(k));
                arguments.get(1).copied().filter(|_| open)
            }
            Kind::Primitive(p) if p == "string" => Some(of),
            _ if literal && text.starts_with(['"', '\'']) => self.property(of, text.trim_matches(['"', '\''])),
            Kind::Array(_) => self.element(of),
            _ => self
                .element(of)
                .filter(|_| matches!(of.kind(), Kind::Named { ref name, .. } if name == "ReadonlyArray")),
        }
    }

    /// What a collection gives one after the other.
    pub fn element(&self, of: Ty) -> Option<Ty> {
        match self.expanded(of).kind() {
            Kind::Array(of) => Some(of),
            Kind::Primitive(p) if p == "string" => Some(string()),
            Kind::Tuple(parts) => Ty::union(parts).known(),
            Kind::Named { name, arguments, only_in: None } => match (name.as_str(), &arguments[..]) {
                ("ReadonlyArray" | "Set" | "ReadonlySet" | "Iterable" | "IterableIterator" | "Generator", [of, ..]) => {
                    Some(*of)
                }
                ("Map" | "ReadonlyMap", [k, v]) => Some(Ty::new(Kind::Tuple(vec![*k, *v]))),
                _ => None,
            },
            _ => None,
        }
    }

    /// What a call of a method gives.
    pub fn method_result(&self, of: Ty, member: &str, call: NodeId) -> Option<Ty> {
        let parts = self.parts(of);
        let of = *parts.first().filter(|_| parts.len() == 1)?;
        let Some((block, arguments)) = block_of(of) else {
            let own = self.property(of, member)?;
            let optional = self.tree().children(call).any(|c| self.s.str(c) == "?.");
            let called = if optional { something(own) } else { own };
            let Kind::Function { result, .. } = called.kind() else { return None };
            return if called == own { Some(result) } else { Ty::union(vec![result, undefined()]).known() };
        };
        let list = self.tree().child(call, Field::Arguments)?;
        let given: Vec<NodeId> = self.tree().children(list).collect();
        match (member, self.element(of)) {
            // those that a test lets pass may be known more narrowly
            ("filter", Some(of)) => (!self.is_loose(of)).then(|| Ty::array_of(of)),
            ("reduce", Some(of)) => match given.get(1) {
                Some(first) => {
                    let kind = general(self.own(*first)?);
                    (kind == of || matches!(kind.kind(), Kind::Primitive(_)) && !is_some(of, kind)).then_some(kind)
                }
                None => Some(of),
            },
            ("find" | "findLast", Some(of)) if self.is_loose(of) => None,
            _ => {
                let own = block.member(member).filter(|m| m.is_called)?;
                match own.of.as_str() {
                    "U[]" => match self.own(*given.first()?)?.kind() {
                        Kind::Function { result, .. } => Some(Ty::array_of(general(result))),
                        _ => None,
                    },
                    text => self.of_library(block, text, of, &arguments),
                }
            }
        }
    }

    fn of_library(&self, block: &Block, text: &str, own: Ty, arguments: &[Ty]) -> Option<Ty> {
        if text == "*" {
            return Some(own);
        }
        let reader =
            Reader { home: None, parameters: &block.parameters, definitions: self.definitions, seen: self.seen };
        let given: Vec<(String, Ty)> = block.parameters.iter().cloned().zip(arguments.iter().copied()).collect();
        (given.len() == block.parameters.len()).then(|| reader.read(text).with(&given))?.known()
    }

    /// A member of an object that the library has once: `Math.PI`.
    pub fn of_object(&self, member: NodeId) -> Option<Ty> {
        let (block, name) = self.library_object(self.tree().child(member, Field::Object)?, member)?;
        let own = block.member(&name).filter(|m| !m.is_called)?;
        self.of_library(block, &own.of, Ty::UNKNOWN, &[])
    }

    fn library_object(&self, object: NodeId, member: NodeId) -> Option<(&'static Block, String)> {
        let (s, t) = (self.s, self.tree());
        let free = t.role(object) == Role::Name && s.names.at(object).is_some_and(|r| r.target.is_none());
        let name = s.str(t.child(member, Field::Member)?).to_string();
        Some((library::of_object(s.str(object)).filter(|_| free)?, name))
    }

    /// `Math.max(…)`, `Object.entries(…)`
    pub fn of_library_object(&self, object: NodeId, member: &str, call: NodeId) -> Option<Ty> {
        let (s, t) = (self.s, self.tree());
        let callee = t.child(call, Field::Callee)?;
        let (block, _) = self.library_object(object, callee)?;
        if s.str(object) == "Object" && ["values", "entries"].contains(&member) {
            let first = t.child(call, Field::Arguments).and_then(|a| t.children(a).next())?;
            let Kind::Named { name, arguments, only_in: None } = self.own(first)?.kind() else { return None };
            let value = arguments.get(1).copied().filter(|_| name == "Record")?;
            let pair = || Ty::new(Kind::Tuple(vec![string(), value]));
            return Some(Ty::array_of(if member == "values" { value } else { pair() }));
        }
        let own = block.member(member).filter(|m| m.is_called)?;
        self.of_library(block, &own.of, Ty::UNKNOWN, &[])
    }

    /// A value of it may be known more narrowly after a test.
    pub fn is_loose(&self, of: Ty) -> bool {
        let parts = self.parts(of);
        let open = |p: &Ty| match p.kind() {
            Kind::Primitive(p) => ["any", "unknown"].contains(&p.as_str()),
            Kind::Parameter { .. } => true,
            Kind::Named { name, only_in: None, .. } => {
                library::of_type(&name).is_none() && !ONE_THING.contains(&name.as_str())
            }
            Kind::Named { only_in: Some(_), .. } => self.definition(*p).is_none_or(|(home, node, _)| {
                let one = home.tree.role(node) == Role::Class || home.str(node).starts_with("interface");
                !one
            }),
            _ => false,
        };
        parts.len() > 1 || parts.iter().any(open)
    }

    /// Whether objects of a type must have a member, where that can be told.
    pub fn has_member(&self, of: Ty, name: &str) -> Option<bool> {
        if let Kind::Shape(members) = of.kind() {
            let open = members.iter().any(|(n, _)| n.trim_end_matches('?') == name && n.ends_with('?'));
            return (!open).then(|| members.iter().any(|(n, _)| n == name));
        }
        let (home, node, _) = self.definition(of)?;
        let t = &home.tree;
        let body = t.child(node, Field::Body)?;
        let bases = self.in_file(&home, node, |types| Some(types.bases(node)))?;
        let own = t.children(body).find(|m| t.children(*m).any(|c| home.str(c) == name));
        match own {
            Some(m) => (!home.str(m).contains('?')).then_some(true),
            None => (bases.is_empty() && t.children(body).all(|m| !home.str(m).starts_with('['))).then_some(false),
        }
    }

    /// A class or an interface of the project that extends nothing.
    pub fn has_no_base(&self, of: Ty) -> bool {
        let bases = |home: &Arc<Source>, node| self.in_file(home, node, |types| Some(types.bases(node)));
        let found = self.definition(of).and_then(|(home, node, _)| bases(&home, node));
        found.is_some_and(|b| b.is_empty()) && !self.is_loose(of)
    }

    pub fn is_one_of_enum(&self, of: Ty) -> bool {
        self.definition(of).is_some_and(|(home, node, _)| is_enum(&home, node))
    }

    /// Whether a class is another one or below it.
    pub fn is_below(&self, of: Ty, base: Ty) -> bool {
        let mut todo = vec![of];
        for _ in 0..MOST_BASES {
            let Some(t) = todo.pop() else { return false };
            if t.bare() == base.bare() {
                return true;
            }
            if let Some((home, node, _)) = self.definition(t) {
                todo.extend(self.in_file(&home, node, |types| Some(types.bases(node))).unwrap_or_default());
            }
        }
        false
    }
}

/// One of several, or the same.
fn is_some(of: Ty, part: Ty) -> bool {
    of.alternatives().contains(&part) && of != part
}

/// What the library tells of a type, with its type arguments.
fn block_of(of: Ty) -> Option<(&'static Block, Vec<Ty>)> {
    let (name, arguments) = match general(of).kind() {
        Kind::Primitive(name) => (name, Vec::new()),
        Kind::Array(of) => ("Array".to_string(), vec![of]),
        Kind::Named { name, arguments, only_in: None } => (name, arguments),
        _ => return None,
    };
    Some((library::of_type(&name)?, arguments))
}
