//! Where the moved text goes, and what is left where it was.

use super::definitions::Definition;
use super::importers::{self, User};
use super::kept::{Kept, Name};
use super::needed::Needed;
use super::thinned::Thinned;
use super::{Move, kept};
use crate::change::{Code, Found, reason};
use crate::index::Entity;
use crate::lang::KeptName;
use crate::names::Source;
use crate::plan::headings::runs;
use crate::plan::imports::{import_text, within_width};
use crate::plan::lines::{comments_above, line_end, line_start, with_blank_lines};
use crate::plan::unneeded;
use crate::text::{Edit, Span, apply_edits};
use crate::tree::{NodeId, Role, Tree};

/// The edits of the old file.
pub(super) fn left(m: &Move, kept: &Kept) -> Found<Vec<Edit>> {
    let s = &m.from;
    let mut out: Vec<Edit> = gaps(m).into_iter().map(|g| Edit::new(g.start, g.end, "")).collect();
    let gone: Vec<Span> = out.iter().map(|e| e.span).collect();
    let lines = stays(m, kept)?;
    let calls: Vec<&str> = lines.iter().map(|l| l.0.as_str()).collect();
    let mut removed = unneeded::edits(m.project, s, m.target, &gone, &calls);
    for n in kept.names.iter().filter(|n| !n.stays()) {
        for entry in &n.listed {
            removed.push(without_entry(s, *entry).ok_or_else(|| cant(s, *entry))?);
        }
    }
    out.extend(removed);
    let mut thin = Thinned::new(m, s, out)?;
    for (line, name, at_end) in lines {
        match at_end {
            false => thin.import(&line, &name),
            true => thin.add_at_end(&line),
        }
    }
    Ok(thin.edits())
}

fn cant(s: &Source, n: NodeId) -> Vec<crate::change::Reason> {
    vec![reason(s, n, Code::UsedElsewhere, "what this file exports and imports can't be rewritten here")]
}

/// How the old file has the names that it keeps: lines with the names, and whether they stand at its end.
fn stays(m: &Move, kept: &Kept) -> Found<Vec<(String, String, bool)>> {
    let s = &m.from;
    let needs = |n: &Name| n.used || !n.listed.is_empty();
    let ways = |n: &Name| (needs(n), n.passed && n.listed.is_empty(), n.is_type);
    // names that it has in the same way stand together
    type Ways = (bool, bool, bool);
    let mut all: Vec<(Ways, Vec<&str>)> = Vec::new();
    for n in kept.names.iter().filter(|n| n.stays()) {
        match all.iter_mut().find(|(w, _)| *w == ways(n)) {
            Some((_, names)) => names.push(&n.name),
            None => all.push((ways(n), vec![&n.name])),
        }
    }
    let mut out = Vec::new();
    for ((used, passed, is_type), names) in all {
        let name = &names.join(", ");
        let line = import_text(m.project, s, m.target, name).ok_or_else(|| cant(s, Tree::ROOT))?;
        let line = quoted_as(m, line);
        let lines = s.lang.kept_names(&KeptName { source: s, name, line: &line, used, passed, is_type });
        out.extend(lines.into_iter().map(|(l, at_end)| (l, name.clone(), at_end)));
    }
    let (last, first): (Vec<_>, Vec<_>) = out.into_iter().partition(|l| l.2);
    let first: Vec<(String, String)> = first.into_iter().map(|(l, n, _)| (l, n)).collect();
    let first = combined(m, s, &first).into_iter().map(|(l, n)| (l, n, false));
    Ok(first.chain(last).collect())
}

/// A file without any text in quotes has no habit of its own: that of a file which imports from it.
fn quoted_as(m: &Move, line: String) -> String {
    let quotes = ['"', '\''];
    let quote = |f: usize| {
        let s = m.project.source(f).ok()?;
        let mut texts = s.tree.ids().filter(|n| s.tree.role(*n) == Role::Literal);
        texts.find_map(|n| s.str(n).chars().next().filter(|c| quotes.contains(c)))
    };
    let users = (0..m.project.facts.len()).filter(|f| m.project.imports(*f, m.home));
    let other = if m.from.text.contains(quotes) { None } else { users.into_iter().find_map(quote) };
    other.map_or(line.clone(), |q| line.replace(quotes, &q.to_string()))
}

