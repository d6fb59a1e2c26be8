//! Collections that a function makes and nobody else has: a change of one is seen by code that names it, and by no other.
//!
//! A collection is the function's own when each value of its variable is made there, and the variable is only gone through,
//! asked by element, grown, printed or returned. Calls that are not known, closures and other names for it end that.

use crate::names::{BindKind, BindingId, Names, Reference, Source, Use};
use crate::tree::{Field, NodeId, Role};

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Collection {
    /// Elements are kept as they are.
    Plain,
    /// Elements are asked for their hash, or their text, when they are put in.
    Asking,
}

/// What kind of collection a variable is, when it is its function's own.
pub(crate) fn own(s: &Source, b: BindingId) -> Option<Collection> {
    #[derive(Clone, Copy)]
    struct Known(Option<Collection>);
    let binding = s.names.binding(b);
    s.remember((binding.first, None), || Known(find(s, b))).0
}

fn find(s: &Source, b: BindingId) -> Option<Collection> {
    let (t, binding) = (&s.tree, s.names.binding(b));
    let of_file = s.names.frame_of(b) == Names::MODULE && s.is_alone() && !s.names.is_member(b);
    let of_function = t.role(s.names.scope(s.names.frame_of(b)).node).is_callable() || of_file;
    if binding.kind != BindKind::Variable || binding.captured || binding.rebound_inside || !of_function {
        return None;
    }
    let mut kind = None;
    for r in s.names.references_to(b) {
        if r.usage == Use::Read {
            if !stays(s, r.node) {
                return None;
            }
            continue;
        }
        let value = value_of(s, r.node)?;
        let made = made(s, value).filter(|_| r.usage == Use::Write)?;
        kind = if kind == Some(Collection::Asking) { kind } else { Some(made) };
    }
    kind
}

/// The expression that a name gets, by itself or as one of several.
fn value_of(s: &Source, name: NodeId) -> Option<NodeId> {
    let t = &s.tree;
    let parent = t.parent(name)?;
    if t.role(parent) == Role::Assign && t.field(name) == Field::Left {
        return t.child(parent, Field::Right);
    }
    let assign = t.parent(parent).filter(|a| t.role(*a) == Role::Assign && t.field(parent) == Field::Left)?;
    let right = t.child(assign, Field::Right).filter(|r| t.role(*r) == Role::Tuple)?;
    let parts = |n: NodeId| t.children(n).filter(|c| t.role(*c) != Role::Token).collect::<Vec<_>>();
    let (names, values) = (parts(parent), parts(right));
    let plain = names.len() == values.len() && names.iter().all(|n| t.role(*n) == Role::Name);
    let i = names.iter().position(|n| *n == name)?;
    values.get(i).copied().filter(|_| plain)
}

/// The collection that an expression makes.
fn made(s: &Source, value: NodeId) -> Option<Collection> {
    let t = &s.tree;
    match t.role(value) {
        Role::List => Some(Collection::Plain),
        // its members may be functions of any kind
        Role::Dict if s.lang.members_are_keys() && is_called(s, value) => None,
        Role::Dict => {
            t.children(value).all(|c| matches!(t.role(c), Role::Pair | Role::Token)).then_some(Collection::Asking)
        }
        Role::Set => Some(Collection::Asking),
        Role::Comprehension if s.str(value).starts_with('[') => Some(Collection::Plain),
        Role::Comprehension => Some(Collection::Asking),
        Role::Call => {
            let callee = t.child(value, Field::Callee)?;
            let known = |c: NodeId| matches!(t.field(c), Field::Callee | Field::Arguments) || t.role(c) == Role::Token;
            // one with a body is a class of its own
            if !t.children(value).all(known) {
                return None;
            }
            let name = t.subtree(callee).find(|n| t.role(*n) == Role::Name)?;
            let word = s.str(name);
            let given = s.names.at(name).and_then(|r| r.target).map(|b| s.names.binding(b));
            let known = match given {
                None => s.lang.is_builtin(word),
                Some(g) => g.import.as_ref().is_some_and(|i| s.lang.is_standard_module(&i.module)) && g.writes <= 1,
            };
            let whole = s.str(callee).trim_start_matches("new ").split('<').next().map(str::trim) == Some(word);
            let library = s.lang.collections();
            match known && whole {
                true if library.makers.contains(&word) => Some(Collection::Plain),
                true if library.asking_makers.contains(&word) => Some(Collection::Asking),
                _ => None,
            }
        }
        _ => None,
    }
}

/// A call that makes an empty collection of the library, and does no more.
pub(crate) fn makes_empty(s: &Source, call: NodeId) -> bool {
    let t = &s.tree;
    let empty = |a: NodeId| t.children(a).all(|c| t.role(c) == Role::Token);
    t.role(call) == Role::Call && t.child(call, Field::Arguments).is_some_and(empty) && made(s, call).is_some()
}

