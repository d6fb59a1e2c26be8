//! Recordings: what a command printed and wrote, kept under version control as plain files, and compared with what it
//! prints and writes now.
//!
//! `ufold-recordings/NAME/recording.toml` says what to run; a folder beside it, for each row of inputs one, holds
//! `exit`, `stdout`, `stderr` and `files/…`. Kept is what the masks leave, so that a new recording makes no noise in the
//! history.

use std::collections::BTreeMap;
use std::fs;
use std::path::{Path, PathBuf};
use std::sync::atomic::AtomicBool;
use std::time::Duration;

use serde::{Deserialize, Serialize};
use ufold_core::recording::{Mask, masked};

use crate::check::{Job, Verdict, run_process};
use crate::files::{globs, matching, read_text};
use crate::root::inside;
use crate::tree::Tree;
use crate::{Error, Result};

pub const FOLDER: &str = "ufold-recordings";
const SETTINGS: &str = "recording.toml";
const INPUTS: &str = "inputs.csv";
/// Where a recording without a table keeps its output.
const ONLY: &str = "run";

/// What is run and what of it is kept.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Recording {
    #[serde(skip)]
    pub name: String,
    /// The command's words; `{column}` stands for a column of the table of inputs.
    pub command: Vec<String>,
    /// Folder to run it in, relative to the root.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub folder: String,
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    pub env: BTreeMap<String, String>,
    /// Files that it writes, as patterns relative to the folder.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub files: Vec<String>,
    /// What may differ from run to run: names of known masks, or regular expressions.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub masks: Vec<String>,
    /// Seconds for one run.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub timeout: Option<u64>,
    /// The rows of the table of inputs, as text; the first line names the columns.
    #[serde(skip)]
    pub inputs: Option<String>,
}

/// Output of one run: `exit`, `stdout`, `stderr` and `files/…`, by name.
pub type Output = BTreeMap<String, String>;

/// One run compared with what was recorded.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct Comparison {
    /// The recording, and its row where it has a table.
    pub name: String,
    pub changed: Vec<Changed>,
}

/// One part of the output that is not what it was.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct Changed {
    /// `exit`, `stdout`, `stderr` or `files/…`.
    pub part: String,
    pub before: String,
    pub now: String,
}

/// One row of inputs.
struct Row {
    name: String,
    command: Vec<String>,
}

impl Recording {
    pub fn load(root: &Path, name: &str) -> Result<Recording> {
        let path = folder(root, name)?.join(SETTINGS);
        let text = fs::read_to_string(&path).map_err(|_| {
            Error::Usage(format!("there is no recording {name}; `ufold record` without a name lists them"))
        })?;
        let read: Recording = toml::from_str(&text)
            .map_err(|e| Error::Usage(format!("{}: {}", path.display(), e.to_string().trim_end())))?;
        let inputs = fs::read_to_string(path.with_file_name(INPUTS)).ok();
        let r = Recording { name: name.to_string(), inputs, ..read };
        r.valid()?;
        Ok(r)
    }

    /// Refuses what could not be run.
    pub fn valid(&self) -> Result<()> {
        if self.command.is_empty() {
            return Err(Error::Usage(format!("recording {}: no command", self.name)));
        }
        self.masks()?;
        globs(&self.files)?;
        self.rows().map(|_| ())
    }

    fn masks(&self) -> Result<Vec<Mask>> {
        let mask = |m: &String| Mask::new(m).map_err(|e| Error::Usage(format!("recording {}: mask: {e}", self.name)));
        self.masks.iter().map(mask).collect()
    }

    fn rows(&self) -> Result<Vec<Row>> {
        let Some(text) = &self.inputs else {
            return Ok(vec![Row { name: ONLY.into(), command: self.command.clone() }]);
        };
        let wrong = |e: String| Error::Usage(format!("recording {}: {INPUTS}: {e}", self.name));
        let mut reader = csv::ReaderBuilder::new().trim(csv::Trim::All).from_reader(text.as_bytes());
        let columns = reader.headers().map_err(|e| wrong(e.to_string()))?.clone();
        let mut out: Vec<Row> = Vec::new();
        for record in reader.records() {
            let record = record.map_err(|e| wrong(e.to_string()))?;
            let name = record.get(0).unwrap_or("").to_string();
            let plain = name.chars().all(|c| c.is_alphanumeric() || "-_. ".contains(c)) && !name.starts_with('.');
            if name.is_empty() || !plain || out.iter().any(|r| r.name == name) {
                return Err(wrong(format!("`{name}` in the first column can't name a row, or does so twice")));
            }
            let filled = |word: &String| {
                columns.iter().zip(record.iter()).fold(word.clone(), |w, (c, v)| w.replace(&format!("{{{c}}}"), v))
            };
            out.push(Row { name, command: self.command.iter().map(filled).collect() });
        }
        if out.is_empty() { Err(wrong("it has no rows".into())) } else { Ok(out) }
    }

