//! Writing Java: a method and a call of it.

use crate::lang::written::{doc_comment, filled};
use crate::lang::{CallParts, FunctionParts, MethodKind, Reach, Target};
use crate::names::Source;
use crate::text::Edit;
use crate::tree::{NodeId, Role};

/// Longest line of a head.
pub(super) const WIDTH: usize = 100;

/// The author writes `final` before most parameters.
pub(super) fn finals(source: &Source) -> bool {
    let t = &source.tree;
    let all =
        t.ids().filter(|n| t.role(*n) == Role::Parameter && t.ancestor(*n, &[Role::Function, Role::Lambda]).is_some());
    let is_final = |n: &NodeId| t.children(*n).any(|c| t.role(c) == Role::Token && source.str(c) == "final");
    let (with, without): (Vec<NodeId>, Vec<NodeId>) = all.partition(is_final);
    with.len() > without.len()
}

/// The word by which a declaration says who may name it is another one, or none.
pub fn with_reach(source: &Source, declaration: NodeId, reach: Reach) -> Vec<Edit> {
    let t = &source.tree;
    let word = match reach {
        Reach::Own => "private",
        Reach::Near => "",
        Reach::Below => "protected",
        Reach::All => "public",
    };
    let says = |n: &NodeId| t.role(*n) == Role::Token && ["private", "protected", "public"].contains(&source.str(*n));
    let gap = if word.is_empty() { "" } else { " " };
    if let Some(n) = t.children(declaration).find(says) {
        let (start, end) = (t.span(n).start, t.span(n).end);
        let blank = source.text[end..].len() - source.text[end..].trim_start().len();
        return vec![Edit::new(start, end + blank, format!("{word}{gap}"))];
    }
    // the word `class` is no node
    let marks = t.children(declaration).take_while(|c| t.role(*c) == Role::Decorator).last();
    let at = marks.map_or(t.span(declaration).start, |m| {
        let rest = &source.text[t.span(m).end..];
        t.span(m).end + (rest.len() - rest.trim_start().len())
    });
    vec![Edit::new(at, at, format!("{word}{gap}"))]
}

pub fn function(source: &Source, p: &FunctionParts) -> String {
    let mut head = String::new();
    if p.method.is_some() {
        head.push_str(match p.reach {
            Reach::Own => "private ",
            Reach::Near => "",
            Reach::Below => "protected ",
            Reach::All => "public ",
        });
    }
    // the members of a sketch are those of an object
    let is_static = p.method == Some(MethodKind::Static) || p.method.is_none() && p.without_object;
    head.push_str(if is_static { "static " } else { "" });
    if !p.type_parameters.is_empty() {
        head.push_str(&format!("<{}> ", p.type_parameters.join(", ")));
    }
    head.push_str(p.returns.as_deref().unwrap_or("void"));
    head.push_str(&format!(" {}", p.name));
    let word = if finals(source) && !p.writes_parameters { "final " } else { "" };
    let typed = |(name, of): &(String, Option<String>)| format!("{word}{} {name}", of.as_deref().unwrap_or("Object"));
    let parameters: Vec<String> = p.parameters.iter().map(typed).collect();
    let throws = if p.throws.is_empty() { String::new() } else { format!(" throws {}", p.throws.join(", ")) };
    let mut out = p.doc.as_ref().map_or(String::new(), |d| doc_comment(d, &p.indent));
    let line = format!("{}{head}({}){throws} {{", p.indent, parameters.join(", "));
    if line.chars().count() <= WIDTH {
        out.push_str(&line);
    } else {
        let inner = format!("{}{}{}", p.indent, p.unit, p.unit);
        let rows = filled(&parameters, &inner, &format!("){throws} {{"), WIDTH);
        out.push_str(&format!("{}{head}(\n{rows}){throws} {{", p.indent));
    }
    out.push_str(&format!("\n{}\n{}}}\n", p.body, p.indent));
    out
}

pub fn call(_source: &Source, p: &CallParts) -> String {
    match &p.bundled {
        Some(b) => {
            let value = plain_call(&CallParts { results: Vec::new(), ..p.clone() });
            super::bundle::unpacked(&value, &p.indent, b, &p.results)
        }
        None => plain_call(p),
    }
}

fn plain_call(p: &CallParts) -> String {
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
    format!("{head}{}(\n{});", p.callee, filled(&p.arguments, &inner, ");", WIDTH))
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
