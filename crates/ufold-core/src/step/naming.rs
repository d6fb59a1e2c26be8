//! Names for the new function and its parameters: from comments, from the words that the copies share, from what
//! stands around a hole. Falls back to plain words; a person's `--name` comes before all of it.

use rustc_hash::FxHashSet;

use super::optional::Optional;
use super::parameters::{General, Parameter, is_for_effect};
use super::region::Site;
use crate::align::Aligned;
use crate::tree::{Field, NodeId, Role};

/// Words of an identifier, in lower case: `DSFHeader_size2` is `dsf`, `header`, `size2`.
pub fn words(name: &str) -> Vec<String> {
    let chars: Vec<char> = name.chars().collect();
    let mut out: Vec<String> = vec![String::new()];
    for (i, c) in chars.iter().enumerate() {
        if !c.is_alphanumeric() {
            out.push(String::new());
            continue;
        }
        let before = i.checked_sub(1).map(|j| chars[j]);
        let after = chars.get(i + 1);
        let hump = before.is_some_and(|b| b.is_lowercase() || b.is_ascii_digit());
        let acronym_ends = before.is_some_and(char::is_uppercase) && after.is_some_and(|a| a.is_lowercase());
        if c.is_uppercase() && (hump || acronym_ends) {
            out.push(String::new());
        }
        if let Some(w) = out.last_mut() {
            w.extend(c.to_lowercase());
        }
    }
    out.retain(|w| !w.is_empty());
    out
}

/// `CamelCase`, by which classes are known; a single letter is a variable.
fn is_class_like(name: &str) -> bool {
    name.len() > 2 && name.starts_with(char::is_uppercase) && name.contains(char::is_lowercase)
}

/// Words that all names have, in the order of the first: their longest common subsequence, taken pair by pair.
pub fn shared_words(names: &[&str]) -> Vec<String> {
    let mut all = names.iter().map(|n| words(n));
    let Some(mut common) = all.next() else { return Vec::new() };
    for w in all {
        common = common_subsequence(&common, &w);
    }
    common
}

fn common_subsequence(a: &[String], b: &[String]) -> Vec<String> {
    let mut best = vec![vec![0usize; b.len() + 1]; a.len() + 1];
    for i in (0..a.len()).rev() {
        for j in (0..b.len()).rev() {
            best[i][j] = if a[i] == b[j] { best[i + 1][j + 1] + 1 } else { best[i + 1][j].max(best[i][j + 1]) };
        }
    }
    let (mut i, mut j, mut out) = (0, 0, Vec::new());
    while i < a.len() && j < b.len() {
        if a[i] == b[j] {
            out.push(a[i].clone());
            (i, j) = (i + 1, j + 1);
        } else if best[i + 1][j] >= best[i][j + 1] {
            i += 1;
        } else {
            j += 1;
        }
    }
    out
}

const WEAK: &[&str] = &[
    "get", "set", "do", "run", "print", "append", "write", "log", "test", "is", "make", "on", "to", "of", "for", "the",
    "a", "an", "and", "in",
];

fn telling(words: &[String]) -> bool {
    words.iter().any(|w| !WEAK.contains(&w.as_str()) && w.len() > 1 && !w.chars().all(|c| c.is_ascii_digit()))
}

/// Name candidates for the function, the best first, without marks of privacy.
pub fn function_names(sites: &[Site], template: usize, general: &General, comment: Option<&str>) -> Vec<String> {
    let mut out = Vec::new();
    if let Some(c) = comment.and_then(from_comment) {
        out.push(c);
    }
    let functions: Vec<&str> = sites
        .iter()
        .map(|s| s.source())
        .zip(sites)
        .filter_map(|(src, s)| src.tree.name_of_callable(s.function).map(|n| src.str(n)))
        .collect();
    let site = &sites[template];
    let (source, whole) = (site.source(), sites.iter().all(|s| s.whole));
    let distinct: FxHashSet<&&str> = functions.iter().collect();
    let shared = shared_words(&functions);
    let result = general.results.first().map(|r| source.names.binding(r[template]).name.clone());
    let result = result.or_else(|| returned_name(site));
    let action = main_call(site);
    if telling(&shared) && (whole || distinct.len() > 1 && shared.len() > 1) {
        out.push(shared.join("_"));
        // what is found or made by what a function tells
        if general.parameters.iter().any(|p| p.callable.is_some()) {
            out.push(shared.join("_") + "_by");
        }
        out.push(shared.join("_") + "_common");
    }
    if let [a, b] = general.results.as_slice() {
        let [a, b] = [a, b].map(|r| words(&source.names.binding(r[template]).name).join("_"));
        out.push(format!("{}_{a}_and_{b}", verb(site, &source.names.binding(general.results[0][template]).name)));
    }
    if let Some(r) = &result {
        out.push(format!("{}_{}", verb(site, r), words(r).join("_")));
    }
    if let Some(a) = action {
        out.push(a);
    }
    if telling(&shared) && !whole {
        out.push(format!("{}_part", shared.join("_")));
    }
    if let Some(first) = functions.first() {
        let base = words(first).join("_");
        out.push(if whole { format!("{base}_shared") } else { format!("{base}_step") });
    }
    out.push("shared_step".to_string());
    out.retain(|n| !n.starts_with(|c: char| c.is_ascii_digit()));
    // a runner would take the new function for a test
    let plain = |n: &String| match n.strip_prefix("test") {
        Some(rest) => format!("check_{}", rest.trim_start_matches('_')),
        None => n.clone(),
    };
    out.iter().map(plain).collect()
}

