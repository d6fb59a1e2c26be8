//! Java, 8 to 21.

mod bases;
mod bundle;
mod classes;
mod exceptions;
mod functions;
mod grammar;
mod known;
mod loops;
mod members;
mod modules;
mod scopes;
mod signatures;
mod spelling;
mod types;
mod typing;
mod words;
mod write;
mod written;

#[cfg(test)]
mod project_tests;
#[cfg(test)]
mod tests;

use super::written::has_word;
use super::{
    Collections, Definitions, Doing, Layout, Look, MemberOf, MethodKind, ModuleName, Modules, Scoping, Semantics,
    Suites, Syntax, Typing,
};
use crate::names::{BindKind, BindingId, ImportRef, Names, Source};
use crate::text::Edit;
use crate::tree::{Field, Grammar, NodeId, Role, Standing, Tree};
use crate::types::Ty;

pub struct Java;

impl Syntax for Java {
    fn edition(&self, tree: &Tree, text: &str) -> u8 {
        words::edition(tree, text)
    }
    fn name(&self) -> &'static str {
        "java"
    }
    fn extensions(&self) -> &'static [&'static str] {
        &["java"]
    }
    fn grammar(&self) -> &Grammar {
        &grammar::GRAMMAR
    }
    fn is_comment(&self, kind: &str) -> bool {
        kind == "line_comment" || kind == "block_comment"
    }
    fn refine(&self, role: Role, field: Field, parent: Role, _first: bool, at: &Standing) -> (Role, Field) {
        grammar::refine(role, field, parent, at)
    }
    fn is_keyword(&self, word: &str) -> bool {
        words::KEYWORDS.contains(&word)
    }
    fn is_identifier(&self, word: &str) -> bool {
        let mut chars = word.chars();
        chars.next().is_some_and(|c| c.is_alphabetic() || c == '_' || c == '$')
            && chars.all(|c| c.is_alphanumeric() || c == '_' || c == '$')
            && !self.is_keyword(word)
            && word != "_"
    }
    fn format_of(&self, source: &Source, expression: NodeId) -> Option<(NodeId, char)> {
        let t = &source.tree;
        let callee = t.child(expression, Field::Callee).map(|c| source.str(c))?;
        let first = t.child(expression, Field::Arguments).and_then(|a| t.children(a).next());
        first.filter(|_| callee.ends_with(".format") || callee.ends_with(".printf")).map(|f| (f, '%'))
    }
    fn is_always_true(&self, condition: &str) -> bool {
        condition.trim_matches(['(', ')', ' ']) == "true"
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
    fn nothing(&self) -> &'static str {
        "null"
    }
    fn is_constructor(&self, _name: &str) -> bool {
        false
    }
    fn is_construction(&self, call: &str) -> bool {
        call.starts_with("new ")
    }
    fn declares_fixed(&self, word: &str) -> bool {
        word.split_whitespace().any(|w| w == "final")
    }
    fn line_comment(&self) -> &'static str {
        "//"
    }
    fn block_comment(&self) -> Option<(&'static str, &'static str)> {
        Some(("/*", "*/"))
    }
    fn directives(&self) -> &'static [&'static str] {
        &[
            "/",
            "*",
            "@formatter",
            "CHECKSTYLE",
            "NOSONAR",
            "NOPMD",
            "noinspection",
            "region",
            "endregion",
            "$NON-NLS",
            "spotless:",
        ]
    }
    fn comment_text<'t>(&self, comment: &'t str) -> &'t str {
        comment.trim_start_matches(['/', '*']).trim_end_matches("*/").trim()
    }
    fn member_sign(&self) -> Option<&'static str> {
        Some("#")
    }
    fn default_unit(&self) -> &'static str {
        "    "
    }
    fn default_width(&self) -> usize {
        100
    }
}

