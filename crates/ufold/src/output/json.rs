//! What commands print as data, besides the reports that have files of their own. Each kind has its name in its first field,
//! and a schema in docs/schemas that is made from these types.

use schemars::JsonSchema;
use serde::Serialize;
use ufold_core::change::Reason;
use ufold_core::step::Plan;
use ufold_project::Error;
use ufold_project::journal::Record;
use ufold_project::recording::Recording;

use crate::advice::advice;

/// One line of JSON.
pub fn print(value: &impl Serialize) {
    super::line(format_args!("{}", serde_json::to_string(value).expect("what is printed is plain data")));
}

/// An error or a refusal, on standard output.
#[derive(Serialize, JsonSchema)]
pub struct Failed {
    /// Always `ufold.error/1`.
    schema: &'static str,
    /// The exit code.
    exit: u8,
    message: String,
    /// Why a plan is refused; empty for other errors.
    reasons: Vec<Advised>,
    /// What a failed check printed.
    #[serde(skip_serializing_if = "Option::is_none")]
    output: Option<String>,
}

/// A reason with what can be done about it.
#[derive(Serialize, JsonSchema)]
struct Advised {
    #[serde(flatten)]
    reason: Reason,
    #[serde(skip_serializing_if = "Option::is_none")]
    advice: Option<String>,
}

impl Failed {
    pub fn new(exit: u8, message: String, own: Option<&Error>) -> Failed {
        let reasons = match own {
            Some(Error::Plan { reasons, .. }) => reasons.clone(),
            _ => Vec::new(),
        };
        let output = match own {
            Some(Error::CheckFailed { output, .. }) => Some(output.clone()),
            _ => None,
        };
        let advised = |reason: Reason| Advised { advice: advice(reason.code).map(|a| a.what_to_do), reason };
        Failed { schema: "ufold.error/1", exit, message, reasons: reasons.into_iter().map(advised).collect(), output }
    }
}

/// A step that was done.
#[derive(Serialize, JsonSchema)]
pub struct Stepped<'a> {
    /// Always `ufold.step/1`.
    pub schema: &'static str,
    pub plan: &'a Plan,
    pub record: &'a Record,
}

/// A step that was taken back.
#[derive(Serialize, JsonSchema)]
pub struct Undone<'a> {
    /// Always `ufold.undo/1`.
    pub schema: &'static str,
    pub record: &'a Record,
    /// What could not be put back as it was.
    pub notes: &'a [String],
}

/// What `notebook` wrote.
#[derive(Serialize, JsonSchema)]
pub struct Exported<'a> {
    /// Always `ufold.notebook/1`.
    pub schema: &'static str,
    pub file: &'a str,
    /// Name of the recording that was made.
    pub recording: Option<&'a str>,
    /// What is not in the script as it was.
    pub remarks: &'a [String],
}

/// What `init` wrote.
#[derive(Serialize, JsonSchema)]
pub struct Initialized<'a> {
    /// Always `ufold.init/1`.
    pub schema: &'static str,
    pub file: &'a str,
    /// The commands of the check.
    pub commands: &'a [String],
}

/// What was recorded.
#[derive(Serialize, JsonSchema)]
pub struct Recorded<'a> {
    /// Always `ufold.record/1`.
    pub schema: &'static str,
    pub name: &'a str,
    pub runs: usize,
    /// Files that keep the output.
    pub files: usize,
    /// Runs that did not exit with 0.
    pub not_zero: usize,
}

/// The recordings that there are.
#[derive(Serialize, JsonSchema)]
pub struct Recordings<'a> {
    /// Always `ufold.recordings/1`.
    pub schema: &'static str,
    pub recordings: Vec<Named<'a>>,
}

#[derive(Serialize, JsonSchema)]
pub struct Named<'a> {
    pub name: &'a str,
    pub settings: &'a Recording,
}

/// The ledger that was written.
#[derive(Serialize, JsonSchema)]
pub struct Accepted<'a> {
    /// Always `ufold.accepted/1`.
    pub schema: &'static str,
    pub file: &'a str,
    pub findings: usize,
    /// Of them those that were not accepted before.
    pub new: usize,
    /// Findings that were accepted and are no more.
    pub gone: usize,
}

/// The report that was written.
#[derive(Serialize, JsonSchema)]
pub struct Reported<'a> {
    /// Always `ufold.report/1`.
    pub schema: &'static str,
    pub file: &'a str,
    pub findings: usize,
}

/// Commands that the project wants run.
#[derive(Serialize, JsonSchema)]
pub struct Trusted<'a> {
    /// Always `ufold.trust/1`.
    pub schema: &'static str,
    pub commands: Vec<Wanted<'a>>,
}

#[derive(Serialize, JsonSchema)]
pub struct Wanted<'a> {
    pub command: &'a str,
    /// It was not said yes to before.
    pub new: bool,
}

/// One line of `fold --all`.
#[derive(Serialize, JsonSchema)]
#[serde(tag = "event", rename_all = "kebab-case")]
pub enum Folding<'a> {
    Step {
        schema: &'static str,
        finding: &'a str,
        record: &'a Record,
    },
    TakenBack {
        schema: &'static str,
        finding: &'a str,
        why: &'a str,
    },
    Checked {
        schema: &'static str,
        steps: usize,
        commit: Option<&'a str>,
    },
    Summary {
        schema: &'static str,
        folded: usize,
        /// Lines.
        saves: i64,
        taken_back: &'a [String],
        refused: usize,
        no_gain: usize,
        /// Findings for which no name was found.
        no_name: &'a [String],
    },
}

/// The name of those lines.
pub const FOLDING: &str = "ufold.fold-all/1";

/// Files that changed while `watch` looks; the check's report follows.
#[derive(Serialize, JsonSchema)]
pub struct Changed<'a> {
    /// Always `ufold.watch/1`.
    pub schema: &'static str,
    pub files: Vec<&'a str>,
    /// Findings with a copy in one of them.
    pub findings: Vec<String>,
}
