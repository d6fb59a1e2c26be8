//! PHP's grammar, mapped to roles.
//!
//! What is called by a member has no callee of its own here, and words that act like functions (`echo`, `print`, `exit`,
//! `include`) are statements or operators: the tree reads all of them as calls. A file is text with code in it: what stands
//! between `?>` and the next code is printed where it stands, and goes nowhere else.

use std::sync::LazyLock;

use tree_sitter::Node;

use crate::tree::{Field, Gathered, Grammar, Role, Standing};

pub static GRAMMAR: LazyLock<Grammar> = LazyLock::new(|| {
    Grammar::new(tree_sitter_php::LANGUAGE_PHP.into(), ROLES, FIELDS, DROPPED)
        .gathering(gathered)
        .with_transparent(&["property_element", "heredoc_body", "match_block"])
        .with_lists(&["argument", "array_element_initializer"])
        .counting_loops()
});

const fn around(role: Role, field: Field, kind: u16, inside: Option<Field>, alone: bool) -> Option<Gathered> {
    Some(Gathered { role, field, kind, inside, alone })
}

/// Nodes around neighbours: what a call calls, what a word like `echo` takes, the statements of a case, a value in a text.
fn gathered(parent: Role, field: Field, child: &Standing) -> Option<Gathered> {
    const CALLEE: Option<Gathered> = around(Role::Member, Field::Callee, u16::MAX - 2, None, false);
    const STATEMENT: Option<Gathered> = around(Role::ExprStmt, Field::None, u16::MAX - 3, None, true);
    const BODY: Option<Gathered> = around(Role::ExprStmt, Field::Body, u16::MAX - 3, None, true);
    const TAKEN: Option<Gathered> = around(Role::Arguments, Field::Arguments, u16::MAX - 4, Some(Field::None), false);
    const PUT_IN: Option<Gathered> = around(Role::Interpolation, Field::None, u16::MAX - 5, None, true);
    let kind = child.node.kind();
    let acts = ["echo_statement", "exit_statement"].contains(&kind);
    match parent {
        Role::Module | Role::Block if acts => STATEMENT,
        _ if acts && field == Field::Body => BODY,
        Role::Call if by_member(child.around) => CALLEE.filter(|_| field != Field::Arguments),
        Role::Call if by_word(child.around) && child.node.is_named() => TAKEN,
        Role::Case if child.node.is_named() && field == Field::None => Some(Gathered::CASE_BLOCK),
        Role::Template if child.node.is_named() && is_value(kind) => PUT_IN,
        _ => None,
    }
}

fn by_member(call: Option<Node>) -> bool {
    let kinds = ["member_call_expression", "nullsafe_member_call_expression", "scoped_call_expression"];
    call.is_some_and(|c| kinds.contains(&c.kind()))
}

const WORDS: [&str; 7] = [
    "echo_statement",
    "exit_statement",
    "print_intrinsic",
    "include_expression",
    "include_once_expression",
    "require_expression",
    "require_once_expression",
];

fn by_word(call: Option<Node>) -> bool {
    call.is_some_and(|c| WORDS.contains(&c.kind()))
}

/// Not the words of a text with values in it.
fn is_value(kind: &str) -> bool {
    !["string_content", "escape_sequence", "heredoc_start", "heredoc_end"].contains(&kind)
}

fn has_values(text: &Node) -> bool {
    let mut cursor = text.walk();
    let all: Vec<Node> = text.named_children(&mut cursor).collect();
    all.iter().any(|c| if c.kind() == "heredoc_body" { has_values(c) } else { is_value(c.kind()) })
}

