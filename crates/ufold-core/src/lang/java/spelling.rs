//! Types as text, from it and to it; primitives and the boxes around them.

use super::typing::Types;
use crate::lang::Definitions;
use crate::names::{BindingId, Source, Space};
use crate::types::{Kind, Ty};

pub(super) const NUMERIC: [&str; 7] = ["byte", "short", "char", "int", "long", "float", "double"];

pub fn literal(text: &str) -> Option<Ty> {
    let digits = text.starts_with(|c: char| c.is_ascii_digit() || c == '.');
    let hex = text.starts_with("0x") || text.starts_with("0X");
    let name = match text.chars().last()? {
        '"' => return Some(Ty::named("java.lang.String", Vec::new())),
        '\'' => "char",
        'l' | 'L' if digits => "long",
        'f' | 'F' if digits && !hex => "float",
        'd' | 'D' if digits && !hex => "double",
        _ if digits
            && (text.contains('.') || !hex && text.contains(['e', 'E']) || hex && text.contains(['p', 'P'])) =>
        {
            "double"
        }
        _ if digits => "int",
        _ if text == "true" || text == "false" => "boolean",
        _ => return None,
    };
    Some(Ty::primitive(name))
}

/// The primitive that a type is or holds.
pub fn unboxed(t: Ty) -> Option<String> {
    match t.kind() {
        Kind::Primitive(p) => Some(p),
        Kind::Named { name, .. } => {
            let p = match name.as_str() {
                "java.lang.Integer" => "int",
                "java.lang.Long" => "long",
                "java.lang.Double" => "double",
                "java.lang.Float" => "float",
                "java.lang.Short" => "short",
                "java.lang.Byte" => "byte",
                "java.lang.Character" => "char",
                "java.lang.Boolean" => "boolean",
                _ => return None,
            };
            Some(p.to_string())
        }
        _ => None,
    }
}

/// Unary numeric promotion (JLS 5.6).
pub(super) fn promoted(t: Ty) -> Option<Ty> {
    wider(t, Ty::primitive("int"))
}

/// Binary numeric promotion (JLS 5.6).
pub(super) fn wider(a: Ty, b: Ty) -> Option<Ty> {
    let place = |t: Ty| unboxed(t).and_then(|p| NUMERIC.iter().position(|n| *n == p));
    let widest = place(a)?.max(place(b)?).max(3);
    Some(Ty::primitive(NUMERIC[widest]))
}

/// The text of a type at a place of a file, when its names mean the same there.
pub fn spelled(of: Ty, at: &Source, definitions: &Definitions) -> Option<String> {
    match of.kind() {
        Kind::Primitive(word) | Kind::Written(word) => Some(word),
        Kind::Array(element) => spelled(element, at, definitions).map(|e| format!("{e}[]")),
        Kind::Parameter { name, .. } => Some(name),
        Kind::Named { name, arguments, only_in } => {
            if only_in.as_ref().is_some_and(|o| o.split(':').next() != Some(at.path.as_str())) {
                return None;
            }
            let head = visible_name(&name, only_in.is_some(), at, definitions)?;
            let all: Option<Vec<String>> = arguments.iter().map(|a| spelled(*a, at, definitions)).collect();
            let all = all?;
            Some(if all.is_empty() { head } else { format!("{head}<{}>", all.join(", ")) })
        }
        _ => None,
    }
}

/// The shortest name by which a file sees a class.
pub(super) fn visible_name(full: &str, is_local: bool, at: &Source, definitions: &Definitions) -> Option<String> {
    let types = Types::new(at, definitions);
    let parts: Vec<&str> = full.split('.').collect();
    let simple = *parts.last()?;
    if is_local {
        return Some(simple.to_string());
    }
    let means = |name: &str| match at.names.in_module_as(Space::Types, name) {
        Some(b) => types.of_class_binding(b),
        None => types.free_type(name),
    };
    // a class in a class is named with that, or by itself where the file has it
    for k in (0..parts.len()).rev() {
        let found = matches!(means(parts[k]).kind(), Kind::Named { name, .. } if name == parts[..=k].join("."));
        if found {
            let nested_here = k + 1 < parts.len()
                && types.class(Ty::named(full, Vec::new())).is_some_and(|c| c.source().path == at.path);
            return Some(if nested_here { simple.to_string() } else { parts[k..].join(".") });
        }
    }
    (parts.len() > 1 && full.starts_with(char::is_lowercase)).then(|| full.to_string())
}

/// The words that declare a local: its own, or its type where they do not say it.
pub fn local_word(s: &Source, local: BindingId, declared: Option<&str>, definitions: &Definitions) -> Option<String> {
    let first = s.names.binding(local).first;
    let behind = s.text[s.tree.span(first).end..].starts_with('[');
    let words: Vec<&str> = declared.map_or(Vec::new(), |d| d.split_whitespace().collect());
    let written = declared.filter(|d| !behind && !words.contains(&"var") && !d.contains('@'));
    written.map(str::to_string).or_else(|| {
        let ty = spelled(Types::new(s, definitions).value(first), s, definitions)?;
        Some(if words.contains(&"final") { format!("final {ty}") } else { ty })
    })
}
