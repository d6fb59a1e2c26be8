//! A method that was inlined, where types tell whose a word is: which calls were its own, and that what took their places
//! has their types and is about their objects.

use std::sync::Arc;

use super::file::File;
use super::first::is_evaluated_first;
use super::{Opinion, object};
use crate::index::constants::is_looked_at;
use crate::index::{Project, class_tree, takes_any_number, with_word};
use crate::lang::MemberOf;
use crate::names::{BindingId, Names, Source, Space};
use crate::tree::{Field, NodeId, Role, Tree};
use crate::types::Ty;

pub(super) struct Method<'a> {
    project: &'a Project<'a>,
    pub home: Arc<Source>,
    pub function: NodeId,
    class: NodeId,
    ty: Ty,
    name: String,
    arity: usize,
    pub binding: BindingId,
}

/// The call whose function a word names.
fn call_of(s: &Source, word: NodeId) -> Option<NodeId> {
    let t = &s.tree;
    let member = t.parent(word).filter(|m| t.role(*m) == Role::Member && t.field(word) == Field::Member);
    let used = member.unwrap_or(word);
    t.parent(used).filter(|c| t.field(used) == Field::Callee && t.role(*c) == Role::Call)
}

/// The word stands in an import that the edits leave.
pub(super) fn is_still_imported(s: &Source, word: NodeId, files: &[File]) -> bool {
    let edited = files.iter().find(|f| f.old.path == s.path);
    let left = |i: NodeId| edited.is_none_or(|f| f.new.tree.ids().any(|x| f.new.str(x) == s.str(i)));
    s.tree.ancestor(word, &[Role::Import, Role::ImportFrom]).is_some_and(left)
}

fn count(s: &Source, list: Option<NodeId>) -> usize {
    list.map_or(0, |l| s.tree.children(l).count())
}

impl<'a> Method<'a> {
    /// The one method that a word declares or calls.
    pub fn find(project: &'a Project<'a>, s: &Source, word: NodeId) -> Opinion<Self> {
        let t = &s.tree;
        let wrong = |why: &str| object(s, word, why);
        let definitions = |s: &Source, name: &str| project.definition(s, name);
        let MemberOf::Class(of) = s.lang.member_of(s, word, &definitions) else {
            return wrong("whose method this is can't be told");
        };
        let name = s.str(word).to_string();
        let classes = class_tree::with_word(project, &name, s.lang);
        let Some(home) = class_tree::of_type(&classes, of) else {
            return wrong("its class was not found");
        };
        let declared = t.parent(word).filter(|f| t.role(*f) == Role::Function && t.field(word) == Field::Name);
        let arity = match (declared, call_of(s, word)) {
            (Some(f), _) => count(s, t.child(f, Field::Parameters)),
            (None, Some(c)) => count(s, t.child(c, Field::Arguments)),
            _ => return wrong("this is no method"),
        };
        let takes = |c: &class_tree::Class| -> Vec<NodeId> {
            let fits = |f: &NodeId| {
                count(&c.source, c.source.tree.child(*f, Field::Parameters)) == arity || takes_any_number(&c.source, *f)
            };
            class_tree::functions(c, |n| c.source.str(n) == name).into_iter().filter(fits).collect()
        };
        let own = takes(home);
        let [function] = own[..] else { return wrong("one of several methods may be called") };
        let others = || class_tree::around(&classes, home).into_iter().map(&takes).map(|f| f.len()).sum::<usize>();
        if !home.source.lang.hides_member(&home.source, function) && others() > 1 {
            return wrong("a related class has the method too");
        }
        let source = home.source.clone();
        let named = source.tree.child(function, Field::Name);
        let binding = named.and_then(|n| source.names.at(n)).and_then(|r| r.target);
        let Some(binding) = binding else { return wrong("its name is no binding") };
        if source.lang.does_more(&source, function) {
            return wrong("running it does more than its statements");
        }
        Ok(Method { project, home: source, function, class: home.node, ty: home.ty, name, arity, binding })
    }

