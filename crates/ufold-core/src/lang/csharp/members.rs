//! The class that declares what a word names.
//!
//! A class is known by its name space and the classes around it. What a class has that is in no file, or of which two
//! files have a part, is unknown: never another one's for sure.

use super::classes::{class_word, is_interface_name, is_sure};
use super::library::LIBRARY;
use super::types::{Home, Types};
use crate::lang::MemberOf;
use crate::names::Space;
use crate::tree::{Field, NodeId, Role};
use crate::types::{Kind, Ty};

impl<'a> Types<'a> {
    /// A class as a type by which it is known everywhere.
    pub fn of_class(self, class: NodeId) -> Ty {
        let (s, t) = (self.s, &self.s.tree);
        let around = std::iter::once(class).chain(t.ancestors(class)).filter(|a| t.role(*a) == Role::Class);
        let mut names: Vec<&str> = around.filter_map(|c| t.child(c, Field::Name)).map(|n| s.str(n)).collect();
        // of several the last one before it
        let before = || t.ids().take_while(|n| *n < class).filter(|n| t.role(*n) == Role::Doc && t.is_outermost(*n));
        let last =
            || before().last().map_or("", |n| s.str(n).trim_start_matches("namespace").trim_end_matches(';').trim());
        names.push(s.name_spaces().and_then(|x| x.own.as_deref()).unwrap_or_else(last));
        names.reverse();
        Ty::named(&names.join("."), Vec::new())
    }

    /// The class that the type of a value names.
    pub fn class(self, of_it: Ty) -> Option<(Home<'a>, NodeId)> {
        let (s, t) = (self.s, &self.s.tree);
        let Kind::Named { name, only_in: Some(path), .. } = of_it.kind() else { return None };
        if path != s.path {
            return None;
        }
        // with its name space, or the class around it, before it
        let simple = name.rsplit('.').next().unwrap_or(&name);
        let own = s.names.in_module_as(Space::Types, simple).or_else(|| self.nested(simple));
        let (home, class) = match own {
            Some(b) => (Home::Own(s), t.parent(s.names.binding(b).first)?),
            None => (self.definitions)(s, &name)
                .or_else(|| (self.definitions)(s, simple))
                .map(|(home, node)| (Home::Other(home), node))?,
        };
        let there = home.source();
        let is_class = there.tree.role(class) == Role::Class;
        let fits = simple == name || {
            let full = self.there(there).of_class(class);
            matches!(full.kind(), Kind::Named { name: full, .. } if full == name || full.ends_with(&format!(".{name}")))
        };
        (is_class && fits).then_some((home, class))
    }

    /// Those that a class extends, as types by which they are known everywhere.
    pub fn above(self, class: NodeId) -> Vec<Ty> {
        let known = |of_it: Ty| match self.class(of_it) {
            Some((home, node)) => self.there(home.source()).of_class(node),
            None => of_it,
        };
        self.bases(class).into_iter().map(known).collect()
    }

    fn bases(self, class: NodeId) -> Vec<Ty> {
        let t = &self.s.tree;
        let list = t.child(class, Field::Bases).map_or(Vec::new(), |l| t.children(l).collect());
        let is_type = |n: &NodeId| matches!(t.role(*n), Role::Name | Role::Type);
        list.into_iter().filter(is_type).map(|n| self.of_node(n)).collect()
    }

    /// A constant of an enumeration or of a class, by the name of that; a type as a value.
    pub fn is_constant(self, path: NodeId) -> bool {
        let (s, t) = (self.s, &self.s.tree);
        if t.role(path) == Role::UnaryOp {
            return s.str(path).starts_with("typeof");
        }
        let Some((object, member)) = t.child(path, Field::Object).zip(t.child(path, Field::Member)) else {
            return false;
        };
        let word = s.str(member);
        if t.role(path) != Role::Member || !self.is_type(object) {
            return false;
        }
        let of_it = self.owner(object);
        let everyday = ["MaxValue", "MinValue", "NaN", "PositiveInfinity", "NegativeInfinity", "Epsilon"];
        match of_it.kind() {
            Kind::Primitive(w) => w != "string" && everyday.contains(&word),
            Kind::Named { only_in: None, .. } => LIBRARY.is_enum(of_it),
            _ => self.class(of_it).is_some_and(|(home, node)| {
                let h = home.source();
                let own = h.names.scope_of(node).and_then(|x| h.names.declared_as(x, Space::Values, word));
                let declared = own.and_then(|b| h.tree.parent(h.names.binding(b).first));
                let around = |p: NodeId| if h.tree.role(p) == Role::Assign { h.tree.parent(p) } else { Some(p) };
                let field = declared.and_then(around).filter(|d| h.tree.role(*d) == Role::ClassField);
                let of_enum = class_word(h, node) == "enum";
                field.is_some_and(|f| of_enum || super::has_word(h, f, "const"))
            }),
        }
    }

    /// Whether a class may have a member of that name from those that it extends, or from a part of it in another file; an
    /// interface gives none to those who promise it.
    pub fn may_inherit(self, class: NodeId, name: &str) -> bool {
        let Some(d) = self.deeper() else { return true };
        super::has_word(self.s, class, "partial")
            || d.bases(class).into_iter().any(|base| match (d.class(base), base.kind()) {
                (Some((home, node)), _) => {
                    let there = d.there(home.source());
                    let declares = |x| there.s.names.declared_in(x, name).is_some();
                    class_word(there.s, node) != "interface"
                        && (there.s.names.scope_of(node).is_some_and(declares) || there.may_inherit(node, name))
                }
                (None, Kind::Named { name, .. }) => !is_interface_name(name.rsplit('.').next().unwrap_or("")),
                _ => true,
            })
    }

