//! What the planners ask of code, by themselves: ranges, moments of evaluation, users, shapes.

use crate::change::place_of;
use crate::index::Project;
use crate::index::users::{method_calls, named_by_text, others};
use crate::memory::{Texts, marked, node_at};
use crate::names::Source;
use crate::plan::evaluate::moment_of;
use crate::plan::locate;
use crate::plan::range::resolve;
use crate::plan::region::Portion;
use crate::plan::shape::copied;
use crate::plan::top_level::Seen;
use crate::plan::words::{is_class_like, shared_words, words};
use crate::text::Span;
use crate::tree::{Field, NodeId, Role, Tree};

#[test]
fn ranges_are_moved_to_what_they_cover() {
    let cases = [
        ("berth.py", "‹\n  x = 1\n›", "x = 1"),
        ("berth.py", "if a:\n‹    # the dues\n    x = 1\n    y = 2  # both\n›    z = 3\n", "x = 1\n    y = 2"),
        ("berth.py", "fee(1, ‹ rate(2) + 3 ›)\n", "rate(2) + 3"),
        ("berth.js", "function f() {\n‹  g(1);\n  h(2)›;\n}", "g(1);\n  h(2);"),
        ("berth.js", "‹const a = 1›;\nb();", "const a = 1;"),
        ("berth.ts", "const a: number = ‹f(2)›;", "f(2)"),
        // half of a statement, and of an expression
        ("berth.py", "x = 1\n‹y = 2 +› 3\n", "half of `y = 2 + 3`"),
        ("berth.py", "fee(1 ‹+ 2, 3›)\n", "half of `fee(1 + 2, 3)`"),
        ("berth.py", "x = 1‹\n\n# nothing\n›", "half of nothing"),
    ];
    for (path, text, expected) in cases {
        let (s, span) = marked(path, text);
        let found = match resolve(&s, span) {
            Ok(span) => s.text[span.start..span.end].to_string(),
            Err(half) if half.nearest.is_empty() => "half of nothing".into(),
            Err(half) => {
                let all: Vec<String> = half.nearest.iter().map(|n| format!("`{}`", &s.text[n.start..n.end])).collect();
                format!("half of {}", all.join(", "))
            }
        };
        assert_eq!(found, expected, "{text}");
    }
}

/// The statement around a node.
fn statement(s: &Source, node: NodeId) -> NodeId {
    let t = &s.tree;
    let in_block = |n: &NodeId| t.parent(*n).is_some_and(|p| t.role(p).is_sequence());
    std::iter::once(node).chain(t.ancestors(node)).filter(in_block).last().expect("a statement")
}

/// When a marked expression is evaluated, by the planner; what the audit takes for the first must be so for both.
#[test]
fn planner_and_audit_agree_on_what_comes_first() {
    let cases = [
        ("x = ‹fee(a)› + rate(b)", "first"),
        ("x = rate(b) + ‹fee(a)›", "later"),
        ("rows[fee(b)] = ‹fee(a)›", "first"),
        ("rows[‹fee(a)›] = fee(b)", "later"),
        ("rows[‹fee(a)›] = b", "first"),
        ("show(a, ‹fee(a)›)", "first"),
        ("show(rate(a), ‹fee(a)›)", "later"),
        ("x = a and ‹fee(a)›", "maybe"),
        ("x = ‹fee(a)› and a", "first"),
        ("x = 1 if ‹fee(a)› else 2", "first"),
        ("x = ‹fee(a)› if a else 2", "maybe"),
        ("x = lambda: ‹fee(a)›", "inside"),
        ("for r in ‹fee(a)›:\n    show(r)", "first"),
        ("for r in a:\n    ‹fee(r)›", "maybe"),
        ("while ‹fee(a)›:\n    show(a)", "maybe"),
        ("x = [size(r) for r in ‹fee(a)›]", "first"),
        ("x = [‹fee(r)› for r in a]", "maybe"),
        ("with ‹fee(a)› as f:\n    show(f)", "first"),
        ("with a as f:\n    ‹fee(f)›", "maybe"),
        ("try:\n    ‹fee(a)›\nfinally:\n    show(a)", "maybe"),
        ("assert ‹fee(a)›, show(a)", "maybe"),
        ("x = a < ‹fee(a)› < b", "first"),
        ("x = a < b < ‹fee(a)›", "maybe"),
        ("x = f'{a} {‹fee(a)›}'", "first"),
        ("x = a.b.c(‹fee(a)›)", "later"),
        ("a.b[‹fee(a)›] = b", "later"),
        ("x = f'{a}' + ‹fee(a)›", "later"),
        ("show([r for r in a], ‹fee(a)›)", "later"),
        ("show(*a, ‹fee(a)›)", "later"),
        ("show(not a, ‹fee(a)›)", "later"),
    ];
    for (text, expected) in cases {
        let (s, span) = marked("berth.py", text);
        let node = node_at(&s, span);
        let around = statement(&s, node);
        let when = moment_of(&s, around, node).expect("it is in the statement");
        let found = match (when.in_closure, when.conditional, when.after_effects) {
            (true, ..) => "inside",
            (_, true, _) => "maybe",
            (_, _, true) => "later",
            _ => "first",
        };
        assert_eq!(found, expected, "{text}");
        let audited = crate::audit::first::is_evaluated_first(&s, around, node, |_| false);
        assert!(!audited || found == "first", "the audit takes this for the first: {text}");
    }
}

