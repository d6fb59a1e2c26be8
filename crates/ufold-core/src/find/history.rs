//! Since when copies differ, and which change made them.
//!
//! Told the changes of the files that copies stand in, the newest first, each copy is followed back: its range moves with
//! what was inserted and removed above it, and gets the text that it had before each change inside it. The copies were
//! alike where their texts were most alike; changes after that which touched some of them and not the others are why they
//! differ. Lines are compared without the blanks around them, and a name that only one of two copies has is as good as
//! another one that only the other has: copies with names of their own can be the same. Fails where a copy came with a file that is new as a whole: its history
//! begins there.

use std::collections::{BTreeMap, BTreeSet};

use serde::{Deserialize, Serialize};
use similar::{Algorithm, DiffOp, capture_diff_slices};

/// A run of lines that one text took the place of in another.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Hunk {
    /// The first line of the old text, from 1; where nothing was there, the line before which it came.
    pub old_start: usize,
    pub old: Vec<String>,
    /// The same of the new text.
    pub new_start: usize,
    pub new: Vec<String>,
}

/// What one commit changed.
#[derive(Clone, Debug, Default)]
pub struct Commit {
    pub named: Named,
    pub files: Vec<FileChange>,
}

/// How people know a commit.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
pub struct Named {
    /// Its abbreviated hash; empty for changes that are not committed.
    pub commit: String,
    /// As YYYY-MM-DD.
    pub date: String,
    pub subject: String,
}

#[derive(Clone, Debug, Default)]
pub struct FileChange {
    /// The file's name before; none when it is new.
    pub old: Option<String>,
    /// The file's name after it; none when it is gone.
    pub new: Option<String>,
    pub hunks: Vec<Hunk>,
}

/// A copy as it is now.
#[derive(Clone, Debug)]
pub struct Traced {
    pub file: String,
    /// From 1.
    pub first_line: usize,
    pub lines: Vec<String>,
}

/// One copy's part in a change.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
pub struct Part {
    /// Its number, from 1.
    pub copy: usize,
    /// Lines that went.
    pub removed: Vec<String>,
    /// Lines that came.
    pub added: Vec<String>,
}

/// A change that not all copies got.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
pub struct Uneven {
    pub at: Named,
    /// The copies that it changed.
    pub changed: Vec<Part>,
    /// Copies that were there and that it did not touch, or otherwise.
    pub missed: Vec<usize>,
}

/// Since when copies differ, and by what.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, schemars::JsonSchema)]
pub struct Drift {
    /// The commit after which they were most alike.
    pub alike_at: Named,
    /// How alike they were then, in parts of their lines, 0 to 1,
    pub alike_then: f64,
    /// and are now.
    pub alike_now: f64,
    /// The changes since then that not all copies got, the newest first.
    pub changes: Vec<Uneven>,
    /// Each copy as it was then.
    pub then: Vec<Vec<String>>,
}

impl Drift {
    /// They were as good as one, and a change parted them.
    pub fn is_proven(&self) -> bool {
        self.alike_then >= ALIKE && !self.changes.is_empty()
    }
}

/// From here on copies count as alike.
const ALIKE: f64 = 0.75;

/// Beside what else is the same.
const NAMES_WEIGH: f64 = 0.001;

/// Lines of a copy beyond which its history is not looked at: what came with a whole file is no copy any more.
const MOST_LINES: usize = 2000;

/// A copy on its way back.
#[derive(Clone, Debug)]
struct Walk {
    file: String,
    start: usize,
    lines: Vec<String>,
}

