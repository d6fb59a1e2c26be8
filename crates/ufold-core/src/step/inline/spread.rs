//! The statements of a function in the place of a call that is a statement by itself, or all that one assigns or returns.
//!
//! Locals of the function become locals of the caller, so their names must be new there; only the result may take the
//! name that the caller gives it. Arguments that could change in between get their parameter's name first. Refused for
//! anything that would need more: several returns, inner functions that share locals, calls inside expressions.

use rustc_hash::{FxHashMap, FxHashSet};

use super::values::{hidden_at, in_brackets, is_fixed, is_local, plain_call};
use crate::change::{Code, Reason, reason};
use crate::names::{BindingId, ScopeId, Source, Space, Use};
use crate::text::{Edit, Span, apply_edits, indent_at};
use crate::tree::{Field, NodeId, Role, Tree};
use crate::types::Ty;

/// A function whose statements can stand elsewhere.
pub struct Spread<'s> {
    s: &'s Source,
    function: NodeId,
    scope: ScopeId,
    parameters: &'s [BindingId],
    /// Without the last one, when that returns the result.
    statements: Vec<NodeId>,
    pub value: Option<NodeId>,
}

/// Of languages in which each local has a type: what a value's, or a local's, is.
pub type TypeOf<'t> = Option<&'t dyn Fn(NodeId) -> Ty>;

/// Functions that took in calls, with the blocks in which these were.
pub type Callers = FxHashMap<NodeId, Vec<NodeId>>;

/// Whoever reads comes from the write: the statement that writes does nothing else, and its block goes on to the read.
fn gives(t: &Tree, write: NodeId, read: NodeId) -> bool {
    let plain =
        |n: &NodeId| matches!(t.role(*n), Role::Assign | Role::Tuple | Role::List | Role::Pattern | Role::Declare);
    let Some(top) = t.ancestors(write).find(|a| !plain(a)) else { return false };
    match t.role(top) {
        Role::For => t.field(write) == Field::Left && t.child(top, Field::Body).is_some_and(|b| t.contains(b, read)),
        // a declaration stands in its block by itself
        _ => {
            let (statement, block) = match t.role(top) {
                Role::ExprStmt => (top, t.parent(top)),
                _ => (t.ancestors(write).take_while(plain).last().unwrap_or(write), Some(top)),
            };
            block.is_some_and(|b| t.role(b).is_sequence() && t.contains(b, read)) && t.end(statement) <= read
        }
    }
}

/// A call and the statement that it is in.
struct Place {
    call: NodeId,
    statement: NodeId,
    given: Vec<NodeId>,
    /// The only name that takes the result.
    target: Option<NodeId>,
    /// Nothing but one statement can stand here.
    shares_line: bool,
}

impl<'s> Spread<'s> {
    /// The function's parts, or what keeps them where they are.
    pub fn new(s: &'s Source, function: NodeId, parameters: &'s [BindingId]) -> Result<Self, Reason> {
        let t = &s.tree;
        let no = |n: NodeId, message: &str| reason(s, n, Code::MoreThanAValue, message);
        let body = t.child(function, Field::Body).ok_or_else(|| no(function, "the function has no body"))?;
        let mut statements: Vec<NodeId> = t.children(body).filter(|c| t.role(*c) != Role::Doc).collect();
        let scope = s.names.scope_of(function).ok_or_else(|| no(function, "the function has no body"))?;
        let last = statements.last().copied().filter(|l| t.role(*l) == Role::Return);
        let value = last.and_then(|l| t.children(l).next());
        if last.is_some() {
            statements.pop();
        }
        if let Some(v) = value.filter(|v| t.role(*v) == Role::Values) {
            return Err(no(v, "the function gives several values"));
        }
        let all = || statements.iter().flat_map(|x| t.subtree(*x)).chain(value.into_iter().flat_map(|v| t.subtree(v)));
        use Role::*;
        let sticks = |n: &NodeId| match t.role(*n) {
            Return | Yield | Await | AsyncMark | FrameName | DynamicScope | Function | Class | Global | Nonlocal
            | Delete | Import | ImportFrom | Pass => true,
            Literal | Template => s.str(*n).contains('\n'),
            Name => {
                let object = Some(s.str(*n)) == s.lang.object_word() && !s.names.members_in_sight;
                s.lang.is_frame_name(s.str(*n)) || object
            }
            // the caller may have one of the name
            Labeled | Jump | JumpTarget => true,
            Call => t
                .child(*n, Field::Callee)
                .is_some_and(|c| s.reads_frame(*n) || s.lang.reads_locals(s.str(c), s.str(*n))),
            _ => false,
        };
        if let Some(n) = all().find(sticks) {
            return Err(no(n, "this can't stand in another function"));
        }
        let shared = s.names.locals_of(scope).find(|b| s.names.binding(*b).captured);
        if let Some(b) = shared {
            return Err(no(s.names.binding(b).first, "an inner function shares this variable"));
        }
        let ends = |n: &NodeId| {
            let forever =
                t.role(*n).is_loop() && t.child(*n, Field::Condition).is_none_or(|c| s.lang.is_always_true(s.str(c)));
            t.role(*n) == Raise || forever && t.role(*n) != For
        };
        let last = statements.last().copied().filter(|_| s.lang.types_locals() && value.is_none());
        if let Some(n) = last.and_then(|l| t.subtree(l).find(ends)) {
            return Err(no(n, "what follows a call might not be reached any more"));
        }
        if statements.is_empty() {
            return Err(no(function, "the function does nothing that a statement could"));
        }
        Ok(Self { s, function, scope, parameters, statements, value })
    }

