//! A home in which no copy stands: a file of the project that a person names, or a new one.
//!
//! The body's names must mean there what they mean in its own file. What that file imports is imported in the home too,
//! when all users have it loaded or the language brings it; what the file defines itself can't come along. Refuses the
//! rest.

use crate::change::{Code, Place, Reason, reason};
use crate::find::paths::is_prose;
use crate::index::unseen::with_word;
use crate::index::{Entity, NewFile, Project};
use crate::lang;
use crate::names::Source;
use crate::plan::home::{Home, bound_to_its_place, importable, no_home};
use crate::plan::imports::{add_import, folders_above, import_alone};
use crate::plan::region::Portion;
use crate::text::{Edit, Span};
use crate::tree::{Field, NodeId, Role, Tree};

/// Copies' files that are looked for in lists of files.
const MOST_LISTED: usize = 6;

/// The file as a home, and what that assumes.
pub fn home(project: &Project, sites: &[Portion], files: &[usize], into: usize) -> Result<Home, Vec<Reason>> {
    let refuse = |r: Reason| Err(vec![r]);
    if let Some(r) = bound_to_its_place(sites, false, false) {
        return refuse(r);
    }
    let to = &project.facts[into];
    let extension = |path: &str| path.rsplit_once('.').map(|p| p.1.to_string());
    let (own, template) = (&project.facts[files[0]], sites[0].source());
    let shared = lang::by_name(&own.language).and_then(|l| l.importable_extension());
    let alike = to.language == own.language && extension(&to.path) == extension(&own.path);
    if !alike && shared.is_none_or(|s| extension(&to.path).as_deref() != Some(s)) {
        return refuse(no_home(project, files[0], &format!("{} is no file of the same kind as {}", to.path, own.path)));
    }
    let source = project.source(into).map_err(|e| vec![no_home(project, files[0], &e)])?;
    let mut assumptions = importable(project, into, files).map_err(|r| vec![r])?;
    if project.is_new(into) {
        assumptions.extend(of_new_file(project, template, into, files)?);
    }
    Ok(Home { outside: Some(source), ..Home::new(into, 0, assumptions) })
}

/// What a file that is made assumes, or why it can't be: `files` are those whose code goes there.
pub(crate) fn of_new_file(
    project: &Project,
    template: &Source,
    into: usize,
    files: &[usize],
) -> Result<Vec<Reason>, Vec<Reason>> {
    if let Some(why) = hidden_by(project, &project.facts[into].path) {
        return Err(vec![no_home(project, files[0], &why)]);
    }
    let path = &project.facts[into].path;
    let mut out = files_listed(project, template, path);
    out.extend(listed_one_by_one(project, files, path));
    Ok(out)
}

/// What a new module's name already means.
pub(crate) fn hidden_by(project: &Project, path: &str) -> Option<String> {
    let lang = lang::for_path(path)?;
    // modules that are found by their names
    lang.package_file()?;
    let name = lang.module_name(path, &|p| project.exists(p))?;
    let (first, stem) = (name.parts.first()?, path.rsplit_once('.').map_or("", |p| p.0));
    let alone = name.parts.len() == 1;
    if alone && (lang.is_standard_module(first) || project.modules().is_foreign(first)) {
        return Some(format!("`{first}` is the name of another module, which {path} would hide"));
    }
    let folder = format!("{stem}/");
    let package = project.facts.iter().any(|f| f.path.starts_with(&folder));
    package.then(|| format!("{folder} is there, and is the module `{first}` too"))
}

/// Code that goes through the files of folders would find one more; a list of files would miss it.
fn files_listed(project: &Project, template: &Source, path: &str) -> Vec<Reason> {
    let mut out = Vec::new();
    let lang = template.lang;
    let message = || format!("{path} is not among the files that are gone through here, or changes nothing there");
    for word in lang.file_listing_words() {
        for (_, s) in with_word(project, word, lang) {
            let called = |n: &NodeId| s.tree.is_leaf(*n) && s.str(*n) == *word;
            out.extend(s.tree.ids().find(called).map(|n| reason(&s, n, Code::LookedUp, message())));
        }
    }
    for word in lang.build_list_words() {
        let here = with_word(project, word, lang).find_map(|(_, s)| {
            let node = s.tree.ids().find(|n| s.tree.is_leaf(*n) && s.str(*n) == *word)?;
            Some((s.path.clone(), s.line(node)))
        });
        let named = || project.mentions(word, &[word.to_string()]).into_iter().next().map(|m| (m.file, m.line));
        let listed = here.or_else(named);
        let message = || format!("{path} need not be in the list of modules here, or you add it");
        out.extend(listed.map(|(file, line)| Reason { code: Code::BuildList, message: message(), file, line }));
    }
    out.truncate(crate::index::unseen::MOST_PLACES);
    out
}

