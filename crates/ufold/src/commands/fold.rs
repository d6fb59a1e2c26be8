//! `fold`: one finding, or all of them.

use std::collections::HashSet;
use std::time::Duration;

use ufold_core::find::Kind;
use ufold_core::step::{Plan, Project, Verdict};
use ufold_project::Error;
use ufold_project::files::{Disk, Scanned, refresh};
use ufold_project::pipeline::Options;

use super::step;
use crate::args::{Fold, RequestFlags};
use crate::output::{Progress, count};
use crate::session::{Session, choose, plan};

pub fn run(s: &Session, a: &Fold) -> anyhow::Result<u8> {
    let Some(typed) = &a.finding else { return all(s, a) };
    let scanned = s.scan(&[])?;
    let finding = &choose(s, &scanned, typed)?;
    step::check_numbers(&a.request.choice, finding.copies.len())?;
    let disk = Disk(&s.root);
    let project = Project::new(&scanned.facts, &disk);
    let flags = RequestFlags { pointed_at: s.pointer(typed)?, ..a.request.clone() };
    let plan = plan(&project, finding, &flags);
    step::save(s, &plan, a.save_plan.as_deref())?;
    step::carry_out(s, &plan, &a.step)
}

/// A step of `--all` that saves fewer lines is not worth a new function.
const LEAST_GAIN: i64 = 3;

/// Nor is one whose function hands over more results than a reader can follow.
const MOST_RESULTS: usize = 3;

fn results(plan: &Plan) -> usize {
    plan.result.function.as_ref().map_or(0, |f| f.results.len())
}

/// Counts of one run over the worklist.
#[derive(Default)]
struct Tally {
    folded: usize,
    saved: i64,
    restored: Vec<String>,
    refused: usize,
    no_gain: usize,
}

/// Best first; after each step the changed files are looked at again.
fn all(s: &Session, a: &Fold) -> anyhow::Result<u8> {
    if a.step.preview {
        Err(Error::Usage("--preview shows one finding; name it".into()))?;
    }
    let progress = Progress::new(s.quiet);
    let tick = |what: &str, t: Duration| progress.tick(what, t);
    let options = s.step_options(&a.step, &tick)?;
    let mut scanned = s.scan(&[])?;
    let mut done: HashSet<String> = HashSet::new();
    let mut tally = Tally::default();
    while let Some((id, plan)) = next(s, a, &scanned, &options, &mut done, &mut tally) {
        match step::run(s, &plan, &options) {
            Ok(d) => {
                progress.clear();
                tally.folded += 1;
                tally.saved += plan.result.saves;
                println!(
                    "{}  {} {}",
                    s.paint.strong(&id),
                    s.paint.verdict(plan.result.verdict, 7),
                    step::summary(s, &plan, &d)
                );
                step::notes(s, &plan);
                let files: Vec<String> = plan.result.files.iter().map(|f| f.file.clone()).collect();
                refresh(&s.root, &mut scanned, &files)?;
            }
            Err(Error::CheckFailed { message, output }) => {
                progress.clear();
                println!("{}  {} {message}", s.paint.strong(&id), s.paint.verdict(plan.result.verdict, 7));
                s.remark(&output);
                tally.restored.push(id);
            }
            Err(e @ Error::Refused(_)) if tally.folded == 0 => return Err(e)?,
            Err(Error::Refused(message)) => {
                println!("{}  {message}", s.paint.strong(&id));
                tally.refused += 1;
            }
            Err(e) => return Err(e)?,
        }
    }
    report(s, &tally);
    Ok(0)
}

/// The first finding of the worklist that was not tried yet and can be folded with a gain.
fn next(
    s: &Session,
    a: &Fold,
    scanned: &Scanned,
    options: &Options,
    done: &mut HashSet<String>,
    tally: &mut Tally,
) -> Option<(String, Plan)> {
    let disk = Disk(&s.root);
    let project = Project::new(&scanned.facts, &disk);
    for f in s.findings(scanned).into_iter().filter(|f| f.kind == Kind::Repeat) {
        if !done.insert(f.id.clone()) {
            continue;
        }
        let plan = plan(&project, &f, &a.request);
        let held = options.strict && plan.result.verdict == Verdict::Assumed;
        if plan.result.verdict == Verdict::Refused || held {
            tally.refused += 1;
        } else if plan.result.saves < LEAST_GAIN || results(&plan) > MOST_RESULTS {
            tally.no_gain += 1;
        } else {
            return Some((f.id, plan));
        }
    }
    None
}

fn report(s: &Session, t: &Tally) {
    if t.folded == 0 && t.restored.is_empty() {
        println!("nothing to fold: {} refused, {} would save too little", t.refused, t.no_gain);
        return;
    }
    let mut parts =
        vec![format!("{} folded", count(t.folded, "finding", "findings")), format!("{} lines saved", t.saved)];
    if !t.restored.is_empty() {
        parts.push(format!("{} taken back by a failing check ({})", t.restored.len(), t.restored.join(", ")));
    }
    parts.push(format!("{} refused", t.refused));
    println!("\n{}", s.paint.strong(&parts.join(" · ")));
}
