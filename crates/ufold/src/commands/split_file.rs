//! `split FILE`: a file into files, each about one thing; without a choice of parts, only the proposal.

use std::io::Write;

use schemars::JsonSchema;
use serde::Serialize;
use ufold_core::change::{Verdict, place_of};
use ufold_core::find::Finding;
use ufold_core::index::Project;
use ufold_core::lang;
use ufold_core::step::{Plan, ProposedFile, Request, StaysThere, plan, propose_files};
use ufold_core::text::Span;
use ufold_project::Error;

use super::split::Chosen;
use super::step::{self, code_lines, reason_line};
use crate::args::Split;
use crate::output::{count, fit, json, quoted};
use crate::session::Session;

/// What `split` would do with a file.
#[derive(Serialize, JsonSchema)]
pub struct Report<'a> {
    /// Always `ufold.split-file/1`.
    schema: &'static str,
    file: &'a str,
    /// The new files.
    parts: &'a [ProposedFile],
    stays: &'a StaysThere,
}

/// Names that are told of a new file.
const MOST_NAMES: usize = 6;

pub fn run(s: &Session, a: &Split, project: &Project, file: usize) -> anyhow::Result<u8> {
    let path = &project.facts[file].path;
    let proposal = Proposal::of(project, path, a.no_stay)?;
    if !a.all_parts && a.parts.is_empty() {
        if !a.names.is_empty() {
            Err(Error::Usage("--names is for the parts that --parts or --all-parts takes".into()))?;
        }
        step::save(s, &proposal.plan, a.save_plan.as_deref())?;
        proposal.tell(s, None)?;
        return Ok(0);
    }
    let Request::SplitFile(mut request) = proposal.plan.request else { unreachable!("it is the split of a file") };
    request.chosen = !a.all_parts;
    let chosen = Chosen::of(a, request.parts.len())?;
    request.except = chosen.except;
    for (n, name) in chosen.named {
        request.parts[n - 1].to = path_of(s, path, &name)?;
    }
    let plan = plan(project, &Request::SplitFile(request));
    step::save(s, &plan, a.save_plan.as_deref())?;
    step::carry_out(s, &plan, &a.step)
}

/// The file that a person names: beside the old one, and of its kind, where nothing else is said.
fn path_of(s: &Session, old: &str, name: &str) -> anyhow::Result<String> {
    let (folder, file) = old.rsplit_once('/').map_or(("", old), |(a, b)| (&old[..a.len() + 1], b));
    let extension = file.rfind('.').map_or("", |i| &file[i..]);
    let name = if name.ends_with(extension) { name.to_string() } else { format!("{name}{extension}") };
    let path = if name.contains('/') { s.new_path(&name)? } else { format!("{folder}{name}") };
    if lang::for_path(&path).is_none() {
        Err(Error::Usage(format!("--names {name}: no file of a known language")))?;
    }
    Ok(path)
}

/// The files that a file is best cut into.
pub struct Proposal {
    file: String,
    lines: usize,
    parts: Vec<ProposedFile>,
    stays: StaysThere,
    pub plan: Plan,
}

impl Proposal {
    pub fn of(project: &Project, path: &str, no_stay: bool) -> Result<Proposal, Error> {
        let file =
            project.index(path).ok_or_else(|| Error::Usage(format!("{path} is no source file of the project")))?;
        let source = project.source(file).map_err(Error::Environment)?;
        let place = place_of(&source, Span::new(0, source.text.len()));
        let (plan, parts, stays) = propose_files(project, path, &place, no_stay).map_err(|reasons| {
            let list: Vec<String> = reasons.iter().map(reason_line).collect();
            Error::Plan { message: format!("{path}: refused\n  {}", list.join("\n  ")), reasons }
        })?;
        Ok(Proposal { file: path.to_string(), lines: source.text.lines().count(), parts, stays, plan })
    }

    /// Prints it; with the finding that it is of, where it is of one.
    pub fn tell(&self, s: &Session, finding: Option<&Finding>) -> anyhow::Result<()> {
        let (parts, stays) = (&self.parts, &self.stays);
        if s.json {
            json::print(&Report { schema: "ufold.split-file/1", file: &self.file, parts, stays });
            return Ok(());
        }
        let (mut out, p) = (crate::output::out(), s.paint);
        let lines = |n: usize| count(n, "line", "lines");
        if let Some(f) = finding {
            writeln!(out, "{}  an overlong file\n", p.strong(&f.id))?;
        }
        writeln!(out, "{}  {}", p.strong(&self.file), lines(self.lines))?;
        writeln!(out, "\n{}", p.strong("New files"))?;
        if parts.is_empty() {
            let why = "what is in this file hangs together, or is too little for a file of its own";
            writeln!(out, "  none: {why}")?;
            return Ok(());
        }
        let longest = parts.iter().map(|x| x.file.chars().count()).max().unwrap_or(0).min(48);
        for (i, part) in parts.iter().enumerate() {
            let name = format!("{:longest$}", part.file);
            let size = lines(part.code_lines);
            writeln!(out, "  {:2}  {}  {size:>9}  {}", i + 1, p.strong(&name), p.verdict(part.verdict, 0))?;
            writeln!(out, "      {}", p.faint(&names(&part.names)))?;
            for (what, files) in [("uses", &part.uses), ("used by", &used_by(part, &self.file))] {
                if !files.is_empty() {
                    writeln!(out, "      {}", p.faint(&format!("{what} {}", files.join(", "))))?;
                }
            }
            for line in code_lines(&part.reasons).iter().filter(|_| part.verdict != Verdict::Ready) {
                writeln!(out, "      {} {line}", p.careful("•"))?;
            }
        }
        writeln!(out, "\n{}", p.strong("Stays"))?;
        writeln!(out, "      {}  {}", self.file, lines(stays.code_lines))?;
        if !stays.names.is_empty() {
            writeln!(out, "      {}", p.faint(&names(&stays.names)))?;
        }
        for told in &self.plan.result.remarks {
            writeln!(out, "      {} {}", p.faint("·"), fit(told, 160))?;
        }
        let next = format!("next: ufold split {} --all-parts --preview", quoted(&self.file));
        writeln!(out, "\n{}", p.faint(&next))?;
        Ok(())
    }
}

fn used_by(part: &ProposedFile, old: &str) -> Vec<String> {
    part.used_by.iter().cloned().chain(part.used_by_rest.then(|| old.to_string())).collect()
}

fn names(all: &[String]) -> String {
    let shown: Vec<&str> = all.iter().take(MOST_NAMES).map(String::as_str).collect();
    match all.len().saturating_sub(MOST_NAMES) {
        0 => shown.join(", "),
        more => format!("{} and {more} more", shown.join(", ")),
    }
}
