//! What a bare name may be through the classes that those around it extend: code that moves to another class must not
//! find something else there. Of classes outside the project little is known, so it often only may be.

use crate::index::Project;
use crate::lang::MemberOf;
use crate::names::{Reference, Source};
use crate::tree::{NodeId, Role};

#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug)]
pub enum Inherited {
    No,
    Perhaps,
    Surely,
}

impl Inherited {
    fn of(found: MemberOf) -> Inherited {
        match found {
            MemberOf::Class(_) | MemberOf::Likely(_) => Inherited::Surely,
            MemberOf::Unknown => Inherited::Perhaps,
            MemberOf::Other => Inherited::No,
        }
    }
}

/// A member that one of the classes around a name has from above, where nothing nearer binds it.
pub fn as_member(project: &Project, s: &Source, name: NodeId) -> Inherited {
    let definitions = |s: &Source, name: &str| project.definition(s, name);
    // what is imported whole is found after what is inherited
    let whole = || s.lang.seen_through(s, s.str(name)).is_some();
    let found = match s.names.is_imported(name) || whole() {
        true => s.lang.member_around(s, name, s.str(name), &definitions),
        false => s.lang.member_of(s, name, &definitions),
    };
    let found = Inherited::of(found);
    let t = &s.tree;
    let outside = || {
        let mut classes = t.ancestors(name).filter(|a| t.role(*a) == Role::Class);
        classes.any(|c| s.lang.may_inherit(s, c, s.str(name), &definitions))
    };
    if found == Inherited::No && outside() { Inherited::Perhaps } else { found }
}

/// A static member that a class in between has from above too: it is the same one, by either way.
pub fn is_same_static(project: &Project, s: &Source, name: NodeId) -> bool {
    let definitions = |s: &Source, name: &str| project.definition(s, name);
    let Some(b) = s.names.at(name).and_then(|r| r.target).filter(|b| s.names.is_member(*b)) else { return false };
    let class = s.names.scope(s.names.binding(b).scope).node;
    let own = s.lang.class_type(s, class, &definitions).0;
    let around = s.lang.member_around(s, name, s.str(name), &definitions);
    !s.lang.is_of_object(s, b)
        && own.is_known()
        && matches!(around, MemberOf::Class(c) if crate::index::class_tree::same_class(c, own))
        && s.tree.ancestors(name).filter(|a| *a > class && s.tree.role(*a) == Role::Class).all(|c| {
            s.lang.class_type(s, c, &definitions).1.iter().all(|a| crate::index::class_tree::same_class(*a, own))
        })
}

/// A class that stands in one of those that the classes around a place extend.
pub fn as_type(project: &Project, s: &Source, place: NodeId, name: &str) -> Inherited {
    let definitions = |s: &Source, name: &str| project.definition(s, name);
    Inherited::of(s.lang.class_above_place(s, place, name, &definitions))
}

/// A name in the place of a type, or before a dot, of which its file does not say that it is another thing.
pub fn of_type_place(project: &Project, s: &Source, r: &Reference) -> Inherited {
    let as_type = as_type(project, s, r.node, s.str(r.node));
    // before a dot a variable is meant first
    let own = r.target.is_some() && !s.names.is_imported(r.node);
    if r.is_type() || own { as_type } else { as_type.max(as_member(project, s, r.node)) }
}

/// What a name that a function has for a local would be where a class of its own stands around a word in it: that class
/// may have a member of the name, or inherit one.
pub fn of_local(project: &Project, s: &Source, word: NodeId, name: &str, function: NodeId) -> Inherited {
    let definitions = |s: &Source, name: &str| project.definition(s, name);
    let t = &s.tree;
    let between = || t.ancestors(word).take_while(|a| *a > function).filter(|a| t.role(*a) == Role::Class);
    if !s.names.members_in_sight || between().next().is_none() {
        return Inherited::No;
    }
    match Inherited::of(s.lang.member_around(s, word, name, &definitions)) {
        Inherited::No if between().any(|c| s.lang.may_inherit(s, c, name, &definitions)) => Inherited::Perhaps,
        found => found,
    }
}
