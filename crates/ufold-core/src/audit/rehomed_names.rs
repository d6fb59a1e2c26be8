//! What words mean when static members are another class's: those that meant a member that went mean it by the new class,
//! every other one what it meant; all can be named from where they stand, and what runs when classes are made ready is told.

use std::sync::Arc;

use rustc_hash::FxHashMap;

use super::file::File;
use super::rehomed_code::{Before, Laid, Word, given, sees, takes};
use super::renamed::{each_file, words};
use super::{Objection, Opinion, each, object};
use crate::change::{Change, Code};
use crate::index::class_members::{body, is_function, name_of};
use crate::index::class_tree::{self, declarations, is_ready_at, same_class};
use crate::index::{Entity, Project, constants};
use crate::lang::MemberOf;
use crate::names::{BindingId, Names, Source, Space, Use};
use crate::tree::{Field, NodeId, Role};
use crate::types::Ty;

pub(super) fn check(
    project: &Project,
    change: &Change,
    files: &[File],
    (laid, before): (&Laid, &Before),
) -> Opinion<()> {
    let texts: Vec<Arc<Source>> = files.iter().map(|f| f.new.clone()).collect();
    let nowhere = |message: String| Objection { message, file: before.source.f.old.path.clone(), line: 1 };
    let run = |after: &Project| {
        let o = &before.source.f.old;
        let of =
            |p: &Project, s: &Source, c: NodeId| s.lang.class_type(s, c, &|s: &Source, n: &str| p.definition(s, n)).0;
        let (old, new) = (of(project, o, before.source.old), of(after, &before.home.f.new, before.home.new));
        let map = laid.words.iter().map(|w| ((w.o.path.as_str(), w.a), (w.s.path.as_str(), w.b))).collect();
        let c = Compared { project, after, change, files, before, laid, old, new, map };
        if !old.is_known() || !new.is_known() {
            return object(o, before.source.old, "which classes these are can't be told");
        }
        c.may_go()?;
        each(&laid.words, |w| c.word(w))?;
        laid.opened.iter().try_for_each(|w| c.opened(w))?;
        c.everywhere()?;
        c.beside()?;
        c.made_ready()
    };
    project.with_texts(&texts, run).map_err(nowhere)?
}

/// The class that a path which begins with a word leads to, where the word is none itself.
fn path_to_class(p: &Project, s: &Source, n: NodeId) -> Option<Ty> {
    let t = &s.tree;
    let mut at = n;
    while let Some(parent) = t.parent(at).filter(|x| t.child(*x, Field::Object) == Some(at)) {
        let word = t.child(parent, Field::Member)?;
        if let MemberOf::Class(c) = class_named(p, s, word) {
            return Some(c);
        }
        at = parent;
    }
    None
}

/// The member of a class that has no name.
fn nameless(s: &Source, n: NodeId) -> Option<BindingId> {
    let b = s.names.at(n)?.target.filter(|b| s.names.is_member(*b))?;
    let class = s.names.scope(s.names.binding(b).scope).node;
    s.tree.child(class, Field::Name).is_none().then_some(b)
}

type At<'f> = (&'f str, NodeId);

struct Compared<'a, 'f> {
    project: &'a Project<'a>,
    after: &'a Project<'a>,
    change: &'a Change<'a>,
    files: &'a [File],
    before: &'a Before<'f>,
    laid: &'a Laid<'f>,
    old: Ty,
    new: Ty,
    map: FxHashMap<At<'a>, At<'a>>,
}

fn member_of(p: &Project, s: &Source, n: NodeId) -> MemberOf {
    s.lang.member_of(s, n, &|s: &Source, name: &str| p.definition(s, name))
}

fn class_named(p: &Project, s: &Source, n: NodeId) -> MemberOf {
    s.lang.class_named(s, n, &|s: &Source, name: &str| p.definition(s, name))
}

/// The last word of a path.
fn last(s: &Source, path: NodeId) -> NodeId {
    std::iter::successors(Some(path), |o| s.tree.child(*o, Field::Member)).last().unwrap_or(path)
}

impl Compared<'_, '_> {
    fn told(&self, code: Code, file: &str) -> bool {
        self.change.result.reasons.iter().any(|r| r.code == code && r.file == file)
    }

