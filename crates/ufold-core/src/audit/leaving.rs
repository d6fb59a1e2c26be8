//! Ways out of a copy: what returns, jumps, waits or yields in it must do the same at the site.

use super::call::Call;
use super::check::Check;
use super::order::Order;
use super::{Opinion, object};
use crate::lang::Leaving;
use crate::tree::{Field, NodeId, Role, Tree};

impl Check<'_> {
    /// Returns, jumps, awaits and yields.
    pub(super) fn ways_out(&self, call: &Call) -> Opinion<()> {
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
                    if !told || t.child(at, Field::Label).is_some() || t.child(at, Field::Value).is_some() {
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

    /// Whether a return or a jump of the copy may lead to a read of the variable.
    pub(super) fn read_when_left(&self, order: &Order, function: NodeId) -> bool {
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
            Role::Jump | Role::JumpTarget => true,
            _ => false,
        })
    }

    /// No jump by a name leads into the copy, out of it, or back to where it runs again.
    pub(super) fn no_jumps(&self) -> Opinion<()> {
        let (o, t) = (self.old(), &self.old().tree);
        if !t.has_jumps {
            return Ok(());
        }
        let function = self.function_of(o, self.site.first);
        let inside = |n: NodeId| n >= self.site.first && n < t.end(self.site.last);
        let bad = |n: &NodeId| match t.role(*n) {
            Role::Jump => inside(*n) || crate::flow::target_of_jump(t, *n).is_none_or(|to| to < *n),
            Role::JumpTarget => inside(*n),
            _ => false,
        };
        t.subtree(function).find(bad).map_or(Ok(()), |n| object(o, n, "a jump by a name"))
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
            let gives_value = t.child(jump, Field::Value).is_some();
            t.role(statement).is_loop() && !in_else && !gives_value
                || t.role(statement) == Role::Switch && t.role(jump) == Role::Break
        }
    }
}
