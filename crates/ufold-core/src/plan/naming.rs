//! Names for the new function: from comments, from the words that the copies share, from what they do. Falls back to
//! plain words; a person's `--name` comes before all of it.

use rustc_hash::{FxHashMap, FxHashSet};

use crate::names::BindingId;
use crate::plan::general::General;
use crate::plan::region::Portion;
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
pub fn is_class_like(name: &str) -> bool {
    let cased = name.starts_with(char::is_uppercase) && name.contains(char::is_lowercase);
    name.len() > 2 && cased && !name.contains('_')
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

pub fn telling(words: &[String]) -> bool {
    words.iter().any(|w| !WEAK.contains(&w.as_str()) && w.len() > 1 && !w.chars().all(|c| c.is_ascii_digit()))
}

/// Name candidates without marks of privacy, the best first: those that say something, and those for want of better ones.
pub struct Candidates {
    pub good: Vec<String>,
    pub weak: Vec<String>,
}

/// Words that say of a result only that it is one.
const PLAIN_RESULTS: &[&str] = &[
    "result", "results", "res", "ret", "value", "values", "val", "data", "out", "output", "tmp", "temp", "item",
    "items", "obj", "object", "x", "y", "n", "i", "s", "r", "text", "list", "rows", "args", "self",
];

pub fn function_names(sites: &[Portion], template: usize, general: &General, comment: Option<&str>) -> Candidates {
    let (mut out, mut weak) = (Vec::new(), Vec::new());
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
    // of one part an author may have said what it is about, and not what it does
    let thing = comment.filter(|_| sites.len() == 1 && !whole).and_then(thing_of_comment);
    if let Some(thing) = thing {
        let by_result = result.as_ref().filter(|_| general.results.len() == 1).map(|r| verb(site, r));
        let by_call = action.as_ref().and_then(|a| VERBS.iter().find(|v| a.split('_').next() == Some(v)).copied());
        out.push(format!("{}_{thing}", by_result.or(by_call).unwrap_or("handle")));
    }
    // what a part gives, when how it comes about is plain, says more than what the functions around it share
    let plain = result.as_ref().filter(|r| !whole && !PLAIN_RESULTS.contains(&r.as_str()));
    let plain = plain.map(|r| (verb(site, r), r)).filter(|(v, _)| !["compute", "make", "get"].contains(v));
    out.extend(plain.map(|(v, r)| format!("{v}_{}", words(r).join("_"))));
    if telling(&shared) && (whole || distinct.len() > 1 && shared.len() > 1) {
        // what is found or made by what a function tells
        let by = general.parameters.iter().any(|p| p.callable.is_some()).then(|| shared.join("_") + "_by");
        let alone = shared.len() == 1;
        out.extend(by.clone().filter(|_| alone));
        out.push(shared.join("_"));
        out.extend(by.filter(|_| !alone));
        if shared.len() == 1 {
            out.extend(VERBS_OF_RESULTS.iter().map(|v| format!("{v}_{}", shared[0])).take(1));
        }
    }
    if let Some(r) = result.as_ref().filter(|_| general.results.len() < 2) {
        let name = format!("{}_{}", verb(site, r), words(r).join("_"));
        if PLAIN_RESULTS.contains(&r.as_str()) { weak.push(name) } else { out.push(name) }
    }
    match action {
        Some(a) if a.contains('_') => out.push(a),
        Some(a) => weak.push(a),
        None => {}
    }
    if let [part] = sites {
        weak.extend(main_local(part).filter(|_| !whole).map(|l| format!("{}_{l}", deed(part))));
    }
    if telling(&shared) && !whole {
        weak.push(format!("{}_part", shared.join("_")));
    }
    if let Some(first) = functions.first() {
        let base = words(first).join("_");
        weak.push(if whole { format!("{base}_shared") } else { format!("{base}_part") });
    }
    weak.push("shared_part".to_string());
    // a runner would take the new function for a test
    let plain = |n: String| match n.strip_prefix("test") {
        Some(rest) => format!("check_{}", rest.trim_start_matches('_')),
        None => n,
    };
    let kept = |list: Vec<String>| -> Vec<String> {
        list.into_iter().filter(|n| !n.starts_with(|c: char| c.is_ascii_digit())).map(plain).collect()
    };
    Candidates { good: kept(out), weak: kept(weak) }
}

/// What is said of a thing that several functions are called by.
const VERBS_OF_RESULTS: &[&str] = &["compute"];

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

/// One to four words that name a thing.
fn thing_of_comment(comment: &str) -> Option<String> {
    let line = comment.lines().next()?.trim_end_matches(['.', ':', '!']);
    let list: Vec<String> = line.split_whitespace().map(|w| w.to_lowercase()).collect();
    let plain = list.iter().all(|w| w.chars().all(|c| c.is_ascii_alphabetic()));
    let telling: Vec<&str> =
        list.iter().map(String::as_str).filter(|w| !["the", "a", "an", "all", "our", "its"].contains(w)).collect();
    let speaks =
        ["if", "when", "we", "this", "it", "that", "is", "are", "not", "no", "but", "so", "because", "see", "now"];
    let fits = plain && (1..=4).contains(&telling.len()) && !telling.iter().any(|w| speaks.contains(w));
    (fits && !["todo", "fixme", "xxx", "hack", "note"].contains(&telling[0])).then(|| telling.join("_"))
}

/// The local that the last statement returns.
fn returned_name(site: &Portion) -> Option<String> {
    let (s, t) = (site.source(), &site.source().tree);
    let last = t.children(site.region.last).next().filter(|_| t.role(site.region.last) == Role::Return)?;
    (t.role(last) == Role::Name).then(|| s.str(last).to_string())
}

/// How the result comes about.
fn verb(site: &Portion, result: &str) -> &'static str {
    let (s, t) = (site.source(), &site.source().tree);
    let mut verb = "compute";
    let range = || (site.region.first.0..site.region.end().0).map(NodeId);
    let added = range().filter(|n| t.role(*n) == Role::AugAssign).find_map(|n| {
        let named = t.child(n, Field::Left).is_some_and(|l| s.str(l) == result);
        t.child(n, Field::Right).filter(|_| named && s.str(n).contains("+="))
    });
    if let Some(by) = added {
        let looped = t.ancestors(by).take_while(|a| *a > site.function).any(|a| t.role(a).is_loop());
        return match (s.str(by), looped) {
            ("1", _) => "count",
            (_, true) => "sum",
            _ => "compute",
        };
    }
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
                    Some(w) if w.iter().any(|w| w == "compile") => "compile",
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

/// What a part without a telling call does: it looks whether something is right, or deals with it.
fn deed(site: &Portion) -> &'static str {
    let t = &site.source().tree;
    let raises = (site.region.first.0..site.region.end().0).any(|n| t.role(NodeId(n)) == Role::Raise);
    if raises { "check" } else { "handle" }
}

