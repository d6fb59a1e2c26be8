//! Where the new function goes: the class, the module, or the nearest module that all sites can import.

use rustc_hash::FxHashMap;

use crate::change::{Code, Reason, reason};
use crate::index::{Project, ancestry};
use crate::lang::MethodKind;
use crate::names::Source;
use crate::plan::home::{Home, bound_to_its_place, importable, no_home};
use crate::plan::new_name::is_class;
use crate::plan::region::Portion;
use crate::plan::wishes::{Form, Wishes};
use crate::tree::{Field, NodeId, Role, Tree};

/// Files that are kept as candidates, and that are looked at for them.
const MOST_HOMES: usize = 4;
const MOST_TRIED: usize = 40;

/// Candidates, the best first, or why there is none.
pub fn homes(project: &Project, sites: &[Portion], wishes: &Wishes) -> Result<Vec<Home>, Vec<Reason>> {
    let into = wishes.into.as_deref();
    let file_of = |s: &Portion| project.index(&s.source().path).expect("a site's file was scanned");
    let files: Vec<usize> = sites.iter().map(file_of).collect();
    let one_file = files.iter().all(|f| *f == files[0]);
    let s = sites[0].source();
    let in_class = |x: &Portion| x.source().tree.ancestor(x.function, &[Role::Class]).is_some();
    if !s.lang.has_free_functions(s) || s.names.members_in_sight && sites.iter().any(in_class) {
        return crate::plan::class_home::homes(project, sites, wishes, &files);
    }
    if let Some(class) = &wishes.class {
        let why = format!("functions of this language are put into files, not into a class such as `{class}`");
        return Err(vec![no_home(project, files[0], &why)]);
    }
    let method = sites[0].method.filter(|m| m.receiver.is_some());
    let one_class = one_file
        && method.is_some_and(|m| {
            sites
                .iter()
                .all(|s| s.method.is_some_and(|o| o.class == m.class && o.kind == m.kind && o.receiver.is_some()))
        });
    if let Some(into) = into.and_then(|i| project.index(i)).filter(|i| !files.contains(i)) {
        return crate::plan::outside::home(project, sites, &files, into).map(|h| vec![h]);
    }
    let mut out = Vec::new();
    let file = project.source(files[0]).ok();
    let watched = || method.zip(file).is_some_and(|(m, s)| ancestry::is_watched(project, &s, m.class));
    if one_class && into.is_none() && !watched() {
        let class = method.map(|m| m.class);
        let mut assumptions: Vec<Reason> = sites.iter().find_map(|s| borrowed(project, s)).into_iter().collect();
        assumptions.extend(crate::plan::shape::copied(project, &sites[0]));
        out.push(Home { class, ..Home::new(files[0], 0, assumptions) });
    }
    let class = own_class(sites).filter(|_| one_file && into.is_none());
    if let Some(class) = class {
        if let Some(why) = s.lang.takes_no_private(s, class, project.edition(s.lang)) {
            return Err(vec![reason(s, class, Code::NoHome, why)]);
        }
        out.push(Home { class: Some(class), is_static: true, ..Home::new(files[0], 0, Vec::new()) });
    }
    if !one_class && into.is_none() && wishes.form != Some(Form::Function) {
        let lent = || sites.iter().any(|s| borrowed(project, s).is_some());
        out.extend(crate::plan::base_home::of_objects(project, sites, &files).filter(|_| !lent()));
    }
    if let Some(r) = bound_to_its_place(sites, one_file, one_class || class.is_some()) {
        return Err(vec![r]);
    }
    let bound = sites.iter().find_map(bound_to_its_class);
    let (modules, mut against) = match bound {
        Some(r) => (Vec::new(), vec![r]),
        None if class.is_some() => (Vec::new(), Vec::new()),
        None => of_modules(project, sites, &files, into),
    };
    out.extend(modules);
    // what can be decided without assumptions comes first
    out.sort_by_key(|h| h.assumptions.len());
    if one_file && into.is_none() && s.lang.nests_functions() {
        let nest = common_function(sites, wishes.form == Some(Form::Nested));
        out.extend(nest.map(|n| Home { nest: Some(n), ..Home::new(files[0], 0, Vec::new()) }));
    }
    if let Some(form) = wishes.form {
        of_form(form, &mut out);
        if out.is_empty() && against.is_empty() {
            let why = match form {
                Form::Method => "no method: the code is not in a method, or the sites are not all in one class",
                Form::Nested => "no function is around all the sites",
                Form::Function => "no place of this form was found",
            };
            against.push(no_home(project, files[0], why));
        }
    }
    if out.is_empty() && against.is_empty() {
        against.push(no_home(project, files[0], "the file named by --into is no source file that could be made there"));
    }
    if out.is_empty() { Err(against) } else { Ok(out) }
}