    fn gone_name(&self, name: &str) -> bool {
        let o = &self.before.source.f.old;
        self.before.gone.iter().any(|n| name_of(o, *n).is_some_and(|w| o.str(w) == name))
    }

    /// The members need no object, are not their own class's alone, and have the same value whenever that is made.
    fn may_go(&self) -> Opinion<()> {
        let b = self.before;
        let (o, s) = (&b.source.f.old, &b.home.f.new);
        let t = &o.tree;
        let Some(of) = o.lang.bases() else { return object(o, b.source.old, "the language has no classes for this") };
        for (x, c) in [(o, b.source.old), (s, b.home.new)] {
            if let Some(why) = of.keeps_to_itself(x, c) {
                return object(x, c, why);
            }
        }
        if o.lang.mode(o, b.source.old) != s.lang.mode(s, b.home.new) {
            return object(o, b.source.old, "the other class is read in another mode");
        }
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        let private = b.gone.iter().all(|n| o.lang.hides_member(o, *n));
        let told = self.change.result.reasons.iter().any(|r| r.code == Code::StoredObjects);
        if !private && !told && o.lang.is_stored_by_members(o, b.source.old, &definitions) {
            return object(o, b.source.old, "what is stored of its objects depends on what the class has");
        }
        for n in &b.gone {
            if !of.is_of_class(o, *n) || t.role(*n) == Role::Class {
                return object(o, *n, "this is no static function or field");
            }
            if of.stays(o, *n).is_some() || o.lang.does_more(o, *n) {
                return object(o, *n, "this may mean something in its own class only");
            }
            let word = |x: &NodeId| {
                let own = o.lang.needs_class(o.str(*x)) || Some(o.str(*x)) == o.lang.object_word();
                t.is_leaf(*x) && t.role(*x) != Role::Literal && own
            };
            if let Some(x) = t.subtree(*n).filter(word).find(|x| t.ancestor(*x, &[Role::Class]) == Some(b.source.old)) {
                return object(o, x, "this means its own class");
            }
            if is_function(o, *n) {
                continue;
            }
            if o.lang.acts_when_made(o, *n, &definitions) {
                return object(o, *n, "making this value may be seen");
            }
            let name = name_of(o, *n).map_or("", |w| o.str(w));
            for x in t.subtree(b.source.old).filter(|x| t.is_leaf(*x) && o.str(*x) == name) {
                let gone = b.gone.iter().any(|g| t.contains(*g, x));
                let around = body(t, b.source.old).into_iter().find(|d| t.contains(*d, x));
                let own = t.ancestor(x, &[Role::Class]) == Some(b.source.old);
                let shared = own && around.is_some_and(|d| of.is_of_class(o, d));
                let when_made = t.callable_around(x).is_none() && !gone && shared;
                let block = t.ancestors(x).take_while(|a| *a != b.source.old).any(|a| t.role(a) == Role::Block);
                let written = o.names.at(x).is_some_and(|r| r.usage != Use::Read);
                if when_made && (block || written) {
                    return object(o, x, "its class gives this a value when it is made ready");
                }
            }
        }
        Ok(())
    }

    /// A word means what it meant, and can be named where it stands.
    fn word(&self, w: &Word) -> Opinion<()> {
        let (o, s) = (w.o, w.s);
        if !matches!(o.tree.role(w.a), Role::Name | Role::MemberName | Role::FrameName) && o.names.at(w.a).is_none() {
            return Ok(());
        }
        // what is declared without a value is no use of its name
        let declared = |s: &Source, n: NodeId| s.tree.role(n) == Role::Name && s.names.at(n).is_none();
        if declared(o, w.a) && declared(s, w.b) {
            return Ok(());
        }
        let wrong = || object(o, w.a, format!("`{}` would mean something else", o.str(w.a)));
        if !self.same_objects(w) || !self.means_the_same(w) {
            return wrong();
        }
        if w.moved || w.objects.0.is_some() || w.objects.1.is_some() || self.gone_name(s.str(w.b)) {
            self.can_be_named(s, w.b)?;
        }
        Ok(())
    }

