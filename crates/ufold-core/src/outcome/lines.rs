//! The lines that some runners print for people. Read where nothing better is to be had: a test that prints without a
//! line's end can hide its own outcome.

use super::{Outcome, Results};

/// Rust's test harness: `test a::b ... ok`, grouped by the binaries that `Running` names.
pub fn cargo(text: &str) -> Results {
    let mut out = Results::default();
    let mut binary = String::new();
    for line in text.lines() {
        let line = line.trim();
        if let Some(rest) = line.strip_prefix("Running ") {
            binary = rest.split(" (").next().unwrap_or(rest).trim().to_string();
        } else if let Some(rest) = line.strip_prefix("Doc-tests ") {
            binary = format!("doc {rest}");
        } else if let Some((name, end)) = line.strip_prefix("test ").and_then(|r| r.rsplit_once(" ... ")) {
            let outcome = match end.split([',', ' ', '<']).next().unwrap_or("") {
                "ok" => Outcome::Passed,
                "FAILED" => Outcome::Failed,
                "ignored" => Outcome::Skipped,
                _ => continue,
            };
            let name = name.trim_end_matches(" - should panic");
            // the line of an example in a comment changes when code above it does
            let name = name.split_once(" (line ").map_or(name, |(item, _)| item);
            let name = if binary.is_empty() { name.to_string() } else { format!("{binary} > {name}") };
            out.add(name, outcome, String::new());
        }
    }
    out
}

/// Python's unittest with `-v`: `test_a (module.Class.test_a) ... ok`, perhaps with the doc's line between.
pub fn unittest(text: &str) -> Results {
    let mut out = Results::default();
    // a test whose outcome has not been seen yet
    let mut pending: Option<String> = None;
    for line in text.lines() {
        if line.starts_with("======") || line.starts_with("------") {
            break;
        }
        if let Some(name) = unittest_name(line) {
            pending = Some(name);
        }
        let end = line.rsplit_once(" ... ").map_or(line, |(_, end)| end);
        let outcome = match end.trim() {
            "ok" | "expected failure" => Outcome::Passed,
            "FAIL" | "ERROR" | "unexpected success" => Outcome::Failed,
            e if e.starts_with("skipped") => Outcome::Skipped,
            // what the test printed may stand before it
            e if e.ends_with("ok") && line.contains(" ... ") => Outcome::Passed,
            e if (e.ends_with("FAIL") || e.ends_with("ERROR")) && line.contains(" ... ") => Outcome::Failed,
            _ => continue,
        };
        if let Some(name) = pending.take() {
            out.add(name, outcome, String::new());
        }
    }
    for (name, message) in unittest_failures(text) {
        if let Some(t) = out.tests.get_mut(&name) {
            t.message = message;
        }
    }
    out
}

/// The tests of the sections after the list, each with the last thing that its traceback says.
fn unittest_failures(text: &str) -> Vec<(String, String)> {
    let section = |s: &str| {
        let head = s.lines().next()?;
        let name = head.strip_prefix("FAIL: ").or_else(|| head.strip_prefix("ERROR: ")).and_then(unittest_name)?;
        let end = s.find("\n----------------------------------------------------------------------\nRan ");
        let trace = &s[..end.unwrap_or(s.len())];
        // the error's own lines begin at the margin, after those of the traceback
        let lines: Vec<&str> = trace.trim_end().lines().collect();
        let start = lines.iter().rposition(|l| l.starts_with("  "))? + 1;
        Some((name, lines[start..].join("\n")))
    };
    text.split("======================================================================\n")
        .skip(1)
        .filter_map(section)
        .collect()
}

fn unittest_name(line: &str) -> Option<String> {
    let (name, rest) = line.split_once(" (")?;
    let word = |w: &str| !w.is_empty() && w.chars().all(|c| c.is_alphanumeric() || c == '_' || c == '.');
    let (path, _) = rest.split_once(')')?;
    if !word(name) || !word(path) {
        return None;
    }
    // newer versions repeat the name at the end of the path
    Some(if path.ends_with(&format!(".{name}")) { path.to_string() } else { format!("{path}.{name}") })
}

/// `go test -v`: `--- PASS: TestA (0.00s)`, and the package in the line that ends its tests.
pub fn go(text: &str) -> Results {
    let mut out = Results::default();
    let mut waiting: Vec<(String, Outcome)> = Vec::new();
    for line in text.lines() {
        let trimmed = line.trim_start();
        let found =
            [("--- PASS: ", Outcome::Passed), ("--- FAIL: ", Outcome::Failed), ("--- SKIP: ", Outcome::Skipped)]
                .into_iter()
                .find_map(|(mark, o)| Some((trimmed.strip_prefix(mark)?, o)));
        if let Some((rest, outcome)) = found {
            let name = rest.rsplit_once(" (").map_or(rest, |(n, _)| n);
            waiting.push((name.trim().to_string(), outcome));
            continue;
        }
        let mut words = line.split('\t').map(str::trim);
        let ends = matches!(words.next(), Some("ok" | "FAIL" | "?"));
        if let Some(package) = words.next().filter(|p| ends && !p.is_empty()) {
            for (name, outcome) in waiting.drain(..) {
                out.add(format!("{package} > {name}"), outcome, String::new());
            }
        }
    }
    for (name, outcome) in waiting {
        out.add(name, outcome, String::new());
    }
    out
}
