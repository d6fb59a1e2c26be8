//! Files that a program made: what stands in them is repaired where it was made from.
//!
//! Two kinds that no remark at the top tells: code that was made small, in which most statements share a line with many
//! others; and bundles, in a folder for what programs put together, nearly all of whose functions stand in smaller files
//! here, several of them whole. A file elsewhere is none: somebody may be about to take it apart. Fails for bundles whose
//! functions were rewritten on the way.

use rustc_hash::{FxHashMap, FxHashSet};

use super::FileFacts;
use super::paths::is_output;

/// So many statements share a line in code that was made small.
const CROWD: u32 = 10;

/// Fewer statements than that say nothing.
const FEWEST_STATEMENTS: usize = 30;

/// A bundle has so many functions at least,
const FEWEST_FUNCTIONS: usize = 12;

/// from so many files,
const FEWEST_PARTS: usize = 5;

/// of each of which it holds this share of the functions,
const SHARE_OF_PART: f64 = 0.75;

/// and which hold this share of its own: the frame around them is its own.
const SHARE: f64 = 0.6;

impl FileFacts {
    /// Most statements stand in lines with many others.
    pub(super) fn is_crowded(&self) -> bool {
        let mut on_line: FxHashMap<u32, u32> = FxHashMap::default();
        self.statements.iter().for_each(|s| *on_line.entry(s.lines.0).or_default() += 1);
        let crowded: u32 = on_line.values().filter(|n| **n >= CROWD).sum();
        self.statements.len() >= FEWEST_STATEMENTS && 2 * crowded as usize > self.statements.len()
    }
}

/// The functions that hold no other, as numbers: what is done to bundle a file changes those around them.
fn innermost(f: &FileFacts) -> FxHashSet<u64> {
    let mut all: Vec<_> = f.functions.iter().collect();
    all.sort_by_key(|x| (x.bytes.0, std::cmp::Reverse(x.bytes.1)));
    let holds_next = |i: usize| all.get(i + 1).is_some_and(|next| next.bytes.1 <= all[i].bytes.1);
    (0..all.len()).filter(|i| !holds_next(*i)).map(|i| all[i].exact).collect()
}

/// Of each file that is made from others here, its number and how many these are.
pub fn bundles(files: &[FileFacts]) -> Vec<(usize, usize)> {
    let own: Vec<FxHashSet<u64>> = files.iter().map(innermost).collect();
    let mut holders: FxHashMap<u64, Vec<usize>> = FxHashMap::default();
    for (i, all) in own.iter().enumerate() {
        all.iter().for_each(|x| holders.entry(*x).or_default().push(i));
    }
    let is_bundle = |i: usize| {
        let mut shared: FxHashMap<usize, usize> = FxHashMap::default();
        for x in &own[i] {
            holders[x].iter().for_each(|j| *shared.entry(*j).or_default() += 1);
        }
        let much = |part: usize, whole: usize, share: f64| part as f64 >= share * whole as f64;
        let is_part = |(j, n): &(&usize, &usize)| {
            **j != i && 3 * own[**j].len() <= own[i].len() && much(**n, own[**j].len(), SHARE_OF_PART)
        };
        let parts: FxHashSet<usize> = shared.iter().filter(is_part).map(|(j, _)| *j).collect();
        let covered = own[i].iter().filter(|x| holders[x].iter().any(|j| parts.contains(j))).count();
        (parts.len() >= FEWEST_PARTS && much(covered, own[i].len(), SHARE)).then_some((i, parts.len()))
    };
    let may_be = |i: &usize| is_output(&files[*i].path);
    (0..files.len()).filter(may_be).filter(|i| own[*i].len() >= FEWEST_FUNCTIONS).filter_map(is_bundle).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::find::tests::of;

    fn function(n: usize) -> String {
        format!("function part{n}(a) {{\n  const b = a + {n};\n  return b * part{n}.factor;\n}}\n")
    }

    /// Six files of three functions each, and one that may be made from them.
    fn files(last: &str) -> Vec<FileFacts> {
        let file = |k: usize| of(&format!("src/{k}.js"), &(3 * k..3 * k + 3).map(function).collect::<String>());
        let mut all: Vec<FileFacts> = (0..6).map(file).collect();
        all.push(of("dist/all.js", last));
        all
    }

    #[test]
    fn a_bundle_is_made_from_smaller_files() {
        let whole: String = (0..18).map(function).collect();
        assert_eq!(bundles(&files(&whole)), [(6, 6)]);
        // with a frame around it that moves all of it, and some code of its own
        let framed = format!("(function () {{\n{whole}{}}})();\n", function(99)).replace('\n', "\n  ");
        assert_eq!(bundles(&files(&framed)), [(6, 6)]);
        // one that stands among others may be what they are taken from
        let mut all = files(&whole);
        all[6].path = "src/all.js".into();
        assert_eq!(bundles(&all), []);
        // half of it is its own
        let own: String = (9..30).map(function).collect();
        assert_eq!(bundles(&files(&own)), []);
        // copies of one file are no bundles of each other
        let twin: String = (0..18).map(function).collect();
        let twins: Vec<FileFacts> = (0..9).map(|i| of(&format!("dist/{i}.js"), &twin)).collect();
        assert_eq!(bundles(&twins), []);
    }

    #[test]
    fn code_that_was_made_small_is_crowded() {
        let whole: String = (0..18).map(function).collect();
        let small: String = (0..60).map(|n| function(n).replace('\n', " ")).collect();
        let data = format!("const MAP = '{}';\n{whole}", "x".repeat(90_000));
        for (text, crowded) in [(&whole, false), (&data, false), (&small, true), (&small.replace("} f", "}\nf"), false)]
        {
            assert_eq!(of("a.js", text).crowded, crowded, "{}", &text[..40]);
        }
    }
}
