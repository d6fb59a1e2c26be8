//! `ready`: is it safe to start? Version control, the check run twice, what it covers.

use std::collections::BTreeSet;
use std::time::Duration;

use schemars::JsonSchema;
use serde::Serialize;
use ufold_core::find::Finding;
use ufold_project::check::baseline::Baseline;
use ufold_project::check::{Run, tail};
use ufold_project::{git, pipeline};

use crate::args::CheckOnly;
use crate::output::{Progress, count, few};
use crate::session::Session;

/// `ready --format json`.
#[derive(Serialize, JsonSchema)]
pub struct Report {
    /// Always `ufold.ready/1`.
    schema: &'static str,
    ready: bool,
    /// Tests that differed between the two runs.
    unsteady: BTreeSet<String>,
    lines: Vec<Line>,
}

/// One line of the verdict.
#[derive(Serialize, JsonSchema)]
pub struct Line {
    fine: bool,
    /// What keeps from starting, unlike what is only worth knowing.
    stops: bool,
    about: &'static str,
    text: String,
}

pub fn run(s: &Session, a: &CheckOnly) -> anyhow::Result<u8> {
    let progress = Progress::new(s.quiet);
    let tick = |what: &str, t: Duration| progress.tick(what, t);
    let (check, options) = s.net(a.check.as_deref(), &tick)?;
    let journal = s.journal()?;
    let _held = s.hold();
    let mut lines = vec![version_control(s)];
    let (base, runs) = pipeline::steady_baseline(&journal, &check, &options)?;
    progress.clear();
    let judged = base.judge(&runs[1]);
    if check.commands.is_empty() {
        let text = "no tests: only recordings are compared".to_string();
        lines.push(Line { fine: false, stops: false, about: "check", text });
    } else {
        let told = judged.of_commands();
        let text = if told.is_same() { runs[1].counts() } else { told.lines().join("; ") };
        lines.push(Line { fine: told.is_same(), stops: true, about: "check", text });
        lines.push(steady(&base, &runs));
    }
    let took = (runs[0].took + runs[1].took).as_secs_f64() / 2.0;
    lines.push(Line { fine: true, stops: false, about: "time", text: format!("{took:.1} s for one run") });
    lines.extend(recordings(&runs[1]));
    lines.push(covered(s)?);
    let ready = lines.iter().all(|l| l.fine || !l.stops);
    if s.json {
        let report = Report { schema: "ufold.ready/1", ready, unsteady: base.unsteady, lines };
        say!("{}", serde_json::to_string(&report)?);
        return Ok(if ready { 0 } else { 1 });
    }
    if !judged.is_same() {
        say!("{}\n", tail(&runs[1].output, 30));
    }
    for l in &lines {
        let mark = match (l.fine, l.stops) {
            (true, _) => s.paint.good("yes "),
            (false, true) => s.paint.bad("no  "),
            (false, false) => s.paint.careful("note"),
        };
        say!("  {mark}  {:16} {}", l.about, l.text);
    }
    let word = if ready { s.paint.good("ready to start") } else { s.paint.bad("not ready") };
    say!("\n{word}");
    Ok(if ready { 0 } else { 1 })
}

fn version_control(s: &Session) -> Line {
    let about = "version control";
    let looked = git::is_repository(&s.root).and_then(|there| match there {
        true => git::changed(&s.root).map(Some),
        false => Ok(None),
    });
    let (fine, stops, text) = match looked {
        Ok(None) => (false, false, "no git repository; only ufold's journal leads back".to_string()),
        Ok(Some(list)) if list.is_empty() => (true, true, "clean".to_string()),
        Ok(Some(list)) => {
            let files = count(list.len(), "file", "files");
            (false, true, format!("uncommitted changes in {files}: {}", few(&list)))
        }
        // git does not know, so nobody does
        Err(e) => (false, true, e.to_string()),
    };
    Line { fine, stops, about, text }
}

fn steady(base: &Baseline, runs: &[Run; 2]) -> Line {
    let about = "same twice";
    if runs[1].results.tests.is_empty() {
        let fine = runs[0].passed() == runs[1].passed();
        let text = match (fine, &runs[0].failed) {
            (true, _) => "no tests are named; the exit codes were the same".to_string(),
            (false, Some(f)) => format!("the first run was another one: `{}` {}", f.command, f.how),
            (false, None) => "the second run was another one: the first one passed".to_string(),
        };
        return Line { fine, stops: true, about, text };
    }
    let first = base.judge(&runs[0]).of_commands();
    if !first.is_same() {
        let text = format!("the first run was another one: {}", first.lines().join("; "));
        return Line { fine: false, stops: true, about, text };
    }
    let text = match base.unsteady.len() {
        0 => "every test ended twice as it did once".to_string(),
        n => {
            let tests = count(n, "test", "tests");
            format!("{tests} changed between the runs, left out from now on: {}", few(&base.unsteady))
        }
    };
    Line { fine: base.unsteady.is_empty(), stops: false, about, text }
}

fn recordings(run: &Run) -> Option<Line> {
    let same = run.recordings.iter().filter(|r| r.changed.is_empty()).count();
    let all = run.recordings.len();
    (all > 0).then(|| Line {
        fine: same == all,
        stops: true,
        about: "recordings",
        text: format!("{same} of {all} as recorded"),
    })
}

/// Which findings the tests reach, by the project's own coverage.
fn covered(s: &Session) -> anyhow::Result<Line> {
    let about = "coverage";
    let Some(coverage) = s.coverage()? else {
        let text = "not known; name its file as check.coverage in ufold.toml".to_string();
        return Ok(Line { fine: false, stops: false, about, text });
    };
    let scanned = s.scan(&[])?;
    let findings: Vec<_> =
        s.findings(&scanned, &s.options()).into_iter().filter(|f| f.kind.has_copies() && !f.small).collect();
    let reach = |f: &Finding| s.reach(&coverage, &scanned, f);
    let full = findings.iter().filter(|f| reach(f).all()).count();
    let none = findings.iter().filter(|f| reach(f).nothing()).count();
    let part = findings.len() - full - none;
    let mut text =
        format!("of {} findings the tests run {full} wholly, {part} in part, {none} not at all", findings.len());
    if let Some(f) = scanned.facts.iter().find(|f| coverage.is_older_than(&s.root, &f.path)) {
        text.push_str(&format!("; the report is older than {}", f.path));
    }
    Ok(Line { fine: none + part == 0, stops: false, about, text })
}
