//! C# 7 to 13: files of a project of .NET, also those of game engines.
//!
//! Not known here: which edition of the language a project is compiled with, what packages have in them, what code that is
//! generated adds to partial classes. Statements at the top of a file are read, and no function is put among them.

mod classes;
mod conditions;
mod declared;
mod functions;
mod grammar;
mod library;
mod loops;
mod made;
mod members;
mod modules;
mod named;
mod places;
mod scopes;
mod spelling;
mod suites;
#[cfg(test)]
mod tests;
mod types;
mod words;
mod write;
mod written;

use std::borrow::Cow;

use super::written::has_word;
use super::{
    Collections, Definitions, Doing, Following, MemberOf, MethodKind, ModuleName, Modules, NameSpaces, Passed, Scoping,
    Semantics, Syntax, Typing,
};
use crate::names::{BindingId, ImportRef, Names, Source};
use crate::text::{Edit, Span};
use crate::tree::{Field, Grammar, NodeId, Role, Standing, Tree};
use crate::types::Ty;

pub struct CSharp;

impl Syntax for CSharp {
    fn name(&self) -> &'static str {
        "csharp"
    }
    fn extensions(&self) -> &'static [&'static str] {
        &["cs"]
    }
    fn grammar(&self) -> &Grammar {
        &grammar::GRAMMAR
    }
    fn is_comment(&self, kind: &str) -> bool {
        kind == "comment" || kind.starts_with("preproc_")
    }
    fn is_no_comment(&self, comment: &str) -> bool {
        comment.starts_with('#')
    }
    fn parsed<'t>(&self, text: &'t str) -> Cow<'t, str> {
        grammar::parsed(text)
    }
    fn reduced(&self, text: &str) -> Option<(String, Vec<Span>)> {
        conditions::without(&grammar::parsed(text))
    }
    fn refine(&self, role: Role, field: Field, parent: Role, _first: bool, at: &Standing) -> (Role, Field) {
        grammar::refine(role, field, parent, at)
    }
    fn is_keyword(&self, word: &str) -> bool {
        words::KEYWORDS.contains(&word)
    }
    fn is_identifier(&self, word: &str) -> bool {
        let bare = word.strip_prefix('@').unwrap_or(word);
        let mut chars = bare.chars();
        chars.next().is_some_and(|c| c.is_alphabetic() || c == '_')
            && chars.all(|c| c.is_alphanumeric() || c == '_')
            && (bare != word || !self.is_keyword(word))
            && word != "_"
    }
    fn format_of(&self, source: &Source, expression: NodeId) -> Option<(NodeId, char)> {
        let t = &source.tree;
        let callee = t.child(expression, Field::Callee).map(|c| source.str(c))?;
        let first = t.child(expression, Field::Arguments).and_then(|a| t.children(a).next());
        first.filter(|_| callee.ends_with(".Format") || callee.starts_with("Console.Write")).map(|f| (f, '{'))
    }
    fn fits_in_template(&self, template: &str, value: &str) -> bool {
        // a text in a text with values can't have its own marks before C# 11
        template.contains("$@") || !value.contains(['"', ':', '?', '\n'])
    }
    fn is_declaring_word(&self, word: &str) -> bool {
        word == "var"
    }
    fn shows_words(&self) -> &'static [&'static str] {
        &["nameof"]
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
        ["ToUpperInvariant", "ToLowerInvariant"]
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
        word.split_whitespace().any(|w| w == "const")
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
        words::DIRECTIVES
    }
    fn comment_text<'t>(&self, comment: &'t str) -> &'t str {
        comment.trim_start_matches(['/', '*']).trim_end_matches("*/").trim()
    }
    fn default_unit(&self) -> &'static str {
        "    "
    }
    fn default_width(&self) -> usize {
        100
    }
}

