//! Before/after programs: each is run, changed by the built program, and run again; the output must be the same.
//!
//! A case begins with `=== its name`, then `key: value` lines, then files, each after `--- path`; the first is run.
//! The step is one of `fold` (file:text, the first line with that text is the target), `extract` (file:text, or
//! file:text ... text, the lines from the first to the next) and `value` (file:text, an expression); what is extracted
//! is called `extracted`; or `step`, the words of any other command. Further keys: `expect` (`ready`, `assumed CODE`, `refused CODE` or `wrong TEXT`, a usage
//! error with that text), `args` (more arguments), `see` (a line that must be in the result), `not` (one that must not
//! be).

use std::fs;
use std::path::Path;
use std::process::{Command, Output};

struct Case {
    name: String,
    keys: Vec<(String, String)>,
    files: Vec<(String, String)>,
}

impl Case {
    fn parse(text: &str) -> Case {
        let (name, rest) = text.split_once('\n').expect("a case has a name line");
        let mut case = Case { name: name.trim().into(), keys: Vec::new(), files: Vec::new() };
        for line in rest.lines() {
            if let Some(path) = line.strip_prefix("--- ") {
                case.files.push((path.trim().into(), String::new()));
            } else if let Some((_, body)) = case.files.last_mut() {
                body.push_str(line);
                body.push('\n');
            } else if let Some((k, v)) = line.split_once(": ") {
                case.keys.push((k.trim().into(), v.trim_end().into()));
            }
        }
        assert!(!case.files.is_empty(), "{}: no file", case.name);
        case
    }

    fn all<'a>(&'a self, key: &'a str) -> impl Iterator<Item = &'a str> {
        self.keys.iter().filter(move |(k, _)| k == key).map(|(_, v)| v.as_str())
    }

    fn get<'a>(&'a self, key: &'a str) -> &'a str {
        self.all(key).next().unwrap_or_else(|| panic!("{}: no `{key}`", self.name))
    }

    /// The step's command and its target.
    fn command(&self) -> Vec<String> {
        if let Some(words) = self.all("step").next() {
            return words.split_whitespace().map(str::to_string).collect();
        }
        let key = ["fold", "extract", "value"].into_iter().find(|k| self.all(k).next().is_some());
        let key = key.unwrap_or_else(|| panic!("{}: no step", self.name));
        let (path, text) = self.get(key).split_once(':').expect("file:text");
        let body = &self.files.iter().find(|f| f.0 == path).unwrap_or_else(|| panic!("{}: no {path}", self.name)).1;
        let lost = |what: &str| -> usize { panic!("{}: no `{what}`", self.name) };
        let at = |what: &str, from: usize| body[from..].find(what.trim()).map_or_else(|| lost(what), |i| from + i);
        let line = |byte: usize| body[..byte].matches('\n').count() + 1;
        let (first, last) = text.split_once(" ... ").unwrap_or((text, text));
        let start = at(first, 0);
        let end = at(last, if first == last { start } else { start + 1 });
        match key {
            "fold" => vec!["fold".into(), format!("{path}:{}", line(start))],
            "extract" => {
                vec!["extract".into(), format!("{path}:{}-{}", line(start), line(end)), "extracted".into()]
            }
            _ => {
                let column = |byte: usize| body[..byte].chars().rev().take_while(|c| *c != '\n').count() + 1;
                let stop = start + text.trim().len();
                let range = format!("{path}:{}:{}-{}:{}", line(start), column(start), line(stop), column(stop));
                vec!["extract".into(), range, "extracted".into()]
            }
        }
    }

    fn run(&self, interpreter: &str) -> Result<(), String> {
        let wrong_use = self.get("expect").starts_with("wrong");
        let dir = tempfile::tempdir().expect("a temporary folder");
        for (path, body) in &self.files {
            let full = dir.path().join(path);
            fs::create_dir_all(full.parent().expect("a file in the folder")).expect("folders can be made");
            fs::write(full, body).expect("files can be written");
        }
        let main = &self.files[0].0;
        let before = program(interpreter, dir.path(), main);
        if !before.status.success() || before.stdout.is_empty() {
            return Err(format!("does not run or prints nothing: {}", String::from_utf8_lossy(&before.stderr)));
        }
        let command = self.command();
        let mut args: Vec<&str> = command.iter().map(String::as_str).collect();
        args.extend(["--no-check", "--format", "json"]);
        args.extend(self.all("args").flat_map(str::split_whitespace));
        let (verdict, code) = self.get("expect").split_once(' ').unwrap_or((self.get("expect"), ""));
        if verdict == "refused" && command[0] == "fold" {
            args.push("--whole");
        }
        let fold = ufold(dir.path(), &args);
        let (out, err) = (String::from_utf8_lossy(&fold.stdout), String::from_utf8_lossy(&fold.stderr));
        if verdict == "refused" || wrong_use {
            let status = if wrong_use { 2 } else { 3 };
            let sign = if wrong_use { code.to_string() } else { format!("{code}:") };
            let unchanged =
                self.files.iter().all(|(p, b)| fs::read_to_string(dir.path().join(p)).ok().as_ref() == Some(b));
            return match fold.status.code() {
                Some(c) if c == status && err.contains(&sign) && unchanged => Ok(()),
                c => Err(format!("expected {verdict} with {code}, exit {c:?}\n{out}{err}")),
            };
        }
        if fold.status.code() != Some(0) {
            return Err(format!("expected {verdict}, exit {:?}\n{err}", fold.status.code()));
        }
        let json: serde_json::Value = serde_json::from_str(&out).map_err(|e| format!("{e}: {out}"))?;
        let result = &json["plan"]["result"];
        let codes: Vec<&str> =
            result["reasons"].as_array().into_iter().flatten().filter_map(|r| r["code"].as_str()).collect();
        if result["verdict"] != verdict || !code.is_empty() && !codes.contains(&code) {
            return Err(format!("verdict {} {codes:?}, expected {verdict} {code}", result["verdict"]));
        }
        self.compare(dir.path(), interpreter, &before)
    }

