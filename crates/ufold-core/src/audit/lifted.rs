//! Members of several classes that are their base's: each class has by its base what it declared itself, no more went and
//! nothing was added, and its objects are made ready as they were.
//!
//! Classes are laid over each other member by member; what the names mean, and where members are found, is looked at in
//! [`super::lifted_names`].

use std::sync::Arc;

use rustc_hash::FxHashSet;

use super::file::File;
use super::lifted_code::{Base, Emptied, classes};
use super::lifted_names;
use super::moved_code::{Pair, only_links, reads_alike};
use super::{Objection, Opinion, object, unneeded};
use crate::change::Change;
use crate::index::class_members::{alike, body, name_of};
use crate::index::own::makes_empty;
use crate::index::{Project, bases};
use crate::lang::Bases;
use crate::names::Source;
use crate::tree::{Field, NodeId, Role, Tree};

pub(super) fn run(project: &Project, change: &Change, files: &[File]) -> Opinion<()> {
    let first = &files[0].old;
    let nowhere = |m: &str| Objection { message: m.into(), file: first.path.clone(), line: 1 };
    let of = first.lang.bases().ok_or_else(|| nowhere("the language has no classes that could be extended"))?;
    let named = change.result.function.as_ref().ok_or_else(|| nowhere("no base is named"))?;
    let home =
        files.iter().find(|f| f.old.path == named.file).ok_or_else(|| nowhere("the base's file is not edited"))?;
    let is_new_file = project.index(&home.old.path).is_some_and(|f| project.is_new(f));
    let class = |s: &Source, name: &str| classes(s).into_iter().find(|c| name_is(s, *c, name));
    let new = class(&home.new, &named.name).ok_or_else(|| nowhere("the base is not there"))?;
    let old = class(&home.old, &named.name).filter(|_| !is_new_file);
    let mut base = Base { f: home, name: named.name.clone(), old, new, added: Vec::new() };
    let mut pairs: Vec<Pair> = Vec::new();
    let mut emptied: Vec<Emptied> = Vec::new();
    for f in files {
        statements((project, of), (f, files), &base, &mut pairs, &mut emptied)?;
        imports_that_went(project, f, home)?;
    }
    if emptied.len() < 2 {
        return Err(nowhere("fewer than two classes gave a member"));
    }
    base.added = added(&base, &mut pairs)?;
    on_lines_of_their_own(&home.new, base.new)?;
    emptied.iter().try_for_each(|e| on_lines_of_their_own(&e.f.new, e.new))?;
    for e in &mut emptied {
        members(of, e, &base, &mut pairs)?;
    }
    for e in &emptied {
        made_ready(of, e, &base, &mut pairs)?;
    }
    lifted_names::check(project, (of, change), (&emptied, &base), &pairs, files)
}

fn name_is(s: &Source, class: NodeId, name: &str) -> bool {
    s.tree.child(class, Field::Name).is_some_and(|n| s.str(n) == name)
}

fn leaves(s: &Source, n: NodeId, without: Option<NodeId>) -> Vec<NodeId> {
    let t = &s.tree;
    t.subtree(n).filter(|x| t.is_leaf(*x) && !without.is_some_and(|w| t.contains(w, *x))).collect()
}

