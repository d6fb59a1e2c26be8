//! Types that were made for a function. Several results come as one value: the type holds them as they were and does
//! nothing else, the function fills it in order, each site takes them out of it. A type of functions says what the body
//! passes, what the copies' code gives, and what it throws.

use super::call::Call;
use super::check::Check;
use super::{Opinion, Pair, object};
use crate::change::NewFunction;
use crate::index::Project;
use crate::lang::{FunctionHead, Held, Reach};
use crate::names::{BindKind, Source, Use};
use crate::tree::{Field, NodeId, Role};

/// Their definitions: new, beside the function, of names that nothing has.
pub(super) fn found(project: &Project, p: &Pair, function: &NewFunction, definition: NodeId) -> Vec<NodeId> {
    let s = &p.new;
    let held = function.bundle.iter().filter_map(|n| {
        let class = made(project, p, n, definition)?;
        s.lang.bundle_of(s, class).map(|_| class)
    });
    let called = function.function_types.iter().filter_map(|n| {
        let class = made(project, p, n, definition)?;
        s.lang.function_type_of(s, class).map(|_| class)
    });
    held.chain(called).collect()
}

fn made(project: &Project, p: &Pair, name: &str, definition: NodeId) -> Option<NodeId> {
    let (s, t) = (&p.new, &p.new.tree);
    let new = |c: &NodeId| p.inserted.iter().any(|i| i.contains(t.span(*c)));
    let named = |c: &NodeId| t.child(*c, Field::Name).is_some_and(|n| s.str(n) == name);
    let beside = t.parent(definition).into_iter().flat_map(|b| t.children(b));
    let class = beside.into_iter().find(|c| t.role(*c) == Role::Class && named(c) && new(c))?;
    let free = !project.word_elsewhere(name, &[]) && s.lang.is_identifier(name) && !s.lang.is_builtin(name);
    free.then_some(class)
}

