//! The net before, during and after a step: the check test by test, recordings, probing, long runs, coverage.

mod common;

use std::fs;
use std::path::{Path, PathBuf};
use std::process::{Command, Output};
use std::time::{Duration, Instant};

/// A module with two copies, one of them tested, and three tests.
const FEES: &str = "\
def berth(rows):
    total = 0
    for row in rows:
        if row['open']:
            total += row['fee'] * 2 + row['extra']
            print('berth', row['name'], total)
    total = abs(total)
    total = max(total, 0)
    return round(total, 2)


def crane(rows):
    total = 0
    for row in rows:
        if row['open']:
            total += row['fee'] * 3 + row['extra']
            print('crane', row['name'], total)
    total = abs(total)
    total = max(total, 0)
    return round(total, 2)
";

const TESTS: &str = "\
import unittest
import fees

ROWS = [{'open': True, 'fee': 4, 'extra': 1, 'name': 'Ann'}]


class FeesTest(unittest.TestCase):
    def test_berth(self):
        self.assertEqual(fees.berth(ROWS), 9)

    def test_names(self):
        self.assertTrue(hasattr(fees, 'crane'))


if __name__ == '__main__':
    unittest.main()
";

const CHECK: &str = "python3 -m unittest -v test_fees";

struct Port(tempfile::TempDir);

impl Port {
    fn new() -> Port {
        let p = Port(tempfile::tempdir().expect("a temporary folder"));
        p.write("fees.py", FEES);
        p.write("test_fees.py", TESTS);
        p.write("ufold.toml", &format!("[check]\ncommand = {CHECK:?}\n\n[scan]\nsmallest = 12\n"));
        p
    }
    fn path(&self, name: &str) -> PathBuf {
        self.0.path().join(name)
    }
    fn write(&self, name: &str, text: &str) {
        fs::write(self.path(name), text).expect("files can be written");
    }
    fn read(&self, name: &str) -> String {
        fs::read_to_string(self.path(name)).expect("it is there")
    }
    fn change(&self, name: &str, from: &str, to: &str) {
        let text = self.read(name);
        assert!(text.contains(from), "{name} has no `{from}`");
        self.write(name, &text.replace(from, to));
    }
    fn run(&self, args: &[&str]) -> Output {
        let mut c = common::built();
        c.args(args).arg("--root").arg(self.0.path()).current_dir(self.0.path());
        c.env("PYTHONDONTWRITEBYTECODE", "1").output().expect("the built program runs")
    }
    /// Exit code and words that must be said.
    fn expect(&self, args: &[&str], code: i32, said: &[&str]) -> String {
        let o = self.run(args);
        let all = format!("{}{}", String::from_utf8_lossy(&o.stdout), String::from_utf8_lossy(&o.stderr));
        assert_eq!(o.status.code(), Some(code), "{args:?}: {all}");
        said.iter().for_each(|s| assert!(all.contains(s), "{args:?} does not say `{s}`: {all}"));
        all
    }
    fn git(&self) -> &Port {
        for args in [
            &["init", "-q"][..],
            &["config", "user.email", "office@saltmarsh.example"],
            &["config", "user.name", "office"],
            &["add", "."],
            &["commit", "-q", "-m", "start"],
        ] {
            assert!(Command::new("git").args(args).current_dir(self.0.path()).status().expect("git runs").success());
        }
        self
    }
}

fn has_python() -> bool {
    let there = Command::new("python3").arg("--version").output().is_ok();
    assert!(there || std::env::var_os("UFOLD_ALL_TOOLCHAINS").is_none(), "python3 is missing");
    there
}

