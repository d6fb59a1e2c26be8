//! The report as one page: everything is in it, as data and as pictures; its script only shows and filters.

use std::collections::BTreeMap;
use std::fmt::Write;
use std::path::Path;
use std::sync::Arc;

use serde::Serialize;
use ufold_core::change::{Outcome, Verdict};
use ufold_core::find::history::{Drift, Named};
use ufold_core::find::ledger::Ledger;
use ufold_core::find::map::{Area, Rect, map};
use ufold_core::find::shares::{Pair, Share, pairs, shares};
use ufold_core::find::{Copy, FileFacts, Finding, Kind};
use ufold_core::text::side_by_side;
use ufold_project::files::{Scanned, read};

use super::listed::kind_word;
use super::{count, number};
use crate::output::quoted;

/// Width and height of the map, in the unit of its rectangles.
const MAP: (f64, f64) = (1000.0, 440.0);

/// Copies of one finding whose code is in the page, and lines of each.
const MOST_COPIES: usize = 12;
const MOST_LINES: usize = 150;

/// Pairs of files that are listed.
const MOST_PAIRS: usize = 40;

/// Shares in percent from which a file is drawn a step darker.
const STEPS: [u32; 5] = [1, 6, 16, 31, 51];

pub struct Page<'a> {
    pub project: String,
    /// The commit that the files are of.
    pub state: Option<Named>,
    pub root: &'a Path,
    pub scanned: &'a Scanned,
    /// All findings, whatever is listed.
    pub found: &'a [Finding],
    pub rows: Vec<Row<'a>>,
    pub trend: Vec<Point>,
    /// Lines that the plans which are not refused would save.
    pub saves: i64,
}

/// A finding of the list.
pub struct Row<'a> {
    pub finding: &'a Finding,
    /// None when it was not planned.
    pub plan: Option<&'a Outcome>,
    pub says: String,
    pub history: Option<&'a Drift>,
}

/// The accepted findings at one time.
pub struct Point {
    at: Option<Named>,
    findings: usize,
    /// Lines that stand there once more than needed.
    lines: u64,
}

impl Point {
    pub fn of(at: Named, ledger: &Ledger) -> Point {
        Point { at: Some(at), ..Point::now(ledger) }
    }

    pub fn now(ledger: &Ledger) -> Point {
        let again =
            |e: &ufold_core::find::ledger::Entry| u64::from(e.lines) * (e.places.len() as u64).saturating_sub(1);
        Point { at: None, findings: ledger.len(), lines: ledger.entries().map(again).sum() }
    }
}

#[derive(Serialize)]
struct Data<'a> {
    files: Vec<File<'a>>,
    pairs: Vec<PairData>,
    findings: Vec<FindingData<'a>>,
}

#[derive(Serialize)]
struct File<'a> {
    path: &'a str,
    language: &'a str,
    lines: u32,
    /// In percent of its lines.
    repeated: u32,
    overlong: u32,
}

#[derive(Serialize)]
struct PairData {
    files: [usize; 2],
}

#[derive(Serialize)]
struct FindingData<'a> {
    id: &'a str,
    kind: &'static str,
    verdict: Option<&'static str>,
    says: &'a str,
    lines: u32,
    saves: i64,
    copies: Vec<CopyData>,
    function: Option<FunctionData>,
    parameters: Vec<ParameterData<'a>>,
    calls: Vec<&'a str>,
    reasons: Vec<String>,
    next: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    history: Option<&'a Drift>,
}

#[derive(Serialize)]
struct CopyData {
    file: usize,
    /// Where it stands, as people type it.
    at: String,
    from: u32,
    to: u32,
    within: Option<String>,
    code: Vec<String>,
    /// Lines that are left out.
    more: usize,
    /// How it lies beside the first copy: same (0) or not (1), lines of the first, lines of this one.
    runs: Vec<(u8, usize, usize)>,
}

#[derive(Serialize)]
struct FunctionData {
    home: String,
    text: String,
}

#[derive(Serialize)]
struct ParameterData<'a> {
    name: &'a str,
    arguments: &'a [String],
}

/// Text in HTML and SVG, also in attributes.
fn escaped(text: &str) -> String {
    text.replace('&', "&amp;").replace('<', "&lt;").replace('>', "&gt;").replace('"', "&quot;")
}

/// The page with the parts in the places of their names.
fn filled(part: impl Fn(&str) -> String) -> String {
    let mut pieces = include_str!("../../page/page.html").split("{{");
    let mut out = pieces.next().unwrap_or("").to_string();
    for piece in pieces {
        let (name, rest) = piece.split_once("}}").unwrap_or(("", piece));
        out.push_str(&part(name));
        out.push_str(rest);
    }
    out
}

