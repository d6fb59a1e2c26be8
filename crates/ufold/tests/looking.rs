//! Looking at findings: filters and orders, the gate against its ledger, and since when copies differ.

mod common;

use std::fs;
use std::path::Path;
use std::process::Command;

use common::folder::{Folder, both};
use serde_json::Value;

const FEES: &str = "\
def berth_fee(ship, days, rates):
    base = rates.berth * ship.length
    fee = base * days
    if days > 30:
        fee = fee * 0.9
    if ship.is_local:
        fee = fee - rates.local
    print('berth', ship.name, fee)
    return round(fee, 2)
";

const TIDE: &str = "\
def high(rows, day):
    out = []
    for row in rows:
        if row.day == day and row.kind == 'high':
            out.append((row.hour, row.level + row.datum))
    out.sort()
    return out
";

/// Two pairs of copies, in a repository.
fn port() -> Folder {
    let f = Folder::new(&[("fees.py", FEES), ("cranes.py", &FEES.replace("berth", "crane"))]);
    f.write("tides/high.py", TIDE);
    f.write("tides/low.py", &TIDE.replace("high", "low"));
    f.commit_all();
    f
}

fn json(f: &Folder, args: &[&str]) -> Value {
    let o = f.run(&[args, &["--format", "json"]].concat());
    serde_json::from_slice(&o.stdout).unwrap_or_else(|e| panic!("{args:?}: {e}: {}", both(&o)))
}

/// The first file of each finding that is told.
fn told(f: &Folder, args: &[&str]) -> Vec<String> {
    let report = json(f, args);
    let all = report["findings"].as_array().expect("findings");
    all.iter().map(|x| x["copies"][0]["file"].as_str().expect("a file").to_string()).collect()
}

/// Runs; checks the exit code and what is printed; gives it back.
fn prints(f: &Folder, args: &[&str], code: i32, words: &[&str]) -> String {
    let o = f.run(args);
    let text = both(&o);
    assert_eq!(o.status.code(), Some(code), "{args:?}: {text}");
    words.iter().for_each(|w| assert!(text.contains(w), "{args:?}: expected `{w}` in: {text}"));
    text
}

fn schema(name: &str) -> Value {
    let path = Path::new(env!("CARGO_MANIFEST_DIR")).join(name);
    serde_json::from_str(&fs::read_to_string(path).expect("a schema")).expect("JSON")
}

#[test]
fn what_people_work_on_comes_first() {
    let f = port();
    f.write("hoists.py", &FEES.replace("berth", "hoist"));
    for kind in ["slack", "spring", "neap", "ebb"] {
        f.write(&format!("tides/{kind}.py"), &TIDE.replace("high", kind));
    }
    f.commit_all();
    assert_eq!(told(&f, &["scan"]), ["tides/ebb.py", "cranes.py"]);
    for n in 0..20 {
        let hoists = f.read("hoists.py");
        f.write("hoists.py", &format!("{hoists}# {n}\n"));
        f.commit("Say more of the hoists");
    }
    assert_eq!(told(&f, &["scan"]), ["cranes.py", "tides/ebb.py"]);
}

#[test]
fn a_part_is_told_with_the_whole() {
    let billed = |name: &str, way: &str| {
        format!(
            "def {name}(rows, desk):\n    first = desk.open(rows)\n    log(first.{way}(rows).total + 1, first.{way}(rows).low)\n    \
             sums = 0\n    for row in rows:\n        if row.open:\n            sums += row.fee * row.days\n        else:\n            \
             sums -= row.deposit\n    desk.note('sums', sums)\n    desk.close(rows, sums)\n"
        )
    };
    let f = Folder::new(&[("bills.py", &format!("{}\n\n{}", billed("berth", "north"), billed("crane", "south")))]);
    let report = json(&f, &["scan"]);
    let found = &report["findings"][0];
    let lines = |key: &str| -> Vec<(u64, u64)> {
        let line = |c: &Value, key: &str| c[key].as_u64().expect("a line");
        found[key].as_array().expect("places").iter().map(|c| (line(c, "start_line"), line(c, "end_line"))).collect()
    };
    assert_eq!((lines("copies"), lines("folds")), (vec![(1, 11), (14, 24)], vec![(4, 11), (17, 24)]), "{found}");
    prints(&f, &["scan"], 0, &["of 11 lines"]);
}

