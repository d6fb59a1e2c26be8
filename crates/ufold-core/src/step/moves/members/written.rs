//! The edits: the members with their comments leave one class and come into another one, uses name that, and imports follow.

use super::chosen::Member;
use super::{Moving, comments};
use std::sync::Arc;

use super::inside::Inner;
use super::users::Users;
use crate::change::{Code, Edits, Found, Reason, reason};
use crate::index::class_members::is_function;
use crate::index::{Entity, Project};
use crate::lang::Reach;
use crate::names::Source;
use crate::plan::class_reach::is_meant;
use crate::plan::class_text::{lines_of, with_members, without_members};
use crate::plan::imports::{add_import, as_in, import_alone, import_edit, import_text};
use crate::plan::outside::needed;
use crate::plan::unneeded;
use crate::text::{Edit, Span, apply_edits};
use crate::tree::{Field, NodeId, Role, Tree};

pub(super) fn edits(m: &Moving, inner: &Inner, users: &Users, edits: &mut Edits) -> Found<()> {
    let said = comments::edits(m);
    let own = texts(m, inner, users, &said)?;
    let whole: String = own.iter().map(|o| o.0.as_str()).collect::<Vec<_>>().join("\n");
    let s = &m.from;
    let nodes = m.members.iter().map(|x| x.node).collect();
    let gone = without_members(s, m.class, nodes, s.lang.bases().map_or("", |b| b.nothing()))?;
    gone.into_iter().for_each(|e| edits.add(s, e));
    for o in &inner.opened {
        let opened = s.lang.with_reach(s, o.declaration, Reach::Near).unwrap_or_default();
        opened.into_iter().for_each(|e| edits.add(s, e));
    }
    for (s, e) in said.into_iter().filter(|(s, e)| s.path != m.from.path || !in_members(m, e.span)) {
        edits.add(&s, e);
    }
    of_users(m, users, &whole, edits)?;
    with_members(&m.to, m.home, &own).into_iter().for_each(|e| edits.add(&m.to, e));
    let mut lines = imports(m, inner, &whole)?;
    let t = &m.to.tree;
    if !t.children(Tree::ROOT).any(|n| matches!(t.role(n), Role::Import | Role::ImportFrom)) && lines.len() > 1 {
        // the first ones of a file stand together
        let all: Vec<&str> = lines.iter().map(|l| l.0.as_str()).collect();
        lines = vec![(as_in(s, &all), String::new())];
    }
    for (line, name) in lines {
        add_import(&m.to, &line, &name).into_iter().for_each(|e| edits.add(&m.to, e));
    }
    Ok(())
}

/// The texts of the members as they stand in the new class, and which are functions.
fn texts(m: &Moving, inner: &Inner, users: &Users, said: &[(Arc<Source>, Edit)]) -> Found<Vec<(String, bool)>> {
    let s = &m.from;
    let mut out = Vec::new();
    let all = users.edits(&s.path).0;
    for x in &m.members {
        let span = lines_of(s, x.node);
        let reach = users.reach(&x.name);
        let closed = match reach {
            Reach::Own => false,
            Reach::All => !s.lang.is_open(s, x.node),
            _ => s.lang.hides_member(s, x.node),
        };
        let opened = if closed { s.lang.with_reach(s, x.node, reach).unwrap_or_default() } else { Vec::new() };
        let said = said.iter().filter(|(o, _)| o.path == s.path).map(|(_, e)| e);
        let within = inner.edits.iter().chain(&all).chain(&opened).chain(said).filter(|e| span.contains(e.span));
        let mut shifted: Vec<Edit> =
            within.map(|e| Edit::new(e.span.start - span.start, e.span.end - span.start, e.text.clone())).collect();
        shifted.sort_by_key(|e| e.span.start);
        let text = apply_edits(&s.text[span.start..span.end], &shifted);
        let text = text.map_err(|e| vec![reason(s, x.node, Code::SharedLine, e.to_string())])?;
        let text = text.replace("\r\n", "\n");
        out.push((format!("{}\n", at_depth(m, x, &text)?.trim_end_matches('\n')), is_function(s, x.node)));
    }
    Ok(out)
}

/// A place in the lines of the members.
fn in_members(m: &Moving, span: Span) -> bool {
    m.members.iter().any(|x| lines_of(&m.from, x.node).contains(span))
}

/// Lines as deep as those of the new class, in its indentation.
fn at_depth(m: &Moving, x: &Member, text: &str) -> Found<String> {
    let depth = |s: &Source, class| s.tree.ancestors(class).filter(|a| s.tree.role(*a) == Role::Class).count();
    let less = depth(&m.from, m.class).saturating_sub(depth(&m.to, m.home));
    let (t, own) = (&m.from.tree, m.from.habits().unit.as_str());
    let other = m.to.habits().unit.as_str();
    let unit =
        if m.to.tree.child(m.home, Field::Body).is_some_and(|b| m.to.str(b).contains(';')) { other } else { own };
    if less == 0 && unit == own {
        return Ok(text.to_string());
    }
    let refuse = |why: &str| Err(vec![reason(&m.from, x.node, Code::SharedLine, why)]);
    let lines = |n: NodeId| t.role(n) == Role::Literal && m.from.str(n).contains('\n');
    if t.subtree(x.node).any(lines) {
        return refuse("a text of several lines would be indented in another way");
    }
    let mut out = String::new();
    for line in text.lines() {
        let deep = line.len() - line.trim_start().len();
        let units = line[..deep].matches(own).count();
        if units < less && !line.trim().is_empty() {
            return refuse("its lines are indented in no regular way");
        }
        let rest = line[..deep].replacen(own, "", units);
        let indent =
            if line.trim().is_empty() { String::new() } else { format!("{}{rest}", unit.repeat(units - less)) };
        out.push_str(&format!("{indent}{}\n", &line[deep..]));
    }
    Ok(out)
}

