//! `inline`: a variable or a function goes, and what it stands for takes its place at every use.
//!
//! A variable's value may be computed at its use when nothing in between can tell the difference: the use is the first
//! thing evaluated after it, or the value is fixed. Functions: see [`crate::step::inline::function`].

mod arguments;
mod converted;
mod field;
mod function;
mod later;
mod member;
mod method_calls;
mod spread;
mod values;

use std::slice::from_ref;
use std::sync::Arc;

use rustc_hash::FxHashSet;
use serde::{Deserialize, Serialize};

use self::values::{fits, is_fixed};
use crate::change::{Claim, Code, Edits, Outcome, Place, Reason, Verdict, reason};
use crate::index::class_tree;
use crate::index::constants::is_looked_at;
use crate::index::seen::shows_names;
use crate::index::target::{Target, one_word_pair, target};
use crate::index::{Project, unseen};
use crate::lang::MemberOf;
use crate::names::{BindKind, BindingId, Names, Source, Use};
use crate::plan::evaluate::{When, moment_assuming, moment_of, plain_values};
use crate::plan::lines::with_blank_lines;
use crate::plan::repeated::same_again;
use crate::step::inline::values::{hidden_at, in_brackets, of_use};
use crate::step::{Plan, Request, Step};
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
    /// The value of a variable slides to its use first.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub slide: bool,
}

/// What speaks against a use that is not in the next statement.
const BETWEEN: &str = "other statements run between the value and its use";

impl InlineRequest {
    /// Without a slide.
    pub fn at_once(&self, project: &Project) -> Plan {
        Plan::of(project, Request::Inline(self.alone()), Inline { project, request: self, once: false }.run())
    }

    /// The same, with no value computed more often than it was, nor only where it was not before.
    pub fn as_often(&self, project: &Project) -> Plan {
        Plan::of(project, Request::Inline(self.alone()), Inline { project, request: self, once: true }.run())
    }

    fn alone(&self) -> InlineRequest {
        InlineRequest { slide: false, ..self.clone() }
    }
}

impl Step for InlineRequest {
    fn finding(&self) -> &str {
        &self.finding
    }

    fn places(&self) -> &[Place] {
        from_ref(&self.place)
    }

    fn claim(&self) -> Claim {
        if self.slide {
            return Claim::InTurn;
        }
        Claim::Inlined { definition: self.place.clone(), partly: !self.except.is_empty() }
    }

    fn title(&self, _: &Outcome) -> String {
        format!("Inline {}", self.finding)
    }

    fn plan(&self, project: &Project) -> Plan {
        if self.slide {
            return Plan::of(project, Request::Inline(self.clone()), later::run(project, self));
        }
        let plan = self.at_once(project);
        let between = plan.result.is_refused() && plan.result.reasons.iter().all(|r| r.message == BETWEEN);
        if !between {
            return plan;
        }
        let slid = InlineRequest { slide: true, ..self.clone() }.plan(project);
        if slid.result.is_refused() { plan } else { slid }
    }
}

/// How many uses a variable or function has that could be inlined.
pub fn uses_of(project: &Project, place: &crate::change::Place) -> usize {
    let Ok(s) = project.source_at(place) else { return 0 };
    match target(&s, Span::new(place.start_byte, place.end_byte)) {
        Some(Target::Binding(b)) => crate::step::inline::function::users(project, &s, b).len(),
        Some(Target::Member(n)) if s.names.members_in_sight => match field::is_field(&s, n) {
            true => field::uses(project, &s, n),
            false => method_calls::calls_of_method(project, &s, n),
        },
        Some(Target::Member(n)) => {
            let calls = method_named(&s, n).and_then(|f| crate::index::users::method_calls(project, &s, f));
            calls.map_or(0, |c| c.len())
        }
        None => 0,
    }
}

/// The method whose name stands there, or the only one of that name.
fn method_at(s: &Source, member: NodeId) -> Option<NodeId> {
    let t = &s.tree;
    let of_class = |f: NodeId| t.parent(f).and_then(|b| t.parent(b)).is_some_and(|c| t.role(c) == Role::Class);
    let own = t.parent(member).filter(|f| t.role(*f) == Role::Function && t.field(member) == Field::Name);
    own.filter(|f| of_class(*f)).or_else(|| method_named(s, member))
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
    /// Each value is computed as often as it was.
    pub once: bool,
}

pub type Found<T> = Result<T, Vec<Reason>>;

