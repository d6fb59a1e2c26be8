//! The project's own formatter, for what a step is about to write.
//!
//! The new texts are laid beside their files, under names of their own with the same ending, so that settings in the
//! folders hold for them; the formatter changes those, and what it leaves is what the step writes. So the journal knows all
//! of it before a file of the project changes. Fails with formatters that go by the names of files.

use std::collections::BTreeMap;
use std::fs;
use std::path::PathBuf;
use std::sync::atomic::AtomicBool;
use std::time::Duration;

use crate::apply::Text;
use crate::check::{Job, Verdict, run_process, tail};
use crate::fault::point;
use crate::journal::Journal;
use crate::state::State;
use crate::tree::{Tree, new_name};
use crate::{Error, Result};

/// What the command's files stand for.
pub const FILES: &str = "{files}";

/// In the state: files that lie beside others for the formatter.
const LAID: &str = "formatting.json";

pub struct Formatter<'a> {
    pub line: &'a str,
    pub timeout: Duration,
}

/// Files for the formatter, removed whatever happens.
struct Laid<'a> {
    tree: &'a Tree,
    list: PathBuf,
    paths: Vec<String>,
}

impl Drop for Laid<'_> {
    fn drop(&mut self) {
        self.paths.iter().for_each(|p| self.tree.remove(p));
        let _ = fs::remove_file(&self.list);
    }
}

impl Formatter<'_> {
    /// Puts what the formatter makes of them in the place of the new texts.
    pub fn format(
        &self,
        journal: &Journal,
        texts: &mut [Text],
        stop: &AtomicBool,
        tick: &dyn Fn(Duration),
    ) -> Result<()> {
        let tree = journal.tree();
        let mut places = Vec::new();
        for (i, t) in texts.iter().enumerate().filter(|(_, t)| t.after.is_some()) {
            places.push((i, beside(tree, &t.file)?));
        }
        if places.is_empty() {
            return Ok(());
        }
        let list = journal.place().path(LAID);
        let paths: Vec<String> = places.iter().map(|(_, p)| p.clone()).collect();
        let told = serde_json::to_vec(&paths).map_err(|e| Error::Environment(e.to_string()))?;
        fs::write(&list, told).map_err(|e| Error::io("write", &list, &e))?;
        let laid = Laid { tree, list, paths };
        for (i, path) in &places {
            tree.create(path, texts[*i].after.as_deref().unwrap_or("").as_bytes())?;
        }
        point();
        let names: Vec<String> = laid.paths.iter().map(|p| quoted(p)).collect();
        let words = ["sh".to_string(), "-c".into(), self.line.replace(FILES, &names.join(" "))];
        let (folder, env) = (tree.path(), BTreeMap::new());
        let ran =
            run_process(&Job { folder, words: &words, env: &env, timeout: self.timeout, apart: false }, stop, tick)?;
        if ran.verdict != Verdict::Passed {
            let how = match ran.verdict {
                Verdict::TimedOut => "took too long".to_string(),
                Verdict::Failed(code) => format!("ended with {}", code.map_or("a signal".into(), |c| c.to_string())),
                Verdict::Passed => unreachable!("looked at above"),
            };
            let end = tail(&ran.output, 15);
            return Err(Error::Environment(format!("the formatter `{}` {how}; nothing was written\n{end}", self.line)));
        }
        for (i, path) in &places {
            texts[*i].after = Some(tree.text(path)?);
        }
        Ok(())
    }
}

/// Whether there may be something to [`clean`].
pub fn has_left(state: &State) -> bool {
    state.path(LAID).exists()
}

/// Removes what a formatter that was cut off left; without a list there is nothing.
pub fn clean(tree: &Tree, state: &State) {
    let list = state.path(LAID);
    let Ok(text) = fs::read(&list) else { return };
    let paths: Vec<String> = serde_json::from_slice(&text).unwrap_or_default();
    paths.iter().filter(|p| is_own(p)).for_each(|p| tree.remove(p));
    let _ = fs::remove_file(&list);
}

const OWN: &str = "ufold_formats_";

fn is_own(path: &str) -> bool {
    path.rsplit('/').next().is_some_and(|n| n.starts_with(OWN))
}

/// A name in the folder of a file, or in the nearest one above that is there, with the file's ending.
fn beside(tree: &Tree, file: &str) -> Result<String> {
    let missing = tree.missing_folders(file);
    let folder = match missing.first() {
        Some(first) => first.rsplit_once('/').map_or("", |(f, _)| f),
        None => file.rsplit_once('/').map_or("", |(f, _)| f),
    };
    let ending = file.rsplit('/').next().and_then(|n| n.split_once('.')).map_or("", |(_, e)| e);
    let random: String = new_name()?.chars().filter(char::is_ascii_alphanumeric).collect();
    let slash = if folder.is_empty() { "" } else { "/" };
    Ok(format!("{folder}{slash}{OWN}{random}.{ending}"))
}

/// For a shell.
fn quoted(path: &str) -> String {
    format!("'{}'", path.replace('\'', "'\\''"))
}
