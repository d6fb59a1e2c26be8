//! Pairs of ranges that lie over each other are one group.

use rustc_hash::FxHashMap;

use super::regions::{Pair, Region};
use crate::find::facts::FileFacts;
use crate::find::repeats::saves;
use crate::find::{Copy, Finding, Kind, Options, rounded};
use crate::tree::mix;

/// Share of two ranges that must be common for them to be the same place.
const SAME_PLACE: f64 = 0.7;

/// How alike two ranges are that make two groups one.
const STRONG: f32 = 0.65;

/// Share of a copy that must lie in one of another finding for it to be told already.
const TOLD: f64 = 0.9;

fn common(a: (u32, u32), b: (u32, u32)) -> f64 {
    f64::from(a.1.min(b.1).saturating_sub(a.0.max(b.0)))
}

fn is_same_place(a: &Region, b: &Region) -> bool {
    let all = f64::from(a.bytes.1.max(b.bytes.1) - a.bytes.0.min(b.bytes.0));
    a.file == b.file && common(a.bytes, b.bytes) >= SAME_PLACE * all
}

/// Places: ranges that are nearly the same are one, with the range that its best pair has.
struct Places {
    all: Vec<Region>,
    by_file: FxHashMap<u32, Vec<usize>>,
    /// The group of each, as a forest, and how many it has.
    up: Vec<usize>,
    sizes: Vec<usize>,
}

impl Places {
    fn of(&mut self, r: &Region) -> usize {
        let here = self.by_file.entry(r.file).or_default();
        if let Some(p) = here.iter().find(|p| is_same_place(&self.all[**p], r)) {
            return *p;
        }
        here.push(self.all.len());
        self.up.push(self.all.len());
        self.sizes.push(1);
        self.all.push(*r);
        self.all.len() - 1
    }

    fn root(&mut self, mut p: usize) -> usize {
        while self.up[p] != p {
            self.up[p] = self.up[self.up[p]];
            p = self.up[p];
        }
        p
    }
}

pub(super) fn groups(
    files: &[FileFacts],
    options: &Options,
    mut pairs: Vec<Pair>,
    known: &[(u64, Finding)],
) -> Vec<(u64, Finding)> {
    let order = |p: &Pair| (p.a.file, p.a.bytes, p.b.file, p.b.bytes);
    pairs.sort_by(|p, q| (q.alike * q.common).total_cmp(&(p.alike * p.common)).then_with(|| order(p).cmp(&order(q))));
    let told = Told::new(files.len(), known);
    pairs.retain(|p| !told.has(p));
    let mut places = Places { all: Vec::new(), by_file: FxHashMap::default(), up: Vec::new(), sizes: Vec::new() };
    let ends: Vec<(usize, usize)> = pairs.iter().map(|p| (places.of(&p.a), places.of(&p.b))).collect();
    // the best pairs first: a weak one adds a place to a group, but makes no two groups one
    for (p, (a, b)) in pairs.iter().zip(&ends) {
        let (a, b) = (places.root(*a), places.root(*b));
        let alone = places.sizes[a] == 1 || places.sizes[b] == 1;
        if a != b && (alone || p.alike >= STRONG) {
            places.up[a.max(b)] = a.min(b);
            places.sizes[a.min(b)] += places.sizes[a.max(b)];
        }
    }
    let mut members: FxHashMap<usize, (Vec<usize>, f32, usize)> = FxHashMap::default();
    for p in 0..places.all.len() {
        let root = places.root(p);
        members.entry(root).or_insert((Vec::new(), 1.0, 0)).0.push(p);
    }
    for (p, (a, b)) in pairs.iter().zip(&ends) {
        let root = places.root(*a);
        if root != places.root(*b) {
            continue;
        }
        let group = members.get_mut(&root).expect("each place has a root");
        group.1 = group.1.min(p.alike);
        group.2 = group.2.max(p.gaps);
    }
    let mut roots: Vec<usize> = members.keys().copied().collect();
    roots.sort_unstable();
    let finding = |root: usize| {
        let (list, alike, gaps) = &members[&root];
        let regions: Vec<Region> = list.iter().map(|p| places.all[*p]).collect();
        finding(files, options, regions, *alike, *gaps)
    };
    roots.into_iter().filter_map(finding).collect()
}

/// Copies of findings that are there, by file.
struct Told(Vec<Vec<((u32, u32), usize)>>);

impl Told {
    fn new(files: usize, known: &[(u64, Finding)]) -> Told {
        let mut by_file = vec![Vec::new(); files];
        for (k, (_, f)) in known.iter().enumerate() {
            f.copies.iter().for_each(|c| by_file[c.file].push((c.bytes, k)));
        }
        Told(by_file)
    }

    fn around(&self, r: &Region) -> Vec<usize> {
        let own = f64::from(r.core.1 - r.core.0);
        let inside = |(b, _): &&((u32, u32), usize)| common(*b, r.core) >= TOLD * own;
        self.0[r.file as usize].iter().filter(inside).map(|x| x.1).collect()
    }

    fn has(&self, p: &Pair) -> bool {
        let (x, y) = (self.around(&p.a), self.around(&p.b));
        x.iter().any(|k| y.contains(k))
    }
}

fn finding(
    files: &[FileFacts],
    options: &Options,
    mut regions: Vec<Region>,
    alike: f32,
    gaps: usize,
) -> Option<(u64, Finding)> {
    // of those that overlap the first, which has the best pair
    let mut free: Vec<Region> = Vec::new();
    for r in regions.drain(..) {
        if !free.iter().any(|o| o.file == r.file && common(o.bytes, r.bytes) > 0.0) {
            free.push(r);
        }
    }
    if free.len() < 2 {
        return None;
    }
    free.sort_by(|a, b| (&files[a.file as usize].path, a.bytes).cmp(&(&files[b.file as usize].path, b.bytes)));
    let mut heights = free.iter().map(|r| r.lines.1 + 1 - r.lines.0);
    let (longest, saves) = (heights.clone().max().unwrap_or(0), saves(heights.clone()));
    let small = free.iter().any(|r| r.weight < options.smallest) || heights.any(|h| h < options.fewest_lines);
    let content = free.iter().map(|r| content(&files[r.file as usize], r.bytes)).min()?;
    let finding = Finding {
        kind: Kind::Repeat,
        copies: free.iter().map(|r| copy(files, r)).collect(),
        lines: longest,
        saves,
        similarity: rounded(f64::from(alike.min(1.0))),
        small,
        near: true,
        drifted: gaps > 0,
        ..Finding::default()
    };
    Some((content, finding))
}

/// Hash of the statements in a range.
fn content(f: &FileFacts, bytes: (u32, u32)) -> u64 {
    let inside = f.statements.iter().filter(|s| bytes.0 <= s.bytes.0 && s.bytes.1 <= bytes.1);
    inside.fold(2u64, |h, s| mix(h.rotate_left(7) ^ s.exact))
}

fn copy(files: &[FileFacts], r: &Region) -> Copy {
    let within = files[r.file as usize].function_around(r.bytes);
    Copy { file: r.file as usize, lines: r.lines, bytes: r.bytes, within }
}
