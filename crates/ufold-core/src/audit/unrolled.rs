//! Copies became the turns of a loop: with the values of a row put into its body, each turn is the copy that stood there.
//!
//! The rows are read from the loop's own head. Each value means when the list is made what it meant in its copy, names that
//! the loop brings are used by nothing else, and no turn leaves the loop or sees what an earlier one left.

use std::collections::BTreeMap;

use super::file::File;
use super::outside::{ScopeMap, same_meaning};
use super::{Objection, Opinion, object};
use crate::index::Project;
use crate::index::seen::shows_names;
use crate::index::users::is_given_once;
use crate::names::{BindKind, BindingId, ScopeKind, Source, Use};
use crate::tree::{Field, NodeId, Role, Tree};

pub(super) fn run(project: &Project, files: &[File]) -> Opinion<()> {
    let [f] = files else { return object(&files[0].old, Tree::ROOT, "a loop stands in one file") };
    let (o, s) = (&f.old, &f.new);
    let [(gone, made)] = f.edits() else { return object(o, Tree::ROOT, "more than one place changed") };
    let mut w = Laid { f, scopes: ScopeMap::default(), leaves: Vec::new(), turned: None, gone: *gone };
    w.pair(Tree::ROOT, Tree::ROOT)?;
    let Some((old, loop_)) = w.turned.take() else { return object(o, Tree::ROOT, "no loop was made") };
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
        let gone = |b: &BindingId| o.names.references_to(*b).all(|r| old.iter().any(|c| o.tree.contains(*c, r.node)));
        if o.names.bindings_of(crate::names::Names::MODULE).any(|b| own(&b) && gone(&b) && seen(&b)) {
            return object(o, old[0], "another file has the name of a variable that goes");
        }
    }
    if let Some(n) = shows_names(project, o, frame, frame == Tree::ROOT) {
        return object(o, n, "the names of locals are looked at");
    }
    comments_are_kept(o, s, (*gone, *made))?;
    Loop::read(s, loop_)?.unrolls(o, frame, &old, &w.scopes)
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
    /// The statements that went, and the loop.
    turned: Option<(Vec<NodeId>, NodeId)>,
    gone: crate::text::Span,
}

impl Laid<'_> {
    fn pair(&mut self, a: NodeId, b: NodeId) -> Opinion<()> {
        let (o, s) = (&self.f.old, &self.f.new);
        let (t, n) = (&o.tree, &s.tree);
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
        if left.len() + 1 != right.len() + old.len() || n.role(right[i]) != Role::For {
            return object(o, left[i], "these became no loop");
        }
        let behind = i + old.len();
        self.turned = Some((old, right[i]));
        left[..i].iter().zip(&right[..i]).try_for_each(|(x, y)| self.pair(*x, *y))?;
        left[behind..].iter().zip(&right[i + 1..]).try_for_each(|(x, y)| self.pair(*x, *y))
    }
}

/// A loop over a list that is written out.
struct Loop<'a> {
    s: &'a Source,
    node: NodeId,
    /// What the head binds, in the order of the values.
    names: Vec<BindingId>,
    rows: Vec<Vec<NodeId>>,
    body: NodeId,
    statements: Vec<NodeId>,
}

