//! What git knows of how files came to be as they are: which lines changed since a revision, which commits changed them,
//! how often a file changes, and older versions of one file.
//!
//! Commits are followed along first parents, so that each stands on the next one told: what a branch did is its merge's.
//! Bounded by commits and by time; what lies further back counts as unknown. Nothing here runs programs that a repository
//! names: no drivers for texts and diffs, no signatures.

use std::collections::{BTreeMap, BTreeSet};
use std::io::{BufRead, BufReader, Read};
use std::path::Path;
use std::process::Stdio;
use std::time::{Duration, Instant};

use ufold_core::find::history::{Commit, FileChange, Hunk, Named};

use crate::git::{look, looking, said};
use crate::{Error, Result};

/// Commits that are looked at.
const MOST_COMMITS: usize = 4000;

/// Git may print for so long.
const PATIENCE: Duration = Duration::from_secs(10);

/// Of what it prints, so much is kept.
const MOST_BYTES: usize = 128 << 20;

/// Versions of one file that are read.
const MOST_VERSIONS: usize = 60;

/// Diffs as this module reads them, whatever the settings are.
const PLAIN: &[&str] = &[
    "--no-ext-diff",
    "--no-textconv",
    "--no-color",
    "--unified=0",
    "--inter-hunk-context=0",
    "--src-prefix=a/",
    "--dst-prefix=b/",
    "--relative",
    "-M",
];

const PLAIN_NAMES: &[&str] =
    &["-c", "core.quotePath=false", "-c", "log.showSignature=false", "-c", "diff.noprefix=false"];

/// The marks around a commit's line in a log; no text of git's own has them.
const MARK: char = '\u{1}';
const FIELD: char = '\u{1f}';

/// Lines of a file, from 1, inclusive; all of a file that git does not have.
#[derive(Clone, Debug, Default)]
pub struct Touched(BTreeMap<String, Option<Vec<(u32, u32)>>>);

impl Touched {
    /// Whether any of the lines was changed.
    pub fn has(&self, file: &str, lines: (u32, u32)) -> bool {
        match self.0.get(file) {
            None => false,
            Some(None) => true,
            Some(Some(all)) => all.iter().any(|(a, z)| *a <= lines.1 && lines.0 <= *z),
        }
    }
}

/// The commit that a revision is.
fn commit_of(root: &Path, revision: &str) -> Result<String> {
    let named = format!("{revision}^{{commit}}");
    let o = look(root, &["rev-parse", "--verify", "-q", "--end-of-options", &named])?;
    if !o.status.success() {
        return Err(Error::Usage(format!("git knows no revision `{revision}` here")));
    }
    Ok(String::from_utf8_lossy(&o.stdout).trim().to_string())
}

/// What differs between a revision, or what the last commit has in common with it, and the files as they are.
pub fn touched_since(root: &Path, revision: &str) -> Result<Touched> {
    let mut from = commit_of(root, revision)?;
    let base = look(root, &["merge-base", &from, "HEAD"])?;
    if base.status.success() {
        from = String::from_utf8_lossy(&base.stdout).trim().to_string();
    }
    let text = said(root, &[PLAIN_NAMES, &["diff"], PLAIN, &[&from]].concat())?;
    let mut out = Touched::default();
    for f in changes(&mut text.lines().map(str::to_string)) {
        let lines = |h: &Hunk| {
            let (from, n) = (h.new_start as u32, h.new.len() as u32);
            // where lines went, those around the gap
            if n == 0 { (from.saturating_sub(1), from) } else { (from, from + n - 1) }
        };
        if let Some(name) = f.new {
            out.0.insert(name, Some(f.hunks.iter().map(lines).collect()));
        }
    }
    let fresh = said(root, &["ls-files", "--others", "--exclude-standard", "-z"])?;
    out.0.extend(fresh.split('\0').filter(|f| !f.is_empty()).map(|f| (f.to_string(), None)));
    Ok(out)
}

/// In how many commits each file was changed, of all that are looked through or of the last ones.
pub fn changes_of_files(root: &Path, last: Option<usize>) -> Result<BTreeMap<String, u32>> {
    let most = format!("-n{}", last.unwrap_or(MOST_COMMITS));
    let args = ["log", "--format=", "--name-only", "--no-renames", "--relative", "-z", "--no-ext-diff", &most];
    let text = said(root, &[PLAIN_NAMES, &args].concat())?;
    let mut out = BTreeMap::new();
    for name in text.split('\0').map(str::trim).filter(|n| !n.is_empty()) {
        *out.entry(name.to_string()).or_default() += 1;
    }
    Ok(out)
}

