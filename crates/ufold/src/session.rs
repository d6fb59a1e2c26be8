//! What every command needs: the root, its configuration, its findings and plans.

use std::collections::BTreeSet;
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, AtomicUsize, Ordering};
use std::time::{Duration, Instant};

use rayon::prelude::*;
use ufold_core::change::{Code, Outcome, Place, Pointer, Reason, Verdict};
use ufold_core::coverage::Reach;
use ufold_core::find::{self, Finding, Kind, Options};
use ufold_core::index::Project;
use ufold_core::plan::Wishes;
use ufold_core::step::{FoldRequest, Plan, Request, SeriesRequest};
use ufold_project::cache::{self, Cache, Plans};
use ufold_project::check::Check;
use ufold_project::config::{self, Config};
use ufold_project::coverage::{self, Known};
use ufold_project::files::{Disk, Scanned, fingerprint, scan};
use ufold_project::format::Formatter;
use ufold_project::journal::Journal;
use ufold_project::state::State;
use ufold_project::trust::{self, Wanted};
use ufold_project::{Error, Result, git, pipeline, root};

use crate::args::{Common, Format, RequestFlags, StepFlags};
use crate::output::{Paint, Progress, expanded, number, set_root};

/// From here on the search for copies takes a while.
const MANY_LINES: u64 = 200_000;

/// A search that took less is done again rather than kept.
const WORTH_KEEPING: Duration = Duration::from_millis(50);

/// Which findings are told of which a plan folds only a part.
#[derive(Clone, Copy, PartialEq, Eq)]
pub enum Parts {
    /// Those whose part does not lie in an earlier one.
    OfNoOther,
    All,
}

/// A finding as it is told, and its plan's outcome.
type Told = (Finding, Outcome);

pub struct Session {
    pub root: PathBuf,
    pub current: PathBuf,
    pub config: Config,
    pub paint: Paint,
    pub json: bool,
    pub form: Format,
    pub quiet: bool,
    trust: bool,
    pub stop: Arc<AtomicBool>,
    /// How many parts of the program must not be ended from outside.
    held: Arc<AtomicUsize>,
}

/// While there is one, a signal asks to stop; else it ends the program.
pub struct Held(Arc<AtomicUsize>);

impl Drop for Held {
    fn drop(&mut self) {
        self.0.fetch_sub(1, Ordering::SeqCst);
    }
}

/// While nothing is written and no command runs, a signal ends the program. Else the first one asks to stop, and a second
/// one ends the program: the journal has the way back.
fn obey_signals(stop: &Arc<AtomicBool>, held: &Arc<AtomicUsize>) -> std::io::Result<()> {
    let signals = [signal_hook::consts::SIGINT, signal_hook::consts::SIGTERM, signal_hook::consts::SIGHUP];
    for signal in signals {
        signal_hook::flag::register_conditional_shutdown(signal, 130, stop.clone())?;
        signal_hook::flag::register(signal, stop.clone())?;
    }
    let mut seen = signal_hook::iterator::Signals::new(signals)?;
    let held = held.clone();
    std::thread::spawn(move || {
        for _ in seen.forever() {
            if held.load(Ordering::SeqCst) == 0 {
                crate::output::complain("ufold: interrupted; nothing was written");
                std::process::exit(130);
            }
        }
    });
    Ok(())
}

impl Session {
    pub fn new(common: &Common) -> Result<Session> {
        let current = std::env::current_dir().map_err(|e| Error::Environment(format!("no current folder: {e}")))?;
        let root = root::find(common.root.as_deref(), &current)?;
        set_root(&root);
        let stop = Arc::new(AtomicBool::new(false));
        let held = Arc::new(AtomicUsize::new(0));
        obey_signals(&stop, &held).map_err(|e| Error::Environment(format!("cannot catch signals: {e}")))?;
        let s = Session {
            config: config::load(&root)?,
            root,
            current,
            paint: Paint::new(common.color),
            json: common.format == Format::Json,
            form: common.format,
            quiet: common.quiet,
            trust: common.trust,
            stop,
            held,
        };
        // whatever the command, a step that was cut off is mended first
        let journal = s.journal()?;
        if s.root.join(".ufold").symlink_metadata().is_ok() {
            let own = journal.place().folder().display();
            s.remark(&format!(".ufold in this folder is not used: what ufold keeps of it is in {own}"));
        }
        Ok(s)
    }

