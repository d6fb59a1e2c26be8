//! `split-loop`: some statements of a loop's body go into a loop of their own behind it.
//!
//! Each of them comes to run after what stays in all later turns, so that none may have to do with what stays; and what the
//! loop goes through, or counts, must be the same a second time.

use std::collections::BTreeSet;
use std::slice::from_ref;
use std::sync::Arc;

use serde::{Deserialize, Serialize};

use super::{Plan, Request, Step};
use crate::change::{Claim, Code, Edits, Found, Outcome, Place, Reason, Verdict, reason};
use crate::flow::{Conflict, Effects};
use crate::index::Project;
use crate::index::again::{Again, again};
use crate::names::{BindingId, Source};
use crate::plan::evaluate::plain_values;
use crate::plan::frame;
use crate::plan::lines::{comments_above, line_end, line_start};
use crate::text::Edit;
use crate::tree::{Field, NodeId, Role, Tree};

/// What a person may edit of a loop's split.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct SplitLoopRequest {
    /// The loop as it was typed, for messages.
    pub finding: String,
    /// Its first line.
    pub place: Place,
    /// Lines of its body that go, each run from its first to its last, from 1.
    pub lines: Vec<(usize, usize)>,
}

impl Step for SplitLoopRequest {
    fn finding(&self) -> &str {
        &self.finding
    }

    fn places(&self) -> &[Place] {
        from_ref(&self.place)
    }

    fn claim(&self) -> Claim {
        Claim::Divided
    }

    fn title(&self, _: &Outcome) -> String {
        format!("Split the loop at {}", self.finding)
    }

    fn plan(&self, project: &Project) -> Plan {
        Plan::of(project, Request::SplitLoop(self.clone()), run(project, self))
    }
}

fn run(project: &Project, request: &SplitLoopRequest) -> Found<Outcome> {
    let s = project.ordered_source_at(&request.place)?;
    let t = &s.tree;
    let refuse = |n: NodeId, code: Code, message: &str| Err(vec![reason(&s, n, code, message)]);
    let at = t.covering(crate::text::Span::new(request.place.start_byte, request.place.end_byte));
    let begins = |n: &NodeId| t.role(*n).is_loop() && s.line(*n) == request.place.start_line;
    let Some(loop_) = t.ids().find(begins) else { return refuse(at, Code::NoLoop, "no loop begins at this line") };
    let fixed = matches!(t.role(loop_), Role::For | Role::CountedFor);
    let waits = t.children(loop_).any(|c| t.role(c) == Role::AsyncMark);
    if !fixed || waits {
        return refuse(loop_, Code::NoLoop, "how often this loop turns is decided by what happens in it");
    }
    let function = frame::around(project, &s, loop_).map_err(|r| vec![r])?;
    if let Some(r) = (function == Tree::ROOT).then(|| frame::leaves_cell(&s, loop_, loop_)).flatten() {
        return Err(vec![r]);
    }
    let labelled = t.parent(loop_).is_some_and(|p| !t.role(p).is_sequence());
    if labelled || t.children(loop_).any(|c| t.role(c) == Role::Else) {
        return refuse(loop_, Code::LeavesLoop, "the loop has a label, a part for when it ends, or no block around it");
    }
    let Some(body) = t.child(loop_, Field::Body).filter(|b| t.role(*b) == Role::Block) else {
        return refuse(loop_, Code::NoStatements, "the loop's body is no block");
    };
    let divided = Divided::new(&s, function, loop_, body, &request.lines)?;
    let mut assumed = divided.apart()?;
    assumed.extend(divided.head(project)?);
    assumed.sort_by(|a, b| (a.line, &a.code, &a.message).cmp(&(b.line, &b.code, &b.message)));
    assumed.dedup();
    let (files, saves) = divided.edits()?.finish();
    let verdict = if assumed.is_empty() { Verdict::Ready } else { Verdict::Assumed };
    Ok(Outcome { verdict, reasons: assumed, files, saves, ..Outcome::refused(Vec::new()) })
}

struct Divided<'a> {
    s: &'a Arc<Source>,
    function: NodeId,
    loop_: NodeId,
    body: NodeId,
    stays: Vec<NodeId>,
    goes: Vec<NodeId>,
}

