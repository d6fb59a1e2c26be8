//! The program is killed at every point at which something reaches the disk, and the next command must leave the tree
//! as it was before the step or as it is after it. Also: a full disk, two at once, a check that hangs or interferes.

mod common;

use std::collections::BTreeMap;
use std::fs;
use std::os::unix::process::ExitStatusExt;
use std::path::Path;
use std::process::{Command, Output, Stdio};
use std::time::{Duration, Instant};

const FILES: [&str; 5] = ["berths.py", "cranes.py", "tides.py", "pilots.py", "notices.py"];

/// In memory where that is possible: the tests wait for the disk all the time.
fn folder() -> tempfile::TempDir {
    tempfile::tempdir_in("/dev/shm").or_else(|_| tempfile::tempdir()).expect("a temporary folder")
}

/// A package of five modules with a copy in each.
fn lay_out(dir: &Path, check: &str) {
    fs::create_dir_all(dir.join("port")).expect("folders can be made");
    fs::write(dir.join("port/__init__.py"), "").expect("files can be written");
    for (i, f) in FILES.iter().enumerate() {
        let name = f.trim_end_matches(".py");
        let text = format!(
            "def {name}(rows):\n    total = 0\n    for row in rows:\n        if row.open:\n            total += row.fee * {i} + row.extra\n            print('{name}', row.name, total)\n    return round(total, 2)\n"
        );
        fs::write(dir.join("port").join(f), text).expect("files can be written");
    }
    fs::write(dir.join("ufold.toml"), format!("[check]\ncommand = {check:?}\n\n[scan]\nsmallest = 12\n"))
        .expect("files can be written");
}

fn ufold(dir: &Path, args: &[&str], fault: Option<u32>) -> Output {
    let mut c = common::built();
    c.args(args).arg("--root").arg(dir).current_dir(dir);
    fault.map(|n| c.env("UFOLD_FAULT", n.to_string()));
    c.output().expect("the built program runs")
}

fn git(dir: &Path, args: &[&str]) -> String {
    let o = Command::new("git").args(args).current_dir(dir).output().expect("git runs");
    assert!(o.status.success(), "git {args:?}: {}", String::from_utf8_lossy(&o.stderr));
    String::from_utf8_lossy(&o.stdout).into_owned()
}

/// All files but ufold's own and git's.
fn tree(dir: &Path) -> BTreeMap<String, (String, u32)> {
    use std::os::unix::fs::PermissionsExt;
    let list = |d: &Path| fs::read_dir(d).expect("a folder").flatten().map(|e| e.path()).collect::<Vec<_>>();
    let all = list(dir).into_iter().chain(list(&dir.join("port"))).filter(|p| p.is_file());
    let entry = |p: std::path::PathBuf| {
        let name = p.strip_prefix(dir).expect("inside").to_string_lossy().into_owned();
        let mode = fs::metadata(&p).expect("it is there").permissions().mode();
        (name, (fs::read_to_string(&p).expect("text"), mode))
    };
    all.map(entry).collect()
}

/// Kills a command at each of its points; after each kill another command must find the tree `before` or after.
fn kill_everywhere(prepare: &dyn Fn(&Path), args: &[&str], from: u32, least: u32) -> u32 {
    let settled = |dir: &Path| !dir.join(".git").exists() || git(dir, &["status", "--porcelain"]).is_empty();
    let whole = folder();
    prepare(whole.path());
    let before = tree(whole.path());
    let done = ufold(whole.path(), args, None);
    assert!(done.status.success(), "{}", String::from_utf8_lossy(&done.stderr));
    let after = tree(whole.path());
    assert_ne!(before, after);
    let mut kills = 0;
    for n in from.. {
        let dir = folder();
        prepare(dir.path());
        let killed = ufold(dir.path(), args, Some(n));
        if killed.status.signal().is_none() {
            assert!(killed.status.success(), "{}", String::from_utf8_lossy(&killed.stderr));
            break;
        }
        kills += 1;
        let next = ufold(dir.path(), &["log"], None);
        assert!(next.status.success(), "point {n}: {}", String::from_utf8_lossy(&next.stderr));
        let left = tree(dir.path());
        assert!(left == before || left == after, "point {n} of {args:?} left {left:#?}");
        assert!(settled(dir.path()), "point {n}: tree, index and last commit differ");
        // and work goes on
        if left == before && n % 5 == 0 {
            let again = ufold(dir.path(), args, None);
            assert!(again.status.success() && tree(dir.path()) == after, "point {n}: the step can't be done again");
        }
    }
    assert!(kills >= least, "only {kills} points were reached");
    kills
}

