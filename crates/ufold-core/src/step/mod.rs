//! Steps: from a request and the project to a plan. One file, or folder, a kind of step.
//!
//! A plan is pure data: the request that a person may edit, and the result derived from it.

mod extract;
mod fold;
#[cfg(test)]
mod hostile;
mod inline;
mod param;
pub mod probe;
mod rename;
#[cfg(test)]
mod tests;

use std::panic::AssertUnwindSafe;

use crate::change::{Outcome, PLAN_SCHEMA, Place, Plan, Reason, Request};
use crate::index::Project;
use crate::plan::outside;
use crate::text::Span;
pub use extract::{Others, copies_of, plan_extract};
pub use fold::plan_fold;
pub use inline::{plan_inline, uses_of};
pub use param::plan_param;
pub use rename::plan_rename;

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
        None => Ok(match outside::wanted(project, request.into.as_deref(), &request.copies[0]) {
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

/// The outcome of a step that writes no function, when the audit agrees with it.
fn audited_step(project: &Project, request: &Request, step: &str, result: Outcome) -> Outcome {
    let plan = Plan { schema: PLAN_SCHEMA.into(), step: step.into(), request: request.clone(), result };
    match crate::audit::audit(project, &plan) {
        Ok(()) => plan.result,
        Err(reasons) => Outcome::refused(reasons),
    }
}
