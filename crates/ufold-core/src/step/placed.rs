//! Where no file with a copy is the right place for a new function, one without a copy may be.

use super::{Plan, Request, as_asked};
use crate::change::{Code, Outcome, Verdict};
use crate::find::paths::is_test_file;
use crate::index::Project;
use crate::plan::elsewhere::files;
use crate::plan::wishes::Form;

/// The plan with a file that has no copy, when those that have one can't take the function, or only if something holds, or
/// are files of tests, in which nobody looks for what is shared.
pub(super) fn elsewhere(project: &Project, request: &Request, plan: &Plan) -> Option<Plan> {
    let wishes = request.wishes()?;
    let open = wishes.into.is_none() && wishes.class.is_none() && wishes.form.is_none_or(|f| f == Form::Function);
    let own = &plan.result;
    let of = |code: Code| own.reasons.iter().find(|r| r.code == code).map(|r| r.message.as_str());
    let home = own.function.as_ref().map(|f| f.file.as_str()).filter(|f| is_test_file(f));
    let shared = |f: &&str| own.sites.iter().any(|s| s.place.file != **f);
    let (why, fits): (String, fn(&Outcome, &Outcome) -> bool) =
        match (own.is_refused(), of(Code::NoHome), of(Code::ImportEffects), home.filter(shared)) {
            (true, Some(why), ..) => (why.to_string(), |_, o| !o.is_refused()),
            (false, _, Some(why), _) => (format!("in a copy's file it would depend on this: {why}"), |_, o| {
                o.verdict == Verdict::Ready && o.saves > 0
            }),
            (false, _, _, Some(file)) => (format!("{file} is a file of tests"), |own, o| {
                o.saves > 0 && (o.verdict == Verdict::Ready || o.verdict == own.verdict)
            }),
            _ => return None,
        };
    let others = if open { files(project, request.places()) } else { Vec::new() };
    let mut best: Option<Plan> = None;
    for path in others {
        let mut other = as_asked(project, &request.with_home(&path));
        if !fits(own, &other.result) {
            continue;
        }
        other.result.remarks.insert(0, format!("the function goes to {path}: {why}"));
        if other.result.verdict == Verdict::Ready {
            return Some(other);
        }
        best = best.or(Some(other));
    }
    best
}
