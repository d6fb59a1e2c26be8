//! What a part of a function is about: the branch that it is, the local it has most to do with, the members that it sets.

use rustc_hash::FxHashMap;

use crate::names::{BindingId, Source};
use crate::plan::region::Portion;
use crate::plan::verbs::VERBS;
use crate::plan::words::{COUNTERS, PLAIN_RESULTS, shared_words, telling, words};
use crate::tree::{Field, NodeId, Role};

/// Most of what it does is to give values to members or elements of one object.
pub(super) fn sets_members(site: &Portion) -> bool {
    let (s, t) = (site.source(), &site.source().tree);
    let assigned = |n: NodeId| t.child(n, Field::Left).filter(|_| t.role(n) == Role::Assign);
    let of = |l: NodeId| t.child(l, Field::Object).filter(|_| matches!(t.role(l), Role::Member | Role::Index));
    let nodes = || (site.region.first.0..site.region.end().0).map(NodeId);
    let objects = nodes().filter_map(assigned).filter(|l| t.role(*l) != Role::Name).map(|l| of(l).map(|o| s.str(o)));
    let objects: Vec<Option<&str>> = objects.collect();
    let most = objects.len() * 2 >= nodes().filter(|n| t.role(*n) == Role::ExprStmt).count();
    most && objects.first().is_some_and(|first| first.is_some() && objects.iter().all(|o| o == first))
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
pub(super) fn deed(site: &Portion) -> &'static str {
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
    let sets = sets_members(site).then_some("set");
    does.or_else(by_calls).or(sets).unwrap_or(if checks { "check" } else { "handle" })
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
pub(super) fn written_member(site: &Portion) -> Option<(String, usize)> {
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
    // what half of it sets, one call after the other
    let called = all.iter().all(|(o, _)| t.ancestors(*o).any(|a| t.field(a) == Field::Callee));
    let often = list.iter().find(|n| list.iter().filter(|o| o == n).count() * 2 >= list.len().max(4));
    if let Some(often) = often.filter(|_| called && !telling(&shared)) {
        let many = if often.ends_with(char::is_alphabetic) && !often.ends_with('s') { "s" } else { "" };
        return Some((format!("set_{}{many}", words(often).join("_")), list.len()));
    }
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

/// A part gives a value back by a return of its own.
pub(super) fn returns(site: &Portion) -> bool {
    let t = &site.source().tree;
    let of_part = |n: NodeId| t.callable_around(n).is_none_or(|f| f < site.region.first);
    let nodes = (site.region.first.0..site.region.end().0).map(NodeId);
    nodes.filter(|n| t.role(*n) == Role::Return && of_part(*n)).any(|r| t.children(r).any(|c| t.role(c) != Role::Token))
}
