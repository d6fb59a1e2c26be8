//! Types that a function declares, where they may make another value of what it gets or gives: that is lost with it.

use crate::change::{Code, Reason, reason};
use crate::names::{BindingId, Source};
use crate::tree::{Field, NodeId, Role};

/// Places that are told for one function.
const MOST: usize = 5;

/// What of the types of a function may be missed where its code stands for its calls.
///
/// `calls`: the words that call it, each with its file.
pub(super) fn converted<'a>(
    s: &Source,
    function: NodeId,
    parameters: &[BindingId],
    calls: impl Iterator<Item = (&'a Source, NodeId)>,
) -> Vec<Reason> {
    let t = &s.tree;
    let word = |ty: NodeId| format!("the type `{}` changes nothing of this value", s.str(ty));
    let mut out = Vec::new();
    let parameters = parameters.iter().map(|p| t.parent(s.names.binding(*p).first));
    let types: Vec<Option<NodeId>> = parameters.map(|p| t.child(p?, Field::Type)).collect();
    for (at, used) in calls {
        let call = at.tree.parent(used).and_then(|c| at.tree.child(c, Field::Arguments));
        let given = call.map_or(Vec::new(), |a| at.tree.children(a).collect::<Vec<_>>());
        for (value, ty) in given.into_iter().zip(&types) {
            // what a type means is read in its own file
            let changes = |ty: &NodeId| s.lang.may_convert((at, value), (s, *ty));
            out.extend(ty.filter(changes).map(|ty| reason(at, value, Code::TypedDeclaration, word(ty))));
        }
    }
    if let Some(ty) = t.child(function, Field::ReturnType) {
        let own = |n: NodeId| t.callable_around(n) == Some(function);
        let returns = t.subtree(function).filter(|n| t.role(*n) == Role::Return && own(*n));
        let values = returns.filter_map(|r| t.children(r).next()).filter(|v| s.lang.may_convert((s, *v), (s, ty)));
        out.extend(values.map(|v| reason(s, v, Code::TypedDeclaration, word(ty))));
    }
    out.truncate(MOST);
    out
}
