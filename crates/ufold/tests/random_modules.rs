//! Small random projects of modules that import each other: definitions move and get other names, files are split, and the
//! programs run before and after.
//!
//! `UFOLD_RANDOM=2000 cargo test --test random_modules` tries that many; `UFOLD_SEED` sets where to begin.

mod common;
mod random;

use std::path::Path;
use std::process::Output;

use random::Dice;
use random::modules::{Kind, Project, project};

/// Moves of one project, each planned on what the one before it left.
const STEPS: u64 = 2;

fn run(interpreter: &str, dir: &Path, p: &Project) -> Output {
    common::program(interpreter, dir, &p.files[0].0)
}

fn lay_out(p: &Project, dir: &Path) {
    for (path, text) in &p.files {
        let file = dir.join(path);
        std::fs::create_dir_all(file.parent().expect("a folder")).expect("folders can be made");
        std::fs::write(file, text).expect("files can be written");
    }
}

/// The words of a step: names of a module go to another one or a new one, one gets another name, or a module is split.
fn step(dice: &mut Dice, p: &Project) -> Vec<String> {
    let (path, names) = &p.modules[dice.roll(p.modules.len() as u64) as usize];
    if dice.chance(30) {
        let name = &names[dice.roll(names.len() as u64) as usize];
        return vec!["rename".into(), format!("{path}:{name}"), format!("fresh_{}", dice.roll(1000))];
    }
    let mut words = if dice.chance(30) {
        vec!["split".into(), path.clone(), "--all-parts".into()]
    } else {
        let some = (0..1 + dice.roll(2)).map(|_| names[dice.roll(names.len() as u64) as usize].clone());
        let mut some: Vec<String> = some.collect();
        some.dedup();
        let (folder, file) = path.rsplit_once('/').map_or(("", path.as_str()), |(a, b)| (&path[..a.len() + 1], b));
        let extension = &file[file.find('.').unwrap_or(0)..];
        let other = &p.modules[dice.roll(p.modules.len() as u64) as usize].0;
        let to = if dice.chance(50) { other.clone() } else { format!("{folder}fresh{extension}") };
        vec!["move".into(), format!("{path}:{}", some.join(",")), "--to".into(), to]
    };
    words.extend(dice.chance(50).then(|| "--no-stay".to_string()));
    words
}

/// What is printed, without what files say when they are loaded: when that is may be an assumption.
fn without_loads(out: &[u8]) -> String {
    String::from_utf8_lossy(out).lines().filter(|l| !l.starts_with("loading ")).map(|l| format!("{l}\n")).collect()
}

fn no_move_changes_what_a_program_prints(interpreter: &str, kind: Kind) {
    if !common::has(interpreter) {
        return;
    }
    let number = |name: &str, default: u64| std::env::var(name).ok().and_then(|v| v.parse().ok()).unwrap_or(default);
    let (first, count) = (number("UFOLD_SEED", 1), number("UFOLD_RANDOM", 25));
    let (mut ready, mut assumed, mut refused, mut disagreed) = (0, 0, 0, 0);
    for seed in first..first + count {
        let p = project(seed, kind);
        let dir = tempfile::tempdir().expect("a temporary folder");
        lay_out(&p, dir.path());
        let mut before = run(interpreter, dir.path(), &p);
        assert!(before.status.success(), "seed {seed}: {}", String::from_utf8_lossy(&before.stderr));
        let mut dice = Dice(seed.wrapping_mul(0xd134_2543_de82_ef95) | 1);
        for _ in 0..STEPS {
            let words = step(&mut dice, &p);
            let mut ufold = common::built();
            let done = ufold.args(&words).args(["--no-check", "--root"]).arg(dir.path()).current_dir(dir.path());
            let done = done.output().expect("the built program runs");
            let err = String::from_utf8_lossy(&done.stderr).into_owned();
            match done.status.code() {
                Some(0) => {}
                Some(2 | 3) => {
                    refused += 1;
                    if err.contains("audit:") {
                        eprintln!("seed {seed} {words:?}: the audit disagrees with the planner\n{err}");
                        disagreed += 1;
                    }
                    continue;
                }
                code => panic!("seed {seed} {words:?}: exit {code:?}\n{err}"),
            }
            let after = run(interpreter, dir.path(), &p);
            let told = err.lines().any(|l| l.starts_with("assumed:"));
            // what is looked up by a text, or used while it is being loaded, is told and may be missed
            if told && (words[0] == "rename" || err.contains("does not come to use")) {
                break;
            }
            let same = match told {
                true => without_loads(&after.stdout) == without_loads(&before.stdout),
                false => after.stdout == before.stdout,
            };
            assert!(
                same && after.status.success(),
                "seed {seed} {words:?} prints something else\n{err}\n--- before\n{}--- after\n{}{}",
                String::from_utf8_lossy(&before.stdout),
                String::from_utf8_lossy(&after.stdout),
                String::from_utf8_lossy(&after.stderr),
            );
            if told {
                assumed += 1
            } else {
                ready += 1
            }
            before = after;
        }
    }
    println!("{ready} ready, {assumed} assumed, {refused} refused, {disagreed} of them by the audit alone");
    assert!(disagreed * 20 <= count, "the planner and the audit disagree too often");
    assert!(ready * 4 > count, "only {ready} moves of {count} projects were ready");
}

#[test]
fn moving_in_python() {
    no_move_changes_what_a_program_prints("python3", Kind::Python);
}

#[test]
fn moving_in_modules() {
    no_move_changes_what_a_program_prints("node", Kind::Modules);
}

#[test]
fn moving_in_required_files() {
    no_move_changes_what_a_program_prints("node", Kind::Required);
}
