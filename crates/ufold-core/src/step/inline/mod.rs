//! `inline`: a variable or a function goes, and what it stands for takes its place at every use.
//!
//! A variable's value may be computed at its use when nothing in between can tell the difference: the use is the first
//! thing evaluated after it, or the value is fixed. Functions: see [`crate::step::inline::function`].

mod function;
mod member;
mod spread;

use std::sync::Arc;

use serde::{Deserialize, Serialize};

use crate::change::{Claim, Edits, Outcome, Place, Reason, Verdict, reason};
use crate::index::Project;
use crate::index::constants::is_looked_at;
use crate::index::target::{Target, one_word_pair, target};
use crate::names::{BindKind, BindingId, Names, Source, Space, Use};
use crate::plan::lines::whole_lines;
use crate::step::proven::proven;
use crate::step::{Plan, Request};
use crate::text::{Edit, Span};
use crate::tree::{Field, NodeId, Role, Tree};

/// What a person may edit of an inlining.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct InlineRequest {
    /// The place as it was typed, for messages.
    pub finding: String,
    /// The name of a variable or function.
    pub place: Place,
    /// Numbers of uses to leave, from 1.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub except: Vec<usize>,
}

impl InlineRequest {
    pub(super) fn claim(&self) -> Claim {
        Claim::Inlined { definition: self.place.clone(), partly: !self.except.is_empty() }
    }
}

/// Plans what a request asks for: its place is a name's.
pub fn plan_inline(project: &Project, request: &InlineRequest) -> Plan {
    let result = match (Inline { project, request }).run() {
        Ok(o) => proven(project, &request.claim(), o),
        Err(r) => Outcome::refused(r),
    };
    Plan::new(Request::Inline(request.clone()), result)
}

/// How many uses a variable or function has that could be inlined.
pub fn uses_of(project: &Project, place: &crate::change::Place) -> usize {
    let Ok(s) = project.source_at(place) else { return 0 };
    match target(&s, Span::new(place.start_byte, place.end_byte)) {
        Some(Target::Binding(b)) => crate::step::inline::function::users(project, &s, b).len(),
        Some(Target::Member(n)) if s.names.members_in_sight => {
            crate::step::inline::member::calls_of_method(project, &s, n)
        }
        Some(Target::Member(n)) => {
            let calls = method_named(&s, n).and_then(|f| crate::index::users::method_calls(project, &s, f));
            calls.map_or(0, |c| c.len())
        }
        None => 0,
    }
}

/// The only method of a file that has the name of a member.
fn method_named(s: &Source, member: NodeId) -> Option<NodeId> {
    let t = &s.tree;
    let named = |f: &NodeId| t.child(*f, Field::Name).is_some_and(|n| s.str(n) == s.str(member));
    let of_class = |f: &NodeId| t.parent(*f).and_then(|b| t.parent(b)).is_some_and(|c| t.role(c) == Role::Class);
    let mut all = t.ids().filter(|f| t.role(*f) == Role::Function && named(f) && of_class(f));
    all.next().filter(|_| all.next().is_none())
}

pub struct Inline<'a> {
    pub project: &'a Project<'a>,
    pub request: &'a InlineRequest,
}

pub type Found<T> = Result<T, Vec<Reason>>;

