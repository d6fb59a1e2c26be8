//! `demo`: the whole job on a shipped example, in a new folder, each command printed before its output.

use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};

use include_dir::{Dir, include_dir};
use ufold_project::{Error, Result};

use crate::args::{Color, Common};
use crate::output::{Paint, quoted};

static PROJECT: Dir = include_dir!("$CARGO_MANIFEST_DIR/demo/saltmarsh");

/// A part of the example in a language of its own, which is left out where nothing could run its test.
struct Part {
    language: &'static str,
    name: &'static str,
    folder: &'static str,
    /// The file that goes with it.
    file: &'static str,
    /// What must be there, each with the word by which it says its version.
    needs: &'static [(&'static str, &'static str)],
}

const PARTS: [Part; 5] = [
    Part {
        language: "TypeScript",
        name: "the kiosk",
        folder: "kiosk",
        file: "package.json",
        needs: &[("npm", "--version"), ("node", "--version"), ("tsc", "--version")],
    },
    Part {
        language: "Java",
        name: "the cold store",
        folder: "coldstore",
        file: "tests/test_coldstore.py",
        needs: &[("javac", "--version"), ("java", "--version")],
    },
    Part {
        language: "Lua",
        name: "the tide display",
        folder: "display",
        file: "tests/test_display.py",
        needs: &[("lua5.4", "-v")],
    },
    Part {
        language: "PHP",
        name: "the notice page",
        folder: "notice",
        file: "tests/test_notice.py",
        needs: &[("php", "--version")],
    },
    Part {
        language: "C#",
        name: "the permit desk",
        folder: "permits",
        file: "tests/test_permits.py",
        needs: &[("mcs", "--version"), ("mono", "--version")],
    },
];

impl Part {
    fn is_there(&self) -> bool {
        self.needs.iter().all(|(program, word)| have(program, word))
    }
}

pub fn run(common: &Common, dir: Option<&Path>) -> anyhow::Result<u8> {
    let paint = Paint::new(common.color);
    let (parts, missing): (Vec<&Part>, Vec<&Part>) = PARTS.iter().partition(|p| p.is_there());
    let dir = make(dir, &missing)?;
    let languages = match parts.iter().map(|p| p.language).collect::<Vec<_>>().split_last() {
        None => "Python".to_string(),
        Some((last, others)) => format!("{} and {last}", [&["Python"], others].concat().join(", ")),
    };
    say!("{}", paint.strong(&format!("The harbour office of Saltmarsh: {languages}, with tests, and with copies.")));
    say!("It is in {}", dir.display());
    let (git, python) = (have("git", "--version"), have("python3", "--version"));
    let kiosk = parts.iter().any(|p| p.folder == "kiosk");
    let demo = Demo { dir: &dir, paint, color: common.color, git, python, kiosk, missing: &missing };
    demo.prepare()?;
    demo.play()?;
    demo.close()?;
    Ok(0)
}

/// A new folder with the project in it, without the parts that could not be tested.
fn make(dir: Option<&Path>, missing: &[&Part]) -> Result<PathBuf> {
    let dir = match dir {
        Some(d) if d.exists() => {
            return Err(Error::Usage(format!("{} is already there; name a new folder", d.display())));
        }
        Some(d) => {
            std::fs::create_dir_all(d).map_err(|e| Error::io("make", d, &e))?;
            d.canonicalize().map_err(|e| Error::io("open", d, &e))?
        }
        None => {
            let made = tempfile::Builder::new().prefix("saltmarsh-").tempdir();
            made.map_err(|e| Error::io("make a folder in", std::env::temp_dir(), &e))?.keep()
        }
    };
    PROJECT.extract(&dir).map_err(|e| Error::io("write", &dir, &e))?;
    for part in missing {
        let (folder, file) = (dir.join(part.folder), dir.join(part.file));
        std::fs::remove_dir_all(&folder).map_err(|e| Error::io("remove", folder, &e))?;
        std::fs::remove_file(&file).map_err(|e| Error::io("remove", file, &e))?;
    }
    Ok(dir)
}

fn have(program: &str, version: &str) -> bool {
    let mut c = Command::new(program);
    c.arg(version).stdout(Stdio::null()).stderr(Stdio::null());
    c.status().is_ok_and(|s| s.success())
}

struct Demo<'a> {
    dir: &'a Path,
    paint: Paint,
    color: Color,
    git: bool,
    python: bool,
    /// What builds the kiosk and runs its tests is there.
    kiosk: bool,
    /// What is left out.
    missing: &'a [&'a Part],
}

