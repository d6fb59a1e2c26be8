//! What of a file could go by itself, and what of it uses what: definitions of the file's own level, or, where functions
//! are members of classes, what the file's class has for itself, and classes.
//!
//! A class goes to a file of its own with nothing else in it. Names are taken by their words where they may be members,
//! which can say too much; a plan is made of what goes, and finds what is wrong.

use rustc_hash::FxHashMap;

use crate::change::{Place, place_of};
use crate::index::Project;
use crate::index::class_members::{body, declared, name_of};
use crate::index::unseen::called;
use crate::names::{BindingId, Names, Source};
use crate::plan::class_text::lines_of;
use crate::step::moves::{self, Definition, Moved, changed_when_loaded, class_of_file, may_go};
use crate::text::Span;
use crate::tree::{Field, NodeId, Role, Tree};

/// A definition that could go; functions of one name go together.
pub(super) struct Movable {
    /// In the order of the file.
    pub statements: Vec<NodeId>,
    pub names: Vec<String>,
    bindings: Vec<BindingId>,
    /// With the comments over them.
    pub spans: Vec<Span>,
    /// Nothing else comes into its file.
    pub alone: bool,
    /// It goes nowhere, but draws others.
    pub stays: bool,
}

/// In the order of the file.
pub(super) fn movable(project: &Project, s: &Source) -> Vec<Movable> {
    if !s.names.members_in_sight {
        return of_module(project, s);
    }
    let mut out = of_classes(project, s);
    out.sort_by_key(|m| m.statements[0]);
    out
}

/// The statements among which definitions stand.
pub(super) fn level(s: &Source) -> Vec<NodeId> {
    let top = s.tree.children(Tree::ROOT);
    match class_of_file(s).filter(|_| s.names.members_in_sight) {
        Some(own) => top.filter(|n| *n != own).chain(body(&s.tree, own)).collect(),
        None => top.collect(),
    }
}

/// Where a name that could go is declared.
pub(super) fn place_named(s: &Source, name: &str) -> Option<Place> {
    let word = if s.names.members_in_sight {
        let mut all = classes(s).into_iter().filter_map(|c| s.tree.child(c, Field::Name));
        let class = all.find(|w| s.str(*w) == name);
        class.or_else(|| {
            body(&s.tree, class_of_file(s)?).into_iter().filter_map(|n| name_of(s, n)).find(|w| s.str(*w) == name)
        })?
    } else {
        let b = s.names.in_module(name).filter(|b| s.names.binding(*b).import.is_none())?;
        s.names.binding(b).first
    };
    Some(place_of(s, s.tree.span(word)))
}

/// Which uses which, by numbers from 1; 0 is everything else.
pub(super) fn uses(s: &Source, all: &[Movable]) -> Vec<(usize, usize)> {
    let t = &s.tree;
    let numbered = || all.iter().enumerate();
    let statements: FxHashMap<NodeId, usize> =
        numbered().flat_map(|(i, m)| m.statements.iter().map(move |n| (*n, i + 1))).collect();
    let within =
        |n: NodeId| std::iter::once(n).chain(t.ancestors(n)).find_map(|a| statements.get(&a)).copied().unwrap_or(0);
    let top = |i: usize| i > 0 && s.names.members_in_sight && t.parent(all[i - 1].statements[0]) == Some(Tree::ROOT);
    let used: Vec<(NodeId, usize)> = if s.names.members_in_sight {
        by_words(s, all)
    } else {
        let own: FxHashMap<BindingId, usize> =
            numbered().flat_map(|(i, m)| m.bindings.iter().map(move |b| (*b, i + 1))).collect();
        let target = |r: &crate::names::Reference| Some((r.node, *own.get(&r.target?)?));
        s.names.references.iter().filter_map(target).collect()
    };
    // classes of the file's own level are as near to each other in any file
    let pairs = used.into_iter().map(|(n, j)| (within(n), j));
    pairs.filter(|(i, j)| i != j && !top(*i) && !top(*j)).collect()
}

/// Words that may mean one of them.
fn by_words(s: &Source, all: &[Movable]) -> Vec<(NodeId, usize)> {
    let t = &s.tree;
    let named: FxHashMap<&str, usize> =
        all.iter().enumerate().flat_map(|(i, m)| m.names.iter().map(move |n| (n.as_str(), i + 1))).collect();
    let class = class_of_file(s).and_then(|c| t.child(c, Field::Name)).map_or("", |n| s.str(n));
    let of_class = |n: NodeId| {
        let object = t.parent(n).and_then(|m| t.child(m, Field::Object));
        t.role(n) != Role::MemberName
            || object.is_some_and(|o| s.str(o) == class || Some(s.str(o)) == s.lang.object_word())
    };
    let local = |n: NodeId| {
        let target = s.names.at(n).and_then(|r| r.target);
        target.is_some_and(|b| s.names.binding(b).scope != Names::MODULE && !s.names.is_member(b))
    };
    let words = t.ids().filter(|n| t.is_leaf(*n) && matches!(t.role(*n), Role::Name | Role::MemberName));
    words.filter(|n| of_class(*n) && !local(*n)).filter_map(|n| Some((n, *named.get(s.str(n))?))).collect()
}