fn percent(part: u32, whole: u32) -> u32 {
    (100 * part + whole / 2) / whole.max(1)
}

impl<'a> Page<'a> {
    pub fn written(&'a self) -> String {
        let shares = shares(&self.scanned.facts, self.found);
        let mut pairs = pairs(self.found);
        let all_pairs = pairs.len();
        pairs.truncate(MOST_PAIRS);
        let data = serde_json::to_string(&self.data(&shares, &pairs)).expect("it is plain data");
        let state = match &self.state {
            Some(c) => format!("as of {} of {}, {}", c.commit, c.date, c.subject),
            None => "not under version control".into(),
        };
        filled(|name| match name {
            "title" => escaped(&format!("{}: what is worth changing", self.project)),
            "style" => include_str!("../../page/page.css").into(),
            "project" => escaped(&self.project),
            "state" => escaped(&state),
            "totals" => self.totals(&shares),
            "legend" => legend(),
            "height" => MAP.1.to_string(),
            "map" => self.map(&shares),
            "pairs" => self.pairs(&pairs, all_pairs),
            "trend" => trend(&self.trend),
            // no text of it can end the element
            "data" => data.replace('<', "\\u003c"),
            "script" => include_str!("../../page/page.js").into(),
            _ => String::new(),
        })
    }

    fn totals(&self, shares: &[Share]) -> String {
        let facts = &self.scanned.facts;
        let lines: u64 = facts.iter().map(|f| u64::from(f.lines)).sum();
        let repeated: u64 = shares.iter().map(|s| u64::from(s.repeated)).sum();
        let of = |test: &dyn Fn(&Finding) -> bool| self.found.iter().filter(|f| !f.small && test(f)).count() as u64;
        let share =
            format!("{} <small>{:.1} %</small>", number(repeated), 100.0 * repeated as f64 / lines.max(1) as f64);
        let all = [
            ("files", number(facts.len() as u64)),
            ("lines", number(lines)),
            ("lines in copies", share),
            ("repeats", number(of(&|f| f.kind.has_copies() && !f.drifted))),
            ("groups that grew apart", number(of(&|f| f.drifted))),
            ("overlong functions", number(of(&|f| f.kind == Kind::Long && !f.is_file()))),
            ("lines that planned folds save", number(self.saves.max(0) as u64)),
        ];
        all.iter().map(|(what, n)| format!("<div><dt>{what}</dt><dd>{n}</dd></div>\n")).collect()
    }

    fn map(&self, shares: &[Share]) -> String {
        let facts = &self.scanned.facts;
        let files: Vec<(&str, u32)> = facts.iter().map(|f| (f.path.as_str(), f.code_lines)).collect();
        let mut out = String::new();
        for (area, r) in map(&files, Rect { x: 0.0, y: 0.0, w: MAP.0, h: MAP.1 }) {
            let place = format!("x=\"{:.1}\" y=\"{:.1}\" width=\"{:.1}\" height=\"{:.1}\"", r.x, r.y, r.w, r.h);
            let drawn = match area {
                Area::Folder { path, name } => {
                    let label =
                        name.map_or(String::new(), |n| label("d", r.x + 4.0, r.y + 13.5, &format!("{n}/"), r.w - 8.0));
                    format!("<rect class=\"d\" {place}><title>{}</title></rect>{label}", escaped(&path))
                }
                Area::File(i) => self.file_on_map(i, &shares[i], r, &place),
                Area::Rest(list) => {
                    let sum = |of: &dyn Fn(usize) -> u32| list.iter().map(|i| of(*i)).sum::<u32>();
                    let step = step(percent(sum(&|i| shares[i].either), sum(&|i| facts[i].lines)));
                    let says = format!("{}, too small to be drawn", count(list.len(), "file", "files"));
                    format!("<rect class=\"f m{step}\" data-rest=\"{says}\" {place}/>")
                }
            };
            out.push_str(&drawn);
            out.push('\n');
        }
        out
    }

    fn file_on_map(&self, i: usize, share: &Share, r: Rect, place: &str) -> String {
        let f = &self.scanned.facts[i];
        let step = step(percent(share.either, f.lines));
        let path = escaped(&f.path);
        let mut out = format!("<rect class=\"f m{step}\" data-file=\"{i}\" {place}><title>{path}</title></rect>");
        let tall = r.h * f64::from(share.overlong) / f64::from(f.lines.max(1));
        if tall >= 1.0 && r.w >= 8.0 {
            let (x, y) = (r.x + 1.0, r.y + r.h - tall);
            let _ = write!(out, "<rect class=\"l\" x=\"{x:.1}\" y=\"{y:.1}\" width=\"4\" height=\"{tall:.1}\"/>");
        }
        if r.w >= 52.0 && r.h >= 19.0 {
            let name = f.path.rsplit('/').next().unwrap_or(&f.path);
            let class = if step >= 4 { "deep" } else { "own" };
            out.push_str(&label(class, r.x + 8.0, r.y + 15.0, name, r.w - 12.0));
        }
        out
    }

