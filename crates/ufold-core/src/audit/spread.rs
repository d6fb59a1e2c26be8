//! A function's statements in the place of a call: the same statements, with arguments for parameters and new locals for
//! its own.

use std::cell::RefCell;

use rustc_hash::FxHashMap;

use super::file::File;
use super::inlined_member::Method;
use super::moments::{is_settled, parameter, same_moments};
use super::outside::ScopeMap;
use super::{Opinion, object};
use crate::names::{BindingId, Names, Source, Use};
use crate::tree::{Field, NodeId, Role};

/// The function that a name stands for, when it is more than one expression.
pub(super) fn of_statements(o: &Source, b: BindingId) -> Option<NodeId> {
    let t = &o.tree;
    let function = t.parent(o.names.binding(b).first).filter(|f| t.role(*f) == Role::Function)?;
    let body = statements(o, function);
    let one_value = body.len() == 1 && t.role(body[0]) == Role::Return && t.children(body[0]).next().is_some();
    (!one_value).then_some(function)
}

fn statements(o: &Source, function: NodeId) -> Vec<NodeId> {
    let t = &o.tree;
    t.child(function, Field::Body).map_or(Vec::new(), |b| t.children(b).filter(|c| t.role(*c) != Role::Doc).collect())
}

/// A function whose statements took the places of its calls.
struct Spread<'a> {
    b: BindingId,
    function: NodeId,
    inner: &'a [NodeId],
    method: Option<&'a Method<'a>>,
    scopes: &'a ScopeMap,
    /// All new statements.
    all: &'a [NodeId],
}

/// One call that went, with what took its place.
struct Site<'a> {
    f: &'a File,
    spread: &'a Spread<'a>,
    /// Parameters with their arguments; none for those that became locals.
    arguments: FxHashMap<BindingId, NodeId>,
    locals: RefCell<FxHashMap<BindingId, BindingId>>,
    news: &'a [NodeId],
    /// Arguments that new locals took, as they are now and as they were.
    kept: Vec<NodeId>,
    taken: Vec<NodeId>,
}

impl File {
    /// Another argument gives a variable of this one a value.
    pub(super) fn is_rewritten(&self, argument: NodeId, all: &[NodeId]) -> bool {
        let (o, t) = (&self.old, &self.old.tree);
        let others = all.iter().filter(|g| **g != argument).flat_map(|g| t.subtree(*g));
        let mut written = others.filter_map(|n| o.names.at(n)).filter(|r| r.usage != Use::Read);
        written.any(|w| {
            w.target.is_some() && t.subtree(argument).any(|n| o.names.at(n).is_some_and(|r| r.target == w.target))
        })
    }

    pub(super) fn spread(&self, b: BindingId, function: NodeId, partly: bool, method: Option<&Method>) -> Opinion<()> {
        let (o, t) = (&self.old, &self.old.tree);
        let gone = (!partly).then(|| t.parent(function).filter(|p| t.role(*p) == Role::Decorated).unwrap_or(function));
        let w = self.walk(gone)?;
        self.meanings(&w)?;
        if w.gone.as_slice() != gone.as_slice()
            || !w.imports.is_empty()
            || !w.added.is_empty()
            || !w.replaced.is_empty()
        {
            return object(o, function, "not just the function went");
        }
        let moded = |n: &NodeId| {
            let part = t.parent(*n).filter(|p| t.role(*p).assigns() || t.role(*p) == Role::Delete);
            let target = part.is_some_and(|p| t.field(*n) == Field::Left || t.role(p) == Role::Delete);
            let free = t.role(*n) == Role::Name && o.names.at(*n).is_some_and(|r| r.target.is_none());
            target && (free || matches!(t.role(*n), Role::Member | Role::Index))
        };
        if let Some(n) = t.subtree(function).find(moded)
            && w.spread.iter().any(|(at, _)| o.lang.mode(o, *at) != o.lang.mode(o, n))
        {
            return object(o, n, "this is written in another mode where it comes to stand");
        }
        let uses = match method {
            Some(m) => m.calls(),
            None => o.names.references_to(b).filter(|r| r.usage == Use::Read).count(),
        };
        if !partly && uses != w.spread.len() || w.spread.is_empty() {
            return object(o, function, "a use of the name is left");
        }
        let leaves =
            |n: NodeId| matches!(t.role(n), Role::Return | Role::Yield | Role::Await | Role::Function | Role::Class);
        let body = statements(o, function);
        let inner = &body[..body.len() - usize::from(body.last().is_some_and(|l| t.role(*l) == Role::Return))];
        if let Some(n) = inner.iter().flat_map(|s| t.subtree(*s)).find(|n| leaves(*n)) {
            return object(o, n, "this leaves the function");
        }
        let all: Vec<NodeId> = w.spread.iter().flat_map(|(_, news)| news.iter().copied()).collect();
        let spread = Spread { b, function, inner, method, scopes: &w.scopes, all: &all };
        w.spread.iter().try_for_each(|(statement, news)| self.spread_site(&spread, *statement, news))
    }

