//! How files find each other: imports, exports, packages, lists of files.

use super::Syntax;
use crate::lang::{Following, ModuleName, NameSpaces, Passed};
use crate::names::{BindingId, ImportRef, Source};
use crate::text::Edit;
use crate::tree::{NodeId, Tree};

/// A name that went to another file, and that the old one still has.
pub struct KeptName<'a> {
    pub source: &'a Source,
    pub name: &'a str,
    /// The import of the name.
    pub line: &'a str,
    /// The file needs it itself.
    pub used: bool,
    /// Others may have it from here.
    pub passed: bool,
    pub is_type: bool,
}

pub trait Modules: Syntax {
    /// What one import statement names.
    fn imports_of(&self, tree: &Tree, statement: NodeId, text: &str) -> Vec<ImportRef>;
    /// What one import statement loads, which may be more than it binds.
    fn loaded_by(&self, tree: &Tree, statement: NodeId, text: &str) -> Vec<ImportRef> {
        self.imports_of(tree, statement, text)
    }
    /// An import runs code, so that the order of imports may be seen.
    fn imports_load(&self) -> bool {
        true
    }
    /// How files that are no code name a thing of a module.
    fn named_in_settings(&self, module: &ModuleName, name: &str) -> Vec<String> {
        let last = module.parts.last().map_or("", String::as_str);
        vec![format!("{last}.{name}"), format!("{last}:{name}")]
    }
    /// Files of a folder see each other's classes, whichever file these are in.
    fn packages_share_names(&self) -> bool {
        false
    }
    /// What a file says of name spaces, where these and not folders tell who sees a class.
    fn name_spaces(&self, _tree: &Tree, _text: &str) -> Option<NameSpaces> {
        None
    }
    /// The name space of a class of the language's own library.
    fn library_space(&self, _class: &str) -> Option<&'static str> {
        None
    }
    /// What a name that nothing in its file binds is, as an import would say it.
    fn import_of_free(&self, _from: &ModuleName, _name: &str) -> Option<ImportRef> {
        None
    }
    /// Where a free name that no class inherits comes from when all names of something are imported at once: two files in
    /// which this is the same mean the same by it.
    fn seen_through(&self, _source: &Source, _name: &str) -> Option<String> {
        None
    }
    /// What is imported without its name may be called as something of the language, and hide it.
    fn wildcards_hide_builtins(&self) -> bool {
        true
    }
    /// The packages that a file says it stands in, which may be fewer than its folders.
    fn said_package(&self, _source: &Source) -> Vec<String> {
        Vec::new()
    }
    /// A definition as the text of a file, as a member of a class or as one for itself.
    fn as_file<'t>(&self, definition: &'t str, _member: bool) -> std::borrow::Cow<'t, str> {
        definition.into()
    }
    /// What a new file has in it before anything is put there; what it holds then is `open` to all code, or to its folder;
    /// none where all of it is put there.
    fn new_file(&self, _module: &ModuleName, _open: Option<bool>) -> String {
        String::new()
    }
    /// What files are called, without their ending, that are there for what others share; the first for a new one.
    /// The end of the name of a file that others can import, where that is not the one of the file itself.
    fn importable_extension(&self) -> Option<&'static str> {
        None
    }
    fn shared_file_names(&self) -> &'static [&'static str] {
        &["helpers", "shared", "common", "utils", "util", "support"]
    }
    /// Files of one build's root see those of another.
    fn sees_root(&self, _from: &ModuleName, _to: &ModuleName) -> bool {
        true
    }
    /// Last words of calls that load a module by a text.
    fn loading_words(&self) -> &'static [&'static str];
    /// A member by which code has all modules that are loaded, by their names or paths.
    fn module_table(&self) -> Option<&'static str> {
        None
    }
    /// An expression that gives a module out of those that are loaded, or loads one.
    fn loads_modules(&self, expression: &str) -> bool {
        self.loading_words().iter().any(|w| expression.contains(w))
    }
    /// A file can be had as a value that has its names as members.
    fn modules_are_values(&self) -> bool {
        true
    }
    /// What one call loads, where that is not said by a text alone.
    fn load_of(&self, _tree: &Tree, _call: NodeId, _text: &str) -> Option<ImportRef> {
        None
    }
    /// What a file defines is there by its name for all code that runs after it was loaded.
    fn shares_by_loading(&self) -> bool {
        false
    }
    /// Names of functions and classes are the same in capitals.
    fn ignores_case(&self) -> bool {
        false
    }
    /// A loading call whose word is no name of the tree.
    fn loads_without_a_name(&self) -> bool {
        false
    }
    /// What a loading call's text names.
    fn import_of_text(&self, text: &str) -> ImportRef {
        ImportRef { level: 0, module: text.to_string(), member: None, wildcard: false }
    }
    /// Names by which the file that a program starts with is known to all.
    fn entry_names(&self) -> &'static [&'static str] {
        &[]
    }
    /// Words by which code lists the files of a folder: a file may be known by nothing but that it is there.
    fn folder_listers(&self) -> &'static [&'static str] {
        &[]
    }
    /// The file that makes a folder a package, which is loaded before what is in it.
    fn package_file(&self) -> Option<&'static str> {
        None
    }
    /// Other files see a module's name under the same name.
    fn exports_by_name(&self, source: &Source, b: BindingId) -> bool;
    /// No other file can see a module's name.
    fn hides(&self, source: &Source, b: BindingId) -> bool;
    /// The module that a file is, or `None` when nothing can import it.
    fn module_name(&self, path: &str, exists: &dyn Fn(&str) -> bool) -> Option<ModuleName>;
    /// Candidate files, relative to the root, for what an import names.
    fn resolve_import(&self, from: &ModuleName, path: &str, import: &ImportRef) -> Vec<String>;
    /// A module that comes with the language.
    fn is_standard_module(&self, module: &str) -> bool;
    /// The way in which a file exports and imports, as far as its ending and text tell; files of two ways don't mix.
    fn module_system(&self, path: &str, tree: &Tree, text: &str) -> Option<&'static str>;
    /// Names of which importers have the variable, and not the value that it had when they were loaded.
    fn following(&self, _tree: &Tree, _text: &str) -> Following {
        Following::default()
    }
    /// Variables that calls hand to functions of other files which may write them: those whose names `writes` knows from
    /// what such files say is [`Following::changing`].
    fn written_elsewhere(&self, _source: &Source, _writes: &dyn Fn(&str) -> bool) -> Vec<BindingId> {
        Vec::new()
    }
    /// Text of the statement that exports a function, where its definition does not do so itself.
    /// `like` is a file that exports in the same way.
    fn export_line(&self, source: &Source, like: &Source, name: &str) -> Option<String>;
    /// Where such a statement stands: behind all code that the file runs.
    fn exports_at(&self, source: &Source) -> usize {
        source.text.trim_end().len()
    }
    /// Words by which code goes through the files of a folder.
    fn file_listing_words(&self) -> &'static [&'static str];
    /// Words of settings that list a project's modules one by one.
    fn build_list_words(&self) -> &'static [&'static str] {
        &[]
    }
    /// Text of an import statement of `name` from module `to`; `relative` is the habit of the file and its neighbours.
    fn import_line(&self, from: &Source, to: &ModuleName, name: &str, relative: bool) -> Option<String>;
    /// The edit that adds `name` to an import that is there, when `line` would name the same module.
    fn extend_import(&self, from: &Source, statement: NodeId, line: &str, name: &str) -> Option<Edit>;
    /// The variable that lists a module's public names.
    fn public_list(&self) -> Option<&'static str> {
        None
    }
    /// An import statement whose names others import from here.
    fn passes_names_on(&self, _import: &str) -> bool {
        false
    }
    /// A name that a file imports and exports again under its own name, so that others may have it from here.
    fn exports_again(&self, _source: &Source, _b: BindingId) -> bool {
        false
    }
    /// Names that a file passes on from other modules without binding them.
    fn passed_on(&self, source: &Source) -> Vec<Passed>;
    /// A statement by which a file gives what it defines under no name of its own.
    fn is_default_export(&self, _source: &Source, _statement: NodeId) -> bool {
        false
    }
    /// Others than the project's own code import the public names of the module.
    fn is_open_module(&self, _module: &ModuleName) -> bool {
        false
    }
    /// The lines by which a file has a name that went to another one, each with whether it stands at the file's end.
    fn kept_names(&self, kept: &KeptName) -> Vec<(String, bool)> {
        vec![(kept.line.to_string(), false)]
    }
    /// The text of a definition that other files see, in a file that exports as `like` does.
    fn exported(&self, _like: &Source, definition: &str) -> String {
        definition.to_string()
    }
    /// What a new file begins with so that it is read as another one is.
    fn head_of_like(&self, _like: &Source) -> String {
        String::new()
    }
    /// One of the files says that it is read in another way than the other.
    fn is_read_otherwise(&self, _a: &Source, _b: &Source) -> bool {
        false
    }
    /// A module that can export a name more.
    fn can_export(&self, _source: &Source) -> bool {
        true
    }
    /// An object whose members a module exports.
    fn is_exports(&self, _source: &Source, _object: &str) -> bool {
        false
    }
}
