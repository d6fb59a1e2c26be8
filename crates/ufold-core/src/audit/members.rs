//! Members of classes that code names without an object: the same one is in sight at the new place.

use super::check::Check;
use super::equal::Equal;
use super::{Opinion, object};
use crate::change::{Code, Verdict};
use crate::index::ancestry::Ancestor;
use crate::index::inherited::{self, Inherited};
use crate::index::{ancestry, class_tree};
use crate::lang::MemberOf;
use crate::names::{BindKind, BindingId, Names, Source, Space};
use crate::tree::{Field, NodeId, Role};

fn class_around(s: &Source, node: NodeId) -> Option<NodeId> {
    s.tree.ancestor(node, &[Role::Class])
}

/// The method, or the field's value, that a node is code of.
fn owner(s: &Source, node: NodeId) -> Option<NodeId> {
    s.tree.ancestor(node, &[Role::Function, Role::ClassField, Role::Class])
}

impl Check<'_> {
    /// A name of the new function's own, in a class inside it: that has no member of the name, unless the name stood there.
    pub(super) fn in_classes(&self) -> Opinion<()> {
        let (o, h) = (self.old(), self.home);
        if !h.names.members_in_sight {
            return Ok(());
        }
        let around = |s: &Source, n: NodeId, first: NodeId| {
            s.tree.ancestors(n).take_while(|a| *a >= first).any(|a| s.tree.role(a) == Role::Class)
        };
        let site = o.names.in_range(self.site.first, o.tree.end(self.site.last)).iter();
        let before: Vec<&str> =
            site.filter(|r| r.target.is_some() && around(o, r.node, self.site.first)).map(|r| o.str(r.node)).collect();
        for r in h.names.in_range(self.definition, h.tree.end(self.definition)) {
            let Some(b) = r.target.filter(|b| !h.names.is_member(*b)) else { continue };
            let function = h.names.scope(h.names.binding(b).scope).node;
            let word = h.str(r.node);
            let own = h.tree.contains(self.definition, function) && !before.contains(&word);
            if own && inherited::of_local(self.project, h, r.node, word, function) != Inherited::No {
                return object(h, r.node, format!("`{word}` would be a member of the class here"));
            }
        }
        Ok(())
    }

    /// The callee is the new member: by its bare name inside its class, or by the class's name.
    pub(super) fn reaches_member(&self, callee: NodeId) -> bool {
        let (s, h) = (self.edited(), self.home);
        let t = &s.tree;
        let is_static = h.lang.needs_no_object(h, self.definition);
        let is_private = h.lang.hides_member(h, self.definition);
        let home_class = class_around(h, self.definition);
        if t.role(callee) == Role::Name {
            let target = s.names.at(callee).and_then(|r| r.target).map(|b| s.names.binding(b));
            let own = target.is_some_and(|b| {
                b.kind == BindKind::Function && b.writes == 1 && t.parent(b.first) == Some(self.definition)
            });
            let same_class = class_around(s, callee) == home_class;
            // the statements of a sketch see all that it has
            let with_object = owner(s, callee).map_or(home_class.is_none(), |o| !s.lang.needs_no_object(s, o));
            let has_object = with_object && !s.lang.is_before_object(s, callee);
            let ready = home_class.is_none_or(|c| self.is_ready(s, callee, c));
            if target.is_none() && s.path != self.function.file {
                let there = self.old().tree.ancestor(self.site.first, &[Role::Class]);
                let below = there.and_then(|c| self.below_home(c));
                let same = below.is_some_and(|all| self.same_by_object(&all));
                return same
                    && s.str(callee) == self.function.name
                    && !is_private
                    && (is_static || has_object)
                    && (self.in_one_package(s) || h.lang.is_open_below(h, self.definition));
            }
            return s.path == self.function.file && own && (is_static && ready || same_class && has_object);
        }
        let (Some(o), Some(m)) = (t.child(callee, Field::Object), t.child(callee, Field::Member)) else { return false };
        let class = home_class.and_then(|c| h.tree.child(c, Field::Name));
        let outermost = home_class.is_some_and(|c| class_around(h, c).is_none());
        let generic = |c: NodeId| h.tree.child(c, Field::TypeParams).is_some();
        let names_class = t.role(o) == Role::Name && class.is_some_and(|c| h.str(c) == s.str(o));
        // a variable of that name would be meant first
        let is_type = s.names.at(o).is_some_and(|r| r.target.is_none_or(|b| s.names.binding(b).space == Space::Types));
        let here = self.project.index(&self.function.file);
        let reached = here
            .is_some_and(|f| self.project.entity(s, s.str(o)) == crate::index::Entity::Member(f, s.str(o).to_string()));
        s.str(m) == self.function.name
            && is_static
            && !h.lang.hides_from_others(h, self.definition)
            && outermost
            && (h.lang.generic_classes_have_names() || !home_class.is_some_and(generic))
            && names_class
            && is_type
            && reached
            && home_class.is_some_and(|c| self.may_see(s, callee, c))
    }

    /// The classes of the old text from one of a copy's up to, and without, the function's class, when that is above it.
    pub(super) fn below_home(&self, class: NodeId) -> Option<Vec<Ancestor>> {
        let file = self.project.source(self.project.index(&self.old().path)?).ok()?;
        let home = self.home_class()?;
        let chain = ancestry::of(self.project, &file, class);
        let at = chain.iter().position(|c| c.is(&home.source, home.node)).filter(|at| *at > 0)?;
        if file.names.members_in_sight && Ancestor::is_generic(&file, class) {
            return None;
        }
        chain[..at].iter().all(|c| c.source.lang.hands_down(&c.source, c.node)).then(|| chain[..at].to_vec())
    }

    /// The copy's class extends the function's.
    pub(super) fn stands_below(&self) -> bool {
        let class = self.old().tree.ancestor(self.site.first, &[Role::Class]);
        class.and_then(|c| self.below_home(c)).is_some()
    }

    /// Members that the copy has by its object are the same in the function's class.
    fn same_by_object(&self, below: &[Ancestor]) -> bool {
        let (o, t) = (self.old(), &self.old().tree);
        let inside = (self.site.first.0..t.end(self.site.last).0).map(NodeId);
        let by_object = |n: &NodeId| t.role(*n) == Role::Name && Some(o.str(*n)) == o.lang.object_word();
        inside.filter(by_object).all(|n| {
            let member = t.parent(n).filter(|_| t.field(n) == Field::Object).and_then(|m| t.child(m, Field::Member));
            member.is_some_and(|m| !self.changes(below, o.str(m)))
        })
    }

    fn changes(&self, below: &[Ancestor], word: &str) -> bool {
        self.home_class().is_none_or(|base| ancestry::changes(self.project, below, &base, word))
    }

    /// The function's class as it was.
    fn home_class(&self) -> Option<Ancestor> {
        let source = self.project.source(self.project.index(&self.function.file)?).ok()?;
        let t = &source.tree;
        let name = self.function.class.as_deref()?;
        let named = |c: &NodeId| t.child(*c, Field::Name).is_some_and(|n| source.str(n) == name);
        let mut all = t.ids().filter(|c| t.role(*c) == Role::Class && named(c));
        // of two of the name neither is told apart
        let node = all.next().filter(|_| all.next().is_none())?;
        Some(Ancestor { source, node })
    }

    /// The copy is a method's of a class that extends the function's, each on the way one class alone, which is looked up on
    /// the object.
    pub(super) fn is_below_home(&self) -> bool {
        let (o, t) = (self.old(), &self.old().tree);
        let function = self.function_of(o, self.site.first);
        let class = t.parent(function).and_then(|b| t.parent(b)).filter(|c| t.role(*c) == Role::Class);
        let below = class.and_then(|c| self.below_home(c));
        let static_home = self.home.lang.needs_no_object(self.home, self.definition);
        let plain = below.as_ref().is_some_and(|all| all.iter().all(Ancestor::extends_one));
        // where classes keep members to their own code, nothing of the object is kept by one of them
        let home = self.home_class();
        let above = home.map_or(Vec::new(), |b| ancestry::of(self.project, &b.source, b.node));
        let words = (self.site.first.0..t.end(self.site.last).0).map(NodeId).filter(|n| t.role(*n) == Role::MemberName);
        let all = || below.iter().flatten().chain(&above);
        let hides = |n: NodeId| o.lang.keeps_to_class() && all().any(|c| c.hides(o.str(n)));
        let plain = plain && !words.into_iter().any(hides);
        !static_home && plain && (!o.lang.needs_types() || self.is_typed_alike(&below.unwrap_or_default()))
    }

    /// The copy names nothing of its object but members that no class below the function's speaks of in its head, and the
    /// function's class has no type parameters.
    fn is_typed_alike(&self, below: &[Ancestor]) -> bool {
        let (o, t) = (self.old(), &self.old().tree);
        let word = |n: NodeId| {
            let member = t.parent(n).filter(|_| t.field(n) == Field::Object).and_then(|p| t.child(p, Field::Member));
            member.map(|m| o.str(m))
        };
        let speaks = |c: &Ancestor, word: &str| {
            let (s, t) = (&c.source, &c.source.tree);
            let heads = t.subtree(c.node).filter(|n| t.field(*n) == Field::Name && s.str(*n) == word);
            heads.into_iter().any(|n| t.parent(n) != Some(c.node))
        };
        let receiver = self.receiver(o, self.function_of(o, self.site.first));
        let uses = o.names.in_range(self.site.first, t.end(self.site.last));
        let mut own = uses.iter().filter(|r| r.target.is_some() && r.target == receiver);
        let class = class_around(self.home, self.definition);
        let generic = class.is_none_or(|c| self.home.tree.child(c, Field::TypeParams).is_some());
        !generic && own.all(|r| word(r.node).is_some_and(|w| !below.iter().any(|c| speaks(c, w))))
    }

    /// The file sees what the function's file shows to those beside it.
    pub(super) fn in_one_package(&self, s: &Source) -> bool {
        let both = s.module.as_ref().zip(self.home.module.as_ref());
        both.is_some_and(|(from, to)| from.package() == to.package() && s.lang.sees_root(from, to))
    }

    /// A bare name of a copy that the function's class hands down to the copy's: the same one in both.
    fn is_handed_down(&self, a: NodeId, b: NodeId) -> bool {
        let (o, h) = (self.old(), self.home);
        let word = o.str(a);
        let free = |s: &Source, n: NodeId| s.names.at(n).is_some_and(|r| r.target.is_none() && !r.is_type());
        let whole = |s: &Source| s.lang.seen_through(s, word).is_some() || s.names.in_module(word).is_some();
        let member_of = |s: &Source, n: NodeId, class: Option<NodeId>| {
            let own = s.names.at(n)?.target.filter(|x| s.names.is_member(*x))?;
            let binding = s.names.binding(own);
            (class == Some(s.names.scope(binding.scope).node)).then_some(binding.first)
        };
        let own = member_of(h, b, class_around(h, self.definition));
        let declared = own.and_then(|first| h.tree.parent(first));
        let field = |d: NodeId| h.tree.parent(d).filter(|f| h.tree.role(*f) == Role::ClassField).unwrap_or(d);
        let open = declared.is_none_or(|d| !h.lang.hides_member(h, field(d)));
        let around = class_around(o, a);
        let below = around.and_then(|c| self.below_home(c));
        let overrides = member_of(o, a, around).is_some();
        let here = free(h, b) && !whole(h) || own.is_some() && open;
        let is_static = h.lang.needs_no_object(h, self.definition);
        let was_static = owner(o, a).is_some_and(|f| o.lang.needs_no_object(o, f)) || o.lang.is_before_object(o, a);
        let same_object = !is_static || was_static;
        let plain = word == h.str(b) && word != o.lang.object_word().unwrap_or("") && !o.lang.needs_class(word);
        (free(o, a) && !whole(o) || overrides)
            && here
            && plain
            && same_object
            && below.is_some_and(|all| !self.changes(&all, word))
    }

    /// The place can call a function of the class, which is ready.
    fn may_see(&self, s: &Source, callee: NodeId, class: NodeId) -> bool {
        let h = self.home;
        let (Some(from), Some(to)) = (&s.module, &h.module) else { return s.path == h.path };
        let open = h.lang.is_open(h, self.definition) && h.lang.is_open(h, class) && !to.package().is_empty();
        h.lang.sees_root(from, to) && (from.package() == to.package() || open) && self.is_ready(s, callee, class)
    }

    /// The call is not what makes the class ready, or that does nothing, or the plan says so.
    fn is_ready(&self, s: &Source, callee: NodeId, class: NodeId) -> bool {
        let h = self.home;
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        let told = self.change.result.reasons.iter().any(|r| r.code == Code::ImportEffects);
        told || class_tree::is_ready_at(h, class, s, callee) || !h.lang.acts_when_loaded(h, class, &definitions)
    }
}

