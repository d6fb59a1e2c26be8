//! Context managers that may end their block early: what the block was to give a value has another one then.
//!
//! A manager of the project is looked at: a class whose leaving member hands over nothing, a generator that catches nothing
//! around its one place to wait, let everything through. What is not known is an assumption, where it matters: a local
//! that the block writes is read after it.

use crate::change::{Reason, reason};
use crate::index::Project;
use crate::index::unseen::definition_of;
use crate::names::Source;
use crate::plan::region::Portion;
use crate::tree::{Field, NodeId, Role};

enum Manager {
    LetsThrough,
    Unknown,
    Swallows,
}

/// Assumptions about the managers in the sites, or why they can't be made.
pub fn swallowed(project: &Project, sites: &[Portion]) -> Result<Vec<Reason>, Reason> {
    let mut out = Vec::new();
    for site in sites {
        let s = site.source();
        let t = &s.tree;
        let range = (site.region.first.0..site.region.end().0).map(NodeId);
        for with in range.filter(|n| t.role(*n) == Role::With) {
            let Some(body) = t.child(with, Field::Body).filter(|b| matters(site, with, *b)) else { continue };
            for item in t.children(with).filter(|c| *c != body) {
                let Some(expression) = t.subtree(item).find(|n| t.role(*n).is_expression()) else { continue };
                let name = s.str(t.child(expression, Field::Callee).unwrap_or(expression)).to_string();
                match manager(project, s, expression) {
                    Manager::LetsThrough => {}
                    Manager::Unknown => {
                        let message = format!("`{name}` lets exceptions through");
                        out.push(reason(s, with, "swallowed", message));
                    }
                    Manager::Swallows => {
                        let message =
                            format!("`{name}` may end its block early, and what the block writes is read after it");
                        return Err(reason(s, with, "swallowed", message));
                    }
                }
            }
        }
    }
    out.truncate(crate::index::unseen::MOST_PLACES);
    Ok(out)
}

/// A local that had a value before is written in the block and read after it.
fn matters(site: &Portion, with: NodeId, body: NodeId) -> bool {
    let s = site.source();
    let t = &s.tree;
    let function_end = t.end(site.function);
    s.names.in_range(body, t.end(body)).iter().filter(|r| r.usage.writes()).filter_map(|r| r.target).any(|b| {
        let later = s.names.in_range(t.end(with), function_end).iter().any(|r| r.target == Some(b) && r.usage.reads());
        let binding = s.names.binding(b);
        let before = binding.first < site.region.first;
        later && before && s.names.frame_of(b) == s.names.frame(site.scope)
    })
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
