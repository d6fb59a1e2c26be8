//! ufold.toml.

use std::path::Path;

use serde::Deserialize;

use crate::root::CONFIG;
use crate::{Error, Result};

#[derive(Clone, Debug, Default, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct Config {
    pub scan: Scan,
    pub check: Check,
    pub step: Step,
}

#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct Scan {
    pub smallest: u32,
    pub longest: u32,
    pub include: Vec<String>,
    pub exclude: Vec<String>,
}

impl Default for Scan {
    fn default() -> Self {
        let o = ufold_core::find::Options::default();
        Self { smallest: o.smallest, longest: o.longest, include: Vec::new(), exclude: Vec::new() }
    }
}

#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct Check {
    pub command: Option<String>,
    /// Seconds.
    pub timeout: u64,
}

impl Default for Check {
    fn default() -> Self {
        Self { command: None, timeout: 600 }
    }
}

#[derive(Clone, Debug, Default, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct Step {
    pub commit: bool,
    pub strict: bool,
}

/// The configuration of a root; defaults where there is no file.
pub fn load(root: &Path) -> Result<Config> {
    let path = root.join(CONFIG);
    let text = match std::fs::read_to_string(&path) {
        Ok(t) => t,
        Err(e) if e.kind() == std::io::ErrorKind::NotFound => return Ok(Config::default()),
        Err(e) => return Err(Error::io("read", path, &e)),
    };
    let config: Config =
        toml::from_str(&text).map_err(|e| Error::Usage(format!("{CONFIG}: {}", e.to_string().trim_end())))?;
    if config.check.timeout == 0 {
        return Err(Error::Usage(format!("{CONFIG}: check.timeout: expected at least 1 second")));
    }
    for g in config.scan.include.iter().chain(&config.scan.exclude) {
        globset::Glob::new(g).map_err(|e| Error::Usage(format!("{CONFIG}: scan: bad pattern `{g}`: {}", e.kind())))?;
    }
    Ok(config)
}

/// What `init` writes for a root.
pub fn detect(root: &Path) -> (String, Option<String>) {
    let mut commands: Vec<String> = Vec::new();
    for c in ufold_core::lang::all().iter().filter_map(|l| l.test_command(&OnDisk(root))) {
        if !commands.contains(&c) {
            commands.push(c);
        }
    }
    // a project in several languages is right when all its suites pass
    let command = Some(commands.join(" && ")).filter(|c| !c.is_empty());
    let line = match &command {
        Some(c) => format!("command = {}\n", toml::Value::from(c.as_str())),
        None => "# command = \"…\"   # what runs the tests; it must exit with 0 when they pass\n".to_string(),
    };
    let o = ufold_core::find::Options::default();
    let text = format!(
        "# Settings of ufold. Every line is optional.\n\n\
         [check]\n{line}timeout = 600        # seconds for one run\n\n\
         [scan]\nsmallest = {}        # smallest copy, in names, literals and operators\n\
         longest = {}         # longest function, in code lines\n\
         # include = [\"src/**\"]\n# exclude = [\"**/legacy/**\"]\n\n\
         [step]\ncommit = false       # commit each step to git\nstrict = false       # refuse plans with assumptions\n",
        o.smallest, o.longest
    );
    (text, command)
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
