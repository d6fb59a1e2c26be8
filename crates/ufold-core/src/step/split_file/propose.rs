//! What a split of a file would make: the new files, what uses what, and what stays.

use schemars::JsonSchema;
use serde::Serialize;

use super::file_names::path_for;
use super::graph::{Unit, Units};
use super::{FilePart, SplitFileRequest};
use crate::change::{Claim, Code, Found, Place, Reason, Verdict, reason};
use crate::index::Project;
use crate::names::Source;
use crate::plan::clusters;
use crate::step::moves::class_of_file;
use crate::step::{Plan, Request, plan};
use crate::tree::{NodeId, Tree};

/// A new file is not smaller.
const LEAST_LINES: usize = 12;
/// What can't go is told to the cut, and a new one is made; not more often than this.
const ROUNDS: usize = 5;

/// A file that a split would make.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct ProposedFile {
    pub file: String,
    /// Its definitions, in the order of the old file.
    pub names: Vec<String>,
    /// Lines that are not blank.
    pub code_lines: usize,
    /// Other new files that it imports.
    pub uses: Vec<String>,
    /// Other new files that import it.
    pub used_by: Vec<String>,
    /// The old file uses its definitions.
    pub used_by_rest: bool,
    pub verdict: Verdict,
    pub reasons: Vec<Reason>,
}

/// What stays in the old file.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct StaysThere {
    pub names: Vec<String>,
    /// Lines that are not blank.
    pub code_lines: usize,
}

/// The parts that a file should get, with the plan for all of them.
pub fn propose_files(
    project: &Project,
    finding: &str,
    place: &Place,
    no_stay: bool,
) -> Found<(Plan, Vec<ProposedFile>, StaysThere)> {
    let s = project.source_at(place)?;
    let classes = s.names.members_in_sight && class_of_file(&s).is_some();
    if !s.lang.modules_are_values() && !classes {
        let message = "files of this language can't be split yet";
        return Err(vec![reason(&s, Tree::ROOT, Code::NoStepYet, message)]);
    }
    let mut pinned: Vec<NodeId> = Vec::new();
    for round in 1.. {
        let units = Units::of(project, &s, &pinned, no_stay);
        let cut = clusters::parts(&units.graph);
        let parts = parts(project, &s, &units, &cut);
        let (finding, place) = (finding.to_string(), place.clone());
        let request = SplitFileRequest {
            finding,
            place,
            parts: parts.iter().map(|p| p.0.clone()).collect(),
            except: Vec::new(),
            chosen: false,
            no_stay,
        };
        let plan = plan(project, &Request::SplitFile(request));
        let unfit = unfit(&s, &units, &parts, &plan);
        let new: Vec<NodeId> = unfit.into_iter().filter(|n| !pinned.contains(n)).collect();
        if new.is_empty() || round == ROUNDS {
            let proposed = proposed(&units, &parts, &plan);
            return Ok((plan, proposed, stays(&units, &parts)));
        }
        pinned.extend(new);
    }
    unreachable!("the last round returns")
}

/// A part with the numbers of its units.
type Part = (FilePart, Vec<usize>);

fn parts(project: &Project, s: &Source, units: &Units, cut: &[usize]) -> Vec<Part> {
    let largest = cut.iter().copied().max().unwrap_or(0);
    let mut out: Vec<Part> = Vec::new();
    let mut taken: Vec<String> = Vec::new();
    for k in 1..=largest {
        let own: Vec<usize> = (0..units.all.len()).filter(|i| cut[i + 1] == k).collect();
        let lines: usize = own.iter().map(|i| units.all[*i].lines).sum();
        // the file would be another one, and nothing else
        let whole = own.len() == units.all.len() && units.graph.lines[0] < LEAST_LINES;
        let does = own.iter().any(|i| units.all[*i].does);
        if lines < LEAST_LINES || whole || !does {
            continue;
        }
        let to = path_for(project, s, units, &own, &taken);
        taken.push(to.clone());
        let names = own.iter().flat_map(|i| units.all[*i].names.iter().cloned()).collect();
        out.push((FilePart { to, names }, own));
    }
    if cut.iter().skip(1).all(|p| *p != 0) && out.len() > 1 && units.graph.lines[0] < LEAST_LINES {
        // the file is still about something: the largest part stays
        let lines = |p: &Part| p.1.iter().map(|i| units.all[*i].lines).sum::<usize>();
        let free = |p: &&Part| !out.iter().any(|o| o.0.to != p.0.to && uses(units, &o.1, &p.1));
        if let Some(at) = out.iter().filter(free).max_by_key(|p| lines(p)).map(|p| p.0.to.clone()) {
            out.retain(|p| p.0.to != at);
        }
    }
    out
}