    /// A call of it, by its class and the number of arguments.
    pub fn is_call(&self, s: &Source, call: NodeId) -> bool {
        let t = &s.tree;
        let Some(callee) = t.child(call, Field::Callee).filter(|_| t.role(call) == Role::Call) else { return false };
        let word = t.child(callee, Field::Member).unwrap_or(callee);
        count(s, t.child(call, Field::Arguments)) == self.arity && self.is_word(s, word)
    }

    /// A word that names it, or one of its name beside it.
    pub fn is_word(&self, s: &Source, word: NodeId) -> bool {
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        s.str(word) == self.name
            && matches!(s.lang.member_of(s, word, &definitions), MemberOf::Class(c) if class_tree::same_class(c, self.ty))
    }

    /// All calls in the project.
    pub fn calls(&self) -> usize {
        let of = |s: Arc<Source>| s.tree.ids().filter(|n| self.is_call(&s, *n)).count();
        with_word(self.project, &self.name, self.home.lang).map(|(_, s)| of(s)).sum()
    }

    /// No import is left that only it could answer, and nothing that hands it on.
    pub fn gone(&self, files: &[File]) -> Opinion<()> {
        let home = class_tree::with_word(self.project, &self.name, self.home.lang);
        let home = home.iter().find(|c| class_tree::same_class(c.ty, self.ty));
        let alone = home.is_some_and(|c| class_tree::functions(c, |n| c.source.str(n) == self.name).len() == 1);
        for (_, s) in with_word(self.project, &self.name, self.home.lang) {
            let t = &s.tree;
            let word = |n: NodeId| t.is_leaf(n) && matches!(t.role(n), Role::Name | Role::MemberName);
            let own = |n: &NodeId| word(*n) && self.is_word(&s, *n);
            for n in t.ids().filter(own) {
                if s.lang.hands_on(&s, n) {
                    return object(&s, n, "this hands on what is gone");
                }
                if alone && is_still_imported(&s, n, files) {
                    return object(&s, n, "this imports what is gone");
                }
            }
        }
        Ok(())
    }

    fn is_static(&self) -> bool {
        !self.home.lang.is_of_object(&self.home, self.binding)
    }

    fn type_of(&self, s: &Source, n: NodeId) -> Option<String> {
        self.project.type_text(s, n)
    }

    /// The object that the call names, where it is another one than the code's around it.
    pub fn named_object(&self, o: &Source, call: NodeId) -> Opinion<Option<NodeId>> {
        let t = &o.tree;
        let Some(x) = t.child(call, Field::Callee).and_then(|c| t.child(c, Field::Object)) else { return Ok(None) };
        if Some(o.str(x)) == o.lang.object_word() {
            let same = t.ancestor(call, &[Role::Class]) == Some(self.class) && o.path == self.home.path;
            return if same { Ok(None) } else { object(o, x, "the object is of another class") };
        }
        let local = o.names.at(x).and_then(|r| r.target).is_some_and(|b| {
            let scope = o.names.binding(b).scope;
            scope != Names::MODULE && !o.names.is_member(b)
        });
        match (self.is_static(), local && t.role(x) == Role::Name) {
            (true, false) => Ok(None),
            (false, _) if !o.lang.needs_class(o.str(x)) => {
                let definitions = |s: &Source, name: &str| self.project.definition(s, name);
                match class_tree::same_class(o.lang.type_of(o, x, &definitions), self.ty) {
                    true => Ok(Some(x)),
                    false => object(o, x, "the object may be of another class"),
                }
            }
            _ => object(o, x, "which object this is about can't be told"),
        }
    }

