//! Groups of copies of statement sequences and of whole functions.
//!
//! Each block of each file is a run of symbols, a symbol being the hash of a statement's shape or, in further passes, of
//! its exact content or of its skeleton (values left out); a suffix array gives all maximal repeats. A repeat is then cut
//! into clusters whose members agree with a representative: few holes, a consistent renaming of what the copies bind
//! themselves, enough in common. Last, groups that lie inside others and add no copy are dropped.
//!
//! Groups that go on behind a statement which some copies lack are put together by [`super::gaps`]; misses copies with
//! more of them when neither side is large enough by itself.

use std::collections::BTreeMap;

use rustc_hash::{FxHashMap, FxHashSet};

use super::facts::{FileFacts, StatementFact, StatementRole, atom};
use super::rows::Rows;
use super::suffix::{right_maximal, suffixes};
use super::{Copy, Finding, Kind, Options, rounded};

/// More holes than a readable function has parameters make no finding.
pub(super) const MOST_HOLES: usize = 7;
/// Lines of small copies in several files.
const FEWEST_LINES_APART: u32 = 4;
/// What a function must do at least: one that only keeps a value or gives it back is no copy of another.
const LEAST_BODY: u32 = 3;
/// Of a small group.
const MOST_HOLES_SMALL: usize = 3;
/// More statements with foreign values are other code.
const MOST_FOREIGN: usize = 2;
/// Comparisons in one group: a shape that hundreds of places share is an idiom, and its last clusters are noise.
const MOST_COMPARISONS: usize = 3000;
/// On the average, of all that is compared.
const COMPARISONS_A_STATEMENT: usize = 60;
/// Nobody looks at more of one file; it is made by a program.
const MOST_GROUPS_A_FILE: usize = 2000;
/// Statements of a row of equal ones, or of a few that repeat, that are looked at.
const LONGEST_ROW: usize = 200;
/// Statements that may be left out at the ends of a repeat whose places do not agree.
const SHORTER: u32 = 1;
/// Of a shape that more places share, the parts are found by themselves.
const MOST_ALONE: usize = 40;
/// Least share of leaves that are equal or renamed.
const LEAST_SIMILAR: f64 = 0.75;

/// A run of statements: file, index of the first, number.
#[derive(Clone, Copy, PartialEq, Eq, Hash)]
pub(super) struct Run {
    pub file: u32,
    pub first: u32,
    pub len: u32,
}

pub(super) struct Group {
    pub runs: Vec<Run>,
    pub holes: usize,
    pub similarity: f64,
}

pub fn repeats(files: &[FileFacts], options: &Options) -> Vec<(u64, Finding)> {
    let finder = Finder { files, options };
    let (mut groups, (exact, loose)) = rayon::join(
        || finder.candidates(|s| s.shape, 0),
        || rayon::join(|| finder.candidates(|s| s.exact, 0), || finder.candidates(|s| s.skeleton, SHORTER)),
    );
    groups.extend(exact);
    groups.extend(loose);
    let mut kept = finder.drop_covered(groups);
    let across = finder.across_gaps(&kept);
    if !across.is_empty() {
        kept.extend(across);
        kept = finder.drop_covered(kept);
    }
    kept.into_iter().map(|g| finder.finding(g)).collect()
}

/// Two runs laid over each other.
struct Paired {
    /// Where the atoms of the first begin.
    base: u32,
    /// Place among the atoms of the first, and the two atoms.
    atoms: Vec<(usize, u32, u32)>,
    /// Statements whose values have different shapes.
    foreign: usize,
    foreign_weight: usize,
}

/// Which places of the representative have had equal cells in all copies so far: such places are one hole.
#[derive(Clone)]
pub(super) struct Columns {
    class: Vec<u32>,
    differs: Vec<bool>,
}

impl Columns {
    pub fn new(atoms: &[u32]) -> Columns {
        Columns { class: atoms.iter().map(|a| atom::hash(*a)).collect(), differs: vec![false; atoms.len()] }
    }

