//! Calls that change nothing that anybody could see: of functions that only compute, methods that nothing overrides among
//! them, and of some that come with the language. What they read may change in between; they may fail where their operators
//! do. Functions of other files are known where the project was asked for them.
//!
//! A function only computes when each of its statements gives a local of its own a value, decides, or returns, and all
//! that it calls does no more. Summed up over the calls, once for each function; functions that call each other in a
//! circle are not looked into. Operators and members count as plain, as they do in a value that has no call in it.

use std::sync::Arc;

use rustc_hash::FxHashMap;

use crate::index::alone::watcher;
use crate::index::{Entity, Project, class_tree, unseen};
use crate::lang::{Doing, MemberOf};
use crate::names::{BindKind, Names, Source, Told};
use crate::tree::{Field, NodeId, Role};

/// Calls inside each other that are looked into.
const MOST_DEEP: usize = 6;

/// Files that are asked one after the other for what they import.
const MOST_FILES: usize = 3;

/// Whether a function only computes, and surely.
struct Quiet(Option<bool>);

/// Asks the project which calls of a file are of functions of other files that only compute. What a file was told holds as
/// long as the other files are as they are.
pub(crate) fn tell(project: &Project, s: &Arc<Source>) {
    tell_to(project, s, 0);
}

fn tell_to(project: &Project, s: &Arc<Source>, depth: usize) {
    if s.quiet_elsewhere().is_some() {
        return;
    }
    let t = &s.tree;
    let calls = || t.ids().filter(|c| t.role(*c) == Role::Call);
    let quiet = calls().filter_map(|c| Some((c, computes_elsewhere(project, s, c, depth)?))).collect();
    let mut given = FxHashMap::default();
    let likely = calls().filter_map(|c| Some((c, library_method(project, s, c, &mut given)?))).collect();
    s.tell(Told { quiet, likely, alone: is_alone(project, s) });
}

/// Nobody sees it but when it is done.
fn is_alone(project: &Project, s: &Source) -> bool {
    let package = s.module.as_ref().is_some_and(|m| m.is_package);
    !package && project.index(&s.path).is_some() && watcher(project, s).is_none()
}

/// A call of a method that only computes, as far as the object is one of the language's own: by its type, or because nothing
/// here gives that name to anything; whether it makes an object. `given`: names that were asked for.
fn library_method<'s>(
    project: &Project,
    s: &'s Source,
    call: NodeId,
    given: &mut FxHashMap<&'s str, bool>,
) -> Option<bool> {
    let t = &s.tree;
    let callee = t.child(call, Field::Callee).filter(|c| t.role(*c) == Role::Member)?;
    let (list, object) = (t.child(call, Field::Arguments)?, t.child(callee, Field::Object)?);
    let word = s.str(t.child(callee, Field::Member)?);
    use Role::*;
    let plain = |a: NodeId| !matches!(t.role(a), Spread | Await | Yield | Lambda | KeywordArg | Generator);
    if !t.subtree(list).all(plain) {
        return None;
    }
    let count = t.children(list).filter(|a| t.role(*a) != Token).count();
    let known = s.lang.quiet_methods().iter().find_map(|q| {
        let (name, least) = q.trim_end_matches('+').split_once('/').unwrap_or((q.trim_end_matches('+'), "0"));
        (name == word && least.parse().is_ok_and(|n: usize| count >= n)).then(|| q.ends_with('+'))
    });
    let definitions = |s: &Source, name: &str| project.definition(s, name);
    let Some(makes) = known else { return s.lang.computes_by_type(s, call, &definitions) };
    // of a module it is a function like any other, and what a class has from others may be anything
    let root = std::iter::successors(Some(object), |n| t.child(*n, Field::Object)).last().unwrap_or(object);
    let imported = t.role(root) == Name && s.names.is_imported(root);
    let others = imported
        || s.lang.is_receiver(s.str(object))
        || *given.entry(word).or_insert_with(|| project.gives_member(word, s.lang));
    (!others).then_some(makes)
}

/// Whether a call is of a function of another file that only computes.
fn computes_elsewhere(project: &Project, s: &Arc<Source>, call: NodeId, depth: usize) -> Option<bool> {
    let t = &s.tree;
    let callee = t.child(call, Field::Callee).filter(|_| depth <= MOST_FILES)?;
    let arguments = t.child(call, Field::Arguments)?;
    if t.subtree(arguments).any(|a| matches!(t.role(a), Role::Spread | Role::Await | Role::Yield)) {
        return None;
    }
    let (home, function) = match s.names.members_in_sight {
        true => method_elsewhere(project, s, callee)?,
        false => function_elsewhere(project, s, callee)?,
    };
    if home.path == s.path {
        return None;
    }
    tell_to(project, &home, depth + 1);
    computes(&home, function, 0)
}

