//! Running the project's tests: one command in its own process group, with a timeout, ended as a whole.

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

#[derive(Clone, Debug)]
pub struct Run {
    pub verdict: Verdict,
    pub output: String,
    pub took: Duration,
}

/// Runs a command line in a folder. `stop` ends it early; `tick` is called a few times a second.
pub fn run(root: &Path, command: &str, timeout: Duration, stop: &AtomicBool, tick: &dyn Fn(Duration)) -> Result<Run> {
    let cannot = |e: std::io::Error| Error::Environment(format!("cannot start the check `{command}`: {e}"));
    let mut file = tempfile::tempfile().map_err(cannot)?;
    let out = || file.try_clone().map(Stdio::from).map_err(cannot);
    let started = Instant::now();
    let mut child = Command::new("sh")
        .args(["-c", command])
        .current_dir(root)
        .stdin(Stdio::null())
        .stdout(out()?)
        .stderr(out()?)
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
        if started.elapsed() > timeout {
            end_group(group, &mut child);
            break None;
        }
        tick(started.elapsed());
        std::thread::sleep(Duration::from_millis(20));
    };
    // what the command left running would change files behind our back
    let _ = killpg(group, Signal::SIGKILL);
    let mut bytes = Vec::new();
    file.rewind().and_then(|_| file.read_to_end(&mut bytes)).map_err(cannot)?;
    let output = String::from_utf8_lossy(&bytes).into_owned();
    let verdict = match status {
        None => Verdict::TimedOut,
        Some(s) if s.success() => Verdict::Passed,
        Some(s) if matches!(s.code(), Some(126 | 127)) => {
            return Err(Error::Environment(format!("the check `{command}` cannot start: {}", output.trim())));
        }
        Some(s) => Verdict::Failed(s.code()),
    };
    Ok(Run { verdict, output, took: started.elapsed() })
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
