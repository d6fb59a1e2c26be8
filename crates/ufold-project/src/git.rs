//! git, through its public commands, and never more of it than is asked for.
//!
//! No call runs what the tree could bring along: folders that look like a bare repository are not taken for one, no file
//! system monitor is started, looking runs no hooks, and programs that the repository's own settings name are only run
//! when the user has said yes to them (see [`programs`]). Where git can't say what is changed, that is an error, never
//! "nothing".

use std::collections::{BTreeMap, BTreeSet};
use std::fs::File;
use std::path::{Path, PathBuf};
use std::process::{Command, Output, Stdio};

use crate::fault::point;
use crate::{Error, Result};

/// Variables that lead git to another repository, work tree or index.
const LEADING: &[&str] = &[
    "GIT_DIR",
    "GIT_WORK_TREE",
    "GIT_INDEX_FILE",
    "GIT_OBJECT_DIRECTORY",
    "GIT_ALTERNATE_OBJECT_DIRECTORIES",
    "GIT_COMMON_DIR",
    "GIT_NAMESPACE",
    "GIT_PREFIX",
    "GIT_CEILING_DIRECTORIES",
    "GIT_DISCOVERY_ACROSS_FILESYSTEM",
];

/// Hooks that a commit runs.
const HOOKS: &[&str] =
    &["pre-commit", "prepare-commit-msg", "commit-msg", "post-commit", "reference-transaction", "post-index-change"];

/// Paths in one call.
const MOST_PATHS: usize = 400;

fn command(root: &Path) -> Command {
    let mut c = Command::new("git");
    c.args(["--no-pager", "--no-optional-locks", "--literal-pathspecs"]);
    c.args(["-c", "safe.bareRepository=explicit", "-c", "core.fsmonitor=false"]);
    c.arg("-C").arg(root).env("LC_ALL", "C").stdin(Stdio::null());
    for v in LEADING {
        c.env_remove(v);
    }
    c
}

fn output(mut c: Command) -> Result<Output> {
    c.output().map_err(|e| Error::Refused(format!("git can't be run ({e}), so it can't say what is changed")))
}

/// A call that looks, and runs no hook.
pub(crate) fn looking(root: &Path, args: &[&str]) -> Command {
    let mut c = command(root);
    c.args(["-c", "core.hooksPath=/dev/null"]).args(args);
    c
}

pub(crate) fn look(root: &Path, args: &[&str]) -> Result<Output> {
    output(looking(root, args))
}

/// What a looking call prints; that it fails is an error.
pub(crate) fn said(root: &Path, args: &[&str]) -> Result<String> {
    let o = look(root, args)?;
    if !o.status.success() {
        let text = String::from_utf8_lossy(&o.stderr);
        let first = text.trim().lines().next().unwrap_or("").to_string();
        return Err(Error::Refused(format!("git can't say what is changed here: {first}")));
    }
    Ok(String::from_utf8_lossy(&o.stdout).into_owned())
}

/// Whether the root lies in a git work tree. Where there is a repository that git does not want to speak of, that is an
/// error.
pub fn is_repository(root: &Path) -> Result<bool> {
    let marked = root.ancestors().any(|p| p.join(".git").symlink_metadata().is_ok());
    let led: Vec<&&str> = LEADING[..3].iter().filter(|v| std::env::var_os(v).is_some()).collect();
    if !marked {
        return match led.first() {
            None => Ok(false),
            Some(v) => Err(Error::Refused(format!("{v} leads git to a repository that is not the one of this folder"))),
        };
    }
    let inside = said(root, &["rev-parse", "--is-inside-work-tree"])?;
    if inside.trim() != "true" {
        return Err(Error::Refused("git does not take this folder for a work tree".into()));
    }
    if let Some(v) = led.first() {
        let own = said(root, &["rev-parse", "--absolute-git-dir"])?;
        let mut c = Command::new("git");
        c.arg("-C").arg(root).args(["-c", "safe.bareRepository=explicit", "rev-parse", "--absolute-git-dir"]);
        let real = |text: &str| PathBuf::from(text.trim()).canonicalize().ok();
        let other = output(c)?;
        if real(&own).is_none() || real(&own) != real(&String::from_utf8_lossy(&other.stdout)) {
            return Err(Error::Refused(format!("{v} leads git to a repository that is not the one of this folder")));
        }
    }
    Ok(true)
}

