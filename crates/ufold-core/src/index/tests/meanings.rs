//! What a word means in its file: a name of a file, a module, something from outside, or nobody can say.

use super::{differs, none};
use crate::index::{Entity, ancestry};
use crate::memory::MarkedProject;

fn meaning(text: &str) -> String {
    let marked = MarkedProject::new(text);
    let path = |f: usize| marked.files[f].0.clone();
    marked.ask(|project, s, word| match project.origin(&project.entity(s, s.str(word))) {
        Entity::Builtin(name) => format!("the language's {name}"),
        Entity::Member(f, name) => format!("{} {name}", path(f)),
        Entity::Module(f) => path(f),
        Entity::Foreign(module, name) => format!("outside {module} {name}").trim_end().to_string(),
        Entity::Unknown(f, name) => format!("unknown in {}: {name}", path(f)),
    })
}

#[test]
fn words_of_python_files() {
    let fees = "--- fees.py\ndef net(x):\n    return x\nRATE = 2\n--- port/__init__.py\nfrom .tides import high\n--- port/tides.py\nhigh = 1\nlow = 2\n";
    let rows = [
        ("print(‹len›)", "the language's len"),
        ("len = 3\nprint(‹len›)", "main.py len"),
        ("from fees import net\nprint(‹net›)", "fees.py net"),
        ("from fees import net as n\nprint(‹n›)", "fees.py net"),
        ("import fees\nprint(‹fees›)", "fees.py"),
        ("from port import high\nprint(‹high›)", "port/tides.py high"),
        ("from port import tides\nprint(‹tides›)", "port/tides.py"),
        ("from port.tides import low\nprint(‹low›)", "port/tides.py low"),
        ("from fees import *\nprint(‹RATE›)", "unknown in main.py: RATE"),
        ("from os import path\nprint(‹path›)", "outside os path"),
        ("import json as j\nprint(‹j›)", "outside json"),
        ("print(‹net›)", "unknown in main.py: net"),
        ("from elsewhere import *\nprint(‹net›)", "unknown in main.py: net"),
        ("from fees import missing\nprint(‹missing›)", "fees.py missing"),
    ];
    none(
        rows.into_iter()
            .map(|(main, expected)| differs(main, meaning(&format!("--- main.py\n{main}\n{fees}")), expected)),
    );
}

#[test]
fn words_of_javascript_files() {
    let rest = "--- fees.mjs\nexport function net(x) { return x; }\nexport { tide as high } from './tides.mjs';\nexport * from './tides.mjs';\nexport default 3;\n--- tides.mjs\nexport let tide = 1;\nexport const low = 2;\n--- old.cjs\nexports.due = 1;\n";
    let rows = [
        ("console.log(‹Math›);", "the language's Math"),
        ("import { net } from './fees.mjs';\n‹net›(1);", "fees.mjs net"),
        ("import { high } from './fees.mjs';\nconsole.log(‹high›);", "tides.mjs tide"),
        ("import { low } from './fees.mjs';\nconsole.log(‹low›);", "tides.mjs low"),
        ("import * as fees from './fees.mjs';\nconsole.log(‹fees›);", "fees.mjs"),
        ("import fee from './fees.mjs';\nconsole.log(‹fee›);", "fees.mjs default"),
        ("import { join } from 'node:path';\n‹join›('a');", "outside node:path join"),
        ("const net = 1;\nconsole.log(‹net›);", "main.mjs net"),
    ];
    none(
        rows.into_iter()
            .map(|(main, expected)| differs(main, meaning(&format!("--- main.mjs\n{main}\n{rest}")), expected)),
    );
}

/// The classes above the marked one, itself first.
fn above(text: &str) -> Vec<String> {
    MarkedProject::new(text).ask(|project, s, word| {
        let class = s.tree.parent(word).expect("in its class");
        let chain = ancestry::of(project, s, class);
        let name = |c: &ancestry::Ancestor| {
            let word = c.source.tree.child(c.node, crate::tree::Field::Name).expect("it has a name");
            format!("{}:{}", c.source.path, c.source.str(word))
        };
        chain.iter().map(name).collect()
    })
}

#[test]
fn classes_that_a_class_extends() {
    let rows = [
        ("--- a.py\nclass ‹A›:\n    pass\n", &["a.py:A"] as &[&str]),
        (
            "--- a.py\nfrom b import B\nclass ‹A›(B):\n    pass\n--- b.py\nclass C:\n    pass\nclass B(C):\n    pass\n",
            &["a.py:A", "b.py:B", "b.py:C"],
        ),
        ("--- a.py\nimport b\nclass ‹A›(b.B):\n    pass\n--- b.py\nclass B:\n    pass\n", &["a.py:A"]),
        // two of the project's own: which of them gives a member is not told by one chain
        ("--- a.py\nclass B:\n    pass\nclass C:\n    pass\nclass ‹A›(B, C):\n    pass\n", &["a.py:A"]),
        ("--- a.py\nclass ‹A›(Exception):\n    pass\n", &["a.py:A"]),
        ("--- a.js\nclass B {}\nclass ‹A› extends B {}\n", &["a.js:A", "a.js:B"]),
        ("--- a.js\nclass B {}\nclass ‹A› extends mixed(B) {}\n", &["a.js:A"]),
        (
            "--- port/A.java\npackage port;\nclass ‹A› extends B {}\n--- port/B.java\npackage port;\nclass B extends sea.C {}\n",
            &["port/A.java:A", "port/B.java:B"],
        ),
        ("--- A.java\nclass ‹A› extends B<String> {}\nclass B<T> {}\n", &["A.java:A", "A.java:B"]),
        // without its argument it hands down other types
        ("--- A.java\nclass ‹A› extends B {}\nclass B<T> {}\n", &["A.java:A"]),
        ("--- A.java\nclass ‹A› implements B {}\ninterface B {}\n", &["A.java:A"]),
    ];
    none(rows.into_iter().map(|(text, expected)| differs(text, above(text), expected)));
}
