//! What a statement takes, gives and does, so that it can be told whether two neighbours may change places.
//!
//! Two may when neither writes what the other uses, and nobody could tell by what is seen from outside: memory that both
//! touch, exceptions, output. What is not known counts as all of these. Operators, members and elements of values whose
//! types are not known are kept apart: that they do nothing and do not fail can be assumed, by name. So are calls of
//! functions that only compute or print; what a function puts into its own collections is theirs. Other calls may do
//! anything.

use rustc_hash::FxHashSet;

use super::left_by;
use crate::index::numbers::only_counts;
use crate::index::own::{Collection, element_of, grown, makes_empty};
use crate::index::quiet::{is_quiet_call, is_surely_quiet, works_on_arguments};
use crate::index::seen::reads_names;
use crate::index::writes::is_sure_write;
use crate::lang::Doing;
use crate::names::{BindKind, BindingId, Names, Source};
use crate::tree::{Field, NodeId, Role, Tree};

#[derive(Clone, Debug, Default)]
pub struct Effects {
    /// Locals whose value it uses.
    pub reads: FxHashSet<BindingId>,
    pub writes: FxHashSet<BindingId>,
    /// Reads what other code can change.
    pub sees: bool,
    /// Changes what other code can read, or does something that is seen.
    pub acts: bool,
    pub throws: bool,
    /// Operators, members and elements that fail for some values, and do nothing else.
    pub fails: Vec<NodeId>,
    /// Prints, and does nothing else that is seen.
    pub prints: bool,
    /// Goes elsewhere than to its end.
    pub leaves: bool,
    /// Looks at the locals around it otherwise than by their names in the code.
    pub looks: bool,
    /// What does nothing and does not fail only if that is assumed.
    pub perhaps: Vec<NodeId>,
}

/// Why two statements can't change places.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Conflict {
    /// Both use a local, and one of them writes it.
    Local(BindingId),
    /// One may change what the other reads or changes, or both are seen.
    Order,
    /// One of them may end early.
    Leaves,
}

impl Effects {
    pub fn of(source: &Source, function: NodeId, statement: NodeId) -> Effects {
        Effects::of_part(source, function, statement, statement)
    }

    /// Of one part of a statement, those before it evaluated.
    pub fn of_part(source: &Source, function: NodeId, statement: NodeId, part: NodeId) -> Effects {
        let mut w = Walk { s: source, function, statement, out: Effects::default() };
        w.visit(part);
        w.out
    }

    pub fn may_fail(&self) -> bool {
        self.throws || !self.fails.is_empty()
    }

    /// What must be assumed of two that conflict only when nothing is.
    pub fn assumed_with<'a>(&'a self, other: &'a Effects) -> impl Iterator<Item = NodeId> + 'a {
        let both = self.may_fail() && other.may_fail();
        let failing = if self.throws { &other.fails } else { &self.fails };
        let failing = failing.iter().filter(move |_| both);
        self.perhaps.iter().chain(&other.perhaps).chain(failing).copied()
    }

    /// What keeps the two in their order, when nothing is assumed, or all that can be.
    pub fn conflict(&self, other: &Effects, assuming: bool) -> Option<Conflict> {
        let both = |a: &FxHashSet<BindingId>, b: &FxHashSet<BindingId>| a.intersection(b).next().copied();
        let local = both(&self.writes, &other.reads)
            .or_else(|| both(&self.writes, &other.writes))
            .or_else(|| both(&self.reads, &other.writes));
        if let Some(b) = local {
            return Some(Conflict::Local(b));
        }
        let watches = |a: &Effects, b: &Effects| a.looks && !(b.writes.is_empty() && b.reads.is_empty());
        if watches(self, other) || watches(other, self) {
            return Some(Conflict::Order);
        }
        if self.leaves || other.leaves {
            return Some(Conflict::Leaves);
        }
        let unknown = |e: &Effects| !assuming && !e.perhaps.is_empty();
        let acts = |e: &Effects| e.acts || unknown(e);
        let sees = |e: &Effects| e.sees || unknown(e);
        let throws = |e: &Effects| e.may_fail() || unknown(e);
        // of two that may fail it is enough when one does not
        let both = throws(self) && throws(other) && !(assuming && !(self.throws && other.throws));
        let one_way = |a: &Effects, b: &Effects| {
            let shown = acts(b) || b.prints;
            acts(a) && (shown || sees(b)) || a.prints && shown || throws(a) && shown || both
        };
        (one_way(self, other) || one_way(other, self)).then_some(Conflict::Order)
    }
}

