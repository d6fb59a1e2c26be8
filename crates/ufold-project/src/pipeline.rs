//! The one way a step takes: guard, apply, check, journal, commit; and back, when anything fails.

use std::collections::BTreeSet;
use std::path::Path;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::Duration;

use ufold_core::outcome::unsteady;
use ufold_core::step::{Plan, Verdict as PlanVerdict};

use crate::apply::{Text, replace_all, texts, writable};
use crate::check::baseline::{Baseline, Judgement};
use crate::check::{Check, Run, tail};
use crate::fault::point;
use crate::files::fingerprint;
use crate::journal::{Journal, Record, State};
use crate::root::inside;
use crate::{Error, Result, git};

pub struct Options<'a> {
    /// None to go without.
    pub check: Option<Check>,
    /// The check comes later, with those of other steps.
    pub check_later: bool,
    pub commit: bool,
    pub allow_dirty: bool,
    pub strict: bool,
    pub stop: &'a AtomicBool,
    /// Told what is under way and for how long.
    pub tick: &'a dyn Fn(&str, Duration),
}

impl Options<'_> {
    pub fn run(&self, root: &Path, check: &Check, what: &str) -> Result<Run> {
        check.run(root, self.stop, &|t| (self.tick)(what, t))
    }
}

/// What a step did.
pub struct Done {
    pub record: Record,
    /// How the check went, in words.
    pub check: Option<String>,
}

/// The results of the check on the tree as it is: those that are known for it, or those of a run.
pub fn baseline(root: &Path, journal: &Journal, check: &Check, o: &Options) -> Result<Baseline> {
    if let Some(b) = journal.baseline().filter(|b| b.holds_for(root, check)) {
        return Ok(b);
    }
    let run = o.run(root, check, "check before the first step")?;
    // tests that are known to change their mind do so on any tree
    let known = journal.baseline().map_or(BTreeSet::new(), |b| b.unsteady);
    let b = Baseline::of(root, check, &run, known);
    let judged = b.judge(&run);
    if judged.is_same() {
        journal.set_baseline(&b)?;
        return Ok(b);
    }
    Err(Error::Refused(format!(
        "{} before any change; nothing was written\n{}",
        judged.lines().join("; "),
        tail(&run.output, 25)
    )))
}

/// Runs the check twice on the tree as it is: the baseline, with the tests that differ, and both runs.
pub fn steady_baseline(root: &Path, journal: &Journal, check: &Check, o: &Options) -> Result<(Baseline, [Run; 2])> {
    let first = o.run(root, check, "first run of the check")?;
    let second = o.run(root, check, "second run of the check")?;
    let b = Baseline::of(root, check, &second, unsteady(&first.results, &second.results));
    if b.judge(&second).is_same() {
        journal.set_baseline(&b)?;
    }
    Ok((b, [first, second]))
}

/// Applies a plan, checks it, and takes it back when the check tells of a change.
pub fn step(root: &Path, journal: &Journal, plan: &Plan, title: &str, o: &Options) -> Result<Done> {
    let _lock = journal.lock()?;
    guard(root, journal, plan, o)?;
    let files = texts(root, &plan.result.files)?;
    writable(root, &files)?;
    let now = o.check.as_ref().filter(|_| !o.check_later);
    let before = now.map(|c| baseline(root, journal, c, o)).transpose()?;
    let record = Record {
        number: 0,
        time: 0,
        title: title.into(),
        finding: plan.request.finding.clone(),
        state: State::Pending,
        saves: plan.result.saves,
        files: Vec::new(),
        check: None,
        unchecked: o.check.is_some() && o.check_later,
        commit: None,
    };
    let mut record = journal.begin(record, &files, plan)?;
    point();
    let checked = apply_and_check(root, record.number, &files, now.zip(before.as_ref()), o);
    point();
    let run = match checked {
        Ok(run) => run,
        Err(e) => return Err(take_back(journal, &mut record, e)),
    };
    let words = run.as_ref().map(passed);
    record.check = words.clone();
    journal.stands(&mut record)?;
    if o.commit {
        let names: Vec<String> = files.iter().map(|f| f.0.clone()).collect();
        match git::commit(root, &names, &message(plan, &record)) {
            Ok(hash) => record.commit = Some(hash),
            Err(e) => return Err(take_back(journal, &mut record, e)),
        }
    }
    journal.finish(&record)?;
    point();
    if let (Some(check), Some(run), Some(b)) = (now, &run, before) {
        journal.set_baseline(&Baseline::of(root, check, run, b.unsteady))?;
    }
    Ok(Done { record, check: words })
}

