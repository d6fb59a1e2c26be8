//! What all changing commands share: preview, the run through the pipeline, the report.

use std::collections::BTreeSet;
use std::io::Write;
use std::time::Duration;

use ufold_core::change::{Code, Reason, Verdict};
use ufold_core::find::Clutter;
use ufold_core::index::Project;
use ufold_core::step::{Plan, Request};
use ufold_project::coverage::Known;
use ufold_project::files::{Disk, read, script_of};
use ufold_project::pipeline::{Done, lines, step};
use ufold_project::{Error, Result, apply};

use super::tidy;
use crate::advice::advice;
use crate::args::{Sites, StepFlags};
use crate::output::{Progress, json, place, places, print_diff, print_move};
use crate::session::Session;

pub fn reason_line(r: &Reason) -> String {
    format!("{}: {} ({})", r.code, r.message, place(&r.file, r.line))
}

/// Reasons of one code that are told one by one, and how many of more than that.
const MOST_ALIKE: usize = 5;
const FIRST_ALIKE: usize = 3;

/// A line for each reason; of many with one code only the first, and how many more there are.
pub fn reason_lines(reasons: &[Reason]) -> Vec<String> {
    lines_of(reasons, MOST_ALIKE, FIRST_ALIKE)
}

/// The same in a list of several plans: a line for each code.
pub fn code_lines(reasons: &[Reason]) -> Vec<String> {
    lines_of(reasons, 1, 1)
}

fn lines_of(reasons: &[Reason], most: usize, first: usize) -> Vec<String> {
    let mut lines = Vec::new();
    let mut told: Vec<Code> = Vec::new();
    for r in reasons {
        let alike: Vec<&Reason> = reasons.iter().filter(|o| o.code == r.code).collect();
        if alike.len() <= most {
            lines.push(reason_line(r));
        } else if !told.contains(&r.code) {
            told.push(r.code);
            let (first, more) = alike.split_at(first);
            lines.extend(first.iter().map(|r| reason_line(r)));
            let places = crate::output::count(more.len(), "more place", "more places");
            lines.push(format!("{}: the same of {places} (`--format json` has them all)", r.code));
        }
    }
    lines
}

/// Codes of a refusal that advice is given for at once.
const MOST_ADVICE: usize = 2;

/// A refusal with all its reasons, as an error.
pub fn refused(plan: &Plan) -> Error {
    let mut text = format!("{}: refused, nothing was written", plan.request.finding());
    let mut reasons: Vec<Reason> = Vec::new();
    for r in plan.result.reasons.iter().chain(plan.result.left_out.iter().map(|(_, r)| r)) {
        if !reasons.contains(r) {
            text.push_str(&format!("\n  {}", reason_line(r)));
            reasons.push(r.clone());
        }
    }
    plan.result.remarks.iter().for_each(|r| text.push_str(&format!("\n  {r}")));
    let mut codes: Vec<Code> = reasons.iter().map(|r| r.code).collect();
    codes.dedup();
    for code in codes.into_iter().take(MOST_ADVICE) {
        let told = advice(code).map_or(String::new(), |a| a.what_to_do);
        text.push_str(&format!("\nwhat to do ({code}): {told}"));
    }
    if let Some(r) = reasons.first() {
        text.push_str(&format!("\n`ufold explain {}` tells more", r.code));
    }
    Error::Plan { message: text, reasons }
}

/// Prints the plan's diff.
pub fn preview(s: &Session, plan: &Plan) -> anyhow::Result<()> {
    let mut out = crate::output::out();
    let texts = apply::texts(s.journal()?.tree(), &plan.result.files)?;
    let moves = plan.result.files.iter().filter_map(|f| Some((f.file.as_str(), f.moves_to.as_deref()?)));
    let moves: Vec<(&str, &str)> = moves.collect();
    for t in &texts {
        let code = |text: &Option<String>| text.clone().map(|x| script_of(&t.file, x.clone()).unwrap_or(x));
        let (before, after) = (code(&t.before), code(&t.after));
        let (before, after) = (before.as_deref(), after.as_deref());
        if moves.iter().any(|(_, to)| *to == t.file) {
            // with the text that it had at its old place
            continue;
        }
        match moves.iter().find(|(from, _)| *from == t.file) {
            Some((from, to)) => {
                let now = texts.iter().find(|o| o.file == *to).and_then(|o| o.after.as_deref());
                let both = [before.unwrap_or(""), now.unwrap_or("")];
                print_move(&mut out, s.paint, [from, to], both)?;
            }
            None => print_diff(&mut out, s.paint, &t.file, before, after)?,
        }
    }
    Ok(())
}

