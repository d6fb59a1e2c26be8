//! JUnit XML: `testcase` elements in nested `testsuite`s, with `failure`, `error` or `skipped` inside.
//!
//! There is no binding standard; runners agree on these elements and on the attributes `name` and `classname`. A test's
//! name is made of the nested suites, the class and the name, so that it stays the same when other tests come or go.
//! What a re-run of a flaky test adds (`flakyFailure`, `rerunFailure`) does not count.

use std::io::BufRead;

use quick_xml::Reader;
use quick_xml::events::{BytesStart, Event};

use super::{Outcome, Results, Unreadable};
use crate::text::xml::{attribute, first_byte};

/// Longer messages are cut.
const LONGEST_MESSAGE: usize = 400;

struct Case {
    name: String,
    outcome: Outcome,
    message: String,
}

#[derive(Default)]
struct State {
    suites: Vec<String>,
    case: Option<Case>,
    /// The text of a failure is being read.
    in_failure: bool,
    results: Results,
    /// Elements that are open.
    depth: usize,
    /// A suite was seen.
    is_report: bool,
}

pub fn read(mut from: impl BufRead) -> Result<Results, Unreadable> {
    first_byte(&mut from).map_err(|e| Unreadable(format!("the report can't be read: {e}")))?;
    let mut reader = Reader::from_reader(from);
    let (mut state, mut buffer) = (State::default(), Vec::new());
    loop {
        buffer.clear();
        match reader.read_event_into(&mut buffer) {
            Ok(Event::Start(e)) => {
                state.depth += 1;
                state.open(&e);
            }
            Ok(Event::Empty(e)) => {
                state.open(&e);
                state.close(e.local_name().as_ref());
            }
            Ok(Event::End(e)) => {
                state.depth = state.depth.saturating_sub(1);
                state.close(e.local_name().as_ref());
            }
            Ok(Event::Text(t)) => state.text(&String::from_utf8_lossy(&t)),
            Ok(Event::CData(t)) => state.text(&String::from_utf8_lossy(&t)),
            Ok(Event::Eof) => break,
            Ok(_) => {}
            Err(e) => return Err(Unreadable(format!("the report is no XML: {e}"))),
        }
    }
    if state.depth > 0 || !state.is_report {
        return Err(Unreadable("the report is cut off, or has no test suites".into()));
    }
    Ok(state.results)
}

/// A class that is a place in a file, without the line: that changes when code above it does.
fn without_line(class: String) -> String {
    match class.rsplit_once(':') {
        Some((file, line)) if file.contains('.') && line.parse::<u32>().is_ok() => file.to_string(),
        _ => class,
    }
}

fn said(e: &BytesStart, name: &str) -> String {
    attribute(e, name).unwrap_or_default()
}

impl State {
    fn open(&mut self, e: &BytesStart) {
        match e.local_name().as_ref() {
            b"testsuites" => self.is_report = true,
            b"testsuite" => {
                self.is_report = true;
                self.suites.push(said(e, "name"));
            }
            b"testcase" => {
                let (class, name) = (without_line(said(e, "classname")), said(e, "name"));
                let repeated = class == name;
                // the outermost suite is the run, or repeats the class
                let mut parts: Vec<String> = self.suites.iter().skip(1).filter(|s| !s.is_empty()).cloned().collect();
                let says = !class.is_empty() && !repeated && class != "test" && !self.suites.contains(&class);
                parts.extend(says.then_some(class));
                if parts.is_empty() && !repeated {
                    parts.extend(self.suites.first().filter(|s| !s.is_empty()).cloned());
                }
                parts.push(name);
                self.case = Some(Case { name: parts.join(" > "), outcome: Outcome::Passed, message: String::new() });
            }
            b"failure" | b"error" => self.verdict(Outcome::Failed, said(e, "message")),
            b"skipped" => self.verdict(Outcome::Skipped, said(e, "message")),
            _ => {}
        }
    }

    fn verdict(&mut self, outcome: Outcome, message: String) {
        if let Some(c) = &mut self.case {
            // a failure while cleaning up counts more than a skip
            if c.outcome != Outcome::Failed {
                c.outcome = outcome;
                c.message = message;
            }
            self.in_failure = true;
        }
    }

    fn text(&mut self, text: &str) {
        if let (Some(c), true) = (&mut self.case, self.in_failure) {
            let fresh = c.message.is_empty() && !text.trim().is_empty();
            if fresh {
                c.message = text.trim().chars().take(LONGEST_MESSAGE).collect();
            }
        }
    }

    fn close(&mut self, name: &[u8]) {
        match name {
            b"testsuite" => {
                self.suites.pop();
            }
            b"testcase" => {
                if let Some(c) = self.case.take() {
                    let message = c.message.chars().take(LONGEST_MESSAGE).collect();
                    self.results.add(c.name, c.outcome, message);
                }
            }
            b"failure" | b"error" | b"skipped" => self.in_failure = false,
            _ => {}
        }
    }
}