impl<'a> Divided<'a> {
    fn new(s: &'a Arc<Source>, function: NodeId, loop_: NodeId, body: NodeId, lines: &[(usize, usize)]) -> Found<Self> {
        let t = &s.tree;
        let asked: BTreeSet<usize> = lines.iter().flat_map(|(a, z)| *a..=(*z).min(s.lines.count(&s.text))).collect();
        let own = |n: NodeId| s.line(n)..=s.lines.line(t.span(n).end.max(1) - 1);
        let all: Vec<NodeId> = t.children(body).filter(|c| t.role(*c) != Role::Token).collect();
        let (goes, stays): (Vec<NodeId>, Vec<NodeId>) =
            all.into_iter().partition(|c| own(*c).all(|l| asked.contains(&l)));
        let refuse = |n: NodeId, code: Code, message: &str| Err(vec![reason(s, n, code, message)]);
        if let Some(n) = stays.iter().find(|c| own(**c).any(|l| asked.contains(&l))) {
            return refuse(*n, Code::NoStatements, "the lines cover a part of this statement");
        }
        let statement = |l: &&usize| goes.iter().any(|c| own(*c).contains(*l));
        let empty = |l: &&usize| {
            let from = s.lines.start_of(**l).unwrap_or(s.text.len());
            let line = s.text[from..].lines().next().unwrap_or("").trim();
            let comment =
                t.comments().iter().any(|c| s.lines.line(c.start) == **l && s.text[c.start..].starts_with(line));
            line.is_empty() || comment
        };
        if let Some(l) = asked.iter().find(|l| !statement(l) && !empty(l)) {
            return refuse(loop_, Code::NoStatements, &format!("line {l} is no statement of the loop's body"));
        }
        match (goes.first(), stays.first()) {
            (Some(_), Some(_)) => Ok(Divided { s, function, loop_, body, stays, goes }),
            _ => refuse(loop_, Code::NoStatements, "some statements of the body must go, and some must stay"),
        }
    }

    /// What must be assumed so that nothing which goes has to do with what stays.
    fn apart(&self) -> Found<Vec<Reason>> {
        let (s, t) = (self.s, &self.s.tree);
        let of = |n: &NodeId| (*n, Effects::of(s, self.function, *n));
        if let Some(n) = self.stays.iter().chain(&self.goes).find(|n| t.role(**n).is_definition()) {
            return Err(vec![reason(s, *n, Code::Order, "a function or class is made here in each turn")]);
        }
        let (stay, go): (Vec<_>, Vec<_>) = (self.stays.iter().map(of).collect(), self.goes.iter().map(of).collect());
        let mut perhaps: Vec<NodeId> = Vec::new();
        if let Some((n, _)) = stay.iter().chain(&go).find(|(_, e)| e.leaves) {
            return Err(vec![reason(s, *n, Code::LeavesLoop, "it may leave the loop, or the turn")]);
        }
        for (n, o) in &go {
            for (p, e) in &stay {
                if let Some(c) = o.conflict(e, true) {
                    return Err(vec![self.stopped(*n, *p, &c)]);
                }
                if o.conflict(e, false).is_some() {
                    perhaps.extend(o.assumed_with(e));
                }
            }
        }
        let fails = |e: &Effects| e.may_fail() || !e.perhaps.is_empty();
        let watched = |a: &NodeId| matches!(t.role(*a), Role::Try | Role::With);
        let around = t.ancestors(self.loop_).take_while(|a| *a != self.function).find(watched);
        if let Some(a) = around.filter(|_| stay.iter().chain(&go).any(|(_, e)| fails(e))) {
            return Err(vec![reason(s, a, Code::SeenByHandler, "a handler may see which of the two loops came first")]);
        }
        Ok(plain_values(s, t.outermost(perhaps)))
    }

    fn stopped(&self, goes: NodeId, stays: NodeId, conflict: &Conflict) -> Reason {
        let s = self.s;
        let (a, b) = (s.line(goes), s.line(stays));
        let why = match conflict {
            Conflict::Local(l) => format!("both have to do with `{}`", s.names.binding(*l).name),
            Conflict::Order => "which of the two comes first can be seen".to_string(),
            Conflict::Leaves => "it may leave the loop".to_string(),
        };
        reason(s, goes, Code::Order, format!("line {a} can't run after all turns of line {b}: {why}"))
    }

