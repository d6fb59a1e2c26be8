//! Names of parameters: what the copies' values share, what they are given to, or what kind of value they are.

use rustc_hash::FxHashSet;

use crate::align::Aligned;
use crate::names::Source;
use crate::plan::general::{General, Optional, Parameter, is_for_effect};
use crate::plan::naming::is_chatter;
use crate::plan::region::Portion;
use crate::plan::words::{is_class_like, shared_words, telling, words};
use crate::tree::{Field, NodeId, Role};
use crate::types::Kind;

/// Names of the parameters, each different from `taken` and from each other.
pub fn parameter_names(
    sites: &[Portion],
    aligned: &[Aligned],
    template: usize,
    general: &General,
    taken: &FxHashSet<String>,
) -> Vec<String> {
    let mut used = taken.clone();
    let parameters = &general.parameters;
    let own: FxHashSet<String> = parameters
        .iter()
        .filter_map(|p| Some(sites[template].source().names.binding(p.variable.as_ref()?[template]).name.clone()))
        .collect();
    used.extend(own);
    let mut out = Vec::new();
    for p in parameters {
        if let Some(v) = &p.variable {
            out.push(sites[template].source().names.binding(v[template]).name.clone());
            continue;
        }
        let lang = sites[template].source().lang;
        let name = free_name(lang, candidates(sites, aligned, template, p), &used);
        used.insert(name.clone());
        out.push(name);
    }
    if let Some(o) = &general.optional {
        let lang = sites[template].source().lang;
        out.push(free_name(lang, optional_names(&sites[template], o), &used));
    }
    out
}

/// The first candidate that nothing has, in the casing of the language.
fn free_name(lang: &dyn crate::lang::Language, candidates: Vec<String>, used: &FxHashSet<String>) -> String {
    let candidates: Vec<String> = candidates.into_iter().map(|c| cased(lang, c)).collect();
    let fits = |c: &String| lang.is_identifier(c) && !used.contains(c) && !lang.is_builtin(c);
    candidates.iter().find(|c| fits(c)).cloned().unwrap_or_else(|| {
        let base = candidates.last().filter(|c| lang.is_identifier(c)).cloned();
        let base = base.unwrap_or_else(|| cased(lang, "value".into()));
        (2..).map(|n| format!("{base}{n}")).find(|c| fits(c)).expect("numbers do not end")
    })
}

/// For a statement that some copies lack: what it calls, or that it is done too.
fn optional_names(site: &Portion, o: &Optional) -> Vec<String> {
    let t = &site.source().tree;
    let call = t.children(o.statement).find(|c| t.role(*c) == Role::Call);
    let called = call.and_then(|c| last_name(site, c)).map(words).filter(|w| telling(w)).map(|w| w.join("_"));
    let also = if o.is_flag { "with_more" } else { "also" };
    let flag = |w: String| if o.is_flag { format!("with_{w}") } else { w };
    called.map(flag).into_iter().filter(|n| !is_chatter(n)).chain([also.to_string()]).collect()
}

/// A name put together from words, in the casing of the language.
fn cased(lang: &dyn crate::lang::Language, name: String) -> String {
    let mark = lang.variable_mark();
    let bare = name.strip_prefix(mark).unwrap_or(&name);
    let joins = lang.variable_name(&["a".into(), "b".into()]) == format!("{mark}a_b");
    // a member's name, where what is written so is no class by its casing
    let member = is_class_like(bare) && !lang.modules_are_values();
    let whole = joins || !bare.trim_matches('_').contains('_') && !member;
    if whole { format!("{mark}{bare}") } else { lang.variable_name(&words(bare)) }
}

