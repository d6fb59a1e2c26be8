//! Names for the new function: from comments, from the words that the copies share, from what they do. Falls back to
//! plain words; a person's `--name` comes before all of it.

use rustc_hash::{FxHashMap, FxHashSet};

use crate::names::{BindingId, Source};
use crate::plan::comment_names::{from_comment, is_asking, thing_of_comment};
use crate::plan::general::General;
use crate::plan::region::Portion;
use crate::plan::verbs::VERBS;
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

/// Locals that only count.
const COUNTERS: &[&str] =
    &["len", "length", "size", "count", "num", "idx", "index", "pos", "position", "offset", "start", "end", "key"];

pub fn function_names(sites: &[Portion], template: usize, general: &General, comment: Option<&str>) -> Candidates {
    let (mut out, mut weak) = (Vec::new(), Vec::new());
    let functions = names_around(sites);
    let site = &sites[template];
    let (source, whole) = (site.source(), sites.iter().all(|s| s.whole));
    let distinct: FxHashSet<&&str> = functions.iter().collect();
    let shared = shared_words(&functions);
    let result = general.results.first().map(|r| source.names.binding(r[template]).name.clone());
    let result = result.or_else(|| returned_name(site));
    let own = result.clone();
    let how = |r: &str| verb(site, own.as_deref().unwrap_or(r));
    let result = common_result(sites, site, general).or(result);
    let action = main_call(site, sites.len() == 1 && !whole);
    // of one part an author may have said what it is about, and not what it does
    let thing = comment.filter(|_| sites.len() == 1 && !whole).and_then(thing_of_comment);
    let gives = general.results.len() == 1 || returns(site);
    // what gives nothing gets nothing
    let said = comment.and_then(from_comment);
    let said = said.filter(|c| gives || sites.len() > 1 || whole || !c.split('_').next().is_some_and(is_asking));
    out.extend(said);
    let by_result = || result.as_ref().filter(|_| general.results.len() == 1).map(|r| how(r));
    let by_call = || action.as_ref().and_then(|a| VERBS.iter().find(|v| a.split('_').next() == Some(v)).copied());
    let by_call = || by_call().filter(|v| gives || !is_asking(v));
    out.extend(thing.map(|thing| match thing.rsplit_once('_') {
        Some((what, "check" | "checks")) => format!("check_{what}"),
        _ => format!("{}_{thing}", by_result().or_else(by_call).unwrap_or_else(|| deed(site))),
    }));
    // what a part gives, when how it comes about is plain, says more than what the functions around it share
    let plain = result.as_ref().filter(|r| !whole && !PLAIN_RESULTS.contains(&r.as_str()));
    let plain = plain.map(|r| (how(r), r)).filter(|(v, _)| !["compute", "make", "get"].contains(v));
    out.extend(plain.map(|(v, r)| format!("{v}_{}", words(r).join("_"))));
    if telling(&shared) && (whole || distinct.len() > 1 && shared.len() > 1) {
        out.extend(of_shared(&shared, general));
    }
    let written = written_member(site).filter(|_| sites.len() == 1 && !whole && general.results.is_empty());
    out.extend(written.as_ref().filter(|w| w.1 > 2 || action.is_none()).map(|w| w.0.clone()));
    let named = result.as_ref().filter(|_| general.results.len() < 2);
    let named = named.map(|r| (format!("{}_{}", how(r), words(r).join("_")), r));
    let letter = named.as_ref().filter(|(_, r)| r.len() < 2).map(|(name, _)| name.clone());
    if let Some((name, r)) = named.filter(|_| letter.is_none()) {
        if PLAIN_RESULTS.contains(&r.as_str()) { weak.push(name) } else { out.push(name) }
    }
    if let [part] = sites {
        let branch = branch_words(part.source(), part.region.first).filter(|_| !whole);
        weak.extend(branch.map(|w| format!("{}_{}", deed(part), w.join("_"))));
        weak.extend(main_local(part).filter(|_| !whole).map(|l| format!("{}_{l}", deed(part))));
    }
    weak.extend(letter);
    match action {
        Some(a) if a.contains('_') => out.push(a),
        Some(a) => weak.push(a),
        None => {}
    }
    if telling(&shared) && !whole {
        weak.push(format!("{}_part", shared.join("_")));
    }
    if let Some(first) = functions.first() {
        let base = words(first).join("_");
        weak.push(if whole { format!("{base}_shared") } else { format!("{base}_part") });
    }
    weak.push("shared_part".to_string());
    // a part is not what it is a part of
    let own = functions.first().filter(|_| !whole).map(|f| words(f).join("_"));
    Candidates { good: fitting(out, own.as_deref()), weak: fitting(weak, own.as_deref()) }
}

