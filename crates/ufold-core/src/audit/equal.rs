//! Old code against the new body, node by node: parameters stand for the site's arguments, locals correspond one to one.

use std::cell::RefCell;

use super::call::Call;
use super::check::{Check, State};
use super::outside::{ScopeMap, is_module_level, same_meaning};
use super::retired::OldCall;
use super::{Opinion, object};
use crate::lang::Leaving;
use crate::names::{BindingId, ScopeId, Source, Space};
use crate::tree::{Field, NodeId, Role};

/// Comparison of old code with the new body.
pub(super) struct Equal<'a> {
    pub c: &'a Check<'a>,
    pub call: &'a Call,
    pub parameters: &'a [BindingId],
    pub state: &'a RefCell<State>,
}

impl Equal<'_> {
    pub fn node(&self, a: NodeId, b: NodeId) -> Opinion<()> {
        let (o, h) = (self.c.old(), self.c.home);
        let (t, n) = (&o.tree, &h.tree);
        if t.field(a) != n.field(b) {
            return object(o, a, "the new body has other code here");
        }
        self.below(a, b)
    }

    /// The same, wherever the two stand.
    pub fn below(&self, a: NodeId, b: NodeId) -> Opinion<()> {
        let (o, h) = (self.c.old(), self.c.home);
        let (t, n) = (&o.tree, &h.tree);
        let target = h.names.at(b).and_then(|r| r.target);
        if let Some(i) = target.and_then(|x| self.parameters.iter().position(|p| *p == x)) {
            return self.parameter(a, b, i);
        }
        if let Some(value) = as_attribute(o, a, h, b) {
            return self.below(a, value);
        }
        if o.shows_its_code(a) && t.exact(a) != n.exact(b) {
            return object(o, a, "the text shows the code of this value");
        }
        if matches!(t.role(a), Role::Import | Role::ImportFrom) && t.exact(a) != n.exact(b) {
            return object(o, a, "the new body imports something else");
        }
        if let Some(said) = self.said_type(b) {
            let same = self.same_expression(a, said);
            return if same { Ok(()) } else { object(o, a, "the site says another type than stood here") };
        }
        if let Some(i) = self.called_parameter(b) {
            return self.applied(a, b, i);
        }
        if let Some(opinion) = self.derived(a, b) {
            return opinion;
        }
        if t.role(a) == Role::ExprStmt && n.role(b) == Role::Declare {
            return self.declared(a, b);
        }
        if let Some(d) = self.c.dependent(self.parameters).filter(|d| d.statement == b && t.role(a) != Role::If) {
            let wanted = self.c.wants(&d, self.call, self.parameters) == Some(true);
            return if wanted { self.below(a, d.action) } else { object(o, a, "this may not be done") };
        }
        if matches!(t.role(a), Role::Break | Role::Continue) && self.c.jumps_out(a) {
            return self.jump(a, b);
        }
        if t.kind(a) != n.kind(b) {
            return object(o, a, "the new body has other code here");
        }
        if t.role(a) == Role::Return && self.call.leaving == Leaving::Guard && self.is_own_return(a) {
            let told = n.children(b).next().is_some_and(|v| h.str(v) == h.lang.truth(true));
            return if told { Ok(()) } else { object(h, b, "this does not tell the site to return") };
        }
        if t.role(a) == Role::Name {
            return self.name(a, b);
        }
        let (x, y) = (Check::statements(o, a), Check::statements(h, b));
        if x.len() != y.len() || x.is_empty() && t.exact(a) != n.exact(b) {
            return object(o, a, "the new body has other code here");
        }
        x.into_iter().zip(y).try_for_each(|(a, b)| self.node(a, b))
    }

    /// The type that the site says for one of the new function's own type parameters.
    fn said_type(&self, b: NodeId) -> Option<NodeId> {
        let (h, t) = (self.c.home, &self.c.home.tree);
        let target = h.names.at(b)?.target.filter(|_| !self.call.types.is_empty())?;
        let list = t.child(self.c.definition, Field::TypeParams)?;
        let own = |p: NodeId| t.contains(p, h.names.binding(target).first);
        self.call.types.get(t.children(list).position(own)?).copied()
    }

    /// A jump out of the copy: the body returns, and says so where the site must do the rest.
    fn jump(&self, a: NodeId, b: NodeId) -> Opinion<()> {
        let (o, h) = (self.c.old(), self.c.home);
        let n = &h.tree;
        let names = |v: NodeId| n.subtree(v).filter(|x| n.role(*x) == Role::Name && n.field(*x) != Field::Key);
        let given: Vec<&str> = n.children(b).flat_map(|v| names(v).map(|x| h.str(x)).collect::<Vec<_>>()).collect();
        let told = n.children(b).next().is_some_and(|v| h.str(v) == h.lang.truth(true));
        let fits = match self.call.leaving {
            Leaving::Break | Leaving::Continue => told,
            _ => given == self.c.function.results && (!given.is_empty() || n.children(b).next().is_none()),
        };
        let results = || {
            let linked = n.subtree(b).filter_map(|x| h.names.at(x)).filter_map(|r| r.target);
            let state = self.state.borrow();
            let known: Vec<_> = linked.map(|b| state.back.contains_key(&b) || self.parameters.contains(&b)).collect();
            known.into_iter().all(|k| k)
        };
        if n.role(b) == Role::Return && fits && results() {
            Ok(())
        } else {
            object(o, a, "this does not lead where it did")
        }
    }

    /// The parameter that a call in the body calls, when the site passes a function of one expression for it.
    fn called_parameter(&self, b: NodeId) -> Option<usize> {
        let (h, s) = (self.c.home, self.c.edited());
        let callee = h.tree.child(b, Field::Callee).filter(|_| h.tree.role(b) == Role::Call)?;
        let object = h.tree.child(callee, Field::Object);
        let target = h.names.at(object.unwrap_or(callee))?.target?;
        let i = self.parameters.iter().position(|p| *p == target)?;
        // a value that is called by a member, and by none of its others
        if object.is_some() {
            let written = self.written_type(i);
            let member = h.tree.child(callee, Field::Member).map(|m| h.str(m));
            let own = self.c.function_type(written).map(|f| h.str(f.member));
            member.filter(|m| own.or(h.lang.function_member(written)) == Some(*m))?;
        }
        light_body(s, *self.call.arguments.get(i)?).map(|_| i)
    }

    /// The words of a parameter's type.
    fn written_type(&self, i: usize) -> &str {
        let h = self.c.home;
        let parameter = h.tree.parent(h.names.binding(self.parameters[i]).first);
        parameter.and_then(|p| h.tree.child(p, Field::Type)).map_or("", |t| h.str(t))
    }

    /// The function's expression, with what the body passes in the place of its parameters, is the old code.
    fn applied(&self, a: NodeId, b: NodeId, i: usize) -> Opinion<()> {
        let (o, h, s) = (self.c.old(), self.c.home, self.c.edited());
        self.state.borrow_mut().uses[i].push(b);
        self.state.borrow_mut().stood[i].push(a);
        let lambda = self.call.arguments[i];
        let list = s
            .tree
            .child(lambda, Field::Parameters)
            .map_or(Vec::new(), |p| if s.tree.role(p) == Role::Name { vec![p] } else { s.tree.children(p).collect() });
        let plain = |p: &NodeId| {
            let value = s.tree.child(*p, Field::Value).is_some();
            let name = s.tree.subtree(*p).find(|n| s.tree.role(*n) == Role::Name).filter(|_| !value);
            name.and_then(|n| s.names.at(n)).and_then(|r| r.target)
        };
        let own: Option<Vec<BindingId>> = list.iter().map(plain).collect();
        let passed: Vec<NodeId> =
            h.tree.child(b, Field::Arguments).map_or(Vec::new(), |x| h.tree.children(x).collect());
        let body = light_body(s, lambda);
        let (Some(own), Some(body)) = (own.filter(|o| o.len() == passed.len()), body) else {
            return object(s, lambda, "the function does not take what the body passes");
        };
        if self.c.old_call.is_some() {
            return object(o, a, "a function is handed on");
        }
        if let Some(own) = self.c.function_type(self.written_type(i))
            && !self.c.fits_function_type(&own, a, &passed)
        {
            return object(o, a, "this is not what the type of the function says");
        }
        if o.lang.is_place(o, a) {
            return object(o, a, "this stands for a variable, and what a function gives is none");
        }
        // brackets may have been put around it
        let bare = |t: &crate::tree::Tree, n: NodeId| match t.role(n) {
            Role::Paren => t.children(n).next().unwrap_or(n),
            _ => n,
        };
        let kept = o.tree.role(a) == Role::Paren || o.lang.is_several(o, a);
        let body = if kept { body } else { bare(&s.tree, body) };
        self.substituted(a, a, body, &own, &passed)
    }

    /// `hole`: all of the old expression; what it binds itself is its own.
    fn substituted(&self, hole: NodeId, a: NodeId, c: NodeId, own: &[BindingId], passed: &[NodeId]) -> Opinion<()> {
        let (o, s) = (self.c.old(), self.c.edited());
        let (t, n) = (&o.tree, &s.tree);
        let wrong = || object(o, a, "the function is not what stood here");
        if let Some(k) = s.names.at(c).and_then(|r| r.target).and_then(|b| own.iter().position(|p| *p == b)) {
            return self.below(a, passed[k]);
        }
        if t.kind(a) != n.kind(c) {
            return wrong();
        }
        if t.is_leaf(a) && n.is_leaf(c) {
            let made_here = |b: BindingId| t.contains(hole, o.names.scope(o.names.binding(b).scope).node);
            let target = o.names.at(a).and_then(|r| r.target).filter(|b| !made_here(*b));
            let written = target.is_some_and(|b| self.c.copy_writes(b));
            let scoped = o.names.at(a).is_none() || same_meaning(o, s, &self.scopes(a, c), a, c);
            return if t.exact(a) == n.exact(c) && scoped && !written { Ok(()) } else { wrong() };
        }
        let (x, y): (Vec<NodeId>, Vec<NodeId>) = (t.children(a).collect(), n.children(c).collect());
        if x.len() != y.len() {
            return wrong();
        }
        x.into_iter().zip(y).try_for_each(|(a, c)| {
            if t.field(a) == n.field(c) { self.substituted(hole, a, c, own, passed) } else { wrong() }
        })
    }

    /// A return of the copy's own function.
    fn is_own_return(&self, a: NodeId) -> bool {
        let o = self.c.old();
        o.tree.callable_around(a) == Some(self.c.function_of(o, self.c.site.first))
    }

    /// An assignment whose target is declared in the new body.
    fn declared(&self, a: NodeId, b: NodeId) -> Opinion<()> {
        let (o, h) = (self.c.old(), self.c.home);
        let (t, n) = (&o.tree, &h.tree);
        let wrong = || object(o, a, "the new body has other code here");
        let given = t.children(a).next().filter(|x| t.role(*x) == Role::Assign);
        let said = |c: &NodeId| n.role(*c) == Role::Token || n.field(*c) == Field::Type;
        let parts: Vec<NodeId> = n.children(b).filter(|c| !said(c)).collect();
        let (Some(x), [y]) = (given, parts.as_slice()) else { return wrong() };
        let sides = |t: &crate::tree::Tree, id: NodeId| t.child(id, Field::Left).zip(t.child(id, Field::Right));
        let (Some((left, right)), Some((target, value))) = (sides(t, x), sides(n, *y)) else { return wrong() };
        let binding = h.names.at(target).and_then(|r| r.target);
        let constant = super::declared::is_fixed(h, b);
        if n.children(*y).count() != 2 || constant && binding.is_none_or(|b| h.names.binding(b).writes != 1) {
            return wrong();
        }
        self.below(left, target)?;
        self.below(right, value)
    }

    /// The body uses a parameter: the site's argument must be what stood there.
    fn parameter(&self, a: NodeId, b: NodeId, i: usize) -> Opinion<()> {
        let (o, s, h) = (self.c.old(), self.c.edited(), self.c.home);
        self.state.borrow_mut().uses[i].push(b);
        let Some(argument) = self.call.arguments.get(i).copied() else {
            return object(s, self.c.site.call, "an argument is missing");
        };
        if self.state.borrow().given.contains(&i) {
            let (old, new) = (o.names.at(a), h.names.at(b).map(|r| r.usage));
            return match old.filter(|r| Some(r.usage) == new).and_then(|r| r.target) {
                Some(x) => self.link(a, x, self.parameters[i]),
                None => object(o, a, "another name stands here"),
            };
        }
        if o.lang.is_several(o, a) {
            return object(o, a, "this may be several values, and a parameter is one");
        }
        // a local that is passed, used in the same way and given back is as good
        let used = |s: &Source, n: NodeId| s.names.at(n).filter(|r| r.target.is_some()).map(|r| r.usage);
        if o.lang.is_place(o, a) && (used(o, a).is_none() || used(o, a) != used(h, b)) {
            return object(o, a, "this stands for a variable, and a parameter is another one");
        }
        self.state.borrow_mut().stood[i].push(a);
        if let Some(old) = &self.c.old_call {
            return self.passed_on(old, a, b, i);
        }
        let rebound = h.names.binding(self.parameters[i]).writes > 1;
        if rebound {
            let (Some(x), Some(y)) = (o.names.at(a), s.names.at(argument)) else {
                return object(o, a, "what is handed in to be written is no local");
            };
            let same =
                x.target.is_some() && s.str(argument) == x.target.map_or("", |b| o.names.binding(b).name.as_str());
            let usage = h.names.at(b).map(|r| r.usage);
            let same = same && self.same_variable(x.target, y.target);
            if !same || Some(x.usage) != usage || y.usage != crate::names::Use::Read {
                return object(o, a, "another variable is handed in");
            }
            return match x.target {
                Some(x) => self.link(a, x, self.parameters[i]),
                None => object(o, a, "what is handed in to be written is no local"),
            };
        }
        // written by the copy: then its value is not the one that was handed in
        let written = o.names.at(a).and_then(|r| r.target).is_some_and(|b| self.c.copy_writes(b));
        if written || !self.same_expression(a, argument) {
            return object(o, a, format!("the argument `{}` is not what stood here", s.str(argument)));
        }
        Ok(())
    }

    /// A first statement of the copy that gave a local what is passed now: the parameter is that local.
    pub fn given(&self, statement: NodeId) -> Opinion<()> {
        let (o, t) = (self.c.old(), &self.c.old().tree);
        let wrong = || object(o, statement, "this is more than a value that is passed");
        let said = |c: &NodeId| t.role(*c) == Role::Token || t.field(*c) == Field::Type;
        let parts: Vec<NodeId> = t.children(statement).filter(|c| !said(c)).collect();
        let [assign] = parts[..] else { return wrong() };
        let whole = t.role(assign) == Role::Assign && t.children(assign).count() == 2;
        let (left, right) = (t.child(assign, Field::Left), t.child(assign, Field::Right));
        let local = left.filter(|l| t.role(*l) == Role::Name && whole).and_then(|l| o.names.at(l)?.target);
        let (Some(left), Some(right), Some(local)) = (left, right, local) else { return wrong() };
        // arguments are computed in the order of the statements
        let from = self.state.borrow().given.last().map_or(0, |i| i + 1);
        let passed = (from..self.call.arguments.len()).find(|i| self.same_expression(right, self.call.arguments[*i]));
        let Some(i) = passed.filter(|i| *i < self.parameters.len()) else { return wrong() };
        if self.c.old_call.is_some() || self.said_otherwise(statement, self.parameters[i]) {
            return wrong();
        }
        self.state.borrow_mut().given.push(i);
        self.state.borrow_mut().stood[i].push(right);
        self.link(left, local, self.parameters[i])
    }

    /// A declaration whose type is not the parameter's.
    fn said_otherwise(&self, statement: NodeId, parameter: BindingId) -> bool {
        let (o, h) = (self.c.old(), self.c.home);
        let said = o.tree.child(statement, Field::Type).map(|t| o.str(t));
        let around = h.tree.parent(h.names.binding(parameter).first);
        let declared = around.and_then(|p| h.tree.child(p, Field::Type)).map(|t| h.str(t));
        said.is_some() && said != declared
    }

    /// A variable outside the edits, before and after.
    fn same_variable(&self, old: Option<BindingId>, new: Option<BindingId>) -> bool {
        let (o, s) = (self.c.old(), self.c.edited());
        let (Some(x), Some(y)) = (old.map(|b| o.names.binding(b)), new.map(|b| s.names.binding(b))) else {
            return false;
        };
        let (from, to) = (o.names.scope(x.scope).node, s.names.scope(y.scope).node);
        x.name == y.name && self.c.map.get(&from) == Some(&to)
    }

    /// A variable of the function around both, which the copy only reads.
    fn is_shared(&self, old: Option<BindingId>, new: Option<BindingId>) -> bool {
        let (o, h) = (self.c.old(), self.c.home);
        let (Some(x), Some(y)) = (old, new) else { return false };
        let inner = h.names.scope_of(self.c.definition).unwrap_or(ScopeId(0));
        let outside = !h.names.scope_within(h.names.binding(y).scope, inner);
        let word = Some(o.names.binding(x).name.as_str()) == o.lang.object_word();
        outside && !word && o.path == h.path && self.same_variable(old, new) && !self.c.copy_writes(x)
    }

    /// A function that went used its own parameter, or a value that means the same at the call.
    fn passed_on(&self, old: &OldCall, a: NodeId, b: NodeId, i: usize) -> Opinion<()> {
        let (o, h) = (self.c.old(), self.c.home);
        let argument = self.call.arguments[i];
        let target = o.names.at(a).and_then(|r| r.target);
        let own = target.and_then(|b| old.parameters.iter().position(|p| *p == b));
        let Some(k) = own else {
            let settled = match o.tree.role(a) {
                Role::Literal => true,
                Role::Name => is_module_level(&o.names, target),
                _ => false,
            };
            let same = settled && self.same_expression(a, argument);
            return if same { Ok(()) } else { object(o, a, "a rewritten call passes something else") };
        };
        if o.names.at(a).map(|r| r.usage) != h.names.at(b).map(|r| r.usage) {
            return object(o, a, "a name is read where it was written, or the other way round");
        }
        let before = self.state.borrow().passed[i];
        if before.is_some_and(|b| b != k) || !self.same_expression(old.arguments[k], argument) {
            return object(o, a, "a rewritten call passes something else");
        }
        self.state.borrow_mut().passed[i] = Some(k);
        let (written, rebound) =
            (o.names.binding(old.parameters[k]).writes > 1, h.names.binding(self.parameters[i]).writes > 1);
        if written || rebound { self.link(a, old.parameters[k], self.parameters[i]) } else { Ok(()) }
    }

    fn same_expression(&self, a: NodeId, b: NodeId) -> bool {
        let (o, s) = (self.c.old(), self.c.edited());
        let (t, n) = (&o.tree, &s.tree);
        if t.role(a) != n.role(b) {
            return false;
        }
        if t.is_leaf(a) && n.is_leaf(b) {
            let scoped = o.names.at(a).is_none() || same_meaning(o, s, &self.scopes(a, b), a, b);
            return t.exact(a) == n.exact(b) && scoped;
        }
        let (x, y): (Vec<NodeId>, Vec<NodeId>) = (t.children(a).collect(), n.children(b).collect());
        x.len() == y.len() && x.into_iter().zip(y).all(|(a, b)| self.same_expression(a, b))
    }

    /// Scopes outside the edits correspond by the walk; those that an argument opens itself, by position.
    fn scopes(&self, a: NodeId, b: NodeId) -> ScopeMap {
        let (o, s) = (self.c.old(), self.c.edited());
        let mut map = self.c.map.clone();
        let own =
            |x: &Source, n: NodeId| x.tree.ancestors(n).filter(|p| x.names.scope_of(*p).is_some()).collect::<Vec<_>>();
        for (x, y) in own(o, a).into_iter().zip(own(s, b)) {
            map.entry(x).or_insert(y);
        }
        map
    }

    fn name(&self, a: NodeId, b: NodeId) -> Opinion<()> {
        let (o, h) = (self.c.old(), self.c.home);
        let (Some(x), Some(y)) = (o.names.at(a), h.names.at(b)) else {
            return if o.str(a) == h.str(b) { Ok(()) } else { object(o, a, "another word stands here") };
        };
        if x.usage != y.usage {
            return object(o, a, "a name is read where it was written, or the other way round");
        }
        if let Some(opinion) = self.member(a, b) {
            return opinion;
        }
        match (is_module_level(&o.names, x.target), is_module_level(&h.names, y.target)) {
            (true, true) if x.target.is_some_and(|b| self.c.becomes_local(b) && self.c.copy_writes(b)) => {
                object(o, a, format!("`{}` would be the file's in the new function too", o.str(a)))
            }
            (true, true) if o.names.is_above_declaration(x, o.str(a)) != h.names.is_above_declaration(y, h.str(b)) => {
                object(o, a, format!("`{}` is in sight in one of the places only", o.str(a)))
            }
            (true, true) => {
                let (p, q) = (self.c.project.entity(o, o.str(a)), self.c.project.entity(h, h.str(b)));
                if p == q {
                    Ok(())
                } else {
                    object(o, a, format!("`{}` means something else in the new place", o.str(a)))
                }
            }
            (false, false) if self.c.function.nested && self.is_shared(x.target, y.target) => Ok(()),
            (false, false) => match (x.target, y.target) {
                (Some(x), Some(y)) => self.link(a, x, y),
                _ => object(o, a, "a name lost its meaning"),
            },
            (true, false) if x.target.is_some_and(|b| self.c.becomes_local(b)) => match (x.target, y.target) {
                (Some(x), Some(y)) => self.link(a, x, y),
                _ => object(o, a, "a name lost its meaning"),
            },
            _ => object(o, a, format!("`{}` would reach another scope", o.str(a))),
        }
    }

    /// A type parameter of the class that both the copy and the function stand in.
    fn is_of_same_class(&self, old: BindingId, new: BindingId) -> bool {
        let (o, h) = (self.c.old(), self.c.home);
        let (was, is) = (o.names.binding(old), h.names.binding(new));
        let [from, to] = [o.names.scope(was.scope).node, h.names.scope(is.scope).node];
        let around = h.tree.ancestor(to, &[Role::Class]).is_some_and(|c| h.tree.contains(c, self.c.definition));
        o.path == h.path
            && was.name == is.name
            && (was.space, is.space) == (Space::Types, Space::Types)
            && self.c.map.get(&from) == Some(&to)
            && around
    }

    /// Locals correspond one to one, and those of inner scopes to those of inner scopes.
    fn link(&self, at: NodeId, old: BindingId, new: BindingId) -> Opinion<()> {
        let (o, h) = (self.c.old(), self.c.home);
        let inner = h.names.scope_of(self.c.definition).unwrap_or(ScopeId(0));
        let home_scope = h.names.binding(new).scope;
        if !h.names.scope_within(home_scope, inner) {
            if self.is_of_same_class(old, new) {
                return Ok(());
            }
            return object(o, at, format!("`{}` reaches a scope around the new function", o.str(at)));
        }
        let other_name = o.names.binding(old).name != h.names.binding(new).name;
        if other_name && (o.shows_its_name(old) || h.shows_its_name(new)) {
            return object(o, at, format!("what `{}` stands for knows its own name", o.str(at)));
        }
        let state = &mut *self.state.borrow_mut();
        let there = *state.forth.entry(old).or_insert(new) == new;
        let again = *state.back.entry(new).or_insert(old) == old;
        let function = self.c.function_of(o, self.c.site.first);
        let old_scope = o.names.scope(o.names.binding(old).scope).node;
        let outer_local = old_scope < self.c.site.first || old_scope >= o.tree.end(self.c.site.last);
        let receiver = self.c.receiver(h, self.c.definition) == Some(new) && self.c.function.class.is_some();
        // what every function has for itself is another thing in another function
        if h.names.binding(new).first == self.c.definition && !receiver {
            return object(o, at, format!("`{}` belongs to the function it stands in", o.str(at)));
        }
        let kept = !receiver || Some(old) == self.c.receiver(o, function);
        if there && again && kept && (outer_local == (home_scope == inner)) {
            Ok(())
        } else {
            object(o, at, format!("`{}` does not correspond to one local", o.str(at)))
        }
    }
}