#[test]
fn names_are_taken_apart_into_words() {
    let cases = [
        ("berth_dues", "berth dues"),
        ("berthDues2", "berth dues2"),
        ("HTTPPort", "http port"),
        ("_open", "open"),
        ("BERTH_FEE", "berth fee"),
    ];
    for (name, expected) in cases {
        assert_eq!(words(name).join(" "), expected, "{name}");
    }
    assert_eq!(shared_words(&["print_berth_dues", "print_crane_dues"]), ["print", "dues"]);
    assert!(shared_words(&["berth", "crane"]).is_empty());
    assert!(is_class_like("BerthPlan") && !is_class_like("berthPlan") && !is_class_like("BERTH"));
}

/// Of each other file: its name for `fees.net`, and a place that may be a use all the same.
#[test]
fn users_of_a_function_in_other_files() {
    let home = ("fees.py", "def net(a):\n    return a\n");
    let cases = [
        ("from fees import net\nnet(1)\n", "net, nothing else"),
        ("from fees import net as after\nafter(1)\n", "after, nothing else"),
        ("import fees\nfees.net(1)\n", "none, `net` on line 2"),
        ("from fees import *\nnet(1)\n", "none, `net` on line 2"),
        ("def f():\n    from fees import net\n    return net(1)\n", "none, `net` on line 2"),
        ("from fees import net\nimport fees\nfees.net(1)\n", "net, `net` on line 3"),
        ("from other import net\nnet(1)\n", "none, `net` on line 1"),
        // words of their own
        ("def net(a):\n    return a\n", "none, nothing else"),
        ("class Bill:\n    def net(self):\n        return 1\n\nBill().net()\n", "none, nothing else"),
        ("total(net=1)\n", "none, nothing else"),
    ];
    for (text, expected) in cases {
        let files = [home, ("bills.py", text)];
        let texts = Texts(&files);
        let facts = texts.facts();
        let project = Project::new(&facts, &texts);
        let all = others(&project, 0, "net");
        let [o] = all.as_slice() else { panic!("one other file has the word: {text}") };
        let bound = o.binding.map_or("none", |b| o.source.names.binding(b).name.as_str());
        let stray = o.stray(&project, 0, "net").map(|n| format!("`net` on line {}", o.source.line(n)));
        assert_eq!(format!("{bound}, {}", stray.unwrap_or("nothing else".into())), expected, "{text}");
    }
}

/// The calls of the first method with the name `_fee` or `fee`, by their objects.
#[test]
fn calls_of_hidden_methods() {
    let cases = [
        (
            "a.py",
            "class B:\n    def _fee(self):\n        return 1\n    def f(self):\n        return self._fee()\n",
            "self",
        ),
        (
            "a.py",
            "class B:\n    def _fee(self):\n        return 1\n    def f(me, b):\n        return b._fee()\n",
            "none",
        ),
        (
            "a.py",
            "class B:\n    def _fee(self):\n        return 1\n    def f(self):\n        return self._fee\n",
            "none",
        ),
        (
            "a.py",
            "class B:\n    def fee(self):\n        return 1\n    def f(self):\n        return self.fee()\n",
            "none",
        ),
        ("a.py", "class B:\n    def _fee(self):\n        return 1\n\ngetattr(B(), '_fee')()\n", "none"),
        ("a.js", "class B {\n  #fee() { return 1; }\n  f() { return () => this.#fee(); }\n}\n", "this"),
        (
            "a.js",
            "class B {\n  _fee() { return 1; }\n  f() { return function () { return this._fee(); }; }\n}\n",
            "none",
        ),
        (
            "a.ts",
            "class B {\n  private fee() { return 1; }\n  f() { return this.fee() + this.fee(); }\n}\n",
            "this this",
        ),
        ("a.ts", "class B {\n  fee() { return 1; }\n  f() { return this.fee(); }\n}\n", "none"),
    ];
    for (path, text, expected) in cases {
        let files = [(path, text)];
        let texts = Texts(&files);
        let facts = texts.facts();
        let project = Project::new(&facts, &texts);
        let s = project.source(0).expect("is there");
        let named = |f: &NodeId| s.tree.child(*f, Field::Name).is_some_and(|n| s.str(n).ends_with("fee"));
        let method = s.tree.ids().find(|f| s.tree.role(*f) == Role::Function && named(f)).expect("a method");
        let calls = method_calls(&project, &s, method);
        let found = calls.map(|c| c.iter().map(|(_, o)| s.str(*o)).collect::<Vec<_>>().join(" "));
        assert_eq!(found.as_deref().unwrap_or("none"), expected, "{text}");
    }
}

