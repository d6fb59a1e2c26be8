//! Parameters that nothing reads, of private functions of which every call is seen: they go with the arguments for them.
//!
//! The function's name stands in its file alone, and there only in calls; an argument that goes does nothing and can't fail.
//! What the function's comment says of a parameter keeps it.

use std::sync::Arc;

use super::Candidate;
use super::unused::{is_hidden, is_said_elsewhere, why_it_matters};
use crate::find::Clutter;
use crate::flow::{Effects, is_given_above};
use crate::index::Project;
use crate::index::users::{method_calls, takes_any_number};
use crate::index::words::{has_whole_word, whole_words};
use crate::names::{BindKind, Names, Source, Use};
use crate::plan::lines::{comments_above, line_start};
use crate::text::{Edit, Span};
use crate::tree::{Field, NodeId, Role, Tree};

pub(super) fn found(project: &Project, s: &Arc<Source>) -> Vec<Candidate> {
    let functions = s.tree.ids().filter(|f| s.tree.role(*f) == Role::Function);
    functions.into_iter().filter_map(|f| of_function(project, s, f)).collect()
}

fn of_function(project: &Project, s: &Arc<Source>, f: NodeId) -> Option<Candidate> {
    let t = &s.tree;
    let (name, list) = (t.child(f, Field::Name)?, t.child(f, Field::Parameters)?);
    let class = t.parent(t.parent(f)?).filter(|c| t.role(*c) == Role::Class);
    if !is_hidden(s, f) || takes_any_number(s, f) || s.reads_parameters_unnamed(f).is_some() {
        return None;
    }
    let all: Vec<NodeId> = t.children(list).filter(|p| t.role(*p) != Role::Token).collect();
    let unread: Vec<usize> = (0..all.len()).filter(|i| is_unread(s, f, all[*i])).collect();
    let first = *unread.first()?;
    let within = class.is_none() && t.callable_around(f).is_some();
    let said = !within && is_said_elsewhere(project, s, f, class);
    if said || t.child(f, Field::Body).is_none() || t.child(f, Field::TypeParams).is_some() {
        return None;
    }
    let calls = calls(project, s, f, class)?;
    let spoken = |i: &usize| speaks_of(s, f, name_of(s, all[*i])?).then_some(());
    let target = s.names.at(name).and_then(|r| r.target);
    let mut needs = why_it_matters(project, s, f, target, class, within).map(str::to_string);
    if unread.iter().find_map(spoken).is_some() {
        needs = needs.or(Some("a comment speaks of it".into()));
    }
    let mut edits = without(s, &all, &unread)?;
    // the object is no argument
    let skipped = usize::from(crate::index::method::receiver_of(s, f).is_some() && s.lang.object_word().is_none());
    for call in calls {
        match without_arguments(project, s, call, (&all, &unread, skipped))? {
            Ok(more) => edits.extend(more),
            Err(n) => needs = needs.or(Some(format!("the value for it in line {} may do something", s.line(n)))),
        }
    }
    let names: Vec<String> = unread.iter().filter_map(|i| Some(format!("`{}`", name_of(s, all[*i])?))).collect();
    let what = format!("nothing reads the parameter {} of `{}`", names.join(", "), s.str(name));
    let span = t.span(all[first]);
    let (edit, more) = (edits.remove(0), edits);
    Some(Candidate { kind: Clutter::Unused, span, edit, more, node: None, what, needs, local: None })
}

fn name_of(s: &Source, parameter: NodeId) -> Option<&str> {
    let t = &s.tree;
    let own = t.child(parameter, Field::Name).or_else(|| t.subtree(parameter).find(|n| t.role(*n) == Role::Name));
    own.map(|n| s.str(n))
}

/// A plain parameter without a default, that no code of the function has a use for.
fn is_unread(s: &Source, f: NodeId, parameter: NodeId) -> bool {
    let t = &s.tree;
    let plain = match t.role(parameter) {
        Role::Name => true,
        Role::Parameter => t.child(parameter, Field::Value).is_none() && !s.str(parameter).contains(['@', '?']),
        _ => false,
    };
    let named = t.subtree(parameter).find(|n| t.role(*n) == Role::Name && t.field(*n) != Field::Type);
    let own = t.child(parameter, Field::Name).or(named).and_then(|n| s.names.at(n)).and_then(|r| r.target);
    let Some(b) = own.filter(|_| plain) else { return false };
    let binding = s.names.binding(b);
    let word = binding.name.as_str();
    let receiver = crate::index::method::receiver_of(s, f).is_some_and(|(_, r)| r == b) || s.lang.is_receiver(word);
    let written = s.names.references_to(b).all(|r| r.usage == Use::Write && r.node == binding.first);
    binding.kind == BindKind::Parameter && written && !receiver && !word.starts_with('_')
}

