//! From the tree to the graph, by roles.

use rustc_hash::{FxHashMap, FxHashSet};

use typed_index_collections::TiVec;

use super::region::target_of_jump;
use super::{Flow, Point, PointId, What};
use crate::lang::Language;
use crate::names::{BindingId, Names, Source, Use};
use crate::tree::{Field, NodeId, Role, Tree};

mod loops;

/// Points whose next point is not known yet.
type Loose = Vec<PointId>;

struct Loop {
    /// Where `continue` goes; none for what only `break` leaves.
    head: Option<PointId>,
    breaks: Loose,
    /// Hash of the label on it.
    label: Option<u64>,
    /// A block that is left by its label only.
    named_only: bool,
    /// Number of `finally` frames around the loop.
    finals: usize,
}

struct Final {
    entry: PointId,
    /// Where jumps through it wanted to go.
    towards: Vec<PointId>,
}

struct Build<'a> {
    tree: &'a Tree,
    text: &'a str,
    names: &'a Names,
    lang: &'a dyn Language,
    /// The code that is asked about.
    region: NodeId,
    flow: Flow,
    loops: Vec<Loop>,
    finals: Vec<Final>,
    handlers: Vec<PointId>,
    exit: PointId,
    /// Hash of the label that the next loop has.
    label: Option<u64>,
    /// Where jumps by name go on.
    targets: FxHashMap<NodeId, PointId>,
    /// The local that the function being made is given to, and the function's body.
    given_later: Option<(usize, NodeId)>,
}

pub(super) fn build(source: &Source, function: NodeId, region: NodeId, locals: Vec<BindingId>) -> Flow {
    let (tree, text, names, lang) = (&source.tree, &*source.text, &source.names, source.lang);
    let index = locals.iter().enumerate().map(|(i, b)| (*b, i)).collect();
    let flow = Flow {
        points: TiVec::new(),
        by_node: Vec::new(),
        enter: FxHashMap::default(),
        leave: FxHashMap::default(),
        hoisted: FxHashSet::default(),
        locals,
        index,
        exit: PointId(0),
        live: TiVec::new(),
        bound: TiVec::new(),
    };
    let mut b = Build {
        tree,
        text,
        names,
        lang,
        region,
        flow,
        loops: Vec::new(),
        finals: Vec::new(),
        handlers: Vec::new(),
        exit: PointId(0),
        label: None,
        targets: FxHashMap::default(),
        given_later: None,
    };
    let start = b.point(What::Nothing, function, vec![]);
    b.exit = b.point(What::Nothing, function, vec![]);
    b.flow.exit = b.exit;
    let mut loose = vec![start];
    let body = if function == Tree::ROOT { Some(function) } else { tree.child(function, Field::Body) };
    if let Some(body) = body {
        loose = if tree.role(body).is_sequence() { b.block(body, loose) } else { b.expr(body, loose) };
    }
    let exit = b.exit;
    b.link(&loose, exit);
    b.flow
}

