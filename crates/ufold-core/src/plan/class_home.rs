//! Homes in languages where functions are members of classes: the class around all sites, else one of their classes.
//!
//! A method where the object is used, a static function where it is not. A name that a class could have inherited means
//! something only in that class: code that has one stays in it. Fails (refuses) for sites in different packages.

use crate::align::Region;
use crate::change::{Code, Reason, reason};
use crate::find::paths::is_test;
use crate::index::Project;
use crate::index::inherited::{self, Inherited};
use crate::index::words::stem_of;
use crate::lang::MethodKind;
use crate::names::{Names, Reference, Source, Space};
use crate::plan::base_home;
use crate::plan::class_reach::{built_together, hidden, made_ready, seen_from, stored, top_class};
use crate::plan::home::{Home, no_home};
use crate::plan::package_reach::unseen_there;
use crate::plan::region::Portion;
use crate::plan::wishes::{Form, Wishes};
use crate::tree::{Field, NodeId, Role, Tree};

/// Candidates, the best first, or why there is none.
pub(crate) fn homes(
    project: &Project,
    sites: &[Portion],
    wishes: &Wishes,
    files: &[usize],
) -> Result<Vec<Home>, Vec<Reason>> {
    let one_file = files.iter().all(|f| *f == files[0]);
    let classes: Option<Vec<NodeId>> = sites.iter().map(class_of).collect();
    let Some(classes) = classes else {
        let s = &sites[0];
        return Err(vec![reason(s.source(), s.region.first, Code::NoHome, "the code is not inside a class")]);
    };
    let other = |into: &&str| !files.iter().any(|f| project.facts[*f].path == **into);
    if let Some(into) = wishes.into.as_deref().filter(other) {
        let (mut out, mut against) = (Vec::new(), Vec::new());
        given(project, sites, files, (into, wishes.class.as_deref()), (&mut out, &mut against));
        return if out.is_empty() { Err(against) } else { Ok(out) };
    }
    let mut out = Vec::new();
    let mut against = Vec::new();
    let common = common_class(sites, &classes).filter(|_| one_file);
    match common {
        Some(class) => of_class(project, sites, &classes, files[0], class, (&mut out, &mut against)),
        None => {
            let base = if wishes.into.is_none() { base_home::homes(project, sites, files) } else { Err(None) };
            match base {
                Ok(homes) => out.extend(homes),
                Err(why) => against.extend(why),
            }
            elsewhere(project, sites, wishes, files, (&mut out, &mut against));
        }
    }
    if let Some(form) = wishes.form {
        out.retain(|h| (form == Form::Method) == h.takes_object() && form != Form::Nested);
        if out.is_empty() && against.is_empty() {
            against.push(no_home(project, files[0], "no place of this form was found"));
        }
    }
    if out.is_empty() { Err(against) } else { Ok(out) }
}

/// The class whose code a site is.
fn class_of(site: &Portion) -> Option<NodeId> {
    site.source().tree.ancestor(site.region.first, &[Role::Class])
}

/// The innermost class around all sites.
fn common_class(sites: &[Portion], classes: &[NodeId]) -> Option<NodeId> {
    let t = &sites[0].source().tree;
    let around = std::iter::once(classes[0]).chain(t.ancestors(classes[0])).filter(|a| t.role(*a) == Role::Class);
    around.into_iter().find(|c| classes.iter().all(|o| t.contains(*c, *o)))
}

type Found<'a> = (&'a mut Vec<Home>, &'a mut Vec<Reason>);

/// As a member of a class that is around all sites.
fn of_class(
    project: &Project,
    sites: &[Portion],
    classes: &[NodeId],
    file: usize,
    class: NodeId,
    (out, against): Found,
) {
    let s = sites[0].source();
    if let Some(why) = s.lang.takes_no_private(s, class, project.edition(s.lang)) {
        against.push(reason(s, class, Code::NoHome, why));
        return;
    }
    let inside = classes.iter().all(|c| *c == class);
    let mut assumptions = Vec::new();
    for (x, _) in sites.iter().zip(classes).filter(|(_, c)| **c != class) {
        match inherited(project, &x.region) {
            Ok(assumed) => assumptions.extend(assumed),
            Err(r) => return against.push(r),
        }
    }
    let with_object = |x: &Portion| {
        let before = x.source().lang.is_before_object(x.source(), x.region.first);
        !before && x.method.is_some_and(|m| m.kind == MethodKind::Instance && m.class == class)
    };
    let by_object = inside && sites.iter().all(with_object);
    if by_object {
        out.push(Home { class: Some(class), ..Home::new(file, 0, Vec::new()) });
    }
    if let Some((x, at)) = sites.iter().find_map(|x| Some((x, x.needs_class()?))).filter(|_| !by_object) {
        let message = "this name means something else outside its class, and the copies are not all in one class";
        against.push(reason(x.source(), at, Code::NeedsClass, message));
    } else if s.lang.takes_static(s, class) {
        assumptions.extend(made_ready(project, sites, s, class));
        out.push(Home { class: Some(class), is_static: true, ..Home::new(file, 0, assumptions) });
    } else if !by_object {
        against.push(reason(
            s,
            class,
            Code::NoHome,
            "an inner class has no functions of its own in this version of the language",
        ));
    }
}

