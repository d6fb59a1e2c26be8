//! Where locals are declared, and with which words.

use crate::names::{BindingId, Source, Use};
use crate::tree::{Field, NodeId, Role, Tree};

/// Words that declare a local without a value: no use of it, so the names know only the first of them.
pub fn bare_declarations(s: &Source, b: BindingId) -> Vec<NodeId> {
    let (t, binding) = (&s.tree, s.names.binding(b));
    let home = s.names.scope(binding.scope).node;
    let bare = |n: &NodeId| {
        t.role(*n) == Role::Name
            && s.names.at(*n).is_none()
            && s.str(*n) == binding.name
            && t.callable_around(*n).unwrap_or(Tree::ROOT) == home
            && declaring_word(s, *n).is_some()
    };
    if s.lang.declares_locals() { t.subtree(home).filter(bare).collect() } else { Vec::new() }
}

/// The words of the declaration that a name stands in as what is declared.
pub fn declaring_word(s: &Source, name: NodeId) -> Option<&str> {
    let t = &s.tree;
    let mut at = name;
    loop {
        let parent = t.parent(at)?;
        let left = t.field(at) == Field::Left;
        match t.role(parent) {
            Role::Pattern | Role::Spread => {}
            Role::Default | Role::Assign if left => {}
            Role::Declare => return s.lang.declaring_words(s, parent),
            // the variable of a pattern
            Role::Compare | Role::Other if s.names.at(name).is_some_and(|r| r.usage == Use::Write) => {
                return s.lang.declaring_words(s, parent).filter(|_| s.lang.types_locals());
            }
            Role::For if left => {
                let words = s.lang.declaring_words(s, parent);
                return words.filter(|w| s.lang.types_locals() || s.lang.is_declaring_word(w));
            }
            _ => return None,
        }
        at = parent;
    }
}

/// A part of a declared type stands behind the name: `int depths[]`.
pub(crate) fn is_typed_behind(s: &Source, name: NodeId) -> bool {
    s.lang.types_locals() && s.text[s.tree.span(name).end..].starts_with('[')
}

pub fn is_type_parameter(s: &Source, b: BindingId) -> bool {
    let parent = s.tree.parent(s.names.binding(b).first);
    parent.and_then(|p| s.tree.parent(p)).is_some_and(|p| s.tree.role(p) == Role::TypeParams)
}

/// A type parameter with its bounds, as text.
pub fn type_parameter(s: &Source, b: BindingId) -> Option<&str> {
    s.tree.parent(s.names.binding(b).first).map(|p| s.str(p))
}

/// The one value that a variable ever gets.
pub(crate) fn value_of(s: &Source, name: NodeId) -> Option<NodeId> {
    let t = &s.tree;
    let b = s.names.at(name)?.target?;
    let binding = s.names.binding(b);
    if binding.writes != 1 || binding.rebound_inside {
        return None;
    }
    let assign = t
        .parent(binding.first)
        .filter(|p| t.role(*p) == Role::Assign && t.child(*p, Field::Left) == Some(binding.first))?;
    let value = t.child(assign, Field::Right)?;
    (!t.subtree(binding.first).any(|n| t.role(n) == Role::Pattern)).then_some(value)
}
