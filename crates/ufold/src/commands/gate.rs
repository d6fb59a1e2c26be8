//! `gate`: nothing new, and nothing that grew, against the ledger of what was accepted.

use std::collections::BTreeSet;
use std::io::Write;

use schemars::JsonSchema;
use serde::Serialize;
use ufold_core::change::Outcome;
use ufold_core::find::ledger::{Entry, Ledger, Standing};
use ufold_core::find::{FileFacts, Finding, Kind, Options};
use ufold_project::{Error, Result};

use super::asked::Asked;
use crate::args::{Format, Gate};
use crate::history::copies;
use crate::output::listed::{Item, kind_word, markdown, sarif};
use crate::output::{count, few, fit, place, width};
use crate::session::{Parts, Session};

/// What was accepted; under version control, beside the code.
pub const LEDGER: &str = "ufold-ledger.json";

/// What `gate --format json` prints.
#[derive(Serialize, JsonSchema)]
pub struct Report {
    /// Always `ufold.gate/1`.
    schema: &'static str,
    /// Whether nothing is new and nothing grew.
    passed: bool,
    /// The ledger that findings were compared with; none where there is none.
    ledger: Option<&'static str>,
    findings: Vec<Row>,
    /// Findings that were looked at and are known.
    known: usize,
    /// Accepted findings that are no more; not told where only a part was looked at.
    gone: Vec<String>,
    /// Known copies of which one was changed and another was not.
    one_sided: Vec<OneSided>,
}

#[derive(Serialize, JsonSchema)]
struct Row {
    id: String,
    /// `repeat`, `drift` or `long`.
    kind: &'static str,
    /// `new` or `grew`.
    standing: &'static str,
    says: String,
    lines: u32,
    copies: Vec<CopyRow>,
}

/// Lines are inclusive and count from 1.
#[derive(Serialize, JsonSchema)]
struct CopyRow {
    file: String,
    start_line: u32,
    end_line: u32,
    within: Option<String>,
}

#[derive(Serialize, JsonSchema)]
struct OneSided {
    id: String,
    /// Copies with changed lines, by number.
    changed: Vec<usize>,
    /// Copies without.
    unchanged: Vec<usize>,
}

/// A finding and how it stands to the ledger.
struct Judged {
    finding: Finding,
    standing: Standing,
}

impl Judged {
    fn word(&self) -> &'static str {
        match self.standing {
            Standing::New => "new",
            Standing::Grown(_) => "grew",
            Standing::Known => "known",
        }
    }
}

pub fn run(s: &Session, a: &Gate) -> anyhow::Result<u8> {
    let scanned = s.scan(&[])?;
    let options = a.limits.over(s.options());
    let findings = counted(s.findings(&scanned, &options), &scanned.facts);
    if a.accept {
        return accept(s, &Ledger::of(&findings, &scanned.facts));
    }
    let asked = Asked::new(s, &scanned, &a.filters)?;
    let ledger = read(s)?;
    let entries: Vec<Entry> = findings.iter().map(|f| Entry::of(f, &scanned.facts)).collect();
    let known = ledger.clone().unwrap_or_default();
    let (standings, gone) = known.compare(&entries);
    let whole = a.kind.is_none() && a.verdict.is_none() && a.filters.is_empty() && a.limits.is_empty();
    let gone: Vec<String> = gone.iter().filter(|_| whole).map(|e| e.id.clone()).collect();
    let of_kind = |f: &Finding| a.kind.is_none_or(|k| k.has(f)) && asked.wants(f);
    let judged = findings.into_iter().zip(standings).map(|(finding, standing)| Judged { finding, standing });
    let mut judged: Vec<Judged> = judged.filter(|j| of_kind(&j.finding)).collect();
    if let Some(v) = a.verdict {
        let all: Vec<Finding> = judged.iter().map(|j| j.finding.clone()).collect();
        let wanted = |f: &Finding, o: &Outcome| f.kind.has_copies() && o.verdict == v;
        let ids: Vec<String> = s
            .plan_first(&scanned, &all, (usize::MAX, Parts::OfNoOther), &wanted)
            .into_iter()
            .map(|(f, _)| f.id)
            .collect();
        judged.retain(|j| ids.contains(&j.finding.id));
    }
    let view = View { s, scanned: &scanned, asked: &asked, options, has_ledger: ledger.is_some(), gone, judged };
    view.tell(a)?;
    Ok(u8::from(!view.passed()))
}

