//! Imports that go: nothing says their names any more, nobody has them through the file, and what they load is loaded
//! anyway, or has no effect.

use super::{Opinion, Pair, object};
use crate::index::{Entity, Project};
use crate::names::Source;
use crate::text::{Edit, Span};
use crate::tree::{Field, NodeId, Role, Tree};

/// Takes an edit for one that removes imports, and perhaps writes another one in their place.
pub(super) fn accounts_for(p: &mut Pair, e: &Edit, new: Span) -> bool {
    let (o, t) = (&p.old, &p.old.tree);
    let loads = |n: NodeId| !o.lang.imports_of(t, n, &o.text).is_empty();
    let import = |n: &NodeId| match t.role(*n) {
        Role::Import | Role::ImportFrom => true,
        Role::Declare => loads(*n),
        _ => false,
    };
    let statements: Vec<NodeId> = t.children(Tree::ROOT).filter(|n| import(n) && t.span(*n).overlaps(e.span)).collect();
    let mut gone: Vec<NodeId> = statements.iter().copied().filter(|n| e.span.contains(t.span(*n))).collect();
    if let ([one], true) = (&statements[..], gone.is_empty()) {
        // one name of several
        let inside = |n: &NodeId| e.span.contains(t.span(*n)) && *n != *one;
        gone.extend(t.subtree(*one).find(inside));
    }
    let touched = t.ids().filter(|n| t.is_leaf(*n) && t.span(*n).overlaps(e.span));
    if gone.is_empty() || touched.into_iter().any(|n| !gone.iter().any(|g| t.contains(*g, n))) {
        return false;
    }
    if !e.text.is_empty() {
        p.inserted.push(new);
    }
    p.dropped.extend(gone);
    true
}

/// A file has a module otherwise than to take one of its members by name.
fn is_handed_on(project: &Project, file: usize, module: Option<usize>) -> bool {
    let Some((s, module)) = project.source(file).ok().zip(module) else { return true };
    let t = &s.tree;
    s.names.references.iter().filter(|r| r.usage.reads()).any(|r| {
        let of_member = t
            .parent(r.node)
            .is_some_and(|p| t.child(p, Field::Object) == Some(r.node) && t.child(p, Field::Member).is_some());
        !of_member && project.entity(&s, s.str(r.node)) == Entity::Module(module)
    })
}

/// That an import, or a name of one, may go.
pub(super) fn may_go(project: &Project, (o, s): (&Source, &Source), gone: NodeId, home: Option<usize>) -> Opinion<()> {
    let t = &o.tree;
    let bound = t.subtree(gone).filter(|n| o.names.at(*n).is_some_and(|r| r.usage.writes()));
    let named = |n: NodeId| o.names.at(n).and_then(|r| r.target).map(|b| o.names.binding(b).name.as_str());
    let names: Vec<&str> = bound.map(|n| named(n).unwrap_or(o.str(n))).collect();
    let file = project.index(&o.path);
    for name in &names {
        let says = |n: &NodeId| s.tree.is_leaf(*n) && s.str(*n).trim_matches(['"', '\'', '`']) == *name;
        if s.tree.ids().any(|n| says(&n)) {
            return object(o, gone, format!("`{name}` is still named, and its import is gone"));
        }
        let through = |f: usize| file.is_some_and(|own| f != own && project.imports(f, own));
        if (0..project.facts.len()).any(|f| through(f) && project.facts[f].has_word(name)) {
            return object(o, gone, format!("`{name}` may be had through this file"));
        }
        if let Some(f) = (0..project.facts.len()).filter(|f| through(*f)).find(|f| is_handed_on(project, *f, file)) {
            let message =
                format!("{} has the module as a value, and may look `{name}` up in it", project.facts[f].path);
            return object(o, gone, message);
        }
        let import = o.names.in_module(name).and_then(|b| o.names.binding(b).import.clone());
        let loaded = import.zip(home).is_some_and(|(i, h)| !i.wildcard && project.is_loaded_anyway(o, &i, h));
        if !loaded && o.lang.imports_load() {
            return object(o, gone, format!("what the import of `{name}` loads may be missed"));
        }
    }
    if names.is_empty() { object(o, gone, "an import without a name is gone") } else { Ok(()) }
}
