//! `fold --all`: the worklist, a step each, best first. Steps may share a run of the check; when that tells of a change,
//! the later half of them is taken back and tried again later, until the one that did it is alone.
//!
//! What is done is in the journal, so an interrupted run goes on where it was: findings that were folded are gone,
//! findings whose step was taken back are not tried again unless asked for, and steps that stand without a check are
//! checked first.

use std::collections::HashSet;
use std::sync::atomic::Ordering;
use std::time::{Duration, Instant};

use rayon::prelude::*;
use ufold_core::change::{Code, Verdict};
use ufold_core::index::{Kept, Project};
use ufold_core::step::Plan;
use ufold_project::check::Check;
use ufold_project::files::{Disk, Scanned, refresh};
use ufold_project::journal::{Journal, Record};
use ufold_project::pipeline::{self, Options, baseline, check_applied};
use ufold_project::{Error, Result};

use super::step;
use crate::args::{Fold, RequestFlags};
use crate::output::json::{FOLDING, Folding, print};
use crate::output::{Progress, count, few};
use crate::session::{Session, is_worth_telling, plan};

/// A step that saves fewer lines is not worth a new function.
const LEAST_GAIN: i64 = 3;

/// Nor is one whose function hands over more results than a reader can follow.
const MOST_RESULTS: usize = 3;

/// Counts of one run over the worklist.
#[derive(Default)]
struct Tally {
    folded: usize,
    saved: i64,
    restored: Vec<String>,
    refused: usize,
    no_gain: usize,
    /// Left to people, who find a name.
    no_name: Vec<String>,
}

struct Worklist<'a> {
    s: &'a Session,
    a: &'a Fold,
    options: &'a Options<'a>,
    progress: &'a Progress,
    journal: Journal,
    scanned: Scanned,
    /// Files that plans have read.
    kept: Kept,
    /// Findings that need not be looked at again.
    done: HashSet<String>,
    tally: Tally,
    /// Steps that wait for their check.
    waiting: Vec<Record>,
    /// Steps that share a run of the check now.
    batch: usize,
}

pub fn run(s: &Session, a: &Fold) -> anyhow::Result<u8> {
    if a.step.preview {
        Err(Error::Usage("--preview shows one finding; name it".into()))?;
    }
    let progress = Progress::new(s.quiet);
    let tick = |what: &str, t: Duration| progress.tick(what, t);
    let mut options = s.step_options(&a.step, &tick)?;
    let batch = a.batch as usize;
    let commit = options.commit;
    options.check_later = options.check.is_some() && batch > 1;
    options.commit &= !options.check_later;
    let journal = s.journal()?;
    let waiting = journal.unchecked()?;
    let done = if a.again { HashSet::new() } else { journal.taken_back()?.into_keys().collect() };
    let scanned = s.scan(&[])?;
    let tally = Tally::default();
    let mut w = Worklist {
        s,
        a,
        options: &options,
        progress: &progress,
        journal,
        scanned,
        kept: Kept::default(),
        done,
        tally,
        waiting,
        batch,
    };
    let check = options.check.clone();
    if let Some(check) = check.as_ref().filter(|_| !w.waiting.is_empty()) {
        s.remark(&format!(
            "{} not checked when ufold ended; that comes first",
            count(w.waiting.len(), "step was", "steps were")
        ));
        w.settle(check, commit)?;
    }
    let worked = w.work(check.as_ref().filter(|_| options.check_later), commit);
    if let (Err(Error::Interrupted), Some(_)) = (&worked, w.waiting.first()) {
        // what was not checked does not stay
        w.take_back_waiting(0)?;
    }
    worked?;
    report(s, &w.tally);
    Ok(0)
}

