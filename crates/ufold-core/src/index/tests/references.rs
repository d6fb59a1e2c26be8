//! References of a name: the words that a rename changes are those that are marked, and what it assumes or refuses is
//! told with its code and place.

use super::{differs, none};
use crate::change::{Place, Verdict};
use crate::memory::MarkedProject;
use crate::step::{RenameRequest, Step};
use crate::text::Span;

/// Codes with `file:line`; of a refused one behind `no:`.
fn check(text: &str, told: &[&str]) -> Option<String> {
    let marked = MarkedProject::new(text);
    let (file, span) = marked.word;
    let (path, code) = &marked.files[file];
    let line = code[..span.start].matches('\n').count() + 1;
    let (start_byte, end_byte) = (span.start, span.end);
    let place = Place { file: path.clone(), start_line: line, end_line: line, start_byte, end_byte };
    let request = RenameRequest { finding: "it".into(), place, name: "renamed".into() };
    let result = marked.ask(|project, _, _| request.plan(project)).result;
    let refused = if result.verdict == Verdict::Refused { "no:" } else { "" };
    let mut found: Vec<String> =
        result.reasons.iter().map(|r| format!("{refused}{} {}:{}", r.code, r.file, r.line)).collect();
    found.dedup();
    if found != told || result.verdict == Verdict::Refused {
        return differs(text, found, told);
    }
    let mut words: Vec<(usize, Span)> = Vec::new();
    for f in &result.files {
        let at = marked.files.iter().position(|(p, _)| *p == f.file).expect("a file of the project");
        words.extend(f.edits.iter().map(|e| (at, e.span)));
    }
    let shown = |all: &[(usize, Span)]| {
        let one = |(f, s): &(usize, Span)| {
            let (path, code) = &marked.files[*f];
            format!("{path}:{}:{}", code[..s.start].matches('\n').count() + 1, &code[s.start..s.end])
        };
        let mut all: Vec<(usize, Span)> = all.to_vec();
        all.sort();
        all.iter().map(|w| (one(w), w.1.start)).collect::<Vec<_>>()
    };
    differs(text, shown(&words), shown(&marked.all))
}

#[test]
fn names_of_a_python_file() {
    let rows = [
        ("--- a.py\ndef ‹net›(x):\n    return x\nprint(«net»(1))\ndef f(net):\n    return net\n", &[] as &[&str]),
        ("--- a.py\n‹fee› = 3\ndef f():\n    return «fee»\ndef g():\n    fee = 4\n    return fee\n", &[]),
        (
            "--- a.py\nfee = 3\ndef g():\n    ‹fee› = 4\n    def h():\n        nonlocal «fee»\n        «fee» += 1\n    h()\n    return «fee»\nprint(fee)\n",
            &[],
        ),
        ("--- a.py\n‹count› = 0\ndef f():\n    global «count»\n    «count» += 1\n", &[]),
        ("--- a.py\nrows = [1]\nprint([‹row› for «row» in rows], [row for row in rows])\n", &[]),
        ("--- a.py\ndef f(‹tons›, rate=1):\n    return «tons» * rate\nprint(f(«tons»=2), f(3))\n", &[]),
        ("--- a.py\nclass A:\n    rate = 2\n    def f(self):\n        return «rate»\n‹rate› = 3\n", &[]),
        ("--- a.py\ntry:\n    import fees as ‹f›\nexcept ImportError:\n    «f» = None\nprint(«f»)\n", &[]),
        ("--- a.py\nmatch 3:\n    case ‹n› if «n» > 2:\n        print(«n»)\n", &[]),
        ("--- a.py\nif (‹n› := 3) > 2:\n    print(«n», f'{«n»:>{«n»}}')\n", &[]),
    ];
    none(rows.into_iter().map(|(text, told)| check(text, told)));
}

#[test]
fn names_of_python_modules() {
    let fees = "--- fees.py\ndef ‹net›(x):\n    return x\n";
    let rows = [
        ("--- main.py\nfrom fees import «net»\nprint(«net»(1))\n", &[] as &[&str]),
        ("--- main.py\nfrom fees import «net» as n\nprint(n(1))\n", &[]),
        ("--- main.py\nimport fees\nprint(fees.«net»(1))\n", &[]),
        ("--- main.py\nimport fees as f\nprint(f.«net»(1))\nclass A:\n    net = 1\nprint(A.net)\n", &[]),
        ("--- main.py\nfrom fees import *\nprint(net(1))\n", &["no:imports-all main.py:1"]),
        ("--- main.py\ndef f():\n    from fees import «net»\n    return «net»(1)\n", &[]),
        ("--- main.py\nfrom other import «net»\nprint(«net»)\n--- other.py\nfrom fees import «net» as «net»\n", &[]),
        // nobody knows which names are asked for
        ("--- main.py\nimport fees, sys\nprint(getattr(fees, sys.argv[1])(1))\n", &["looked-up main.py:2"]),
        ("--- main.py\nimport fees\nprint(getattr(fees, «'net'»)(1))\n", &["looked-up main.py:2"]),
        ("--- main.py\nimport fees\nprint(vars(fees)['ne' + 't'](1))\n", &["looked-up main.py:2"]),
        ("--- main.py\nfrom unittest import mock\nwith mock.patch(«'fees.net'»):\n    pass\n", &[]),
    ];
    none(rows.into_iter().map(|(more, told)| check(&format!("{fees}{more}"), told)));
}

