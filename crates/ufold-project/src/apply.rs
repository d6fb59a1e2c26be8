//! Writing files: whole, by exchange, with their modes. All new texts are on the disk before the first file changes, and
//! no file is replaced that is not what the plan was made of.

use ufold_core::change::{FileEdits, sha256};

use crate::fault::point;
use crate::files::{edited, script_of};
use crate::tree::{Found, Spot, Taken, Tree};
use crate::{Error, Result};

/// A file that a plan touches, with its text before and after; none where there is no file.
#[derive(Clone, Debug)]
pub struct Text {
    pub file: String,
    pub before: Option<String>,
    pub after: Option<String>,
}

impl Text {
    /// SHA-256 of a text, [`NO_FILE`] where there is none.
    pub fn hash(text: Option<&String>) -> String {
        text.map_or(NO_FILE.into(), sha256)
    }
}

/// In the place of a hash: no file is there.
pub const NO_FILE: &str = "";

fn changed_since(file: &str) -> Error {
    Error::Refused(format!("{file} was changed since the plan was made; nothing was written, plan again"))
}

pub fn texts(tree: &Tree, files: &[FileEdits]) -> Result<Vec<Text>> {
    let text = |f: &FileEdits| {
        if f.creates && tree.read(&f.file)?.is_some() {
            return Err(changed_since(&f.file));
        }
        let before = if f.creates { None } else { Some(tree.text(&f.file)?) };
        let unfit = |why: String| Error::Usage(format!("{}: the plan's edits do not fit: {why}", f.file));
        let old = script_of(&f.file, before.clone().unwrap_or_default()).map_err(unfit)?;
        if sha256(&old) != f.sha256 {
            return Err(changed_since(&f.file));
        }
        let after = edited(&f.file, before.as_deref().unwrap_or(""), &f.edits).map_err(unfit)?;
        if f.goes {
            return Ok(vec![Text { file: f.file.clone(), before, after: None }]);
        }
        let Some(to) = &f.moves_to else {
            return Ok(vec![Text { file: f.file.clone(), before, after: Some(after) }]);
        };
        if tree.read(to)?.is_some() {
            return Err(changed_since(to));
        }
        let goes = Text { file: f.file.clone(), before, after: None };
        Ok(vec![Text { file: to.clone(), before: None, after: Some(after) }, goes])
    };
    let all: Vec<Vec<Text>> = files.iter().map(text).collect::<Result<_>>()?;
    Ok(all.concat())
}

/// Refuses before anything is written when a file can't be.
pub fn writable(tree: &Tree, files: &[Text]) -> Result<()> {
    for t in files {
        let found = tree.read(&t.file)?;
        if found.is_some() != t.before.is_some() {
            return Err(changed_since(&t.file));
        }
        if found.is_some_and(|f| f.is_read_only()) {
            return Err(Error::Environment(format!("{} is read-only; nothing was written", t.file)));
        }
    }
    Ok(())
}

/// A file's new content, complete beside it under another name; or that it goes.
struct Prepared {
    file: String,
    spot: Spot,
    beside: String,
    expected: Option<String>,
    goes: bool,
}

impl Prepared {
    fn new(tree: &Tree, file: &str, beside: &str, bytes: &[u8], like: Option<&Found>) -> Result<Prepared> {
        let spot = tree.spot(file, like.is_none())?;
        let part = part_of(beside);
        let written = spot.write_new(&part, bytes, like).and_then(|_| {
            point();
            spot.folder.rename(&part, &spot.folder, beside)
        });
        if let Err(e) = written {
            // a part of the content is of no use to anybody
            if e.kind() != std::io::ErrorKind::AlreadyExists {
                let _ = spot.folder.remove_file(&part);
            }
            return Err(Error::io("write", tree.path().join(file), &e));
        }
        Ok(Prepared { file: file.into(), spot, beside: beside.into(), expected: like.map(Found::hash), goes: false })
    }

