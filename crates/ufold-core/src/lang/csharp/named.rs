//! The class that a word names: where it is declared, made, extended, cast to, or the head of a path.
//!
//! A class of which files have parts, one beside another of its name, and attributes, which are written without their last
//! word, are classes of which nothing is known. Fails to tell a property from the class of its name before a dot: unknown.

use std::sync::Arc;

use super::has_word;
use super::library::LIBRARY;
use super::types::{Home, Types};
use crate::lang::MemberOf;
use crate::names::{BindKind, BindingId, Source, Space};
use crate::tree::{Field, NodeId, Role};
use crate::types::Kind;

impl Types<'_> {
    pub fn class_named(self, word: NodeId) -> MemberOf {
        let (s, t) = (self.s, &self.s.tree);
        let (Some(d), Some(parent)) = (self.deeper(), t.parent(word)) else { return MemberOf::Unknown };
        if t.field(word) == Field::Name && t.role(parent) == Role::Class {
            return d.known(parent);
        }
        if t.role(word) == Role::MemberName && t.role(parent) == Role::Function {
            let class = t.ancestor(parent, &[Role::Class]);
            let named = |c: &NodeId| t.child(*c, Field::Name).is_some_and(|n| s.str(n) == s.str(word));
            return class.filter(named).map_or(MemberOf::Other, |c| d.known(c));
        }
        let member = t.role(word) == Role::MemberName;
        match path_to(s, word) {
            Path::None => d.by_name(word),
            // of what an expression gives, or a variable
            Path::Of(_) if member && d.is_of_value(parent) => MemberOf::Other,
            Path::Of(path) => d.by_path(&path, member),
            Path::Expression if member => MemberOf::Other,
            Path::Expression => MemberOf::Unknown,
        }
    }

    /// The first word of a path is a variable.
    fn is_of_value(self, member: NodeId) -> bool {
        let (s, t) = (self.s, &self.s.tree);
        let first = std::iter::successors(Some(member), |m| t.child(*m, Field::Object)).last();
        let target = first.and_then(|n| s.names.at(n)).and_then(|r| r.target);
        target.is_some_and(|b| s.names.binding(b).space != Space::Types)
    }

    fn by_name(self, word: NodeId) -> MemberOf {
        let (s, t) = (self.s, &self.s.tree);
        let name = s.str(word);
        let Some(r) = s.names.at(word) else { return MemberOf::Other };
        let there = || (self.definitions)(s, name).filter(|(h, c)| h.tree.role(*c) == Role::Class);
        match r.target {
            Some(b) if s.names.binding(b).space == Space::Types => {
                let class = t.parent(s.names.binding(b).first).filter(|c| t.role(*c) == Role::Class);
                let own = class.filter(|_| s.names.binding(b).kind == BindKind::Class);
                own.map_or(MemberOf::Other, |c| self.known(c))
            }
            Some(b) if t.field(word) == Field::Object && (there().is_some() || s.names.in_module(name).is_some()) => {
                self.of_its_name(word, b, there())
            }
            Some(_) => MemberOf::Other,
            None if !r.may_be_type() && !is_named_only(s, word) => MemberOf::Other,
            None => match (self.class_above_place(word, name), there()) {
                (MemberOf::Class(c), _) => MemberOf::Class(c),
                (MemberOf::Other, Some((h, c))) => self.there(&h).known(c),
                (_, Some((h, c))) => match self.there(&h).known(c) {
                    MemberOf::Class(c) => MemberOf::Likely(c),
                    other => other,
                },
                (MemberOf::Other, None) if LIBRARY.any_class(name).is_some() => MemberOf::Other,
                _ => MemberOf::Unknown,
            },
        }
    }

    /// Before a dot, where a variable has the name of the class that is its type: what the class has without an object is
    /// the class's.
    fn of_its_name(self, word: NodeId, b: BindingId, there: Option<(Arc<Source>, NodeId)>) -> MemberOf {
        let (s, t) = (self.s, &self.s.tree);
        let typed = self.binding(b).is_some_and(|ty| match ty.kind() {
            Kind::Named { name, .. } => name.rsplit('.').next() == Some(s.str(word)),
            _ => false,
        });
        let member = t.parent(word).and_then(|p| t.child(p, Field::Member)).map(|m| s.str(m));
        let (Some((h, c)), Some(member)) = (there.filter(|_| typed), member) else { return MemberOf::Unknown };
        let declared = h.names.scope_of(c).and_then(|x| h.names.declared_as(x, Space::Values, member));
        match declared {
            Some(m) if super::classes::is_static(&h, m) => self.there(&h).known(c),
            Some(_) => MemberOf::Other,
            None => MemberOf::Unknown,
        }
    }

    /// A class by its name space, or by the class around it.
    fn by_path(self, path: &str, as_member: bool) -> MemberOf {
        let s = self.s;
        let class = |path: &str| (self.definitions)(s, path).filter(|(h, c)| h.tree.role(*c) == Role::Class);
        if let Some((h, c)) = class(path) {
            return self.there(&h).known(c);
        }
        let Some((around, name)) = path.rsplit_once('.') else { return MemberOf::Other };
        let own = s.names.in_module_as(Space::Types, around).and_then(|b| s.tree.parent(s.names.binding(b).first));
        let outer = match own.filter(|c| s.tree.role(*c) == Role::Class) {
            Some(c) => Some((Home::Own(s), c)),
            None => class(around).map(|(h, c)| (Home::Other(h), c)),
        };
        if let Some((home, c)) = outer {
            let h = home.source();
            let inner = h.names.scope_of(c).and_then(|x| h.names.declared_as(x, Space::Types, name));
            let inner = inner.and_then(|b| h.tree.parent(h.names.binding(b).first));
            return inner
                .filter(|c| h.tree.role(*c) == Role::Class)
                .map_or(MemberOf::Other, |c| self.there(h).known(c));
        }
        // of a value it is a member; of what else it may be a class
        if as_member { MemberOf::Other } else { MemberOf::Unknown }
    }

    /// A class that its file has whole, and of which a word says all.
    fn known(self, class: NodeId) -> MemberOf {
        let (s, t) = (self.s, &self.s.tree);
        let name = |c: NodeId| t.child(c, Field::Name).map_or("", |n| s.str(n));
        let beside = t.children(t.parent(class).unwrap_or(crate::tree::Tree::ROOT));
        let alone = beside.into_iter().filter(|c| t.role(*c) == Role::Class && name(*c) == name(class)).count() == 1;
        let attribute = t.child(class, Field::Bases).is_some_and(|b| s.str(b).contains("Attribute"));
        let whole = alone && !has_word(s, class, "partial") && !attribute && !name(class).ends_with("Attribute");
        if whole { MemberOf::Class(self.of_class(class)) } else { MemberOf::Unknown }
    }
}

