//! `split`: an overlong function becomes several, each a run of its statements, in one step.
//!
//! Where to cut is found by [`crate::plan::parts`]; each part is an extraction of its own, made on the text that the
//! others leave, from the last part to the first: so they come to stand below the function in the order of use. A part
//! that can't be taken out is left out where all were asked for, and refuses the step where it was named.

use serde::{Deserialize, Serialize};
use std::slice::from_ref;
use std::sync::Arc;

use super::chain::Progress;
use super::room::{self, companions};
use super::{ExtractRequest, Plan, Request, Step};
use crate::change::{Claim, Code, Found, Link, Outcome, Place, Reason, Verdict, place_of, reason};
use crate::index::Project;
use crate::index::target::{Target, target};
use crate::names::Source;
use crate::plan::naming::{branch_around, words};
use crate::plan::parts::{Part, Runs, code_lines_of, has_heading, interface, parts};
use crate::plan::wishes::Wishes;
use crate::text::{Span, apply_edits};
use crate::tree::{Field, NodeId, Role};

/// Plans that are tried for one proposal.
const MOST_TRIES: usize = 60;

/// Statements that are tried one by one to go along with a part.
const MOST_ALONE: usize = 4;

/// Code lines of the shortest part that nothing gives a name to.
const FEWEST_NAMELESS: usize = 12;

/// What a person may edit of a split.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct SplitRequest {
    /// The function as it was typed, for messages.
    pub finding: String,
    /// The function.
    pub place: Place,
    /// Its parts, in the order in which they stand.
    pub parts: Vec<PartRequest>,
    /// Numbers of parts to leave where they are, from 1.
    #[serde(default)]
    pub except: Vec<usize>,
    /// Parts were chosen by a person: one that can't be taken out refuses the step.
    #[serde(default)]
    pub chosen: bool,
}

/// One part of a function.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct PartRequest {
    pub place: Place,
    /// Statements above it that slide to it first and go along with it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub along: Vec<Place>,
    #[serde(default)]
    pub function: Wishes,
}

/// A part as it is shown: what it would take and give, and its plan by itself.
#[derive(Clone, Debug, Serialize, schemars::JsonSchema)]
pub struct Proposed {
    pub place: Place,
    pub name: String,
    pub code_lines: usize,
    pub parameters: Vec<String>,
    pub results: Vec<String>,
    pub verdict: Verdict,
    pub reasons: Vec<Reason>,
    /// First and last lines of statements above it that slide to it and go along.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub along: Vec<(usize, usize)>,
    /// Lines of the loop around it, or of the loop's body in it, that were weighed and found to be worth less.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub instead: Option<(usize, usize)>,
}

impl Step for SplitRequest {
    fn finding(&self) -> &str {
        &self.finding
    }

    fn places(&self) -> &[Place] {
        from_ref(&self.place)
    }

    fn claim(&self) -> Claim {
        Claim::InTurn
    }

    fn title(&self, result: &Outcome) -> String {
        match result.links.len() {
            1 => format!("Split {}: 1 part", self.finding),
            n => format!("Split {} into {n} parts", self.finding),
        }
    }

    fn plan(&self, project: &Project) -> Plan {
        Plan::of(project, Request::Split(self.clone()), Split { project, request: self }.run())
    }
}

/// The function at a name, or that begins on a line, or that a place is in.
fn function_at(s: &Source, place: &Place) -> Option<NodeId> {
    let t = &s.tree;
    let span = Span::new(place.start_byte, place.end_byte);
    let named = match target(s, span) {
        Some(Target::Binding(b)) => t.parent(s.names.binding(b).first),
        Some(Target::Member(n)) => t.parent(n),
        None => None,
    };
    let value = |f: NodeId| t.child(f, Field::Right).filter(|v| t.role(*v) == Role::Lambda);
    let named = named.map(|f| value(f).unwrap_or(f)).filter(|f| t.holds_statements(*f));
    let at = t.covering(span);
    let begun = || {
        t.subtree(at).find(|f| t.holds_statements(*f) && span.start <= t.span(*f).start && t.span(*f).start < span.end)
    };
    let around = || std::iter::once(at).chain(t.ancestors(at)).find(|f| t.holds_statements(*f));
    named.or_else(begun).or_else(around)
}