/// What goes of the old file: runs of definitions with the blank lines that would be too many.
fn gaps(m: &Move) -> Vec<Span> {
    let s = &m.from;
    let level: Vec<NodeId> = s.tree.children(Tree::ROOT).collect();
    let gone = |n: NodeId| m.moved.all.iter().any(|d| d.statement == n);
    let runs = runs(s, &level, &gone, m.moved.all.iter().map(|d| d.span));
    let blank = |r: Span| {
        let before = s.text[..r.start].trim_end().len();
        let after = r.end + (s.text[r.end..].len() - s.text[r.end..].trim_start().len());
        let lines = |a: usize, b: usize| s.text[a..b].matches('\n').count();
        if after == s.text.len() {
            return Span::new(before, r.end);
        }
        let next = line_start(&s.text, after);
        // the wider of the two gaps stays
        match before == 0 || lines(before, r.start) >= lines(r.end, after) {
            true => Span::new(r.start, next),
            false => Span::new(before, r.end),
        }
    };
    runs.into_iter().map(blank).collect()
}

/// An entry of a list goes, with the comma behind it; a statement with its line.
fn without_entry(s: &Source, entry: NodeId) -> Option<Edit> {
    let t = &s.tree;
    let parent = t.parent(entry)?;
    if parent == Tree::ROOT {
        let lines = with_blank_lines(s, entry);
        return Some(Edit::new(lines.start, lines.end, ""));
    }
    let own = t.span(entry);
    let all: Vec<NodeId> = t.children(parent).filter(|c| t.role(*c) != Role::Token).collect();
    let at = all.iter().position(|c| *c == entry)?;
    let (start, end) = match (all.get(at + 1), at.checked_sub(1)) {
        (Some(next), _) => (own.start, t.span(*next).start),
        (None, Some(before)) => (t.span(all[before]).end, own.end),
        // the list is empty then
        (None, None) => {
            let whole = t.ancestor(entry, &[Role::Decorated]).filter(|d| t.parent(*d) == Some(Tree::ROOT));
            match whole {
                Some(w) => {
                    let lines = with_blank_lines(s, w);
                    (lines.start, lines.end)
                }
                None => (t.span(parent).start + 1, t.span(parent).end - 1),
            }
        }
    };
    let comment = t.comments().iter().any(|c| start < c.end && c.start < end);
    (!comment).then(|| Edit::new(start, end, ""))
}

/// What is put into the new file.
struct Texts {
    values: String,
    rest: String,
    /// Names that others take from there.
    names: Vec<String>,
    /// All of the rest has its value from the start of its file on.
    hoisted: bool,
}

fn texts(m: &Move, kept: &Kept, users: &[User]) -> Texts {
    let (s, to) = (&m.from, &m.to);
    let (values, rest): (Vec<&Definition>, Vec<&Definition>) = m.moved.all.iter().partition(|d| is_value_alone(m, d));
    let asked = |d: &Definition| {
        d.names.iter().any(|(b, n)| {
            let stays = kept.names.iter().any(|k| k.name == *n && k.stays());
            stays || is_imported(m, users, n) || kept::is_given(s, *b)
        })
    };
    // a new file of which nobody takes anything yet gives what was named
    let open = is_new(to) && !m.moved.all.iter().any(asked);
    let seen = |d: &&Definition| asked(d) || open && !d.along;
    let text = |d: &Definition| {
        let own = &s.text[d.span.start..d.span.end];
        let (head, body) = own.split_at(s.tree.span(d.statement).start - d.span.start);
        let like: &Source = if is_new(to) { s } else { to };
        if seen(&d) { format!("{head}{}", s.lang.exported(like, body)) } else { own.to_string() }
    };
    let (top, _) = to.lang.blank_lines();
    let joined = |all: &[&Definition], between: &str| all.iter().map(|d| text(d)).collect::<Vec<_>>().join(between);
    let mut names: Vec<String> = Vec::new();
    for (_, n) in m.moved.all.iter().filter(seen).flat_map(|d| d.names.iter()) {
        if !names.contains(n) {
            names.push(n.clone());
        }
    }
    let hoisted = s.lang.functions_come_first() && rest.iter().all(|d| is_function(s, d));
    Texts { values: joined(&values, "\n"), rest: joined(&rest, &"\n".repeat(top + 1)), names, hoisted }
}

fn is_new(s: &Source) -> bool {
    s.tree.children(Tree::ROOT).next().is_none()
}

