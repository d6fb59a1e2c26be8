//! Uses of the moved names through their file as a whole: `fees.net(…)` becomes `rates.net(…)`, and the new file is
//! imported as the old one was.
//!
//! Only where the import can be written in the same way, and its name is no word of the file yet; other uses go on
//! through the old file.

use super::Move;
use super::importers::{User, module_of};
use crate::index::Entity;
use crate::index::words::has_whole_word;
use crate::names::{BindingId, Names, Source};
use crate::plan::imports::import_text;
use crate::plan::lines::line_end;
use crate::plan::unneeded::statement_of;
use crate::text::Edit;
use crate::tree::{Field, NodeId, Role};

/// What a file names through the old one, and how it is written then.
pub(super) struct Through {
    /// The words of the names.
    pub words: Vec<NodeId>,
    pub edits: Vec<Edit>,
}

/// Of a file that imports some module as a whole.
pub(super) fn find(m: &Move, s: &Source) -> Option<Through> {
    let t = &s.tree;
    let object = |n: NodeId| {
        let member = t.parent(n).filter(|p| t.role(*p) == Role::Member && t.field(n) == Field::Member)?;
        let written = t.field(member) == Field::Left && t.parent(member).is_some_and(|a| t.role(a).assigns());
        let deleted = t.parent(member).is_some_and(|d| t.role(d) == Role::Delete);
        t.child(member, Field::Object).filter(|_| !written && !deleted)
    };
    let named = |n: &NodeId| t.role(*n) == Role::MemberName && m.names().any(|x| x == s.str(*n));
    let means = |o: NodeId| m.project.meant(s, o) == Some(Entity::Module(m.home)) || path_of(m, s, o);
    let all: Vec<(NodeId, NodeId)> =
        t.ids().filter(named).filter_map(|n| Some((n, object(n)?))).filter(|(_, o)| means(*o)).collect();
    let first = all.first()?.1;
    // another one is put in its place
    let put = |n: NodeId| {
        let member = t.parent(n).filter(|p| t.role(*p) == Role::Member);
        member.is_some_and(|p| t.field(p) == Field::Left || t.parent(p).is_some_and(|d| t.role(d) == Role::Delete))
    };
    if t.ids().any(|n| named(&n) && put(n)) {
        return None;
    }
    // one way of naming the file
    let binding = root_of(s, first)?;
    if !all.iter().all(|(_, o)| root_of(s, *o) == Some(binding) && s.str(*o) == s.str(first)) {
        return None;
    }
    let (name, mut edits) = match known_as(m, s) {
        Some(name) => (name, Vec::new()),
        None => imported_as(m, s, binding, first, all.len())?,
    };
    edits.extend(all.iter().map(|(_, o)| Edit::new(t.span(*o).start, t.span(*o).end, name.as_str())));
    Some(Through { words: all.into_iter().map(|(n, _)| n).collect(), edits })
}

/// A path of packages that ends at the old file.
fn path_of(m: &Move, s: &Source, object: NodeId) -> bool {
    let module = s.str(object).to_string();
    let imported = root_of(s, object).is_some_and(|b| s.names.binding(b).import.is_some());
    let import = crate::names::ImportRef { level: 0, module, member: None, wildcard: false };
    imported && s.str(object).contains('.') && m.project.resolved(s, &import).first() == Some(&m.home)
}

/// The import that an object begins with.
fn root_of(s: &Source, object: NodeId) -> Option<BindingId> {
    let t = &s.tree;
    let root = std::iter::successors(Some(object), |o| t.child(*o, Field::Object)).last()?;
    let b = s.names.at(root)?.target?;
    let binding = s.names.binding(b);
    (binding.scope == Names::MODULE && binding.import.is_some() && binding.writes == 1).then_some(b)
}

/// The name by which a file has the new one as a whole already.
fn known_as(m: &Move, s: &Source) -> Option<String> {
    let has = |b: &BindingId| {
        let binding = s.names.binding(*b);
        let whole = binding.import.is_some() && statement_of(s, *b).is_some();
        whole && m.project.entity(s, &binding.name) == Entity::Module(m.target)
    };
    s.names.bindings_of(Names::MODULE).find(has).map(|b| s.names.binding(b).name.clone())
}

