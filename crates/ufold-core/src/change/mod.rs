//! What a step hands over: the edits of files, what it says about them, and its verdict with the reasons.
//!
//! Pure data; how it came about is the planner's business, whether it is right the audit's.

mod code;
mod edits;

pub use code::Code;

use std::collections::BTreeMap;

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
    pub code: Code,
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
    /// The file goes: what the edits leave of it is no code.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub goes: bool,
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
    /// Number of first statements of the copies that only give locals the values which are passed now.
    #[serde(default, skip_serializing_if = "is_none")]
    pub given: usize,
    /// The type beside it that holds them.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub bundle: Option<String>,
    /// Types of functions beside it, which its parameters have.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub function_types: Vec<String>,
    /// Whether every path through it ends in a return of the copies themselves.
    pub returns: bool,
}

impl NewFunction {
    /// Its name, with that of its class.
    pub fn path(&self) -> String {
        self.class.as_ref().map_or(self.name.clone(), |c| format!("{c}.{}", self.name))
    }
}

fn is_none(count: &usize) -> bool {
    *count == 0
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
    /// The changes that this one consists of, in the order in which they are made.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub links: Vec<Link>,
}

/// One of several changes that come after each other: of the text that those before it leave.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
pub struct Link {
    pub claim: Claim,
    pub result: Outcome,
}

/// The end of the remark on a comment that goes.
const LOST: &str = "is not kept";

/// What is remarked on a comment that a copy has and the function does not.
pub fn lost_comment(comment: &str, copy: usize) -> String {
    format!("the comment \"{comment}\" of copy {copy} {LOST}")
}

impl Outcome {
    /// Comments that go with the copies.
    pub fn lost_comments(&self) -> usize {
        self.remarks.iter().filter(|r| r.ends_with(LOST)).count()
    }

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
            links: Vec::new(),
        }
    }
}

/// What a step says of its edits; the audit proves it on the texts.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Claim {
    /// Each site's call, expanded, is the code that stood there.
    Called {
        /// Types that a person gave, by parameter.
        types: BTreeMap<String, String>,
    },
    /// Every reference of one name, and nothing else, is another word.
    Renamed { to: String },
    /// A value is a parameter, and every call passes it.
    Widened { name: String },
    /// What a definition stands for stands at its uses.
    Inlined {
        definition: Place,
        /// Some uses stay, and so does the definition.
        partly: bool,
    },
    /// A variable of that name has a value that stood in its uses' place.
    Named { name: String },
    /// What is gone had no effect that could be seen; `debug`: but for what it printed.
    Removed { debug: bool },
    /// Statements changed places within their block, and nothing depends on their order.
    Reordered,
    /// Some values of a variable have a variable of their own, of that name, and no use reads another value.
    Parted { name: String },
    /// A loop became two, and no statement of the second has to do with one of the first.
    Divided,
    /// Definitions of one file stand in another, and each of their names means what it meant.
    Moved { from: String, to: String },
    /// Copies side by side are the turns of a loop over a list of what differs.
    Unrolled,
    /// Members that classes declared by the same words are their base's.
    Lifted,
    /// Classes have values of these names of their own, which their functions ask their objects for.
    Valued { names: Vec<String> },
    /// A declaration has the value now that the next statement gave.
    Joined,
    /// The edits are those of the links, made one after the other.
    InTurn,
}

/// Edits and the claim about them.
pub struct Change<'a> {
    pub claim: &'a Claim,
    pub result: &'a Outcome,
}

/// What was found, or why it can't be.
pub(crate) type Found<T> = Result<T, Vec<Reason>>;

/// A reason at a node.
pub(crate) fn reason(source: &Source, node: NodeId, code: Code, message: impl Into<String>) -> Reason {
    Reason { code, message: message.into(), file: source.path.clone(), line: source.line(node) }
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
