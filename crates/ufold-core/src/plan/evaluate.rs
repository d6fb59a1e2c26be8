//! When holes are evaluated, and whether an argument can take their place.
//!
//! An argument is evaluated once, at the site, before the body. That is the same when the hole was evaluated exactly
//! once and before anything that has an effect, or when its value can't change and evaluating it has no effect.

use rustc_hash::{FxHashMap, FxHashSet};

use crate::change::{Code, Reason, reason};
use crate::lang::Doing;
use crate::names::{BindKind, Source};
use crate::plan::region::Portion;
use crate::tree::{Field, NodeId, Role, Tree};

/// What is assumed of operators, members and calls that are not known.
pub(crate) fn plain_values(s: &Source, of: impl IntoIterator<Item = NodeId>) -> Vec<Reason> {
    let message = |n: NodeId| format!("`{}` works on plain values, does nothing else and does not fail", s.str(n));
    of.into_iter().map(|n| reason(s, n, Code::PlainValue, message(n))).collect()
}

/// How a hole is reached when the region runs.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct When {
    /// Perhaps not at all, or more than once, or where an exception is caught.
    pub conditional: bool,
    /// After something that can have an effect.
    pub after_effects: bool,
    /// After something that can throw.
    pub after_throws: bool,
    /// After a read of what something that has an effect could change.
    pub after_reads: bool,
    /// In an inner function.
    pub in_closure: bool,
    /// Number among the holes in order of evaluation.
    pub order: usize,
}

/// What evaluating an expression can do.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Purity {
    /// A literal, or a name whose value is settled before the region begins: can be evaluated at any time.
    Settled,
    /// Reads what could change, or raises: not to be moved over effects without a word.
    Reads,
    /// Can do anything.
    Acts,
    /// Can't be an argument at all.
    Never,
}

/// How a node of a statement or expression is reached.
pub fn moment_of(source: &Source, root: NodeId, node: NodeId) -> Option<When> {
    let holes = FxHashSet::from_iter([node]);
    let mut w = Walk::new(source, &holes);
    w.visit(root);
    w.out.get(&node).copied()
}

/// The same when operators and members of values whose types are not known, and methods of the language's own values, do
/// nothing else and do not fail; with those that are evaluated before it.
pub fn moment_assuming(source: &Source, root: NodeId, node: NodeId) -> Option<(When, Vec<NodeId>)> {
    let holes = FxHashSet::from_iter([node]);
    let mut w = Walk { assuming: Some(Vec::new()), ..Walk::new(source, &holes) };
    w.visit(root);
    let when = w.out.get(&node).copied()?;
    let mut before = w.assuming.unwrap_or_default();
    before.truncate(w.seen);
    Some((when, before))
}

/// For each of the holes (nodes of the region), how it is reached.
pub fn moments(site: &Portion, holes: &FxHashSet<NodeId>) -> FxHashMap<NodeId, When> {
    let s = site.source();
    let mut w = Walk::new(s, holes);
    for s in site.region.statements() {
        w.visit(s);
    }
    w.out
}

struct Walk<'a> {
    s: &'a Source,
    tree: &'a Tree,
    holes: &'a FxHashSet<NodeId>,
    out: FxHashMap<NodeId, When>,
    now: When,
    /// What is taken to do nothing, where that is asked for; and how much of it came before the hole.
    assuming: Option<Vec<NodeId>>,
    seen: usize,
}

impl<'a> Walk<'a> {
    fn new(s: &'a Source, holes: &'a FxHashSet<NodeId>) -> Walk<'a> {
        let (out, now) = (FxHashMap::default(), When::default());
        Walk { s, tree: &s.tree, holes, out, now, assuming: None, seen: 0 }
    }
}

