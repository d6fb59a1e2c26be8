use super::*;
use crate::lang;

/// The facts of one file.
pub fn of(path: &str, text: &str) -> FileFacts {
    let lang = lang::for_path(path).expect("a language");
    facts(path, text, &crate::tree::parse(text, lang).expect("it parses"), lang)
}

fn scan_texts(texts: &[&str]) -> Vec<Finding> {
    let files: Vec<FileFacts> = texts.iter().enumerate().map(|(i, t)| of(&format!("f{i}.py"), t)).collect();
    scan(&files, &Options { smallest: 14, smallest_near: 9, fewest_lines: 3, longest: 8, ..Options::default() })
}

/// Findings as `kind lines,lines…` per copy.
fn told(texts: &[&str]) -> Vec<String> {
    scan_texts(texts)
        .iter()
        .map(|f| {
            let copies: Vec<String> =
                f.copies.iter().map(|c| format!("{}:{}-{}", c.file, c.lines.0, c.lines.1)).collect();
            format!("{} {}", f.kind.word(), copies.join(" "))
        })
        .collect()
}

const WORK: &str =
    "    total = 0\n    for row in rows:\n        if row.open:\n            total += row.fee * 2\n    log(total)\n";

#[test]
fn what_is_a_finding_and_what_is_not() {
    let renamed = WORK.replace("total", "sum_").replace("row.", "r.").replace("for row", "for r");
    let other = WORK.replace("* 2", "* 3");
    let lines = |n: usize| (0..n).map(|i| format!("    x{i} = call_{i}(x)\n")).collect::<String>();
    let cases: Vec<(&str, Vec<String>, Vec<&str>)> = vec![
        ("across files", vec![format!("def a(rows):\n{WORK}    return 1\n"), format!("def b(rows):\n    x()\n{WORK}")], vec![
            "repeat 0:2-6 1:3-7",
        ]),
        ("renamed locals and a literal", vec![format!("def a(rows):\n    i()\n{WORK}\n\ndef b(rows):\n{renamed}    j()\n\n\ndef c(rows):\n{other}    return 3\n")], vec![
            "repeat 0:3-7 0:11-15 0:20-24",
        ]),
        ("whole functions, once", vec![format!("def a(rows):\n{WORK}\ndef b(rows):\n{WORK}")], vec!["repeat 0:1-6 0:8-13"]),
        ("comments and layout", vec![format!("def a(rows):\n{WORK}    a\n"), format!("def b(rows):\n    b()\n{}", WORK.replace("    log", "\n    # so\n    log"))], vec![
            "repeat 0:2-6 1:3-9",
        ]),
        ("a statement that one copy lacks", vec![format!("def a(rows):\n{WORK}    note(total)\n    tax = total * 2\n    pay(tax, rows)\n"), format!("def b(rows):\n    x()\n{WORK}    tax = total * 2\n    pay(tax, rows)\n    y()\n")], vec![
            "repeat 0:2-9 1:3-9", "long 1:1-10", "long 0:1-9",
        ]),
        ("imports and tables", vec!["import a\nimport b\nimport c\nX = [1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12]\n".repeat(2)], vec![]),
        ("bare fields", vec!["class A:\n    def __init__(self, a, b, c, d):\n        self.a = a\n        self.b = b\n        self.c = c\n        self.d = d\n".repeat(2).replace("class A", "\nclass A")], vec!["members 0:3-7 0:10-14"]),
        ("other words for what modules have", vec!["a = port.tides.high\nb = port.tides.low\nc = port.tides.datum\nd = port.tides.hour\n".into(), "e = port.tides.high\nf = port.tides.low\ng = port.tides.datum\nh = port.tides.hour\n".into()], vec![]),
        ("options of a program", vec![["pier", "tide", "fee"].map(|o| format!("parser.add_argument('--{o}', dest='{o}',\n    action='store_true',\n    help='of the {o}')\n")).concat().repeat(2)], vec![]),
        ("the same calls of other things", vec![["pier", "tide", "fee"].map(|o| format!("desk.add_notice('--{o}', dest='{o}',\n    action='store_true',\n    help='of the {o}')\n")).concat().repeat(2)], vec!["series 0:1-3 0:4-6 0:7-9 0:10-12 0:13-15 0:16-18"]),
        ("a class that its function alone sees", vec![format!("def a(rows):\n    i()\n    class Row:\n        fee = 2\n{WORK}\n\ndef b(rows):\n    class Row:\n        fee = 2\n{WORK}    j()\n")], vec!["repeat 0:3-9 0:13-19", "long 0:1-9", "long 0:12-20"]),
        ("what only keeps a value", vec!["class A:\n    def with_level(self, level: Level, datum: Datum, day: Day) -> Gauge:\n        self.level = level\n        self.datum = datum\n        return self\n".into(), "class B:\n    def with_fee(self, fee: Level, rate: Datum, due: Day) -> Gauge:\n        self.fee = fee\n        self.rate = rate\n        return self\n".into()], vec![]),
        ("three lines of a whole function", vec!["def a(row):\n    # what is open\n\n    # is full\n    if is_open(row):\n        raise Full('no berth', row)\n".into(), "import x\n\ndef b(row):\n    # what is open\n\n    # is full\n    if is_open(row):\n        raise Full('no berth', row)\n\nx.y()\n".into()], vec!["repeat 0:1-6 1:3-8"]),
        ("long", vec![format!("def a(x):\n{}", lines(9))], vec!["long 0:1-10"]),
        ("small, but three of a kind", vec!["def a(x):\n    print('red', x)\n    x.log('red', 2)\n\n    print('blue', x)\n    x.log('blue', 2)\n\n    print('grey', x)\n    x.log('grey', 2)\n    x.end()\n    x.out()\n    x.off()\n".into()], vec!["series 0:2-3 0:5-6 0:8-9", "long 0:1-12"]),
        ("small, and shorter as a function", vec!["def a(x):\n    print('red', x)\n    x.log('red', 2)\n    x.sort(x)\n\n    print('blue', x)\n    x.log('blue', 2)\n    x.sort(x)\n\n    print('grey', x)\n    x.log('grey', 2)\n    x.sort(x)\n".into()], vec!["series 0:2-4 0:6-8 0:10-12", "long 0:1-12"]),
        ("small, and far from each other", vec!["def a(x):\n    print('red', x)\n    x.log('red', 2)\n    x.sort(x)\n".into(), "def b(x):\n    print('blue', x)\n    x.log('blue', 2)\n    x.sort(x)\n".into(), "def c(x):\n    print('grey', x)\n    x.log('grey', 2)\n    x.sort(x)\n".into()], vec!["repeat 0:1-4 1:1-4 2:1-4"]),
        ("too different", vec!["def a():\n    b.c(d, 1)\n    e.f(g, 2)\n    h.i(j, 3)\n    k.l(m, 4)\n\ndef n():\n    o.p(q, 5)\n    r.s(t, 6)\n    u.v(w, 7)\n    x.y(z, 8)\n".into()], vec![]),
    ];
    for (what, texts, expected) in cases {
        let texts: Vec<&str> = texts.iter().map(String::as_str).collect();
        assert_eq!(told(&texts), expected, "{what}");
    }
}

