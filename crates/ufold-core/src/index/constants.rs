//! Constants that a compiler knows the values of.

use crate::index::Project;
use crate::names::{BindingId, Source};
use crate::tree::{Field, NodeId, Role};

/// A place where the compiler takes a constant for more than its type: alone, or with the constants beside it.
pub fn is_looked_at(s: &Source, place: NodeId) -> bool {
    use Role::*;
    let t = &s.tree;
    let mut at = place;
    loop {
        let Some(parent) = t.parent(at) else { return true };
        let beside = t.children(parent).filter(|c| *c != at && !t.contains(*c, place));
        let all = beside.into_iter().all(|c| t.role(c) == Token || s.lang.may_be_constant(s, c));
        match t.role(parent) {
            BinaryOp | UnaryOp | BoolOp if !all => return false,
            // constant texts are one object
            Compare if !all => return t.subtree(parent).any(|n| ["==", "!="].contains(&s.str(n))),
            Paren | BinaryOp | UnaryOp | BoolOp | NotOp | Compare => at = parent,
            role => return matches!(role, Conditional | While | DoWhile | CountedFor | If | Other),
        }
    }
}

/// A final field whose value, made of literals, has the very type that is written: the compiler puts it in the place of
/// the field's name.
pub(crate) fn is_known_value(project: &Project, s: &Source, field: NodeId, b: BindingId) -> bool {
    use Role::*;
    let t = &s.tree;
    let plain = |n: NodeId| matches!(t.role(n), Literal | Token | BinaryOp | UnaryOp | Paren | Concat);
    let value = t.children(field).find_map(|c| t.child(c, Field::Right));
    let written = t.child(field, Field::Type).map(|n| s.str(n));
    let fits =
        |v: NodeId| t.subtree(v).all(plain) && written.is_some() && project.type_text(s, v).as_deref() == written;
    t.role(field) == ClassField && s.lang.is_final(s, b) && value.is_some_and(fits)
}

/// A value that is taken for more, or other, than the type that a variable of it would have.
pub(crate) fn typed_by_place(project: &Project, s: &Source, value: NodeId) -> bool {
    let definitions = |s: &Source, name: &str| project.definition(s, name);
    let inner = s.tree.subtree(value).find(|n| s.tree.role(*n) != Role::Paren).unwrap_or(value);
    // members that a constructor must give are only given by the object's own word
    s.lang.needs_types()
        && (s.lang.object_word() == Some(s.str(inner))
            || s.lang.asks_more_than_type(s, value, &definitions)
            || s.lang.asks_more_than_type(s, inner, &definitions)
            || s.lang.takes_type_from_around(s, inner, true)
            || s.lang.may_be_constant(s, inner) && is_looked_at(s, value))
}

/// A condition, or a part of one, after which a variable may have a narrower type.
pub(crate) fn tells_types(s: &Source, value: NodeId) -> bool {
    let t = &s.tree;
    if !s.lang.needs_types() || s.lang.types_locals() {
        return false;
    }
    let path = std::iter::once(value).chain(t.ancestors(value).take_while(|a| !t.role(*a).is_sequence()));
    let asked = path.into_iter().any(|n| {
        matches!(t.field(n), Field::Condition | Field::Subject)
            || t.parent(n).is_some_and(|p| matches!(t.role(p), Role::BoolOp | Role::NotOp | Role::Compare))
    });
    let by_size = |n: NodeId| {
        let sign = t.children(n).find(|c| t.role(*c) == Role::Token).map_or("", |c| s.str(c));
        ["<", ">", "<=", ">="].contains(&sign)
    };
    fn plain(s: &Source, n: NodeId, by_size: &dyn Fn(NodeId) -> bool) -> bool {
        let t = &s.tree;
        match t.role(n) {
            Role::BoolOp | Role::NotOp | Role::Paren => {
                t.children(n).filter(|c| t.role(*c) != Role::Token).all(|c| plain(s, c, by_size))
            }
            Role::Compare => by_size(n),
            Role::BinaryOp | Role::Literal => true,
            _ => false,
        }
    }
    asked && !plain(s, value, &by_size)
}
