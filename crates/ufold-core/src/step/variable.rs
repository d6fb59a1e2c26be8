//! `extract --variable`: an expression becomes a local before its statement, and equal ones in the same block read it.
//!
//! It is right exactly where inlining the new local gives the old text back and changes nothing: so that is what is asked,
//! of the text that would be. What inlining can't decide is refused here, too. Types that conditions tell end at a local:
//! where they matter, only comparisons by size may leave a condition.

use std::slice::from_ref;
use std::sync::Arc;

use serde::{Deserialize, Serialize};

use super::{InlineRequest, Plan, Request, Step};
use crate::change::{Claim, Code, Edits, Found, Outcome, Place, Verdict, place_of, reason};
use crate::index::Project;
use crate::index::constants::{tells_types, typed_by_place};
use crate::names::Source;
use crate::text::{Edit, Span, apply_edits, indent_at};
use crate::tree::{Field, NodeId, Role};

/// What a person may edit of a new local.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct VariableRequest {
    /// Where the expression is, for messages.
    pub finding: String,
    /// The expression.
    pub place: Place,
    pub name: String,
}

impl Step for VariableRequest {
    fn finding(&self) -> &str {
        &self.finding
    }

    fn places(&self) -> &[Place] {
        from_ref(&self.place)
    }

    fn claim(&self) -> Claim {
        Claim::Named { name: self.name.clone() }
    }

    fn title(&self, _: &Outcome) -> String {
        format!("Name the value at {} {}", self.finding, self.name)
    }

    fn plan(&self, project: &Project) -> Plan {
        Plan::of(project, Request::Variable(self.clone()), Variable { project, request: self }.run())
    }
}

struct Variable<'a> {
    project: &'a Project<'a>,
    request: &'a VariableRequest,
}

