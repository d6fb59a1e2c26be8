//! Outcomes of tests, one by one: read from what test runners report, and compared between two runs.
//!
//! Two open formats (JUnit XML, TAP) and the lines that some runners print. A runner that reports none of these is known
//! by its exit code alone, which can't tell a test that vanished from one that passed.

mod compare;
mod junit;
mod lines;
mod tap;

#[cfg(test)]
pub(crate) mod tests;

use std::collections::BTreeMap;
use std::io::{BufRead, Read};

use serde::{Deserialize, Serialize};

use crate::text::xml::first_byte;

pub use compare::{Change, Difference, differences, unsteady};

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Outcome {
    Passed,
    Failed,
    Skipped,
}

impl Outcome {
    pub fn word(self) -> &'static str {
        match self {
            Outcome::Passed => "passed",
            Outcome::Failed => "failed",
            Outcome::Skipped => "skipped",
        }
    }
}

/// What one test did.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, schemars::JsonSchema)]
pub struct Test {
    pub outcome: Outcome,
    /// What the runner says of a failure; empty when it says nothing.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub message: String,
}

/// All tests of a run by their names. A name that occurs again gets a number.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, schemars::JsonSchema)]
pub struct Results {
    pub tests: BTreeMap<String, Test>,
}

impl Results {
    pub fn add(&mut self, name: String, outcome: Outcome, message: String) {
        let name = match self.tests.contains_key(&name) {
            false => name,
            true => {
                (2..).map(|n| format!("{name} #{n}")).find(|n| !self.tests.contains_key(n)).expect("numbers do not end")
            }
        };
        self.tests.insert(name, Test { outcome, message });
    }

    pub fn count(&self, outcome: Outcome) -> usize {
        self.tests.values().filter(|t| t.outcome == outcome).count()
    }

    /// Takes over the tests of another part of the run.
    pub fn join(&mut self, other: Results, prefix: &str) {
        for (name, t) in other.tests {
            self.add(format!("{prefix}{name}"), t.outcome, t.message);
        }
    }
}

/// How a runner reports.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Format {
    /// JUnit XML.
    Junit,
    /// The Test Anything Protocol, versions 12 to 14, with subtests.
    Tap,
    /// The lines of Rust's test harness.
    Cargo,
    /// The lines of Python's unittest with `-v`.
    Unittest,
    /// The lines of `go test -v`.
    Go,
    /// Nothing but the exit code.
    Exit,
}

/// A report that is not what it was said to be.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("{0}")]
pub struct Unreadable(pub String);

/// Reads a report.
pub fn read(format: Format, text: &str) -> Result<Results, Unreadable> {
    match format {
        Format::Junit => junit::read(text.as_bytes()),
        Format::Tap => tap::read(text),
        Format::Cargo => Ok(lines::cargo(text)),
        Format::Unittest => Ok(lines::unittest(text)),
        Format::Go => Ok(lines::go(text)),
        Format::Exit => Ok(Results::default()),
    }
}

/// Reads a report of any length. XML is read as a stream; other formats, one line a test, as far as `longest` bytes.
pub fn read_from(format: Option<Format>, mut from: impl BufRead, longest: u64) -> Result<Results, Unreadable> {
    let cant = |e: std::io::Error| Unreadable(format!("the report can't be read: {e}"));
    let is_xml = first_byte(&mut from).map_err(cant)? == Some(b'<');
    if is_xml && format.is_none_or(|f| f == Format::Junit) {
        return junit::read(from);
    }
    let mut bytes = Vec::new();
    from.take(longest + 1).read_to_end(&mut bytes).map_err(cant)?;
    if bytes.len() as u64 > longest {
        return Err(Unreadable(format!("the report is longer than {} MB", longest >> 20)));
    }
    let text = String::from_utf8_lossy(&bytes);
    read(format.unwrap_or_else(|| detect(&text)), &text)
}

/// The format that a text is in, by what only that format has.
pub fn detect(text: &str) -> Format {
    let starts = |words: &[&str]| text.lines().any(|l| words.iter().any(|w| l.starts_with(w)));
    let xml = text.trim_start().starts_with('<') && text.contains("<testsuite");
    if xml {
        Format::Junit
    } else if starts(&["TAP version 1"]) || tap::has_plan(text) && starts(&["ok ", "not ok "]) {
        Format::Tap
    } else if starts(&["test result: "]) {
        Format::Cargo
    } else if starts(&["--- PASS: ", "--- FAIL: ", "--- SKIP: "]) {
        Format::Go
    } else if starts(&["Ran "]) && !lines::unittest(text).tests.is_empty() {
        Format::Unittest
    } else {
        Format::Exit
    }
}
