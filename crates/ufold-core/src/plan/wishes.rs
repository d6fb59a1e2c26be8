//! What a person wishes of a plan's names: the function's, and those of its parameters and their order.

use rustc_hash::FxHashMap;

use crate::names::{Names, Source};
use crate::plan::general::General;
use crate::plan::region::Portion;
use crate::tree::{Field, NodeId, Role};

/// Whether a new function's name would mean something, or hide something, where a site and its module see it. Locals of
/// functions that do not call it, and texts, are in nobody's way.
pub fn is_taken(sites: &[Portion], name: &str, member: bool) -> bool {
    let mut words: FxHashMap<&str, Vec<NodeId>> = FxHashMap::default();
    sites.iter().any(|site| {
        let (s, t) = (site.source(), &site.source().tree);
        let is_word = |n: &NodeId| t.is_leaf(*n) && s.str(*n) == name;
        let own = words.entry(&s.path).or_insert_with(|| t.ids().filter(is_word).collect());
        own.iter().any(|n| is_in_the_way(site, *n, member))
    })
}

/// Whether a word at a node would mean something else, or be meant by something else, at a site.
fn is_in_the_way(site: &Portion, n: NodeId, member: bool) -> bool {
    let (s, t) = (site.source(), &site.source().tree);
    match t.role(n) {
        Role::Name => {
            let Some(r) = s.names.at(n) else { return true };
            let Some(b) = r.target else { return true };
            let home = s.names.scope(s.names.binding(b).scope).node;
            // a local of a function that holds no copy
            s.names.binding(b).scope == Names::MODULE
                || t.contains(home, site.function)
                || t.contains(site.function, home)
        }
        Role::MemberName => {
            member || s.lang.is_exports(t.parent(n).and_then(|p| t.child(p, Field::Object)).map_or("", |o| s.str(o)))
        }
        _ => false,
    }
}

/// The order that given names ask for, as places in the derived one; none when they only rename. A name that the
/// function has is that parameter, wherever it stands; one new name among them is the one that is left.
pub fn wished_order(given: &[String], derived: &[String], parameters: usize) -> Result<Option<Vec<usize>>, String> {
    let place = |g: &String| derived.iter().position(|d| d == g);
    let moved = given.iter().enumerate().any(|(i, g)| place(g).is_some_and(|p| p != i));
    if !moved || given.len() != derived.len() {
        return Ok(None);
    }
    let mut left: Vec<usize> = (0..derived.len()).filter(|i| !given.contains(&derived[*i])).collect();
    if left.len() > 1 {
        let names: Vec<&str> = left.iter().map(|i| derived[*i].as_str()).collect();
        return Err(format!(
            "which of the new names is for {} can't be told; move or rename in two steps",
            names.join(", ")
        ));
    }
    let order: Vec<usize> = given.iter().filter_map(|g| place(g).or_else(|| left.pop())).collect();
    match order.get(parameters..).is_some_and(|rest| rest.iter().enumerate().all(|(i, p)| *p == parameters + i)) {
        true => Ok(Some(order[..parameters].to_vec())),
        false => Err("the parameter that calls may leave out stays the last one".into()),
    }
}

pub fn check_given(given: &[String], derived: &[String], general: &General, source: &Source) -> Result<(), String> {
    if given.len() != derived.len() {
        return Err(format!("the function has {} parameters, the request names {}", derived.len(), given.len()));
    }
    for (i, g) in given.iter().enumerate() {
        if !source.lang.is_identifier(g) || given[..i].contains(g) {
            return Err(format!("`{g}` is no name for a parameter, or is given twice"));
        }
        if general.parameters.get(i).is_some_and(|p| p.variable.is_some()) && *g != derived[i] {
            return Err(format!("`{}` is written by the code and keeps its name", derived[i]));
        }
    }
    Ok(())
}
