//! Steps that change what is there: right plans, and what must not pass for one.

use super::check_all;
use crate::change::{Place, Verdict, place_of};
use crate::index::Project;
use crate::memory::{MarkedProject, Texts};
use crate::step::{
    InlineRequest, ParamRequest, Plan, RenameRequest, SeriesRequest, SlideRequest, SplitLoopRequest,
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
];

#[test]
fn wrong_edits_are_refused() {
    for row in ROWS {
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
        for i in 0..good.result.files.len() {
            for e in 0..good.result.files[i].edits.len() {
                let mut less = good.clone();
                let gone = less.result.files[i].edits.remove(e);
                assert!(less.audit(&project).is_err(), "without {gone:?}\n{}", row.files);
            }
        }
    }
}
