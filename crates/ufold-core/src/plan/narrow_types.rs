//! Whether code counts on what conditions before it tell of a variable or a member, which a function of its own would not
//! know: then that is passed, or the plan is refused.

use crate::align::Aligned;
use crate::change::{Code, Reason, reason};
use crate::index::Project;
use crate::index::unseen::definition_of;
use crate::names::{BindingId, Names, ScopeKind, Source};
use crate::plan::literal_types::{is_fixed, is_own_type_used};
use crate::plan::region::Portion;
use crate::tree::{Field, NodeId, Role};
use crate::types::Ty;

/// A call in a region after which a variable has a narrower type, which ends with the new function while the variable is
/// used further on.
pub fn narrowed_by_call(project: &Project, site: &Portion) -> Option<Reason> {
    let s = site.source();
    let t = &s.tree;
    if !s.lang.needs_types() {
        return None;
    }
    let end = t.end(site.function);
    let statements = (site.region.first.0..site.region.end().0).map(NodeId).filter(|n| t.role(*n) == Role::ExprStmt);
    for call in statements.filter_map(|x| t.children(x).find(|c| t.role(*c) == Role::Call)) {
        let Some(callee) = t.child(call, Field::Callee) else { continue };
        let word = s.str(callee).rsplit('.').next().unwrap_or("").to_ascii_lowercase();
        let defined = definition_of(project, s, callee);
        let result =
            defined.as_ref().map(|(home, f)| home.tree.child(*f, Field::ReturnType).map_or("", |r| home.str(r)));
        let narrows = s.lang.narrows(&word, result);
        let given = s.names.in_range(call, t.end(call)).iter().filter_map(|r| r.target);
        let later = |b: BindingId| s.names.in_range(site.region.end(), end).iter().any(|r| r.target == Some(b));
        if let Some(b) = given
            .into_iter()
            .find(|b| s.names.scope(s.names.binding(*b).scope).kind != ScopeKind::Module && later(*b))
            .filter(|_| narrows)
        {
            let message = format!(
                "`{}` gets a narrower type here, which would end with the new function",
                s.names.binding(b).name
            );
            return Some(reason(s, call, Code::NarrowedHere, message));
        }
    }
    None
}

/// The aligned copies, with members that a condition before them tells more of as holes: so they are passed as what they
/// are known to be.
pub fn passed_whole(project: &Project, sites: &[Portion], aligned: Vec<Aligned>) -> Vec<Aligned> {
    if !sites[0].source().lang.needs_types() {
        return aligned;
    }
    let definitions = |s: &Source, name: &str| project.definition(s, name);
    let is_told = |(site, n): (&Portion, &NodeId)| {
        let s = site.source();
        let object = s.tree.child(*n, Field::Object).filter(|_| s.tree.role(*n) == Role::Member);
        let read = s.tree.field(*n) != Field::Left;
        object.is_some_and(|_| {
            read && !may_be_changed(site, *n)
                && s.lang.told_before(s, *n, site.region.first, &definitions).is_some_and(Ty::is_known)
        })
    };
    let mut out: Vec<Aligned> = Vec::new();
    // of each row, its place among those that are left
    let mut places: Vec<Option<usize>> = Vec::new();
    for row in aligned {
        let parent = row.parent.map(|p| places[p].filter(|p| !out[*p].differs));
        if parent == Some(None) {
            places.push(None);
            continue;
        }
        places.push(Some(out.len()));
        let is_told = sites.iter().zip(&row.nodes).all(is_told);
        out.push(Aligned { parent: parent.flatten(), differs: row.differs || is_told, is_told, ..row });
    }
    out
}

/// Whether others get the object of a member while the code runs, or the code writes members of it.
fn may_be_changed(site: &Portion, member: NodeId) -> bool {
    let s = site.source();
    let t = &s.tree;
    let objects = std::iter::successors(Some(member), |n| t.child(*n, Field::Object));
    let Some(root) = objects.last().and_then(|r| s.names.at(r)?.target) else { return true };
    s.names.in_range(site.region.first, site.region.end()).iter().filter(|r| r.target == Some(root)).any(|r| {
        let step =
            t.parent(r.node).filter(|p| t.role(*p) == Role::Member && t.child(*p, Field::Object) == Some(r.node));
        step.is_none_or(|m| matches!(t.field(m), Field::Left | Field::Callee))
    })
}

/// Something that a condition before the code has told, and that the code counts on: the function is typed without it.
pub fn told_before(project: &Project, site: &Portion, passed: &[NodeId]) -> Option<Reason> {
    let s = site.source();
    let t = &s.tree;
    if !s.lang.needs_types() {
        return None;
    }
    let definitions = |s: &Source, name: &str| project.definition(s, name);
    let (first, end) = (site.region.first, site.region.end());
    let made_here = |b: BindingId| (first.0..end.0).contains(&s.names.binding(b).first.0);
    let all = s.names.in_range(first, end);
    if let Some(r) = all.iter().find(|r| r.target.is_some_and(|b| is_type_too(s, b))) {
        let message = format!("`{}` is a type and a value here, which are not told apart", s.str(r.node));
        return Some(reason(s, r.node, Code::DeclaredHere, message));
    }
    for r in all.iter().filter(|r| r.target.is_some_and(|b| !made_here(b))) {
        for path in paths_from(s, r.node).take_while(|p| *p >= first) {
            if passed.iter().any(|h| t.contains(*h, path)) {
                continue;
            }
            let Some(told) = s.lang.told_before(s, path, first, &definitions) else { continue };
            let general = s.lang.general(told);
            let text = s.lang.spell(general, s, &definitions).filter(|_| general != told);
            if text.is_some_and(|text| !is_own_type_used(project, s, path, &text)) {
                continue;
            }
            let message = format!("the code counts on what a condition before it tells of `{}`", s.str(path));
            return Some(reason(s, path, Code::ToldBefore, message));
        }
    }
    None
}

/// A path in code that becomes a function of its own at the site, of which more is told there than in such a function.
pub fn forgotten_inside(project: &Project, site: &Portion, node: NodeId) -> Option<NodeId> {
    let s = site.source();
    let t = &s.tree;
    let definitions = |s: &Source, name: &str| project.definition(s, name);
    let fixed = |b: BindingId| t.parent(s.names.binding(b).first).is_some_and(|a| is_fixed(s, a));
    s.names.in_range(node, t.end(node)).iter().find_map(|r| {
        let mut paths = paths_from(s, r.node).take_while(|p| *p >= node);
        paths.find(|p| {
            let kept = *p == r.node && r.target.is_some_and(fixed);
            !kept && s.lang.told_before(s, *p, site.region.first, &definitions).is_some()
        })
    })
}

/// A name, its member, the member of that, and so on.
fn paths_from(s: &Source, name: NodeId) -> impl Iterator<Item = NodeId> + '_ {
    let t = &s.tree;
    std::iter::successors(Some(name), |n| t.parent(*n).filter(|p| t.child(*p, Field::Object) == Some(*n)))
}

/// A local that is declared as a type, and as something else.
fn is_type_too(s: &Source, b: BindingId) -> bool {
    let scope = s.names.binding(b).scope;
    let writes = || s.names.references_to(b).filter(|r| r.usage.writes());
    let of_type =
        |r: &crate::names::Reference| s.tree.parent(r.node).is_some_and(|d| s.tree.role(d) == Role::TypeAlias);
    scope != Names::MODULE && writes().any(of_type) && !writes().all(of_type)
}
