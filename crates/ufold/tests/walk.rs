//! `walk`, driven by keys through a pseudo-terminal of 80 columns.

mod common;

use std::fs;
use std::path::Path;
use std::process::Command;

use common::{has, ufold};
use rexpect::session::{PtySession, spawn_command};

const FEES: &str = "def berth_fee(ships):
    total = 0
    for ship in ships:
        if ship['tons'] > 100:
            total += ship['tons'] * 3
    print('fees of', len(ships))
    return total


def crane_fee(lifts):
    total = 0
    for lift in lifts:
        if lift['tons'] > 50:
            total += lift['tons'] * 3
    print('fees of', len(lifts))
    return total


print(berth_fee([{'tons': 3}]), crane_fee([{'tons': 70}]))
";

/// The end of the line of keys.
const ASKS: &str = "q quit";

fn project() -> tempfile::TempDir {
    let dir = tempfile::tempdir().expect("a temporary folder");
    fs::write(dir.path().join("fees.py"), FEES).expect("files can be written");
    dir
}

fn walk(dir: &Path, editor: &str) -> PtySession {
    let built = common::built();
    let mut c = Command::new(built.get_program());
    c.envs(built.get_envs().filter_map(|(k, v)| Some((k, v?))));
    c.args(["walk", "--no-check", "--color", "never", "--root"]).arg(dir).current_dir(dir);
    c.env("EDITOR", editor).env_remove("VISUAL").env("TERM", "vt100");
    spawn_command(c, Some(60_000)).expect("a pseudo-terminal")
}

fn text(dir: &Path, file: &str) -> String {
    fs::read_to_string(dir.join(file)).unwrap_or_default()
}

#[test]
fn a_finding_is_folded_and_taken_back() {
    if !has("python3") {
        return;
    }
    let dir = project();
    let mut p = walk(dir.path(), "false");
    // what is read is handed over byte for byte
    let bytes: Vec<u8> = p.exp_string(ASKS).expect("a finding").chars().map(|c| c as u8).collect();
    let shown = String::from_utf8_lossy(&bytes);
    assert!(shown.contains("repeat · 2 copies") && shown.contains("1 to look at · 0 steps done"), "{shown}");
    assert!(shown.lines().all(|l| l.chars().count() <= 80), "{shown}");
    p.send("d").and_then(|_| p.flush()).expect("keys are taken");
    assert!(p.exp_string(ASKS).expect("the diff").contains("+++ b/fees.py"));
    assert_eq!(text(dir.path(), "fees.py"), FEES);
    p.send("f").and_then(|_| p.flush()).expect("keys are taken");
    assert!(p.exp_string(ASKS).expect("the step").contains("nothing is left of the worklist"));
    assert_ne!(text(dir.path(), "fees.py"), FEES);
    p.send("u").and_then(|_| p.flush()).expect("keys are taken");
    assert!(p.exp_string(ASKS).expect("the way back").contains("was taken back"));
    assert_eq!(text(dir.path(), "fees.py"), FEES);
    p.send("q").and_then(|_| p.flush()).expect("keys are taken");
    assert!(p.exp_eof().expect("the end").contains("0 steps done"));
}

#[test]
fn a_plan_is_edited() {
    if !has("python3") {
        return;
    }
    let dir = project();
    let mut p = walk(dir.path(), r#"sed -i 's/"name": null/"name": "shared_fee"/'"#);
    p.exp_string(ASKS).expect("a finding");
    p.send("e").and_then(|_| p.flush()).expect("keys are taken");
    assert!(p.exp_string(ASKS).expect("the new plan").contains("def shared_fee("));
    p.send("f").and_then(|_| p.flush()).expect("keys are taken");
    p.exp_string(ASKS).expect("the step");
    p.send("q").and_then(|_| p.flush()).expect("keys are taken");
    p.exp_eof().expect("the end");
    assert!(text(dir.path(), "fees.py").contains("def shared_fee("));
}

#[test]
fn what_is_no_plan_any_more_changes_nothing() {
    let dir = project();
    let mut p = walk(dir.path(), "sed -i s/request/wish/");
    p.exp_string(ASKS).expect("a finding");
    p.send("e").and_then(|_| p.flush()).expect("keys are taken");
    assert!(p.exp_string(ASKS).expect("the answer").contains("not a plan of ufold"));
    p.send("\x1b").and_then(|_| p.flush()).expect("keys are taken");
    p.exp_eof().expect("the end");
    assert_eq!(text(dir.path(), "fees.py"), FEES);
}

#[test]
fn a_finding_is_never_listed_again() {
    let dir = project();
    fs::write(dir.path().join("ufold.toml"), "[scan]\nsmallest = 12").expect("files can be written");
    let mut p = walk(dir.path(), "false");
    p.exp_string(ASKS).expect("a finding");
    p.send("n").and_then(|_| p.flush()).expect("keys are taken");
    p.exp_string("why is it to stay?").expect("the question");
    p.send_line("the two fees are \"apart\" by law").expect("lines are taken");
    p.exp_string("leaves").expect("the answer");
    p.exp_eof().expect("the end");
    let toml = text(dir.path(), "ufold.toml");
    assert!(toml.starts_with("[scan]\nsmallest = 12\n\n[[never]]\nid = \""), "{toml}");
    let scan = ufold(dir.path(), &["scan"]);
    let list = String::from_utf8_lossy(&scan.stdout);
    assert!(list.contains("1 finding is not listed") && !list.contains("berth_fee"), "{list}");
}

#[test]
fn without_a_terminal_nothing_is_asked() {
    let dir = project();
    let out = ufold(dir.path(), &["walk"]);
    assert_eq!(out.status.code(), Some(2));
    assert!(String::from_utf8_lossy(&out.stderr).contains("no terminal"));
}
