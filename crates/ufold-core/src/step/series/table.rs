//! What the copies of a series have in common, and in what they differ: columns of values, and locals of their own.

use crate::change::{Code, Found, reason};
use crate::index::users::is_given_once;
use crate::names::{BindKind, BindingId, Names, Reference, ScopeKind, Source, Use};
use crate::tree::{Field, NodeId, Role, Tree};

/// A place in which the copies have different values.
pub(super) struct Column {
    /// Of each copy.
    pub texts: Vec<String>,
    /// The variables that these are.
    targets: Vec<Option<BindingId>>,
    /// Where the first copy has it.
    pub nodes: Vec<NodeId>,
}

/// A variable that each copy has for itself.
pub(super) struct Local {
    pub bindings: Vec<BindingId>,
    /// Code behind the copies uses all of them.
    pub kept: bool,
}

pub(super) struct Table {
    pub rows: Vec<Vec<NodeId>>,
    pub columns: Vec<Column>,
    pub locals: Vec<Local>,
}

/// More columns than this are read by nobody.
const MOST_COLUMNS: usize = 5;

impl Table {
    pub fn of(s: &Source, frame: NodeId, rows: Vec<Vec<NodeId>>) -> Found<Table> {
        let mut table = Table { rows, columns: Vec::new(), locals: Vec::new() };
        table.side_by_side(s)?;
        table.compare(s)?;
        table.turns(s)?;
        for l in &table.locals {
            l.bindings.iter().zip(&table.rows).try_for_each(|(b, row)| is_own(s, *b, row))?;
        }
        let refuse = |n: NodeId, code: Code, why: &str| Err(vec![reason(s, n, code, why)]);
        if table.columns.is_empty() {
            return refuse(table.rows[0][0], Code::HoleNoValue, "the copies are the same but for names of locals");
        }
        if table.columns.len() > MOST_COLUMNS {
            return refuse(
                table.rows[0][0],
                Code::TooManyParameters,
                "the copies differ in too many values for a list",
            );
        }
        table.values(s, frame)?;
        Ok(table)
    }

    pub fn first(&self) -> NodeId {
        self.rows[0][0]
    }

    /// Behind the first copy.
    pub fn row_end(&self, s: &Source) -> NodeId {
        self.rows[0].last().map_or(self.first(), |l| s.tree.end(*l))
    }

    pub fn end(&self, s: &Source) -> NodeId {
        let last = self.rows.last().and_then(|r| r.last()).expect("a copy has statements");
        s.tree.end(*last)
    }

    /// Nothing stands between the copies.
    fn side_by_side(&self, s: &Source) -> Found<()> {
        let t = &s.tree;
        let refuse = |n: NodeId, why: &str| Err(vec![reason(s, n, Code::DifferentStatements, why)]);
        let all: Vec<NodeId> = self.rows.iter().flatten().copied().collect();
        let block = t.parent(all[0]).unwrap_or(Tree::ROOT);
        let own: Vec<NodeId> = t.children(block).filter(|c| t.role(*c) != Role::Token).collect();
        let at = own.iter().position(|c| *c == all[0]).unwrap_or(0);
        if self.rows.len() < 2 || own.get(at..at + all.len()) != Some(&all[..]) {
            return refuse(all[0], "the copies don't stand one behind the other");
        }
        match self.rows.iter().find(|r| r.len() != self.rows[0].len()) {
            Some(r) => refuse(r[0], "this copy has more or fewer statements than the first"),
            None => Ok(()),
        }
    }

    fn compare(&mut self, s: &Source) -> Found<()> {
        let t = &s.tree;
        for k in 0..self.rows[0].len() {
            let heads: Vec<NodeId> = self.rows.iter().map(|r| r[k]).collect();
            let size = t.end(heads[0]).0 - heads[0].0;
            if let Some(h) = heads.iter().find(|h| t.end(**h).0 - h.0 != size) {
                return Err(vec![reason(s, *h, Code::HoleNoValue, "the copies differ in more than single words")]);
            }
            for offset in 0..size {
                let nodes: Vec<NodeId> = heads.iter().map(|h| NodeId(h.0 + offset)).collect();
                self.column(s, nodes)?;
            }
        }
        Ok(())
    }

