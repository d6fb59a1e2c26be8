//! Would the check notice? A step's places are broken one at a time in a copy of the tree, and the check is run there.
//!
//! The copy must be what the check runs: a check that runs code installed somewhere else would notice nothing, so the
//! copy is first run as it is, and then with a file that is no code at all. The person's own tree is only read.

use std::path::{Path, PathBuf};
use std::time::{Duration, Instant, SystemTime};

use ufold_core::change::sha256;
use ufold_core::step::Plan;
use ufold_core::step::probe::{Break, breaks};

use crate::check::Check;
use crate::check::baseline::Baseline;
use crate::files::{edited, script_of};
use crate::journal::Record;
use crate::pipeline::Options;
use crate::root::inside;
use crate::tree::Tree;
use crate::{Error, Result};

/// What became of one break.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Noticed {
    /// By a test, a recording or the exit code, in words.
    By(String),
    Not,
    /// The time was up.
    NotTried,
}

/// Of each break of a step, whether the check notices it. `told` hears of each as soon as it is known.
pub fn probe(
    root: &Path,
    record: &Record,
    plan: &Plan,
    check: &Check,
    most: Duration,
    o: &Options,
    told: &mut dyn FnMut(&Break, &Noticed),
) -> Result<Vec<(Break, Noticed)>> {
    let started = Instant::now();
    if plan.result.function.is_none() {
        let what = format!("step {} made no function; there is nothing to break at its sites", record.number);
        return Err(Error::Refused(what));
    }
    let files = as_left(&Tree::open(root)?, record)?;
    let read = |(path, text): &(String, String)| Some((path.clone(), script_of(path, text.clone()).ok()?));
    let list = breaks(plan, &files.iter().filter_map(read).collect::<Vec<_>>());
    let copy = Copy::of(root)?;
    let run = copy.run(check, o, "check of a copy of the tree")?;
    let base = Baseline::of(&copy.root, check, &run, Default::default());
    if !base.judge(&run).is_same() {
        return Err(Error::Refused("the check does not pass in a copy of the tree; it can't be probed there".into()));
    }
    copy.is_what_runs(plan, &files, check, &base, o)?;
    let mut out = Vec::new();
    for (n, b) in list.iter().enumerate() {
        let noticed = if started.elapsed() > most {
            Noticed::NotTried
        } else {
            let text = &files.iter().find(|(f, _)| *f == b.file).expect("a break is in a file of the step").1;
            let broken = edited(&b.file, text, std::slice::from_ref(&b.edit));
            let broken = broken.map_err(|e| Error::Environment(format!("{}: {e}", b.file)))?;
            copy.write(&b.file, &broken)?;
            let run = copy.run(check, o, &format!("break {} of {}", n + 1, list.len()));
            copy.write(&b.file, text)?;
            base.judge(&run?).first().map_or(Noticed::Not, Noticed::By)
        };
        told(b, &noticed);
        out.push((b.clone(), noticed));
    }
    Ok(out)
}

/// The step's files, which must be as it left them.
fn as_left(tree: &Tree, record: &Record) -> Result<Vec<(String, String)>> {
    let read = |t: &crate::journal::Touched| {
        let text = tree.text(&t.file)?;
        if sha256(&text) != t.after {
            return Err(Error::Refused(format!(
                "{} was changed since step {}; its places are no longer known",
                t.file, record.number
            )));
        }
        Ok((t.file.clone(), text))
    };
    record.files.iter().map(read).collect()
}

/// A copy of the tree without version control and ufold's own state.
struct Copy {
    root: PathBuf,
    _folder: tempfile::TempDir,
    /// Each write is newer than the one before, whole seconds apart: tools that keep compiled code go by that.
    clock: std::cell::Cell<u64>,
}

impl Copy {
    fn of(root: &Path) -> Result<Copy> {
        let folder = tempfile::tempdir().map_err(|e| Error::Environment(format!("no temporary folder: {e}")))?;
        let name = root.file_name().unwrap_or(std::ffi::OsStr::new("copy"));
        let to = folder.path().join(name);
        let skip = |e: &ignore::DirEntry| e.depth() == 1 && (e.file_name() == ".git" || e.file_name() == ".ufold");
        let walk = ignore::WalkBuilder::new(root).standard_filters(false).filter_entry(move |e| !skip(e)).build();
        for e in walk {
            let e = e.map_err(|e| Error::Environment(format!("cannot read the tree: {e}")))?;
            let target = to.join(e.path().strip_prefix(root).expect("inside the root"));
            let kind = e.file_type().ok_or_else(|| Error::Environment("cannot read the tree".into()))?;
            let copied = if kind.is_dir() {
                std::fs::create_dir_all(&target)
            } else if kind.is_symlink() {
                std::fs::read_link(e.path()).and_then(|link| std::os::unix::fs::symlink(link, &target))
            } else if kind.is_file() {
                std::fs::copy(e.path(), &target).map(|_| ())
            } else {
                Ok(())
            };
            copied.map_err(|x| Error::io("copy", e.path(), &x))?;
        }
        let root = to.canonicalize().map_err(|e| Error::io("open", &to, &e))?;
        Ok(Copy { root, _folder: folder, clock: std::cell::Cell::new(2) })
    }

    fn write(&self, file: &str, text: &str) -> Result<()> {
        let path = inside(&self.root, file)?;
        let time = SystemTime::now() + Duration::from_secs(self.clock.get());
        self.clock.set(self.clock.get() + 2);
        let write = || -> std::io::Result<()> {
            std::fs::write(&path, text)?;
            std::fs::File::options().write(true).open(&path)?.set_modified(time)
        };
        write().map_err(|e| Error::io("write", &path, &e))
    }

    fn run(&self, check: &Check, o: &Options, what: &str) -> Result<crate::check::Run> {
        o.run(&self.root, check, what)
    }

    /// Code that is none at all in the function's file must be noticed.
    fn is_what_runs(
        &self,
        plan: &Plan,
        files: &[(String, String)],
        check: &Check,
        base: &Baseline,
        o: &Options,
    ) -> Result<()> {
        let home = plan.result.function.as_ref().map_or("", |f| f.file.as_str());
        let Some((file, text)) = files.iter().find(|(f, _)| f == home) else { return Ok(()) };
        self.write(file, "((( no code at all\n")?;
        let run = self.run(check, o, "check of a copy that can't run");
        self.write(file, text)?;
        if base.judge(&run?).is_same() {
            return Err(Error::Refused(format!(
                "the check passes although {file} is no code at all: it does not load that file, or it runs code that is \
                 installed somewhere else"
            )));
        }
        Ok(())
    }
}
