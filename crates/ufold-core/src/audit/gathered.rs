//! Lists that turns of a loop put values into: element `k` is what copy `k` gave its variable.
//!
//! A list is made empty before the loop, each turn puts one value into it, and behind the loop it is only taken apart into
//! names, or read at written places. What used the copies' variables has those names or elements, stands behind the copies
//! in their block and runs at once, so that it runs when all turns have run.

use super::turns::{Loop, Turned, is_empty_list, sides};
use super::{Opinion, object};
use crate::names::{BindingId, Source, Use};
use crate::tree::{Field, NodeId, Role};

/// Old and new file, and what the walk over them found.
pub(super) struct Around<'a> {
    pub o: &'a Source,
    pub s: &'a Source,
    /// The copies, and behind the last of them.
    pub copies: (NodeId, NodeId),
    /// Statements before the loop and behind it that were not there.
    pub before: &'a [NodeId],
    pub behind: &'a [NodeId],
    /// Words of the old file with those of the new one.
    pub leaves: &'a [(NodeId, NodeId)],
    /// Words that became elements.
    pub elements: &'a [(NodeId, NodeId)],
}

/// A list, and where it is read.
struct List {
    binding: BindingId,
    /// The statement that takes it apart, with the names.
    taken: Option<Vec<BindingId>>,
    elements: Vec<NodeId>,
}

impl Around<'_> {
    pub fn check(&self, loop_: &Loop, turned: &Turned) -> Opinion<()> {
        let lists = self.before.iter().map(|n| self.list(*n, loop_)).collect::<Opinion<Vec<_>>>()?;
        if lists.iter().filter(|l| l.taken.is_some()).count() != self.behind.len() {
            return object(self.s, loop_.node, "a statement behind the loop takes no list apart");
        }
        for (a, b) in self.elements {
            let x = self.o.names.at(*a).and_then(|r| r.target);
            let of_turn = turned.kept.iter().flatten().any(|(k, _)| Some(*k) == x);
            if !of_turn || !lists.iter().any(|l| l.elements.contains(b)) {
                return object(self.o, *a, "this became no element of a list");
            }
        }
        let used = |x: &BindingId| self.o.names.references_to(*x).any(|r| r.node >= self.copies.1);
        for (turn, own) in turned.own.iter().enumerate() {
            let kept = &turned.kept[turn];
            if let Some(x) = own.iter().find(|x| used(x) && !kept.iter().any(|(k, _)| k == *x)) {
                return object(self.o, self.o.names.binding(*x).first, "code behind the copies uses this");
            }
            for (x, list) in kept {
                let Some(list) = lists.iter().find(|l| l.binding == *list) else {
                    return object(self.s, loop_.node, "a turn puts a value into a list that was there");
                };
                let named = |b: &BindingId| self.s.names.binding(*b).name == self.o.names.binding(*x).name;
                if list.taken.as_ref().is_some_and(|names| !named(&names[turn])) {
                    return object(self.s, loop_.node, "another name gets the value of a turn");
                }
                self.behind(*x, turn, list)?;
            }
        }
        match lists.len() == turned.kept.first().map_or(0, Vec::len) {
            true => Ok(()),
            false => object(self.s, loop_.node, "a list has no value of each turn"),
        }
    }

    /// `L = []`, and all uses of the list.
    fn list(&self, statement: NodeId, loop_: &Loop) -> Opinion<List> {
        let (s, t) = (self.s, &self.s.tree);
        let wrong = |n: NodeId| object(s, n, "this is no list of what the turns give");
        let Some((left, right)) = sides(s, statement) else { return wrong(statement) };
        let binding = s.names.at(left).filter(|r| r.usage == Use::Write).and_then(|r| r.target);
        let Some(binding) = binding.filter(|_| is_empty_list(s, right) && t.role(left) == Role::Name) else {
            return wrong(statement);
        };
        let mut list = List { binding, taken: None, elements: Vec::new() };
        for r in s.names.references_to(binding).filter(|r| r.node != left) {
            let parent = t.parent(r.node).unwrap_or(r.node);
            let apart = self.behind.iter().find(|b| sides(s, **b).is_some_and(|x| x.1 == r.node));
            match apart {
                _ if r.usage != Use::Read => return wrong(r.node),
                _ if loop_.puts(binding) == Some(parent) => {}
                Some(b) if list.taken.is_none() => list.taken = Some(self.names(*b, loop_.turns())?),
                None if self.elements.iter().any(|e| e.1 == parent) && t.children(parent).next() == Some(r.node) => {
                    list.elements.push(parent);
                }
                _ => return wrong(r.node),
            }
        }
        match loop_.puts(binding) {
            Some(_) => Ok(list),
            None => wrong(statement),
        }
    }

    /// The names that a list is taken apart into, as many as there are turns.
    fn names(&self, statement: NodeId, turns: usize) -> Opinion<Vec<BindingId>> {
        let (s, t) = (self.s, &self.s.tree);
        let left = sides(s, statement).map(|x| x.0);
        let parts = left.map_or(Vec::new(), |l| t.children(l).filter(|c| t.role(*c) != Role::Token).collect());
        let bound = |n: &NodeId| {
            let r = s.names.at(*n).filter(|r| t.role(*n) == Role::Name && r.usage == Use::Write)?;
            r.target
        };
        let names: Vec<BindingId> = parts.iter().filter_map(bound).collect();
        let mut several = names.clone();
        several.sort_unstable();
        several.dedup();
        match names.len() == turns && parts.len() == turns && several.len() == turns {
            true => Ok(names),
            false => object(s, statement, "the list is not taken apart into one name for each turn"),
        }
    }

    /// Uses of a copy's variable behind all copies are those of its element.
    fn behind(&self, x: BindingId, turn: usize, list: &List) -> Opinion<()> {
        let (o, s) = (self.o, self.s);
        let t = &o.tree;
        let own = o.names.binding(x).scope;
        let block = t.parent(self.copies.0).unwrap_or(crate::tree::Tree::ROOT);
        for r in o.names.references_to(x).filter(|r| r.node >= self.copies.1) {
            let at_once =
                o.names.scope_chain(r.scope).take_while(|c| *c != own).all(|c| o.names.scope(c).kind.runs_at_once());
            if !t.contains(block, r.node) || !at_once || r.is_type() {
                return object(o, r.node, "this may run when not all turns have run");
            }
            let element = self.elements.iter().find(|e| e.0 == r.node).map(|e| e.1);
            let fits = match (element, &list.taken) {
                (Some(e), None) => {
                    let place = t.field(r.node) != Field::Callee && t.ancestor(r.node, &[Role::Template]).is_none();
                    let whole = format!("{}[{turn}]", s.names.binding(list.binding).name);
                    list.elements.contains(&e) && s.str(e) == whole && place && r.usage == Use::Read
                }
                (None, Some(names)) => {
                    let now = self.leaves.iter().find(|l| l.0 == r.node).and_then(|l| s.names.at(l.1)?.target);
                    now == Some(names[turn])
                }
                _ => false,
            };
            if !fits {
                return object(o, r.node, "this is not the value of its turn");
            }
        }
        Ok(())
    }
}
