//! The audit's word on an outcome: without it nothing is handed over.

use crate::audit::audit;
use crate::change::{Change, Claim, Outcome};
use crate::index::Project;

/// The outcome, when the audit agrees with it.
pub(super) fn proven(project: &Project, claim: &Claim, result: Outcome) -> Outcome {
    if result.is_refused() {
        return result;
    }
    match audit(project, &Change { claim, result: &result }) {
        Ok(()) => result,
        Err(reasons) => Outcome { left_out: result.left_out, ..Outcome::refused(reasons) },
    }
}
