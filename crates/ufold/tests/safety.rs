//! Nobody's work is lost and nobody gets in: edits while a step runs, repositories that somebody else made, git in odd
//! states, checks that misbehave, readers that stop reading, and text that a terminal would obey.

mod common;

use std::fs;
use std::os::unix::fs::{PermissionsExt, symlink};
use std::path::PathBuf;
use std::process::{Command, Output, Stdio};
use std::time::{Duration, Instant};

use common::TWO_COPIES;

/// A folder with a project, and one beside it that is not the project's.
struct Port {
    outer: tempfile::TempDir,
}

impl Port {
    fn new(check: &str) -> Port {
        let p = Port { outer: tempfile::tempdir().expect("a temporary folder") };
        fs::create_dir_all(p.path("")).expect("folders can be made");
        fs::create_dir_all(p.outside("")).expect("folders can be made");
        p.write("port.py", TWO_COPIES);
        p.write("ufold.toml", &format!("[check]\ncommand = {check:?}\n\n[scan]\nsmallest = 12\n"));
        p
    }
    fn path(&self, name: &str) -> PathBuf {
        self.outer.path().join("root").join(name)
    }
    fn outside(&self, name: &str) -> PathBuf {
        self.outer.path().join("outside").join(name)
    }
    fn state(&self) -> PathBuf {
        common::state_of(&self.path(""))
    }
    fn write(&self, name: &str, text: &str) {
        fs::create_dir_all(self.path(name).parent().expect("inside")).expect("folders can be made");
        fs::write(self.path(name), text).expect("files can be written");
    }
    fn read(&self, name: &str) -> String {
        fs::read_to_string(self.path(name)).expect("it is there")
    }
    fn command(&self, program: Command, args: &[&str]) -> Command {
        let mut c = program;
        c.args(args).arg("--root").arg(self.path("")).current_dir(self.path(""));
        c
    }
    fn run(&self, args: &[&str]) -> Output {
        self.command(common::built(), args).output().expect("the built program runs")
    }
    /// Exit code and words that must be said.
    fn expect(&self, args: &[&str], code: i32, said: &[&str]) -> String {
        check(args, &self.run(args), code, said)
    }
    fn expect_asking(&self, args: &[&str], code: i32, said: &[&str]) -> String {
        check(args, &self.command(common::program_that_asks(), args).output().expect("it runs"), code, said)
    }
    fn git(&self, args: &[&str]) -> String {
        let o = Command::new("git").args(args).current_dir(self.path("")).output().expect("git runs");
        assert!(o.status.success(), "git {args:?}: {}", String::from_utf8_lossy(&o.stderr));
        String::from_utf8_lossy(&o.stdout).into_owned()
    }
    fn committed(self) -> Port {
        self.git(&["init", "-q"]);
        self.git(&["config", "user.name", "office"]);
        self.git(&["config", "user.email", "office@saltmarsh.example"]);
        self.git(&["add", "."]);
        self.git(&["commit", "-q", "-m", "start"]);
        self
    }
    fn hook(&self, name: &str, text: &str) {
        let path = self.path(".git/hooks").join(name);
        fs::write(&path, format!("#!/bin/sh\n{text}\n")).expect("files can be written");
        fs::set_permissions(&path, fs::Permissions::from_mode(0o755)).expect("it is ours");
    }
}

fn check(args: &[&str], o: &Output, code: i32, said: &[&str]) -> String {
    let all = format!("{}{}", String::from_utf8_lossy(&o.stdout), String::from_utf8_lossy(&o.stderr));
    assert_eq!(o.status.code(), Some(code), "{args:?}: {all}");
    said.iter().for_each(|s| assert!(all.contains(s), "{args:?} does not say `{s}`: {all}"));
    assert!(!all.contains("panicked"), "{all}");
    all
}

const FOLD: &[&str] = &["fold", "port.py:3"];

