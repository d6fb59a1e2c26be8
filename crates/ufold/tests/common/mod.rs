#![allow(dead_code)] // each test uses a part

//! Case files, and running what is in them.

pub mod folder;

use std::fs;
use std::io::{BufRead, BufReader, Read, Write};
use std::path::{Path, PathBuf};
use std::process::{Child, ChildStdout, Command, ExitStatus, Output, Stdio};
use std::sync::{Mutex, OnceLock};
use std::time::{Duration, Instant};

pub struct Case {
    pub name: String,
    pub keys: Vec<(String, String)>,
    pub files: Vec<(String, String)>,
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

    pub fn all<'a>(&'a self, key: &'a str) -> impl Iterator<Item = &'a str> {
        self.keys.iter().filter(move |(k, _)| k == key).map(|(_, v)| v.as_str())
    }

    pub fn get<'a>(&'a self, key: &'a str) -> &'a str {
        self.all(key).next().unwrap_or_else(|| panic!("{}: no `{key}`", self.name))
    }

    /// The step's command and its target.
    pub fn command(&self) -> Vec<String> {
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

    /// Writes the files into a new folder.
    pub fn lay_out(&self) -> tempfile::TempDir {
        let dir = tempfile::tempdir().expect("a temporary folder");
        for (path, body) in &self.files {
            let full = dir.path().join(path);
            fs::create_dir_all(full.parent().expect("a file in the folder")).expect("folders can be made");
            fs::write(full, body).expect("files can be written");
        }
        dir
    }
}

/// The cases of one file, those that the variable CASE names.
pub fn load(file: &str) -> Vec<Case> {
    let path = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/cases").join(file);
    let text = fs::read_to_string(path).expect("the case file is there");
    let only = std::env::var("CASE").unwrap_or_default();
    let start = if text.starts_with("=== ") { 0 } else { text.find("\n=== ").expect("a case") + 1 };
    let cases = text[start..].split("\n=== ").map(|c| Case::parse(c.trim_start_matches("=== ")));
    cases.filter(|c| c.name.contains(&only)).collect()
}

/// Whether an interpreter is there; missing ones are a failure where all are asked for.
pub fn has(interpreter: &str) -> bool {
    let program = if interpreter == TSC { tsc() } else { interpreter.into() };
    let there = Command::new(program).arg("--version").output().is_ok();
    if !there {
        assert!(std::env::var_os("UFOLD_ALL_TOOLCHAINS").is_none(), "{interpreter} is missing");
        eprintln!("skipped: {interpreter} is not installed");
    }
    there
}

pub const JAVA: &str = "javac";
pub const CSHARP: &str = "mcs";
pub const LUA: &str = "lua5.4";
pub const PHP: &str = "php";

/// A program that compiles, and perhaps runs, one program after another: starting one for each takes long.
struct Runner {
    child: Child,
    answers: BufReader<ChildStdout>,
}

impl Runner {
    fn java() -> Runner {
        let source = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/common/Runner.java");
        let mut c = Command::new("java");
        c.arg("-XX:+UseSerialGC").arg("-Xss64m").arg(source);
        Runner::start(c)
    }

    fn csharp() -> Runner {
        let source = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/common/Runner.cs");
        let built = std::env::temp_dir().join(format!("ufold-runner-{}.exe", std::process::id()));
        let done = Command::new("mcs").arg(format!("-out:{}", built.display())).arg(source).status();
        assert!(done.is_ok_and(|s| s.success()), "the runner is compiled");
        let mut c = Command::new("mono");
        c.arg(built);
        Runner::start(c)
    }

    fn typescript() -> Runner {
        let source = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/common/compiler.js");
        let mut c = Command::new("node");
        c.arg(source).arg(tsc());
        Runner::start(c)
    }

