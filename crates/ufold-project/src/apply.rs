//! Writing files: whole, by rename, with their permissions. All new texts are on the disk before the first file changes.

use std::fs;
use std::io::Write;
use std::os::unix::fs::PermissionsExt;
use std::path::{Path, PathBuf};

use ufold_core::step::{FileEdits, sha256};
use ufold_core::text::apply_edits;

use crate::fault::point;
use crate::root::inside;
use crate::{Error, Result};

/// Path, text before and text after of a file that a plan touches.
pub type Text = (String, String, String);

pub fn texts(root: &Path, files: &[FileEdits]) -> Result<Vec<Text>> {
    let mut out = Vec::new();
    for f in files {
        let path = inside(root, &f.file)?;
        let before = fs::read_to_string(&path).map_err(|e| Error::io("read", &path, &e))?;
        if sha256(&before) != f.sha256 {
            return Err(Error::Refused(format!("{} was changed since the plan was made; plan again", f.file)));
        }
        let after = apply_edits(&before, &f.edits)
            .map_err(|e| Error::Usage(format!("{}: the plan's edits do not fit: {e}", f.file)))?;
        out.push((f.file.clone(), before, after));
    }
    Ok(out)
}

/// Refuses before anything is written when a file can't be.
pub fn writable(root: &Path, files: &[Text]) -> Result<()> {
    for (f, ..) in files {
        let path = inside(root, f)?;
        let meta = fs::metadata(&path).map_err(|e| Error::io("write", &path, &e))?;
        if meta.permissions().readonly() {
            return Err(Error::Environment(format!("{f} is read-only; nothing was written")));
        }
    }
    Ok(())
}

/// A file's new content, complete beside it under another name.
pub struct Prepared {
    real: PathBuf,
    beside: PathBuf,
}

/// The name under which a step keeps a file's new content beside it until it takes its place.
pub fn beside(real: &Path, step: u32, index: usize) -> PathBuf {
    real.with_file_name(format!(".ufold-{step}-{index}"))
}

impl Prepared {
    /// Writes the content and waits until the disk has it.
    pub fn new(path: &Path, step: u32, index: usize, bytes: &[u8]) -> Result<Prepared> {
        let write = || -> std::io::Result<Prepared> {
            let real = path.canonicalize()?;
            let beside = beside(&real, step, index);
            let p = Prepared { real, beside };
            point();
            let mut file = fs::File::create(&p.beside)?;
            point();
            file.write_all(bytes)?;
            file.set_permissions(fs::Permissions::from_mode(fs::metadata(&p.real)?.permissions().mode()))?;
            point();
            file.sync_all()?;
            Ok(p)
        };
        write().map_err(|e| {
            // a part of the content is of no use to anybody
            let _ = path.canonicalize().and_then(|real| fs::remove_file(beside(&real, step, index)));
            Error::io("write", path, &e)
        })
    }

    /// Takes the file's place.
    pub fn place(self) -> Result<()> {
        point();
        fs::rename(&self.beside, &self.real).map_err(|e| Error::io("write", &self.real, &e))?;
        point();
        sync_folder(&self.real);
        Ok(())
    }

    pub fn discard(self) {
        let _ = fs::remove_file(&self.beside);
    }
}

/// Waits until the disk knows the names in the folder of a file.
pub fn sync_folder(path: &Path) {
    if let Some(Ok(folder)) = path.parent().map(fs::File::open) {
        let _ = folder.sync_all();
    }
}

/// Replaces several files: none is touched before the new content of all is on the disk.
pub fn replace_all(root: &Path, step: u32, files: &[(&str, &[u8])]) -> Result<()> {
    let mut ready = Vec::new();
    for (i, (file, bytes)) in files.iter().enumerate() {
        match inside(root, file).and_then(|path| Prepared::new(&path, step, i, bytes)) {
            Ok(p) => ready.push(p),
            Err(e) => {
                ready.into_iter().for_each(Prepared::discard);
                return Err(e);
            }
        }
    }
    ready.into_iter().try_for_each(Prepared::place)
}

/// Puts a kept file in another one's place without needing room on the disk; its old name goes.
pub fn put_back(kept: &Path, path: &Path) -> Result<()> {
    let put = || -> std::io::Result<()> {
        let real = path.canonicalize().unwrap_or_else(|_| path.to_path_buf());
        point();
        match fs::rename(kept, &real) {
            // on another disk
            Err(e) if e.kind() == std::io::ErrorKind::CrossesDevices => fs::copy(kept, &real).map(|_| ()),
            other => other,
        }?;
        point();
        sync_folder(&real);
        Ok(())
    };
    put().map_err(|e| Error::io("put back", path, &e))
}
