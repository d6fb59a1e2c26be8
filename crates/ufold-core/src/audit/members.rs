//! Members of classes that code names without an object: the same one is in sight at the new place.

use super::body::Check;
use super::equal::Equal;
use super::{Opinion, object};
use crate::names::{BindKind, BindingId, Source, Space};
use crate::tree::{Field, NodeId, Role};

fn class_around(s: &Source, node: NodeId) -> Option<NodeId> {
    s.tree.ancestor(node, &[Role::Class])
}

fn says(s: &Source, declaration: NodeId, word: &str) -> bool {
    s.tree.children(declaration).any(|c| s.tree.role(c) == Role::Token && s.str(c) == word)
}

/// The method, or the field's value, that a node is code of.
fn owner(s: &Source, node: NodeId) -> Option<NodeId> {
    s.tree.ancestor(node, &[Role::Function, Role::ClassField, Role::Class])
}

impl Check<'_> {
    /// The callee is the new member: by its bare name inside its class, or by the class's name.
    pub(super) fn reaches_member(&self, callee: NodeId) -> bool {
        let (s, h) = (self.edited(), self.home);
        let t = &s.tree;
        let is_static = says(h, self.definition, "static");
        let is_private = says(h, self.definition, "private");
        let home_class = class_around(h, self.definition);
        if t.role(callee) == Role::Name {
            let target = s.names.at(callee).and_then(|r| r.target).map(|b| s.names.binding(b));
            let own = target.is_some_and(|b| {
                b.kind == BindKind::Function && b.writes == 1 && t.parent(b.first) == Some(self.definition)
            });
            let same_class = class_around(s, callee) == home_class;
            let has_object =
                owner(s, callee).is_some_and(|o| !says(s, o, "static")) && !s.lang.is_before_object(s, callee);
            return s.path == self.function.file && own && (is_static || same_class && has_object);
        }
        let (Some(o), Some(m)) = (t.child(callee, Field::Object), t.child(callee, Field::Member)) else { return false };
        let class = home_class.and_then(|c| h.tree.child(c, Field::Name));
        let outermost = home_class.is_some_and(|c| class_around(h, c).is_none());
        let names_class = t.role(o) == Role::Name && class.is_some_and(|c| h.str(c) == s.str(o));
        // a variable of that name would be meant first
        let is_type = s.names.at(o).is_some_and(|r| r.target.is_none_or(|b| s.names.binding(b).space == Space::Types));
        let here = self.project.index(&self.function.file);
        let reached = here
            .is_some_and(|f| self.project.entity(s, s.str(o)) == crate::step::Entity::Member(f, s.str(o).to_string()));
        s.str(m) == self.function.name && is_static && !is_private && outermost && names_class && is_type && reached
    }
}

impl Equal<'_> {
    /// Whether a name that is, or may be, a member of a class reaches the same one; none for other names.
    pub(super) fn member(&self, a: NodeId, old: Option<BindingId>, new: Option<BindingId>) -> Option<Opinion<()>> {
        let (o, h) = (self.c.old(), self.c.home);
        if !o.names.members_in_sight {
            return None;
        }
        let is_member = |s: &Source, b: Option<BindingId>| b.is_some_and(|b| s.names.is_member(b));
        // of a class that the code itself makes
        let made = |s: &Source, b: BindingId, from: NodeId, end: NodeId| {
            let class = s.names.scope(s.names.binding(b).scope).node;
            class >= from && class < end
        };
        let site = self.c.site;
        let copied = old.is_some_and(|b| is_member(o, old) && made(o, b, site.first, o.tree.end(site.last)));
        let definition = self.c.definition;
        let written = new.is_some_and(|b| is_member(h, new) && made(h, b, definition, h.tree.end(definition)));
        if copied && written {
            return None;
        }
        let other = || object(o, a, format!("`{}` would be another member", o.str(a)));
        let same_place = o.path == h.path && {
            let old_class = class_around(o, a).map(|c| self.c.map.get(&c).copied());
            old_class == class_around(h, self.c.definition).map(Some)
        };
        let is_static = says(h, self.c.definition, "static");
        match (is_member(o, old), is_member(h, new)) {
            (false, false) => {
                // what nothing in the file binds may be inherited
                let typed = o.str(a).starts_with(char::is_uppercase) || matches!(o.tree.field(a), Field::Type);
                let free = old.is_none() && new.is_none() && !typed && !o.lang.is_builtin(o.str(a));
                let was_static = owner(o, a).is_some_and(|f| says(o, f, "static")) || o.lang.is_before_object(o, a);
                let fits = same_place && (!is_static || was_static);
                if free && !fits { Some(other()) } else { None }
            }
            (true, true) => {
                let (x, y) = (old?, new?);
                let (p, q) = (o.names.binding(x), h.names.binding(y));
                let classes = (o.names.scope(p.scope).node, h.names.scope(q.scope).node);
                let same = p.name == q.name && p.space == q.space && self.c.map.get(&classes.0) == Some(&classes.1);
                let needs_object = h.lang.is_of_object(h, y);
                let sure = same_place || o.lang.is_sure(o, a);
                let fits = same && o.path == h.path && sure && (!needs_object || !is_static && same_place);
                Some(if fits { Ok(()) } else { other() })
            }
            _ => Some(other()),
        }
    }
}