const FOLD: [&str; 4] = ["fold", "port/berths.py:5", "--name", "sum_open"];

#[test]
fn a_killed_step_leaves_before_or_after() {
    let prepare = |d: &Path| lay_out(d, "true");
    let alone = kill_everywhere(&prepare, &[&FOLD[..], &["--no-check"]].concat(), 1, 50);
    let checked = kill_everywhere(&prepare, &FOLD, 1, alone);
    let committed = |d: &Path| {
        lay_out(d, "true");
        commit_all(d);
    };
    // up to there it is the same
    let commit = [&FOLD[..], &["--no-check", "--commit"]].concat();
    let with_commit = kill_everywhere(&committed, &commit, alone - 60, 60);
    assert!(alone + checked + with_commit >= 200, "{alone} + {checked} + {with_commit} kills");
}

#[test]
fn a_step_that_is_killed_around_its_formatter_leaves_before_or_after() {
    let formatted = |d: &Path| {
        lay_out(d, "true");
        let settings = d.join("ufold.toml");
        let text = fs::read_to_string(&settings).expect("settings");
        fs::write(&settings, text + "\n[step]\nformat = \"sed -i 's/ = /  =  /' {files}\"\n").expect("written");
    };
    kill_everywhere(&formatted, &[&FOLD[..], &["--no-check"]].concat(), 1, 60);
}

#[test]
fn a_killed_step_that_makes_a_file_leaves_before_or_after() {
    let into = [&FOLD[..], &["--into", "port/dues.py", "--no-check"]].concat();
    kill_with_new_file(&|d| lay_out(d, "true"), &into, "port/dues.py", 55);
}

#[test]
fn a_killed_step_that_moves_a_file_leaves_before_or_after() {
    let classes = |d: &Path| {
        fs::create_dir_all(d.join("port")).expect("folders can be made");
        let write = |f: &str, text: &str| fs::write(d.join("port").join(f), text).expect("files can be written");
        write("Berth.java", "package port;\n\nclass Berth {\n    int fee = 3;\n}\n");
        write("Dues.java", "package port;\n\nclass Dues {\n    int of(Berth b) {\n        return b.fee;\n    }\n}\n");
    };
    let rename = ["rename", "port/Berth.java:Berth", "Quay", "--no-check"];
    kill_with_new_file(&classes, &rename, "port/Quay.java", 28);
}

#[test]
fn a_killed_step_that_deletes_a_file_leaves_before_or_after() {
    let files = |d: &Path| {
        fs::create_dir_all(d.join("port")).expect("folders can be made");
        let write = |f: &str, text: &str| fs::write(d.join("port").join(f), text).expect("files can be written");
        write("fees.py", "def twice(n):\n    return n * 2\n");
        write("berths.py", "from fees import twice\n\nprint(twice(4))\n");
    };
    let inline = ["inline", "port/fees.py:twice", "--no-check"];
    kill_with_change_of_files(&files, &inline, &|d| !d.join("port/fees.py").exists(), 28);
}

fn kill_with_new_file(files: &dyn Fn(&Path), step: &[&str], new: &str, least: u32) {
    kill_with_change_of_files(files, step, &|d| d.join(new).exists(), least);
}

/// Alone, at the commit, and when it is undone.
fn kill_with_change_of_files(files: &dyn Fn(&Path), step: &[&str], is_done: &dyn Fn(&Path) -> bool, least: u32) {
    let alone = kill_everywhere(files, step, 1, least);
    let committed = |d: &Path| {
        files(d);
        commit_all(d);
    };
    kill_everywhere(&committed, &[step, &["--commit"]].concat(), alone - 5, 12);
    let done = |d: &Path| {
        files(d);
        assert!(ufold(d, step, None).status.success());
        assert!(is_done(d));
    };
    kill_everywhere(&done, &["undo"], 1, 20);
}