impl Walk<'_> {
    fn visit(&mut self, id: NodeId) {
        if self.holes.contains(&id) {
            self.out.insert(id, When { order: self.out.len(), ..self.now });
            self.seen = self.assuming.as_ref().map_or(0, Vec::len);
            return;
        }
        let t = self.tree;
        match t.role(id) {
            Role::Assign | Role::AugAssign => {
                // an update reads first what it changes
                let first = if t.role(id) == Role::AugAssign { Field::Left } else { Field::Right };
                self.fields(id, |f| f == first);
                self.fields(id, |f| f != first);
                let member =
                    |l: NodeId| self.s.names.at(l).and_then(|r| r.target).is_none_or(|b| self.s.names.is_member(b));
                let plain = t.child(id, Field::Left).is_some_and(|l| t.role(l) == Role::Name && !member(l));
                self.now.after_effects |= !plain;
                if t.role(id) == Role::AugAssign {
                    self.operate(id);
                }
            }
            Role::If => {
                self.fields(id, |f| f == Field::Condition);
                self.maybe(|w| w.fields(id, |f| f != Field::Condition));
            }
            Role::While | Role::DoWhile => self.maybe(|w| w.all(id)),
            Role::CountedFor => {
                self.fields(id, |f| f == Field::Init);
                self.maybe(|w| w.fields(id, |f| f != Field::Init));
            }
            Role::For => {
                self.fields(id, |f| f == Field::Right);
                self.now.after_effects = true;
                self.maybe(|w| w.fields(id, |f| f != Field::Right));
            }
            Role::Try | Role::Match | Role::Switch => {
                self.fields(id, |f| f == Field::Subject);
                self.maybe(|w| w.fields(id, |f| f != Field::Subject));
            }
            Role::With => {
                self.fields(id, |f| f != Field::Body);
                self.now.after_effects = true;
                self.maybe(|w| w.fields(id, |f| f == Field::Body));
            }
            _ => self.expression(id),
        }
    }

    fn expression(&mut self, id: NodeId) {
        let t = self.tree;
        match t.role(id) {
            Role::Conditional => {
                if let Some([condition, value, other]) = t.conditional_parts(id) {
                    self.visit(condition);
                    self.maybe(|w| {
                        w.visit(value);
                        w.visit(other);
                    });
                }
            }
            Role::BoolOp => {
                self.fields(id, |f| f == Field::Left);
                self.maybe(|w| w.fields(id, |f| f == Field::Right));
            }
            Role::OrAssign | Role::Default => {
                self.fields(id, |f| f == Field::Left);
                self.maybe(|w| w.fields(id, |f| f != Field::Left));
                self.now.after_effects = true;
            }
            Role::Call | Role::Member | Role::Index if is_optional(t, id) => {
                self.fields(id, |f| matches!(f, Field::Callee | Field::Object));
                self.maybe(|w| w.fields(id, |f| !matches!(f, Field::Callee | Field::Object)));
                self.now.after_effects = true;
            }
            Role::Compare => {
                for (i, c) in t.children(id).filter(|c| t.role(*c) != Role::Token).enumerate() {
                    if i < 2 { self.visit(c) } else { self.maybe(|w| w.visit(c)) }
                }
                self.operate(id);
            }
            Role::Call if self.assuming.is_some() && self.s.likely_quiet(id).is_some() => {
                let object = t.child(id, Field::Callee).and_then(|c| t.child(c, Field::Object));
                object.into_iter().chain(t.child(id, Field::Arguments)).for_each(|part| self.visit(part));
                self.assuming.as_mut().into_iter().for_each(|list| list.push(id));
            }
            // they can be switched off
            Role::Assert => self.maybe(|w| w.all(id)),
            Role::Comprehension | Role::Generator => self.comprehension(id),
            Role::Lambda | Role::Function | Role::Class => {
                let before = self.now;
                self.now.in_closure = true;
                self.maybe(|w| w.all(id));
                self.now.in_closure = before.in_closure;
            }
            role => {
                self.all(id);
                self.now.after_reads |= self.s.reads_what_may_change(id);
                use Role::*;
                if matches!(role, Member | Index | BinaryOp | UnaryOp | NotOp) {
                    self.operate(id);
                }
                let operates = matches!(role, Call | Await | Yield | Raise)
                    || role == Name && self.s.lang.runs_when_read(self.s, id);
                let makes = matches!(role, Template | Delete | Spread | Markup | DynamicScope);
                self.now.after_effects |= operates || makes || matches!(role, Import | ImportFrom);
            }
        }
    }

    fn operate(&mut self, id: NodeId) {
        let doing = self.s.lang.doing(self.s, id);
        if let Some(list) = self.assuming.as_mut().filter(|_| doing == Doing::Anything) {
            list.push(id);
            return;
        }
        self.now.after_effects |= doing == Doing::Anything;
        self.now.after_throws |= doing >= Doing::MayThrow;
    }

    fn all(&mut self, id: NodeId) {
        self.fields(id, |_| true);
    }

    fn fields(&mut self, id: NodeId, wanted: impl Fn(Field) -> bool) {
        for c in self.tree.children(id).filter(|c| wanted(self.tree.field(*c))).collect::<Vec<_>>() {
            self.visit(c);
        }
    }

    fn maybe(&mut self, inner: impl FnOnce(&mut Self)) {
        let before = self.now.conditional;
        self.now.conditional = true;
        inner(self);
        self.now.conditional = before;
    }

    /// Its first source is evaluated where it stands.
    fn comprehension(&mut self, id: NodeId) {
        let t = self.tree;
        let first = t.children(id).find(|c| t.role(*c) == Role::CompFor).and_then(|c| t.child(c, Field::Right));
        if let Some(f) = first {
            self.visit(f);
        }
        let inner = |w: &mut Self| {
            for n in t.children(id).collect::<Vec<_>>() {
                for c in std::iter::once(n).chain(t.children(n).collect::<Vec<_>>()) {
                    let own = t.role(n) == Role::CompFor;
                    if Some(c) != first && (own != (c == n)) {
                        w.visit(c);
                    }
                }
            }
        };
        let before = self.now.in_closure;
        self.now.in_closure = t.role(id) == Role::Generator;
        self.maybe(inner);
        self.now.in_closure = before;
        self.now.after_effects = true;
    }
}