/// The statements of a file: the same but for classes that gave members, and the base.
fn statements<'f>(
    (project, of_bases): (&Project, &dyn Bases),
    (f, all): (&'f File, &[File]),
    base: &Base,
    pairs: &mut Vec<Pair<'f>>,
    emptied: &mut Vec<Emptied<'f>>,
) -> Opinion<()> {
    let (o, s) = (&f.old, &f.new);
    let is_new = project.index(&o.path).is_some_and(|f| project.is_new(f));
    let of = |s: &Source| s.tree.children(Tree::ROOT).filter(|n| !only_links(s, *n)).collect::<Vec<_>>();
    let mut olds = if is_new { Vec::new() } else { of(o) }.into_iter();
    let none: Arc<[FxHashSet<NodeId>; 2]> = Arc::default();
    for n in of(s) {
        let inner = s.tree.definition_in(n);
        let is_base = f.old.path == base.f.old.path && inner == base.new;
        if is_base && base.old.is_none() {
            let marks = s.tree.children(n).any(|c| s.tree.role(c) == Role::Decorator);
            if marks {
                return object(s, n, "the new class is decorated");
            }
            if let Some(b) = bases::words(s, inner).into_iter().find(|b| !of_bases.is_no_base(s.str(*b))) {
                return object(s, b, "the new class extends another one");
            }
            continue;
        }
        if is_new {
            // what a file of these begins with
            let like = |x: &File| x.old.tree.children(Tree::ROOT).any(|m| x.old.str(m) == s.str(n));
            if all.iter().any(|x| x.old.path != o.path && like(x)) {
                continue;
            }
            return object(s, n, "this was added");
        }
        let Some(m) = olds.next() else { return object(s, n, "this was added") };
        if reads_alike((o, m), (s, n), &none) {
            pairs.push(Pair { old: o, new: s, a: m, b: n, moved: false, files: none.clone() });
            continue;
        }
        let was = o.tree.definition_in(m);
        let classes = o.tree.role(was) == Role::Class && s.tree.role(inner) == Role::Class;
        let (x, y) = (leaves(o, m, Some(was)), leaves(s, n, Some(inner)));
        let same = x.len() == y.len() && x.iter().zip(&y).all(|(a, b)| o.str(*a) == s.str(*b));
        let name = s.tree.child(inner, Field::Name).map_or("", |w| s.str(w));
        if !classes || !same || !name_is(o, was, name) {
            return object(o, m, "this is another statement now");
        }
        if !is_base {
            head(of_bases, (o, was), (s, inner), base)?;
            emptied.push(Emptied { f, old: was, new: inner, gone: Vec::new(), constructor: None });
        } else if head_words(o, was) != head_words(s, inner) {
            return object(o, was, "the base's head is another one now");
        }
    }
    match olds.next() {
        Some(m) => object(o, m, "code is missing"),
        None => Ok(()),
    }
}

fn head_words(s: &Source, class: NodeId) -> Vec<&str> {
    leaves(s, class, s.tree.child(class, Field::Body)).into_iter().map(|n| s.str(n)).collect()
}

/// A class's head is as it was, but for a new base that comes first.
fn head(of: &dyn Bases, (o, was): (&Source, NodeId), (s, is): (&Source, NodeId), base: &Base) -> Opinion<()> {
    let names =
        |s: &Source, c: NodeId| bases::words(s, c).into_iter().map(|n| s.str(n).to_string()).collect::<Vec<_>>();
    let (x, y) = (names(o, was), names(s, is));
    if base.old.is_some() {
        return if head_words(o, was) == head_words(s, is) {
            Ok(())
        } else {
            object(s, is, "the class's head is another one now")
        };
    }
    let rest: Vec<String> = x.into_iter().filter(|b| !of.is_no_base(b)).collect();
    if y.first() != Some(&base.name) || y[1..] != rest[..] {
        return object(s, is, "what the class extends is not what it extended and its new base");
    }
    let words = |s: &Source, c: NodeId| {
        let t = &s.tree;
        let of_bases = |n: NodeId| t.ancestors(n).any(|a| t.parent(a) == Some(c) && t.field(a) == Field::Bases);
        let all =
            leaves(s, c, t.child(c, Field::Body)).into_iter().filter(|n| !of_bases(*n) && t.field(*n) != Field::Bases);
        all.map(|n| s.str(n).to_string()).collect::<Vec<_>>()
    };
    if words(o, was) == words(s, is) { Ok(()) } else { object(s, is, "the class's head is another one now") }
}

