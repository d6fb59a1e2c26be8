//! What names reach, and types that are found.

use crate::lang;
use crate::names::Source;
use crate::tree::Role;

fn source(text: &str) -> Source {
    let s = Source::new("port/Desk.java", text.into(), lang::by_name("java").expect("known"), None).expect("parses");
    assert!(s.tree.errors().is_empty(), "the case does not parse: {text}");
    s
}

/// Each name of the text with the line of what binds it (`free` for none) and `!` where it is bound there.
fn resolved(text: &str) -> String {
    let s = source(text);
    let mut out = Vec::new();
    for r in &s.names.references {
        let to = r.target.map_or("free".to_string(), |b| s.line(s.names.binding(b).first).to_string());
        out.push(format!("{}{}:{to}", s.str(r.node), if r.usage.writes() { "!" } else { "" }));
    }
    out.join(" ")
}

#[test]
fn scoping_rules() {
    for (text, expected) in [
        ("class A {\n int x;\n int x() { return x + x(); } }", "A!:1 x!:2 x!:3 x:2 x:3"),
        (
            "class A {\n int x;\n void f(int x) {\n g(x); }\n void g(int y) {} }",
            "A!:1 x!:2 f!:3 x!:3 g:5 x:3 g!:5 y!:5",
        ),
        ("class A {\n int n;\n class B {\n int m() { return n; } } }", "A!:1 n!:2 B!:3 m!:4 n:2"),
        (
            "class A { void f(Object o) {\n if (o instanceof String s) {\n s.trim(); } } }",
            "A!:1 f!:1 Object:free o!:1 o:1 String:free s!:2 s:2",
        ),
        (
            "class A { void f() {\n for (int i = 0; i < 3; i++) {}\n for (int i : x()) g(i); } }",
            "A!:1 f!:1 i!:2 i:2 i!:2 i!:3 x:free g:free i:3",
        ),
        (
            "import java.util.List;\nclass A { List<A> all = List.of(); }",
            "java.util.List!:1 A!:2 List:1 A:2 all!:2 List:1",
        ),
        (
            "class A { void f() {\n try { g(); } catch (RuntimeException e) { h(e); } } }",
            "A!:1 f!:1 g:free RuntimeException:free e!:2 h:free e:2",
        ),
        (
            "class A {\n int n;\n int f() {\n n += 1;\n int n = this.n;\n return n; } }",
            "A!:1 n!:2 f!:3 n!:2 n!:5 this:3 n:5",
        ),
        ("class A { Runnable r(int a) {\n return () -> g(a); } }", "A!:1 Runnable:free r!:1 a!:1 g:free a:1"),
        ("record P(int x) { int twice() { return x * 2; } }", "P!:1 x!:1 twice!:1 x:1"),
        ("enum E { A, B; E next() { return this == A ? B : A; } }", "E!:1 A!:1 B!:1 E:1 next!:1 this:1 A:1 B:1 A:1"),
    ] {
        assert_eq!(resolved(text), expected, "{text}");
    }
}

/// The type of the argument of the call of `ask`.
fn asked(text: &str) -> Option<String> {
    let s = source(text);
    let calls = s.tree.ids().filter(|n| s.tree.role(*n) == Role::Arguments);
    let of_ask = |n: &crate::tree::NodeId| s.text[..s.tree.span(*n).start].ends_with("ask");
    let argument = calls.into_iter().find(of_ask).and_then(|a| s.tree.children(a).next()).expect("ask(…)");
    let none = |_: &Source, _: &str| None;
    s.lang.spell(s.lang.type_of(&s, argument, &none), &s, &none)
}

#[test]
fn types_that_are_found() {
    for (parameters, code, expected) in [
        ("", "ask(1)", "int"),
        ("", "ask(1L)", "long"),
        ("", "ask('a' + 1)", "int"),
        ("", "ask(1.5f)", "float"),
        ("", "ask(\"a\" + 1)", "String"),
        ("", "ask(0xFF)", "int"),
        ("byte b", "ask(b + b)", "int"),
        ("long n, int k", "ask(n << k)", "long"),
        ("int k, double d", "ask(k * d)", "double"),
        ("Integer k", "ask(-k)", "int"),
        ("Object o", "ask((String) o)", "String"),
        ("String s", "ask(s.trim().length())", "int"),
        ("int[][] g", "ask(g[0])", "int[]"),
        ("int[] g", "ask(g.length)", "int"),
        ("java.util.List<String> l", "ask(l.get(0))", "String"),
        ("List<Ship> l", "ask(l.get(0).name)", "String"),
        ("Map<String, List<Ship>> m", "for (List<Ship> x : m.values()) ask(x)", "List<Ship>"),
        ("Map<String, Ship> m", "for (var e : m.entrySet()) ask(e.getValue())", "Ship"),
        ("Ship s", "ask(s.next().next())", "Ship"),
        ("Ship s", "var t = s; ask(t)", "Ship"),
        ("int a, int b", "ask(a > b ? a : b)", "int"),
        ("int a, long b", "ask(Math.max(a, b))", "long"),
        ("", "ask(new Ship())", "Ship"),
        ("", "ask(new int[3])", "int[]"),
        ("", "ask(own())", "double"),
        ("String... all", "ask(all)", "String[]"),
        ("Object o", "if (o instanceof Ship s) ask(s)", "Ship"),
        ("", "try { own(); } catch (RuntimeException e) { ask(e.getMessage()); }", "String"),
        ("Kind k", "ask(Kind.OPEN)", "Kind"),
    ] {
        let text = format!(
            "import java.util.*;\nclass Desk {{ double own() {{ return 1; }} void f({parameters}) {{ {code}; }}\n\
             static class Ship {{ String name; Ship next() {{ return this; }} }} enum Kind {{ OPEN }} }}"
        );
        assert_eq!(asked(&text).as_deref(), Some(expected), "{code}");
    }
}

#[test]
fn types_that_are_not() {
    for (parameters, code) in [
        ("", "ask(null)"),
        ("", "ask(List.of(1))"),
        ("", "ask(new ArrayList<>())"),
        ("int a, long b", "ask(a > 0 ? a : b)"),
        ("", "ask(elsewhere())"),
        ("", "ask(() -> 1)"),
        ("List l", "ask(l.get(0))"),
        ("Object o", "ask(o.getClass())"),
    ] {
        let text = format!("import java.util.*;\nclass Desk {{ void f({parameters}) {{ {code}; }} }}");
        assert_eq!(asked(&text), None, "{code}");
    }
}
