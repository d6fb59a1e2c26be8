//! What the languages of this family share.

use super::type_rules::TypeRules;
use super::{bases, library, loops, modules, scopes, write};
use crate::lang::{
    Bases, CallParts, Collections, Definitions, Doing, Following, FunctionParts, Joined, KeptName, Look, Loops,
    MethodKind, ModuleName, Modules, OwnMembers, Scoping, Semantics, Signature, Syntax, Typing, Writer,
};
use crate::names::{BindingId, ImportRef, Names, Source, Space};
use crate::text::Edit;
use crate::tree::{Field, Grammar, NodeId, Role, Standing, Tree};
use crate::types::Ty;

pub struct Family {
    pub name: &'static str,
    pub extensions: &'static [&'static str],
    pub grammar: fn() -> &'static Grammar,
    /// None where nothing is typed.
    pub types: Option<TypeRules>,
    /// A node is a type by itself.
    pub whole_type: fn(&Tree, NodeId) -> bool,
    /// What a word can be that stands in a type.
    pub type_word: fn(&Tree, NodeId) -> Option<&'static [Space]>,
}

impl Syntax for Family {
    fn name(&self) -> &'static str {
        self.name
    }
    fn family(&self) -> &'static str {
        "javascript"
    }
    fn extensions(&self) -> &'static [&'static str] {
        self.extensions
    }
    fn grammar(&self) -> &Grammar {
        (self.grammar)()
    }
    fn is_comment(&self, kind: &str) -> bool {
        kind == "comment" || kind == "html_comment"
    }
    fn refine(&self, role: Role, field: Field, parent: Role, first: bool, at: &Standing) -> (Role, Field) {
        super::grammar::refine(role, field, parent, first, at)
    }
    fn is_keyword(&self, word: &str) -> bool {
        library::KEYWORDS.contains(&word)
    }
    fn is_identifier(&self, word: &str) -> bool {
        let mut chars = word.chars();
        chars.next().is_some_and(|c| c.is_alphabetic() || c == '_' || c == '$')
            && chars.all(|c| c.is_alphanumeric() || c == '_' || c == '$')
            && !self.is_keyword(word)
    }
    fn goes_on_with(&self, next: &str) -> bool {
        next.starts_with(['(', '[', '`'])
    }
    fn opens_a_statement(&self, text: &str) -> bool {
        ["{", "function", "async function", "class", "let["].iter().any(|w| text.starts_with(w))
    }
    fn is_member_identifier(&self, word: &str) -> bool {
        self.is_identifier(word.strip_prefix('#').unwrap_or(word))
    }
    fn format_of(&self, source: &Source, expression: NodeId) -> Option<(NodeId, char)> {
        let t = &source.tree;
        let callee = t.child(expression, Field::Callee).map(|c| source.str(c))?;
        let first = t.child(expression, Field::Arguments).and_then(|a| t.children(a).next());
        first.filter(|_| callee == "format" || callee == "util.format").map(|f| (f, '%'))
    }
    fn is_always_true(&self, condition: &str) -> bool {
        matches!(condition.trim_matches(['(', ')', ' ']), "true" | "1")
    }
    fn is_declaring_word(&self, word: &str) -> bool {
        ["var", "let", "const"].contains(&word)
    }
    fn truth(&self, holds: bool) -> &'static str {
        if holds { "true" } else { "false" }
    }
    fn negation(&self) -> &'static str {
        "!"
    }
    fn case_members(&self) -> [&'static str; 2] {
        ["toUpperCase", "toLowerCase"]
    }
    fn is_nothing(&self, literal: &str) -> bool {
        ["null", "undefined"].contains(&literal)
    }
    fn is_constructor(&self, name: &str) -> bool {
        name == "constructor"
    }
    fn is_construction(&self, call: &str) -> bool {
        call.starts_with("new ")
    }
    fn declares_fixed(&self, word: &str) -> bool {
        word == "const"
    }
    fn declares_for_function(&self, word: &str) -> bool {
        word == "var"
    }
    fn differs(&self) -> &'static str {
        "!=="
    }
    fn nothing(&self) -> &'static str {
        "null"
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
        comment.trim_start_matches(['/', '*', '!']).trim_end_matches("*/").trim()
    }
    fn default_unit(&self) -> &'static str {
        "  "
    }
    fn default_width(&self) -> usize {
        80
    }
}