    /// What a person must know, also when asked to be quiet.
    pub fn warn(&self, text: &str) {
        crate::output::complain(&self.paint.careful(text));
    }

    pub fn remark(&self, text: &str) {
        if !self.quiet {
            crate::output::complain(&self.paint.faint(text));
        }
    }

    /// The journal; a step that was cut off is taken back and said so.
    pub fn journal(&self) -> Result<Journal> {
        let (j, recovered) = Journal::open(&self.root)?;
        if let Some(r) = recovered {
            self.remark(&r);
        }
        Ok(j)
    }

    /// From here on a signal only asks to stop.
    pub fn hold(&self) -> Held {
        self.held.fetch_add(1, Ordering::SeqCst);
        Held(self.held.clone())
    }

    /// Commands of a check that the person did not type just now.
    fn untyped(&self, check: &Check, given: Option<&str>) -> Vec<Wanted> {
        let typed = Check { commands: Vec::new(), ..check.clone() };
        trust::commands(if given.is_some() { &typed } else { check })
    }

    pub fn git_programs(&self, commits: bool) -> Result<Vec<Wanted>> {
        if !git::is_repository(&self.root)? {
            return Ok(Vec::new());
        }
        Ok(git::programs(&self.root, commits)?.iter().map(|p| Wanted::plain(p)).collect())
    }

    /// The person has said yes to all that git may run here.
    pub fn may_ask_git(&self) -> Result<bool> {
        Ok(trust::unknown(&self.journal()?, &self.git_programs(false)?)?.is_empty())
    }

    /// All commands that this project may want run.
    pub fn wanted(&self) -> Result<Vec<Wanted>> {
        let check = self.config.check.net(&self.root, None)?;
        let mut all = check.as_ref().map_or(Vec::new(), trust::commands);
        all.extend(self.git_programs(true)?);
        all.extend(self.config.step.format.iter().map(|f| Wanted::plain(f)));
        Ok(all)
    }