/// The parts that a function is best cut into, with what is known of each; those that can be taken out come first when
/// there is a choice.
pub fn propose_split(
    project: &Project,
    finding: &str,
    place: &Place,
) -> Result<(SplitRequest, Vec<Proposed>), Vec<Reason>> {
    let s = project.ordered_source_at(place)?;
    let Some(function) = function_at(&s, place) else {
        let message = "no function with statements of its own stands here".to_string();
        let (file, line) = (place.file.clone(), place.start_line);
        return Err(vec![Reason { code: Code::NoFunction, message, file, line }]);
    };
    let mut refused = Runs::default();
    let mut known: Vec<(NodeId, NodeId, Tried)> = Vec::new();
    let mut chosen: Vec<Part> = Vec::new();
    while known.len() < MOST_TRIES {
        chosen = parts(&s, function, &refused);
        let new: Vec<&Part> =
            chosen.iter().filter(|p| !known.iter().any(|(a, z, _)| (*a, *z) == (p.first, p.last))).collect();
        if new.is_empty() {
            break;
        }
        for p in new {
            let taken = |n: NodeId| chosen.iter().any(|o| o.first <= n && n < s.tree.end(o.last));
            let tried = tried(project, &s, function, p, &taken);
            if tried.result.is_refused() || is_nameless(&s, p, &tried.result) {
                refused.insert((p.first, p.last));
            }
            known.push((p.first, p.last, tried));
        }
    }
    chosen.retain(|p| !refused.contains(&(p.first, p.last)));
    let plan_of = |p: &Part| known.iter().find(|(a, z, _)| (*a, *z) == (p.first, p.last)).map(|(_, _, tried)| tried);
    let mut shown: Vec<Proposed> = chosen.iter().filter_map(|p| Some(proposed(&s, function, p, plan_of(p)?))).collect();
    let along: Vec<Vec<Place>> = chosen.iter().filter_map(|p| plan_of(p).map(|t| t.along.clone())).collect();
    distinct(&s, &mut shown);
    let wished = |p: &Proposed| Wishes { name: Some(p.name.clone()), ..Wishes::default() };
    let list = shown
        .iter()
        .zip(along)
        .map(|(p, along)| PartRequest { place: p.place.clone(), along, function: wished(p) })
        .collect();
    let place = place_of(&s, s.tree.span(function));
    let request = SplitRequest { finding: finding.to_string(), place, parts: list, except: Vec::new(), chosen: false };
    Ok((request, shown))
}

/// Gives parts of one name different ones: by the branches that they are, else by numbers.
fn distinct(s: &Source, parts: &mut [Proposed]) {
    let t = &s.tree;
    let names: Vec<String> = parts.iter().map(|p| p.name.clone()).collect();
    let branch = |p: &Proposed| {
        let begins = |n: &NodeId| {
            t.span(*n).start == p.place.start_byte && t.parent(*n).is_some_and(|b| t.role(b).is_sequence())
        };
        branch_around(s, t.ids().find(begins)?)
    };
    let branches: Vec<Option<Vec<String>>> = parts.iter().map(branch).collect();
    for (i, p) in parts.iter_mut().enumerate() {
        let same: Vec<usize> = (0..names.len()).filter(|k| names[*k] == names[i]).collect();
        if same.len() < 2 {
            continue;
        }
        let mut list = words(&names[i]);
        let told = |k: &usize| branches[*k].as_ref().filter(|w| !w.iter().any(|x| list.contains(x)));
        let differ = |of: &dyn Fn(&usize) -> Option<Vec<String>>| {
            let all: Vec<Option<Vec<String>>> = same.iter().map(of).collect();
            all.iter().all(|w| w.is_some() && all.iter().filter(|o| *o == w).count() == 1)
        };
        let own = told(&i).cloned().filter(|_| differ(&|k| told(k).cloned()));
        let branch = branches[i].clone().filter(|_| differ(&|k| branches[*k].clone()));
        match (own, branch) {
            // what is done stays the first word, and to what the last one
            (Some(own), _) => {
                let at = if list.len() > 1 { list.len() - 1 } else { list.len() };
                list.splice(at..at, own);
            }
            (None, Some(branch)) => list = [vec!["handle".to_string()], branch].concat(),
            _ => list.push((same.iter().position(|k| *k == i).unwrap_or(0) + 1).to_string()),
        }
        let hidden = names[i].len() - names[i].trim_start_matches('_').len();
        p.name = format!("{}{}", &names[i][..hidden], s.lang.variable_name(&list));
        let (was, is) = (format!("`{}`", names[i]), format!("`{}`", p.name));
        p.reasons.iter_mut().for_each(|r| r.message = r.message.replace(&was, &is));
    }
}