/// The name under which a file gets the new one, and the edit that imports it as it imports the old one.
fn imported_as(m: &Move, s: &Source, b: BindingId, object: NodeId, uses: usize) -> Option<(String, Vec<Edit>)> {
    let t = &s.tree;
    let statement = statement_of(s, b)?;
    let import = s.names.binding(b).import.as_ref()?;
    let fits = |name: &str| s.lang.is_identifier(name) && !has_whole_word(&s.text, name);
    if import.member.is_some() {
        let (name, leaf) = of_package(m, s, statement, b).filter(|(name, _)| fits(name) && t.is_leaf(object))?;
        let span = t.span(leaf);
        let edit = match is_alone(s, b, uses) {
            true => Edit::new(span.start, span.end, name.as_str()),
            false => Edit::new(span.end, span.end, format!(", {name}")),
        };
        return Some((name, vec![edit]));
    }
    if s.lang.imports_of(t, statement, &s.text).len() != 1 || s.str(statement).contains('\n') {
        return None;
    }
    let by_path = s.lang.package_file().is_some();
    let (name, line) = if by_path { by_its_path(m, s, statement, b)? } else { by_its_file(m, s, statement, b)? };
    let is_path = name.contains('.');
    let text = s.str(object);
    if !is_path && !fits(&name) || is_path && name.split('.').next() != Some(&s.names.binding(b).name) {
        return None;
    }
    let in_import = usize::from(s.str(statement).contains(text));
    let alone = match is_path {
        true => crate::index::whole_words(&s.text, text).count() == uses + in_import,
        false => is_alone(s, b, uses),
    };
    let span = t.span(statement);
    let end = line_end(s, span.end);
    let edit = match alone {
        true => Edit::new(span.start, span.end, line),
        false => Edit::new(end, end, format!("\n{line}")),
    };
    Some((name, vec![edit]))
}

/// The name of an import is read in no other place than so many.
fn is_alone(s: &Source, b: BindingId, uses: usize) -> bool {
    s.names.references_to(b).filter(|r| r.usage.reads()).count() == uses
}

/// `from port import fees`: the last part of the new file's name, and the word in whose place or beside which it stands.
fn of_package(m: &Move, s: &Source, statement: NodeId, b: BindingId) -> Option<(String, NodeId)> {
    let t = &s.tree;
    let (old, new) = (m.project.modules().name(m.home)?, m.project.modules().name(m.target)?);
    let member = s.names.binding(b).import.as_ref()?.member.as_ref()?;
    let beside = old.package() == new.package() && old.parts.last() == Some(member) && old.base == new.base;
    let named = |n: &NodeId| s.str(*n) == member && s.names.at(*n).is_some_and(|r| r.target == Some(b));
    let leaf = t.subtree(statement).filter(|n| t.is_leaf(*n)).find(named)?;
    let last = new.parts.last().filter(|_| beside)?;
    Some((last.clone(), leaf))
}

/// `import port.fees`, `import port.fees as f`: the path or name of the new one, and the line.
fn by_its_path(m: &Move, s: &Source, statement: NodeId, b: BindingId) -> Option<(String, String)> {
    let t = &s.tree;
    let path = |file: usize| m.project.modules().name(file).map(|n| n.parts.join("."));
    let (old, new) = (path(m.home)?, path(m.target)?);
    let text = s.str(statement);
    let line = text.contains(&old).then(|| text.replacen(&old, &new, 1))?;
    let binding = s.names.binding(b);
    match t.field(binding.first) == Field::Alias {
        true => {
            let last = new.rsplit('.').next()?.to_string();
            let line = format!("{}{last}", line.strip_suffix(binding.name.as_str())?);
            Some((last, line))
        }
        false => Some((new, line)),
    }
}

/// `import * as fees from "./fees"`, `const fees = require("./fees")`: the name of the new one, and the line.
fn by_its_file(m: &Move, s: &Source, statement: NodeId, b: BindingId) -> Option<(String, String)> {
    let t = &s.tree;
    let stem = crate::index::words::stem_of(&m.to.path).to_string();
    let spelled = module_of(m.project, s, &import_text(m.project, s, m.target, &stem)?)?;
    let literal = t.subtree(statement).filter(|n| t.role(*n) == Role::Literal).last()?;
    let (whole, at, name) = (t.span(statement), t.span(literal), t.span(s.names.binding(b).first));
    let head = format!("{}{stem}{}", &s.text[whole.start..name.start], &s.text[name.end..at.start]);
    Some((stem, format!("{head}{spelled}{}", &s.text[at.end..whole.end])))
}

/// All files that name what was moved through the old one, but the two themselves.
pub(super) fn of_project(m: &Move, users: &[User]) -> Vec<(usize, std::sync::Arc<Source>, Through)> {
    let files = (0..m.project.facts.len()).filter(|f| *f != m.home && *f != m.target && m.project.imports(*f, m.home));
    let says = |f: &usize| m.project.text(*f).is_some_and(|t| m.names().any(|n| has_whole_word(&t, n)));
    let taken = |f: &usize| users.iter().any(|u| u.file == *f);
    files
        .filter(|f| says(f) && !taken(f))
        .filter_map(|f| {
            let s = m.project.source(f).ok()?;
            find(m, &s).map(|t| (f, s, t))
        })
        .collect()
}
