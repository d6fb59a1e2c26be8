//! Where a member is used: in its classes, on objects that are surely of them, and where that can't be told.
//!
//! Classes that extend each other have their members in common. An object is known when it is the one of a method, or a
//! variable that is made by a call of a class, or whose type is written. Where nothing is known the word counts as the
//! member's, under an assumption with its place, as long as no other class of the project has the word too.

use std::sync::Arc;

use crate::change::{Code, Found, Reason, reason};
pub(crate) use crate::index::bases::Class;
use crate::index::bases::{MOST_NAMES, is_closed};
use crate::index::declared::value_of;
use crate::index::method::receiver_of;
use crate::index::references::References;
use crate::index::shapes::may_meet;
use crate::index::{Project, Uses, bases, unseen};
use crate::names::{Binding, Names, ScopeKind, Source};
use crate::tree::{Field, NodeId, Role};

/// More places are not told.
const MOST_TOLD: usize = 5;

/// What a word on an object is of.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(crate) enum Owner {
    Family,
    Other,
    Unknown,
}

/// References of the member that a place names, with the classes that have it in common.
pub(crate) fn find(project: &Project, s: &Arc<Source>, node: NodeId, old: &str) -> Found<(References, Vec<Class>)> {
    let refuse = |s: &Source, n: NodeId, code: Code, message: String| Err(vec![reason(s, n, code, message)]);
    let Some(class) = class_of(project, s, node) else {
        return refuse(s, node, Code::UnknownMember, format!("which class has `{old}` can't be told here"));
    };
    if s.lang.is_special_member(old) {
        return refuse(s, node, Code::ForeignName, format!("the language gives `{old}` its meaning"));
    }
    let family = family(project, class);
    let mut assumed = made(project, &family, old)?;
    let mut out: Vec<Uses> = Vec::new();
    named_otherwise(project, &family, old)?;
    for (_, other) in unseen::with_word(project, old, s.lang) {
        let mut nodes = Vec::new();
        for n in other.tree.ids().filter(|n| is_member_word(&other, *n, old)) {
            if is_by_written_type(project, &other, n, &family) && assumed.len() < MOST_TOLD {
                let message = "the object here is of the type that is written for it";
                assumed.push(reason(&other, n, Code::MemberByName, message));
            }
            match owner(project, &other, n, &family) {
                Owner::Family => nodes.push(n),
                Owner::Other => {}
                Owner::Unknown => {
                    if let Some((o, place)) = other_with(project, old, &family) {
                        let at = format!("{}:{}", other.path, other.line(n));
                        let message =
                            format!("another class has `{old}` too, and which of them {at} means can't be told");
                        return refuse(&o, place, Code::OtherMember, message);
                    }
                    if assumed.len() < MOST_TOLD {
                        let message =
                            format!("the object here is one of the class, or `{old}` of others is renamed too");
                        assumed.push(reason(&other, n, Code::MemberByName, message));
                    }
                    nodes.push(n);
                }
            }
        }
        nodes.extend(listed_members(&other, old, &family));
        if !nodes.is_empty() {
            nodes.sort();
            nodes.dedup();
            out.push(Uses { source: other, nodes });
        }
    }
    assumed.extend(by_other_objects(project, old, &family));
    assumed.truncate(MOST_TOLD);
    Ok((References { sure: out, possible: assumed }, family))
}

/// What must hold for the words on known objects to be all: no object of another class stands for one of these.
pub(crate) fn by_other_objects(project: &Project, word: &str, family: &[Class]) -> Vec<Reason> {
    let told = |(s, n): (Arc<Source>, NodeId), message: String| reason(&s, n, Code::MemberByName, message);
    let shapes = taken_for(project, word, family).into_iter();
    let given = given_to_methods(project, word, family).into_iter();
    let shapes =
        shapes.map(|x| told(x, format!("no object of the class is taken for one of these, which have `{word}` too")));
    shapes.chain(given.map(|x| told(x, "the objects that this is called with are of the class".into()))).collect()
}

