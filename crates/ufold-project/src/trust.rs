//! Which commands of a tree the user has said yes to. ufold runs none before: a repository that somebody else made brings
//! its own.
//!
//! A yes is for the command's text, where it is run and with which variables, in this folder and no other that later
//! stands in its place. What the command itself runs (scripts, tests, a build file) may change without being asked about
//! again.

use std::collections::BTreeSet;

use serde::{Deserialize, Serialize};
use ufold_core::change::sha256;

use crate::check::Check;
use crate::journal::Journal;
use crate::{Error, Result};

/// One command, with all that says what it does.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Wanted {
    /// What is shown.
    pub line: String,
    key: String,
}

impl Wanted {
    pub fn plain(line: &str) -> Wanted {
        Wanted { line: line.to_string(), key: sha256(line) }
    }

    fn of(line: String, what: &impl Serialize) -> Wanted {
        let key = sha256(serde_json::to_string(&(&line, what)).expect("plain data"));
        Wanted { line, key }
    }
}

/// The commands that running a check means, of `ufold.toml` and of the recordings.
pub fn commands(check: &Check) -> Vec<Wanted> {
    let of_command = |c: &crate::check::Command| {
        let env: String = c.env.iter().map(|(k, v)| format!("{k}={v} ")).collect();
        let folder = if c.folder.is_empty() { String::new() } else { format!("  (in {})", c.folder) };
        Wanted::of(format!("{env}{}{folder}", c.run), &(&c.run, &c.folder, &c.env))
    };
    check.commands.iter().map(of_command).chain(check.recordings.iter().map(recording)).collect()
}

/// What running a recording means.
pub fn recording(r: &crate::recording::Recording) -> Wanted {
    let line = format!("recording {}: {}", r.name, r.command.join(" "));
    Wanted::of(line, &(&r.command, &r.folder, &r.env, &r.inputs))
}

#[derive(Default, Serialize, Deserialize)]
struct Said {
    /// Of the folder that it was said for.
    root: (u64, u64),
    yes: BTreeSet<String>,
}

const FILE: &str = "trust.json";

fn said(journal: &Journal) -> Result<Said> {
    let root = journal.tree().identity()?;
    let text = std::fs::read(journal.place().path(FILE)).ok();
    let kept = text.and_then(|t| serde_json::from_slice::<Said>(&t).ok());
    Ok(kept.filter(|s| s.root == root).unwrap_or(Said { root, yes: BTreeSet::new() }))
}

/// Those that the user has not said yes to.
pub fn unknown<'w>(journal: &Journal, wanted: &'w [Wanted]) -> Result<Vec<&'w Wanted>> {
    let said = said(journal)?;
    Ok(wanted.iter().filter(|w| !said.yes.contains(&w.key)).collect())
}

/// Keeps a yes.
pub fn say_yes(journal: &Journal, wanted: &[Wanted]) -> Result<()> {
    let mut said = said(journal)?;
    said.yes.extend(wanted.iter().map(|w| w.key.clone()));
    journal.place().make()?;
    journal.place().write(&journal.place().path(FILE), &serde_json::to_vec(&said).expect("plain data"))
}

/// Refuses when there is a command that the user has not said yes to.
pub fn require(journal: &Journal, wanted: &[Wanted]) -> Result<()> {
    let new = unknown(journal, wanted)?;
    if new.is_empty() {
        return Ok(());
    }
    let lines: Vec<String> = new.iter().map(|w| format!("  {}", w.line)).collect();
    Err(Error::Refused(format!(
        "this folder wants commands run that you have not said yes to yet; nothing was run\n{}\n\
         `ufold trust` says yes to them from now on, and so does --trust with any command",
        lines.join("\n")
    )))
}
