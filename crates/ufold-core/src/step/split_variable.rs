//! `split-variable`: a value that a variable gets later on has a variable of its own, from there to its last use.
//!
//! What goes along is found by the values that each use may read: uses of this value, whatever else they may read, and so
//! on. When that leads back to the first value, the two are one variable and stay it.

use std::slice::from_ref;

use rustc_hash::FxHashSet;
use serde::{Deserialize, Serialize};

use super::{Plan, Request, Step};
use crate::change::{Claim, Code, Edits, Found, Outcome, Place, Reason, Verdict, reason};
use crate::flow::Flow;
use crate::index::declared::{bare_declarations, declaring_word, is_typed_behind};
use crate::index::seen::looks_at_names;
use crate::index::target::one_word_pair;
use crate::index::{Project, Target, target};
use crate::names::{BindKind, BindingId, Source, Use};
use crate::plan::managers;
use crate::text::{Edit, Span, indent_at};
use crate::tree::{Field, NodeId, Role};

/// What a person may edit of a variable's split.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct SplitVariableRequest {
    /// The place as it was typed, for messages.
    pub finding: String,
    /// The variable's name where it gets the value.
    pub place: Place,
    /// The name of the new variable.
    pub name: String,
}

impl Step for SplitVariableRequest {
    fn finding(&self) -> &str {
        &self.finding
    }

    fn places(&self) -> &[Place] {
        from_ref(&self.place)
    }

    fn claim(&self) -> Claim {
        Claim::Parted { name: self.name.clone() }
    }

    fn title(&self, _: &Outcome) -> String {
        format!("Split the variable at {}: {}", self.finding, self.name)
    }

    fn plan(&self, project: &Project) -> Plan {
        Plan::of(project, Request::SplitVariable(self.clone()), run(project, self))
    }
}

fn run(project: &Project, request: &SplitVariableRequest) -> Found<Outcome> {
    let s = project.source_at(&request.place)?;
    let t = &s.tree;
    let span = Span::new(request.place.start_byte, request.place.end_byte);
    let refuse = |n: NodeId, code: Code, message: String| Err(vec![reason(&s, n, code, message)]);
    let at = t.covering(span);
    let Some(Target::Binding(b)) = target(&s, span) else {
        return refuse(at, Code::NotAName, "no variable of this file stands here".into());
    };
    let binding = s.names.binding(b);
    let Some(giver) = s.names.references_to(b).find(|r| t.span(r.node) == span).filter(|r| r.usage.writes()) else {
        return refuse(at, Code::NotAName, format!("`{}` gets no value here; point at an assignment", binding.name));
    };
    let giver = giver.node;
    let function = t.callable_around(giver).filter(|f| t.holds_statements(*f));
    let own = function.filter(|f| s.names.scope(s.names.frame_of(b)).node == *f);
    let Some(function) = own.filter(|_| matches!(binding.kind, BindKind::Variable | BindKind::Parameter)) else {
        return refuse(giver, Code::OutsideFunction, format!("`{}` is no variable of this function", binding.name));
    };
    if binding.captured || binding.rebound_inside {
        return refuse(giver, Code::Captured, format!("a function that is made here uses `{}`", binding.name));
    }
    if let Some(n) = looks_at_names(&s, function, false) {
        return refuse(n, Code::Reflection, "names are looked up by texts here".into());
    }
    if let Some(n) = t.subtree(function).find(|n| t.role(*n) == Role::Jump) {
        return refuse(n, Code::LeavesLoop, "which value a use reads hangs on this jump".into());
    }
    if let Some(n) = s.reads_parameters_unnamed(function).filter(|_| binding.kind == BindKind::Parameter) {
        return refuse(n, Code::Reflection, "parameters are read by another word here".into());
    }
    let named = |n: &NodeId| t.role(*n) == Role::Name && s.str(*n) == request.name;
    if let Some(n) = t.subtree(function).find(named) {
        return refuse(n, Code::NameTaken, format!("`{}` is in use here already", request.name));
    }
    let names = web(&s, function, b, giver)?;
    if let Some(n) = names.iter().find(|n| t.ancestors(**n).any(|a| s.shows_its_code(a))) {
        return refuse(*n, Code::ShownName, "the text here shows the name itself".into());
    }
    let assumed = swallowed(project, &s, function, b)?;
    let mut edits = Edits::default();
    for n in &names {
        let span = t.span(*n);
        let key = one_word_pair(t, *n).map_or(String::new(), |_| format!("{}: ", binding.name));
        edits.add(&s, Edit::new(span.start, span.end, format!("{key}{}", request.name)));
    }
    if s.lang.declares_locals() {
        (Declared { project, s: &s, b, names: &names, name: &request.name }).add(&mut edits)?;
    }
    let (files, saves) = edits.finish();
    let verdict = if assumed.is_empty() { Verdict::Ready } else { Verdict::Assumed };
    Ok(Outcome { verdict, reasons: assumed, files, saves, ..Outcome::refused(Vec::new()) })
}

