//! ufold.toml.

use std::path::Path;

use serde::Deserialize;

use crate::check::Command;
use crate::root::CONFIG;
use crate::{Error, Result};

#[derive(Clone, Debug, Default, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct Config {
    pub scan: Scan,
    pub check: Check,
    pub step: Step,
    /// Findings that are not to be listed.
    pub never: Vec<Never>,
}

/// A finding that somebody decided to leave as it is.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Never {
    pub id: String,
    /// Why.
    pub reason: String,
}

impl Never {
    /// As it is added to the end of ufold.toml.
    pub fn written(&self) -> String {
        let text = |t: &str| toml::Value::from(t).to_string();
        format!("\n[[never]]\nid = {}\nreason = {}\n", text(&self.id), text(&self.reason))
    }
}

#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct Scan {
    pub smallest: u32,
    pub longest: u32,
    pub deepest: u32,
    pub most_complex: u32,
    pub most_parameters: u32,
    pub most_names: u32,
    pub longest_file: u32,
    pub include: Vec<String>,
    pub exclude: Vec<String>,
}

impl Default for Scan {
    fn default() -> Self {
        let o = ufold_core::find::Options::default();
        Self {
            smallest: o.smallest,
            longest: o.longest,
            deepest: o.deepest,
            most_complex: o.most_complex,
            most_parameters: o.most_parameters,
            most_names: o.most_names,
            longest_file: o.longest_file,
            include: Vec::new(),
            exclude: Vec::new(),
        }
    }
}

#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct Check {
    /// One command.
    pub command: Option<String>,
    /// Or several.
    pub commands: Vec<Command>,
    /// Seconds.
    pub timeout: u64,
    pub stop_early: bool,
    /// Files with coverage that the project's own tools wrote.
    pub coverage: Vec<String>,
}

impl Default for Check {
    fn default() -> Self {
        Self { command: None, commands: Vec::new(), timeout: 600, stop_early: false, coverage: Vec::new() }
    }
}

impl Check {
    /// The check with a root's recordings; none when there is nothing to run. `given`: a command in place of those that
    /// are configured.
    pub fn net(&self, root: &Path, given: Option<&str>) -> Result<Option<crate::check::Check>> {
        let timeout = std::time::Duration::from_secs(self.timeout);
        let own = |line: &str| crate::check::Check::of_command(line, timeout);
        let mut check = match (given, &self.command) {
            (Some(line), _) => own(line),
            (None, Some(line)) => own(line),
            (None, None) => crate::check::Check { commands: self.commands.clone(), ..own("") },
        };
        if given.is_none() && self.command.is_none() {
            check.stop_early = self.stop_early;
        }
        check.recordings = crate::recording::all(root)?;
        let nothing = check.commands.is_empty() && check.recordings.is_empty();
        Ok((!nothing).then_some(check))
    }
}

#[derive(Clone, Debug, Default, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct Step {
    pub commit: bool,
    pub strict: bool,
    /// The project's formatter, with `{files}` where the names of the touched files go.
    pub format: Option<String>,
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
    if config.check.command.is_some() && !config.check.commands.is_empty() {
        return Err(Error::Usage(format!("{CONFIG}: check: either `command` or [[check.commands]], not both")));
    }
    if config.check.commands.iter().any(|c| c.run.trim().is_empty()) {
        return Err(Error::Usage(format!("{CONFIG}: check.commands: `run` is missing")));
    }
    if config.step.format.as_ref().is_some_and(|f| !f.contains(crate::format::FILES)) {
        return Err(Error::Usage(format!("{CONFIG}: step.format: expected {} for the files", crate::format::FILES)));
    }
    for g in config.scan.include.iter().chain(&config.scan.exclude) {
        globset::Glob::new(g).map_err(|e| Error::Usage(format!("{CONFIG}: scan: bad pattern `{g}`: {}", e.kind())))?;
    }
    Ok(config)
}

/// What `init` writes for a root, with the commands of its check.
pub fn detect(root: &Path) -> (String, Vec<String>) {
    let found = crate::check::detect::commands(root);
    let quoted = |text: &str| toml::Value::from(text).to_string();
    let command = match found.as_slice() {
        [] => "# command = \"…\"   # what runs the tests; it must exit with 0 when they pass\n".to_string(),
        [one] if one.files.is_empty() => format!("command = {}\n", quoted(&one.run)),
        _ => String::new(),
    };
    let mut tables = String::new();
    for c in found.iter().filter(|_| command.is_empty()) {
        tables.push_str(&format!("\n[[check.commands]]\nrun = {}\n", quoted(&c.run)));
        if !c.files.is_empty() {
            let files: Vec<String> = c.files.iter().map(|f| quoted(f)).collect();
            tables.push_str(&format!("files = [{}]        # reports that it writes\n", files.join(", ")));
        }
    }
    let o = ufold_core::find::Options::default();
    let text = format!(
        "# Settings of ufold. Every line is optional.\n\n\
         [check]\n{command}timeout = 600        # seconds for one run\n\
         # coverage = [\"coverage.xml\"]   # written by your own tools: LCOV, Cobertura, JaCoCo, coverage.py's JSON\n{tables}\n\
         [scan]\nsmallest = {}        # smallest copy, in names, literals and operators\n\
         longest = {}         # a function may have so many code lines,\n\
         deepest = {}          # structures inside each other,\n\
         most_complex = {}    # cognitive complexity,\n\
         most_parameters = {}  # and parameters\n\
         # include = [\"src/**\"]\n# exclude = [\"**/legacy/**\"]\n\n\
         [step]\ncommit = false       # commit each step to git\nstrict = false       # refuse plans with assumptions\n\
         # format = \"your-formatter {{files}}\"   # run on the files of a step, before its check\n",
        o.smallest, o.longest, o.deepest, o.most_complex, o.most_parameters
    );
    (text, found.into_iter().map(|c| c.run).collect())
}