impl<'a> Loop<'a> {
    fn read(s: &'a Source, node: NodeId) -> Opinion<Loop<'a>> {
        let t = &s.tree;
        let wrong = || Objection {
            message: "this is no loop over a list of values".into(),
            file: s.path.clone(),
            line: s.line(node),
        };
        let left = t.child(node, Field::Left).ok_or_else(wrong)?;
        let body = t.child(node, Field::Body).filter(|b| t.role(*b) == Role::Block).ok_or_else(wrong)?;
        let right = t.child(node, Field::Right).ok_or_else(wrong)?;
        let plain = t.children(node).all(|c| !matches!(t.role(c), Role::AsyncMark | Role::Else));
        let list = t.subtree(right).find(|n| t.role(*n) == Role::List).filter(|_| plain).ok_or_else(wrong)?;
        // where types are written the variable has that of the values
        let types = [node, list].map(|n| t.child(n, Field::Type).map(|x| s.str(x)));
        if types[0] != types[1] {
            return Err(wrong());
        }
        // nothing but the list, or a mark of its type around it
        let inner = |n: NodeId| t.children(n).filter(|c| t.role(*c) != Role::Token).collect::<Vec<_>>();
        let around = t.subtree(right).take_while(|n| *n != list);
        if around.into_iter().any(|n| matches!(t.role(n), Role::Call | Role::Spread | Role::BinaryOp | Role::Index)) {
            return Err(wrong());
        }
        let bound = s.names.in_range(left, t.end(left)).iter().filter(|r| r.usage == Use::Write);
        let names: Vec<BindingId> = bound.filter_map(|r| r.target).collect();
        let row = |n: NodeId| match (names.len(), t.role(n)) {
            (1, _) => vec![n],
            (_, Role::Tuple | Role::List) => inner(n),
            _ => Vec::new(),
        };
        // where the type of the list is written, its values are a part of it
        let values = t.child(list, Field::Value).unwrap_or(list);
        let rows: Vec<Vec<NodeId>> = inner(values).into_iter().map(row).collect();
        let leaf = |n: &NodeId| t.is_leaf(*n) && matches!(t.role(*n), Role::Literal | Role::Name);
        if names.is_empty() || !rows.iter().all(|r| r.len() == names.len() && r.iter().all(leaf)) {
            return Err(wrong());
        }
        Ok(Loop { s, node, names, rows, body, statements: inner(body) })
    }

    fn unrolls(&self, o: &Source, frame: NodeId, old: &[NodeId], scopes: &ScopeMap) -> Opinion<()> {
        let (s, t) = (self.s, &self.s.tree);
        if old.len() != self.rows.len() * self.statements.len() || self.rows.len() < 2 {
            return object(o, old[0], "the loop does not turn as often as there were copies");
        }
        for b in &self.names {
            let outside = s.names.references_to(*b).any(|r| !t.contains(self.node, r.node));
            let written = s.names.references_to(*b).filter(|r| r.usage != Use::Read).count() != 1;
            if outside || written || s.names.binding(*b).rebound_inside {
                return object(s, self.node, "a name of the loop is used elsewhere too");
            }
        }
        self.stays_in_turn()?;
        self.leaves_values(o, (old[0], o.tree.end(old[old.len() - 1])))?;
        let mut fresh: BTreeMap<BindingId, ()> = BTreeMap::new();
        for (row, copy) in self.rows.iter().zip(old.chunks(self.statements.len())) {
            let mut turn =
                Turn { l: self, o, row, copy, scopes: scopes.clone(), own: BTreeMap::new(), leaves: Vec::new() };
            for (a, b) in copy.iter().zip(&self.statements) {
                turn.pair(*a, *b)?;
            }
            turn.meanings(frame, (old[0], o.tree.end(old[old.len() - 1])))?;
            fresh.extend(turn.own.values().map(|b| (*b, ())));
        }
        for b in fresh.keys() {
            self.begins_anew(*b)?;
        }
        Ok(())
    }

    /// A compiler that looks for first values finds them before the loop.
    fn leaves_values(&self, o: &Source, (first, end): (NodeId, NodeId)) -> Opinion<()> {
        let t = &o.tree;
        for r in o.names.in_range(first, end).iter().filter(|r| r.usage.writes() && o.lang.checks_first_values()) {
            let Some(b) = r.target.filter(|b| o.names.references_to(*b).any(|x| x.node >= end)) else { continue };
            let assigned = |n: NodeId| {
                let p = t.parent(n).filter(|p| t.role(*p) == Role::Assign && t.child(*p, Field::Right).is_some());
                let block = t.ancestors(n).find(|a| t.role(*a).is_sequence());
                n < first && p.is_some() && block.is_some_and(|b| t.contains(b, first))
            };
            let parameter = o.names.binding(b).kind == BindKind::Parameter;
            if !parameter && !o.names.references_to(b).any(|x| x.usage == Use::Write && assigned(x.node)) {
                return object(o, r.node, "this has no value when the loop does not turn");
            }
        }
        Ok(())
    }

    /// No statement of the body leaves the loop or its turn, or makes what is seen outside of it.
    fn stays_in_turn(&self) -> Opinion<()> {
        let (s, t) = (self.s, &self.s.tree);
        for n in t.subtree(self.body) {
            let up_to = || t.ancestors(n).take_while(|a| *a != self.node);
            let leaves = match t.role(n) {
                Role::Break => !up_to().any(|a| t.role(a).is_loop() || t.role(a) == Role::Switch),
                Role::Continue => !up_to().any(|a| t.role(a).is_loop()),
                _ => false,
            };
            if leaves && !t.children(n).any(|c| t.role(c) == Role::Label) {
                return object(s, n, "this leaves the loop, or its turn");
            }
            let made = self.statements.iter().any(|x| t.definition_in(*x) == n);
            if made && matches!(t.role(n), Role::Function | Role::Class)
                || matches!(t.role(n), Role::Import | Role::ImportFrom | Role::Global | Role::Nonlocal | Role::Delete)
            {
                return object(s, n, "a turn defines something");
            }
        }
        let fresh = |b: BindingId| s.lang.loop_variables_are_fresh() && self.names.contains(&b);
        let inside = |b: BindingId| !fresh(b) && s.names.references_to(b).all(|r| t.contains(self.node, r.node));
        for r in s.names.in_range(self.body, t.end(self.body)) {
            let Some(b) = r.target.filter(|b| inside(*b)) else { continue };
            let own = s.names.binding(b).scope;
            let later = s.names.scope_chain(r.scope).take_while(|x| *x != own).any(|x| {
                let kind = s.names.scope(x).kind;
                !kind.runs_at_once() || kind == ScopeKind::Lazy
            });
            let outer = !t.contains(self.body, s.names.scope(own).node);
            if later && outer {
                return object(s, r.node, "what is made in a turn would see the last turn's value");
            }
        }
        Ok(())
    }

    /// A variable of a turn is given a value before it is read, in the body's own statements.
    fn begins_anew(&self, b: BindingId) -> Opinion<()> {
        let (s, t) = (self.s, &self.s.tree);
        // of an expression or block inside, which has its own each time
        let scope = s.names.scope(s.names.binding(b).scope).node;
        if scope != self.body && t.contains(self.body, scope) {
            return Ok(());
        }
        let mut all = s.names.references_to(b);
        let first = all.next().filter(|r| r.usage == Use::Write).map(|r| r.node);
        let Some(first) = first else {
            return object(s, self.node, "a variable of a turn may have an earlier turn's value");
        };
        let statement = self.statements.iter().find(|x| t.contains(**x, first));
        let assign = t.ancestors(first).find(|a| t.role(*a) == Role::Assign);
        let direct = assign.is_some_and(|a| {
            t.child(a, Field::Left) == Some(first)
                && t.child(a, Field::Right).is_some()
                && (self.statements.contains(&a)
                    || t.parent(a).is_some_and(|p| self.statements.contains(&p) && !t.role(p).is_loop()))
        });
        let again = statement.is_some_and(|x| all.any(|r| t.contains(*x, r.node)));
        let block = statement.is_some_and(|x| matches!(t.role(*x), Role::Assign | Role::ExprStmt | Role::Declare));
        match direct && block && !again {
            true => Ok(()),
            false => object(s, first, "a variable of a turn may have an earlier turn's value"),
        }
    }
}

/// One turn against its copy.
struct Turn<'a> {
    l: &'a Loop<'a>,
    o: &'a Source,
    row: &'a [NodeId],
    copy: &'a [NodeId],
    scopes: ScopeMap,
    /// Variables of the copy, and what they are in the body.
    own: BTreeMap<BindingId, BindingId>,
    leaves: Vec<(NodeId, NodeId)>,
}

