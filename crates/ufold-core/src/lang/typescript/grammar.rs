//! What TypeScript's grammars add to JavaScript's.

use std::sync::LazyLock;

use crate::lang::javascript::grammar::build;
use crate::names::Space;
use crate::tree::{Grammar, NodeId, Role, Tree};

pub static TYPESCRIPT: LazyLock<Grammar> =
    LazyLock::new(|| build(tree_sitter_typescript::LANGUAGE_TYPESCRIPT.into(), ROLES));
pub static TSX: LazyLock<Grammar> = LazyLock::new(|| build(tree_sitter_typescript::LANGUAGE_TSX.into(), ROLES));

/// Kinds that are a type by themselves, but for the first word of one with arguments.
const WHOLE_TYPES: &[&str] = &[
    "type_identifier",
    "predefined_type",
    "array_type",
    "generic_type",
    "union_type",
    "object_type",
    "tuple_type",
    "literal_type",
];

/// Numbers of kinds, which differ between the two grammars.
struct Kinds {
    whole: Vec<u16>,
    generic: u16,
    dotted: u16,
    word: u16,
}

static KINDS: LazyLock<[Kinds; 2]> = LazyLock::new(|| {
    [&*TYPESCRIPT, &*TSX].map(|g| {
        let id = |kind: &str| g.language.id_for_node_kind(kind, true);
        Kinds {
            whole: WHOLE_TYPES.iter().map(|k| id(k)).collect(),
            generic: id("generic_type"),
            dotted: id("nested_type_identifier"),
            word: id("type_identifier"),
        }
    })
});

/// A type that another one can stand for. Words of a dotted name and of a generic type's name are none.
pub fn is_whole_type(tree: &Tree, node: NodeId, tsx: bool) -> bool {
    let kinds = &KINDS[usize::from(tsx)];
    let part_of_name = |p: NodeId| match tree.kind(p) {
        k if k == kinds.generic => tree.children(p).next() == Some(node),
        k => k == kinds.dotted,
    };
    kinds.whole.contains(&tree.kind(node)) && !tree.parent(node).is_some_and(part_of_name)
}

/// What a word of a type can be; the first one of a path may be a namespace, which is found with the values.
pub fn type_word(tree: &Tree, node: NodeId, tsx: bool) -> Option<&'static [Space]> {
    let kinds = &KINDS[usize::from(tsx)];
    let path = || tree.parent(node).is_some_and(|p| tree.kind(p) == kinds.dotted);
    match tree.kind(node) == kinds.word {
        true => Some(&[Space::Types]),
        false if path() => Some(&[Space::Types, Space::Values]),
        false => None,
    }
}

const ROLES: &[(&str, Role)] = &[
    ("abstract_class_declaration", Role::Class),
    ("abstract_method_signature", Role::ClassField),
    ("public_field_definition", Role::ClassField),
    ("index_signature", Role::Type),
    ("method_signature", Role::ClassField),
    ("call_signature", Role::Type),
    ("construct_signature", Role::Type),
    ("property_signature", Role::Type),
    ("interface_declaration", Role::TypeAlias),
    ("interface_body", Role::Type),
    ("type_alias_declaration", Role::TypeAlias),
    ("function_signature", Role::TypeAlias),
    ("ambient_declaration", Role::TypeAlias),
    ("enum_declaration", Role::Class),
    ("enum_body", Role::Other),
    ("enum_assignment", Role::Pair),
    ("module", Role::Other),
    ("internal_module", Role::Other),
    ("import_alias", Role::TypeAlias),
    ("import_require_clause", Role::Other),
    ("required_parameter", Role::Parameter),
    ("optional_parameter", Role::Parameter),
    ("type_identifier", Role::Name),
    ("as_expression", Role::Paren),
    ("satisfies_expression", Role::Paren),
    ("non_null_expression", Role::Paren),
    ("type_assertion", Role::Paren),
    ("instantiation_expression", Role::Paren),
    ("type_parameters", Role::TypeParams),
    ("type_parameter", Role::Other),
    ("type_arguments", Role::Type),
    ("type_annotation", Role::Type),
    ("adding_type_annotation", Role::Type),
    ("omitting_type_annotation", Role::Type),
    ("opting_type_annotation", Role::Type),
    ("asserts_annotation", Role::Type),
    ("asserts", Role::Type),
    ("type_predicate_annotation", Role::Type),
    ("type_predicate", Role::Type),
    ("array_type", Role::Type),
    ("conditional_type", Role::Type),
    ("constructor_type", Role::Type),
    ("default_type", Role::Type),
    ("constraint", Role::Type),
    ("existential_type", Role::Type),
    ("extends_type_clause", Role::Type),
    ("flow_maybe_type", Role::Type),
    ("function_type", Role::Type),
    ("generic_type", Role::Type),
    ("implements_clause", Role::Type),
    ("index_type_query", Role::Type),
    ("infer_type", Role::Type),
    ("intersection_type", Role::Type),
    ("literal_type", Role::Type),
    ("lookup_type", Role::Type),
    ("mapped_type_clause", Role::Type),
    ("nested_type_identifier", Role::Type),
    ("object_type", Role::Type),
    ("optional_type", Role::Type),
    ("parenthesized_type", Role::Type),
    ("predefined_type", Role::Type),
    ("readonly_type", Role::Type),
    ("rest_type", Role::Type),
    ("template_literal_type", Role::Type),
    ("template_type", Role::Type),
    ("this_type", Role::Type),
    ("tuple_type", Role::Type),
    ("type_query", Role::Type),
    ("union_type", Role::Type),
    ("accessibility_modifier", Role::Token),
    ("override_modifier", Role::Token),
    ("nested_identifier", Role::Member),
];
