//! What the class names in its new package: nothing that only its old one sees, and nothing that the new one would show it
//! in the place of another.

use super::Going;
use crate::change::{Code, Found, reason};
use crate::index::class_members::{body, constructors, declared_words};
use crate::index::class_tree::{self, Class, declarations, same_class};
use crate::lang::MemberOf;
use crate::names::Source;
use crate::tree::{Field, NodeId, Role};
use crate::types::Ty;

pub(super) fn check(g: &Going) -> Found<()> {
    if g.near() {
        return Ok(());
    }
    let t = &g.from.tree;
    let named = |n: &NodeId| t.is_leaf(*n) && matches!(t.role(*n), Role::Name | Role::MemberName);
    for n in t.subtree(g.class).filter(named) {
        word(g, n)?;
    }
    for class in g.classes() {
        let relatives = g.relatives(class);
        made_by_those_above(g, class, &relatives)?;
        for r in &relatives {
            kept_by_a_relative(g, class, r)?;
        }
    }
    Ok(())
}

fn type_of_class(g: &Going, s: &Source, class: NodeId) -> Ty {
    let definitions = |s: &Source, name: &str| g.project.definition(s, name);
    s.lang.class_type(s, class, &definitions).0
}

/// A function takes as many values as the call of a word hands on, or may.
pub(super) fn may_be_called(s: &Source, n: NodeId, (h, function): (&Source, NodeId)) -> bool {
    let t = &s.tree;
    let call = t.ancestors(n).take_while(|a| !t.role(*a).is_sequence()).find(|a| t.role(*a) == Role::Call);
    let own = call.filter(|c| t.child(*c, Field::Callee).is_some_and(|x| t.contains(x, n) && t.end(x) == t.end(n)));
    let Some(arguments) = own.and_then(|c| t.child(c, Field::Arguments)) else { return true };
    let count = |s: &Source, list: NodeId| s.tree.children(list).filter(|c| s.tree.role(*c) != Role::Token).count();
    let Some(list) = h.tree.child(function, Field::Parameters) else { return true };
    h.str(list).contains("...") || count(h, list) == count(s, arguments)
}

/// A class of those that go.
pub(super) fn goes(g: &Going, c: Ty) -> bool {
    g.classes().into_iter().any(|x| same_class(type_of_class(g, &g.from, x), c))
}

fn word(g: &Going, n: NodeId) -> Found<()> {
    let s = &g.from;
    let definitions = |s: &Source, name: &str| g.project.definition(s, name);
    let name = s.str(n);
    let refuse = |code: Code, why: String| Err(vec![reason(s, n, code, why)]);
    let local = s.names.at(n).and_then(|r| r.target).is_some_and(|b| {
        let scope = s.names.binding(b).scope;
        scope != crate::names::Names::MODULE && !s.names.is_member(b)
    });
    if local {
        return Ok(());
    }
    class(g, n)?;
    match s.lang.member_of(s, n, &definitions) {
        MemberOf::Class(c) if c.is_known() => {
            if goes(g, c) {
                return Ok(());
            }
            let classes = class_tree::with_word(g.project, name, s.lang);
            let Some(home) = class_tree::of_type(&classes, c) else {
                return refuse(Code::UnknownMember, format!("the class of `{name}` was not found"));
            };
            for r in class_tree::above(&classes, home).into_iter().filter(|r| !g.holds(&r.source, r.node)) {
                let mut all = declarations(&r.source, r.node, name).into_iter();
                let other =
                    |d: &NodeId| r.source.lang.hides_member(&r.source, *d) || !may_be_called(s, n, (&r.source, *d));
                if all.any(|d| !other(&d) && !is_seen(g, &r.source, d, n, r.ty)) {
                    return refuse(Code::NeedsClass, format!("which `{name}` is seen depends on the package"));
                }
            }
            Ok(())
        }
        MemberOf::Class(_) | MemberOf::Other => Ok(()),
        MemberOf::Unknown | MemberOf::Likely(_) => {
            let classes = class_tree::with_word(g.project, name, s.lang);
            let kept = |c: &Class| {
                let s = &c.source;
                let near = g.is_of(s, 0) || g.is_of(s, 1);
                near && !g.holds(s, c.node) && declarations(s, c.node, name).iter().any(|d| !is_open(s, *d))
            };
            match classes.iter().any(kept) {
                true => refuse(
                    Code::UnknownMember,
                    format!("whose `{name}` this is can't be told, and one is its package's"),
                ),
                false => Ok(()),
            }
        }
    }
}

/// A class that is named, and its constructors where it is made.
fn class(g: &Going, n: NodeId) -> Found<()> {
    let s = &g.from;
    let definitions = |s: &Source, name: &str| g.project.definition(s, name);
    let name = s.str(n);
    let refuse = |why: String| Err(vec![reason(s, n, Code::NeedsClass, why)]);
    if let MemberOf::Class(c) | MemberOf::Likely(c) = s.lang.class_named(s, n, &definitions)
        && !goes(g, c)
    {
        let classes = class_tree::with_word(g.project, name, s.lang);
        let Some(home) = class_tree::of_type(&classes, c) else { return Ok(()) };
        if !is_seen(g, &home.source, home.node, n, c) {
            return refuse(format!("`{name}` is not seen from the other package"));
        }
        // one that is protected is called by those below only as theirs
        let (h, neither) = (&home.source, !g.is_of(&home.source, 0) && !g.is_of(&home.source, 1));
        let of = |f: &NodeId| neither || h.lang.is_open(h, *f) || calls_above(g, home, n);
        let mut makes = constructors(&home.source, g.bases(), home.node);
        makes.retain(|f| !home.source.lang.hides_member(&home.source, *f) && may_be_called(s, n, (&home.source, *f)));
        if class_tree::is_made(s, n) && !makes.iter().all(of) {
            return refuse(format!("a constructor of `{name}` is not seen from the other package"));
        }
    }
    Ok(())
}

