//! Notebooks: code that goes elsewhere crosses no cell's border, holds no line of the notebook's own, and is not what a cell
//! shows.

use crate::align::Region;
use crate::change::{Code, Reason, reason};

pub(crate) fn crossed(region: &Region) -> Option<Reason> {
    let (s, t) = (region.source, &region.source.tree);
    let (from, to) = (t.span(region.first).start, t.span(region.last).end);
    let own = |c: &&crate::text::Span| (from..to).contains(&c.start) && s.lang.is_no_comment(&s.text[c.start..c.end]);
    if t.comments().iter().any(|c| own(&c)) {
        let message = "a border of cells, or a line that only the notebook understands, stands in the code";
        return Some(reason(s, region.first, Code::NotebookLine, message));
    }
    let shown =
        region.statements().into_iter().find(|n| s.lang.shows_value(&s.tree, &s.text, *n) && !region.is_expression);
    shown.map(|n| reason(s, n, Code::ShownValue, "the cell shows the value of this expression"))
}
