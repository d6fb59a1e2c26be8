//! What git knows of findings whose copies differ: asked once for all of them, and kept.

use std::collections::{BTreeMap, BTreeSet};

use rayon::prelude::*;
use ufold_core::find::Finding;
use ufold_core::find::history::{Commit, Drift, Traced, Uneven, drift};
use ufold_core::lang::for_path;
use ufold_project::files::{Scanned, read};
use ufold_project::state::State;
use ufold_project::{cache, git, history};

use crate::output::count;
use crate::session::Session;

/// Copies of one finding that are followed back.
const MOST_COPIES: usize = 12;

/// By finding, since when its copies differ; nothing of those whose copies were never more alike, or that git does not know.
pub fn histories(s: &Session, scanned: &Scanned, findings: &[&Finding]) -> BTreeMap<String, Drift> {
    look(s, scanned, findings).unwrap_or_else(|e| {
        s.remark(&format!("git's history was not looked at: {e}"));
        BTreeMap::new()
    })
}

fn look(s: &Session, scanned: &Scanned, findings: &[&Finding]) -> ufold_project::Result<BTreeMap<String, Drift>> {
    let plain = |path: &str| for_path(path).is_some_and(|l| l.script_of("").is_none());
    let path = |c: &ufold_core::find::Copy| scanned.facts[c.file].path.clone();
    let is_asked = |f: &&&Finding| {
        let few = (2..=MOST_COPIES).contains(&f.copies.len());
        f.kind.has_copies() && few && f.copies.iter().all(|c| plain(&path(c)))
    };
    let asked: Vec<&Finding> = findings.iter().filter(is_asked).copied().collect();
    if asked.is_empty() || !git::is_repository(&s.root)? {
        return Ok(BTreeMap::new());
    }
    if !s.may_ask_git()? {
        s.remark("git's history was not looked at, since this repository wants programs run: ufold trust lists them");
        return Ok(BTreeMap::new());
    }
    // nothing is kept of files of which nothing is known
    let state = State::of(&s.root).ok().filter(|_| scanned.digest.is_some());
    let digest = scanned.digest.as_deref().unwrap_or_default();
    let head = git::head(&s.root)?.unwrap_or_default();
    let ids: Vec<&str> = asked.iter().map(|f| f.id.as_str()).collect();
    let key = [b"drift\0".as_slice(), digest, head.as_bytes(), ids.join(" ").as_bytes()].concat();
    cache::remembered(state.as_ref(), &key, || {
        let files: BTreeSet<String> = asked.iter().flat_map(|f| f.copies.iter().map(path)).collect();
        let progress = crate::output::Progress::new(s.quiet);
        progress.say("git's history is looked at");
        let commits = history::commits(&s.root, &files)?;
        let found = asked.par_iter().filter_map(|f| Some((f.id.clone(), of(s, scanned, f, &commits)?)));
        Ok(found.collect())
    })
}

fn of(s: &Session, scanned: &Scanned, f: &Finding, commits: &[Commit]) -> Option<Drift> {
    let traced = |c: &ufold_core::find::Copy| {
        let file = scanned.facts[c.file].path.clone();
        let text = read(&s.root, &file).ok()?;
        let (from, to) = (c.lines.0 as usize, c.lines.1 as usize);
        let lines = text.lines().skip(from - 1).take((to + 1).saturating_sub(from)).map(str::to_string).collect();
        Some(Traced { file, first_line: from, lines })
    };
    drift(&f.copies.iter().map(traced).collect::<Option<Vec<Traced>>>()?, commits)
}

/// Numbers of copies, as people say them.
pub fn copies(numbers: &[usize]) -> String {
    let list = numbers.iter().map(usize::to_string).collect::<Vec<_>>();
    match list.as_slice() {
        [] => String::new(),
        [one] => format!("copy {one}"),
        [first @ .., last] => format!("copies {} and {last}", first.join(", ")),
    }
}

/// A change in a few words: `copy 2 changed in 3f2a9c1, copy 1 not`.
pub fn in_short(u: &Uneven) -> String {
    let changed: Vec<usize> = u.changed.iter().map(|p| p.copy).collect();
    let at = if u.at.commit.is_empty() { "(not committed)".to_string() } else { format!("in {}", u.at.commit) };
    let missed = match u.missed.len() {
        0 => "each otherwise".to_string(),
        n if n > 3 => format!("{} not", count(n, "copy", "copies")),
        _ => format!("{} not", copies(&u.missed)),
    };
    format!("{} changed {at}, {missed}", copies(&changed))
}
