//! The type that is written where a name is declared, or that of what it is made of.

use super::spelling::of;
use super::types::Types;
use crate::names::{BindKind, BindingId, Use};
use crate::tree::{Field, NodeId, Role};
use crate::types::{Kind, Ty};

impl Types<'_> {
    /// The declared type of a variable, a property or a field, or of what it is first given.
    pub(super) fn binding(self, b: BindingId) -> Option<Ty> {
        let (s, t) = (self.s, self.t());
        let binding = s.names.binding(b);
        if matches!(binding.kind, BindKind::Import | BindKind::Function | BindKind::Class) {
            return None;
        }
        let mut places: Vec<NodeId> = vec![binding.first];
        places.extend(s.names.references_to(b).filter(|r| r.usage == Use::Write).map(|r| r.node));
        let mut types = places.into_iter().filter_map(|n| self.declared(n));
        let first = types.next()?;
        (t.role(binding.first) == Role::Name && types.all(|x| x == first)).then_some(first)
    }

    /// The type that is written where a name is declared; none where it only gets a value.
    fn declared(self, name: NodeId) -> Option<Ty> {
        let (s, t) = (self.s, self.t());
        let parent = t.parent(name)?;
        let around = t.parent(parent);
        match t.role(parent) {
            Role::Assign if t.field(name) == Field::Left => {
                let written = t.child(around?, Field::Type)?;
                let value = t.child(parent, Field::Right);
                Some(if s.str(written) == "var" {
                    value.map_or(Ty::UNKNOWN, |v| self.value(v))
                } else {
                    self.of_node(written)
                })
            }
            Role::Parameter => {
                let Some(written) = t.child(parent, Field::Type) else {
                    return Some(self.given(name).unwrap_or(Ty::UNKNOWN));
                };
                Some(self.of_node(written))
            }
            Role::For if t.field(name) == Field::Left => {
                let written = t.child(parent, Field::Type)?;
                let through = || t.child(parent, Field::Right).map_or(Ty::UNKNOWN, |r| self.element(self.value(r)));
                Some(if s.str(written) == "var" { through() } else { self.of_node(written) })
            }
            Role::ClassField if t.field(name) == Field::Name => match t.child(parent, Field::Type) {
                Some(written) => Some(self.of_node(written)),
                // a constant of an enumeration
                None => self.this_of(t.ancestor(parent, &[Role::Class])?),
            },
            Role::Other if t.field(name) == Field::Name => {
                let Some(written) = t.child(parent, Field::Type) else { return Some(Ty::UNKNOWN) };
                Some(if s.str(written) == "var" {
                    self.out_type(parent).unwrap_or(Ty::UNKNOWN)
                } else {
                    self.of_node(written)
                })
            }
            Role::Pattern => Some(self.part_of_tuple(parent, name).unwrap_or(Ty::UNKNOWN)),
            Role::Lambda | Role::Parameters => Some(self.given(name).unwrap_or(Ty::UNKNOWN)),
            _ if t.ancestors(name).take(2).any(|a| t.role(a) == Role::Lambda) => {
                Some(self.given(name).unwrap_or(Ty::UNKNOWN))
            }
            _ => None,
        }
    }

    /// A name of `var (a, b) = …`, where what is on the right says its types by words of the language.
    fn part_of_tuple(self, pattern: NodeId, name: NodeId) -> Option<Ty> {
        let t = self.t();
        let at = t.children(pattern).position(|n| n == name)?;
        let assign = t.parent(pattern).filter(|p| t.role(*p) == Role::Assign)?;
        let Kind::Named { name: text, .. } = self.value(t.child(assign, Field::Right)?).kind() else { return None };
        let list = text.strip_prefix('(')?.strip_suffix(')')?;
        let part = list.split(',').nth(at).filter(|_| !list.contains(['<', '(']))?;
        let word = part.split_whitespace().next()?;
        let depth = word.matches("[]").count();
        let plain = super::words::PREDEFINED.contains(&word.trim_end_matches("[]"));
        plain.then(|| (0..depth).fold(of(word.trim_end_matches("[]")), |e, _| Ty::array_of(e)))
    }

    /// `out var n` of the everyday methods that try.
    fn out_type(self, declaration: NodeId) -> Option<Ty> {
        let (s, t) = (self.s, self.t());
        let list = t.ancestor(declaration, &[Role::Arguments])?;
        let callee = t.child(t.parent(list)?, Field::Callee).filter(|c| t.role(*c) == Role::Member)?;
        let object = t.child(callee, Field::Object)?;
        match s.str(t.child(callee, Field::Member)?) {
            "TryParse" if t.role(object) == Role::Type => Some(of(s.str(object))),
            "TryGetValue" => match self.value(object).kind() {
                Kind::Named { name, arguments, only_in: None } if name.ends_with("Dictionary") => {
                    arguments.get(1).copied()
                }
                _ => None,
            },
            _ => None,
        }
    }

    /// The parameter of a lambda that is handed to an everyday method of a collection.
    fn given(self, name: NodeId) -> Option<Ty> {
        let (s, t) = (self.s, self.t());
        let lambda = t.ancestor(name, &[Role::Lambda])?;
        let arguments = t.parent(lambda).filter(|a| t.role(*a) == Role::Arguments && t.children(*a).count() == 1)?;
        let callee = t.child(t.parent(arguments)?, Field::Callee).filter(|c| t.role(*c) == Role::Member)?;
        let method = s.str(t.child(callee, Field::Member)?);
        let each = [
            "All",
            "Any",
            "Count",
            "Exists",
            "Find",
            "FindAll",
            "FindIndex",
            "First",
            "FirstOrDefault",
            "ForEach",
            "Last",
            "LastOrDefault",
            "OrderBy",
            "OrderByDescending",
            "RemoveAll",
            "Select",
            "Single",
            "SingleOrDefault",
            "Sum",
            "TrueForAll",
            "Where",
            "Max",
            "Min",
            "Average",
            "GroupBy",
            "ToDictionary",
            "SkipWhile",
            "TakeWhile",
        ];
        let one = t
            .child(lambda, Field::Parameters)
            .is_some_and(|l| t.subtree(l).filter(|n| t.role(*n) == Role::Name).count() <= 1);
        let of = self.value(t.child(callee, Field::Object)?);
        if one && each.contains(&method) { self.element(of).known() } else { None }
    }
}
