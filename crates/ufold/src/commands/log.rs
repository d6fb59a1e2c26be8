//! `log`: the steps that were done.

use schemars::JsonSchema;
use serde::Serialize;
use ufold_project::journal::{Record, State};

use crate::output::fit;
use crate::session::Session;

/// `log --format json`.
#[derive(Serialize, JsonSchema)]
pub struct Report {
    /// Always `ufold.log/1`.
    schema: &'static str,
    steps: Vec<Record>,
}

pub fn run(s: &Session) -> anyhow::Result<u8> {
    let records = s.journal()?.records()?;
    if s.json {
        say!("{}", serde_json::to_string(&Report { schema: "ufold.log/1", steps: records })?);
        return Ok(0);
    }
    if records.is_empty() {
        say!("no steps yet");
        return Ok(0);
    }
    say!("{}", s.paint.faint(" step  state     saves  what"));
    for r in &records {
        let word = match r.state {
            State::Applied if r.unchecked => s.paint.careful(&format!("{:8}", "applied")),
            State::Applied => s.paint.good(&format!("{:8}", "applied")),
            State::Undone => s.paint.faint(&format!("{:8}", "undone")),
            State::Restored => s.paint.careful(&format!("{:8}", "restored")),
            State::Pending => s.paint.bad(&format!("{:8}", "pending")),
        };
        say!(" {:4}  {word}  {:5}  {}", r.number, r.saves, fit(&r.title, 74));
        let mut notes = Vec::new();
        let words = |c: &String| if c.starts_with("passed") { format!("check {c}") } else { c.clone() };
        notes.extend(r.check.as_ref().map(|c| fit(&words(c), 72)));
        notes.extend((r.unchecked && r.state == State::Applied).then(|| "not checked yet".to_string()));
        notes.extend(r.commit.as_ref().map(|c| format!("commit {c}")));
        notes.extend(r.notes.iter().map(|n| fit(n, 110)));
        if !notes.is_empty() {
            say!("{}", s.paint.faint(&format!("                        {}", notes.join(", "))));
        }
    }
    Ok(0)
}