/// Blocks that give the variable a value which is read behind them: none of them may end early unseen.
fn swallowed(project: &Project, s: &Source, function: NodeId, b: BindingId) -> Found<Vec<Reason>> {
    let t = &s.tree;
    let of = |from: NodeId, to: NodeId| s.names.in_range(from, to).iter().filter(|r| r.target == Some(b));
    let matters = |w: &NodeId| {
        let mut later = of(t.end(*w), t.end(function));
        t.role(*w) == Role::With && of(*w, t.end(*w)).any(|r| r.usage.writes()) && later.any(|r| r.usage.reads())
    };
    let mut out = Vec::new();
    for with in t.subtree(function).filter(matters) {
        out.extend(managers::assumed(project, s, with).map_err(|r| vec![r])?);
    }
    Ok(out)
}

/// The names that go with the value, in the order of the text.
fn web(s: &Source, function: NodeId, b: BindingId, giver: NodeId) -> Found<Vec<NodeId>> {
    let t = &s.tree;
    let name = &s.names.binding(b).name;
    let statement = t.ancestors(giver).find(|a| t.parent(*a).is_some_and(|p| t.role(p).is_sequence()));
    let flow = Flow::of(s, function, statement.unwrap_or(giver));
    let refuse = |n: NodeId, message: String| Err(vec![reason(s, n, Code::OneVariable, message)]);
    let values = flow.values_of(b).filter(|_| flow.points.iter().any(|p| p.node == giver));
    let Some(values) = values else {
        return refuse(giver, format!("nothing is known of the values of `{name}` here"));
    };
    let web = values.web(giver);
    let all: FxHashSet<NodeId> = s.names.references_to(b).filter(|r| !r.is_type()).map(|r| r.node).collect();
    let first = web.contains(&None) || web.iter().flatten().any(|n| declaring_word(s, *n).is_some());
    // what nothing reaches reads it as well
    let given = |r: &crate::names::Reference| r.usage.writes() && !web.contains(&Some(r.node));
    if first || !s.names.references_to(b).any(given) {
        let at = |n: NodeId| s.line(n);
        return match values.joined_at(&web, giver) {
            Some((used, Some(other))) => {
                refuse(used, format!("line {} may read the `{name}` of line {} or of another", at(used), at(other)))
            }
            Some((used, None)) => {
                refuse(used, format!("line {} may also read what `{name}` is when the function begins", at(used)))
            }
            None => refuse(giver, format!("this is the first value of `{name}`; point at a later assignment")),
        };
    }
    let mut names: Vec<NodeId> = web.into_iter().flatten().collect();
    names.sort_unstable();
    match names.iter().find(|n| !all.contains(n)) {
        Some(n) => refuse(*n, format!("`{}` is more than a name here", s.str(*n))),
        None => Ok(names),
    }
}

/// How the new variable is declared, where the language wants that.
struct Declared<'a> {
    project: &'a Project<'a>,
    s: &'a Source,
    b: BindingId,
    names: &'a [NodeId],
    name: &'a str,
}

