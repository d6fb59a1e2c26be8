//! Java's grammar, mapped to roles.
//!
//! A method call has no callee of its own here, and an anonymous class no class: the tree puts such nodes around what
//! belongs together.

use std::sync::LazyLock;

use crate::tree::{Field, Gathered, Grammar, Role, Standing};

pub static GRAMMAR: LazyLock<Grammar> = LazyLock::new(|| {
    Grammar::new(tree_sitter_java::LANGUAGE.into(), ROLES, FIELDS, DROPPED).gathering(gathered).with_transparent(&[
        "modifiers",
        "enum_body_declarations",
        "switch_block",
    ])
});

const fn around(role: Role, field: Field, kind: u16, inside: Option<Field>) -> Option<Gathered> {
    Some(Gathered { role, field, kind, inside, alone: false })
}

/// Nodes around neighbours: what a call calls, the statements of a case, what `else` leads to, the class of `new X() { … }`.
fn gathered(parent: Role, field: Field, child: &Standing) -> Option<Gathered> {
    let kind = || child.node.kind();
    const CALLEE: Option<Gathered> = around(Role::Member, Field::Callee, u16::MAX - 2, None);
    const ELSE: Option<Gathered> = around(Role::Else, Field::Alternative, u16::MAX - 3, Some(Field::Body));
    const CLASS: Option<Gathered> = around(Role::Class, Field::None, u16::MAX - 4, Some(Field::Body));
    match parent {
        Role::Call if kind() == "class_body" => CLASS,
        Role::Call if field != Field::Arguments => {
            let call = child.around.filter(|c| c.kind() == "method_invocation")?;
            call.child_by_field_name("object")?;
            CALLEE
        }
        Role::ClassField if kind() == "class_body" => CLASS,
        Role::Case if child.node.is_named() && kind() != "switch_label" => Some(Gathered::CASE_BLOCK),
        Role::If if field == Field::Alternative => ELSE,
        _ => None,
    }
}

/// What the kind and its place say together.
pub fn refine(role: Role, field: Field, parent: Role, at: &Standing) -> (Role, Field) {
    let node = at.node;
    let operator = || node.child_by_field_name("operator").map_or("", |o| o.kind());
    let field = match (parent, field) {
        (Role::Function, Field::Type) => Field::ReturnType,
        (Role::Class, Field::None) if role == Role::Other => Field::Bases,
        (Role::AugAssign, Field::None) if role != Role::Token => Field::Left,
        (Role::Assign, Field::Name) => Field::Left,
        (Role::Assign, Field::Value) => Field::Right,
        (Role::For, Field::Name) => Field::Left,
        (Role::For, Field::Value) => Field::Right,
        (Role::Switch, Field::Condition) => Field::Subject,
        (Role::Labeled, Field::None) if role == Role::Name => Field::Label,
        (Role::Labeled, Field::None) if role != Role::Token => Field::Body,
        (Role::Break | Role::Continue, Field::None) if role == Role::Name && !at.is_in("yield_statement") => {
            Field::Label
        }
        (Role::Break, Field::None) if role != Role::Token => Field::Value,
        (Role::With, Field::None) if role == Role::Paren => Field::Subject,
        (Role::Call, Field::Name) => Field::Callee,
        (Role::Call, Field::Type) => Field::Callee,
        (Role::Member, Field::Name) => Field::Member,
        // the mark of a case that does not run on into the next one
        (Role::Case, Field::None) if role == Role::Token && node.kind() == "->" => Field::Operator,
        _ => field,
    };
    let role = match role {
        Role::Name => name(field, parent, at),
        Role::BinaryOp => match operator() {
            "&&" | "||" => Role::BoolOp,
            "==" | "!=" | "<" | "<=" | ">" | ">=" => Role::Compare,
            _ => role,
        },
        Role::UnaryOp if operator() == "!" => Role::NotOp,
        Role::Assign if node.kind() == "assignment_expression" && operator() != "=" => Role::AugAssign,
        Role::Assign if node.kind() == "resource" && node.child_by_field_name("name").is_none() => Role::Other,
        Role::Block if parent == Role::Block && at.is_in("class_body") => Role::ClassField,
        _ => role,
    };
    let field = match role {
        Role::Token | Role::Name => field,
        _ => match node.kind() {
            "switch_label" if node.named_child_count() > 0 => Field::Value,
            "resource_specification" => Field::Init,
            _ => field,
        },
    };
    (role, field)
}

/// A word that is no name by itself: of a member, a label, an argument of an annotation.
fn name(field: Field, parent: Role, at: &Standing) -> Role {
    let kind = at.around.map_or("", |p| p.kind());
    match (field, parent) {
        (Field::Member, _) => Role::MemberName,
        (Field::Label, _) => Role::Label,
        (Field::Name, Role::Function) if kind.ends_with("constructor_declaration") => Role::MemberName,
        _ if kind == "method_reference" && at.is_behind("::") => Role::MemberName,
        _ if kind == "scoped_type_identifier" && at.is_behind(".") => Role::MemberName,
        _ if kind == "element_value_pair" && field == Field::Key => Role::KeywordName,
        _ => Role::Name,
    }
}

