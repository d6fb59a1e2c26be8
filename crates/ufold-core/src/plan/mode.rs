//! Code that comes to stand where the language is read in another mode, so that a write may throw there and not here.

use crate::change::{Code, Reason, reason};
use crate::names::Source;
use crate::plan::home::Home;
use crate::plan::region::Portion;
use crate::tree::{Field, NodeId, Role, Tree};

/// A write in a piece of code that depends on the mode, which is another one at a place.
pub fn differs(s: &Source, from: NodeId, end: NodeId, at: (&Source, NodeId)) -> Option<NodeId> {
    let t = &s.tree;
    if s.lang.mode(s, from) == at.0.lang.mode(at.0, at.1) {
        return None;
    }
    if s.lang.modes_change_all() {
        return Some(from);
    }
    (from.0..end.0).map(NodeId).find_map(|n| written(s, n).filter(|w| depends(s, *w) || t.role(*w) != Role::Name))
}

/// What an assignment or a deletion writes.
fn written(s: &Source, n: NodeId) -> Option<NodeId> {
    let t = &s.tree;
    let writes = t.role(n).assigns() || t.role(n) == Role::Delete;
    t.child(n, Field::Left).or_else(|| t.children(n).next()).filter(|_| writes)
}

/// A name that nothing declares.
fn depends(s: &Source, target: NodeId) -> bool {
    s.tree.role(target) == Role::Name && s.names.at(target).is_some_and(|r| r.target.is_none())
}

/// What must hold where a site's code changes its mode: nothing that it writes to is closed to writing. A variable that
/// nothing declares can't be written in both modes.
pub fn changed(sites: &[Portion], home: &Home) -> Result<Vec<Reason>, Reason> {
    let there = home.source(sites);
    let place = home.class.or(home.nest).unwrap_or(Tree::ROOT);
    let mut out = Vec::new();
    for site in sites {
        let s = site.source();
        // what the code declares itself may have a mode of its own
        let around = s.tree.parent(site.region.first).unwrap_or(Tree::ROOT);
        let (own, new) = (s.lang.mode(s, around), there.lang.mode(there, place));
        if own == new {
            continue;
        }
        if s.lang.modes_change_all() {
            let message = "what stands around this says how it is read, and does not stand around the function";
            return Err(reason(s, site.region.first, Code::Mode, message));
        }
        let changes = |n: &NodeId| s.lang.mode(s, *n) == own;
        for n in (site.region.first.0..site.region.end().0).map(NodeId).filter(changes) {
            let Some(target) = written(s, n) else { continue };
            match s.tree.role(target) {
                Role::Name if depends(s, target) => {
                    let message = format!(
                        "`{}` is declared nowhere: writing it throws in one place and not in the other",
                        s.str(target)
                    );
                    return Err(reason(s, target, Code::Mode, message));
                }
                Role::Member | Role::Index if out.is_empty() => {
                    let message = format!(
                        "`{}` can be written: where it can't, only one of the two modes says so",
                        s.str(target)
                    );
                    out.push(reason(s, target, Code::Mode, message));
                }
                _ => {}
            }
        }
    }
    Ok(out)
}