impl Scoping for Java {
    fn names(&self, tree: &Tree, text: &str) -> Names {
        scopes::names(tree, text)
    }
    fn needs_class(&self, name: &str) -> bool {
        name == "super"
    }
    fn is_mangled(&self, _name: &str) -> bool {
        false
    }
    fn is_builtin(&self, name: &str) -> bool {
        name == "var" || known::LIBRARY.of_lang(name).is_some()
    }
    fn is_module_own(&self, _name: &str) -> bool {
        false
    }
    fn method_kind(&self, _name: &str, words: &[&str]) -> MethodKind {
        if words.contains(&"static") { MethodKind::Static } else { MethodKind::Instance }
    }
    fn is_receiver(&self, name: &str) -> bool {
        name == "this"
    }
    fn is_private(&self, _name: &str) -> bool {
        false
    }
    fn hides_member(&self, source: &Source, function: NodeId) -> bool {
        has_word(source, function, "private")
    }
    fn is_open(&self, source: &Source, declaration: NodeId) -> bool {
        let class = source.tree.ancestor(declaration, &[Role::Class]);
        let of_interface = class.is_some_and(|c| scopes::class_word(source, c) == "interface");
        let of_enumeration =
            source.tree.role(declaration) == Role::ClassField && source.tree.child(declaration, Field::Type).is_none();
        has_word(source, declaration, "public")
            || of_enumeration
            || of_interface && !has_word(source, declaration, "private")
    }
    fn is_open_below(&self, source: &Source, declaration: NodeId) -> bool {
        self.is_open(source, declaration) || has_word(source, declaration, "protected")
    }
    fn is_frame_name(&self, _name: &str) -> bool {
        false
    }
    fn is_special_member(&self, name: &str) -> bool {
        words::SPECIAL.contains(&name)
    }
    fn is_special_of_class(&self, name: &str) -> bool {
        ["main", "valueOf", "values", "serialVersionUID", "serialPersistentFields"].contains(&name)
    }
    fn object_word(&self) -> Option<&'static str> {
        Some("this")
    }
    fn members_keep_object(&self) -> bool {
        false
    }
    fn free_names_are_global(&self) -> bool {
        false
    }
    fn declares_locals(&self) -> bool {
        true
    }
    fn declaring_words<'s>(&self, source: &'s Source, declaration: NodeId) -> Option<&'s str> {
        let t = &source.tree;
        let pattern =
            || t.children(declaration).find(|c| t.field(*c) == Field::Right || t.role(declaration) == Role::Other);
        let Some(written) = t.child(declaration, Field::Type) else {
            return pattern().map(|w| source.str(w));
        };
        Some(&source.text[t.span(declaration).start.min(t.span(written).start)..t.span(written).end])
    }
    fn has_free_functions(&self, source: &Source) -> bool {
        // a sketch: methods and statements without a class
        let t = &source.tree;
        let has = |role: Role| t.children(Tree::ROOT).any(|c| t.role(c) == role);
        !has(Role::Class) || has(Role::Function)
    }
    fn takes_static(&self, source: &Source, class: NodeId) -> bool {
        let t = &source.tree;
        let nested = t.ancestor(class, &[Role::Class, Role::Function, Role::Lambda]).is_some();
        let word = scopes::class_word(source, class);
        // inner classes have none before Java 16
        !nested || has_word(source, class, "static") || ["enum", "record", "interface"].contains(&word)
    }
    fn takes_private_types(&self, source: &Source, class: NodeId) -> bool {
        scopes::class_word(source, class) != "interface"
    }
    fn hands_down(&self, source: &Source, class: NodeId) -> bool {
        let t = &source.tree;
        let top = t.ancestor(class, &[Role::Class, Role::Function]).is_none();
        t.role(class) == Role::Class && scopes::class_word(source, class) == "class" && top
    }
    fn takes_no_private(&self, source: &Source, class: NodeId, edition: u8) -> Option<&'static str> {
        let t = &source.tree;
        let last = t.child(class, Field::Body).and_then(|b| t.children(b).last());
        // without the mark that ends the constants nothing can follow them
        let constants = last.is_some_and(|l| t.role(l) == Role::ClassField && t.child(l, Field::Type).is_none());
        match scopes::class_word(source, class) {
            "enum" if constants => Some("the enumeration has constants only"),
            "interface" if edition < 9 => Some("methods that an interface keeps for itself came with Java 9"),
            "annotation" => Some("an annotation has no methods with code"),
            _ => None,
        }
    }
    fn is_before_object(&self, source: &Source, node: NodeId) -> bool {
        // `super(…)` and `this(…)`
        let t = &source.tree;
        let calls = t.ancestors(node).filter(|a| t.role(*a) == Role::Call);
        let mut callees = calls.filter_map(|c| t.child(c, Field::Callee));
        callees.any(|c| ["super", "this"].contains(&source.str(c)))
    }
    fn is_of_object(&self, source: &Source, member: BindingId) -> bool {
        !scopes::is_static(source, member)
    }
    fn needs_no_object(&self, source: &Source, declaration: NodeId) -> bool {
        let t = &source.tree;
        let word = |c| scopes::class_word(source, c);
        let by_kind = || {
            let around = t.ancestor(declaration, &[Role::Class]).filter(|c| word(*c) == "interface");
            around.is_some() || ["enum", "record", "interface"].contains(&word(declaration))
        };
        has_word(source, declaration, "static") || t.role(declaration) == Role::Class && by_kind()
    }
    fn is_sure(&self, source: &Source, name: NodeId) -> bool {
        scopes::is_sure(source, name)
    }
    fn is_final(&self, source: &Source, member: BindingId) -> bool {
        scopes::is_final(source, member)
    }
}

