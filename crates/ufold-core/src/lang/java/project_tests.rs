//! What words mean across the files of a project: classes, members, what is inherited, what must be declared.

use crate::index::Project;
use crate::lang::MemberOf;
use crate::memory::MarkedProject;
use crate::names::Source;
use crate::tree::{NodeId, Role};
use crate::types::Kind;

fn asked(text: &str, ask: impl Fn(&Project, &Source, NodeId) -> String) -> String {
    MarkedProject::new(text).ask(|project, s, word| ask(project, s, word))
}

fn told(found: MemberOf) -> String {
    let name = |ty: crate::types::Ty| match ty.kind() {
        Kind::Named { name, .. } => name,
        other => format!("{other:?}"),
    };
    match found {
        MemberOf::Class(c) => name(c),
        MemberOf::Likely(c) => format!("likely {}", name(c)),
        MemberOf::Other => "other".into(),
        MemberOf::Unknown => "unknown".into(),
    }
}

fn class_of_word(text: &str) -> String {
    asked(text, |project, s, word| told(s.lang.class_named(s, word, &|s, name| project.definition(s, name))))
}

const SHIP: &str = "--- port/Ship.java\npackage port;\npublic class Ship { public static class Kind {} }\n";

#[test]
fn classes_that_words_name() {
    for (code, expected) in [
        ("--- port/A.java\npackage port;\nclass A { ‹Ship› s; }", "port.Ship"),
        ("--- port/A.java\npackage port;\nclass A { Object o = new ‹Ship›(); }", "port.Ship"),
        ("--- port/A.java\npackage port;\nclass A { int f() { return ‹Ship›.n; } }", "port.Ship"),
        ("--- port/A.java\npackage port;\nclass A { port.‹Ship› s; }", "port.Ship"),
        ("--- port/A.java\npackage port;\nclass A { Ship.‹Kind› s; }", "port.Ship.Kind"),
        ("--- port/A.java\npackage port;\nclass A<Ship> { ‹Ship› s; }", "other"),
        ("--- port/A.java\npackage port;\nclass A { int Ship; int f() { return ‹Ship›; } }", "other"),
        ("--- port/A.java\npackage port;\nclass A { void Ship() { ‹Ship›(); } }", "other"),
        ("--- port/A.java\npackage port;\nclass A { class Ship {} ‹Ship› s; }", "port.A.Ship"),
        ("--- port/A.java\npackage port;\nclass A extends Ship { ‹Kind› s; }", "port.Ship.Kind"),
        ("--- port/A.java\npackage port;\nclass A extends Ship {} class B { A.‹Kind› s; }", "port.Ship.Kind"),
        ("--- port/A.java\npackage port;\nclass A extends Thread { ‹Ship› s; }", "port.Ship"),
        ("--- port/A.java\npackage port;\nclass A extends frame.Case { ‹Ship› s; }", "likely port.Ship"),
        // its own head does not see what a class inherits
        ("--- port/A.java\npackage port;\nclass A extends frame.Case implements Row<‹Ship›> {}", "port.Ship"),
        ("--- sea/A.java\npackage sea;\nclass A { ‹Ship› s; }", "other"),
        ("--- sea/A.java\npackage sea;\nimport port.‹Ship›;\nclass A {}", "port.Ship"),
        ("--- sea/A.java\npackage sea;\nimport port.Ship;\nclass A { ‹Ship› s; }", "port.Ship"),
        ("--- sea/A.java\npackage sea;\nimport port.*;\nclass A { ‹Ship› s; }", "port.Ship"),
        ("--- sea/A.java\npackage sea;\nimport port.Ship.*;\nclass A { ‹Kind› s; }", "port.Ship.Kind"),
        ("--- sea/A.java\npackage sea;\nimport static port.Ship.*;\nclass A { ‹Kind› s; }", "port.Ship.Kind"),
        ("--- sea/A.java\npackage sea;\nimport yard.*;\nclass A { ‹Ship› s; }", "unknown"),
        ("--- sea/A.java\npackage sea;\nimport port.*;\nclass A { ‹Ship› s; } class Ship {}", "sea.Ship"),
        // a class that stands in another one's file
        (
            "--- port/A.java\npackage port;\nclass A {} class Tug {}\n--- port/B.java\npackage port;\nclass B { ‹Tug› t; }",
            "port.Tug",
        ),
        // what is private is not inherited
        (
            "--- port/A.java\npackage port;\nclass A { private class Ship {} } class B extends A { ‹Ship› s; }",
            "port.Ship",
        ),
        ("--- port/A.java\npackage port;\nclass A { class Ship {} } class B extends A { ‹Ship› s; }", "port.A.Ship"),
        // of a base's base, and of an interface
        (
            "--- port/A.java\npackage port;\ninterface I { class Ship {} } class A implements I {} class B extends A { ‹Ship› s; }",
            "port.I.Ship",
        ),
        ("--- port/A.java\npackage port;\nclass A extends java.util.HashMap<String, Ship> { ‹Entry› e; }", "other"),
    ] {
        assert_eq!(class_of_word(&format!("{SHIP}{code}")), expected, "{code}");
    }
}

