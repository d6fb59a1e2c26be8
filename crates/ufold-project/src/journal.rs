//! The journal of steps: what was done, with the files as they were before.
//!
//! In the project's state (see [`crate::state`]) `journal/0007/` holds `step.json`, `plan.json` and the before-images `0`, `1`,
//! …. While a step, an undo or a commit is under way `pending` names it. Everything that is needed to go back is on the
//! disk, names and all, before the first file changes; whoever starts next and finds `pending` goes back, or finishes an
//! undo or a commit. `lock` is held by the program that is at work; the system frees it when that dies. `git` is held by a
//! git that commits, so that one that outlives ufold is waited for.

use std::collections::BTreeMap;
use std::fs;
use std::path::{Path, PathBuf};
use std::time::{Duration, Instant, SystemTime, UNIX_EPOCH};

use serde::{Deserialize, Serialize};
use ufold_core::change::sha256;
use ufold_core::step::Plan;

use crate::apply::{NO_FILE, Text, clear_beside, put_back, take_away};
use crate::check::baseline::Baseline;
use crate::fault::point;
use crate::state::{State as Place, sync_folder};
use crate::tree::{Tree, new_name};
use crate::{Error, Result, git};

/// Beside the record, which is read far more often.
const PLAN: &str = "plan.json";

/// How long a commit may still take whose ufold is gone.
const GIT_ENDS: Duration = Duration::from_secs(20);

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
    /// SHA-256 of the text before and after the step; empty where there is no file.
    pub before: String,
    pub after: String,
    /// Folders that were made for it, the outermost first.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub folders: Vec<String>,
    /// Name of the file that stands beside it while it is replaced.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub beside: String,
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
    /// What else is to be known of how it ended.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub notes: Vec<String>,
    pub commit: Option<String>,
}

impl Record {
    /// A step that is about to begin.
    pub fn new(plan: &Plan, title: &str) -> Record {
        Record {
            number: 0,
            time: 0,
            title: title.into(),
            finding: plan.request.finding().to_string(),
            state: State::Pending,
            saves: plan.result.saves,
            files: Vec::new(),
            check: None,
            unchecked: false,
            notes: Vec::new(),
            commit: None,
        }
    }

    /// It stands, and no commit has it.
    pub fn is_uncommitted(&self) -> bool {
        self.state == State::Applied && self.commit.is_none()
    }
}

pub struct Journal {
    tree: Tree,
    place: Place,
}

