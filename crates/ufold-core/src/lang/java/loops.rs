//! Loops over arrays and numbers.

use crate::lang::written::{counted_head, list_of_rows};
use crate::lang::{Listed, LoopText, Loops};
use crate::names::Source;
use crate::tree::NodeId;

pub struct Arrays;

impl Loops for Arrays {
    fn over_list(&self, _s: &Source, list: &Listed, unit: &str, width: usize) -> Option<LoopText> {
        let Listed { names, rows, .. } = *list;
        // of several values a type of its own would have to be made
        let [name] = names else { return None };
        let text = |v: &String| v.starts_with('"') && !v.starts_with("\"\"\"");
        let number = |v: &String| v.chars().all(|c| c.is_ascii_digit()) && v.parse::<i32>().is_ok();
        let all: Vec<&String> = rows.iter().map(|r| &r.values[0]).collect();
        let of_type = match () {
            _ if all.iter().all(|v| text(v)) => "String",
            _ if all.iter().all(|v| number(v)) => "int",
            _ => return None,
        };
        let rows: Vec<(String, Option<String>)> =
            rows.iter().map(|r| (r.values[0].clone(), r.comment.clone())).collect();
        let head = format!("for ({of_type} {name} : new {of_type}[] {{");
        Some((list_of_rows(&head, "}) {", &rows, unit, width), "}".into()))
    }

    fn counted(&self, s: &Source, loop_: NodeId, name: &str) -> Option<(i64, i64)> {
        counted_head(s, loop_, name, &["int"])
    }

    fn counting(&self, _s: &Source, name: &str, first: i64, last: i64) -> Option<LoopText> {
        let head = format!("for (int {name} = {first}; {name} <= {last}; {name}++) {{");
        i32::try_from(last).is_ok().then_some((head, "}".into()))
    }
}
