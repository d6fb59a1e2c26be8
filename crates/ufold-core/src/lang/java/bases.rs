//! Java classes and the classes above them.

use super::{has_word, scopes};
use crate::lang::{Bases, ConstructorParts};
use crate::names::Source;
use crate::text::Edit;
use crate::tree::{Field, NodeId, Role};

pub struct Classes;

/// Methods that every object has, and that may be overridden.
const OF_OBJECTS: &[&str] = &["toString", "equals", "hashCode", "clone", "finalize"];

/// Annotations that say nothing to a program that runs.
const SILENT: &[&str] = &["Override", "Deprecated", "SuppressWarnings", "Nullable", "NonNull", "Nonnull", "NotNull"];

/// Marks on a class that only the compiler reads, or that say what a mark is.
const PLAIN_MARKS: &[&str] =
    &["FunctionalInterface", "SafeVarargs", "Documented", "Retention", "Target", "Inherited", "Repeatable"];

impl Bases for Classes {
    fn class(&self, _like: &Source, name: &str, members: &str, open: bool) -> String {
        format!("{}abstract class {name} {{\n{members}}}\n", if open { "public " } else { "" })
    }

    fn extended(&self, s: &Source, class: NodeId, base: &str) -> Option<Edit> {
        let t = &s.tree;
        let extends = t.children(class).any(|c| t.field(c) == Field::Bases && s.str(c).starts_with("extends"));
        let end = t.child(class, Field::TypeParams).or(t.child(class, Field::Name)).map(|n| t.span(n).end)?;
        (!extends && scopes::class_word(s, class) == "class").then(|| Edit::new(end, end, format!(" extends {base}")))
    }

    fn constructor(&self, p: &ConstructorParts) -> String {
        format!("{}protected {}({}) {{\n{}{}}}\n", p.indent, p.class, p.parameters.join(", "), p.body, p.indent)
    }

    fn call_above(&self, _like: &Source, arguments: &[String]) -> String {
        format!("super({});", arguments.join(", "))
    }

    fn is_call_above(&self, s: &Source, statement: NodeId) -> bool {
        ["super(", "this("].iter().any(|w| s.str(statement).starts_with(w))
    }

    fn must_call_above(&self) -> bool {
        false
    }

    fn inherits_constructors(&self) -> bool {
        false
    }

    fn is_constructor(&self, s: &Source, function: NodeId) -> bool {
        let t = &s.tree;
        t.role(function) == Role::Function && t.child(function, Field::ReturnType).is_none()
    }

    fn is_of_class(&self, s: &Source, member: NodeId) -> bool {
        has_word(s, member, "static")
    }

    fn opened(&self, s: &Source, member: NodeId, named_below: bool) -> Option<Vec<Edit>> {
        let t = &s.tree;
        let mut out = Vec::new();
        let private = t.children(member).find(|c| t.role(*c) == Role::Token && s.str(*c) == "private");
        if let Some(n) = private.filter(|_| named_below) {
            out.push(Edit::new(t.span(n).start, t.span(n).end, "protected"));
        }
        let name = t.child(member, Field::Name).map_or("", |n| s.str(n));
        let override_mark = t.children(member).find(|c| t.role(*c) == Role::Decorator && s.str(*c) == "@Override");
        if let Some(n) = override_mark.filter(|_| !OF_OBJECTS.contains(&name)) {
            let end = t.span(n).end;
            let blank = s.text[end..].len() - s.text[end..].trim_start().len();
            out.push(Edit::new(t.span(n).start, end + blank, ""));
        }
        Some(out)
    }

