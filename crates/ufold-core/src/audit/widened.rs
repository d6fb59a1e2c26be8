//! A parameter more where parameters have no default values: all calls pass the value, or a function with the old
//! parameters is left that does nothing but call the new one; no call can mean another function than before.

use super::file::{File, Walked};
use super::renamed::{each_file, words};
use super::{Opinion, object};
use crate::index::{Project, class_tree, takes_any_number};
use crate::lang::MemberOf;
use crate::names::Source;
use crate::tree::{Field, NodeId, Role, Tree};
use crate::types::Ty;

/// A value of an old file that became a parameter.
type Value<'a> = Option<(&'a Source, NodeId)>;

pub(super) fn run(project: &Project, value: Value, files: &[File], walked: &[Walked]) -> Opinion<()> {
    let Some((o, v)) = value else { return object(&files[0].old, Tree::ROOT, "no value became a parameter") };
    if o.lang.passes_fewer_arguments() {
        let typed = |(f, w): (&File, &Walked)| without_default(f, w).and_then(|()| has_its_type(project, (o, v), f, w));
        return files.iter().zip(walked).try_for_each(typed);
    }
    let ([file], [w]) = (files, walked) else { return object(o, v, "more than one file changed") };
    let function = o.tree.ancestor(v, &[Role::Function]);
    let new = function.and_then(|f| w.scopes.get(&f).copied());
    let (Some(function), Some(new)) = (function, new) else { return object(o, v, "the value is in no function") };
    let c = Check { project, file, w, function, new, value: (o, v) };
    c.parameter()?;
    c.alone()?;
    match w.kept[..] {
        [] => c.all_calls(),
        [(old, first, second)] if old == function && second == new => c.only_calls(first),
        _ => object(o, v, "another function was added"),
    }
}

/// A new parameter's type, where one is written, is the value's.
fn has_its_type(project: &Project, (o, v): (&Source, NodeId), file: &File, w: &Walked) -> Opinion<()> {
    let n = &file.new.tree;
    let parameters = w.added.iter().filter(|p| n.parent(**p).is_some_and(|l| n.role(l) == Role::Parameters));
    let types = parameters.filter_map(|p| n.child(*p, Field::Type)).map(|t| file.new.str(t));
    let of = project.type_text(o, v);
    let wrong = |t: &&str| of.as_deref() != Some(t.trim_start_matches(':').trim());
    match types.into_iter().filter(|_| o.lang.needs_types()).find(wrong) {
        Some(t) => object(o, v, format!("the value is no `{t}`")),
        None => Ok(()),
    }
}

/// A parameter without a default value is passed by all that call the function, which no other file can.
fn without_default(file: &File, w: &Walked) -> Opinion<()> {
    let o = &*file.old;
    let (s, n) = (&file.new, &file.new.tree);
    let added = w.added.iter().find(|p| n.parent(**p).is_some_and(|l| n.role(l) == Role::Parameters));
    let has_default = |p: NodeId| {
        [Field::Value, Field::Right].into_iter().any(|f| n.child(p, f).is_some()) || n.role(p) == Role::Default
    };
    let Some(added) = added.filter(|p| !has_default(**p)) else { return Ok(()) };
    let function = n.ancestor(*added, &[Role::Function]);
    let Some(name) = function.and_then(|f| n.child(f, Field::Name)) else {
        return object(s, *added, "who calls this is not known");
    };
    let own = s.names.at(name).and_then(|r| r.target);
    for (a, b) in w.leaves.iter().filter(|(a, b)| s.str(*b) == s.str(name) && *b != name && o.str(*a) == s.str(name)) {
        let is_it = match n.role(*b) {
            Role::Name => own.is_some() && s.names.at(*b).and_then(|r| r.target) == own,
            role => role == Role::MemberName,
        };
        let used = n.parent(*b).filter(|m| n.role(*m) == Role::Member).unwrap_or(*b);
        let call = n.parent(used).filter(|c| n.role(*c) == Role::Call && n.field(used) == Field::Callee);
        let list = call.and_then(|c| n.child(c, Field::Arguments));
        if is_it && !list.is_some_and(|l| n.children(l).any(|g| w.added.contains(&g))) {
            return object(o, *a, "this does not pass the value");
        }
    }
    Ok(())
}

struct Check<'a> {
    project: &'a Project<'a>,
    file: &'a File,
    w: &'a Walked,
    function: NodeId,
    new: NodeId,
    value: (&'a Source, NodeId),
}

