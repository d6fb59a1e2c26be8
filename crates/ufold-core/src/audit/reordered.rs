//! Statements changed places: the same code but for one run of statements that stands elsewhere in its block, and nothing of
//! that run and of what it passed depends on the order.

use super::file::File;
use super::outside::{ScopeMap, same_meaning};
use super::{Objection, Opinion, object};
use crate::index::Project;
use crate::index::alone::watcher;
use crate::index::numbers::only_counts;
use crate::index::own::{Collection, element_of, grown, makes_empty};
use crate::index::quiet::{is_quiet_call, is_surely_quiet, works_on_arguments};
use crate::index::seen::{asks_for_names, reads_names, shows_names};
use crate::index::unseen::lookers;
use crate::index::writes::is_sure_write;
use crate::lang::Doing;
use crate::names::{BindingId, Names, Source};
use crate::text::Span;
use crate::tree::{Field, NodeId, Role, Tree};

pub(super) fn run(project: &Project, files: &[File], told: &[(usize, String)]) -> Opinion<()> {
    let [f] = files else { return object(&files[0].old, Tree::ROOT, "statements move within one file") };
    let (mut from, mut to) = (Vec::new(), Vec::new());
    for (old, new) in f.edits() {
        if old.start < old.end {
            from.push(*old);
        }
        if new.start < new.end {
            to.push(*new);
        }
    }
    let ([from], [to]) = (&from[..], &to[..]) else {
        return object(&f.old, Tree::ROOT, "one run of statements goes from one place to another");
    };
    let mut w = Laid { f, from: *from, to: *to, scopes: ScopeMap::default(), leaves: Vec::new(), moved: None };
    w.pair(Tree::ROOT, Tree::ROOT)?;
    let Some((moved, passed)) = w.moved else { return object(&f.old, Tree::ROOT, "no statement moved") };
    for (a, b) in &w.leaves {
        if !same_meaning(&f.old, &f.new, &w.scopes, *a, *b) {
            return object(&f.old, *a, format!("`{}` would mean something else", f.old.str(*a)));
        }
    }
    let frame = f.old.tree.callable_around(moved[0]).unwrap_or(Tree::ROOT);
    unseen_order(project, &f.old, moved[0])?;
    let called = moved.iter().chain(&passed).flat_map(|n| f.old.tree.subtree(*n));
    if let Some(r) = lookers(project, f.old.lang).seen_from(&f.old, called) {
        return Err(Objection { message: "this may see the locals of its caller".into(), file: r.file, line: r.line });
    }
    for m in &moved {
        for p in &passed {
            apart(&f.old, frame, (*m, *p), m < p, told)?;
        }
    }
    Ok(())
}

/// Nobody can watch the order of what is done: it is a function's, or that of a file which no other one imports.
pub(super) fn unseen_order(project: &Project, o: &Source, at: NodeId) -> Opinion<()> {
    let t = &o.tree;
    if t.callable_around(at).is_some() {
        return Ok(());
    }
    let in_class = t.ancestors(at).any(|a| t.role(a) == Role::Class) || o.names.members_in_sight;
    let package = o.module.as_ref().is_some_and(|m| m.is_package);
    let own = project.index(&o.path);
    let imported = || watcher(project, o).is_some();
    match in_class || package || own.is_none() || imported() {
        true => object(o, at, "other files may see the order of what a file does"),
        false if shows_names(project, o, Tree::ROOT, true).is_some() || t.ids().any(|n| asks_for_names(o, n)) => {
            object(o, at, "the names of the file are looked at")
        }
        false => Ok(()),
    }
}

struct Laid<'a> {
    f: &'a File,
    from: Span,
    to: Span,
    scopes: ScopeMap,
    leaves: Vec<(NodeId, NodeId)>,
    /// The statements that moved, and those that they passed.
    moved: Option<(Vec<NodeId>, Vec<NodeId>)>,
}

