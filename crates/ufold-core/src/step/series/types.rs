//! Types of what a list holds, where literals have types of their own: a variable of the loop has that of all like them, or
//! just theirs where something asks for it.

use super::counted::Given;
use crate::change::{Code, Found, reason};
use crate::index::Project;
use crate::names::Source;
use crate::plan::literal_types::{is_depended_on, is_widened};
use crate::tree::{NodeId, Role};

pub(super) fn is_asked_for(project: &Project, s: &Source, n: NodeId) -> bool {
    has_own_type(s, n) && is_depended_on(project, s, n)
}

fn has_own_type(s: &Source, n: NodeId) -> bool {
    s.tree.role(n) == Role::Literal && s.lang.of_literals(&[s.str(n)]).is_some()
}

/// Whether the list has the types of its literals; refused where something else takes its own type from one of them.
pub(super) fn of_values(s: &Source, given: &[Given], asked: &dyn Fn(NodeId) -> bool) -> Found<bool> {
    let all = || given.iter().flat_map(|g| &g.uses).map(|u| u.0);
    let own = all().any(asked);
    let several = given.len() > 1;
    match all().find(|n| has_own_type(s, *n) && is_widened(s, *n)).filter(|_| own || several) {
        Some(n) => {
            let why = "this gives a variable its type, and the list has those of its values";
            Err(vec![reason(s, n, Code::UnknownType, why)])
        }
        None => Ok(own),
    }
}
