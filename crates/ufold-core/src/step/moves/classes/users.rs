//! Who names the class: each use means it where it is then, by an import, a path, or its package.

use std::sync::Arc;

use super::{Going, path};
use crate::change::{Code, Edits, Found, Reason, reason};
use crate::index::seen::Seen;
use crate::index::target::Target;
use crate::index::{Uses, typed_classes, unseen, whole_words};
use crate::lang::MemberOf;
use crate::names::{Names, Source};
use crate::plan::imports::{add_import, blocks, is_of_members};
use crate::plan::lines::whole_lines;
use crate::plan::unneeded;
use crate::text::{Edit, Span, apply_edits};
use crate::tree::{NodeId, Role, Tree};

pub(super) struct Users {
    pub all: Vec<Uses>,
    pub assumed: Vec<Reason>,
}

pub(super) fn find(g: &Going) -> Found<Users> {
    let (s, name) = (&g.from, g.name());
    let word = s.tree.child(g.class, crate::tree::Field::Name).expect("a class that was pointed at");
    let (found, _) = typed_classes::find(g.project, s, word, name)?;
    if let Some(r) = unseen::unparsed(g.project, name) {
        return Err(vec![r]);
    }
    let Some(b) = s.names.at(word).and_then(|r| r.target) else {
        return Err(vec![reason(s, word, Code::NotAName, "no class of this project stands here")]);
    };
    // its own name stays as it is, and in its package so does the path
    let mut assumed: Vec<Reason> = found.possible.into_iter().filter(|r| r.code != Code::ShownName).collect();
    if !g.same_path() {
        let seen = Seen { project: g.project, home: s, uses: &found.sure, old: name }.by(Target::Binding(b))?;
        assumed.extend(seen.into_iter().filter(|r| is_by_path(g, r)));
    }
    Ok(Users { all: found.sure, assumed })
}

/// A file that is no code says the class by its package; of texts that is asked by itself.
fn is_by_path(g: &Going, r: &Reason) -> bool {
    match r.code {
        Code::NamedByString => return false,
        Code::NotScanned => {}
        _ => return true,
    }
    let Some(s) = g.project.index(&r.file).and_then(|f| g.project.source(f).ok()) else { return true };
    let line = s.text.lines().nth(r.line - 1).unwrap_or("");
    whole_words(line, g.name()).any(|i| line[..i].ends_with(['.', '/', '$', '\\']))
}

/// Where the path begins that leads to a word, with its words.
fn path_before(s: &Source, n: NodeId) -> (usize, Vec<String>) {
    let (mut at, mut words) = (s.tree.span(n).start, Vec::new());
    let said = |at: usize| s.tree.comments().iter().any(|c| c.start <= at && at < c.end);
    while let Some(before) = s.text[..at].trim_end().strip_suffix('.').filter(|b| !said(b.len())) {
        let before = before.trim_end();
        let length =
            before.chars().rev().take_while(|c| c.is_alphanumeric() || *c == '_').map(char::len_utf8).sum::<usize>();
        if length == 0 {
            words.insert(0, String::new());
            break;
        }
        at = before.len() - length;
        words.insert(0, before[at..].to_string());
    }
    (at, words)
}

/// How a use changes, and whether the word alone stands there then.
pub(super) struct Named {
    pub edit: Option<Edit>,
    pub bare: bool,
}

