//! The report as a page, in a real browser, used by keyboard alone.

mod common;

use std::path::Path;
use std::process::Command;

use common::folder::{Folder, both};
use serde_json::Value;

/// A browser that is there, and the modules of the tool that drives it.
fn browser() -> Option<(String, String)> {
    let names = ["chromium", "chromium-browser", "google-chrome"];
    let paths = std::env::var_os("PATH").unwrap_or_default();
    let found = names.iter().flat_map(|n| std::env::split_paths(&paths).map(move |p| p.join(n))).find(|p| p.is_file());
    let modules = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../target/tools/node_modules");
    let there = found.filter(|_| modules.join("playwright-core").is_dir());
    if there.is_none() {
        assert!(std::env::var_os("UFOLD_ALL_TOOLCHAINS").is_none(), "chromium or playwright-core is missing");
        eprintln!("skipped: no chromium, or no playwright-core in target/tools");
    }
    Some((there?.display().to_string(), modules.display().to_string()))
}

fn open(f: &Folder, (browser, modules): &(String, String)) -> Value {
    let script = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/common/page.cjs");
    let page = f.path("report.html").canonicalize().expect("the page is there");
    let mut node = Command::new("node");
    let o = node.arg(script).arg(browser).arg(page).env("NODE_PATH", modules).output().expect("node runs");
    serde_json::from_slice(&o.stdout).unwrap_or_else(|e| panic!("{e}: {}", both(&o)))
}

fn report(f: &Folder) {
    let o = f.run(&["report", "-o", "report.html"]);
    assert!(o.status.success(), "{}", both(&o));
}

const FEE: &str = "\
def berth_fee(ship, days, rates):
    note = '</script><script>window.ran = 1</script>'
    fee = rates.berth * ship.length * days
    if days > 30:
        fee = fee * 0.9
    print('berth', ship.name, fee, note)
    return round(fee, 2)
";

#[test]
fn a_page_is_used_by_keyboard_and_asks_nobody() {
    let Some(browser) = browser() else { return };
    let f = Folder::new(&[
        ("fees.py", FEE),
        ("cranes.py", &FEE.replace("berth", "crane")),
        ("docks/\"><img src=x onerror=window.ran=1>.py", &FEE.replace("berth", "dock")),
        ("tides.py", &format!("def tide(rows):\n{}    return rows\n", "    rows.append(len(rows) * 2)\n".repeat(45))),
    ]);
    f.commit_all();
    assert!(f.run(&["gate", "--accept"]).status.success());
    f.commit("Accept");
    report(&f);
    let said = open(&f, &browser);
    let number = |key: &str| said[key].as_u64().unwrap_or_else(|| panic!("{key}: {said}"));
    let text = |key: &str| said[key].as_str().unwrap_or_else(|| panic!("{key}: {said}"));
    assert_eq!(said["errors"].as_array().map(Vec::len), Some(0), "{said}");
    let asked = said["asked"].as_array().expect("requests");
    assert!(asked.len() == 1 && asked[0].as_str().is_some_and(|u| u.starts_with("file://")), "{asked:?}");
    assert_eq!(said["ran"], true);
    let rows = number("rows");
    assert!(rows >= 2, "{said}");
    let all = format!("{rows} of {rows}");
    assert_eq!((text("after_slash"), text("in_list")), ("find", "row"));
    assert_eq!(text("found"), format!("1 of {rows}"));
    assert!(text("detail").starts_with(text("hash")) && text("detail").contains("cranes.py:"), "{said}");
    assert!(number("sides") == 2 && number("marked") > 0, "{said}");
    assert_eq!((text("cleared"), text("all_again")), (all.as_str(), all.as_str()));
    assert_eq!(said["first"], true);
    assert!(text("spot").contains("lines of code"), "{said}");
    assert!(text("of_file").contains(".py") && text("of_pair").contains(" and "), "{said}");
    assert_ne!(text("light"), text("dark"));
    assert_eq!(said["printed_filters"], false);
}

#[test]
fn thousands_of_findings_are_one_list() {
    let Some(browser) = browser() else { return };
    // each function is overlong; none is like another
    let long = |n: usize| {
        let lines: String =
            (0..7).map(|i| format!("    x{i} = call{}(x{}, '{n}')\n", n * 7 + i, (i + n) % 5)).collect();
        format!("def f{n}(x0):\n{lines}    return x1\n\n\n")
    };
    let f = Folder::new(&[("tides.py", "HIGH = 4\n")]);
    for file in 0..50 {
        f.write(
            &format!("part{}/many{file}.py", file % 7),
            &(0..100).map(|n| long(file * 100 + n)).collect::<String>(),
        );
    }
    let o = f.run(&["report", "-o", "report.html", "--limit", "1", "--kind", "long", "--longest", "6"]);
    assert!(o.status.success(), "{}", both(&o));
    let size = std::fs::metadata(f.path("report.html")).expect("it is there").len();
    let said = open(&f, &browser);
    assert_eq!(said["rows"], 5000, "{said}");
    assert_eq!((&said["first"], &said["all_again"]), (&true.into(), &"5000 of 5000".into()), "{said}");
    assert!(size < 20 << 20, "{size}");
    eprintln!("{size} bytes, opened in {} ms, from end to start in {} ms", said["opened_in"], said["moved_in"]);
}
