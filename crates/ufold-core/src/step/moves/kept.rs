//! Names that can still be had from the old file: those that it uses itself, and those that somebody may get from it whom
//! no import statement shows.

use std::sync::Arc;

use super::Move;
use super::definitions::Definition;
use super::importers::User;
use super::through::Through;
use crate::change::{Code, Found, Reason, reason};
use crate::find::paths::{is_prose, is_test};
use crate::index::users::{by_unknown_path, is_listed, may_load, named_by_text, others};
use crate::index::words::{has_whole_word, stem_of, unquoted};
use crate::index::{Project, unseen};
use crate::names::{BindingId, Source};
use crate::tree::{Field, NodeId, Role, Tree};

/// How the old file has a name afterwards.
pub(super) struct Name {
    pub name: String,
    /// It uses it itself.
    pub used: bool,
    /// Others may get it from there.
    pub passed: bool,
    /// Entries of the lists of what it exports.
    pub listed: Vec<NodeId>,
    /// Its definition stands for a type alone.
    pub is_type: bool,
}

impl Name {
    pub fn stays(&self) -> bool {
        self.used || self.passed
    }
}

#[derive(Default)]
pub(super) struct Kept {
    pub names: Vec<Name>,
    pub assumed: Vec<Reason>,
    pub remarks: Vec<String>,
}

/// Imports that follow, and files that name what moved through the old one.
type Followed<'a> = (&'a [User], &'a [(usize, Arc<Source>, Through)]);

/// More of a kind are not told.
const MOST_TOLD: usize = 4;

pub(super) fn find(m: &Move, users: Followed, no_stay: bool) -> Found<Kept> {
    let mut out = Kept::default();
    let mut told: Vec<(String, Vec<String>)> = Vec::new();
    for d in &m.moved.all {
        for (b, name) in &d.names {
            let is_type = is_type(&m.from, d);
            out.assumed.extend(shown(m, d, name));
            if let Some(known) = out.names.iter_mut().find(|n| n.name == *name) {
                // a type and a value of one name
                known.is_type &= is_type;
                continue;
            }
            if let Some(r) = unseen::unparsed(m.project, name) {
                return Err(vec![r]);
            }
            let (used, listed) = own_uses(m, *b, name);
            let hidden = d.along && m.from.lang.is_private(name);
            let seen = is_given(&m.from, *b) || !listed.is_empty();
            let passed = if hidden || !seen { None } else { passed(m, users, name) };
            let must = passed.as_ref().filter(|p| !p.1);
            if let Some((r, _)) = must.filter(|_| no_stay) {
                return Err(vec![Reason { code: Code::UsedElsewhere, ..r.clone() }]);
            }
            let passed = passed.filter(|p| !(no_stay && p.1));
            if let Some((why, open)) = &passed {
                let at = if *open { String::new() } else { format!(" ({}:{})", why.file, why.line) };
                let hint = if *open { "; --no-stay leaves that out" } else { "" };
                let why = format!("{}{at}{hint}", why.message);
                match told.iter_mut().find(|(w, _)| *w == why) {
                    Some((_, names)) => names.push(format!("`{name}`")),
                    None => told.push((why, vec![format!("`{name}`")])),
                }
            }
            out.assumed.extend(put_in_place(m, name));
            if unseen::is_collected(&m.from.path, name) && !unseen::is_collected(&m.to.path, name) {
                let message = format!("no test runner looks for `{name}` by its name here");
                out.assumed.push(reason(&m.from, d.statement, Code::LookedUp, message));
            }
            let lists = unseen::lookups(m.project, name, unseen::Within::File(&m.to.path));
            out.assumed.extend(lists);
            out.names.push(Name { name: name.clone(), used, passed: passed.is_some(), listed, is_type });
        }
    }
    let remark = |(why, names): (String, Vec<String>)| format!("{} still has {}: {why}", m.from.path, listed(&names));
    out.remarks.extend(told.into_iter().map(remark));
    // what is done when it is defined is done as long as the old file loads the new one
    let acts = m.moved.all.iter().flat_map(|d| crate::index::loading::acts(m.project, &m.from, d.statement)).next();
    if let Some(n) = acts.filter(|_| !out.names.iter().any(Name::stays)) {
        if no_stay {
            let message = "this does something when its file is loaded, which nothing would load then";
            return Err(vec![reason(&m.from, n, Code::UsedElsewhere, message)]);
        }
        out.names.iter_mut().take(1).for_each(|n| n.passed = true);
        out.remarks.push(format!("{} still loads {}, for what that does", m.from.path, m.to.path));
    }
    let mut seen: Vec<Reason> = Vec::new();
    out.assumed.retain(|r| {
        !seen.contains(r) && {
            seen.push(r.clone());
            true
        }
    });
    Ok(out)
}

