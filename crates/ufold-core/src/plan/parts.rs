//! Where an overlong function wants to be cut: runs of statements that are worth a function of their own.
//!
//! Each run of neighbours in a block has a worth: the lines and the tangle that go with it, the names that it hides, and
//! the comment or blank line at which an author parts one thing from the next, less what its interface costs and the ways
//! by which control crosses its border. The best set of runs that do not overlap is found by dynamic programming over the
//! blocks, from the inside out, so that a loop and its body are both weighed. What it can't see is meaning: a run that an
//! author would not cut there may still be cheap. Whether a run can be taken out is the planner's word; one that can't is
//! handed back in `refused`, and the next best are found.
//!
//! Cost: runs of a block times what the flow of each takes; blocks with many statements are looked at in short runs.

use std::sync::Arc;

use rustc_hash::{FxHashMap, FxHashSet};

use crate::flow::{Flow, RegionFlow};
use crate::names::{BindKind, BindingId, Names, Source};
use crate::plan::things::{Shared, things, things_of_loop};
use crate::text::Span;
use crate::tree::{Field, NodeId, Role};

/// What counts for and against a run, in lines' worth.
mod weight {
    /// Being a function at all: a head, a call, a name to be understood.
    pub const FUNCTION: f64 = 4.5;
    /// A line of code that goes, up to `FULL_LINES`.
    pub const LINE: f64 = 0.35;
    pub const FULL_LINES: f64 = 25.0;
    /// A line over the length from which the part is overlong itself; a run of statements that call the same is read at
    /// a glance, however long it is.
    pub const LINE_OVER: f64 = 0.3;
    pub const OVERLONG: f64 = 25.0;
    /// All of the function: a part of more than half of it only moves the matter to another place.
    pub const WHOLE: f64 = 24.0;
    /// How much less a line counts for that whose statement calls what the one before it calls.
    pub const ALIKE_SHARE: f64 = 0.7;
    /// A branch or loop that goes, up to `FULL_BRANCHES`.
    pub const BRANCH: f64 = 0.5;
    pub const FULL_BRANCHES: f64 = 8.0;
    /// A name that comes in: the first few, those after them, and each that is more.
    pub const INPUTS: [(usize, f64); 3] = [(3, 0.6), (5, 1.0), (usize::MAX, 2.5)];
    /// A function of the function around it that comes in.
    pub const CALLABLE: f64 = 2.5;
    /// What is left of the function only prepares the call, or gives on what it gives.
    pub const NOTHING_LEFT: f64 = -5.0;
    /// A result more than one, and where a function gives one only.
    pub const RESULT_OVER: f64 = 2.5;
    pub const RESULT_BUNDLED: f64 = 8.0;
    /// A variable that goes on from one turn of the loop around it to the next, with another value.
    pub const CARRIED: f64 = 1.5;
    /// A result that was given to it as it is.
    pub const HANDED_BACK: f64 = 4.0;
    /// A name that only the run knows.
    pub const HIDDEN: f64 = 0.6;
    pub const MOST_HIDDEN: f64 = 2.4;
    /// A comment over it, a blank line before or behind it, and a border where there is neither.
    pub const COMMENT: f64 = 4.0;
    pub const BLANK: f64 = 1.5;
    pub const NO_BORDER: f64 = -1.5;
    /// What is on both sides has nothing in common.
    pub const APART: f64 = 0.5;
    /// What is on both sides of a border does the same kind of thing.
    pub const ALIKE: f64 = -6.0;
    /// The end of a block.
    pub const END: f64 = 1.0;
    /// Another thing begins inside, and an author said so, or only left a blank line.
    pub const COMMENT_INSIDE: f64 = -4.0;
    pub const BLANK_INSIDE: f64 = -1.2;
    /// It does a thing more that has nothing to do with the others.
    pub const ANOTHER_THING: f64 = -2.5;
    /// It returns, or leaves a loop, on some ways only.
    pub const CROSSED: f64 = -4.0;
}

/// Code lines under which a run is no part, with a comment over it and without.
const FEWEST_LINES: usize = 4;
const FEWEST_UNHEADED: usize = 5;

