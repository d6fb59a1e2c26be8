//! `tidy`: what has no effect goes; `scan --kind clutter` lists it, with what needs a person.

use std::io::Write;

use rayon::prelude::*;
use ufold_core::change::{Code, Reason, Verdict};
use ufold_core::find::{Clutter, id_of_text, is_id_of};
use ufold_core::index::Project;
use ufold_core::step::{Item, Plan, Request, TidyRequest, clutter, plan};
use ufold_project::Error;
use ufold_project::files::{Disk, Scanned};

use super::step::{self, reason_line};
use crate::args::Tidy;
use crate::output::{count, fit, width};
use crate::session::Session;

/// One of the list, with the id by which it is known.
pub struct Listed {
    pub id: String,
    pub file: usize,
    pub item: Item,
}

/// All that is in the way in the files that were asked for.
pub fn found(project: &Project, wanted: &(dyn Fn(&str) -> bool + Sync)) -> Vec<Listed> {
    let files: Vec<usize> = (0..project.facts.len()).filter(|f| wanted(&project.facts[*f].path)).collect();
    let of_file = |f: &usize| -> Vec<Listed> {
        let items = clutter(project, *f).unwrap_or_default();
        let path = &project.facts[*f].path;
        // the same in one file is told apart by how many of it come before
        let mut seen: Vec<String> = Vec::new();
        let mut id = |i: &Item| {
            let text = format!("{path}\n{}\n{}", i.kind.word(), i.what);
            let before = seen.iter().filter(|t| **t == text).count();
            seen.push(text.clone());
            id_of_text('c', &format!("{text}\n{before}"))
        };
        items.into_iter().map(|item| Listed { id: id(&item), file: *f, item }).collect()
    };
    files.par_iter().flat_map_iter(of_file).collect()
}

/// Whether a file is one of those that were named, or lies in one of the folders.
pub fn is_asked(path: &str, asked: &[String]) -> bool {
    let within =
        |a: &String| a.is_empty() || path == a || path.strip_prefix(a.as_str()).is_some_and(|r| r.starts_with('/'));
    asked.is_empty() || asked.iter().any(within)
}

/// The list as text.
pub fn print(s: &Session, list: &[Listed], limit: usize, out: &mut impl Write) -> std::io::Result<()> {
    let (p, most) = (s.paint, if limit == 0 { usize::MAX } else { limit });
    let people = list.iter().filter(|l| l.item.needs.is_some()).count();
    let mut head = count(list.len(), "piece of clutter", "pieces of clutter");
    if people > 0 {
        head.push_str(&format!(", {people} of them for a person"));
    }
    writeln!(out, "{}\n", p.strong(&head))?;
    let mut file = "";
    for l in list.iter().take(most) {
        let place = &l.item.place;
        if place.file != file {
            file = &place.file;
            writeln!(out, "{file}")?;
        }
        let why = l.item.needs.as_ref().map_or(String::new(), |n| format!("; {n}"));
        let what = fit(&format!("{}{why}", l.item.what), width().saturating_sub(34).max(30));
        let what = if l.item.needs.is_some() { p.faint(&what) } else { what };
        writeln!(out, "  {}  {:5}  {:14}  {what}", p.strong(&l.id), place.start_line, l.item.kind.word())?;
    }
    if list.len() > most {
        writeln!(out, "\n{} more; --limit 0 lists them", list.len() - most)?;
    }
    if list.iter().any(|l| l.item.needs.is_none()) {
        writeln!(out, "\n{}", p.faint("next: ufold tidy --preview"))?;
    }
    Ok(())
}

/// The one with that id.
pub fn with_id(s: &Session, scanned: &Scanned, id: &str) -> Option<Listed> {
    let disk = Disk::new(&s.root, scanned);
    let project = Project::new(&scanned.facts, &disk);
    found(&project, &|_| true).into_iter().find(|l| l.id == id)
}

/// The step that takes one away, also where that changes what is printed.
pub fn plan_of(project: &Project, id: &str, item: &Item) -> Plan {
    let (places, debug) = (vec![item.place.clone()], item.kind == Clutter::Debug);
    plan(project, &Request::Tidy(TidyRequest { finding: id.to_string(), places, debug }))
}