impl Scoping for Family {
    fn members_made_by(&self, source: &Source, function: NodeId) -> Vec<NodeId> {
        let t = &source.tree;
        let is_maker = t.child(function, Field::Name).is_some_and(|n| source.str(n) == "constructor");
        let list = t.child(function, Field::Parameters).filter(|_| is_maker);
        // `private name: T`
        let marked = |p: &NodeId| t.children(*p).any(|c| t.role(c) == Role::Token && source.str(c) != "?");
        let own = list.into_iter().flat_map(|l| t.children(l)).filter(marked);
        own.filter_map(|p| t.child(p, Field::Name)).collect()
    }
    fn hands_down(&self, source: &Source, class: NodeId) -> bool {
        let t = &source.tree;
        let named = t.child(class, Field::Name).is_some();
        t.role(class) == Role::Class
            && named
            && t.ancestor(class, &[Role::Class, Role::Function, Role::Lambda]).is_none()
    }
    fn names(&self, tree: &Tree, text: &str) -> Names {
        scopes::names(tree, text, self.type_word)
    }
    fn needs_class(&self, name: &str) -> bool {
        name == "super"
    }
    fn is_mangled(&self, name: &str) -> bool {
        name.starts_with('#')
    }
    fn is_builtin(&self, name: &str) -> bool {
        library::GLOBALS.contains(&name)
    }
    fn is_module_own(&self, name: &str) -> bool {
        library::MODULE_OWN.contains(&name)
    }
    fn is_member_too(&self, source: &Source, b: BindingId) -> bool {
        let t = &source.tree;
        let parameter = t.parent(source.names.binding(b).first).filter(|p| t.role(*p) == Role::Parameter);
        // only modifiers are words before the name
        parameter.is_some_and(|p| t.children(p).next().is_some_and(|c| t.role(c) == Role::Token))
    }
    fn is_protocol_member(&self, source: &Source, class: NodeId, name: &str) -> bool {
        ["next", "return", "throw"].contains(&name) && source.str(class).contains("[Symbol.")
    }
    fn method_kind(&self, _name: &str, words: &[&str]) -> MethodKind {
        if words.contains(&"static") { MethodKind::Class } else { MethodKind::Instance }
    }
    fn is_receiver(&self, name: &str) -> bool {
        name == "this"
    }
    fn is_private(&self, name: &str) -> bool {
        name.starts_with(['_', '#'])
    }
    fn is_frame_name(&self, name: &str) -> bool {
        name == "arguments"
    }
    fn is_special_member(&self, name: &str) -> bool {
        ["constructor", "toString", "valueOf", "toJSON", "then", "render", "prototype", "length", "name"]
            .contains(&name)
    }
    fn object_word(&self) -> Option<&'static str> {
        Some("this")
    }
    fn members_keep_object(&self) -> bool {
        false
    }
    fn is_global(&self, source: &Source, b: BindingId) -> bool {
        let at_top = source.names.binding(b).scope == crate::names::Names::MODULE;
        at_top && modules::system(&source.path, &source.tree, &source.text).is_none()
    }
    fn free_names_are_global(&self) -> bool {
        true
    }
    fn declares_locals(&self) -> bool {
        true
    }
    fn mode(&self, source: &Source, place: NodeId) -> u8 {
        modules::is_strict(source, place, self.types.is_some()).into()
    }
    fn hides_member(&self, source: &Source, function: NodeId) -> bool {
        let t = &source.tree;
        let named = t.child(function, Field::Name).is_some_and(|n| self.is_private(source.str(n)));
        named || t.children(function).any(|c| source.str(c) == "private")
    }
}

