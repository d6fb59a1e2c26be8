//! The text of the new file, and what is left of the old one.

use std::sync::Arc;

use super::around::Around;
use super::opened::Opened;
use super::users::{self, Users};
use super::{Going, path};
use crate::change::{Code, Edits, Found, Reason, reason};
use crate::index::{Entity, class_tree, whole_words};
use crate::lang::MemberOf;
use crate::names::Source;
use crate::plan::class_text::{lines_of, without_members};
use crate::plan::imports::{add_import, import_alone, is_of_members};
use crate::plan::lines::{line_end, line_start, whole_lines};
use crate::plan::{outside, unneeded};
use crate::text::{Edit, Span, apply_edits};
use crate::tree::{NodeId, Role, Tree};

fn is_import(s: &Source, n: NodeId) -> bool {
    matches!(s.tree.role(n), Role::Import | Role::ImportFrom)
}

/// Edits of the old file and of the new one; gives the new one as it is then.
pub(super) fn edits(
    g: &Going,
    users: &Users,
    (opened, around): (&[Opened], &Around),
    edits: &mut Edits,
) -> Found<Arc<Source>> {
    let s = &g.from;
    let nodes: Vec<NodeId> =
        users.all.iter().filter(|u| u.source.path == s.path).flat_map(|u| u.nodes.iter().copied()).collect();
    let text = moved_text(g, &nodes, (opened, around))?;
    let moved = with_imports(g, text, around)?;
    if g.is_whole() {
        // in one piece, as short as it can be
        let (old, new) = (&*s.text, &*moved.text);
        let first = old.bytes().zip(new.bytes()).take_while(|(a, b)| a == b).count();
        let first = line_start(old, first.min(old.len())).min(line_start(new, first));
        let most = (old.len() - first).min(new.len() - first);
        let same = old.bytes().rev().zip(new.bytes().rev()).take(most).take_while(|(a, b)| a == b).count();
        let last = (0..=same).rev().find(|k| old.is_char_boundary(old.len() - k)).unwrap_or(0);
        edits.add(s, Edit::new(first, old.len() - last, &new[first..new.len() - last]));
        return Ok(moved);
    }
    edits.add(&g.to, Edit::new(0, g.to.text.len(), &*moved.text));
    left(g, &nodes, around)?.into_iter().for_each(|e| edits.add(s, e));
    Ok(moved)
}

/// What the old file keeps.
fn left(g: &Going, nodes: &[NodeId], around: &Around) -> Found<Vec<Edit>> {
    let s = &g.from;
    let mut out = match g.outer.last() {
        Some(outer) => without_members(s, *outer, vec![g.class], g.bases().nothing())?,
        None => {
            let span = with_gap(s, g.class)?;
            vec![Edit::new(span.start, span.end, "")]
        }
    };
    let spans: Vec<Span> = out.iter().map(|e| e.span).collect();
    out.extend(around.opened.iter().flat_map(|o| o.edits.iter().cloned()));
    let stays: Vec<NodeId> = nodes.iter().copied().filter(|n| !g.holds(s, *n)).collect();
    let mut bare = None;
    for n in stays {
        let named = users::edit(g, s, n)?;
        let linked = s.tree.ancestor(n, &[Role::ImportFrom]).is_some();
        bare = bare.or(Some(n).filter(|_| named.bare && !linked));
        out.extend(named.edit);
    }
    let gone = unneeded::edits(g.with_new, s, g.target, &spans, &[]);
    let mut line = None;
    if let Some(n) = bare.filter(|_| !g.near()) {
        let none = || vec![reason(s, n, Code::NoHome, format!("`{}` can't be imported", g.name()))];
        line = Some(users::import_line(g, s).and_then(|l| add_import(s, &l, g.name())).ok_or_else(none)?);
    }
    let said = users::comments(g, s, line.is_some() || g.near());
    let inside = |e: &Edit| spans.iter().any(|x| x.contains(e.span));
    out.extend(said.into_iter().filter(|e| !g.same_path() && !inside(e)));
    out.extend(unneeded::joined(s, line, gone));
    Ok(out)
}