/// The ledger that would be accepted now.
pub fn ledger_of(findings: &[Finding], files: &[FileFacts]) -> Ledger {
    Ledger::of(&counted(findings.to_vec(), files), files)
}

/// The findings that a gate looks at: those that are told by themselves. Copies that grew apart and hold a repeat in the
/// same functions are one of them: the repeat.
fn counted(mut findings: Vec<Finding>, files: &[FileFacts]) -> Vec<Finding> {
    findings.retain(|f| !f.small && f.kind != Kind::Clutter);
    let places = |f: &Finding| Entry::of(f, files).places;
    let same = |f: &&Finding| f.kind.has_copies() && !f.drifted;
    let repeats: BTreeSet<Vec<String>> = findings.iter().filter(same).map(places).collect();
    findings.retain(|f| !f.drifted || !repeats.contains(&places(f)));
    findings
}

/// The ledger, where there is one.
fn read(s: &Session) -> Result<Option<Ledger>> {
    let tree = s.journal()?;
    let tree = tree.tree();
    if tree.read(LEDGER)?.is_none() {
        return Ok(None);
    }
    let text = tree.text(LEDGER)?;
    let bad = |why| Error::Usage(format!("{LEDGER}: {why}; `ufold gate --accept` writes it anew"));
    Ledger::read(&text).map(Some).map_err(bad)
}

fn accept(s: &Session, ledger: &Ledger) -> anyhow::Result<u8> {
    let before = read(s).ok().flatten().unwrap_or_default();
    s.journal()?.tree().write(LEDGER, ledger.written().as_bytes())?;
    let is_in = |l: &Ledger, e: &Entry| l.entries().any(|x| x.id == e.id);
    let new = ledger.entries().filter(|e| !is_in(&before, e)).count();
    let gone = before.entries().filter(|e| !is_in(ledger, e)).count();
    if s.json {
        crate::output::json::print(&crate::output::json::Accepted {
            schema: "ufold.accepted/1",
            file: LEDGER,
            findings: ledger.len(),
            new,
            gone,
        });
        return Ok(0);
    }
    say!("{LEDGER}: {}, {new} of them new; {gone} went", count(ledger.len(), "finding", "findings"));
    Ok(0)
}

struct View<'a> {
    s: &'a Session,
    scanned: &'a ufold_project::files::Scanned,
    asked: &'a Asked<'a>,
    options: Options,
    has_ledger: bool,
    gone: Vec<String>,
    judged: Vec<Judged>,
}

