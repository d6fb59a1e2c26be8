//! `log`: the steps that were done.

use ufold_project::journal::State;

use crate::output::fit;
use crate::session::Session;

pub fn run(s: &Session) -> anyhow::Result<u8> {
    let records = s.journal()?.records()?;
    if s.json {
        println!("{}", serde_json::json!({ "schema": "ufold.log/1", "steps": records }));
        return Ok(0);
    }
    if records.is_empty() {
        println!("no steps yet");
        return Ok(0);
    }
    println!("{}", s.paint.faint(" step  state     saves  what"));
    for r in &records {
        let word = match r.state {
            State::Applied => s.paint.good(&format!("{:8}", "applied")),
            State::Undone => s.paint.faint(&format!("{:8}", "undone")),
            State::Restored => s.paint.careful(&format!("{:8}", "restored")),
            State::Pending => s.paint.bad(&format!("{:8}", "pending")),
        };
        println!(" {:4}  {word}  {:5}  {}", r.number, r.saves, fit(&r.title, 74));
        let mut notes = Vec::new();
        notes.extend(r.check.as_ref().map(|c| format!("check {c}")));
        notes.extend(r.commit.as_ref().map(|c| format!("commit {c}")));
        if !notes.is_empty() {
            println!("{}", s.paint.faint(&format!("                        {}", notes.join(", "))));
        }
    }
    Ok(0)
}
