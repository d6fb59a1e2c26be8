//! Loops over arrays and numbers.

use crate::lang::written::{counted_head, list_of_rows};
use crate::lang::{Listed, LoopText, Loops};
use crate::names::Source;
use crate::tree::NodeId;

pub struct Arrays;

impl Loops for Arrays {
    fn over_list(&self, s: &Source, list: &Listed, unit: &str, width: usize) -> Option<LoopText> {
        let Listed { names, rows, .. } = *list;
        let column = |i: usize| rows.iter().map(|r| r.values[i].as_str()).collect::<Vec<_>>();
        let typed: Option<Vec<&str>> = (0..names.len()).map(|i| of_values(&column(i))).collect();
        let typed = typed?;
        let open = if super::write::opens_below(s) { ")\n{" } else { ") {" };
        let rows: Vec<(String, Option<String>)> = rows
            .iter()
            .map(|r| {
                let text = r.values.join(", ");
                (if names.len() > 1 { format!("({text})") } else { text }, r.comment.clone())
            })
            .collect();
        let head = match (names, &typed[..]) {
            ([name], [of]) => format!("foreach ({of} {name} in new[] {{ "),
            _ => format!("foreach (var ({}) in new[] {{ ", names.join(", ")),
        };
        Some((list_of_rows(&head, &format!(" }}{open}"), &rows, unit, width), "}".into()))
    }

    fn counted(&self, s: &Source, loop_: NodeId, name: &str) -> Option<(i64, i64)> {
        counted_head(s, loop_, name, &["int", "var"])
    }

    fn counting(&self, s: &Source, name: &str, first: i64, last: i64) -> Option<LoopText> {
        let open = if super::write::opens_below(s) { "\n{" } else { " {" };
        let head = format!("for (int {name} = {first}; {name} <= {last}; {name}++){open}");
        i32::try_from(last).is_ok().then_some((head, "}".into()))
    }
}

/// The type that all of these have by their form.
fn of_values(all: &[&str]) -> Option<&'static str> {
    let text = |v: &&str| v.starts_with('"') && v.ends_with('"');
    let number = |v: &&str| v.chars().all(|c| c.is_ascii_digit()) && v.parse::<i32>().is_ok();
    match () {
        _ if all.iter().all(text) => Some("string"),
        _ if all.iter().all(number) => Some("int"),
        _ if all.iter().all(|v| ["true", "false"].contains(v)) => Some("bool"),
        _ => None,
    }
}
