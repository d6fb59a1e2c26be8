//! Types of functions: what they take, what they give, and what calls of them give.

use super::library;
use super::types::{Types, general, something};
use crate::tree::{Field, NodeId, Role};
use crate::types::{Kind, Ty};

impl Types<'_> {
    /// The parameter of a function that is handed to a call which says what it takes.
    pub fn given(&self, lambda: NodeId, position: usize) -> Option<Ty> {
        let (s, t) = (self.s, self.tree());
        if let Some(declared) = t.parent(lambda).filter(|a| t.role(*a) == Role::Assign) {
            return parameter_of(self.annotation(declared, Field::Type)?, position);
        }
        let arguments = t.parent(lambda).filter(|a| t.role(*a) == Role::Arguments)?;
        let place = t.children(arguments).position(|a| a == lambda)?;
        let callee = t.child(t.parent(arguments)?, Field::Callee)?;
        if t.role(callee) != Role::Member {
            return parameter_of(parameter_of(self.own(callee)?, place)?, position);
        }
        let (object, method) = (t.child(callee, Field::Object)?, s.str(t.child(callee, Field::Member)?));
        let of = something(self.own(object)?);
        if let Some(declared) = self.property(of, method).and_then(|f| parameter_of(parameter_of(f, place)?, position))
        {
            return Some(declared);
        }
        let each = ["map", "forEach", "filter", "some", "every", "find", "findIndex", "findLast", "flatMap"];
        match of.kind() {
            Kind::Named { name, arguments, .. } if name == "Map" && method == "forEach" => {
                arguments.get(1usize.checked_sub(position)?).copied()
            }
            Kind::Named { name, arguments, .. } if name == "Promise" && method == "then" => {
                arguments.first().copied().filter(|_| (place, position) == (0, 0))
            }
            _ => {
                let of = self.deeper().element(of).filter(|_| place == 0)?;
                match (position, method) {
                    (0, m) if each.contains(&m) => Some(of),
                    (1, m) if each.contains(&m) => Some(Ty::primitive("number")),
                    (0 | 1, "sort" | "toSorted") => Some(of),
                    (1, "reduce") => Some(of),
                    _ => None,
                }
            }
        }
    }

    /// The type of a function, when it says all or it can be found.
    pub fn signature(&self, function: NodeId) -> Option<Ty> {
        let (s, t) = (self.s, self.tree());
        let list = t.child(function, Field::Parameters)?;
        let named = |p: NodeId| {
            let name = t.child(p, Field::Name)?;
            let text = s.str(name);
            let plain = t.role(name) == Role::Name || text.starts_with("...");
            let optional = t.child(p, Field::Value).is_some() || t.children(p).any(|c| s.str(c) == "?");
            let mark = if optional { "?" } else { "" };
            let of = self.annotation(p, Field::Type).or_else(|| self.parameter(p)).filter(|_| plain)?;
            Some((format!("{text}{mark}"), of.known()?))
        };
        let generic = t.child(function, Field::TypeParams).is_some();
        let parameters: Option<Vec<(String, Ty)>> = match t.role(list) {
            Role::Name => Some(vec![(s.str(list).to_string(), self.given(function, 0)?)]),
            _ => t.children(list).map(named).collect(),
        };
        let (parameters, result) = (parameters.filter(|_| !generic)?, self.result(function)?);
        Some(Ty::new(Kind::Function { parameters, result }))
    }

    /// What a function gives: as it says, or by what it returns.
    pub fn result(&self, function: NodeId) -> Option<Ty> {
        let (s, t) = (self.s, self.tree());
        if let Some(written) = t.child(function, Field::ReturnType) {
            let text = s.str(written).trim_start_matches(':').trim();
            return match text.contains(" is ") || text.starts_with("asserts ") {
                true => {
                    text.contains(" is ").then(|| Ty::primitive("boolean")).filter(|_| !text.starts_with("asserts"))
                }
                false => self.read(text, function).known(),
            };
        }
        let is_async = t.children(function).any(|c| t.role(c) == Role::AsyncMark);
        let body = t.child(function, Field::Body)?;
        let inside = |n: NodeId| t.callable_around(n) == Some(function);
        let given: Vec<NodeId> = match t.role(body) {
            Role::Block => {
                let returns: Vec<NodeId> =
                    t.subtree(body).filter(|n| t.role(*n) == Role::Return && inside(*n)).collect();
                let ends = t.children(body).last().is_some_and(|l| matches!(t.role(l), Role::Return | Role::Raise));
                if returns.is_empty() {
                    return (!is_async && !t.subtree(body).any(|n| t.role(n) == Role::Raise))
                        .then(|| Ty::primitive("void"));
                }
                let values: Option<Vec<NodeId>> =
                    returns.iter().map(|r| t.children(*r).find(|c| t.role(*c) != Role::Token)).collect();
                values.filter(|_| ends)?
            }
            _ => vec![body],
        };
        if is_async || t.subtree(body).any(|n| t.role(n) == Role::Yield && inside(n)) {
            return None;
        }
        let literals = given.iter().filter(|v| t.role(**v) == Role::Literal).count();
        let all: Option<Vec<Ty>> = given.iter().map(|v| self.own(*v)).collect();
        // several texts are a union of just these
        let plain = literals < 2 || given.iter().all(|v| matches!(s.str(*v), "true" | "false"));
        let mut of = all.filter(|_| plain)?.into_iter();
        let first = of.next()?;
        of.all(|x| x == first).then_some(general(first))
    }

    pub fn call(&self, node: NodeId) -> Option<Ty> {
        let (s, t) = (self.s, self.tree());
        let callee = t.child(node, Field::Callee)?;
        if s.str(node).starts_with("new ") {
            return self.made(node, callee);
        }
        let name = s.str(callee);
        let target = s.names.at(callee).and_then(|r| r.target);
        if let Some((_, of)) = library::FUNCTIONS.iter().find(|(n, _)| *n == name && target.is_none()) {
            return Some(Ty::primitive(of));
        }
        let Some(b) = target.filter(|_| t.role(callee) == Role::Name) else {
            return result_of(self.value(callee)?);
        };
        if let Some((home, definition)) = (self.definitions)(s, &s.names.binding(b).name)
            && home.tree.role(definition) == Role::Function
        {
            let generic = home.tree.child(definition, Field::TypeParams).is_some();
            return self.in_file(&home, definition, |types| types.result(definition)).filter(|_| !generic);
        }
        let function = t.parent(s.names.binding(b).first).filter(|f| t.role(*f) == Role::Function);
        match function {
            Some(f) if t.child(f, Field::TypeParams).is_none() => self.result(f),
            Some(_) => None,
            None => result_of(self.value(callee)?),
        }
    }

    /// `new C(…)`
    pub fn made(&self, node: NodeId, callee: NodeId) -> Option<Ty> {
        let (s, t) = (self.s, self.tree());
        let written = t.child(node, Field::TypeParams).map(|g| s.str(g));
        let name = s.str(callee);
        let generic = match (self.definitions)(s, name) {
            Some((home, class)) => home.tree.child(class, Field::TypeParams).is_some(),
            None => library::of_type(name).is_some_and(|b| !b.parameters.is_empty()) || name == "Promise",
        };
        // what would be inferred
        let told = t.role(callee) == Role::Name && (written.is_some() || !generic);
        told.then(|| self.read(&format!("{name}{}", written.unwrap_or("")), node))?.known()
    }
}

fn parameter_of(of: Ty, position: usize) -> Option<Ty> {
    let Kind::Function { parameters, .. } = of.kind() else { return None };
    parameters.get(position).filter(|(name, _)| !name.starts_with("...")).map(|p| p.1)
}

fn result_of(of: Ty) -> Option<Ty> {
    match of.kind() {
        Kind::Function { result, .. } => Some(result),
        _ => None,
    }
}