    fn scripts() -> Runner {
        let mut c = Command::new("node");
        c.arg(Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/common/scripts.js"));
        Runner::start(c)
    }

    fn start(mut c: Command) -> Runner {
        let mut child = c.stdin(Stdio::piped()).stdout(Stdio::piped()).spawn().expect("it starts");
        let answers = BufReader::new(child.stdout.take().expect("its output is ours"));
        Runner { child, answers }
    }

    fn run(&mut self, dir: &Path, main: &str) -> std::io::Result<Output> {
        let input = self.child.stdin.as_mut().expect("its input is ours");
        writeln!(input, "{}\t{main}", dir.display())?;
        input.flush()?;
        let mut head = String::new();
        if self.answers.read_line(&mut head)? == 0 {
            return Err(std::io::ErrorKind::UnexpectedEof.into());
        }
        let numbers: Vec<usize> = head.split_whitespace().map(|n| n.parse().expect("a number")).collect();
        let [status, out, err] = numbers[..] else { panic!("an answer of three numbers: {head}") };
        let (mut stdout, mut stderr) = (vec![0; out], vec![0; err]);
        self.answers.read_exact(&mut stdout)?;
        self.answers.read_exact(&mut stderr)?;
        Ok(Output { status: status_of(status), stdout, stderr })
    }
}

/// The exit status with a code.
fn status_of(code: usize) -> ExitStatus {
    std::os::unix::process::ExitStatusExt::from_raw((code as i32) << 8)
}

/// Members without a class, which an environment puts into one and begins with `setup`.
const SKETCH: &str = "Sketch.java";

fn java(dir: &Path, main: &str) -> Output {
    static RUNNER: Mutex<Option<Runner>> = Mutex::new(None);
    let mut runner = RUNNER.lock().unwrap_or_else(|e| e.into_inner());
    let runner = runner.get_or_insert_with(Runner::java);
    if main != SKETCH {
        return runner.run(dir, main).expect("java answers");
    }
    let text = fs::read_to_string(dir.join(main)).expect("a case is text");
    let whole = tempfile::tempdir().expect("a folder");
    let start = "public static void main(String[] arguments) { new Sketch().setup(); }";
    fs::write(whole.path().join(main), format!("class Sketch {{\n{text}\n{start}\n}}\n")).expect("it can be written");
    runner.run(whole.path(), main).expect("java answers")
}

pub fn program(interpreter: &str, dir: &Path, main: &str) -> Output {
    if interpreter == JAVA {
        return java(dir, main);
    }
    if interpreter == CSHARP {
        static RUNNER: Mutex<Option<Runner>> = Mutex::new(None);
        let mut runner = RUNNER.lock().unwrap_or_else(|e| e.into_inner());
        let ran = runner.get_or_insert_with(Runner::csharp).run(dir, main);
        return ran.unwrap_or_else(|e| {
            // a function that calls itself without an end takes the runner along
            *runner = None;
            Output { status: status_of(1), stdout: Vec::new(), stderr: e.to_string().into_bytes() }
        });
    }
    if interpreter == TSC {
        static RUNNER: Mutex<Option<Runner>> = Mutex::new(None);
        let mut runner = RUNNER.lock().unwrap_or_else(|e| e.into_inner());
        let built = runner.get_or_insert_with(Runner::typescript).run(dir, main).expect("the compiler answers");
        drop(runner);
        if !built.status.success() {
            // the compiler speaks on its standard output
            return Output { stderr: built.stdout, stdout: Vec::new(), status: built.status };
        }
        let ran = program("node", dir, &format!("out/{}", main.replace(".ts", ".js")));
        // what was built is no source of the project
        std::fs::remove_dir_all(dir.join("out")).expect("the compiler wrote it");
        return ran;
    }
    if interpreter == "node" && !ends_itself(dir, main) {
        static RUNNER: Mutex<Option<Runner>> = Mutex::new(None);
        let mut runner = RUNNER.lock().unwrap_or_else(|e| e.into_inner());
        return runner.get_or_insert_with(Runner::scripts).run(dir, main).expect("node answers");
    }
    let mut c = script(interpreter);
    limited(c.arg(main).current_dir(dir).env("PYTHONDONTWRITEBYTECODE", "1"))
}

/// A program that says itself when it ends, or asks how it was started, is one of its own.
fn ends_itself(dir: &Path, main: &str) -> bool {
    let text = fs::read_to_string(dir.join(main)).unwrap_or_default();
    ["process.", "require.main", "worker_threads", "import.meta"].iter().any(|w| text.contains(w))
}

/// The interpreter itself, and not what stands for it on the path and takes longer to start than a program runs; without
/// libraries that may be installed.
pub fn script(interpreter: &str) -> Command {
    static PYTHON: OnceLock<PathBuf> = OnceLock::new();
    if interpreter != "python3" {
        return Command::new(interpreter);
    }
    let own = || {
        let said = Command::new(interpreter).args(["-c", "import sys; print(sys.executable)"]).output();
        said.map_or_else(|_| interpreter.into(), |o| String::from_utf8_lossy(&o.stdout).trim().into())
    };
    let mut c = Command::new(PYTHON.get_or_init(own));
    c.args(["-S", "-E", "-B"]);
    c
}

/// Seconds after which a program that a wrong edit keeps from ending is ended.
const LONGEST: u64 = 20;

fn limited(c: &mut Command) -> Output {
    let piped = c.stdin(Stdio::null()).stdout(Stdio::piped()).stderr(Stdio::piped());
    let mut child = piped.spawn().expect("the interpreter runs");
    let (mut out, mut err) = (child.stdout.take().expect("a pipe"), child.stderr.take().expect("a pipe"));
    let read = |from: &mut dyn Read| {
        let mut all = Vec::new();
        from.read_to_end(&mut all).expect("a pipe can be read");
        all
    };
    std::thread::scope(|s| {
        let (out, err) = (s.spawn(move || read(&mut out)), s.spawn(move || read(&mut err)));
        let begun = Instant::now();
        let status = loop {
            match child.try_wait().expect("a child can be waited for") {
                Some(status) => break status,
                None if begun.elapsed().as_secs() < LONGEST => std::thread::sleep(Duration::from_millis(2)),
                None => child.kill().expect("a child can be ended"),
            }
        };
        Output { status, stdout: out.join().expect("read"), stderr: err.join().expect("read") }
    })
}

/// Where the program keeps its state during the tests: in memory where that is possible, since they wait for the disk all
/// the time.
pub fn state() -> &'static Path {
    static STATE: OnceLock<PathBuf> = OnceLock::new();
    STATE.get_or_init(|| {
        let shared = Path::new("/dev/shm");
        let base = if shared.is_dir() { shared } else { Path::new(env!("CARGO_TARGET_TMPDIR")) };
        let own = std::env::current_exe().expect("a test has a program");
        let dir = base.join(format!("ufold-{}", own.file_name().expect("a name").to_string_lossy()));
        let _ = fs::remove_dir_all(&dir);
        dir
    })
}

/// The state of one root.
pub fn state_of(root: &Path) -> PathBuf {
    let root = root.canonicalize().expect("it is there");
    ufold_project::state::State::below(state(), &root).folder().to_path_buf()
}

/// The built program with its own state; `asks` what a person would be asked.
pub fn program_that_asks() -> Command {
    let mut c = Command::new(env!("CARGO_BIN_EXE_ufold"));
    c.env("UFOLD_STATE", state()).env_remove("NO_COLOR").env_remove("UFOLD_FAULT");
    c
}

/// The built program, which runs the commands of the tests' projects.
pub fn built() -> Command {
    let mut c = program_that_asks();
    c.arg("--trust");
    c
}

pub fn ufold(dir: &Path, args: &[&str]) -> Output {
    let mut c = built();
    c.args(args).args(["--root"]).arg(dir).current_dir(dir).output().expect("the built program runs")
}

pub const TSC: &str = "tsc";

/// The compiler as installed for the tests, or any.
pub fn tsc() -> PathBuf {
    let own = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../target/tools/node_modules/.bin/tsc");
    let paths = std::env::var_os("PATH").unwrap_or_default();
    let all = || std::env::split_paths(&paths).map(|p| p.join(TSC)).find(|p| p.exists());
    if own.exists() { own } else { all().unwrap_or_else(|| TSC.into()) }
}

/// Two copies in one module.
pub const TWO_COPIES: &str = "\
def berths(rows):
    total = 0
    for row in rows:
        if row.open:
            total += row.fee * 2 + row.extra
            print('berth', row.name, total)
    return round(total, 2)


def cranes(rows):
    total = 0
    for row in rows:
        if row.open:
            total += row.fee * 3 + row.extra
            print('crane', row.name, total)
    return round(total, 2)
";