/// Share of the function's lines above which nothing would be left of it.
const MOST_SHARE: f64 = 0.8;

/// Statements of the longest run that is looked at.
const LONGEST_RUN: usize = 40;

/// Runs of a function that are looked at.
const MOST_RUNS: usize = 4000;

/// A run of statements that is worth a function.
#[derive(Clone, Debug)]
pub(crate) struct Part {
    pub first: NodeId,
    pub last: NodeId,
    /// What it is worth, in lines.
    pub worth: f64,
    /// The loop around it whose whole was weighed, or the body that was weighed for the whole loop: worth less.
    pub instead: Option<Span>,
}

/// Runs by their first and last statement.
pub(crate) type Runs = FxHashSet<(NodeId, NodeId)>;

/// The best parts of a function without those that were refused, in the order in which they stand.
pub(crate) fn parts(source: &Source, function: NodeId, refused: &Runs) -> Vec<Part> {
    let t = &source.tree;
    let Some(body) = t.child(function, Field::Body).filter(|b| t.role(*b) == Role::Block) else { return Vec::new() };
    let code = code_lines(source);
    let lines = code.count(source, t.span(body));
    let mut cut =
        Cut { source, function, refused, code, lines, runs: 0, flows: FxHashMap::default(), shared: Shared::default() };
    let mut out = cut.block(body).parts;
    out.sort_by_key(|p| p.first);
    out
}

/// Lines with code up to each line.
struct CodeLines(Vec<u32>);

impl CodeLines {
    fn count(&self, source: &Source, span: Span) -> usize {
        let (a, z) = (source.lines.line(span.start), source.lines.line(span.end.max(span.start + 1) - 1));
        (self.0[z] - self.0[a - 1]) as usize
    }
}

fn code_lines(source: &Source) -> CodeLines {
    let t = &source.tree;
    let mut has = vec![0u32; source.lines.line(source.text.len()) + 1];
    for n in t.ids().filter(|n| t.is_leaf(*n)) {
        let span = t.span(n);
        let (a, z) = (source.lines.line(span.start), source.lines.line(span.end.max(span.start + 1) - 1));
        has[a..=z].iter_mut().for_each(|l| *l = 1);
    }
    let mut sum = 0;
    has.iter_mut().for_each(|l| {
        sum += *l;
        *l = sum;
    });
    CodeLines(has)
}

/// Something of a function is left when these ranges go to another one.
pub(crate) fn leaves_enough(source: &Source, function: NodeId, gone: &[Span]) -> bool {
    let code = code_lines(source);
    let body = source.tree.child(function, Field::Body).unwrap_or(function);
    let lines: usize = gone.iter().map(|g| code.count(source, *g)).sum();
    lines as f64 <= MOST_SHARE * code.count(source, source.tree.span(body)) as f64
}

/// Lines with code in a range.
pub(crate) fn code_lines_of(source: &Source, span: Span) -> usize {
    code_lines(source).count(source, span)
}

#[derive(Default)]
struct Best {
    worth: f64,
    parts: Vec<Part>,
}

struct Cut<'a> {
    source: &'a Source,
    function: NodeId,
    refused: &'a Runs,
    code: CodeLines,
    /// Code lines of the body.
    lines: usize,
    runs: usize,
    flows: FxHashMap<NodeId, Arc<Flow>>,
    shared: Shared,
}