/// Settings that name several of the copies' files, as those who build or ship them one by one do.
fn listed_one_by_one(project: &Project, files: &[usize], path: &str) -> Option<Reason> {
    let mut own: Vec<&str> = files.iter().map(|f| project.facts[*f].path.as_str()).collect();
    own.sort_unstable();
    own.dedup();
    own.truncate(MOST_LISTED);
    let name = |path: &str| path.rsplit('/').next().unwrap_or(path).to_string();
    let mut seen: Vec<(String, usize)> = Vec::new();
    for file in own {
        let word = name(file);
        let mut here: Vec<(String, usize)> = Vec::new();
        for m in project.mentions(&word, std::slice::from_ref(&word)) {
            if !is_prose(&m.file) && !here.iter().any(|(f, _)| *f == m.file) {
                here.push((m.file, m.line));
            }
        }
        if let Some((file, line)) = here.iter().find(|(f, _)| seen.iter().any(|(s, _)| s == f)) {
            let message = format!("{path} need not be in the list of files here, or you add it");
            return Some(Reason { code: Code::BuildList, message, file: file.clone(), line: *line });
        }
        seen.extend(here);
    }
    None
}

/// The edits of the home: the function, and imports for the names that it needs and that are not there.
pub fn edits(project: &Project, home: &Home, sites: &[Portion], text: &str) -> Result<Vec<Edit>, Reason> {
    let (to, template) = (home.source(sites), sites[home.template].source());
    let mut lines: Vec<(String, String)> = Vec::new();
    let from = &sites[home.template];
    let handed = |name: &str| home.handed.iter().any(|(copy, n)| *copy == from.copy && template.str(*n) == name);
    let whole = to.lang.as_file(text, home.class.is_some());
    let needed = needed(project, to, template, from.region.first, &whole, &handed)?;
    let users: Vec<usize> = sites.iter().filter_map(|x| project.index(&x.source().path)).collect();
    for (node, name) in needed {
        let line = import_of(project, (to, home.file), &users, (template, node), &name)?;
        if !lines.iter().any(|l| l.1 == name) {
            lines.push((line, name));
        }
    }
    if to.tree.children(Tree::ROOT).next().is_none() {
        let (top, _) = to.lang.blank_lines();
        let mut head: String = lines.iter().map(|l| format!("{}\n", l.0)).collect();
        if !head.is_empty() {
            head.push_str(&"\n".repeat(top));
        }
        let text = format!("{head}{}\n", text.trim_end_matches('\n'));
        return Ok(vec![Edit::new(0, to.text.len(), text)]);
    }
    let mut out = vec![match home.class {
        Some(c) => below_members(to, c, text),
        None => below_definitions(to, text),
    }];
    for (line, name) in lines {
        out.extend(add_import(to, &line, &name));
    }
    Ok(out)
}

/// Behind the last member of a class.
fn below_members(to: &Source, class: NodeId, text: &str) -> Edit {
    let t = &to.tree;
    let body = t.child(class, Field::Body).unwrap_or(class);
    let last = t.children(body).filter(|c| t.role(*c) != Role::Token).last();
    let (_, blank) = to.lang.blank_lines();
    let text = text.trim_end_matches('\n');
    match last {
        Some(l) => {
            let end = crate::plan::lines::line_end(to, t.span(l).end);
            Edit::new(end, end, format!("{}{text}", "\n".repeat(blank + 1)))
        }
        None => Edit::new(t.span(body).start + 1, t.span(body).start + 1, format!("\n{text}")),
    }
}

