//! Files that nobody else looks into while they are loaded: no file imports them, or gets at them as the program's own file
//! or by a text with their name.

use crate::index::Project;
use crate::index::unseen::with_word;
use crate::index::words::unquoted;
use crate::names::Source;
use crate::tree::{NodeId, Role};

/// Who may see in which order a file does things: a file, a line, and how.
pub(crate) fn watcher(project: &Project, s: &Source) -> Option<(String, usize, &'static str)> {
    let file = project.index(&s.path)?;
    let importer = (0..project.facts.len()).find(|f| *f != file && project.imports(*f, file));
    if let Some(f) = importer {
        return Some((project.facts[f].path.clone(), 1, "this file imports it"));
    }
    let name = project.modules().name(file).map(|m| m.parts.join("."));
    let last = name.as_ref().and_then(|n| n.rsplit('.').next()).unwrap_or("");
    for word in s.lang.entry_names().iter().copied().chain([last]).filter(|w| !w.is_empty()) {
        for (_, other) in with_word(project, word, s.lang) {
            let means = |n: &NodeId| gets_at(&other, *n, word, name.as_deref());
            if let Some(n) = other.tree.ids().find(means) {
                return Some((other.path.clone(), other.line(n), "this may get at it by its name"));
            }
        }
    }
    None
}

/// A text that is the word, or the file's whole name, or a name that is the program's own file; not where it is only
/// asked whether the file is that.
fn gets_at(o: &Source, n: NodeId, word: &str, name: Option<&str>) -> bool {
    let t = &o.tree;
    let entry = o.lang.entry_names().contains(&word);
    match t.role(n) {
        Role::Literal => {
            let text = unquoted(o, n);
            let compared = t.parent(n).is_some_and(|p| t.role(p) == Role::Compare);
            (text == word || Some(text) == name) && !compared
        }
        Role::Name => entry && o.str(n) == word,
        _ => false,
    }
}