/// The first of some names, and how many more there are.
fn listed(names: &[String]) -> String {
    match names.len().saturating_sub(MOST_TOLD) {
        0 => names.join(", "),
        more => format!("{} and {more} more", names[..MOST_TOLD].join(", ")),
    }
}

fn is_type(s: &Source, d: &Definition) -> bool {
    s.tree.role(s.tree.definition_in(d.statement)) == Role::TypeAlias
}

/// Whether the rest of the old file uses a name, and where it only lists it among its exports.
fn own_uses(m: &Move, b: BindingId, name: &str) -> (bool, Vec<NodeId>) {
    let (s, t) = (&m.from, &m.from.tree);
    let rest = s.names.references_to(b).map(|r| r.node).filter(|n| !m.moved.holds(s, *n));
    let (mut used, mut listed) = (false, Vec::new());
    for n in rest {
        match export_entry(s, n) {
            Some(entry) => listed.push(entry),
            None => used = true,
        }
    }
    listed.extend(named_by_text(s, name).filter(|n| is_listed(s, *n)));
    // what a file exports as an object may be asked by its own code
    let of_object = listed.iter().any(|n| matches!(t.role(*n), Role::Pair | Role::ExprStmt));
    let asks = |n: &NodeId| {
        let entry = || listed.iter().any(|e| t.contains(*e, *n));
        t.role(*n) == Role::MemberName && s.str(*n) == name && !m.moved.holds(s, *n) && !entry()
    };
    used |= of_object && t.ids().any(|n| asks(&n));
    // words that no binding tells
    let loose = t.ids().filter(|n| t.role(*n) == Role::Name && s.str(*n) == name && s.names.at(*n).is_none());
    used |=
        loose.into_iter().any(|n| !m.moved.holds(s, n) && t.ancestor(n, &[Role::Import, Role::ImportFrom]).is_none());
    (used, listed)
}

/// The entry of an export list that a name stands in: `export { a }`, `module.exports = { a }`, `exports.a = a`.
fn export_entry(s: &Source, n: NodeId) -> Option<NodeId> {
    let t = &s.tree;
    let parent = t.parent(n)?;
    let top = |n: NodeId| t.parent(n) == Some(Tree::ROOT);
    if t.role(parent) == Role::ImportAlias {
        let statement = t.ancestor(n, &[Role::Decorated])?;
        return (top(statement) && t.child(parent, Field::Alias).is_none()).then_some(parent);
    }
    let exports = |assign: NodeId| t.child(assign, Field::Left).is_some_and(|l| s.lang.is_exports(s, s.str(l)));
    if t.role(parent) == Role::Pair && t.field(n) == Field::Value {
        let assign = t.parent(parent).and_then(|d| t.parent(d)).filter(|a| t.role(*a) == Role::Assign)?;
        let same = t.child(parent, Field::Key).is_some_and(|k| s.str(k) == s.str(n));
        let plain =
            |p: NodeId| t.role(p) == Role::Pair && t.child(p, Field::Value).is_some_and(|v| t.role(v) == Role::Name);
        let dict = t.parent(parent)?;
        let all = t.children(dict).filter(|c| t.role(*c) != Role::Token).all(plain);
        return (exports(assign) && same && all).then_some(parent);
    }
    let member =
        t.child(parent, Field::Left).filter(|_| t.role(parent) == Role::Assign && t.field(n) == Field::Right)?;
    let object = t.child(member, Field::Object).is_some_and(|o| s.lang.is_exports(s, s.str(o)));
    let same = t.child(member, Field::Member).is_some_and(|k| s.str(k) == s.str(n));
    let statement = t.parent(parent).filter(|x| top(*x))?;
    (object && same).then_some(statement)
}

/// Others can take it from its file by its name.
pub(super) fn is_given(s: &Source, b: BindingId) -> bool {
    s.lang.exports_by_name(s, b) || s.names.references_to(b).any(|r| export_entry(s, r.node).is_some())
}

