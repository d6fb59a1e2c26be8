//! Locals that nothing reads, given values that have no effect; private functions whose names stand nowhere else.

use super::{Candidate, statement};
use crate::find::Clutter;
use crate::index::Project;
use crate::index::seen::{looks_at_names, shows_names};
use crate::index::unseen::{Within, computed_members, elsewhere, handed_on, is_collected, is_demanded, lookups};
use crate::index::words::whole_words;
use crate::index::writes::is_sure_write;
use crate::names::{BindKind, BindingId, Names, Source, Use};
use crate::plan::lines::{comments_above, line_start, with_blank_lines};
use crate::tree::{Field, NodeId, Role, Tree};

pub(super) fn locals(s: &Source) -> Vec<Candidate> {
    let t = &s.tree;
    let functions = t.ids().filter(|f| t.holds_statements(*f));
    let mut out = Vec::new();
    for f in functions {
        let Some(scope) = s.names.scope_of(f) else { continue };
        for b in s.names.locals_of(scope) {
            let binding = s.names.binding(b);
            let local = binding.kind == BindKind::Variable && !binding.rebound_inside && !binding.captured;
            let written = s.names.references_to(b).all(|r| r.usage == Use::Write && is_sure_write(s, r.node));
            if !local || !written || binding.name.starts_with('_') || s.names.is_member(b) {
                continue;
            }
            let statements: Option<Vec<NodeId>> = s.names.references_to(b).map(|r| inert_write(s, r.node, f)).collect();
            let Some(statements) = statements else { continue };
            let needs = looks_at_names(s, f, false).map(|_| "names are looked at by texts here".to_string());
            let what = format!("nothing reads `{}`", binding.name);
            // what is assigned without being declared is no local
            if s.lang.declares_locals() && !statements.iter().any(|n| t.role(*n) == Role::Declare) {
                continue;
            }
            let item = |n| statement(s, Clutter::Unused, n, what.clone(), needs.clone());
            out.extend(statements.into_iter().map(|n| Candidate { local: Some(b), ..item(n) }));
        }
    }
    out
}

/// The statement that does nothing but give a variable a value which has no effect.
fn inert_write(s: &Source, name: NodeId, function: NodeId) -> Option<NodeId> {
    let t = &s.tree;
    let assign = t.parent(name)?;
    let plain = t.role(assign) == Role::Assign && t.field(name) == Field::Left;
    let bare = t.role(assign) == Role::Declare || plain && t.child(assign, Field::Right).is_none();
    let statement = if t.role(assign) == Role::Declare { assign } else { t.parent(assign)? };
    let said = |c: &NodeId| t.role(*c) == Role::Token || t.field(*c) == Field::Type;
    let alone = t.children(statement).filter(|c| !said(c)).count() == 1;
    let stands = matches!(t.role(statement), Role::ExprStmt | Role::Declare)
        && t.parent(statement).is_some_and(|p| t.role(p) == Role::Block);
    let value = || t.child(assign, Field::Right).is_some_and(|v| is_inert(s, v, function));
    let noted = t.comments().iter().any(|c| {
        let end = t.span(statement).end;
        c.start >= end && !s.text[end..c.start].contains('\n')
    });
    (alone && stands && !noted && (bare || plain && value())).then_some(statement)
}

/// Can be left out: it reads nothing that may be missing, and does nothing.
fn is_inert(s: &Source, value: NodeId, function: NodeId) -> bool {
    let t = &s.tree;
    let parts = || t.children(value).filter(|c| t.role(*c) != Role::Token);
    match t.role(value) {
        Role::Literal => !t.children(value).any(|c| !matches!(t.role(c), Role::Token | Role::TemplateText)),
        Role::Name => {
            let target = s.names.at(value).and_then(|r| r.target).map(|b| s.names.binding(b));
            target.is_some_and(|b| {
                b.kind == BindKind::Parameter
                    && t.contains(function, b.first)
                    && s.names.scope(b.scope).node == function
                    && b.writes <= 1
            })
        }
        Role::UnaryOp => {
            parts().all(|c| t.role(c) == Role::Literal && s.str(c).starts_with(|d: char| d.is_ascii_digit()))
        }
        Role::Tuple | Role::Paren | Role::List => parts().all(|c| is_inert(s, c, function)),
        Role::Dict => {
            parts().all(|p| t.subtree(p).all(|c| matches!(t.role(c), Role::Pair | Role::Literal | Role::Token)))
        }
        _ => false,
    }
}