impl Inline<'_> {
    fn run(&self) -> Found<Outcome> {
        let place = &self.request.place;
        let source = self.project.source_at(place)?;
        let span = Span::new(place.start_byte, place.end_byte);
        let b = match target(&source, span) {
            Some(Target::Binding(b)) => b,
            Some(Target::Member(n)) if source.names.members_in_sight => return self.typed_method(&source, n),
            Some(Target::Member(n)) if method_named(&source, n).is_some() => {
                return self.method(&source, method_named(&source, n).expect("just seen"));
            }
            _ => {
                let message = "only variables and functions can be inlined".to_string();
                let line = place.start_line;
                return Err(vec![Reason { code: "not-a-name".into(), message, file: place.file.clone(), line }]);
            }
        };
        let definition = source.tree.parent(source.names.binding(b).first);
        let local = source.names.frame_of(b) != Names::MODULE && !source.names.is_member(b);
        if source.names.members_in_sight && !local {
            return self.typed_method(&source, source.names.binding(b).first);
        }
        if definition.is_some_and(|d| source.tree.role(d) == Role::Function) {
            return self.function(&source, b, definition.expect("just seen"));
        }
        self.variable(&source, b)
    }

    fn variable(&self, s: &Arc<Source>, b: BindingId) -> Found<Outcome> {
        let binding = s.names.binding(b);
        let refuse = |n: NodeId, code: &str, message: &str| Err(vec![reason(s, n, code, message)]);
        let first = binding.first;
        let Some((statement, value)) = self.definition(s, first) else {
            return refuse(first, "no-single-value", "the variable is not given one value by a statement of its own");
        };
        if binding.writes != 1 || binding.kind != BindKind::Variable || binding.rebound_inside {
            return refuse(first, "no-single-value", "the variable is given a value more than once");
        }
        let all_go = self.request.except.is_empty();
        if binding.scope == Names::MODULE && all_go {
            let file = self.project.index(&s.path).expect("a planned file was scanned");
            if self.project.word_elsewhere(&binding.name, &[file])
                || s.lang.exports_by_name(s, b) && !s.lang.is_private(&binding.name)
            {
                return refuse(first, "used-elsewhere", "other files may use the variable");
            }
        }
        let uses: Vec<NodeId> = s.names.references_to(b).filter(|r| r.usage == Use::Read).map(|r| r.node).collect();
        if uses.is_empty() {
            return refuse(first, "never-used", "nothing uses the variable");
        }
        let other_type = || match s.lang.types_locals() {
            true => self.changes_type(s, first, value, &uses),
            false => says_its_type(s, first, value, &uses),
        };
        if s.lang.needs_types() && other_type() {
            return refuse(first, "typed-declaration", "the declaration gives the value a type that it would lose");
        }
        // a definition that stays computes the value once more
        let times = uses.len() + usize::from(!all_go);
        let chosen = self.chosen(s, first, &uses)?;
        let numbered = chosen.iter().filter_map(|k| Some((*k, self.moves(s, statement, value, uses[*k], times)?)));
        let against: Vec<Reason> = numbered.map(|(k, why)| of_use(k, uses.len(), why)).collect();
        if !against.is_empty() {
            return Err(against);
        }
        for u in chosen.iter().map(|k| &uses[*k]) {
            fits(s, value, *u).map_or(Ok(()), |r| Err(vec![r]))?;
        }
        let mut edits = Edits::default();
        if all_go {
            let gone = with_blank_lines(s, statement);
            edits.add(s, Edit::new(gone.start, gone.end, ""));
        }
        for u in chosen.iter().map(|k| &uses[*k]) {
            let text = in_brackets(s, value, s, *u, s.str(value).to_string());
            edits.add(s, use_edit(s, *u, text));
        }
        Ok(self.outcome(edits, uses.len() - chosen.len(), Vec::new()))
    }

    /// The value has not surely the type of the variable, or is a constant of which more is asked at a use.
    fn changes_type(&self, s: &Source, name: NodeId, value: NodeId, uses: &[NodeId]) -> bool {
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        let of = |n: NodeId| s.lang.type_of(s, n, &definitions);
        let constant = s.lang.may_be_constant(s, value);
        !of(name).is_known() || of(name) != of(value) || constant && uses.iter().any(|u| is_looked_at(s, *u))
    }

    pub fn outcome(&self, edits: Edits, left: usize, assumed: Vec<Reason>) -> Outcome {
        let (files, saves) = edits.finish();
        let verdict = if assumed.is_empty() { Verdict::Ready } else { Verdict::Assumed };
        let remarks = match left {
            0 => Vec::new(),
            1 => vec!["1 use is left as it is, and so is the definition".into()],
            n => vec![format!("{n} uses are left as they are, and so is the definition")],
        };
        Outcome { verdict, reasons: assumed, remarks, files, saves, ..Outcome::refused(Vec::new()) }
    }

    /// Numbers, from 0, of the uses that a person did not leave out.
    pub fn chosen<U>(&self, s: &Source, name: NodeId, uses: &[U]) -> Found<Vec<usize>> {
        let chosen: Vec<usize> = (0..uses.len()).filter(|k| !self.request.except.contains(&(k + 1))).collect();
        match chosen.is_empty() {
            true => Err(vec![reason(s, name, "never-used", "every use is left out")]),
            false => Ok(chosen),
        }
    }

    /// The statement that gives the variable its only value, and the value.
    fn definition(&self, s: &Source, name: NodeId) -> Option<(NodeId, NodeId)> {
        let t = &s.tree;
        let assign = t.parent(name).filter(|a| t.role(*a) == Role::Assign && t.field(name) == Field::Left)?;
        let value = t.child(assign, Field::Right)?;
        let statement = t.parent(assign).filter(|p| matches!(t.role(*p), Role::ExprStmt | Role::Declare))?;
        let said = |c: &NodeId| t.role(*c) == Role::Token || t.field(*c) == Field::Type;
        let alone = t.children(statement).filter(|c| !said(c)).count() == 1;
        let in_block = t.parent(statement).is_some_and(|p| t.role(p).is_sequence());
        (alone && in_block && t.role(value) != Role::Assign).then_some((statement, value))
    }

    /// Why the value can't be computed at a use.
    fn moves(&self, s: &Arc<Source>, statement: NodeId, value: NodeId, used: NodeId, uses: usize) -> Option<Reason> {
        let t = &s.tree;
        let say = |code: &str, message: &str| Some(reason(s, used, code, message));
        let same_frame = t.callable_around(used) == t.callable_around(statement);
        let names_hidden = s.names.in_range(value, t.end(value)).iter().any(|r| hidden_at(s, r.node, value, used));
        if names_hidden {
            return say("name-hidden", "a name of the value means something else here");
        }
        let block = t.parent(statement).unwrap_or(Tree::ROOT);
        if !t.contains(block, used) || same_frame && used < statement {
            return say("evaluation-order", "the use is not always reached by way of the value");
        }
        let frame = t.callable_around(statement).unwrap_or(Tree::ROOT);
        let looped = t.ancestors(statement).take_while(|a| *a != frame).any(|a| t.role(a).is_loop());
        if looped && !same_frame && t.subtree(value).any(|n| t.role(n) == Role::Name) {
            return say("evaluation-order", "the use runs later, in another function, when the loop has gone on");
        }
        if is_fixed(s, value) {
            return None;
        }
        if uses > 1 {
            return say("evaluated-again", "the value would be computed more than once");
        }
        if !same_frame {
            return say("evaluation-order", "the use runs later, in another function");
        }
        let next = t.parent(statement).and_then(|p| t.children(p).find(|c| *c > statement));
        let Some(next) = next.filter(|n| t.contains(*n, used)) else {
            return say("evaluation-order", "other statements run between the value and its use");
        };
        let when = crate::plan::evaluate::moment_of(s, next, used);
        if when.is_none_or(|w| w.conditional || w.after_effects || w.after_throws || w.after_reads || w.in_closure) {
            return say("evaluation-order", "other things are evaluated before the use, or it is not always reached");
        }
        None
    }
}

