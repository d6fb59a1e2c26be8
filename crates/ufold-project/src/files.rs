//! The files of a project that are scanned, and why others are not.

use std::collections::{BTreeMap, BTreeSet, HashSet};
use std::io::{BufReader, Read};
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::{Arc, OnceLock};
use std::time::SystemTime;

use globset::{Glob, GlobSet, GlobSetBuilder};
use ignore::WalkBuilder;
use rayon::prelude::*;
use serde::Serialize;
use sha2::{Digest, Sha256};
use ufold_core::find::{FileFacts, bundles, facts, is_carried};
use ufold_core::index::{Mention, Sources, WordSet, whole_words};
use ufold_core::lang;
use ufold_core::text::{Edit, apply_edits};
use ufold_core::tree::parse;

use crate::cache::{Cache, Entry, Known};
use crate::config::Scan;
use crate::root::{inside, slashed};
use crate::{Error, Result};

/// Larger files are data or made by programs.
const LARGEST: u64 = 4 << 20;

/// The same of files that hold code among other things.
const LARGEST_NOTEBOOK: u64 = 64 << 20;

/// Folders that hold other people's code by custom.
const VENDORED: &[&str] = &[
    "node_modules",
    "vendor",
    "vendored",
    "_vendor",
    "third_party",
    "site-packages",
    "venv",
    ".venv",
    "bower_components",
];

const VENDORED_WHY: &str = "other people's code";

#[derive(Clone, Debug, PartialEq, Eq, Serialize, schemars::JsonSchema)]
pub struct Skipped {
    pub file: String,
    pub why: String,
}

pub struct Scanned {
    pub facts: Vec<FileFacts>,
    pub skipped: Vec<Skipped>,
    /// Of the names and contents of all files; none where nothing is kept from one run to the next.
    pub digest: Option<Vec<u8>>,
}

/// One file's facts, its content's hash, and what the cache should know of it from now on.
type Facts = (FileFacts, Option<Vec<u8>>, Option<Entry>);

/// All source files below the given paths (all of the root when there are none), in order.
pub fn list(root: &Path, paths: &[String], scan: &Scan) -> Result<(Vec<String>, Vec<Skipped>)> {
    let (include, exclude) = (globs(&scan.include)?, globs(&scan.exclude)?);
    let starts: Vec<&str> = if paths.is_empty() { vec![""] } else { paths.iter().map(String::as_str).collect() };
    let (mut files, mut skipped) = (Vec::new(), Vec::new());
    for start in starts {
        let mut walk = WalkBuilder::new(root.join(start));
        walk.require_git(false)
            .follow_links(false)
            .sort_by_file_name(|a, b| a.cmp(b))
            .filter_entry(|e| e.file_name() != ".git" && e.file_name() != ".ufold");
        for entry in walk.build() {
            let entry = match entry {
                Ok(e) => e,
                Err(e) => {
                    skipped.push(Skipped { file: start.to_string(), why: format!("cannot be read: {e}") });
                    continue;
                }
            };
            let path = slashed(entry.path().strip_prefix(root).unwrap_or(entry.path()));
            if !entry.file_type().is_some_and(|t| t.is_file()) || lang::for_path(&path).is_none() {
                continue;
            }
            if exclude.is_match(&path) || !scan.include.is_empty() && !include.is_match(&path) {
                continue;
            }
            if let Some(v) = path.split('/').find(|p| VENDORED.contains(p)) {
                skipped.push(Skipped { file: path.clone(), why: format!("{VENDORED_WHY} ({v})") });
            } else {
                files.push(path);
            }
        }
    }
    // start paths may overlap
    files.sort();
    files.dedup();
    Ok((files, skipped))
}

/// Patterns for paths relative to a folder.
pub fn globs(patterns: &[String]) -> Result<GlobSet> {
    let mut b = GlobSetBuilder::new();
    for p in patterns {
        b.add(Glob::new(p).map_err(|e| Error::Usage(format!("bad pattern `{p}`: {}", e.kind())))?);
    }
    b.build().map_err(|e| Error::Usage(e.to_string()))
}

