//! The Java that is written: each form by the file that knows it.

use super::{Java, bases, bundle, functions, loops, signatures, write};
use crate::lang::{
    Bases, Bundle, CallParts, FunctionHead, FunctionParts, FunctionType, Held, Loops, Reach, Signature, Writer, camel,
};
use crate::names::Source;
use crate::text::Edit;
use crate::tree::NodeId;

impl Writer for Java {
    fn bases(&self) -> Option<&'static dyn Bases> {
        Some(&bases::Classes)
    }
    fn with_reach(&self, source: &Source, declaration: NodeId, reach: Reach) -> Option<Vec<Edit>> {
        Some(write::with_reach(source, declaration, reach))
    }
    fn loops(&self) -> Option<&'static dyn Loops> {
        Some(&loops::Arrays)
    }
    fn function_name(&self, words: &[String], _private: bool, _member: bool) -> String {
        camel(words)
    }
    fn variable_name(&self, words: &[String]) -> String {
        camel(words)
    }
    fn add_parameter(&self, source: &Source, function: NodeId, parameter: &Signature) -> Option<Edit> {
        signatures::with_parameter(source, function, parameter)
    }
    fn keep_signature(&self, source: &Source, function: NodeId, parameter: &Signature) -> Option<Edit> {
        signatures::kept(source, function, parameter)
    }
    fn write_declaration(&self, _source: &Source, locals: &[(String, Option<String>)], indent: &str) -> String {
        let line = |(name, of): &(String, Option<String>)| format!("{} {name};", of.as_deref().unwrap_or("var"));
        locals.iter().map(line).collect::<Vec<_>>().join(&format!("\n{indent}"))
    }
    fn write_function(&self, source: &Source, parts: &FunctionParts) -> String {
        write::function(source, parts)
    }
    fn write_call(&self, source: &Source, parts: &CallParts) -> String {
        write::call(source, parts)
    }
    fn write_value(&self, _source: &Source, expression: &str) -> String {
        format!("return {expression};")
    }
    fn write_leaving(&self, source: &Source, call: &CallParts, word: &str, temporary: Option<&str>) -> String {
        write::leaving(source, call, word, temporary)
    }
    fn write_invocation(&self, parameter: &str, of_type: Option<&str>, arguments: &[String]) -> String {
        let member = of_type.and_then(functions::member).unwrap_or("apply");
        format!("{parameter}.{member}({})", arguments.join(", "))
    }
    fn function_member(&self, of_type: &str) -> Option<&'static str> {
        functions::member(of_type)
    }
    fn imports_for_type(&self, at: &Source, of_type: &str) -> Vec<(String, String)> {
        functions::imports(at, of_type)
    }
    fn write_lambda(&self, parameters: &[String], expression: &str) -> String {
        match parameters {
            [one] => format!("{one} -> {expression}"),
            all => format!("({}) -> {expression}", all.join(", ")),
        }
    }
    fn write_optional(&self, parameter: &str, _is_flag: bool, action: &str, indent: &str, unit: &str) -> String {
        format!("if ({parameter}) {{\n{indent}{unit}{action}\n{indent}}}")
    }
    fn write_return(&self, _source: &Source, results: &[String], bundle: Option<&str>) -> String {
        match (results, bundle) {
            ([], _) => String::new(),
            (all, Some(name)) => format!("return new {name}({});", all.join(", ")),
            ([one, ..], None) => format!("return {one};"),
        }
    }
    fn write_bundle(&self, b: &Bundle, indent: &str, unit: &str) -> Option<String> {
        Some(bundle::write(b, indent, unit))
    }
    fn bundles_shortly(&self, members: &[(String, String)], edition: u8) -> bool {
        bundle::is_short(members, edition)
    }
    fn makes_function_types(&self) -> bool {
        true
    }
    fn write_function_type(&self, of: &FunctionType, indent: &str, unit: &str) -> Option<(String, &'static str)> {
        Some(functions::write(of, indent, unit))
    }
    fn function_type_of(&self, source: &Source, class: NodeId) -> Option<FunctionHead> {
        functions::head(source, class)
    }
    fn bundle_of(&self, source: &Source, class: NodeId) -> Option<Held> {
        bundle::held(source, class)
    }
    fn blank_lines(&self) -> (usize, usize) {
        (1, 1)
    }
}