/// Members that the base has more than before.
fn added<'f>(base: &Base<'f>, pairs: &mut Vec<Pair<'f>>) -> Opinion<Vec<NodeId>> {
    let (o, s) = (&base.f.old, &base.f.new);
    let mut olds = base.old.map_or(Vec::new(), |c| body(&o.tree, c)).into_iter().peekable();
    let mut out = Vec::new();
    for n in body(&s.tree, base.new) {
        match olds.peek().copied() {
            Some(m) if alike((o, m), (s, n)) => {
                olds.next();
                pairs.push(Pair { old: o, new: s, a: m, b: n, moved: false, files: Arc::default() });
            }
            _ => out.push(n),
        }
    }
    // what only filled the place goes
    match olds.find(|m| o.tree.role(*m) != Role::Pass) {
        Some(m) => object(o, m, "the base has lost this"),
        None => Ok(out),
    }
}

/// What of a class went, and that the base has each of it.
fn members<'f>(of: &dyn Bases, e: &mut Emptied<'f>, base: &Base<'f>, pairs: &mut Vec<Pair<'f>>) -> Opinion<()> {
    let (o, s): (&'f Arc<Source>, &'f Arc<Source>) = (&e.f.old, &e.f.new);
    let (olds, news) = (body(&o.tree, e.old), body(&s.tree, e.new));
    let is_constructor = |s: &Source, n: NodeId| of.is_constructor(s, s.tree.definition_in(n));
    let mut at = 0;
    for n in &news {
        let found = (at..olds.len()).find(|i| alike((o, olds[*i]), (s, *n)));
        let changed = || (at..olds.len()).find(|i| is_constructor(o, olds[*i]) && is_constructor(s, *n));
        match (found, found.is_none().then(changed).flatten()) {
            (Some(i), _) => {
                e.gone.extend(&olds[at..i]);
                pairs.push(Pair { old: o, new: s, a: olds[i], b: *n, moved: false, files: Arc::default() });
                at = i + 1;
            }
            (None, Some(i)) if e.constructor.is_none() => {
                e.gone.extend(&olds[at..i]);
                e.constructor = Some((olds[i], Some(*n)));
                at = i + 1;
            }
            _ if s.tree.role(*n) == Role::Pass && news.len() == 1 => {}
            _ => return object(s, *n, "this was added"),
        }
    }
    e.gone.extend(&olds[at..]);
    let has = |n: NodeId| base.added.iter().copied().find(|b| is_lifted(of, (o, n), (&base.f.new, *b)));
    // a constructor that did no more than the base's
    if let Some(i) = e.gone.iter().position(|n| is_constructor(o, *n) && has(*n).is_none()) {
        if e.constructor.is_some() {
            return object(o, e.gone[i], "two constructors are other ones now");
        }
        e.constructor = Some((e.gone.remove(i), None));
    }
    for n in &e.gone {
        let Some(b) = has(*n) else { return object(o, *n, "the base has nothing that is this") };
        if name_of(o, *n).is_none() {
            return object(o, *n, "this is no member with a name");
        }
        pairs.push(Pair { old: o, new: &base.f.new, a: *n, b, moved: true, files: Arc::default() });
    }
    let extra = |b: &&NodeId| {
        let own = is_constructor(&base.f.new, **b) && e.constructor.is_some();
        !own && !e.gone.iter().any(|n| is_lifted(of, (o, *n), (&base.f.new, **b)))
    };
    match base.added.iter().find(extra) {
        Some(b) => object(
            &base.f.new,
            *b,
            format!("`{}` did not declare this", o.tree.child(e.old, Field::Name).map_or("", |n| o.str(n))),
        ),
        None => Ok(()),
    }
}

