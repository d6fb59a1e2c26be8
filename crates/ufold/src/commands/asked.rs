//! Which findings are told, and in which order, as the filters say. What is found does not depend on them.

use std::cmp::Reverse;
use std::collections::{BTreeMap, BTreeSet};

use ufold_core::change::{Outcome, Verdict};
use ufold_core::find::{Copy, FileFacts, Finding, Kind, only_tests, worth_of_expression};
use ufold_project::files::{Scanned, globs};
use ufold_project::history::{self, Touched};
use ufold_project::state::State;
use ufold_project::{Error, Result, cache, git};

use crate::args::{Filters, Sort};
use crate::session::{Session, is_worth_telling};

/// Commits that tell which files people work on.
const RECENT: usize = 300;

/// So many changes of a file among these make what is found in it worth twice as much.
const USUAL: i64 = 20;

pub struct Asked<'a> {
    scanned: &'a Scanned,
    language: Option<&'a str>,
    /// Files that the paths mean.
    files: Option<BTreeSet<usize>>,
    touched: Option<Touched>,
    sort: Option<Sort>,
    /// In how many commits each file was changed; of the last ones where nothing else was asked for.
    changes: BTreeMap<String, u32>,
}

impl<'a> Asked<'a> {
    pub fn new(s: &Session, scanned: &'a Scanned, f: &'a Filters) -> Result<Asked<'a>> {
        if let Some(l) = f.language.as_ref().filter(|l| !scanned.facts.iter().any(|f| f.language == **l)) {
            let known: BTreeSet<&str> = scanned.facts.iter().map(|f| f.language.as_str()).collect();
            let known = known.into_iter().collect::<Vec<_>>().join(", ");
            return Err(Error::Usage(format!("no file here is in `{l}`; there are {known}")));
        }
        let by_changes = f.sort == Some(Sort::Changes);
        if f.since.is_some() || by_changes {
            let option = if by_changes { "--sort changes" } else { "--since" };
            if !git::is_repository(&s.root)? {
                return Err(Error::Usage(format!("{option} asks git, and this is no git repository")));
            }
            s.require(&s.git_programs(false)?)?;
        }
        let since = |rev: &String| history::touched_since(&s.root, rev);
        Ok(Asked {
            scanned,
            language: f.language.as_deref(),
            files: (!f.path.is_empty()).then(|| files(s, scanned, &f.path)).transpose()?,
            touched: f.since.as_ref().map(since).transpose()?,
            sort: f.sort,
            changes: match f.sort {
                Some(Sort::Changes) => history::changes_of_files(&s.root, None)?,
                Some(_) => BTreeMap::new(),
                None => recent_changes(s).ok().flatten().unwrap_or_default(),
            },
        })
    }

    /// Whether one of the copies lies where is looked, and one where something changed.
    pub fn wants(&self, f: &Finding) -> bool {
        let any = |test: &dyn Fn(usize) -> bool| (0..f.copies.len()).any(test);
        self.is_language(f.copies[0].file)
            && any(&|n| self.is_file(f.copies[n].file))
            && (self.touched.is_none() || any(&|n| self.is_touched(f, n)))
    }

    /// The same of lines of one file.
    pub fn wants_place(&self, file: usize, lines: (u32, u32)) -> bool {
        self.is_language(file) && self.is_file(file) && (self.touched.is_none() || self.has_changed(file, lines))
    }

    fn is_language(&self, file: usize) -> bool {
        self.language.is_none_or(|l| self.scanned.facts[file].language == l)
    }

    fn is_file(&self, file: usize) -> bool {
        self.files.as_ref().is_none_or(|files| files.contains(&file))
    }

    fn has_changed(&self, file: usize, lines: (u32, u32)) -> bool {
        self.touched.as_ref().is_some_and(|t| t.has(&self.scanned.facts[file].path, lines))
    }

    /// Whether a copy has lines that changed since the revision that was named.
    pub fn is_touched(&self, f: &Finding, copy: usize) -> bool {
        self.has_changed(f.copies[copy].file, f.copies[copy].lines)
    }

    pub fn has_since(&self) -> bool {
        self.touched.is_some()
    }

    /// The wished order; none leaves them as they are.
    pub fn order(&self, findings: &mut [Finding]) {
        if self.sort.is_some() {
            findings.sort_by_cached_key(|f| self.key(f, f.saves));
        }
    }

    /// The order of what was planned: the wished one, else what is surest and saves most.
    pub fn order_planned(&self, planned: &mut [(Finding, Outcome)]) {
        match self.sort {
            Some(_) => planned.sort_by_cached_key(|(f, o)| self.key(f, saves(f, o))),
            None => planned.sort_by_cached_key(|(f, o)| {
                let tests = only_tests(f, &self.scanned.facts);
                let own = worth(f, o);
                let worth = own * USUAL + own.max(0) * self.changed(f).min(USUAL);
                (!f.kind.is_worth_lines(), tests, Reverse(worth), o.verdict, f.id.clone())
            }),
        }
    }

    /// How many commits changed the file of its copies that most of them changed.
    fn changed(&self, f: &Finding) -> i64 {
        let of = |c: &Copy| self.changes.get(&self.scanned.facts[c.file].path).copied().unwrap_or(0);
        f.copies.iter().map(of).max().map_or(0, i64::from)
    }

    fn key(&self, f: &Finding, saves: i64) -> (Reverse<i64>, String) {
        let path = |c: &Copy| self.scanned.facts[c.file].path.clone();
        let number = match self.sort {
            Some(Sort::Saves) => saves,
            Some(Sort::Lines) => i64::from(f.lines),
            Some(Sort::Copies) => f.copies.len() as i64,
            Some(Sort::Alike) => (f.similarity * 1000.0) as i64,
            Some(Sort::Changes) => self.changed(f),
            Some(Sort::Path) | None => 0,
        };
        let first = &f.copies[0];
        (Reverse(number), format!("{}:{:9}", path(first), first.lines.0))
    }
}

