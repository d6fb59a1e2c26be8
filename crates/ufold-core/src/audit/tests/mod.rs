//! The audit must bite: right plans are changed a little, each change makes the program another one, and each must be
//! refused.

mod edits;
mod lifted;
mod moved;
mod rehomed;
mod resettled;
mod valued;

use crate::change::{Place, Verdict};
use crate::find::{Options, scan};
use crate::index::Project;
use crate::memory::Texts;
use crate::step::{FoldRequest, Plan, Step};

const TIDES: &str = "\
import math

FACTOR = 2


def print_all(x):
    return x


class Report:
    def high(self, rows, base):
        print(len(rows))
        low = min(rows) + FACTOR
        total = base
        for row in rows:
            total += math.floor(row) * 3
        self.note(\"high\", low)
        self.last = total
        print(\"high\", total, low, base)

    def low(self, lines, start):
        low = min(lines) + FACTOR
        total = start
        for line in lines:
            total += math.floor(line) * 4
        self.note(\"low\", low)
        self.last = total
        return total, low, start

    def note(self, kind, text):
        print(kind, text)
";

const BERTHS: &str = "\
import math

from tides import FACTOR


def berths(rows, base):
    print(1)
    low = min(rows) + FACTOR
    total = base
    for row in rows:
        total += math.floor(row) * 3
    print(\"high\", low)
    return total
";

const CRANES: &str = "\
import math

from tides import FACTOR


def cranes(rows, base):
    low = min(rows) + FACTOR
    total = base
    for row in rows:
        total += math.floor(row) * 3
    print(\"high\", low)
    if total:
        print(total)
";

const PRIVATE: &str = "\
def _berth(rows, base):
    total = base
    for row in rows:
        total += row * 3
    print(\"berth\", total)
    return total


def _crane(rows, base):
    total = base
    for row in rows:
        total += row * 3
    print(\"crane\", total)
    return total


def main(rows, first):
    return _berth(rows, first) + _crane(rows, 2)
";

/// The plan of the finding that begins in a file.
fn plan(project: &Project, file: &str) -> Plan {
    let found = scan(project.facts, &Options { smallest: 12, ..Options::default() });
    let finding = found
        .iter()
        .find(|f| f.copies.iter().all(|c| (project.facts[c.file].path == "tides.py") == (file == "tides.py")))
        .expect("there is a finding");
    let place = |c: &crate::find::Copy| Place {
        file: project.facts[c.file].path.clone(),
        start_line: c.lines.0 as usize,
        end_line: c.lines.1 as usize,
        start_byte: c.bytes.0 as usize,
        end_byte: c.bytes.1 as usize,
    };
    let copies = finding.copies.iter().map(place).collect();
    FoldRequest { copies, ..FoldRequest::default() }.plan(project)
}

/// Replaces text in every edit that has it; false when none has.
fn spoil(plan: &mut Plan, from: &str, to: &str) -> bool {
    let mut hit = false;
    for e in plan.result.files.iter_mut().flat_map(|f| &mut f.edits) {
        if e.text.contains(from) {
            hit = true;
            e.text = e.text.replacen(from, to, 1);
        }
    }
    hit
}

fn texts() -> Texts<'static> {
    Texts(&[("tides.py", TIDES), ("berths.py", BERTHS), ("cranes.py", CRANES)])
}

#[test]
fn wrong_plans_of_methods_are_refused() {
    let texts = texts();
    let facts = texts.facts();
    let project = Project::new(&facts, &texts);
    let good = plan(&project, "tides.py");
    assert_eq!(good.result.verdict, Verdict::Ready, "{:?}", good.result.reasons);
    let name = &good.result.function.as_ref().expect("a function").name;
    let call = |args: &str| format!("self.{name}({args})");
    let text = good.result.files[0].edits.iter().map(|e| e.text.as_str()).collect::<Vec<_>>().join("\n");
    assert!(text.contains(&call("rows, base, 3, \"high\"")), "{text}");
    let wrong = [
        ("swapped arguments", call("rows, base, 3, \"high\""), call("base, rows, 3, \"high\"")),
        ("another literal", call("rows, base, 3, \"high\""), call("rows, base, 4, \"high\"")),
        ("a missing argument", call("rows, base, 3, \"high\""), call("rows, base, 3")),
        ("an argument too many", call("rows, base, 3, \"high\""), call("rows, base, 3, \"high\", 1")),
        ("another variable", call("rows, base, 3, \"high\""), call("rows, rows, 3, \"high\"")),
        ("a dropped statement", "        self.last = total\n".into(), String::new()),
        (
            "a statement more",
            "        self.last = total\n".into(),
            "        self.last = total\n        total = 0\n".into(),
        ),
        ("statements in another order", "        total = base\n".into(), "        pass\n".into()),
        ("another operator", "total += math".into(), "total -= math".into()),
        ("a lost rename", "min(rows)".into(), "min(lines)".into()),
        ("a captured name", format!("def {name}(self, rows, base"), format!("def {name}(self, rows, FACTOR")),
        ("a lost result", "low, total = self".into(), "low = self".into()),
        ("results that change places", "low, total = self".into(), "total, low = self".into()),
        ("a result that is not handed over", "return low, total".into(), "return low".into()),
        ("results handed over in another order", "return low, total".into(), "return total, low".into()),
        ("another function", format!("self.{name}("), "self.note(".into()),
        ("another object", format!("self.{name}("), format!("rows.{name}(")),
        ("an unbalanced bracket", "min(rows)".into(), "min(rows".into()),
        ("a parameter that is rebound", "        total = base\n".into(), "        total = base = rows\n".into()),
        ("another member", "self.last = total".into(), "self.first = total".into()),
        ("the body of another indentation", "            total += math".into(), "        total += math".into()),
        ("a default for a parameter", "rows, base, factor".into(), "rows, base, factor=3".into()),
    ];
    check_all(&project, &good, &wrong);
}

#[test]
fn wrong_plans_across_modules_are_refused() {
    let texts = texts();
    let facts = texts.facts();
    let project = Project::new(&facts, &texts);
    let good = plan(&project, "other");
    assert_ne!(good.result.verdict, Verdict::Refused, "{:?}", good.result.reasons);
    let function = good.result.function.as_ref().expect("a function");
    let module = function.file.trim_end_matches(".py");
    let import = format!("from {module} import {}", function.name);
    let wrong = [
        ("a missing import", import.clone(), String::new()),
        ("an import of another name", import.clone(), format!("from {module} import FACTOR")),
        ("an import from another module", import.clone(), import.replace(module, "tides")),
        ("a name that hides another", format!("{}(", function.name), "print(".into()),
        ("a lost result", "total = ".into(), String::new()),
        ("another factor", "FACTOR".into(), "factor".into()),
        ("another module's function", "math.floor".into(), "math.ceil".into()),
    ];
    check_all(&project, &good, &wrong);
    let mut outside = good.clone();
    let file = &mut outside.result.files[0];
    file.edits.push(crate::text::Edit::new(0, 6, "import"));
    assert!(outside.audit(&project).is_err(), "an edit outside the copies");
    let mut shifted = good.clone();
    let edit = shifted.result.files[0].edits.iter_mut().find(|e| e.span.start < e.span.end).expect("a site");
    edit.span.start -= 5;
    assert!(shifted.audit(&project).is_err(), "an edit that takes more than the copy");
}

#[test]
fn wrong_plans_that_drop_functions_are_refused() {
    let texts = Texts(&[("tides.py", PRIVATE)]);
    let facts = texts.facts();
    let project = Project::new(&facts, &texts);
    let good = plan(&project, "tides.py");
    assert!(good.result.sites.iter().all(|s| s.retired.is_some()), "{:?}", good.result);
    let name = &good.result.function.as_ref().expect("a function").name;
    let call = |args: &str| format!("{name}({args})");
    let wrong = [
        ("swapped arguments", call("first, rows, \"berth\""), call("rows, first, \"berth\"")),
        ("another literal", call("first, rows, \"berth\""), call("first, rows, \"crane\"")),
        ("another value", call("2, rows, \"crane\""), call("3, rows, \"crane\"")),
        ("a missing argument", call("2, rows, \"crane\""), call("rows, \"crane\"")),
        ("a call that is left", call("2, rows, \"crane\""), "_crane(rows, 2)".into()),
        ("another body", "total += row * 3".into(), "total += row * 4".into()),
    ];
    check_all(&project, &good, &wrong);
    let mut kept = good.clone();
    kept.result.files[0].edits.retain(|e| !e.text.is_empty());
    assert!(kept.audit(&project).is_err(), "a function that was to go is still there");
}

pub(super) fn check_all(project: &Project, good: &Plan, wrong: &[(&str, String, String)]) {
    assert!(good.audit(project).is_ok());
    let mut missed = Vec::new();
    for (what, from, to) in wrong {
        let mut plan = good.clone();
        if !spoil(&mut plan, from, to) {
            missed.push(format!("{what}: `{from}` is not in the plan"));
        } else if plan.audit(project).is_ok() {
            missed.push(format!("{what}: not noticed"));
        }
    }
    let text: Vec<&str> = good.result.files.iter().flat_map(|f| &f.edits).map(|e| e.text.as_str()).collect();
    assert!(missed.is_empty(), "{missed:#?}\nthe plan was\n{}", text.join("\n----\n"));
}