impl Semantics for Java {
    fn reads_frame(&self, callee: &str, _call: &str) -> bool {
        words::FRAMES.iter().any(|w| callee.ends_with(w)) || ["this", "super"].contains(&callee)
    }
    fn reads_locals(&self, _callee: &str, _call: &str) -> bool {
        false
    }
    fn stack_words(&self) -> &'static [&'static str] {
        &["*.getStackTrace", "StackWalker.getInstance", "Thread.dumpStack", "Reflection.getCallerClass"]
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
    fn listing_words(&self) -> &'static [&'static str] {
        words::LISTINGS
    }
    fn texts_may_be_code(&self) -> bool {
        false
    }
    fn member_listing_words(&self) -> &'static [&'static str] {
        words::LISTINGS
    }
    fn lookup_words(&self) -> &'static [&'static str] {
        words::LOOKUPS
    }
    fn look(&self, source: &Source, call: NodeId, word: &str, arguments: &[NodeId]) -> Option<Look> {
        words::look(source, call, word, arguments, &|o| self.class_of(source, o))
    }
    fn data_words(&self) -> &'static [&'static str] {
        words::DATA
    }
    fn takes_anything(&self, callee: &str) -> bool {
        callee.starts_with("System.out.") || callee == "String.valueOf"
    }
    fn quiet_calls(&self) -> &'static [&'static str] {
        &["!Math.random", "Math.*", "Integer.toString", "Integer.parseInt", "String.valueOf"]
    }
    fn computes_by_type(&self, source: &Source, call: NodeId, definitions: &Definitions) -> Option<bool> {
        typing::Types::new(source, definitions).computes(call)
    }
    fn is_gone_through_again(&self, source: &Source, name: NodeId, definitions: &Definitions) -> bool {
        matches!(self.type_of(source, name, definitions).kind(), crate::types::Kind::Array(_))
    }
    fn collections(&self) -> &'static Collections {
        &known::COLLECTIONS
    }
    fn printers(&self) -> &'static [&'static str] {
        &["System.out.println", "System.out.print", "System.out.printf", "System.err.println"]
    }
    fn is_plain_value(&self, source: &Source, value: NodeId) -> bool {
        words::is_plain_value(source, value)
    }
    fn doing(&self, source: &Source, expression: NodeId) -> Doing {
        words::doing(source, expression)
    }
    fn is_constant(&self, source: &Source, path: NodeId, definitions: &Definitions) -> bool {
        typing::Types::new(source, definitions).is_constant(path)
    }
    fn path_words(&self) -> &'static [&'static str] {
        &["getClass", "getName", "getTypeName", "getEnclosingMethod"]
    }
    fn name_members(&self) -> &'static [&'static str] {
        &["getName", "getSimpleName", "getTypeName", "getCanonicalName"]
    }
    fn class_of(&self, source: &Source, expression: NodeId) -> Option<NodeId> {
        let t = &source.tree;
        let callee = t.child(expression, Field::Callee)?;
        if source.str(callee) == "getClass" {
            return t.ancestor(callee, &[Role::Class]);
        }
        t.child(callee, Field::Member).filter(|m| source.str(*m) == "getClass")?;
        t.child(callee, Field::Object)
    }
    fn demanded_members(&self) -> &'static [&'static str] {
        &["*"]
    }
    fn harmless_bases(&self) -> &'static [&'static str] {
        &["Object", "Exception", "RuntimeException", "IllegalArgumentException", "IllegalStateException"]
    }
    fn members_are_keys(&self) -> bool {
        false
    }
    fn passes_extra_arguments(&self) -> bool {
        false
    }
    fn passes_fewer_arguments(&self) -> bool {
        false
    }
    fn hands_on(&self, source: &Source, word: NodeId) -> bool {
        words::hands_on(source, word)
    }
    fn does_more(&self, source: &Source, function: NodeId) -> bool {
        ["synchronized", "native", "strictfp"].iter().any(|w| has_word(source, function, w))
    }
    fn acts_when_loaded(&self, source: &Source, class: NodeId, definitions: &Definitions) -> bool {
        typing::Types::new(source, definitions).acts_when_loaded(class)
    }
    fn acts_when_made(&self, source: &Source, member: NodeId, definitions: &Definitions) -> bool {
        typing::Types::new(source, definitions).acts_when_made(member)
    }
    fn keeps_no_signature(&self, source: &Source, function: NodeId) -> Option<&'static str> {
        let class = source.tree.ancestor(function, &[Role::Class])?;
        let constructor = source.tree.child(function, Field::ReturnType).is_none();
        (constructor && scopes::class_word(source, class) == "record")
            .then_some("what a record is made of is said in its head")
    }
    fn stored(&self, source: &Source, class: NodeId, definitions: &Definitions) -> super::Stored {
        typing::Types::new(source, definitions).stored(class)
    }
    fn captures_fixed_only(&self) -> bool {
        true
    }
    fn checks_first_values(&self) -> bool {
        true
    }
    fn loop_variables_are_fresh(&self) -> bool {
        true
    }
    fn needs_constant(&self, source: &Source, literal: NodeId) -> bool {
        // `byte b = 1` takes a constant, and no variable
        let parent = source.tree.parent(literal).map(|p| source.tree.role(p));
        let text = source.str(literal).starts_with('"');
        !text && !matches!(parent, Some(Role::Arguments | Role::Compare))
    }
    fn closures_hide_locals(&self) -> bool {
        false
    }
    fn passes_by_name(&self, _source: &Source, _function: NodeId) -> bool {
        false
    }
    fn is_plain_top_level(&self, _tree: &Tree, _statement: NodeId, _text: &str) -> bool {
        // a class is loaded when it is first used, not when its file is named
        true
    }
}