impl Scoping for CSharp {
    fn names(&self, tree: &Tree, text: &str) -> Names {
        scopes::names(tree, text)
    }
    fn needs_class(&self, name: &str) -> bool {
        name == "base"
    }
    fn is_mangled(&self, _name: &str) -> bool {
        false
    }
    fn is_builtin(&self, name: &str) -> bool {
        words::PREDEFINED.contains(&name)
            || ["nameof", "global"].contains(&name)
            || library::LIBRARY.class(name, 0).is_some()
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
        classes::reach_of(source, function) == super::Reach::Own
    }
    fn hides_from_others(&self, source: &Source, declaration: NodeId) -> bool {
        matches!(classes::reach_of(source, declaration), super::Reach::Own | super::Reach::Below)
    }
    fn is_open(&self, source: &Source, declaration: NodeId) -> bool {
        has_word(source, declaration, "public")
    }
    fn is_open_below(&self, source: &Source, declaration: NodeId) -> bool {
        self.is_open(source, declaration) || has_word(source, declaration, "protected")
    }
    fn generic_classes_have_names(&self) -> bool {
        false
    }
    fn hides_below(&self) -> bool {
        true
    }
    fn hands_down(&self, source: &Source, class: NodeId) -> bool {
        classes::hands_down(source, class)
    }
    fn mode(&self, source: &Source, place: NodeId) -> u8 {
        let t = &source.tree;
        let all = || std::iter::once(place).chain(t.ancestors(place));
        let word = |n: NodeId| source.str(n).split(['(', '{', ' ', '\n']).next().unwrap_or("").trim();
        let counting =
            all().filter(|n| matches!(t.role(*n), Role::With | Role::UnaryOp)).map(word).find_map(|w| match w {
                "checked" => Some(1),
                "unchecked" => Some(2),
                _ => None,
            });
        let is_unsafe = |n: NodeId| match t.role(n) {
            Role::With => word(n) == "unsafe",
            Role::Function | Role::Class => has_word(source, n, "unsafe"),
            _ => false,
        };
        counting.unwrap_or(0) + 4 * u8::from(all().any(is_unsafe))
    }
    fn modes_change_all(&self) -> bool {
        true
    }
    fn is_frame_name(&self, _name: &str) -> bool {
        false
    }
    fn is_special_member(&self, name: &str) -> bool {
        words::SPECIAL.contains(&name)
    }
    fn object_word(&self) -> Option<&'static str> {
        Some("this")
    }
    fn members_keep_object(&self) -> bool {
        true
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
    fn has_free_functions(&self, _source: &Source) -> bool {
        false
    }
    fn takes_functions(&self, _source: &Source) -> bool {
        false
    }
    fn takes_no_private(&self, source: &Source, class: NodeId, _edition: u8) -> Option<&'static str> {
        match classes::class_word(source, class) {
            "enum" => Some("an enumeration has constants only"),
            "interface" => Some("methods that an interface keeps for itself came with C# 8, and not everywhere"),
            _ if source.tree.child(class, Field::Body).is_none() => Some("the class has no body"),
            _ => None,
        }
    }
    fn is_before_object(&self, source: &Source, node: NodeId) -> bool {
        let t = &source.tree;
        // `: base(…)`, and what a field is made with
        let calls = t.ancestors(node).filter(|a| t.role(*a) == Role::Call).filter_map(|c| t.child(c, Field::Callee));
        let mut words = calls.map(|c| source.str(c));
        let field = t.ancestor(node, &[Role::ClassField, Role::Function]);
        // a struct is one when all of its fields have values
        let function = t.ancestor(node, &[Role::Function, Role::Class]).filter(|f| t.role(*f) == Role::Function);
        let makes = |f: NodeId| t.child(f, Field::ReturnType).is_none() && t.child(f, Field::Parameters).is_some();
        let class = t.ancestor(node, &[Role::Class]);
        let of_struct = class.is_some_and(|c| classes::class_word(source, c) == "struct");
        if of_struct && function.is_some_and(makes) {
            return true;
        }
        words.any(|c| ["base", "this"].contains(&c)) || field.is_some_and(|f| t.role(f) == Role::ClassField)
    }
    fn is_of_object(&self, source: &Source, member: BindingId) -> bool {
        !classes::is_static(source, member)
    }
    fn needs_no_object(&self, source: &Source, declaration: NodeId) -> bool {
        let t = &source.tree;
        // what a property does is said by its own words
        let around = t.ancestor(declaration, &[Role::ClassField, Role::Function, Role::Class]);
        let by_field = around.is_some_and(|f| t.role(f) == Role::ClassField && has_word(source, f, "static"));
        has_word(source, declaration, "static") || t.role(declaration) == Role::Class || by_field
    }
    fn is_sure(&self, source: &Source, name: NodeId) -> bool {
        classes::is_sure(source, name)
    }
    fn is_final(&self, source: &Source, member: BindingId) -> bool {
        classes::is_final(source, member)
    }
}