impl Declared<'_> {
    /// At the first assignment, when that is a statement and all else is behind it in its block; else before what holds all.
    fn add(&self, edits: &mut Edits) -> Found<()> {
        let (s, t) = (self.s, &self.s.tree);
        let first = self.names[0];
        let holds_all = |a: &NodeId| t.role(*a).is_sequence() && self.names.iter().all(|n| t.contains(*a, *n));
        let block = t.ancestors(first).find(holds_all).expect("the function's body holds them all");
        let statement = t.children(block).find(|c| t.contains(*c, first)).expect("it stands in the block");
        let start = t.span(statement).start;
        let value = self.value_of(statement, first);
        let writes = self.names.iter().filter(|n| s.names.at(**n).is_some_and(|r| r.usage.writes())).count();
        let unknown = || {
            let message = "the type of the new variable is not known, or can't be written here";
            vec![reason(s, first, Code::UnknownType, message)]
        };
        let ty = self.ty(value).ok_or_else(unknown)?;
        let local = (self.name.to_string(), ty.clone());
        let Some(value) = value else {
            if let Some(n) = self.perhaps_not_given(block).filter(|_| s.lang.needs_types()) {
                let message = "a compiler can't tell that the new variable has a value here";
                return Err(vec![reason(s, n, Code::MaybeUnbound, message)]);
            }
            let indent = indent_at(&s.text, start);
            let line = s.lang.write_declaration(s, &[local], indent);
            edits.add(s, Edit::new(start, start, format!("{}\n{indent}", line.trim_end())));
            return Ok(());
        };
        if s.lang.types_locals() {
            edits.add(s, Edit::new(start, start, format!("{} ", ty.ok_or_else(unknown)?)));
            return Ok(());
        }
        // a constant has the type of its very value where types are written
        let narrow = s.lang.needs_types() && ty.is_none() && t.subtree(value).all(|n| t.role(n) != Role::Name);
        let word = s.lang.declaring_word(writes == 1 && !narrow);
        edits.add(s, Edit::new(start, start, format!("{word} ")));
        if let Some(ty) = ty {
            let end = t.span(first).end;
            edits.add(s, Edit::new(end, end, format!(": {ty}")));
        }
        Ok(())
    }

    /// A handler of code that gives the variable a value, which does not first give one itself or leave: what may fail is not
    /// looked at by compilers.
    fn perhaps_not_given(&self, block: NodeId) -> Option<NodeId> {
        let (s, t) = (self.s, &self.s.tree);
        let within = |n: NodeId| self.names.iter().copied().find(|x| t.contains(n, *x));
        let writes = |n: NodeId| s.names.at(n).is_some_and(|r| r.usage == Use::Write);
        let watched = |n: &NodeId| {
            let body = t.child(*n, Field::Body).filter(|_| t.role(*n) == Role::Try);
            body.is_some_and(|b| self.names.iter().any(|x| t.contains(b, *x) && writes(*x)))
        };
        let bad = |h: &NodeId| {
            let body = t.child(*h, Field::Body).unwrap_or(*h);
            let first = within(body);
            let at_once = first.is_some_and(|x| {
                let statement = t.ancestors(x).find(|a| t.parent(*a).is_some_and(|p| t.role(p).is_sequence()));
                writes(x) && statement.and_then(|st| t.parent(st)) == Some(body)
            });
            let leaves = || {
                let last = t.children(body).last().map_or(Role::Pass, |c| t.role(c));
                first.is_none() && matches!(last, Role::Return | Role::Raise | Role::Break | Role::Continue)
            };
            match t.role(*h) {
                Role::Finally => first.is_some(),
                _ => !at_once && !leaves(),
            }
        };
        let handlers = t.subtree(block).filter(watched).flat_map(|n| t.children(n).collect::<Vec<_>>());
        handlers.filter(|c| matches!(t.role(*c), Role::Except | Role::Finally)).find(bad)
    }

    /// The value, when a statement does nothing but give it to this name.
    fn value_of(&self, statement: NodeId, name: NodeId) -> Option<NodeId> {
        let t = &self.s.tree;
        let assign = t.parent(name).filter(|a| t.role(*a) == Role::Assign && t.field(name) == Field::Left)?;
        let value = t.child(assign, Field::Right).filter(|v| t.role(*v) != Role::Assign)?;
        let alone = t.role(statement) == Role::ExprStmt && t.parent(assign) == Some(statement);
        (alone && !self.names.iter().any(|n| t.contains(value, *n))).then_some(value)
    }

    /// What is written of its type, none where nothing is; or nothing when it can't be.
    fn ty(&self, value: Option<NodeId>) -> Option<Option<String>> {
        let s = self.s;
        if !s.lang.needs_types() {
            return Some(None);
        }
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        let first = s.names.binding(self.b).first;
        if s.lang.types_locals() {
            let declared = bare_declarations(s, self.b).first().copied().unwrap_or(first);
            let words = declaring_word(s, declared).filter(|_| !is_typed_behind(s, declared));
            return s.lang.local_word(s, self.b, words, &definitions).map(Some);
        }
        let ty = s.lang.general(s.lang.type_of(s, first, &definitions));
        let same = value.is_some_and(|v| s.lang.general(s.lang.type_of(s, v, &definitions)) == ty);
        if same && ty.is_known() {
            return Some(None);
        }
        s.lang.annotation(s, first).or_else(|| s.lang.spell(ty, s, &definitions)).map(Some)
    }
}
