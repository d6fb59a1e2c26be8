//! Values that a class has for its objects: where one can stand in place of a literal, and who could ask for it with
//! another object.

use std::sync::Arc;

use super::{Project, bases, with_word};
use crate::names::Source;
use crate::tree::{Field, NodeId, Role};

/// A literal for which a member of the object can stand.
pub(crate) fn is_value(s: &Source, n: NodeId) -> bool {
    use Role::*;
    let t = &s.tree;
    let Some(p) = t.parent(n).filter(|_| t.role(n) == Literal && t.is_leaf(n)) else { return false };
    let fits = match t.role(p) {
        BinaryOp | BoolOp | Conditional | Arguments | Return | List | Tuple | Set | Paren | Interpolation => true,
        Compare => !s.str(p).split_whitespace().any(|w| w == "is"),
        KeywordArg | Pair => t.field(n) == Field::Value,
        Assign | AugAssign => t.field(n) == Field::Right,
        Index => t.field(n) != Field::Object,
        _ => false,
    };
    let outside = |a: &NodeId| matches!(t.role(*a), Decorator | Parameters | Type | Pattern | Markup | Class | Lambda);
    let function = t.callable_around(n);
    let inside = t.ancestors(n).take_while(|a| Some(*a) != function);
    fits && function.is_some_and(|f| t.role(f) == Function) && !inside.into_iter().any(|a| outside(&a))
}

/// A place where a class is asked for a function of that name, which could get any object then.
pub(crate) fn by_its_class(project: &Project, like: &Source, name: &str) -> Option<(Arc<Source>, NodeId)> {
    for (_, s) in with_word(project, name, like.lang) {
        let t = &s.tree;
        let asked = |n: &NodeId| {
            let member = t.parent(*n).filter(|_| t.role(*n) == Role::MemberName && s.str(*n) == name);
            let object = member.and_then(|m| t.child(m, Field::Object));
            object.is_some_and(|o| {
                let path = s.str(o);
                let last = path.rsplit('.').next().unwrap_or(path);
                t.role(o) != Role::Call && (last.starts_with(char::is_uppercase) || last == "prototype")
            })
        };
        if let Some(n) = t.ids().find(asked) {
            return Some((s.clone(), n));
        }
    }
    None
}

/// What decorates the class or one above it, and what these extend from outside the project.
pub(crate) fn made_by(project: &Project, s: &Arc<Source>, class: NodeId) -> Vec<(Arc<Source>, NodeId)> {
    let all = bases::making(project, s, class);
    all.into_iter().flat_map(|(o, m)| m.marks.into_iter().chain(m.foreign).map(move |n| (o.clone(), n))).collect()
}
