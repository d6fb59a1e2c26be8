//! Small random hierarchies of classes: members go to their bases, or to new ones, or get other names, and the programs run
//! before and after.
//!
//! `UFOLD_RANDOM=2000 cargo test --test random_classes` tries that many; `UFOLD_SEED` sets where to begin.

mod common;
mod random;

use std::collections::BTreeMap;

use random::Dice;
use random::classes::{Kind, program};

/// Lifts in one program, each planned on what the one before it left.
const STEPS: u64 = 3;

fn no_lift_changes_what_a_program_prints(interpreter: &str, kind: Kind, file: &str) {
    if !common::has(interpreter) {
        return;
    }
    let number = |name: &str, default: u64| std::env::var(name).ok().and_then(|v| v.parse().ok()).unwrap_or(default);
    let (first, count) = (number("UFOLD_SEED", 1), number("UFOLD_RANDOM", 25));
    let (mut done, mut refused, mut disagreed) = (0, 0, 0);
    let mut codes: BTreeMap<String, usize> = BTreeMap::new();
    for seed in first..first + count {
        let p = program(seed, kind);
        let dir = tempfile::tempdir().expect("a temporary folder");
        std::fs::write(dir.path().join(file), &p.text).expect("files can be written");
        let before = common::program(interpreter, dir.path(), file);
        assert!(before.status.success(), "seed {seed}: {}\n{}", String::from_utf8_lossy(&before.stderr), p.text);
        let mut dice = Dice(seed.wrapping_mul(0xd134_2543_de82_ef95) | 1);
        for i in 0..STEPS {
            if p.members.is_empty() {
                continue;
            }
            let member = &p.members[dice.roll(p.members.len() as u64) as usize];
            let place = format!("{file}:{member}");
            let renames = dice.chance(30);
            let mut words = match renames {
                true => vec!["rename".to_string(), place, format!("fresh{i}")],
                false => vec!["lift".to_string(), place],
            };
            if !renames && dice.chance(70) {
                words.extend(["--new-base".to_string(), format!("Fresh{i}")]);
            }
            let mut ufold = common::built();
            let run = ufold.args(&words).args(["--no-check", "--root"]).arg(dir.path()).current_dir(dir.path());
            let run = run.output().expect("the built program runs");
            let err = String::from_utf8_lossy(&run.stderr).into_owned();
            match run.status.code() {
                Some(0) => done += 1,
                Some(2 | 3) => {
                    refused += 1;
                    let code = err.lines().find_map(|l| l.strip_prefix("  ")?.split_once(':'));
                    *codes.entry(code.map_or(String::new(), |c| c.0.to_string())).or_default() += 1;
                    if err.contains("audit:") {
                        eprintln!("seed {seed} {words:?}: the audit disagrees with the planner\n{err}");
                        disagreed += 1;
                    }
                    continue;
                }
                code => panic!("seed {seed} {words:?}: exit {code:?}\n{err}"),
            }
            if renames && err.contains("assumed:") {
                break;
            }
            let after = common::program(interpreter, dir.path(), file);
            assert!(
                after.stdout == before.stdout && after.status.success(),
                "seed {seed} {words:?} prints something else\n{err}\n--- before\n{}--- after\n{}{}\n{}",
                String::from_utf8_lossy(&before.stdout),
                String::from_utf8_lossy(&after.stdout),
                String::from_utf8_lossy(&after.stderr),
                std::fs::read_to_string(dir.path().join(file)).unwrap_or_default(),
            );
        }
    }
    println!("{done} lifted, {refused} refused, {disagreed} of them by the audit alone: {codes:?}");
    assert!(disagreed * 20 <= count, "the planner and the audit disagree too often");
    assert!(done * 10 > count, "only {done} lifts in {count} programs");
}

#[test]
fn lifting_in_python() {
    no_lift_changes_what_a_program_prints("python3", Kind::Python, "main.py");
}

#[test]
fn lifting_in_javascript() {
    no_lift_changes_what_a_program_prints("node", Kind::JavaScript, "main.mjs");
}

#[test]
fn lifting_in_typescript() {
    no_lift_changes_what_a_program_prints(common::TSC, Kind::TypeScript, "main.ts");
}

#[test]
fn lifting_in_java() {
    no_lift_changes_what_a_program_prints(common::JAVA, Kind::Java, "Main.java");
}
