//! What differs between languages. A language is one folder here: its table of roles, how it binds names, what its
//! library is known to do, how its modules find each other, and how its code is written.
//!
//! Nothing outside this folder names a language; engines ask the trait.

mod javascript;
mod python;
mod typescript;
pub mod values;

use crate::names::{BindingId, ImportRef, Names, Source};
use crate::text::Edit;
use crate::tree::{Field, Grammar, NodeId, Role, Tree};

/// A function to be written, in parts.
#[derive(Clone, Debug, Default)]
pub struct FunctionParts {
    pub name: String,
    /// Parameters in order, the receiver first; each with its annotation.
    pub parameters: Vec<(String, Option<String>)>,
    /// The last one, which callers may leave out.
    pub optional: Option<(String, Option<String>)>,
    /// Annotation of the result, when the file annotates.
    pub returns: Option<String>,
    pub is_async: bool,
    /// It yields.
    pub is_generator: bool,
    /// How it is called, when it is a member of a class.
    pub method: Option<MethodKind>,
    /// Other files import it.
    pub exported: bool,
    /// Type parameters with their bounds.
    pub type_parameters: Vec<String>,
    pub doc: Option<String>,
    /// Lines of the body without indentation of their own level, without the last line end.
    pub body: String,
    pub indent: String,
    pub unit: String,
}

/// What takes a result at a site.
#[derive(Clone, Debug, Default)]
pub struct Target {
    pub name: String,
    /// Its name in the function that hands it over.
    pub from: String,
    /// The word that declares it, when its declaration moved into the function.
    pub declared: Option<String>,
    /// Its type, where the language may want it for a declaration without a value.
    pub of_type: Option<String>,
}

/// A call to be written at a site.
#[derive(Clone, Debug, Default)]
pub struct CallParts {
    pub callee: String,
    pub arguments: Vec<String>,
    pub is_await: bool,
    /// The site yields all that the function yields.
    pub delegates: bool,
    pub results: Vec<Target>,
    pub is_return: bool,
    /// The call stands inside a statement.
    pub is_expression: bool,
    pub indent: String,
    pub unit: String,
    /// Longest line that the file allows, in characters.
    pub width: usize,
}

/// Where a name of a file's module is defined: the file and the definition's node.
pub type Definitions<'a> = dyn Fn(&Source, &str) -> Option<(std::sync::Arc<Source>, NodeId)> + 'a;

/// A parameter to be written.
pub struct Signature<'a> {
    pub name: &'a str,
    pub of_type: Option<&'a str>,
    pub default: Option<&'a str>,
}

/// Where a module is and what it is called in imports.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ModuleName {
    /// Folder that imports start from, relative to the root, with `/`.
    pub base: String,
    pub parts: Vec<String>,
    /// The module is the package itself (its index file).
    pub is_package: bool,
    /// In a package that says of itself where it starts.
    pub in_package: bool,
}

/// A name, or all names, that a file passes on from another module without binding them.
pub struct Passed {
    /// The name that others get it by; none for all names.
    pub name: Option<String>,
    pub import: ImportRef,
}

/// Files of a project by which a test suite is recognized; paths are relative to the root.
pub trait Layout {
    fn exists(&self, path: &str) -> bool;
    /// Empty when there is no such file.
    fn text(&self, path: &str) -> String;
    /// Sorted; empty when there is no such folder.
    fn names_in(&self, folder: &str) -> Vec<String>;
}