fn is_open(s: &Source, d: NodeId) -> bool {
    class_tree::is_open_to_all(s, d) || s.lang.hides_member(s, d)
}

/// A declaration is seen from the class in its new package as it was in its old one.
fn is_seen(g: &Going, h: &Source, d: NodeId, n: NodeId, of: Ty) -> bool {
    let t = &h.tree;
    let open = |d: NodeId| h.lang.is_open(h, d);
    let around: Vec<NodeId> = t.ancestors(d).filter(|a| t.role(*a) == Role::Class).collect();
    if !g.is_of(h, 0) && !g.is_of(h, 1) {
        return true;
    }
    let below = h.lang.is_open_below(h, d) && inherits(g, n, of);
    (open(d) || below) && around.into_iter().all(|c| open(c) || h.lang.is_open_below(h, c) && inherits(g, n, of))
}

/// The word stands in a class that extends another one, and asks no other object for it.
fn inherits(g: &Going, n: NodeId, of: Ty) -> bool {
    let (s, t) = (&g.from, &g.from.tree);
    let around = t.ancestors(n).filter(|a| t.role(*a) == Role::Class);
    let extends = |c: NodeId| g.relatives(c).iter().any(|r| same_class(r.ty, of) && is_above(g, c, r));
    asks_its_own(s, n) && around.into_iter().any(extends)
}

/// A member is asked of the object whose code this is, or of what that has from above.
pub(super) fn asks_its_own(s: &Source, n: NodeId) -> bool {
    let t = &s.tree;
    let object = t.parent(n).filter(|_| t.role(n) == Role::MemberName).and_then(|m| t.child(m, Field::Object));
    object.is_none_or(|o| s.lang.object_word() == Some(s.str(o)) || s.lang.needs_class(s.str(o)))
}

/// A class that one which goes extends, perhaps through others.
pub(super) fn is_above(g: &Going, class: NodeId, r: &Class) -> bool {
    let s = &g.from;
    let definitions = |s: &Source, name: &str| g.project.definition(s, name);
    let relatives = g.relatives(class);
    let above =
        |ty: Ty| relatives.iter().filter(|x| same_class(x.ty, ty)).flat_map(|x| x.above.iter().copied()).collect();
    class_tree::leads_to(s.lang.class_type(s, class, &definitions).1, r.ty, above)
}

/// A class without a name that extends the one made here: it may call what those below may.
fn calls_above(g: &Going, home: &Class, n: NodeId) -> bool {
    let (s, t) = (&g.from, &g.from.tree);
    let call = t.ancestors(n).find(|a| t.child(*a, Field::Callee).is_some_and(|c| t.contains(c, n)));
    let body = call.is_some_and(|c| t.children(c).any(|x| t.role(x) == Role::Class));
    let h = &home.source;
    body && constructors(h, s.lang.bases().expect("classes"), home.node).iter().all(|f| h.lang.is_open_below(h, *f))
}

/// Constructors of the classes above are called without being named.
fn made_by_those_above(g: &Going, class: NodeId, relatives: &[Class]) -> Found<()> {
    let s = &g.from;
    for r in relatives.iter().filter(|r| g.is_of(&r.source, 0) && is_above(g, class, r)) {
        let h = &r.source;
        let kept = |f: &NodeId| !h.lang.is_open_below(h, *f) && !h.lang.hides_member(h, *f);
        if constructors(h, g.bases(), r.node).iter().any(kept) {
            let message = format!("a constructor of `{}` is its package's alone", super::name_of(h, r.node));
            return Err(vec![reason(s, class, Code::NeedsClass, message)]);
        }
    }
    Ok(())
}

/// A member that a related class keeps for its package is no word of the class: it would come into sight, or go out of it,
/// and functions would override others, or no more.
fn kept_by_a_relative(g: &Going, class: NodeId, r: &Class) -> Found<()> {
    let (s, h) = (&g.from, &r.source);
    if !g.is_of(h, 0) && !g.is_of(h, 1) {
        return Ok(());
    }
    let t = &s.tree;
    for d in body(&h.tree, r.node) {
        let kept = !h.lang.is_open_below(h, d) && !h.lang.hides_member(h, d);
        if !kept {
            continue;
        }
        if h.tree.role(d) == Role::Function && g.bases().is_constructor(h, d) {
            continue;
        }
        for word in declared_words(h, d) {
            let says = |n: &NodeId| t.is_leaf(*n) && t.role(*n) != Role::Literal && s.str(*n) == h.str(word);
            if let Some(n) = t.subtree(class).find(says) {
                let message = format!("a related class keeps a `{}` for its package", h.str(word));
                return Err(vec![reason(s, n, Code::NeedsClass, message)]);
            }
        }
    }
    Ok(())
}
