//! Types as text, from it and to it, and what operators make of numbers.

use super::library::LIBRARY;
use crate::names::Source;
use crate::tree::{NodeId, Role, Tree};
use crate::types::{Kind, Ty};

pub fn of(word: &str) -> Ty {
    Ty::primitive(word)
}

/// The type of a literal by its form; none for a number that only fits by its value.
pub fn literal(text: &str) -> Option<Ty> {
    let lower = text.to_ascii_lowercase().replace('_', "");
    let hex = lower.starts_with("0x") || lower.starts_with("0b");
    let word = match lower.chars().next()? {
        '"' | '@' | '$' => "string",
        '\'' => "char",
        't' | 'f' if !hex && lower.parse::<bool>().is_ok() => "bool",
        c if c.is_ascii_digit() || c == '.' => match lower.chars().last()? {
            'm' => "decimal",
            'f' if !hex => "float",
            'd' if !hex => "double",
            'l' if lower.ends_with("ul") => "ulong",
            'l' => "long",
            'u' => "uint",
            _ if !hex && (lower.contains('.') || lower.contains('e')) => "double",
            _ if !hex => return lower.parse::<i32>().is_ok().then(|| of("int")),
            _ => {
                let radix = if lower.starts_with("0x") { 16 } else { 2 };
                return i32::from_str_radix(&lower[2..], radix).is_ok().then(|| of("int"));
            }
        },
        _ => return None,
    };
    Some(of(word))
}

/// The number types in the order in which operators widen them; `decimal` goes with whole numbers only.
const WIDENING: [&str; 4] = ["int", "long", "float", "double"];

pub fn word(ty: Ty) -> Option<String> {
    match ty.kind() {
        Kind::Primitive(w) => Some(w),
        _ => None,
    }
}

pub fn is_number(ty: Ty) -> bool {
    let all =
        ["int", "long", "float", "double", "decimal", "byte", "sbyte", "short", "ushort", "uint", "ulong", "char"];
    word(ty).is_some_and(|w| all.contains(&w.as_str()))
}

/// Binary numeric promotion (C# 12.4.7.3).
pub fn wider(a: Ty, b: Ty) -> Option<Ty> {
    let small = ["byte", "sbyte", "short", "ushort", "char"];
    let up = |t: Ty| word(t).map(|w| if small.contains(&w.as_str()) { "int".to_string() } else { w });
    let (a, b) = (up(a)?, up(b)?);
    if a == b && is_number(of(&a)) {
        return Some(of(&a));
    }
    let whole = |w: &str| ["int", "long", "uint", "ulong"].contains(&w);
    if a == "decimal" && whole(&b) || b == "decimal" && whole(&a) {
        return Some(of("decimal"));
    }
    let place = |w: &str| WIDENING.iter().position(|x| *x == w);
    Some(of(WIDENING[place(&a)?.max(place(&b)?)]))
}
/// How a type is written at a place of a file, when its words mean the same there.
pub fn spelled(ty: Ty, at: &Source) -> Option<String> {
    match ty.kind() {
        Kind::Primitive(word) => Some(word),
        Kind::Array(e) => spelled(e, at).map(|e| format!("{e}[]")),
        Kind::Nullable(e) => spelled(e, at).map(|e| format!("{e}?")),
        Kind::Parameter { name, .. } => Some(name),
        Kind::Named { name, arguments, only_in } => {
            if only_in.as_ref().is_some_and(|o| *o != at.path) {
                return None;
            }
            let space = LIBRARY.class(&name, arguments.len()).filter(|_| only_in.is_none()).map(|c| c.space.as_str());
            let head = match space {
                Some(space) if !sees(at, space) && !is_written(at, &name) => format!("{space}.{name}"),
                _ => name,
            };
            let all: Vec<String> = arguments.iter().map(|a| spelled(*a, at)).collect::<Option<_>>()?;
            Some(if all.is_empty() { head } else { format!("{head}<{}>", all.join(", ")) })
        }
        _ => None,
    }
}

/// The file has the names of a name space.
pub fn sees(s: &Source, space: &str) -> bool {
    let t = &s.tree;
    let says = |n: NodeId| s.str(n).trim_end_matches(';').split_whitespace().last() == Some(space);
    t.children(Tree::ROOT).any(|n| t.role(n) == Role::ImportFrom && !s.str(n).contains('=') && says(n))
}

/// The same, or perhaps by a list for the whole project.
pub fn has_space(s: &Source, space: &str) -> bool {
    let t = &s.tree;
    // a project may see the everyday ones without a word
    let everyday = ["System", "System.IO", "System.Linq", "System.Collections.Generic", "System.Threading.Tasks"];
    let says_none = || !t.children(Tree::ROOT).any(|n| t.role(n) == Role::ImportFrom && s.str(n) == "using System;");
    sees(s, space) || everyday.contains(&space) && says_none()
}

/// The file uses the name as a type already, by whatever brings it.
fn is_written(s: &Source, name: &str) -> bool {
    s.names.references.iter().any(|r| r.is_type() && r.target.is_none() && s.str(r.node) == name)
}