/// Behind the last definition of the top level: code at the end of a file may run when it is loaded as a program.
pub(crate) fn below_definitions(to: &Source, text: &str) -> Edit {
    let t = &to.tree;
    let statements = || t.children(Tree::ROOT);
    let last = statements().filter(|s| t.role(*s).is_definition()).last().or_else(|| statements().last());
    let end = crate::plan::lines::line_end(to, last.map_or(0, |l| t.span(l).end));
    let (top, _) = to.lang.blank_lines();
    let follows = statements().any(|s| last.is_some_and(|l| s > l));
    let rest = &to.text[end..];
    let blank_behind = rest.chars().take_while(|c| c.is_whitespace()).filter(|c| *c == '\n').count();
    let gap = if follows { "\n".repeat((top + 1).saturating_sub(blank_behind)) } else { String::new() };
    Edit::new(end, end, format!("{}{}{gap}", "\n".repeat(top + 1), text.trim_end_matches('\n')))
}

/// Names of the module that the new text uses and that do not mean in the home what they mean in the body's file, each with
/// a use there.
pub(crate) fn needed(
    project: &Project,
    to: &Source,
    template: &Source,
    at: NodeId,
    text: &str,
    handed: &dyn Fn(&str) -> bool,
) -> Result<Vec<(NodeId, String)>, Reason> {
    let alone = project.parse(&to.path, text.into()).map_err(|e| reason(template, at, Code::NoHome, e))?;
    let mut out: Vec<(NodeId, String)> = Vec::new();
    for r in alone.names.references.iter().filter(|r| r.target.is_none()) {
        let name = alone.str(r.node);
        // a path from a package of the language's own
        let word = |a: &NodeId| alone.str(*a).starts_with(name) && !alone.tree.role(*a).is_sequence();
        let path = alone.tree.ancestors(r.node).take_while(word).last().map_or("", |p| alone.str(p));
        let packaged = path.match_indices('.').any(|(i, _)| to.lang.is_standard_module(&path[..i]));
        if packaged && template.names.in_module(name).is_none() {
            continue;
        }
        let brought = || !to.lang.imports_for_type(to, name).is_empty() || to.lang.function_member(name).is_some();
        if out.iter().any(|(_, n)| n == name) || handed(name) || brought() {
            continue;
        }
        let own = project.entity(template, name);
        if project.origin(&own) == project.origin(&project.entity(to, name)) && !matches!(own, Entity::Unknown(..)) {
            continue;
        }
        // a file may see what it does not import
        let other = matches!(project.entity(to, name), Entity::Member(..));
        if other || to.names.in_module(name).is_some() {
            let message = format!("`{name}` is something else in {}", to.path);
            return Err(reason(template, at, Code::NoHome, message));
        }
        let Some(b) = template.names.in_module(name) else {
            let message = format!("what `{name}` is in {} can't be told", to.path);
            return Err(reason(template, at, Code::NoHome, message));
        };
        out.push((template.names.binding(b).first, name.to_string()));
    }
    out.sort_by_key(|(node, _)| *node);
    Ok(out)
}

