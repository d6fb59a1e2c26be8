//! What a program could see of a function that was not there before: members and modules that are listed, functions whose
//! names are shown with what they log, turns that others get while it waits.

use std::sync::Arc;

use crate::change::{Code, Reason, reason};
use crate::index::bases::{self, with_bases};
use crate::index::method::receiver_of;
use crate::index::unseen::{MOST_PLACES, called, definition_of, is_asked_for_another};
use crate::index::{Entity, Project};
use crate::names::{BindKind, Names, Source};
use crate::plan::home::Home;
use crate::plan::region::Portion;
use crate::tree::{Field, NodeId, Role};

/// Assumptions under which nobody sees the new function.
pub fn seen(project: &Project, site: &Portion, home: &Home, is_async: bool, name: &str) -> Vec<Reason> {
    let s = site.source();
    let mut out = Vec::new();
    if is_async && s.lang.waits_take_turns() {
        let message = "nobody depends on how many turns of the event loop this takes: the new function waits once more";
        out.push(reason(s, site.region.first, Code::Turns, message));
    }
    let shown = s.lang.frame_texts().iter().any(|w| project.facts.iter().any(|f| f.has_word(w)));
    let (from, to) = (site.region.first.0, site.region.end().0);
    let logs = |n: &NodeId| {
        let callee = s.tree.child(*n, Field::Callee).filter(|_| s.tree.role(*n) == Role::Call);
        callee.is_some_and(|c| s.str(c).to_ascii_lowercase().contains("log"))
    };
    if let Some(n) = (from..to).map(NodeId).find(logs).filter(|_| shown) {
        let message = format!("nothing depends on `{name}` being shown as the function that logs this");
        out.push(reason(s, n, Code::ShownName, message));
    }
    if home.nest.is_none() {
        out.extend(listed(project, home, name));
    }
    out
}

/// Places where the new home's names are gone through.
fn listed(project: &Project, home: &Home, name: &str) -> Vec<Reason> {
    let mut out = Vec::new();
    for f in 0..project.facts.len() {
        let facts = &project.facts[f];
        let Some(lang) = crate::lang::by_name(&facts.language) else { continue };
        let words = if home.class.is_some() { lang.member_listing_words() } else { lang.listing_words() };
        let of_class = if home.class.is_some() { lang.class_listing_words() } else { &[] };
        // heirs of a base show its members to those who know nothing of it
        let far = || home.class.is_some() && home.outside.is_some() && project.modules().reaches(f, home.file);
        let near = f == home.file || project.imports(f, home.file) || far();
        if !near || !words.iter().chain(of_class).any(|w| facts.has_word(w)) {
            continue;
        }
        let Ok(s) = project.source(f) else { continue };
        let lists = |n: &NodeId| match s.tree.role(*n) {
            Role::Call => called(&s, *n).is_some_and(|(word, arguments)| {
                let classes = || arguments.first().is_none_or(|a| is_class(project, &s, *a));
                of_class.contains(&word) && classes()
                    || words.contains(&word)
                        && (home.class.is_some() || is_of_module(project, &s, f, home.file, &arguments))
            }),
            // the table of the members itself, which of an object has no methods
            Role::MemberName if words.contains(&s.str(*n)) && s.str(*n).starts_with('_') => {
                let member = s.tree.parent(*n).filter(|m| s.tree.role(*m) == Role::Member);
                let object = member.and_then(|m| s.tree.child(m, Field::Object));
                let of_home = |o: NodeId| match home.class {
                    Some(_) => {
                        member.is_none_or(|m| !is_asked_for_another(&s, m, name)) && !is_of_object(project, &s, o)
                    }
                    None => is_of_module(project, &s, f, home.file, &[o]),
                };
                object.is_none_or(of_home)
            }
            _ => false,
        };
        let message =
            || format!("`{name}` is not among the names that are gone through here, or changes nothing there");
        out.extend(s.tree.ids().filter(lists).take(1).map(|n| reason(&s, n, Code::LookedUp, message())));
    }
    out.truncate(MOST_PLACES);
    out
}

