//! `check`: runs the project's tests.

use std::time::Duration;

use ufold_project::Error;
use ufold_project::check::{Verdict, run as run_check, tail};
use ufold_project::files::fingerprint;

use crate::args::CheckOnly;
use crate::output::Progress;
use crate::session::Session;

pub fn run(s: &Session, a: &CheckOnly) -> anyhow::Result<u8> {
    let command = a.check.clone().or_else(|| s.config.check.command.clone());
    let Some(command) = command else {
        return Err(Error::Usage("no check is known: run `ufold init`, or give --check COMMAND".into()))?;
    };
    let journal = s.journal()?;
    let progress = Progress::new(s.quiet);
    let timeout = Duration::from_secs(s.config.check.timeout);
    let run = run_check(&s.root, &command, timeout, &s.stop, &|t| progress.tick("check", t))?;
    progress.clear();
    let took = format!("{:.1} s", run.took.as_secs_f64());
    if run.verdict == Verdict::Passed {
        journal.set_green(&command, &fingerprint(&s.root))?;
        println!("{} in {took}: {command}", s.paint.good("passed"));
        return Ok(0);
    }
    println!("{}", tail(&run.output, 40));
    match run.verdict {
        Verdict::TimedOut => println!("{} after {took}: {command}", s.paint.bad("no end")),
        _ => println!("{} in {took}: {command}", s.paint.bad("failed")),
    }
    Ok(1)
}