/// The import of a name in a file that gets code from another one, and that `users` import then.
pub(crate) fn import_of(
    project: &Project,
    (to, home): (&Source, usize),
    users: &[usize],
    (template, node): (&Source, NodeId),
    name: &str,
) -> Result<String, Reason> {
    let refuse = |message: String| Err(reason(template, node, Code::NoHome, message));
    let b = template.names.in_module(name).expect("a name that is needed");
    let own_folder = project.index(&template.path).map(|f| project.facts[f].folder());
    let beside = own_folder == Some(project.facts[home].folder());
    match project.origin(&project.entity(template, name)) {
        Entity::Foreign(module, _) => {
            let standard = template.lang.is_standard_module(&module);
            let loaded = || users.iter().all(|f| project.modules().needs(*f).contains(&module));
            if !standard && !loaded() {
                return refuse(format!("{} would need `{module}`, which not all copies load", to.path));
            }
            import_alone(template, b).map_or_else(|| refuse(format!("`{name}` can't be imported alone")), Ok)
        }
        // the module as a value
        Entity::Module(file) if template.path != project.facts[file].path => {
            if is_circle(project, home, users, file) {
                return refuse(format!("{} would import {} in a circle", to.path, project.facts[file].path));
            }
            let import = template.names.binding(b).import.as_ref();
            let from_root = import.is_some_and(|i| i.level == 0 && !i.module.starts_with('.'));
            let line = import_alone(template, b).filter(|_| from_root || beside);
            line.map_or_else(|| refuse(format!("`{name}` can't be imported in {}", to.path)), Ok)
        }
        Entity::Member(file, own) if own == name && template.path != project.facts[file].path => {
            // a name space is said whole, wherever, and loads nothing
            let whole = template.names.binding(b).import.as_ref().is_some_and(|i| i.level == 0);
            let whole = whole && template.lang.shares_by_loading();
            if !whole && is_circle(project, home, users, file) {
                return refuse(format!("{} would import {} in a circle", to.path, project.facts[file].path));
            }
            let same = import_alone(template, b).filter(|_| beside || whole);
            let line = same.or_else(|| crate::plan::imports::import_text(project, to, file, name));
            line.map_or_else(|| refuse(format!("`{name}` can't be imported in {}", to.path)), Ok)
        }
        _ => refuse(format!("`{name}` is a part of {}, which {} can't import", template.path, to.path)),
    }
}

/// Whether the home would import a file that comes to import the home, or one of its users.
fn is_circle(project: &Project, home: usize, users: &[usize], file: usize) -> bool {
    let back = |f: &usize| *f == file || project.modules().reaches(file, *f);
    file == home || project.modules().reaches(file, home) || users.iter().any(back)
}

/// A new file's module as its neighbours say their packages: the folders above the root of these are none of its own.
fn below_root(project: &Project, like: &Place, module: lang::ModuleName) -> lang::ModuleName {
    let Ok(s) = project.source_at(like) else { return module };
    let (above, own) = (folders_above(&s), s.package().unwrap_or_default());
    if !module.package().starts_with(&own[..above]) {
        return module;
    }
    lang::ModuleName { parts: module.parts[above..].to_vec(), ..module }
}

/// A place is the name of a declaration that is open to all code.
fn declares_for_all(project: &Project, place: &Place) -> bool {
    let Ok(s) = project.source_at(place) else { return false };
    let span = Span::new(place.start_byte, place.end_byte);
    let declaration = s.tree.ancestor(s.tree.covering(span), &[Role::Function, Role::ClassField]);
    let named = |d: NodeId| {
        let word = crate::index::class_members::name_of(&s, d).map(|w| s.tree.span(w));
        word == Some(span)
    };
    declaration.is_some_and(|d| named(d) && crate::index::class_tree::is_open_to_all(&s, d))
}

/// A place is the name of a class.
pub(crate) fn declares_class(project: &Project, place: &Place) -> bool {
    let Ok(s) = project.source_at(place) else { return false };
    crate::index::class_members::class_named_at(&s, Span::new(place.start_byte, place.end_byte)).is_some()
}

/// A file that a request wants made.
pub fn wanted(project: &Project, into: &str, places: &[Place]) -> Option<NewFile> {
    let first = places.first()?;
    let like = project.index(&first.file).filter(|_| project.index(into).is_none())?;
    let plain = into.split('/').all(|p| !p.is_empty() && !p.starts_with('.') && !p.contains('\\'));
    let own = lang::by_name(&project.facts[like].language);
    let known = lang::for_path(into).is_some_and(|l| own.is_some_and(|o| o.family() == l.family()));
    if !plain || !known || into.chars().any(char::is_control) {
        return None;
    }
    let lang = lang::for_path(into)?;
    let new = |text: String| Some(NewFile { path: into.to_string(), text, like });
    let Some(module) = lang.module_name(into, &|path| project.exists(path)) else {
        return new(String::new());
    };
    let others = places.iter().filter_map(|p| project.modules().name(project.index(&p.file)?));
    let apart = others.into_iter().any(|m| m.package() != module.package());
    let module = below_root(project, first, module);
    let open = apart || places.iter().any(|p| declares_for_all(project, p));
    new(lang.new_file(&module, Some(open).filter(|_| !declares_class(project, first))))
}
