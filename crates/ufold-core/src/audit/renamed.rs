//! Renamed members and classes where types tell what a word is: all words of the one that is renamed have the new name, in
//! all files, and no word of another; methods that override each other keep one name, a class's file that of the class.

use rustc_hash::FxHashSet;

use super::file::{File, Renaming};
use super::{Objection, Opinion, object};
use crate::change::Verdict;
use crate::index::Project;
use crate::index::inherited::{self, Inherited};
use crate::lang::MemberOf;
use crate::names::{BindKind, Names, Source, Space, Use};
use crate::tree::{Field, NodeId, Role};
use crate::types::Ty;

pub(super) fn members(project: &Project, renaming: &Renaming, files: &[File]) -> Opinion<()> {
    let Some(first) = files.first().filter(|f| f.old.names.members_in_sight) else { return Ok(()) };
    let edited =
        |s: &Source, n: NodeId| files.iter().find(|f| f.old.path == s.path).is_some_and(|f| f.edited(s.tree.span(n)));
    let o = &first.old;
    let changed = o.tree.ids().find(|n| o.tree.is_leaf(*n) && edited(o, *n));
    let Some(old) = changed.map(|n| o.str(n).to_string()) else {
        return object(o, NodeId(0), "no word changed");
    };
    if let Some(class) = files.iter().find_map(|f| renamed_class(f)) {
        return classes_by_name(project, renaming, files, &old, class);
    }
    if renaming.files.iter().any(|f| f.moves_to.is_some()) {
        return object(o, NodeId(0), "a file moves with no class of its name");
    }
    let definitions = |s: &Source, name: &str| project.definition(s, name);
    let of = |s: &Source, n: NodeId| s.lang.member_of(s, n, &definitions);
    let declares = |s: &Source, n: NodeId| match s.names.at(n) {
        Some(r) => {
            r.usage == Use::Write && r.target.is_some_and(|b| s.names.is_member(b) && s.names.binding(b).first == n)
        }
        None => true,
    };
    let mut classes: FxHashSet<Ty> = FxHashSet::default();
    for f in files {
        let words = f.old.tree.ids().filter(|n| f.old.tree.is_leaf(*n) && edited(&f.old, *n) && declares(&f.old, *n));
        for n in words {
            if let MemberOf::Class(c) = of(&f.old, n)
                && c.is_known()
            {
                classes.insert(c);
            }
        }
    }
    if classes.is_empty() {
        // a local, which its bindings tell
        return files.iter().try_for_each(|f| local(project, renaming, f, &old));
    }
    each_file(project, o, &old, &mut |s| {
        for n in words(s, &old) {
            let fits = match of(s, n) {
                MemberOf::Class(c) if c.is_known() => classes.contains(&c) == edited(s, n),
                // a class without a name: as where it declares the member
                MemberOf::Class(_) => {
                    let own = s.names.at(n).and_then(|r| r.target).map(|b| s.names.binding(b).first);
                    own.is_none_or(|f| edited(s, f) == edited(s, n))
                }
                MemberOf::Other => !edited(s, n),
                MemberOf::Likely(_) | MemberOf::Unknown => !edited(s, n) && renaming.verdict == Verdict::Assumed,
            };
            if !fits {
                return object(s, n, format!("`{old}` here has the name of another member"));
            }
        }
        overriding(s, &old, &classes, &edited, &definitions)
    })?;
    let new = renaming.new;
    each_file(project, o, &old, &mut |s| {
        let taken = |n: NodeId| {
            let chain =
                s.names.at(n).map(|r| s.names.scope_chain(r.scope).any(|x| s.names.declared_in(x, new).is_some()));
            chain.unwrap_or(false) || s.lang.member_around(s, n, new, &definitions) != MemberOf::Other
        };
        let t = &s.tree;
        // a declaration, too, where the classes above have the name
        let bare = |n: &NodeId| t.role(*n) == Role::Name && edited(s, *n);
        match words(s, &old).into_iter().filter(bare).find(|n| taken(*n)) {
            Some(n) => object(s, n, format!("`{new}` means something else here")),
            None => Ok(()),
        }
    })?;
    each_file(project, o, new, &mut |s| {
        let open =
            |n: &NodeId| s.names.is_imported(*n) || s.names.at(*n).is_some_and(|r| r.target.is_none() && !r.is_type());
        // by an import of all its members it would be the renamed one
        let known = s.names.wildcard || files.iter().any(|f| f.old.path == s.path);
        match words(s, new).into_iter().find(open).filter(|_| known) {
            Some(n) => object(s, n, format!("`{new}` could be the renamed member here")),
            None => Ok(()),
        }
    })
}

