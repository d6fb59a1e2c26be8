//! Types that are told by their members alone: an object of one is taken for another, without a word that says so, when it
//! has the members of that.
//!
//! By names only, what is inherited counted in; a type of which not all members can be told may be any.

use std::sync::Arc;

use rustc_hash::FxHashSet;

use crate::index::{Project, bases};
use crate::names::{BindingId, Source};
use crate::tree::{Field, NodeId, Role};

/// A class or another type, by its file and its node.
type Class = (Arc<Source>, NodeId);

/// What objects of a type have.
#[derive(Default)]
struct Shape {
    all: FxHashSet<String>,
    /// Without which nothing is taken for it.
    needed: FxHashSet<String>,
    /// Only objects of the class itself are taken for one.
    closed: bool,
}

/// An object of one of two types may be taken for one of the other.
pub(crate) fn may_meet(project: &Project, a: &Class, b: &Class) -> bool {
    if [a, b].iter().all(|c| !c.0.lang.is_shape(&c.0, c.1)) {
        return false;
    }
    let (Some(a), Some(b)) = (shape(project, a), shape(project, b)) else { return true };
    let fits = |a: &Shape, b: &Shape| !b.closed && b.needed.is_subset(&a.all);
    fits(&a, &b) || fits(&b, &a)
}

fn shape(project: &Project, of: &Class) -> Option<Shape> {
    let mut out = Shape::default();
    for (s, node) in bases::with_bases(project, of.clone()) {
        if bases::of(&s, node).into_iter().any(|b| bases::behind(project, &s, b).is_none()) {
            return None;
        }
        out.closed |= !s.lang.is_shape(&s, node);
        own(&s, node, &mut out)?;
    }
    Some(out)
}

/// What a type itself declares; none when that is not a plain list of members.
fn own(s: &Source, node: NodeId, out: &mut Shape) -> Option<()> {
    let t = &s.tree;
    let is_list = |n: &NodeId| t.role(*n) == Role::Block || t.role(*n) == Role::Type && s.str(*n).starts_with('{');
    let list = t.children(node).filter(|c| t.field(*c) != Field::Name && t.field(*c) != Field::TypeParams);
    let list = list.into_iter().find(is_list)?;
    for member in t.children(list).filter(|m| !matches!(t.role(*m), Role::Token | Role::Decorator | Role::Doc)) {
        let name = crate::index::class_members::name_of(s, member).or_else(|| t.child(member, Field::Name))?;
        if !t.is_leaf(name) {
            return None;
        }
        let word = s.str(name).trim_matches(['"', '\'']).to_string();
        let head = &s.text[t.span(member).start..t.span(name).start];
        if head.split_whitespace().any(|w| w == "static") {
            continue;
        }
        if !s.text[t.span(name).end..].starts_with('?') {
            out.needed.insert(word.clone());
        }
        out.all.insert(word);
    }
    // parameters that declare a member
    for b in (0..s.names.bindings.len() as u32).map(BindingId) {
        let binding = s.names.binding(b);
        if t.contains(node, binding.first) && s.lang.is_member_too(s, b) {
            out.all.insert(binding.name.clone());
            out.needed.insert(binding.name.clone());
        }
    }
    Some(())
}