/// A short run for which nothing in the code gives a name, nor did its author: it is hardly one thing.
fn is_nameless(s: &Source, p: &Part, result: &Outcome) -> bool {
    let span = Span::new(s.tree.span(p.first).start, s.tree.span(p.last).end);
    let unnamed = result.function.as_ref().is_some_and(|f| f.unnamed);
    let said = has_heading(s, p.first) || branch_around(s, p.first).is_some();
    unnamed && !said && code_lines_of(s, span) < FEWEST_NAMELESS
}

fn span_of(s: &Source, p: &Part) -> Place {
    place_of(s, Span::new(s.tree.span(p.first).start, s.tree.span(p.last).end))
}

/// A part taken out by itself.
struct Tried {
    /// The extraction of it.
    result: Outcome,
    along: Vec<Place>,
}

/// The part alone, or with what goes along where that makes it possible or its parameters fewer.
fn tried(project: &Project, s: &Arc<Source>, function: NodeId, p: &Part, taken: &dyn Fn(NodeId) -> bool) -> Tried {
    let out = |along: Vec<Place>| {
        let part = PartRequest { place: span_of(s, p), along, function: Wishes::default() };
        let mut at = Progress::new(s);
        let result = match take_out(project, &mut at, "", &part) {
            Ok(mut links) => {
                let mut last = links.pop().expect("an extraction is the last of them").result;
                for slide in links {
                    last.verdict = last.verdict.max(slide.result.verdict);
                    last.reasons.extend(slide.result.reasons);
                }
                last
            }
            Err(reasons) => Outcome::refused(reasons),
        };
        Tried { result, along: part.along }
    };
    let alone = out(Vec::new());
    let along = companions(s, function, p, taken);
    if along.is_empty() {
        return alone;
    }
    let better = |new: &Tried, old: &Tried| {
        let fewer = new.result.parameters.len() < old.result.parameters.len();
        !new.result.is_refused() && (old.result.is_refused() || fewer && new.result.verdict <= old.result.verdict)
    };
    let all: Vec<Place> = along.iter().map(|n| place_of(s, s.tree.span(*n))).collect();
    let more = out(all.clone());
    if better(&more, &alone) {
        return more;
    }
    // one that can't slide keeps no other back
    let mut best = alone;
    for d in all.into_iter().rev().take(MOST_ALONE) {
        let new = out([vec![d], best.along.clone()].concat());
        best = if better(&new, &best) { new } else { best };
    }
    best
}

fn proposed(s: &Source, function: NodeId, p: &Part, tried: &Tried) -> Proposed {
    let (place, result) = (span_of(s, p), &tried.result);
    let (_, mut results) = interface(s, function, p).unwrap_or_default();
    results.extend(tried.along.iter().flat_map(|d| room::given_on(s, d, p)));
    results.dedup();
    let lines = |span: Span| (s.lines.line(span.start), s.lines.line(span.end.max(span.start + 1) - 1));
    Proposed {
        name: result.function.as_ref().map_or(String::new(), |f| f.name.clone()),
        code_lines: code_lines_of(s, Span::new(place.start_byte, place.end_byte)),
        parameters: result.parameters.iter().map(|p| p.name.clone()).collect(),
        results,
        verdict: result.verdict,
        reasons: result.reasons.clone(),
        along: tried.along.iter().map(|d| (d.start_line, d.end_line)).collect(),
        instead: p.instead.map(lines),
        place,
    }
}

