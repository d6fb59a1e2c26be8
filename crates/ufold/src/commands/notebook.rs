//! `notebook`: a script for people, a recording of what it prints, and what is worth changing in it.

use std::time::Duration;

use ufold_core::lang::{Export, for_path};
use ufold_project::recording::{FOLDER, Recording, folder};
use ufold_project::{Error, trust};

use super::scan;
use crate::args::{Notebook, Scan};
use crate::output::{Progress, count, json};
use crate::session::Session;

pub fn run(s: &Session, a: &Notebook) -> anyhow::Result<u8> {
    let (from, to) = (s.path(&a.file)?, s.new_path(&a.output)?);
    let journal = s.journal()?;
    let text = journal.tree().text(&from)?;
    let exported = for_path(&from).and_then(|l| l.export(&text, a.without_display));
    let wrong = |why: String| Error::Usage(format!("{from}: {why}"));
    let Export { script, remarks } = exported.unwrap_or_else(|| Err("no notebook".into())).map_err(wrong)?;
    let is_script = for_path(&to).is_some_and(|l| l.script_of("").is_none());
    if !is_script || to == from {
        Err(Error::Usage(format!("{to}: a script is written to a source file, such as gauges.py")))?;
    }
    match (journal.tree().read(&to)?.is_some(), a.force) {
        (true, false) => Err(Error::Usage(format!("{to} is already there; --force replaces it")))?,
        (true, true) => journal.tree().write(&to, script.as_bytes())?,
        (false, _) => journal.tree().create(&to, script.as_bytes())?,
    }
    remarks.iter().for_each(|r| s.remark(&format!("remark: {r}")));
    let recorded = if a.no_recording { None } else { record(s, &to, a.force)? };
    if s.json {
        json::print(&json::Exported {
            schema: "ufold.notebook/1",
            file: &to,
            recording: recorded.as_deref(),
            remarks: &remarks,
        });
        return Ok(0);
    }
    say!("wrote {to}: {}", count(script.lines().count(), "line", "lines"));
    if let Some(name) = &recorded {
        say!("recorded what it prints in {FOLDER}/{name}; `ufold check` compares it from now on");
    }
    say!("");
    scan::run(s, &Scan { paths: vec![to], limit: 10, ..Scan::default() })
}

/// Runs the script twice; its output is kept where it ends well and prints the same.
fn record(s: &Session, script: &str, force: bool) -> anyhow::Result<Option<String>> {
    let (at, file) = script.rsplit_once('/').unwrap_or(("", script));
    let name = file.split('.').next().unwrap_or(file).to_string();
    if folder(&s.root, &name)?.exists() && !force {
        s.remark(&format!("remark: there is a recording {name}; `ufold record --accept {name}` takes new output"));
        return Ok(None);
    }
    let r = Recording {
        name: name.clone(),
        command: vec!["python3".into(), file.into()],
        folder: at.into(),
        env: [("PYTHONDONTWRITEBYTECODE".to_string(), "1".to_string())].into(),
        files: Vec::new(),
        masks: Vec::new(),
        timeout: None,
        inputs: None,
    };
    r.valid()?;
    let progress = Progress::new(s.quiet);
    let _held = s.hold();
    let tick = |t: Duration| progress.tick("recording", t);
    let runs = [r.run(&s.root, &s.stop, &tick)?, r.run(&s.root, &s.stop, &tick)?];
    progress.clear();
    let failed = runs[1].iter().any(|(_, o)| o.get("exit").is_some_and(|e| e.trim() != "0"));
    if failed || runs[0] != runs[1] {
        let why = if failed { "it does not run to its end" } else { "two runs print different things" };
        s.remark(&format!("remark: nothing was recorded, {why}; `ufold record {name} -- python3 {file}` shows more"));
        return Ok(None);
    }
    let journal = s.journal()?;
    r.keep(journal.tree(), &runs[1])?;
    // the person asked for it
    trust::say_yes(&journal, &[trust::recording(&r)])?;
    Ok(Some(name))
}