fn member_of_word(text: &str) -> String {
    asked(text, |project, s, word| told(s.lang.member_of(s, word, &|s, name| project.definition(s, name))))
}

#[test]
fn classes_that_declare_a_member() {
    let base = "--- port/Base.java\npackage port;\nclass Base { int fee; static final int MOST = 3; int due(int n) { return n; } }\n\
                interface Rates { int LEAST = 2; }\n";
    for (code, expected) in [
        ("class A { int fee; int f() { return ‹fee›; } }", "port.A"),
        ("class A { int fee; int f(int fee) { return ‹fee›; } }", "other"),
        ("class A { int fee; int f(A a) { return a.‹fee›; } }", "port.A"),
        ("class A extends Base { int f() { return ‹fee›; } }", "port.Base"),
        ("class A extends Base { int f() { return ‹due›(2); } }", "port.Base"),
        ("class A extends Base { int f() { return super.‹due›(2); } }", "port.Base"),
        ("class A extends Base { int f() { return this.‹fee›; } }", "port.Base"),
        ("class A extends Base { String f() { return ‹fee›.trim(); } }", "port.Base"),
        ("class A extends Base { Object f() { return (Runnable) ‹fee›::notify; } }", "port.Base"),
        ("class A extends Base { int f() { return A.this.‹fee›; } }", "port.Base"),
        ("class A extends Base implements Rates { int f() { return ‹LEAST› + MOST; } }", "port.Rates"),
        ("class A { int f() { return Base.‹MOST›; } }", "port.Base"),
        ("class A { int f(Base b) { return b.‹due›(1); } }", "port.Base"),
        ("class A { int f() { return new Base().‹due›(1); } }", "port.Base"),
        ("class A { int f(Object o) { return o.‹fee›; } }", "other"),
        ("class A { int f(yard.Crane c) { return c.‹fee›; } }", "other"),
        ("class A { int f() { var b = yard(); return b.‹fee›; } }", "unknown"),
        ("class A { void f(java.util.List<Base> all) { for (Base b : all) b.‹due›(1); } }", "port.Base"),
        ("class A { Base[] all; int f() { return all[0].‹fee›; } }", "port.Base"),
        ("class A extends Base { class In { int f() { return ‹fee›; } } }", "port.Base"),
        ("class A extends Base { class In { int fee; int f() { return ‹fee›; } } }", "port.A.In"),
        ("class A { int fee; class In extends Base { int f() { return ‹fee›; } } }", "port.Base"),
    ] {
        assert_eq!(member_of_word(&format!("{base}--- port/A.java\npackage port;\n{code}")), expected, "{code}");
    }
}