/// The lines of a class at the top of its file, with its comments, and the blank lines that kept it apart.
fn with_gap(s: &Source, class: NodeId) -> Found<Span> {
    let own = lines_of(s, class);
    let span = s.tree.span(class);
    let before = &s.text[line_start(&s.text, span.start)..span.start];
    if !before.trim().is_empty() || !s.text[span.end..line_end(s, span.end)].trim().is_empty() {
        return Err(vec![reason(s, class, Code::SharedLine, "another class stands on the same line")]);
    }
    let end = s.text[own.end..]
        .find('\n')
        .filter(|_| !s.text[..own.end].ends_with('\n'))
        .map_or(own.end, |i| own.end + i + 1);
    let above = s.text[..own.start].trim_end().len();
    let behind = end + (s.text[end..].len() - s.text[end..].trim_start_matches(['\n', '\r']).len());
    Ok(match behind == s.text.len() {
        true => Span::new(line_end_at(&s.text, above), own.end.max(end)),
        false => Span::new(own.start, behind),
    })
}

/// Behind the line of a place.
fn line_end_at(text: &str, at: usize) -> usize {
    text[at..].find('\n').map_or(text.len(), |i| at + i + 1)
}

/// The old text with the new package, without other classes, and without imports that only these need.
fn moved_text(g: &Going, nodes: &[NodeId], (opened, around): (&[Opened], &Around)) -> Found<String> {
    let (s, t) = (&g.from, &g.from.tree);
    let mut out: Vec<Edit> = opened.iter().flat_map(|o| o.edits.iter().cloned()).collect();
    out.extend(around.edits.iter().cloned());
    if !g.near() {
        out.extend(package(g));
        out.extend(links(g));
    }
    if !g.same_path() {
        out.extend(users::comments(g, s, true));
    }
    let mut gone = Vec::new();
    for n in nodes {
        let Some(e) = users::edit(g, s, *n)?.edit else { continue };
        match t.ancestor(*n, &[Role::Import, Role::ImportFrom]) {
            Some(import) => out.extend(users::in_order(s, import, e, &mut gone)),
            None => out.push(e),
        }
    }
    let code: Vec<NodeId> = t.children(Tree::ROOT).filter(|n| !is_import(s, *n) && t.role(*n) != Role::Doc).collect();
    let own = lines_of(s, g.class);
    for n in code.iter().filter(|n| **n != g.class) {
        if t.contains(*n, g.class) {
            // what is around it goes, and its lines are as deep as those of a file's own class
            let whole = lines_of(s, *n);
            let at = around_end(s, whole);
            gone.extend([Edit::new(whole.start, own.start, ""), Edit::new(own.end, at, "")]);
            out.extend(less_deep(g, own)?);
            continue;
        }
        let span = with_gap(s, *n)?;
        match gone.last_mut().filter(|e: &&mut Edit| span.start < e.span.end && e.span.start <= span.start) {
            // both take the lines between them
            Some(before) => before.span.end = before.span.end.max(span.end),
            None => gone.push(Edit::new(span.start, span.end, "")),
        }
    }
    for import in t.children(Tree::ROOT).filter(|n| is_import(s, *n)) {
        let all = s.lang.imports_of(t, import, &s.text);
        let is_static = is_of_members(s.str(import));
        let beside = |module: &str, i: &crate::names::ImportRef| i.module == module && !is_static && i.member.is_some();
        let same = !g.near() && all.iter().any(|i| beside(&g.packages[1].join("."), i));
        let used = all.iter().all(|i| {
            let name = i.member.as_deref().filter(|_| !i.wildcard);
            name.is_none_or(|m| whole_words(&s.text[own.start..own.end], m).next().is_some())
        });
        let lines = whole_lines(s, t.span(import));
        if (same || !used && !g.is_whole()) && lines != t.span(import) {
            gone.push(Edit::new(lines.start, lines.end, ""));
        }
    }
    // at the end of what goes something may begin that stays
    out.retain(|e| !gone.iter().any(|x| x.span.contains(e.span) && e.span.start < x.span.end));
    out.extend(unneeded::joined(s, None, gone));
    out.sort_by_key(|e| (e.span.start, e.span.end));
    out.dedup();
    let text = apply_edits(&s.text, &out).map_err(|e| vec![reason(s, g.class, Code::SharedLine, e.to_string())])?;
    Ok(format!("{}\n", text.trim_end()))
}

/// The end of the last line of some lines.
fn around_end(s: &Source, lines: Span) -> usize {
    let end = s.text[lines.start..lines.end].trim_end().len() + lines.start;
    s.text[end..].find('\n').map_or(s.text.len(), |i| end + i + 1).min(s.text.len())
}