/// Uses outside the moved code, with the imports of their files.
fn of_users(m: &Moving, users: &Users, whole: &str, edits: &mut Edits) -> Found<()> {
    let name = m.new_name();
    let mut files = users.sources();
    if !files.iter().any(|s| s.path == m.from.path) {
        files.push(&m.from);
    }
    for s in files {
        let spans: Vec<Span> = match s.path == m.from.path {
            true => m.members.iter().map(|x| lines_of(s, x.node)).collect(),
            false => Vec::new(),
        };
        let (own, named) = users.edits(&s.path);
        let own: Vec<Edit> = own.into_iter().filter(|e| !spans.iter().any(|x| x.contains(e.span))).collect();
        let outside = named && !own.is_empty();
        let replaced: Vec<Span> = own.iter().map(|e| e.span).filter(|x| x.start < x.end).chain(spans).collect();
        let stays = if s.path == m.to.path { whole } else { "" };
        let gone = unneeded::edits(m.project, s, m.target, &replaced, &[stays, name]);
        let gone: Vec<Edit> = gone.into_iter().filter(|g| !own.iter().any(|e| g.span.contains(e.span))).collect();
        let import = match outside && sees_by_import(m, s) {
            true => {
                let none =
                    || vec![reason(s, crate::tree::Tree::ROOT, Code::NoHome, format!("`{name}` can't be imported"))];
                Some(import_edit(m.project, s, m.target, name).ok_or_else(none)?)
            }
            false => None,
        };
        own.into_iter().for_each(|e| edits.add(s, e));
        unneeded::joined(s, import, gone).into_iter().for_each(|e| edits.add(s, e));
    }
    Ok(())
}

/// A file of another package that does not import the new class yet.
fn sees_by_import(m: &Moving, s: &Source) -> bool {
    s.package() != m.to.package() && !is_meant(m.project, s, (m.target, &m.to, m.home))
}

/// Imports that the members need in the new file.
fn imports(m: &Moving, inner: &Inner, whole: &str) -> Found<Vec<(String, String)>> {
    let (s, to, first) = (&m.from, &m.to, m.members[0].node);
    if s.path == to.path {
        return Ok(Vec::new());
    }
    let of = s.lang.bases().expect("the classes fit");
    let text = of.class(s, m.new_name(), whole, false);
    let found = needed(m.project, to, s, first, &text, &|name| {
        inner.labels.iter().any(|l| l == name) || super::begins_a_path(m.project, &[s, to], name)
    })
    .map_err(|r| vec![r])?;
    let mut out: Vec<(String, String)> = Vec::new();
    // types of functions are brought where they are written, as those that the file imports
    let own = m.members.iter().flat_map(|x| s.names.in_range(x.node, s.tree.end(x.node)));
    for r in own {
        let name = s.str(r.node);
        let brought =
            r.target.filter(|_| s.names.is_imported(r.node) && !to.lang.imports_for_type(to, name).is_empty());
        let Some(b) = brought.filter(|_| !out.iter().any(|(_, n)| n == name)) else { continue };
        let same = m.project.entity(s, name) == m.project.entity(to, name);
        let line = import_alone(s, b).filter(|_| !same && to.names.in_module(name).is_none());
        out.extend(line.map(|l| (l, name.to_string())));
    }
    for (node, name) in found {
        let line = import_of(m.project, (s, node), (to, m), &name).map_err(|r| vec![r])?;
        out.push((line, name));
    }
    Ok(out)
}

/// The import of a name of the old file in the new one.
fn import_of(
    project: &Project,
    (s, node): (&Source, NodeId),
    (to, m): (&Source, &Moving),
    name: &str,
) -> Result<String, Reason> {
    let refuse = || reason(s, node, Code::NoHome, format!("`{name}` can't be imported in {}", to.path));
    let b = s.names.in_module(name).ok_or_else(refuse)?;
    match project.origin(&project.entity(s, name)) {
        Entity::Foreign(module, _) => {
            let root = |s: &Source| s.module.as_ref().map(|x| x.base.clone());
            let loaded = s.lang.is_standard_module(&module)
                || root(s) == root(to)
                || project.modules().needs(m.target).contains(&module);
            import_alone(s, b).filter(|_| loaded).ok_or_else(refuse)
        }
        Entity::Member(file, own) if own == name => {
            let home = project.source(file).map_err(|_| refuse())?;
            let class = home.names.in_module(name).and_then(|b| home.tree.parent(home.names.binding(b).first));
            let open = class.is_some_and(|c| home.lang.is_open(&home, c));
            let line = match project.facts[file].path == s.path {
                true => import_text(project, to, file, name).filter(|_| open),
                false => import_alone(s, b).or_else(|| import_text(project, to, file, name)),
            };
            line.ok_or_else(refuse)
        }
        _ => Err(refuse()),
    }
}
