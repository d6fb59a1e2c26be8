//! Calculations and conditions that stand in several places, word for word.
//!
//! A function of them saves no line, but it gives them a name and one place to be changed in. Told apart by the hash of
//! their words; the same with other names is not found. What lies in a larger one, or in copies of statements that are
//! found already, is left to those.

use rustc_hash::FxHashMap;

use super::facts::FileFacts;
use super::{Copy, Finding};

/// What all copies but one must have of them together, to be worth a function.
const WORTH_A_FUNCTION: u32 = 8;

/// More copies than that are no accident: a language or a library demands them.
const MOST_COPIES: usize = 60;

/// Groups that are looked at, the largest first.
const MOST_GROUPS: usize = 1000;

/// Lines' worth of a finding of so many copies.
pub fn worth_of_expression(f: &Finding) -> i64 {
    let all = f.expression * (f.copies.len() as u32 - 1);
    i64::from(all.saturating_sub(WORTH_A_FUNCTION) / 6)
}

/// Expressions that several places have; `known`: what was found of statements.
pub(super) fn repeated(files: &[FileFacts], known: &[(u64, Finding)]) -> Vec<(u64, Finding)> {
    let mut all: FxHashMap<(u64, &str), Vec<(usize, usize)>> = FxHashMap::default();
    for (file, f) in files.iter().enumerate() {
        for (i, e) in f.expressions.iter().enumerate() {
            all.entry((e.exact, f.language.as_str())).or_default().push((file, i));
        }
    }
    let weight = |of: &[(usize, usize)]| files[of[0].0].expressions[of[0].1].atoms;
    let worth = |of: &Vec<(usize, usize)>| weight(of) * (of.len() as u32 - 1) >= WORTH_A_FUNCTION + 6;
    let mut groups: Vec<(u64, Vec<(usize, usize)>)> = all
        .into_iter()
        .filter(|(_, places)| (2..=MOST_COPIES).contains(&places.len()) && worth(places))
        .map(|((exact, _), places)| (exact, places))
        .collect();
    // the larger ones first
    groups.sort_by_key(|(exact, places)| (std::cmp::Reverse(weight(places)), places[0], *exact));
    groups.truncate(MOST_GROUPS);
    let mut taken: FxHashMap<usize, Vec<(u32, u32)>> = FxHashMap::default();
    for c in known.iter().filter(|(_, f)| f.kind.has_copies() && !f.near).flat_map(|(_, f)| &f.copies) {
        taken.entry(c.file).or_default().push(c.bytes);
    }
    let mut out = Vec::new();
    for (exact, places) in groups {
        let free = |&(file, i): &(usize, usize)| {
            let (a, z) = files[file].expressions[i].bytes;
            !taken.get(&file).is_some_and(|all| all.iter().any(|(b, y)| *b <= a && z <= *y))
        };
        let atoms = weight(&places);
        // where all but one are told of already, that one is no group
        if places.iter().filter(|p| free(p)).count() * 2 <= places.len() {
            continue;
        }
        let copy = |(file, i): (usize, usize)| {
            let e = &files[file].expressions[i];
            Copy { file, lines: e.lines, bytes: e.bytes, within: files[file].function_around(e.bytes) }
        };
        places.iter().for_each(|(file, i)| taken.entry(*file).or_default().push(files[*file].expressions[*i].bytes));
        let copies: Vec<Copy> = places.into_iter().map(copy).collect();
        let lines = copies.iter().map(|c| c.lines.1 + 1 - c.lines.0).max().unwrap_or(1);
        out.push((
            exact,
            Finding { copies, lines, similarity: 1.0, small: true, expression: atoms, ..Finding::default() },
        ));
    }
    out
}