/// Whether a path has a mark that lets it end early.
fn is_optional(t: &Tree, id: NodeId) -> bool {
    let mut at = Some(id);
    while let Some(n) = at {
        if t.children(n).any(|c| t.role(c) == Role::OptionalMark) {
            return true;
        }
        at = t.child(n, Field::Callee).or_else(|| t.child(n, Field::Object));
    }
    false
}

/// What evaluating a node at its site, before the region, could do.
pub fn purity(site: &Portion, id: NodeId) -> Purity {
    let (s, t) = (site.source(), &site.source().tree);
    let below = |init: Purity| t.children(id).map(|c| purity(site, c)).fold(init, Purity::max);
    match t.role(id) {
        Role::Literal | Role::Token | Role::MemberName | Role::KeywordName | Role::TemplateText => Purity::Settled,
        Role::OptionalMark | Role::Type => Purity::Settled,
        Role::Fresh => Purity::Acts,
        Role::Lambda if t.child(id, Field::Body).is_some_and(|b| t.role(b) == Role::Block) => closure(site, id),
        Role::Name => name_purity(site, id),
        Role::Concat | Role::Tuple | Role::Values | Role::Paren => below(Purity::Settled),
        Role::UnaryOp if t.children(id).all(|c| matches!(t.role(c), Role::Literal | Role::Token)) => Purity::Settled,
        Role::Member => {
            let base = below(Purity::Settled);
            if base == Purity::Settled && settled_member(s, site, id) {
                Purity::Settled
            } else {
                base.max(Purity::Reads)
            }
        }
        // a fresh object each time it is evaluated: once is the same only where once it was
        Role::List | Role::Dict | Role::Set | Role::Pair => below(Purity::Acts),
        Role::Index
        | Role::Slice
        | Role::UnaryOp
        | Role::BinaryOp
        | Role::Compare
        | Role::BoolOp
        | Role::NotOp
        | Role::Conditional
        | Role::Other => below(Purity::Reads),
        Role::Template | Role::Interpolation => below(Purity::Reads),
        Role::Markup
        | Role::MarkupTag
        | Role::MarkupAttribute
        | Role::Call
        | Role::Arguments
        | Role::KeywordArg
        | Role::Spread => below(Purity::Acts),
        Role::Comprehension | Role::CompFor | Role::CompIf | Role::Pattern => below(Purity::Acts),
        // making a function has no effect; what it reads later it reads where it was written
        Role::Lambda | Role::Parameters | Role::Parameter => below(Purity::Settled),
        Role::Await => below(Purity::Acts),
        _ => Purity::Never,
    }
}

