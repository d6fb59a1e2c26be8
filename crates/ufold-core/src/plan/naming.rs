//! Names for the new function: from comments, from the words that the copies share, from what they do. Falls back to
//! plain words; a person's `--name` comes before all of it.

use rustc_hash::FxHashSet;

use crate::plan::comment_names::{from_comment, is_asking, thing_of_comment};
use crate::plan::general::General;
use crate::plan::part_names::{branch_words, deed, main_local, returns, sets_members, written_member};
use crate::plan::region::Portion;
use crate::plan::verbs::VERBS;
use crate::plan::words::{PLAIN_RESULTS, WEAK, is_class_like, shared_words, telling, words};
use crate::tree::{Field, NodeId, Role};

/// Name candidates without marks of privacy, the best first: those that say something, and those for want of better ones.
pub struct Candidates {
    pub good: Vec<String>,
    pub weak: Vec<String>,
}

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
    let alone = !gives && sites.len() == 1 && !whole;
    out.extend(said.and_then(|c| match c.split_once('_').filter(|(verb, _)| alone && is_asking(verb)) {
        Some((_, thing)) => sets_members(site).then(|| format!("set_{thing}")),
        None => Some(c),
    }));
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
    let target = s.names.at(last).and_then(|r| r.target).filter(|_| t.role(last) == Role::Name)?;
    (s.names.frame_of(target) == site.scope).then(|| s.str(last).to_string())
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
    let put = |n: &NodeId| {
        t.parent(*n).is_some_and(|m| t.field(*n) == Field::Object && matches!(t.field(m), Field::Callee | Field::Left))
    };
    if uses.peek().is_some() && uses.clone().any(|n| put(&n)) && uses.all(given) {
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
    if s.lang.printers().contains(&s.str(callee)) {
        return Some(vec!["print".into()]);
    }
    // where functions are written like classes, a word of its own makes objects
    let cased = s.lang.function_name(&["work".into()], true, true).starts_with(char::is_uppercase);
    let makes = is_class_like(s.str(callee)) && (!cased || s.lang.is_construction(s.str(call)));
    match t.role(callee) {
        Role::Name if makes => Some([vec!["make".into()], words(s.str(callee))].concat()),
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