impl Typing for Java {
    fn plain_types(&self) -> &'static [&'static str] {
        known::PLAIN_TYPES
    }
    fn needs_types(&self) -> bool {
        true
    }
    fn needs_result_type(&self) -> bool {
        true
    }
    fn types_locals(&self) -> bool {
        true
    }
    fn type_of(&self, source: &Source, node: NodeId, definitions: &Definitions) -> Ty {
        typing::Types::new(source, definitions).value(node)
    }
    fn spell(&self, ty: Ty, at: &Source, definitions: &Definitions) -> Option<String> {
        spelling::spelled(ty, at, definitions)
    }
    fn function_type(&self, parameters: &[(String, String)], results: &[String]) -> Option<String> {
        functions::of(parameters, results)
    }
    fn may_give_nothing(&self, source: &Source, function: NodeId) -> bool {
        let t = &source.tree;
        let written = t.child(function, Field::ReturnType);
        written.is_some_and(|w| !types::is_primitive(t, w))
    }
    fn declared_exceptions(
        &self,
        source: &Source,
        first: NodeId,
        end: NodeId,
        definitions: &Definitions,
    ) -> Result<Vec<String>, (NodeId, String)> {
        exceptions::declared(source, first, end, definitions)
    }
    fn asks_more_than_type(&self, source: &Source, value: NodeId, definitions: &Definitions) -> bool {
        words::asks_more_than_type(source, value, definitions)
    }
    fn takes_type_of_place(&self, source: &Source, value: NodeId, of: Ty, definitions: &Definitions) -> bool {
        words::nothing_fits(source, value, of, definitions)
    }
    fn may_be_constant(&self, source: &Source, value: NodeId) -> bool {
        words::is_constant(source, value)
    }
    fn local_word(
        &self,
        source: &Source,
        local: BindingId,
        declared: Option<&str>,
        definitions: &Definitions,
    ) -> Option<String> {
        spelling::local_word(source, local, declared, definitions)
    }
    fn may_inherit(&self, source: &Source, class: NodeId, name: &str, definitions: &Definitions) -> bool {
        typing::Types::new(source, definitions).may_inherit(class, name)
    }
    fn says_it_throws(&self, source: &Source, function: NodeId) -> Vec<NodeId> {
        members::throws_of(source, function)
    }
    fn member_of(&self, source: &Source, word: NodeId, definitions: &Definitions) -> MemberOf {
        typing::Types::new(source, definitions).member_of(word)
    }
    fn member_around(&self, source: &Source, word: NodeId, name: &str, definitions: &Definitions) -> MemberOf {
        typing::Types::new(source, definitions).member_around(word, name)
    }
    fn class_named(&self, source: &Source, word: NodeId, definitions: &Definitions) -> MemberOf {
        typing::Types::new(source, definitions).class_named(word)
    }
    fn class_above_place(&self, source: &Source, place: NodeId, name: &str, definitions: &Definitions) -> MemberOf {
        typing::Types::new(source, definitions).class_above_place(place, name)
    }
    fn shows_its_name(&self, source: &Source, class: NodeId, definitions: &Definitions) -> bool {
        typing::Types::new(source, definitions).shows_its_name(class)
    }
    fn file_of_class(&self, source: &Source, class: NodeId, name: &str) -> Option<String> {
        let t = &source.tree;
        let (folder, file) = source.path.rsplit_once('/').map_or(("", source.path.as_str()), |(f, n)| (f, n));
        let own = t.child(class, Field::Name).is_some_and(|n| file == format!("{}.java", source.str(n)));
        let top = t.ancestor(class, &[Role::Class]).is_none();
        let slash = if folder.is_empty() { "" } else { "/" };
        (own && top).then(|| format!("{folder}{slash}{name}.java"))
    }
    fn may_get_besides(&self, source: &Source, class: NodeId, name: &str, definitions: &Definitions) -> bool {
        typing::Types::new(source, definitions).may_get_besides(class, name)
    }
    fn member_above(&self, source: &Source, class: NodeId, name: &str, definitions: &Definitions) -> MemberOf {
        typing::Types::new(source, definitions).method_above(class, name)
    }
    fn class_type(&self, source: &Source, class: NodeId, definitions: &Definitions) -> (Ty, Vec<Ty>) {
        let types = typing::Types::new(source, definitions);
        (types.of_class(class), types.above(class))
    }
    fn named_from_outside(&self, source: &Source, declaration: NodeId) -> Option<(&'static str, bool)> {
        words::named_from_outside(source, declaration)
    }
    fn literal_type(&self, literal: &str) -> Option<&'static str> {
        ["true", "false"].contains(&literal).then_some("boolean")
    }
    fn no_result_type(&self) -> &'static str {
        "void"
    }
}

