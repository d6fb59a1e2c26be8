//! Whether something depends on a literal's own type: a text or number that is one of a few, a key, the value that tells
//! the kinds of a union apart. As a parameter it has the general type, and the code would be another or none.
//!
//! And the other way round: a variable or collection that takes its type from the literal, and other values later.
//!
//! Contexts are told by what stands around the literal; what is not known to take any value of the general type counts
//! as depending.

use crate::index::Project;
use crate::index::unseen::definition_of;
use crate::names::Source;
use crate::tree::{Field, NodeId, Role};

/// A value as it is written where a literal stands: as an attribute of markup it has brackets.
pub fn in_its_place(s: &Source, literal: NodeId, value: String) -> String {
    let t = &s.tree;
    let attribute = t.parent(literal).is_some_and(|p| t.role(p) == Role::MarkupAttribute);
    if attribute && t.role(literal) == Role::Literal { format!("{{{value}}}") } else { value }
}

/// How much a place asks for a literal's own type.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Asked {
    /// It takes all of the general type.
    No,
    Perhaps,
    /// Another type is written there.
    Surely,
}

/// Whether a literal stands where its own type may matter.
pub fn is_depended_on(project: &Project, s: &Source, value: NodeId) -> bool {
    let t = &s.tree;
    if t.role(value) != Role::Literal {
        return t.subtree(value).any(|n| t.role(n) == Role::Literal && is_depended_on(project, s, n));
    }
    let Some(general) = project.type_text(s, value) else { return true };
    is_own_type_used(project, s, value, &general)
}

/// The same of a value that has a literal's type; `general`: that of all values like it.
pub fn is_own_type_used(project: &Project, s: &Source, value: NodeId, general: &str) -> bool {
    own_type(project, s, value, general) != Asked::No
}

pub fn own_type(project: &Project, s: &Source, value: NodeId, general: &str) -> Asked {
    let t = &s.tree;
    let Some(parent) = t.parent(value) else { return Asked::Perhaps };
    match t.role(parent) {
        Role::BinaryOp | Role::Template | Role::Interpolation | Role::Member | Role::ExprStmt | Role::Concat => {
            Asked::No
        }
        Role::AugAssign => Asked::No,
        // it is given another value there
        Role::OrAssign if t.field(value) == Field::Left => Asked::No,
        // numbers are seldom one of a few
        Role::Compare if general == "number" || is_ordering(s, parent) => Asked::No,
        Role::Compare => Asked::Perhaps,
        // its type is that of the whole, unless it is said to be fixed
        Role::Paren if s.str(parent).ends_with("const") => Asked::Perhaps,
        Role::Paren => asked_at(project, s, parent, general),
        _ => asked_at(project, s, value, general),
    }
}

/// What is declared without a type has that of this value, and other values later.
pub fn is_widened(s: &Source, value: NodeId) -> bool {
    let t = &s.tree;
    let around = |n: &NodeId| {
        let p = t.parent(*n)?;
        let part = matches!(t.role(p), Role::List | Role::Dict | Role::Paren | Role::Conditional | Role::BoolOp)
            || t.role(p) == Role::Pair && t.field(*n) != Field::Key;
        part.then_some(p)
    };
    let whole = std::iter::successors(Some(value), around).last().unwrap_or(value);
    let Some(assign) = t.parent(whole).filter(|p| declares_barely(s, *p)) else { return false };
    let Some(declared) = t.child(assign, Field::Left).and_then(|l| s.names.at(l)) else { return false };
    let inside = whole != value && t.role(whole) != Role::Paren;
    let other = |r: &crate::names::Reference| r.node != declared.node && r.usage.writes();
    declared.target.is_some_and(|b| inside || s.names.references_to(b).any(other))
}

/// The same of an expression whose type is a literal's.
fn asked_at(project: &Project, s: &Source, node: NodeId, general: &str) -> Asked {
    let t = &s.tree;
    let Some(parent) = t.parent(node) else { return Asked::Perhaps };
    let written = |of: NodeId, field: Field| match t.child(of, field) {
        Some(w) if s.str(w).trim_start_matches([':', ' ']) != general => Asked::Surely,
        _ => Asked::No,
    };
    let given = |f: NodeId| if is_given_a_type(s, f) { Asked::Perhaps } else { Asked::No };
    match t.role(parent) {
        Role::Return => {
            let Some(f) = t.callable_around(parent) else { return Asked::Perhaps };
            // of several values the result is one of these
            let inside = |r: &NodeId| t.role(*r) == Role::Return && t.callable_around(*r) == Some(f);
            let several = t.child(f, Field::ReturnType).is_none() && t.subtree(f).filter(inside).count() > 1;
            let own = if several { Asked::Perhaps } else { Asked::No };
            written(f, Field::ReturnType).max(given(f)).max(own)
        }
        Role::Lambda => written(parent, Field::ReturnType).max(given(parent)),
        Role::Assign if t.field(node) == Field::Right => {
            let declared = t.parent(parent).is_some_and(|d| t.role(d) == Role::Declare);
            let given = || t.child(parent, Field::Left).and_then(|l| project.type_text(s, l));
            let kept = match declared {
                true if is_fixed(s, parent) => asked_of_constant(project, s, parent, general),
                false if given().as_deref() != Some(general) => Asked::Perhaps,
                _ => Asked::No,
            };
            written(parent, Field::Type).max(kept)
        }
        Role::Index if t.field(node) == Field::Index && general == "number" => Asked::No,
        Role::List | Role::Dict => asked_of_part(s, parent),
        Role::Pair if t.field(node) == Field::Value => t.parent(parent).map_or(Asked::Perhaps, |d| asked_of_part(s, d)),
        Role::BinaryOp | Role::Template | Role::Interpolation | Role::Member | Role::If | Role::While => Asked::No,
        Role::Arguments => asked_by_call(project, s, parent, node, general),
        Role::Conditional | Role::BoolOp | Role::Paren => asked_at(project, s, parent, general),
        _ => Asked::Perhaps,
    }
}