impl Inline<'_> {
    fn run(&self) -> Found<Outcome> {
        let place = &self.request.place;
        let source = self.project.ordered_source_at(place)?;
        let span = Span::new(place.start_byte, place.end_byte);
        let b = match target(&source, span) {
            Some(Target::Binding(b)) => b,
            Some(Target::Member(n)) if source.names.members_in_sight => return self.typed_member(&source, n),
            Some(Target::Member(n)) if method_at(&source, n).is_some() => {
                return self.method(&source, method_at(&source, n).expect("just seen"));
            }
            _ => {
                let message = "only variables and functions can be inlined".to_string();
                let line = place.start_line;
                return Err(vec![Reason { code: Code::NotAName, message, file: place.file.clone(), line }]);
            }
        };
        let definition = source.tree.parent(source.names.binding(b).first);
        let local = source.names.frame_of(b) != Names::MODULE && !source.names.is_member(b);
        if source.names.members_in_sight && !local {
            return self.typed_member(&source, source.names.binding(b).first);
        }
        if definition.is_some_and(|d| source.tree.role(d) == Role::Function) {
            return self.function(&source, b, definition.expect("just seen"));
        }
        self.variable(&source, b)
    }

    fn typed_member(&self, s: &Arc<Source>, word: NodeId) -> Found<Outcome> {
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        let of_class = matches!(s.lang.member_of(s, word, &definitions), MemberOf::Class(_));
        match of_class && field::is_field(s, word) {
            true => self.constant(s, word),
            false => self.typed_method(s, word),
        }
    }

    fn variable(&self, s: &Arc<Source>, b: BindingId) -> Found<Outcome> {
        let binding = s.names.binding(b);
        let refuse = |n: NodeId, code: Code, message: &str| Err(vec![reason(s, n, code, message)]);
        let first = binding.first;
        let Some((statement, value)) = self.definition(s, first) else {
            return refuse(first, Code::NoSingleValue, "the variable is not given one value by a statement of its own");
        };
        if binding.writes != 1 || binding.kind != BindKind::Variable || binding.rebound_inside {
            return refuse(first, Code::NoSingleValue, "the variable is given a value more than once");
        }
        let all_go = self.request.except.is_empty();
        let frame = s.names.scope(s.names.frame_of(b)).node;
        if let Some(n) = shows_names(self.project, s, frame, frame == Tree::ROOT).filter(|_| all_go) {
            return refuse(n, Code::Reflection, "names are looked up by texts here");
        }
        if binding.scope == Names::MODULE && all_go {
            let file = self.project.index(&s.path).expect("a planned file was scanned");
            if self.project.word_elsewhere(&binding.name, &[file])
                || s.lang.exports_by_name(s, b) && !s.lang.is_private(&binding.name)
            {
                return refuse(first, Code::UsedElsewhere, "other files may use the variable");
            }
        }
        let uses: Vec<NodeId> = s.names.references_to(b).filter(|r| r.usage == Use::Read).map(|r| r.node).collect();
        if uses.is_empty() {
            return refuse(first, Code::NeverUsed, "nothing uses the variable");
        }
        let other_type = || match s.lang.types_locals() {
            true => self.changes_type(s, first, value, &uses),
            false => says_its_type(s, first, value, &uses),
        };
        if s.lang.needs_types() && other_type() {
            return refuse(first, Code::TypedDeclaration, "the declaration gives the value a type that it would lose");
        }
        // a definition that stays computes the value once more
        let times = uses.len() + usize::from(!all_go);
        let chosen = self.chosen(s, first, &uses)?;
        let (mut against, mut assumed) = (Vec::new(), Vec::new());
        for k in &chosen {
            match self.moves(s, statement, value, uses[*k], times) {
                Ok(told) => assumed.extend(told),
                Err(why) => against.push(of_use(*k, uses.len(), why)),
            }
        }
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
        Ok(self.outcome(edits, uses.len() - chosen.len(), assumed))
    }

    /// The value has not surely the type of the variable, or is a constant of which more is asked at a use.
    fn changes_type(&self, s: &Source, name: NodeId, value: NodeId, uses: &[NodeId]) -> bool {
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        let of = |n: NodeId| s.lang.type_of(s, n, &definitions);
        let constant = s.lang.may_be_constant(s, value);
        !of(name).is_known() || of(name) != of(value) || constant && uses.iter().any(|u| is_looked_at(s, *u))
    }

    /// What the function calls looks at those above it, and finds one less.
    fn stack_seen(&self, s: &Source, function: NodeId) -> Option<Reason> {
        crate::index::unseen::lookers(self.project, s.lang).seen_from(s, s.tree.subtree(function))
    }

    pub fn outcome(&self, edits: Edits, left: usize, mut assumed: Vec<Reason>) -> Outcome {
        // several uses may need the same
        let mut told = FxHashSet::default();
        assumed.retain(|r| told.insert((r.code, r.file.clone(), r.line, r.message.clone())));
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
            true => Err(vec![reason(s, name, Code::NeverUsed, "every use is left out")]),
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

    /// Why the value can't be computed at a use; else what must be assumed for it.
    fn moves(
        &self,
        s: &Arc<Source>,
        statement: NodeId,
        value: NodeId,
        used: NodeId,
        uses: usize,
    ) -> Result<Vec<Reason>, Reason> {
        let t = &s.tree;
        let say = |code: Code, message: &str| Err(reason(s, used, code, message));
        let same_frame = t.callable_around(used) == t.callable_around(statement);
        let names_hidden = s.names.in_range(value, t.end(value)).iter().any(|r| hidden_at(s, r.node, value, used));
        if names_hidden {
            return say(Code::NameHidden, "a name of the value means something else here");
        }
        let block = t.parent(statement).unwrap_or(Tree::ROOT);
        if !t.contains(block, used) || same_frame && used < statement {
            return say(Code::EvaluationOrder, "the use is not always reached by way of the value");
        }
        let frame = t.callable_around(statement).unwrap_or(Tree::ROOT);
        let looped = t.ancestors(statement).take_while(|a| *a != frame).any(|a| t.role(a).is_loop());
        if looped && !same_frame && t.subtree(value).any(|n| t.role(n) == Role::Name) {
            return say(Code::EvaluationOrder, "the use runs later, in another function, when the loop has gone on");
        }
        if is_fixed(s, value) {
            return Ok(Vec::new());
        }
        let again = || same_again(self.project, s, (statement, value), used).filter(|_| !self.once);
        if uses > 1 {
            return again().ok_or_else(|| {
                reason(s, used, Code::EvaluatedAgain, "the value would be computed more than once, and may differ")
            });
        }
        if !same_frame {
            return say(Code::EvaluationOrder, "the use runs later, in another function");
        }
        let next = t.parent(statement).and_then(|p| t.children(p).find(|c| *c > statement));
        let Some(next) = next.filter(|n| t.contains(*n, used)) else {
            return say(Code::EvaluationOrder, BETWEEN);
        };
        // what only reads may be read after something that may throw
        let acts = t.subtree(value).any(|n| arguments::may_act(s, n));
        let late =
            |w: &When| w.conditional || w.in_closure || w.after_effects || acts && (w.after_throws || w.after_reads);
        if moment_of(s, next, used).is_some_and(|w| !late(&w)) {
            return Ok(Vec::new());
        }
        // what it passes may be plain; what acts could change even that
        let plain =
            |n: NodeId| arguments::is_likely(s, n) || matches!(t.role(n), Role::Index | Role::Slice | Role::NotOp);
        let computes = t.subtree(value).all(|n| !arguments::may_act(s, n) || plain(n));
        let late = |w: &When| w.conditional || w.in_closure || w.after_effects;
        match moment_assuming(s, next, used) {
            Some((w, mut passed)) if !late(&w) && computes => {
                // so must be the value itself: it could change what is passed
                passed.extend(t.subtree(value).any(|n| t.role(n) != Role::Literal && !t.is_leaf(n)).then_some(value));
                Ok(plain_values(s, t.outermost(passed)))
            }
            _ => again().ok_or_else(|| {
                let message = "other things are evaluated before the use, or it is not always reached";
                reason(s, used, Code::EvaluationOrder, message)
            }),
        }
    }
}

