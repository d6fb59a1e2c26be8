//! Members that several classes declare by the same words.
//!
//! Told apart by their hash. Of each set of classes that declare the same ones there is one finding, the sets that save
//! most first, those that say nothing new left out. What only has the same form, or another name, is not found.

use rustc_hash::{FxHashMap, FxHashSet};

use super::facts::FileFacts;
use super::{Copy, Finding, Kind};
use crate::tree::mix;

/// Lines that a new class costs.
const COST: i64 = 3;
/// More classes than that are a form that a library demands.
const MOST_CLASSES: usize = 40;
/// Names and values that the members of a class have together, at least.
const FEWEST_ATOMS: u32 = 10;
/// What saves fewer lines is told where it can be done.
const LARGE: i64 = 8;

/// A class: its file, and its number there.
type Class = (usize, usize);

/// Members that several classes declare by the same words.
pub(super) fn repeated(files: &[FileFacts]) -> Vec<(u64, Finding)> {
    let mut holders: FxHashMap<(&str, u64), Vec<Class>> = FxHashMap::default();
    for (file, f) in files.iter().enumerate() {
        for (i, c) in f.classes.iter().enumerate() {
            for m in &c.members {
                let all = holders.entry((f.language.as_str(), m.exact)).or_default();
                if all.last() != Some(&(file, i)) {
                    all.push((file, i));
                }
            }
        }
    }
    holders.retain(|_, classes| (2..=MOST_CLASSES).contains(&classes.len()));
    let sets: FxHashSet<&Vec<Class>> = holders.values().collect();
    let mut groups: Vec<Group> = sets.into_iter().map(|classes| Group::of(files, classes, &holders)).collect();
    groups.sort_by_key(|g| (std::cmp::Reverse(g.saves), g.classes.clone(), g.content));
    let mut told: FxHashSet<(Class, u64)> = FxHashSet::default();
    let mut out = Vec::new();
    for g in groups {
        let fresh = g.members.iter().any(|m| g.classes.iter().any(|c| !told.contains(&(*c, *m))));
        if g.saves < 1 || g.atoms < FEWEST_ATOMS || !fresh {
            continue;
        }
        told.extend(g.classes.iter().flat_map(|c| g.members.iter().map(|m| (*c, *m))));
        out.push((g.content, g.finding(files)));
    }
    out
}

struct Group {
    classes: Vec<Class>,
    members: Vec<u64>,
    lines: u32,
    atoms: u32,
    saves: i64,
    content: u64,
}

impl Group {
    /// All that the classes have in common, whichever others have it too.
    fn of(files: &[FileFacts], classes: &[Class], holders: &FxHashMap<(&str, u64), Vec<Class>>) -> Group {
        let file = &files[classes[0].0];
        let first = &file.classes[classes[0].1];
        let shared = |m: &u64| {
            let all = holders.get(&(file.language.as_str(), *m));
            all.is_some_and(|all| classes.iter().all(|c| all.binary_search(c).is_ok()))
        };
        let members: Vec<u64> = first.members.iter().map(|m| m.exact).filter(shared).collect();
        let facts = || first.members.iter().filter(|m| members.contains(&m.exact));
        let lines: u32 = facts().map(|m| m.lines.1 + 1 - m.lines.0).sum();
        let saves = i64::from(lines) * (classes.len() as i64 - 1) - COST;
        let content = members.iter().fold(classes.len() as u64, |h, m| mix(h ^ m));
        Group { classes: classes.to_vec(), lines, atoms: facts().map(|m| m.atoms).sum(), members, saves, content }
    }

    fn finding(&self, files: &[FileFacts]) -> Finding {
        let copy = |&(file, i): &Class| {
            let class = &files[file].classes[i];
            let own = || class.members.iter().filter(|m| self.members.contains(&m.exact));
            let bytes = (own().map(|m| m.bytes.0).min().unwrap_or(0), own().map(|m| m.bytes.1).max().unwrap_or(0));
            let lines = (own().map(|m| m.lines.0).min().unwrap_or(1), own().map(|m| m.lines.1).max().unwrap_or(1));
            Copy { file, lines, bytes, within: Some(class.name.clone()) }
        };
        Finding {
            kind: Kind::Members,
            copies: self.classes.iter().map(copy).collect(),
            lines: self.lines,
            saves: self.saves,
            similarity: 1.0,
            small: self.saves < LARGE,
            ..Finding::default()
        }
    }
}