impl Variable<'_> {
    fn run(&self) -> Found<Outcome> {
        let s = self.project.source_at(&self.request.place)?;
        let t = &s.tree;
        let value = self.value(&s)?;
        let refuse = |n: NodeId, code: Code, message: &str| Err(vec![reason(&s, n, code, message)]);
        let in_block = |n: &NodeId| t.parent(*n).is_some_and(|p| t.role(p).is_sequence());
        let Some(statement) = t.ancestors(value).find(in_block) else {
            return refuse(value, Code::NotAValue, "the expression stands in no statement of a block");
        };
        if t.role(statement).is_definition()
            || t.subtree(value).any(|n| s.names.at(n).is_some_and(|r| r.usage.writes()))
        {
            return refuse(value, Code::NotAValue, "the expression gives a name its value, or is part of a definition");
        }
        if s.lang.is_several(&s, value) {
            return refuse(value, Code::NotAValue, "this may be several values here, and a variable holds one");
        }
        if s.lang.is_place(&s, value) {
            return refuse(value, Code::NotAValue, "this stands for a variable here, not for its value");
        }
        let around = t.ancestors(statement).find(|a| t.role(*a).is_callable());
        let taken = |n: &NodeId| t.role(*n) == Role::Name && s.str(*n) == self.request.name;
        if let Some(n) = around.map_or_else(|| t.ids().find(taken), |f| t.subtree(f).find(taken)) {
            return refuse(n, Code::NameTaken, &format!("`{}` is already in use here", self.request.name));
        }
        if tells_types(&s, value) {
            return refuse(value, Code::NarrowedHere, "a condition that may tell a type can't be kept in a variable");
        }
        if typed_by_place(self.project, &s, value) {
            return refuse(
                value,
                Code::TypedDeclaration,
                "the value's type comes from its place, which a variable has not",
            );
        }
        let block = t.parent(statement).expect("found by its parent");
        let later = t.children(block).filter(|c| *c >= statement).flat_map(|c| t.subtree(c));
        let equal = later.filter(|n| t.exact(*n) == t.exact(value) && s.str(*n) == s.str(value) && *n != value);
        let equal: Vec<NodeId> = equal.filter(|n| t.role(*n) == t.role(value) && is_read(&s, *n)).collect();
        let all = [&[value], equal.as_slice()].concat();
        let first = self.written(&s, statement, &all);
        match first {
            Ok(o) if o.verdict == Verdict::Ready || equal.is_empty() => Ok(o),
            Err(r) if equal.is_empty() => Err(r),
            other => self.written(&s, statement, &[value]).or(other),
        }
    }

    /// The expression at the place, with the brackets around it.
    fn value(&self, s: &Source) -> Found<NodeId> {
        let t = &s.tree;
        let place = &self.request.place;
        let span = Span::new(place.start_byte, place.end_byte);
        let fits = |n: &NodeId| t.span(*n) == span && t.role(*n).is_expression() && is_read(s, *n);
        let inner = t.covering(span);
        let around: Vec<NodeId> =
            std::iter::once(inner).chain(t.ancestors(inner)).take_while(|n| t.span(*n) == span).collect();
        let found = around.iter().rev().copied().chain(t.subtree(inner)).find(|n| fits(n));
        let Some(mut value) = found else {
            return Err(vec![reason(s, inner, Code::NotAValue, "no variable can take the place of this")]);
        };
        // brackets go along, but for those that belong to a statement
        let own = |p: &NodeId| t.role(*p) == Role::Paren && !matches!(t.field(*p), Field::Condition | Field::Subject);
        while let Some(p) = t.parent(value).filter(|p| own(p) && t.children(*p).count() == 1) {
            value = p;
        }
        Ok(value)
    }

    /// What declares the variable, up to its name, and the whole line of it.
    fn declaration(&self, s: &Source, value: NodeId) -> Option<(String, String)> {
        let name = &self.request.name;
        let word = match s.lang.types_locals() {
            true => {
                let definitions = |s: &Source, name: &str| self.project.definition(s, name);
                s.lang.spell(s.lang.type_of(s, value, &definitions), s, &definitions)?
            }
            false => s.lang.declaring_word(true).to_string(),
        };
        let head = if word.is_empty() { word } else { format!("{word} ") };
        // as the file ends a declaration
        let bare = s.lang.write_declaration(s, &[(name.clone(), Some(head.clone()))], "");
        let end = if bare.trim_end().ends_with(';') { ";" } else { "" };
        let line = format!("{head}{name} = {}{end}", s.str(value));
        Some((head, line))
    }

    /// The change, with what inlining says of it.
    fn written(&self, s: &Arc<Source>, statement: NodeId, uses: &[NodeId]) -> Found<Outcome> {
        let t = &s.tree;
        let name = &self.request.name;
        let refuse = |code: Code, message: &str| Err(vec![reason(s, uses[0], code, message)]);
        let inside =
            |n: &NodeId| t.children(*n).next().filter(|_| t.role(*n) == Role::Paren && t.children(*n).count() == 1);
        let value = std::iter::successors(Some(uses[0]), inside).last().unwrap_or(uses[0]);
        let Some((head, line)) = self.declaration(s, value) else {
            return refuse(Code::UnknownType, "the type of this expression is not known, or can't be written here");
        };
        let at = t.span(statement).start;
        let line = format!("{line}\n{}", indent_at(&s.text, at));
        let added = line.matches('\n').count();
        let mut edits = Edits::default();
        edits.add(s, Edit::new(at, at, line));
        uses.iter().for_each(|u| edits.add(s, Edit::new(t.span(*u).start, t.span(*u).end, name.clone())));
        let (files, saves) = edits.finish();
        let text = apply_edits(&s.text, &files[0].edits)
            .map_err(|e| vec![reason(s, value, Code::NotAValue, e.to_string())])?;
        let Ok(new) = self.project.parse(&s.path, text.into()) else {
            return refuse(Code::NotAValue, "the text with the variable would not parse");
        };
        if new.tree.errors().len() > t.errors().len() || s.breaks_outside_brackets(value) {
            return refuse(Code::NotAValue, "the value can't be written in a statement of its own as it stands");
        }
        let new = Arc::new(new);
        let start = at + head.len();
        let inlined = self.project.with_texts(std::slice::from_ref(&new), |p| {
            let place = place_of(&new, Span::new(start, start + name.len()));
            InlineRequest { finding: self.request.finding.clone(), place, except: Vec::new(), slide: false }
                .as_often(p)
                .result
        });
        let Ok(inlined) = inlined else {
            return refuse(Code::NotAValue, "the text with the variable can't be planned for");
        };
        if inlined.is_refused() {
            let own = |r: &crate::change::Reason| reason(s, uses[0], r.code, r.message.clone());
            return Err(inlined.reasons.iter().map(own).collect());
        }
        // places as they are before the line is there
        let below = |r: &crate::change::Reason| r.file == s.path && r.line > s.line(statement);
        let as_it_is = |r: crate::change::Reason| match below(&r) {
            true => crate::change::Reason { line: r.line - added, ..r },
            false => r,
        };
        let mut result = Outcome {
            verdict: inlined.verdict,
            reasons: inlined.reasons.into_iter().map(as_it_is).collect(),
            files,
            saves,
            ..Outcome::refused(Vec::new())
        };
        if uses.len() > 1 {
            result.remarks.push(format!("{} equal expressions read it", uses.len()));
        }
        Ok(result)
    }
}

/// Is evaluated for its value, and no place that is written.
fn is_read(s: &Source, n: NodeId) -> bool {
    let t = &s.tree;
    let Some(p) = t.parent(n) else { return false };
    let written = matches!(t.role(p), Role::Assign | Role::AugAssign | Role::Delete) && t.field(n) == Field::Left;
    let callee = t.field(n) == Field::Callee;
    !written && !callee && !matches!(t.role(p), Role::ExprStmt | Role::Delete)
}
