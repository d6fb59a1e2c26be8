//! What a run of statements in one block takes, gives, and how it can leave.

use fixedbitset::FixedBitSet;
use rustc_hash::{FxHashMap, FxHashSet};

use super::{Flow, PointId, What, all, step_back};
use crate::names::{BindKind, BindingId, Names, Use};
use crate::tree::{Field, NodeId, Role, Tree};

/// Ways out of a region other than its end.
#[derive(Clone, Debug, Default)]
pub struct Exits {
    pub returns: Vec<NodeId>,
    /// Of loops around the region.
    pub breaks: Vec<NodeId>,
    pub yields: Vec<NodeId>,
    pub awaits: Vec<NodeId>,
}

#[derive(Clone, Debug)]
pub struct RegionFlow {
    /// Locals whose value before the region it may read.
    pub ins: Vec<BindingId>,
    /// Locals that it writes and that may be read afterwards.
    pub outs: Vec<BindingId>,
    pub written: Vec<BindingId>,
    /// Incoming locals that are perhaps not bound before the region.
    pub unbound_before: Vec<BindingId>,
    /// Outgoing locals that are perhaps not bound after it.
    pub unbound_after: Vec<BindingId>,
    /// Written before something in the region that can raise, and read by a handler around it.
    pub seen_by_handler: Vec<BindingId>,
    pub deleted: Vec<BindingId>,
    /// Written here and perhaps read where a return or a jump out of it leads.
    pub seen_when_left: Vec<BindingId>,
    pub falls_through: bool,
    /// A statement that no path through the region reaches: nothing is known of its locals.
    pub unreachable: Option<NodeId>,
    pub exits: Exits,
}

impl RegionFlow {
    /// Of an expression that writes nothing; `flow` is that of the function around it.
    pub fn of_reads(names: &Names, tree: &Tree, node: NodeId, flow: Option<&Flow>) -> RegionFlow {
        let mut ins: Vec<BindingId> = Vec::new();
        let mut unbound_before = Vec::new();
        for r in names.in_range(node, tree.end(node)) {
            let Some(b) = r.target else { continue };
            let scope = names.binding(b).scope;
            if scope == Names::MODULE || tree.contains(node, names.scope(scope).node) || ins.contains(&b) {
                continue;
            }
            ins.push(b);
            let point = flow.and_then(|f| {
                let i = *f.index.get(&b)?;
                let p = f.points.keys().find(|p| f.points[*p].node == r.node && f.points[*p].what == What::Use(i))?;
                Some(f.bound[p].contains(i))
            });
            if point == Some(false) {
                unbound_before.push(b);
            }
        }
        RegionFlow {
            ins,
            outs: Vec::new(),
            written: Vec::new(),
            unbound_before,
            unbound_after: Vec::new(),
            seen_by_handler: Vec::new(),
            deleted: Vec::new(),
            seen_when_left: Vec::new(),
            falls_through: true,
            unreachable: None,
            exits: exits(tree, node, node),
        }
    }
}

impl Flow {
    /// Of the statements from `first` up to the end of `last`, neighbours in one block of this function.
    pub fn region(&self, tree: &Tree, names: &Names, first: NodeId, last: NodeId) -> Option<RegionFlow> {
        let (start, end) = (*self.enter.get(&first)?, *self.leave.get(&last)?);
        let stop = tree.end(last);
        let inside = |p: PointId| self.points[p].node >= first && self.points[p].node < stop;
        let own = self.points_of(first, stop);
        let reached = self.reach(start, |p| inside(p) && p != end);
        let at = |p: PointId| p != end && reached.contains(&p);
        let n = self.locals.len();
        let mut written = FixedBitSet::with_capacity(n);
        for p in own.iter().copied() {
            if let What::Define(i) = self.points[p].what {
                written.set(i, true);
            }
        }
        let deletions = names.in_range(first, stop).iter().filter(|r| r.usage == Use::Delete);
        let deleted = deletions.filter_map(|r| r.target).filter(|b| self.index.contains_key(b)).collect();
        let falls_through = reached.contains(&end);
        let mut outs = FixedBitSet::with_capacity(n);
        if falls_through {
            outs = self.live[end].clone();
            outs.intersect_with(&written);
        }
        let mut left = FixedBitSet::with_capacity(n);
        let ways = own.iter().filter(|p| at(**p)).flat_map(|p| &self.points[*p].next);
        ways.filter(|s| !inside(**s) && **s != end).for_each(|s| left.union_with(&self.live[*s]));
        left.intersect_with(&written);
        let mut ins = self.exposed(start, end, &own, &at, &outs);
        // a function declared here is there before anything runs
        let declared = |i: &usize| {
            let b = names.binding(self.locals[*i]);
            b.hoisted && b.kind == BindKind::Function && b.first >= first && b.first < stop
        };
        (0..n).filter(declared).for_each(|i| ins.set(i, false));
        (0..n)
            .filter(|i| ins.contains(*i) && self.has_no_value(names, *i, start))
            .collect::<Vec<_>>()
            .iter()
            .for_each(|i| ins.set(*i, false));
        let list = |set: &FixedBitSet| (0..n).filter(|i| set.contains(*i)).map(|i| self.locals[i]).collect::<Vec<_>>();
        let mut unbound_before = ins.clone();
        (0..n).filter(|i| self.bound[start].contains(*i)).for_each(|i| unbound_before.set(i, false));
        let mut unbound_after = outs.clone();
        let after = self.bound_after(names, (start, end), &own, &at, &ins);
        (0..n).filter(|i| after.contains(*i)).for_each(|i| unbound_after.set(i, false));
        let seen = self.seen_by_handler(&inside, &own, &at, &written);
        Some(RegionFlow {
            ins: list(&ins),
            outs: list(&outs),
            written: list(&written),
            unbound_before: list(&unbound_before),
            unbound_after: list(&unbound_after),
            seen_by_handler: list(&seen),
            deleted,
            seen_when_left: list(&left),
            falls_through,
            unreachable: (first.0..stop.0).map(NodeId).find(|n| {
                let enter = self.enter.get(n).filter(|p| inside(**p) && !reached.contains(*p));
                enter.is_some() && !self.hoisted.contains(n)
            }),
            exits: exits(tree, first, last),
        })
    }

