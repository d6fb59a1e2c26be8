//! Where in its home the new function stands.

use crate::names::{BindingId, Source};
use crate::plan::home::Home;
use crate::plan::lines::{comments_above, line_end, line_start};
use crate::plan::region::Portion;
use crate::text::Edit;
use crate::tree::{NodeId, Role, Tree};

/// The statement of the top level, or of a class body, that holds a node.
pub fn statement_in(tree: &Tree, parent: NodeId, node: NodeId) -> Option<NodeId> {
    tree.children(parent).find(|c| tree.contains(*c, node))
}

/// Where the definition is inserted, as an edit of the home's text. `text` has no indentation of its first line left out
/// and ends with a line end.
pub fn insertion(source: &Source, home: &Home, sites: &[&Portion], text: &str) -> Edit {
    let (t, class) = (&source.tree, home.class);
    let parent = class.or(home.nest).and_then(|c| t.child(c, crate::tree::Field::Body)).unwrap_or(Tree::ROOT);
    let (top, member) = source.lang.blank_lines();
    let custom = if class.is_some() { member } else { top };
    let outside = |s: &&&Portion| !t.contains(parent, s.region.first);
    let first = sites.iter().min_by_key(|s| (outside(s), s.region.first)).expect("a home has a site");
    let anchor = statement_in(t, parent, first.region.first).unwrap_or(first.function);
    // values and constants stand before the methods
    let field = class.is_some() && t.role(anchor) == Role::ClassField;
    let anchor = t.children(parent).last().filter(|_| field).unwrap_or(anchor);
    let blank = blank_after(source, parent, anchor).unwrap_or(custom);
    let gap = "\n".repeat(blank + 1);
    if home.nest.is_some() {
        // there before anything can call it
        let start = comments_above(source, line_start(&source.text, t.span(anchor).start));
        return Edit::new(start, start, format!("{text}\n"));
    }
    let anchor = if parent == Tree::ROOT { among_code(source, anchor) } else { anchor };
    let later = source.lang.functions_come_first() && sites.iter().all(|s| s.function != Tree::ROOT);
    let before = || !t.role(anchor).is_definition() || used_while_defining(source, anchor, sites);
    let early = class.is_none() && !later && (source.lang.declares_before_use() || before());
    let end = line_end(source, t.span(anchor).end);
    // what is around it may end on the same line
    let end = if parent != Tree::ROOT && t.span(parent).end <= end { t.span(anchor).end } else { end };
    if early || source.lang.is_text(source, end) {
        let start = line_start(&source.text, t.span(anchor).start);
        let start = comments_above(source, start);
        let above = &source.text[..start];
        let blanks_above = above.lines().rev().take_while(|l| l.trim().is_empty()).count();
        let missing = if above.trim().is_empty() { 0 } else { blank.saturating_sub(blanks_above) };
        return Edit::new(start, start, format!("{}{text}{}", "\n".repeat(missing), "\n".repeat(blank)));
    }
    Edit::new(end, end, format!("{gap}{}", text.trim_end_matches('\n')))
}

/// The statement, or where that stands on a line with text which is no code, the nearest one that does not.
fn among_code(s: &Source, anchor: NodeId) -> NodeId {
    let t = &s.tree;
    let is_code = |n: &NodeId| {
        let can = !matches!(t.role(*n), Role::FrameName | Role::Doc);
        can && !s.lang.is_text(s, line_start(&s.text, t.span(*n).start))
    };
    let (before, behind): (Vec<NodeId>, Vec<NodeId>) = t.children(Tree::ROOT).partition(|n| *n <= anchor);
    before.into_iter().rev().chain(behind).find(is_code).unwrap_or(anchor)
}

/// Blank lines between a definition and its neighbour.
fn blank_after(source: &Source, parent: NodeId, anchor: NodeId) -> Option<usize> {
    let t = &source.tree;
    let siblings: Vec<NodeId> = t.children(parent).collect();
    let at = siblings.iter().position(|s| *s == anchor)?;
    let pair = match (siblings.get(at + 1), at.checked_sub(1).map(|i| siblings[i])) {
        (Some(next), _) if t.role(*next).is_definition() => (anchor, *next),
        (_, Some(before)) if t.role(before).is_definition() => (before, anchor),
        _ => return None,
    };
    let between = &source.text[t.span(pair.0).end..t.span(pair.1).start];
    let blank = between.lines().skip(1).take_while(|l| l.trim().is_empty()).count();
    let ended = between.lines().last().is_some_and(|l| l.trim().is_empty());
    let only_blank = between.trim().is_empty();
    Some(if only_blank && ended { blank.min(between.matches('\n').count().saturating_sub(1)) } else { blank })
}

/// A class body that calls the very function while the class is being made.
fn used_while_defining(source: &Source, anchor: NodeId, sites: &[&Portion]) -> bool {
    let t = &source.tree;
    let called = |b: BindingId| {
        source.names.references_to(b).any(|r| {
            r.usage.reads()
                && t.contains(anchor, r.node)
                && source.names.scope(r.scope).kind == crate::names::ScopeKind::Class
        })
    };
    sites.iter().any(|s| {
        let name = t.child(s.function, crate::tree::Field::Name);
        name.and_then(|n| source.names.at(n)).and_then(|r| r.target).is_some_and(called)
    })
}