/// The new member is the old one, put together in the same way, but for words that say who may name it.
fn is_lifted(of: &dyn Bases, (o, a): (&Source, NodeId), (s, b): (&Source, NodeId)) -> bool {
    let words =
        |s: &Source, n: NodeId| (s.tree.role(n), s.tree.field(n), s.tree.is_leaf(n).then(|| s.str(n).to_string()));
    let new: Vec<_> = s.tree.subtree(b).skip(1).map(|n| words(s, n)).collect();
    [true, false].into_iter().any(|below| {
        let Some(edits) = of.opened(o, a, below) else { return false };
        let mut old = Vec::new();
        for n in o.tree.subtree(a).skip(1) {
            let span = o.tree.span(n);
            match edits.iter().find(|e| e.span.contains(span)) {
                Some(e) if e.text.is_empty() => {}
                Some(e) => old.push((o.tree.role(n), o.tree.field(n), o.tree.is_leaf(n).then(|| e.text.clone()))),
                None => old.push(words(o, n)),
            }
        }
        o.tree.role(a) == s.tree.role(b) && old == new
    })
}

/// No two statements of a body stand on one line where nothing parts them.
fn on_lines_of_their_own(s: &Source, class: NodeId) -> Opinion<()> {
    let t = &s.tree;
    for n in
        t.subtree(class).filter(|n| t.parent(*n).is_some_and(|p| t.role(p).is_sequence()) && t.role(*n) != Role::Token)
    {
        let start = t.span(n).start;
        let before = s.text[..start].rsplit('\n').next().unwrap_or("").trim_end();
        if !before.is_empty() && !before.ends_with(['{', '}', ';', ':']) && !before.ends_with("*/") {
            return object(s, n, "this shares its line with another statement");
        }
    }
    Ok(())
}

fn statements_of(s: &Source, function: NodeId) -> Vec<NodeId> {
    let t = &s.tree;
    t.child(function, Field::Body).map_or(Vec::new(), |b| t.children(b).filter(|c| t.role(*c) != Role::Token).collect())
}

/// A constructor does what it did: what it did first is done by that of the base, with the same values.
fn made_ready<'f>(of: &dyn Bases, e: &Emptied<'f>, base: &Base<'f>, pairs: &mut Vec<Pair<'f>>) -> Opinion<()> {
    let (o, b) = (&e.f.old, &base.f.new);
    let gone = |n: &NodeId| e.gone.iter().any(|g| is_lifted(of, (o, *g), (b, *n)));
    let above = base.added.iter().copied().find(|n| of.is_constructor(b, *n) && !gone(n));
    let Some((was, is)) = e.constructor else {
        let own = body(&o.tree, e.old)
            .into_iter()
            .any(|n| of.is_constructor(o, o.tree.definition_in(n)) && !e.gone.contains(&n));
        let must = own && of.must_call_above() && base.old.is_none();
        return if must || above.is_some() {
            object(o, e.old, "its constructor does not call the one above")
        } else {
            Ok(())
        };
    };
    if base.old.is_some() {
        return object(o, was, "a constructor is another one now");
    }
    let (first, call, rest) = split(of, o, was);
    if call.is_some_and(|c| !has_no_arguments(o, c)) {
        return object(o, was, "it handed something to the constructor above before");
    }
    let took: Vec<NodeId> = above.map_or(Vec::new(), |c| statements_of(b, c));
    if took.len() > rest.len() {
        return object(o, was, "the constructor above does more than this one did");
    }
    for (x, y) in rest.iter().zip(&took) {
        if !alike((o, *x), (b, *y)) || !only_sets(o, *x) {
            return object(o, *x, "the constructor above does something else");
        }
        pairs.push(Pair { old: o, new: b, a: *x, b: *y, moved: true, files: Arc::default() });
    }
    let given = above.map_or(Vec::new(), |c| parameters(b, c));
    let own = parameters(o, was);
    if let Some(name) = given.iter().find(|g| !own.contains(g) || is_written(o, was, g)) {
        return object(o, was, format!("it has no `{name}` that it could hand up unchanged"));
    }
    order_of_fields(of, e, above.is_some())?;
    let Some(is) = is else {
        let list = |s: &Source, f: NodeId| {
            s.tree
                .child(f, Field::Parameters)
                .map_or(Vec::new(), |l| leaves(s, l, None).into_iter().map(|n| s.str(n).to_string()).collect())
        };
        let whole = rest.len() == took.len() && first.is_empty() && above.is_some_and(|c| list(b, c) == list(o, was));
        return if whole && of.inherits_constructors() { Ok(()) } else { object(o, was, "its constructor is missing") };
    };
    let rest = [first, rest[took.len()..].to_vec()];
    what_stays(of, e, (was, is), &given, &rest, pairs)
}