    /// Points of the nodes in a preorder range.
    fn points_of(&self, first: NodeId, stop: NodeId) -> Vec<PointId> {
        let place = |n: NodeId| self.by_node.partition_point(|p| self.points[*p].node < n);
        let mut out = self.by_node[place(first)..place(stop)].to_vec();
        out.sort_unstable();
        out
    }

    /// A local that is there from the start of its function, but was given no value on any way to a point.
    fn has_no_value(&self, names: &Names, local: usize, at: PointId) -> bool {
        let b = names.binding(self.locals[local]);
        if !b.hoisted || b.kind == BindKind::Parameter || b.rebound_inside {
            return false;
        }
        let defines = self.points.keys().filter(|p| self.points[*p].what == What::Define(local));
        !defines.into_iter().any(|d| self.points[d].next.iter().any(|s| self.reach(*s, |_| true).contains(&at)))
    }

    /// Points reachable from `start` while `through` holds; the last ones that do not are marked too.
    fn reach(&self, start: PointId, through: impl Fn(PointId) -> bool) -> FxHashSet<PointId> {
        let mut seen = FxHashSet::default();
        let mut todo = vec![start];
        while let Some(p) = todo.pop() {
            if !seen.insert(p) || !through(p) {
                continue;
            }
            todo.extend(self.points[p].next.iter().chain(&self.points[p].raises));
        }
        seen
    }

    /// Alive at the start when only `outs` are wanted at the end and nothing on other ways out.
    fn exposed(
        &self,
        start: PointId,
        end: PointId,
        own: &[PointId],
        at: &impl Fn(PointId) -> bool,
        outs: &FixedBitSet,
    ) -> FixedBitSet {
        let none = FixedBitSet::with_capacity(self.locals.len());
        let mut live: FxHashMap<PointId, FixedBitSet> = own.iter().map(|p| (*p, none.clone())).collect();
        live.insert(end, outs.clone());
        let mut changed = true;
        while changed {
            changed = false;
            for p in own.iter().rev().copied().filter(|p| at(*p)) {
                let mut set = none.clone();
                let next = self.points[p].next.iter();
                next.filter_map(|s| live.get(s)).for_each(|l| set.union_with(l));
                step_back(self.points[p].what, &mut set);
                let raises = self.points[p].raises.iter();
                raises.filter(|s| **s != end).filter_map(|s| live.get(s)).for_each(|l| set.union_with(l));
                changed |= set != live[&p];
                live.insert(p, set);
            }
        }
        live.remove(&start).unwrap_or(none)
    }

