//! `check`: runs the project's tests and recordings, and says what changed since the baseline.

use std::collections::BTreeMap;
use std::io::Write;
use std::time::Duration;

use schemars::JsonSchema;
use serde::Serialize;
use ufold_core::outcome::{Difference, Test};
use ufold_project::Error;
use ufold_project::check::baseline::{Baseline, Judgement};
use ufold_project::check::{Run, tail};
use ufold_project::pipeline::Options;
use ufold_project::recording::Comparison;

use crate::args::CheckOnly;
use crate::output::{Progress, count, print_diff};
use crate::session::Session;

pub fn run(s: &Session, a: &CheckOnly) -> anyhow::Result<u8> {
    let progress = Progress::new(s.quiet);
    let tick = |what: &str, t: Duration| progress.tick(what, t);
    let (check, options) = s.net(a.check.as_deref(), &tick)?;
    let _held = s.hold();
    once(s, &check, &options, &progress)
}

/// One run and its report; the exit code.
pub fn once(
    s: &Session,
    check: &ufold_project::check::Check,
    options: &Options,
    progress: &Progress,
) -> anyhow::Result<u8> {
    let journal = s.journal()?;
    let known = journal.baseline();
    let run = options.run(&s.root, check, "check")?;
    progress.clear();
    // a baseline of another check says nothing about this one
    let base = known.filter(|b| b.is_of(check));
    let unsteady = base.as_ref().map_or_else(Default::default, |b| b.unsteady.clone());
    let own = Baseline::of(&s.root, check, &run, unsteady);
    let judged = base.as_ref().unwrap_or(&own).judge(&run);
    let same = judged.is_same();
    let waiting = journal.unchecked()?.len();
    if waiting > 0 && base.is_none() {
        let what = count(waiting, "step was", "steps were");
        let why = "no results of this check from before are known to judge them by: `ufold undo` takes them back";
        Err(Error::Refused(format!("{what} never checked, and {why}")))?;
    }
    if same {
        ufold_project::pipeline::now_checked(&journal, &run)?;
        journal.set_baseline(&own)?;
    }
    if s.json {
        say!("{}", json(&run, &judged)?);
    } else {
        report(s, check, &run, &judged)?;
    }
    Ok(if same { 0 } else { 1 })
}

/// `check --format json`.
#[derive(Serialize, JsonSchema)]
pub struct Report<'a> {
    /// Always `ufold.check/1`.
    schema: &'static str,
    /// Nothing changed since the baseline.
    same: bool,
    seconds: f64,
    /// All tests by their names.
    tests: &'a BTreeMap<String, Test>,
    /// Tests that changed for the worse.
    differences: &'a [Difference],
    /// How a command fails, where tests do not tell.
    failure: Option<&'a str>,
    recordings: &'a [Comparison],
    /// Commands that report no tests.
    by_exit_code: &'a [String],
}

fn json(run: &Run, judged: &Judgement) -> anyhow::Result<String> {
    Ok(serde_json::to_string(&Report {
        schema: "ufold.check/1",
        same: judged.is_same(),
        seconds: run.took.as_secs_f64(),
        tests: &run.results.tests,
        differences: &judged.tests,
        failure: judged.failure.as_deref(),
        recordings: &run.recordings,
        by_exit_code: &run.by_exit_code,
    })?)
}

fn report(s: &Session, check: &ufold_project::check::Check, run: &Run, judged: &Judgement) -> anyhow::Result<()> {
    let mut out = crate::output::out();
    let said = judged.tests.iter().any(|t| !t.message.is_empty());
    if !said && (!judged.tests.is_empty() || judged.failure.is_some()) {
        writeln!(out, "{}\n", tail(&run.output, 40))?;
    }
    for r in &judged.recordings {
        writeln!(out, "{}", s.paint.strong(&format!("recording {}", r.name)))?;
        for c in &r.changed {
            print_diff(&mut out, s.paint, &c.part, Some(&c.before), Some(&c.now))?;
        }
        let name = r.name.split('/').next().unwrap_or(&r.name);
        writeln!(
            out,
            "\n{}",
            s.paint.faint(&format!("`ufold record --accept {name}` takes the new output as right\n"))
        )?;
    }
    let took = format!("{:.1} s", run.took.as_secs_f64());
    let mut parts = vec![took];
    if !check.commands.is_empty() {
        parts.push(run.counts());
    }
    if !run.recordings.is_empty() {
        let same = run.recordings.iter().filter(|r| r.changed.is_empty()).count();
        parts.push(format!("{same} of {} as before", count(run.recordings.len(), "recording", "recordings")));
    }
    for line in judged.lines() {
        writeln!(out, "  {}", s.paint.bad(&line))?;
        let test = judged.tests.iter().find(|t| t.line() == line);
        for l in test.map_or("", |t| t.message.as_str()).lines() {
            writeln!(out, "      {l}")?;
        }
    }
    let word = if judged.is_same() { s.paint.good("passed") } else { s.paint.bad("changed") };
    writeln!(out, "{word}  {}", parts.join(" · "))?;
    if judged.failure.is_none() && judged.recordings.is_empty() && !judged.tests.is_empty() {
        s.remark("where tests were taken out on purpose, `ufold ready` makes this the new baseline");
    }
    for c in &run.by_exit_code {
        s.remark(&format!("`{c}` reports no tests that ufold can read: only its exit code is compared"));
    }
    Ok(())
}