/// Something of one part uses something of the other.
fn uses(units: &Units, from: &[usize], to: &[usize]) -> bool {
    units.graph.uses.iter().any(|(a, b)| *a > 0 && from.contains(&(a - 1)) && to.contains(&(b - 1)))
}

/// Definitions at which a part was refused, or which the reasons for that name.
fn unfit(s: &Source, units: &Units, parts: &[Part], plan: &Plan) -> Vec<NodeId> {
    let t = &s.tree;
    let lines = |n: NodeId| (s.line(n), s.lines.line(t.span(n).end.saturating_sub(1)));
    let every = plan.result.reasons.iter().filter(|_| plan.result.is_refused()).map(|r| (None, r));
    let left = plan.result.left_out.iter().map(|(n, r)| (parts.get(n - 1), r));
    let mut out = Vec::new();
    for (part, r) in left.chain(every) {
        let at = |u: &&Unit| {
            r.file == s.path
                && r.line > 1
                && u.statements.iter().any(|n| lines(*n).0 <= r.line && r.line <= lines(*n).1)
        };
        let named = |u: &&Unit| u.names.iter().any(|n| r.message.contains(&format!("`{n}`")));
        let hit: Vec<&Unit> = units.all.iter().filter(at).collect();
        let own = || part.into_iter().flat_map(|p| &p.1).map(|i| &units.all[*i]);
        let hit = if hit.is_empty() { own().filter(named).collect() } else { hit };
        out.extend(hit.into_iter().flat_map(|u| u.statements.iter().copied()));
    }
    out
}

fn proposed(units: &Units, parts: &[Part], plan: &Plan) -> Vec<ProposedFile> {
    let out = &plan.result;
    let each = parts.iter().enumerate().map(|(i, (part, own))| {
        let left: Vec<Reason> = out.left_out.iter().filter(|(n, _)| *n == i + 1).map(|(_, r)| r.clone()).collect();
        let link = out.links.iter().find(|l| matches!(&l.claim, Claim::Moved { to, .. } if *to == part.to));
        let (verdict, reasons) = match link {
            Some(l) => (l.result.verdict, l.result.reasons.clone()),
            None if left.is_empty() => (Verdict::Refused, out.reasons.clone()),
            None => (Verdict::Refused, left),
        };
        let others = || parts.iter().filter(|p| p.0.to != part.to);
        ProposedFile {
            file: part.to.clone(),
            names: part.names.clone(),
            code_lines: own.iter().map(|i| units.all[*i].lines).sum(),
            uses: others().filter(|p| uses(units, own, &p.1)).map(|p| p.0.to.clone()).collect(),
            used_by: others().filter(|p| uses(units, &p.1, own)).map(|p| p.0.to.clone()).collect(),
            used_by_rest: used_by_rest(units, parts, own),
            verdict,
            reasons,
        }
    });
    each.collect()
}

fn used_by_rest(units: &Units, parts: &[Part], own: &[usize]) -> bool {
    let rest = |a: usize| a == 0 || !parts.iter().any(|p| p.1.contains(&(a - 1)));
    units.graph.uses.iter().any(|(a, b)| rest(*a) && own.contains(&(b - 1)))
}

fn stays(units: &Units, parts: &[Part]) -> StaysThere {
    let own: Vec<usize> = (0..units.all.len()).filter(|i| !parts.iter().any(|p| p.1.contains(i))).collect();
    let lines: usize = own.iter().map(|i| units.all[*i].lines).sum();
    StaysThere {
        names: own.iter().flat_map(|i| units.all[*i].names.iter().cloned()).collect(),
        code_lines: lines + units.graph.lines[0],
    }
}
