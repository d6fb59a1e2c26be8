//! `scan`: the worklist.

use std::collections::BTreeMap;
use std::io::Write;

use schemars::JsonSchema;
use serde::Serialize;
use ufold_core::change::{Outcome, Reason, Verdict};
use ufold_core::find::history::Drift;
use ufold_core::find::shares::shares;
use ufold_core::find::{self, Clutter, Copy, Finding, Kind, Measures, Options};
use ufold_core::index::Project;
use ufold_project::coverage::Known;
use ufold_project::files::{Disk, Scanned, Skipped};

use super::asked::{Asked, first, is_of_tests, is_told, saves, without_parts};
use super::tidy;
use crate::args::{Kinds, Scan};
use crate::history::{self, histories};
use crate::output::listed::kind_word;
use crate::output::{count, fit, number, width};
use crate::session::{Parts, Session, reach_of};
use crate::twins;

/// So many findings are planned for each one that is listed.
const LOOKED_AT: usize = 4;

/// What `scan --format json` prints.
#[derive(Serialize, JsonSchema)]
pub struct Report {
    /// Always `ufold.scan/1`.
    schema: &'static str,
    root: String,
    totals: Totals,
    findings: Vec<Row>,
    skipped: Vec<Skipped>,
}

#[derive(Serialize, JsonSchema)]
struct Totals {
    files: usize,
    lines: u64,
    /// Lines that stand in at least one copy of a repeat.
    repeated_lines: u64,
    /// Findings that are not listed, as ufold.toml says.
    never: usize,
    /// Files with more lines of code than `longest_file` says, the longest first.
    long_files: Vec<LongFile>,
    /// Lines of each language.
    by_language: BTreeMap<String, u64>,
}

#[derive(Serialize, JsonSchema)]
struct LongFile {
    file: String,
    code_lines: u32,
}

#[derive(Serialize, JsonSchema)]
struct Row {
    id: String,
    kind: Kind,
    language: String,
    verdict: Verdict,
    reasons: Vec<Reason>,
    lines: u32,
    saves: i64,
    holes: u32,
    similarity: f64,
    /// Some statements stand in one copy and not in another.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    drifted: bool,
    /// The copies are expressions.
    expression: bool,
    /// Of copies that differ: since when, as git's history tells. Under `--kind drift`.
    #[serde(skip_serializing_if = "Option::is_none")]
    history: Option<Drift>,
    /// Of an overlong function.
    #[serde(skip_serializing_if = "Option::is_none")]
    measures: Option<Measures>,
    /// Of clutter: of which kind it is, and what.
    #[serde(skip_serializing_if = "Option::is_none")]
    clutter: Option<ClutterRow>,
    /// Of twins: the findings that they have in common, in the order of the first file.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pieces: Vec<String>,
    /// Of twin folders: which these are. The copies are their twin files.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    folders: Vec<String>,
    copies: Vec<CopyRow>,
    /// What of each copy the plan folds, where it is only a part of them.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    folds: Vec<CopyRow>,
}

#[derive(Serialize, JsonSchema)]
struct ClutterRow {
    kind: Clutter,
    what: String,
}

/// Lines are inclusive and count from 1, bytes are half-open.
#[derive(Serialize, JsonSchema)]
struct CopyRow {
    file: String,
    start_line: u32,
    end_line: u32,
    start_byte: u32,
    end_byte: u32,
    within: Option<String>,
    /// Whether the tests run it, where the project's own tools tell: `covered`, `partly covered` or `not covered`.
    #[serde(skip_serializing_if = "Option::is_none")]
    coverage: Option<&'static str>,
}

