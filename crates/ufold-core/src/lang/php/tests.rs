//! What PHP's names reach, and what the tree is read as.

use super::Php;
use crate::lang::{Scoping, Syntax};
use crate::names::{Names, Use};
use crate::tree::{Field, Role, Tree, parse};

fn read(text: &str) -> (String, Tree, Names) {
    let text = format!("<?php\n{text}");
    let tree = parse(&text, &Php).unwrap();
    assert!(tree.errors().is_empty(), "{text}");
    let names = Php.names(&tree, &text);
    (text, tree, names)
}

/// Each place of `$x` with the line of the first place of what it reaches, `0` for none.
fn reached(text: &str) -> Vec<usize> {
    let (text, tree, names) = read(text);
    let line = |at: usize| text[..at].matches('\n').count();
    let uses = names.references.iter().filter(|r| tree.text(r.node, &text) == "$x");
    uses.map(|r| r.target.map_or(0, |b| line(tree.span(names.binding(b).first).start))).collect()
}

#[test]
fn a_variable_belongs_to_its_function() {
    for (code, expected) in [
        ("$x = 1;\nfunction f() { return $x; }", vec![1, 2]),
        ("$x = 1;\nfunction f() { global $x; return $x; }", vec![1, 1]),
        ("function f($x) {\nif ($x) { $x = 2; } return $x; }", vec![1, 1, 1, 1]),
        ("function f($x) {\n$g = function () { $x = 1; }; }", vec![1, 2]),
        ("function f($x) {\n$g = function () use ($x) { return $x; }; }", vec![1, 1, 1]),
        ("function f($x) {\n$g = fn() => $x; }", vec![1, 1]),
        ("function f($x) {\n$g = fn($x) => $x; }", vec![1, 2, 2]),
        ("function f() {\n$g = fn() => $x; }", vec![2]),
        ("class A { function f($x) {\nreturn new class { function g() { return $x; } }; } }", vec![1, 2]),
        ("foreach ($all as $x) { echo $x; }\necho $x;", vec![1, 1, 1]),
        ("['a' => $x] = $y;\necho \"$x\";", vec![1, 1]),
    ] {
        assert_eq!(reached(code), expected, "{code}");
    }
}

/// Whether `$x` is written by a line, and whether others share it.
#[test]
fn writes_through_indexes_and_references_are_writes() {
    for (code, writes, shared) in [
        ("echo $x;", false, false),
        ("$x['a'][] = 1;", true, false),
        ("$x->a['b'] = 1;", false, false),
        ("unset($x['a']);", true, false),
        ("sort($x);", true, false),
        ("count($x);", false, false),
        ("preg_match('/a/', 'b', $x);", true, false),
        ("$s->bind_param('i', $x);", true, true),
        ("$y = &$x;", true, true),
        ("$y = [&$x];", true, true),
        ("foreach ($x as $y) { }", false, false),
        ("foreach ($x as &$y) { }", true, true),
        ("foreach ($y as &$x) { }", true, true),
        ("static $x = 1;", true, true),
        ("$g = function () use (&$x) { };", true, true),
        ("$g = function () use ($x) { };", false, false),
    ] {
        let (text, tree, names) = read(&format!("function f() {{\n{code}\n}}"));
        let own = names.references.iter().filter(|r| tree.text(r.node, &text) == "$x");
        let written = own.clone().any(|r| matches!(r.usage, Use::Write | Use::Update | Use::Delete));
        let is_shared = own.filter_map(|r| r.target).any(|b| names.binding(b).is_shared);
        assert_eq!((written, is_shared), (writes, shared), "{code}");
    }
}

/// The roles of a text's nodes, each with what it is to its parent.
fn shape(text: &str) -> String {
    let (_, tree, _) = read(text);
    let word = |n| match tree.field(n) {
        Field::None => format!("{:?}", tree.role(n)),
        field => format!("{field:?}:{:?}", tree.role(n)),
    };
    // without the mark that opens the code
    tree.ids().skip(2).map(word).collect::<Vec<_>>().join(" ")
}

#[test]
fn the_tree_is_that_of_other_languages() {
    for (code, expected) in [
        ("echo $a, 'b';", "ExprStmt Call Callee:Name Arguments:Arguments Other Name Literal"),
        ("$a->f($b);", "ExprStmt Call Callee:Member Object:Name Member:MemberName Arguments:Arguments Name"),
        ("A::f();", "ExprStmt Call Callee:Member Object:Name Token Member:MemberName Arguments:Arguments"),
        ("$a?->b;", "ExprStmt Member Object:Name OptionalMark Member:MemberName"),
        ("$a = $b ?: $c;", "ExprStmt Assign Left:Name Right:BoolOp Left:Name Token Right:Name"),
        ("\"a $b\";", "ExprStmt Template TemplateText Interpolation Name"),
        ("\"a\";", "ExprStmt Literal"),
        ("[1, 2];", "ExprStmt List Literal Literal"),
        ("['a' => 2];", "ExprStmt Dict Pair Key:Literal Token Value:Literal"),
        ("while (1) { break 2; }", "While Condition:Paren Literal Body:Block Jump Literal"),
        ("throw new A(1);", "ExprStmt Raise Call Callee:Name Arguments:Arguments Literal"),
    ] {
        assert_eq!(shape(code), expected, "{code}");
    }
    let (_, tree, _) = read("f(); ?>\n<b>text</b>\n<?= $x ?>");
    let kept = tree.children(Tree::ROOT).filter(|n| tree.role(*n) == Role::FrameName).count();
    assert!(kept >= 2, "text and what is printed there stay where they are");
    assert!(Php.is_identifier("$strlen") && !Php.is_identifier("strlen") && !Php.is_identifier("$this"));
}
