//! The one way a step takes: guard, apply, check, journal, commit; and back, when anything fails.

use std::path::Path;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::Duration;

use ufold_core::step::{Plan, Verdict as PlanVerdict};

use crate::apply::{replace, texts, writable};
use crate::check::{self, Run, Verdict};
use crate::files::fingerprint;
use crate::journal::{Journal, Record, State};
use crate::root::inside;
use crate::{Error, Result, git};

pub struct Options<'a> {
    /// The check's command; none to go without.
    pub check: Option<String>,
    pub timeout: Duration,
    pub commit: bool,
    pub allow_dirty: bool,
    pub strict: bool,
    pub stop: &'a AtomicBool,
    /// Told what is under way and for how long.
    pub tick: &'a dyn Fn(&str, Duration),
}

/// What a step did.
pub struct Done {
    pub record: Record,
    pub check: Option<Duration>,
}

/// Makes sure that the check passes on the tree as it is; the result is kept for the same tree.
pub fn baseline(root: &Path, journal: &Journal, o: &Options) -> Result<()> {
    let Some(command) = &o.check else { return Ok(()) };
    if journal.is_green(command, &fingerprint(root)) {
        return Ok(());
    }
    let run = check::run(root, command, o.timeout, o.stop, &|t| (o.tick)("check before the first step", t))?;
    match run.verdict {
        Verdict::Passed => journal.set_green(command, &fingerprint(root)),
        _ => Err(Error::Refused(format!(
            "the check `{command}` {} before any change; nothing was written\n{}",
            how(&run, o.timeout),
            check::tail(&run.output, 25)
        ))),
    }
}

fn how(run: &Run, timeout: Duration) -> String {
    match run.verdict {
        Verdict::Passed => "passes".into(),
        Verdict::Failed(Some(code)) => format!("fails (exit {code})"),
        Verdict::Failed(None) => "was ended by a signal".into(),
        Verdict::TimedOut => format!("did not end within {} s", timeout.as_secs()),
    }
}

/// Applies a plan, checks it, and takes it back when the check fails.
pub fn step(root: &Path, journal: &Journal, plan: &Plan, title: &str, o: &Options) -> Result<Done> {
    guard(root, journal, plan, o)?;
    let files = texts(root, &plan.result.files)?;
    writable(root, &files)?;
    baseline(root, journal, o)?;
    let mut record = journal.begin(title, plan.result.saves, &files)?;
    let outcome = apply_and_check(root, &files, o);
    let checked = match outcome {
        Ok(c) => c,
        Err(e) => {
            journal.restore(&mut record, State::Restored)?;
            return Err(e);
        }
    };
    if let Some(t) = checked {
        record.check = Some(format!("passed in {:.1} s", t.as_secs_f64()));
    }
    if o.commit {
        let names: Vec<String> = files.iter().map(|f| f.0.clone()).collect();
        let message = format!("{}\n\n{}\nUfold-Step: {}\n", title, details(plan), record.number);
        match git::commit(root, &names, &message) {
            Ok(hash) => record.commit = Some(hash),
            Err(e) => {
                journal.restore(&mut record, State::Restored)?;
                return Err(e);
            }
        }
    }
    journal.finish(&mut record)?;
    if let Some(command) = o.check.as_ref().filter(|_| checked.is_some()) {
        journal.set_green(command, &fingerprint(root))?;
    }
    Ok(Done { record, check: checked })
}

fn guard(root: &Path, journal: &Journal, plan: &Plan, o: &Options) -> Result<()> {
    if o.strict && plan.result.verdict == PlanVerdict::Assumed {
        return Err(Error::Refused("the plan holds only under assumptions, and --strict is set".into()));
    }
    let names: Vec<String> = plan.result.files.iter().map(|f| f.file.clone()).collect();
    for n in &names {
        inside(root, n)?;
    }
    let repository = git::is_repository(root);
    if o.commit && !repository {
        return Err(Error::Usage("--commit: the root is not in a git repository".into()));
    }
    if repository && !o.allow_dirty {
        let mut dirty = git::uncommitted(root, &names)?;
        // what earlier steps wrote is in the journal; only the person's own changes are in danger
        dirty.retain(|f| !journal.is_own_change(f));
        if !dirty.is_empty() {
            return Err(Error::Refused(format!(
                "uncommitted changes in {}; commit them first, or use --allow-dirty",
                dirty.join(", ")
            )));
        }
    }
    Ok(())
}

fn apply_and_check(root: &Path, files: &[(String, String, String)], o: &Options) -> Result<Option<Duration>> {
    for (f, _, after) in files {
        replace(&inside(root, f)?, after.as_bytes())?;
        if o.stop.load(Ordering::Relaxed) {
            return Err(Error::Interrupted);
        }
    }
    let Some(command) = &o.check else { return Ok(None) };
    let run = check::run(root, command, o.timeout, o.stop, &|t| (o.tick)("check after the step", t))?;
    match run.verdict {
        Verdict::Passed => Ok(Some(run.took)),
        _ => Err(Error::CheckFailed {
            message: format!("the check `{command}` {}; every file was put back", how(&run, o.timeout)),
            output: check::tail(&run.output, 40),
        }),
    }
}

/// Where, and what was saved.
fn details(plan: &Plan) -> String {
    let mut out = String::new();
    for s in &plan.result.sites {
        out.push_str(&format!("- {}:{} in {}\n", s.place.file, s.place.start_line, s.within));
    }
    out.push_str(&format!("\nSaves {} lines.\n", plan.result.saves));
    out
}
