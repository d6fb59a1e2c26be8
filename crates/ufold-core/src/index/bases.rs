//! What classes extend: the names that stand for it, and the classes of the project that are meant by them.
//!
//! Names that another name was given for are followed (`S = Ship`, `import Ship as S`). What calls make, and what a
//! variable has from several places, is told by nobody: the class is open then.

use std::sync::Arc;

use crate::index::unseen::definition_of;
use crate::index::{Entity, Project};
use crate::names::{Binding, Source};
use crate::tree::{Field, NodeId, Role};

/// A class, by its file and its node.
pub(crate) type Class = (Arc<Source>, NodeId);

/// Names that stand for each other.
pub(crate) const MOST_NAMES: usize = 16;

/// What a class is made by: marks on it, and bases that are not of the project.
pub(crate) struct Making {
    pub marks: Vec<NodeId>,
    pub foreign: Vec<NodeId>,
}

/// Marks and foreign bases of a class, those of its bases in the project too.
pub(crate) fn making(project: &Project, s: &Arc<Source>, class: NodeId) -> Vec<(Arc<Source>, Making)> {
    let mut out = Vec::new();
    let mut todo = vec![(s.clone(), class)];
    let mut seen: Vec<(String, NodeId)> = Vec::new();
    while let Some((s, class)) = todo.pop() {
        if seen.contains(&(s.path.clone(), class)) {
            continue;
        }
        seen.push((s.path.clone(), class));
        let t = &s.tree;
        let around = t.parent(class).filter(|p| t.role(*p) == Role::Decorated);
        let marks =
            around.into_iter().chain([class]).flat_map(|n| t.children(n)).filter(|c| t.role(*c) == Role::Decorator);
        let mut making = Making { marks: marks.collect(), foreign: Vec::new() };
        for base in of(&s, class) {
            match behind(project, &s, base) {
                Some((home, d)) if home.tree.role(d) == Role::Class => todo.push((home, d)),
                _ if s.lang.harmless_bases().contains(&s.str(base)) => {}
                _ => making.foreign.push(base),
            }
        }
        out.push((s.clone(), making));
    }
    out
}

/// The names and paths that stand as the bases of a class; what they are made generic by is no base.
pub(crate) fn of(s: &Source, class: NodeId) -> Vec<NodeId> {
    let t = &s.tree;
    let is_argument = |n: NodeId| {
        let mut path = std::iter::once(n).chain(t.ancestors(n)).take_while(|a| *a != class);
        path.any(|a| match t.parent(a).map(|p| (p, t.role(p))) {
            Some((p, Role::Index)) => t.children(p).next() != Some(a),
            _ => t.role(a) == Role::Type && s.str(a).starts_with('<'),
        })
    };
    words(s, class).into_iter().filter(|n| !is_argument(*n)).collect()
}

/// All names and paths in the list of a class's bases.
pub(crate) fn words(s: &Source, class: NodeId) -> Vec<NodeId> {
    let t = &s.tree;
    let extends = |c: &NodeId| t.role(*c) == Role::Type && s.str(*c).starts_with("extends");
    let lists = t.children(class).filter(|c| t.field(*c) == Field::Bases || extends(c));
    lists.flat_map(|list| named_in(s, list)).collect()
}

fn named_in(s: &Source, list: NodeId) -> Vec<NodeId> {
    let t = &s.tree;
    // a type by the path of its packages or of the class around it
    let path = |n: NodeId| {
        let last = t.children(n).last().filter(|_| t.role(n) == Role::Type);
        last.is_some_and(|w| t.role(w) == Role::MemberName)
    };
    let inner = |a: NodeId| {
        let whole = matches!(t.role(a), Role::Member | Role::Call | Role::KeywordArg) || path(a);
        whole || t.field(a) == Field::TypeParams
    };
    let own = |n: &NodeId| {
        let base = matches!(t.role(*n), Role::Name | Role::Member | Role::Call) || path(*n);
        base && t.field(*n) != Field::TypeParams && !t.ancestors(*n).take_while(|a| *a != list).any(inner)
    };
    t.subtree(list).filter(own).collect()
}

/// A class with those that it extends, as far as the project defines them.
pub(crate) fn with_bases(project: &Project, class: Class) -> Vec<Class> {
    let mut out = vec![class];
    let mut at = 0;
    while at < out.len() {
        let (s, class) = out[at].clone();
        at += 1;
        for base in of(&s, class).into_iter().filter_map(|b| behind(project, &s, b)) {
            if !out.iter().any(|o| o.0.path == base.0.path && o.1 == base.1) {
                out.push(base);
            }
        }
    }
    out
}

/// What the project defines by a name or a path, other names for it followed.
pub(crate) fn behind(project: &Project, s: &Source, n: NodeId) -> Option<Class> {
    let mut found = definition_of(project, s, n)?;
    for _ in 0..MOST_NAMES {
        let (home, d) = &found;
        let t = &home.tree;
        let value = t.child(*d, Field::Right).filter(|_| t.role(*d) == Role::Assign);
        let Some(v) = value.filter(|v| matches!(t.role(*v), Role::Name | Role::Member)) else { return Some(found) };
        let next = definition_of(project, home, v)?;
        found = next;
    }
    None
}

/// A variable has its value by a word, as another name for that.
pub(crate) fn is_named_by(s: &Source, b: &Binding, word: &str) -> bool {
    let imported = b.import.as_ref().and_then(|i| i.member.as_deref());
    let value = s.tree.parent(b.first).and_then(|a| s.tree.child(a, Field::Right)).map(|v| s.str(v));
    imported == Some(word) || value.is_some_and(|v| v.rsplit('.').next() == Some(word))
}

/// All that a class extends is known or of a library, which extends nothing of the project.
pub(crate) fn is_closed(project: &Project, class: &Class) -> bool {
    let known = |(s, c): &Class| {
        of(s, *c).into_iter().all(|b| {
            let plain = s.lang.harmless_bases().contains(&s.str(b));
            let found = behind(project, s, b);
            plain
                || found.is_some_and(|(h, d)| matches!(h.tree.role(d), Role::Class | Role::TypeAlias))
                || is_of_library(project, s, b)
        })
    };
    with_bases(project, class.clone()).iter().all(known)
}

/// A class of a library, also one that a function of it makes of what is none of the project's.
fn is_of_library(project: &Project, s: &Source, base: NodeId) -> bool {
    let t = &s.tree;
    if t.role(base) == Role::Call {
        let names = t.subtree(base).filter(|n| t.role(*n) == Role::Name && s.names.at(*n).is_some());
        return names.into_iter().all(|n| is_of_library(project, s, n));
    }
    let free = s.names.at(base).is_some_and(|r| r.target.is_none());
    let entity = if free { Some(project.entity(s, s.str(base))) } else { project.meant(s, base) };
    entity.is_some_and(|e| matches!(e, Entity::Builtin(_)) || e.is_of_library())
}
