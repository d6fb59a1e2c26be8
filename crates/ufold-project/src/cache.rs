//! What was found in each file at an earlier time, so that only files that changed are read and parsed again.
//!
//! A file is the same when its size, its times and its place on the disk are; else when its content has the same hash. A
//! file that was written just before it was read may change again within the clock's grain, so it is not kept. The cache
//! is of one build of the program, and stands in the user's own state: what can't be read there is found anew, and nothing
//! depends on it but speed. Bounded: files that are no longer scanned go.

use std::collections::BTreeMap;
use std::fs::Metadata;
use std::os::unix::fs::MetadataExt;
use std::path::Path;
use std::time::{Duration, SystemTime};

use rusqlite::{Connection, params};
use serde::Serialize;
use serde::de::DeserializeOwned;
use ufold_core::find::FileFacts;

use crate::Result;
use crate::state::State;

/// A younger file may be written again without that being seen.
const SETTLED: Duration = Duration::from_secs(2);

/// Another process may write at the same time; it is not waited for longer.
const PATIENCE: Duration = Duration::from_millis(500);

const NAME: &str = "facts.sqlite";

/// What is kept: findings of a whole project and of a part, for the worklist and for a place; plans; history.
const MOST_FOUND: i64 = 12;

/// Size, times and place of a file.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Stamp(Vec<u8>);

impl Stamp {
    fn of(meta: &Metadata, now: SystemTime) -> Option<Stamp> {
        let now = now.duration_since(SystemTime::UNIX_EPOCH).ok()?;
        let written = meta.ctime().max(meta.mtime());
        let settled = u64::try_from(written).is_ok_and(|w| Duration::from_secs(w + 1) + SETTLED < now);
        let numbers = [meta.size() as i64, meta.mtime(), meta.mtime_nsec(), meta.ctime(), meta.ctime_nsec()];
        let place = [meta.ino() as i64, meta.dev() as i64];
        settled.then(|| Stamp(numbers.iter().chain(&place).flat_map(|n| n.to_le_bytes()).collect()))
    }
}

/// One file as it was.
pub struct Entry {
    pub stamp: Stamp,
    /// Of the content.
    pub hash: Vec<u8>,
    facts: Vec<u8>,
}

impl Entry {
    pub fn new(stamp: Stamp, hash: Vec<u8>, facts: &FileFacts) -> Option<Entry> {
        Some(Entry { stamp, hash, facts: postcard::to_stdvec(facts).ok()? })
    }

    /// The same content, with other times.
    pub fn touched(&self, stamp: Stamp) -> Entry {
        Entry { stamp, hash: self.hash.clone(), facts: self.facts.clone() }
    }

    pub fn facts(&self) -> Option<FileFacts> {
        postcard::from_bytes(&self.facts).ok()
    }
}

/// What an earlier run kept of a project.
pub struct Known {
    opened: SystemTime,
    pub entries: BTreeMap<String, Entry>,
}

impl Known {
    /// None for a file that was written not long before, or after, the cache was opened: it can't be told from what it may
    /// be in a moment.
    pub fn stamp(&self, meta: &Metadata) -> Option<Stamp> {
        Stamp::of(meta, self.opened)
    }
}

/// That, and where it is kept.
pub struct Cache {
    db: Connection,
    pub known: Known,
}

impl Cache {
    /// None where there can be none.
    pub fn open(state: &State) -> Option<Cache> {
        state.make().ok()?;
        let path = state.path(NAME);
        read(&path).or_else(|| {
            // not one that can be read: a new one takes its place
            std::fs::remove_file(&path).ok()?;
            read(&path)
        })
    }

    /// Puts what changed in the place of what was there; `gone` are files that are no more.
    pub fn keep(mut self, fresh: &[(String, Entry)], gone: &[String]) {
        if fresh.is_empty() && gone.is_empty() {
            return;
        }
        let mut write = || -> rusqlite::Result<()> {
            let all = self.db.transaction()?;
            {
                let mut put = all.prepare("INSERT OR REPLACE INTO facts VALUES (?1, ?2, ?3, ?4)")?;
                for (path, e) in fresh {
                    put.execute(params![path, e.stamp.0, e.hash, e.facts])?;
                }
                let mut drop = all.prepare("DELETE FROM facts WHERE path = ?1")?;
                for path in gone {
                    drop.execute(params![path])?;
                }
            }
            all.commit()
        };
        // without it the next run is slower, and that is all
        let _ = write();
    }
}

/// What was found out of files and options with this key, if it was before.
pub fn kept<T: DeserializeOwned>(state: &State, key: &[u8]) -> Option<T> {
    let db = connect(&state.path(NAME)).ok()?;
    let kept: Vec<u8> = db.query_row("SELECT what FROM found WHERE key = ?1", params![key], |r| r.get(0)).ok()?;
    postcard::from_bytes(&kept).ok()
}