impl Worklist<'_> {
    fn work(&mut self, later: Option<&Check>, commit: bool) -> Result<()> {
        let started = Instant::now();
        loop {
            let steps = self.tally.folded + self.waiting.len();
            let enough = self.a.most_steps.is_some_and(|n| steps >= n)
                || self.a.minutes.is_some_and(|m| started.elapsed().as_secs_f64() > m * 60.0);
            let next = if enough { None } else { self.next() };
            if self.s.stop.load(Ordering::Relaxed) {
                return Err(Error::Interrupted);
            }
            if let Some(check) = later.filter(|_| next.is_none() || self.waiting.len() >= self.batch) {
                if let Some((id, _)) = &next {
                    self.done.remove(id);
                }
                let more = next.is_some();
                let taken_back = self.settle(check, commit)?;
                if more || taken_back && !enough {
                    continue;
                }
                return Ok(());
            }
            let Some((id, plan)) = next else { return Ok(()) };
            if let Some(check) = later.filter(|_| self.waiting.is_empty()) {
                let _held = self.s.hold();
                baseline(&self.journal, check, self.options)?;
            }
            self.step(&id, &plan, later.is_some())?;
        }
    }

    fn step(&mut self, id: &str, plan: &Plan, waits: bool) -> Result<()> {
        let title = plan.title();
        let _held = self.s.hold();
        match pipeline::step(&self.journal, plan, &title, self.options) {
            Ok(d) => {
                self.progress.clear();
                if waits {
                    self.waiting.push(d.record.clone());
                } else {
                    self.tally.folded += 1;
                    self.tally.saved += plan.result.saves;
                }
                if self.s.json {
                    print(&Folding::Step { schema: FOLDING, finding: id, record: &d.record });
                } else {
                    let verdict = self.s.paint.verdict(plan.result.verdict, 7);
                    say!("{}  {verdict} {}", self.s.paint.strong(id), step::summary(self.s, plan, &d));
                    step::notes(self.s, plan);
                }
                self.look_again(&[&d.record])
            }
            Err(Error::CheckFailed { message, output }) => {
                self.progress.clear();
                self.tell_taken_back(id, &message, &output);
                self.tally.restored.push(id.to_string());
                Ok(())
            }
            Err(e @ Error::Refused(_)) if self.tally.folded == 0 && self.waiting.is_empty() => Err(e),
            Err(Error::Refused(message)) => {
                self.tell_taken_back(id, &message, "");
                self.tally.refused += 1;
                Ok(())
            }
            Err(e) => Err(e),
        }
    }

    fn tell_taken_back(&self, id: &str, message: &str, output: &str) {
        if self.s.json {
            print(&Folding::TakenBack { schema: FOLDING, finding: id, why: message });
        } else {
            say!("{}  {}", self.s.paint.strong(id), self.s.paint.bad(message));
            if !output.is_empty() {
                self.s.remark(output);
            }
        }
    }

    /// Runs the check for the steps that wait for it; whether any was taken back.
    fn settle(&mut self, check: &Check, commit: bool) -> Result<bool> {
        let _held = self.s.hold();
        let mut taken_back = false;
        while !self.waiting.is_empty() {
            let found = check_applied(&self.journal, check, self.options)?;
            self.progress.clear();
            let n = self.waiting.len();
            let Some((judged, run)) = found else {
                let numbers: Vec<u32> = self.waiting.iter().map(|r| r.number).collect();
                let hash = if commit { Some(pipeline::commit_together(&self.journal, &numbers)?) } else { None };
                self.tally.folded += n;
                self.tally.saved += self.waiting.iter().map(|r| r.saves).sum::<i64>();
                self.tell_checked(n, hash.as_deref());
                self.waiting.clear();
                self.batch = (self.batch * 2).min(self.a.batch as usize);
                break;
            };
            taken_back = true;
            if n > 1 {
                let keep = n / 2;
                self.s.remark(&format!(
                    "the check of {n} steps tells of a change; the last {} taken back, the first {} checked again",
                    if n - keep > 1 { format!("{} are", n - keep) } else { "one is".into() },
                    if keep > 1 { format!("{keep} are") } else { "one is".into() },
                ));
                for r in self.take_back_waiting(keep)? {
                    self.done.remove(&r.finding);
                }
                self.batch = keep.max(1);
                continue;
            }
            let r = self.waiting.remove(0);
            let Error::CheckFailed { message, output } = pipeline::changed(&judged, &run, pipeline::PUT_BACK) else {
                unreachable!("a difference is a failed check")
            };
            self.journal.take_back(r.number, message.lines().next().unwrap_or("failed"))?;
            self.tell_taken_back(&r.finding, &message, &output);
            self.tally.restored.push(r.finding.clone());
            self.done.insert(r.finding.clone());
            self.look_again(&[&r])?;
        }
        Ok(taken_back)
    }

    fn tell_checked(&self, n: usize, hash: Option<&str>) {
        if self.s.json {
            print(&Folding::Checked { schema: FOLDING, steps: n, commit: hash });
        } else {
            let commit = hash.map_or(String::new(), |h| format!(" · commit {h}"));
            let what = count(n, "step", "steps");
            say!("        {}", self.s.paint.good(&format!("check passed after {what}{commit}")));
        }
    }

    /// Takes back the waiting steps after the first few, the last one first.
    fn take_back_waiting(&mut self, keep: usize) -> Result<Vec<Record>> {
        let gone = self.waiting.split_off(keep);
        for r in gone.iter().rev() {
            let (_, notes) = self.journal.undo(Some(r.number))?;
            notes.iter().for_each(|n| self.s.warn(n));
        }
        self.look_again(&gone.iter().collect::<Vec<_>>())?;
        Ok(gone)
    }

    /// The files of some steps are scanned again.
    fn look_again(&mut self, records: &[&Record]) -> Result<()> {
        let files: Vec<String> = records.iter().flat_map(|r| r.files.iter().map(|f| f.file.clone())).collect();
        refresh(&self.s.root, &mut self.scanned, &files)
    }

    /// The first finding of the worklist that was not tried yet and can be folded with a gain. A few are planned side by
    /// side; those after the one that is taken are planned again on what it leaves.
    fn next(&mut self) -> Option<(String, Plan)> {
        let disk = Disk::new(&self.s.root, &self.scanned);
        let project = Project::new(&self.scanned.facts, &disk).keeping(&self.kept);
        let mut findings = self.s.findings(&self.scanned, &self.s.options());
        findings.retain(|f| f.kind.has_copies() && !self.done.contains(&f.id));
        let request = RequestFlags { least: Some(LEAST_GAIN), ..self.a.request.clone() };
        // what waits for its check must not be left behind
        let _held = (!self.waiting.is_empty()).then(|| self.s.hold());
        for few in findings.chunks(rayon::current_num_threads().max(2)) {
            if self.s.stop.load(Ordering::Relaxed) {
                return None;
            }
            let plans: Vec<Plan> = few.par_iter().map(|f| plan(&project, f, &request)).collect();
            for (f, plan) in few.iter().zip(plans) {
                self.done.insert(f.id.clone());
                let held = self.options.strict && plan.result.verdict == Verdict::Assumed;
                let results = plan.result.function.as_ref().map_or(0, |f| f.results.len());
                let little = plan.result.reasons.first().is_some_and(|r| r.code == Code::LittleGain);
                if !is_worth_telling(f, &plan.result) {
                    continue;
                }
                if little || results > MOST_RESULTS || !plan.result.is_refused() && plan.result.saves < LEAST_GAIN {
                    self.tally.no_gain += 1;
                } else if plan.result.is_refused() || held {
                    self.tally.refused += 1;
                } else if !self.a.any_name && plan.result.function.as_ref().is_some_and(|f| f.unnamed) {
                    self.tally.no_name.push(f.id.clone());
                } else {
                    return Some((f.id.clone(), plan));
                }
            }
        }
        None
    }
}

