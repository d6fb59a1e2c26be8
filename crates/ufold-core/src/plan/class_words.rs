//! Words of a copy that mean the class around it: what they say is another thing outside of it, or nothing.

use crate::plan::region::Portion;
use crate::tree::{NodeId, Role};

impl Portion<'_> {
    /// Names that are visible only in the class or change their meaning outside it; those of a class that the code makes
    /// itself go with it.
    pub fn needs_class(&self) -> Option<NodeId> {
        let s = self.source();
        self.of_class(&|role, word| match role {
            Role::Name => s.lang.needs_class(word) || s.lang.is_mangled(word),
            Role::MemberName | Role::KeywordName => s.lang.is_mangled(word),
            _ => false,
        })
    }

    /// A name by which the code asks for its class and its object.
    pub fn asks_above(&self) -> Option<NodeId> {
        self.of_class(&|role, word| role == Role::Name && self.source().lang.needs_class(word))
    }

    fn of_class(&self, is_such: &dyn Fn(Role, &str) -> bool) -> Option<NodeId> {
        let (s, t) = (self.source(), &self.source().tree);
        let made_here = |n: NodeId| t.ancestor(n, &[Role::Class]).is_some_and(|c| self.region.contains(c));
        let mut all = (self.region.first.0..self.region.end().0).map(NodeId);
        all.find(|n| is_such(t.role(*n), s.str(*n)) && !made_here(*n))
    }
}
