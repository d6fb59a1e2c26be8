//! The members that a class, an interface or the alias of an object's type declares itself.

use crate::lang::OwnMembers;
use crate::names::{BindingId, Source};
use crate::tree::{Field, NodeId, Role};

/// Names, and whether nothing without it is taken for the type; none when it is no plain list of members.
pub fn own_members(s: &Source, node: NodeId) -> Option<OwnMembers> {
    let t = &s.tree;
    let is_list = |n: &NodeId| t.role(*n) == Role::Block || t.role(*n) == Role::Type && s.str(*n).starts_with('{');
    let list = t.children(node).filter(|c| t.field(*c) != Field::Name && t.field(*c) != Field::TypeParams);
    let list = list.into_iter().find(is_list)?;
    let mut out = Vec::new();
    for member in t.children(list).filter(|m| !matches!(t.role(*m), Role::Token | Role::Decorator | Role::Doc)) {
        let name = t.child(member, Field::Name).or(t.child(member, Field::Member))?;
        if !t.is_leaf(name) {
            return None;
        }
        let head = &s.text[t.span(member).start..t.span(name).start];
        let of_class = head.split_whitespace().any(|w| w == "static") || s.str(name) == "constructor";
        if !of_class {
            let optional = s.text[t.span(name).end..].starts_with('?');
            out.push((s.str(name).trim_matches(['"', '\'']).to_string(), !optional));
        }
    }
    // parameters that declare a member
    let bindings = (0..s.names.bindings.len() as u32).map(BindingId);
    let declares = |b: &BindingId| t.contains(node, s.names.binding(*b).first) && s.lang.is_member_too(s, *b);
    out.extend(bindings.filter(declares).map(|b| (s.names.binding(b).name.clone(), true)));
    Some(out)
}