impl Walk {
    /// The copy as it was before a change of its file, with its part in it; none where all of it came with the change.
    fn before(&mut self, change: &FileChange, copy: usize) -> Result<Option<Part>, ()> {
        let Some(old_name) = &change.old else { return Err(()) };
        let (mut start, mut lines) = (self.start as isize, Vec::new());
        let end = self.start + self.lines.len();
        let (mut at, mut part) = (self.start, Part { copy, removed: Vec::new(), added: Vec::new() });
        let (mut touched, mut all_new) = (false, true);
        for h in &change.hunks {
            let (from, to) = (h.new_start, h.new_start + h.new.len());
            // lines before the copy, and what was only taken away at its edges, are not its own
            if to <= self.start {
                start += h.old.len() as isize - h.new.len() as isize;
                continue;
            }
            if from >= end {
                break;
            }
            // what does not come in order is no diff
            if from.max(self.start) < at {
                return Err(());
            }
            touched = true;
            let (inner_from, inner_to) = (from.max(self.start), to.min(end));
            all_new &= inner_from == at;
            lines.extend_from_slice(&self.lines[at - self.start..inner_from - self.start]);
            at = inner_to;
            // of a hunk that reaches out of the copy a like share of the old lines is taken
            let (cut_before, cut_after) = (inner_from - from, to - inner_to);
            let old = &h.old[cut_before.min(h.old.len())..];
            let old = &old[..old.len().saturating_sub(cut_after)];
            if cut_before > 0 {
                start += h.old.len().min(cut_before) as isize - cut_before as isize;
            }
            lines.extend_from_slice(old);
            part.removed.extend_from_slice(old);
            part.added.extend_from_slice(&h.new[inner_from - from..inner_to - from]);
        }
        all_new &= at == end;
        lines.extend_from_slice(&self.lines[at - self.start..]);
        self.file.clone_from(old_name);
        if touched && (lines.is_empty() || all_new && part.removed.is_empty()) || lines.len() > MOST_LINES {
            return Err(());
        }
        self.start = usize::try_from(start).map_err(|_| ())?.max(1);
        self.lines = lines;
        Ok(touched.then_some(part))
    }
}

/// The words of some lines.
fn words(lines: &[String]) -> BTreeSet<&str> {
    lines.iter().flat_map(|l| l.split(|c: char| !is_of_word(c))).collect()
}

fn is_of_word(c: char) -> bool {
    c.is_alphanumeric() || c == '_'
}

/// A line without the blanks around it, names that the other text does not have as good as each other.
fn plain(line: &str, other: &BTreeSet<&str>) -> String {
    let is_name = |w: &str| w.starts_with(|c: char| c.is_alphabetic() || c == '_');
    let pieces = line.trim().split_inclusive(|c: char| !is_of_word(c));
    let plain = |piece: &str| {
        let word = piece.trim_end_matches(|c: char| !is_of_word(c));
        let known = !is_name(word) || other.contains(word);
        if known { piece.to_string() } else { format!("·{}", &piece[word.len()..]) }
    };
    pieces.map(plain).collect()
}

/// How alike two texts are, in parts of their lines that both have in the same order. Names of their own weigh a little:
/// one that took the place of another in one copy is a change.
fn alike(a: &[String], b: &[String]) -> f64 {
    let share = |a: Vec<String>, b: Vec<String>| {
        let equal = |op: &DiffOp| if let DiffOp::Equal { len, .. } = op { *len } else { 0 };
        let same: usize = capture_diff_slices(Algorithm::Myers, &a, &b).iter().map(equal).sum();
        2.0 * same as f64 / (a.len() + b.len()).max(1) as f64
    };
    let (words_a, words_b) = (words(a), words(b));
    let lines = |text: &[String], each: &dyn Fn(&str) -> String| -> Vec<String> {
        text.iter().map(|l| l.trim()).filter(|l| !l.is_empty()).map(each).collect()
    };
    let names_apart = share(lines(a, &|l| plain(l, &words_b)), lines(b, &|l| plain(l, &words_a)));
    let exact = share(lines(a, &str::to_string), lines(b, &str::to_string));
    (names_apart + exact * NAMES_WEIGH) / (1.0 + NAMES_WEIGH)
}

/// How alike the copies are: each other one to the first.
fn all_alike(copies: &[Walk]) -> f64 {
    let first = &copies[0].lines;
    let sum: f64 = copies[1..].iter().map(|c| alike(first, &c.lines)).sum();
    sum / (copies.len() - 1).max(1) as f64
}

