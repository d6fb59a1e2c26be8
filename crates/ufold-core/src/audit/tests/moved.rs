//! Definitions in another file: what must not pass for a right plan.

use super::check_all;
use crate::change::{Place, Verdict};
use crate::index::Project;
use crate::memory::Texts;
use crate::step::{MoveRequest, Step};

const FEES: &str = "\
import math

from rates import BASE

LIMIT = 9


def _half(n):
    return math.floor(n / 2)


def due(n, base=BASE):
    return _half(n) * base + LIMIT


def net(n):
    return due(n) - 1
";

const DESK: &str = "\
import fees
from fees import net


def total(n):
    return fees.due(n, 2) + net(n)
";

const TIDES: &str = "\
import math


def level(n):
    return math.ceil(n)
";

#[test]
fn wrong_moves_are_refused() {
    let files = [("fees.py", FEES), ("desk.py", DESK), ("tides.py", TIDES), ("rates.py", "BASE = 3\n")];
    let texts = Texts(&files);
    let facts = texts.facts();
    let project = Project::new(&facts, &texts);
    let at = FEES.find("due").expect("it is there");
    let place = Place { file: "fees.py".into(), start_line: 1, end_line: 1, start_byte: at, end_byte: at + 3 };
    let request = MoveRequest { finding: String::new(), places: vec![place], to: "tides.py".into(), no_stay: true };
    let good = request.plan(&project);
    assert_eq!(good.result.verdict, Verdict::Ready, "{:?}", good.result.reasons);
    let wrong = [
        ("a use that is left", "tides", "fees"),
        ("another name", "from tides import due", "from tides import level"),
        ("another name for it", "from tides import due", "from tides import due as dues"),
        ("another module by its name", "import tides", "import rates as tides"),
        ("another operator", "* base", "+ base"),
        ("another value by default", "base=BASE", "base=3"),
        ("no value by default", "base=BASE", "base"),
        ("another constant", "LIMIT = 9", "LIMIT = 8"),
        ("a function that does not come along", "def _half(n):\n    return math.floor(n / 2)\n", ""),
        ("an import less", "from rates import BASE\n", ""),
        ("another import", "from rates import BASE", "from fees import BASE"),
        ("a name that another one hides", "def _half(n)", "def level(n)"),
        ("a statement more", "LIMIT = 9", "LIMIT = 9\nprint(LIMIT)"),
        ("a decorated function", "def due(", "@math.floor\ndef due("),
        ("another order of parameters", "due(n, base=BASE)", "due(base, n=BASE)"),
        ("it gives nothing", "return _half(n) * base", "_half(n) * base"),
        ("another half", "_half(n) * base", "_half(base) * n"),
    ];
    let wrong = wrong.map(|(what, from, to)| (what, from.to_string(), to.to_string()));
    check_all(&project, &good, &wrong);
    for i in 0..good.result.files.len() {
        for e in 0..good.result.files[i].edits.len() {
            let mut less = good.clone();
            let gone = less.result.files[i].edits.remove(e);
            let text = project
                .source(project.index(&good.result.files[i].file).expect("a file"))
                .expect("parses")
                .text
                .clone();
            // an import that nobody needs any more may stay
            let unneeded = gone.text.is_empty() && text[gone.span.start..gone.span.end].contains("import ");
            assert!(less.audit(&project).is_err() || unneeded, "without {gone:?}");
        }
    }
}