fn candidates(sites: &[Portion], aligned: &[Aligned], template: usize, p: &Parameter) -> Vec<String> {
    let (s, t) = (sites[template].source(), &sites[template].source().tree);
    let node = aligned[p.places[0]].nodes[template];
    if p.callable.is_some() {
        return callable_names(sites, &aligned[p.places[0]], template);
    }
    let mut out = Vec::new();
    let identifiers = p.arguments.iter().all(|a| s.lang.is_identifier(s.lang.last_word(a)));
    let distinct: FxHashSet<&String> = p.arguments.iter().collect();
    let tails: Vec<&str> = p.arguments.iter().map(|a| s.lang.last_word(a)).collect();
    let receiver = sites
        .iter()
        .enumerate()
        .all(|(i, site)| site.receiver().is_some_and(|r| site.source().names.binding(r).name == p.arguments[i]));
    if receiver {
        out.extend(owner_names(sites));
    }
    if distinct.len() == 1 && identifiers {
        out.push(lowered(tails[0]));
    }
    let classes = identifiers && t.role(node) != Role::Literal && tails.iter().all(|n| is_class_like(n));
    if classes {
        let shared = shared_words(&tails);
        out.extend(telling(&shared).then(|| format!("{}_class", shared.join("_"))));
        out.push(if t.field(node) == Field::Callee { "factory".into() } else { "kind".into() });
    }
    let member = tails.iter().zip(&p.arguments).all(|(last, whole)| last != whole);
    if identifiers && !receiver && t.role(node) != Role::Literal {
        let shared = shared_words(&tails);
        if telling(&shared) {
            out.push(shared.join("_"));
        }
    }
    let local = t.role(node) == Role::Name
        && s.names
            .at(node)
            .and_then(|r| r.target)
            .is_some_and(|b| s.names.binding(b).scope != crate::names::Names::MODULE);
    if local {
        out.push(s.str(node).to_string());
    }
    out.extend(varying_word(sites, p));
    out.extend(from_surroundings(s, node));
    if identifiers && t.field(node) != Field::Callee && t.role(node) != Role::Literal {
        let lower = words(tails[template]).join("_");
        out.push(if member { lower } else { lowered(tails[template].trim_start_matches('_')) });
    }
    let kind = kind_name(s, node);
    // `help` would hide what the language calls so
    let hidden: Vec<String> = out.iter().filter(|c| s.lang.is_builtin(c)).map(|c| format!("{c}_{kind}")).collect();
    out.extend(hidden);
    if t.field(node) != Field::Callee {
        out.extend(named_by_type(sites, &aligned[p.places[0]]));
    }
    out.push(kind.to_string());
    out
}

/// The name of the class that the values of all sites are of, where it says more than that it is a value.
fn named_by_type(sites: &[Portion], at: &Aligned) -> Option<String> {
    let nowhere = |_: &Source, _: &str| None;
    let class = |(site, n): (&Portion, &NodeId)| match site.source().lang.type_of(site.source(), *n, &nowhere).kind() {
        Kind::Named { name, .. } => Some(name.rsplit(['.', '$']).next().unwrap_or("").to_string()),
        _ => None,
    };
    let mut all = sites.iter().zip(&at.nodes).map(class);
    let first = all.next()??;
    let list = words(&first);
    let says = telling(&list) && !sites[0].source().lang.plain_types().contains(&first.as_str());
    (says && all.all(|o| o.as_ref() == Some(&first))).then(|| list.join("_"))
}

/// Names for a function that the body calls: what it gives, or what it is for.
fn callable_names(sites: &[Portion], at: &Aligned, template: usize) -> Vec<String> {
    let (s, node) = (sites[template].source(), at.nodes[template]);
    let t = &s.tree;
    let mut out = Vec::new();
    if let Some(parent) = t.parent(node) {
        let target = match t.role(parent) {
            Role::Assign if t.field(node) == Field::Right => t.child(parent, Field::Left),
            Role::Pair if t.field(node) == Field::Value => t.child(parent, Field::Key),
            _ => None,
        };
        let named = target.filter(|n| matches!(t.role(*n), Role::Name | Role::MemberName | Role::Member));
        out.extend(named.map(|n| format!("{}_of", words(s.lang.last_word(s.str(n))).join("_"))));
    }
    // what the sites' functions call, or read
    let tails: Option<Vec<&str>> = sites.iter().zip(&at.nodes).map(|(site, n)| last_name(site, *n)).collect();
    let shared = tails.map_or(Vec::new(), |t| shared_words(&t)).join("_");
    let calls = t.role(node) == Role::Call;
    out.extend(match (shared.as_str(), calls) {
        ("", _) => None,
        ("assert", true) => Some("check".into()),
        (_, true) => Some(shared),
        (_, false) => Some(format!("get_{shared}")),
    });
    if is_for_effect(t, node) {
        out.push("act".into());
    }
    let tests = matches!(t.role(node), Role::Compare | Role::BoolOp | Role::NotOp);
    let text = matches!(t.role(node), Role::Template | Role::Concat) || s.str(node).contains(['"', '\'']);
    // what it is for where it stands
    let parent = t.parent(node).map_or(Role::Other, |p| t.role(p));
    let role = match parent {
        _ if tests || matches!(parent, Role::If | Role::While | Role::NotOp) => "is_wanted",
        Role::Return => "result_of",
        Role::For | Role::CompFor => "items_of",
        _ if text => "text_of",
        _ => "value_of",
    };
    out.extend(from_surroundings(s, node).into_iter().map(|n| format!("{n}_of")));
    out.extend(named_by_type(sites, at).map(|n| format!("{n}_of")));
    out.push(role.into());
    out
}

