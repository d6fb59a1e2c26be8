//! A loop became two: the same code but for one loop, whose body's statements stand in two loops with the same head, in
//! their order; none of the second has to do with one of the first, and the head is the same a second time.

use super::file::File;
use super::outside::{ScopeMap, same_meaning};
use super::reordered::{Touch, apart, touch};
use super::{Opinion, object};
use crate::index::Project;
use crate::index::again::{Again, again};
use crate::names::{BindingId, Source};
use crate::tree::{Field, NodeId, Role, Tree};

/// `told`: lines and texts of what is assumed.
pub(super) fn run(project: &Project, files: &[File], told: &[(usize, String)]) -> Opinion<()> {
    let [f] = files else { return object(&files[0].old, Tree::ROOT, "a loop stands in one file") };
    let (o, s) = (&f.old, &f.new);
    let mut w = Laid { f, scopes: ScopeMap::default(), second: None, leaves: Vec::new(), loops: None };
    w.pair(Tree::ROOT, Tree::ROOT)?;
    let Some((loop_, goes)) = w.loops.take() else { return object(o, Tree::ROOT, "no loop became two") };
    let second = w.second.unwrap_or_default();
    for (a, b, behind) in &w.leaves {
        let mut scopes = w.scopes.clone();
        if *behind {
            scopes.extend(&second);
        }
        if !same_meaning(o, s, &scopes, *a, *b) {
            return object(o, *a, format!("`{}` would mean something else", o.str(*a)));
        }
    }
    let t = &o.tree;
    let frame = t.callable_around(loop_).unwrap_or(Tree::ROOT);
    let plain = t.children(loop_).all(|c| !matches!(t.role(c), Role::AsyncMark | Role::Else));
    let in_block = t.parent(loop_).is_some_and(|p| t.role(p).is_sequence());
    super::reordered::unseen_order(project, o, loop_)?;
    if !plain || !in_block || !matches!(t.role(loop_), Role::For | Role::CountedFor) {
        return object(o, loop_, "a loop that can't be divided");
    }
    let body = t.child(loop_, Field::Body).unwrap_or(loop_);
    let all: Vec<NodeId> = t.children(body).filter(|c| t.role(*c) != Role::Token).collect();
    for a in all.iter().filter(|c| goes.contains(c)) {
        for b in all.iter().filter(|c| !goes.contains(c)) {
            if t.role(*a).is_definition() || t.role(*b).is_definition() {
                return object(o, *a, "a function is made in each turn");
            }
            apart(o, frame, (*a, *b), false, told)?;
        }
    }
    head(project, o, frame, loop_, &all, told)
}

/// The head can be evaluated again, and no statement changes what it looks at.
fn head(
    project: &Project,
    o: &Source,
    frame: NodeId,
    loop_: NodeId,
    all: &[NodeId],
    told: &[(usize, String)],
) -> Opinion<()> {
    let t = &o.tree;
    let counted = t.role(loop_) == Role::CountedFor;
    let parts: Vec<NodeId> =
        t.children(loop_).filter(|c| t.field(*c) != Field::Body && t.role(*c) != Role::Token).collect();
    let begin = if counted { Field::Init } else { Field::Left };
    let own: Vec<BindingId> =
        parts.iter().filter(|p| t.field(**p) == begin).flat_map(|p| touch(o, frame, *p, told).given).collect();
    let statements: Vec<(NodeId, Touch)> = all.iter().map(|n| (*n, touch(o, frame, *n, told))).collect();
    if let Some((n, _)) = statements.iter().find(|(_, x)| x.given.iter().any(|b| own.contains(b))) {
        return object(o, *n, "the loop's own variable gets a value");
    }
    for p in parts.iter().filter(|p| t.field(**p) != Field::Left || counted) {
        let mut x = touch(o, frame, *p, told);
        if x.given.iter().any(|b| !own.contains(b)) {
            return object(o, *p, "the loop changes what it does not begin with");
        }
        if !counted && t.field(*p) == Field::Right {
            match again(project, o, *p) {
                Again::No(n) => return object(o, n, "the loop would compute this twice"),
                Again::Fixed => {
                    let names = t.subtree(*p).filter(|n| t.role(*n) == Role::Name && t.field(*n) != Field::Callee);
                    let looks = names.into_iter().any(|n| touch(o, frame, n, told).looks);
                    (x.looks, x.changes, x.fails) = (looks, false, false);
                }
                Again::Seen(of) => {
                    let known = |n: &NodeId| {
                        let quoted = format!("`{}`", o.str(*n));
                        told.iter().any(|(line, text)| *line == o.line(*n) && text.contains(&quoted))
                    };
                    if let Some(n) = of.iter().find(|n| !known(n)) {
                        return object(o, *n, "it may not be possible to go through this twice");
                    }
                    (x.looks, x.changes, x.fails) = (true, false, false);
                }
            }
        }
        if x.changes || x.jumps || x.ends || x.shows {
            return object(o, *p, "the loop would do this twice");
        }
        for (n, y) in &statements {
            let fails = x.fails && (y.changes || y.shows || y.fails);
            if y.given.iter().any(|b| x.used.contains(b)) || x.looks && y.changes || fails {
                return object(o, *n, "what the loop goes through, or counts, may change here");
            }
        }
    }
    Ok(())
}

