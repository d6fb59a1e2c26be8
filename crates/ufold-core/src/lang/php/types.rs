//! What declared types do to values: one of another scalar type becomes one of the declared type (PHP Manual, Coercive
//! typing with union types), so that a value is not the same before it is passed and after.
//!
//! Only what the text of a value tells is known: literals, casts, texts, comparisons, parameters that keep their value,
//! functions of the file that say what they give. Sums and products are not: they leave the whole numbers when they grow.

use crate::names::{BindKind, Source, Use};
use crate::tree::{Field, NodeId, Role};

const SCALARS: [&str; 4] = ["int", "float", "string", "bool"];

/// Functions of the library that surely give a text, or a whole number.
const GIVE_TEXT: &[&str] = &[
    "implode",
    "lcfirst",
    "ltrim",
    "number_format",
    "rtrim",
    "sprintf",
    "str_pad",
    "str_repeat",
    "strrev",
    "strtolower",
    "strtoupper",
    "substr",
    "trim",
    "ucfirst",
    "ucwords",
];
const GIVE_NUMBER: &[&str] = &["count", "intdiv", "ord", "strlen", "substr_count"];

pub fn may_convert(s: &Source, value: NodeId, declared: &str) -> bool {
    let text = declared.to_ascii_lowercase();
    let parts: Vec<&str> = text.trim_start_matches('?').split('|').map(str::trim).collect();
    if !parts.iter().any(|p| SCALARS.contains(p)) || parts.contains(&"mixed") {
        return false;
    }
    let is_null = s.str(value).eq_ignore_ascii_case("null");
    let nullable = text.starts_with('?') || parts.contains(&"null");
    let fits = |k: String| parts.contains(&k.to_ascii_lowercase().as_str());
    !(is_null && nullable || kind(s, value).is_some_and(fits))
}

/// The type of a value, as the file writes it; of one that may be nothing by its default value only where the type says so.
pub fn sure_type(s: &Source, value: NodeId) -> Option<String> {
    let t = &s.tree;
    let parameter = t.parent(value).filter(|p| t.role(*p) == Role::Parameter).or_else(|| {
        let b = s.names.at(value).and_then(|r| r.target)?;
        t.parent(s.names.binding(b).first).filter(|p| t.role(*p) == Role::Parameter)
    });
    let default =
        parameter.and_then(|p| t.child(p, Field::Value)).is_some_and(|v| s.str(v).eq_ignore_ascii_case("null"));
    let nullable = |k: &String| k.starts_with('?') || k.to_ascii_lowercase().contains("null") || k == "mixed";
    kind(s, value).filter(|k| !default || nullable(k))
}

/// `...$rows`
fn takes_all_the_rest(s: &Source, name: NodeId) -> bool {
    s.tree.parent(name).is_some_and(|p| s.str(p).contains("..."))
}

/// The type of a value, where its text tells.
fn kind(s: &Source, value: NodeId) -> Option<String> {
    let t = &s.tree;
    let known = |word: &str| Some(word.to_string());
    match t.role(value) {
        Role::Literal => {
            let text = s.str(value);
            match text.chars().next()? {
                '"' | '\'' | '<' => known("string"),
                c if c.is_ascii_digit() && !text.contains(['.', 'e', 'E']) || text.starts_with("0x") => known("int"),
                c if c.is_ascii_digit() || c == '.' => known("float"),
                _ if ["true", "false"].contains(&text.to_ascii_lowercase().as_str()) => known("bool"),
                _ => None,
            }
        }
        Role::Template => known("string"),
        Role::Compare | Role::NotOp => known("bool").filter(|_| !s.str(value).contains("<=>")),
        Role::BinaryOp => {
            let operator = t.child(value, Field::Operator).map(|o| s.str(o));
            known("string").filter(|_| operator == Some("."))
        }
        Role::Paren => kind(s, t.children(value).next()?),
        Role::UnaryOp => {
            let cast = s.str(value).strip_prefix('(')?.split(')').next()?.trim().to_ascii_lowercase();
            SCALARS.contains(&cast.as_str()).then_some(cast)
        }
        Role::Conditional => {
            let [_, a, b] = t.conditional_parts(value)?;
            kind(s, a).filter(|k| kind(s, b).as_ref() == Some(k))
        }
        Role::Name => {
            let binding = s.names.binding(s.names.at(value)?.target?);
            let declared = t.parent(binding.first).and_then(|p| t.child(p, Field::Type));
            let fixed = binding.kind == BindKind::Parameter && binding.writes == 1 && !binding.is_shared;
            declared.filter(|_| fixed && !takes_all_the_rest(s, binding.first)).map(|d| s.str(d).to_string())
        }
        Role::Call => {
            let callee = t.child(value, Field::Callee)?;
            let word = s.str(callee).trim_start_matches('\\').to_ascii_lowercase();
            if let Some(own) = s.names.at(callee).and_then(|r| r.target) {
                let function = t.parent(s.names.binding(own).first)?;
                return t.child(function, Field::ReturnType).map(|d| s.str(d).to_string());
            }
            let text = GIVE_TEXT.contains(&word.as_str()).then_some("string");
            text.or(GIVE_NUMBER.contains(&word.as_str()).then_some("int")).map(str::to_string)
        }
        _ => None,
    }
}

/// A variable that only arrays are given to, and that no reference stands for.
pub fn is_array(s: &Source, name: NodeId) -> bool {
    let t = &s.tree;
    let Some(b) = s.names.at(name).and_then(|r| r.target).filter(|_| t.role(name) == Role::Name) else { return false };
    let binding = s.names.binding(b);
    let declared =
        t.parent(binding.first).and_then(|p| t.child(p, Field::Type)).map(|d| s.str(d).trim_start_matches('?'));
    let passed = binding.kind == BindKind::Parameter && declared.is_some_and(|d| d.eq_ignore_ascii_case("array"));
    let is_array = |n: NodeId| {
        let right = t.parent(n).filter(|p| t.role(*p) == Role::Assign).and_then(|p| t.child(p, Field::Right));
        right.is_some_and(|r| matches!(t.role(r), Role::List | Role::Dict))
    };
    let mut given = s.names.references_to(b).filter(|r| r.usage == Use::Write);
    let fits = given.all(|r| r.node == binding.first && passed || is_array(r.node));
    (passed || binding.kind == BindKind::Variable && binding.writes > 0) && fits && !binding.captured
}
