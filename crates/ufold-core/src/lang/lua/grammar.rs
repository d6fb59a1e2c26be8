//! Lua's grammar, mapped to roles.
//!
//! `function M.f() … end` gives a value to a member and is read as what it is short for: an assignment of a function.
//! Statements that are calls or assignments have no node around them in this grammar; the tree puts one there.

use std::sync::LazyLock;

use crate::tree::{Field, Gathered, Grammar, Role, Standing};

pub static GRAMMAR: LazyLock<Grammar> = LazyLock::new(|| {
    Grammar::new(tree_sitter_lua::LANGUAGE.into(), ROLES, FIELDS, DROPPED)
        .gathering(gathered)
        .with_transparent(&["for_generic_clause", "for_numeric_clause"])
        .with_terminator("empty_statement")
        .with_lists(&["variable_list", "expression_list", "field"])
});

const fn around(role: Role, field: Field, kind: u16, inside: Option<Field>, alone: bool) -> Option<Gathered> {
    Some(Gathered { role, field, kind, inside, alone })
}

/// Nodes around neighbours: a statement, the function that a member gets, the bounds of a counting loop, what is declared
/// without a value.
fn gathered(parent: Role, _field: Field, child: &Standing) -> Option<Gathered> {
    const STATEMENT: Option<Gathered> = around(Role::ExprStmt, Field::None, u16::MAX - 2, None, true);
    const FUNCTION: Option<Gathered> = around(Role::Function, Field::Right, u16::MAX - 3, None, false);
    const BOUNDS: Option<Gathered> = around(Role::Other, Field::Right, u16::MAX - 4, Some(Field::None), false);
    const DECLARED: Option<Gathered> = around(Role::Assign, Field::None, u16::MAX - 5, Some(Field::Left), false);
    let kind = child.node.kind();
    match parent {
        Role::Module | Role::Block if ["function_call", "assignment_statement"].contains(&kind) => STATEMENT,
        Role::Module | Role::Block if kind == "function_declaration" && gives_member(&child.node) => STATEMENT,
        Role::Assign if child.is_in("function_declaration") && ["parameters", "block", "end"].contains(&kind) => {
            FUNCTION
        }
        Role::For if child.is_in("for_numeric_clause") && (child.node.is_named() || kind == ",") => {
            let is_name = child.before.is_none();
            if is_name { None } else { BOUNDS }
        }
        Role::Declare if kind == "variable_list" => DECLARED,
        _ => None,
    }
}

/// `function M.f()`, and not `function f()`
fn gives_member(node: &tree_sitter::Node) -> bool {
    node.child_by_field_name("name").is_some_and(|n| n.kind() != "identifier")
}

/// What the kind and its place say together.
pub fn refine(role: Role, field: Field, parent: Role, at: &Standing) -> (Role, Field) {
    let node = at.node;
    let kind = node.kind();
    let operator = || node.child_by_field_name("operator").map_or("", |o| o.kind());
    let around = at.around.map_or("", |a| a.kind());
    let left = kind == "variable_list" || around == "variable_list";
    let right = kind == "expression_list" || around == "expression_list";
    let field = match (parent, field) {
        (Role::Assign | Role::For, _) if left && role != Role::Token => Field::Left,
        (Role::Assign | Role::For, _) if right => Field::Right,
        (Role::For, Field::Name) => Field::Left,
        (Role::Assign, Field::Name) => Field::Left,
        (Role::Call, Field::Name) => Field::Callee,
        // an element has no field of its own, nor has the only one of a list
        (Role::Return | Role::Arguments | Role::Values | Role::Pattern | Role::Parameters, _) => Field::None,
        (Role::Dict | Role::List, Field::Value) => Field::None,
        (_, Field::Member) if around == "bracket_index_expression" => Field::Index,
        (Role::Pair, Field::Name) => Field::Key,
        _ => field,
    };
    let role = match role {
        Role::Name if field == Field::Member => Role::MemberName,
        Role::Name if field == Field::Key && !at.is_behind("[") => Role::MemberName,
        Role::Name if ["label_statement", "goto_statement"].contains(&around) => Role::Label,
        Role::Name if around == "attribute" => Role::KeywordName,
        Role::Function if gives_member(&node) => Role::Assign,
        Role::BinaryOp => match operator() {
            "and" | "or" => Role::BoolOp,
            "==" | "~=" | "<" | "<=" | ">" | ">=" => Role::Compare,
            _ => role,
        },
        Role::UnaryOp if operator() == "not" => Role::NotOp,
        Role::Dict if !has_keys(&node) => Role::List,
        _ => role,
    };
    (role, field)
}

