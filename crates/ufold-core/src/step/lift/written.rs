//! The edits: members and parts of constructors go, the base has them, and classes come to extend it.

use super::classes::{Held, statement_of};
use super::constructor::{Part, Parts};
use super::{Base, Lift, Text};
use crate::change::{Code, Edits, Found, NewFunction, Outcome, lost_comment, reason};
use crate::index::class_members::{constructors, is_function};
use crate::index::{Entity, bases};
use crate::lang::ConstructorParts;
use crate::names::Source;
use crate::plan::class_text::{lines_of, with_members, without_members};
use crate::plan::imports::{add_import, import_edit};
use crate::plan::lines::{comments_above, line_end, line_start};
use crate::plan::outside::{import_of, needed, of_new_file};
use crate::plan::unneeded;
use crate::text::{Edit, Span, apply_edits};
use crate::tree::{Field, NodeId, Role, Tree};

/// The edits with their remarks; its reasons are what they assume.
pub(super) fn outcome(lift: &Lift, parts: Option<&Parts>) -> Found<Outcome> {
    let mut edits = Edits::default();
    let mut assumed = Vec::new();
    let name = lift.base.name();
    let (text, own) = members(lift, parts)?;
    let base = lift.base.source().clone();
    for (i, h) in lift.classes.iter().enumerate() {
        of_class(lift, (i, h), parts)?.into_iter().for_each(|e| edits.add(&h.s, e));
    }
    for (i, h) in lift.classes.iter().enumerate() {
        if lift.classes[..i].iter().any(|o| o.file == h.file) {
            continue;
        }
        let gone = imports_gone(lift, h, parts, &text);
        let comes = lift.base.is_new() && h.file != lift.base.file();
        let import = if comes { edits_of_import(lift, h, &name)? } else { None };
        unneeded::joined(&h.s, import, gone).into_iter().for_each(|e| edits.add(&h.s, e));
    }
    put(lift, &text, &own)?.into_iter().for_each(|e| edits.add(&base, e));
    if lift.is_new_file() {
        let files: Vec<usize> = lift.classes.iter().map(|h| h.file).collect();
        assumed.extend(of_new_file(lift.project, &lift.first().s, lift.base.file(), &files)?);
    }
    let (mut files, saves) = edits.finish();
    files.iter_mut().for_each(|f| merge(&mut f.edits));
    let function = NewFunction {
        name: name.clone(),
        file: base.path.clone(),
        class: Some(name),
        nested: false,
        text,
        unnamed: false,
        from_copy: 1,
        results: Vec::new(),
        given: 0,
        bundle: None,
        function_types: Vec::new(),
        returns: false,
    };
    let remarks = lost(lift, parts, &function.text);
    Ok(Outcome { files, saves, remarks, reasons: assumed, function: Some(function), ..Outcome::refused(Vec::new()) })
}

/// What changes in a class itself.
fn of_class(lift: &Lift, (i, h): (usize, &Held), parts: Option<&Parts>) -> Found<Vec<Edit>> {
    let mut out = removed(lift, i, parts)?;
    if lift.base.is_new() {
        out.extend(lift.of.extended(&h.s, h.class, &lift.base.name()));
        out.extend(constructor(lift, i, parts));
    }
    Ok(out)
}

/// Imports of a file that only what went needed.
fn imports_gone(lift: &Lift, h: &Held, parts: Option<&Parts>, text: &str) -> Vec<Edit> {
    let mut replaced: Vec<Span> = Vec::new();
    for (i, o) in lift.classes.iter().enumerate().filter(|(_, o)| o.file == h.file) {
        let t = &o.s.tree;
        replaced.extend(o.nodes().map(|n| t.span(n)));
        replaced.extend(parts.iter().flat_map(|p| p.held[i].statements.iter()).map(|n| t.span(*n)));
    }
    let stays = if h.file == lift.base.file() { text } else { "" };
    unneeded::edits(lift.project, &h.s, lift.base.file(), &replaced, &[stays])
}

/// Edits at one place become one.
fn merge(all: &mut Vec<Edit>) {
    all.sort_by_key(|e| (e.span.start, e.span.end));
    let mut out: Vec<Edit> = Vec::new();
    for e in all.drain(..) {
        match out.last_mut() {
            Some(l) if l.span.end == e.span.start && l.span.start == l.span.end && e.span.start == e.span.end => {
                l.text.push_str(&e.text);
            }
            _ => out.push(e),
        }
    }
    *all = out;
}

