//! Changes that come after each other: each is looked at on the text that those before it leave, and all of them together
//! must give the texts that are written.

use std::collections::BTreeMap;
use std::sync::Arc;

use super::audit;
use crate::change::{Change, Code, Link, Outcome, Reason};
use crate::index::Project;
use crate::names::Source;
use crate::text::apply_edits;

pub(super) fn run(project: &Project, result: &Outcome) -> Result<(), Vec<Reason>> {
    if result.links.is_empty() {
        return Err(vec![objection("", "a change of several has none")]);
    }
    let told = |r: &Reason| result.reasons.iter().any(|o| o.code == r.code && o.message == r.message);
    if let Some(r) = result.links.iter().flat_map(|l| &l.result.reasons).find(|r| !told(r)) {
        return Err(vec![objection(&r.file, &format!("an assumption of one change is not told: {}", r.code))]);
    }
    let mut expected: BTreeMap<&str, String> = BTreeMap::new();
    for f in &result.files {
        let say = |e: String| vec![objection(&f.file, &e)];
        let index = project.index(&f.file).ok_or_else(|| say("not a file of the project".into()))?;
        let before = project.source(index).map_err(say)?;
        expected.insert(&f.file, apply_edits(&before.text, &f.edits).map_err(|e| say(e.to_string()))?);
    }
    linked(project, &result.links, &[], &expected)
}

/// The links that are left; `edited` are the files that earlier ones changed.
fn linked(
    project: &Project,
    links: &[Link],
    edited: &[Arc<Source>],
    expected: &BTreeMap<&str, String>,
) -> Result<(), Vec<Reason>> {
    let Some((link, rest)) = links.split_first() else {
        let same = |s: &Arc<Source>| expected.get(s.path.as_str()).is_some_and(|e| **e == *s.text);
        return match edited.len() == expected.len() && edited.iter().all(same) {
            true => Ok(()),
            false => Err(vec![objection("", "the changes made one after the other give another text")]),
        };
    };
    audit(project, &Change { claim: &link.claim, result: &link.result })?;
    let mut next = edited.to_vec();
    for f in &link.result.files {
        let say = |e: String| vec![objection(&f.file, &e)];
        if f.creates || f.goes || f.moves_to.is_some() {
            return Err(say("one of several changes makes or moves a file".into()));
        }
        let index = project.index(&f.file).ok_or_else(|| say("not a file of the project".into()))?;
        let before = project.source(index).map_err(say)?;
        let text = apply_edits(&before.text, &f.edits).map_err(|e| say(e.to_string()))?;
        let after = Arc::new(project.parse(&f.file, text.into()).map_err(say)?);
        next.retain(|s| s.path != f.file);
        next.push(after);
    }
    project.with_texts(&next, |p| linked(p, rest, &next, expected)).map_err(|e| vec![objection("", &e)])?
}

fn objection(file: &str, message: &str) -> Reason {
    let message = format!("the second reading does not agree: {message}");
    Reason { code: Code::Audit, message, file: file.to_string(), line: 1 }
}
