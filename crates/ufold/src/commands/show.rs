//! `show`: one finding on one screen.

use std::io::Write;

use ufold_core::change::{NewFunction, Outcome, Place, Verdict};
use ufold_core::find::history::{Drift, Named};
use ufold_core::find::{Finding, Kind, is_id_of};
use ufold_core::index::Project;
use ufold_core::step::{FoldRequest, Plan, Request};
use ufold_core::text::LineIndex;
use ufold_project::files::{Disk, Scanned};

use super::split::Proposal;
use super::split_file;
use super::step::{gain, reason_line, reason_lines};
use super::tidy;
use crate::args::Target;
use crate::history::{copies, histories};
use crate::members;
use crate::output::{self, count, fit, line_number, places, print_parts, quoted};
use crate::session::{Session, choose, place, plan_chosen, reach_of};

/// Lines of a copy that are printed before the rest is left out.
const MOST_LINES: usize = 60;

/// Lines of one change in one copy that are printed.
const MOST_PART: usize = 12;

/// Copies that are laid against the first.
const MOST_SIDES: usize = 4;

pub fn run(s: &Session, a: &Target) -> anyhow::Result<u8> {
    let scanned = s.scan(&[])?;
    if is_id_of('c', &a.finding)
        && let Some(l) = tidy::with_id(s, &scanned, &a.finding)
    {
        return clutter(s, &scanned, &l);
    }
    let finding = &choose(s, &scanned, &a.finding)?;
    if finding.kind == Kind::Twins && !s.json {
        crate::twins::show(s, &scanned, finding, &s.findings(&scanned, &s.options()))?;
        return Ok(0);
    }
    let disk = Disk::new(&s.root, &scanned);
    let project = Project::new(&scanned.facts, &disk);
    if finding.kind == Kind::Long {
        let own = place(&scanned.facts, &finding.copies[0]);
        if finding.is_file() {
            let proposal = split_file::Proposal::of(&project, &own.file, false)?;
            proposal.tell(s, Some(finding))?;
            return Ok(0);
        }
        let proposal = Proposal::of(&project, &own_place(&own), &own)?;
        long(s, &scanned, &project, finding, &proposal)?;
        if !s.json && proposal.plan.result.verdict != Verdict::Refused {
            let next = format!("next: ufold split {} --all-parts --preview", quoted(&own_place(&own)));
            say!("\n{}", s.paint.faint(&next));
        }
        return Ok(0);
    }
    let plan = plan_chosen(s, &project, finding, &a.finding, &a.request)?;
    tell(s, &scanned, finding, &plan)?;
    if !s.json {
        View { s, scanned: &scanned, finding, plan: &plan, history: None }.next(&mut crate::output::out())?;
        let repeat = Some(finding).filter(|f| f.kind == Kind::Repeat);
        let copies = repeat.map(|f| f.copies.iter().map(|c| place(&scanned.facts, c)).collect::<Vec<_>>());
        if let Some(other) = copies.and_then(|c| members::instead(&project, &c)) {
            say!("{}", s.paint.faint(&format!("or:   {other}, so that each class keeps its values")));
        }
    }
    Ok(0)
}

/// A piece of clutter, with what would go.
fn clutter(s: &Session, scanned: &Scanned, l: &tidy::Listed) -> anyhow::Result<u8> {
    let disk = Disk::new(&s.root, scanned);
    let project = Project::new(&scanned.facts, &disk);
    let plan = tidy::plan_of(&project, &l.id, &l.item);
    if s.json {
        say!("{}", serde_json::to_string_pretty(&plan)?);
        return Ok(0);
    }
    let (p, verdict) = (s.paint, plan.result.verdict);
    say!("{}  clutter · {}  {}", p.strong(&l.id), l.item.kind.word(), p.verdict(verdict, 0));
    let at = &l.item.place;
    let lines = if at.start_line == at.end_line {
        output::place(&at.file, at.start_line)
    } else {
        places(&at.file, at.start_line, at.end_line)
    };
    say!("\n{lines}  {}", l.item.what);
    if verdict == Verdict::Refused {
        plan.result.reasons.iter().for_each(|r| say!("  {} {}", p.careful("•"), reason_line(r)));
        return Ok(0);
    }
    say!("");
    super::step::preview(s, &plan)?;
    say!("\n{}", p.faint(&format!("next: ufold tidy {}", l.id)));
    Ok(0)
}

