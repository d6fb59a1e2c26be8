//! C#'s grammar, mapped to roles.
//!
//! Name spaces with brackets are left out: what stands in them is the file's. A property that is one expression is read as
//! one with a function. The grammar gives `?.` a place below all operators (`1 + s?.Length` would ask a sum for its length):
//! the parser gets `->` for it, which stands where both belong. Code between
//! `#if` and `#endif` stands in a node of its own, which nothing enters or leaves.

use std::borrow::Cow;
use std::sync::LazyLock;

use tree_sitter::Node;

use crate::tree::{Field, Gathered, Grammar, Role, Standing};

pub static GRAMMAR: LazyLock<Grammar> = LazyLock::new(|| {
    Grammar::new(tree_sitter_c_sharp::LANGUAGE.into(), ROLES, FIELDS, DROPPED)
        .gathering(gathered)
        .with_transparent(&[
            "namespace_declaration",
            "global_statement",
            "switch_body",
            "accessor_list",
            "arrow_expression_clause",
            "labeled_statement",
        ])
        .with_transparent_in("variable_declaration", &[Role::Declare, Role::ClassField, Role::With])
        .with_transparent_in("declaration_list", &[Role::Module])
        .with_lists(&["bracketed_argument_list"])
        .with_wrappers(&["argument", "attribute_argument"])
});

/// `?.` as the other mark of members, which is of the same length; `a ? .5 : b` stays.
pub fn parsed(text: &str) -> Cow<'_, str> {
    if !text.contains("?.") {
        return Cow::Borrowed(text);
    }
    let mut out = String::with_capacity(text.len());
    let mut rest = text;
    while let Some(at) = rest.find("?.") {
        let (before, behind) = rest.split_at(at);
        let digit = behind[2..].starts_with(|c: char| c.is_ascii_digit());
        out.push_str(before);
        out.push_str(if digit { "?." } else { "->" });
        rest = &behind[2..];
    }
    out.push_str(rest);
    Cow::Owned(out)
}

/// What an operator makes has no element that could be asked for: `a + b?[0]` is read wrongly.
fn is_misread(access: &Node) -> bool {
    let condition = access.child_by_field_name("condition").map_or("", |c| c.kind());
    ["binary_expression", "prefix_unary_expression", "cast_expression", "await_expression"].contains(&condition)
}

const fn around(role: Role, field: Field, kind: u16, inside: Option<Field>, alone: bool) -> Option<Gathered> {
    Some(Gathered { role, field, kind, inside, alone })
}

/// Nodes around neighbours: the test and the statements of a case, what `else` leads to, the function of a property, a parameter that
/// takes all the rest, the place of a jump.
fn gathered(parent: Role, field: Field, child: &Standing) -> Option<Gathered> {
    const ELSE: Option<Gathered> = around(Role::Else, Field::Alternative, u16::MAX - 2, Some(Field::Body), false);
    const GETTER: Option<Gathered> = around(Role::Function, Field::None, u16::MAX - 3, None, false);
    const REST: Option<Gathered> = around(Role::Parameter, Field::None, u16::MAX - 4, None, false);
    const LABEL: Option<Gathered> = around(Role::JumpTarget, Field::None, u16::MAX - 5, None, true);
    const TEST: Option<Gathered> = around(Role::Other, Field::Value, u16::MAX - 6, Some(Field::None), false);
    let kind = child.node.kind();
    match parent {
        Role::If if field == Field::Alternative => ELSE,
        Role::Case if is_statement(kind) => Some(Gathered::CASE_BLOCK),
        Role::Case if child.node.is_named() => TEST,
        Role::ClassField if kind == "arrow_expression_clause" => GETTER,
        Role::Parameters if kind == "params" || matches!(field, Field::Type | Field::Name) => REST,
        _ if kind == "identifier" && child.is_in("labeled_statement") => LABEL,
        _ => None,
    }
}

fn is_statement(kind: &str) -> bool {
    kind.ends_with("_statement") || kind == "block" || kind.starts_with("preproc_")
}

