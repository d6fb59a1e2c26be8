//! Members that are their base's: what must not pass for a right plan.

use super::check_all;
use crate::change::{Place, Verdict};
use crate::index::Project;
use crate::memory::Texts;
use crate::step::{LiftRequest, Step};

const PLACES: &str = "\
class Berth:
    unit = \"m\"

    def __init__(self, name, depth):
        self.name = name
        self.depth = depth

    def label(self):
        return self.name + self.unit

    def only(self):
        return self.depth


class Quay:
    unit = \"m\"

    def __init__(self, name, crane):
        self.name = name
        self.crane = crane

    def label(self):
        return self.name + self.unit
";

const BASED: &str = "\
class Place {
  near() {
    return 1;
  }
}

class Berth extends Place {
  label() {
    return this.name + this.near();
  }
}

class Quay extends Place {
  label() {
    return this.name + this.near();
  }

  near() {
    return 2;
  }
}
";

fn place(file: &str, text: &str, name: &str, nth: usize) -> Place {
    let start_byte = text.match_indices(&format!(" {name}")).nth(nth).expect("it is there").0 + 1;
    Place { file: file.into(), start_line: 1, end_line: 1, start_byte, end_byte: start_byte + name.len() }
}

#[test]
fn wrong_lifts_to_a_new_base_are_refused() {
    let files = [("places.py", PLACES)];
    let texts = Texts(&files);
    let facts = texts.facts();
    let project = Project::new(&facts, &texts);
    let each = |name| [0, 1].map(|i| place("places.py", PLACES, name, i));
    let places = [each("label"), each("unit")].concat();
    let good = LiftRequest { places, new_base: Some("Place".into()), ..LiftRequest::default() }.plan(&project);
    assert_ne!(good.result.verdict, Verdict::Refused, "{:?}", good.result.reasons);
    let wrong = [
        ("another value", "unit = \"m\"", "unit = \"ft\""),
        ("another member", "self.name + self.unit", "self.name + self.depth"),
        ("a member less", "    unit = \"m\"\n", ""),
        ("another base", "(Place)", "(object)"),
        ("no base", "(Place)", ""),
        ("a base more", "class Place:", "class Place(dict):"),
        ("another name", "def label", "def title"),
        ("no object", "def label(self)", "def label()"),
        ("a static one", "    def label", "    @staticmethod\n    def label"),
        ("a member more", "    def label", "    def more(self):\n        return 1\n\n    def label"),
        ("a statement more", "        return self.name", "        self.name = 1\n        return self.name"),
    ];
    let wrong = wrong.map(|(what, from, to)| (what, from.to_string(), to.to_string()));
    check_all(&project, &good, &wrong);
    for i in 0..good.result.files[0].edits.len() {
        let mut less = good.clone();
        let gone = less.result.files[0].edits.remove(i);
        assert!(less.audit(&project).is_err(), "without {gone:?}");
    }
}

#[test]
fn wrong_lifts_to_a_base_that_is_there_are_refused() {
    let files = [("places.mjs", BASED)];
    let texts = Texts(&files);
    let facts = texts.facts();
    let project = Project::new(&facts, &texts);
    let places = [0, 1].map(|i| place("places.mjs", BASED, "label", i)).to_vec();
    let good = LiftRequest { places, ..LiftRequest::default() }.plan(&project);
    assert_ne!(good.result.verdict, Verdict::Refused, "{:?}", good.result.reasons);
    let wrong = [
        ("another member", "this.near()", "this.far()"),
        ("another object", "this.near()", "super.near()"),
        ("another name", "label()", "title()"),
        ("a static one", "label()", "static label()"),
        ("a getter", "label()", "get label()"),
        ("it gives nothing", "return this.name", "this.name"),
    ];
    let wrong = wrong.map(|(what, from, to)| (what, from.to_string(), to.to_string()));
    check_all(&project, &good, &wrong);
}