/// As a static member of a class of another file that a person names.
fn given(
    project: &Project,
    sites: &[Portion],
    files: &[usize],
    (into, class): (&str, Option<&str>),
    (out, against): Found,
) {
    let refuse = |what: &str| no_home(project, files[0], &format!("{into} {what}"));
    let assumptions = match leaves(project, sites) {
        Ok(assumed) => assumed,
        Err(r) => return against.push(r),
    };
    let file = project.index(into).filter(|f| project.facts[*f].language == project.facts[files[0]].language);
    let Some((file, s)) = file.and_then(|f| Some((f, project.source(f).ok()?))) else {
        return against.push(refuse("is no file of the project in which the function could be"));
    };
    let t = &s.tree;
    let stem = stem_of(into);
    let classes = || t.children(Tree::ROOT).filter(|c| t.role(*c) == Role::Class);
    let named = |c: &NodeId| t.child(*c, Field::Name).is_some_and(|n| s.str(n) == class.unwrap_or(stem));
    let any = || classes().next().filter(|_| class.is_none());
    let Some(class) = classes().find(named).or_else(any) else {
        return against.push(refuse("holds no class that could take the function"));
    };
    let name = s.tree.child(class, Field::Name).map_or("", |n| s.str(n));
    if project.is_new(file) && project.word_elsewhere(name, &[file]) {
        let message = format!("the name `{name}`, which the new class would have, is already in use");
        return against.push(Reason { code: Code::NameTaken, message, ..refuse("") });
    }
    let found = (out.len(), against.len());
    candidate(project, sites, files, (file, &s, class), 0, &assumptions, (out, against));
    out[found.0..].iter_mut().for_each(|h| h.outside = Some(s.clone()));
    if out.len() == found.0 && against.len() == found.1 {
        against.push(refuse("has a class that can't take the function"));
    }
}

/// As a static member of one of the sites' own classes, which the others call by the class's name.
fn elsewhere(project: &Project, sites: &[Portion], wishes: &Wishes, files: &[usize], (out, against): Found) {
    let assumptions = match leaves(project, sites) {
        Ok(assumed) => assumed,
        Err(r) => return against.push(r),
    };
    let mut tried: Vec<(usize, NodeId)> = Vec::new();
    for (i, x) in sites.iter().enumerate() {
        let (s, t) = (x.source(), &x.source().tree);
        let Some(top) = top_class(t, x.region.first) else { continue };
        let wanted = wishes.into.as_deref().is_none_or(|into| into == s.path);
        if tried.contains(&(files[i], top)) || !wanted {
            continue;
        }
        tried.push((files[i], top));
        candidate(project, sites, files, (files[i], s, top), i, &assumptions, (out, against));
    }
    out.sort_by_key(|h| (h.assumptions.len(), h.reach));
    if out.is_empty() && against.is_empty() {
        against.push(no_home(project, files[0], "none of the classes can hold a function for the others"));
    }
}

/// The code means the same in any class; or what it is that does not, and what must hold.
fn leaves(project: &Project, sites: &[Portion]) -> Result<Vec<Reason>, Reason> {
    let mut assumptions = Vec::new();
    for x in sites {
        if let Some(at) = x.needs_class() {
            let message = "this name means something else outside its class, and the copies are not all in one class";
            return Err(reason(x.source(), at, Code::NeedsClass, message));
        }
        assumptions.extend(inherited(project, &x.region)?);
        if let Some(r) = hidden(project, &x.region, &|_| false) {
            return Err(r);
        }
    }
    Ok(assumptions)
}

/// A class that could hold the function for all, with the site whose text becomes the body.
fn candidate(
    project: &Project,
    sites: &[Portion],
    files: &[usize],
    (file, s, class): (usize, &Source, NodeId),
    template: usize,
    assumptions: &[Reason],
    (out, against): Found,
) {
    let t = &s.tree;
    let name = t.child(class, Field::Name).map(|n| s.str(n).to_string());
    let others_are_no_tests = files.iter().any(|f| !is_test(&project.facts[*f].path));
    let edition = project.edition(s.lang);
    if is_test(&s.path) && others_are_no_tests
        || s.lang.takes_no_private(s, class, edition).is_some()
        || !s.lang.takes_static(s, class)
        || t.child(class, Field::TypeParams).is_some() && !s.lang.generic_classes_have_names()
    {
        return;
    }
    if let Some(r) = sites.iter().find_map(|x| hidden_in(&x.region, s, class)) {
        return against.push(r);
    }
    let reach = match seen_from(project, files, (file, s, class)) {
        Ok(reach) => reach,
        Err(why) => return against.push(no_home(project, file, &why)),
    };
    if let Some(r) = sites.iter().find_map(|x| unseen_there(project, &x.region, file, &|_| false)) {
        return against.push(r);
    }
    let hides = hides_class(sites, name.as_deref().unwrap_or(""));
    let (stored, ready) = (stored(project, s, class), made_ready(project, sites, s, class));
    let together = built_together(project, files, file);
    let assumptions = assumptions.iter().cloned().chain(hides).chain(stored).chain(ready).chain(together).collect();
    let home = Home::new(file, template, assumptions);
    out.push(Home { class: Some(class), is_static: true, called_by: name, reach, ..home });
}

