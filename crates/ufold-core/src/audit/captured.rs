//! Functions inside the new body share variables with the code around them, not values: what they use must not get
//! another value in the function that the copy left.

use super::call::Call;
use super::check::{Check, State};
use super::first::first_source;
use super::{Opinion, object};
use crate::names::{BindKind, BindingId, Names, Reference, Source, Space, Use};
use crate::tree::{Field, NodeId, Role, Tree};

impl Check<'_> {
    pub(super) fn captured(&self, call: &Call, parameters: &[BindingId], state: &State) -> Opinion<()> {
        let (h, s) = (self.home, self.edited());
        // one that is used up at once keeps nothing, and what a generator goes through is taken where it is made
        let at_once = |n: NodeId| h.names.scope_of(n).is_some_and(|x| h.names.scope(x).kind.runs_at_once());
        let generates =
            |n: NodeId, u: NodeId| h.tree.role(n) == Role::Generator && !at_once(n) && !first_source(&h.tree, n, u);
        let later = |n: NodeId, u: NodeId| h.tree.role(n).is_callable() || generates(n, u);
        let inside = |u: NodeId| h.tree.ancestors(u).take_while(|a| *a != self.definition).any(|a| later(a, u));
        let kept = |uses: &[NodeId]| uses.iter().any(|u| inside(*u));
        for (i, argument) in call.arguments.iter().enumerate() {
            let parameter = h.names.references_to(parameters[i]).map(|r| r.node).collect::<Vec<_>>();
            if kept(&parameter) || kept(&state.uses[i]) {
                self.steady_inside(*argument)?;
            }
        }
        for (b, lambda) in parameters.iter().zip(&call.arguments).filter(|(_, a)| s.tree.role(**a) == Role::Lambda) {
            let of = h.tree.parent(h.names.binding(*b).first).and_then(|p| h.tree.child(p, Field::Type));
            let declared = of.and_then(|t| self.function_type(h.str(t))).map_or(Vec::new(), |f| f.throws);
            self.may_be_captured(*lambda, &declared)?;
        }
        for (_, target) in &call.targets {
            let local = state.forth.iter().find(|(o, _)| self.old().names.binding(**o).name == s.str(*target));
            let shared = local.is_some_and(|(_, b)| h.names.binding(*b).captured);
            let binding = s.names.at(*target).and_then(|r| r.target);
            if shared && binding.is_some_and(|b| !self.is_steady(b)) {
                return object(s, *target, format!("a function still sees the old `{}`", s.str(*target)));
            }
        }
        Ok(())
    }

    /// Where functions see only variables with one value, and declare what they throw.
    fn may_be_captured(&self, lambda: NodeId, declared: &[String]) -> Opinion<()> {
        let s = self.edited();
        let t = &s.tree;
        let own = |b: BindingId| t.contains(lambda, s.names.scope(s.names.binding(b).scope).node);
        let written = |r: &&Reference| r.usage != Use::Read && !r.target.is_some_and(own);
        if let Some(r) = s.names.in_range(lambda, t.end(lambda)).iter().find(written).filter(|_| s.lang.closures_copy())
        {
            return object(s, r.node, "a function would give another value to its own copy");
        }
        self.hides_nothing(lambda)?;
        if !s.lang.captures_fixed_only() {
            return Ok(());
        }
        for r in s.names.in_range(lambda, t.end(lambda)) {
            let Some(b) = r.target else { continue };
            let binding = s.names.binding(b);
            let own = t.contains(lambda, s.names.scope(binding.scope).node);
            if !own && binding.scope != Names::MODULE && !s.names.is_member(b) && binding.writes > 1 {
                return object(
                    s,
                    r.node,
                    format!("`{}` gets other values, and a function can't see it", s.str(r.node)),
                );
            }
        }
        let Some(body) = t.child(lambda, Field::Body) else { return Ok(()) };
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        match s.lang.declared_exceptions(s, body, t.end(body), &definitions) {
            Ok(all) if all.iter().all(|e| declared.contains(e)) => Ok(()),
            _ => object(s, lambda, "the function may throw what its type does not declare"),
        }
    }

    /// No local of the functions around it, up to their class, has the name of a parameter (JLS 6.4).
    fn hides_nothing(&self, lambda: NodeId) -> Opinion<()> {
        let s = self.edited();
        let t = &s.tree;
        let Some(own) = s.names.scope_of(lambda).filter(|_| !s.lang.closures_hide_locals()) else { return Ok(()) };
        let class = t.ancestor(lambda, &[Role::Class]);
        let around = |b: BindingId| {
            let at = s.names.scope(s.names.binding(b).scope).node;
            at != lambda && t.contains(at, lambda) && class.is_some_and(|c| c != at && t.contains(c, at))
        };
        let all = || (0..s.names.bindings.len() as u32).map(BindingId);
        for p in s.names.bindings_of(own) {
            let name = &s.names.binding(p).name;
            if all().any(|b| &s.names.binding(b).name == name && s.names.binding(b).space == Space::Values && around(b))
            {
                return object(s, lambda, format!("`{name}` is a variable around this function already"));
            }
        }
        Ok(())
    }

    /// Every variable that an argument names, those of functions in it left out, which share them as before.
    fn steady_inside(&self, argument: NodeId) -> Opinion<()> {
        let s = self.edited();
        let t = &s.tree;
        let direct = |n: &NodeId| !t.ancestors(*n).take_while(|a| *a >= argument).any(|a| t.role(a) == Role::Lambda);
        for n in t.subtree(argument).filter(|n| t.role(*n) == Role::Name).filter(direct) {
            let binding = s.names.at(n).and_then(|r| r.target);
            if t.role(argument) != Role::Lambda && binding.is_some_and(|b| !self.is_steady(b)) {
                return object(s, n, format!("a function would keep an old value of `{}`", s.str(n)));
            }
        }
        Ok(())
    }

    /// The variable gets no value after the site, and none by another function.
    fn is_steady(&self, b: BindingId) -> bool {
        let s = self.edited();
        let t = &s.tree;
        let binding = s.names.binding(b);
        if binding.scope == Names::MODULE && !self.is_at_top() {
            return binding.writes <= 1 && !binding.rebound_inside;
        }
        let own = t.callable_around(binding.first).unwrap_or(Tree::ROOT) == self.function_of(s, self.site.call);
        let home = s.names.scope(binding.scope).node;
        let given = |n: NodeId| binding.kind == BindKind::Parameter && n == binding.first;
        let mut writes = s.names.references_to(b).filter(|r| r.usage != Use::Read && !given(r.node));
        let statement = self.statement_of(s, self.site.call);
        let done = |n: NodeId| {
            let looped = t.ancestors(n).take_while(|a| *a != home).any(|a| {
                let again = !own || t.contains(a, self.site.call);
                t.role(a).is_loop() && again
            });
            let hoisted = binding.kind == BindKind::Function;
            !looped && (!own || hoisted || n < self.site.call || t.contains(statement, n))
        };
        !binding.rebound_inside && (own || binding.writes <= 1) && writes.all(|r| done(r.node))
    }

    fn statement_of(&self, s: &Source, node: NodeId) -> NodeId {
        let t = &s.tree;
        let inside = |n: &NodeId| t.parent(*n).is_some_and(|p| t.role(p).is_sequence());
        std::iter::once(node).chain(t.ancestors(node)).find(inside).unwrap_or(node)
    }
}