/// What the functions around the copies are called.
fn names_around<'a>(sites: &'a [Portion<'a>]) -> Vec<&'a str> {
    let named = |s: &Portion| s.source().tree.name_of_callable(s.function);
    sites.iter().filter_map(|s| Some(s.source().str(named(s)?))).collect()
}

/// What each copy calls otherwise says what one of them is for: what their names have in common, or all go through, says
/// more.
fn common_result(sites: &[Portion], site: &Portion, general: &General) -> Option<String> {
    let named: Vec<&str> = general
        .results
        .first()
        .map_or(Vec::new(), |r| r.iter().zip(sites).map(|(b, s)| s.source().names.binding(*b).name.as_str()).collect());
    let (first, rest) = named.split_first()?;
    let differ = !rest.is_empty() && rest.iter().all(|n| n != first);
    let common = shared_words(&named);
    let common = telling(&common).then(|| common.join("_"));
    common.or_else(|| gone_through(site)).filter(|_| differ)
}

/// Names of the words that several functions share.
fn of_shared(shared: &[String], general: &General) -> Vec<String> {
    let mut out = Vec::new();
    // what is found or made by what a function tells
    let by = general.parameters.iter().any(|p| p.callable.is_some()).then(|| shared.join("_") + "_by");
    let alone = shared.len() == 1;
    out.extend(by.clone().filter(|_| alone));
    out.push(shared.join("_"));
    out.extend(by.filter(|_| !alone));
    if alone {
        out.extend(VERBS_OF_RESULTS.iter().map(|v| format!("{v}_{}", shared[0])).take(1));
    }
    out
}

/// Those that can be names, but for one.
fn fitting(names: Vec<String>, but: Option<&str>) -> Vec<String> {
    // a runner would take the new function for a test
    let plain = |n: String| match n.strip_prefix("test") {
        Some(rest) => format!("check_{}", rest.trim_start_matches('_')),
        None => n,
    };
    let fits = |n: &String| !n.starts_with(|c: char| c.is_ascii_digit()) && Some(n.as_str()) != but;
    names.into_iter().filter(fits).map(plain).collect()
}

/// What is said of a thing that several functions are called by.
const VERBS_OF_RESULTS: &[&str] = &["compute"];

/// The elements of the outermost loop, as many.
fn gone_through(site: &Portion) -> Option<String> {
    let (s, t) = (site.source(), &site.source().tree);
    let nodes = (site.region.first.0..site.region.end().0).map(NodeId);
    let each = nodes.filter(|n| t.role(*n) == Role::For).find_map(|f| t.child(f, Field::Left))?;
    let word = words(s.str(each)).join("_");
    let plain = t.role(each) == Role::Name && word.len() > 2 && !PLAIN_RESULTS.contains(&word.as_str());
    (plain && word.ends_with(char::is_alphabetic)).then(|| if word.ends_with('s') { word } else { word + "s" })
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
    let of_result = |n: NodeId| t.role(n) == Role::Name && s.str(n) == result;
    let mut uses = (site.region.first.0..site.region.end().0).map(NodeId).filter(|n| of_result(*n)).peekable();
    // it is handed in, and what is put into it is the result
    let given =
        |n: NodeId| t.field(n) == Field::Object || s.names.at(n).is_some_and(|r| r.usage == crate::names::Use::Read);
    if uses.peek().is_some() && uses.all(given) {
        return "fill";
    }
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

/// What a branch is for that begins with a statement: the text or constant that is compared, the case, what is asked.
pub fn branch_words(s: &Source, first: NodeId) -> Option<Vec<String>> {
    let t = &s.tree;
    let block = t.parent(first)?;
    let begins = t.children(block).find(|c| t.role(*c) != Role::Doc) == Some(first);
    if begins { branch_around(s, first) } else { None }
}

/// The same for a statement that need not begin its branch.
pub fn branch_around(s: &Source, statement: NodeId) -> Option<Vec<String>> {
    let t = &s.tree;
    let block = t.parent(statement).filter(|b| t.role(*b) == Role::Block)?;
    let branch = t.parent(block)?;
    let texts = |n: NodeId| {
        let literals = t.subtree(n).filter(|l| t.role(*l) == Role::Literal).collect::<Vec<_>>();
        let [one] = literals[..] else { return None };
        s.str(one).starts_with(['"', '\'', '`']).then(|| words(s.str(one)))
    };
    let constant = |n: NodeId| {
        let name = if t.role(n) == Role::Member { t.child(n, Field::Member)? } else { n };
        let word = s.str(name);
        let fixed = word.len() > 2 && word.chars().all(|c| c.is_uppercase() || c.is_ascii_digit() || c == '_');
        fixed.then(|| words(word))
    };
    let found = match t.role(branch) {
        Role::Case => {
            let labels = || t.children(branch).filter(|c| *c != block);
            let named = |n: NodeId| {
                let leaves: Vec<NodeId> = t.subtree(n).filter(|l| t.role(*l) == Role::Name && t.is_leaf(*l)).collect();
                leaves.last().filter(|_| leaves.len() == 1).and_then(|l| constant(*l))
            };
            labels().find_map(texts).or_else(|| labels().find_map(named))?
        }
        Role::If | Role::Elif => {
            let mut condition = t.child(branch, Field::Condition)?;
            while t.role(condition) == Role::Paren {
                condition = t.children(condition).next()?;
            }
            match t.role(condition) {
                Role::Compare => {
                    let equal = t.children(condition).any(|c| ["==", "===", "is"].contains(&s.str(c)));
                    let right = t.children(condition).last().filter(|_| equal && t.children(condition).count() == 3)?;
                    texts(right).or_else(|| constant(right))?
                }
                Role::Call => {
                    let callee = t.child(condition, Field::Callee)?;
                    let asked = words(s.str(t.child(callee, Field::Member).unwrap_or(callee)));
                    match asked.split_first() {
                        Some((verb, rest)) if ["is", "has"].contains(&verb.as_str()) && !rest.is_empty() => {
                            rest.to_vec()
                        }
                        Some((verb, _)) if ["equals", "starts", "startswith"].contains(&verb.as_str()) => {
                            texts(t.child(condition, Field::Arguments)?)?
                        }
                        _ => return None,
                    }
                }
                _ => return None,
            }
        }
        _ => return None,
    };
    let plain = found.iter().all(|w| w.chars().all(|c| c.is_ascii_alphanumeric()));
    (plain && (1..=3).contains(&found.len()) && telling(&found)).then_some(found)
}

/// Verbs of functions whose parts do the same with one thing each.
const PARTED: &[&str] = &[
    "init",
    "initialize",
    "setup",
    "check",
    "validate",
    "verify",
    "parse",
    "build",
    "format",
    "render",
    "print",
    "draw",
    "dump",
    "write",
    "encode",
    "decode",
    "convert",
    "configure",
    "update",
];

/// The verb of all calls that stand as statements.
fn common_verb(site: &Portion) -> Option<&'static str> {
    let (s, t) = (site.source(), &site.source().tree);
    let stands = |n: &NodeId| t.role(*n) == Role::Call && t.parent(*n).is_some_and(|p| t.role(p) == Role::ExprStmt);
    let calls = (site.region.first.0..site.region.end().0).map(NodeId).filter(stands);
    let callees = calls.filter_map(|c| t.child(c, Field::Callee));
    let mut verbs = callees.map(|c| words(s.str(t.child(c, Field::Member).unwrap_or(c))).into_iter().next());
    let first = verbs.next()??;
    let known = VERBS.iter().find(|v| **v == first).copied();
    let known = if verbs.all(|v| v.as_ref() == Some(&first)) { known } else { None };
    // of an object that has several things set
    if known == Some("set") { Some("configure") } else { known }
}

/// What a part without a telling call does: it looks whether something is right, or deals with it.
fn deed(site: &Portion) -> &'static str {
    let t = &site.source().tree;
    let has = |role: Role| (site.region.first.0..site.region.end().0).map(NodeId).any(|n| t.role(n) == role);
    let written = |n: NodeId| {
        matches!(t.role(n), Role::Assign | Role::AugAssign)
            && t.child(n, Field::Left).is_some_and(|l| t.role(l) != Role::Name)
    };
    let changes = (site.region.first.0..site.region.end().0).map(NodeId).any(written);
    let around = t.name_of_callable(site.function).and_then(|n| words(site.source().str(n)).into_iter().next());
    let does = around.and_then(|w| PARTED.iter().find(|verb| **verb == w).copied());
    let checks = has(Role::Raise) && !changes && !has(Role::For);
    let by_calls = || common_verb(site).filter(|_| !returns(site));
    does.or_else(by_calls).unwrap_or(if checks { "check" } else { "handle" })
}

