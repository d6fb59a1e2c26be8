//! Twin files as people see them: what they share, in the order in which to fold it, and what differs.

use std::io::Write;

use similar::{ChangeTag, TextDiff};
use ufold_core::change::{Code, Outcome, Reason};
use ufold_core::find::twin_folders::twin_folders;
use ufold_core::find::twins::{in_turn, pieces, twins};
use ufold_core::find::{FileFacts, Finding};
use ufold_core::index::whole_words;
use ufold_project::files::Scanned;

use crate::output::{count, fit, width};
use crate::session::{Parts, Session};

/// Lines of a difference that are printed.
const MOST_LINES: usize = 60;
/// Files that are laid against the first.
const MOST_FILES: usize = 4;
/// Lines around each.
const AROUND: usize = 1;

/// Those that are not put aside, the most worth first.
pub fn found(s: &Session, scanned: &Scanned, findings: &[Finding]) -> Vec<Finding> {
    let aside = |f: &Finding| s.config.never.iter().any(|n| n.id == f.id);
    let files = twins(&scanned.facts, findings);
    let mut all = twin_folders(&scanned.facts, &files);
    all.extend(files);
    all.retain(|f| f.saves > 0 && !aside(f));
    all
}

/// Without the files of folders that are told.
pub fn told(all: Vec<Finding>) -> Vec<Finding> {
    let folders: Vec<Finding> = all.iter().filter(|f| !f.folders.is_empty()).cloned().collect();
    all.into_iter().filter(|f| !f.folders.is_empty() || !are_in(f, &folders)).collect()
}

/// All copies of a finding stand in the files of one of these.
fn are_in(f: &Finding, twins: &[Finding]) -> bool {
    let inside = |t: &Finding| f.copies.iter().all(|c| t.copies.iter().any(|d| d.file == c.file));
    twins.iter().any(inside)
}

/// What twins are, and how many.
pub fn counted(f: &Finding) -> String {
    match f.folders.len() {
        0 => count(f.copies.len(), "file", "files"),
        n => count(n, "folder", "folders"),
    }
}

/// Nothing is folded by their id: each piece is a step of its own.
pub fn outcome(twin: &Finding, facts: &[FileFacts]) -> Outcome {
    let message = format!("twin files are folded piece by piece; `ufold show {}` lists the pieces", twin.id);
    let file = facts[twin.copies[0].file].path.clone();
    Outcome::refused(vec![Reason { code: Code::WantsPieces, message, file, line: 1 }])
}

/// All copies of a finding stand in the files of one of them.
pub fn are_parts(f: &Finding, twins: &[Finding]) -> bool {
    f.kind.has_copies() && are_in(f, twins)
}

/// The names of the files, those of one folder without it; only the last folders where there is no room.
pub fn names(twin: &Finding, facts: &[FileFacts], room: usize) -> String {
    if !twin.folders.is_empty() {
        return twin.folders.iter().map(|f| format!("{f}/")).collect::<Vec<_>>().join(", ");
    }
    let path = |i: usize| facts[twin.copies[i].file].path.as_str();
    let folder = |p: &str| p.rfind('/').map_or(0, |at| at + 1);
    let own = &path(0)[..folder(path(0))];
    let named = |most: usize| {
        let short = |i: usize| {
            let p = path(i);
            let same = i > 0 && p[..folder(p)] == *own;
            let from = p.rmatch_indices('/').nth(most).map_or(0, |(at, _)| at + 1);
            &p[if same { folder(p) } else { from }..]
        };
        (0..twin.copies.len()).map(short).collect::<Vec<_>>().join(", ")
    };
    let whole = named(usize::MAX);
    if whole.chars().count() <= room { whole } else { named(1) }
}

