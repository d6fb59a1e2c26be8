//! The second opinion: is the edited text still the same program?
//!
//! Of the planner's knowledge it uses trees, names and what the index tells of a project, and not how a plan is made. It
//! starts from the edited texts, parsed anew, and checks that no new errors appear, that what lies outside the edits is the
//! same and means the same ([`outside`]), that each site's arguments put into the new body give that site's code back
//! ([`body`]), that no value is lost on the way out or in, and that arguments may be evaluated where they now are
//! ([`order`]).
//!
//! It is meant to be strict: where it can't follow it disagrees, and a plan is refused that may have been right.

mod beside;
mod body;
mod call;
mod captured;
mod cells;
mod check;
mod declared;
mod derived;
mod divided;
mod emptied;
mod equal;
mod everywhere;
mod file;
pub(crate) mod first;
mod gathered;
mod globals;
mod in_turn;
mod inlined;
mod inlined_field;
mod inlined_member;
mod joined;
mod leaving;
mod lifted;
mod lifted_code;
mod lifted_names;
mod members;
mod mode;
mod moments;
mod moved;
mod moved_code;
mod moved_names;
mod named;
mod optional;
mod order;
mod outside;
mod packages;
mod parted;
mod rehomed;
mod rehomed_code;
mod rehomed_names;
mod removed;
mod renamed;
mod reordered;
mod repeated;
mod resettled;
mod resettled_code;
mod resettled_names;
mod resettled_reach;
mod retired;
mod signature;
mod spread;
mod stack;
mod top_level;
mod turns;
mod unneeded;
mod unread;
mod unrolled;
mod valued;
mod widened;

use std::sync::Arc;

use rayon::prelude::*;
use rustc_hash::FxHashMap;

use crate::audit::file::{File, Renaming, Walked};
use crate::change::{Change, Claim, Code, FileEdits, NewFunction, Reason, Site};
use crate::index::Project;
use crate::index::quiet::tell;
use crate::names::Source;
use crate::text::{Span, apply_edits};
use crate::tree::{Field, NodeId, Role, Tree};

/// What speaks against a change, as a line and a place.
pub(crate) struct Objection {
    message: String,
    file: String,
    line: usize,
}

type Opinion<T> = Result<T, Objection>;

fn object<T>(source: &Source, node: NodeId, message: impl Into<String>) -> Opinion<T> {
    Err(Objection { message: message.into(), file: source.path.clone(), line: source.line(node) })
}

/// Looks at many at once; of those that speak against it the first is told.
fn each<T: Sync>(all: &[T], check: impl Fn(&T) -> Opinion<()> + Sync) -> Opinion<()> {
    all.par_iter().find_map_first(|x| check(x).err()).map_or(Ok(()), Err)
}

/// One file before and after.
pub(crate) struct Pair {
    pub old: Arc<Source>,
    pub new: Source,
    /// Copies in the old tree, each with the statement that took its place in the new one.
    pub sites: Vec<SitePair>,
    /// Ranges of the new text that were inserted and replace no copy.
    pub inserted: Vec<Span>,
    /// Functions of the old tree that are gone, with their calls.
    pub retired: Vec<RetiredFunction>,
    /// Imports of the old tree, or names of them, that are gone.
    pub dropped: Vec<NodeId>,
}

pub(crate) struct SitePair {
    pub first: NodeId,
    pub last: NodeId,
    pub call: NodeId,
    /// The copy is one expression inside a statement.
    pub is_expression: bool,
    /// Statements before the call that only declare what it gives values to.
    pub declares: Vec<NodeId>,
    /// Statements behind the call that take the results out of its value.
    pub unpacks: Vec<NodeId>,
}

/// A function that goes, and the calls that took the place of its calls.
pub(crate) struct RetiredFunction {
    pub function: NodeId,
    pub calls: Vec<(NodeId, NodeId)>,
}