/// Parameters without default values.
pub fn plain_parameters(s: &Source, function: NodeId) -> Option<Vec<BindingId>> {
    let t = &s.tree;
    let list = t.child(function, Field::Parameters).map_or(Vec::new(), |p| t.children(p).collect::<Vec<_>>());
    let named = |p: &NodeId| {
        let own = t.child(*p, Field::Name).or_else(|| t.subtree(*p).find(|n| t.role(*n) == Role::Name))?;
        let plain = t.role(*p) == Role::Name || t.role(*p) == Role::Parameter && t.child(*p, Field::Value).is_none();
        s.names.at(own)?.target.filter(|_| plain)
    };
    list.iter().map(named).collect()
}

/// The call at a use of a function's name, with one plain argument for each parameter.
pub fn plain_call(s: &Source, used: NodeId, parameters: usize) -> Result<(NodeId, Vec<NodeId>), Reason> {
    let t = &s.tree;
    let no = |code: &str, message: &str| reason(s, used, code, message);
    let call = t.parent(used).filter(|c| t.role(*c) == Role::Call && t.field(used) == Field::Callee);
    let call = call.ok_or_else(|| no("used-as-value", "the function is used here, but not called"))?;
    let list = t.child(call, Field::Arguments).filter(|a| t.role(*a) == Role::Arguments);
    let given: Vec<NodeId> = list.map_or(Vec::new(), |a| t.children(a).collect());
    let special = !given.iter().all(|g| crate::index::users::is_plain_argument(t, *g));
    if list.is_none() || special || given.len() != parameters || is_made(s, call, used) {
        return Err(no("odd-call", "this call does not give one plain argument to each parameter"));
    }
    Ok((call, given))
}