/// An object that is surely no class: the one of a method, or a local that only gets objects of known classes.
fn is_of_object(project: &Project, s: &Source, object: NodeId) -> bool {
    let t = &s.tree;
    let Some(b) = s.names.at(object).and_then(|r| r.target) else { return false };
    let binding = s.names.binding(b);
    let function = s.names.scope(binding.scope).node;
    // the objects of a class of classes are classes
    let plain = |class: (Arc<Source>, NodeId)| {
        let known = |(c, node): &(Arc<Source>, NodeId)| {
            bases::of(c, *node).into_iter().all(|x| {
                let plain = c.lang.harmless_bases().contains(&c.str(x)) && !c.lang.class_words().contains(&c.str(x));
                plain || bases::behind(project, c, x).is_some_and(|(h, d)| h.tree.role(d) == Role::Class)
            })
        };
        with_bases(project, class).iter().all(known)
    };
    if let Some((class, _)) = receiver_of(s, function).filter(|r| r.1 == b) {
        let home = project.index(&s.path).and_then(|f| project.source(f).ok());
        return !s.lang.is_class_receiver(&binding.name) && home.is_some_and(|h| plain((h, class)));
    }
    let made = |v: NodeId| {
        let class = t.child(v, Field::Callee).and_then(|c| definition_of(project, s, c));
        let class = class.filter(|(c, d)| t.role(v) == Role::Call && c.tree.role(*d) == Role::Class);
        t.role(v) == Role::Literal || class.is_some_and(plain)
    };
    let given = |r: &crate::names::Reference| {
        let right = t.parent(r.node).filter(|a| t.role(*a) == Role::Assign).and_then(|a| t.child(a, Field::Right));
        !r.usage.writes() || right.is_some_and(made)
    };
    binding.kind == BindKind::Variable && binding.scope != Names::MODULE && s.names.references_to(b).all(given)
}

/// A value that is a class, or the class of something.
pub(crate) fn is_class(project: &Project, s: &Source, value: NodeId) -> bool {
    let t = &s.tree;
    match t.role(value) {
        Role::Name => {
            let b = s.names.at(value).and_then(|r| r.target).map(|b| s.names.binding(b));
            let given = b.is_some_and(|b| b.kind == BindKind::Parameter && s.lang.is_class_receiver(&b.name));
            let defined = || project.definition(s, s.str(value)).is_some_and(|(o, d)| o.tree.role(d) == Role::Class);
            given || b.is_some_and(|b| b.kind == BindKind::Class) || defined()
        }
        // `type(x)`, `x.__class__`
        Role::Call => called(s, value).is_some_and(|(word, _)| s.lang.class_words().contains(&word)),
        Role::Member => t.child(value, Field::Member).is_some_and(|m| s.lang.class_words().contains(&s.str(m))),
        _ => false,
    }
}

/// What is gone through may be the names of the home's module.
fn is_of_module(project: &Project, s: &Source, file: usize, home: usize, arguments: &[NodeId]) -> bool {
    let Some(first) = arguments.first() else { return file == home };
    let t = &s.tree;
    match t.role(*first) {
        Role::Name => {
            let b = s.names.at(*first).and_then(|r| r.target);
            let import = b.map(|b| s.names.binding(b)).filter(|b| b.import.is_some());
            let module = import.map(|b| project.origin(&project.entity(s, &b.name)));
            module == Some(Entity::Module(home)) || file == home && s.lang.is_exports(s, s.str(*first))
        }
        // a module out of the list of all modules
        Role::Index | Role::Call => s.lang.loads_modules(s.str(*first)),
        Role::Member => file == home && s.lang.is_exports(s, s.str(*first)),
        _ => false,
    }
}