pub trait Language: Sync {
    fn name(&self) -> &'static str;
    fn extensions(&self) -> &'static [&'static str];
    fn grammar(&self) -> &Grammar;
    fn is_comment(&self, kind: &str) -> bool;
    /// A node's role where the kind alone does not tell it. `first`: no node comes before it in its parent.
    fn refine(&self, role: Role, field: Field, parent: Role, first: bool, node: &tree_sitter::Node) -> (Role, Field);
    fn names(&self, tree: &Tree, text: &str) -> Names;
    /// What one import statement names.
    fn imports_of(&self, tree: &Tree, statement: NodeId, text: &str) -> Vec<ImportRef>;

    /// Calls that see the frame they are made from, so that they can't move to another function.
    fn reads_frame(&self, callee: &str) -> bool;
    /// Calls that see the locals of the function they are made from, so that nothing of it can move.
    fn reads_locals(&self, callee: &str, call: &str) -> bool;
    /// Calls that run a text as code.
    fn runs_texts(&self, callee: &str) -> bool {
        ["eval", "exec"].contains(&callee)
    }
    /// Argument names that count stack frames.
    fn counts_frames(&self, argument: &str) -> bool;
    /// A bare name that only means something inside a method of its class.
    fn needs_class(&self, name: &str) -> bool;
    /// A member or variable name that the language rewrites per class.
    fn is_mangled(&self, name: &str) -> bool;
    /// A context manager that is meant to end a block early without leaving the function.
    fn swallows(&self, manager: &str) -> bool;
    /// The member of a context manager that says whether it does.
    fn leaving_member(&self) -> Option<&'static str> {
        None
    }
    /// A context manager that surely does not end its block early without leaving the function.
    fn lets_exceptions_through(&self, manager: &str) -> bool;
    /// A wait in the new function lets others go on once more than before.
    fn waits_take_turns(&self) -> bool {
        false
    }
    /// Words in texts by which the function that code stands in is shown.
    fn frame_texts(&self) -> &'static [&'static str] {
        &[]
    }
    /// Those of the look-ups that list all names of a module or a class.
    fn listing_words(&self) -> &'static [&'static str];
    /// Those that list the members of any object, methods too.
    fn member_listing_words(&self) -> &'static [&'static str];
    /// Visible everywhere without an import.
    fn is_builtin(&self, name: &str) -> bool;
    fn is_keyword(&self, word: &str) -> bool;
    fn is_identifier(&self, word: &str) -> bool;
    /// Visible everywhere, but each module has its own.
    fn is_module_own(&self, name: &str) -> bool;
    /// Last words of calls, and members, that look names up by a text or list them.
    fn lookup_words(&self) -> &'static [&'static str];
    /// Last words of calls that load a module by a text.
    fn loading_words(&self) -> &'static [&'static str];
    /// Last words of calls that make objects of data, whose members have the names that the data has.
    fn data_words(&self) -> &'static [&'static str];
    /// A function of the language that takes values of any type.
    fn takes_anything(&self, _callee: &str) -> bool {
        false
    }
    /// The member that runs when the last holder of an object goes, where that is at once.
    fn finalizer(&self) -> Option<&'static str> {
        None
    }
    /// Last words of calls whose object holds something as long as it is held itself.
    fn holding_calls(&self) -> &'static [&'static str] {
        &[]
    }
    /// A value's text that can stand inside a text that is put together, such as the one that is given.
    fn fits_in_template(&self, _template: &str, _value: &str) -> bool {
        true
    }
    /// A text that would be read as another statement where a statement begins.
    fn opens_a_statement(&self, _text: &str) -> bool {
        false
    }
    /// A parameter that declares a member of its class at once.
    fn is_member_too(&self, _source: &Source, _b: BindingId) -> bool {
        false
    }
    /// Can be the name of a member.
    fn is_member_identifier(&self, word: &str) -> bool {
        self.is_identifier(word)
    }
    /// A member that belongs to a protocol which its class takes part in.
    fn is_protocol_member(&self, _source: &Source, _class: NodeId, _name: &str) -> bool {
        false
    }
    /// An expression that gives a module out of those that are loaded, or loads one.
    fn loads_modules(&self, expression: &str) -> bool {
        self.loading_words().iter().any(|w| expression.contains(w))
    }
    /// A loading call whose word is no name of the tree.
    fn loads_without_a_name(&self) -> bool {
        false
    }
    /// What a loading call's text names.
    fn import_of_text(&self, text: &str) -> ImportRef {
        ImportRef { level: 0, module: text.to_string(), member: None, wildcard: false }
    }
    /// Members by which code sees what a function or class is called.
    fn name_members(&self) -> &'static [&'static str];
    /// An expression that gives the class of an object: the object.
    fn class_of(&self, source: &Source, expression: NodeId) -> Option<NodeId>;
    /// A definition or a use of a function that could make objects whose class it is.
    fn is_maker(&self, _source: &Source, _function: NodeId) -> bool {
        false
    }
    /// The literal that an expression puts values into, and what opens the place of a value in it.
    fn format_of(&self, source: &Source, expression: NodeId) -> Option<(NodeId, char)>;
    /// Members that libraries call on objects of their subclasses; `*` for any end.
    fn demanded_members(&self) -> &'static [&'static str];
    /// Bases from elsewhere that demand no members and list none.
    fn harmless_bases(&self) -> &'static [&'static str];
    /// A member can be taken by a computed key.
    fn members_are_keys(&self) -> bool;
    /// How a member function is called, by its name and decorators.
    fn method_kind(&self, name: &str, decorators: &[&str]) -> MethodKind;
    /// The name that custom gives a method's object.
    fn is_receiver(&self, name: &str) -> bool;
    fn is_private(&self, name: &str) -> bool;
    /// A word that declares a variable.
    fn is_declaring_word(&self, _word: &str) -> bool {
        false
    }
    /// The file that makes a folder a package, which is loaded before what is in it.
    fn package_file(&self) -> Option<&'static str> {
        None
    }
    /// A member that only its class uses, or is meant to be used by.
    fn hides_member(&self, source: &Source, function: NodeId) -> bool {
        source.tree.child(function, Field::Name).is_some_and(|n| self.is_private(source.str(n)))
    }
    /// A name from words, in the language's casing for functions; `member` of a class.
    fn function_name(&self, words: &[String], private: bool, member: bool) -> String;
    /// A name from words, in the casing for variables.
    fn variable_name(&self, words: &[String]) -> String;
    /// A name that only means something in the function it stands in.
    fn is_frame_name(&self, name: &str) -> bool;
    /// Other files see a module's name under the same name.
    fn exports_by_name(&self, source: &Source, b: BindingId) -> bool;
    /// No other file can see a module's name.
    fn hides(&self, source: &Source, b: BindingId) -> bool;
    /// A member that the language gives a meaning.
    fn is_special_member(&self, name: &str) -> bool;
    /// Callers may pass more arguments than there are parameters.
    fn passes_extra_arguments(&self) -> bool;
    /// A parameter added to a function must be passed by its name.
    fn passes_by_name(&self, source: &Source, function: NodeId) -> bool;
    /// The edit that adds a parameter after those that are there.
    fn add_parameter(&self, source: &Source, function: NodeId, parameter: &Signature) -> Option<Edit>;
    /// The word for a method's object, where it is no parameter.
    fn object_word(&self) -> Option<&'static str>;
    /// A member taken from its object still knows the object when it is called.
    fn members_keep_object(&self) -> bool;
    /// A name that nothing in its file binds means the same in all files.
    fn free_names_are_global(&self) -> bool;
    /// Locals are declared by a word of their own.
    fn declares_locals(&self) -> bool;
    /// The declaration of locals without a value.
    fn write_declaration(&self, source: &Source, names: &[String]) -> String;
    /// The statement that says of variables that they are the module's, where a function must say so to write them.
    fn write_outer(&self, _names: &[String]) -> String {
        String::new()
    }
    /// Parameters must have types.
    fn needs_types(&self) -> bool;
    /// The type of a value or of a local, as it would be written, where it can be found.
    fn type_of(&self, source: &Source, node: NodeId, definitions: &Definitions) -> Option<String>;
    /// A type, whole: another one can stand in its place.
    fn is_whole_type(&self, _tree: &Tree, _node: NodeId) -> bool {
        false
    }
    /// Whether objects of other making can stand for those of a class, as long as it has no private member.
    fn is_shape(&self, _source: &Source, _class: NodeId) -> bool {
        false
    }
    /// A condition that always holds.
    fn is_always_true(&self, condition: &str) -> bool;
    /// Annotation for the type of a literal.
    fn literal_type(&self, literal: &str) -> Option<&'static str>;
    /// Annotation of a function without a result.
    fn no_result_type(&self) -> &'static str;

    /// The module that a file is, or `None` when nothing can import it.
    fn module_name(&self, path: &str, exists: &dyn Fn(&str) -> bool) -> Option<ModuleName>;
    /// Candidate files, relative to the root, for what an import names.
    fn resolve_import(&self, from: &ModuleName, path: &str, import: &ImportRef) -> Vec<String>;
    /// A module that comes with the language.
    fn is_standard_module(&self, module: &str) -> bool;
    /// The way in which a file exports and imports, as far as its text tells; files of two ways don't mix.
    fn module_system(&self, tree: &Tree, text: &str) -> Option<&'static str>;
    /// Text of the statement that exports a function, where its definition does not do so itself.
    /// `like` is a file that exports in the same way.
    fn export_line(&self, source: &Source, like: &Source, name: &str) -> Option<String>;
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
    /// The command that runs the project's tests, when their layout is known.
    fn test_command(&self, layout: &dyn Layout) -> Option<String>;
    fn is_generated(&self, head: &str) -> bool;
    /// Why the language reads a text otherwise than this program: other line ends, another encoding.
    fn read_otherwise(&self, text: &str) -> Option<String> {
        let bytes = text.as_bytes();
        let alone = bytes.iter().enumerate().any(|(i, b)| *b == b'\r' && bytes.get(i + 1) != Some(&b'\n'));
        alone.then(|| "a carriage return alone ends lines here".to_string())
    }
    /// Code at the top level of a module that only defines, so that loading it has no effect that can be seen.
    fn is_plain_top_level(&self, tree: &Tree, statement: NodeId, text: &str) -> bool;

    fn write_function(&self, source: &Source, parts: &FunctionParts) -> String;
    fn write_call(&self, source: &Source, parts: &CallParts) -> String;
    /// Text of the statement that hands over the value of an expression.
    fn write_value(&self, source: &Source, expression: &str) -> String;
    /// A call after which the site may leave by `word`; `temporary` holds what it may return.
    fn write_leaving(&self, source: &Source, call: &CallParts, word: &str, temporary: Option<&str>) -> String;
    /// The words for a condition that holds, and for one that does not.
    fn truth(&self, holds: bool) -> &'static str;
    /// The expression that computes a value from another one.
    fn write_derived(&self, from: &str, how: values::Derivation) -> String {
        let [upper, lower] = self.case_members();
        match how {
            values::Derivation::Not => format!("{}{from}", self.negation()),
            values::Derivation::Plus(k) if k < 0 => format!("{from} - {}", -k),
            values::Derivation::Plus(k) => format!("{from} + {k}"),
            values::Derivation::Upper => format!("{from}.{upper}()"),
            values::Derivation::Lower => format!("{from}.{lower}()"),
        }
    }
    /// What stands before a truth value to turn it round.
    fn negation(&self) -> &'static str;
    /// The members of a text that give it in upper and in lower case.
    fn case_members(&self) -> [&'static str; 2];
    /// What follows the value of a place in a text tells that its code is shown too.
    fn shows_code(&self, _rest: &str) -> bool {
        false
    }
    /// The word for no value.
    fn nothing(&self) -> &'static str;
    /// Any word for no value.
    fn is_nothing(&self, literal: &str) -> bool {
        literal == self.nothing()
    }
    /// The member that makes an object.
    fn is_constructor(&self, name: &str) -> bool;
    /// A call that makes an object by a word of its own.
    fn is_construction(&self, _call: &str) -> bool {
        false
    }
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
    /// Variables of a class that list its members.
    fn member_lists(&self) -> &'static [&'static str] {
        &[]
    }
    /// An argument that gives values by the names that a collection has.
    fn spreads_names(&self, _argument: &str) -> bool {
        false
    }
    /// The mark between the name of a parameter and its value in a call; none where arguments have no names.
    fn name_of_arguments(&self) -> Option<&'static str> {
        None
    }
    /// Names that a file passes on from other modules without binding them.
    fn passed_on(&self, source: &Source) -> Vec<Passed>;
    /// A module that can export a name more.
    fn can_export(&self, _source: &Source) -> bool {
        true
    }
    /// An object whose members a module exports.
    fn is_exports(&self, _object: &str) -> bool {
        false
    }
    /// The word that declares a local, given a value once or more often.
    fn declaring_word(&self, _once: bool) -> &'static str {
        ""
    }
    /// A word that declares what gets no other value.
    fn declares_fixed(&self, _word: &str) -> bool {
        false
    }
    /// A word that declares for the whole function, any number of times.
    fn declares_for_function(&self, _word: &str) -> bool {
        false
    }
    /// A function of one expression, in the language's light form.
    fn write_lambda(&self, parameters: &[String], expression: &str) -> String;
    /// The statement that runs `action` when a parameter of that name was given, or holds.
    fn write_optional(&self, parameter: &str, is_flag: bool, action: &str, indent: &str, unit: &str) -> String;
    /// Text of the hand-over at the end of the new function; empty when nothing is handed over.
    fn write_return(&self, source: &Source, results: &[String]) -> String;
    /// Comment text without its marks.
    fn comment_text<'t>(&self, comment: &'t str) -> &'t str;
    /// Blank lines that custom puts between definitions at the top level and in a class.
    fn blank_lines(&self) -> (usize, usize);
    fn default_unit(&self) -> &'static str;
    fn default_width(&self) -> usize;
}