#[test]
fn an_edit_while_the_check_runs_is_kept() {
    // before the step: it is planned from a text that is no longer there
    let p = Port::new("grep -q mine port.py || echo '# mine' >> port.py");
    p.expect(FOLD, 3, &["port.py was changed since the plan was made"]);
    assert_eq!(p.read("port.py"), format!("{TWO_COPIES}# mine\n"));
    p.expect(FOLD, 0, &["check passed"]);
    // after it: the step is taken back, and what was written is kept and named
    let p = Port::new("test ! -e STATE/pending || echo '# mine' >> port.py");
    let state = p.state().to_string_lossy().into_owned();
    p.write("ufold.toml", &p.read("ufold.toml").replace("STATE", &state));
    let said = p.expect(FOLD, 4, &["port.py was changed while the check ran", "what it had is kept in"]);
    let kept = said.split("is kept in ").nth(1).and_then(|r| r.split_whitespace().next()).expect("a path");
    assert!(fs::read_to_string(kept).expect("it is there").ends_with("# mine\n"));
    assert_eq!(p.read("port.py"), TWO_COPIES);
    // another file: the step stands, and says what is not known; the next one checks anew
    let p = Port::new("test ! -e STATE/pending || echo 'x = 1' >> other.py");
    p.write("other.py", "");
    p.write("ufold.toml", &p.read("ufold.toml").replace("STATE", &p.state().to_string_lossy()));
    p.expect(FOLD, 0, &["while the check ran, something else changed other.py"]);
    p.expect(&["log"], 0, &["something else changed other.py"]);
}

#[test]
fn undo_is_whole_or_not_at_all() {
    let p = Port::new("true");
    p.expect(FOLD, 0, &[]);
    let after = p.read("port.py");
    // a later change of the mode stays
    fs::set_permissions(p.path("port.py"), fs::Permissions::from_mode(0o755)).expect("it is ours");
    let image = p.state().join("journal/0001/0");
    let text = fs::read_to_string(&image).expect("it is there");
    fs::remove_file(&image).expect("it is ours");
    p.expect(&["undo"], 5, &["is missing or damaged", "nothing was put back"]);
    assert_eq!(p.read("port.py"), after);
    fs::write(&image, text).expect("it is ours");
    p.expect(&["undo"], 0, &["step 1 was taken back"]);
    assert_eq!(p.read("port.py"), TWO_COPIES);
    let mode = fs::metadata(p.path("port.py")).expect("it is there").permissions().mode();
    assert_eq!(mode & 0o777, 0o755);
}

#[test]
fn what_a_repository_brings_is_not_trusted() {
    // a journal in the tree that would write elsewhere
    let p = Port::new("true");
    p.write(".git/hooks/pre-commit", "theirs");
    let record = r#"{"number":1,"time":1,"title":"x","state":"pending","saves":1,"files":[{"file":".git/hooks/pre-commit",
        "before":"aa","after":"bb"}],"check":null,"commit":null}"#;
    p.write(".ufold/journal/0001/step.json", record);
    p.write(".ufold/journal/0001/0", "echo in\n");
    p.write(".ufold/pending", "1 step");
    p.expect(&["scan"], 0, &[".ufold in this folder is not used"]);
    assert_eq!(p.read(".git/hooks/pre-commit"), "theirs");

    // links that lead out
    let out = |p: &Port| p.outside("");
    let p = Port::new("true");
    fs::remove_file(p.path("ufold.toml")).expect("it is there");
    symlink(p.outside("made"), p.path("ufold.toml")).expect("links can be made");
    p.expect(&["init"], 2, &["already there"]);
    p.expect(&["init", "--force"], 0, &[]);
    assert!(!p.outside("made").exists() && p.path("ufold.toml").is_file());
    symlink(out(&p), p.path("ufold-recordings")).expect("links can be made");
    p.expect(&["record", "tides", "--", "echo", "high"], 2, &["leads outside the root"]);
    fs::write(p.outside("fees.py"), TWO_COPIES).expect("files can be written");
    symlink(out(&p), p.path("lib")).expect("links can be made");
    let listed = p.expect(&["scan"], 0, &[]);
    assert!(!listed.contains("lib/fees.py"), "{listed}");
    p.expect(&["fold", "lib/fees.py:3", "--no-check"], 2, &["outside the root"]);
    assert_eq!(fs::read_to_string(p.outside("fees.py")).expect("it is there"), TWO_COPIES);
    assert_eq!(fs::read_dir(out(&p)).expect("a folder").count(), 1);
}