impl Cut<'_> {
    /// The best parts in a block: the last statement stays, or ends a part.
    fn block(&mut self, block: NodeId) -> Best {
        let t = &self.source.tree;
        let all: Vec<NodeId> = t.children(block).filter(|c| t.role(*c) != Role::Doc).collect();
        let mut best: Vec<(f64, Option<usize>)> = vec![(0.0, None)];
        let inside: Vec<Best> = all.iter().map(|s| self.inside(*s)).collect();
        let mut ends: Vec<Option<Part>> = vec![None];
        for (j, last) in all.iter().enumerate() {
            let (mut worth, mut from, mut part) = (best[j].0 + inside[j].worth, None, None);
            for i in (j.saturating_sub(LONGEST_RUN - 1)..=j).rev() {
                let within: f64 = inside[i..=j].iter().map(|b| b.worth).sum();
                let Some(own) = self.worth(&all, i, j).filter(|w| *w > within.max(0.0)) else { continue };
                if best[i].0 + own > worth {
                    (worth, from) = (best[i].0 + own, Some(i));
                    let instead = (i == j).then(|| inside[j].parts.first()).flatten();
                    let instead = instead.map(|p| Span::new(t.span(p.first).start, t.span(p.last).end));
                    part = Some(Part { first: all[i], last: *last, worth: own, instead });
                }
            }
            best.push((worth, from));
            ends.push(part);
        }
        let mut out = Best { worth: best[all.len()].0, parts: Vec::new() };
        let mut at = all.len();
        let mut inside: Vec<Option<Best>> = inside.into_iter().map(Some).collect();
        while at > 0 {
            match best[at].1 {
                Some(from) => {
                    out.parts.extend(ends[at].take());
                    at = from;
                }
                None => {
                    out.parts.extend(inside[at - 1].take().map_or(Vec::new(), |b| b.parts));
                    at -= 1;
                }
            }
        }
        out
    }

    /// The best parts in the blocks of a statement; functions in it are their own matter.
    fn inside(&mut self, statement: NodeId) -> Best {
        let t = &self.source.tree;
        let mut out = Best::default();
        let (mut at, stop) = (statement, t.end(statement));
        while at < stop {
            if matches!(t.role(at), Role::Function | Role::Lambda | Role::Class) {
                at = t.end(at);
                continue;
            }
            if t.role(at).is_sequence() {
                let best = self.block(at);
                let around = (t.role(statement).is_loop() && self.fits(statement)).then(|| t.span(statement));
                out.worth += best.worth;
                out.parts.extend(best.parts.into_iter().map(|p| Part { instead: p.instead.or(around), ..p }));
                at = t.end(at);
                continue;
            }
            at = NodeId(at.0 + 1);
        }
        out
    }

    fn fits(&self, statement: NodeId) -> bool {
        let lines = self.code.count(self.source, self.source.tree.span(statement));
        lines as f64 <= MOST_SHARE * self.lines as f64
    }

    /// What a run of a block's statements is worth; none when it can't be a part.
    fn worth(&mut self, all: &[NodeId], i: usize, j: usize) -> Option<f64> {
        let (s, t) = (self.source, &self.source.tree);
        let (first, last) = (all[i], all[j]);
        let all_lines = self.code.count(s, Span::new(t.span(first).start, t.span(last).end));
        let lines = all_lines.saturating_sub(self.lines_of_functions(first, last));
        let fewest = if has_heading(s, first) { FEWEST_LINES } else { FEWEST_UNHEADED };
        let alike = self.lines_alike(&all[i..=j]);
        let counted = lines as f64 - weight::ALIKE_SHARE * alike as f64;
        if lines < fewest || counted > MOST_SHARE * self.lines as f64 || self.runs > MOST_RUNS {
            return None;
        }
        if self.refused.contains(&(first, last)) || t.role(first).is_definition() || t.role(last).is_definition() {
            return None;
        }
        self.runs += 1;
        let key = t.ancestors(first).take_while(|a| *a != self.function).find(|a| t.role(*a) == Role::Finally);
        let function = self.function;
        let flow = self.flows.entry(key.unwrap_or(function)).or_insert_with(|| Flow::of(s, function, first)).clone();
        let region = flow.region(t, &s.names, first, last)?;
        if region.unreachable.is_some() || !region.deleted.is_empty() || !region.unbound_after.is_empty() {
            return None;
        }
        let left = if self.leaves_plain(all, i, j) { weight::NOTHING_LEFT } else { 0.0 };
        let worth = left
            + self.size((lines, alike), first, last)
            + self.interface(&region, first, last)
            + self.borders(all, (i, j), &region)
            + self.cohesion(&all[i..=j])
            - weight::FUNCTION;
        Some(worth)
    }

    /// How much a run, and the body of each loop in it, is one thing.
    fn cohesion(&mut self, run: &[NodeId]) -> f64 {
        let s = self.source;
        let loops = run.iter().filter(|l| s.tree.role(**l).is_loop());
        let inside: usize = loops.map(|l| things_of_loop(s, *l, &mut self.shared).len().saturating_sub(1)).sum();
        let things = things(s, run, &mut self.shared).len().saturating_sub(1);
        weight::ANOTHER_THING * (things + inside) as f64
    }

    /// All else that the function does is to give variables their values, and to return.
    fn leaves_plain(&self, all: &[NodeId], i: usize, j: usize) -> bool {
        let t = &self.source.tree;
        let plain = |n: NodeId| match t.role(n) {
            Role::Return | Role::Declare | Role::Pass => true,
            Role::ExprStmt => t.children(n).all(|c| t.role(c) == Role::Assign || t.role(c) == Role::Token),
            _ => false,
        };
        let of_function = t.parent(all[i]).and_then(|b| t.parent(b)) == Some(self.function);
        of_function && all[..i].iter().chain(&all[j + 1..]).all(|n| plain(*n))
    }

    /// Lines of statements that call what the one before them calls.
    fn lines_alike(&self, run: &[NodeId]) -> usize {
        let t = &self.source.tree;
        let alike = run.windows(2).filter(|w| self.is_alike(w[0], w[1]));
        alike.map(|w| self.code.count(self.source, t.span(w[1]))).sum()
    }

    fn size(&self, (lines, alike): (usize, usize), first: NodeId, last: NodeId) -> f64 {
        let t = &self.source.tree;
        let (lines, alike) = (lines as f64, alike as f64);
        let share = ((lines - weight::ALIKE_SHARE * alike) / self.lines as f64 - 0.5).max(0.0);
        let nodes = (first.0..t.end(last).0).map(NodeId).filter(|n| !self.is_made_only(*n, first));
        let branches = nodes.filter(|n| {
            let role = t.role(*n);
            role.is_loop() || matches!(role, Role::If | Role::Elif | Role::Except | Role::Case | Role::Conditional)
        });
        weight::LINE * lines.min(weight::FULL_LINES)
            - weight::LINE_OVER * (lines - alike - weight::OVERLONG).max(0.0)
            - weight::WHOLE * share
            + weight::BRANCH * (branches.count() as f64).min(weight::FULL_BRANCHES)
    }

    /// A function that is given a name there is cut already: what is in it is not this function's matter.
    fn is_named_function(&self, n: NodeId) -> bool {
        let t = &self.source.tree;
        let held =
            t.parent(n).is_some_and(|p| matches!(t.role(p), Role::Assign | Role::Pair) && t.field(n) != Field::Left);
        t.role(n) == Role::Function || t.role(n) == Role::Lambda && held && t.holds_statements(n)
    }

    fn is_made_only(&self, n: NodeId, first: NodeId) -> bool {
        let t = &self.source.tree;
        t.ancestors(n).take_while(|a| *a >= first).any(|a| self.is_named_function(a))
    }

    fn lines_of_functions(&self, first: NodeId, last: NodeId) -> usize {
        let t = &self.source.tree;
        let (mut at, mut lines) = (first, 0);
        while at < t.end(last) {
            if self.is_named_function(at) {
                lines += t.child(at, Field::Body).map_or(0, |b| self.code.count(self.source, t.span(b)));
                at = t.end(at);
            } else {
                at = NodeId(at.0 + 1);
            }
        }
        lines
    }

    fn interface(&self, region: &RegionFlow, first: NodeId, last: NodeId) -> f64 {
        let (s, t) = (self.source, &self.source.tree);
        let taken = |b: &&BindingId| !s.lang.is_receiver(&s.names.binding(**b).name);
        let inputs = region.ins.iter().filter(taken).count();
        let of_input = |n: usize| weight::INPUTS.iter().find(|(most, _)| n < *most).map_or(0.0, |(_, w)| *w);
        let made = region.ins.iter().filter(|b| s.names.binding(**b).kind == BindKind::Function).count();
        let taking: f64 = (0..inputs).map(of_input).sum::<f64>() + weight::CALLABLE * made as f64;
        let results = region.outs.len();
        let over_one = match s.lang.needs_result_type() {
            true => weight::RESULT_BUNDLED,
            false => weight::RESULT_OVER,
        };
        let stop = t.end(last);
        let own = |b: &&BindingId| s.names.references_to(**b).all(|r| r.node >= first && r.node < stop);
        let hidden = region.written.iter().filter(own).count() as f64;
        let back = self.handed_back(region, last);
        let around = t.ancestors(first).take_while(|a| *a != self.function).find(|a| t.role(*a).is_loop());
        let outside = |b: &BindingId| around.is_some_and(|l| !t.contains(l, s.names.binding(*b).first));
        let carried = region.outs.iter().filter(|b| region.ins.contains(b) && outside(b)).count();
        let leaves = &region.exits;
        let crossed = !leaves.returns.is_empty() && region.falls_through || !leaves.breaks.is_empty();
        let crossings = usize::from(crossed) + usize::from(!leaves.yields.is_empty());
        (weight::HIDDEN * hidden).min(weight::MOST_HIDDEN) - taking - over_one * results.saturating_sub(1) as f64
            + weight::CROSSED * crossings as f64
            - weight::HANDED_BACK * f64::from(u8::from(back))
            - weight::CARRIED * carried as f64
    }

    /// It ends by returning a variable that comes in and that it does nothing to, alone or among others.
    fn handed_back(&self, region: &RegionFlow, last: NodeId) -> bool {
        let (s, t) = (self.source, &self.source.tree);
        let listed = |n: NodeId| matches!(t.role(n), Role::Tuple | Role::List | Role::Dict | Role::Pair | Role::Paren);
        let whole = |n: &NodeId| t.ancestors(*n).take_while(|a| *a != last).all(listed);
        let names = t.subtree(last).filter(|n| t.role(*n) == Role::Name && t.field(*n) != Field::Callee && whole(n));
        let kept = |b: &BindingId| region.ins.contains(b) && !region.written.contains(b);
        t.role(last) == Role::Return
            && names.into_iter().any(|n| s.names.at(n).and_then(|r| r.target).is_some_and(|b| kept(&b)))
    }

    /// How clearly an author parted the run from what stands around it.
    fn borders(&mut self, all: &[NodeId], (i, j): (usize, usize), region: &RegionFlow) -> f64 {
        let before = match i {
            0 => self.gap_before(all[0]).max(0.0),
            _ => self.border(all[i - 1], all[i]),
        };
        let t = &self.source.tree;
        let leaves = |n: NodeId| {
            matches!(t.role(n), Role::Return | Role::Break | Role::Continue) || self.gathers(n, &region.written)
        };
        let after = match all.get(j + 1).copied() {
            None => weight::END,
            Some(n) if leaves(n) => self.gap_before(n).clamp(weight::END, weight::BLANK),
            Some(n) => self.border(all[j], n).min(weight::BLANK),
        };
        let inside = all[i..=j].windows(2).map(|w| match self.gap_before(w[1]) {
            weight::COMMENT => weight::COMMENT_INSIDE,
            weight::BLANK if !self.is_alike(w[0], w[1]) => weight::BLANK_INSIDE,
            _ => 0.0,
        });
        before + after + inside.sum::<f64>()
    }

    /// A statement that only adds what was computed to a variable or a collection.
    fn gathers(&self, statement: NodeId, computed: &[BindingId]) -> bool {
        let (s, t) = (self.source, &self.source.tree);
        let Some(n) = t.children(statement).next().filter(|_| t.role(statement) == Role::ExprStmt) else {
            return false;
        };
        let left = t.child(n, Field::Left).filter(|l| t.role(*l) == Role::Name);
        let object = || t.child(n, Field::Callee).and_then(|c| t.child(c, Field::Object));
        let into = match t.role(n) {
            Role::AugAssign => left,
            Role::Assign => {
                let sum = t.child(n, Field::Right).filter(|r| t.role(*r) == Role::BinaryOp);
                let same = |l: &NodeId| sum.is_some_and(|r| t.children(r).any(|o| t.exact(o) == t.exact(*l)));
                left.filter(same)
            }
            Role::Call => object().filter(|o| t.role(*o) == Role::Name),
            _ => None,
        };
        let target = |n: NodeId| s.names.at(n).and_then(|r| r.target);
        let Some(into) = into.and_then(target).filter(|b| !computed.contains(b)) else { return false };
        let used = s.names.in_range(statement, t.end(statement)).iter().filter_map(|r| r.target);
        used.into_iter().any(|b| b != into && computed.contains(&b))
    }

    /// How clearly two neighbours are apart.
    fn border(&mut self, above: NodeId, below: NodeId) -> f64 {
        let apart = things(self.source, &[above, below], &mut self.shared).len() > 1;
        let gap = self.gap_before(below).max(if apart { weight::APART } else { weight::NO_BORDER });
        gap + if gap != weight::COMMENT && self.is_alike(above, below) { weight::ALIKE } else { 0.0 }
    }

    /// Two statements call the same.
    fn is_alike(&self, above: NodeId, below: NodeId) -> bool {
        let (s, t) = (self.source, &self.source.tree);
        let called = |n: NodeId| {
            let call = t.children(n).next().filter(|c| t.role(n) == Role::ExprStmt && t.role(*c) == Role::Call)?;
            t.child(call, Field::Callee).map(|c| s.str(c))
        };
        called(above).is_some_and(|a| called(below) == Some(a))
    }

    /// What stands between a statement and the one before it.
    fn gap_before(&self, statement: NodeId) -> f64 {
        let (s, t) = (self.source, &self.source.tree);
        let start = t.span(statement).start;
        if has_heading(s, statement) {
            return weight::COMMENT;
        }
        let above = s.text[..start].trim_end_matches([' ', '\t']);
        let blank =
            above.strip_suffix('\n').map(|a| a.trim_end_matches(['\r', ' ', '\t'])).is_some_and(|a| a.ends_with('\n'));
        if blank { weight::BLANK } else { weight::NO_BORDER }
    }
}

