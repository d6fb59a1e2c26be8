//! `watch`: the check again, and a look at the changed files, whenever files change. For an editor beside the terminal.
//!
//! Looks at the files' times a few times a second and waits until they have been quiet for a moment, so that saving many
//! files is one change. What the check itself writes, run after run, is no change.

use std::collections::{BTreeMap, BTreeSet};
use std::sync::atomic::Ordering;
use std::time::{Duration, Instant, SystemTime};

use ufold_core::find::Finding;
use ufold_project::files::{Scanned, stamps};

use super::check::once;
use crate::args::Watch;
use crate::output::{Progress, count, few, json};
use crate::session::Session;

/// Between two looks at the files.
const LOOK: Duration = Duration::from_millis(200);

type Stamps = BTreeMap<String, (SystemTime, u64)>;

pub fn run(s: &Session, a: &Watch) -> anyhow::Result<u8> {
    let progress = Progress::new(s.quiet);
    let tick = |what: &str, t: Duration| progress.tick(what, t);
    let (check, options) = s.net(a.check.as_deref(), &tick)?;
    let _held = s.hold();
    let quiet = Duration::from_millis(a.quiet_for);
    let mut runs = 0;
    let mut changed: BTreeSet<String> = BTreeSet::new();
    let mut own: BTreeSet<String> = BTreeSet::new();
    loop {
        if !changed.is_empty() && s.json {
            let found = touched(s, &s.scan(&[])?, &changed).into_iter().map(|f| f.id).collect();
            let files = changed.iter().map(String::as_str).collect();
            json::print(&json::Changed { schema: "ufold.watch/1", files, findings: found });
        } else if !changed.is_empty() {
            say!(
                "{}",
                s.paint.strong(&format!("{} changed: {}", count(changed.len(), "file", "files"), few(&changed)))
            );
            findings(s, &changed)?;
        }
        let before = stamps(&s.root);
        match once(s, &check, &options, &progress) {
            Err(e) if !is_interrupted(&e) => s.remark(&format!("{e}")),
            other => drop(other?),
        }
        runs += 1;
        if a.runs.is_some_and(|n| runs >= n) {
            return Ok(0);
        }
        let known = stamps(&s.root);
        // saved while the check ran; what every run writes is the check's own
        let meanwhile = differing(&before, &known);
        if !meanwhile.is_empty() && meanwhile != own {
            (changed, own) = (meanwhile.clone(), meanwhile);
            continue;
        }
        changed = match wait(s, known, quiet) {
            Some(c) => c,
            None => return Ok(130),
        };
    }
}

fn is_interrupted(e: &anyhow::Error) -> bool {
    matches!(e.downcast_ref(), Some(ufold_project::Error::Interrupted))
}

fn differing(a: &Stamps, b: &Stamps) -> BTreeSet<String> {
    a.keys().chain(b.keys()).filter(|f| a.get(*f) != b.get(*f)).cloned().collect()
}

/// The files that changed, once they are quiet; none when the person ends it.
fn wait(s: &Session, known: Stamps, quiet: Duration) -> Option<BTreeSet<String>> {
    let (mut last, mut since) = (known.clone(), Instant::now());
    loop {
        if s.stop.load(Ordering::Relaxed) {
            return None;
        }
        std::thread::sleep(LOOK);
        let now = stamps(&s.root);
        if now != last {
            (last, since) = (now, Instant::now());
            continue;
        }
        let changed = differing(&known, &last);
        if !changed.is_empty() && since.elapsed() >= quiet {
            return Some(changed);
        }
    }
}

/// Repeats with a copy in one of the files.
fn touched(s: &Session, scanned: &Scanned, changed: &BTreeSet<String>) -> Vec<Finding> {
    let in_one = |f: &Finding| f.copies.iter().any(|c| changed.contains(&scanned.facts[c.file].path));
    s.findings(scanned, &s.options()).into_iter().filter(|f| f.kind.has_copies() && !f.small && in_one(f)).collect()
}

fn findings(s: &Session, changed: &BTreeSet<String>) -> anyhow::Result<()> {
    let scanned = s.scan(&[])?;
    let found = touched(s, &scanned, changed);
    for f in found.iter().take(5) {
        let c = f.copies.iter().find(|c| changed.contains(&scanned.facts[c.file].path)).unwrap_or(&f.copies[0]);
        let place = crate::output::places(&scanned.facts[c.file].path, c.lines.0 as usize, c.lines.1 as usize);
        say!("  {}  {place} has {}", s.paint.strong(&f.id), count(f.copies.len() - 1, "other copy", "other copies"));
    }
    if found.len() > 5 {
        say!("  {} more findings in these files", found.len() - 5);
    }
    Ok(())
}
