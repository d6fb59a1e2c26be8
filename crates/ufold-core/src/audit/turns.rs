//! A loop over values that are written out, and its turns against the copies that they took the place of.

use std::collections::BTreeMap;

use super::equal::as_attribute;
use super::outside::{ScopeMap, same_meaning};
use super::{Objection, Opinion, object};
use crate::index::users::is_given_once;
use crate::names::{BindKind, BindingId, ScopeKind, Source, Use};
use crate::tree::{Field, NodeId, Role};

/// A loop over a list that is written out.
pub(super) struct Loop<'a> {
    s: &'a Source,
    pub node: NodeId,
    /// What the head binds, in the order of the values.
    names: Vec<BindingId>,
    rows: Vec<Vec<Value>>,
    body: NodeId,
    statements: Vec<NodeId>,
    /// Those of them that put a value into a list.
    puts: Vec<Put>,
}

/// What a turn gives to a name.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Value {
    Written(NodeId),
    Counted(i64),
}

/// A statement that puts a value into a list.
struct Put {
    statement: NodeId,
    list: BindingId,
    /// The list's place in the call.
    member: NodeId,
    value: NodeId,
}

/// What the turns tell of the copies: of each its own variables, and the lists that have their values.
pub(super) struct Turned {
    pub own: Vec<Vec<BindingId>>,
    pub kept: Vec<Vec<(BindingId, BindingId)>>,
}

