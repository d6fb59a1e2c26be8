//! What the names in a member mean: in each of the classes the same, and in their base what they mean in these.

use super::Lift;
use super::base::Base;
use super::classes::Held;
use super::constructor::Parts;
use crate::change::{Code, Found, reason};
use crate::index::ancestry::{self, Ancestor};
use crate::index::{Entity, Project};
use crate::lang::MemberOf;
use crate::names::{Names, Reference, Source};
use crate::tree::{Field, NodeId, Role};

/// A statement of a class's body, of the class with that number.
pub(super) fn member(lift: &Lift, at: usize, node: NodeId) -> Found<()> {
    let whole = (node, lift.classes[at].s.tree.end(node));
    code(lift, at, whole, whole)
}

/// The same of the statements of constructors.
pub(super) fn check(lift: &Lift, parts: Option<&Parts>) -> Found<()> {
    let Some(parts) = parts else { return Ok(()) };
    for (i, p) in parts.held.iter().enumerate() {
        let t = &lift.classes[i].s.tree;
        for n in &p.statements {
            code(lift, i, (*n, t.end(*n)), (p.function, t.end(p.function)))?;
        }
    }
    Ok(())
}

/// `inside`: what is declared there goes along.
fn code(lift: &Lift, at: usize, (first, end): (NodeId, NodeId), inside: (NodeId, NodeId)) -> Found<()> {
    let h = &lift.classes[at];
    let (s, t) = (&h.s, &h.s.tree);
    let refuse = |n: NodeId, code: Code, why: String| Err(vec![reason(s, n, code, why)]);
    for n in (first.0..end.0).map(NodeId).filter(|n| t.is_leaf(*n)) {
        let word = s.str(n);
        let names = matches!(t.role(n), Role::Name | Role::MemberName | Role::KeywordName);
        if names && s.lang.is_mangled(word) {
            return refuse(n, Code::NeedsClass, format!("`{word}` is its own class's alone"));
        }
        if s.lang.needs_class(word) && t.role(n) != Role::Literal && t.role(n) != Role::MemberName {
            return refuse(n, Code::NeedsClass, format!("`{word}` means something else in another class"));
        }
        if t.role(n) == Role::FrameName && !s.lang.is_frame_name(word) {
            return refuse(n, Code::NeedsClass, format!("`{word}` may mean something else in another class"));
        }
        if s.lang.needs_types() {
            object(lift, h, n)?;
        }
    }
    for r in s.names.in_range(first, end) {
        name(lift, h, r, inside)?;
    }
    Ok(())
}

/// Where types tell what an object has: only its members are named, and the base has these.
fn object(lift: &Lift, h: &Held, n: NodeId) -> Found<()> {
    let (s, t) = (&h.s, &h.s.tree);
    if Some(s.str(n)) != s.lang.object_word() || t.role(n) == Role::Literal {
        return Ok(());
    }
    let member = t.parent(n).filter(|m| t.role(*m) == Role::Member && t.field(n) == Field::Object);
    let Some(word) = member.and_then(|m| t.child(m, Field::Member)) else {
        let message = "the object is another one to the compiler in another class";
        return Err(vec![reason(s, n, Code::NeedsClass, message)]);
    };
    has(lift, h, word)
}

/// The base has the member, or gets it.
fn has(lift: &Lift, h: &Held, word: NodeId) -> Found<()> {
    let (s, name) = (&h.s, h.s.str(word));
    if h.member(name).is_some() {
        return Ok(());
    }
    if let Base::There { class, between, .. } = &lift.base {
        let at = lift.classes.iter().position(|o| o.class == h.class && o.file == h.file).unwrap_or(0);
        let own = Ancestor { source: h.s.clone(), node: h.class };
        let below: Vec<Ancestor> = std::iter::once(own).chain(between[at].iter().cloned()).collect();
        let above = ancestry::of(lift.project, &class.source, class.node);
        let there = above.iter().any(|c| c.has_member(name));
        if there && ancestry::hands_down(lift.project, &below, class, name) {
            return Ok(());
        }
    }
    Err(vec![reason(
        s,
        word,
        Code::UnknownMember,
        format!("`{name}` is no member of `{}`, or another one", lift.base.name()),
    )])
}

fn name(lift: &Lift, h: &Held, r: &Reference, (first, end): (NodeId, NodeId)) -> Found<()> {
    let s = &h.s;
    let word = s.str(r.node);
    let refuse = |code: Code, why: String| Err(vec![reason(s, r.node, code, why)]);
    let own = s.names.scope_of(h.class);
    if let Some(b) = r.target {
        let binding = s.names.binding(b);
        if Some(binding.scope) == own {
            // the member's own name is one of these
            return if s.names.members_in_sight {
                has(lift, h, r.node)
            } else if h.member(word).is_some() {
                Ok(())
            } else {
                refuse(Code::NeedsClass, format!("`{word}` is a variable of the class"))
            };
        }
        if binding.scope != Names::MODULE {
            let scope = s.names.scope(binding.scope).node;
            let inside = scope >= first && scope < end;
            return if inside {
                Ok(())
            } else {
                refuse(Code::NeedsClass, format!("`{word}` is something of its own class"))
            };
        }
        if r.usage.writes() {
            return refuse(Code::RebindsOuter, format!("`{word}` is a variable of this file and is written here"));
        }
    } else if s.names.members_in_sight && Some(word) != s.lang.object_word() {
        let definitions = |s: &Source, name: &str| lift.project.definition(s, name);
        match s.lang.member_of(s, r.node, &definitions) {
            MemberOf::Class(_) | MemberOf::Likely(_) => return has(lift, h, r.node),
            MemberOf::Other => {}
            MemberOf::Unknown if s.lang.is_builtin(word) || r.may_be_type() => {}
            MemberOf::Unknown => {
                return refuse(Code::NeedsClass, format!("`{word}` may be something that the class has from above"));
            }
        }
    }
    same_everywhere(lift, h, r)
}

/// A name of the file means the same in all the classes' files.
fn same_everywhere(lift: &Lift, h: &Held, r: &Reference) -> Found<()> {
    let first = lift.first();
    let word = h.s.str(r.node);
    if Some(word) == h.s.lang.object_word() || first.s.path == h.s.path {
        return Ok(());
    }
    let meant = |p: &Project, s: &Source| p.origin(&p.entity(s, word));
    let (a, b) = (meant(lift.project, &first.s), meant(lift.project, &h.s));
    let same = match (&a, &b) {
        (Entity::Unknown(_, x), Entity::Unknown(_, y)) => x == y && h.s.lang.is_builtin(word),
        _ => a == b,
    };
    if same {
        return Ok(());
    }
    let message = format!("`{word}` is something else in {}", first.s.path);
    Err(vec![reason(&h.s, r.node, Code::ForeignName, message)])
}
