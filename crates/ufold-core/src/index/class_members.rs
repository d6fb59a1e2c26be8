//! What a class itself declares, as statements of its body by their names; whether two declare the same.

use crate::lang::Bases;
use crate::names::Source;
use crate::tree::{Field, NodeId, Role};

/// All that a class's body says of one name, in order: a method, or those of a property that is read and written.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Declared {
    pub name: String,
    pub nodes: Vec<NodeId>,
}

/// The statements of a class's body.
pub(crate) use crate::find::classes::body;

/// What stands before the body of a class.
pub(crate) fn head(s: &Source, class: NodeId) -> Vec<NodeId> {
    let block = s.tree.child(class, Field::Body);
    s.tree.children(class).filter(|n| Some(*n) != block).collect()
}

/// The name that a statement of a class's body declares, when it is one.
pub(crate) fn name_of(s: &Source, statement: NodeId) -> Option<NodeId> {
    crate::find::classes::name_of(&s.tree, statement)
}

/// Members by name, in the order in which they are declared first.
pub(crate) fn declared(s: &Source, class: NodeId) -> Vec<Declared> {
    let mut out: Vec<Declared> = Vec::new();
    for n in body(&s.tree, class) {
        let Some(word) = name_of(s, n) else { continue };
        let name = s.str(word);
        match out.iter_mut().find(|d| d.name == name) {
            Some(d) => d.nodes.push(n),
            None => out.push(Declared { name: name.to_string(), nodes: vec![n] }),
        }
    }
    out
}

/// A member is a function.
pub(crate) fn is_function(s: &Source, member: NodeId) -> bool {
    s.tree.role(s.tree.definition_in(member)) == Role::Function
}

/// The same words in the same order, put together in the same way.
pub(crate) fn alike((a, x): (&Source, NodeId), (b, y): (&Source, NodeId)) -> bool {
    let leaves = |s: &Source, n: NodeId| s.tree.subtree(n).filter(|n| s.tree.is_leaf(*n)).collect::<Vec<_>>();
    if a.tree.exact(x) != b.tree.exact(y) {
        return false;
    }
    let (p, q) = (leaves(a, x), leaves(b, y));
    p.len() == q.len() && p.iter().zip(&q).all(|(m, n)| a.str(*m) == b.str(*n) && a.tree.role(*m) == b.tree.role(*n))
}

/// Two classes declare a member by the same words.
pub(crate) fn same((a, x): (&Source, &Declared), (b, y): (&Source, &Declared)) -> bool {
    let pairs = || x.nodes.iter().zip(&y.nodes);
    x.name == y.name && x.nodes.len() == y.nodes.len() && pairs().all(|(m, n)| alike((a, *m), (b, *n)))
}

/// The functions of a class that make its objects ready.
pub(crate) fn constructors(s: &Source, of: &dyn Bases, class: NodeId) -> Vec<NodeId> {
    let functions = body(&s.tree, class).into_iter().filter(|n| s.tree.role(*n) == Role::Function);
    functions.filter(|f| of.is_constructor(s, *f)).collect()
}

/// A member of one of some classes, by the class's name, that is no call: its value is asked for.
pub(crate) fn is_value_of(s: &Source, n: NodeId, name: &str, is_class: &dyn Fn(&str) -> bool) -> bool {
    let t = &s.tree;
    let member =
        t.parent(n).filter(|m| t.role(*m) == Role::Member && t.role(n) == Role::MemberName && s.str(n) == name);
    member.is_some_and(|m| {
        // the class, or what it has for its objects
        let object = t.child(m, Field::Object);
        let inner = object.and_then(|o| t.child(o, Field::Object));
        let named = object.into_iter().chain(inner).any(|o| is_class(s.str(o)));
        t.field(m) != Field::Callee && t.field(m) != Field::Left && named
    })
}

/// All words that a statement of a class's body declares: a class, a function, one field or several.
pub(crate) fn declared_words(s: &Source, statement: NodeId) -> Vec<NodeId> {
    let t = &s.tree;
    let field = t.role(statement) == Role::ClassField;
    let given = t.children(statement).filter(|c| t.role(*c) == Role::Assign).filter_map(|a| t.child(a, Field::Left));
    let bare = t.children(statement).filter(|c| field && t.role(*c) == Role::Name && t.field(*c) != Field::Type);
    let mut out: Vec<NodeId> =
        name_of(s, statement).into_iter().chain(t.child(statement, Field::Name)).chain(given).chain(bare).collect();
    out.sort();
    out.dedup();
    out
}

/// The class whose name stands in a span.
pub(crate) fn class_named_at(s: &Source, span: crate::text::Span) -> Option<NodeId> {
    let class = s.tree.ancestor(s.tree.covering(span), &[Role::Class])?;
    s.tree.child(class, Field::Name).filter(|n| s.tree.span(*n) == span).map(|_| class)
}
