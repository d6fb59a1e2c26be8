//! Declarations that parse, but that no engine would run.

use super::{Opinion, object};
use crate::names::{Source, Use};
use crate::tree::{Field, NodeId, Role, Tree};

/// The word of a declaration.
fn word(s: &Source, declaration: NodeId) -> &str {
    s.lang.declaring_words(s, declaration).unwrap_or("")
}

/// A declaration of what gets no other value.
pub(super) fn is_fixed(s: &Source, declaration: NodeId) -> bool {
    s.lang.declares_fixed(word(s, declaration))
}

/// No name of a block is declared twice in it: such code parses, and does not run.
pub(super) fn declared_once(s: &Source, function: NodeId) -> Opinion<()> {
    let t = &s.tree;
    if s.lang.types_locals() {
        declared_at_all(s, function)?;
    }
    let own = |n: NodeId| t.callable_around(n).unwrap_or(Tree::ROOT) == function;
    let declared = |d: NodeId| {
        let targets: Vec<NodeId> = t.children(d).filter_map(|a| t.child(a, Field::Left)).collect();
        let names = targets.into_iter().flat_map(|l| t.subtree(l).collect::<Vec<_>>());
        names.filter(|n| t.role(*n) == Role::Name && t.field(*n) != Field::Right).collect::<Vec<_>>()
    };
    let for_function = |d: NodeId| s.lang.declares_for_function(word(s, d));
    let all: Vec<NodeId> = t.subtree(function).filter(|n| t.role(*n) == Role::Declare && own(*n)).collect();
    let list = t.child(function, Field::Parameters);
    let given: Vec<NodeId> = list.map_or(Vec::new(), |l| {
        // the words of a type are no parameters
        let binds = |n: &NodeId| s.names.at(*n).is_some_and(|r| r.usage.writes());
        t.subtree(l).filter(|n| t.role(*n) == Role::Name && binds(n)).collect()
    });
    for d in all.iter().filter(|d| !for_function(**d) && !s.lang.declares_again()) {
        let block = t.parent(*d).unwrap_or(function);
        let outermost = t.parent(block) == Some(function);
        for n in declared(*d) {
            let again = |o: &NodeId| {
                let same_block = t.parent(*o) == Some(block) || for_function(*o) && t.contains(block, *o);
                same_block && declared(*o).iter().any(|m| *m != n && s.str(*m) == s.str(n))
            };
            if all.iter().any(again) || outermost && given.iter().any(|p| s.str(*p) == s.str(n)) {
                return object(s, n, format!("`{}` would be declared twice", s.str(n)));
            }
        }
    }
    Ok(())
}

/// Where every local is declared with its type: none is without, and none of a pattern has another declaration.
fn declared_at_all(s: &Source, function: NodeId) -> Opinion<()> {
    let t = &s.tree;
    let Some(scope) = s.names.scope_of(function) else { return Ok(()) };
    for b in s.names.locals_of(scope) {
        let mut places: Vec<NodeId> =
            s.names.references_to(b).filter(|r| r.usage == Use::Write).map(|r| r.node).collect();
        places.push(s.names.binding(b).first);
        places.sort();
        places.dedup();
        let around = |n: NodeId| t.parent(n).unwrap_or(Tree::ROOT);
        let is_pattern = |n: &NodeId| matches!(t.role(around(*n)), Role::Compare | Role::Other);
        let declares = |n: &NodeId| match t.role(around(*n)) {
            Role::Assign => {
                let outer = t.role(around(around(*n)));
                let typed = |d: NodeId| t.child(d, Field::Type).is_some();
                typed(around(*n)) || typed(around(around(*n))) || matches!(outer, Role::Declare | Role::Parameter)
            }
            _ => true,
        };
        let declared = places.iter().filter(|n| declares(n)).count();
        let patterns = places.iter().filter(|n| is_pattern(n)).count();
        if declared == 0 || patterns > 0 && declared > patterns {
            let at = places[0];
            return object(s, at, format!("`{}` is not declared once", s.str(at)));
        }
    }
    Ok(())
}
