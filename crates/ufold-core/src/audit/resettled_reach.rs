//! Who sees what when a class comes to another package: the class sees all that it names, all that use it see what they
//! name of it, and no other overload, override or hidden name comes of it.

use super::rehomed_code::{given, takes};
use super::resettled_names::{Compared, class_named, member_of, path_of};
use super::{Opinion, object};
use crate::index::Project;
use crate::index::class_members::{body, declared_words, name_of};
use crate::index::class_tree::{self, Class, declarations};
use crate::index::unseen;
use crate::lang::{Bases, MemberOf};
use crate::names::{Names, Source};
use crate::tree::{Field, NodeId, Role, Tree};
use crate::types::Ty;

pub(super) fn check(c: &Compared) -> Opinion<()> {
    let x = c.x;
    for (a, b) in &x.opened {
        only_opens(c, *a, *b)?;
    }
    if x.same_path() {
        return Ok(());
    }
    let s = &x.to.s;
    let Some(of) = s.lang.bases() else { return object(s, x.new, "the language has no classes for this") };
    let w = Watch { c, s, of };
    let words = s.tree.subtree(x.new).filter(|n| is_word(s, *n)).collect::<Vec<_>>();
    words.into_iter().try_for_each(|n| w.named(s, n))?;
    x.opened_there.iter().try_for_each(|(a, b)| w.opened_for_it(*a, *b))?;
    let classes: Vec<NodeId> = s.tree.subtree(x.new).filter(|n| s.tree.role(*n) == Role::Class).collect();
    for class in classes {
        if !x.near() {
            w.family(class)?;
        }
        for d in body(&s.tree, class) {
            declared_words(s, d).into_iter().try_for_each(|word| w.used(class, d, word))?;
        }
    }
    w.class_itself()
}

fn is_word(s: &Source, n: NodeId) -> bool {
    s.tree.is_leaf(n) && matches!(s.tree.role(n), Role::Name | Role::MemberName)
}

/// A declaration may be named by more code now, and by no less.
fn only_opens(c: &Compared, a: NodeId, b: NodeId) -> Opinion<()> {
    let (o, s) = (&c.x.from.o, &c.x.to.s);
    let rank =
        |s: &Source, d: NodeId| match (s.lang.is_open(s, d), s.lang.is_open_below(s, d), s.lang.hides_member(s, d)) {
            (true, ..) => 3,
            (_, true, _) => 2,
            (_, _, false) => 1,
            _ => 0,
        };
    let (was, is) = (rank(o, a), rank(s, b));
    let inner = !c.x.outer.is_empty();
    // a class of a file's own is never private, nor for those below
    if a == c.x.old && inner && is >= 1 {
        return Ok(());
    }
    match was == 0 && !inner || is <= was || c.x.near() && (!inner || is > 1) {
        true => object(o, a, "who may name this changed without need"),
        false => Ok(()),
    }
}

struct Watch<'a, 'f> {
    c: &'a Compared<'a, 'f>,
    /// The new file.
    s: &'a Source,
    of: &'static dyn Bases,
}