/// Methods that ask for the member, taken from their class and called with what is not known to be of it.
fn given_to_methods(project: &Project, word: &str, family: &[Class]) -> Vec<(Arc<Source>, NodeId)> {
    if family[0].0.lang.object_word().is_some() || other_with(project, word, family).is_none() {
        return Vec::new();
    }
    let mut names: Vec<String> = Vec::new();
    for (s, class) in family {
        let t = &s.tree;
        let asks = |f: &NodeId| {
            let own =
                |n: NodeId| t.role(n) == Role::MemberName && s.str(n) == word && class_of(project, s, n).is_some();
            receiver_of(s, *f).is_some_and(|r| r.0 == *class) && t.subtree(*f).any(own)
        };
        let functions = t.subtree(*class).filter(|f| t.role(*f) == Role::Function).filter(asks);
        names.extend(functions.filter_map(|f| t.child(f, Field::Name)).map(|n| s.str(n).to_string()));
    }
    names.sort();
    names.dedup();
    let mut out = Vec::new();
    for name in &names {
        for (_, s) in unseen::with_word(project, name, family[0].0.lang) {
            let t = &s.tree;
            let other = |n: &NodeId| {
                let member = t.parent(*n).filter(|m| t.role(*m) == Role::Member && t.field(*n) == Field::Member);
                let object = member.and_then(|m| t.child(m, Field::Object));
                let class = object.and_then(|o| unseen::definition_of(project, &s, o));
                let call = member.and_then(|m| t.parent(m).filter(|_| t.field(m) == Field::Callee));
                let first = call.and_then(|c| t.child(c, Field::Arguments)).and_then(|a| t.children(a).next());
                let known = first.and_then(|a| class_of_object(project, &s, a)).is_some_and(|c| is_in(family, &c));
                class.is_some_and(|c| is_in(family, &c)) && !known
            };
            let all = t.ids().filter(|n| t.role(*n) == Role::MemberName && s.str(*n) == name);
            out.extend(all.filter(other).map(|n| (s.clone(), n)));
        }
    }
    out
}

/// Members of other types, where one is taken for another by its members alone.
fn taken_for(project: &Project, word: &str, family: &[Class]) -> Vec<(Arc<Source>, NodeId)> {
    let mut out: Vec<(Arc<Source>, NodeId)> = Vec::new();
    let mut seen: Vec<Class> = family.to_vec();
    for (_, s) in unseen::with_word(project, word, family[0].0.lang) {
        for n in s.tree.ids().filter(|n| is_member_word(&s, *n, word)) {
            let declares = s.tree.parent(n).is_some_and(|p| s.tree.role(p) != Role::Member);
            let Some(class) = class_of(project, &s, n).filter(|c| declares && !is_in(&seen, c)) else { continue };
            let others = self::family(project, class);
            let meets = |o: &Class| family.iter().any(|f| may_meet(project, f, o));
            if others.iter().any(meets) {
                out.push((s.clone(), n));
            }
            seen.extend(others);
        }
    }
    out
}

/// Another name that the language gives the member, or a parameter that declares it.
fn named_otherwise(project: &Project, family: &[Class], old: &str) -> Found<()> {
    let refuse = |s: &Source, n: NodeId, code: Code, message: String| Err(vec![reason(s, n, code, message)]);
    for (c, class) in family {
        let inside = c.names.in_range(*class, c.tree.end(*class));
        let too = inside
            .iter()
            .filter_map(|r| r.target)
            .find(|b| c.names.binding(*b).name == old && c.lang.is_member_too(c, *b));
        if let Some(b) = too {
            let message = format!("a parameter declares `{old}` here, and is named by it");
            return refuse(c, c.names.binding(b).first, Code::ForeignName, message);
        }
        // the language's own name for it
        let inner = c.tree.child(*class, Field::Name).map_or("", |n| c.str(n)).trim_start_matches('_');
        let mangled = format!("_{inner}{old}");
        if let Some((_, other)) = unseen::with_word(project, &mangled, c.lang).next() {
            let n = other.tree.ids().find(|n| other.str(*n) == mangled).unwrap_or(NodeId(0));
            return refuse(&other, n, Code::NamedByString, format!("`{mangled}` is the same member"));
        }
    }
    Ok(())
}

