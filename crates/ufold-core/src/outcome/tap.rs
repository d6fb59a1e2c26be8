//! The Test Anything Protocol, versions 12 to 14: `ok` and `not ok` lines, `# SKIP` and `# TODO`, subtests by
//! indentation with their names in `# Subtest:` lines, or in braces after their parent's line.
//!
//! Fewer results than the plan announces, or a bail-out, is a report that ends too early.

use super::{Outcome, Results, Unreadable};

pub fn read(text: &str) -> Result<Results, Unreadable> {
    let mut results = Results::default();
    // names of the subtests that are open, with their indentation
    let mut open: Vec<(usize, String)> = Vec::new();
    let (mut planned, mut seen) = (None, 0usize);
    let mut block = false;
    let mut last: Option<String> = None;
    for line in text.lines() {
        let indent = line.len() - line.trim_start_matches(' ').len();
        let line = line.trim();
        if block {
            block = line != "...";
            let said = ["error: ", "message: "].iter().find_map(|k| line.strip_prefix(k));
            let test = last.as_ref().and_then(|n| results.tests.get_mut(n));
            let test = test.filter(|t| t.outcome == Outcome::Failed && t.message.is_empty());
            if let (Some(text), Some(t)) = (said, test) {
                let bare = ['"', '\''].iter().find_map(|q| text.strip_prefix(*q)?.strip_suffix(*q));
                t.message = bare.unwrap_or(text).to_string();
            }
            continue;
        }
        if line == "---" {
            block = true;
        } else if let Some(name) = line.strip_prefix("# Subtest:") {
            open.retain(|(i, _)| *i < indent);
            open.push((indent, name.trim().to_string()));
        } else if let Some(n) = plan(line) {
            if indent == 0 {
                planned = Some(n);
            }
        } else if let Some(why) = line.strip_prefix("Bail out!").filter(|_| indent == 0) {
            return Err(Unreadable(format!("the tests were given up:{why}")));
        } else if let Some((outcome, name, why)) = result(line) {
            open.retain(|(i, _)| *i < indent);
            let path: Vec<&str> = open.iter().map(|(_, n)| n.as_str()).chain([name.as_str()]).collect();
            last = Some(path.join(" > "));
            results.add(path.join(" > "), outcome, if outcome == Outcome::Skipped { why } else { String::new() });
            // some runners put the subtests after their parent, in braces
            if line.ends_with('{') {
                open.push((indent, name));
            }
            seen += usize::from(indent == 0);
        }
    }
    match planned {
        Some(n) if seen < n => Err(Unreadable(format!("the report has {seen} of {n} tests"))),
        None if seen == 0 => Err(Unreadable("the report has no tests".into())),
        _ => Ok(results),
    }
}

pub fn has_plan(text: &str) -> bool {
    text.lines().any(|l| plan(l).is_some())
}

/// `1..N`, perhaps with a reason for none.
fn plan(line: &str) -> Option<usize> {
    let rest = line.strip_prefix("1..")?;
    rest.split('#').next()?.trim().parse().ok()
}

/// Outcome, name and reason of a result line.
fn result(line: &str) -> Option<(Outcome, String, String)> {
    let (passed, rest) = match line.strip_prefix("not ok") {
        Some(r) => (false, r),
        None => (true, line.strip_prefix("ok")?),
    };
    if !rest.is_empty() && !rest.starts_with(' ') {
        return None;
    }
    let rest = rest.trim_start();
    let digits = rest.len() - rest.trim_start_matches(|c: char| c.is_ascii_digit()).len();
    let named = rest[digits..].trim_start();
    let named = named.strip_prefix("- ").unwrap_or(named);
    let (name, directive) = directive(named);
    let word = directive.split_whitespace().next().unwrap_or("").to_ascii_uppercase();
    let outcome = match (word.as_str(), passed) {
        ("SKIP" | "SKIPPED", _) | ("TODO", false) => Outcome::Skipped,
        (_, true) => Outcome::Passed,
        (_, false) => Outcome::Failed,
    };
    // some say the name only after why it was skipped
    let after = directive.split_once(char::is_whitespace).map_or("", |(_, rest)| rest.trim());
    let name = if name.is_empty() { after } else { name };
    let name = if name.is_empty() { format!("test {}", &rest[..digits]) } else { name.replace("\\#", "#") };
    Some((outcome, name, directive.to_string()))
}

/// The name and what follows an unescaped ` # `.
fn directive(text: &str) -> (&str, &str) {
    let mark = text.match_indices('#').map(|(i, _)| i).find(|i| !text[..*i].ends_with('\\'));
    let (name, rest) = mark.map_or((text, ""), |i| (&text[..i], &text[i + 1..]));
    let word = rest.split_whitespace().next().unwrap_or("").to_ascii_uppercase();
    let known = ["SKIP", "SKIPPED", "TODO", "TIME"].iter().any(|w| word.starts_with(w));
    if known { (name.trim(), rest.trim()) } else { (text.trim(), "") }
}
