//! What the moved code needs around it: each of its names must mean in the new file what it meant in the old one.

use super::{Move, kept};
use crate::change::{Code, Found, Reason, reason};
use crate::index::unseen::called;
use crate::index::users::import_item;
use crate::index::words::unquoted;
use crate::index::{Entity, Project};
use crate::names::{BindingId, ImportRef, Names, Reference, Source};
use crate::plan::imports::{import_alone, import_text};
use crate::plan::mode::differs;
use crate::tree::{Field, NodeId, Role, Tree};

/// An import that the new file gets.
pub(super) struct Line {
    pub text: String,
    /// What it takes, with the name that it gets where that is another one.
    pub item: String,
    /// The name that it is for.
    pub name: String,
}

/// Imports that the new file gets, and what that assumes.
#[derive(Default)]
pub(super) struct Needed {
    pub lines: Vec<Line>,
    pub assumed: Vec<Reason>,
}

impl Needed {
    /// The lines, each with what it takes.
    pub fn items(&self) -> Vec<(String, String)> {
        self.lines.iter().map(|l| (l.text.clone(), l.item.clone())).collect()
    }
}

pub(super) fn find(m: &Move) -> Found<Needed> {
    let (s, t) = (&m.from, &m.from.tree);
    let mut out = Needed::default();
    for d in &m.moved.all {
        for (b, name) in &d.names {
            is_free(m, *b, name)?;
        }
        does_the_same(m, d.statement)?;
    }
    let mut seen: Vec<&str> = Vec::new();
    for r in s.names.references.iter().filter(|r| m.moved.holds(s, r.node)) {
        let of_module = r.target.is_none_or(|b| s.names.binding(b).scope == Names::MODULE);
        if !of_module || r.target.is_some_and(|b| m.moved.has(b)) {
            continue;
        }
        let name = s.str(r.node);
        if r.usage.writes() {
            let message = format!("`{name}` is a variable of this file and is written here");
            return Err(vec![reason(s, r.node, Code::RebindsOuter, message)]);
        }
        if !seen.contains(&name) {
            seen.push(name);
            of_name(m, r.node, r.target, name, &mut out)?;
        }
    }
    for d in &m.moved.all {
        for n in
            t.subtree(d.statement).filter(|n| t.role(*n) == Role::Literal && t.ancestor(*n, &[Role::Type]).is_some())
        {
            in_type(m, n, &mut out)?;
        }
    }
    // as they stand in the old file
    out.lines.sort_by_key(|l| s.names.in_module(&l.name).map(|b| s.names.binding(b).first));
    Ok(out)
}

/// The code does there what it does here, as far as that hangs on its file: names that it sees, what it loads, the mode.
fn does_the_same(m: &Move, statement: NodeId) -> Found<()> {
    let (s, t) = (&m.from, &m.from.tree);
    let sees = |n: &NodeId| called(s, *n).is_some_and(|(word, _)| s.lang.reads_module_names().contains(&word));
    if let Some(n) = t.subtree(statement).find(sees) {
        return Err(vec![reason(s, n, Code::Reflection, "this looks at the names around it, which are others there")]);
    }
    let own = |n: &NodeId| t.role(*n) == Role::FrameName && s.lang.is_module_own(s.str(*n));
    if let Some(n) = t.subtree(statement).find(own) {
        let message = format!("`{}` means something else in {}", s.str(n), m.to.path);
        return Err(vec![reason(s, n, Code::NoHome, message)]);
    }
    if let Some(n) = t.subtree(statement).find(|n| !loads_the_same(m, *n)) {
        let message = format!("what this loads is something else from {}", m.to.path);
        return Err(vec![reason(s, n, Code::NoHome, message)]);
    }
    if is_new(m) {
        return Ok(());
    }
    if s.lang.is_read_otherwise(s, &m.to) {
        return Err(vec![reason(s, statement, Code::Mode, "the new file is read in another mode than the old one")]);
    }
    let modes = [s.lang.mode(s, Tree::ROOT), m.to.lang.mode(&m.to, Tree::ROOT)];
    if modes[0] == modes[1] {
        return Ok(());
    }
    if let Some(n) = differs(s, statement, t.end(statement), (&m.to, Tree::ROOT)) {
        return Err(vec![reason(s, n, Code::Mode, "the new file is read in another mode, in which this may fail")]);
    }
    Ok(())
}