/// The one expression of a function that is a value.
fn light_body(s: &Source, lambda: NodeId) -> Option<NodeId> {
    let t = &s.tree;
    let body = t.child(lambda, Field::Body).filter(|_| t.role(lambda) == Role::Lambda)?;
    if t.role(body) != Role::Block {
        return Some(body);
    }
    let mut inner = t.children(body);
    let only = inner.next().filter(|n| t.role(*n) == Role::Return && s.lang.lambdas_return())?;
    let value = t.children(only).next();
    value.filter(|_| inner.next().is_none())
}

/// The value in brackets of an attribute of markup that was a text, one that says the same in code.
pub(super) fn as_attribute(o: &Source, a: NodeId, h: &Source, b: NodeId) -> Option<NodeId> {
    let (t, n) = (&o.tree, &h.tree);
    let of_markup = |s: &Source, x: NodeId| s.tree.parent(x).is_some_and(|p| s.tree.role(p) == Role::MarkupAttribute);
    let text = t.role(a) == Role::Literal && of_markup(o, a) && !o.str(a).contains(['&', '\\', '\n']);
    let mut inner = n.children(b).filter(|c| n.role(*c) != Role::Token);
    let value = inner.next().filter(|_| n.role(b) == Role::Interpolation && of_markup(h, b) && text)?;
    inner.next().is_none().then_some(value)
}