/// The edits of the new file.
pub(super) fn put(m: &Move, kept: &Kept, users: &[User], needed: &Needed) -> Found<Vec<Edit>> {
    let (s, to) = (&m.from, &m.to);
    let texts = texts(m, kept, users);
    if is_new(to) {
        let exports = to.lang.export_line(to, s, &texts.names.join(", ")).filter(|_| !texts.names.is_empty());
        return Ok(vec![whole_file(m, needed, &[texts.values, texts.rest], exports)]);
    }
    // what it imported of them from the old file
    let mut gone: Vec<Edit> = Vec::new();
    for u in users.iter().filter(|u| u.file == m.target) {
        gone.extend(importers::edits(m, u)?);
    }
    let first_use = first_use_when_loaded(m);
    let mut thin = Thinned::new(m, to, gone)?;
    for (line, name) in combined(m, to, &needed.items()) {
        thin.import(&line, &name);
    }
    let used_at = first_use.map(|u| thin.there(to.tree.span(u).start));
    if !texts.values.is_empty() {
        let at = behind_imports(&thin.source);
        if let Some(u) = first_use.filter(|_| used_at.is_some_and(|u| u < at)) {
            return Err(vec![reason(to, u, Code::Order, "this uses it before it could be defined")]);
        }
        let edit = values_below(&thin.source, at, &texts.values);
        thin.add(edit);
    }
    if !texts.rest.is_empty() {
        let (top, _) = to.lang.blank_lines();
        let edit = match used_at.filter(|_| !texts.hoisted) {
            Some(u) => {
                let start = comments_above(&thin.source, line_start(&thin.source.text, u));
                Edit::new(start, start, format!("{}{}", texts.rest, "\n".repeat(top + 1)))
            }
            None => crate::plan::outside::below_definitions(&thin.source, &texts.rest),
        };
        // what it is made of when it is defined stands above it
        let behind = used_when_defined(m).map(|n| thin.there(line_end(to, to.tree.span(n).end)));
        let edit = match behind.filter(|b| *b > edit.span.start) {
            Some(b) if used_at.is_none_or(|u| b < u) => {
                Edit::new(b, b, format!("{}{}", "\n".repeat(top + 1), texts.rest))
            }
            Some(_) => {
                let n = first_use.unwrap_or(Tree::ROOT);
                return Err(vec![reason(to, n, Code::Order, "this uses it before it could be defined")]);
            }
            None => edit,
        };
        thin.add(edit);
    }
    let exports: Vec<String> = texts.names.iter().filter_map(|n| to.lang.export_line(to, s, n)).collect();
    if !exports.is_empty() {
        thin.add_at_end(&exports.join("\n"));
    }
    Ok(thin.edits())
}

/// Lines of which those that import from one file are one.
fn combined(m: &Move, within: &Source, lines: &[(String, String)]) -> Vec<(String, String)> {
    let mut out: Vec<(String, String)> = Vec::new();
    for (line, name) in lines {
        let extended = out.iter().enumerate().find_map(|(i, (earlier, names))| {
            let s = m.project.parse(&within.path, earlier.as_str().into()).ok()?;
            let statement = s.tree.children(Tree::ROOT).next()?;
            let edit = s.lang.extend_import(&s, statement, line, name)?;
            Some((i, apply_edits(&s.text, &[edit]).ok()?, format!("{names}, {name}")))
        });
        match extended {
            Some((i, line, names)) => out[i] = (line, names),
            None => out.push((line.clone(), name.clone())),
        }
    }
    out
}

fn is_imported(m: &Move, users: &[User], name: &str) -> bool {
    users.iter().any(|u| u.file != m.target && u.statements.iter().any(|t| t.items.iter().any(|i| i.1 == name)))
}

/// A file that was not there.
fn whole_file(m: &Move, needed: &Needed, texts: &[String; 2], exports: Option<String>) -> Edit {
    let (top, _) = m.to.lang.blank_lines();
    let mut head = m.to.lang.head_of_like(&m.from);
    let standard = |line: &str| {
        let alone = m.project.parse(&m.to.path, line.into()).ok();
        alone.is_some_and(|s| {
            let all =
                s.tree.children(Tree::ROOT).flat_map(|n| s.lang.imports_of(&s.tree, n, &s.text)).collect::<Vec<_>>();
            all.iter().all(|i| i.level == 0 && s.lang.is_standard_module(&i.module))
        })
    };
    let lines = combined(m, &m.to, &needed.items());
    let apart = groups_imports(&m.from);
    for (i, (line, names)) in lines.iter().enumerate() {
        let other = i > 0 && standard(line) != standard(&lines[i - 1].0);
        let line = within_width(&m.from, line, names);
        head.push_str(if other && apart { "\n" } else { "" });
        head.push_str(&format!("{line}\n"));
    }
    let mut parts: Vec<String> = Vec::new();
    parts.extend((!head.is_empty()).then_some(head.trim_end().to_string()));
    parts.extend(texts.iter().filter(|x| !x.is_empty()).cloned());
    let mut text = String::new();
    for (i, p) in parts.iter().enumerate() {
        // values stand close to the imports
        let close = i > 0 && *p == texts[0];
        let blank = if close { 1 } else { top };
        if i > 0 {
            text.push_str(&"\n".repeat(blank + 1));
        }
        text.push_str(p);
    }
    if let Some(written) = exports {
        text.push_str(&format!("\n\n{}", written.trim_start_matches('\n')));
    }
    Edit::new(0, m.to.text.len(), format!("{text}\n"))
}

