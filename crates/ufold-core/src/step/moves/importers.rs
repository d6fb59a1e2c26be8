//! Import statements that take the moved names from their old file, in whatever file and however deep.

use std::sync::Arc;

use super::Move;
use crate::change::{Code, Found, reason};
use crate::index::users::is_import_item;
use crate::index::words::has_whole_word;
use crate::index::{Entity, Project};
use crate::names::Source;
use crate::plan::imports::{import_text, within_width};
use crate::plan::lines::{line_end, line_start, whole_lines};
use crate::text::Edit;
use crate::tree::{Field, NodeId, Role, Tree};

/// A file that imports some of the names.
pub(super) struct User {
    pub file: usize,
    pub source: Arc<Source>,
    pub statements: Vec<Taken>,
}

/// A statement that imports from the old file.
pub(super) struct Taken {
    pub statement: NodeId,
    /// Where it says which file.
    pub module: NodeId,
    /// All that it takes, each with the name that the old file has it by, and whether that goes.
    pub items: Vec<(NodeId, String, bool)>,
}

pub(super) fn find(m: &Move) -> Vec<User> {
    let mut out = Vec::new();
    for file in (0..m.project.facts.len()).filter(|f| *f != m.home && m.project.facts[*f].is_of_family(m.from.lang)) {
        let says = |text: Arc<str>| m.names().any(|n| has_whole_word(&text, n));
        if !m.project.text(file).is_some_and(says) {
            continue;
        }
        let Ok(source) = m.project.source(file) else { continue };
        let statements: Vec<Taken> =
            source.tree.ids().filter_map(|n| taken(m, &source, n)).filter(|t| t.items.iter().any(|i| i.2)).collect();
        if !statements.is_empty() {
            out.push(User { file, source, statements });
        }
    }
    out
}

/// What an import statement takes from the old file by name.
fn taken(m: &Move, s: &Source, statement: NodeId) -> Option<Taken> {
    let t = &s.tree;
    let top = t.parent(statement) == Some(Tree::ROOT);
    if t.role(statement) != Role::ImportFrom && !(t.role(statement) == Role::Declare && top) {
        return None;
    }
    let text = |n: NodeId| t.is_leaf(n) && matches!(t.role(n), Role::Literal) || t.field(n) == Field::Module;
    let mut modules = t.subtree(statement).filter(|n| text(*n) && names_file(m.project, s, statement, *n, m.home));
    let module = modules.next()?;
    let items: Vec<(NodeId, String, bool)> = t
        .subtree(statement)
        .filter(|n| *n != module && !t.contains(module, *n))
        .filter_map(|n| item_name(s, n).map(|name| (n, name.to_string(), m.names().any(|x| x == name))))
        .collect();
    (!items.is_empty()).then_some(Taken { statement, module, items })
}

/// The part of an import that says which file says this one.
fn names_file(project: &Project, s: &Source, statement: NodeId, module: NodeId, file: usize) -> bool {
    let t = &s.tree;
    let whole = s.str(statement);
    let own = s.str(module).trim_matches(['"', '\'', '`']);
    let imports = s.lang.imports_of(t, statement, &s.text);
    let passed = s.lang.passed_on(s).into_iter().map(|p| p.import).filter(|_| s.lang.passes_names_on(whole));
    let said = |i: &crate::names::ImportRef| {
        let dotted = format!("{}{}", ".".repeat(i.level as usize), i.module);
        dotted == own.split_whitespace().collect::<String>() && !i.wildcard
    };
    let alone = |i: crate::names::ImportRef| crate::names::ImportRef { member: None, ..i };
    imports.into_iter().chain(passed).filter(said).any(|i| project.resolved(s, &alone(i)).first() == Some(&file))
}

/// The name that an item of an import takes.
fn item_name(s: &Source, n: NodeId) -> Option<&str> {
    let t = &s.tree;
    let parent = t.parent(n)?;
    if t.role(n) == Role::Pattern && t.role(parent) == Role::Pattern {
        return t.child(n, Field::Key).map(|k| s.str(k));
    }
    if !is_import_item(t, n) || is_import_item(t, parent) || t.field(n) == Field::Alias {
        return None;
    }
    // a name beside the list is the module's default
    let listed = t.role(n) == Role::ImportAlias || t.field(n) == Field::Name;
    let name = t.child(n, Field::Name).unwrap_or(n);
    listed.then(|| s.str(name))
}

/// The edits of a file's imports.
pub(super) fn edits(m: &Move, u: &User) -> Found<Vec<Edit>> {
    let mut out = Vec::new();
    for taken in &u.statements {
        out.extend(of_statement(m, &u.source, u.file, taken)?);
    }
    Ok(out)
}