impl Laid<'_> {
    fn pair(&mut self, a: NodeId, b: NodeId) -> Opinion<()> {
        let f = self.f;
        let (o, t, n) = (&f.old, &f.old.tree, &f.new.tree);
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
        let (from, to) = (self.from, self.to);
        let (left, right): (Vec<NodeId>, Vec<NodeId>) = (t.children(a).collect(), n.children(b).collect());
        let own = t.role(a).is_sequence();
        let (gone, stays): (Vec<NodeId>, Vec<NodeId>) =
            left.into_iter().partition(|c| own && from.contains(t.span(*c)));
        let (come, there): (Vec<NodeId>, Vec<NodeId>) =
            right.iter().copied().partition(|c| own && to.contains(n.span(*c)));
        if gone.len() != come.len() || stays.len() != there.len() {
            return object(o, a, "code is missing, or was added");
        }
        if let (Some(first), Some(new)) = (gone.first(), come.first()) {
            let above = there.iter().filter(|c| *c < new).count();
            let before = stays.iter().filter(|c| *c < first).count();
            let passed = stays[above.min(before)..above.max(before)].to_vec();
            if self.moved.replace((gone.clone(), passed)).is_some() {
                return object(o, a, "statements moved in two places");
            }
        }
        gone.iter().chain(&stays).zip(come.iter().chain(&there)).try_for_each(|(x, y)| self.pair(*x, *y))?;
        Ok(())
    }
}

/// What is known of a piece of code.
#[derive(Default)]
pub(super) struct Touch {
    pub(super) used: Vec<BindingId>,
    pub(super) given: Vec<BindingId>,
    /// Looks at, or changes, what others can see; may end early; goes elsewhere.
    pub(super) looks: bool,
    pub(super) changes: bool,
    pub(super) fails: bool,
    pub(super) jumps: bool,
    /// Ends the call.
    pub(super) ends: bool,
    /// Prints, which others that print or change something would be seen to come before or after.
    pub(super) shows: bool,
    /// Looks at the locals by their names, as texts.
    pub(super) names: bool,
}

