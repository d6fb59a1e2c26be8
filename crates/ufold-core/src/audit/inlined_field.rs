//! A constant of a class that is inlined: what a compiler knows the value of, and all that reads it.

use std::sync::Arc;

use super::file::File;
use super::inlined_member::is_still_imported;
use super::{Opinion, object};
use crate::index::{Project, class_tree, with_word};
use crate::lang::MemberOf;
use crate::names::{BindingId, Source, Space};
use crate::tree::{Field, NodeId, Role};
use crate::types::Ty;

pub(super) struct Constant<'a> {
    project: &'a Project<'a>,
    pub home: Arc<Source>,
    class: NodeId,
    ty: Ty,
    name: String,
    pub binding: BindingId,
    declaration: NodeId,
}

impl<'a> Constant<'a> {
    /// The field that a word declares or reads.
    pub fn find(project: &'a Project<'a>, s: &Source, word: NodeId) -> Opinion<Self> {
        let definitions = |s: &Source, name: &str| project.definition(s, name);
        let name = s.str(word).to_string();
        let MemberOf::Class(ty) = s.lang.member_of(s, word, &definitions) else {
            return object(s, word, "whose field this is can't be told");
        };
        let classes = class_tree::with_word(project, &name, s.lang);
        let Some(home) = class_tree::of_type(&classes, ty) else {
            return object(s, word, "its class was not found");
        };
        let (home, class) = (home.source.clone(), home.node);
        let scope = home.names.scope_of(class);
        let Some(binding) = scope.and_then(|x| home.names.declared_as(x, Space::Values, &name)) else {
            return object(&home, class, "the class has no field of the name");
        };
        let first = home.names.binding(binding).first;
        let Some(declaration) = home.tree.ancestor(first, &[Role::ClassField]) else {
            return object(&home, first, "this declares no field");
        };
        if !known_to_compiler(&home, binding, &mut Vec::new()) {
            return object(&home, first, "its value is not known before the program runs");
        }
        Ok(Constant { project, home, class, ty, name, binding, declaration })
    }

    /// A word that is surely the field's.
    pub fn is_word(&self, s: &Source, n: NodeId) -> bool {
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        let own = |c: Ty| class_tree::same_class(c, self.ty);
        s.tree.is_leaf(n)
            && s.str(n) == self.name
            && matches!(s.tree.role(n), Role::Name | Role::MemberName)
            && matches!(s.lang.member_of(s, n, &definitions), MemberOf::Class(c) if own(c))
    }

    /// What reads it, by its bare name or by a path that asks for no object.
    pub fn is_read(&self, s: &Source, used: NodeId) -> bool {
        let t = &s.tree;
        let Some(x) = t.child(used, Field::Object).filter(|_| t.role(used) == Role::Member) else {
            return t.role(used) == Role::Name && self.is_word(s, used);
        };
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        let last = t.subtree(x).filter(|n| t.is_leaf(*n)).last().unwrap_or(x);
        let variable = t.subtree(x).filter_map(|n| s.names.at(n)).filter_map(|r| r.target).any(|b| {
            let b = s.names.binding(b);
            b.space != Space::Types && b.import.is_none()
        });
        let class = !variable && matches!(s.lang.class_named(s, last, &definitions), MemberOf::Class(_));
        let this = Some(s.str(x)) == s.lang.object_word();
        (class || this) && t.child(used, Field::Member).is_some_and(|m| self.is_word(s, m))
    }

    /// All words of it besides its declaration and those that import it.
    pub fn words(&self) -> usize {
        let of = |s: &Source| {
            let own = |n: &NodeId| s.path == self.home.path && *n == self.home.names.binding(self.binding).first;
            let imports = |n: &NodeId| s.tree.ancestor(*n, &[Role::Import, Role::ImportFrom]).is_some();
            s.tree.ids().filter(|n| self.is_word(s, *n) && !own(n) && !imports(n)).count()
        };
        with_word(self.project, &self.name, self.home.lang).map(|(_, s)| of(&s)).sum()
    }

    /// Names of the value mean the same at a use: those of the class, in it.
    pub fn reaches(&self, o: &Source, used: NodeId, value: NodeId) -> Opinion<()> {
        let (h, t) = (&self.home, &self.home.tree);
        let bare = t.subtree(value).any(|n| t.role(n) == Role::Name);
        let inside = o.path == h.path && o.tree.ancestor(used, &[Role::Class]) == Some(self.class);
        if bare && !inside { object(o, used, "a name of the value may be another one here") } else { Ok(()) }
    }

    /// Nothing looks it up by its name; where it goes, nothing outside asks for it.
    pub fn gone(&self, files: &[File]) -> Opinion<()> {
        let (h, first) = (&self.home, self.home.names.binding(self.binding).first);
        if h.lang.named_from_outside(h, self.declaration).is_some_and(|(_, keeps)| keeps) {
            return object(h, first, "it is asked for from outside");
        }
        for (_, s) in with_word(self.project, &self.name, h.lang) {
            let looked = |n: &NodeId| crate::index::looked_up(&s, *n, &self.name).is_some();
            if let Some(n) = s.tree.ids().find(looked) {
                return object(&s, n, "this looks up what is gone");
            }
            if let Some(n) = s.tree.ids().find(|n| self.is_word(&s, *n) && is_still_imported(&s, *n, files)) {
                return object(&s, n, "this imports what is gone");
            }
        }
        Ok(())
    }
}

/// A final field that is given literals, operators that can't fail, and such fields.
fn known_to_compiler(s: &Source, field: BindingId, seen: &mut Vec<BindingId>) -> bool {
    let t = &s.tree;
    if seen.contains(&field) || !s.names.is_member(field) || !s.lang.is_final(s, field) {
        return false;
    }
    seen.push(field);
    let b = s.names.binding(field);
    let value = t.parent(b.first).filter(|a| t.role(*a) == Role::Assign).and_then(|a| t.child(a, Field::Right));
    let Some(value) = value.filter(|_| b.writes == 1 && t.ancestor(b.first, &[Role::ClassField]).is_some()) else {
        return false;
    };
    let known = t.subtree(value).all(|n| match t.role(n) {
        Role::Literal | Role::Token | Role::Paren | Role::UnaryOp => true,
        Role::Compare | Role::BoolOp | Role::NotOp => true,
        Role::BinaryOp => {
            let divides = t.children(n).any(|c| t.role(c) == Role::Token && matches!(s.str(c), "/" | "%"));
            let by = t.child(n, Field::Right).filter(|r| t.role(*r) == Role::Literal).map_or("0", |r| s.str(r));
            !divides || by.bytes().any(|c| (b'1'..=b'9').contains(&c))
        }
        Role::Name => s.names.at(n).and_then(|r| r.target).is_some_and(|b| known_to_compiler(s, b, seen)),
        _ => false,
    });
    // only what stands in itself is a circle
    seen.pop();
    known
}