impl Semantics for Family {
    fn closes_at_end(&self, source: &Source, declaration: NodeId) -> bool {
        ["using ", "await using "].iter().any(|w| source.str(declaration).starts_with(w))
    }
    fn checks_first_values(&self) -> bool {
        self.types.is_some()
    }
    fn loop_variables_are_fresh(&self) -> bool {
        true
    }
    fn fault_finders(&self) -> &'static [&'static str] {
        &["debugger", "console.debug", "console.trace", "console.dir"]
    }
    fn quiet_calls(&self) -> &'static [&'static str] {
        library::QUIET_CALLS
    }
    fn quiet_methods(&self) -> &'static [&'static str] {
        library::QUIET_METHODS
    }
    fn is_gone_through_again(&self, source: &Source, name: NodeId, definitions: &Definitions) -> bool {
        self.types.is_some() && matches!(self.type_of(source, name, definitions).kind(), crate::types::Kind::Array(_))
    }
    fn collections(&self) -> &'static Collections {
        &library::COLLECTIONS
    }
    fn printers(&self) -> &'static [&'static str] {
        &["console.log", "console.info", "alert"]
    }
    fn reads_frame(&self, callee: &str, _call: &str) -> bool {
        // a snapshot in the text is found, and written, by the place of its one call
        let by_place =
            callee.ends_with("InlineSnapshot") || callee == "console.trace" || callee.ends_with(".captureStackTrace");
        ["eval", "super", "Function", "require.main"].contains(&callee) || by_place
    }
    fn reads_locals(&self, callee: &str, _call: &str) -> bool {
        callee == "eval"
    }
    fn stack_words(&self) -> &'static [&'static str] {
        &["*.stack", "console.trace", "caller", "arguments.callee", "prepareStackTrace"]
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
        crate::lang::doing_of_member(source, expression)
    }
    fn waits_take_turns(&self) -> bool {
        true
    }
    fn member_listing_words(&self) -> &'static [&'static str] {
        &["getOwnPropertyNames", "getOwnPropertyDescriptors", "ownKeys"]
    }
    fn listing_words(&self) -> &'static [&'static str] {
        &["keys", "values", "entries", "getOwnPropertyNames", "getOwnPropertyDescriptors", "ownKeys"]
    }
    fn lookup_words(&self) -> &'static [&'static str] {
        library::LOOKUPS
    }
    fn look(&self, source: &Source, call: NodeId, word: &str, arguments: &[NodeId]) -> Option<Look> {
        match word {
            "hasOwnProperty" if arguments.len() == 1 => Some(Look::on_object(source, call, arguments)),
            "get" | "set" | "has" if !source.str(call).starts_with("Reflect.") => None,
            _ => Some(Look::second(arguments)),
        }
    }
    fn needs_constant(&self, source: &Source, literal: NodeId) -> bool {
        // only what is written out can be said to be fixed
        let fixed = source.tree.parent(literal).map(|p| source.str(p));
        if fixed.is_some_and(|p| p.ends_with(" as const") && p.starts_with(source.str(literal))) {
            return true;
        }
        // the text of an attribute has other escapes than one in code
        let attribute = source.tree.parent(literal).is_some_and(|p| source.tree.role(p) == Role::MarkupAttribute);
        attribute && source.str(literal).contains(['&', '\\', '\n'])
    }
    fn holds_anything(&self, made: &str) -> bool {
        ["Array", "Map", "Set"].contains(&made.trim_start_matches("new "))
    }
    fn takes_anything(&self, callee: &str) -> bool {
        callee.starts_with("console.")
            || ["String", "Number", "Boolean", "parseInt", "parseFloat", "Error"].contains(&callee)
    }
    fn data_words(&self) -> &'static [&'static str] {
        &["parse", "json"]
    }
    fn name_members(&self) -> &'static [&'static str] {
        &["name"]
    }
    fn class_of(&self, source: &Source, expression: NodeId) -> Option<NodeId> {
        let t = &source.tree;
        let member = t.child(expression, Field::Member).filter(|m| source.str(*m) == "constructor")?;
        t.parent(member).and_then(|p| t.child(p, Field::Object))
    }
    fn is_maker(&self, source: &Source, n: NodeId) -> bool {
        bases::is_maker(source, n)
    }
    fn demanded_members(&self) -> &'static [&'static str] {
        library::DEMANDED
    }
    fn harmless_bases(&self) -> &'static [&'static str] {
        library::HARMLESS_BASES
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
    fn reads_module_names(&self) -> &'static [&'static str] {
        &["eval"]
    }
    fn makers_when_loaded(&self) -> &'static [&'static str] {
        library::MAKERS_WHEN_LOADED
    }
    fn is_plain_top_level(&self, tree: &Tree, statement: NodeId, text: &str) -> bool {
        modules::is_plain_top_level(tree, statement, text)
    }
}

