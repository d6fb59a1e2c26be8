//! Python 3.

mod bases;
mod cells;
mod exported;
mod grammar;
mod known;
mod library;
mod loops;
mod modules;
mod scopes;
mod shown;
mod suites;
mod write;

use super::{
    Bases, CallParts, Collections, Definitions, Export, FunctionParts, Layout, Look, Loops, MethodKind, ModuleName,
    Modules, Scoping, Semantics, Signature, Suites, Syntax, Typing, Writer,
};
use crate::names::{BindingId, ImportRef, Names, Source};
use crate::text::Edit;
use crate::tree::{Field, Grammar, NodeId, Role, Standing, Tree};
use crate::types::{Kind, Ty};

pub struct Python {
    /// The code of a notebook, whose cells show what their last expressions give.
    cells: bool,
}

pub const PYTHON: Python = Python { cells: false };
pub const NOTEBOOK: Python = Python { cells: true };

impl Syntax for Python {
    fn name(&self) -> &'static str {
        if self.cells { "notebook" } else { "python" }
    }
    fn family(&self) -> &'static str {
        "python"
    }
    fn extensions(&self) -> &'static [&'static str] {
        if self.cells { &["ipynb"] } else { &["py"] }
    }
    fn script_of(&self, file: &str) -> Option<Result<String, String>> {
        self.cells.then(|| cells::script_of(file))
    }
    fn export(&self, file: &str, quiet: bool) -> Option<Result<Export, String>> {
        self.cells.then(|| exported::script(file, quiet))
    }
    fn file_of(&self, file: &str, script: &str) -> Option<Result<String, String>> {
        self.cells.then(|| cells::file_of(file, script))
    }
    fn cell_at(&self, script: &str, line: usize) -> Option<(usize, usize)> {
        if self.cells { cells::cell_at(script, line) } else { None }
    }
    fn line_in_cell(&self, script: &str, cell: usize, line: usize) -> Option<usize> {
        if self.cells { cells::line_in(script, cell, line) } else { None }
    }
    fn is_no_comment(&self, comment: &str) -> bool {
        self.cells && (cells::is_opaque(comment) || cells::begins_cell(comment))
    }
    fn shows_value(&self, tree: &Tree, text: &str, statement: NodeId) -> bool {
        self.cells && shown::is_shown(tree, text, statement)
    }
    fn grammar(&self) -> &Grammar {
        &grammar::GRAMMAR
    }
    fn is_comment(&self, kind: &str) -> bool {
        kind == "comment"
    }
    fn catch_all_case(&self) -> &'static str {
        "case _"
    }
    fn refine(&self, role: Role, field: Field, parent: Role, first: bool, at: &Standing) -> (Role, Field) {
        let node = at.node;
        let role = match role {
            Role::Name if field == Field::Member => Role::MemberName,
            Role::Name if field == Field::Name && parent == Role::KeywordArg => Role::KeywordName,
            Role::Name if first && parent == Role::Pattern && at.is_in("keyword_pattern") => Role::KeywordName,
            Role::Literal if node.kind() == "string" => {
                let mut cursor = node.walk();
                let composed = node.children(&mut cursor).any(|c| c.kind() == "interpolation");
                if composed { Role::Template } else { Role::Literal }
            }
            Role::ExprStmt if first && parent.is_sequence() && node.named_child_count() == 1 => {
                let only = node.named_child(0).map_or("", |c| c.kind());
                if only == "string" { Role::Doc } else { role }
            }
            // as the target of an assignment, a pattern binds; where a value is read the same kinds are displays
            _ => role,
        };
        (role, field)
    }
    fn is_keyword(&self, word: &str) -> bool {
        library::KEYWORDS.contains(&word)
    }
    fn is_identifier(&self, word: &str) -> bool {
        let mut chars = word.chars();
        chars.next().is_some_and(|c| c.is_alphabetic() || c == '_')
            && chars.all(|c| c.is_alphanumeric() || c == '_')
            && !self.is_keyword(word)
    }
    fn spreads_names(&self, argument: &str) -> bool {
        argument.starts_with("**")
    }
    fn fits_in_template(&self, template: &str, value: &str) -> bool {
        // before Python 3.12 (PEP 701) the place of a value is a part of the text around it
        let quote = if template.trim_end().ends_with('"') { '"' } else { '\'' };
        // a text may show how its values are written
        if ["=}", "=!", "=:"].iter().any(|m| template.contains(m)) {
            return false;
        }
        !value.contains([quote, '\\', '#', '\n']) && !value.starts_with('{') && !value.contains("lambda")
    }
    fn name_of_arguments(&self) -> Option<&'static str> {
        Some("=")
    }
    fn format_of(&self, source: &Source, expression: NodeId) -> Option<(NodeId, char)> {
        let t = &source.tree;
        if let Some((left, right)) = t.child(expression, Field::Left).zip(t.child(expression, Field::Right)) {
            let operator = source.text[t.span(left).end..t.span(right).start].trim();
            return (t.role(expression) == Role::BinaryOp && operator == "%").then_some((left, '%'));
        }
        let callee = t.child(expression, Field::Callee).filter(|_| t.role(expression) == Role::Call)?;
        let formats = t.child(callee, Field::Member).is_some_and(|m| source.str(m) == "format");
        t.child(callee, Field::Object).filter(|_| formats).map(|o| (o, '{'))
    }
    fn is_always_true(&self, condition: &str) -> bool {
        matches!(condition, "True" | "1")
    }
    fn read_otherwise(&self, text: &str) -> Option<String> {
        // a declaration in the first two lines (Python Language Reference 2.1.4)
        let declared = text.lines().take(2).filter(|l| l.trim_start().starts_with('#')).find_map(|l| {
            let rest = l.split("coding").nth(1)?.strip_prefix([':', '='])?.trim_start();
            Some(rest.split(|c: char| !c.is_alphanumeric() && c != '-' && c != '_' && c != '.').next()?.to_lowercase())
        });
        let known = |e: &String| ["utf-8", "utf8", "ascii", "us-ascii", "utf-8-sig", "utf_8"].contains(&e.as_str());
        let other = declared.filter(|e| !known(e)).map(|e| format!("it declares the encoding {e}"));
        let bytes = text.as_bytes();
        let alone = bytes.iter().enumerate().any(|(i, b)| *b == b'\r' && bytes.get(i + 1) != Some(&b'\n'));
        other.or_else(|| alone.then(|| "a carriage return alone ends lines here".to_string()))
    }
    fn truth(&self, holds: bool) -> &'static str {
        if holds { "True" } else { "False" }
    }
    fn negation(&self) -> &'static str {
        "not "
    }
    fn case_members(&self) -> [&'static str; 2] {
        ["upper", "lower"]
    }
    fn shows_code(&self, rest: &str) -> bool {
        rest.trim_start().starts_with('=')
    }
    fn is_constructor(&self, name: &str) -> bool {
        name == "__init__"
    }
    fn differs(&self) -> &'static str {
        "is not"
    }
    fn nothing(&self) -> &'static str {
        "None"
    }
    fn line_comment(&self) -> &'static str {
        "#"
    }
    fn directives(&self) -> &'static [&'static str] {
        &[
            "!", "noqa", "type:", "pylint:", "pragma", "fmt:", "isort:", "mypy:", "ruff:", "flake8:", "nosec", "-*-",
            "vim:", "%%", "cython:", "doctest:", "yapf:",
        ]
    }
    fn comment_text<'t>(&self, comment: &'t str) -> &'t str {
        comment.trim_start_matches(['#', ':', '!']).trim()
    }
    fn default_unit(&self) -> &'static str {
        "    "
    }
    fn default_width(&self) -> usize {
        79
    }
}