/// What the kind and its place say together.
pub fn refine(role: Role, field: Field, parent: Role, at: &Standing) -> (Role, Field) {
    let node = at.node;
    let kind = node.kind();
    let around = at.around.map_or("", |a| a.kind());
    let operator = || node.child_by_field_name("operator").map_or("", |o| o.kind());
    let field = match (parent, field) {
        (Role::For, Field::None) if role != Role::Token && role != Role::FrameName => {
            if at.is_behind("as") {
                Field::Left
            } else {
                Field::Right
            }
        }
        (Role::AugAssign | Role::OrAssign, Field::Expression) => Field::Left,
        (Role::Except, Field::Name) => Field::Left,
        (Role::Switch, Field::Condition) => Field::Subject,
        (Role::BoolOp, Field::Condition) => Field::Left,
        (Role::BoolOp, Field::Alternative) => Field::Right,
        (Role::Class, Field::None) if kind.ends_with("_clause") => Field::Bases,
        (Role::Call, Field::None) if kind == "arguments" => Field::Arguments,
        (Role::Call, Field::None) if around == "object_creation_expression" && node.is_named() => Field::Callee,
        (Role::Call, Field::None) if by_word(at.around) && role == Role::Token => Field::Callee,
        (Role::Member, Field::Name) => Field::Member,
        (Role::Member, Field::None) if around == "class_constant_access_expression" && node.is_named() => {
            if at.before.is_none() { Field::Object } else { Field::Member }
        }
        (Role::Index, Field::None) if node.is_named() => {
            if at.before.is_none() {
                Field::Object
            } else {
                Field::Index
            }
        }
        (Role::Pair, Field::None) if node.is_named() => {
            if at.before.is_none() {
                Field::Key
            } else {
                Field::Value
            }
        }
        (Role::Assign, Field::None) if around == "const_element" && node.is_named() => {
            if at.before.is_none() {
                Field::Left
            } else {
                Field::Right
            }
        }
        (Role::Case, Field::None) if kind == "=>" => Field::Operator,
        _ => field,
    };
    let role = match role {
        Role::Name => name(field, parent, kind, around),
        Role::Token if kind == "?->" => Role::OptionalMark,
        Role::Token if field == Field::Callee => Role::Name,
        // one with brackets around its code
        Role::Doc if node.child_by_field_name("body").is_some() => Role::Other,
        Role::Break | Role::Continue if node.named_child_count() > 0 => Role::Jump,
        Role::BinaryOp => match operator() {
            "&&" | "||" | "and" | "or" | "xor" | "??" => Role::BoolOp,
            "==" | "!=" | "<>" | "===" | "!==" | "<" | "<=" | ">" | ">=" | "instanceof" => Role::Compare,
            _ => role,
        },
        Role::UnaryOp if kind == "unary_op_expression" && operator() == "!" => Role::NotOp,
        Role::AugAssign if operator() == "??=" => Role::OrAssign,
        Role::Conditional if node.child_by_field_name("body").is_none() => Role::BoolOp,
        Role::List if has_keys(&node) => Role::Dict,
        Role::Template if kind != "shell_command_expression" && !has_values(&node) => Role::Literal,
        Role::Pair if kind == "array_element_initializer" && !is_pair(&node) => Role::Other,
        Role::ClassField if kind == "const_declaration" && !around.ends_with("declaration_list") => Role::Declare,
        Role::KeywordArg if node.child_by_field_name("name").is_none() => Role::Other,
        // `<?= $x ?>` prints what it gives
        Role::ExprStmt if at.before.is_some_and(|b| opens_output(&b)) => Role::FrameName,
        _ => role,
    };
    (role, field)
}

/// A word that is no name by itself: of a member, a label, an argument.
fn name(field: Field, parent: Role, kind: &str, around: &str) -> Role {
    let is_variable = kind == "variable_name";
    match (field, parent) {
        // what it holds is the name of the member
        (Field::Member, _) if is_variable && around.contains("member") => Role::Name,
        (Field::Member, _) => Role::MemberName,
        (Field::Name, Role::ClassField) => Role::MemberName,
        (Field::Left, Role::Assign) if around == "const_element" => Role::MemberName,
        (Field::Name, Role::KeywordArg) => Role::KeywordName,
        (_, Role::Jump | Role::JumpTarget) => Role::Label,
        (_, Role::Index) if !is_variable && field == Field::Index => Role::MemberName,
        _ => Role::Name,
    }
}

fn has_keys(array: &Node) -> bool {
    let mut cursor = array.walk();
    array.named_children(&mut cursor).any(|c| is_pair(&c))
}

/// `key => value`
fn is_pair(element: &Node) -> bool {
    let mut cursor = element.walk();
    element.children(&mut cursor).any(|c| c.kind() == "=>")
}

/// The mark behind which one value is printed, the only one of three letters.
fn opens_output(text: &Node) -> bool {
    let last = if text.kind() == "text_interpolation" {
        text.named_child(text.named_child_count().saturating_sub(1) as _)
    } else {
        Some(*text)
    };
    last.is_some_and(|l| l.kind() == "php_tag" && l.end_byte() - l.start_byte() == 3)
}