/// The function of another module that a name or a path through a module is, where nobody gives it another value.
fn function_elsewhere(project: &Project, s: &Source, callee: NodeId) -> Option<(Arc<Source>, NodeId)> {
    let t = &s.tree;
    let root = t.subtree(callee).find(|n| t.role(*n) == Role::Name)?;
    let binding = s.names.binding(s.names.at(root)?.target?);
    binding.import.as_ref().filter(|_| binding.writes == 1 && !binding.rebound_inside)?;
    let Entity::Member(file, name) = project.meant(s, callee)? else { return None };
    let home = project.source(file).ok()?;
    let b = home.names.in_module(&name)?;
    let own = home.names.binding(b);
    let fixed = own.kind == BindKind::Function && own.writes == 1 && !own.rebound_inside;
    let function = home.tree.parent(own.first).filter(|f| fixed && home.tree.role(*f) == Role::Function)?;
    let named = home.tree.child(function, Field::Name) == Some(own.first);
    let given = |(_, o): (usize, Arc<Source>)| is_given_member(&o, &name);
    (named && !unseen::with_word(project, &name, s.lang).any(given)).then_some((home, function))
}

/// A member of that name is given a value: it may be the module's.
fn is_given_member(o: &Source, name: &str) -> bool {
    let t = &o.tree;
    t.ids().any(|n| {
        let member = t.parent(n).filter(|_| t.role(n) == Role::MemberName && o.str(n) == name);
        member.is_some_and(|m| t.field(m) == Field::Left && t.parent(m).is_some_and(|a| t.role(a).assigns()))
    })
}

/// The only method of a name that another class without bases has for itself; making the class ready runs no code.
fn method_elsewhere(project: &Project, s: &Source, callee: NodeId) -> Option<(Arc<Source>, NodeId)> {
    let word = s.tree.child(callee, Field::Member)?;
    let definitions = |s: &Source, name: &str| project.definition(s, name);
    let MemberOf::Class(of) = s.lang.member_of(s, word, &definitions) else { return None };
    let classes = class_tree::with_word(project, s.str(word), s.lang);
    let class = class_tree::of_type(&classes, of)?;
    let (home, t) = (&class.source, &class.source.tree);
    let alone = t.child(class.node, Field::Bases).is_none();
    let [function] = class_tree::functions(class, |n| home.str(n) == s.str(word))[..] else { return None };
    let quiet =
        home.lang.needs_no_object(home, function) && !home.lang.acts_when_loaded(home, class.node, &definitions);
    (alone && quiet).then(|| (home.clone(), function))
}

/// Whether a call changes nothing.
pub(crate) fn is_quiet_call(s: &Source, call: NodeId) -> bool {
    quiet_call(s, call, 0).is_some()
}

/// The same for one that does not fail either, and runs no code that could be anybody's.
pub(crate) fn is_surely_quiet(s: &Source, call: NodeId) -> bool {
    quiet_call(s, call, 0) == Some(true) && plain_arguments(s, call)
}

/// A call that only computes, and gives a number, a text or what it was given, but no object of its own.
pub(crate) fn gives_no_new_object(s: &Source, call: NodeId) -> bool {
    gives_old(s, call, 0)
}

fn gives_old(s: &Source, call: NodeId, depth: usize) -> bool {
    let t = &s.tree;
    if let Some(makes) = s.likely_quiet(call) {
        return !makes;
    }
    let told = s.quiet_elsewhere().is_some_and(|all| all.contains_key(&call));
    if told || depth > MOST_DEEP || !is_quiet_call(s, call) {
        return false;
    }
    let Some(function) = t.child(call, Field::Callee).and_then(|c| called(s, c)) else { return true };
    use Role::*;
    t.subtree(function).all(|n| match t.role(n) {
        Call => gives_old(s, n, depth + 1),
        role => !matches!(role, List | Dict | Set | Tuple | Comprehension | Generator | Fresh | Lambda),
    })
}

/// A call of a function of this file that computes from its arguments alone: from nothing that others could change.
pub(crate) fn works_on_arguments(s: &Source, call: NodeId) -> bool {
    from_arguments(s, call, 0)
}

fn from_arguments(s: &Source, call: NodeId, depth: usize) -> bool {
    let t = &s.tree;
    let told = s.quiet_elsewhere().is_some_and(|all| all.contains_key(&call));
    let function = t.child(call, Field::Callee).and_then(|c| called(s, c));
    let Some(function) = function.filter(|_| depth <= MOST_DEEP && !told && is_quiet_call(s, call)) else {
        return false;
    };
    let fixed = |n: NodeId| {
        let b = s.names.at(n).and_then(|r| r.target);
        b.is_some_and(|b| {
            let binding = s.names.binding(b);
            let own = s.names.scope(s.names.frame_of(b)).node == function;
            let made = matches!(binding.kind, BindKind::Function | BindKind::Class);
            !s.names.is_member(b) && (own || made && binding.writes == 1 && !binding.rebound_inside)
        })
    };
    t.subtree(function).all(|n| match t.role(n) {
        Role::Call => from_arguments(s, n, depth + 1),
        Role::Name => t.field(n) == Field::Name || fixed(n) || s.names.at(n).is_some_and(|r| r.is_type()),
        role => !matches!(role, Role::Member | Role::Index),
    })
}