/// The classes related to the one whose member a word surely names.
pub(crate) fn family_of(project: &Project, s: &Source, n: NodeId) -> Option<Vec<Class>> {
    class_of(project, s, n).map(|c| family(project, c))
}

/// The classes that a class extends and that extend it, as far as the project defines them.
fn family(project: &Project, class: Class) -> Vec<Class> {
    let mut out = vec![class];
    let mut at = 0;
    while at < out.len() {
        let (s, class) = out[at].clone();
        at += 1;
        let mut found: Vec<Class> =
            bases::of(&s, class).into_iter().filter_map(|b| bases::behind(project, &s, b)).collect();
        let is_it = |(h, d): &Class| h.path == s.path && *d == class;
        for other in naming(project, &s, class) {
            let t = &other.tree;
            for c in t.ids().filter(|n| matches!(t.role(*n), Role::Class | Role::TypeAlias)) {
                let mut all = bases::of(&other, c).into_iter();
                if all.any(|b| bases::behind(project, &other, b).as_ref().is_some_and(is_it)) {
                    found.push((other.clone(), c));
                }
            }
        }
        for c in found {
            if is_type(&c) && !is_in(&out, &c) {
                out.push(c);
            }
        }
    }
    out
}

/// Files that say the name of a class, or another one that files give it.
fn naming(project: &Project, s: &Arc<Source>, class: NodeId) -> Vec<Arc<Source>> {
    let own = s.tree.child(class, Field::Name).map(|n| s.str(n).to_string());
    let mut words: Vec<String> = own.into_iter().collect();
    let mut out: Vec<Arc<Source>> = Vec::new();
    let mut at = 0;
    while at < words.len().min(MOST_NAMES) {
        for other in unseen::with_name(project, &words[at], s.lang) {
            let of_file = other.names.bindings_of(Names::MODULE).map(|b| other.names.binding(b));
            let named = of_file.filter(|b| bases::is_named_by(&other, b, &words[at]) && !words.contains(&b.name));
            let leads = |b: &&Binding| {
                let found = bases::behind(project, &other, b.first);
                found.is_some_and(|(h, d)| h.path == s.path && d == class)
            };
            let more: Vec<String> = named.filter(leads).map(|b| b.name.clone()).collect();
            words.extend(more);
            if !out.iter().any(|o| o.path == other.path) {
                out.push(other);
            }
        }
        at += 1;
    }
    out
}

/// A class, or another type with members.
pub(crate) fn is_type(class: &Class) -> bool {
    matches!(class.0.tree.role(class.1), Role::Class | Role::TypeAlias)
}

pub(crate) fn is_in(family: &[Class], class: &Class) -> bool {
    family.iter().any(|(s, n)| s.path == class.0.path && *n == class.1)
}

/// What the marks and the foreign bases of the classes mean for a member.
fn made(project: &Project, family: &[Class], old: &str) -> Found<Vec<Reason>> {
    let mut out = Vec::new();
    for (s, class) in family {
        let scope = s.names.scope_of(*class);
        let own = scope.and_then(|x| s.names.declared_in(x, old)).map(|b| s.names.binding(b));
        let Some(own) = own else { continue };
        let is_function = own.kind == crate::names::BindKind::Function;
        if unseen::is_collected(&s.path, old) {
            return Err(vec![reason(s, own.first, Code::Demanded, format!("a test runner finds `{old}` by its name"))]);
        }
        for (c, making) in bases::making(project, s, *class) {
            if s.lang.is_protocol_member(s, *class, old) {
                return Err(vec![reason(
                    s,
                    own.first,
                    Code::Demanded,
                    format!("the language calls `{old}` by its name"),
                )]);
            }
            if let Some(base) = making.foreign.first() {
                if is_function && unseen::is_demanded(c.lang, old) {
                    let message = format!("`{}` may call `{old}` by its name", c.str(*base));
                    return Err(vec![reason(s, own.first, Code::Demanded, message)]);
                }
                let message = format!("`{}` neither calls nor lists `{old}`", c.str(*base));
                out.push(reason(&c, *base, Code::Demanded, message));
            }
            if let Some(mark) = making.marks.first().filter(|_| !is_function) {
                let message = format!("nothing that `{}` makes shows or takes `{old}` by its name", c.str(*mark));
                out.push(reason(&c, *mark, Code::LookedUp, message));
                named_values(project, s, *class, old)?;
            }
        }
    }
    out.truncate(unseen::MOST_PLACES);
    Ok(out)
}

