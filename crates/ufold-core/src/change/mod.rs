//! What a step hands over: the edits of files, what it says about them, and its verdict with the reasons.
//!
//! Pure data; how it came about is the planner's business, whether it is right the audit's.

mod edits;

use serde::{Deserialize, Serialize};

pub(crate) use self::edits::Edits;
use crate::names::Source;
use crate::text::{Edit, Span};
use crate::tree::NodeId;

#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Verdict {
    /// Every rule that guards behaviour was decided by analysis.
    Ready,
    /// Holds if the listed assumptions hold.
    Assumed,
    /// Nothing can be written.
    Refused,
}

impl Verdict {
    pub fn word(self) -> &'static str {
        match self {
            Verdict::Ready => "ready",
            Verdict::Assumed => "assumed",
            Verdict::Refused => "refused",
        }
    }
}

/// Why a plan is refused or what it assumes, in one line, with its place.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
pub struct Reason {
    pub code: String,
    pub message: String,
    pub file: String,
    /// From 1.
    pub line: usize,
}

/// Lines `start..=end` of a file.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize, schemars::JsonSchema)]
pub struct Place {
    pub file: String,
    pub start_line: usize,
    pub end_line: usize,
    pub start_byte: usize,
    pub end_byte: usize,
}

/// A line of a file, from 1.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
pub struct Pointer {
    pub file: String,
    pub line: usize,
}

/// What a person may edit before a plan is applied.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Request {
    /// The finding's id, for messages.
    pub finding: String,
    /// Every copy; those in `except` stay as they are.
    pub copies: Vec<Place>,
    /// Numbers of copies, or of uses, to leave out, from 1.
    #[serde(default)]
    pub except: Vec<usize>,
    /// Name of the new function; derived when absent.
    #[serde(default)]
    pub name: Option<String>,
    /// Names of the parameters in order; derived when absent.
    #[serde(default)]
    pub parameters: Option<Vec<String>>,
    /// File that takes the new function; derived when absent.
    #[serde(default)]
    pub into: Option<String>,
    /// Types of parameters by name, where the language wants them written and they can't be found.
    #[serde(default, skip_serializing_if = "std::collections::BTreeMap::is_empty")]
    pub types: std::collections::BTreeMap<String, String>,
    /// Doc comment of the new function; taken from the copies' comment when absent.
    #[serde(default)]
    pub doc: Option<String>,
    /// `param`: also the other places in the function with an equal value.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub all_equal: bool,
    /// A flag for a statement that some copies lack, rather than a function.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub flags: bool,
    /// Parameters that follow from others are computed from them.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub derive: bool,
    /// What the function becomes; derived when absent.
    #[serde(default)]
    pub form: Option<Form>,
    /// Refuse rather than fold a part of the copies.
    #[serde(default)]
    pub whole: bool,
    /// Refuse what saves fewer lines.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub least: Option<i64>,
    /// The line that a person pointed at: a part of the copies must hold it, and may save nothing.
    #[serde(default)]
    pub pointed_at: Option<Pointer>,
    /// Most parameters, the receiver not counted.
    #[serde(default = "most_parameters")]
    pub most_parameters: usize,
}

/// Where a new function stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Form {
    /// At the top level of its file.
    Function,
    /// In the class of its sites.
    Method,
    /// In the function around its sites.
    Nested,
}

pub fn most_parameters() -> usize {
    7
}

/// A parameter of the new function and what each site passes for it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
pub struct ParameterPlan {
    pub name: String,
    /// One for each site, in the sites' order; empty where the parameter is left out.
    pub arguments: Vec<String>,
    /// Byte ranges in the copy that became the body, for which the parameter stands.
    pub holes: Vec<Span>,
    /// The arguments are functions that the body calls, since no value can be computed before it.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub is_function: bool,
}

/// A copy that becomes a call.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
pub struct Site {
    /// Number of the copy in the request, from 1.
    pub copy: usize,
    pub place: Place,
    pub within: String,
    /// The text that replaces the copy; of a function that goes, its first call.
    pub call: String,
    /// Names that take the results, in order; empty when none is taken.
    pub results: Vec<String>,
    pub returns: bool,
    /// The copy was a whole private function: it goes, and these calls of it are rewritten.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub retired: Option<Retired>,
}

/// A function that goes: its range and those of its calls, in bytes of the old text.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
pub struct Retired {
    pub start_byte: usize,
    pub end_byte: usize,
    pub calls: Vec<Span>,
}

/// All edits of one file, with the SHA-256 of the text they were computed from.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
pub struct FileEdits {
    pub file: String,
    pub sha256: String,
    /// The file is not there yet: its text is what the edits make of nothing.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub creates: bool,
    /// Where the file goes, with the edits in it; it stays where it is when there is none.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub moves_to: Option<String>,
    pub edits: Vec<Edit>,
}

#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
pub struct NewFunction {
    pub name: String,
    pub file: String,
    /// The class it is a member of.
    pub class: Option<String>,
    /// It stands inside the function around its sites.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub nested: bool,
    pub text: String,
    /// Its name says little: none was found in the code that says more.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub unnamed: bool,
    /// Number of the copy whose text became the body.
    pub from_copy: usize,
    /// Names of the locals that its body hands over, in order.
    pub results: Vec<String>,
    /// Whether every path through it ends in a return of the copies themselves.
    pub returns: bool,
}

/// What a plan would do.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
pub struct Outcome {
    pub verdict: Verdict,
    pub reasons: Vec<Reason>,
    /// Copies that are left as they are, with the reason.
    pub left_out: Vec<(usize, Reason)>,
    /// Things worth knowing that change nothing about the verdict.
    pub remarks: Vec<String>,
    pub function: Option<NewFunction>,
    pub parameters: Vec<ParameterPlan>,
    pub sites: Vec<Site>,
    pub files: Vec<FileEdits>,
    /// Lines removed less lines added.
    pub saves: i64,
}

impl Outcome {
    pub fn is_refused(&self) -> bool {
        self.verdict == Verdict::Refused
    }

    pub fn refused(reasons: Vec<Reason>) -> Outcome {
        Outcome {
            verdict: Verdict::Refused,
            reasons,
            left_out: Vec::new(),
            remarks: Vec::new(),
            function: None,
            parameters: Vec::new(),
            sites: Vec::new(),
            files: Vec::new(),
            saves: 0,
        }
    }
}

pub const PLAN_SCHEMA: &str = "ufold.plan/1";

#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Plan {
    /// Always `ufold.plan/1`.
    pub schema: String,
    /// The kind of step: `fold`, `extract`, `rename`, `param` or `inline`.
    pub step: String,
    pub request: Request,
    pub result: Outcome,
}

/// What was found, or why it can't be.
pub(crate) type Found<T> = Result<T, Vec<Reason>>;

/// A reason at a node.
pub(crate) fn reason(source: &Source, node: NodeId, code: &str, message: impl Into<String>) -> Reason {
    Reason { code: code.into(), message: message.into(), file: source.path.clone(), line: source.line(node) }
}

pub fn place_of(source: &Source, span: Span) -> Place {
    Place {
        file: source.path.clone(),
        start_line: source.lines.line(span.start),
        end_line: source.lines.line(span.end.max(span.start + 1) - 1),
        start_byte: span.start,
        end_byte: span.end,
    }
}

/// In hexadecimal.
pub fn sha256(text: impl AsRef<[u8]>) -> String {
    use sha2::Digest;
    hex::encode(sha2::Sha256::digest(text.as_ref()))
}
