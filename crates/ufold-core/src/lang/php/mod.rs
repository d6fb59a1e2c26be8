//! PHP 7.4 to 8.4, in files that may be text with code in it.
//!
//! Not known here: what `__get` and its like do, which the careful answers stand for; where classes are loaded from, which
//! a program's own loader says; which mode of types (`strict_types`) callers are in.

mod grammar;
mod library;
mod loops;
mod modules;
mod places;
mod scopes;
mod suites;
#[cfg(test)]
mod tests;
mod types;
mod write;

use std::borrow::Cow;

use super::{
    CallParts, Collections, Definitions, Doing, Following, FunctionParts, Layout, Loops, MethodKind, ModuleName,
    Modules, Passed, Scoping, Semantics, Signature, Suites, Syntax, Typing, Writer, values,
};
use crate::names::{BindingId, ImportRef, Names, Source};
use crate::text::Edit;
use crate::tree::{Field, Grammar, NodeId, Role, Standing, Tree};
use crate::types::Ty;

pub struct Php;

/// A class, not a trait or an interface.
fn is_class(source: &Source, class: NodeId) -> bool {
    let head = source.str(class).split('{').next().unwrap_or("");
    !head.split_whitespace().take(2).any(|w| w == "trait" || w == "interface")
}

impl Syntax for Php {
    fn name(&self) -> &'static str {
        "php"
    }
    fn extensions(&self) -> &'static [&'static str] {
        &["php"]
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
        library::KEYWORDS.contains(&word.to_ascii_lowercase().as_str()) || word == "$this"
    }
    fn is_identifier(&self, word: &str) -> bool {
        let bare = word.strip_prefix('$').unwrap_or(word);
        let mut chars = bare.chars();
        chars.next().is_some_and(|c| c.is_ascii_alphabetic() || c == '_' || !c.is_ascii())
            && chars.all(|c| c.is_ascii_alphanumeric() || c == '_' || !c.is_ascii())
            // what the language has, no file has again
            && !self.is_keyword(word)
            && !(bare == word && library::is_function(word))
    }
    fn is_member_identifier(&self, word: &str) -> bool {
        !word.starts_with('$') && self.is_identifier(&format!("${word}"))
    }
    fn fits_in_template(&self, _template: &str, value: &str) -> bool {
        // a text takes variables and their members, nothing that is computed
        self.is_identifier(value) && value.starts_with('$')
    }
    fn is_text(&self, source: &Source, at: usize) -> bool {
        let t = &source.tree;
        let kinds = |n: &NodeId| match t.role(*n) {
            Role::FrameName => true,
            role => role == Role::Doc && t.parent(*n) == Some(Tree::ROOT),
        };
        let mut around = t.ids().filter(kinds).map(|n| (t.span(n), source.str(n)));
        // before the first mark, or between two of them
        let is_text = |(span, text): (crate::text::Span, &str)| match text {
            x if x.starts_with("<?") => at < span.end,
            x if x.starts_with("?>") => span.start < at && at < span.end,
            _ => false,
        };
        around.any(is_text)
    }
    fn variable_mark(&self) -> &'static str {
        "$"
    }
    fn last_word<'s>(&self, path: &'s str) -> &'s str {
        path.rsplit(['>', ':', '\\']).next().unwrap_or(path)
    }
    fn stands_before_member(&self, role: Role, _text: &str) -> bool {
        matches!(role, Role::Name | Role::Member | Role::Index | Role::Call | Role::Paren)
    }
    fn format_of(&self, source: &Source, expression: NodeId) -> Option<(NodeId, char)> {
        let t = &source.tree;
        let callee = t.child(expression, Field::Callee).map(|c| source.str(c))?;
        let first = t.child(expression, Field::Arguments).and_then(|a| t.children(a).next());
        first.filter(|_| ["sprintf", "printf", "\\sprintf"].contains(&callee)).map(|f| (f, '%'))
    }
    fn is_always_true(&self, condition: &str) -> bool {
        let bare = condition.trim_matches(['(', ')', ' ']).to_ascii_lowercase();
        bare.is_empty() || bare == "true" || bare == "1"
    }
    fn read_otherwise(&self, text: &str) -> Option<String> {
        let ends = text.contains("__halt_compiler");
        ends.then(|| "`__halt_compiler` ends the code, and what follows is read by its place".into())
    }
    fn truth(&self, holds: bool) -> &'static str {
        if holds { "true" } else { "false" }
    }
    fn negation(&self) -> &'static str {
        "!"
    }
    fn case_members(&self) -> [&'static str; 2] {
        ["strtoupper", "strtolower"]
    }
    fn nothing(&self) -> &'static str {
        "null"
    }
    fn is_nothing(&self, literal: &str) -> bool {
        literal.eq_ignore_ascii_case("null")
    }
    fn differs(&self) -> &'static str {
        "!=="
    }
    fn is_constructor(&self, name: &str) -> bool {
        name.eq_ignore_ascii_case("__construct")
    }
    fn is_construction(&self, call: &str) -> bool {
        call.starts_with("new ")
    }
    fn name_of_arguments(&self) -> Option<&'static str> {
        Some(": ")
    }
    fn line_comment(&self) -> &'static str {
        "//"
    }
    fn block_comment(&self) -> Option<(&'static str, &'static str)> {
        Some(("/*", "*/"))
    }
    fn directives(&self) -> &'static [&'static str] {
        library::DIRECTIVES
    }
    fn comment_text<'t>(&self, comment: &'t str) -> &'t str {
        comment.trim_start_matches(['/', '*', '#']).trim_end_matches("*/").trim()
    }
    fn default_unit(&self) -> &'static str {
        "    "
    }
    fn default_width(&self) -> usize {
        100
    }
}

