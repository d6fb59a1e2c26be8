//! Lua 5.1 to 5.4 and LuaJIT.
//!
//! Not known here: classes, which programs make out of tables as they like; which file a name that `require` gives stands
//! in where a program sets its own path.

mod grammar;
mod library;
mod loops;
mod modules;
mod scopes;
mod suites;
#[cfg(test)]
mod tests;
mod write;

use super::{
    CallParts, Collections, Definitions, Doing, FunctionParts, Layout, Loops, MethodKind, ModuleName, Modules, Passed,
    Scoping, Semantics, Signature, Suites, Syntax, Typing, Writer, values,
};
use crate::names::{BindKind, BindingId, ImportRef, Names, Source};
use crate::text::Edit;
use crate::tree::{Field, Grammar, NodeId, Role, Standing, Tree};
use crate::types::Ty;

pub struct Lua;

/// `local function`
fn is_local(t: &Tree, function: NodeId, text: &str) -> bool {
    t.text(function, text).starts_with("local")
}

/// `function M:f()`, which has a parameter `self` that is not written.
fn is_method(t: &Tree, function: NodeId, text: &str) -> bool {
    let left = t.parent(function).and_then(|p| t.child(p, Field::Left)).filter(|_| t.role(function) == Role::Function);
    left.is_some_and(|l| calls_with_object(t, l, text))
}

/// `object:member`
fn calls_with_object(t: &Tree, member: NodeId, text: &str) -> bool {
    t.children(member).any(|c| t.role(c) == Role::Token && t.text(c, text) == ":")
}

impl Syntax for Lua {
    fn name(&self) -> &'static str {
        "lua"
    }
    fn extensions(&self) -> &'static [&'static str] {
        &["lua"]
    }
    fn grammar(&self) -> &Grammar {
        &grammar::GRAMMAR
    }
    fn is_comment(&self, kind: &str) -> bool {
        kind == "comment"
    }
    fn refine(&self, role: Role, field: Field, parent: Role, _first: bool, at: &Standing) -> (Role, Field) {
        grammar::refine(role, field, parent, at)
    }
    fn is_keyword(&self, word: &str) -> bool {
        library::KEYWORDS.contains(&word)
    }
    fn is_identifier(&self, word: &str) -> bool {
        let mut chars = word.chars();
        chars.next().is_some_and(|c| c.is_ascii_alphabetic() || c == '_')
            && chars.all(|c| c.is_ascii_alphanumeric() || c == '_')
            && !self.is_keyword(word)
    }
    fn format_of(&self, source: &Source, expression: NodeId) -> Option<(NodeId, char)> {
        let t = &source.tree;
        let callee = t.child(expression, Field::Callee).map(|c| source.str(c))?;
        let first = t.child(expression, Field::Arguments).and_then(|a| t.children(a).next());
        first.filter(|_| callee == "string.format").map(|f| (f, '%'))
    }
    fn stands_before_member(&self, role: Role, _text: &str) -> bool {
        matches!(role, Role::Name | Role::Member | Role::Index | Role::Call | Role::Paren)
    }
    fn goes_on_with(&self, next: &str) -> bool {
        next.starts_with('(')
    }
    fn lambdas_return(&self) -> bool {
        true
    }
    fn is_declaring_word(&self, word: &str) -> bool {
        word == "local"
    }
    fn is_always_true(&self, condition: &str) -> bool {
        matches!(condition.trim_matches(['(', ')', ' ']), "true" | "1")
    }
    fn goes_on_always(&self, condition: &str) -> bool {
        matches!(condition.trim_matches(['(', ')', ' ']), "false" | "nil")
    }
    fn read_otherwise(&self, text: &str) -> Option<String> {
        let words = ["_ENV", "setfenv"];
        let is_word = |at: usize, w: &str| {
            let near = |c: char| c.is_alphanumeric() || c == '_';
            !text[..at].ends_with(near) && !text[at + w.len()..].starts_with(near)
        };
        let found = words.iter().find(|w| text.match_indices(**w).any(|(at, _)| is_word(at, w)));
        found.map(|w| format!("`{w}` says what its globals are"))
    }
    fn truth(&self, holds: bool) -> &'static str {
        if holds { "true" } else { "false" }
    }
    fn negation(&self) -> &'static str {
        "not "
    }
    fn case_members(&self) -> [&'static str; 2] {
        ["upper", "lower"]
    }
    fn nothing(&self) -> &'static str {
        "nil"
    }
    fn differs(&self) -> &'static str {
        "~="
    }
    fn is_constructor(&self, _name: &str) -> bool {
        false
    }
    fn line_comment(&self) -> &'static str {
        "--"
    }
    fn block_comment(&self) -> Option<(&'static str, &'static str)> {
        Some(("--[[", "]]"))
    }
    fn directives(&self) -> &'static [&'static str] {
        library::DIRECTIVES
    }
    fn comment_text<'t>(&self, comment: &'t str) -> &'t str {
        let text = comment.trim_start_matches('-');
        let text = text.strip_prefix("[[").map_or(text, |t| t.trim_end_matches(['-', ']']));
        text.trim()
    }
    fn default_unit(&self) -> &'static str {
        "  "
    }
    fn default_width(&self) -> usize {
        100
    }
}

