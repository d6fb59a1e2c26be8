//! What a person points at by `FILE:LINE:COL`, `FILE:name` or `FILE:Class.name`.

use crate::names::{BindKind, BindingId, Names, Source};
use crate::text::Span;
use crate::tree::{Field, NodeId, Role, Tree};

/// The name that a place means.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Target {
    /// A variable, parameter, function, class or import.
    Binding(BindingId),
    /// A member of a class or of an object: the word's node.
    Member(NodeId),
}

/// The span of the name at a byte.
pub fn name_at(source: &Source, byte: usize) -> Option<Span> {
    let t = &source.tree;
    let touches = |n: NodeId| t.span(n).start <= byte && byte <= t.span(n).end;
    let word = |n: &NodeId| matches!(t.role(*n), Role::Name | Role::MemberName | Role::KeywordName) && touches(*n);
    // a key that is a value too counts as the value
    let found: Vec<NodeId> = t.ids().filter(word).collect();
    found.into_iter().max_by_key(|n| (t.span(*n).start, t.role(*n) == Role::Name)).map(|n| t.span(n))
}

/// The span of the smallest expression that begins at a byte or holds it; a class or a module is none without its member.
pub fn value_at(source: &Source, byte: usize) -> Option<Span> {
    let t = &source.tree;
    let holds = |n: &NodeId| t.role(*n).is_expression() && t.span(*n).start <= byte && byte < t.span(*n).end;
    let smallest = t.ids().filter(holds).min_by_key(|n| t.span(*n).end - t.span(*n).start)?;
    let names_no_value = |n: NodeId| {
        let Some(r) = source.names.at(n).filter(|_| t.field(n) == Field::Object) else { return false };
        let binding = r.target.map(|b| source.names.binding(b));
        binding.map_or(r.may_be_type(), |b| b.import.is_some() || b.kind == BindKind::Class)
    };
    let path = t.parent(smallest).filter(|m| t.role(*m) == Role::Member && names_no_value(smallest));
    Some(t.span(path.unwrap_or(smallest)))
}

/// The span of a definition's name, by `name` or `Class.name`; where functions are members, by `name` too when one class
/// of the file declares it.
pub fn name_of(source: &Source, path: &str) -> Option<Span> {
    let t = &source.tree;
    let mut scope = Names::MODULE;
    let mut found = None;
    for (i, part) in path.split('.').enumerate() {
        if i > 0 {
            let class = t.parent(source.names.binding(found?).first)?;
            if let Some(member) = member_of(source, class, part) {
                return (path.split('.').nth(i + 1).is_none()).then(|| t.span(member));
            }
            scope = source.names.scope_of(class)?;
        }
        let alone = || member_of_one(source, part).filter(|_| !path.contains('.'));
        found = Some(source.names.declared_in(scope, part).or_else(alone)?);
    }
    Some(t.span(source.names.binding(found?).first))
}

/// The member of that name, where one class declares it.
fn member_of_one(source: &Source, name: &str) -> Option<BindingId> {
    let names = &source.names;
    let classes = source.tree.ids().filter(|n| source.tree.role(*n) == Role::Class).filter(|_| names.members_in_sight);
    let mut found = classes.filter_map(|c| names.declared_in(names.scope_of(c)?, name));
    found.next().filter(|_| found.next().is_none())
}

/// The first word that defines a member which the class's scope does not have: one that is assigned to an object, or
/// declared without a value.
fn member_of(source: &Source, class: NodeId, name: &str) -> Option<NodeId> {
    let t = &source.tree;
    if source.names.scope_of(class).is_some_and(|s| source.names.declared_in(s, name).is_some()) {
        return None;
    }
    let defines = |n: &NodeId| {
        let parent = t.parent(*n)?;
        let object = t.child(parent, Field::Object).map(|o| source.str(o));
        let target = t.role(parent) != Role::Member
            || object.is_some_and(|o| source.lang.is_receiver(o)) && t.field(parent) == Field::Left;
        (t.role(*n) == Role::MemberName && source.str(*n) == name && target && t.field(*n) != Field::Key).then_some(())
    };
    t.subtree(class).find(|n| defines(n).is_some())
}

/// What the name with a span stands for.
pub fn target(source: &Source, span: Span) -> Option<Target> {
    let t = &source.tree;
    let fits = |n: &NodeId| t.span(*n) == span && t.is_leaf(*n);
    let nodes: Vec<NodeId> = t.ids().filter(fits).collect();
    let node = *nodes.iter().find(|n| t.role(**n) == Role::Name).or(nodes.first())?;
    if t.role(node) == Role::MemberName {
        return Some(Target::Member(node));
    }
    // a member that a class has inherited
    if source.names.members_in_sight && source.names.at(node).is_some_and(|r| r.target.is_none()) {
        return Some(Target::Member(node));
    }
    // a declaration without a value is no use of its name
    let declared = || {
        let function = t.callable_around(node).unwrap_or(Tree::ROOT);
        let of_function = || source.names.declared_in(source.names.scope_of(function)?, source.str(node));
        let mut all = (0..source.names.bindings.len() as u32).map(BindingId);
        all.find(|b| source.names.binding(*b).first == node).or_else(of_function)
    };
    let b = source.names.at(node).and_then(|r| r.target).or_else(declared)?;
    let of_class = source.names.scope(source.names.binding(b).scope).kind == crate::names::ScopeKind::Class;
    Some(if of_class { Target::Member(node) } else { Target::Binding(b) })
}

/// The node that holds a name's place in a pair that is one word, such as `{ a }`.
pub fn one_word_pair(t: &Tree, name: NodeId) -> Option<NodeId> {
    t.parent(name).filter(|p| t.span(*p) == t.span(name) && t.child(*p, Field::Key).is_some())
}