#[test]
fn filters_and_orders() {
    let f = port();
    assert_eq!(told(&f, &["scan"]), ["cranes.py", "tides/high.py"]);
    assert_eq!(told(&f, &["scan", "--path", "tides"]), ["tides/high.py"]);
    assert_eq!(told(&f, &["scan", "--path", "*/low.py"]), ["tides/high.py"]);
    assert_eq!(told(&f, &["scan", "--path", "fees.py", "--path", "tides/"]).len(), 2);
    assert_eq!(told(&f, &["scan", "--sort", "path"]), ["cranes.py", "tides/high.py"]);
    assert_eq!(told(&f, &["scan", "--verdict", "refused"]), [""; 0]);
    assert_eq!(told(&f, &["scan", "--since", "HEAD"]), [""; 0]);
    let low = f.read("tides/low.py");
    f.write("tides/low.py", &low.replace("    out.sort()\n", "    out.sort()\n    # in order\n"));
    assert_eq!(told(&f, &["scan", "--since", "HEAD"]), ["tides/high.py"]);
    f.commit("Say that it is sorted");
    assert_eq!(told(&f, &["scan", "--since", "HEAD"]), [""; 0]);
    assert_eq!(told(&f, &["scan", "--since", "HEAD~1"]), ["tides/high.py"]);
    assert_eq!(told(&f, &["scan", "--sort", "changes"]), ["tides/high.py", "cranes.py"]);
    // a file that git does not have is new as a whole
    f.write("late.py", &FEES.replace("berth", "late"));
    assert_eq!(told(&f, &["scan", "--since", "HEAD"]), ["cranes.py"]);
    for (args, why) in [
        (["--path", "docks"], "no source file here fits `docks`"),
        (["--since", "no-such"], "git knows no revision `no-such`"),
        (["--since", "--help"], "git knows no revision `--help`"),
        (["--verdict", "maybe"], "expected one of ready, assumed, refused"),
        (["--sort", "size"], "invalid value 'size'"),
        (["--format", "sarif"], "are of `ufold gate`"),
    ] {
        prints(&f, &["scan", &args.join("=")], 2, &[why]);
    }
    let plain = Folder::new(&[("fees.py", FEES)]);
    prints(&plain, &["scan", "--since", "HEAD"], 2, &["this is no git repository"]);
}

#[test]
fn what_is_not_listed_is_said() {
    let f = port();
    // two copies of each would save nothing
    prints(&f, &["scan"], 0, &["2 more would save nothing, or are parts of others; --format json lists them"]);
    f.write("locks.py", &FEES.replace("berth", "lock"));
    ["neap", "ebb", "slack"].iter().for_each(|n| f.write(&format!("tides/{n}.py"), &TIDE.replace("high", n)));
    prints(&f, &["scan", "--limit", "1"], 0, &["1 more; --limit 0 lists them"]);
    let all = prints(&f, &["scan", "--limit", "0"], 0, &[]);
    assert!(!all.contains(" more"), "{all}");
}

#[test]
fn what_changed_since_a_branch_began_is_its_own_alone() {
    let f = port();
    f.git(&["checkout", "-q", "-b", "tides"]);
    let low = f.read("tides/low.py");
    f.write("tides/low.py", &low.replace("out.sort()", "out.sort()  # by hour"));
    f.commit("Say what it is sorted by");
    f.git(&["checkout", "-q", "-b", "fees", "HEAD~1"]);
    f.write("fees.py", &FEES.replace("return", "# dues\n    return"));
    f.commit("Say what they are");
    // what the other branch did is not this one's
    assert_eq!(told(&f, &["scan", "--since", "tides"]), ["cranes.py"]);
}