    fn formatter(&self) -> Option<Formatter<'_>> {
        let line = self.config.step.format.as_deref()?;
        Some(Formatter { line, timeout: Duration::from_secs(self.config.check.timeout) })
    }

    /// Refuses when the person has not said yes to a command; `--trust` says it.
    pub fn require(&self, wanted: &[Wanted]) -> Result<()> {
        let journal = self.journal()?;
        if self.trust {
            let new: Vec<String> = trust::unknown(&journal, wanted)?.iter().map(|w| w.line.clone()).collect();
            if !new.is_empty() {
                self.remark(&format!("trusted from now on:\n  {}", new.join("\n  ")));
                trust::say_yes(&journal, wanted)?;
            }
        }
        trust::require(&journal, wanted)
    }

    pub fn scan(&self, paths: &[String]) -> Result<Scanned> {
        let progress = Progress::new(self.quiet);
        let started = Instant::now();
        let (n, lines) = (AtomicUsize::new(0), AtomicUsize::new(0));
        let cache = State::of(&self.root).ok().and_then(|s| Cache::open(&s));
        let scanned = scan(&self.root, paths, &self.config.scan, cache, &|of_file| {
            let n = n.fetch_add(1, Ordering::Relaxed);
            let lines = lines.fetch_add(of_file as usize, Ordering::Relaxed);
            if n.is_multiple_of(64) {
                let a_second = (lines as f64 / started.elapsed().as_secs_f64().max(0.001)) as u64;
                let what = format!("{n} files scanned, {} lines a second", number(a_second));
                progress.tick(&what, started.elapsed());
            }
        })?;
        Ok(scanned)
    }

    pub fn options(&self) -> Options {
        let scan = &self.config.scan;
        let (smallest, longest, deepest) = (scan.smallest, scan.longest, scan.deepest);
        let (most_complex, most_parameters) = (scan.most_complex, scan.most_parameters);
        let (most_names, longest_file) = (scan.most_names, scan.longest_file);
        let own = Options { smallest, longest, deepest, most_complex, most_parameters, ..Options::default() };
        Options { most_names, longest_file, ..own }
    }

    /// All findings, those of an earlier run where no file has changed since.
    pub fn found(&self, scanned: &Scanned, options: &Options) -> Vec<Finding> {
        let state = State::of(&self.root).ok();
        let kept = state.zip(scanned.digest.as_ref()).map(|(state, d)| {
            let mut key = d.clone();
            let sizes = [options.smallest, options.smallest_near, options.fewest_lines];
            let most = [options.longest, options.deepest, options.most_complex, options.most_parameters];
            key.extend(sizes.iter().chain(&most).chain(&[options.most_names]).flat_map(|n| n.to_le_bytes()));
            (state, key)
        });
        if let Some(found) = kept.as_ref().and_then(|(state, key)| cache::kept(state, key)) {
            return found;
        }
        let started = Instant::now();
        let lines: u64 = scanned.facts.iter().map(|f| u64::from(f.lines)).sum();
        let progress = Progress::new(self.quiet || lines < MANY_LINES);
        progress.say(&format!("copies are looked for in {} lines", number(lines)));
        let found = find::scan(&scanned.facts, options);
        progress.clear();
        if let Some((state, key)) = kept.filter(|_| started.elapsed() > WORTH_KEEPING) {
            cache::keep(&state, &key, &found);
        }
        found
    }

    pub fn findings(&self, scanned: &Scanned, options: &Options) -> Vec<Finding> {
        let found = self.found(scanned, options);
        let never = |f: &Finding| self.config.never.iter().any(|n| n.id == f.id);
        let worth = |f: &Finding| !f.kind.has_copies() || f.saves > 0 || f.expression > 0;
        found.into_iter().filter(|f| worth(f) && !never(f)).collect()
    }

    /// How many findings there are that are not to be listed.
    pub fn never(&self, scanned: &Scanned, options: &Options) -> usize {
        let ids: BTreeSet<&str> = self.config.never.iter().map(|n| n.id.as_str()).collect();
        if ids.is_empty() {
            0
        } else {
            self.found(scanned, options).iter().filter(|f| ids.contains(f.id.as_str())).count()
        }
    }

    /// The first findings that `wanted` takes, so many, with their plans' outcomes; planned in parallel. A finding of which
    /// only a part can be folded is told at that extent, and not at all when an earlier one covers it, unless all are asked
    /// for: so what is told of one does not depend on how many are.
    pub fn plan_first(
        &self,
        scanned: &Scanned,
        findings: &[Finding],
        (most, parts): (usize, Parts),
        wanted: &(dyn Fn(&Finding, &Outcome) -> bool + Sync),
    ) -> Vec<(Finding, Outcome)> {
        let disk = Disk::new(&self.root, scanned);
        let project = Project::new(&scanned.facts, &disk);
        let (progress, started) = (Progress::new(self.quiet), Instant::now());
        let mut kept = self.kept_plans(scanned);
        let mut out: Vec<(Finding, Outcome)> = Vec::new();
        let mut at = 0;
        while at < findings.len() && out.len() < most {
            let few = &findings[at..findings.len().min(at + (most - out.len()).clamp(8, 64))];
            let planned = self.plan_some(&project, few, kept.as_mut());
            for (f, o) in planned {
                let inside = |o: &Finding| f.copies.iter().all(|c| o.copies.iter().any(|d| d.covers(c)));
                // the same copies with some more of them, or more of each
                let better = |n: &Finding, done: &Outcome| {
                    let near = (f.near || n.near) && n.copies.len() >= f.copies.len();
                    near && !done.is_refused() && done.saves >= o.saves
                };
                // the same words, in classes that get them from a base
                let lifted = |n: &Finding, done: &Outcome| {
                    let same = f.kind == Kind::Repeat && f.holes == 0 && f.similarity > 0.9995;
                    n.kind == Kind::Members && !done.is_refused() && same && n.copies.len() >= f.copies.len()
                };
                let narrowed = !f.whole.is_empty() && parts == Parts::OfNoOther;
                let covered = out.iter().any(|(n, done)| (narrowed || better(n, done) || lifted(n, done)) && inside(n));
                if !covered && wanted(&f, &o) && out.len() < most {
                    out.push((f, o));
                }
            }
            at += few.len();
            progress.tick(&format!("{at} of {} findings planned", findings.len()), started.elapsed());
        }
        out
    }

    /// What is kept of plans while no file changes.
    fn kept_plans(&self, scanned: &Scanned) -> Option<Plans> {
        let mut key = scanned.digest.clone()?;
        // plans also depend on files that are not scanned
        key.extend(fingerprint(&self.root).bytes());
        Plans::open(&State::of(&self.root).ok()?, key)
    }

    /// Findings as they are told, with their plans' outcomes.
    fn plan_some(&self, project: &Project, few: &[Finding], kept: Option<&mut Plans>) -> Vec<Told> {
        let id = |f: &Finding| format!("{} {:?}", f.id, f.copies.iter().map(|c| c.bytes).collect::<Vec<_>>());
        let known: Vec<Option<Told>> = few.iter().map(|f| kept.as_ref()?.get(&id(f))).collect();
        let told = |(f, known): (&Finding, Option<Told>)| {
            if let Some(told) = known {
                return (told, false);
            }
            let plan = plan(project, f, &RequestFlags::default());
            let mut told = at_extent(f, &plan.request);
            // the part that is folded is the same in all
            told.drifted &= told.whole.is_empty() || plan.result.is_refused();
            ((told, plan.result), true)
        };
        let all: Vec<(Told, bool)> = few.par_iter().zip(known).map(told).collect();
        if let Some(kept) = kept {
            let fresh = few.iter().zip(&all).filter(|(_, (_, new))| *new);
            let fresh: Vec<(String, &Told)> = fresh.map(|(f, (t, _))| (id(f), t)).collect();
            if !fresh.is_empty() {
                kept.keep(&fresh);
            }
        }
        all.into_iter().map(|(t, _)| t).collect()
    }

    pub fn step_options<'a>(
        &'a self,
        flags: &StepFlags,
        tick: &'a dyn Fn(&str, Duration),
    ) -> Result<pipeline::Options<'a>> {
        let check = self.config.check.net(&self.root, flags.check.as_deref())?.filter(|_| !flags.no_check);
        if check.is_none() && !flags.no_check && !flags.preview {
            return Err(Error::Usage(
                "no check is known: run `ufold init`, or give --check COMMAND, or --no-check to go without".into(),
            ));
        }
        let commit = flags.commit || self.config.step.commit && !flags.no_commit;
        let mut wanted = check.as_ref().map_or(Vec::new(), |c| self.untyped(c, flags.check.as_deref()));
        if !flags.include_changed || commit {
            wanted.extend(self.git_programs(commit)?);
        }
        wanted.extend(self.config.step.format.iter().map(|f| Wanted::plain(f)));
        self.require(&wanted)?;
        Ok(pipeline::Options {
            check,
            check_later: false,
            commit,
            include_changed: flags.include_changed,
            strict: flags.strict || self.config.step.strict,
            format: self.formatter(),
            stop: &self.stop,
            tick,
        })
    }

    /// The check and what running it alone needs.
    pub fn net<'a>(
        &'a self,
        given: Option<&str>,
        tick: &'a dyn Fn(&str, Duration),
    ) -> Result<(Check, pipeline::Options<'a>)> {
        let check = self.config.check.net(&self.root, given)?;
        let check = check.ok_or_else(|| {
            Error::Usage("no check is known: run `ufold init`, or give --check COMMAND, or `ufold record` one".into())
        })?;
        self.require(&self.untyped(&check, given))?;
        let options = pipeline::Options {
            check: Some(check.clone()),
            check_later: false,
            commit: false,
            include_changed: false,
            strict: false,
            format: None,
            stop: &self.stop,
            tick,
        };
        Ok((check, options))
    }

    /// What the project's own tools know of what its tests run.
    pub fn coverage(&self) -> Result<Option<Known>> {
        coverage::load(&self.root, &self.config.check)
    }

    /// What the tests run of all copies of a finding.
    pub fn reach(&self, known: &Known, scanned: &Scanned, f: &Finding) -> Reach {
        let of = |c: &find::Copy| reach_of(known, &scanned.facts, c);
        f.copies.iter().map(of).fold(Reach::default(), Reach::join)
    }

    pub fn path(&self, typed: &str) -> Result<String> {
        root::relative(&self.root, &self.current, typed)
    }

    /// A path of a file that need not be there yet.
    pub fn new_path(&self, typed: &str) -> Result<String> {
        root::relative_new(&self.root, &self.current, typed)
    }

    /// A typed place, with lines of cells as lines of the file.
    pub fn expanded(&self, typed: &str) -> String {
        expanded(typed, |path| self.path(path).ok())
    }

    /// The file and line of `FILE:LINE`; none for an id.
    pub fn pointer(&self, typed: &str) -> Result<Option<Pointer>> {
        let typed = &self.expanded(typed);
        let parts = typed.rsplit_once(':').and_then(|(p, l)| Some((p, l.parse().ok()?)));
        parts.map(|(p, line)| Ok(Pointer { file: self.path(p)?, line })).transpose()
    }

    pub fn root(&self) -> &Path {
        &self.root
    }
}

