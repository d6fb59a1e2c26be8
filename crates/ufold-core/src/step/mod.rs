//! Steps: from a request and the project to a plan. One file, or folder, a kind of step.
//!
//! A plan is pure data: the request that a person may edit, and the result derived from it.

mod chain;
mod extract;
mod fold;
#[cfg(test)]
mod hostile;
mod inline;
mod lift;
mod moves;
mod param;
mod placed;
pub mod probe;
mod proven;
mod query;
mod rename;
mod series;
mod slide;
mod split;
mod split_file;
mod split_loop;
mod split_variable;
#[cfg(test)]
mod tests;
mod tidy;
mod variable;

use crate::change::sha256;
use crate::text::Edit;
use crate::text::apply_edits;
use std::panic::AssertUnwindSafe;

use serde::{Deserialize, Serialize};

use crate::audit::audit;
use crate::change::{Change, Claim, Code, Found, Outcome, Place, Reason};
use crate::index::{NewFile, Project};
use crate::plan::file_head;
use crate::plan::outside;
use crate::plan::wishes::Wishes;
use crate::text::Span;
pub use extract::{ExtractRequest, Others, copies_of};
pub use fold::FoldRequest;
pub use inline::{InlineRequest, uses_of};
pub use lift::{
    LiftRequest, file_for_base, member_around, members_but_values, members_like, members_of, name_for_base,
};
pub use moves::MoveRequest;
pub use param::ParamRequest;
use proven::proven;
pub use query::QueryRequest;
pub use rename::RenameRequest;
pub use series::SeriesRequest;
pub use slide::SlideRequest;
pub use split::{Beforehand, PartRequest, Proposed, SplitRequest, afterwards, propose_split};
pub use split_file::{FilePart, ProposedFile, SplitFileRequest, StaysThere, propose_files};
pub use split_loop::SplitLoopRequest;
pub use split_variable::SplitVariableRequest;
pub use tidy::{Item, TidyRequest, clutter};
pub use variable::VariableRequest;

/// A kind of step: what it speaks of, what it claims, and how it is planned.
pub(crate) trait Step {
    /// What a person named it by.
    fn finding(&self) -> &str;
    /// The places that it speaks of.
    fn places(&self) -> &[Place];
    fn claim(&self) -> Claim;
    /// One line that names what was done.
    fn title(&self, result: &Outcome) -> String;
    /// Plans what is asked for, and nothing else.
    fn plan(&self, project: &Project) -> Plan;

    /// What is wished of a new function.
    fn wishes(&self) -> Option<&Wishes> {
        None
    }

    fn wishes_mut(&mut self) -> Option<&mut Wishes> {
        None
    }

    /// Files that it puts code into, which may have to be made.
    fn new_files(&self) -> Vec<&str> {
        self.wishes().and_then(|w| w.into.as_deref()).into_iter().collect()
    }

    /// The places whose code goes to one of those files.
    fn places_for(&self, _project: &Project, _file: &str) -> Vec<Place> {
        self.places().to_vec()
    }
}

/// The kinds of steps, each with its request.
macro_rules! kinds {
    ($($kind:ident($request:ty)),* $(,)?) => {
        /// What is asked for: the kind of step with what a person may edit of it.
        #[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
        #[serde(tag = "step", content = "request", rename_all = "kebab-case")]
        pub enum Request {
            $($kind($request)),*
        }

        impl Request {
            fn step(&self) -> &dyn Step {
                match self {
                    $(Request::$kind(r) => r),*
                }
            }

            fn step_mut(&mut self) -> &mut dyn Step {
                match self {
                    $(Request::$kind(r) => r),*
                }
            }
        }
    };
}

kinds! {
    Fold(FoldRequest),
    Extract(ExtractRequest),
    Rename(RenameRequest),
    Param(ParamRequest),
    Inline(InlineRequest),
    Variable(VariableRequest),
    Query(QueryRequest),
    Split(SplitRequest),
    Tidy(TidyRequest),
    Slide(SlideRequest),
    SplitVariable(SplitVariableRequest),
    SplitLoop(SplitLoopRequest),
    Move(MoveRequest),
    SplitFile(SplitFileRequest),
    Series(SeriesRequest),
    Lift(LiftRequest),
}

