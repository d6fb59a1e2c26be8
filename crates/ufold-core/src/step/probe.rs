//! Breaking what a step wrote, one place at a time, to see whether the tests would notice: each call is left out, each of
//! its arguments is another one, each hole of the function is as in the first copy only.
//!
//! A break that nothing notices is a place where the step could have been wrong without anybody seeing it. Broken code
//! may be wrong in a way that a compiler sees; then the compiler is what notices.

use std::sync::Arc;

use super::Plan;
use crate::change::NewFunction;
use crate::lang::for_path;
use crate::names::Source;
use crate::text::Edit;
use crate::tree::{Field, NodeId, Role};

/// One way to break the code that a step left.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Break {
    /// The call, or the function: file and line, and what it is in.
    pub file: String,
    pub line: usize,
    pub within: String,
    /// In words.
    pub what: String,
    pub edit: Edit,
}

/// The breaks of a step that made a function, of the files as it left them: call by call, then the holes.
pub fn breaks(plan: &Plan, files: &[(String, String)]) -> Vec<Break> {
    let Some(function) = &plan.result.function else { return Vec::new() };
    let sources: Vec<Source> = files
        .iter()
        .filter_map(|(path, text)| Source::new(path, Arc::from(text.as_str()), for_path(path)?, None).ok())
        .collect();
    let calls: Vec<(&Source, NodeId)> =
        sources.iter().flat_map(|s| calls(s, function).into_iter().map(move |c| (s, c))).collect();
    let mut out: Vec<Break> = Vec::new();
    for (i, (s, c)) in calls.iter().enumerate() {
        out.push(left_out(s, *c));
        let others: Vec<_> = calls.iter().enumerate().filter(|(k, _)| *k != i).map(|(_, x)| *x).collect();
        out.extend(arguments(s, *c).into_iter().enumerate().map(|(n, a)| another_argument(s, *c, n, a, &others)));
    }
    let home = sources.iter().find(|s| s.path == function.file);
    let definition = home.and_then(|s| Some((s, definition(s, &function.name)?)));
    if let Some((s, d)) = definition {
        out.extend(plan.result.parameters.iter().filter_map(|p| filled_hole(s, d, &p.name, p.arguments.first()?)));
    }
    out
}

fn definition(s: &Source, name: &str) -> Option<NodeId> {
    let t = &s.tree;
    t.ids().find(|n| t.role(*n) == Role::Function && t.child(*n, Field::Name).is_some_and(|x| s.str(x) == name))
}

/// Calls of the function, its own body left out.
fn calls(s: &Source, function: &NewFunction) -> Vec<NodeId> {
    let t = &s.tree;
    let own = (s.path == function.file).then(|| definition(s, &function.name)).flatten();
    let reaches = |c: NodeId| {
        let Some(callee) = t.child(c, Field::Callee) else { return false };
        let name = t.child(callee, Field::Member).unwrap_or(callee);
        s.str(name).split('<').next() == Some(&function.name)
    };
    let outside = |c: &NodeId| own.is_none_or(|d| !t.contains(d, *c));
    t.ids().filter(|n| t.role(*n) == Role::Call && reaches(*n)).filter(outside).collect()
}

fn arguments(s: &Source, call: NodeId) -> Vec<NodeId> {
    let list = s.tree.child(call, Field::Arguments);
    list.map_or(Vec::new(), |l| s.tree.children(l).filter(|c| s.tree.role(*c) != Role::Token).collect())
}

fn at(s: &Source, node: NodeId, what: String, text: &str) -> Break {
    let t = &s.tree;
    let span = t.span(node);
    let around = t.callable_around(node).and_then(|f| t.name_of_callable(f));
    Break {
        file: s.path.clone(),
        line: s.line(node),
        within: around.map_or(String::new(), |n| s.str(n).to_string()),
        what,
        edit: Edit::new(span.start, span.end, text),
    }
}

fn left_out(s: &Source, call: NodeId) -> Break {
    at(s, call, "the call is left out".into(), s.lang.nothing())
}

/// What another call passes there, or nothing where all pass the same.
fn another_argument(s: &Source, call: NodeId, n: usize, own: NodeId, others: &[(&Source, NodeId)]) -> Break {
    let given = |(o, c): &(&Source, NodeId)| arguments(o, *c).get(n).map(|a| o.str(*a).to_string());
    let other = others.iter().filter_map(given).find(|text| text != s.str(own));
    let text = other.unwrap_or_else(|| s.lang.nothing().to_string());
    let what = format!("argument {}: {} for {}", n + 1, one_line(&text), one_line(s.str(own)));
    let mut b = at(s, own, what, &text);
    b.line = s.line(call);
    b
}

/// A parameter's first use in the body is what the first copy passes.
fn filled_hole(s: &Source, definition: NodeId, name: &str, first: &str) -> Option<Break> {
    let t = &s.tree;
    let body = t.child(definition, Field::Body)?;
    let used = t.subtree(body).find(|n| {
        let r = s.names.at(*n).filter(|r| r.usage == crate::names::Use::Read);
        t.role(*n) == Role::Name && s.str(*n) == name && r.is_some()
    })?;
    // a word that is key and value at once can't be replaced alone
    if t.parent(used).is_some_and(|p| t.span(p) == t.span(used) && t.role(p) == Role::Pair) {
        return None;
    }
    let settled = first.chars().next().is_some_and(|c| c.is_ascii_digit() || "\"'".contains(c));
    let text = if settled { first } else { s.lang.nothing() };
    Some(at(s, used, format!("hole {name}: always {}", one_line(text)), text))
}

fn one_line(text: &str) -> String {
    let flat: String = text.split_whitespace().collect::<Vec<_>>().join(" ");
    if flat.chars().count() > 30 { format!("{}…", flat.chars().take(29).collect::<String>()) } else { flat }
}