/// The local that a part has most to do with: one that it makes, else one that it takes.
pub fn main_local(site: &Portion) -> Option<String> {
    let (s, first, end) = (site.source(), site.region.first, site.region.end());
    let mut counts: FxHashMap<BindingId, (bool, usize, NodeId)> = FxHashMap::default();
    for r in s.names.in_range(first, end) {
        let Some(b) = r.target.filter(|b| s.names.frame_of(*b) == site.scope) else { continue };
        let word = &s.names.binding(b).name;
        let plain = [PLAIN_RESULTS, COUNTERS].iter().any(|list| list.contains(&word.as_str()));
        if s.lang.is_receiver(word) || plain || word.len() < 3 {
            continue;
        }
        let known = counts.entry(b).or_insert((s.names.binding(b).first >= first, 0, r.node));
        known.1 += 1;
    }
    let best = counts.into_iter().max_by_key(|(_, (own, n, at))| (*own, *n, std::cmp::Reverse(*at)));
    best.map(|(b, _)| words(&s.names.binding(b).name).join("_"))
}

/// `set_` with the one member that a part gives values to, or what the keys that it sets have in common; and how often.
fn written_member(site: &Portion) -> Option<(String, usize)> {
    let (s, t) = (site.source(), &site.source().tree);
    let word = |n: NodeId| -> Option<(NodeId, Vec<String>)> {
        match t.role(n) {
            Role::Assign => {
                let left = t.child(n, Field::Left)?;
                match t.role(left) {
                    Role::Member => Some((t.child(left, Field::Object)?, words(s.str(t.child(left, Field::Member)?)))),
                    Role::Index => {
                        let key = t.child(left, Field::Index).filter(|k| t.role(*k) == Role::Literal)?;
                        let object = t.child(left, Field::Object).or_else(|| t.children(left).next())?;
                        s.str(key).starts_with(['"', '\'']).then(|| (object, words(s.str(key))))
                    }
                    Role::Name => {
                        let b = s.names.at(left)?.target.filter(|b| s.names.is_member(*b))?;
                        Some((left, words(&s.names.binding(b).name)))
                    }
                    _ => None,
                }
            }
            Role::Call => {
                let callee = t.child(n, Field::Callee).filter(|c| t.role(*c) == Role::Member)?;
                let w = words(s.str(t.child(callee, Field::Member)?));
                let (set, rest) = w.split_first()?;
                (set == "set" && !rest.is_empty()).then(|| (t.child(callee, Field::Object).unwrap_or(n), rest.to_vec()))
            }
            _ => None,
        }
    };
    let all: Vec<(NodeId, Vec<String>)> =
        (site.region.first.0..site.region.end().0).map(NodeId).filter_map(word).collect();
    let mut names: Vec<String> = all.iter().map(|(_, w)| w.join("_")).collect();
    // one that most of it is about
    let count = |n: &String| names.iter().filter(|o| *o == n).count();
    if let Some(most) = names.iter().find(|n| count(n) > 2 && count(n) * 3 >= names.len() * 2).cloned() {
        names.retain(|n| *n == most);
    }
    let list: Vec<&str> = names.iter().map(String::as_str).collect();
    let mut shared = shared_words(&list);
    if list.len() < 2 || !telling(&shared) || shared.iter().any(|w| !w.chars().all(char::is_alphanumeric)) {
        return None;
    }
    // a few of them behind something longer are not what it is about
    let site_lines = |a: usize, z: usize| s.lines.line(z) - s.lines.line(a) + 1;
    let own: usize = all
        .iter()
        .map(|(o, _)| {
            t.ancestors(*o)
                .find(|a| t.role(*a) == Role::ExprStmt)
                .map_or(1, |e| site_lines(t.span(e).start, t.span(e).end))
        })
        .sum();
    let whole = site_lines(t.span(site.region.first).start, t.span(site.region.last).end);
    if list.len() < 6 && own * 4 < whole {
        return None;
    }
    let (object, _) = all.first()?;
    let of_one = all.iter().all(|(o, _)| s.str(*o) == s.str(*object)) && !s.lang.is_receiver(s.str(*object));
    let of = words(s.str(*object));
    let of = of.last().filter(|w| of_one && w.len() > 2 && !shared.contains(w));
    match list.iter().all(|n| *n == list[0]) {
        true => shared.splice(0..0, of.cloned()),
        false => shared.splice(shared.len().., of.cloned()),
    };
    Some((format!("set_{}", shared.join("_")), list.len()))
}