    fn stays(&self, s: &Source, member: NodeId) -> Option<&'static str> {
        let t = &s.tree;
        let known = |n: NodeId| t.child(n, Field::Name).is_some_and(|w| SILENT.contains(&s.str(w)));
        if t.children(member).any(|c| t.role(c) == Role::Decorator && !known(c)) {
            return Some("its annotation may mean something in its own class only");
        }
        if t.child(member, Field::Body).is_none() && t.role(member) == Role::Function || has_word(s, member, "native") {
            return Some("this has no code of its own");
        }
        let one = t.children(member).filter(|c| t.role(*c) == Role::Assign).count();
        (t.role(member) == Role::ClassField && one != 1).then_some("several are declared at once")
    }

    fn kept_over_calls(&self, s: &Source, class: NodeId) -> Option<NodeId> {
        // a class in a function is one class for all calls: its static variables are, and the objects that an enumeration has.
        let t = &s.tree;
        let is_plain = |n: NodeId| matches!(t.role(n), Role::Literal | Role::Token | Role::BinaryOp | Role::UnaryOp);
        let is_kept = |f: &NodeId| {
            // the objects of an enumeration may have bodies of their own
            let mut words = t.ancestors(*f).filter(|c| t.role(*c) == Role::Class && t.contains(class, *c));
            let own = words.next().map_or("", |c| scopes::class_word(s, c));
            let owner = if words.any(|c| scopes::class_word(s, c) == "enum") { "enum" } else { own };
            let fixed = has_word(s, *f, "final") || owner == "interface";
            let value = t.children(*f).find_map(|c| t.child(c, Field::Right));
            let constant = fixed && value.is_some_and(|v| t.subtree(v).all(is_plain));
            let simple = t.child(*f, Field::Type).is_some_and(|n| {
                let written = s.str(n);
                written == "String" || written.starts_with(char::is_lowercase) && !written.contains('[')
            });
            match owner {
                "enum" if t.child(*f, Field::Type).is_none() && !has_word(s, *f, "static") => false,
                "enum" if !has_word(s, *f, "static") => !(fixed && simple),
                "interface" => !constant,
                _ => has_word(s, *f, "static") && !constant,
            }
        };
        let fields = t.subtree(class).filter(|n| t.role(*n) == Role::ClassField && t.role(class) == Role::Class);
        fields.into_iter().find(is_kept)
    }

    fn shows_its_path(&self, s: &Source, class: NodeId) -> bool {
        // what is thrown says its class; a class of another file may be one of these
        let t = &s.tree;
        let names = t.children(class).filter(|c| t.field(*c) == Field::Bases);
        let of = |b: NodeId| t.subtree(b).filter(|n| t.role(*n) == Role::Name).last();
        let told = |n: NodeId| ["Exception", "Error", "Throwable"].iter().any(|w| s.str(n).ends_with(w));
        let mut bases = names.filter(|b| s.str(*b).starts_with("extends")).filter_map(of);
        bases.any(|n| told(n) || s.names.at(n).is_none_or(|r| r.target.is_none()))
    }

    fn would_be_shared(&self, s: &Source, member: NodeId) -> bool {
        // one variable, or one lock, for all classes
        let variable = s.tree.role(member) == Role::ClassField && !has_word(s, member, "final");
        has_word(s, member, "static") && (variable || has_word(s, member, "synchronized"))
    }

    fn is_closed(&self, s: &Source, class: NodeId) -> Option<&'static str> {
        let plain = scopes::class_word(s, class) == "class";
        if plain { self.keeps_to_itself(s, class) } else { Some("this is no plain class") }
    }

    fn keeps_to_itself(&self, s: &Source, class: NodeId) -> Option<&'static str> {
        let t = &s.tree;
        let lombok = |n: NodeId| {
            t.role(n) == Role::Decorator && s.str(n) != "@Deprecated" && !s.str(n).starts_with("@SuppressWarnings")
        };
        if t.children(class).any(lombok) {
            return Some("its annotations may mean its own members");
        }
        let open = ["interface", "annotation"].contains(&scopes::class_word(s, class));
        open.then_some("what an interface declares is open without a word")
    }

    fn at_top(&self, s: &Source, class: NodeId) -> Vec<Edit> {
        let t = &s.tree;
        let word = t.children(class).find(|c| t.role(*c) == Role::Token && s.str(*c) == "static");
        let rest = |n: NodeId| s.text[t.span(n).end..].len() - s.text[t.span(n).end..].trim_start().len();
        word.map(|n| Edit::new(t.span(n).start, t.span(n).end + rest(n), "")).into_iter().collect()
    }

    fn is_of_its_package(&self, s: &Source, class: NodeId) -> Option<&'static str> {
        let t = &s.tree;
        let says = |w: &str| t.children(class).any(|c| s.str(c).split_whitespace().next() == Some(w));
        if ["sealed", "non-sealed", "permits"].into_iter().any(says) {
            return Some("a sealed class and those that it permits stand in one package");
        }
        let native = |n: &NodeId| t.role(*n) == Role::Function && has_word(s, *n, "native");
        t.subtree(class).any(|n| native(&n)).then_some("code in another language names it by its package")
    }

    fn is_found_from_outside(&self, s: &Source, class: NodeId) -> Option<(NodeId, &'static str)> {
        let t = &s.tree;
        let known = |w: &str| SILENT.contains(&w) || PLAIN_MARKS.contains(&w);
        let quiet = |n: NodeId| t.child(n, Field::Name).is_some_and(|w| known(s.str(w)));
        if let Some(n) = t.children(class).find(|c| t.role(*c) == Role::Decorator && !quiet(*c)) {
            return Some((n, "what reads this annotation finds the class in its new package, too"));
        }
        let main = self.starts_a_program(s, class);
        main.map(|f| (f, "nobody starts this by the name of the class, or by its new one"))
    }

    fn starts_a_program(&self, s: &Source, class: NodeId) -> Option<NodeId> {
        let t = &s.tree;
        let main = |f: &NodeId| {
            let named = t.child(*f, Field::Name).is_some_and(|n| s.str(n) == "main");
            t.role(*f) == Role::Function && named && has_word(s, *f, "static")
        };
        t.child(class, Field::Body).and_then(|b| t.children(b).find(main))
    }

    fn package_words(&self) -> &'static [&'static str] {
        &["getResource", "getResourceAsStream", "getPackage", "getPackageName"]
    }

    fn package_lists(&self) -> &'static [&'static str] {
        &["module-info.java"]
    }

    fn comment_links(&self) -> &'static [&'static str] {
        &["@link", "@linkplain", "@see", "@throws", "@exception", "@value"]
    }

    fn every_object_has(&self, name: &str) -> bool {
        OF_OBJECTS.contains(&name)
    }

    fn must_be_given(&self, s: &Source, member: NodeId) -> bool {
        let t = &s.tree;
        let given = |c: NodeId| t.role(c) == Role::Assign && t.child(c, Field::Right).is_some();
        t.role(member) == Role::ClassField && has_word(s, member, "final") && !t.children(member).any(given)
    }

    fn runs_when_made(&self, _s: &Source, _member: NodeId) -> bool {
        false
    }

    fn keeps_order(&self) -> bool {
        false
    }

    fn own_listing_words(&self) -> &'static [&'static str] {
        &["getDeclaredMethods", "getDeclaredMethod", "getDeclaredFields", "getDeclaredField", "getDeclaredConstructors"]
    }

    fn asking_words(&self) -> &'static [&'static str] {
        &["getSuperclass", "getGenericSuperclass"]
    }
}
