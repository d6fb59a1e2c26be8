//! Locals whose end the program can see: what a local holds goes when its function ends, so code that moves into a
//! function of its own lets go of it earlier.
//!
//! Only in languages where an object ends with its last holder. What is told: objects of classes with such an end, those
//! of the language's library that hold something, and objects that nothing looks at, which are held for nothing else.

use crate::change::{Code, Reason, reason};
use crate::index::Project;
use crate::index::unseen::{called, definition_of};
use crate::names::{BindingId, Source, Use};
use crate::plan::region::Portion;
use crate::tree::{Field, NodeId, Role};

/// Assumptions for what the sites would let go of earlier.
pub fn let_go(project: &Project, sites: &[Portion], kept: &dyn Fn(usize, BindingId) -> bool) -> Vec<Reason> {
    let mut out: Vec<Reason> = Vec::new();
    for (i, site) in sites.iter().enumerate() {
        let s = site.source();
        let Some(end) = s.lang.finalizer() else { continue };
        if site.whole || is_last(site) {
            continue;
        }
        let t = &s.tree;
        let range =
            t.ids().skip(site.region.first.0 as usize).take((site.region.end().0 - site.region.first.0) as usize);
        for n in range.filter(|n| t.role(*n) == Role::Assign) {
            let (Some(left), Some(right)) = (t.child(n, Field::Left), t.child(n, Field::Right)) else { continue };
            let Some(b) = s.names.at(left).and_then(|r| r.target).filter(|b| !kept(i, *b)) else { continue };
            if t.role(right) == Role::Call && holds(project, s, right, b, end) {
                let name = &s.names.binding(b).name;
                let message = format!("nothing depends on `{name}` being held until the function around it ends");
                out.push(reason(s, n, Code::Lifetime, message));
            }
        }
    }
    out.truncate(crate::index::unseen::MOST_PLACES);
    out
}

/// Nothing of the function runs after the region.
fn is_last(site: &Portion) -> bool {
    let t = &site.source().tree;
    let body = t.child(site.function, Field::Body).unwrap_or(site.function);
    t.end(body) == site.region.end()
}

fn holds(project: &Project, s: &Source, call: NodeId, b: BindingId, end: &str) -> bool {
    let t = &s.tree;
    let never_read = !s.names.references_to(b).any(|r| r.usage != Use::Write);
    let of_library = called(s, call).is_some_and(|(word, _)| s.lang.holding_calls().contains(&word));
    let callee = t.child(call, Field::Callee);
    let class = callee.and_then(|c| definition_of(project, s, c));
    let of_project =
        class.is_some_and(|(home, c)| home.names.scope_of(c).is_some_and(|x| home.names.declared_in(x, end).is_some()));
    never_read || of_library || of_project
}