impl Typing for Family {
    fn plain_types(&self) -> &'static [&'static str] {
        &["Boolean", "Number", "Object", "String"]
    }
    fn needs_types(&self) -> bool {
        self.types.is_some()
    }
    fn type_of(&self, source: &Source, node: NodeId, definitions: &Definitions) -> Ty {
        self.type_from(source, node, node, definitions)
    }
    fn type_from(&self, source: &Source, node: NodeId, from: NodeId, definitions: &Definitions) -> Ty {
        self.types.map_or(Ty::UNKNOWN, |t| (t.find)(source, node, from, definitions))
    }
    fn told_before(&self, source: &Source, node: NodeId, from: NodeId, definitions: &Definitions) -> Option<Ty> {
        self.types.and_then(|t| (t.told_before)(source, node, from, definitions))
    }
    fn type_of_literal(&self, source: &Source, literal: NodeId) -> Ty {
        let found = self.types.and_then(|t| (t.literal)(source.str(literal)));
        found.unwrap_or(Ty::UNKNOWN)
    }
    fn general(&self, ty: Ty) -> Ty {
        self.types.map_or(ty, |t| (t.general)(ty))
    }
    fn spell(&self, ty: Ty, at: &Source, definitions: &Definitions) -> Option<String> {
        self.types.and_then(|t| (t.spell)(ty, at, definitions))
    }
    fn join(&self, types: &[Ty]) -> Option<Joined> {
        self.types.and_then(|t| (t.join)(types))
    }
    fn awaited_type(&self, written: &str) -> Option<String> {
        let text = written.trim_start_matches(':').trim();
        text.strip_prefix("Promise<").and_then(|t| t.strip_suffix('>')).map(str::to_string)
    }
    fn takes_type_from_around(&self, source: &Source, value: NodeId, is_asked: bool) -> bool {
        let t = &source.tree;
        let inner = |n: NodeId| t.children(n).any(|c| self.takes_type_from_around(source, c, is_asked));
        let untyped = |p: NodeId| t.child(p, Field::Type).is_none() && t.child(p, Field::Value).is_none();
        self.types.is_some()
            && match t.role(value) {
                Role::Lambda => t.child(value, Field::Parameters).is_some_and(|l| match t.role(l) {
                    Role::Name => true,
                    _ => t.children(l).any(untyped),
                }),
                Role::Literal => is_asked && source.str(value).starts_with(['"', '\'', '`']),
                Role::Dict | Role::List | Role::Pair | Role::Paren | Role::Conditional | Role::BoolOp => inner(value),
                // what a generic class is made of
                Role::Call => is_asked && self.is_construction(source.str(value)) && !source.str(value).contains('<'),
                _ => false,
            }
    }
    fn annotation(&self, source: &Source, name: NodeId) -> Option<String> {
        let t = &source.tree;
        let written = t.parent(name).and_then(|p| t.child(p, Field::Type)).filter(|_| self.types.is_some())?;
        let may_lack = source.text[t.span(name).end..t.span(written).start].contains('?');
        let text = source.str(written).trim_start_matches(':').trim();
        Some(if may_lack { format!("{text} | undefined") } else { text.to_string() })
    }
    fn says_result_types(&self, source: &Source) -> bool {
        let t = &source.tree;
        let named = |n: &NodeId| {
            let name = t.child(*n, Field::Name).map_or("constructor", |x| source.str(x));
            t.role(*n) == Role::Function && name != "constructor" && !t.children(*n).any(|c| source.str(c) == "set")
        };
        let said = t.ids().filter(named).map(|f| usize::from(t.child(f, Field::ReturnType).is_some()));
        let (said, all) = said.fold((0, 0), |(said, all), one| (said + one, all + 1));
        self.types.is_some() && said * 2 > all
    }
    fn asks_more_than_type(&self, source: &Source, value: NodeId, definitions: &Definitions) -> bool {
        self.types.is_some_and(|t| (t.is_test)(source, value, definitions))
    }
    fn takes_all(&self, of_type: &str) -> bool {
        ["any", "unknown"].contains(&of_type)
    }
    fn of_literals(&self, texts: &[&str]) -> Option<String> {
        self.types.and_then(|t| (t.of_literals)(texts))
    }
    fn function_type(&self, parameters: &[(String, String)], results: &[String]) -> Option<String> {
        let list: Vec<String> = parameters.iter().map(|(name, of)| format!("{name}: {of}")).collect();
        self.types.map(|_| format!("({}) => {}", list.join(", "), results.join(" | ")))
    }
    fn narrows(&self, function: &str, result: Option<&str>) -> bool {
        match result {
            Some(result) => result.contains("asserts "),
            None => function.starts_with("assert") || function == "invariant" || function == "ok",
        }
    }
    fn is_named_in_type(&self, source: &Source, text: &str, local: BindingId) -> bool {
        let binding = source.names.binding(local);
        let declared = source.tree.parent(binding.first).is_some_and(|d| source.tree.role(d) == Role::TypeAlias);
        declared
            || text.split_whitespace().zip(text.split_whitespace().skip(1)).any(|(word, next)| {
                let is_it = next.strip_prefix(binding.name.as_str());
                word.ends_with("typeof") && is_it.is_some_and(|rest| !rest.starts_with(|c: char| c.is_alphanumeric()))
            })
    }
    fn is_whole_type(&self, tree: &Tree, node: NodeId) -> bool {
        (self.whole_type)(tree, node)
    }
    fn is_shape(&self, source: &Source, class: NodeId) -> bool {
        let t = &source.tree;
        let members = t.child(class, Field::Body).map_or(Vec::new(), |b| t.children(b).collect::<Vec<_>>());
        let hidden = |m: &NodeId| {
            let private =
                |n: NodeId| ["private", "protected"].contains(&source.str(n)) || source.str(n).starts_with('#');
            t.children(*m).chain(parameters_of(t, *m)).any(private)
        };
        self.types.is_some() && !members.iter().any(hidden)
    }
    fn own_members(&self, source: &Source, class: NodeId) -> Option<OwnMembers> {
        (self.types?.own_members)(source, class)
    }
    fn literal_type(&self, literal: &str) -> Option<&'static str> {
        // others are found with the types of all values
        ["true", "false"].contains(&literal).then_some("boolean")
    }
    fn no_result_type(&self) -> &'static str {
        "void"
    }
}

