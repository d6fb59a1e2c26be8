//! `probe`: would the check notice if a step were wrong?

use std::time::Duration;

use schemars::JsonSchema;
use serde::Serialize;
use ufold_core::step::probe::Break;
use ufold_project::Error;
use ufold_project::journal::{Record, State};
use ufold_project::probe::{Noticed, probe};

use crate::args::Probe;
use crate::output::{Progress, count, fit};
use crate::session::Session;

pub fn run(s: &Session, a: &Probe) -> anyhow::Result<u8> {
    let progress = Progress::new(s.quiet);
    let tick = |what: &str, t: Duration| progress.tick(what, t);
    let (check, options) = s.net(a.check.as_deref(), &tick)?;
    let _held = s.hold();
    let record = step(s, a.number)?;
    let plan = s.journal()?.plan(record.number)?;
    let most = Duration::from_secs_f64(a.minutes.clamp(0.0, 1e6) * 60.0);
    let mut last = (String::new(), 0);
    let found = probe(&s.root, &record, &plan, &check, most, &options, &mut |b, noticed| {
        progress.clear();
        if !s.json {
            tell(s, b, noticed, &mut last);
        }
    })?;
    let of = |wanted: fn(&Noticed) -> bool| found.iter().filter(|(_, n)| wanted(n)).count();
    let (noticed, not) = (of(|n| matches!(n, Noticed::By(_))), of(|n| *n == Noticed::Not));
    let left = found.len() - noticed - not;
    if s.json {
        let breaks = found.iter().map(row).collect();
        let report = Report { schema: "ufold.probe/1", step: record.number, breaks };
        say!("{}", serde_json::to_string(&report)?);
    } else {
        let mut text =
            format!("step {}: {noticed} of {} noticed", record.number, count(found.len(), "break", "breaks"));
        if left > 0 {
            text.push_str(&format!(", {left} not tried, the time was up"));
        }
        say!("\n{}", if not == 0 { s.paint.good(&text) } else { s.paint.careful(&text) });
    }
    Ok(u8::from(not > 0))
}

fn step(s: &Session, number: Option<u32>) -> anyhow::Result<Record> {
    let records = s.journal()?.records()?;
    let found = match number {
        Some(n) => records.into_iter().find(|r| r.number == n),
        None => records.into_iter().rev().find(|r| r.state == State::Applied),
    };
    let r = found.ok_or_else(|| Error::Usage("there is no such step; `ufold log` lists them".into()))?;
    if r.state != State::Applied {
        Err(Error::Refused(format!("step {} is not applied (it was {})", r.number, r.state.word())))?;
    }
    Ok(r)
}

/// A line for the place, where it is another one, and one for the break.
fn tell(s: &Session, b: &Break, noticed: &Noticed, last: &mut (String, usize)) {
    let place = (b.file.clone(), b.line);
    if *last != place {
        say!("{}", s.paint.strong(&format!("{}:{} {}", b.file, b.line, b.within)));
        *last = place;
    }
    let (word, by) = match noticed {
        Noticed::By(what) => (s.paint.good("noticed    "), format!("  {}", fit(what, 60))),
        Noticed::Not => (s.paint.bad("not noticed"), String::new()),
        Noticed::NotTried => (s.paint.faint("not tried  "), String::new()),
    };
    say!("  {word}  {:46}{}", fit(&b.what, 46), s.paint.faint(&by));
}

/// `probe --format json`.
#[derive(Serialize, JsonSchema)]
pub struct Report {
    /// Always `ufold.probe/1`.
    schema: &'static str,
    step: u32,
    breaks: Vec<Row>,
}

#[derive(Serialize, JsonSchema)]
pub struct Row {
    file: String,
    line: usize,
    within: String,
    /// What was broken, in words.
    what: String,
    /// `noticed`, `not noticed` or `not tried`.
    state: &'static str,
    /// The test, recording or command that noticed it first.
    by: Option<String>,
}

fn row((b, n): &(Break, Noticed)) -> Row {
    let (state, by) = match n {
        Noticed::By(what) => ("noticed", Some(what.clone())),
        Noticed::Not => ("not noticed", None),
        Noticed::NotTried => ("not tried", None),
    };
    Row { file: b.file.clone(), line: b.line, within: b.within.clone(), what: b.what.clone(), state, by }
}
