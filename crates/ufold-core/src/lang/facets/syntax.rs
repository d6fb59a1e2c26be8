//! What its code looks like: the grammar with its roles, the words of the language, the marks.

use crate::names::Source;
use crate::tree::{Field, Grammar, NodeId, Role, Tree};

/// Code that was taken out of a file which holds it in a form of its own.
#[derive(Debug, Default)]
pub struct Export {
    pub script: String,
    /// What is not in it as it was.
    pub remarks: Vec<String>,
}

pub trait Syntax: Sync {
    fn name(&self) -> &'static str;
    /// Of languages whose files see each other's names, one word.
    fn family(&self) -> &'static str {
        self.name()
    }
    fn extensions(&self) -> &'static [&'static str];
    fn grammar(&self) -> &Grammar;
    fn is_comment(&self, kind: &str) -> bool;
    /// A node's role where the kind alone does not tell it. `first`: no node comes before it in its parent.
    fn refine(&self, role: Role, field: Field, parent: Role, first: bool, node: &tree_sitter::Node) -> (Role, Field);
    fn is_keyword(&self, word: &str) -> bool;
    fn is_identifier(&self, word: &str) -> bool;
    /// What a case that takes whatever is left says before its colon or arrow.
    fn catch_all_case(&self) -> &'static str {
        "default"
    }
    /// A value's text that can stand inside a text that is put together, such as the one that is given.
    fn fits_in_template(&self, _template: &str, _value: &str) -> bool {
        true
    }
    /// A text that would be read as another statement where a statement begins.
    fn opens_a_statement(&self, _text: &str) -> bool {
        false
    }
    /// Can be the name of a member.
    fn is_member_identifier(&self, word: &str) -> bool {
        self.is_identifier(word)
    }
    /// The literal that an expression puts values into, and what opens the place of a value in it.
    fn format_of(&self, source: &Source, expression: NodeId) -> Option<(NodeId, char)>;
    /// A word that declares a variable.
    fn is_declaring_word(&self, _word: &str) -> bool {
        false
    }
    /// A condition that always holds.
    fn is_always_true(&self, condition: &str) -> bool;
    fn is_generated(&self, head: &str) -> bool;
    /// Why the language reads a text otherwise than this program: other line ends, another encoding.
    fn read_otherwise(&self, text: &str) -> Option<String> {
        let bytes = text.as_bytes();
        let alone = bytes.iter().enumerate().any(|(i, b)| *b == b'\r' && bytes.get(i + 1) != Some(&b'\n'));
        alone.then(|| "a carriage return alone ends lines here".to_string())
    }
    /// The words for a condition that holds, and for one that does not.
    fn truth(&self, holds: bool) -> &'static str;
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
    /// The operator that tells two values apart, as the code that is written uses it.
    fn differs(&self) -> &'static str {
        "!="
    }
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
    /// The text that is read, where a file holds code in a form of its own; or why it can't be.
    fn script_of(&self, _file: &str) -> Option<Result<String, String>> {
        None
    }
    /// Such a file's code as a file of its own for people; `quiet`: without what it only shows.
    fn export(&self, _file: &str, _quiet: bool) -> Option<Result<Export, String>> {
        None
    }
    /// Such a file with another text in it.
    fn file_of(&self, _file: &str, _script: &str) -> Option<Result<String, String>> {
        None
    }
    /// The cell that a line of the text stands in, and the line there, both from 1.
    fn cell_at(&self, _script: &str, _line: usize) -> Option<(usize, usize)> {
        None
    }
    /// The line of the text for a line of a cell.
    fn line_in_cell(&self, _script: &str, _cell: usize, _line: usize) -> Option<usize> {
        None
    }
    /// A comment that stands for a line which is no code of the language, or for a border that no code crosses.
    fn is_no_comment(&self, _comment: &str) -> bool {
        false
    }
    /// A statement of the file whose value is shown to whoever runs it.
    fn shows_value(&self, _tree: &Tree, _text: &str, _statement: NodeId) -> bool {
        false
    }
    /// An argument that gives values by the names that a collection has.
    fn spreads_names(&self, _argument: &str) -> bool {
        false
    }
    /// The mark between the name of a parameter and its value in a call; none where arguments have no names.
    fn name_of_arguments(&self) -> Option<&'static str> {
        None
    }
    /// A word that declares what gets no other value.
    fn declares_fixed(&self, _word: &str) -> bool {
        false
    }
    /// A word that declares for the whole function, any number of times.
    fn declares_for_function(&self, _word: &str) -> bool {
        false
    }
    /// What begins a comment that goes to the end of its line.
    fn line_comment(&self) -> &'static str;
    /// What opens and closes a comment of any length, where there are such.
    fn block_comment(&self) -> Option<(&'static str, &'static str)> {
        None
    }
    /// Beginnings of comments that are meant for programs.
    fn directives(&self) -> &'static [&'static str];
    /// Comment text without its marks.
    fn comment_text<'t>(&self, comment: &'t str) -> &'t str;
    fn default_unit(&self) -> &'static str;
    fn default_width(&self) -> usize;
    /// The oldest edition of the language that has all that a file uses, as far as is looked for.
    fn edition(&self, _tree: &Tree, _text: &str) -> u8 {
        0
    }
}