/// Programs that git would run for us because this repository's own settings say so, and the hooks of a commit.
pub fn programs(root: &Path, commits: bool) -> Result<Vec<String>> {
    let settings = said(root, &["config", "--list", "--show-scope", "-z"])?;
    let mut parts = settings.split('\0');
    let mut out = Vec::new();
    while let (Some(scope), Some(entry)) = (parts.next(), parts.next()) {
        let (key, value) = entry.split_once('\n').unwrap_or((entry, ""));
        let key = key.to_ascii_lowercase();
        let filter = key.starts_with("filter.") && [".clean", ".smudge", ".process"].iter().any(|e| key.ends_with(e));
        let signing = key.starts_with("gpg.") && (key.ends_with("program") || key.ends_with("command"));
        if ["local", "worktree"].contains(&scope) && (filter || commits && (signing || key == "core.hookspath")) {
            out.push(format!("git setting {key}: {value}"));
        }
    }
    if commits {
        let folder = said(root, &["rev-parse", "--git-path", "hooks"])?;
        let folder = root.join(folder.trim());
        let there = |h: &&&str| folder.join(h).is_file();
        out.extend(HOOKS.iter().filter(there).map(|h| format!("git hook: {}", folder.join(h).display())));
    }
    Ok(out)
}

/// Those of the files that git could not give back as they are, each with why.
pub fn unsettled(root: &Path, files: &[String]) -> Result<BTreeMap<String, &'static str>> {
    let prefix = said(root, &["rev-parse", "--show-prefix"])?;
    let prefix = prefix.trim_end_matches('\n');
    let mut out = BTreeMap::new();
    for part in files.chunks(MOST_PATHS) {
        let names: Vec<&str> = part.iter().map(String::as_str).collect();
        let listed = said(root, &[&["ls-files", "-v", "-z", "--"], &names[..]].concat())?;
        let known: BTreeMap<&str, &str> =
            listed.split('\0').filter_map(|l| l.split_at_checked(2)).map(|(tag, f)| (f, tag)).collect();
        for f in part {
            match known.get(f.as_str()).map(|tag| tag.trim()) {
                None => drop(out.insert(f.clone(), "it is not under version control")),
                Some("H") => {}
                Some(_) => drop(out.insert(f.clone(), "git is told not to look at it, or it is unmerged")),
            }
        }
        let fixed =
            ["status", "--porcelain", "-z", "--no-renames", "--untracked-files=all", "--ignore-submodules=none"];
        let status = said(root, &[&fixed[..], &["--"], &names[..]].concat())?;
        for l in status.split('\0').filter_map(|l| l.get(3..)) {
            let f = l.strip_prefix(prefix).unwrap_or(l).to_string();
            out.entry(f).or_insert("it has changes that are not committed");
        }
    }
    Ok(out)
}

/// Tracked files of the root with changes that are not committed, or that git does not look at.
pub fn changed(root: &Path) -> Result<Vec<String>> {
    let args =
        ["status", "--porcelain", "--untracked-files=no", "-z", "--no-renames", "--ignore-submodules=none", "--", "."];
    let status = said(root, &args)?;
    let mut out: Vec<String> = status.split('\0').filter_map(|l| l.get(3..)).map(str::to_string).collect();
    let listed = said(root, &["ls-files", "-v", "-z"])?;
    let hidden = listed.split('\0').filter_map(|l| l.split_at_checked(2)).filter(|(tag, _)| tag.trim() != "H");
    out.extend(hidden.map(|(_, f)| f.to_string()));
    out.sort();
    out.dedup();
    Ok(out)
}

/// The last commit; none when there is none yet.
pub fn head(root: &Path) -> Result<Option<String>> {
    let o = look(root, &["rev-parse", "--verify", "-q", "HEAD"])?;
    Ok(o.status.success().then(|| String::from_utf8_lossy(&o.stdout).trim().to_string()))
}