fn edits_of_import(lift: &Lift, h: &Held, name: &str) -> Found<Option<Edit>> {
    let home = lift.base.file();
    if lift.project.entity(&h.s, name) == Entity::Member(home, name.to_string()) {
        return Ok(None);
    }
    if h.s.lang.packages_share_names() && h.s.package() == lift.base.source().package() {
        return Ok(None);
    }
    let Some(e) = import_edit(lift.project, &h.s, home, name) else {
        let message = format!("{} can't be imported in {}", lift.base.source().path, h.s.path);
        return Err(vec![reason(&h.s, h.class, Code::NoHome, message)]);
    };
    Ok(Some(e))
}

/// The members go, with blank lines that kept them apart.
fn removed(lift: &Lift, at: usize, parts: Option<&Parts>) -> Found<Vec<Edit>> {
    let h = &lift.classes[at];
    let empty = parts.map(|p| (&p.held[at], p)).filter(|(own, p)| says_no_more(lift, h, own, p));
    let gone: Vec<NodeId> = h.nodes().chain(empty.map(|(own, _)| own.function)).collect();
    without_members(&h.s, h.class, gone, lift.of.nothing())
}

/// What becomes of a constructor.
fn constructor(lift: &Lift, at: usize, parts: Option<&Parts>) -> Vec<Edit> {
    let h = &lift.classes[at];
    let (s, t) = (&h.s, &h.s.tree);
    let Some(parts) = parts else {
        // one that says nothing of the class above must
        let silent = |f: &NodeId| {
            let first = t.child(*f, Field::Body).and_then(|b| t.children(b).find(|c| t.role(*c) != Role::Token));
            !h.goes(*f) && first.is_none_or(|n| !lift.of.is_call_above(s, n))
        };
        let all = if lift.of.must_call_above() { constructors(s, lift.of, h.class) } else { Vec::new() };
        return all
            .into_iter()
            .filter(silent)
            .filter_map(|f| {
                let b = t.child(f, Field::Body)?;
                let (start, indent) = (t.span(b).start + 1, indent_of(s, f));
                let line = format!("\n{indent}{}{}", s.habits().unit, lift.of.call_above(s, &[]));
                let inner = &s.text[start..t.span(b).end - 1];
                Some(match inner.trim().is_empty() {
                    true => Edit::new(start, start + inner.len(), format!("{line}\n{indent}")),
                    false => Edit::new(start, start, line),
                })
            })
            .collect();
    };
    let p = &parts.held[at];
    if says_no_more(lift, h, p, parts) {
        return Vec::new();
    }
    let (first, last) = (p.above.unwrap_or(p.statements[0]), p.statements[p.statements.len() - 1]);
    vec![Edit::new(t.span(first).start, t.span(last).end, lift.of.call_above(s, &parts.names))]
}

/// A constructor would do nothing but call the one above with what it is given: without it the class has that one.
fn says_no_more(lift: &Lift, h: &Held, p: &Part, parts: &Parts) -> bool {
    let (s, t) = (&h.s, &h.s.tree);
    let of = |n: NodeId| t.children(n).filter(|c| t.role(*c) != Role::Token).collect::<Vec<_>>();
    let list = t.child(p.function, Field::Parameters).map_or(Vec::new(), of);
    let own: Vec<&str> = list.into_iter().map(|c| s.str(c)).collect();
    let body = t.child(p.function, Field::Body).map_or(Vec::new(), of);
    let rest = body.into_iter().any(|c| !p.statements.contains(&c) && Some(c) != p.above);
    let comment = t.comments().iter().any(|c| t.span(p.function).contains(*c));
    let plain = t.parent(p.function) == t.child(h.class, Field::Body)
        && !t.children(p.function).any(|c| t.role(c) == Role::Decorator);
    lift.of.inherits_constructors() && own == parts.parameters && !rest && !comment && plain
}

fn indent_of(s: &Source, n: NodeId) -> String {
    let start = s.tree.span(n).start;
    let line = line_start(&s.text, start);
    s.text[line..start].chars().take_while(|c| c.is_whitespace()).collect()
}