/// The function of this file that a name is.
fn called(s: &Source, callee: NodeId) -> Option<NodeId> {
    let b = s.names.at(callee)?.target?;
    s.tree.parent(s.names.binding(b).first).filter(|f| s.tree.role(*f) == Role::Function)
}

/// None of them is changed into another type, which may fail.
fn plain_arguments(s: &Source, call: NodeId) -> bool {
    let list = s.tree.child(call, Field::Arguments);
    let plain = |a: NodeId| s.tree.role(a) == Role::Token || s.lang.is_plain_value(s, a);
    list.is_some_and(|l| s.tree.children(l).all(plain))
}

/// A call changes nothing; it surely does no more, or may fail by its operators.
fn quiet_call(s: &Source, call: NodeId, depth: usize) -> Option<bool> {
    let t = &s.tree;
    let callee = t.child(call, Field::Callee).filter(|_| t.role(call) == Role::Call)?;
    let plain = |a: NodeId| matches!(t.role(a), Role::Spread | Role::Await | Role::Yield);
    if depth > MOST_DEEP || t.child(call, Field::Arguments).is_some_and(|a| t.subtree(a).any(plain)) {
        return None;
    }
    if let Some(sure) = s.quiet_elsewhere().and_then(|all| all.get(&call)) {
        return Some(*sure);
    }
    let first = t.subtree(callee).find(|n| t.role(*n) == Role::Name);
    let target = first.and_then(|n| s.names.at(n)).and_then(|r| r.target);
    let Some(b) = target else {
        let word = s.str(callee);
        let known = s.lang.quiet_calls().iter().find(|q| match q.strip_suffix('*') {
            Some(start) => word.starts_with(start),
            None => q.trim_start_matches('!') == word,
        });
        let known = known.is_some_and(|q| !q.starts_with('!'));
        return known.then_some(false);
    };
    let binding = s.names.binding(b);
    let function = t.parent(binding.first).filter(|f| t.role(*f) == Role::Function)?;
    let fixed = binding.kind == BindKind::Function && binding.writes == 1 && !binding.rebound_inside;
    let seen = binding.scope == Names::MODULE || s.names.is_member(b) && is_fixed_method(s, call, function);
    let known = fixed && t.role(callee) == Role::Name && t.child(function, Field::Name) == Some(binding.first);
    if known && seen { computes(s, function, depth) } else { None }
}

/// A method of the class that the call stands in, and of no other: its own, or hidden from all that extend it.
fn is_fixed_method(s: &Source, call: NodeId, method: NodeId) -> bool {
    let class = |n: NodeId| s.tree.ancestor(n, &[Role::Class]);
    // what is inherited may be another of the name
    let alone = class(call).is_some_and(|c| s.tree.child(c, Field::Bases).is_none());
    alone && class(call) == class(method) && (s.lang.needs_no_object(s, method) || s.lang.hides_member(s, method))
}

/// A function only computes; it surely does, or may fail by what it computes with.
fn computes(s: &Source, function: NodeId, depth: usize) -> Option<bool> {
    let t = &s.tree;
    let decorated = t.parent(function).is_some_and(|p| t.role(p) == Role::Decorated && s.str(p).starts_with('@'));
    let marked = t.children(function).any(|c| t.role(c) == Role::AsyncMark);
    let body = t.child(function, Field::Body).filter(|_| !decorated && !marked)?;
    if depth > MOST_DEEP || s.lang.does_more(s, function) {
        return None;
    }
    let own = |n: NodeId| {
        let b = s.names.at(n).and_then(|r| r.target);
        b.is_some_and(|b| s.names.scope(s.names.frame_of(b)).node == function && !s.names.binding(b).captured)
    };
    let does_no_more = |n: NodeId, sure: &mut bool| {
        use Role::*;
        match t.role(n) {
            Call => match quiet_call(s, n, depth + 1) {
                Some(known) => *sure &= known && plain_arguments(s, n),
                None => return false,
            },
            Assign => return t.child(n, Field::Left).is_some_and(|l| t.role(l) == Name && own(l)),
            // of a type that is never asked for more, or the path to a function
            Name => *sure &= s.lang.is_plain_value(s, n) || t.ancestors(n).any(|a| t.field(a) == Field::Callee),
            Member if t.field(n) == Field::Callee => {}
            Member | BinaryOp | UnaryOp | NotOp | Compare => *sure &= s.lang.doing(s, n) == Doing::Nothing,
            Literal | Token | MemberName | BoolOp | Arguments | KeywordName | Type => {}
            Conditional | Paren | If | Elif | Else | Block | Return | ExprStmt | Declare | Doc => {}
            Tuple | List | Dict | Pair | Concat | Template | TemplateText | Interpolation | KeywordArg => *sure = false,
            _ => return t.ancestors(n).take_while(|a| *a != body).any(|a| t.role(a) == Type),
        }
        true
    };
    let known = s.remember((function, Some(body)), || {
        let mut sure = s.lang.types_locals();
        let quiet = t.subtree(body).all(|n| does_no_more(n, &mut sure));
        Quiet(quiet.then_some(sure))
    });
    known.0
}