/// The local that a part has most to do with: one that it makes, else one that it takes.
pub fn main_local(site: &Portion) -> Option<String> {
    let (s, first, end) = (site.source(), site.region.first, site.region.end());
    let mut counts: FxHashMap<BindingId, (bool, usize, NodeId)> = FxHashMap::default();
    for r in s.names.in_range(first, end) {
        let Some(b) = r.target.filter(|b| s.names.frame_of(*b) == site.scope) else { continue };
        let word = &s.names.binding(b).name;
        if s.lang.is_receiver(word) || PLAIN_RESULTS.contains(&word.as_str()) || word.len() < 3 {
            continue;
        }
        let known = counts.entry(b).or_insert((s.names.binding(b).first >= first, 0, r.node));
        known.1 += 1;
    }
    let best = counts.into_iter().max_by_key(|(_, (own, n, at))| (*own, *n, std::cmp::Reverse(*at)));
    best.map(|(b, _)| words(&s.names.binding(b).name).join("_"))
}

/// From the last call that stands as a statement of its own, or is returned, and says what the code is for.
fn main_call(site: &Portion) -> Option<String> {
    let t = &site.source().tree;
    let stands =
        |n: &NodeId| t.parent(*n).is_some_and(|p| matches!(t.role(p), Role::ExprStmt | Role::Return | Role::Await));
    let nodes = (site.region.first.0..site.region.end().0).rev().map(NodeId);
    let calls = nodes.filter(|n| t.role(*n) == Role::Call).filter(stands);
    let all: Vec<Vec<String>> = calls.filter_map(|c| call_words(site, c)).collect();
    let mut list = all.iter().find(|w| telling(w) && !w.iter().any(|x| is_chatter(x)))?.clone();
    // done several times, one after the other
    let often = all.iter().filter(|w| **w == list).count() > 1 && list.len() == 2;
    if let Some(thing) = list.last_mut().filter(|w| often && w.ends_with(char::is_alphabetic) && !w.ends_with('s')) {
        thing.push('s');
    }
    Some(list.join("_"))
}

/// Words of calls that only tell what goes on.
pub fn is_chatter(word: &str) -> bool {
    ["log", "logger", "logging", "print", "println", "printf", "debug", "info", "warn", "warning", "assert"]
        .contains(&word)
}

fn call_words(site: &Portion, call: NodeId) -> Option<Vec<String>> {
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
                // a name of two letters says nothing to who does not see its type
                let short = own.iter().all(|x| x.len() < 3);
                if !receiver && !short && (w.len() < 2 || own.iter().any(|x| is_chatter(x))) {
                    w.extend(own);
                }
            }
            Some(w)
        }
        _ => None,
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