/// Words that say what is done.
const VERBS: &[&str] = &[
    "add",
    "adjust",
    "apply",
    "build",
    "calculate",
    "charge",
    "check",
    "clean",
    "clear",
    "close",
    "collect",
    "compare",
    "compute",
    "configure",
    "convert",
    "copy",
    "count",
    "create",
    "decode",
    "delete",
    "determine",
    "draw",
    "emit",
    "encode",
    "ensure",
    "extract",
    "fetch",
    "fill",
    "filter",
    "find",
    "fix",
    "flush",
    "format",
    "generate",
    "get",
    "handle",
    "initialize",
    "insert",
    "join",
    "list",
    "load",
    "log",
    "look",
    "make",
    "map",
    "merge",
    "move",
    "normalize",
    "open",
    "parse",
    "pick",
    "prepare",
    "print",
    "process",
    "put",
    "read",
    "record",
    "register",
    "remove",
    "render",
    "replace",
    "report",
    "reset",
    "resolve",
    "restore",
    "return",
    "round",
    "save",
    "scale",
    "search",
    "select",
    "send",
    "set",
    "show",
    "skip",
    "sort",
    "split",
    "start",
    "stop",
    "store",
    "strip",
    "sum",
    "swap",
    "test",
    "update",
    "validate",
    "verify",
    "wait",
    "walk",
    "warn",
    "wrap",
    "write",
];

/// Two to four words that open with a verb make a name.
fn from_comment(comment: &str) -> Option<String> {
    let line = comment.lines().next()?.trim_end_matches(['.', ':', '!']);
    let list: Vec<String> = line.split_whitespace().map(|w| w.to_lowercase()).collect();
    let plain =
        list.iter().all(|w| w.chars().all(|c| c.is_ascii_alphanumeric()) && !w.chars().all(|c| c.is_ascii_digit()));
    let marks = ["todo", "fixme", "noqa", "type", "pylint", "xxx", "hack", "note"];
    if !(2..=6).contains(&list.len()) || !plain || marks.contains(&list[0].as_str()) {
        return None;
    }
    if !VERBS.contains(&list[0].as_str()) {
        return None;
    }
    let telling: Vec<&str> =
        list.iter().map(String::as_str).filter(|w| !["the", "a", "an", "all", "our", "its"].contains(w)).collect();
    (2..=4).contains(&telling.len()).then(|| telling.join("_"))
}

/// The local that the last statement returns.
fn returned_name(site: &Site) -> Option<String> {
    let (s, t) = (site.source(), &site.source().tree);
    let last = t.children(site.region.last).next().filter(|_| t.role(site.region.last) == Role::Return)?;
    (t.role(last) == Role::Name).then(|| s.str(last).to_string())
}

/// How the result comes about.
fn verb(site: &Site, result: &str) -> &'static str {
    let (s, t) = (site.source(), &site.source().tree);
    let mut verb = "compute";
    for id in (site.region.first.0..site.region.end().0).map(NodeId).filter(|n| t.role(*n) == Role::Assign) {
        let named = t.child(id, Field::Left).is_some_and(|l| s.str(l) == result);
        if let Some(r) = t.child(id, Field::Right).filter(|_| named) {
            verb = match t.role(r) {
                Role::List | Role::Dict | Role::Set | Role::Comprehension | Role::Template | Role::Concat => "build",
                Role::Call => match t.child(r, Field::Callee).map(|c| words(s.str(c))) {
                    Some(w) if w.iter().any(|w| ["find", "search", "match"].contains(&w.as_str())) => "find",
                    Some(w) if w.iter().any(|w| ["get", "fetch", "lookup"].contains(&w.as_str())) => "get",
                    Some(w) if w.iter().any(|w| ["read", "load", "open"].contains(&w.as_str())) => "read",
                    Some(w) if w.iter().any(|w| ["parse", "decode", "unpack"].contains(&w.as_str())) => "parse",
                    _ => "make",
                },
                Role::Literal => continue,
                _ => "compute",
            };
            break;
        }
    }
    verb
}

