//! The project's tests: one or several commands, each in its own process group, read test by test where they report.
//!
//! A command's report is a file that it is told to write (`{report}` in its text), files that it always writes, or what
//! it prints. What can't be read counts as a failure of the check, never as a pass.

pub mod baseline;
pub mod detect;
mod process;

use std::collections::{BTreeMap, BTreeSet};
use std::path::{Path, PathBuf};
use std::sync::atomic::AtomicBool;
use std::time::{Duration, Instant, SystemTime};

use serde::{Deserialize, Serialize};
use ufold_core::outcome::{Format, Outcome, Results, detect as format_of, read, read_from};

pub use process::{Job, Ran, Verdict, run as run_process, tail};

use crate::files::{LONGEST_TEXT, matching, open_report, sources_changed, stamps};
use crate::recording::{Comparison, Recording};
use crate::{Error, Result};

/// One command of the check.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct Command {
    /// A line for `sh`; `{report}` stands for the path of a file that it writes its report to.
    pub run: String,
    /// Folder to run it in, relative to the root.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub folder: String,
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    pub env: BTreeMap<String, String>,
    /// Seconds; that of the whole check when absent.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub timeout: Option<u64>,
    /// The report's format; told from its text when absent.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub report: Option<Format>,
    /// Files with reports that it writes by itself, as patterns.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub files: Vec<String>,
}

/// What is run to see whether behaviour is unchanged.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Check {
    pub commands: Vec<Command>,
    /// Of each command.
    pub timeout: Duration,
    /// Leave out the commands after one that fails.
    pub stop_early: bool,
    /// Compared after the commands.
    pub recordings: Vec<Recording>,
}

/// What a run of the check gave.
#[derive(Clone, Debug)]
pub struct Run {
    pub results: Results,
    /// The first command that did not pass.
    pub failed: Option<Failure>,
    /// What the first command printed that did not pass, else the last one.
    pub output: String,
    pub took: Duration,
    /// Commands that are known by their exit code alone.
    pub by_exit_code: Vec<String>,
    pub recordings: Vec<Comparison>,
    /// Source files that were there and changed while it ran.
    pub wrote: BTreeSet<String>,
}

#[derive(Clone, Debug)]
pub struct Failure {
    pub command: String,
    pub how: String,
    /// It ended as a command ends that ran all of its tests: some of them failed.
    pub by_tests: bool,
}

impl Run {
    pub fn passed(&self) -> bool {
        self.failed.is_none() && self.recordings.iter().all(|r| r.changed.is_empty())
    }

    /// How many tests had which outcome, in words.
    pub fn counts(&self) -> String {
        if self.results.tests.is_empty() {
            return "known by the exit code alone".into();
        }
        let of = |o: Outcome| Some((self.results.count(o), o.word())).filter(|(n, _)| *n > 0);
        let all = [Outcome::Passed, Outcome::Failed, Outcome::Skipped].into_iter().filter_map(of);
        all.map(|(n, word)| format!("{n} {word}")).collect::<Vec<_>>().join(", ")
    }
}

impl Check {
    pub fn of_command(line: &str, timeout: Duration) -> Check {
        let command = Command { run: line.to_string(), ..Command::default() };
        Check { commands: vec![command], timeout, stop_early: false, recordings: Vec::new() }
    }

    /// One line that names it.
    pub fn line(&self) -> String {
        self.commands.iter().map(|c| c.run.as_str()).collect::<Vec<_>>().join(" && ")
    }

    /// Runs all commands. `stop` ends it early; `tick` is called a few times a second.
    pub fn run(&self, root: &Path, stop: &AtomicBool, tick: &dyn Fn(Duration)) -> Result<Run> {
        let mut out = Run {
            results: Results::default(),
            failed: None,
            output: String::new(),
            took: Duration::ZERO,
            by_exit_code: Vec::new(),
            recordings: Vec::new(),
            wrote: BTreeSet::new(),
        };
        let tree = stamps(root);
        self.run_into(&mut out, root, stop, tick)?;
        out.wrote = sources_changed(&tree, &stamps(root));
        Ok(out)
    }