/// Since when copies differ; none where nothing is known before now, or where they were never more alike.
/// `commits`: the newest first, each on top of the one after it.
pub fn drift(copies: &[Traced], commits: &[Commit]) -> Option<Drift> {
    let walk = |c: &Traced| Walk { file: c.file.clone(), start: c.first_line, lines: c.lines.clone() };
    let mut at: Vec<Walk> = copies.iter().map(walk).collect();
    if at.len() < 2 {
        return None;
    }
    let now = all_alike(&at);
    let mut best = (now, 0, at.clone());
    let mut parts: Vec<(usize, Vec<Part>)> = Vec::new();
    // the change that made them as they are at the best
    let mut base: Option<&Named> = None;
    for (n, commit) in commits.iter().enumerate() {
        let by_name: BTreeMap<&str, &FileChange> =
            commit.files.iter().filter_map(|f| Some((f.new.as_deref()?, f))).collect();
        let mut own = Vec::new();
        let mut came = false;
        for (i, w) in at.iter_mut().enumerate() {
            let Some(change) = by_name.get(w.file.as_str()) else { continue };
            match w.before(change, i + 1) {
                Ok(part) => own.extend(part),
                Err(()) => came = true,
            }
        }
        if came || !own.is_empty() {
            base = base.or(Some(&commit.named));
        }
        // before that one of them was not there
        if came {
            break;
        }
        if own.is_empty() {
            continue;
        }
        parts.push((n, own));
        let alike = all_alike(&at);
        if alike > best.0 + 1e-9 {
            best = (alike, n + 1, at.clone());
            base = None;
        }
    }
    let (alike_then, since, then) = best;
    let changes: Vec<Uneven> = parts
        .into_iter()
        .filter(|(n, _)| *n < since)
        .filter_map(|(n, changed)| uneven(&commits[n].named, changed, copies))
        .collect();
    if since == 0 || changes.is_empty() {
        return None;
    }
    let alike_at = base.cloned().or_else(|| commits.get(since).map(|c| c.named.clone())).unwrap_or_default();
    let rounded = |share: f64| (share * 100.0).round() / 100.0;
    let (alike_then, alike_now) = (rounded(alike_then), rounded(now));
    Some(Drift { alike_at, alike_then, alike_now, changes, then: then.into_iter().map(|w| w.lines).collect() })
}

/// Whether a copy has by now what a change did to another one.
fn has_by_now(copy: &Traced, other: &Traced, part: &Part) -> bool {
    let (own, others) = (words(&copy.lines), words(&other.lines));
    let now: BTreeSet<String> = copy.lines.iter().map(|l| plain(l, &others)).collect();
    let is_there = |l: &String| l.trim().is_empty() || now.contains(&plain(l, &own));
    let exact = |l: &String| copy.lines.iter().any(|own| own.trim() == l.trim());
    let mut removed = part.removed.iter().filter(|l| !l.trim().is_empty());
    part.added.iter().all(is_there) && !removed.any(|l| exact(l) || is_there(l))
}

