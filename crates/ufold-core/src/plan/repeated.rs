//! A value that is computed at each use of its variable instead of once.
//!
//! That gives the same where computing it does nothing else, its operands keep their values from the variable's statement to
//! the use, and it is no object that is made anew: numbers, texts, truth values. Where types do not tell, the last is
//! assumed by name. Code that runs later, in inner functions, is left out.

use crate::change::{Code, Reason, reason};
use crate::flow::Effects;
use crate::index::Project;
use crate::index::quiet::gives_no_new_object;
use crate::names::Source;
use crate::plan::evaluate::plain_values;
use crate::tree::{NodeId, Role, Tree};
use crate::types::Kind;

/// What must be assumed for it; none where the value may be another one at the use.
pub(crate) fn same_again(
    project: &Project,
    s: &Source,
    (statement, value): (NodeId, NodeId),
    used: NodeId,
) -> Option<Vec<Reason>> {
    let t = &s.tree;
    let definitions = |s: &Source, name: &str| project.definition(s, name);
    let primitive = matches!(s.lang.type_of(s, value, &definitions).kind(), Kind::Primitive(_));
    // texts that are computed are objects of their own there
    let compared = t.parent(used).is_some_and(|p| t.role(p) == Role::Compare);
    if compared && s.lang.types_locals() && !primitive {
        return None;
    }
    let block = t.parent(statement)?;
    let frame = t.callable_around(statement).unwrap_or(Tree::ROOT);
    // in a pattern it is no value
    let later = |a: NodeId| matches!(t.role(a), Role::Generator | Role::Pattern) || t.role(a).is_callable();
    if t.ancestors(used).take_while(|a| *a != block).any(later) || !t.subtree(value).all(|n| is_plain(s, n)) {
        return None;
    }
    let own = Effects::of_part(s, frame, statement, value);
    let does_more = own.acts || own.may_fail() || own.prints || own.leaves || own.looks || !own.writes.is_empty();
    if does_more {
        return None;
    }
    let mut assumed = Vec::new();
    let between = t.children(block).filter(|c| *c > statement && *c <= used && t.role(*c) != Role::Token);
    for c in between {
        let e = Effects::of(s, frame, c);
        let waits = t.subtree(c).any(|n| matches!(t.role(n), Role::Yield | Role::Await));
        if e.writes.intersection(&own.reads).next().is_some() || own.sees && (e.acts || waits) {
            return None;
        }
        if own.sees {
            assumed.extend(plain_values(s, t.outermost(e.perhaps)));
        }
    }
    let known = primitive && own.perhaps.is_empty();
    let operates = t.subtree(value).any(|n| !matches!(t.role(n), Role::Name | Role::Paren | Role::Token));
    if operates && !known {
        let message =
            format!("`{}` is computed from plain values, does not fail, and is the same each time", s.str(value));
        assumed.push(reason(s, value, Code::SameAgain, message));
    }
    Some(assumed)
}

/// Makes no object, and may be computed any number of times.
fn is_plain(s: &Source, n: NodeId) -> bool {
    use Role::*;
    match s.tree.role(n) {
        Call => gives_no_new_object(s, n),
        Name | Literal | Token | Member | MemberName | Index | BinaryOp | UnaryOp | NotOp | Compare | BoolOp => true,
        Conditional | Paren | Arguments | Concat | Template | TemplateText | Interpolation => true,
        _ => false,
    }
}
