//! Imported names whose values change in between: where an import binds the variable of another file, and that file, or the
//! one it has the name from, gives it a value again.
//!
//! Told by names alone, from the facts of files: a local of the same name that is assigned there counts too.

use rustc_hash::FxHashSet;

use crate::find::FileFacts;
use crate::names::{BindingId, ImportRef, Source};

/// What the project knows of its files.
pub(super) struct Links<'a> {
    pub facts: &'a [FileFacts],
    /// Files that an import names.
    pub resolved: &'a dyn Fn(&ImportRef) -> Vec<usize>,
    /// Files that a file imports.
    pub imports: &'a dyn Fn(usize) -> Vec<usize>,
}

/// Imports of a file that may get another value while its code runs.
pub(super) fn imports(links: &Links, s: &Source) -> Vec<BindingId> {
    let changes = |f: &FileFacts| !f.following.changing.is_empty();
    if !links.facts.iter().any(|f| f.is_of_family(s.lang) && changes(f)) {
        return Vec::new();
    }
    let bindings = (0..s.names.bindings.len() as u32).map(BindingId);
    bindings.filter(|b| follows(links, s, *b)).collect()
}

fn follows(links: &Links, s: &Source, b: BindingId) -> bool {
    let Some(import) = s.names.binding(b).import.as_ref() else { return false };
    let Some(member) = import.member.as_ref() else { return false };
    let homes = (links.resolved)(import);
    let mut open: Vec<(usize, String)> = homes.into_iter().map(|f| (f, member.clone())).collect();
    let mut looked_at: FxHashSet<(usize, String)> = open.iter().cloned().collect();
    while let Some((file, name)) = open.pop() {
        let f = &links.facts[file];
        if f.following.changing.contains(&name) {
            return true;
        }
        let others = f.following.aliases.iter().filter(|(new, _)| *new == name).map(|(_, old)| (file, old.clone()));
        let passes = f.has_word(&name) || f.following.passes_all;
        let further = (links.imports)(file).into_iter().filter(|_| passes).map(|g| (g, name.clone()));
        for next in others.chain(further) {
            if looked_at.insert(next.clone()) {
                open.push(next);
            }
        }
    }
    false
}
