//! `slide`: statements move within their block, next to their first use or where a person says, past others that do not
//! depend on their order.

use std::slice::from_ref;
use std::sync::Arc;

use serde::{Deserialize, Serialize};

use super::chain::Progress;
use super::{Plan, Request, Step};
use crate::audit::audit;
use crate::change::{Change, Claim, Code, Edits, Found, Link, Outcome, Place, Reason, Verdict, place_of, reason};
use crate::flow::{Conflict, Effects, left_by};
use crate::index::Project;
use crate::index::unseen::lookers;
use crate::names::{BindingId, Reference, Source};
use crate::plan::evaluate::plain_values;
use crate::plan::frame;
use crate::plan::lines::{comments_above, line_end, line_start, whole_lines};
use crate::plan::region::locate;
use crate::text::{Edit, Span};
use crate::tree::{Field, NodeId, Role, Tree};

/// What a person may edit of a slide.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct SlideRequest {
    /// The statements as they were typed, for messages.
    pub finding: String,
    pub place: Place,
    /// The line, from 1, that they come to stand before or after; else they go to their first use.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub before: Option<usize>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub after: Option<usize>,
    /// Below the comments over the line that they come to stand before, which are about them too.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub below_comment: bool,
}

impl Step for SlideRequest {
    fn finding(&self) -> &str {
        &self.finding
    }

    fn places(&self) -> &[Place] {
        from_ref(&self.place)
    }

    fn claim(&self) -> Claim {
        Claim::InTurn
    }

    fn title(&self, _: &Outcome) -> String {
        format!("Slide {}", self.finding)
    }

    fn plan(&self, project: &Project) -> Plan {
        Plan::of(project, Request::Slide(self.clone()), run(project, self))
    }
}

fn run(project: &Project, request: &SlideRequest) -> Found<Outcome> {
    let s = project.ordered_source_at(&request.place)?;
    let t = &s.tree;
    let region = locate(&s, &request.place).map_err(|r| vec![r])?;
    let refuse = |n: NodeId, code: Code, message: &str| Err(vec![reason(&s, n, code, message)]);
    let (first, last) = (region.first, region.last);
    let Some(block) = t.parent(first).filter(|b| t.role(*b).is_sequence() && !region.is_expression) else {
        return refuse(first, Code::NoStatements, "the range covers no whole statements");
    };
    let function = frame::around(project, &s, first).map_err(|r| vec![r])?;
    let all: Vec<NodeId> = t.children(block).filter(|c| t.role(*c) != Role::Doc).collect();
    let i = all.iter().position(|c| *c == first).unwrap_or(0);
    let j = all.iter().position(|c| *c == last).unwrap_or(i);
    let slide = Slide { s: &s, function, all: &all, i, j };
    let to = slide.target(request)?;
    let next = all.get(to).filter(|_| request.before.or(request.after).is_none() && i == j);
    let gets = next.copied().filter(|n| gives_value_to(&s, first, *n));
    let under = |k: usize| request.below_comment && k == j + 1 && slide.head(k).is_some_and(|(above, at)| above < at);
    let stays = (i..=j + 1).contains(&to) && !under(to);
    let cell = || frame::leaves_cell(&s, all[i.min(to)], all[j.max(to).min(all.len() - 1)]);
    if let Some(r) = (function == Tree::ROOT).then(cell).flatten() {
        return Err(vec![r]);
    }
    if stays && gets.is_none() {
        return refuse(first, Code::InPlace, "the statements stand there already");
    }
    let mut at = Progress::new(&s);
    let mut out = Outcome { verdict: Verdict::Ready, ..Outcome::refused(Vec::new()) };
    if !stays {
        let passed: Vec<NodeId> = if to > j { all[j + 1..to].to_vec() } else { all[to..i].to_vec() };
        let called = slide.own().iter().chain(&passed).flat_map(|n| t.subtree(*n));
        if let Some(r) = lookers(project, s.lang).seen_from(&s, called) {
            let message = "this may look at the locals of those that call it, and is called between the two places";
            return Err(vec![Reason { code: Code::Order, message: message.into(), ..r }]);
        }
        let reasons = slide.past(&passed, to > j)?;
        let (files, saves) = slide.edits(to, request.below_comment)?.finish();
        let verdict = if reasons.is_empty() { Verdict::Ready } else { Verdict::Assumed };
        let result = Outcome { verdict, reasons, files, saves, ..Outcome::refused(Vec::new()) };
        at.add(&mut out, project, Link { claim: Claim::Reordered, result })?;
    }
    let place = gets.and_then(|n| at.moved(&place_of(&s, t.span(n))));
    let joined = place.and_then(|p| joined(&at.now, &p));
    // where the two can't be one they stay two
    let right = |o: &Outcome| {
        let change = Change { claim: &Claim::Joined, result: o };
        at.asked(project, |p| match audit(p, &change) {
            Ok(()) => o.clone(),
            Err(reasons) => Outcome::refused(reasons),
        })
    };
    let joined = joined.map(|o| right(&o)).transpose()?;
    match joined.filter(|o| !o.is_refused()) {
        Some(result) => at.add(&mut out, project, Link { claim: Claim::Joined, result })?,
        None if out.links.is_empty() => return refuse(first, Code::InPlace, "the statements stand there already"),
        None => {}
    }
    (out.files, out.saves) = at.finish();
    Ok(out)
}

