//! Scopes by what each use of a name reaches: `name@line` to the line of its first word, `-` for none.

use crate::lang;
use crate::names::{Names, Source, Use};
use crate::tree::Role;

fn source(text: &str) -> Source {
    Source::new("quay.js", text.into(), lang::by_name("javascript").unwrap(), None).unwrap()
}

/// What the uses of a name reach, in order.
fn reached(text: &str, name: &str) -> Vec<String> {
    let s = source(text);
    let of = |r: &crate::names::Reference| match r.target {
        Some(b) => format!("{}>{}", s.line(r.node), s.line(s.names.binding(b).first)),
        None => format!("{}>-", s.line(r.node)),
    };
    s.names.references.iter().filter(|r| s.str(r.node) == name).map(of).collect()
}

#[test]
fn blocks_have_variables_of_their_own() {
    let text = "let n = 1;\nif (n) {\n  const n = 2;\n  use(n);\n}\nuse(n);";
    assert_eq!(reached(text, "n"), ["1>1", "2>1", "3>3", "4>3", "6>1"]);
}

#[test]
fn var_belongs_to_the_function() {
    let text = "function f() {\n  if (a) {\n    var n = 2;\n  }\n  return n;\n}\nuse(n);";
    assert_eq!(reached(text, "n"), ["3>3", "5>3", "7>-"]);
    let s = source(text);
    let binding = s.names.bindings.iter().find(|b| b.name == "n").unwrap();
    assert!(binding.hoisted && s.names.frame(binding.scope) == binding.scope);
}

#[test]
fn a_bare_var_gives_no_value_and_a_bare_let_does() {
    let writes = |text: &str| {
        let s = source(text);
        s.names.references.iter().filter(|r| r.usage == Use::Write).count()
    };
    assert_eq!((writes("var n;"), writes("let n;"), writes("var n = 1;")), (0, 1, 1));
}

#[test]
fn loops_and_handlers_are_blocks() {
    assert_eq!(reached("for (let i = 0; i < 3; i++) use(i);\nuse(i);", "i"), ["1>1", "1>1", "1>1", "1>1", "2>-"]);
    assert_eq!(reached("try { f(); } catch (e) {\n  use(e);\n}\nuse(e);", "e"), ["1>1", "2>1", "4>-"]);
}

#[test]
fn patterns_bind_values_and_not_keys() {
    let text = "const { a, b: { c = a }, ...rest } = row;\nuse(a, b, c, rest);";
    assert_eq!(reached(text, "a"), ["1>1", "1>1", "2>1"]);
    assert_eq!(reached(text, "b"), ["2>-"]);
    assert_eq!(reached(text, "rest"), ["1>1", "2>1"]);
}

#[test]
fn a_word_that_is_key_and_value_reads_the_value() {
    let s = source("const a = 1;\nuse({ a });");
    let pair = s.tree.ids().find(|n| s.tree.role(*n) == Role::Pair).unwrap();
    let roles: Vec<Role> = s.tree.children(pair).map(|c| s.tree.role(c)).collect();
    assert_eq!(roles, [Role::MemberName, Role::Name]);
}

#[test]
fn arrows_see_the_object_around_them_and_functions_have_their_own() {
    let text = "class A {\n  m() {\n    return [() => this, function () {\n      return this;\n    }];\n  }\n}";
    // the first word of an object is its function
    assert_eq!(reached(text, "this"), ["3>2", "4>3"]);
}

#[test]
fn functions_are_there_from_the_start_of_their_block() {
    let s = source("use(f);\nfunction f() {}");
    let f = s.names.in_module("f").unwrap();
    assert!(s.names.binding(f).hoisted && s.names.binding(f).writes == 1);
    assert_eq!(reached("const f = function g() {\n  g();\n};\ng();", "g"), ["1>1", "2>1", "4>-"]);
}

#[test]
fn imports_of_both_kinds_bind() {
    let text = "import d, { a as b } from './x.js';\nconst { c } = require('./y');\nconst e = require('./z').f;";
    let s = source(text);
    let import = |name: &str| {
        let i = s.names.binding(s.names.in_module(name).unwrap()).import.clone().unwrap();
        format!("{}:{}", i.module, i.member.unwrap_or_default())
    };
    assert_eq!([import("d"), import("b"), import("c"), import("e")], ["./x.js:default", "./x.js:a", "./y:c", "./z:f"]);
    assert_eq!(s.names.scopes.iter().filter(|x| x.parent.is_none()).count(), 1, "{:?}", Names::MODULE);
}

#[test]
fn a_file_is_written_in_its_own_habits() {
    let style = |text: &str| super::style::Style::of(&source(text));
    let bare = style("const a = \"x\"\nuse(a)\n");
    assert!(!bare.semicolons && bare.quote == '"');
    let other = style("const a = 'x';\nuse(\n  a,\n);\n");
    assert!(other.semicolons && other.quote == '\'' && other.trailing_commas);
}
