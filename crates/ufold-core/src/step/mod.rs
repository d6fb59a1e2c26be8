//! Steps: from a request and the project to a plan. One file a kind of step.
//!
//! A plan is pure data: the request that a person may edit, and the result derived from it.

mod callable;
mod class_home;
pub(crate) mod class_tree;
mod computed_text;
mod declared;
mod derived;
mod edits;
mod evaluate;
mod extract;
mod fold;
#[cfg(test)]
mod hostile;
pub(crate) mod inherited;
mod inline;
mod inline_function;
mod inline_member;
mod leaving;
mod lifetime;
mod maker;
mod managers;
pub(crate) mod member_uses;
mod method;
pub(crate) mod named_arguments;
mod naming;
mod narrow;
mod narrow_types;
mod new_name;
mod old_signature;
mod optional;
mod outside;
mod param;
mod parameter_names;
mod parameters;
mod place;
pub mod probe;
mod project;
mod range;
mod region;
mod rename;
mod render;
mod result_types;
mod retire;
mod seen;
mod shape;
mod spread;
mod target;
#[cfg(test)]
mod tests;
mod told;
mod type_holes;
mod typed_classes;
mod typed_members;
mod types;
mod unneeded;
mod unseen;
mod users;
mod wishes;

pub use extract::{Others, copies_of, place_of, plan_extract};
pub use fold::plan_fold;
pub(crate) use inline::is_looked_at;
pub use inline::{plan_inline, uses_of};
pub use param::plan_param;
pub use project::{Entity, Kept, Mention, Modules, Project, Sources};
pub use range::{HalfRange, resolve};
pub use region::locate;
pub use rename::plan_rename;
pub use target::{Target, name_at, name_of, target, value_at};
pub use unseen::whole_words;
pub(crate) use unseen::{looked_up, with_word};
pub(crate) use users::takes_any_number;

pub(crate) use edits::Edits;

use std::panic::AssertUnwindSafe;

use serde::{Deserialize, Serialize};

use crate::text::{Edit, Span};

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
    pub holes: Vec<crate::text::Span>,
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
    pub calls: Vec<crate::text::Span>,
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

/// Plans what a request asks for, by the kind of step; none for a kind that is not known.
pub fn plan(project: &Project, step: &str, request: &Request) -> Option<Plan> {
    let planner: fn(&Project, &Request) -> Plan = match step {
        "fold" => plan_fold,
        "extract" => plan_extract,
        "rename" => plan_rename,
        "param" => plan_param,
        "inline" => plan_inline,
        _ => return None,
    };
    let planned = std::panic::catch_unwind(AssertUnwindSafe(|| match unplaced(project, request) {
        None => Ok(match outside::wanted(project, request) {
            Some((path, like)) => match project.with_new(path, like, |p| planner(p, request)) {
                Ok(plan) => made_by(plan, path),
                Err(_) => planner(project, request),
            },
            None => planner(project, request),
        }),
        Some(reasons) => Err(reasons),
    }));
    let result = match planned {
        Ok(Ok(plan)) => return Some(plan),
        Ok(Err(reasons)) => Outcome::refused(reasons),
        Err(panic) => Outcome::refused(vec![internal(request, &*panic)]),
    };
    Some(Plan { schema: PLAN_SCHEMA.into(), step: step.into(), request: request.clone(), result })
}

/// A plan says which file it makes.
fn made_by(mut plan: Plan, path: &str) -> Plan {
    plan.result.files.iter_mut().filter(|f| f.file == path).for_each(|f| f.creates = true);
    plan
}

/// A fault of this program: the plan is refused, and what is needed to find it is said.
fn internal(request: &Request, panic: &(dyn std::any::Any + Send)) -> Reason {
    let text = panic.downcast_ref::<String>().map(String::as_str);
    let text = text.or(panic.downcast_ref::<&str>().copied()).unwrap_or("no message");
    let place = request.copies.first();
    Reason {
        code: INTERNAL.into(),
        message: format!("planning failed by a fault of ufold ({text}); please report it with the code at this place"),
        file: place.map_or(String::new(), |p| p.file.clone()),
        line: place.map_or(0, |p| p.start_line),
    }
}

/// The code of a fault.
pub const INTERNAL: &str = "internal";

/// What keeps a request's places from being places at all: a plan file may say anything.
fn unplaced(project: &Project, request: &Request) -> Option<Vec<Reason>> {
    let wrong = |place: Option<&Place>, message: &str| {
        let (file, line) = place.map_or((String::new(), 0), |p| (p.file.clone(), p.start_line));
        Some(vec![Reason { code: "no-statements".into(), message: message.into(), file, line }])
    };
    if request.copies.is_empty() {
        return wrong(None, "the request names no place");
    }
    for p in &request.copies {
        let source = match source_of(project, p) {
            Ok(s) => s,
            Err(reasons) => return Some(reasons),
        };
        let on_text = |byte: usize| source.text.is_char_boundary(byte);
        if p.start_byte > p.end_byte || !on_text(p.start_byte) || !on_text(p.end_byte) {
            return wrong(Some(p), "the range lies outside the file, or cuts a character");
        }
        if let Some(line) = unparsed_beside(&source, Span::new(p.start_byte, p.end_byte)) {
            let message = "a part of the code around this place could not be parsed".into();
            return Some(vec![Reason { code: "unparsed".into(), message, file: p.file.clone(), line }]);
        }
    }
    None
}

/// The line of code that could not be parsed, in the outermost function around a place, or at the same level.
fn unparsed_beside(s: &crate::names::Source, span: Span) -> Option<usize> {
    let t = &s.tree;
    if t.errors().is_empty() {
        return None;
    }
    let node = t.covering(span);
    let functions = t.ancestors(node).chain([node]).filter(|a| t.role(*a).is_callable());
    let around = functions.min().map_or(t.span(crate::tree::Tree::ROOT), |f| t.span(f));
    let near = |e: &&Span| e.start <= around.end && around.start <= e.end;
    t.errors().iter().find(near).map(|e| s.lines.line(e.start))
}

/// The file that a place is in, read.
fn source_of(project: &Project, place: &Place) -> Result<std::sync::Arc<crate::names::Source>, Vec<Reason>> {
    let found = project.index(&place.file).ok_or_else(|| format!("{} is not a file of the project", place.file));
    found.and_then(|f| project.source(f)).map_err(|message| {
        vec![Reason { code: "unreadable".into(), message, file: place.file.clone(), line: place.start_line }]
    })
}

/// The outcome of a step that writes no function, when the audit agrees with it.
fn audited_step(project: &Project, request: &Request, step: &str, result: Outcome) -> Outcome {
    let plan = Plan { schema: PLAN_SCHEMA.into(), step: step.into(), request: request.clone(), result };
    match crate::audit::audit(project, &plan) {
        Ok(()) => plan.result,
        Err(reasons) => Outcome::refused(reasons),
    }
}

/// In hexadecimal.
pub fn sha256(text: impl AsRef<[u8]>) -> String {
    use sha2::Digest;
    hex::encode(sha2::Sha256::digest(text.as_ref()))
}
