//! Whole classes in files of their own: right plans, and what must not pass for one.

use super::check_all;
use crate::change::{Place, Verdict};
use crate::index::Project;
use crate::memory::Texts;
use crate::step::{MoveRequest, Plan, Step};

const MAIN: &str = "\
import static port.Fees.RATE;

import java.util.List;
import port.Fees;

public class Main {
    static int all(Fees f) {
        return f.due(3) + RATE + List.of(new port.Fees()).size();
    }
}
";

/// Two classes in a file: the first goes.
const FEES: &str = "\
package port;

import java.util.List;

public class Fees {
    public static final int RATE = 4;
    int count = 1;

    public int due(int n) {
        count += n;
        return n * RATE + List.of(n).size() + Tide.low();
    }

    int net(int n) {
        return due(n) - count;
    }
}

class Rest {
    int high(Fees f) {
        return f.net(2) + f.count;
    }
}
";

const TIDE: &str = "\
package port;

public class Tide {
    public static int low() {
        return 2;
    }

    static int[] none() {
        return new int[0];
    }
}
";

const DESK: &str = "\
package desk;

import port.Fees;

public class Desk {
    Fees fees = new Fees();
}
";

/// The file that another import of the same name would find.
const OTHER: &str = "\
package yard;

public class Fees {
    public int due(int n) {
        return n;
    }
}
";

fn plan(project: &Project, text: &str, name: &str, to: &str) -> Plan {
    let start_byte = text.find(&format!(" {name} ")).expect("it is declared") + 1;
    let file = "port/Fees.java".to_string();
    let place = Place { file, start_line: 1, end_line: 1, start_byte, end_byte: start_byte + name.len() };
    MoveRequest { finding: String::new(), places: vec![place], to: to.to_string(), no_stay: false }.plan(project)
}

/// The plan, in the project that has the new file too.
fn with_new<T>(project: &Project, places: &[Place], to: &str, run: impl FnOnce(&Project) -> T) -> T {
    let new = crate::plan::outside::wanted(project, to, places).expect("it can be made");
    project.with_new(&[new], run).expect("the project is read")
}

#[test]
fn wrong_moves_of_classes_are_refused() {
    let files = [
        ("Main.java", MAIN),
        ("port/Fees.java", FEES),
        ("port/Tide.java", TIDE),
        ("desk/Desk.java", DESK),
        ("yard/Fees.java", OTHER),
    ];
    let texts = Texts(&files);
    let facts = texts.facts();
    let project = Project::new(&facts, &texts);
    let places = plan(&project, FEES, "Fees", "desk/Fees.java").request.places().to_vec();
    with_new(&project, &places, "desk/Fees.java", |project| {
        let good = plan(project, FEES, "Fees", "desk/Fees.java");
        assert_eq!(good.result.verdict, Verdict::Ready, "{:?}", good.result.reasons);
        let wrong = [
            ("another package", "package desk;", "package yard;"),
            ("another name", "public class Fees {", "public class Dues {"),
            ("fewer see the class", "public class Fees {", "class Fees {"),
            ("no import of what it uses", "import port.Tide;\n", ""),
            ("another import", "import java.util.List;\n", "import java.awt.List;\n"),
            ("another class of the name", "import desk.Fees;", "import yard.Fees;"),
            ("a path to the old place", "desk.", "port."),
            ("a path to another one", "desk.Fees", "yard.Fees"),
            ("another operator", "n * RATE", "n + RATE"),
            ("another value", "int count = 1", "int count = 2"),
            ("a statement less", "        count += n;\n", ""),
            ("a statement more", "        count += n;\n", "        count += n;\n        count++;\n"),
            ("a member that is not open", "public int net(", "int net("),
            ("a field that is not open", "public int count", "int count"),
            ("a member that is open for nothing", "public int count", "private int count"),
            ("fewer may call it", "public int due", "protected int due"),
            (
                "one function more",
                "    public int due",
                "    int more() {\n        return 1;\n    }\n\n    public int due",
            ),
            ("another class beside it", "\npublic class Fees {", "\nclass More {\n}\n\npublic class Fees {"),
        ];
        let wrong = wrong.map(|(what, from, to)| (what, from.to_string(), to.to_string()));
        check_all(project, &good, &wrong);
        for i in 0..good.result.files.len() {
            for e in 0..good.result.files[i].edits.len() {
                let mut less = good.clone();
                let gone = less.result.files[i].edits.remove(e);
                let harmless = gone.text.is_empty() && good.result.files[i].file != "port/Fees.java";
                assert!(less.audit(project).is_err() || harmless, "without {gone:?}");
            }
        }
    });
}