    fn spread_site(&self, spread: &Spread, statement: NodeId, news: &[NodeId]) -> Opinion<()> {
        let (o, t) = (&self.old, &self.old.tree);
        let Spread { b, function, inner, method, .. } = *spread;
        let wrong = |m: &str| object(o, statement, m);
        let is_call = |c: &NodeId| {
            if let Some(m) = method {
                return m.is_call(o, *c);
            }
            let callee = t.child(*c, Field::Callee).filter(|_| t.role(*c) == Role::Call);
            callee.and_then(|x| o.names.at(x)).and_then(|r| r.target) == Some(b)
        };
        let Some(call) = t.subtree(statement).find(is_call) else { return wrong("what was replaced is no call of it") };
        let value =
            statements(o, function).last().filter(|l| t.role(**l) == Role::Return).and_then(|l| t.children(*l).next());
        let list = |x: Option<NodeId>| x.map_or(Vec::new(), |l| t.children(l).collect::<Vec<_>>());
        let given = list(t.child(call, Field::Arguments));
        let names = list(t.child(function, Field::Parameters));
        let target = |p: &NodeId| parameter(o, *p);
        let Some(parameters) = names.iter().map(target).collect::<Option<Vec<BindingId>>>() else {
            return wrong("a parameter is not plain");
        };
        if parameters.len() != given.len() {
            return wrong("the number of arguments is not that of the parameters");
        }
        // the result goes on in a last statement, or its local has the name that takes it
        let tail = [1, 0].into_iter().find(|tail| {
            news.len() >= inner.len() + tail && (*tail == 1) == (self.has_last(statement, call, value, news))
        });
        let Some(tail) = tail else { return wrong("statements are missing") };
        let bound = news.len() - inner.len() - tail;
        let site = Site {
            f: self,
            spread,
            arguments: parameters.iter().copied().zip(given.iter().copied()).collect(),
            locals: RefCell::default(),
            news,
            kept: Vec::new(),
            taken: Vec::new(),
        };
        let site = site.bind(&news[..bound], &parameters, statement)?;
        if let Some(m) = method {
            m.throws(o, call)?;
            m.same_types(self, &given, |b| site.arguments.contains_key(&b))?;
            if m.named_object(o, call)?.is_some() {
                return wrong("the statements are about another object");
            }
            let alone = t.parent(call).is_some_and(|p| t.role(p) == Role::ExprStmt);
            let runs = |v: NodeId| matches!(t.role(v), Role::Name | Role::Literal | Role::Call | Role::Fresh);
            if value.is_some_and(|v| alone && !runs(v)) {
                return wrong("what is given back would be no statement");
            }
            if let Some(v) = value.filter(|_| !alone) {
                m.result(o, call, v)?;
            }
        }
        inner.iter().zip(&news[bound..]).try_for_each(|(a, c)| site.same(*a, *c))?;
        if tail == 1 {
            let (Some(value), Some(last)) = (value, news.last()) else { return wrong("nothing is given back") };
            site.with_value(statement, *last, call, value)?;
        } else if let Some(value) = value {
            site.takes(statement, value)?;
        }
        site.fresh(statement, spread.all)
    }