    /// The edit for one use of the function's name; `callers` are those that took it in already, with the blocks.
    pub fn at(&self, used: NodeId, callers: &mut Callers, type_of: TypeOf) -> Result<Edit, Reason> {
        let (s, t) = (self.s, &self.s.tree);
        let p = self.place(used)?;
        let no = |code: Code, message: &str| reason(s, used, code, message);
        let caller = t.callable_around(p.statement).unwrap_or(Tree::ROOT);
        if caller == Tree::ROOT || caller == self.function {
            return Err(no(Code::OddCall, "the call is at the top of the file, or in the function itself"));
        }
        let class = t.ancestor(p.statement, &[Role::Function, Role::Lambda, Role::Class]);
        if class.is_some_and(|c| t.role(c) == Role::Class) {
            return Err(no(Code::OddCall, "the call runs while its class is made"));
        }
        if let Some(w) = crate::plan::mode::differs(s, self.function, t.end(self.function), (s, p.statement)) {
            let message = format!("`{}` is written in another mode of the language here", s.str(w));
            return Err(no(Code::Mode, &message));
        }
        let looped = t.ancestors(p.statement).take_while(|a| *a != caller).any(|a| t.role(a).is_loop());
        let blocks = callers.entry(caller).or_default();
        let block = t.parent(p.statement).unwrap_or(caller);
        let keeps = self.declares_for_function() || !s.lang.declares_locals();
        if (looped || !blocks.is_empty()) && keeps && !self.gives_before_it_reads() {
            let message = "a variable would keep its value from one call, or one round of a loop, to the next";
            return Err(no(Code::OddCall, message));
        }
        let whole = self.in_one(&p, type_of);
        let bound: Vec<bool> =
            (0..self.parameters.len()).map(|k| !whole && !self.substitutes(k, p.given[k], type_of)).collect();
        if p.shares_line && !whole {
            return Err(no(Code::OddCall, "the call shares its line"));
        }
        if s.lang.needs_types() && type_of.is_none() && p.given.iter().any(|g| t.role(*g) != Role::Name) {
            return Err(no(Code::UnknownType, "an argument would lose the type that the parameter gives it"));
        }
        let renamed = self.renamed(&p).filter(|b| {
            let first = s.names.binding(*b).first;
            type_of.is_none_or(|of| p.target.is_some_and(|x| of(x).is_known() && of(x) == of(first)))
        });
        self.names_free(&p, caller, &bound, renamed)
            .map_err(|name| no(Code::NameTaken, &format!("`{name}` is already in use here")))?;
        let fresh = self.fresh(&bound, renamed).next().map(|b| s.names.binding(b).name.clone());
        if let Some(name) = fresh.filter(|_| s.lang.declares_locals() && blocks.contains(&block)) {
            return Err(no(Code::NameTaken, &format!("`{name}` would be declared twice here")));
        }
        blocks.push(block);
        self.meanings(&p).map_err(|name| no(Code::NameHidden, &format!("`{name}` means something else here")))?;
        let indent = indent_at(&s.text, t.span(p.statement).start).to_string();
        let own = t.span(p.statement);
        let end = if s.text[own.start..own.end].ends_with(';') { ";" } else { "" };
        let mut lines: Vec<String> = Vec::new();
        for (k, b) in self.parameters.iter().enumerate().filter(|(k, _)| bound[*k]) {
            let word = match t.child(t.parent(s.names.binding(*b).first).unwrap_or(caller), Field::Type) {
                Some(of) if type_of.is_some() => s.str(of),
                _ => s.lang.declaring_word(s.names.binding(*b).writes == 1),
            };
            let space = if word.is_empty() { "" } else { " " };
            lines.push(format!("{word}{space}{} = {}{end}", s.names.binding(*b).name, s.str(p.given[k])));
        }
        lines.push(self.text(&p, &bound, renamed, &indent));
        if renamed.is_none() {
            lines.extend(self.last(&p, &bound));
        }
        Ok(Edit::new(own.start, own.end, lines.join(&format!("\n{indent}"))))
    }