    /// With the cells of one more copy: place, the representative's atom, the copy's cell.
    fn with(&self, cells: &[(usize, u32, u32)]) -> Columns {
        let mut out = self.clone();
        let mut number: FxHashMap<(u32, u32), u32> = FxHashMap::default();
        for (i, x, cell) in cells {
            let next = number.len() as u32;
            out.class[*i] = *number.entry((self.class[*i], *cell)).or_insert(next);
            out.differs[*i] |= *cell != atom::hash(*x);
        }
        out
    }

    fn holes(&self) -> usize {
        let different = self.class.iter().zip(&self.differs).filter(|(_, d)| **d);
        different.map(|(c, _)| c).collect::<FxHashSet<_>>().len()
    }
}

/// Which name of one run another has for each. A run has few: they are looked through.
#[derive(Default)]
struct Renamed(Vec<(u32, u32)>);

impl Renamed {
    fn get(&self, from: u32) -> Option<u32> {
        self.0.iter().find(|(x, _)| *x == from).map(|(_, y)| *y)
    }

    /// What it has been told of a name before, else this.
    fn put(&mut self, from: u32, to: u32) -> u32 {
        self.get(from).unwrap_or_else(|| {
            self.0.push((from, to));
            to
        })
    }
}

/// Ranges of files that do not overlap: start → end.
#[derive(Clone, Default)]
struct Ground(BTreeMap<(u32, u32), u32>);

impl Ground {
    /// Whether a range lies in one of those taken.
    fn covers(&self, file: u32, (start, end): (u32, u32)) -> bool {
        let from = self.0.range(..=(file, start)).next_back();
        from.is_some_and(|((f, _), z)| *f == file && end <= *z)
    }

    /// Takes a range, unless it overlaps one that is taken.
    fn take(&mut self, file: u32, (start, end): (u32, u32)) -> bool {
        // those taken are disjoint: the last one that begins before the end reaches farthest
        let before = self.0.range(..(file, end)).next_back();
        let free = before.is_none_or(|((f, _), z)| *f != file || *z <= start);
        if free {
            self.0.insert((file, start), end);
        }
        free
    }
}

/// Lines that go when copies of so many become calls of one function: its body and its header stay, and a line a call.
pub(super) fn saves(heights: impl Iterator<Item = u32> + Clone) -> i64 {
    let longest = heights.clone().max().unwrap_or(0);
    heights.map(|n| i64::from(n) - 1).sum::<i64>() - i64::from(longest) - 1
}

/// What goes on in a row says nothing more: a symbol of its own ends it.
fn cut_rows(symbols: &mut [u32], real: u32) {
    let mut fresh = symbols.iter().copied().max().unwrap_or(real).max(real) + 1;
    for period in 1..=3 {
        let mut length = 0;
        for i in period..symbols.len() {
            length = if symbols[i] == symbols[i - period] { length + 1 } else { 0 };
            if length > LONGEST_ROW {
                symbols[i] = fresh;
                fresh += 1;
                length = 0;
            }
        }
    }
}

pub(super) struct Finder<'a> {
    pub files: &'a [FileFacts],
    pub options: &'a Options,
}