/// A blank line stands between the imports of a file.
fn groups_imports(s: &Source) -> bool {
    let t = &s.tree;
    let imports: Vec<NodeId> =
        t.children(Tree::ROOT).filter(|n| matches!(t.role(*n), Role::Import | Role::ImportFrom)).collect();
    imports.windows(2).any(|w| s.text[t.span(w[0]).end..t.span(w[1]).start].matches('\n').count() > 1)
}

/// A value that is made of nothing that is defined in either file.
fn is_value_alone(m: &Move, d: &Definition) -> bool {
    let (s, t) = (&m.from, &m.from.tree);
    if matches!(t.role(t.definition_in(d.statement)), Role::Function | Role::Class | Role::TypeAlias) {
        return false;
    }
    let callable = t.subtree(d.statement).any(|n| matches!(t.role(n), Role::Function | Role::Class | Role::Lambda));
    // of either file
    let own = |n: NodeId| {
        let there = || matches!(m.project.entity(s, s.str(n)), Entity::Member(f, _) if f == m.target);
        let target = s.names.at(n).and_then(|r| r.target).filter(|b| !d.names.iter().any(|x| x.0 == *b));
        target.is_some_and(|b| s.names.binding(b).import.is_none() || there())
    };
    !callable && !t.subtree(d.statement).any(own)
}

fn is_function(s: &Source, d: &Definition) -> bool {
    matches!(s.tree.role(s.tree.definition_in(d.statement)), Role::Function | Role::TypeAlias)
}

/// The first statement of the new file that uses one of the names when it is loaded.
fn first_use_when_loaded(m: &Move) -> Option<NodeId> {
    let (to, t) = (&m.to, &m.to.tree);
    let all: Vec<_> =
        to.names.bindings_of(crate::names::Names::MODULE).filter(|b| importers::is_taken(m, *b)).collect();
    let all: Vec<_> = all.into_iter().filter(|b| m.names().any(|n| n == to.names.binding(*b).name)).collect();
    let reads = all.iter().flat_map(|b| to.names.references_to(*b)).filter(|r| r.usage.reads());
    let at_once = reads.filter(|r| t.body_around(r.node).is_none());
    let around = |n: NodeId| t.ancestors(n).find(|a| t.parent(*a) == Some(Tree::ROOT));
    let mut uses: Vec<NodeId> = at_once.filter_map(|r| around(r.node)).collect();
    // what calls something may come to use it
    let calls = |n: &NodeId| t.subtree(*n).any(|x| t.role(x) == Role::Call && t.callable_around(x).is_none());
    let imports = |n: NodeId| !to.lang.imports_of(t, n, &to.text).is_empty();
    uses.extend(t.children(Tree::ROOT).filter(|n| !all.is_empty() && calls(n) && !imports(*n)));
    uses.into_iter().min()
}

/// The last statement of the new file that gives a value which the moved code uses when it is defined.
fn used_when_defined(m: &Move) -> Option<NodeId> {
    let (s, t, to) = (&m.from, &m.from.tree, &m.to);
    let at_once = |n: NodeId| t.body_around(n).is_none();
    let own = s.names.references.iter().filter(|r| m.moved.holds(s, r.node) && at_once(r.node));
    let there = own.filter_map(|r| match m.project.entity(s, s.str(r.node)) {
        Entity::Member(f, name) if f == m.target => to.names.in_module(&name),
        _ => None,
    });
    let statement = |first: NodeId| {
        std::iter::once(first).chain(to.tree.ancestors(first)).find(|n| to.tree.parent(*n) == Some(Tree::ROOT))
    };
    there.filter_map(|b| statement(to.names.binding(b).first)).max()
}

/// The end of the line of the last import, or of what a file begins with.
fn behind_imports(s: &Source) -> usize {
    let t = &s.tree;
    let is_import = |n: &NodeId| {
        matches!(t.role(*n), Role::Import | Role::ImportFrom | Role::Doc)
            || t.role(*n) == Role::Declare && !s.lang.imports_of(t, *n, &s.text).is_empty()
    };
    let head = t.children(Tree::ROOT).take_while(|n| is_import(n)).last();
    head.map_or(0, |n| line_end(s, t.span(n).end))
}

fn values_below(s: &Source, at: usize, text: &str) -> Edit {
    if at == 0 {
        let first = s.tree.children(Tree::ROOT).next().map_or(0, |n| s.tree.span(n).start);
        let start = comments_above(s, line_start(&s.text, first));
        let (top, _) = s.lang.blank_lines();
        return Edit::new(start, start, format!("{text}\n{}", "\n".repeat(top)));
    }
    Edit::new(at, at, format!("\n\n{text}"))
}