impl Scoping for Lua {
    fn names(&self, tree: &Tree, text: &str) -> Names {
        scopes::names(tree, text)
    }
    fn needs_class(&self, _name: &str) -> bool {
        false
    }
    fn is_mangled(&self, _name: &str) -> bool {
        false
    }
    fn is_builtin(&self, name: &str) -> bool {
        library::GLOBALS.contains(&name)
    }
    fn is_module_own(&self, name: &str) -> bool {
        name == "..."
    }
    fn method_kind(&self, _name: &str, _decorators: &[&str]) -> MethodKind {
        MethodKind::Instance
    }
    fn is_receiver(&self, name: &str) -> bool {
        name == "self"
    }
    fn is_private(&self, name: &str) -> bool {
        name.starts_with('_')
    }
    fn is_frame_name(&self, _name: &str) -> bool {
        false
    }
    fn is_special_member(&self, name: &str) -> bool {
        name.starts_with("__")
    }
    fn object_word(&self) -> Option<&'static str> {
        None
    }
    fn members_keep_object(&self) -> bool {
        false
    }
    fn is_global(&self, source: &Source, b: BindingId) -> bool {
        let t = &source.tree;
        let binding = source.names.binding(b);
        let function = t.parent(binding.first).filter(|p| t.role(*p) == Role::Function);
        binding.kind == BindKind::Function && function.is_some_and(|f| !is_local(t, f, &source.text))
    }
    fn free_names_are_global(&self) -> bool {
        true
    }
    fn declares_locals(&self) -> bool {
        true
    }
    fn declares_before_use(&self) -> bool {
        true
    }
    fn most_locals(&self) -> usize {
        // `LUAI_MAXVARS` (Lua 5.1 to 5.4)
        200
    }
    fn declares_again(&self) -> bool {
        true
    }
}

