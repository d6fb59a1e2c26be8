//! The findings that a project has accepted, and what has come to them since.
//!
//! A line a finding, ordered by id, each line whole by itself: two branches that accept other findings merge without a
//! conflict. Kept are the names of the functions around the copies and no line numbers, so that code which only moves
//! changes nothing. A finding whose id has changed, because its code was edited, is the one that shares at least two
//! places with it (of an overlong function: its place). Where that is not so, as where a whole function that is a copy gets
//! another name, it counts as new.

use std::cmp::Reverse;
use std::collections::{BTreeMap, BTreeSet};

use serde::{Deserialize, Serialize};

use super::{FileFacts, Finding, Kind};

const SCHEMA: &str = "ufold.ledger/1";

/// A copy may get longer by this share (and at least by one line) before it counts as grown: a mended line is no news.
const GROWS_BY: u64 = 10;

/// An accepted finding.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Entry {
    pub id: String,
    pub kind: Kind,
    /// Some statements stand in one copy and not in another.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub drifted: bool,
    /// Code lines of the longest copy.
    pub lines: u32,
    /// Of each copy the file and the function around it, in order.
    pub places: Vec<String>,
}

impl Entry {
    pub fn of(f: &Finding, files: &[FileFacts]) -> Entry {
        let mut places: Vec<String> = f
            .copies
            .iter()
            .map(|c| match &c.within {
                Some(w) => format!("{}:{w}", files[c.file].path),
                None => files[c.file].path.clone(),
            })
            .collect();
        places.sort();
        Entry { id: f.id.clone(), kind: f.kind, drifted: f.drifted, lines: f.lines, places }
    }

    /// More copies than that, or longer ones.
    fn grew(&self, from: &Entry) -> bool {
        // a ledger may have been edited by hand
        let (now, then) = (u64::from(self.lines), u64::from(from.lines));
        self.places.len() > from.places.len() || now > then + (then * GROWS_BY / 100).max(1)
    }
}

/// How a finding stands to what was accepted.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Standing {
    New,
    /// It has more copies or longer ones than the accepted one.
    Grown(Entry),
    Known,
}

/// What is accepted, by id.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Ledger(BTreeMap<String, Entry>);

#[derive(Deserialize)]
#[serde(untagged)]
enum Line {
    Head { schema: String },
    Entry(Entry),
}

impl Ledger {
    pub fn of<'a>(findings: impl IntoIterator<Item = &'a Finding>, files: &[FileFacts]) -> Ledger {
        Ledger(findings.into_iter().map(|f| (f.id.clone(), Entry::of(f, files))).collect())
    }

    /// From its text; why it is none. Of a line that a merge has left twice one counts.
    pub fn read(text: &str) -> Result<Ledger, String> {
        if let Some(n) = text.lines().position(|l| l.starts_with("<<<<<<<") || l.starts_with(">>>>>>>")) {
            return Err(format!("line {}: a merge is not resolved", n + 1));
        }
        let lines: Vec<Line> = serde_json::from_str(text).map_err(|e| e.to_string())?;
        let mut lines = lines.into_iter();
        match lines.next() {
            Some(Line::Head { schema }) if schema == SCHEMA => {}
            Some(Line::Head { schema }) => return Err(format!("it is {schema}, and this ufold reads {SCHEMA}")),
            _ => return Err(format!("no {SCHEMA} in its first line")),
        }
        let mut own = Ledger::default();
        for l in lines {
            match l {
                Line::Entry(e) => drop(own.0.insert(e.id.clone(), e)),
                Line::Head { .. } => return Err("a second head".into()),
            }
        }
        Ok(own)
    }

    /// The comma stands first in a line, so that no line depends on whether one follows.
    pub fn written(&self) -> String {
        let mut out = format!("[{{\"schema\":\"{SCHEMA}\"}}\n");
        for e in self.0.values() {
            out.push(',');
            out.push_str(&serde_json::to_string(e).expect("an entry is plain data"));
            out.push('\n');
        }
        out.push_str("]\n");
        out
    }

    pub fn entries(&self) -> impl Iterator<Item = &Entry> {
        self.0.values()
    }

    pub fn len(&self) -> usize {
        self.0.len()
    }

    pub fn is_empty(&self) -> bool {
        self.0.is_empty()
    }

    /// How each finding stands to it, and what is not found any more. An id says which entry a finding is; else it is the
    /// one with the most places in common. What a place of an entry is to one finding it can't be to another.
    pub fn compare(&self, findings: &[Entry]) -> (Vec<Standing>, Vec<&Entry>) {
        let mut left = Left::of(self);
        let by_id: Vec<Option<&Entry>> = findings.iter().map(|f| self.0.get(&f.id)).collect();
        findings.iter().zip(&by_id).for_each(|(f, e)| e.iter().for_each(|e| left.take(e, f)));
        let mut standing = |(own, by_id): (&Entry, &Option<&Entry>)| {
            let entry = by_id.or_else(|| {
                let e = left.likest(own)?;
                left.take(e, own);
                Some(e)
            });
            match entry {
                None => Standing::New,
                Some(e) if own.grew(e) => Standing::Grown(e.clone()),
                Some(_) => Standing::Known,
            }
        };
        let all = findings.iter().zip(&by_id).map(&mut standing).collect();
        (all, self.0.values().filter(|e| !left.seen.contains(e.id.as_str())).collect())
    }
}

