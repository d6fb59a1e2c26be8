//! A value that is computed more than once, or not always: what it uses is as it was, and nobody can tell.

use super::reordered::touch;
use crate::change::{Change, Code};
use crate::index::Project;
use crate::index::quiet::gives_no_new_object;
use crate::names::Source;
use crate::tree::{NodeId, Role, Tree};
use crate::types::Kind;

/// What is assumed of values.
#[derive(Default)]
pub(super) struct Told {
    /// Of operators and members: that they do nothing.
    pub plain: Vec<String>,
    /// The same, and values that are computed again, each with its line.
    pub lines: Vec<(usize, String)>,
    /// Values that are the same each time.
    pub same: Vec<String>,
}

impl Told {
    pub fn of(change: &Change) -> Told {
        let of = |code: Code| change.result.reasons.iter().filter(move |r| r.code == code);
        let messages = |code: Code| of(code).map(|r| r.message.clone()).collect();
        let lines = of(Code::PlainValue).chain(of(Code::SameAgain)).map(|r| (r.line, r.message.clone())).collect();
        Told { plain: messages(Code::PlainValue), lines, same: messages(Code::SameAgain) }
    }
}

/// Each of the uses gets the value that the definition's statement gave.
pub(super) fn is_the_same(
    project: &Project,
    s: &Source,
    (statement, value): (NodeId, NodeId),
    used: NodeId,
    told: &Told,
) -> bool {
    let t = &s.tree;
    let definitions = |s: &Source, name: &str| project.definition(s, name);
    let primitive = matches!(s.lang.type_of(s, value, &definitions).kind(), Kind::Primitive(_));
    if !primitive && s.lang.types_locals() && t.parent(used).is_some_and(|p| t.role(p) == Role::Compare) {
        return false;
    }
    let Some(block) = t.parent(statement) else { return false };
    let frame = t.callable_around(statement).unwrap_or(Tree::ROOT);
    let made = |n: NodeId| match t.role(n) {
        Role::Call => !gives_no_new_object(s, n),
        Role::List | Role::Dict | Role::Set | Role::Tuple | Role::Fresh | Role::Comprehension => true,
        _ => false,
    };
    let mut around = t.ancestors(used).take_while(|a| *a != block);
    if around.any(|a| t.role(a).is_callable() || matches!(t.role(a), Role::Generator | Role::Pattern))
        || t.subtree(value).any(made)
    {
        return false;
    }
    let v = touch(s, frame, value, &told.lines);
    if v.changes || v.fails || v.shows || v.ends || v.jumps || v.names || !v.given.is_empty() {
        return false;
    }
    let told_of = |m: &str| m.contains(&format!("`{}`", s.str(value)));
    let simple = t.subtree(value).all(|n| matches!(t.role(n), Role::Name | Role::Paren | Role::Token));
    if !simple && !primitive && !told.same.iter().any(|m| told_of(m)) {
        return false;
    }
    let mut passed = t.children(block).filter(|c| t.end(statement) <= *c && *c <= used);
    passed.all(|c| {
        let p = touch(s, frame, c, &told.lines);
        let waits = t.subtree(c).any(|n| matches!(t.role(n), Role::Yield | Role::Await));
        !p.given.iter().any(|b| v.used.contains(b)) && !(v.looks && (p.changes || waits))
    })
}