    /// Runs all rows; the masked output of each.
    pub fn run(&self, root: &Path, stop: &AtomicBool, tick: &dyn Fn(Duration)) -> Result<Vec<(String, Output)>> {
        let masks = self.masks()?;
        let run = |row: Row| {
            let raw = self.row(root, &row, stop, tick)?;
            let kept = raw.into_iter().map(|(k, v)| (k, masked(&v, &masks))).collect();
            Ok((row.name, kept))
        };
        self.rows()?.into_iter().map(run).collect()
    }

    fn row(&self, root: &Path, row: &Row, stop: &AtomicBool, tick: &dyn Fn(Duration)) -> Result<Output> {
        let folder = if self.folder.is_empty() { root.to_path_buf() } else { inside(root, &self.folder)? };
        let timeout = Duration::from_secs(self.timeout.unwrap_or(60));
        let job = Job { folder: &folder, words: &row.command, env: &self.env, timeout, apart: true };
        let ran = run_process(&job, stop, tick)?;
        let exit = match ran.verdict {
            Verdict::Passed => "0".to_string(),
            Verdict::Failed(Some(code)) => code.to_string(),
            Verdict::Failed(None) => "ended by a signal".to_string(),
            Verdict::TimedOut => format!("no end within {} s", timeout.as_secs()),
        };
        let mut out =
            Output::from([("exit".into(), exit + "\n"), ("stdout".into(), ran.output), ("stderr".into(), ran.errors)]);
        for path in matching(&folder, &self.files)? {
            let text = read_text(&path).map_err(|e| Error::io("read", &path, &e))?;
            let name = crate::root::slashed(path.strip_prefix(&folder).unwrap_or(&path));
            out.insert(format!("files/{name}"), text);
        }
        Ok(out)
    }

    /// Keeps output as what is right.
    pub fn keep(&self, tree: &Tree, rows: &[(String, Output)]) -> Result<()> {
        let own = format!("{FOLDER}/{}", self.name);
        for name in old_rows(&tree.path().join(&own)) {
            tree.remove_folder(&format!("{own}/{name}"))?;
        }
        for (row, output) in rows {
            for (name, text) in output {
                tree.write(&format!("{own}/{row}/{name}"), text.as_bytes())?;
            }
        }
        if let Some(inputs) = &self.inputs {
            tree.write(&format!("{own}/{INPUTS}"), inputs.as_bytes())?;
        }
        let settings = toml::to_string(self).expect("settings are plain data");
        tree.write(&format!("{own}/{SETTINGS}"), settings.as_bytes())
    }

    fn recorded(&self, root: &Path, row: &str) -> Output {
        let dir = root.join(FOLDER).join(&self.name).join(row);
        let walk = ignore::WalkBuilder::new(&dir).standard_filters(false).build();
        let files = walk.flatten().filter(|e| e.path().is_file());
        let read = |e: ignore::DirEntry| {
            let name = crate::root::slashed(e.path().strip_prefix(&dir).ok()?);
            Some((name, String::from_utf8_lossy(&fs::read(e.path()).ok()?).into_owned()))
        };
        files.filter_map(read).collect()
    }

    /// Runs it and compares with what was recorded.
    pub fn compare(&self, root: &Path, stop: &AtomicBool, tick: &dyn Fn(Duration)) -> Result<Vec<Comparison>> {
        let one = |(row, now): (String, Output)| {
            let name = if self.inputs.is_some() { format!("{}/{row}", self.name) } else { self.name.clone() };
            Comparison { changed: changed(&self.recorded(root, &row), &now), name }
        };
        Ok(self.run(root, stop, tick)?.into_iter().map(one).collect())
    }
}

/// The parts of two outputs that differ.
pub fn changed(before: &Output, now: &Output) -> Vec<Changed> {
    let mut names: Vec<&String> = before.keys().chain(now.keys()).collect();
    names.sort();
    names.dedup();
    let text = |o: &Output, n: &String| o.get(n).cloned().unwrap_or_default();
    let part = |n: &String| Changed { part: n.clone(), before: text(before, n), now: text(now, n) };
    names.into_iter().filter(|n| before.get(*n) != now.get(*n)).map(part).collect()
}

/// All recordings of a root by name.
pub fn all(root: &Path) -> Result<Vec<Recording>> {
    let entries = fs::read_dir(root.join(FOLDER)).into_iter().flatten().flatten();
    let mut names: Vec<String> = entries
        .filter(|e| e.path().join(SETTINGS).is_file())
        .map(|e| e.file_name().to_string_lossy().into_owned())
        .collect();
    names.sort();
    names.iter().map(|n| Recording::load(root, n)).collect()
}

/// The folder of a recording, for a name that can be one.
pub fn folder(root: &Path, name: &str) -> Result<PathBuf> {
    let plain = !name.is_empty() && name.chars().all(|c| c.is_alphanumeric() || "-_".contains(c));
    if !plain {
        return Err(Error::Usage(format!("`{name}` can't name a recording: letters, digits, - and _ can")));
    }
    Ok(root.join(FOLDER).join(name))
}

fn old_rows(dir: &Path) -> Vec<String> {
    let entries = fs::read_dir(dir).into_iter().flatten().flatten();
    entries.filter(|e| e.path().join("exit").is_file()).map(|e| e.file_name().to_string_lossy().into_owned()).collect()
}
