//! From aligned statements to ranges that are whole: statements of one block on each side, or whole functions.

use super::align::Pairs;
use super::units::Unit;
use crate::find::facts::FileFacts;

/// Share of a statement's weight that must be aligned for it to be the first or last of a range.
const LEAST_AT_END: f32 = 0.45;

/// Share of a function's body from which the whole of it is meant.
const WHOLE: f32 = 0.8;

/// A range of a file, with how much counts in it.
#[derive(Clone, Copy, Debug)]
pub(super) struct Region {
    pub file: u32,
    pub bytes: (u32, u32),
    pub lines: (u32, u32),
    pub weight: u32,
    /// Leaves that are neither data nor plain declarations.
    pub leaves: u32,
    /// Bytes from the first aligned statement to the last, where more is meant.
    pub core: (u32, u32),
}

/// Two ranges, and how alike they are.
pub(super) struct Pair {
    pub a: Region,
    pub b: Region,
    pub alike: f32,
    /// Weight of what is in both.
    pub common: f32,
    /// Statements that only one of the two has.
    pub gaps: usize,
}

/// One side: its unit, and the item of each aligned pair.
struct Side<'a> {
    unit: &'a Unit,
    facts: &'a FileFacts,
    /// By item, how much of its weight is aligned.
    matched: Vec<f32>,
}

impl<'a> Side<'a> {
    fn new(unit: &'a Unit, facts: &'a FileFacts, items: impl Iterator<Item = (usize, f32)>) -> Side<'a> {
        let mut matched = vec![0.0; unit.items.len()];
        items.for_each(|(i, alike)| matched[i] = alike * unit.items[i].weight as f32);
        Side { unit, facts, matched }
    }

    fn weight(&self, from: usize, to: usize) -> u32 {
        self.unit.items[from..to].iter().map(|i| i.weight).sum()
    }

    fn matched(&self, from: usize, to: usize) -> f32 {
        self.matched[from..to].iter().sum()
    }

    /// The statements of one block that hold the aligned items between two: the first, and behind the last.
    fn run(&self, first: usize, last: usize) -> Option<(usize, usize)> {
        let items = &self.unit.items;
        let depth = |i: usize| std::iter::successors(items[i].parent, |p| items[*p as usize].parent).count();
        let top = (first..=last).filter(|i| self.matched[*i] > 0.0).min_by_key(|i| depth(*i))?;
        let level = depth(top);
        let climb = |i: usize| {
            let up = depth(i).saturating_sub(level);
            (0..up).fold(i, |i, _| items[i].parent.map_or(i, |p| p as usize))
        };
        let block = items[top].block;
        let inside: Vec<usize> = (climb(first)..=climb(last)).filter(|i| items[*i].block == block).collect();
        let fits = |i: &usize| {
            let end = items[*i].end as usize;
            self.matched(*i, end) >= LEAST_AT_END * self.weight(*i, end) as f32
        };
        let a = inside.iter().position(&fits)?;
        let z = inside.iter().rposition(fits)?;
        let run = &inside[a..=z];
        run.iter().all(|i| items[*i].plain).then_some((run[0], items[run[run.len() - 1]].end as usize))
    }

    /// The function around such statements, when they are nearly all of its body.
    fn function(&self, run: (usize, usize)) -> Option<Region> {
        let items = &self.unit.items;
        let block = &self.facts.blocks[items[run.0].block as usize];
        let f = &self.facts.functions[block.within? as usize];
        let (a, z) = (block.statements.0 as usize, block.statements.1 as usize - 1);
        let body = (self.facts.statements[a].bytes.0, self.facts.statements[z].bytes.1);
        let all: u32 = items.iter().filter(|i| self.is_in(i, f.bytes)).map(|i| i.weight).sum();
        let own = self.weight(run.0, run.1);
        let whole = own as f32 >= WHOLE * all as f32 && self.is_body(f.bytes, body);
        whole.then(|| Region { bytes: f.bytes, lines: f.lines, ..self.statements(run) })
    }

    fn is_in(&self, item: &super::units::Item, bytes: (u32, u32)) -> bool {
        let own = self.facts.statements[item.statement as usize].bytes;
        bytes.0 < own.0 && own.1 <= bytes.1
    }

    /// The statements themselves.
    fn statements(&self, (from, to): (usize, usize)) -> Region {
        let items = &self.unit.items;
        let fact = |i: usize| &self.facts.statements[items[i].statement as usize];
        let last = (from..to).rev().find(|i| items[*i].block == items[from].block).unwrap_or(from);
        let bytes = (fact(from).bytes.0, fact(last).bytes.1);
        let lines = (fact(from).lines.0, fact(last).lines.1);
        let top = (from..to).filter(|i| items[*i].block == items[from].block);
        let leaves = top.map(|i| fact(i).weight).sum();
        Region { file: self.unit.file, bytes, lines, weight: self.weight(from, to), leaves, core: bytes }
    }

    /// No statement of the function stands before or behind these.
    fn is_body(&self, function: (u32, u32), body: (u32, u32)) -> bool {
        let before =
            |i: &super::units::Item| self.is_in(i, function) && !self.is_in(i, (body.0.saturating_sub(1), body.1));
        !self.unit.items.iter().any(before)
    }
}

/// The ranges of an alignment; none where no whole statements of one block hold it.
pub(super) fn regions(a: (&Unit, &FileFacts), b: (&Unit, &FileFacts), pairs: &Pairs) -> Option<Pair> {
    let left = Side::new(a.0, a.1, pairs.iter().map(|(i, _, s)| (*i, *s)));
    let right = Side::new(b.0, b.1, pairs.iter().map(|(_, j, s)| (*j, *s)));
    let mut held = pairs.clone();
    // what one side does not hold goes from the other
    for _ in 0..3 {
        let ((i, j, _), (k, l, _)) = (*held.first()?, *held.last()?);
        let (x, y) = (left.run(i, k)?, right.run(j, l)?);
        let before = held.len();
        held.retain(|(i, j, _)| x.0 <= *i && *i < x.1 && y.0 <= *j && *j < y.1);
        if held.len() == before {
            let whole = left.function(x).zip(right.function(y));
            let (p, q) = whole.unwrap_or_else(|| (left.statements(x), right.statements(y)));
            let common: f32 =
                held.iter().map(|(i, j, s)| s * a.0.items[*i].weight.min(b.0.items[*j].weight) as f32).sum();
            let gaps = (x.1 - x.0 - held.len()) + (y.1 - y.0 - held.len());
            let alike = 2.0 * common / (p.weight + q.weight).max(1) as f32;
            return Some(Pair { a: p, b: q, alike, common, gaps });
        }
    }
    None
}