/// The edits by which lines lose the indentation that the classes around gave them.
fn less_deep(g: &Going, lines: Span) -> Found<Vec<Edit>> {
    let (s, t) = (&g.from, &g.from.tree);
    let refuse = |why: &str| Err(vec![reason(s, g.class, Code::SharedLine, why)]);
    let several = |n: NodeId| t.role(n) == Role::Literal && s.str(n).contains('\n');
    if t.subtree(g.class).any(several) {
        return refuse("a text of several lines would be indented in another way");
    }
    let depth = s.habits().unit.repeat(g.outer.len());
    let (mut at, mut out) = (lines.start, Vec::new());
    for line in s.text[lines.start..lines.end].split_inclusive('\n') {
        if !line.trim().is_empty() {
            if !line.starts_with(&depth) {
                return refuse("its lines are indented in no regular way");
            }
            out.push(Edit::new(at, at + depth.len(), ""));
        }
        at += line.len();
    }
    Ok(out)
}

/// The statement that says the package.
fn package(g: &Going) -> Option<Edit> {
    let (s, t) = (&g.from, &g.from.tree);
    let head = g.to.text.trim_end();
    let said = t.children(Tree::ROOT).find(|n| t.role(*n) == Role::Doc && !g.packages[0].is_empty());
    match said {
        Some(n) if head.is_empty() => {
            let end = s.text[t.span(n).end..].len() - s.text[t.span(n).end..].trim_start().len();
            Some(Edit::new(t.span(n).start, t.span(n).end + end, ""))
        }
        Some(n) => Some(Edit::new(t.span(n).start, t.span(n).end, head)),
        None => {
            let first = t.children(Tree::ROOT).next()?;
            let class = t.role(first) == Role::Class;
            let at = if class { lines_of(s, first).start } else { line_start(&s.text, t.span(first).start) };
            Some(Edit::new(at, at, format!("{head}\n\n")))
        }
    }
}

/// Classes of the old package that comments of the class name by links.
fn links(g: &Going) -> Vec<Edit> {
    let s = &g.from;
    let own = lines_of(s, g.class);
    let mut out = Vec::new();
    for c in s.tree.comments().iter().filter(|c| own.contains(**c)) {
        let text = &s.text[c.start..c.end];
        for (i, _) in text.match_indices(char::is_alphabetic) {
            let word: String = text[i..].chars().take_while(|x| x.is_alphanumeric() || *x == '_').collect();
            let whole = !text[..i].ends_with(|x: char| x.is_alphanumeric() || x == '_');
            if !whole || !users::is_link(g, &text[..i]) || word == g.name() || s.names.in_module(&word).is_some() {
                continue;
            }
            let Entity::Member(file, _) = g.project.entity(s, &word) else { continue };
            let named = g.project.source(file).is_ok_and(|h| g.is_of(&h, 0));
            let code = g.from.tree.subtree(g.class).any(|n| s.tree.is_leaf(n) && s.str(n) == word);
            if named && !code {
                out.push(Edit::new(c.start + i, c.start + i + word.len(), path(&g.packages[0], &word)));
            }
        }
    }
    out
}

/// The new file with the imports that the class needs there.
fn with_imports(g: &Going, text: String, around: &Around) -> Found<Arc<Source>> {
    let s = &g.from;
    let cant = |e: String| vec![reason(s, g.class, Code::SharedLine, e)];
    let mut new = g.with_new.parse(&g.to.path, text.into()).map_err(cant)?;
    if !new.tree.errors().is_empty() {
        return Err(cant("the class does not stand by itself".into()));
    }
    if g.near() {
        return Ok(Arc::new(new));
    }
    let class = g.from.str(g.class);
    let mut beside = of_its_package(g);
    // the class around, by which some names are said now
    if let Some(outer) = g.outer.first().filter(|_| around.names_them && !g.near()) {
        beside.push((*outer, super::name_of(s, *outer).to_string()));
    }
    let word = |name: &str| s.lang.needs_class(name) || s.lang.object_word() == Some(name);
    // what no class is is inherited, or comes by an import of all that a class has
    let own: Vec<_> = s.names.in_range(g.class, s.tree.end(g.class)).iter().collect();
    let no_type = |name: &str| {
        let mut all = own.iter().filter(|r| s.str(r.node) == name).peekable();
        s.names.in_module(name).is_none() && all.peek().is_some() && all.all(|r| !r.may_be_type())
    };
    let whole = by_whole_packages(g, &new);
    let comes = |name: &str| whole.iter().any(|w| w == name) || beside.iter().any(|(_, n)| n == name);
    let known = |name: &str| word(name) || no_type(name) || comes(name) || super::begins_a_path(g.project, &[s], name);
    let needed = outside::needed(g.with_new, &new, s, g.class, class, &known);
    let mut lines = Vec::new();
    for (node, name) in needed.map_err(|r| vec![r])?.into_iter().chain(beside) {
        lines.push((import_of(g, node, &name).map_err(|r| vec![r])?, name));
    }
    let any = new.tree.children(Tree::ROOT).any(|n| is_import(&new, n));
    if !any && lines.len() > 1 {
        lines.sort();
        let all: Vec<&str> = lines.iter().map(|l| l.0.as_str()).collect();
        lines = vec![(all.join("\n"), String::new())];
    }
    for (line, name) in lines {
        let edit = add_import(&new, &line, &name).ok_or_else(|| cant(format!("`{name}` can't be imported")))?;
        let text = apply_edits(&new.text, &[edit]).map_err(|e| cant(e.to_string()))?;
        new = g.with_new.parse(&g.to.path, text.into()).map_err(cant)?;
    }
    Ok(Arc::new(new))
}

