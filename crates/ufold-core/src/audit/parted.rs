//! Some values of a variable have a variable of their own: the same code but for that name and its declaration, and no use
//! reads the value of the other one.
//!
//! Which values a use may read is found here by walking the statements, with more ways than there are: whatever is given in
//! a `try` may be read by its handlers, a jump may go to every loop around it. Where a use and all that it may read have one
//! name, the last value given before it is the same one as ever.

use rustc_hash::{FxHashMap, FxHashSet};

use super::file::File;
use super::outside::{ScopeMap, same_meaning};
use super::{Opinion, object};
use crate::index::Project;
use crate::index::managers::{Manager, managers_of};
use crate::index::seen::looks_at_names;
use crate::names::{BindKind, BindingId, Reference, Source, Use};
use crate::tree::{Field, NodeId, Role, Tree};

/// `told`: lines of blocks that are assumed to let exceptions through.
pub(super) fn run(project: &Project, files: &[File], name: &str, told: &[usize]) -> Opinion<()> {
    let [f] = files else { return object(&files[0].old, Tree::ROOT, "a variable stands in one file") };
    let (o, n) = (&f.old, &f.new);
    let mut w = Laid { f, name, scopes: ScopeMap::default(), leaves: Vec::new(), renamed: Vec::new() };
    w.pair(Tree::ROOT, Tree::ROOT)?;
    let Some((first, new_first)) = w.renamed.first().copied() else {
        return object(o, Tree::ROOT, "no value has a variable of its own");
    };
    let target = |s: &Source, x: NodeId| s.names.at(x).and_then(|r| r.target);
    let (Some(b), Some(c)) = (target(o, first), target(n, new_first)) else {
        return object(o, first, "not a variable of the file");
    };
    let frame = o.names.scope(o.names.frame_of(b)).node;
    let fixed = o.names.binding(b);
    if !o.tree.role(frame).is_callable() || fixed.captured || fixed.rebound_inside || o.names.is_member(b) {
        return object(o, first, "others may use the variable");
    }
    if super::order::has_jump(&o.tree, frame) {
        return object(o, frame, "which value a use reads hangs on jumps");
    }
    let others = || o.reads_parameters_unnamed(frame).filter(|_| fixed.kind == BindKind::Parameter);
    if let Some(x) = looks_at_names(o, frame, false).or_else(others) {
        return object(o, x, "code looks for names here");
    }
    for (x, y) in &w.renamed {
        let same = |s: &Source, n: NodeId| s.names.at(n).map(|r| r.usage);
        if target(o, *x) != Some(b) || target(n, *y) != Some(c) || same(o, *x) != same(n, *y) {
            return object(o, *x, format!("`{}` would be another variable", o.str(*x)));
        }
        if o.tree.ancestors(*x).any(|a| o.shows_its_code(a)) {
            return object(o, *x, "the text shows the name");
        }
    }
    let new_frame = n.names.scope(n.names.frame_of(c)).node;
    let declared = n.names.references_to(c).filter(|r| !w.renamed.iter().any(|(_, y)| *y == r.node));
    if w.scopes.get(&frame) != Some(&new_frame) || declared.count() > 1 {
        return object(o, first, format!("`{name}` is another variable already"));
    }
    for (x, y) in &w.leaves {
        if !same_meaning(o, n, &w.scopes, *x, *y) {
            return object(o, *x, format!("`{}` would mean something else", o.str(*x)));
        }
    }
    typed_alike(project, (o, b), (n, c))?;
    let renamed: FxHashSet<NodeId> = w.renamed.iter().map(|(x, _)| *x).collect();
    let mut reach = Reach { project, told, s: o, b, reads: FxHashMap::default(), seen: Vec::new(), jumps: Vec::new() };
    let begin: Givers = [None].into_iter().collect();
    let begin = o.tree.child(frame, Field::Parameters).map_or(begin.clone(), |p| reach.mixed(p, begin));
    reach.statement(o.tree.child(frame, Field::Body).unwrap_or(frame), begin);
    for (used, givers) in &reach.reads {
        let own = renamed.contains(used);
        if givers.iter().any(|g| g.is_some_and(|g| renamed.contains(&g)) != own) {
            return object(o, *used, format!("`{}` may have either value here", o.str(*used)));
        }
    }
    // what reads but was not come by is not understood
    let unseen = |r: &&Reference| !r.is_type() && r.usage != Use::Write && !reach.reads.contains_key(&r.node);
    match o.names.references_to(b).find(unseen) {
        Some(r) => object(o, r.node, "it is not known when this is read"),
        None => Ok(()),
    }
}