/// From the last call that stands as a statement of its own, or is returned, and says what the code is for.
fn main_call(site: &Portion, alone_part: bool) -> Option<String> {
    let t = &site.source().tree;
    let stands =
        |n: &NodeId| t.parent(*n).is_some_and(|p| matches!(t.role(p), Role::ExprStmt | Role::Return | Role::Await));
    let nodes = (site.region.first.0..site.region.end().0).rev().map(NodeId);
    let calls = nodes.filter(|n| t.role(*n) == Role::Call).filter(stands);
    // of several ways, one says nothing of the others
    let (alone, some) = (site.region.first == site.region.last, |a: NodeId| {
        matches!(t.role(a), Role::If | Role::Elif | Role::Else | Role::Switch | Role::Match | Role::Except)
    });
    let inside = |c: NodeId| t.ancestors(c).take_while(|a| *a >= site.region.first).filter(|a| some(*a)).count();
    let calls: Vec<NodeId> = calls.collect();
    // what a call did on the way is not what a part gives
    let gives = returns(site);
    let on_the_way = |c: NodeId| gives && c < site.region.last && (alone_part || calls.len() == 1);
    let depth = usize::from(alone || calls.len() == 1);
    let calls = calls.iter().copied().filter(|c| !alone_part || inside(*c) <= depth && !on_the_way(*c));
    let all: Vec<Vec<String>> = calls.filter_map(|c| call_words(site, c)).collect();
    let mut list = all.iter().find(|w| telling(w) && !w.iter().any(|x| is_chatter(x)) && !is_ending(&w[0]))?.clone();
    // done several times, one after the other
    let often = all.iter().filter(|w| **w == list).count() > 1 && list.len() == 2;
    if let Some(thing) = list.last_mut().filter(|w| often && w.ends_with(char::is_alphabetic) && !w.ends_with('s')) {
        thing.push('s');
    }
    Some(list.join("_"))
}

