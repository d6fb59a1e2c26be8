//! Where a project begins, and what its paths are called.

use std::path::{Component, Path, PathBuf};

use crate::{Error, Result};

pub const CONFIG: &str = "ufold.toml";

/// `--root`, else the nearest parent with ufold.toml or .git, else the current folder.
pub fn find(given: Option<&Path>, current: &Path) -> Result<PathBuf> {
    let start = given.unwrap_or(current);
    let start = start.canonicalize().map_err(|e| Error::io("open the folder", start, &e))?;
    if !start.is_dir() {
        return Err(Error::Usage(format!("--root: {} is not a folder", start.display())));
    }
    if given.is_some() {
        return Ok(start);
    }
    let marked = |p: &&Path| p.join(CONFIG).is_file() || p.join(".git").exists();
    Ok(start.ancestors().find(marked).unwrap_or(&start).to_path_buf())
}

/// A typed path as a path of the project, with `/`: relative to the current folder or, where there is no such file, to
/// the root.
pub fn relative(root: &Path, current: &Path, typed: &str) -> Result<String> {
    let tries = [current.join(typed), root.join(typed)];
    let found = tries.iter().find(|p| p.exists());
    let Some(found) = found else {
        return Err(Error::Usage(format!("{typed}: no such file or folder")));
    };
    let real = found.canonicalize().map_err(|e| Error::io("open", found, &e))?;
    let inside =
        real.strip_prefix(root).map_err(|_| Error::Usage(format!("{typed}: outside the root {}", root.display())))?;
    Ok(slashed(inside))
}

/// The same of a file that need not be there yet, nor the last of its folders.
pub fn relative_new(root: &Path, current: &Path, typed: &str) -> Result<String> {
    let path = Path::new(typed);
    let name = |p: &Path| p.file_name().map(|n| n.to_string_lossy().into_owned());
    let mut names = vec![name(path).ok_or_else(|| Error::Usage(format!("{typed}: no name of a file")))?];
    let parent = |p: &Path| p.parent().map(Path::to_path_buf).filter(|p| !p.as_os_str().is_empty());
    let mut folder = parent(path);
    while let Some(f) = folder.as_ref().filter(|f| !current.join(f).exists()) {
        // steps up from what is not there lead nowhere
        names.push(name(f).ok_or_else(|| Error::Usage(format!("{typed}: no such folder")))?);
        folder = parent(f);
    }
    let folder = folder.map_or(".".to_string(), |f| f.to_string_lossy().into_owned());
    let folder = relative(root, current, &folder)?;
    names.extend(Some(folder).filter(|f| !f.is_empty()));
    names.reverse();
    Ok(names.join("/"))
}

pub fn slashed(path: &Path) -> String {
    path.components().map(|c| c.as_os_str().to_string_lossy()).collect::<Vec<_>>().join("/")
}

/// A path from a plan or a journal: relative, without steps up, and not led outside by a symbolic link.
pub fn inside(root: &Path, path: &str) -> Result<PathBuf> {
    let p = Path::new(path);
    let plain = p.components().all(|c| matches!(c, Component::Normal(_))) && !path.is_empty();
    let full = root.join(p);
    let real = full.canonicalize().unwrap_or_else(|_| full.clone());
    if !plain || !real.starts_with(root) {
        return Err(Error::Usage(format!("{path}: leads outside the root {}", root.display())));
    }
    Ok(full)
}
