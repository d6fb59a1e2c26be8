//! Which parts a split proposes: the best cut of which every part can be taken out, also of the function with a loop
//! divided or a variable put in first where that makes better parts.

use std::sync::Arc;

use serde::Serialize;

use super::beforehand::{Beforehand, Prepared, candidates};
use super::room::{self, companions};
use super::{PartRequest, SplitRequest, take_out};
use crate::change::{Code, Outcome, Place, Reason, Verdict, place_of};
use crate::index::Project;
use crate::index::target::{Target, target};
use crate::names::Source;
use crate::plan::part_names::branch_around;
use crate::plan::parts::{Part, Runs, code_lines_of, crowding, has_heading, interface, parts};
use crate::plan::wishes::Wishes;
use crate::plan::words::words;
use crate::text::Span;
use crate::tree::{Field, NodeId, Role};

/// Plans that are tried for one proposal.
const MOST_TRIES: usize = 60;

/// Statements that are tried one by one to go along with a part.
const MOST_ALONE: usize = 4;

/// Code lines of the shortest part that nothing gives a name to.
const FEWEST_NAMELESS: usize = 12;

/// How much more the parts must be worth for a change to be made first, in lines' worth: half of it where there are none
/// without, twice that where it is not certain, and they are.
const WORTH_A_CHANGE: f64 = 2.0;

/// Changes that are made first at most.
const MOST_CHANGES: usize = 3;

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
    /// Lines of the function as it is; of a loop that is made first, the line that it comes to stand behind.
    pub lines: (usize, usize),
    /// First and last lines of statements above it that slide to it and go along.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub along: Vec<(usize, usize)>,
    /// Lines of the loop around it, or of the loop's body in it, that were weighed and found to be worth less.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub instead: Option<(usize, usize)>,
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
    let place = place_of(&s, s.tree.span(function));
    let mut best = Proposal::of(project, &place, Vec::new(), Prepared::new(&s))?;
    while best.changes.len() < MOST_CHANGES {
        let Some(better) = best.with_a_change(project, &place) else { break };
        best = better;
    }
    Ok(best.finish(finding, place))
}

/// The parts of a function with some changes made.
struct Proposal {
    changes: Vec<Beforehand>,
    made: Prepared,
    source: Arc<Source>,
    function: NodeId,
    parts: Vec<(Part, Tried)>,
}

impl Proposal {
    fn of(project: &Project, place: &Place, changes: Vec<Beforehand>, made: Prepared) -> Result<Proposal, Vec<Reason>> {
        let (s, function) = read(project, &made, place)?;
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
                let tried = tried(project, &made, &s, function, p, &taken);
                if tried.result.is_refused() || is_nameless(&s, p, &tried.result) {
                    refused.insert((p.first, p.last));
                }
                known.push((p.first, p.last, tried));
            }
        }
        chosen.retain(|p| !refused.contains(&(p.first, p.last)));
        let mut tried_of = |p: &Part| {
            let at = known.iter().position(|(a, z, _)| (*a, *z) == (p.first, p.last))?;
            Some(known.swap_remove(at).2)
        };
        let parts = chosen.into_iter().filter_map(|p| tried_of(&p).map(|t| (p, t))).collect();
        Ok(Proposal { changes, made, source: s, function, parts })
    }

    fn worth(&self) -> f64 {
        self.parts.iter().map(|(p, _)| p.worth).sum()
    }

    /// The verdict of the worst part.
    fn verdict(&self) -> Verdict {
        self.parts.iter().map(|(_, t)| t.result.verdict).max().unwrap_or(Verdict::Ready)
    }

    /// The best of what comes out with a change more, when it is worth that.
    fn with_a_change(&self, project: &Project, place: &Place) -> Option<Proposal> {
        let own: Vec<&Part> = self.parts.iter().map(|(p, _)| p).collect();
        let crowding = crowding(&self.source, self.function, &own);
        let all = candidates(project, &self.made, self.function, &crowding);
        let enough = |made: &Prepared, worth: f64| {
            let least = match self.parts.is_empty() {
                true => WORTH_A_CHANGE / 2.0,
                false if made.out.verdict > self.verdict() => WORTH_A_CHANGE * 2.0,
                false => WORTH_A_CHANGE,
            };
            worth > self.worth() + least
        };
        let better = all.into_iter().filter_map(|more| {
            let made = self.made.clone().with(project, &more).ok()?;
            let (s, function) = read(project, &made, place).ok()?;
            let hoped: f64 = parts(&s, function, &Runs::default()).iter().map(|p| p.worth).sum();
            let changes = [self.changes.clone(), more].concat();
            let new = enough(&made, hoped).then(|| Proposal::of(project, place, changes, made).ok()).flatten()?;
            enough(&new.made, new.worth()).then_some(new)
        });
        better.max_by(|a, b| a.worth().total_cmp(&b.worth()))
    }

    fn finish(self, finding: &str, place: Place) -> (SplitRequest, Vec<Proposed>) {
        let s = &self.source;
        let shown = self.parts.iter().map(|(p, tried)| proposed(&self.made, s, self.function, p, tried));
        let mut shown: Vec<Proposed> = shown.collect();
        distinct(s, &mut shown);
        let wished = |p: &Proposed| Wishes { name: Some(p.name.clone()), ..Wishes::default() };
        let part = |(p, (_, tried)): (&Proposed, (Part, Tried))| PartRequest {
            place: p.place.clone(),
            along: tried.along,
            function: wished(p),
        };
        let parts = shown.iter().zip(self.parts).map(part).collect();
        let first = if shown.is_empty() { Vec::new() } else { self.changes };
        let (except, chosen) = (Vec::new(), false);
        (SplitRequest { finding: finding.to_string(), place, first, parts, except, chosen }, shown)
    }
}