impl Scoping for Php {
    fn names(&self, tree: &Tree, text: &str) -> Names {
        scopes::names(tree, text)
    }
    fn needs_class(&self, name: &str) -> bool {
        ["self", "static", "parent", "__CLASS__"].contains(&name)
    }
    fn is_mangled(&self, _name: &str) -> bool {
        false
    }
    fn is_builtin(&self, name: &str) -> bool {
        let bare = name.trim_start_matches('\\');
        library::is_function(bare)
            || library::ACTING_WORDS.contains(&bare)
            || library::SUPERGLOBALS.contains(&bare)
            || ["self", "static", "parent"].contains(&bare)
    }
    fn is_module_own(&self, name: &str) -> bool {
        ["__FILE__", "__DIR__", "__NAMESPACE__"].contains(&name)
    }
    fn is_member_too(&self, source: &Source, b: BindingId) -> bool {
        let t = &source.tree;
        let parameter = t.parent(source.names.binding(b).first).filter(|p| t.role(*p) == Role::Parameter);
        let marks = |p: NodeId| t.children(p).any(|c| t.role(c) == Role::Token && is_visibility(source.str(c)));
        parameter.is_some_and(marks)
    }
    fn method_kind(&self, _name: &str, words: &[&str]) -> MethodKind {
        if words.contains(&"static") { MethodKind::Static } else { MethodKind::Instance }
    }
    fn is_receiver(&self, name: &str) -> bool {
        name == "$this"
    }
    fn is_private(&self, name: &str) -> bool {
        name.trim_start_matches('$').starts_with('_')
    }
    fn hides_from_others(&self, source: &Source, declaration: NodeId) -> bool {
        let t = &source.tree;
        let hides = |c: NodeId| ["private", "protected"].contains(&source.str(c));
        t.children(declaration).any(|c| t.role(c) == Role::Token && hides(c))
    }
    fn hides_member(&self, source: &Source, function: NodeId) -> bool {
        let t = &source.tree;
        t.children(function).any(|c| t.role(c) == Role::Token && source.str(c) == "private")
    }
    fn is_frame_name(&self, name: &str) -> bool {
        ["__FUNCTION__", "__METHOD__", "__LINE__"].contains(&name)
    }
    fn is_special_member(&self, name: &str) -> bool {
        name.starts_with("__")
    }
    fn object_word(&self) -> Option<&'static str> {
        Some("$this")
    }
    fn members_keep_object(&self) -> bool {
        false
    }
    fn is_global(&self, source: &Source, b: BindingId) -> bool {
        // what is imported is a global, too
        source.names.binding(b).scope == Names::MODULE
    }
    fn functions_see(&self, source: &Source, b: BindingId) -> bool {
        !source.names.binding(b).name.starts_with(self.variable_mark())
    }
    fn mode(&self, source: &Source, _place: NodeId) -> u8 {
        u8::from(modules::is_strict(source))
    }
    fn modes_change_all(&self) -> bool {
        // what a call converts
        true
    }
    fn free_names_are_global(&self) -> bool {
        true
    }
    fn declares_locals(&self) -> bool {
        false
    }
    fn fields_have_one_word(&self) -> bool {
        false
    }
    fn takes_functions(&self, source: &Source) -> bool {
        // nothing stands outside of name spaces with brackets
        let t = &source.tree;
        !t.children(Tree::ROOT).any(|n| t.role(n) == Role::Other && source.str(n).starts_with("namespace"))
    }
    fn nests_functions(&self) -> bool {
        false
    }
    fn hands_down(&self, source: &Source, class: NodeId) -> bool {
        is_class(source, class)
    }
    fn keeps_to_class(&self) -> bool {
        true
    }
    fn takes_no_private(&self, source: &Source, class: NodeId, _edition: u8) -> Option<&'static str> {
        (!is_class(source, class))
            .then_some("a class that uses this has its members too, and may have one of the same name")
    }
}

