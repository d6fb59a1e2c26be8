//! The results of the check on the tree before any step, and what a later run has that they have not.

use std::collections::BTreeSet;
use std::path::Path;

use serde::{Deserialize, Serialize};
use ufold_core::outcome::{Change, Difference, Results, differences};

use super::{Check, Run};
use crate::files::fingerprint;
use crate::recording::Comparison;

/// Kept in `baseline.json` of the project's state.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct Baseline {
    /// Fingerprint of the tree that it holds for.
    pub tree: String,
    /// The check that gave it.
    pub check: String,
    pub results: Results,
    /// Tests that changed their mind between two runs of the same tree.
    pub unsteady: BTreeSet<String>,
    /// Source files that the check itself writes.
    #[serde(default)]
    pub writes: BTreeSet<String>,
}

impl Baseline {
    pub fn of(root: &Path, check: &Check, run: &Run, unsteady: BTreeSet<String>) -> Baseline {
        let (results, writes) = (run.results.clone(), run.wrote.clone());
        Baseline { tree: fingerprint(root), check: key(check), results, unsteady, writes }
    }

    /// The same check gave it.
    pub fn is_of(&self, check: &Check) -> bool {
        self.check == key(check)
    }

    pub fn holds_for(&self, root: &Path, check: &Check) -> bool {
        self.is_of(check) && self.tree == fingerprint(root)
    }

    /// How a run differs from it, or fails in another way; empty when behaviour is the same.
    pub fn judge(&self, run: &Run) -> Judgement {
        let tests = differences(&self.results, &run.results, &self.unsteady);
        // only tests that change their mind fail: the exit code tells no more than that
        let failing = |name: &String| run.results.tests[name].outcome == ufold_core::outcome::Outcome::Failed;
        let mut failed = run.results.tests.keys().filter(|n| failing(n)).peekable();
        let excused = failed.peek().is_some() && failed.all(|n| self.unsteady.contains(n));
        let failure = run.failed.as_ref().filter(|f| !(f.by_tests && excused));
        let recordings = run.recordings.iter().filter(|c| !c.changed.is_empty()).cloned().collect();
        Judgement { tests, failure: failure.map(|f| format!("`{}` {}", f.command, f.how)), recordings }
    }
}

fn key(check: &Check) -> String {
    serde_json::to_string(check).expect("a check is plain data")
}

/// What changed.
#[derive(Clone, Debug, Default)]
pub struct Judgement {
    pub tests: Vec<Difference>,
    pub failure: Option<String>,
    pub recordings: Vec<Comparison>,
}

impl Judgement {
    pub fn is_same(&self) -> bool {
        self.tests.is_empty() && self.failure.is_none() && self.recordings.is_empty()
    }

    /// What the commands tell, the recordings left out.
    pub fn of_commands(&self) -> Judgement {
        Judgement { recordings: Vec::new(), ..self.clone() }
    }

    /// What noticed a change first: a test, a recording or a command.
    pub fn first(&self) -> Option<String> {
        // where nothing ran, what kept it from running is what noticed
        let ran = self.tests.iter().any(|t| t.change != Change::Vanished) || self.failure.is_none();
        let telling = self.tests.iter().find(|t| t.change != Change::Vanished).or(self.tests.first());
        let test = telling.filter(|_| ran).map(|t| t.test.clone());
        let recording = || self.recordings.first().map(|r| format!("recording {}", r.name));
        test.or_else(recording).or_else(|| self.failure.clone())
    }

    /// One line for each thing that changed, the most telling first.
    pub fn lines(&self) -> Vec<String> {
        let parts = |r: &Comparison| r.changed.iter().map(|c| c.part.as_str()).collect::<Vec<_>>().join(", ");
        let recordings = self.recordings.iter().map(|r| format!("recording {}: another {}", r.name, parts(r)));
        let failure = self.failure.iter().filter(|_| self.tests.is_empty()).map(|f| format!("the check {f}"));
        self.tests.iter().map(Difference::line).chain(recordings).chain(failure).collect()
    }
}

#[cfg(test)]
mod tests {
    use std::collections::BTreeSet;
    use std::time::Duration;

    use ufold_core::outcome::{Outcome, Results};

    use super::Baseline;
    use crate::check::{Failure, Run};

    fn run(tests: &[(&str, Outcome)], failed: bool) -> Run {
        let mut results = Results::default();
        tests.iter().for_each(|(n, o)| results.add(n.to_string(), *o, String::new()));
        let by_tests = results.count(Outcome::Failed) > 0;
        let failure = Failure { command: "tests".into(), how: "fails (exit 1)".into(), by_tests };
        Run {
            results,
            failed: failed.then_some(failure),
            output: String::new(),
            took: Duration::ZERO,
            by_exit_code: Vec::new(),
            recordings: Vec::new(),
            wrote: BTreeSet::new(),
        }
    }

    /// The tests of a later run, whether its command fails, what is said, and what noticed it.
    type Case<'a> = (&'a [(&'a str, Outcome)], bool, &'a [&'a str], Option<&'a str>);

    #[test]
    fn what_is_a_change() {
        use Outcome::{Failed, Passed, Skipped};
        let before = run(&[("a", Passed), ("b", Skipped), ("mood", Passed)], false);
        let unsteady = BTreeSet::from(["mood".to_string()]);
        let base = Baseline { results: before.results, unsteady, ..Baseline::default() };
        let cases: [Case; 7] = [
            (&[("a", Passed), ("b", Skipped), ("mood", Passed)], false, &[], None),
            (&[("a", Passed), ("b", Passed), ("new", Passed)], false, &[], None),
            // only what changes its mind fails: that excuses the exit code
            (&[("a", Passed), ("b", Skipped), ("mood", Failed)], true, &[], None),
            (
                &[("a", Passed), ("b", Skipped)],
                true,
                &["the check `tests` fails (exit 1)"],
                Some("`tests` fails (exit 1)"),
            ),
            (&[("a", Failed), ("b", Skipped)], true, &["a: passed before, fails now"], Some("a")),
            (&[("a", Skipped), ("b", Skipped)], false, &["a: passed before, is skipped now"], Some("a")),
            // nothing ran at all: the command is what noticed
            (
                &[],
                true,
                &["a: passed before, is not run any more", "b: skipped before, is not run any more"],
                Some("`tests` fails (exit 1)"),
            ),
        ];
        for (tests, failed, lines, first) in cases {
            let judged = base.judge(&run(tests, failed));
            assert_eq!(judged.lines(), lines, "{tests:?}");
            assert_eq!(judged.first().as_deref(), first, "{tests:?}");
            assert_eq!(judged.is_same(), lines.is_empty());
        }
    }
}
