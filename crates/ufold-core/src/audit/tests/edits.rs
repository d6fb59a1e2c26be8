//! Steps that change what is there: right plans, and what must not pass for one.

use super::check_all;
use crate::change::{Place, Verdict, place_of};
use crate::index::Project;
use crate::memory::{MarkedProject, Texts};
use crate::step::{
    FoldRequest, InlineRequest, ParamRequest, Plan, RenameRequest, SeriesRequest, SlideRequest, SplitLoopRequest,
    SplitVariableRequest, Step, VariableRequest,
};

/// A step at the marked places; the first is that in `‹ ›`.
type Ask = fn(Place, Vec<Place>, &Project) -> Plan;

/// What is asked for, the files, and changes of the plan that make it another program.
struct Row {
    ask: Ask,
    files: &'static str,
    wrong: &'static [(&'static str, &'static str, &'static str)],
}

const ROWS: &[Row] = &[
    Row {
        ask: |place, _, p| RenameRequest { finding: String::new(), place, name: "gross".into() }.plan(p),
        files: "--- fees.py\ndef ‹net›(n):\n    return n\n\n\ndef all(n):\n    gros = net(n)\n    return net(gros)\n",
        wrong: &[
            ("another name", "gross", "gros"),
            ("a call", "gross", "gross()"),
            ("a name that is there", "gross", "all"),
        ],
    },
    Row {
        ask: |place, _, p| InlineRequest { finding: String::new(), place, except: vec![], slide: false }.plan(p),
        files: "--- fees.py\ndef all(n, rate):\n    ‹net› = n * rate + 1\n    print(n)\n    return net * 2\n",
        wrong: &[
            ("another value", "n * rate + 1", "n * rate + 2"),
            ("without its brackets", "(n * rate + 1)", "n * rate + 1"),
            ("another variable", "n * rate", "rate * rate"),
        ],
    },
    Row {
        ask: |place, _, p| {
            ParamRequest { finding: String::new(), place, name: "rate".into(), all_equal: false }.plan(p)
        },
        files: "--- fees.py\ndef _net(n):\n    return n * ‹3›\n\n\ndef all(n):\n    return _net(n) + _net(2)\n",
        wrong: &[
            ("another value", "3", "4"),
            ("another parameter", "rate", "n"),
            ("another name in one place", ", rate", ", rates"),
        ],
    },
    Row {
        ask: |place, _, p| VariableRequest { finding: String::new(), place, name: "width".into() }.plan(p),
        files: "--- berth.py\ndef all(a, b):\n    print(‹a.beam + a.fender * 2›)\n    print(b, a.beam + a.fender * 2)\n",
        wrong: &[
            ("another value", "a.fender * 2", "a.fender * 3"),
            ("another object", "width = a.beam", "width = b.beam"),
            ("a name that is there", "width", "b"),
        ],
    },
    Row {
        ask: |place, _, p| SplitVariableRequest { finding: String::new(), place, name: "height".into() }.plan(p),
        files: "--- tide.py\ndef all(a, b):\n    x = a + 1\n    print(x)\n    ‹x› = b + 2\n    return x * x\n",
        wrong: &[("the name of another part", "height", "b"), ("a name that is there", "height", "a")],
    },
    Row {
        ask: |place, _, p| {
            let request =
                SlideRequest { finding: String::new(), place, before: None, after: None, below_comment: false };
            request.plan(p)
        },
        files: "--- tide.py\ndef all(a, b):\n    ‹x = a + 1›\n    y = b + 2\n    print(y)\n    return x * y\n",
        wrong: &[
            ("another statement", "x = a + 1", "x = b + 1"),
            ("it goes", "    x = a + 1\n", ""),
            ("it is there twice", "x = a + 1\n", "x = a + 1\n    x = a + 1\n"),
        ],
    },
    Row {
        ask: |place, _, p| SplitLoopRequest { finding: String::new(), place, lines: vec![(4, 4)] }.plan(p),
        files: "--- tide.py\ndef all(rows):\n    a, b = [], []\n    ‹for r in rows:\n        a.append(r + 1)\n        b.append(r + 2)\n›    return a, b\n",
        wrong: &[
            ("another list", "in rows", "in a"),
            ("another statement", "r + 1", "r + 2"),
            ("another variable", "for r in", "for a in"),
        ],
    },
    Row {
        ask: |_, copies, p| SeriesRequest { finding: String::new(), copies, names: vec![] }.plan(p),
        files: "--- gauge.py\ndef all(port):\n    ‹port.add(\"north\", 3)›\n    «port.add(\"south\", 4)»\n    «port.add(\"west\", 5)»\n    «port.add(\"east\", 6)»\n",
        wrong: &[
            ("a row less", "(\"south\", 4)", "(\"south\", 5)"),
            ("another order", "\"north\"", "\"east\""),
            ("another member", ".add(", ".remove("),
            ("the columns change places", "port.add(", "port.add(*reversed(("),
        ],
    },
    Row {
        ask: |_, copies, p| SeriesRequest { finding: String::new(), copies, names: vec![] }.plan(p),
        files: "--- gauge.py\ndef all(port):\n    ‹north1 = port.add(\"north\", 3)\n    port.show(north1, 8)\n    port.show(north1, 9)›\n    «north2 = port.add(\"south\", 4)\n    port.show(north2, 8)\n    port.show(north2, 9)»\n    «north3 = port.add(\"west\", 5)\n    port.show(north3, 8)\n    port.show(north3, 9)»\n    return north1 - north2 * north3\n",
        wrong: &[
            ("another element", "norths[1]", "norths[2]"),
            ("a list", "norths[1]", "norths"),
            ("the list from behind", "norths[1]", "norths[-1]"),
            ("another value", "append(north)", "append(8)"),
            ("two values in a turn", "norths.append(north)", "norths.append(north)\n        norths.append(north)"),
            ("at the front", "norths.append(north)", "norths.insert(0, north)"),
            ("only sometimes", "norths.append(north)", "if north:\n            norths.append(north)"),
            ("not empty", "norths = []", "norths = [0]"),
            ("another list", "norths = []", "norths = port.all"),
            ("made in the turn", "        north = ", "        norths = []\n        north = "),
            ("too early", "        north = port", "        norths.append(name)\n        north = port"),
        ],
    },
    Row {
        ask: |_, copies, p| SeriesRequest { finding: String::new(), copies, names: vec![] }.plan(p),
        files: "--- gauge.py\ndef all(port):\n    ‹north1 = port.add(\"north\", 3)\n    port.show(8)\n    port.show(9)›\n    «north2 = port.add(\"south\", 4)\n    port.show(8)\n    port.show(9)»\n    «north3 = port.add(\"west\", 5)\n    port.show(8)\n    port.show(9)»\n    if north1 > north2:\n        north1 += 1\n    return north1 - north2 * north3\n",
        wrong: &[
            ("another order", "north1, north2, north3 = norths", "north1, north3, north2 = norths"),
            ("a name twice", "north1, north2, north3 = norths", "north1, north2, north2 = norths"),
            ("another name", "north1, north2, north3 = norths", "north1, north2, port = norths"),
            ("a name less", "north1, north2, north3 = norths", "north1, north2, *north3 = norths"),
            ("a part of the list", "north3 = norths", "north3 = norths[:3]"),
            ("another list", "north3 = norths", "north3 = port.all"),
            ("another value", "append(port.add(", "append(port.show("),
        ],
    },
    Row {
        ask: |_, copies, p| SeriesRequest { finding: String::new(), copies, names: vec![] }.plan(p),
        files: "--- gauge.py\ndef all(port):\n    ‹port.add(\"gauge 1 of 4\", 1)›\n    «port.add(\"gauge 2 of 4\", 2)»\n    «port.add(\"gauge 3 of 4\", 3)»\n    «port.add(\"gauge 4 of 4\", 4)»\n",
        wrong: &[
            ("a number less", "range(1, 5)", "range(1, 4)"),
            ("a number more", "range(1, 5)", "range(1, 6)"),
            ("from nothing", "range(1, 5)", "range(0, 5)"),
            ("another step", "range(1, 5)", "range(1, 5, 2)"),
            ("another way", "range(1, 5)", "port(1, 5)"),
            ("another text", "f\"gauge", "f\"Gauge"),
            ("a text without the number", "f\"gauge", "\"gauge"),
            ("another form of the number", "{number}", "{number:02}"),
            ("as it is told", "{number}", "{number!r}"),
            ("another value in the text", "{number}", "{port}"),
            ("two numbers", "of 4", "of {number}"),
            ("bytes", "f\"gauge", "rf\"gauge"),
        ],
    },
    Row {
        ask: |_, copies, p| SeriesRequest { finding: String::new(), copies, names: vec![] }.plan(p),
        files: "--- list.jsx\nfunction all(out) {\n  const none = 0;\n  ‹out.push(<Berth label=\"berth 1\" />);›\n  «out.push(<Berth label=\"berth 2\" />);»\n  «out.push(<Berth label=\"berth 3\" />);»\n  «out.push(<Berth label=\"berth 4\" />);»\n  return out;\n}\n",
        wrong: &[
            ("a text, no value", "={label}", "=\"label\""),
            ("another text", "\"berth 2\"", "\"Berth 2\""),
            ("a text more", "\"berth 4\"", "\"berth 4\", \"berth 5\""),
            ("another attribute", "label=", "title="),
        ],
    },
];

