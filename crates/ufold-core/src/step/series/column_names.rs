//! Names of what differs in a series, and of the locals that each copy had for itself.

use super::counted::{Given, Said};
use super::table::Table;
use crate::change::{Code, Found, reason};
use crate::names::Source;
use crate::plan::verbs::VERBS;
use crate::plan::words::{WEAK, shared_words, words};
use crate::tree::{Field, NodeId, Role};

pub(super) struct Chosen {
    pub columns: Vec<String>,
    pub locals: Vec<String>,
    /// Of the locals that code behind the copies uses, in their order.
    pub lists: Vec<String>,
}

pub(super) fn find(s: &Source, frame: NodeId, table: &Table, given: &[Given], asked: &[String]) -> Found<Chosen> {
    let t = &s.tree;
    let own: Vec<&str> =
        table.locals.iter().flat_map(|l| &l.bindings).map(|b| s.names.binding(*b).name.as_str()).collect();
    let named = |name: &str| {
        t.subtree(frame).any(|n| t.is_leaf(n) && matches!(t.role(n), Role::Name | Role::FrameName) && s.str(n) == name)
    };
    let free = |name: &str, taken: &[String]| {
        let clash = named(name) && !own.contains(&name);
        s.lang.is_identifier(name) && !clash && !s.lang.is_builtin(name) && !taken.iter().any(|o| o == name)
    };
    let mut taken: Vec<String> = Vec::new();
    let mut columns = Vec::new();
    for (i, c) in given.iter().enumerate() {
        if let Some(name) = asked.get(i).filter(|n| !n.is_empty()) {
            if !free(name, &taken) {
                let why = format!("`{name}` is no name that is free here");
                return Err(vec![reason(s, c.uses[0].0, Code::NameTaken, why)]);
            }
            columns.push(name.clone());
        } else {
            let all = candidates(s, c).into_iter().map(|w| s.lang.variable_name(&w));
            let mut all: Vec<String> = all.filter(|n| !n.is_empty()).collect();
            let last = all.last().cloned().unwrap_or("value".into());
            all.extend((2..=9).map(|k| format!("{last}{k}")));
            let found = all.into_iter().find(|n| free(n, &taken) && !own.contains(&n.as_str()));
            columns
                .push(found.ok_or_else(|| {
                    vec![reason(s, c.uses[0].0, Code::NameTaken, "no name is free for what differs")]
                })?);
        }
        taken.extend(columns.last().cloned());
    }
    let mut locals = Vec::new();
    for l in &table.locals {
        let names: Vec<&str> = l.bindings.iter().map(|b| s.names.binding(*b).name.as_str()).collect();
        let plain =
            common(&names).filter(|n| free(n, &taken) && (!own.contains(&n.as_str()) || names.contains(&n.as_str())));
        let any = || ["value", "item"].into_iter().filter(|n| l.kept && free(n, &taken)).map(String::from).next();
        let name = plain.or_else(any).unwrap_or_else(|| names[0].to_string());
        taken.push(name.clone());
        locals.push(name);
    }
    let mut lists = Vec::new();
    for (l, name) in table.locals.iter().zip(&locals).filter(|(l, _)| l.kept) {
        let all = list_names(s, name);
        let found = all.into_iter().find(|n| free(n, &taken) && !own.contains(&n.as_str()));
        let first = s.names.binding(l.bindings[0]).first;
        let found =
            found.ok_or_else(|| vec![reason(s, first, Code::NameTaken, "no name is free for the list of values")])?;
        taken.push(found.clone());
        lists.push(found);
    }
    Ok(Chosen { columns, locals, lists })
}

/// What numbered names have in common: `gauge` of `gauge1` and `gauge2`.
fn common(names: &[&str]) -> Option<String> {
    let bare =
        |n: &str| n.chars().filter(|c| !c.is_ascii_digit()).collect::<String>().trim_matches('_').replace("__", "_");
    let first = bare(names[0]);
    let same = names.iter().all(|n| bare(n) == first) && !first.is_empty();
    same.then_some(first).or_else(|| {
        let shared = shared_words(names);
        let whole = shared.join("_");
        (!whole.is_empty() && names.iter().all(|n| n.contains('_') || n.to_lowercase() == *n)).then_some(whole)
    })
}

/// Words for a column, the best first.
fn candidates(s: &Source, c: &Given) -> Vec<Vec<String>> {
    let t = &s.tree;
    let nodes: Vec<NodeId> = c.uses.iter().filter(|u| u.1 == Said::Plainly).map(|u| u.0).collect();
    let mut out: Vec<Vec<String>> = Vec::new();
    let names: Vec<&str> = c.texts.iter().map(String::as_str).collect();
    if nodes.iter().any(|n| t.role(*n) == Role::Name) {
        let shared: Vec<String> = shared_words(&names).into_iter().filter(|w| !WEAK.contains(&w.as_str())).collect();
        out.extend((!shared.is_empty()).then_some(shared));
    }
    out.extend(nodes.iter().filter_map(|n| beside(s, *n)));
    let text = |x: &&str| x.starts_with(['"', '\'', '`']);
    let is_word =
        |x: &&str| x.trim_matches(['"', '\'', '`']).chars().all(|c| c.is_alphanumeric() || c == '_' || c == '-');
    let plain = match () {
        _ if names.iter().all(|x| text(x) && is_word(x)) => ["name", "key"],
        _ if names.iter().all(text) => ["text", "label"],
        _ if names.iter().all(|x| x.chars().all(|c| c.is_ascii_digit())) => ["number", "index"],
        _ if nodes.iter().any(|n| t.field(*n) == Field::Callee) => ["function", "action"],
        _ => ["value", "item"],
    };
    out.extend(plain.map(|w| vec![w.to_string()]));
    out
}

/// What the code at a place calls the value: the argument's name, the other side of a comparison, what it is given to.
fn beside(s: &Source, n: NodeId) -> Option<Vec<String>> {
    let t = &s.tree;
    let p = t.parent(n)?;
    let last = |n: NodeId| match t.role(n) {
        Role::Name => Some(words(s.str(n))),
        Role::Member => t.child(n, Field::Member).map(|m| words(s.str(m))),
        _ => None,
    };
    match t.role(p) {
        Role::KeywordArg | Role::MarkupAttribute => t.children(p).next().map(|k| words(s.str(k))),
        Role::Compare => t.children(p).filter(|c| *c != n && t.role(*c) != Role::Token).find_map(last),
        Role::Assign if t.field(n) == Field::Right => t.child(p, Field::Left).and_then(last),
        Role::Arguments if t.children(p).find(|c| t.role(*c) != Role::Token) == Some(n) => {
            let callee = t.parent(p).and_then(|c| t.child(c, Field::Callee))?;
            let all = last(callee)?;
            let rest: Vec<String> = match all.split_first() {
                Some((verb, rest)) if VERBS.contains(&verb.as_str()) => rest.to_vec(),
                _ => return None,
            };
            (!rest.is_empty() && rest.len() < 3).then_some(rest)
        }
        _ => None,
    }
}

/// What a list of such variables is called, the best first.
fn list_names(s: &Source, name: &str) -> Vec<String> {
    let (mut plural, mut list) = (words(name), words(name));
    let plain = s.lang.variable_name(&["values".into()]);
    match plural.last_mut() {
        Some(w) if w.ends_with('s') || w.len() < 2 => return vec![plain],
        Some(w) => w.push('s'),
        None => return vec![plain],
    }
    list.push("list".into());
    vec![s.lang.variable_name(&plural), s.lang.variable_name(&list), plain]
}
