use super::*;
use crate::lang;

/// Each name of the text with the line of what binds it (`free` for none) and `!` where it is bound there.
fn resolved(text: &str) -> String {
    let lang = lang::by_name("python").unwrap();
    let tree = crate::tree::parse(text, lang).unwrap();
    assert!(tree.errors().is_empty(), "the case does not parse: {text}");
    let names = names(&tree, text);
    let lines = crate::text::LineIndex::new(text);
    let mut out = Vec::new();
    for r in &names.references {
        let to = match r.target {
            Some(b) => lines.line(tree.span(names.binding(b).first).start).to_string(),
            None => "free".to_string(),
        };
        let mark = if r.usage.writes() { "!" } else { "" };
        out.push(format!("{}{mark}:{to}", tree.text(r.node, text)));
    }
    out.join(" ")
}

#[test]
fn scoping_rules() {
    let cases = [
        ("def f(a, *b, c=d, **e):\n    return a, b, c, e\n", "f!:1 a!:1 b!:1 c!:1 d:free e!:1 a:1 b:1 c:1 e:1"),
        ("x = 1\ndef f():\n    x = 2\n    return x\n", "x!:1 f!:2 x!:3 x:3"),
        ("x = 1\ndef f():\n    global x\n    x = 2\n", "x!:1 f!:2 x!:1"),
        ("def f():\n    x = 1\n    def g():\n        nonlocal x\n        x = 2\n", "f!:1 x!:2 g!:3 x!:2"),
        ("def f():\n    global made\n    made = 1\n", "f!:1 made!:3"),
        (
            "class A:\n    x = 1\n    y = x\n    def m(self):\n        return x\n",
            "A!:1 x!:2 y!:3 x:2 m!:4 self!:4 x:free",
        ),
        ("y = [x for x in x if x]\n", "y!:1 x:1 x!:1 x:free x:1"),
        ("def f(r):\n    if any((w := i) for i in r):\n        return w\n", "f!:1 r!:1 any:free w!:2 i:2 i!:2 r:1 w:2"),
        ("try:\n    pass\nexcept E as e:\n    e\n", "E:free e!:3 e:3"),
        ("with a as b, c as (d, e):\n    b, d, e\n", "a:free b!:1 c:free d!:1 e!:1 b:1 d:1 e:1"),
        ("import a.b\nimport c.d as e\nfrom f import g as h\na, e, h\n", "a!:1 e!:2 h!:3 a:1 e:2 h:3"),
        ("for i, (j, k.m) in n:\n    i, j\n", "i!:1 j!:1 k:free n:free i:1 j:1"),
        (
            "match p:\n    case P(x=0, y=yy): yy\n    case [a, *b]: b\n    case {'k': v, **r}: r\n    case M.n: 1\n    case c: c\n",
            "p:free P:free yy!:2 yy:2 a!:3 b!:3 b:3 v!:4 r!:4 r:4 M:free c!:6 c:6",
        ),
        ("match p:\n    case (1 | 2) as q: q\n    case _: 0\n", "p:free q!:2 q:2"),
        ("f = lambda a, b=c: a + b\n", "f!:1 a!:1 b!:1 c:free a:1 b:1"),
        ("x: int\ny: str = x\n", "int:free y!:2 str:free x:1"),
        ("def f(x):\n    x += 1\n    del x\n", "f!:1 x!:1 x!:1 x:1"),
        ("def f[T](a: T) -> T:\n    return a\n", "f!:1 T!:1 a!:1 T:free T:free a:1"),
    ];
    for (text, expected) in cases {
        assert_eq!(resolved(text), expected, "in:\n{text}");
    }
}
