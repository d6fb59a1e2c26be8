//! Code that comes to stand where the language is read in another mode, so that a write may throw there and not here.

use crate::change::{Reason, reason};
use crate::plan::home::Home;
use crate::plan::region::Portion;
use crate::tree::{Field, NodeId, Role, Tree};

/// What must hold where a site's code changes its mode: nothing that it writes to is closed to writing. A variable that
/// nothing declares can't be written in both modes.
pub fn changed(sites: &[Portion], home: &Home) -> Result<Vec<Reason>, Reason> {
    let there = home.source(sites);
    let place = home.class.or(home.nest).unwrap_or(Tree::ROOT);
    let mut out = Vec::new();
    for site in sites {
        let s = site.source();
        if s.lang.mode(s, site.region.first) == there.lang.mode(there, place) {
            continue;
        }
        for n in (site.region.first.0..site.region.end().0).map(NodeId) {
            let t = &s.tree;
            let writes = matches!(t.role(n), Role::Assign | Role::AugAssign | Role::Delete);
            let Some(target) = t.child(n, Field::Left).or_else(|| t.children(n).next()).filter(|_| writes) else {
                continue;
            };
            match t.role(target) {
                Role::Name if s.names.at(target).is_some_and(|r| r.target.is_none()) => {
                    let message = format!(
                        "`{}` is declared nowhere: writing it throws in one place and not in the other",
                        s.str(target)
                    );
                    return Err(reason(s, target, "mode", message));
                }
                Role::Member | Role::Index if out.is_empty() => {
                    let message = format!(
                        "`{}` can be written: where it can't, only one of the two modes says so",
                        s.str(target)
                    );
                    out.push(reason(s, target, "mode", message));
                }
                _ => {}
            }
        }
    }
    Ok(out)
}