/// The call makes an object, rather than calling a member of one that is made.
fn is_made(s: &Source, call: NodeId, callee: NodeId) -> bool {
    s.lang.is_construction(s.str(call)) && !s.lang.is_construction(s.str(callee))
}

/// A variable of the function around it that no inner function changes.
pub fn is_local(s: &Source, value: NodeId) -> bool {
    let b = s.names.at(value).and_then(|r| r.target).map(|b| s.names.binding(b));
    b.is_some_and(|b| b.scope != Names::MODULE && !b.rebound_inside)
}

/// The declaration says a type, or a wider one follows from the word that declares it where that matters.
fn says_its_type(s: &Source, name: NodeId, value: NodeId, uses: &[NodeId]) -> bool {
    let t = &s.tree;
    let compared =
        |u: &NodeId| t.field(*u) == Field::Subject || t.parent(*u).is_some_and(|p| t.role(p) == Role::Compare);
    let declared = t.parent(name);
    let written = declared.is_some_and(|d| t.child(d, Field::Type).is_some());
    written || t.role(value) == Role::Literal && uses.iter().any(compared)
}

/// Literals, and names that nothing gives another value.
pub fn is_fixed(s: &Source, value: NodeId) -> bool {
    let t = &s.tree;
    t.subtree(value).all(|n| match t.role(n) {
        Role::Literal | Role::Token | Role::Tuple | Role::Concat | Role::Paren | Role::TemplateText => true,
        Role::UnaryOp => s.str(n).starts_with(['-', '+']),
        Role::Name => {
            let target = s.names.at(n).and_then(|r| r.target);
            // a field may get values by other ways
            let steady = |b: BindingId| !s.names.is_member(b) || s.lang.is_final(s, b);
            target.is_some_and(|b| {
                let binding = s.names.binding(b);
                binding.writes <= 1 && !binding.rebound_inside && steady(b)
            })
        }
        _ => false,
    })
}

/// Whether a name that stands in an expression would mean something else at another place.
pub fn hidden_at(s: &Source, name: NodeId, value: NodeId, place: NodeId) -> bool {
    let t = &s.tree;
    let Some(r) = s.names.at(name) else { return false };
    let own = r.target.is_some_and(|b| t.contains(value, s.names.scope(s.names.binding(b).scope).node));
    if own {
        return false;
    }
    let scopes = t.ancestors(place).filter_map(|a| s.names.scope_of(a));
    let space = r.target.map_or(Space::Values, |b| s.names.binding(b).space);
    let found = scopes
        .filter(|x| s.names.members_in_sight || s.names.scope(*x).kind != crate::names::ScopeKind::Class)
        .find_map(|x| s.names.declared_as(x, space, s.str(name)));
    found != r.target
}

/// The expression's text as it must stand in another's place.
pub fn in_brackets(s: &Source, value: NodeId, at: &Source, place: NodeId, text: String) -> String {
    let t = &s.tree;
    use Role::*;
    let simple = matches!(
        t.role(value),
        Name | Literal | Call | Member | Index | List | Set | Comprehension | Template | Paren | Fresh | Markup
    ) && !s.lang.is_construction(s.str(value))
        || t.role(value) == Dict && at.tree.role(place) != Lambda
        || t.role(value) == Tuple && s.str(value).starts_with('(');
    let parent = at.tree.parent(place);
    let closed = parent.is_some_and(|p| {
        matches!(at.tree.role(p), Arguments | Return | Paren | Interpolation | KeywordArg | List)
            || matches!(at.tree.role(p), Assign | AugAssign) && at.tree.field(place) == Field::Right
            || at.tree.field(place) == Field::Index
            || at.tree.role(p) == Pair && at.tree.field(place) == Field::Value
            || at.tree.role(p) == Lambda && at.tree.field(place) == Field::Body && t.role(value) != Dict
    });
    let simple = simple && (t.role(value) != Paren || s.str(value).starts_with('('));
    // a path that ends where it has no value must not take what follows along
    let path = matches!(at.tree.field(place), Field::Object | Field::Callee)
        && t.subtree(value).any(|n| t.role(n) == OptionalMark)
        && t.role(value) != Paren;
    let first = at.tree.ancestors(place).take_while(|a| at.tree.span(*a).start == at.tree.span(place).start);
    let begins = first.into_iter().any(|a| at.tree.role(a) == ExprStmt)
        || parent.is_some_and(|p| at.tree.role(p) == Lambda && at.tree.field(place) == Field::Body);
    if path || begins && at.lang.opens_a_statement(&text) {
        return format!("({text})");
    }
    let digits = t.role(value) == Literal
        && at.tree.field(place) == Field::Object
        && s.str(value).starts_with(|c: char| c.is_ascii_digit());
    let closed = closed || parent.is_some_and(|p| binds_tighter(s, value, at, p, place));
    let comma = t.role(value) == Tuple || t.role(value) == Generator;
    if (simple && !digits) || closed && !comma && !text.contains('\n') { text } else { format!("({text})") }
}