#[test]
fn strings_that_are_a_name() {
    let (s, _) = marked("a.py", "x = ‹1›\nf('net', \"net\", 'nets', b'net')\n");
    assert_eq!(named_by_text(&s, "net").count(), 2);
}

/// The line on which an object stands for one of the class `Berth` that was not made by it.
#[test]
fn objects_of_the_same_shape() {
    let class = "class Berth {\n  length = 1;\n  fee(): void {\n    show(this.length);\n  }\n}\n";
    let hidden = class.replace("length = 1", "private length = 1");
    let cases = [
        (class, "const b: Berth = new Berth();\n", None),
        (class, "const b: Berth = { length: 1, fee() {} };\n", Some(1)),
        (class, "const b: Berth[] = [{ length: 1, fee() {} }];\n", Some(1)),
        (class, "function f(): Berth {\n  return { length: 1, fee() {} };\n}\n", Some(2)),
        (class, "function f(b: Berth) {}\nf(new Berth());\n", None),
        (class, "function f(b: Berth) {}\nf({ length: 1, fee() {} });\n", Some(2)),
        (class, "const f = (b: Berth) => b;\nf({ length: 1, fee() {} });\n", Some(2)),
        (class, "class M implements Berth {\n  length = 2;\n  fee() {}\n}\n", Some(1)),
        (class, "class M extends Berth {}\n", None),
        (&hidden, "const b: Berth = { length: 1, fee() {} };\n", None),
    ];
    for (class, text, expected) in cases {
        let files = [("berth.ts", class), ("use.ts", text)];
        let texts = Texts(&files);
        let facts = texts.facts();
        let project = Project::new(&facts, &texts);
        let s = project.source(0).expect("is there");
        let at = class.find("show").expect("a statement");
        let place = place_of(&s, Span::new(at, at + "show(this.length);".len()));
        let site = Portion::new(1, locate(&s, &place).expect("a region"), &Seen::default())
            .unwrap_or_else(|_| panic!("a site"));
        let found = copied(&project, &site).map(|r| r.line);
        assert_eq!(found, expected, "{text}");
    }
}

#[test]
fn an_empty_tree_has_no_statement() {
    let texts = Texts(&[("a.py", "")]);
    let facts = texts.facts();
    let s = Project::new(&facts, &texts).source(0).expect("is there");
    assert!(s.tree.children(Tree::ROOT).next().is_none());
    assert!(resolve(&s, Span::new(0, 0)).is_err());
}

#[test]
fn comments_right_above_a_place() {
    let cases = [
        ("# of the berth\n‹x = 1›\n", "# of the berth\n"),
        ("# one\n# two\n‹x = 1›\n", "# one\n# two\n"),
        ("# one\n\n‹x = 1›\n", ""),
        ("y = 2  # of y\n‹x = 1›\n", ""),
        // within a line
        ("# one\ny = '\u{ad}'; ‹x = 1›\n", ""),
    ];
    for (text, expected) in cases {
        let (s, span) = marked("berth.py", text);
        let start = crate::plan::lines::comments_above(&s, span.start);
        assert_eq!(&s.text[start..span.start], expected, "{text}");
    }
}

/// What a lookup by a computed text can't be.
#[test]
fn texts_that_may_be_a_name() {
    let cases = [
        ("berth.py", "x = ‹'show_' + kind›", "show_fee", true),
        ("berth.py", "x = ‹'show_' + kind›", "fee", false),
        ("berth.py", "x = ‹kind + '_fee'›", "show_fee", true),
        ("berth.py", "x = ‹kind + '_fee'›", "fee", false),
        ("berth.py", "x = ‹f'{kind}_fee'›", "crane", false),
        ("berth.py", "x = ‹'Show_%s' % kind›", "show_fee", true),
        ("berth.py", "x = ‹'show_{}'.format(kind).lower()›", "crane", false),
        ("berth.py", "x = ‹'show_{}'.format(kind).replace('s', 'c')›", "crane", true),
        ("berth.py", "x = ‹'\\x66ee' + kind›", "fee", true),
        ("berth.py", "def f(kind):\n    a = 'show_' + kind\n    return ‹a›", "crane", false),
        ("berth.py", "def f(kind):\n    a = 'show_' + kind\n    a = kind\n    return ‹a›", "crane", true),
        ("berth.py", "A = 'show_'\nx = ‹A›", "crane", true),
        ("berth.py", "def f(o):\n    for a in ['fee', 'due']:\n        g(o, ‹a›)", "crane", false),
        ("berth.py", "def f(o):\n    for a in ['fee', 'due']:\n        g(o, ‹a›)", "due", true),
        ("berth.py", "def f(o):\n    for a in ['fee', o]:\n        g(o, ‹a›)", "crane", true),
        ("berth.js", "const x = ‹`show${kind}`›;", "crane", false),
        ("berth.js", "const x = ‹`${kind}Fee`›;", "craneFee", true),
    ];
    for (path, text, word, expected) in cases {
        let (s, span) = marked(path, text);
        assert_eq!(crate::index::computed_text::may_be(&s, node_at(&s, span), word), expected, "{text}: {word}");
    }
}
