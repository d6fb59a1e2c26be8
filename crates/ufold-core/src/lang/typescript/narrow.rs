//! What conditions have told of a variable, or of a member of one, where it is used.
//!
//! A condition tells something of what it holds or of what comes after it when the other way leaves. Those that are
//! understood: truth, comparing with `null`, `undefined` and literals, `typeof`, `instanceof`, a member that tells the
//! kinds of a union apart, `switch` over these, `!`, `&&`, `||`. Where any other condition, an assignment or a call that
//! asserts may have told something of a type that can be told more of, the type is unknown.

use super::types::{Types, general, literal, something};
use super::written::Seen;
use crate::lang::Definitions;
use crate::names::{BindingId, Reference, Source, Use};
use crate::tree::{Field, NodeId, Role, Tree};
use crate::types::Ty;

/// A variable, or a path of members from one.
pub struct Path {
    /// Without the marks for what may be missing.
    pub text: String,
    pub root: BindingId,
}

/// Where the value is taken is one place, where it stands another.
#[derive(PartialEq, Eq)]
enum Told {
    Before,
    Between,
    /// By the value's own code.
    Within,
}

/// What holds at a place.
enum Fact {
    Is(NodeId, bool),
    /// The subject of a switch is one of these values, or none of them.
    Case(NodeId, Vec<NodeId>, bool),
    /// Something that is not understood.
    Unclear,
}

/// A test in a condition whose variables are used after it, as what it tells them to be.
pub fn is_test(source: &Source, value: NodeId, definitions: &Definitions) -> bool {
    let t = &source.tree;
    let statement = t.ancestors(value).take_while(|a| t.role(*a).is_expression() || t.role(*a) == Role::Paren);
    let mut around = statement.chain([value]);
    let decides = |n: NodeId| {
        let logical = t.parent(n).is_some_and(|p| t.role(p) == Role::BoolOp) && t.field(n) == Field::Left;
        matches!(t.field(n), Field::Condition | Field::Subject) || logical
    };
    if matches!(t.role(value), Role::Name | Role::Member | Role::Literal) || !around.any(decides) {
        return false;
    }
    let seen = Seen::default();
    let types = Types { s: source, root: value, from: value, definitions, seen: &seen, depth: 0 };
    let function = t.callable_around(value).map_or(t.end(Tree::ROOT), |f| t.end(f));
    let used_later = |b: BindingId| source.names.in_range(t.end(value), function).iter().any(|r| r.target == Some(b));
    let telling = |n: NodeId| {
        let above = t.ancestors(n).take_while(|a| *a >= value);
        above.chain([n]).any(|a| match t.role(a) {
            Role::NotOp | Role::BoolOp | Role::Call => true,
            Role::Compare => {
                t.child(a, Field::Operator).is_none_or(|o| !source.str(o).trim_end_matches('=').ends_with(['<', '>']))
            }
            _ => false,
        })
    };
    source.names.in_range(value, t.end(value)).iter().any(|r| {
        let later = r.target.is_some_and(used_later);
        later && telling(r.node) && types.own(r.node).is_none_or(|of| types.is_loose(of))
    })
}

/// What is known of a variable, or a member of one, by conditions that stand before the code at `from`: a type that says
/// more than the declared one does, or an unknown one.
pub fn told_before(source: &Source, node: NodeId, from: NodeId, definitions: &Definitions) -> Option<Ty> {
    let seen = Seen::default();
    let types = Types { s: source, root: node, from, definitions, seen: &seen, depth: 0 };
    let path = types.path_of(node)?;
    let (first, told) = match source.tree.role(node) {
        // the object is what its class is
        Role::Name if source.str(node) == "this" => return None,
        Role::Name => {
            let declared = types.binding(path.root);
            (declared, declared.and_then(|d| types.assigned(path.root, d)))
        }
        _ => (types.declared_member(node), types.declared_member(node)),
    };
    let facts = types.gathered(node, &path).into_iter().filter(|(place, _)| *place == Told::Before);
    let facts: Vec<Fact> = facts.map(|f| f.1).collect();
    if facts.is_empty() && first == told {
        return None;
    }
    let Some(declared) = first else { return (!facts.is_empty()).then_some(Ty::UNKNOWN) };
    let found = types.with_facts(&path, told.unwrap_or(declared), &facts);
    (found != Some(declared)).then(|| found.unwrap_or(Ty::UNKNOWN))
}