fn report(s: &Session, t: &Tally) {
    if s.json {
        print(&Folding::Summary {
            schema: FOLDING,
            folded: t.folded,
            saves: t.saved,
            taken_back: &t.restored,
            refused: t.refused,
            no_gain: t.no_gain,
            no_name: &t.no_name,
        });
        return;
    }
    if t.folded == 0 && t.restored.is_empty() {
        let mut parts = vec![format!("{} refused", t.refused), format!("{} would save too little", t.no_gain)];
        if !t.no_name.is_empty() {
            parts.push(format!(
                "{} want a name from you: `ufold fold ID --name NAME` ({})",
                t.no_name.len(),
                few(&t.no_name)
            ));
        }
        say!("nothing to fold: {}", parts.join(", "));
        return;
    }
    let mut parts =
        vec![format!("{} folded", count(t.folded, "finding", "findings")), format!("{} lines saved", t.saved)];
    if !t.restored.is_empty() {
        parts.push(format!("{} taken back by a failing check ({})", t.restored.len(), t.restored.join(", ")));
    }
    if !t.no_name.is_empty() {
        parts.push(format!("{} left to you for want of a good name ({})", t.no_name.len(), few(&t.no_name)));
    }
    parts.push(format!("{} refused", t.refused));
    say!("\n{}", s.paint.strong(&parts.join(" · ")));
}