/// The class whose code all sites are, where custom keeps to it what only that code needs.
fn own_class(sites: &[Portion]) -> Option<NodeId> {
    let class = |x: &Portion| x.source().tree.ancestor(x.region.first, &[Role::Class]);
    let first = class(&sites[0]).filter(|_| sites[0].source().lang.keeps_to_class())?;
    sites.iter().all(|x| class(x) == Some(first)).then_some(first)
}

/// Where classes keep members to their own code: the object of the site's class, or a member that its class hides.
fn bound_to_its_class(site: &Portion) -> Option<Reason> {
    let (s, t) = (site.source(), &site.source().tree);
    let class = t.ancestor(site.region.first, &[Role::Class]).filter(|_| s.lang.keeps_to_class())?;
    let hidden = |n: NodeId| {
        let declares = |d: NodeId| matches!(t.role(d), Role::ClassField | Role::Function | Role::Parameter);
        let own = t.subtree(class).filter(|d| declares(*d) && s.lang.hides_from_others(s, *d));
        let word = s.str(n).trim_start_matches(s.lang.variable_mark());
        let names = |d: NodeId| {
            t.subtree(d).filter(|x| t.is_leaf(*x) && matches!(t.role(*x), Role::Name | Role::MemberName)).take(8)
        };
        own.into_iter().any(|d| names(d).any(|x| s.str(x).trim_start_matches(s.lang.variable_mark()) == word))
    };
    let of_object = |n: NodeId| s.names.at(n).and_then(|r| r.target).is_some_and(|b| Some(b) == site.receiver());
    let is_bound = |n: &NodeId| of_object(*n) || t.role(*n) == Role::MemberName && hidden(*n);
    let at = (site.region.first.0..site.region.end().0).map(NodeId).find(is_bound)?;
    let message = format!("`{}` may be something that only the code of its class can use", s.str(at));
    Some(reason(s, at, Code::NoHome, message))
}

/// Modules that all sites can import from, the best first, and what speaks against others.
fn of_modules(project: &Project, sites: &[Portion], files: &[usize], into: Option<&str>) -> (Vec<Home>, Vec<Reason>) {
    let distinct = by_copies(files);
    let (mut out, mut against): (Vec<Home>, Vec<Reason>) = (Vec::new(), Vec::new());
    let wanted = distinct.iter().copied().filter(|f| into.is_none_or(|i| project.facts[*f].path == i));
    for home in wanted.take(MOST_TRIED) {
        // the first one that needs no assumption is the best there is
        if out.len() >= MOST_HOMES || out.last().is_some_and(|h| h.assumptions.is_empty()) {
            break;
        }
        let template = files.iter().position(|f| *f == home).expect("a distinct file is one of the files");
        // whoever imports the function would run the copy that stands outside all functions
        let runs = || files.iter().zip(sites).any(|(f, s)| *f == home && s.function == Tree::ROOT);
        let loads = |f: &usize| *f == home || project.modules().loads(*f, home);
        if project.source(home).is_ok_and(|s| !s.lang.takes_functions(&s)) {
            let why = format!("{} holds no functions of its own at its top level", project.facts[home].path);
            against.push(no_home(project, home, &why));
            continue;
        }
        if runs() && !distinct.iter().all(loads) {
            let why = format!("importing {} would run what stands in it", project.facts[home].path);
            against.push(no_home(project, home, &why));
            continue;
        }
        match importable(project, home, &distinct) {
            Ok(assumptions) => out.push(Home::new(home, template, assumptions)),
            Err(r) => against.push(r),
        }
    }
    (out, against)
}

/// The files, each once, those with the most copies first.
fn by_copies(files: &[usize]) -> Vec<usize> {
    let mut counts: FxHashMap<usize, usize> = FxHashMap::default();
    let mut distinct: Vec<usize> = Vec::new();
    for f in files {
        let n = counts.entry(*f).or_default();
        *n += 1;
        if *n == 1 {
            distinct.push(*f);
        }
    }
    distinct.sort_by_key(|f| std::cmp::Reverse(counts[f]));
    distinct
}

