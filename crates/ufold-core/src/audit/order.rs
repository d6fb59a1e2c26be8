//! What may be read before it is written: a walk along the structure, without a graph.
//!
//! Gives for a piece of code whether a variable may be read before it is surely written. Loops may run no time, handlers
//! may begin anywhere in their `try`; so it may say "read" of what never is, but not the other way round.

use crate::names::{BindingId, Source};
use crate::tree::{Field, NodeId, Role, Tree};

/// What a piece of code does to a variable, seen from its start.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(super) struct Effect {
    /// Perhaps read before it is written.
    pub reads: bool,
    /// Surely written, or never left by its end.
    pub settles: bool,
}

pub(super) struct Order<'a> {
    pub source: &'a Source,
    /// `None`: no variable, only whether the end is reached.
    pub variable: Option<BindingId>,
}

impl Order<'_> {
    fn then(a: Effect, b: impl FnOnce() -> Effect) -> Effect {
        if a.settles {
            return a;
        }
        let b = b();
        Effect { reads: a.reads || b.reads, settles: b.settles }
    }

    fn either(list: &[Effect]) -> Effect {
        Effect { reads: list.iter().any(|e| e.reads), settles: list.iter().all(|e| e.settles) }
    }

    pub fn sequence(&self, nodes: impl IntoIterator<Item = NodeId>) -> Effect {
        let t = &self.source.tree;
        if t.has_jumps {
            return self.with_jumps(nodes.into_iter().collect());
        }
        nodes.into_iter().fold(Effect::default(), |e, n| Self::then(e, || self.node(n)))
    }

    /// What stands between a jump and its target may be left out.
    fn with_jumps(&self, nodes: Vec<NodeId>) -> Effect {
        let t = &self.source.tree;
        let (mut all, mut targets, mut i) = (Effect::default(), Vec::new(), 0);
        while i < nodes.len() {
            if all.settles {
                let Some(k) = nodes[i..].iter().position(|n| targets.contains(&Some(*n))) else { break };
                (i, all.settles) = (i + k, false);
            }
            let own = self.node(nodes[i]);
            all = Effect { reads: all.reads || own.reads, settles: own.settles };
            let jumps = t.subtree(nodes[i]).filter(|n| t.role(*n) == Role::Jump);
            targets.extend(jumps.map(|n| crate::flow::target_of_jump(t, n)));
            i += 1;
        }
        let leaves = targets.iter().any(|x| x.is_none_or(|x| !nodes.contains(&x)));
        Effect { settles: all.settles && !leaves, ..all }
    }

    fn fields(&self, id: NodeId, wanted: impl Fn(Field) -> bool) -> Effect {
        let t = &self.source.tree;
        self.sequence(t.children(id).filter(|c| wanted(t.field(*c))).collect::<Vec<_>>())
    }

    fn body(&self, id: NodeId) -> Effect {
        self.fields(id, |f| f == Field::Body)
    }

    pub fn node(&self, id: NodeId) -> Effect {
        let t = &self.source.tree;
        match t.role(id) {
            Role::Name => self.name(id),
            Role::Assign => {
                let right = self.fields(id, |f| f == Field::Right);
                Self::then(right, || self.fields(id, |f| f == Field::Left))
            }
            Role::AugAssign => {
                let left =
                    t.child(id, Field::Left).map_or(Effect::default(), |l| Effect { settles: false, ..self.node(l) });
                Self::then(left, || self.fields(id, |f| f == Field::Right))
            }
            Role::OrAssign => {
                let left = self.fields(id, |f| f == Field::Left);
                let right = self.fields(id, |f| f == Field::Right);
                Effect { reads: left.reads || right.reads, settles: false }
            }
            Role::Default => {
                let right = self.fields(id, |f| f == Field::Right);
                Self::then(Effect { settles: false, ..right }, || self.fields(id, |f| f == Field::Left))
            }
            Role::CountedFor | Role::DoWhile | Role::For => self.rounds(id),
            Role::Switch => {
                let subject = self.fields(id, |f| f == Field::Subject);
                let cases: Vec<NodeId> = t.subtree(id).filter(|c| t.role(*c) == Role::Case).collect();
                let reads = cases.iter().any(|c| self.fields(*c, |_| true).reads);
                Effect {
                    reads: subject.reads || reads,
                    settles: subject.settles || self.variable.is_none() && self.settled_switch(&cases),
                }
            }
            Role::Labeled => {
                let inner = self.fields(id, |_| true);
                Effect { settles: inner.settles && !self.leaves_loop(id), ..inner }
            }
            Role::NamedExpr => {
                let value = self.fields(id, |f| f == Field::Value);
                Self::then(value, || self.fields(id, |f| f == Field::Name))
            }
            Role::If => self.branches(id),
            Role::While => self.while_loop(id),
            Role::Try => self.try_statement(id),
            Role::Match => {
                let cases: Vec<NodeId> = t.subtree(id).filter(|c| t.role(*c) == Role::Case).collect();
                let subject = self.fields(id, |f| f == Field::Subject);
                let reads = cases.iter().any(|c| self.fields(*c, |_| true).reads);
                let all = cases.last().is_some_and(|c| self.is_any(*c));
                let settles = all && cases.iter().all(|c| self.fields(*c, |_| true).settles);
                Effect { reads: subject.reads || reads, settles: subject.settles || settles }
            }
            // the variable of a pattern is only seen where it has a value
            Role::Compare if t.child(id, Field::Name).is_some_and(|n| self.name(n).settles) => {
                Effect { settles: true, ..self.partly(id) }
            }
            Role::Conditional | Role::BoolOp | Role::Compare | Role::Assert => self.partly(id),
            Role::Return | Role::Raise => Effect { settles: true, ..self.fields(id, |_| true) },
            Role::Break | Role::Continue => Effect { reads: false, settles: self.variable.is_some() },
            Role::Lambda | Role::Function | Role::Class | Role::Comprehension | Role::Generator => self.inner(id),
            _ => self.fields(id, |_| true),
        }
    }

    /// A case for whatever comes: its head is one word without a condition.
    fn is_any(&self, case: NodeId) -> bool {
        let t = &self.source.tree;
        let body = t.child(case, Field::Body).map_or(t.span(case).end, |b| t.span(b).start);
        let head = &self.source.text[t.span(case).start..body];
        let head = head.trim().trim_end_matches(':');
        let mut words = head.split_whitespace().skip(1);
        let word = words.next().filter(|_| words.next().is_none());
        word.is_some_and(|w| w == "_" || self.source.lang.is_identifier(w))
    }

    /// Loops whose head does more than test.
    fn rounds(&self, id: NodeId) -> Effect {
        match self.source.tree.role(id) {
            Role::CountedFor => {
                let begun = self.fields(id, |f| f == Field::Init);
                let round = Self::then(self.fields(id, |f| f == Field::Condition), || self.body(id));
                let step = self.fields(id, |f| f == Field::Step);
                // a jump may lead to the step before the body is done
                let later = round.reads || step.reads && (!round.settles || self.goes_on(id));
                Effect { reads: begun.reads || !begun.settles && later, settles: begun.settles }
            }
            Role::DoWhile => {
                let round = self.body(id);
                let early = self.goes_on(id) || self.leaves_loop(id);
                let tested = self.fields(id, |f| f == Field::Condition);
                let reads = round.reads || tested.reads && (!round.settles || early);
                Effect { reads, settles: round.settles && !early }
            }
            _ => {
                let source = self.fields(id, |f| f == Field::Right);
                let round = Self::then(self.fields(id, |f| f == Field::Left), || self.body(id));
                let other = self.fields(id, |f| f == Field::Alternative);
                let ended = other.settles && !self.leaves_loop(id);
                Effect { reads: source.reads || round.reads || other.reads, settles: source.settles || ended }
            }
        }
    }

    /// Only the first operands are surely evaluated.
    fn partly(&self, id: NodeId) -> Effect {
        let t = &self.source.tree;
        let mut parts: Vec<NodeId> = t.children(id).filter(|c| t.role(*c) != Role::Token).collect();
        let sure = match t.role(id) {
            Role::Compare => 2,
            Role::Conditional => {
                parts = t.conditional_parts(id).map_or(parts, |p| p.to_vec());
                1
            }
            _ => 1,
        };
        let rest = parts.split_off(sure.min(parts.len()));
        let first = self.sequence(parts);
        Self::then(first, || Effect { reads: rest.iter().any(|c| self.node(*c).reads), settles: false })
    }

    fn name(&self, id: NodeId) -> Effect {
        let Some(r) = self.source.names.at(id) else { return Effect::default() };
        if r.target.is_none() || r.target != self.variable {
            return Effect::default();
        }
        Effect { reads: r.usage.reads(), settles: r.usage.writes() && !r.usage.reads() }
    }

    /// Runs later, or not; what it reads counts as read here.
    fn inner(&self, id: NodeId) -> Effect {
        let (t, names) = (&self.source.tree, &self.source.names);
        let uses = || names.in_range(id, t.end(id)).iter().filter(|r| r.target.is_some() && r.target == self.variable);
        let is_own_name = |n: NodeId| t.parent(n) == Some(id) && t.field(n) == Field::Name;
        let settles = uses().any(|r| is_own_name(r.node));
        // nobody can call a function before it has its name, but who decorates it; what a class does while it is made can,
        // and finds the value that there was
        let written = || self.variable.map_or(0, |b| names.references_to(b).filter(|r| r.usage.writes()).count());
        let is_later = t.role(id) == Role::Function || t.role(id) == Role::Class && written() == 1;
        let plain = is_later && t.parent(id).is_none_or(|p| t.role(p) != Role::Decorated);
        let body = t.child(id, Field::Body).filter(|_| plain && settles);
        let is_later = |n: NodeId| body.is_some_and(|b| t.contains(b, n));
        let reads = uses().any(|r| !is_later(r.node) && (r.usage.reads() || !is_own_name(r.node)));
        Effect { reads, settles }
    }

    fn branches(&self, id: NodeId) -> Effect {
        let t = &self.source.tree;
        let mut ways = Vec::new();
        let mut tested = self.fields(id, |f| f == Field::Condition);
        ways.push(Self::then(tested, || self.body(id)));
        let mut complete = false;
        for c in t.children(id).filter(|c| t.field(*c) == Field::Alternative) {
            if t.role(c) == Role::Elif {
                tested = Self::then(tested, || self.fields(c, |f| f == Field::Condition));
            } else {
                complete = true;
            }
            ways.push(Self::then(tested, || self.body(c)));
        }
        if !complete {
            ways.push(tested);
        }
        Self::either(&ways)
    }

    fn while_loop(&self, id: NodeId) -> Effect {
        let t = &self.source.tree;
        let round = Self::then(self.fields(id, |f| f == Field::Condition), || self.body(id));
        let other = self.fields(id, |f| f == Field::Alternative);
        let forever =
            t.child(id, Field::Condition).is_some_and(|c| self.source.lang.is_always_true(self.source.str(c)));
        let body: Vec<NodeId> = t.child(id, Field::Body).map_or(Vec::new(), |b| t.children(b).collect());
        // what a loop without end does before its first way out is surely done
        let before: Vec<NodeId> = body.into_iter().take_while(|s| !self.leaves_loop(*s)).collect();
        let sure = forever && (self.sequence(before).settles || self.variable.is_none() && !self.leaves_loop(id));
        let ended = other.settles && !self.leaves_loop(id);
        Effect { reads: round.reads || other.reads, settles: sure || ended }
    }

    /// Every case, and a default, end in leaving the function.
    fn settled_switch(&self, cases: &[NodeId]) -> bool {
        let t = &self.source.tree;
        let has_default = cases.iter().any(|c| t.child(*c, Field::Value).is_none());
        let body = |c: NodeId| t.children(c).filter(|s| t.field(*s) == Field::Body).collect::<Vec<_>>();
        let last = cases.last().is_some_and(|c| self.sequence(body(*c)).settles);
        has_default && last && !cases.iter().any(|c| self.leaves_loop(*c))
    }

    fn goes_on(&self, id: NodeId) -> bool {
        self.source.tree.subtree(id).any(|n| self.source.tree.role(n) == Role::Continue)
    }

    fn leaves_loop(&self, id: NodeId) -> bool {
        self.source.tree.subtree(id).any(|n| matches!(self.source.tree.role(n), Role::Break | Role::Jump))
    }

    fn try_statement(&self, id: NodeId) -> Effect {
        let t = &self.source.tree;
        let of = |role: Role| t.children(id).filter(|c| t.role(*c) == role).collect::<Vec<_>>();
        let opened = self.fields(id, |f| f == Field::Init);
        let body = Self::then(opened, || Self::then(self.body(id), || self.sequence(of(Role::Else))));
        let mut ways = vec![body];
        ways.extend(of(Role::Except).into_iter().map(|c| self.fields(c, |_| true)));
        let all = Self::either(&ways);
        let last = self.sequence(of(Role::Finally));
        Effect { reads: all.reads || last.reads, settles: all.settles || last.settles }
    }

    /// Whether the variable may be read after a statement, until the function ends.
    pub fn read_after(&self, last: NodeId, function: NodeId) -> bool {
        let t = &self.source.tree;
        let mut at = last;
        while at != function {
            let Some(parent) = t.parent(at) else { return false };
            if t.role(parent).is_sequence() {
                let rest = self.sequence(t.children(parent).filter(|c| *c > at).collect::<Vec<_>>());
                if rest.reads {
                    return true;
                }
                if rest.settles && !self.jumps(parent, at) {
                    return self.handlers_read(at, function);
                }
            }
            match t.role(parent) {
                role if role.is_loop() && self.node(parent).reads => return true,
                // one case runs on into the next
                Role::Case if self.later_cases(parent).any(|c| self.node(c).reads) => return true,
                Role::Try => {
                    let later =
                        t.children(parent).filter(|c| matches!(t.role(*c), Role::Finally | Role::Else) && *c > at);
                    if self.sequence(later.collect::<Vec<_>>()).reads {
                        return true;
                    }
                }
                _ => {}
            }
            at = parent;
        }
        false
    }

    /// The variable surely gets another value after a statement of a file's top level.
    pub fn overwritten_after(&self, last: NodeId) -> bool {
        let t = &self.source.tree;
        let mut at = last;
        while let Some(parent) = t.parent(at) {
            if t.role(parent) == Role::Try {
                return false;
            }
            if t.role(parent).is_sequence() {
                let rest = self.sequence(t.children(parent).filter(|c| *c > at).collect::<Vec<_>>());
                if rest.settles && !self.jumps(parent, at) {
                    return true;
                }
            }
            at = parent;
        }
        false
    }

    fn later_cases(&self, case: NodeId) -> impl Iterator<Item = NodeId> + '_ {
        let t = &self.source.tree;
        let around = t.ancestor(case, &[Role::Switch]).unwrap_or(case);
        t.subtree(around).filter(move |c| *c > case && t.role(*c) == Role::Case)
    }

    /// A jump after `at` may lead to where the variable is read although the block's end is not reached.
    fn jumps(&self, block: NodeId, at: NodeId) -> bool {
        let t = &self.source.tree;
        t.children(block)
            .filter(|c| *c > at)
            .flat_map(|c| t.subtree(c))
            .any(|n| matches!(t.role(n), Role::Break | Role::Continue | Role::Jump))
    }

    /// Whether what runs on every way out of the blocks around it may read the variable.
    pub fn handlers_read(&self, from: NodeId, function: NodeId) -> bool {
        let t = &self.source.tree;
        t.ancestors(from)
            .take_while(|a| *a != function)
            .filter(|a| t.role(*a) == Role::Try)
            .flat_map(|a| t.children(a).collect::<Vec<_>>())
            .filter(|c| matches!(t.role(*c), Role::Finally))
            .any(|c| self.fields(c, |_| true).reads)
    }
}

/// A jump to a place that is told by its name, or such a place.
pub(crate) fn has_jump(t: &Tree, id: NodeId) -> bool {
    t.has_jumps && t.subtree(id).any(|n| matches!(t.role(n), Role::Jump | Role::JumpTarget))
}
