//! Imports that a step adds, changes or takes away, in the file's own habits.

use crate::change::{Code, Reason, reason};
use crate::index::Project;
use crate::index::users::{import_item, is_import_item};
use crate::lang::ModuleName;
use crate::names::{BindingId, Names, Source};
use crate::plan::lines::{comments_above, line_end, line_start, with_blank_lines};
use crate::text::Edit;
use crate::tree::{Field, NodeId, Role, Tree};

/// A line that imports many names, as one line for each where it is wider than the language's lines are.
pub fn within_width(s: &Source, line: &str, names: &str) -> String {
    let items: Vec<&str> = names.split(", ").collect();
    let parts = line.split_once(names).filter(|_| items.len() > 1 && line.chars().count() > s.lang.default_width());
    let Some((head, tail)) = parts else { return line.to_string() };
    let unit = s.habits().unit.as_str();
    let list: String = items.iter().map(|i| format!("{unit}{i},\n")).collect();
    match head.trim_end().ends_with('{') {
        true => format!("{}\n{list}{}", head.trim_end(), tail.trim_start()),
        false => format!("{head}(\n{list}){tail}"),
    }
}

/// The edit that makes `name` of the home importable in another file.
pub fn import_edit(project: &Project, source: &Source, home: usize, name: &str) -> Option<Edit> {
    let line = import_text(project, source, home, name)?;
    add_import(source, &line, name)
}

/// The statement that imports `name` of the home, in the way of the file.
pub fn import_text(project: &Project, source: &Source, home: usize, name: &str) -> Option<String> {
    let relative = uses_relative(project, source, project.index(&source.path)?);
    source.lang.import_line(source, &as_said(project, home)?, name, relative)
}

/// How many of the folders that a file stands in are above the packages that it says.
pub(crate) fn folders_above(s: &Source) -> usize {
    let (said, own) = (s.lang.said_package(s), s.package().unwrap_or_default());
    if said.is_empty() || !own.ends_with(&said) { 0 } else { own.len() - said.len() }
}

/// A file's module as the file itself says its packages: the folders above them are none of its name.
pub(crate) fn as_said(project: &Project, file: usize) -> Option<ModuleName> {
    let name = project.modules().name(file)?;
    if let Some(spaces) = &project.facts[file].spaces {
        let said = spaces.own.as_ref()?.split('.').filter(|p| !p.is_empty()).map(str::to_string);
        return Some(ModuleName { parts: said.chain(name.parts.last().cloned()).collect(), ..name.clone() });
    }
    let above = project.source(file).map_or(0, |s| folders_above(&s));
    Some(ModuleName { parts: name.parts[above..].to_vec(), ..name.clone() })
}

/// The statement that imports a name, without the other names that it imports.
pub(crate) fn import_alone(s: &Source, b: BindingId) -> Option<String> {
    let t = &s.tree;
    let first = s.names.binding(b).first;
    if s.names.binding(b).scope != Names::MODULE {
        return None;
    }
    let whole = t.ancestors(first).find(|a| t.parent(*a) == Some(Tree::ROOT))?;
    let several =
        |c: NodeId| t.child(c, Field::Left).is_some_and(|l| t.role(l) == Role::Pattern && t.children(l).count() > 1);
    let one = s.lang.imports_of(t, whole, &s.text).len() == 1 && !t.children(whole).any(several);
    if one && matches!(t.role(whole), Role::Import | Role::Declare) {
        return Some(s.str(whole).to_string());
    }
    if t.role(whole) == Role::Declare {
        // one of several that are declared at once
        let own = t.children(whole).find(|c| t.role(*c) == Role::Assign && t.contains(*c, first))?;
        let head = t.children(whole).find(|c| t.role(*c) == Role::Assign)?;
        let word = &s.text[t.span(whole).start..t.span(head).start];
        let end = if s.str(whole).ends_with(';') { ";" } else { "" };
        let named = s.names.binding(b).import.is_some() && !s.str(own).contains('\n');
        // one of several that a pattern takes
        let pattern = t.child(own, Field::Left).filter(|l| t.role(*l) == Role::Pattern);
        let item = pattern.and_then(|l| t.children(l).find(|i| t.contains(*i, first)));
        let text = match pattern.zip(item) {
            Some((l, i)) => format!("{{ {} }}{}", s.str(i), &s.text[t.span(l).end..t.span(own).end]),
            None => s.str(own).to_string(),
        };
        return named.then(|| format!("{}{text}{end}", word.replace('\n', " ")));
    }
    let (statement, item, alone) = import_item(s, b)?;
    if alone {
        return Some(s.str(statement).to_string());
    }
    let list = t.parent(item)?;
    let items = || t.children(list).filter(|c| is_import_item(t, *c));
    let (from, to) = (t.span(items().next()?).start, t.span(items().last()?).end);
    let (own, around) = (t.span(item), t.span(statement));
    let (head, item, tail) = (&s.text[around.start..from], &s.text[own.start..own.end], &s.text[to..around.end]);
    if !s.str(statement).contains('\n') {
        return Some(format!("{head}{item}{tail}"));
    }
    // a list over several lines is one of one line then
    if item.contains('\n') || t.comments().iter().any(|c| around.contains(*c)) {
        return None;
    }
    let one = |text: &str| text.split_whitespace().collect::<Vec<_>>().join(" ");
    let (head, tail) = (one(head), one(tail.trim_start().trim_start_matches(',')));
    Some(match (head.strip_suffix('('), tail.strip_prefix(')')) {
        (Some(head), Some(tail)) => format!("{head}{item}{tail}"),
        _ => format!("{head} {item} {tail}"),
    })
}

