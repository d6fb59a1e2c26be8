//! Definitions that stand in another file now: the same statements, no more and no fewer, in files that load each other in
//! no circle; what their names mean is looked at in [`super::moved_names`].
//!
//! Statements that only import or export are left out of the comparison: what counts is what the names mean by them.

use std::sync::Arc;

use rustc_hash::FxHashSet;

use super::file::File;
use super::moved_code::{Pair, bare, only_links, reads_alike};
use super::moved_names::{self, Names};
use super::{Objection, Opinion, object};
use crate::change::{Change, Code};
use crate::index::Project;
use crate::index::loading::acts;
use crate::names::Source;
use crate::text::Span;
use crate::tree::{Field, NodeId, Role, Tree};

pub(super) fn run(project: &Project, (from, to): (&str, &str), change: &Change, files: &[File]) -> Opinion<()> {
    let of = |path: &str| files.iter().find(|f| f.old.path == path);
    let nowhere = |message: &str| Objection { message: message.into(), file: from.into(), line: 1 };
    let (Some(a), Some(b)) = (of(from), of(to)) else { return Err(nowhere("one of the two files is not edited")) };
    let system = |s: &Source| s.lang.module_system(&s.path, &s.tree, &s.text);
    for f in files {
        let was = if f.old.tree.len() > 1 { &f.old } else { &a.old };
        // what nobody imports by now may be of any kind
        if system(&f.new) != system(was) && system(was).is_some() && f.new.tree.len() > 1 {
            return object(&f.new, Tree::ROOT, "the file exports in another way now");
        }
    }
    let docs = a.old.tree.children(Tree::ROOT).filter(|n| a.old.tree.role(*n) == Role::Doc);
    let begins: Vec<&str> = docs.map(|n| a.old.str(n)).collect();
    let mut pairs: Vec<Pair> = Vec::new();
    let none: Arc<[FxHashSet<NodeId>; 2]> = Arc::default();
    let gone = unpaired((a, false), &none, &mut pairs, &[])?;
    let added = unpaired((b, true), &none, &mut pairs, &begins)?;
    let words = names_of(&a.old, &gone);
    for f in files.iter().filter(|f| f.old.path != from && f.old.path != to) {
        if let Some(n) = unpaired((f, false), &named_through(f, &words), &mut pairs, &[])?.first() {
            return object(&f.old, *n, "code is missing");
        }
    }
    let mut left = added.clone();
    for g in &gone {
        let found = left.iter().position(|x| reads_alike((&a.old, *g), (&b.new, *x), &none));
        let Some(i) = found else { return object(&a.old, *g, "this is in neither of the two files now") };
        let (x, y) = (bare(&a.old, *g), bare(&b.new, left.remove(i)));
        pairs.push(Pair { old: &a.old, new: &b.new, a: x, b: y, moved: true, files: none.clone() });
    }
    if let Some(x) = left.first() {
        return object(&b.new, *x, "this was added");
    }
    let begins_line = |n: &NodeId| {
        let start = b.new.tree.span(*n).start;
        b.new.text[..start].rsplit('\n').next().is_some_and(|l| l.trim_start_matches('\u{feff}').trim().is_empty())
    };
    let next = |n: &NodeId| b.new.tree.children(Tree::ROOT).find(|c| c > n);
    if let Some(n) = added.iter().copied().chain(added.iter().filter_map(next)).find(|n| !begins_line(n)) {
        return object(&b.new, n, "this shares its line with another statement");
    }
    if gone.is_empty() {
        return Err(nowhere("nothing went to the other file"));
    }
    does_nothing_unsaid(project, change, (a, b), &gone)?;
    in_time(b, &added)?;
    let names = Names::new(project, (a, b), &gone, &pairs);
    moved_names::check(&names, files, change)
}

/// The names that statements define.
fn names_of<'s>(s: &'s Source, statements: &[NodeId]) -> Vec<&'s str> {
    let own = |b: &crate::names::BindingId| statements.iter().any(|g| s.tree.contains(*g, s.names.binding(*b).first));
    s.names.bindings_of(crate::names::Names::MODULE).filter(own).map(|b| s.names.binding(b).name.as_str()).collect()
}

/// Objects that were rewritten, of members with one of these words: files that stand before what is taken from them.
fn named_through(f: &File, words: &[&str]) -> Arc<[FxHashSet<NodeId>; 2]> {
    let of = |s: &Source, is_edit: &dyn Fn(Span) -> bool| -> FxHashSet<NodeId> {
        let t = &s.tree;
        let names = |o: &NodeId| {
            let member = t.parent(*o).filter(|m| t.role(*m) == Role::Member && t.field(*o) == Field::Object);
            let word = member.and_then(|m| t.child(m, Field::Member));
            is_edit(t.span(*o)) && word.is_some_and(|w| words.contains(&s.str(w)))
        };
        t.ids().filter(names).collect()
    };
    let old = of(&f.old, &|x| f.edits().iter().any(|(e, _)| *e == x));
    let new = of(&f.new, &|x| f.edits().iter().any(|(_, e)| *e == x));
    Arc::new([old, new])
}