#[test]
fn the_gate_lets_through_what_is_known() {
    let f = port();
    prints(&f, &["gate"], 1, &["2 findings are new", "there is no ufold-ledger.json yet"]);
    prints(&f, &["gate", "--accept"], 0, &["2 findings, 2 of them new"]);
    let ledger = f.read("ufold-ledger.json");
    assert_eq!(ledger.lines().count(), 4, "{ledger}");
    prints(&f, &["gate"], 0, &["nothing is new and nothing grew; 2 are known"]);
    // moved, and edited in place
    f.write("fees.py", &format!("# fees\n\n\n{}", FEES.replace("0.9", "0.85")));
    f.write("cranes.py", &FEES.replace("berth", "crane").replace("0.9", "0.85"));
    prints(&f, &["gate"], 0, &["2 are known"]);
    // a copy more, of one of them
    f.write("tides/neap.py", &TIDE.replace("high", "neap"));
    let text = prints(&f, &["gate"], 1, &["1 finding grew", "2 copies before"]);
    assert!(!text.contains("fees.py"), "{text}");
    prints(&f, &["gate", "--path", "fees.py"], 0, &["1 is known"]);
    prints(&f, &["gate", "--kind", "long"], 0, &["0 are known"]);
    fs::remove_file(f.path("tides/neap.py")).expect("it is there");
    fs::remove_file(f.path("tides/low.py")).expect("it is there");
    prints(&f, &["gate"], 0, &["1 accepted finding is no more"]);
    prints(&f, &["gate", "--accept"], 0, &["1 finding, 1 of them new; 2 went"]);
    f.write("ufold-ledger.json", "<<<<<<< ours\n");
    prints(&f, &["gate"], 2, &["ufold-ledger.json: line 1: a merge is not resolved", "writes it anew"]);
    prints(&f, &["gate", "--accept"], 0, &["1 finding"]);
}

#[test]
fn the_gate_looks_at_what_a_change_touches() {
    let f = port();
    prints(&f, &["gate", "--accept"], 0, &[]);
    f.commit("Accept what is there");
    prints(&f, &["gate", "--since", "HEAD"], 0, &["0 are known"]);
    let crane = f.read("cranes.py");
    f.write("cranes.py", &crane.replace("        fee = fee * 0.9\n", "        fee = fee * 0.8\n"));
    let said = prints(&f, &["gate", "--since", "HEAD"], 0, &["1 is known", "copy 1 changed, copy 2 did not"]);
    assert!(!said.contains("tides"), "{said}");
    let report = json(&f, &["gate", "--since", "HEAD"]);
    assert_eq!(report["one_sided"][0]["unchanged"][0], 2);
    f.write("late.py", &TIDE.replace("high", "late").replace("out", "found"));
    let comment = f.run(&["gate", "--since", "HEAD", "--format", "markdown"]);
    let text = String::from_utf8_lossy(&comment.stdout).into_owned();
    assert_eq!(comment.status.code(), Some(1), "{text}");
    assert!(text.starts_with("### 1 finding grew; 1 is known") && text.contains("`late.py:1-7` in `late`"), "{text}");
}

#[test]
fn what_is_printed_is_as_its_schema_says() {
    let f = port();
    let sarif = f.run(&["gate", "--format", "sarif"]);
    assert_eq!(sarif.status.code(), Some(1));
    let log: Value = serde_json::from_slice(&sarif.stdout).expect("JSON");
    assert_eq!(log["runs"][0]["results"].as_array().map(Vec::len), Some(2));
    let valid = |schema: &Value, what: &Value| {
        let v = jsonschema::validator_for(schema).expect("a schema");
        let wrong: Vec<String> = v.iter_errors(what).map(|e| format!("{e} at {}", e.instance_path())).collect();
        assert!(wrong.is_empty(), "{wrong:?}");
    };
    let mut standard = schema("tests/common/sarif-2.1.0.schema.json");
    // not a regular expression, as it was published
    for part in ["run", "toolComponent"] {
        standard["definitions"][part]["properties"]["language"].as_object_mut().expect("a rule").remove("pattern");
    }
    valid(&standard, &log);
    let mut broken = log.clone();
    broken["runs"][0]["results"][0]["level"] = "loud".into();
    assert!(!jsonschema::is_valid(&standard, &broken));
    for (args, name) in [
        (vec!["gate"], "gate-1"),
        (vec!["gate", "--accept"], "accepted-1"),
        (vec!["gate"], "gate-1"),
        (vec!["scan"], "scan-1"),
        (vec!["scan", "--kind", "drift"], "scan-1"),
        (vec!["show", "fees.py:3"], "plan-2"),
        (vec!["log"], "log-1"),
    ] {
        valid(&schema(&format!("../../docs/schemas/{name}.json")), &json(&f, &args));
    }
}