/// A function with statements: made without effect, as long as it shares nothing that the region writes.
fn closure(site: &Portion, id: NodeId) -> Purity {
    let (s, t) = (site.source(), &site.source().tree);
    let names = s.names.in_range(id, t.end(id)).iter();
    let own = |r: &&crate::names::Reference| {
        r.target.is_some_and(|b| t.contains(id, s.names.scope(s.names.binding(b).scope).node))
    };
    let worst = names.filter(|r| !own(r)).map(|r| name_purity(site, r.node)).max();
    if worst == Some(Purity::Never) { Purity::Never } else { Purity::Settled }
}

fn name_purity(site: &Portion, id: NodeId) -> Purity {
    let s = site.source();
    let Some(r) = s.names.at(id) else { return Purity::Never };
    let Some(b) = r.target else {
        return if s.lang.is_builtin(s.str(id)) { Purity::Settled } else { Purity::Reads };
    };
    let binding = s.names.binding(b);
    if site.is_written(b) {
        return Purity::Never;
    }
    if site.inner(b) {
        // inside the hole itself (a comprehension of its own) it is harmless; elsewhere no site can see it
        let own = s.names.scope(binding.scope).node;
        return if s.tree.ancestors(id).any(|a| a == own) { Purity::Settled } else { Purity::Never };
    }
    if s.names.is_member(b) {
        let settled = s.lang.is_final(s, b) || binding.kind != BindKind::Variable;
        return if settled { Purity::Settled } else { Purity::Reads };
    }
    if binding.scope == crate::names::Names::MODULE && site.is_seen_in_place(b) {
        let fixed = binding.writes == 1 && !binding.rebound_inside && is_there(s, b, site);
        return if fixed { Purity::Settled } else { Purity::Reads };
    }
    let own = s.names.frame_of(b) == site.scope;
    if binding.rebound_inside || !own && !is_steady(s, b) { Purity::Reads } else { Purity::Settled }
}

/// A name of the module that surely has its value when the site's code runs.
fn is_there(s: &Source, b: crate::names::BindingId, site: &Portion) -> bool {
    let t = &s.tree;
    let at_top = site.function == Tree::ROOT;
    let user = if at_top { site.region.first } else { site.function };
    let binding = s.names.binding(b);
    if binding.hoisted && binding.kind == BindKind::Function
        || binding.kind == BindKind::Import && s.lang.declares_locals()
    {
        return true;
    }
    let top = |n: NodeId| t.ancestors(n).take_while(|a| *a != Tree::ROOT).last().unwrap_or(n);
    let (own, user) = (top(binding.first), top(user));
    let unsure = |a: NodeId| {
        t.role(a).is_loop() || matches!(t.role(a), Role::If | Role::Try | Role::Match | Role::Switch | Role::Delete)
    };
    if t.ancestors(binding.first).any(unsure) {
        return false;
    }
    // a function that is made later than the value can't run before it
    if own == user || own < user && (at_top || !s.lang.declares_locals()) {
        return true;
    }
    // else nothing that is loaded before the value may call one
    let may_call = |n: NodeId| {
        t.subtree(n).filter(|x| t.role(*x) == Role::Name).any(|x| {
            let target = s.names.at(x).and_then(|r| r.target).map(|b| s.names.binding(b));
            target.is_some_and(|b| {
                b.scope == crate::names::Names::MODULE
                    && b.first < n
                    && t.ancestors(b.first).all(|a| a != n)
                    && is_made_of_code(s, b)
            })
        })
    };
    t.children(Tree::ROOT).take_while(|c| *c < own).all(|c| s.lang.is_plain_top_level(t, c, &s.text) || !may_call(c))
}