/// The text of the members as they stand in the base, and of which of their lines each is a function.
fn members(lift: &Lift, parts: Option<&Parts>) -> Found<(String, Vec<(String, bool)>)> {
    let h = lift.first();
    let (s, t) = (&h.s, &h.s.tree);
    let mut own: Vec<(String, bool)> = Vec::new();
    let mut all: Vec<(NodeId, usize, usize)> = Vec::new();
    for (m, d) in h.members.iter().enumerate() {
        all.extend(d.nodes.iter().enumerate().map(|(i, n)| (*n, m, i)));
    }
    all.sort();
    for (_, m, i) in all {
        let (s, n) = spoken(lift, m, i);
        let span = lines_of(s, n);
        let name = crate::index::class_members::name_of(s, n).map_or("", |w| s.str(w));
        let below = lift.classes.iter().enumerate().any(|(i, h)| named_below(h, i, parts, name));
        let Some(edits) = lift.of.opened(s, n, below) else {
            return Err(vec![reason(s, n, Code::NeedsClass, "code below could not name this")]);
        };
        let shifted =
            edits.iter().map(|e| Edit::new(e.span.start - span.start, e.span.end - span.start, e.text.clone()));
        let text = apply_edits(&s.text[span.start..span.end], &shifted.collect::<Vec<_>>());
        let text = text.map_err(|e| vec![reason(s, n, Code::SharedLine, e.to_string())])?;
        own.push((format!("{}\n", text.trim_end_matches(['\n', '\r'])), is_function(s, n)));
    }
    if let Some(p) = parts {
        let first = &p.held[0];
        let indent = indent_of(s, first.function);
        let unit = s.habits().unit.as_str();
        let span = Span::new(
            comments_above(s, line_start(&s.text, t.span(first.statements[0]).start)),
            line_end(s, t.span(first.statements[first.statements.len() - 1]).end),
        );
        let body = format!("{}\n", &s.text[span.start..span.end]);
        let name = lift.base.name();
        let text = lift.of.constructor(&ConstructorParts {
            class: &name,
            parameters: &p.parameters,
            body: &body,
            indent: &indent,
            unit,
        });
        let at = own.iter().position(|o| o.1).unwrap_or(own.len());
        own.insert(at, (text, true));
    }
    let (_, blank) = s.lang.blank_lines();
    let mut text = String::new();
    for (i, (t, function)) in own.iter().enumerate() {
        if i > 0 && (*function || own[i - 1].1) {
            text.push_str(&"\n".repeat(blank));
        }
        text.push_str(t);
    }
    Ok((text.replace("\r\n", "\n"), own))
}

/// The class whose text of a member is taken: the first, unless that says nothing of it and another one does.
fn spoken<'a>(lift: &'a Lift, m: usize, i: usize) -> (&'a Text, NodeId) {
    let unit = &lift.first().s.habits().unit;
    let of = |h: &'_ Held| h.members[m].nodes[i];
    let fits = |h: &&Held| h.s.habits().unit == *unit && !comments_in(&h.s, lines_of(&h.s, of(h))).is_empty();
    let h = lift.classes.iter().find(fits).unwrap_or(lift.first());
    (&h.s, of(h))
}

/// The texts of the comments in a span.
fn comments_in(s: &Source, span: Span) -> Vec<&str> {
    let own = s.tree.comments().iter().filter(|c| span.contains(**c));
    own.map(|c| s.lang.comment_text(&s.text[c.start..c.end]).trim()).collect()
}

/// Comments of members and constructors that are not kept.
fn lost(lift: &Lift, parts: Option<&Parts>, text: &str) -> Vec<String> {
    let mut out = Vec::new();
    for (i, h) in lift.classes.iter().enumerate() {
        let mut spans: Vec<Span> = h.nodes().map(|n| lines_of(&h.s, n)).collect();
        spans.extend(parts.map(|p| {
            let (all, t) = (&p.held[i].statements, &h.s.tree);
            Span::new(t.span(p.held[i].above.unwrap_or(all[0])).start, t.span(all[all.len() - 1]).end)
        }));
        let said = spans.iter().flat_map(|span| comments_in(&h.s, *span));
        out.extend(said.filter(|c| !text.contains(*c)).map(|c| lost_comment(&c.replace('\n', " "), i + 1)));
    }
    out
}

/// Code of the class that stays, or of its neighbours in the file, has the word.
fn named_below(h: &Held, at: usize, parts: Option<&Parts>, name: &str) -> bool {
    let (s, t) = (&h.s, &h.s.tree);
    let goes = |n: NodeId| h.goes(n) || parts.is_some_and(|p| p.held[at].statements.iter().any(|g| t.contains(*g, n)));
    t.ids().any(|n| t.is_leaf(n) && s.str(n) == name && matches!(t.role(n), Role::Name | Role::MemberName) && !goes(n))
}