pub(super) fn edit(g: &Going, s: &Source, n: NodeId) -> Found<Named> {
    let (start, words) = path_before(s, n);
    if words.is_empty() {
        return Ok(Named { edit: None, bare: true });
    }
    let refuse = |code: Code, why: String| Err(vec![reason(s, n, code, why)]);
    let unclear = || refuse(Code::UnclearUse, format!("by which path `{}` is named here can't be told", g.name()));
    let import = s.tree.ancestor(n, &[Role::Import, Role::ImportFrom]);
    let (old, at) = (g.old_words(), s.tree.span(n).start);
    let outer = &old[g.packages[0].len()..];
    if !outer.is_empty() && import.is_none() && outer.ends_with(&words) {
        return Ok(Named { edit: Some(Edit::new(start, at, "")), bare: true });
    }
    if words != old {
        return unclear();
    }
    // what is in no class can't be imported as what a class has
    let own = |i: NodeId| s.lang.imports_of(&s.tree, i, &s.text).iter().any(|x| x.member.as_deref() == Some(g.name()));
    let is_static = |i: NodeId| is_of_members(s.str(i));
    if import.is_some_and(|i| is_static(i) && own(i)) {
        return unclear();
    }
    let Some(first) = g.packages[1].first() else {
        return refuse(Code::NoHome, "what stands in no package can't be named by a path".into());
    };
    let definitions = |s: &Source, name: &str| g.project.definition(s, name);
    let place = s.tree.covering(Span::new(start, start + 1));
    let mut scopes = s.tree.ancestors(place).filter_map(|a| s.names.scope_of(a)).filter(|x| *x != Names::MODULE);
    let hidden = scopes.any(|x| s.names.declared_in(x, first).is_some())
        || s.lang.member_around(s, place, first, &definitions) != MemberOf::Other;
    if hidden && import.is_none() {
        return refuse(Code::NameHidden, format!("`{first}` is something else here"));
    }
    let new = path(&g.packages[1], "");
    Ok(Named { edit: (!g.same_path()).then(|| Edit::new(start, at, new)), bare: false })
}

/// The edits of all files but the one that the class leaves.
pub(super) fn edits(g: &Going, users: &Users, edits: &mut Edits) -> Found<()> {
    let mut files: Vec<(Arc<Source>, Vec<NodeId>)> = Vec::new();
    for u in users.all.iter().filter(|u| u.source.path != g.from.path) {
        files.push((u.source.clone(), u.nodes.clone()));
    }
    // comments, and imports of all that a package has
    let last = g.packages[0].last().map_or("", String::as_str);
    for (_, s) in
        unseen::with_word(g.project, g.name(), g.from.lang).chain(unseen::with_word(g.project, last, g.from.lang))
    {
        if s.path != g.from.path && s.path != g.to.path && !files.iter().any(|(o, _)| o.path == s.path) {
            files.push((s, Vec::new()));
        }
    }
    if g.same_path() {
        return files.iter().try_for_each(|(s, nodes)| nodes.iter().try_for_each(|n| edit(g, s, *n).map(drop)));
    }
    let emptied = is_emptied(g);
    for (s, nodes) in &files {
        of_file(g, s, nodes, emptied)?.into_iter().for_each(|e| edits.add(s, e));
    }
    Ok(())
}

/// The statement by which a file imports the class then.
pub(super) fn import_line(g: &Going, s: &Source) -> Option<String> {
    let name = crate::plan::imports::as_said(g.with_new, g.target)?;
    s.lang.import_line(s, &name, g.name(), false)
}

/// No class is left in the package.
fn is_emptied(g: &Going) -> bool {
    let like =
        |f: &&crate::find::FileFacts| f.is_of_family(g.from.lang) && f.path != g.from.path && f.path != g.to.path;
    let own = |f: &crate::find::FileFacts| {
        let s = g.project.index(&f.path).and_then(|f| g.project.source(f).ok());
        s.is_none_or(|s| g.is_of(&s, 0) && s.tree.ids().any(|n| s.tree.role(n) == Role::Class))
    };
    let folder = g.packages[0].join("/");
    let near = |f: &&crate::find::FileFacts| f.folder().ends_with(&folder);
    g.is_whole() && !g.project.facts.iter().filter(like).filter(near).any(own)
}