/// Agrees, or says why not.
pub fn audit(project: &Project, change: &Change) -> Result<(), Vec<Reason>> {
    let may_go = matches!(change.claim, Claim::Inlined { .. } | Claim::Moved { .. });
    let opinion = match change.claim {
        _ if !may_go && change.result.files.iter().any(|f| f.goes) => {
            Err(Objection { message: "no file may go here".into(), file: String::new(), line: 1 })
        }
        Claim::Called { .. } => run(project, change),
        Claim::Named { name } => named::run(project, name, change.result, &repeated::Told::of(change)),
        Claim::InTurn => return in_turn::run(project, change.result),
        Claim::Renamed { .. }
        | Claim::Widened { .. }
        | Claim::Inlined { .. }
        | Claim::Removed { .. }
        | Claim::Parted { .. }
        | Claim::Divided
        | Claim::Joined
        | Claim::Unrolled
        | Claim::Lifted
        | Claim::Valued { .. }
        | Claim::Moved { .. }
        | Claim::Reordered => laid_over(project, change),
    };
    if opinion.is_ok()
        && let Err(o) = cells::keep(project, change)
    {
        return Err(vec![Reason { code: Code::ShownValue, message: o.message, file: o.file, line: o.line }]);
    }
    let opinion = opinion.and_then(|()| stack::told(project, change));
    opinion.map_err(|o| {
        let message = format!("the second reading does not agree: {}", o.message);
        vec![Reason { code: Code::Audit, message, file: o.file, line: o.line }]
    })
}

fn run(project: &Project, change: &Change) -> Opinion<()> {
    let o = &change.result;
    let nowhere = |message: &str| Objection { message: message.into(), file: String::new(), line: 1 };
    let function = o.function.as_ref().ok_or_else(|| nowhere("no function is written"))?;
    let mut pairs: FxHashMap<&str, Pair> = FxHashMap::default();
    let mut by_file: FxHashMap<&str, Vec<&Site>> = FxHashMap::default();
    o.sites.iter().for_each(|s| by_file.entry(&s.place.file).or_default().push(s));
    for f in &o.files {
        pairs.insert(&f.file, pair(project, f, by_file.get(f.file.as_str()).map_or(&[], Vec::as_slice))?);
    }
    if o.sites.iter().any(|s| !pairs.contains_key(s.place.file.as_str())) {
        return Err(nowhere("a site's file is not edited"));
    }
    let home = pairs.get(function.file.as_str()).ok_or_else(|| nowhere("the home is not edited"))?;
    let definition = find_definition(home, function)?;
    defined_in_time(home, definition)?;
    own_of_each(home, definition, o.sites.len())?;
    let users: Vec<usize> = by_file.keys().filter_map(|f| project.index(f)).collect();
    let mut maps = FxHashMap::default();
    for (path, p) in &pairs {
        let own = (*path == function.file).then_some(definition);
        let loaded = project.index(&function.file);
        p.dropped.iter().try_for_each(|n| unneeded::may_go(project, (&p.old, &p.new), *n, loaded))?;
        let beside = own.map_or(Vec::new(), |_| beside::found(project, p, function, definition));
        let new = outside::New { definition: own, beside: &beside, name: &function.name, home: loaded };
        maps.insert(*path, outside::compare(project, p, new, &users)?);
    }
    if function.class.is_some() && project.word_elsewhere(&function.name, &[]) {
        return object(&home.new, definition, format!("`{}` is a member somewhere already", function.name));
    }
    for (path, p) in &pairs {
        for s in &p.sites {
            let check = check::Check {
                project,
                change,
                function,
                home: &home.new,
                definition,
                pair: p,
                site: s,
                map: &maps[path],
                old_call: None,
            };
            check.run()?;
        }
        for gone in &p.retired {
            retired::nothing_left(project, p, gone)?;
            for (site, old_call) in retired::sites(p, gone, function.class.is_some())? {
                let check = check::Check {
                    project,
                    change,
                    function,
                    home: &home.new,
                    definition,
                    pair: p,
                    site: &site,
                    map: &maps[path],
                    old_call: Some(old_call),
                };
                check.run()?;
            }
        }
    }
    Ok(())
}

/// What the copies have one each of does not become one for all.
fn own_of_each(home: &Pair, definition: NodeId, copies: usize) -> Opinion<()> {
    let (s, t) = (&home.new, &home.new.tree);
    let Some(of) = s.lang.bases().filter(|_| copies > 1) else { return Ok(()) };
    let mut classes = t.subtree(definition).filter(|n| t.role(*n) == Role::Class);
    let kept = classes.find_map(|c| of.kept_over_calls(s, c));
    kept.map_or(Ok(()), |n| object(s, n, "all copies would share this"))
}

