//! Notebooks: each cell keeps its border and the lines of the notebook's own, and shows a value where it did.

use super::{Objection, Opinion, object};
use crate::change::Change;
use crate::index::Project;
use crate::names::Source;
use crate::text::apply_edits;
use crate::tree::{NodeId, Tree};

pub(super) fn keep(project: &Project, change: &Change) -> Opinion<()> {
    for f in change.result.files.iter().filter(|f| !f.creates) {
        let nowhere = |message: String| Objection { message, file: f.file.clone(), line: 1 };
        let index = project.index(&f.file).ok_or_else(|| nowhere("not a file of the project".into()))?;
        let old = project.source(index).map_err(&nowhere)?;
        if old.lang.script_of("").is_none() {
            continue;
        }
        let text = apply_edits(&old.text, &f.edits).map_err(|e| nowhere(e.to_string()))?;
        let new = project.parse(&f.file, text.into()).map_err(nowhere)?;
        if lines(&old) != lines(&new) {
            return object(&new, Tree::ROOT, "a cell's border, or a line that only the notebook understands, changed");
        }
        let (was, is) = (shown(&old), shown(&new));
        if let Some((_, n)) = is.iter().find(|(cell, _)| !was.iter().any(|(c, _)| c == cell)) {
            return object(&new, *n, "a cell would show a value that it did not show");
        }
        if let Some((_, n)) = was.iter().find(|(cell, _)| !is.iter().any(|(c, _)| c == cell)) {
            return object(&old, *n, "a cell would no longer show this value");
        }
    }
    Ok(())
}

fn lines(s: &Source) -> Vec<&str> {
    let own = s.tree.comments().iter().map(|c| &s.text[c.start..c.end]);
    own.filter(|c| s.lang.is_no_comment(c)).collect()
}

/// Cells that show a value, and by what.
fn shown(s: &Source) -> Vec<(usize, NodeId)> {
    let all = s.tree.children(Tree::ROOT).filter(|n| s.lang.shows_value(&s.tree, &s.text, *n));
    all.filter_map(|n| Some((s.lang.cell_at(&s.text, s.line(n))?.0, n))).collect()
}
