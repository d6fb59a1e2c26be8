//! The journal of steps: what was done, with the files as they were before.
//!
//! `.ufold/journal/0007/` holds `step.json`, `plan.json` and the before-images `0`, `1`, …. While a step or an undo is under way
//! `.ufold/pending` names it. Everything that is needed to go back is on the disk, names and all, before the first file
//! changes; whoever starts next and finds `pending` goes back, or finishes an undo. `.ufold/lock` is held by the program
//! that is at work; the system frees it when that dies.

use std::collections::BTreeMap;
use std::fs;
use std::path::{Path, PathBuf};
use std::time::{Duration, SystemTime, UNIX_EPOCH};

use serde::{Deserialize, Serialize};
use ufold_core::step::{Plan, sha256};

use crate::apply::{Text, beside, put_back, sync_folder};
use crate::check::baseline::Baseline;
use crate::fault::point;
use crate::root::inside;
use crate::{Error, Result};

/// Beside the record, which is read far more often.
const PLAN: &str = "plan.json";

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum State {
    Applied,
    Undone,
    /// The check failed, or the step was interrupted.
    Restored,
    Pending,
}

impl State {
    pub fn word(self) -> &'static str {
        match self {
            State::Applied => "applied",
            State::Undone => "undone",
            State::Restored => "restored",
            State::Pending => "pending",
        }
    }
}

#[derive(Clone, Debug, Serialize, Deserialize, schemars::JsonSchema)]
pub struct Touched {
    pub file: String,
    /// SHA-256 of the text before and after the step.
    pub before: String,
    pub after: String,
}

#[derive(Clone, Debug, Serialize, Deserialize, schemars::JsonSchema)]
pub struct Record {
    pub number: u32,
    /// Seconds since 1970.
    pub time: u64,
    pub title: String,
    /// The finding's id or the place that it was planned for.
    #[serde(default)]
    pub finding: String,
    pub state: State,
    pub saves: i64,
    pub files: Vec<Touched>,
    /// How the check ended; none when there was none.
    pub check: Option<String>,
    /// The check comes with those of later steps.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub unchecked: bool,
    pub commit: Option<String>,
}

pub struct Journal {
    root: PathBuf,
}

/// Held while files change.
pub struct Lock(#[allow(dead_code)] fs::File);

/// What is under way.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Work {
    Step,
    Undo,
}

impl Journal {
    /// Opens the journal; a step that was cut off is taken back first. The second value says so.
    pub fn open(root: &Path) -> Result<(Journal, Option<String>)> {
        let j = Journal { root: root.to_path_buf() };
        let recovered = if j.pending().exists() { j.recover()? } else { None };
        Ok((j, recovered))
    }

    fn state(&self) -> PathBuf {
        self.root.join(".ufold")
    }
    fn pending(&self) -> PathBuf {
        self.state().join("pending")
    }
    fn folder(&self, number: u32) -> PathBuf {
        self.state().join("journal").join(format!("{number:04}"))
    }