impl Semantics for CSharp {
    fn acts_when_loaded(&self, source: &Source, class: NodeId, definitions: &Definitions) -> bool {
        types::Types::new(source, definitions).acts_when_loaded(class)
    }
    fn is_place(&self, source: &Source, node: NodeId) -> bool {
        places::is_place(source, node)
    }
    fn yields_keys(&self) -> bool {
        // what one method yields, another one can't hand on
        true
    }
    fn is_constant(&self, source: &Source, path: NodeId, definitions: &Definitions) -> bool {
        types::Types::new(source, definitions).is_constant(path)
    }
    fn runs_when_read(&self, source: &Source, name: NodeId) -> bool {
        classes::runs_when_read(source, name)
    }
    fn reads_frame(&self, callee: &str, call: &str) -> bool {
        let told = words::TOLD_CALLER.iter().any(|w| callee.rsplit('.').next() == Some(w));
        let name = callee == "nameof" && !call.contains('.');
        told || name || words::FRAMES.iter().any(|w| callee.ends_with(w)) || ["this", "base"].contains(&callee)
    }
    fn tells_caller(&self, source: &Source, call: NodeId) -> bool {
        classes::tells_caller(source, call)
    }
    fn reads_locals(&self, _callee: &str, _call: &str) -> bool {
        false
    }
    fn stack_words(&self) -> &'static [&'static str] {
        &["StackTrace", "StackFrame", "MethodBase.GetCurrentMethod", "Assembly.GetCallingAssembly", "*.GetFrame"]
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
    fn data_words(&self) -> &'static [&'static str] {
        &["DeserializeObject", "Deserialize", "FromJson", "ReadObject"]
    }
    fn takes_anything(&self, callee: &str) -> bool {
        callee.starts_with("Console.Write") || callee == "Convert.ToString"
    }
    fn quiet_calls(&self) -> &'static [&'static str] {
        &["Math.*", "int.Parse", "string.IsNullOrEmpty", "string.IsNullOrWhiteSpace"]
    }
    fn is_gone_through_again(&self, source: &Source, name: NodeId, definitions: &Definitions) -> bool {
        matches!(self.type_of(source, name, definitions).kind(), crate::types::Kind::Array(_))
    }
    fn collections(&self) -> &'static Collections {
        &library::COLLECTIONS
    }
    fn printers(&self) -> &'static [&'static str] {
        &["Console.WriteLine", "Console.Write", "Console.Error.WriteLine"]
    }
    fn is_plain_value(&self, source: &Source, value: NodeId) -> bool {
        let of = types::Types::new(source, &|_: &Source, _: &str| None).value(value);
        matches!(of.kind(), crate::types::Kind::Primitive(w) if w != "object")
    }
    fn doing(&self, source: &Source, expression: NodeId) -> Doing {
        places::doing(source, expression)
    }
    fn name_members(&self) -> &'static [&'static str] {
        &["Name", "FullName"]
    }
    fn class_of(&self, source: &Source, expression: NodeId) -> Option<NodeId> {
        let t = &source.tree;
        let callee = t.child(expression, Field::Callee)?;
        if source.str(callee) == "GetType" {
            return t.ancestor(callee, &[Role::Class]);
        }
        t.child(callee, Field::Member).filter(|m| source.str(*m) == "GetType")?;
        t.child(callee, Field::Object)
    }
    fn demanded_members(&self) -> &'static [&'static str] {
        words::DEMANDED
    }
    fn harmless_bases(&self) -> &'static [&'static str] {
        &["Object", "object", "Exception", "IDisposable", "IComparable"]
    }
    fn members_are_keys(&self) -> bool {
        false
    }
    fn passes_extra_arguments(&self) -> bool {
        false
    }
    fn checks_first_values(&self) -> bool {
        true
    }
    fn loop_variables_are_fresh(&self) -> bool {
        true
    }
    fn closes_at_end(&self, source: &Source, declaration: NodeId) -> bool {
        source.tree.role(declaration) == Role::Declare && has_word(source, declaration, "using")
    }
    fn needs_constant(&self, source: &Source, literal: NodeId) -> bool {
        let parent = source.tree.parent(literal).map(|p| source.tree.role(p));
        let text = source.str(literal).starts_with('"');
        places::is_place(source, literal) || !text && !matches!(parent, Some(Role::Arguments | Role::Compare))
    }
    fn closures_take(&self, source: &Source, name: NodeId) -> bool {
        places::is_taken(source, name)
    }
    fn closures_hide_locals(&self) -> bool {
        false
    }
    fn passes_by_name(&self, _source: &Source, _function: NodeId) -> bool {
        false
    }
    fn is_plain_top_level(&self, tree: &Tree, statement: NodeId, _text: &str) -> bool {
        // a class is made ready when it is first used, not when its file is named
        !matches!(tree.role(statement), Role::ExprStmt | Role::Declare | Role::If) && !tree.role(statement).is_loop()
    }
}