    /// Surely bound at the end when only `ins` are at the start.
    fn bound_after(
        &self,
        names: &Names,
        (start, end): (PointId, PointId),
        own: &[PointId],
        at: &impl Fn(PointId) -> bool,
        ins: &FixedBitSet,
    ) -> FixedBitSet {
        let n = self.locals.len();
        let mut bound: FxHashMap<PointId, FixedBitSet> = own.iter().map(|p| (*p, all(n))).collect();
        bound.insert(end, all(n));
        let mut first = ins.clone();
        (0..n).filter(|i| names.binding(self.locals[*i]).hoisted).for_each(|i| first.set(i, true));
        bound.insert(start, first);
        let mut changed = true;
        while changed {
            changed = false;
            for p in own.iter().copied().filter(|p| at(*p)) {
                let before = bound[&p].clone();
                let mut after = before.clone();
                match self.points[p].what {
                    What::Define(i) => after.set(i, true),
                    What::Delete(i) => after.set(i, false),
                    _ => {}
                }
                let point = &self.points[p];
                let to = point.next.iter().map(|s| (s, &after)).chain(point.raises.iter().map(|s| (s, &before)));
                for (s, set) in to.filter(|(s, _)| (at(**s) || **s == end) && **s != start) {
                    let there = bound.entry(*s).or_insert_with(|| all(n));
                    let old = there.clone();
                    there.intersect_with(set);
                    changed |= *there != old;
                }
            }
        }
        bound.remove(&end).unwrap_or_default()
    }

    fn seen_by_handler(
        &self,
        inside: &impl Fn(PointId) -> bool,
        own: &[PointId],
        at: &impl Fn(PointId) -> bool,
        written: &FixedBitSet,
    ) -> FixedBitSet {
        let n = self.locals.len();
        let mut seen = FixedBitSet::with_capacity(n);
        for d in own.iter().copied().filter(|p| at(*p)) {
            let What::Define(i) = self.points[d].what else { continue };
            if !written.contains(i) || seen.contains(i) {
                continue;
            }
            let after = self.reach(d, at);
            let escapes = |p: PointId| self.points[p].raises.iter().any(|h| !inside(*h) && self.live[*h].contains(i));
            if own.iter().any(|p| *p != d && at(*p) && after.contains(p) && escapes(*p)) {
                seen.set(i, true);
            }
        }
        seen
    }
}

fn exits(tree: &Tree, first: NodeId, last: NodeId) -> Exits {
    let mut out = Exits::default();
    let (mut at, stop) = (first, tree.end(last));
    while at < stop {
        match tree.role(at) {
            Role::Function | Role::Lambda | Role::Class => {
                at = tree.end(at);
                continue;
            }
            Role::Return => out.returns.push(at),
            Role::Yield => out.yields.push(at),
            Role::Await => out.awaits.push(at),
            Role::Break | Role::Continue if left_by(tree, at).is_none_or(|l| l < first || l >= stop) => {
                out.breaks.push(at);
            }
            // asynchronous loops, blocks and comprehensions
            Role::AsyncMark => out.awaits.push(at),
            _ => {}
        }
        at = NodeId(at.0 + 1);
    }
    out
}

/// The statement that a jump leaves or goes on with.
pub fn left_by(tree: &Tree, jump: NodeId) -> Option<NodeId> {
    if let Some(label) = tree.child(jump, Field::Label) {
        let named = |a: &NodeId| tree.child(*a, Field::Label).is_some_and(|l| tree.exact(l) == tree.exact(label));
        return tree.ancestors(jump).find(|a| tree.role(*a) == Role::Labeled && named(a));
    }
    // a value is given to a `switch`, whatever loops are in it
    let gives_value = tree.child(jump, Field::Value).is_some();
    if let Some(n) = tree.levels.get(&jump) {
        let counts = |a: &NodeId| tree.role(*a).is_loop() || tree.role(*a) == Role::Switch;
        return tree.ancestors(jump).filter(counts).nth(n.count.saturating_sub(1));
    }
    let stops = |role: Role| role.is_loop() && !gives_value || tree.role(jump) == Role::Break && role == Role::Switch;
    tree.ancestors(jump).find(|a| stops(tree.role(*a)) && !in_else(tree, *a, jump))
}

/// The place of its name in a block around a jump; none where there is no such place.
pub fn target_of_jump(tree: &Tree, jump: NodeId) -> Option<NodeId> {
    // one that leaves loops goes on behind them
    if tree.levels.contains_key(&jump) {
        return left_by(tree, jump).map(|l| tree.end(l));
    }
    let name = tree.child_of_role(jump, Role::Label)?;
    let named = |n: &NodeId| {
        tree.role(*n) == Role::JumpTarget
            && tree.child_of_role(*n, Role::Label).is_some_and(|l| tree.exact(l) == tree.exact(name))
    };
    let blocks = tree.ancestors(jump).take_while(|a| !tree.role(*a).is_callable());
    blocks.filter(|a| tree.role(*a).is_sequence()).find_map(|b| tree.children(b).find(named))
}

/// A `break` in the `else` of a loop belongs to the loop around it.
fn in_else(tree: &Tree, of: NodeId, node: NodeId) -> bool {
    tree.children(of).any(|c| tree.role(c) == Role::Else && tree.contains(c, node))
}