#[test]
fn commands_are_run_after_a_yes() {
    let p = Port::new("touch ran");
    let asked = &["touch ran", "ufold trust", "nothing was run"];
    for args in [&["ready"][..], &["check"], FOLD, &["watch", "--runs", "1"], &["fold", "--all"]] {
        p.expect_asking(args, 3, asked);
    }
    p.expect_asking(&["fold", "port.py:3", "--preview"], 0, &["preview only"]);
    p.expect_asking(&["trust", "--list"], 0, &["new  touch ran"]);
    assert!(!p.path("ran").exists() && p.read("port.py") == TWO_COPIES);
    // typed commands are the person's own, what the person records too
    p.expect_asking(&["check", "--check", "true"], 0, &[]);
    p.expect_asking(&["record", "tides", "--", "echo", "high"], 0, &[]);
    p.expect_asking(&["trust"], 0, &["new  touch ran"]);
    p.expect_asking(&["check"], 0, &["1 of 1 recording as before"]);
    assert!(p.path("ran").exists());
    // a changed command is another one
    let recording = p.read("ufold-recordings/tides/recording.toml");
    p.write("ufold-recordings/tides/recording.toml", &recording.replace("high", "low"));
    p.expect_asking(&["record", "--accept", "tides"], 3, &["recording tides: echo low"]);
    p.expect_asking(&["check", "--trust"], 1, &["recording tides: another stdout"]);
    // another folder in the same place
    fs::rename(p.path(""), p.outside("moved")).expect("it can be moved");
    fs::create_dir(p.path("")).expect("folders can be made");
    p.write("ufold.toml", "[check]\ncommand = \"touch ran\"\n");
    p.expect_asking(&["check"], 3, asked);
    p.expect_asking(&["init", "--force"], 0, &[]);
    // programs that the repository's own settings name
    let p = Port::new("true").committed();
    p.write(".gitattributes", "*.py filter=f\n");
    p.git(&["config", "filter.f.clean", "touch ran; cat"]);
    p.git(&["config", "core.fsmonitor", "touch monitored"]);
    fs::remove_file(p.path(".git/index")).expect("it is there");
    p.expect_asking(&["fold", "port.py:3", "--no-check"], 3, &["git setting filter.f.clean: touch ran; cat"]);
    assert!(!p.path("ran").exists());
    assert!(!p.path("monitored").exists());
}

/// What is done to the repository, the arguments, the exit code, words, and the subjects of the commits then.
#[test]
fn a_commit_is_of_the_step_alone_or_refused() {
    let commit = |p: &Port, code: i32, said: &[&str]| p.expect(&[FOLD, &["--commit"]].concat(), code, said);
    let clean = |p: &Port| assert_eq!(p.git(&["status", "--porcelain"]), "");
    // a hook that fails, and one that stages something first
    let p = Port::new("true").committed();
    p.hook("pre-commit", "git add -A; echo no tides today; exit 1");
    commit(&p, 5, &["no tides today"]);
    assert_eq!(p.read("port.py"), TWO_COPIES);
    clean(&p);
    // no identity
    let p = Port::new("true").committed();
    p.git(&["config", "user.useConfigOnly", "true"]);
    p.git(&["config", "--unset", "user.email"]);
    let mut c = p.command(common::built(), &[FOLD, &["--commit"]].concat());
    let o = c.env("HOME", p.outside("")).env("GIT_CONFIG_GLOBAL", "/dev/null").output().expect("it runs");
    check(FOLD, &o, 5, &["git commit failed"]);
    clean(&p);
    // a merge under way
    let p = Port::new("true").committed();
    p.git(&["checkout", "-q", "-b", "side"]);
    p.git(&["commit", "-q", "--allow-empty", "-m", "side"]);
    p.git(&["checkout", "-q", "-"]);
    p.git(&["merge", "-q", "--no-ff", "--no-commit", "side"]);
    commit(&p, 3, &["a merge is under way"]);
    // other staged changes stay staged
    let p = Port::new("true").committed();
    p.write("notes.txt", "mine\n");
    p.git(&["add", "notes.txt"]);
    commit(&p, 0, &["commit "]);
    assert_eq!(p.git(&["status", "--porcelain"]), "A  notes.txt\n");
    assert_eq!(p.git(&["show", "--name-only", "--format=", "HEAD"]), "port.py\n");
    // changes of the person's own in the file
    let p = Port::new("true").committed();
    p.write("port.py", &format!("{TWO_COPIES}\n# mine\n"));
    p.expect(FOLD, 3, &["port.py: it has changes that are not committed", "--include-changed"]);
    p.expect(&[FOLD, &["--commit", "--include-changed"]].concat(), 3, &["a commit would hold changes of your own"]);
    assert_eq!(p.git(&["rev-list", "--count", "HEAD"]), "1\n");
    p.expect(&[FOLD, &["--include-changed"]].concat(), 0, &["check passed"]);
}