const ROLES: &[(&str, Role)] = &[
    ("program", Role::Module),
    ("php_tag", Role::Doc),
    ("php_end_tag", Role::FrameName),
    ("text", Role::FrameName),
    ("text_interpolation", Role::FrameName),
    ("declare_statement", Role::Doc),
    ("namespace_definition", Role::Doc),
    ("namespace_use_declaration", Role::ImportFrom),
    ("namespace_use_group", Role::ImportList),
    ("namespace_use_clause", Role::ImportAlias),
    ("namespace_name", Role::DottedName),
    ("const_declaration", Role::ClassField),
    ("const_element", Role::Assign),
    ("class_declaration", Role::Class),
    ("interface_declaration", Role::Class),
    ("trait_declaration", Role::Class),
    ("enum_declaration", Role::Class),
    ("anonymous_class", Role::Class),
    ("declaration_list", Role::Block),
    ("enum_declaration_list", Role::Block),
    ("base_clause", Role::Other),
    ("class_interface_clause", Role::Other),
    ("use_declaration", Role::Other),
    ("use_list", Role::Other),
    ("property_declaration", Role::ClassField),
    ("property_hook_list", Role::Other),
    ("property_hook", Role::Function),
    ("enum_case", Role::ClassField),
    ("method_declaration", Role::Function),
    ("function_definition", Role::Function),
    ("anonymous_function", Role::Lambda),
    ("arrow_function", Role::Lambda),
    ("anonymous_function_use_clause", Role::Other),
    ("formal_parameters", Role::Parameters),
    ("simple_parameter", Role::Parameter),
    ("variadic_parameter", Role::Parameter),
    ("property_promotion_parameter", Role::Parameter),
    ("attribute_list", Role::Decorator),
    ("visibility_modifier", Role::Token),
    ("static_modifier", Role::Token),
    ("abstract_modifier", Role::Token),
    ("final_modifier", Role::Token),
    ("readonly_modifier", Role::Token),
    ("var_modifier", Role::Token),
    ("reference_modifier", Role::Token),
    ("compound_statement", Role::Block),
    ("colon_block", Role::Block),
    ("expression_statement", Role::ExprStmt),
    ("empty_statement", Role::Pass),
    ("echo_statement", Role::Call),
    ("exit_statement", Role::Call),
    ("print_intrinsic", Role::Call),
    ("include_expression", Role::Call),
    ("include_once_expression", Role::Call),
    ("require_expression", Role::Call),
    ("require_once_expression", Role::Call),
    ("unset_statement", Role::Delete),
    ("global_declaration", Role::Global),
    ("function_static_declaration", Role::FrameName),
    ("static_variable_declaration", Role::Other),
    ("if_statement", Role::If),
    ("else_if_clause", Role::Elif),
    ("else_clause", Role::Else),
    ("foreach_statement", Role::For),
    ("for_statement", Role::CountedFor),
    ("while_statement", Role::While),
    ("do_statement", Role::DoWhile),
    ("switch_statement", Role::Switch),
    ("switch_block", Role::Other),
    ("case_statement", Role::Case),
    ("default_statement", Role::Case),
    ("match_expression", Role::Switch),
    ("match_conditional_expression", Role::Case),
    ("match_default_expression", Role::Case),
    ("match_condition_list", Role::Other),
    ("try_statement", Role::Try),
    ("catch_clause", Role::Except),
    ("finally_clause", Role::Finally),
    ("return_statement", Role::Return),
    ("throw_expression", Role::Raise),
    ("break_statement", Role::Break),
    ("continue_statement", Role::Continue),
    ("goto_statement", Role::Jump),
    ("named_label_statement", Role::JumpTarget),
    ("assignment_expression", Role::Assign),
    ("reference_assignment_expression", Role::Assign),
    ("augmented_assignment_expression", Role::AugAssign),
    ("update_expression", Role::AugAssign),
    ("list_literal", Role::Pattern),
    ("pair", Role::Pattern),
    ("by_ref", Role::Other),
    ("function_call_expression", Role::Call),
    ("member_call_expression", Role::Call),
    ("nullsafe_member_call_expression", Role::Call),
    ("scoped_call_expression", Role::Call),
    ("object_creation_expression", Role::Call),
    ("arguments", Role::Arguments),
    ("argument", Role::KeywordArg),
    ("variadic_unpacking", Role::Spread),
    ("variadic_placeholder", Role::Token),
    ("member_access_expression", Role::Member),
    ("nullsafe_member_access_expression", Role::Member),
    ("scoped_property_access_expression", Role::Member),
    ("class_constant_access_expression", Role::Member),
    ("subscript_expression", Role::Index),
    ("name", Role::Name),
    ("qualified_name", Role::Name),
    ("relative_name", Role::Name),
    ("relative_scope", Role::Name),
    ("variable_name", Role::Name),
    ("dynamic_variable_name", Role::DynamicScope),
    ("named_type", Role::Type),
    ("primitive_type", Role::Type),
    ("optional_type", Role::Type),
    ("union_type", Role::Type),
    ("intersection_type", Role::Type),
    ("disjunctive_normal_form_type", Role::Type),
    ("bottom_type", Role::Type),
    ("type_list", Role::Type),
    ("cast_type", Role::Token),
    ("integer", Role::Literal),
    ("float", Role::Literal),
    ("boolean", Role::Literal),
    ("null", Role::Literal),
    ("string", Role::Literal),
    ("nowdoc", Role::Literal),
    ("encapsed_string", Role::Template),
    ("heredoc", Role::Template),
    ("shell_command_expression", Role::Template),
    ("string_content", Role::TemplateText),
    ("escape_sequence", Role::TemplateText),
    ("heredoc_start", Role::Token),
    ("heredoc_end", Role::Token),
    ("array_creation_expression", Role::List),
    ("array_element_initializer", Role::Pair),
    ("conditional_expression", Role::Conditional),
    ("binary_expression", Role::BinaryOp),
    ("unary_op_expression", Role::UnaryOp),
    ("error_suppression_expression", Role::UnaryOp),
    ("cast_expression", Role::UnaryOp),
    ("clone_expression", Role::UnaryOp),
    ("yield_expression", Role::Yield),
    ("sequence_expression", Role::Other),
    ("parenthesized_expression", Role::Paren),
];