    /// What stands before a dot is the same, or names the class of the member by which it is found.
    fn same_objects(&self, w: &Word) -> bool {
        let (o, s) = (w.o, w.s);
        let class = |p: &Project, s: &Source, n: NodeId| {
            let leaf = last(s, n);
            let value = s.names.at(n).and_then(|r| r.target).map(|b| s.names.binding(b));
            let value = value.is_some_and(|b| b.space != Space::Types && b.import.is_none());
            match class_named(p, s, leaf) {
                MemberOf::Class(c) if !value && s.tree.is_leaf(leaf) => Some(c),
                MemberOf::Likely(c) if !value && self.told(Code::InheritedName, &s.path) => Some(c),
                _ => None,
            }
        };
        let (x, y) = w.objects;
        if x.is_none() && y.is_none() {
            return true;
        }
        if x.is_some_and(|x| class(self.project, o, x).is_none()) {
            return false;
        }
        let Some(y) = y else { return true };
        // it is named by the very class that declares it
        let of = match member_of(self.after, s, w.b) {
            MemberOf::Class(c) => Some(c),
            _ => match class_named(self.after, s, w.b) {
                MemberOf::Class(_) => return class(self.after, s, y).is_some(),
                _ => None,
            },
        };
        of.zip(class(self.after, s, y)).is_some_and(|(a, b)| same_class(a, b))
    }

    fn means_the_same(&self, w: &Word) -> bool {
        let (o, s) = (w.o, w.s);
        // that it is of no class that is left behind is asked by itself
        if Some(o.str(w.a)) == o.lang.object_word() {
            return true;
        }
        let usage = |s: &Source, n: NodeId| s.names.at(n).map(|r| r.usage);
        let inner = |s: &Source, n: NodeId| {
            let b = s.names.at(n)?.target?;
            (s.names.binding(b).scope != Names::MODULE && !s.names.is_member(b)).then_some(b)
        };
        if let (Some(x), Some(y)) = (usage(o, w.a), usage(s, w.b))
            && x != y
        {
            return false;
        }
        match (inner(o, w.a), inner(s, w.b)) {
            (Some(x), Some(y)) => return self.same_local((w, x, y)),
            (None, None) => {}
            _ => return false,
        }
        if let (Some(x), Some(y)) = (self.within(o, w.a, false), self.within(s, w.b, true)) {
            return self.same_local((w, x, y));
        }
        if let (Some(x), Some(y)) = (nameless(o, w.a), nameless(s, w.b)) {
            return self.same_local((w, x, y));
        }
        if o.str(w.a) != s.str(w.b) {
            return self.hands_on_what_went(w);
        }
        let (x, y) = (member_of(self.project, o, w.a), member_of(self.after, s, w.b));
        match (x, y) {
            (MemberOf::Class(a), MemberOf::Class(b)) => {
                let gone = same_class(a, self.old) && self.gone_name(o.str(w.a));
                return if gone { same_class(b, self.new) } else { same_class(a, b) || self.moved_along(a, b) };
            }
            (MemberOf::Other, MemberOf::Other) => {}
            // of what an object has that no class of the project declares
            (MemberOf::Other | MemberOf::Unknown, MemberOf::Other | MemberOf::Unknown)
                if o.tree.role(w.a) == Role::MemberName => {}
            (MemberOf::Unknown | MemberOf::Likely(_), MemberOf::Unknown | MemberOf::Likely(_)) => {
                let free = o.tree.role(w.a) == Role::MemberName || !w.moved;
                return free || self.told(Code::NeedsClass, &o.path);
            }
            _ => return false,
        }
        match (class_named(self.project, o, w.a), class_named(self.after, s, w.b)) {
            (MemberOf::Class(a) | MemberOf::Likely(a), MemberOf::Class(b) | MemberOf::Likely(b)) => {
                return same_class(a, b) || self.moved_along(a, b);
            }
            (MemberOf::Other | MemberOf::Unknown, MemberOf::Other | MemberOf::Unknown) => {}
            _ => return false,
        }
        o.tree.role(w.a) == Role::MemberName || self.same_outside_classes(w)
    }

