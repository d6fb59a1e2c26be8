//! `tidy`: what has no effect goes: statements that nothing reaches, what nothing uses, code in comments, comments that only
//! repeat the line below.
//!
//! Each kind has a file that finds its items and says of each whether it is proven to be without effect, or needs a person.
//! What code can't be asked for, such as users outside the project, counts for public names: these are never items.

mod comments;
mod debug;
mod imports;
mod parameters;
mod unreachable;
mod unused;

use std::collections::BTreeMap;
use std::sync::Arc;

use serde::{Deserialize, Serialize};

use super::{Plan, Request, Step};
use crate::change::{Claim, Code, Edits, Found, Outcome, Place, Reason, Verdict, place_of};
use crate::find::Clutter;
use crate::index::Project;
use crate::names::{BindingId, Source};
use crate::plan::lines::with_blank_lines;
use crate::text::{Edit, Span};
use crate::tree::{NodeId, Role, Tree};

/// One thing in the way.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
pub struct Item {
    pub kind: Clutter,
    /// What would go.
    pub place: Place,
    /// In plain words.
    pub what: String,
    /// Why it is left to a person.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub needs: Option<String>,
}

/// An item with the edit that takes it away.
pub(super) struct Candidate {
    kind: Clutter,
    span: Span,
    edit: Edit,
    /// Other places that go with it.
    more: Vec<Edit>,
    /// The statement that goes, for what is one.
    node: Option<NodeId>,
    what: String,
    needs: Option<String>,
    /// The local that it is about: all that gives it a value goes, or none.
    local: Option<BindingId>,
}

/// What a person may edit of a clean-up.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct TidyRequest {
    /// What was asked for, for messages.
    pub finding: String,
    /// What goes.
    pub places: Vec<Place>,
    /// Left-over output may be among it: what the program prints changes.
    #[serde(default)]
    pub debug: bool,
}

impl Step for TidyRequest {
    fn finding(&self) -> &str {
        &self.finding
    }

    fn places(&self) -> &[Place] {
        &self.places
    }

    fn claim(&self) -> Claim {
        Claim::Removed { debug: self.debug }
    }

    fn title(&self, _: &Outcome) -> String {
        format!("Tidy {}", self.finding)
    }

    fn plan(&self, project: &Project) -> Plan {
        Plan::of(project, Request::Tidy(self.clone()), run(project, self))
    }
}

/// What is in the way in a file, in the order in which it stands.
pub fn clutter(project: &Project, file: usize) -> Result<Vec<Item>, String> {
    let s = project.source(file)?;
    let item = |f: Candidate| Item { kind: f.kind, place: place_of(&s, f.span), what: f.what, needs: f.needs };
    Ok(all_of(project, &s).into_iter().map(item).collect())
}

fn all_of(project: &Project, s: &Arc<Source>) -> Vec<Candidate> {
    if !s.tree.errors().is_empty() {
        return Vec::new();
    }
    let mut out = unreachable::found(s);
    out.extend(imports::found(project, s));
    out.extend(unused::locals(s));
    out.extend(unused::functions(project, s));
    out.extend(parameters::found(project, s));
    out.extend(debug::found(s));
    out.extend(comments::found(s));
    out.sort_by_key(|f| (f.span.start, std::cmp::Reverse(f.span.end)));
    // what stands in something that goes is no item of its own
    let mut end = 0;
    out.retain(|f| {
        let free = f.span.start >= end;
        end = if free { f.span.end } else { end };
        free
    });
    emptied(s, &mut out);
    out
}

