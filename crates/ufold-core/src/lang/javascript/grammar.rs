//! JavaScript's grammar, mapped to roles. TypeScript's kinds stand beside it, for its grammar extends this one.

use std::sync::LazyLock;

use crate::tree::{Field, Gathered, Grammar, Role};

pub static GRAMMAR: LazyLock<Grammar> = LazyLock::new(|| build(tree_sitter_javascript::LANGUAGE.into(), &[]));

/// The tables of the family for one of its grammars.
pub fn build(language: tree_sitter::Language, more: &[(&str, Role)]) -> Grammar {
    let roles: Vec<(&str, Role)> = ROLES.iter().chain(more).copied().collect();
    Grammar::new(language, &roles, FIELDS, DROPPED).gathering(gathered).with_shorthands(&[
        ("shorthand_property_identifier", ["pair", "property_identifier", "identifier"]),
        ("shorthand_property_identifier_pattern", ["pair_pattern", "property_identifier", "identifier"]),
    ])
}

/// The statements of a case are its own children.
fn gathered(parent: Role, field: Field, _child: &tree_sitter::Node) -> Option<Gathered> {
    (parent == Role::Case && field == Field::Body).then_some(Gathered::CASE_BLOCK)
}

/// What the kind and its place say together.
pub fn refine(role: Role, field: Field, parent: Role, first: bool, node: &tree_sitter::Node) -> (Role, Field) {
    let field = match (parent, field) {
        (Role::Assign, Field::Name) => Field::Left,
        (Role::Assign, Field::Value) => Field::Right,
        (Role::AugAssign, Field::Expression) => Field::Left,
        (Role::Except, Field::Parameters) => Field::Left,
        (Role::Except, Field::Type) => Field::None,
        (Role::Else, Field::None) if role != Role::Token => Field::Body,
        (Role::Switch, Field::Value) => Field::Subject,
        (Role::Class, Field::None) if role == Role::Other => Field::Bases,
        (Role::Type, Field::Name) if is_behind_a_dot(node) => return (Role::MemberName, Field::Member),
        _ => field,
    };
    let role = match role {
        Role::MemberName if field == Field::Name && parent == Role::Function => Role::Name,
        // a key in quotes is a name; one in brackets is a value
        Role::Literal if field == Field::Key => Role::MemberName,
        Role::BinaryOp => match node.child_by_field_name("operator").map_or("", |o| o.kind()) {
            "&&" | "||" | "??" => Role::BoolOp,
            "==" | "!=" | "===" | "!==" | "<" | "<=" | ">" | ">=" | "in" | "instanceof" => Role::Compare,
            _ => role,
        },
        Role::UnaryOp => match node.child_by_field_name("operator").map_or("", |o| o.kind()) {
            "!" => Role::NotOp,
            "delete" => Role::Delete,
            _ => role,
        },
        Role::AugAssign => match node.child_by_field_name("operator").map_or("", |o| o.kind()) {
            "&&=" | "||=" | "??=" => Role::OrAssign,
            _ => role,
        },
        Role::Template if node.named_child_count() == 0 || !has_substitution(node) => Role::Literal,
        // a directive such as 'use strict'
        Role::ExprStmt if first && parent.is_sequence() && node.named_child_count() == 1 => {
            let only = node.named_child(0).map_or("", |c| c.kind());
            if only == "string" { Role::Doc } else { role }
        }
        Role::Decorated if node.child_by_field_name("source").is_some() => Role::ImportFrom,
        Role::Parameters if parent == Role::Lambda && node.kind() == "identifier" => Role::Name,
        _ => role,
    };
    (role, field)
}

/// The last word of a type's path.
fn is_behind_a_dot(node: &tree_sitter::Node) -> bool {
    node.prev_sibling().is_some_and(|before| before.kind() == ".")
}

fn has_substitution(node: &tree_sitter::Node) -> bool {
    let mut cursor = node.walk();
    node.children(&mut cursor).any(|c| c.kind() == "template_substitution")
}

