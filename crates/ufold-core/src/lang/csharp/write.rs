//! Writing C#: a method and a call of it, with its brackets where the file has them.

use crate::lang::written::filled;
use crate::lang::{CallParts, FunctionParts, MethodKind, Reach, Target};
use crate::names::Source;
use crate::tree::Role;

/// Longest line of a head.
pub(super) const WIDTH: usize = 100;

/// In this file brackets stand on lines of their own.
pub(super) fn opens_below(s: &Source) -> bool {
    crate::lang::written::opens_below(s, &[Role::Function, Role::Class, Role::If])
}

/// A head and what follows it in brackets.
fn block(s: &Source, head: &str, body: &str, indent: &str) -> String {
    let gap = if opens_below(s) { format!("\n{indent}") } else { " ".to_string() };
    format!("{head}{gap}{{\n{body}\n{indent}}}")
}

fn reach(of: Reach) -> &'static str {
    match of {
        Reach::Own => "private ",
        Reach::Near => "internal ",
        Reach::Below => "protected ",
        Reach::All => "public ",
    }
}

/// The type of the result; that of one who waits is wrapped.
fn returns(p: &FunctionParts) -> String {
    match (p.returns.as_deref().unwrap_or("void"), p.is_async) {
        ("void", true) => "Task".to_string(),
        (of, true) => format!("Task<{of}>"),
        (of, false) => of.to_string(),
    }
}

pub fn function(s: &Source, p: &FunctionParts) -> String {
    let mut head = String::new();
    if let Some(kind) = p.method {
        head.push_str(reach(p.reach));
        head.push_str(if kind == MethodKind::Static { "static " } else { "" });
    }
    let generics =
        if p.type_parameters.is_empty() { String::new() } else { format!("<{}>", p.type_parameters.join(", ")) };
    let word = if p.is_async { "async " } else { "" };
    head.push_str(&format!("{word}{} {}{generics}", returns(p), p.name));
    let typed = |(name, of): &(String, Option<String>)| format!("{} {name}", of.as_deref().unwrap_or("object"));
    let mut all: Vec<String> = p.parameters.iter().map(typed).collect();
    all.extend(p.optional.as_ref().map(|o| {
        let value = if o.1.as_deref() == Some("bool") { "false" } else { "null" };
        format!("{} = {value}", typed(o))
    }));
    let mut out = p.doc.as_ref().map_or(String::new(), |d| doc(d, &p.indent));
    let line = format!("{}{head}({})", p.indent, all.join(", "));
    let head = if line.chars().count() <= WIDTH {
        line
    } else {
        let inner = format!("{}{}", p.indent, p.unit);
        format!("{}{head}(\n{})", p.indent, filled(&all, &inner, ")", WIDTH))
    };
    out.push_str(&block(s, &head, &p.body, &p.indent));
    out.push('\n');
    out
}

fn doc(text: &str, indent: &str) -> String {
    let stop = if text.ends_with(char::is_alphanumeric) { "." } else { "" };
    let safe = text.replace('&', "&amp;").replace('<', "&lt;");
    let lines: Vec<&str> = safe.lines().collect();
    match lines[..] {
        [one] => format!("{indent}/// <summary>{one}{stop}</summary>\n"),
        _ => {
            let body: String = lines.iter().map(|l| format!("{indent}/// {l}").trim_end().to_string() + "\n").collect();
            format!("{indent}/// <summary>\n{body}{indent}/// </summary>\n")
        }
    }
}

/// What stands before the call, and statements before that.
fn targets(results: &[Target], indent: &str) -> (String, String) {
    match results {
        [] => (String::new(), String::new()),
        [one] => match &one.declared {
            Some(word) => (String::new(), format!("{word} {} = ", one.name)),
            None => (String::new(), format!("{} = ", one.name)),
        },
        many if many.iter().all(|t| t.declared.is_some()) => (String::new(), format!("var ({}) = ", names(many))),
        // names that are there and new ones do not mix
        many => {
            let line = |t: &Target| {
                let declared = t.declared.as_deref().filter(|w| *w != "var");
                let word = t.of_type.as_deref().or(declared);
                t.declared.as_ref().map(|_| format!("{} {};\n{indent}", word.unwrap_or("var"), t.name))
            };
            (many.iter().filter_map(line).collect(), format!("({}) = ", names(many)))
        }
    }
}

fn names(all: &[Target]) -> String {
    all.iter().map(|t| t.name.as_str()).collect::<Vec<_>>().join(", ")
}

pub fn call(_source: &Source, p: &CallParts) -> String {
    let waits = if p.is_await { "await " } else { "" };
    if p.is_expression {
        return format!("{waits}{}({})", p.callee, p.arguments.join(", "));
    }
    let (before, given) = targets(&p.results, &p.indent);
    let head = if p.is_return { format!("return {waits}") } else { format!("{given}{waits}") };
    let one = format!("{head}{}({});", p.callee, p.arguments.join(", "));
    let fits = p.indent.chars().count() + one.chars().count() <= p.width && !one.contains('\n');
    let runs_on =
        p.arguments.split_last().is_some_and(|(l, o)| l.contains('\n') && !o.iter().any(|a| a.contains('\n')));
    if p.arguments.is_empty() || fits || runs_on {
        return before + &one;
    }
    let inner = format!("{}{}", p.indent, p.unit);
    format!("{before}{head}{}(\n{});", p.callee, filled(&p.arguments, &inner, ");", WIDTH))
}

/// `if (F(a)) { return; }`, or the same with a value that is kept for a moment.
pub fn leaving(s: &Source, p: &CallParts, word: &str, temporary: Option<&str>) -> String {
    let (indent, unit) = (&p.indent, &p.unit);
    let Some(t) = temporary else {
        let bare = call(s, &CallParts { is_expression: true, ..p.clone() });
        return block(s, &format!("if ({bare})"), &format!("{indent}{unit}{word};"), indent);
    };
    let of = p.result_type.clone().unwrap_or_else(|| "var".into());
    let results = vec![Target { name: t.into(), from: t.into(), declared: Some(of), of_type: None }];
    let given = call(s, &CallParts { results, ..p.clone() });
    let rest = block(s, &format!("if ({t} != null)"), &format!("{indent}{unit}return {t};"), indent);
    format!("{given}\n{indent}{rest}")
}

pub fn optional(parameter: &str, is_flag: bool, action: &str, indent: &str, unit: &str) -> String {
    let given = if is_flag { parameter.to_string() } else { format!("{parameter} != null") };
    format!("if ({given})\n{indent}{{\n{indent}{unit}{action}\n{indent}}}")
}