#[test]
fn a_commit_takes_along_what_it_stands_on() {
    let p = Port::new("true").committed();
    let more = TWO_COPIES.replace("total", "sum_").replace("row.fee *", "row.gt *").replace("'berth'", "'pilot'");
    p.write("port.py", &format!("{TWO_COPIES}\n\n{}", more.replace("berths", "pilots").replace("cranes", "tugs")));
    p.write("other.py", "print('not of the step')\n");
    p.git(&["add", "."]);
    p.git(&["commit", "-q", "-m", "more"]);
    p.expect(&["fold", "port.py:3", "--except", "3,4"], 0, &["check passed"]);
    let line = p.read("port.py").lines().position(|l| l.contains("sum_ = 0")).expect("it is there") + 1;
    p.expect(&["fold", &format!("port.py:{line}"), "--commit"], 0, &["commit "]);
    assert_eq!(p.git(&["status", "--porcelain"]), "", "both steps are in the commit");
    let message = p.git(&["log", "-1", "--format=%B"]);
    assert!(message.contains("Ufold-Step: 1\nUfold-Step: 2\n"), "{message}");
    let log = p.expect(&["log"], 0, &[]);
    assert_eq!(log.matches("commit ").count(), 2, "{log}");
}

/// Where git can't say what is changed, nothing is written and nobody is told to start.
#[test]
fn where_git_does_not_know_nobody_does() {
    type Prepare = fn(&Port, &mut Command);
    let cases: [(&str, Prepare, &str); 5] = [
        ("git is missing", |_, c| _ = c.env("PATH", "/nowhere"), "git can't be run"),
        ("a foreign repository", |p, c| _ = c.env("GIT_DIR", p.outside("")), "GIT_DIR leads git"),
        (
            "a damaged repository",
            |p, _| fs::write(p.path(".git/HEAD"), "nonsense").expect("it is ours"),
            "git can't say what is changed",
        ),
        (
            "a hidden change",
            |p, _| drop(p.git(&["update-index", "--assume-unchanged", "port.py"])),
            "not to look at it",
        ),
        (
            "untracked files are hidden",
            |p, _| {
                p.git(&["rm", "-q", "--cached", "port.py"]);
                p.git(&["commit", "-q", "-m", "forgotten"]);
                p.git(&["config", "status.showUntrackedFiles", "no"]);
            },
            "not under version control",
        ),
    ];
    for (name, prepare, said) in cases {
        let p = Port::new("true").committed();
        p.expect(&["trust"], 0, &[]);
        let mut c = p.command(common::built(), &[FOLD, &["--no-check"]].concat());
        prepare(&p, &mut c);
        let o = c.output().expect("it runs");
        let all = format!("{}{}", String::from_utf8_lossy(&o.stdout), String::from_utf8_lossy(&o.stderr));
        assert!(o.status.code() == Some(3) && all.contains(said), "{name}: {all}");
        assert_eq!(p.read("port.py"), TWO_COPIES, "{name}");
    }
    let p = Port::new("true").committed();
    fs::write(p.path(".git/HEAD"), "nonsense").expect("it is ours");
    p.expect(&["ready"], 1, &["git can't say what is changed", "not ready"]);
}

#[test]
fn checks_that_misbehave() {
    // it removes what leads back
    let p = Port::new("rm -rf STATE");
    p.write("ufold.toml", &p.read("ufold.toml").replace("STATE", &p.state().to_string_lossy()));
    p.expect(FOLD, 0, &["check passed"]);
    p.expect(&["undo"], 0, &["step 1 was taken back"]);
    assert_eq!(p.read("port.py"), TWO_COPIES);
    // it removes that and fails
    let p = Port::new("test ! -e STATE/pending || { rm -rf STATE; false; }");
    p.write("ufold.toml", &p.read("ufold.toml").replace("STATE", &p.state().to_string_lossy()));
    p.expect(FOLD, 4, &["every file was put back"]);
    assert_eq!(p.read("port.py"), TWO_COPIES);
    // a child that leaves the group is ended, and does not write later
    let p = Port::new("setsid sh -c 'sleep 1; echo late >> port.py' >/dev/null 2>&1 & sleep 0.1");
    p.expect(&["check"], 0, &[]);
    std::thread::sleep(Duration::from_millis(1300));
    assert_eq!(p.read("port.py"), TWO_COPIES);
    // it prints without end
    let p = Port::new("head -c 100000000 /dev/zero | tr '\\0' 'x'; echo; echo the end; false");
    p.expect(&["check"], 1, &["the end"]);
    // reports that are no files
    let p = Port::new("true");
    assert!(Command::new("mkfifo").arg(p.path("lcov.info")).status().expect("mkfifo runs").success());
    assert!(Command::new("mkfifo").arg(p.path("tides.py")).status().expect("mkfifo runs").success());
    p.write("ufold.toml", "[check]\ncommand = \"mkfifo {report}\"\ncoverage = [\"lcov.info\"]\n");
    let started = Instant::now();
    p.expect(&["scan"], 5, &["no regular file"]);
    p.write("ufold.toml", "[check]\ncommand = \"mkfifo {report}\"\n");
    p.expect(&["check"], 1, &["its report can't be read: no regular file"]);
    assert!(started.elapsed() < Duration::from_secs(20));
}