    fn column(&mut self, s: &Source, nodes: Vec<NodeId>) -> Found<()> {
        let t = &s.tree;
        let first = nodes[0];
        let alike = |n: &NodeId| {
            let size = |n: NodeId| t.end(n).0 - n.0;
            let role = t.role(*n) == t.role(first) || t.is_leaf(*n) && is_value(s, *n) && is_value(s, first);
            role && t.field(*n) == t.field(first) && size(*n) == size(first)
        };
        let no = |n: NodeId, why: &str| Err(vec![reason(s, n, Code::HoleNoValue, why)]);
        if let Some(n) = nodes.iter().find(|n| !alike(n)) {
            return no(*n, "the copies differ in more than single words");
        }
        if !t.is_leaf(first) {
            return Ok(());
        }
        let target = |n: NodeId| s.names.at(n).and_then(|r| r.target);
        if nodes.iter().all(|n| s.str(*n) == s.str(first)) {
            let within = |(i, n): (usize, &NodeId)| {
                let own = |b: BindingId| s.names.references_to(b).all(|r| self.holds(s, i, r.node));
                target(*n).is_none_or(own)
            };
            let same = nodes.iter().all(|n| target(*n) == target(first));
            let each = nodes.iter().enumerate().all(within);
            return if same || each { Ok(()) } else { no(first, "the same name is another variable in each copy") };
        }
        if let Some(own) = self.locals_at(s, &nodes) {
            let known = |l: &&Local| l.bindings[0] == own.bindings[0] || l.bindings[1] == own.bindings[1];
            return match self.locals.iter().find(known) {
                Some(l) if l.bindings == own.bindings => Ok(()),
                Some(_) => no(first, "the copies' own variables don't correspond"),
                None => {
                    self.locals.push(own);
                    Ok(())
                }
            };
        }
        if let Some(n) = nodes.iter().find(|n| !is_value(s, **n) || !can_be_a_name(s, **n)) {
            return no(*n, "the copies differ in what no value can stand for");
        }
        let texts: Vec<String> = nodes.iter().map(|n| s.str(*n).to_string()).collect();
        let targets: Vec<Option<BindingId>> = nodes.iter().map(|n| target(*n)).collect();
        match self.columns.iter_mut().find(|c| c.texts == texts) {
            Some(c) if c.targets != targets => return no(first, "the same name is another variable at another place"),
            Some(c) => c.nodes.push(first),
            None => self.columns.push(Column { texts, targets, nodes: vec![first] }),
        }
        Ok(())
    }

    fn holds(&self, s: &Source, row: usize, n: NodeId) -> bool {
        self.rows[row].iter().any(|x| s.tree.contains(*x, n))
    }

    /// Each copy's name is a variable that it has for itself, or for the code behind all copies.
    fn locals_at(&self, s: &Source, nodes: &[NodeId]) -> Option<Local> {
        let (end, block) = (self.end(s), s.tree.parent(self.first()).unwrap_or(Tree::ROOT));
        let own = |(i, n): (usize, &NodeId)| {
            let b = s.names.at(*n)?.target?;
            let variable = s.names.binding(b).kind == BindKind::Variable && s.names.binding(b).import.is_none();
            let all = s.names.references_to(b).all(|r| r.node >= end || self.holds(s, i, r.node));
            (variable && all && !s.names.binding(b).rebound_inside).then_some(b)
        };
        let bindings: Vec<BindingId> = nodes.iter().enumerate().map(own).collect::<Option<_>>()?;
        let behind: Vec<bool> = bindings.iter().map(|b| is_used_behind(s, *b, block, end)).collect::<Option<_>>()?;
        let kept = behind[0];
        behind.iter().all(|b| *b == kept).then_some(Local { bindings, kept })
    }

    /// The statements can be those of a loop's body.
    fn turns(&self, s: &Source) -> Found<()> {
        let t = &s.tree;
        let block = t.parent(self.first()).unwrap_or(Tree::ROOT);
        let defined = |n: NodeId| self.rows.iter().flatten().any(|r| t.definition_in(*r) == n);
        for n in (self.first().0..self.end(s).0).map(NodeId) {
            let around = || t.ancestors(n).take_while(|a| *a != block);
            let no = |code: Code, why: &str| Err(vec![reason(s, n, code, why)]);
            match t.role(n) {
                role @ (Role::Break | Role::Continue) => {
                    let label = t.children(n).any(|c| t.role(c) == Role::Label);
                    let switch = |a: NodeId| role == Role::Break && t.role(a) == Role::Switch;
                    if !label && !around().any(|a| t.role(a).is_loop() || switch(a)) {
                        return no(Code::LeavesLoop, "this would leave the new loop, or its turn");
                    }
                }
                Role::Jump | Role::JumpTarget => {
                    return no(Code::LeavesLoop, "this goes on at a place that is told by its name");
                }
                Role::Function | Role::Class if defined(n) => {
                    return no(Code::DeclaredHere, "a function or class is defined here");
                }
                Role::Import | Role::ImportFrom | Role::Global | Role::Nonlocal | Role::Doc | Role::Delete => {
                    return no(Code::DeclaredHere, "this can't stand in a loop");
                }
                _ => {}
            }
        }
        Ok(())
    }

