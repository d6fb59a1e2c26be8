//! Whether something depends on a literal's own type: a text or number that is one of a few, a key, the value that tells
//! the kinds of a union apart. As a parameter it has the general type, and the code would be another or none.
//!
//! Contexts are told by what stands around the literal; what is not known to take any value of the general type counts
//! as depending.

use crate::change::{Reason, reason};
use crate::index::Project;
use crate::index::unseen::definition_of;
use crate::names::{BindingId, ScopeKind, Source};
use crate::plan::region::Portion;
use crate::tree::{Field, NodeId, Role};

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
    let t = &s.tree;
    let Some(parent) = t.parent(value) else { return true };
    match t.role(parent) {
        Role::BinaryOp | Role::Template | Role::Interpolation | Role::Member | Role::ExprStmt | Role::Concat => false,
        Role::AugAssign => false,
        Role::Compare => !is_ordering(s, parent),
        // its type is that of the whole, unless it is said to be fixed
        Role::Paren => s.str(parent).ends_with("const") || is_depended_on_at(project, s, parent, general),
        _ => is_depended_on_at(project, s, value, general),
    }
}

/// A call in a region after which a variable has a narrower type, which ends with the new function while the variable is
/// used further on.
pub fn narrowed_by_call(project: &Project, site: &Portion) -> Option<Reason> {
    let s = site.source();
    let t = &s.tree;
    if !s.lang.needs_types() {
        return None;
    }
    let end = t.end(site.function);
    let statements = (site.region.first.0..site.region.end().0).map(NodeId).filter(|n| t.role(*n) == Role::ExprStmt);
    for call in statements.filter_map(|x| t.children(x).find(|c| t.role(*c) == Role::Call)) {
        let Some(callee) = t.child(call, Field::Callee) else { continue };
        let word = s.str(callee).rsplit('.').next().unwrap_or("").to_ascii_lowercase();
        let defined = definition_of(project, s, callee);
        let result =
            defined.as_ref().map(|(home, f)| home.tree.child(*f, Field::ReturnType).map_or("", |r| home.str(r)));
        let narrows = s.lang.narrows(&word, result);
        let given = s.names.in_range(call, t.end(call)).iter().filter_map(|r| r.target);
        let later = |b: BindingId| s.names.in_range(site.region.end(), end).iter().any(|r| r.target == Some(b));
        if let Some(b) = given
            .into_iter()
            .find(|b| s.names.scope(s.names.binding(*b).scope).kind != ScopeKind::Module && later(*b))
            .filter(|_| narrows)
        {
            let message = format!(
                "`{}` gets a narrower type here, which would end with the new function",
                s.names.binding(b).name
            );
            return Some(reason(s, call, "narrowed-here", message));
        }
    }
    None
}

fn is_ordering(s: &Source, compare: NodeId) -> bool {
    let t = &s.tree;
    t.children(compare).filter(|c| t.role(*c) == Role::Token).all(|c| ["<", ">", "<=", ">="].contains(&s.str(c)))
}

/// The same of an expression whose type is a literal's.
fn is_depended_on_at(project: &Project, s: &Source, node: NodeId, general: &str) -> bool {
    let t = &s.tree;
    let Some(parent) = t.parent(node) else { return true };
    let is_general =
        |written: Option<NodeId>| written.is_none_or(|w| s.str(w).trim_start_matches([':', ' ']) == general);
    match t.role(parent) {
        Role::Return => {
            let function = t.callable_around(parent);
            function.is_none_or(|f| !is_general(t.child(f, Field::ReturnType)) || is_given_a_type(s, f))
        }
        Role::Lambda => !is_general(t.child(parent, Field::ReturnType)) || is_given_a_type(s, parent),
        Role::Assign if t.field(node) == Field::Right => {
            let declared = t.parent(parent).is_some_and(|d| t.role(d) == Role::Declare);
            !declared || !is_general(t.child(parent, Field::Type)) || is_fixed(s, parent)
        }
        Role::BinaryOp | Role::Template | Role::Interpolation | Role::Member | Role::If | Role::While => false,
        Role::Arguments => !takes_any(project, s, parent, node, general),
        Role::Conditional | Role::BoolOp | Role::Paren => is_depended_on_at(project, s, parent, general),
        _ => true,
    }
}

/// A local that keeps the literal's own type.
fn is_fixed(s: &Source, assign: NodeId) -> bool {
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

/// A call that takes any value of the general type in a place.
fn takes_any(project: &Project, s: &Source, list: NodeId, argument: NodeId, general: &str) -> bool {
    let t = &s.tree;
    let Some(callee) = t.parent(list).and_then(|c| t.child(c, Field::Callee)) else { return false };
    if s.lang.takes_anything(s.str(callee)) {
        return true;
    }
    let Some(place) = t.children(list).position(|a| a == argument) else { return false };
    let Some((home, function)) = definition_of(project, s, callee) else {
        // numbers are seldom one of a few, and truths hardly ever
        return general == "boolean" || general != "string" && t.role(callee) == Role::Member;
    };
    let parameters = home.tree.child(function, Field::Parameters);
    let own = parameters.and_then(|p| home.tree.children(p).nth(place));
    let written = own.and_then(|p| home.tree.child(p, Field::Type));
    written.is_some_and(|w| home.str(w).trim_start_matches([':', ' ']) == general)
}