/// Statements of one side that have none on the other: of the new text where something may be added, else of the old one.
fn unpaired<'f>(
    (f, adds): (&'f File, bool),
    through: &Arc<[FxHashSet<NodeId>; 2]>,
    pairs: &mut Vec<Pair<'f>>,
    begins: &[&str],
) -> Opinion<Vec<NodeId>> {
    let of = |s: &Source| -> Vec<NodeId> { s.tree.children(Tree::ROOT).filter(|n| !only_links(s, *n)).collect() };
    let (olds, news) = (of(&f.old), of(&f.new));
    // a new file begins as the old one does
    let head =
        |n: &NodeId| f.old.tree.len() > 1 || f.new.tree.role(*n) != Role::Doc || !begins.contains(&f.new.str(*n));
    let news: Vec<NodeId> = news.into_iter().filter(head).collect();
    let (few, many) = if adds { (&olds, &news) } else { (&news, &olds) };
    let mut at = 0;
    let mut out = Vec::new();
    for n in many {
        let alike = few.get(at).filter(|m| {
            let (a, b) = if adds { (**m, *n) } else { (*n, **m) };
            reads_alike((&f.old, a), (&f.new, b), through)
        });
        match alike {
            Some(m) => {
                let (a, b) = if adds { (*m, *n) } else { (*n, *m) };
                pairs.push(Pair { old: &f.old, new: &f.new, a, b, moved: false, files: through.clone() });
                at += 1;
            }
            None => out.push(*n),
        }
    }
    match few.get(at) {
        Some(n) if adds => object(&f.old, *n, "code is missing"),
        Some(n) => object(&f.new, *n, "code was added"),
        None => Ok(out),
    }
}

/// What the moved code does when it is defined is told, and is still done by whoever loaded the old file.
fn does_nothing_unsaid(project: &Project, change: &Change, (a, b): (&File, &File), gone: &[NodeId]) -> Opinion<()> {
    let told = |line: usize| {
        let mut all = change.result.reasons.iter().filter(|r| r.code == Code::ImportEffects && r.file == a.old.path);
        all.any(|r| r.line == line)
    };
    for n in gone.iter().flat_map(|g| acts(project, &a.old, *g)) {
        let loads = a.new.tree.ids().any(|i| {
            let imports = a.new.lang.imports_of(&a.new.tree, i, &a.new.text);
            imports
                .iter()
                .any(|i| project.resolved(&a.new, i).contains(&project.index(&b.old.path).unwrap_or(usize::MAX)))
        });
        if !told(a.old.line(n)) || !loads {
            return object(&a.old, n, "this does something when its file is loaded");
        }
    }
    for g in gone {
        let modes = [&a.old, &b.new].map(|s| s.lang.mode(s, Tree::ROOT));
        let writes = |n: &NodeId| {
            let t = &a.old.tree;
            let left = t.child(*n, Field::Left).filter(|_| t.role(*n).assigns());
            left.is_some_and(|l| matches!(t.role(l), Role::Member | Role::Index)) || t.role(*n) == Role::Delete
        };
        if modes[0] != modes[1] && a.old.tree.subtree(*g).any(|n| writes(&n)) {
            return object(&a.old, *g, "the other file is read in another mode");
        }
        if a.old.lang.is_read_otherwise(&a.old, &b.new) {
            return object(&a.old, *g, "the other file is read in another way");
        }
    }
    Ok(())
}

/// What is used when the new file is loaded is there by then.
fn in_time(b: &File, added: &[NodeId]) -> Opinion<()> {
    let (s, t) = (&b.new, &b.new.tree);
    let inside = |n: NodeId| added.iter().copied().find(|a| t.contains(*a, n));
    let at_once = |n: NodeId| t.body_around(n).is_none();
    for r in &s.names.references {
        let Some(binding) = r.target.map(|t| s.names.binding(t)) else { continue };
        let of_module = binding.scope == crate::names::Names::MODULE && binding.import.is_none();
        let concerns = inside(r.node).is_some() || inside(binding.first).is_some();
        let early = r.node < binding.first && !binding.hoisted && !r.is_type();
        if of_module && concerns && early && r.usage.reads() && at_once(r.node) {
            return object(s, r.node, "this is used before it is there");
        }
    }
    // a call may come to use what is defined below it, where the file's own code uses any of it
    let own = |a: NodeId| {
        let all = s.names.bindings_of(crate::names::Names::MODULE);
        all.filter(move |b| t.contains(a, s.names.binding(*b).first))
    };
    let taken = |b| s.names.references_to(b).any(|r| inside(r.node).is_none());
    if !added.iter().any(|a| own(*a).any(taken)) {
        return Ok(());
    }
    for a in added.iter().filter(|a| own(**a).any(|b| !s.names.binding(b).hoisted)) {
        let call =
            t.ids().take_while(|n| n < a).find(|n| t.role(*n) == Role::Call && at_once(*n) && inside(*n).is_none());
        let loads = |n: NodeId| t.ancestors(n).any(|x| t.parent(x) == Some(Tree::ROOT) && only_links(s, x));
        if let Some(n) = call.filter(|n| !loads(*n)) {
            return object(s, n, "this may use what is defined below it");
        }
    }
    Ok(())
}
