//! Values that a class has for its objects: where one can stand in place of a literal, and who could ask for it with
//! another object.

use std::sync::Arc;

use super::{Project, bases, looked_up, with_word};
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
        KeywordArg => t.field(n) == Field::Value,
        Pair => t.field(n) == Field::Value || !s.lang.members_are_keys(),
        Assign | AugAssign => t.field(n) == Field::Right,
        Index => t.field(n) != Field::Object,
        _ => false,
    };
    let outside = |a: &NodeId| matches!(t.role(*a), Decorator | Parameters | Type | Pattern | Markup | Class | Lambda);
    let function = t.callable_around(n);
    let inside = t.ancestors(n).take_while(|a| Some(*a) != function);
    // lines of a text would be indented otherwise
    let one_line = !s.str(n).contains('\n');
    let inside = function.is_some_and(|f| t.role(f) == Function) && !inside.into_iter().any(|a| outside(&a));
    fits && inside && one_line && !s.lang.needs_constant(s, n)
}

/// A place at which a function of a class may get an object of another one.
pub(crate) struct Foreign {
    pub source: Arc<Source>,
    pub node: NodeId,
    /// It is surely a class that is asked for it, and not an object.
    pub sure: bool,
}

/// Places where a member of the name of a function is asked for otherwise than by a call that only fits an object of its
/// class: a class may be asked there, and any object be handed on.
pub(crate) fn for_others(project: &Project, s: &Source, function: NodeId) -> Vec<Foreign> {
    let word = s.tree.child(function, Field::Name);
    let Some(name) = word.map(|n| s.str(n)) else { return Vec::new() };
    let (least, most) = values_taken(s, function);
    let mut out = Vec::new();
    for (_, h) in with_word(project, name, s.lang) {
        let t = &h.tree;
        let by_text = |n: &NodeId| t.role(*n) == Role::Literal && looked_up(&h, *n, name).is_some();
        out.extend(t.ids().filter(by_text).map(|node| Foreign { source: h.clone(), node, sure: false }));
        for n in t.ids().filter(|n| t.is_leaf(*n) && h.str(*n) == name) {
            let member = t.parent(n).filter(|m| t.role(n) == Role::MemberName && t.role(*m) == Role::Member);
            let taken_apart = || t.ancestor(n, &[Role::Pattern]).is_some() && t.role(n) != Role::Literal;
            let Some(member) = member else {
                if taken_apart() {
                    out.push(Foreign { source: h.clone(), node: n, sure: false });
                }
                continue;
            };
            let object = t.child(member, Field::Object);
            let of_class = object.is_some_and(|o| {
                let path = h.str(o);
                let last = path.rsplit('.').next().unwrap_or(path);
                t.role(o) != Role::Call && (last.starts_with(char::is_uppercase) || last == "prototype")
            });
            let called = t.parent(member).filter(|_| t.field(member) == Field::Callee);
            let given = called.and_then(|c| t.child(c, Field::Arguments));
            let own = given.is_some_and(|list| {
                let all: Vec<NodeId> = t.children(list).filter(|c| t.role(*c) != Role::Token).collect();
                let spread = all.iter().any(|a| h.str(*a).starts_with('*'));
                // a class would have to be given the object, too
                s.lang.object_word().is_some() || !spread && all.len() <= least
            });
            let above =
                object.is_some_and(|o| t.role(o) == Role::Call && h.lang.needs_class(h.str(o).trim_end_matches("()")));
            if of_class || !own && !above {
                let many = given.map_or(0, |l| t.children(l).filter(|c| t.role(*c) != Role::Token).count());
                let sure = of_class || most.is_some_and(|m| many > m) && s.lang.object_word().is_none();
                out.push(Foreign { source: h.clone(), node: n, sure });
            }
        }
    }
    out
}

/// Values that a call of a function must hand on, and those that it may at most, beside its object.
fn values_taken(s: &Source, function: NodeId) -> (usize, Option<usize>) {
    let t = &s.tree;
    let list = t.child(function, Field::Parameters);
    let all: Vec<&str> =
        list.map_or(Vec::new(), |l| t.children(l).filter(|c| t.role(*c) != Role::Token).map(|c| s.str(c)).collect());
    let own = usize::from(s.lang.object_word().is_none());
    let all = &all[own.min(all.len())..];
    let open = all.iter().any(|p| p.starts_with(['*', '.']));
    let least = all.iter().take_while(|p| !p.contains('=') && !p.starts_with(['*', '.'])).count();
    (least, (!open).then_some(all.len()))
}

/// What decorates the class or one above it, and what these extend from outside the project.
pub(crate) fn made_by(project: &Project, s: &Arc<Source>, class: NodeId) -> Vec<(Arc<Source>, NodeId)> {
    let all = bases::making(project, s, class);
    all.into_iter().flat_map(|(o, m)| m.marks.into_iter().chain(m.foreign).map(move |n| (o.clone(), n))).collect()
}
