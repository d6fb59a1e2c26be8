//! Two runs, test by test. A test that vanished, newly fails or newly skips is a change of behaviour; one that newly
//! passes or newly exists is none.

use std::collections::BTreeSet;

use serde::{Deserialize, Serialize};

use super::{Outcome, Results};

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Change {
    /// It was run before and is not any more.
    Vanished,
    /// It fails now.
    Fails,
    /// It is skipped now.
    Skipped,
}

#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
pub struct Difference {
    pub test: String,
    pub before: Outcome,
    pub change: Change,
    /// What the runner says of it.
    pub message: String,
}

impl Difference {
    pub fn line(&self) -> String {
        let now = match self.change {
            Change::Vanished => "is not run any more",
            Change::Fails => "fails now",
            Change::Skipped => "is skipped now",
        };
        format!("{}: {} before, {now}", self.test, self.before.word())
    }
}

/// What changed for the worse, tests that are known to change their mind left out.
pub fn differences(before: &Results, after: &Results, left_out: &BTreeSet<String>) -> Vec<Difference> {
    let mut out = Vec::new();
    for (name, b) in before.tests.iter().filter(|(n, _)| !left_out.contains(*n)) {
        let after = after.tests.get(name);
        let change = match (b.outcome, after.map(|a| a.outcome)) {
            (_, None) => Change::Vanished,
            (Outcome::Passed | Outcome::Skipped, Some(Outcome::Failed)) => Change::Fails,
            (Outcome::Passed | Outcome::Failed, Some(Outcome::Skipped)) => Change::Skipped,
            _ => continue,
        };
        let message = after.map_or(String::new(), |a| a.message.clone());
        out.push(Difference { test: name.clone(), before: b.outcome, change, message });
    }
    out
}

/// Tests whose outcome differs between two runs of the same code.
pub fn unsteady(a: &Results, b: &Results) -> BTreeSet<String> {
    let outcome = |r: &Results, n: &str| r.tests.get(n).map(|t| t.outcome);
    a.tests.keys().chain(b.tests.keys()).filter(|n| outcome(a, n) != outcome(b, n)).cloned().collect()
}
