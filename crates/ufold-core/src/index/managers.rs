//! What is known of a context manager: whether exceptions that leave its block go on.

use crate::index::Project;
use crate::index::unseen::definition_of;
use crate::names::Source;
use crate::tree::{Field, NodeId, Role};

pub(crate) enum Manager {
    LetsThrough,
    Unknown,
    Swallows,
}

/// The expressions that a block is opened with, and what is known of each.
pub(crate) fn managers_of(project: &Project, s: &Source, with: NodeId) -> Vec<(String, Manager)> {
    let t = &s.tree;
    let items = t.children(with).filter(|c| t.field(*c) != Field::Body);
    let expressions = items.filter_map(|item| t.subtree(item).find(|n| t.role(*n).is_expression()));
    let known = |e: NodeId| {
        let name = s.str(t.child(e, Field::Callee).unwrap_or(e)).to_string();
        (name, manager(project, s, e))
    };
    expressions.map(known).collect()
}

fn manager(project: &Project, s: &Source, expression: NodeId) -> Manager {
    let t = &s.tree;
    let called = t.child(expression, Field::Callee).unwrap_or(expression);
    if s.lang.swallows(s.str(called)) {
        return Manager::Swallows;
    }
    if s.lang.lets_exceptions_through(s.str(called)) {
        return Manager::LetsThrough;
    }
    let Some((home, definition)) = definition_of(project, s, called) else { return Manager::Unknown };
    let h = &home.tree;
    match h.role(definition) {
        Role::Class => {
            let leaving = home.lang.leaving_member().zip(home.names.scope_of(definition));
            let own = leaving.and_then(|(name, scope)| home.names.declared_in(scope, name));
            let Some(function) = own.and_then(|b| h.parent(home.names.binding(b).first)) else {
                return Manager::Unknown;
            };
            let says = |n: NodeId| {
                h.role(n) == Role::Return && h.callable_around(n) == Some(function) && {
                    let value = h.children(n).find(|c| h.role(*c) != Role::Token);
                    value.is_some_and(|v| !home.lang.is_nothing(home.str(v)) && home.str(v) != home.lang.truth(false))
                }
            };
            if h.subtree(function).any(says) { Manager::Swallows } else { Manager::LetsThrough }
        }
        Role::Function => {
            let catches = h.subtree(definition).any(|n| h.role(n) == Role::Except || h.role(n) == Role::With);
            if catches { Manager::Unknown } else { Manager::LetsThrough }
        }
        _ => Manager::Unknown,
    }
}