/// Assumptions, copies left out, and remarks.
pub fn notes(s: &Session, plan: &Plan) {
    if plan.result.verdict == Verdict::Assumed {
        for line in reason_lines(&plan.result.reasons) {
            s.remark(&format!("assumed: {line}"));
        }
    }
    // a finding's own sites; what no test runs can't be shown to be unchanged
    for x in s.coverage().ok().flatten().iter().flat_map(|k| unreached(k, plan)) {
        s.remark(&format!(
            "no test runs copy {} ({})",
            x.copy,
            places(&x.place.file, x.place.start_line, x.place.end_line)
        ));
    }
    for (n, r) in &plan.result.left_out {
        let what = if matches!(plan.request, Request::Split(_)) { "part" } else { "copy" };
        s.remark(&format!("{what} {n} is left as it is: {}", reason_line(r)));
    }
    for r in &plan.result.remarks {
        s.remark(&format!("remark: {r}"));
    }
}

/// Sites that no test runs.
fn unreached<'p>(known: &'p Known, plan: &'p Plan) -> impl Iterator<Item = &'p ufold_core::change::Site> {
    let sites = plan.result.sites.iter();
    sites.filter(|x| known.of(&x.place.file, x.place.start_line, x.place.end_line).nothing())
}

/// A type was given for a parameter that there is.
fn known_types(plan: &Plan) -> Result<()> {
    let names: Vec<&str> = plan.result.parameters.iter().map(|p| p.name.as_str()).collect();
    let types = plan.request.wishes().filter(|_| plan.result.function.is_some()).map(|w| &w.types);
    let unknown = types.into_iter().flat_map(|t| t.keys()).find(|k| !names.contains(&k.as_str()));
    match unknown {
        None => Ok(()),
        Some(k) => {
            Err(Error::Usage(format!("--type {k}: the function has no such parameter; it has {}", names.join(", "))))
        }
    }
}

/// Previews a plan or runs it as a step, as the flags say.
pub fn carry_out(s: &Session, plan: &Plan, flags: &StepFlags) -> anyhow::Result<u8> {
    if plan.result.verdict == Verdict::Refused {
        Err(refused(plan))?;
    }
    known_types(plan)?;
    if flags.preview {
        if s.json {
            say!("{}", serde_json::to_string_pretty(plan)?);
        } else {
            preview(s, plan)?;
        }
        notes(s, plan);
        s.remark("preview only, nothing was written");
        return Ok(0);
    }
    let progress = Progress::new(s.quiet);
    let tick = |what: &str, t: Duration| progress.tick(what, t);
    let options = s.step_options(flags, &tick)?;
    if plan.result.saves < 0 && plan.result.function.is_some() {
        let what = gain(plan.result.saves);
        let by = match plan.request {
            Request::Lift(_) => "the base is longer than what it stands for",
            _ => "the function and its calls are longer than what they stand for",
        };
        s.remark(&format!("remark: this {what}: {by}"));
    }
    let _held = s.hold();
    if !s.json {
        // what the person sees is what was planned; it is computed before the files change
        preview(s, plan)?;
    }
    let gone = if s.quiet { BTreeSet::new() } else { words_gone(s, plan)? };
    let done = step(&s.journal()?, plan, &plan.title(), &options)?;
    progress.clear();
    if s.json {
        json::print(&json::Stepped { schema: "ufold.step/1", plan, record: &done.record });
        return Ok(0);
    }
    notes(s, plan);
    left_behind(s, plan, &gone)?;
    say!("\n{}", summary(s, plan, &done));
    Ok(0)
}