impl Request {
    /// What a person named it by.
    pub fn finding(&self) -> &str {
        self.step().finding()
    }

    /// The places that it speaks of.
    pub fn places(&self) -> &[Place] {
        self.step().places()
    }

    /// What is wished of a new function.
    pub fn wishes(&self) -> Option<&Wishes> {
        self.step().wishes()
    }

    /// The same with another file for the new function.
    fn with_home(&self, path: &str) -> Request {
        let mut other = self.clone();
        if let Some(wishes) = other.step_mut().wishes_mut() {
            wishes.into = Some(path.to_string());
        }
        other
    }
}

pub const PLAN_SCHEMA: &str = "ufold.plan/2";

/// A request and what it would do.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct Plan {
    /// Always `ufold.plan/2`.
    pub schema: String,
    #[serde(flatten)]
    pub request: Request,
    pub result: Outcome,
}

impl Plan {
    pub fn new(request: Request, result: Outcome) -> Plan {
        Plan { schema: PLAN_SCHEMA.into(), request, result }
    }

    /// Of what a step found, when the audit agrees with it.
    fn of(project: &Project, request: Request, found: Found<Outcome>) -> Plan {
        let claim = request.step().claim();
        let result = found.map_or_else(Outcome::refused, |o| proven(project, &claim, o));
        Plan::new(request, result)
    }

    /// One line that names what it does.
    pub fn title(&self) -> String {
        self.request.step().title(&self.result)
    }

    /// What speaks against it, by the second reading.
    pub fn audit(&self, project: &Project) -> Result<(), Vec<Reason>> {
        let claim = self.request.step().claim();
        let files = || self.result.files.iter();
        // a file that only gets another name is none
        let moved = files().filter(|_| matches!(claim, Claim::Moved { .. })).filter_map(|f| f.moves_to.as_deref());
        let made = files().filter(|f| f.creates).map(|f| f.file.as_str()).chain(moved);
        let made = made.filter(|f| project.index(f).is_none());
        let wanted = |f: &str| outside::wanted(project, f, &self.request.step().places_for(project, f));
        let made: Vec<NewFile> = made.filter_map(wanted).collect();
        if made.is_empty() {
            return audit(project, &Change { claim: &claim, result: &self.result });
        }
        // as it was planned: beside what is in such a file from the first
        let mut result = self.result.clone();
        for f in &mut result.files {
            let Some(new) = made.iter().find(|n| n.path == f.file) else { continue };
            let whole = apply_edits("", &f.edits).unwrap_or_default();
            let head = file_head::shared(project, new.like).unwrap_or_default();
            let whole = whole.strip_prefix(head.as_str()).unwrap_or(&whole);
            f.edits = match whole.strip_prefix(new.text.as_str()) {
                Some(rest) => vec![Edit::new(new.text.len(), new.text.len(), rest)],
                None => vec![Edit::new(0, new.text.len(), whole)],
            };
        }
        let run = |p: &Project| audit(p, &Change { claim: &claim, result: &result });
        let fault = |e: String| Err(vec![internal(self.request.places(), &e)]);
        project.with_new(&made, run).unwrap_or_else(fault)
    }
}

impl<'de> Deserialize<'de> for Plan {
    /// A field too many is an error, as everywhere in a plan: a misspelt wish must not be passed over.
    fn deserialize<D: serde::Deserializer<'de>>(from: D) -> Result<Plan, D::Error> {
        #[derive(Deserialize)]
        #[serde(deny_unknown_fields)]
        struct Flat {
            schema: String,
            step: serde_json::Value,
            request: serde_json::Value,
            result: Outcome,
        }
        let Flat { schema, step, request, result } = Flat::deserialize(from)?;
        let request = serde_json::json!({ "step": step, "request": request });
        let request = serde_json::from_value(request).map_err(serde::de::Error::custom)?;
        Ok(Plan { schema, request, result })
    }
}

/// Plans what a request asks for.
pub fn plan(project: &Project, request: &Request) -> Plan {
    let plan = as_asked(project, request);
    placed::elsewhere(project, request, &plan).unwrap_or(plan)
}