/// The text with the changes made, and the function in it, whose head they leave where it is.
fn read(project: &Project, made: &Prepared, place: &Place) -> Result<(Arc<Source>, NodeId), Vec<Reason>> {
    let s = made.at.asked(project, |p| p.ordered_source_at(place))??;
    let t = &s.tree;
    let function = t.ids().find(|f| t.span(*f).start == place.start_byte && t.holds_statements(*f));
    let gone = || {
        let message = "the function is not where it was".to_string();
        vec![Reason { code: Code::NoFunction, message, file: place.file.clone(), line: place.start_line }]
    };
    let function = function.ok_or_else(gone)?;
    Ok((s, function))
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
        let word = s.lang.variable_name(&list);
        p.name = format!("{}{}", &names[i][..hidden], word.trim_start_matches(s.lang.variable_mark()));
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
fn tried(
    project: &Project,
    made: &Prepared,
    s: &Arc<Source>,
    function: NodeId,
    p: &Part,
    taken: &dyn Fn(NodeId) -> bool,
) -> Tried {
    let out = |along: Vec<Place>| {
        let part = PartRequest { place: span_of(s, p), along, function: Wishes::default() };
        let mut at = made.at.clone();
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

fn proposed(made: &Prepared, s: &Source, function: NodeId, p: &Part, tried: &Tried) -> Proposed {
    let (place, result) = (span_of(s, p), &tried.result);
    let (_, mut results) = interface(s, function, p).unwrap_or_default();
    results.extend(tried.along.iter().flat_map(|d| room::given_on(s, d, p)));
    results.dedup();
    let was = |line: usize| made.at.line_before(line);
    let lines = |span: Span| (was(s.lines.line(span.start)), was(s.lines.line(span.end.max(span.start + 1) - 1)));
    Proposed {
        name: result.function.as_ref().map_or(String::new(), |f| f.name.clone()),
        code_lines: code_lines_of(s, Span::new(place.start_byte, place.end_byte)),
        parameters: result.parameters.iter().map(|p| p.name.clone()).collect(),
        results,
        verdict: result.verdict.max(made.out.verdict),
        reasons: result.reasons.clone(),
        lines: (was(place.start_line), was(place.end_line)),
        along: tried.along.iter().map(|d| (was(d.start_line), was(d.end_line))).collect(),
        instead: p.instead.map(lines).filter(|(a, z)| a < z),
        place,
    }
}