    fn pairs(&self, pairs: &[Pair], all: usize) -> String {
        let facts = &self.scanned.facts;
        let mut out = String::new();
        for p in pairs {
            let (a, b) = p.files;
            let _ = writeln!(
                out,
                "<li><button type=\"button\" data-files=\"{a} {b}\"><span>{}<br>{}</span><b>{}<br>{}</b></button></li>",
                escaped(&facts[a].path),
                escaped(&facts[b].path),
                count(p.lines as usize, "line", "lines"),
                count(p.findings as usize, "finding", "findings"),
            );
        }
        match all.saturating_sub(pairs.len()) {
            0 if all == 0 => out.push_str("<li class=\"empty\">No two files share code.</li>\n"),
            0 => {}
            more => {
                let _ = writeln!(out, "<li class=\"empty\">{} more pairs share less.</li>", number(more as u64));
            }
        }
        out
    }

    fn data(&'a self, shares: &[Share], pairs: &[Pair]) -> Data<'a> {
        let facts = &self.scanned.facts;
        let file = |(f, s): (&'a FileFacts, &Share)| {
            let (repeated, overlong) = (percent(s.repeated, f.lines), percent(s.overlong, f.lines));
            File { path: &f.path, language: &f.language, lines: f.code_lines, repeated, overlong }
        };
        let mut texts = BTreeMap::new();
        Data {
            files: facts.iter().zip(shares).map(file).collect(),
            pairs: pairs.iter().map(|p| PairData { files: [p.files.0, p.files.1] }).collect(),
            findings: self.rows.iter().map(|r| self.finding(r, &mut texts)).collect(),
        }
    }

    fn finding(&'a self, row: &'a Row, texts: &mut BTreeMap<usize, Arc<str>>) -> FindingData<'a> {
        let (f, plan) = (row.finding, row.plan);
        let is_repeat = f.kind.has_copies();
        // all of the copies, also where a plan folds a part of them
        let all = if f.whole.is_empty() { &f.copies } else { &f.whole };
        let mut copies: Vec<CopyData> = all.iter().enumerate().map(|(n, c)| self.copy(c, n, texts)).collect();
        let (first, others) = copies.split_at_mut(1);
        let first = &first[0].code;
        for c in others.iter_mut().take(MOST_COPIES) {
            c.runs = side_by_side(first, &c.code).iter().map(|r| (u8::from(!r.same), r.old, r.new)).collect();
        }
        let plan = plan.filter(|_| is_repeat);
        let folds = plan.filter(|o| !o.is_refused());
        let function = folds.and_then(|o| o.function.as_ref()).map(|n| FunctionData {
            home: n.class.as_ref().map_or(n.file.clone(), |c| format!("{}, class {c}", n.file)),
            text: n.text.trim_end().to_string(),
        });
        let reason = |r: &ufold_core::change::Reason| format!("{}: {} ({}:{})", r.code, r.message, r.file, r.line);
        let at = &f.copies[0];
        let next = match f.kind {
            Kind::Long => {
                let path = &self.scanned.facts[at.file].path;
                let place = if f.is_file() { path.clone() } else { super::place(path, at.lines.0 as usize) };
                Some(format!("ufold split {}", quoted(&place)))
            }
            Kind::Twins => Some(format!("ufold show {}", f.id)),
            _ => folds.map(|_| format!("ufold fold {} --preview", f.id)),
        };
        FindingData {
            id: &f.id,
            kind: kind_word(f),
            verdict: plan.map(|o| o.verdict.word()),
            says: &row.says,
            lines: f.lines,
            saves: folds.map_or(f.saves, |o| o.saves),
            copies,
            function,
            parameters: folds.map_or(Vec::new(), |o| {
                o.parameters.iter().map(|p| ParameterData { name: &p.name, arguments: &p.arguments }).collect()
            }),
            calls: folds.map_or(Vec::new(), |o| o.sites.iter().map(|x| x.call.trim_end()).collect()),
            reasons: plan
                .filter(|o| o.verdict != Verdict::Ready)
                .map_or(Vec::new(), |o| o.reasons.iter().map(reason).collect()),
            next,
            history: row.history,
        }
    }