impl Inline<'_> {
    /// Nothing looks a member that goes up by its name; else what must hold for that.
    fn looked_up_nowhere(&self, s: &Source, declaration: NodeId, name: &str) -> Found<Vec<Reason>> {
        let file = self.project.index(&s.path).expect("a planned file was scanned");
        let refuse = |s: &Source, n: NodeId, message: String| Err(vec![reason(s, n, Code::NamedByString, message)]);
        if self.project.named_by_string(file, name) {
            return refuse(s, declaration, format!("a text of the project names `{name}` and its class"));
        }
        for (_, other) in unseen::with_word(self.project, name, s.lang) {
            let looked = |n: &NodeId| unseen::looked_up(&other, *n, name).is_some();
            if let Some(n) = other.tree.ids().find(looked) {
                return refuse(&other, n, format!("this looks `{name}` up by its name"));
            }
        }
        let hidden = s.lang.hides_member(s, declaration);
        Ok(if hidden { Vec::new() } else { unseen::elsewhere(self.project, name, s) })
    }
}

/// Says of a member that is open to all code that some of it may not be in the project.
fn missed_outside(mut outcome: Outcome, s: &Source, declaration: NodeId, name: &str) -> Outcome {
    outcome.remarks.extend(class_tree::missed_outside(s, declaration, name));
    outcome
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

fn use_edit(s: &Source, used: NodeId, text: String) -> Edit {
    let span = s.tree.span(used);
    let text = match one_word_pair(&s.tree, used) {
        Some(_) => format!("{}: {text}", s.str(used)),
        None => text,
    };
    Edit::new(span.start, span.end, text)
}
