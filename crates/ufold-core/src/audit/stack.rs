//! A function more, or one less, between code and what it calls: it may be looked for by what is called.

use super::{Opinion, object};
use crate::change::{Change, Claim, Code, Outcome, Place};
use crate::index::{Project, unseen};
use crate::names::Source;
use crate::tree::{NodeId, Role, Tree};

/// That the stack is looked at is among the assumptions where it may be.
pub(super) fn told(project: &Project, change: &Change) -> Opinion<()> {
    if change.result.reasons.iter().any(|r| r.code == Code::StackSeen) {
        return Ok(());
    }
    for place in moved(project, change) {
        let Some(s) = project.index(&place.file).and_then(|f| project.source(f).ok()) else { continue };
        let span = crate::text::Span::new(place.start_byte, place.end_byte);
        let nodes = s.tree.ids().filter(|n| span.contains(s.tree.span(*n)));
        if let Some(r) = unseen::lookers(project, s.lang).seen_from(&s, nodes) {
            let first = s.tree.ids().find(|n| span.contains(s.tree.span(*n))).unwrap_or(Tree::ROOT);
            return object(&s, first, format!("what this calls looks at the stack ({}:{})", r.file, r.line));
        }
    }
    Ok(())
}

/// Code that runs in another function, or in one more or less.
fn moved(project: &Project, change: &Change) -> Vec<Place> {
    match change.claim {
        Claim::Called { .. } => change.result.sites.iter().map(|s| s.place.clone()).collect(),
        Claim::Inlined { definition, .. } => function_at(project, definition).into_iter().collect(),
        // one more where the function with the old parameters stays beside the new one
        Claim::Widened { .. } => changed_functions(project, change.result),
        Claim::Renamed { .. } | Claim::Named { .. } | Claim::Removed { .. } | Claim::Parted { .. } => Vec::new(),
        Claim::Reordered
        | Claim::Unrolled
        | Claim::Lifted
        | Claim::Valued { .. }
        | Claim::Joined
        | Claim::Divided
        | Claim::Moved { .. }
        | Claim::InTurn => Vec::new(),
    }
}

fn function_at(project: &Project, place: &Place) -> Option<Place> {
    let s = project.source(project.index(&place.file)?).ok()?;
    let named = |f: &NodeId| {
        let name = s.tree.child(*f, crate::tree::Field::Name);
        name.is_some_and(|n| s.tree.span(n).start == place.start_byte)
    };
    let function = s.tree.ids().filter(|f| s.tree.role(*f) == Role::Function).find(named)?;
    Some(whole(&s, function))
}

fn changed_functions(project: &Project, result: &Outcome) -> Vec<Place> {
    let mut out = Vec::new();
    for f in &result.files {
        let Some(s) = project.index(&f.file).and_then(|i| project.source(i).ok()) else { continue };
        let around = f.edits.iter().filter_map(|e| s.tree.callable_around(s.tree.covering(e.span)));
        let beside = f.edits.iter().any(|e| e.text.contains('\n'));
        out.extend(around.filter(|_| beside).map(|f| whole(&s, f)));
    }
    out
}

fn whole(s: &Source, function: NodeId) -> Place {
    let span = s.tree.span(function);
    let (start_line, end_line) = (s.lines.line(span.start), s.lines.line(span.end));
    Place { file: s.path.clone(), start_line, end_line, start_byte: span.start, end_byte: span.end }
}
