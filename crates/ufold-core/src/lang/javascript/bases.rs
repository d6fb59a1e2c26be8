//! Classes of JavaScript and TypeScript, and the classes above them.

use super::style::Style;
use crate::lang::{Bases, ConstructorParts};
use crate::names::Source;
use crate::text::Edit;
use crate::tree::{Field, NodeId, Role};

/// With written types a class that is only there to be extended says so.
pub struct Classes {
    pub typed: bool,
}

fn has_word(s: &Source, member: NodeId, word: &str) -> bool {
    s.tree.children(member).any(|c| s.tree.role(c) == Role::Token && s.str(c) == word)
}

impl Bases for Classes {
    fn class(&self, _like: &Source, name: &str, members: &str, _open: bool) -> String {
        let word = if self.typed { "abstract class" } else { "class" };
        format!("{word} {name} {{\n{members}}}\n")
    }

    fn extended(&self, s: &Source, class: NodeId, base: &str) -> Option<Edit> {
        let t = &s.tree;
        let extends = t.child(class, Field::Bases).is_some_and(|b| s.str(b).trim_start().starts_with("extends"));
        let end = t.child(class, Field::TypeParams).or(t.child(class, Field::Name)).map(|n| t.span(n).end)?;
        (!extends).then(|| Edit::new(end, end, format!(" extends {base}")))
    }

    fn value_of_class(&self, like: &Source, name: &str, value: &str) -> Option<(String, bool)> {
        let (unit, end) = (&like.habits().unit, Style::of(like).end());
        (!self.typed).then(|| (format!("get {name}() {{\n{unit}return {value}{end}\n}}"), true))
    }

    fn value_name(&self, words: &[String]) -> String {
        let upper = |w: &String| w[..1].to_uppercase() + &w[1..];
        words.iter().enumerate().map(|(i, w)| if i == 0 { w.clone() } else { upper(w) }).collect()
    }

    fn constructor(&self, p: &ConstructorParts) -> String {
        format!("{}constructor({}) {{\n{}{}}}\n", p.indent, p.parameters.join(", "), p.body, p.indent)
    }

    fn call_above(&self, like: &Source, arguments: &[String]) -> String {
        format!("super({}){}", arguments.join(", "), Style::of(like).end())
    }

    fn is_call_above(&self, s: &Source, statement: NodeId) -> bool {
        s.str(statement).starts_with("super(")
    }

    fn must_call_above(&self) -> bool {
        true
    }

    fn inherits_constructors(&self) -> bool {
        true
    }

    fn is_constructor(&self, s: &Source, function: NodeId) -> bool {
        let named = s.tree.child(function, Field::Name).is_some_and(|n| s.str(n) == "constructor");
        named && !has_word(s, function, "static")
    }

    fn is_of_class(&self, s: &Source, member: NodeId) -> bool {
        has_word(s, member, "static")
    }

    fn opened(&self, s: &Source, member: NodeId, named_below: bool) -> Option<Vec<Edit>> {
        let t = &s.tree;
        let word = |w: &str| t.children(member).find(|c| t.role(*c) == Role::Token && s.str(*c) == w);
        let mut out = Vec::new();
        if let Some(n) = word("private").filter(|_| named_below) {
            out.push(Edit::new(t.span(n).start, t.span(n).end, "protected"));
        }
        if let Some(n) = word("override") {
            let end = t.span(n).end;
            let blank = s.text[end..].len() - s.text[end..].trim_start().len();
            out.push(Edit::new(t.span(n).start, end + blank, ""));
        }
        Some(out)
    }

    fn stays(&self, s: &Source, member: NodeId) -> Option<&'static str> {
        let t = &s.tree;
        let declares = |n: NodeId| {
            has_word(s, n, "private")
                || has_word(s, n, "public")
                || has_word(s, n, "protected")
                || has_word(s, n, "readonly")
        };
        let list = t.child(member, Field::Parameters);
        if list.is_some_and(|l| t.children(l).any(declares)) {
            return Some("its parameters are members of its own class");
        }
        if t.child(member, Field::Name)
            .or(t.child(member, Field::Member))
            .is_none_or(|n| s.str(n).starts_with(['#', '[']))
        {
            return Some("only its own class can name this");
        }
        (has_word(s, member, "abstract")
            || has_word(s, member, "declare")
            || t.children(member).any(|c| t.role(c) == Role::Decorator))
        .then_some("this says more than its code")
    }

    fn is_closed(&self, s: &Source, class: NodeId) -> Option<&'static str> {
        let t = &s.tree;
        let word = s.str(class);
        (t.child(class, Field::Name).is_none() || word.starts_with("interface") || word.starts_with("enum"))
            .then_some("this is no class with a name of its own")
    }

    fn every_object_has(&self, name: &str) -> bool {
        ["constructor", "toString", "valueOf", "toJSON", "toLocaleString", "hasOwnProperty", "then"].contains(&name)
    }

    fn must_be_given(&self, s: &Source, member: NodeId) -> bool {
        let t = &s.tree;
        let open = |c: NodeId| t.is_leaf(c) && matches!(s.str(c), "?" | "!");
        self.typed
            && t.role(member) == Role::ClassField
            && t.child(member, Field::Value).is_none()
            && !t.children(member).any(open)
    }

    fn runs_when_made(&self, s: &Source, member: NodeId) -> bool {
        s.tree.role(member) == Role::ClassField && self.is_of_class(s, member)
    }

    fn keeps_order(&self) -> bool {
        true
    }

    fn own_listing_words(&self) -> &'static [&'static str] {
        &[
            "getOwnPropertyNames",
            "getOwnPropertyDescriptors",
            "getOwnPropertyDescriptor",
            "ownKeys",
            "hasOwnProperty",
            "hasOwn",
        ]
    }

    fn asking_words(&self) -> &'static [&'static str] {
        &["getPrototypeOf", "__proto__", "isPrototypeOf", "setPrototypeOf"]
    }
}

/// A function that may make objects when it is called, or one that is called to make one.
pub fn is_maker(source: &Source, n: NodeId) -> bool {
    let t = &source.tree;
    if t.role(n).is_callable() {
        let body = t.child(n, Field::Body);
        return body.is_none_or(|b| source.str(b).contains("this") || t.children(b).next().is_none());
    }
    // whoever has it as a value may make objects with it, or give it to them as what made them
    let called = |p: &NodeId| t.role(*p) == Role::Call && t.field(n) == Field::Callee;
    t.parent(n).filter(called).is_none_or(|call| source.lang.is_construction(source.str(call)))
}