/// The changes of files, the newest first: what is not committed, and then the commits.
pub fn commits(root: &Path, files: &BTreeSet<String>) -> Result<Vec<Commit>> {
    if files.is_empty() || crate::git::head(root)?.is_none() {
        return Ok(Vec::new());
    }
    let own = said(root, &[PLAIN_NAMES, &["diff"], PLAIN, &["HEAD"]].concat())?;
    let mut out = vec![Commit { named: Named::default(), files: changes(&mut own.lines().map(str::to_string)) }];
    let mut paths = files.clone();
    paths.extend(earlier_names(root, files)?);
    let most = format!("-n{MOST_COMMITS}");
    let form = format!("--format={MARK}%h{FIELD}%cs{FIELD}%s");
    let mut args = [PLAIN_NAMES, &["log", "-p", "--first-parent", "-m", &most, &form], PLAIN, &["--"]].concat();
    args.extend(paths.iter().map(String::as_str));
    out.extend(parse_log(&mut bounded(root, &args)?.into_iter()));
    Ok(out)
}

/// Names that the files had before they were renamed.
fn earlier_names(root: &Path, files: &BTreeSet<String>) -> Result<BTreeSet<String>> {
    let most = format!("-n{MOST_COMMITS}");
    let args =
        ["log", "--format=", "--name-status", "--diff-filter=R", "-M", "--relative", "--first-parent", "-m", &most];
    let mut wanted = files.clone();
    let mut found = BTreeSet::new();
    for line in bounded(root, &[PLAIN_NAMES, &args].concat())? {
        let mut parts = line.split('\t').skip(1);
        if let (Some(old), Some(new)) = (parts.next(), parts.next())
            && wanted.contains(new)
        {
            wanted.insert(old.to_string());
            found.insert(old.to_string());
        }
    }
    Ok(found)
}

/// The lines that git prints, as far as it gets in the time and room that it has.
fn bounded(root: &Path, args: &[&str]) -> Result<Vec<String>> {
    let mut child = looking(root, args)
        .stdout(Stdio::piped())
        .stderr(Stdio::null())
        .spawn()
        .map_err(|e| Error::Environment(format!("git can't be run: {e}")))?;
    let mut reader = BufReader::new(child.stdout.take().expect("its output is piped"));
    let (started, mut lines, mut line, mut bytes) = (Instant::now(), Vec::new(), Vec::new(), 0);
    while reader.by_ref().read_until(b'\n', &mut line).is_ok_and(|n| n > 0) {
        let text = String::from_utf8_lossy(&line);
        lines.push(text.strip_suffix('\n').unwrap_or(&text).to_string());
        bytes += line.len();
        line.clear();
        if started.elapsed() > PATIENCE || bytes > MOST_BYTES {
            // what was cut off in the middle is not whole
            while lines.pop().is_some_and(|l| !l.starts_with(MARK)) {}
            break;
        }
    }
    let _ = child.kill();
    let _ = child.wait();
    Ok(lines)
}

fn parse_log(lines: &mut dyn Iterator<Item = String>) -> Vec<Commit> {
    let mut groups: Vec<(Named, Vec<String>)> = Vec::new();
    for l in lines {
        match (l.strip_prefix(MARK), groups.last_mut()) {
            (Some(head), _) => {
                let mut parts = head.splitn(3, FIELD).map(str::to_string);
                let mut next = || parts.next().unwrap_or_default();
                groups.push((Named { commit: next(), date: next(), subject: next() }, Vec::new()));
            }
            (None, Some((_, own))) => own.push(l),
            (None, None) => {}
        }
    }
    let commit = |(named, own): (Named, Vec<String>)| Commit { named, files: changes(&mut own.into_iter()) };
    groups.into_iter().map(commit).collect()
}

/// The files of a diff without context.
fn changes(lines: &mut dyn Iterator<Item = String>) -> Vec<FileChange> {
    let mut out: Vec<FileChange> = Vec::new();
    let (mut removed, mut added) = (0, 0);
    for l in lines {
        let l = l.strip_suffix('\r').unwrap_or(&l);
        if removed + added > 0 {
            let hunk = out.last_mut().and_then(|f| f.hunks.last_mut());
            match (l.as_bytes().first(), hunk) {
                (Some(b'-'), Some(h)) => {
                    h.old.push(l[1..].to_string());
                    removed -= 1;
                }
                (Some(b'+'), Some(h)) => {
                    h.new.push(l[1..].to_string());
                    added -= 1;
                }
                _ => {}
            }
            continue;
        }
        if l.starts_with("diff --git ") {
            out.push(FileChange::default());
        }
        let Some(file) = out.last_mut() else { continue };
        if let Some(name) = l.strip_prefix("--- ").or_else(|| l.strip_prefix("rename from ")) {
            file.old = name_of(name, "a/");
        } else if let Some(name) = l.strip_prefix("+++ ").or_else(|| l.strip_prefix("rename to ")) {
            file.new = name_of(name, "b/");
        } else if let Some((old, new)) = hunk_head(l) {
            (removed, added) = (old.1, new.1);
            // where there are no lines, git names the one before
            let start = |(at, n): (usize, usize)| if n == 0 { at + 1 } else { at };
            let (old_start, new_start) = (start(old), start(new));
            file.hunks.push(Hunk { old_start, old: Vec::new(), new_start, new: Vec::new() });
        }
    }
    out
}