/// From the last call that stands as a statement of its own, or is returned, and says what the code is for.
fn main_call(site: &Site) -> Option<String> {
    let t = &site.source().tree;
    let stands =
        |n: &NodeId| t.parent(*n).is_some_and(|p| matches!(t.role(p), Role::ExprStmt | Role::Return | Role::Await));
    let nodes = (site.region.first.0..site.region.end().0).rev().map(NodeId);
    let calls = nodes.filter(|n| t.role(*n) == Role::Call).filter(stands);
    let list = calls.filter_map(|c| call_words(site, c)).find(|w| telling(w) && !w.iter().any(|x| is_chatter(x)))?;
    Some(if list.len() == 1 { format!("{}_all", list[0]) } else { list.join("_") })
}

/// Words of calls that only tell what goes on.
fn is_chatter(word: &str) -> bool {
    ["log", "logger", "logging", "print", "debug", "info", "warn", "warning", "assert"].contains(&word)
}

fn call_words(site: &Site, call: NodeId) -> Option<Vec<String>> {
    let (s, t) = (site.source(), &site.source().tree);
    let callee = t.child(call, Field::Callee)?;
    match t.role(callee) {
        Role::Name => Some(words(s.str(callee))),
        Role::Member => {
            let mut w = words(s.str(t.child(callee, Field::Member)?));
            let object = t.child(callee, Field::Object)?;
            let object = t.child(object, Field::Member).unwrap_or(object);
            if matches!(t.role(object), Role::Name | Role::MemberName) {
                let own = words(s.str(object));
                let receiver = s.lang.is_receiver(s.str(object));
                if !receiver && (w.len() < 2 || own.iter().any(|x| is_chatter(x))) {
                    w.extend(own);
                }
            }
            Some(w)
        }
        _ => None,
    }
}

/// Names of the parameters, each different from `taken` and from each other.
pub fn parameter_names(
    sites: &[Site],
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
        let base = candidates.last().filter(|c| lang.is_identifier(c)).cloned().unwrap_or_else(|| "value".into());
        (2..).map(|n| format!("{base}{n}")).find(|c| fits(c)).expect("numbers do not end")
    })
}

/// For a statement that some copies lack: what it calls, or that it is done too.
fn optional_names(site: &Site, o: &Optional) -> Vec<String> {
    let t = &site.source().tree;
    let call = t.children(o.statement).find(|c| t.role(*c) == Role::Call);
    let called = call.and_then(|c| last_name(site, c)).map(words).filter(|w| telling(w)).map(|w| w.join("_"));
    let also = if o.is_flag { "with_more" } else { "also" };
    let flag = |w: String| if o.is_flag { format!("with_{w}") } else { w };
    called.map(flag).into_iter().filter(|n| !is_chatter(n)).chain([also.to_string()]).collect()
}

/// A name put together from words, in the casing of the language.
fn cased(lang: &dyn crate::lang::Language, name: String) -> String {
    let joins = lang.variable_name(&["a".into(), "b".into()]) == "a_b";
    if joins || !name.trim_matches('_').contains('_') { name } else { lang.variable_name(&words(&name)) }
}

fn candidates(sites: &[Site], aligned: &[Aligned], template: usize, p: &Parameter) -> Vec<String> {
    let (s, t) = (sites[template].source(), &sites[template].source().tree);
    let node = aligned[p.places[0]].nodes[template];
    if p.callable.is_some() {
        return callable_names(sites, &aligned[p.places[0]], template);
    }
    let mut out = Vec::new();
    let identifiers = p.arguments.iter().all(|a| s.lang.is_identifier(a.rsplit('.').next().unwrap_or(a)));
    let distinct: FxHashSet<&String> = p.arguments.iter().collect();
    let tails: Vec<&str> = p.arguments.iter().map(|a| a.rsplit('.').next().unwrap_or(a)).collect();
    let receiver = sites
        .iter()
        .enumerate()
        .all(|(i, site)| site.receiver().is_some_and(|r| site.source().names.binding(r).name == p.arguments[i]));
    if receiver {
        out.extend(owner_names(sites));
    }
    if distinct.len() == 1 && identifiers {
        out.push(tails[0].to_string());
    }
    let classes = identifiers && t.role(node) != Role::Literal && tails.iter().all(|n| is_class_like(n));
    if classes {
        let shared = shared_words(&tails);
        out.extend(telling(&shared).then(|| format!("{}_class", shared.join("_"))));
        out.push(if t.field(node) == Field::Callee { "factory".into() } else { "class_".into() });
    }
    let member = p.arguments.iter().all(|a| a.contains('.'));
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
    out.extend(from_surroundings(s, node));
    if identifiers && t.field(node) != Field::Callee && t.role(node) != Role::Literal {
        let lower = words(tails[template]).join("_");
        out.push(if member { lower } else { tails[template].trim_start_matches('_').to_string() });
    }
    let kind = kind_name(s, node);
    // `help` would hide what the language calls so
    let hidden: Vec<String> = out.iter().filter(|c| s.lang.is_builtin(c)).map(|c| format!("{c}_{kind}")).collect();
    out.extend(hidden);
    out.push(kind.to_string());
    out
}

