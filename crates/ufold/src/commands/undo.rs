//! `undo`: takes a step back.

use crate::output::json;
use crate::session::Session;

pub fn run(s: &Session, number: Option<u32>) -> anyhow::Result<u8> {
    let _held = s.hold();
    let (r, notes) = s.journal()?.undo(number)?;
    notes.iter().for_each(|n| s.warn(n));
    if s.json {
        json::print(&json::Undone { schema: "ufold.undo/1", record: &r, notes: &notes });
        return Ok(0);
    }
    let files: Vec<&str> = r.files.iter().map(|f| f.file.as_str()).collect();
    say!("step {} was taken back: {}", r.number, files.join(", "));
    if let Some(c) = &r.commit {
        s.remark(&format!("commit {c} stays in the history; commit the files again to record the way back"));
    }
    Ok(0)
}
