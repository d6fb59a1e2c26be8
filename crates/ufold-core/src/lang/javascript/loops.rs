//! Loops over arrays and numbers.

use super::style::Style;
use super::write::declares_in_blocks;
use crate::lang::written::{counted_head, list_of_rows, text_around};
use crate::lang::{Gathering, GatheringText, Listed, LoopText, Loops, Row};
use crate::names::Source;
use crate::tree::{NodeId, Role};

/// With written types, those of the values are theirs alone.
pub struct Arrays {
    pub typed: bool,
}

impl Loops for Arrays {
    fn over_list(&self, s: &Source, list: &Listed, unit: &str, width: usize) -> Option<LoopText> {
        let Listed { names, rows, own_types } = *list;
        let several = names.len() > 1;
        let text = |v: &str| v.starts_with(['"', '\'', '`']);
        let kind = |v: &str| (text(v) || v.starts_with(|c: char| c.is_ascii_digit())).then_some(text(v));
        let of_one = |i: usize| {
            let first = kind(&rows[0].values[i]);
            first.is_some() && rows.iter().all(|r| kind(&r.values[i]) == first)
        };
        // code from before there were such loops has none
        if !declares_in_blocks(s) || self.typed && !(0..names.len()).all(of_one) {
            return None;
        }
        let row = |r: &Row| if several { format!("[{}]", r.values.join(", ")) } else { r.values[0].clone() };
        let rows: Vec<(String, Option<String>)> = rows.iter().map(|r| (row(r), r.comment.clone())).collect();
        let left = if several { format!("[{}]", names.join(", ")) } else { names[0].clone() };
        let fixed = if self.typed && (several || own_types) { " as const" } else { "" };
        let head = list_of_rows(&format!("for (const {left} of ["), &format!("]{fixed}) {{"), &rows, unit, width);
        Some((head, "}".into()))
    }

    fn counted(&self, s: &Source, loop_: NodeId, name: &str) -> Option<(i64, i64)> {
        counted_head(s, loop_, name, &["let", "var"])
    }

    fn counting(&self, s: &Source, name: &str, first: i64, last: i64) -> Option<LoopText> {
        let word = if declares_in_blocks(s) { "let" } else { "var" };
        let head = format!("for ({word} {name} = {first}; {name} <= {last}; {name}++) {{");
        Some((head, "}".into()))
    }

    fn counter_is_fresh(&self, s: &Source) -> bool {
        declares_in_blocks(s)
    }

    fn gathering(&self, s: &Source, g: &Gathering) -> Option<GatheringText> {
        let (list, end) = (g.list, Style::of(s).end());
        let of = if self.typed { format!(": {}[]", simple(g.of_type?)) } else { String::new() };
        let word = if g.rebound { "let" } else { "const" };
        declares_in_blocks(s).then(|| GatheringText {
            made: format!("const {list}{of} = []{end}"),
            added: (format!("{list}.push("), ")".into()),
            end,
            taken: format!("{word} [{}] = {list}{end}", g.names.join(", ")),
        })
    }

    fn missing_elements(&self) -> Option<&'static str> {
        self.typed.then_some("noUncheckedIndexedAccess")
    }

    fn puts_last(&self) -> Option<&'static str> {
        Some("push")
    }

    fn takes_made_text(&self, s: &Source, place: NodeId) -> bool {
        // builders look for the names of styles as they are written in attributes
        s.tree.ancestor(place, &[Role::MarkupAttribute]).is_none()
    }

    fn text_around<'s>(&self, s: &'s Source, at: (NodeId, NodeId), name: &str) -> Option<(&'s str, &'s str)> {
        text_around(s, at, &["`"], s.str(at.1) == format!("${{{name}}}"))
    }

    fn numbered_text(&self, s: &Source, before: &str, number: &str, behind: &str, _quote: char) -> Option<String> {
        declares_in_blocks(s).then(|| format!("`{before}${{{number}}}{behind}`"))
    }
}

/// In brackets where it is no single word.
fn simple(of_type: &str) -> String {
    let word = of_type.chars().all(|c| c.is_alphanumeric() || "_.[]".contains(c));
    if word { of_type.to_string() } else { format!("({of_type})") }
}