/// Who may get a name from the old file, and whether that is only somebody outside the project.
fn passed(m: &Move, users: Followed, name: &str) -> Option<(Reason, bool)> {
    let (project, s) = (m.project, &m.from);
    let at = |n: NodeId, message: &str| reason(s, n, Code::OutsideUsers, message);
    let told = |r: Reason| (Reason { message: "it may be looked up there".into(), ..r }, false);
    if let Some(r) = unseen::lookups(project, name, unseen::Within::File(&s.path)).into_iter().next() {
        return Some(told(r));
    }
    if let Some((other, n)) = unseen::handed_on(project, m.home).into_iter().next() {
        let why = "the file is handed on as a value, or loaded by its name";
        return Some((reason(&other, n, Code::OutsideUsers, why), false));
    }
    if let Some((other, n)) = by_unknown_path(project, s, name) {
        let why = "this import may be of the file by another path";
        return Some((reason(&other, n, Code::OutsideUsers, why), false));
    }
    if let Some((other, n)) = in_another_way(m, users, name) {
        let why = "it is named through the file here, or in a way that can't be told";
        return Some((reason(&other, n, Code::OutsideUsers, why), false));
    }
    if let Some((other, n)) = named_in_text(m, name).into_iter().next() {
        return Some((reason(&other, n, Code::OutsideUsers, "a text names it, or its file"), false));
    }
    if let Some(r) = unseen::elsewhere(project, name, s).into_iter().next() {
        return Some((Reason { message: "a file that is not read as code has the word".into(), ..r }, false));
    }
    let open = s.module.as_ref().is_some_and(|x| s.lang.is_open_module(x)) || is_told_of(project, s);
    let public = open && !s.lang.is_private(name) && !is_test(&s.path);
    public.then(|| (at(Tree::ROOT, "others may import the public names of a package"), true))
}

/// Settings speak of the file.
fn is_told_of(project: &Project, s: &Source) -> bool {
    let name = s.path.rsplit('/').next().unwrap_or(&s.path).to_string();
    project.mentions(&name, std::slice::from_ref(&name)).iter().any(|x| !is_prose(&x.file))
}

/// A use by another file that is no import which follows.
fn in_another_way(m: &Move, (users, through): Followed, name: &str) -> Option<(Arc<Source>, NodeId)> {
    let project = m.project;
    let all = |f: usize| {
        let s = project.source(f).ok()?;
        let t = &s.tree;
        // its table of names
        let table = |n: &NodeId| {
            let object =
                t.parent(*n).filter(|_| t.role(*n) == Role::MemberName && s.lang.lookup_words().contains(&s.str(*n)));
            let object = object.and_then(|p| t.child(p, Field::Object));
            object.is_some_and(|o| project.may_be_file(&s, o, m.home))
        };
        // by a key, or in a pattern that is no plain list of names
        let by_key = |n: &NodeId| {
            let object = t.child(*n, Field::Object).or_else(|| t.children(*n).next());
            t.role(*n) == Role::Index && object.is_some_and(|o| project.may_be_file(&s, o, m.home))
        };
        let own = users.iter().find(|u| u.file == f);
        let in_pattern = |n: &NodeId| {
            let follows =
                || own.is_some_and(|u| u.statements.iter().any(|x| x.items.iter().any(|i| t.contains(i.0, *n))));
            t.is_leaf(*n) && s.str(*n) == name && takes_apart(m, &s, *n) && !follows()
        };
        if let Some(n) = t.ids().find(|n| table(n) || by_key(n) || in_pattern(n)) {
            return Some((s.clone(), n));
        }
        let wild = s.names.wildcard && project.imports(f, m.home);
        let passes =
            s.lang.passed_on(&s).iter().any(|p| p.name.is_none() && project.resolved(&s, &p.import).contains(&m.home));
        (wild || passes).then(|| {
            let first = t.children(Tree::ROOT).find(|n| matches!(t.role(*n), Role::Import | Role::ImportFrom));
            let first = first.unwrap_or(Tree::ROOT);
            (s.clone(), first)
        })
    };
    if let Some(found) = (0..project.facts.len()).filter(|f| *f != m.home && project.imports(*f, m.home)).find_map(all)
    {
        return Some(found);
    }
    others(project, m.home, name).into_iter().find_map(|o| {
        let (s, t) = (&o.source, &o.source.tree);
        let own = users.iter().find(|u| u.file == o.file);
        let named = through.iter().find(|x| x.0 == o.file);
        let follows = |n: NodeId| {
            if named.is_some_and(|x| x.2.words.contains(&n)) {
                return true;
            }
            let imported = |n: NodeId| own.is_some_and(|u| u.statements.iter().any(|x| t.contains(x.statement, n)));
            let target = s.names.at(n).and_then(|r| r.target).map(|b| s.names.binding(b).first);
            imported(n) || target.is_some_and(imported)
        };
        let stray = o.strays(project, m.home, name).find(|n| !follows(*n) && !is_of_other(project, s, *n, m.home));
        stray.map(|n| (s.clone(), n))
    })
}