impl Turn<'_> {
    fn pair(&mut self, a: NodeId, b: NodeId) -> Opinion<()> {
        let (o, s) = (self.o, self.l.s);
        let (t, n) = (&o.tree, &s.tree);
        let target = s.names.at(b).and_then(|r| r.target);
        if let Some(k) = target.and_then(|x| self.l.names.iter().position(|c| *c == x)) {
            let value = self.row[k];
            let fits = t.is_leaf(a) && t.role(a) == n.role(value) && o.str(a) == s.str(value);
            let place = n.field(b) == t.field(a) && n.role(b) == Role::Name && self.can_stand(a);
            if !fits || !place {
                return object(o, a, "the row has another value for this");
            }
            if t.role(a) == Role::Name {
                self.leaves.push((a, value));
            }
            return Ok(());
        }
        if t.role(a) != n.role(b) || t.field(a) != n.field(b) {
            return object(o, a, "the turn is not what this was");
        }
        if o.names.scope_of(a).is_some() {
            self.scopes.insert(a, b);
        }
        if t.is_leaf(a) && n.is_leaf(b) {
            return self.leaf(a, b);
        }
        let (left, right): (Vec<NodeId>, Vec<NodeId>) = (t.children(a).collect(), n.children(b).collect());
        if left.len() != right.len() {
            return object(o, a, "code is missing in the turn, or was added");
        }
        left.into_iter().zip(right).try_for_each(|(x, y)| self.pair(x, y))
    }

    fn leaf(&mut self, a: NodeId, b: NodeId) -> Opinion<()> {
        let (o, s) = (self.o, self.l.s);
        let target = |s: &Source, n: NodeId| s.names.at(n).and_then(|r| r.target);
        let own = |x: BindingId| {
            let all = |n: NodeId| self.copy.iter().any(|c| o.tree.contains(*c, n));
            o.names.binding(x).kind == BindKind::Variable && o.names.references_to(x).all(|r| all(r.node))
        };
        let inside = |y: BindingId| s.names.references_to(y).all(|r| s.tree.contains(self.l.body, r.node));
        if let (Some(x), Some(y)) = (target(o, a), target(s, b)) {
            let same_use = o.names.at(a).map(|r| r.usage) == s.names.at(b).map(|r| r.usage);
            if own(x) && inside(y) && same_use {
                let known = *self.own.entry(x).or_insert(y);
                let other = self.own.iter().any(|(p, q)| *q == y && *p != x);
                return if known == y && !other { Ok(()) } else { object(o, a, "two variables would be one") };
            }
        }
        self.leaves.push((a, b));
        if o.tree.exact(a) == s.tree.exact(b) { Ok(()) } else { object(o, a, "the turn has another word") }
    }

    /// A name can take the place of this value.
    fn can_stand(&self, a: NodeId) -> bool {
        let t = &self.o.tree;
        let Some(p) = t.parent(a) else { return false };
        let key = t.role(p) == Role::Pair && t.children(p).next() == Some(a);
        let fixed = matches!(t.role(p), Role::Dict | Role::Case | Role::Pattern | Role::Concat);
        !key && !fixed && !self.o.lang.needs_constant(self.o, a) && t.ancestor(a, &[Role::Type]).is_none()
    }

    /// All words mean what they meant; those of the list do so already before the first turn.
    fn meanings(&self, frame: NodeId, (first, end): (NodeId, NodeId)) -> Opinion<()> {
        let (o, s) = (self.o, self.l.s);
        for (a, b) in &self.leaves {
            if !same_meaning(o, s, &self.scopes, *a, *b) {
                return object(o, *a, format!("`{}` would mean something else in the loop", o.str(*a)));
            }
            if self.row.contains(b) {
                self.is_fixed(frame, (first, end), *a)?;
            }
        }
        Ok(())
    }

    fn is_fixed(&self, frame: NodeId, (first, end): (NodeId, NodeId), a: NodeId) -> Opinion<()> {
        let (o, t) = (self.o, &self.o.tree);
        let no = || object(o, a, "this value may be another one before the first turn");
        let Some(b) = o.names.at(a).and_then(|r| r.target) else {
            return if o.lang.is_builtin(o.str(a)) { Ok(()) } else { no() };
        };
        let binding = o.names.binding(b);
        let changes = |r: &crate::names::Reference| r.usage != Use::Read && r.node >= first && r.node < end;
        if binding.rebound_inside || o.names.references_to(b).any(changes) {
            return no();
        }
        let here = o.names.scope(o.names.frame_of(b)).node == frame;
        let waits = (first.0..end.0).map(NodeId).any(|n| matches!(t.role(n), Role::Await | Role::Yield));
        if waits && !here {
            return no();
        }
        let block = |w: NodeId| {
            let block = t.ancestors(w).find(|p| t.role(*p).is_sequence());
            // what perhaps gives it a value, or takes it away again
            let perhaps = t.ancestors(w).take_while(|p| !t.role(*p).is_sequence()).any(|p| {
                use Role::*;
                matches!(t.role(p), If | Elif | While | For | Try | Except | Match | Case | Switch | With | Conditional)
                    || matches!(t.role(p), BoolOp | NamedExpr | Lambda | Comprehension | Generator | Call)
            });
            w < first && !perhaps && block.is_some_and(|p| t.contains(p, first))
        };
        let given = || block(binding.first) || o.names.references_to(b).any(|r| r.usage == Use::Write && block(r.node));
        let sure = match binding.kind {
            BindKind::Parameter => here || is_given_once(o, b),
            _ if here => given() || binding.hoisted,
            BindKind::Variable if o.names.scope(binding.scope).kind != ScopeKind::Module => false,
            _ => is_given_once(o, b),
        };
        if sure { Ok(()) } else { no() }
    }
}