/// A finding with its plan.
pub fn tell(s: &Session, scanned: &Scanned, finding: &Finding, plan: &Plan) -> anyhow::Result<()> {
    if s.json {
        say!("{}", serde_json::to_string_pretty(plan)?);
        return Ok(());
    }
    let history = histories(s, scanned, &[finding]).remove(&finding.id);
    let view = View { s, scanned, finding, plan, history };
    view.print(&mut crate::output::out())?;
    Ok(())
}

/// An overlong function: what is measured of it, and the parts that it is best cut into.
pub fn long(
    s: &Session,
    scanned: &Scanned,
    project: &Project,
    finding: &Finding,
    proposal: &Proposal,
) -> anyhow::Result<()> {
    let own = place(&scanned.facts, &finding.copies[0]);
    if s.json {
        say!("{}", serde_json::to_string_pretty(&proposal.plan)?);
        return Ok(());
    }
    let out = &mut crate::output::out();
    let view = View { s, scanned, finding, plan: &proposal.plan, history: None };
    let lines = count(finding.lines as usize, "line", "lines");
    writeln!(out, "{}  {} · {lines}", s.paint.strong(&finding.id), finding.kind.word())?;
    view.copies(out)?;
    view.measures(out)?;
    view.head(out, "Code")?;
    excerpt(s, out, &view.code(0).join("\n"), own.start_line, &|line| proposal.part_at(line))?;
    proposal.print(s, project, out)?;
    Ok(())
}

/// A commit as people know it.
fn commit(c: &Named) -> String {
    if c.commit.is_empty() {
        return "changes that are not committed".into();
    }
    format!("{} of {} “{}”", c.commit, c.date, fit(&c.subject, 60))
}

/// A function as it is named by its first line.
fn own_place(own: &Place) -> String {
    output::place(&own.file, own.start_line)
}

/// Lines of code with their numbers, and the number of the part that each belongs to.
pub fn excerpt(
    s: &Session,
    out: &mut impl Write,
    text: &str,
    first: usize,
    part: &dyn Fn(usize) -> Option<usize>,
) -> std::io::Result<()> {
    let lines: Vec<&str> = text.lines().collect();
    for (i, l) in lines.iter().take(MOST_LINES).enumerate() {
        let mark = part(first + i).map_or("   ".to_string(), |n| s.paint.hole(&format!("{n:2}▏")));
        writeln!(out, "  {} {mark}{}", s.paint.faint(&format!("{:5}", first + i)), l.trim_end())?;
    }
    if lines.len() > MOST_LINES {
        writeln!(out, "  {}", s.paint.faint(&format!("      … {} more lines", lines.len() - MOST_LINES)))?;
    }
    Ok(())
}

struct View<'a> {
    s: &'a Session,
    scanned: &'a Scanned,
    finding: &'a Finding,
    plan: &'a Plan,
    /// Since when the copies differ.
    history: Option<Drift>,
}