/// Which files people work on, where a git repository tells and git may be asked.
fn recent_changes(s: &Session) -> Result<Option<BTreeMap<String, u32>>> {
    if !git::is_repository(&s.root)? || !s.may_ask_git()? {
        return Ok(None);
    }
    let Some(head) = git::head(&s.root)? else { return Ok(None) };
    let key = [b"changes\0", head.as_bytes()].concat();
    let state = State::of(&s.root).ok();
    cache::remembered(state.as_ref(), &key, || history::changes_of_files(&s.root, Some(RECENT))).map(Some)
}

/// What the lines that a fold would save are worth: less where something is assumed, and least where a person must find
/// the way. What comments said of each copy is worth a line.
fn worth(f: &Finding, o: &Outcome) -> i64 {
    let sure = match o.verdict {
        Verdict::Ready => 4,
        Verdict::Assumed => 3,
        Verdict::Refused if f.kind == Kind::Twins => 2,
        Verdict::Refused => 1,
    };
    let lines = if f.expression > 0 { worth_of_expression(f) } else { saves(f, o) };
    (lines - o.lost_comments() as i64) * sure
}

/// A repeat that stands in tests alone.
pub fn is_of_tests(f: &Finding, files: &[FileFacts]) -> bool {
    f.kind.is_worth_lines() && only_tests(f, files)
}

/// Without what lies for the most part in copies of one that stands before it: who folds that one changes this.
pub fn without_parts(planned: Vec<(Finding, Outcome)>) -> Vec<(Finding, Outcome)> {
    let mut out: Vec<(Finding, Outcome)> = Vec::new();
    for (f, o) in planned {
        let taken = |c: &Copy| {
            let common = |d: &Copy| i64::from(c.lines.1.min(d.lines.1)) + 1 - i64::from(c.lines.0.max(d.lines.0));
            let half = |d: &&Copy| d.file == c.file && 2 * common(d) > i64::from(c.lines.1 + 1 - c.lines.0);
            out.iter().flat_map(|(f, _)| &f.copies).any(|d| half(&d))
        };
        let parts = if f.kind.has_copies() { f.copies.iter().filter(|c| taken(c)).count() } else { 0 };
        if 2 * parts <= f.copies.len() {
            out.push((f, o));
        }
    }
    out
}

/// The first so many; of repeats in tests a third of them, and more where others are few.
pub fn first(planned: Vec<(Finding, Outcome)>, most: usize, files: &[FileFacts]) -> Vec<(Finding, Outcome)> {
    let (mut tests, mut out): (Vec<_>, Vec<_>) = planned.into_iter().partition(|(f, _)| is_of_tests(f, files));
    out.truncate(most.saturating_sub(tests.len().min(most / 3)));
    tests.truncate(most.saturating_sub(out.len()));
    let after = out.iter().position(|(f, _)| !f.kind.is_worth_lines()).unwrap_or(out.len());
    out.splice(after..after, tests);
    out
}

/// The plan's own count where there is one, else the estimate.
pub fn saves(f: &Finding, o: &Outcome) -> i64 {
    if o.verdict == Verdict::Refused { f.saves } else { o.saves }
}