/// Nothing stands in the new file yet.
fn is_new(m: &Move) -> bool {
    m.to.tree.children(Tree::ROOT).next().is_none()
}

/// An import inside the moved code, or a call that loads, means the same file from both places.
fn loads_the_same(m: &Move, n: NodeId) -> bool {
    let (s, t) = (&m.from, &m.from.tree);
    let folder = |path: &str| path.rsplit_once('/').map_or("", |p| p.0).to_string();
    if folder(&s.path) == folder(&m.to.path) {
        return true;
    }
    let same = |i: &ImportRef| {
        let (a, b) = (m.project.resolved(s, i), m.project.resolved(&m.to, i));
        a == b && (!a.is_empty() || i.level == 0 && !i.module.starts_with('.'))
    };
    match t.role(n) {
        Role::Import | Role::ImportFrom => s.lang.imports_of(t, n, &s.text).iter().all(same),
        Role::Call => {
            let loads = called(s, n).filter(|(word, _)| s.lang.loading_words().contains(word));
            let text = loads.and_then(|(_, all)| all.first().copied()).filter(|a| t.role(*a) == Role::Literal);
            text.is_none_or(|x| same(&s.lang.import_of_text(unquoted(s, x))))
        }
        _ => true,
    }
}

/// Names in a type that is written as a text.
fn in_type(m: &Move, n: NodeId, out: &mut Needed) -> Found<()> {
    let s = &m.from;
    let text = unquoted(s, n);
    let words = text.split(|c: char| !c.is_alphanumeric() && c != '_').filter(|w| !w.is_empty());
    for word in words {
        let target = s.names.in_module(word).filter(|b| !m.moved.has(*b));
        if target.is_some() && !out.lines.iter().any(|l| l.name == word) {
            of_name(m, n, target, word, out)?;
        }
    }
    Ok(())
}

/// The name means nothing in the new file yet, or what it means is imported from the old one.
fn is_free(m: &Move, own: BindingId, name: &str) -> Found<()> {
    let to = &m.to;
    let taken = |n: NodeId, why: String| Err(vec![reason(to, n, Code::NameTaken, why)]);
    if let Some(b) = to.names.in_module(name) {
        let binding = to.names.binding(b);
        let same = m.project.origin(&m.project.entity(to, name)) == Entity::Member(m.home, name.to_string());
        let import = binding.import.as_ref().is_some_and(|i| i.member.as_deref() == Some(name));
        if !(same && import && binding.writes == 1) {
            return taken(binding.first, format!("`{name}` is something else in {}", to.path));
        }
        return Ok(());
    }
    let free = to.names.references.iter().find(|r| r.target.is_none() && to.str(r.node) == name);
    if let Some(r) = free {
        return taken(r.node, format!("`{name}` is something else here, which the moved one would hide"));
    }
    let special = name.starts_with('_') && m.from.lang.is_special_member(name);
    if special || m.from.lang.is_module_own(name) || m.from.lang.public_list() == Some(name) {
        let first = m.from.names.binding(own).first;
        let message = format!("`{name}` has a meaning for its file");
        return Err(vec![reason(&m.from, first, Code::ForeignName, message)]);
    }
    Ok(())
}

/// One name: it is there already, or how it is imported.
fn of_name(m: &Move, node: NodeId, target: Option<BindingId>, name: &str, out: &mut Needed) -> Found<()> {
    let (project, s, to) = (m.project, &m.from, &m.to);
    let refuse = |code: Code, message: String| Err(vec![reason(s, node, code, message)]);
    if target.is_none() && only_loads(m, name) {
        return Ok(());
    }
    if s.lang.is_module_own(name) {
        return refuse(Code::NoHome, format!("`{name}` means something else in {}", to.path));
    }
    let own = project.entity(s, name);
    let there = project.entity(to, name);
    if project.origin(&own) == project.origin(&there) && !matches!(own, Entity::Unknown(..)) {
        return Ok(());
    }
    if to.names.in_module(name).is_some() {
        return match same_for_its_file(m, target, name) {
            Some(r) => {
                out.assumed.push(r);
                Ok(())
            }
            None => refuse(Code::NoHome, format!("`{name}` is something else in {}", to.path)),
        };
    }
    // the new file's own code would find another one than before
    if to.names.references.iter().any(|r| r.target.is_none() && to.str(r.node) == name) {
        return refuse(Code::NoHome, format!("`{name}` is something else in {}", to.path));
    }
    let Some(b) = target else {
        return refuse(Code::NoHome, format!("what `{name}` is in {} can't be told", to.path));
    };
    let line = import_of(project, s, &m.style, b, name);
    match project.origin(&own) {
        Entity::Member(f, _) if f == m.home => {
            let binding = s.names.binding(b);
            if binding.writes != 1 || binding.rebound_inside {
                let message = format!("`{name}` is given a value in more than one place; an import has only the first");
                return refuse(Code::RebindsOuter, message);
            }
            let Some(line) = import_text(project, &m.style, m.home, name).filter(|_| kept::is_given(s, b)) else {
                let message = format!("`{name}` is a part of {}, which {} can't import; move it too", s.path, to.path);
                return refuse(Code::NoHome, message);
            };
            out.lines.push(Line { text: line, item: item_of(s, b, name), name: name.to_string() });
            Ok(())
        }
        _ => match line {
            Some(line) => {
                out.lines.push(Line { text: line, item: item_of(s, b, name), name: name.to_string() });
                Ok(())
            }
            None => refuse(Code::NoHome, format!("`{name}` can't be imported in {}", to.path)),
        },
    }
}

