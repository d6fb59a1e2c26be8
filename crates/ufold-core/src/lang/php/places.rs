//! Expressions that stand for a variable rather than for its value: what is written through an index, taken by reference or
//! asked whether it is there; and which calls take theirs by reference.
//!
//! Told by names alone: a function or a method of the project, or of the library, of that name. Fails for those of packages
//! that are not scanned.

use super::library::{self, Passing};
use crate::names::{BindingId, Source};
use crate::tree::{Field, NodeId, Role, Tree};

/// What is written through, taken by reference, or asked whether it is there; and what can only be a constant.
pub fn is_place(s: &Source, node: NodeId) -> bool {
    is_no_value(s, node) || is_written(s, node) || is_asked(s, node) || must_be_constant(s, node)
}

/// The word for a function or a class, which no variable holds.
fn is_no_value(s: &Source, node: NodeId) -> bool {
    // statements that act like calls
    let callee = s.tree.child(node, Field::Callee).filter(|_| s.tree.role(node) == Role::Call);
    if callee.is_some_and(|c| ["echo", "exit", "die"].contains(&s.str(c).to_ascii_lowercase().as_str())) {
        return true;
    }
    let word = s.tree.role(node) == Role::Name && !s.str(node).starts_with('$');
    word && (s.tree.field(node) == Field::Callee || s.names.at(node).is_some_and(|r| r.is_type()))
}

fn must_be_constant(s: &Source, node: NodeId) -> bool {
    let t = &s.tree;
    let ends = |a: &NodeId| matches!(t.role(*a), Role::Block | Role::Module) || t.role(*a).is_callable();
    let all = t.ancestors(node).take_while(|a| !ends(a));
    all.into_iter().any(|a| match t.role(a) {
        Role::Parameter | Role::ClassField | Role::Decorator => true,
        Role::FrameName => s.str(a).starts_with("static"),
        role => role == Role::Declare,
    })
}

/// Of what `isset`, `empty` and `??` ask, and behind `@`, nothing is said when it is not there.
fn is_asked(s: &Source, node: NodeId) -> bool {
    let t = &s.tree;
    let reads = matches!(t.role(node), Role::Name | Role::Index | Role::Member);
    let mut at = node;
    while let Some(p) = t.parent(at).filter(|_| reads) {
        let of_path = matches!(t.role(p), Role::Index | Role::Member) && t.field(at) == Field::Object;
        match t.role(p) {
            Role::BoolOp => return t.field(at) == Field::Left && is_between(s, at, t.child(p, Field::Right), "??"),
            Role::OrAssign => return t.field(at) == Field::Left,
            Role::Arguments => {
                let callee = t.parent(p).and_then(|c| t.child(c, Field::Callee)).map_or("", |c| s.str(c));
                return ["isset", "empty"].contains(&callee.to_ascii_lowercase().as_str());
            }
            Role::UnaryOp => return s.str(p).starts_with('@'),
            _ if of_path => at = p,
            _ => return false,
        }
    }
    false
}

fn is_between(s: &Source, left: NodeId, right: Option<NodeId>, operator: &str) -> bool {
    let span = |n: NodeId| s.tree.span(n);
    right.is_some_and(|r| s.text[span(left).end..span(r).start].contains(operator))
}

fn is_written(s: &Source, node: NodeId) -> bool {
    let t = &s.tree;
    let Some(p) = t.parent(node) else { return false };
    let role = t.role(p);
    let holds = role == Role::Index && t.field(node) == Field::Object;
    let given = role.assigns() && t.field(node) == Field::Left || role == Role::Delete || role == Role::Pattern;
    if given || role == Role::Other && by_ref(t, p, &s.text) {
        return true;
    }
    if role == Role::Assign && t.children(p).any(|c| t.role(c) == Role::Token && s.str(c) == "&") {
        return true;
    }
    if role == Role::For && t.field(node) == Field::Right {
        let left = t.child(p, Field::Left);
        return left.is_some_and(|l| t.subtree(l).any(|n| by_ref(t, n, &s.text)));
    }
    if role == Role::Arguments {
        let call = t.parent(p);
        let at = t.children(p).position(|a| a == node).unwrap_or(0);
        return call.is_some_and(|c| passing_of(s, c).iter().any(|x| x.takes(at)));
    }
    holds && is_written(s, p)
}

fn passing_of(s: &Source, call: NodeId) -> Vec<Passing> {
    let t = &s.tree;
    let name = t.child(call, Field::Callee).map(|c| called_as(t, c, &s.text)).unwrap_or_default();
    let own = by_reference(t, &s.text).into_iter().find(|(n, _)| *n == name).map(|(_, p)| p);
    own.unwrap_or_else(|| library::passing(&name))
}

/// A function by its name, a method with a point before it, in lower case.
pub fn called_as(t: &Tree, callee: NodeId, text: &str) -> String {
    let name = match t.child(callee, Field::Member) {
        Some(m) if t.role(callee) == Role::Member => format!(".{}", t.text(m, text)),
        _ => t.text(callee, text).trim_start_matches('\\').to_string(),
    };
    name.to_ascii_lowercase()
}

/// `&$x` where a list, a loop or `use` takes it.
pub fn by_ref(t: &Tree, id: NodeId, text: &str) -> bool {
    t.role(id) == Role::Other && t.text(id, text).starts_with('&')
}

/// Functions and methods of the file that take parameters by reference, by their names in lower case.
pub fn by_reference(t: &Tree, text: &str) -> Vec<(String, Vec<Passing>)> {
    let mut out = Vec::new();
    for f in t.ids().filter(|n| t.role(*n) == Role::Function) {
        let (Some(name), Some(list)) = (t.child(f, Field::Name), t.child(f, Field::Parameters)) else { continue };
        let marked = |p: NodeId, mark: &str| t.children(p).any(|c| t.role(c) == Role::Token && t.text(c, text) == mark);
        let all = t.children(list).enumerate().filter(|(_, p)| marked(*p, "&"));
        let passing: Vec<Passing> =
            all.map(|(at, p)| Passing { at, how: b'&', all_from_there: marked(p, "...") }).collect();
        if !passing.is_empty() {
            let is_member = t.ancestors(f).any(|a| t.role(a) == Role::Class);
            let dot = if is_member { "." } else { "" };
            out.push((format!("{dot}{}", t.text(name, text)).to_ascii_lowercase(), passing));
        }
    }
    out
}

/// Names of the functions of a file that others may call with a variable which they write then.
pub fn writing(t: &Tree, text: &str) -> Vec<String> {
    by_reference(t, text).into_iter().map(|(name, _)| name).collect()
}

/// Variables that calls hand to functions of other files which may write them.
pub fn written_elsewhere(s: &Source, writes: &dyn Fn(&str) -> bool) -> Vec<BindingId> {
    let t = &s.tree;
    let mut out = Vec::new();
    for call in t.ids().filter(|n| t.role(*n) == Role::Call) {
        let (Some(c), Some(list)) = (t.child(call, Field::Callee), t.child(call, Field::Arguments)) else { continue };
        if !writes(&called_as(t, c, &s.text)) {
            continue;
        }
        for a in t.children(list) {
            let root = std::iter::successors(Some(a), |n| t.child(*n, Field::Object)).last().unwrap_or(a);
            out.extend(s.names.at(root).and_then(|r| r.target));
        }
    }
    out
}
