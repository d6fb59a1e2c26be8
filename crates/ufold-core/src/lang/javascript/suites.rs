//! The layouts of test suites that are known: the project's own `test` script, else Node's runner.

use super::family::Family;
use crate::lang::{Layout, Suites};

impl Suites for Family {
    fn test_command(&self, layout: &dyn Layout) -> Option<String> {
        command(layout)
    }
}

fn command(layout: &dyn Layout) -> Option<String> {
    let package = layout.text("package.json");
    let json: serde_json::Value = serde_json::from_str(&package).unwrap_or_default();
    let script = json["scripts"]["test"].as_str().filter(|s| !s.contains("no test specified"));
    if let Some(s) = script {
        return Some(of_script(s, package.contains("\"jest-junit\"")));
    }
    let is_test = |n: &String| {
        n.rsplit_once('.').is_some_and(|(stem, e)| {
            ["js", "mjs", "cjs", "ts"].contains(&e) && (stem.ends_with(".test") || stem.starts_with("test"))
        })
    };
    let folder = ["test", "tests"].into_iter().find(|d| layout.names_in(d).iter().any(is_test))?;
    (!package.is_empty()).then(|| format!("node --test --test-reporter=tap {folder}/"))
}

/// The `test` script, with its runner told to report test by test where that is known.
fn of_script(script: &str, jest_reports: bool) -> String {
    let runner = |name: &str| script.split_whitespace().any(|word| word == name);
    // what is added at the end reaches the last command only
    let single = !script.contains(['&', '|', ';']);
    if script.contains("node --test") {
        "NODE_OPTIONS=--test-reporter=tap npm test --silent".into()
    } else if single && runner("mocha") {
        "npm test --silent -- --reporter tap".into()
    } else if single && runner("jest") && jest_reports {
        "JEST_JUNIT_OUTPUT_FILE={report} npm test --silent -- --reporters=jest-junit".into()
    } else if single && runner("vitest") {
        "npm test --silent -- --reporter=tap".into()
    } else {
        "npm test --silent".into()
    }
}