/// A block that would be left without a statement keeps what it has.
fn emptied(s: &Source, items: &mut [Candidate]) {
    let t = &s.tree;
    let block = |f: &Candidate| f.node.and_then(|n| t.parent(n)).filter(|b| *b != Tree::ROOT);
    let going: Vec<Option<NodeId>> =
        items.iter().map(|f| block(f).filter(|_| f.needs.is_none() && f.kind != Clutter::Unreachable)).collect();
    for (i, b) in going.iter().enumerate() {
        let Some(b) = b else { continue };
        let gone = going.iter().filter(|o| *o == &Some(*b)).count();
        if t.children(*b).filter(|c| t.role(*c) != Role::Doc).count() <= gone {
            items[i].needs = Some("it is all that its block does".into());
        }
    }
    let stays: Vec<(BindingId, String)> = items.iter().filter_map(|f| Some((f.local?, f.needs.clone()?))).collect();
    for f in items.iter_mut().filter(|f| f.needs.is_none()) {
        f.needs = stays.iter().find(|(b, _)| f.local == Some(*b)).map(|(_, why)| why.clone());
    }
}

/// A statement as an item.
fn statement(s: &Source, kind: Clutter, node: NodeId, what: String, needs: Option<String>) -> Candidate {
    let lines = with_blank_lines(s, node);
    Candidate {
        kind,
        span: s.tree.span(node),
        edit: Edit::new(lines.start, lines.end, ""),
        more: Vec::new(),
        node: Some(node),
        what,
        needs,
        local: None,
    }
}

/// Ranges that meet, such as two with the blank line between them, as one.
fn together(mut spans: Vec<Span>) -> Vec<Span> {
    spans.sort();
    let mut out: Vec<Span> = Vec::new();
    for s in spans {
        match out.last_mut().filter(|last| s.start <= last.end) {
            Some(last) => last.end = last.end.max(s.end),
            None => out.push(s),
        }
    }
    out
}

fn run(project: &Project, request: &TidyRequest) -> Found<Outcome> {
    let mut by_file: BTreeMap<&str, Vec<&Place>> = BTreeMap::new();
    request.places.iter().for_each(|p| by_file.entry(&p.file).or_default().push(p));
    let mut edits = Edits::default();
    let mut assumed: Vec<Reason> = Vec::new();
    let mut counts: BTreeMap<Clutter, usize> = BTreeMap::new();
    for places in by_file.values() {
        let s = project.source_at(places[0])?;
        let mut items = all_of(project, &s);
        let mut gone: Vec<Span> = Vec::new();
        for p in places {
            let refuse = |code: Code, message: String| {
                Err(vec![Reason { code, message, file: p.file.clone(), line: p.start_line }])
            };
            let span = Span::new(p.start_byte, p.end_byte);
            let Some(at) = items.iter().position(|f| f.span == span) else {
                return refuse(Code::NoClutter, "nothing here is known to be without effect".into());
            };
            let f = items.swap_remove(at);
            if let Some(why) = f.needs {
                return refuse(Code::NeedsAPerson, format!("{}: {why}", f.what));
            }
            if f.kind == Clutter::Debug {
                if !request.debug {
                    return refuse(Code::NeedsAPerson, format!("{}: the program prints less without it", f.what));
                }
                let message = "what is printed here is not wanted".to_string();
                let (file, line) = (p.file.clone(), p.start_line);
                assumed.push(Reason { code: Code::OutputGone, message, file, line });
            }
            *counts.entry(f.kind).or_default() += 1;
            gone.extend(f.more.iter().chain([&f.edit]).map(|e| e.span));
        }
        for g in together(gone) {
            // no file begins with blank lines
            let blank = s.text[g.end..].split_inclusive('\n').take_while(|l| l.trim().is_empty()).map(str::len);
            let end = if g.start == 0 { g.end + blank.sum::<usize>() } else { g.end };
            edits.add(&s, Edit::new(g.start, end, ""));
        }
    }
    if counts.is_empty() {
        let message = "nothing is chosen to go".to_string();
        return Err(vec![Reason { code: Code::NoClutter, message, file: String::new(), line: 1 }]);
    }
    let (files, saves) = edits.finish();
    let verdict = if assumed.is_empty() { Verdict::Ready } else { Verdict::Assumed };
    let remarks = counts.iter().map(|(k, n)| format!("{n} × {}", k.word())).collect();
    Ok(Outcome { verdict, reasons: assumed, remarks, files, saves, ..Outcome::refused(Vec::new()) })
}