/// The new name of a local is none of a class that stands inside its function.
fn local(project: &Project, renaming: &Renaming, f: &File, old: &str) -> Opinion<()> {
    let (s, new) = (&f.old, renaming.new);
    for n in words(s, old).into_iter().filter(|n| f.edited(s.tree.span(*n))) {
        // a declaration without a value is no use of its name
        if s.names.at(n).is_none() && s.tree.role(n) == Role::Name {
            continue;
        }
        let b = s.names.at(n).and_then(|r| r.target).filter(|b| {
            let binding = s.names.binding(*b);
            // what stands in no class is a member of its file
            let of_file = matches!(binding.kind, BindKind::Variable | BindKind::Function);
            (binding.scope != Names::MODULE || of_file) && f.edited(s.tree.span(binding.first))
        });
        let Some(b) = b else { return object(s, n, "what declares this has its old name") };
        let function = s.names.scope(s.names.binding(b).scope).node;
        let most = if renaming.verdict == Verdict::Assumed { Inherited::Perhaps } else { Inherited::No };
        if inherited::of_local(project, s, n, new, function) > most {
            return object(s, n, format!("`{new}` would be a member of the class here"));
        }
    }
    Ok(())
}

/// All files of a language that have a word.
pub(super) fn each_file(
    project: &Project,
    like: &Source,
    word: &str,
    look: &mut dyn FnMut(&Source) -> Opinion<()>,
) -> Opinion<()> {
    for f in project.facts.iter().filter(|f| f.is_of_family(like.lang) && f.has_word(word)) {
        let file = project.index(&f.path).expect("a scanned file");
        let s = project.source(file).map_err(|message| Objection { message, file: f.path.clone(), line: 1 })?;
        look(&s)?;
    }
    Ok(())
}

/// Names and members of that word.
pub(super) fn words(s: &Source, word: &str) -> Vec<NodeId> {
    let t = &s.tree;
    let named = |n: &NodeId| t.is_leaf(*n) && matches!(t.role(*n), Role::Name | Role::MemberName) && s.str(*n) == word;
    t.ids().filter(named).collect()
}

/// The class whose own name changed.
fn renamed_class(f: &File) -> Option<(&Source, NodeId)> {
    let t = &f.old.tree;
    let named = |c: &NodeId| t.child(*c, Field::Name).is_some_and(|n| f.edited(t.span(n)));
    t.ids().filter(|n| t.role(*n) == Role::Class).find(named).map(|c| (&*f.old, c))
}

/// All words that mean a class have its new name, and no other; its file has it, too, where that must be.
fn classes_by_name(
    project: &Project,
    renaming: &Renaming,
    files: &[File],
    old: &str,
    class: (&Source, NodeId),
) -> Opinion<()> {
    let definitions = |s: &Source, name: &str| project.definition(s, name);
    let (o, node) = class;
    let (own, _) = o.lang.class_type(o, node, &definitions);
    let new = renaming.new;
    let moved = renaming.files.iter().filter_map(|f| Some((f.file.as_str(), f.moves_to.as_deref()?)));
    let must = o.lang.file_of_class(o, node, new);
    let expected: Vec<(&str, &str)> = must.as_deref().map(|to| (o.path.as_str(), to)).into_iter().collect();
    if moved.collect::<Vec<_>>() != expected {
        return object(o, node, "the file has not the name of its class");
    }
    let assumed = renaming.verdict == Verdict::Assumed;
    each_file(project, o, old, &mut |s| {
        let edited = |n: NodeId| files.iter().any(|f| f.old.path == s.path && f.edited(s.tree.span(n)));
        for n in words(s, old) {
            let fits = match s.lang.class_named(s, n, &definitions) {
                MemberOf::Class(c) => (c == own) == edited(n),
                MemberOf::Likely(c) => (c == own) == edited(n) && (c != own || assumed),
                MemberOf::Other => !edited(n),
                MemberOf::Unknown => !edited(n) && assumed,
            };
            if !fits {
                return object(s, n, format!("`{old}` here has the name of another class"));
            }
        }
        Ok(())
    })
}

/// A method and those of the classes above that it overrides have one name.
fn overriding(
    s: &Source,
    old: &str,
    classes: &FxHashSet<Ty>,
    edited: &dyn Fn(&Source, NodeId) -> bool,
    definitions: &crate::lang::Definitions,
) -> Opinion<()> {
    for class in s.tree.ids().filter(|n| s.tree.role(*n) == Role::Class) {
        let scope = s.names.scope_of(class);
        let own = scope.and_then(|x| s.names.declared_as(x, Space::Functions, old));
        let Some(b) = own.filter(|b| s.lang.is_of_object(s, *b)) else { continue };
        let private = s.tree.parent(s.names.binding(b).first).is_some_and(|f| s.lang.hides_member(s, f));
        let above = s.lang.member_above(s, class, old, definitions);
        let split = matches!(above, MemberOf::Class(a) if classes.contains(&a) != edited(s, s.names.binding(b).first));
        if split && !private {
            return object(s, class, format!("`{old}` would no more be the method that it overrides"));
        }
    }
    Ok(())
}