pub(super) fn touch(s: &Source, frame: NodeId, code: NodeId, told: &[(usize, String)]) -> Touch {
    let t = &s.tree;
    let mut out = Touch::default();
    for n in t.subtree(code) {
        let later = t.ancestors(n).take_while(|a| *a >= code).any(|a| t.role(a).is_callable());
        // what is told of an expression holds of its parts
        let of = |m: NodeId| told.iter().any(|(l, text)| *l == s.line(m) && text.contains(&format!("`{}`", s.str(m))));
        let assumed = || of(n) || t.ancestors(n).take_while(|a| *a >= code).any(of);
        use Role::*;
        let known = if later { None } else { call_is_known(s, n) };
        out.names |= reads_names(s, n);
        let plain = |c: NodeId| t.role(c) == Literal || known == Some(Known::Prints) && s.lang.is_plain_value(s, c);
        let asked = |a: NodeId| t.child(a, Field::Arguments).is_none_or(|l| !t.children(l).all(plain));
        match t.role(n) {
            Call if known.is_some() => {
                match known {
                    Some(Known::Puts(b, kind)) => {
                        out.given.push(b);
                        let asks = kind == Collection::Asking && asked(n);
                        if asks && !assumed() {
                            (out.looks, out.changes, out.fails) = (true, true, true);
                        }
                    }
                    Some(Known::Prints) => (out.shows, out.looks) = (true, true),
                    Some(Known::Makes) => {}
                    _ => out.looks |= !works_on_arguments(s, n),
                }
                let surely = match known {
                    Some(Known::Prints) => !asked(n),
                    Some(Known::Computes) => is_surely_quiet(s, n),
                    Some(Known::Likely) => false,
                    _ => true,
                };
                if !surely && !assumed() {
                    (out.changes, out.fails) = (true, true);
                }
            }
            // what such a call calls
            Member | Arguments if called_by(s, n).is_some_and(|c| c >= code && call_is_known(s, c).is_some()) => {}
            Name if called_by(s, n).is_some_and(|c| s.quiet_elsewhere().is_some_and(|all| all.contains_key(&c))) => {}
            Name if t.field(n) == Field::Callee && t.parent(n).is_some_and(|c| works_on_arguments(s, c)) => {}
            Name => name(s, frame, n, later, &mut out),
            _ if later => {}
            Return | Raise => out.ends = true,
            Yield | Await | Jump | JumpTarget => out.jumps = true,
            Break | Continue => {
                let held = t
                    .ancestors(n)
                    .take_while(|a| *a >= code)
                    .any(|a| t.role(a).is_loop() || t.role(a) == Switch && t.role(n) == Break);
                out.jumps |= !held || t.child(n, Field::Label).is_some();
            }
            Member | Index | BinaryOp | UnaryOp | NotOp | Compare | AugAssign | Template | Interpolation => {
                out.looks |= matches!(t.role(n), Member | Index) && element_of(s, n).is_none();
                let does = match t.role(n) {
                    Template | Interpolation => Doing::Anything,
                    _ => s.lang.doing(s, n),
                };
                let counted = only_counts(s, n);
                if does == Doing::Anything && !counted && !assumed() {
                    (out.looks, out.changes, out.fails) = (true, true, true);
                }
                out.fails |= does == Doing::MayThrow && !counted && !assumed();
            }
            While | DoWhile | CountedFor => out.fails = true,
            Pair | Set => {
                let written = |k: NodeId| matches!(t.role(k), Literal | KeywordName | MemberName | Token);
                let keys = if t.role(n) == Pair { 1 } else { usize::MAX };
                if !t.children(n).take(keys).all(written) && !assumed() {
                    (out.looks, out.changes, out.fails) = (true, true, true);
                }
            }
            Assign | If | BoolOp | Conditional | Block | ExprStmt | Declare | Else | Elif | Paren | Pass => {}
            Tuple | Values | List | Dict | Slice | Concat | TemplateText | Literal | Token | MemberName
            | KeywordName => {}
            Lambda | Function | Type | Label => {}
            _ if t.ancestors(n).take_while(|a| *a >= code).any(|a| t.role(a) == Type) => {}
            _ => (out.looks, out.changes, out.fails) = (true, true, true),
        }
        let target = t.child(n, Field::Left).filter(|_| matches!(t.role(n), Assign | AugAssign) && !later);
        let own = target.and_then(|l| element_of(s, l));
        if let Some((b, kind)) = own {
            out.given.push(b);
            out.fails |= kind == Collection::Plain || t.role(n) == AugAssign;
        } else if target.is_some_and(|l| t.role(l) != Name) {
            (out.changes, out.fails) = (true, true);
        }
    }
    out
}

/// The call of which this is the callee, a part of it, or the list of arguments.
fn called_by(s: &Source, n: NodeId) -> Option<NodeId> {
    let t = &s.tree;
    let outermost = std::iter::successors(Some(n), |n| t.parent(*n).filter(|p| t.role(*p) == Role::Member)).last()?;
    let field = t.field(outermost);
    t.parent(outermost).filter(|_| matches!(field, Field::Callee | Field::Arguments))
}

#[derive(Clone, Copy, PartialEq)]
enum Known {
    /// Puts something into a collection of the function.
    Puts(BindingId, Collection),
    Prints,
    Computes,
    /// The same, if the object is one of the language's own.
    Likely,
    /// An empty collection.
    Makes,
}

/// A call of which it is known what it does besides what its arguments do.
fn call_is_known(s: &Source, call: NodeId) -> Option<Known> {
    let t = &s.tree;
    if t.role(call) != Role::Call {
        return None;
    }
    if makes_empty(s, call) {
        return Some(Known::Makes);
    }
    if let Some((b, kind)) = grown(s, call) {
        return Some(Known::Puts(b, kind));
    }
    let list = t.child(call, Field::Arguments)?;
    if t.children(list).any(|a| matches!(t.role(a), Role::KeywordArg | Role::Spread)) {
        return None;
    }
    let callee = t.child(call, Field::Callee)?;
    let first = t.subtree(callee).find(|n| t.role(*n) == Role::Name).and_then(|n| s.names.at(n))?;
    if first.target.is_none() && s.lang.printers().contains(&s.str(callee)) {
        return Some(Known::Prints);
    }
    match s.likely_quiet(call).is_some() {
        true => Some(Known::Likely),
        false => is_quiet_call(s, call).then_some(Known::Computes),
    }
}

