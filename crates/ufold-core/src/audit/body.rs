//! One site: its arguments, put into the new body, give its code back.

use std::cell::RefCell;

use rustc_hash::FxHashMap;

use super::call::Call;
use super::declared::declared_once;
use super::equal::Equal;
use super::order::Order;
use super::outside::ScopeMap;
use super::retired::OldCall;
use super::{Opinion, Pair, SitePair, object};
use crate::lang::Leaving;
use crate::names::{BindKind, BindingId, ScopeId, Source};
use crate::step::{NewFunction, Plan, Project, Verdict};
use crate::tree::{Field, NodeId, Role, Tree};

pub(super) struct Check<'a> {
    pub project: &'a Project<'a>,
    pub plan: &'a Plan,
    pub function: &'a NewFunction,
    /// New text of the function's file.
    pub home: &'a Source,
    pub definition: NodeId,
    pub pair: &'a Pair,
    pub site: &'a SitePair,
    pub map: &'a ScopeMap,
    /// The copy is a function that goes: the call that was rewritten.
    pub old_call: Option<OldCall>,
}

/// What is learnt while the code is compared.
pub(super) struct State {
    pub forth: FxHashMap<BindingId, BindingId>,
    pub back: FxHashMap<BindingId, BindingId>,
    /// Uses of each parameter in the body.
    pub uses: Vec<Vec<NodeId>>,
    /// Of each parameter, which argument of an old call it passes on.
    pub passed: Vec<Option<usize>>,
}