    /// A variable is declared by a word that gives it no new value in each round.
    fn declares_for_function(&self) -> bool {
        let (s, t) = (self.s, &self.s.tree);
        let words = self.statements.iter().flat_map(|x| t.subtree(*x)).filter(|n| t.role(*n) == Role::Token);
        words.into_iter().any(|n| s.lang.declares_for_function(s.str(n)))
    }

    fn place(&self, used: NodeId) -> Result<Place, Reason> {
        let (s, t) = (self.s, &self.s.tree);
        let no = |message: &str| reason(s, used, Code::OddCall, message);
        let (call, given) = plain_call(s, used, self.parameters.len())?;
        let around = t.parent(call).unwrap_or(Tree::ROOT);
        let (statement, target) = match t.role(around) {
            Role::ExprStmt => (around, None),
            Role::Return if self.value.is_some() => (around, None),
            Role::Assign if self.value.is_some() && t.field(call) == Field::Right => {
                let target = t.child(around, Field::Left).filter(|l| t.role(*l) == Role::Name);
                let alone = t.children(around).count() == 2;
                let statement = t.parent(around).filter(|x| {
                    matches!(t.role(*x), Role::ExprStmt | Role::Declare)
                        && t.children(*x).filter(|c| t.role(*c) != Role::Token && t.field(*c) != Field::Type).count()
                            == 1
                });
                match statement.filter(|_| alone).zip(target) {
                    Some((x, target)) => (x, Some(target)),
                    None => return Err(no("the call is a part of a larger statement")),
                }
            }
            _ => return Err(no("the call is a part of a larger statement")),
        };
        let own = t.span(statement);
        let in_block = t.parent(statement).is_some_and(|b| t.role(b).is_sequence());
        let line = &s.text[crate::plan::lines::line_start(&s.text, own.start)..own.start];
        let shares_line = !in_block || !line.trim().is_empty();
        Ok(Place { call, statement, given, target, shares_line })
    }

    /// The function is one expression for its effect, and arguments can stand in it as they are.
    fn in_one(&self, p: &Place, type_of: TypeOf) -> bool {
        let (s, t) = (self.s, &self.s.tree);
        let [one] = self.statements[..] else { return false };
        let value = t.children(one).next().filter(|_| t.role(one) == Role::ExprStmt && self.value.is_none());
        let typed = |k: usize| {
            let of = |of: &dyn Fn(NodeId) -> Ty| {
                let own = of(s.names.binding(self.parameters[k]).first);
                own.is_known() && own == of(p.given[k])
            };
            type_of.is_none_or(of)
        };
        value.is_some_and(|v| {
            t.role(p.statement) == Role::ExprStmt
                && (0..p.given.len()).all(typed)
                && (type_of.is_some() || !s.lang.needs_types())
                && super::arguments::in_order(s, self.parameters, v, s, &p.given).is_ok()
        })
    }