/// What is done to the tests after the baseline, and what the check says then.
#[test]
fn the_check_tells_test_by_test() {
    if !has_python() {
        return;
    }
    let changes: [(&str, &str, &str); 4] = [
        (
            "self.assertEqual(fees.berth(ROWS), 9)",
            "self.assertEqual(fees.berth(ROWS), 8)",
            "test_berth: passed before, fails now",
        ),
        (
            "    def test_names",
            "    @unittest.skip('no')\n    def test_names",
            "test_names: passed before, is skipped now",
        ),
        ("def test_names", "def unnamed", "test_names: passed before, is not run any more"),
        ("import fees\n", "import fees_\n", "is not run any more"),
    ];
    for (from, to, said) in changes {
        let p = Port::new();
        p.expect(&["check"], 0, &["passed", "2 passed"]);
        p.change("test_fees.py", from, to);
        p.expect(&["check"], 1, &[said]);
    }
    let p = Port::new();
    p.expect(&["check"], 0, &["2 passed"]);
    p.change("test_fees.py", "    def test_names", "    def test_more(self):\n        pass\n\n    def test_names");
    p.expect(&["check"], 0, &["3 passed"]);
    p.expect(&["check", "--check", "true"], 0, &["only its exit code is compared"]);
}

/// Several commands, each with its folder, variables and reports, old ones and files with odd times among them.
#[test]
fn checks_of_several_commands() {
    let p = Port::new();
    fs::create_dir_all(p.path("kiosk/reports")).expect("folders can be made");
    let report = |name: &str| format!("<testsuite name='s'><testcase classname='c' name='{name}'/></testsuite>");
    p.write("kiosk/reports/old.xml", &report("left_over"));
    p.write("kiosk/fresh", &report("fresh"));
    p.write(
        "ufold.toml",
        "[check]\nstop_early = true\n\n[[check.commands]]\nrun = \"printf '1..1\\\\nok 1 - a\\\\n' > {report}\"\nreport = \"tap\"\n\n\
         [[check.commands]]\nrun = \"test \\\"$TIDE\\\" = high && cp fresh reports/new.xml && touch -d 2001-01-01 reports/new.xml\"\n\
         folder = \"kiosk\"\nenv = { TIDE = \"high\" }\nfiles = [\"reports/*.xml\"]\ntimeout = 20\n",
    );
    let said = p.expect(&["check", "--format", "json"], 0, &["\"a\"", "kiosk > c > fresh"]);
    assert!(!said.contains("left_over"), "{said}");
    // a report that is not written is no pass
    p.change("ufold.toml", "&& cp fresh reports/new.xml && touch -d 2001-01-01 reports/new.xml", "");
    p.expect(&["check"], 1, &["it wrote no report"]);
    p.change("ufold.toml", "ok 1 - a", "not ok 1 - a");
    let said = p.expect(&["check"], 1, &["passes, but tests fail"]);
    assert!(!said.contains("it wrote no report"), "the second command is left out: {said}");
    for (text, why) in [
        ("[check]\ncommand = \"a\"\n[[check.commands]]\nrun = \"b\"\n", "not both"),
        ("[[check.commands]]\nfolder = \"x\"\n", "`run` is missing"),
        ("[[check.commands]]\nrun = \"a\"\nreport = \"none\"\n", "unknown variant"),
    ] {
        p.write("ufold.toml", text);
        p.expect(&["check"], 2, &[why]);
    }
}

#[test]
fn a_step_that_changes_a_test_is_taken_back() {
    if !has_python() {
        return;
    }
    let p = Port::new();
    // the tests look at something that the step changes
    p.change(
        "test_fees.py",
        "hasattr(fees, 'crane')",
        "'range' not in open('fees.py').read() and open('fees.py').read().count('total = 0') == 2",
    );
    let before = p.read("fees.py");
    p.expect(&["fold", "fees.py:3"], 4, &["test_names: passed before, fails now", "every file was put back"]);
    assert_eq!(p.read("fees.py"), before);
    p.expect(&["log"], 0, &["restored", "test_names"]);
    // and is not tried again by itself
    p.expect(&["fold", "--all"], 0, &["nothing to fold"]);
    p.expect(&["fold", "--all", "--again", "--any-name"], 0, &["1 taken back"]);
}

