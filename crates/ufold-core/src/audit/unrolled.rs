//! Copies became the turns of a loop: with the values of a row put into its body, each turn is the copy that stood there.
//!
//! The rows are read from the loop's own head. Each value means when the list is made what it meant in its copy, names that
//! the loop brings are used by nothing else, and no turn leaves the loop or sees what an earlier one left.

use super::file::File;
use super::gathered::Around;
use super::outside::{ScopeMap, same_meaning};
use super::turns::Loop;
use super::{Opinion, object};
use crate::index::Project;
use crate::index::seen::shows_names;
use crate::names::{BindingId, Source};
use crate::tree::{NodeId, Role, Tree};

pub(super) fn run(project: &Project, files: &[File]) -> Opinion<()> {
    let [f] = files else { return object(&files[0].old, Tree::ROOT, "a loop stands in one file") };
    let (o, s) = (&f.old, &f.new);
    // the other edits are elements for names, of which each is a pair of its own
    let Some((gone, made)) = f.edits().iter().max_by_key(|e| e.0.end - e.0.start) else {
        return object(o, Tree::ROOT, "nothing changed");
    };
    let mut w =
        Laid { f, scopes: ScopeMap::default(), leaves: Vec::new(), elements: Vec::new(), turned: None, gone: *gone };
    w.pair(Tree::ROOT, Tree::ROOT)?;
    let Some(Turns { old, before, loop_, behind }) = w.turned.take() else {
        return object(o, Tree::ROOT, "no loop was made");
    };
    if s.tree.span(loop_).start < made.start || made.end < s.tree.span(loop_).end {
        return object(s, loop_, "the loop stands outside the edit");
    }
    for (a, b) in &w.leaves {
        if !same_meaning(o, s, &w.scopes, *a, *b) {
            return object(o, *a, format!("`{}` would mean something else", o.str(*a)));
        }
    }
    let frame = o.tree.callable_around(old[0]).unwrap_or(Tree::ROOT);
    let fresh = s.lang.loop_variables_are_fresh();
    let in_class = o.tree.ancestors(old[0]).any(|a| o.tree.role(a) == Role::Class) || o.names.members_in_sight;
    if !fresh || in_class {
        super::reordered::unseen_order(project, o, old[0])?;
    }
    if frame == Tree::ROOT {
        let own = |b: &BindingId| old.iter().any(|c| o.tree.contains(*c, o.names.binding(*b).first));
        let file = [project.index(&o.path).unwrap_or(usize::MAX)];
        let seen = |b: &BindingId| project.word_elsewhere(&o.names.binding(*b).name, &file);
        let there = |b: &BindingId| s.names.in_module(&o.names.binding(*b).name).is_some();
        let copy = |n: NodeId| old.iter().any(|c| o.tree.contains(*c, n));
        let gone = |b: &BindingId| !there(b) || o.names.references_to(*b).all(|r| copy(r.node));
        if o.names.bindings_of(crate::names::Names::MODULE).any(|b| own(&b) && gone(&b) && seen(&b)) {
            return object(o, old[0], "another file has the name of a variable that goes");
        }
    }
    if let Some(n) = shows_names(project, o, frame, frame == Tree::ROOT) {
        return object(o, n, "the names of locals are looked at");
    }
    comments_are_kept(o, s, (*gone, *made))?;
    let read = Loop::read(s, loop_)?;
    let turned = read.unrolls(o, frame, &old, &w.scopes)?;
    let copies = (old[0], o.tree.end(old[old.len() - 1]));
    let (leaves, elements) = (&w.leaves[..], &w.elements[..]);
    Around { o, s, copies, before: &before, behind: &behind, leaves, elements }.check(&read, &turned)
}

/// Comments of the code that goes are still there, in the body once, and those of rows once each.
fn comments_are_kept(o: &Source, s: &Source, (gone, made): (crate::text::Span, crate::text::Span)) -> Opinion<()> {
    let of = |s: &Source, span: crate::text::Span| {
        let inside = s.tree.comments().iter().filter(move |c| span.start <= c.start && c.end <= span.end);
        inside.map(|c| s.text[c.start..c.end].to_string()).collect::<Vec<_>>()
    };
    let there = of(s, made);
    match of(o, gone).iter().all(|c| there.contains(c)) {
        true => Ok(()),
        false => object(o, Tree::ROOT, "a comment is lost"),
    }
}

/// The file outside the loop, node by node.
struct Laid<'a> {
    f: &'a File,
    scopes: ScopeMap,
    leaves: Vec<(NodeId, NodeId)>,
    /// Names that are elements of a list now.
    elements: Vec<(NodeId, NodeId)>,
    turned: Option<Turns>,
    gone: crate::text::Span,
}

/// The statements that went, the loop, and what else is new beside it.
struct Turns {
    old: Vec<NodeId>,
    before: Vec<NodeId>,
    loop_: NodeId,
    behind: Vec<NodeId>,
}

impl Laid<'_> {
    fn pair(&mut self, a: NodeId, b: NodeId) -> Opinion<()> {
        let (o, s) = (&self.f.old, &self.f.new);
        let (t, n) = (&o.tree, &s.tree);
        if t.role(a) == Role::Name && n.role(b) == Role::Index && t.field(a) == n.field(b) {
            self.elements.push((a, b));
            return Ok(());
        }
        if t.role(a) != n.role(b) || t.field(a) != n.field(b) {
            return object(o, a, "code changed");
        }
        if o.names.scope_of(a).is_some() {
            self.scopes.insert(a, b);
        }
        if t.is_leaf(a) && n.is_leaf(b) {
            self.leaves.push((a, b));
            return if t.exact(a) == n.exact(b) { Ok(()) } else { object(o, a, "a word changed") };
        }
        let (left, right): (Vec<NodeId>, Vec<NodeId>) = (t.children(a).collect(), n.children(b).collect());
        let inside = |c: &NodeId| t.role(*c) != Role::Token && self.gone.contains(t.span(*c));
        let from = left.iter().position(inside).filter(|_| t.role(a).is_sequence() && self.turned.is_none());
        let Some(i) = from else {
            if left.len() != right.len() {
                return object(o, a, "code is missing, or was added");
            }
            return left.into_iter().zip(right).try_for_each(|(x, y)| self.pair(x, y));
        };
        let old: Vec<NodeId> = left[i..].iter().copied().take_while(inside).collect();
        let made = (right.len() + old.len()).checked_sub(left.len()).and_then(|k| right.get(i..i + k));
        let is_loop = |c: &NodeId| matches!(n.role(*c), Role::For | Role::CountedFor);
        let Some((made, at)) = made.and_then(|m| Some((m, m.iter().position(is_loop)?))) else {
            return object(o, left[i], "these became no loop");
        };
        let (before, behind) = (made[..at].to_vec(), made[at + 1..].to_vec());
        left[..i].iter().zip(&right[..i]).try_for_each(|(x, y)| self.pair(*x, *y))?;
        let rest = left[i + old.len()..].iter().zip(&right[i + made.len()..]);
        self.turned = Some(Turns { old, before, loop_: made[at], behind });
        rest.into_iter().try_for_each(|(x, y)| self.pair(*x, *y))
    }
}