/// The tests of the office without those of its kiosk.
const OFFICE: &str = "python3 -m unittest discover -v -s tests -t .";

/// The function of the example that does too much.
const OVERLONG: &str = "harbour/fees.py:invoice";

/// A file of the example about two things, and copies in it that stand side by side.
const DESK: &str = "harbour/desk.py";
const GAUGES: &str = "harbour/desk.py:54";

/// What the records of the example have in common.
const LIFTED: &[&str] = &["lift", "harbour/records.py:BerthRecord.label,sort_key", "--new-base", "Record"];

/// What stands in the register of cranes and is no part of it, and the file for that.
const SHIFTS: &[&str] =
    &["move", "harbour/cranes.py:quay_plan,night_plan,watch_board", "--to", "harbour/shifts.py", "--no-stay"];

/// A change of the example before anything is folded.
struct Mended {
    file: &'static str,
    before: &'static str,
    now: &'static str,
    subject: &'static str,
}

const MENDED: Mended = Mended {
    file: "harbour/reports.py",
    before: "        rows.append((call.ship.name, call.ship.tonnage))\n",
    now: "        if call.ship.tonnage:\n            rows.append((call.ship.name, call.ship.tonnage))\n",
    subject: "Ships without a tonnage are not in its report",
};

impl Demo<'_> {
    fn prepare(&self) -> Result<()> {
        if !self.python {
            say!("python3 was not found: the steps run without the project's tests.");
        }
        for part in self.missing {
            let programs: Vec<&str> = part.needs.iter().map(|n| n.0).collect();
            let programs = programs.join(" or ");
            say!("{programs} was not found: {} ({}) and its tests are left out.", part.name, part.language);
        }
        if !self.git {
            say!("git was not found: the journal alone keeps the way back.");
            return Ok(());
        }
        std::fs::write(self.dir.join(".gitignore"), "__pycache__/\nkiosk/.built/\n")
            .map_err(|e| Error::io("write", self.dir, &e))?;
        self.run_git(&[
            &["init", "-q"],
            &["config", "user.name", "Harbour Office"],
            &["config", "user.email", "office@saltmarsh.example"],
        ])?;
        // two of its reports were one once, and only one of them was mended
        let report = self.dir.join(MENDED.file);
        let now = std::fs::read_to_string(&report).map_err(|e| Error::io("read", &report, &e))?;
        let write = |text: &str| std::fs::write(&report, text).map_err(|e| Error::io("write", &report, &e));
        write(&now.replace(MENDED.now, MENDED.before))?;
        self.run_git(&[&["add", "-A"], &["commit", "-q", "-m", "The office as it was"]])?;
        write(&now)?;
        self.run_git(&[&["commit", "-q", "-a", "-m", MENDED.subject]])
    }

    fn run_git(&self, commands: &[&[&str]]) -> Result<()> {
        for args in commands {
            let status = Command::new("git").args(*args).current_dir(self.dir).stdin(Stdio::null()).status();
            if !status.is_ok_and(|s| s.success()) {
                return Err(Error::Environment(format!("git {} failed in {}", args[0], self.dir.display())));
            }
        }
        Ok(())
    }

    fn play(&self) -> Result<()> {
        self.step("What runs the tests is detected and written down.", &["init"])?;
        if self.python {
            self.step("Is it safe to start? The tests are run twice.", &[&["ready"], &self.tests()[..]].concat())?;
        }
        self.step("What is worth changing, the best first.", &["scan"])?;
        let (best, refused) = self.findings()?;
        self.step("One finding, closely: copies, holes, the function, the calls, the verdict.", &["show", &best])?;
        let mut flags: Vec<&str> = Vec::new();
        flags.extend(self.git.then_some("--commit"));
        flags.extend((!self.python).then_some("--no-check"));
        flags.extend(self.tests());
        self.step(
            "Fold it: change, check, commit; a failing check would put everything back.",
            &[&["fold", best.as_str()], &flags[..]].concat(),
        )?;
        if self.python {
            self.step("Would the tests have noticed, had it been wrong?", &["probe", "--check", OFFICE])?;
        }
        self.step(
            "Numbered copies side by side: a loop over what differs.",
            &[&["fold", GAUGES], &flags[..]].concat(),
        )?;
        let lift = [LIFTED, &flags[..]].concat();
        self.step("What three classes repeat: into a class that all of them extend.", &lift)?;
        if let Some(r) = refused {
            self.step("This one is refused, and says why.", &["show", &r])?;
        }
        if self.git {
            self.step("Copies that grew apart, and which change parted them.", &["scan", "--kind", "drift"])?;
        }
        self.step("Then the rest of the worklist, a step each.", &[&["fold", "--all"], &flags[..]].concat())?;
        self.step("A function that grew: where it wants to be cut.", &["split", OVERLONG])?;
        let parts = [&["split", OVERLONG, "--all-parts", "--names", "_add_dues,_add_totals"], &flags[..]].concat();
        self.step("Cut it there.", &parts)?;
        self.step("What is only in the way.", &["scan", "--kind", "clutter"])?;
        self.step("Take it away.", &[&["tidy"], &flags[..]].concat())?;
        self.step("What is no part of a register goes to a file of its own.", &[SHIFTS, &flags[..]].concat())?;
        self.step("A file of two things: where it wants to be cut.", &["split", DESK])?;
        let files = [&["split", DESK, "--all-parts", "--no-stay"], &flags[..]].concat();
        self.step("Cut it there.", &files)?;
        if self.python {
            let script = ["notebook", "gauges.ipynb", "-o", "gauges.py"];
            self.step("The notebook of the tide gauges as a script, with a recording of what it prints.", &script)?;
        }
        self.step("What was done.", &["log"])
    }

    /// The check to use where the detected one can't run.
    fn tests(&self) -> Vec<&'static str> {
        if self.python && !self.kiosk { vec!["--check", OFFICE] } else { Vec::new() }
    }

    /// Prints a command and runs it in the folder.
    fn step(&self, why: &str, args: &[&str]) -> Result<()> {
        say!("\n{}", self.paint.faint(&format!("# {why}")));
        let words: Vec<String> = args.iter().map(|a| quoted(a)).collect();
        say!("{}", self.paint.strong(&format!("$ ufold {}", words.join(" "))));
        let status = self.command(args).status();
        match status {
            // an answer that is no is an answer
            Ok(s) if s.success() || s.code() == Some(1) => Ok(()),
            Ok(s) => Err(Error::Environment(format!("ufold {} ended with {s}", args.join(" ")))),
            Err(e) => Err(Error::Environment(format!("ufold cannot start itself: {e}"))),
        }
    }

    fn command(&self, args: &[&str]) -> Command {
        let mut c = Command::new(std::env::current_exe().unwrap_or_else(|_| "ufold".into()));
        let color = match self.color {
            Color::Auto => "auto",
            Color::Always => "always",
            Color::Never => "never",
        };
        c.args(args).args(["--color", color]).current_dir(self.dir).env("PYTHONDONTWRITEBYTECODE", "1");
        c
    }

    /// The best finding and one that is refused.
    fn findings(&self) -> Result<(String, Option<String>)> {
        let out = self.command(&["scan", "--format", "json"]).output();
        let out = out.map_err(|e| Error::Environment(format!("ufold cannot start itself: {e}")))?;
        let json: serde_json::Value = serde_json::from_slice(&out.stdout)
            .map_err(|e| Error::Environment(format!("scan printed no JSON: {e}")))?;
        let find = |verdict: &str| {
            let all = json["findings"].as_array()?;
            let f = all.iter().find(|f| f["verdict"] == verdict && f["kind"] == "repeat")?;
            f["id"].as_str().map(str::to_string)
        };
        let best =
            find("ready").ok_or_else(|| Error::Environment("the example has no finding that is ready".into()))?;
        Ok((best, find("refused")))
    }

    fn close(&self) -> Result<()> {
        let out = self.command(&["log", "--format", "json"]).output();
        let out = out.map_err(|e| Error::Environment(format!("ufold cannot start itself: {e}")))?;
        let json: serde_json::Value = serde_json::from_slice(&out.stdout).unwrap_or_default();
        let steps: Vec<&serde_json::Value> =
            json["steps"].as_array().into_iter().flatten().filter(|r| r["state"] == "applied").collect();
        let saved: i64 = steps.iter().filter_map(|r| r["saves"].as_i64()).sum();
        let checked = if self.python { "the tests passed after each of them" } else { "without tests" };
        say!("\n{}", self.paint.strong(&format!("{} steps saved {saved} lines; {checked}.", steps.len())));
        say!("Go on by hand:\n  cd {}", self.dir.display());
        say!("  ufold scan              what is left\n  ufold undo              take the last step back");
        if self.git {
            say!("  git log -p              read the steps as commits");
        }
        Ok(())
    }
}