#[test]
fn ready_says_what_stands_in_the_way() {
    if !has_python() {
        return;
    }
    let p = Port::new();
    p.git().expect(&["ready"], 0, &["clean", "2 passed", "ended twice as it did once", "ready to start"]);
    p.write("fees.py", &format!("{FEES}\n"));
    p.expect(&["ready"], 1, &["uncommitted changes in 1 file: fees.py", "not ready"]);
    // a test that changes its mind is named, and left out of comparisons
    let p = Port::new();
    let moody = "    def test_mood(self):\n        import os\n        there = os.path.exists('mood')\n        \
                 (os.remove if there else lambda f: open(f, 'w').close())('mood')\n        self.assertTrue(there)\n\n";
    p.change("test_fees.py", "    def test_names", &format!("{moody}    def test_names"));
    p.expect(&["ready"], 0, &["1 test changed between the runs", "test_mood"]);
    p.expect(&["fold", "fees.py:3"], 0, &["check passed"]);
    p.expect(&["undo"], 0, &[]);
    p.change("test_fees.py", "berth(ROWS), 9", "berth(ROWS), 7");
    p.expect(&["ready"], 1, &["not ready", "exit 1"]);
    // a command that fails once, although its tests do not
    let p = Port::new();
    let once = "test -e .once; r=$?; touch .once; python3 -m unittest -v test_fees && exit $r";
    p.expect(&["ready", "--check", once], 1, &["2 passed", "the first run was another one", "not ready"]);
}

#[test]
fn coverage_is_read_and_told() {
    if !has_python() {
        return;
    }
    let p = Port::new();
    let line = |n: usize| format!("DA:{n},{}\n", usize::from(n < 10));
    let lines: String = (2..10).chain(13..21).map(line).collect();
    p.write("lcov.info", &format!("SF:fees.py\n{lines}end_of_record\n"));
    p.expect(&["scan"], 0, &["tests", "part"]);
    p.expect(&["show", "fees.py:3"], 0, &["covered", "not covered: 0 of 8 lines"]);
    p.expect(&["ready"], 0, &["1 in part, 0 not at all"]);
    p.expect(&["fold", "fees.py:3"], 0, &["no test runs copy 2 (fees.py:13-20)"]);
    p.change("ufold.toml", "[scan]", "coverage = [\"none.xml\"]\n\n[scan]");
    p.expect(&["scan"], 5, &["none.xml"]);
}

#[test]
fn recordings_stand_for_tests() {
    if !has_python() {
        return;
    }
    let p = Port::new();
    p.write("report.py", "import sys, time\nimport fees\nrows = [{'open': True, 'fee': int(sys.argv[1]), 'extra': 1, 'name': 'Ann'}]\n\
                          print(fees.berth(rows), fees.crane(rows))\nprint('took', time.perf_counter(), 's', file=sys.stderr)\n\
                          open('out.txt', 'w').write('done')\n");
    let command = ["--files", "out.txt", "--", "python3", "report.py"];
    p.expect(&[&["record", "one"], &command[..], &["4"]].concat(), 3, &["two runs differ", "--mask duration"]);
    assert!(!p.path("ufold-recordings/one").exists());
    p.write("ships.csv", "ship,tons\nann,4\nbee,9\n");
    let table = ["record", "fees", "--inputs", "ships.csv", "--mask", "duration"];
    p.expect(&[&table[..], &command[..], &["{tons}"]].concat(), 0, &["recorded fees: 2 runs, 8 files"]);
    assert_eq!(p.read("ufold-recordings/fees/bee/stdout").lines().last(), Some("19 28"));
    p.expect(&["record"], 0, &["fees", "python3 report.py {tons}"]);
    p.expect(&["check"], 0, &["2 of 2 recordings as before"]);
    p.expect(&["fold", "fees.py:3"], 0, &["check passed"]);
    // a change that no test sees
    p.change("report.py", "fees.crane(rows))", "fees.crane(rows) + 1)");
    let said =
        p.expect(&["check"], 1, &["recording fees/ann: another stdout", "recording fees/bee", "-19 28", "+19 29"]);
    assert!(said.contains("record --accept fees"), "{said}");
    p.expect(&["record", "--accept", "fees"], 0, &[]);
    p.expect(&["check"], 0, &["2 of 2 recordings as before"]);
    for (args, why) in [
        (&["record", "../x", "--", "true"][..], "can't name a recording"),
        (&["record", "x"], "what is to be recorded"),
        (&["record", "x", "--mask", "(", "--", "true"], "mask"),
        (&["record", "--accept", "none"], "there is no recording none"),
        (&["record", "fees", "--", "true"], "there is a recording fees"),
    ] {
        p.expect(args, 2, &[why]);
    }
    p.expect(&["record", "x", "--", "no-such-program"], 5, &["cannot start"]);
}

