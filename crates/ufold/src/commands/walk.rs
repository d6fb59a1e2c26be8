//! `walk`: the worklist one finding at a time, by keys. The one command that asks.

use std::collections::BTreeSet;
use std::io::{IsTerminal, Write};
use std::path::Path;
use std::process::Command;

use console::{Key, Term};
use ufold_core::change::{Outcome, Verdict};
use ufold_core::find::{Finding, Kind};
use ufold_core::index::Project;
use ufold_core::step::{Plan, plan};
use ufold_project::Error;
use ufold_project::config::Never;
use ufold_project::files::{Disk, Scanned};
use ufold_project::root::CONFIG;

use super::split::Proposal;
use super::{apply, show, split_file, step, undo};
use crate::args::{RequestFlags, Walk};
use crate::output::{complain, count, place as place_of_line};
use crate::session::{self, Parts, Session, is_worth_telling, place};

/// Findings that are planned to find the next one.
const AHEAD: usize = 25;

const KEYS: &str = "f fold · d diff · e edit plan · s skip · n never · o open · u undo · q quit";

pub fn run(s: &Session, a: &Walk) -> anyhow::Result<u8> {
    if !std::io::stdin().is_terminal() || !std::io::stdout().is_terminal() || s.json {
        Err(Error::Usage(
            "walk asks for keys, and this is no terminal; `ufold scan` lists, `ufold fold ID` folds".into(),
        ))?;
    }
    let paths = a.paths.iter().map(|p| s.path(p)).collect::<Result<Vec<_>, _>>()?;
    let mut w = Walker { s, a, paths, passed: BTreeSet::new(), steps: 0, term: Term::stdout() };
    loop {
        let scanned = s.scan(&[])?;
        let Some((finding, left)) = w.next(&scanned) else {
            say!("\n{}", s.paint.good("nothing is left of the worklist"));
            if w.steps > 0 && w.key(AT_END)? == 'u' && w.undone() {
                continue;
            }
            break;
        };
        let more = if left == AHEAD { "or more " } else { "" };
        let rule = format!("── {left} {more}to look at · {} done ", count(w.steps, "step", "steps"));
        say!("\n{}", s.paint.faint(&format!("{rule}{}", "─".repeat(80usize.saturating_sub(rule.chars().count())))));
        if !w.one(&scanned, &finding)? {
            break;
        }
    }
    let what = count(w.steps, "step", "steps");
    say!("{what} done, {} passed over; `ufold log` lists the steps", count(w.passed.len(), "finding", "findings"));
    Ok(0)
}

const AT_END: &str = "u undo · q quit";

struct Walker<'a> {
    s: &'a Session,
    a: &'a Walk,
    paths: Vec<String>,
    /// Ids that were skipped, or are never to be listed again.
    passed: BTreeSet<String>,
    steps: usize,
    term: Term,
}