/// A constructor that is still there hands up what the one above takes, and does the rest as before.
fn what_stays<'f>(
    of: &dyn Bases,
    e: &Emptied<'f>,
    (was, is): (NodeId, NodeId),
    given: &[String],
    [first, rest]: &[Vec<NodeId>; 2],
    pairs: &mut Vec<Pair<'f>>,
) -> Opinion<()> {
    let (o, s) = (&e.f.old, &e.f.new);
    let (doc, new_call, new_rest) = split(of, s, is);
    let Some(c) = new_call else { return object(s, is, "it does not call the constructor above") };
    if arguments(s, c).as_deref() != Some(given) {
        return object(s, c, "it hands other values to the constructor above");
    }
    let heads = |s: &Source, f: NodeId| {
        leaves(s, f, s.tree.child(f, Field::Body)).into_iter().map(|n| s.str(n).to_string()).collect::<Vec<_>>()
    };
    if heads(o, was) != heads(s, is) || first.len() != doc.len() || new_rest.len() != rest.len() {
        return object(s, is, "its constructor is another one now");
    }
    let list = |s: &Source, f: NodeId| s.tree.child(f, Field::Parameters);
    if let Some((x, y)) = list(o, was).zip(list(s, is)) {
        pairs.push(Pair { old: o, new: s, a: x, b: y, moved: false, files: Arc::default() });
    }
    for (x, y) in first.iter().chain(rest).zip(doc.iter().chain(&new_rest)) {
        if !alike((o, *x), (s, *y)) {
            return object(s, *y, "its constructor is another one now");
        }
        pairs.push(Pair { old: o, new: s, a: *x, b: *y, moved: false, files: Arc::default() });
    }
    Ok(())
}

/// What stands before, the call of the constructor above, and the rest.
fn split(of: &dyn Bases, s: &Source, f: NodeId) -> (Vec<NodeId>, Option<NodeId>, Vec<NodeId>) {
    let all = statements_of(s, f);
    let docs: Vec<NodeId> = all.iter().copied().take_while(|n| s.tree.role(*n) == Role::Doc).collect();
    let rest = &all[docs.len()..];
    let call = rest.first().copied().filter(|n| of.is_call_above(s, *n));
    (docs, call, rest[usize::from(call.is_some())..].to_vec())
}

fn call_in(s: &Source, statement: NodeId) -> Option<NodeId> {
    let t = &s.tree;
    let calls: Vec<NodeId> = t.subtree(statement).filter(|n| t.role(*n) == Role::Call).collect();
    // of `super().a(…)` the outer one
    calls.first().copied()
}

/// The plain names that a call hands over.
fn arguments(s: &Source, statement: NodeId) -> Option<Vec<String>> {
    let t = &s.tree;
    let list = t.child(call_in(s, statement)?, Field::Arguments)?;
    let all = t.children(list).filter(|c| t.role(*c) != Role::Token);
    all.map(|a| (t.role(a) == Role::Name && t.is_leaf(a)).then(|| s.str(a).to_string())).collect()
}

fn has_no_arguments(s: &Source, statement: NodeId) -> bool {
    arguments(s, statement).is_some_and(|a| a.is_empty())
}