impl Build<'_> {
    fn point(&mut self, what: What, node: NodeId, from: Loose) -> PointId {
        let id = self.flow.points.next_key();
        let raises = if what == What::Effect { self.handlers.clone() } else { Vec::new() };
        self.flow.points.push(Point { what, node, next: Vec::new(), raises });
        self.link(&from, id);
        id
    }

    fn then(&mut self, what: What, node: NodeId, from: Loose) -> Loose {
        vec![self.point(what, node, from)]
    }

    fn link(&mut self, from: &[PointId], to: PointId) {
        for f in from {
            if !self.flow.points[*f].next.contains(&to) {
                self.flow.points[*f].next.push(to);
            }
        }
    }

    fn local(&self, node: NodeId) -> Option<(usize, Use)> {
        let r = self.names.at(node)?;
        Some((*self.flow.index.get(&r.target?)?, r.usage))
    }

    fn block(&mut self, id: NodeId, loose: Loose) -> Loose {
        let statements: Vec<NodeId> = self.tree.children(id).collect();
        self.statements(&statements, loose)
    }

    fn statements(&mut self, list: &[NodeId], mut loose: Loose) -> Loose {
        // functions that are there before the first statement runs
        for s in list {
            if self.is_hoisted(*s) {
                self.flow.hoisted.extend(self.tree.subtree(*s));
                loose = self.definition(*s, loose);
            }
        }
        for s in list {
            loose = self.statement(*s, loose);
        }
        loose
    }

    fn is_hoisted(&self, statement: NodeId) -> bool {
        let inner = self.tree.definition_in(statement);
        let name = self.tree.child(inner, Field::Name).filter(|_| self.tree.role(inner) == Role::Function);
        let target = name.and_then(|n| self.names.at(n)).and_then(|r| r.target);
        target.is_some_and(|b| self.names.binding(b).hoisted)
    }

    /// The body of a statement: a block, or one statement.
    fn body(&mut self, id: NodeId, loose: Loose) -> Loose {
        match self.tree.child(id, Field::Body) {
            Some(body) if self.tree.role(body) == Role::Block => self.block(body, loose),
            Some(body) => self.statement(body, loose),
            None => loose,
        }
    }

    fn statement(&mut self, id: NodeId, loose: Loose) -> Loose {
        let enter = self.point(What::Nothing, id, loose);
        self.flow.enter.insert(id, enter);
        let out = self.statement_inner(id, vec![enter]);
        let leave = self.point(What::Nothing, id, out);
        self.flow.leave.insert(id, leave);
        vec![leave]
    }

    fn statement_inner(&mut self, id: NodeId, loose: Loose) -> Loose {
        match self.tree.role(id) {
            Role::If => self.branches(id, loose),
            Role::For => self.for_loop(id, loose),
            Role::CountedFor => self.counted_loop(id, loose),
            Role::While => self.while_loop(id, loose),
            Role::DoWhile => self.do_while(id, loose),
            Role::Try => self.try_statement(id, loose),
            Role::With => self.with(id, loose),
            Role::Match => self.match_statement(id, loose),
            Role::Switch => self.switch(id, loose),
            Role::Labeled => self.labeled(id, loose),
            Role::Jump if self.tree.levels.contains_key(&id) => self.leave_loop(id, loose),
            Role::Jump => {
                let at = self.then(What::Nothing, id, loose);
                if let Some(target) = target_of_jump(self.tree, id) {
                    let target = self.jump_target(target);
                    self.link(&at, target);
                }
                vec![]
            }
            Role::JumpTarget => {
                let target = self.jump_target(id);
                self.link(&loose, target);
                vec![target]
            }
            Role::Block => self.block(id, loose),
            Role::Return => {
                let out = self.children(id, loose);
                self.jump(out, id, self.exit, 0)
            }
            Role::Raise => {
                let out = self.children(id, loose);
                let p = self.point(What::Effect, id, out);
                let exit = self.exit;
                self.jump(vec![p], id, exit, 0)
            }
            Role::Break | Role::Continue => {
                let out = self.children(id, loose);
                self.leave_loop(id, out)
            }
            Role::Assert => {
                let out = self.children(id, loose);
                self.then(What::Effect, id, out)
            }
            Role::Delete => self.children(id, loose),
            _ if self.is_hoisted(id) => loose,
            Role::Function | Role::Class | Role::Decorated => self.definition(id, loose),
            _ => self.expr(id, loose),
        }
    }

    /// Leaves towards a point, through the `finally` frames above `keep`.
    fn jump(&mut self, loose: Loose, node: NodeId, to: PointId, keep: usize) -> Loose {
        let p = self.point(What::Nothing, node, loose);
        match self.finals.last().map(|f| f.entry) {
            Some(entry) if self.finals.len() > keep => {
                for f in self.finals[keep..].iter_mut() {
                    f.towards.push(to);
                }
                self.link(&[p], entry);
            }
            _ => self.link(&[p], to),
        }
        vec![]
    }

    fn children(&mut self, id: NodeId, mut loose: Loose) -> Loose {
        for c in self.tree.children(id) {
            loose = self.expr(c, loose);
        }
        loose
    }

    fn field(&mut self, id: NodeId, field: Field, loose: Loose) -> Loose {
        let all: Vec<NodeId> = self.tree.children(id).filter(|c| self.tree.field(*c) == field).collect();
        all.into_iter().fold(loose, |l, c| self.expr(c, l))
    }

    /// An expression, or a part of a statement that is evaluated like one.
    fn expr(&mut self, id: NodeId, loose: Loose) -> Loose {
        let t = self.tree;
        match t.role(id) {
            Role::Name => self.name(id, loose),
            Role::Assign => self.assign(id, loose),
            Role::AugAssign => self.aug_assign(id, loose),
            Role::OrAssign => {
                let used = self.field(id, Field::Left, loose);
                let mut given = self.field(id, Field::Right, used.clone());
                given.extend(used);
                self.then(What::Effect, id, given)
            }
            Role::Default => {
                let mut given = self.field(id, Field::Right, loose.clone());
                given.extend(loose);
                self.field(id, Field::Left, given)
            }
            Role::NamedExpr => {
                let out = self.field(id, Field::Value, loose);
                self.field(id, Field::Name, out)
            }
            Role::Conditional => self.conditional(id, loose),
            Role::BoolOp => {
                let left = self.field(id, Field::Left, loose);
                let mut out = self.field(id, Field::Right, left.clone());
                out.extend(left);
                out
            }
            Role::Lambda | Role::Function | Role::Class => self.captured_uses(id, loose),
            Role::Comprehension | Role::Generator => self.comprehension(id, loose),
            Role::Block => self.block(id, loose),
            // one that gives a value
            Role::Switch => self.switch(id, loose),
            Role::Literal | Role::Token | Role::MemberName | Role::KeywordName | Role::Doc | Role::Type => loose,
            role => {
                let out = self.children(id, loose);
                use Role::*;
                let operates = matches!(role, Call | Member | Index | BinaryOp | UnaryOp | Compare | Await | Yield);
                let makes = matches!(role, Pattern | Template | Spread | Markup | Delete | DynamicScope);
                let effect = operates || makes || matches!(role, Import | ImportFrom);
                if effect { self.then(What::Effect, id, out) } else { out }
            }
        }
    }

    fn name(&mut self, id: NodeId, loose: Loose) -> Loose {
        match self.local(id) {
            Some((i, Use::Read)) => self.then(What::Use(i), id, loose),
            Some((i, Use::Write)) => self.then(What::Define(i), id, loose),
            Some((i, Use::Update)) => {
                let used = self.then(What::Use(i), id, loose);
                self.then(What::Define(i), id, used)
            }
            // deleting what has no value raises
            Some((i, Use::Delete)) => {
                let used = self.then(What::Use(i), id, loose);
                self.then(What::Delete(i), id, used)
            }
            None => loose,
        }
    }

    fn assign(&mut self, id: NodeId, loose: Loose) -> Loose {
        let t = self.tree;
        // a function that is the value is called later, if at all
        let right = t.child(id, Field::Right).filter(|r| t.role(*r) == Role::Lambda);
        let name = t.child(id, Field::Left).filter(|l| t.role(*l) == Role::Name);
        let given = right.zip(name).and_then(|(r, n)| Some((self.local(n)?.0, t.child(r, Field::Body)?)));
        let before = std::mem::replace(&mut self.given_later, given);
        let out = self.field(id, Field::Right, loose);
        self.given_later = before;
        self.field(id, Field::Left, out)
    }

    fn aug_assign(&mut self, id: NodeId, loose: Loose) -> Loose {
        let t = self.tree;
        let left = t.child(id, Field::Left);
        let name = left.filter(|l| t.role(*l) == Role::Name).and_then(|l| Some((l, self.local(l)?.0)));
        let mut out = loose;
        if let Some((l, i)) = name {
            out = self.then(What::Use(i), l, out);
        } else {
            out = self.field(id, Field::Left, out);
        }
        out = self.field(id, Field::Right, out);
        out = self.then(What::Effect, id, out);
        match name {
            Some((l, i)) => self.then(What::Define(i), l, out),
            None => out,
        }
    }

    fn conditional(&mut self, id: NodeId, loose: Loose) -> Loose {
        let Some([condition, value, other]) = self.tree.conditional_parts(id) else { return self.children(id, loose) };
        let tested = self.expr(condition, loose);
        let mut out = self.expr(value, tested.clone());
        out.extend(self.expr(other, tested));
        out
    }

    /// What an inner function or class reads of this function's locals, as far as it is known where it is made.
    fn captured_uses(&mut self, id: NodeId, mut loose: Loose) -> Loose {
        let (from, to) = (id, self.tree.end(id));
        let uses: Vec<(NodeId, usize)> = self
            .names
            .in_range(from, to)
            .iter()
            .filter(|r| r.usage.reads())
            .filter_map(|r| Some((r.node, *self.flow.index.get(&r.target?)?)))
            .filter(|(n, i)| self.given_later.is_none_or(|(given, body)| *i != given || !self.tree.contains(body, *n)))
            .collect();
        for (node, i) in uses {
            loose = self.then(What::Use(i), node, loose);
        }
        self.then(What::Effect, id, loose)
    }

    fn comprehension(&mut self, id: NodeId, loose: Loose) -> Loose {
        let mut out = self.captured_uses(id, loose);
        let written: Vec<(NodeId, usize)> = self
            .names
            .in_range(id, self.tree.end(id))
            .iter()
            .filter(|r| r.usage.writes())
            .filter_map(|r| Some((r.node, *self.flow.index.get(&r.target?)?)))
            .collect();
        for (node, i) in written {
            let skip = out.clone();
            out = self.then(What::Define(i), node, out);
            out.extend(skip);
        }
        out
    }

    fn definition(&mut self, id: NodeId, loose: Loose) -> Loose {
        let t = self.tree;
        let inner = t.definition_in(id);
        let name = t.child(inner, Field::Name).and_then(|n| Some((n, self.local(n)?.0)));
        // a decorator may call it before it has its name; so may what a class does while it is made, but then there is none
        let only = |i: usize| {
            let writes = self.names.references_to(self.flow.locals[i]).filter(|r| r.usage.writes());
            writes.take(2).count() < 2
        };
        let is_given = |i: usize| t.role(id) == Role::Function || t.role(id) == Role::Class && only(i);
        let body = t.child(inner, Field::Body);
        let given = name.zip(body).map(|((_, i), body)| (i, body)).filter(|(i, _)| is_given(*i));
        let before = std::mem::replace(&mut self.given_later, given);
        let out = self.captured_uses(id, loose);
        self.given_later = before;
        match name {
            Some((n, i)) => self.then(What::Define(i), n, out),
            None => out,
        }
    }

    fn branches(&mut self, id: NodeId, loose: Loose) -> Loose {
        let t = self.tree;
        let mut failed = self.field(id, Field::Condition, loose);
        let mut done = self.body(id, failed.clone());
        for c in t.children(id).filter(|c| t.field(*c) == Field::Alternative).collect::<Vec<_>>() {
            if t.role(c) == Role::Elif {
                failed = self.field(c, Field::Condition, failed);
                done.extend(self.body(c, failed.clone()));
            } else if t.child(c, Field::Body).is_some() {
                failed = self.body(c, failed);
            }
        }
        done.extend(failed);
        done
    }

    fn try_statement(&mut self, id: NodeId, loose: Loose) -> Loose {
        let t = self.tree;
        let clause = |role: Role| t.children(id).filter(move |c| t.role(*c) == role).collect::<Vec<_>>();
        let final_clause = clause(Role::Finally).first().copied();
        let excepts = clause(Role::Except);
        let depth = self.handlers.len();
        if let Some(f) = final_clause {
            let entry = self.point(What::Nothing, f, vec![]);
            self.handlers.push(entry);
            self.finals.push(Final { entry, towards: Vec::new() });
        }
        let entries: Vec<PointId> = excepts.iter().map(|e| self.point(What::Nothing, *e, vec![])).collect();
        self.handlers.extend(&entries);
        // what is opened before the body, and closed after it
        let opened = t.child(id, Field::Init).is_some();
        let loose = self.field(id, Field::Init, loose);
        let mut out = match t.child(id, Field::Body) {
            Some(body) => self.block(body, loose),
            None => loose,
        };
        if opened {
            out = self.then(What::Effect, id, out);
        }
        self.handlers.truncate(depth + usize::from(final_clause.is_some()));
        for c in clause(Role::Else) {
            if let Some(body) = t.child(c, Field::Body) {
                out = self.block(body, out);
            }
        }
        for (e, entry) in excepts.iter().zip(entries) {
            out.extend(self.except(*e, entry));
        }
        let Some(f) = final_clause else { return out };
        self.handlers.truncate(depth);
        let frame = self.finals.pop().expect("pushed above");
        self.finally(f, frame, out)
    }

    /// What runs in the end: one copy for those who leave early, one for those who go on.
    fn finally(&mut self, id: NodeId, frame: Final, out: Loose) -> Loose {
        // a region inside it is both at once
        let is_one = self.tree.contains(id, self.region);
        if is_one {
            self.link(&out, frame.entry);
        }
        let goes_on = self.is_reached(&out);
        let after = self.children(id, vec![frame.entry]);
        let onward: Vec<PointId> = self.handlers.iter().chain(&frame.towards).copied().chain([self.exit]).collect();
        for to in onward {
            self.link(&after, to);
        }
        match (is_one, goes_on) {
            (true, _) => after,
            (false, false) => Vec::new(),
            (false, true) => {
                let entry = self.point(What::Nothing, id, out);
                self.children(id, vec![entry])
            }
        }
    }

    /// Whether some of the points can be reached from the function's start.
    fn is_reached(&self, points: &[PointId]) -> bool {
        let mut seen: TiVec<PointId, bool> = vec![false; self.flow.points.len()].into();
        let mut todo = vec![PointId(0)];
        while let Some(p) = todo.pop() {
            if !std::mem::replace(&mut seen[p], true) {
                todo.extend(self.flow.points[p].next.iter().chain(&self.flow.points[p].raises));
            }
        }
        points.iter().any(|p| seen[*p])
    }

    fn except(&mut self, id: NodeId, entry: PointId) -> Loose {
        let t = self.tree;
        let mut out = vec![entry];
        let mut alias = None;
        for c in t.children(id).collect::<Vec<_>>() {
            // written `E as e`, the alias is bound by the pattern
            if t.role(c) == Role::AsPattern {
                alias = t.subtree(c).filter(|n| t.role(*n) == Role::Name).find_map(|n| {
                    let (i, usage) = self.local(n)?;
                    usage.writes().then_some((n, i))
                });
            } else if t.field(c) == Field::Alias {
                alias = self.local(c).map(|(i, _)| (c, i));
            }
            out = self.expr(c, out);
        }
        match alias {
            Some((n, i)) => self.then(What::Delete(i), n, out),
            None => out,
        }
    }

    fn with(&mut self, id: NodeId, loose: Loose) -> Loose {
        let t = self.tree;
        let items: Vec<NodeId> = t.children(id).filter(|c| t.field(*c) != Field::Body).collect();
        let mut out = loose;
        let mut swallows = false;
        for c in items {
            swallows |= t
                .subtree(c)
                .filter(|n| t.role(*n) == Role::Call)
                .filter_map(|n| t.child(n, Field::Callee))
                .any(|n| self.lang.swallows(t.text(n, self.text)));
            out = self.expr(c, out);
        }
        out = self.then(What::Effect, id, out);
        let Some(body) = t.child(id, Field::Body) else { return out };
        if !swallows {
            let done = self.block(body, out);
            return self.then(What::Effect, id, done);
        }
        let after = self.point(What::Nothing, id, vec![]);
        self.handlers.push(after);
        let done = self.block(body, out);
        self.handlers.pop();
        self.link(&done, after);
        vec![after]
    }

    fn takes_all(&self, case: NodeId) -> bool {
        let t = self.tree;
        let heads = t.children(case).filter(|c| t.field(*c) != Field::Body && t.role(*c) != Role::Token);
        let parts: Vec<NodeId> = heads.collect();
        let [only] = parts[..] else { return false };
        let text = t.text(only, self.text).trim();
        !text.is_empty()
            && text.chars().all(|c| c.is_alphanumeric() || c == '_')
            && t.subtree(only).all(|n| t.role(n) != Role::Literal)
    }

    fn match_statement(&mut self, id: NodeId, loose: Loose) -> Loose {
        let t = self.tree;
        let mut next = self.field(id, Field::Subject, loose);
        let mut done = Vec::new();
        let cases: Vec<NodeId> = t.subtree(id).filter(|c| t.role(*c) == Role::Case).collect();
        for c in cases.into_iter().filter(|c| t.ancestor(*c, &[Role::Match]) == Some(id)) {
            let mut here = self.then(What::Effect, c, next.clone());
            for p in t.children(c).filter(|p| t.field(*p) != Field::Body).collect::<Vec<_>>() {
                here = self.expr(p, here);
            }
            // a pattern that takes everything lets nothing through to the next one
            if self.takes_all(c) {
                next.clear();
            } else {
                next.extend(here.clone());
            }
            if let Some(body) = t.child(c, Field::Body) {
                done.extend(self.block(body, here));
            }
        }
        done.extend(next);
        done
    }
}
