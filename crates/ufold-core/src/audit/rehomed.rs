//! Static members that are another class's now: the two classes have together what they had, no more went and nothing was
//! added, and every other node of every file is as it was but for the class by which a member is named.
//!
//! Files are laid over each other node by node; what the words mean, before and after, is looked at in
//! [`super::rehomed_names`].

use super::file::File;
use super::moved_code::only_links;
use super::rehomed_code::{Before, ClassPair, Laid, Word, reach_words};
use super::rehomed_names;
use super::{Objection, Opinion, object};
use crate::change::Change;
use crate::index::Project;
use crate::index::class_members::{body, head, name_of};
use crate::names::Source;
use crate::tree::{Field, NodeId, Role, Tree};

pub(super) fn run(project: &Project, (from, to): (&str, &str), change: &Change, files: &[File]) -> Opinion<()> {
    let nowhere = |message: &str| Objection { message: message.into(), file: from.into(), line: 1 };
    let mut laid = Laid::default();
    for f in files {
        Walk { f, laid: &mut laid }.file()?;
    }
    let Some((source, gone)) = laid.from.clone() else { return Err(nowhere("no member went")) };
    let Some((home, added)) = laid.to.clone() else { return Err(nowhere("no class got a member")) };
    if source.f.old.path != from || home.f.old.path != to || gone.len() != added.len() {
        return Err(nowhere("the members are not in the other class"));
    }
    let mut left = added.clone();
    for g in &gone {
        let name = |s: &Source, n: NodeId| name_of(s, n).map(|w| s.str(w).to_string());
        let same = |x: &NodeId| name(&source.f.old, *g) == name(&home.f.new, *x);
        let Some(i) = left.iter().position(same) else {
            return object(&source.f.old, *g, "this is in neither of the two classes now");
        };
        let there = left.remove(i);
        Over { o: source.f, s: home.f, moved: true, laid: &mut laid }.node(*g, there, &mut |_, _, _| Ok(()))?;
    }
    on_lines_of_their_own(&home.f.new, &added)?;
    let before = Before { source, gone, home, added };
    rehomed_names::check(project, change, files, (&laid, &before))
}

/// One file over itself.
struct Walk<'a, 'f> {
    f: &'f File,
    laid: &'a mut Laid<'f>,
}

impl<'f> Walk<'_, 'f> {
    fn file(&mut self) -> Opinion<()> {
        let f = self.f;
        let of = |s: &Source| s.tree.children(Tree::ROOT).filter(|n| !only_links(s, *n)).collect::<Vec<_>>();
        self.lists(&of(&f.old), &of(&f.new), Tree::ROOT)
    }

    fn lists(&mut self, olds: &[NodeId], news: &[NodeId], at: NodeId) -> Opinion<()> {
        if olds.len() != news.len() {
            return object(&self.f.old, at, "code is missing, or was added");
        }
        olds.iter().zip(news).try_for_each(|(a, b)| self.node(*a, *b))
    }

    fn node(&mut self, a: NodeId, b: NodeId) -> Opinion<()> {
        let f = self.f;
        let (t, n) = (&f.old.tree, &f.new.tree);
        if t.role(a) == Role::Class && n.role(b) == Role::Class {
            return self.class(a, b);
        }
        Over { o: f, s: f, moved: false, laid: self.laid }.node(a, b, &mut |laid, a, b| Walk { f, laid }.class(a, b))
    }

    fn class(&mut self, a: NodeId, b: NodeId) -> Opinion<()> {
        let f = self.f;
        let (o, s) = (&*f.old, &*f.new);
        let (olds, news) = (body(&o.tree, a), body(&s.tree, b));
        let names = |s: &Source, all: &[NodeId]| -> Vec<String> {
            all.iter().filter_map(|n| Some(s.str(name_of(s, *n)?).to_string())).collect()
        };
        let (was, is) = (names(o, &olds), names(s, &news));
        let lacks =
            |s: &Source, n: &NodeId, all: &[String]| name_of(s, *n).is_some_and(|w| !all.iter().any(|x| x == s.str(w)));
        let gone: Vec<NodeId> = olds.iter().copied().filter(|n| lacks(o, n, &is)).collect();
        let added: Vec<NodeId> = news.iter().copied().filter(|n| lacks(s, n, &was)).collect();
        let pair = ClassPair { f, old: a, new: b };
        if !gone.is_empty() && self.laid.from.replace((pair, gone.clone())).is_some() {
            return object(o, a, "two classes gave members");
        }
        if !added.is_empty() && self.laid.to.replace((pair, added.clone())).is_some() {
            return object(s, b, "two classes got members");
        }
        self.lists(&head(o, a), &head(s, b), a)?;
        let rest =
            |all: &[NodeId], out: &[NodeId]| all.iter().copied().filter(|n| !out.contains(n)).collect::<Vec<_>>();
        self.lists(&rest(&olds, &gone), &rest(&news, &added), a)
    }
}