impl Semantics for Lua {
    fn gives_several(&self, source: &Source, value: NodeId) -> bool {
        matches!(source.tree.role(value), Role::Call | Role::FrameName)
    }
    fn takes_several(&self, source: &Source, place: NodeId) -> bool {
        let t = &source.tree;
        let Some(p) = t.parent(place) else { return false };
        // all but the last of a list are one value each, and so is what stands in brackets (Lua 5.4 Manual, 3.4)
        let is_last = t.end(place) == t.end(p);
        match t.role(p) {
            Role::Arguments | Role::List | Role::Dict | Role::Values => is_last,
            Role::Return => true,
            Role::Assign => t.child(p, Field::Left).is_some_and(|l| t.role(l) == Role::Pattern),
            Role::For => t.field(place) == Field::Right,
            _ => false,
        }
    }
    fn closes_at_end(&self, source: &Source, declaration: NodeId) -> bool {
        let t = &source.tree;
        t.subtree(declaration).any(|n| t.role(n) == Role::Token && source.str(n).replace(' ', "") == "<close>")
    }
    fn loops_call(&self) -> bool {
        true
    }
    fn loop_variables_are_fresh(&self) -> bool {
        true
    }
    fn fault_finders(&self) -> &'static [&'static str] {
        &["debug.debug"]
    }
    fn quiet_calls(&self) -> &'static [&'static str] {
        library::QUIET_CALLS
    }
    fn collections(&self) -> &'static Collections {
        &library::COLLECTIONS
    }
    fn printers(&self) -> &'static [&'static str] {
        &["print", "io.write"]
    }
    fn runs_texts(&self, callee: &str) -> bool {
        ["load", "loadstring"].contains(&callee)
    }
    fn reads_frame(&self, callee: &str, call: &str) -> bool {
        // an error can name the place of a function's caller
        let arguments = || call[callee.len()..].trim_end().trim_end_matches(')');
        let of_caller = || arguments().rsplit_once(',').is_some_and(|(_, level)| !["0", "1"].contains(&level.trim()));
        library::FRAME_READERS.contains(&callee) || callee == "error" && of_caller()
    }
    fn reads_locals(&self, callee: &str, _call: &str) -> bool {
        ["debug.getlocal", "debug.setlocal"].contains(&callee)
    }
    fn stack_words(&self) -> &'static [&'static str] {
        &["debug.getinfo", "debug.sethook"]
    }
    fn counts_frames(&self, _argument: &str) -> bool {
        false
    }
    fn swallows(&self, _manager: &str) -> bool {
        false
    }
    fn lets_exceptions_through(&self, _manager: &str) -> bool {
        true
    }
    fn doing(&self, source: &Source, expression: NodeId) -> Doing {
        super::doing_of_member(source, expression)
    }
    fn listing_words(&self) -> &'static [&'static str] {
        &["pairs", "next"]
    }
    fn member_listing_words(&self) -> &'static [&'static str] {
        &["pairs", "next"]
    }
    fn lookup_words(&self) -> &'static [&'static str] {
        &["rawget", "rawset", "pairs", "next"]
    }
    fn data_words(&self) -> &'static [&'static str] {
        &["decode", "parse"]
    }
    fn name_members(&self) -> &'static [&'static str] {
        &[]
    }
    fn class_of(&self, _source: &Source, _expression: NodeId) -> Option<NodeId> {
        None
    }
    fn demanded_members(&self) -> &'static [&'static str] {
        &[]
    }
    fn harmless_bases(&self) -> &'static [&'static str] {
        &[]
    }
    fn members_are_keys(&self) -> bool {
        true
    }
    fn passes_extra_arguments(&self) -> bool {
        true
    }
    fn passes_by_name(&self, _source: &Source, _function: NodeId) -> bool {
        false
    }
    fn needs_constant(&self, source: &Source, literal: NodeId) -> bool {
        // what a call takes without brackets is written out
        let t = &source.tree;
        t.parent(literal).is_some_and(|p| t.role(p) == Role::Arguments && !source.str(p).starts_with('('))
    }
    fn is_plain_top_level(&self, tree: &Tree, statement: NodeId, text: &str) -> bool {
        modules::is_plain_top_level(tree, statement, text)
    }
}

impl Typing for Lua {
    fn needs_types(&self) -> bool {
        false
    }
    fn type_of(&self, _source: &Source, _node: NodeId, _definitions: &Definitions) -> Ty {
        Ty::UNKNOWN
    }
    fn spell(&self, _ty: Ty, _at: &Source, _definitions: &Definitions) -> Option<String> {
        None
    }
    fn literal_type(&self, _literal: &str) -> Option<&'static str> {
        None
    }
    fn no_result_type(&self) -> &'static str {
        ""
    }
}