    /// What must be assumed so that the loop turns as often, and over the same, a second time.
    fn head(&self, project: &Project) -> Found<Vec<Reason>> {
        let (s, t) = (self.s, &self.s.tree);
        let head: Vec<NodeId> =
            t.children(self.loop_).filter(|c| *c != self.body && t.role(*c) != Role::Token).collect();
        let written = |n: NodeId| {
            let names = s.names.in_range(n, t.end(n)).iter().filter(|r| r.usage.writes());
            names.filter_map(|r| r.target).collect::<Vec<BindingId>>()
        };
        let counted = t.role(self.loop_) == Role::CountedFor;
        let begins = |n: &NodeId| t.field(*n) == if counted { Field::Init } else { Field::Left };
        let own: Vec<BindingId> = head.iter().filter(|n| begins(n)).flat_map(|n| written(*n)).collect();
        let others = head.iter().flat_map(|n| written(*n).into_iter().map(|b| (*n, b)));
        if let Some((n, _)) = others.into_iter().find(|(_, b)| !own.contains(b)) {
            return Err(vec![reason(s, n, Code::EvaluatedAgain, "the loop changes what it does not begin with")]);
        }
        let (mut assumed, mut perhaps) = (Vec::new(), Vec::new());
        let statements: Vec<NodeId> = self.stays.iter().chain(&self.goes).copied().collect();
        let effects: Vec<Effects> = statements.iter().map(|n| Effects::of(s, self.function, *n)).collect();
        if let Some(i) = effects.iter().position(|e| e.writes.iter().any(|b| own.contains(b))) {
            return Err(vec![reason(s, statements[i], Code::Order, "the loop's own variable gets a value here")]);
        }
        for n in head.iter().filter(|n| t.field(**n) != Field::Left) {
            let mut e = Effects::of_part(s, self.function, self.loop_, *n);
            e.reads.retain(|b| !own.contains(b));
            e.writes.retain(|b| !own.contains(b));
            if t.field(*n) == Field::Right && !counted {
                match again(project, s, *n) {
                    Again::No(bad) => {
                        let message = "the loop would compute this twice; make a variable of it first";
                        return Err(vec![reason(s, bad, Code::EvaluatedAgain, message)]);
                    }
                    Again::Fixed => {
                        // numbers that others may set
                        let names = t.subtree(*n).filter(|x| t.role(*x) == Role::Name && t.field(*x) != Field::Callee);
                        let of = |x: NodeId| Effects::of_part(s, self.function, self.loop_, x);
                        let sees = names.into_iter().any(|x| of(x).sees);
                        e = Effects { reads: e.reads, sees, ..Effects::default() };
                    }
                    Again::Seen(of) => {
                        let message = |n: NodeId| format!("`{}` can be gone through a second time", s.str(n));
                        assumed.extend(of.into_iter().map(|n| reason(s, n, Code::GoneThroughAgain, message(n))));
                        e = Effects { reads: e.reads, sees: true, ..Effects::default() };
                    }
                }
            } else if e.acts || e.prints || e.leaves {
                return Err(vec![reason(s, *n, Code::EvaluatedAgain, "the loop would do this twice")]);
            }
            for (i, o) in effects.iter().enumerate() {
                if e.conflict(o, true).is_some() {
                    let message = "what the loop goes through or counts may change here";
                    return Err(vec![reason(s, statements[i], Code::Order, message)]);
                }
                if e.conflict(o, false).is_some() {
                    perhaps.extend(e.assumed_with(o));
                }
            }
            perhaps.extend(e.perhaps);
        }
        assumed.extend(plain_values(s, t.outermost(perhaps)));
        Ok(assumed)
    }

    /// The lines of those that go, with the comments over them, in a loop like this behind it.
    fn edits(&self) -> Found<Edits> {
        let (s, t) = (self.s, &self.s.tree);
        let shares = |n: NodeId| vec![reason(s, n, Code::SharedLine, "the statement shares a line with other code")];
        let lines_of = |n: NodeId| -> Found<(usize, usize)> {
            let start = line_start(&s.text, t.span(n).start);
            let end = line_end(s, t.span(n).end);
            let after = s.text[t.span(n).end..end].trim_start_matches(';').trim_start();
            let comment = t.comments().iter().any(|c| c.start == end - after.len());
            let alone = s.text[start..t.span(n).start].trim().is_empty() && (after.is_empty() || comment);
            let broken = s.text[end..].starts_with(['\n', '\r']) || end == s.text.len();
            if !alone || !broken {
                return Err(shares(n));
            }
            let cut = s.text[end..].find('\n').map_or(s.text.len(), |k| end + k + 1);
            Ok((comments_above(s, start), cut))
        };
        let all: Vec<NodeId> = t.children(self.body).filter(|c| t.role(*c) != Role::Token).collect();
        let from = line_start(&s.text, t.span(self.loop_).start);
        let first = lines_of(all[0])?.0;
        let end = line_end(s, t.span(self.loop_).end);
        // what closes a body that something closes: a bracket of its own, or a word behind it
        let (body, whole) = (t.span(self.body), t.span(self.loop_));
        let braces = s.text[body.start..body.end].starts_with('{') || body.end < whole.end;
        let closing = if braces { line_start(&s.text, whole.end - 1) } else { end };
        if !s.text[from..t.span(self.loop_).start].trim().is_empty()
            || braces && closing < lines_of(all[all.len() - 1])?.1
        {
            return Err(shares(self.loop_));
        }
        let break_ = if s.text.contains("\r\n") { "\r\n" } else { "\n" };
        let mut new = s.text[from..first].to_string();
        let mut edits = Edits::default();
        for n in &self.goes {
            let (start, mut cut) = lines_of(*n)?;
            let lines = &s.text[start..cut];
            new.push_str(lines);
            if !lines.ends_with('\n') {
                new.push_str(break_);
            }
            // one of two blank lines around it goes along
            let above = s.text[..start].trim_end_matches([' ', '\t']).ends_with("\n\n") || *n == all[0];
            let within = above && cut < end;
            let below = s.text[cut..].split_inclusive('\n').next().filter(|l| l.trim().is_empty() && within);
            cut += below.map_or(0, str::len);
            edits.add(s, Edit::new(start, cut, ""));
        }
        let new = match braces {
            true => new + s.text[closing..end].trim_end(),
            false => new.trim_end().to_string(),
        };
        match s.text[end..].find('\n') {
            Some(k) => edits.add(s, Edit::new(end + k + 1, end + k + 1, new + break_)),
            // a file's last line without an end, which goes or stays
            None if braces => edits.add(s, Edit::new(end, end, format!("{break_}{new}"))),
            None => return Err(shares(self.loop_)),
        }
        Ok(edits)
    }
}