/// What the kind and its place say together.
pub fn refine(role: Role, field: Field, parent: Role, at: &Standing) -> (Role, Field) {
    let node = at.node;
    let kind = node.kind();
    let field = field_of(role, field, parent, at);
    let operator = || node.child_by_field_name("operator").map_or("", |o| o.kind());
    let first = || node.child(0).map_or("", |c| c.kind());
    let is_update = || ["++", "--"].iter().any(|w| first() == *w || last(&node) == *w);
    let role = match role {
        Role::Name => name(field, parent, at),
        Role::Token if kind == "modifier" && first() == "async" => Role::AsyncMark,
        Role::Token if kind == "this" && at.is_in("indexer_declaration") => role,
        Role::Token if kind == "this" || kind == "base" => Role::Name,
        Role::Token if field == Field::Name => Role::MemberName,
        Role::Type if kind == "generic_name" && field == Field::Member => Role::MemberName,
        Role::Type if kind == "qualified_name" && matches!(parent, Role::ImportFrom) => Role::DottedName,
        Role::Type if kind == "qualified_name" && at.around.is_some_and(|p| p.kind() == "namespace_declaration") => {
            Role::Doc
        }
        Role::BinaryOp => match operator() {
            "&&" | "||" | "??" => Role::BoolOp,
            "==" | "!=" | "<" | "<=" | ">" | ">=" => Role::Compare,
            _ => role,
        },
        Role::BoolOp if kind == "conditional_access_expression" && is_misread(&node) => Role::Error,
        Role::Token if kind == "->" => Role::OptionalMark,
        Role::UnaryOp if kind.ends_with("fix_unary_expression") && is_update() => Role::AugAssign,
        Role::UnaryOp if kind == "prefix_unary_expression" && first() == "!" => Role::NotOp,
        Role::Assign if at.is_in("initializer_expression") => Role::Pair,
        Role::Assign if kind == "assignment_expression" => match operator() {
            "=" => role,
            "??=" => Role::OrAssign,
            _ => Role::AugAssign,
        },
        Role::Spread if node.child_by_field_name("name").is_some() => Role::KeywordArg,
        _ => role,
    };
    (role, field)
}

fn last<'t>(node: &Node<'t>) -> &'t str {
    let count = node.child_count();
    node.child(count.saturating_sub(1) as _).map_or("", |c| c.kind())
}

fn field_of(role: Role, field: Field, parent: Role, at: &Standing) -> Field {
    let kind = at.node.kind();
    let around = at.around.map_or("", |a| a.kind());
    let named = role != Role::Token && at.node.is_named() || kind == "this" || kind == "base";
    let first = at.before.is_none();
    match (parent, field) {
        (_, _) if around == "arrow_expression_clause" && named => Field::Body,
        (Role::Function | Role::Lambda, Field::None) if kind == "block" => Field::Body,
        (Role::Function, Field::Type) => Field::ReturnType,
        (Role::Class, Field::None) if kind == "base_list" => Field::Bases,
        (Role::Class, Field::None) if kind == "parameter_list" => Field::Parameters,
        (Role::Class | Role::Function, Field::None) if kind == "type_parameter_list" => Field::TypeParams,
        (Role::Member | Role::Index, Field::Expression) => Field::Object,
        (Role::Member, Field::Name) => Field::Member,
        (Role::Index, Field::None) if named => Field::Index,
        (Role::List, Field::None)
            if kind == "initializer_expression" && around.ends_with("array_creation_expression") =>
        {
            Field::Value
        }
        (Role::Compare, Field::Expression) => Field::Left,
        (Role::AugAssign, Field::None) if named => Field::Left,
        (Role::Assign, Field::Name) => Field::Left,
        (Role::Assign, Field::None) if kind == "tuple_pattern" => Field::Left,
        (Role::Assign, Field::None) if named => Field::Right,
        (Role::Pair, Field::Left) => Field::Key,
        (Role::Pair, Field::Right) => Field::Value,
        (Role::KeywordArg, Field::Name) => Field::Key,
        (Role::KeywordArg, Field::None) if named => Field::Value,
        (Role::Switch, Field::Value) => Field::Subject,
        (Role::Call, Field::Type) => Field::Callee,
        (Role::Call, Field::None) if kind == "base" || kind == "this" => Field::Callee,
        (Role::Call, Field::None) if kind == "argument_list" => Field::Arguments,
        (Role::With, Field::None) if kind == "block" => Field::Body,
        (Role::With, Field::None) if named && kind != "variable_declaration" => Field::Subject,
        (Role::UnaryOp, Field::Left | Field::Value) => Field::Expression,
        (Role::UnaryOp, Field::Right) => Field::Type,
        (Role::UnaryOp | Role::NotOp, Field::None) if named => Field::Expression,
        (Role::BoolOp, Field::Condition) => Field::Left,
        (Role::BoolOp, Field::None) if named && first => Field::Left,
        (Role::BoolOp, Field::None) if named => Field::Right,
        (Role::Parameter, Field::None) if named && role.is_expression() => Field::Value,
        _ => field,
    }
}