/// What is asked of a constant wherever it is used.
fn asked_of_constant(project: &Project, s: &Source, assign: NodeId, general: &str) -> Asked {
    let left = s.tree.child(assign, Field::Left);
    let Some((left, b)) = left.and_then(|l| Some((l, s.names.at(l)?.target?))) else { return Asked::Perhaps };
    if s.tree.callable_around(left).is_none() {
        return Asked::Perhaps;
    }
    let mut uses = s.names.references_to(b).filter(|r| r.node != left);
    // those behind it alone: so this comes to an end
    let behind = |r: &crate::names::Reference| r.node >= s.tree.end(assign);
    let of = |r: &crate::names::Reference| own_type(project, s, r.node, general);
    uses.try_fold(Asked::No, |most, r| behind(r).then(|| most.max(of(r)))).unwrap_or(Asked::Perhaps)
}

/// What a part of a list or object is asked for: what is declared by it without a type holds all of the general type.
fn asked_of_part(s: &Source, holder: NodeId) -> Asked {
    let t = &s.tree;
    let around = |n: &NodeId| {
        let p = t.parent(*n)?;
        let bracket = t.role(p) == Role::Paren && s.str(p).starts_with('(');
        let part =
            matches!(t.role(p), Role::List | Role::Dict) || t.role(p) == Role::Pair && t.field(*n) == Field::Value;
        (bracket || part).then_some(p)
    };
    let mut whole = std::iter::successors(Some(holder), around).last().unwrap_or(holder);
    let call = t.parent(whole).filter(|p| t.role(*p) == Role::Arguments).and_then(|a| t.parent(a));
    if let Some(call) = call.filter(|c| t.child(*c, Field::Callee).is_some_and(|f| s.lang.holds_anything(s.str(f)))) {
        if s.str(call).split('(').next().is_none_or(|head| head.contains('<')) {
            return Asked::Perhaps;
        }
        whole = call;
    }
    if t.parent(whole).is_some_and(|p| declares_barely(s, p)) { Asked::No } else { Asked::Perhaps }
}

/// A declaration of a variable with a value, and without a type.
fn declares_barely(s: &Source, assign: NodeId) -> bool {
    let t = &s.tree;
    let declared = t.parent(assign).is_some_and(|d| t.role(d) == Role::Declare);
    t.role(assign) == Role::Assign && declared && t.child(assign, Field::Type).is_none()
}

/// A local that keeps the literal's own type.
pub fn is_fixed(s: &Source, assign: NodeId) -> bool {
    let declare = s.tree.parent(assign);
    declare.is_some_and(|d| s.str(d).split_whitespace().next().is_some_and(|w| s.lang.declares_fixed(w)))
}

/// A function whose type comes from where it stands.
fn is_given_a_type(s: &Source, function: NodeId) -> bool {
    let t = &s.tree;
    let parent = t.parent(function);
    t.role(function) == Role::Lambda
        && parent.is_some_and(|p| t.role(p) != Role::Assign || t.child(p, Field::Type).is_some())
}

/// What a call asks for in a place.
fn asked_by_call(project: &Project, s: &Source, list: NodeId, argument: NodeId, general: &str) -> Asked {
    let t = &s.tree;
    let Some(callee) = t.parent(list).and_then(|c| t.child(c, Field::Callee)) else { return Asked::Perhaps };
    if s.lang.takes_anything(s.str(callee)) {
        return Asked::No;
    }
    let parts =
        |s: &Source, n: NodeId| s.tree.children(n).filter(|c| s.tree.role(*c) != Role::Token).collect::<Vec<NodeId>>();
    let Some(place) = parts(s, list).iter().position(|a| *a == argument) else { return Asked::Perhaps };
    let Some((home, function)) = definition_of(project, s, callee) else {
        // numbers are seldom one of a few, and truths hardly ever
        return if ["boolean", "number"].contains(&general) { Asked::No } else { Asked::Perhaps };
    };
    let all = home.tree.child(function, Field::Parameters).map_or(Vec::new(), |p| parts(&home, p));
    let rest = all.last().filter(|p| home.str(**p).starts_with("..."));
    let own = all.get(place).filter(|p| rest != Some(*p)).or(rest);
    let Some(written) = own.and_then(|p| home.tree.child(*p, Field::Type)) else { return Asked::Perhaps };
    let text = home.str(written).trim_start_matches([':', ' ']);
    let text = if own == rest { text.trim_end_matches("[]") } else { text };
    let type_parameters = home.tree.child(function, Field::TypeParams).map_or("", |p| home.str(p));
    let of_any =
        text.split(|c: char| !c.is_alphanumeric() && c != '_').any(|w| !w.is_empty() && type_parameters.contains(w));
    match () {
        _ if text == general || home.lang.takes_all(text) => Asked::No,
        _ if of_any => Asked::Perhaps,
        _ => Asked::Surely,
    }
}

fn is_ordering(s: &Source, compare: NodeId) -> bool {
    let t = &s.tree;
    t.children(compare).filter(|c| t.role(*c) == Role::Token).all(|c| ["<", ">", "<=", ">="].contains(&s.str(c)))
}
