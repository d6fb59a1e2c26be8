//! Control flow of one function, and what a region of it reads, writes and how it can leave.
//!
//! The graph's points are events in evaluation order: a local is used, defined or deleted, or something happens that
//! can raise. An exception can start at each of the latter and reach every handler around it; a `finally` is two copies:
//! one for those who go on, one for those who leave early, which leads to all places its body could have gone to. Both
//! err on the side of more paths, so a local may be thought alive that is not (one result too many) but never the other
//! way round.
//!
//! Cost: points times locals / 64, a few rounds.

mod build;
mod effects;
mod reaching;
mod region;

use std::sync::{Arc, Mutex};

pub(crate) use effects::is_given_above;
pub use effects::{Conflict, Effects};
pub use region::{Exits, RegionFlow, left_by, target_of_jump};

#[cfg(test)]
mod tests;

use fixedbitset::FixedBitSet;
use rustc_hash::{FxHashMap, FxHashSet};
use typed_index_collections::TiVec;

use crate::names::{BindKind, BindingId, Names, Source};
use crate::tree::{NodeId, Role, Tree};

/// Number of a point in its function.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub(crate) struct PointId(u32);

impl From<usize> for PointId {
    fn from(i: usize) -> PointId {
        PointId(i as u32)
    }
}

impl From<PointId> for usize {
    fn from(p: PointId) -> usize {
        p.0 as usize
    }
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum What {
    Nothing,
    Use(usize),
    Define(usize),
    Delete(usize),
    /// Can raise, or have an effect.
    Effect,
}

#[derive(Clone, Debug)]
pub(crate) struct Point {
    pub what: What,
    pub node: NodeId,
    pub next: Vec<PointId>,
    /// Where an exception that starts here can go inside the function.
    pub raises: Vec<PointId>,
}

/// Every local.
pub(crate) fn all(n: usize) -> FixedBitSet {
    let mut out = FixedBitSet::with_capacity(n);
    out.insert_range(..);
    out
}

/// The graph of one function with its solved data-flow problems.
pub struct Flow {
    pub(crate) points: TiVec<PointId, Point>,
    /// Points in the order of their nodes.
    pub(crate) by_node: Vec<PointId>,
    pub(crate) enter: FxHashMap<NodeId, PointId>,
    pub(crate) leave: FxHashMap<NodeId, PointId>,
    /// Statements that take effect before their block begins.
    pub(crate) hoisted: FxHashSet<NodeId>,
    pub(crate) locals: Vec<BindingId>,
    pub(crate) index: FxHashMap<BindingId, usize>,
    /// Where all ways end.
    exit: PointId,
    /// Alive before each point.
    pub(crate) live: TiVec<PointId, FixedBitSet>,
    /// Surely bound before each point.
    pub(crate) bound: TiVec<PointId, FixedBitSet>,
}

impl Flow {
    /// Of a function, to ask about the code that begins at `region`.
    pub fn of(source: &Source, function: NodeId, region: NodeId) -> Arc<Flow> {
        // where the region begins matters to the way out around it only
        let t = &source.tree;
        let last = t.ancestors(region).take_while(|a| *a != function).find(|a| t.role(*a) == Role::Finally);
        source.remember((function, last), || Flow::new(source, function, region))
    }

    /// Of a file's top level, its variables as locals; those that others read when it has run are alive at its end.
    pub fn of_top(source: &Source, region: NodeId, wanted: &[BindingId]) -> Arc<Flow> {
        type ByWanted = Mutex<FxHashMap<Vec<BindingId>, Arc<Flow>>>;
        let t = &source.tree;
        let last = t.ancestors(region).find(|a| t.role(*a) == Role::Finally);
        let all = source.remember((Tree::ROOT, last), ByWanted::default);
        if let Some(known) = all.lock().unwrap_or_else(|e| e.into_inner()).get(wanted) {
            return known.clone();
        }
        let names = &source.names;
        let variable = |b: &BindingId| names.binding(*b).kind == BindKind::Variable;
        let locals = names.locals_of(Names::MODULE).filter(variable).collect();
        let made = Arc::new(Flow::solved(build::build(source, Tree::ROOT, region, locals), names, wanted));
        all.lock().unwrap_or_else(|e| e.into_inner()).insert(wanted.to_vec(), made.clone());
        made
    }

    fn new(source: &Source, function: NodeId, region: NodeId) -> Flow {
        let scope = source.names.scope_of(function).expect("every function opens a scope");
        let built = build::build(source, function, region, source.names.locals_of(scope).collect());
        Flow::solved(built, &source.names, &[])
    }

    fn solved(mut flow: Flow, names: &Names, wanted: &[BindingId]) -> Flow {
        flow.by_node = flow.points.keys().collect();
        flow.by_node.sort_by_key(|p| flow.points[*p].node);
        flow.solve_live(wanted);
        flow.solve_bound(names);
        flow
    }

    fn solve_live(&mut self, wanted: &[BindingId]) {
        let n = self.locals.len();
        let mut at_end = FixedBitSet::with_capacity(n);
        wanted.iter().filter_map(|b| self.index.get(b)).for_each(|i| at_end.set(*i, true));
        self.live = vec![FixedBitSet::with_capacity(n); self.points.len()].into();
        let mut changed = true;
        while changed {
            changed = false;
            for p in self.points.keys().rev() {
                let point = &self.points[p];
                let mut set = FixedBitSet::with_capacity(n);
                point.next.iter().for_each(|s| set.union_with(&self.live[*s]));
                if p == self.exit {
                    set.union_with(&at_end);
                }
                step_back(point.what, &mut set);
                point.raises.iter().for_each(|s| set.union_with(&self.live[*s]));
                changed |= set != self.live[p];
                self.live[p] = set;
            }
        }
    }

    fn solve_bound(&mut self, names: &Names) {
        let n = self.locals.len();
        self.bound = vec![all(n); self.points.len()].into();
        let mut start = FixedBitSet::with_capacity(n);
        for (i, b) in self.locals.iter().enumerate() {
            let b = names.binding(*b);
            start.set(i, b.kind == crate::names::BindKind::Parameter || b.hoisted);
        }
        if let Some(first) = self.bound.first_mut() {
            *first = start;
        }
        let mut changed = true;
        while changed {
            changed = false;
            for p in self.points.keys() {
                let before = self.bound[p].clone();
                let mut after = before.clone();
                match self.points[p].what {
                    What::Define(i) => after.set(i, true),
                    What::Delete(i) => after.set(i, false),
                    _ => {}
                }
                let mut flow_to = |to: PointId, set: &FixedBitSet| {
                    let old = self.bound[to].clone();
                    self.bound[to].intersect_with(set);
                    changed |= self.bound[to] != old;
                };
                for to in self.points[p].next.clone() {
                    flow_to(to, &after);
                }
                for to in self.points[p].raises.clone() {
                    flow_to(to, &before);
                }
            }
        }
    }
}

pub(crate) fn step_back(what: What, set: &mut FixedBitSet) {
    match what {
        What::Use(i) => set.set(i, true),
        What::Define(i) | What::Delete(i) => set.set(i, false),
        What::Nothing | What::Effect => {}
    }
}
