//! One site: its arguments, put into the new body, give its code back.

use std::cell::RefCell;

use rustc_hash::FxHashMap;

use super::call::Call;
use super::check::{Check, State};
use super::declared::declared_once;
use super::equal::Equal;
use super::first::is_first_of;
use super::order::Order;
use super::{Opinion, object};
use crate::change::Verdict;
use crate::lang::{Leaving, MethodKind};
use crate::names::{BindKind, BindingId, ScopeId, Source};
use crate::tree::{Field, NodeId, Role, Tree};

impl Check<'_> {
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
            stood: vec![Vec::new(); parameters.len()],
            given: Vec::new(),
        });
        self.bodies(&call, &parameters, &state)?;
        let state = state.into_inner();
        self.ways_out(&call)?;
        self.no_jumps()?;
        declared_once(self.home, self.definition)?;
        declared_once(self.edited(), self.function_of(self.edited(), self.site.call))?;
        self.results(&call, &state)?;
        self.nothing_lost(&call, &parameters, &state)?;
        self.captured(&call, &parameters, &state)?;
        self.signature(&call, &parameters, &state)?;
        self.names_what_is_seen()?;
        self.in_classes()?;
        self.means_its_class()?;
        self.checked_types(&call)?;
        let around = self.function_of(self.old(), self.site.first);
        if call.returned && self.old().lang.gives_places(self.old(), around) {
            return object(self.old(), self.site.first, "what this gives is the variable itself");
        }
        self.same_mode()?;
        self.arguments(&call, &parameters, &state)
    }

    /// Where types are looked at when a function is called: each is the one that the site's value surely has, and the result
    /// has that of the function around, or is none.
    fn checked_types(&self, call: &Call) -> Opinion<()> {
        let (h, s, o) = (self.home, self.edited(), self.old());
        if !h.lang.types_are_checked() {
            return Ok(());
        }
        let list = h.tree.child(self.definition, Field::Parameters);
        let all = list.map_or(Vec::new(), |l| h.tree.children(l).collect::<Vec<_>>());
        let of = |n: NodeId| match s.tree.role(n) {
            Role::Lambda => s.lang.function_type(&[], &[]),
            _ => s.lang.sure_type(s, n),
        };
        for (p, value) in all.iter().zip(&call.arguments) {
            let Some(ty) = h.tree.child(*p, Field::Type).filter(|t| of(*value).as_deref() != Some(h.str(*t))) else {
                continue;
            };
            return object(h, ty, "the value of a copy may not be of this type");
        }
        let Some(ty) = h.tree.child(self.definition, Field::ReturnType) else { return Ok(()) };
        let own = |n: &NodeId| h.tree.role(*n) == Role::Return && self.function_of(h, *n) == self.definition;
        let gives = h.tree.subtree(self.definition).filter(own).any(|r| h.tree.children(r).next().is_some());
        let around = o.tree.child(self.function_of(o, self.site.first), Field::ReturnType).map(|t| o.str(t));
        let fits = match gives {
            true => call.returned && around == Some(h.str(ty)),
            false => h.str(ty) == h.lang.no_result_type(),
        };
        if fits { Ok(()) } else { object(h, ty, "the function may give something of another type") }
    }

    /// Words that mean the class around them stand in the class of the site; where they ask for the object too, in a
    /// method of it.
    fn means_its_class(&self) -> Opinion<()> {
        let (h, t) = (self.home, &self.home.tree);
        let class = t.ancestor(self.definition, &[Role::Class]);
        let here = h.path == self.edited().path;
        let same = here && class == self.edited().tree.ancestor(self.site.call, &[Role::Class]);
        let method = same && crate::index::method::receiver_of(h, self.definition).is_some_and(|r| Some(r.0) == class);
        // without an object on either side, such words ask for the class alone
        let kind = |s: &Source, f: NodeId| {
            crate::index::method::method(s, f, s.names.scope_of(f)?).map(|m| m.kind == MethodKind::Static)
        };
        let before = self.function_of(self.old(), self.site.first);
        let without = [kind(h, self.definition), kind(self.old(), before)] == [Some(true); 2];
        let method = method || same && without && h.lang.keeps_to_class();
        for n in t.subtree(self.definition).filter(|n| t.is_leaf(*n)) {
            let own =
                t.ancestor(n, &[Role::Class]).is_some_and(|c| c != self.definition && t.contains(self.definition, c));
            let word = h.str(n);
            let wants = match t.role(n) {
                Role::Name if h.lang.needs_class(word) => !method,
                Role::Name | Role::MemberName | Role::KeywordName if h.lang.is_mangled(word) => !same,
                _ => false,
            };
            if wants && !own {
                return object(h, n, format!("`{word}` means another class here, or none"));
            }
        }
        Ok(())
    }

    pub(super) fn function_of(&self, s: &Source, node: NodeId) -> NodeId {
        s.tree.callable_around(node).unwrap_or(Tree::ROOT)
    }

    /// The object of a method: its first parameter, or the language's word for it.
    pub(super) fn receiver(&self, s: &Source, function: NodeId) -> Option<BindingId> {
        receiver_of(s, function)
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
            // the words of a type are no parameters
            let binds = |n: &NodeId| s.names.at(*n).is_some_and(|r| r.usage.writes());
            let name = t.subtree(p).find(|n| t.role(*n) == Role::Name && binds(n));
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

    pub(super) fn old_statements(&self) -> Vec<NodeId> {
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
        // the copy begins with such a line itself
        let copied = self
            .old_statements()
            .first()
            .is_some_and(|o| only_declares(self.old(), *o) || self.old().tree.role(*o) == Role::Global);
        // or that says which variables are the module's
        let outer = |n: NodeId| h.tree.role(n) == Role::Global;
        let most = self.old_statements().len() + usize::from(!self.function.results.is_empty());
        while out.first().is_some_and(|n| (only_declares(h, *n) || outer(*n)) && (!copied || out.len() > most)) {
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
        let (given, old) = old.split_at(self.function.given.min(old.len()));
        given.iter().try_for_each(|s| eq.given(*s))?;
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
            if self.old().lang.is_place(self.old(), self.site.first) {
                return object(self.old(), self.site.first, "this stands for a variable, not for its value");
            }
            let one =
                t.role(self.site.first) != Role::Paren && !self.old().lang.is_several(self.old(), self.site.first);
            let bracketed = h.role(value) == Role::Paren && one;
            let value = if bracketed { h.children(value).next().unwrap_or(value) } else { value };
            return eq.below(self.site.first, value);
        }
        let hands_over = !self.function.results.is_empty();
        let same_count = old.len() == new.len();
        if hands_over && same_count {
            return self.returned_at_once(&eq, call, old, &new);
        }
        let expected = old.len() + usize::from(hands_over);
        if new.len() != expected {
            return object(self.home, self.definition, "the body does not have the copy's statements");
        }
        old.iter().zip(&new).try_for_each(|(a, b)| eq.node(*a, *b))?;
        if let (Some(last), true) = (new.last(), hands_over) {
            let handed = self.bundled_values(*last)?.unwrap_or(*last);
            let names: Vec<&str> =
                h.subtree(handed).filter(|n| h.role(*n) == Role::Name).map(|n| self.home.str(n)).collect();
            let keys: Vec<&str> =
                h.subtree(*last).filter(|n| h.field(*n) == Field::Key).map(|n| self.home.str(n)).collect();
            let by_key = keys.is_empty() || keys == names;
            if h.role(*last) != Role::Return || names != self.function.results || !by_key {
                return object(self.home, *last, "the results are not handed over");
            }
        }
        Ok(())
    }

    /// The last assignment became a return of its value.
    fn returned_at_once(&self, eq: &Equal, call: &Call, old: &[NodeId], new: &[NodeId]) -> Opinion<()> {
        let (t, h) = (&self.old().tree, &self.home.tree);
        let (Some((&a, old)), Some((&b, new))) = (old.split_last(), new.split_last()) else {
            return object(self.home, self.definition, "the body is empty");
        };
        old.iter().zip(new).try_for_each(|(a, b)| eq.node(*a, *b))?;
        let assign = match t.role(a) {
            Role::ExprStmt | Role::Declare => {
                t.children(a).find(|c| t.role(*c) != Role::Token && t.field(*c) != Field::Type).unwrap_or(a)
            }
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
        eq.below(value, returned)
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
    pub(super) fn local_named(&self, scope: ScopeId, name: &str) -> Option<BindingId> {
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
        self.file_variables(&taken)?;
        let h = self.home;
        let inner = h.names.scope_of(self.definition).unwrap_or(ScopeId(0));
        let receiver = self.receiver(h, self.definition);
        let types = h.tree.child(self.definition, Field::TypeParams);
        let is_type = |first: NodeId| types.is_some_and(|list| h.tree.contains(list, first));
        let implicit = |b: BindingId| {
            let first = h.names.binding(b).first;
            first == self.definition || is_type(first)
        };
        for b in h.names.locals_of(inner).filter(|b| !parameters.contains(b) && Some(*b) != receiver) {
            let order = Order { source: h, variable: Some(b) };
            if !implicit(b) && order.sequence(self.new_statements()).reads && !self.had_no_value(b, state) {
                let name = &h.names.binding(b).name;
                return object(h, self.definition, format!("`{name}` may be read before it has a value"));
            }
        }
        Ok(())
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
            // computed where it was, when what is computed before it was so too
            let first = |given: usize| (0..given).all(|j| state.given.contains(&j) || self.is_plain(call.arguments[j]));
            if state.given.contains(&i) && first(i) {
                continue;
            }
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
            let members = t.subtree(*a).filter(|n| t.role(*n) == Role::Name && self.is_changing_member(*n)).count();
            let definitions = |s: &Source, name: &str| self.project.definition(s, name);
            if inner.iter().all(|r| simple(*r)) && members == 0
                || s.lang.is_constant(s, *a, &definitions)
                || inner == [Role::UnaryOp, Role::Token, Role::Literal]
                || inner[0] == Role::Lambda
            {
                self.unchanged_inside(*a)?;
                continue;
            }
            let calls = inner.iter().any(|r| acts(*r));
            let body = self.home.tree.child(self.definition, Field::Body).unwrap_or(self.definition);
            let target = |n: NodeId| self.home.names.at(n).and_then(|r| r.target);
            let is_argument = |n: NodeId| target(n).is_some_and(|b| parameters.contains(&b));
            let first = uses.len() == 1 && is_first_of(self.home, body, uses[0], is_argument, calls);
            // an assumption covers the reading of a path of members, nothing more
            let path = inner.iter().all(|r| matches!(r, Role::Member | Role::Name | Role::MemberName));
            let told = self.change.result.verdict == Verdict::Assumed && path;
            if !first && (calls || !told && !self.is_own_method(*a)) {
                return object(s, *a, "an argument would be evaluated at another time");
            }
            self.unchanged_inside(*a)?;
        }
        Ok(())
    }

    /// Words and literals, which have no moment.
    fn is_plain(&self, argument: NodeId) -> bool {
        let t = &self.edited().tree;
        matches!(t.role(argument), Role::Literal | Role::Name) && !self.is_changing_member(argument)
    }

    /// What a name in an argument stands for is not written by the copy, unless it is handed in to be written.
    fn unchanged_inside(&self, argument: NodeId) -> Opinion<()> {
        let (s, o) = (self.edited(), self.old());
        if s.tree.role(argument) == Role::Name {
            return Ok(()); // compared as a variable
        }
        // and so is what a function in the copy binds
        let copy = self.site.first..o.tree.end(self.site.last);
        let inner = |b: Option<BindingId>| {
            b.is_some_and(|b| {
                let home = o.names.scope(o.names.binding(b).scope).node;
                o.tree.role(home).is_callable() && copy.contains(&home)
            })
        };
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
                .any(|r| r.usage != crate::names::Use::Read && o.str(r.node) == s.str(n) && !inner(r.target));
            if written {
                return object(s, n, "an argument uses what the copy writes");
            }
        }
        Ok(())
    }

    /// A field that is named without its object and may get another value.
    fn is_changing_member(&self, name: NodeId) -> bool {
        let s = self.edited();
        let b = s.names.at(name).and_then(|r| r.target).filter(|b| s.names.is_member(*b));
        b.is_some_and(|b| s.names.binding(b).kind == BindKind::Variable && !s.lang.is_final(s, b))
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

/// What a method calls its object.
pub(super) fn receiver_of(s: &Source, function: NodeId) -> Option<BindingId> {
    if let Some(word) = s.lang.object_word() {
        let mut scopes = s.names.scope_chain(s.names.scope_of(function)?);
        return scopes.find_map(|x| s.names.declared_in(x, word));
    }
    let p = s.tree.child(function, Field::Parameters)?;
    let name = s.tree.children(p).next().and_then(|c| s.tree.subtree(c).find(|n| s.tree.role(*n) == Role::Name))?;
    s.names.at(name)?.target
}

/// A declaration without a value.
fn only_declares(s: &Source, n: NodeId) -> bool {
    let t = &s.tree;
    let said = |c: &NodeId| t.role(*c) == Role::Token || t.field(*c) == Field::Type;
    t.role(n) == Role::Declare && t.children(n).filter(|c| !said(c)).all(|p| t.child(p, Field::Right).is_none())
}