/// A function of the file is there before anything that runs when the file is loaded can call it.
fn defined_in_time(home: &Pair, definition: NodeId) -> Opinion<()> {
    let (s, t) = (&home.new, &home.new.tree);
    let top = |n: NodeId| t.ancestors(n).chain([n]).find(|a| t.parent(*a) == Some(Tree::ROOT));
    let own = top(definition).unwrap_or(definition);
    if s.lang.functions_come_first() || t.callable_around(definition).is_some() || s.names.members_in_sight {
        return Ok(());
    }
    let Some(first) = home.sites.iter().filter_map(|x| top(x.call)).min().filter(|f| *f < own) else { return Ok(()) };
    let only_defines = |n: NodeId| t.role(n).is_definition() || matches!(t.role(n), Role::Import | Role::ImportFrom);
    let between = t.children(Tree::ROOT).find(|n| *n >= first && *n < own && !only_defines(*n));
    match between {
        Some(n) => object(s, n, "this may call the new function before it is there"),
        None => Ok(()),
    }
}

/// What is assumed under these codes, with its line.
fn told_at(change: &Change, codes: &[Code]) -> Vec<(usize, String)> {
    let told = change.result.reasons.iter().filter(|r| codes.contains(&r.code));
    told.map(|r| (r.line, r.message.clone())).collect()
}

/// Steps that write no function: old and new files, node by node.
fn laid_over(project: &Project, change: &Change) -> Opinion<()> {
    if change.result.files.is_empty() {
        return Err(Objection { message: "nothing is changed".into(), file: String::new(), line: 1 });
    }
    let files: Vec<File> = change.result.files.par_iter().map(|f| File::new(project, f)).collect::<Opinion<_>>()?;
    if matches!(change.claim, Claim::Inlined { .. } | Claim::Reordered | Claim::Divided | Claim::Joined) {
        files.iter().flat_map(|f| [&f.old, &f.new]).for_each(|s| tell(project, s));
    }
    globals::stay(project, &files)?;
    match change.claim {
        Claim::Renamed { to } => {
            let Some(old) = files.iter().find_map(|f| f.renamed_word()) else {
                return object(&files[0].old, Tree::ROOT, "no word changed");
            };
            let renaming = Renaming { old: &old, new: to, verdict: change.result.verdict, files: &change.result.files };
            let maps: Vec<_> = files.par_iter().map(|f| f.renamed(to, &old)).collect::<Opinion<_>>()?;
            renamed::members(project, &renaming, &files)?;
            everywhere::run(project, &renaming, &files, &maps)
        }
        Claim::Widened { name } => {
            let value = files.iter().find_map(|f| Some((&*f.old, f.hole()?)));
            let walked: Vec<Walked> = files.iter().map(|f| f.with_parameter(name, value)).collect::<Opinion<_>>()?;
            widened::run(project, value, &files, &walked)
        }
        Claim::Inlined { definition, partly } => {
            inlined::run(project, (definition, *partly), &files, &repeated::Told::of(change))?;
            emptied::check(project, &change.result.files, &files)
        }
        Claim::Parted { name } => {
            let told = change.result.reasons.iter().filter(|r| r.code == Code::Swallowed);
            parted::run(project, &files, name, &told.map(|r| r.line).collect::<Vec<_>>())
        }
        Claim::Removed { debug } => removed::run(project, &files, *debug),
        Claim::Reordered => reordered::run(project, &files, &told_at(change, &[Code::PlainValue])),
        Claim::Joined => joined::run(&files),
        Claim::Unrolled => unrolled::run(project, &files),
        Claim::Lifted => lifted::run(project, change, &files),
        Claim::Valued { names } => valued::run(project, names, change, &files),
        Claim::Moved { from, to }
            if files[0].old.names.members_in_sight && resettled::is_meant(project, to, change) =>
        {
            resettled::run(project, (from, to), change)
        }
        Claim::Moved { from, to } if files[0].old.names.members_in_sight => {
            rehomed::run(project, (from, to), change, &files)
        }
        Claim::Moved { from, to } => {
            moved::run(project, (from, to), change, &files)?;
            emptied::check(project, &change.result.files, &files)
        }
        Claim::Divided => divided::run(project, &files, &told_at(change, &[Code::PlainValue, Code::GoneThroughAgain])),
        Claim::Called { .. } | Claim::Named { .. } | Claim::InTurn => {
            object(&files[0].old, Tree::ROOT, "a new function is no matter of names alone")
        }
    }
}

