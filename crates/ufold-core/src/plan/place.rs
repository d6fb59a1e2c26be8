//! Where the new function goes: the class, the module, or the nearest module that all sites can import.

use std::sync::Arc;

use rustc_hash::FxHashMap;

use crate::change::{Form, Reason, Request};
use crate::index::Project;
use crate::lang::Reach;
use crate::names::{BindingId, Source};
use crate::plan::lines::{comments_above, line_end, line_start};
use crate::plan::region::Site;
use crate::text::Edit;
use crate::tree::{Field, NodeId, Role, Tree};

/// A place that could take the function.
#[derive(Clone)]
pub struct Home {
    /// Index of the file in the project.
    pub file: usize,
    /// Index of the site whose text becomes the body: the first one in the file.
    pub template: usize,
    /// The class, when it becomes a method.
    pub class: Option<NodeId>,
    /// As a member of the class it needs no object.
    pub is_static: bool,
    /// The name by which code outside the class calls it.
    pub called_by: Option<String>,
    pub reach: Reach,
    /// The function around its sites, when it becomes a function inside that.
    pub nest: Option<NodeId>,
    /// The file, when no site is in it.
    pub outside: Option<Arc<Source>>,
    pub assumptions: Vec<Reason>,
}

impl Home {
    /// A place in a file.
    pub fn new(file: usize, template: usize, assumptions: Vec<Reason>) -> Home {
        Home {
            file,
            template,
            class: None,
            is_static: false,
            called_by: None,
            reach: Reach::Own,
            nest: None,
            outside: None,
            assumptions,
        }
    }

    /// A method that is called on the object of its class.
    pub fn takes_object(&self) -> bool {
        self.class.is_some() && !self.is_static
    }

    /// The file that gets the function.
    pub fn source<'a>(&'a self, sites: &'a [Site]) -> &'a Source {
        self.outside.as_deref().unwrap_or(sites[self.template].source())
    }
}

/// Files that are kept as candidates, and that are looked at for them.
const MOST_HOMES: usize = 4;
const MOST_TRIED: usize = 40;