/// What was kept with this key; else it is found out, and kept.
pub fn remembered<T: Serialize + DeserializeOwned>(
    state: Option<&State>,
    key: &[u8],
    find: impl FnOnce() -> Result<T>,
) -> Result<T> {
    if let Some(known) = state.and_then(|s| kept(s, key)) {
        return Ok(known);
    }
    let found = find()?;
    state.iter().for_each(|s| keep(s, key, &found));
    Ok(found)
}

/// Keeps it for the next run; the oldest of others go.
pub fn keep<T: Serialize + ?Sized>(state: &State, key: &[u8], what: &T) {
    let Ok(kept) = postcard::to_stdvec(what) else { return };
    let write = || -> rusqlite::Result<()> {
        let db = connect(&state.path(NAME))?;
        db.execute("INSERT OR REPLACE INTO found (key, what) VALUES (?1, ?2)", params![key, kept])?;
        let old = "DELETE FROM found WHERE rowid NOT IN (SELECT rowid FROM found ORDER BY rowid DESC LIMIT ?1)";
        db.execute(old, params![MOST_FOUND])?;
        Ok(())
    };
    // without it the next run is slower, and that is all
    let _ = write();
}

/// Plans of one state of a project: none is kept of another one.
pub struct Plans {
    db: Connection,
    key: Vec<u8>,
}

impl Plans {
    /// None where there can be none.
    pub fn open(state: &State, key: Vec<u8>) -> Option<Plans> {
        let db = connect(&state.path(NAME)).ok()?;
        Some(Plans { db, key })
    }

    pub fn get<T: DeserializeOwned>(&self, id: &str) -> Option<T> {
        let mut ask = self.db.prepare_cached("SELECT what FROM plans WHERE id = ?1 AND key = ?2").ok()?;
        let what: Vec<u8> = ask.query_row(params![id, self.key], |r| r.get(0)).ok()?;
        serde_json::from_slice(&what).ok()
    }

    pub fn keep<T: Serialize>(&mut self, plans: &[(String, T)]) {
        let key = self.key.clone();
        let mut write = || -> rusqlite::Result<()> {
            let all = self.db.transaction()?;
            all.execute("DELETE FROM plans WHERE key <> ?1", params![key])?;
            for (id, plan) in plans {
                let what = serde_json::to_vec(plan).unwrap_or_default();
                all.execute("INSERT OR REPLACE INTO plans VALUES (?1, ?2, ?3)", params![id, key, what])?;
            }
            all.commit()
        };
        // without it the next run is slower, and that is all
        let _ = write();
    }
}

fn connect(path: &Path) -> rusqlite::Result<Connection> {
    let db = Connection::open(path)?;
    db.busy_timeout(PATIENCE)?;
    // what a loss of power takes is found anew
    db.pragma_update(None, "synchronous", "OFF")?;
    db.execute_batch(
        "CREATE TABLE IF NOT EXISTS made (by TEXT NOT NULL);
         CREATE TABLE IF NOT EXISTS facts
             (path TEXT PRIMARY KEY, stamp BLOB NOT NULL, hash BLOB NOT NULL, facts BLOB NOT NULL) WITHOUT ROWID;
         CREATE TABLE IF NOT EXISTS plans (id TEXT PRIMARY KEY, key BLOB NOT NULL, what BLOB NOT NULL) WITHOUT ROWID;
         CREATE TABLE IF NOT EXISTS found (key BLOB NOT NULL UNIQUE, what BLOB NOT NULL);",
    )?;
    let own = build();
    let by: Option<String> = db.query_row("SELECT by FROM made", [], |r| r.get(0)).ok();
    if by.as_deref() != Some(&own) {
        db.execute_batch("DELETE FROM facts; DELETE FROM found; DELETE FROM plans; DELETE FROM made;")?;
        db.execute("INSERT INTO made VALUES (?1)", params![own])?;
    }
    Ok(db)
}

fn read(path: &Path) -> Option<Cache> {
    let open = || -> rusqlite::Result<Cache> {
        let db = connect(path)?;
        let entries = {
            let mut all = db.prepare("SELECT path, stamp, hash, facts FROM facts")?;
            let rows = all.query_map([], |r| {
                Ok((r.get(0)?, Entry { stamp: Stamp(r.get(1)?), hash: r.get(2)?, facts: r.get(3)? }))
            })?;
            rows.collect::<rusqlite::Result<BTreeMap<String, Entry>>>()?
        };
        Ok(Cache { db, known: Known { opened: SystemTime::now(), entries } })
    };
    open().ok()
}

/// The program that is running: another one may find other things in the same text.
fn build() -> String {
    let own = std::env::current_exe().and_then(std::fs::metadata).ok();
    let stamp = own.map_or(String::new(), |m| format!("{} {} {} {}", m.size(), m.mtime(), m.mtime_nsec(), m.ino()));
    format!("{} {stamp}", env!("CARGO_PKG_VERSION"))
}