/// Which places of which entries are no finding's yet.
struct Left<'a> {
    by_place: BTreeMap<&'a str, Vec<&'a Entry>>,
    places: BTreeMap<&'a str, Vec<&'a str>>,
    seen: BTreeSet<&'a str>,
}

impl<'a> Left<'a> {
    fn of(ledger: &'a Ledger) -> Left<'a> {
        let mut by_place: BTreeMap<&str, Vec<&Entry>> = BTreeMap::new();
        for e in ledger.0.values() {
            e.places.iter().for_each(|p| by_place.entry(p).or_default().push(e));
        }
        let places = |e: &'a Entry| (e.id.as_str(), e.places.iter().map(String::as_str).collect());
        Left { by_place, places: ledger.0.values().map(places).collect(), seen: BTreeSet::new() }
    }

    /// Places that are left of an entry after those of a finding, and how many both have.
    fn without(&self, e: &Entry, own: &Entry) -> (Vec<&'a str>, usize) {
        let mut left = self.places.get(e.id.as_str()).cloned().unwrap_or_default();
        let mut is_there = |p: &&String| left.iter().position(|l| l == *p).map(|i| left.swap_remove(i)).is_some();
        let shared = own.places.iter().filter(&mut is_there).count();
        (left, shared)
    }

    fn take(&mut self, e: &'a Entry, own: &Entry) {
        self.seen.insert(&e.id);
        let left = self.without(e, own).0;
        self.places.insert(&e.id, left);
    }

    /// The entry that shares enough places, and that the finding has grown least from.
    fn likest(&self, own: &Entry) -> Option<&'a Entry> {
        let enough = own.places.len().min(2);
        let near: BTreeMap<&str, &'a Entry> = own
            .places
            .iter()
            .flat_map(|p| self.by_place.get(p.as_str()).into_iter().flatten())
            .map(|e| (e.id.as_str(), *e))
            .collect();
        let shares = near.into_values().filter(|e| e.kind == own.kind).map(|e| (self.without(e, own).1, e));
        let fits = shares.filter(|(shared, _)| *shared >= enough);
        fits.min_by_key(|(n, e)| (own.grew(e), Reverse(*n), own.lines.abs_diff(e.lines), &e.id)).map(|(_, e)| e)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn entry(id: &str, lines: u32, places: &[&str]) -> Entry {
        let places = places.iter().map(|p| p.to_string()).collect();
        Entry {
            id: id.into(),
            kind: if id.starts_with('l') { Kind::Long } else { Kind::Repeat },
            drifted: false,
            lines,
            places,
        }
    }

    fn ledger(entries: &[Entry]) -> Ledger {
        Ledger(entries.iter().map(|e| (e.id.clone(), e.clone())).collect())
    }

    #[test]
    fn a_finding_is_known_new_or_grown() {
        let own = ledger(&[
            entry("r1", 10, &["fees.py:berth", "fees.py:crane"]),
            entry("l2", 60, &["tides.py:table"]),
            entry("r3", 30, &["a.py:a", "a.py:a"]),
        ]);
        let cases = [
            ("the same", entry("r1", 10, &["fees.py:berth", "fees.py:crane"]), "known"),
            ("moved to another file", entry("r1", 10, &["dues.py:berth", "fees.py:crane"]), "known"),
            ("edited in place", entry("r9", 11, &["fees.py:berth", "fees.py:crane"]), "known"),
            ("edited, and a copy more", entry("r9", 10, &["fees.py:berth", "fees.py:crane", "x.py:y"]), "grown"),
            ("a copy more", entry("r1", 10, &["fees.py:berth", "fees.py:crane", "x.py:y"]), "grown"),
            ("longer", entry("r1", 12, &["fees.py:berth", "fees.py:crane"]), "grown"),
            ("longer by a tenth", entry("r3", 33, &["a.py:a", "a.py:a"]), "known"),
            ("longer by more", entry("r3", 34, &["a.py:a", "a.py:a"]), "grown"),
            ("one place in common", entry("r9", 10, &["fees.py:berth", "x.py:y"]), "new"),
            ("one place for two copies", entry("r9", 10, &["fees.py:berth", "fees.py:berth"]), "new"),
            ("both copies in one function, as before", entry("r9", 30, &["a.py:a", "a.py:a"]), "known"),
            ("an overlong function edited", entry("l9", 61, &["tides.py:table"]), "known"),
            ("an overlong function that grew", entry("l9", 67, &["tides.py:table"]), "grown"),
            ("of another kind", entry("l9", 10, &["fees.py:berth"]), "new"),
        ];
        for (what, finding, wanted) in cases {
            let (all, _) = own.compare(&[finding]);
            let word = match all[0] {
                Standing::New => "new",
                Standing::Grown(_) => "grown",
                Standing::Known => "known",
            };
            assert_eq!(word, wanted, "{what}");
        }
    }

    #[test]
    fn what_is_accepted_for_one_is_not_for_another() {
        let own = ledger(&[entry("r1", 10, &["fees.py:berth", "fees.py:crane"])]);
        let same = entry("r1", 10, &["fees.py:berth", "fees.py:crane"]);
        let second = entry("r2", 6, &["fees.py:berth", "fees.py:crane"]);
        let (all, gone) = own.compare(&[same, second]);
        assert_eq!(all, [Standing::Known, Standing::New]);
        assert!(gone.is_empty());
        assert_eq!(own.compare(&[]).1.len(), 1);
        // one group that is two now
        let own = ledger(&[entry("r1", 10, &["a", "b", "c", "d"])]);
        let (all, _) =
            own.compare(&[entry("r2", 9, &["a", "b"]), entry("r3", 9, &["c", "d"]), entry("r4", 9, &["a", "c"])]);
        assert_eq!(all, [Standing::Known, Standing::Known, Standing::New]);
    }

    #[test]
    fn it_is_read_as_it_was_written() {
        let own = ledger(&[entry("r1", 10, &["fees.py:berth", "ä \"b\".py"]), entry("l2", 60, &["tides.py:table"])]);
        let text = own.written();
        assert_eq!(Ledger::read(&text), Ok(own));
        assert_eq!(text.lines().count(), 4);
        let huge = entry("r1", u32::MAX, &[]);
        assert_eq!(ledger(std::slice::from_ref(&huge)).compare(&[huge]).0, [Standing::Known]);
        assert_eq!(Ledger::read(&Ledger::default().written()), Ok(Ledger::default()));
    }

    #[test]
    fn lines_of_two_branches_merge_and_bad_texts_say_why() {
        let (a, b) = (entry("r1", 10, &["x", "y"]), entry("r2", 10, &["x", "z"]));
        let lines = |l: &Ledger| l.written().lines().map(str::to_string).collect::<Vec<_>>();
        let mut both = lines(&ledger(std::slice::from_ref(&a)));
        both.insert(2, lines(&ledger(std::slice::from_ref(&b)))[1].clone());
        assert_eq!(Ledger::read(&both.join("\n")), Ok(ledger(&[a, b])));
        for (text, why) in [
            ("", "EOF"),
            ("[]", "first line"),
            ("[{\"schema\":\"ufold.ledger/9\"}]", "ufold.ledger/9"),
            ("[{\"schema\":\"ufold.ledger/1\"}\n<<<<<<< ours\n]", "line 2: a merge"),
            ("[{\"schema\":\"ufold.ledger/1\"},{\"id\":\"r1\"}]", "did not match"),
        ] {
            let said = Ledger::read(text).expect_err(text);
            assert!(said.contains(why), "{text}: {said}");
        }
    }
}
