//! Copies that stand side by side: one after the other in one block, with nothing between them.
//!
//! Runs of statements whose shapes come again with a period are found block by block, in one pass for each period. What is
//! left out: statements of one line alone, which read better as they are, and those that differ in members or in what
//! they give a value to, for which no list has a value.

use std::hash::Hasher;

use rustc_hash::{FxHashMap, FxHasher};

use super::facts::{BlockFact, StatementRole, atom};
use super::{Copy, FileFacts, Finding, Kind};

/// Fewer are better off as they are, or with a function.
const FEWEST: usize = 3;
/// Statements of a copy.
const LONGEST_PERIOD: usize = 8;
/// Columns that a row has at most.
const MOST_COLUMNS: usize = 5;
/// A list of more values has a line for each row.
const ON_A_LINE: usize = 8;
/// Share of the words that are equal.
const LEAST_ALIKE: f64 = 0.2;
/// Lines that must go.
const LEAST_SAVED: i64 = 2;

/// Marks those of the known findings that are series, and adds what only a search for them finds.
pub(super) fn found(files: &[FileFacts], known: &mut Vec<(u64, Finding)>) {
    known.iter_mut().for_each(|(_, f)| mark(files, f));
    let mut new: Vec<(u64, Finding)> = Vec::new();
    let listed: Vec<&Copy> =
        known.iter().filter(|(_, f)| f.kind == Kind::Series).flat_map(|(_, f)| &f.copies).collect();
    let mut by_file: FxHashMap<usize, Vec<(u32, u32)>> = FxHashMap::default();
    listed.iter().for_each(|c| by_file.entry(c.file).or_default().push(c.bytes));
    for (file, facts) in files.iter().enumerate() {
        let there = by_file.get(&file).map_or(&[][..], Vec::as_slice);
        for b in &facts.blocks {
            new.extend(runs(facts, file, b).into_iter().filter(|(_, f)| {
                let span = (f.copies[0].bytes.0, f.copies[f.copies.len() - 1].bytes.1);
                !there.iter().any(|c| c.0 < span.1 && span.0 < c.1)
            }));
        }
    }
    // what repeats within one series only is a part of it
    let inside = |c: &Copy| {
        new.iter().position(|(_, f)| {
            let (first, last) = (&f.copies[0], &f.copies[f.copies.len() - 1]);
            c.file == first.file && first.bytes.0 <= c.bytes.0 && c.bytes.1 <= last.bytes.1
        })
    };
    known.retain(|(_, f)| {
        let at = inside(&f.copies[0]);
        at.is_none() || !f.kind.has_copies() || f.copies.iter().any(|c| inside(c) != at)
    });
    known.extend(new);
}

fn mark(files: &[FileFacts], f: &mut Finding) {
    let one_file = f.copies.iter().all(|c| c.file == f.copies[0].file);
    if f.kind != Kind::Repeat || f.copies.len() < FEWEST || !one_file || f.drifted || f.expression > 0 {
        return;
    }
    let mut copies: Vec<Copy> = f.copies.clone();
    copies.sort_by_key(|c| c.bytes);
    let facts = &files[copies[0].file];
    // functions are made one in their own way
    let function = |c: &Copy| facts.functions.iter().any(|x| x.bytes.1 == c.bytes.1 && c.bytes.0 <= x.bytes.0);
    let beside = |w: &[Copy]| next(facts, w[0].bytes.1) == Some(w[1].bytes.0);
    if !copies.windows(2).all(beside) || copies.iter().any(function) {
        return;
    }
    f.kind = Kind::Series;
    f.copies = copies;
    f.saves = f.saves.max(saved(&f.copies, f.holes as usize));
}

/// Where the statement behind the one that ends at a byte begins, in the same block.
fn next(facts: &FileFacts, end: u32) -> Option<u32> {
    facts.blocks.iter().find_map(|b| {
        let own = statements(facts, b);
        let i = own.iter().position(|s| s.bytes.1 == end)?;
        own.get(i + 1).map(|s| s.bytes.0)
    })
}

fn statements<'f>(facts: &'f FileFacts, b: &BlockFact) -> &'f [super::StatementFact] {
    &facts.statements[b.statements.0 as usize..b.statements.1 as usize]
}

/// Lines that a loop and its list would save.
fn saved(copies: &[Copy], columns: usize) -> i64 {
    let of = |c: &Copy| i64::from(c.lines.1 + 1 - c.lines.0);
    let all: i64 = copies.iter().map(of).sum();
    let rows = if columns * copies.len() > ON_A_LINE { copies.len() as i64 + 1 } else { 0 };
    all - of(&copies[0]) - 1 - rows
}