impl Modules for Family {
    fn folder_listers(&self) -> &'static [&'static str] {
        &["readdir", "readdirSync", "opendir", "glob", "globSync"]
    }
    fn imports_of(&self, tree: &Tree, statement: NodeId, text: &str) -> Vec<ImportRef> {
        scopes::imports(tree, statement, text).into_iter().map(|(_, import)| import).collect()
    }
    fn exports_again(&self, source: &Source, b: BindingId) -> bool {
        let is_import = source.names.binding(b).import.is_some();
        is_import && modules::export_of(source, b) == Some(modules::Export::ByName)
    }
    fn can_export(&self, source: &Source) -> bool {
        modules::can_export(source)
    }
    fn passed_on(&self, source: &Source) -> Vec<crate::lang::Passed> {
        modules::passed_on(source)
    }
    fn loading_words(&self) -> &'static [&'static str] {
        &["import", "require"]
    }
    fn module_table(&self) -> Option<&'static str> {
        Some("require.cache")
    }
    fn loads_without_a_name(&self) -> bool {
        true
    }
    fn exports_by_name(&self, source: &Source, b: BindingId) -> bool {
        modules::export_of(source, b) == Some(modules::Export::ByName)
    }
    fn hides(&self, source: &Source, b: BindingId) -> bool {
        modules::system(&source.path, &source.tree, &source.text).is_some() && modules::export_of(source, b).is_none()
    }
    fn module_name(&self, path: &str, _exists: &dyn Fn(&str) -> bool) -> Option<ModuleName> {
        modules::module_name(path)
    }
    fn resolve_import(&self, _from: &ModuleName, path: &str, import: &ImportRef) -> Vec<String> {
        modules::resolve(path, import)
    }
    fn is_standard_module(&self, module: &str) -> bool {
        let name = module.strip_prefix("node:").unwrap_or(module);
        library::STANDARD_MODULES.contains(&name.split('/').next().unwrap_or(""))
    }
    fn module_system(&self, path: &str, tree: &Tree, text: &str) -> Option<&'static str> {
        modules::system(path, tree, text)
    }
    fn export_line(&self, source: &Source, like: &Source, name: &str) -> Option<String> {
        modules::export_line(source, like, name)
    }
    fn file_listing_words(&self) -> &'static [&'static str] {
        &["readdir", "readdirSync", "opendir", "glob", "globSync", "context"]
    }
    fn import_line(&self, from: &Source, to: &ModuleName, name: &str, _relative: bool) -> Option<String> {
        modules::import_line(from, to, name)
    }
    fn extend_import(&self, from: &Source, statement: NodeId, line: &str, name: &str) -> Option<Edit> {
        modules::extend_import(from, statement, line, name)
    }
    fn passes_names_on(&self, import: &str) -> bool {
        import.starts_with("export")
    }
    fn is_default_export(&self, source: &Source, statement: NodeId) -> bool {
        source.str(statement).split_whitespace().take(2).eq(["export", "default"])
    }
    fn kept_names(&self, kept: &KeptName) -> Vec<(String, bool)> {
        modules::kept_names(kept)
    }
    fn following(&self, tree: &Tree, text: &str) -> Following {
        modules::following(tree, text)
    }
    fn exported(&self, like: &Source, definition: &str) -> String {
        modules::exported(like, definition)
    }
    fn head_of_like(&self, like: &Source) -> String {
        modules::head_of_like(like)
    }
    fn is_exports(&self, _source: &Source, object: &str) -> bool {
        ["exports", "module.exports"].contains(&object)
    }
}