impl Typing for CSharp {
    fn plain_types(&self) -> &'static [&'static str] {
        words::PLAIN_TYPES
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
        types::Types::new(source, definitions).value(node)
    }
    fn spell(&self, ty: Ty, at: &Source, _definitions: &Definitions) -> Option<String> {
        spelling::spelled(ty, at)
    }
    fn function_type(&self, parameters: &[(String, String)], results: &[String]) -> Option<String> {
        functions::of(parameters, results)
    }
    fn several_type(&self, members: &[(String, String)]) -> Option<String> {
        // compilers and people know tuples up to seven
        let all: Vec<String> = members.iter().map(|(of, name)| format!("{of} {name}")).collect();
        (all.len() < 8).then(|| format!("({})", all.join(", ")))
    }
    fn awaited_type(&self, written: &str) -> Option<String> {
        match written {
            "Task" | "ValueTask" => Some(self.no_result_type().to_string()),
            _ => written.strip_prefix("Task<").and_then(|w| w.strip_suffix('>')).map(str::to_string),
        }
    }
    fn may_give_nothing(&self, source: &Source, function: NodeId) -> bool {
        let written = source.tree.child(function, Field::ReturnType).map_or("", |r| source.str(r));
        !words::PREDEFINED.contains(&written) || written == "string" || written == "object"
    }
    fn asks_more_than_type(&self, source: &Source, value: NodeId, definitions: &Definitions) -> bool {
        places::asks_more_than_type(source, value, definitions)
    }
    fn may_be_constant(&self, source: &Source, value: NodeId) -> bool {
        places::is_constant(source, value)
    }
    fn local_word(
        &self,
        source: &Source,
        local: BindingId,
        declared: Option<&str>,
        definitions: &Definitions,
    ) -> Option<String> {
        let plain = declared.filter(|d| !d.split_whitespace().any(|w| ["var", "const", "using", "ref"].contains(&w)));
        let first = source.names.binding(local).first;
        plain.map(str::to_string).or_else(|| spelling::spelled(self.type_of(source, first, definitions), source))
    }
    fn may_inherit(&self, source: &Source, class: NodeId, name: &str, definitions: &Definitions) -> bool {
        types::Types::new(source, definitions).may_inherit(class, name)
    }
    fn may_get_besides(&self, source: &Source, class: NodeId, _name: &str, _definitions: &Definitions) -> bool {
        // what an interface has is not called by its bare name
        has_word(source, class, "partial")
    }
    fn class_named(&self, source: &Source, word: NodeId, definitions: &Definitions) -> MemberOf {
        types::Types::new(source, definitions).class_named(word)
    }
    fn class_above_place(&self, source: &Source, place: NodeId, name: &str, definitions: &Definitions) -> MemberOf {
        types::Types::new(source, definitions).class_above_place(place, name)
    }
    fn member_of(&self, source: &Source, word: NodeId, definitions: &Definitions) -> MemberOf {
        types::Types::new(source, definitions).member_named(word)
    }
    fn member_around(&self, source: &Source, word: NodeId, name: &str, definitions: &Definitions) -> MemberOf {
        types::Types::new(source, definitions).member_around(word, name)
    }
    fn member_above(&self, source: &Source, class: NodeId, name: &str, definitions: &Definitions) -> MemberOf {
        types::Types::new(source, definitions).above_has(class, name)
    }
    fn class_type(&self, source: &Source, class: NodeId, definitions: &Definitions) -> (Ty, Vec<Ty>) {
        let types = types::Types::new(source, definitions);
        (types.of_class(class), types.above(class))
    }
    fn named_from_outside(&self, source: &Source, declaration: NodeId) -> Option<(&'static str, bool)> {
        let t = &source.tree;
        let taken = ["override", "virtual", "abstract"].iter().any(|w| has_word(source, declaration, w));
        let promised = t.ancestor(declaration, &[Role::Class]).is_some_and(|c| t.child(c, Field::Bases).is_some());
        if t.role(declaration) == Role::ClassField && (taken || promised && has_word(source, declaration, "public")) {
            return Some(("classes that this one extends, or that extend it, may have it by this name", true));
        }
        let list = t.child(declaration, Field::Parameters).filter(|_| t.role(declaration) == Role::Function);
        if list.and_then(|l| t.children(l).next()).is_some_and(|p| has_word(source, p, "this")) {
            return Some(("it is called like a member of what it is given", true));
        }
        if t.role(declaration) == Role::Parameter {
            return Some(("the members of a record are named by it", true));
        }
        let marked = |n: NodeId| t.children(n).any(|c| t.role(c) == Role::Decorator);
        let class = t.ancestor(declaration, &[Role::Class]);
        let field = t.role(declaration) == Role::ClassField && class.is_some_and(marked);
        (marked(declaration) || field)
            .then_some(("what reads the attributes here does not look it up by its name", false))
    }
    fn literal_type(&self, literal: &str) -> Option<&'static str> {
        ["true", "false"].contains(&literal).then_some("bool")
    }
    fn no_result_type(&self) -> &'static str {
        "void"
    }
}