/// Held while files change.
pub struct Lock(#[allow(dead_code)] fs::File);

/// What is under way.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
enum Work {
    Step {
        number: u32,
    },
    Undo {
        number: u32,
    },
    /// A commit of these steps on top of a commit.
    Commit {
        numbers: Vec<u32>,
        head: Option<String>,
        files: Vec<String>,
    },
}

impl Journal {
    /// Opens the journal; a step that was cut off is taken back first. The second value says so.
    pub fn open(root: &Path) -> Result<(Journal, Option<String>)> {
        Journal::open_in(root, Place::of(root)?)
    }

    /// Opens the journal that is kept in a place.
    pub fn open_in(root: &Path, place: Place) -> Result<(Journal, Option<String>)> {
        place.check()?;
        let j = Journal { tree: Tree::open(root)?, place };
        let cut_off = j.pending().exists() || crate::format::has_left(&j.place);
        let recovered = if cut_off { j.recover()? } else { None };
        Ok((j, recovered))
    }

    pub fn tree(&self) -> &Tree {
        &self.tree
    }

    pub fn place(&self) -> &Place {
        &self.place
    }

    fn pending(&self) -> PathBuf {
        self.place.path("pending")
    }
    fn folder(&self, number: u32) -> PathBuf {
        self.place.path("journal").join(format!("{number:04}"))
    }

    /// Waits for nobody: another ufold at work here is an error.
    pub fn lock(&self) -> Result<Lock> {
        self.place.make()?;
        let other = || Error::Environment("another ufold is at work here; wait until it is done".into());
        let lock = lock_of(&self.place.path("lock"))?.ok_or_else(other)?;
        // a person who looks into the folder shall know whose it is
        self.place.write(&self.place.path("root"), format!("{}\n", self.tree.path().display()).as_bytes())?;
        Ok(Lock(lock))
    }

    /// The lock that a git at work holds.
    pub fn git_lock(&self) -> Result<fs::File> {
        let still = || Error::Environment("git is still at work on an earlier commit; wait until it is done".into());
        let started = Instant::now();
        loop {
            match lock_of(&self.place.path("git"))? {
                Some(f) => return Ok(f),
                None if started.elapsed() > GIT_ENDS => return Err(still()),
                None => std::thread::sleep(Duration::from_millis(50)),
            }
        }
    }

    /// All records in order.
    pub fn records(&self) -> Result<Vec<Record>> {
        let dir = self.place.path("journal");
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
        self.place.write(&self.folder(r.number).join("step.json"), text.as_bytes())
    }

    /// Writes down what is about to happen.
    pub fn begin(&self, mut r: Record, files: &[Text], plan: &Plan) -> Result<Record> {
        r.number = self.next_number();
        r.time = SystemTime::now().duration_since(UNIX_EPOCH).unwrap_or(Duration::ZERO).as_secs();
        let touched = |t: &Text| {
            let (before, after) = (Text::hash(t.before.as_ref()), Text::hash(t.after.as_ref()));
            let folders = self.tree.missing_folders(&t.file);
            Ok(Touched { file: t.file.clone(), before, after, folders, beside: new_name()? })
        };
        r.files = files.iter().map(touched).collect::<Result<_>>()?;
        r.state = State::Pending;
        let dir = self.folder(r.number);
        let written = self.keep(&r, files, plan).and_then(|_| {
            sync_folder(&dir);
            self.set_pending(&Work::Step { number: r.number })
        });
        if let Err(e) = written {
            // nothing has changed yet, so nothing has to be known
            let _ = fs::remove_dir_all(&dir);
            return Err(e);
        }
        Ok(r)
    }

    /// Writes a step's record and what leads back from it, where that is not there.
    pub fn keep(&self, r: &Record, files: &[Text], plan: &Plan) -> Result<()> {
        let dir = self.folder(r.number);
        for (i, t) in files.iter().enumerate() {
            let image = dir.join(i.to_string());
            if let Some(before) = t.before.as_ref().filter(|_| !image.exists()) {
                self.place.write(&image, before.as_bytes())?;
            }
        }
        if !dir.join(PLAN).exists() {
            self.place.write(&dir.join(PLAN), &serde_json::to_vec(plan).expect("a plan is plain data"))?;
        }
        self.write_record(r)
    }

    /// What a step was planned to do.
    pub fn plan(&self, number: u32) -> Result<Plan> {
        let path = self.folder(number).join(PLAN);
        let text = fs::read_to_string(&path).map_err(|e| Error::io("read", &path, &e))?;
        serde_json::from_str(&text).map_err(|e| Error::Environment(format!("{}: damaged: {e}", path.display())))
    }

    /// A number that no folder has, not even that of a step that was cut off.
    fn next_number(&self) -> u32 {
        let names = fs::read_dir(self.place.path("journal")).into_iter().flatten().flatten();
        let taken = names.filter_map(|e| e.file_name().to_string_lossy().parse::<u32>().ok());
        taken.max().map_or(1, |n| n + 1)
    }

    fn set_pending(&self, work: &Work) -> Result<()> {
        self.place.write(&self.pending(), &serde_json::to_vec(work).expect("plain data"))
    }

    fn clear_pending(&self) -> Result<()> {
        point();
        match fs::remove_file(self.pending()) {
            Err(e) if e.kind() != std::io::ErrorKind::NotFound => return Err(Error::io("remove", self.pending(), &e)),
            _ => {}
        }
        sync_folder(self.place.folder());
        Ok(())
    }

    /// A commit of steps is about to be made.
    pub fn committing(&self, numbers: &[u32], files: &[String]) -> Result<()> {
        let head = git::head(self.tree.path())?;
        self.set_pending(&Work::Commit { numbers: numbers.to_vec(), head, files: files.to_vec() })
    }

    /// Nothing is under way any more.
    pub fn finish(&self, r: &Record) -> Result<()> {
        self.write_record(r)?;
        self.clear_pending()
    }

    /// The commit that was under way is made, or is not.
    pub fn committed(&self) -> Result<()> {
        self.clear_pending()
    }

    /// Puts the before-images back, from `memory` where they are gone. What somebody else wrote meanwhile is kept, and
    /// said.
    pub fn restore(&self, r: &mut Record, memory: &[Text]) -> Result<Vec<String>> {
        let notes = self.put_images_back(r, false, memory)?;
        r.state = State::Restored;
        self.finish(r)?;
        Ok(notes)
    }

    /// The text of a file before a step; none when there was no file.
    fn image(&self, r: &Record, i: usize, memory: &[Text]) -> Result<Option<Vec<u8>>> {
        if r.files[i].before == NO_FILE {
            return Ok(None);
        }
        let path = self.folder(r.number).join(i.to_string());
        let remembered = || memory.get(i).and_then(|t| t.before.clone()).map(String::into_bytes);
        let kept = fs::read(&path).ok().or_else(remembered);
        kept.filter(|bytes| sha256(bytes) == r.files[i].before).map(Some).ok_or_else(|| {
            let what = format!("the text of {} before step {} is missing or damaged", r.files[i].file, r.number);
            Error::Environment(format!("{what} ({}); nothing was put back", path.display()))
        })
    }

    /// `spare`: leave files alone that somebody else wrote.
    fn put_images_back(&self, r: &Record, spare: bool, memory: &[Text]) -> Result<Vec<String>> {
        for t in &r.files {
            clear_beside(&self.tree, &t.file, &t.beside, [&t.before, &t.after])?;
        }
        // all or nothing
        let images = (0..r.files.len()).map(|i| match self.tree.has(&r.files[i].file, &r.files[i].before) {
            true => Ok(None), // never changed, or back already
            false => self.image(r, i, memory).map(Some),
        });
        let images = images.collect::<Result<Vec<_>>>()?;
        let mut notes = Vec::new();
        for (i, (t, image)) in r.files.iter().zip(&images).enumerate() {
            let Some(image) = image else { continue };
            notes.extend(self.put_image_back(r, i, t, image.as_deref(), spare)?);
        }
        for t in r.files.iter().filter(|t| t.before == NO_FILE) {
            t.folders.iter().rev().for_each(|f| self.tree.remove_empty(f));
        }
        Ok(notes)
    }

    fn put_image_back(
        &self,
        r: &Record,
        i: usize,
        t: &Touched,
        image: Option<&[u8]>,
        spare: bool,
    ) -> Result<Option<String>> {
        let dir = self.folder(r.number);
        let mut note = None;
        for _ in 0..10 {
            let now = self.tree.read(&t.file)?;
            if let Some(found) = now.as_ref().filter(|f| f.hash() != t.after) {
                let kept = dir.join(format!("{i}.found"));
                let what = match (spare, image.is_some()) {
                    (true, true) => {
                        format!("it stays; its text before the step is in {}", dir.join(i.to_string()).display())
                    }
                    (true, false) => "it stays; before the step it was not there".to_string(),
                    (false, _) => format!("what it had is kept in {}", kept.display()),
                };
                note = Some(format!("{} was changed by something else: {what}", t.file));
                if spare {
                    return Ok(note);
                }
                self.place.write(&kept, &found.bytes)?;
            }
            let done = match (image, &now) {
                (Some(bytes), _) => put_back(&self.tree, &t.file, &t.beside, bytes, now.as_ref())?,
                (None, Some(found)) => take_away(&self.tree, &t.file, &t.beside, found)?,
                (None, None) => true,
            };
            if done {
                return Ok(note);
            }
        }
        Err(Error::Environment(format!("{} is written all the time by something else", t.file)))
    }

    fn recover(&self) -> Result<Option<String>> {
        let _lock = self.lock()?;
        crate::format::clean(&self.tree, &self.place);
        let Ok(text) = fs::read(self.pending()) else { return Ok(None) };
        let damaged = || {
            let (pending, journal) = (self.pending(), self.place.path("journal"));
            Error::Environment(format!(
                "a step was cut off and its record is damaged: see {} and the files in {}",
                pending.display(),
                journal.display()
            ))
        };
        let work: Work = serde_json::from_slice(&text).map_err(|_| damaged())?;
        let record = |n: u32| {
            let text = fs::read(self.folder(n).join("step.json")).ok();
            text.and_then(|t| serde_json::from_slice::<Record>(&t).ok()).ok_or_else(damaged)
        };
        let (done, notes) = match work {
            Work::Undo { number } => {
                let mut r = record(number)?;
                let notes = self.put_images_back(&r, true, &[])?;
                r.state = State::Undone;
                self.finish(&r)?;
                (format!("the undo of step {number} had been cut off; it is done now"), notes)
            }
            Work::Step { number } => self.recover_step(record(number)?)?,
            Work::Commit { numbers, head, files } => {
                let _git = self.git_lock()?;
                let records = numbers.iter().map(|n| record(*n)).collect::<Result<Vec<_>>>()?;
                self.recover_commit(records, head, &files)?
            }
        };
        Ok(Some([vec![done], notes].concat().join("\n")))
    }

    fn recover_step(&self, mut r: Record) -> Result<(String, Vec<String>)> {
        if r.state == State::Applied {
            self.clear_pending()?;
            return Ok((format!("step {} was done when ufold was cut off; it stands", r.number), Vec::new()));
        }
        let notes = self.put_images_back(&r, true, &[])?;
        r.state = State::Restored;
        self.finish(&r)?;
        Ok((format!("step {} had been cut off; its files were put back", r.number), notes))
    }

    /// Tree, index and last commit go on together, or back together.
    fn recover_commit(
        &self,
        records: Vec<Record>,
        head: Option<String>,
        files: &[String],
    ) -> Result<(String, Vec<String>)> {
        let numbers: Vec<u32> = records.iter().map(|r| r.number).collect();
        let Some(hash) = git::commit_since(self.tree.path(), head.as_deref(), &numbers)? else {
            let pending: Vec<Record> = records.iter().filter(|r| r.state == State::Pending).cloned().collect();
            // new files that git was told of, and that no commit has
            let fresh = records.iter().flat_map(|r| &r.files).filter(|t| t.before == NO_FILE).map(|t| t.file.clone());
            let fresh: Vec<String> = fresh.collect();
            if !fresh.is_empty() {
                git::index_follows(self.tree.path(), &fresh)?;
            }
            return match pending.into_iter().next() {
                Some(r) => self.recover_step(r),
                None => {
                    self.clear_pending()?;
                    Ok(("a commit had been cut off; its steps stand, and are not committed".into(), Vec::new()))
                }
            };
        };
        // the last of git's moves may be missing
        git::index_follows(self.tree.path(), files)?;
        for mut r in records {
            r.state = State::Applied;
            r.commit = Some(hash.clone());
            self.write_record(&r)?;
        }
        self.clear_pending()?;
        Ok((format!("ufold had been cut off after commit {hash}; it stands"), Vec::new()))
    }

    /// Takes a step back whose check failed later, with those of others; the record says how.
    pub fn take_back(&self, number: u32, why: &str) -> Result<Record> {
        let (mut r, notes) = self.undo(Some(number))?;
        r.notes.extend(notes);
        r.state = State::Restored;
        r.check = Some(why.to_string());
        self.write_record(&r)?;
        Ok(r)
    }

    /// Steps that stand without having been checked, in order.
    pub fn unchecked(&self) -> Result<Vec<Record>> {
        Ok(self.records()?.into_iter().filter(|r| r.unchecked && r.state == State::Applied).collect())
    }

    /// Takes a step back, and says what could not be put back as it was. Refuses when a file was changed since.
    pub fn undo(&self, number: Option<u32>) -> Result<(Record, Vec<String>)> {
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
        for (i, t) in r.files.iter().enumerate() {
            self.image(r, i, &[])?;
            if !self.tree.has(&t.file, &t.after) {
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
        self.set_pending(&Work::Undo { number: r.number })?;
        let notes = self.put_images_back(&r, true, &[])?;
        r.state = State::Undone;
        self.finish(&r)?;
        Ok((r, notes))
    }

    /// Whether a file is as the last step that touched it left it.
    pub fn is_own_change(&self, file: &str) -> bool {
        let records = self.records().unwrap_or_default();
        let last = records
            .iter()
            .rev()
            .filter(|r| r.state == State::Applied)
            .find_map(|r| r.files.iter().find(|t| t.file == file));
        last.is_some_and(|t| self.tree.has(file, &t.after))
    }

    /// The results of the check on the tree that it was last run on.
    pub fn baseline(&self) -> Option<Baseline> {
        serde_json::from_str(&fs::read_to_string(self.place.path("baseline.json")).ok()?).ok()
    }

    pub fn set_baseline(&self, b: &Baseline) -> Result<()> {
        self.place.make()?;
        self.place.write(&self.place.path("baseline.json"), serde_json::to_string(b).expect("plain data").as_bytes())
    }

    /// Findings whose step was taken back by its check, with the step's number.
    pub fn taken_back(&self) -> Result<BTreeMap<String, u32>> {
        let failed = self.records()?.into_iter().filter(|r| r.state == State::Restored && r.check.is_some());
        Ok(failed.map(|r| (r.finding, r.number)).collect())
    }
}

/// A file that is locked as long as it is open; none when somebody else holds it.
fn lock_of(path: &Path) -> Result<Option<fs::File>> {
    let file = fs::File::options().create(true).truncate(false).read(true).write(true).open(path);
    let file = file.map_err(|e| Error::io("write", path, &e))?;
    match file.try_lock() {
        Ok(()) => Ok(Some(file)),
        Err(fs::TryLockError::WouldBlock) => Ok(None),
        Err(fs::TryLockError::Error(e)) => Err(Error::io("lock", path, &e)),
    }
}
