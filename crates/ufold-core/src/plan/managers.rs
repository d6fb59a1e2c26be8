//! Context managers that may end their block early: what the block was to give a value has another one then.
//!
//! A manager of the project is looked at: a class whose leaving member hands over nothing, a generator that catches nothing
//! around its one place to wait, let everything through. What is not known is an assumption, where it matters: a local
//! that the block writes is read after it.

use crate::change::{Code, Reason, reason};
use crate::index::Project;
use crate::index::managers::{Manager, managers_of};
use crate::names::Source;
use crate::plan::region::Portion;
use crate::tree::{Field, NodeId, Role};

/// Assumptions about the managers in the sites, or why they can't be made.
pub fn swallowed(project: &Project, sites: &[Portion]) -> Result<Vec<Reason>, Reason> {
    let mut out = Vec::new();
    for site in sites {
        let s = site.source();
        let t = &s.tree;
        let range = (site.region.first.0..site.region.end().0).map(NodeId);
        for with in range.filter(|n| t.role(*n) == Role::With) {
            if t.child(with, Field::Body).is_some_and(|b| matters(site, with, b)) {
                out.extend(assumed(project, s, with)?);
            }
        }
    }
    out.truncate(crate::index::unseen::MOST_PLACES);
    Ok(out)
}

/// What must be assumed so that exceptions leave a block, or why they may not.
pub fn assumed(project: &Project, s: &Source, with: NodeId) -> Result<Vec<Reason>, Reason> {
    let mut out = Vec::new();
    for (name, known) in managers_of(project, s, with) {
        match known {
            Manager::LetsThrough => {}
            Manager::Unknown => out.push(reason(s, with, Code::Swallowed, format!("`{name}` lets exceptions through"))),
            Manager::Swallows => {
                let message = format!("`{name}` may end its block early, and what the block writes is read after it");
                return Err(reason(s, with, Code::Swallowed, message));
            }
        }
    }
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