fn commit_all(d: &Path) {
    git(d, &["init", "-q"]);
    git(d, &["config", "user.email", "office@saltmarsh.example"]);
    git(d, &["config", "user.name", "office"]);
    git(d, &["add", "."]);
    git(d, &["commit", "-q", "-m", "start"]);
}

/// Where git itself goes on, or is killed, while a hook of the commit runs.
#[test]
fn tree_index_and_commit_go_together() {
    let ufold_dies = "kill -9 $(ps -o ppid= -p $PPID); sleep 1";
    let both_die = "kill -9 $(ps -o ppid= -p $PPID) $PPID";
    let cases = [
        ("pre-commit", ufold_dies, true),
        ("post-commit", ufold_dies, true),
        ("pre-commit", both_die, false),
        ("post-commit", both_die, true),
        ("pre-commit", "kill -9 $PPID", false),
    ];
    for (hook, text, committed) in cases {
        let dir = folder();
        let d = dir.path();
        lay_out(d, "true");
        commit_all(d);
        let path = d.join(".git/hooks").join(hook);
        fs::write(&path, format!("#!/bin/sh\n{text}\n")).expect("files can be written");
        fs::set_permissions(&path, std::os::unix::fs::PermissionsExt::from_mode(0o755)).expect("it is ours");
        let before = tree(d);
        ufold(d, &[&FOLD[..], &["--no-check", "--commit"]].concat(), None);
        let mut next = ufold(d, &["log"], None);
        let said = String::from_utf8_lossy(&next.stderr).into_owned();
        if d.join(".git/index.lock").exists() && !next.status.success() {
            // git's own lock is the person's to remove
            assert!(said.contains("index.lock"), "{hook} {text}: {said}");
            fs::remove_file(d.join(".git/index.lock")).expect("it is there");
            next = ufold(d, &["log"], None);
        }
        assert!(next.status.success(), "{hook} {text}: {said}");
        let _ = fs::remove_file(d.join(".git/index.lock"));
        assert_eq!(git(d, &["status", "--porcelain"]), "", "{hook} {text}");
        assert_eq!(tree(d) != before, committed, "{hook} {text}");
        assert_eq!(git(d, &["rev-list", "--count", "HEAD"]).trim() == "2", committed, "{hook} {text}");
    }
}

#[test]
fn a_killed_undo_leaves_before_or_after() {
    let folded = |d: &Path| {
        lay_out(d, "true");
        assert!(ufold(d, &[&FOLD[..], &["--no-check"]].concat(), None).status.success());
    };
    kill_everywhere(&folded, &["undo"], 1, 15);
}

#[test]
fn a_killed_recovery_is_taken_up_again() {
    // the step is killed late, its recovery at each of its own points
    let cut_off = |d: &Path| {
        lay_out(d, "true");
        let killed = ufold(d, &[&FOLD[..], &["--no-check"]].concat(), Some(48));
        assert!(killed.status.signal().is_some());
    };
    let clean = folder();
    lay_out(clean.path(), "true");
    let before = tree(clean.path());
    for n in 1.. {
        let dir = folder();
        cut_off(dir.path());
        let killed = ufold(dir.path(), &["log"], Some(n));
        assert!(ufold(dir.path(), &["log"], None).status.success());
        assert_eq!(tree(dir.path()), before, "point {n}");
        if killed.status.signal().is_none() {
            assert!(n > 3, "the recovery has points");
            break;
        }
    }
}

#[test]
fn what_a_person_wrote_after_a_crash_stays() {
    let dir = folder();
    lay_out(dir.path(), "true");
    // the last file is in place, the step not yet finished
    let killed = ufold(dir.path(), &[&FOLD[..], &["--no-check"]].concat(), Some(48));
    assert!(killed.status.signal().is_some());
    fs::write(dir.path().join("port/berths.py"), "# mine\n").expect("files can be written");
    let next = ufold(dir.path(), &["log"], None);
    let said = String::from_utf8_lossy(&next.stderr).into_owned();
    assert!(said.contains("port/berths.py was changed by something else"), "{said}");
    assert_eq!(fs::read_to_string(dir.path().join("port/berths.py")).expect("text"), "# mine\n");
}

