//! The text of a class: members that go from it with their lines, and others that come into it.

use crate::change::{Code, Found, reason};
use crate::index::class_members::{body, is_function};
use crate::names::Source;
use crate::plan::headings::runs;
use crate::plan::lines::{comments_above, line_end, line_start, whole_lines};
use crate::text::{Edit, Span, apply_edits};
use crate::tree::{Field, NodeId, Role};

/// The lines of a member with the comments above it.
pub(crate) fn lines_of(s: &Source, n: NodeId) -> Span {
    let t = &s.tree;
    let start = comments_above(s, line_start(&s.text, t.span(n).start));
    Span::new(start, whole_lines(s, t.span(n)).end.max(line_end(s, t.span(n).end)))
}

/// The edits by which members of a class go, with blank lines that kept them apart; `nothing` is what stands in a body that
/// says nothing, where one must.
pub(crate) fn without_members(s: &Source, class: NodeId, mut gone: Vec<NodeId>, nothing: &str) -> Found<Vec<Edit>> {
    let t = &s.tree;
    gone.sort();
    let whole = |n: &NodeId| {
        let (start, end) = (t.span(*n).start, t.span(*n).end);
        let rest = &s.text[end..line_end(s, end)];
        let comment = |c: &Span| c.start >= end && s.text[end..c.start].trim_matches([';', ' ', '\t']).is_empty();
        let free = rest.trim_matches([';', ' ', '\t']).is_empty() || t.comments().iter().any(comment);
        free && s.text[line_start(&s.text, start)..start].trim().is_empty()
    };
    if let Some(n) = gone.iter().find(|n| !whole(n)) {
        return Err(vec![reason(s, *n, Code::SharedLine, "another member stands on the same line")]);
    }
    let all = body(t, class);
    let runs = runs(s, &all, &|n| gone.contains(&n), gone.iter().map(|n| lines_of(s, *n)));
    let mut out: Vec<Edit> = Vec::new();
    for run in runs {
        let span = with_gap(s, (class, &all), run);
        out.push(Edit::new(span.start, span.end, ""));
    }
    let nothing_left = all.iter().all(|n| gone.contains(n));
    let around = t.child(class, Field::Body).map(|b| t.span(b)).filter(|b| s.text[b.start..].starts_with('{'));
    if let Some(b) = around.filter(|b| nothing_left && out.iter().all(|e| b.contains(e.span))) {
        let shifted = |e: &Edit| Edit::new(e.span.start - b.start, e.span.end - b.start, "");
        let left = apply_edits(&s.text[b.start..b.end], &out.iter().map(shifted).collect::<Vec<_>>());
        if left.is_ok_and(|text| text.split_whitespace().collect::<String>() == "{}") {
            return Ok(vec![Edit::new(b.start + 1, b.end - 1, "")]);
        }
    }
    if nothing_left && around.is_none() {
        // a body must say something
        let indent = &s.text[line_start(&s.text, t.span(all[0]).start)..t.span(all[0]).start];
        let at = out.last_mut().expect("all are gone");
        at.text = format!("{indent}{}\n", nothing);
    }
    Ok(out)
}

/// Lines of a body with the blank lines that kept them apart from what is next.
fn with_gap(s: &Source, (class, all): (NodeId, &[NodeId]), run: Span) -> Span {
    let t = &s.tree;
    let body = t.child(class, Field::Body).map_or(t.span(class), |b| t.span(b));
    let braces = usize::from(s.text[body.start..].starts_with('{'));
    let begins = if braces > 0 { body.start + 1 } else { all.first().map_or(body.start, |n| lines_of(s, *n).start) };
    let first = s.text[begins.min(run.start)..run.start].trim().is_empty();
    let (mut start, mut end) = (run.start, run.end);
    if !s.text[..end].ends_with('\n') {
        end = s.text[end..].find('\n').map_or(s.text.len(), |x| end + x + 1);
    }
    let last = s.text[end..(body.end - braces).max(end)].trim().is_empty();
    let blank =
        |text: &str| text.split_inclusive('\n').take_while(|l| l.trim().is_empty()).map(str::len).sum::<usize>();
    let kept = s.text[..start].trim_end().len();
    let above = s.text[kept..start].find('\n').map_or(start, |x| kept + x + 1);
    let behind = end + blank(&s.text[end..]);
    let lines = |from: usize, to: usize| s.text[from..to].matches('\n').count();
    if last {
        if !first || start - kept > 1 {
            start = above;
        }
    } else if !first && lines(above, start) < lines(end, behind) {
        // what comes next stays as far apart as it was
        start = above;
    } else {
        end = behind;
    }
    Span::new(start, end)
}

/// Fields behind the last field of a class, functions behind its last member.
pub(crate) fn with_members(to: &Source, class: NodeId, own: &[(String, bool)]) -> Vec<Edit> {
    let t = &to.tree;
    let all = body(t, class);
    let (_, blank) = to.lang.blank_lines();
    let join = |function: bool| {
        let texts: Vec<&str> = own.iter().filter(|o| o.1 == function).map(|o| o.0.trim_end_matches('\n')).collect();
        texts.join(if function { "\n\n" } else { "\n" })
    };
    let (fields, functions) = (join(false), join(true));
    let field = all
        .iter()
        .copied()
        .filter(|n| !is_function(to, *n) && t.role(t.definition_in(*n)) != Role::Class)
        .take_while(|n| all.iter().all(|m| !is_function(to, *m) || m > n))
        .last();
    let end = |n: NodeId| line_end(to, t.span(n).end);
    let mut out = Vec::new();
    let both = all.is_empty() && !fields.is_empty() && !functions.is_empty();
    let (fields, functions) = match both {
        true => (String::new(), format!("{fields}\n{}{functions}", "\n".repeat(blank))),
        false => (fields, functions),
    };
    let braces = t.child(class, Field::Body).map(|b| t.span(b)).filter(|b| to.text[b.start..].starts_with('{'));
    if !fields.is_empty() {
        out.push(match (field, all.first(), braces) {
            (Some(f), ..) if t.role(f) == Role::Doc => Edit::new(end(f), end(f), format!("\n\n{fields}")),
            (Some(f), ..) => {
                let start = line_start(&to.text, t.span(f).start);
                let above = comments_above(to, start);
                let apart = above < start || to.text[..above].ends_with("\n\n") && all.first() != Some(&f);
                Edit::new(end(f), end(f), format!("{}{fields}", if apart { "\n\n" } else { "\n" }))
            }
            (None, Some(first), _) => {
                let start = comments_above(to, line_start(&to.text, t.span(*first).start));
                Edit::new(start, start, format!("{fields}\n{}", "\n".repeat(blank)))
            }
            (None, None, Some(b)) => Edit::new(b.start + 1, b.start + 1, format!("\n{fields}")),
            (None, None, None) => return Vec::new(),
        });
    }
    if !functions.is_empty() {
        let pass = all.len() == 1 && t.role(all[0]) == Role::Pass;
        out.push(match (all.last(), braces) {
            (Some(only), _) if pass => {
                let start = line_start(&to.text, t.span(*only).start);
                Edit::new(start, end(*only), functions)
            }
            (Some(last), _) => Edit::new(end(*last), end(*last), format!("{}{functions}", "\n".repeat(blank + 1))),
            (None, Some(b)) => {
                let line = if to.text[b.start + 1..].trim_start_matches([' ', '\t', '\r']).starts_with('\n') {
                    ""
                } else {
                    "\n"
                };
                Edit::new(b.start + 1, b.start + 1, format!("\n{functions}{line}"))
            }
            (None, None) => return Vec::new(),
        });
    }
    out
}