impl Scoping for Python {
    fn hands_down(&self, source: &Source, class: NodeId) -> bool {
        let t = &source.tree;
        let around = t.parent(class).is_some_and(|p| p == Tree::ROOT);
        // a keyword beside the bases is a metaclass, or what one is told
        let told = t
            .children(class)
            .filter(|c| t.field(*c) == Field::Bases)
            .any(|l| t.subtree(l).any(|n| matches!(t.role(n), Role::KeywordArg | Role::Spread | Role::Call)));
        t.role(class) == Role::Class && around && !told
    }
    fn names(&self, tree: &Tree, text: &str) -> Names {
        scopes::names(tree, text)
    }
    fn needs_class(&self, name: &str) -> bool {
        name == "super" || name == "__class__"
    }
    fn is_mangled(&self, name: &str) -> bool {
        name.starts_with("__") && !name.ends_with("__")
    }
    fn is_builtin(&self, name: &str) -> bool {
        library::BUILTINS.contains(&name)
    }
    fn is_module_own(&self, name: &str) -> bool {
        name.starts_with("__")
            && self.is_builtin(name)
            && !["__import__", "__debug__", "__build_class__"].contains(&name)
    }
    fn member_lists(&self) -> &'static [&'static str] {
        &["__slots__", "__match_args__"]
    }
    fn method_kind(&self, name: &str, decorators: &[&str]) -> MethodKind {
        // these get the class without being asked to
        let implicit = ["__new__", "__init_subclass__", "__class_getitem__"].contains(&name);
        if decorators.contains(&"staticmethod") {
            MethodKind::Static
        } else if implicit || decorators.contains(&"classmethod") {
            MethodKind::Class
        } else {
            MethodKind::Instance
        }
    }
    fn is_receiver(&self, name: &str) -> bool {
        ["self", "cls", "klass", "mcs", "_self", "_cls"].contains(&name)
    }
    fn is_private(&self, name: &str) -> bool {
        name.starts_with('_') && !name.ends_with("__")
    }
    fn is_frame_name(&self, _name: &str) -> bool {
        false
    }
    fn is_special_member(&self, name: &str) -> bool {
        name.starts_with("__") && name.ends_with("__")
    }
    fn object_word(&self) -> Option<&'static str> {
        None
    }
    fn members_keep_object(&self) -> bool {
        true
    }
    fn free_names_are_global(&self) -> bool {
        false
    }
    fn declares_locals(&self) -> bool {
        false
    }
}

