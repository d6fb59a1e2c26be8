//! The code whose order a step may change: a function's, or that of a file which no other file imports.
//!
//! What a file does when it is loaded is seen by those that import it, and by what it calls and imports, if these look back
//! at it. Where nobody imports it its variables are its own until something calls a function of it that uses them; these
//! count as shared anyway. Given up in class bodies, and where names without a class are members.

use crate::align::Region;
use crate::change::{Code, Reason, reason};
use crate::index::Project;
use crate::index::alone::watcher;
use crate::index::seen::{asks_for_names, shows_names};
use crate::names::Source;
use crate::plan::cells::crossed;
use crate::tree::{NodeId, Role, Tree};

/// The function around a statement, or the file.
pub(crate) fn around(project: &Project, s: &Source, statement: NodeId) -> Result<NodeId, Reason> {
    let t = &s.tree;
    if let Some(f) = t.callable_around(statement).filter(|f| t.holds_statements(*f)) {
        return Ok(f);
    }
    let no = |message: &str| Err(reason(s, statement, Code::OutsideFunction, message));
    if s.names.members_in_sight || t.ancestor(statement, &[Role::Class, Role::Function, Role::Lambda]).is_some() {
        return no("this is no code of a function, or of a file");
    }
    if project.index(&s.path).is_none() {
        return no("it is not a file of the project");
    }
    if let Some((file, line, how)) = watcher(project, s) {
        let message = format!("{how}, and may see in which order the file does things");
        return Err(Reason { code: Code::OutsideFunction, message, file, line });
    }
    let reads = || t.ids().find(|n| asks_for_names(s, *n));
    if let Some(n) = shows_names(project, s, Tree::ROOT, true).or_else(reads) {
        return Err(reason(s, n, Code::Reflection, "names are looked at by texts here"));
    }
    match s.module.as_ref().is_some_and(|m| m.is_package) {
        true => no("who imports the package may see in which order the file does things"),
        false => Ok(Tree::ROOT),
    }
}

/// Statements of a notebook stay in their cell, and what a cell shows stays its last.
pub(crate) fn leaves_cell(s: &Source, first: NodeId, last: NodeId) -> Option<Reason> {
    crossed(&Region { source: s, first, last, is_expression: false })
}
