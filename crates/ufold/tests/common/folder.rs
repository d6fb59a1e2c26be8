use std::fs;
use std::path::PathBuf;
use std::process::{Command, Output};

/// A temporary folder, and the built program in it.
pub struct Folder(tempfile::TempDir);

impl Folder {
    pub fn new(files: &[(&str, &str)]) -> Folder {
        let f = Folder(tempfile::tempdir().expect("a temporary folder"));
        files.iter().for_each(|(p, t)| f.write(p, t));
        f
    }
    pub fn path(&self, p: &str) -> PathBuf {
        self.0.path().join(p)
    }
    pub fn write(&self, p: &str, text: &str) {
        fs::create_dir_all(self.path(p).parent().expect("a folder")).expect("folders can be made");
        fs::write(self.path(p), text).expect("files can be written");
    }
    pub fn read(&self, p: &str) -> String {
        fs::read_to_string(self.path(p)).expect("files can be read")
    }
    pub fn command(&self, args: &[&str]) -> Command {
        let mut c = super::built();
        c.args(args).current_dir(self.0.path());
        if !self.path(".git").exists() {
            c.args(["--root", "."]);
        }
        c
    }
    pub fn run(&self, args: &[&str]) -> Output {
        self.command(args).output().expect("the built program runs")
    }
    pub fn git(&self, args: &[&str]) -> String {
        let mut c = Command::new("git");
        c.args(["-c", "user.name=o", "-c", "user.email=o@port.example"]).args(args).current_dir(self.0.path());
        let o = c.output().expect("git runs");
        assert!(o.status.success(), "git {args:?}: {}", String::from_utf8_lossy(&o.stderr));
        String::from_utf8_lossy(&o.stdout).into_owned()
    }
    pub fn commit(&self, subject: &str) {
        self.git(&["add", "-A"]);
        self.git(&["commit", "-q", "-m", subject]);
    }
    pub fn commit_all(&self) {
        self.git(&["init", "-q"]);
        self.git(&["config", "user.name", "o"]);
        self.git(&["config", "user.email", "o@port.example"]);
        self.commit("start");
    }
}

/// What a command printed on both streams.
pub fn both(o: &Output) -> String {
    format!("{}{}", String::from_utf8_lossy(&o.stdout), String::from_utf8_lossy(&o.stderr))
}