/// A function, a class, or a variable that holds one.
fn is_made_of_code(s: &Source, b: &crate::names::Binding) -> bool {
    let value = s.tree.parent(b.first).and_then(|p| s.tree.child(p, Field::Right));
    let held = value.is_some_and(|v| matches!(s.tree.role(v), Role::Lambda | Role::Function | Role::Class));
    matches!(b.kind, BindKind::Function | BindKind::Class) || held
}

/// A variable of a function further out that has one value for all that this one does: given before it is made, once
/// for each time its scope is entered.
fn is_steady(s: &Source, b: crate::names::BindingId) -> bool {
    let t = &s.tree;
    let binding = s.names.binding(b);
    let home = s.names.scope(binding.scope).node;
    let looped = t.ancestors(binding.first).take_while(|a| *a != home).any(|a| t.role(a).is_loop());
    binding.writes <= 1 && !looped
}

/// `self.m` where `m` is a plain method of the class and nothing in the file assigns a member of that name.
fn settled_member(s: &Source, site: &Portion, id: NodeId) -> bool {
    let t = &s.tree;
    let Some(m) = site.method else { return false };
    let (Some(object), Some(member)) = (t.child(id, Field::Object), t.child(id, Field::Member)) else { return false };
    let own = s.names.at(object).and_then(|r| r.target);
    if own.is_none() || own != m.receiver {
        return false;
    }
    let Some(class) = s.names.scope_of(m.class) else { return false };
    let Some(b) = s.names.declared_in(class, s.str(member)) else { return false };
    let plain = s.names.binding(b).kind == BindKind::Function
        && s.names.binding(b).writes == 1
        && t.ancestor(s.names.binding(b).first, &[Role::Decorated, Role::Class])
            .is_some_and(|a| t.role(a) == Role::Class);
    plain && !assigns_member(s, s.str(member))
}

fn assigns_member(s: &Source, name: &str) -> bool {
    let t = &s.tree;
    t.ids().any(|n| {
        t.role(n) == Role::Member
            && t.field(n) == Field::Left
            && t.child(n, Field::Member).is_some_and(|m| s.str(m) == name)
    })
}

/// Whether a read may be moved to the start of the region under an assumption: a path of members whose object the code
/// before it neither hands to a call nor stores into. What other names of the object do stays the assumption.
pub fn may_be_early(site: &Portion, hole: NodeId) -> bool {
    let (s, t) = (site.source(), &site.source().tree);
    let mut root = hole;
    while t.role(root) == Role::Member {
        let Some(object) = t.child(root, Field::Object) else { return false };
        root = object;
    }
    let target = s.names.at(root).and_then(|r| r.target);
    if t.role(root) != Role::Name || root == hole || target.is_none() {
        return false;
    }
    let uses_root = |n: NodeId| {
        t.subtree(n).any(|x| x < hole && t.role(x) == Role::Name && s.names.at(x).and_then(|r| r.target) == target)
    };
    let touches = |n: NodeId| match t.role(n) {
        Role::Call | Role::Delete | Role::With | Role::Await => uses_root(n),
        Role::Member | Role::Index => t.field(n) == Field::Left && uses_root(n),
        _ => false,
    };
    let before = (site.region.first.0..hole.0).map(NodeId).filter(|n| !t.contains(*n, hole));
    !before.into_iter().any(touches) && !disturbed(site, hole)
}

/// Whether the region assigns a member of the same name as one that the hole reads.
fn disturbed(site: &Portion, hole: NodeId) -> bool {
    let (s, t) = (site.source(), &site.source().tree);
    let read: FxHashSet<&str> = t.subtree(hole).filter(|n| t.role(*n) == Role::MemberName).map(|n| s.str(n)).collect();
    (site.region.first.0..site.region.end().0).map(NodeId).any(|n| {
        t.role(n) == Role::Member
            && t.field(n) == Field::Left
            && t.child(n, Field::Member).is_some_and(|m| read.contains(s.str(m)))
    })
}