/// Names for a function that the body calls: what it gives, or what it is for.
fn callable_names(sites: &[Site], at: &Aligned, template: usize) -> Vec<String> {
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
        out.extend(named.map(|n| format!("{}_of", words(s.str(n).rsplit('.').next().unwrap_or("")).join("_"))));
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
    let reads = matches!(t.role(node), Role::Member | Role::Name | Role::Index);
    let tests = matches!(t.role(node), Role::Compare | Role::BoolOp | Role::NotOp);
    let text = matches!(t.role(node), Role::Template | Role::Concat) || s.str(node).contains(['"', '\'']);
    out.push(
        if tests {
            "matches"
        } else if text {
            "describe"
        } else if reads {
            "get_value"
        } else {
            "measure"
        }
        .into(),
    );
    out.push("compute".into());
    out
}

/// The last name of a path, or of what a call calls.
fn last_name<'s>(site: &Site<'s>, node: NodeId) -> Option<&'s str> {
    let s = site.source();
    let path = if s.tree.role(node) == Role::Call { s.tree.child(node, Field::Callee)? } else { node };
    let plain = matches!(s.tree.role(path), Role::Member | Role::Name);
    plain.then(|| s.str(path).rsplit('.').next().unwrap_or(""))
}

/// For an object whose class is not one: what the classes' names share, or their bases' names.
fn owner_names(sites: &[Site]) -> Vec<String> {
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
    let last_word = |n: NodeId| words(s.str(n).rsplit('.').next().unwrap_or("")).join("_");
    let name_of = |n: NodeId| matches!(t.role(n), Role::Name | Role::Member).then(|| last_word(n));
    match t.role(parent) {
        Role::KeywordArg => t.child(parent, Field::Name).map(|n| s.str(n).to_string()).into_iter().collect(),
        Role::Pair if field == Field::Value => t
            .child(parent, Field::Key)
            .map(|k| words(s.str(k).trim_matches(['"', '\''])).join("_"))
            .into_iter()
            .collect(),
        Role::Pair => vec!["key".into()],
        Role::Index if field == Field::Index => vec!["key".into(), "index".into()],
        Role::Assign if field == Field::Right => {
            let target = t.child(parent, Field::Left).and_then(name_of);
            target.into_iter().flat_map(|n| [n.clone(), format!("{n}_value")]).collect()
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
                "*" | "/" => vec!["factor".into()],
                "%" if t.role(node) == Role::Literal && field == Field::Left => vec!["template".into()],
                "+" | "-" if s.str(node).starts_with(|c: char| c.is_ascii_digit()) => vec!["offset".into()],
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
    parts.retain(|p| *p != "self");
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
    let method = s.str(callee).rsplit('.').next().unwrap_or("");
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
        Role::Literal | Role::Concat | Role::Template if text.ends_with(['"', '\'']) => {
            if text.starts_with(['b', 'B']) { "data" } else { "text" }
        }
        Role::Literal if text.starts_with(|c: char| c.is_ascii_digit()) => "amount",
        Role::Literal if ["True", "False", "true", "false"].contains(&text) => "flag",
        Role::Lambda => "action",
        _ => "value",
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_and_what_names_share() {
        assert_eq!(words("HTTPServer_port2"), ["http", "server", "port2"]);
        assert_eq!(words("craneFeeTotal"), ["crane", "fee", "total"]);
        assert_eq!(shared_words(&["format_berth_line", "format_crane_line"]).join("_"), "format_line");
        assert_eq!(from_comment("Add the harbour dues.").as_deref(), Some("add_harbour_dues"));
        assert_eq!(from_comment("TODO fix this"), None);
        assert_eq!(from_comment("Data URL."), None);
    }
}
