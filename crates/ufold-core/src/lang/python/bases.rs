//! Python classes and the classes above them.

use crate::lang::{Bases, ConstructorParts};
use crate::names::Source;
use crate::text::Edit;
use crate::tree::{Field, NodeId, Role};

pub struct Classes;

impl Bases for Classes {
    fn class(&self, _like: &Source, name: &str, members: &str, _open: bool) -> String {
        format!("class {name}:\n{members}")
    }

    fn extended(&self, s: &Source, class: NodeId, base: &str) -> Option<Edit> {
        let t = &s.tree;
        let Some(list) = t.child(class, Field::Bases) else {
            let end = t.child(class, Field::TypeParams).or(t.child(class, Field::Name)).map(|n| t.span(n).end)?;
            return Some(Edit::new(end, end, format!("({base})")));
        };
        let named: Vec<NodeId> = t.children(list).filter(|c| t.role(*c) != Role::Token).collect();
        match named[..] {
            [] => Some(Edit::new(t.span(list).start, t.span(list).end, format!("({base})"))),
            [one] if self.is_no_base(s.str(one)) => Some(Edit::new(t.span(one).start, t.span(one).end, base)),
            [first, ..] => Some(Edit::new(t.span(first).start, t.span(first).start, format!("{base}, "))),
        }
    }

    fn is_no_base(&self, name: &str) -> bool {
        name == "object"
    }

    fn answering(&self) -> &'static [&'static str] {
        &["__getattr__", "__getattribute__"]
    }

    fn value_of_class(&self, _like: &Source, name: &str, value: &str) -> Option<(String, bool)> {
        Some((format!("{name} = {value}"), false))
    }

    fn value_name(&self, words: &[String]) -> String {
        words.join("_").to_uppercase()
    }

    fn constructor(&self, p: &ConstructorParts) -> String {
        format!("{}def __init__({}):\n{}", p.indent, p.parameters.join(", "), p.body)
    }

    fn call_above(&self, _like: &Source, arguments: &[String]) -> String {
        format!("super().__init__({})", arguments.join(", "))
    }

    fn is_call_above(&self, s: &Source, statement: NodeId) -> bool {
        s.str(statement).starts_with("super().__init__(")
    }

    fn must_call_above(&self) -> bool {
        false
    }

    fn inherits_constructors(&self) -> bool {
        true
    }

    fn is_constructor(&self, s: &Source, function: NodeId) -> bool {
        s.tree.child(function, Field::Name).is_some_and(|n| s.str(n) == "__init__")
    }

    fn is_of_class(&self, s: &Source, member: NodeId) -> bool {
        s.tree.role(s.tree.definition_in(member)) != Role::Function
    }

    fn opened(&self, _s: &Source, _member: NodeId, _named_below: bool) -> Option<Vec<Edit>> {
        Some(Vec::new())
    }

    fn stays(&self, s: &Source, member: NodeId) -> Option<&'static str> {
        let t = &s.tree;
        let inner = t.definition_in(member);
        let name = t.child(inner, Field::Name).map_or("", |n| s.str(n));
        const HOOKS: &[&str] = &[
            "__new__",
            "__init_subclass__",
            "__class_getitem__",
            "__set_name__",
            "__getattr__",
            "__getattribute__",
            "__setattr__",
            "__delattr__",
            "__del__",
            "__prepare__",
            "__subclasshook__",
        ];
        if HOOKS.contains(&name) {
            return Some("the language calls this one of its own class");
        }
        let assigned = t.subtree(member).find(|n| t.field(*n) == Field::Left).map_or("", |n| s.str(n));
        if assigned.starts_with("__") {
            return Some("this has a meaning for its own class");
        }
        // what is only declared has no value that could be inherited
        let value = t
            .subtree(member)
            .any(|n| t.field(n) == Field::Right && t.parent(n).is_some_and(|p| t.role(p) == Role::Assign));
        (t.role(inner) != Role::Function && !value).then_some("this declares a member of its own class")
    }

    fn is_closed(&self, s: &Source, class: NodeId) -> Option<&'static str> {
        let t = &s.tree;
        let list = t.child(class, Field::Bases);
        if list.is_some_and(|l| t.children(l).any(|c| t.role(c) == Role::KeywordArg)) {
            return Some("a class of its own makes this class");
        }
        const ALONE: &[&str] = &["NamedTuple", "TypedDict", "Protocol", "Structure", "Union"];
        let named = list.map_or(Vec::new(), |l| t.children(l).collect());
        if named
            .into_iter()
            .any(|n| ALONE.iter().any(|w| s.str(n).split('[').next().is_some_and(|x| x.rsplit('.').next() == Some(w))))
        {
            return Some("what this class extends makes it from its own body, and takes no other base");
        }
        let slots = t.child(class, Field::Body).is_some_and(|b| {
            t.children(b).filter(|c| t.role(*c) == Role::ExprStmt).any(|c| s.str(c).starts_with("__slots__"))
        });
        slots.then_some("the class lists the members that its objects may have")
    }

    fn together(&self) -> &'static [&'static str] {
        &["__eq__", "__hash__"]
    }

    fn every_object_has(&self, name: &str) -> bool {
        name.starts_with("__") && name.ends_with("__")
    }

    fn must_be_given(&self, _s: &Source, _member: NodeId) -> bool {
        false
    }

    fn runs_when_made(&self, _s: &Source, _member: NodeId) -> bool {
        true
    }

    fn shares_defaults(&self) -> bool {
        true
    }

    fn keeps_order(&self) -> bool {
        false
    }

    fn nothing(&self) -> &'static str {
        "pass"
    }

    fn own_listing_words(&self) -> &'static [&'static str] {
        &["vars", "__dict__"]
    }

    fn asking_words(&self) -> &'static [&'static str] {
        &["__bases__", "__base__", "__mro__", "mro", "getmro", "__subclasses__"]
    }
}
