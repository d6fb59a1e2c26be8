//! Values of classes: each wrong text is refused.

use super::Texts;
use crate::audit::audit;
use crate::change::{Change, Claim, Link, Outcome, Place, Verdict};
use crate::index::Project;
use crate::step::{LiftRequest, Step};
use crate::text::{Edit, apply_edits};

const PYTHON: &str = "class Berth:\n    def __init__(self, name):\n        self.name = name\n\n    def label(self, other=None):\n        text = \"berth \" + self.name\n        if self.length() > 30:\n            text += \"!\"\n        return text\n\n    def length(self):\n        return 31\n\n\nclass Ship:\n    def __init__(self, name):\n        self.name = name\n\n    def label(self, other=None):\n        text = \"ship \" + self.name\n        if self.length() > 10:\n            text += \"!\"\n        return text\n\n    def length(self):\n        return 12\n";

const JAVASCRIPT: &str = "class Berth {\n  label(other) {\n    return \"berth \" + this.name;\n  }\n}\n\nclass Ship {\n  label(other) {\n    return \"ship \" + this.name;\n  }\n}\n";

fn place(file: &str, text: &str, nth: usize) -> Place {
    let start_byte = text.match_indices("label(").nth(nth).expect("it is there").0;
    Place { file: file.into(), start_line: 1, end_line: 1, start_byte, end_byte: start_byte + "label".len() }
}

/// The first of the two changes.
fn link(project: &Project, file: &str, text: &str) -> Link {
    let places = [0, 1].map(|i| place(file, text, i)).to_vec();
    let new_base = Some("Entry".into());
    let plan = LiftRequest { places, new_base, values: vec![String::new()], ..LiftRequest::default() }.plan(project);
    assert_eq!(plan.result.verdict, Verdict::Ready, "{:?}", plan.result.reasons);
    plan.result.links[0].clone()
}

/// Texts with one thing changed are refused, and the plan without one of its edits.
fn refused(file: &str, text: &str, wrong: &[(&str, &str, &str)]) {
    let files = [(file, text)];
    let texts = Texts(&files);
    let facts = texts.facts();
    let project = Project::new(&facts, &texts);
    let Link { claim, result } = link(&project, file, text);
    assert!(matches!(claim, Claim::Valued { .. }));
    let agrees = |r: &Outcome| audit(&project, &Change { claim: &claim, result: r }).is_ok();
    assert!(agrees(&result));
    let good = apply_edits(text, &result.files[0].edits).expect("the edits fit");
    for (what, from, to) in wrong {
        assert!(good.contains(from), "{what}: {good}");
        let mut other = result.clone();
        other.files[0].edits = vec![Edit::new(0, text.len(), good.replacen(from, to, 1))];
        assert!(!agrees(&other), "{what}");
    }
    for i in 0..result.files[0].edits.len() {
        let mut less = result.clone();
        let gone = less.files[0].edits.remove(i);
        assert!(!agrees(&less), "without {gone:?}");
    }
}

#[test]
fn wrong_values_of_python_classes_are_refused() {
    refused(
        "records.py",
        PYTHON,
        &[
            ("another text", "KIND = \"berth \"", "KIND = \"ship \""),
            ("a blank less", "KIND = \"berth \"", "KIND = \"berth\""),
            ("another form of the text", "KIND = \"berth \"", "KIND = \"berth \".strip()"),
            ("another name", "KIND = \"berth \"", "WORD = \"berth \""),
            ("another value", "LABEL_LIMIT = 30", "LABEL_LIMIT = 31"),
            ("the other value", "text = self.KIND", "text = self.LABEL_LIMIT"),
            ("another object", "text = self.KIND", "text = other.KIND"),
            ("the class", "text = self.KIND", "text = Berth.KIND"),
            ("a call", "text = self.KIND", "text = self.KIND()"),
            ("a value for all", "KIND = \"berth \"\n", "KIND = \"berth \"\n    KIND = \"ship \"\n"),
            ("one too many", "KIND = \"berth \"\n", "KIND = \"berth \"\n    MORE = 1\n"),
            ("given to the object", "KIND = \"berth \"", "KIND = name = \"berth \""),
            ("in the function", "        text = self.KIND", "        KIND = \"berth \"\n        text = self.KIND"),
            ("a statement less", "            text += \"!\"\n", "            pass\n"),
            ("another literal", "text += \"!\"", "text += self.KIND"),
            ("another base", "class Ship:", "class Ship(Berth):"),
            ("another order", "self.length() > self.LABEL_LIMIT", "self.LABEL_LIMIT > self.length()"),
        ],
    );
}

#[test]
fn wrong_values_of_javascript_classes_are_refused() {
    refused(
        "records.mjs",
        JAVASCRIPT,
        &[
            ("another text", "return \"berth \";", "return \"ship \";"),
            ("a plain function", "get kind()", "kind()"),
            ("a static one", "get kind()", "static get kind()"),
            ("one that does more", "return \"berth \";", "this.name = 1; return \"berth \";"),
            ("another object", "this.kind", "other.kind"),
            ("a setter", "get kind()", "set kind(x)"),
        ],
    );
}

#[test]
fn a_name_that_is_in_use_is_refused() {
    let text = format!("{PYTHON}\n\nprint(Berth(\"a\").KIND)\n");
    let files = [("records.py", text.as_str())];
    let texts = Texts(&files);
    let facts = texts.facts();
    let project = Project::new(&facts, &texts);
    let mut link = link(&project, "records.py", &text);
    let Claim::Valued { names } = &mut link.claim else { panic!("another claim") };
    names[0] = "KIND".into();
    for e in &mut link.result.files[0].edits {
        e.text = e.text.replace("KIND_NAME", "KIND");
    }
    assert!(audit(&project, &Change { claim: &link.claim, result: &link.result }).is_err());
}