/// A part gives a value back by a return of its own.
fn returns(site: &Portion) -> bool {
    let t = &site.source().tree;
    let of_part = |n: NodeId| t.callable_around(n).is_none_or(|f| f < site.region.first);
    let nodes = (site.region.first.0..site.region.end().0).map(NodeId);
    nodes.filter(|n| t.role(*n) == Role::Return && of_part(*n)).any(|r| t.children(r).any(|c| t.role(c) != Role::Token))
}

/// Words of calls that only tell what goes on.
pub fn is_chatter(word: &str) -> bool {
    ["log", "logger", "logging", "print", "println", "printf", "debug", "info", "warn", "warning", "assert"]
        .contains(&word)
}

/// Calls that end what was done: they say nothing of it.
fn is_ending(word: &str) -> bool {
    ["close", "exit", "flush", "join", "pop", "quit", "release", "sleep", "unlock", "unmark"].contains(&word)
}

/// Calls that hand their argument to what they are called on.
const PUTS: &[&str] = &["add", "append", "put", "push", "send", "write", "emit", "save", "store", "insert", "register"];

fn call_words(site: &Portion, call: NodeId) -> Option<Vec<String>> {
    let (s, t) = (site.source(), &site.source().tree);
    let callee = t.child(call, Field::Callee)?;
    match t.role(callee) {
        Role::Name if is_class_like(s.str(callee)) => Some([vec!["make".into()], words(s.str(callee))].concat()),
        Role::Name => Some(words(s.str(callee))),
        Role::Member => {
            let mut w = words(s.str(t.child(callee, Field::Member)?));
            let object = t.child(callee, Field::Object)?;
            let object = t.child(object, Field::Member).unwrap_or(object);
            // what is put there says more than where
            if w.len() < 2 && PUTS.contains(&w[0].as_str()) {
                let list = t.child(call, Field::Arguments)?;
                let given = t.children(list).filter(|c| t.role(*c) == Role::Name).map(|c| s.str(c));
                let thing = given.last().filter(|n| n.len() > 2 && !PLAIN_RESULTS.contains(n));
                if let Some(thing) = thing {
                    w.extend(words(thing));
                    return Some(w);
                }
            }
            if matches!(t.role(object), Role::Name | Role::MemberName) {
                let own = words(s.str(object));
                let receiver = s.lang.is_receiver(s.str(object));
                // a name of two letters says nothing to who does not see its type
                let short = own.iter().all(|x| x.len() < 3);
                let does = VERBS.contains(&w[0].as_str()) || WEAK.contains(&w[0].as_str());
                if does && !receiver && !short && (w.len() < 2 || own.iter().any(|x| is_chatter(x))) {
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
    }
}