impl Finder<'_> {
    fn statements(&self, run: Run) -> &[StatementFact] {
        &self.files[run.file as usize].statements[run.first as usize..][..run.len as usize]
    }

    pub(super) fn weight(&self, run: Run) -> u32 {
        self.statements(run).iter().map(|s| s.weight).sum()
    }

    fn bytes(&self, run: Run) -> (u32, u32) {
        let s = self.statements(run);
        (s[0].bytes.0, s[s.len() - 1].bytes.1)
    }

    fn lines(&self, run: Run) -> (u32, u32) {
        let s = self.statements(run);
        (s[0].lines.0, s[s.len() - 1].lines.1)
    }

    pub(super) fn atoms(&self, run: Run) -> &[u32] {
        let s = self.statements(run);
        &self.files[run.file as usize].atoms[s[0].atoms.0 as usize..s[s.len() - 1].atoms.1 as usize]
    }

    fn height(&self, run: Run) -> u32 {
        let (a, z) = self.lines(run);
        z + 1 - a
    }

    fn code_lines(&self, run: Run) -> u32 {
        self.statements(run).iter().map(|s| s.code_lines).sum()
    }

    /// Of what a function does: its head says what it is called with.
    fn body_weight(&self, function: Run) -> u32 {
        let s = &self.statements(function)[0];
        self.blocks_in(function.file, s).iter().map(|b| self.weight(*b)).sum()
    }

    /// Each of them is a function.
    fn are_functions(&self, g: &Group) -> bool {
        g.runs.iter().all(|r| r.len == 1 && self.statements(*r)[0].role == StatementRole::Definition)
    }

    /// Large enough for a copy, whatever the others are.
    fn useful(&self, run: Run) -> bool {
        self.height(run) >= self.options.fewest_lines.min(2)
            && self.weight(run) >= self.options.least(self.options.smallest_near)
    }

    fn is_large(&self, g: &Group) -> bool {
        let large = |r: &Run| self.height(*r) >= self.options.fewest_lines && self.weight(*r) >= self.options.smallest;
        g.runs.iter().all(large)
    }

    /// Whether people would want to hear of a group: it is large, or it is alike, and shorter as one function.
    fn is_worth_a_line(&self, g: &Group) -> bool {
        let functions = self.are_functions(g);
        // a person may point at what does little
        let asked_for = self.options.fewest_lines < Options::default().fewest_lines;
        if functions && !asked_for && g.runs.iter().any(|r| self.body_weight(*r) < LEAST_BODY) {
            return false;
        }
        if self.is_large(g) {
            return true;
        }
        // lines that say little, such as those that every file must begin with and the one that closes it, do not make it
        // one
        let dense = g.runs.iter().all(|r| self.weight(*r) > self.code_lines(*r) + 1);
        // two lines that many files have are how one writes
        let near = g.runs.iter().all(|r| r.file == g.runs[0].file);
        let fewest = if g.holes == 0 && functions { self.options.fewest_lines } else { FEWEST_LINES_APART };
        let says_something = near || dense && g.runs.iter().all(|r| self.height(*r) >= fewest);
        says_something && g.holes <= MOST_HOLES_SMALL && saves(g.runs.iter().map(|r| self.height(*r))) > 0
    }

    /// Repeats under one way to hash a statement.
    fn candidates(&self, hash: impl Fn(&StatementFact) -> u64 + Sync, shorter: u32) -> Vec<Group> {
        let (mut symbols, places, real) = self.symbols(hash);
        cut_rows(&mut symbols, real);
        let s = suffixes(&symbols);
        let content = |i: usize| {
            let statement = || self.statements(places[i])[0].exact;
            if symbols[i] < real { (statement(), 0) } else { (0, symbols[i]) }
        };
        let rows = Rows::of(&(0..symbols.len()).map(content).collect::<Vec<_>>());
        let mut groups = Vec::new();
        // code in which everything is like everything else must not take all day
        let mut left = COMPARISONS_A_STATEMENT * symbols.len() + MOST_COMPARISONS;
        right_maximal(&s, |len, range| {
            let at = |i: usize| s.sorted[i] as usize;
            let run = |i: usize| Run { len, ..places[at(i)] };
            if !self.useful(run(range.start)) {
                return;
            }
            let before = |i: usize| at(i).checked_sub(1).map(|p| symbols[p]);
            let first = before(range.start);
            let extendable = first.is_some_and(|f| f < real) && range.clone().all(|i| before(i) == first);
            if extendable {
                return;
            }
            // of each row one stretch
            let mut places: Vec<usize> = range.collect();
            places.sort_unstable_by_key(|i| at(*i));
            places.dedup_by_key(|i| rows.begin(at(*i), len as usize));
            let runs: Vec<Run> = places.into_iter().map(run).collect();
            if runs.first().is_some_and(|r| self.weight(*r) >= self.options.smallest) {
                return self.cluster(runs, shorter, &mut left, &mut groups);
            }
            if shorter > 0 {
                return;
            }
            // small ones count where they are alike and shorter as one function
            if saves(runs.iter().map(|r| self.height(*r))) > 0 {
                self.cluster(runs, shorter, &mut left, &mut groups);
            }
        });
        groups
    }

    /// The blocks as one sequence of numbers below `real`, with numbers of their own between the runs.
    fn symbols(&self, hash: impl Fn(&StatementFact) -> u64) -> (Vec<u32>, Vec<Run>, u32) {
        let mut number: FxHashMap<u64, u32> = FxHashMap::default();
        let mut rows: Vec<(Option<u64>, Run)> = Vec::new();
        for (fi, f) in self.files.iter().enumerate() {
            // the kinds of two grammars are not the same things
            let language = u64::from(super::word_hash(&f.language));
            for b in &f.blocks {
                for i in b.statements.0..b.statements.1 {
                    let s = &f.statements[i as usize];
                    let run = Run { file: fi as u32, first: i, len: 1 };
                    if s.role != StatementRole::Plain {
                        rows.push((None, run));
                    }
                    if !matches!(s.role, StatementRole::Barrier | StatementRole::Holder) {
                        rows.push((Some(hash(s) ^ language), run));
                    }
                    if s.role == StatementRole::Definition {
                        rows.push((None, run));
                    }
                }
                rows.push((None, Run { file: fi as u32, first: b.statements.0, len: 1 }));
            }
        }
        for (h, _) in &rows {
            if let Some(h) = h {
                let next = number.len() as u32;
                number.entry(*h).or_insert(next);
            }
        }
        let real = number.len() as u32;
        let mut fresh = real;
        let symbols = rows
            .iter()
            .map(|(h, _)| match h {
                Some(h) => number[h],
                None => {
                    fresh += 1;
                    fresh - 1
                }
            })
            .collect();
        (symbols, rows.into_iter().map(|r| r.1).collect(), real)
    }

    /// Of a row of like statements, runs that do not overlap, from the left; most frequent exact content first, so that true
    /// copies find each other.
    fn put_in_order(&self, runs: &mut Vec<Run>) {
        runs.sort_unstable_by_key(|r| (r.file, r.first));
        let mut last: Option<Run> = None;
        runs.retain(|r| {
            let free = last.is_none_or(|l| l.file != r.file || r.first >= l.first + l.len);
            if free {
                last = Some(*r);
            }
            free
        });
        if runs.len() < 2 {
            return;
        }
        let content = |r: &Run| self.statements(*r).iter().fold(0u64, |h, s| crate::tree::mix(h ^ s.exact));
        let contents: FxHashMap<(u32, u32), u64> = runs.iter().map(|r| ((r.file, r.first), content(r))).collect();
        let exact = |r: &Run| contents[&(r.file, r.first)];
        let mut counts: FxHashMap<u64, usize> = FxHashMap::default();
        for r in runs.iter() {
            *counts.entry(exact(r)).or_default() += 1;
        }
        runs.sort_by_cached_key(|r| {
            let e = exact(r);
            let path = &self.files[r.file as usize].path;
            (std::cmp::Reverse(counts[&e]), if counts[&e] > 1 { e } else { 0 }, path, r.first)
        });
    }

    /// Cuts runs of one shape into groups that agree; what agrees with none may do so without its ends, `shorter` times.
    fn cluster(&self, mut runs: Vec<Run>, shorter: u32, left: &mut usize, out: &mut Vec<Group>) {
        self.put_in_order(&mut runs);
        let place = |r: &Run| (&self.files[r.file as usize].path, r.first);
        let most = MOST_COMPARISONS.min(*left);
        let mut budget = most;
        let mut alone: Vec<Run> = Vec::new();
        while runs.len() > 1 && budget > 0 {
            budget = budget.saturating_sub(runs.len());
            let first = runs[0];
            let mut taken = vec![first];
            let mut ground = Ground::default();
            ground.take(first.file, self.bytes(first));
            let mut columns = Columns::new(self.atoms(first));
            let (mut holes, mut similarity) = (0, 1.0f64);
            let mut rest = Vec::new();
            for r in runs.drain(1..) {
                match self.agree(first, r, &columns) {
                    Some((h, s, wider)) if ground.take(r.file, self.bytes(r)) => {
                        holes = holes.max(h);
                        similarity = similarity.min(s);
                        columns = wider;
                        taken.push(r);
                    }
                    _ => rest.push(r),
                }
            }
            taken.sort_by_key(place);
            let group = Group { runs: taken, holes, similarity };
            if group.runs.len() > 1 && group.runs.iter().all(|r| self.useful(*r)) && self.is_worth_a_line(&group) {
                out.push(group);
            } else {
                alone.push(first);
            }
            runs = rest;
        }
        *left -= most - budget;
        alone.extend(runs);
        if alone.len() > 1 && alone.len() <= MOST_ALONE && alone[0].len > 2 && shorter > 0 {
            for from in 0..2 {
                let cut = |r: &Run| Run { first: r.first + from, len: r.len - 1, ..*r };
                self.cluster(alone.iter().map(cut).filter(|r| self.useful(*r)).collect(), shorter - 1, left, out);
            }
        }
    }

    /// Whether no two of some runs lie over each other.
    pub(super) fn apart(&self, runs: &[Run]) -> bool {
        let mut ground = Ground::default();
        runs.iter().all(|r| ground.take(r.file, self.bytes(*r)))
    }

    /// Holes of the group so far with `r` in it, and the similarity of `r` to the representative, if that is enough.
    pub(super) fn agree(&self, first: Run, r: Run, columns: &Columns) -> Option<(usize, f64, Columns)> {
        let pair = self.pair_up(first, r)?;
        let total = (self.weight(first) as usize).max(pair.atoms.len());
        let is_similar = |different: usize| 1.0 - different as f64 / total as f64 >= LEAST_SIMILAR;
        // most are told apart by what no renaming changes
        let named = |x: u32| atom::kind(x) == atom::NAME || atom::kind(x) == atom::BOUND;
        let fixed = pair.atoms.iter().filter(|(_, x, y)| !named(*x) && atom::hash(*x) != atom::hash(*y)).count();
        if !is_similar(fixed + pair.foreign_weight) {
            return None;
        }
        let (mut forth, mut back) = (Renamed::default(), Renamed::default());
        for (x, y) in pair.atoms.iter().map(|(_, x, y)| (x, y)).filter(|(x, _)| atom::kind(**x) == atom::BOUND) {
            let (x, y) = (atom::hash(*x), atom::hash(*y));
            if forth.put(x, y) != y || back.put(y, x) != x {
                return None;
            }
        }
        let mut different = pair.foreign_weight;
        let mut cells = Vec::new();
        for (i, x, y) in &pair.atoms {
            let renamed = named(*x) && forth.get(atom::hash(*x)) == Some(atom::hash(*y));
            let cell = if renamed { atom::hash(*x) } else { atom::hash(*y) };
            different += usize::from(cell != atom::hash(*x));
            cells.push((*i, *x, cell));
        }
        let similarity = 1.0 - different as f64 / total as f64;
        if !is_similar(different) {
            return None;
        }
        let wider = columns.with(&cells);
        let holes = wider.holes() + pair.foreign;
        (holes <= MOST_HOLES).then_some((holes, similarity, wider))
    }

    /// Lays two runs over each other, statement by statement. Where shapes differ a value of one is a hole of both.
    fn pair_up(&self, first: Run, r: Run) -> Option<Paired> {
        let mut out =
            Paired { base: self.statements(first)[0].atoms.0, atoms: Vec::new(), foreign: 0, foreign_weight: 0 };
        self.pair_statements(first, r, &mut out).then_some(out)
    }

    fn pair_statements(&self, first: Run, r: Run, out: &mut Paired) -> bool {
        let (a, b) = (self.statements(first), self.statements(r));
        a.len() == b.len() && a.iter().zip(b).all(|(x, y)| self.pair_statement(first.file, x, r.file, y, out))
    }

    fn pair_statement(&self, f: u32, x: &StatementFact, g: u32, y: &StatementFact, out: &mut Paired) -> bool {
        let (xs, ys) = (self.of_statement(f, x), self.of_statement(g, y));
        if x.shape == y.shape && xs.len() == ys.len() {
            let at = (x.atoms.0 - out.base) as usize;
            out.atoms.extend(xs.iter().zip(ys).enumerate().map(|(i, (p, q))| (at + i, *p, *q)));
            return true;
        }
        let simple = |s: &StatementFact| s.header == s.shape && s.lines.0 == s.lines.1;
        if simple(x) && simple(y) {
            out.foreign += 1;
            out.foreign_weight += x.weight as usize;
            return out.foreign <= MOST_FOREIGN;
        }
        // the difference may lie in one statement of a block inside
        let (inner, other) = (self.blocks_in(f, x), self.blocks_in(g, y));
        if inner.len() != other.len() {
            return false;
        }
        let nested: u32 = inner.iter().map(|r| self.weight(*r)).sum();
        if inner.is_empty() || x.header != y.header {
            out.foreign += 1;
            out.foreign_weight += x.weight.saturating_sub(nested) as usize;
        }
        out.foreign <= MOST_FOREIGN && inner.iter().zip(&other).all(|(p, q)| self.pair_statements(*p, *q, out))
    }

    /// The outermost blocks in a statement, as runs.
    fn blocks_in(&self, file: u32, s: &StatementFact) -> Vec<Run> {
        let f = &self.files[file as usize];
        let start = |i: u32| f.statements[i as usize].bytes.0;
        let mut out: Vec<Run> = Vec::new();
        let mut until = s.bytes.0;
        // blocks are in the order in which they begin
        let from = f.blocks.partition_point(|b| start(b.statements.0) <= s.bytes.0);
        for b in f.blocks[from..].iter().take_while(|b| start(b.statements.0) < s.bytes.1) {
            let end = f.statements[b.statements.1 as usize - 1].bytes.1;
            if start(b.statements.0) >= until {
                until = end;
                out.push(Run { file, first: b.statements.0, len: b.statements.1 - b.statements.0 });
            }
        }
        out
    }

    fn of_statement(&self, file: u32, s: &StatementFact) -> &[u32] {
        &self.files[file as usize].atoms[s.atoms.0 as usize..s.atoms.1 as usize]
    }

    /// Widest first; a group whose copies all lie in copies of one wider group says nothing new.
    fn drop_covered(&self, mut groups: Vec<Group>) -> Vec<Group> {
        groups.sort_by_cached_key(|g| {
            let w: u32 = g.runs.iter().map(|r| self.bytes(*r).1 - self.bytes(*r).0).sum();
            (std::cmp::Reverse(w / g.runs.len() as u32), std::cmp::Reverse(g.runs.len()))
        });
        let mut kept: Vec<Group> = Vec::new();
        // the places of each group in a file, which do not overlap
        let mut by_file: Vec<Vec<(u32, Ground)>> = vec![Vec::new(); self.files.len()];
        for g in groups {
            let around = |r: &Run| -> FxHashSet<u32> {
                let covers = |(k, ground): &(u32, Ground)| ground.covers(r.file, self.bytes(*r)).then_some(*k);
                by_file[r.file as usize].iter().filter_map(covers).collect()
            };
            let mut common = around(&g.runs[0]);
            for r in &g.runs[1..] {
                if common.is_empty() {
                    break;
                }
                let here = around(r);
                common.retain(|k| here.contains(k));
            }
            if !common.is_empty() || by_file[g.runs[0].file as usize].len() >= MOST_GROUPS_A_FILE {
                continue;
            }
            for r in &g.runs {
                let (own, here) = (kept.len() as u32, &mut by_file[r.file as usize]);
                if here.last().is_none_or(|l| l.0 != own) {
                    here.push((own, Ground::default()));
                }
                here.last_mut().expect("just put").1.take(r.file, self.bytes(*r));
            }
            kept.push(g);
        }
        kept
    }

    fn finding(&self, g: Group) -> (u64, Finding) {
        let content = g
            .runs
            .iter()
            .map(|r| self.statements(*r).iter().fold(1u64, |h, s| crate::tree::mix(h.rotate_left(7) ^ s.exact)))
            .min()
            .unwrap_or(0);
        let copies: Vec<Copy> = g.runs.iter().map(|r| self.copy(*r)).collect();
        let spans = copies.iter().map(|c| (c.lines.1 + 1).saturating_sub(c.lines.0));
        let longest = spans.clone().max().unwrap_or(0);
        let saves = saves(spans);
        let finding = Finding {
            kind: Kind::Repeat,
            copies,
            lines: longest,
            saves,
            holes: g.holes as u32,
            similarity: rounded(g.similarity),
            small: !self.is_large(&g),
            ..Finding::default()
        };
        (content, finding)
    }

    fn copy(&self, r: Run) -> Copy {
        let bytes = self.bytes(r);
        let within = self.files[r.file as usize].function_around(bytes);
        Copy { file: r.file as usize, lines: self.lines(r), bytes, within }
    }
}
