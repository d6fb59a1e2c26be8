//! What is loaded when, before and after: nothing in a circle, and nothing more or less that could be seen.

use std::sync::Arc;

use super::Move;
use super::kept::Kept;
use super::needed::Needed;
use crate::change::{Code, Found, Outcome, Reason, reason};
use crate::index::Project;
use crate::index::loading::only_defines;
use crate::index::modules::Modules;
use crate::names::Source;
use crate::text::apply_edits;
use crate::tree::Tree;

/// What must hold of the files that the edited ones load, or why they can't.
pub(super) fn compared(m: &Move, has: (&Kept, &Needed), outcome: &Outcome) -> Found<Vec<Reason>> {
    let mut edited: Vec<Arc<Source>> = Vec::new();
    for f in &outcome.files {
        let fault = |message: String| vec![reason(&m.from, Tree::ROOT, Code::Internal, message)];
        let file = m.project.index(&f.file).ok_or_else(|| fault(format!("{} is not of the project", f.file)))?;
        let old = m.project.source(file).map_err(fault)?;
        let text = apply_edits(&old.text, &f.edits).map_err(|e| fault(e.to_string()))?;
        edited.push(Arc::new(m.project.parse(&f.file, text.into()).map_err(fault)?));
    }
    let run = |after: &Project| of_files(m, has, &edited, after);
    let fault = |message: String| vec![reason(&m.from, Tree::ROOT, Code::Internal, message)];
    m.project.with_texts(&edited, run).map_err(fault)?
}

/// Which names the two files have of each other.
fn because(m: &Move, (kept, needed): (&Kept, &Needed), (file, other): (usize, usize)) -> String {
    let both = [file, other];
    if !both.contains(&m.home) || !both.contains(&m.target) {
        return String::new();
    }
    let listed = |all: Vec<&str>| all.iter().map(|n| format!("`{n}`")).collect::<Vec<_>>().join(", ");
    let left: Vec<&str> = needed.lines.iter().map(|l| l.name.as_str()).filter(|n| is_own(m, n)).collect();
    let used: Vec<&str> = kept.names.iter().filter(|n| n.used).map(|n| n.name.as_str()).collect();
    let stays: Vec<&str> = kept.names.iter().filter(|n| n.passed && !n.used).map(|n| n.name.as_str()).collect();
    match (left.is_empty(), used.is_empty(), stays.is_empty()) {
        (false, false, _) => {
            format!(": {} uses {}, which uses {}; move both", m.from.path, listed(used), listed(left))
        }
        (false, true, false) => {
            let (a, b) = (listed(stays), listed(left));
            format!(
                ": {} would still give {a}, which uses its {b}; move both, or leave that out with --no-stay",
                m.from.path
            )
        }
        _ => String::new(),
    }
}

/// It imported or exported something.
fn was_module(m: &Move, file: usize) -> bool {
    let old = m.project.source(file).ok();
    old.is_some_and(|s| s.lang.module_system(&s.path, &s.tree, &s.text).is_some())
}

/// A name that the old file defines.
fn is_own(m: &Move, name: &str) -> bool {
    m.from.names.in_module(name).is_some_and(|b| m.from.names.binding(b).import.is_none())
}

/// The first of the files that matter which is loaded at another turn than before.
fn first_moved((old, new): (&Modules, &Modules), file: usize, matters: &dyn Fn(&usize) -> bool) -> Option<usize> {
    let ordered = |m: &Modules| m.order_of_loading(file).into_iter().filter(|g| matters(g)).collect::<Vec<usize>>();
    let (was, is) = (ordered(old), ordered(new));
    was.iter().zip(&is).find(|(a, b)| a != b).map(|(a, _)| *a)
}

fn of_files(m: &Move, (kept, needed): (&Kept, &Needed), edited: &[Arc<Source>], after: &Project) -> Found<Vec<Reason>> {
    let (old, new) = (m.project.modules(), after.modules());
    let mut out = Vec::new();
    for s in edited {
        let file = after.index(&s.path).expect("an edited file is of the project");
        let at = |code: Code, message: String| Reason { code, message, file: s.path.clone(), line: 1 };
        if was_module(m, file) && s.tree.len() > 1 && s.lang.module_system(&s.path, &s.tree, &s.text).is_none() {
            let message = format!("{} would import and export nothing any more, and be read as no module", s.path);
            return Err(vec![at(Code::NoHome, message)]);
        }
        for g in new.takes_anew(file, old) {
            if new.takes_when_loaded(g, file) {
                let other = &after.facts[g].path;
                let why = because(m, (kept, needed), (file, g));
                return Err(vec![at(Code::NoHome, format!("{} and {other} would import each other{why}", s.path))]);
            }
        }
        // a function that is called meanwhile may load the file that is not there yet
        let back = |g: &usize| new.takes_in_the_end(*g, file) && !only_defines(after, *g);
        if let Some(g) = new.takes_anew(file, old).into_iter().find(back) {
            let message =
                format!("loading {} does not come to use {}, or a file that waits for it", after.facts[g].path, s.path);
            out.push(at(Code::ImportEffects, message));
        }
        let mut needs =
            new.needs(file).into_iter().filter(|n| !old.needs(file).contains(*n)).cloned().collect::<Vec<_>>();
        if !needs.is_empty() && file != m.target {
            needs.sort();
            return Err(vec![at(Code::NoHome, format!("{} would need {}", s.path, needs.join(", ")))]);
        }
        let (before, now) = (old.loaded_by(file), new.loaded_by(file));
        let plain = |g: &usize| only_defines(after, *g) && only_defines(m.project, *g);
        let acting = |a: &rustc_hash::FxHashSet<usize>, b: &rustc_hash::FxHashSet<usize>| {
            let mut all: Vec<usize> = a.difference(b).copied().filter(|g| *g != file && !plain(g)).collect();
            all.sort_unstable();
            all
        };
        for g in acting(&now, &before) {
            let message = format!("loading {} has no effect that can be seen", after.facts[g].path);
            out.push(at(Code::ImportEffects, message));
        }
        for g in acting(&before, &now) {
            let message = format!("nothing is missed where {} is not loaded from here any more", after.facts[g].path);
            out.push(at(Code::ImportEffects, message));
        }
        // a file that was loaded later, or by another one
        let reordered = file != m.target && now.contains(&m.target) && before.contains(&m.target) && !plain(&m.target);
        if reordered && old.direct(file) != new.direct(file) {
            let message = format!("nothing depends on when {} is loaded", m.to.path);
            out.push(at(Code::ImportEffects, message));
        }
        let both = |g: &usize| now.contains(g) && before.contains(g) && !plain(g);
        if let Some(g) = first_moved((old, new), file, &both) {
            let message = format!("nothing depends on when {} is loaded", after.facts[g].path);
            out.push(at(Code::ImportEffects, message));
        }
        let (a, b) = (new.name(file), new.name(m.target));
        let sure = a.zip(b).is_some_and(|(a, b)| a.in_package && b.in_package || old.is_imported_from(&a.base));
        if file != m.target && new.direct(file).contains(&m.target) && !sure {
            out.push(at(Code::ImportPath, format!("{} can be imported by its bare name", m.to.path)));
        }
    }
    Ok(out)
}
