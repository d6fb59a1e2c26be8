//! What a loop goes through, when it is gone through once more: the same elements, or perhaps none.

use crate::index::Project;
use crate::index::own::own;
use crate::names::Source;
use crate::tree::{Field, NodeId, Role};

pub(crate) enum Again {
    /// The same, and nobody else can change it.
    Fixed,
    /// What others can change meanwhile; with the code of which it must be assumed that it gives the same once more.
    Seen(Vec<NodeId>),
    /// It would be computed twice.
    No(NodeId),
}

/// `through`: the expression behind `in`, `of` or `:`.
pub(crate) fn again(project: &Project, s: &Source, through: NodeId) -> Again {
    let (t, mut assumed, mut seen) = (&s.tree, Vec::new(), false);
    let mut todo = vec![through];
    while let Some(n) = todo.pop() {
        let definitions = |s: &Source, name: &str| project.definition(s, name);
        match t.role(n) {
            Role::Literal | Role::Token => {}
            Role::Name if t.parent(n).is_some_and(|p| t.role(p) == Role::Other) => {}
            Role::Name if s.lang.loops_call() && t.parent(n).is_some_and(|p| t.role(p) == Role::For) => {
                return Again::No(n);
            }
            Role::Name if own_name(s, n) => {}
            Role::Name if s.lang.is_gone_through_again(s, n, &definitions) => seen = true,
            Role::Name => assumed.push(n),
            Role::Member if t.subtree(n).all(|m| matches!(t.role(m), Role::Name | Role::Member | Role::MemberName)) => {
                assumed.push(n);
            }
            // the bounds of a counting loop
            Role::Paren | Role::Other => todo.extend(t.children(n)),
            Role::List | Role::Tuple | Role::Set => {
                if let Some(bad) =
                    t.children(n).find(|c| !matches!(t.role(*c), Role::Literal | Role::Name | Role::Token))
                {
                    return Again::No(bad);
                }
            }
            Role::Call => match call(s, n) {
                // of the length of something
                Some(true) => seen |= t.subtree(n).skip(1).any(|c| t.role(c) == Role::Call),
                Some(false) => {
                    let arguments = t.child(n, Field::Arguments);
                    for a in arguments.into_iter().flat_map(|a| t.children(a)) {
                        if let Again::No(bad) = again(project, s, a) {
                            return Again::No(bad);
                        }
                    }
                    assumed.push(n);
                }
                None if is_view(s, n) => assumed.push(n),
                None => return Again::No(n),
            },
            _ => return Again::No(n),
        }
    }
    if assumed.is_empty() && !seen { Again::Fixed } else { Again::Seen(assumed) }
}

fn own_name(s: &Source, n: NodeId) -> bool {
    s.lang.is_own_value(s, n) || s.names.at(n).and_then(|r| r.target).is_some_and(|b| own(s, b).is_some())
}

/// A call of the language: whether it counts, with plain arguments; else it goes through its arguments.
fn call(s: &Source, n: NodeId) -> Option<bool> {
    let t = &s.tree;
    let callee = t.child(n, Field::Callee)?;
    let free = t.subtree(callee).find(|x| t.role(*x) == Role::Name).and_then(|x| s.names.at(x))?.target.is_none();
    let library = s.lang.collections();
    let arguments = t.child(n, Field::Arguments)?;
    let plain =
        |c: NodeId| matches!(t.role(c), Role::Name | Role::Literal | Role::UnaryOp | Role::BinaryOp | Role::Token);
    let simple = t.subtree(arguments).skip(1).all(plain);
    // of a length of something that is not changed meanwhile
    let lengths = || {
        let inner =
            t.children(arguments).next().filter(|c| t.role(*c) == Role::Call && t.children(arguments).count() == 1);
        let callee = inner.and_then(|i| t.child(i, Field::Callee));
        let counted = inner.and_then(|i| t.child(i, Field::Arguments)).and_then(|a| t.children(a).next());
        callee.is_some_and(|c| s.lang.quiet_calls().contains(&s.str(c)))
            && counted.is_some_and(|c| t.role(c) == Role::Name)
    };
    match free {
        true if library.counting.contains(&s.str(callee)) && (simple || lengths()) => Some(true),
        true if library.going.contains(&s.str(callee)) => Some(false),
        _ => None,
    }
}

/// A collection's keys, values or entries.
fn is_view(s: &Source, n: NodeId) -> bool {
    let t = &s.tree;
    let callee = t.child(n, Field::Callee).filter(|c| t.role(*c) == Role::Member);
    let path = callee
        .and_then(|c| t.child(c, Field::Object))
        .is_some_and(|o| t.subtree(o).all(|m| matches!(t.role(m), Role::Name | Role::Member | Role::MemberName)));
    let word = callee.and_then(|c| t.child(c, Field::Member)).map_or("", |m| s.str(m));
    let bare = t.child(n, Field::Arguments).is_some_and(|a| t.children(a).next().is_none());
    path && bare && s.lang.collections().views.contains(&word)
}