/// A comment on lines of its own stands over a statement.
pub(crate) fn has_heading(s: &Source, statement: NodeId) -> bool {
    let start = s.tree.span(statement).start;
    let from = s.tree.comments().iter().rev().find(|c| c.end <= start && s.text[c.end..start].trim().is_empty());
    let own_line = |c: &Span| s.text[..c.start].rsplit('\n').next().is_some_and(|l| l.trim().is_empty());
    from.is_some_and(own_line)
}

/// Locals that a run takes and gives, by name.
pub(crate) fn interface(source: &Source, function: NodeId, part: &Part) -> Option<(Vec<String>, Vec<String>)> {
    let region = region_of(source, function, part)?;
    let names = |list: &[BindingId], all: &Names| list.iter().map(|b| all.binding(*b).name.clone()).collect();
    Some((names(&region.ins, &source.names), names(&region.outs, &source.names)))
}

/// Locals that make the interfaces of some runs wide: taken where many are, or given beside others.
pub(crate) fn crowding(source: &Source, function: NodeId, parts: &[&Part]) -> Vec<BindingId> {
    let mut out: Vec<BindingId> = Vec::new();
    for region in parts.iter().filter_map(|p| region_of(source, function, p)) {
        let (ins, outs) = (region.ins.len() > weight::INPUTS[0].0, region.outs.len() > 1);
        out.extend(region.ins.iter().filter(|_| ins).chain(region.outs.iter().filter(|_| outs)));
    }
    out.sort_unstable();
    out.dedup();
    out
}

fn region_of(source: &Source, function: NodeId, part: &Part) -> Option<RegionFlow> {
    let flow = Flow::of(source, function, part.first);
    flow.region(&source.tree, &source.names, part.first, part.last)
}