    /// The values are the same when the list is made.
    fn values(&self, s: &Source, frame: NodeId) -> Found<()> {
        let t = &s.tree;
        let (first, end) = (self.first(), self.end(s));
        for c in &self.columns {
            for i in 0..self.rows.len() {
                let offset = c.nodes[0].0 - self.row_start(s, 0, c.nodes[0]).0;
                let n = NodeId(self.row_start_of(i, s, c.nodes[0]).0 + offset);
                if t.role(n) == Role::Name {
                    is_fixed(s, frame, (first, end), n)?;
                }
            }
        }
        self.first_values(s)?;
        // what is called later would see the last turn's
        let fresh = s.lang.loop_variables_are_fresh();
        let columns = self.columns.iter().filter(|_| !fresh);
        let own: Vec<NodeId> = columns.flat_map(|c| c.nodes.iter().copied()).collect();
        let local = |n: NodeId| {
            let b = s.names.at(n).and_then(|r| r.target);
            b.is_some_and(|b| self.locals.iter().any(|l| l.bindings[0] == b && !(fresh && is_of_block(s, b))))
        };
        let later = (first.0..self.row_end(s).0).map(NodeId).filter(|n| own.contains(n) || local(*n));
        match later.into_iter().find(|n| self.is_called_later(s, *n)) {
            Some(n) => {
                let why = "what is made here would see the value of the last turn";
                Err(vec![reason(s, n, Code::Captured, why)])
            }
            None => Ok(()),
        }
    }

    /// A place in what a turn makes and others call.
    pub fn is_called_later(&self, s: &Source, n: NodeId) -> bool {
        let scopes = s.tree.ancestors(n).take_while(|a| *a >= self.first()).filter_map(|a| s.names.scope_of(a));
        let mut kinds = scopes.map(|x| s.names.scope(x).kind);
        kinds.any(|k| !k.runs_at_once() || k == ScopeKind::Lazy)
    }

    /// What the copies give values to has one before them, where the language asks for that and it is read behind them.
    fn first_values(&self, s: &Source) -> Found<()> {
        let (first, end) = (self.first(), self.end(s));
        let written = s.names.in_range(first, end).iter().filter(|r| r.usage.writes());
        let kept = |b: BindingId| self.locals.iter().any(|l| l.bindings.contains(&b));
        for r in written.filter(|_| s.lang.checks_first_values()) {
            let Some(b) = r.target.filter(|b| !kept(*b)) else { continue };
            let outside = s.names.references_to(b).any(|x| x.node >= end);
            if outside && !has_value_before(s, b, first) {
                let why = format!("`{}` has no value yet, and a loop may not turn", s.str(r.node));
                return Err(vec![reason(s, r.node, Code::MaybeUnbound, why)]);
            }
        }
        Ok(())
    }

    /// The statement of the first copy that holds a node.
    fn row_start(&self, s: &Source, row: usize, n: NodeId) -> NodeId {
        self.rows[row].iter().copied().find(|x| s.tree.contains(*x, n)).unwrap_or(n)
    }

    /// The statement of a copy that corresponds to the one of the first that holds a node.
    fn row_start_of(&self, row: usize, s: &Source, n: NodeId) -> NodeId {
        let k = self.rows[0].iter().position(|x| s.tree.contains(*x, n)).unwrap_or(0);
        self.rows[row][k]
    }
}

fn is_value(s: &Source, n: NodeId) -> bool {
    let reads = || s.names.at(n).is_some_and(|r| r.usage == Use::Read && !r.is_type());
    match s.tree.role(n) {
        Role::Literal => true,
        Role::Name => reads(),
        _ => false,
    }
}

/// A name can stand in its place, and means its value there.
fn can_be_a_name(s: &Source, n: NodeId) -> bool {
    let t = &s.tree;
    let Some(p) = t.parent(n) else { return false };
    let key = t.role(p) == Role::Pair && t.children(p).next() == Some(n);
    // a member's object is a value like any other
    let fixed = matches!(t.role(p), Role::Dict | Role::Case | Role::Pattern | Role::Concat | Role::ExprStmt);
    let pattern = t
        .ancestors(n)
        .take_while(|a| !t.role(*a).is_sequence())
        .any(|a| matches!(t.role(a), Role::Pattern | Role::Type));
    !s.lang.needs_constant(s, n) && !key && !fixed && !pattern
}

/// It is declared for its block, which a loop's body is.
fn is_of_block(s: &Source, b: BindingId) -> bool {
    let declared = s.tree.ancestor(s.names.binding(b).first, &[Role::Declare]);
    let word = declared.and_then(|d| s.str(d).split_whitespace().next());
    word.is_some_and(|w| !s.lang.declares_for_function(w))
}