#[test]
fn what_packages_keep_is_seen_or_refused() {
    let ask = |fees: &str, other: &str, to: &str| {
        let files = [
            ("port/Fees.java", fees),
            ("port/Other.java", other),
            ("desk/Desk.java", "package desk;\nclass Desk {\n}\n"),
        ];
        let texts = Texts(&files);
        let facts = texts.facts();
        let project = Project::new(&facts, &texts);
        let places = plan(&project, fees, "Fees", to).request.places().to_vec();
        with_new(&project, &places, to, |project| {
            let plan = plan(project, fees, "Fees", to);
            let codes: Vec<String> = plan.result.reasons.iter().map(|r| r.code.to_string()).collect();
            format!("{:?} {}", plan.result.verdict, codes.join(" ")).trim_end().to_string()
        })
    };
    let other = |body: &str| format!("package port;\npublic class Other {{\n {body}\n}}\n");
    let rows = [
        // what it names of its package
        ("int due() {\n return Other.n();\n }", "public static int n() {\n return 1;\n }", "Ready"),
        ("int due() {\n return Other.n();\n }", "static int n() {\n return 1;\n }", "Refused needs-class"),
        ("int due() {\n return Other.n();\n }", "protected static int n() {\n return 1;\n }", "Refused needs-class"),
        ("int due() {\n return new Other().hashCode();\n }", "public Other() {\n }", "Ready"),
        ("int due() {\n return new Other().hashCode();\n }", "Other() {\n }", "Refused needs-class"),
        ("int due() {\n return new Other().hashCode();\n }", "public Other() {\n }\n Other(int n) {\n }", "Ready"),
        // who uses it
        ("int n;", "int of(Fees f) {\n return f.n;\n }", "Ready"),
        (
            "int n() {\n return 1;\n }\n public int n(long k) {\n return 2;\n }",
            "int of(Fees f) {\n return f.n();\n }",
            "Ready",
        ),
        (
            "int n(int k) {\n return 1;\n }\n public int n(long k) {\n return 2;\n }",
            "int of(Fees f) {\n return f.n(1);\n }",
            "Refused overloaded",
        ),
        // what may not leave the package, or is found there
        ("native int due();", "", "Refused needs-class"),
        ("String due() {\n return getClass().getPackageName();\n }", "", "Assumed shown-name"),
        ("public static void main(String[] args) {\n }", "", "Assumed demanded"),
        ("", "String s = \"port.Fees\";", "Assumed named-by-string"),
        ("", "String s = \"Fees\";", "Ready"),
    ];
    for (body, others, expected) in rows {
        let fees = format!("package port;\npublic class Fees {{\n {body}\n}}\n");
        assert_eq!(ask(&fees, &other(others), "desk/Fees.java"), expected, "{body} with {others}");
    }
    // in its package nothing of that matters
    let two = "package port;\npublic class Rest {\n}\nclass Fees {\n int due() {\n return Other.n();\n }\n}\n";
    let kept = other("static int n() {\n return 1;\n }\n String s = \"port.Fees\";");
    let files = [("port/Rest.java", two), ("port/Other.java", kept.as_str())];
    let texts = Texts(&files);
    let facts = texts.facts();
    let project = Project::new(&facts, &texts);
    let start_byte = two.find(" Fees ").expect("it is declared") + 1;
    let file = "port/Rest.java".to_string();
    let place = Place { file, start_line: 1, end_line: 1, start_byte, end_byte: start_byte + 4 };
    with_new(&project, std::slice::from_ref(&place), "port/Fees.java", |project| {
        let to = "port/Fees.java".to_string();
        let plan =
            MoveRequest { finding: String::new(), places: vec![place.clone()], to, no_stay: false }.plan(project);
        assert_eq!(plan.result.verdict, Verdict::Ready, "{:?}", plan.result.reasons);
    });
}