    /// The class before the word of a function that is handed on.
    fn hands_on_what_went(&self, w: &Word) -> bool {
        let (o, s) = (w.o, w.s);
        let next = |p: &Project, s: &Source, n: NodeId| {
            let t = &s.tree;
            let word = t.parent(n).and_then(|p| t.children(p).find(|c| t.role(*c) == Role::MemberName));
            word.map_or(MemberOf::Unknown, |x| member_of(p, s, x))
        };
        let classes = (class_named(self.project, o, w.a), class_named(self.after, s, w.b));
        let (MemberOf::Class(_), MemberOf::Class(of)) = classes else { return false };
        let went = matches!(next(self.project, o, w.a), MemberOf::Class(c) if same_class(c, self.old));
        let is = matches!(next(self.after, s, w.b), MemberOf::Class(c) if same_class(c, self.new));
        went && is && same_class(of, self.new)
    }

    /// A bare word that is neither a member nor a class of the project: a package, or what its file says of it.
    fn same_outside_classes(&self, w: &Word) -> bool {
        let (o, s) = (w.o, w.s);
        if let (Some(x), Some(y)) = (path_to_class(self.project, o, w.a), path_to_class(self.after, s, w.b)) {
            return same_class(x, y);
        }
        let packaged = |s: &Source, n: NodeId| {
            let path =
                s.tree.ancestors(n).take_while(|a| s.str(*a).starts_with(s.str(n))).last().map_or("", |p| s.str(p));
            let standard = path.match_indices('.').any(|(i, _)| s.lang.is_standard_module(&path[..i]));
            standard && s.names.at(n).is_none_or(|r| r.target.is_none())
        };
        if packaged(o, w.a) && packaged(s, w.b) {
            return true;
        }
        let entity = |p: &Project, s: &Source, n: NodeId| p.origin(&p.entity(s, s.str(n)));
        let (x, y) = (entity(self.project, o, w.a), entity(self.after, s, w.b));
        let unknown = |e: &Entity| matches!(e, Entity::Unknown(..));
        let builtin = o.lang.is_builtin(o.str(w.a)) && unknown(&x) && unknown(&y);
        builtin
            || x == y && (!w.moved || o.path == s.path || !unknown(&x))
            || unknown(&x) && unknown(&y) && o.path == s.path
    }

    /// The member of a class that stands in the moved code itself.
    fn within(&self, s: &Source, n: NodeId, new: bool) -> Option<BindingId> {
        let b = s.names.at(n)?.target.filter(|b| s.names.is_member(*b))?;
        let class = s.names.scope(s.names.binding(b).scope).node;
        self.holds(s, class, new).then_some(b)
    }

    /// A node of the members that went, or of those that came.
    fn holds(&self, s: &Source, n: NodeId, new: bool) -> bool {
        let (path, all) = match new {
            true => (&self.before.home.f.new.path, &self.before.added),
            false => (&self.before.source.f.old.path, &self.before.gone),
        };
        s.path == *path && all.iter().any(|g| s.tree.contains(*g, n))
    }

    /// Two types are one class of the moved code, before and after.
    fn moved_along(&self, was: Ty, is: Ty) -> bool {
        let (o, s) = (&self.before.source.f.old, &self.before.home.f.new);
        let of = |p: &Project, s: &Source, ty: Ty, new: bool| {
            let definitions = |s: &Source, name: &str| p.definition(s, name);
            let classes = s.tree.ids().filter(|n| s.tree.role(*n) == Role::Class && self.holds(s, *n, new));
            let mut named = classes.filter_map(|c| s.tree.child(c, Field::Name).map(|n| (c, n)));
            named.find(|(c, _)| same_class(s.lang.class_type(s, *c, &definitions).0, ty)).map(|(_, n)| n)
        };
        let (x, y) = (of(self.project, o, was, false), of(self.after, s, is, true));
        x.zip(y).is_some_and(|(x, y)| self.map.get(&(o.path.as_str(), x)) == Some(&(s.path.as_str(), y)))
    }

    fn same_local(&self, (w, x, y): (&Word, BindingId, BindingId)) -> bool {
        let (a, b) = (w.o.names.binding(x), w.s.names.binding(y));
        let there = self.map.get(&(w.o.path.as_str(), a.first));
        a.name == b.name && a.kind == b.kind && there == Some(&(w.s.path.as_str(), b.first))
    }