/// The second statement gives the variable its value that the first one declares without.
fn gives_value_to(s: &Source, declaration: NodeId, next: NodeId) -> bool {
    let t = &s.tree;
    let only = |n: NodeId| {
        let mut parts = t.children(n).filter(|c| t.role(*c) == Role::Assign);
        parts.next().filter(|_| parts.next().is_none())
    };
    let (Some(bare), Some(given)) = (only(declaration), only(next)) else { return false };
    let names = t.child(bare, Field::Left).zip(t.child(given, Field::Left));
    let same = names.is_some_and(|(x, y)| t.role(x) == Role::Name && t.exact(x) == t.exact(y));
    let kinds = t.role(declaration) == Role::Declare && t.role(next) == Role::ExprStmt;
    kinds && same && t.child(bare, Field::Right).is_none()
}

/// The declaration above an assignment, with its value.
fn joined(s: &Arc<Source>, assignment: &Place) -> Option<Outcome> {
    let t = &s.tree;
    let span = Span::new(assignment.start_byte, assignment.end_byte);
    let in_block = |n: &NodeId| t.span(*n) == span && t.parent(*n).is_some_and(|p| t.role(p).is_sequence());
    let given = t.ids().find(in_block)?;
    let declaration = t.children(t.parent(given)?).take_while(|c| *c < given).last()?;
    if !gives_value_to(s, declaration, given) {
        return None;
    }
    let assign = |of: NodeId| t.children(of).find(|c| t.role(*c) == Role::Assign);
    let (bare, name) = (assign(declaration)?, t.child(assign(given)?, Field::Left)?);
    let value = t.child(assign(given)?, Field::Right)?;
    let mut head = s.text[t.span(declaration).start..t.span(bare).end].to_string();
    // the word for what never changes, where this is its only value
    let writes = s.names.at(name).and_then(|r| r.target).map(|b| s.names.binding(b));
    let [once, more] = [true, false].map(|o| s.lang.declaring_word(o));
    let constant = s.lang.needs_types() && t.subtree(value).all(|n| t.role(n) != Role::Name);
    if let Some(rest) = head.strip_prefix(more).filter(|_| !more.is_empty() && !constant) {
        let fixed = writes.is_some_and(|b| b.writes == 2 && !b.rebound_inside);
        head = if fixed { format!("{once}{rest}") } else { head };
    }
    let mut edits = Edits::default();
    let lines = whole_lines(s, t.span(declaration));
    edits.add(s, Edit::new(lines.start, lines.end, ""));
    edits.add(s, Edit::new(t.span(name).start, t.span(name).end, head));
    let (files, saves) = edits.finish();
    Some(Outcome { verdict: Verdict::Ready, files, saves, ..Outcome::refused(Vec::new()) })
}

struct Slide<'a> {
    s: &'a Arc<Source>,
    function: NodeId,
    /// The block's statements.
    all: &'a [NodeId],
    i: usize,
    j: usize,
}

