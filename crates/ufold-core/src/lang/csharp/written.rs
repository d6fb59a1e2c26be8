//! The C# that is written: each form by the file that knows it.

use super::{CSharp, loops, spelling, write};
use crate::lang::{CallParts, FunctionParts, Loops, Signature, Writer, camel, capitalized};
use crate::names::Source;
use crate::text::Edit;
use crate::tree::{Field, NodeId, Role};

impl Writer for CSharp {
    fn function_name(&self, words: &[String], _private: bool, _member: bool) -> String {
        words.iter().map(|w| capitalized(w)).collect()
    }
    fn variable_name(&self, words: &[String]) -> String {
        camel(words)
    }
    fn add_parameter(&self, s: &Source, function: NodeId, p: &Signature) -> Option<Edit> {
        let t = &s.tree;
        let list = t.child(function, Field::Parameters)?;
        let all: Vec<NodeId> = t.children(list).collect();
        let rest = |x: &NodeId| t.role(*x) != Role::Parameter || s.str(*x).starts_with("params ");
        if all.iter().any(rest) {
            return None;
        }
        // callers leave out what the compiler knows
        let constant = |d: &str| d == "null" || spelling::literal(d.trim_start_matches('-')).is_some();
        if p.default.is_some_and(|d| !constant(d) || d.contains(['{', ' ']) && !d.starts_with('"')) {
            return None;
        }
        let default = p.default.map_or(String::new(), |d| format!(" = {d}"));
        let text = format!("{} {}{default}", p.of_type?, p.name);
        Some(match all[..] {
            [] => Edit::new(t.span(list).start + 1, t.span(list).start + 1, text),
            [.., last] => Edit::new(t.span(last).end, t.span(last).end, format!(",{}{text}", s.gap_in(list))),
        })
    }
    fn write_declaration(&self, _s: &Source, locals: &[(String, Option<String>)], indent: &str) -> String {
        let line = |(name, of): &(String, Option<String>)| format!("{} {name};", of.as_deref().unwrap_or("var"));
        locals.iter().map(line).collect::<Vec<_>>().join(&format!("\n{indent}"))
    }
    fn write_function(&self, s: &Source, parts: &FunctionParts) -> String {
        write::function(s, parts)
    }
    fn write_call(&self, s: &Source, parts: &CallParts) -> String {
        write::call(s, parts)
    }
    fn write_value(&self, _s: &Source, expression: &str) -> String {
        format!("return {expression};")
    }
    fn write_leaving(&self, s: &Source, call: &CallParts, word: &str, temporary: Option<&str>) -> String {
        write::leaving(s, call, word, temporary)
    }
    fn imports_for_type(&self, at: &Source, of_type: &str) -> Vec<(String, String)> {
        let name = of_type.split('<').next().unwrap_or("");
        let needed = ["Func", "Action"].contains(&name) && !spelling::sees(at, "System");
        if needed { vec![("using System;".to_string(), name.to_string())] } else { Vec::new() }
    }
    fn write_lambda(&self, parameters: &[String], expression: &str) -> String {
        match parameters {
            [one] => format!("{one} => {expression}"),
            all => format!("({}) => {expression}", all.join(", ")),
        }
    }
    fn loops(&self) -> Option<&'static dyn Loops> {
        Some(&loops::Arrays)
    }
    fn write_optional(&self, parameter: &str, is_flag: bool, action: &str, indent: &str, unit: &str) -> String {
        write::optional(parameter, is_flag, action, indent, unit)
    }
    fn write_return(&self, _s: &Source, results: &[String], _bundle: Option<&str>) -> String {
        match results {
            [] => String::new(),
            [one] => format!("return {one};"),
            many => format!("return ({});", many.join(", ")),
        }
    }
    fn blank_lines(&self) -> (usize, usize) {
        (1, 1)
    }
}
