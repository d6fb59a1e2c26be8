//! What conditions have told of a variable, or of a member of one, where it is used.
//!
//! A condition tells something of what it holds or of what comes after it when the other way leaves. Those that are
//! understood: truth, comparing with `null`, `undefined` and literals, `typeof`, `instanceof`, a member that tells the
//! kinds of a union apart, `switch` over these, `!`, `&&`, `||`. Where any other condition, an assignment or a call that
//! asserts may have told something of a type that can be told more of, the type is unknown.

use super::library;
use super::types::{Types, general, is_nothing, literal, something, undefined};
use super::written::Seen;
use crate::lang::Definitions;
use crate::names::{BindingId, Reference, Source, Use};
use crate::tree::{Field, NodeId, Role, Tree};
use crate::types::{Kind, Ty};

/// A variable, or a path of members from one.
struct Path {
    /// Without the marks for what may be missing.
    text: String,
    root: BindingId,
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

impl Types<'_> {
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
        let (s, t) = (self.s, self.tree());
        let mut root = node;
        while self.is_step(root) {
            root = t.child(root, Field::Object)?;
        }
        let b = s.names.at(root).filter(|_| t.role(root) == Role::Name && root != node)?.target?;
        let path = Path { text: unmarked(s.str(node)), root: b };
        let facts = self.facts(node, &path);
        if facts.is_empty() {
            return None;
        }
        let object = t.child(node, Field::Object)?;
        let optional = t.children(node).any(|c| t.role(c) == Role::OptionalMark);
        let of = self.value(object).map(|of| if optional { something(of) } else { of });
        let declared = of.and_then(|of| match t.child(node, Field::Member) {
            Some(member) => self.property(of, s.str(member)),
            None => self.item(of, t.child(node, Field::Index)?),
        });
        Some(declared.and_then(|d| self.with_facts(&path, d, &facts)))
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
                Fact::Case(subject, values, among) => self.given_case(*subject, values, *among, path, of),
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

    fn is_path(&self, node: NodeId, path: &Path) -> bool {
        unmarked(self.s.str(node)) == path.text
    }

