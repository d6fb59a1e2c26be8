//! Where members are found, and what their names mean, when they are their base's: every class finds in the base what it
//! had itself, no other class finds something else, and each name means what it meant.

use std::sync::Arc;

use rustc_hash::FxHashMap;

use super::everywhere::meaning;
use super::file::File;
use super::lifted_code::{Base, Emptied, classes};
use super::moved_code::Pair;
use super::{Objection, Opinion, object};
use crate::change::{Change, Code};
use crate::index::ancestry::{self, Ancestor};
use crate::index::class_members::{declared, is_function, is_value_of, name_of};
use crate::index::class_tree::{same_class, with_word};
use crate::index::loading::acts;
use crate::index::own::makes_empty;
use crate::index::{Entity, Project, bases, looked_up, unseen};
use crate::lang::{Bases, MemberOf};
use crate::names::{BindKind, BindingId, Names, Source};
use crate::tree::{Field, NodeId, Role};

pub(super) fn check(
    project: &Project,
    (of, change): (&dyn Bases, &Change),
    (emptied, base): (&[Emptied], &Base),
    pairs: &[Pair],
    files: &[File],
) -> Opinion<()> {
    let texts: Vec<Arc<Source>> = files.iter().map(|f| f.new.clone()).collect();
    let nowhere = |message: String| Objection { message, file: base.f.old.path.clone(), line: 1 };
    let run = |after: &Project| {
        let c = Compared { project, after, of, change, emptied, base };
        c.may_go()?;
        c.when_defined()?;
        pairs.iter().try_for_each(|p| c.names(p))?;
        c.found()?;
        c.beside()?;
        c.unseen(files)
    };
    project.with_texts(&texts, run).map_err(nowhere)?
}

struct Compared<'a> {
    project: &'a Project<'a>,
    after: &'a Project<'a>,
    of: &'a dyn Bases,
    change: &'a Change<'a>,
    emptied: &'a [Emptied<'a>],
    base: &'a Base<'a>,
}