const FIELDS: &[(&str, Field)] = &[
    ("name", Field::Name),
    ("alias", Field::Alias),
    ("body", Field::Body),
    ("condition", Field::Condition),
    ("alternative", Field::Alternative),
    ("left", Field::Left),
    ("right", Field::Right),
    ("value", Field::Value),
    ("default_value", Field::Value),
    ("parameters", Field::Parameters),
    ("arguments", Field::Arguments),
    ("function", Field::Callee),
    ("object", Field::Object),
    ("scope", Field::Object),
    ("operator", Field::Operator),
    ("type", Field::Type),
    ("return_type", Field::ReturnType),
    ("argument", Field::Expression),
    ("initialize", Field::Init),
    ("update", Field::Step),
    ("conditional_expressions", Field::Value),
    ("return_expression", Field::Body),
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
    "=",
    ":",
    "->",
    "function",
    "fn",
    "class",
    "interface",
    "trait",
    "enum",
    "if",
    "elseif",
    "else",
    "endif",
    "while",
    "endwhile",
    "do",
    "for",
    "endfor",
    "foreach",
    "endforeach",
    "as",
    "switch",
    "endswitch",
    "case",
    "default",
    "match",
    "try",
    "catch",
    "finally",
    "return",
    "throw",
    "break",
    "continue",
    "goto",
    "new",
    "unset",
    "global",
    "use",
    "\"",
    "'",
    "const",
    "array",
    "list",
    "<<<",
];

#[cfg(test)]
mod tests {
    use super::*;

    /// Every named kind of the grammar has a role of its own, so that a new grammar version can't slip by.
    #[test]
    fn the_whole_grammar_is_mapped() {
        // leaves of what is read as one word, and what a node around them tells
        let hidden = [
            "ERROR",
            "comment",
            "sentinel_error",
            "heredoc_body",
            "nowdoc_body",
            "nowdoc_string",
            "match_block",
            "property_element",
            "attribute",
            "attribute_group",
            "declare_directive",
            "operation",
            "use_as_clause",
            "use_instead_of_clause",
        ];
        let language: tree_sitter::Language = tree_sitter_php::LANGUAGE_PHP.into();
        let missing: Vec<&str> = (0..language.node_kind_count() as u16)
            .filter(|k| language.node_kind_is_named(*k) && language.node_kind_is_visible(*k))
            .filter_map(|k| language.node_kind_for_id(k))
            .filter(|k| !ROLES.iter().any(|(name, _)| name == k) && !hidden.contains(k))
            .collect();
        assert_eq!(missing, Vec::<&str>::new());
    }
}