/// A variable of a file surely has a value where a statement at its top is reached: one above it gives it one, or it has it
/// from the first.
pub(crate) fn is_given_above(s: &Source, b: BindingId, place: NodeId) -> bool {
    use Role::*;
    let (t, binding) = (&s.tree, s.names.binding(b));
    let holds = |a: NodeId| t.contains(a, place);
    let straight = |w: NodeId| {
        let by_loop = t.ancestors(w).find(|a| t.role(*a).is_loop()).is_some_and(|l| {
            t.child(l, Field::Left).is_some_and(|x| t.contains(x, w))
                && t.child(l, Field::Body).is_some_and(|b| t.contains(b, place))
        });
        let statement = t.ancestors(w).find(|a| t.parent(*a).is_some_and(|p| t.role(p).is_sequence())).unwrap_or(w);
        let plain =
            matches!(t.role(statement), ExprStmt | Declare | Function | Class | Import | ImportFrom | Decorated);
        let inner = t.callable_around(w).is_some_and(|f| t.child(f, Field::Name) != Some(w));
        let before = plain && !inner && t.end(statement) <= place && t.parent(statement).is_some_and(holds);
        by_loop || before
    };
    binding.hoisted && binding.kind == BindKind::Function
        || s.names.references_to(b).any(|r| r.usage.writes() && straight(r.node))
        || straight(binding.first)
}

struct Walk<'a> {
    s: &'a Source,
    function: NodeId,
    statement: NodeId,
    out: Effects,
}

