//! `report`: what was found as one page, or as SARIF or Markdown.

use std::collections::BTreeMap;

use ufold_core::change::Outcome;
use ufold_core::find::Finding;
use ufold_core::find::history::Drift;
use ufold_project::files::Scanned;
use ufold_project::{Error, Result, git, history as log};

use super::asked::{Asked, is_told};
use super::gate::{LEDGER, ledger_of};
use super::scan::some;
use super::step::write_file;
use crate::args::Report;
use crate::history::histories;
use crate::output::listed::{Item, markdown, sarif, says};
use crate::output::{count, json, page};
use crate::session::{Parts, Session};
use crate::twins;

/// Forms that the file's ending can ask for.
enum Form {
    Page,
    Sarif,
    Markdown,
}

fn form_of(path: &std::path::Path) -> Result<Form> {
    let ending = path.extension().map(|e| e.to_string_lossy().to_lowercase());
    match ending.as_deref() {
        Some("html" | "htm") => Ok(Form::Page),
        Some("sarif") => Ok(Form::Sarif),
        Some("md" | "markdown") => Ok(Form::Markdown),
        _ => Err(Error::Usage(format!("{}: a report ends in .html, .sarif or .md", path.display()))),
    }
}

pub fn run(s: &Session, a: &Report) -> anyhow::Result<u8> {
    let form = form_of(&a.output)?;
    let full = s.current.join(&a.output);
    let paths = a.paths.iter().map(|p| s.path(p)).collect::<Result<Vec<_>>>()?;
    let scanned = s.scan(&paths)?;
    some(&scanned)?;
    let options = a.limits.over(s.options());
    let found = s.findings(&scanned, &options);
    let asked = Asked::new(s, &scanned, &a.filters)?;
    let wanted = |f: &Finding| a.kind.is_none_or(|k| k.has(f)) && !f.small && asked.wants(f);
    let mut shown: Vec<Finding> = found.iter().filter(|f| wanted(f)).cloned().collect();
    asked.order(&mut shown);
    let mut findings = shown.len();
    let most = if a.limit == 0 { usize::MAX } else { a.limit };
    let text = match form {
        Form::Page => {
            let rest = shown.split_off(shown.len().min(most));
            let mut planned = s.plan_first(&scanned, &shown, (usize::MAX, Parts::OfNoOther), &is_told);
            asked.order_planned(&mut planned);
            findings = planned.len() + rest.len();
            // files side by side; of folders the pieces are told
            let all = twins::found(s, &scanned, &found).into_iter();
            let mut files: Vec<Finding> = all.filter(|t| t.folders.is_empty() && asked.wants(t)).collect();
            files.retain(|t| a.kind.is_none_or(|k| k.has(t)));
            findings += files.len();
            let drifted: Vec<&Finding> = planned.iter().map(|(f, _)| f).filter(|f| f.drifted).collect();
            let history = histories(s, &scanned, &drifted);
            write(s, &scanned, &found, (&planned, &rest, &files), &history, options)?
        }
        Form::Sarif => {
            let items: Vec<Item> = shown.iter().map(|f| Item::of(f, &scanned.facts, &options, None)).collect();
            serde_json::to_string_pretty(&sarif(&items))? + "\n"
        }
        Form::Markdown => {
            let items: Vec<Item> =
                shown.iter().take(most).map(|f| Item::of(f, &scanned.facts, &options, None)).collect();
            let more = findings - items.len();
            let remarks = if more > 0 { vec![format!("{more} more are not listed")] } else { Vec::new() };
            markdown(&count(findings, "finding", "findings"), &remarks, &items)
        }
    };
    write_file(&full, &text)?;
    let file = a.output.display().to_string();
    if s.json {
        json::print(&json::Reported { schema: "ufold.report/1", file: &file, findings });
    } else {
        say!("wrote {file}: {}", count(findings, "finding", "findings"));
    }
    Ok(0)
}

fn write(
    s: &Session,
    scanned: &Scanned,
    found: &[Finding],
    (planned, rest, twins): (&[(Finding, Outcome)], &[Finding], &[Finding]),
    history: &BTreeMap<String, Drift>,
    options: ufold_core::find::Options,
) -> Result<String> {
    let of_git = git::is_repository(&s.root)?;
    let state = if of_git { log::last_commit(&s.root)? } else { None };
    let accepted = if of_git { log::versions(&s.root, LEDGER)? } else { Vec::new() };
    let mut trend: Vec<page::Point> = accepted
        .into_iter()
        .filter_map(|(at, text)| Some(page::Point::of(at, &ufold_core::find::ledger::Ledger::read(&text).ok()?)))
        .collect();
    let now = ledger_of(found, &scanned.facts);
    trend.push(page::Point::now(&now));
    let alone = |f| (f, None);
    let rows = twins.iter().map(alone).chain(planned.iter().map(|(f, o)| (f, Some(o)))).chain(rest.iter().map(alone));
    let rows: Vec<page::Row> = rows
        .map(|(finding, plan)| page::Row {
            finding,
            plan,
            says: says(finding, &options),
            history: history.get(&finding.id),
        })
        .collect();
    let project = s.root.file_name().map_or("project".into(), |n| n.to_string_lossy().into_owned());
    let would_save: i64 =
        planned.iter().filter(|(f, o)| f.kind.has_copies() && !o.is_refused()).map(|(_, o)| o.saves.max(0)).sum();
    Ok(page::Page { project, state, root: &s.root, scanned, found, rows, trend, saves: would_save }.written())
}