/// One part, with what goes along, out of the text that is now: the slides and the extraction.
fn take_out(project: &Project, at: &mut Progress, finding: &str, part: &PartRequest) -> Found<Vec<Link>> {
    let s = at.original.clone();
    let overlap = || {
        let message = "this part overlaps another one".to_string();
        vec![Reason { code: Code::Overlap, message, file: s.path.clone(), line: part.place.start_line }]
    };
    at.moved(&part.place).ok_or_else(overlap)?;
    let (place, mut links) = room::make(at, project, &part.place, &part.along)?;
    let function = part.function.clone();
    let request = ExtractRequest { finding: finding.to_string(), copies: vec![place], except: Vec::new(), function };
    let result = at.planned(project, |p| request.plan(p).result)?;
    if result.is_refused() {
        return Err(result.reasons);
    }
    if result.files.iter().any(|f| f.file != s.path || f.creates) {
        let message = "the part would go to another file".to_string();
        let line = part.place.start_line;
        return Err(vec![Reason { code: Code::NoHome, message, file: s.path.clone(), line }]);
    }
    links.push(Link { claim: request.claim(), result });
    Ok(links)
}

struct Split<'a> {
    project: &'a Project<'a>,
    request: &'a SplitRequest,
}

impl Split<'_> {
    fn run(&self) -> Found<Outcome> {
        let r = self.request;
        let s = self.project.ordered_source_at(&r.place)?;
        let numbers: Vec<usize> = (1..=r.parts.len()).filter(|n| !r.except.contains(n)).collect();
        if numbers.is_empty() {
            let at = s.tree.covering(Span::new(r.place.start_byte, r.place.end_byte));
            return Err(vec![reason(&s, at, Code::NoPart, "no part of this function is worth a function of its own")]);
        }
        let mut at = Progress::new(&s);
        let mut out = Outcome { verdict: Verdict::Ready, ..Outcome::refused(Vec::new()) };
        for n in numbers.into_iter().rev() {
            let part = &r.parts[n - 1];
            let mut next = at.clone();
            match take_out(self.project, &mut next, &r.finding, part) {
                Ok(links) => {
                    let (last, slides) = links.split_last().expect("an extraction is the last of them");
                    for (link, before) in slides.iter().map(|l| (l, &at)).chain([(last, &next)]) {
                        let own = |r: &Reason| Reason { line: before.line_before(r.line), ..r.clone() };
                        out.reasons.extend(link.result.reasons.iter().map(own));
                        out.verdict = out.verdict.max(link.result.verdict);
                        out.remarks.extend(link.result.remarks.iter().map(|r| format!("part {n}: {r}")));
                    }
                    next.follow(self.project, last)?;
                    out.remarks.extend(part.along.iter().map(|d| format!("part {n}: {} first", goes_along(d))));
                    out.links.extend(links);
                    at = next;
                }
                Err(reasons) => {
                    let own = |r: Reason| (n, Reason { line: at.line_before(r.line), ..r });
                    out.left_out.extend(reasons.into_iter().map(own));
                }
            }
        }
        out.left_out.reverse();
        if out.links.is_empty() || r.chosen && !out.left_out.is_empty() {
            return Err(out.left_out.into_iter().map(|(_, r)| r).collect());
        }
        out.reasons.sort_by_key(|r| r.line);
        out.reasons.dedup();
        (out.files, out.saves) = at.finish();
        Ok(out)
    }
}

/// What happens to a statement that a part takes along.
fn goes_along(place: &Place) -> String {
    match place.start_line == place.end_line {
        true => format!("line {} slides to it", place.start_line),
        false => format!("lines {}-{} slide to it", place.start_line, place.end_line),
    }
}

/// How the function reads when a plan is done, from its head on.
pub fn afterwards(project: &Project, plan: &Plan) -> Option<String> {
    let Request::Split(r) = &plan.request else { return None };
    let s = project.ordered_source_at(&r.place).ok()?;
    let edits = plan.result.files.iter().find(|f| f.file == s.path).map_or(&[][..], |f| &f.edits);
    let new = project.parse(&s.path, apply_edits(&s.text, edits).ok()?.into()).ok()?;
    let before = edits.iter().filter(|e| e.span.end <= r.place.start_byte);
    let shift: i64 = before.map(|e| e.text.len() as i64 - (e.span.end - e.span.start) as i64).sum();
    let start = (r.place.start_byte as i64 + shift) as usize;
    let t = &new.tree;
    let function = t.ids().find(|f| t.span(*f).start == start && t.holds_statements(*f))?;
    let from = new.text[..start].rfind('\n').map_or(0, |i| i + 1);
    Some(new.text[from..t.span(function).end].to_string())
}
