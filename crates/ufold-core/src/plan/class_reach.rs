//! Who reaches a class that could hold the function: files and packages that see it, and what calling it for the first
//! time does.

use crate::align::Region;
use crate::change::{Code, Reason, reason};
use crate::index::class_tree::{self, same_class};
use crate::index::{Entity, Project};
use crate::lang::{MemberOf, Reach};
use crate::names::Source;
use crate::plan::region::Portion;
use crate::tree::{Field, NodeId, Role, Tree};

/// Who must be able to call a function of a class for the copies' files to do so; or why they can't.
pub(crate) fn seen_from(
    project: &Project,
    files: &[usize],
    (home, s, class): (usize, &Source, NodeId),
) -> Result<Reach, String> {
    let modules = project.modules();
    let name = s.tree.child(class, Field::Name).map_or("", |n| s.str(n));
    let own = modules.name(home).ok_or("the class's file is no module")?;
    let mut reach = Reach::Near;
    let top = top_class(&s.tree, class).unwrap_or(class);
    if files.iter().any(|f| *f != home) && s.tree.parent(top) != Some(Tree::ROOT) {
        return Err(format!("not all that is built of the project may have `{name}`"));
    }
    for f in files.iter().filter(|f| **f != home) {
        let path = &project.facts[*f].path;
        let other = modules.name(*f).ok_or_else(|| format!("{path} is no module"))?;
        // of several name spaces it is not told which one is a class's
        if let Some(r) = [*f, home].iter().find(|f| project.facts[**f].spaces.as_ref().is_some_and(|x| x.own.is_none()))
        {
            return Err(format!("{} has classes in several name spaces", project.facts[*r].path));
        }
        if !s.lang.sees_root(other, own) {
            return Err(format!("{path} is built from another root, and may not see `{name}`"));
        }
        if other.package() == own.package() {
            continue;
        }
        reach = Reach::All;
        if !s.lang.is_open(s, class) || own.package().is_empty() {
            return Err(format!("{path} is in another package, which does not see `{name}`"));
        }
        let there = project.source(*f)?;
        let meant = is_meant(project, &there, (home, s, class));
        let t = &there.tree;
        let linked = |n: NodeId| t.ancestor(n, &[Role::Import, Role::ImportFrom]).is_some();
        let says = |n: NodeId| t.is_leaf(n) && t.role(n) == Role::Name && there.str(n) == name && !linked(n);
        if !meant && (there.names.in_module(name).is_some() || t.ids().any(says)) {
            return Err(format!("`{name}` is something else in {path}"));
        }
    }
    Ok(reach)
}

/// That files see each other's classes is nowhere said.
pub(crate) fn built_together(project: &Project, files: &[usize], home: usize) -> Option<Reason> {
    let said = |f: usize| project.modules().name(f).is_some_and(|m| m.in_package);
    let other = files.iter().find(|f| **f != home && !(said(**f) && said(home)))?;
    let message = format!("{} and {} are built together", project.facts[*other].path, project.facts[home].path);
    Some(Reason { code: Code::ImportPath, message, file: project.facts[*other].path.clone(), line: 1 })
}

/// A file knows the class by its name: it imports it, or uses it by an import of all that its package has.
pub(crate) fn is_meant(project: &Project, there: &Source, (home, s, class): (usize, &Source, NodeId)) -> bool {
    let name = s.tree.child(class, Field::Name).map_or("", |n| s.str(n));
    if project.entity(there, name) == Entity::Member(home, name.to_string()) {
        return true;
    }
    let (t, definitions) = (&there.tree, |s: &Source, name: &str| project.definition(s, name));
    let own = s.lang.class_type(s, class, &definitions).0;
    let linked = |n: NodeId| t.ancestor(n, &[Role::Import, Role::ImportFrom]).is_some();
    let word = |n: &NodeId| t.is_leaf(*n) && t.role(*n) == Role::Name && there.str(*n) == name && !linked(*n);
    let mut all = t.ids().filter(word).peekable();
    let means = |n: NodeId| {
        let found = there.lang.class_named(there, n, &definitions);
        matches!(found, MemberOf::Class(c) if same_class(c, own))
    };
    there.names.in_module(name).is_none() && all.peek().is_some() && all.all(means)
}

/// A call from outside the class may be the first use of it, which runs code.
pub(crate) fn made_ready(project: &Project, sites: &[Portion], s: &Source, class: NodeId) -> Option<Reason> {
    let definitions = |s: &Source, name: &str| project.definition(s, name);
    let outside = |x: &&Portion| !class_tree::is_ready_at(s, class, x.source(), x.region.first);
    let site = sites.iter().find(outside).filter(|_| s.lang.acts_when_loaded(s, class, &definitions))?;
    let name = s.tree.child(class, Field::Name).map_or("", |n| s.str(n));
    let message = format!("`{name}` can be made ready here already: that runs code");
    Some(reason(site.source(), site.region.first, Code::ImportEffects, message))
}

/// What is stored of an object depends on which functions its class shows.
pub(crate) fn stored(project: &Project, s: &Source, class: NodeId) -> Option<Reason> {
    let definitions = |s: &Source, name: &str| project.definition(s, name);
    let message = "no stored object of the class is read again: its form depends on the functions of the class";
    s.lang.is_stored_by_members(s, class, &definitions).then(|| reason(s, class, Code::StoredObjects, message))
}

/// The outermost class around a place.
pub(crate) fn top_class(t: &Tree, at: NodeId) -> Option<NodeId> {
    t.ancestors(at).filter(|a| t.role(*a) == Role::Class).last()
}

/// A member that only the file's own class may use, or those that extend one of another file; `goes` says of a word that its
/// member comes along.
pub(crate) fn hidden(project: &Project, code: &Region, goes: &dyn Fn(NodeId) -> bool) -> Option<Reason> {
    let (s, t) = (code.source, &code.source.tree);
    let below = |name: &str| {
        let all = s.lang.hides_below().then(|| class_tree::with_word(project, name, s.lang));
        let shown = |c: &class_tree::Class| {
            let declared = class_tree::declarations(&c.source, c.node, name);
            declared.into_iter().any(|d| c.source.lang.hides_from_others(&c.source, d))
        };
        all.is_some_and(|all| all.iter().filter(|c| c.source.path != s.path).any(shown))
    };
    let private = |name: &str| {
        let own = t.ids().filter(|n| matches!(t.role(*n), Role::Function | Role::ClassField)).any(|d| {
            let direct = t.child(d, Field::Name).into_iter();
            let fields = t.children(d).filter(|c| t.role(*c) == Role::Assign).filter_map(|a| t.child(a, Field::Left));
            s.lang.hides_from_others(s, d) && direct.chain(fields).any(|n| s.str(n) == name)
        });
        own || below(name)
    };
    let region = (code.first.0..code.end().0).map(NodeId);
    let at = region.into_iter().find(|n| t.role(*n) == Role::MemberName && !goes(*n) && private(s.str(*n)))?;
    Some(reason(s, at, Code::NeedsClass, format!("`{}` is private to its class", s.str(at))))
}
