//! Small random programs with two copies of a random block, folded or a part of them extracted by the built program,
//! and run before and after.
//!
//! `UFOLD_RANDOM=2000 cargo test --test random_programs` tries that many; `UFOLD_SEED` sets where to begin.

mod common;
mod random;

use std::path::Path;
use std::process::{Command, Output};

use common::{CSHARP, JAVA, LUA, PHP, TSC, has, tsc};
use random::{csharp, java, javascript, lua, php, python, room, series};

/// A language's interpreter, the program's file, and its maker: the text and the line where the first copy begins.
struct Maker {
    interpreter: &'static str,
    file: &'static str,
    program: fn(u64) -> (String, usize),
    /// The words of the step for a seed.
    step: Step,
}

/// From a seed, a file, its text, and the line where the first copy begins.
type Step = fn(u64, &str, &str, usize) -> Vec<String>;

fn fold(_: u64, file: &str, _: &str, line: usize) -> Vec<String> {
    vec!["fold".into(), format!("{file}:{line}")]
}

/// One to four lines near the first copy's beginning, in one of the forms.
fn extract(seed: u64, file: &str, _: &str, line: usize) -> Vec<String> {
    let mut dice = random::Dice(seed.wrapping_mul(0x9e37_79b9_7f4a_7c15) | 1);
    let from = line + dice.roll(4) as usize;
    let range = format!("{file}:{from}-{}", from + dice.roll(4) as usize);
    let mut words = vec!["extract".into(), range, "taken_out".into()];
    if dice.chance(30) {
        words.extend(["--as".into(), dice.pick(&["function", "method", "nested"]).into()]);
    }
    words
}

/// A saved plan that takes up to three runs of lines out of the function around the first copy.
fn split(seed: u64, file: &str, text: &str, line: usize) -> Vec<String> {
    let mut dice = random::Dice(seed.wrapping_mul(0x9e37_79b9_7f4a_7c15) | 1);
    let lines: Vec<&str> = text.split_inclusive('\n').collect();
    let place = |a: usize, z: usize| {
        let start: usize = lines[..a].iter().map(|l| l.len()).sum();
        let own: String = lines[a..=z].concat();
        let blank = own.len() - own.trim_start().len();
        let (from, to) = (start + blank, start + own.trim_end().len().max(blank));
        serde_json::json!({"file": file, "start_line": a + 1, "end_line": z + 1, "start_byte": from, "end_byte": to})
    };
    let (mut at, mut parts) = (line - 1 + dice.roll(4) as usize, Vec::new());
    for _ in 0..3 {
        let end = at + dice.roll(5) as usize;
        if end >= lines.len() || lines[at..=end].concat().trim().is_empty() {
            break;
        }
        let name = format!("part_{}", parts.len());
        // a line above that goes along
        let above = line - 1 + dice.roll(4) as usize;
        let goes = dice.chance(40) && above < at && !lines[above].trim().is_empty();
        let along: Vec<_> = goes.then(|| place(above, above)).into_iter().collect();
        parts.push(serde_json::json!({"place": place(at, end), "along": along, "function": {"name": name}}));
        at = end + 1 + dice.roll(3) as usize;
    }
    let request = serde_json::json!({"finding": file, "place": place(line - 1, line - 1), "parts": parts});
    let result = serde_json::json!({"verdict": "ready", "reasons": [], "left_out": [], "remarks": [], "function": null,
        "parameters": [], "sites": [], "files": [], "saves": 0});
    let plan = serde_json::json!({"schema": "ufold.plan/2", "step": "split", "request": request, "result": result});
    vec!["apply".into(), plan.to_string()]
}

/// The words of a step, with a plan among them written to a file.
fn words(dir: &Path, mut words: Vec<String>) -> Vec<String> {
    if words[0] == "apply" {
        let file = dir.join("plan.json");
        std::fs::write(&file, &words[1]).expect("files can be written");
        words[1] = file.display().to_string();
    }
    words
}

impl Maker {
    fn run(&self, dir: &Path) -> Output {
        common::program(self.interpreter, dir, self.file)
    }
}

fn number(name: &str, default: u64) -> u64 {
    std::env::var(name).ok().and_then(|v| v.parse().ok()).unwrap_or(default)
}