/// Words that a plan's edits take away and do not write again.
fn words_gone(s: &Session, plan: &Plan) -> Result<BTreeSet<String>> {
    let words = |text: &str| -> BTreeSet<String> {
        let all = text.split(|c: char| !c.is_alphanumeric() && c != '_').filter(|w| !w.is_empty());
        all.map(str::to_string).collect()
    };
    let mut gone = BTreeSet::new();
    for f in plan.result.files.iter().filter(|f| !f.creates) {
        let text = read(s.root(), &f.file).map_err(Error::Environment)?;
        let new: BTreeSet<String> = f.edits.iter().flat_map(|e| words(&e.text)).collect();
        let old = f.edits.iter().filter_map(|e| text.get(e.span.start..e.span.end)).flat_map(&words);
        gone.extend(old.filter(|w| !new.contains(w)));
    }
    Ok(gone)
}

/// Says what nothing uses any more, now that these words are gone.
fn left_behind(s: &Session, plan: &Plan, gone: &BTreeSet<String>) -> anyhow::Result<()> {
    if gone.is_empty() {
        return Ok(());
    }
    let scanned = s.scan(&[])?;
    let disk = Disk::new(s.root(), &scanned);
    let project = Project::new(&scanned.facts, &disk);
    let changed = |path: &str| plan.result.files.iter().any(|f| f.file == path || f.moves_to.as_deref() == Some(path));
    for l in tidy::found(&project, &changed) {
        let item = &l.item;
        let named = item.what.split('`').nth(1).is_some_and(|w| gone.contains(w));
        if item.kind == Clutter::Unused && item.needs.is_none() && named {
            let at = place(&item.place.file, item.place.start_line);
            s.remark(&format!("remark: now {} ({at}); `ufold tidy {}` takes it away", item.what, item.place.file));
        }
    }
    Ok(())
}

/// What was done, in one line.
pub fn summary(s: &Session, plan: &Plan, done: &Done) -> String {
    let mut parts = vec![format!("step {}: {}", done.record.number, plan.title().to_lowercase_first())];
    if plan.result.saves != 0 {
        parts.push(gain(plan.result.saves));
    }
    parts.push(match &done.check {
        Some(words) => format!("check {words}"),
        None if done.record.unchecked => "check to come".into(),
        None => "no check was run".into(),
    });
    parts.extend(done.record.commit.as_ref().map(|c| format!("commit {c}")));
    done.record.notes.iter().for_each(|n| s.warn(n));
    s.paint.good(&parts.join(" · "))
}

trait LowercaseFirst {
    fn to_lowercase_first(&self) -> String;
}

impl LowercaseFirst for String {
    fn to_lowercase_first(&self) -> String {
        let mut c = self.chars();
        c.next().map_or(String::new(), |f| f.to_lowercase().chain(c).collect())
    }
}

/// `saves 3 lines`, `adds 1 line`.
pub fn gain(saves: i64) -> String {
    if saves < 0 { format!("adds {}", lines(-saves)) } else { format!("saves {}", lines(saves)) }
}

/// Numbers of copies or uses that a person typed.
pub fn check_numbers(sites: &Sites, copies: usize, what: &str, all: &str) -> Result<()> {
    match sites.only.iter().chain(&sites.except).find(|n| **n == 0 || **n > copies) {
        Some(n) => Err(Error::Usage(format!("there is no {what} {n}; the {all} are 1 to {copies}"))),
        None => Ok(()),
    }
}

/// Writes the plan to the file that a person named.
pub fn save(s: &Session, plan: &Plan, path: Option<&std::path::Path>) -> anyhow::Result<()> {
    let Some(path) = path else { return Ok(()) };
    write_file(path, &(serde_json::to_string_pretty(plan)? + "\n"))?;
    s.remark(&format!("the plan is in {}", path.display()));
    Ok(())
}

/// Writes a file that the person named.
pub fn write_file(path: &std::path::Path, text: &str) -> anyhow::Result<()> {
    let mut f = std::fs::File::create(path).map_err(|e| Error::io("write", path, &e))?;
    f.write_all(text.as_bytes()).map_err(|e| Error::io("write", path, &e))?;
    Ok(())
}
