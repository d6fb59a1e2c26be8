//! JavaScript: modules and CommonJS, classes, JSX.

mod bases;
pub(super) mod family;
pub(super) mod grammar;
mod library;
mod loops;
mod modules;
mod scopes;
mod style;
mod suites;
pub mod type_rules;
mod write;

#[cfg(test)]
mod tests;

use family::Family;

pub static JAVASCRIPT: Family = Family {
    name: "javascript",
    extensions: &["js", "mjs", "cjs", "jsx"],
    grammar: || &grammar::GRAMMAR,
    types: None,
    whole_type: |_, _| false,
    type_word: |_, _| None,
};