impl<'a> Loop<'a> {
    pub fn read(s: &'a Source, node: NodeId) -> Opinion<Loop<'a>> {
        let t = &s.tree;
        let wrong = || Objection {
            message: "this is no loop over values that are written out".into(),
            file: s.path.clone(),
            line: s.line(node),
        };
        let body = t.child(node, Field::Body).filter(|b| t.role(*b) == Role::Block).ok_or_else(wrong)?;
        let plain = t.children(node).all(|c| !matches!(t.role(c), Role::AsyncMark | Role::Else));
        let counted = counted(s, node, body);
        let (names, rows) = counted.or_else(|| listed(s, node)).filter(|_| plain).ok_or_else(wrong)?;
        if names.is_empty() || !rows.iter().all(|r| r.len() == names.len()) {
            return Err(wrong());
        }
        let statements: Vec<NodeId> = t.children(body).filter(|c| t.role(*c) != Role::Token).collect();
        let puts = statements.iter().filter_map(|x| put(s, *x)).collect();
        Ok(Loop { s, node, names, rows, body, statements, puts })
    }

    pub fn turns(&self) -> usize {
        self.rows.len()
    }

    /// Where the only statement that puts something into a list says so.
    pub fn puts(&self, list: BindingId) -> Option<NodeId> {
        let mut all = self.puts.iter().filter(|p| p.list == list);
        all.next().filter(|_| all.next().is_none()).map(|p| p.member)
    }

    /// What comes behind all else in a turn, and puts variables of it into lists.
    fn last_puts(&self) -> Vec<(BindingId, BindingId)> {
        let own = |n: NodeId| {
            let b = self.s.names.at(n).filter(|_| self.s.tree.role(n) == Role::Name)?.target?;
            let written = |r: &crate::names::Reference| r.usage != Use::Read && self.s.tree.contains(self.body, r.node);
            self.s.names.references_to(b).any(written).then_some(b)
        };
        let of = |x: &NodeId| {
            let p = self.puts.iter().find(|p| p.statement == *x)?;
            Some((own(p.value)?, p.list))
        };
        let mut all: Vec<(BindingId, BindingId)> = self.statements.iter().rev().map_while(of).collect();
        all.reverse();
        all
    }

    pub fn unrolls(&self, o: &Source, frame: NodeId, old: &[NodeId], scopes: &ScopeMap) -> Opinion<Turned> {
        let (s, t) = (self.s, &self.s.tree);
        let last = self.last_puts();
        let statements = &self.statements[..self.statements.len() - last.len()];
        if old.len() != self.rows.len() * statements.len() || self.rows.len() < 2 {
            return object(o, old[0], "the loop does not turn as often as there were copies");
        }
        let head = |n: NodeId| t.contains(self.node, n) && !t.contains(self.body, n);
        for b in &self.names {
            let outside = s.names.references_to(*b).any(|r| !t.contains(self.node, r.node));
            let written = s.names.references_to(*b).any(|r| r.usage != Use::Read && !head(r.node));
            if outside || written || s.names.binding(*b).rebound_inside {
                return object(s, self.node, "a name of the loop is used elsewhere too");
            }
        }
        self.stays_in_turn()?;
        let end = o.tree.end(old[old.len() - 1]);
        let mut turned = Turned { own: Vec::new(), kept: Vec::new() };
        let mut fresh: BTreeMap<BindingId, ()> = BTreeMap::new();
        for (row, copy) in self.rows.iter().zip(old.chunks(statements.len())) {
            let mut turn = Turn {
                l: self,
                o,
                row,
                copy,
                end,
                scopes: scopes.clone(),
                own: BTreeMap::new(),
                kept: Vec::new(),
                leaves: Vec::new(),
            };
            for (a, b) in copy.iter().zip(statements) {
                turn.statement(*a, *b)?;
            }
            turn.puts_last(&last)?;
            turn.meanings(frame, (old[0], end))?;
            fresh.extend(turn.own.values().map(|b| (*b, ())));
            turned.own.push(turn.own.keys().copied().chain(turn.kept.iter().map(|k| k.0)).collect());
            turned.kept.push(turn.kept);
        }
        for b in fresh.keys() {
            self.begins_anew(*b)?;
        }
        let kept = |b: BindingId| turned.kept.iter().flatten().any(|k| k.0 == b);
        self.leaves_values(o, (old[0], end), &kept)?;
        Ok(turned)
    }

    /// A compiler that looks for first values finds them before the loop.
    fn leaves_values(
        &self,
        o: &Source,
        (first, end): (NodeId, NodeId),
        kept: &dyn Fn(BindingId) -> bool,
    ) -> Opinion<()> {
        let t = &o.tree;
        for r in o.names.in_range(first, end).iter().filter(|r| r.usage.writes() && o.lang.checks_first_values()) {
            let behind = |b: &BindingId| !kept(*b) && o.names.references_to(*b).any(|x| x.node >= end);
            let Some(b) = r.target.filter(behind) else { continue };
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
                Role::Jump | Role::JumpTarget => return object(s, n, "this may leave the loop, or its turn"),
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
        // a counter is declared for each turn only where its block has it
        let for_turn = t.role(self.node) == Role::For || t.children(self.node).any(|c| s.str(c).starts_with("let "));
        let fresh = |b: BindingId| s.lang.loop_variables_are_fresh() && for_turn && self.names.contains(&b);
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
    row: &'a [Value],
    copy: &'a [NodeId],
    /// Behind the last copy.
    end: NodeId,
    scopes: ScopeMap,
    /// Variables of the copy, and what they are in the body.
    own: BTreeMap<BindingId, BindingId>,
    /// Variables of the copy whose values are put into lists.
    kept: Vec<(BindingId, BindingId)>,
    leaves: Vec<(NodeId, NodeId)>,
}

impl Turn<'_> {
    fn statement(&mut self, a: NodeId, b: NodeId) -> Opinion<()> {
        let Some(put) = self.l.puts.iter().find(|p| p.statement == b) else { return self.pair(a, b) };
        if self.o.tree.role(a) == self.l.s.tree.role(b) && sides(self.o, a).is_none() {
            return self.pair(a, b);
        }
        let (o, t) = (self.o, &self.o.tree);
        let no = |n: NodeId| object(o, n, "this is not what is put into the list");
        let Some((left, right)) = sides(o, a) else { return no(a) };
        let x = o.names.at(left).filter(|r| r.usage == Use::Write && t.role(left) == Role::Name);
        let Some(x) = x.and_then(|r| r.target) else { return no(left) };
        let used = o.names.references_to(x).any(|r| r.node != left && r.node < self.end);
        let typed = t.subtree(a).any(|n| t.field(n) == Field::Type);
        if used || o.names.binding(x).rebound_inside || typed && !o.lang.needs_types() {
            return no(left);
        }
        self.kept.push((x, put.list));
        self.value(right, put.value)
    }

    /// A value, wherever it stands.
    fn value(&mut self, a: NodeId, b: NodeId) -> Opinion<()> {
        let (o, s) = (self.o, self.l.s);
        let (t, n) = (&o.tree, &s.tree);
        if t.is_leaf(a) || t.role(a) != n.role(b) {
            return self.placed(a, b);
        }
        if o.names.scope_of(a).is_some() {
            self.scopes.insert(a, b);
        }
        let (left, right): (Vec<NodeId>, Vec<NodeId>) = (t.children(a).collect(), n.children(b).collect());
        match left.len() == right.len() {
            true => left.into_iter().zip(right).try_for_each(|(x, y)| self.pair(x, y)),
            false => object(o, a, "code is missing in the turn, or was added"),
        }
    }

    /// Variables that are put into lists when the turn has done all else.
    fn puts_last(&mut self, last: &[(BindingId, BindingId)]) -> Opinion<()> {
        for (y, list) in last {
            let Some((x, _)) = self.own.iter().find(|(_, known)| *known == y) else {
                return object(self.l.s, self.l.node, "what is put into the list is no variable of the copies");
            };
            self.kept.push((*x, *list));
        }
        Ok(())
    }

    fn pair(&mut self, a: NodeId, b: NodeId) -> Opinion<()> {
        match self.o.tree.field(a) == self.l.s.tree.field(b) {
            true => self.placed(a, b),
            false => object(self.o, a, "the turn is not what this was"),
        }
    }

    fn placed(&mut self, a: NodeId, b: NodeId) -> Opinion<()> {
        let (o, s) = (self.o, self.l.s);
        let (t, n) = (&o.tree, &s.tree);
        if let Some(value) = self.given(b) {
            let fits = match value {
                Value::Written(v) => t.role(a) == n.role(v) && o.str(a) == s.str(v),
                Value::Counted(v) => t.role(a) == Role::Literal && o.str(a) == v.to_string(),
            };
            if !fits || !t.is_leaf(a) || n.role(b) != Role::Name || !self.can_stand(a) {
                return object(o, a, "the row has another value for this");
            }
            if let Value::Written(v) = value
                && t.role(a) == Role::Name
            {
                self.leaves.push((a, v));
            }
            return Ok(());
        }
        if let Some(value) = as_attribute(o, a, s, b) {
            return self.placed(a, value);
        }
        if t.role(a) == Role::Literal && n.role(b) == Role::Template {
            return match self.says(b) {
                Some(text) if is_text(o.str(a), &text) && self.can_stand(a) && may_be_made(o, a) => Ok(()),
                _ => object(o, a, "the turn says another text"),
            };
        }
        if t.role(a) != n.role(b) {
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
            let all = |n: NodeId| n >= self.end || self.copy.iter().any(|c| o.tree.contains(*c, n));
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

    /// What the loop gives to a name in this turn.
    fn given(&self, b: NodeId) -> Option<Value> {
        let target = self.l.s.names.at(b).and_then(|r| r.target)?;
        self.l.names.iter().position(|c| *c == target).map(|k| self.row[k])
    }

    /// The text that is put together from plain words and one of the loop's numbers.
    fn says(&self, template: NodeId) -> Option<String> {
        let (s, t) = (self.l.s, &self.l.s.tree);
        let parts: Vec<NodeId> = t.children(template).filter(|c| t.role(*c) == Role::Interpolation).collect();
        let [part] = parts[..] else { return None };
        let name = t.subtree(part).find(|n| t.role(*n) == Role::Name)?;
        let number = match self.given(name)? {
            Value::Counted(v) => v.to_string(),
            Value::Written(v) => s.str(v).parse::<u32>().ok().map(|n| n.to_string()).filter(|n| n == s.str(v))?,
        };
        let (before, behind) = s.lang.loops()?.text_around(s, (template, part), s.str(name))?;
        Some(format!("{before}{number}{behind}"))
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
            if self.row.contains(&Value::Written(*b)) {
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

/// Names and rows of a loop over a list.
fn listed(s: &Source, node: NodeId) -> Option<(Vec<BindingId>, Vec<Vec<Value>>)> {
    let t = &s.tree;
    let (left, right) = s.lang.loops()?.goes_through(s, node)?;
    let list = t.subtree(right).find(|n| t.role(*n) == Role::List)?;
    // where types are written the variable has that of the values
    let written = |n: NodeId| t.child(n, Field::Type).map(|x| s.str(x)).filter(|x| !s.lang.is_declaring_word(x));
    let types = [node, list].map(written);
    // nothing but the list, or a mark of its type around it
    let inner = |n: NodeId| t.children(n).filter(|c| t.role(*c) != Role::Token).collect::<Vec<_>>();
    let around = t.subtree(right).take_while(|n| *n != list);
    let more = |n: NodeId| matches!(t.role(n), Role::Call | Role::Spread | Role::BinaryOp | Role::Index);
    if types[0] != types[1] || around.into_iter().any(more) {
        return None;
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
    let plain = rows.iter().flatten().all(leaf);
    plain.then(|| (names, rows.into_iter().map(|r| r.into_iter().map(Value::Written).collect()).collect()))
}

/// The name and the numbers of a loop that counts by ones.
fn counted(s: &Source, node: NodeId, body: NodeId) -> Option<(Vec<BindingId>, Vec<Vec<Value>>)> {
    let written = s.names.in_range(node, body).iter().find(|r| r.usage == Use::Write)?;
    let (first, last) = s.lang.loops()?.counted(s, node, s.str(written.node))?;
    let few = last.checked_sub(first).is_some_and(|n| n < MOST_TURNS);
    let turns = (first..=last).map(|v| vec![Value::Counted(v)]);
    few.then_some((vec![written.target?], turns.collect()))
}

/// Copies that anybody writes.
const MOST_TURNS: i64 = 10_000;

/// `list.append(value)`, by itself.
fn put(s: &Source, statement: NodeId) -> Option<Put> {
    let t = &s.tree;
    let call = std::iter::once(statement).chain(t.children(statement)).find(|n| t.role(*n) == Role::Call)?;
    let member = t.child(call, Field::Callee).filter(|c| t.role(*c) == Role::Member)?;
    let object = t.child(member, Field::Object).filter(|n| t.role(*n) == Role::Name)?;
    let list = s.names.at(object)?.target?;
    let word = t.child(member, Field::Member).map(|m| s.str(m))?;
    let last = s.lang.loops().is_some_and(|l| l.puts_last() == Some(word));
    let arguments = t.child(call, Field::Arguments)?;
    let all: Vec<NodeId> = t.children(arguments).filter(|c| t.role(*c) != Role::Token).collect();
    let [value] = all[..] else { return None };
    let plain = !matches!(t.role(value), Role::Spread | Role::KeywordArg | Role::Generator);
    // a list that the loop's file makes empty just before it
    let made = s.names.references_to(list).find(|r| r.usage == Use::Write)?;
    let before = t.ancestors(made.node).find(|a| t.parent(*a).is_some_and(|p| t.role(p).is_sequence()))?;
    let empty = sides(s, before).is_some_and(|x| is_empty_list(s, x.1));
    (last && plain && empty).then_some(Put { statement, list, member, value })
}

/// Both sides of a statement that does nothing but give one value.
pub(super) fn sides(s: &Source, statement: NodeId) -> Option<(NodeId, NodeId)> {
    let t = &s.tree;
    let inner: Vec<NodeId> = t.subtree(statement).filter(|n| t.role(*n) == Role::Assign).collect();
    let [assign] = inner[..] else { return None };
    let way: Vec<NodeId> = t.ancestors(assign).take_while(|a| *a != statement).chain([statement]).collect();
    let plain = way.iter().all(|a| matches!(t.role(*a), Role::Assign | Role::ExprStmt | Role::Declare));
    Some((t.child(assign, Field::Left)?, t.child(assign, Field::Right)?)).filter(|_| plain)
}

pub(super) fn is_empty_list(s: &Source, n: NodeId) -> bool {
    s.tree.role(n) == Role::List && s.tree.children(n).all(|c| s.tree.role(c) == Role::Token)
}

/// Nobody asks whether it is the same object.
fn may_be_made(o: &Source, a: NodeId) -> bool {
    o.lang.loops().is_some_and(|l| l.takes_made_text(o, a))
}

/// A literal in plain quotes that says this.
fn is_text(literal: &str, text: &str) -> bool {
    let inner = ['"', '\''].iter().find_map(|q| literal.strip_prefix(*q)?.strip_suffix(*q));
    inner.is_some_and(|x| x == text && !x.contains('\\'))
}