fn is_visibility(word: &str) -> bool {
    ["public", "protected", "private", "readonly"].contains(&word)
}

impl Semantics for Php {
    fn is_place(&self, source: &Source, node: NodeId) -> bool {
        places::is_place(source, node)
    }
    fn closures_copy(&self) -> bool {
        true
    }
    fn is_own_value(&self, source: &Source, name: NodeId) -> bool {
        types::is_array(source, name)
    }
    fn gives_places(&self, source: &Source, function: NodeId) -> bool {
        let t = &source.tree;
        t.children(function).any(|c| t.role(c) == Role::Token && source.str(c) == "&")
    }
    fn yields_keys(&self) -> bool {
        true
    }
    fn fault_finders(&self) -> &'static [&'static str] {
        &["var_dump", "print_r", "var_export", "debug_zval_refcount"]
    }
    fn quiet_calls(&self) -> &'static [&'static str] {
        library::QUIET_CALLS
    }
    fn collections(&self) -> &'static Collections {
        &library::COLLECTIONS
    }
    fn printers(&self) -> &'static [&'static str] {
        &["echo", "print", "printf"]
    }
    fn runs_texts(&self, callee: &str) -> bool {
        ["eval", "create_function", "assert"].contains(&callee)
    }
    fn reads_frame(&self, callee: &str, _call: &str) -> bool {
        library::FRAME_READERS.contains(&callee.trim_start_matches('\\').to_ascii_lowercase().as_str())
    }
    fn is_constant(&self, source: &Source, path: NodeId, _definitions: &Definitions) -> bool {
        self.is_module_own(source.str(path))
    }
    fn reads_locals(&self, callee: &str, _call: &str) -> bool {
        library::LOCALS_READERS.contains(&callee.trim_start_matches('\\').to_ascii_lowercase().as_str())
    }
    fn stack_words(&self) -> &'static [&'static str] {
        &["debug_backtrace", "debug_print_backtrace", "*.getTrace", "*.getTraceAsString"]
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
    fn doing(&self, _source: &Source, _expression: NodeId) -> Doing {
        Doing::Anything
    }
    fn finalizer(&self) -> Option<&'static str> {
        Some("__destruct")
    }
    fn listing_words(&self) -> &'static [&'static str] {
        &["get_object_vars", "get_class_vars", "get_class_methods", "get_defined_functions"]
    }
    fn member_listing_words(&self) -> &'static [&'static str] {
        &["get_class_methods", "getMethods"]
    }
    fn member_watchers(&self) -> &'static [&'static str] {
        &["__call", "__callStatic"]
    }
    fn lookup_words(&self) -> &'static [&'static str] {
        &["method_exists", "property_exists", "get_class_methods", "getMethod", "getProperty", "hasMethod", "constant"]
    }
    fn data_words(&self) -> &'static [&'static str] {
        &["json_decode", "unserialize", "fetchObject"]
    }
    fn name_members(&self) -> &'static [&'static str] {
        &[]
    }
    fn class_showing_words(&self) -> &'static [&'static str] {
        library::SHOWING_CLASSES
    }
    fn class_of(&self, _source: &Source, _expression: NodeId) -> Option<NodeId> {
        None
    }
    fn demanded_members(&self) -> &'static [&'static str] {
        library::DEMANDED
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
    fn is_plain_top_level(&self, tree: &Tree, statement: NodeId, text: &str) -> bool {
        modules::is_plain_top_level(tree, statement, text)
    }
}

impl Typing for Php {
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
    fn types_are_checked(&self) -> bool {
        true
    }
    fn sure_type(&self, source: &Source, value: NodeId) -> Option<String> {
        types::sure_type(source, value)
    }
    fn function_type(&self, _parameters: &[(String, String)], _results: &[String]) -> Option<String> {
        Some("callable".into())
    }
    fn may_convert(&self, (source, value): (&Source, NodeId), (home, declared): (&Source, NodeId)) -> bool {
        types::may_convert(source, value, home.str(declared))
    }
    fn no_result_type(&self) -> &'static str {
        "void"
    }
}