impl Types<'_> {
    fn path_of(&self, node: NodeId) -> Option<Path> {
        let (s, t) = (self.s, self.tree());
        let mut root = node;
        while self.is_step(root) {
            root = t.child(root, Field::Object)?;
        }
        let b = s.names.at(root).filter(|_| t.role(root) == Role::Name)?.target?;
        Some(Path { text: unmarked(s.str(node)), root: b })
    }

    /// The type of a member, whatever conditions tell of it.
    fn declared_member(&self, node: NodeId) -> Option<Ty> {
        let (s, t) = (self.s, self.tree());
        let optional = t.children(node).any(|c| t.role(c) == Role::OptionalMark);
        let of = self.value(t.child(node, Field::Object)?)?;
        let of = if optional { something(of) } else { of };
        match t.child(node, Field::Member) {
            Some(member) => self.property(of, s.str(member)),
            None => self.item(of, t.child(node, Field::Index)?),
        }
    }

    /// The type of a variable at a node that reads it.
    pub fn narrowed(&self, node: NodeId, b: BindingId, declared: Ty) -> Option<Ty> {
        let (t, path) = (self.tree(), Path { text: self.s.str(node).to_string(), root: b });
        let around = t.parent(self.s.names.binding(b).first);
        let caught = around.is_some_and(|p| t.role(p) == Role::Except && declared == Ty::primitive("unknown"));
        let declared = self.assigned(b, declared)?;
        let found = self.with_facts(&path, declared, &self.facts(node, &path))?;
        // by the settings of the compiler it is one or the other
        (!caught || found != declared).then_some(found)
    }

    /// The type of a member that something is told of; none where nothing is, and none inside where it is unknown.
    pub fn narrowed_path(&self, node: NodeId) -> Option<Option<Ty>> {
        let path = self.path_of(node)?;
        let facts = self.facts(node, &path);
        if facts.is_empty() {
            return None;
        }
        Some(self.declared_member(node).and_then(|d| self.with_facts(&path, d, &facts)))
    }

    /// The type after what was assigned, which says more than the declaration.
    fn assigned(&self, b: BindingId, declared: Ty) -> Option<Ty> {
        let (s, t) = (self.s, self.tree());
        if !self.is_loose(declared) {
            return Some(declared);
        }
        let binding = s.names.binding(b);
        if s.names.references_to(b).any(|r| r.usage.writes() && r.node != binding.first) {
            return None;
        }
        let made = t.parent(binding.first).filter(|a| t.role(*a) == Role::Assign && t.child(*a, Field::Type).is_some());
        let Some(value) = made.and_then(|a| t.child(a, Field::Right)) else { return Some(declared) };
        let parts = self.parts(declared);
        if parts.len() < 2 {
            return Some(declared);
        }
        let given = match t.role(value) {
            Role::Literal => literal(s.str(value))?,
            _ => self.own(value)?,
        };
        let given = self.parts(given);
        let fits = |p: &Ty| given.contains(p) || given.iter().any(|g| general(*g) == *p || general(*p) == *g);
        let kept: Vec<Ty> = parts.iter().copied().filter(fits).collect();
        let known = given.iter().all(|g| parts.iter().any(|p| p == g || general(*p) == *g || *p == general(*g)));
        (known && !kept.is_empty()).then(|| self.rebuilt(declared, &parts, kept))
    }

    fn with_facts(&self, path: &Path, declared: Ty, facts: &[Fact]) -> Option<Ty> {
        let loose = self.is_loose(declared);
        facts.iter().try_fold(declared, |of, fact| {
            let found = match fact {
                Fact::Is(condition, holds) => self.under(*condition, *holds, path, of),
                Fact::Case(subject, values, among) => self.under_case(*subject, values, *among, path, of),
                Fact::Unclear => None,
            };
            found.or_else(|| (!loose).then_some(of))
        })
    }

    /// A member by its name, or by a literal.
    fn is_step(&self, node: NodeId) -> bool {
        let t = self.tree();
        match t.role(node) {
            Role::Member => true,
            Role::Index => t.child(node, Field::Index).is_some_and(|i| t.role(i) == Role::Literal),
            _ => false,
        }
    }

    pub fn is_path(&self, node: NodeId, path: &Path) -> bool {
        unmarked(self.s.str(node)) == path.text
    }

    /// Something in the code is the path, or a member of it.
    pub fn mentions(&self, node: NodeId, path: &Path) -> bool {
        let (s, t) = (self.s, self.tree());
        let of_root = |r: &Reference| {
            let steps = |n: &NodeId| t.parent(*n).filter(|p| self.is_step(*p) && t.field(*n) == Field::Object);
            let whole = std::iter::successors(Some(r.node), steps).last().unwrap_or(r.node);
            let text = unmarked(s.str(whole));
            let rest = text.strip_prefix(path.text.as_str());
            r.target == Some(path.root) && rest.is_some_and(|r| r.is_empty() || r.starts_with(['.', '[']))
        };
        s.names.in_range(node, t.end(node)).iter().any(|r| of_root(r) || self.stands_for(r, path))
    }

    /// A constant that holds the outcome of a test.
    fn stands_for(&self, r: &Reference, path: &Path) -> bool {
        let (s, t) = (self.s, self.tree());
        let Some(b) = r.target.filter(|b| *b != path.root) else { return false };
        let made = t.parent(s.names.binding(b).first).filter(|a| t.role(*a) == Role::Assign);
        let value = made.and_then(|a| t.child(a, Field::Right));
        let tested = value.and_then(|v| match t.role(v) {
            Role::Compare | Role::BoolOp | Role::NotOp | Role::Paren => Some(v),
            Role::Call => t.child(v, Field::Arguments),
            _ => None,
        });
        tested.is_some_and(|v| s.names.in_range(v, t.end(v)).iter().any(|x| x.target == Some(path.root)))
    }

    /// What is told of a path where a node stands, the outermost first.
    fn facts(&self, node: NodeId, path: &Path) -> Vec<Fact> {
        let unclear = |(place, fact)| if place == Told::Between { Fact::Unclear } else { fact };
        self.gathered(node, path).into_iter().map(unclear).collect()
    }

    /// The same, and from where it is known.
    fn gathered(&self, node: NodeId, path: &Path) -> Vec<(Told, Fact)> {
        let (s, t) = (self.s, self.tree());
        let mut out = Vec::new();
        let first = s.names.binding(path.root).first;
        let is_written = s.names.references_to(path.root).any(|r| r.usage.writes() && r.node != first);
        let (mut at, mut left) = (node, false);
        while let Some(parent) = t.parent(at) {
            let behind = |n: NodeId| n.0 >= self.from.0 && !t.contains(self.root, n);
            let mut told = Vec::new();
            self.facts_of(parent, at, path, &mut told);
            for (by, fact) in told {
                let place = match t.contains(self.root, parent) {
                    true => Told::Within,
                    false if behind(parent) || behind(by) && !t.contains(by, self.root) => Told::Between,
                    false => Told::Before,
                };
                out.push((place, if left && !self.is_kept(path) { Fact::Unclear } else { fact }));
            }
            left |= t.role(parent).is_callable();
            at = parent;
        }
        if !out.is_empty() && (is_written || self.is_assigned(path)) {
            out.push((Told::Before, Fact::Unclear));
        }
        out.reverse();
        out
    }

    /// What is told of it holds in functions that run later, too.
    fn is_kept(&self, path: &Path) -> bool {
        let (s, t) = (self.s, self.tree());
        let declare = t.parent(s.names.binding(path.root).first).and_then(|a| t.parent(a));
        let fixed = declare.is_some_and(|d| t.role(d) == Role::Declare && s.str(d).starts_with("const "));
        fixed && !path.text.contains('.')
    }

    /// A path of members that is written somewhere.
    fn is_assigned(&self, path: &Path) -> bool {
        let (s, t) = (self.s, self.tree());
        let member = |r: &Reference| {
            let whole = t.ancestors(r.node).take_while(|a| t.role(*a) == Role::Member);
            let mut whole = whole.filter(|m| path.text.starts_with(&unmarked(s.str(*m))));
            whole.any(|m| {
                let parent = t.parent(m);
                let assigned =
                    |p: NodeId| matches!(t.role(p), Role::Assign | Role::AugAssign | Role::OrAssign | Role::Delete);
                parent.is_some_and(|p| assigned(p) && t.field(m) != Field::Right)
            })
        };
        path.text.contains('.') && s.names.references_to(path.root).any(member)
    }

    /// What a parent tells of the place of its child, and by what, the last told first.
    fn facts_of(&self, parent: NodeId, at: NodeId, path: &Path, out: &mut Vec<(NodeId, Fact)>) {
        let (s, t) = (self.s, self.tree());
        let mut tell = |condition: Option<NodeId>, holds: bool| {
            out.extend(condition.filter(|c| self.mentions(*c, path)).map(|c| (c, Fact::Is(c, holds))));
        };
        let condition = t.child(parent, Field::Condition);
        match (t.role(parent), t.field(at)) {
            (Role::If | Role::Conditional, Field::Body) => tell(condition, true),
            (Role::If | Role::Conditional, Field::Alternative) => tell(condition, false),
            (Role::While | Role::CountedFor, Field::Body) => tell(condition, true),
            (Role::BoolOp, Field::Right) => {
                let left = t.child(parent, Field::Left);
                match t.child(parent, Field::Operator).map_or("", |o| s.str(o)) {
                    "&&" => tell(left, true),
                    "||" => tell(left, false),
                    _ => out.extend(left.filter(|l| self.mentions(*l, path)).map(|l| (l, Fact::Unclear))),
                }
            }
            (Role::Case, Field::Body) => self.case_facts(parent, path, out),
            (role, _) if role.is_sequence() || role == Role::Module => {
                let before: Vec<NodeId> = t.children(parent).take_while(|c| *c < at).collect();
                before.into_iter().rev().for_each(|b| self.after(b, path, out));
            }
            _ => {}
        }
    }

    fn case_facts(&self, case: NodeId, path: &Path, out: &mut Vec<(NodeId, Fact)>) {
        let t = self.tree();
        let Some(list) = t.parent(case) else { return };
        let Some(switch) = t.parent(list) else { return };
        let Some(subject) = t.child(switch, Field::Subject) else { return };
        if !self.mentions(subject, path) {
            return;
        }
        let cases: Vec<NodeId> = t.children(list).filter(|c| t.role(*c) == Role::Case).collect();
        let place = cases.iter().position(|c| *c == case).unwrap_or(0);
        let value = |c: &NodeId| t.child(*c, Field::Value);
        let body = |c: &NodeId| t.child(*c, Field::Body);
        let empty = cases[..place].iter().rev().take_while(|c| body(c).is_none()).count();
        let before = cases[..place - empty].last();
        if before.is_some_and(|c| body(c).is_some_and(|b| !self.leaves(b))) {
            return out.push((case, Fact::Unclear));
        }
        let group = &cases[place - empty..=place];
        let values: Option<Vec<NodeId>> = group.iter().map(value).collect();
        let fact = match values {
            Some(values) => Fact::Case(subject, values, true),
            // with the default
            None if group.len() == 1 => Fact::Case(subject, cases.iter().filter_map(value).collect(), false),
            None => Fact::Unclear,
        };
        out.push((case, fact));
    }

    /// What a statement tells of what comes after it.
    fn after(&self, statement: NodeId, path: &Path, out: &mut Vec<(NodeId, Fact)>) {
        let t = self.tree();
        if t.role(statement).is_definition() || !self.mentions_anywhere(statement, path) {
            return;
        }
        let condition = t.child(statement, Field::Condition);
        if t.role(statement) == Role::If
            && let Some(c) = condition
        {
            let [body, other] = [Field::Body, Field::Alternative].map(|f| t.child(statement, f));
            let (then_leaves, else_leaves) =
                (body.is_some_and(|b| self.leaves(b)), other.is_some_and(|o| self.leaves(o)));
            let told = self.mentions(c, path);
            let hidden = |n: Option<NodeId>, leaves: bool| !leaves && n.is_some_and(|n| self.hides_a_test(n, path));
            if hidden(body, then_leaves) || hidden(other, else_leaves) {
                return out.push((statement, Fact::Unclear));
            }
            match (then_leaves, else_leaves) {
                (true, _) if told => out.push((statement, Fact::Is(c, false))),
                (_, true) if told => out.push((statement, Fact::Is(c, true))),
                _ => {}
            }
            return;
        }
        if t.role(statement) == Role::ExprStmt {
            let call = t.children(statement).find(|c| t.role(*c) == Role::Call);
            if call.is_some_and(|c| self.asserts(c)) {
                out.push((statement, Fact::Unclear));
            }
            return;
        }
        let loops = matches!(t.role(statement), Role::While | Role::DoWhile | Role::CountedFor);
        if loops && condition.is_some_and(|c| self.mentions(c, path)) || self.hides_a_test(statement, path) {
            out.push((statement, Fact::Unclear));
        }
    }

    fn mentions_anywhere(&self, node: NodeId, path: &Path) -> bool {
        let t = self.tree();
        let all = self.s.names.in_range(node, t.end(node));
        all.iter().any(|r| r.target == Some(path.root) && r.usage == Use::Read || self.stands_for(r, path))
    }

    /// A test inside a statement, one of whose ways leaves.
    fn hides_a_test(&self, node: NodeId, path: &Path) -> bool {
        let t = self.tree();
        let own = t.callable_around(node);
        let inside = |n: &NodeId| t.callable_around(*n) == own;
        let leaves = |n: &NodeId| matches!(t.role(*n), Role::Return | Role::Raise | Role::Break | Role::Continue);
        let tests = |n: &NodeId| matches!(t.field(*n), Field::Condition | Field::Subject) && self.mentions(*n, path);
        let asserts = |n: &NodeId| t.role(*n) == Role::Call && self.asserts(*n) && self.mentions_anywhere(*n, path);
        let has = |f: &dyn Fn(&NodeId) -> bool| t.subtree(node).any(|n| inside(&n) && f(&n));
        has(&leaves) && has(&tests) || has(&asserts)
    }

    /// A call after which a variable may be known more narrowly.
    fn asserts(&self, call: NodeId) -> bool {
        let (s, t) = (self.s, self.tree());
        let Some(callee) = t.child(call, Field::Callee) else { return true };
        let defined = (self.definitions)(s, s.str(callee));
        let result = defined.as_ref().map(|(h, f)| h.tree.child(*f, Field::ReturnType).map_or("", |r| h.str(r)));
        let word = s.str(callee).rsplit('.').next().unwrap_or("").to_ascii_lowercase();
        s.lang.narrows(&word, result)
    }

    /// Code that never comes to its end.
    fn leaves(&self, node: NodeId) -> bool {
        let t = self.tree();
        match t.role(node) {
            Role::Return | Role::Raise | Role::Break | Role::Continue => true,
            Role::Block => t.children(node).any(|c| self.leaves(c)),
            Role::Else => t.child(node, Field::Body).is_some_and(|b| self.leaves(b)),
            Role::If => {
                [Field::Body, Field::Alternative].iter().all(|f| t.child(node, *f).is_some_and(|b| self.leaves(b)))
            }
            _ => false,
        }
    }
}

/// Without `?` and `!` behind what may be missing.
fn unmarked(path: &str) -> String {
    path.replace("?.", ".").replace(".[", "[").replace('!', "")
}