impl Modules for Java {
    fn modules_are_values(&self) -> bool {
        false
    }
    fn named_in_settings(&self, module: &ModuleName, name: &str) -> Vec<String> {
        modules::named_in_settings(module, name)
    }
    fn packages_share_names(&self) -> bool {
        true
    }
    fn imports_of(&self, tree: &Tree, statement: NodeId, text: &str) -> Vec<ImportRef> {
        let is_import = tree.role(statement) == Role::ImportFrom;
        scopes::imports(tree, statement, text).into_iter().filter(|_| is_import).collect()
    }
    fn imports_load(&self) -> bool {
        false
    }
    fn import_of_free(&self, from: &ModuleName, name: &str) -> Option<ImportRef> {
        modules::import_of_free(from, name)
    }
    fn seen_through(&self, source: &Source, name: &str) -> Option<String> {
        modules::seen_through(source, name)
    }
    fn wildcards_hide_builtins(&self) -> bool {
        false
    }
    fn shared_file_names(&self) -> &'static [&'static str] {
        &["Helpers", "Shared", "Common", "Utils", "Util", "Support"]
    }
    fn said_package(&self, source: &Source) -> Vec<String> {
        modules::said_package(source)
    }
    fn new_file(&self, module: &ModuleName, open: Option<bool>) -> String {
        modules::new_file(module, open)
    }
    fn sees_root(&self, from: &ModuleName, to: &ModuleName) -> bool {
        modules::sees_root(from, to)
    }
    fn loading_words(&self) -> &'static [&'static str] {
        &["forName", "loadClass"]
    }
    fn exports_by_name(&self, _source: &Source, _b: BindingId) -> bool {
        true
    }
    fn hides(&self, source: &Source, b: BindingId) -> bool {
        // what the statements of a sketch declare is seen in its file
        source.names.binding(b).scope == Names::MODULE && source.names.binding(b).kind == BindKind::Variable
    }
    fn module_name(&self, path: &str, _exists: &dyn Fn(&str) -> bool) -> Option<ModuleName> {
        modules::module_name(path)
    }
    fn resolve_import(&self, from: &ModuleName, _path: &str, import: &ImportRef) -> Vec<String> {
        modules::resolve(from, import)
    }
    fn is_standard_module(&self, module: &str) -> bool {
        module.starts_with("java.") || module.starts_with("javax.")
    }
    fn head_of_like(&self, like: &Source) -> String {
        let package = like.tree.children(Tree::ROOT).find(|n| like.str(*n).starts_with("package "));
        package.map_or(String::new(), |n| format!("{}\n\n", like.str(n)))
    }
    fn module_system(&self, _path: &str, _tree: &Tree, _text: &str) -> Option<&'static str> {
        Some("package")
    }
    fn export_line(&self, _source: &Source, _like: &Source, _name: &str) -> Option<String> {
        None
    }
    fn file_listing_words(&self) -> &'static [&'static str] {
        &["getResources", "walk"]
    }
    fn import_line(&self, _from: &Source, to: &ModuleName, name: &str, _relative: bool) -> Option<String> {
        let package = &to.parts[..to.parts.len() - 1];
        Some(format!("import {}.{name};", package.join("."))).filter(|_| !package.is_empty())
    }
    fn extend_import(&self, _from: &Source, _statement: NodeId, _line: &str, _name: &str) -> Option<Edit> {
        None
    }
    fn passed_on(&self, _source: &Source) -> Vec<super::Passed> {
        Vec::new()
    }
}

impl Suites for Java {
    fn test_command(&self, _layout: &dyn Layout) -> Option<String> {
        None // build tools have their own files, by which they are found
    }
}