pub fn run(s: &Session, a: &Scan) -> anyhow::Result<u8> {
    let paths = a.paths.iter().map(|p| s.path(p)).collect::<Result<Vec<_>, _>>()?;
    let scanned = s.scan(&paths)?;
    some(&scanned)?;
    let options = a.limits.over(s.options());
    let findings = s.findings(&scanned, &options);
    if a.kind == Some(Kinds::Clutter) {
        return clutter(s, a, scanned, &findings);
    }
    let asked = Asked::new(s, &scanned, &a.filters)?;
    // of what grew apart only what is asked for, and all of it in data
    let of_kind = |f: &Finding| match a.kind {
        None => s.json || !f.drifted,
        Some(kind) => kind.has(f) && (s.json || !f.drifted || !f.small),
    };
    let mut shown: Vec<Finding> = findings.iter().filter(|f| of_kind(f) && asked.wants(f)).cloned().collect();
    let drift = a.kind == Some(Kinds::Drift);
    let history = if drift { histories(s, &scanned, &shown.iter().collect::<Vec<_>>()) } else { BTreeMap::new() };
    // first what a change has parted that was the same before
    shown.sort_by_key(|f| !history.get(&f.id).is_some_and(Drift::is_proven));
    asked.order(&mut shown);
    let twins = match a.kind {
        None | Some(Kinds::Twins) if s.json => twins::found(s, &scanned, &findings),
        None | Some(Kinds::Twins) => twins::told(twins::found(s, &scanned, &findings)),
        Some(_) => Vec::new(),
    };
    let twins: Vec<Finding> = twins.into_iter().filter(|t| a.verdict.is_none() && asked.wants(t)).collect();
    if !s.json {
        // who folds the pieces of twins looks at them together
        shown.retain(|f| !twins::are_parts(f, &twins));
    }
    let Planned { list: planned, is_all: all_planned, in_order } = planned(s, a, &asked, &scanned, (&shown, &twins));
    let shown = shown.len() + twins.len();
    let known = s.coverage()?;
    let mut out = crate::output::out();
    if s.json {
        let mut report = report(s, &scanned, &findings, &planned, known.as_ref(), &history);
        for row in &mut report.findings {
            let twin = twins.iter().find(|t| t.id == row.id);
            let pieces = twin.map_or(Vec::new(), |t| find::twins::pieces(t, &findings));
            row.pieces = pieces.iter().map(|p| p.id.clone()).collect();
        }
        serde_json::to_writer_pretty(&mut out, &report)?;
        writeln!(out)?;
    } else {
        let told = Told { findings: &findings, shown, options, known: known.as_ref(), all_planned, in_order, history };
        text(s, &scanned, &planned, &told, &mut out)?;
    }
    Ok(0)
}

/// Refuses where there is nothing to look at.
pub fn some(scanned: &Scanned) -> ufold_project::Result<()> {
    let why = match scanned.skipped.as_slice() {
        _ if !scanned.facts.is_empty() => return Ok(()),
        [] => "no source file of a known language here".to_string(),
        [one] => format!("{}: skipped: {}", one.file, one.why),
        many => format!("all {} source files were skipped, the first: {}: {}", many.len(), many[0].file, many[0].why),
    };
    Err(ufold_project::Error::Environment(why))
}

/// The findings that are told, with what their plans would do.
struct Planned {
    list: Vec<(Finding, Outcome)>,
    /// None was left out because enough are told.
    is_all: bool,
    /// They are in the order of their worth, repeats of tests by themselves.
    in_order: bool,
}

fn planned(
    s: &Session,
    a: &Scan,
    asked: &Asked,
    scanned: &Scanned,
    (shown, twins): (&[Finding], &[Finding]),
) -> Planned {
    let most = if s.json || a.limit == 0 { usize::MAX } else { a.limit };
    let drift = a.kind == Some(Kinds::Drift);
    let has_verdict = |f: &Finding, o: &Outcome| a.verdict.is_none_or(|v| f.kind.has_copies() && o.verdict == v);
    let gains = |f: &Finding, o: &Outcome| (!drift || f.drifted) && has_verdict(f, o) && (s.json || is_told(f, o));
    let in_order = a.filters.sort.is_none() && !drift;
    // what is worth most is not known before some more are planned; those further down are not
    let looked_at = if in_order { most.saturating_mul(LOOKED_AT) } else { most };
    // data has the whole of each
    let parts = if s.json { Parts::All } else { Parts::OfNoOther };
    let mut list = s.plan_first(scanned, shown, (looked_at, parts), &gains);
    let mut is_all = list.len() < looked_at;
    if !drift || a.filters.sort.is_some() {
        asked.order_planned(&mut list);
    }
    if in_order && !s.json {
        list = without_parts(list);
    }
    list.splice(0..0, twins.iter().map(|t| (t.clone(), twins::outcome(t, &scanned.facts))));
    if in_order || a.filters.sort.is_some() {
        asked.order_planned(&mut list);
    }
    is_all &= list.len() <= most;
    if in_order {
        list = first(list, most, &scanned.facts);
    }
    Planned { list, is_all, in_order }
}