/// A word in a pattern that takes apart what a call loads, which is the old file.
fn takes_apart(m: &Move, s: &Source, n: NodeId) -> bool {
    let t = &s.tree;
    let assign = t.ancestor(n, &[Role::Assign]).filter(|a| t.child(*a, Field::Left).is_some_and(|l| t.contains(l, n)));
    let call = assign.and_then(|a| t.child(a, Field::Right)).and_then(|r| {
        t.subtree(r).find(|c| unseen::called(s, *c).is_some_and(|(word, _)| s.lang.loading_words().contains(&word)))
    });
    let text = call.and_then(|c| unseen::called(s, c)).and_then(|(_, all)| all.first().copied());
    text.is_some_and(|x| m.project.resolved(s, &s.lang.import_of_text(unquoted(s, x))).contains(&m.home))
}

/// A member of what is surely no module, or of another one; an import from another file, which passes on what it imports
/// itself.
fn is_of_other(project: &Project, s: &Source, n: NodeId, home: usize) -> bool {
    let t = &s.tree;
    if let Some(statement) = t.ancestor(n, &[Role::ImportFrom]) {
        let files: Vec<usize> =
            s.lang.imports_of(t, statement, &s.text).iter().flat_map(|i| project.resolved(s, i)).collect();
        return !files.contains(&home);
    }
    let import = s.names.at(n).and_then(|r| r.target).and_then(|b| s.names.binding(b).import.clone());
    if let Some(i) = import.filter(|_| t.role(n) == Role::Name) {
        return !project.resolved(s, &i).contains(&home);
    }
    let object = t.parent(n).filter(|_| t.role(n) == Role::MemberName).and_then(|p| t.child(p, Field::Object));
    let Some(object) = object else { return t.role(n) == Role::MemberName };
    let root = std::iter::successors(Some(object), |o| t.child(*o, Field::Object)).last().unwrap_or(object);
    let target = s.names.at(root).and_then(|r| r.target).map(|b| s.names.binding(b));
    match project.meant(s, object) {
        _ if project.may_be_file(s, object, home) => false,
        Some(_) => true,
        // no module that is imported: a module that is handed on is looked for elsewhere
        None if may_load(project, s, object, home) => false,
        None => t.role(root) != Role::Name || target.is_none_or(|b| b.import.is_none()),
    }
}

/// Texts and assignments by which another thing is put in the place of the name in the old file: what was moved, and those
/// who import it from the new one, would not see it.
fn put_in_place(m: &Move, name: &str) -> Vec<Reason> {
    let (project, mut out) = (m.project, Vec::new());
    let module = project.modules().name(m.home).map(|x| x.parts.join("."));
    let full = module.map(|x| format!("{x}.{name}"));
    let both = named_in_text(m, name);
    let stem = stem_of(&m.from.path);
    let message =
        || format!("nothing is put in the place of `{name}` here that the moved code, or who imports it, should see");
    for (f, s) in unseen::anywhere(project, name) {
        let t = &s.tree;
        let near = f == m.home || project.imports(f, m.home) || project.modules().reaches(f, m.home);
        let meant = |n: &NodeId| match t.role(*n) {
            _ if f == m.home && m.moved.holds(&s, *n) => false,
            Role::Literal if t.ancestor(*n, &[Role::Import, Role::ImportFrom]).is_none() && !is_listed(&s, *n) => {
                let text = unquoted(&s, *n);
                let argument = t.parent(*n).is_some_and(|p| t.role(p) == Role::Arguments);
                both.iter().any(|(o, b)| o.path == s.path && b == n)
                    || Some(text) == full.as_deref()
                    || text.ends_with(&format!("{stem}.{name}"))
                    || near && argument && text == name
            }
            Role::MemberName => {
                let member = t.parent(*n).filter(|p| near && s.str(*n) == name && t.field(*p) == Field::Left);
                let object = member.and_then(|p| t.child(p, Field::Object));
                object.is_some_and(|o| project.may_be_file(&s, o, m.home))
            }
            _ => false,
        };
        out.extend(t.ids().filter(meant).map(|n| reason(&s, n, Code::NamedByString, message())));
    }
    out.extend(stand_ins(m));
    out.truncate(MOST_TOLD);
    out
}

