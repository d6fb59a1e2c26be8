//! What ufold keeps of a project: journal, baseline, what was said yes to. It stands in the user's own folder for state,
//! never in the tree: whatever a repository brings along is not taken for something that this user made.

use std::fs;
use std::io::Write;
use std::os::unix::fs::{DirBuilderExt, MetadataExt};
use std::path::{Path, PathBuf};

use sha2::{Digest, Sha256};

use crate::fault::point;
use crate::{Error, Result};

/// The variable that names another folder for the state of all projects.
pub const VARIABLE: &str = "UFOLD_STATE";

#[derive(Clone, Debug)]
pub struct State {
    folder: PathBuf,
}

impl State {
    /// The state of a root: `UFOLD_STATE`, else `ufold` in `XDG_STATE_HOME`, else `~/.local/state/ufold`.
    pub fn of(root: &Path) -> Result<State> {
        Ok(State::below(&base()?, root))
    }

    /// The state of a root in a folder for the state of all projects.
    pub fn below(base: &Path, root: &Path) -> State {
        let hash = hex::encode(Sha256::digest(root.as_os_str().as_encoded_bytes()));
        let name = root.file_name().map_or("root".into(), |n| n.to_string_lossy());
        let plain: String = name.chars().take(40).map(|c| if c.is_ascii_alphanumeric() { c } else { '-' }).collect();
        State { folder: base.join(format!("{plain}-{}", &hash[..16])) }
    }

    pub fn folder(&self) -> &Path {
        &self.folder
    }

    pub fn path(&self, name: &str) -> PathBuf {
        self.folder.join(name)
    }

    /// Makes the folder where it is not there yet. One that others could have written is not used.
    pub fn make(&self) -> Result<()> {
        let made = fs::DirBuilder::new().recursive(true).mode(0o700).create(&self.folder);
        let cannot = |e| format!("cannot write {}: {e}; {VARIABLE} names another folder", self.folder.display());
        made.map_err(|e| Error::Environment(cannot(e)))?;
        self.check()
    }

    /// Refuses a folder that is somebody else's, or that others may write.
    pub fn check(&self) -> Result<()> {
        let Ok(meta) = fs::symlink_metadata(&self.folder) else { return Ok(()) };
        let own = meta.is_dir() && meta.uid() == rustix::process::geteuid().as_raw() && meta.mode() & 0o022 == 0;
        if own {
            return Ok(());
        }
        Err(Error::Environment(format!(
            "{} is not a folder that only you can write; ufold does not use it ({VARIABLE} names another place)",
            self.folder.display()
        )))
    }

    /// A file that is there whole or not at all.
    pub fn write(&self, path: &Path, bytes: &[u8]) -> Result<()> {
        let folder = path.parent().unwrap_or(&self.folder);
        let write = || -> std::io::Result<()> {
            point();
            fs::DirBuilder::new().recursive(true).mode(0o700).create(folder)?;
            let mut file = tempfile::NamedTempFile::new_in(folder)?;
            point();
            file.write_all(bytes)?;
            point();
            file.as_file().sync_all()?;
            point();
            file.persist(path)?;
            Ok(())
        };
        write().map_err(|e| Error::io("write", path, &e))?;
        point();
        sync_folder(folder);
        Ok(())
    }
}

fn base() -> Result<PathBuf> {
    let given = |name: &str| std::env::var_os(name).filter(|v| !v.is_empty()).map(PathBuf::from);
    if let Some(own) = given(VARIABLE) {
        return match own.is_absolute() {
            true => Ok(own),
            false => Err(Error::Usage(format!("{VARIABLE} must be an absolute path, not {}", own.display()))),
        };
    }
    // a relative path in XDG_STATE_HOME is to be ignored (XDG Base Directory Specification 0.8)
    if let Some(all) = given("XDG_STATE_HOME").filter(|p| p.is_absolute()) {
        return Ok(all.join("ufold"));
    }
    let home = std::env::home_dir().filter(|h| h.is_absolute());
    let home = home.ok_or_else(|| Error::Environment(format!("no home folder is known; set {VARIABLE}")))?;
    Ok(home.join(".local/state/ufold"))
}

/// Waits until the disk knows the names in a folder.
pub fn sync_folder(folder: &Path) {
    if let Ok(f) = fs::File::open(folder) {
        let _ = f.sync_all();
    }
}
