//! One command in its own process group, with a timeout, ended as a whole.

use std::collections::BTreeMap;
use std::fs::File;
use std::io::{Read, Seek};
use std::os::unix::process::CommandExt;
use std::path::Path;
use std::process::{Command, Stdio};
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::{Duration, Instant};

use nix::sys::signal::{Signal, killpg};
use nix::unistd::Pid;

use crate::{Error, Result};

#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Verdict {
    Passed,
    /// With the exit code, or none when a signal ended it.
    Failed(Option<i32>),
    TimedOut,
}

/// What is to be run.
pub struct Job<'a> {
    pub folder: &'a Path,
    pub words: &'a [String],
    pub env: &'a BTreeMap<String, String>,
    pub timeout: Duration,
    /// Keep what it writes as errors apart from the rest.
    pub apart: bool,
}

#[derive(Clone, Debug)]
pub struct Ran {
    pub verdict: Verdict,
    pub output: String,
    /// Empty when it is not kept apart.
    pub errors: String,
    pub took: Duration,
}

/// Runs a command. `stop` ends it early; `tick` is called a few times a second.
pub fn run(job: &Job, stop: &AtomicBool, tick: &dyn Fn(Duration)) -> Result<Ran> {
    let line = job.words.join(" ");
    let cannot = |e: std::io::Error| Error::Environment(format!("cannot start `{line}`: {e}"));
    let (program, words) = job.words.split_first().ok_or_else(|| Error::Usage("no command".into()))?;
    let output = tempfile::tempfile().map_err(cannot)?;
    let errors = if job.apart { tempfile::tempfile() } else { output.try_clone() }.map_err(cannot)?;
    let to = |f: &File| f.try_clone().map(Stdio::from).map_err(cannot);
    let started = Instant::now();
    let mut child = Command::new(program)
        .args(words)
        .current_dir(job.folder)
        .envs(job.env)
        .stdin(Stdio::null())
        .stdout(to(&output)?)
        .stderr(to(&errors)?)
        .process_group(0)
        .spawn()
        .map_err(cannot)?;
    let group = Pid::from_raw(child.id() as i32);
    let status = loop {
        if let Some(s) = child.try_wait().map_err(cannot)? {
            break Some(s);
        }
        if stop.load(Ordering::Relaxed) {
            end_group(group, &mut child);
            return Err(Error::Interrupted);
        }
        if started.elapsed() > job.timeout {
            end_group(group, &mut child);
            break None;
        }
        tick(started.elapsed());
        std::thread::sleep(Duration::from_millis(10));
    };
    // what the command left running would change files behind our back
    let _ = killpg(group, Signal::SIGKILL);
    let verdict = match status {
        None => Verdict::TimedOut,
        Some(s) if s.success() => Verdict::Passed,
        Some(s) => Verdict::Failed(s.code()),
    };
    let errors = if job.apart { text(errors).map_err(cannot)? } else { String::new() };
    Ok(Ran { verdict, output: text(output).map_err(cannot)?, errors, took: started.elapsed() })
}

fn text(mut file: File) -> std::io::Result<String> {
    let mut bytes = Vec::new();
    file.rewind()?;
    file.read_to_end(&mut bytes)?;
    Ok(String::from_utf8_lossy(&bytes).into_owned())
}

fn end_group(group: Pid, child: &mut std::process::Child) {
    let _ = killpg(group, Signal::SIGTERM);
    let asked = Instant::now();
    while asked.elapsed() < Duration::from_millis(500) {
        if matches!(child.try_wait(), Ok(Some(_))) {
            break;
        }
        std::thread::sleep(Duration::from_millis(20));
    }
    let _ = killpg(group, Signal::SIGKILL);
    let _ = child.wait();
}

/// The last lines of an output, for people.
pub fn tail(output: &str, lines: usize) -> String {
    let all: Vec<&str> = output.trim_end().lines().collect();
    all[all.len().saturating_sub(lines)..].join("\n")
}
