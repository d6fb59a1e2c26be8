//! Small random programs with two copies of a random block, folded by the built program and run before and after.
//!
//! `UFOLD_RANDOM=2000 cargo test --test random_programs` tries that many; `UFOLD_SEED` sets where to begin.

mod random;

use std::path::Path;
use std::process::{Command, Output};

use random::{javascript, python};

/// A language's interpreter, the program's file, and its maker: the text and the line where the first copy begins.
struct Maker {
    interpreter: &'static str,
    file: &'static str,
    program: fn(u64) -> (String, usize),
}

impl Maker {
    fn run(&self, dir: &Path) -> Output {
        let mut c = Command::new(self.interpreter);
        c.arg(self.file).current_dir(dir).env("PYTHONDONTWRITEBYTECODE", "1").output().expect("the interpreter runs")
    }
}

fn number(name: &str, default: u64) -> u64 {
    std::env::var(name).ok().and_then(|v| v.parse().ok()).unwrap_or(default)
}

fn folding_never_changes_what_a_program_prints(m: &Maker) {
    if Command::new(m.interpreter).arg("--version").output().is_err() {
        assert!(std::env::var_os("UFOLD_ALL_TOOLCHAINS").is_none(), "{} is missing", m.interpreter);
        eprintln!("skipped: {} is not installed", m.interpreter);
        return;
    }
    let (first, count) = (number("UFOLD_SEED", 1), number("UFOLD_RANDOM", 60));
    let (mut folded, mut refused, mut disagreed) = (0, 0, 0);
    for seed in first..first + count {
        let (text, line) = (m.program)(seed);
        let dir = tempfile::tempdir().expect("a temporary folder");
        std::fs::write(dir.path().join(m.file), &text).expect("files can be written");
        let before = m.run(dir.path());
        if !before.status.success() {
            continue; // such as a lambda before its name is bound at compile time
        }
        let target = format!("{}:{line}", m.file);
        let mut ufold = Command::new(env!("CARGO_BIN_EXE_ufold"));
        let fold = ufold.args(["fold", &target, "--no-check", "--root"]).arg(dir.path()).current_dir(dir.path());
        let fold = fold.output().expect("the built program runs");
        let err = String::from_utf8_lossy(&fold.stderr).into_owned();
        match fold.status.code() {
            Some(0) => folded += 1,
            Some(2 | 3) => {
                refused += 1;
                if err.contains("audit:") {
                    eprintln!("seed {seed}: the audit disagrees with the planner\n{err}\n{text}");
                    disagreed += 1;
                }
                continue;
            }
            code => panic!("seed {seed}: exit {code:?}\n{err}"),
        }
        let after = m.run(dir.path());
        let new = std::fs::read_to_string(dir.path().join(m.file)).expect("the file is there");
        // a reading that is moved under an assumption may be what the assumption excludes
        let assumed = err.contains("assumed:");
        assert!(
            assumed || after.stdout == before.stdout,
            "seed {seed} prints something else\n--- before\n{}--- after\n{}{}--- code\n{text}\n--- folded\n{new}",
            String::from_utf8_lossy(&before.stdout),
            String::from_utf8_lossy(&after.stdout),
            String::from_utf8_lossy(&after.stderr),
        );
    }
    println!("{folded} folded, {refused} refused, {disagreed} of them by the audit alone");
    assert!(disagreed * 20 <= count, "the planner and the audit disagree too often");
    assert!(count < 50 || folded * 10 > count, "only {folded} of {count} programs were folded");
}

#[test]
fn python_programs() {
    let program = python::program;
    folding_never_changes_what_a_program_prints(&Maker { interpreter: "python3", file: "main.py", program });
}

#[test]
fn javascript_programs() {
    let program = javascript::program;
    folding_never_changes_what_a_program_prints(&Maker { interpreter: "node", file: "main.js", program });
}
