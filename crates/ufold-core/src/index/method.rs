//! Functions that are members of a class, and their objects.

use crate::lang::MethodKind;
use crate::names::{BindingId, ScopeId, Source};
use crate::tree::{Field, NodeId, Role};

/// The function is a member of a class.
#[derive(Clone, Copy, Debug)]
pub struct Method {
    pub class: NodeId,
    pub kind: MethodKind,
    /// First parameter of an instance or class method.
    pub receiver: Option<BindingId>,
}

/// The class and the object of a method.
pub fn receiver_of(source: &Source, function: NodeId) -> Option<(NodeId, BindingId)> {
    let m = method(source, function, source.names.scope_of(function)?)?;
    Some((m.class, m.receiver?))
}

pub fn method(source: &Source, function: NodeId, scope: ScopeId) -> Option<Method> {
    match source.lang.object_word() {
        Some(word) => method_of_word(source, scope, word),
        None => method_of_parameter(source, function, scope),
    }
}

/// The class of a member function, and the words that say how it is called.
fn member_of(source: &Source, function: NodeId) -> Option<(NodeId, MethodKind)> {
    let t = &source.tree;
    // one of the functions that a property is made of
    let of_property = |p: NodeId| t.role(p) == Role::ClassField && t.field(function) == Field::None;
    let around = t.parent(function).filter(|p| t.role(*p) == Role::Decorated || of_property(*p));
    let statement = around.unwrap_or(function);
    let class = t.parent(t.parent(statement)?).filter(|c| t.role(*c) == Role::Class)?;
    let marks = t.children(statement).filter(|c| t.role(*c) == Role::Decorator);
    let tokens = [statement, function].into_iter().flat_map(|n| t.children(n)).filter(|c| t.role(*c) == Role::Token);
    let words: Vec<&str> = marks.chain(tokens).map(|c| source.str(c).trim_start_matches('@').trim()).collect();
    let name = t.child(function, Field::Name).map_or("", |n| source.str(n));
    Some((class, source.lang.method_kind(name, &words)))
}

/// The object is a word that each function has for itself; arrows see that of the function around them.
fn method_of_word(source: &Source, scope: ScopeId, word: &str) -> Option<Method> {
    let names = &source.names;
    // a function without an object has no such word, and is no arrow
    let owns =
        |s: &ScopeId| names.declared_in(*s, word).is_some() || source.tree.role(names.scope(*s).node) == Role::Function;
    let owner = names.scope_chain(scope).find(owns)?;
    let (class, kind) = member_of(source, names.scope(owner).node)?;
    Some(Method { class, kind, receiver: names.declared_in(owner, word) })
}

/// The object is the first parameter.
fn method_of_parameter(source: &Source, function: NodeId, scope: ScopeId) -> Option<Method> {
    let t = &source.tree;
    let (class, kind) = member_of(source, function)?;
    let first = t.child(function, Field::Parameters).and_then(|p| t.children(p).next());
    let receiver = first
        .filter(|_| kind != MethodKind::Static)
        .and_then(|p| t.subtree(p).find(|n| t.role(*n) == Role::Name))
        .filter(|n| t.parent(*n).is_some_and(|p| t.role(p) != Role::Pattern))
        .and_then(|n| source.names.declared_in(scope, source.str(n)))
        .filter(|b| source.names.binding(*b).writes == 1)
        .filter(|b| {
            source.lang.is_receiver(&source.names.binding(*b).name) && !called_by_class(source, class, function)
        });
    Some(Method { class, kind, receiver })
}

/// The class body calls the function while it is made, with no object there yet.
fn called_by_class(source: &Source, class: NodeId, function: NodeId) -> bool {
    let t = &source.tree;
    let own = t.child(function, Field::Name).and_then(|n| source.names.at(n)).and_then(|r| r.target);
    let scope = source.names.scope_of(class);
    own.is_some_and(|b| {
        source.names.references_to(b).any(|r| Some(r.scope) == scope && t.field(r.node) == Field::Callee)
    })
}
