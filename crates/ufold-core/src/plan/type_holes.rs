//! Places where the copies name different types: they become type parameters of the new function, and each site says
//! which types it means.
//!
//! A type parameter is bound by the union of the sites' types. Whether the body's code is right for all of it is what a
//! type checker knows, so the plan says that it assumes it. Given up where a type is no whole type expression, or where
//! the functions around the sites have type parameters that the code uses as well.

use crate::names::Source;
use crate::plan::general::TypeHole;
use crate::plan::parameters::Generalize;
use crate::tree::{NodeId, Role};

/// More type parameters than this read worse than the copies.
const MOST_TYPE_PARAMETERS: usize = 2;

impl Generalize<'_> {
    /// The whole type around an aligned place that differs; none where that is no type in every copy.
    pub(crate) fn type_place(&self, i: usize) -> Option<usize> {
        let is_type = |at: &usize| {
            let whole = |(site, node): (&crate::plan::region::Portion, &NodeId)| {
                let s = site.source();
                s.lang.is_whole_type(&s.tree, *node)
            };
            self.sites.iter().zip(&self.aligned[*at].nodes).all(whole)
        };
        let inside = |at: &usize| {
            let t = &self.sites[self.template].source().tree;
            let role = t.role(self.aligned[*at].nodes[self.template]);
            matches!(role, Role::Type | Role::Name | Role::Literal | Role::MemberName | Role::Token)
        };
        std::iter::successors(Some(i), |at| self.aligned[*at].parent).take_while(inside).find(is_type)
    }

    /// The type parameters for these places, when there are few.
    pub(crate) fn type_holes(&self, places: &[usize]) -> Option<Vec<TypeHole>> {
        let mut out: Vec<TypeHole> = Vec::new();
        let home = self.sites[self.template].source();
        for place in places {
            let nodes = self.aligned[*place].nodes.iter();
            let types: Vec<String> = nodes.zip(self.sites).map(|(n, s)| s.source().str(*n).to_string()).collect();
            match out.iter_mut().find(|h| h.types == types) {
                Some(h) => h.places.push(*place),
                None => {
                    let taken = |name: &str| out.iter().any(|h| h.name == name) || is_named(home, name);
                    let name = ["T", "U", "V", "W"].into_iter().find(|n| !taken(n))?.to_string();
                    out.push(TypeHole { places: vec![*place], types, name });
                }
            }
        }
        (out.len() <= MOST_TYPE_PARAMETERS).then_some(out)
    }
}

fn is_named(s: &Source, name: &str) -> bool {
    s.tree.ids().any(|n| s.tree.role(n) == Role::Name && s.str(n) == name)
}

/// A site's type with the type parameters in the place of the types that they stand for.
pub fn in_terms_of(holes: &[TypeHole], site: usize, text: &str) -> String {
    let mut out = text.to_string();
    for h in holes {
        let word = |c: Option<char>| c.is_some_and(|c| c.is_alphanumeric() || c == '_' || c == '$' || c == '.');
        let own = &h.types[site];
        let mut from = 0;
        while let Some(at) = out[from..].find(own.as_str()).map(|k| from + k) {
            let (before, after) = (out[..at].chars().next_back(), out[at + own.len()..].chars().next());
            if word(before) || word(after) {
                from = at + own.len();
                continue;
            }
            out.replace_range(at..at + own.len(), &h.name);
            from = at + h.name.len();
        }
    }
    out
}

#[cfg(test)]
mod tests {
    use super::in_terms_of;
    use crate::plan::general::TypeHole;

    #[test]
    fn whole_words_become_type_parameters() {
        let hole = |name: &str, types: &[&str]| TypeHole {
            places: Vec::new(),
            types: types.iter().map(|t| t.to_string()).collect(),
            name: name.into(),
        };
        let holes = [hole("T", &["Berth", "Crane"]), hole("U", &["string[]", "number"])];
        let cases = [
            (0, "Map<string, Berth>", "Map<string, T>"),
            (1, "Map<string, Crane>", "Map<string, T>"),
            (0, "Berths | BerthId | port.Berth", "Berths | BerthId | port.Berth"),
            (0, "(b: Berth) => string[]", "(b: T) => U"),
            (1, "Crane | number | Crane[]", "T | U | T[]"),
        ];
        for (site, text, expected) in cases {
            assert_eq!(in_terms_of(&holes, site, text), expected);
        }
    }
}