/// Classes of its old package that the class names by that alone, each with a use.
fn of_its_package(g: &Going) -> Vec<(NodeId, String)> {
    let s = &g.from;
    let mut out: Vec<(NodeId, String)> = Vec::new();
    let bare = |n: &NodeId| {
        s.tree.is_leaf(*n) && s.tree.role(*n) == Role::Name && s.names.at(*n).is_none_or(|r| r.target.is_none())
    };
    let definitions = |s: &Source, name: &str| g.project.definition(s, name);
    for n in s.tree.subtree(g.class).filter(bare) {
        let name = s.str(n);
        let own = matches!(g.project.entity(s, name), Entity::Member(f, _) if g.project.source(f).is_ok_and(|h| g.is_of(&h, 0)));
        let class = || matches!(s.lang.class_named(s, n, &definitions), MemberOf::Class(_) | MemberOf::Likely(_));
        if own && s.names.in_module(name).is_none() && !out.iter().any(|(_, n)| n == name) && class() {
            out.push((n, name.to_string()));
        }
    }
    out
}

/// Classes that imports of all that a package has bring, which no class of the new package has the name of.
fn by_whole_packages(g: &Going, new: &Source) -> Vec<String> {
    let (s, t) = (&g.from, &g.from.tree);
    let definitions = |s: &Source, name: &str| g.project.definition(s, name);
    let all = t.children(Tree::ROOT).flat_map(|n| s.lang.imports_of(t, n, &s.text)).filter(|i| i.wildcard);
    let packages: Vec<String> = all.map(|i| i.module).collect();
    let mut out: Vec<String> = Vec::new();
    for n in t.subtree(g.class).filter(|n| t.is_leaf(*n) && t.role(*n) == Role::Name && !packages.is_empty()) {
        let name = s.str(n);
        let MemberOf::Class(c) = s.lang.class_named(s, n, &definitions) else { continue };
        let from = packages.iter().any(|p| class_tree::is_named(c, &format!("{p}.{name}")));
        let hidden = matches!(g.with_new.entity(new, name), Entity::Member(f, _)
            if g.with_new.source(f).is_ok_and(|h| g.is_of(&h, 1) && !class_tree::is_named(c, &path(&g.packages[1], name))));
        if from && !hidden && s.names.in_module(name).is_none() {
            out.push(name.to_string());
        }
    }
    out
}

/// The import in the new file of a name that the old one sees.
fn import_of(g: &Going, node: NodeId, name: &str) -> Result<String, Reason> {
    let s = &g.from;
    let refuse = || reason(s, node, Code::NoHome, format!("`{name}` can't be imported in {}", g.to.path));
    let own =
        || s.names.in_module(name).filter(|b| s.names.binding(*b).import.is_some()).and_then(|b| import_alone(s, b));
    match g.project.origin(&g.project.entity(s, name)) {
        Entity::Member(file, there) if there == name => {
            let module = crate::plan::imports::as_said(g.project, file).ok_or_else(refuse)?;
            own().or_else(|| s.lang.import_line(s, &module, name, false)).ok_or_else(refuse)
        }
        _ => own().ok_or_else(refuse),
    }
}