/// What is in the way of who reads.
fn clutter(s: &Session, a: &Scan, scanned: Scanned, findings: &[Finding]) -> anyhow::Result<u8> {
    let disk = Disk::new(&s.root, &scanned);
    let project = Project::new(&scanned.facts, &disk);
    let mut list = tidy::found(&project, &|_| true);
    let asked = Asked::new(s, &scanned, &a.filters)?;
    list.retain(|l| asked.wants_place(l.file, (l.item.place.start_line as u32, l.item.place.end_line as u32)));
    let mut out = crate::output::out();
    if !s.json {
        tidy::print(s, &list, a.limit, &mut out)?;
        return Ok(0);
    }
    let rows = list.into_iter().map(|l| {
        let (p, why) = (&l.item.place, tidy::reason(&l.item));
        let lines = (p.end_line + 1 - p.start_line) as u32;
        let copy = CopyRow {
            file: p.file.clone(),
            start_line: p.start_line as u32,
            end_line: p.end_line as u32,
            start_byte: p.start_byte as u32,
            end_byte: p.end_byte as u32,
            within: None,
            coverage: None,
        };
        Row {
            id: l.id,
            kind: Kind::Clutter,
            language: scanned.facts[l.file].language.clone(),
            verdict: if why.is_some() { Verdict::Refused } else { Verdict::Ready },
            reasons: why.into_iter().collect(),
            lines,
            saves: i64::from(lines),
            holes: 0,
            similarity: 1.0,
            drifted: false,
            expression: false,
            history: None,
            measures: None,
            clutter: Some(ClutterRow { kind: l.item.kind, what: l.item.what }),
            pieces: Vec::new(),
            folders: Vec::new(),
            copies: vec![copy],
            folds: Vec::new(),
        }
    });
    let findings_rows = rows.collect();
    let report = Report {
        schema: "ufold.scan/1",
        root: s.root().display().to_string(),
        totals: totals(s, &scanned, findings),
        findings: findings_rows,
        skipped: scanned.skipped.clone(),
    };
    serde_json::to_writer_pretty(&mut out, &report)?;
    writeln!(out)?;
    Ok(0)
}

fn totals(s: &Session, scanned: &Scanned, findings: &[Finding]) -> Totals {
    let mut by_language = BTreeMap::new();
    for f in &scanned.facts {
        *by_language.entry(f.language.clone()).or_default() += u64::from(f.lines);
    }
    Totals {
        files: scanned.facts.len(),
        lines: scanned.facts.iter().map(|f| u64::from(f.lines)).sum(),
        repeated_lines: shares(&scanned.facts, findings).iter().map(|s| u64::from(s.repeated)).sum(),
        never: s.never(scanned, &s.options()),
        long_files: long_files(scanned, s.options().longest_file),
        by_language,
    }
}

fn report(
    s: &Session,
    scanned: &Scanned,
    findings: &[Finding],
    planned: &[(Finding, Outcome)],
    known: Option<&Known>,
    history: &BTreeMap<String, Drift>,
) -> Report {
    let copy = |c: &Copy| CopyRow {
        file: scanned.facts[c.file].path.clone(),
        start_line: c.lines.0,
        end_line: c.lines.1,
        start_byte: c.bytes.0,
        end_byte: c.bytes.1,
        within: c.within.clone(),
        coverage: known.map(|k| reach_of(k, &scanned.facts, c).word()),
    };
    let rows = |copies: &[Copy]| copies.iter().map(copy).collect::<Vec<_>>();
    let row = |(f, o): &(Finding, Outcome)| Row {
        id: f.id.clone(),
        kind: f.kind,
        language: scanned.facts[f.copies[0].file].language.clone(),
        verdict: o.verdict,
        reasons: o.reasons.clone(),
        lines: find::longest(&f.whole).unwrap_or(f.lines),
        saves: saves(f, o),
        holes: f.holes,
        similarity: f.similarity,
        drifted: f.drifted,
        expression: f.expression > 0,
        history: history.get(&f.id).cloned(),
        measures: f.measures,
        clutter: None,
        pieces: Vec::new(),
        folders: f.folders.clone(),
        copies: rows(if f.whole.is_empty() { &f.copies } else { &f.whole }),
        folds: if f.whole.is_empty() { Vec::new() } else { rows(&f.copies) },
    };
    Report {
        schema: "ufold.scan/1",
        root: s.root().display().to_string(),
        totals: totals(s, scanned, findings),
        findings: planned.iter().map(row).collect(),
        skipped: scanned.skipped.clone(),
    }
}

