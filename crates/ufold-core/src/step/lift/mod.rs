//! `lift`: members that several classes declare by the same words go to a class that all of them extend.
//!
//! That is the nearest such class of the project, or a new one that they are made to extend. What must hold is that each
//! class has the member as it had it: nothing in between and nothing above has one of the name, the member's own names
//! mean there what they mean here, and objects are made ready in the same order. Statements with which all constructors
//! begin go along where the new class can have a constructor. Fails (refuses) where a member means its own class:
//! private by the language, `super`, listed or made by a decorator.

mod base;
mod classes;
mod constructor;
mod fits;
mod meaning;
mod values;
mod written;

use std::sync::Arc;

use serde::{Deserialize, Serialize};

use self::base::Base;
use self::classes::Held;
pub use self::classes::{file_for_base, member_around, members_like, members_of, name_for_base};
pub use self::values::members_but_values;
use crate::change::{Claim, Code, Found, Outcome, Place, Verdict, reason};
use crate::index::Project;
use crate::lang::Bases;
use crate::step::{Plan, Request, Step};
use crate::tree::Tree;

/// What a person may edit of a lift.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct LiftRequest {
    /// The place as it was typed, or the finding, for messages.
    pub finding: String,
    /// The members: of each class the same ones.
    pub places: Vec<Place>,
    /// The class that they go to, which all extend; the nearest one where nothing is said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub to: Option<String>,
    /// The class that is made for them.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub new_base: Option<String>,
    /// The file of the class that is made, relative to the root; it is made where it is not there.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub into: Option<String>,
    /// Only where no more classes get the members than give them.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub narrow: bool,
    /// The members differ in values, for which the classes get these names, in the order of the code; an empty one is found.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub values: Vec<String>,
}

impl Step for LiftRequest {
    fn finding(&self) -> &str {
        &self.finding
    }

    fn places(&self) -> &[Place] {
        &self.places
    }

    fn new_files(&self) -> Vec<&str> {
        self.into.as_deref().into_iter().collect()
    }

    fn claim(&self) -> Claim {
        if self.values.is_empty() { Claim::Lifted } else { Claim::InTurn }
    }

    fn title(&self, result: &Outcome) -> String {
        let base = result.function.as_ref().and_then(|f| f.class.clone());
        format!("Lift {} to {}", self.finding, base.unwrap_or_else(|| "their base".into()))
    }

    fn plan(&self, project: &Project) -> Plan {
        let found = if self.values.is_empty() { run(project, self) } else { values::run(project, self) };
        Plan::of(project, Request::Lift(self.clone()), found)
    }
}

/// The classes, what goes of them, and where to.
struct Lift<'a> {
    project: &'a Project<'a>,
    of: &'static dyn Bases,
    classes: Vec<Held>,
    base: Base,
}

fn run(project: &Project, request: &LiftRequest) -> Found<Outcome> {
    let (mut classes, of) = classes::read(project, &request.places, request.new_base.as_deref())?;
    classes::topmost(project, &mut classes)?;
    let base = base::find(project, request, &classes)?;
    let mut lift = Lift { project, of, classes, base };
    let mut assumed = Vec::new();
    let mut remarks = Vec::new();
    for held in &lift.classes {
        assumed.extend(fits::class(&lift, held)?);
    }
    lift.take_what_fits(&mut remarks)?;
    let parts = constructor::find(&lift);
    lift.keep_what_is_given(parts.as_ref(), &mut remarks)?;
    meaning::check(&lift, parts.as_ref())?;
    assumed.extend(fits::others(&lift)?);
    remarks.extend(fits::also(&lift, request.narrow)?);
    let mut outcome = written::outcome(&lift, parts.as_ref())?;
    assumed.extend(std::mem::take(&mut outcome.reasons));
    assumed.sort_by(|a, b| (a.code, &a.file, a.line).cmp(&(b.code, &b.file, b.line)));
    assumed.dedup();
    outcome.verdict = if assumed.is_empty() { Verdict::Ready } else { Verdict::Assumed };
    outcome.reasons = assumed;
    outcome.remarks.extend(remarks);
    Ok(outcome)
}

impl Lift<'_> {
    fn first(&self) -> &Held {
        &self.classes[0]
    }

    /// Takes the members that can go; those that can't are told, unless none is left or one alone was asked for.
    fn take_what_fits(&mut self, remarks: &mut Vec<String>) -> Found<()> {
        let names: Vec<String> = self.first().members.iter().map(|m| m.name.clone()).collect();
        let mut against = Vec::new();
        loop {
            let left: Vec<String> = self.first().members.iter().map(|m| m.name.clone()).collect();
            let stays = left.iter().find_map(|n| Some((n.clone(), fits::member(self, n).err()?)));
            let Some((name, why)) = stays else { break };
            self.classes.iter_mut().for_each(|h| h.members.retain(|m| m.name != name));
            against.push((name, why));
        }
        self.told(&names, against, remarks)
    }

    /// Fields that only a constructor gives their value go with it, or stay.
    fn keep_what_is_given(&mut self, parts: Option<&constructor::Parts>, remarks: &mut Vec<String>) -> Found<()> {
        let names: Vec<String> = self.first().members.iter().map(|m| m.name.clone()).collect();
        let against: Vec<_> =
            names.iter().filter_map(|n| Some((n.clone(), constructor::needs_value(self, parts, n)?))).collect();
        for (name, _) in &against {
            self.classes.iter_mut().for_each(|h| h.members.retain(|m| m.name != *name));
        }
        self.told(&names, against, remarks)?;
        // what was taken for one of them may not go now
        self.take_what_fits(remarks)
    }

    fn told(
        &self,
        names: &[String],
        against: Vec<(String, Vec<crate::change::Reason>)>,
        remarks: &mut Vec<String>,
    ) -> Found<()> {
        if self.first().members.is_empty() || names.len() == 1 && !against.is_empty() {
            let all: Vec<_> = against.into_iter().flat_map(|(_, why)| why).collect();
            if !all.is_empty() {
                return Err(all);
            }
            let held = self.first();
            return Err(vec![reason(&held.s, Tree::ROOT, Code::NotAName, "no member is left that could go")]);
        }
        for (name, why) in against {
            let Some(r) = why.first() else { continue };
            remarks.push(format!("`{name}` stays: {} ({}:{})", r.message, r.file, r.line));
        }
        Ok(())
    }
}

/// A source of a file that is edited.
type Text = Arc<crate::names::Source>;