/// Twin files on one screen.
pub fn show(s: &Session, scanned: &Scanned, twin: &Finding, findings: &[Finding]) -> anyhow::Result<()> {
    let (p, out) = (s.paint, &mut crate::output::out());
    let texts: Vec<String> = twin.copies.iter().map(|c| text(s, scanned, c.file)).collect::<Result<_, _>>()?;
    let lines = count(twin.lines as usize, "line", "lines");
    let alike = format!("{:.0} % alike", 100.0 * twin.similarity);
    writeln!(out, "{}  twins · {} · {lines} · {alike}", p.strong(&twin.id), counted(twin))?;
    if twin.folders.is_empty() {
        writeln!(out, "\n{}", p.strong("Files"))?;
        for (i, c) in twin.copies.iter().enumerate() {
            let f = &scanned.facts[c.file];
            writeln!(out, "  {:2}  {}  {}", i + 1, f.path, p.faint(&count(f.lines as usize, "line", "lines")))?;
        }
    } else {
        folders(s, scanned, twin, findings, out)?;
    }
    let says = |f: &Finding, name: &str| {
        let part = |c: &ufold_core::find::Copy| {
            let at = twin.copies.iter().position(|t| t.file == c.file)?;
            texts[at].get(c.bytes.0 as usize..c.bytes.1 as usize)
        };
        f.copies.iter().filter_map(part).any(|t| whole_words(t, name).next().is_some())
    };
    let turn: Vec<Finding> = in_turn(pieces(twin, findings), &says).into_iter().cloned().collect();
    let planned = s.plan_first(scanned, &turn, (usize::MAX, Parts::OfNoOther), &|_, _| true);
    writeln!(out, "\n{}", p.strong("Pieces, in the order in which to fold them"))?;
    for (f, o) in &planned {
        let own = |c: &&ufold_core::find::Copy| twin.copies.iter().any(|t| t.file == c.file);
        let first = f.copies.iter().find(own).unwrap_or(&f.copies[0]);
        let within = first.within.as_ref().map_or(String::new(), |w| format!(" in {w}"));
        let place = crate::output::place(&scanned.facts[first.file].path, first.lines.0 as usize);
        let why = o.reasons.first().filter(|_| o.is_refused()).map_or(String::new(), |r| format!("  {}", r.code));
        let lines = format!("{:4} lines", f.lines);
        let place = fit(&format!("{place}{within}"), width().saturating_sub(40));
        writeln!(out, "  {}  {}  {lines}  {place}{}", p.strong(&f.id), p.verdict(o.verdict, 7), p.faint(&why))?;
    }
    // of folders the files are shown by their own ids
    let shown = if twin.folders.is_empty() { texts.len() } else { 0 };
    for (i, t) in texts.iter().enumerate().take(shown).skip(1).take(MOST_FILES) {
        differences(s, out, (&texts[0], t), (1, i + 1))?;
    }
    let more = shown.saturating_sub(1 + MOST_FILES);
    if more > 0 {
        writeln!(out, "\n{}", p.faint(&format!("… and {more} more {}", if more == 1 { "file" } else { "files" })))?;
    }
    if let Some((f, _)) = planned.iter().find(|(_, o)| !o.is_refused()) {
        writeln!(out, "\n{}", p.faint(&format!("next: ufold fold {}; then look again", f.id)))?;
    }
    Ok(())
}

/// The folders, and which of their files are twins.
fn folders(
    s: &Session,
    scanned: &Scanned,
    twin: &Finding,
    findings: &[Finding],
    out: &mut impl Write,
) -> std::io::Result<()> {
    let p = s.paint;
    writeln!(out, "\n{}", p.strong("Folders"))?;
    for (i, folder) in twin.folders.iter().enumerate() {
        let inside = |path: &str| path.strip_prefix(folder.as_str()).is_some_and(|rest| rest.starts_with('/'));
        let all = scanned.facts.iter().filter(|f| inside(&f.path)).count();
        let own = twin.copies.iter().filter(|c| inside(&scanned.facts[c.file].path)).count();
        let rest = if all > own { format!(", {} without a twin", all - own) } else { String::new() };
        let files = format!("{}{rest}", count(own, "file", "files"));
        writeln!(out, "  {:2}  {folder}/  {}", i + 1, p.faint(&files))?;
    }
    writeln!(out, "\n{}", p.strong("Twin files; `ufold show ID` tells what differs"))?;
    for t in twins(&scanned.facts, findings).iter().filter(|t| are_in(t, std::slice::from_ref(twin))) {
        let alike = format!("{:3.0} % alike", 100.0 * t.similarity);
        let names = names(t, &scanned.facts, width().saturating_sub(25));
        writeln!(out, "  {}  {}  {names}", p.strong(&t.id), p.faint(&alike))?;
    }
    Ok(())
}

fn text(s: &Session, scanned: &Scanned, file: usize) -> anyhow::Result<String> {
    let path = &scanned.facts[file].path;
    let bytes = std::fs::read(s.root.join(path)).map_err(|e| anyhow::anyhow!("{path}: {e}"))?;
    Ok(String::from_utf8_lossy(&bytes).into_owned())
}

/// Lines that one of two files has and the other has not.
fn differences(
    s: &Session,
    out: &mut impl Write,
    (a, b): (&str, &str),
    (first, second): (usize, usize),
) -> std::io::Result<()> {
    let (p, diff) = (s.paint, TextDiff::from_lines(a, b));
    let (mut gone, mut new) = (0, 0);
    for c in diff.iter_all_changes() {
        gone += usize::from(c.tag() == ChangeTag::Delete);
        new += usize::from(c.tag() == ChangeTag::Insert);
    }
    let head = format!("What differs: {gone} lines of file {first}, {new} of file {second}");
    writeln!(out, "\n{}", p.strong(&head))?;
    let (mut told, mut left) = (0, 0);
    for (n, group) in diff.grouped_ops(AROUND).iter().enumerate() {
        if n > 0 && told < MOST_LINES {
            writeln!(out, "  {}", p.faint("     ⋮"))?;
        }
        for c in group.iter().flat_map(|op| diff.iter_changes(op)) {
            if told >= MOST_LINES {
                left += usize::from(c.tag() != ChangeTag::Equal);
                continue;
            }
            told += 1;
            let number = c.old_index().or(c.new_index()).map_or(0, |i| i + 1);
            let line = c.value().trim_end();
            match c.tag() {
                ChangeTag::Equal => writeln!(out, "  {} {}", p.faint(&format!("{number:5}  ")), p.faint(line))?,
                ChangeTag::Delete => writeln!(out, "  {} {}", p.faint(&format!("{number:5} {first}")), p.bad(line))?,
                ChangeTag::Insert => writeln!(out, "  {} {}", p.faint(&format!("{number:5} {second}")), p.good(line))?,
            }
        }
    }
    if left > 0 {
        writeln!(out, "  {}", p.faint(&format!("      … {left} more lines differ")))?;
    }
    Ok(())
}
