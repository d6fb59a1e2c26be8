//! Writing code in the habits of the file: its semicolons, quotes and trailing commas.

use super::style::Style;
use crate::lang::written::doc_comment;
use crate::lang::{CallParts, FunctionParts, MethodKind, Reach, Signature, Target};
use crate::names::Source;
use crate::text::Edit;
use crate::tree::{Field, NodeId, Role};

pub fn function(source: &Source, p: &FunctionParts) -> String {
    let mut head = String::new();
    match p.method {
        Some(kind) => {
            head.push_str(match source.lang.needs_types() {
                true if p.reach > Reach::Own => "protected ",
                true => "private ",
                false => "",
            });
            head.push_str(if kind == MethodKind::Instance { "" } else { "static " });
            head.push_str(if p.is_async { "async " } else { "" });
            head.push_str(if p.is_generator { "*" } else { "" });
        }
        None => {
            let by_word = !super::modules::system(&source.path, &source.tree, &source.text)
                .is_some_and(|s| s.starts_with("require"));
            head.push_str(if p.reach > Reach::Own && by_word { "export " } else { "" });
            head.push_str(if p.is_async { "async function " } else { "function" });
            head.push_str(if p.is_generator {
                "* "
            } else if p.is_async {
                ""
            } else {
                " "
            });
        }
    }
    head.push_str(&p.name);
    if !p.type_parameters.is_empty() {
        head.push_str(&format!("<{}>", p.type_parameters.join(", ")));
    }
    let mut params: Vec<String> =
        p.parameters.iter().map(|(n, t)| t.as_ref().map_or_else(|| n.clone(), |t| format!("{n}: {t}"))).collect();
    params.extend(p.optional.as_ref().map(|(n, t)| t.as_ref().map_or_else(|| n.clone(), |t| format!("{n}?: {t}"))));
    let style = Style::of(source);
    head.push_str(style.gap);
    let returns = p.returns.as_ref().map_or(String::new(), |r| format!(": {r}"));
    let line = format!("{}{head}({}){returns} {{\n", p.indent, params.join(", "));
    let mut out = p.doc.as_ref().map_or(String::new(), |d| doc_comment(d, &p.indent));
    if line.chars().count() <= 101 {
        out.push_str(&line);
    } else {
        let comma = if style.trailing_commas { "," } else { "" };
        let inner = format!("\n{}{}", p.indent, p.unit);
        let rows = params.join(&format!(",{inner}"));
        out.push_str(&format!("{}{head}({inner}{rows}{comma}\n{}){returns} {{\n", p.indent, p.indent));
    }
    out.push_str(&p.body);
    out.push_str(&format!("\n{}}}\n", p.indent));
    out
}

pub fn declaration(source: &Source, locals: &[(String, Option<String>)]) -> String {
    let typed = |(name, of): &(String, Option<String>)| of.as_ref().map_or(name.clone(), |t| format!("{name}: {t}"));
    let names: Vec<String> = locals.iter().map(typed).collect();
    format!("let {}{}", names.join(", "), Style::of(source).end())
}

pub fn hand_over(source: &Source, results: &[String]) -> String {
    let end = Style::of(source).end();
    match results {
        [] => String::new(),
        [one] => format!("return {one}{end}"),
        many => format!("return {{ {} }}{end}", many.join(", ")),
    }
}

pub fn call(source: &Source, p: &CallParts) -> String {
    let style = Style::of(source);
    let (before, head, after) = targets(&p.results, &style, &p.indent);
    let mut head = format!("{}{head}", if p.is_return { "return " } else { "" });
    head.push_str(if p.is_await { "await " } else { "" });
    head.push_str(if p.delegates { "yield* " } else { "" });
    head.push_str(&p.callee);
    if p.is_expression {
        let bare = format!("{}({})", p.callee, p.arguments.join(", "));
        return if p.is_await { format!("(await {bare})") } else { bare };
    }
    let end = format!("{after}{}", style.end());
    let one = format!("{head}({}){end}", p.arguments.join(", "));
    if p.arguments.is_empty() || p.indent.chars().count() + one.chars().count() <= p.width && !one.contains('\n') {
        return before + &one;
    }
    // a function at the end of the arguments may run over lines by itself
    let (last, others) = p.arguments.split_last().expect("not empty");
    if last.contains('\n') && !others.iter().any(|a| a.contains('\n')) {
        return before + &one;
    }
    let inner = format!("\n{}{}", p.indent, p.unit);
    let comma = if style.trailing_commas { "," } else { "" };
    let rows = p.arguments.join(&format!(",{inner}"));
    format!("{before}{head}({inner}{rows}{comma}\n{}){end}", p.indent)
}