/// How a region that returns or jumps on some of its paths only is left.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Leaving {
    /// On all paths, or on none.
    #[default]
    Plain,
    /// Without a value: the function tells whether to return.
    Guard,
    /// With a value that is never nothing: the function gives it, or nothing.
    Value,
    /// It is the end of its function: to return from one is to return from the other.
    Tail,
    /// It is the end of a loop's body: to go on with the next round is to return.
    Round,
    /// Out of the loop around it: the function tells whether to.
    Break,
    /// On with the next round of the loop around it: the function tells whether to.
    Continue,
}

impl Leaving {
    /// The word by which a site leaves when the function tells it to.
    pub fn word(self) -> Option<&'static str> {
        match self {
            Leaving::Plain | Leaving::Tail | Leaving::Round => None,
            Leaving::Guard | Leaving::Value => Some("return"),
            Leaving::Break => Some("break"),
            Leaving::Continue => Some("continue"),
        }
    }
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum MethodKind {
    Instance,
    Class,
    Static,
}

/// All languages, in the order in which their extensions are tried.
pub fn all() -> &'static [&'static dyn Language] {
    static ALL: [&dyn Language; 4] =
        [&python::Python, &javascript::JAVASCRIPT, &typescript::TYPESCRIPT, &typescript::TSX];
    &ALL
}

/// The language of a file by the extension of its path.
pub fn for_path(path: &str) -> Option<&'static dyn Language> {
    let ext = path.rsplit('/').next()?.rsplit_once('.')?.1;
    all().iter().copied().find(|l| l.extensions().contains(&ext))
}

/// By the name that a plan or a facts file carries.
pub fn by_name(name: &str) -> Option<&'static dyn Language> {
    all().iter().copied().find(|l| l.name() == name)
}