impl Walk<'_> {
    fn visit(&mut self, n: NodeId) {
        let t = &self.s.tree;
        self.out.looks |= reads_names(self.s, n);
        match t.role(n) {
            Role::Call if makes_empty(self.s, n) => return,
            Role::Call if self.known_call(n) => {
                return t.child(n, Field::Arguments).map_or((), |a| t.children(a).for_each(|c| self.visit(c)));
            }
            Role::Name => self.name(n),
            // made here, run later: what it shares with this function counts as used here
            Role::Lambda | Role::Function => return self.inner(n),
            Role::Literal | Role::Token | Role::MemberName | Role::KeywordName | Role::Type | Role::Label => return,
            Role::Return | Role::Raise | Role::Yield | Role::Await => self.out.leaves = true,
            Role::Break | Role::Continue => {
                let own = left_by(t, n).is_some_and(|l| t.contains(self.statement, l));
                self.out.leaves |= !own;
            }
            Role::Jump | Role::JumpTarget => self.out.leaves = true,
            Role::Member | Role::Index | Role::BinaryOp | Role::UnaryOp | Role::NotOp | Role::Compare => {
                let read = matches!(t.role(n), Role::Member | Role::Index);
                self.out.sees |= read && element_of(self.s, n).is_none();
                self.operate(n);
            }
            Role::AugAssign => self.operate(n),
            Role::Assign => {}
            Role::If | Role::BoolOp | Role::Conditional => {}
            // it may never end
            Role::While | Role::DoWhile | Role::CountedFor => self.out.throws = true,
            Role::Block | Role::ExprStmt | Role::Declare | Role::Else | Role::Elif | Role::Paren | Role::Pass => {}
            // values are asked what they are by which they are found
            Role::Set | Role::Pair if !t.children(n).next().is_none_or(|k| self.is_known(k)) => {
                self.out.perhaps.push(n)
            }
            Role::Tuple | Role::Values | Role::List | Role::Dict | Role::Pair | Role::Set | Role::Slice => {}
            Role::Concat | Role::TemplateText => {}
            Role::Template | Role::Interpolation => self.out.perhaps.push(n),
            _ => (self.out.acts, self.out.sees, self.out.throws) = (true, true, true),
        }
        let stored = matches!(t.role(n), Role::Assign | Role::AugAssign)
            && t.child(n, Field::Left).is_some_and(|l| t.role(l) != Role::Name);
        let own = t.child(n, Field::Left).filter(|_| stored).and_then(|l| element_of(self.s, l));
        if let Some((b, kind)) = own {
            self.out.writes.insert(b);
            self.out.throws |= kind == Collection::Plain || t.role(n) == Role::AugAssign;
        } else if stored {
            (self.out.acts, self.out.throws) = (true, true);
        }
        // taking a value apart goes through it
        let apart = t.role(n) == Role::Assign
            && t.child(n, Field::Left).is_some_and(|l| matches!(t.role(l), Role::Tuple | Role::List | Role::Pattern));
        self.out.acts |= apart;
        t.children(n).for_each(|c| self.visit(c));
    }

    /// A call of which it is known what it does besides evaluating its arguments.
    fn known_call(&mut self, n: NodeId) -> bool {
        let (s, t) = (self.s, &self.s.tree);
        let arguments: Vec<NodeId> = t.child(n, Field::Arguments).map_or(Vec::new(), |a| t.children(a).collect());
        let asks = arguments.iter().any(|a| t.role(*a) != Role::Literal);
        if let Some((b, kind)) = grown(s, n) {
            self.out.reads.insert(b);
            self.out.writes.insert(b);
            self.out.perhaps.extend((asks && kind == Collection::Asking).then_some(n));
            return true;
        }
        let plain = !arguments.iter().any(|a| matches!(t.role(*a), Role::KeywordArg | Role::Spread));
        let callee = t.child(n, Field::Callee).filter(|_| plain);
        let free = callee.and_then(|c| t.subtree(c).find(|x| t.role(*x) == Role::Name)).and_then(|x| s.names.at(x));
        let word = callee.filter(|_| free.is_some_and(|r| r.target.is_none())).map_or("", |c| s.str(c));
        if s.lang.printers().contains(&word) {
            self.out.prints = true;
            self.out.sees = true;
            let plainly = |a: &NodeId| t.role(*a) == Role::Literal || s.lang.is_plain_value(s, *a);
            self.out.perhaps.extend((!arguments.iter().all(plainly)).then_some(n));
            return true;
        }
        if plain && s.likely_quiet(n).is_some() {
            self.out.sees = true;
            self.out.perhaps.push(n);
            callee.and_then(|c| t.child(c, Field::Object)).into_iter().for_each(|o| self.visit(o));
            return true;
        }
        if plain && is_quiet_call(s, n) {
            self.out.sees |= !works_on_arguments(s, n);
            self.out.perhaps.extend((!is_surely_quiet(s, n)).then_some(n));
            return true;
        }
        false
    }

    fn operate(&mut self, n: NodeId) {
        match self.s.lang.doing(self.s, n) {
            Doing::Nothing => {}
            _ if only_counts(self.s, n) => {}
            Doing::MayThrow => self.out.fails.push(n),
            Doing::Anything => self.out.perhaps.push(n),
        }
    }

    /// A key that is written out; of a set only the first is looked at, so a set of others is not known.
    fn is_known(&self, key: NodeId) -> bool {
        let t = &self.s.tree;
        let literal = |k: NodeId| matches!(t.role(k), Role::Literal | Role::KeywordName | Role::MemberName);
        let set = t.parent(key).filter(|p| t.role(*p) == Role::Set);
        literal(key) && set.is_none_or(|p| t.children(p).all(literal))
    }

    fn name(&mut self, n: NodeId) {
        let s = self.s;
        let Some(r) = s.names.at(n).filter(|r| !r.is_type()) else { return };
        let Some(b) = r.target else {
            let known = s.lang.is_builtin(s.str(n)) && !r.usage.writes();
            self.out.sees |= !known;
            self.out.acts |= r.usage.writes();
            self.out.throws |= !known;
            return;
        };
        if s.lang.runs_when_read(s, n) {
            (self.out.acts, self.out.sees, self.out.throws) = (true, true, true);
        }
        let binding = s.names.binding(b);
        let frame = s.names.scope(s.names.frame_of(b)).node;
        let local = frame == self.function && !s.names.is_member(b);
        if r.usage.reads() {
            self.out.reads.insert(b);
        }
        if !r.usage.reads() || r.usage.writes() {
            self.out.writes.insert(b);
        }
        let made = matches!(binding.kind, BindKind::Import | BindKind::Function | BindKind::Class);
        let fixed = binding.writes <= 1 && !binding.rebound_inside && (made || !s.names.is_member(b));
        let shared = !local || binding.captured;
        self.out.sees |= shared && !fixed && r.usage.reads();
        let unnamed = binding.kind == BindKind::Parameter && s.reads_parameters_unnamed(self.function).is_some();
        self.out.sees |= s.lang.is_frame_name(s.str(n));
        self.out.sees |= unnamed && r.usage.reads();
        self.out.acts |= (shared || unnamed) && r.usage.writes();
        self.out.throws |= r.usage.writes() && !is_sure_write(s, n);
        // a value that is perhaps not there yet
        let sure = binding.kind == BindKind::Parameter || binding.hoisted && binding.kind == BindKind::Function;
        let top = binding.scope == Names::MODULE;
        if top && self.function == Tree::ROOT && r.usage.reads() && !is_given_above(s, b, n) {
            self.out.throws = true;
        }
        if r.usage.reads() && local && !sure && !top {
            let flow = super::Flow::of(s, self.function, self.statement);
            let index = flow.index.get(&b).copied();
            let bound = flow.enter.get(&self.statement).zip(index).is_some_and(|(p, i)| flow.bound[*p].contains(i));
            let own = s.names.in_range(self.statement, n).iter().any(|w| w.target == Some(b) && w.usage.writes());
            self.out.throws |= !bound && !own;
        }
    }

    fn inner(&mut self, function: NodeId) {
        let (s, t) = (self.s, &self.s.tree);
        for r in s.names.in_range(function, t.end(function)) {
            let Some(b) = r.target else { continue };
            let own = s.names.scope(s.names.binding(b).scope).node;
            if t.contains(function, own) {
                continue;
            }
            self.out.reads.insert(b);
            if r.usage.writes() {
                self.out.writes.insert(b);
            }
        }
        // its own name
        if let Some(b) = t.child(function, Field::Name).and_then(|n| s.names.at(n)).and_then(|r| r.target) {
            self.out.writes.insert(b);
        }
    }
}
