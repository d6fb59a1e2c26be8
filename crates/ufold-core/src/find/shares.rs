//! Which part of each file is repeated or overlong, and which files share code.

use std::collections::BTreeMap;

use super::{FileFacts, Finding, Kind};

/// Files of one finding beyond which it says nothing about any two of them.
const MOST_FILES: usize = 12;

/// Lines of one file.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Share {
    /// That stand in a copy of a repeat.
    pub repeated: u32,
    /// That stand in an overlong function.
    pub overlong: u32,
    /// That are one of both.
    pub either: u32,
}

/// Two files, the lines that the findings they have in common take in both, and how many these are.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Pair {
    pub files: (usize, usize),
    pub lines: u32,
    pub findings: u32,
}

/// What counts as repeated: copies that are the same, of some size.
fn is_repeat(f: &Finding) -> bool {
    f.kind.has_copies() && !f.small && !f.drifted
}

/// Of each file.
pub fn shares(files: &[FileFacts], findings: &[Finding]) -> Vec<Share> {
    let mut marks: Vec<Vec<u8>> = files.iter().map(|f| vec![0; f.lines as usize + 2]).collect();
    for f in findings {
        let bit = match f.kind {
            // of an overlong file not every line is too much
            Kind::Long if f.measures.is_some() => 2,
            _ if is_repeat(f) => 1,
            _ => continue,
        };
        for c in &f.copies {
            (c.lines.0..=c.lines.1).for_each(|l| marks[c.file][l as usize] |= bit);
        }
    }
    let count = |m: &[u8], bits: u8| m.iter().filter(|l| **l & bits != 0).count() as u32;
    let share = |m: &Vec<u8>| Share { repeated: count(m, 1), overlong: count(m, 2), either: count(m, 3) };
    marks.iter().map(share).collect()
}

/// Files that share code, those with most of it first; of copies that grew apart, too.
pub fn pairs(findings: &[Finding]) -> Vec<Pair> {
    let mut all: BTreeMap<(usize, usize), (u32, u32)> = BTreeMap::new();
    for f in findings.iter().filter(|f| f.kind.has_copies() && !f.small) {
        let mut lines: BTreeMap<usize, u32> = BTreeMap::new();
        for c in &f.copies {
            *lines.entry(c.file).or_default() += c.lines.1 + 1 - c.lines.0;
        }
        if lines.len() > MOST_FILES {
            continue;
        }
        for (a, n) in &lines {
            for (b, m) in lines.range(a + 1..) {
                let pair = all.entry((*a, *b)).or_default();
                pair.0 += n.min(m);
                pair.1 += 1;
            }
        }
    }
    let pair = |(files, (lines, findings))| Pair { files, lines, findings };
    let mut out: Vec<Pair> = all.into_iter().map(pair).collect();
    out.sort_by_key(|p| (std::cmp::Reverse(p.lines), p.files));
    out
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::find::Copy;

    fn finding(kind: Kind, copies: &[(usize, u32, u32)]) -> Finding {
        let copy = |c: &(usize, u32, u32)| Copy { file: c.0, lines: (c.1, c.2), bytes: (0, 1), within: None };
        let measures = (kind == Kind::Long).then(Default::default);
        Finding { kind, copies: copies.iter().map(copy).collect(), measures, ..Finding::default() }
    }

    #[test]
    fn a_line_counts_once() {
        let files =
            vec![FileFacts { lines: 30, ..FileFacts::default() }, FileFacts { lines: 9, ..FileFacts::default() }];
        let small = Finding { small: true, ..finding(Kind::Repeat, &[(1, 1, 9), (1, 1, 9)]) };
        let all = [
            finding(Kind::Repeat, &[(0, 1, 10), (1, 2, 3)]),
            finding(Kind::Repeat, &[(0, 6, 12), (0, 20, 21)]),
            finding(Kind::Long, &[(0, 11, 30)]),
            small,
        ];
        let own = shares(&files, &all);
        assert_eq!(own[0], Share { repeated: 14, overlong: 20, either: 30 });
        assert_eq!(own[1], Share { repeated: 2, overlong: 0, either: 2 });
    }

    #[test]
    fn files_share_what_both_have() {
        let many: Vec<(usize, u32, u32)> = (0..MOST_FILES + 1).map(|f| (f, 1, 50)).collect();
        let all = [
            finding(Kind::Repeat, &[(2, 1, 10), (1, 1, 8), (1, 20, 29)]),
            finding(Kind::Repeat, &[(1, 40, 44), (2, 50, 54), (0, 1, 5)]),
            finding(Kind::Repeat, &many),
            finding(Kind::Long, &[(0, 1, 99)]),
        ];
        let found: Vec<_> = pairs(&all).iter().map(|p| (p.files, p.lines, p.findings)).collect();
        assert_eq!(found, [((1, 2), 15, 2), ((0, 1), 5, 1), ((0, 2), 5, 1)]);
    }
}