impl Writer for Family {
    fn bases(&self) -> Option<&'static dyn Bases> {
        Some(if self.types.is_some() { &bases::Classes { typed: true } } else { &bases::Classes { typed: false } })
    }
    fn function_name(&self, words: &[String], private: bool, member: bool) -> String {
        let hidden = private && member && self.types.is_none();
        format!("{}{}", if hidden { "_" } else { "" }, crate::lang::camel(words))
    }
    fn variable_name(&self, words: &[String]) -> String {
        crate::lang::camel(words)
    }
    fn functions_come_first(&self) -> bool {
        true
    }
    fn loops(&self) -> Option<&'static dyn Loops> {
        Some(if self.types.is_some() { &loops::Arrays { typed: true } } else { &loops::Arrays { typed: false } })
    }
    fn add_parameter(&self, source: &Source, function: NodeId, parameter: &Signature) -> Option<Edit> {
        write::parameter(source, function, parameter)
    }
    fn write_declaration(&self, source: &Source, locals: &[(String, Option<String>)], _indent: &str) -> String {
        write::declaration(source, locals)
    }
    fn write_function(&self, source: &Source, parts: &FunctionParts) -> String {
        write::function(source, parts)
    }
    fn write_call(&self, source: &Source, parts: &CallParts) -> String {
        write::call(source, parts)
    }
    fn write_value(&self, source: &Source, expression: &str) -> String {
        write::hand_over(source, &[expression.to_string()])
    }
    fn write_leaving(&self, source: &Source, call: &CallParts, word: &str, temporary: Option<&str>) -> String {
        write::leaving(source, call, word, temporary)
    }
    fn declaring_word(&self, once: bool) -> &'static str {
        if once { "const" } else { "let" }
    }
    fn write_lambda(&self, parameters: &[String], expression: &str) -> String {
        let body = if expression.starts_with('{') { format!("({expression})") } else { expression.to_string() };
        format!("({}) => {body}", parameters.join(", "))
    }
    fn write_optional(&self, parameter: &str, _is_flag: bool, action: &str, indent: &str, unit: &str) -> String {
        format!("if ({parameter}) {{\n{indent}{unit}{action}\n{indent}}}")
    }
    fn write_return(&self, source: &Source, results: &[String], _bundle: Option<&str>) -> String {
        write::hand_over(source, results)
    }
    fn write_type_parameter(&self, name: &str, one_of: &[&str]) -> Option<String> {
        self.types.map(|t| (t.type_parameter)(name, one_of))
    }
    fn blank_lines(&self) -> (usize, usize) {
        (1, 1)
    }
}

/// The words of a member's parameters: a constructor can declare members there.
fn parameters_of(t: &Tree, member: NodeId) -> impl Iterator<Item = NodeId> + '_ {
    let list = t.child(member, Field::Parameters);
    list.into_iter().flat_map(|l| t.children(l)).flat_map(|p| t.children(p))
}