impl View<'_> {
    fn outcome(&self) -> &Outcome {
        &self.plan.result
    }

    fn head(&self, out: &mut impl Write, text: &str) -> std::io::Result<()> {
        writeln!(out, "\n{}", self.s.paint.strong(text))
    }

    fn print(&self, out: &mut impl Write) -> std::io::Result<()> {
        let (f, o, p) = (self.finding, self.outcome(), self.s.paint);
        let copies = match f.kind {
            Kind::Members => count(f.copies.len(), "class", "classes"),
            _ => count(f.copies.len(), "copy", "copies"),
        };
        let lines = count(f.lines as usize, "line", "lines");
        let mut parts: Vec<String> = vec![f.kind.word().to_string(), copies, lines];
        if o.verdict != Verdict::Refused {
            parts.push(gain(o.saves));
        }
        writeln!(out, "{}  {}  {}", p.strong(&f.id), parts.join(" · "), p.verdict(o.verdict, 0))?;
        self.copies(out)?;
        match &o.function {
            Some(f) if matches!(self.plan.request, Request::Lift(_)) => self.base(out, f)?,
            Some(_) => self.proposal(out)?,
            None if self.turns(out)? => {}
            None => self.excerpts(out)?,
        }
        self.since_alike(out)?;
        self.verdict(out)
    }

    /// What parted the copies, and how each has changed since.
    fn since_alike(&self, out: &mut impl Write) -> std::io::Result<()> {
        let (Some(d), p) = (&self.history, self.s.paint) else { return Ok(()) };
        self.head(out, "History")?;
        let (then, now) = (100.0 * d.alike_then, 100.0 * d.alike_now);
        writeln!(out, "  {then:.0} % alike after {}, now {now:.0} %", commit(&d.alike_at))?;
        for c in &d.changes {
            let got: Vec<usize> = c.changed.iter().map(|part| part.copy).collect();
            let missed = match c.missed.as_slice() {
                [] => String::new(),
                missed => p.careful(&format!(", {} did not", copies(missed))),
            };
            writeln!(out, "\n  {} got this in {}{missed}", copies(&got), commit(&c.at))?;
            for part in &c.changed {
                let copy = if got.len() > 1 { format!("{} ", part.copy) } else { String::new() };
                let sides = part.removed.iter().map(|l| (false, l)).chain(part.added.iter().map(|l| (true, l)));
                for (came, l) in sides.take(MOST_PART) {
                    let line = format!("{copy}{} {}", if came { '+' } else { '-' }, l.trim_end());
                    writeln!(out, "    {}", if came { p.good(&line) } else { p.bad(&line) })?;
                }
                let more = (part.removed.len() + part.added.len()).saturating_sub(MOST_PART);
                if more > 0 {
                    writeln!(out, "    {}", p.faint(&format!("{copy}… {more} more lines")))?;
                }
            }
        }
        Ok(())
    }

    /// What is measured of an overlong function, and what of it is too much.
    fn measures(&self, out: &mut impl Write) -> std::io::Result<()> {
        let Some(m) = &self.finding.measures else { return Ok(()) };
        self.head(out, "Measures")?;
        let counts = [
            ("code lines", m.code_lines),
            ("of these its own", m.own_lines),
            ("statements", m.statements),
            ("levels of nesting", m.nesting),
            ("cyclomatic complexity", m.cyclomatic),
            ("cognitive complexity", m.cognitive),
            ("parameters", m.parameters),
            ("names alive at once", m.names_alive),
        ];
        for (what, n) in counts {
            writeln!(out, "  {what:22} {n:5}")?;
        }
        writeln!(out, "  {} {}", self.s.paint.careful("•"), self.s.options().too_much(m).join(", "))
    }

    fn asked(&self) -> Option<&FoldRequest> {
        match &self.plan.request {
            Request::Fold(r) => Some(r),
            _ => None,
        }
    }

    fn copies(&self, out: &mut impl Write) -> std::io::Result<()> {
        let title = match self.finding.kind {
            Kind::Members => "Classes",
            _ if self.finding.measures.is_some() => "Function",
            _ => "Copies",
        };
        self.head(out, title)?;
        let known = self.s.coverage().ok().flatten();
        for (i, c) in self.finding.copies.iter().enumerate() {
            let within = c.within.as_ref().map_or(String::new(), |w| format!("  in {w}"));
            let left = self.outcome().left_out.iter().any(|(n, _)| *n == i + 1)
                || self.asked().is_some_and(|r| r.except.contains(&(i + 1)));
            let mark = if left { self.s.paint.careful("  left as it is") } else { String::new() };
            let file = &self.scanned.facts[c.file].path;
            let reach = known.as_ref().map(|k| reach_of(k, &self.scanned.facts, c));
            let tests = reach.map_or(String::new(), |r| match r {
                r if r.all() => self.s.paint.good("  covered"),
                r => self.s.paint.careful(&format!("  {}: {} of {} lines", r.word(), r.run, r.lines)),
            });
            writeln!(
                out,
                "  {:2}  {}{within}{tests}{mark}",
                i + 1,
                places(file, c.lines.0 as usize, c.lines.1 as usize)
            )?;
        }
        Ok(())
    }

    /// The loop that copies side by side become; whether they do.
    fn turns(&self, out: &mut impl Write) -> std::io::Result<bool> {
        let loop_ = self.outcome().files.first().and_then(|f| Some((f, f.edits.first()?)));
        let Some((f, edit)) = loop_.filter(|_| matches!(self.plan.request, Request::Series(_))) else {
            return Ok(false);
        };
        let text = self.text(&f.file);
        let from = text[..edit.span.start].rfind('\n').map_or(0, |i| i + 1);
        self.head(out, "Copy 1")?;
        excerpt(self.s, out, &self.code(0).join("\n"), self.first_line(0), &|_| None)?;
        self.head(out, &format!("Loop in {}", f.file))?;
        for line in format!("{}{}", &text[from..edit.span.start], edit.text).lines() {
            writeln!(out, "  {}", self.s.paint.good(line))?;
        }
        Ok(true)
    }

    /// The class that gets the members, with these.
    fn base(&self, out: &mut impl Write, f: &NewFunction) -> std::io::Result<()> {
        let Request::Lift(asked) = &self.plan.request else { return Ok(()) };
        let which = if asked.new_base.is_some() { "New class" } else { "Members of" };
        self.head(out, &format!("{which} {} in {}", f.name, f.file))?;
        for line in f.text.trim_end().lines() {
            writeln!(out, "  {}", self.s.paint.good(line))?;
        }
        Ok(())
    }

    /// Holes, function and calls of a plan.
    fn proposal(&self, out: &mut impl Write) -> std::io::Result<()> {
        let (o, p) = (self.outcome(), self.s.paint);
        let Some(f) = &o.function else { return Ok(()) };
        let site = o.sites.iter().find(|x| x.copy == f.from_copy);
        if let Some(site) = site {
            let holes = if o.parameters.is_empty() { "no holes".to_string() } else { "holes marked".to_string() };
            self.head(out, &format!("Copy {} ({holes})", site.copy))?;
            self.marked(out, &site.place)?;
        }
        if !o.parameters.is_empty() {
            self.head(out, "Holes")?;
            for (i, h) in o.parameters.iter().enumerate() {
                let values: Vec<String> = o
                    .sites
                    .iter()
                    .zip(&h.arguments)
                    .map(|(x, a)| (x, if a.is_empty() { "–".to_string() } else { fit(&a.replace('\n', " "), 34) }))
                    .map(|(x, a)| format!("{}: {a}", p.faint(&x.copy.to_string())))
                    .collect();
                writeln!(out, "  {} {:14} {}", p.hole(&format!("⟨{}⟩", i + 1)), h.name, values.join("   "))?;
            }
        }
        let home = f.class.as_ref().map_or(f.file.clone(), |c| format!("{}, class {c}", f.file));
        self.head(out, &format!("New function in {home}"))?;
        for line in f.text.trim_end().lines() {
            writeln!(out, "  {}", p.good(line))?;
        }
        self.head(out, "Calls")?;
        for x in &o.sites {
            let mut lines = x.call.lines();
            writeln!(out, "  {:2}  {}", x.copy, p.good(lines.next().unwrap_or("")))?;
            for l in lines {
                writeln!(out, "      {}", p.good(l.trim_end()))?;
            }
        }
        Ok(())
    }

    /// The lines of a place with the holes in them.
    fn marked(&self, out: &mut impl Write, place: &ufold_core::change::Place) -> std::io::Result<()> {
        let text = self.text(&place.file);
        let index = LineIndex::new(&text);
        let mut holes: Vec<(usize, usize, usize)> = Vec::new();
        for (i, h) in self.outcome().parameters.iter().enumerate() {
            holes.extend(h.holes.iter().map(|x| (x.start, x.end, i + 1)));
        }
        holes.sort_unstable();
        for line in place.start_line..=place.end_line {
            let Some(start) = index.start_of(line) else { break };
            let full = text[start..].lines().next().unwrap_or("");
            let (mut at, mut shown) = (start, String::new());
            for (a, z, n) in holes.iter().filter(|h| start <= h.0 && h.0 < start + full.len().max(1)) {
                let z = (*z).min(start + full.len());
                shown.push_str(&text[at..*a]);
                shown.push_str(&self.s.paint.hole(&format!("⟨{n} {}⟩", &text[*a..z])));
                at = z;
            }
            shown.push_str(&text[at..start + full.len()]);
            writeln!(out, "  {} {shown}", self.s.paint.faint(&format!("{:5}", line_number(&place.file, line))))?;
        }
        Ok(())
    }

    fn text(&self, file: &str) -> std::sync::Arc<str> {
        ufold_project::files::read(&self.s.root, file).unwrap_or_else(|_| "".into())
    }

    /// The lines of a copy.
    fn code(&self, copy: usize) -> Vec<String> {
        let c = &self.finding.copies[copy];
        let text = self.text(&self.scanned.facts[c.file].path);
        let all = text.lines().skip(c.lines.0 as usize - 1);
        all.take((c.lines.1 + 1).saturating_sub(c.lines.0) as usize).map(|l| l.trim_end().to_string()).collect()
    }

    /// The number of a copy's first line, as it is shown.
    fn first_line(&self, copy: usize) -> usize {
        let c = &self.finding.copies[copy];
        line_number(&self.scanned.facts[c.file].path, c.lines.0 as usize)
    }

    /// The first copy as it is, and where the others differ from it.
    fn excerpts(&self, out: &mut impl Write) -> std::io::Result<()> {
        let first = self.code(0);
        let start = self.first_line(0);
        self.head(out, "Copy 1")?;
        excerpt(self.s, out, &first.join("\n"), start, &|_| None)?;
        if self.finding.drifted {
            return self.grown_apart(out);
        }
        for n in 1..self.finding.copies.len() {
            let other = self.code(n);
            let own = self.first_line(n);
            let differ: Vec<(usize, &String)> =
                other.iter().enumerate().filter(|(i, l)| first.get(*i).map(|f| f.trim()) != Some(l.trim())).collect();
            if differ.is_empty() || other.len() != first.len() {
                continue;
            }
            self.head(out, &format!("Copy {} differs in", n + 1))?;
            for (i, l) in differ.into_iter().take(12) {
                writeln!(out, "  {} {l}", self.s.paint.faint(&format!("{:5}", own + i)))?;
            }
        }
        Ok(())
    }

    /// How the other copies differ from the first.
    fn grown_apart(&self, out: &mut impl Write) -> std::io::Result<()> {
        let text = |n: usize| {
            let lines = self.code(n);
            let indent = |l: &String| l.len() - l.trim_start().len();
            let own = lines.iter().filter(|l| !l.is_empty()).map(indent).min().unwrap_or(0);
            lines.iter().map(|l| format!("{}\n", l.get(own..).unwrap_or(""))).collect::<String>()
        };
        let named = |n: usize| {
            let c = &self.finding.copies[n];
            let at = output::place(&self.scanned.facts[c.file].path, c.lines.0 as usize);
            format!("copy {}  {at}", n + 1)
        };
        for n in (1..self.finding.copies.len()).take(MOST_SIDES) {
            self.head(out, &format!("Copy {} against copy 1", n + 1))?;
            let first = [self.first_line(0), self.first_line(n)];
            print_parts(out, self.s.paint, [named(0), named(n)], [&text(0), &text(n)], first)?;
        }
        Ok(())
    }

    fn verdict(&self, out: &mut impl Write) -> std::io::Result<()> {
        let (o, p) = (self.outcome(), self.s.paint);
        self.head(out, "Verdict")?;
        let says = match o.verdict {
            Verdict::Ready => "ready: every rule that guards behaviour was decided by analysis",
            Verdict::Assumed => "assumed: holds if these assumptions hold",
            Verdict::Refused => "refused: nothing would be written",
        };
        writeln!(out, "  {says}")?;
        for line in reason_lines(&o.reasons) {
            writeln!(out, "  {} {line}", p.careful("•"))?;
        }
        for (n, r) in &o.left_out {
            if !o.reasons.contains(r) {
                writeln!(out, "  {} copy {n}: {}", p.careful("•"), reason_line(r))?;
            }
        }
        for r in &o.remarks {
            writeln!(out, "  {} {r}", p.faint("•"))?;
        }
        Ok(())
    }

    /// What is typed next.
    fn next(&self, out: &mut impl Write) -> std::io::Result<()> {
        let (o, p) = (self.outcome(), self.s.paint);
        if o.verdict != Verdict::Refused {
            // a part that was pointed at is named by the place
            let pointer = self.asked().and_then(|r| r.pointed_at.as_ref());
            let name = pointer.map_or(self.finding.id.clone(), |p| quoted(&output::place(&p.file, p.line)));
            writeln!(out, "\n{}", p.faint(&format!("next: ufold fold {name} --preview")))?;
        }
        Ok(())
    }
}