#[test]
fn ids_survive_moved_lines_and_other_edits() {
    let a = format!("def a(rows):\n{WORK}    return 1\n");
    let b = format!("def b(rows):\n    x()\n{WORK}");
    let before = scan_texts(&[&a, &b]);
    let after = scan_texts(&[&format!("import x\n\n\n{a}"), &format!("{b}    y()\n")]);
    assert_eq!(before.len(), 1);
    assert_eq!(before[0].id, after[0].id);
    assert_eq!(before[0].id.len(), 6);
}

/// Statements, nesting, cyclomatic and cognitive complexity, parameters of the first function.
fn measured(language: &str, text: &str) -> [u32; 5] {
    let lang = lang::by_name(language).unwrap();
    let tree = crate::tree::parse(text, lang).unwrap();
    let m = facts("f", text, &tree, lang).functions[0].measures;
    [m.statements, m.nesting, m.cyclomatic, m.cognitive, m.parameters]
}

#[test]
fn functions_are_measured_by_the_published_definitions() {
    // the two examples that the paper on cognitive complexity begins with: 7 and 1
    let primes = "class A {\n int sum(int max) {\n int total = 0;\n OUT: for (int i = 1; i <= max; ++i) {\n for (int j = 2; j < i; ++j) {\n if (i % j == 0) {\n continue OUT;\n }\n }\n total += i;\n }\n return total;\n }\n}\n";
    let words = "class A {\n String words(int n) {\n switch (n) {\n case 1:\n return \"one\";\n case 2:\n return \"a couple\";\n case 3:\n return \"a few\";\n default:\n return \"lots\";\n }\n }\n}\n";
    for (language, text, expected) in [
        ("java", primes, [7, 3, 4, 7, 1]),
        ("java", words, [5, 1, 4, 1, 1]),
        (
            "python",
            "def f(a, b):\n    if a and b and a:\n        return 1\n    elif a or b:\n        return 2\n    else:\n        return 3\n",
            [4, 1, 6, 5, 2],
        ),
        (
            "python",
            "def f(self, a, *, b=2, **c):\n    try:\n        for x in a:\n            f(x)\n    except E:\n        pass\n",
            [4, 1, 3, 3, 3],
        ),
        ("python", "def f(a):\n    return [x for x in a if x] if a else lambda: a or 1\n", [1, 1, 5, 2, 1]),
        (
            "javascript",
            "function f(a) {\n  if (a) {\n    g();\n  } else if (b) {\n    while (a && b || c) { a(); }\n  } else {\n    h();\n  }\n}\n",
            [5, 2, 6, 7, 1],
        ),
        (
            "javascript",
            "function f(a) {\n  a.map(x => { if (x) { g(x); } });\n  return f(a - 1);\n}\n",
            [4, 2, 1, 3, 1],
        ),
        (
            "java",
            "class A {\n void f(int a) {\n if (a > 1) g(); else if (a > 2) h(); else g();\n }\n}\n",
            [1, 1, 3, 3, 1],
        ),
        (
            "typescript",
            "function f(this: A, a?: number, ...b: string[]): void {\n  for (const x of b) { if (x && !a) { continue; } }\n}\n",
            [3, 2, 4, 4, 2],
        ),
    ] {
        assert_eq!(measured(language, text), expected, "{text}");
    }
}