type OnClass<'f, 'c> = dyn FnMut(&mut Laid<'f>, NodeId, NodeId) -> Opinion<()> + 'c;

/// Old nodes and new ones, the same but for the class by which a member is named.
struct Over<'a, 'f> {
    o: &'f File,
    s: &'f File,
    moved: bool,
    laid: &'a mut Laid<'f>,
}

/// A word with what stands before its dot, or the word alone.
fn named(s: &Source, n: NodeId) -> Option<(Option<NodeId>, NodeId)> {
    let t = &s.tree;
    match t.role(n) {
        Role::Name if t.is_leaf(n) => Some((None, n)),
        Role::Member => {
            let (object, word) = (t.child(n, Field::Object)?, t.child(n, Field::Member)?);
            t.is_leaf(word).then_some((Some(object), word))
        }
        // a type by a path
        Role::Type => {
            let word = t.children(n).last().filter(|w| t.role(*w) == Role::MemberName && t.is_leaf(*w))?;
            Some((t.children(n).next().filter(|o| *o != word), word))
        }
        _ => None,
    }
}

impl<'f> Over<'_, 'f> {
    fn word(&self, a: NodeId, b: NodeId, objects: (Option<NodeId>, Option<NodeId>)) -> Word<'f> {
        Word { o: &self.o.old, s: &self.s.new, a, b, moved: self.moved, objects }
    }

    fn node(&mut self, a: NodeId, b: NodeId, on_class: &mut OnClass<'f, '_>) -> Opinion<()> {
        let (o, s) = (&*self.o.old, &*self.s.new);
        let (t, n) = (&o.tree, &s.tree);
        if t.role(a) == Role::Class && n.role(b) == Role::Class && !self.moved {
            return on_class(self.laid, a, b);
        }
        // the type before a dot may be a path of types
        if let (Some((x, p)), Some((y, q))) = (named(o, a), named(s, b)) {
            let another = o.str(p) != s.str(q) && !self.names_a_class(a, b);
            if another || t.field(a) != n.field(b) {
                return object(o, p, "another word stands here");
            }
            let given = |s: &Source, n: NodeId, of: [Option<NodeId>; 2]| {
                let rest = s.tree.children(n).filter(|c| !of.contains(&Some(*c)) && s.tree.role(*c) != Role::Token);
                rest.collect::<Vec<_>>()
            };
            let (more, less) = (given(o, a, [x, Some(p)]), given(s, b, [y, Some(q)]));
            if more.len() != less.len() {
                return object(o, a, "the function is given other types");
            }
            more.into_iter().zip(less).try_for_each(|(c, d)| self.node(c, d, on_class))?;
            let last = |s: &Source, n: NodeId| named(s, n).map(|(_, w)| s.str(w).to_string());
            if let (Some(x), Some(y)) = (x, y)
                && last(o, x) == last(s, y)
            {
                self.node(x, y, on_class)?;
                let word = self.word(p, q, (None, None));
                self.laid.words.push(word);
                return Ok(());
            }
            let word = self.word(p, q, (x, y));
            self.laid.words.push(word);
            return Ok(());
        }
        if t.role(a) != n.role(b) || t.field(a) != n.field(b) {
            return object(o, a, "this is put together in another way now");
        }
        if t.is_leaf(a) || n.is_leaf(b) {
            let same = t.is_leaf(a) && n.is_leaf(b) && o.str(a) == s.str(b);
            if !same {
                return object(o, a, "another word stands here");
            }
            let word = self.word(a, b, (None, None));
            self.laid.words.push(word);
            return Ok(());
        }
        let declares = matches!(t.role(a), Role::Function | Role::ClassField | Role::Class);
        let (was, is) = match declares {
            true => (reach_words(o, a), reach_words(s, b)),
            false => (Vec::new(), Vec::new()),
        };
        let said = |s: &Source, all: &[NodeId]| all.iter().map(|x| s.str(*x).to_string()).collect::<Vec<_>>();
        if said(o, &was) != said(s, &is) {
            let word = self.word(a, b, (None, None));
            self.laid.opened.push(word);
        }
        let rest = |t: &Tree, n: NodeId, out: &[NodeId]| t.children(n).filter(|c| !out.contains(c)).collect::<Vec<_>>();
        let (x, y) = (rest(t, a, &was), rest(n, b, &is));
        if x.len() != y.len() {
            return object(o, a, "code is missing, or was added");
        }
        x.into_iter().zip(y).try_for_each(|(a, b)| self.node(a, b, on_class))
    }

    /// The old and the new class stand before the word of what is no plain member: `Fees::due`.
    fn names_a_class(&self, a: NodeId, b: NodeId) -> bool {
        let (o, s) = (&*self.o.old, &*self.s.new);
        let beside = |s: &Source, n: NodeId| {
            let parent = s.tree.parent(n)?;
            let word = s.tree.children(parent).find(|c| s.tree.role(*c) == Role::MemberName)?;
            (s.tree.role(parent) != Role::Member && s.tree.children(parent).next() == Some(n))
                .then(|| s.str(word).to_string())
        };
        beside(o, a).is_some() && beside(o, a) == beside(s, b)
    }
}

/// The members stand on lines of their own.
fn on_lines_of_their_own(s: &Source, added: &[NodeId]) -> Opinion<()> {
    for n in added {
        let start = s.tree.span(*n).start;
        if !s.text[..start].rsplit('\n').next().unwrap_or("").trim().is_empty() {
            return object(s, *n, "this shares its line with something else");
        }
    }
    Ok(())
}