/// What is in the way in a listed item, as a reason.
pub fn reason(item: &Item) -> Option<Reason> {
    let message = format!("{}: {}", item.what, item.needs.as_ref()?);
    let (file, line) = (item.place.file.clone(), item.place.start_line);
    Some(Reason { code: Code::NeedsAPerson, message, file, line })
}

pub fn run(s: &Session, a: &Tidy) -> anyhow::Result<u8> {
    let (ids, paths): (Vec<&String>, Vec<&String>) =
        a.paths.iter().partition(|p| is_id_of('c', p) && s.path(p).is_err());
    let paths = paths.into_iter().map(|p| s.path(p)).collect::<Result<Vec<_>, _>>()?;
    let kinds: Vec<Clutter> = match a.only.as_slice() {
        [] => Clutter::ALL.into_iter().filter(|k| *k != Clutter::Debug).collect(),
        some => some.iter().filter_map(|w| Clutter::of(w)).collect(),
    };
    let scanned: Scanned = s.scan(&[])?;
    let disk = Disk::new(&s.root, &scanned);
    let project = Project::new(&scanned.facts, &disk);
    if let Some(p) = paths.iter().find(|p| !scanned.facts.iter().any(|f| is_asked(&f.path, std::slice::from_ref(p)))) {
        Err(Error::Usage(format!("{p}: no source file of the project is there")))?;
    }
    let mut all = found(&project, &|path| !ids.is_empty() || is_asked(path, &paths));
    if let Some(id) = ids.iter().find(|id| !all.iter().any(|l| l.id == ***id)) {
        Err(Error::Usage(format!("no piece of clutter has the id {id}; `ufold scan --kind clutter` lists them")))?;
    }
    if !ids.is_empty() {
        let of_path = |l: &Listed| !paths.is_empty() && is_asked(&l.item.place.file, &paths);
        all.retain(|l| ids.contains(&&l.id) || of_path(l));
    }
    // an id means the piece, of whatever kind it is
    let wanted = |l: &&Listed| kinds.contains(&l.item.kind) || ids.contains(&&l.id);
    let of_kind: Vec<&Item> = all.iter().filter(wanted).map(|l| &l.item).collect();
    let people = of_kind.iter().filter(|i| i.needs.is_some()).count();
    let goes: Vec<&Item> = of_kind.iter().copied().filter(|i| i.needs.is_none()).collect();
    let finding = if a.paths.is_empty() { "the project".to_string() } else { a.paths.join(" ") };
    if people > 0 {
        let what = count(people, "piece", "pieces");
        s.remark(&format!("{what} of clutter need a person; `ufold scan --kind clutter` lists them"));
    }
    let plan = if goes.is_empty() {
        None
    } else {
        provable(s, &project, &finding, &goes, goes.iter().any(|i| i.kind == Clutter::Debug))
    };
    let Some(plan) = plan else {
        s.remark(&format!("nothing to tidy in {finding}"));
        return Ok(0);
    };
    step::save(s, &plan, a.save_plan.as_deref())?;
    step::carry_out(s, &plan, &a.step)
}

/// The plan of all items; of those that it can be made with, when it is refused with all.
fn provable(s: &Session, project: &Project, finding: &str, items: &[&Item], debug: bool) -> Option<Plan> {
    let of = |items: &[&Item]| {
        let places = items.iter().map(|i| i.place.clone()).collect();
        plan(project, &Request::Tidy(TidyRequest { finding: finding.to_string(), places, debug }))
    };
    let whole = of(items);
    if whole.result.verdict != Verdict::Refused {
        return Some(whole);
    }
    let fits = |i: &&&Item| match of(&[i]).result {
        o if o.verdict != Verdict::Refused => true,
        o => {
            s.remark(&format!("stays: {}", o.reasons.first().map_or(String::new(), reason_line)));
            false
        }
    };
    let kept: Vec<&Item> = items.iter().filter(fits).copied().collect();
    Some(of(&kept)).filter(|_| !kept.is_empty())
}