impl Semantics for Python {
    fn fault_finders(&self) -> &'static [&'static str] {
        &["breakpoint", "pdb.set_trace", "pdb.post_mortem"]
    }
    fn quiet_calls(&self) -> &'static [&'static str] {
        &["abs", "bool", "float", "int", "isinstance", "len", "round", "str"]
    }
    fn quiet_methods(&self) -> &'static [&'static str] {
        library::QUIET_METHODS
    }
    fn collections(&self) -> &'static Collections {
        &library::COLLECTIONS
    }
    fn printers(&self) -> &'static [&'static str] {
        &["print", "pprint", "pprint.pprint"]
    }
    fn reads_frame(&self, callee: &str, _call: &str) -> bool {
        let last = callee.rsplit('.').next().unwrap_or("");
        library::FRAME_READERS.contains(&callee) || callee.contains('.') && library::FRAME_MEMBERS.contains(&last)
    }
    fn name_tables(&self) -> &'static [&'static str] {
        &["__annotations__", "__dict__", "__builtins__"]
    }
    fn reads_locals(&self, callee: &str, call: &str) -> bool {
        // a table's own language names the caller's variables so: `rows.query("length > @least")`
        let in_text = callee.ends_with(".query") || callee.ends_with(".eval");
        // of an object they show its members
        let given = call[callee.len()..].trim_matches(|c: char| "()".contains(c) || c.is_whitespace());
        let of_frame =
            self.frame_listers().contains(&callee) && (given.is_empty() || given.starts_with(['*', '#', '\\']));
        ["locals", "eval", "exec"].contains(&callee) || of_frame || in_text && call.contains('@')
    }
    fn frame_listers(&self) -> &'static [&'static str] {
        &["vars", "dir"]
    }
    fn stack_words(&self) -> &'static [&'static str] {
        library::STACK_WORDS
    }
    fn counts_frames(&self, argument: &str) -> bool {
        argument == "stacklevel" || argument == "stack_level"
    }
    fn swallows(&self, manager: &str) -> bool {
        let m = manager.to_ascii_lowercase();
        ["suppress", "raises", "ignor", "subtest", "warns", "catch"].iter().any(|w| m.contains(w))
    }
    fn leaving_member(&self) -> Option<&'static str> {
        Some("__exit__")
    }
    fn lets_exceptions_through(&self, manager: &str) -> bool {
        let last = manager.rsplit('.').next().unwrap_or(manager);
        known::PLAIN_MANAGERS.contains(&last) || last.to_ascii_lowercase().ends_with("lock")
    }
    fn frame_texts(&self) -> &'static [&'static str] {
        &["funcName"]
    }
    fn member_listing_words(&self) -> &'static [&'static str] {
        &["dir", "getmembers", "__dict__"]
    }
    fn member_watchers(&self) -> &'static [&'static str] {
        &["__getattribute__"]
    }
    fn class_words(&self) -> &'static [&'static str] {
        &["type", "__class__"]
    }
    fn is_class_receiver(&self, name: &str) -> bool {
        name == "cls"
    }
    fn class_listing_words(&self) -> &'static [&'static str] {
        &["vars"]
    }
    fn listing_words(&self) -> &'static [&'static str] {
        &["vars", "dir", "globals", "getmembers", "__dict__"]
    }
    fn finalizer(&self) -> Option<&'static str> {
        Some("__del__")
    }
    fn holding_calls(&self) -> &'static [&'static str] {
        &[
            "TemporaryDirectory",
            "NamedTemporaryFile",
            "TemporaryFile",
            "SpooledTemporaryFile",
            "open",
            "Popen",
            "socket",
            "finalize",
        ]
    }
    fn lookup_words(&self) -> &'static [&'static str] {
        known::LOOKUPS
    }
    fn look(&self, _source: &Source, _call: NodeId, word: &str, arguments: &[NodeId]) -> Option<Look> {
        Some(match word {
            "attrgetter" => Look { names: Some(arguments.to_vec()), ..Look::all(&[]) },
            "methodcaller" => Look { names: arguments.first().map(|n| vec![*n]), ..Look::all(&[]) },
            _ if known::LISTS.contains(&word) => Look::all(arguments),
            _ => Look::second(arguments),
        })
    }
    fn data_words(&self) -> &'static [&'static str] {
        &["load", "loads"]
    }
    fn name_members(&self) -> &'static [&'static str] {
        &["__name__", "__qualname__"]
    }
    fn class_of(&self, source: &Source, expression: NodeId) -> Option<NodeId> {
        let t = &source.tree;
        if t.child(expression, Field::Member).is_some_and(|m| source.str(m) == "__class__") {
            return t.child(expression, Field::Object);
        }
        let callee = t.child(expression, Field::Callee).filter(|c| source.str(*c) == "type")?;
        let own = source.names.at(callee).is_none_or(|r| r.target.is_none());
        let arguments: Vec<NodeId> = t.children(t.child(expression, Field::Arguments)?).collect();
        arguments.first().copied().filter(|_| own && arguments.len() == 1)
    }
    fn demanded_members(&self) -> &'static [&'static str] {
        known::DEMANDED
    }
    fn makers_when_loaded(&self) -> &'static [&'static str] {
        known::MAKERS_WHEN_LOADED
    }
    fn place_showing_words(&self) -> &'static [&'static str] {
        &["warn", "warn_explicit", "print_stack", "extract_stack", "findCaller"]
    }
    fn reads_module_names(&self) -> &'static [&'static str] {
        &["globals", "eval", "exec"]
    }
    fn class_hooks(&self) -> &'static [&'static str] {
        &["__init_subclass__", "__set_name__", "metaclass"]
    }
    fn path_words(&self) -> &'static [&'static str] {
        &["__qualname__"]
    }
    fn module_showing_words(&self) -> &'static [&'static str] {
        known::MODULE_SHOWING
    }
    fn harmless_bases(&self) -> &'static [&'static str] {
        known::HARMLESS_BASES
    }
    fn members_are_keys(&self) -> bool {
        false
    }
    fn passes_extra_arguments(&self) -> bool {
        false
    }
    fn passes_by_name(&self, source: &Source, function: NodeId) -> bool {
        let t = &source.tree;
        let list = t.child(function, Field::Parameters).map_or(Vec::new(), |p| t.children(p).collect::<Vec<_>>());
        list.iter().any(|p| source.str(*p).starts_with('*') && !source.str(*p).starts_with("**"))
    }
    fn is_plain_top_level(&self, tree: &Tree, statement: NodeId, text: &str) -> bool {
        modules::is_plain_top_level(tree, statement, text)
    }
}