fn of_file(g: &Going, s: &Source, nodes: &[NodeId], emptied: bool) -> Found<Vec<Edit>> {
    let t = &s.tree;
    let mut out = Vec::new();
    let (mut bare, mut imported) = (None, false);
    let mut gone = Vec::new();
    for n in nodes {
        let Some(import) = t.ancestor(*n, &[Role::Import, Role::ImportFrom]) else {
            let named = edit(g, s, *n)?;
            bare = bare.or(named.bare.then_some(*n));
            out.extend(named.edit);
            continue;
        };
        let plain = s.lang.imports_of(t, import, &s.text).iter().any(|i| i.member.as_deref() == Some(g.name()));
        imported |= plain;
        let lines = whole_lines(s, t.span(import));
        if plain && g.is_of(s, 1) && lines != t.span(import) {
            gone.push(Edit::new(lines.start, lines.end, ""));
            continue;
        }
        let Some(edit) = edit(g, s, *n)?.edit else {
            return Err(vec![reason(s, *n, Code::UnclearUse, "this import can't be rewritten")]);
        };
        out.extend(in_order(s, import, edit, &mut gone));
    }
    let all = t.children(Tree::ROOT).filter(|n| matches!(t.role(*n), Role::Import | Role::ImportFrom));
    for import in all.filter(|_| emptied) {
        let module = g.packages[0].join(".");
        let is_static = is_of_members(s.str(import));
        let whole = s.lang.imports_of(t, import, &s.text).iter().any(|i| i.wildcard && i.module == module);
        let lines = whole_lines(s, t.span(import));
        gone.extend((whole && !is_static).then(|| Edit::new(lines.start, lines.end, "")));
    }
    let mut line = None;
    if let Some(n) = bare.filter(|_| !imported && !g.is_of(s, 1)) {
        let none = || vec![reason(s, n, Code::NoHome, format!("`{}` can't be imported", g.name()))];
        line = Some(import_line(g, s).and_then(|l| add_import(s, &l, g.name())).ok_or_else(none)?);
    }
    let sighted = imported || line.is_some() || g.is_of(s, 1);
    out.extend(comments(g, s, sighted));
    out.extend(unneeded::joined(s, line, gone));
    Ok(out)
}

/// An import says its new path in its place, or where it belongs when that would break the order that the file keeps.
pub(super) fn in_order(s: &Source, import: NodeId, edit: Edit, gone: &mut Vec<Edit>) -> Vec<Edit> {
    let t = &s.tree;
    let span = t.span(import);
    let group = |n: &NodeId| {
        let link = matches!(t.role(*n), Role::Import | Role::ImportFrom);
        link && is_of_members(s.str(*n)) == is_of_members(s.str(import))
    };
    let shifted = Edit::new(edit.span.start - span.start, edit.span.end - span.start, edit.text.clone());
    let Ok(new) = apply_edits(s.str(import), &[shifted]) else { return vec![edit] };
    let all: Vec<NodeId> = t.children(Tree::ROOT).filter(group).collect();
    let block = blocks(s, &all).into_iter().find(|b| b.contains(&import));
    let all = block.unwrap_or(all);
    let texts = |changed: bool| -> Vec<&str> {
        all.iter().map(|n| if changed && *n == import { new.as_str() } else { s.str(*n) }).collect()
    };
    let lines = whole_lines(s, span);
    let alone = lines != span && all.len() > 1;
    if !alone || !texts(false).is_sorted() || texts(true).is_sorted() {
        return vec![edit];
    }
    let rest: Vec<NodeId> = all.iter().copied().filter(|n| *n != import).collect();
    let before = rest.iter().copied().rfind(|n| s.str(*n) < new.as_str());
    gone.push(Edit::new(lines.start, lines.end, ""));
    let at = match before {
        Some(b) => whole_lines(s, t.span(b)).end,
        None => whole_lines(s, t.span(rest[0])).start,
    };
    vec![Edit::new(at, at, format!("{new}\n"))]
}

/// What comments say of the class by its path, or by its name where that is a link and the file does not see it any more.
pub(super) fn comments(g: &Going, s: &Source, sighted: bool) -> Vec<Edit> {
    let (words, new) = (g.old_words(), path(&g.packages[1], g.name()));
    let (prefix, outer) = (path(&words, ""), path(&words[g.packages[0].len()..], ""));
    let mut out = Vec::new();
    for c in s.tree.comments() {
        let text = &s.text[c.start..c.end];
        for i in whole_words(text, g.name()) {
            let (before, end) = (&text[..i], c.start + i + g.name().len());
            let by = |prefix: &str| {
                let rest = before.strip_suffix(prefix).filter(|_| !prefix.is_empty());
                rest.is_some_and(|r| !r.ends_with(|x: char| x == '.' || x == '_' || x.is_alphanumeric()))
            };
            let short = if sighted || g.near() { g.name().to_string() } else { new.clone() };
            if by(&prefix) && !g.packages[0].is_empty() {
                out.push(Edit::new(end - g.name().len() - prefix.len(), end, new.clone()));
            } else if by(&outer) {
                out.push(Edit::new(end - g.name().len() - outer.len(), end, short));
            } else if is_link(g, before) && !sighted && g.is_of(s, 0) && !g.near() {
                out.push(Edit::new(end - g.name().len(), end, new.clone()));
            }
        }
    }
    out
}