/// What the list says beside the findings.
struct Told<'a> {
    /// Findings that there are.
    findings: &'a [Finding],
    /// Those of them that were asked for.
    shown: usize,
    options: Options,
    /// None was left unplanned because enough are shown.
    all_planned: bool,
    /// Repeats of tests stand together.
    in_order: bool,
    /// What the tests run, where that is known.
    known: Option<&'a Known>,
    /// What git knows of copies that grew apart.
    history: BTreeMap<String, Drift>,
}

fn text(
    s: &Session,
    scanned: &Scanned,
    planned: &[(Finding, Outcome)],
    told: &Told,
    out: &mut impl Write,
) -> std::io::Result<()> {
    let (t, drifted) = (totals(s, scanned, told.findings), told.findings.iter().filter(|f| f.drifted).count());
    let all = told.findings.len() - drifted;
    let files = count(t.files, "file", "files");
    let statements = |f: &&Finding| f.kind.has_copies() && !f.drifted && f.expression == 0;
    let repeats = told.findings.iter().filter(statements).count();
    let head = format!("{files}, {} lines, {}", number(t.lines), count(all, "finding", "findings"));
    writeln!(out, "{}", s.paint.strong(&head))?;
    if repeats > 0 {
        let share = 100.0 * t.repeated_lines as f64 / t.lines.max(1) as f64;
        writeln!(
            out,
            "{} lines ({share:.0} %) stand in copies of {}",
            number(t.repeated_lines),
            count(repeats, "repeat", "repeats")
        )?;
    }
    writeln!(out)?;
    if !planned.is_empty() {
        let tests = if told.known.is_some() { "tests  " } else { "" };
        writeln!(out, "{}", s.paint.faint(&format!(" id      kind     verdict  copies  lines  saves  {tests}where")))?;
    }
    let of_tests = |at: usize| planned.get(at).is_some_and(|(f, _)| is_of_tests(f, &scanned.facts));
    for (i, (f, o)) in planned.iter().enumerate() {
        // which of them stand apart is said where there are others before them
        if told.in_order && i > 0 && of_tests(i) && !of_tests(i - 1) {
            writeln!(out, "{}", s.paint.faint(" in tests"))?;
        }
        row(s, scanned, (f, o), told, out)?;
    }
    if planned.len() < told.shown {
        let rest = told.shown - planned.len();
        let what = match told.all_planned {
            true => "more would save nothing, or are parts of others; --format json lists them",
            false => "more; --limit 0 lists them",
        };
        writeln!(out, "\n{rest} {what}")?;
    }
    below(s, scanned, planned, told, out)
}

/// What else there is to know, and to type.
fn below(
    s: &Session,
    scanned: &Scanned,
    planned: &[(Finding, Outcome)],
    told: &Told,
    out: &mut impl Write,
) -> std::io::Result<()> {
    let drifted = told.findings.iter().filter(|f| f.drifted && !f.small).count();
    if drifted > 0 && !planned.iter().any(|(f, _)| f.drifted) {
        let groups = count(drifted, "group of copies", "groups of copies");
        writeln!(out, "\n{groups} grew apart by some statements; ufold scan --kind drift lists them")?;
    }
    let listed: Vec<&str> = planned
        .iter()
        .filter(|(f, _)| f.is_file())
        .map(|(f, _)| scanned.facts[f.copies[0].file].path.as_str())
        .collect();
    let mut long = long_files(scanned, told.options.longest_file);
    long.retain(|l| !listed.contains(&&*l.file));
    if let Some(first) = long.first() {
        let (files, most) = (count(long.len(), "file has", "files have"), number(u64::from(told.options.longest_file)));
        let more = if long.len() > 1 { ", …" } else { "" };
        let lines = number(u64::from(first.code_lines));
        writeln!(out, "\n{files} more than {most} lines of code: {} ({lines}){more}", first.file)?;
    }
    let never = s.never(scanned, &told.options);
    if never > 0 {
        let line = format!("{} not listed, as ufold.toml says ([[never]])", count(never, "finding is", "findings are"));
        writeln!(out, "\n{}", s.paint.faint(&line))?;
    }
    if !scanned.skipped.is_empty() {
        let first = &scanned.skipped[0];
        let more = if scanned.skipped.len() > 1 { ", …" } else { "" };
        let line = format!(
            "{} skipped or not fully read ({}: {}{more}); --format json lists them",
            count(scanned.skipped.len(), "file", "files"),
            first.file,
            first.why
        );
        writeln!(out, "\n{}", s.paint.faint(&line))?;
    }
    if let Some((f, _)) = planned.iter().find(|(f, o)| f.kind == Kind::Twins || o.verdict != Verdict::Refused) {
        writeln!(out, "\n{}", s.paint.faint(&format!("next: ufold show {}", f.id)))?;
    }
    Ok(())
}

