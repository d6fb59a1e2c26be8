//! Assignments that fail: to a variable before its declaration was reached, or to one that keeps its first value. Where
//! variables are declared, and no compiler has looked at it.

use crate::names::{BindKind, Source};
use crate::tree::{NodeId, Role};

/// Giving a variable a value at this name surely does no more.
pub(crate) fn is_sure_write(s: &Source, name: NodeId) -> bool {
    let t = &s.tree;
    let Some(b) = s.names.at(name).and_then(|r| r.target) else { return true };
    let binding = s.names.binding(b);
    let free = !s.lang.declares_locals() || s.lang.types_locals();
    if free || binding.hoisted || binding.kind != BindKind::Variable || binding.first == name {
        return true;
    }
    let Some(declare) = t.ancestor(binding.first, &[Role::Declare]) else { return true };
    let fixed = s.lang.declaring_words(s, declare).is_some_and(|w| s.lang.declares_fixed(w));
    let below = binding.first < name && t.parent(declare).is_some_and(|p| t.contains(p, name));
    !fixed && below && t.callable_around(name) == t.callable_around(declare)
}