const ROLES: &[(&str, Role)] = &[
    ("program", Role::Module),
    ("package_declaration", Role::Doc),
    ("import_declaration", Role::ImportFrom),
    ("asterisk", Role::Wildcard),
    ("class_declaration", Role::Class),
    ("interface_declaration", Role::Class),
    ("enum_declaration", Role::Class),
    ("record_declaration", Role::Class),
    ("annotation_type_declaration", Role::Class),
    ("class_body", Role::Block),
    ("interface_body", Role::Block),
    ("enum_body", Role::Block),
    ("annotation_type_body", Role::Block),
    ("enum_constant", Role::ClassField),
    ("field_declaration", Role::ClassField),
    ("constant_declaration", Role::ClassField),
    ("annotation_type_element_declaration", Role::ClassField),
    ("static_initializer", Role::ClassField),
    ("method_declaration", Role::Function),
    ("constructor_declaration", Role::Function),
    ("compact_constructor_declaration", Role::Function),
    ("constructor_body", Role::Block),
    ("explicit_constructor_invocation", Role::Call),
    ("lambda_expression", Role::Lambda),
    ("formal_parameters", Role::Parameters),
    ("inferred_parameters", Role::Parameters),
    ("formal_parameter", Role::Parameter),
    ("spread_parameter", Role::Parameter),
    ("receiver_parameter", Role::Token),
    ("type_parameters", Role::TypeParams),
    ("marker_annotation", Role::Decorator),
    ("annotation", Role::Decorator),
    ("block", Role::Block),
    ("expression_statement", Role::ExprStmt),
    ("local_variable_declaration", Role::Declare),
    ("variable_declarator", Role::Assign),
    ("assignment_expression", Role::Assign),
    ("update_expression", Role::AugAssign),
    ("resource", Role::Assign),
    ("if_statement", Role::If),
    ("while_statement", Role::While),
    ("do_statement", Role::DoWhile),
    ("for_statement", Role::CountedFor),
    ("enhanced_for_statement", Role::For),
    ("switch_expression", Role::Switch),
    ("switch_block_statement_group", Role::Case),
    ("switch_rule", Role::Case),
    ("switch_label", Role::Other),
    ("yield_statement", Role::Break),
    ("try_statement", Role::Try),
    ("try_with_resources_statement", Role::Try),
    ("catch_clause", Role::Except),
    ("finally_clause", Role::Finally),
    ("synchronized_statement", Role::With),
    ("labeled_statement", Role::Labeled),
    ("return_statement", Role::Return),
    ("throw_statement", Role::Raise),
    ("assert_statement", Role::Assert),
    ("break_statement", Role::Break),
    ("continue_statement", Role::Continue),
    ("method_invocation", Role::Call),
    ("object_creation_expression", Role::Call),
    ("argument_list", Role::Arguments),
    ("field_access", Role::Member),
    ("array_access", Role::Index),
    ("array_creation_expression", Role::List),
    ("dimensions", Role::Token),
    ("identifier", Role::Name),
    ("type_identifier", Role::Name),
    ("this", Role::Name),
    ("super", Role::Name),
    ("scoped_identifier", Role::DottedName),
    ("decimal_integer_literal", Role::Literal),
    ("hex_integer_literal", Role::Literal),
    ("octal_integer_literal", Role::Literal),
    ("binary_integer_literal", Role::Literal),
    ("decimal_floating_point_literal", Role::Literal),
    ("hex_floating_point_literal", Role::Literal),
    ("true", Role::Literal),
    ("false", Role::Literal),
    ("null_literal", Role::Literal),
    ("character_literal", Role::Literal),
    ("string_literal", Role::Literal),
    ("ternary_expression", Role::Conditional),
    ("binary_expression", Role::BinaryOp),
    ("unary_expression", Role::UnaryOp),
    ("cast_expression", Role::UnaryOp),
    ("instanceof_expression", Role::Compare),
    ("parenthesized_expression", Role::Paren),
    ("integral_type", Role::Type),
    ("floating_point_type", Role::Type),
    ("boolean_type", Role::Type),
    ("void_type", Role::Type),
    ("generic_type", Role::Type),
    ("array_type", Role::Type),
    ("annotated_type", Role::Type),
    ("scoped_type_identifier", Role::Type),
    ("type_arguments", Role::Type),
    ("wildcard", Role::Type),
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
    ("constructor", Field::Callee),
    ("object", Field::Object),
    ("field", Field::Member),
    ("array", Field::Object),
    ("index", Field::Index),
    ("operator", Field::Operator),
    ("operand", Field::Expression),
    ("type", Field::Type),
    ("key", Field::Key),
    ("superclass", Field::Bases),
    ("interfaces", Field::Bases),
    ("type_parameters", Field::TypeParams),
    ("init", Field::Init),
    ("update", Field::Step),
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
    "=",
    "class",
    "interface",
    "enum",
    "record",
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
    "switch",
    "case",
    "new",
    "yield",
    "import",
    "package",
    "@",
    "extends",
    "implements",
    "throws",
    "instanceof",
    "assert",
    "default",
];
