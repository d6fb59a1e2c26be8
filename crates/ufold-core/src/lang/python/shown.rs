//! What a notebook shows: the value of the expression that a cell ends with.

use super::cells::begins_cell;
use crate::tree::{Field, NodeId, Role, Tree};

/// Calls that give nothing, so that nothing is shown.
const SILENT: &[&str] = &["print", "display"];

pub fn is_shown(t: &Tree, text: &str, statement: NodeId) -> bool {
    if t.parent(statement) != Some(Tree::ROOT) || t.role(statement) != Role::ExprStmt {
        return false;
    }
    let Some(value) = t.children(statement).next().filter(|v| t.role(*v) != Role::Assign) else { return false };
    let callee = t.child(value, Field::Callee).map_or("", |c| t.text(c, text));
    let changes = matches!(t.role(value), Role::AugAssign | Role::Yield);
    let silenced = text[t.span(statement).end..].lines().next().is_some_and(|l| l.trim_start().starts_with(';'));
    if SILENT.contains(&callee) || changes || silenced {
        return false;
    }
    let end = t.span(statement).end;
    let next = t.children(Tree::ROOT).find(|c| *c > statement).map_or(text.len(), |n| t.span(n).start);
    let border = |c: &&crate::text::Span| begins_cell(&text[c.start..c.end]) && (end..next).contains(&c.start);
    next == text.len() || t.comments().iter().any(|c| border(&c))
}