struct Laid<'a> {
    f: &'a File,
    scopes: ScopeMap,
    /// Scopes of the old loop in the second one, when that is looked at or was.
    second: Option<ScopeMap>,
    /// Old and new, and whether in the second loop.
    leaves: Vec<(NodeId, NodeId, bool)>,
    /// The old loop, and the statements that went.
    loops: Option<(NodeId, Vec<NodeId>)>,
}

impl Laid<'_> {
    fn pair(&mut self, a: NodeId, b: NodeId) -> Opinion<()> {
        self.pair_in(a, b, false)
    }

    fn pair_in(&mut self, a: NodeId, b: NodeId, behind: bool) -> Opinion<()> {
        let (o, s) = (&self.f.old, &self.f.new);
        let (t, n) = (&o.tree, &s.tree);
        if t.role(a) != n.role(b) || t.field(a) != n.field(b) {
            return object(o, a, "code changed");
        }
        self.scope(a, b, behind);
        if t.is_leaf(a) && n.is_leaf(b) {
            self.leaves.push((a, b, behind));
            return if t.exact(a) == n.exact(b) { Ok(()) } else { object(o, a, "a word changed") };
        }
        let (left, right): (Vec<NodeId>, Vec<NodeId>) = (t.children(a).collect(), n.children(b).collect());
        let new = t.role(a).is_sequence() && right.len() == left.len() + 1;
        let divided = left.iter().position(|c| t.role(*c).is_loop() && self.loses(*c)).filter(|_| new && !behind);
        let Some(i) = divided else {
            if left.len() != right.len() {
                return object(o, a, "code is missing, or was added");
            }
            return left.into_iter().zip(right).try_for_each(|(x, y)| self.pair_in(x, y, behind));
        };
        left[..i].iter().zip(&right[..i]).try_for_each(|(x, y)| self.pair(*x, *y))?;
        self.divided(left[i], right[i], right[i + 1])?;
        left[i + 1..].iter().zip(&right[i + 2..]).try_for_each(|(x, y)| self.pair(*x, *y))
    }

    fn scope(&mut self, a: NodeId, b: NodeId, behind: bool) {
        if self.f.old.names.scope_of(a).is_some() {
            match behind {
                true => self.second.get_or_insert_default().insert(a, b),
                false => self.scopes.insert(a, b),
            };
        }
    }

    /// Statements of its body are in what the edits take away.
    fn loses(&self, loop_: NodeId) -> bool {
        let t = &self.f.old.tree;
        t.child(loop_, Field::Body).is_some_and(|b| t.children(b).any(|c| self.goes(c)))
    }

    fn goes(&self, statement: NodeId) -> bool {
        let span = self.f.old.tree.span(statement);
        self.f.edits().iter().any(|(old, new)| old.contains(span) && new.start == new.end)
    }

    fn divided(&mut self, a: NodeId, first: NodeId, second: NodeId) -> Opinion<()> {
        let (o, s) = (self.f.old.clone(), self.f.new.clone());
        let (t, n) = (&o.tree, &s.tree);
        if self.loops.is_some() {
            return object(&o, a, "two loops became more");
        }
        let mut gone = Vec::new();
        for (b, behind) in [(first, false), (second, true)] {
            if t.role(a) != n.role(b) {
                return object(&o, a, "the loop became something else");
            }
            self.scope(a, b, behind);
            let (left, right): (Vec<NodeId>, Vec<NodeId>) = (t.children(a).collect(), n.children(b).collect());
            if left.len() != right.len() {
                return object(&o, a, "the loop's head changed");
            }
            for (x, y) in left.into_iter().zip(right) {
                if t.field(x) != Field::Body || !t.role(x).is_sequence() || !n.role(y).is_sequence() {
                    self.pair_in(x, y, behind)?;
                    continue;
                }
                self.scope(x, y, behind);
                let own = |c: &NodeId| t.role(*c) == Role::Token || self.goes(*c) == behind;
                let (all, there): (Vec<NodeId>, Vec<NodeId>) =
                    (t.children(x).filter(own).collect(), n.children(y).collect());
                if all.len() != there.len() {
                    return object(&o, a, "code is missing, or was added");
                }
                if behind {
                    gone = all.clone();
                }
                for (x, y) in all.into_iter().zip(there) {
                    self.pair_in(x, y, behind)?;
                }
            }
        }
        self.loops = Some((a, gone));
        Ok(())
    }
}
