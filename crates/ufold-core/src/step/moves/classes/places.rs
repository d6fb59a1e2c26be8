//! What sees in which package a class is: resources that lie beside it, settings that name packages, marks that are looked for.

use super::Going;
use crate::change::{Code, Reason, reason};
use crate::index::unseen;
use crate::index::words::has_whole_word;
use crate::lang::{Bases, MemberOf, Stored};
use crate::names::Source;
use crate::tree::{Field, NodeId, Role};

/// Places that one suspicion lists.
const MOST_PLACES: usize = 3;

pub(super) fn find(g: &Going) -> Vec<Reason> {
    let (s, mut out) = (&g.from, Vec::new());
    out.extend(started_alone(g));
    if g.same_path() {
        return out;
    }
    let definitions = |s: &Source, name: &str| g.project.definition(s, name);
    out.extend(g.bases().is_found_from_outside(s, g.class).map(|(n, why)| reason(s, n, Code::Demanded, why)));
    if s.lang.stored(s, g.class, &definitions) != Stored::Not {
        let message =
            "no stored object is read again, and no text of what is thrown is asked for: they say the package";
        out.push(reason(s, g.class, Code::StoredObjects, message));
    }
    out.extend(texts(g));
    if !g.near() {
        out.extend(beside(g));
        out.extend(packages(g));
        out.extend(g.project.facts.iter().filter(|f| is_list(g.bases(), &f.path)).map(|f| {
            let message = "the packages here are open to all who use the class, or you add the new one".to_string();
            Reason { code: Code::BuildList, message, file: f.path.clone(), line: 1 }
        }));
    }
    out
}

/// A file that needs no other one, and that a program starts with: it may be started as it is, which needs the class.
fn started_alone(g: &Going) -> Option<Reason> {
    let (s, t) = (&g.from, &g.from.tree);
    let definitions = |s: &Source, name: &str| g.project.definition(s, name);
    let classes = t.ids().filter(|n| t.role(*n) == Role::Class && !g.holds(s, *n));
    let starts = classes.filter_map(|c| g.bases().starts_a_program(s, c)).next()?;
    let own = |c: crate::types::Ty| {
        t.ids().any(|n| {
            t.role(n) == Role::Class && {
                crate::index::class_tree::same_class(s.lang.class_type(s, n, &definitions).0, c)
            }
        })
    };
    let of_other = |n: &NodeId| {
        t.is_leaf(*n)
            && matches!(s.lang.class_named(s, *n, &definitions), MemberOf::Class(c) | MemberOf::Likely(c) if !own(c))
    };
    let message = "nobody starts this file by itself: the class would not be in it";
    (!t.ids().any(|n| of_other(&n))).then(|| reason(s, starts, Code::Demanded, message))
}

/// A file that says which packages others may use.
fn is_list(of: &dyn Bases, path: &str) -> bool {
    of.package_lists().contains(&path.rsplit('/').next().unwrap_or(path))
}

/// Texts that say the class with its package, in the midst of other words, too.
fn texts(g: &Going) -> Vec<Reason> {
    let whole = super::path(&g.old_words(), g.name());
    // as it is called when it runs
    let inner = format!("{}${}", g.old_words()[g.packages[0].len()..].join("$"), g.name());
    let mut out = Vec::new();
    let by_path = unseen::anywhere(g.project, g.name()).filter(|_| whole.contains('.')).map(|(_, s)| (s, &whole));
    let by_inner = unseen::anywhere(g.project, &inner).filter(|_| !g.outer.is_empty()).map(|(_, s)| (s, &inner));
    for (s, path) in by_path.chain(by_inner) {
        let text = |n: &NodeId| matches!(s.tree.role(*n), Role::Literal | Role::TemplateText);
        let says = |n: &NodeId| has_whole_word(s.str(*n), path) || *path == inner && s.str(*n).contains(path);
        let message = "nothing is looked up by the old path of the class, which stays in this text";
        out.extend(s.tree.ids().filter(text).find(says).map(|n| reason(&s, n, Code::NamedByString, message)));
    }
    out
}

/// Code that asks in which package the class is, or for files beside it.
fn beside(g: &Going) -> Vec<Reason> {
    let mut out = Vec::new();
    let family: Vec<(String, NodeId)> =
        g.relatives(g.class).into_iter().map(|c| (c.source.path.clone(), c.node)).collect();
    for word in g.bases().package_words() {
        for s in unseen::with_name(g.project, word, g.from.lang) {
            let t = &s.tree;
            let definitions = |s: &Source, name: &str| g.project.definition(s, name);
            let own = |n: NodeId| g.holds(&s, n) || family.iter().any(|(p, c)| *p == s.path && t.contains(*c, n));
            let asks = |n: &NodeId| {
                if !t.is_leaf(*n) || s.str(*n) != *word || t.role(*n) == Role::Literal {
                    return false;
                }
                let object = t.parent(*n).and_then(|m| t.child(m, Field::Object));
                // the class that is named before it
                let named =
                    object.and_then(|o| t.subtree(o).find(|x| s.str(*x) == "class" || is_class(&s, *x, &definitions)));
                match named {
                    Some(x) if s.str(x) != "class" => {
                        matches!(s.lang.class_named(&s, x, &definitions), MemberOf::Class(c) if super::code::goes(g, c))
                    }
                    Some(_) => false,
                    // a loader of classes is asked by whole paths
                    None if object.is_some_and(|o| s.str(o).ends_with("ClassLoader()")) => false,
                    None => own(*n) || !object.is_some_and(|o| s.str(o).contains("getClass")),
                }
            };
            let message = "the package of the class, or what lies in its folder, does not matter here";
            out.extend(t.ids().filter(asks).take(1).map(|n| reason(&s, n, Code::ShownName, message)));
        }
    }
    out.truncate(MOST_PLACES);
    out
}

fn is_class(s: &Source, n: NodeId, definitions: &crate::lang::Definitions) -> bool {
    s.tree.is_leaf(n) && matches!(s.lang.class_named(s, n, definitions), MemberOf::Class(_) | MemberOf::Likely(_))
}

/// Texts and settings that name one of the packages: what goes through the classes of it.
fn packages(g: &Going) -> Vec<Reason> {
    let mut out = Vec::new();
    let message = || "nothing that goes through the classes of this package needs the class there".to_string();
    for package in g.packages.iter().filter(|p| p.len() > 1) {
        let (whole, last) = (package.join("."), package.last().map_or("", String::as_str));
        for (_, s) in unseen::anywhere(g.project, last) {
            let t = &s.tree;
            let says = |n: &NodeId| {
                let text = s.str(*n).trim_matches(['"', '\'', '`']).trim_end_matches(".*").trim_end_matches('.');
                matches!(t.role(*n), Role::Literal | Role::TemplateText) && text == whole
            };
            out.extend(t.ids().filter(says).take(1).map(|n| reason(&s, n, Code::NamedByString, message())));
        }
        let told = g.project.mentions(last, &[whole.clone(), format!("{whole}.*")]).into_iter();
        let told = told.filter(|m| !crate::find::paths::is_prose(&m.file)).take(MOST_PLACES);
        out.extend(told.map(|m| Reason { code: Code::NotScanned, message: message(), file: m.file, line: m.line }));
    }
    out.truncate(MOST_PLACES * 2);
    out
}