/// A text after which the name of a class stands as code.
pub(super) fn is_link(g: &Going, before: &str) -> bool {
    let word = before.trim_end_matches([' ', '\t']);
    word.len() < before.len() && g.bases().comment_links().iter().any(|l| word.ends_with(l))
}

/// After the edits, each word that meant the class means it, and no word that meant another one does.
pub(super) fn mean_it_still(g: &Going, users: &Users, edits: &Edits, moved: &Arc<Source>) -> Found<()> {
    let mut texts: Vec<Arc<Source>> = vec![moved.clone()];
    let (files, _) = edits.clone().finish();
    for f in &files {
        let cant = |e: String| vec![reason(&g.from, g.class, Code::Unreadable, e)];
        if f.file == g.to.path {
            continue;
        }
        let file = g.project.index(&f.file).expect("an edited file");
        let old = g.project.source(file).map_err(cant)?;
        let text = apply_edits(&old.text, &f.edits).map_err(|e| cant(e.to_string()))?;
        let text = if f.file == g.from.path && g.is_whole() { String::new() } else { text };
        texts.push(Arc::new(g.with_new.parse(&f.file, text.into()).map_err(cant)?));
    }
    let own = path(&g.packages[1], g.name());
    let counted = |p: &crate::index::Project, full: &str| {
        let mut out = Vec::new();
        for (_, s) in unseen::with_word(p, g.name(), g.from.lang) {
            let definitions = |s: &Source, name: &str| p.definition(s, name);
            let t = &s.tree;
            let words = t.ids().filter(|n| t.is_leaf(*n) && s.str(*n) == g.name());
            let code = words.filter(|n| matches!(t.role(*n), Role::Name | Role::MemberName));
            let code = code.filter(|n| t.ancestor(*n, &[Role::Import, Role::ImportFrom]).is_none());
            let is_own = |c: crate::types::Ty| crate::index::class_tree::is_named(c, full);
            let means: Vec<bool> = code
                .map(|n| matches!(s.lang.class_named(&s, n, &definitions), MemberOf::Class(c) | MemberOf::Likely(c) if is_own(c)))
                .collect();
            let path = if s.path == g.to.path { g.from.path.clone() } else { s.path.clone() };
            out.push((path, means));
        }
        out
    };
    let joined = |all: Vec<(String, Vec<bool>)>| {
        let mut out: Vec<(String, usize, usize)> = Vec::new();
        // an import alone is no use
        for (path, means) in all.into_iter().filter(|(_, means)| !means.is_empty()) {
            let own = means.iter().filter(|m| **m).count();
            match out.iter_mut().find(|o| o.0 == path) {
                Some(o) => (o.1, o.2) = (o.1 + own, o.2 + means.len()),
                None => out.push((path, own, means.len())),
            }
        }
        out.sort();
        out
    };
    let before = joined(counted(g.project, &path(&g.old_words(), g.name())));
    let cant = |e: String| vec![reason(&g.from, g.class, Code::Unreadable, e)];
    let after = g.with_new.with_texts(&texts, |p| joined(counted(p, &own))).map_err(cant)?;
    let changed = before.iter().zip(&after).find(|(a, b)| a != b).map(|(a, _)| a.0.clone());
    let Some(file) = changed.or_else(|| (before.len() != after.len()).then(|| g.from.path.clone())) else {
        return Ok(());
    };
    let node = users.all.iter().find(|u| u.source.path == file).map(|u| (u.source.clone(), u.nodes[0]));
    let (s, n) = node.unwrap_or((g.from.clone(), g.class));
    let message = format!("`{}` would be another class in {file}, or one that is another now", g.name());
    Err(vec![reason(&s, n, Code::NameHidden, message)])
}
