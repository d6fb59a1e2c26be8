//! Imports that a step makes useless: all uses of the name went with the copies.
//!
//! An import goes when nothing is left in its file that says the name, not even a comment, nobody gets the name through the
//! file, and nothing is loaded less than before that could be seen. One that was useless before stays.

use crate::index::Project;
use crate::index::unseen::{self};
use crate::index::words::{has_whole_word, whole_words};
use crate::names::{BindingId, Names, Source};
use crate::plan::imports::without_name;
use crate::plan::lines::whole_lines;
use crate::text::{Edit, Span};
use crate::tree::{NodeId, Role, Tree};

/// The edits of a file that take such imports away. `replaced`: what the calls, whose texts are given, take the place of;
/// `home`: the file that the calls load.
pub fn edits(project: &Project, s: &Source, home: usize, replaced: &[Span], calls: &[&str]) -> Vec<Edit> {
    let Some(file) = project.index(&s.path) else { return Vec::new() };
    let all: Vec<BindingId> = s.names.bindings_of(Names::MODULE).collect();
    let goes = |b: &BindingId| is_unneeded(project, s, file, home, *b, replaced, calls);
    let gone: Vec<BindingId> = all.iter().copied().filter(goes).collect();
    let mut out = Vec::new();
    let mut seen: Vec<NodeId> = Vec::new();
    for b in &gone {
        let Some(statement) = statement_of(s, *b).filter(|x| !seen.contains(x)) else { continue };
        seen.push(statement);
        let beside = |o: &&BindingId| statement_of(s, **o) == Some(statement);
        let whole = all.iter().filter(beside).all(|o| gone.contains(o));
        out.extend(if whole { without(s, statement) } else { without_name(s, *b, false, &[]).ok().flatten() });
    }
    out
}

/// The import at the top level that binds a name.
pub fn statement_of(s: &Source, b: BindingId) -> Option<NodeId> {
    let (t, binding) = (&s.tree, s.names.binding(b));
    binding.import.as_ref()?;
    let statement = t.ancestors(binding.first).find(|a| t.parent(*a) == Some(Tree::ROOT))?;
    let import = matches!(t.role(statement), Role::Import | Role::ImportFrom | Role::Declare);
    (import && !s.lang.imports_of(t, statement, &s.text).is_empty()).then_some(statement)
}

fn without(s: &Source, statement: NodeId) -> Option<Edit> {
    let own = s.tree.span(statement);
    let lines = whole_lines(s, own);
    (lines != own).then(|| Edit::new(lines.start, lines.end, ""))
}

fn is_unneeded(
    project: &Project,
    s: &Source,
    file: usize,
    home: usize,
    b: BindingId,
    replaced: &[Span],
    calls: &[&str],
) -> bool {
    let binding = s.names.binding(b);
    let (name, Some(import), Some(statement)) = (binding.name.as_str(), &binding.import, statement_of(s, b)) else {
        return false;
    };
    if binding.writes != 1 || import.wildcard || s.lang.exports_again(s, b) {
        return false;
    }
    let own = s.tree.span(statement);
    let within = |at: usize, spans: &[Span]| spans.iter().any(|r| r.start <= at && at < r.end);
    let places: Vec<usize> = whole_words(&s.text, name).filter(|at| !within(*at, &[own])).collect();
    let went = !places.is_empty() && places.iter().all(|at| within(*at, replaced));
    if !went || calls.iter().any(|c| has_whole_word(c, name)) {
        return false;
    }
    let through_it = |f: usize| f != file && project.imports(f, file) && project.facts[f].has_word(name);
    let known = project.named_by_string(file, name) || (0..project.facts.len()).any(through_it);
    let looked_up = || {
        let lookups = unseen::lookups(project, name, unseen::Within::File(&s.path));
        !lookups.is_empty() || !unseen::handed_on(project, file).is_empty()
    };
    !known && project.is_loaded_anyway(s, import, home) && !looked_up()
}

/// Removals of lines that stood between blank ones take those behind them along.
fn closed_up(s: &Source, mut gone: Vec<Edit>) -> Vec<Edit> {
    gone.sort_by_key(|e| e.span.start);
    for i in 0..gone.len() {
        let (start, end) = (gone[i].span.start, gone[i].span.end);
        let next = gone.get(i + 1).map(|e| e.span.start);
        if !gone[i].text.is_empty() || next == Some(end) {
            continue;
        }
        let first = (0..=i).rev().take_while(|k| *k == i || gone[*k].span.end == gone[*k + 1].span.start).last();
        let start = first.map_or(start, |k| gone[k].span.start);
        let above = s.text[..start].is_empty() || s.text[..start].replace('\r', "").ends_with("\n\n");
        let behind =
            s.text[end..].split_inclusive('\n').take_while(|l| l.trim().is_empty()).map(str::len).sum::<usize>();
        if above && start < end && next.is_none_or(|n| n >= end + behind) {
            gone[i].span.end = end + behind;
        }
    }
    gone
}

/// Puts an import that comes and those that go together where they meet; without one, the blank lines between which
/// others stood become one gap.
pub fn joined(s: &Source, edit: Option<Edit>, gone: Vec<Edit>) -> Vec<Edit> {
    let Some(mut edit) = edit else { return closed_up(s, gone) };
    let mut out = Vec::new();
    for g in gone {
        let meets =
            g.span.start <= edit.span.start && edit.span.start <= g.span.end && edit.span.start == edit.span.end;
        if !meets {
            out.push(g);
        } else if edit.text.starts_with('\n') {
            let text = format!("{}\n", edit.text.trim_start_matches('\n'));
            edit = Edit::new(g.span.start, g.span.end, text);
        }
        // a name is added to the very import that would go: it stays
    }
    out.push(edit);
    out
}
