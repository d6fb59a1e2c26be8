//! Classes that are named by a path: of the packages that they stand in, or of the class around them.

use std::sync::Arc;

use crate::index::Project;
use crate::names::{ImportRef, Source};
use crate::tree::{Field, NodeId, Role, Tree};

/// Files that may hold the class of a path, with the number of its words that name the file.
pub(crate) fn files(project: &Project, s: &Source, path: &str) -> (Vec<usize>, usize) {
    let parts: Vec<&str> = path.split('.').collect();
    let found = (1..=parts.len()).rev().map(|k| {
        let (module, member) = (parts[..k - 1].join("."), Some(parts[k - 1].to_string()));
        (project.resolved(s, &ImportRef { level: 0, module, member, wildcard: false }), k)
    });
    found.into_iter().find(|f| !f.0.is_empty()).unwrap_or_default()
}

/// The class that a path names, where that is one of the project.
pub(crate) fn class(project: &Project, s: &Source, path: &str) -> Option<(Arc<Source>, NodeId)> {
    let path: String = path.split('<').next()?.split_whitespace().collect();
    let (found, k) = files(project, s, &path);
    let home = project.source(*found.first()?).ok()?;
    let t = &home.tree;
    let within = |block: NodeId, name: &str| {
        let named = |c: &NodeId| t.child(*c, Field::Name).is_some_and(|n| home.str(n) == name);
        t.children(block).map(|c| t.definition_in(c)).filter(|c| t.role(*c) == Role::Class).find(named)
    };
    let mut parts = path.split('.').skip(k - 1);
    let top = within(Tree::ROOT, parts.next()?)?;
    let node = parts.try_fold(top, |c, name| within(t.child(c, Field::Body)?, name))?;
    Some((home, node))
}