impl Compared<'_> {
    fn told(&self, code: Code, file: &str) -> bool {
        self.change.result.reasons.iter().any(|r| r.code == code && r.file == file)
    }

    /// The words that name what went, each with the old member.
    fn gone(&self) -> impl Iterator<Item = (&Emptied<'_>, NodeId, &str)> {
        let of = |e: &'_ Emptied<'_>, n: NodeId| name_of(&e.f.old, n).map(|w| w.0);
        self.emptied
            .iter()
            .flat_map(move |e| e.gone.iter().filter_map(move |n| Some((e, *n, e.f.old.str(NodeId(of(e, *n)?))))))
    }

    /// Nothing of the members means their own class.
    fn may_go(&self) -> Opinion<()> {
        for (e, n, name) in self.gone() {
            let (o, t) = (&e.f.old, &e.f.old.tree);
            let statement = t.parent(e.old).filter(|p| t.role(*p) == Role::Decorated).unwrap_or(e.old);
            let decorated = t.children(statement).any(|c| t.role(c) == Role::Decorator);
            if let Some(why) = self.of.stays(o, n).or(self.of.is_closed(o, e.old)) {
                return object(o, n, why);
            }
            if self.of.would_be_shared(o, n) {
                return object(o, n, "all classes would share this");
            }
            if self.of.every_object_has(name) && (self.base.old.is_some() || decorated) {
                return object(o, n, format!("`{name}` is something that each object has"));
            }
            let left = |w: &&str| declared(&e.f.new, e.new).iter().any(|d| d.name == **w);
            if self.of.together().contains(&name) && self.of.together().iter().any(left) {
                return object(o, n, format!("`{name}` is parted from what it goes with"));
            }
            if unseen::is_collected(&o.path, name) {
                return object(o, n, format!("`{name}` is run by its name"));
            }
            if is_function(o, n) {
                continue;
            }
            use Role::*;
            let shared = self.of.is_of_class(o, n);
            let makes = |x: NodeId| match t.role(x) {
                Call => shared || !makes_empty(o, x),
                List | Dict | Set | Comprehension | Generator | Lambda | Fresh => shared || t.role(x) == Lambda,
                Member | Await | Yield => true,
                _ => false,
            };
            if decorated || t.subtree(n).any(makes) {
                return object(o, n, "this value may be another one in another class");
            }
            let definitions = |s: &Source, name: &str| self.project.definition(s, name);
            if o.lang.is_stored_by_members(o, e.old, &definitions) {
                return object(o, n, "objects are stored with the fields of their own class");
            }
            if self.of.keeps_order() && !shared && self.base.old.is_some() {
                return object(o, n, "each object of the base would have this");
            }
            let before = |m: &NodeId| *m < n && t.role(*m) == ClassField && !e.gone.contains(m) && !is_function(o, *m);
            let stays = crate::index::class_members::body(t, e.old).into_iter().filter(before);
            if self.of.keeps_order() && !shared && stays.into_iter().any(|m| !self.of.is_of_class(o, m)) {
                return object(o, n, "each object would have this before another one");
            }
        }
        Ok(())
    }

    /// What is done when the members are defined is told, and needs nothing that comes later; nobody asks for what is above.
    fn when_defined(&self) -> Opinion<()> {
        use Role::*;
        for (e, n, name) in self.gone() {
            let (o, t) = (&e.f.old, &e.f.old.tree);
            let own = o.names.scope_of(e.old);
            let of_class = |x: NodeId| {
                let names = t.subtree(x).filter(|y| t.role(*y) == Name);
                let target = names.into_iter().next().and_then(|y| o.names.at(y)).and_then(|r| r.target);
                target.is_some_and(|b| Some(o.names.binding(b).scope) == own)
            };
            let all = if self.of.runs_when_made(o, n) { acts(self.project, o, n) } else { Vec::new() };
            let done = all.into_iter().find(|x| !(t.role(*x) == Decorator && of_class(*x)));
            if let Some(x) = done.filter(|_| !self.told(Code::ImportEffects, &o.path)) {
                return object(o, x, "this is done once for all classes now");
            }
            let list = t.child(t.definition_in(n), Field::Parameters).filter(|_| self.of.shares_defaults());
            let values = list.map_or(Vec::new(), |l| t.children(l).filter_map(|p| t.child(p, Field::Value)).collect());
            let made = |x: NodeId| match t.role(x) {
                Literal | Token | UnaryOp | BinaryOp | Concat | Paren | Tuple => false,
                Name => {
                    let target = o.names.at(x).and_then(|r| r.target).map(|b| o.names.binding(b));
                    target.is_some_and(|b| b.writes != 1 || b.rebound_inside)
                }
                _ => true,
            };
            if let Some(x) = values.into_iter().flat_map(|v| t.subtree(v)).find(|x| made(*x)) {
                return object(o, x, "all classes would share this value");
            }
            let asks = |x: NodeId| {
                let member = t.parent(x).filter(|m| t.role(*m) == Member && t.field(x) == Field::Member);
                let above = |b: NodeId| t.subtree(b).any(|y| t.is_leaf(y) && o.lang.needs_class(o.str(y)));
                o.str(x) == name && member.and_then(|m| t.child(m, Field::Object)).is_some_and(above)
            };
            if let Some(x) = t.subtree(e.old).find(|x| asks(*x)) {
                return object(o, x, "what is above is another one now");
            }
            let class = |name: &str| {
                self.emptied
                    .iter()
                    .any(|e| e.f.old.tree.child(e.old, Field::Name).is_some_and(|w| e.f.old.str(w) == name))
            };
            for (_, s) in crate::index::with_word(self.project, name, o.lang) {
                let value = |x: &NodeId| is_value_of(&s, *x, name, &class);
                let found = s.tree.ids().find(value).filter(|_| is_function(o, n));
                if let Some(x) = found.filter(|_| !self.told(Code::UsedAsValue, &s.path)) {
                    return object(&s, x, "two values are one now");
                }
            }
        }
        let (s, t) = (&self.base.f.new, &self.base.f.new.tree);
        for n in self.base.added.iter().filter(|n| self.of.runs_when_made(s, **n)) {
            for r in s.names.in_range(*n, t.end(*n)).iter().filter(|r| !r.is_type()) {
                let later = t.body_around(r.node).is_some_and(|f| f >= *n);
                let binding = r.target.map(|b| s.names.binding(b)).filter(|b| b.scope == Names::MODULE && !later);
                let there =
                    |b: &crate::names::Binding| b.first < self.base.new || b.hoisted && b.kind == BindKind::Function;
                if binding.is_some_and(|b| !there(b)) {
                    return object(s, r.node, "this is not there yet when the class is made");
                }
            }
        }
        Ok(())
    }

    /// Each name of the code means what it meant.
    fn names(&self, p: &Pair) -> Opinion<()> {
        let (o, s) = (p.old, p.new);
        let edits = if p.moved {
            [true, false].map(|b| self.of.opened(o, p.a, b).unwrap_or_default()).concat()
        } else {
            Vec::new()
        };
        let word = |s: &Source, n: &NodeId| {
            let names = matches!(s.tree.role(*n), Role::Name | Role::MemberName | Role::FrameName | Role::KeywordName);
            s.tree.is_leaf(*n) && (names || s.names.at(*n).is_some())
        };
        let x: Vec<NodeId> = o
            .tree
            .subtree(p.a)
            .filter(|n| word(o, n) && !edits.iter().any(|e| e.span.contains(o.tree.span(*n))))
            .collect();
        let y: Vec<NodeId> = s.tree.subtree(p.b).filter(|n| word(s, n)).collect();
        if x.len() != y.len() || x.iter().zip(&y).any(|(a, b)| o.str(*a) != s.str(*b)) {
            return object(o, p.a, "this says other names now");
        }
        let map: FxHashMap<NodeId, NodeId> = x.iter().copied().zip(y.iter().copied()).collect();
        for (a, b) in x.iter().zip(&y) {
            if p.moved {
                self.own_word(o, *a, *b)?;
            }
            if !self.means_the_same(p, (*a, *b), &map) {
                return object(o, *a, format!("`{}` would mean something else", o.str(*a)));
            }
        }
        Ok(())
    }

    /// A word of what went means nothing of its own class.
    fn own_word(&self, o: &Source, a: NodeId, b: NodeId) -> Opinion<()> {
        let word = o.str(a);
        let t = &o.tree;
        if o.lang.is_mangled(word) || o.lang.needs_class(word) && t.role(a) != Role::MemberName {
            return object(o, a, format!("`{word}` means its own class"));
        }
        if !o.lang.needs_types() || Some(word) != o.lang.object_word() {
            return Ok(());
        }
        let s = &self.base.f.new;
        let member = s.tree.parent(b).filter(|m| s.tree.role(*m) == Role::Member && s.tree.field(b) == Field::Object);
        let Some(name) = member.and_then(|m| s.tree.child(m, Field::Member)).map(|n| s.str(n)) else {
            return object(o, a, "the object is another one to the compiler");
        };
        let has = ancestry::of(self.after, s, self.base.new).iter().any(|c| c.has_member(name));
        let of = self.emptied.iter().find(|e| e.f.old.path == o.path && t.contains(e.old, a));
        if has && of.is_none_or(|e| self.is_same_above(e, name)) {
            Ok(())
        } else {
            object(o, a, format!("the base has no `{name}`"))
        }
    }

    fn means_the_same(&self, p: &Pair, (a, b): (NodeId, NodeId), map: &FxHashMap<NodeId, NodeId>) -> bool {
        let (o, s) = (p.old, p.new);
        // what must hold of the object is asked by itself
        if Some(o.str(a)) == o.lang.object_word() {
            return true;
        }
        let (was, is) = match (o.names.at(a), s.names.at(b)) {
            (Some(x), Some(y)) => (x, y),
            (None, None) => {
                return o.tree.role(a) != Role::MemberName || meaning(self.project, o, a) == meaning(self.after, s, b);
            }
            _ => return false,
        };
        if was.usage != is.usage {
            return false;
        }
        let inner = |s: &Source, t: Option<BindingId>| t.filter(|t| s.names.binding(*t).scope != Names::MODULE);
        match (inner(o, was.target), inner(s, is.target)) {
            (Some(x), Some(y)) => self.same_local((p, x, y), map),
            // a member that is inherited now
            (Some(x), None) => o.names.is_member(x) && self.is_inherited(s, b),
            (None, Some(y)) => s.names.is_member(y) && self.was_inherited(o, a, s, y),
            (None, None) => {
                if o.names.members_in_sight && was.target.is_none() && !was.is_type() {
                    let (x, y) = (member_of(self.project, o, a), member_of(self.after, s, b));
                    let class = |m: &MemberOf| matches!(m, MemberOf::Class(_) | MemberOf::Likely(_));
                    if class(&x) || class(&y) {
                        return self.same_member(x, y) || self.went_up(o.str(a), x) && self.is_inherited(s, b);
                    }
                }
                let entity = |p: &Project, s: &Source, t: Option<BindingId>, n: NodeId| {
                    let name = t.map_or(s.str(n), |t| s.names.binding(t).name.as_str());
                    p.origin(&p.entity(s, name))
                };
                let (x, y) = (entity(self.project, o, was.target, a), entity(self.after, s, is.target, b));
                let known = |e: &Entity| !matches!(e, Entity::Unknown(..)) || o.lang.is_builtin(o.str(a));
                let builtin = |e: &Entity| matches!(e, Entity::Unknown(..)) && o.lang.is_builtin(o.str(a));
                let same = x == y || builtin(&x) && builtin(&y);
                same && (!p.moved || o.path == s.path || known(&x) || Some(o.str(a)) == o.lang.object_word())
            }
        }
    }

    fn same_local(&self, (p, x, y): (&Pair, BindingId, BindingId), map: &FxHashMap<NodeId, NodeId>) -> bool {
        let (o, s) = (p.old, p.new);
        let (was, is) = (o.names.binding(x), s.names.binding(y));
        if was.name != is.name || was.kind != is.kind {
            return false;
        }
        let home = |s: &Source, b: &crate::names::Binding| s.names.scope(b.scope).node;
        let (f, g) = (home(o, was), home(s, is));
        let class = |s: &Source, n: NodeId| s.tree.role(n) == Role::Class;
        if class(o, f) || class(s, g) {
            // of the same class, or of the one that went up
            let name = |s: &Source, n: NodeId| s.tree.child(n, Field::Name).map(|n| s.str(n).to_string());
            let up = g == self.base.new
                && s.path == self.base.f.new.path
                && self
                    .emptied
                    .iter()
                    .any(|e| e.old == f && e.f.old.path == o.path && self.is_same_above(e, &was.name));
            return class(o, f) && class(s, g) && (name(o, f) == name(s, g) || up);
        }
        let parameter = was.kind == BindKind::Parameter && self.of.is_constructor(o, f) && self.of.is_constructor(s, g);
        map.get(&was.first) == Some(&is.first)
            || parameter
            || !p.moved && o.tree.role(f) == s.tree.role(g) && was.first < p.a
    }

    /// A member that went, or one that the class has from above in the same way.
    fn is_same_above(&self, e: &Emptied, name: &str) -> bool {
        if self.gone().any(|(_, _, gone)| gone == name) || self.base.old.is_none() {
            return true;
        }
        let base = Ancestor { source: self.base.f.new.clone(), node: self.base.new };
        let mut below = ancestry::of(self.after, &e.f.new, e.new);
        below.truncate(below.iter().position(|c| c.is(&base.source, base.node)).unwrap_or(below.len()));
        ancestry::hands_down(self.after, &below, &base, name)
    }

    /// A bare name is what the base declares, or has from above.
    fn is_inherited(&self, s: &Source, b: NodeId) -> bool {
        let MemberOf::Class(of) = member_of(self.after, s, b) else { return false };
        let definitions = |s: &Source, name: &str| self.after.definition(s, name);
        let own = s.lang.class_type(&self.base.f.new, self.base.new, &definitions).0;
        own.is_known() && same_class(of, own)
    }

    fn was_inherited(&self, o: &Source, a: NodeId, s: &Source, y: BindingId) -> bool {
        let MemberOf::Class(of) = member_of(self.project, o, a) else { return false };
        let definitions = |s: &Source, name: &str| self.after.definition(s, name);
        let class = s.names.scope(s.names.binding(y).scope).node;
        same_class(of, s.lang.class_type(s, class, &definitions).0)
    }

    /// A member of that name which a class declared is its base's.
    fn went_up(&self, name: &str, was: MemberOf) -> bool {
        let (MemberOf::Class(of) | MemberOf::Likely(of)) = was else { return false };
        self.gone().any(|(e, _, gone)| {
            let definitions = |s: &Source, name: &str| self.project.definition(s, name);
            let own = e.f.old.lang.class_type(&e.f.old, e.old, &definitions).0;
            gone == name && own.is_known() && same_class(of, own)
        })
    }

    fn same_member(&self, x: MemberOf, y: MemberOf) -> bool {
        match (x, y) {
            (MemberOf::Class(a) | MemberOf::Likely(a), MemberOf::Class(b) | MemberOf::Likely(b)) => same_class(a, b),
            _ => false,
        }
    }

    /// Each class finds the members in the base, and nothing above it had them.
    fn found(&self) -> Opinion<()> {
        let s = &self.base.f.new;
        if let Some(old) = self.base.old {
            let o = &self.base.f.old;
            for c in ancestry::of(self.project, o, old) {
                let has = |n: &str| c.has_member(n);
                if let Some((e, n, name)) = self.gone().find(|(_, _, name)| has(name)) {
                    return object(&e.f.old, n, format!("the base had a `{name}` already"));
                }
                let open = bases::of(&c.source, c.node);
                let foreign = |b: &NodeId| {
                    unseen::definition_of(self.project, &c.source, *b).is_none()
                        && !c.source.lang.harmless_bases().contains(&c.source.str(*b))
                };
                if let Some(b) = open.iter().find(|b| foreign(b)) {
                    return object(&c.source, *b, "what this has is not known");
                }
            }
        }
        for (e, n, name) in self.gone() {
            let chain = ancestry::of(self.after, &e.f.new, e.new);
            let at = chain.iter().position(|c| c.is(s, self.base.new));
            // of several that a class extends the base is the first
            let first =
                bases::of(&e.f.new, e.new).first().and_then(|b| unseen::definition_of(self.after, &e.f.new, *b));
            let next = first.is_some_and(|(x, c)| x.path == s.path && c == self.base.new);
            let declares = |c: &Ancestor| declared(&c.source, c.node).iter().any(|d| d.name == name);
            let between = at.map_or(&chain[..1], |i| &chain[..i]);
            if at.is_none() && !next || between.iter().any(declares) {
                return object(&e.f.old, n, format!("`{name}` is not what the class has now"));
            }
            if at.is_some_and(|i| chain[..i].iter().any(|c| bases::of(&c.source, c.node).len() > 1))
                && self.base.old.is_some()
            {
                return object(&e.f.old, n, "the class extends more than one");
            }
        }
        Ok(())
    }

    /// No other class has another member by it.
    fn beside(&self) -> Opinion<()> {
        let s = &self.base.f.new;
        let holds = |o: &Source, c: NodeId| {
            self.emptied.iter().any(|e| e.f.new.path == o.path && e.new == c) || s.path == o.path && c == self.base.new
        };
        let mut words: Vec<&str> = vec![&self.base.name];
        words
            .extend(self.emptied.iter().filter_map(|e| e.f.new.tree.child(e.new, Field::Name).map(|n| e.f.new.str(n))));
        for word in words {
            for c in with_word(self.after, word, s.lang).iter() {
                if c.source.tree.role(c.node) != Role::Class {
                    continue;
                }
                let bases = bases::of(&c.source, c.node);
                let reaches = |b: &&NodeId| {
                    let found = unseen::definition_of(self.after, &c.source, **b);
                    found.is_some_and(|d| bases::with_bases(self.after, d).iter().any(|(o, n)| holds(o, *n)))
                };
                if bases.len() > 1 && !holds(&c.source, c.node) && bases.iter().filter(reaches).count() > 1 {
                    return object(&c.source, c.node, "this class finds the members by two ways");
                }
                let below =
                    ancestry::of(self.after, &c.source, c.node).iter().skip(1).any(|a| holds(&a.source, a.node));
                if holds(&c.source, c.node) || !below || !s.lang.needs_types() {
                    continue;
                }
                for d in declared(&c.source, c.node) {
                    let Some((e, n, _)) = self.gone().find(|(_, _, name)| *name == d.name) else { continue };
                    if e.f.old.lang.hides_member(&e.f.old, n) || !same_head(&e.f.old, n, &c.source, d.nodes[0]) {
                        return object(&c.source, d.nodes[0], format!("`{}` is another one here", d.name));
                    }
                }
            }
        }
        Ok(())
    }

    /// What looks at classes otherwise is told; the new names were free; files load each other in no circle.
    fn unseen(&self, files: &[File]) -> Opinion<()> {
        let lang = self.base.f.new.lang;
        let asking: &[&str] = if self.base.old.is_none() { self.of.asking_words() } else { &[] };
        for word in self.of.own_listing_words().iter().chain(asking) {
            let all = crate::index::with_word(self.project, word, lang);
            let says = |s: &Source| {
                let t = &s.tree;
                let of_object = |n: NodeId| {
                    t.parent(n).and_then(|m| t.child(m, Field::Object)).is_some_and(|o| s.lang.is_receiver(s.str(o)))
                };
                t.ids().find(|n| t.is_leaf(*n) && s.str(*n) == *word && !of_object(*n))
            };
            let found: Vec<_> = all.filter_map(|(_, s)| Some((says(&s)?, s))).take(unseen::MOST_PLACES).collect();
            if let Some((n, s)) = found.into_iter().find(|(_, s)| {
                !self.change.result.reasons.iter().any(|r| r.code == Code::LookedUp)
                    && !self.told(Code::LookedUp, &s.path)
            }) {
                return object(&s, n, "this goes through what classes declare");
            }
        }
        if self.base.old.is_some() {
            for (_, _, name) in self.gone() {
                for (_, s) in crate::index::with_word(self.project, name, lang) {
                    let asks = |n: &NodeId| s.tree.role(*n) == Role::Literal && looked_up(&s, *n, name).is_some();
                    if let Some(n) = s.tree.ids().find(asks).filter(|_| !self.told(Code::LookedUp, &s.path)) {
                        return object(&s, n, format!("this asks for `{name}`"));
                    }
                }
            }
        } else {
            for f in files.iter().filter(|f| !self.project.index(&f.old.path).is_some_and(|i| self.project.is_new(i))) {
                let o = &f.old;
                let word =
                    |n: &NodeId| o.tree.is_leaf(*n) && o.tree.role(*n) != Role::Literal && o.str(*n) == self.base.name;
                if let Some(n) = o.tree.ids().find(word) {
                    return object(o, n, "this is the name of the new class already");
                }
                if classes(&f.new)
                    .iter()
                    .filter(|c| f.new.tree.child(**c, Field::Name).is_some_and(|n| f.new.str(n) == self.base.name))
                    .count()
                    > 1
                {
                    return object(&f.new, crate::tree::Tree::ROOT, "two classes have the new name");
                }
            }
        }
        let home = self.after.index(&self.base.f.new.path);
        for e in self.emptied.iter().filter(|_| lang.imports_load()) {
            let Some((file, home)) = self.after.index(&e.f.new.path).zip(home) else { continue };
            if file != home && self.after.modules().reaches(home, file) && !self.project.modules().reaches(home, file) {
                return object(&e.f.new, e.new, "its base's file would load this one");
            }
        }
        Ok(())
    }
}

fn member_of(p: &Project, s: &Source, n: NodeId) -> MemberOf {
    let definitions = |s: &Source, name: &str| p.definition(s, name);
    s.lang.member_of(s, n, &definitions)
}

/// Two methods are declared by the same words, but for annotations.
fn same_head(a: &Source, x: NodeId, b: &Source, y: NodeId) -> bool {
    let head = |s: &Source, n: NodeId| {
        let t = &s.tree;
        let own = t.definition_in(n);
        let body = t.child(own, Field::Body);
        let word = |x: &NodeId| {
            t.is_leaf(*x) && !body.is_some_and(|b| t.contains(b, *x)) && t.ancestor(*x, &[Role::Decorator]).is_none()
        };
        t.subtree(own).filter(word).map(|x| s.str(x).to_string()).collect::<Vec<_>>()
    };
    is_function(a, x) && is_function(b, y) && head(a, x) == head(b, y)
}