/// Why a value's text can't stand in a place, or has another type there.
fn fits(s: &Source, value: NodeId, place: NodeId) -> Option<Reason> {
    let t = &s.tree;
    let template = t.ancestors(place).find(|a| t.role(*a) == Role::Template);
    if template.is_some_and(|x| !s.lang.fits_in_template(s.str(x), s.str(value))) {
        return Some(reason(s, place, "not-a-value", "the value's text can't stand inside this text"));
    }
    // an object that is written where a type is asked for must have that type's members and no others
    let parent = t.parent(place).map_or(Role::Other, |p| t.role(p));
    let asked = !matches!(parent, Role::Member | Role::Index | Role::Spread | Role::Interpolation | Role::ExprStmt);
    let written = matches!(t.role(value), Role::Dict | Role::List) && t.subtree(value).any(|n| t.role(n) == Role::Dict);
    (s.lang.needs_types() && written && asked).then(|| {
        reason(s, place, "typed-declaration", "an object written here is looked at more closely than a variable")
    })
}

/// How tightly an operation holds its operands together; none where the order of the language is not the usual one.
fn strength(s: &Source, n: NodeId) -> Option<u8> {
    let t = &s.tree;
    let operator = || t.child(n, Field::Operator).map_or("", |o| s.str(o));
    Some(match t.role(n) {
        Role::Conditional => 1,
        Role::BoolOp if ["or", "||"].contains(&operator()) => 2,
        Role::BoolOp if ["and", "&&"].contains(&operator()) => 3,
        Role::NotOp if s.str(n).starts_with("not") => 4,
        Role::Compare => 5,
        Role::BinaryOp if ["+", "-"].contains(&operator()) => 6,
        Role::BinaryOp if ["*", "/", "//", "%"].contains(&operator()) => 7,
        _ => return None,
    })
}

/// An operation that needs no brackets in the place of an operand.
fn binds_tighter(s: &Source, value: NodeId, at: &Source, parent: NodeId, place: NodeId) -> bool {
    match (strength(s, value), strength(at, parent)) {
        (Some(inner), Some(outer)) => {
            inner > outer || inner == outer && outer >= 6 && at.tree.field(place) == Field::Left
        }
        _ => false,
    }
}

/// What speaks against a use, with the number by which it can be left out.
pub fn of_use(k: usize, uses: usize, why: Reason) -> Reason {
    match uses {
        1 => why,
        _ => Reason { message: format!("use {}: {}", k + 1, why.message), ..why },
    }
}

fn use_edit(s: &Source, used: NodeId, text: String) -> Edit {
    let span = s.tree.span(used);
    let text = match one_word_pair(&s.tree, used) {
        Some(_) => format!("{}: {text}", s.str(used)),
        None => text,
    };
    Edit::new(span.start, span.end, text)
}

/// The lines of a statement that goes, and the blank lines behind it where there is nothing to keep apart.
fn with_blank_lines(s: &Source, statement: NodeId) -> Span {
    let t = &s.tree;
    let lines = whole_lines(s, t.span(statement));
    let first = t.parent(statement).is_some_and(|b| t.children(b).next() == Some(statement));
    let above = s.text[..lines.start].trim_end_matches('\n');
    let apart = first || lines.start - above.len() > 1;
    let whole = s.text[..lines.end].ends_with('\n') && s.text[..lines.start].ends_with('\n');
    let comment = t.comments().iter().any(|c| c.end <= lines.start && s.text[c.end..lines.start].trim().is_empty());
    if !apart || !whole || first && comment {
        return lines;
    }
    let blank = s.text[lines.end..].split_inclusive('\n').take_while(|l| l.trim().is_empty()).map(str::len);
    Span::new(lines.start, lines.end + blank.sum::<usize>())
}
