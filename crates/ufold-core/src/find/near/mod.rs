//! Near-copies: code that is alike with statements added, left out, changed or in another order.
//!
//! Each function is a row of statements without the blocks in them. Rows that share rare pieces (a statement with its names,
//! two or three in turn by their shape) are laid over each other; what lies well is a pair of ranges, and pairs that lie
//! over each other are a group. Pieces that many rows have say nothing and are left out, so that no two rows are compared
//! only because they use what everybody uses: near linear in the number of rows. What is missed: copies of which every
//! statement was changed, and families of more than [`MOST_ROWS`] that have nothing rarer in common.

mod align;
mod groups;
mod regions;
mod units;

use rayon::prelude::*;
use rustc_hash::FxHashMap;

use self::regions::{Pair, regions};
use self::units::Unit;
use super::facts::FileFacts;
use super::{Finding, Options};

/// Rows that a piece may be in and still tell something.
const MOST_ROWS: usize = 24;

/// Pieces that two rows must share to be looked at, when one of them is as short as that; of longer ones more.
const LEAST_SHARED: u32 = 2;
const SHORT: usize = 8;

/// Rows that one row is compared with, those with most in common.
const MOST_PARTNERS: usize = 16;

/// What two ranges must have in common: weight, and share of both; of small ones more.
const LEAST_COMMON: f32 = 9.0;
const SMALL: f32 = 20.0;
const LEAST_ALIKE: f32 = 0.52;
const LEAST_ALIKE_SMALL: f32 = 0.58;

/// Leaves that are neither data nor plain declarations.
const FEWEST_LEAVES: u32 = 8;

/// Lines of the shortest.
const FEWEST_LINES: u32 = 4;

/// Places that are alike, two and two.
pub(super) struct Pairs(Vec<Pair>);

impl Pairs {
    /// The groups of them, as findings, with the hash of what is in them; those that `known` has already are left out.
    pub fn groups(self, files: &[FileFacts], options: &Options, known: &[(u64, Finding)]) -> Vec<(u64, Finding)> {
        groups::groups(files, options, self.0, known)
    }
}

pub(super) fn pairs(files: &[FileFacts], options: &Options) -> Pairs {
    let fewest = options.least(FEWEST_LEAVES);
    let units: Vec<Unit> =
        files.par_iter().enumerate().flat_map_iter(|(i, f)| self::units::units(i as u32, f)).collect();
    let pairs: Vec<Pair> = candidates(&units)
        .into_par_iter()
        .flat_map_iter(|(a, b)| {
            let (x, y) = (&units[a as usize], &units[b as usize]);
            let (f, g) = (&files[x.file as usize], &files[y.file as usize]);
            let places = align::aligned(x, y, a == b);
            places.into_iter().filter_map(move |p| regions((x, f), (y, g), &p)).filter(move |p| is_worth_it(p, fewest))
        })
        .collect();
    Pairs(pairs)
}

fn is_worth_it(p: &Pair, fewest: u32) -> bool {
    let height = |r: &regions::Region| r.lines.1 + 1 - r.lines.0;
    let apart = p.a.file != p.b.file || p.a.bytes.1 <= p.b.bytes.0 || p.b.bytes.1 <= p.a.bytes.0;
    let least = if p.common < SMALL { LEAST_ALIKE_SMALL } else { LEAST_ALIKE };
    let (a, b) = (height(&p.a), height(&p.b));
    let says_something = p.a.leaves.min(p.b.leaves) >= fewest;
    apart && says_something && p.alike >= least && p.common >= LEAST_COMMON && a.min(b) >= FEWEST_LINES
}

/// Pairs of units that share rare pieces; a unit that has some twice is compared with itself.
fn candidates(units: &[Unit]) -> Vec<(u32, u32)> {
    let mut pieces: Vec<(u64, u32)> = units
        .par_iter()
        .enumerate()
        .flat_map_iter(|(i, u)| u.pieces().into_iter().map(move |p| (p, i as u32)))
        .collect();
    pieces.par_sort_unstable();
    let mut shared: FxHashMap<(u32, u32), u32> = FxHashMap::default();
    for same in pieces.chunk_by(|a, b| a.0 == b.0).filter(|c| (2..=MOST_ROWS).contains(&c.len())) {
        for (i, (_, a)) in same.iter().enumerate() {
            for (_, b) in &same[i + 1..] {
                *shared.entry((*a, *b)).or_default() += 1;
            }
        }
    }
    let size = |u: u32| units[u as usize].items.len();
    let least = |a: u32, b: u32| match size(a).min(size(b)) {
        n if n <= SHORT => LEAST_SHARED,
        n => LEAST_SHARED + 1 + n as u32 / 50,
    };
    let mut all: Vec<(u32, u32, u32)> =
        shared.into_iter().filter(|((a, b), n)| *n >= least(*a, *b)).map(|((a, b), n)| (n, a, b)).collect();
    all.par_sort_unstable_by_key(|(n, a, b)| (std::cmp::Reverse(*n), *a, *b));
    let mut partners = vec![0usize; units.len()];
    let mut out: Vec<(u32, u32)> = Vec::new();
    for (_, a, b) in all {
        let (x, y) = (a as usize, b as usize);
        if partners[x].min(partners[y]) < MOST_PARTNERS {
            partners[x] += 1;
            partners[y] += 1;
            out.push((a, b));
        }
    }
    out.extend((0..units.len() as u32).filter(|u| units[*u as usize].repeats()).map(|u| (u, u)));
    out
}

#[cfg(test)]
mod tests;