#[cfg(test)]
mod tests {
    use std::fs;

    use super::*;
    use crate::config::Scan;
    use crate::files::{Scanned, scan};

    struct Trial {
        root: tempfile::TempDir,
        state: tempfile::TempDir,
    }

    impl Trial {
        fn new(text: &str) -> Trial {
            let t =
                Trial { root: tempfile::tempdir().expect("a folder"), state: tempfile::tempdir().expect("a folder") };
            t.write(text);
            t
        }

        fn write(&self, text: &str) {
            fs::write(self.root.path().join("tides.py"), text).expect("a file can be written");
        }

        fn state(&self) -> State {
            State::below(self.state.path(), self.root.path())
        }

        fn scan(&self, seconds_later: u64) -> Scanned {
            let mut cache = Cache::open(&self.state()).expect("a cache");
            cache.known.opened += Duration::from_secs(seconds_later);
            scan(self.root.path(), &[], &Scan::default(), Some(cache), &|_| ()).expect("it can be scanned")
        }

        fn functions(&self, seconds_later: u64) -> Vec<String> {
            self.scan(seconds_later).facts.iter().flat_map(|f| &f.functions).map(|f| f.name.clone()).collect()
        }

        fn kept(&self) -> usize {
            Cache::open(&self.state()).expect("a cache").known.entries.len()
        }
    }

    const HIGH: &str = "def high(hour):\n    return hour + 6\n";
    const EBB_: &str = "def ebb_(hour):\n    return hour + 6\n";

    #[test]
    fn a_file_that_is_the_same_is_not_read_again() {
        let t = Trial::new(HIGH);
        assert_eq!(t.functions(10), ["high"]);
        // were it read, the other name would be found
        let mut cache = Cache::open(&t.state()).expect("a cache");
        let (path, old) = cache.known.entries.pop_first().expect("one file");
        let mut facts = old.facts().expect("facts");
        facts.functions[0].name = "kept".into();
        let entry = Entry::new(old.stamp, old.hash, &facts).expect("an entry");
        cache.keep(&[(path, entry)], &[]);
        assert_eq!(t.functions(10), ["kept"]);
        // of the same content with other times, too
        t.write(HIGH);
        assert_eq!(t.functions(10), ["kept"]);
        t.write(EBB_);
        assert_eq!(t.functions(10), ["ebb_"]);
    }

    #[test]
    fn a_young_file_is_not_kept() {
        let t = Trial::new(HIGH);
        assert_eq!(t.functions(0), ["high"]);
        assert_eq!(t.kept(), 0);
        assert_eq!(t.functions(10), ["high"]);
        assert_eq!(t.kept(), 1);
    }

    #[test]
    fn old_times_hide_no_change() {
        let t = Trial::new(HIGH);
        t.functions(10);
        let file = t.root.path().join("tides.py");
        let time = fs::metadata(&file).and_then(|m| m.modified()).expect("a time");
        t.write(EBB_);
        fs::File::options().write(true).open(&file).and_then(|f| f.set_modified(time)).expect("its time can be set");
        assert_eq!(t.functions(10), ["ebb_"]);
    }

    #[test]
    fn findings_are_kept_for_their_files_and_the_oldest_go() {
        use ufold_core::find::{Finding, Options, scan};
        let copy = "def low(row):\n    total = row.depth + 4\n    print('low', total)\n    return total * 2\n";
        let t = Trial::new(&format!("{copy}\n\n{}", copy.replace("low", "ebb")));
        let scanned = t.scan(10);
        let findings = scan(&scanned.facts, &Options { smallest: 4, ..Options::default() });
        assert_eq!(findings.len(), 1);
        let key = scanned.digest.expect("a digest");
        let found = |key: &[u8]| kept::<Vec<Finding>>(&t.state(), key);
        assert!(found(&key).is_none());
        keep(&t.state(), &key, &findings);
        assert_eq!(found(&key).expect("kept")[0].copies, findings[0].copies);
        assert_eq!(t.scan(10).digest.as_ref(), Some(&key));
        t.write(EBB_);
        assert_ne!(t.scan(10).digest.as_ref(), Some(&key));
        for n in 0..MOST_FOUND as u8 {
            keep(&t.state(), &[n], &findings);
        }
        assert!(found(&key).is_none());
        assert!(found(&[3]).is_some());
    }

    #[test]
    fn what_is_no_cache_is_replaced_and_what_is_gone_goes() {
        let t = Trial::new(HIGH);
        t.functions(10);
        fs::write(t.state().path(NAME), "no database at all, but long enough to be looked at ".repeat(40))
            .expect("written");
        assert_eq!(t.functions(10), ["high"]);
        assert_eq!(t.kept(), 1);
        fs::remove_file(t.root.path().join("tides.py")).expect("it was there");
        assert!(t.functions(10).is_empty());
        assert_eq!(t.kept(), 0);
    }
}
