//! What is done to a function before it is split, so that better parts come out.
//!
//! A loop that does two things becomes two loops, and a variable that would be one parameter or result too many is put in
//! at its uses. Such a change is only tried; whether the parts are better then is for [`super::propose`] to say. Loops are
//! divided by the variables that their statements have in common: two things that share one are taken for one thing.

use std::sync::Arc;

use serde::{Deserialize, Serialize};

use crate::change::{Found, Link, Outcome, Verdict, place_of};
use crate::index::Project;
use crate::names::{BindKind, BindingId, Reference, Source};
use crate::plan::things::{Shared, things_of_loop};
use crate::step::chain::Progress;
use crate::step::{InlineRequest, SplitLoopRequest, Step};
use crate::text::Span;
use crate::tree::{NodeId, Role};

/// Uses of a variable that is put in, and changes that are tried.
const MOST_USES: usize = 3;
const MOST_CHANGES: usize = 8;

/// A change of the function before its parts are taken out; its place is of the text that those before it leave.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(tag = "step", content = "request", rename_all = "kebab-case")]
pub enum Beforehand {
    SplitLoop(SplitLoopRequest),
    Inline(InlineRequest),
}

impl Beforehand {
    fn link(&self, p: &Project) -> Link {
        match self {
            Beforehand::SplitLoop(r) => Link { claim: r.claim(), result: r.plan(p).result },
            Beforehand::Inline(r) => Link { claim: r.claim(), result: r.at_once(p).result },
        }
    }

    /// What it does, in words.
    fn told(&self, at: &Progress) -> String {
        match self {
            Beforehand::SplitLoop(r) => {
                let lines = |(a, z): &(usize, usize)| match (at.line_before(*a), at.line_before(*z)) {
                    (a, z) if a == z => a.to_string(),
                    (a, z) => format!("{a}-{z}"),
                };
                let own: Vec<String> = r.lines.iter().map(lines).collect();
                let word = if own.len() == 1 && !own[0].contains('-') { "line" } else { "lines" };
                let head = at.line_before(r.place.start_line);
                format!("{word} {} of the loop at line {head} get a loop of their own first", own.join(", "))
            }
            Beforehand::Inline(r) => {
                format!("`{}` of line {} is put in at its uses first", r.finding, at.line_before(r.place.start_line))
            }
        }
    }
}

/// A function with the changes made.
#[derive(Clone)]
pub(super) struct Prepared {
    /// Its places are of the text with the changes made.
    pub at: Progress,
    /// What came of all of them, with their links.
    pub out: Outcome,
    pub told: Vec<String>,
}

impl Prepared {
    pub fn new(s: &Arc<Source>) -> Prepared {
        let out = Outcome { verdict: Verdict::Ready, ..Outcome::refused(Vec::new()) };
        Prepared { at: Progress::new(s), out, told: Vec::new() }
    }

    pub fn with(mut self, project: &Project, changes: &[Beforehand]) -> Found<Prepared> {
        for change in changes {
            self.make(project, change)?;
        }
        self.at.settle();
        Ok(self)
    }

    fn make(&mut self, project: &Project, change: &Beforehand) -> Found<()> {
        let link = self.at.asked(project, |p| change.link(p))?;
        let told = change.told(&self.at);
        self.at.add(&mut self.out, project, link)?;
        self.told.push(told);
        Ok(())
    }
}

/// Changes that may make better parts, each with what it is made of.
pub(super) fn candidates(
    project: &Project,
    made: &Prepared,
    function: NodeId,
    crowded: &[BindingId],
) -> Vec<Vec<Beforehand>> {
    let s = made.at.now.clone();
    let t = &s.tree;
    let own = |n: &NodeId| !t.ancestors(*n).take_while(|a| *a > function).any(|a| t.role(a).is_definition());
    let loops = t.subtree(function).filter(|n| matches!(t.role(*n), Role::For | Role::CountedFor) && own(n));
    let loops: Vec<NodeId> = loops.collect();
    let divided = loops.into_iter().filter_map(|l| {
        let changes = divided(project, made, l);
        (!changes.is_empty()).then_some(changes)
    });
    let put_in = crowded.iter().filter_map(|b| put_in(&s, *b)).map(|r| vec![Beforehand::Inline(r)]);
    divided.chain(put_in).take(MOST_CHANGES).collect()
}

/// The variable's name where it gets its only value.
fn put_in(s: &Source, b: BindingId) -> Option<InlineRequest> {
    let binding = s.names.binding(b);
    let (given, read): (Vec<&Reference>, Vec<&Reference>) = s.names.references_to(b).partition(|r| r.usage.writes());
    let once = given.len() == 1 && (1..=MOST_USES).contains(&read.len());
    let place = place_of(s, s.tree.span(given.first().filter(|_| once && binding.kind == BindKind::Variable)?.node));
    Some(InlineRequest { finding: binding.name.clone(), place, except: Vec::new(), slide: false })
}

/// A loop in as many loops as there are things in it, the last first.
fn divided(project: &Project, made: &Prepared, l: NodeId) -> Vec<Beforehand> {
    let (mut made, mut changes) = (made.clone(), Vec::new());
    let place = place_of(&made.at.now, made.at.now.tree.span(l));
    loop {
        let s = made.at.now.clone();
        let t = &s.tree;
        let begins = |n: &NodeId| t.role(*n).is_loop() && t.span(*n).start == place.start_byte;
        let Some(l) = t.ids().find(begins) else { return changes };
        let things = things_of_loop(&s, l, &mut Shared::default());
        let [_, .., last] = &things[..] else { return changes };
        let own = |n: &NodeId| (s.line(*n), s.lines.line(t.span(*n).end.max(1) - 1));
        let mut lines: Vec<(usize, usize)> = last.iter().map(own).collect();
        lines.dedup_by(|b, a| {
            let next = a.1 + 1 == b.0;
            a.1 = if next { b.1 } else { a.1 };
            next
        });
        let head = place_of(&s, Span::new(t.span(l).start, t.span(l).start + 1));
        let change = Beforehand::SplitLoop(SplitLoopRequest { finding: String::new(), place: head, lines });
        if made.make(project, &change).is_err() {
            return changes;
        }
        changes.push(change);
    }
}
