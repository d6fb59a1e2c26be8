//! Types, one representation for all languages: interned, so that a type is a number and comparing is comparing numbers.
//!
//! A type that is not known is [`Ty::UNKNOWN`], never a guess. Languages take apart what their rules need; what a rule
//! needs no parts of may stay [`Kind::Written`], the text of a type expression. The table grows with the types that were
//! met and is never emptied: a few bytes for each distinct type of a process.

use std::sync::{LazyLock, RwLock};

use rustc_hash::FxHashMap;

#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct Ty(u32);

#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub enum Kind {
    Unknown,
    /// By a word of the language.
    Primitive(String),
    /// A class, interface or the like by its full name.
    Named {
        name: String,
        arguments: Vec<Ty>,
        /// The file outside which the name may mean something else; none where it is the same everywhere.
        only_in: Option<String>,
    },
    Array(Ty),
    Pointer(Ty),
    Reference(Ty),
    /// Names are as they are written, with marks of what may be left out or comes many times.
    Function {
        parameters: Vec<(String, Ty)>,
        result: Ty,
    },
    /// An object by its members, which may be left out where their names end in `?`.
    Shape(Vec<(String, Ty)>),
    /// The one value that is written so.
    Literal(String),
    Tuple(Vec<Ty>),
    Union(Vec<Ty>),
    Nullable(Ty),
    /// A type parameter, with the place that declares it.
    Parameter {
        name: String,
        declared: String,
    },
    /// A type expression as it is written.
    Written(String),
}

#[derive(Default)]
struct Table {
    kinds: Vec<Kind>,
    numbers: FxHashMap<Kind, u32>,
}

static TABLE: LazyLock<RwLock<Table>> = LazyLock::new(|| {
    let mut table = Table::default();
    table.add(Kind::Unknown);
    RwLock::new(table)
});

impl Table {
    fn add(&mut self, kind: Kind) -> u32 {
        let n = self.kinds.len() as u32;
        self.kinds.push(kind.clone());
        self.numbers.insert(kind, n);
        n
    }
}

impl Ty {
    pub const UNKNOWN: Ty = Ty(0);

    pub fn new(kind: Kind) -> Ty {
        let known = TABLE.read().unwrap_or_else(|e| e.into_inner()).numbers.get(&kind).copied();
        Ty(known.unwrap_or_else(|| {
            let mut table = TABLE.write().unwrap_or_else(|e| e.into_inner());
            // another thread may have been first
            match table.numbers.get(&kind) {
                Some(n) => *n,
                None => table.add(kind),
            }
        }))
    }

    pub fn primitive(word: &str) -> Ty {
        Ty::new(Kind::Primitive(word.into()))
    }

    pub fn named(name: &str, arguments: Vec<Ty>) -> Ty {
        Ty::new(Kind::Named { name: name.into(), arguments, only_in: None })
    }

    pub fn written(text: &str) -> Ty {
        Ty::new(Kind::Written(text.into()))
    }

    pub fn literal(text: &str) -> Ty {
        Ty::new(Kind::Literal(text.into()))
    }

    /// One of several, each once; not known when one of them is not.
    pub fn union(all: Vec<Ty>) -> Ty {
        let mut parts: Vec<Ty> = Vec::new();
        for part in all.into_iter().flat_map(Ty::alternatives) {
            if !part.is_known() {
                return Ty::UNKNOWN;
            }
            if !parts.contains(&part) {
                parts.push(part);
            }
        }
        match parts[..] {
            [] => Ty::UNKNOWN,
            [one] => one,
            _ => Ty::new(Kind::Union(parts)),
        }
    }

    /// Those of which a value has one.
    pub fn alternatives(self) -> Vec<Ty> {
        match self.kind() {
            Kind::Union(parts) => parts,
            _ => vec![self],
        }
    }

    pub fn array_of(element: Ty) -> Ty {
        if element.is_known() { Ty::new(Kind::Array(element)) } else { Ty::UNKNOWN }
    }