/// Files with more lines of code than that, the longest first.
fn long_files(scanned: &Scanned, most: u32) -> Vec<LongFile> {
    let long = scanned.facts.iter().filter(|f| f.code_lines > most);
    let mut all: Vec<LongFile> = long.map(|f| LongFile { file: f.path.clone(), code_lines: f.code_lines }).collect();
    all.sort_by(|a, b| (b.code_lines, &a.file).cmp(&(a.code_lines, &b.file)));
    all
}

/// Columns that the tests take.
fn tests_width(known: Option<&Known>) -> usize {
    if known.is_some() { 7 } else { 0 }
}

/// One finding in a line.
fn row(
    s: &Session,
    scanned: &Scanned,
    (f, o): (&Finding, &Outcome),
    told: &Told,
    out: &mut impl Write,
) -> std::io::Result<()> {
    let known = told.known;
    let first = &f.copies[0];
    let path = &scanned.facts[first.file].path;
    let mut place = if f.is_file() { path.clone() } else { crate::output::place(path, first.lines.0 as usize) };
    if let Some(w) = &first.within {
        place.push_str(&format!(" in {w}"));
    }
    let why = match o.reasons.first() {
        _ if f.expression > 0 => "  an expression".to_string(),
        _ if f.kind == Kind::Twins => format!("  {:.0} % alike", 100.0 * f.similarity),
        _ if f.is_file() => format!("  a file of over {} lines", number(u64::from(told.options.longest_file))),
        _ if f.measures.is_some() => format!("  {}", in_short(f, &told.options)),
        _ if told.history.contains_key(&f.id) => format!("  {}", history::in_short(&told.history[&f.id].changes[0])),
        _ if f.drifted && o.is_refused() => format!("  {:.0} % alike", 100.0 * f.similarity),
        Some(r) if o.verdict != Verdict::Ready && f.kind.has_copies() => format!("  {}", r.code),
        _ if !f.whole.is_empty() => format!("  of {} lines", find::longest(&f.whole).unwrap_or(f.lines)),
        _ => String::new(),
    };
    let counted = f.kind == Kind::Twins || f.kind.has_copies() && f.expression == 0;
    let saved = if counted { saves(f, o).to_string() } else { "–".into() };
    let verdict = if f.kind.has_copies() { s.paint.verdict(o.verdict, 7) } else { format!("{:7}", "–") };
    let tests = known.map_or(String::new(), |k| match s.reach(k, scanned, f) {
        r if r.all() => format!("{}  ", s.paint.good("all  ")),
        r if r.nothing() => format!("{}  ", s.paint.bad("none ")),
        _ => format!("{}  ", s.paint.careful("part ")),
    });
    let room = width().saturating_sub(49 + tests_width(known) + why.chars().count()).max(24);
    if f.kind == Kind::Twins {
        place = twins::names(f, &scanned.facts, room);
    }
    writeln!(
        out,
        " {}  {:7}  {verdict}  {:6}  {:5}  {:>5}  {tests}{}{}",
        s.paint.strong(&f.id),
        kind_word(f),
        if f.folders.is_empty() { f.copies.len() } else { f.folders.len() },
        f.lines,
        saved,
        fit(&place, room),
        s.paint.faint(&why),
    )
}

/// Why a function is on the list; `show` says all of it.
fn in_short(f: &Finding, options: &Options) -> String {
    let all = f.measures.as_ref().map_or(Vec::new(), |m| options.too_much(m));
    match all.as_slice() {
        [] => String::new(),
        [one] => one.clone(),
        [first, rest @ ..] => format!("{first}, and {} more", rest.len()),
    }
}
