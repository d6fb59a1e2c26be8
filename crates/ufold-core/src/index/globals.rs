//! Names that all files of a program share without importing them.
//!
//! Which files are of one program is not known: all of the language are taken for that. Fails for names that are looked up
//! by texts (`_G[name]`, `window[name]`), which other parts of the index find.

use std::sync::Arc;

use super::{Project, unseen};
use crate::change::{Code, Reason, reason};
use crate::names::{BindingId, Source};
use crate::tree::{NodeId, Role};

/// Where another file names what a global is called, and nothing of its own.
pub fn elsewhere(project: &Project, s: &Source, b: BindingId, word: &str) -> Option<(Arc<Source>, NodeId)> {
    if !s.lang.is_global(s, b) {
        return None;
    }
    unseen::with_word(project, word, s.lang).filter(|(_, o)| o.path != s.path).find_map(|(_, o)| {
        // by itself, or at the end of a path that is one word
        let names = |n: &NodeId| o.tree.role(*n) == Role::Name && o.lang.last_word(o.str(*n)) == word;
        let shared = |n: &NodeId| match o.names.at(*n).map(|r| r.target) {
            Some(Some(t)) => o.lang.is_global(&o, t),
            other => other.is_some(),
        };
        let found = o.tree.ids().find(|n| names(n) && shared(n));
        found.map(|n| (o.clone(), n))
    })
}

/// A global stays as it is while other files use it.
pub fn stays(project: &Project, s: &Source, b: BindingId) -> Result<(), Reason> {
    let name = &s.names.binding(b).name;
    match elsewhere(project, s, b, name) {
        Some((o, n)) => Err(reason(&o, n, Code::UsedElsewhere, format!("`{name}` is a global, and used here too"))),
        None => Ok(()),
    }
}