    /// What stands for the call has its type, in whatever is asked of it there; the class was ready before.
    pub fn fits(&self, f: &File, call: NodeId, new: NodeId, value: NodeId, given: &[NodeId]) -> Opinion<()> {
        let (o, h) = (&*f.old, &*self.home);
        let t = &o.tree;
        let wrong = |why: &str| object(o, call, why);
        self.same_types(f, given, |_| true)?;
        if f.new.lang.may_be_constant(&f.new, new) && is_looked_at(&f.new, new) {
            return wrong("the compiler looks at a constant here");
        }
        self.result(o, call, value)?;
        let inside = class_tree::is_ready_at(h, self.class, o, call);
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        if self.is_static() && !inside && h.lang.acts_when_loaded(h, self.class, &definitions) {
            return wrong("the call made its class ready");
        }
        // a class in between may have inherited what is named
        let between = t.ancestors(call).filter(|a| t.role(*a) == Role::Class);
        let new_one = |c: &NodeId| o.path != h.path || !h.tree.contains(*c, self.function);
        let inherits = between.filter(new_one).any(|c| !o.lang.class_type(o, c, &definitions).1.is_empty());
        let n = &f.new;
        let bare = n.names.in_range(new, n.tree.end(new)).iter().find(|r| {
            let local = r.target.is_some_and(|b| !n.names.is_member(b) && n.names.binding(b).scope != Names::MODULE);
            !local && !r.may_be_type() && !given.iter().any(|g| t.subtree(*g).any(|x| o.str(x) == n.str(r.node)))
        });
        // a field is made with those above it
        let made = t.ancestor(call, &[Role::Function, Role::Class]).filter(|c| t.role(*c) == Role::Class);
        let later = n.names.in_range(new, n.tree.end(new)).iter().any(|r| {
            r.target.is_some_and(|b| n.names.is_member(b) && r.usage.reads() && n.names.binding(b).first > new)
                && r.spaces != [Space::Functions]
        });
        if made.is_some() && later {
            return wrong("a field is read above the place that makes it");
        }
        match bare.filter(|_| inherits) {
            Some(_) => wrong("a name may be one that a class here has inherited"),
            None => Ok(()),
        }
    }

    /// Arguments that took their parameters' places have their types.
    pub fn same_types(&self, f: &File, given: &[NodeId], stays: impl Fn(BindingId) -> bool) -> Opinion<()> {
        let h = &*self.home;
        let list = h.tree.child(self.function, Field::Parameters);
        let parameters = list.map_or(Vec::new(), |l| h.tree.children(l).collect::<Vec<_>>());
        for (p, g) in parameters.into_iter().zip(given) {
            let Some(name) = h.tree.child(p, Field::Name) else { return object(h, p, "the parameter has no name") };
            let target = h.names.at(name).and_then(|r| r.target);
            if !target.is_some_and(&stays) {
                continue;
            }
            let of = self.type_of(h, name);
            if of.is_none() || of != self.type_of(&f.old, *g) {
                return object(&f.old, *g, "an argument has not the type of its parameter");
            }
        }
        Ok(())
    }

    /// The value has the type of the call, or the place asks for it by a written type.
    pub fn result(&self, o: &Source, call: NodeId, value: NodeId) -> Opinion<()> {
        let (t, h) = (&o.tree, &*self.home);
        let result = h.tree.child(self.function, Field::ReturnType).map_or("", |r| h.str(r));
        let of = self.type_of(h, value);
        let was = self.type_of(o, call);
        let around = t.parent(call).unwrap_or(Tree::ROOT);
        let asks = match t.role(around) {
            Role::ExprStmt => matches!(h.tree.role(value), Role::Call | Role::Fresh),
            Role::Assign if t.field(call) == Field::Right => {
                let word = t.parent(around).and_then(|d| t.child(d, Field::Type)).map_or("", |w| o.str(w));
                let left = t.child(around, Field::Left).and_then(|l| self.type_of(o, l));
                word != "var" && left.is_some() && left == was
            }
            Role::Return => {
                let f = t.callable_around(around).filter(|f| t.role(*f) == Role::Function);
                o.path == h.path && f.and_then(|f| t.child(f, Field::ReturnType)).is_some_and(|r| o.str(r) == result)
            }
            _ => false,
        };
        let same = of.is_some() && (of == was || of.as_deref() == Some(result));
        let statement = t.role(around) == Role::ExprStmt;
        if asks || same && !statement { Ok(()) } else { object(o, call, "what stands here has another type") }
    }