impl Equal<'_> {
    /// Whether a name that is, or may be, a member of a class reaches the same one; none for other names.
    pub(super) fn member(&self, a: NodeId, b: NodeId) -> Option<Opinion<()>> {
        let (o, h) = (self.c.old(), self.c.home);
        if !o.names.members_in_sight {
            return None;
        }
        let (old, new) = (o.names.at(a)?.target, h.names.at(b)?.target);
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
        if o.path != h.path && self.c.is_handed_down(a, b) {
            return Some(Ok(()));
        }
        let other = || object(o, a, format!("`{}` would be another member", o.str(a)));
        let same_place = o.path == h.path && {
            // in a class that the code itself makes, those around it are the same
            let old_class = class_around(o, site.first).map(|c| self.c.map.get(&c).copied());
            old_class == class_around(h, self.c.definition).map(Some)
        };
        let is_static = h.lang.needs_no_object(h, self.c.definition);
        match (is_member(o, old), is_member(h, new)) {
            (false, false) if is_static && self.loses_its_object(a, new) => Some(other()),
            (false, false) if is_static && class_around(h, self.c.definition).is_none() => None,
            (false, false) => {
                // what nothing in the file binds may be inherited
                let type_place = |s: &Source, n: NodeId| s.names.at(n).is_some_and(|r| r.may_be_type());
                let typed = type_place(o, a) && type_place(h, b);
                if typed && !same_place && [(o, a, old), (h, b, new)].iter().any(|x| self.is_hidden(x.0, x.1, x.2)) {
                    return Some(other());
                }
                let hides = |s: &Source, n: NodeId, target: Option<BindingId>| {
                    let through = s.lang.seen_through(s, s.str(n)).is_some();
                    let called = s.tree.field(n) == Field::Callee
                        || s.names.at(n).is_some_and(|r| r.spaces == [Space::Functions]);
                    target.is_none() && !(through && called) || self.may_be_member(s, n)
                };
                let free = !typed && (hides(o, a, old) || hides(h, b, new)) && !o.lang.is_builtin(o.str(a));
                let was_static =
                    owner(o, a).is_some_and(|f| o.lang.needs_no_object(o, f)) || o.lang.is_before_object(o, a);
                let fits = same_place && (!is_static || was_static);
                if free && !fits { Some(other()) } else { None }
            }
            (true, true) => {
                let (x, y) = (old?, new?);
                let (p, q) = (o.names.binding(x), h.names.binding(y));
                let classes = (o.names.scope(p.scope).node, h.names.scope(q.scope).node);
                let same = p.name == q.name && p.space == q.space && self.c.map.get(&classes.0) == Some(&classes.1);
                let needs_object = h.lang.is_of_object(h, y);
                let sure = same_place || o.lang.is_sure(o, a) || inherited::is_same_static(self.c.project, o, a);
                let fits = same && o.path == h.path && sure && (!needs_object || !is_static && same_place);
                Some(if fits { Ok(()) } else { other() })
            }
            _ => Some(other()),
        }
    }

    /// Without a class around, the file's own are members of its object, which the new function has none of.
    fn loses_its_object(&self, a: NodeId, new: Option<BindingId>) -> bool {
        let (o, h) = (self.c.old(), self.c.home);
        let of_object = new.is_some_and(|b| {
            let binding = h.names.binding(b);
            let member = matches!(binding.kind, BindKind::Variable | BindKind::Function);
            member && binding.scope == Names::MODULE && h.lang.is_of_object(h, b)
        });
        of_object && !owner(o, a).is_some_and(|f| o.lang.needs_no_object(o, f))
    }

    /// A class around a name may have another thing of that name from above; an assumption covers what is not known.
    fn is_hidden(&self, s: &Source, name: NodeId, target: Option<BindingId>) -> bool {
        let word = s.str(name);
        let definitions = |s: &Source, name: &str| self.c.project.definition(s, name);
        let told = self.c.change.result.verdict == Verdict::Assumed;
        let wrong = |found: MemberOf| match found {
            MemberOf::Other => false,
            MemberOf::Unknown => !told,
            MemberOf::Class(_) | MemberOf::Likely(_) => true,
        };
        if target.is_some_and(|b| s.names.binding(b).scope != Names::MODULE) {
            return false;
        }
        let value = s.names.at(name).is_some_and(|r| r.target.is_none() && !r.is_type());
        wrong(s.lang.class_above_place(s, name, word, &definitions))
            || value && wrong(s.lang.member_of(s, name, &definitions))
            || !told && self.may_be_member(s, name)
    }

    /// A free or imported name that is no type by its place, and that a class around it has from above, or perhaps has.
    fn may_be_member(&self, s: &Source, name: NodeId) -> bool {
        let definitions = |s: &Source, name: &str| self.c.project.definition(s, name);
        let mut around = s.tree.ancestors(name).filter(|c| s.tree.role(*c) == Role::Class);
        let imported = s.names.is_imported(name) || s.lang.seen_through(s, s.str(name)).is_some();
        let of = if imported {
            s.lang.member_around(s, name, s.str(name), &definitions)
        } else {
            s.lang.member_of(s, name, &definitions)
        };
        s.names.at(name).is_some_and(|r| (imported || r.target.is_none()) && !r.is_type())
            && (of != MemberOf::Other || around.any(|c| s.lang.may_inherit(s, c, s.str(name), &definitions)))
    }
}
