//! `split`: an overlong function into named parts, or a file into files; without a choice of parts, only the proposal.

use std::io::Write;

use schemars::JsonSchema;
use serde::Serialize;
use ufold_core::change::{Place, Verdict};
use ufold_core::index::Project;
use ufold_core::step::{Plan, Proposed, Request, SplitRequest, afterwards, plan, propose_split};
use ufold_project::Error;
use ufold_project::files::Disk;

use super::step::{self, reason_line, reason_lines};
use super::{pointed, show, split_file};
use crate::args::Split;
use crate::output::{count, json};
use crate::session::Session;

/// What `split` would do with a function.
#[derive(Serialize, JsonSchema)]
pub struct Report<'a> {
    /// Always `ufold.split/1`.
    schema: &'static str,
    place: &'a Place,
    /// What is done before the parts are taken out.
    first: &'a [String],
    parts: &'a [Proposed],
    /// The function when all parts are taken out.
    #[serde(skip_serializing_if = "Option::is_none")]
    afterwards: Option<String>,
}

pub fn run(s: &Session, a: &Split) -> anyhow::Result<u8> {
    let scanned = s.scan(&[])?;
    let disk = Disk::new(&s.root, &scanned);
    let project = Project::new(&scanned.facts, &disk);
    if let Some(file) = s.path(&a.place).ok().and_then(|path| project.index(&path)) {
        return split_file::run(s, a, &project, file);
    }
    if a.no_stay {
        Err(Error::Usage("--no-stay is for the split of a file".into()))?;
    }
    let place = pointed::function(s, &project, &a.place)?;
    let proposal = Proposal::of(&project, &a.place, &place)?;
    if !a.all_parts && a.parts.is_empty() {
        if !a.names.is_empty() {
            Err(Error::Usage("--names is for the parts that --parts or --all-parts takes".into()))?;
        }
        step::save(s, &proposal.plan, a.save_plan.as_deref())?;
        proposal.tell(s, &project, &a.place)?;
        return Ok(0);
    }
    let mut request = proposal.request;
    request.chosen = !a.all_parts;
    let chosen = Chosen::of(a, request.parts.len())?;
    request.except = chosen.except;
    for (n, name) in chosen.named {
        request.parts[n - 1].function.name = Some(name);
    }
    let plan = plan(&project, &Request::Split(request));
    step::save(s, &plan, a.save_plan.as_deref())?;
    step::carry_out(s, &plan, &a.step)
}

/// The parts that were asked for, by their numbers.
pub struct Chosen {
    pub except: Vec<usize>,
    /// Those that were given a name.
    pub named: Vec<(usize, String)>,
}

impl Chosen {
    pub fn of(a: &Split, all: usize) -> Result<Chosen, Error> {
        if let Some(n) = a.parts.iter().find(|n| **n == 0 || **n > all) {
            let there = if all == 0 { "there are none".to_string() } else { format!("they are 1 to {all}") };
            return Err(Error::Usage(format!("there is no part {n}; {there}")));
        }
        let (except, taken): (Vec<usize>, Vec<usize>) = (1..=all).partition(|n| !a.all_parts && !a.parts.contains(n));
        if a.names.len() > taken.len() {
            let parts = count(taken.len(), "part", "parts");
            return Err(Error::Usage(format!("{} names for {parts}", a.names.len())));
        }
        let named = taken.into_iter().zip(a.names.iter().cloned()).filter(|(_, name)| !name.is_empty()).collect();
        Ok(Chosen { except, named })
    }
}

/// Which lines go along with a part.
fn along(lines: &[(usize, usize)]) -> Option<String> {
    let list: Vec<String> =
        lines.iter().map(|(a, z)| if a == z { a.to_string() } else { format!("{a}-{z}") }).collect();
    match lines {
        [] => None,
        [(a, z)] if a == z => Some(format!("line {a} slides to it and goes along")),
        _ => Some(format!("lines {} slide to it and go along", list.join(", "))),
    }
}

/// The parts of a function and what taking all of them out would do.
pub struct Proposal {
    request: SplitRequest,
    parts: Vec<Proposed>,
    first: Vec<String>,
    pub plan: Plan,
}