    /// What the method says it throws is thrown, or nothing waits for it.
    pub fn throws(&self, o: &Source, call: NodeId) -> Opinion<()> {
        let (t, h) = (&o.tree, &*self.home);
        let frame = t.callable_around(call);
        let tried = t.ancestors(call).take_while(|a| Some(*a) != frame).any(|a| t.role(a) == Role::Try);
        let says: Vec<NodeId> = h.lang.says_it_throws(h, self.function);
        let body = h.tree.child(self.function, Field::Body).unwrap_or(self.function);
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        let thrown = || h.lang.declared_exceptions(h, body, h.tree.end(body), &definitions).unwrap_or_default();
        match tried && says.iter().any(|x| !thrown().iter().any(|l| l == h.str(*x))) {
            true => object(o, call, "a handler waits for what is not thrown any more"),
            false => Ok(()),
        }
    }

    /// The object is asked for first, as the call did, and its members are this class's.
    pub fn asks_first(&self, o: &Source, named: NodeId, value: NodeId) -> bool {
        let h = &*self.home;
        let target = |n: NodeId| h.names.at(n).and_then(|r| r.target);
        let of_object = |n: &NodeId| {
            h.tree.role(*n) == Role::Name
                && (Some(h.str(*n)) == h.lang.object_word()
                    || target(*n).is_some_and(|b| h.names.is_member(b) && h.lang.is_of_object(h, b)))
        };
        let first = h.tree.subtree(value).find(of_object);
        let local = o
            .names
            .at(named)
            .and_then(|r| r.target)
            .is_some_and(|b| o.names.binding(b).scope != Names::MODULE && !o.names.is_member(b));
        if !local && h.tree.subtree(value).filter(of_object).count() != 1 {
            return false;
        }
        let parameter = |n: NodeId| target(n).is_some_and(|b| h.tree.contains(self.function, h.names.binding(b).first));
        first.is_some_and(|n| is_evaluated_first(h, value, n, parameter))
    }

    /// `depth` of the method is `berth.depth` at the call, or `Limits.MOST` for the class's own.
    pub fn reaches(&self, f: &File, old: NodeId, new: NodeId, named: Option<NodeId>) -> Option<bool> {
        let (h, n) = (&*self.home, &f.new);
        let b = h.names.at(old).and_then(|r| r.target);
        let this = Some(h.str(old)) == h.lang.object_word();
        if this && let Some(x) = named {
            let bracketed = n.tree.role(new) == Role::Paren && f.old.tree.role(x) != Role::Paren;
            let new = if bracketed { n.tree.children(new).next().unwrap_or(new) } else { new };
            return Some(n.tree.exact(new) == f.old.tree.exact(x));
        }
        let member = b.is_some_and(|b| h.names.is_member(b));
        if !member || n.tree.role(new) != Role::Member {
            let lost = member && named.is_some() && b.is_some_and(|b| h.lang.is_of_object(h, b));
            return lost.then_some(false);
        }
        let (x, m) = (n.tree.child(new, Field::Object)?, n.tree.child(new, Field::Member)?);
        let class = h.names.scope(h.names.binding(b?).scope).node;
        let owner = h.tree.child(class, Field::Name).map_or("", |c| h.str(c));
        let word = n.str(m) == h.str(old);
        Some(match (h.lang.is_of_object(h, b?), named) {
            (true, Some(o)) => {
                let bracketed = n.tree.role(x) == Role::Paren && f.old.tree.role(o) != Role::Paren;
                let x = if bracketed { n.tree.children(x).next().unwrap_or(x) } else { x };
                word && class == self.class && n.tree.exact(x) == f.old.tree.exact(o)
            }
            (false, _) => word && n.str(x) == owner && self.project.entity(h, owner) == self.project.entity(n, owner),
            _ => false,
        })
    }
}