/// `nameof(Ship)`
fn is_named_only(s: &Source, word: NodeId) -> bool {
    let call = s.tree.ancestors(word).take(3).find(|a| s.tree.role(*a) == Role::Call);
    call.and_then(|c| s.tree.child(c, Field::Callee)).is_some_and(|c| s.str(c) == "nameof")
}

/// What stands before a word.
enum Path {
    None,
    /// Words and dots, the word itself at their end.
    Of(String),
    Expression,
}

fn path_to(s: &Source, word: NodeId) -> Path {
    let before = &s.text[..s.tree.span(word).start];
    if !before.trim_end().ends_with('.') {
        return Path::None;
    }
    let other = before.rfind(|c: char| !c.is_alphanumeric() && c != '_' && c != '.');
    let from = other.map_or(0, |i| i + before[i..].chars().next().map_or(1, char::len_utf8));
    let path = before[from..].trim_end_matches('.');
    let known = before[..from].trim_end().ends_with("global::");
    let bare = before[..from].chars().next_back().is_none_or(|c| c.is_whitespace() || "(<[{,;!=&|+-*/".contains(c));
    match path.is_empty() || !before.ends_with('.') || !(known || bare) {
        true => Path::Expression,
        false => Path::Of(format!("{path}.{}", s.str(word))),
    }
}