    /// The argument can stand for the parameter everywhere in the body.
    fn substitutes(&self, k: usize, given: NodeId, type_of: TypeOf) -> bool {
        let (s, t) = (self.s, &self.s.tree);
        let b = self.parameters[k];
        if type_of.is_some_and(|of| !of(given).is_known() || of(given) != of(s.names.binding(b).first)) {
            return false;
        }
        let plain = is_fixed(s, given) && matches!(t.role(given), Role::Name | Role::Literal) || is_local(s, given);
        let all = t.parent(given).map_or(Vec::new(), |a| t.children(a).collect());
        let plain = plain && !super::arguments::is_written_by(s, given, &all);
        // no path begins with a number
        let mut uses = s.names.references_to(b);
        let begins = uses.any(|r| matches!(t.field(r.node), Field::Object | Field::Callee));
        plain && s.names.binding(b).writes == 1 && !(begins && t.role(given) == Role::Literal)
    }

    /// The local that the function gives back, when it can have the name that takes the result.
    fn renamed(&self, p: &Place) -> Option<BindingId> {
        let (s, t) = (self.s, &self.s.tree);
        let b = s.names.at(self.value?)?.target.filter(|_| t.role(self.value.unwrap_or(p.call)) == Role::Name)?;
        let target = p.target?;
        let own = s.names.binding(b).scope == self.scope && !self.parameters.contains(&b);
        let in_arguments = p.given.iter().any(|g| t.subtree(*g).any(|n| s.str(n) == s.str(target)));
        let frame = t.callable_around(p.statement);
        let tried = t.ancestors(p.statement).take_while(|a| Some(*a) != frame).any(|a| t.role(a) == Role::Try);
        let shared = s.names.at(target).and_then(|r| r.target).is_none_or(|x| s.names.binding(x).captured);
        let declared = !s.lang.declares_locals() || t.role(p.statement) == Role::Declare;
        (own && declared && !in_arguments && !tried && !shared).then_some(b)
    }

    /// Locals that come along.
    fn fresh(&self, bound: &[bool], renamed: Option<BindingId>) -> impl Iterator<Item = BindingId> {
        let s = self.s;
        let object = move |b: &BindingId| Some(s.names.binding(*b).name.as_str()) == s.lang.object_word();
        let locals = s.names.locals_of(self.scope).filter(move |b| Some(*b) != renamed && !object(b));
        locals.filter(|b| self.parameters.iter().position(|x| x == b).is_none_or(|k| bound[k]))
    }

    /// Each local gets its value on every way to where it is read.
    fn gives_before_it_reads(&self) -> bool {
        let s = self.s;
        s.names.locals_of(self.scope).filter(|b| !self.parameters.contains(b)).all(|b| {
            let writes = || s.names.references_to(b).filter(|r| r.usage == Use::Write);
            let reads = s.names.references_to(b).filter(|r| r.usage.reads());
            reads.into_iter().all(|r| writes().any(|w| gives(&s.tree, w.node, r.node)))
        })
    }

    /// New locals have names that nothing in the caller has.
    fn names_free(&self, p: &Place, caller: NodeId, bound: &[bool], renamed: Option<BindingId>) -> Result<(), String> {
        let (s, t) = (self.s, &self.s.tree);
        // what blocks in the body declare is only seen there
        let body = t.child(self.function, Field::Body);
        let is_outer = |b: &BindingId| {
            let scope = s.names.binding(*b).scope;
            let node = s.names.scope(scope).node;
            scope == self.scope || Some(node) == body || !s.lang.declares_locals()
        };
        let fresh = self.fresh(bound, renamed).filter(is_outer);
        let fresh: FxHashSet<&str> = fresh.map(|b| s.names.binding(b).name.as_str()).collect();
        let is_value = |n: NodeId| s.names.at(n).is_none_or(|r| r.spaces != [Space::Functions]);
        let named = |n: &NodeId| t.role(*n) == Role::Name && fresh.contains(s.str(*n));
        let taken = t.subtree(caller).find(|n| named(n) && is_value(*n));
        // inside the body an argument's name must not be hidden
        let inner = |n: NodeId| t.contains(self.function, n) && s.names.at(n).is_some_and(|r| r.usage.writes());
        let body = self.statements.iter().flat_map(|x| t.subtree(*x)).filter(|n| t.role(*n) == Role::Name && inner(*n));
        let written: FxHashSet<&str> = body.map(|n| s.str(n)).collect();
        let mut given = p.given.iter().flat_map(|g| t.subtree(*g)).filter(|n| t.role(*n) == Role::Name);
        let hidden = given.find(|n| written.contains(s.str(*n)));
        let free = p.target.filter(|x| renamed.is_some() && self.mentions(s.str(*x)));
        match taken.or(hidden).or(free) {
            Some(n) => Err(s.str(n).to_string()),
            None => Ok(()),
        }
    }

