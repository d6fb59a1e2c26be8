//! Writing Lua: a local function, a call, a return.

use crate::lang::values::Derivation;
use crate::lang::{CallParts, FunctionParts, Signature, Target};
use crate::names::Source;
use crate::text::Edit;
use crate::tree::{Field, NodeId, Role};

/// Longest line of a function's head.
const WIDTH: usize = 100;

pub fn function(source: &Source, p: &FunctionParts) -> String {
    let params: Vec<String> = p.parameters.iter().chain(&p.optional).map(|(n, _)| n.clone()).collect();
    let mut out = p.doc.as_ref().map_or(String::new(), |d| comment(source, d, &p.indent));
    let line = format!("{}local function {}({})\n", p.indent, p.name, params.join(", "));
    if line.chars().count() <= WIDTH + 1 {
        out.push_str(&line);
    } else {
        let inner = format!("\n{}{}", p.indent, p.unit);
        let rows = params.join(&format!(",{inner}"));
        out.push_str(&format!("{}local function {}({inner}{rows}\n{})\n", p.indent, p.name, p.indent));
    }
    out.push_str(&p.body);
    out.push_str(&format!("\n{}end\n", p.indent));
    out
}

/// In the habit of the file: a third dash begins a comment for readers of its documentation.
fn comment(source: &Source, doc: &str, indent: &str) -> String {
    let three = source.text.lines().any(|l| l.trim_start().starts_with("--- "));
    let mark = if three { "---" } else { "--" };
    doc.lines().map(|l| format!("{indent}{mark} {l}").trim_end().to_string() + "\n").collect()
}

/// What ends a statement in this file: most that declare say so.
pub fn end(s: &Source) -> &'static str {
    let t = &s.tree;
    let (mut with, mut all) = (0, 0);
    for n in t.ids().filter(|n| t.role(*n) == Role::Declare) {
        with += usize::from(s.str(n).ends_with(';'));
        all += 1;
    }
    if with * 2 > all { ";" } else { "" }
}

pub fn call(source: &Source, p: &CallParts) -> String {
    let bare = format!("{}({})", p.callee, p.arguments.join(", "));
    if p.is_expression {
        return bare;
    }
    let end = end(source);
    let (before, head) = targets(&p.results, &p.indent, end);
    let head = format!("{head}{}", if p.is_return { "return " } else { "" });
    let one = format!("{head}{bare}{end}");
    let fits = p.indent.chars().count() + one.chars().count() <= p.width && !one.contains('\n');
    let last_runs_on = p
        .arguments
        .split_last()
        .is_some_and(|(l, others)| l.contains('\n') && !others.iter().any(|a| a.contains('\n')));
    if p.arguments.is_empty() || fits || last_runs_on {
        return before + &one;
    }
    let inner = format!("\n{}{}", p.indent, p.unit);
    let rows = p.arguments.join(&format!(",{inner}"));
    format!("{before}{head}{}({inner}{rows}\n{}){end}", p.callee, p.indent)
}

/// What stands before the statement, and before the call in it.
fn targets(results: &[Target], indent: &str, end: &str) -> (String, String) {
    let Some(first) = results.first() else { return (String::new(), String::new()) };
    let names: Vec<&str> = results.iter().map(|t| t.name.as_str()).collect();
    let left = format!("{} = ", names.join(", "));
    if results.iter().all(|t| t.declared.is_some()) {
        return (String::new(), format!("{} {left}", first.declared.as_deref().unwrap_or("local")));
    }
    let declared: Vec<&str> = results.iter().filter(|t| t.declared.is_some()).map(|t| t.name.as_str()).collect();
    let before =
        if declared.is_empty() { String::new() } else { format!("local {}{end}\n{indent}", declared.join(", ")) };
    (before, left)
}

/// `if f(a) then return end`, or the same with a value that is kept for a moment.
pub fn leaving(source: &Source, p: &CallParts, word: &str, temporary: Option<&str>) -> String {
    let (indent, inner, end) = (&p.indent, format!("{}{}", p.indent, p.unit), end(source));
    match temporary {
        None => {
            let bare = call(source, &CallParts { is_expression: true, ..p.clone() });
            format!("if {bare} then\n{inner}{word}{end}\n{indent}end")
        }
        Some(t) => {
            let target = Target { name: t.into(), from: t.into(), declared: Some("local".into()), of_type: None };
            let given = call(source, &CallParts { results: vec![target], ..p.clone() });
            format!("{given}\n{indent}if {t} ~= nil then\n{inner}return {t}{end}\n{indent}end")
        }
    }
}

pub fn derived(from: &str, how: Derivation) -> String {
    match how {
        Derivation::Not => format!("not {from}"),
        Derivation::Plus(k) if k < 0 => format!("{from} - {}", -k),
        Derivation::Plus(k) => format!("{from} + {k}"),
        Derivation::Upper => format!("{from}:upper()"),
        Derivation::Lower => format!("{from}:lower()"),
    }
}

/// After the last parameter; none after `...`, and none has a value by default.
pub fn parameter(s: &Source, function: NodeId, p: &Signature) -> Option<Edit> {
    let t = &s.tree;
    let list = t.child(function, Field::Parameters)?;
    let all: Vec<NodeId> = t.children(list).collect();
    if p.default.is_some() || all.iter().any(|x| s.str(*x) == "...") {
        return None;
    }
    Some(match all.last() {
        Some(last) => Edit::new(t.span(*last).end, t.span(*last).end, format!(", {}", p.name)),
        None => Edit::new(t.span(list).start + 1, t.span(list).start + 1, p.name.to_string()),
    })
}