/// Applies a file's edits, those at its sites among them, and finds what each of them did.
fn pair(project: &Project, f: &FileEdits, sites: &[&Site]) -> Opinion<Pair> {
    let nowhere = |message: String| Objection { message, file: f.file.clone(), line: 1 };
    let index = project.index(&f.file).ok_or_else(|| nowhere("not a file of the project".into()))?;
    let old = project.source(index).map_err(&nowhere)?;
    let text = apply_edits(&old.text, &f.edits).map_err(|e| nowhere(e.to_string()))?;
    let new = project.parse(&f.file, text.into()).map_err(nowhere)?;
    if new.tree.errors().len() != old.tree.errors().len() {
        let at = new.tree.errors().first().map_or(1, |e| new.lines.line(e.start));
        return Err(Objection { message: "the new text does not parse".into(), file: f.file.clone(), line: at });
    }
    let retired = retired::functions(&old, f, sites)?;
    let mut p = Pair { old, new, sites: Vec::new(), inserted: Vec::new(), retired, dropped: Vec::new() };
    let mut edits: Vec<_> = f.edits.iter().collect();
    edits.sort_by_key(|e| (e.span.start, e.span.end));
    let mut shift = 0i64;
    for e in edits {
        let start = (e.span.start as i64 + shift) as usize;
        let span = Span::new(start, start + e.text.len());
        shift += e.text.len() as i64 - (e.span.end - e.span.start) as i64;
        if e.span.start == e.span.end {
            p.inserted.push(span);
            continue;
        }
        if retired::accounts_for(&mut p, sites, e, span) || unneeded::accounts_for(&mut p, e, span) {
            continue;
        }
        let fits =
            |s: &&Site| s.retired.is_none() && s.place.end_byte == e.span.end && e.span.start <= s.place.start_byte;
        let Some(site) = sites.iter().copied().find(fits) else {
            return Err(Objection {
                message: "an edit replaces what is no copy".into(),
                file: f.file.clone(),
                line: p.old.lines.line(e.span.start),
            });
        };
        let pair = site_pair(&p, site, e.span, span)?;
        p.sites.push(pair);
    }
    Ok(p)
}

fn site_pair(p: &Pair, site: &Site, old: Span, new: Span) -> Opinion<SitePair> {
    let t = &p.old.tree;
    let place = Span::new(site.place.start_byte, site.place.end_byte);
    let line = site.place.start_line;
    let objection = |message: &str| Objection { message: message.into(), file: p.old.path.clone(), line };
    let touched = |s: Span| {
        let near = t.subtree(t.covering(s));
        near.filter(move |n| t.is_leaf(*n) && t.span(*n).start >= s.start && t.span(*n).start < s.end)
    };
    if touched(Span::new(old.start, place.start)).next().is_some() {
        return Err(objection("an edit replaces code before the copy"));
    }
    if let Some(pair) = expression_pair(p, old, new).filter(|_| old == place) {
        return Ok(pair);
    }
    let first_leaf = touched(place).next().ok_or_else(|| objection("a copy without code"))?;
    let first = t
        .ancestors(first_leaf)
        .chain([first_leaf])
        .filter(|n| t.parent(*n).is_some_and(|p| t.role(p).is_sequence()) && place.contains(t.span(*n)))
        .min()
        .ok_or_else(|| objection("a copy that begins inside a statement"))?;
    let block = t.parent(first).expect("found by its parent");
    let last = t
        .children(block)
        .filter(|c| *c >= first && place.contains(t.span(*c)))
        .last()
        .ok_or_else(|| objection("a copy without statements"))?;
    if touched(place).any(|n| n < first || n >= t.end(last)) {
        return Err(objection("a copy that is no run of whole statements"));
    }
    let n = &p.new.tree;
    let inner = n.covering(new);
    let around = std::iter::once(inner).chain(n.ancestors(inner)).find(|a| !new.contains(n.span(*a)));
    let written: Vec<NodeId> = n
        .subtree(around.unwrap_or(Tree::ROOT))
        .filter(|c| n.parent(*c).is_some_and(|b| n.role(b).is_sequence()) && new.contains(n.span(*c)))
        .filter(|c| {
            n.ancestors(*c).all(|a| !new.contains(n.span(a)) || !n.parent(a).is_some_and(|b| n.role(b).is_sequence()))
        })
        .collect();
    let bare = |d: &NodeId| {
        n.role(*d) == Role::Declare
            && n.children(*d).all(|p| n.role(p) == Role::Token || n.is_leaf(p) || n.child(p, Field::Right).is_none())
    };
    if let Some((call, unpacks)) = written.split_first().filter(|(c, u)| {
        let plain = u.iter().all(|x| n.role(*x) != Role::If);
        plain && !u.is_empty() && is_kept_value(&p.new, **c)
    }) {
        let filled = n.span(*call).start == new.start && unpacks.last().is_some_and(|u| n.span(*u).end == new.end);
        if filled {
            let (call, unpacks) = (*call, unpacks.to_vec());
            return Ok(SitePair { first, last, call, is_expression: false, declares: Vec::new(), unpacks });
        }
    }
    let Some((call, declares)) = written.split_last() else {
        return Err(objection("no statement took the copy's place"));
    };
    let starts = written.first().is_some_and(|w| n.span(*w).start == new.start);
    // a value that may be returned is kept by the statement before
    let kept = n.role(*call) == Role::If && declares.len() == 1;
    if !starts || n.span(*call).end != new.end || !kept && !declares.iter().all(bare) {
        return Err(objection("no single statement took the copy's place"));
    }
    Ok(SitePair { first, last, call: *call, is_expression: false, declares: declares.to_vec(), unpacks: Vec::new() })
}