/// A constant's name as that of a variable.
fn lowered(name: &str) -> String {
    if name.chars().any(char::is_lowercase) { name.to_string() } else { words(name).join("_") }
}

/// A word for an operand, alone and with what it stands beside.
fn beside(s: &Source, parent: NodeId, node: NodeId, word: &str) -> Vec<String> {
    let t = &s.tree;
    let other = t.children(parent).find(|c| *c != node && t.role(*c) != Role::Token);
    let named = other.and_then(|o| path_name(s, o)).map(|o| format!("{o}_{word}"));
    std::iter::once(word.to_string()).chain(named).collect()
}

/// A text that is, in each copy, the word by which the functions around the copies differ: it says which one is meant.
fn varying_word(sites: &[Portion], p: &Parameter) -> Option<String> {
    let names: Vec<Vec<String>> = sites
        .iter()
        .map(|x| x.source().tree.name_of_callable(x.function).map_or(Vec::new(), |n| words(x.source().str(n))))
        .collect();
    let says = |i: usize| {
        let text = p.arguments[i].trim_matches(['"', '\'', '`']).to_lowercase();
        let is_text = p.arguments[i].starts_with(['"', '\'', '`']) && text.len() > 2;
        is_text && names[i].iter().any(|w| *w == text || w.trim_end_matches('s') == text.trim_end_matches('s'))
    };
    (sites.len() > 1 && (0..sites.len()).all(says)).then(|| "kind".to_string())
}

/// The last name of a path, or of what a call calls.
fn last_name<'s>(site: &Portion<'s>, node: NodeId) -> Option<&'s str> {
    let s = site.source();
    let path = if s.tree.role(node) == Role::Call { s.tree.child(node, Field::Callee)? } else { node };
    let plain = matches!(s.tree.role(path), Role::Member | Role::Name);
    plain.then(|| s.lang.last_word(s.str(path)))
}

/// For an object whose class is not one: what the classes' names share, or their bases' names.
fn owner_names(sites: &[Portion]) -> Vec<String> {
    let classes = |field: Field| -> Vec<&str> {
        let named = sites.iter().filter_map(|x| {
            let src = x.source();
            let n = src.tree.child(x.method?.class, field)?;
            let last = src.tree.subtree(n).filter(|m| src.tree.is_leaf(*m)).last()?;
            Some(src.str(last))
        });
        named.collect()
    };
    let (own, bases) = (classes(Field::Name), classes(Field::Bases));
    let mut out: Vec<String> = shared_words(&own).last().cloned().into_iter().collect();
    if bases.len() == sites.len() {
        out.extend(shared_words(&bases).last().cloned());
    }
    out.push("owner".into());
    out
}

/// The argument's name, the key, the variable it is given to, what it is compared with.
fn from_surroundings(s: &crate::names::Source, node: NodeId) -> Vec<String> {
    let t = &s.tree;
    let Some(parent) = t.parent(node) else { return Vec::new() };
    let field = t.field(node);
    let last_word = |n: NodeId| words(s.lang.last_word(s.str(n))).join("_");
    let name_of = |n: NodeId| matches!(t.role(n), Role::Name | Role::Member).then(|| last_word(n));
    match t.role(parent) {
        Role::KeywordArg => t.child(parent, Field::Name).map(|n| s.str(n).to_string()).into_iter().collect(),
        Role::MarkupAttribute => t.children(parent).next().map(|n| words(s.str(n)).join("_")).into_iter().collect(),
        Role::Pair if field == Field::Value => t
            .child(parent, Field::Key)
            .map(|k| words(s.str(k).trim_matches(['"', '\''])).join("_"))
            .into_iter()
            .collect(),
        Role::Pair => vec!["key".into()],
        Role::Index if field == Field::Index => vec!["key".into(), "index".into()],
        Role::Assign if field == Field::Right => {
            let target = t.child(parent, Field::Left).and_then(name_of);
            target.into_iter().flat_map(|n| [n.clone(), format!("new_{n}"), format!("initial_{n}")]).collect()
        }
        Role::Compare => {
            let other = t.children(parent).find(|c| *c != node && t.role(*c) != Role::Token);
            let order = t.children(parent).any(|c| t.role(c) == Role::Token && s.str(c).starts_with(['<', '>']));
            if order {
                return other
                    .and_then(name_of)
                    .map(|o| format!("{o}_limit"))
                    .into_iter()
                    .chain(["limit".into()])
                    .collect();
            }
            other.and_then(|o| path_name(s, o)).into_iter().chain(["expected".into()]).collect()
        }
        Role::AugAssign => vec!["step".into()],
        Role::BinaryOp => {
            let op = t.child(parent, Field::Operator).map_or("", |o| s.str(o));
            let beside_text = t.children(parent).any(|c| c != node && s.str(c).ends_with(['"', '\'']));
            match op {
                "*" if beside_text => vec!["count".into()],
                "**" if field == Field::Right => vec!["exponent".into()],
                "*" | "/" => beside(s, parent, node, "factor"),
                "%" if t.role(node) == Role::Literal && field == Field::Left => vec!["template".into()],
                "+" | "-" if s.str(node).starts_with(|c: char| c.is_ascii_digit()) => beside(s, parent, node, "offset"),
                _ => Vec::new(),
            }
        }
        Role::Arguments => from_callee(s, parent, node),
        _ => Vec::new(),
    }
}

