//! Checked exceptions that leave a piece of code, for the `throws` of a function that takes it.
//!
//! Exact where every call is known. Where one is not, all that could be thrown to the place is declared: what the handlers
//! around it catch and what the method around it declares. That compiles as the code did, for there it was caught or
//! declared too.

use super::typing::Types;
use super::{members, spelling};
use crate::lang::Definitions;
use crate::names::Source;
use crate::tree::{Field, NodeId, Role};
use crate::types::Ty;

type Told<T> = Result<T, (NodeId, String)>;

pub fn declared(s: &Source, first: NodeId, end: NodeId, definitions: &Definitions) -> Told<Vec<String>> {
    let types = Types::new(s, definitions);
    let mut thrown = Thrown { s, types, all: Vec::new(), unknown: None };
    let mut at = first;
    while at < end {
        thrown.node(at);
        at = s.tree.end(at);
    }
    // all that can be thrown to this place
    let mut wide = around(s, first, types);
    let fits = |x: &Ty| wide.iter().any(|w| is_below(*x, *w) || *x == *w);
    // the statements of a sketch may throw anything
    let open = s.tree.ancestor(first, &[Role::Function, Role::Lambda, Role::Class]).is_none();
    let odd = thrown.unknown.or((!open && !thrown.all.iter().all(fits)).then_some(first));
    let Some(unknown) = odd else { return spelled(s, first, &thrown.all, definitions) };
    if open || wide.iter().any(|t| !t.is_known()) {
        return Err((unknown, "which exceptions this throws is not known".into()));
    }
    wide.retain(|t| types.is_unchecked(*t) != Some(true));
    spelled(s, first, &wide, definitions)
}

fn spelled(s: &Source, at: NodeId, all: &[Ty], definitions: &Definitions) -> Told<Vec<String>> {
    let mut out: Vec<String> = Vec::new();
    // what a wider one covers need not be said
    let covered = |x: &Ty| all.iter().any(|o| o != x && is_below(*x, *o));
    for t in all.iter().filter(|x| !covered(x)) {
        let text = spelling::spelled(*t, s, definitions)
            .ok_or_else(|| (at, "an exception that is thrown here has no name at this place".to_string()))?;
        if !out.contains(&text) {
            out.push(text);
        }
    }
    Ok(out)
}

/// Exceptions that are caught or declared around a place: those of the handlers, then those of the method.
fn around(s: &Source, at: NodeId, types: Types) -> Vec<Ty> {
    let t = &s.tree;
    let mut out: Vec<Ty> = Vec::new();
    for a in t.ancestors(at) {
        match t.role(a) {
            Role::Try if t.child(a, Field::Body).is_some_and(|b| t.contains(b, at)) => {
                for c in t.children(a).filter(|c| t.role(*c) == Role::Except) {
                    let caught = caught(s, c, types);
                    out.extend(caught.into_iter().filter(|x| !out.contains(x)).collect::<Vec<_>>());
                }
            }
            Role::Function => {
                let own = members::throws_of(s, a).into_iter().map(|n| types.of_node(n));
                out.extend(own.filter(|x| !out.contains(x)).collect::<Vec<_>>());
                break;
            }
            // what a lambda may throw is told by where it stands
            Role::Lambda => break,
            Role::ClassField | Role::Class => break,
            _ => {}
        }
    }
    out
}

/// The types that a handler catches.
fn caught(s: &Source, handler: NodeId, types: Types) -> Vec<Ty> {
    let t = &s.tree;
    let parameter = t.children(handler).find(|c| t.role(*c) == Role::Other);
    let list = parameter.and_then(|p| t.children(p).find(|c| t.role(*c) == Role::Other));
    list.map_or(vec![Ty::UNKNOWN], |l| t.children(l).map(|n| types.of_node(n)).collect())
}

struct Thrown<'a> {
    s: &'a Source,
    types: Types<'a>,
    all: Vec<Ty>,
    /// What throws something unknown.
    unknown: Option<NodeId>,
}

impl Thrown<'_> {
    fn add(&mut self, of: Option<Vec<Ty>>, at: NodeId) {
        let Some(list) = of else {
            self.unknown = self.unknown.or(Some(at));
            return;
        };
        for t in list {
            match self.types.is_unchecked(t) {
                Some(true) => {}
                _ if self.all.contains(&t) => {}
                Some(false) => self.all.push(t),
                None => self.unknown = self.unknown.or(Some(at)),
            }
        }
    }

    fn node(&mut self, id: NodeId) {
        let t = &self.s.tree;
        match t.role(id) {
            // run by others, or by nobody here
            Role::Lambda | Role::Class | Role::Function => {}
            Role::Try => self.attempt(id),
            Role::Call => {
                self.below(id);
                self.add(self.types.thrown_by(id), id);
            }
            Role::Raise => {
                self.below(id);
                // what was caught is thrown again as what it is, not as what it was caught as
                let caught = |v: &NodeId| {
                    let first = self.s.names.at(*v).and_then(|r| r.target).map(|b| self.s.names.binding(b).first);
                    first
                        .and_then(|f| t.ancestor(f, &[Role::Except, Role::Block]))
                        .is_some_and(|a| t.role(a) == Role::Except)
                };
                let value = t.children(id).next().filter(|v| !caught(v));
                let of = value.map_or(Ty::UNKNOWN, |v| self.types.value(v));
                self.add(of.known().map(|t| vec![t]), id);
            }
            _ => self.below(id),
        }
    }

    fn below(&mut self, id: NodeId) {
        for c in self.s.tree.children(id).collect::<Vec<_>>() {
            self.node(c);
        }
    }

    /// What the handlers catch does not leave.
    fn attempt(&mut self, id: NodeId) {
        let t = &self.s.tree;
        let parts: Vec<NodeId> = t.children(id).collect();
        let mut inner = Thrown { all: Vec::new(), unknown: None, ..*self };
        for p in &parts {
            if matches!(t.field(*p), Field::Body | Field::Init) {
                inner.node(*p);
            }
            // closing a resource throws what its type says
            if t.field(*p) == Field::Init {
                inner.unknown = inner.unknown.or(Some(*p));
            }
        }
        let handlers: Vec<NodeId> = parts.iter().copied().filter(|c| t.role(*c) == Role::Except).collect();
        let caught: Vec<Ty> = handlers.iter().flat_map(|h| caught(self.s, *h, self.types)).collect();
        let takes_all = |name: &str| caught.contains(&Ty::named(name, Vec::new()));
        if takes_all("java.lang.Exception") || takes_all("java.lang.Throwable") {
            inner.unknown = None;
            inner.all.clear();
        }
        inner.all.retain(|x| !caught.contains(x) && !caught.iter().any(|c| is_below(*x, *c)));
        self.unknown = self.unknown.or(inner.unknown);
        let left = inner.all;
        self.all.extend(left.into_iter().filter(|x| !self.all.contains(x)).collect::<Vec<_>>());
        for p in parts.into_iter().filter(|p| matches!(t.role(*p), Role::Except | Role::Finally)) {
            self.node(p);
        }
    }
}

fn is_below(x: Ty, of: Ty) -> bool {
    use crate::types::Kind::Named;
    match (x.kind(), of.kind()) {
        (Named { name: a, .. }, Named { name: b, .. }) => super::known::LIBRARY.extends(&a, &b),
        _ => false,
    }
}