impl Watch<'_, '_> {
    fn after(&self) -> &Project<'_> {
        self.c.after
    }

    fn holds(&self, s: &Source, n: NodeId) -> bool {
        s.path == self.s.path && s.tree.contains(self.c.x.new, n)
    }

    fn is_of(&self, s: &Source, package: usize) -> bool {
        s.lang.said_package(s) == self.c.x.packages[package]
    }

    /// The declaration is seen from a place, by the rules for other packages where it is in another one.
    fn sees(&self, (h, d): (&Source, NodeId), (s, n): (&Source, NodeId), of: Ty) -> bool {
        if h.lang.said_package(h) == s.lang.said_package(s) {
            let top = |s: &Source, n: NodeId| s.tree.ancestors(n).filter(|a| s.tree.role(*a) == Role::Class).last();
            return !h.lang.hides_member(h, d) || h.path == s.path && top(h, d) == top(s, n);
        }
        let below = || self.asks_own(s, n) && self.is_below(s, n, of);
        let around = h.tree.ancestors(d).filter(|a| h.tree.role(*a) == Role::Class);
        std::iter::once(d).chain(around).all(|x| h.lang.is_open(h, x) || h.lang.is_open_below(h, x) && below())
    }

    fn asks_own(&self, s: &Source, n: NodeId) -> bool {
        let t = &s.tree;
        let member = t.parent(n).filter(|p| t.role(*p) == Role::Member && t.child(*p, Field::Member) == Some(n));
        let object = member.and_then(|m| t.child(m, Field::Object));
        object.is_none_or(|o| s.lang.needs_class(s.str(o)) || Some(s.str(o)) == s.lang.object_word())
    }

    /// A class around the place extends another one.
    fn is_below(&self, s: &Source, n: NodeId, of: Ty) -> bool {
        let Some(of) = path_of(of) else { return false };
        let definitions = |s: &Source, name: &str| self.after().definition(s, name);
        let around: Vec<NodeId> = s.tree.ancestors(n).filter(|a| s.tree.role(*a) == Role::Class).collect();
        around.into_iter().any(|c| self.all_above(s.lang.class_type(s, c, &definitions).1).contains(&of))
    }

    /// Paths of the classes above, those above them too.
    fn all_above(&self, mut todo: Vec<Ty>) -> Vec<String> {
        let mut out: Vec<String> = Vec::new();
        while let Some(ty) = todo.pop() {
            let Some(path) = path_of(ty).filter(|p| !out.contains(p)) else { continue };
            let word = path.rsplit('.').next().unwrap_or("").to_string();
            out.push(path);
            let classes = class_tree::with_word(self.after(), &word, self.s.lang);
            todo.extend(class_tree::of_type(&classes, ty).into_iter().flat_map(|c| c.above.iter().copied()));
        }
        out
    }

    /// What the moved class names is seen from where it is, and nothing else of that name came or went with the package.
    fn named(&self, s: &Source, n: NodeId) -> Opinion<()> {
        let local = s.names.at(n).and_then(|r| r.target).map(|b| (b, s.names.binding(b)));
        if local.is_some_and(|(b, x)| x.scope != Names::MODULE && !s.names.is_member(b)) {
            return Ok(());
        }
        let word = s.str(n);
        let hidden = || object(s, n, format!("`{word}` is not seen in the new package"));
        let classes = class_tree::with_word(self.after(), word, s.lang);
        self.class_named(s, n, &classes)?;
        match member_of(self.after(), s, n) {
            MemberOf::Class(c) if !self.c.moved(c, true) => {
                let Some(home) = class_tree::of_type(&classes, c) else {
                    return if path_of(c).is_some() { hidden() } else { Ok(()) };
                };
                let above = class_tree::above(&classes, home);
                for r in above.into_iter().filter(|r| !self.holds(&r.source, r.node)) {
                    let all = declarations(&r.source, r.node, word);
                    let seen = |d: &NodeId| {
                        let other = r.source.lang.hides_member(&r.source, *d) || !takes(&r.source, *d, given(s, n));
                        other || self.sees_as_before(r, *d, n)
                    };
                    if !all.iter().all(seen) {
                        return hidden();
                    }
                }
                // what was private to the class around both is not any more
                let h = &home.source;
                let private = |d: &NodeId| takes(h, *d, given(s, n)) && h.lang.hides_member(h, *d);
                let own = h.path == self.c.x.from.s.path && !self.holds(h, home.node);
                match declarations(h, home.node, word).iter().find(|d| own && private(d)) {
                    Some(_) => hidden(),
                    None => Ok(()),
                }
            }
            MemberOf::Unknown | MemberOf::Likely(_) => {
                let near = self.c.x.near();
                let kept = |c: &Class| {
                    let h = &c.source;
                    let own = !near && (self.is_of(h, 0) || self.is_of(h, 1));
                    let around = !self.c.x.outer.is_empty() && h.path == self.c.x.from.s.path;
                    let lost =
                        |d: &NodeId| if h.lang.hides_member(h, *d) { around } else { own && !self.is_free(h, *d) };
                    !self.holds(h, c.node) && declarations(h, c.node, word).iter().any(lost)
                };
                if classes.iter().any(kept) { hidden() } else { Ok(()) }
            }
            _ => Ok(()),
        }
    }

    /// A class that the moved one names, and its constructors where it is made.
    fn class_named(&self, s: &Source, n: NodeId, classes: &[Class]) -> Opinion<()> {
        let hidden = || object(s, n, format!("`{}` is not seen in the new package", s.str(n)));
        if let MemberOf::Class(c) | MemberOf::Likely(c) = class_named(self.after(), s, n)
            && let Some(home) = class_tree::of_type(classes, c)
            && !self.holds(&home.source, home.node)
        {
            let h = &home.source;
            let made = class_tree::is_made(s, n);
            let makers: Vec<NodeId> = body(&h.tree, home.node)
                .into_iter()
                .filter(|f| made && h.tree.role(*f) == Role::Function && self.of.is_constructor(h, *f))
                .filter(|f| !h.lang.hides_member(h, *f) && takes(h, *f, given(s, n)))
                .collect();
            // one that is protected is called by those below only as theirs
            let private = |f: &NodeId| self.of.is_constructor(h, *f) && h.lang.hides_member(h, *f);
            let all = body(&h.tree, home.node).into_iter().filter(|f| h.tree.role(*f) == Role::Function);
            let mut kept = all.filter(|f| made && private(f) && takes(h, *f, given(s, n)));
            if h.path == self.c.x.from.s.path && kept.next().is_some() {
                return hidden();
            }
            let fits = |f: &NodeId| {
                if self.c.x.near() {
                    return self.sees((h, *f), (s, n), c);
                }
                let below = self.extends_here(s, n) && h.lang.is_open_below(h, *f);
                below || h.lang.is_open(h, *f) || !self.is_of(h, 0) && !self.is_of(h, 1)
            };
            if !self.sees((h, home.node), (s, n), c) || !makers.iter().all(fits) {
                return hidden();
            }
        }
        Ok(())
    }

    fn is_free(&self, s: &Source, d: NodeId) -> bool {
        class_tree::is_open_to_all(s, d) || s.lang.hides_member(s, d)
    }

    /// Open in any package, or to those below; what the new package alone would show is not.
    fn sees_as_before(&self, r: &Class, d: NodeId, n: NodeId) -> bool {
        let s = &r.source;
        match !self.c.x.near() && (self.is_of(s, 0) || self.is_of(s, 1)) {
            true => {
                class_tree::is_open_to_all(s, d)
                    || s.lang.is_open_below(s, d) && self.asks_own(self.s, n) && self.is_below(self.s, n, r.ty)
            }
            false => true,
        }
    }

    fn extends_here(&self, s: &Source, n: NodeId) -> bool {
        let t = &s.tree;
        let call = t.ancestors(n).find(|a| t.child(*a, Field::Callee).is_some_and(|c| t.contains(c, n)));
        call.is_some_and(|c| t.children(c).any(|x| t.role(x) == Role::Class))
    }

    /// What stays was private, is its package's now, is named by the class, and no class related to its own has the word.
    fn opened_for_it(&self, a: NodeId, b: NodeId) -> Opinion<()> {
        let (o, h) = (&self.c.x.from.o, &self.c.x.from.s);
        let least = o.lang.hides_member(o, a) && !h.lang.hides_member(h, b) && !h.lang.is_open_below(h, b);
        let word = name_of(h, b).or_else(|| h.tree.child(b, Field::Name));
        let Some(name) = word.map(|w| h.str(w)).filter(|_| least && self.c.x.near()) else {
            return object(o, a, "who may name this changed without need");
        };
        let s = self.s;
        if !s.tree.subtree(self.c.x.new).any(|n| is_word(s, n) && s.str(n) == name) {
            return object(o, a, "the class does not name this");
        }
        let class = h.tree.ancestor(b, &[Role::Class]);
        let makes = h.tree.role(b) == Role::Function && self.of.is_constructor(h, b);
        if class.is_some_and(|c| declarations(h, c, name).len() > 1) {
            return object(o, a, "another one of the name could be called then");
        }
        let classes = class_tree::with_word(self.after(), name, s.lang);
        let home = classes.iter().find(|c| c.source.path == h.path && Some(c.node) == class);
        for c in home.map_or(Vec::new(), |x| class_tree::around(&classes, x)).into_iter().filter(|_| !makes) {
            let own = c.source.path == h.path && Some(c.node) == class || self.holds(&c.source, c.node);
            let t = &c.source.tree;
            let says = |n: &NodeId| t.is_leaf(*n) && t.role(*n) != Role::Literal && c.source.str(*n) == name;
            if let Some(n) = t.subtree(c.node).find(says).filter(|_| !own) {
                return object(&c.source, n, "a related class has the word, too");
            }
        }
        Ok(())
    }

    fn relatives(&self, class: NodeId) -> Vec<Class> {
        let definitions = |s: &Source, name: &str| self.after().definition(s, name);
        let (ty, above) = self.s.lang.class_type(self.s, class, &definitions);
        let word = self.s.tree.child(class, Field::Name).map(|n| self.s.str(n).to_string());
        let bases = above.iter().filter_map(|a| path_of(*a)?.rsplit('.').next().map(str::to_string));
        let mut out: Vec<Class> = Vec::new();
        for w in word.into_iter().chain(bases).collect::<Vec<_>>() {
            let classes = class_tree::with_word(self.after(), &w, self.s.lang);
            let of = |c: &&Class| c.source.path == self.s.path && c.node == class;
            let known = classes.iter().find(of).cloned();
            let source = classes.iter().find(|c| c.source.path == self.s.path).map(|c| c.source.clone());
            let made = || source.map(|source| Class { source, node: class, ty, above: above.clone() });
            let Some(home) = known.or_else(made) else { continue };
            for c in class_tree::around(&classes, &home) {
                let known = out.iter().any(|o| o.source.path == c.source.path && o.node == c.node);
                if !known && !self.holds(&c.source, c.node) {
                    out.push(c.clone());
                }
            }
        }
        out
    }

    /// What related classes keep for their package is no word of the class, nor the other way round.
    fn family(&self, class: NodeId) -> Opinion<()> {
        let (s, t) = (self.s, &self.s.tree);
        let definitions = |s: &Source, name: &str| self.after().definition(s, name);
        let above = self.all_above(s.lang.class_type(s, class, &definitions).1);
        for r in self.relatives(class) {
            let h = &r.source;
            if !self.is_of(h, 0) && !self.is_of(h, 1) {
                continue;
            }
            if let Some(why) = self.of.is_of_its_package(h, r.node) {
                return object(h, r.node, why);
            }
            for d in body(&h.tree, r.node) {
                let kept = !h.lang.is_open_below(h, d) && !h.lang.hides_member(h, d);
                let makes = h.tree.role(d) == Role::Function && self.of.is_constructor(h, d);
                if makes && kept && self.is_of(h, 0) && path_of(r.ty).is_some_and(|p| above.contains(&p)) {
                    return object(s, class, "the constructor above is not seen in the new package");
                }
                let words = if kept && !makes { declared_words(h, d) } else { continue };
                let named = |n: NodeId| words.iter().any(|w| s.str(n) == h.str(*w));
                let says = |n: &NodeId| t.is_leaf(*n) && t.role(*n) != Role::Literal && named(*n);
                if let Some(n) = t.subtree(class).find(says) {
                    return object(s, n, "a related class keeps this word for its package");
                }
            }
        }
        Ok(())
    }

    /// All who use a member of the class see it where it is.
    fn used(&self, class: NodeId, d: NodeId, word: NodeId) -> Opinion<()> {
        let s = self.s;
        let name = s.str(word);
        let makes = s.tree.role(d) == Role::Function && self.of.is_constructor(s, d);
        let is_type = s.tree.role(d) == Role::Class;
        let was = self.c.x.opened.iter().find(|(_, b)| *b == d).map(|(a, _)| *a);
        let around = |d: NodeId| s.tree.ancestors(d).filter(|c| s.tree.role(*c) == Role::Class);
        let open = s.lang.is_open(s, d) && around(d).all(|c| s.lang.is_open(s, c));
        let kept = was.is_some() || !open && (!s.lang.hides_member(s, d) || !self.c.x.outer.is_empty());
        if !kept {
            return Ok(());
        }
        let definitions = |s: &Source, name: &str| self.after().definition(s, name);
        let own = s.lang.class_type(s, if is_type { d } else { class }, &definitions).0;
        let own_path = path_of(own);
        for other in unseen::with_name(self.after(), name, s.lang) {
            let t = &other.tree;
            for n in t.ids().filter(|n| is_word(&other, *n) && other.str(*n) == name && !self.holds(&other, *n)) {
                let found = match makes || is_type {
                    true => class_named(self.after(), &other, n),
                    false => member_of(self.after(), &other, n),
                };
                let own_class = |c: Ty| path_of(c) == own_path;
                let private = s.lang.hides_member(s, d);
                let meant = match found {
                    MemberOf::Class(c) => own_class(c),
                    MemberOf::Likely(_) | MemberOf::Unknown if private => other.path == self.c.x.from.s.path,
                    MemberOf::Likely(_) | MemberOf::Unknown => self.is_of(&other, 0),
                    MemberOf::Other => false,
                };
                // what is called is a function, also one of a field's name
                let other_kind = s.tree.role(d) == Role::ClassField && given(&other, n).is_some();
                if !meant || other_kind || makes && !class_tree::is_made(&other, n) {
                    continue;
                }
                if !self.sees((s, d), (&other, n), own) {
                    return object(&other, n, format!("`{name}` is not seen here any more"));
                }
            }
        }
        if s.lang.hides_member(s, d) || was.is_none() && self.c.x.near() {
            return Ok(());
        }
        self.relatives_leave_it(class, d, (name, was.is_some(), makes))?;
        self.by_all_of_its_names(class, d, name)?;
        self.overloads(class, d, name)
    }

    /// No other function of the name, which others see, could be called in the place of this one.
    fn overloads(&self, class: NodeId, d: NodeId, name: &str) -> Opinion<()> {
        let (s, o) = (self.s, &self.c.x.from.o);
        let rank = |s: &Source, d: NodeId| s.lang.is_open(s, d);
        let twin = |x: &NodeId| *x != d && name_of(s, *x).is_some_and(|w| s.str(w) == name) && rank(s, *x);
        let count = |f: NodeId| {
            let list = s.tree.child(f, Field::Parameters);
            list.map(|l| {
                (s.tree.children(l).filter(|c| s.tree.role(*c) != Role::Token).count(), s.str(l).contains("..."))
            })
        };
        let fits = |x: NodeId| match (count(x), count(d)) {
            (Some((a, p)), Some((b, q))) => a == b || p || q,
            _ => false,
        };
        let once_open = |x: &NodeId| {
            let old = self.c.x.opened.iter().find(|(_, b)| b == x).map(|(a, _)| *a);
            old.is_none_or(|a| rank(o, a))
        };
        match body(&s.tree, class).into_iter().filter(|x| twin(x) && fits(*x)).find(once_open) {
            Some(n) => object(s, n, format!("which `{name}` is chosen depends on the package")),
            None => Ok(()),
        }
    }

    /// Nobody in the new package imports all that the class has, and has another thing of the name.
    fn by_all_of_its_names(&self, class: NodeId, d: NodeId, name: &str) -> Opinion<()> {
        let s = self.s;
        if class != self.c.x.new
            || self.c.x.near()
            || s.lang.is_open(s, d) && !self.c.x.opened.iter().any(|(_, b)| *b == d)
        {
            return Ok(());
        }
        for other in unseen::with_name(self.after(), name, s.lang).filter(|o| self.is_of(o, 1)) {
            let t = &other.tree;
            let whole = |n: NodeId| other.lang.imports_of(t, n, &other.text);
            let all = |n: &NodeId| whole(*n).iter().any(|i| i.wildcard && i.module == self.c.x.path(true));
            if let Some(n) = t.children(Tree::ROOT).find(all) {
                return object(&other, n, format!("this brings a `{name}` that it did not"));
            }
        }
        Ok(())
    }

    /// No related class has the word of what the class keeps for its package, or kept, but for uses of it.
    fn relatives_leave_it(&self, class: NodeId, d: NodeId, (name, opened, makes): (&str, bool, bool)) -> Opinion<()> {
        let s = self.s;
        if makes {
            return self.those_below_make_it(class, d);
        }
        let o = &self.c.x.from.o;
        let was = self.c.x.opened.iter().find(|(_, b)| *b == d).is_some_and(|(a, _)| o.lang.is_open_below(o, *a));
        let below = was || !opened && s.lang.is_open_below(s, d);
        let definitions = |s: &Source, name: &str| self.after().definition(s, name);
        let own = path_of(s.lang.class_type(s, class, &definitions).0);
        for r in self.relatives(class) {
            let (h, t) = (&r.source, &r.source.tree);
            if below && (!opened || declarations(h, r.node, name).is_empty()) {
                continue;
            }
            let of = |n: NodeId| match s.tree.role(d) == Role::Class {
                true => class_named(self.after(), h, n),
                false => member_of(self.after(), h, n),
            };
            let uses = |n: NodeId| matches!(of(n), MemberOf::Class(c) if path_of(c) == own || self.c.moved(c, true));
            let says = |n: &NodeId| t.is_leaf(*n) && t.role(*n) != Role::Literal && h.str(*n) == name && !uses(*n);
            if let Some(n) = t.subtree(r.node).find(says) {
                return object(h, n, format!("a related class has a `{name}`, too"));
            }
        }
        Ok(())
    }

    /// Classes below in the old package call a constructor without naming it.
    fn those_below_make_it(&self, class: NodeId, d: NodeId) -> Opinion<()> {
        let s = self.s;
        let definitions = |s: &Source, name: &str| self.after().definition(s, name);
        let own = path_of(s.lang.class_type(s, class, &definitions).0);
        let below = |r: &Class| r.above.iter().any(|a| path_of(*a) == own);
        match self.relatives(class).iter().find(|r| self.is_of(&r.source, 0) && below(r)) {
            Some(r) if !s.lang.is_open_below(s, d) => {
                object(&r.source, r.node, "the constructor above is not seen here")
            }
            _ => Ok(()),
        }
    }

    /// All who name the class see it.
    fn class_itself(&self) -> Opinion<()> {
        let (s, x) = (self.s, self.c.x);
        for other in unseen::with_name(self.after(), x.name(), s.lang) {
            let words = other.tree.ids().filter(|n| is_word(&other, *n) && other.str(*n) == x.name());
            for n in words.filter(|n| !self.holds(&other, *n)) {
                let own = matches!(class_named(self.after(), &other, n),
                    MemberOf::Class(c) | MemberOf::Likely(c) if path_of(c) == Some(x.path(true)));
                if own && !self.is_of(&other, 1) && !s.lang.is_open(s, x.new) {
                    return object(&other, n, "the class is not seen here any more");
                }
            }
        }
        Ok(())
    }
}
