//! The one way a step takes: guard, baseline, apply, check, journal, commit; and back, when anything fails.

use std::collections::BTreeSet;
use std::path::Path;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::Duration;

use ufold_core::change::{Verdict as PlanVerdict, sha256};
use ufold_core::outcome::unsteady;
use ufold_core::step::Plan;

use crate::apply::{NO_FILE, Text, replace_all, texts, writable};
use crate::check::baseline::{Baseline, Judgement};
use crate::check::{Check, Run, tail};
use crate::fault::point;
use crate::files::fingerprint;
use crate::format::Formatter;
use crate::journal::{Journal, Record, State};
use crate::{Error, Result, git};

pub struct Options<'a> {
    /// None to go without.
    pub check: Option<Check>,
    /// The check comes later, with those of other steps.
    pub check_later: bool,
    pub commit: bool,
    /// Change files too that have changes of the person's own.
    pub include_changed: bool,
    pub strict: bool,
    /// What the step writes goes through it.
    pub format: Option<Formatter<'a>>,
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
pub fn baseline(journal: &Journal, check: &Check, o: &Options) -> Result<Baseline> {
    let root = journal.tree().path();
    if let Some(b) = journal.baseline().filter(|b| b.holds_for(root, check)) {
        return Ok(b);
    }
    no_unchecked(journal)?;
    let run = o.run(root, check, "check before the first step")?;
    // tests that are known to change their mind do so on any tree
    let known = journal.baseline().unwrap_or_default();
    let mut b = Baseline::of(root, check, &run, known.unsteady);
    if !run.wrote.is_subset(&known.writes) {
        // written by the check or by a person: the next run tells, until then it holds for no tree
        b.tree.clear();
    }
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

/// What steps did that wait for their check is no ground to judge others by.
pub fn no_unchecked(journal: &Journal) -> Result<()> {
    let waiting = journal.unchecked()?;
    let (Some(first), Some(last)) = (waiting.first(), waiting.last()) else { return Ok(()) };
    let which = match first.number == last.number {
        true => format!("step {} was", first.number),
        false => format!("steps {} to {} were", first.number, last.number),
    };
    Err(Error::Refused(format!(
        "{which} applied and never checked (ufold was cut off): `ufold check` checks, `ufold undo` takes back"
    )))
}

/// Runs the check twice on the tree as it is: the baseline, with the tests that differ, and both runs.
pub fn steady_baseline(journal: &Journal, check: &Check, o: &Options) -> Result<(Baseline, [Run; 2])> {
    let root = journal.tree().path();
    no_unchecked(journal)?;
    let first = o.run(root, check, "first run of the check")?;
    let second = o.run(root, check, "second run of the check")?;
    let mut b = Baseline::of(root, check, &second, unsteady(&first.results, &second.results));
    b.writes = first.wrote.intersection(&second.wrote).cloned().collect();
    if !second.wrote.is_subset(&b.writes) {
        b.tree.clear();
    }
    if b.judge(&second).is_same() {
        journal.set_baseline(&b)?;
    }
    Ok((b, [first, second]))
}

/// Applies a plan, checks it, and takes it back when the check tells of a change.
pub fn step(journal: &Journal, plan: &Plan, title: &str, o: &Options) -> Result<Done> {
    let root = journal.tree().path();
    let _lock = journal.lock()?;
    guard(journal, plan, o)?;
    let files = texts(journal.tree(), &plan.result.files)?;
    writable(journal.tree(), &files)?;
    let now = o.check.as_ref().filter(|_| !o.check_later);
    let before = now.map(|c| baseline(journal, c, o)).transpose()?;
    // the check took its time: what it, or a person, wrote meanwhile is looked at anew
    guard(journal, plan, o)?;
    let mut files = texts(journal.tree(), &plan.result.files)?;
    if let Some(f) = &o.format {
        f.format(journal, &mut files, o.stop, &|t| (o.tick)("formatting", t))?;
    }
    let commit = o.commit.then(|| Together::of(journal, &files)).transpose()?;
    let unchecked = o.check.is_some() && o.check_later;
    let mut record = journal.begin(Record { unchecked, ..Record::new(plan, title) }, &files, plan)?;
    point();
    let undone = |record: &mut Record, e: Error| take_back(journal, record, &files, e);
    let checked = apply_and_check(journal, &mut record, &files, now.zip(before.as_ref()), o);
    point();
    let run = match checked {
        Ok(run) => run,
        Err(e) => return Err(undone(&mut record, e)),
    };
    let words = run.as_ref().map(passed);
    record.check = words.clone();
    if commit.is_none() {
        record.state = State::Applied;
    }
    // the check may have removed what leads back, or filled the disk
    if let Err(e) = journal.keep(&record, &files, plan) {
        return Err(undone(&mut record, e));
    }
    if let Some(together) = commit {
        match together.commit(journal, &[&record], &message(plan, &record, &together)) {
            Ok(hash) => record.commit = Some(hash),
            Err(e) => return Err(undone(&mut record, e)),
        }
        record.state = State::Applied;
    }
    journal.finish(&record)?;
    point();
    // a tree that something else changed meanwhile is not the one that was checked
    if let (Some(check), Some(run), Some(b), true) = (now, &run, before, record.notes.is_empty()) {
        journal.set_baseline(&Baseline::of(root, check, run, b.unsteady))?;
    }
    Ok(Done { record, check: words })
}

/// Puts everything back after an error; the error with what had to be said.
fn take_back(journal: &Journal, record: &mut Record, files: &[Text], e: Error) -> Error {
    if let Error::CheckFailed { message, .. } = &e {
        record.check = Some(message.lines().next().unwrap_or("failed").to_string());
    }
    let taken = journal.restore(record, files);
    let notes = match taken {
        Ok(notes) => notes,
        Err(worse) => {
            let said = e.to_string();
            let said: Vec<&str> = said.lines().filter(|l| !l.contains(PUT_BACK)).collect();
            return Error::Environment(format!(
                "{}\nputting back failed: {worse}\nstep {} is not checked and still in the files; the next ufold command \
                 puts it back",
                said.join("\n"),
                record.number
            ));
        }
    };
    if notes.is_empty() {
        return e;
    }
    let said = |message: String| format!("{message}\n{}", notes.join("\n"));
    match e {
        Error::CheckFailed { message, output } => Error::CheckFailed { message: said(message), output },
        Error::Refused(message) => Error::Refused(said(message)),
        other => Error::Environment(said(other.to_string())),
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

/// What is said when a step was taken back.
pub const PUT_BACK: &str = "every file was put back";

fn guard(journal: &Journal, plan: &Plan, o: &Options) -> Result<()> {
    let root = journal.tree().path();
    if o.strict && plan.result.verdict == PlanVerdict::Assumed {
        return Err(Error::Refused("the plan holds only under assumptions, and --strict is set".into()));
    }
    // what is not there yet can't be lost
    let there = plan.result.files.iter().filter(|f| !f.creates);
    let names: Vec<String> = there.map(|f| f.file.clone()).collect();
    let repository = git::is_repository(root);
    // the person said that git's word is not needed
    let repository = if o.include_changed && !o.commit { repository.unwrap_or(false) } else { repository? };
    if o.commit && !repository {
        return Err(Error::Usage("--commit: the root is not in a git repository".into()));
    }
    if o.commit
        && let Some(what) = git::under_way(root)?
    {
        return Err(Error::Refused(format!("{what} is under way; finish it first, or go without --commit")));
    }
    if !repository || o.include_changed {
        return Ok(());
    }
    let mut unsettled = git::unsettled(root, &names)?;
    // what earlier steps wrote is in the journal; only the person's own changes are in danger
    unsettled.retain(|f, _| !journal.is_own_change(f));
    if unsettled.is_empty() {
        return Ok(());
    }
    let list: Vec<String> = unsettled.iter().map(|(f, why)| format!("{f}: {why}")).collect();
    let advice = "commit first, or use --include-changed";
    Err(Error::Refused(format!("uncommitted changes in files of the step; {advice}\n  {}", list.join("\n  "))))
}

fn apply_and_check(
    journal: &Journal,
    record: &mut Record,
    files: &[Text],
    check: Option<(&Check, &Baseline)>,
    o: &Options,
) -> Result<Option<Run>> {
    let root = journal.tree().path();
    let besides: Vec<String> = record.files.iter().map(|t| t.beside.clone()).collect();
    replace_all(journal.tree(), files, &besides)?;
    if o.stop.load(Ordering::Relaxed) {
        return Err(Error::Interrupted);
    }
    let Some((check, before)) = check else { return Ok(None) };
    let run = o.run(root, check, "check after the step")?;
    let own = |f: &&String| files.iter().any(|t| t.file == **f);
    let meanwhile: Vec<&str> =
        run.wrote.difference(&before.writes).filter(|f| !own(f)).map(String::as_str).take(MOST_LINES).collect();
    if !meanwhile.is_empty() {
        let list = meanwhile.join(", ");
        record.notes.push(format!(
            "while the check ran, something else changed {list}; it is not known which of both was checked"
        ));
    }
    let judged = before.judge(&run);
    if !judged.is_same() {
        let notes: String = record.notes.iter().map(|n| format!("\n{n}")).collect();
        return Err(changed(&judged, &run, &format!("{PUT_BACK}{notes}")));
    }
    let same = |t: &&Text| journal.tree().has(&t.file, &Text::hash(t.after.as_ref()));
    if let Some(t) = files.iter().find(|t| !same(t)) {
        let message = format!("{} was changed while the check ran\n{PUT_BACK}", t.file);
        return Err(Error::CheckFailed { message, output: tail(&run.output, 40) });
    }
    Ok(Some(run))
}

/// Runs the check for steps that were applied without; those records say so from then on. The difference, when there is
/// one.
pub fn check_applied(journal: &Journal, check: &Check, o: &Options) -> Result<Option<(Judgement, Run)>> {
    let root = journal.tree().path();
    let _lock = journal.lock()?;
    let Some(b) = journal.baseline() else {
        return Err(Error::Refused("no baseline is known for the steps that wait for their check".into()));
    };
    let run = o.run(root, check, "check after the steps")?;
    let judged = b.judge(&run);
    if !judged.is_same() {
        return Ok(Some((judged, run)));
    }
    now_checked(journal, &run)?;
    journal.set_baseline(&Baseline { tree: fingerprint(root), results: run.results.clone(), ..b })?;
    Ok(None)
}

/// The steps that waited for their check have passed it.
pub fn now_checked(journal: &Journal, run: &Run) -> Result<()> {
    for mut r in journal.unchecked()? {
        r.unchecked = false;
        r.check = Some(passed(run));
        journal.write_record(&r)?;
    }
    Ok(())
}

/// What one commit must hold, so that the last commit passes what the tree passes: the files of its steps, and those of
/// earlier steps that are not committed and touched one of them.
struct Together {
    files: Vec<String>,
    earlier: Vec<Record>,
}

impl Together {
    /// Of a step that is about to touch some files.
    fn of(journal: &Journal, step: &[Text]) -> Result<Together> {
        Together::with(journal, step.iter().map(|t| t.file.clone()).collect(), &[])
    }

    fn with(journal: &Journal, files: BTreeSet<String>, own: &[u32]) -> Result<Together> {
        let mut files = files;
        let records = journal.records()?;
        let mut earlier: Vec<&Record> = Vec::new();
        let open = |r: &&Record| r.is_uncommitted() && !own.contains(&r.number);
        // one that touches a file may have touched others, which others have touched
        while let Some(r) = records
            .iter()
            .filter(open)
            .find(|r| !earlier.iter().any(|e| e.number == r.number) && r.files.iter().any(|t| files.contains(&t.file)))
        {
            files.extend(r.files.iter().map(|t| t.file.clone()));
            earlier.push(r);
        }
        earlier.sort_by_key(|r| r.number);
        let all = |r: &&Record| own.contains(&r.number);
        let steps: Vec<&Record> = [earlier.clone(), records.iter().filter(all).collect()].concat();
        let files: Vec<String> = files.into_iter().collect();
        only_own(journal, &files, &steps)?;
        Ok(Together { files, earlier: earlier.into_iter().cloned().collect() })
    }

    /// Makes the commit; what was cut off is known to the journal.
    fn commit(&self, journal: &Journal, own: &[&Record], message: &str) -> Result<String> {
        let held = journal.git_lock()?;
        let numbers: Vec<u32> = self.earlier.iter().chain(own.iter().copied()).map(|r| r.number).collect();
        journal.committing(&numbers, &self.files)?;
        let hash = git::commit(journal.tree().path(), &self.files, message, held)?;
        for r in &self.earlier {
            journal.write_record(&Record { commit: Some(hash.clone()), ..r.clone() })?;
        }
        Ok(hash)
    }
}

/// Refuses a commit of files that have other changes than those of some steps.
fn only_own(journal: &Journal, files: &[String], steps: &[&Record]) -> Result<()> {
    let root = journal.tree().path();
    for (f, why) in git::unsettled(root, files)? {
        let touched = || steps.iter().flat_map(|r| &r.files).filter(|t| t.file == f);
        let first = touched().next().map(|t| t.before.clone());
        let committed = git::committed_text(root, &f)?.map_or(NO_FILE.into(), sha256);
        // one that the step is about to make
        if committed == NO_FILE && journal.tree().has(&f, NO_FILE) {
            continue;
        }
        let from_commit = first == Some(committed);
        // from the commit to what is there, each step on top of the one before
        let chain = touched().zip(touched().skip(1)).all(|(a, b)| a.after == b.before);
        let to_now = touched().next_back().is_some_and(|t| journal.tree().has(&f, &t.after));
        if !(from_commit && chain && to_now) {
            return Err(Error::Refused(format!(
                "a commit would hold changes of your own: {f}: {why}; commit them first, or go without --commit"
            )));
        }
    }
    Ok(())
}

/// One commit for steps that were checked together.
pub fn commit_together(journal: &Journal, numbers: &[u32]) -> Result<String> {
    let _lock = journal.lock()?;
    let mut records: Vec<Record> = journal.records()?.into_iter().filter(|r| numbers.contains(&r.number)).collect();
    let files = records.iter().flat_map(|r| r.files.iter().map(|f| f.file.clone())).collect();
    let together = Together::with(journal, files, numbers)?;
    let first = records.first().map_or("", |r| r.title.as_str());
    let head = if records.len() > 1 { format!("{first}, and {} more", records.len() - 1) } else { first.to_string() };
    let all = || together.earlier.iter().chain(&records);
    let titles: String = all().map(|r| format!("- {}\n", r.title)).collect();
    let trailers: String = all().map(|r| git::trailer(r.number) + "\n").collect();
    let made =
        together.commit(journal, &records.iter().collect::<Vec<_>>(), &format!("{head}\n\n{titles}\n{trailers}"));
    let made = made.and_then(|hash| {
        for r in &mut records {
            r.commit = Some(hash.clone());
            journal.write_record(r)?;
        }
        Ok(hash)
    });
    journal.committed()?;
    made
}

/// The commit's message: where, what was saved, and the steps' numbers in the journal.
fn message(plan: &Plan, record: &Record, together: &Together) -> String {
    let mut out = format!("{}\n\n", record.title);
    for s in &plan.result.sites {
        out.push_str(&format!("- {}:{} in {}\n", s.place.file, s.place.start_line, s.within));
    }
    if plan.result.saves != 0 {
        out.push_str(&format!("\nSaves {}.\n", lines(plan.result.saves)));
    }
    for r in &together.earlier {
        out.push_str(&format!("\nWith step {}, which had not been committed: {}\n", r.number, r.title));
    }
    let numbers = together.earlier.iter().map(|r| r.number).chain([record.number]);
    out.push('\n');
    numbers.for_each(|n| out.push_str(&(git::trailer(n) + "\n")));
    out
}

/// `1 line`, `2 lines`.
pub fn lines(n: i64) -> String {
    if n == 1 { "1 line".into() } else { format!("{n} lines") }
}
