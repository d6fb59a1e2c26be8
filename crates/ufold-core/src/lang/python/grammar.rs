//! Python's grammar, mapped to roles.

use std::sync::LazyLock;

use crate::tree::{Field, Grammar, Role};

pub static GRAMMAR: LazyLock<Grammar> = LazyLock::new(|| {
    let grammar = Grammar::new(tree_sitter_python::LANGUAGE.into(), ROLES, FIELDS, DROPPED);
    grammar.with_paths("dotted_name", Role::Pattern, "attribute")
});

const ROLES: &[(&str, Role)] = &[
    ("module", Role::Module),
    ("block", Role::Block),
    ("function_definition", Role::Function),
    ("lambda", Role::Lambda),
    ("class_definition", Role::Class),
    ("decorated_definition", Role::Decorated),
    ("decorator", Role::Decorator),
    ("parameters", Role::Parameters),
    ("lambda_parameters", Role::Parameters),
    ("default_parameter", Role::Parameter),
    ("typed_parameter", Role::Parameter),
    ("typed_default_parameter", Role::Parameter),
    ("list_splat_pattern", Role::Pattern),
    ("dictionary_splat_pattern", Role::Pattern),
    ("keyword_separator", Role::Token),
    ("positional_separator", Role::Token),
    ("expression_statement", Role::ExprStmt),
    ("if_statement", Role::If),
    ("elif_clause", Role::Elif),
    ("else_clause", Role::Else),
    ("for_statement", Role::For),
    ("while_statement", Role::While),
    ("try_statement", Role::Try),
    ("except_clause", Role::Except),
    ("except_group_clause", Role::Except),
    ("finally_clause", Role::Finally),
    ("with_statement", Role::With),
    ("with_clause", Role::Other),
    ("with_item", Role::WithItem),
    ("match_statement", Role::Match),
    ("case_clause", Role::Case),
    ("case_pattern", Role::Pattern),
    ("class_pattern", Role::Pattern),
    ("complex_pattern", Role::Pattern),
    ("dict_pattern", Role::Pattern),
    ("keyword_pattern", Role::Pattern),
    ("splat_pattern", Role::Pattern),
    ("union_pattern", Role::Pattern),
    ("list_pattern", Role::Pattern),
    ("tuple_pattern", Role::Pattern),
    ("pattern_list", Role::Pattern),
    ("return_statement", Role::Return),
    ("raise_statement", Role::Raise),
    ("assert_statement", Role::Assert),
    ("break_statement", Role::Break),
    ("continue_statement", Role::Continue),
    ("pass_statement", Role::Pass),
    ("delete_statement", Role::Delete),
    ("global_statement", Role::Global),
    ("nonlocal_statement", Role::Nonlocal),
    ("import_statement", Role::Import),
    ("import_from_statement", Role::ImportFrom),
    ("future_import_statement", Role::ImportFrom),
    ("aliased_import", Role::ImportAlias),
    ("wildcard_import", Role::Wildcard),
    ("dotted_name", Role::DottedName),
    ("relative_import", Role::DottedName),
    ("import_prefix", Role::ImportPrefix),
    ("type_alias_statement", Role::TypeAlias),
    ("assignment", Role::Assign),
    ("augmented_assignment", Role::AugAssign),
    ("named_expression", Role::NamedExpr),
    ("call", Role::Call),
    ("argument_list", Role::Arguments),
    ("keyword_argument", Role::KeywordArg),
    ("attribute", Role::Member),
    ("subscript", Role::Index),
    ("slice", Role::Slice),
    ("identifier", Role::Name),
    ("integer", Role::Literal),
    ("float", Role::Literal),
    ("string", Role::Literal),
    ("true", Role::Literal),
    ("false", Role::Literal),
    ("none", Role::Literal),
    ("ellipsis", Role::Literal),
    ("string_content", Role::TemplateText),
    ("string_start", Role::Token),
    ("string_end", Role::Token),
    ("interpolation", Role::Interpolation),
    ("format_expression", Role::Interpolation),
    ("format_specifier", Role::Other),
    ("type_conversion", Role::Token),
    ("concatenated_string", Role::Concat),
    ("tuple", Role::Tuple),
    ("expression_list", Role::Tuple),
    ("list", Role::List),
    ("dictionary", Role::Dict),
    ("set", Role::Set),
    ("pair", Role::Pair),
    ("list_comprehension", Role::Comprehension),
    ("set_comprehension", Role::Comprehension),
    ("dictionary_comprehension", Role::Comprehension),
    ("generator_expression", Role::Generator),
    ("for_in_clause", Role::CompFor),
    ("if_clause", Role::CompIf),
    ("conditional_expression", Role::Conditional),
    ("boolean_operator", Role::BoolOp),
    ("not_operator", Role::NotOp),
    ("unary_operator", Role::UnaryOp),
    ("binary_operator", Role::BinaryOp),
    ("comparison_operator", Role::Compare),
    ("await", Role::Await),
    ("yield", Role::Yield),
    ("list_splat", Role::Spread),
    ("dictionary_splat", Role::Spread),
    ("parenthesized_list_splat", Role::Spread),
    ("parenthesized_expression", Role::Paren),
    ("as_pattern", Role::AsPattern),
    ("as_pattern_target", Role::AsTarget),
    ("type", Role::Type),
    ("generic_type", Role::Type),
    ("union_type", Role::Type),
    ("member_type", Role::Type),
    ("constrained_type", Role::Type),
    ("splat_type", Role::Type),
    ("type_parameter", Role::TypeParams),
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
    ("function", Field::Callee),
    ("object", Field::Object),
    ("attribute", Field::Member),
    ("subscript", Field::Index),
    ("operator", Field::Operator),
    ("operators", Field::Operator),
    ("type", Field::Type),
    ("return_type", Field::ReturnType),
    ("key", Field::Key),
    ("alias", Field::Alias),
    ("definition", Field::Definition),
    ("subject", Field::Subject),
    ("guard", Field::Guard),
    ("cause", Field::Cause),
    ("module_name", Field::Module),
    ("superclasses", Field::Bases),
    ("type_parameters", Field::TypeParams),
    ("expression", Field::Expression),
    ("argument", Field::Expression),
];

/// Tokens that the kinds of the nodes around them already tell.
const DROPPED: &[&str] = &[
    "(", ")", "[", "]", "{", "}", ",", ";", ".", "def", "class", "if", "elif", "else", "for", "while", "try", "except",
    "finally", "with", "return", "pass", "break", "continue", "import", "global", "nonlocal", "lambda", "assert",
    "raise", "del", "\n", "@", "as", "->", "=", "await", "match", "case",
];

#[cfg(test)]
mod tests {
    use super::*;

    /// Every named kind of the grammar has a role of its own, so that a new grammar version can't slip by.
    #[test]
    fn the_whole_grammar_is_mapped() {
        let hidden = ["ERROR", "comment", "line_continuation", "end"];
        let unused = ["exec_statement", "print_statement", "chevron", "escape_sequence", "escape_interpolation"];
        let language: tree_sitter::Language = tree_sitter_python::LANGUAGE.into();
        let missing: Vec<&str> = (0..language.node_kind_count() as u16)
            .filter(|k| language.node_kind_is_named(*k) && language.node_kind_is_visible(*k))
            .filter_map(|k| language.node_kind_for_id(k))
            .filter(|k| !ROLES.iter().any(|(name, _)| name == k) && !hidden.contains(k) && !unused.contains(k))
            .collect();
        assert_eq!(missing, Vec::<&str>::new());
    }
}