/// A small finding is told for what it saves, and not at all when it can't be folded.
pub fn is_worth_telling(f: &Finding, o: &Outcome) -> bool {
    // of what is only alike one line less is no reason to read it
    !f.small || !o.is_refused() && o.saves > i64::from(f.near)
}

/// The finding with the copies that the plan would fold.
fn at_extent(f: &Finding, request: &Request) -> Finding {
    let mut f = f.clone();
    if f.kind == Kind::Members {
        return f;
    }
    let whole = f.copies.clone();
    for (c, p) in f.copies.iter_mut().zip(request.places()) {
        c.lines = (p.start_line as u32, p.end_line as u32);
        c.bytes = (p.start_byte as u32, p.end_byte as u32);
    }
    // of a function only the lines with code are counted
    if f.kind.has_copies() {
        f.lines = find::longest(&f.copies).unwrap_or(f.lines);
    }
    if whole != f.copies {
        f.whole = whole;
    }
    f
}

/// What the tests run of a copy.
pub fn reach_of(known: &Known, facts: &[find::FileFacts], c: &find::Copy) -> Reach {
    known.of(&facts[c.file].path, c.lines.0 as usize, c.lines.1 as usize)
}

pub fn place(facts: &[find::FileFacts], copy: &find::Copy) -> Place {
    Place {
        file: facts[copy.file].path.clone(),
        start_line: copy.lines.0 as usize,
        end_line: copy.lines.1 as usize,
        start_byte: copy.bytes.0 as usize,
        end_byte: copy.bytes.1 as usize,
    }
}