/// The base with its members.
fn put(lift: &Lift, text: &str, own: &[(String, bool)]) -> Found<Vec<Edit>> {
    let (to, h) = (lift.base.source(), lift.first());
    let other = to.path != h.s.path;
    if other && to.habits().unit != h.s.habits().unit && !lift.is_new_file() {
        let message = format!("{} is indented in another way", to.path);
        return Err(vec![reason(&h.s, h.class, Code::NoHome, message)]);
    }
    let imports = if other { imports(lift, to, text)? } else { Vec::new() };
    let mut out = Vec::new();
    match &lift.base {
        Base::There { class, .. } => {
            out.extend(with_members(to, class.node, own));
            out.extend(imports.iter().filter_map(|(line, name)| add_import(to, line, name)));
        }
        Base::New { name, .. } => {
            let open = h.s.lang.is_open(&h.s, h.class) || lift.is_new_file() && h.s.lang.modules_are_values();
            let definition = lift.of.class(&h.s, name, text, open);
            out.extend(new_class(lift, to, &definition, &imports)?);
        }
    }
    Ok(out)
}

/// Imports that the members need in another file.
fn imports(lift: &Lift, to: &Text, text: &str) -> Found<Vec<(String, String)>> {
    let h = lift.first();
    let users: Vec<usize> = lift.classes.iter().map(|h| h.file).collect();
    let handed = |name: &str| {
        h.s.names.members_in_sight
            && h.s.names.in_module(name).is_none_or(|b| h.s.names.binding(b).import.is_none())
            && (h.member(name).is_some() || lift.base_has(name))
    };
    // as a class's they are no definitions of the file's
    let whole = lift.of.class(&h.s, "Ufold", text, false);
    let found =
        needed(lift.project, to, &h.s, h.nodes().next().unwrap_or(h.class), &whole, &handed).map_err(|r| vec![r])?;
    let mut out: Vec<(String, String)> = Vec::new();
    for (node, name) in found {
        let line = import_of(lift.project, (to, lift.base.file()), &users, (&h.s, node), &name).map_err(|r| vec![r])?;
        out.push((line, name));
    }
    Ok(out)
}

impl Lift<'_> {
    fn base_has(&self, name: &str) -> bool {
        let Base::There { class, .. } = &self.base else { return false };
        bases::with_bases(self.project, (class.source.clone(), class.node))
            .iter()
            .any(|(s, n)| crate::index::class_members::declared(s, *n).iter().any(|d| d.name == name))
    }
}

/// The comment with which all files of the classes begin, such as a licence.
fn shared_head(lift: &Lift) -> String {
    let head = |s: &Source| {
        let first = s.tree.children(Tree::ROOT).next().map_or(0, |n| s.tree.span(n).start);
        s.text[..first].trim_start_matches('\u{feff}').replace("\r\n", "\n")
    };
    let own = head(&lift.first().s);
    let all = lift.classes.iter().all(|h| head(&h.s) == own);
    if all && !own.trim().is_empty() && own.ends_with('\n') { own } else { String::new() }
}

/// The class that is made: above the first that extends it, or in a file of its own.
fn new_class(lift: &Lift, to: &Text, definition: &str, imports: &[(String, String)]) -> Found<Vec<Edit>> {
    let (h, lang) = (lift.first(), to.lang);
    let (top, _) = lang.blank_lines();
    let gap = "\n".repeat(top);
    let own = lift.classes.iter().filter(|h| h.file == lift.base.file());
    let first = own.filter_map(|h| statement_of(&h.s, h.class)).min();
    let visible = match lift.classes.iter().all(|h| h.file == lift.base.file()) {
        true => definition.to_string(),
        false => lang.exported(&h.s, definition),
    };
    if let Some(n) = first {
        let start = comments_above(to, line_start(&to.text, to.tree.span(n).start));
        return Ok(vec![Edit::new(start, start, format!("{visible}{gap}"))]);
    }
    let empty = to.tree.children(Tree::ROOT).next().is_none() || lift.is_new_file();
    let export = || lang.export_line(to, &h.s, &lift.base.name()).unwrap_or_default();
    if empty {
        let mut text = format!("{}{}", shared_head(lift), lang.head_of_like(&h.s));
        imports.iter().for_each(|(line, _)| text.push_str(&format!("{line}\n")));
        text.push_str(if imports.is_empty() { "" } else { &gap });
        text.push_str(&format!("{visible}{}", export()));
        return Ok(vec![Edit::new(0, to.text.len(), format!("{}\n", text.trim_end_matches('\n')))]);
    }
    let mut out =
        vec![crate::plan::outside::below_definitions(to, &format!("{}{}", visible.trim_end_matches('\n'), export()))];
    out.extend(imports.iter().filter_map(|(line, name)| add_import(to, line, name)));
    Ok(out)
}