/// A call that makes an object and names the member.
fn named_values(project: &Project, s: &Source, class: NodeId, old: &str) -> Found<()> {
    for (_, other) in unseen::with_word(project, old, s.lang) {
        let t = &other.tree;
        let named = |n: &NodeId| {
            let call = t.ancestor(*n, &[Role::Call, Role::Pattern, Role::Case]);
            t.role(*n) == Role::KeywordName && other.str(*n) == old && call.is_some()
        };
        if let Some(n) = t.ids().find(named) {
            let name = s.tree.child(class, Field::Name).map_or("", |n| s.str(n));
            let message = format!("a value is given to `{old}` by name; that may be one of `{name}`");
            return Err(vec![reason(&other, n, Code::NamedArgument, message)]);
        }
    }
    Ok(())
}

/// Texts in a class's own list of its members.
pub(crate) fn listed_members(s: &Source, old: &str, family: &[Class]) -> Vec<NodeId> {
    let t = &s.tree;
    let listed = |n: &NodeId| {
        let list = t.ancestor(*n, &[Role::Assign]).and_then(|a| t.child(a, Field::Left)).map_or("", |l| s.str(l));
        let class = t.ancestor(*n, &[Role::Class]);
        t.role(*n) == Role::Literal
            && crate::index::words::unquoted(s, *n) == old
            && s.lang.member_lists().contains(&list)
            && class.is_some_and(|c| family.iter().any(|(f, d)| f.path == s.path && *d == c))
    };
    t.ids().filter(listed).collect()
}

pub(crate) fn is_member_word(s: &Source, n: NodeId, word: &str) -> bool {
    let t = &s.tree;
    let member = match t.role(n) {
        Role::MemberName => true,
        Role::Name => {
            let b = s.names.at(n).and_then(|r| r.target);
            b.is_some_and(|b| s.names.scope(s.names.binding(b).scope).kind == ScopeKind::Class)
        }
        // a pattern of a class names its members
        Role::KeywordName => t.ancestor(n, &[Role::Call, Role::Case]).is_some_and(|a| t.role(a) == Role::Case),
        Role::Literal => return unseen::looked_up(s, n, word).is_some(),
        _ => false,
    };
    member && s.str(n).trim_matches(['"', '\'']) == word
}

/// What the word of a member is of.
pub(crate) fn owner(project: &Project, s: &Arc<Source>, n: NodeId, family: &[Class]) -> Owner {
    let t = &s.tree;
    let of = |class: Class| match is_in(family, &class) {
        true => Owner::Family,
        // what it extends may be one of them
        false if is_closed(project, &class) => Owner::Other,
        false => Owner::Unknown,
    };
    if let Some(class) = class_of(project, s, n) {
        return of(class);
    }
    let Some(parent) = t.parent(n) else { return Owner::Unknown };
    // `{ tons: 3 }`: an object of its own
    if t.role(parent) == Role::Pair && t.field(n) == Field::Key {
        let made = t.parent(parent).and_then(|d| t.parent(d)).and_then(|a| written_type(project, s, a));
        return match made {
            Some(class) => of(class),
            None if s.lang.needs_types() => Owner::Unknown,
            None => Owner::Other,
        };
    }
    if let Some(object) = unseen::looked_up(s, n, s.str(n).trim_matches(['"', '\'', '`'])) {
        return match object {
            Some(o) if is_elsewhere(project, s, o) => Owner::Other,
            Some(o) => class_of_object(project, s, o).map_or(Owner::Unknown, of),
            None => Owner::Unknown,
        };
    }
    let Some(object) = t.child(parent, Field::Object).filter(|_| matches!(t.role(parent), Role::Member | Role::Type))
    else {
        return Owner::Unknown;
    };
    // what is above the class around it
    let given = t.child(object, Field::Arguments).is_some_and(|a| t.children(a).any(|x| t.role(x) != Role::Token));
    let word = if t.role(object) == Role::Call && !given { t.child(object, Field::Callee) } else { Some(object) };
    let above = word.filter(|w| t.is_leaf(*w) && s.lang.needs_class(s.str(*w)));
    let around = above.and_then(|w| t.ancestor(w, &[Role::Class]));
    if let Some(class) = around {
        return of((s.clone(), class));
    }
    match class_of_object(project, s, object) {
        Some(class) => of(class),
        None if is_elsewhere(project, s, object) => Owner::Other,
        None => Owner::Unknown,
    }
}