/// Texts that name the file beside the name, by which code may get at it: paths, code that is run, keys of loaded files.
fn named_in_text(m: &Move, name: &str) -> Vec<(Arc<Source>, NodeId)> {
    let (project, stem) = (m.project, stem_of(&m.from.path));
    let path = project.modules().name(m.home).map_or(String::new(), |x| x.parts.join("."));
    let mut out = Vec::new();
    for (_, s) in unseen::anywhere(project, name) {
        let t = &s.tree;
        let named = |n: &NodeId| {
            let is_text = matches!(t.role(*n), Role::Literal | Role::TemplateText | Role::Doc);
            if !is_text
                || t.ancestor(*n, &[Role::Import, Role::ImportFrom]).is_some()
                || m.moved.holds(&s, *n) && s.path == m.from.path
            {
                return false;
            }
            let text = unquoted(&s, *n);
            let runs = t.role(*n) != Role::Doc || text.contains(">>>");
            let both = has_whole_word(text, name) && has_whole_word(text, stem) && runs;
            // where no import says it
            let whole = text == path && t.role(*n) == Role::Literal && !s.lang.members_are_keys();
            both || whole
        };
        out.extend(t.ids().filter(named).map(|n| (s.clone(), n)));
    }
    out
}

/// Calls that are given the old file's path, and load nothing by it: they put another module in its place.
fn stand_ins(m: &Move) -> Vec<Reason> {
    let (project, s) = (m.project, &m.from);
    let stem = stem_of(&s.path);
    let mut out = Vec::new();
    for (_, other) in unseen::with_word(project, stem, s.lang) {
        let t = &other.tree;
        let names = |n: &NodeId| {
            if t.role(*n) != Role::Literal || !other.str(*n).contains(stem) {
                return false;
            }
            let call = t.parent(*n).filter(|a| t.role(*a) == Role::Arguments).and_then(|a| t.parent(a));
            let loads = call.is_some_and(|c| {
                unseen::called(&other, c).is_some_and(|(word, _)| other.lang.loading_words().contains(&word))
            });
            let import = other.lang.import_of_text(unquoted(&other, *n));
            call.is_some() && !loads && project.resolved(&other, &import).contains(&m.home)
        };
        let message = format!("what stands in for {} here need not have what was moved", s.path);
        out.extend(t.ids().filter(names).map(|n| reason(&other, n, Code::NamedByString, message.clone())));
    }
    out
}

/// Code that sees in which module a function or class was defined, or writes it out.
fn shown(m: &Move, d: &Definition, name: &str) -> Option<Reason> {
    let (s, t) = (&m.from, &m.from.tree);
    let inner =
        std::iter::successors(Some(d.statement), |n| t.child(*n, Field::Definition)).last().unwrap_or(d.statement);
    // a call may make a class
    let makes = || t.subtree(inner).any(|n| t.role(n) == Role::Call);
    let named = matches!(t.role(inner), Role::Function | Role::Class) || t.role(inner) != Role::TypeAlias && makes();
    if !named || s.lang.module_showing_words().is_empty() {
        return None;
    }
    let message = format!("nothing depends on the module in which `{name}` is defined");
    let says = |n: &NodeId| t.is_leaf(*n) && s.lang.place_showing_words().contains(&s.str(*n));
    if let Some(n) = t.subtree(d.statement).find(says) {
        return Some(reason(s, n, Code::ShownName, "nothing depends on the file that this names"));
    }
    let by_word = s.lang.module_showing_words().iter().find_map(|w| {
        let (_, other) = unseen::with_word(m.project, w, s.lang).next()?;
        let n = other.tree.ids().find(|n| other.tree.is_leaf(*n) && other.str(*n) == *w)?;
        Some(reason(&other, n, Code::ShownName, message.clone()))
    });
    by_word.or_else(|| {
        unseen::with_word(m.project, name, s.lang).find_map(|(_, other)| {
            let n = other.tree.ids().find(|n| crate::plan::inner::is_written_out(&other, *n, name))?;
            Some(reason(&other, n, Code::ShownName, message.clone()))
        })
    })
}