/// What is read of a file: its text, or the code that it holds.
pub fn script_of(path: &str, text: String) -> std::result::Result<String, String> {
    lang::for_path(path).and_then(|l| l.script_of(&text)).unwrap_or(Ok(text))
}

/// A file with edits of what is read of it.
pub fn edited(path: &str, text: &str, edits: &[Edit]) -> std::result::Result<String, String> {
    let after = apply_edits(&script_of(path, text.to_string())?, edits).map_err(|e| e.to_string())?;
    // the code goes back into the file that holds it
    lang::for_path(path).and_then(|l| l.file_of(text, &after)).unwrap_or(Ok(after))
}

/// A file's text, or why it can't be used.
pub fn read(root: &Path, path: &str) -> std::result::Result<Arc<str>, String> {
    let full = inside(root, path).map_err(|e| e.to_string())?;
    let meta = std::fs::metadata(&full).map_err(|e| format!("cannot be read: {e}"))?;
    if !meta.is_file() {
        return Err("no regular file".into());
    }
    // of a notebook most are pictures
    let holds_more = lang::for_path(path).is_some_and(|l| l.script_of("").is_some());
    let largest = if holds_more { LARGEST_NOTEBOOK } else { LARGEST };
    if meta.len() > largest {
        return Err(format!("{} MB, more than {} MB", meta.len() >> 20, largest >> 20));
    }
    let bytes = std::fs::read(&full).map_err(|e| format!("cannot be read: {e}"))?;
    if bytes.iter().take(8192).any(|b| *b == 0) {
        return Err("binary".into());
    }
    let text = String::from_utf8(bytes).map_err(|e| format!("not UTF-8 at byte {}", e.utf8_error().valid_up_to()))?;
    script_of(path, text).map(Into::into)
}

/// Reads and parses in parallel what changed since the cache was written; `done` is called once a file, with its lines.
pub fn scan(
    root: &Path,
    paths: &[String],
    config: &Scan,
    cache: Option<Cache>,
    done: &(dyn Fn(u32) + Sync),
) -> Result<Scanned> {
    let (files, mut skipped) = list(root, paths, config)?;
    let known = cache.as_ref().map(|c| &c.known);
    let results: Vec<std::result::Result<Facts, Skipped>> = files
        .par_iter()
        .map(|path| {
            let result = kept_facts(root, path, known).map_err(|why| Skipped { file: path.clone(), why });
            done(result.as_ref().map_or(0, |(f, ..)| f.lines));
            result
        })
        .collect();
    let mut found = Vec::new();
    let mut fresh = Vec::new();
    let mut digest = cache.is_some().then(Sha256::new);
    for r in results {
        match r {
            Ok((f, hash, entry)) => {
                if let (Some(d), Some(h)) = (&mut digest, hash) {
                    d.update(format!("{}\0{}\0", f.path.len(), f.path));
                    d.update(h);
                }
                fresh.extend(entry.map(|e| (f.path.clone(), e)));
                if let Some(line) = f.broken.first() {
                    skipped
                        .push(Skipped { file: f.path.clone(), why: format!("could not be parsed around line {line}") });
                }
                found.push(f);
            }
            Err(s) => skipped.push(s),
        }
    }
    if let Some(cache) = cache {
        let scanned: BTreeSet<&str> = found.iter().map(|f| f.path.as_str()).collect();
        // of a part of the project nothing is known of the rest
        let gone = cache.known.entries.keys().filter(|p| paths.is_empty() && !scanned.contains(p.as_str()));
        let gone: Vec<String> = gone.cloned().collect();
        cache.keep(&fresh, &gone);
    }
    found.retain(|f| {
        if f.crowded {
            let why = "made small by a program: most statements share a line with many others";
            skipped.push(Skipped { file: f.path.clone(), why: why.into() });
        }
        !f.crowded
    });
    // what is in a bundle is repaired where it was made from
    for (i, parts) in bundles(&found).into_iter().rev() {
        let file = found.remove(i).path;
        skipped.push(Skipped { file, why: format!("made from {parts} other files here") });
    }
    skipped.sort_by(|a, b| a.file.cmp(&b.file));
    Ok(Scanned { facts: found, skipped, digest: digest.map(|d| d.finalize().to_vec()) })
}

