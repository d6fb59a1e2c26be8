//! First statements that only give locals the values that the sites pass: the parameters take the locals' names.
//!
//! `tons = 3` in one copy and `tons = 5` in another become `f(3)` and `f(5)`, with a parameter `tons`. The values are
//! computed in the same order as before, and nothing stands between. Not where a comment would go, where the declaration
//! says another type than the parameter has, or where the value is used a second time.

use crate::align::Aligned;
use crate::plan::general::{General, Parameter};
use crate::plan::region::Portion;
use crate::tree::{Field, NodeId, Role};

/// Numbers of the parameters whose locals they become, in the order of the statements.
pub(crate) fn given_first(
    sites: &[Portion],
    aligned: &[Aligned],
    template: usize,
    general: &General,
    types: Option<&[String]>,
) -> Vec<usize> {
    let site = &sites[template];
    let (s, t) = (site.source(), &site.source().tree);
    let mut out: Vec<usize> = Vec::new();
    if site.region.is_expression || general.optional.is_some() {
        return out;
    }
    let statements = site.region.statements();
    for (at, statement) in statements.iter().enumerate().take(statements.len() - 1) {
        let Some((left, right)) = plain_assignment(site, *statement) else { break };
        let stands_for = |p: &Parameter| {
            let [one] = p.places[..] else { return false };
            let plain = p.variable.is_none() && p.callable.is_none() && p.derived.is_empty();
            plain && aligned[one].nodes[template] == right
        };
        let Some(i) = general.parameters.iter().position(stands_for) else { break };
        let said = t.child(*statement, Field::Type).map(|n| s.str(n));
        let typed = said.is_none_or(|word| types.is_some_and(|all| all[i] == word));
        // the same order of evaluation
        let in_order = out.last().is_none_or(|before| *before < i);
        let next = t.span(statements[at + 1]).start;
        let lines = t.span(*statement).start..next;
        let comment = t.comments().iter().any(|c| c.start >= lines.start && c.start < lines.end);
        let place = aligned.iter().find(|a| a.nodes[template] == left);
        let own = place.is_some_and(|p| sites.iter().zip(&p.nodes).all(|(x, n)| is_own(x, *n)));
        if !typed || !in_order || comment || !own {
            break;
        }
        out.push(i);
    }
    out
}

/// Name of the local that a parameter becomes, and whether it gets other values.
pub(crate) fn local_of(site: &Portion, aligned: &[Aligned], template: usize, p: &Parameter) -> Option<(String, bool)> {
    let (s, t) = (site.source(), &site.source().tree);
    let left = t.child(t.parent(aligned[p.places[0]].nodes[template])?, Field::Left)?;
    let binding = s.names.binding(s.names.at(left)?.target?);
    Some((binding.name.clone(), binding.writes > 1))
}

/// `x = value`, as a statement or as a declaration of one name.
fn plain_assignment(site: &Portion, statement: NodeId) -> Option<(NodeId, NodeId)> {
    let t = &site.source().tree;
    if !matches!(t.role(statement), Role::ExprStmt | Role::Declare) {
        return None;
    }
    let mut parts = t.children(statement).filter(|c| t.role(*c) != Role::Token && t.field(*c) != Field::Type);
    let assign = parts.next().filter(|a| parts.next().is_none() && t.role(*a) == Role::Assign)?;
    let left = t.child(assign, Field::Left).filter(|l| t.role(*l) == Role::Name && t.is_leaf(*l))?;
    let right = t.child(assign, Field::Right)?;
    (t.child(assign, Field::Type).is_none() && t.children(assign).count() == 2).then_some((left, right))
}

/// The local begins here in this copy too, and the rest of it reads the local.
fn is_own(site: &Portion, name: NodeId) -> bool {
    let s = site.source();
    let Some(b) = s.names.at(name).and_then(|r| r.target) else { return false };
    let inside = || s.names.references_to(b).filter(|r| site.region.contains(r.node));
    let first = inside().map(|r| r.node).min() == Some(name);
    let declared = !s.lang.declares_locals() || site.declarations(b).iter().any(|d| d.1);
    first && declared && site.is_written(b) && !site.flow.ins.contains(&b) && inside().any(|r| r.usage.reads())
}