/// Names of parameters, without the object.
fn parameters(s: &Source, f: NodeId) -> Vec<String> {
    let t = &s.tree;
    let object = crate::index::method::receiver_of(s, f).map(|(_, b)| s.names.binding(b).first);
    let list = t.child(f, Field::Parameters).map_or(Vec::new(), |l| t.children(l).collect());
    let word = |p: NodeId| if t.is_leaf(p) { Some(p) } else { t.child(p, Field::Name) };
    let words = list.into_iter().filter(|p| !matches!(t.role(*p), Role::Token | Role::Spread)).filter_map(word);
    words.filter(|w| Some(*w) != object && t.role(*w) != Role::Token).map(|w| s.str(w).to_string()).collect()
}

fn is_written(s: &Source, f: NodeId, name: &str) -> bool {
    let Some(b) = s.names.scope_of(f).and_then(|x| s.names.declared_in(x, name)) else { return true };
    s.names.references_to(b).any(|r| r.usage.writes() && r.node != s.names.binding(b).first)
        || s.names.binding(b).rebound_inside
}

/// The statement sets a member of the object and does nothing else.
fn only_sets(s: &Source, n: NodeId) -> bool {
    use Role::*;
    let t = &s.tree;
    let assign = t.children(n).next().filter(|a| t.role(n) == ExprStmt && t.role(*a) == Assign);
    let left = assign.and_then(|a| t.child(a, Field::Left)).filter(|l| t.role(*l) == Member);
    let object = left.and_then(|l| t.child(l, Field::Object));
    let own = object.is_some_and(|o| s.lang.is_receiver(s.str(o)) || Some(s.str(o)) == s.lang.object_word());
    let quiet = |x: NodeId| match t.role(x) {
        Call => makes_empty(s, x),
        role => {
            !matches!(role, Lambda | Function | Class | Await | Yield | NamedExpr | Comprehension | Generator | Spread)
        }
    };
    own && t.subtree(n).all(quiet)
}

/// Fields that stay are set when the constructor above has run: that comes to the same where no order can be seen.
fn order_of_fields(of: &dyn Bases, e: &Emptied, above: bool) -> Opinion<()> {
    let (s, t) = (&e.f.new, &e.f.new.tree);
    for n in body(t, e.new).into_iter().filter(|n| above && t.role(*n) == Role::ClassField && !of.is_of_class(s, *n)) {
        let acts = t.subtree(n).any(|x| t.role(x) == Role::Call && !makes_empty(s, x) || t.role(x) == Role::Member);
        if of.keeps_order() || acts {
            return object(s, n, "this gets its value later than before");
        }
    }
    Ok(())
}

/// Imports of a file that went.
fn imports_that_went(project: &Project, f: &File, home: &File) -> Opinion<()> {
    let (o, s) = (&f.old, &f.new);
    if project.index(&o.path).is_some_and(|f| project.is_new(f)) {
        return Ok(());
    }
    let loaded = project.index(&home.old.path);
    let statements = |s: &Source| s.tree.children(Tree::ROOT).filter(|n| only_links(s, *n)).collect::<Vec<_>>();
    let kept: Vec<&str> = statements(s).into_iter().map(|n| s.str(n)).collect();
    for n in statements(o).into_iter().filter(|n| !kept.contains(&o.str(*n))) {
        let bound = o.tree.subtree(n).filter(|x| o.names.at(*x).is_some_and(|r| r.usage.writes()));
        let lost = |x: &NodeId| s.names.in_module(o.str(*x)).is_none();
        let lost: Vec<NodeId> = bound.filter(lost).collect();
        match lost.len() {
            0 if o.names.wildcard => return object(o, n, "an import is another one now"),
            0 => {}
            _ => lost.into_iter().try_for_each(|x| unneeded::may_go(project, (o, s), x, loaded))?,
        }
    }
    Ok(())
}