#[test]
fn names_that_a_class_may_have_from_above() {
    let base = "--- port/Base.java\npackage port;\nclass Base { static class Tide {} }\n";
    let above = |text: &str| {
        asked(text, |project, s, word| {
            told(s.lang.class_above_place(s, word, "Tide", &|s, name| project.definition(s, name)))
        })
    };
    for (code, expected) in [
        ("class A { void f() { ‹g›(); } }", "other"),
        ("class A extends Base { void f() { ‹g›(); } }", "port.Base.Tide"),
        ("class A extends Base { class In { void f() { ‹g›(); } } }", "port.Base.Tide"),
        ("class A extends Base { } class B { void f() { ‹g›(); } }", "other"),
        ("class A extends ‹Base› { }", "other"),
        ("class A extends Exception { void f() { ‹g›(); } }", "other"),
        ("class A extends yard.Crane { void f() { ‹g›(); } }", "unknown"),
        ("class A { Object o = new Base() { void f() { ‹g›(); } }; }", "port.Base.Tide"),
    ] {
        assert_eq!(above(&format!("{base}--- port/A.java\npackage port;\n{code}")), expected, "{code}");
    }
}

#[test]
fn classes_whose_objects_show_their_name() {
    let shows = |text: &str| {
        asked(text, |project, s, word| {
            let class = s.tree.ancestor(word, &[Role::Class]).expect("in a class");
            s.lang.shows_its_name(s, class, &|s, name| project.definition(s, name)).to_string()
        })
    };
    let base = "--- port/Bad.java\npackage port;\nclass Bad extends RuntimeException {}\n";
    for (code, expected) in [
        ("class ‹A› { }", "false"),
        ("class ‹A› extends Bad { }", "true"),
        ("class ‹A› extends java.io.IOException { }", "true"),
        ("class ‹A› implements java.io.Serializable { }", "true"),
        ("record ‹A›(int n) { }", "true"),
        ("record ‹A›(int n) { public String toString() { return \"\"; } }", "false"),
        ("enum ‹A› { ONE }", "false"),
        ("class ‹A› implements Comparable<A> { public int compareTo(A a) { return 0; } }", "false"),
    ] {
        assert_eq!(shows(&format!("{base}--- port/A.java\npackage port;\n{code}")), expected, "{code}");
    }
}

/// The exceptions that a function of a block's code must declare.
fn declared(text: &str) -> String {
    asked(text, |project, s, word| {
        let block = s.tree.ancestor(word, &[Role::Block]).expect("in a block");
        match s.lang.declared_exceptions(s, block, s.tree.end(block), &|s, name| project.definition(s, name)) {
            Ok(all) => all.join(" "),
            Err((at, _)) => format!("? {}", s.str(at)),
        }
    })
}

#[test]
fn exceptions_that_must_be_declared() {
    let base = "--- port/Base.java\npackage port;\nimport java.io.*;\nclass Late extends Exception {}\n\
                class Base { void due() throws Late {} void log() throws IOException {} void plain() {} }\n";
    for (code, expected) in [
        ("b.plain(); ‹x› = 1;", ""),
        ("b.due(); ‹x› = 1;", "Late"),
        ("b.due(); b.log(); ‹x› = 1;", "IOException Late"),
        ("try { b.due(); } catch (Late e) { x = 2; } ‹x› = 1;", ""),
        ("try { b.due(); } catch (Exception e) { x = 2; } ‹x› = 1;", ""),
        ("try { b.due(); } catch (RuntimeException e) { x = 2; } ‹x› = 1;", "Late"),
        ("try { b.due(); } catch (Late e) { b.log(); } ‹x› = 1;", "IOException"),
        ("try { b.plain(); } finally { b.due(); } ‹x› = 1;", "Late"),
        ("throw new IllegalStateException(\"‹\" + x›);", ""),
        ("Runnable r = () -> b.plain(); ‹x› = 1;", ""),
        // nothing is known of it: whatever the method around says
        ("yard.lift(); ‹x› = 1;", "IOException Late"),
    ] {
        let code = code.replace("\"‹\" + x›", "\"\" + ‹x›");
        let text = format!(
            "{base}--- port/A.java\npackage port;\nimport java.io.*;\nclass A {{ int x; void f(Base b, yard.Crane yard) throws Late, IOException {{ {code} }} }}"
        );
        let sorted = |found: String| {
            let mut words: Vec<&str> = found.split(' ').collect();
            words.sort_unstable();
            words.join(" ")
        };
        let found = declared(&text);
        assert_eq!(if found.starts_with('?') { found } else { sorted(found) }, expected, "{code}");
    }
}
