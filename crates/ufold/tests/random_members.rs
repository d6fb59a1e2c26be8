//! Small random Java programs of several packages: static members go to other classes, there or new, and the programs run
//! before and after.
//!
//! `UFOLD_RANDOM=500 cargo test --test random_members` tries that many; `UFOLD_SEED` sets where to begin.

mod common;
mod random;

use std::collections::BTreeMap;

use random::Dice;
use random::members::program;

/// Moves in one program, each planned on what the one before it left.
const STEPS: u64 = 3;

#[test]
fn no_move_changes_what_a_program_prints() {
    if !common::has(common::JAVA) {
        return;
    }
    let number = |name: &str, default: u64| std::env::var(name).ok().and_then(|v| v.parse().ok()).unwrap_or(default);
    let (first, count) = (number("UFOLD_SEED", 1), number("UFOLD_RANDOM", 20));
    let (mut ready, mut assumed, mut disagreed, mut invalid) = (0, 0, 0, 0);
    let mut codes: BTreeMap<String, usize> = BTreeMap::new();
    for seed in first..first + count {
        let p = program(seed);
        let dir = tempfile::tempdir().expect("a temporary folder");
        for (path, text) in &p.files {
            let path = dir.path().join(path);
            std::fs::create_dir_all(path.parent().expect("a folder")).expect("folders can be made");
            std::fs::write(path, text).expect("files can be written");
        }
        let before = common::program(common::JAVA, dir.path(), "Main.java");
        // names that hide each other may not fit together
        if !before.status.success() {
            invalid += 1;
            continue;
        }
        let mut dice = Dice(seed.wrapping_mul(0xd134_2543_de82_ef95) | 1);
        for _ in 0..STEPS {
            let (path, names) = &p.classes[dice.roll(p.classes.len() as u64) as usize];
            let mut name = names[dice.roll(names.len() as u64) as usize].to_string();
            if dice.chance(20) {
                name.push_str(&format!(",{}", names[dice.roll(names.len() as u64) as usize]));
            }
            let folder = path.split('/').next().expect("a folder");
            let new = format!("{}/Fresh.java", if dice.chance(70) { folder } else { "port" });
            let other = &p.classes[dice.roll(p.classes.len() as u64) as usize].0;
            let to = if dice.chance(40) { &new } else { other };
            let class = path.trim_end_matches(".java").rsplit('/').next().expect("a name");
            let words = ["move", &format!("{path}:{class}.{name}"), "--to", to].map(String::from);
            let mut ufold = common::built();
            let run = ufold.args(&words).args(["--no-check", "--root"]).arg(dir.path()).current_dir(dir.path());
            let run = run.output().expect("the built program runs");
            let err = String::from_utf8_lossy(&run.stderr).into_owned();
            match run.status.code() {
                Some(0) if err.contains("assumed:") => assumed += 1,
                Some(0) => ready += 1,
                Some(2 | 3) => {
                    let code = err.lines().find_map(|l| l.strip_prefix("  ")?.split_once(':'));
                    *codes.entry(code.map_or(String::new(), |c| c.0.to_string())).or_default() += 1;
                    if err.contains("audit:") || err.contains("internal:") {
                        eprintln!("seed {seed} {words:?}: the audit disagrees with the planner\n{err}");
                        disagreed += 1;
                    }
                    continue;
                }
                code => panic!("seed {seed} {words:?}: exit {code:?}\n{err}"),
            }
            let after = common::program(common::JAVA, dir.path(), "Main.java");
            let text = |o: &[u8]| String::from_utf8_lossy(o).into_owned();
            assert!(after.status.success(), "seed {seed} {words:?} does not compile\n{err}\n{}", text(&after.stderr));
            if err.contains("assumed:") {
                break;
            }
            assert!(
                after.stdout == before.stdout,
                "seed {seed} {words:?} prints something else\n--- before\n{}--- after\n{}",
                text(&before.stdout),
                text(&after.stdout)
            );
        }
    }
    println!("{ready} ready, {assumed} assumed, {disagreed} refused by the audit alone, {invalid} invalid: {codes:?}");
    assert!(disagreed * 20 <= count, "the planner and the audit disagree too often");
    assert!(ready * 2 > count, "only {ready} ready moves in {count} programs");
}