const ROLES: &[(&str, Role)] = &[
    ("program", Role::Module),
    ("hash_bang_line", Role::Doc),
    ("statement_block", Role::Block),
    ("class_body", Role::Block),
    ("function_declaration", Role::Function),
    ("generator_function_declaration", Role::Function),
    ("method_definition", Role::Function),
    ("function_expression", Role::Lambda),
    ("generator_function", Role::Lambda),
    ("arrow_function", Role::Lambda),
    ("class_declaration", Role::Class),
    ("class", Role::Class),
    ("class_heritage", Role::Other),
    ("class_static_block", Role::ClassField),
    ("field_definition", Role::ClassField),
    ("decorator", Role::Decorator),
    ("export_statement", Role::Decorated),
    ("export_clause", Role::Other),
    ("export_specifier", Role::ImportAlias),
    ("namespace_export", Role::Wildcard),
    ("formal_parameters", Role::Parameters),
    ("assignment_pattern", Role::Default),
    ("object_assignment_pattern", Role::Default),
    ("object_pattern", Role::Pattern),
    ("array_pattern", Role::Pattern),
    ("rest_pattern", Role::Pattern),
    ("pair_pattern", Role::Pattern),
    ("expression_statement", Role::ExprStmt),
    ("empty_statement", Role::Pass),
    ("debugger_statement", Role::Pass),
    ("if_statement", Role::If),
    ("else_clause", Role::Else),
    ("for_statement", Role::CountedFor),
    ("for_in_statement", Role::For),
    ("while_statement", Role::While),
    ("do_statement", Role::DoWhile),
    ("try_statement", Role::Try),
    ("catch_clause", Role::Except),
    ("finally_clause", Role::Finally),
    ("with_statement", Role::DynamicScope),
    ("switch_statement", Role::Switch),
    ("switch_body", Role::Other),
    ("switch_case", Role::Case),
    ("switch_default", Role::Case),
    ("labeled_statement", Role::Labeled),
    ("statement_identifier", Role::Label),
    ("return_statement", Role::Return),
    ("throw_statement", Role::Raise),
    ("break_statement", Role::Break),
    ("continue_statement", Role::Continue),
    ("import_statement", Role::ImportFrom),
    ("import_clause", Role::Other),
    ("named_imports", Role::ImportList),
    ("namespace_import", Role::Wildcard),
    ("import_specifier", Role::ImportAlias),
    ("import_attribute", Role::Other),
    ("import", Role::FrameName),
    ("lexical_declaration", Role::Declare),
    ("variable_declaration", Role::Declare),
    ("using_declaration", Role::Declare),
    ("variable_declarator", Role::Assign),
    ("assignment_expression", Role::Assign),
    ("augmented_assignment_expression", Role::AugAssign),
    ("update_expression", Role::AugAssign),
    ("call_expression", Role::Call),
    ("new_expression", Role::Call),
    ("arguments", Role::Arguments),
    ("member_expression", Role::Member),
    ("subscript_expression", Role::Index),
    ("optional_chain", Role::OptionalMark),
    ("identifier", Role::Name),
    ("this", Role::Name),
    ("super", Role::Name),
    ("undefined", Role::Literal),
    ("property_identifier", Role::MemberName),
    ("private_property_identifier", Role::MemberName),
    ("computed_property_name", Role::Other),
    ("number", Role::Literal),
    ("string", Role::Literal),
    ("true", Role::Literal),
    ("false", Role::Literal),
    ("null", Role::Literal),
    ("regex", Role::Fresh),
    ("regex_pattern", Role::TemplateText),
    ("regex_flags", Role::TemplateText),
    ("template_string", Role::Template),
    ("template_substitution", Role::Interpolation),
    ("string_fragment", Role::TemplateText),
    ("escape_sequence", Role::TemplateText),
    ("html_character_reference", Role::TemplateText),
    ("array", Role::List),
    ("object", Role::Dict),
    ("pair", Role::Pair),
    ("ternary_expression", Role::Conditional),
    ("unary_expression", Role::UnaryOp),
    ("binary_expression", Role::BinaryOp),
    ("await_expression", Role::Await),
    ("yield_expression", Role::Yield),
    ("spread_element", Role::Spread),
    ("sequence_expression", Role::Other),
    ("parenthesized_expression", Role::Paren),
    ("meta_property", Role::FrameName),
    ("jsx_element", Role::Markup),
    ("jsx_self_closing_element", Role::Markup),
    ("jsx_opening_element", Role::MarkupTag),
    ("jsx_closing_element", Role::MarkupTag),
    ("jsx_attribute", Role::Other),
    ("jsx_expression", Role::Interpolation),
    ("jsx_namespace_name", Role::KeywordName),
    ("jsx_text", Role::TemplateText),
];

const FIELDS: &[(&str, Field)] = &[
    ("name", Field::Name),
    ("alias", Field::Alias),
    ("body", Field::Body),
    ("consequence", Field::Body),
    ("condition", Field::Condition),
    ("alternative", Field::Alternative),
    ("left", Field::Left),
    ("right", Field::Right),
    ("value", Field::Value),
    ("parameters", Field::Parameters),
    ("parameter", Field::Parameters),
    ("pattern", Field::Name),
    ("arguments", Field::Arguments),
    ("function", Field::Callee),
    ("constructor", Field::Callee),
    ("object", Field::Object),
    ("module", Field::Object),
    ("property", Field::Member),
    ("index", Field::Index),
    ("operator", Field::Operator),
    ("type", Field::Type),
    ("return_type", Field::ReturnType),
    ("key", Field::Key),
    ("declaration", Field::Definition),
    ("source", Field::Source),
    ("type_parameters", Field::TypeParams),
    ("type_arguments", Field::TypeParams),
    ("argument", Field::Expression),
    ("initializer", Field::Init),
    ("increment", Field::Step),
    ("label", Field::Label),
    ("handler", Field::Handler),
    ("finalizer", Field::Handler),
    ("open_tag", Field::Name),
];

/// Tokens that the kinds of the nodes around them already tell.
const DROPPED: &[&str] = &[
    "(",
    ")",
    "[",
    "]",
    "{",
    "}",
    ",",
    ";",
    ".",
    ":",
    "=>",
    "=",
    "function",
    "class",
    "if",
    "else",
    "for",
    "while",
    "do",
    "try",
    "catch",
    "finally",
    "return",
    "throw",
    "break",
    "continue",
    "import",
    "export",
    "from",
    "switch",
    "case",
    "new",
    "yield",
    "debugger",
    "${",
    "`",
    "\"",
    "'",
    "@",
    "with",
    "interface",
    "enum",
    "extends",
    "implements",
    "</",
    "/>",
    "as",
];
