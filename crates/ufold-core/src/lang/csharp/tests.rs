//! What C#'s names reach, what types values have, and what evaluating does.

use std::sync::Arc;

use super::CSharp;
use crate::lang::{Doing, Semantics, Typing};
use crate::names::{Source, Use};
use crate::tree::{Field, NodeId, Role};

fn source(text: &str) -> Source {
    let s = Source::new("Main.cs", Arc::from(text), &CSharp, None).expect("it can be parsed");
    assert!(s.tree.errors().is_empty(), "{text}");
    s
}

/// In a method of a class with a few members.
fn method(code: &str) -> Source {
    source(&format!(
        "using System;\nusing System.Collections.Generic;\nclass Ship {{ public string Name {{ get; set; }} public int Length; \
         public List<Ship> Near() {{ return null; }} }}\nclass Desk {{ int berth; int Fee {{ get {{ return berth; }} }}\n\
         void Run(Ship ship, List<string> names, Dictionary<string, int> rows, int n, double d, uint u, byte b, int[] all)\n\
         {{ {code} }} }}"
    ))
}

/// The type of what `Ask(…)` is given.
fn asked(code: &str) -> Option<String> {
    let s = method(code);
    let t = &s.tree;
    let call = t.ids().find(|n| t.role(*n) == Role::Call && s.str(*n).starts_with("Ask("))?;
    let value = t.children(t.child(call, Field::Arguments)?).next()?;
    let none = |_: &Source, _: &str| None;
    CSharp.spell(CSharp.type_of(&s, value, &none), &s, &none)
}

#[test]
fn types_of_values() {
    for (code, expected) in [
        ("Ask(1);", Some("int")),
        ("Ask(1L + n);", Some("long")),
        ("Ask(n + d);", Some("double")),
        ("Ask(b + b);", Some("int")),
        ("Ask(u + n);", None),
        ("Ask(4000000000);", None),
        ("Ask(0x10);", Some("int")),
        ("Ask(1.5m);", Some("decimal")),
        ("Ask('a');", Some("char")),
        ("Ask(\"a\" + n);", Some("string")),
        ("Ask($\"a{n}\");", Some("string")),
        ("Ask(n > 2 && d < 3);", Some("bool")),
        ("Ask(names[0]);", Some("string")),
        ("Ask(names[0][1]);", Some("char")),
        ("Ask(rows[\"a\"]);", Some("int")),
        ("Ask(all[1]);", Some("int")),
        ("Ask(all.Length);", Some("int")),
        ("Ask(names.Count);", Some("int")),
        ("Ask(names.Count());", Some("int")),
        ("Ask(names.Contains);", None),
        ("Ask(ship.Name.Trim().Length);", Some("int")),
        ("Ask(ship.Near());", Some("List<Ship>")),
        ("Ask(ship.Near()[0].Name);", Some("string")),
        ("Ask(ship.Crew);", None),
        ("Ask(berth);", Some("int")),
        ("Ask(this.berth);", Some("int")),
        ("Ask(Fee);", Some("int")),
        ("Ask(Math.Max(n, 2));", Some("int")),
        ("Ask(Math.Max(n, d));", Some("double")),
        ("Ask((long)n);", Some("long")),
        ("Ask(ship as Ship);", Some("Ship")),
        ("Ask(typeof(Ship));", Some("Type")),
        ("Ask(new Ship());", Some("Ship")),
        ("Ask(new int[3]);", Some("int[]")),
        ("Ask(new[] { \"a\" });", Some("string[]")),
        ("Ask(ship ?? ship);", Some("Ship")),
        ("Ask(ship?.Length);", Some("int?")),
        ("Ask(ship?.Name);", Some("string")),
        ("Ask(1 + ship?.Name);", Some("string")),
        ("Ask(ship?.Near()?.Count == 2);", Some("bool")),
        ("Ask(names?[0]);", None),
        ("Ask(n > 2 ? 1 : n);", Some("int")),
        ("Ask(n > 2 ? 1 : d);", None),
        ("Ask(-u);", None),
        ("Ask(null);", None),
        ("var x = names; Ask(x);", Some("List<string>")),
        ("foreach (var x in names) Ask(x);", Some("string")),
        ("foreach (var x in rows) Ask(x.Value);", Some("int")),
        ("int? x = 3; Ask(x);", Some("int?")),
        ("int? x = 3; Ask(x.Value);", Some("int")),
        ("if (int.TryParse(\"1\", out var x)) Ask(x);", Some("int")),
        ("object o = n; if (o is Ship x) Ask(x);", Some("Ship")),
        ("names.Find(x => Ask(x));", Some("string")),
        ("dynamic x = n; Ask(x);", None),
        ("var x = new { A = 1 }; Ask(x);", None),
    ] {
        assert_eq!(asked(code).as_deref(), expected, "{code}");
    }
}

