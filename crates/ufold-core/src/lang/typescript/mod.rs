//! TypeScript, and TSX: the family of JavaScript with written types.

mod conditions;
mod functions;
mod grammar;
mod library;
mod members;
mod narrow;
mod shapes;
#[cfg(test)]
mod tests;
mod types;
mod written;

use super::javascript::family::Family;
use super::javascript::type_rules::TypeRules;

const TYPES: TypeRules = TypeRules {
    find: types::type_of,
    own_members: shapes::own_members,
    told_before: narrow::told_before,
    spell: types::spell,
    join: types::join,
    general: types::general,
    literal: types::literal,
    is_test: narrow::is_test,
    of_literals: types::of_literals,
    type_parameter: |name, one_of| format!("{name} extends {}", one_of.join(" | ")),
};

pub static TYPESCRIPT: Family = Family {
    name: "typescript",
    extensions: &["ts", "mts", "cts"],
    grammar: || &grammar::TYPESCRIPT,
    types: Some(TYPES),
    whole_type: |tree, node| grammar::is_whole_type(tree, node, false),
    type_word: |tree, node| grammar::type_word(tree, node, false),
};

pub static TSX: Family = Family {
    name: "tsx",
    extensions: &["tsx"],
    grammar: || &grammar::TSX,
    types: Some(TYPES),
    whole_type: |tree, node| grammar::is_whole_type(tree, node, true),
    type_word: |tree, node| grammar::type_word(tree, node, true),
};
