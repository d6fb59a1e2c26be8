//! Types that are shapes: an object of other making can stand for one of a class, until the class has a private member.
//!
//! What is looked for is an object written out where the class's type is asked for: as a variable's value, a function's
//! result or an argument, or another class that says it implements it. Objects that come by longer ways are not seen.

use crate::change::{Code, Reason, reason};
use crate::index::Project;
use crate::names::Source;
use crate::plan::region::Portion;
use crate::tree::{Field, NodeId, Role, Tree};

/// A place that a new method of the site's class would break.
pub fn copied(project: &Project, site: &Portion) -> Option<Reason> {
    let (own, class) = (site.source(), site.method?.class);
    let name = own.tree.child(class, Field::Name).filter(|_| own.lang.is_shape(own, class))?;
    let name = own.str(name);
    let say = |s: &Source, n: NodeId| {
        let message = format!("what stands here for a `{name}` gets the new method, too");
        reason(s, n, Code::OtherShape, message)
    };
    let files = |word: &str| (0..project.facts.len()).filter(|f| project.facts[*f].has_word(word)).collect::<Vec<_>>();
    let mut takers: Vec<String> = Vec::new();
    for s in files(name).into_iter().filter_map(|f| project.source(f).ok()) {
        let typed = |n: &NodeId| s.tree.role(*n) == Role::Type && has_word(s.str(*n), name);
        for n in s.tree.ids().filter(typed) {
            match asked(&s, n) {
                Asked::Written(at) => return Some(say(&s, at)),
                Asked::Of(function) => takers.push(function),
                Asked::Nothing => {}
            }
        }
    }
    takers.sort();
    takers.dedup();
    takers.iter().find_map(|f| {
        let sources = files(f).into_iter().filter_map(|i| project.source(i).ok());
        sources.into_iter().find_map(|s| given(&s, f).map(|at| say(&s, at)))
    })
}

enum Asked {
    /// An object that is written out.
    Written(NodeId),
    /// An argument of the function with this name.
    Of(String),
    Nothing,
}

/// What is given where a type is written.
fn asked(s: &Source, written: NodeId) -> Asked {
    let t = &s.tree;
    let Some(parent) = t.parent(written) else { return Asked::Nothing };
    if t.ancestors(written).take_while(|a| t.role(*a) != Role::Block).any(|a| t.role(a) == Role::Class) {
        return Asked::Written(written);
    }
    let callable = t.callable_around(written);
    let result = t.field(written) == Field::ReturnType || callable == Some(parent);
    let parameter = t.ancestors(written).find(|a| t.role(*a) == Role::Parameters).is_some();
    match callable {
        Some(f) if result => t.subtree(f).find(|n| literal_result(t, *n, f)).map_or(Asked::Nothing, Asked::Written),
        Some(f) if parameter => name_of(s, f).map_or(Asked::Nothing, Asked::Of),
        _ => {
            let value = t.child(parent, Field::Right).or(t.child(parent, Field::Value));
            value.and_then(|v| literal(t, v)).map_or(Asked::Nothing, Asked::Written)
        }
    }
}

/// The name by which a function is called: its own, or the variable's that it is given to.
fn name_of(s: &Source, function: NodeId) -> Option<String> {
    let t = &s.tree;
    let given_to = || t.parent(function).and_then(|p| t.child(p, Field::Left));
    let name = t.child(function, Field::Name).or_else(given_to)?;
    let word = s.str(name);
    // a constructor is called by the class's name
    let class = t.ancestor(function, &[Role::Class]).and_then(|c| t.child(c, Field::Name));
    Some(class.filter(|_| s.lang.is_constructor(word)).map_or(word, |c| s.str(c)).to_string())
}

fn literal_result(t: &Tree, n: NodeId, function: NodeId) -> bool {
    let returned = match t.role(n) {
        Role::Return if t.callable_around(n) == Some(function) => t.children(n).next(),
        _ if t.child(function, Field::Body) == Some(n) => Some(n),
        _ => None,
    };
    returned.and_then(|v| literal(t, v)).is_some()
}

/// An object written out, by itself or in a list.
fn literal(t: &Tree, value: NodeId) -> Option<NodeId> {
    match t.role(value) {
        Role::Dict => Some(value),
        Role::List | Role::Paren | Role::Conditional => t.children(value).find_map(|c| literal(t, c)),
        _ => None,
    }
}

/// A call of a function that is given an object written out.
fn given(s: &Source, function: &str) -> Option<NodeId> {
    let t = &s.tree;
    let calls = t.ids().filter(|n| {
        let callee = t.child(*n, Field::Callee).filter(|_| t.role(*n) == Role::Call);
        callee.is_some_and(|c| s.str(c).rsplit('.').next() == Some(function))
    });
    calls.filter_map(|c| t.child(c, Field::Arguments)).find_map(|list| t.children(list).find_map(|a| literal(t, a)))
}

fn has_word(text: &str, word: &str) -> bool {
    text.split(|c: char| !c.is_alphanumeric() && c != '_' && c != '$').any(|w| w == word)
}