/// The n-th script of docs/gate.md, run in a folder; its exit code, and what it printed.
fn recipe(f: &Folder, n: usize) -> (Option<i32>, String) {
    let page = include_str!("../../../docs/gate.md");
    let script = page.split("```sh\n").nth(n).and_then(|p| p.split("```").next()).expect("a script");
    let program = Path::new(env!("CARGO_BIN_EXE_ufold")).parent().expect("a folder");
    let path = format!("{}:{}", program.display(), std::env::var("PATH").unwrap_or_default());
    let mut sh = Command::new("sh");
    sh.envs(common::built().get_envs().filter_map(|(k, v)| Some((k, v?))));
    let o = sh
        .args(["-c", script])
        .env("PATH", path)
        .env("MAIN", "HEAD")
        .current_dir(f.path(""))
        .output()
        .expect("a shell");
    (o.status.code(), both(&o))
}

#[test]
fn the_recipes_work() {
    let f = port();
    assert_eq!(f.run(&["gate", "--accept"]).status.code(), Some(0));
    f.commit("Accept what is there");
    assert_eq!(recipe(&f, 1).0, Some(0));
    assert_eq!(recipe(&f, 2).0, Some(0));
    f.write("late.py", &FEES.replace("berth", "late"));
    let (code, said) = recipe(&f, 1);
    assert!(code == Some(1) && said.contains("1 finding grew"), "{said}");
    assert_eq!(recipe(&f, 2).0, Some(1));
    assert!(f.read("gate.md").starts_with("### 1 finding grew") && f.read("gate.sarif").contains("\"updated\""));
}

#[test]
fn reports_take_the_form_of_their_ending() {
    let f = port();
    prints(&f, &["report", "-o", "report.txt"], 2, &["report.txt: a report ends in .html, .sarif or .md"]);
    prints(&f, &["report", "-o", "none/report.md"], 5, &["cannot write"]);
    prints(&f, &["report", "-o", "report.md"], 0, &["wrote report.md: 2 findings"]);
    assert!(f.read("report.md").contains("| `r"), "{}", f.read("report.md"));
    prints(&f, &["report", "-o", "report.sarif", "--path", "tides"], 0, &["1 finding"]);
    let log: Value = serde_json::from_str(&f.read("report.sarif")).expect("JSON");
    assert_eq!(log["runs"][0]["results"][0]["baselineState"], Value::Null);
    f.write("locks.py", &FEES.replace("berth", "lock"));
    let said = json(&f, &["report", "-o", "report.html"]);
    assert_eq!((&said["schema"], &said["findings"]), (&"ufold.report/1".into(), &1.into()));
    let page = f.read("report.html");
    assert!(page.contains("\"path\":\"locks.py\"") && !page.contains("{{"), "{page}");
}

#[test]
fn git_tells_which_copy_got_a_fix() {
    let f = Folder::new(&[("fees.py", FEES)]);
    f.commit_all();
    f.write("cranes.py", &FEES.replace("berth", "crane"));
    f.commit("Crane fees, after the berths'");
    let fixed = FEES.replace("    return", "    fee = max(fee, rates.least)\n    return");
    f.write("fees.py", &format!("# Fees\n\n\n{fixed}"));
    f.commit("No fee is under the least one");
    f.git(&["mv", "cranes.py", "hoists.py"]);
    f.commit("Call them hoists");
    let drift = ["scan", "--kind", "drift"];
    prints(&f, &drift, 0, &["copy 1 changed in ", ", copy 2 not"]);
    let report = json(&f, &drift);
    let finding = &report["findings"][0];
    let change = &finding["history"]["changes"][0];
    assert_eq!(change["at"]["subject"], "No fee is under the least one");
    assert_eq!(change["changed"][0]["added"][0], "    fee = max(fee, rates.least)");
    assert_eq!((&change["missed"][0], &finding["history"]["alike_then"]), (&2.into(), &1.0.into()));
    let id = finding["id"].as_str().expect("an id");
    let since = ["100 % alike after", "Crane fees, after the berths'", "copy 1 got this in", "copy 2 did not"];
    prints(&f, &["show", id], 0, &since);
    // what is not committed counts, and what both got does not
    let hoists = f.read("hoists.py");
    f.write("hoists.py", &hoists.replace("    return", "    fee = max(fee, rates.least)\n    return"));
    f.write("fees.py", &f.read("fees.py").replace("days > 30", "days > 28"));
    prints(&f, &["show", "fees.py:6"], 0, &["copies 1 and 2 got this in changes that are not"]);
}