#[test]
fn what_evaluating_does() {
    for (code, expected) in [
        ("Ask(n * 2 + 1);", Doing::Nothing),
        ("Ask(n / 2);", Doing::MayThrow),
        ("Ask(checked(n) + 1);", Doing::Nothing),
        ("Ask(ship + ship);", Doing::Anything),
        ("Ask(ship == null);", Doing::MayThrow),
        ("Ask(names.Count);", Doing::MayThrow),
        ("Ask(this.berth);", Doing::MayThrow),
        ("Ask(this.Fee);", Doing::Anything),
        ("Ask(ship.Name);", Doing::Anything),
        ("Ask((int)d);", Doing::MayThrow),
        ("Ask(!(n > 2));", Doing::Nothing),
    ] {
        let s = method(code);
        let t = &s.tree;
        let call = t.ids().find(|n| t.role(*n) == Role::Call && s.str(*n).starts_with("Ask(")).expect("a call");
        let value = t.children(t.child(call, Field::Arguments).expect("a list")).next().expect("a value");
        assert_eq!(CSharp.doing(&s, value), expected, "{code}");
    }
}

/// How `x` is used at each of its places, with whether others share it.
fn uses(code: &str) -> (String, bool) {
    let s = method(code);
    let of = |n: NodeId| s.names.at(n).filter(|_| s.str(n) == "x");
    let all: Vec<_> = s.tree.ids().filter_map(of).collect();
    let letters = all.iter().map(|r| match r.usage {
        Use::Read => 'r',
        Use::Write => 'w',
        Use::Update => 'u',
        Use::Delete => 'd',
    });
    let shared = all.iter().filter_map(|r| r.target).any(|b| s.names.binding(b).is_shared);
    (letters.collect(), shared)
}

#[test]
fn uses_of_variables() {
    for (code, expected, shared) in [
        ("int x = 1; n = x;", "wr", false),
        ("int x; x = 2; x += 3; x++;", "wuu", false),
        ("int x; int.TryParse(\"1\", out x);", "w", false),
        ("int.TryParse(\"1\", out int x); n = x;", "wr", false),
        ("int x = 1; Ask(ref x);", "wu", false),
        ("int x = 1; ref int y = ref x;", "wr", true),
        ("(int x, int y) = (1, 2); n = x;", "wr", false),
        ("int x = 1, y = 2; (x, y) = (y, x);", "wwr", false),
        ("var (x, y) = (1, 2); n = x;", "wr", false),
        ("foreach (var x in all) { n = x; }", "wr", false),
        ("Func<int, int> f = x => x + 1;", "wr", false),
        ("try { } catch (Exception x) { Ask(x); }", "wr", false),
        ("object o = n; switch (o) { case Ship x when x.Length > 1: break; }", "wr", false),
        ("var q = from x in all where x > 1 select x;", "wrr", false),
        ("Point x = new Point(); x.X = 3;", "wr", true),
        ("Point x = new Point(); n = x.X;", "wr", false),
        ("Ship x = new Ship(); x.Length = 3;", "wr", false),
        ("var o = new Ship { Name = \"x\" };", "", false),
    ] {
        assert_eq!(uses(code), (expected.to_string(), shared), "{code}");
    }
}