/// Folds: a site that stays as it is is none.
const FOLDS: &[Row] = &[Row {
    ask: |_, copies, p| FoldRequest { copies, ..FoldRequest::default() }.plan(p),
    files: "--- list.jsx\nfunction all(out, port) {\n  ‹out.push(<Berth label=\"north\" />);\n  out.sort(port);\n  out.show(port);›\n  «out.push(<Berth label=\"south\" />);\n  out.sort(port);\n  out.show(port);»\n  return out;\n}\n",
    wrong: &[
        ("another value", "label={label}", "label={port}"),
        ("a text", "label={label}", "label=\"label\""),
        ("another text", "\"south\"", "\"north\""),
    ],
}];

#[test]
fn wrong_edits_are_refused() {
    for (row, all) in ROWS.iter().map(|r| (r, true)).chain(FOLDS.iter().map(|r| (r, false))) {
        let marked = MarkedProject::new(row.files);
        let list: Vec<(&str, &str)> = marked.files.iter().map(|(p, c)| (p.as_str(), c.as_str())).collect();
        let texts = Texts(&list);
        let facts = texts.facts();
        let project = Project::new(&facts, &texts);
        let place = |(f, span): (usize, crate::text::Span)| place_of(&project.source(f).expect("parses"), span);
        let good = (row.ask)(place(marked.word), marked.all.iter().map(|m| place(*m)).collect(), &project);
        assert_ne!(good.result.verdict, Verdict::Refused, "{}\n{:?}", row.files, good.result.reasons);
        let wrong: Vec<_> =
            row.wrong.iter().map(|(what, from, to)| (*what, from.to_string(), to.to_string())).collect();
        check_all(&project, &good, &wrong);
        for i in 0..if all { good.result.files.len() } else { 0 } {
            for e in 0..good.result.files[i].edits.len() {
                let mut less = good.clone();
                let gone = less.result.files[i].edits.remove(e);
                assert!(less.audit(&project).is_err(), "without {gone:?}\n{}", row.files);
            }
        }
    }
}