impl Proposal {
    pub fn of(project: &Project, finding: &str, place: &Place) -> Result<Proposal, Error> {
        let (request, parts) = propose_split(project, finding, place).map_err(|reasons| {
            let list: Vec<String> = reasons.iter().map(reason_line).collect();
            Error::Plan { message: format!("{finding}: refused\n  {}", list.join("\n  ")), reasons }
        })?;
        let plan = plan(project, &Request::Split(request.clone()));
        let first = plan.result.remarks.iter().take(request.first.len()).cloned().collect();
        Ok(Proposal { request, parts, first, plan })
    }

    fn tell(&self, s: &Session, project: &Project, typed: &str) -> anyhow::Result<()> {
        let place = &self.request.place;
        let after = afterwards(project, &self.plan).filter(|_| !self.parts.is_empty());
        if s.json {
            json::print(&Report {
                schema: "ufold.split/1",
                place,
                first: &self.first,
                parts: &self.parts,
                afterwards: after,
            });
            return Ok(());
        }
        let mut out = crate::output::out();
        let lines = place.end_line + 1 - place.start_line;
        let head = crate::output::places(&place.file, place.start_line, place.end_line);
        writeln!(out, "{}  {}", s.paint.strong(&head), count(lines, "line", "lines"))?;
        self.print(s, project, &mut out)?;
        if !self.parts.is_empty() {
            let next = format!("next: ufold split {} --all-parts --preview", crate::output::quoted(typed));
            writeln!(out, "\n{}", s.paint.faint(&next))?;
        }
        Ok(())
    }

    /// The part that a line belongs to.
    pub fn part_at(&self, line: usize) -> Option<usize> {
        let holds = |p: &Proposed| p.lines.0 <= line && line <= p.lines.1;
        self.parts.iter().position(holds).map(|i| i + 1)
    }

    /// The parts, and how the function reads without them.
    pub fn print(&self, s: &Session, project: &Project, out: &mut impl Write) -> std::io::Result<()> {
        let p = s.paint;
        writeln!(out, "\n{}", p.strong("Parts"))?;
        if self.parts.is_empty() {
            return writeln!(out, "  none: no run of its statements is worth a function of its own");
        }
        for (told, link) in self.first.iter().zip(&self.plan.result.links) {
            writeln!(out, "  {told}  {}", p.verdict(link.result.verdict, 0))?;
            for line in reason_lines(&link.result.reasons) {
                writeln!(out, "      {} {line}", p.careful("•"))?;
            }
        }
        let longest = self.parts.iter().map(|x| x.name.len()).max().unwrap_or(0).min(36);
        for (i, part) in self.parts.iter().enumerate() {
            let (a, z) = part.lines;
            let lines = count(part.code_lines, "line", "lines");
            let results = match part.results.is_empty() {
                true => String::new(),
                false => format!(" → {}", part.results.join(", ")),
            };
            let name = format!("{:longest$}", part.name);
            writeln!(
                out,
                "  {:2}  {}  {:>9}  {lines:>8}  {}",
                i + 1,
                p.strong(&name),
                if a == z { a.to_string() } else { format!("{a}-{z}") },
                p.verdict(part.verdict, 0),
            )?;
            writeln!(out, "      {}", p.faint(&format!("({}){results}", part.parameters.join(", "))))?;
            if let Some(told) = along(&part.along) {
                writeln!(out, "      {}", p.faint(&told))?;
            }
            if let Some((a, z)) = part.instead {
                writeln!(out, "      {}", p.faint(&format!("rather than lines {a}-{z}, which were weighed too")))?;
            }
            for line in reason_lines(&part.reasons).iter().filter(|_| part.verdict != Verdict::Ready) {
                writeln!(out, "      {} {line}", p.careful("•"))?;
            }
        }
        for (n, r) in &self.plan.result.left_out {
            writeln!(out, "  {} part {n} stays when all are taken: {}", p.careful("•"), reason_line(r))?;
        }
        let Some(after) = afterwards(project, &self.plan) else { return Ok(()) };
        writeln!(out, "\n{}", p.strong("Afterwards"))?;
        show::excerpt(s, out, &after, self.request.place.start_line, &|_| None)
    }
}