/// All calls of a function, where nothing else in its file says its name.
fn calls(project: &Project, s: &Source, f: NodeId, class: Option<NodeId>) -> Option<Vec<NodeId>> {
    let t = &s.tree;
    let name = t.child(f, Field::Name)?;
    if class.is_some() && !s.names.members_in_sight {
        return Some(method_calls(project, s, f)?.into_iter().map(|(call, _)| call).collect());
    }
    // a call with fewer arguments may be another one's
    if class.is_some_and(|c| t.child(c, Field::Bases).is_some()) {
        return None;
    }
    let words: Vec<NodeId> = t.ids().filter(|n| t.is_leaf(*n) && s.str(*n) == s.str(name) && *n != name).collect();
    let said = whole_words(&s.text, s.str(name)).count();
    let calls: Option<Vec<NodeId>> = words
        .iter()
        .map(|n| {
            let path =
                t.parent(*n).filter(|m| t.role(*m) == Role::Member && t.field(*n) == Field::Member).unwrap_or(*n);
            let bound = t.role(*n) == Role::MemberName || s.names.at(*n)?.target == s.names.at(name)?.target;
            t.parent(path).filter(|c| bound && t.role(*c) == Role::Call && t.field(path) == Field::Callee)
        })
        .collect();
    calls.filter(|c| !c.is_empty() && said == words.len() + 1)
}

/// A variable of the file that may have no value yet where a call stands: one in a function that is there from the first may
/// run at any time.
fn may_be_missing(s: &Source, call: NodeId, name: NodeId) -> bool {
    let t = &s.tree;
    let Some(b) = s.names.at(name).and_then(|r| r.target).filter(|b| s.names.binding(*b).scope == Names::MODULE) else {
        return false;
    };
    let outermost = t.ancestors(call).find(|a| t.parent(*a) == Some(Tree::ROOT)).unwrap_or(call);
    let early = t.role(outermost) == Role::Function && {
        let named = t.child(outermost, Field::Name).and_then(|n| s.names.at(n)).and_then(|r| r.target);
        named.is_some_and(|f| s.names.binding(f).hoisted)
    };
    let from_the_first = s.names.binding(b).hoisted && s.names.binding(b).kind == BindKind::Function;
    !s.names.is_member(b) && !from_the_first && (early || !is_given_above(s, b, outermost))
}

/// The comment over the function, or what it says of itself, has the word.
fn speaks_of(s: &Source, f: NodeId, word: &str) -> bool {
    let t = &s.tree;
    let start = line_start(&s.text, t.span(f).start);
    let above = &s.text[comments_above(s, start)..start];
    let doc = t.child(f, Field::Body).and_then(|b| t.children(b).find(|d| t.role(*d) == Role::Doc));
    has_whole_word(above, word) || doc.is_some_and(|d| has_whole_word(s.str(d), word))
}

/// Edits that take some items out of a list with their commas; none where a comment stands between.
fn without(s: &Source, items: &[NodeId], gone: &[usize]) -> Option<Vec<Edit>> {
    let t = &s.tree;
    let stays = |i: &usize| !gone.contains(i);
    let cut = |i: &usize| {
        let (own, next) = (t.span(items[*i]), items.get(i + 1));
        let last_kept = (0..*i).rev().find(stays);
        match (next, (i + 1..items.len()).any(|k| stays(&k)), last_kept) {
            (Some(n), true, _) => Span::new(own.start, t.span(*n).start),
            (_, _, Some(k)) => Span::new(t.span(items[k]).end, own.end),
            _ => Span::new(t.span(items[0]).start, own.end),
        }
    };
    let spans: Vec<Span> = gone.iter().map(cut).collect();
    let noted = t.comments().iter().any(|c| spans.iter().any(|x| x.overlaps(*c)));
    (!noted).then(|| spans.into_iter().map(|x| Edit::new(x.start, x.end, "")).collect())
}

/// The same for the arguments that a call gives to parameters; an error is one that may do something.
fn without_arguments(
    project: &Project,
    s: &Source,
    call: NodeId,
    (parameters, unread, skipped): (&[NodeId], &[usize], usize),
) -> Option<Result<Vec<Edit>, NodeId>> {
    let t = &s.tree;
    let list = t.child(call, Field::Arguments).filter(|a| t.role(*a) == Role::Arguments)?;
    let given: Vec<NodeId> = t.children(list).filter(|a| t.role(*a) != Role::Token).collect();
    let mut gone = Vec::new();
    for (i, a) in given.iter().enumerate() {
        let parameter = match t.role(*a) {
            Role::Spread | Role::Generator => return None,
            Role::KeywordArg => {
                let word = t.children(*a).next().map_or("", |k| s.str(k));
                (0..parameters.len()).find(|k| name_of(s, parameters[*k]) == Some(word))?
            }
            _ => i + skipped,
        };
        if !unread.contains(&parameter) {
            continue;
        }
        let value = if t.role(*a) == Role::KeywordArg { t.child(*a, Field::Value)? } else { *a };
        let statement = t.ancestors(call).find(|n| t.parent(*n).is_some_and(|p| t.role(p).is_sequence()))?;
        let function = t.callable_around(call).unwrap_or(Tree::ROOT);
        let e = Effects::of_part(s, function, statement, value);
        // made into another type it may fail
        let same = |p: NodeId| {
            let name = t.child(p, Field::Name).unwrap_or(p);
            project.type_text(s, name).is_some_and(|of| project.type_text(s, value) == Some(of))
        };
        let plain = t.role(value) == Role::Literal || s.lang.is_plain_value(s, value) || same(parameters[parameter]);
        let missing = t.subtree(value).any(|n| may_be_missing(s, call, n));
        let acts = missing
            || s.lang.types_locals() && !plain
            || e.acts
            || e.may_fail()
            || e.prints
            || e.leaves
            || !e.perhaps.is_empty()
            || !e.writes.is_empty();
        if acts {
            return Some(Err(*a));
        }
        gone.push(i);
    }
    Some(Ok(if gone.is_empty() { Vec::new() } else { without(s, &given, &gone)? }))
}
