//! Types that are told by their members alone: an object of one is taken for another, without a word that says so, when it
//! has the members of that.
//!
//! By names only, what is inherited counted in; a type of which not all members can be told may be any.

use rustc_hash::FxHashSet;

use crate::index::bases::Class;
use crate::index::{Project, bases};

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
        for (name, needed) in s.lang.own_members(&s, node)? {
            out.needed.extend(needed.then(|| name.clone()));
            out.all.insert(name);
        }
    }
    Some(out)
}