    /// The statement of the call is still there, with the result in the place of the call.
    fn has_last(&self, statement: NodeId, call: NodeId, value: Option<NodeId>, news: &[NodeId]) -> bool {
        let (t, n) = (&self.old.tree, &self.new.tree);
        let Some((value, last)) = value.zip(news.last()) else { return false };
        let alone = t.parent(call) == Some(statement) && t.role(statement) == Role::ExprStmt;
        let dropped = alone && matches!(t.role(value), Role::Name | Role::Literal);
        // the last statement of the body gives the same name its value
        let left = |s: &Source, x: NodeId| {
            let assign = s.tree.subtree(x).find(|a| s.tree.role(*a) == Role::Assign)?;
            s.tree.child(assign, Field::Left).map(|l| s.str(l).to_string())
        };
        let same_target = left(&self.old, statement) == left(&self.new, *last);
        !dropped && t.role(statement) == n.role(*last) && same_target && {
            let right = n.subtree(*last).find(|x| n.kind(*x) == t.kind(value));
            right.is_some()
        }
    }
}

impl<'a> Site<'a> {
    /// First statements that give a parameter's name its argument; the others stay arguments, which must not change.
    fn bind(mut self, first: &[NodeId], parameters: &[BindingId], at: NodeId) -> Opinion<Site<'a>> {
        let (o, s) = (&self.f.old, &self.f.new);
        let n = &s.tree;
        let mut last = None;
        for b in first {
            let assign = n.subtree(*b).find(|x| n.role(*x) == Role::Assign);
            let sides = assign.and_then(|a| n.child(a, Field::Left).zip(n.child(a, Field::Right)));
            let Some((left, right)) = sides else { return object(s, *b, "no argument is kept here") };
            let k = parameters.iter().position(|p| o.names.binding(*p).name == s.str(left));
            let Some(k) = k.filter(|k| last.is_none_or(|l| l < *k)) else {
                return object(s, *b, "arguments are kept in another order");
            };
            last = Some(k);
            let Some(given) = self.arguments.remove(&parameters[k]) else { return object(s, *b, "kept twice") };
            if o.tree.exact(given) != n.exact(right) {
                return object(s, right, "another argument is kept");
            }
            if let Some(m) = self.spread.method {
                let written = |s: &Source, x: NodeId| s.tree.child(x, Field::Type).map(|x| s.str(x).to_string());
                let declared = o.tree.parent(o.names.binding(parameters[k]).first).and_then(|p| written(o, p));
                if declared.is_none() || declared != written(s, *b) || m.home.path != o.path {
                    return object(s, *b, "the argument gets another type");
                }
            }
            self.kept.push(right);
            self.taken.push(given);
            let Some(local) = s.names.at(left).and_then(|r| r.target) else { return object(s, left, "no local") };
            self.locals.borrow_mut().insert(parameters[k], local);
        }
        let all: Vec<NodeId> = self.arguments.values().chain(&self.taken).copied().collect();
        // one expression, in which the arguments stand as they were
        let value = match self.spread.inner {
            [one] if first.is_empty() && o.tree.role(*one) == Role::ExprStmt => o.tree.children(*one).next(),
            _ => None,
        };
        let given: Vec<NodeId> = parameters.iter().filter_map(|p| self.arguments.get(p).copied()).collect();
        if value.is_some_and(|v| same_moments(self.f, o, parameters, v, &given)) {
            return Ok(self);
        }
        for (p, g) in &self.arguments {
            let settled = o.tree.subtree(*g).all(|x| is_settled(o, x, false)) && !self.f.is_rewritten(*g, &all);
            if !settled || o.names.binding(*p).writes != 1 {
                return object(o, at, "an argument would be computed at another time");
            }
        }
        Ok(self)
    }

    fn same(&self, a: NodeId, c: NodeId) -> Opinion<()> {
        let (o, s) = (&self.f.old, &self.f.new);
        let (t, n) = (&o.tree, &s.tree);
        let wrong = || object(o, a, "the statements at the call are not those of the function");
        let target = o.names.at(a).and_then(|r| r.target);
        if let Some(g) = target.and_then(|b| self.arguments.get(&b)) {
            let unwritten = s.names.at(c).and_then(|r| r.target).is_none_or(|x| {
                // the last statement may give the result to it, when all is done
                let at_end =
                    |m: NodeId| self.news.last().is_some_and(|l| n.contains(*l, m)) && n.field(m) == Field::Left;
                let inside = |m: NodeId| self.news.iter().any(|w| n.contains(*w, m)) && !at_end(m);
                !s.names.references_to(x).any(|r| r.usage != Use::Read && inside(r.node))
            });
            if s.lang.is_several(s, c) {
                return wrong();
            }
            let bracketed = n.role(c) == Role::Paren && t.role(*g) != Role::Paren;
            let c = if bracketed { n.children(c).next().unwrap_or(c) } else { c };
            return if unwritten && t.exact(*g) == n.exact(c) { Ok(()) } else { wrong() };
        }
        if t.kind(a) != n.kind(c) {
            return wrong();
        }
        if t.role(a) == Role::Name {
            return self.name(a, c);
        }
        let (x, y): (Vec<NodeId>, Vec<NodeId>) = (t.children(a).collect(), n.children(c).collect());
        if x.len() != y.len() || x.is_empty() && t.exact(a) != n.exact(c) {
            return wrong();
        }
        x.into_iter().zip(y).try_for_each(|(a, c)| if t.field(a) == n.field(c) { self.same(a, c) } else { wrong() })
    }

    fn name(&self, a: NodeId, c: NodeId) -> Opinion<()> {
        let (o, s) = (&self.f.old, &self.f.new);
        let wrong = || object(o, a, format!("`{}` would mean something else", o.str(a)));
        let (x, y) = (o.names.at(a), s.names.at(c));
        let (Some(x), Some(y)) = (x, y) else {
            return if o.str(a) == s.str(c) && x.is_none() == y.is_none() { Ok(()) } else { wrong() };
        };
        if x.usage != y.usage {
            return wrong();
        }
        // the same object, as was asked of the call
        if self.spread.method.is_some() && Some(o.str(a)) == o.lang.object_word() {
            return if o.str(a) == s.str(c) { Ok(()) } else { wrong() };
        }
        let member = |s: &Source, b: BindingId| self.spread.method.is_some() && s.names.is_member(b);
        let outer_of = |s: &Source, b: Option<BindingId>| {
            b.is_none_or(|b| s.names.binding(b).scope == Names::MODULE || member(s, b))
        };
        let home = |s: &Source, b: BindingId| s.names.scope(s.names.binding(b).scope).node;
        if let (Some(p), Some(q)) = (x.target, y.target)
            && (member(o, p) || member(s, q))
        {
            let same = member(o, p) && member(s, q) && self.spread.scopes.get(&home(o, p)) == Some(&home(s, q));
            return if same && o.str(a) == s.str(c) { Ok(()) } else { wrong() };
        }
        match (x.target, y.target) {
            (p, q) if outer_of(o, p) && outer_of(s, q) => {
                if o.str(a) == s.str(c) && p.is_none() == q.is_none() {
                    Ok(())
                } else {
                    wrong()
                }
            }
            (Some(p), Some(q)) if !outer_of(o, Some(p)) && !outer_of(s, Some(q)) => {
                let mut locals = self.locals.borrow_mut();
                let taken = locals.iter().any(|(k, v)| *v == q && *k != p);
                if *locals.entry(p).or_insert(q) == q && !taken { Ok(()) } else { wrong() }
            }
            _ => wrong(),
        }
    }

    /// The call's statement, with the result for the call.
    fn with_value(&self, a: NodeId, c: NodeId, call: NodeId, value: NodeId) -> Opinion<()> {
        let (t, n) = (&self.f.old.tree, &self.f.new.tree);
        if a == call {
            return self.same(value, c);
        }
        let (x, y): (Vec<NodeId>, Vec<NodeId>) = (t.children(a).collect(), n.children(c).collect());
        let same_word = t.exact(a) == n.exact(c) || !x.is_empty();
        if t.kind(a) != n.kind(c) || x.len() != y.len() || !same_word {
            return object(&self.f.old, a, "the result goes elsewhere");
        }
        x.into_iter().zip(y).try_for_each(|(a, c)| self.with_value(a, c, call, value))
    }

    /// The local that is given back has the name that took the result.
    fn takes(&self, statement: NodeId, value: NodeId) -> Opinion<()> {
        let (o, s) = (&self.f.old, &self.f.new);
        let t = &o.tree;
        let assign = t.subtree(statement).find(|x| t.role(*x) == Role::Assign);
        let Some(left) = assign.and_then(|a| t.child(a, Field::Left)) else {
            // nothing took it
            let silent = matches!(t.role(value), Role::Name | Role::Literal) && t.role(statement) == Role::ExprStmt;
            return if silent { Ok(()) } else { object(o, statement, "the result is lost") };
        };
        let local = o.names.at(value).and_then(|r| r.target).and_then(|b| self.locals.borrow().get(&b).copied());
        match local {
            Some(b) if s.names.binding(b).name == o.str(left) => Ok(()),
            _ => object(o, statement, "the result is lost"),
        }
    }

    /// New locals are used by the new statements only; the one that takes the result, by what used it before.
    fn fresh(&self, statement: NodeId, all: &[NodeId]) -> Opinion<()> {
        let (o, s) = (&self.f.old, &self.f.new);
        let t = &o.tree;
        let assign = t.subtree(statement).find(|x| t.role(*x) == Role::Assign);
        let target = assign.and_then(|a| t.child(a, Field::Left)).map(|l| o.str(l));
        let locals = self.locals.borrow();
        let mut given = self.kept.iter().flat_map(|k| s.tree.subtree(*k));
        if let Some(n) =
            given.find(|n| s.names.at(*n).and_then(|r| r.target).is_some_and(|b| locals.values().any(|v| *v == b)))
        {
            return object(s, n, format!("`{}` would mean something else", s.str(n)));
        }
        for b in locals.values() {
            let name = s.names.binding(*b).name.as_str();
            let inside = |m: NodeId| self.news.iter().any(|w| s.tree.contains(*w, m));
            // the other calls' code may have a local of the same name, when nobody waits for a value from before
            let in_any = |m: NodeId| all.iter().any(|w| s.tree.contains(*w, m));
            let other = s.names.references_to(*b).find(|r| !in_any(r.node));
            if let Some(r) = other.filter(|_| Some(name) != target) {
                return object(s, r.node, format!("`{name}` is used by other code too"));
            }
            let shared = s.names.references_to(*b).any(|r| !inside(r.node)) && Some(name) != target;
            let waits = s.names.references_to(*b).find(|r| {
                let given = |w: &&crate::names::Reference| w.usage == Use::Write && reaches(s, w.node, r.node);
                inside(r.node) && r.usage.reads() && !s.names.references_to(*b).any(|w| inside(w.node) && given(&w))
            });
            if let Some(r) = waits.filter(|_| shared) {
                return object(s, r.node, format!("`{name}` may have its value from another call"));
            }
        }
        Ok(())
    }
}

/// The write comes before the read and stands in a block around it, or gives the variable of the loop around it.
fn reaches(s: &Source, write: NodeId, read: NodeId) -> bool {
    let t = &s.tree;
    let around = t.ancestors(write).find(|a| t.role(*a).is_sequence() || t.role(*a) == Role::For);
    let Some(around) = around.filter(|_| write < read) else { return false };
    let alone = !t.ancestors(write).take_while(|a| *a != around).any(|a| {
        matches!(t.role(a), Role::BoolOp | Role::Conditional | Role::Comprehension | Role::Lambda | Role::Try)
    });
    alone
        && t.contains(
            if t.role(around) == Role::For { t.child(around, Field::Body).unwrap_or(around) } else { around },
            read,
        )
}
