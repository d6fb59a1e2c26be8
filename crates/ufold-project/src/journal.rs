//! The journal of steps: what was done, with the files as they were before.
//!
//! `.ufold/journal/0007/` holds `step.json` and the before-images `0`, `1`, …. While a step is under way
//! `.ufold/pending` names it; whoever starts next and finds that puts the before-images back.

use std::fs;
use std::path::{Path, PathBuf};
use std::time::{Duration, SystemTime, UNIX_EPOCH};

use serde::{Deserialize, Serialize};
use ufold_core::step::sha256;

use crate::apply::replace;
use crate::root::inside;
use crate::{Error, Result};

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum State {
    Applied,
    Undone,
    /// The check failed, or the step was interrupted.
    Restored,
    Pending,
}

#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Touched {
    pub file: String,
    /// SHA-256 of the text after the step.
    pub after: String,
}

#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Record {
    pub number: u32,
    /// Seconds since 1970.
    pub time: u64,
    pub title: String,
    pub state: State,
    pub saves: i64,
    pub files: Vec<Touched>,
    /// How the check ended; none when there was none.
    pub check: Option<String>,
    pub commit: Option<String>,
}

pub struct Journal {
    root: PathBuf,
}

impl Journal {
    /// Opens the journal; a step that was cut off is taken back first. The second value says so.
    pub fn open(root: &Path) -> Result<(Journal, Option<String>)> {
        let j = Journal { root: root.to_path_buf() };
        let recovered = j.recover()?;
        Ok((j, recovered))
    }

    fn state(&self) -> PathBuf {
        self.root.join(".ufold")
    }

    fn folder(&self, number: u32) -> PathBuf {
        self.state().join("journal").join(format!("{number:04}"))
    }

    /// All records in order.
    pub fn records(&self) -> Result<Vec<Record>> {
        let dir = self.state().join("journal");
        let mut out = Vec::new();
        for e in fs::read_dir(&dir).into_iter().flatten().flatten() {
            let path = e.path().join("step.json");
            if let Ok(text) = fs::read_to_string(&path) {
                let r = serde_json::from_str(&text);
                out.push(r.map_err(|e| Error::Environment(format!("{}: damaged: {e}", path.display())))?);
            }
        }
        out.sort_by_key(|r: &Record| r.number);
        Ok(out)
    }

    fn write_record(&self, r: &Record) -> Result<()> {
        let path = self.folder(r.number).join("step.json");
        let text = serde_json::to_string_pretty(r).expect("a record is plain data");
        let tmp = path.with_extension("tmp");
        fs::write(&tmp, text).and_then(|_| fs::rename(&tmp, &path)).map_err(|e| Error::io("write", path, &e))
    }

    /// Writes down what is about to happen. `files`: path, text before, text after.
    pub fn begin(&self, title: &str, saves: i64, files: &[(String, String, String)]) -> Result<Record> {
        let number = self.records()?.last().map_or(1, |r| r.number + 1);
        let dir = self.folder(number);
        fs::create_dir_all(&dir).map_err(|e| Error::io("write", &dir, &e))?;
        ignore_itself(&self.state())?;
        for (i, (_, before, _)) in files.iter().enumerate() {
            write_synced(&dir.join(i.to_string()), before.as_bytes())?;
        }
        let touched = files.iter().map(|(f, _, a)| Touched { file: f.clone(), after: sha256(a) }).collect();
        let time = SystemTime::now().duration_since(UNIX_EPOCH).unwrap_or(Duration::ZERO).as_secs();
        let r = Record {
            number,
            time,
            title: title.into(),
            state: State::Pending,
            saves,
            files: touched,
            check: None,
            commit: None,
        };
        self.write_record(&r)?;
        write_synced(&self.state().join("pending"), format!("{number} {}", std::process::id()).as_bytes())?;
        Ok(r)
    }

    /// The step stands.
    pub fn finish(&self, r: &mut Record) -> Result<()> {
        r.state = State::Applied;
        self.write_record(r)?;
        self.clear_pending()
    }

    fn clear_pending(&self) -> Result<()> {
        let p = self.state().join("pending");
        fs::remove_file(&p).map_err(|e| Error::io("remove", p, &e))
    }