    fn compare(&self, dir: &Path, interpreter: &str, before: &Output) -> Result<(), String> {
        let text: String =
            self.files.iter().map(|(p, _)| fs::read_to_string(dir.join(p)).expect("the files are there")).collect();
        let after = program(interpreter, dir, &self.files[0].0);
        if after.stdout != before.stdout || after.status != before.status {
            let (a, b) = (String::from_utf8_lossy(&before.stdout), String::from_utf8_lossy(&after.stdout));
            let e = String::from_utf8_lossy(&after.stderr);
            return Err(format!("behaves differently\n--- before\n{a}--- after\n{b}{e}--- code\n{text}"));
        }
        if let Some(missing) = self.all("see").find(|s| !text.contains(s.trim())) {
            return Err(format!("the result lacks `{missing}`:\n{text}"));
        }
        match self.all("not").find(|s| text.contains(s.trim())) {
            Some(found) => Err(format!("the result has `{found}`:\n{text}")),
            None => Ok(()),
        }
    }
}

fn program(interpreter: &str, dir: &Path, main: &str) -> Output {
    if interpreter == TSC {
        let strict = ["--strict", "--noEmitOnError", "--target", "es2022", "--module", "commonjs", "--outDir", "out"];
        let built = Command::new(tsc()).args(strict).arg(main).current_dir(dir).output().expect("the compiler runs");
        if !built.status.success() {
            // the compiler speaks on its standard output
            return Output { stderr: built.stdout, stdout: Vec::new(), status: built.status };
        }
        let script = format!("out/{}", main.replace(".ts", ".js"));
        return Command::new("node").arg(script).current_dir(dir).output().expect("the interpreter runs");
    }
    let mut c = Command::new(interpreter);
    c.arg(main).current_dir(dir).env("PYTHONDONTWRITEBYTECODE", "1").output().expect("the interpreter runs")
}

fn ufold(dir: &Path, args: &[&str]) -> Output {
    let mut c = Command::new(env!("CARGO_BIN_EXE_ufold"));
    c.args(args).args(["--root"]).arg(dir).current_dir(dir).output().expect("the built program runs")
}

const TSC: &str = "tsc";

/// The compiler as installed for the tests, or any.
fn tsc() -> std::path::PathBuf {
    let own = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../target/tools/node_modules/.bin/tsc");
    if own.exists() { own } else { TSC.into() }
}

/// Runs all cases of one file; tells all that fail.
fn cases(file: &str, interpreter: &str) {
    let program = if interpreter == TSC { tsc() } else { interpreter.into() };
    if Command::new(program).arg("--version").output().is_err() {
        assert!(std::env::var_os("UFOLD_ALL_TOOLCHAINS").is_none(), "{interpreter} is missing");
        eprintln!("skipped: {interpreter} is not installed");
        return;
    }
    let path = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/cases").join(file);
    let text = fs::read_to_string(path).expect("the case file is there");
    let only = std::env::var("CASE").unwrap_or_default();
    let start = if text.starts_with("=== ") { 0 } else { text.find("\n=== ").expect("a case") + 1 };
    let list: Vec<Case> = text[start..]
        .split("\n=== ")
        .map(|c| Case::parse(c.trim_start_matches("=== ")))
        .filter(|c| c.name.contains(&only))
        .collect();
    assert!(!list.is_empty());
    let failures: Vec<String> =
        list.iter().filter_map(|c| c.run(interpreter).err().map(|e| format!("=== {}\n{e}", c.name))).collect();
    assert!(failures.is_empty(), "{} of {} cases fail\n{}", failures.len(), list.len(), failures.join("\n"));
}

#[test]
fn python_values_and_results() {
    cases("python_values.txt", "python3");
}

#[test]
fn python_leaving_and_binding() {
    cases("python_binding.txt", "python3");
}

#[test]
fn python_places_and_names() {
    cases("python_places.txt", "python3");
}

#[test]
fn python_extracting() {
    cases("python_extract.txt", "python3");
}

#[test]
fn javascript_values_and_results() {
    cases("javascript_values.txt", "node");
}

#[test]
fn javascript_leaving_and_binding() {
    cases("javascript_binding.txt", "node");
}

#[test]
fn typescript_types() {
    cases("typescript.txt", TSC);
}

#[test]
fn python_names_and_values() {
    cases("python_edits.txt", "python3");
}

#[test]
fn javascript_names_and_values() {
    cases("javascript_edits.txt", "node");
}