    pub fn member_named(self, word: NodeId) -> MemberOf {
        let (s, t) = (self.s, &self.s.tree);
        let Some(parent) = t.parent(word) else { return MemberOf::Other };
        let name = s.str(word);
        if t.role(word) == Role::MemberName {
            return match t.role(parent) {
                Role::Member if t.field(word) == Field::Member => self.declaring(self.taken_from(parent), name),
                Role::Pair => {
                    let made = t.parent(parent).and_then(|l| t.parent(l)).filter(|c| t.role(*c) == Role::Call);
                    made.map_or(MemberOf::Unknown, |c| self.declaring(self.value(c), name))
                }
                Role::Function => MemberOf::Other,
                _ => MemberOf::Unknown,
            };
        }
        let Some(r) = s.names.at(word) else { return MemberOf::Other };
        match r.target {
            Some(b) if s.names.binding(b).space == Space::Types => MemberOf::Other,
            Some(b) if s.names.is_member(b) => {
                let class = s.names.scope(s.names.binding(b).scope).node;
                if is_sure(s, word) { MemberOf::Class(self.of_class(class)) } else { self.member_around(word, name) }
            }
            Some(_) => MemberOf::Other,
            None if r.is_type() => MemberOf::Other,
            None => self.member_around(word, name),
        }
    }

    /// The type of the object of a member.
    fn taken_from(self, member: NodeId) -> Ty {
        let t = &self.s.tree;
        let Some(object) = t.child(member, Field::Object) else { return Ty::UNKNOWN };
        if self.s.str(object) == "base" {
            let class = t.ancestor(object, &[Role::Class]);
            return class.and_then(|c| self.bases(c).first().copied()).unwrap_or(Ty::UNKNOWN);
        }
        self.owner(object)
    }

    /// A bare name as a member of the innermost class around it that has or inherits one.
    pub fn member_around(self, word: NodeId, name: &str) -> MemberOf {
        let t = &self.s.tree;
        let around = t.ancestors(word).filter(|a| t.role(*a) == Role::Class);
        let found = around.map(|class| self.in_class(class, name));
        found.into_iter().find(|f| *f != MemberOf::Other).unwrap_or(MemberOf::Other)
    }

    fn declaring(self, of_it: Ty, name: &str) -> MemberOf {
        let Some(d) = self.deeper() else { return MemberOf::Unknown };
        match of_it.kind() {
            Kind::Nullable(inner) => d.declaring(inner, name),
            Kind::Array(_) | Kind::Primitive(_) | Kind::Named { only_in: None, .. } => MemberOf::Other,
            _ => match d.class(of_it) {
                Some((home, node)) => d.there(home.source()).in_class(node, name),
                None => MemberOf::Unknown,
            },
        }
    }

    fn in_class(self, class: NodeId, name: &str) -> MemberOf {
        let s = self.s;
        if s.names.scope_of(class).is_some_and(|x| s.names.declared_as(x, Space::Values, name).is_some()) {
            return MemberOf::Class(self.of_class(class));
        }
        if super::has_word(s, class, "partial") {
            return MemberOf::Unknown;
        }
        self.above_has(class, name)
    }

    /// The same of those that a class extends.
    pub fn above_has(self, class: NodeId, name: &str) -> MemberOf {
        let found: Vec<MemberOf> = self.bases(class).into_iter().map(|b| self.declaring(b, name)).collect();
        let known = found.iter().find(|f| matches!(f, MemberOf::Class(_)));
        known.or(found.iter().find(|f| **f == MemberOf::Unknown)).copied().unwrap_or(MemberOf::Other)
    }

    /// The class of that name which stands in one of those that the classes around a place extend.
    pub fn class_above_place(self, place: NodeId, name: &str) -> MemberOf {
        let t = &self.s.tree;
        let within =
            |c: &NodeId| t.role(*c) == Role::Class && t.child(*c, Field::Body).is_some_and(|b| t.contains(b, place));
        let all: Vec<MemberOf> = t.ancestors(place).filter(within).map(|c| self.nested_above(c, name)).collect();
        all.into_iter().find(|f| *f != MemberOf::Other).unwrap_or(MemberOf::Other)
    }

    fn nested_above(self, class: NodeId, name: &str) -> MemberOf {
        let Some(d) = self.deeper() else { return MemberOf::Unknown };
        if super::has_word(self.s, class, "partial") {
            return MemberOf::Unknown;
        }
        let of_base = |base: Ty| match (d.class(base), base.kind()) {
            (Some((home, node)), _) => {
                let h = home.source();
                let own = h.names.scope_of(node).and_then(|x| h.names.declared_as(x, Space::Types, name));
                if own.is_some() {
                    MemberOf::Class(d.there(h).of_class(node))
                } else {
                    d.there(h).nested_above(node, name)
                }
            }
            (None, Kind::Named { name: base, only_in, .. }) => {
                let library = only_in.is_none() && LIBRARY.any_class(&base).is_some() && name != "Enumerator";
                let none = library || is_interface_name(base.rsplit('.').next().unwrap_or(""));
                if none { MemberOf::Other } else { MemberOf::Unknown }
            }
            _ => MemberOf::Unknown,
        };
        let all: Vec<MemberOf> = d.bases(class).into_iter().map(of_base).collect();
        all.into_iter().find(|f| *f != MemberOf::Other).unwrap_or(MemberOf::Other)
    }
}
