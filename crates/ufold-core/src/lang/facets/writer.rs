//! The code that is written, in the habits of the file.

use super::{Bases, Loops, Syntax};
use crate::lang::{Bundle, CallParts, FunctionHead, FunctionParts, FunctionType, Held, Reach, Signature, values};
use crate::names::Source;
use crate::text::Edit;
use crate::tree::NodeId;

pub trait Writer: Syntax {
    /// A name from words, in the language's casing for functions; `member` of a class.
    fn function_name(&self, words: &[String], private: bool, member: bool) -> String;
    /// A name from words, in the casing for variables.
    fn variable_name(&self, words: &[String]) -> String;
    /// The edit that adds a parameter after those that are there.
    fn add_parameter(&self, source: &Source, function: NodeId, parameter: &Signature) -> Option<Edit>;
    /// The edit that gives a function one parameter more, and lets one with its old parameters call it with the value
    /// that the signature has by default; where no parameter has default values.
    fn keep_signature(&self, _source: &Source, _function: NodeId, _parameter: &Signature) -> Option<Edit> {
        None
    }
    /// The declaration of locals without a value, each with its type where that is known; lines after the first are
    /// indented.
    fn write_declaration(&self, source: &Source, locals: &[(String, Option<String>)], indent: &str) -> String;
    /// The statement that says of variables that they are the module's, where a function must say so to write them.
    fn write_outer(&self, _names: &[String]) -> String {
        String::new()
    }
    /// The functions of a file are there before its first line runs.
    fn functions_come_first(&self) -> bool {
        false
    }
    /// The edits by which a member, or a class, can be named by others; none where the language has no words for that.
    fn with_reach(&self, _source: &Source, _declaration: NodeId, _reach: Reach) -> Option<Vec<Edit>> {
        None
    }
    /// What there is to know of classes that others extend, where the language has them.
    fn bases(&self) -> Option<&'static dyn Bases> {
        None
    }
    fn write_function(&self, source: &Source, parts: &FunctionParts) -> String;
    fn write_call(&self, source: &Source, parts: &CallParts) -> String;
    /// Text of the statement that hands over the value of an expression.
    fn write_value(&self, source: &Source, expression: &str) -> String;
    /// A call after which the site may leave by `word`; `temporary` holds what it may return.
    fn write_leaving(&self, source: &Source, call: &CallParts, word: &str, temporary: Option<&str>) -> String;
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
    /// The word that declares a local, given a value once or more often.
    fn declaring_word(&self, _once: bool) -> &'static str {
        ""
    }
    /// A member of an object.
    fn member_path(&self, object: &str, member: &str) -> String {
        format!("{object}.{member}")
    }
    /// How the code of a class calls a function of its class that needs no object.
    fn own_static(&self, name: &str) -> String {
        name.to_string()
    }
    /// The call of a parameter that is a function of that type.
    fn write_invocation(&self, parameter: &str, _of_type: Option<&str>, arguments: &[String]) -> String {
        format!("{parameter}({})", arguments.join(", "))
    }
    /// The member by which a value of a function type is called, where it is not called by itself.
    fn function_member(&self, _of_type: &str) -> Option<&'static str> {
        None
    }
    /// Import statements that the words of a type need in a file, each with the name that it brings.
    fn imports_for_type(&self, _at: &Source, _of_type: &str) -> Vec<(String, String)> {
        Vec::new()
    }
    /// A function of one expression, in the language's light form.
    fn write_lambda(&self, parameters: &[String], expression: &str) -> String;
    /// Loops over values that are written out.
    fn loops(&self) -> Option<&'static dyn Loops> {
        None
    }
    /// The statement that runs `action` when a parameter of that name was given, or holds.
    fn write_optional(&self, parameter: &str, is_flag: bool, action: &str, indent: &str, unit: &str) -> String;
    /// Text of the hand-over at the end of the new function; empty when nothing is handed over.
    /// `bundle`: the type that several results are put into.
    fn write_return(&self, source: &Source, results: &[String], bundle: Option<&str>) -> String;
    /// The definition of a type that holds several results; none where functions give several by themselves.
    fn write_bundle(&self, _bundle: &Bundle, _indent: &str, _unit: &str) -> Option<String> {
        None
    }
    /// An edition of the language has a short form for types with these members, each a type and a name.
    fn bundles_shortly(&self, _members: &[(String, String)], _edition: u8) -> bool {
        false
    }
    /// Where none of the language's types of functions fits, one is made.
    fn makes_function_types(&self) -> bool {
        false
    }
    /// The definition of a type of functions, and the member that calls one; none where types of functions are written as
    /// such.
    fn write_function_type(&self, _of: &FunctionType, _indent: &str, _unit: &str) -> Option<(String, &'static str)> {
        None
    }
    /// What functions a type stands for, when it is nothing but their type.
    fn function_type_of(&self, _source: &Source, _class: NodeId) -> Option<FunctionHead> {
        None
    }
    /// What a type holds, when it does nothing else.
    fn bundle_of(&self, _source: &Source, _class: NodeId) -> Option<Held> {
        None
    }
    /// A type parameter that is one of these types; none where a parameter can't be bound to several.
    fn write_type_parameter(&self, _name: &str, _one_of: &[&str]) -> Option<String> {
        None
    }
    /// Blank lines that custom puts between definitions at the top level and in a class.
    fn blank_lines(&self) -> (usize, usize);
}