#[test]
fn two_at_once_are_told_apart() {
    let dir = folder();
    lay_out(dir.path(), "sleep 2");
    let mut first = common::built()
        .args(FOLD)
        .arg("--root")
        .arg(dir.path())
        .stdout(Stdio::null())
        .stderr(Stdio::null())
        .spawn()
        .expect("it starts");
    let started = Instant::now();
    while !common::state_of(dir.path()).join("pending").exists() && started.elapsed() < Duration::from_secs(20) {
        std::thread::sleep(Duration::from_millis(20));
    }
    let second = ufold(dir.path(), &["undo"], None);
    assert_eq!(second.status.code(), Some(5), "{}", String::from_utf8_lossy(&second.stderr));
    assert!(String::from_utf8_lossy(&second.stderr).contains("another ufold is at work"));
    assert!(first.wait().expect("it ends").success());
}

/// The check, what the message says, and whether the tree is as before.
#[test]
fn checks_that_interfere() {
    let cases = [
        ("changes a file of the step", "test ! -e PENDING || echo '# by the check' >> port/berths.py", "the check"),
        ("leaves children that hang", "sleep 300 & true", ""),
        ("hangs", "if [ -e PENDING ]; then sleep 300 & wait; fi", "did not end within 1 s"),
        ("removes a file of the step", "test ! -e PENDING || rm port/cranes.py", "the check"),
    ];
    for (name, check, said) in cases {
        let dir = folder();
        let pending = common::state_of(dir.path()).join("pending");
        lay_out(dir.path(), &check.replace("PENDING", &pending.to_string_lossy()));
        let config = dir.path().join("ufold.toml");
        let text = fs::read_to_string(&config).expect("text").replace("[scan]", "timeout = 1\n\n[scan]");
        fs::write(&config, text).expect("files can be written");
        let before = tree(dir.path());
        let started = Instant::now();
        let o = ufold(dir.path(), &FOLD, None);
        let err = String::from_utf8_lossy(&o.stderr).into_owned();
        assert!(started.elapsed() < Duration::from_secs(60), "{name} takes too long");
        if said.is_empty() {
            assert!(o.status.success(), "{name}: {err}");
            continue;
        }
        assert_eq!(o.status.code(), Some(4), "{name}: {err}");
        assert!(err.contains(said), "{name}: {err}");
        assert_eq!(tree(dir.path()), before, "{name}");
    }
}

/// A small disk of its own, where the system lets a test have one.
#[test]
fn a_full_disk_changes_nothing() {
    let dir = folder();
    let mounted = Command::new("mount").args(["-t", "tmpfs", "-o", "size=1m", "tmpfs"]).arg(dir.path()).output();
    if !mounted.is_ok_and(|o| o.status.success()) {
        eprintln!("skipped: no disk of its own can be mounted");
        return;
    }
    lay_out(dir.path(), "true");
    let before = tree(dir.path());
    let room = |keep: u64| {
        let fill = dir.path().join("fill");
        let _ = fs::remove_file(&fill);
        let all = free_bytes(dir.path());
        fs::write(&fill, vec![b'x'; all.saturating_sub(keep) as usize]).expect("it can be filled");
    };
    let (mut failed, mut done) = (0, 0);
    for keep in (0..40).map(|k| k * 4096) {
        room(keep);
        let o = ufold(dir.path(), &[&FOLD[..], &["--no-check"]].concat(), None);
        fs::remove_file(dir.path().join("fill")).expect("it is there");
        assert!(ufold(dir.path(), &["log"], None).status.success());
        if o.status.success() {
            done += 1;
            assert!(ufold(dir.path(), &["undo"], None).status.success());
        } else {
            failed += 1;
        }
        assert_eq!(tree(dir.path()), before, "with {keep} bytes free: {}", String::from_utf8_lossy(&o.stderr));
    }
    let _ = Command::new("umount").arg(dir.path()).output();
    assert!(failed > 0 && done > 0, "{failed} failed, {done} were done");
}

/// Free bytes of the disk that a folder is on.
fn free_bytes(dir: &Path) -> u64 {
    let o = Command::new("df").args(["--output=avail", "-B1"]).arg(dir).output().expect("df runs");
    let text = String::from_utf8_lossy(&o.stdout).into_owned();
    text.lines().nth(1).and_then(|l| l.trim().parse().ok()).expect("a number")
}
