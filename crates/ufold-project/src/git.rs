//! git, through its public commands.

use std::path::Path;
use std::process::{Command, Output};

use crate::fault::point;
use crate::{Error, Result};

fn git(root: &Path, args: &[&str]) -> Option<Output> {
    Command::new("git").arg("-C").arg(root).args(args).stdin(std::process::Stdio::null()).output().ok()
}

/// Whether the root lies in a git work tree.
pub fn is_repository(root: &Path) -> bool {
    git(root, &["rev-parse", "--is-inside-work-tree"]).is_some_and(|o| o.status.success())
}

/// Those of the files that differ from the last commit.
pub fn uncommitted(root: &Path, files: &[String]) -> Result<Vec<String>> {
    let mut out = Vec::new();
    for f in files {
        let args = ["--literal-pathspecs", "status", "--porcelain", "--", f];
        let o = git(root, &args).ok_or_else(|| Error::Environment("cannot run git".into()))?;
        if !o.status.success() {
            let text = String::from_utf8_lossy(&o.stderr);
            return Err(Error::Environment(format!("git status failed: {}", text.trim())));
        }
        if !o.stdout.is_empty() {
            out.push(f.clone());
        }
    }
    Ok(out)
}

/// Tracked files of the root with changes that are not committed.
pub fn changed(root: &Path) -> Result<Vec<String>> {
    let args = ["status", "--porcelain", "--untracked-files=no", "-z", "--no-renames", "--", "."];
    let o = git(root, &args).ok_or_else(|| Error::Environment("cannot run git".into()))?;
    if !o.status.success() {
        let text = String::from_utf8_lossy(&o.stderr);
        return Err(Error::Environment(format!("git status failed: {}", text.trim())));
    }
    let text = String::from_utf8_lossy(&o.stdout);
    Ok(text.split('\0').filter_map(|l| l.get(3..)).map(str::to_string).collect())
}

/// Commits the files alone; the hash of the commit.
pub fn commit(root: &Path, files: &[String], message: &str) -> Result<String> {
    let mut add = vec!["--literal-pathspecs", "add", "--"];
    add.extend(files.iter().map(String::as_str));
    let mut commit = vec!["--literal-pathspecs", "commit", "-q", "-m", message, "--"];
    commit.extend(files.iter().map(String::as_str));
    for args in [add, commit] {
        point();
        let o = git(root, &args).ok_or_else(|| Error::Environment("cannot run git".into()))?;
        if !o.status.success() {
            let text = format!("{}{}", String::from_utf8_lossy(&o.stdout), String::from_utf8_lossy(&o.stderr));
            return Err(Error::Environment(format!("git {} failed: {}", args[1], text.trim())));
        }
    }
    point();
    let o = git(root, &["rev-parse", "--short", "HEAD"]).ok_or_else(|| Error::Environment("cannot run git".into()))?;
    Ok(String::from_utf8_lossy(&o.stdout).trim().to_string())
}
