//! A whole class that stands in a file of its own now: it is the same class but for who may name its members, everything
//! else is as it was, and the paths that named it name it where it is.
//!
//! Files are laid over each other node by node; what the words mean, before and after, is looked at in
//! [`super::resettled_names`], who sees what in [`super::resettled_reach`].

use std::sync::Arc;

use super::moved_code::only_links;
use super::rehomed_code::reach_words;
use super::resettled_code::{Laid, Pair, Settled};
use super::{Objection, Opinion, object, resettled_names, resettled_reach};
use crate::change::Change;
use crate::index::Project;
use crate::names::Source;
use crate::text::{Span, apply_edits};
use crate::tree::{Field, NodeId, Role, Tree};

/// The change takes a class to a file that was not there.
pub(super) fn is_meant(project: &Project, to: &str, change: &Change) -> bool {
    let moves = change.result.files.iter().any(|f| f.moves_to.is_some());
    let empty = |s: Arc<Source>| !s.tree.ids().any(|n| s.tree.role(n) == Role::Class);
    moves || project.index(to).and_then(|f| project.source(f).ok()).is_some_and(empty)
}

pub(super) fn run(project: &Project, (from, to): (&str, &str), change: &Change) -> Opinion<()> {
    let nowhere = |message: String| Objection { message, file: from.into(), line: 1 };
    let source = |path: &str| {
        let file = project.index(path).ok_or_else(|| nowhere(format!("{path} is no file of the project")))?;
        project.source(file).map_err(nowhere)
    };
    let mut pairs = Vec::new();
    for f in &change.result.files {
        let o = source(&f.file)?;
        let text = apply_edits(&o.text, &f.edits).map_err(|e| nowhere(e.to_string()))?;
        let parsed = |path: &str, text: String| project.parse(path, text.into()).map(Arc::new).map_err(nowhere);
        match &f.moves_to {
            Some(there) if f.file == from && there == to => {
                pairs.push(Pair { s: parsed(from, String::new())?, o });
                pairs.push(Pair { o: source(to)?, s: parsed(to, text)? });
            }
            Some(_) => return Err(nowhere("another file moves".into())),
            None => pairs.push(Pair { s: parsed(&f.file, text)?, o }),
        }
    }
    if let Some(p) = pairs.iter().find(|p| !p.s.tree.errors().is_empty() && p.o.tree.errors().is_empty()) {
        return object(&p.s, Tree::ROOT, "the new text does not parse");
    }
    let of = |path: &str| pairs.iter().find(|p| p.o.path == path);
    let (Some(source), Some(home)) = (of(from), of(to)) else { return Err(nowhere("the class did not move".into())) };
    let (old, new) = which(source, home)?;
    let mut outer = path(&source.o, old).unwrap_or_default();
    outer.pop();
    if !outer.is_empty() && !source.o.lang.needs_no_object(&source.o, old) {
        return object(&source.o, old, "its objects belong to one of the class around it");
    }
    let packages = [source.o.lang.said_package(&source.o), home.s.lang.said_package(&home.s)];
    if packages[1] != home.o.lang.said_package(&home.o) {
        return object(&home.s, Tree::ROOT, "the file says another package than its folder");
    }
    let mut x = Settled {
        project: project.as_it_is(),
        with_new: project,
        change,
        pairs: &pairs,
        from: source,
        to: home,
        old,
        outer,
        new,
        packages,
        laid: Vec::new(),
        opened: Vec::new(),
        opened_there: Vec::new(),
    };
    x.lay()?;
    resettled_names::check(&x, resettled_reach::check)
}

/// Statements of a file that are code.
fn code(s: &Source) -> Vec<NodeId> {
    s.tree.children(Tree::ROOT).filter(|n| !only_links(s, *n) && s.tree.role(*n) != Role::Doc).collect()
}

/// The path of a class in its file; none for one without a name, or in a function.
fn path(s: &Source, class: NodeId) -> Option<Vec<String>> {
    let t = &s.tree;
    let mut all: Vec<NodeId> = t.ancestors(class).filter(|c| t.role(*c) == Role::Class).collect();
    all.reverse();
    let names = all.into_iter().chain([class]).map(|c| t.child(c, Field::Name).map(|n| s.str(n).to_string()));
    t.callable_around(class).is_none().then(|| names.collect()).flatten()
}

fn paths(s: &Source) -> Vec<Vec<String>> {
    s.tree.ids().filter(|n| s.tree.role(*n) == Role::Class).filter_map(|c| path(s, c)).collect()
}

/// The class before and after: the only thing that the new file has.
fn which(from: &Pair, to: &Pair) -> Opinion<(NodeId, NodeId)> {
    let name = |s: &Source, c: NodeId| s.tree.child(c, Field::Name).map(|n| s.str(n).to_string());
    let [new] = code(&to.s)[..] else { return object(&to.s, Tree::ROOT, "the new file has not one class") };
    let class = |s: &Source, n: NodeId| s.tree.role(n) == Role::Class;
    if !class(&to.s, new) || !code(&to.o).is_empty() {
        return object(&to.s, new, "this is no class in a file of its own");
    }
    let (o, left) = (&from.o, paths(&from.s));
    let same = |n: &NodeId| o.tree.role(*n) == Role::Class && name(o, *n) == name(&to.s, new);
    let gone = |n: &NodeId| path(o, *n).is_some_and(|p| !left.contains(&p));
    let found: Vec<NodeId> = o.tree.ids().filter(same).filter(gone).collect();
    let [old] = found[..] else { return object(&to.s, new, "this class was not in the old file, or is in it still") };
    if Some(crate::index::words::stem_of(&to.s.path)) != name(&to.s, new).as_deref() {
        return object(&to.s, new, "the file has not the name of its class");
    }
    Ok((old, new))
}