    /// The body names something so.
    fn mentions(&self, name: &str) -> bool {
        let t = &self.s.tree;
        let body = self.statements.iter().flat_map(|x| t.subtree(*x));
        let value = self.value.filter(|v| t.role(*v) == Role::Name).map(|v| self.s.str(v));
        body.into_iter().any(|n| t.role(n) == Role::Name && self.s.str(n) == name) && value != Some(name)
    }

    /// Names of the module mean the same at the call.
    fn meanings(&self, p: &Place) -> Result<(), String> {
        let (s, t) = (self.s, &self.s.tree);
        let nodes = self.statements.iter().copied().chain(self.value);
        for n in nodes.flat_map(|x| t.subtree(x).collect::<Vec<_>>()).filter(|n| t.role(*n) == Role::Name) {
            let target = s.names.at(n).and_then(|r| r.target);
            let outer = target.is_none_or(|b| !t.contains(self.function, s.names.scope(s.names.binding(b).scope).node));
            if outer && hidden_at(s, n, n, p.call) {
                return Err(s.str(n).to_string());
            }
        }
        Ok(())
    }

    /// The words that change in a part of the body.
    fn edits(&self, from: NodeId, to: usize, p: &Place, bound: &[bool], renamed: Option<BindingId>) -> Vec<Edit> {
        let (s, t) = (self.s, &self.s.tree);
        let mut out = Vec::new();
        for r in s.names.in_range(from, NodeId(to as u32)) {
            let Some(b) = r.target else { continue };
            let k = self.parameters.iter().position(|x| *x == b).filter(|k| !bound[*k]);
            let text = match (k, p.target) {
                (Some(k), _) => in_brackets(s, p.given[k], s, r.node, s.str(p.given[k]).to_string()),
                (None, Some(target)) if Some(b) == renamed => s.str(target).to_string(),
                _ => continue,
            };
            let span = t.span(r.node);
            let text = match crate::index::target::one_word_pair(t, r.node) {
                Some(_) if text != s.str(r.node) => format!("{}: {text}", s.str(r.node)),
                _ => text,
            };
            out.push(Edit::new(span.start, span.end, text));
        }
        out
    }

    /// A part of the text with its changed words.
    fn rewritten(&self, part: Span, edits: Vec<Edit>) -> String {
        let shift = |e: Edit| Edit::new(e.span.start - part.start, e.span.end - part.start, e.text);
        let shifted: Vec<Edit> = edits.into_iter().map(shift).collect();
        apply_edits(&self.s.text[part.start..part.end], &shifted).expect("words do not overlap")
    }

    /// The statements at another indentation.
    fn text(&self, p: &Place, bound: &[bool], renamed: Option<BindingId>, indent: &str) -> String {
        let (s, t) = (self.s, &self.s.tree);
        let (first, last) = (self.statements[0], *self.statements.last().expect("not empty"));
        let end = t.span(last).end;
        let span =
            Span::new(t.span(first).start, if p.shares_line { end } else { crate::plan::lines::line_end(s, end) });
        let own = indent_at(&s.text, span.start);
        let body = self.rewritten(span, self.edits(first, t.end(last).index(), p, bound, renamed));
        let line = |(i, l): (usize, &str)| match l.strip_prefix(own).filter(|_| i > 0) {
            Some(rest) => format!("{indent}{rest}"),
            None => l.trim_end_matches('\r').to_string(),
        };
        body.split('\n').enumerate().map(line).collect::<Vec<_>>().join("\n")
    }

    /// The site's statement with the result in the place of the call; none where nothing wants it.
    fn last(&self, p: &Place, bound: &[bool]) -> Option<String> {
        let (s, t) = (self.s, &self.s.tree);
        let value = self.value?;
        if t.role(p.statement) == Role::ExprStmt
            && p.target.is_none()
            && matches!(t.role(value), Role::Name | Role::Literal)
        {
            return None;
        }
        let span = t.span(value);
        let text = self.rewritten(span, self.edits(value, t.end(value).index(), p, bound, None));
        let (own, call) = (t.span(p.statement), t.span(p.call));
        Some(format!("{}{text}{}", &s.text[own.start..call.start], &s.text[call.end..own.end]))
    }
}
