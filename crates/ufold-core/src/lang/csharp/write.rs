//! Writing C#: a method and a call of it, with its brackets where the file has them.

use crate::lang::{CallParts, FunctionParts, MethodKind, Reach, Target};
use crate::names::Source;
use crate::tree::{Field, Role};

/// Longest line of a head.
pub(super) const WIDTH: usize = 100;

/// In this file the bracket of a method stands on a line of its own.
pub(super) fn opens_below(s: &Source) -> bool {
    let t = &s.tree;
    let has_body = |n: &crate::tree::NodeId| matches!(t.role(*n), Role::Function | Role::Class | Role::If);
    let of_lines = |b: &crate::tree::NodeId| t.role(*b) == Role::Block && s.str(*b).contains('\n');
    let bodies = t.ids().filter(has_body).filter_map(|f| t.child(f, Field::Body)).filter(of_lines);
    let below = |at: usize| s.text[..at].rsplit('\n').next().is_some_and(|l| l.trim().is_empty());
    let (own, all) = bodies.fold((0, 0), |(own, all), b| (own + usize::from(below(t.span(b).start)), all + 1));
    own * 2 >= all
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
        format!("{}{head}(\n{})", p.indent, filled(&all, &inner, ")"))
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

/// A list in as few lines as fit; `end` follows the last.
pub(super) fn filled(list: &[String], indent: &str, end: &str) -> String {
    let mut lines = vec![indent.to_string()];
    for (i, item) in list.iter().enumerate() {
        let more = if i + 1 == list.len() { end.len() } else { 1 };
        let line = lines.last_mut().expect("never empty");
        let space = if line.len() == indent.len() { "" } else { " " };
        let fits = line.chars().count() + space.len() + item.chars().count() + more <= WIDTH;
        if fits || space.is_empty() {
            line.push_str(&format!("{space}{item}"));
        } else {
            lines.push(format!("{indent}{item}"));
        }
        if i + 1 < list.len() {
            lines.last_mut().expect("never empty").push(',');
        }
    }
    lines.join("\n")
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
    format!("{before}{head}{}(\n{});", p.callee, filled(&p.arguments, &inner, ");"))
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