#[test]
fn twin_files_are_one_finding() {
    let waiting = TIDE.replace("high", "waiting").replace("level + row.datum", "level");
    let east =
        format!("{FEES}\n\n{}\n\n{waiting}", FEES.replace("berth_fee", "crane_fee").replace("days > 30", "days > 9"));
    let f = Folder::new(&[("gates/east.py", &east), ("gates/west.py", &east.replace("'berth'", "'quay'"))]);
    f.commit_all();
    let list = prints(&f, &["scan"], 0, &["twins", "gates/east.py, west.py", "% alike"]);
    let id = list.lines().find(|l| l.contains(" twins ")).and_then(|l| l.split_whitespace().next()).expect("an id");
    assert!(!list.contains("repeat "), "its pieces are told with it: {list}");
    let report = json(&f, &["scan", "--kind", "twins"]);
    let twin = &report["findings"][0];
    assert_eq!((twin["kind"].as_str(), twin["copies"][1]["file"].as_str()), (Some("twins"), Some("gates/west.py")));
    let pieces: Vec<&str> = twin["pieces"].as_array().expect("pieces").iter().filter_map(Value::as_str).collect();
    let shown = prints(&f, &["show", id], 0, &["Pieces", "What differs: 2 lines of file 1, 2 of file 2", "'quay'"]);
    assert!(!pieces.is_empty() && pieces.iter().all(|p| shown.contains(p)), "{pieces:?}: {shown}");
    prints(&f, &["fold", id, "--no-check"], 3, &["wants-pieces", &format!("ufold show {id}")]);
    // put aside as any other
    f.write("ufold.toml", &format!("[[never]]\nid = \"{id}\"\nreason = \"two gates\"\n"));
    assert!(!prints(&f, &["scan"], 0, &["repeat"]).contains("twins"));
}

#[test]
fn twin_folders_are_one_finding() {
    let gates = format!("{FEES}\n\n{}", FEES.replace("berth_fee", "dock_fee").replace("days > 30", "days > 9"));
    let mean = TIDE.replace("high", "mean").replace("level + row.datum", "level").replace("'mean'", "'berth'");
    let cranes = format!("{TIDE}\n\n{mean}\n\n{}", TIDE.replace("high", "low").replace("out.sort()", "rows.sort()"));
    let f = Folder::new(&[
        ("east/gates.py", &gates),
        ("east/parts/cranes.py", &cranes),
        ("west/gates.py", &gates.replace("'berth'", "'quay'")),
        ("west/parts/cranes.py", &cranes.replace("'berth'", "'quay'")),
        ("west/own.py", "def own(x):\n    return x\n"),
    ]);
    f.commit_all();
    let list = prints(&f, &["scan"], 0, &["twins", "east/, west/", "% alike"]);
    assert!(!list.contains("gates.py"), "its files are told with it: {list}");
    let report = json(&f, &["scan", "--kind", "twins"]);
    let twin = &report["findings"][0];
    assert_eq!(twin["folders"], serde_json::json!(["east", "west"]));
    assert_eq!(twin["copies"].as_array().map(Vec::len), Some(4));
    let id = twin["id"].as_str().expect("an id");
    let shown = prints(&f, &["show", id], 0, &["2 folders", "1 without a twin", "west/parts/cranes.py", "Pieces"]);
    // each pair of files by its own id
    let of_gates = shown.lines().find(|l| l.contains("gates.py") && l.contains("% alike")).expect("the files");
    let files = of_gates.split_whitespace().next().expect("an id");
    prints(&f, &["show", files], 0, &["2 files", "What differs", "'quay'"]);
}