impl Typing for Python {
    fn needs_types(&self) -> bool {
        false
    }
    fn type_of(&self, source: &Source, node: NodeId, _definitions: &Definitions) -> Ty {
        self.literal_type(source.str(node)).map_or(Ty::UNKNOWN, Ty::primitive)
    }
    fn spell(&self, ty: Ty, _at: &Source, _definitions: &Definitions) -> Option<String> {
        match ty.kind() {
            Kind::Primitive(word) => Some(word),
            _ => None,
        }
    }
    fn literal_type(&self, literal: &str) -> Option<&'static str> {
        match literal.chars().next()? {
            '"' | '\'' => Some("str"),
            c if c.is_ascii_digit() && literal.contains(['j', 'J']) => Some("complex"),
            c if c.is_ascii_digit() && literal.contains(['.', 'e', 'E']) && !literal.starts_with("0x") => Some("float"),
            c if c.is_ascii_digit() => Some("int"),
            'T' | 'F' if literal == "True" || literal == "False" => Some("bool"),
            _ => None,
        }
    }
    fn no_result_type(&self) -> &'static str {
        "None"
    }
}

impl Modules for Python {
    fn entry_names(&self) -> &'static [&'static str] {
        &["__main__"]
    }
    fn folder_listers(&self) -> &'static [&'static str] {
        &["listdir", "scandir", "iterdir", "glob", "rglob", "iter_modules", "walk_packages"]
    }
    fn imports_of(&self, tree: &Tree, statement: NodeId, text: &str) -> Vec<ImportRef> {
        scopes::imports(tree, statement, text).into_iter().map(|(_, import)| import).collect()
    }
    fn loaded_by(&self, tree: &Tree, statement: NodeId, text: &str) -> Vec<ImportRef> {
        modules::loaded_by(tree, statement, text, self.imports_of(tree, statement, text))
    }
    fn passed_on(&self, source: &Source) -> Vec<super::Passed> {
        let t = &source.tree;
        let imports = t.ids().filter(|n| t.role(*n) == Role::ImportFrom);
        let all = imports.flat_map(|i| self.imports_of(t, i, &source.text)).filter(|i| i.wildcard);
        all.map(|i| super::Passed { name: None, import: ImportRef { wildcard: false, ..i } }).collect()
    }
    fn loads_modules(&self, expression: &str) -> bool {
        expression.contains("modules") || expression.contains("import")
    }
    fn loading_words(&self) -> &'static [&'static str] {
        &["import_module", "__import__", "run_module", "spec_from_file_location"]
    }
    fn module_table(&self) -> Option<&'static str> {
        Some("sys.modules")
    }
    fn package_file(&self) -> Option<&'static str> {
        Some("__init__.py")
    }
    fn is_open_module(&self, module: &ModuleName) -> bool {
        module.in_package && !module.parts.iter().any(|p| self.is_private(p))
    }
    fn head_of_like(&self, like: &Source) -> String {
        modules::future_imports(like).concat()
    }
    fn is_read_otherwise(&self, a: &Source, b: &Source) -> bool {
        modules::future_imports(a) != modules::future_imports(b)
    }
    fn exports_by_name(&self, _source: &Source, _b: BindingId) -> bool {
        !self.cells
    }
    fn hides(&self, _source: &Source, _b: BindingId) -> bool {
        false
    }
    fn importable_extension(&self) -> Option<&'static str> {
        self.cells.then_some("py")
    }
    fn module_name(&self, path: &str, exists: &dyn Fn(&str) -> bool) -> Option<ModuleName> {
        let Some(stem) = path.strip_suffix(".ipynb").filter(|_| self.cells) else {
            return modules::module_name(path, exists);
        };
        // it finds others, and is found by nobody
        let mut own = modules::module_name(&format!("{stem}.py"), exists)?;
        own.parts.last_mut()?.push_str(modules::NO_MODULE);
        Some(own)
    }
    fn resolve_import(&self, from: &ModuleName, path: &str, import: &ImportRef) -> Vec<String> {
        modules::resolve_import(from, path, import)
    }
    fn is_standard_module(&self, module: &str) -> bool {
        library::STANDARD_MODULES.contains(&module.split('.').next().unwrap_or(""))
    }
    fn module_system(&self, _path: &str, _tree: &Tree, _text: &str) -> Option<&'static str> {
        Some("import")
    }
    fn export_line(&self, _source: &Source, _like: &Source, _name: &str) -> Option<String> {
        None
    }
    fn file_listing_words(&self) -> &'static [&'static str] {
        &["listdir", "scandir", "iterdir", "glob", "iglob", "rglob", "iter_modules", "walk_packages"]
    }
    fn build_list_words(&self) -> &'static [&'static str] {
        &["py_modules", "py-modules"]
    }
    fn import_line(&self, from: &Source, to: &ModuleName, name: &str, relative: bool) -> Option<String> {
        modules::import_line(from.module.as_ref()?, to, name, relative)
    }
    fn extend_import(&self, from: &Source, statement: NodeId, line: &str, name: &str) -> Option<Edit> {
        let (text, end) = (from.str(statement), from.tree.span(statement).end);
        let same =
            line.starts_with("from ") && text.starts_with(line.strip_suffix(name)?) && !text.contains(['(', '\n', '*']);
        let fits = text.chars().count() + name.len() + 2 <= self.default_width();
        (same && fits).then(|| Edit::new(end, end, format!(", {name}")))
    }
    fn public_list(&self) -> Option<&'static str> {
        Some("__all__")
    }
}