/// What is in a file, from the cache where it is the same; with what the cache should know of it from now on.
fn kept_facts(root: &Path, path: &str, known: Option<&Known>) -> std::result::Result<Facts, String> {
    let Some(known) = known else { return Ok((file_facts(root, path)?, None, None)) };
    let full = inside(root, path).map_err(|e| e.to_string())?;
    // looked at before it is read: what is written in between has another time
    let stamp = std::fs::metadata(&full).ok().and_then(|m| known.stamp(&m));
    let old = known.entries.get(path);
    if let (Some(e), Some(s)) = (old, &stamp)
        && e.stamp == *s
        && let Some(f) = e.facts()
    {
        return Ok((f, Some(e.hash.clone()), None));
    }
    let text = read(root, path)?;
    let hash = Sha256::digest(text.as_bytes()).to_vec();
    if let Some(e) = old.filter(|e| e.hash == hash)
        && let Some(f) = e.facts()
    {
        return Ok((f, Some(hash), stamp.map(|s| e.touched(s))));
    }
    let f = facts_of(path, &text)?;
    let entry = stamp.and_then(|s| Entry::new(s, hash.clone(), &f));
    Ok((f, Some(hash), entry))
}

/// Reads some files again, after a step changed them.
pub fn refresh(root: &Path, scanned: &mut Scanned, files: &[String]) -> Result<()> {
    scanned.digest = None;
    for path in files {
        if std::fs::symlink_metadata(root.join(path)).is_err() {
            scanned.facts.retain(|f| f.path != *path);
            continue;
        }
        let fresh = file_facts(root, path).map_err(|why| Error::Environment(format!("{path}: {why}")))?;
        match scanned.facts.iter_mut().find(|f| f.path == *path) {
            Some(f) => *f = fresh,
            None => scanned.facts.push(fresh),
        }
    }
    Ok(())
}

fn file_facts(root: &Path, path: &str) -> std::result::Result<FileFacts, String> {
    facts_of(path, &read(root, path)?)
}

/// Why a file is changed where it comes from.
pub fn written_elsewhere(path: &str, text: &str, lang: &dyn lang::Language) -> Option<&'static str> {
    let made = lang.is_generated(text).then_some("written by a program");
    made.or_else(|| is_carried(path, text).then_some("a library, by what its head says"))
}

fn facts_of(path: &str, text: &str) -> std::result::Result<FileFacts, String> {
    let lang = lang::for_path(path).ok_or("no known language")?;
    if let Some(why) = lang.read_otherwise(text) {
        return Err(why);
    }
    if let Some(why) = written_elsewhere(path, text, lang) {
        return Err(why.into());
    }
    let tree = parse(text, lang).map_err(|e| e.to_string())?;
    Ok(facts(path, text, &tree, lang))
}

/// Texts for planning, straight from disk.
pub struct Disk<'a> {
    root: &'a Path,
    /// Sources that were not scanned.
    skipped: &'a [Skipped],
    /// Which words stand in files that are no scanned sources.
    others: OnceLock<Vec<Other>>,
    /// Files that are no sources.
    beside: OnceLock<Vec<String>>,
    /// Their folders, each with the end of a name in it.
    ends: OnceLock<HashSet<(String, String)>>,
    /// Bytes of texts that may still be kept.
    room: AtomicUsize,
}