/// Where types are written, the new variable has that of the old one.
fn typed_alike(project: &Project, (o, b): (&Source, BindingId), (n, c): (&Source, BindingId)) -> Opinion<()> {
    if !o.lang.needs_types() {
        return Ok(());
    }
    let definitions = |s: &Source, name: &str| project.definition(s, name);
    let of = |s: &Source, b: BindingId| {
        let first = s.names.binding(b).first;
        let found = || s.lang.spell(s.lang.general(s.lang.type_of(s, first, &definitions)), s, &definitions);
        s.lang.annotation(s, first).or_else(found)
    };
    let (old, new) = (of(o, b), of(n, c));
    match old.is_some() && old == new {
        true => Ok(()),
        false => object(n, n.names.binding(c).first, "the new variable has not surely the type of the old one"),
    }
}

struct Laid<'a> {
    f: &'a File,
    name: &'a str,
    scopes: ScopeMap,
    leaves: Vec<(NodeId, NodeId)>,
    /// Names that are the new one.
    renamed: Vec<(NodeId, NodeId)>,
}

impl Laid<'_> {
    fn pair(&mut self, a: NodeId, b: NodeId) -> Opinion<()> {
        let (o, s) = (&self.f.old, &self.f.new);
        let (t, n) = (&o.tree, &s.tree);
        if t.role(a) == Role::ExprStmt && n.role(b) == Role::Declare {
            return self.declared(a, b);
        }
        if t.role(a) != n.role(b) || t.field(a) != n.field(b) {
            return object(o, a, "code changed");
        }
        if o.names.scope_of(a).is_some() {
            self.scopes.insert(a, b);
        }
        if t.is_leaf(a) && n.is_leaf(b) {
            let renamed = t.role(a) == Role::Name && s.str(b) == self.name;
            match (t.exact(a) == n.exact(b), renamed) {
                (true, _) => self.leaves.push((a, b)),
                (false, true) => self.renamed.push((a, b)),
                (false, false) => return object(o, a, "a word changed"),
            }
            return Ok(());
        }
        let left: Vec<NodeId> = t.children(a).collect();
        let mut right: Vec<NodeId> = n.children(b).collect();
        if n.role(b).is_sequence() && right.len() == left.len() + 1 {
            right.retain(|c| !self.is_bare(*c));
        }
        if left.len() != right.len() {
            return object(o, a, "code is missing, or was added");
        }
        left.into_iter().zip(right).try_for_each(|(x, y)| self.pair(x, y))
    }

    /// A declaration of the new variable and nothing else.
    fn is_bare(&self, statement: NodeId) -> bool {
        let (s, n) = (&self.f.new, &self.f.new.tree);
        let mut parts = n.children(statement).filter(|c| n.role(*c) == Role::Assign);
        let only = parts.next().filter(|_| parts.next().is_none());
        let named = |p: NodeId| n.child(p, Field::Left).is_some_and(|l| s.str(l) == self.name);
        n.role(statement) == Role::Declare && only.is_some_and(|p| named(p) && n.child(p, Field::Right).is_none())
    }

    /// An assignment that declares now what it gives a value to.
    fn declared(&mut self, a: NodeId, b: NodeId) -> Opinion<()> {
        let (o, s) = (&self.f.old, &self.f.new);
        let (t, n) = (&o.tree, &s.tree);
        let parts: Vec<NodeId> = n.children(b).filter(|c| n.role(*c) == Role::Assign).collect();
        let assign = t.children(a).next().filter(|c| t.role(*c) == Role::Assign && t.children(a).count() == 1);
        let (Some(assign), [part]) = (assign, &parts[..]) else { return object(o, a, "code changed") };
        let side = |f: Field| Some((t.child(assign, f)?, n.child(*part, f)?));
        let (Some(left), Some(right)) = (side(Field::Left), side(Field::Right)) else {
            return object(o, a, "code changed");
        };
        if t.role(left.0) != Role::Name || s.str(left.1) != self.name || t.children(assign).count() != 2 {
            return object(o, a, "another variable is declared");
        }
        self.pair(left.0, left.1)?;
        self.pair(right.0, right.1)
    }
}

