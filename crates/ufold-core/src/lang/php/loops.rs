//! Loops over arrays that are written out, and over numbers.

use crate::lang::written::{counted_head, list_of_rows};
use crate::lang::{Gathering, GatheringText, Listed, LoopText, Loops, Row};
use crate::names::Source;
use crate::tree::{Field, NodeId, Role};

pub struct Arrays;

impl Loops for Arrays {
    fn over_list(&self, _s: &Source, list: &Listed, unit: &str, width: usize) -> Option<LoopText> {
        let Listed { names, rows, .. } = *list;
        let several = names.len() > 1;
        let row = |r: &Row| if several { format!("[{}]", r.values.join(", ")) } else { r.values[0].clone() };
        let rows: Vec<(String, Option<String>)> = rows.iter().map(|r| (row(r), r.comment.clone())).collect();
        let left = if several { format!("[{}]", names.join(", ")) } else { names[0].clone() };
        Some((list_of_rows("foreach ([", &format!("] as {left}) {{"), &rows, unit, width), "}".into()))
    }

    fn goes_through(&self, s: &Source, loop_: NodeId) -> Option<(NodeId, NodeId)> {
        let t = &s.tree;
        let left = t.child(loop_, Field::Left).filter(|_| t.role(loop_) == Role::For)?;
        let right = t.child(loop_, Field::Right).filter(|r| t.role(*r) == Role::List)?;
        let plain = t.role(left) == Role::Name || s.str(left).starts_with('[');
        plain.then_some((left, right))
    }

    fn counted(&self, s: &Source, loop_: NodeId, name: &str) -> Option<(i64, i64)> {
        counted_head(s, loop_, name, &[""])
    }

    fn counting(&self, _s: &Source, name: &str, first: i64, last: i64) -> Option<LoopText> {
        Some((format!("for ({name} = {first}; {name} <= {last}; {name}++) {{"), "}".into()))
    }

    fn gathering(&self, _s: &Source, g: &Gathering) -> Option<GatheringText> {
        let list = g.list;
        Some(GatheringText {
            made: format!("{list} = [];"),
            added: (format!("{list}[] = "), String::new()),
            end: ";",
            taken: format!("[{}] = {list};", g.names.join(", ")),
        })
    }
}