impl View<'_> {
    fn failing(&self) -> impl Iterator<Item = &Judged> {
        self.judged.iter().filter(|j| j.standing != Standing::Known)
    }

    fn passed(&self) -> bool {
        self.failing().next().is_none()
    }

    fn known(&self) -> usize {
        self.judged.len() - self.failing().count()
    }

    fn item(&self, j: &Judged) -> Item {
        Item::of(&j.finding, &self.scanned.facts, &self.options, Some(j.word()))
    }

    /// The answer in a line.
    fn head(&self) -> String {
        let (new, grew) = (
            self.failing().filter(|j| j.standing == Standing::New).count(),
            self.failing().filter(|j| j.standing != Standing::New).count(),
        );
        let known = count(self.known(), "is known", "are known");
        let mut parts = Vec::new();
        if new > 0 {
            parts.push(count(new, "finding is new", "findings are new"));
        }
        if grew > 0 {
            parts.push(count(grew, "finding grew", "findings grew"));
        }
        if parts.is_empty() {
            format!("nothing is new and nothing grew; {known}")
        } else {
            format!("{}; {known}", parts.join(", "))
        }
    }

    /// Known repeats of which a copy was changed and another was not.
    fn one_sided(&self) -> Vec<OneSided> {
        // of one that grew the changed copy is the new one
        let known = self.judged.iter().filter(|j| self.asked.has_since() && j.standing == Standing::Known);
        let repeats = known.map(|j| &j.finding).filter(|f| f.copies.len() > 1);
        repeats
            .filter_map(|f| {
                let numbers = 1..=f.copies.len();
                let (changed, unchanged): (Vec<_>, Vec<_>) = numbers.partition(|n| self.asked.is_touched(f, n - 1));
                let both = !changed.is_empty() && !unchanged.is_empty();
                both.then(|| OneSided { id: f.id.clone(), changed, unchanged })
            })
            .collect()
    }

    fn remarks(&self) -> Vec<String> {
        let mut out = Vec::new();
        if !self.has_ledger {
            out.push(format!("there is no {LEDGER} yet, so every finding is new; ufold gate --accept writes it"));
        }
        if !self.gone.is_empty() {
            let gone = count(self.gone.len(), "accepted finding is", "accepted findings are");
            out.push(format!("{gone} no more: {}; ufold gate --accept takes them out", few(&self.gone)));
        }
        for o in self.one_sided() {
            let (changed, not) = (copies(&o.changed), copies(&o.unchanged));
            out.push(format!("{}: {changed} changed, {not} did not; ufold show {} lays them side by side", o.id, o.id));
        }
        out
    }

    fn tell(&self, a: &Gate) -> anyhow::Result<()> {
        let most = if a.limit == 0 { usize::MAX } else { a.limit };
        match self.s.form {
            Format::Text => self.text(most, &mut crate::output::out())?,
            Format::Json => crate::output::json::print(&self.report()),
            Format::Sarif => {
                let items: Vec<Item> = self.judged.iter().map(|j| self.item(j)).collect();
                say!("{}", serde_json::to_string_pretty(&sarif(&items))?);
                self.s.remark(&self.head());
            }
            Format::Markdown => {
                let items: Vec<Item> = self.failing().take(most).map(|j| self.item(j)).collect();
                let mut remarks = self.remarks();
                let more = self.failing().count() - items.len();
                if more > 0 {
                    remarks.push(format!("{more} more are not listed"));
                }
                say!("{}", markdown(&self.head(), &remarks, &items).trim_end());
                self.s.remark(&self.head());
            }
        }
        Ok(())
    }

    fn report(&self) -> Report {
        let row = |j: &Judged| {
            let item = self.item(j);
            let copy = |(file, start_line, end_line, within)| CopyRow { file, start_line, end_line, within };
            Row {
                id: item.id,
                kind: item.kind,
                standing: j.word(),
                says: item.says,
                lines: j.finding.lines,
                copies: item.places.into_iter().map(copy).collect(),
            }
        };
        Report {
            schema: "ufold.gate/1",
            passed: self.passed(),
            ledger: self.has_ledger.then_some(LEDGER),
            findings: self.failing().map(row).collect(),
            known: self.known(),
            gone: self.gone.clone(),
            one_sided: self.one_sided(),
        }
    }

    fn text(&self, most: usize, out: &mut impl Write) -> std::io::Result<()> {
        let p = self.s.paint;
        let head = self.head();
        writeln!(out, "{}", if self.passed() { p.good(&head) } else { p.bad(&head) })?;
        for (n, j) in self.failing().take(most).enumerate() {
            if n == 0 {
                writeln!(out, "\n{}", p.faint(" id      kind    standing  copies  lines  where"))?;
            }
            let f = &j.finding;
            let was = match &j.standing {
                Standing::Grown(e) if e.places.len() < f.copies.len() => format!("  {} copies before", e.places.len()),
                Standing::Grown(e) => format!("  {} lines before", e.lines),
                _ => String::new(),
            };
            let first = &f.copies[0];
            let mut at = place(&self.scanned.facts[first.file].path, first.lines.0 as usize);
            if let Some(w) = &first.within {
                at.push_str(&format!(" in {w}"));
            }
            let room = width().saturating_sub(42 + was.chars().count()).max(24);
            let (id, at) = (p.strong(&f.id), fit(&at, room));
            let (kind, standing, copies, lines) = (kind_word(f), j.word(), f.copies.len(), f.lines);
            writeln!(out, " {id}  {kind:6}  {standing:8}  {copies:6}  {lines:5}  {at}{}", p.faint(&was))?;
        }
        let more = self.failing().count().saturating_sub(most);
        if more > 0 {
            writeln!(out, "\n{more} more; --limit 0 lists them")?;
        }
        for r in self.remarks() {
            writeln!(out, "\n{r}")?;
        }
        if let Some(j) = self.failing().next() {
            let next = format!("next: ufold show {}; or ufold gate --accept", j.finding.id);
            writeln!(out, "\n{}", p.faint(&next))?;
        }
        Ok(())
    }
}
