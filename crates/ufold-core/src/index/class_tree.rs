//! Classes of the project that are above or below each other, by the files that have a word and those that extend theirs.

use std::sync::Arc;

use rustc_hash::FxHashSet;

pub(crate) use crate::index::known_classes::Class;
use crate::index::{Project, bases, paths, unseen};
use crate::lang::Language;
use crate::names::Source;
use crate::tree::{Field, NodeId, Role, Tree};
use crate::types::Ty;

/// Classes of the files that have the word, with all that they extend and all that extend them.
pub(crate) fn with_word(project: &Project, word: &str, lang: &dyn Language) -> Arc<[Class]> {
    project.classes.of_word(lang.name(), word, || find_with_word(project, word, lang))
}

fn find_with_word(project: &Project, word: &str, lang: &dyn Language) -> Vec<Class> {
    let mut files: Vec<Arc<Source>> = unseen::with_name(project, word, lang).collect();
    let mut known: FxHashSet<String> = files.iter().map(|f| f.path.clone()).collect();
    let mut asked: FxHashSet<String> = FxHashSet::default();
    let mut out: Vec<Class> = Vec::new();
    let mut at = 0;
    while at < files.len() {
        let source = files[at].clone();
        at += 1;
        for class in of_file(project, &source).iter() {
            // what is above them need not have the word
            for file in class.above.iter().flat_map(|b| files_of(project, &source, *b)) {
                let Ok(home) = project.source(file) else { continue };
                if known.insert(home.path.clone()) {
                    files.push(home);
                }
            }
            out.push(class.clone());
            let Some(name) = source.tree.child(class.node, Field::Name).map(|n| source.str(n)) else { continue };
            if !asked.insert(name.to_string()) {
                continue;
            }
            for other in unseen::with_name(project, name, lang) {
                if !known.contains(&other.path) && has_class_below(&other, name) {
                    known.insert(other.path.clone());
                    files.push(other);
                }
            }
        }
    }
    out
}

/// The classes of a file, with their types and those that they extend.
fn of_file(project: &Project, source: &Arc<Source>) -> Arc<[Class]> {
    project.classes.of_file(&source.path, || {
        let t = &source.tree;
        let definitions = |s: &Source, name: &str| project.definition(s, name);
        let classes = t.ids().filter(|n| t.role(*n) == Role::Class);
        let of = |node: NodeId| {
            let (ty, above) = source.lang.class_type(source, node, &definitions);
            Class { source: source.clone(), node, ty, above }
        };
        classes.chain(source.members_without_class()).map(of).collect()
    })
}

/// Files that may hold a class.
fn files_of(project: &Project, s: &Source, class: Ty) -> Vec<usize> {
    match class.kind() {
        crate::types::Kind::Named { name, .. } => paths::files(project, s, &name).0,
        _ => Vec::new(),
    }
}

/// A class, and all that are above or below one of these.
pub(crate) fn around<'c>(classes: &'c [Class], home: &'c Class) -> Vec<&'c Class> {
    let extends = |a: &Class, b: &Class| a.above.iter().any(|t| same_class(*t, b.ty));
    let related = |a: &Class, b: &Class| extends(a, b) || extends(b, a);
    let mut around: Vec<&Class> = vec![home];
    let mut at = 0;
    while at < around.len() {
        let c = around[at];
        at += 1;
        for o in classes.iter().filter(|o| related(c, o)) {
            if !around.iter().any(|k| k.source.path == o.source.path && k.node == o.node) {
                around.push(o);
            }
        }
    }
    around
}

/// A class, and all that it extends.
pub(crate) fn above<'c>(classes: &'c [Class], home: &'c Class) -> Vec<&'c Class> {
    let mut out: Vec<&Class> = vec![home];
    let mut at = 0;
    while at < out.len() {
        let c = out[at];
        at += 1;
        for o in classes.iter().filter(|o| c.above.iter().any(|t| same_class(*t, o.ty))) {
            if !out.iter().any(|k| k.source.path == o.source.path && k.node == o.node) {
                out.push(o);
            }
        }
    }
    out
}

/// One of some classes is another one, or extends it, perhaps through others; `above` says what each extends.
pub(crate) fn leads_to(mut todo: Vec<Ty>, goal: Ty, above: impl Fn(Ty) -> Vec<Ty>) -> bool {
    let mut seen: Vec<Ty> = Vec::new();
    while let Some(ty) = todo.pop() {
        if same_class(ty, goal) {
            return true;
        }
        if !seen.iter().any(|x| same_class(*x, ty)) {
            seen.push(ty);
            todo.extend(above(ty));
        }
    }
    false
}

/// A class, perhaps one without a name, that extends one of this name.
fn has_class_below(s: &Source, name: &str) -> bool {
    struct Words(FxHashSet<String>);
    let t = &s.tree;
    let words = s.remember((Tree::ROOT, None), || {
        let bases = t.ids().filter(|c| t.role(*c) == Role::Class).flat_map(|c| {
            let made = t.parent(c).and_then(|p| t.child(p, Field::Callee));
            bases::of(s, c).into_iter().chain(made)
        });
        let leaves = bases.flat_map(|n| t.subtree(n)).filter(|w| t.is_leaf(*w));
        Words(leaves.map(|w| s.str(w).to_string()).collect())
    });
    words.0.contains(name)
}