pub(super) fn functions(project: &Project, s: &Source) -> Vec<Candidate> {
    let t = &s.tree;
    let mut out = Vec::new();
    for f in t.ids().filter(|f| t.role(*f) == Role::Function) {
        let Some(name) = t.child(f, Field::Name) else { continue };
        let Some(parent) = t.parent(f).filter(|p| t.role(*p).is_sequence()) else { continue };
        let word = s.str(name);
        let class = t.parent(parent).filter(|c| t.role(*c) == Role::Class);
        let target = s.names.at(name).and_then(|r| r.target);
        let around = t.callable_around(f);
        if !is_hidden(s, f) || !stands_alone(s, f, around) {
            continue;
        }
        let within = class.is_none() && around.is_some();
        if !within && is_said_elsewhere(project, s, f, class) {
            continue;
        }
        let needs = why_it_matters(project, s, f, target, class, within);
        let lines = with_blank_lines(s, f);
        let mut item = statement(s, Clutter::Unused, f, format!("nothing calls `{word}`"), needs.map(str::to_string));
        // its comment goes along, and one gap of the two around it
        item.edit.span.start = comments_above(s, line_start(&s.text, lines.start));
        let last = s.text[lines.end..].trim().is_empty();
        let above = s.text[..item.edit.span.start].trim_end_matches([' ', '\t', '\n', '\r']).len();
        if last && s.text[above..item.edit.span.start].contains('\n') {
            item.edit.span.start = above + 1;
        } else {
            let blank = s.text[lines.end..].split_inclusive('\n').take_while(|l| l.trim().is_empty()).map(str::len);
            item.edit.span.end = lines.end + blank.sum::<usize>();
        }
        out.push(item);
    }
    out
}

/// A function that only its file or class uses, and whose name has no meaning of its own.
pub(super) fn is_hidden(s: &Source, f: NodeId) -> bool {
    let t = &s.tree;
    let Some((name, parent)) = t.child(f, Field::Name).zip(t.parent(f).filter(|p| t.role(*p).is_sequence())) else {
        return false;
    };
    let word = s.str(name);
    let of_class = t.parent(parent).is_some_and(|c| t.role(c) == Role::Class);
    let hidden = match (of_class, t.callable_around(f)) {
        (true, _) => s.lang.hides_member(s, f),
        (false, Some(_)) => true,
        (false, None) => {
            let target = s.names.at(name).and_then(|r| r.target);
            s.lang.is_private(word) || target.is_some_and(|b| s.lang.hides(s, b))
        }
    };
    hidden && !s.has_a_meaning(word) && !s.lang.is_constructor(word)
}

/// Its name stands nowhere in the file, or in the function around it, but in itself: not in a text, not in a comment.
fn stands_alone(s: &Source, function: NodeId, around: Option<NodeId>) -> bool {
    let t = &s.tree;
    let Some(name) = t.child(function, Field::Name) else { return false };
    let (own, all) = (t.span(function), around.map_or(t.span(Tree::ROOT), |a| t.span(a)));
    let all = if around.is_some() { all } else { crate::text::Span::new(0, s.text.len()) };
    !whole_words(&s.text, s.str(name)).any(|at| all.start <= at && at < all.end && !(own.start <= at && at < own.end))
}

/// Other files say the name, or a base of its class may call it: it is in use as far as can be told.
pub(super) fn is_said_elsewhere(project: &Project, s: &Source, function: NodeId, class: Option<NodeId>) -> bool {
    let word = s.tree.child(function, Field::Name).map_or("", |n| s.str(n));
    let file: Vec<usize> = project.index(&s.path).into_iter().collect();
    let based = class.is_some_and(|c| !crate::index::bases::of(s, c).is_empty());
    project.word_elsewhere(word, &file)
        || file.iter().any(|f| project.named_by_string(*f, word))
        // a name that only says that it is private hides nothing from a base
        || based && s.lang.is_private(word)
        || !elsewhere(project, word, s).is_empty()
}

pub(super) fn why_it_matters(
    project: &Project,
    s: &Source,
    function: NodeId,
    target: Option<BindingId>,
    class: Option<NodeId>,
    within: bool,
) -> Option<&'static str> {
    let t = &s.tree;
    let word = t.child(function, Field::Name).map_or("", |n| s.str(n));
    if let Some(a) = t.callable_around(function).filter(|_| within) {
        return looks_at_names(s, a, false).map(|_| "names are looked at by texts here");
    }
    if shows_names(project, s, Tree::ROOT, true).is_some() {
        return Some("names are looked at by texts in this file");
    }
    let marked = |c: NodeId| matches!(t.role(c), Role::Decorator) || s.str(c).trim_start().starts_with('@');
    if t.children(function).any(marked) || s.names.members_in_sight && s.str(function).trim_start().starts_with('@') {
        return Some("what is written over it may use it");
    }
    let Some(file) = project.index(&s.path) else { return Some("it is not a file of the project") };
    if is_demanded(s.lang, word) && !s.lang.hides_member(s, function) || is_collected(&s.path, word) {
        return Some("a library may call it by its name");
    }
    if target.is_some_and(|b| s.names.binding(b).writes > 1) {
        return Some("its name has other values too");
    }
    let top = s.names.at(t.child(function, Field::Name)?).map(|r| r.scope) == Some(Names::MODULE);
    let computed = class.is_some() && !computed_members(project, word, s.lang).is_empty();
    let scope = if top { Within::File(&s.path) } else { Within::Speakers(s.lang) };
    let looked_up = computed || !lookups(project, word, scope).is_empty();
    if looked_up || s.lang.modules_are_values() && top && !handed_on(project, file).is_empty() {
        return Some("names are looked up by texts");
    }
    None
}
