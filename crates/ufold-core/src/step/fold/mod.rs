//! `fold`: a group of copies becomes one function, and every copy a call of it.
//!
//! The copies as a whole; where that is refused or dear, a part of them; where they are functions without a name, one
//! that makes them. What the audit does not agree with is refused.

mod maker;
mod narrow;

use serde::{Deserialize, Serialize};

use self::maker::made;
use self::narrow::narrower;
use super::proven::proven;
use super::{Plan, Request, Step};
use crate::change::{Claim, Code, Outcome, Place, Pointer, Reason, Verdict};
use crate::index::Project;
use crate::plan::calls::planned;
use crate::plan::wishes::{Asked, Wishes};

/// What a person may edit of a fold.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct FoldRequest {
    /// The finding's id, for messages.
    pub finding: String,
    /// Every copy; those in `except` stay as they are.
    pub copies: Vec<Place>,
    /// Numbers of copies to leave out, from 1.
    #[serde(default)]
    pub except: Vec<usize>,
    #[serde(default)]
    pub function: Wishes,
    /// Refuse rather than fold a part of the copies.
    #[serde(default)]
    pub whole: bool,
    /// Refuse what saves fewer lines.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub least: Option<i64>,
    /// The line that a person pointed at: a part of the copies must hold it, and may save nothing.
    #[serde(default)]
    pub pointed_at: Option<Pointer>,
}

impl FoldRequest {
    fn asked(&self) -> Asked<'_> {
        Asked { copies: &self.copies, except: &self.except, wishes: &self.function }
    }
}

impl Step for FoldRequest {
    fn finding(&self) -> &str {
        &self.finding
    }

    fn places(&self) -> &[Place] {
        &self.copies
    }

    fn claim(&self) -> Claim {
        Claim::Called { types: self.function.types.clone() }
    }

    fn wishes(&self) -> Option<&Wishes> {
        Some(&self.function)
    }

    fn wishes_mut(&mut self) -> Option<&mut Wishes> {
        Some(&mut self.function)
    }

    fn title(&self, result: &Outcome) -> String {
        match &result.function {
            Some(f) if result.sites.len() == 1 => format!("Fold 1 copy into {}", f.path()),
            Some(f) => format!("Fold {} copies into {}", result.sites.len(), f.path()),
            None => format!("Fold {}", self.finding),
        }
    }

    fn plan(&self, project: &Project) -> Plan {
        let (request, result) = folded(project, self);
        Plan::new(Request::Fold(request), result)
    }
}

/// The fold that is planned, which may be of a part of the copies only.
fn folded(project: &Project, request: &FoldRequest) -> (FoldRequest, Outcome) {
    let result = planned(project, request.asked(), 2);
    // functions as parameters are a price; a part without them may be the better step
    let heavy = result.verdict != Verdict::Refused && result.parameters.iter().any(|p| p.is_function);
    let mut result = match request.least.filter(|n| !heavy && result.verdict != Verdict::Refused && result.saves < *n) {
        Some(least) => Outcome::refused(vec![little_gain(request, result.saves, least)]),
        None => proven(project, &request.claim(), result),
    };
    let heavy = heavy && result.verdict != Verdict::Refused;
    let mut request = request.clone();
    let part = (result.verdict == Verdict::Refused || heavy) && !request.whole;
    if let Some((narrow, outcome)) = part.then(|| narrower(project, &request, &result)).flatten() {
        (request, result) = (narrow, outcome);
    }
    if let Some((whole, outcome)) = made(project, &request, &result) {
        (request, result) = (whole, outcome);
    }
    (request, result)
}

fn little_gain(request: &FoldRequest, saves: i64, least: i64) -> Reason {
    let p = &request.copies[0];
    let message = format!("would save {saves} of the {least} lines that are asked for");
    Reason { code: Code::LittleGain, message, file: p.file.clone(), line: p.start_line }
}
