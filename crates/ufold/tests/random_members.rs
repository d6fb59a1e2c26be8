//! Small random Java programs of several packages: static members go to other classes, whole classes to other packages, and
//! the programs run before and after.
//!
//! `UFOLD_RANDOM=500 cargo test --test random_members` tries that many; `UFOLD_SEED` sets where to begin.

mod common;
mod random;

use std::collections::BTreeMap;
use std::path::Path;

use random::{Dice, members, packages};

/// Moves in one program, each planned on what the one before it left.
const STEPS: u64 = 3;

#[derive(Default)]
struct Tally {
    ready: u64,
    assumed: u64,
    disagreed: u64,
    invalid: u64,
    codes: BTreeMap<String, usize>,
}

impl Tally {
    /// Programs from the seeds that are asked for; `step` says what is moved where.
    fn of(files: fn(u64) -> Vec<(String, String)>, step: fn(u64, &Path, &mut Dice) -> Option<[String; 4]>) {
        if !common::has(common::JAVA) {
            return;
        }
        let number =
            |name: &str, default: u64| std::env::var(name).ok().and_then(|v| v.parse().ok()).unwrap_or(default);
        let (first, count) = (number("UFOLD_SEED", 1), number("UFOLD_RANDOM", 20));
        let mut all = Tally::default();
        for seed in first..first + count {
            let dir = tempfile::tempdir().expect("a temporary folder");
            for (path, text) in files(seed) {
                let path = dir.path().join(path);
                std::fs::create_dir_all(path.parent().expect("a folder")).expect("folders can be made");
                std::fs::write(path, text).expect("files can be written");
            }
            let before = common::program(common::JAVA, dir.path(), "Main.java");
            // names that hide each other may not fit together
            if !before.status.success() {
                all.invalid += 1;
                continue;
            }
            let mut dice = Dice(seed.wrapping_mul(0xd134_2543_de82_ef95) | 1);
            for _ in 0..STEPS {
                let Some(words) = step(seed, dir.path(), &mut dice) else { continue };
                if !all.moved(seed, dir.path(), &words, &before.stdout) {
                    break;
                }
            }
        }
        let Tally { ready, assumed, disagreed, invalid, codes } = all;
        println!(
            "{ready} ready, {assumed} assumed, {disagreed} refused by the audit alone, {invalid} invalid: {codes:?}"
        );
        assert!(disagreed * 20 <= count, "the planner and the audit disagree too often");
        assert!(ready * 2 > count, "only {ready} ready moves in {count} programs");
    }

    /// One step; whether more can be tried on what it left.
    fn moved(&mut self, seed: u64, dir: &Path, words: &[String; 4], before: &[u8]) -> bool {
        let mut ufold = common::built();
        let run = ufold.args(words).args(["--no-check", "--root"]).arg(dir).current_dir(dir);
        let run = run.output().expect("the built program runs");
        let err = String::from_utf8_lossy(&run.stderr).into_owned();
        match run.status.code() {
            Some(0) if err.contains("assumed:") => self.assumed += 1,
            Some(0) => self.ready += 1,
            Some(2 | 3) => {
                let code = err.lines().find_map(|l| l.strip_prefix("  ")?.split_once(':'));
                *self.codes.entry(code.map_or(String::new(), |c| c.0.to_string())).or_default() += 1;
                if err.contains("audit:") || err.contains("internal:") {
                    eprintln!("seed {seed} {words:?}: the audit disagrees with the planner\n{err}");
                    self.disagreed += 1;
                }
                return true;
            }
            code => panic!("seed {seed} {words:?}: exit {code:?}\n{err}"),
        }
        let after = common::program(common::JAVA, dir, "Main.java");
        let text = |o: &[u8]| String::from_utf8_lossy(o).into_owned();
        assert!(after.status.success(), "seed {seed} {words:?} does not compile\n{err}\n{}", text(&after.stderr));
        if err.contains("assumed:") {
            return false;
        }
        assert!(
            after.stdout == before,
            "seed {seed} {words:?} prints something else\n--- before\n{}--- after\n{}",
            text(before),
            text(&after.stdout)
        );
        true
    }
}

#[test]
fn no_moved_member_changes_what_a_program_prints() {
    Tally::of(
        |seed| members::program(seed).files,
        |seed, _, dice| {
            let p = members::program(seed);
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
            Some(["move", &format!("{path}:{class}.{name}"), "--to", to].map(String::from))
        },
    );
}

#[test]
fn no_moved_class_changes_what_a_program_prints() {
    Tally::of(
        |seed| packages::program(seed).files,
        |seed, dir, dice| {
            let p = packages::program(seed);
            let i = dice.roll(p.classes.len() as u64) as usize;
            let (class, package, path) = &p.classes[i];
            let to = if dice.chance(30) { "quay" } else { dice.pick(&packages::PACKAGES) };
            // one that went before is elsewhere now
            let there = std::fs::read_to_string(dir.join(path)).is_ok_and(|t| t.contains(&format!("class {class} ")));
            let inner = packages::INNER[i];
            let has_inner =
                std::fs::read_to_string(dir.join(path)).is_ok_and(|t| t.contains(&format!("class {inner} ")));
            if has_inner && dice.chance(50) {
                let to = if dice.chance(60) { package } else { to };
                let new = format!("{to}/{inner}.java");
                return Some(["move", &format!("{path}:{class}.{inner}"), "--to", &new].map(String::from));
            }
            let alone = path.ends_with(&format!("/{class}.java"));
            let new = format!("{to}/{class}.java");
            (there && !(alone && to == *package))
                .then(|| ["move", &format!("{path}:{class}"), "--to", &new].map(String::from))
        },
    );
}

/// A file in parts, as a person may ask for them in a plan: each may use what the others have.
#[test]
fn no_file_in_parts_changes_what_a_program_prints() {
    Tally::of(
        |seed| members::program(seed).files,
        |seed, dir, dice| {
            let p = members::program(seed);
            let (path, names) = &p.classes[dice.roll(p.classes.len() as u64) as usize];
            let folder = path.split('/').next().expect("a folder");
            let mut parts: Vec<serde_json::Value> = Vec::new();
            for (i, file) in ["First", "Second", "Third"].iter().enumerate() {
                let free: Vec<&&str> = names.iter().skip(i).step_by(3).filter(|_| dice.chance(60)).collect();
                if !free.is_empty() {
                    let folder = if dice.chance(80) { folder } else { "port" };
                    parts.push(serde_json::json!({ "to": format!("{folder}/{file}.java"), "names": free }));
                }
            }
            let text = std::fs::read_to_string(dir.join(path)).ok()?;
            let place = serde_json::json!({
                "file": path, "start_line": 1, "end_line": text.lines().count(), "start_byte": 0, "end_byte": text.len(),
            });
            let request = serde_json::json!({ "finding": path, "place": place, "parts": parts });
            let result = serde_json::json!({
                "verdict": "refused", "reasons": [], "left_out": [], "remarks": [], "function": null,
                "parameters": [], "sites": [], "files": [], "saves": 0,
            });
            let plan = serde_json::json!({ "schema": "ufold.plan/2", "step": "split-file", "request": request, "result": result });
            let file = std::env::temp_dir().join(format!("ufold-parts-{}-{seed}.json", std::process::id()));
            std::fs::write(&file, plan.to_string()).ok()?;
            Some(["apply", &file.to_string_lossy(), "--color", "never"].map(String::from))
        },
    );
}
