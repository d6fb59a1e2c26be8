//! Writing Java: a method and a call of it.

use crate::lang::{CallParts, FunctionParts, MethodKind, Target};
use crate::names::Source;

/// Longest line of a head.
const WIDTH: usize = 100;

pub fn function(_source: &Source, p: &FunctionParts) -> String {
    let mut head = String::new();
    if p.method.is_some() {
        head.push_str(if p.exported { "" } else { "private " });
    }
    head.push_str(if p.method == Some(MethodKind::Static) || p.method.is_none() { "static " } else { "" });
    if !p.type_parameters.is_empty() {
        head.push_str(&format!("<{}> ", p.type_parameters.join(", ")));
    }
    head.push_str(p.returns.as_deref().unwrap_or("void"));
    head.push_str(&format!(" {}", p.name));
    let typed = |(name, of): &(String, Option<String>)| format!("{} {name}", of.as_deref().unwrap_or("Object"));
    let parameters: Vec<String> = p.parameters.iter().map(typed).collect();
    let throws = if p.throws.is_empty() { String::new() } else { format!(" throws {}", p.throws.join(", ")) };
    let mut out = p.doc.as_ref().map_or(String::new(), |d| doc_comment(d, &p.indent));
    let line = format!("{}{head}({}){throws} {{", p.indent, parameters.join(", "));
    if line.chars().count() <= WIDTH {
        out.push_str(&line);
    } else {
        let inner = format!("{}{}{}", p.indent, p.unit, p.unit);
        let rows = parameters.join(&format!(",\n{inner}"));
        out.push_str(&format!("{}{head}(\n{inner}{rows}){throws} {{", p.indent));
    }
    out.push_str(&format!("\n{}\n{}}}\n", p.body, p.indent));
    out
}

fn doc_comment(doc: &str, indent: &str) -> String {
    let doc = doc.replace("*/", "* /");
    let lines: Vec<&str> = doc.lines().collect();
    if let [one] = lines[..] {
        let stop = if one.ends_with(char::is_alphanumeric) { "." } else { "" };
        return format!("{indent}/** {one}{stop} */\n");
    }
    let body: String = lines.iter().map(|l| format!("{indent} * {l}").trim_end().to_string() + "\n").collect();
    format!("{indent}/**\n{body}{indent} */\n")
}

pub fn call(_source: &Source, p: &CallParts) -> String {
    if p.is_expression {
        return format!("{}({})", p.callee, p.arguments.join(", "));
    }
    let head = match &p.results[..] {
        _ if p.is_return => "return ".to_string(),
        [one] => match &one.declared {
            Some(word) => format!("{word} {} = ", one.name),
            None => format!("{} = ", one.name),
        },
        _ => String::new(),
    };
    let one = format!("{head}{}({});", p.callee, p.arguments.join(", "));
    if p.arguments.is_empty() || p.indent.chars().count() + one.chars().count() <= p.width && !one.contains('\n') {
        return one;
    }
    let inner = format!("{}{}{}", p.indent, p.unit, p.unit);
    let rows = p.arguments.join(&format!(",\n{inner}"));
    format!("{head}{}(\n{inner}{rows});", p.callee)
}

/// `if (f(a)) return;`, or the same with a value that is kept for a moment.
pub fn leaving(source: &Source, p: &CallParts, word: &str, temporary: Option<&str>) -> String {
    let (indent, unit) = (&p.indent, &p.unit);
    let Some(t) = temporary else {
        let bare = call(source, &CallParts { is_expression: true, ..p.clone() });
        return format!("if ({bare}) {{\n{indent}{unit}{word};\n{indent}}}");
    };
    let of = p.result_type.clone().unwrap_or_else(|| "var".into());
    let results = vec![Target { name: t.into(), from: t.into(), declared: Some(of), of_type: None }];
    let given = call(source, &CallParts { results, ..p.clone() });
    format!("{given}\n{indent}if ({t} != null) {{\n{indent}{unit}return {t};\n{indent}}}")
}
