//! Loops over lists and ranges.

use crate::lang::written::{list_of_rows, text_around};
use crate::lang::{Gathering, GatheringText, Listed, LoopText, Loops, Row};
use crate::names::Source;
use crate::tree::{Field, NodeId, Role};

pub struct Lists;

impl Loops for Lists {
    fn over_list(&self, _s: &Source, list: &Listed, unit: &str, width: usize) -> Option<LoopText> {
        let Listed { names, rows, .. } = *list;
        let row = |r: &Row| match &r.values[..] {
            [one] => one.clone(),
            all => format!("({})", all.join(", ")),
        };
        let rows: Vec<(String, Option<String>)> = rows.iter().map(|r| (row(r), r.comment.clone())).collect();
        let head = list_of_rows(&format!("for {} in [", names.join(", ")), "]:", &rows, unit, width);
        Some((head, String::new()))
    }

    fn counted(&self, s: &Source, loop_: NodeId, _name: &str) -> Option<(i64, i64)> {
        let right = s.tree.child(loop_, Field::Right).filter(|_| s.tree.role(loop_) == Role::For)?;
        let callee = s.tree.child(right, Field::Callee).filter(|c| s.str(*c) == "range")?;
        s.names.at(callee).filter(|r| r.target.is_none())?;
        let (first, end) = s.str(right).strip_prefix("range(")?.strip_suffix(')')?.split_once(", ")?;
        Some((first.parse().ok()?, end.parse::<i64>().ok()?.checked_sub(1)?))
    }

    fn counting(&self, s: &Source, name: &str, first: i64, last: i64) -> Option<LoopText> {
        // a name of the file's own
        let own = |n: NodeId| s.str(n) == "range" && s.names.at(n).is_some_and(|r| r.target.is_some());
        let plain = !s.tree.ids().any(|n| s.tree.is_leaf(n) && own(n));
        plain.then(|| (format!("for {name} in range({first}, {}):", last + 1), String::new()))
    }

    fn gathering(&self, _s: &Source, g: &Gathering) -> Option<GatheringText> {
        let list = g.list;
        Some(GatheringText {
            made: format!("{list} = []"),
            added: (format!("{list}.append("), ")".into()),
            end: "",
            taken: format!("{} = {list}", g.names.join(", ")),
        })
    }

    fn puts_last(&self) -> Option<&'static str> {
        Some("append")
    }

    fn takes_made_text(&self, s: &Source, place: NodeId) -> bool {
        // each of these is an object of its own
        let same_object = |p: NodeId| s.tree.children(p).any(|c| s.str(c).split_whitespace().any(|w| w == "is"));
        !s.tree
            .ancestors(place)
            .take_while(|a| s.tree.role(*a).is_expression())
            .any(|p| s.tree.role(p) == Role::Compare && same_object(p))
    }

    fn text_around<'s>(&self, s: &'s Source, at: (NodeId, NodeId), name: &str) -> Option<(&'s str, &'s str)> {
        text_around(s, at, &["f\"", "f'"], s.str(at.1) == format!("{{{name}}}"))
    }

    fn numbered_text(&self, s: &Source, before: &str, number: &str, behind: &str, quote: char) -> Option<String> {
        // code that old interpreters read, too
        let old = s.text.lines().any(|l| l.starts_with("from __future__ import") && !l.contains("annotations"));
        (!old).then(|| format!("f{quote}{before}{{{number}}}{behind}{quote}"))
    }
}
