//! Functions and classes that the code itself declares, and that get into another function with it: what they keep from one
//! call to the next, and code that sees where they stand.
//!
//! Misses an object whose class is seen through a name that says nothing of it.

use crate::change::{Code, Reason, reason};
use crate::index::Project;
use crate::index::unseen::with_word;
use crate::names::Source;
use crate::plan::home::Home;
use crate::plan::region::Portion;
use crate::tree::{Field, NodeId, Role};

/// What is assumed of them; an error where each copy has something of its own that all would share.
pub fn moved(project: &Project, sites: &[Portion], home: &Home) -> Result<Vec<Reason>, Reason> {
    let mut out = Vec::new();
    for site in sites {
        let s = site.source();
        let inside = (site.region.first.0..site.region.end().0).map(NodeId);
        for d in inside.filter(|n| matches!(s.tree.role(*n), Role::Function | Role::Class)) {
            if let Some(n) = s.lang.bases().and_then(|b| b.kept_over_calls(s, d)).filter(|_| sites.len() > 1) {
                let message = "each copy has one of its own of this, and all would have the same one";
                return Err(reason(s, n, Code::KeptOverCalls, message));
            }
            let elsewhere = project.index(&s.path) != Some(home.file);
            let modules = if elsewhere { s.lang.module_showing_words() } else { &[] };
            out.extend(shown(project, site, d, &[s.lang.path_words(), modules].concat()));
        }
    }
    Ok(out)
}

/// Code that sees in which function this is declared.
fn shown(project: &Project, site: &Portion, d: NodeId, words: &[&str]) -> Option<Reason> {
    let (s, t) = (site.source(), &site.source().tree);
    let name = t.name_of_callable(d).or_else(|| t.child(d, Field::Name))?;
    let is_class = t.role(d) == Role::Class;
    let called = |n: NodeId| t.field(n) == Field::Callee || n == name;
    let binding = s.names.at(name)?.target?;
    if !is_class && s.names.references_to(binding).all(|r| called(r.node)) {
        return None;
    }
    let message = || format!("nothing depends on where `{}` is declared, which is seen here", s.str(name));
    let by_word = words.iter().find_map(|w| {
        let (_, other) = with_word(project, w, s.lang).next()?;
        let n = other.tree.ids().find(|n| other.tree.is_leaf(*n) && other.str(*n) == *w)?;
        Some(reason(&other, n, Code::ShownName, message()))
    });
    let by_itself = is_class && s.lang.bases().is_some_and(|b| b.shows_its_path(s, d));
    by_word.or_else(|| by_itself.then(|| reason(s, d, Code::ShownName, message()))).or_else(|| {
        let mut inside = (site.region.first.0..site.region.end().0).map(NodeId).filter(|_| !words.is_empty());
        let of_object = |n: NodeId| is_class && s.lang.class_of(s, n).is_some() && becomes_text(s, n);
        let n = inside.find(|n| is_written_out(s, *n, s.str(name)) || of_object(*n))?;
        Some(reason(s, n, Code::ShownName, message()))
    })
}

/// The thing itself, and not what it gives, becomes a text here.
pub(crate) fn is_written_out(s: &Source, n: NodeId, name: &str) -> bool {
    s.tree.is_leaf(n) && s.tree.role(n) == Role::Name && s.str(n) == name && becomes_text(s, n)
}

/// A value becomes a text where it stands.
fn becomes_text(s: &Source, n: NodeId) -> bool {
    let t = &s.tree;
    match t.parent(n).map(|p| (p, t.role(p))) {
        Some((_, Role::Interpolation)) => true,
        Some((p, Role::Arguments)) => {
            let callee = t.parent(p).and_then(|c| t.child(c, Field::Callee)).map_or("", |c| s.str(c));
            s.lang.printers().contains(&callee) || s.lang.takes_anything(callee)
        }
        _ => false,
    }
}