/// What keeps a commit of some files from being one of them alone.
pub fn under_way(root: &Path) -> Result<Option<&'static str>> {
    let marks = [
        ("MERGE_HEAD", "a merge"),
        ("CHERRY_PICK_HEAD", "a cherry-pick"),
        ("REVERT_HEAD", "a revert"),
        ("rebase-merge", "a rebase"),
        ("rebase-apply", "a rebase"),
    ];
    for (mark, what) in marks {
        let path = said(root, &["rev-parse", "--git-path", mark])?;
        if root.join(path.trim()).exists() {
            return Ok(Some(what));
        }
    }
    Ok(None)
}

/// A file's text in the last commit, as it would be checked out.
pub fn committed_text(root: &Path, file: &str) -> Result<Option<Vec<u8>>> {
    let o = look(root, &["cat-file", "--filters", &format!("HEAD:./{file}")])?;
    Ok(o.status.success().then_some(o.stdout))
}

/// Commits the files alone, new ones too; the hash of the commit. What else is staged stays staged, and a commit
/// that fails leaves the index as it was. `held`: a lock that git holds as long as it lives.
pub fn commit(root: &Path, files: &[String], message: &str, held: File) -> Result<String> {
    let fresh = unknown(root, files)?;
    if !fresh.is_empty() {
        // git commits alone only what it knows
        let mut c = command(root);
        c.args(["add", "--intent-to-add", "--"]).args(&fresh);
        let o = output(c)?;
        if !o.status.success() {
            return Err(Error::Environment(format!("git add failed: {}", String::from_utf8_lossy(&o.stderr).trim())));
        }
        point();
    }
    let mut c = command(root);
    c.args(["commit", "-q", "-m", message, "--only", "--"]).args(files).stdin(held);
    point();
    let o = output(c)?;
    point();
    if !o.status.success() {
        if !fresh.is_empty() {
            index_follows(root, &fresh)?;
        }
        let text = format!("{}{}", String::from_utf8_lossy(&o.stdout), String::from_utf8_lossy(&o.stderr));
        return Err(Error::Environment(format!("git commit failed: {}", text.trim())));
    }
    short(root)
}

/// Those of the files that are there and that git does not know.
fn unknown(root: &Path, files: &[String]) -> Result<Vec<String>> {
    let mut out = Vec::new();
    for part in files.chunks(MOST_PATHS) {
        let names: Vec<&str> = part.iter().map(String::as_str).collect();
        let listed = said(root, &[&["ls-files", "-z", "--"], &names[..]].concat())?;
        let known: BTreeSet<&str> = listed.split('\0').collect();
        out.extend(part.iter().filter(|f| !known.contains(f.as_str()) && root.join(f).exists()).cloned());
    }
    Ok(out)
}

fn short(root: &Path) -> Result<String> {
    Ok(said(root, &["rev-parse", "--short", "HEAD"])?.trim().to_string())
}

/// The commit of some steps that was made on top of `head`, if it was.
pub fn commit_since(root: &Path, before: Option<&str>, numbers: &[u32]) -> Result<Option<String>> {
    let now = head(root)?;
    let parent = look(root, &["rev-parse", "--verify", "-q", "HEAD^"])?;
    let parent = String::from_utf8_lossy(&parent.stdout).trim().to_string();
    if now.is_none() || now.as_deref() == before || before.is_some_and(|b| b != parent) {
        return Ok(None);
    }
    let message = said(root, &["log", "-1", "--format=%B"])?;
    let all = numbers.iter().all(|n| message.lines().any(|l| l == trailer(*n)));
    if all { short(root).map(Some) } else { Ok(None) }
}

/// The line of a commit's message that names a step.
pub fn trailer(number: u32) -> String {
    format!("Ufold-Step: {number}")
}

/// Lets the index have what the last commit has of some files.
pub fn index_follows(root: &Path, files: &[String]) -> Result<()> {
    let mut c = command(root);
    c.args(["-c", "core.hooksPath=/dev/null", "reset", "-q", "--"]).args(files);
    let o = output(c)?;
    // an exit code of 1 says that other files differ
    let text = String::from_utf8_lossy(&o.stderr).into_owned();
    if text.contains("index.lock") {
        let what = "git was cut off and left its lock: see that no git is at work here, remove the file that it names, and run any ufold command again";
        return Err(Error::Environment(format!("{what}\n{}", text.trim())));
    }
    Ok(())
}