    /// The declarations of what a word names are open to where it stands.
    fn can_be_named(&self, s: &Source, n: NodeId) -> Opinion<()> {
        let hidden = || object(s, n, format!("`{}` can't be named from here", s.str(n)));
        if nameless(s, n).is_some() {
            return Ok(());
        }
        if let MemberOf::Class(c) = member_of(self.after, s, n) {
            let classes = class_tree::with_word(self.after, s.str(n), s.lang);
            let Some(home) = class_tree::of_type(&classes, c) else { return hidden() };
            let h = &home.source;
            let mut all = declarations(h, home.node, s.str(n));
            // one that takes other values is not meant
            all.retain(|d| takes(h, *d, given(s, n)));
            let seen = all.iter().all(|d| sees(h, *d, s, n));
            return if seen && !all.is_empty() { Ok(()) } else { hidden() };
        }
        if let MemberOf::Class(c) = class_named(self.after, s, n) {
            let classes = class_tree::with_word(self.after, s.str(n), s.lang);
            let Some(home) = class_tree::of_type(&classes, c) else { return hidden() };
            let (h, made) = (&home.source, class_tree::is_made(s, n));
            let constructors = body(&h.tree, home.node)
                .into_iter()
                .filter(|f| made && h.lang.bases().is_some_and(|of| of.is_constructor(h, *f)));
            let mut all = constructors.chain([home.node]);
            return if all.all(|d| sees(h, d, s, n)) { Ok(()) } else { hidden() };
        }
        let given = s.tree.role(n) == Role::MemberName
            && s.lang.may_inherit(
                &self.before.source.f.old,
                self.before.source.old,
                s.str(n),
                &|s: &Source, x: &str| self.project.definition(s, x),
            );
        if given { hidden() } else { Ok(()) }
    }

    /// Who may name a declaration changed: of one that went, or of one that it names, and only for more code.
    fn opened(&self, w: &Word) -> Opinion<()> {
        let (o, s) = (w.o, w.s);
        if o.lang.is_open(o, w.a) && !s.lang.is_open(s, w.b)
            || !o.lang.hides_member(o, w.a) && s.lang.hides_member(s, w.b)
        {
            return object(o, w.a, "fewer may name this now");
        }
        let b = self.before;
        let own = b.gone.contains(&w.a) && o.path == b.source.f.old.path;
        let name = name_of(o, w.a).map_or("", |n| o.str(n));
        let used = self.laid.words.iter().any(|x| x.moved && x.s.str(x.b) == name);
        if !own && (!used || s.lang.is_open(s, w.b)) {
            return object(o, w.a, "others may name this now");
        }
        if own {
            return Ok(());
        }
        // no related class has the word
        let classes = class_tree::with_word(self.after, name, s.lang);
        let class = s.tree.ancestor(w.b, &[Role::Class]);
        let home = classes.iter().find(|c| c.source.path == s.path && Some(c.node) == class);
        for c in home.map_or(Vec::new(), |h| class_tree::around(&classes, h)) {
            let same = c.source.path == s.path && Some(c.node) == class;
            let says = |n: &NodeId| c.source.tree.is_leaf(*n) && c.source.str(*n) == name;
            if let Some(n) = c.source.tree.subtree(c.node).find(says).filter(|_| !same) {
                return object(&c.source, n, format!("`{name}` could be that of a class above now"));
            }
        }
        Ok(())
    }

