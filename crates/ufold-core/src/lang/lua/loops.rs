//! Loops over tables that are written out, and over numbers.

use crate::lang::written::list_of_rows;
use crate::lang::{Listed, LoopText, Loops, Row};
use crate::names::Source;
use crate::tree::{Field, NodeId, Role};

pub struct Tables;

/// A text or a number: what is nil ends a list.
fn is_something(value: &str) -> bool {
    value.starts_with(|c: char| c == '"' || c == '\'' || c.is_ascii_digit())
}

impl Loops for Tables {
    fn over_list(&self, s: &Source, list: &Listed, unit: &str, width: usize) -> Option<LoopText> {
        let Listed { names, rows, .. } = *list;
        // a row of several would have to be taken apart
        let own = s.names.bindings.iter().any(|b| b.name == "ipairs");
        if own || names.len() != 1 || !rows.iter().all(|r| r.values.iter().all(|v| is_something(v))) {
            return None;
        }
        let rows: Vec<(String, Option<String>)> =
            rows.iter().map(|r: &Row| (r.values[0].clone(), r.comment.clone())).collect();
        let head = list_of_rows(&format!("for _, {} in ipairs({{", names[0]), "}) do", &rows, unit, width);
        Some((head, "end".into()))
    }

    fn goes_through(&self, s: &Source, loop_: NodeId) -> Option<(NodeId, NodeId)> {
        let t = &s.tree;
        let left = t.child(loop_, Field::Left).filter(|l| t.role(*l) == Role::Pattern)?;
        let right = t.child(loop_, Field::Right)?;
        let callee = t.child(right, Field::Callee).filter(|c| s.str(*c) == "ipairs")?;
        s.names.at(callee).filter(|r| r.target.is_none())?;
        let [_, name] = t.children(left).collect::<Vec<_>>()[..] else { return None };
        let [list] = t.children(t.child(right, Field::Arguments)?).collect::<Vec<_>>()[..] else { return None };
        let whole = t.role(list) == Role::List && t.children(list).all(|v| is_something(s.str(v)));
        whole.then_some((name, list))
    }

    fn counting(&self, _s: &Source, name: &str, first: i64, last: i64) -> Option<LoopText> {
        Some((format!("for {name} = {first}, {last} do"), "end".into()))
    }

    fn counted(&self, s: &Source, loop_: NodeId, name: &str) -> Option<(i64, i64)> {
        let t = &s.tree;
        let left = t.child(loop_, Field::Left).filter(|l| t.role(loop_) == Role::For && s.str(*l) == name)?;
        let bounds = t.child(loop_, Field::Right)?;
        let between = s.text[t.span(left).end..t.span(bounds).start].trim();
        let (first, last) = s.str(bounds).split_once(',').filter(|_| between == "=")?;
        Some((first.trim().parse().ok()?, last.trim().parse().ok()?))
    }

    fn counter_is_fresh(&self, _s: &Source) -> bool {
        true
    }
}
