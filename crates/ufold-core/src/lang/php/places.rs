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
    let ends = |a: &NodeId| matches!(t.role(*a), Role::Block | Role::Module) || t.role(*a).is_callable();
    let mut around = t.ancestors(node).take_while(|a| !ends(a));
    let fixed = matches!(t.role(node), Role::Literal | Role::Name);
    if !fixed && around.any(|a| t.role(a) == Role::UnaryOp && s.str(a).starts_with('@')) {
        return true;
    }
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
            Role::Paren => at = p,
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
    passing_in(&by_reference(&s.tree, &s.text), &called_as(&s.tree, call, &s.text))
}

/// What a call takes by reference: that of all functions of the file with the name, else that of the library.
pub fn passing_in(own: &[(String, Vec<Passing>)], name: &str) -> Vec<Passing> {
    let all: Vec<Passing> = own.iter().filter(|(n, _)| n == name).flat_map(|(_, p)| p.iter().copied()).collect();
    if all.is_empty() { library::passing(name) } else { all }
}

/// What a call calls: a function by its name, a method with a point before it, in lower case; `$` for what a variable holds.
pub fn called_as(t: &Tree, call: NodeId, text: &str) -> String {
    let Some(callee) = t.child(call, Field::Callee) else { return String::new() };
    let word = |n: NodeId| t.text(n, text);
    match t.child(callee, Field::Member) {
        _ if word(call).starts_with("new ") => ".__construct".into(),
        Some(m) if t.role(callee) == Role::Member => format!(".{}", word(m).to_ascii_lowercase()),
        _ if t.role(callee) != Role::Name || word(callee).starts_with('$') => "$".into(),
        _ => word(callee).rsplit('\\').next().unwrap_or("").to_ascii_lowercase(),
    }
}

/// `&$x` where a list, a loop or `use` takes it.
pub fn by_ref(t: &Tree, id: NodeId, text: &str) -> bool {
    t.role(id) == Role::Other && t.text(id, text).starts_with('&')
}

/// Functions and methods of the file that take parameters by reference, by their names in lower case.
pub fn by_reference(t: &Tree, text: &str) -> Vec<(String, Vec<Passing>)> {
    let mut out = Vec::new();
    for f in t.ids().filter(|n| t.role(*n).is_callable()) {
        let Some(list) = t.child(f, Field::Parameters) else { continue };
        let marked = |p: NodeId, mark: &str| t.children(p).any(|c| t.role(c) == Role::Token && t.text(c, text) == mark);
        let all = t.children(list).enumerate().filter(|(_, p)| marked(*p, "&"));
        let passing: Vec<Passing> =
            all.map(|(at, p)| Passing { at, how: b'&', all_from_there: marked(p, "...") }).collect();
        if !passing.is_empty() {
            // any of them may be called by a variable
            out.push(("$".to_string(), passing.clone()));
            let is_member = t.ancestors(f).any(|a| t.role(a) == Role::Class);
            let dot = if is_member { "." } else { "" };
            let name = t.child(f, Field::Name).map(|n| format!("{dot}{}", t.text(n, text)).to_ascii_lowercase());
            out.extend(name.map(|n| (n, passing)));
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
        let Some(list) = t.child(call, Field::Arguments) else { continue };
        if !writes(&called_as(t, call, &s.text)) {
            continue;
        }
        for a in t.children(list) {
            let root = std::iter::successors(Some(a), |n| t.child(*n, Field::Object)).last().unwrap_or(a);
            out.extend(s.names.at(root).and_then(|r| r.target));
        }
    }
    out
}
