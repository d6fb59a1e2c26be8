//! Imports whose names stand nowhere else, where loading what they name is done anyway or has no effect.

use super::{Candidate, statement};
use crate::find::Clutter;
use crate::index::Project;
use crate::index::seen::shows_names;
use crate::index::unseen::{Within, handed_on, lookups};
use crate::index::words::whole_words;
use crate::names::{BindingId, Names, Source};
use crate::plan::imports::without_name;
use crate::plan::unneeded::statement_of;
use crate::tree::{NodeId, Role, Tree};

pub(super) fn found(project: &Project, s: &Source) -> Vec<Candidate> {
    let Some(file) = project.index(&s.path) else { return Vec::new() };
    // the file of a package is what others see of it
    if s.module.as_ref().is_some_and(|m| m.is_package) && s.lang.modules_are_values() {
        return Vec::new();
    }
    let all: Vec<BindingId> = s.names.bindings_of(Names::MODULE).collect();
    let idle: Vec<BindingId> = all.iter().copied().filter(|b| is_unused(s, *b)).collect();
    let mut out = Vec::new();
    for b in &idle {
        let Some(own) = import_of(s, *b) else { continue };
        let beside: Vec<BindingId> = all.iter().copied().filter(|o| import_of(s, *o) == Some(own)).collect();
        let whole = beside.iter().all(|o| idle.contains(o));
        if whole && beside.first() != Some(b) {
            continue;
        }
        let names: Vec<&str> = if whole { &beside } else { std::slice::from_ref(b) }
            .iter()
            .map(|o| s.names.binding(*o).name.as_str())
            .collect();
        let what = format!("nothing uses the import of {}", names.join(", "));
        let group = if whole { beside.clone() } else { vec![*b] };
        let needs = group.iter().find_map(|o| why_it_matters(project, s, file, *o, !whole));
        let mut item = statement(s, Clutter::Unused, own, what, needs.map(str::to_string));
        if !whole {
            let Ok(Some(edit)) = without_name(s, *b, false, &[]) else { continue };
            item.span = edit.span;
            item.edit = edit;
            item.node = None;
        }
        out.push(item);
    }
    out
}

/// The import at the top level that binds a name.
fn import_of(s: &Source, b: BindingId) -> Option<NodeId> {
    let binding = s.names.binding(b);
    binding.import.as_ref().filter(|i| !i.wildcard && !i.module.starts_with("__"))?;
    statement_of(s, b)
}

/// The name stands nowhere in the file but in its import, not even in a comment.
fn is_unused(s: &Source, b: BindingId) -> bool {
    let binding = s.names.binding(b);
    let Some(own) = import_of(s, b) else { return false };
    let span = s.tree.span(own);
    let outside = |at: &usize| *at < span.start || span.end <= *at;
    let once = s.names.references_to(b).count() == 1;
    binding.writes == 1 && once && !whole_words(&s.text, &binding.name).any(|at| outside(&at))
}

fn why_it_matters(project: &Project, s: &Source, file: usize, b: BindingId, others_stay: bool) -> Option<&'static str> {
    let (t, binding) = (&s.tree, s.names.binding(b));
    let (Some(import), Some(own)) = (&binding.import, import_of(s, b)) else { return Some("it is no plain import") };
    let line_end = s.text[t.span(own).end..].find('\n').map_or(s.text.len(), |i| t.span(own).end + i);
    let noted = t.comments().iter().any(|c| t.span(own).start <= c.start && c.start < line_end);
    if noted {
        return Some("a comment speaks of it");
    }
    if s.lang.exports_again(s, b) || s.lang.is_frame_name(&binding.name) {
        return Some("others have it from here");
    }
    if t.ids().any(|n| t.role(n) == Role::Markup) {
        return Some("markup may need it");
    }
    if shows_names(project, s, Tree::ROOT, true).is_some() {
        return Some("names are looked at by texts in this file");
    }
    if !s.lang.imports_load() {
        return None;
    }
    let name = binding.name.as_str();
    let through = |f: usize| f != file && project.imports(f, file) && project.facts[f].has_word(name);
    if project.named_by_string(file, name) || (0..project.facts.len()).any(through) {
        return Some("others have it from here");
    }
    let looked_up = || {
        let lookups = lookups(project, name, Within::File(&s.path));
        !lookups.is_empty() || !handed_on(project, file).is_empty()
    };
    if looked_up() {
        return Some("names of the file are looked up by texts");
    }
    let targets = project.resolved(s, import);
    // another name of the same module loads it; one with a capital is no module itself
    let loaded = others_stay && import.member.as_ref().is_some_and(|m| m.starts_with(char::is_uppercase));
    let plain = |f: &usize| {
        let standard = |module: &&String| s.lang.is_standard_module(module);
        let m = project.modules();
        m.loaded_by(*f).iter().chain([f]).all(|g| project.facts[*g].plain && m.needs(*g).iter().all(standard))
    };
    let quiet = match targets.is_empty() {
        true => import.level == 0 && s.lang.is_standard_module(&import.module),
        false => targets.iter().all(plain),
    };
    (!loaded && !quiet).then_some("loading what it names may do something")
}