/// What may have been given last: names that are written, or none for what there is when the function begins.
type Givers = FxHashSet<Option<NodeId>>;

struct Reach<'a> {
    project: &'a Project<'a>,
    told: &'a [usize],
    s: &'a Source,
    b: BindingId,
    reads: FxHashMap<NodeId, Givers>,
    /// What may have been the value at any moment of the code that is watched, from the outside in.
    seen: Vec<Givers>,
    /// What jumps carry to the end of what is around them, and to its next turn.
    jumps: Vec<[Givers; 2]>,
}

fn union(mut a: Givers, b: &Givers) -> Givers {
    a.extend(b);
    a
}

impl Reach<'_> {
    fn note(&mut self, now: &Givers) {
        self.seen.iter_mut().for_each(|s| s.extend(now));
    }

    /// Code in which the order is not looked at: everything given in it may be read in it. What it surely gives takes the
    /// place of what was there.
    fn mixed(&mut self, code: NodeId, now: Givers) -> Givers {
        let t = &self.s.tree;
        let names: Vec<_> =
            self.s.names.in_range(code, t.end(code)).iter().filter(|r| r.target == Some(self.b)).collect();
        let given: Givers = names.iter().filter(|r| r.usage != Use::Read).map(|r| Some(r.node)).collect();
        let any = union(now, &given);
        for r in names.iter().filter(|r| r.usage != Use::Write) {
            self.reads.entry(r.node).or_default().extend(&any);
        }
        if t.subtree(code).any(|n| matches!(t.role(n), Role::Break | Role::Continue | Role::Labeled)) {
            self.jumps.iter_mut().flatten().for_each(|j| j.extend(&any));
        }
        if t.subtree(code).any(|n| !matches!(t.role(n), Role::Literal | Role::Token | Role::Paren)) {
            self.note(&any);
        }
        let runs = |a: NodeId, n: NodeId| match t.role(a) {
            // what holds the items of a block that is opened
            Role::Other => t.parent(a).is_some_and(|p| matches!(t.role(p), Role::With | Role::Case)),
            Role::Compare => t.children(a).next().is_some_and(|first| t.contains(first, n)),
            role => is_always_run(role),
        };
        let surely = |n: NodeId| t.ancestors(n).take_while(|a| *a >= code).all(|a| runs(a, n));
        match names.iter().any(|r| r.usage == Use::Write && surely(r.node)) {
            true => given,
            false => any,
        }
    }

    /// The code, and what may have been the value when it failed, or was left.
    fn watched(&mut self, now: Givers, code: impl FnOnce(&mut Self, Givers) -> Givers) -> (Givers, Givers) {
        self.seen.push(Givers::default());
        let out = code(self, now);
        (out, self.seen.pop().unwrap_or_default())
    }

    fn statement(&mut self, n: NodeId, now: Givers) -> Givers {
        let t = &self.s.tree;
        match t.role(n) {
            role if role.is_sequence() => {
                let all: Vec<NodeId> = t.children(n).collect();
                all.into_iter().fold(now, |now, c| self.statement(c, now))
            }
            Role::ExprStmt | Role::Declare => {
                let parts: Vec<NodeId> = t.children(n).collect();
                parts.into_iter().fold(now, |now, c| self.given(c, now))
            }
            Role::If => self.branches(n, now),
            role if role.is_loop() => self.looped(n, now),
            Role::Labeled | Role::Switch | Role::Match => self.left_by_jumps(n, now),
            Role::Try | Role::With => self.watching(n, now),
            Role::Return | Role::Raise => {
                let left = self.mixed(n, now);
                self.note(&left);
                Givers::default()
            }
            role @ (Role::Break | Role::Continue) => {
                let to = usize::from(role == Role::Continue);
                self.jumps.iter_mut().for_each(|j| j[to].extend(&now));
                self.note(&now);
                Givers::default()
            }
            _ => self.mixed(n, now),
        }
    }

    /// A part of a statement: what it gives, it gives at last.
    fn given(&mut self, part: NodeId, now: Givers) -> Givers {
        let t = &self.s.tree;
        let side = |f: Field| t.child(part, f).filter(|_| matches!(t.role(part), Role::Assign | Role::AugAssign));
        let (Some(left), right) = (side(Field::Left), side(Field::Right)) else { return self.mixed(part, now) };
        let b = self.b;
        let own = |r: &Reference| r.node == left && r.target == Some(b);
        if t.role(part) == Role::AugAssign && self.s.names.at(left).is_some_and(own) {
            let after = right.map_or(now.clone(), |r| self.mixed(r, now));
            self.note(&after);
            self.reads.entry(left).or_default().extend(&after);
            return [Some(left)].into_iter().collect();
        }
        // the last of a chain is given first
        let after = right.map_or(now.clone(), |r| self.given(r, now));
        match t.role(left) {
            Role::Name if self.s.names.at(left).is_some_and(own) => [Some(left)].into_iter().collect(),
            Role::Name => after,
            _ => self.mixed(left, after),
        }
    }

    fn branches(&mut self, n: NodeId, now: Givers) -> Givers {
        let t = &self.s.tree;
        let (mut failed, mut out) = (now, Givers::default());
        let parts: Vec<NodeId> = t.children(n).collect();
        for c in parts {
            match (t.field(c), t.role(c)) {
                (Field::Body, _) => out.extend(self.statement(c, failed.clone())),
                (Field::Alternative, Role::Elif) => {
                    for d in t.children(c).collect::<Vec<_>>() {
                        match t.field(d) {
                            Field::Body => out.extend(self.statement(d, failed.clone())),
                            _ => failed = self.mixed(d, failed),
                        }
                    }
                }
                (Field::Alternative, _) => match t.child(c, Field::Body) {
                    Some(body) => failed = self.statement(body, failed),
                    None => failed = self.statement(c, failed),
                },
                _ => failed = self.mixed(c, failed),
            }
        }
        union(out, &failed)
    }

    fn looped(&mut self, n: NodeId, now: Givers) -> Givers {
        let t = &self.s.tree;
        let of = |field: Field| t.children(n).filter(|c| t.field(*c) == field).collect::<Vec<_>>();
        let (body, steps, each) = (of(Field::Body), of(Field::Step), of(Field::Left));
        let (behind, rest): (Vec<NodeId>, Vec<NodeId>) = t.children(n).partition(|c| t.role(*c) == Role::Else);
        let placed =
            |c: &NodeId| body.contains(c) || steps.contains(c) || each.contains(c) || t.field(*c) == Field::Init;
        let heads: Vec<NodeId> = rest.into_iter().filter(|c| !placed(c)).collect();
        let now = of(Field::Init).into_iter().fold(now, |now, c| self.statement(c, now));
        let mut around = now;
        let (done, left) = loop {
            let before = around.len();
            let behind = t.role(n) == Role::DoWhile;
            let test = |w: &mut Self, now: Givers| heads.iter().fold(now, |now, h| w.mixed(*h, now));
            let tested = if behind { around.clone() } else { test(self, around.clone()) };
            let inside = each.iter().fold(tested.clone(), |now, l| self.mixed(*l, now));
            self.jumps.push(Default::default());
            let turned = body.iter().fold(inside, |now, b| self.statement(*b, now));
            let [left, next] = self.jumps.pop().unwrap_or_default();
            let turned = union(turned, &next);
            let (done, turned) = if behind {
                let t = test(self, turned);
                (t.clone(), t)
            } else {
                (tested, turned)
            };
            let again = steps.iter().fold(turned, |now, s| self.mixed(*s, now));
            around.extend(&again);
            if around.len() == before {
                break (done, left);
            }
        };
        let after = |now, e| self.statement(t.child(e, Field::Body).unwrap_or(e), now);
        union(behind.into_iter().fold(done, after), &left)
    }

    /// What is left by a jump: a labelled statement, or cases of which each may follow the one before.
    fn left_by_jumps(&mut self, n: NodeId, now: Givers) -> Givers {
        let t = &self.s.tree;
        self.jumps.push(Default::default());
        let out = match t.role(n) {
            Role::Labeled => t.children(n).collect::<Vec<_>>().into_iter().fold(now, |now, c| self.statement(c, now)),
            _ => self.cases(n, now),
        };
        self.jumps.pop().unwrap_or_default().iter().fold(out, union)
    }

    fn cases(&mut self, n: NodeId, now: Givers) -> Givers {
        let t = &self.s.tree;
        let is_case = |c: &NodeId| t.role(*c) == Role::Case;
        let (within, heads): (Vec<NodeId>, Vec<NodeId>) =
            t.children(n).partition(|c| is_case(c) || t.children(*c).any(|d| is_case(&d)));
        let all = within.into_iter().flat_map(|c| if is_case(&c) { vec![c] } else { t.children(c).collect() });
        let mut entry = heads.into_iter().fold(now, |now, h| self.mixed(h, now));
        let (mut falls, mut out, mut open) = (Givers::default(), Givers::default(), true);
        for case in all.filter(is_case).collect::<Vec<_>>() {
            let rest = self.s.str(case).strip_prefix(self.s.lang.catch_all_case());
            open &= !rest.is_some_and(|r| r.trim_start().starts_with([':', '-']));
            let mut here = union(entry.clone(), &falls);
            for c in t.children(case).collect::<Vec<_>>() {
                if t.field(c) != Field::Body {
                    // a pattern may give a value, and then not fit
                    entry.extend(self.given_in(c));
                }
                here = self.statement(c, here);
            }
            out.extend(&here);
            falls = here;
        }
        if open { union(out, &entry) } else { out }
    }

    /// Statements in parts that are none themselves.
    fn nested(&mut self, n: NodeId, now: Givers) -> Givers {
        let t = &self.s.tree;
        let holds = |n: NodeId| matches!(t.role(n), Role::Except | Role::Else | Role::Finally);
        if !holds(n) {
            let statement = t.field(n) == Field::Body || t.parent(n).is_some_and(holds);
            return if statement { self.statement(n, now) } else { self.mixed(n, now) };
        }
        t.children(n).collect::<Vec<_>>().into_iter().fold(now, |now, c| self.nested(c, now))
    }

    /// All that is given somewhere in it.
    fn given_in(&self, code: NodeId) -> Givers {
        let own = |r: &&Reference| r.target == Some(self.b) && r.usage != Use::Read;
        self.s.names.in_range(code, self.s.tree.end(code)).iter().filter(own).map(|r| Some(r.node)).collect()
    }

    /// Whatever is given in the body may be there in a handler, and afterwards.
    fn watching(&mut self, n: NodeId, now: Givers) -> Givers {
        let t = &self.s.tree;
        let parts: Vec<NodeId> = t.children(n).collect();
        let handles = |c: &NodeId| matches!(t.role(*c), Role::Except | Role::Finally);
        let (handlers, straight): (Vec<NodeId>, Vec<NodeId>) = parts.into_iter().partition(handles);
        let opens = t.role(n) == Role::With || t.child(n, Field::Init).is_some();
        let lets_through = |(_, m): &(String, Manager)| {
            matches!(m, Manager::LetsThrough) || matches!(m, Manager::Unknown) && self.told.contains(&self.s.line(n))
        };
        let swallows = t.role(n) == Role::With && !managers_of(self.project, self.s, n).iter().all(lets_through);
        let (mut out, mut seen) = self.watched(now, |w, now| {
            let out = straight.iter().fold(now, |now, c| w.nested(*c, now));
            // closing may fail
            if opens {
                w.note(&out);
            }
            out
        });
        for h in handlers {
            // in the end it goes on from all that may have been
            let from = if t.role(h) == Role::Finally { union(seen.clone(), &out) } else { seen.clone() };
            let (here, failed) = self.watched(from, |w, now| w.nested(h, now));
            if t.role(h) == Role::Finally {
                (out, seen) = (here, failed);
            } else {
                out.extend(&here);
                seen.extend(&failed);
            }
        }
        // it goes on outwards, and what opens may take it
        self.note(&seen);
        if swallows { union(out, &seen) } else { out }
    }
}

/// Its parts are evaluated whenever it is.
fn is_always_run(role: Role) -> bool {
    use Role::*;
    matches!(
        role,
        DottedName
            | Pattern
            | Tuple
            | List
            | AsPattern
            | AsTarget
            | WithItem
            | NamedExpr
            | BinaryOp
            | NotOp
            | Paren
            | Assign
    )
}