    /// Something in the code is the path, or a member of it.
    fn mentions(&self, node: NodeId, path: &Path) -> bool {
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
        let (s, t) = (self.s, self.tree());
        let mut out = Vec::new();
        let first = s.names.binding(path.root).first;
        let is_written = s.names.references_to(path.root).any(|r| r.usage.writes() && r.node != first);
        let (mut at, mut left) = (node, false);
        while let Some(parent) = t.parent(at) {
            // between the place where the value is taken and its own
            let between = |n: NodeId| n.0 >= self.from.0 && !t.contains(self.root, n) && !t.contains(n, self.root);
            let mut told = Vec::new();
            self.facts_of(parent, at, path, &mut told);
            let inside = parent.0 >= self.from.0 && !t.contains(self.root, parent);
            for (by, fact) in told {
                let unclear = inside || between(by) || left && !self.is_kept(path);
                out.push(if unclear { Fact::Unclear } else { fact });
            }
            left |= t.role(parent).is_callable();
            at = parent;
        }
        if !out.is_empty() && (is_written || self.is_assigned(path)) {
            out.push(Fact::Unclear);
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

    /// The type that a path has when a condition holds, or does not.
    fn under(&self, condition: NodeId, holds: bool, path: &Path, of: Ty) -> Option<Ty> {
        let (s, t) = (self.s, self.tree());
        if !self.mentions(condition, path) {
            return Some(of);
        }
        let child = |f: Field| t.child(condition, f);
        match t.role(condition) {
            Role::Paren => {
                let inner: Vec<NodeId> = t.children(condition).collect();
                match inner[..] {
                    [one] => self.under(one, holds, path, of),
                    _ => None,
                }
            }
            Role::NotOp => self.under(child(Field::Expression)?, !holds, path, of),
            Role::BoolOp => {
                let [a, b] = [child(Field::Left)?, child(Field::Right)?];
                let both = match child(Field::Operator).map_or("", |o| s.str(o)) {
                    "&&" => true,
                    "||" => false,
                    _ => return None,
                };
                if both == holds {
                    return self.under(b, holds, path, self.under(a, holds, path, of)?);
                }
                let one = self.under(a, holds, path, of)?;
                let other = self.under(b, holds, path, self.under(a, !holds, path, of)?)?;
                let all = self.parts(of);
                let kept = all.iter().copied().filter(|p| self.parts(one).contains(p) || self.parts(other).contains(p));
                Some(self.rebuilt(of, &all, kept.collect()))
            }
            Role::Name | Role::Member => self.given_truth(condition, holds, path, of),
            Role::Compare => self.given_comparison(condition, holds, path, of),
            Role::Call => self.given_call(condition, holds, path, of),
            _ => None,
        }
    }

    /// `x`, `x?.a`, `x.a`
    fn given_truth(&self, value: NodeId, holds: bool, path: &Path, of: Ty) -> Option<Ty> {
        if self.is_path(value, path) {
            let found = self.kept(of, |p| {
                Some(match p.kind() {
                    Kind::Primitive(name) => match name.as_str() {
                        "null" | "undefined" | "void" => !holds,
                        "symbol" | "object" => holds,
                        "unknown" => return None,
                        _ => true,
                    },
                    Kind::Literal(text) => holds != ["false", "0", "\"\"", "''", "0n"].contains(&text.as_str()),
                    _ if !self.is_clear(*p) => return None,
                    Kind::Named { .. } if self.is_one_of_enum(*p) => true,
                    _ => holds,
                })
            })?;
            let truth = if holds { "true" } else { "false" };
            return Some(if found == Ty::primitive("boolean") { Ty::literal(truth) } else { found });
        }
        if self.is_asked_through(value, path) {
            // something of it is there, so it is
            return if holds { something(of).known() } else { Some(of) };
        }
        // a member of one thing tells nothing of it
        (self.parts(of).len() < 2 && self.is_clear(of)).then_some(of)
    }

    /// `x?.a`, `x?.a.b`
    fn is_asked_through(&self, value: NodeId, path: &Path) -> bool {
        let t = self.tree();
        let object = |n: &NodeId| t.child(*n, Field::Object).or_else(|| t.child(*n, Field::Callee));
        let mut chain = std::iter::successors(Some(value), object);
        let marked = |n: NodeId| t.children(n).any(|c| t.role(c) == Role::OptionalMark);
        chain.any(|n| marked(n) && t.child(n, Field::Object).is_some_and(|o| self.is_path(o, path)))
    }

    /// A call that tells something by its outcome.
    fn given_call(&self, call: NodeId, holds: bool, path: &Path, of: Ty) -> Option<Ty> {
        let (s, t) = (self.s, self.tree());
        let (callee, list) = (t.child(call, Field::Callee)?, t.child(call, Field::Arguments)?);
        if !self.mentions(list, path) {
            if self.is_asked_through(call, path) {
                return if holds { something(of).known() } else { Some(of) };
            }
            // `this is T` is said of kinds of one class
            return (self.parts(of).len() < 2 && self.is_clear(of)).then_some(of);
        }
        if s.str(callee) == "Array.isArray" && t.children(list).all(|a| self.is_path(a, path)) {
            return self.kept(of, |p| match p.kind() {
                Kind::Array(_) | Kind::Tuple(_) => Some(holds),
                Kind::Primitive(name) if name != "any" && name != "unknown" => Some(!holds),
                Kind::Literal(_) | Kind::Shape(_) | Kind::Function { .. } => Some(!holds),
                _ => None,
            });
        }
        let first = t.subtree(callee).find(|x| t.role(*x) == Role::Name);
        let free = first.is_some_and(|n| s.names.at(n).is_some_and(|r| r.target.is_none()));
        let word = s.str(callee).split('.').next().unwrap_or("");
        let known = library::of_object(word).is_some() || library::FUNCTIONS.iter().any(|(n, _)| *n == word);
        if free && known && s.str(callee) != "Array.isArray" {
            return Some(of);
        }
        let (home, function) = (self.definitions)(s, s.str(callee))?;
        let result = home.tree.child(function, Field::ReturnType)?;
        (!home.str(result).contains(" is ")).then_some(of)
    }

    fn given_comparison(&self, compare: NodeId, holds: bool, path: &Path, of: Ty) -> Option<Ty> {
        let (s, t) = (self.s, self.tree());
        let [left, right] = [Field::Left, Field::Right].map(|f| t.child(compare, f));
        let (left, right) = (left?, right?);
        let operator = t.child(compare, Field::Operator).map_or("", |o| s.str(o));
        let equal = match operator {
            "===" | "==" => holds,
            "!==" | "!=" => !holds,
            "instanceof" => return self.given_class(left, right, holds, path, of),
            // what is compared by size is a number or a text already
            "<" | ">" | "<=" | ">=" => return Some(of),
            _ => return None,
        };
        let (subject, value) = if t.role(left) == Role::Literal { (right, left) } else { (left, right) };
        if self.mentions(value, path) {
            return None;
        }
        let both = operator.len() == 2 && ["null", "undefined"].contains(&s.str(value));
        if both && self.is_path(subject, path) {
            let any = Ty::primitive("any");
            return self.kept(of, |p| self.is_clear(*p).then(|| is_nothing(*p) == equal || *p == any));
        }
        if operator.len() == 2 && !s.str(subject).starts_with("typeof ") {
            return None;
        }
        self.given_value(subject, &[value], equal, path, of)
    }

    fn is_clear(&self, p: Ty) -> bool {
        let unknown = p == Ty::primitive("unknown");
        let named = matches!(p.kind(), Kind::Named { .. }) && self.is_loose(p) && !self.is_one_of_enum(p);
        !unknown && !named && !matches!(p.kind(), Kind::Parameter { .. })
    }

    fn given_case(&self, subject: NodeId, values: &[NodeId], among: bool, path: &Path, of: Ty) -> Option<Ty> {
        let t = self.tree();
        let inner = t.children(subject).next().filter(|_| t.role(subject) == Role::Paren).unwrap_or(subject);
        self.given_value(inner, values, among, path, of)
    }

    /// The subject of a comparison is one of some values, or none of them.
    fn given_value(&self, subject: NodeId, values: &[NodeId], among: bool, path: &Path, of: Ty) -> Option<Ty> {
        let (s, t) = (self.s, self.tree());
        let literal = |v: &NodeId| match s.str(*v) {
            "null" => Some(Ty::primitive("null")),
            "undefined" => Some(undefined()),
            text => (t.role(*v) == Role::Literal).then(|| Ty::literal(text)),
        };
        let all: Option<Vec<Ty>> = values.iter().map(literal).collect();
        if self.is_path(subject, path) {
            // one of an enumeration, or another variable
            let Some(all) = all else { return self.under_member(values, among, of) };
            return self.given_literals(&all, among, of);
        }
        if t.role(subject) == Role::UnaryOp && s.str(subject).starts_with("typeof") {
            let words: Vec<String> = values.iter().map(|v| s.str(*v).trim_matches(['"', '\'']).to_string()).collect();
            let operand = t.child(subject, Field::Expression)?;
            return self.is_path(operand, path).then(|| self.given_typeof(&words, among, of))?;
        }
        let member = t.child(subject, Field::Member).filter(|_| t.role(subject) == Role::Member)?;
        let object = t.child(subject, Field::Object)?;
        if self.is_path(object, path) && !s.str(subject).contains("?.") {
            let all = all?;
            let parts = self.parts(of);
            if parts.len() < 2 {
                return (something(of) == of).then_some(of);
            }
            return self.kept(of, |p| {
                let own = self.property(*p, s.str(member))?.alternatives();
                let fits = |o: &Ty| all.iter().any(|a| same_literal(*o, *a));
                let literal = own.iter().all(|o| matches!(o.kind(), Kind::Literal(_)));
                match among {
                    true => Some(own.iter().any(|o| fits(o) || !matches!(o.kind(), Kind::Literal(_)))),
                    false => Some(!literal || !own.iter().all(fits)),
                }
            });
        }
        // a member further down tells nothing of one thing
        (!self.is_loose(of)).then_some(of)
    }

    /// One of an enumeration, or of another variable.
    fn under_member(&self, values: &[NodeId], among: bool, of: Ty) -> Option<Ty> {
        let (s, t) = (self.s, self.tree());
        if let ([value], true, true) = (values, among, self.is_one_of_enum(of))
            && let Kind::Named { name, only_in, .. } = of.kind()
        {
            let member = t.child(*value, Field::Member).filter(|_| t.role(*value) == Role::Member)?;
            let name = format!("{name}.{}", s.str(member));
            return Some(Ty::new(Kind::Named { name, arguments: vec![of], only_in }));
        }
        (!self.is_loose(of)).then_some(of)
    }

    fn given_literals(&self, all: &[Ty], among: bool, of: Ty) -> Option<Ty> {
        let parts = self.parts(of);
        if among && parts.len() == 1 && matches!(parts[0].kind(), Kind::Primitive(_)) {
            let fitting = all.iter().all(|a| general(*a) == parts[0]);
            return match parts[0].kind() {
                Kind::Primitive(p) if p == "any" => Some(of),
                _ if fitting => Ty::union(all.to_vec()).known(),
                _ => None,
            };
        }
        self.kept(of, |p| {
            let fits = all.iter().any(|a| same_literal(*p, *a));
            match p.kind() {
                Kind::Literal(_) => Some(fits == among),
                _ if is_nothing(*p) => Some(fits == among),
                // it may be one of the literals, or any other
                Kind::Primitive(name)
                    if among && ["string", "number", "boolean", "bigint"].contains(&name.as_str()) =>
                {
                    all.iter().all(|a| general(*a) != *p).then_some(false)
                }
                Kind::Primitive(name) if name == "unknown" => (!among).then_some(true),
                _ if !self.is_clear(*p) => None,
                _ => Some(!among || all.iter().any(|a| general(*a) == *p)),
            }
        })
    }

    fn given_typeof(&self, words: &[String], among: bool, of: Ty) -> Option<Ty> {
        let parts = self.parts(of);
        if let [one] = parts[..]
            && let Kind::Primitive(name) = one.kind()
            && ["any", "unknown"].contains(&name.as_str())
        {
            let plain = ["string", "number", "boolean", "bigint", "symbol", "undefined"];
            return match words {
                [word] if among && plain.contains(&word.as_str()) => Some(Ty::primitive(word)),
                _ if !among => Some(of),
                _ => None,
            };
        }
        self.kept(of, |p| {
            let word = match general(*p).kind() {
                Kind::Primitive(name) => match name.as_str() {
                    "null" => "object".to_string(),
                    "void" => "undefined".to_string(),
                    "unknown" | "any" | "never" => return None,
                    _ => name,
                },
                Kind::Array(_) | Kind::Tuple(_) | Kind::Shape(_) => "object".into(),
                Kind::Function { .. } => "function".into(),
                Kind::Named { .. } if !self.is_loose(*p) && !words.iter().any(|w| w == "function") => "object".into(),
                _ => return None,
            };
            Some(words.contains(&word) == among)
        })
    }

    /// `x instanceof C`
    fn given_class(&self, left: NodeId, class: NodeId, holds: bool, path: &Path, of: Ty) -> Option<Ty> {
        let (s, t) = (self.s, self.tree());
        if !self.is_path(left, path) || t.role(class) != Role::Name {
            return None;
        }
        let class = self.read(s.str(class), class);
        let parts = self.parts(of);
        if let [one] = parts[..]
            && [Ty::primitive("any"), Ty::primitive("unknown")].contains(&one)
        {
            let plain = |c: &Ty| ![Ty::named("Object", vec![]), Ty::named("Function", vec![])].contains(c);
            return if holds { class.known().filter(plain) } else { Some(of) };
        }
        // another class of the same shape would do, too
        let objects: Vec<&Ty> =
            parts.iter().filter(|p| !matches!(p.kind(), Kind::Primitive(_) | Kind::Literal(_))).collect();
        let clear = objects.iter().all(|p| self.is_below(**p, class));
        clear.then(|| self.kept(of, |p| Some(self.is_below(*p, class) == holds)))?
    }

    /// Those of its parts for which something holds; none when that is unknown of one, or of none of them.
    fn kept(&self, of: Ty, holds: impl Fn(&Ty) -> Option<bool>) -> Option<Ty> {
        let parts = self.parts(of);
        let told: Option<Vec<bool>> = parts.iter().map(holds).collect();
        let kept: Vec<Ty> = parts.iter().copied().zip(told?).filter(|(_, k)| *k).map(|(p, _)| p).collect();
        (!kept.is_empty()).then(|| self.rebuilt(of, &parts, kept))
    }

    /// The type as it was when all its parts are left.
    fn rebuilt(&self, of: Ty, parts: &[Ty], kept: Vec<Ty>) -> Ty {
        if kept.len() == parts.len() { of } else { Ty::union(kept) }
    }
}

/// Without `?` and `!` behind what may be missing.
fn unmarked(path: &str) -> String {
    path.replace("?.", ".").replace(".[", "[").replace('!', "")
}

/// Quotes are a habit.
fn same_literal(a: Ty, b: Ty) -> bool {
    let text = |t: Ty| match t.kind() {
        Kind::Literal(text) => Some(text.replace('\'', "\"")),
        _ => None,
    };
    a == b || text(a).is_some() && text(a) == text(b)
}