fn of_module(project: &Project, s: &Source) -> Vec<Movable> {
    let mut out: Vec<Definition> = Vec::new();
    for b in s.names.bindings_of(Names::MODULE).filter(|b| s.names.binding(*b).import.is_none()) {
        let Ok(all) = moves::definitions(s, b, false) else { continue };
        let alone = all.len() == 1 && !out.iter().any(|o| o.statement == all[0].statement);
        out.extend(all.into_iter().filter(|_| alone));
    }
    out.sort_by_key(|d| d.statement);
    let back = imported_in_circles(project, s);
    let circle = |d: &Definition| back.iter().any(|n| s.tree.contains(d.statement, *n));
    let one = |d: Definition| Movable {
        statements: vec![d.statement],
        names: d.names.iter().map(|(_, n)| n.clone()).collect(),
        bindings: d.names.iter().map(|(b, _)| *b).collect(),
        spans: vec![d.span],
        alone: false,
        stays: is_of_its_file(s, &d) || circle(&d),
    };
    out.into_iter().map(one).collect()
}

/// Classes that could have a file of their own: those beside the file's class, and in it.
fn classes(s: &Source) -> Vec<NodeId> {
    let own = class_of_file(s);
    let inner = own.map_or(Vec::new(), |c| body(&s.tree, c));
    let of_level = s.tree.children(Tree::ROOT).filter(|n| Some(*n) != own).chain(inner);
    of_level.filter(|n| s.tree.role(*n) == Role::Class).collect()
}

fn of_classes(project: &Project, s: &Source) -> Vec<Movable> {
    let t = &s.tree;
    let Some(own) = class_of_file(s) else { return Vec::new() };
    let unit = |statements: Vec<NodeId>, name: &str, alone: bool, stays: bool| Movable {
        spans: statements.iter().map(|n| lines_of(s, *n)).collect(),
        statements,
        names: vec![name.to_string()],
        bindings: Vec::new(),
        alone,
        stays,
    };
    let taken = |name: &str| project.facts.iter().any(|f| f.path == file_of(s, name));
    let class = |c: NodeId| {
        let name = s.str(t.child(c, Field::Name)?);
        let bound = t.parent(c) != Some(Tree::ROOT) && !s.lang.needs_no_object(s, c);
        Some(unit(vec![c], name, true, bound || taken(name)))
    };
    let mut out: Vec<Movable> = classes(s).into_iter().filter_map(class).collect();
    for d in declared(s, own) {
        let goes = d.nodes.iter().all(|n| may_go(project, s, *n).is_ok());
        let other = out.iter().any(|m| m.names[0] == d.name);
        // what belongs to objects is nothing of its own
        out.extend((goes && !other).then(|| unit(d.nodes, &d.name, false, false)));
    }
    out
}

/// The file of a class beside another one.
pub(super) fn file_of(s: &Source, class: &str) -> String {
    let (folder, file) = s.path.rsplit_once('/').map_or(("", s.path.as_str()), |(a, b)| (&s.path[..a.len() + 1], b));
    format!("{folder}{class}{}", &file[file.find('.').unwrap_or(file.len())..])
}

/// Uses of what is imported from files that come to load this one: a new file that imports them can't be imported here.
fn imported_in_circles(project: &Project, s: &Source) -> Vec<NodeId> {
    let Some(home) = project.index(&s.path) else { return Vec::new() };
    let back = |b: BindingId| {
        let import = s.names.binding(b).import.as_ref();
        let files = import.map_or(Vec::new(), |i| project.resolved(s, i));
        files.into_iter().any(|f| project.modules().takes_when_loaded(f, home))
    };
    let imports = s.names.bindings_of(Names::MODULE).filter(|b| back(*b));
    imports.flat_map(|b| s.names.references_to(b)).map(|r| r.node).collect()
}

/// It means something else in another file, or something here changes it when the file is loaded.
fn is_of_its_file(s: &Source, d: &Definition) -> bool {
    let t = &s.tree;
    let own = |n: NodeId| t.role(n) == Role::FrameName && s.lang.is_module_own(s.str(n));
    let sees = |n: NodeId| called(s, n).is_some_and(|(word, _)| s.lang.reads_module_names().contains(&word));
    let special = |n: &str| n.starts_with('_') && s.lang.is_special_member(n) || s.lang.public_list() == Some(n);
    let names = d.names.iter().any(|(_, n)| special(n) || s.lang.is_module_own(n));
    let alone = Moved { all: vec![d.clone()] };
    names || t.subtree(d.statement).any(|n| own(n) || sees(n)) || changed_when_loaded(s, &alone).is_some()
}