fn of_statement(m: &Move, s: &Source, file: usize, taken: &Taken) -> Found<Vec<Edit>> {
    let t = &s.tree;
    let (statement, span) = (taken.statement, t.span(taken.statement));
    let cant = |why: &str| vec![reason(s, statement, Code::UsedElsewhere, format!("this import can't follow: {why}"))];
    let gone: Vec<&(NodeId, String, bool)> = taken.items.iter().filter(|i| i.2).collect();
    let whole = gone.len() == taken.items.len();
    if file == m.target {
        if let Some((n, name, _)) = gone.iter().find(|(n, name, _)| bound_as(s, *n) != name.as_str()) {
            return Err(cant(&format!("`{name}` is called `{}` here", bound_as(s, *n))));
        }
        if !whole {
            return without_items(s, taken).ok_or_else(|| cant("a comment stands in it"));
        }
        let lines = whole_lines(s, span);
        let alone_in_block = t.parent(statement).is_some_and(|b| b != Tree::ROOT && t.children(b).count() < 2);
        return match lines != span && !alone_in_block {
            true => Ok(vec![removal(s, statement)]),
            false => Err(cant("it shares its line or block")),
        };
    }
    let names = gone.iter().map(|i| s.str(i.0)).collect::<Vec<_>>().join(", ");
    let line = import_text(m.project, s, m.target, &names).ok_or_else(|| cant("the new file can't be imported"))?;
    let module = module_of(m.project, s, &line).ok_or_else(|| cant("the new file can't be named here"))?;
    let at = t.span(taken.module);
    let top = t.parent(statement) == Some(Tree::ROOT);
    let own_way = beside(s, taken, &names, &module).unwrap_or(line);
    let joined = if top { joined_to_another(m, s, statement, &own_way, &names) } else { None };
    if whole {
        return Ok(match joined {
            Some(edit) => vec![edit, removal(s, statement)],
            None => vec![Edit::new(at.start, at.end, module)],
        });
    }
    let mut out = without_items(s, taken).ok_or_else(|| cant("a comment stands in it"))?;
    out.push(match joined {
        Some(edit) => edit,
        None => {
            let indent: String = {
                let start = line_start(&s.text, span.start);
                s.text[start..span.start].chars().take_while(|c| c.is_whitespace()).collect()
            };
            let end = line_end(s, span.end);
            let text = if top { within_width(s, &own_way, &names) } else { own_way };
            Edit::new(end, end, format!("\n{indent}{text}"))
        }
    });
    Ok(out)
}

/// The statement with other items, of another file.
fn beside(s: &Source, taken: &Taken, names: &str, module: &str) -> Option<String> {
    let (t, span) = (&s.tree, s.tree.span(taken.statement));
    let (first, last) = (t.span(taken.items.first()?.0), t.span(taken.items.last()?.0));
    let own = t.span(taken.module);
    if s.str(taken.statement).contains('\n') {
        return None;
    }
    let text = |from: usize, to: usize| match from <= own.start && own.end <= to {
        true => format!("{}{module}{}", &s.text[from..own.start], &s.text[own.end..to]),
        false => s.text[from..to].to_string(),
    };
    Some(format!("{}{names}{}", text(span.start, first.start), text(last.end, span.end)))
}

/// The local name that an item binds.
fn bound_as(s: &Source, item: NodeId) -> &str {
    let t = &s.tree;
    let alias = t.child(item, Field::Alias).or_else(|| t.child(item, Field::Value));
    s.str(alias.or_else(|| t.child(item, Field::Name)).unwrap_or(item))
}

/// A line that goes, with the blank lines that would be too many.
fn removal(s: &Source, statement: NodeId) -> Edit {
    let lines = crate::plan::lines::with_blank_lines(s, statement);
    Edit::new(lines.start, lines.end, "")
}

/// Takes the moved items out of a list.
fn without_items(s: &Source, taken: &Taken) -> Option<Vec<Edit>> {
    let span = |i: usize| s.tree.span(taken.items[i].0);
    let mut out = Vec::new();
    let mut at = 0;
    while at < taken.items.len() {
        let run = taken.items[at..].iter().take_while(|i| i.2).count();
        if run == 0 {
            at += 1;
            continue;
        }
        let (start, end) = match at + run < taken.items.len() {
            true => (span(at).start, span(at + run).start),
            false => (span(at.checked_sub(1)?).end, span(at + run - 1).end),
        };
        if s.tree.comments().iter().any(|c| start < c.end && c.start < end) {
            return None;
        }
        out.push(Edit::new(start, end, ""));
        at += run;
    }
    Some(out)
}

/// Another import of the file takes the names too.
fn joined_to_another(m: &Move, s: &Source, own: NodeId, line: &str, names: &str) -> Option<Edit> {
    let t = &s.tree;
    let from_there = |n: NodeId| {
        let literal = t.subtree(n).find(|x| matches!(t.field(*x), Field::Source | Field::Module));
        t.role(n) == Role::ImportFrom && n != own && literal.is_some_and(|l| names_file(m.project, s, n, l, m.target))
    };
    t.children(Tree::ROOT).filter(|n| from_there(*n)).find_map(|n| s.lang.extend_import(s, n, line, names))
}

/// How an import line says which file.
pub(super) fn module_of(project: &Project, s: &Source, line: &str) -> Option<String> {
    let alone = project.parse(&s.path, line.into()).ok()?;
    let t = &alone.tree;
    let says = |n: &NodeId| matches!(t.field(*n), Field::Source | Field::Module);
    let text = t.ids().find(says).or_else(|| t.ids().filter(|n| t.role(*n) == Role::Literal).last());
    text.map(|n| alone.str(n).to_string())
}

/// The old file imports this name of the new one.
pub(super) fn is_taken(m: &Move, b: crate::names::BindingId) -> bool {
    let binding = m.to.names.binding(b);
    let own = || m.project.entity(&m.to, &binding.name);
    binding.import.is_some() && matches!(own(), Entity::Member(f, _) if f == m.home)
}