impl Writer for Python {
    fn bases(&self) -> Option<&'static dyn Bases> {
        Some(&bases::Classes)
    }
    fn function_name(&self, words: &[String], private: bool, _member: bool) -> String {
        format!("{}{}", if private { "_" } else { "" }, words.join("_"))
    }
    fn variable_name(&self, words: &[String]) -> String {
        words.join("_")
    }
    fn add_parameter(&self, source: &Source, function: NodeId, parameter: &Signature) -> Option<Edit> {
        write::parameter(source, function, parameter)
    }
    fn write_declaration(&self, _source: &Source, _locals: &[(String, Option<String>)], _indent: &str) -> String {
        String::new()
    }
    fn loops(&self) -> Option<&'static dyn Loops> {
        Some(&loops::Lists)
    }
    fn write_outer(&self, names: &[String]) -> String {
        format!("global {}", names.join(", "))
    }
    fn write_function(&self, _source: &Source, parts: &FunctionParts) -> String {
        write::function(parts)
    }
    fn write_call(&self, _source: &Source, parts: &CallParts) -> String {
        write::call(parts)
    }
    fn write_value(&self, _source: &Source, expression: &str) -> String {
        if write::breaks_outside_brackets(expression) {
            format!("return ({expression})")
        } else {
            format!("return {expression}")
        }
    }
    fn write_leaving(&self, _source: &Source, call: &CallParts, word: &str, temporary: Option<&str>) -> String {
        write::leaving(call, word, temporary)
    }
    fn write_lambda(&self, parameters: &[String], expression: &str) -> String {
        let space = if parameters.is_empty() { "" } else { " " };
        format!("lambda{space}{}: {expression}", parameters.join(", "))
    }
    fn write_optional(&self, parameter: &str, is_flag: bool, action: &str, indent: &str, unit: &str) -> String {
        let given = if is_flag { "" } else { " is not None" };
        format!("if {parameter}{given}:\n{indent}{unit}{action}")
    }
    fn write_return(&self, _source: &Source, results: &[String], _bundle: Option<&str>) -> String {
        if results.is_empty() { String::new() } else { format!("return {}", results.join(", ")) }
    }
    fn blank_lines(&self) -> (usize, usize) {
        (2, 1)
    }
}

impl Suites for Python {
    fn test_command(&self, layout: &dyn Layout) -> Option<String> {
        suites::command(layout)
    }
}
