//! A parameter more for a method that is there, alone or with an overload for those who call it as before.

use super::write::{WIDTH, finals};
use crate::lang::Signature;
use crate::lang::written::filled;
use crate::names::Source;
use crate::text::{Edit, indent_at};
use crate::tree::{Field, NodeId, Role};

/// The edit of the list; none after parameters of any number, or one that stands for the object.
pub fn with_parameter(s: &Source, function: NodeId, p: &Signature) -> Option<Edit> {
    let t = &s.tree;
    let list = t.child(function, Field::Parameters).filter(|l| t.role(*l) == Role::Parameters)?;
    let all: Vec<NodeId> = t.children(list).collect();
    let odd = |x: &NodeId| t.role(*x) != Role::Parameter || s.str(*x).contains("...");
    if all.iter().any(odd) {
        return None;
    }
    let word = if finals(s) { "final " } else { "" };
    let text = format!("{word}{} {}", p.of_type?, p.name);
    Some(match all[..] {
        [] => Edit::new(t.span(list).start + 1, t.span(list).start + 1, text),
        [.., last] => {
            let end = t.span(last).end;
            Edit::new(end, end, format!(",{}{text}", s.gap_in(list)))
        }
    })
}

/// What is said before the method's name stays with the old parameters: its comment, and annotations, which others look
/// for by them. The new method stands below, with the body.
pub fn kept(s: &Source, function: NodeId, p: &Signature) -> Option<Edit> {
    let t = &s.tree;
    let body = t.child(function, Field::Body)?;
    let list = t.child(function, Field::Parameters)?;
    let (start, at) = (t.span(function).start, t.span(body).start);
    let parameter = with_parameter(s, function, p)?;
    let mut head = String::new();
    let mut from = start;
    let marks: Vec<NodeId> = t.children(function).filter(|c| t.role(*c) == Role::Decorator).collect();
    for m in marks.iter().filter(|m| !s.str(**m).starts_with("@SuppressWarnings")) {
        let span = t.span(*m);
        head.push_str(&s.text[from..span.start]);
        from = span.end + s.text[span.end..].len() - s.text[span.end..].trim_start().len();
    }
    head.push_str(&s.text[from..parameter.span.start]);
    head.push_str(&parameter.text);
    head.push_str(&s.text[parameter.span.end..at]);
    let indent = indent_at(&s.text, start);
    let unit = &s.habits().unit;
    let named = |x: NodeId| t.child(x, Field::Name).map(|n| s.str(n).to_string());
    let mut given: Vec<String> = t.children(list).map(named).collect::<Option<_>>()?;
    given.push(p.default?.to_string());
    let result = t.child(function, Field::ReturnType);
    let callee = if result.is_none() { "this".into() } else { named(function)? };
    let word = if result.is_none_or(|r| s.str(r) == "void") { "" } else { "return " };
    let mut call = format!("{indent}{unit}{word}{callee}({});", given.join(", "));
    if call.chars().count() > WIDTH {
        let inner = format!("{indent}{unit}{unit}{unit}");
        call = format!("{indent}{unit}{word}{callee}(\n{});", filled(&given, &inner, ");", WIDTH));
    }
    Some(Edit::new(at, at, format!("{{\n{call}\n{indent}}}\n\n{indent}{head}")))
}
