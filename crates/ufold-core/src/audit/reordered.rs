//! Statements changed places: the same code but for one run of statements that stands elsewhere in its block, and nothing of
//! that run and of what it passed depends on the order.

use super::file::File;
use super::outside::{ScopeMap, same_meaning};
use super::{Opinion, object};
use crate::lang::Doing;
use crate::names::{BindingId, Names, Source};
use crate::text::Span;
use crate::tree::{Field, NodeId, Role, Tree};

pub(super) fn run(files: &[File], told: &[(usize, String)]) -> Opinion<()> {
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
    if frame == Tree::ROOT {
        return object(&f.old, moved[0], "other files may see the order of what a file does");
    }
    for m in &moved {
        for p in &passed {
            apart(&f.old, frame, *m, *p, told)?;
        }
    }
    Ok(())
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
struct Touch {
    used: Vec<BindingId>,
    given: Vec<BindingId>,
    /// Looks at, or changes, what others can see; may end early; goes elsewhere.
    looks: bool,
    changes: bool,
    fails: bool,
    jumps: bool,
}

fn touch(s: &Source, frame: NodeId, code: NodeId, told: &[(usize, String)]) -> Touch {
    let t = &s.tree;
    let mut out = Touch::default();
    for n in t.subtree(code) {
        let later = t.ancestors(n).take_while(|a| *a >= code).any(|a| t.role(a).is_callable());
        let assumed =
            || told.iter().any(|(line, text)| *line == s.line(n) && text.contains(&format!("`{}`", s.str(n))));
        use Role::*;
        match t.role(n) {
            Name => name(s, frame, n, later, &mut out),
            _ if later => {}
            Return | Raise | Yield | Await => out.jumps = true,
            Break | Continue => {
                let held = t
                    .ancestors(n)
                    .take_while(|a| *a >= code)
                    .any(|a| t.role(a).is_loop() || t.role(a) == Switch && t.role(n) == Break);
                out.jumps |= !held || t.child(n, Field::Label).is_some();
            }
            Member | Index | BinaryOp | UnaryOp | NotOp | Compare | AugAssign | Template | Interpolation => {
                out.looks |= matches!(t.role(n), Member | Index);
                let does = match t.role(n) {
                    Template | Interpolation => Doing::Anything,
                    _ => s.lang.doing(s, n),
                };
                let counted = t.children(n).all(|c| {
                    let text = s.str(c);
                    t.role(c) == Literal && text.starts_with(|d: char| d.is_ascii_digit())
                        || ["+", "-", "*"].contains(&text)
                });
                if does == Doing::Anything && !counted && !assumed() {
                    (out.looks, out.changes, out.fails) = (true, true, true);
                }
                out.fails |= does == Doing::MayThrow;
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
            Tuple | List | Dict | Concat | TemplateText | Literal | Token | MemberName | KeywordName => {}
            Lambda | Function | Type | Label => {}
            _ if t.ancestors(n).take_while(|a| *a >= code).any(|a| t.role(a) == Type) => {}
            _ => (out.looks, out.changes, out.fails) = (true, true, true),
        }
        let target = t.child(n, Field::Left).filter(|_| matches!(t.role(n), Assign | AugAssign) && !later);
        if target.is_some_and(|l| t.role(l) != Name) {
            (out.changes, out.fails) = (true, true);
        }
    }
    out
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
    out.looks |= s.lang.is_frame_name(s.str(n));
    out.changes |= r.usage.writes() && (!own || binding.captured || unnamed);
    // it must surely have its value: given on a straight way before, or from the start
    let given = s.names.references_to(b).any(|w| {
        let straight =
            t.ancestors(w.node).take_while(|a| *a != frame).all(|a| !conditional(t.role(a)) || t.contains(a, n));
        w.usage.writes() && w.node < n && straight
    });
    let there = binding.kind == crate::names::BindKind::Parameter || binding.hoisted || binding.scope == Names::MODULE;
    out.fails |= r.usage.reads() && own && !given && !there;
}

fn conditional(role: Role) -> bool {
    use Role::*;
    role.is_loop() || matches!(role, If | Elif | Else | Try | Except | Switch | Match | Case | BoolOp | Conditional)
}

fn apart(s: &Source, frame: NodeId, a: NodeId, b: NodeId, told: &[(usize, String)]) -> Opinion<()> {
    let (x, y) = (touch(s, frame, a, told), touch(s, frame, b, told));
    let shared = |g: &Touch, o: &Touch| g.given.iter().find(|n| o.used.contains(n) || o.given.contains(n)).copied();
    if let Some(n) = shared(&x, &y).or_else(|| shared(&y, &x)) {
        return object(s, a, format!("both have to do with `{}`", s.names.binding(n).name));
    }
    let seen = |p: &Touch, q: &Touch| p.changes && (q.changes || q.looks) || p.fails && (q.changes || q.fails);
    if x.jumps || y.jumps || seen(&x, &y) || seen(&y, &x) {
        return object(s, a, "the order of the two can be seen");
    }
    // a handler sees what was done before something failed
    let watched =
        s.tree.ancestors(a).take_while(|n| *n != frame).any(|n| matches!(s.tree.role(n), Role::Try | Role::With));
    if watched && (x.fails || y.fails) {
        return object(s, a, "a handler may see which of the two came first");
    }
    Ok(())
}
