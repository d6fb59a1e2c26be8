//! Which expressions a call, or a name, can take the place of.

use crate::change::Code;
use crate::names::{BindingId, Source};
use crate::tree::{Field, NodeId, Role};

/// Whether a name can take the place of an expression.
pub fn replaced_by_a_name(source: &Source, node: NodeId) -> bool {
    not_to_be_replaced(source, node).is_none()
}

/// Why a call can't take the place of an expression.
pub(super) fn not_to_be_replaced(s: &Source, node: NodeId) -> Option<(Code, &'static str)> {
    let t = &s.tree;
    let parent = t.parent(node)?;
    let (role, field) = (t.role(parent), t.field(node));
    use Role::*;
    let assigns = matches!(role, Assign | AugAssign | OrAssign | Default | For | CompFor | NamedExpr | TypeAlias);
    let target = assigns && matches!(field, Field::Left | Field::Name)
        || matches!(field, Field::ReturnType | Field::Arguments | Field::Key);
    let callee = field == Field::Callee && t.role(node) == Role::Member && !s.lang.members_keep_object();
    let special = matches!(
        role,
        Doc | Delete | AsTarget | Type | MarkupTag | Decorator | Concat | Pattern | Template | AugAssign
    ) && field != Field::Right;
    let typeof_ = role == UnaryOp && t.role(node) == Name;
    let named = t.role(node) == Name && callee;
    let chained = matches!(field, Field::Object | Field::Callee)
        && t.subtree(node).any(|n| {
            t.role(n) == OptionalMark && !t.ancestors(n).take_while(|a| *a > node).any(|a| t.role(a) == Paren)
        });
    let deep = t
        .ancestors(node)
        .take_while(|a| !matches!(t.role(*a), Block | Lambda | Module))
        .any(|a| matches!(t.role(a), Type | AsTarget | Delete) || t.role(a) == Pattern && field != Field::Right);
    if target || callee || special || typeof_ || named || deep || s.lang.is_place(s, node) {
        return Some((Code::NotAValue, "no call can take the place of this expression"));
    }
    if chained {
        return Some((Code::NotAValue, "the path around this expression ends with it when it has no value"));
    }
    let nearest = t.ancestor(node, &[Function, Lambda, Class, Parameters]);
    if nearest.is_some_and(|a| t.role(a) == Parameters && t.field(node) != Field::Name) {
        return Some((
            Code::NotAValue,
            "a default value is computed when its function is made, and the new one may not be there yet",
        ));
    }
    if t.ancestor(node, &[Function, Lambda, Class]).is_some_and(|a| t.role(a) == Class) {
        return Some((Code::OutsideFunction, "the expression is evaluated while its class is made"));
    }
    let written = s.names.in_range(node, t.end(node)).iter().any(|r| {
        let own = |b: BindingId| t.contains(node, s.names.scope(s.names.binding(b).scope).node);
        r.usage != crate::names::Use::Read && !r.target.is_some_and(own)
    });
    written.then_some((Code::WritesLocal, "the expression gives a variable around it a value"))
}