/// What the word is of is told by a type that nobody checks, and other classes have it too.
pub(crate) fn is_by_written_type(project: &Project, s: &Source, n: NodeId, family: &[Class]) -> bool {
    let t = &s.tree;
    let object = t.parent(n).filter(|m| t.role(*m) == Role::Member).and_then(|m| t.child(m, Field::Object));
    let Some(o) = object.filter(|_| !s.lang.needs_types() && class_of(project, s, n).is_none()) else { return false };
    let written = known_class(project, s, o).is_none() && class_of_object(project, s, o).is_some();
    written && other_with(project, s.str(n), family).is_some()
}

/// A module, something that a call from elsewhere gave, or a value that is written there.
pub(crate) fn is_elsewhere(project: &Project, s: &Source, object: NodeId) -> bool {
    use crate::index::Entity;
    let t = &s.tree;
    // where objects have the types of their shapes, one that is written out may be of any
    let plain = |n: NodeId| match t.role(n) {
        Role::Dict => !s.lang.needs_types(),
        role => matches!(role, Role::Literal | Role::List | Role::Set | Role::Tuple | Role::Template),
    };
    if plain(object) {
        return true;
    }
    // a module behind another one, or by its whole path
    if t.role(object) == Role::Member && matches!(project.meant(s, object), Some(Entity::Module(_))) {
        return true;
    }
    let root = s.str(object).split('.').next().and_then(|r| s.names.in_module(r)).map(|b| s.names.binding(b));
    if t.role(object) == Role::Member && root.is_some_and(|b| b.import.is_some()) {
        let module = s.str(object).to_string();
        let path = crate::names::ImportRef { level: 0, module, member: None, wildcard: false };
        return !project.resolved(s, &path).is_empty();
    }
    let Some(r) = s.names.at(object) else { return false };
    let Some(b) = r.target else { return s.lang.is_builtin(s.str(object)) };
    let binding = s.names.binding(b);
    if binding.import.is_some() && binding.writes == 1 {
        let origin = project.origin(&project.entity(s, &binding.name));
        return matches!(origin, Entity::Module(_)) || origin.is_of_library();
    }
    let Some(value) = value_of(s, object) else { return false };
    match t.role(value) {
        _ if plain(value) => true,
        Role::Call => {
            let callee = t.child(value, Field::Callee);
            let root = callee.and_then(|c| t.subtree(c).find(|n| t.role(*n) == Role::Name));
            let target = root.and_then(|r| s.names.at(r)).map(|r| r.target);
            match target {
                Some(Some(b)) if s.names.binding(b).import.is_some() => {
                    let origin = project.origin(&project.entity(s, &s.names.binding(b).name));
                    origin.is_of_library()
                }
                Some(None) => root.is_some_and(|r| s.lang.is_builtin(s.str(r))) && callee == root,
                _ => false,
            }
        }
        _ => false,
    }
}

/// The class that an object is surely one of, by its type too, where one is written.
pub(crate) fn class_of_object(project: &Project, s: &Source, object: NodeId) -> Option<Class> {
    let written = || {
        let binding = s.names.binding(s.names.at(object)?.target?);
        let found = written_type(project, s, s.tree.parent(binding.first)?)?;
        (binding.writes <= 1 && is_type(&found) && value_call(s, object).is_none()).then_some(found)
    };
    known_class(project, s, object).or_else(written)
}

