//! Code that came from another package names nothing that only its old one sees, and nothing that has another meaning in
//! its new one.

use super::check::Check;
use super::{Opinion, object};
use crate::index::{Entity, class_tree};
use crate::lang::MemberOf;
use crate::names::Source;
use crate::tree::{Field, NodeId, Role};

impl Check<'_> {
    /// Each class, constructor and member that the function names is open to all, or of the function's own package.
    pub(super) fn names_what_is_seen(&self) -> Opinion<()> {
        let h = self.home;
        self.sees_the_same()?;
        if !h.names.members_in_sight || self.in_one_package(self.old()) {
            return Ok(());
        }
        for n in h.tree.subtree(self.definition).filter(|n| h.tree.is_leaf(*n)) {
            let hidden = match h.tree.role(n) {
                Role::Name => self.is_hidden_class(n) || self.is_hidden_member(n),
                Role::MemberName => self.is_hidden_member(n),
                _ => false,
            };
            if hidden {
                return object(h, n, format!("`{}` is not seen in this package", h.str(n)));
            }
        }
        Ok(())
    }

    /// Members that other classes add come from the same ones as in the copy's file, and the words of what the function says
    /// of its types mean the same; but for what the language's own functions are.
    fn sees_the_same(&self) -> Opinion<()> {
        let (o, h, p) = (self.old(), self.home, self.project);
        if h.name_spaces().is_none() || o.path == h.path {
            return Ok(());
        }
        let body = h.tree.child(self.definition, Field::Body);
        let adding = |s: &Source, word: &str| p.sharing.adding(p.facts, s, word);
        let results = ["int", h.lang.no_result_type()].map(|r| h.lang.function_type(&[], &[r.to_string()]));
        let functions: Vec<&str> = results.iter().flatten().filter_map(|f| f.split('<').next()).collect();
        for n in h.tree.subtree(self.definition).filter(|n| h.tree.is_leaf(*n)) {
            let word = h.str(n);
            let inside = body.is_some_and(|b| h.tree.contains(b, n));
            if inside && h.tree.role(n) == Role::MemberName && adding(o, word) != adding(h, word) {
                return object(h, n, format!("`{word}` may be another class's here"));
            }
            let is_type = h.names.at(n).is_some_and(|r| r.is_type() && r.target.is_none());
            let was = p.entity(o, word);
            let function = functions.contains(&word) && !matches!(was, Entity::Member(..) | Entity::Unknown(..));
            let same = was == p.entity(h, word) || function;
            if is_type && !inside && !same {
                return object(h, n, format!("`{word}` is another type in the copy's file"));
            }
        }
        Ok(())
    }

    fn is_own(&self, s: &Source) -> bool {
        s.package().is_some() && s.package() == self.home.package()
    }

    fn is_hidden_class(&self, n: NodeId) -> bool {
        let h = self.home;
        let Entity::Member(file, name) = self.project.entity(h, h.str(n)) else { return false };
        let Ok(s) = self.project.source(file) else { return true };
        let t = &s.tree;
        let named = |c: &NodeId| t.child(*c, Field::Name).is_some_and(|x| s.str(x) == name);
        let class = t.ids().find(|c| t.role(*c) == Role::Class && named(c));
        let Some(class) = class else { return false };
        let makes = |f: &NodeId| t.role(*f) == Role::Function && named(f) && !s.lang.is_open(&s, *f);
        let called = h.tree.field(n) == Field::Callee;
        !self.is_own(&s) && !s.lang.is_open(&s, class) || called && t.subtree(class).any(|f| makes(&f))
    }

    /// A member that its package keeps for itself, or one of the name where it can't be told whose it is.
    fn is_hidden_member(&self, n: NodeId) -> bool {
        let h = self.home;
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        let of = match h.lang.member_of(h, n, &definitions) {
            MemberOf::Class(c) if c.is_known() => Some(c),
            MemberOf::Other => return false,
            _ => None,
        };
        // its own locals and parameters are no members
        if h.names.at(n).and_then(|r| r.target).is_some_and(|b| !h.names.is_member(b)) && of.is_none() {
            return false;
        }
        let word = h.str(n);
        let callee = h.tree.ancestors(n).take_while(|a| *a > self.definition).any(|a| h.tree.field(a) == Field::Callee)
            || h.tree.field(n) == Field::Callee;
        let closed_maker = |c: &class_tree::Class| {
            let (s, t) = (&c.source, &c.source.tree);
            let named = |x: NodeId| t.child(x, Field::Name).is_some_and(|w| s.str(w) == word);
            let makes = |f: NodeId| t.role(f) == Role::Function && named(f) && !s.lang.is_open(s, f);
            named(c.node) && t.subtree(c.node).any(makes)
        };
        // of this package another one of the name may be meant now
        let object = h.tree.parent(n).filter(|_| h.tree.field(n) == Field::Member);
        let object = object.and_then(|m| h.tree.child(m, Field::Object));
        if object.is_some_and(|x| Some(h.str(x)) != h.lang.object_word()) {
            let classes = class_tree::with_word(self.project, word, h.lang);
            let home = of.and_then(|of| class_tree::of_type(&classes, of));
            let around = home.map(|c| class_tree::around(&classes, c));
            let near = |c: &class_tree::Class| {
                around.as_ref().is_none_or(|a| a.iter().any(|o| o.node == c.node && o.source.path == c.source.path))
            };
            let closed = |c: &class_tree::Class| {
                let (s, t) = (&c.source, &c.source.tree);
                let body = t.child(c.node, Field::Body).map_or(Vec::new(), |b| t.children(b).collect());
                let says =
                    |d: &NodeId| t.subtree(*d).any(|x| t.is_leaf(x) && s.str(x) == word && declared_by(s, x) == *d);
                self.is_own(s) && body.iter().any(|d| says(d) && is_closed(s, *d))
            };
            if classes.iter().any(|c| near(c) && closed(c)) {
                return true;
            }
        }
        if callee && class_tree::with_word(self.project, word, h.lang).iter().any(closed_maker) {
            return true;
        }
        class_tree::with_word(self.project, word, h.lang).iter().any(|c| {
            let (s, t) = (&c.source, &c.source.tree);
            let same = of.is_none_or(|of| class_tree::same_class(of, c.ty));
            let body = t.child(c.node, Field::Body).filter(|_| same && !self.is_own(s));
            let declares = |d: NodeId| t.subtree(d).any(|x| t.is_leaf(x) && s.str(x) == word && declared_by(s, x) == d);
            let closed = |d: NodeId| std::iter::once(d).chain(t.ancestors(d)).any(|x| is_closed(s, x));
            body.is_some_and(|b| t.children(b).any(|d| declares(d) && closed(d)))
        })
    }
}

/// The member whose name a word is; itself where it is none.
fn declared_by(s: &Source, word: NodeId) -> NodeId {
    let t = &s.tree;
    let Some(parent) = t.parent(word) else { return word };
    match (t.role(parent), t.field(word)) {
        (Role::Assign, Field::Left) => t.parent(parent).unwrap_or(parent),
        (Role::Function | Role::Class, Field::Name) => parent,
        (Role::ClassField, field) if field != Field::Type => parent,
        _ => word,
    }
}

/// A class or member that is not open to all.
fn is_closed(s: &Source, d: NodeId) -> bool {
    matches!(s.tree.role(d), Role::Class | Role::Function | Role::ClassField) && !s.lang.is_open(s, d)
}
