//! Copies laid over each other: which node of one is which of the others, and where they differ.
//!
//! All copies are walked at once. Where they have the same kind and the same number of children the walk goes on below;
//! where they do not, or where a leaf's text differs, there is a difference. Linear in the smallest copy; fails (`None`)
//! when the copies do not have the same number of statements or differ in a whole statement.

use crate::names::Source;
use crate::tree::{NodeId, Role};

/// Statements next to each other in one block: a copy, or what will be one.
#[derive(Clone, Copy)]
pub struct Region<'s> {
    pub source: &'s Source,
    pub first: NodeId,
    pub last: NodeId,
    /// One expression inside a statement.
    pub is_expression: bool,
}

impl Region<'_> {
    pub fn statements(&self) -> Vec<NodeId> {
        let t = &self.source.tree;
        let block = t.parent(self.first).unwrap_or(crate::tree::Tree::ROOT);
        t.children(block).filter(|c| *c >= self.first && *c <= self.last && t.role(*c) != Role::Doc).collect()
    }
    pub fn end(&self) -> NodeId {
        self.source.tree.end(self.last)
    }
    pub fn contains(&self, id: NodeId) -> bool {
        self.first <= id && id < self.end()
    }
}

/// One node of each copy at the same place.
#[derive(Clone, Debug)]
pub struct Aligned {
    pub nodes: Vec<NodeId>,
    /// Index of the aligned parent; `None` for a statement of the region itself.
    pub parent: Option<usize>,
    /// The copies differ here, and nothing below is aligned.
    pub differs: bool,
    /// A condition before the copies tells more of it than its declaration: it is passed as what it is known to be.
    pub is_told: bool,
}

/// A statement that some copies have and others lack.
#[derive(Clone, Debug)]
pub struct Gap {
    /// Of each copy that has it, the statement.
    pub nodes: Vec<Option<NodeId>>,
}

/// Aligned nodes in preorder.
pub fn align(regions: &[Region]) -> Option<Vec<Aligned>> {
    lay(regions, &regions.iter().map(Region::statements).collect::<Vec<_>>())
}

/// The same for copies of which some have one statement more, not the first or the last one.
pub fn align_with_gap(regions: &[Region]) -> Option<(Vec<Aligned>, Option<Gap>)> {
    let rows: Vec<Vec<NodeId>> = regions.iter().map(Region::statements).collect();
    let n = rows.iter().map(Vec::len).min()?;
    if rows.iter().any(|r| r.len() > n + 1) {
        return None;
    }
    if rows.iter().all(|r| r.len() == n) {
        return lay(regions, &rows).map(|a| (a, None));
    }
    let without = |k: usize| {
        let has = |r: &Vec<NodeId>| (r.len() > n).then(|| r[k]);
        let rest = |r: &Vec<NodeId>| r.iter().copied().filter(|x| has(r) != Some(*x)).collect();
        let laid = lay(regions, &rows.iter().map(rest).collect::<Vec<_>>())?;
        Some((laid, Some(Gap { nodes: rows.iter().map(has).collect() })))
    };
    // where it leaves the fewest differences
    let differences = |(a, _): &(Vec<Aligned>, Option<Gap>)| a.iter().filter(|x| x.differs).count();
    (1..n).filter_map(without).min_by_key(differences)
}

fn lay(regions: &[Region], rows: &[Vec<NodeId>]) -> Option<Vec<Aligned>> {
    let n = rows.first()?.len();
    if rows.iter().any(|r| r.len() != n) {
        return None;
    }
    let mut out = Vec::new();
    for i in 0..n {
        walk(regions, rows.iter().map(|r| r[i]).collect(), None, &mut out);
    }
    let whole_statement = |a: &Aligned| a.differs && a.parent.is_none();
    (!out.iter().any(whole_statement)).then_some(out)
}

fn walk(regions: &[Region], nodes: Vec<NodeId>, parent: Option<usize>, out: &mut Vec<Aligned>) {
    let children: Vec<Vec<NodeId>> = regions
        .iter()
        .zip(&nodes)
        .map(|(r, n)| r.source.tree.children(*n).filter(|c| r.source.tree.role(*c) != Role::Doc).collect())
        .collect();
    let tree = |i: usize| &regions[i].source.tree;
    let outermost = parent.is_none() && regions[0].is_expression;
    let same = |i: usize| {
        tree(i).kind(nodes[i]) == tree(0).kind(nodes[0])
            // what an expression is to the code around it is no part of it
            && (outermost || tree(i).field(nodes[i]) == tree(0).field(nodes[0]))
            && tree(i).role(nodes[i]) == tree(0).role(nodes[0])
            && children[i].len() == children[0].len()
            && (!children[0].is_empty() || tree(i).exact(nodes[i]) == tree(0).exact(nodes[0]))
    };
    let differs = !(1..nodes.len()).all(same);
    let own = out.len();
    let count = if differs { 0 } else { children[0].len() };
    out.push(Aligned { nodes, parent, differs, is_told: false });
    for c in 0..count {
        walk(regions, children.iter().map(|row| row[c]).collect(), Some(own), out);
    }
}