#[test]
fn what_only_defines_others_is_no_finding_and_they_are() {
    let line = "    if (a) { b(); }\n";
    let inner = |n: usize| format!("  function inner(a) {{\n{}  }}\n", line.repeat(n));
    let lang = lang::by_name("javascript").unwrap();
    let listed = |text: &str| {
        let tree = crate::tree::parse(text, lang).unwrap();
        let f = facts("f", text, &tree, lang);
        let o = Options::default();
        f.functions.iter().map(|x| !o.too_much(&x.measures).is_empty()).collect::<Vec<_>>()
    };
    assert_eq!(listed(&format!("function outer(a) {{\n{}  return inner;\n}}\n", inner(50))), [false, true]);
    let own = line.repeat(30);
    assert_eq!(listed(&format!("function outer(a) {{\n{own}{}  return inner;\n}}\n", inner(50))), [true, true]);
    assert_eq!(listed(&format!("function outer(a) {{\n{}  return inner;\n}}\n", inner(20))), [false, false]);
}

#[test]
fn what_only_loads_modules_is_no_finding() {
    let file = |name: &str, load: &str| {
        let lines =
            ["matrix", "deepMap", "complex", "units"].map(|m| format!("  const {m} = {load}('./{m}');\n")).concat();
        let text = format!("function factory(type, config, load) {{\n{lines}  return new type.{name}(config);\n}}\n");
        of(&format!("{name}.js"), &text)
    };
    let found = |load: &str| scan(&[file("Sum", load), file("Product", load)], &Options::default()).len();
    assert_eq!(found("require"), 0);
    assert_eq!(found("require.resolve"), 1);
}