    fn copy(&self, c: &Copy, n: usize, texts: &mut BTreeMap<usize, Arc<str>>) -> CopyData {
        let path = &self.scanned.facts[c.file].path;
        let text = texts.entry(c.file).or_insert_with(|| read(self.root, path).unwrap_or_else(|_| "".into()));
        let (from, to) = (c.lines.0 as usize, c.lines.1 as usize);
        let all = (to + 1).saturating_sub(from);
        let kept = if n < MOST_COPIES { all.min(MOST_LINES) } else { 0 };
        let lines: Vec<&str> = text.lines().skip(from - 1).take(kept).collect();
        let indent = |l: &&str| l.len() - l.trim_start().len();
        let own = lines.iter().filter(|l| !l.trim().is_empty()).map(indent).min().unwrap_or(0);
        let code = lines.iter().map(|l| l.get(own..).unwrap_or("").trim_end().to_string()).collect();
        CopyData {
            file: c.file,
            at: super::places(path, from, to),
            from: c.lines.0,
            to: c.lines.1,
            within: c.within.clone(),
            code,
            more: all - kept,
            runs: Vec::new(),
        }
    }
}

/// The step of a share in percent.
fn step(percent: u32) -> usize {
    STEPS.iter().filter(|s| percent >= **s).count()
}

fn legend() -> String {
    let bounds = STEPS.windows(2).map(|w| format!("{}–{} %", w[0], w[1] - 1));
    let words = std::iter::once("none".to_string()).chain(bounds).chain([format!("over {} %", STEPS[4] - 1)]);
    words.enumerate().map(|(i, w)| format!("<i class=\"m{i}\"></i>{w} ")).collect()
}

/// A name on the map, as much of it as there is room for.
fn label(class: &str, x: f64, y: f64, name: &str, width: f64) -> String {
    let name = escaped(&super::fit(name, (width / 7.8).max(1.0) as usize));
    format!("<text class=\"{class}\" x=\"{x:.1}\" y=\"{y:.1}\">{name}</text>")
}

/// Accepted findings over the commits of the ledger, and those of now.
fn trend(points: &[Point]) -> String {
    let [first, .., last] = points else {
        return "<p class=\"note\">There is no ledger in the history yet: <code>ufold gate --accept</code> begins one.</p>\n".into();
    };
    let most = points.iter().map(|p| p.findings).max().unwrap_or(1).max(1) as f64;
    let (w, h) = (420.0, 120.0);
    let x = |i: usize| 34.0 + (w - 44.0) * i as f64 / (points.len() - 1) as f64;
    let y = |n: usize| 12.0 + (h - 34.0) * (1.0 - n as f64 / most);
    let line: Vec<String> =
        points.iter().enumerate().map(|(i, p)| format!("{:.1} {:.1}", x(i), y(p.findings))).collect();
    let mut out =
        format!("<div class=\"trend\"><svg viewBox=\"0 0 {w} {h}\" role=\"img\" aria-label=\"Findings over time\">\n");
    let _ = writeln!(out, "<line x1=\"34\" x2=\"{}\" y1=\"{:.1}\" y2=\"{:.1}\"/>", w - 10.0, y(0), y(0));
    let _ = writeln!(out, "<text x=\"28\" y=\"16\" text-anchor=\"end\">{most}</text>");
    let _ = writeln!(out, "<text x=\"28\" y=\"{:.1}\" text-anchor=\"end\">0</text>", y(0) + 4.0);
    let _ = writeln!(out, "<path d=\"M{}\"/>", line.join(" L"));
    for (i, p) in points.iter().enumerate() {
        let at = p.at.as_ref().map_or("now".to_string(), |c| format!("{} of {}, {}", c.commit, c.date, c.subject));
        let says =
            format!("{at}: {}, {} more lines than needed", count(p.findings, "finding", "findings"), number(p.lines));
        let (x, y) = (x(i), y(p.findings));
        let _ = writeln!(out, "<circle cx=\"{x:.1}\" cy=\"{y:.1}\" r=\"3\"><title>{}</title></circle>", escaped(&says));
    }
    let begin = first.at.as_ref().map_or("", |c| &c.date);
    let _ = writeln!(out, "<text x=\"34\" y=\"{h}\" dy=\"-4\">{begin}</text>");
    let _ = writeln!(out, "<text x=\"{}\" y=\"{h}\" dy=\"-4\" text-anchor=\"end\">now</text>", w - 10.0);
    out.push_str("</svg>\n");
    let change = last.findings as i64 - first.findings as i64;
    let word = match change {
        0 => "as many as".to_string(),
        n if n < 0 => format!("{} fewer than", -n),
        n => format!("{n} more than"),
    };
    let _ = writeln!(
        out,
        "<p class=\"note\">{} now, {word} on {begin}.</p></div>",
        count(last.findings, "finding", "findings")
    );
    out
}
