//! TypeScript, and TSX: the family of JavaScript with written types.

mod grammar;
#[cfg(test)]
mod tests;
mod types;

use super::javascript::family::Family;

pub static TYPESCRIPT: Family = Family {
    name: "typescript",
    extensions: &["ts", "mts", "cts"],
    grammar: || &grammar::TYPESCRIPT,
    types: Some(types::type_of),
    whole_type: |tree, node| grammar::is_whole_type(tree, node, false),
};

pub static TSX: Family = Family {
    name: "tsx",
    extensions: &["tsx"],
    grammar: || &grammar::TSX,
    types: Some(types::type_of),
    whole_type: |tree, node| grammar::is_whole_type(tree, node, true),
};