    pub fn kind(self) -> Kind {
        TABLE.read().unwrap_or_else(|e| e.into_inner()).kinds[self.0 as usize].clone()
    }

    pub fn is_known(self) -> bool {
        self != Ty::UNKNOWN
    }

    /// Itself, or none when it is not known.
    pub fn known(self) -> Option<Ty> {
        Some(self).filter(|t| t.is_known())
    }

    /// A named type without its type arguments.
    pub fn bare(self) -> Ty {
        match self.kind() {
            Kind::Named { name, only_in, .. } => Ty::new(Kind::Named { name, arguments: Vec::new(), only_in }),
            _ => self,
        }
    }

    /// Itself and all types that it is made of.
    pub fn parts(self) -> Vec<Ty> {
        let below = match self.kind() {
            Kind::Unknown | Kind::Primitive(_) | Kind::Parameter { .. } => Vec::new(),
            Kind::Written(_) | Kind::Literal(_) => Vec::new(),
            Kind::Array(t) | Kind::Pointer(t) | Kind::Reference(t) | Kind::Nullable(t) => vec![t],
            Kind::Named { arguments, .. } => arguments,
            Kind::Function { parameters, result } => parameters.into_iter().map(|p| p.1).chain([result]).collect(),
            Kind::Shape(members) => members.into_iter().map(|m| m.1).collect(),
            Kind::Tuple(all) | Kind::Union(all) => all,
        };
        std::iter::once(self).chain(below.into_iter().flat_map(Ty::parts)).collect()
    }

    /// With other types in the place of named type parameters.
    pub fn with(self, given: &[(String, Ty)]) -> Ty {
        let all = |list: Vec<Ty>| list.into_iter().map(|t| t.with(given)).collect::<Vec<_>>();
        let named = |list: Vec<(String, Ty)>| list.into_iter().map(|(n, t)| (n, t.with(given))).collect::<Vec<_>>();
        match self.kind() {
            Kind::Parameter { name, .. } => given.iter().find(|(n, _)| *n == name).map_or(self, |(_, t)| *t),
            Kind::Named { name, arguments, only_in } => {
                Ty::new(Kind::Named { name, arguments: all(arguments), only_in })
            }
            Kind::Array(t) => Ty::array_of(t.with(given)),
            Kind::Nullable(t) => Ty::new(Kind::Nullable(t.with(given))),
            Kind::Tuple(list) => Ty::new(Kind::Tuple(all(list))),
            Kind::Union(list) => Ty::union(all(list)),
            Kind::Shape(members) => Ty::new(Kind::Shape(named(members))),
            Kind::Function { parameters, result } => {
                Ty::new(Kind::Function { parameters: named(parameters), result: result.with(given) })
            }
            _ => self,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::{Kind, Ty};

    #[test]
    fn equal_types_are_one_number() {
        let text = || Ty::named("java.lang.String", Vec::new());
        assert_eq!(text(), text());
        assert_eq!(Ty::array_of(text()), Ty::array_of(text()));
        assert_ne!(Ty::array_of(text()), text());
        assert_ne!(
            text(),
            Ty::new(Kind::Named { name: "java.lang.String".into(), arguments: vec![], only_in: Some("A.java".into()) })
        );
        assert_eq!(Ty::array_of(Ty::UNKNOWN), Ty::UNKNOWN);
    }

    #[test]
    fn parameters_are_replaced_in_all_parts() {
        let e = Ty::new(Kind::Parameter { name: "E".into(), declared: "List".into() });
        let berth = Ty::named("port.Berth", vec![]);
        let map = Ty::named("java.util.Map", vec![Ty::primitive("int"), Ty::array_of(e)]);
        let given = [("E".to_string(), berth)];
        assert_eq!(map.with(&given), Ty::named("java.util.Map", vec![Ty::primitive("int"), Ty::array_of(berth)]));
        assert_eq!(map.with(&given).parts().len(), 4);
    }
}