impl Slide<'_> {
    fn own(&self) -> &[NodeId] {
        &self.all[self.i..=self.j]
    }

    /// The number of the statement that they come to stand before.
    fn target(&self, request: &SlideRequest) -> Found<usize> {
        let (s, t) = (self.s, &self.s.tree);
        let lines = |n: NodeId| (s.line(n), s.lines.line(t.span(n).end.max(1) - 1));
        if let Some(line) = request.before.or(request.after) {
            let at = |n: &NodeId| lines(*n).0 == line || request.after.is_some() && lines(*n).1 == line;
            let found = self.all.iter().position(at);
            let Some(k) = found else {
                let message = format!("line {line} is no statement of the same block");
                return Err(vec![reason(s, self.all[self.i], Code::OtherBlock, message)]);
            };
            return Ok(if request.before.is_some() { k } else { k + 1 });
        }
        let effects: Vec<Effects> = self.own().iter().map(|n| Effects::of(s, self.function, *n)).collect();
        // what is declared without a value is no use of it, in some languages
        let bare = |n: &NodeId| t.role(*n) == Role::Declare && t.subtree(*n).all(|c| t.field(c) != Field::Right);
        let declared: Vec<&str> = self
            .own()
            .iter()
            .filter(|n| bare(n))
            .flat_map(|n| t.subtree(*n).filter(|c| t.role(*c) == Role::Name && t.field(*c) == Field::Left))
            .map(|n| s.str(n))
            .collect();
        let named = |n: &NodeId| t.subtree(*n).any(|c| t.role(c) == Role::Name && declared.contains(&s.str(c)));
        let uses = |n: &NodeId| {
            let e = Effects::of(s, self.function, *n);
            named(n) || effects.iter().any(|o| o.writes.iter().any(|b| e.reads.contains(b) || e.writes.contains(b)))
        };
        let next = self.all[self.j + 1..].iter().position(uses);
        next.map(|k| self.j + 1 + k).ok_or_else(|| {
            let message = "nothing later in the block uses what the statements give a value to";
            vec![reason(s, self.all[self.i], Code::NeverUsed, message)]
        })
    }

    /// What must be assumed for passing these; or what stops it.
    fn past(&self, passed: &[NodeId], down: bool) -> Found<Vec<Reason>> {
        let (s, t) = (self.s, &self.s.tree);
        let of = |n: &NodeId| Effects::of(s, self.function, *n);
        let own: Vec<Effects> = self.own().iter().map(of).collect();
        let watched = |a: NodeId| matches!(t.role(a), Role::Try | Role::With);
        let around = t.ancestors(self.all[self.i]).take_while(|a| *a != self.function).find(|a| watched(*a));
        // who gives a variable a value misses nothing where the function ends before
        let only_gives = |e: &Effects| !(e.acts || e.may_fail() || e.prints || e.leaves) && e.perhaps.is_empty();
        let mut perhaps: Vec<NodeId> = Vec::new();
        // from the nearest on, so that what stops it is the first thing in the way
        let ordered: Vec<NodeId> = if down { passed.to_vec() } else { passed.iter().rev().copied().collect() };
        let mut free: Option<NodeId> = None;
        for p in ordered {
            if let Some(name) = self.own().iter().find_map(|o| declared_again(s, *o, p).or(declared_again(s, p, *o))) {
                return Err(vec![reason(
                    s,
                    p,
                    Code::NameHidden,
                    format!("`{name}` is another variable on its other side"),
                )]);
            }
            let e = of(&p);
            let passes_ends = down && around.is_none() && e.leaves && self.only_ends(p) && own.iter().all(only_gives);
            let e = if passes_ends { Effects { leaves: false, ..e } } else { e };
            for o in &own {
                if let Some(c) = o.conflict(&e, true) {
                    return Err(vec![self.stopped(p, &c, free, down)]);
                }
                if o.conflict(&e, false).is_some() {
                    perhaps.extend(o.assumed_with(&e));
                }
            }
            free = Some(p);
        }
        let fails = |e: &Effects| e.may_fail() || !e.perhaps.is_empty();
        if let Some(a) = around.filter(|_| own.iter().any(fails) || passed.iter().any(|p| fails(&of(p)))) {
            return Err(vec![reason(s, a, Code::SeenByHandler, "a handler may see which statement came first")]);
        }
        Ok(plain_values(s, t.outermost(perhaps)))
    }

    /// A statement goes nowhere but to its end, or to the end of the function.
    fn only_ends(&self, statement: NodeId) -> bool {
        let t = &self.s.tree;
        let own = |n: &NodeId| t.callable_around(*n).unwrap_or(Tree::ROOT) == self.function;
        t.subtree(statement).filter(own).all(|n| match t.role(n) {
            Role::Yield | Role::Await | Role::Jump | Role::JumpTarget => false,
            Role::Break | Role::Continue => left_by(t, n).is_some_and(|l| t.contains(statement, l)),
            _ => true,
        })
    }

    fn stopped(&self, at: NodeId, conflict: &Conflict, free: Option<NodeId>, down: bool) -> Reason {
        let s = self.s;
        let why = match conflict {
            Conflict::Local(b) => format!("it has to do with `{}`", s.names.binding(*b).name),
            Conflict::Order => "which of the two comes first can be seen".to_string(),
            Conflict::Leaves => "it may leave the block".to_string(),
        };
        let line = s.line(at);
        let advice = match (free, down) {
            (None, _) => String::new(),
            (Some(_), true) => format!("; `--before {line}` is as far as it goes"),
            (Some(n), false) => format!("; `--before {}` is as far as it goes", s.line(n)),
        };
        reason(s, at, Code::Order, format!("line {line} is in the way: {why}{advice}"))
    }

    /// Where the comments over a statement begin, and its own line; none when it shares that.
    fn head(&self, k: usize) -> Option<(usize, usize)> {
        let (s, start) = (self.s, self.s.tree.span(*self.all.get(k)?).start);
        let at = line_start(&s.text, start);
        s.text[at..start].trim().is_empty().then(|| (comments_above(s, at), at))
    }

    /// The lines with the comments over them, taken from here and put there.
    fn edits(&self, to: usize, below_comment: bool) -> Found<Edits> {
        let (s, t) = (self.s, &self.s.tree);
        let (first, last) = (self.all[self.i], self.all[self.j]);
        let start = line_start(&s.text, t.span(first).start);
        let end = line_end(s, t.span(last).end);
        let shares = |message: &str| vec![reason(s, first, Code::SharedLine, message)];
        let alone = s.text[start..t.span(first).start].trim().is_empty();
        let after = s.text[t.span(last).end..end].trim_start_matches(';').trim_start();
        let comment = t.comments().iter().any(|c| s.text[..c.start].len() == end - after.len());
        if !alone || !after.is_empty() && !comment || !s.text[end..].starts_with(['\n', '\r']) {
            return Err(shares("the statements share a line with others"));
        }
        let start = comments_above(s, start);
        let mut cut = end + s.text[end..].find('\n').map_or(0, |k| k + 1);
        let lines = s.text[start..cut].to_string();
        // one of two blank lines around them goes along
        let first_of_block = self.i == 0;
        let blank_above = s.text[..start].ends_with("\n\n") || s.text[..start].ends_with("\n\r\n") || first_of_block;
        let below = s.text[cut..].split_inclusive('\n').next().filter(|l| l.trim().is_empty() && blank_above);
        cut += below.map_or(0, str::len);
        let place = match self.all.get(to) {
            Some(_) => {
                let head = self.head(to).ok_or_else(|| shares("the place shares a line with another statement"))?;
                if below_comment { head.1 } else { head.0 }
            }
            None => {
                let e = line_end(s, t.span(*self.all.last().unwrap_or(&Tree::ROOT)).end);
                match s.text[e..].find('\n') {
                    Some(k) => e + k + 1,
                    None => return Err(shares("the last line of the file has no end")),
                }
            }
        };
        let mut edits = Edits::default();
        edits.add(s, Edit::new(start, cut, ""));
        edits.add(s, Edit::new(place, place, lines));
        Ok(edits)
    }
}

/// A name that one statement declares and another one has for something else.
fn declared_again(s: &Source, user: NodeId, declaration: NodeId) -> Option<&str> {
    let t = &s.tree;
    let all = |n: NodeId| s.names.in_range(n, t.end(n));
    let new =
        |b: BindingId| s.names.binding(b).seen_from.is_some() && t.contains(declaration, s.names.binding(b).first);
    let declared: Vec<BindingId> = all(declaration).iter().filter_map(|r| r.target).filter(|b| new(*b)).collect();
    let other = |r: &&Reference| {
        let same = |b: &&BindingId| s.names.binding(**b).name == s.str(r.node) && Some(**b) != r.target;
        declared.iter().any(|b| same(&b))
    };
    all(user).iter().find(other).map(|r| s.str(r.node))
}