impl Walker<'_> {
    /// The finding that is worth most of those not passed over, and how many there are.
    fn next(&self, scanned: &Scanned) -> Option<(Finding, usize)> {
        let s = self.s;
        let inside = |f: &Finding| {
            let within =
                |file: &str| self.paths.iter().any(|p| p.is_empty() || file == p || file.starts_with(&format!("{p}/")));
            self.paths.is_empty() || f.copies.iter().any(|c| within(&scanned.facts[c.file].path))
        };
        let kind = |f: &Finding| self.a.kind.as_ref().is_none_or(|k| k == f.kind.word());
        let mut list = s.findings(scanned, &s.options());
        list.retain(|f| !self.passed.contains(&f.id) && inside(f) && kind(f) && !f.drifted);
        let wanted = |f: &Finding, o: &Outcome| {
            is_worth_telling(f, o) && (!f.kind.has_copies() || o.is_refused() || o.saves > 0)
        };
        let mut planned = s.plan_first(scanned, &list, (AHEAD, Parts::OfNoOther), &wanted);
        planned.retain(|(f, _)| !self.passed.contains(&f.id));
        planned.sort_by_key(|(f, o)| (!f.kind.has_copies(), o.verdict, -o.saves));
        let left = planned.len();
        planned.into_iter().next().map(|(f, _)| (f, left))
    }

    /// Shows a finding and does what the keys say. False: to quit.
    fn one(&mut self, scanned: &Scanned, finding: &Finding) -> anyhow::Result<bool> {
        let s = self.s;
        let disk = Disk::new(&s.root, scanned);
        let project = Project::new(&scanned.facts, &disk);
        let own = place(&scanned.facts, &finding.copies[0]);
        let mut plan = match finding.kind {
            Kind::Long if finding.is_file() => match split_file::Proposal::of(&project, &own.file, false) {
                Ok(p) => {
                    p.tell(s, Some(finding))?;
                    p.plan
                }
                Err(e) => {
                    say!("{} {e}", s.paint.strong(&finding.id));
                    session::plan(&project, finding, &RequestFlags::default())
                }
            },
            Kind::Long => {
                let proposal = Proposal::of(&project, &place_of_line(&own.file, own.start_line), &own);
                match proposal {
                    Ok(p) => {
                        show::long(s, scanned, &project, finding, &p)?;
                        p.plan
                    }
                    Err(e) => {
                        say!("{} {e}", s.paint.strong(&finding.id));
                        session::plan(&project, finding, &RequestFlags::default())
                    }
                }
            }
            _ => {
                let plan = session::plan(&project, finding, &RequestFlags::default());
                show::tell(s, scanned, finding, &plan)?;
                plan
            }
        };
        loop {
            match self.key(KEYS)? {
                'f' if self.fold(&plan) => return Ok(true),
                'd' => match plan.result.verdict {
                    Verdict::Refused => complain(&step::refused(&plan).to_string()),
                    _ => step::preview(s, &plan)?,
                },
                'e' => plan = self.edited(&project, plan)?,
                's' => {
                    self.passed.insert(finding.id.clone());
                    return Ok(true);
                }
                'n' if self.never(&finding.id)? => return Ok(true),
                'o' => self.open(&own.file, own.start_line)?,
                'u' if self.undone() => return Ok(true),
                'q' => return Ok(false),
                _ => {}
            }
        }
    }

    fn key(&self, keys: &str) -> anyhow::Result<char> {
        let s = self.s;
        loop {
            let mut out = crate::output::out();
            write!(out, "\n{} ", s.paint.strong(keys))?;
            out.flush()?;
            let key = match self.term.read_key() {
                // the signal says what is to be said
                Err(e) if e.kind() == std::io::ErrorKind::Interrupted => Key::CtrlC,
                other => other.map_err(|e| Error::Environment(format!("no key can be read: {e}")))?,
            };
            say!("");
            match key {
                // the first letter of each
                Key::Char(c) if keys.split(" · ").any(|k| k.starts_with(c)) => return Ok(c),
                Key::Escape | Key::CtrlC => return Ok('q'),
                _ => {}
            }
        }
    }

    /// Takes the last step back.
    fn undone(&mut self) -> bool {
        match undo::run(self.s, None) {
            Ok(_) => {
                self.steps = self.steps.saturating_sub(1);
                true
            }
            Err(e) => {
                complain(&format!("ufold: {e}"));
                false
            }
        }
    }

    /// One step through the pipeline; what speaks against it is said, and the finding stays.
    fn fold(&mut self, plan: &Plan) -> bool {
        match step::carry_out(self.s, plan, &self.a.step) {
            Ok(_) => {
                self.steps += 1;
                true
            }
            Err(e) => {
                complain(&format!("ufold: {e}"));
                if let Some(Error::CheckFailed { output, .. }) = e.downcast_ref::<Error>() {
                    complain(&format!("\n{output}"));
                }
                false
            }
        }
    }

    /// The plan as the person edits it; the old one where that is none.
    fn edited(&self, project: &Project, old: Plan) -> anyhow::Result<Plan> {
        let s = self.s;
        let folder = tempfile::tempdir().map_err(|e| Error::Environment(format!("no temporary folder: {e}")))?;
        let file = folder.path().join("plan.json");
        step::save(s, &old, Some(&file))?;
        if !self.editor(&[file.as_os_str()])? {
            return Ok(old);
        }
        match apply::read(&file) {
            Ok(edited) => {
                let new = plan(project, &edited.request);
                match new.result.verdict {
                    Verdict::Refused => complain(&step::refused(&new).to_string()),
                    _ => {
                        step::preview(s, &new)?;
                        step::notes(s, &new);
                    }
                }
                Ok(new)
            }
            Err(e) => {
                complain(&format!("ufold: {e}; the plan is the one from before"));
                Ok(old)
            }
        }
    }

    fn open(&self, file: &str, line: usize) -> anyhow::Result<()> {
        let path = self.s.root.join(file);
        let at = format!("+{line}");
        let is_text = ufold_core::lang::for_path(file).is_none_or(|l| l.script_of("").is_none());
        let mut arguments = vec![Path::new(&at).as_os_str(), path.as_os_str()];
        if !is_text {
            arguments.remove(0);
        }
        self.editor(&arguments).map(drop)
    }

    /// Runs the person's editor; false where there is none, or it fails.
    fn editor(&self, arguments: &[&std::ffi::OsStr]) -> anyhow::Result<bool> {
        let named =
            ["VISUAL", "EDITOR"].into_iter().filter_map(|v| std::env::var(v).ok()).find(|v| !v.trim().is_empty());
        let Some(editor) = named else {
            complain("ufold: no editor is known; set EDITOR");
            return Ok(false);
        };
        let ran = Command::new("sh").arg("-c").arg(format!("{editor} \"$@\"")).arg("sh").args(arguments).status();
        match ran {
            Ok(status) if status.success() => Ok(true),
            Ok(status) => {
                complain(&format!("ufold: `{editor}` ended with {status}"));
                Ok(false)
            }
            Err(e) => {
                complain(&format!("ufold: `{editor}` can't be run: {e}"));
                Ok(false)
            }
        }
    }

    /// Notes in ufold.toml that a finding is never to be listed again, with the person's reason; none: not after all.
    fn never(&mut self, id: &str) -> anyhow::Result<bool> {
        let mut out = crate::output::out();
        write!(out, "why is it to stay? (nothing: it is listed again) ")?;
        out.flush()?;
        let mut reason = String::new();
        std::io::stdin().read_line(&mut reason)?;
        let reason = reason.trim().to_string();
        if reason.is_empty() {
            return Ok(false);
        }
        let journal = self.s.journal()?;
        let tree = journal.tree();
        let there = if tree.read(CONFIG)?.is_some() { tree.text(CONFIG)? } else { String::new() };
        let gap = if there.is_empty() || there.ends_with('\n') { "" } else { "\n" };
        let entry = Never { id: id.to_string(), reason }.written();
        let text = format!("{there}{gap}{}", if there.is_empty() { entry.trim_start() } else { &entry });
        match there.is_empty() {
            true => tree.create(CONFIG, text.as_bytes())?,
            false => tree.write(CONFIG, text.as_bytes())?,
        }
        self.passed.insert(id.to_string());
        say!("noted in {CONFIG}; scan leaves {id} out from now on");
        Ok(true)
    }
}