/// The edit that adds an import of `name` to a file's others.
pub fn add_import(source: &Source, line: &str, name: &str) -> Option<Edit> {
    let t = &source.tree;
    let head: Vec<NodeId> =
        t.children(Tree::ROOT).take_while(|s| !t.role(*s).is_definition() && t.role(*s) != Role::If).collect();
    let is_import = |s: &NodeId| !source.lang.imports_of(t, *s, &source.text).is_empty();
    let imports: Vec<NodeId> = head
        .iter()
        .copied()
        .filter(|s| {
            matches!(t.role(*s), Role::Import | Role::ImportFrom) || t.role(*s) == Role::Declare && is_import(s)
        })
        .collect();
    let alone = |i: &NodeId| t.span(*i).end == line_end(source, t.span(*i).end);
    let extended = imports.iter().filter(|i| alone(i)).find_map(|i| source.lang.extend_import(source, *i, line, name));
    if extended.is_some() {
        return extended;
    }
    // as deep as those beside it
    let deep = |import: NodeId| {
        let start = t.span(import).start;
        let before = &source.text[line_start(&source.text, start)..start];
        if before.trim().is_empty() { before } else { "" }
    };
    let behind = |import: NodeId| {
        let end = line_end(source, t.span(import).end);
        Some(Edit::new(end, end, format!("\n{}{line}", deep(import))))
    };
    match in_order(source, &imports, line) {
        Some(Beside::After(import)) => return behind(import),
        Some(Beside::Before(import)) => {
            let start = line_start(&source.text, t.span(import).start);
            return Some(Edit::new(start, start, format!("{}{line}\n", deep(import))));
        }
        None => {}
    }
    if let Some(last) = imports.last() {
        return behind(*last);
    }
    // a line of its own; another word before it says what the rest of the file stands in
    let alone = |d: &&NodeId| {
        let start = t.span(**d).start;
        t.role(**d) == Role::Doc && source.text[line_start(&source.text, start)..start].trim().is_empty()
    };
    if let Some(doc) = head.iter().take_while(alone).last() {
        let end = line_end(source, t.span(*doc).end);
        return Some(Edit::new(end, end, format!("\n\n{line}")));
    }
    let first = t.children(Tree::ROOT).next()?;
    let start = comments_above(source, line_start(&source.text, t.span(first).start));
    let start = if start == 0 { line_start(&source.text, t.span(first).start) } else { start };
    let start = start.max(if source.text.starts_with('\u{feff}') { 3 } else { 0 });
    let (top, _) = source.lang.blank_lines();
    Some(Edit::new(start, start, format!("{line}\n{}", "\n".repeat(top))))
}

/// The import of the function: names that its calls needed come in its place, and it goes when no use is left.
pub fn without_name(s: &Source, b: BindingId, left: bool, wanted: &[String]) -> Result<Option<Edit>, Reason> {
    let t = &s.tree;
    let first = s.names.binding(b).first;
    if left && wanted.is_empty() {
        return Ok(None);
    }
    let cant = || reason(s, first, Code::UsedElsewhere, "its import here can't be rewritten");
    let (statement, item, alone) = import_item(s, b).ok_or_else(cant)?;
    let own = t.span(item);
    if left {
        return Ok(Some(Edit::new(own.end, own.end, format!(", {}", wanted.join(", ")))));
    }
    if !wanted.is_empty() {
        return Ok(Some(Edit::new(own.start, own.end, wanted.join(", "))));
    }
    if alone {
        let lines = with_blank_lines(s, statement);
        return Ok(Some(Edit::new(lines.start, lines.end, "")));
    }
    let items = || t.children(t.parent(item).unwrap_or(Tree::ROOT)).filter(|c| is_import_item(t, *c));
    let next = items().find(|c| *c > item).map(|n| (own.start, t.span(n).start));
    let before = items().take_while(|c| *c < item).last().map(|p| (t.span(p).end, own.end));
    let (start, end) = next.or(before).ok_or_else(cant)?;
    let comment = t.comments().iter().any(|c| start < c.end && c.start < end);
    if comment { Err(cant()) } else { Ok(Some(Edit::new(start, end, ""))) }
}