impl Check<'_> {
    fn beside(&self, name: &str) -> Option<NodeId> {
        let h = &self.home.tree;
        let named = |c: &NodeId| h.child(*c, Field::Name).is_some_and(|n| self.home.str(n) == name);
        let beside = h.parent(self.definition).into_iter().flat_map(|b| h.children(b));
        beside.into_iter().find(|c| h.role(*c) == Role::Class && named(c))
    }

    /// What the type of several results holds.
    fn held(&self) -> Option<Held> {
        self.home.lang.bundle_of(self.home, self.beside(self.function.bundle.as_deref()?)?)
    }

    /// The type of functions that was made, by its name.
    pub(super) fn function_type(&self, name: &str) -> Option<FunctionHead> {
        let own = self.function.function_types.iter().any(|t| t == name);
        let class = self.beside(name).filter(|_| own)?;
        let seen = |f: &FunctionHead| self.sees(self.edited(), f.reach);
        self.home.lang.function_type_of(self.home, class).filter(seen)
    }

    /// A place sees what has such a reach in the function's class.
    fn sees(&self, s: &Source, reach: Reach) -> bool {
        match reach {
            Reach::All => true,
            Reach::Near => s.path == self.home.path || self.in_one_package(s),
            Reach::Below if s.lang.hides_below() => self.stands_below(),
            Reach::Below => s.path == self.home.path || self.in_one_package(s) || self.stands_below(),
            Reach::Own => s.path == self.home.path,
        }
    }

    /// What the body passes, and what the code gives that stood there, have the types that a type of functions says.
    pub(super) fn fits_function_type(&self, of: &FunctionHead, old: NodeId, passed: &[NodeId]) -> bool {
        let (o, h) = (self.old(), self.home);
        let for_effect = o.tree.parent(old).is_some_and(|p| o.tree.role(p) == Role::ExprStmt);
        let result = match for_effect {
            true => h.str(of.result) == h.lang.no_result_type(),
            false => self.project.type_text(o, old).is_some_and(|t| t == h.str(of.result)),
        };
        let typed = |(p, t): (&NodeId, &NodeId)| self.project.type_text(h, *p).is_some_and(|x| x == h.str(*t));
        result && passed.len() == of.parameters.len() && passed.iter().zip(&of.parameters).all(typed)
    }

    /// What is put into the value that the function's last statement gives.
    pub(super) fn bundled_values(&self, last: NodeId) -> Opinion<Option<NodeId>> {
        let (s, h) = (self.home, &self.home.tree);
        let Some(name) = self.function.bundle.as_deref() else { return Ok(None) };
        let made = h.children(last).next().filter(|c| h.role(*c) == Role::Call && s.lang.is_construction(s.str(*c)));
        let callee = made.and_then(|c| h.child(c, Field::Callee)).filter(|c| s.str(*c) == name);
        let given = made.filter(|_| callee.is_some()).and_then(|c| h.child(c, Field::Arguments));
        let Some((given, held)) = given.zip(self.held()) else {
            return object(s, last, "the results are not handed over");
        };
        let local = |n: &NodeId| s.names.at(*n).and_then(|r| r.target).map(|b| s.names.binding(b));
        for ((of, part), value) in held.parts.iter().zip(h.children(given)) {
            let typed = local(&value).and_then(|b| self.project.type_text(s, b.first)).is_some_and(|t| t == s.str(*of));
            if s.str(value) != s.str(*part) || !typed {
                return object(s, value, "this part of the value is another one");
            }
        }
        Ok(Some(given))
    }

    /// The call with the targets that take its results out of its value.
    pub(super) fn unpacked(&self, mut call: Call) -> Opinion<Call> {
        let (s, t) = (self.edited(), &self.edited().tree);
        let wrong = |n: NodeId| object(s, n, "the results are not taken out of the value");
        if self.function.bundle.is_none() || self.site.unpacks.is_empty() {
            let plain = self.site.unpacks.is_empty() && (self.function.bundle.is_none() || call.targets.is_empty());
            return if plain { Ok(call) } else { wrong(self.site.call) };
        }
        let Some(held) = self.held() else { return wrong(self.site.call) };
        if !self.sees(s, held.reach) {
            return object(s, self.site.call, "the type of the results is not seen here");
        }
        let by_call = held.by_call;
        let [(_, kept)] = call.targets[..] else { return wrong(self.site.call) };
        let Some(b) = s.names.at(kept).and_then(|r| r.target) else { return wrong(kept) };
        let binding = s.names.binding(b);
        let reads = s.names.references_to(b).filter(|r| r.usage == Use::Read).count();
        let of_type = t.ancestor(kept, &[Role::Declare]).and_then(|d| t.child(d, Field::Type));
        let type_name = of_type.and_then(|d| t.subtree(d).filter(|n| t.is_leaf(*n)).last()).map(|n| s.str(n));
        let old = self.old();
        let function = self.function_of(old, self.site.first);
        let said = old.tree.subtree(function).any(|n| old.tree.is_leaf(n) && old.str(n) == binding.name);
        let own = binding.kind == BindKind::Variable && binding.writes == 1 && reads == self.site.unpacks.len();
        if !own || said || type_name != self.function.bundle.as_deref() {
            return wrong(kept);
        }
        call.targets.clear();
        for u in &self.site.unpacks {
            let assign = t.children(*u).find(|c| t.role(*c) == Role::Assign);
            let sides = assign.and_then(|a| t.child(a, Field::Left).zip(t.child(a, Field::Right)));
            let Some((left, right)) = sides.filter(|(l, _)| t.role(*l) == Role::Name) else { return wrong(*u) };
            let read = match by_call {
                true => t.child(right, Field::Callee).filter(|_| {
                    t.role(right) == Role::Call
                        && t.child(right, Field::Arguments).is_some_and(|a| t.children(a).next().is_none())
                }),
                false => Some(right),
            };
            let parts = read.and_then(|m| t.child(m, Field::Object).zip(t.child(m, Field::Member)));
            let Some((object, member)) = parts else { return wrong(*u) };
            if s.names.at(object).and_then(|r| r.target) != Some(b) {
                return wrong(*u);
            }
            call.targets.push((Some(s.str(member).to_string()), left));
        }
        Ok(call)
    }

    /// Each result goes to a local of its own type, declared as it was.
    pub(super) fn types_in_bundle(&self, call: &Call) -> Opinion<()> {
        let s: &Source = self.edited();
        let Some(held) = self.held() else {
            return object(s, self.site.call, "the type of the results is not there");
        };
        if held.parts.len() != self.function.results.len() {
            return object(s, self.site.call, "the type does not hold the results");
        }
        for ((of, _), (_, target)) in held.parts.iter().zip(&call.targets) {
            let local = s.names.at(*target).and_then(|r| r.target).map(|b| s.names.binding(b).first);
            let typed = local.and_then(|n| self.project.type_text(s, n)).is_some_and(|t| t == self.home.str(*of));
            if !typed || !self.declared_as_before(*target) {
                return object(s, *target, "this local has another type than the result");
            }
        }
        Ok(())
    }
}