/// Keeps the homes of a form.
fn of_form(form: Form, homes: &mut Vec<Home>) {
    homes.retain(|h| {
        let own = match (h.class, h.nest) {
            (Some(_), _) => Form::Method,
            (None, Some(_)) => Form::Nested,
            (None, None) => Form::Function,
        };
        own == form
    });
}

/// A place where the method around a site is taken from its class for other objects, which would miss a new method.
fn borrowed(project: &Project, site: &Portion) -> Option<Reason> {
    let own = site.source();
    let keeps = own.lang.members_keep_object();
    // methods of the class are called by it
    if keeps && site.method.is_some_and(|m| m.kind != MethodKind::Instance) {
        return None;
    }
    let name = own.str(own.tree.child(site.function, Field::Name)?);
    let files = (0..project.facts.len()).filter(|f| project.facts[*f].has_word(name));
    for file in files.filter(|f| project.facts[*f].is_of_family(own.lang)) {
        let Ok(s) = project.source(file) else { continue };
        let lent = |n: &NodeId| if keeps { is_lent_by_class(project, &s, *n, name) } else { is_lent(&s, *n, name) };
        if let Some(n) = s.tree.ids().find(lent) {
            let message = format!("`{name}` is taken from its class here, and is only called on objects of that class");
            return Some(crate::change::reason(&s, n, Code::BorrowedMethod, message));
        }
    }
    None
}

/// `A.name` that is no call, or a call with another first argument than the object of the method around it: a function that
/// takes any object.
fn is_lent_by_class(project: &Project, s: &Source, n: NodeId, name: &str) -> bool {
    let t = &s.tree;
    if t.role(n) != Role::MemberName || s.str(n) != name {
        return false;
    }
    let Some(member) = t.parent(n).filter(|m| t.role(*m) == Role::Member) else { return false };
    let Some(object) = t.child(member, Field::Object).filter(|o| is_class(project, s, *o)) else { return false };
    let call = t.parent(member).filter(|c| t.role(*c) == Role::Call && t.field(member) == Field::Callee);
    let first = call.and_then(|c| t.child(c, Field::Arguments)).and_then(|a| t.children(a).next());
    let own = first.is_some_and(|a| s.lang.is_receiver(s.str(a)));
    // `type(self).name` and the class's own
    let of_class = s.names.at(object).is_some_and(|r| s.lang.is_class_receiver(s.str(r.node)));
    !own && !of_class
}

/// `A.prototype.name` that is no call, or `a.name.call(b)`, `.apply` and `.bind` with another object than `this`.
fn is_lent(s: &Source, n: NodeId, name: &str) -> bool {
    let t = &s.tree;
    let member = |n: NodeId, of: &str| t.child(n, Field::Member).is_some_and(|m| s.str(m) == of);
    if t.role(n) != Role::Member || !member(n, name) {
        return false;
    }
    let Some(parent) = t.parent(n) else { return false };
    let through = t.role(parent) == Role::Member && ["call", "apply", "bind"].iter().any(|w| member(parent, w));
    if through {
        let call = t.parent(parent).filter(|c| t.role(*c) == Role::Call);
        let first = call.and_then(|c| t.child(c, Field::Arguments)).and_then(|a| t.children(a).next());
        return first.is_some_and(|f| Some(s.str(f)) != s.lang.object_word());
    }
    let of_prototype = t.child(n, Field::Object).is_some_and(|o| s.str(o).ends_with(".prototype"));
    of_prototype && t.field(n) != Field::Callee && t.field(n) != Field::Left
}

/// The function whose body all sites stand in; their own one only when that is asked for.
fn common_function(sites: &[Portion], own: bool) -> Option<NodeId> {
    let around = |s: &Portion| {
        let t = &s.source().tree;
        if own { Some(s.function) } else { t.callable_around(s.function) }
    };
    let holds = |n: &NodeId| sites[0].source().tree.holds_statements(*n);
    let first = around(&sites[0]).filter(holds);
    if first.is_some() && sites.iter().all(|s| around(s) == first) {
        return first;
    }
    let outer = |s: &Portion| s.source().tree.callable_around(s.function);
    let first = outer(&sites[0]).filter(holds).filter(|_| own)?;
    sites.iter().all(|s| outer(s) == Some(first)).then_some(first)
}