/// The import that a new one stands beside.
enum Beside {
    Before(NodeId),
    After(NodeId),
}

/// Where a new import stands in the order that the file keeps, where order is nothing but that.
fn in_order(source: &Source, imports: &[NodeId], line: &str) -> Option<Beside> {
    let kind = is_of_members;
    let group: Vec<NodeId> = imports.iter().copied().filter(|i| kind(source.str(*i)) == kind(line)).collect();
    if source.lang.imports_load() {
        return None;
    }
    let blocks = blocks(source, &group);
    let nearness = |b: &Vec<NodeId>| b.iter().map(|i| words_in_common(source.str(*i), line)).max().unwrap_or(0);
    // the first of those that begin most like it
    let best = blocks.iter().map(nearness).max().filter(|n| *n > 0 && blocks.len() > 1);
    let group = best.and_then(|n| blocks.iter().find(|b| nearness(b) == n).cloned()).unwrap_or(group);
    let (first, last) = (*group.first()?, *group.last()?);
    let sorted = group.windows(2).all(|w| source.str(w[0]) <= source.str(w[1]));
    let new = line.lines().next().unwrap_or(line);
    let before = group.iter().copied().rfind(|i| source.str(*i) < new);
    // one import has no order that could be kept
    let leads = sorted && before.is_none() && group.len() > 1 && source.lines.line(source.tree.span(first).start) > 1;
    Some(if leads { Beside::Before(first) } else { Beside::After(before.filter(|_| sorted).unwrap_or(last)) })
}

/// The text of an import that brings members of a class: these stand by themselves.
pub(crate) fn is_of_members(import: &str) -> bool {
    import.split_whitespace().nth(1) == Some("static")
}

/// Imports that no blank line keeps apart.
pub(crate) fn blocks(s: &Source, imports: &[NodeId]) -> Vec<Vec<NodeId>> {
    let mut out: Vec<Vec<NodeId>> = Vec::new();
    for i in imports {
        let between = |last: NodeId| s.text[s.tree.span(last).end..s.tree.span(*i).start].matches('\n').count();
        match out.last_mut().filter(|b| b.last().is_some_and(|l| between(*l) < 2)) {
            Some(block) => block.push(*i),
            None => out.push(vec![*i]),
        }
    }
    out
}

/// New imports of a file without any: a blank line keeps apart what it does in the file that they come from.
pub(crate) fn as_in(s: &Source, lines: &[&str]) -> String {
    let all: Vec<NodeId> = s.tree.children(Tree::ROOT).filter(|n| is_import(s, *n)).collect();
    let blocks = blocks(s, &all);
    let nearness = |b: &Vec<NodeId>, line: &str| {
        let own = b.iter().filter(|i| is_of_members(s.str(**i)) == is_of_members(line));
        own.map(|i| words_in_common(s.str(*i), line)).max().unwrap_or(0)
    };
    let block = |line: &str| (0..blocks.len()).rev().max_by_key(|i| nearness(&blocks[*i], line));
    let mut out = String::new();
    for (i, line) in lines.iter().enumerate() {
        let apart = i > 0 && block(lines[i - 1]) != block(line);
        out.push_str(if i == 0 {
            ""
        } else if apart {
            "\n\n"
        } else {
            "\n"
        });
        out.push_str(line);
    }
    out
}

fn is_import(s: &Source, n: NodeId) -> bool {
    matches!(s.tree.role(n), Role::Import | Role::ImportFrom)
}

/// Words of their paths with which two imports begin.
fn words_in_common(a: &str, b: &str) -> usize {
    let path = |text: &str| text.trim_end_matches(';').split_whitespace().last().unwrap_or("").to_string();
    path(a).split('.').zip(path(b).split('.')).take_while(|(x, y)| x == y).count()
}

/// The habit of the file, or of its neighbours when it has none.
fn uses_relative(project: &Project, source: &Source, file: usize) -> bool {
    let facts = &project.facts[file];
    let ours = |i: &crate::names::ImportRef| i.level == 0 && !project.resolved(source, i).is_empty();
    let absolute = facts.imports.iter().any(|i| ours(&i.import));
    facts.imports_relative() || !absolute && project.modules().is_relative_in(facts.folder())
}