impl Modules for CSharp {
    fn modules_are_values(&self) -> bool {
        false
    }
    fn packages_share_names(&self) -> bool {
        true
    }
    fn name_spaces(&self, tree: &Tree, text: &str) -> Option<NameSpaces> {
        Some(modules::name_spaces(tree, text))
    }
    fn library_space(&self, class: &str) -> Option<&'static str> {
        modules::library_space(class)
    }
    fn seen_through(&self, source: &Source, _name: &str) -> Option<String> {
        modules::seen_through(source)
    }
    fn sees_root(&self, from: &ModuleName, to: &ModuleName) -> bool {
        from.base == to.base
    }
    fn imports_of(&self, _tree: &Tree, _statement: NodeId, _text: &str) -> Vec<ImportRef> {
        Vec::new()
    }
    fn imports_load(&self) -> bool {
        false
    }
    fn following(&self, tree: &Tree, text: &str) -> Following {
        Following { asking: classes::asking(tree, text), ..Following::default() }
    }
    fn wildcards_hide_builtins(&self) -> bool {
        false
    }
    fn loading_words(&self) -> &'static [&'static str] {
        &["LoadFrom", "LoadFile", "CreateInstance"]
    }
    fn exports_by_name(&self, _source: &Source, _b: BindingId) -> bool {
        true
    }
    fn hides(&self, source: &Source, b: BindingId) -> bool {
        source.names.binding(b).scope != Names::MODULE
    }
    fn module_name(&self, path: &str, exists: &dyn Fn(&str) -> bool) -> Option<ModuleName> {
        modules::module_name(path, exists)
    }
    fn resolve_import(&self, _from: &ModuleName, _path: &str, _import: &ImportRef) -> Vec<String> {
        // by the names of classes alone
        Vec::new()
    }
    fn is_standard_module(&self, module: &str) -> bool {
        module == "System" || module.starts_with("System.")
    }
    fn module_system(&self, _path: &str, _tree: &Tree, _text: &str) -> Option<&'static str> {
        None
    }
    fn export_line(&self, _source: &Source, _like: &Source, _name: &str) -> Option<String> {
        None
    }
    fn file_listing_words(&self) -> &'static [&'static str] {
        &["GetManifestResourceNames"]
    }
    fn import_line(&self, _from: &Source, to: &ModuleName, _name: &str, _relative: bool) -> Option<String> {
        (!to.package().is_empty()).then(|| format!("using {};", to.package().join(".")))
    }
    fn extend_import(&self, _from: &Source, _statement: NodeId, _line: &str, _name: &str) -> Option<Edit> {
        None
    }
    fn passed_on(&self, _source: &Source) -> Vec<Passed> {
        Vec::new()
    }
}