impl<'f> Settled<'f> {
    fn lay(&mut self) -> Opinion<()> {
        let pairs = self.pairs;
        for p in pairs {
            let (was, is) = (code(&p.o), code(&p.s));
            if std::ptr::eq(p, self.to) {
                continue;
            }
            let left: Vec<NodeId> = match std::ptr::eq(p, self.from) {
                true => was.into_iter().filter(|n| *n != self.old).collect(),
                false => was,
            };
            if left.len() != is.len() {
                return object(&p.o, Tree::ROOT, "code is missing, or was added");
            }
            let said = |s: &Source| s.lang.said_package(s);
            let emptied = p.s.text.is_empty() && std::ptr::eq(p, self.from);
            if said(&p.o) != said(&p.s) && !emptied {
                return object(&p.o, Tree::ROOT, "the file says another package now");
            }
            left.into_iter().zip(is).try_for_each(|(a, b)| self.node((&p.o, a), (&p.s, b), false))?;
        }
        self.node((&self.from.o, self.old), (&self.to.s, self.new), true)
    }

    fn node(
        &mut self,
        (o, a): (&'f Arc<Source>, NodeId),
        (s, b): (&'f Arc<Source>, NodeId),
        moved: bool,
    ) -> Opinion<()> {
        let (t, n) = (&o.tree, &s.tree);
        if let (Some(x), Some(y)) = (self.by_path(o, a, false), self.by_path(s, b, true)) {
            self.laid.push(Laid { o, a: x, s, b: y });
            return Ok(());
        }
        if let Some(y) = self.by_the_class_around(o, a, (s, b)).filter(|_| moved) {
            self.laid.push(Laid { o, a, s, b: y });
            return Ok(());
        }
        if t.role(a) != n.role(b) || t.field(a) != n.field(b) {
            return object(o, a, "this is put together in another way now");
        }
        self.laid.push(Laid { o, a, s, b });
        let holds_it = Arc::ptr_eq(o, &self.from.o) && !moved && t.children(a).any(|c| c == self.old);
        if (t.is_leaf(a) || n.is_leaf(b)) && !holds_it {
            // a body with nothing in it is less deep now
            let body = t.role(a) == Role::Block && o.str(a).split_whitespace().eq(s.str(b).split_whitespace());
            if !(t.is_leaf(a) && n.is_leaf(b) && (o.str(a) == s.str(b) || body)) {
                return object(o, a, "another word stands here");
            }
            return Ok(());
        }
        let there = Arc::ptr_eq(o, &self.from.o) && !self.outer.is_empty();
        let declares = (moved || there) && matches!(t.role(a), Role::Function | Role::ClassField | Role::Class);
        let top = |s: &Source, n: NodeId| {
            let words = s.lang.bases().map_or(Vec::new(), |of| of.at_top(s, n));
            words.iter().map(|e| e.span).collect::<Vec<_>>()
        };
        let at_top = if moved && a == self.old { [top(o, a), top(s, b)] } else { [Vec::new(), Vec::new()] };
        let (was, is) = match declares {
            true => (reach_words(o, a), reach_words(s, b)),
            false => (Vec::new(), Vec::new()),
        };
        let said = |s: &Source, all: &[NodeId]| all.iter().map(|x| s.str(*x).to_string()).collect::<Vec<_>>();
        if said(o, &was) != said(s, &is) {
            let opened = if moved { &mut self.opened } else { &mut self.opened_there };
            opened.push((a, b));
        }
        let rest = |t: &Tree, n: NodeId, out: &[NodeId], top: &[Span]| {
            let left = t.children(n).filter(|c| !out.contains(c) && !top.iter().any(|x| x.contains(t.span(*c))));
            left.filter(|c| moved || *c != self.old || !Arc::ptr_eq(o, &self.from.o) || !std::ptr::eq(t, &o.tree))
                .collect::<Vec<_>>()
        };
        let (x, y) = (rest(t, a, &was, &at_top[0]), rest(n, b, &is, &at_top[1]));
        if x.len() != y.len() {
            return object(o, a, "code is missing, or was added");
        }
        x.into_iter().zip(y).try_for_each(|(a, b)| self.node((o, a), (s, b), moved))
    }

    /// The word of the class at the end of a path to it: its whole path, or that from a class around it; after the move the
    /// name alone may do.
    fn by_path(&self, s: &Source, n: NodeId, after: bool) -> Option<NodeId> {
        let t = &s.tree;
        let text: String = s.str(n).split_whitespace().collect();
        let outer = (0..self.outer.len()).map(|k| format!("{}.{}", self.outer[k..].join("."), self.name()));
        let ways: Vec<String> = [self.path(after)].into_iter().chain(outer.filter(|_| !after)).collect();
        let whole = if after { text == self.path(true) || text == self.name() } else { ways.contains(&text) };
        let nested = !after || !self.outer.is_empty() || text.contains('.');
        let path = if after { nested } else { !t.is_leaf(n) && text.contains('.') };
        t.subtree(n).filter(|x| whole && path && t.is_leaf(*x) && s.str(*x) == self.name()).last()
    }

    /// A bare word that has a class around it before it now.
    fn by_the_class_around(&self, o: &Source, a: NodeId, (s, b): (&Source, NodeId)) -> Option<NodeId> {
        let t = &s.tree;
        let text: String = s.str(b).split_whitespace().collect();
        let said = o.tree.is_leaf(a)
            && (1..=self.outer.len()).any(|k| text == format!("{}.{}", self.outer[..k].join("."), o.str(a)));
        t.subtree(b).filter(|x| said && t.is_leaf(*x) && s.str(*x) == o.str(a)).last()
    }
}