/// How a list of imports takes a name.
fn item_of(s: &Source, b: BindingId, name: &str) -> String {
    let own = s.names.binding(b).import.as_ref().and_then(|i| i.member.as_deref());
    let item = import_item(s, b).map(|(_, item, _)| s.str(item).to_string()).filter(|_| own.is_some_and(|m| m != name));
    item.unwrap_or(name.to_string())
}

/// The moved code uses a name for nothing but to load files by texts; that they are the same is seen for each call.
fn only_loads(m: &Move, name: &str) -> bool {
    let s = &m.from;
    let loads = |r: &Reference| {
        let callee = s.tree.field(r.node) == Field::Callee;
        let call = s.tree.parent(r.node).filter(|c| callee && s.tree.role(*c) == Role::Call);
        let first = call.and_then(|c| called(s, c)).and_then(|(_, all)| all.first().copied());
        first.is_some_and(|a| s.tree.role(a) == Role::Literal)
    };
    let mut own = s.names.references.iter().filter(|r| s.str(r.node) == name && m.moved.holds(s, r.node));
    s.lang.loading_words().contains(&name) && own.all(loads)
}

/// Both files define the name by the same words, of which one means its own file: the name of a log.
fn same_for_its_file(m: &Move, target: Option<BindingId>, name: &str) -> Option<Reason> {
    let value = |s: &Source, b: BindingId| {
        let binding = s.names.binding(b);
        let around = s.tree.parent(binding.first).filter(|_| binding.writes == 1 && binding.import.is_none())?;
        let text = s.str(s.tree.child(around, Field::Right)?).to_string();
        let own = s.tree.subtree(around).filter(|n| s.tree.is_leaf(*n)).any(|n| s.lang.is_module_own(s.str(n)));
        own.then_some((text, binding.first))
    };
    let (own, there) = (value(&m.from, target?)?, value(&m.to, m.to.names.in_module(name)?)?);
    let message = format!("nothing depends on the moved code using `{name}` of {}", m.to.path);
    (own.0 == there.0).then(|| reason(&m.to, there.1, Code::ShownName, message))
}

/// The line that imports in another file what a name of a file stands for.
fn import_of(project: &Project, s: &Source, to: &Source, b: BindingId, name: &str) -> Option<String> {
    let folder = |path: &str| path.rsplit_once('/').map_or("", |p| p.0).to_string();
    let beside = folder(&s.path) == folder(&to.path);
    let import = s.names.binding(b).import.as_ref()?;
    let from_root = import.level == 0 && !import.module.starts_with('.');
    let same = import_alone(s, b).filter(|_| beside || from_root);
    match project.origin(&project.entity(s, name)) {
        Entity::Member(file, own) => {
            let of_itself = project.index(&to.path) == Some(file);
            let item = import_item(s, b).map(|(_, item, _)| s.str(item)).filter(|x| !x.contains('\n'));
            let item = if own == name { Some(name) } else { item };
            let spelled = || import_text(project, to, file, item?);
            if of_itself { None } else { same.or_else(spelled) }
        }
        Entity::Module(file) if project.index(&to.path) == Some(file) => None,
        Entity::Module(_) | Entity::Foreign(..) => same,
        _ => None,
    }
}
