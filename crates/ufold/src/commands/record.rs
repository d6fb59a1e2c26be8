//! `record`: the output of a command is kept, so that later runs can be compared with it.

use std::path::Path;
use std::time::Duration;

use ufold_core::recording::masks_for;
use ufold_project::recording::{FOLDER, Output, Recording, all, changed, folder};
use ufold_project::{Error, Result, trust};

use crate::args::Record;
use crate::output::{Progress, count, fit, json, print_diff};
use crate::session::Session;

pub fn run(s: &Session, a: &Record) -> anyhow::Result<u8> {
    let Some(name) = &a.name else { return list(s) };
    let progress = Progress::new(s.quiet);
    let _held = s.hold();
    let tick = |t: Duration| progress.tick("recording", t);
    if a.accept {
        let r = Recording::load(&s.root, name)?;
        s.require(&[trust::recording(&r)])?;
        let now = r.run(&s.root, &s.stop, &tick)?;
        progress.clear();
        r.keep(s.journal()?.tree(), &now)?;
        match s.json {
            true => told(&r, &now),
            false => say!("recording {name}: the new output is kept as right"),
        }
        return Ok(0);
    }
    let r = recording(s, a, name)?;
    let runs = [r.run(&s.root, &s.stop, &tick)?, r.run(&s.root, &s.stop, &tick)?];
    progress.clear();
    if runs[0] != runs[1] {
        Err(unsteady(s, &r, &runs)?)?;
    }
    let journal = s.journal()?;
    r.keep(journal.tree(), &runs[1])?;
    // the person typed it
    trust::say_yes(&journal, &[trust::recording(&r)])?;
    if s.json {
        told(&r, &runs[1]);
        return Ok(0);
    }
    let exit = runs[1].iter().filter(|(_, o)| o.get("exit").is_some_and(|e| e.trim() != "0")).count();
    let parts: usize = runs[1].iter().map(|(_, o)| o.len()).sum();
    say!(
        "recorded {name}: {}, {} in {FOLDER}/{name}",
        count(runs[1].len(), "run", "runs"),
        count(parts, "file", "files")
    );
    if exit > 0 {
        s.remark(&format!("{} did not exit with 0; that is what is kept", count(exit, "run", "runs")));
    }
    Ok(0)
}

/// What was recorded, as data.
fn told(r: &Recording, rows: &[(String, Output)]) {
    let not_zero = rows.iter().filter(|(_, o)| o.get("exit").is_some_and(|e| e.trim() != "0")).count();
    let files = rows.iter().map(|(_, o)| o.len()).sum();
    json::print(&json::Recorded { schema: "ufold.record/1", name: &r.name, runs: rows.len(), files, not_zero });
}

fn list(s: &Session) -> anyhow::Result<u8> {
    let recordings = all(&s.root)?;
    if s.json {
        let list = recordings.iter().map(|r| json::Named { name: &r.name, settings: r }).collect();
        json::print(&json::Recordings { schema: "ufold.recordings/1", recordings: list });
        return Ok(0);
    }
    if recordings.is_empty() {
        say!("no recordings; `ufold record NAME -- COMMAND` makes one");
    }
    for r in recordings {
        let words = r.command.join(" ").replace(char::is_whitespace, " ");
        say!("{:16} {}", r.name, s.paint.faint(&fit(&words, 80)));
    }
    Ok(0)
}

/// The recording that the arguments describe.
fn recording(s: &Session, a: &Record, name: &str) -> Result<Recording> {
    let dir = folder(&s.root, name)?;
    if dir.exists() && !a.force {
        return Err(Error::Usage(format!(
            "there is a recording {name}; --accept takes new output, --force replaces it"
        )));
    }
    if a.command.is_empty() {
        return Err(Error::Usage(format!("what is to be recorded? ufold record {name} -- COMMAND")));
    }
    let inputs = a.inputs.as_deref().map(|p| read(s, p)).transpose()?;
    let here = s.current.strip_prefix(&s.root).map(ufold_project::root::slashed).unwrap_or_default();
    let r = Recording {
        name: name.to_string(),
        command: a.command.clone(),
        folder: here,
        env: a.env.iter().cloned().collect(),
        files: a.files.clone(),
        masks: a.mask.clone(),
        timeout: a.timeout,
        inputs,
    };
    r.valid()?;
    Ok(r)
}

fn read(s: &Session, path: &Path) -> Result<String> {
    let path = s.current.join(path);
    std::fs::read_to_string(&path).map_err(|e| Error::io("read", path, &e))
}

/// Says what differs between two runs, and which masks would cover it.
fn unsteady(s: &Session, r: &Recording, runs: &[Vec<(String, Output)>; 2]) -> anyhow::Result<Error> {
    let mut out = crate::output::out();
    let mut rules: Option<Vec<&str>> = Some(Vec::new());
    for ((row, a), (_, b)) in runs[0].iter().zip(&runs[1]) {
        for c in changed(a, b) {
            print_diff(&mut out, s.paint, &format!("{row}/{}", c.part), Some(&c.before), Some(&c.now))?;
            match (masks_for(&c.before, &c.now), &mut rules) {
                (Some(found), Some(all)) => found.into_iter().for_each(|m| {
                    if !all.contains(&m) {
                        all.push(m);
                    }
                }),
                (None, _) => rules = None,
                _ => {}
            }
        }
    }
    say!("");
    let advice = match rules {
        Some(list) if !list.is_empty() => {
            let flags: Vec<String> = list.iter().map(|m| format!("--mask {m}")).collect();
            format!("these would cover it: {}", flags.join(" "))
        }
        _ => "give a regular expression for what may differ: --mask REGEX".to_string(),
    };
    Ok(Error::Refused(format!("recording {}: two runs differ, nothing was kept; {advice}", r.name)))
}