    /// Puts the before-images back.
    pub fn restore(&self, r: &mut Record, state: State) -> Result<()> {
        for (i, t) in r.files.iter().enumerate() {
            let image = self.folder(r.number).join(i.to_string());
            let before = fs::read(&image).map_err(|e| Error::io("read", image, &e))?;
            replace(&inside(&self.root, &t.file)?, &before)?;
        }
        let pending = r.state == State::Pending;
        r.state = state;
        self.write_record(r)?;
        if pending { self.clear_pending() } else { Ok(()) }
    }

    fn recover(&self) -> Result<Option<String>> {
        let Ok(text) = fs::read_to_string(self.state().join("pending")) else { return Ok(None) };
        let mut words = text.split_whitespace().map(|w| w.parse::<i32>().ok());
        let (Some(Some(number)), Some(Some(pid))) = (words.next(), words.next()) else {
            return self.clear_pending().map(|_| None);
        };
        let own = pid == std::process::id() as i32;
        if !own && nix::sys::signal::kill(nix::unistd::Pid::from_raw(pid), None).is_ok() {
            return Err(Error::Environment(format!("another ufold (process {pid}) is at work here")));
        }
        let records = self.records()?;
        let Some(mut r) = records.into_iter().find(|r| r.number == number as u32) else {
            return self.clear_pending().map(|_| None);
        };
        self.restore(&mut r, State::Restored)?;
        Ok(Some(format!("step {} had been cut off; its files were put back", r.number)))
    }

    /// Takes a step back. Refuses when a file was changed since.
    pub fn undo(&self, number: Option<u32>) -> Result<Record> {
        let records = self.records()?;
        let applied = |r: &&Record| r.state == State::Applied;
        let found = match number {
            Some(n) => records.iter().find(|r| r.number == n),
            None => records.iter().rev().find(applied),
        };
        let Some(r) = found else {
            return Err(Error::Usage(match number {
                Some(n) => format!("there is no step {n}; `ufold log` lists them"),
                None => "there is no step to undo".into(),
            }));
        };
        if r.state != State::Applied {
            return Err(Error::Refused(
                format!("step {} is not applied (it was {:?})", r.number, r.state).to_lowercase(),
            ));
        }
        for t in &r.files {
            let path = inside(&self.root, &t.file)?;
            let now = fs::read_to_string(&path).map_err(|e| Error::io("read", path, &e))?;
            if sha256(&now) != t.after {
                let later = records.iter().rev().find(|o| {
                    o.number > r.number && o.state == State::Applied && o.files.iter().any(|f| f.file == t.file)
                });
                return Err(Error::Refused(match later {
                    Some(o) => format!("{} was changed by step {} since; undo that one first", t.file, o.number),
                    None => format!("{} was changed since step {}; undo would lose those changes", t.file, r.number),
                }));
            }
        }
        let mut r = r.clone();
        self.restore(&mut r, State::Undone)?;
        Ok(r)
    }

    /// Whether a file is as the last step that touched it left it.
    pub fn is_own_change(&self, file: &str) -> bool {
        let records = self.records().unwrap_or_default();
        let last = records
            .iter()
            .rev()
            .filter(|r| r.state == State::Applied)
            .find_map(|r| r.files.iter().find(|t| t.file == file));
        let now = inside(&self.root, file).ok().and_then(|p| fs::read_to_string(p).ok());
        last.zip(now).is_some_and(|(t, now)| sha256(&now) == t.after)
    }

    /// Whether a command is known to pass on a tree.
    pub fn is_green(&self, command: &str, tree: &str) -> bool {
        fs::read_to_string(self.state().join("baseline")).is_ok_and(|t| t == format!("{tree}\n{command}"))
    }

    pub fn set_green(&self, command: &str, tree: &str) -> Result<()> {
        let dir = self.state();
        fs::create_dir_all(&dir).map_err(|e| Error::io("write", &dir, &e))?;
        ignore_itself(&dir)?;
        let path = dir.join("baseline");
        fs::write(&path, format!("{tree}\n{command}")).map_err(|e| Error::io("write", path, &e))
    }
}

fn ignore_itself(dir: &Path) -> Result<()> {
    let path = dir.join(".gitignore");
    if path.exists() {
        return Ok(());
    }
    fs::write(&path, "*\n").map_err(|e| Error::io("write", path, &e))
}

fn write_synced(path: &Path, bytes: &[u8]) -> Result<()> {
    use std::io::Write;
    let write = || -> std::io::Result<()> {
        let mut f = fs::File::create(path)?;
        f.write_all(bytes)?;
        f.sync_all()
    };
    write().map_err(|e| Error::io("write", path, &e))
}
