//! Writing Python: a function definition and a call, in the file's own indentation and within its line width.

use crate::lang::{CallParts, FunctionParts, MethodKind, Signature};
use crate::names::Source;
use crate::text::Edit;
use crate::tree::{Field, NodeId};

pub fn function(p: &FunctionParts) -> String {
    let mut out = String::new();
    if p.method == Some(MethodKind::Class) {
        out.push_str(&format!("{}@classmethod\n", p.indent));
    }
    let mut params: Vec<String> =
        p.parameters.iter().map(|(n, t)| t.as_ref().map_or_else(|| n.clone(), |t| format!("{n}: {t}"))).collect();
    params.extend(p.optional.as_ref().map(|(n, _)| format!("{n}=None")));
    let keyword = if p.is_async { "async def" } else { "def" };
    let returns = p.returns.as_ref().map_or(String::new(), |r| format!(" -> {r}"));
    let line = format!("{}{keyword} {}({}){returns}:\n", p.indent, p.name, params.join(", "));
    if line.chars().count() <= 89 {
        out.push_str(&line);
    } else {
        let inner = format!("{}{}", p.indent, p.unit);
        out.push_str(&format!("{}{keyword} {}(\n", p.indent, p.name));
        for param in &params {
            out.push_str(&format!("{inner}{param},\n"));
        }
        out.push_str(&format!("{}){returns}:\n", p.indent));
    }
    if let Some(doc) = &p.doc {
        out.push_str(&doc_string(doc, &format!("{}{}", p.indent, p.unit)));
    }
    out.push_str(&p.body);
    out.push('\n');
    out
}

fn doc_string(doc: &str, indent: &str) -> String {
    let raw = if doc.contains('\\') { "r" } else { "" };
    let doc = doc.replace("\"\"\"", "'''");
    let mut lines = doc.lines();
    let first = lines.next().unwrap_or("");
    let rest: Vec<&str> = lines.collect();
    let close = if doc.ends_with('"') { " " } else { "" };
    if rest.is_empty() {
        let mut first = first.to_string();
        if first.chars().next_back().is_some_and(char::is_alphanumeric) {
            first.push('.');
        }
        return format!("{indent}{raw}\"\"\"{first}{close}\"\"\"\n");
    }
    let mut out = format!("{indent}{raw}\"\"\"{first}\n");
    for l in rest {
        out.push_str(format!("{indent}{l}").trim_end());
        out.push('\n');
    }
    out.push_str(&format!("{indent}\"\"\"\n"));
    out
}

pub fn call(p: &CallParts) -> String {
    if p.is_expression {
        let bare = format!("{}({})", p.callee, p.arguments.join(", "));
        return if p.is_await { format!("(await {bare})") } else { bare };
    }
    let mut head = String::new();
    if p.is_return {
        head.push_str("return ");
    } else if !p.results.is_empty() {
        let names: Vec<&str> = p.results.iter().map(|r| r.name.as_str()).collect();
        head.push_str(&format!("{} = ", names.join(", ")));
    }
    if p.is_await {
        head.push_str("await ");
    }
    // what is returned needs brackets around it
    let close = if p.delegates && p.is_return { ")" } else { "" };
    if p.delegates {
        head.push_str(if p.is_return { "(yield from " } else { "yield from " });
    }
    head.push_str(&p.callee);
    let one = format!("{head}({}){close}", p.arguments.join(", "));
    let fits = |s: &str| s.lines().all(|l| l.chars().count() <= p.width);
    if p.arguments.is_empty() || fits(&format!("{}{one}", p.indent)) && !one.contains('\n') {
        return one;
    }
    let inner = format!("{}{}", p.indent, p.unit);
    let packed = format!("{head}(\n{inner}{}\n{}){close}", p.arguments.join(", "), p.indent);
    if fits(&packed) && !p.arguments.iter().any(|a| a.contains('\n')) {
        return packed;
    }
    let rows: Vec<String> = p.arguments.iter().map(|a| format!("{inner}{a},\n")).collect();
    format!("{head}(\n{}{}){close}", rows.concat(), p.indent)
}

/// `if f(a): return`, or the same with a value that is kept for a moment.
pub fn leaving(p: &CallParts, word: &str, temporary: Option<&str>) -> String {
    let (indent, inner) = (&p.indent, format!("{}{}", p.indent, p.unit));
    match temporary {
        None => format!("if {}:\n{inner}{word}", call(&CallParts { is_expression: true, ..p.clone() })),
        Some(t) => {
            let results = vec![crate::lang::Target { name: t.into(), ..Default::default() }];
            let given = call(&CallParts { results, ..p.clone() });
            format!("{given}\n{indent}if {t} is not None:\n{inner}return {t}")
        }
    }
}

/// After the last parameter, before `**` ones; annotated where the others are.
pub fn parameter(s: &Source, function: NodeId, p: &Signature) -> Option<Edit> {
    let t = &s.tree;
    let list = t.child(function, Field::Parameters)?;
    let all: Vec<NodeId> = t.children(list).collect();
    let typed = all.iter().any(|x| t.child(*x, Field::Type).is_some());
    let kind = p.default.and_then(|d| s.lang.literal_type(d)).filter(|_| typed);
    let mut text = p.name.to_string();
    text.push_str(&kind.map_or(String::new(), |k| format!(": {k}")));
    if let Some(d) = p.default {
        text.push_str(&if kind.is_some() { format!(" = {d}") } else { format!("={d}") });
    }
    let rest = all.iter().find(|x| s.str(**x).starts_with("**"));
    Some(match (rest, all.last()) {
        (Some(r), _) => Edit::new(t.span(*r).start, t.span(*r).start, format!("{text}, ")),
        (None, Some(last)) => Edit::new(t.span(*last).end, t.span(*last).end, format!(", {text}")),
        (None, None) => Edit::new(t.span(list).start + 1, t.span(list).start + 1, text),
    })
}

/// Whether a line ends outside all brackets and quotes, where it would end the statement.
pub fn breaks_outside_brackets(expression: &str) -> bool {
    let (mut depth, mut quote, mut escaped) = (0i32, None, false);
    for c in expression.chars() {
        match (c, quote) {
            _ if escaped => escaped = false,
            ('\\', _) => escaped = true,
            (_, Some(q)) => quote = Some(q).filter(|q| *q != c),
            ('"' | '\'', None) => quote = Some(c),
            ('(' | '[' | '{', None) => depth += 1,
            (')' | ']' | '}', None) => depth -= 1,
            ('\n', None) if depth == 0 => return true,
            _ => {}
        }
    }
    false
}

#[cfg(test)]
mod tests {
    use super::breaks_outside_brackets;

    #[test]
    fn a_line_may_end_in_brackets_and_quotes_only() {
        for text in ["a + b", "f(\n    a,\n)", "[\n1]", "\"\"\"a\nb\"\"\"", "f('(', {\n1: 2})"] {
            assert!(!breaks_outside_brackets(text), "{text}");
        }
        for text in ["a\n+ b", "(a)\n+ b", "f(a) \\\n.b\n", "'('\n+ a"] {
            assert!(breaks_outside_brackets(text), "{text}");
        }
    }
}