fn name(s: &Source, frame: NodeId, n: NodeId, later: bool, out: &mut Touch) {
    let t = &s.tree;
    let Some(r) = s.names.at(n).filter(|r| !r.is_type()) else { return };
    let Some(b) = r.target else {
        let known = s.lang.is_builtin(s.str(n)) && !r.usage.writes();
        out.looks |= !known && !later;
        out.changes |= r.usage.writes() && !later;
        out.fails |= !known && !later;
        return;
    };
    let binding = s.names.binding(b);
    if !r.usage.writes() || r.usage.reads() || later {
        out.used.push(b);
    }
    if r.usage.writes() || !r.usage.reads() {
        out.given.push(b);
    }
    if later {
        return;
    }
    let own = s.names.scope(s.names.frame_of(b)).node == frame && !s.names.is_member(b);
    let changes = binding.writes > 1 || binding.rebound_inside || s.names.is_member(b);
    out.looks |= r.usage.reads() && changes && (!own || binding.captured);
    let unnamed = binding.kind == crate::names::BindKind::Parameter && s.reads_parameters_unnamed(frame).is_some();
    out.looks |= s.lang.is_frame_name(s.str(n)) || unnamed && r.usage.reads();
    out.changes |= r.usage.writes() && (!own || binding.captured || unnamed);
    // it must surely have its value: given on a straight way before, or from the start
    let given = s.names.references_to(b).any(|w| {
        let straight =
            t.ancestors(w.node).take_while(|a| *a != frame).all(|a| !conditional(t.role(a)) || t.contains(a, n));
        w.usage.writes() && w.node < n && straight
    });
    let of_file = binding.scope == Names::MODULE && frame != Tree::ROOT;
    let there = binding.kind == crate::names::BindKind::Parameter || binding.hoisted || of_file;
    out.fails |= r.usage.reads() && own && !given && !there || r.usage.writes() && !is_sure_write(s, n);
}

fn conditional(role: Role) -> bool {
    use Role::*;
    role.is_loop() || matches!(role, If | Elif | Else | Try | Except | Switch | Match | Case | BoolOp | Conditional)
}

/// The order of two statements can't be seen; `after`: the first comes to stand behind the second.
pub(super) fn apart(
    s: &Source,
    frame: NodeId,
    (a, b): (NodeId, NodeId),
    after: bool,
    told: &[(usize, String)],
) -> Opinion<()> {
    let (x, y) = (touch(s, frame, a, told), touch(s, frame, b, told));
    let shared = |g: &Touch, o: &Touch| g.given.iter().find(|n| o.used.contains(n) || o.given.contains(n)).copied();
    if let Some(n) = shared(&x, &y).or_else(|| shared(&y, &x)) {
        return object(s, a, format!("both have to do with `{}`", s.names.binding(n).name));
    }
    let named = |p: &Touch| !(p.given.is_empty() && p.used.is_empty());
    if x.names && named(&y) || y.names && named(&x) {
        return object(s, a, "names are looked at here, by which the order of the two can be told");
    }
    let seen = |p: &Touch, q: &Touch| {
        let acts = q.changes || q.shows;
        p.changes && (acts || q.looks) || p.fails && (acts || q.fails) || p.shows && acts
    };
    let watched =
        s.tree.ancestors(a).take_while(|n| *n != frame).any(|n| matches!(s.tree.role(n), Role::Try | Role::With));
    // what only gives a variable its value is not missed when the call is over
    let missed = !after || watched || x.changes || x.fails || x.shows;
    if x.jumps || x.ends || y.jumps || y.ends && missed || seen(&x, &y) || seen(&y, &x) {
        return object(s, a, "the order of the two can be seen");
    }
    // a handler sees what was done before something failed
    if watched && (x.fails || y.fails) {
        return object(s, a, "a handler may see which of the two came first");
    }
    Ok(())
}