    /// In all files: what named a member that went is edited, and what named another one still does.
    fn everywhere(&self) -> Opinion<()> {
        let o = &self.before.source.f.old;
        let mut names: Vec<&str> = self.before.gone.iter().filter_map(|n| Some(o.str(name_of(o, *n)?))).collect();
        names.dedup();
        for name in names {
            each_file(self.project, o, name, &mut |s| {
                let f = self.files.iter().find(|f| f.old.path == s.path);
                for n in words(s, name) {
                    let was = member_of(self.project, s, n);
                    let went = matches!(was, MemberOf::Class(c) if same_class(c, self.old));
                    if matches!(was, MemberOf::Unknown | MemberOf::Likely(_)) && !self.told(Code::MemberByName, &s.path)
                    {
                        return object(s, n, format!("`{name}` here may be what went"));
                    }
                    let link = s.tree.ancestor(n, &[Role::Import, Role::ImportFrom]).is_some();
                    match f {
                        Some(_) if link => {}
                        Some(f) => {
                            let known = self.map.contains_key(&(f.old.path.as_str(), n));
                            let own = s.path == o.path;
                            let declared = own && self.before.gone.iter().any(|g| name_of(s, *g) == Some(n));
                            if !known && !declared {
                                return object(s, n, format!("what `{name}` is now can't be told"));
                            }
                        }
                        None if went => return object(s, n, format!("`{name}` is named by its old class here")),
                        None => {
                            let is = member_of(self.after, s, n);
                            let same = match (was, is) {
                                // of classes without a name nothing else is known
                                (MemberOf::Class(a), MemberOf::Class(b)) => {
                                    same_class(a, b) || !a.is_known() && !b.is_known()
                                }
                                (a, b) => a == b,
                            };
                            if !same {
                                return object(s, n, format!("`{name}` here would be another one"));
                            }
                        }
                    }
                }
                Ok(())
            })?;
            self.files.iter().try_for_each(|f| self.imports_what_is_there(f, name))?;
        }
        Ok(())
    }

    /// An import of what went names the new class.
    fn imports_what_is_there(&self, f: &File, name: &str) -> Opinion<()> {
        let (o, s) = (&f.old, &f.new);
        let linked = |s: &Source, n: NodeId| s.tree.ancestor(n, &[Role::Import, Role::ImportFrom]).is_some();
        let went = |x: NodeId| matches!(member_of(self.project, o, x), MemberOf::Class(c) if same_class(c, self.old));
        let imported = words(o, name).into_iter().any(|x| linked(o, x) && went(x));
        let lost = |n: &NodeId| matches!(member_of(self.after, s, *n), MemberOf::Other | MemberOf::Unknown);
        match words(s, name).into_iter().filter(|n| linked(s, *n)).find(lost).filter(|_| imported) {
            Some(n) => object(s, n, "this imports what is not there"),
            None => Ok(()),
        }
    }

    /// No class related to the new one has the name.
    fn beside(&self) -> Opinion<()> {
        let (s, b) = (&self.before.home.f.new, self.before);
        let definitions = |s: &Source, name: &str| self.after.definition(s, name);
        for n in &b.added {
            let Some(word) = name_of(s, *n) else { return object(s, *n, "this is no member with a name") };
            let name = s.str(word);
            let classes = class_tree::with_word(self.after, name, s.lang);
            let home = classes.iter().find(|c| c.source.path == s.path && c.node == b.home.new);
            let Some(home) = home else { return object(s, *n, "the new class was not found") };
            for c in class_tree::around(&classes, home) {
                let own = c.source.path == s.path && c.node == b.home.new;
                let spaces = [Space::Functions, Space::Values, Space::Types];
                let scope = c.source.names.scope_of(c.node);
                let has =
                    scope.is_some_and(|x| spaces.iter().any(|k| c.source.names.declared_as(x, *k, name).is_some()));
                if !own && has {
                    return object(&c.source, c.node, format!("a related class has a `{name}`"));
                }
            }
            let stored = s.lang.is_stored_by_members(s, b.home.new, &definitions);
            if stored && !self.change.result.reasons.iter().any(|r| r.code == Code::StoredObjects) {
                return object(s, b.home.new, "what is stored of its objects depends on what the class has");
            }
            if s.lang.may_inherit(s, b.home.new, name, &definitions) && !self.told(Code::InheritedName, &s.path) {
                return object(s, *n, format!("the class may inherit a `{name}`"));
            }
        }
        Ok(())
    }