/// A file that may say names.
struct Other {
    path: String,
    is_source: bool,
    words: WordSet,
    /// Kept from when it was looked through first.
    text: OnceLock<String>,
}

/// Texts of other files are kept up to this, in bytes; what is more is read again.
const KEPT_TEXTS: usize = 32 << 20;

impl<'a> Disk<'a> {
    pub fn new(root: &'a Path, scanned: &'a Scanned) -> Disk<'a> {
        let (others, beside, ends) = (OnceLock::new(), OnceLock::new(), OnceLock::new());
        Disk { root, skipped: &scanned.skipped, others, beside, ends, room: AtomicUsize::new(KEPT_TEXTS) }
    }

    fn beside(&self) -> &[String] {
        let all = || stamps(self.root).into_keys().filter(|p| lang::for_path(p).is_none()).collect();
        self.beside.get_or_init(all)
    }

    /// The text of a file that is no scanned source.
    fn other_text(&self, path: &str) -> Option<String> {
        let full = self.root.join(path);
        std::fs::metadata(&full).ok().filter(|m| m.is_file() && m.len() <= LARGEST_OTHER)?;
        Some(String::from_utf8_lossy(&std::fs::read(&full).unwrap_or_default()).into_owned())
    }

    fn others(&self) -> &[Other] {
        self.others.get_or_init(|| {
            let own =
                self.skipped.iter().filter(|s| !s.why.starts_with(VENDORED_WHY) && !s.why.contains("around line"));
            let sources = own.map(|s| (s.file.clone(), true));
            let made = |p: &str| p.split('/').any(|folder| MADE_AGAIN.contains(&folder));
            let rest = self.beside().iter().filter(|p| !made(p)).map(|p| (p.clone(), false));
            let all: Vec<(String, bool)> = sources.chain(rest).collect();
            let other = |(path, is_source): (String, bool)| {
                let words = WordSet::of(&self.other_text(&path).unwrap_or_default());
                Other { path, is_source, words, text: OnceLock::new() }
            };
            all.into_par_iter().map(other).collect()
        })
    }

    /// The lines of a file that say something.
    fn lines(&self, o: &Other, says: &dyn Fn(&str) -> bool) -> Vec<Mention> {
        let find = |text: &str| {
            let found = text.lines().enumerate().filter(|(_, l)| says(l));
            found.take(3).map(|(i, _)| Mention { file: o.path.clone(), line: i + 1 }).collect()
        };
        if let Some(text) = o.text.get() {
            return find(text);
        }
        let text = self.other_text(&o.path).unwrap_or_default();
        let found = find(&text);
        let less = |room: usize| room.checked_sub(text.len());
        if self.room.fetch_update(Ordering::Relaxed, Ordering::Relaxed, less).is_ok() {
            let _ = o.text.set(text);
        }
        found
    }
}

/// Folders of what interpreters and checkers keep for themselves, and make again.
const MADE_AGAIN: &[&str] = &["__pycache__", ".mypy_cache", ".pytest_cache", ".ruff_cache", ".gradle"];

/// Larger files that are no sources are not looked at for names.
const LARGEST_OTHER: u64 = 1 << 20;

impl Sources for Disk<'_> {
    fn text(&self, path: &str) -> std::result::Result<Arc<str>, String> {
        read(self.root, path)
    }

    fn mentions(&self, name: &str, forms: &[String]) -> Vec<Mention> {
        let own = self.others().iter().filter(|o| o.is_source && o.words.may_have(name));
        let mut out: Vec<Mention> =
            own.flat_map(|o| self.lines(o, &|l| whole_words(l, name).next().is_some())).collect();
        if forms.is_empty() {
            return out;
        }
        let says = |l: &str| forms.iter().any(|f| whole_words(l, f).next().is_some());
        for o in self.others().iter().filter(|o| !o.is_source) {
            // some settings are files that have a class's name
            let by_path = says(&o.path).then(|| Mention { file: o.path.clone(), line: 1 });
            let may_say = forms.iter().any(|f| o.words.may_have(f));
            let lines = if may_say { self.lines(o, &says) } else { Vec::new() };
            out.extend(by_path.into_iter().chain(lines));
        }
        out
    }
    fn has_file(&self, folder: &str, ending: &str) -> bool {
        let ends = self.ends.get_or_init(|| {
            let parts = self.beside().iter().map(|p| p.rsplit_once('/').unwrap_or(("", p)));
            parts.filter_map(|(folder, name)| Some((folder.into(), name[name.rfind('.')?..].into()))).collect()
        });
        ends.contains(&(folder.to_string(), ending.to_string()))
    }
}