fn count(s: &Source, function: NodeId) -> usize {
    s.tree.child(function, Field::Parameters).map_or(0, |p| s.tree.children(p).count())
}

impl Check<'_> {
    /// It has the value's type, and does for each place what the value did.
    fn parameter(&self) -> Opinion<()> {
        let (o, v) = self.value;
        let (t, n) = (&o.tree, &self.file.new.tree);
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        let list = n.child(self.new, Field::Parameters);
        let last = list.and_then(|l| n.children(l).last()).filter(|p| self.w.added.contains(p));
        let of = last.and_then(|p| n.child(p, Field::Type)).map(|x| self.file.new.str(x).to_string());
        if of.is_none() || of != self.project.type_text(o, v) {
            return object(o, v, "the parameter has not the type of the value");
        }
        for (a, _) in &self.w.replaced {
            let around = t.ancestors(*a).take_while(|x| *x > self.function).filter(|x| t.role(*x) == Role::Class);
            let inherits = |c: NodeId| !o.lang.class_type(o, c, &definitions).1.is_empty();
            if o.lang.asks_more_than_type(o, *a, &definitions) || around.into_iter().any(inherits) {
                return object(o, *a, "the parameter may not do for the value here");
            }
        }
        Ok(())
    }

    fn is_constructor(&self) -> bool {
        self.value.0.tree.child(self.function, Field::ReturnType).is_none()
    }

    fn class(&self) -> Opinion<NodeId> {
        let o = self.value.0;
        let class = o.class_around(self.function);
        class.map_or_else(|| object(o, self.function, "the function has no class"), Ok)
    }

    /// In related classes there is no function of the name that could take the new one's arguments, or hands it on.
    fn alone(&self) -> Opinion<()> {
        let (o, class) = (self.value.0, self.class()?);
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        let named = if self.is_constructor() { class } else { self.function };
        let name = o.tree.child(named, Field::Name).map_or("", |n| o.str(n));
        let (own, _) = o.lang.class_type(o, class, &definitions);
        let most = count(o, self.function) + 1;
        let classes = class_tree::with_word(self.project, name, o.lang);
        let home = classes.iter().find(|c| c.source.path == o.path && c.node == class);
        let Some(home) = home else { return object(o, class, "its class was not found") };
        let around = class_tree::around(&classes, home);
        let is_related = |s: &Source, c: NodeId| match self.is_constructor() {
            true => s.path == o.path && c == class,
            false => around.iter().any(|a| a.source.path == s.path && a.node == c),
        };
        let of_related =
            |c: Ty| c == own || !self.is_constructor() && around.iter().any(|a| class_tree::same_class(a.ty, c));
        let may_be = |s: &Source, word: NodeId| {
            let found = match self.is_constructor() {
                true => s.lang.class_named(s, word, &definitions),
                false => s.lang.member_of(s, word, &definitions),
            };
            match found {
                MemberOf::Class(c) | MemberOf::Likely(c) => of_related(c),
                MemberOf::Other => false,
                MemberOf::Unknown => true,
            }
        };
        each_file(self.project, o, name, &mut |s| {
            let t = &s.tree;
            for n in words(s, name) {
                let f = t.parent(n).filter(|f| t.role(*f) == Role::Function && t.field(n) == Field::Name);
                let call = t.parent(n).filter(|c| t.role(*c) == Role::Call && t.field(n) == Field::Callee);
                let given = call.and_then(|c| t.child(c, Field::Arguments)).map(|a| t.children(a).count());
                let of_class = s.names.at(n).and_then(|r| r.target).is_some_and(|b| s.names.is_member(b));
                if given == Some(most) && !of_class && !s.names.at(n).is_some_and(|r| r.is_type()) {
                    return object(s, n, "a call could mean the new function");
                }
                let itself = s.path == o.path && f == Some(self.function);
                if s.lang.hands_on(s, n) && may_be(s, n) {
                    return object(s, n, "the function is handed on here");
                }
                let Some(f) = f.filter(|_| !itself) else { continue };
                let related = s.class_around(f).is_some_and(|c| is_related(s, c));
                let takes = count(s, f) == most || takes_any_number(s, f);
                if related && takes {
                    return object(s, n, "a call could mean this function");
                }
            }
            Ok(())
        })
    }

    /// Each call, in all files, passes the value now.
    fn all_calls(&self) -> Opinion<()> {
        let (o, class) = (self.value.0, self.class()?);
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        let (own, _) = o.lang.class_type(o, class, &definitions);
        let (s, n) = (&self.file.new, &self.file.new.tree);
        let Some(name) = o.tree.child(self.function, Field::Name).filter(|_| !self.is_constructor()) else {
            return object(o, self.function, "the calls of this are not known");
        };
        let word = o.str(name).to_string();
        if !o.lang.hides_member(o, self.function) {
            return object(o, self.function, "someone else may call the function as before");
        }
        let mut uses = 0;
        each_file(self.project, o, &word, &mut |x| {
            let t = &x.tree;
            for at in words(x, &word).into_iter().filter(|at| x.path != o.path || *at != name) {
                let used = t.parent(at).filter(|m| t.role(*m) == Role::Member).unwrap_or(at);
                let called = t.parent(used).is_some_and(|c| t.role(c) == Role::Call) && t.field(used) == Field::Callee;
                match x.lang.member_of(x, at, &definitions) {
                    MemberOf::Class(c) if c == own && called && x.path == o.path => uses += 1,
                    MemberOf::Class(c) if c == own && called => return object(x, at, "a call in another file"),
                    MemberOf::Class(_) | MemberOf::Other => {}
                    // what only its class may use is used in no other file
                    _ if x.path != o.path => {}
                    MemberOf::Likely(_) | MemberOf::Unknown => return object(x, at, "this may be a use"),
                }
            }
            Ok(())
        })?;
        let calls = self.w.added.iter().filter(|a| n.parent(**a).is_some_and(|p| n.role(p) == Role::Arguments));
        let reached = |a: &&NodeId| {
            let call = n.parent(**a).and_then(|p| n.parent(p));
            let callee = call.and_then(|c| n.child(c, Field::Callee));
            callee.is_some_and(|c| s.str(n.child(c, Field::Member).unwrap_or(c)) == word)
        };
        let passing = calls.clone().filter(reached).count();
        if passing != uses || passing != calls.count() || uses == 0 {
            return object(o, self.function, "not all calls pass the value, or others do");
        }
        Ok(())
    }

    /// The function with the old parameters calls the new one with them and the value, and does nothing else.
    fn only_calls(&self, first: NodeId) -> Opinion<()> {
        let (o, _) = self.value;
        let (s, n) = (&self.file.new, &self.file.new.tree);
        let wrong = || object(o, self.function, "the function with the old parameters does not only call the new one");
        let statements: Vec<NodeId> = n.child(first, Field::Body).map_or(Vec::new(), |b| n.children(b).collect());
        let [one] = statements[..] else { return wrong() };
        let call = if n.role(one) == Role::Call { Some(one) } else { n.children(one).next() };
        let call = call.filter(|c| n.role(*c) == Role::Call && n.children(one).count() == 1 || *c == one);
        let result = n.child(first, Field::ReturnType).map(|r| s.str(r));
        let gives = result.is_some_and(|r| r != s.lang.no_result_type());
        let callee = call.and_then(|c| n.child(c, Field::Callee)).filter(|c| n.is_leaf(*c));
        let (Some(call), Some(callee)) = (call, callee) else { return wrong() };
        let name = n.child(first, Field::Name).map_or("", |x| s.str(x));
        let itself = match result {
            Some(_) => s.str(callee) == name && self.is_of_class(callee, first),
            None => Some(s.str(callee)) == s.lang.object_word(),
        };
        let given: Vec<NodeId> = n.child(call, Field::Arguments).map_or(Vec::new(), |a| n.children(a).collect());
        let parameters: Vec<NodeId> = n.child(first, Field::Parameters).map_or(Vec::new(), |p| n.children(p).collect());
        let Some((last, handed)) = given.split_last().filter(|_| itself && gives == (n.role(one) == Role::Return))
        else {
            return wrong();
        };
        let is_own = |(g, p): (&NodeId, &NodeId)| {
            let target = s.names.at(*g).and_then(|r| r.target).map(|b| s.names.binding(b).first);
            n.role(*g) == Role::Name && target.is_some_and(|f| n.contains(*p, f))
        };
        let passed = handed.len() == parameters.len() && handed.iter().zip(&parameters).all(is_own);
        match passed && self.file.is_value(self.value, *last, &self.w.scopes) {
            true => Ok(()),
            false => wrong(),
        }
    }

    /// The callee is a function of the class that the function stands in.
    fn is_of_class(&self, callee: NodeId, first: NodeId) -> bool {
        let s = &self.file.new;
        let target = s.names.at(callee).and_then(|r| r.target).map(|b| s.names.scope(s.names.binding(b).scope).node);
        target.is_some() && target == s.class_around(first)
    }
}