/// A name of the code that the class has something of its own for.
pub(crate) fn hidden_in(code: &Region, home: &Source, class: NodeId) -> Option<Reason> {
    let s = code.source;
    let own = home.names.scope_of(class).filter(|_| s.path != home.path)?;
    let spaces = [Space::Values, Space::Functions, Space::Types];
    let outer = |r: &&Reference| r.target.is_none_or(|b| s.names.binding(b).scope == Names::MODULE);
    let mut names = s.names.in_range(code.first, code.end()).iter().filter(outer);
    let r = names.find(|r| spaces.iter().any(|k| home.names.declared_as(own, *k, s.str(r.node)).is_some()))?;
    Some(reason(s, r.node, Code::NeedsClass, format!("`{}` is something else in {}", s.str(r.node), home.path)))
}

/// The class's name is another thing at a site.
fn hides_class(sites: &[Portion], name: &str) -> Option<Reason> {
    sites.iter().find_map(|x| {
        let s = x.source();
        let mut scopes = s.names.scope_chain(x.scope).filter(|c| *c != Names::MODULE);
        let hidden = scopes.any(|c| s.names.declared_as(c, Space::Values, name).is_some());
        hidden.then(|| reason(s, x.region.first, Code::NameHidden, format!("`{name}` still names the class here")))
    })
}

/// Bare names that are, or may be, something that a class on the way has inherited: refused, or assumed not to be.
pub(crate) fn inherited(project: &Project, code: &Region) -> Result<Option<Reason>, Reason> {
    let s = code.source;
    let word = |r: &Reference| s.str(r.node);
    let mut assumed = None;
    for r in s.names.in_range(code.first, code.end()) {
        let binding = r.target.map(|b| s.names.binding(b));
        let of_file = binding.is_none_or(|b| b.space == Space::Types && b.scope == Names::MODULE);
        let found = if Some(word(r)) == s.lang.object_word() {
            Inherited::No
        } else if r.may_be_type() && of_file {
            inherited::of_type_place(project, s, r)
        } else if s.names.is_imported(r.node) {
            inherited::as_member(project, s, r.node)
        } else if imported_whole(project, s, r) || inherited::is_same_static(project, s, r.node) {
            Inherited::No
        } else if r.target.is_none() && !s.lang.is_builtin(word(r)) || !s.lang.is_sure(s, r.node) {
            Inherited::Surely
        } else {
            Inherited::No
        };
        let told = |what: &str| reason(s, r.node, Code::NeedsClass, format!("`{}` {what}", word(r)));
        match found {
            Inherited::No => {}
            Inherited::Perhaps => {
                assumed = assumed.or(Some(told("is nothing that a class outside the project hands down")))
            }
            Inherited::Surely => return Err(told("may be something that its class has inherited")),
        }
    }
    Ok(assumed)
}

/// A function that can only come from an import of all names of something: no class around it could have inherited it.
fn imported_whole(project: &Project, s: &Source, r: &Reference) -> bool {
    r.target.is_none()
        && (r.spaces == [Space::Functions] || s.tree.field(r.node) == Field::Callee)
        && s.lang.seen_through(s, s.str(r.node)).is_some()
        && inherited::as_member(project, s, r.node) == Inherited::No
}

/// What the home's class extends, and is not known, may have a method of the new one's name.
pub(crate) fn inherited_name(project: &Project, home: &Home, sites: &[Portion], name: &str) -> Option<Reason> {
    let s = home.source(sites);
    let class = home.class?;
    let definitions = |s: &Source, name: &str| project.definition(s, name);
    let message = format!("nothing that the class extends has a method `{name}`");
    s.lang.may_inherit(s, class, name, &definitions).then(|| reason(s, class, Code::InheritedName, message))
}

/// How a site calls the function.
pub(crate) fn callee(site: &Portion, home: &Home, sites: &[Portion], name: &str) -> String {
    let (s, t) = (site.source(), &site.source().tree);
    let inside = s.path == home.source(sites).path && home.class.is_none_or(|c| t.contains(c, site.region.first));
    match &home.called_by {
        Some(class) if !inside => format!("{class}.{name}"),
        _ => name.to_string(),
    }
}