/// Runs of statements whose shapes come again and that a loop can have, the shortest periods first.
fn runs(facts: &FileFacts, file: usize, b: &BlockFact) -> Vec<(u64, Finding)> {
    let own = statements(facts, b);
    let plain = |i: usize| matches!(own[i].role, StatementRole::Plain | StatementRole::Holder);
    let mut out: Vec<(u64, Finding)> = Vec::new();
    let mut covered = vec![false; own.len()];
    for period in 1..=LONGEST_PERIOD.min(own.len() / FEWEST) {
        let same = |i: usize| i + period < own.len() && own[i].shape == own[i + period].shape && plain(i);
        let mut i = 0;
        while i < own.len() {
            let from = i;
            while same(i) {
                i += 1;
            }
            let count = (i - from) / period + 1;
            let range = from..(from + count * period).min(own.len());
            if count >= FEWEST && !range.clone().any(|k| covered[k]) {
                let run = Run { facts, file, from: b.statements.0 as usize + from, period, count };
                if let Some(f) = run.finding() {
                    covered[range].fill(true);
                    out.push((run.content(), f));
                }
            }
            i = i.max(from + 1);
        }
    }
    out
}

struct Run<'f> {
    facts: &'f FileFacts,
    file: usize,
    from: usize,
    period: usize,
    count: usize,
}

impl Run<'_> {
    fn content(&self) -> u64 {
        let mut h = FxHasher::default();
        h.write_usize(self.count);
        self.facts.statements[self.from..self.from + self.period].iter().for_each(|s| h.write_u64(s.shape));
        h.finish()
    }

    fn finding(&self) -> Option<Finding> {
        let s = &self.facts.statements;
        let copy = |k: usize| {
            let (a, z) = (&s[self.from + k * self.period], &s[self.from + (k + 1) * self.period - 1]);
            let bytes = (a.bytes.0, z.bytes.1);
            Copy { file: self.file, lines: (a.lines.0, z.lines.1), bytes, within: self.facts.function_around(bytes) }
        };
        let copies: Vec<Copy> = (0..self.count).map(copy).collect();
        let (columns, alike) = self.columns()?;
        let saves = saved(&copies, columns);
        let lines = super::longest(&copies)?;
        let says_nothing = s[self.from..self.from + self.period].iter().all(|s| s.weight == 0);
        if lines < 2 || saves < LEAST_SAVED || says_nothing {
            return None;
        }
        let (holes, similarity) = (columns as u32, super::rounded(alike));
        // a shape alone says little: it is told where it can be folded
        Some(Finding { kind: Kind::Series, copies, lines, saves, holes, similarity, small: true, ..Finding::default() })
    }

    /// A copy is itself a run of like statements: each gives a variable its value, and no line goes.
    fn is_alike(&self) -> bool {
        let own = &self.facts.statements[self.from..self.from + self.period];
        own.iter().all(|s| s.shape == own[0].shape)
    }

    /// In how many values the copies differ, and the share of words that are equal; none where no value can stand for the
    /// difference.
    fn columns(&self) -> Option<(usize, f64)> {
        let atoms = |k: usize| -> Vec<u32> {
            let own = &self.facts.statements[self.from + k * self.period..self.from + (k + 1) * self.period];
            own.iter().flat_map(|s| &self.facts.atoms[s.atoms.0 as usize..s.atoms.1 as usize]).copied().collect()
        };
        let rows: Vec<Vec<u32>> = (0..self.count).map(atoms).collect();
        if rows.iter().any(|r| r.len() != rows[0].len()) {
            return None;
        }
        let mut columns: Vec<Vec<u32>> = Vec::new();
        let mut own: Vec<u32> = Vec::new();
        let (mut equal, mut value) = (0, false);
        for i in 0..rows[0].len() {
            let column: Vec<u32> = rows.iter().map(|r| r[i]).collect();
            if column.iter().all(|a| *a == column[0]) {
                equal += 1;
                continue;
            }
            match atom::kind(column[0]) {
                atom::MEMBER => return None,
                // what is used nowhere in its copy is used behind them: its values go into a list
                atom::BOUND if self.is_alike() && !used_again(&rows[0], i) => return None,
                atom::BOUND => own.push(atom::hash(column[0])),
                kind => value |= kind == atom::LITERAL || !own.contains(&atom::hash(column[0])),
            }
            let names: Vec<u32> = column.iter().map(|a| atom::hash(*a)).collect();
            if !columns.contains(&names) && !own.contains(&names[0]) {
                columns.push(names);
            }
        }
        let share = equal as f64 / rows[0].len().max(1) as f64;
        (value && !columns.is_empty() && columns.len() <= MOST_COLUMNS && share >= LEAST_ALIKE)
            .then_some((columns.len(), share))
    }
}

/// The name that is bound at a place of a copy stands in it once more.
fn used_again(row: &[u32], at: usize) -> bool {
    let same = |(i, a): (usize, &u32)| i != at && atom::kind(*a) == atom::NAME && atom::hash(*a) == atom::hash(row[at]);
    row.iter().enumerate().any(same)
}