    fn run_into(&self, out: &mut Run, root: &Path, stop: &AtomicBool, tick: &dyn Fn(Duration)) -> Result<()> {
        for c in &self.commands {
            let before = out.took;
            let (ran, results) = self.one(root, c, stop, &|t| tick(before + t))?;
            out.took += ran.took;
            let failure = failure(c, &ran, &results, self.seconds(c));
            if out.failed.is_none() {
                out.output = ran.output;
            }
            match results {
                Ok(r) if r.tests.is_empty() => out.by_exit_code.push(c.run.clone()),
                Ok(r) => {
                    let several = self.commands.len() > 1 && !c.folder.is_empty();
                    let prefix = if several { format!("{} > ", c.folder) } else { String::new() };
                    out.results.join(r, &prefix);
                }
                Err(_) => {}
            }
            let fails = failure.is_some();
            out.failed = out.failed.take().or(failure);
            if fails && self.stop_early {
                return Ok(());
            }
        }
        for r in &self.recordings {
            let started = Instant::now();
            let before = out.took;
            out.recordings.extend(r.compare(root, stop, &|t| tick(before + t))?);
            out.took += started.elapsed();
        }
        Ok(())
    }

    fn seconds(&self, c: &Command) -> Duration {
        c.timeout.map_or(self.timeout, Duration::from_secs)
    }

    fn one(
        &self,
        root: &Path,
        c: &Command,
        stop: &AtomicBool,
        tick: &dyn Fn(Duration),
    ) -> Result<(Ran, std::result::Result<Results, String>)> {
        let folder = if c.folder.is_empty() { root.to_path_buf() } else { crate::root::inside(root, &c.folder)? };
        let place = tempfile::tempdir().map_err(|e| Error::Environment(format!("no temporary folder: {e}")))?;
        let report = place.path().join("report");
        let line = c.run.replace("{report}", &report.to_string_lossy());
        let before = reports(&folder, &c.files)?;
        let words = ["sh".to_string(), "-c".into(), line];
        let job = Job { folder: &folder, words: &words, env: &c.env, timeout: self.seconds(c), apart: false };
        let ran = run_process(&job, stop, tick)?;
        if let (Verdict::Failed(Some(126 | 127)), false) = (&ran.verdict, report.exists()) {
            return Err(Error::Environment(format!("the check `{}` cannot start: {}", c.run, ran.output.trim())));
        }
        let files = if c.run.contains("{report}") {
            vec![report]
        } else if c.files.is_empty() {
            if ran.cut {
                return Ok((ran, Err("it printed more than can be kept, so its results are not known".into())));
            }
            let text = &ran.output;
            let results = read(c.report.unwrap_or_else(|| format_of(text)), text).map_err(|e| e.to_string());
            return Ok((ran, results));
        } else {
            let now = reports(&folder, &c.files)?;
            now.into_iter().filter(|(path, time)| before.get(path) != Some(time)).map(|(path, _)| path).collect()
        };
        let results = results_of(c, &files);
        Ok((ran, results))
    }
}

/// What the reports of one run say together.
fn results_of(c: &Command, files: &[PathBuf]) -> std::result::Result<Results, String> {
    let mut results = Results::default();
    for file in files {
        let from = match open_report(file) {
            Ok(from) => from,
            Err(e) if e.kind() == std::io::ErrorKind::NotFound => return Err("it wrote no report".into()),
            Err(e) => return Err(format!("its report can't be read: {e}")),
        };
        results.join(read_from(c.report, from, LONGEST_TEXT).map_err(|e| e.to_string())?, "");
    }
    if files.is_empty() { Err("it wrote no report".into()) } else { Ok(results) }
}

/// Files that match the patterns, each with when it was written: those of an earlier run keep their time.
fn reports(folder: &Path, patterns: &[String]) -> Result<BTreeMap<PathBuf, SystemTime>> {
    let time = |p: PathBuf| Some((p.clone(), p.metadata().ok()?.modified().ok()?));
    Ok(matching(folder, patterns)?.into_iter().filter_map(time).collect())
}

fn failure(
    c: &Command,
    ran: &Ran,
    results: &std::result::Result<Results, String>,
    timeout: Duration,
) -> Option<Failure> {
    let failing = results.as_ref().is_ok_and(|r| r.count(Outcome::Failed) > 0);
    let how = match (&ran.verdict, results) {
        (Verdict::TimedOut, _) => format!("did not end within {} s", timeout.as_secs()),
        (Verdict::Failed(None), _) => "was ended by a signal".to_string(),
        (Verdict::Failed(Some(code)), _) => format!("fails (exit {code})"),
        (Verdict::Passed, Err(e)) => format!("passes, but {e}"),
        (Verdict::Passed, Ok(_)) if failing => "passes, but tests fail".to_string(),
        (Verdict::Passed, Ok(_)) => return None,
    };
    let ended = matches!(ran.verdict, Verdict::Passed | Verdict::Failed(Some(_)));
    Some(Failure { command: c.run.clone(), how, by_tests: ended && failing })
}