#[test]
fn probing_names_what_no_test_sees() {
    if !has_python() {
        return;
    }
    let p = Port::new();
    p.expect(&["fold", "fees.py:3"], 0, &[]);
    let tree = [p.read("fees.py"), p.read("test_fees.py")];
    let said = p.expect(&["probe"], 1, &["test_fees.FeesTest.test_berth", "not noticed"]);
    let of = |place: &str| -> Vec<&str> {
        let lines = said.lines().skip_while(|l| !l.contains(place)).skip(1);
        lines.take_while(|l| l.starts_with("  ")).collect()
    };
    assert!(of("berth").iter().filter(|l| l.contains("  noticed")).count() >= 3, "{said}");
    assert!(of(" crane").iter().all(|l| l.contains("not noticed")), "{said}");
    assert_eq!([p.read("fees.py"), p.read("test_fees.py")], tree);
    p.expect(&["probe", "--minutes", "0"], 0, &["not tried, the time was up"]);
    // a check that does not run the code can't notice anything
    p.expect(&["probe", "--check", "true"], 3, &["no code at all"]);
    p.expect(&["probe", "7"], 2, &["no such step"]);
}

/// Bodies that have nothing in common, `K` being what differs between the copies of each.
const BODIES: [&str; 8] = [
    "total = K\nfor row in rows:\n    total += row\n    total -= 1\n    if total > 90:\n        total = 0",
    "total = len(rows)\nwhile total < K:\n    total = total * 2 + 1\n    rows = rows + [total]\n    print(rows[-1])",
    "seen = {}\nseen['a'] = list(rows)\nseen['b'] = sorted(seen['a'])\nseen['c'] = K\nseen['d'] = seen['b'][0]\ntotal = len(seen)",
    "try:\n    total = int(rows[K])\nexcept IndexError:\n    total = -1\nexcept ValueError:\n    total = -2\nelse:\n    print('done')",
    "total = [r for r in rows if r > K]\ntotal = [r for r in total if r % 2 == 0]\ntotal = {r: [r] for r in total}\ntotal = len(total)",
    "text = ' '.join(str(r) for r in rows)\ntext = text.strip().upper()\ntext = text.replace('A', 'B').lower()\ntotal = text.find(str(K))",
    "if len(rows) > K:\n    total = 1\nelif not rows:\n    total = 2\nelif rows[0] is None:\n    total = 3\nelse:\n    total = 4",
    "first, *rest = rows\nassert first is not None, 'first'\ntotal = max(first, K) if rest else min(first, 7)\ntotal = -total or +total\ntotal = ~total",
];

/// Eight groups of copies, of which one must not be folded.
fn pairs(p: &Port) {
    let mut text = String::new();
    for (i, body) in BODIES.iter().enumerate() {
        for (name, k) in [("a", "2"), ("b", "3"), ("c", "4")] {
            let lines: String = body.replace('K', k).lines().map(|l| format!("    {l}\n")).collect();
            let end = format!("    print('pair {i}', total)\n    return total\n\n\n");
            text.push_str(&format!("def f{i}{name}(rows):\n{lines}{end}"));
        }
    }
    p.write("pairs.py", &text);
    p.write("fees.py", "");
    let check = "test $(grep -c \"'pair 5'\" pairs.py) = 3";
    p.write("ufold.toml", &format!("[check]\ncommand = {check:?}\n\n[scan]\nsmallest = 12\n"));
}