/// A member of what a value is given to is called.
fn is_called(s: &Source, value: NodeId) -> bool {
    let t = &s.tree;
    let left = t.parent(value).and_then(|a| t.child(a, Field::Left));
    let Some(b) = left.and_then(|l| s.names.at(l)).and_then(|r| r.target) else { return true };
    let called = |n: NodeId| t.parent(n).is_some_and(|m| t.role(m) == Role::Member && t.field(m) == Field::Callee);
    s.names.references_to(b).any(|r| called(r.node))
}

/// A use after which nobody else has the collection.
fn stays(s: &Source, name: NodeId) -> bool {
    let t = &s.tree;
    let Some(parent) = t.parent(name) else { return false };
    match t.role(parent) {
        Role::Member => match t.parent(parent).filter(|_| t.field(parent) == Field::Callee) {
            Some(call) => {
                let word = t.child(parent, Field::Member).map_or("", |m| s.str(m));
                grows(s, call).is_some() || s.lang.collections().telling.contains(&word)
            }
            None => t.field(parent) != Field::Left,
        },
        Role::Index => is_collection_of(s, parent, name) && t.field(parent) != Field::Callee,
        Role::Arguments => t.parent(parent).is_some_and(|call| {
            let callee = t.child(call, Field::Callee);
            let word = callee.map_or("", |c| s.str(c));
            let free = callee.and_then(|c| t.subtree(c).find(|n| t.role(*n) == Role::Name)).and_then(|n| s.names.at(n));
            let reads = s.lang.collections().reading.contains(&word);
            let known = reads || s.lang.printers().contains(&word) || s.lang.quiet_calls().contains(&word);
            // a text keeps nothing, whatever is asked of it
            let of_text = callee.and_then(|c| t.child(c, Field::Object)).is_some_and(|o| t.role(o) == Role::Literal);
            of_text || known && free.is_some_and(|r| r.target.is_none() || s.names.is_imported(r.node))
        }),
        Role::For => t.field(name) == Field::Right,
        // one that is run later holds it
        Role::CompFor => t.field(name) == Field::Right && t.ancestor(name, &[Role::Generator]).is_none(),
        Role::Compare | Role::NotOp | Role::Return => true,
        Role::If | Role::Elif | Role::While => t.field(name) == Field::Condition,
        Role::Paren => matches!(t.field(parent), Field::Condition),
        // among several values that are returned
        Role::Tuple | Role::List => t.parent(parent).is_some_and(|p| t.role(p) == Role::Return),
        Role::Pair => {
            let dict = t.parent(parent);
            dict.and_then(|d| t.parent(d)).is_some_and(|p| t.role(p) == Role::Return) && t.field(name) == Field::Value
        }
        _ => false,
    }
}

/// The name of a collection that a statement puts something into by a call, and does nothing else with.
pub(crate) fn grows(s: &Source, call: NodeId) -> Option<NodeId> {
    let t = &s.tree;
    let callee = t.child(call, Field::Callee).filter(|c| t.role(*c) == Role::Member)?;
    let object = t.child(callee, Field::Object).filter(|o| t.role(*o) == Role::Name)?;
    let word = t.child(callee, Field::Member).map_or("", |m| s.str(m));
    let arguments: Vec<NodeId> = t.children(t.child(call, Field::Arguments)?).collect();
    let named = arguments.iter().any(|a| matches!(t.role(*a), Role::Spread | Role::KeywordArg));
    let alone = t.parent(call).is_some_and(|p| t.role(p) == Role::ExprStmt);
    let library = s.lang.collections();
    let known = match arguments.len() {
        1 => library.growing.contains(&word),
        2 => library.placing.contains(&word),
        _ => false,
    };
    (alone && !named && known).then_some(object)
}

/// The same of an own collection, with its kind.
pub(crate) fn grown(s: &Source, call: NodeId) -> Option<(BindingId, Collection)> {
    let b = s.names.at(grows(s, call)?)?.target?;
    Some((b, own(s, b)?))
}

fn is_collection_of(s: &Source, index: NodeId, name: NodeId) -> bool {
    s.tree.children(index).next() == Some(name)
}

/// The own collection whose element is meant.
pub(crate) fn element_of(s: &Source, index: NodeId) -> Option<(BindingId, Collection)> {
    let t = &s.tree;
    let name = t.children(index).next().filter(|n| t.role(index) == Role::Index && t.role(*n) == Role::Name)?;
    let b = s.names.at(name).filter(|r: &&Reference| r.usage == Use::Read)?.target?;
    Some((b, own(s, b)?))
}
