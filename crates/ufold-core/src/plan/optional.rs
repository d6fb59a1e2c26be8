//! A statement that some copies have and others lack: the sites that have it pass it as a function, or a flag says
//! whether to run it.
//!
//! Right for one such statement that writes no local of the code. Anything wider is left to the parts around it, which
//! can be folded by themselves.

use crate::align::Gap;
use crate::names::{BindingId, Names};
use crate::plan::callable::Callable;
use crate::plan::general::{NamesSeen, Optional};
use crate::plan::region::Portion;
use crate::tree::{Field, NodeId, Role};

/// The statement as a function that the sites with it pass.
pub fn as_function(gap: &Gap, travels: &Callable) -> Option<Optional> {
    let statement = gap.nodes[travels.template]?;
    let call = |(s, n): (&Portion, &Option<NodeId>)| -> Option<Option<NodeId>> {
        let t = &s.source().tree;
        let Some(n) = *n else { return Some(None) };
        let only = t.children(n).find(|c| t.role(*c) != Role::Token)?;
        (t.role(n) == Role::ExprStmt && t.role(only) == Role::Call).then_some(Some(only))
    };
    let calls: Option<Vec<Option<NodeId>>> = travels.sites.iter().zip(&gap.nodes).map(call).collect();
    let t = travels.of(&calls?)?;
    Some(Optional { statement, arguments: t.arguments, passed: t.passed, is_flag: false })
}

/// A flag for a statement that is the same in all copies that have it.
pub fn as_flag(gap: &Gap, sites: &[Portion], template: usize, names: &NamesSeen) -> Option<Optional> {
    let statement = gap.nodes[template]?;
    let first = &sites[template];
    let same = |(s, n): (usize, &Option<NodeId>)| {
        n.is_none_or(|n| {
            let own = &sites[s];
            own.source().tree.exact(n) == first.source().tree.exact(statement)
                && stays_inside(own, n)
                && own.source().path == first.source().path
                && (s == template || same_locals(names, s, template, own, n))
        })
    };
    let one_line = !first.source().str(statement).contains('\n');
    if !gap.nodes.iter().enumerate().all(same) || !uses_own_only(first, statement) || !one_line {
        return None;
    }
    let lang = first.source().lang;
    let arguments = gap.nodes.iter().map(|n| Some(lang.truth(n.is_some()).to_string())).collect();
    Some(Optional { statement, arguments, passed: Vec::new(), is_flag: true })
}

/// It neither leaves nor writes anything that the code or its function knows.
fn stays_inside(site: &Portion, node: NodeId) -> bool {
    let (s, t) = (site.source(), &site.source().tree);
    use Role::*;
    let leaves = |n: NodeId| {
        matches!(t.role(n), Return | Break | Continue | Jump | Yield | Await | AsyncMark | NamedExpr | Raise)
    };
    let written = s.names.in_range(node, t.end(node)).iter().any(|r| r.usage.writes());
    !written && !t.subtree(node).any(leaves)
}

/// Names of the module, and locals that the code itself gives their values.
fn uses_own_only(site: &Portion, node: NodeId) -> bool {
    let (s, t) = (site.source(), &site.source().tree);
    let inside = |b: BindingId| t.contains(node, s.names.scope(s.names.binding(b).scope).node);
    let own = |b: BindingId| site.is_written(b) && !site.flow.ins.contains(&b);
    s.names.in_range(node, t.end(node)).iter().all(|r| {
        r.target.is_none_or(|b| s.names.binding(b).scope == Names::MODULE || inside(b) || own(b))
            && !s.lang.is_frame_name(s.str(r.node))
    }) && !t.subtree(node).any(|n| t.role(n) == Role::FrameName || t.field(n) == Field::Label)
}

/// Its locals are those of the template by the renaming of the code around it.
fn same_locals(names: &NamesSeen, s: usize, template: usize, site: &Portion, node: NodeId) -> bool {
    let source = site.source();
    let first = |of: usize, b: BindingId| if of == 0 { Some(b) } else { names.back[of].get(&b).copied() };
    let there = |f: BindingId| if template == 0 { Some(f) } else { names.forth[template].get(&f).copied() };
    source.names.in_range(node, source.tree.end(node)).iter().all(|r| {
        let Some(b) = r.target.filter(|b| site.is_written(*b)) else { return true };
        first(s, b).and_then(there).is_some_and(|t| source.names.binding(t).name == source.names.binding(b).name)
    })
}