impl Check<'_> {
    pub(super) fn old(&self) -> &Source {
        &self.pair.old
    }
    pub(super) fn edited(&self) -> &Source {
        &self.pair.new
    }

    pub fn run(&self) -> Opinion<()> {
        let call = self.call()?;
        self.callee(&call)?;
        let parameters = self.parameters()?;
        let dependent = self.dependent(&parameters);
        let left_out = dependent.is_some() && parameters.len() == call.arguments.len() + 1;
        if parameters.len() != call.arguments.len() && !left_out {
            return object(self.edited(), self.site.call, "the number of arguments is not that of the parameters");
        }
        if dependent.as_ref().is_some_and(|d| self.wants(d, &call, &parameters).is_none()) && left_out {
            return object(self.edited(), self.site.call, "an argument is missing");
        }
        let state = RefCell::new(State {
            forth: FxHashMap::default(),
            back: FxHashMap::default(),
            uses: vec![Vec::new(); parameters.len()],
            passed: vec![None; parameters.len()],
        });
        self.bodies(&call, &parameters, &state)?;
        let state = state.into_inner();
        self.ways_out(&call)?;
        declared_once(self.home, self.definition)?;
        declared_once(self.edited(), self.function_of(self.edited(), self.site.call))?;
        self.results(&call, &state)?;
        self.nothing_lost(&call, &parameters, &state)?;
        self.arguments(&call, &parameters, &state)
    }

    pub(super) fn function_of(&self, s: &Source, node: NodeId) -> NodeId {
        s.tree.callable_around(node).unwrap_or(Tree::ROOT)
    }

    /// The object of a method: its first parameter, or the language's word for it.
    pub(super) fn receiver(&self, s: &Source, function: NodeId) -> Option<BindingId> {
        if let Some(word) = s.lang.object_word() {
            let mut scopes = s.names.scope_chain(s.names.scope_of(function)?);
            return scopes.find_map(|x| s.names.declared_in(x, word));
        }
        let p = s.tree.child(function, Field::Parameters)?;
        let name = s.tree.children(p).next().and_then(|c| s.tree.subtree(c).find(|n| s.tree.role(*n) == Role::Name))?;
        s.names.at(name)?.target
    }

    /// The new function's parameters without the receiver.
    fn parameters(&self) -> Opinion<Vec<BindingId>> {
        let (s, t) = (self.home, &self.home.tree);
        let list = t.child(self.definition, Field::Parameters).map_or(Vec::new(), |p| t.children(p).collect());
        let mut out = Vec::new();
        for p in list.iter().copied() {
            let value = t.child(p, Field::Value);
            let may_lack = value.is_none_or(|v| p == *list.last().expect("in it") && s.str(v) == s.lang.nothing());
            let plain = t.role(p) == Role::Name || t.role(p) == Role::Parameter && may_lack;
            let name = t.subtree(p).find(|n| t.role(*n) == Role::Name);
            match name.and_then(|n| s.names.at(n)).and_then(|r| r.target) {
                Some(b) if plain => out.push(b),
                _ => return object(s, self.definition, "a parameter is not plain"),
            }
        }
        if self.function.class.is_some() && s.lang.object_word().is_none() && !out.is_empty() {
            out.remove(0);
        }
        Ok(out)
    }

    pub(super) fn statements(s: &Source, block: NodeId) -> Vec<NodeId> {
        s.tree.children(block).filter(|c| s.tree.role(*c) != Role::Doc).collect()
    }

    fn old_statements(&self) -> Vec<NodeId> {
        let t = &self.old().tree;
        let block = t.parent(self.site.first).unwrap_or(Tree::ROOT);
        Self::statements(self.old(), block)
            .into_iter()
            .filter(|s| *s >= self.site.first && *s <= self.site.last)
            .collect()
    }

    /// The new body without a line that only declares locals of the function around the copy.
    fn new_statements(&self) -> Vec<NodeId> {
        let h = self.home;
        let body = h.tree.child(self.definition, Field::Body);
        let mut out = body.map_or(Vec::new(), |b| Self::statements(h, b));
        let bare = |n: NodeId| {
            let parts = h.tree.children(n).filter(|c| h.tree.role(*c) != Role::Token);
            h.tree.role(n) == Role::Declare && parts.into_iter().all(|p| h.tree.child(p, Field::Right).is_none())
        };
        let copied = |n: NodeId| self.old_statements().first().is_some_and(|o| self.old().str(*o) == h.str(n));
        if out.first().is_some_and(|n| bare(*n) && !copied(*n)) {
            out.remove(0);
        }
        // what this site does not want is not there for it
        let parts = self.call().and_then(|c| Ok((c, self.parameters()?)));
        if let Ok((call, parameters)) = parts {
            let dependent = self.dependent(&parameters);
            let unwanted = dependent.filter(|d| self.wants(d, &call, &parameters) == Some(false));
            out.retain(|n| unwanted.as_ref().is_none_or(|d| d.statement != *n));
        }
        out
    }

    fn bodies(&self, call: &Call, parameters: &[BindingId], state: &RefCell<State>) -> Opinion<()> {
        let (old, new) = (self.old_statements(), self.new_statements());
        let (t, h) = (&self.old().tree, &self.home.tree);
        let eq = Equal { c: self, call, parameters, state };
        if call.leaving != Leaving::Plain {
            let lang = self.home.lang;
            let word = if call.leaving == Leaving::Value { lang.nothing() } else { lang.truth(false) };
            let tells =
                |n: NodeId| h.role(n) == Role::Return && h.children(n).next().is_some_and(|v| self.home.str(v) == word);
            return match new.split_last() {
                Some((last, new)) if new.len() == old.len() && tells(*last) => {
                    old.iter().zip(new).try_for_each(|(a, b)| eq.node(*a, *b))
                }
                _ => object(self.home, self.definition, "the body does not end by telling that the site goes on"),
            };
        }
        if self.site.is_expression {
            let value = match new.as_slice() {
                [one] if h.role(*one) == Role::Return => h.children(*one).next(),
                _ => None,
            };
            let Some(value) = value else { return object(self.home, self.definition, "the value is not handed over") };
            let bracketed = h.role(value) == Role::Paren && t.role(self.site.first) != Role::Paren;
            let value = if bracketed { h.children(value).next().unwrap_or(value) } else { value };
            return eq.below(self.site.first, value);
        }
        let hands_over = !self.function.results.is_empty();
        let same_count = old.len() == new.len();
        if hands_over && same_count {
            // the last assignment became a return of its value
            let (Some((&a, old)), Some((&b, new))) = (old.split_last(), new.split_last()) else {
                return object(self.home, self.definition, "the body is empty");
            };
            old.iter().zip(new).try_for_each(|(a, b)| eq.node(*a, *b))?;
            let assign = match t.role(a) {
                Role::ExprStmt | Role::Declare => t.children(a).find(|c| t.role(*c) != Role::Token).unwrap_or(a),
                _ => a,
            };
            let value = t.child(assign, Field::Right).filter(|_| t.role(assign) == Role::Assign);
            let returned = h.children(b).next().filter(|_| h.role(b) == Role::Return);
            let (Some(value), Some(returned)) = (value, returned) else {
                return object(self.home, b, "the result is not handed over");
            };
            let left = t.child(assign, Field::Left).and_then(|l| self.old().names.at(l)).and_then(|r| r.target);
            let target = call.targets.first().map(|(_, n)| self.edited().str(*n));
            let named = left.map(|l| self.old().names.binding(l).name.as_str());
            if t.role(assign) != Role::Assign
                || left.is_none()
                || call.targets.len() > 1
                || target.is_some() && named != target
            {
                return object(self.old(), a, "the result goes to another name");
            }
            return eq.below(value, returned);
        }
        let expected = old.len() + usize::from(hands_over);
        if new.len() != expected {
            return object(self.home, self.definition, "the body does not have the copy's statements");
        }
        old.iter().zip(&new).try_for_each(|(a, b)| eq.node(*a, *b))?;
        if let (Some(last), true) = (new.last(), hands_over) {
            let names: Vec<&str> =
                h.subtree(*last).filter(|n| h.role(*n) == Role::Name).map(|n| self.home.str(n)).collect();
            let keys: Vec<&str> =
                h.subtree(*last).filter(|n| h.field(*n) == Field::Key).map(|n| self.home.str(n)).collect();
            let by_key = keys.is_empty() || keys == names;
            if h.role(*last) != Role::Return || names != self.function.results || !by_key {
                return object(self.home, *last, "the results are not handed over");
            }
        }
        Ok(())
    }

    /// Whether the copy gives a local a value, that of its only result at its very end left out.
    pub(super) fn copy_writes(&self, b: BindingId) -> bool {
        let o = self.old();
        let range = o.names.in_range(self.site.first, o.tree.end(self.site.last));
        let writes = |r: &&crate::names::Reference| r.target == Some(b) && r.usage != crate::names::Use::Read;
        range.iter().filter(writes).any(|r| !self.is_handed_over(r.node))
    }

    /// The target of a last assignment that became a return of its value.
    pub(super) fn is_handed_over(&self, node: NodeId) -> bool {
        let t = &self.old().tree;
        let parent = t.parent(node);
        let last = parent.is_some_and(|p| p == self.site.last || t.parent(p) == Some(self.site.last));
        last && t.field(node) == Field::Left
            && parent.is_some_and(|p| t.role(p) == Role::Assign)
            && self.new_statements().len() == self.old_statements().len()
            && !self.function.results.is_empty()
    }

    /// Returns, jumps, awaits and yields.
    fn ways_out(&self, call: &Call) -> Opinion<()> {
        let t = &self.old().tree;
        let mut at = self.site.first;
        let (mut returns, mut yields, mut jumps) = (false, false, false);
        while at < t.end(self.site.last) {
            match t.role(at) {
                Role::Function | Role::Lambda | Role::Class => {
                    at = t.end(at);
                    continue;
                }
                Role::Return => returns = true,
                Role::Yield => yields = true,
                Role::Break | Role::Continue if self.jumps_out(at) => {
                    jumps = true;
                    let told = match t.role(at) {
                        Role::Break => call.leaving == Leaving::Break,
                        _ => call.leaving == Leaving::Continue || call.leaving == Leaving::Plain && self.ends_round(),
                    };
                    if !told || t.child(at, Field::Label).is_some() {
                        return object(self.old(), at, "the copy leaves a loop around it");
                    }
                }
                _ => {}
            }
            at = NodeId(at.0 + 1);
        }
        let order = Order { source: self.old(), variable: None };
        let settles = order.sequence(self.old_statements()).settles;
        // a function that goes was called as the generator that it is
        if yields != call.delegates && !(yields && self.old_call.is_some()) || yields && self.handled() {
            return object(
                self.old(),
                self.site.first,
                "the copy yields and the call does not, or the other way round",
            );
        }
        if call.leaving != Leaving::Plain {
            let message = "the call may return where the copy does not, or the other way round";
            let fits = match call.leaving {
                Leaving::Break | Leaving::Continue => jumps && !returns,
                _ => returns && !jumps && !self.returns_nothing(call.leaving),
            };
            let fits = fits && !settles;
            return if fits { self.waits(call) } else { object(self.old(), self.site.first, message) };
        }
        let result_kept = || call.returned || self.old_call.is_some() || !self.returns_nothing(Leaving::Guard);
        if returns && !jumps && self.ends_function() && result_kept() {
            return self.waits(call);
        }
        if returns && (!settles || jumps) {
            return object(self.old(), self.site.first, "some paths return and others do not");
        }
        if self.old_call.is_none() && returns != call.returned {
            return object(
                self.edited(),
                self.site.call,
                "the copy returns and the call does not, or the other way round",
            );
        }
        self.waits(call)
    }

    /// A jump of the copy that ends outside it.
    pub(super) fn jumps_out(&self, jump: NodeId) -> bool {
        let t = &self.old().tree;
        let inside = |a: &NodeId| *a >= self.site.first && *a < t.end(self.site.last);
        !t.ancestors(jump).take_while(inside).any(|a| catches(t, a, jump))
    }

    /// The loop or `switch` that such a jump leaves or goes on with.
    fn left_by(&self, jump: NodeId) -> Option<NodeId> {
        let t = &self.old().tree;
        t.ancestors(self.site.first).find(|a| catches(t, *a, jump))
    }

    /// Nothing follows the copy in its loop's body.
    fn ends_round(&self) -> bool {
        let t = &self.old().tree;
        let block = t.parent(self.site.last).filter(|b| t.end(*b) == t.end(self.site.last));
        let body = block.filter(|b| t.field(*b) == Field::Body).and_then(|b| t.parent(b));
        body.is_some_and(|l| t.role(l).is_loop())
    }

    /// Nothing follows the copy in its function.
    fn ends_function(&self) -> bool {
        let t = &self.old().tree;
        let body = t.child(self.function_of(self.old(), self.site.first), Field::Body);
        body.is_some() && t.parent(self.site.last) == body && body.is_some_and(|b| t.end(b) == t.end(self.site.last))
    }

    /// A handler around the copy could tell an end from an error.
    fn handled(&self) -> bool {
        let (t, function) = (&self.old().tree, self.function_of(self.old(), self.site.first));
        t.ancestors(self.site.first).take_while(|a| *a != function).any(|a| t.role(a) == Role::Try)
    }

    /// A return of the copy that the site would take for going on.
    fn returns_nothing(&self, leaving: Leaving) -> bool {
        let (o, t) = (self.old(), &self.old().tree);
        let function = self.function_of(o, self.site.first);
        let own = |n: NodeId| t.role(n) == Role::Return && t.callable_around(n) == Some(function);
        (self.site.first.0..t.end(self.site.last).0).map(NodeId).filter(|n| own(*n)).any(|r| {
            let value = t.children(r).next();
            use Role::*;
            let something = |v: NodeId| match t.role(v) {
                Literal => !o.lang.is_nothing(o.str(v)),
                Template | Concat | List | Dict | Set | Tuple | Comprehension | Lambda | NotOp => true,
                _ => false,
            };
            if leaving == Leaving::Guard { value.is_some() } else { !value.is_some_and(something) }
        })
    }

    /// What waits is awaited, and nothing else.
    fn waits(&self, call: &Call) -> Opinion<()> {
        let mut awaits = false;
        let h = &self.home.tree;
        let body = h.child(self.definition, Field::Body).unwrap_or(self.definition);
        for n in h.subtree(body).filter(|n| h.ancestor(*n, &[Role::Function, Role::Lambda]) == Some(self.definition)) {
            awaits |= matches!(h.role(n), Role::Await | Role::AsyncMark);
        }
        let is_async = h.children(self.definition).any(|c| h.role(c) == Role::AsyncMark);
        if awaits != is_async || is_async != call.awaited {
            return object(self.edited(), self.site.call, "what waits must be awaited, and nothing else");
        }
        Ok(())
    }

    /// The names that take the results are the locals that the copy wrote.
    fn results(&self, call: &Call, state: &State) -> Opinion<()> {
        if call.targets.is_empty() || call.leaving == Leaving::Value {
            return Ok(());
        }
        if call.targets.len() != self.function.results.len() {
            return object(self.edited(), self.site.call, "the number of results is not that of the targets");
        }
        let scope = self.home.names.scope_of(self.definition).unwrap_or(ScopeId(0));
        let immediate = self.new_statements().len() == self.old_statements().len();
        for ((key, target), name) in call.targets.iter().zip(&self.function.results) {
            let (o, s) = (self.old(), self.edited());
            if key.as_ref().is_some_and(|k| k != name) || self.is_fixed(*target) {
                return object(s, *target, format!("`{}` can't take this result", s.str(*target)));
            }
            let there = self.local_named(scope, name);
            let old = there.and_then(|b| state.back.get(&b));
            let same = old.is_some_and(|b| o.names.binding(*b).name == s.str(*target));
            let returned_at_once = immediate && (there.is_none() || old.is_none());
            if !same && !returned_at_once {
                return object(s, *target, format!("`{}` would take another result", s.str(*target)));
            }
        }
        Ok(())
    }

    /// A local of a function, whatever block of its body it is declared in.
    fn local_named(&self, scope: ScopeId, name: &str) -> Option<BindingId> {
        let names = &self.home.names;
        names.declared_in(scope, name).or_else(|| names.locals_of(scope).find(|b| names.binding(*b).name == name))
    }

    /// A constant that is given a value elsewhere too.
    fn is_fixed(&self, target: NodeId) -> bool {
        let s = self.edited();
        let declared =
            s.tree.ancestor(target, &[Role::Declare, Role::Block]).filter(|d| s.tree.role(*d) == Role::Declare);
        let constant = declared.is_some_and(|d| super::declared::is_fixed(s, d));
        let binding = s.names.at(target).and_then(|r| r.target);
        constant && binding.is_some_and(|b| s.names.binding(b).writes > 1)
    }

    /// Every local that the copy writes and that is read later comes back; every one that the body reads comes in.
    fn nothing_lost(&self, call: &Call, parameters: &[BindingId], state: &State) -> Opinion<()> {
        let o = self.old();
        let function = self.function_of(o, self.site.first);
        let Some(scope) = o.names.scope_of(function) else {
            return object(o, self.site.first, "the copy is not in a function");
        };
        // a copy that always returns has nothing after it
        let ends = Order { source: o, variable: None }.sequence(self.old_statements()).settles;
        let taken: Vec<&str> = call.targets.iter().map(|(_, t)| self.edited().str(*t)).collect();
        let inside = |n: NodeId| n >= self.site.first && n < o.tree.end(self.site.last);
        for r in o.names.in_range(self.site.first, o.tree.end(self.site.last)) {
            let Some(b) = r.target.filter(|_| r.usage != crate::names::Use::Read) else { continue };
            let binding = o.names.binding(b);
            let own = o.names.frame_of(b) != scope || inside(o.names.scope(binding.scope).node);
            if own || taken.contains(&binding.name.as_str()) {
                continue;
            }
            let order = Order { source: o, variable: Some(b) };
            let read = if ends {
                order.handlers_read(self.site.last, function)
            } else {
                order.read_after(self.site.last, function) || self.read_when_left(&order, function)
            };
            if read {
                return object(o, r.node, format!("`{}` is read later and would not come back", binding.name));
            }
        }
        let h = self.home;
        let inner = h.names.scope_of(self.definition).unwrap_or(ScopeId(0));
        let receiver = self.receiver(h, self.definition);
        let implicit = |b: BindingId| h.names.binding(b).first == self.definition;
        for b in h.names.locals_of(inner).filter(|b| !parameters.contains(b) && Some(*b) != receiver) {
            let order = Order { source: h, variable: Some(b) };
            if !implicit(b) && order.sequence(self.new_statements()).reads && !self.had_no_value(b, state) {
                let name = &h.names.binding(b).name;
                return object(h, self.definition, format!("`{name}` may be read before it has a value"));
            }
        }
        Ok(())
    }

    /// Whether a return or a jump of the copy may lead to a read of the variable.
    fn read_when_left(&self, order: &Order, function: NodeId) -> bool {
        let t = &self.old().tree;
        let own = |n: &NodeId| t.callable_around(*n).unwrap_or(Tree::ROOT) == function;
        let mut nodes = (self.site.first.0..t.end(self.site.last).0).map(NodeId).filter(own);
        nodes.any(|n| match t.role(n) {
            Role::Return => order.handlers_read(n, function),
            Role::Break | Role::Continue if self.jumps_out(n) => {
                let Some(left) = self.left_by(n) else { return true };
                let last = t.child(left, Field::Body).and_then(|b| t.children(b).last());
                match last.filter(|_| t.role(n) == Role::Continue) {
                    Some(last) => order.read_after(last, function),
                    None => order.read_after(left, function) || order.handlers_read(left, function),
                }
            }
            _ => false,
        })
    }

    /// A local that is there from its function's start, and that only the copy gives values, once.
    fn had_no_value(&self, b: BindingId, state: &State) -> bool {
        let o = self.old();
        let Some(old) = state.back.get(&b) else { return false };
        let inside = |n: NodeId| n >= self.site.first && n < o.tree.end(self.site.last);
        let function = self.function_of(o, self.site.first);
        let looped = o.tree.ancestors(self.site.first).take_while(|a| *a != function).any(|a| o.tree.role(a).is_loop());
        // a function that is declared has its value before anything runs
        let declared = o.names.binding(*old).kind == BindKind::Function;
        let writes = |r: &crate::names::Reference| r.usage != crate::names::Use::Read && !inside(r.node);
        let before = o.names.references_to(*old).any(|r| writes(r) && (looped || r.node < self.site.first));
        let shared = o.names.binding(*old).rebound_inside;
        o.names.binding(*old).hoisted && (declared || !before && !shared)
    }

    /// Arguments are evaluated before the body; that must be the same as where they were evaluated before.
    fn arguments(&self, call: &Call, parameters: &[BindingId], state: &State) -> Opinion<()> {
        let (s, t) = (self.edited(), &self.edited().tree);
        let flag = self.dependent(parameters).and_then(|d| self.wants(&d, call, parameters)).is_some();
        let told = |i: usize| flag && i + 1 == parameters.len();
        if let Some(unused) = (0..call.arguments.len()).find(|i| state.uses[*i].is_empty() && !told(*i)) {
            return object(s, call.arguments[unused], "an argument that nothing uses");
        }
        if let Some(old) = &self.old_call {
            // evaluated before the body then as now; only their order can differ
            let kept = old.keeps_order(self.old(), &state.passed);
            return if kept {
                Ok(())
            } else {
                object(s, self.site.call, "arguments would be evaluated in another order")
            };
        }
        for (i, a) in call.arguments.iter().enumerate() {
            let uses = &state.uses[i];
            let acts = |role: Role| {
                use Role::*;
                matches!(
                    role,
                    Call | Await | Yield | List | Dict | Set | Comprehension | Generator | NamedExpr | Lambda
                )
            };
            let simple = |role: Role| {
                matches!(role, Role::Literal | Role::Name | Role::Tuple | Role::Concat | Role::Paren | Role::Token)
            };
            let inner: Vec<Role> = t.subtree(*a).map(|n| t.role(n)).collect();
            if inner.iter().all(|r| simple(*r))
                || inner == [Role::UnaryOp, Role::Token, Role::Literal]
                || inner[0] == Role::Lambda
            {
                self.unchanged_inside(*a)?;
                continue;
            }
            let calls = inner.iter().any(|r| acts(*r));
            let first = uses.len() == 1 && self.is_evaluated_first(uses[0], parameters);
            // an assumption covers the reading of a path of members, nothing more
            let path = inner.iter().all(|r| matches!(r, Role::Member | Role::Name | Role::MemberName));
            let told = self.plan.result.verdict == Verdict::Assumed && path;
            if !first && (calls || !told && !self.is_own_method(*a)) {
                return object(s, *a, "an argument would be evaluated at another time");
            }
            self.unchanged_inside(*a)?;
        }
        Ok(())
    }

    /// What a name in an argument stands for is not written by the copy, unless it is handed in to be written.
    fn unchanged_inside(&self, argument: NodeId) -> Opinion<()> {
        let (s, o) = (self.edited(), self.old());
        if s.tree.role(argument) == Role::Name {
            return Ok(()); // compared as a variable
        }
        // what a function in the argument binds itself is its own
        let own = |n: NodeId| {
            let target = s.names.at(n).and_then(|r| r.target);
            target.is_some_and(|b| s.tree.contains(argument, s.names.scope(s.names.binding(b).scope).node))
        };
        for n in s.tree.subtree(argument).filter(|n| s.tree.role(*n) == Role::Name && !own(*n)) {
            let written = o
                .names
                .in_range(self.site.first, o.tree.end(self.site.last))
                .iter()
                .any(|r| r.usage != crate::names::Use::Read && o.str(r.node) == s.str(n));
            if written {
                return object(s, n, "an argument uses what the copy writes");
            }
        }
        Ok(())
    }

    /// No condition, loop, handler or inner function around it in the body, and no call done before it.
    fn is_evaluated_first(&self, node: NodeId, parameters: &[BindingId]) -> bool {
        let t = &self.home.tree;
        use Role::*;
        let maybe = |id: NodeId, child: NodeId| match t.role(id) {
            If | For => t.field(child) != Field::Condition && t.field(child) != Field::Right,
            With => t.field(child) == Field::Body,
            Conditional => t.conditional_parts(id).map(|p| p[0]) != Some(child),
            CountedFor => t.field(child) != Field::Init,
            Switch => t.field(child) != Field::Subject,
            OrAssign | Default => t.field(child) != Field::Left,
            Call | Member | Index => !matches!(t.field(child), Field::Callee | Field::Object) && may_end_early(t, id),
            While | DoWhile | Try | Match | Lambda | Function | Comprehension | Generator | Class | Assert => true,
            BoolOp => t.field(child) == Field::Right,
            _ => false,
        };
        // targets stand before the value that is evaluated first
        let in_target = |a: NodeId| t.field(a) == Field::Left && t.parent(a).is_some_and(|p| t.role(p) == Assign);
        if std::iter::once(node).chain(t.ancestors(node)).any(in_target) {
            return false;
        }
        let mut child = node;
        for a in t.ancestors(node).take_while(|a| *a != self.definition) {
            if maybe(a, child) && !self.first_source(a, node) {
                return false;
            }
            child = a;
        }
        let body = t.child(self.definition, Field::Body).unwrap_or(self.definition);
        let done_before = |n: NodeId| {
            let target = t.ancestors(n).any(|a| {
                t.role(a) == Assign && t.child(a, Field::Left).is_some_and(|l| t.contains(l, n)) && t.contains(a, node)
            });
            t.end(n) <= node && !target
        };
        let acts = |n: NodeId| {
            matches!(t.role(n), Call | Await | AugAssign | With | Raise | Delete | Member | Index | BinaryOp)
        };
        let argument_use =
            |n: NodeId| self.home.names.at(n).and_then(|r| r.target).is_some_and(|b| parameters.contains(&b));
        !t.subtree(body).any(|n| acts(n) && done_before(n) && !argument_use(n))
    }

    /// The first source of a comprehension is evaluated where it stands.
    fn first_source(&self, comprehension: NodeId, node: NodeId) -> bool {
        let t = &self.home.tree;
        matches!(t.role(comprehension), Role::Comprehension | Role::Generator)
            && t.children(comprehension)
                .find(|c| t.role(*c) == Role::CompFor)
                .and_then(|c| t.child(c, Field::Right))
                .is_some_and(|r| t.contains(r, node))
    }

    /// A plain method of the site's own object.
    fn is_own_method(&self, a: NodeId) -> bool {
        let (s, t) = (self.edited(), &self.edited().tree);
        let (Some(o), Some(m)) = (t.child(a, Field::Object), t.child(a, Field::Member)) else { return false };
        let function = self.function_of(s, a);
        let own = s.names.at(o).and_then(|r| r.target);
        let class = t.ancestor(function, &[Role::Class]).and_then(|c| s.names.scope_of(c));
        let declared = class.and_then(|c| s.names.declared_in(c, s.str(m)));
        t.role(o) == Role::Name
            && own.is_some()
            && own == self.receiver(s, function)
            && declared.is_some_and(|b| s.names.binding(b).kind == BindKind::Function && s.names.binding(b).writes == 1)
    }
}

/// Whether a jump that stands in a statement ends there.
fn catches(t: &Tree, statement: NodeId, jump: NodeId) -> bool {
    match t.child(jump, Field::Label) {
        Some(l) => {
            t.role(statement) == Role::Labeled
                && t.child(statement, Field::Label).is_some_and(|own| t.exact(own) == t.exact(l))
        }
        None => {
            // a jump in the `else` of a loop is the outer loop's
            let in_else = t.children(statement).any(|c| t.role(c) == Role::Else && t.contains(c, jump));
            t.role(statement).is_loop() && !in_else || t.role(statement) == Role::Switch && t.role(jump) == Role::Break
        }
    }
}

/// A path that is left where its beginning has no value.
fn may_end_early(t: &Tree, id: NodeId) -> bool {
    let mut spine = std::iter::successors(Some(id), |n| t.child(*n, Field::Callee).or(t.child(*n, Field::Object)));
    spine.any(|n| t.children(n).any(|c| t.role(c) == Role::OptionalMark))
}
