//! The check that `init` writes: test suites recognized by their files, each with its report switched on.

use std::path::Path;

use super::Command;

/// A build tool with its marker file, its command and the reports that it writes.
const TOOLS: &[(&str, &str, &[&str])] = &[
    ("Cargo.toml", "cargo test", &[]),
    ("go.mod", "go test -v ./...", &[]),
    ("pom.xml", "mvn -q test", &["**/target/surefire-reports/*.xml"]),
    ("build.gradle", "./gradlew test", &["**/build/test-results/**/*.xml"]),
    ("build.gradle.kts", "./gradlew test", &["**/build/test-results/**/*.xml"]),
    ("phpunit.xml", "vendor/bin/phpunit --log-junit {report}", &[]),
    ("phpunit.xml.dist", "vendor/bin/phpunit --log-junit {report}", &[]),
    (".busted", "busted -o TAP", &[]),
    ("build/CTestTestfile.cmake", "ctest --test-dir build --output-junit {report}", &[]),
];

/// Programs that a project brings along, and what they are called where it does not.
const INSTALLED: &[(&str, &str)] = &[("vendor/bin/phpunit", "phpunit"), ("./gradlew", "gradle")];

/// The command with the project's own program, or the installed one.
fn with_program(root: &Path, run: &str) -> String {
    let missing = |(own, _): &&(&str, &str)| run.starts_with(own) && !root.join(own).exists();
    match INSTALLED.iter().find(missing) {
        Some((own, other)) => run.replacen(own, other, 1),
        None => run.to_string(),
    }
}

/// The commands for what a root holds.
pub fn commands(root: &Path) -> Vec<Command> {
    let command = |run: String, files: &[&str]| Command {
        run,
        files: files.iter().map(|f| f.to_string()).collect(),
        ..Command::default()
    };
    let mut out: Vec<Command> = Vec::new();
    for run in ufold_core::lang::all().iter().filter_map(|l| l.test_command(&OnDisk(root))) {
        if !out.iter().any(|c| c.run == run) {
            out.push(command(run, &[]));
        }
    }
    for (_, run, files) in TOOLS.iter().filter(|(marker, ..)| root.join(marker).is_file()) {
        let run = with_program(root, run);
        if !out.iter().any(|c| c.run == run) {
            out.push(command(run, files));
        }
    }
    out
}

/// A root's files, for a language to recognize a test suite by.
struct OnDisk<'a>(&'a Path);

impl ufold_core::lang::Layout for OnDisk<'_> {
    fn exists(&self, path: &str) -> bool {
        self.0.join(path).exists()
    }
    fn text(&self, path: &str) -> String {
        std::fs::read_to_string(self.0.join(path)).unwrap_or_default()
    }
    fn names_in(&self, folder: &str) -> Vec<String> {
        let entries = std::fs::read_dir(self.0.join(folder)).into_iter().flatten().flatten();
        let mut names: Vec<String> = entries.map(|f| f.file_name().to_string_lossy().into_owned()).collect();
        names.sort();
        names
    }
}

#[cfg(test)]
mod tests {
    /// The commands for a folder with some files.
    #[test]
    fn suites_are_recognized_by_their_files() {
        let cases: [(&[&str], &[&str]); 7] = [
            (&["Cargo.toml"], &["cargo test"]),
            (&["phpunit.xml"], &["phpunit --log-junit {report}"]),
            (&["phpunit.xml", "vendor/bin/phpunit"], &["vendor/bin/phpunit --log-junit {report}"]),
            (&["build.gradle"], &["gradle test"]),
            (&["build.gradle.kts", "gradlew"], &["./gradlew test"]),
            (&[".busted", "go.mod"], &["go test -v ./...", "busted -o TAP"]),
            (&["notes.txt"], &[]),
        ];
        for (files, expected) in cases {
            let dir = tempfile::tempdir().expect("a folder");
            for f in files {
                let path = dir.path().join(f);
                std::fs::create_dir_all(path.parent().expect("a parent")).expect("a folder");
                std::fs::write(path, "").expect("a file");
            }
            let found: Vec<String> = super::commands(dir.path()).into_iter().map(|c| c.run).collect();
            assert_eq!(found, expected, "{files:?}");
        }
    }
}
