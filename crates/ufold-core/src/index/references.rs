//! What a search for references gives: those that are surely one, and what must hold for them to be all.

use std::sync::Arc;

use crate::change::Reason;
use crate::names::Source;
use crate::tree::NodeId;

/// Who refers to something.
pub(crate) struct References {
    /// They surely do.
    pub(crate) sure: Vec<Uses>,
    /// What must hold for these to be all, each with its place.
    pub(crate) possible: Vec<Reason>,
}

/// Words of one file that refer to it.
pub(crate) struct Uses {
    pub(crate) source: Arc<Source>,
    pub(crate) nodes: Vec<NodeId>,
}

pub(super) fn add_uses(all: &mut Vec<Uses>, more: Vec<Uses>) {
    for u in more {
        match all.iter_mut().find(|o| o.source.path == u.source.path) {
            Some(o) => {
                o.nodes.extend(u.nodes);
                o.nodes.sort();
                o.nodes.dedup();
            }
            None => all.push(u),
        }
    }
}

/// The node is among them.
pub(crate) fn is_told(uses: &[Uses], s: &Source, n: NodeId) -> bool {
    uses.iter().any(|u| u.source.path == s.path && u.nodes.contains(&n))
}