#[test]
fn a_batch_is_halved_until_the_bad_step_is_found() {
    let p = Port::new();
    pairs(&p);
    p.git();
    let said = p.expect(
        &["fold", "--all", "--any-name", "--batch", "8", "--commit"],
        0,
        &["7 findings folded", "1 taken back"],
    );
    assert!(said.contains("tells of a change"), "{said}");
    let text = p.read("pairs.py");
    let count = |i: usize| text.matches(&format!("'pair {i}'")).count();
    assert_eq!((0..8).map(count).collect::<Vec<_>>(), [1, 1, 1, 1, 1, 3, 1, 1], "{text}");
    let log = Command::new("git").args(["log", "--format=%B"]).current_dir(p.0.path()).output().expect("git runs");
    assert_eq!(String::from_utf8_lossy(&log.stdout).matches("Ufold-Step: ").count(), 7);
    p.expect(&["check"], 0, &["passed"]);
}

#[test]
fn long_runs_stop_and_go_on() {
    let p = Port::new();
    pairs(&p);
    p.expect(&["fold", "--all", "--any-name", "--most-steps", "2"], 0, &["2 findings folded"]);
    p.expect(&["fold", "--all", "--minutes", "0"], 0, &["nothing to fold"]);
    let lines = p.expect(&["fold", "--all", "--any-name", "--format", "json", "--quiet"], 0, &[]);
    let events: Vec<serde_json::Value> =
        lines.lines().map(|l| serde_json::from_str(l).expect("a line is JSON")).collect();
    assert_eq!(events.iter().filter(|e| e["event"] == "step").count(), 5, "{lines}");
    assert_eq!(events.last().expect("a summary")["taken_back"].as_array().map(Vec::len), Some(1));
    // killed between the steps of a batch: they are checked when it goes on
    let p = Port::new();
    pairs(&p);
    let mut child = common::built()
        .args([
            "fold",
            "--all",
            "--any-name",
            "--batch",
            "8",
            "--check",
            "sleep 1; test $(grep -c \"'pair 5'\" pairs.py) = 3",
            "--root",
        ])
        .arg(p.0.path())
        .current_dir(p.0.path())
        .stdout(std::process::Stdio::null())
        .stderr(std::process::Stdio::null())
        .spawn()
        .expect("it starts");
    let eighth = common::state_of(p.0.path()).join("journal/0008/step.json");
    wait_for(|| eighth.exists());
    child.kill().expect("it can be killed");
    child.wait().expect("it ends");
    let said = p.expect(&["fold", "--all", "--any-name", "--batch", "8"], 0, &["not checked when ufold ended"]);
    assert!(said.contains("1 taken back"), "{said}");
    assert_eq!(p.read("pairs.py").matches("'pair 5'").count(), 3);
    assert_eq!(p.read("pairs.py").matches("'pair 4'").count(), 1);
}

fn wait_for(there: impl Fn() -> bool) {
    let started = Instant::now();
    while !there() {
        assert!(started.elapsed() < Duration::from_secs(30), "it does not come");
        std::thread::sleep(Duration::from_millis(10));
    }
}

#[test]
fn watching_runs_again_when_a_file_changes() {
    let p = Port::new();
    pairs(&p);
    p.write("ufold.toml", "[check]\ncommand = \"echo run >> ignored/runs\"\n\n[scan]\nsmallest = 12\n");
    fs::create_dir_all(p.path("ignored")).expect("folders can be made");
    p.write(".gitignore", "ignored/\n");
    let child = common::built()
        .args(["watch", "--runs", "2", "--quiet-for", "100", "--root"])
        .arg(p.0.path())
        .stdout(std::process::Stdio::piped())
        .spawn()
        .expect("it starts");
    wait_for(|| lines(&p.path("ignored/runs")) == 1);
    // it looks at the files after its run
    std::thread::sleep(Duration::from_millis(400));
    assert_eq!(lines(&p.path("ignored/runs")), 1);
    p.change("pairs.py", "pair 3", "pair three");
    let o = child.wait_with_output().expect("it ends after its second run");
    let said = String::from_utf8_lossy(&o.stdout).into_owned();
    assert!(
        o.status.success() && said.contains("1 file changed: pairs.py") && said.contains("has 2 other copies"),
        "{said}"
    );
    assert_eq!(lines(&p.path("ignored/runs")), 2);
}

fn lines(path: &Path) -> usize {
    fs::read_to_string(path).map_or(0, |t| t.lines().count())
}
