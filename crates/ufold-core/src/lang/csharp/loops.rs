//! Loops over arrays and numbers.

use crate::lang::written::{counted_head, list_of_rows};
use crate::lang::{Listed, LoopText, Loops};
use crate::names::Source;
use crate::tree::NodeId;

pub struct Arrays;

impl Loops for Arrays {
    fn over_list(&self, s: &Source, list: &Listed, unit: &str, width: usize) -> Option<LoopText> {
        let Listed { names, rows, .. } = *list;
        // not all compilers take several names there
        let [name] = names else { return None };
        let values: Vec<&str> = rows.iter().map(|r| r.values[0].as_str()).collect();
        // the compiler finds the type of such a list
        if !is_of_one_type(&values) {
            return None;
        }
        let open = if super::write::opens_below(s) { ")\n{" } else { ") {" };
        let rows: Vec<(String, Option<String>)> =
            rows.iter().map(|r| (r.values[0].clone(), r.comment.clone())).collect();
        let head = format!("foreach (var {name} in new[] {{");
        let line = list_of_rows(&format!("{head} "), &format!(" }}{open}"), &rows, unit, width);
        let on_lines = line.lines().next().is_some_and(|l| l.ends_with("{ "));
        let text = if on_lines { list_of_rows(&head, &format!("}}{open}"), &rows, unit, width) } else { line };
        Some((text, "}".into()))
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

/// All of these have one type by their form.
fn is_of_one_type(all: &[&str]) -> bool {
    let text = |v: &&str| v.starts_with('"') && v.ends_with('"');
    let number = |v: &&str| v.chars().all(|c| c.is_ascii_digit()) && v.parse::<i32>().is_ok();
    all.iter().all(text) || all.iter().all(number) || all.iter().all(|v| ["true", "false"].contains(v))
}
