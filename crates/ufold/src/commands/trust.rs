//! `trust`: a yes to the commands that a project wants run.

use ufold_project::trust::{say_yes, unknown};

use crate::output::{count, json};
use crate::session::Session;

pub fn run(s: &Session, list: bool) -> anyhow::Result<u8> {
    let journal = s.journal()?;
    let wanted = s.wanted()?;
    let new = unknown(&journal, &wanted)?;
    if s.json {
        let commands = wanted.iter().map(|w| json::Wanted { command: &w.line, new: new.contains(&w) }).collect();
        json::print(&json::Trusted { schema: "ufold.trust/1", commands });
    } else if wanted.is_empty() {
        say!("this project wants no commands run");
    } else {
        for w in &wanted {
            let mark = if new.contains(&w) { s.paint.careful("new") } else { s.paint.good("yes") };
            say!("  {mark}  {}", w.line);
        }
    }
    if !list && !new.is_empty() {
        say_yes(&journal, &wanted)?;
        s.remark(&format!("ufold runs {} here from now on", count(wanted.len(), "command", "commands")));
    }
    Ok(0)
}
