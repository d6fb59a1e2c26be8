//! Which members go: those that were named, all functions of their names, and private ones that nothing else uses.

use super::Moving;
use crate::change::{Code, Found, Place, Reason, reason};
use crate::index::Project;
use crate::index::class_members::{body, is_function, name_of};
use crate::names::{BindingId, Source};
use crate::plan::lines::{line_end, line_start};
use crate::text::Span;
use crate::tree::{NodeId, Role};

/// A declaration that goes.
#[derive(Clone)]
pub(super) struct Member {
    pub node: NodeId,
    /// The word that it declares.
    pub word: NodeId,
    pub name: String,
    pub binding: BindingId,
    /// It goes since only the others use it.
    pub along: bool,
}

/// The word of a member at a place, with its class.
fn member_at(s: &Source, place: &Place) -> Option<(NodeId, NodeId)> {
    let span = Span::new(place.start_byte, place.end_byte);
    let word = s.tree.ids().find(|n| s.tree.is_leaf(*n) && s.tree.span(*n) == span && s.names.at(*n).is_some())?;
    let b = s.names.at(word)?.target.filter(|b| s.names.is_member(*b))?;
    let class = s.names.scope(s.names.binding(b).scope).node;
    (s.tree.role(class) == Role::Class).then_some((s.names.binding(b).first, class))
}

/// The class of which all of them are members.
pub(super) fn class_of(s: &Source, places: &[Place]) -> Found<NodeId> {
    let mut class = None;
    for p in places {
        let refuse = |message: &str| {
            let (file, line) = (p.file.clone(), p.start_line);
            Err(vec![Reason { code: Code::NotAName, message: message.into(), file, line }])
        };
        let Some((_, c)) = member_at(s, p).filter(|_| p.file == s.path) else {
            return refuse("no function or field of a class stands here");
        };
        if class.is_some_and(|other| other != c) {
            return refuse("what is moved at once stands in one class");
        }
        class = Some(c);
    }
    class.ok_or_else(Vec::new)
}

pub(super) fn find(m: &mut Moving, places: &[Place]) -> Found<()> {
    let s = m.from.clone();
    for p in places {
        let (word, _) = member_at(&s, p).expect("its class was found");
        let name = s.str(word).to_string();
        if !m.members.iter().any(|x| x.name == name) {
            m.members.extend(named(m, &name, false)?);
        }
    }
    while let Some(all) = next_along(m) {
        m.members.extend(all);
    }
    m.members.sort_by_key(|x| x.node);
    Ok(())
}

/// All that a class declares by a name: functions of several signatures go together.
fn named(m: &Moving, name: &str, along: bool) -> Found<Vec<Member>> {
    let (s, t) = (&m.from, &m.from.tree);
    let all: Vec<NodeId> =
        body(t, m.class).into_iter().filter(|n| name_of(s, *n).is_some_and(|w| s.str(w) == name)).collect();
    let mut out = Vec::new();
    for node in &all {
        let word = name_of(s, *node).expect("just seen");
        if all.len() > 1 && !is_function(s, *node) {
            let message = format!("`{name}` is a function and a field here");
            return Err(vec![reason(s, *node, Code::Overloaded, message)]);
        }
        may_go(m.project, s, *node)?;
        let binding = s.names.at(word).and_then(|r| r.target);
        let Some(binding) = binding else {
            return Err(vec![reason(s, *node, Code::NotAName, "no function or field of a class stands here")]);
        };
        out.push(Member { node: *node, word, name: name.to_string(), binding, along });
    }
    match out.is_empty() {
        true => Err(vec![reason(s, m.class, Code::NotAName, format!("`{name}` is not declared by itself"))]),
        false => Ok(out),
    }
}

/// The member needs no object, and is nothing that its own class must have.
pub(in crate::step) fn may_go(project: &Project, s: &Source, node: NodeId) -> Found<()> {
    let refuse = |code: Code, why: String| Err(vec![reason(s, node, code, why)]);
    let Some(of) = s.lang.bases() else {
        return refuse(Code::NoStepYet, "members of classes can't be moved yet in this language".into());
    };
    if !of.is_of_class(s, node) {
        return refuse(Code::NeedsClass, "it belongs to the objects of its class".into());
    }
    if s.tree.role(node) == Role::Class {
        return refuse(Code::NoStepYet, "a class in a class can't be moved yet".into());
    }
    if let Some(why) = of.stays(s, node) {
        return refuse(Code::NeedsClass, why.into());
    }
    if s.lang.does_more(s, node) {
        return refuse(Code::NeedsClass, "it holds a lock of its own class, or does more than its statements".into());
    }
    let span = s.tree.span(node);
    let above = &s.text[line_start(&s.text, span.start)..span.start];
    let below = s.text[span.end..line_end(s, span.end)].trim();
    let comment = s.tree.comments().iter().any(|c| span.end <= c.start && s.text[span.end..c.start].trim().is_empty());
    if !above.trim().is_empty() || !below.is_empty() && !comment {
        return refuse(Code::SharedLine, "another member stands on the same line".into());
    }
    match is_function(s, node) {
        true => Ok(()),
        false => field(project, s, node),
    }
}

/// A field's first value is the same whenever its class is made ready.
fn field(project: &Project, s: &Source, node: NodeId) -> Found<()> {
    let definitions = |s: &Source, name: &str| project.definition(s, name);
    if s.lang.acts_when_made(s, node, &definitions) {
        let message = "its first value is computed when its class is made ready, which would be at another time";
        return Err(vec![reason(s, node, Code::Order, message)]);
    }
    Ok(())
}

/// Private members that only the moved ones use.
fn next_along(m: &Moving) -> Option<Vec<Member>> {
    let (s, t) = (&m.from, &m.from.tree);
    let used = s.names.references.iter().filter(|r| m.holds(s, r.node)).filter_map(|r| r.target);
    let own = |b: &BindingId| s.names.is_member(*b) && s.names.scope(s.names.binding(*b).scope).node == m.class;
    let mut used: Vec<BindingId> = used.filter(own).collect();
    used.sort();
    used.dedup();
    used.into_iter().find_map(|b| {
        let name = s.names.binding(b).name.as_str();
        if m.members.iter().any(|x| x.name == name) {
            return None;
        }
        let all = named(m, name, true).ok()?;
        let within = |n: NodeId| m.holds(s, n) || all.iter().any(|x| t.contains(x.node, n));
        let word = |n: &NodeId| t.is_leaf(*n) && matches!(t.role(*n), Role::Name | Role::MemberName);
        let alone = t.ids().filter(word).filter(|n| s.str(*n) == name).all(within);
        let private = all.iter().all(|x| s.lang.hides_member(s, x.node));
        (alone && private).then_some(all)
    })
}