#[test]
fn no_baseline_is_taken_over_unchecked_steps() {
    let p = Port::new("true");
    p.expect(&["check"], 0, &[]);
    p.expect(&[FOLD, &["--no-check"]].concat(), 0, &["no check was run"]);
    // as a batch that was cut off leaves it
    let record = p.state().join("journal/0001/step.json");
    let text =
        fs::read_to_string(&record).expect("it is there").replace("\"saves\"", "\"unchecked\": true,\n\"saves\"");
    fs::write(&record, text).expect("it is ours");
    p.write("more.py", &TWO_COPIES.replace("fee", "toll"));
    for args in [&["fold", "more.py:3"][..], &["ready"]] {
        p.expect(args, 3, &["step 1 was applied and never checked", "ufold check"]);
    }
    p.expect(&["log"], 0, &["not checked yet"]);
    p.expect(&["check", "--check", "false"], 3, &["1 step was never checked", "ufold undo"]);
    p.expect(&["check"], 0, &["passed"]);
    p.expect(&["fold", "more.py:3"], 0, &["check passed"]);
}

#[test]
fn an_answer_stays_what_it_is_when_nobody_reads_it() {
    let p = Port::new("false");
    let closed = |args: &[&str]| {
        let mut c =
            p.command(common::built(), args).stdout(Stdio::piped()).stderr(Stdio::piped()).spawn().expect("it starts");
        drop(c.stdout.take());
        drop(c.stderr.take());
        c.wait().expect("it ends").code()
    };
    let full = |args: &[&str]| {
        let full = || fs::File::options().write(true).open("/dev/full").expect("a device");
        p.command(common::built(), args).stdout(full()).stderr(full()).status().expect("it starts").code()
    };
    assert_eq!((closed(&["ready"]), full(&["ready"])), (Some(1), Some(1)));
    assert_eq!((closed(&["check"]), full(&["check"])), (Some(1), Some(1)));
    assert_eq!((closed(&["fold", "none"]), full(&["fold", "none"])), (Some(2), Some(2)));
    // what somebody wanted and did not get is no success
    assert_eq!((closed(&["scan"]), full(&["scan"])), (Some(0), Some(5)));
}

#[test]
fn text_that_a_terminal_would_obey_is_shown() {
    let p = Port::new("printf 'not ok \\033[2J\\033]0;title\\007'; false");
    let hostile = TWO_COPIES.replace("'berth'", "'\u{1b}[8mberth\u{202e}'").replace("'crane'", "'\u{9b}2Jcrane'");
    p.write("port.py", &hostile);
    for args in [&["show", "port.py:3"][..], &["fold", "port.py:3", "--preview"], &["check"]] {
        for color in ["always", "never"] {
            let said = p.run(&[args, &["--color", color]].concat());
            let all = [said.stdout, said.stderr].concat();
            let text = String::from_utf8(all).expect("text");
            let bare = text.split("\u{1b}[").skip(1).all(|rest| {
                let code = rest.split('m').next().unwrap_or("");
                code.chars().all(|c| c.is_ascii_digit() || c == ';') && code != "8"
            });
            assert!(bare && !text.contains(['\u{202e}', '\u{9b}', '\u{7}']), "{args:?} {color}: {text:?}");
            assert!(color == "always" || !text.contains('\u{1b}'), "{args:?}: {text:?}");
            assert!(text.contains('␛'), "{args:?}: {text:?}");
        }
    }
    let json = p.run(&["show", "port.py:3", "--format", "json"]).stdout;
    assert!(json.is_ascii(), "{}", String::from_utf8_lossy(&json));
    serde_json::from_slice::<serde_json::Value>(&json).expect("still JSON");
}
