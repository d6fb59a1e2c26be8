//! Static members in another class: right plans, and what must not pass for one.

use super::check_all;
use crate::change::{Place, Verdict};
use crate::index::Project;
use crate::memory::Texts;
use crate::step::{MoveRequest, Plan, Step};

const MAIN: &str = "\
import static port.Fees.low;

import port.Fees;

public class Main {
    static int all(Fees f) {
        return Fees.due(3) + low(2) + Fees.RATE;
    }
}
";

const FEES: &str = "\
package port;

import java.util.List;

public class Fees {
    public static final int RATE = 4;
    private static int count = 1;

    public static int due(int n) {
        count += n;
        return n * RATE + List.of(n).size();
    }

    public static int low(int n) {
        return due(n) - count;
    }
}
";

const DUES: &str = "\
package desk;

public class Dues {
    public static int one(int rate) {
        return port.Fees.due(rate);
    }

    static int net(int n) {
        return n;
    }
}
";

const TIDE: &str = "\
package port;

class Tide extends Fees {
    static int high() {
        return due(1) + Tide.due(2);
    }
}
";

fn plan(project: &Project, text: &str, names: &[&str], to: &str) -> Plan {
    let place = |name: &&str| {
        let start_byte = text.find(&format!(" {name}")).expect("it is declared") + 1;
        let file = "port/Fees.java".to_string();
        Place { file, start_line: 1, end_line: 1, start_byte, end_byte: start_byte + name.len() }
    };
    let (places, finding) = (names.iter().map(place).collect(), String::new());
    MoveRequest { finding, places, to: to.to_string(), no_stay: false }.plan(project)
}

#[test]
fn wrong_moves_of_members_are_refused() {
    let files = [("Main.java", MAIN), ("port/Fees.java", FEES), ("desk/Dues.java", DUES), ("port/Tide.java", TIDE)];
    let texts = Texts(&files);
    let facts = texts.facts();
    let project = Project::new(&facts, &texts);
    let good = plan(&project, FEES, &["due", "count"], "desk/Dues.java");
    assert_eq!(good.result.verdict, Verdict::Ready, "{:?}", good.result.reasons);
    let wrong = [
        ("a call that is left", "Dues", "Fees"),
        ("another function", "Dues.", "Dues.net(1) + Dues."),
        ("another operator", "n * ", "n + "),
        ("another value", "count = 1", "count = 2"),
        ("a name that is not there", "Fees.RATE", "RATE"),
        ("a constant in its place", "Fees.RATE", "4"),
        ("an object's function", "static int due", "int due"),
        ("fewer may call it", "public static int due", "private static int due"),
        ("a package that sees it no more", "public static int due", "static int due"),
        ("another result", "static int due", "static long due"),
        ("another parameter", "due(int n)", "due(long n)"),
        ("a parameter that hides", "due(int n)", "due(int count)"),
        ("a statement less", "        count += n;\n", ""),
        ("a statement more", "        count += n;\n", "        count += n;\n        count++;\n"),
        ("code more in the class", "    public static int due", "    static int more;\n\n    public static int due"),
        ("another import", "import java.util.List;", "import java.awt.List;"),
        ("no import of the old class", "import port.Fees;", ""),
        ("no import of the new class", "import desk.Dues;\n", ""),
        ("an import of another one", "import desk.Dues;\n", "import desk.Other;\n"),
    ];
    let wrong = wrong.map(|(what, from, to)| (what, from.to_string(), to.to_string()));
    check_all(&project, &good, &wrong);
    for i in 0..good.result.files.len() {
        for e in 0..good.result.files[i].edits.len() {
            let mut less = good.clone();
            let gone = less.result.files[i].edits.remove(e);
            let harmless = gone.text.is_empty() && FEES[gone.span.start..gone.span.end].contains("import java");
            assert!(less.audit(&project).is_err() || harmless, "without {gone:?}");
        }
    }
}

#[test]
fn what_members_need_stays_or_is_told() {
    let ask = |fees: &str, other: &str, names: &[&str]| {
        let files = [("port/Fees.java", fees), ("port/Dues.java", other)];
        let texts = Texts(&files);
        let facts = texts.facts();
        let project = Project::new(&facts, &texts);
        let plan = plan(&project, fees, names, "port/Dues.java");
        let codes: Vec<String> = plan.result.reasons.iter().map(|r| r.code.to_string()).collect();
        format!("{:?} {}", plan.result.verdict, codes.join(" ")).trim_end().to_string()
    };
    let plain = "package port;\nclass Dues {\n}\n";
    let rows = [
        // the class of an object, and what it has
        ("static int due() {\n return 1;\n }", plain, "due", "Ready"),
        ("int due() {\n return 1;\n }", plain, "due", "Refused needs-class"),
        ("static synchronized int due() {\n return 1;\n }", plain, "due", "Refused needs-class"),
        ("static native int due();", plain, "due", "Refused needs-class"),
        ("@Hook\n static int due() {\n return 1;\n }", plain, "due", "Refused needs-class"),
        ("@Deprecated\n static int due() {\n return 1;\n }", plain, "due", "Ready"),
        ("private Fees() {\n }\n static Fees due() {\n return new Fees();\n }", plain, "due", "Refused needs-class"),
        ("Fees() {\n }\n static Fees due() {\n return new Fees();\n }", plain, "due", "Ready"),
        ("private int n;\n static int due(Fees f) {\n return f.n;\n }", plain, "due", "Refused needs-class"),
        ("int n;\n static int due(Fees f) {\n return f.n;\n }", plain, "due", "Ready"),
        (
            "private static int n;\n int of() {\n return n;\n }\n static int due() {\n return n;\n }",
            plain,
            "due",
            "Ready",
        ),
        // values, and when they are made
        ("static final int due = 3;", plain, "due", "Ready"),
        ("static int due = new Object().hashCode();", plain, "due", "Refused order"),
        ("static int due = 3;\n static {\n due = 4;\n }", plain, "due", "Refused order"),
        ("static int low = 2;\n static int due = low;", plain, "due", "Refused order"),
        ("static final int low = 2;\n static int due = low;", plain, "due", "Ready"),
        ("static int due = 3, low = 4;", plain, "due", "Refused not-a-name"),
        // the other class
        (
            "static int due() {\n return 1;\n }",
            "package port;\nclass Dues {\n int due;\n}\n",
            "due",
            "Refused name-taken",
        ),
        ("static int due() {\n return 1;\n }", "package port;\ninterface Dues {\n}\n", "due", "Refused no-home"),
        ("static int due() {\n return 1;\n }", "package port;\n@Hook\nclass Dues {\n}\n", "due", "Refused no-home"),
        ("static int due() {\n return 1;\n }", "package port;\nrecord Dues(int n) {\n}\n", "due", "Ready"),
        (
            "static int due() {\n return 1;\n }",
            "package port;\nclass Dues extends Thing {\n}\n",
            "due",
            "Assumed inherited-name",
        ),
    ];
    for (members, other, name, expected) in rows {
        let fees = format!("package port;\n\nclass Fees {{\n {members}\n}}\n");
        assert_eq!(ask(&fees, other, &[name]), expected, "{members}\n{other}");
    }
}