/// The plan for what a request says, and nothing else.
fn as_asked(project: &Project, request: &Request) -> Plan {
    let planner = |p: &Project| request.step().plan(p);
    let wanted = |path: &str| outside::wanted(project, path, &request.step().places_for(project, path));
    let planned = std::panic::catch_unwind(AssertUnwindSafe(|| match unplaced(project, request.places()) {
        None => {
            let new: Vec<NewFile> = request.step().new_files().into_iter().filter_map(wanted).collect();
            let run = || if new.is_empty() { None } else { project.with_new(&new, planner).ok() };
            Ok(run().map_or_else(|| planner(project), |plan| made_by(project, plan, &new)))
        }
        Some(reasons) => Err(reasons),
    }));
    let result = match planned {
        Ok(Ok(plan)) => return plan,
        Ok(Err(reasons)) => Outcome::refused(reasons),
        Err(panic) => Outcome::refused(vec![internal(request.places(), &*panic)]),
    };
    Plan::new(request.clone(), result)
}

/// A plan says which files it makes, of nothing.
fn made_by(project: &Project, mut plan: Plan, new: &[NewFile]) -> Plan {
    for f in &mut plan.result.files {
        let Some(n) = new.iter().find(|n| n.path == f.file) else { continue };
        let mut whole = apply_edits(&n.text, &f.edits).expect("the planner's edits fit its text");
        if let Some(head) = file_head::shared(project, n.like).filter(|h| !whole.starts_with(h.trim_end())) {
            whole = head + &whole;
        }
        (f.creates, f.sha256, f.edits) = (true, sha256(""), vec![Edit::new(0, 0, whole)]);
    }
    plan
}

/// A fault of this program: the plan is refused, and what is needed to find it is said.
fn internal(places: &[Place], panic: &(dyn std::any::Any + Send)) -> Reason {
    let text = panic.downcast_ref::<String>().map(String::as_str);
    let text = text.or(panic.downcast_ref::<&str>().copied()).unwrap_or("no message");
    let place = places.first();
    Reason {
        code: Code::Internal,
        message: format!("planning failed by a fault of ufold ({text}); please report it with the code at this place"),
        file: place.map_or(String::new(), |p| p.file.clone()),
        line: place.map_or(0, |p| p.start_line),
    }
}

/// What keeps a request's places from being places at all: a plan file may say anything.
fn unplaced(project: &Project, places: &[Place]) -> Option<Vec<Reason>> {
    let wrong = |place: Option<&Place>, message: &str| {
        let (file, line) = place.map_or((String::new(), 0), |p| (p.file.clone(), p.start_line));
        Some(vec![Reason { code: Code::NoStatements, message: message.into(), file, line }])
    };
    if places.is_empty() {
        return wrong(None, "the request names no place");
    }
    for p in places {
        let source = match project.source_at(p) {
            Ok(s) => s,
            Err(reasons) => return Some(reasons),
        };
        let on_text = |byte: usize| source.text.is_char_boundary(byte);
        if p.start_byte > p.end_byte || !on_text(p.start_byte) || !on_text(p.end_byte) {
            return wrong(Some(p), "the range lies outside the file, or cuts a character");
        }
        if let Some(line) = unparsed_beside(&source, Span::new(p.start_byte, p.end_byte)) {
            let message = "a part of the code around this place could not be parsed".into();
            return Some(vec![Reason { code: Code::Unparsed, message, file: p.file.clone(), line }]);
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
    // what stands outside of classes, where nothing does, is of one that was not read
    let of_class = t.ancestors(node).chain([node]).any(|a| t.role(a) == crate::tree::Role::Class);
    if !of_class && !s.lang.has_free_functions(s) {
        return t.errors().first().map(|e| s.lines.line(e.start));
    }
    let functions = t.ancestors(node).chain([node]).filter(|a| t.role(*a).is_callable());
    let around = functions.min().map_or(t.span(crate::tree::Tree::ROOT), |f| t.span(f));
    let near = |e: &&Span| e.start <= around.end && around.start <= e.end;
    t.errors().iter().find(near).map(|e| s.lines.line(e.start))
}
