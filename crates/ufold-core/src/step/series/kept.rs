//! Variables of the copies that code behind them uses (`level1`, `level2` …): each turn puts its value into a list.
//!
//! The code behind keeps its names, taken out of the list at once, or has the list's elements where that changes less. It
//! runs when all copies have run, or not at all: it stands behind them in their block, and in no function of its own.
//! Where not all copies' variables are used, a list says too much: that is refused.

use super::column_names::Chosen;
use super::table::{Local, Table};
use crate::index::Project;
use crate::lang::{Gathering, Loops};
use crate::names::{BindingId, Source, Use};
use crate::text::Edit;
use crate::tree::{Field, NodeId, Role};

/// How the lists are written.
#[derive(Default)]
pub(super) struct Lists {
    /// Lines before the loop and behind it.
    pub before: Vec<String>,
    pub behind: Vec<String>,
    /// Lines at the end of a turn.
    pub in_turn: Vec<String>,
    /// Edits in the first copy: what is put into a list where it is computed.
    pub computed: Vec<Edit>,
    /// Edits behind the copies: elements for names.
    pub elsewhere: Vec<Edit>,
}

/// The lists of all such variables; none where the language can't write one.
pub(super) fn lists(project: &Project, s: &Source, loops: &dyn Loops, table: &Table, names: &Chosen) -> Option<Lists> {
    let mut out = Lists::default();
    let kept = table.locals.iter().zip(&names.locals).filter(|(l, _)| l.kept);
    for ((local, name), list) in kept.zip(&names.lists) {
        let end = table.end(s);
        let own = |b: BindingId| s.names.references_to(b).filter(move |r| r.node >= end);
        let uses: Vec<Vec<NodeId>> = local.bindings.iter().map(|b| own(*b).map(|r| r.node).collect()).collect();
        let behind: Vec<String> = local.bindings.iter().map(|b| s.names.binding(*b).name.clone()).collect();
        let rebound = local.bindings.iter().any(|b| own(*b).any(|r| r.usage != Use::Read));
        let of_type = type_of(project, s, loops, local);
        let written = loops.gathering(s, &Gathering { list, of_type: of_type.as_deref(), names: &behind, rebound })?;
        out.before.push(written.made);
        match computed(s, local.bindings[0], (table.first(), table.row_end(s)), &written.added) {
            Some(edits) => out.computed.extend(edits),
            None => out.in_turn.push(format!("{}{name}{}{}", written.added.0, written.added.1, written.end)),
        }
        let few = uses.iter().flatten().count() <= table.rows.len();
        if few && !rebound && !s.lang.needs_types() && uses.iter().flatten().all(|n| is_plain(s, *n)) {
            for (i, n) in uses.iter().enumerate().flat_map(|(i, all)| all.iter().map(move |n| (i, *n))) {
                let span = s.tree.span(n);
                out.elsewhere.push(Edit::new(span.start, span.end, format!("{list}[{i}]")));
            }
        } else {
            out.behind.push(written.taken);
        }
    }
    Some(out)
}

/// The type of a variable, where the language writes those of lists and an element is of that type, too.
fn type_of(project: &Project, s: &Source, loops: &dyn Loops, local: &Local) -> Option<String> {
    let missing = |setting: &str| !project.mentions(setting, &[setting.to_string()]).is_empty();
    if !s.lang.needs_types() || loops.missing_elements().is_some_and(missing) {
        return None;
    }
    let definitions = |s: &Source, name: &str| project.definition(s, name);
    let of = |b: &BindingId| {
        let first = s.names.binding(*b).first;
        s.lang.spell(s.lang.type_of(s, first, &definitions), s, &definitions)
    };
    let first = of(&local.bindings[0])?;
    local.bindings.iter().all(|b| of(b).as_ref() == Some(&first)).then_some(first)
}

/// A variable that its copy only gives a value: that goes into the list where it is computed.
fn computed(s: &Source, b: BindingId, (first, end): (NodeId, NodeId), added: &(String, String)) -> Option<Vec<Edit>> {
    let t = &s.tree;
    if s.names.references_to(b).filter(|r| r.node >= first && r.node < end).count() != 1 {
        return None;
    }
    let name = s.names.binding(b).first;
    let assign = t.ancestors(name).find(|a| t.role(*a) == Role::Assign)?;
    let statement = t.ancestors(name).find(|a| t.parent(*a).is_some_and(|p| t.role(p).is_sequence()))?;
    let alone = t.subtree(statement).filter(|n| t.role(*n) == Role::Assign).count() == 1;
    let value = t.child(assign, Field::Right)?;
    let fits = !matches!(t.role(value), Role::Tuple | Role::Yield | Role::NamedExpr | Role::Spread | Role::Assign);
    if !alone || !fits || t.child(assign, Field::Type).is_some() {
        return None;
    }
    let value = t.span(value);
    let head = Edit::new(t.span(statement).start, value.start, added.0.clone());
    Some(vec![head, Edit::new(value.end, value.end, added.1.clone())])
}

/// An element can stand where the name does.
fn is_plain(s: &Source, n: NodeId) -> bool {
    use Role::*;
    let t = &s.tree;
    let Some(p) = t.parent(n) else { return false };
    let place = matches!(t.role(p), Arguments | BinaryOp | Compare | BoolOp | Return | Member | Index | Conditional)
        || matches!(t.role(p), UnaryOp | List | Tuple | If | While)
        || t.role(p) == Assign && t.field(n) == Field::Right;
    let shortly = t.span(p) == t.span(n) && t.role(p) == Pair;
    place && !shortly && t.field(n) != Field::Callee && t.ancestor(n, &[Template]).is_none()
}
