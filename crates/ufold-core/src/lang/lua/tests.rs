//! What Lua's names reach, and what the tree is read as.

use super::Lua;
use crate::lang::Scoping;
use crate::names::Names;
use crate::tree::{Field, Tree, parse};

fn read(text: &str) -> (Tree, Names) {
    let tree = parse(text, &Lua).unwrap();
    assert!(tree.errors().is_empty(), "{text}");
    let names = Lua.names(&tree, text);
    (tree, names)
}

/// Each use of `x` with the line of what it reaches, `0` for a global.
fn reached(text: &str) -> Vec<usize> {
    let (tree, names) = read(text);
    let line = |at: usize| text[..at].matches('\n').count() + 1;
    let uses = names.references.iter().filter(|r| tree.text(r.node, text) == "x" && r.usage.reads());
    uses.map(|r| r.target.map_or(0, |b| line(tree.span(names.binding(b).first).start))).collect()
}

#[test]
fn a_name_reaches_the_local_that_is_in_sight() {
    for (text, expected) in [
        ("print(x)\nlocal x = 1\nprint(x)", vec![0, 2]),
        ("local x = x", vec![0]),
        ("local x = 1\nlocal x = x + 1\nprint(x)", vec![1, 2]),
        ("local x = 1\ndo local x = 2 print(x) end\nprint(x)", vec![2, 1]),
        ("local function x() return x end", vec![1]),
        ("local x = function() return x end", vec![0]),
        ("for x = 1, 3 do print(x) end print(x)", vec![1, 0]),
        ("for x in pairs(x) do print(x) end", vec![0, 1]),
        ("repeat local x = f()\nuntil x", vec![1]),
        ("local x, y = y, x", vec![0]),
        ("local function f() return x end\nlocal x", vec![0]),
        ("local x\nlocal f = function() return x end\nlocal x = 2\nreturn x", vec![1, 3]),
        ("local _, _, x = f()\nprint(x)", vec![1]),
        ("function f(x) return x end", vec![1]),
        ("x = 1 print(x) function g() return x end", vec![0, 0]),
    ] {
        assert_eq!(reached(text), expected, "{text}");
    }
}

/// The roles of a text's nodes, each with what it is to its parent.
fn shape(text: &str) -> String {
    let (tree, _) = read(text);
    let word = |n| match tree.field(n) {
        Field::None => format!("{:?}", tree.role(n)),
        field => format!("{field:?}:{:?}", tree.role(n)),
    };
    tree.ids().skip(1).map(word).collect::<Vec<_>>().join(" ")
}

#[test]
fn statements_have_a_node_of_their_own() {
    for (text, expected) in [
        ("f(x)", "ExprStmt Call Callee:Name Arguments:Arguments Name"),
        ("f 'x';", "ExprStmt Call Callee:Name Arguments:Arguments Literal"),
        ("a = 1", "ExprStmt Assign Left:Name Right:Literal"),
        ("a, b = 1, 2", "ExprStmt Assign Left:Pattern Name Name Right:Values Literal Literal"),
        ("local a", "Declare Token Assign Left:Name"),
        ("local a <const> = 1", "Declare Token Assign Left:Name Token Token KeywordName Token Right:Literal"),
        (
            "function m:f() return g() end",
            "ExprStmt Assign Left:Member Object:Name Token Member:MemberName Right:Function Parameters:Parameters \
             Body:Block Return Call Callee:Name Arguments:Arguments",
        ),
        ("for i = 1, n do end", "For Left:Name Right:Other Literal Name"),
        ("for k, v in f() do end", "For Left:Pattern Name Name Right:Call Callee:Name Arguments:Arguments"),
        ("return { 1, a = 2 }", "Return Dict Literal Pair Key:MemberName Value:Literal"),
        ("return t[k], { 1 }", "Return Values Index Object:Name Index:Name List Literal"),
        ("::on:: goto on", "JumpTarget Label Jump Label"),
    ] {
        assert_eq!(shape(text), expected, "{text}");
    }
}