/// A local is given a value before it is read in its copy: what an earlier turn left is not seen.
fn is_own(s: &Source, b: BindingId, row: &[NodeId]) -> Found<()> {
    let t = &s.tree;
    let first = s.names.binding(b).first;
    let refuse = || {
        Err(vec![reason(
            s,
            first,
            Code::MaybeUnbound,
            "this may be read before it has a value, which an earlier turn would have left",
        )])
    };
    let Some(statement) = row.iter().copied().find(|r| t.contains(*r, first)) else { return refuse() };
    let mut all = s.names.references_to(b);
    let begins = all.next().is_some_and(|r| r.node == first && r.usage == Use::Write);
    let alone = all.all(|r| !t.contains(statement, r.node));
    let assign = std::iter::once(statement).chain(t.children(statement)).find(|n| t.role(*n) == Role::Assign);
    let given = assign.is_some_and(|a| t.child(a, Field::Left) == Some(first) && t.child(a, Field::Right).is_some());
    let plain = matches!(t.role(statement), Role::Assign | Role::ExprStmt | Role::Declare);
    if begins && alone && given && plain { Ok(()) } else { refuse() }
}

/// A value is given in a statement on the way to a place.
fn has_value_before(s: &Source, b: BindingId, at: NodeId) -> bool {
    let t = &s.tree;
    let binding = s.names.binding(b);
    // a statement that does nothing but give values, or define
    let on_the_way = |w: NodeId| {
        let mut up = t.ancestors(w).skip_while(|a| {
            use Role::*;
            matches!(t.role(*a), Assign | ExprStmt | Declare | Tuple | List | Pattern | Spread)
                || matches!(t.role(*a), Function | Class | Decorated | Import | ImportFrom | ImportAlias | ImportList)
                || t.role(*a) == DottedName
        });
        w < at && up.next().is_some_and(|b| t.role(b).is_sequence() && t.contains(b, at))
    };
    let valued = |w: NodeId| {
        let around = t.parent(w).filter(|p| t.field(w) == Field::Left || t.role(*p) == Role::Declare);
        around.is_none_or(|p| t.role(p) == Role::Assign && t.child(p, Field::Right).is_some())
    };
    let writes = s.names.references_to(b).filter(|r| r.usage == Use::Write).map(|r| r.node);
    binding.kind == BindKind::Parameter || writes.chain([binding.first]).any(|w| on_the_way(w) && valued(w))
}

/// A name has its value before the first copy, and nothing gives it another one up to the last.
fn is_fixed(s: &Source, frame: NodeId, (first, end): (NodeId, NodeId), n: NodeId) -> Found<()> {
    let t = &s.tree;
    let refuse = |why: &str| Err(vec![reason(s, n, Code::ChangingValue, format!("`{}` {why}", s.str(n)))]);
    let Some(b) = s.names.at(n).and_then(|r| r.target) else {
        let name = s.str(n);
        let known = s.lang.is_builtin(name) && s.names.in_module(name).is_none();
        return if known { Ok(()) } else { refuse("is no name of this file") };
    };
    let binding = s.names.binding(b);
    if binding.rebound_inside {
        return refuse("is given a value by a function inside");
    }
    let within = |x: NodeId| x >= first && x < end;
    if s.names.references_to(b).any(|r| r.usage != Use::Read && within(r.node)) {
        return refuse("is given a value among the copies");
    }
    if binding.kind == BindKind::Parameter && s.names.scope(binding.scope).node == frame {
        return Ok(());
    }
    let of_frame = s.names.scope(s.names.frame_of(b)).node == frame;
    // what others define may come while this waits
    let waits = (first.0..end.0).map(NodeId).find(|n| matches!(t.role(*n), Role::Await | Role::Yield));
    if !of_frame && waits.is_some() {
        return refuse("may be defined while this waits");
    }
    let given = has_value_before(s, b, first);
    let once = is_given_once(s, b);
    let of_module = binding.scope == Names::MODULE && frame != Tree::ROOT;
    match () {
        _ if of_frame && (given || binding.hoisted) => Ok(()),
        _ if of_module && once => Ok(()),
        _ if !of_frame && once && binding.kind != BindKind::Variable => Ok(()),
        _ => refuse("may have no value, or another one, before the first copy"),
    }
}

/// Whether code behind the copies uses it; none where that may not come after all copies, or not see what they left.
fn is_used_behind(s: &Source, b: BindingId, block: NodeId, end: NodeId) -> Option<bool> {
    let own = s.names.binding(b).scope;
    let at_once = |r: &Reference| {
        s.names.scope_chain(r.scope).take_while(|x| *x != own).all(|x| s.names.scope(x).kind.runs_at_once())
    };
    let mut all = s.names.references_to(b).filter(|r| r.node >= end).peekable();
    let used = all.peek().is_some();
    all.all(|r| s.tree.contains(block, r.node) && at_once(r) && !r.is_type()).then_some(used)
}