/// A change as one that some copies got; none when all got the same, or have made up for it.
fn uneven(named: &Named, changed: Vec<Part>, copies: &[Traced]) -> Option<Uneven> {
    let essence = |p: &Part| {
        let own =
            |l: &Vec<String>| l.iter().map(|l| l.trim().to_string()).filter(|l| !l.is_empty()).collect::<Vec<_>>();
        (own(&p.removed), own(&p.added))
    };
    let first = essence(changed.first()?);
    if first.0 == first.1 && changed.len() == 1 {
        return None;
    }
    let same = changed.iter().all(|p| essence(p) == first);
    let got = |n: &usize| changed.iter().any(|p| p.copy == *n);
    let made_up = |n: &usize| has_by_now(&copies[n - 1], &copies[changed[0].copy - 1], &changed[0]);
    let missed: Vec<usize> = (1..=copies.len()).filter(|n| !(got(n) || same && made_up(n))).collect();
    (!same || !missed.is_empty()).then(|| Uneven { at: named.clone(), changed, missed })
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    fn lines(text: &str) -> Vec<String> {
        text.lines().map(str::to_string).collect()
    }

    fn named(hash: &str) -> Named {
        Named { commit: hash.into(), date: "2031-05-04".into(), subject: format!("change {hash}") }
    }

    /// The commits that lead through versions of files, the newest version last.
    fn commits(versions: &[&[(&str, &str)]]) -> Vec<Commit> {
        let mut out = Vec::new();
        for (n, pair) in versions.windows(2).enumerate() {
            let file = |(name, new): &(&str, &str)| {
                let old = pair[0].iter().find(|o| o.0 == *name);
                let hunks = hunks(&lines(old.map_or("", |o| o.1)), &lines(new));
                FileChange { old: old.map(|o| o.0.to_string()), new: Some(name.to_string()), hunks }
            };
            let files = pair[1].iter().map(file).filter(|f| !f.hunks.is_empty()).collect();
            out.insert(0, Commit { named: named(&n.to_string()), files });
        }
        out
    }

    fn hunks(old: &[String], new: &[String]) -> Vec<Hunk> {
        // as git does: what lies side by side is one
        let (mut out, mut a, mut b): (Vec<Hunk>, usize, usize) = (Vec::new(), 0, 0);
        let equal = capture_diff_slices(Algorithm::Myers, old, new).into_iter().filter_map(|op| match op {
            DiffOp::Equal { old_index, new_index, len } => Some((old_index, new_index, len)),
            _ => None,
        });
        for (x, y, len) in equal.chain([(old.len(), new.len(), 0)]) {
            if x > a || y > b {
                let (gone, came) = (old[a..x].to_vec(), new[b..y].to_vec());
                out.push(Hunk { old_start: a + 1, old: gone, new_start: b + 1, new: came });
            }
            (a, b) = (x + len, y + len);
        }
        out
    }

    fn copy(file: &str, first_line: usize, text: &str) -> Traced {
        Traced { file: file.into(), first_line, lines: lines(text) }
    }

    proptest! {
        /// What a copy was before a change is a run of the old text's lines.
        #[test]
        fn a_copy_goes_back_to_lines_that_were_there(
            old in proptest::collection::vec(0u8..6, 0..30),
            new in proptest::collection::vec(0u8..6, 1..30),
            range in (0usize..30, 1usize..12),
        ) {
            let lines = |v: &[u8]| v.iter().map(|n| format!("line {n}")).collect::<Vec<String>>();
            let (old, new) = (lines(&old), lines(&new));
            let from = range.0 % new.len();
            let own = new[from..new.len().min(from + range.1)].to_vec();
            let mut walk = Walk { file: "a.py".into(), start: from + 1, lines: own.clone() };
            let name = Some("a.py".to_string());
            let change = FileChange { old: name.clone(), new: name, hunks: hunks(&old, &new) };
            if let Ok(part) = walk.before(&change, 1) {
                let at = walk.start - 1;
                prop_assert!(at + walk.lines.len() <= old.len(), "{walk:?} in {old:?}");
                prop_assert_eq!(&walk.lines[..], &old[at..at + walk.lines.len()]);
                prop_assert!(part.is_some() || walk.lines == own);
            }
        }
    }

    const FEE: &str = "fee = base * days\nif days > 30:\n    fee = fee * 0.9\nlog(fee)\nreturn fee";
    const FIXED: &str = "fee = base * days\nif days >= 30:\n    fee = fee * 0.9\nlog(fee)\nreturn fee";

    #[test]
    fn the_fix_that_one_copy_got_is_found() {
        let head = "# fees\n\n";
        let with_head = format!("{head}{FIXED}");
        let v: &[&[(&str, &str)]] = &[
            &[],
            &[("a.py", FEE)],
            &[("a.py", FEE), ("b.py", FEE)],
            &[("a.py", FIXED), ("b.py", FEE)],
            &[("a.py", &with_head), ("b.py", FEE)],
        ];
        let d = drift(&[copy("a.py", 3, FIXED), copy("b.py", 1, FEE)], &commits(v)).expect("they differ");
        assert_eq!(d.changes.len(), 1);
        let c = &d.changes[0];
        assert_eq!((c.at.commit.as_str(), &c.missed), ("2", &vec![2]));
        let part = Part { copy: 1, removed: lines("if days > 30:"), added: lines("if days >= 30:") };
        assert_eq!(c.changed, [part]);
        assert_eq!(d.alike_at.commit, "1");
        assert!(d.is_proven() && d.alike_then == 1.0 && d.alike_now < 0.9);
        assert_eq!(d.then, [lines(FEE), lines(FEE)]);
    }

    #[test]
    fn what_was_made_up_for_parts_none() {
        let (other, third) = (FEE.replace("log(fee)", "note(fee)"), FIXED.replace("log(fee)", "note(fee)"));
        let v: &[&[(&str, &str)]] = &[
            &[("a.py", FEE), ("b.py", FEE)],
            &[("a.py", FIXED), ("b.py", FEE)],
            &[("a.py", FIXED), ("b.py", &other)],
            &[("a.py", FIXED), ("b.py", &third)],
        ];
        let d = drift(&[copy("a.py", 1, FIXED), copy("b.py", 1, &third)], &commits(v)).expect("they differ");
        let changes: Vec<&str> = d.changes.iter().map(|c| c.at.commit.as_str()).collect();
        assert_eq!(changes, ["1"]);
    }

    #[test]
    fn names_of_their_own_are_no_difference() {
        let (crane, own) = (FEE.replace("fee", "due"), FEE.replace("days > 30", "days > 31"));
        let v: &[&[(&str, &str)]] = &[&[("a.py", FEE), ("b.py", &crane)], &[("a.py", &own), ("b.py", &crane)]];
        let d = drift(&[copy("a.py", 1, &own), copy("b.py", 1, &crane)], &commits(v)).expect("they differ");
        assert_eq!((d.alike_then, d.alike_now), (1.0, 0.8));
    }

    #[test]
    fn what_all_copies_got_parts_none() {
        let twice = |t: &str| [("a.py".to_string(), t.to_string()), ("b.py".to_string(), t.to_string())];
        let texts: Vec<_> = ["", FEE, FIXED].iter().map(|t| twice(t)).collect();
        let v: Vec<Vec<(&str, &str)>> =
            texts.iter().map(|t| t.iter().map(|(a, b)| (a.as_str(), b.as_str())).collect()).collect();
        let v: Vec<&[(&str, &str)]> = v.iter().map(Vec::as_slice).collect();
        assert_eq!(drift(&[copy("a.py", 1, FIXED), copy("b.py", 1, FIXED)], &commits(&v)), None);
    }

    #[test]
    fn lines_around_a_copy_move_it_and_are_not_its_own() {
        let put = |above: &str, own: &str, below: &str| format!("{above}{own}\n{below}");
        let (one, two) = (put("", FEE, "x\n"), put("import os\n", FEE, "y\nz\n"));
        // the line above goes and one inside comes, in one change
        let three = put("", &format!("note()\n{FEE}"), "");
        let v: &[&[(&str, &str)]] =
            &[&[("a.py", &one), ("b.py", FEE)], &[("a.py", &two), ("b.py", FEE)], &[("a.py", &three), ("b.py", FEE)]];
        let own = format!("note()\n{FEE}");
        let d = drift(&[copy("a.py", 1, &own), copy("b.py", 1, FEE)], &commits(v)).expect("they differ");
        assert_eq!(d.changes[0].changed[0].added, ["note()"]);
        assert_eq!(d.then[1], lines(FEE));
    }

    #[test]
    fn copies_that_were_never_more_alike_have_no_drift() {
        let v: &[&[(&str, &str)]] = &[&[], &[("a.py", FEE), ("b.py", FIXED)]];
        assert_eq!(drift(&[copy("a.py", 1, FEE), copy("b.py", 1, FIXED)], &commits(v)), None);
        assert_eq!(drift(&[copy("a.py", 1, FEE)], &commits(v)), None);
        assert_eq!(drift(&[copy("a.py", 1, FEE), copy("b.py", 1, FIXED)], &[]), None);
    }

    #[test]
    fn a_file_that_moved_is_followed() {
        let mut all = commits(&[&[("a.py", FEE), ("b.py", FEE)], &[("a.py", FIXED), ("b.py", FEE)]]);
        let moved = FileChange { old: Some("a.py".into()), new: Some("dues.py".into()), hunks: Vec::new() };
        all.insert(0, Commit { named: named("move"), files: vec![moved] });
        let d = drift(&[copy("dues.py", 1, FIXED), copy("b.py", 1, FEE)], &all).expect("they differ");
        assert_eq!(d.changes[0].at.commit, "0");
    }
}