fn has_keys(table: &tree_sitter::Node) -> bool {
    let mut cursor = table.walk();
    let fields = table.named_children(&mut cursor).filter(|c| c.kind() == "field");
    fields.into_iter().any(|f| f.child_by_field_name("name").is_some())
}

const ROLES: &[(&str, Role)] = &[
    ("chunk", Role::Module),
    ("hash_bang_line", Role::Doc),
    ("block", Role::Block),
    ("do_statement", Role::Block),
    ("function_declaration", Role::Function),
    ("function_definition", Role::Lambda),
    ("parameters", Role::Parameters),
    ("vararg_expression", Role::FrameName),
    ("empty_statement", Role::Pass),
    ("assignment_statement", Role::Assign),
    ("variable_declaration", Role::Declare),
    ("implicit_variable_declaration", Role::DynamicScope),
    ("variable_list", Role::Pattern),
    ("expression_list", Role::Values),
    ("attribute", Role::Token),
    ("label_statement", Role::JumpTarget),
    ("goto_statement", Role::Jump),
    ("break_statement", Role::Break),
    ("return_statement", Role::Return),
    ("while_statement", Role::While),
    ("repeat_statement", Role::DoWhile),
    ("if_statement", Role::If),
    ("elseif_statement", Role::Elif),
    ("else_statement", Role::Else),
    ("for_statement", Role::For),
    ("for_generic_clause", Role::Other),
    ("for_numeric_clause", Role::Other),
    ("function_call", Role::Call),
    ("arguments", Role::Arguments),
    ("dot_index_expression", Role::Member),
    ("method_index_expression", Role::Member),
    ("bracket_index_expression", Role::Index),
    ("identifier", Role::Name),
    ("number", Role::Literal),
    ("string", Role::Literal),
    ("string_content", Role::TemplateText),
    ("escape_sequence", Role::TemplateText),
    ("true", Role::Literal),
    ("false", Role::Literal),
    ("nil", Role::Literal),
    ("table_constructor", Role::Dict),
    ("field", Role::Pair),
    ("parenthesized_expression", Role::Paren),
    ("binary_expression", Role::BinaryOp),
    ("unary_expression", Role::UnaryOp),
];

const FIELDS: &[(&str, Field)] = &[
    ("name", Field::Name),
    ("body", Field::Body),
    ("consequence", Field::Body),
    ("condition", Field::Condition),
    ("alternative", Field::Alternative),
    ("left", Field::Left),
    ("right", Field::Right),
    ("value", Field::Value),
    ("parameters", Field::Parameters),
    ("arguments", Field::Arguments),
    ("table", Field::Object),
    ("field", Field::Member),
    ("method", Field::Member),
    ("operator", Field::Operator),
    ("operand", Field::Expression),
];

/// Tokens that the kinds of the nodes around them already tell.
const DROPPED: &[&str] = &[
    "(", ")", "[", "]", "{", "}", ",", ";", ".", "=", "::", "function", "end", "do", "if", "then", "elseif", "else",
    "while", "repeat", "until", "for", "in", "return", "break", "goto",
];

#[cfg(test)]
mod tests {
    use super::*;

    /// Every named kind of the grammar has a role of its own, so that a new grammar version can't slip by.
    #[test]
    fn the_whole_grammar_is_mapped() {
        let hidden = ["ERROR", "comment", "comment_content", "end"];
        let language: tree_sitter::Language = tree_sitter_lua::LANGUAGE.into();
        let missing: Vec<&str> = (0..language.node_kind_count() as u16)
            .filter(|k| language.node_kind_is_named(*k) && language.node_kind_is_visible(*k))
            .filter_map(|k| language.node_kind_for_id(k))
            .filter(|k| !ROLES.iter().any(|(name, _)| name == k) && !hidden.contains(k))
            .collect();
        assert_eq!(missing, Vec::<&str>::new());
    }
}