/// Candidates, the best first, or why there is none.
pub fn homes(project: &Project, sites: &[Site], request: &Request) -> Result<Vec<Home>, Vec<Reason>> {
    let into = request.into.as_deref();
    let file_of = |s: &Site| project.index(&s.source().path).expect("a site's file was scanned");
    let files: Vec<usize> = sites.iter().map(file_of).collect();
    let one_file = files.iter().all(|f| *f == files[0]);
    if !sites[0].source().lang.has_free_functions(sites[0].source()) {
        return crate::plan::class_home::homes(project, sites, request, &files);
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
    if one_class && into.is_none() {
        let class = method.map(|m| m.class);
        let mut assumptions: Vec<Reason> = sites.iter().find_map(|s| borrowed(project, s)).into_iter().collect();
        assumptions.extend(crate::plan::shape::copied(project, &sites[0]));
        out.push(Home { class, ..Home::new(files[0], 0, assumptions) });
    }
    if let Some(r) = bound_to_its_place(sites, one_file, one_class) {
        return Err(vec![r]);
    }
    let (modules, mut against) = of_modules(project, &files, into);
    out.extend(modules);
    // what can be decided without assumptions comes first
    out.sort_by_key(|h| h.assumptions.len());
    if one_file && into.is_none() {
        let nest = common_function(sites, request.form == Some(Form::Nested));
        out.extend(nest.map(|n| Home { nest: Some(n), ..Home::new(files[0], 0, Vec::new()) }));
    }
    if let Some(form) = request.form {
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

/// What keeps the code where it is: a variable of its module that it writes, a name that only its class sees.
pub fn bound_to_its_place(sites: &[Site], one_file: bool, one_class: bool) -> Option<Reason> {
    let say = |s: &Site, at: NodeId, code: &str, message: String| crate::change::reason(s.source(), at, code, message);
    if let Some(site) = sites.iter().find(|s| !one_file && !s.written_of_module().is_empty()) {
        let name = &site.source().names.binding(site.written_of_module()[0]).name;
        let message =
            format!("`{name}` is a variable of this module and is written here, and other copies are in other files");
        return Some(say(site, site.region.first, "rebinds-outer", message));
    }
    let (site, at) = sites.iter().find_map(|s| Some((s, s.needs_class()?))).filter(|_| !one_class)?;
    let message = "this name means something else outside its class, and the copies are not all in one class";
    Some(say(site, at, "needs-class", message.into()))
}

/// Modules that all sites can import from, the best first, and what speaks against others.
fn of_modules(project: &Project, files: &[usize], into: Option<&str>) -> (Vec<Home>, Vec<Reason>) {
    let distinct = by_copies(files);
    let (mut out, mut against): (Vec<Home>, Vec<Reason>) = (Vec::new(), Vec::new());
    let wanted = distinct.iter().copied().filter(|f| into.is_none_or(|i| project.facts[*f].path == i));
    for home in wanted.take(MOST_TRIED) {
        // the first one that needs no assumption is the best there is
        if out.len() >= MOST_HOMES || out.last().is_some_and(|h| h.assumptions.is_empty()) {
            break;
        }
        let template = files.iter().position(|f| *f == home).expect("a distinct file is one of the files");
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
fn borrowed(project: &Project, site: &Site) -> Option<Reason> {
    let own = site.source();
    if own.lang.members_keep_object() {
        return None;
    }
    let name = own.str(own.tree.child(site.function, Field::Name)?);
    let language = &own.lang.name();
    let files = (0..project.facts.len()).filter(|f| project.facts[*f].has_word(name));
    for file in files.filter(|f| project.facts[*f].language == *language) {
        let Ok(s) = project.source(file) else { continue };
        if let Some(n) = s.tree.ids().find(|n| is_lent(&s, *n, name)) {
            let message = format!("`{name}` is taken from its class here, and is only called on objects of that class");
            return Some(crate::change::reason(&s, n, "borrowed-method", message));
        }
    }
    None
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
fn common_function(sites: &[Site], own: bool) -> Option<NodeId> {
    let around = |s: &Site| {
        let t = &s.source().tree;
        if own { Some(s.function) } else { t.callable_around(s.function) }
    };
    let holds = |n: &NodeId| sites[0].source().tree.holds_statements(*n);
    let first = around(&sites[0]).filter(holds);
    if first.is_some() && sites.iter().all(|s| around(s) == first) {
        return first;
    }
    let outer = |s: &Site| s.source().tree.callable_around(s.function);
    let first = outer(&sites[0]).filter(holds).filter(|_| own)?;
    sites.iter().all(|s| outer(s) == Some(first)).then_some(first)
}

pub fn no_home(project: &Project, file: usize, message: &str) -> Reason {
    Reason { code: "no-home".into(), message: message.into(), file: project.facts[file].path.clone(), line: 1 }
}

pub fn is_test(path: &str) -> bool {
    path.split('/').any(|p| {
        let p = p.rsplit_once('.').map_or(p, |x| x.0).to_ascii_lowercase();
        let ends = ["_test", ".test", ".spec", "-test"].iter().any(|e| p.ends_with(e));
        ["test", "tests", "conftest", "__tests__", "spec"].contains(&p.as_str()) || p.starts_with("test_") || ends
    })
}

/// Places of one assumption about many files.
const MOST_ASSUMED: usize = 12;

/// Whether all other files can import from `home`, and what that assumes.
pub fn importable(project: &Project, home: usize, files: &[usize]) -> Result<Vec<Reason>, Reason> {
    let m = project.modules();
    let mut assumptions = Vec::new();
    let reached = m.reached(home);
    let loaders = m.loaders(home);
    for other in files.iter().copied().filter(|f| *f != home) {
        let (from, to) = (&project.facts[other], &project.facts[home]);
        let refuse = |why: String| Err(no_home(project, other, &why));
        let (Some(a), Some(b)) = (m.name(other), m.name(home)) else {
            return refuse(format!("{} can't be imported, or can't import", to.path));
        };
        if to.module_system.is_none() || to.module_system != from.module_system {
            return refuse(format!("{} and {} are no modules that import each other by name", from.path, to.path));
        }
        if project.source(home).is_ok_and(|s| !s.lang.can_export(&s)) {
            return refuse(format!("{} exports something that gets no other members", to.path));
        }
        if a.base != b.base {
            return refuse(format!("{} and {} are imported from different folders", from.path, to.path));
        }
        if is_test(&to.path) && !is_test(&from.path) {
            return refuse(format!("{} is test code", to.path));
        }
        if reached.contains(&other) {
            return refuse(format!("{} already imports {}", to.path, from.path));
        }
        if loaders.contains(&other) {
            continue;
        }
        if is_test(&to.path) && !to.plain {
            return refuse(format!("loading {} would run its tests", to.path));
        }
        let needs = m.new_needs(other, home);
        if !needs.is_empty() {
            return refuse(format!("importing {} would make {} need {}", to.path, from.path, needs.join(", ")));
        }
        let assume =
            |code: &str, message: String| Reason { code: code.into(), message, file: from.path.clone(), line: 1 };
        if !to.plain && assumptions.len() < MOST_ASSUMED {
            assumptions.push(assume("import-effects", format!("loading {} has no effect that can be seen", to.path)));
        }
        let sure = a.in_package && b.in_package || m.is_imported_from(&a.base);
        if !sure && assumptions.len() < MOST_ASSUMED {
            assumptions.push(assume("import-path", format!("{} can be imported by its bare name", to.path)));
        }
    }
    Ok(assumptions)
}

/// The statement of the top level, or of a class body, that holds a node.
pub fn statement_in(tree: &Tree, parent: NodeId, node: NodeId) -> Option<NodeId> {
    tree.children(parent).find(|c| tree.contains(*c, node))
}

/// Where the definition is inserted, as an edit of the home's text. `text` has no indentation of its first line left out
/// and ends with a line end.
pub fn insertion(source: &Source, home: &Home, sites: &[&Site], text: &str) -> Edit {
    let (t, class) = (&source.tree, home.class);
    let parent = class.or(home.nest).and_then(|c| t.child(c, crate::tree::Field::Body)).unwrap_or(Tree::ROOT);
    let (top, member) = source.lang.blank_lines();
    let custom = if class.is_some() { member } else { top };
    let outside = |s: &&&Site| !t.contains(parent, s.region.first);
    let first = sites.iter().min_by_key(|s| (outside(s), s.region.first)).expect("a home has a site");
    let anchor = statement_in(t, parent, first.region.first).unwrap_or(first.function);
    // values and constants stand before the methods
    let field = class.is_some() && t.role(anchor) == Role::ClassField;
    let anchor = t.children(parent).last().filter(|_| field).unwrap_or(anchor);
    let blank = blank_after(source, parent, anchor).unwrap_or(custom);
    let gap = "\n".repeat(blank + 1);
    if home.nest.is_some() {
        // there before anything can call it
        let start = comments_above(source, line_start(&source.text, t.span(anchor).start));
        return Edit::new(start, start, format!("{text}\n"));
    }
    let early = class.is_none() && (!t.role(anchor).is_definition() || used_while_defining(source, anchor, sites));
    if early {
        let start = line_start(&source.text, t.span(anchor).start);
        let start = comments_above(source, start);
        return Edit::new(start, start, format!("{text}{}", "\n".repeat(blank)));
    }
    let end = line_end(source, t.span(anchor).end);
    Edit::new(end, end, format!("{gap}{}", text.trim_end_matches('\n')))
}

/// Blank lines between a definition and its neighbour.
fn blank_after(source: &Source, parent: NodeId, anchor: NodeId) -> Option<usize> {
    let t = &source.tree;
    let siblings: Vec<NodeId> = t.children(parent).collect();
    let at = siblings.iter().position(|s| *s == anchor)?;
    let pair = match (siblings.get(at + 1), at.checked_sub(1).map(|i| siblings[i])) {
        (Some(next), _) if t.role(*next).is_definition() => (anchor, *next),
        (_, Some(before)) if t.role(before).is_definition() => (before, anchor),
        _ => return None,
    };
    let between = &source.text[t.span(pair.0).end..t.span(pair.1).start];
    let blank = between.lines().skip(1).take_while(|l| l.trim().is_empty()).count();
    let ended = between.lines().last().is_some_and(|l| l.trim().is_empty());
    let only_blank = between.trim().is_empty();
    Some(if only_blank && ended { blank.min(between.matches('\n').count().saturating_sub(1)) } else { blank })
}

/// A class body that calls the very function while the class is being made.
fn used_while_defining(source: &Source, anchor: NodeId, sites: &[&Site]) -> bool {
    let t = &source.tree;
    let called = |b: BindingId| {
        source.names.references_to(b).any(|r| {
            r.usage.reads()
                && t.contains(anchor, r.node)
                && source.names.scope(r.scope).kind == crate::names::ScopeKind::Class
        })
    };
    sites.iter().any(|s| {
        let name = t.child(s.function, crate::tree::Field::Name);
        name.and_then(|n| source.names.at(n)).and_then(|r| r.target).is_some_and(called)
    })
}