/// A declaration of one variable with a call's value, where functions give one value.
fn is_kept_value(s: &Source, statement: NodeId) -> bool {
    let t = &s.tree;
    let value = t.children(statement).find_map(|c| t.child(c, Field::Right));
    let called = value.is_some_and(|v| t.role(v) == Role::Call);
    t.role(statement) == Role::Declare && called && s.lang.needs_result_type()
}

/// An expression, no statement by itself, that an expression took the place of.
fn expression_pair(p: &Pair, old: Span, new: Span) -> Option<SitePair> {
    let filling = |s: &Source, span: Span| {
        let t = &s.tree;
        let fits = |n: &NodeId| t.span(*n) == span;
        // a block has the range of its only statement
        let around = t.ancestors(t.covering(span)).take_while(|a| fits(a)).last().unwrap_or(t.covering(span));
        let own = t.subtree(around).take_while(|n| t.span(*n).start <= span.start);
        let own = own.into_iter().find(|n| fits(n) && !t.role(*n).is_sequence())?;
        // what stands in text that is no code is a value of that
        let statement = t.parent(own).is_some_and(|b| t.role(b).is_sequence()) && t.role(own) != Role::FrameName;
        let value = t.subtree(own).filter(fits).find(|n| t.role(*n).is_expression());
        value.filter(|_| !statement)
    };
    let (a, b) = (filling(&p.old, old)?, filling(&p.new, new)?);
    Some(SitePair { first: a, last: a, call: b, is_expression: true, declares: Vec::new(), unpacks: Vec::new() })
}

/// The new function in the new text of its home.
fn find_definition(home: &Pair, function: &NewFunction) -> Opinion<NodeId> {
    let t = &home.new.tree;
    let found = t.ids().find(|f| {
        t.role(*f) == Role::Function
            && home.inserted.iter().any(|s| s.contains(t.span(*f)))
            && t.child(*f, Field::Name).is_some_and(|n| home.new.str(n) == function.name)
    });
    let Some(f) = found else {
        return object(&home.new, Tree::ROOT, "the new function is not there");
    };
    let statement = t.parent(f).filter(|p| t.role(*p) == Role::Decorated).unwrap_or(f);
    let around = t.parent(statement).and_then(|b| if b == Tree::ROOT { Some(b) } else { t.parent(b) });
    let class =
        around.filter(|a| t.role(*a) == Role::Class).map(|c| t.child(c, Field::Name).map_or("", |n| home.new.str(n)));
    let at_top = around == Some(Tree::ROOT);
    let nested = function.nested && around.is_some_and(|a| t.role(a).is_callable());
    if class != function.class.as_deref() || class.is_none() && !at_top && !nested {
        return object(&home.new, f, "the new function is not where the plan says");
    }
    Ok(f)
}

#[cfg(test)]
mod tests;
