//! Lines of a text: where they start and end, and the comments over them.

use crate::align::Region;
use crate::names::Source;
use crate::text::{Edit, Span};
use crate::tree::{NodeId, Role};

pub fn line_start(text: &str, byte: usize) -> usize {
    text[..byte].rfind('\n').map_or(0, |i| i + 1)
}

/// The end of the code line, a comment on it included.
pub fn line_end(source: &Source, byte: usize) -> usize {
    let end = source.text[byte..].find('\n').map_or(source.text.len(), |i| byte + i);
    let line = source.text[byte..end].trim_end();
    byte + line.len()
}

/// The lines of a statement, with their end, when it has them for itself.
pub fn whole_lines(s: &Source, span: Span) -> Span {
    let start = line_start(&s.text, span.start);
    let end = line_end(s, span.end);
    let alone = s.text[start..span.start].trim().is_empty();
    let after = s.text[end..].find('\n').map_or(s.text.len(), |i| end + i + 1);
    if alone && s.text[span.end..end].trim().is_empty() { Span::new(start, after) } else { span }
}
/// Start of the run of comments, each on lines of its own, that ends right above a line.
pub fn comments_above(source: &Source, mut start: usize) -> usize {
    // a place within a line has nothing above it
    while source.text[..start].ends_with('\n') {
        let end = start - 1 - usize::from(source.text[..start - 1].ends_with('\r'));
        let comment = source.tree.comments().iter().find(|c| {
            c.end <= end
                && source.text[c.end..end].trim().is_empty()
                && c.start < end
                && line_start(&source.text, end) <= c.end
                && c.end > line_start(&source.text, end)
        });
        let above = comment.map(|c| line_start(&source.text, c.start));
        match above.zip(comment).filter(|(a, c)| source.text[*a..c.start].trim().is_empty()) {
            Some((above, _)) => start = above,
            None => break,
        }
    }
    start
}

/// The lines of a statement that goes, and the blank lines behind it where there is nothing to keep apart; those before it
/// where they are fewer.
pub fn with_blank_lines(s: &Source, statement: NodeId) -> Span {
    let t = &s.tree;
    let lines = whole_lines(s, t.span(statement));
    let first = t.parent(statement).is_some_and(|b| t.children(b).next() == Some(statement));
    let above = s.text[..lines.start].trim_end_matches('\n');
    let apart = first || lines.start - above.len() > 1;
    let whole = s.text[..lines.end].ends_with('\n') && (lines.start == 0 || s.text[..lines.start].ends_with('\n'));
    let comment = t.comments().iter().any(|c| c.end <= lines.start && s.text[c.end..lines.start].trim().is_empty());
    if !apart || !whole || first && comment {
        return lines;
    }
    let blank: Vec<&str> = s.text[lines.end..].split_inclusive('\n').take_while(|l| l.trim().is_empty()).collect();
    let before = s.text[above.len()..lines.start].matches('\n').count().saturating_sub(1);
    match 0 < before && before < blank.len() {
        true => Span::new(lines.start - before, lines.end),
        false => Span::new(lines.start, lines.end + blank.concat().len()),
    }
}

/// Edits that indent the lines of a span but the first by one step more; those inside a text stay as they are.
pub(crate) fn indented_more(s: &Source, span: Span, unit: &str) -> Vec<Edit> {
    let t = &s.tree;
    let text = |n: &NodeId| matches!(t.role(*n), Role::Literal | Role::Template) && t.span(*n).overlaps(span);
    let texts: Vec<Span> = t.ids().filter(text).map(|n| t.span(n)).collect();
    let (a, z) = (s.lines.line(span.start), s.lines.line(span.end));
    let starts = (a + 1..=z).filter_map(|l| s.lines.start_of(l));
    let blank = |start: usize| s.text[start..].lines().next().is_none_or(|l| l.trim().is_empty());
    let inside = |start: usize| texts.iter().any(|p| p.start < start && start < p.end);
    starts.filter(|l| !blank(*l) && !inside(*l)).map(|l| Edit::new(l, l, unit)).collect()
}

/// The region's bytes up to the end of its last line, when no other code shares its lines.
pub fn lines_of_region(region: Region) -> Option<Span> {
    let (s, t) = (region.source, &region.source.tree);
    let (start, end) = (t.span(region.first).start, t.span(region.last).end);
    if !s.text[line_start(&s.text, start)..start].trim_start_matches('\u{feff}').trim().is_empty() {
        return None;
    }
    let line_end = s.text[end..].find('\n').map_or(s.text.len(), |i| end + i);
    let rest = s.text[end..line_end].trim_end();
    if rest.trim().is_empty() {
        return Some(Span::new(start, end));
    }
    let comment = t.comments().iter().find(|c| c.start >= end && c.end <= line_end)?;
    s.text[end..comment.start].trim().is_empty().then(|| Span::new(start, comment.end))
}
