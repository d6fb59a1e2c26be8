//! What a class does before it is first used: its static constructor, and what its static fields are made with.
//!
//! Without such a constructor the runtime may do it earlier; some do it when the first method is called, which can be seen.

use super::library::LIBRARY;
use super::types::Types;
use super::{has_word, words};
use crate::tree::{Field, NodeId, Role};

impl Types<'_> {
    pub fn acts_when_loaded(self, class: NodeId) -> bool {
        let (s, t) = (self.s, &self.s.tree);
        let name = t.child(class, Field::Name).map_or("", |n| s.str(n));
        let named = |f: NodeId| t.child(f, Field::Name).is_some_and(|n| s.str(n) == name);
        let members = t.child(class, Field::Body).map_or(Vec::new(), |b| t.children(b).collect());
        members.into_iter().filter(|m| has_word(s, *m, "static")).any(|m| match t.role(m) {
            Role::Function => named(m),
            Role::ClassField => {
                let made =
                    t.children(m).filter(|c| t.role(*c) == Role::Assign).filter_map(|a| t.child(a, Field::Right));
                made.into_iter().any(|value| self.acts(value))
            }
            _ => false,
        })
    }

    /// An expression may do something that is seen, or hang on what was done before.
    fn acts(self, value: NodeId) -> bool {
        let (s, t) = (self.s, &self.s.tree);
        let inside =
            |role: Role| move |n: &NodeId| t.ancestors(*n).take_while(|a| *a >= value).any(|a| t.role(a) == role);
        let all = t.subtree(value).filter(|n| !inside(Role::Lambda)(n));
        let acts = |n: NodeId| match t.role(n) {
            Role::Call => !self.makes_of_library(n),
            Role::Await | Role::Assign | Role::AugAssign | Role::Index => true,
            Role::Member => {
                let word = t.child(n, Field::Member).map_or("", |m| s.str(m));
                let callee = t.field(n) == Field::Callee || inside(Role::Type)(&n);
                !callee && !self.is_constant(n) && !words::FIXED_MEMBERS.contains(&word)
            }
            Role::Name => {
                let variable = s.names.at(n).and_then(|r| r.target).filter(|b| s.names.is_member(*b));
                variable.is_some_and(|b| super::classes::is_property(s, b))
            }
            _ => false,
        };
        all.into_iter().any(acts)
    }

    /// `new List<int>()`, `nameof(x)`
    fn makes_of_library(self, call: NodeId) -> bool {
        let (s, t) = (self.s, &self.s.tree);
        let Some(callee) = t.child(call, Field::Callee) else { return false };
        let name = s.str(callee).split('<').next().unwrap_or("").trim();
        let own = || (self.definitions)(s, name).is_some() || s.names.in_module(name).is_some();
        name == "nameof" || s.str(call).starts_with("new") && LIBRARY.any_class(name).is_some() && !own()
    }
}
