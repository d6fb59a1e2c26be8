//! The project's formatter: what it makes of a step's files is the step, with its journal and its way back.

mod common;

use std::fs;
use std::path::Path;
use std::process::Output;

use common::TWO_COPIES;

/// Writes every `=` with two spaces around it, and says which files it was given.
const WIDE: &str = "for f in {files}; do sed -i 's/ = /  =  /' \"$f\"; echo \"$f\" >> given.txt; done";

fn ufold(dir: &Path, args: &[&str]) -> (Option<i32>, String) {
    let o: Output = common::program_that_asks()
        .args(args)
        .args(["--root", "."])
        .current_dir(dir)
        .output()
        .expect("the built program runs");
    (o.status.code(), format!("{}{}", String::from_utf8_lossy(&o.stdout), String::from_utf8_lossy(&o.stderr)))
}

/// A folder with a file of two copies, one that no step touches, and a formatter.
fn folder(format: &str, check: &str) -> tempfile::TempDir {
    let dir = tempfile::tempdir().expect("a temporary folder");
    let settings = format!("[check]\ncommand = {check:?}\n\n[scan]\nsmallest = 12\n\n[step]\nformat = {format:?}\n");
    for (path, text) in [("port.py", TWO_COPIES), ("other.py", "a = 1\n"), ("ufold.toml", &settings)] {
        fs::write(dir.path().join(path), text).expect("files can be written");
    }
    dir
}

fn read(dir: &Path, path: &str) -> String {
    fs::read_to_string(dir.join(path)).expect("files can be read")
}

fn names(dir: &Path) -> Vec<String> {
    let all = fs::read_dir(dir).expect("a folder").flatten();
    let mut names: Vec<String> = all.map(|e| e.file_name().to_string_lossy().into_owned()).collect();
    names.sort();
    names
}

const FOLD: [&str; 3] = ["fold", "port.py:2", "--trust"];

#[test]
fn the_touched_files_are_formatted_before_the_check_and_undone_with_the_step() {
    let dir = folder(WIDE, "grep -q '  =  ' port.py");
    let before = read(dir.path(), "port.py");
    // the check passes only on what is formatted, so the tree before any step is told to be so too
    fs::write(dir.path().join("port.py"), before.replacen(" = ", "  =  ", 1)).expect("written");
    let start = read(dir.path(), "port.py");
    let (code, said) = ufold(dir.path(), &FOLD);
    assert_eq!(code, Some(0), "{said}");
    let after = read(dir.path(), "port.py");
    assert!(after.lines().filter(|l| l.contains(" = ")).all(|l| l.contains("  =  ")), "{after}");
    assert_ne!(after, start);
    assert_eq!(read(dir.path(), "other.py"), "a = 1\n");
    let given = read(dir.path(), "given.txt");
    assert!(given.lines().count() == 1 && given.trim().ends_with(".py"), "{given}");
    assert_eq!(names(dir.path()), ["given.txt", "other.py", "port.py", "ufold.toml"]);
    let (code, said) = ufold(dir.path(), &["undo"]);
    assert_eq!(code, Some(0), "{said}");
    assert_eq!(read(dir.path(), "port.py"), start);
}

#[test]
fn a_formatter_that_fails_leaves_everything_as_it_was() {
    for (format, expected) in [
        ("sed -i s/total/x/ {files}; echo no such rule; exit 3", "ended with 3; nothing was written\nno such rule"),
        ("there-is-no-such-formatter {files}", "nothing was written"),
    ] {
        let dir = folder(format, "true");
        let (code, said) = ufold(dir.path(), &FOLD);
        assert_eq!(code, Some(5), "{said}");
        assert!(said.contains(expected), "{said}");
        assert_eq!(read(dir.path(), "port.py"), TWO_COPIES);
        assert_eq!(names(dir.path()), ["other.py", "port.py", "ufold.toml"]);
        assert!(ufold(dir.path(), &["log"]).1.contains("no steps"), "nothing was begun");
    }
}

#[test]
fn a_formatter_is_run_only_after_a_yes_and_needs_a_place_for_the_files() {
    let dir = folder(WIDE, "true");
    let (code, said) = ufold(dir.path(), &["fold", "port.py:2", "--no-check"]);
    assert_ne!(code, Some(0), "{said}");
    assert!(said.contains("sed -i"), "{said}");
    assert_eq!(read(dir.path(), "port.py"), TWO_COPIES);
    let (code, said) = ufold(dir.path(), &["fold", "port.py:2", "--no-check", "--trust"]);
    assert_eq!(code, Some(0), "{said}");
    assert!(read(dir.path(), "port.py").contains("  =  "));
    let dir = folder("my-formatter --all", "true");
    let (code, said) = ufold(dir.path(), &FOLD);
    assert_eq!(code, Some(2), "{said}");
    assert!(said.contains("step.format: expected {files}"), "{said}");
}