/// Code at the place runs only when the class has been made ready: it is the class's own, or that of its objects.
pub(crate) fn is_ready_at(s: &Source, class: NodeId, at: &Source, place: NodeId) -> bool {
    let t = &at.tree;
    let between: Vec<NodeId> = t.ancestors(place).take_while(|a| *a != class).collect();
    let apart = |c: &NodeId| t.role(*c) == Role::Class && at.lang.needs_no_object(at, *c);
    s.path == at.path && t.contains(class, place) && !between.iter().any(apart)
}

/// The same class, whatever its type arguments.
pub(crate) fn same_class(a: Ty, b: Ty) -> bool {
    use crate::types::Kind::Named;
    match (a.kind(), b.kind()) {
        (Named { name: x, .. }, Named { name: y, .. }) => x == y,
        _ => false,
    }
}

/// A class of that path.
pub(crate) fn is_named(c: Ty, path: &str) -> bool {
    matches!(c.kind(), crate::types::Kind::Named { name, .. } if name == path)
}

/// The one of these classes that a type is.
pub(crate) fn of_type(classes: &[Class], ty: Ty) -> Option<&Class> {
    classes.iter().find(|c| ty.is_known() && same_class(c.ty, ty))
}

/// It and all classes around it are open to all code.
pub(crate) fn is_open_to_all(s: &Source, declaration: NodeId) -> bool {
    let around = s.tree.ancestors(declaration).filter(|a| s.tree.role(*a) == Role::Class);
    s.lang.is_open(s, declaration) && around.into_iter().all(|c| s.lang.is_open(s, c))
}

/// What is to be said of a member that is open to all code: some of that may not be in the project.
pub(crate) fn missed_outside(s: &Source, declaration: NodeId, name: &str) -> Option<String> {
    all_missed_outside(s, &[(declaration, name)])
}

/// The same of several.
pub(crate) fn all_missed_outside(s: &Source, declared: &[(NodeId, &str)]) -> Option<String> {
    const MOST_TOLD: usize = 4;
    let mut open: Vec<String> =
        declared.iter().filter(|d| is_open_to_all(s, d.0)).map(|d| format!("`{}`", d.1)).collect();
    open.dedup();
    let more = open.len().saturating_sub(MOST_TOLD);
    let (are, them) = if open.len() > 1 { ("are", "them") } else { ("is", "it") };
    let told = match (&open[..open.len() - more], more) {
        ([], _) => return None,
        (told, 0) => told.split_last().map(|(last, before)| match before {
            [] => last.clone(),
            _ => format!("{} and {last}", before.join(", ")),
        })?,
        (told, more) => format!("{} and {more} more", told.join(", ")),
    };
    Some(format!("{told} {are} open to all code: who uses {them} outside this project would miss {them}"))
}

/// A constructor of the class that a word names is called, or handed on, here.
pub(crate) fn is_made(s: &Source, word: NodeId) -> bool {
    let t = &s.tree;
    // of `new Fees.Row()` the class before the dot is not made
    if s.text[t.span(word).end..].trim_start().starts_with('.') {
        return false;
    }
    let within = || t.ancestors(word).take_while(|a| !t.role(*a).is_sequence());
    let called = |a: NodeId| t.child(a, Field::Callee).is_some_and(|c| t.contains(c, word));
    s.lang.hands_on(s, word) || within().any(|a| called(a) && s.lang.is_construction(s.str(a)))
}

/// Declarations of a name in a class itself.
pub(crate) fn declarations(s: &Source, class: NodeId, name: &str) -> Vec<NodeId> {
    let t = &s.tree;
    let named = |m: &NodeId| {
        let fields = t.children(*m).filter(|c| t.role(*c) == Role::Assign).filter_map(|a| t.child(a, Field::Left));
        let bare = t.children(*m).filter(|c| t.role(*m) == Role::ClassField && t.field(*c) != Field::Type);
        let word = |n: NodeId| s.str(n).trim_start_matches(s.lang.variable_mark());
        t.child(*m, Field::Name).into_iter().chain(fields).chain(bare).any(|n| word(n) == name)
    };
    t.child(class, Field::Body).map_or(Vec::new(), |b| t.children(b).filter(named).collect())
}

/// Functions of a class itself, by the word that names them.
pub(crate) fn functions(c: &Class, named: impl Fn(NodeId) -> bool) -> Vec<NodeId> {
    let t = &c.source.tree;
    let body = if c.node == Tree::ROOT { Some(Tree::ROOT) } else { t.child(c.node, Field::Body) };
    let all = body.map_or(Vec::new(), |b| t.children(b).filter(|f| t.role(*f) == Role::Function).collect::<Vec<_>>());
    all.into_iter().filter(|f| t.child(*f, Field::Name).is_some_and(&named)).collect()
}