    /// Waits for nobody: another ufold at work here is an error.
    pub fn lock(&self) -> Result<Lock> {
        let path = self.state().join("lock");
        fs::create_dir_all(self.state()).map_err(|e| Error::io("write", self.state(), &e))?;
        ignore_itself(&self.state())?;
        let file = fs::File::options().create(true).truncate(false).write(true).open(&path);
        let file = file.map_err(|e| Error::io("write", &path, &e))?;
        match file.try_lock() {
            Ok(()) => Ok(Lock(file)),
            Err(fs::TryLockError::WouldBlock) => {
                Err(Error::Environment("another ufold is at work here; wait until it is done".into()))
            }
            Err(fs::TryLockError::Error(e)) => Err(Error::io("lock", &path, &e)),
        }
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

    pub fn write_record(&self, r: &Record) -> Result<()> {
        let text = serde_json::to_string_pretty(r).expect("a record is plain data");
        write_whole(&self.folder(r.number).join("step.json"), text.as_bytes())
    }

    /// Writes down what is about to happen.
    pub fn begin(&self, mut r: Record, files: &[Text], plan: &Plan) -> Result<Record> {
        r.number = self.next_number();
        let dir = self.folder(r.number);
        r.time = SystemTime::now().duration_since(UNIX_EPOCH).unwrap_or(Duration::ZERO).as_secs();
        let touched = |(f, b, a): &Text| Touched { file: f.clone(), before: sha256(b), after: sha256(a) };
        r.files = files.iter().map(touched).collect();
        r.state = State::Pending;
        let written = fs::create_dir_all(&dir).map_err(|e| Error::io("write", &dir, &e)).and_then(|_| {
            for (i, (file, before, _)) in files.iter().enumerate() {
                let image = dir.join(i.to_string());
                write_synced(&image, before.as_bytes())?;
                let mode = fs::metadata(inside(&self.root, file)?).map(|m| m.permissions());
                mode.and_then(|m| fs::set_permissions(&image, m)).map_err(|e| Error::io("write", &image, &e))?;
            }
            write_synced(&dir.join(PLAN), &serde_json::to_vec(plan).expect("a plan is plain data"))?;
            self.write_record(&r)?;
            sync_folder(&dir);
            self.set_pending(r.number, Work::Step)
        });
        if let Err(e) = written {
            // nothing has changed yet, so nothing has to be known
            let _ = fs::remove_dir_all(&dir);
            return Err(e);
        }
        Ok(r)
    }

    /// What a step was planned to do.
    pub fn plan(&self, number: u32) -> Result<Plan> {
        let path = self.folder(number).join(PLAN);
        let text = fs::read_to_string(&path).map_err(|e| Error::io("read", &path, &e))?;
        serde_json::from_str(&text).map_err(|e| Error::Environment(format!("{}: damaged: {e}", path.display())))
    }

    /// A number that no folder has, not even that of a step that was cut off.
    fn next_number(&self) -> u32 {
        let names = fs::read_dir(self.state().join("journal")).into_iter().flatten().flatten();
        let taken = names.filter_map(|e| e.file_name().to_string_lossy().parse::<u32>().ok());
        taken.max().map_or(1, |n| n + 1)
    }

    fn set_pending(&self, number: u32, work: Work) -> Result<()> {
        let word = if work == Work::Undo { "undo" } else { "step" };
        write_whole(&self.pending(), format!("{number} {word}").as_bytes())
    }

    fn clear_pending(&self) -> Result<()> {
        point();
        fs::remove_file(self.pending()).map_err(|e| Error::io("remove", self.pending(), &e))?;
        sync_folder(&self.pending());
        Ok(())
    }

    /// The step stands from here on.
    pub fn stands(&self, r: &mut Record) -> Result<()> {
        r.state = State::Applied;
        self.write_record(r)
    }

    /// Nothing is under way any more.
    pub fn finish(&self, r: &Record) -> Result<()> {
        self.write_record(r)?;
        self.clear_pending()
    }

    /// Puts the before-images back. What somebody else wrote meanwhile is kept beside them, and said.
    pub fn restore(&self, r: &mut Record, state: State) -> Result<Vec<String>> {
        let notes = self.put_images_back(r, false)?;
        r.state = state;
        self.write_record(r)?;
        self.clear_pending()?;
        Ok(notes)
    }

    /// `spare`: leave files alone that somebody else wrote.
    fn put_images_back(&self, r: &Record, spare: bool) -> Result<Vec<String>> {
        let mut notes = Vec::new();
        for (i, t) in r.files.iter().enumerate() {
            let path = inside(&self.root, &t.file)?;
            if let Ok(real) = path.canonicalize() {
                let _ = fs::remove_file(beside(&real, r.number, i));
            }
            let image = self.folder(r.number).join(i.to_string());
            if is_text(&path, &t.before) {
                continue; // never changed, or back already
            }
            if !is_text(&image, &t.before) {
                let lost = format!("{}: the text before step {} is damaged", image.display(), r.number);
                return Err(Error::Environment(lost));
            }
            if !is_text(&path, &t.after) && path.exists() {
                let kept = image.with_extension("found");
                let (what, place) = match spare {
                    true => ("it stays; its text before the step", &image),
                    false => ("what it had is kept", &kept),
                };
                notes.push(format!("{} was changed by something else: {what} is in {}", t.file, place.display()));
                if spare {
                    continue;
                }
                fs::copy(&path, &kept).map_err(|e| Error::io("write", &kept, &e))?;
            }
            put_back(&image, &path)?;
        }
        Ok(notes)
    }

    fn recover(&self) -> Result<Option<String>> {
        let _lock = self.lock()?;
        let Ok(text) = fs::read_to_string(self.pending()) else { return Ok(None) };
        let (number, work) = text.split_once(' ').unwrap_or((&text, "step"));
        let found = number.parse::<u32>().ok().map(|n| self.folder(n).join("step.json"));
        let record =
            found.and_then(|p| fs::read_to_string(p).ok()).and_then(|t| serde_json::from_str::<Record>(&t).ok());
        let Some(mut r) = record else {
            return Err(Error::Environment(format!(
                "a step was cut off and its record is damaged: see {} and the files in {}",
                self.pending().display(),
                self.state().join("journal").display()
            )));
        };
        if work.trim() == "undo" {
            let notes = self.put_images_back(&r, true)?;
            r.state = State::Undone;
            self.finish(&r)?;
            let done = format!("the undo of step {} had been cut off; it is done now", r.number);
            return Ok(Some([vec![done], notes].concat().join("\n")));
        }
        if r.state == State::Applied {
            self.clear_pending()?;
            return Ok(Some(format!("step {} was done when ufold was cut off; it stands", r.number)));
        }
        let notes = self.put_images_back(&r, true)?;
        r.state = State::Restored;
        self.finish(&r)?;
        let done = format!("step {} had been cut off; its files were put back", r.number);
        Ok(Some([vec![done], notes].concat().join("\n")))
    }

    /// Takes a step back whose check failed later, with those of others; the record says how.
    pub fn take_back(&self, number: u32, why: &str) -> Result<Record> {
        let mut r = self.undo(Some(number))?;
        r.state = State::Restored;
        r.check = Some(why.to_string());
        self.write_record(&r)?;
        Ok(r)
    }

    /// Steps that stand without having been checked, in order.
    pub fn unchecked(&self) -> Result<Vec<Record>> {
        Ok(self.records()?.into_iter().filter(|r| r.unchecked && r.state == State::Applied).collect())
    }

    /// Takes a step back. Refuses when a file was changed since.
    pub fn undo(&self, number: Option<u32>) -> Result<Record> {
        let _lock = self.lock()?;
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
            return Err(Error::Refused(format!("step {} is not applied (it was {})", r.number, r.state.word())));
        }
        for t in &r.files {
            if !is_text(&inside(&self.root, &t.file)?, &t.after) {
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
        self.set_pending(r.number, Work::Undo)?;
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
        last.zip(inside(&self.root, file).ok()).is_some_and(|(t, path)| is_text(&path, &t.after))
    }

    /// The results of the check on the tree that it was last run on.
    pub fn baseline(&self) -> Option<Baseline> {
        serde_json::from_str(&fs::read_to_string(self.state().join("baseline.json")).ok()?).ok()
    }

    pub fn set_baseline(&self, b: &Baseline) -> Result<()> {
        let dir = self.state();
        fs::create_dir_all(&dir).map_err(|e| Error::io("write", &dir, &e))?;
        ignore_itself(&dir)?;
        write_whole(&dir.join("baseline.json"), serde_json::to_string(b).expect("plain data").as_bytes())
    }

    /// Findings whose step was taken back by its check, with the step's number.
    pub fn taken_back(&self) -> Result<BTreeMap<String, u32>> {
        let failed = self.records()?.into_iter().filter(|r| r.state == State::Restored && r.check.is_some());
        Ok(failed.map(|r| (r.finding, r.number)).collect())
    }
}

fn is_text(path: &Path, hash: &str) -> bool {
    fs::read_to_string(path).is_ok_and(|now| sha256(&now) == *hash)
}

fn ignore_itself(dir: &Path) -> Result<()> {
    let path = dir.join(".gitignore");
    if path.exists() {
        return Ok(());
    }
    fs::write(&path, "*\n").map_err(|e| Error::io("write", path, &e))
}

/// A file that is there whole or not at all.
fn write_whole(path: &Path, bytes: &[u8]) -> Result<()> {
    let tmp = path.with_extension("tmp");
    write_synced(&tmp, bytes)?;
    point();
    fs::rename(&tmp, path).map_err(|e| Error::io("write", path, &e))?;
    point();
    sync_folder(path);
    Ok(())
}

fn write_synced(path: &Path, bytes: &[u8]) -> Result<()> {
    use std::io::Write;
    let write = || -> std::io::Result<()> {
        point();
        let mut f = fs::File::create(path)?;
        point();
        f.write_all(bytes)?;
        point();
        f.sync_all()
    };
    write().map_err(|e| Error::io("write", path, &e))
}
