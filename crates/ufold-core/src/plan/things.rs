//! What belongs together in a run of statements: those that have variables in common to which one of them gives something.
//!
//! Two things that share such a variable are taken for one, and so are those that only look at the same. What is built
//! through an object, not by a variable, is not seen.

use rustc_hash::FxHashMap;

use crate::names::{BindingId, Source};
use crate::tree::{Field, NodeId, Role};

/// Lines under which statements are no thing of their own.
const FEWEST_LINES: usize = 3;

/// The variables of each statement: those it uses, and those it gives a value or puts something into.
#[derive(Default)]
pub(crate) struct Shared(FxHashMap<NodeId, (Vec<BindingId>, Vec<BindingId>)>);

impl Shared {
    fn of(&mut self, s: &Source, statement: NodeId) -> &(Vec<BindingId>, Vec<BindingId>) {
        self.0.entry(statement).or_insert_with(|| {
            let all = s.names.in_range(statement, s.tree.end(statement));
            let given = all.iter().filter(|r| r.usage.writes() || is_worked_on(s, r.node));
            let given = given.filter_map(|r| r.target).collect();
            (all.iter().filter_map(|r| r.target).collect(), given)
        })
    }
}

/// The things that neighbours do, in the order in which they begin; small ones go with what stands above.
pub(crate) fn things(s: &Source, all: &[NodeId], shared: &mut Shared) -> Vec<Vec<NodeId>> {
    let t = &s.tree;
    let given: Vec<BindingId> = all.iter().flat_map(|n| shared.of(s, *n).1.clone()).collect();
    let common: Vec<Vec<BindingId>> =
        all.iter().map(|n| shared.of(s, *n).0.iter().copied().filter(|b| given.contains(b)).collect()).collect();
    let mut thing: Vec<usize> = (0..all.len()).collect();
    for j in 0..all.len() {
        for i in 0..j {
            if thing[i] != thing[j] && common[i].iter().any(|b| common[j].contains(b)) {
                let (from, to) = (thing[j].max(thing[i]), thing[j].min(thing[i]));
                thing.iter_mut().filter(|x| **x == from).for_each(|x| *x = to);
            }
        }
    }
    let mut out: Vec<(usize, Vec<NodeId>)> = Vec::new();
    for (k, n) in thing.into_iter().zip(all) {
        match out.iter_mut().find(|(own, _)| *own == k) {
            Some((_, list)) => list.push(*n),
            None => out.push((k, vec![*n])),
        }
    }
    let mut gives = |list: &[NodeId]| list.iter().any(|n| !shared.of(s, *n).1.is_empty());
    let lines_of = |n: &NodeId| s.lines.line(t.span(*n).end.max(1) - 1) + 1 - s.line(*n);
    let lines = |list: &[NodeId]| list.iter().map(lines_of).sum::<usize>();
    let mut things: Vec<Vec<NodeId>> = Vec::new();
    for (_, list) in out {
        let small = |list: &[NodeId]| lines(list) < FEWEST_LINES;
        match things.last_mut().filter(|above| small(&list) || small(above) || !gives(&list) || !gives(above)) {
            Some(above) => above.extend(list),
            None => things.push(list),
        }
    }
    things.iter_mut().for_each(|list| list.sort());
    things
}

/// The things that a loop's body does.
pub(crate) fn things_of_loop(s: &Source, l: NodeId, shared: &mut Shared) -> Vec<Vec<NodeId>> {
    let t = &s.tree;
    let Some(body) = t.child(l, Field::Body).filter(|b| t.role(*b) == Role::Block) else { return Vec::new() };
    let all: Vec<NodeId> = t.children(body).filter(|c| t.role(*c) != Role::Token).collect();
    things(s, &all, shared)
}

/// The object of a call that is a statement, or of an assignment to a member or element: what is built there.
fn is_worked_on(s: &Source, name: NodeId) -> bool {
    let t = &s.tree;
    let Some(p) = t.parent(name).filter(|p| t.child(*p, Field::Object) == Some(name)) else { return false };
    let called = || t.parent(p).filter(|c| t.field(p) == Field::Callee && t.role(*c) == Role::Call);
    let statement = called().and_then(|c| t.parent(c)).is_some_and(|e| t.role(e) == Role::ExprStmt);
    statement || t.field(p) == Field::Left
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::tree::Tree;

    /// Lines on which the statements of each thing begin.
    fn told(text: &str) -> Vec<Vec<usize>> {
        let lang = crate::lang::for_path("a.py").expect("a language");
        let s = Source::new("a.py", text.into(), lang, None).expect("it parses");
        let all: Vec<NodeId> = s.tree.children(Tree::ROOT).collect();
        let things = things(&s, &all, &mut Shared::default());
        things.iter().map(|list| list.iter().map(|n| s.line(*n)).collect()).collect()
    }

    #[test]
    fn what_shares_a_variable_is_one_thing() {
        let due = "due = tons * rate\nif due > 100:\n    due = due - 5\n";
        let label = "label = name.strip()\nif label == \"?\":\n    label = \"none\"\n";
        let cases = [
            ("two things", format!("{due}{label}"), vec![vec![1, 2], vec![4, 5]]),
            (
                "both put something into one list",
                format!("rows = []\n{due}rows.append(due)\n{label}rows.append(label)\n"),
                vec![vec![1, 2, 3, 5, 6, 7, 9]],
            ),
            (
                "mixed",
                "due = tons\nlabel = name\nif due:\n    due = 1\nif label:\n    label = 2\n".into(),
                vec![vec![1, 3], vec![2, 5]],
            ),
            (
                "both only look at the same",
                format!("{due}{}", label.replace("name", "tons")),
                vec![vec![1, 2], vec![4, 5]],
            ),
            ("a small one goes with what stands above", format!("{due}count = 1\n"), vec![vec![1, 2, 4]]),
            ("what gives nothing is no thing", format!("{due}if tons:\n    go()\n    stop()\n"), vec![vec![1, 2, 4]]),
        ];
        for (what, text, expected) in cases {
            assert_eq!(told(&text), expected, "{what}");
        }
    }
}