/// The plan of a finding under the flags of a request.
pub fn plan(project: &Project, f: &Finding, flags: &RequestFlags) -> Plan {
    let copies: Vec<Place> = f.copies.iter().map(|c| place(project.facts, c)).collect();
    let except = flags.choice.sites.left_out(copies.len());
    let function =
        Wishes { name: flags.name.clone(), flags: flags.flags, derive: flags.derive, ..flags.choice.wishes() };
    if f.kind == Kind::Members {
        let taken = |i: &usize| !except.contains(&(i + 1));
        let copies: Vec<Place> = (0..copies.len()).filter(taken).map(|i| copies[i].clone()).collect();
        return crate::members::lift(project, &f.id, &copies, &function);
    }
    // a function of an expression saves no lines, and there is no part of it
    let expression = f.expression > 0;
    let least = flags.least.filter(|_| !expression);
    let (whole, pointed_at) = (flags.whole || expression, flags.pointed_at.clone());
    // who says how the function should be wants one
    let plain = Wishes { parameters: function.parameters.clone(), derive: function.derive, ..Wishes::default() };
    let mut no_loop = None;
    if f.kind == Kind::Series && except.is_empty() && function == plain {
        let (copies, names) = (copies.clone(), function.parameters.clone().unwrap_or_default());
        let request = SeriesRequest { finding: f.id.clone(), copies, names };
        let plan = ufold_core::step::plan(project, &Request::Series(request));
        if plan.result.verdict != Verdict::Refused && flags.least.is_none_or(|n| plan.result.saves >= n) {
            return plan;
        }
        no_loop = plan.result.reasons.into_iter().next();
    }
    let request = FoldRequest { finding: f.id.clone(), copies, except, function, whole, least, pointed_at };
    if f.kind == Kind::Long {
        let first = &request.copies[0];
        let reason = Reason {
            code: Code::WantsSplit,
            message: "what is overlong has no copies to fold; `ufold split` takes it apart".into(),
            file: first.file.clone(),
            line: first.start_line,
        };
        let result = Outcome::refused(vec![reason]);
        return Plan::new(Request::Fold(request), result);
    }
    if f.kind == Kind::Twins {
        return Plan::new(Request::Fold(request), crate::twins::outcome(f, project.facts));
    }
    let mut plan = ufold_core::step::plan(project, &Request::Fold(request));
    let remark = |r: Reason| format!("no loop over a list: {} ({}:{})", r.message, r.file, r.line);
    plan.result.remarks.extend(no_loop.map(remark));
    plan
}