/// Whether a planned finding is told by itself: a repeat is when a fold would save something, an expression when it is worth
/// a name.
pub fn is_told(f: &Finding, o: &Outcome) -> bool {
    if f.expression > 0 {
        return !o.is_refused() && worth_of_expression(f) > 0;
    }
    is_worth_telling(f, o) && (!f.kind.has_copies() || saves(f, o) > 0)
}

/// The scanned files that are meant: by a file or folder that is there, else by a pattern.
fn files(s: &Session, scanned: &Scanned, typed: &[String]) -> Result<BTreeSet<usize>> {
    let mut out = BTreeSet::new();
    for t in typed {
        let there = s.path(t).ok().filter(|p| s.root.join(p).exists());
        let pattern = globs(std::slice::from_ref(t))?;
        let is_meant = |path: &str| match there.as_deref() {
            Some("") => true,
            Some(p) => path == p || path.strip_prefix(p).is_some_and(|rest| rest.starts_with('/')),
            None => pattern.is_match(path),
        };
        let meant = || scanned.facts.iter().enumerate().filter(|(_, f)| is_meant(&f.path)).map(|(i, _)| i);
        out.extend(meant());
        if meant().next().is_none() {
            return Err(Error::Usage(format!("no source file here fits `{t}`")));
        }
    }
    Ok(out)
}

#[cfg(test)]
mod tests {
    use super::*;
    use ufold_core::find::Kind;

    fn planned(id: &str, copies: &[(usize, u32, u32)]) -> (Finding, Outcome) {
        let copy = |c: &(usize, u32, u32)| Copy { file: c.0, lines: (c.1, c.2), bytes: (0, 1), within: None };
        let finding = Finding {
            id: id.into(),
            kind: if id.starts_with('l') { Kind::Long } else { Kind::Repeat },
            copies: copies.iter().map(copy).collect(),
            saves: 9,
            ..Finding::default()
        };
        (finding, Outcome { verdict: Verdict::Ready, saves: 9, ..Outcome::refused(Vec::new()) })
    }

    fn ids(list: &[(Finding, Outcome)]) -> Vec<&str> {
        list.iter().map(|(f, _)| f.id.as_str()).collect()
    }

    #[test]
    fn tests_stand_below_other_code_and_take_what_it_leaves() {
        let files: Vec<FileFacts> = ["fees.py", "tests/test_fees.py"]
            .iter()
            .map(|p| FileFacts { path: p.to_string(), ..FileFacts::default() })
            .collect();
        let own = |n: usize| planned(&format!("r{n}"), &[(0, 1, 5), (0, 10, 15)]);
        let test = |n: usize| planned(&format!("t{n}"), &[(1, 1, 5), (1, 10, 15)]);
        let long = planned("l1", &[(0, 1, 90)]);
        let all = || vec![own(1), own(2), own(3), own(4), own(5), test(1), test(2), test(3), long.clone()];
        assert_eq!(ids(&first(all(), 6, &files)), ["r1", "r2", "r3", "r4", "t1", "t2"]);
        assert_eq!(ids(&first(all(), 99, &files)), ["r1", "r2", "r3", "r4", "r5", "t1", "t2", "t3", "l1"]);
        assert_eq!(ids(&first(vec![own(1), test(1), test(2), test(3)], 3, &files)), ["r1", "t1", "t2"]);
        assert_eq!(ids(&first(vec![test(1), test(2)], usize::MAX, &files)), ["t1", "t2"]);
    }

    #[test]
    fn parts_of_what_stands_before_are_left_out() {
        let whole = planned("r1", &[(0, 1, 20), (1, 1, 20)]);
        let inside = planned("r2", &[(0, 3, 9), (1, 3, 9)]);
        let more = planned("r3", &[(0, 3, 9), (1, 3, 9), (2, 3, 9), (2, 30, 36)]);
        let beside = planned("r4", &[(0, 15, 40), (1, 15, 40)]);
        let long = planned("l1", &[(0, 1, 20)]);
        let told = without_parts(vec![whole, inside, more, beside, long]);
        assert_eq!(ids(&told), ["r1", "r3", "r4", "l1"]);
    }

    #[test]
    fn what_is_surer_is_worth_more_and_lost_comments_less() {
        let (f, ready) = planned("r1", &[(0, 1, 5), (0, 10, 15)]);
        let refused = Outcome::refused(Vec::new());
        let bare = Outcome { remarks: vec![ufold_core::change::lost_comment("by tide", 2); 4], ..ready.clone() };
        assert!(worth(&f, &ready) > worth(&f, &bare) && worth(&f, &bare) > worth(&f, &refused));
    }
}
