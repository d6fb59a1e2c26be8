//! What differs between languages. A language is one folder here: its table of roles, how it binds names, what its
//! library is known to do, how its modules find each other, and how its code is written.
//!
//! Nothing outside this folder names a language; engines ask the trait.

mod csharp;
mod facets;
mod java;
mod javascript;
mod lua;
mod php;
mod python;
mod typescript;
pub mod values;
mod written;

use crate::names::{ImportRef, Source};
use crate::tree::{Field, NodeId, Role};
pub use facets::{
    Bases, Collections, ConstructorParts, Doing, Export, Gathering, GatheringText, Joined, KeptName, Listed, Look,
    LoopText, Loops, MemberOf, Modules, OwnMembers, Scoping, Semantics, Sort, Stored, Suites, Syntax, Typing, Writer,
};

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
    /// Exceptions that it declares.
    pub throws: Vec<String>,
    /// Its body gives a parameter another value.
    pub writes_parameters: bool,
    pub is_async: bool,
    /// It yields.
    pub is_generator: bool,
    /// How it is called, when it is a member of a class.
    pub method: Option<MethodKind>,
    /// One of its callers has no object.
    pub without_object: bool,
    pub reach: Reach,
    /// Type parameters with their bounds.
    pub type_parameters: Vec<String>,
    pub doc: Option<String>,
    /// Lines of the body without indentation of their own level, without the last line end.
    pub body: String,
    pub indent: String,
    pub unit: String,
}

/// Who can call a new function.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord)]
pub enum Reach {
    /// Its own file, or class.
    #[default]
    Own,
    /// Files beside it, or those that import it.
    Near,
    /// These, and classes that extend its own.
    Below,
    /// Files of all folders.
    All,
}

/// A turn of a loop over a list of values.
#[derive(Clone, Debug)]
pub struct Row {
    /// One for each name of the loop.
    pub values: Vec<String>,
    /// What is said of it.
    pub comment: Option<String>,
}

/// Several results as one value: a type that holds them.
#[derive(Clone, Debug)]
pub struct Bundle {
    pub name: String,
    /// Type and name of each.
    pub members: Vec<(String, String)>,
    /// In the language's short form.
    pub is_short: bool,
    pub reach: Reach,
}

/// A type of functions that is made where the language has none that fits.
#[derive(Clone, Debug)]
pub struct FunctionType {
    pub name: String,
    /// Name and type of each.
    pub parameters: Vec<(String, String)>,
    pub result: String,
    pub throws: Vec<String>,
    pub reach: Reach,
}

/// The same, as its definition says it.
pub struct FunctionHead {
    /// The member that calls it.
    pub member: NodeId,
    /// Types of its parameters.
    pub parameters: Vec<NodeId>,
    pub result: NodeId,
    pub throws: Vec<String>,
    pub reach: Reach,
}

/// What such a type holds, as its definition says it.
pub struct Held {
    /// Of each part the type and the name, in the order in which they are given to it.
    pub parts: Vec<(NodeId, NodeId)>,
    /// They are had by calls.
    pub by_call: bool,
    /// Who can have them.
    pub reach: Reach,
}

/// The same at a site.
#[derive(Clone, Debug)]
pub struct Bundled {
    /// The type as the site names it.
    pub of_type: String,
    /// The variable that holds the value for a moment.
    pub variable: String,
    pub is_short: bool,
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
    /// The results come as one value.
    pub bundled: Option<Bundled>,
    pub is_return: bool,
    /// The call stands inside a statement.
    pub is_expression: bool,
    /// The type that the function gives, where functions say it.
    pub result_type: Option<String>,
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
    /// Found by others wherever the program starts: by its own path, or in a package that says where it begins.
    pub in_package: bool,
}

impl ModuleName {
    /// The folder or package that it stands in.
    pub fn package(&self) -> &[String] {
        self.parts.split_last().map_or(&[], |(_, package)| package)
    }
}

/// Name spaces that a file says, by which files see each other's classes whatever their folders.
#[derive(Clone, Debug, Default, PartialEq, Eq, serde::Serialize, serde::Deserialize)]
pub struct NameSpaces {
    /// The one of its classes, empty for the one without a name; none where they have several.
    pub own: Option<String>,
    /// Those of which it sees all classes.
    pub opened: Vec<String>,
    /// Those that it opens for all files.
    pub for_all: Vec<String>,
    /// What it opens is found before what is around its own.
    pub is_nearer: bool,
    /// Members that its classes add to others, for those who see its own.
    pub added: Vec<String>,
}

/// A name, or all names, that a file passes on from another module without binding them.
pub struct Passed {
    /// The name that others get it by; none for all names.
    pub name: Option<String>,
    pub import: ImportRef,
}

/// Names of a file that keep to their variable for whoever imports them: what a file gives them later is seen there too.
#[derive(Clone, Debug, Default, PartialEq, Eq, serde::Serialize, serde::Deserialize)]
pub struct Following {
    /// Names that get values by assignment, wherever in the file.
    pub changing: Vec<String>,
    /// Names that imports and exports give to others: the new one, and the one that it stands for.
    pub aliases: Vec<(String, String)>,
    /// Functions that ask the compiler who calls them, from where.
    #[serde(default)]
    pub asking: Vec<String>,
    /// It hands on names that do not stand in it.
    pub passes_all: bool,
}

/// Files of a project by which a test suite is recognized; paths are relative to the root.
pub trait Layout {
    fn exists(&self, path: &str) -> bool;
    /// Empty when there is no such file.
    fn text(&self, path: &str) -> String;
    /// Sorted; empty when there is no such folder.
    fn names_in(&self, folder: &str) -> Vec<String>;
}

/// A language: all of its facets.
pub trait Language: Syntax + Scoping + Semantics + Typing + Modules + Writer + Suites {}

impl<T: Syntax + Scoping + Semantics + Typing + Modules + Writer + Suites> Language for T {}

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
    static ALL: [&dyn Language; 9] = [
        &python::PYTHON,
        &python::NOTEBOOK,
        &javascript::JAVASCRIPT,
        &typescript::TYPESCRIPT,
        &typescript::TSX,
        &java::Java,
        &csharp::CSharp,
        &lua::Lua,
        &php::Php,
    ];
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

fn capitalized(word: &str) -> String {
    let mut c = word.chars();
    c.next().map_or(String::new(), |f| f.to_uppercase().chain(c).collect())
}

/// Words joined, each but the first with a capital.
pub fn camel(words: &[String]) -> String {
    words.iter().enumerate().map(|(i, w)| if i == 0 { w.clone() } else { capitalized(w) }).collect()
}

/// What is of the language's own is there, and a plain member, until somebody replaces it; others may run code.
fn doing_of_member(source: &Source, expression: NodeId) -> Doing {
    let t = &source.tree;
    let object = t.child(expression, Field::Object).filter(|_| t.role(expression) == Role::Member);
    let free = |o: NodeId| source.names.at(o).is_some_and(|r| r.target.is_none());
    let of_language = object.is_some_and(|o| source.lang.is_builtin(source.str(o)) && free(o));
    if of_language { Doing::MayThrow } else { Doing::Anything }
}
