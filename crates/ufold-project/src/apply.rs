//! Writing files: whole, by rename, with their permissions.

use std::fs;
use std::io::Write;
use std::path::Path;

use ufold_core::step::{FileEdits, sha256};
use ufold_core::text::apply_edits;

use crate::root::inside;
use crate::{Error, Result};

/// Path, text before and text after of each file that a plan touches.
pub fn texts(root: &Path, files: &[FileEdits]) -> Result<Vec<(String, String, String)>> {
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
pub fn writable(root: &Path, files: &[(String, String, String)]) -> Result<()> {
    for (f, ..) in files {
        let path = inside(root, f)?;
        let meta = fs::metadata(&path).map_err(|e| Error::io("write", &path, &e))?;
        if meta.permissions().readonly() {
            return Err(Error::Environment(format!("{f} is read-only; nothing was written")));
        }
    }
    Ok(())
}

/// Replaces a file's content at once: a new file beside it takes its name.
pub fn replace(path: &Path, bytes: &[u8]) -> Result<()> {
    let write = || -> std::io::Result<()> {
        let real = path.canonicalize()?;
        let dir = real.parent().unwrap_or(Path::new("."));
        let mut tmp = tempfile::Builder::new().prefix(".ufold-").tempfile_in(dir)?;
        tmp.write_all(bytes)?;
        let meta = fs::metadata(&real)?;
        tmp.as_file().set_permissions(meta.permissions())?;
        tmp.as_file().sync_all()?;
        tmp.persist(&real).map_err(|e| e.error)?;
        Ok(())
    };
    write().map_err(|e| Error::io("write", path, &e))
}