/// A word that is no name by itself: of a member, a label, an argument, what an object is made with.
fn name(field: Field, parent: Role, at: &Standing) -> Role {
    let around = at.around.map_or("", |p| p.kind());
    match field {
        Field::Member => Role::MemberName,
        Field::Name if around == "destructor_declaration" || around == "constructor_declaration" => Role::MemberName,
        Field::Key if parent == Role::Pair => Role::MemberName,
        Field::Key => Role::KeywordName,
        _ if around == "labeled_statement" || around == "goto_statement" => Role::Label,
        _ if around == "with_initializer" && at.before.is_none() => Role::MemberName,
        _ if around == "subpattern" && at.before.is_none() => Role::MemberName,
        _ if around == "attribute" => Role::KeywordName,
        _ if around == "namespace_declaration" || around == "file_scoped_namespace_declaration" => Role::Doc,
        _ => Role::Name,
    }
}

const ROLES: &[(&str, Role)] = &[
    ("compilation_unit", Role::Module),
    ("file_scoped_namespace_declaration", Role::Doc),
    ("using_directive", Role::ImportFrom),
    ("class_declaration", Role::Class),
    ("struct_declaration", Role::Class),
    ("interface_declaration", Role::Class),
    ("enum_declaration", Role::Class),
    ("record_declaration", Role::Class),
    ("delegate_declaration", Role::TypeAlias),
    ("declaration_list", Role::Block),
    ("enum_member_declaration_list", Role::Block),
    ("enum_member_declaration", Role::ClassField),
    ("field_declaration", Role::ClassField),
    ("event_field_declaration", Role::ClassField),
    ("event_declaration", Role::ClassField),
    ("property_declaration", Role::ClassField),
    ("indexer_declaration", Role::ClassField),
    ("method_declaration", Role::Function),
    ("constructor_declaration", Role::Function),
    ("destructor_declaration", Role::Function),
    ("operator_declaration", Role::Function),
    ("conversion_operator_declaration", Role::Function),
    ("local_function_statement", Role::Function),
    ("accessor_declaration", Role::Function),
    ("constructor_initializer", Role::Call),
    ("lambda_expression", Role::Lambda),
    ("anonymous_method_expression", Role::Lambda),
    ("parameter_list", Role::Parameters),
    ("bracketed_parameter_list", Role::Parameters),
    ("parameter", Role::Parameter),
    ("type_parameter_list", Role::TypeParams),
    ("attribute_list", Role::Decorator),
    ("global_attribute", Role::Decorator),
    ("modifier", Role::Token),
    ("block", Role::Block),
    ("expression_statement", Role::ExprStmt),
    ("local_declaration_statement", Role::Declare),
    ("variable_declaration", Role::Declare),
    ("variable_declarator", Role::Assign),
    ("tuple_pattern", Role::Pattern),
    ("assignment_expression", Role::Assign),
    ("if_statement", Role::If),
    ("while_statement", Role::While),
    ("do_statement", Role::DoWhile),
    ("for_statement", Role::CountedFor),
    ("foreach_statement", Role::For),
    ("switch_statement", Role::Switch),
    ("switch_section", Role::Case),
    ("switch_expression_arm", Role::BoolOp),
    ("try_statement", Role::Try),
    ("catch_clause", Role::Except),
    ("finally_clause", Role::Finally),
    ("using_statement", Role::With),
    ("lock_statement", Role::With),
    ("fixed_statement", Role::With),
    ("checked_statement", Role::With),
    ("unsafe_statement", Role::With),
    ("goto_statement", Role::Jump),
    ("return_statement", Role::Return),
    ("throw_statement", Role::Raise),
    ("throw_expression", Role::UnaryOp),
    ("break_statement", Role::Break),
    ("continue_statement", Role::Continue),
    ("yield_statement", Role::Yield),
    ("empty_statement", Role::Pass),
    ("await_expression", Role::Await),
    ("invocation_expression", Role::Call),
    ("object_creation_expression", Role::Call),
    ("implicit_object_creation_expression", Role::Call),
    ("argument_list", Role::Arguments),
    // one with a name, or one that is no value: `ref x`, `out x`
    ("argument", Role::Spread),
    ("attribute_argument_list", Role::Arguments),
    ("member_access_expression", Role::Member),
    ("member_binding_expression", Role::Member),
    ("conditional_access_expression", Role::BoolOp),
    ("element_access_expression", Role::Index),
    ("element_binding_expression", Role::Index),
    ("identifier", Role::Name),
    ("implicit_parameter", Role::Name),
    ("predefined_type", Role::Type),
    ("generic_name", Role::Type),
    ("qualified_name", Role::Type),
    ("alias_qualified_name", Role::DottedName),
    ("array_type", Role::Type),
    ("nullable_type", Role::Type),
    ("pointer_type", Role::Type),
    ("function_pointer_type", Role::Type),
    ("tuple_type", Role::Type),
    ("ref_type", Role::Type),
    ("scoped_type", Role::Type),
    ("implicit_type", Role::Type),
    ("type_argument_list", Role::Type),
    ("integer_literal", Role::Literal),
    ("real_literal", Role::Literal),
    ("boolean_literal", Role::Literal),
    ("null_literal", Role::Literal),
    ("character_literal", Role::Literal),
    ("string_literal", Role::Literal),
    ("verbatim_string_literal", Role::Literal),
    ("raw_string_literal", Role::Literal),
    ("interpolated_string_expression", Role::Template),
    ("interpolation", Role::Interpolation),
    ("interpolation_start", Role::Token),
    ("interpolation_quote", Role::Token),
    ("interpolation_brace", Role::Token),
    ("interpolation_format_clause", Role::TemplateText),
    ("string_content", Role::TemplateText),
    ("escape_sequence", Role::TemplateText),
    ("is_pattern_expression", Role::Compare),
    ("is_expression", Role::Compare),
    ("as_expression", Role::UnaryOp),
    ("cast_expression", Role::UnaryOp),
    ("checked_expression", Role::UnaryOp),
    ("typeof_expression", Role::UnaryOp),
    ("default_expression", Role::UnaryOp),
    ("prefix_unary_expression", Role::UnaryOp),
    ("postfix_unary_expression", Role::UnaryOp),
    ("array_creation_expression", Role::List),
    ("implicit_array_creation_expression", Role::List),
    ("stackalloc_expression", Role::Other),
    ("initializer_expression", Role::List),
    ("tuple_expression", Role::Tuple),
    ("conditional_expression", Role::Conditional),
    ("binary_expression", Role::BinaryOp),
    ("parenthesized_expression", Role::Paren),
    ("query_expression", Role::Generator),
];

const FIELDS: &[(&str, Field)] = &[
    ("name", Field::Name),
    ("body", Field::Body),
    ("consequence", Field::Body),
    ("condition", Field::Condition),
    ("alternative", Field::Alternative),
    ("left", Field::Left),
    ("right", Field::Right),
    ("pattern", Field::Right),
    ("value", Field::Value),
    ("parameters", Field::Parameters),
    ("arguments", Field::Arguments),
    ("function", Field::Callee),
    ("expression", Field::Expression),
    ("subscript", Field::Index),
    ("operator", Field::Operator),
    ("type", Field::Type),
    ("returns", Field::ReturnType),
    ("type_parameters", Field::TypeParams),
    ("initializer", Field::Init),
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
    "=>",
    "?",
    "\"",
    "class",
    "interface",
    "enum",
    "struct",
    "record",
    "delegate",
    "event",
    "namespace",
    "if",
    "else",
    "for",
    "foreach",
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
    "default",
    "when",
    "new",
    "yield",
    "goto",
    "is",
    "as",
    "typeof",
];
