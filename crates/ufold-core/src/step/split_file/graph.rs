//! A file's definitions as a graph: which use which, and which belong together by what they use, by their names and by
//! where they stand.

use rustc_hash::FxHashMap;

use super::movable::{Movable, level, movable, uses};
use crate::index::Project;
use crate::names::Source;
use crate::plan::clusters::Graph;
use crate::plan::headings::{self, Heading};
use crate::plan::verbs::VERBS;
use crate::plan::words::{WEAK, words};
use crate::text::Span;
use crate::tree::NodeId;

/// How much a thing draws all together those who use it.
const BY_USE: f64 = 2.0;
/// What has a word in its name that nothing else has.
const BY_WORD: f64 = 0.6;
/// What stands under one heading.
const BY_HEADING: f64 = 2.0;
const BY_NEIGHBOUR: f64 = 0.3;
/// Lines of a definition that does something, or of a table that is worth a file.
const LEAST_DONE: usize = 3;
/// Shorter words say nothing.
const LEAST_LETTERS: usize = 3;

/// What could go, with what tells where it belongs.
pub(super) struct Unit {
    pub statements: Vec<NodeId>,
    pub names: Vec<String>,
    pub lines: usize,
    pub words: Vec<String>,
    /// Headings before it.
    pub section: usize,
    pub alone: bool,
    /// More than the value of a name.
    pub does: bool,
}

impl Unit {
    pub fn first(&self) -> NodeId {
        self.statements[0]
    }
}

/// The definitions of a file; in the graph, 0 is all that is no definition, and the others follow.
pub(super) struct Units {
    pub all: Vec<Unit>,
    pub graph: Graph,
    /// Words of the headings.
    pub headings: Vec<Vec<String>>,
}

impl Units {
    pub fn of(project: &Project, s: &Source, pinned: &[NodeId], no_stay: bool) -> Units {
        let movable = movable(project, s);
        let headings = headings::all(s, &level(s));
        let nouns: Vec<String> = movable.iter().flat_map(|d| &d.names).flat_map(|n| nouns(n)).collect();
        let all: Vec<Unit> = movable.iter().map(|d| unit(s, d, &headings, &nouns)).collect();
        let mut units =
            Units { all, graph: Graph::default(), headings: headings.into_iter().map(|h| h.words).collect() };
        units.graph.lines = std::iter::once(units.rest(s)).chain(units.all.iter().map(|u| u.lines)).collect();
        let stays = |d: &Movable| d.stays || d.statements.iter().any(|n| pinned.contains(n));
        units.graph.stays = std::iter::once(true).chain(movable.iter().map(stays)).collect();
        units.graph.alone = (1..=movable.len()).filter(|i| movable[i - 1].alone).collect();
        units.uses(uses(s, &movable));
        let open = s.module.as_ref().is_some_and(|m| s.lang.is_open_module(m)) && !no_stay;
        let public = |n: &String| !s.lang.is_private(n);
        let kept = |i: &usize| open && units.all[i - 1].names.iter().any(public);
        units.graph.kept = (1..=units.all.len()).filter(kept).collect();
        units.by_names();
        units.by_place();
        units
    }

    /// Lines of what is no definition.
    fn rest(&self, s: &Source) -> usize {
        let all = s.text.lines().filter(|l| !l.trim().is_empty()).count();
        all.saturating_sub(self.all.iter().map(|u| u.lines).sum())
    }

    fn uses(&mut self, mut uses: Vec<(usize, usize)>) {
        uses.sort_unstable();
        uses.dedup();
        let mut users: FxHashMap<usize, usize> = FxHashMap::default();
        uses.iter().for_each(|(_, j)| *users.entry(*j).or_default() += 1);
        let bond = |(i, j): &(usize, usize)| (*i, *j, BY_USE / users[j] as f64);
        self.graph.bonds.extend(uses.iter().map(bond));
        self.graph.uses = uses;
    }

    fn by_names(&mut self) {
        let mut having: FxHashMap<&str, Vec<usize>> = FxHashMap::default();
        for (i, u) in self.all.iter().enumerate() {
            u.words.iter().for_each(|w| having.entry(w).or_default().push(i + 1));
        }
        let mut all: Vec<(&str, Vec<usize>)> = having.into_iter().collect();
        all.sort();
        // what half of them have tells them apart from nothing
        for (_, units) in all.iter().filter(|(_, u)| u.len() > 1 && u.len() * 2 <= self.all.len()) {
            let weight = BY_WORD / (units.len() - 1) as f64;
            self.graph.bonds.extend(pairs(units).map(|(a, b)| (a, b, weight)));
        }
    }

    /// Neighbours, and what is under one heading; classes are about something by themselves.
    fn by_place(&mut self) {
        let near: Vec<usize> = (1..=self.all.len()).filter(|i| !self.all[i - 1].alone).collect();
        let unit = |i: usize| &self.all[i - 1];
        // constants stand together because they are constants
        let beside = |w: &&[usize]| w.iter().all(|i| unit(*i).lines > 1) && unit(w[0]).section == unit(w[1]).section;
        self.graph.bonds.extend(near.windows(2).filter(beside).map(|w| (w[0], w[1], BY_NEIGHBOUR)));
        let last = self.all.last().map_or(0, |u| u.section);
        for section in (1..=last).filter(|_| last > 1) {
            let units: Vec<usize> = near.iter().copied().filter(|i| self.all[i - 1].section == section).collect();
            let weight = BY_HEADING / units.len().saturating_sub(1).max(1) as f64;
            self.graph.bonds.extend(pairs(&units).map(|(a, b)| (a, b, weight)));
        }
    }
}

fn pairs(units: &[usize]) -> impl Iterator<Item = (usize, usize)> {
    units.iter().enumerate().flat_map(|(i, a)| units[i + 1..].iter().map(move |b| (*a, *b)))
}

/// Words of a name that are surely no verb of it: those behind the first, and all of a constant.
fn nouns(name: &str) -> Vec<String> {
    let constant = name.chars().all(|c| !c.is_lowercase());
    words(name).iter().skip(usize::from(!constant)).map(|w| singular(w)).collect()
}

fn unit(s: &Source, d: &Movable, headings: &[Heading], nouns: &[String]) -> Unit {
    let mut all: Vec<String> = d.names.iter().flat_map(|n| words(n)).map(|w| singular(&w)).collect();
    let verb = |w: &String| VERBS.contains(&w.as_str()) && !nouns.contains(w);
    all.retain(|w| w.len() >= LEAST_LETTERS && !WEAK.contains(&w.as_str()) && !verb(w));
    all.sort();
    all.dedup();
    let start = s.tree.span(d.statements[0]).start;
    let filled = |span: &Span| s.text[span.start..span.end].lines().filter(|l| !l.trim().is_empty()).count();
    let lines = d.spans.iter().map(filled).sum();
    let section = headings.iter().filter(|h| h.span.end <= start).count();
    let long = |n: &NodeId| s.str(*n).lines().count() >= LEAST_DONE;
    let (statements, names, alone) = (d.statements.clone(), d.names.clone(), d.alone);
    let does = statements.iter().any(long);
    Unit { statements, names, lines, words: all, section, alone, does }
}

pub(super) fn singular(word: &str) -> String {
    let plural = word.len() > LEAST_LETTERS && word.ends_with('s') && !word.ends_with("ss");
    word[..word.len() - usize::from(plural)].to_string()
}