/// What stands before the statement, before the call and after it.
fn targets(results: &[Target], style: &Style, indent: &str) -> (String, String, String) {
    let none = String::new;
    match results {
        [] => (none(), none(), none()),
        [one] => {
            let word = one.declared.as_ref().map_or(String::new(), |d| format!("{d} "));
            (none(), format!("{word}{} = ", one.name), none())
        }
        many => {
            let field = |t: &Target| if t.from == t.name { t.name.clone() } else { format!("{}: {}", t.from, t.name) };
            let pattern = format!("{{ {} }}", many.iter().map(field).collect::<Vec<_>>().join(", "));
            let words: Vec<&Option<String>> = many.iter().map(|t| &t.declared).collect();
            if let Some(word) = words[0].as_ref().filter(|_| words.iter().all(|w| *w == words[0])) {
                return (none(), format!("{word} {pattern} = "), none());
            }
            let declared = many.iter().filter_map(|t| {
                let word = if t.declared.as_deref()? == "var" { "var" } else { "let" };
                let of_type = t.of_type.as_ref().map_or(String::new(), |k| format!(": {k}"));
                Some(format!("{word} {}{of_type}{}\n{indent}", t.name, style.end()))
            });
            // without semicolons a bracket would go on with the line before it
            let open = if style.semicolons { "(" } else { ";(" };
            (declared.collect(), format!("{open}{pattern} = "), ")".into())
        }
    }
}

/// `if (f(a)) return;`, or the same with a value that is kept for a moment.
pub fn leaving(source: &Source, p: &CallParts, word: &str, temporary: Option<&str>) -> String {
    let end = Style::of(source).end();
    let Some(t) = temporary else {
        let bare = call(source, &CallParts { is_expression: true, is_await: false, ..p.clone() });
        let wait = if p.is_await { "await " } else { "" };
        return format!("if ({wait}{bare}) {word}{end}");
    };
    let results = vec![Target { name: t.into(), from: t.into(), declared: Some("const".into()), of_type: None }];
    let given = call(source, &CallParts { results, ..p.clone() });
    format!("{given}\n{}if ({t} !== null) return {t}{end}", p.indent)
}

/// After the last parameter; none after one that takes all the rest.
pub fn parameter(s: &Source, function: NodeId, p: &Signature) -> Option<Edit> {
    let t = &s.tree;
    let list = t.child(function, Field::Parameters).filter(|l| t.role(*l) == Role::Parameters)?;
    let all: Vec<NodeId> = t.children(list).collect();
    if all.iter().any(|x| s.str(*x).starts_with("...")) {
        return None;
    }
    // the type of a default value is inferred
    let mut text = p.name.to_string();
    match (p.default, p.of_type) {
        (Some(d), _) => text.push_str(&format!(" = {d}")),
        (None, Some(kind)) => text.push_str(&format!(": {kind}")),
        (None, None) if s.lang.needs_types() => return None,
        (None, None) => {}
    }
    Some(match all.last() {
        Some(last) => Edit::new(t.span(*last).end, t.span(*last).end, format!(", {text}")),
        None => Edit::new(t.span(list).start + 1, t.span(list).start + 1, text),
    })
}

/// Some variable of the file is one of its block.
pub fn declares_in_blocks(s: &Source) -> bool {
    let t = &s.tree;
    let declares = |n: NodeId| t.role(n) == Role::Declare && !s.str(n).starts_with("var");
    t.ids().any(declares)
}
