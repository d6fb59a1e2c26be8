//! What a person means by a range: whole statements, or one expression. Blanks and comments at its ends do not count.

use crate::align::Region;
use crate::names::Source;
use crate::text::Span;
use crate::tree::{NodeId, Role, Tree};

/// A range that covers no whole statements and no whole expression, with the nearest ones that do.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct HalfRange {
    pub nearest: Vec<Span>,
}

/// The range with its ends moved to what it covers.
pub fn resolve(source: &Source, span: Span) -> Result<Span, HalfRange> {
    let span = trimmed(source, span);
    if span.start >= span.end {
        return Err(HalfRange { nearest: Vec::new() });
    }
    let t = &source.tree;
    if statements(t, span).is_some() || expression(t, span).is_some() {
        return Ok(span);
    }
    // a terminator may be left out, or a blank end of a line taken along
    let ends = t.ids().map(|n| t.span(n)).filter(|s| s.start >= span.start && is_terminated(source, *s, span));
    let mut with_end = ends.map(|s| Span::new(span.start, s.end));
    if let Some(s) = with_end.find(|s| statements(t, *s).is_some()) {
        return Ok(s);
    }
    Err(HalfRange { nearest: nearest(t, span) })
}

fn is_terminated(source: &Source, statement: Span, span: Span) -> bool {
    let (short, long) = (statement.end.min(span.end), statement.end.max(span.end));
    source.text[short..long].chars().all(|c| c == ';' || c.is_whitespace())
}

/// Without blanks and comments at the ends.
fn trimmed(source: &Source, mut span: Span) -> Span {
    let comments = source.tree.comments();
    loop {
        let before = span;
        let text = &source.text[span.start..span.end];
        span.start += text.len() - text.trim_start_matches(|c: char| c.is_whitespace() || c == '\u{feff}').len();
        span.end = span.start.max(span.start + source.text[span.start..span.end].trim_end().len());
        if let Some(c) = comments.iter().find(|c| c.start == span.start) {
            span.start = c.end.min(span.end);
        }
        if let Some(c) = comments.iter().find(|c| c.end == span.end && c.start >= span.start) {
            span.end = c.start;
        }
        if span == before {
            return span;
        }
    }
}

/// First and last of the statements that fill a span.
fn statements(t: &Tree, span: Span) -> Option<(NodeId, NodeId)> {
    let mut at = t.covering(span);
    while !t.role(at).is_sequence() {
        match t.parent(at) {
            Some(p) => at = p,
            None => break,
        }
    }
    let inside: Vec<NodeId> = t
        .children(at)
        .filter(|c| t.role(at).is_sequence() && t.role(*c) != Role::Doc && span.contains(t.span(*c)))
        .collect();
    let (first, last) = (*inside.first()?, *inside.last()?);
    (t.span(first).start == span.start && t.span(last).end == span.end).then_some((first, last))
}

/// The outermost expression that fills a span.
pub fn expression(t: &Tree, span: Span) -> Option<NodeId> {
    let at = t.covering(span);
    let fits = |n: &NodeId| t.span(*n) == span;
    std::iter::successors(Some(at).filter(fits), |n| t.parent(*n).filter(fits))
        .filter(|n| t.role(*n).is_expression())
        .last()
}

/// The whole statements inside the span, or the expression around it, and the statements that it touches.
fn nearest(t: &Tree, span: Span) -> Vec<Span> {
    let mut at = t.covering(span);
    let around = std::iter::successors(Some(at), |n| t.parent(*n)).take_while(|n| !t.role(*n).is_sequence());
    let value = around.into_iter().find(|n| t.role(*n).is_expression()).map(|n| t.span(n));
    while !t.role(at).is_sequence() {
        match t.parent(at) {
            Some(p) => at = p,
            None => return Vec::new(),
        }
    }
    let joined = |list: Vec<Span>| Some(Span::new(list.first()?.start, list.last()?.end));
    let own = |keep: &dyn Fn(Span) -> bool| t.children(at).map(|c| t.span(c)).filter(|s| keep(*s)).collect::<Vec<_>>();
    let mut out: Vec<Span> = [joined(own(&|s| span.contains(s))).or(value), joined(own(&|s| span.overlaps(s)))]
        .into_iter()
        .flatten()
        .collect();
    out.dedup();
    out
}

/// Other places of the same code: runs of statements, or expressions, of the same shape.
pub fn alike(source: &Source, of: &Region) -> Vec<Span> {
    let t = &source.tree;
    let (pattern, o) = (of.statements(), &of.source.tree);
    let same_lang = source.lang.name() == of.source.lang.name();
    let shapes: Vec<u64> = pattern.iter().map(|s| o.shape(*s)).collect();
    let mut out: Vec<Span> = Vec::new();
    if !same_lang || shapes.is_empty() {
        return out;
    }
    if of.is_expression {
        let like =
            |n: &NodeId| t.shape(*n) == shapes[0] && t.kind(*n) == o.kind(pattern[0]) && t.role(*n).is_expression();
        out.extend(t.ids().filter(like).map(|n| t.span(n)));
    } else {
        for block in t.ids().filter(|b| t.role(*b).is_sequence()) {
            let list: Vec<NodeId> = t.children(block).filter(|c| t.role(*c) != Role::Doc).collect();
            for w in list.windows(shapes.len()).filter(|w| w.iter().zip(&shapes).all(|(s, h)| t.shape(*s) == *h)) {
                out.push(Span::new(t.span(w[0]).start, t.span(w[w.len() - 1]).end));
            }
        }
    }
    let own = o.span(pattern[0]).start;
    out.retain(|s| source.path != of.source.path || s.start != own);
    out
}
