//! Moved code is read in the mode in which it was read, or what depends on the mode is told.

use super::check::Check;
use super::{Opinion, object};
use crate::change::Code;
use crate::tree::{Field, NodeId, Role};

impl Check<'_> {
    pub(super) fn same_mode(&self) -> Opinion<()> {
        let (o, t) = (self.old(), &self.old().tree);
        // a class at the beginning is read in a mode of its own
        let was = o.lang.mode(o, t.parent(self.site.first).unwrap_or(self.site.first));
        if was == self.home.lang.mode(self.home, self.definition) {
            return Ok(());
        }
        if o.lang.modes_change_all() {
            return object(o, self.site.first, "the function is read in another way than the code was");
        }
        let told = self.change.result.reasons.iter().any(|r| r.code == Code::Mode);
        let written = |n: NodeId| {
            let parent = t.parent(n)?;
            let own = t.role(parent).assigns() && t.field(n) == Field::Left;
            (own || t.role(parent) == Role::Delete).then_some(t.role(n))
        };
        let inside = (self.site.first.0..t.end(self.site.last).0).map(NodeId);
        for n in inside.filter(|n| o.lang.mode(o, *n) == was) {
            match written(n) {
                Some(Role::Name) if o.names.at(n).is_some_and(|r| r.target.is_none()) => {
                    return object(o, n, "a variable without a declaration is written in another mode");
                }
                Some(Role::Member | Role::Index) if !told => {
                    return object(o, n, "what may be closed to writing is written in another mode");
                }
                _ => {}
            }
        }
        Ok(())
    }
}