#[test]
fn members_of_python_classes() {
    let berth = "--- berth.py\nclass Berth:\n    def ‹due›(self):\n        return 1\n    def all(self):\n        return self.«due»()\n";
    let rows = [
        ("", &[] as &[&str]),
        ("--- main.py\nfrom berth import Berth\nprint(Berth().«due»())\n", &[]),
        (
            "--- main.py\nfrom berth import Berth\nclass Quay(Berth):\n    def «due»(self):\n        return super().«due»()\n",
            &[],
        ),
        ("--- main.py\nclass Ship:\n    def due(self):\n        return 2\nprint(Ship().due())\n", &[]),
        // whose object it is can't be told
        ("--- main.py\ndef f(x):\n    return x.«due»()\n", &["member-by-name main.py:2"]),
        ("--- main.py\nprint(operator.attrgetter(«'due'»))\n", &["member-by-name main.py:1"]),
    ];
    none(rows.into_iter().map(|(more, told)| check(&format!("{berth}{more}"), told)));
}

#[test]
fn names_of_javascript() {
    let rows = [
        (
            "--- a.js\nfunction ‹net›(x) { return x; }\n{ const net = 2; console.log(net); }\nconsole.log(«net»(1));\n",
            &[] as &[&str],
        ),
        ("--- a.js\nfor (const ‹n› of [1]) { console.log(«n»); }\nvar n = 2;\n", &[]),
        ("--- a.js\nconst { fee: ‹due›, ...rest } = { fee: 1 };\nconsole.log({ fee: «due» }, rest);\n", &[]),
        ("--- a.js\nlet ‹n› = 1;\nconst f = () => «n»++;\nfunction g(n) { return n; }\nf(); g(«n»);\n", &[]),
        ("--- a.js\nlabel: for (;;) { const ‹label› = 1; console.log(«label»); break label; }\n", &[]),
        ("--- a.js\nfunction f() { console.log(typeof «n»); var ‹n› = 1; return «n»; }\nf();\n", &[]),
        (
            "--- main.mjs\nimport { «net» } from './fees.mjs';\nconsole.log(«net»(1));\n--- fees.mjs\nexport function ‹net›(x) { return x; }\n",
            &[],
        ),
        (
            "--- main.mjs\nimport { «net» as n } from './fees.mjs';\nn(1);\n--- fees.mjs\nexport const ‹net› = (x) => x;\n",
            &[],
        ),
        (
            "--- main.mjs\nimport * as fees from './fees.mjs';\nfees.«net»(1);\n--- fees.mjs\nexport function ‹net›(x) { return x; }\n",
            &[],
        ),
        (
            "--- main.mjs\nimport { net } from './all.mjs';\nnet(1);\n--- all.mjs\nexport { «net» as net } from './fees.mjs';\n--- fees.mjs\nexport function ‹net›(x) { return x; }\n",
            &[],
        ),
        (
            "--- main.js\nconst { net } = require('./fees');\nnet(1);\n--- fees.js\nfunction ‹net›(x) { return x; }\nmodule.exports = { «net» };\n",
            &[],
        ),
    ];
    none(rows.into_iter().map(|(text, told)| check(text, told)));
}

#[test]
fn types_and_values_of_typescript() {
    let rows = [
        (
            "--- a.ts\ntype ‹Fee› = number;\nfunction f(n: «Fee»): «Fee» { const Fee = 1; const due: «Fee» = Fee * n; return due; }\n",
            &[] as &[&str],
        ),
        (
            "--- a.ts\ntype Fee = number;\nfunction f(n: Fee): Fee { const ‹Fee› = 1; const due: Fee = «Fee» * n; return due; }\n",
            &[],
        ),
        (
            "--- a.ts\ninterface ‹Berth› { n: number }\nconst «Berth» = { make(): «Berth» { return { n: 1 }; } };\nconst b: «Berth» = «Berth».make();\n",
            &[],
        ),
        ("--- a.ts\nfunction first<‹T›>(T: «T»[]): «T» { return T[0]; }\n", &[]),
        ("--- a.ts\nconst ‹fee› = 1;\nlet due: typeof «fee» = «fee»;\n", &[]),
        (
            "--- a.ts\nclass ‹Berth› {}\nconst b: «Berth» = new «Berth»();\nfunction f(Berth: number) { const c: «Berth» = b; return [c, Berth]; }\n",
            &[],
        ),
    ];
    none(rows.into_iter().map(|(text, told)| check(text, told)));
}

#[test]
fn names_of_java() {
    let rows = [
        ("--- A.java\nclass A { int fee = 1; int f() { int ‹fee› = 2; return «fee» + this.fee; } }\n", &[] as &[&str]),
        (
            "--- A.java\nclass A { private int ‹fee› = 1; int f() { return «fee» + this.«fee»; } int g(int fee) { return fee; } }\n",
            &[],
        ),
        (
            "--- A.java\nclass A { private int ‹due›(int n) { return n; } private int «due»(String s) { return 1; } int g() { return «due»(3) + «due»(\"\"); } }\n",
            &[],
        ),
        (
            "--- A.java\nclass A { int ‹due›() { return 1; } }\nclass B extends A { @Override int «due»() { return super.«due»(); } }\nclass C { int due() { return 3; } }\n",
            &[],
        ),
        (
            "--- port/A.java\npackage port;\nclass A { static int ‹due›() { return 1; } }\n--- port/B.java\npackage port;\nclass B { int g() { return A.«due»(); } }\n",
            &[],
        ),
        (
            "--- A.java\nclass A { void f() { Runnable r = () -> { int ‹n› = 1; System.out.println(«n»); }; r.run(); int n = 2; } }\n",
            &[],
        ),
    ];
    none(rows.into_iter().map(|(text, told)| check(text, told)));
}