#[test]
fn modules_that_a_call_loads_are_imports() {
    let told = |path: &str, text: &str| -> Vec<(String, bool)> {
        of(path, text).imports.iter().map(|i| (i.import.module.clone(), i.at_load)).collect()
    };
    let js = "var a = require('./a');\nexports.B = require('./b');\nuse(load(require('./c')), 1);\n\
function f() { return require('./d'); }\nrequire(name);\nrequire.resolve('./e');\n";
    let wanted = [("./a", true), ("./b", true), ("./c", true), ("./d", false)];
    assert_eq!(told("x.js", js), wanted.map(|(m, l)| (m.to_string(), l)));
    let py = "import a\nb = importlib.import_module('b.c')\ndef f():\n    return __import__('d')\n";
    let wanted = [("a", true), ("b.c", true), ("d", false)];
    assert_eq!(told("x.py", py), wanted.map(|(m, l)| (m.to_string(), l)));
}

#[test]
fn expressions_that_several_places_have() {
    let condition = "ship.tons > 300 and not ship.exempt and ship.flag != rate.flag and rate.year > 2000";
    let text = format!(
        "def f(ship, rate):\n    if {condition}:\n        go()\n\n\ndef g(ship, rate):\n    while {condition}:\n        stop()\n\n\n\
         def h(ship, rate):\n    return {condition} or rate.all\n"
    );
    let files = [of("a.py", &text)];
    let found = scan(&files, &Options::default());
    let [f] = &found[..] else { panic!("{found:?}") };
    assert_eq!((f.expression, f.copies.len()), (12, 3), "{f:?}");
}

#[test]
fn expressions_that_are_no_finding() {
    let of_two = "a.tons * rate.dues + a.length * rate.length";
    let cases = [
        ("two small ones", format!("def f(a, rate):\n    return {of_two}\n\n\ndef g(a, rate):\n    x({of_two})\n")),
        ("numbers", "def f():\n    return 1 + 2 + 3 + 4 + 5 + 6 + 7\n\n\n".repeat(9)),
        ("in copies of statements", format!("def f(rows, a, rate):\n    x = {of_two}\n{WORK}    y(x)\n\n\n").repeat(4)),
    ];
    for (what, text) in cases {
        let found = scan(&[of("a.py", &text)], &Options::default());
        assert!(found.iter().all(|f| f.expression == 0), "{what}: {found:?}");
    }
}

#[test]
fn members_that_classes_repeat() {
    let class = |name: &str, members: &[&str]| format!("class {name}:\n{}\n\n", members.join("\n"));
    let label =
        "    def label(self):\n        text = self.name.lower().strip()\n        return f\"{self.number} {text}\"\n";
    let size = "    def size(self):\n        wide = self.width * 2\n        return wide * self.length\n";
    let other = size.replace("* 2", "* 3");
    let unit = "    unit = \"m\"\n";
    let cases: Vec<(&str, Vec<String>, Vec<&str>)> = vec![
        ("in one file", vec![class("A", &[label, size]) + &class("B", &[size, label])], vec!["0:2-8 0:12-18"]),
        ("in two files", vec![class("A", &[label, size]), class("B", &[label, size])], vec!["0:2-8 1:2-8"]),
        ("one differs", vec![class("A", &[label, size]), class("B", &[label, &other])], vec![]),
        (
            "three have one of them",
            vec![class("A", &[label, size]), class("B", &[label, size]), class("C", &[label])],
            vec!["0:2-8 1:2-8", "0:2-4 1:2-4 2:2-4"],
        ),
        ("too little", vec![class("A", &[unit]), class("B", &[unit])], vec![]),
        ("of one class", vec![class("A", &[label, size])], vec![]),
    ];
    for (what, texts, expected) in cases {
        let texts: Vec<&str> = texts.iter().map(String::as_str).collect();
        let told = told(&texts);
        let found: Vec<&str> = told.iter().filter_map(|t| t.strip_prefix("members ")).collect();
        assert_eq!(found, expected, "{what}");
    }
}