/// Puts everything back after an error; the error with what had to be said.
fn take_back(journal: &Journal, record: &mut Record, e: Error) -> Error {
    if let Error::CheckFailed { message, .. } = &e {
        record.check = Some(message.lines().next().unwrap_or("failed").to_string());
    }
    match journal.restore(record, State::Restored) {
        Ok(notes) if notes.is_empty() => e,
        Ok(notes) => match e {
            Error::CheckFailed { message, output } => {
                Error::CheckFailed { message: format!("{message}\n{}", notes.join("\n")), output }
            }
            other => Error::Environment(format!("{other}\n{}", notes.join("\n"))),
        },
        Err(worse) => Error::Environment(format!("{e}\nand putting back failed: {worse}; the next ufold tries again")),
    }
}

/// `passed in 1.2 s, 19 passed`.
pub fn passed(run: &Run) -> String {
    format!("passed in {:.1} s, {}", run.took.as_secs_f64(), run.counts())
}

/// The error for a run that differs from the baseline.
pub fn changed(judged: &Judgement, run: &Run, end: &str) -> Error {
    let lines = judged.lines();
    let more = lines.len().saturating_sub(MOST_LINES);
    let mut message = format!("behaviour changed: {}", lines[..lines.len() - more].join("\n  "));
    if more > 0 {
        message.push_str(&format!("\n  and {more} more"));
    }
    let told = judged.tests.iter().filter(|t| !t.message.is_empty()).take(MOST_LINES);
    let told: String = told.map(|t| format!("{}\n    {}\n", t.test, t.message.replace('\n', "\n    "))).collect();
    // where the tests say what is wrong, the rest is noise
    let output = if told.is_empty() { tail(&run.output, 40) } else { told };
    Error::CheckFailed { message: format!("{message}\n{end}"), output }
}

const MOST_LINES: usize = 10;

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

fn apply_and_check(
    root: &Path,
    number: u32,
    files: &[Text],
    check: Option<(&Check, &Baseline)>,
    o: &Options,
) -> Result<Option<Run>> {
    let new: Vec<(&str, &[u8])> = files.iter().map(|(f, _, after)| (f.as_str(), after.as_bytes())).collect();
    replace_all(root, number, &new)?;
    if o.stop.load(Ordering::Relaxed) {
        return Err(Error::Interrupted);
    }
    let Some((check, before)) = check else { return Ok(None) };
    let run = o.run(root, check, "check after the step")?;
    let judged = before.judge(&run);
    if !judged.is_same() {
        return Err(changed(&judged, &run, "every file was put back"));
    }
    let now = |f: &str| std::fs::read_to_string(root.join(f)).unwrap_or_default();
    if let Some((f, ..)) = files.iter().find(|(f, _, after)| now(f) != *after) {
        let message = format!("the check changed {f} itself; every file was put back");
        return Err(Error::CheckFailed { message, output: tail(&run.output, 40) });
    }
    Ok(Some(run))
}

/// Runs the check for steps that were applied without; those records say so from then on. The difference, when there is
/// one.
pub fn check_applied(root: &Path, journal: &Journal, check: &Check, o: &Options) -> Result<Option<(Judgement, Run)>> {
    let _lock = journal.lock()?;
    let Some(b) = journal.baseline() else {
        return Err(Error::Refused("no baseline is known for the steps that wait for their check".into()));
    };
    let run = o.run(root, check, "check after the steps")?;
    let judged = b.judge(&run);
    if !judged.is_same() {
        return Ok(Some((judged, run)));
    }
    for mut r in journal.unchecked()? {
        r.unchecked = false;
        r.check = Some(passed(&run));
        journal.write_record(&r)?;
    }
    journal.set_baseline(&Baseline { tree: fingerprint(root), results: run.results.clone(), ..b })?;
    Ok(None)
}

/// One commit for steps that were checked together.
pub fn commit_together(root: &Path, journal: &Journal, numbers: &[u32]) -> Result<String> {
    let mut records: Vec<Record> = journal.records()?.into_iter().filter(|r| numbers.contains(&r.number)).collect();
    let mut files: Vec<String> = records.iter().flat_map(|r| r.files.iter().map(|f| f.file.clone())).collect();
    files.sort();
    files.dedup();
    let first = records.first().map_or("", |r| r.title.as_str());
    let head = if records.len() > 1 { format!("{first}, and {} more", records.len() - 1) } else { first.to_string() };
    let titles: String = records.iter().map(|r| format!("- {}\n", r.title)).collect();
    let trailers: String = records.iter().map(|r| format!("Ufold-Step: {}\n", r.number)).collect();
    let hash = git::commit(root, &files, &format!("{head}\n\n{titles}\n{trailers}"))?;
    for r in &mut records {
        r.commit = Some(hash.clone());
        journal.write_record(r)?;
    }
    Ok(hash)
}

/// The commit's message: where, what was saved, and the step's number in the journal.
fn message(plan: &Plan, record: &Record) -> String {
    let mut out = format!("{}\n\n", record.title);
    for s in &plan.result.sites {
        out.push_str(&format!("- {}:{} in {}\n", s.place.file, s.place.start_line, s.within));
    }
    out.push_str(&format!("\nSaves {} lines.\n\nUfold-Step: {}\n", plan.result.saves, record.number));
    out
}
