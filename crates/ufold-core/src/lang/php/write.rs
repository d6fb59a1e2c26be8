//! Writing PHP: a function or a private method, a call, a return.

use crate::lang::values::Derivation;
use crate::lang::written::{doc_comment, opens_below};
use crate::lang::{CallParts, FunctionParts, MethodKind, Reach, Signature, Target};
use crate::names::Source;
use crate::text::Edit;
use crate::tree::{Field, NodeId, Role};

/// Longest line of a function's head.
const WIDTH: usize = 100;

pub fn function(source: &Source, p: &FunctionParts) -> String {
    let mut head = String::new();
    if let Some(kind) = p.method {
        head.push_str(match p.reach {
            Reach::Own => "private ",
            Reach::Near | Reach::Below => "protected ",
            Reach::All => "public ",
        });
        head.push_str(if kind == MethodKind::Instance { "" } else { "static " });
    }
    head.push_str(&format!("function {}", p.name));
    let typed = |n: &String, t: &Option<String>| t.as_ref().map_or(n.clone(), |t| format!("{t} {n}"));
    let mut params: Vec<String> = p.parameters.iter().map(|(n, t)| typed(n, t)).collect();
    params.extend(p.optional.as_ref().map(|(n, t)| {
        let is_flag = t.as_deref() == Some("bool");
        format!("{} = {}", typed(n, t), if is_flag { "false" } else { "null" })
    }));
    let returns = p.returns.as_ref().map_or(String::new(), |r| format!(": {r}"));
    let line = format!("{}{head}({}){returns}", p.indent, params.join(", "));
    let mut out = p.doc.as_ref().map_or(String::new(), |d| doc_comment(d, &p.indent));
    if line.chars().count() <= WIDTH {
        let open =
            if opens_below(source, &[Role::Function]) { format!("\n{}{{\n", p.indent) } else { " {\n".to_string() };
        out.push_str(&line);
        out.push_str(&open);
    } else {
        let inner = format!("\n{}{}", p.indent, p.unit);
        let rows = params.join(&format!(",{inner}"));
        out.push_str(&format!("{}{head}({inner}{rows}\n{}){returns} {{\n", p.indent, p.indent));
    }
    out.push_str(&p.body);
    out.push_str(&format!("\n{}}}\n", p.indent));
    out
}

pub fn call(_source: &Source, p: &CallParts) -> String {
    let bare = format!("{}({})", p.callee, p.arguments.join(", "));
    if p.is_expression {
        return bare;
    }
    let from = if p.delegates { "yield from " } else { "" };
    let head = format!("{}{}{from}", targets(&p.results), if p.is_return { "return " } else { "" });
    let one = format!("{head}{bare};");
    let fits = p.indent.chars().count() + one.chars().count() <= p.width && !one.contains('\n');
    let last_runs_on = p
        .arguments
        .split_last()
        .is_some_and(|(l, others)| l.contains('\n') && !others.iter().any(|a| a.contains('\n')));
    if p.arguments.is_empty() || fits || last_runs_on {
        return one;
    }
    let inner = format!("\n{}{}", p.indent, p.unit);
    let rows = p.arguments.join(&format!(",{inner}"));
    format!("{head}{}({inner}{rows}\n{});", p.callee, p.indent)
}

fn targets(results: &[Target]) -> String {
    match results {
        [] => String::new(),
        [one] => format!("{} = ", one.name),
        many => format!("[{}] = ", many.iter().map(|t| t.name.as_str()).collect::<Vec<_>>().join(", ")),
    }
}

/// `if (f($a)) { return; }`, or the same with a value that is kept for a moment.
pub fn leaving(source: &Source, p: &CallParts, word: &str, temporary: Option<&str>) -> String {
    let (indent, inner) = (&p.indent, format!("{}{}", p.indent, p.unit));
    match temporary {
        None => {
            let bare = call(source, &CallParts { is_expression: true, ..p.clone() });
            format!("if ({bare}) {{\n{inner}{word};\n{indent}}}")
        }
        Some(t) => {
            let target = Target { name: t.into(), from: t.into(), declared: None, of_type: None };
            let given = call(source, &CallParts { results: vec![target], ..p.clone() });
            format!("{given}\n{indent}if ({t} !== null) {{\n{inner}return {t};\n{indent}}}")
        }
    }
}

pub fn derived(from: &str, how: Derivation) -> String {
    match how {
        Derivation::Not => format!("!{from}"),
        Derivation::Plus(k) if k < 0 => format!("{from} - {}", -k),
        Derivation::Plus(k) => format!("{from} + {k}"),
        Derivation::Upper => format!("strtoupper({from})"),
        Derivation::Lower => format!("strtolower({from})"),
    }
}

/// After the last parameter; none after one that takes all the rest.
pub fn parameter(s: &Source, function: NodeId, p: &Signature) -> Option<Edit> {
    let t = &s.tree;
    let list = t.child(function, Field::Parameters)?;
    let all: Vec<NodeId> = t.children(list).collect();
    if all.iter().any(|x| s.str(*x).contains("...")) {
        return None;
    }
    let text = match p.default {
        Some(d) => format!("{} = {d}", p.name),
        None => p.name.to_string(),
    };
    Some(match all.last() {
        Some(last) => Edit::new(t.span(*last).end, t.span(*last).end, format!(", {text}")),
        None => Edit::new(t.span(list).start + 1, t.span(list).start + 1, text),
    })
}