fn no_step_changes_what_a_program_prints(m: &Maker) {
    if Command::new(m.interpreter).arg("--version").output().is_err() {
        assert!(std::env::var_os("UFOLD_ALL_TOOLCHAINS").is_none(), "{} is missing", m.interpreter);
        eprintln!("skipped: {} is not installed", m.interpreter);
        return;
    }
    let (first, count) = (number("UFOLD_SEED", 1), number("UFOLD_RANDOM", 40));
    let (mut folded, mut refused, mut disagreed) = (0, 0, 0);
    let mut codes: std::collections::BTreeMap<String, u64> = Default::default();
    for seed in first..first + count {
        let (text, line) = (m.program)(seed);
        let dir = tempfile::tempdir().expect("a temporary folder");
        std::fs::write(dir.path().join(m.file), &text).expect("files can be written");
        let before = m.run(dir.path());
        if !before.status.success() {
            continue; // such as a lambda before its name is bound at compile time
        }
        if String::from_utf8_lossy(&before.stdout).contains(" at 0x") {
            continue; // an address, which is another one each time
        }
        let mut ufold = common::built();
        let words = words(dir.path(), (m.step)(seed, m.file, &text, line));
        let fold = ufold.args(words).args(["--no-check", "--root"]).arg(dir.path()).current_dir(dir.path());
        let fold = fold.output().expect("the built program runs");
        let err = String::from_utf8_lossy(&fold.stderr).into_owned();
        match fold.status.code() {
            Some(0) => folded += 1,
            Some(2 | 3) => {
                refused += 1;
                let code = err.lines().nth(1).and_then(|l| l.trim().split(':').next()).unwrap_or("").to_string();
                *codes.entry(code).or_default() += 1;
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
        let assumed = err.lines().any(|l| l.starts_with("assumed:") && !l.contains("file-variable"));
        assert!(
            assumed || after.stdout == before.stdout,
            "seed {seed} prints something else\n--- before\n{}--- after\n{}{}--- code\n{text}\n--- folded\n{new}",
            String::from_utf8_lossy(&before.stdout),
            String::from_utf8_lossy(&after.stdout),
            String::from_utf8_lossy(&after.stderr),
        );
    }
    println!("{folded} folded, {refused} refused, {disagreed} of them by the audit alone; {codes:?}");
    assert!(disagreed * 20 <= count, "the planner and the audit disagree too often");
    assert!(count < 400 || folded * 50 > count, "only {folded} of {count} programs were folded");
}

/// From one word to another of its line, the whole of an expression where that is one: a local of its own.
fn variable(seed: u64, file: &str, text: &str, _: usize) -> Vec<String> {
    let mut dice = random::Dice(seed.wrapping_mul(0x9e37_79b9_7f4a_7c15) | 1);
    let lines: Vec<(usize, &str)> = text.lines().enumerate().filter(|(_, l)| l.contains([' ', '('])).collect();
    let (n, line) = lines[dice.roll(lines.len() as u64) as usize];
    let is_word = |c: char| c.is_ascii_alphanumeric() || c == '_';
    let begins: Vec<usize> =
        (0..line.len()).filter(|i| line[*i..].starts_with(is_word) && !line[..*i].ends_with(is_word)).collect();
    let ends: Vec<usize> = (1..=line.len())
        .filter(|i| line[..*i].ends_with(|c: char| is_word(c) || ")]".contains(c)) && !line[*i..].starts_with(is_word))
        .collect();
    let from = begins.get(dice.roll(begins.len().max(1) as u64) as usize).copied().unwrap_or(0);
    let after: Vec<usize> = ends.into_iter().filter(|e| *e > from).collect();
    let to = after.get(dice.roll(after.len().max(1) as u64) as usize).copied().unwrap_or(line.len());
    let range = format!("{file}:{}:{}-{}:{}", n + 1, from + 1, n + 1, to + 1);
    vec!["extract".into(), range, "fresh".into(), "--variable".into()]
}

/// A name is renamed or inlined, or a value becomes a parameter: at a random word.
fn edit(seed: u64, file: &str, text: &str, _: usize) -> Vec<String> {
    let mut dice = random::Dice(seed.wrapping_mul(0x9e37_79b9_7f4a_7c15) | 1);
    let is_word = |c: char| c.is_ascii_alphanumeric() || c == '_';
    let begins = |l: &str, i: usize| l[i..].starts_with(is_word) && !l[..i].ends_with(is_word);
    let mut places: Vec<(usize, usize)> = Vec::new();
    for (n, l) in text.lines().enumerate() {
        // the file that is run stays where it is
        let stays = |i: &usize| begins(l, *i) && !l[*i..].starts_with("Main");
        places.extend((0..l.len()).filter(stays).map(|i| (n, i)));
    }
    let (mut n, mut i) = places[dice.roll(places.len() as u64) as usize];
    if dice.chance(25) {
        // the function of several statements
        let found = places.iter().find(|(n, i)| {
            text.lines().nth(*n).is_some_and(|l| l[*i..].starts_with("mark(") || l[*i..].starts_with("_mark("))
        });
        (n, i) = found.copied().unwrap_or((n, i));
    }
    let place = format!("{file}:{}:{}", n + 1, i + 1);
    let step = dice.pick(&["rename", "inline", "inline", "inline", "inline", "param"]);
    let mut words = vec![step.to_string(), place];
    words.extend((step != "inline").then(|| "fresh".to_string()));
    words.extend((step == "param" && dice.chance(30)).then(|| "--all-equal".to_string()));
    words
}

const PYTHON: Maker = Maker { interpreter: "python3", file: "main.py", program: python::program, step: fold };
const JAVASCRIPT: Maker = Maker { interpreter: "node", file: "main.js", program: javascript::program, step: fold };

const JAVA_PROGRAMS: Maker = Maker { interpreter: JAVA, file: "Main.java", program: java::program, step: fold };

const CSHARP_PROGRAMS: Maker = Maker { interpreter: CSHARP, file: "Main.cs", program: csharp::program, step: fold };

const LUA_PROGRAMS: Maker = Maker { interpreter: LUA, file: "main.lua", program: lua::program, step: fold };
const LUA_SCRIPTS: Maker = Maker { program: lua::script, ..LUA_PROGRAMS };

const PHP_PROGRAMS: Maker = Maker { interpreter: PHP, file: "main.php", program: php::program, step: fold };

#[test]
fn folding_csharp() {
    no_step_changes_what_a_program_prints(&CSHARP_PROGRAMS);
}

#[test]
fn extracting_csharp() {
    no_step_changes_what_a_program_prints(&Maker { step: extract, ..CSHARP_PROGRAMS });
}

#[test]
fn editing_csharp() {
    no_step_changes_what_a_program_prints(&Maker { step: edit, ..CSHARP_PROGRAMS });
    no_step_changes_what_a_program_prints(&Maker { step: variable, ..CSHARP_PROGRAMS });
}

#[test]
fn splitting_csharp() {
    no_step_changes_what_a_program_prints(&Maker { step: split, ..CSHARP_PROGRAMS });
}

#[test]
fn folding_php() {
    no_step_changes_what_a_program_prints(&PHP_PROGRAMS);
}

#[test]
fn extracting_php() {
    no_step_changes_what_a_program_prints(&Maker { step: extract, ..PHP_PROGRAMS });
}

#[test]
fn editing_php() {
    no_step_changes_what_a_program_prints(&Maker { step: edit, ..PHP_PROGRAMS });
    no_step_changes_what_a_program_prints(&Maker { step: variable, ..PHP_PROGRAMS });
}

#[test]
fn splitting_php() {
    no_step_changes_what_a_program_prints(&Maker { step: split, ..PHP_PROGRAMS });
}

#[test]
fn folding_lua() {
    no_step_changes_what_a_program_prints(&LUA_PROGRAMS);
    no_step_changes_what_a_program_prints(&LUA_SCRIPTS);
}

#[test]
fn extracting_lua() {
    no_step_changes_what_a_program_prints(&Maker { step: extract, ..LUA_PROGRAMS });
    no_step_changes_what_a_program_prints(&Maker { step: extract, ..LUA_SCRIPTS });
}

#[test]
fn editing_lua() {
    no_step_changes_what_a_program_prints(&Maker { step: edit, ..LUA_PROGRAMS });
    no_step_changes_what_a_program_prints(&Maker { step: variable, ..LUA_PROGRAMS });
}

#[test]
fn splitting_lua() {
    no_step_changes_what_a_program_prints(&Maker { step: split, ..LUA_PROGRAMS });
}

#[test]
fn folding_java() {
    no_step_changes_what_a_program_prints(&JAVA_PROGRAMS);
}

#[test]
fn extracting_java() {
    no_step_changes_what_a_program_prints(&Maker { step: extract, ..JAVA_PROGRAMS });
}

#[test]
fn editing_java() {
    no_step_changes_what_a_program_prints(&Maker { step: edit, ..JAVA_PROGRAMS });
}

#[test]
fn folding_series_in_python() {
    no_step_changes_what_a_program_prints(&Maker { program: series::python, ..PYTHON });
}

#[test]
fn folding_series_in_javascript() {
    no_step_changes_what_a_program_prints(&Maker { program: series::javascript, ..JAVASCRIPT });
}

#[test]
fn folding_python() {
    no_step_changes_what_a_program_prints(&PYTHON);
}

#[test]
fn folding_python_scripts() {
    no_step_changes_what_a_program_prints(&Maker { program: python::script, ..PYTHON });
}

#[test]
fn extracting_python_scripts() {
    no_step_changes_what_a_program_prints(&Maker { program: python::script, step: extract, ..PYTHON });
}

#[test]
fn folding_javascript_scripts() {
    no_step_changes_what_a_program_prints(&Maker { program: javascript::script, ..JAVASCRIPT });
}

#[test]
fn extracting_javascript_scripts() {
    no_step_changes_what_a_program_prints(&Maker { program: javascript::script, step: extract, ..JAVASCRIPT });
}

#[test]
fn folding_javascript() {
    no_step_changes_what_a_program_prints(&JAVASCRIPT);
}

#[test]
fn extracting_python() {
    no_step_changes_what_a_program_prints(&Maker { step: extract, ..PYTHON });
}

#[test]
fn extracting_javascript() {
    no_step_changes_what_a_program_prints(&Maker { step: extract, ..JAVASCRIPT });
}

/// Programs with types, compiled all at once before and after the step. What was right must stay right for the compiler.
fn no_step_makes_types_wrong(program: fn(u64) -> (String, usize), step: Step) {
    if !has(TSC) {
        return;
    }
    let (first, count) = (number("UFOLD_SEED", 1), number("UFOLD_RANDOM", 40));
    let dir = tempfile::tempdir().expect("a temporary folder");
    let file = |kind: &str, seed: u64| dir.path().join(kind).join(format!("p{seed}.ts"));
    let folder = |kind: &str| std::fs::create_dir_all(dir.path().join(kind)).expect("folders can be made");
    ["old", "new", "work"].iter().for_each(|f| folder(f));
    let mut stepped = Vec::new();
    for seed in first..first + count {
        let (text, line) = program(seed);
        let own = dir.path().join("work").join(seed.to_string());
        std::fs::create_dir_all(&own).expect("folders can be made");
        std::fs::write(own.join("main.ts"), &text).expect("files can be written");
        std::fs::write(file("old", seed), &text).expect("files can be written");
        let mut ufold = common::built();
        let words = words(&own, step(seed, "main.ts", &text, line));
        let done = ufold.args(words).args(["--no-check", "--root"]).arg(&own).current_dir(&own).output();
        let done = done.expect("the built program runs");
        let err = String::from_utf8_lossy(&done.stderr).into_owned();
        assert!(matches!(done.status.code(), Some(0 | 2 | 3)), "seed {seed}: {err}");
        // a reading that is moved under an assumption may be what the assumption excludes
        if done.status.success() && !err.contains("assumed:") {
            std::fs::copy(own.join("main.ts"), file("new", seed)).expect("files can be copied");
            stepped.push(seed);
        }
    }
    let strict = [
        "--strict",
        "--skipLibCheck",
        "--target",
        "es2022",
        "--module",
        "commonjs",
        "--outDir",
        "out",
        "--rootDir",
        ".",
    ];
    let files = stepped.iter().flat_map(|s| ["old", "new"].map(|k| format!("{k}/p{s}.ts")));
    let built =
        Command::new(tsc()).args(strict).args(files).current_dir(dir.path()).output().expect("the compiler runs");
    let said = String::from_utf8_lossy(&built.stdout).into_owned();
    let (mut right, mut failures) = (0, Vec::new());
    for seed in &stepped {
        let wrong = |kind: &str| said.contains(&format!("{kind}/p{seed}.ts("));
        if wrong("old") {
            continue;
        }
        let run = |kind: &str| {
            let script = format!("out/{kind}/p{seed}.js");
            common::program("node", dir.path(), &script).stdout
        };
        right += 1;
        if wrong("new") || run("old") != run("new") {
            let why: Vec<&str> = said.lines().filter(|l| l.contains(&format!("new/p{seed}.ts("))).collect();
            let new = std::fs::read_to_string(file("new", *seed)).expect("the file is there");
            failures.push(format!("seed {seed}\n{}\n{new}", why.join("\n")));
        }
    }
    println!("{} of {count} stepped, {right} of them right before", stepped.len());
    assert!(failures.is_empty(), "{} programs went wrong\n{}", failures.len(), failures.join("\n"));
    assert!(count < 400 || right * 50 > count, "only {right} of {count} programs tell anything");
}

#[test]
fn editing_python() {
    no_step_changes_what_a_program_prints(&Maker { step: edit, ..PYTHON });
}

#[test]
fn editing_javascript() {
    no_step_changes_what_a_program_prints(&Maker { step: edit, ..JAVASCRIPT });
}

#[test]
fn editing_typescript() {
    no_step_makes_types_wrong(javascript::typed_program, edit);
}

#[test]
fn folding_typescript() {
    no_step_makes_types_wrong(javascript::typed_program, fold);
}

#[test]
fn extracting_typescript() {
    no_step_makes_types_wrong(javascript::typed_program, extract);
}

#[test]
fn variables_in_python_and_javascript() {
    no_step_changes_what_a_program_prints(&Maker { step: variable, ..PYTHON });
    no_step_changes_what_a_program_prints(&Maker { step: variable, ..JAVASCRIPT });
}

#[test]
fn variables_in_java() {
    no_step_changes_what_a_program_prints(&Maker { step: variable, ..JAVA_PROGRAMS });
}

#[test]
fn variables_in_typescript() {
    no_step_makes_types_wrong(javascript::typed_program, variable);
}

#[test]
fn splitting_python_and_javascript() {
    no_step_changes_what_a_program_prints(&Maker { step: split, ..PYTHON });
    no_step_changes_what_a_program_prints(&Maker { step: split, ..JAVASCRIPT });
}

#[test]
fn splitting_java() {
    no_step_changes_what_a_program_prints(&Maker { step: split, ..JAVA_PROGRAMS });
}

#[test]
fn splitting_typescript() {
    no_step_makes_types_wrong(javascript::typed_program, split);
}

fn tidy(_: u64, _: &str, _: &str, _: usize) -> Vec<String> {
    vec!["tidy".into()]
}

fn cluttered_python(seed: u64) -> (String, usize) {
    let (text, line) = python::program(seed);
    let spare = ["spare = 3", "spare = [1, 'x']", "a = 1", "spare = c", "spare = mark(1, 2)", "# old = mark(1, 2)"];
    let behind = ["print('never')", "a = 1", "yield a", "spare = 2", "def late():\n        pass", "del c", "import os"];
    (random::cluttered(seed, &text, 0, &spare, &behind), line)
}

fn cluttered_javascript(seed: u64) -> (String, usize) {
    let (text, line) = javascript::program(seed);
    let spare = [
        "let spare;",
        "var spare = [1, 'x'];",
        "a = 1;",
        "var spare = c;",
        "mark(1, 2);",
        "// const old = mark(1, 2);",
    ];
    let behind =
        ["console.log('never');", "a = 1;", "var c = 3;", "var spare = 2;", "function late() {}", "let a = 5;"];
    (random::cluttered(seed, &text, line, &spare, &behind), line)
}

fn cluttered_java(seed: u64) -> (String, usize) {
    let (text, line) = java::program(seed);
    let spare = ["int spare;", "int spare = 3;", "a = 1;", "int[] spare = {c};", "twice(2);", "// int old = twice(2);"];
    let behind = ["// a = 1;", "// never"]; // the compiler takes no code there
    (random::cluttered(seed, &text, line, &spare, &behind), line)
}

fn cluttered_typescript(seed: u64) -> (String, usize) {
    let (text, line) = javascript::typed_program(seed);
    let spare =
        ["let other: number;", "var spare = 3;", "a = 1;", "var spare = c;", "mark(1, 2);", "// const old = 1;"];
    let behind = ["// a = 1;", "function late() {}"];
    (random::cluttered(seed, &text, line, &spare, &behind), line)
}

#[test]
fn tidying_java() {
    no_step_changes_what_a_program_prints(&Maker { step: tidy, program: cluttered_java, ..JAVA_PROGRAMS });
}

#[test]
fn tidying_typescript() {
    no_step_makes_types_wrong(cluttered_typescript, tidy);
}

#[test]
fn tidying_python_and_javascript() {
    no_step_changes_what_a_program_prints(&Maker { step: tidy, program: cluttered_python, ..PYTHON });
    no_step_changes_what_a_program_prints(&Maker { step: tidy, program: cluttered_javascript, ..JAVASCRIPT });
}

/// A statement of one line, to its first use or to another line of the same indentation near it.
fn slide(seed: u64, file: &str, text: &str, line: usize) -> Vec<String> {
    let mut dice = random::Dice(seed.wrapping_mul(0x9e37_79b9_7f4a_7c15) | 1);
    let lines: Vec<&str> = text.lines().collect();
    let indent = |n: usize| lines[n].len() - lines[n].trim_start().len();
    let begins = |n: &usize| lines[*n].trim_start().starts_with(|c: char| c.is_alphanumeric() || c == '[');
    let whole = |n: &usize| begins(n) && !lines[*n].trim_end().ends_with([':', '{', ',', '(']) && indent(*n) > 0;
    // those that only give a value are the ones that move
    let gives = |n: &usize| lines[*n].contains(" = ") && !lines[*n].contains('(');
    let all: Vec<usize> = (line.saturating_sub(5)..lines.len()).filter(whole).collect();
    let some: Vec<usize> = all.iter().copied().filter(gives).collect();
    let list = if dice.chance(75) && !some.is_empty() { some } else { all };
    let from = list.get(dice.roll(list.len().max(1) as u64) as usize).copied().unwrap_or(line);
    let mut words = vec!["slide".into(), format!("{file}:{}", from + 1)];
    let near: Vec<usize> = (from.saturating_sub(6)..(from + 7).min(lines.len()))
        .filter(|n| begins(n) && indent(*n) == indent(from) && from.abs_diff(*n) > 1)
        .collect();
    if dice.chance(70) && !near.is_empty() {
        let to = near[dice.roll(near.len() as u64) as usize] + 1;
        words.extend([dice.pick(&["--before", "--after"]).into(), to.to_string()]);
    }
    words
}

#[test]
fn sliding_python_and_javascript() {
    no_step_changes_what_a_program_prints(&Maker { step: slide, program: cluttered_python, ..PYTHON });
    no_step_changes_what_a_program_prints(&Maker { step: slide, ..JAVASCRIPT });
}

#[test]
fn sliding_java() {
    no_step_changes_what_a_program_prints(&Maker { step: slide, ..JAVA_PROGRAMS });
}

#[test]
fn sliding_typescript() {
    no_step_makes_types_wrong(javascript::typed_program, slide);
}

#[test]
fn splitting_loops_of_java() {
    no_step_changes_what_a_program_prints(&Maker {
        step: room::split_loop,
        program: room::looping_java,
        ..JAVA_PROGRAMS
    });
}

#[test]
fn splitting_loops_of_typescript() {
    no_step_makes_types_wrong(room::looping_typescript, room::split_loop);
}

#[test]
fn splitting_loops_of_python_and_javascript() {
    no_step_changes_what_a_program_prints(&Maker { step: room::split_loop, program: room::looping_python, ..PYTHON });
    no_step_changes_what_a_program_prints(&Maker {
        step: room::split_loop,
        program: room::looping_javascript,
        ..JAVASCRIPT
    });
}

#[test]
fn splitting_variables_of_python_and_javascript() {
    no_step_changes_what_a_program_prints(&Maker { step: room::split_variable, ..PYTHON });
    no_step_changes_what_a_program_prints(&Maker { step: room::split_variable, ..JAVASCRIPT });
}

#[test]
fn splitting_variables_of_java() {
    no_step_changes_what_a_program_prints(&Maker { step: room::split_variable, ..JAVA_PROGRAMS });
}

#[test]
fn splitting_variables_of_typescript() {
    no_step_makes_types_wrong(javascript::typed_program, room::split_variable);
}
