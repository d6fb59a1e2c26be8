//! Types of the last expression of a text, and where they stay unknown.

use super::types::{spell, type_of};
use crate::lang;
use crate::names::Source;
use crate::tree::Role;

/// The type of the argument of the call of `ask`.
fn asked(text: &str) -> Option<String> {
    let s = Source::new("kiosk.ts", text.into(), lang::by_name("typescript").unwrap(), None).unwrap();
    assert!(s.tree.errors().is_empty(), "{text}");
    let calls = s.tree.ids().filter(|n| s.tree.role(*n) == Role::Arguments);
    let of_ask = |n: &crate::tree::NodeId| s.text[..s.tree.span(*n).start].ends_with("ask");
    let argument = calls.into_iter().find(of_ask).and_then(|a| s.tree.children(a).next()).expect("ask(…)");
    let definitions = |s: &Source, name: &str| {
        let first = s.names.binding(s.names.in_module(name)?).first;
        let copy = Source::new(&s.path, s.text.clone(), s.lang, None).ok()?;
        Some((copy.into(), s.tree.parent(first)?))
    };
    spell(type_of(&s, argument, argument, &definitions), &s, &definitions)
}

#[test]
fn types_that_are_found() {
    let ship = "interface Ship { name: string; length?: number; calls: Call[] }\ninterface Call { berth: string }\n";
    for (text, expected) in [
        ("ask(1);", "number"),
        ("ask('a' + 1);", "string"),
        ("ask(2 * 3);", "number"),
        ("ask(!x);", "boolean"),
        ("ask(`a${x}`);", "string"),
        ("function f(a: Ship[]) { ask(a); }", "Ship[]"),
        ("function f(a?: string) { ask(a); }", "string | undefined"),
        ("function f(a: Ship) { ask(a.name); }", "string"),
        ("function f(a: Ship) { ask(a.length); }", "number | undefined"),
        ("function f(a: Ship) { ask(a.calls[0].berth); }", "string"),
        ("function f(a: Ship[]) { for (const s of a) ask(s); }", "Ship"),
        ("function f(a: Ship[]) { a.map((s) => ask(s)); }", "Ship"),
        ("function f(a: Ship[]) { a.map((s, i) => ask(i)); }", "number"),
        ("function f(a: Set<Ship>) { for (const s of a) ask(s); }", "Ship"),
        ("function f(a: Ship) { const { name: n } = a; ask(n); }", "string"),
        ("function f(a: Ship) { const b = a; ask(b); }", "Ship"),
        ("function f(a: unknown) { ask(a as Ship); }", "Ship"),
        ("function g(): Ship { throw 1; }\nask(g());", "Ship"),
        ("class Box { m() { ask(this); } }", "Box"),
        ("ask(new Map<string, number>());", "Map<string, number>"),
        ("async function f(a: Promise<Ship>) { ask(await a); }", "Ship"),
        ("function f(a: string[]) { ask(a.length); }", "number"),
        ("function f(a: string) { ask(a.trim().split(',')); }", "string[]"),
        ("function f(a: string | null) { if (a) { ask(a); } }", "string"),
        ("function f(a: string | null) { if (!a) return; ask(a); }", "string"),
        ("function f(a: string | null) { if (a) { g(); } ask(a); }", "string | null"),
        ("function f(a?: Ship) { if (a === undefined || a.name === '') throw 1; ask(a); }", "Ship"),
        ("function f(a: string | number) { if (typeof a === 'string') ask(a); }", "string"),
        ("function f(a: string | number) { if (typeof a === 'string') return; ask(a); }", "number"),
        ("function f(a: Ship | Ship[]) { if (Array.isArray(a)) ask(a); }", "Ship[]"),
        ("function f(a: unknown) { if (a instanceof Error) ask(a.message); }", "string"),
        ("function f(a: Ship) { if (a.length) ask(a.length); }", "number"),
        ("function f(a: Map<string, Ship>) { for (const [k, v] of a) ask(v); }", "Ship"),
        ("function f(a: Ship[]) { ask(a.map((s) => s.name)); }", "string[]"),
        ("function f(a: Ship[]) { ask(a.reduce((n, s) => n + s.calls.length, 0)); }", "number"),
        ("function f(a: Ship[]) { ask(a.find((s) => s.name)); }", "Ship | undefined"),
        ("function f(a?: Ship) { ask(a?.name); }", "string | undefined"),
        ("function f(a?: Ship) { ask(a?.name ?? ''); }", "string"),
        ("interface Box { open?(): Ship }\nfunction f(b: Box) { ask(b.open?.()); }", "Ship | undefined"),
        ("function g(n: number) { return n * 2; }\nask(g(1));", "number"),
        ("ask({ a: 1 });", "{ a: number }"),
        ("function f(a: { b: string }) { ask(a?.b); }", "string"),
        ("const side = 'port'; ask(side);", "'port'"),
        ("function f([n, s]: [number, string]) { ask(s); }", "string"),
        ("function f({ calls: [first] }: Ship) { ask(first); }", "Call"),
        ("class Box<T> { v: T; }\nfunction f(b: Box<Ship>) { ask(b.v); }", "Ship"),
        ("class A { n = 1 } class B extends A {}\nfunction f(b: B) { ask(b.n); }", "number"),
        ("function f(a: (n: number) => Ship) { ask(a(1)); }", "Ship"),
        ("function f(a: Record<string, Ship>) { ask(Object.entries(a)); }", "[string, Ship][]"),
    ] {
        assert_eq!(asked(&format!("{ship}{text}")).as_deref(), Some(expected), "{text}");
    }
}

#[test]
fn types_that_are_not() {
    for text in [
        "ask(load());",
        "function f(a: string | null) { if (check(a)) { ask(a); } }",
        "function f(a: string | null) { if (!a) return; g(() => ask(a)); }",
        "function f(a: string | null, b: boolean) { if (b) { if (!a) return; } ask(a); }",
        "function f(a: string | null) { assertIsThere(a); ask(a); }",
        "function f(a: string | null) { const there = a !== null; if (there) ask(a); }",
        "function f(a: (string | null)[]) { ask(a.filter((x) => x)); }",
        "function f(a: Kinds) { if (a.kind === 'x') ask(a); }\nimport { Kinds } from 'kinds';",
        "let a: string | number = 1;\na = 'x';\nask(a);",
        "class Box<T> { m() { ask(this); } }",
        "ask({ ...a });",
        "type Now<T> = T | Promise<T>;\nasync function f(a: Now<Ship>) { ask(await a); }",
        "ask(new Map());",
    ] {
        assert_eq!(asked(text), None, "{text}");
    }
}
