//! Files that a step leaves without code: they go with what was the last in them.
//!
//! Only where no file imports them any more, no word or text of the project is their name, nothing lists folders, and no file that is not scanned
//! speaks of them. A file that stands for its package stays.

use std::sync::Arc;

use crate::change::Outcome;
use crate::index::words::stem_of;
use crate::index::{Project, whole_words};
use crate::names::Source;
use crate::text::apply_edits;
use crate::tree::{Role, Tree};

/// The outcome, in which a file that holds no code any more goes.
pub(crate) fn with_emptied(project: &Project, s: &Source, mut outcome: Outcome) -> Outcome {
    if goes(project, s, &outcome) == Some(true) {
        outcome.files.iter_mut().filter(|f| f.file == s.path).for_each(|f| f.goes = true);
        outcome.remarks.push(format!("{} holds no code any more, and goes", s.path));
    }
    outcome
}

fn goes(project: &Project, s: &Source, outcome: &Outcome) -> Option<bool> {
    let file = project.index(&s.path)?;
    let mut edited = Vec::new();
    for f in &outcome.files {
        let old = project.source(project.index(&f.file)?).ok()?;
        let text = apply_edits(&old.text, &f.edits).ok()?;
        edited.push(Arc::new(project.parse(&f.file, text.into()).ok()?));
    }
    let own = edited.iter().find(|e| e.path == s.path)?;
    let empty = own.tree.children(Tree::ROOT).all(|c| own.tree.role(c) == Role::Doc) && own.tree.errors().is_empty();
    if !empty || s.module.as_ref().is_none_or(|m| m.is_package) {
        return Some(false);
    }
    let stem = stem_of(&s.path);
    if s.lang.folder_listers().iter().any(|w| project.word_elsewhere(w, &[])) {
        return Some(false);
    }
    let speaks = |o: &Source| {
        let t = &o.tree;
        t.ids().any(|n| t.is_leaf(n) && whole_words(o.str(n), stem).next().is_some())
    };
    for f in (0..project.facts.len()).filter(|f| *f != file) {
        if let Some(e) = edited.iter().find(|e| e.path == project.facts[f].path) {
            if speaks(e) {
                return Some(false);
            }
            continue;
        }
        let text = project.text(f)?;
        let said = whole_words(&text, stem).next().is_some();
        if project.imports(f, file) || said && speaks(&*project.source(f).ok()?) {
            return Some(false);
        }
    }
    let name = s.path.rsplit('/').next().unwrap_or(&s.path);
    Some(project.mentions(stem, &[stem.to_string(), name.to_string()]).is_empty())
}