impl Modules for Lua {
    fn imports_of(&self, tree: &Tree, statement: NodeId, text: &str) -> Vec<ImportRef> {
        modules::imports(tree, statement, text)
    }
    fn loading_words(&self) -> &'static [&'static str] {
        &["require", "dofile", "loadfile"]
    }
    fn module_table(&self) -> Option<&'static str> {
        Some("package.loaded")
    }
    fn loads_without_a_name(&self) -> bool {
        true
    }
    fn exports_by_name(&self, _source: &Source, _b: BindingId) -> bool {
        false
    }
    fn hides(&self, source: &Source, b: BindingId) -> bool {
        !self.is_global(source, b)
    }
    fn module_name(&self, path: &str, _exists: &dyn Fn(&str) -> bool) -> Option<ModuleName> {
        modules::module_name(path)
    }
    fn resolve_import(&self, from: &ModuleName, _path: &str, import: &ImportRef) -> Vec<String> {
        modules::resolve(from, import)
    }
    fn is_standard_module(&self, module: &str) -> bool {
        library::GLOBALS.contains(&module)
    }
    fn module_system(&self, _path: &str, tree: &Tree, text: &str) -> Option<&'static str> {
        modules::system(tree, text)
    }
    fn export_line(&self, source: &Source, _like: &Source, name: &str) -> Option<String> {
        modules::export_line(source, name)
    }
    fn can_export(&self, source: &Source) -> bool {
        modules::returned(&source.tree, &source.text).is_some()
    }
    fn exports_at(&self, source: &Source) -> usize {
        modules::exports_at(source)
    }
    fn is_exports(&self, source: &Source, object: &str) -> bool {
        modules::returned(&source.tree, &source.text) == Some(object)
    }
    fn file_listing_words(&self) -> &'static [&'static str] {
        &["popen", "dir"]
    }
    fn import_line(&self, from: &Source, to: &ModuleName, name: &str, _relative: bool) -> Option<String> {
        modules::import_line(from, to, name)
    }
    fn extend_import(&self, _from: &Source, _statement: NodeId, _line: &str, _name: &str) -> Option<Edit> {
        None
    }
    fn passed_on(&self, _source: &Source) -> Vec<Passed> {
        Vec::new()
    }
}

impl Writer for Lua {
    fn function_name(&self, words: &[String], _private: bool, _member: bool) -> String {
        words.join("_")
    }
    fn variable_name(&self, words: &[String]) -> String {
        words.join("_")
    }
    fn add_parameter(&self, source: &Source, function: NodeId, parameter: &Signature) -> Option<Edit> {
        write::parameter(source, function, parameter)
    }
    fn write_declaration(&self, source: &Source, locals: &[(String, Option<String>)], _indent: &str) -> String {
        let names: Vec<&str> = locals.iter().map(|(n, _)| n.as_str()).collect();
        format!("local {}{}", names.join(", "), write::end(source))
    }
    fn write_function(&self, source: &Source, parts: &FunctionParts) -> String {
        write::function(source, parts)
    }
    fn write_call(&self, source: &Source, parts: &CallParts) -> String {
        write::call(source, parts)
    }
    fn write_value(&self, source: &Source, expression: &str) -> String {
        format!("return {expression}{}", write::end(source))
    }
    fn write_leaving(&self, source: &Source, call: &CallParts, word: &str, temporary: Option<&str>) -> String {
        write::leaving(source, call, word, temporary)
    }
    fn write_derived(&self, from: &str, how: values::Derivation) -> String {
        write::derived(from, how)
    }
    fn declaring_word(&self, _once: bool) -> &'static str {
        "local"
    }
    fn write_lambda(&self, parameters: &[String], expression: &str) -> String {
        format!("function({}) return {expression} end", parameters.join(", "))
    }
    fn loops(&self) -> Option<&'static dyn Loops> {
        Some(&loops::Tables)
    }
    fn write_optional(&self, parameter: &str, _is_flag: bool, action: &str, indent: &str, unit: &str) -> String {
        format!("if {parameter} then\n{indent}{unit}{action}\n{indent}end")
    }
    fn write_return(&self, source: &Source, results: &[String], _bundle: Option<&str>) -> String {
        let end = write::end(source);
        if results.is_empty() { String::new() } else { format!("return {}{end}", results.join(", ")) }
    }
    fn blank_lines(&self) -> (usize, usize) {
        (1, 1)
    }
}

impl Suites for Lua {
    fn test_command(&self, layout: &dyn Layout) -> Option<String> {
        suites::command(layout)
    }
}