/// The last member of a path, with the one before it when the last says little: `p.left.value` is `left_value`.
fn path_name(s: &crate::names::Source, node: NodeId) -> Option<String> {
    let text = s.str(node);
    if !matches!(s.tree.role(node), Role::Name | Role::Member) || text.contains(['(', '[']) && !text.contains("].") {
        return None;
    }
    let mut parts: Vec<&str> = text.rsplit(['.', ']']).filter(|p| s.lang.is_identifier(p)).take(2).collect();
    let says_little = ["value", "name", "text", "data", "id", "type", "kind"];
    if parts.len() == 2 && !says_little.contains(&parts[0]) {
        parts.truncate(1);
    }
    parts.retain(|p| !s.lang.is_receiver(p));
    parts.reverse();
    Some(parts.iter().flat_map(|p| words(p)).collect::<Vec<_>>().join("_")).filter(|n| !n.is_empty())
}

/// The name of the parameter of a function of the same file that takes the argument.
fn from_callee(s: &crate::names::Source, arguments: NodeId, node: NodeId) -> Vec<String> {
    let t = &s.tree;
    let position = t.children(arguments).position(|c| c == node);
    let callee = t.parent(arguments).and_then(|c| t.child(c, Field::Callee));
    let (Some(position), Some(callee)) = (position, callee) else { return Vec::new() };
    let own = (t.role(callee) == Role::Name)
        .then(|| s.names.at(callee)?.target)
        .flatten()
        .map(|b| s.names.binding(b).first)
        .and_then(|n| t.parent(n))
        .filter(|f| t.role(*f) == Role::Function)
        .and_then(|f| t.child(f, Field::Parameters))
        .and_then(|p| t.children(p).nth(position))
        .and_then(|p| t.subtree(p).find(|n| t.role(*n) == Role::Name))
        .map(|n| s.str(n).to_string());
    let method = s.lang.last_word(s.str(callee));
    let by_method = match method {
        "get" | "pop" | "setdefault" | "getattr" | "hasattr" if position == 0 || method.ends_with("attr") => {
            Some("key")
        }
        _ if position == 0 && is_class_like(method) && kind_name(s, node) == "text" => Some("name"),
        "join" if position > 0 => Some("name"),
        "join" => Some("parts"),
        m if m.starts_with("get") || m.starts_with("find") => Some("key"),
        "open" => Some("path"),
        "round" => Some("digits"),
        _ => None,
    };
    own.into_iter().chain(by_method.map(String::from)).collect()
}

/// A last resort: what kind of value it is.
fn kind_name(s: &crate::names::Source, node: NodeId) -> &'static str {
    let t = &s.tree;
    let text = s.str(node);
    match t.role(node) {
        _ if t.field(node) == Field::Callee => "action",
        _ if t.field(node) == Field::Object && t.role(node) != Role::Literal => "target",
        Role::Literal | Role::Concat | Role::Template if text.ends_with(['"', '\'']) => {
            if text.starts_with(['b', 'B']) { "data" } else { "text" }
        }
        Role::Literal if text.starts_with(|c: char| c.is_ascii_digit()) => "amount",
        Role::Literal if ["True", "False", "true", "false"].contains(&text) => "flag",
        Role::Lambda => "action",
        _ => "value",
    }
}
