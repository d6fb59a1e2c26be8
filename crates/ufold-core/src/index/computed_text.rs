//! What is known of a text that is computed: how it begins and how it ends.
//!
//! `"_process_" + kind` may be `_process_token`, and is not `get_type`. Follows templates, sums, the language's formats
//! and variables that get one value; of all else nothing is known.

use crate::index::declared::value_of;
use crate::index::words::unquoted;
use crate::names::{Names, Source};
use crate::tree::{Field, NodeId, Role};

/// Variables that are followed one after the other.
const MOST_LINKS: usize = 4;

/// Whether a value may be the word, in whatever case it is written.
pub fn may_be(s: &Source, value: NodeId, word: &str) -> bool {
    if let Some(values) = one_of(s, value).filter(|_| is_local(s, value)) {
        return values.into_iter().any(|v| may_be(s, v, word));
    }
    let (start, end) = ends(s, value, MOST_LINKS);
    let (start, end, word) = (start.to_lowercase(), end.to_lowercase(), word.to_lowercase());
    word.len() >= start.len().max(end.len()) && word.starts_with(&start) && word.ends_with(&end)
}

/// The values that the variable of a loop over a written list has.
fn one_of(s: &Source, name: NodeId) -> Option<Vec<NodeId>> {
    let t = &s.tree;
    let binding = s.names.binding(s.names.at(name).filter(|_| t.role(name) == Role::Name)?.target?);
    let around = t.parent(binding.first).filter(|_| binding.writes == 1 && !binding.rebound_inside)?;
    let own = t.role(around) == Role::For && t.child(around, Field::Left) == Some(binding.first);
    let list = t.child(around, Field::Right).filter(|r| own && matches!(t.role(*r), Role::List | Role::Tuple))?;
    let values: Vec<NodeId> = t.children(list).filter(|c| t.role(*c) != Role::Token).collect();
    values.iter().all(|v| t.role(*v) == Role::Literal).then_some(values)
}

/// The texts that a value surely begins and ends with.
fn ends(s: &Source, value: NodeId, links: usize) -> (&str, &str) {
    let t = &s.tree;
    let plain = |n: &NodeId| t.role(*n) == Role::TemplateText && !s.str(*n).contains('\\');
    if let Some((format, opens)) = s.lang.format_of(s, value) {
        let text = literal(s, format);
        return (&text[..text.find(opens).unwrap_or(0)], "");
    }
    match t.role(value) {
        // the same text in another case
        Role::Call => {
            let callee = t.child(value, Field::Callee).filter(|c| t.child(*c, Field::Object).is_some());
            let word = callee.and_then(|c| t.child(c, Field::Member)).map_or("", |m| s.str(m));
            let cases = s.lang.case_members().contains(&word);
            let object = callee.and_then(|c| t.child(c, Field::Object)).filter(|_| cases);
            object.map_or(("", ""), |o| ends(s, o, links))
        }
        Role::Literal => (literal(s, value), literal(s, value)),
        Role::Template => {
            let parts = || t.children(value).filter(|c| matches!(t.role(*c), Role::TemplateText | Role::Interpolation));
            (
                parts().next().filter(plain).map_or("", |n| s.str(n)),
                parts().last().filter(plain).map_or("", |n| s.str(n)),
            )
        }
        Role::BinaryOp => {
            let Some((left, right)) = t.child(value, Field::Left).zip(t.child(value, Field::Right)) else {
                return ("", "");
            };
            let operator = s.text[t.span(left).end..t.span(right).start].trim();
            if operator == "+" { (ends(s, left, links).0, ends(s, right, links).1) } else { ("", "") }
        }
        // a variable of the module may be set from outside
        Role::Name => {
            value_of(s, value).filter(|_| links > 0 && is_local(s, value)).map_or(("", ""), |v| ends(s, v, links - 1))
        }
        _ => ("", ""),
    }
}

fn is_local(s: &Source, name: NodeId) -> bool {
    let target = s.names.at(name).and_then(|r| r.target);
    target.is_some_and(|b| s.names.binding(b).scope != Names::MODULE)
}

/// The text of a literal, nothing where it may mean another one.
fn literal(s: &Source, n: NodeId) -> &str {
    let quoted = s.tree.role(n) == Role::Literal && s.str(n).starts_with(['"', '\'', '`']);
    let text = if quoted { unquoted(s, n) } else { "" };
    if text.contains('\\') { "" } else { text }
}
