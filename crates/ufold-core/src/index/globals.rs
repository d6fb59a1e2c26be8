//! Names that all files of a program share without importing them.
//!
//! Which files are of one program is not known: all of the language are taken for that. Fails for names that are looked up
//! by texts (`_G[name]`, `window[name]`), which other parts of the index find.

use std::sync::Arc;

use super::{Entity, Project, Uses, unseen};
use crate::change::{Code, Found, Reason, reason};
use crate::names::{BindingId, Source};
use crate::tree::{NodeId, Role};

/// Where other files name what a global is called, and nothing of their own.
pub fn elsewhere(project: &Project, s: &Source, b: BindingId, word: &str) -> Vec<(Arc<Source>, NodeId)> {
    if !s.lang.is_global(s, b) {
        return Vec::new();
    }
    let others = unseen::with_word(project, word, s.lang).filter(|(_, o)| o.path != s.path);
    let places = others.flat_map(|(_, o)| {
        // by itself, or at the end of a path that is one word
        let names = |n: &NodeId| o.tree.role(*n) == Role::Name && o.lang.last_word(o.str(*n)) == word;
        let shared = |n: &NodeId| match o.names.at(*n).map(|r| r.target) {
            Some(Some(t)) => o.lang.is_global(&o, t),
            other => other.is_some(),
        };
        let found: Vec<NodeId> = o.tree.ids().filter(|n| names(n) && shared(n)).collect();
        found.into_iter().map(move |n| (o.clone(), n))
    });
    places.collect()
}

/// Words of other files that surely mean a function or a class which their files have by loading this one; an error at one
/// of which that can't be told.
pub(crate) fn by_loading(project: &Project, s: &Source, word: &str) -> Found<Vec<Uses>> {
    let home = project.index(&s.path).unwrap_or(usize::MAX);
    let own = Entity::Member(home, word.to_string());
    let unclear = |o: &Source, n: NodeId, what: &str| {
        Err(vec![reason(o, n, Code::UsedElsewhere, format!("`{word}` is a global, and {what}"))])
    };
    let mut out = Vec::new();
    for (_, o) in written_so(project, s, word) {
        let mut nodes = Vec::new();
        for n in o.tree.ids().filter(|n| o.tree.role(*n) == Role::Name) {
            let last = o.lang.last_word(o.str(n));
            if !last.eq_ignore_ascii_case(word) || o.names.at(n).is_none_or(|r| r.target.is_some()) {
                continue;
            }
            match project.entity(&o, o.str(n)) {
                _ if last != word => return unclear(&o, n, "written in other letters here"),
                found if found == own => nodes.push(n),
                Entity::Member(..) => {}
                _ => return unclear(&o, n, "used here too"),
            }
        }
        if !nodes.is_empty() {
            out.push(Uses { source: o, nodes });
        }
    }
    Ok(out)
}

/// Other files in whose texts a word stands, in whatever letters where these are the same.
fn written_so<'a>(
    project: &'a Project,
    s: &'a Source,
    word: &'a str,
) -> impl Iterator<Item = (usize, Arc<Source>)> + 'a {
    let lower = word.to_ascii_lowercase();
    let says = move |f: &usize| {
        let other = project.facts[*f].is_of_family(s.lang) && project.facts[*f].path != s.path;
        let text = project.text(*f).filter(|_| other);
        text.is_some_and(|t| match s.lang.ignores_case() {
            true => t.to_ascii_lowercase().contains(&lower),
            false => t.contains(word),
        })
    };
    (0..project.facts.len()).filter(says).filter_map(|f| Some((f, project.source(f).ok()?)))
}

/// A global stays as it is while other files use it.
pub fn stays(project: &Project, s: &Source, b: BindingId) -> Result<(), Reason> {
    let name = &s.names.binding(b).name;
    match elsewhere(project, s, b, name).first() {
        Some((o, n)) => Err(reason(o, *n, Code::UsedElsewhere, format!("`{name}` is a global, and used here too"))),
        None => Ok(()),
    }
}