fn value_call(s: &Source, object: NodeId) -> Option<NodeId> {
    value_of(s, object).filter(|v| s.tree.role(*v) == Role::Call)
}

fn known_class(project: &Project, s: &Source, object: NodeId) -> Option<Class> {
    let t = &s.tree;
    let made = |call: NodeId| -> Option<Class> {
        let callee = t.child(call, Field::Callee).filter(|_| t.role(call) == Role::Call)?;
        let found = unseen::definition_of(project, s, callee)?;
        (found.0.tree.role(found.1) == Role::Class).then_some(found)
    };
    if let Some(c) = made(object) {
        return Some(c);
    }
    // the object of the code itself
    if t.role(object) == Role::Class {
        return Some((project.source(project.index(&s.path)?).ok()?, object));
    }
    let b = s.names.at(object)?.target?;
    let binding = s.names.binding(b);
    // the class itself
    if let Some(c) = unseen::definition_of(project, s, object)
        && c.0.tree.role(c.1) == Role::Class
    {
        return Some(c);
    }
    let function = s.names.scope(binding.scope).node;
    if let Some((class, _)) = receiver_of(s, function).filter(|r| r.1 == b) {
        let own = project.source(project.index(&s.path)?).ok()?;
        return Some((own, class));
    }
    made(value_call(s, object)?)
}

/// The type that is written for a variable or a parameter, when it is a single name.
fn written_type(project: &Project, s: &Source, declaration: NodeId) -> Option<Class> {
    let t = &s.tree;
    let written = t.child(declaration, Field::Type)?;
    let mut leaves = t.subtree(written).filter(|n| t.is_leaf(*n));
    let (first, rest) = (leaves.next()?, leaves.next());
    unseen::definition_of(project, s, first).filter(|_| rest.is_none())
}

/// The class whose member a word surely names: in its body, or on the object of one of its methods.
fn class_of(project: &Project, s: &Source, n: NodeId) -> Option<Class> {
    let t = &s.tree;
    let own = || project.source(project.index(&s.path)?).ok();
    let parent = t.parent(n)?;
    if t.role(parent) == Role::Member {
        let object = t.child(parent, Field::Object)?;
        let b = s.names.at(object)?.target?;
        let function = s.names.scope(s.names.binding(b).scope).node;
        let receiver = receiver_of(s, function)?;
        return (receiver.1 == b).then_some((own()?, receiver.0));
    }
    let scope = s.names.at(n).and_then(|r| r.target).map(|b| s.names.binding(b).scope);
    let declared = || {
        let definition = t.ancestor(n, &[Role::Class, Role::TypeAlias, Role::Function, Role::Lambda, Role::Dict])?;
        let own = t.role(n) == Role::MemberName && matches!(t.field(n), Field::Name | Field::Member);
        let of_another = t.child(parent, Field::Object).is_some();
        (own && !of_another && matches!(t.role(definition), Role::Class | Role::TypeAlias)).then_some(definition)
    };
    let class = match scope.map(|x| s.names.scope(x)) {
        Some(x) if x.kind == ScopeKind::Class => Some(x.node),
        _ => declared(),
    };
    class.and_then(|c| Some((own()?, c)))
}

/// Another class of the project that has the member.
fn other_with(project: &Project, word: &str, family: &[Class]) -> Option<Class> {
    // one that may be of the family counts only when it declares the member
    let is_another = |s: &Source, n: NodeId, class: &Class| {
        let declares = s.tree.parent(n).is_none_or(|p| s.tree.role(p) != Role::Member);
        !is_in(family, class) && (declares || is_closed(project, class))
    };
    unseen::with_word(project, word, family[0].0.lang).find_map(|(_, s)| {
        let t = &s.tree;
        let place = t
            .ids()
            .filter(|n| is_member_word(&s, *n, word))
            .find(|n| class_of(project, &s, *n).is_some_and(|c| is_another(&s, *n, &c)))?;
        Some((s.clone(), place))
    })
}
