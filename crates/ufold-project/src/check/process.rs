//! One command in its own process group, with a timeout, ended as a whole, with a bounded memory of what it prints.
//!
//! On Linux a process that leaves the group is still ended: whoever loses its parent becomes a child of this program, and
//! those are looked for when the command is done. Elsewhere the process group is all there is.

use std::collections::{BTreeMap, BTreeSet, VecDeque};
use std::io::{PipeReader, Read};
use std::os::unix::process::CommandExt;
use std::path::Path;
use std::process::{Command, Stdio};
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

use rustix::process::{Pid, Signal, kill_process_group};

use crate::{Error, Result};

/// Bytes that are kept of the beginning of an output, and as many of its end.
const KEPT: usize = 32 << 20;

/// How long what a command printed may still be read when it is over.
const DRAIN: Duration = Duration::from_secs(2);

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
    /// It printed more than is kept: the middle is missing.
    pub cut: bool,
    pub took: Duration,
}

/// Runs a command. `stop` ends it early; `tick` is called a few times a second.
pub fn run(job: &Job, stop: &AtomicBool, tick: &dyn Fn(Duration)) -> Result<Ran> {
    // those who lose their parent are told from the children of other commands by there being none
    static ONE_AT_A_TIME: Mutex<()> = Mutex::new(());
    let _one = ONE_AT_A_TIME.lock().unwrap_or_else(|e| e.into_inner());
    let line = job.words.join(" ");
    let cannot = |e: std::io::Error| Error::Environment(format!("cannot start `{line}`: {e}"));
    let (program, words) = job.words.split_first().ok_or_else(|| Error::Usage("no command".into()))?;
    let strays = Strays::watched();
    let (output, out) = std::io::pipe().map_err(cannot)?;
    let (errors, err) = match job.apart {
        true => std::io::pipe().map(|(r, w)| (Some(r), w)),
        false => out.try_clone().map(|w| (None, w)),
    }
    .map_err(cannot)?;
    let started = Instant::now();
    let mut command = Command::new(program);
    command.args(words).current_dir(job.folder).envs(job.env).stdin(Stdio::null()).stdout(out).stderr(err);
    let mut child = command.process_group(0).spawn().map_err(cannot)?;
    drop(command); // it holds the ends that the command writes to
    let (output, errors) = (Kept::of(output), errors.map(Kept::of));
    let group = Pid::from_child(&child);
    let status = loop {
        if let Some(s) = child.try_wait().map_err(cannot)? {
            break Some(s);
        }
        if stop.load(Ordering::Relaxed) {
            end_group(group, &mut child);
            strays.end();
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
    let _ = kill_process_group(group, Signal::KILL);
    strays.end();
    let verdict = match status {
        None => Verdict::TimedOut,
        Some(s) if s.success() => Verdict::Passed,
        Some(s) => Verdict::Failed(s.code()),
    };
    let took = started.elapsed();
    let (output, cut) = output.text();
    let (errors, errors_cut) = errors.map(Reader::text).unwrap_or_default();
    Ok(Ran { verdict, output, errors, cut: cut || errors_cut, took })
}

/// The beginning and the end of what was printed.
#[derive(Default)]
struct Kept {
    head: Vec<u8>,
    tail: VecDeque<u8>,
    left_out: usize,
}

struct Reader {
    kept: Arc<Mutex<Kept>>,
    done: std::thread::JoinHandle<()>,
}

impl Kept {
    /// Reads along on a thread of its own: a full pipe would stop the command.
    fn of(mut pipe: PipeReader) -> Reader {
        let kept = Arc::new(Mutex::new(Kept::default()));
        let own = kept.clone();
        let done = std::thread::spawn(move || {
            let mut buffer = vec![0; 64 << 10];
            while let Ok(n @ 1..) = pipe.read(&mut buffer) {
                own.lock().unwrap_or_else(|e| e.into_inner()).add(&buffer[..n]);
            }
        });
        Reader { kept, done }
    }

    fn add(&mut self, bytes: &[u8]) {
        let first = bytes.len().min(KEPT - self.head.len());
        self.head.extend(&bytes[..first]);
        self.tail.extend(&bytes[first..]);
        let over = self.tail.len().saturating_sub(KEPT);
        self.left_out += over;
        self.tail.drain(..over);
    }
}

impl Reader {
    /// What was printed, and whether a part of it is missing.
    fn text(self) -> (String, bool) {
        let asked = Instant::now();
        while !self.done.is_finished() && asked.elapsed() < DRAIN {
            std::thread::sleep(Duration::from_millis(1));
        }
        let mut kept = self.kept.lock().unwrap_or_else(|e| e.into_inner());
        let mut bytes = std::mem::take(&mut kept.head);
        if kept.left_out > 0 {
            bytes.extend(format!("\n… {} bytes left out …\n", kept.left_out).bytes());
        }
        bytes.extend(std::mem::take(&mut kept.tail));
        let text = String::from_utf8(bytes).unwrap_or_else(|e| String::from_utf8_lossy(e.as_bytes()).into_owned());
        (text, kept.left_out > 0)
    }
}

/// Processes that lost their parents while a command ran.
struct Strays {
    /// Children that were there before.
    before: BTreeSet<i32>,
}

impl Strays {
    fn watched() -> Strays {
        #[cfg(target_os = "linux")]
        let _ = rustix::process::set_child_subreaper(Some(rustix::process::getpid()));
        Strays { before: children() }
    }

    /// Ends them, and those that they leave behind in turn.
    fn end(&self) {
        let asked = Instant::now();
        loop {
            let left: Vec<Pid> = children().difference(&self.before).filter_map(|p| Pid::from_raw(*p)).collect();
            if left.is_empty() || asked.elapsed() > Duration::from_secs(5) {
                return;
            }
            for pid in left {
                let _ = rustix::process::kill_process(pid, Signal::KILL);
                let _ = rustix::process::waitpid(Some(pid), rustix::process::WaitOptions::NOHANG);
            }
            std::thread::sleep(Duration::from_millis(1));
        }
    }
}

/// This program's children.
fn children() -> BTreeSet<i32> {
    let own = std::process::id().to_string();
    let parent_is_own = |pid: &i32| {
        let stat = std::fs::read_to_string(format!("/proc/{pid}/stat")).unwrap_or_default();
        // the name, in parentheses, may have anything in it
        let after_name = stat.rsplit_once(')').map_or("", |(_, rest)| rest);
        after_name.split_whitespace().nth(1) == Some(&own)
    };
    let all = std::fs::read_dir("/proc").into_iter().flatten().flatten();
    all.filter_map(|e| e.file_name().to_str()?.parse().ok()).filter(parent_is_own).collect()
}

fn end_group(group: Pid, child: &mut std::process::Child) {
    let _ = kill_process_group(group, Signal::TERM);
    let asked = Instant::now();
    while asked.elapsed() < Duration::from_millis(500) {
        if matches!(child.try_wait(), Ok(Some(_))) {
            break;
        }
        std::thread::sleep(Duration::from_millis(20));
    }
    let _ = kill_process_group(group, Signal::KILL);
    let _ = child.wait();
}

/// The last lines of an output, for people.
pub fn tail(output: &str, lines: usize) -> String {
    let all: Vec<&str> = output.trim_end().lines().collect();
    all[all.len().saturating_sub(lines)..].join("\n")
}