/// When each file was written, and its size.
pub type Stamps = BTreeMap<String, (SystemTime, u64)>;

/// Of each file that git would track.
pub fn stamps(root: &Path) -> Stamps {
    let mut walk = WalkBuilder::new(root);
    walk.require_git(false).hidden(false).filter_entry(|e| e.file_name() != ".git" && e.file_name() != ".ufold");
    let stamp = |e: ignore::DirEntry| {
        let m = e.metadata().ok().filter(|m| m.is_file())?;
        let name = slashed(e.path().strip_prefix(root).unwrap_or(e.path()));
        Some((name, (m.modified().unwrap_or(SystemTime::UNIX_EPOCH), m.len())))
    };
    walk.build().flatten().filter_map(stamp).collect()
}

/// Source files that are there before and after a time and have changed in it: what a check writes are other files, or new
/// ones.
pub fn sources_changed(before: &Stamps, after: &Stamps) -> BTreeSet<String> {
    let known = |f: &str| lang::for_path(f).is_some();
    before.iter().filter(|(f, s)| known(f) && after.get(*f) != Some(s)).map(|(f, _)| f.clone()).collect()
}

/// Changes whenever a file that git would track is added, removed or written.
pub fn fingerprint(root: &Path) -> String {
    let mut h = Sha256::new();
    stamps(root).iter().for_each(|(name, (time, size))| h.update(format!("{name} {size} {time:?}\n")));
    hex::encode(h.finalize())
}

/// Longer texts, of reports and recorded files, are not kept.
pub const LONGEST_TEXT: u64 = 256 << 20;

fn wrong(why: &str) -> std::io::Error {
    std::io::Error::new(std::io::ErrorKind::InvalidData, why.to_string())
}

/// A report or coverage to be read: a regular file, and not one without end.
pub fn open_report(path: &Path) -> std::io::Result<BufReader<std::fs::File>> {
    // looked at before it is opened: a pipe would be waited for
    if !std::fs::metadata(path)?.is_file() {
        return Err(wrong("no regular file"));
    }
    Ok(BufReader::new(std::fs::File::open(path)?))
}

/// The whole text of such a file.
pub fn read_text(path: &Path) -> std::io::Result<String> {
    let mut bytes = Vec::new();
    open_report(path)?.take(LONGEST_TEXT + 1).read_to_end(&mut bytes)?;
    if bytes.len() as u64 > LONGEST_TEXT {
        return Err(wrong("larger than 256 MB"));
    }
    Ok(String::from_utf8(bytes).unwrap_or_else(|e| String::from_utf8_lossy(e.as_bytes()).into_owned()))
}

/// Files of a folder, ignored ones too, whose paths in it match one of the patterns.
pub fn matching(folder: &Path, list: &[String]) -> Result<Vec<PathBuf>> {
    if list.is_empty() {
        return Ok(Vec::new());
    }
    let set = globs(list)?;
    let walk = WalkBuilder::new(folder).standard_filters(false).build();
    let found = walk.flatten().filter(|e| e.path().strip_prefix(folder).is_ok_and(|p| set.is_match(p)));
    Ok(found.map(|e| e.into_path()).filter(|p| p.is_file()).collect())
}
