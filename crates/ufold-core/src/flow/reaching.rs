//! Which values of a local a use may read: reaching definitions, and the webs of uses that they tie together.

use rustc_hash::{FxHashMap, FxHashSet};

use super::{Flow, PointId, What};
use crate::names::BindingId;
use crate::tree::NodeId;

/// What gives a local its value: the name where it is written, or none for what it has when the function begins.
pub type Giver = Option<NodeId>;

/// The values of one local, and where each may be read.
pub struct Values {
    /// For each name that reads the local, what may have given the value.
    pub by_use: FxHashMap<NodeId, FxHashSet<Giver>>,
}

impl Flow {
    /// None when the function has no such local.
    pub fn values_of(&self, local: BindingId) -> Option<Values> {
        let i = *self.index.get(&local)?;
        let mut by_use: FxHashMap<NodeId, FxHashSet<Giver>> = FxHashMap::default();
        let gives = |p: &PointId| matches!(self.points[*p].what, What::Define(k) | What::Delete(k) if k == i);
        let givers = self.points.keys().filter(gives).map(|p| (p, Some(self.points[p].node)));
        for (from, giver) in givers.chain([(PointId::from(0), None)]) {
            let mut seen = FxHashSet::default();
            let mut todo: Vec<PointId> = self.points[from].next.clone();
            while let Some(p) = todo.pop() {
                if !seen.insert(p) {
                    continue;
                }
                let point = &self.points[p];
                if point.what == What::Use(i) {
                    by_use.entry(point.node).or_default().insert(giver);
                }
                todo.extend(&point.raises);
                if !gives(&p) {
                    todo.extend(&point.next);
                }
            }
        }
        Some(Values { by_use })
    }
}

impl Values {
    /// All names that must stay one variable with what is given here: uses of the value, what else those may read, and so on.
    pub fn web(&self, giver: NodeId) -> FxHashSet<Giver> {
        let mut web: FxHashSet<Giver> = FxHashSet::default();
        let mut todo = vec![Some(giver)];
        while let Some(g) = todo.pop() {
            if !web.insert(g) {
                continue;
            }
            // what reads and writes at once is both
            for (used, givers) in &self.by_use {
                if givers.contains(&g) || g == Some(*used) {
                    todo.push(Some(*used));
                    todo.extend(givers);
                }
            }
        }
        web
    }

    /// A use in a web that reads one of two values, the second of them given elsewhere.
    pub fn joined_at(&self, web: &FxHashSet<Giver>, giver: NodeId) -> Option<(NodeId, Giver)> {
        let mut both: Vec<(NodeId, Giver)> = Vec::new();
        for (used, givers) in self.by_use.iter().filter(|(u, _)| web.contains(&Some(**u))) {
            both.extend(givers.iter().filter(|g| **g != Some(giver) && givers.len() > 1).map(|g| (*used, *g)));
        }
        both.into_iter().min()
    }
}
