//! The comment over a copy: what becomes the function's, and what heads its part of the body.

use crate::plan::region::Portion;
use crate::text::indent_at;

/// Comment lines right above a copy.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Leading {
    pub start: usize,
    pub text: String,
    /// Other comments follow between the statements: it speaks of the first of them, not of all.
    pub heads_part: bool,
}

/// The comment over the first statement, when it speaks to people.
pub fn leading_comment(site: &Portion) -> Option<Leading> {
    let s = site.source();
    if site.region.is_expression {
        return None;
    }
    let first = s.tree.span(site.region.first).start;
    let mut line = s.lines.line(first);
    let mut lines = Vec::new();
    let mut start = first;
    while line > 1 {
        let from = s.lines.start_of(line - 1)?;
        let to = s.lines.start_of(line)?;
        let comment = s.tree.comments().iter().find(|c| c.start >= from && c.end <= to);
        let Some(c) = comment.filter(|c| s.text[from..c.start].trim().is_empty()) else { break };
        lines.push(s.lang.comment_text(&s.text[c.start..c.end]).to_string());
        start = c.start;
        line -= 1;
    }
    lines.reverse();
    let text = lines.join("\n");
    // one word may be a heading
    let heading = text.len() > 4 && text.chars().all(char::is_alphabetic) && text.starts_with(char::is_uppercase);
    let prose = (text.split_whitespace().count() > 1 || heading)
        && text.chars().next().is_some_and(char::is_alphabetic)
        && !["type:", "noqa", "pylint", "TODO", "FIXME", "XXX", "pragma", "fmt:"].iter().any(|m| text.starts_with(m));
    let indent = indent_at(&s.text, first);
    let others = s.tree.comments().iter().filter(|c| site.span.contains(**c));
    let heads_part = others
        .into_iter()
        .any(|c| indent_at(&s.text, c.start) == indent && s.text[..c.start].ends_with(&format!("\n{indent}")));
    (prose && indent_at(&s.text, start) == indent).then_some(Leading { start, text, heads_part })
}