    fn going(tree: &Tree, file: &str, beside: &str, found: &Found) -> Result<Prepared> {
        let spot = tree.spot(file, false)?;
        Ok(Prepared { file: file.into(), spot, beside: beside.into(), expected: Some(found.hash()), goes: true })
    }

    fn place(&self) -> Result<()> {
        let taken = match (self.goes, &self.expected) {
            (true, Some(expected)) => self.spot.take_away(&self.beside, expected),
            _ => self.spot.place(&self.beside, self.expected.as_deref()),
        };
        let taken = taken.inspect_err(|_| self.discard())?;
        self.spot.sync();
        match taken {
            Taken::AsExpected => Ok(()),
            Taken::Other => {
                self.discard();
                Err(changed_since(&self.file))
            }
        }
    }

    fn discard(&self) {
        let _ = self.spot.folder.remove_file(&self.beside);
    }
}

/// Replaces several files: none is touched before the new content of all is on the disk. `besides`: the names to use for
/// that.
pub fn replace_all(tree: &Tree, files: &[Text], besides: &[String]) -> Result<()> {
    let mut ready: Vec<Prepared> = Vec::new();
    for (t, beside) in files.iter().zip(besides) {
        let prepared = tree.read(&t.file).and_then(|found| match found {
            Some(f) if t.before.as_ref().is_some_and(|b| f.bytes == b.as_bytes()) => match &t.after {
                Some(after) => Prepared::new(tree, &t.file, beside, after.as_bytes(), Some(&f)),
                None => Prepared::going(tree, &t.file, beside, &f),
            },
            None if t.before.is_none() => {
                Prepared::new(tree, &t.file, beside, t.after.as_deref().unwrap_or("").as_bytes(), None)
            }
            _ => Err(changed_since(&t.file)),
        });
        match prepared {
            Ok(p) => ready.push(p),
            Err(e) => {
                ready.iter().for_each(Prepared::discard);
                return Err(e);
            }
        }
    }
    for (i, p) in ready.iter().enumerate() {
        if let Err(e) = p.place() {
            ready[i + 1..].iter().for_each(Prepared::discard);
            return Err(e);
        }
    }
    Ok(())
}

/// Puts content in the place of a file, which has `now` at this moment or is not there. False: it has something else by now, and
/// keeps it.
pub fn put_back(tree: &Tree, file: &str, beside: &str, bytes: &[u8], now: Option<&Found>) -> Result<bool> {
    let p = Prepared::new(tree, file, beside, bytes, now)?;
    match p.place() {
        Ok(()) => Ok(true),
        Err(Error::Refused(_)) => Ok(false),
        Err(e) => Err(e),
    }
}

/// Takes a file away that has `now` at this moment. False: it has something else by now, and stays.
pub fn take_away(tree: &Tree, file: &str, beside: &str, now: &Found) -> Result<bool> {
    match Prepared::going(tree, file, beside, now)?.place() {
        Ok(()) => Ok(true),
        Err(Error::Refused(_)) => Ok(false),
        Err(e) => Err(e),
    }
}

/// What a step that was cut off left beside a file: its own text goes, what somebody else wrote at that very moment comes
/// back. `own`: hashes of the texts before and after the step.
pub fn clear_beside(tree: &Tree, file: &str, beside: &str, own: [&str; 2]) -> Result<()> {
    let Ok(spot) = tree.spot(file, false) else { return Ok(()) };
    let _ = spot.folder.remove_file(part_of(beside));
    let Ok(Some(found)) = spot.read_name(beside) else { return Ok(()) };
    let cleared = match own.contains(&found.hash().as_str()) {
        true => spot.folder.remove_file(beside),
        false => spot.folder.rename(beside, &spot.folder, &spot.name),
    };
    cleared.map_err(|e| Error::io("put back", tree.path().join(file), &e))
}

/// The name of a file beside another one while it is not whole yet: only a whole one gets its own name.
fn part_of(beside: &str) -> String {
    format!("{beside}.part")
}
