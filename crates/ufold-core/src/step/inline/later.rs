//! `inline` of a variable past statements in between: its value slides to its only use first, where nothing that it passes
//! can tell the difference, and takes its place there.

use crate::change::{Code, Found, Link, Outcome, Verdict, place_of, reason};
use crate::index::Project;
use crate::index::target::{Target, target};
use crate::names::{BindKind, Use};
use crate::step::chain::Progress;
use crate::step::{InlineRequest, SlideRequest, Step};
use crate::text::Span;
use crate::tree::{NodeId, Role};

pub(super) fn run(project: &Project, request: &InlineRequest) -> Found<Outcome> {
    let s = project.ordered_source_at(&request.place)?;
    let t = &s.tree;
    let span = Span::new(request.place.start_byte, request.place.end_byte);
    let none = |n: NodeId| vec![reason(&s, n, Code::EvaluationOrder, super::BETWEEN)];
    let Some(Target::Binding(b)) = target(&s, span) else { return Err(none(t.covering(span))) };
    let binding = s.names.binding(b);
    let plain = binding.kind == BindKind::Variable && binding.writes == 1 && !binding.captured;
    let statement = t.ancestors(binding.first).find(|a| t.parent(*a).is_some_and(|p| t.role(p).is_sequence()));
    let uses: Vec<NodeId> = s.names.references_to(b).filter(|r| r.usage == Use::Read).map(|r| r.node).collect();
    let (Some(statement), [used], true) = (statement, &uses[..], plain) else { return Err(none(binding.first)) };
    let mut at = Progress::new(&s);
    let mut out = Outcome { verdict: Verdict::Ready, ..Outcome::refused(Vec::new()) };
    let slide = SlideRequest {
        finding: request.finding.clone(),
        place: place_of(&s, t.span(statement)),
        before: None,
        after: None,
        below_comment: true,
    };
    let link = Link { claim: slide.claim(), result: at.asked(project, |p| slide.plan(p).result)? };
    at.add(&mut out, project, link)?;
    let used = at.moved(&place_of(&s, t.span(*used))).ok_or_else(|| none(*used))?;
    let now = at.now.clone();
    let word = now.tree.covering(Span::new(used.start_byte, used.end_byte));
    let given = now.names.at(word).filter(|_| now.tree.role(word) == Role::Name).and_then(|r| r.target);
    let first = given.map(|b| now.names.binding(b).first).ok_or_else(|| none(statement))?;
    let inline = InlineRequest { place: place_of(&now, now.tree.span(first)), ..request.alone() };
    let link = Link { claim: inline.claim(), result: at.asked(project, |p| inline.at_once(p).result)? };
    at.add(&mut out, project, link)?;
    (out.files, out.saves) = at.finish();
    Ok(out)
}