impl Modules for Php {
    fn imports_of(&self, tree: &Tree, statement: NodeId, text: &str) -> Vec<ImportRef> {
        modules::imports(tree, statement, text)
    }
    fn load_of(&self, tree: &Tree, call: NodeId, text: &str) -> Option<ImportRef> {
        modules::required(tree, call, text)
    }
    fn modules_are_values(&self) -> bool {
        false
    }
    fn as_file<'t>(&self, definition: &'t str, member: bool) -> Cow<'t, str> {
        match member {
            true => format!("<?php\nclass _\n{{\n{definition}\n}}\n").into(),
            false => format!("<?php\n{definition}\n").into(),
        }
    }
    fn ignores_case(&self) -> bool {
        true
    }
    fn shares_by_loading(&self) -> bool {
        true
    }
    fn said_package(&self, source: &Source) -> Vec<String> {
        modules::said_space(source)
    }
    fn import_of_free(&self, from: &ModuleName, name: &str) -> Option<ImportRef> {
        modules::import_of_free(from, name)
    }
    fn loading_words(&self) -> &'static [&'static str] {
        &["include", "include_once", "require", "require_once"]
    }
    fn loads_without_a_name(&self) -> bool {
        true
    }
    fn exports_by_name(&self, source: &Source, b: BindingId) -> bool {
        source.names.binding(b).scope == Names::MODULE
    }
    fn hides(&self, source: &Source, b: BindingId) -> bool {
        source.names.binding(b).scope != Names::MODULE
    }
    fn module_name(&self, path: &str, _exists: &dyn Fn(&str) -> bool) -> Option<ModuleName> {
        modules::module_name(path)
    }
    fn resolve_import(&self, from: &ModuleName, path: &str, import: &ImportRef) -> Vec<String> {
        modules::resolve(from, path, import)
    }
    fn is_standard_module(&self, _module: &str) -> bool {
        false
    }
    fn module_system(&self, _path: &str, _tree: &Tree, _text: &str) -> Option<&'static str> {
        None
    }
    fn export_line(&self, _source: &Source, _like: &Source, _name: &str) -> Option<String> {
        None
    }
    fn following(&self, tree: &Tree, text: &str) -> Following {
        Following { changing: places::writing(tree, text), ..Following::default() }
    }
    fn written_elsewhere(&self, source: &Source, writes: &dyn Fn(&str) -> bool) -> Vec<BindingId> {
        places::written_elsewhere(source, writes)
    }
    fn file_listing_words(&self) -> &'static [&'static str] {
        &["glob", "scandir", "DirectoryIterator"]
    }
    fn import_line(&self, _from: &Source, _to: &ModuleName, _name: &str, _relative: bool) -> Option<String> {
        None
    }
    fn extend_import(&self, _from: &Source, _statement: NodeId, _line: &str, _name: &str) -> Option<Edit> {
        None
    }
    fn passed_on(&self, _source: &Source) -> Vec<Passed> {
        Vec::new()
    }
}

impl Writer for Php {
    fn function_name(&self, words: &[String], _private: bool, member: bool) -> String {
        if member { super::camel(words) } else { words.join("_") }
    }
    fn variable_name(&self, words: &[String]) -> String {
        format!("${}", super::camel(words))
    }
    fn member_path(&self, object: &str, member: &str) -> String {
        format!("{object}->{member}")
    }
    fn own_static(&self, name: &str) -> String {
        format!("self::{name}")
    }
    fn functions_come_first(&self) -> bool {
        true
    }
    fn add_parameter(&self, source: &Source, function: NodeId, parameter: &Signature) -> Option<Edit> {
        write::parameter(source, function, parameter)
    }
    fn write_declaration(&self, _source: &Source, locals: &[(String, Option<String>)], indent: &str) -> String {
        let lines: Vec<String> = locals.iter().map(|(n, _)| format!("{n} = null;")).collect();
        lines.join(&format!("\n{indent}"))
    }
    fn write_outer(&self, names: &[String]) -> String {
        format!("global {};", names.join(", "))
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
    fn write_derived(&self, from: &str, how: values::Derivation) -> String {
        write::derived(from, how)
    }
    fn write_lambda(&self, parameters: &[String], expression: &str) -> String {
        format!("fn({}) => {expression}", parameters.join(", "))
    }
    fn loops(&self) -> Option<&'static dyn Loops> {
        Some(&loops::Arrays)
    }
    fn write_optional(&self, parameter: &str, is_flag: bool, action: &str, indent: &str, unit: &str) -> String {
        let given = if is_flag { parameter.to_string() } else { format!("{parameter} !== null") };
        format!("if ({given}) {{\n{indent}{unit}{action}\n{indent}}}")
    }
    fn write_return(&self, _source: &Source, results: &[String], _bundle: Option<&str>) -> String {
        match results {
            [] => String::new(),
            [one] => format!("return {one};"),
            many => format!("return [{}];", many.join(", ")),
        }
    }
    fn blank_lines(&self) -> (usize, usize) {
        (1, 1)
    }
}

impl Suites for Php {
    fn test_command(&self, layout: &dyn Layout) -> Option<String> {
        suites::command(layout)
    }
}