/// The plan of what a person chose: that of the finding, unless they pointed at a line which it leaves out.
pub fn plan_chosen(s: &Session, project: &Project, f: &Finding, typed: &str, flags: &RequestFlags) -> Result<Plan> {
    let own = plan(project, f, flags);
    let Some(pointer) = s.pointer(typed)? else { return Ok(own) };
    let holds = own
        .request
        .places()
        .iter()
        .any(|c| c.file == pointer.file && c.start_line <= pointer.line && pointer.line <= c.end_line);
    if !own.result.is_refused() && holds {
        return Ok(own);
    }
    Ok(plan(project, f, &RequestFlags { pointed_at: Some(pointer), ..flags.clone() }))
}

/// The finding that a person means by an id, the beginning of one, or a place.
pub fn choose(s: &Session, scanned: &Scanned, typed: &str) -> Result<Finding> {
    let findings = s.findings(scanned, &s.options());
    if let Some(Pointer { file: path, line }) = s.pointer(typed)? {
        let line = line as u32;
        let mut here = at_place(scanned, findings, &path, line);
        // pointing at code means it, however small it is; what is only alike comes after what is the same
        if here.iter().all(|f| f.near) {
            let mut small = at_place(scanned, s.found(scanned, &s.options().pointed_at()), &path, line);
            small.retain(|f| !here.iter().any(|h| h.id == f.id));
            here.splice(0..0, small.into_iter().filter(|f| !f.near));
        }
        // members that can't go leave their place to what else was found
        if here.len() > 1 && here[0].kind == Kind::Members && !crate::members::can_go(s, scanned, &here[0]) {
            here.rotate_left(1);
        }
        let Some(first) = here.first() else {
            return Err(Error::Usage(format!(
                "no finding at {path}:{line}; `ufold scan {path}` lists those of the file"
            )));
        };
        if here.len() > 1 {
            let others: Vec<&str> = here[1..].iter().map(|f| f.id.as_str()).collect();
            s.remark(&format!("also at this line: {}", others.join(", ")));
        }
        return Ok(first.clone());
    }
    let named = |all: &[Finding]| -> Vec<Finding> {
        all.iter().filter(|f| f.id.starts_with(typed) && !typed.is_empty()).cloned().collect()
    };
    let mut matching = named(&findings);
    if matching.is_empty() && find::is_id_of('t', typed) {
        matching = named(&crate::twins::found(s, scanned, &findings));
    }
    if matching.is_empty() {
        // one that was shown for a place, smaller than those of the worklist
        matching = named(&s.found(scanned, &s.options().pointed_at()));
    }
    match matching.as_slice() {
        [one] => Ok(one.clone()),
        [] => {
            let clutter = ufold_core::find::is_id_of('c', typed);
            let hint = if clutter { format!("; `ufold tidy {typed}` takes clutter away") } else { String::new() };
            Err(Error::Usage(format!("no finding has the id {typed}; `ufold scan` lists them{hint}")))
        }
        many => {
            let ids: Vec<&str> = many.iter().take(8).map(|f| f.id.as_str()).collect();
            Err(Error::Usage(format!("{typed} is the beginning of several ids: {}", ids.join(", "))))
        }
    }
}

/// Whether a place would be found by pointing at it.
pub fn has_finding(s: &Session, scanned: &Scanned, path: &str, line: u32) -> bool {
    !at_place(scanned, s.found(scanned, &s.options().pointed_at()), path, line).is_empty()
}

/// Findings with a copy at a line, the best first.
fn at_place(scanned: &Scanned, findings: Vec<Finding>, path: &str, line: u32) -> Vec<Finding> {
    let at = |f: &Finding| {
        f.copies.iter().any(|c| scanned.facts[c.file].path == path && c.lines.0 <= line && line <= c.lines.1)
    };
    let mut here: Vec<Finding> = findings.into_iter().filter(at).collect();
    here.sort_by_key(|f| (!f.kind.has_copies(), f.near, f.drifted, -f.saves));
    here
}