    /// Code that runs when a class is made ready runs as it did, or that is told.
    fn made_ready(&self) -> Opinion<()> {
        let b = self.before;
        let all = [(self.project, &b.source.f.old, b.source.old), (self.after, &b.home.f.new, b.home.new)];
        for (p, s, class) in all {
            let definitions = |s: &Source, name: &str| p.definition(s, name);
            if !s.lang.acts_when_loaded(s, class, &definitions) {
                continue;
            }
            let told = |path: &str| self.told(Code::ImportEffects, path);
            let any = self.change.result.reasons.iter().any(|r| r.code == Code::ImportEffects);
            let known = |name: &str| {
                let o = &b.source.f.old;
                let field = b.gone.iter().find(|n| name_of(o, **n).is_some_and(|w| o.str(w) == name));
                field.is_some_and(|n| is_known(self.project, o, *n))
            };
            let words = self.laid.words.iter().filter(|w| self.gone_name(w.o.str(w.a)) && !known(w.o.str(w.a)));
            for w in words {
                let went = matches!(member_of(self.project, w.o, w.a), MemberOf::Class(c) if same_class(c, self.old));
                let (at, n) = if std::ptr::eq(p, self.project) { (w.o, w.a) } else { (w.s, w.b) };
                if went && !is_ready_at(s, class, at, n) && !told(&w.o.path) && !any {
                    return object(w.o, w.a, "a class is made ready here, which runs code");
                }
            }
            let (h, t) = (&b.home.f.new, &b.home.f.new.tree);
            let value = |n: &NodeId| t.children(*n).find_map(|c| t.child(c, Field::Right));
            let known = |n: NodeId| is_known(self.after, h, n);
            let field = b.added.iter().find(|n| !is_function(h, **n) && value(n).is_some() && !known(**n));
            if let Some(n) = field.filter(|_| s.path == h.path && class == b.home.new) {
                return object(h, *n, "code that runs when the class is made ready may miss this");
            }
        }
        self.made_in_order()?;
        self.first_values()
    }

    /// What makes the new class's own fields needs none that came below them, but for constants named by the class.
    fn made_in_order(&self) -> Opinion<()> {
        let b = self.before;
        let (h, t) = (&b.home.f.new, &b.home.f.new.tree);
        for n in b.added.iter().filter(|n| !is_function(h, **n)) {
            let name = name_of(h, *n).map_or("", |w| h.str(w));
            let own = |x: &NodeId| t.is_leaf(*x) && h.str(*x) == name && !self.holds(h, *x, true);
            let made = t.subtree(b.home.new).filter(own).find(|x| {
                let bare = t.role(*x) != Role::MemberName;
                t.callable_around(*x).is_none() && (bare || !is_known(self.after, h, *n))
            });
            if let Some(x) = made {
                return object(h, x, "this has no value yet when the class is made ready");
            }
        }
        Ok(())
    }

    /// What a field that went begins with is the same when its new class is made ready.
    fn first_values(&self) -> Opinion<()> {
        let b = self.before;
        let (h, t) = (&b.home.f.new, &b.home.f.new.tree);
        let definitions = |s: &Source, name: &str| self.after.definition(s, name);
        for n in b.added.iter().filter(|n| !is_function(h, **n)) {
            for x in t.subtree(*n).filter(|x| t.role(*x) == Role::Member && t.field(*x) != Field::Callee) {
                let own = t.child(x, Field::Member).map(|w| member_of(self.after, h, w));
                let fixed = matches!(own, Some(MemberOf::Class(c)) if same_class(c, self.old)) && self.is_fixed(x);
                if !fixed && !h.lang.is_constant(h, x, &definitions) {
                    return object(h, x, "this may have another value when the class is made ready");
                }
            }
        }
        Ok(())
    }

    /// A constant of the old class that the compiler knows.
    fn is_fixed(&self, path: NodeId) -> bool {
        let (h, o) = (&self.before.home.f.new, &self.before.source.f.new);
        let name = h.tree.child(path, Field::Member).map_or("", |w| h.str(w));
        matches!(declarations(o, self.before.source.new, name)[..], [one] if is_known(self.after, o, one))
    }
}

/// A field whose value the compiler knows.
fn is_known(p: &Project, s: &Source, field: NodeId) -> bool {
    let b = name_of(s, field).and_then(|w| s.names.at(w)).and_then(|r| r.target);
    b.is_some_and(|b| constants::is_known_value(p, s, field, b))
}
