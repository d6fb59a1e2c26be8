//! Headings: comments of a few words among lines, between definitions, that say what those below are about.
//!
//! A heading without such lines is not told from any other comment.

use super::lines::{line_end, line_start};
use super::words::words;
use crate::names::Source;
use crate::text::Span;
use crate::tree::NodeId;

pub(crate) struct Heading {
    /// Its lines, without the end of the last.
    pub span: Span,
    pub words: Vec<String>,
}

/// Signs of which lines are drawn.
const MARKS: &[char] = &['-', '=', '*', '#', '~', '/', '_', '+'];
/// More words are a sentence.
const MOST_WORDS: usize = 6;

/// Headings among the statements of a level.
pub(crate) fn all(s: &Source, level: &[NodeId]) -> Vec<Heading> {
    let t = &s.tree;
    let inside = |c: &Span| level.iter().any(|n| t.span(*n).start < c.start && c.start < t.span(*n).end);
    let at_margin = |c: &Span| s.text[line_start(&s.text, c.start)..c.start].trim().is_empty();
    // lines of comments without a blank line between
    let mut blocks: Vec<Span> = Vec::new();
    for c in t.comments().iter().copied().filter(|c| at_margin(c) && !inside(c)) {
        match blocks.last_mut() {
            Some(b) if s.text[b.end..c.start].trim().is_empty() && s.text[b.end..c.start].matches('\n').count() < 2 => {
                b.end = c.end
            }
            _ => blocks.push(c),
        }
    }
    blocks.into_iter().filter_map(|span| Some(Heading { span, words: said(&s.text[span.start..span.end])? })).collect()
}

/// The words of a comment that is a heading.
fn said(text: &str) -> Option<Vec<String>> {
    let drawn = |run: &str| {
        let marks = run.len() > 2 && run.chars().all(|c| MARKS.contains(&c));
        // three of these begin a comment
        marks && (run.len() > 4 || run.chars().any(|c| !['/', '*', '#'].contains(&c)))
    };
    let ruled = text.split(|c: char| c.is_alphanumeric() || c.is_whitespace()).any(drawn);
    let lines = text.lines().map(|l| l.trim_matches(|c: char| !c.is_alphanumeric()));
    let lines: Vec<&str> = lines.filter(|l| !l.is_empty()).collect();
    let [one] = lines[..] else { return None };
    let w = words(one);
    (ruled && (1..=MOST_WORDS).contains(&w.len())).then_some(w)
}

/// Headings over nothing when some statements of a level go: those that were over these alone.
pub(crate) fn emptied(s: &Source, level: &[NodeId], gone: &dyn Fn(NodeId) -> bool) -> Vec<Span> {
    let all = all(s, level);
    let start = |n: &NodeId| s.tree.span(*n).start;
    let next = |i: usize| all.get(i + 1).map_or(s.text.len(), |h| h.span.start);
    let left = |i: &usize| {
        let below = |n: &&NodeId| all[*i].span.end <= start(n) && start(n) < next(*i);
        level.iter().any(|n| below(&n)) && level.iter().filter(below).all(|n| gone(*n))
    };
    (0..all.len()).filter(left).map(|i| all[i].span).collect()
}

/// What goes with some statements of a level, of which the lines are given: those that nothing stands between are one, and
/// headings over nothing else go too.
pub(crate) fn runs(
    s: &Source,
    level: &[NodeId],
    gone: &dyn Fn(NodeId) -> bool,
    lines: impl Iterator<Item = Span>,
) -> Vec<Span> {
    let mut all: Vec<Span> = lines.collect();
    let whole = |h: Span| Span::new(line_start(&s.text, h.start), line_end(s, h.end));
    let headings = emptied(s, level, gone).into_iter().map(whole).filter(|h| !all.iter().any(|l| l.overlaps(*h)));
    all.extend(headings.collect::<Vec<_>>());
    all.sort_by_key(|l| l.start);
    let mut out: Vec<Span> = Vec::new();
    for l in all {
        match out.last_mut().filter(|r| r.end > l.start || s.text[r.end..l.start].trim().is_empty()) {
            Some(r) => r.end = r.end.max(l.end),
            None => out.push(l),
        }
    }
    out
}

#[cfg(test)]
mod tests {
    use super::{all, emptied};
    use crate::lang::by_name;
    use crate::names::Source;
    use crate::tree::{NodeId, Tree};

    fn python(text: &str) -> Source {
        Source::new("quay.py", text.into(), by_name("python").expect("known"), None).expect("parses")
    }

    const TEXT: &str = "a = 1\n\n# ---- tides ----\n\nb = 2\nc = 3\n\n# just words\n\n# ==========\n# Fees of all\n# ==========\nd = 4\n";

    #[test]
    fn headings_are_words_among_lines() {
        let s = python(TEXT);
        let level: Vec<NodeId> = s.tree.children(Tree::ROOT).collect();
        let words: Vec<String> = all(&s, &level).iter().map(|h| h.words.join(" ")).collect();
        assert_eq!(words, ["tides", "fees of all"]);
    }

    #[test]
    fn a_heading_goes_with_all_that_it_is_over() {
        let s = python(TEXT);
        let level: Vec<NodeId> = s.tree.children(Tree::ROOT).collect();
        let left = |gone: &[usize]| emptied(&s, &level, &|n| gone.iter().any(|i| level[*i] == n)).len();
        assert_eq!((left(&[1]), left(&[1, 2]), left(&[0]), left(&[1, 2, 3])), (0, 1, 0, 2));
    }
}