fn name_of(written: &str, prefix: &str) -> Option<String> {
    let written = written.trim_end_matches('\t');
    let name = match written.strip_prefix('"').and_then(|w| w.strip_suffix('"')) {
        Some(inner) => inner.replace("\\t", "\t").replace("\\\"", "\"").replace("\\\\", "\\"),
        None => written.to_string(),
    };
    (name != "/dev/null").then(|| name.strip_prefix(prefix).unwrap_or(&name).to_string())
}

/// Start and count of both sides, of `@@ -3,2 +3,4 @@`.
fn hunk_head(line: &str) -> Option<((usize, usize), (usize, usize))> {
    let rest = line.strip_prefix("@@ -")?;
    let (old, rest) = rest.split_once(" +")?;
    let (new, _) = rest.split_once(" @@")?;
    let pair = |t: &str| match t.split_once(',') {
        Some((a, n)) => Some((a.parse().ok()?, n.parse().ok()?)),
        None => Some((t.parse().ok()?, 1)),
    };
    Some((pair(old)?, pair(new)?))
}

/// The last commit; none where there is none yet.
pub fn last_commit(root: &Path) -> Result<Option<Named>> {
    if crate::git::head(root)?.is_none() {
        return Ok(None);
    }
    let form = format!("--format={MARK}%h{FIELD}%cs{FIELD}%s");
    let text = said(root, &[PLAIN_NAMES, &["log", "-n1", &form]].concat())?;
    Ok(parse_log(&mut text.lines().map(str::to_string)).pop().map(|c| c.named))
}

/// The versions of one file in the commits that changed it, the oldest first; of many, the last ones.
pub fn versions(root: &Path, file: &str) -> Result<Vec<(Named, String)>> {
    if crate::git::head(root)?.is_none() {
        return Ok(Vec::new());
    }
    let form = format!("--format={MARK}%h{FIELD}%cs{FIELD}%s");
    let most = format!("-n{MOST_VERSIONS}");
    let args = [PLAIN_NAMES, &["log", "--first-parent", &most, &form, "--", file]].concat();
    let mut out = Vec::new();
    for c in parse_log(&mut bounded(root, &args)?.into_iter()) {
        let o = look(root, &["cat-file", "blob", &format!("{}:./{file}", c.named.commit)])?;
        if o.status.success() {
            out.insert(0, (c.named, String::from_utf8_lossy(&o.stdout).into_owned()));
        }
    }
    Ok(out)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_log_with_odd_names_and_lines_is_read() {
        let text = "\u{1}3f2a\u{1f}2031-05-04\u{1f}Round up\n\n\
diff --git a/fees.py b/fees.py\nindex 1..2 100644\n--- a/fees.py\n+++ b/fees.py\n@@ -3,2 +3 @@ def fee():\n-    a\n--- b\n+    c\n\
@@ -9,0 +9,2 @@\n+@@ -1 +1 @@\n++++ x\n\
diff --git a/old name.py b/new.py\nsimilarity index 100%\nrename from old name.py\nrename to new.py\n\
diff --git a/gone.py b/gone.py\ndeleted file mode 100644\n--- a/gone.py\n+++ /dev/null\n@@ -1 +0,0 @@\n-x\n\\ No newline at end of file\n\
\u{1}11aa\u{1f}2031-05-03\u{1f}Start\n";
        let all = parse_log(&mut text.lines().map(str::to_string));
        assert_eq!(all.len(), 2);
        assert_eq!(all[0].named.subject, "Round up");
        let f = &all[0].files;
        assert_eq!(f[0].hunks[0].old, ["    a", "-- b"]);
        assert_eq!((f[0].hunks[0].old_start, f[0].hunks[0].new_start), (3, 3));
        assert_eq!(f[0].hunks[1].new, ["@@ -1 +1 @@", "+++ x"]);
        assert_eq!((f[0].hunks[1].old_start, f[0].hunks[1].new_start), (10, 9));
        assert_eq!((f[1].old.as_deref(), f[1].new.as_deref()), (Some("old name.py"), Some("new.py")));
        assert_eq!((f[2].new.as_deref(), f[2].hunks[0].new_start), (None, 1));
    }
}
