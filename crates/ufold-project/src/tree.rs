//! The files of a project, reached from its open root one name at a time.
//!
//! No link is followed, on the way or at the end, and nothing below `.git` is reached. What is checked is what is used:
//! each folder is opened from the one above it, so a link that is put in a folder's place in between leads nowhere. What
//! it can't see: a hard link or a mounted folder that somebody with the right to make one has put into the tree.

use std::io::{ErrorKind, Read, Write};
use std::path::{Component, Path, PathBuf};

use cap_fs_ext::{
    DirExt, FollowSymlinks, MetadataExt, OpenOptionsFollowExt, OpenOptionsMaybeDirExt, OpenOptionsSyncExt,
};
use cap_std::ambient_authority;
use cap_std::fs::{Dir, File, Metadata, OpenOptions, OpenOptionsExt, PermissionsExt};
use rustix::fs::{RenameFlags, renameat_with};
use ufold_core::change::sha256;

use crate::apply::NO_FILE;
use crate::fault::point;
use crate::{Error, Result};

pub struct Tree {
    root: PathBuf,
    dir: Dir,
}

/// A regular file as it was found.
pub struct Found {
    pub bytes: Vec<u8>,
    metadata: Metadata,
}

impl Found {
    /// SHA-256 of what it has.
    pub fn hash(&self) -> String {
        sha256(&self.bytes)
    }

    pub fn is_read_only(&self) -> bool {
        self.metadata.permissions().mode() & 0o222 == 0
    }
}

/// The folder of a file, and its name there.
pub(crate) struct Spot {
    pub folder: Dir,
    pub name: String,
    /// For messages.
    path: PathBuf,
}

impl Tree {
    pub fn open(root: &Path) -> Result<Tree> {
        let dir = Dir::open_ambient_dir(root, ambient_authority()).map_err(|e| Error::io("open", root, &e))?;
        Ok(Tree { root: root.to_path_buf(), dir })
    }

    pub fn path(&self) -> &Path {
        &self.root
    }

    /// Device and number of the root folder: another one in its place has others.
    pub fn identity(&self) -> Result<(u64, u64)> {
        let meta = self.dir.dir_metadata().map_err(|e| Error::io("read", &self.root, &e))?;
        Ok((meta.dev(), meta.ino()))
    }

    /// The names of a path with `/` that stays inside.
    fn names<'p>(&self, path: &'p str) -> Result<Vec<&'p str>> {
        let plain = |c: Component<'p>| match c {
            Component::Normal(n) => n.to_str().filter(|n| !n.eq_ignore_ascii_case(".git")),
            _ => None,
        };
        let names: Option<Vec<&str>> = Path::new(path).components().map(plain).collect();
        names.filter(|n| !n.is_empty()).ok_or_else(|| self.outside(path))
    }

    fn outside(&self, path: &str) -> Error {
        Error::Usage(format!("{path}: leads outside the root {}, or to where nothing is written", self.root.display()))
    }

    /// The folder of a path; `make`: folders that are missing are made.
    pub(crate) fn spot(&self, path: &str, make: bool) -> Result<Spot> {
        let names = self.names(path)?;
        let (name, folders) = names.split_last().expect("a path has a name");
        let full = self.root.join(path);
        let mut folder = self.dir.try_clone().map_err(|e| Error::io("open", &self.root, &e))?;
        for n in folders {
            let opened = match folder.open_dir_nofollow(n) {
                Err(e) if make && e.kind() == ErrorKind::NotFound => {
                    folder.create_dir(n).and_then(|_| folder.open_dir_nofollow(n))
                }
                other => other,
            };
            folder = opened.map_err(|e| match folder.symlink_metadata(n) {
                Ok(m) if m.is_symlink() => self.outside(path),
                _ => Error::io("open", &full, &e),
            })?;
        }
        Ok(Spot { folder, name: name.to_string(), path: full })
    }

    /// What a regular file has; none where there is nothing.
    pub fn read(&self, path: &str) -> Result<Option<Found>> {
        match self.spot(path, false) {
            Ok(spot) => spot.read(),
            Err(Error::Environment(_)) if !self.dir.try_exists(path).unwrap_or(true) => Ok(None),
            Err(e) => Err(e),
        }
    }

    /// A file that must be there, as text.
    pub fn text(&self, path: &str) -> Result<String> {
        let missing = || Error::Environment(format!("cannot read {}: it is not there", self.root.join(path).display()));
        let found = self.read(path)?.ok_or_else(missing)?;
        String::from_utf8(found.bytes).map_err(|_| Error::Environment(format!("{path}: not UTF-8")))
    }

    /// Folders of a path that are not there, the outermost first.
    pub fn missing_folders(&self, path: &str) -> Vec<String> {
        let folders = path.match_indices('/').map(|(i, _)| path[..i].to_string());
        folders.filter(|f| self.dir.symlink_metadata(f).is_err()).collect()
    }

    /// Removes a folder that is empty; one that is not stays.
    pub fn remove_empty(&self, path: &str) {
        if let Ok(spot) = self.spot(path, false) {
            let _ = spot.folder.remove_dir(&spot.name);
        }
    }

    /// Whether a file has the content of a hash; of [`NO_FILE`], whether there is none.
    pub fn has(&self, path: &str, hash: &str) -> bool {
        match self.read(path) {
            Ok(Some(found)) => found.hash() == hash,
            Ok(None) => hash == NO_FILE,
            Err(_) => false,
        }
    }

    /// The SHA-256 of a file's bytes; none where there is no regular file that can be read.
    pub fn hash(&self, path: &str) -> Option<String> {
        self.read(path).ok().flatten().map(|f| f.hash())
    }

    /// Writes a file that must not be there yet, not even as a link to nowhere.
    pub fn create(&self, path: &str, bytes: &[u8]) -> Result<()> {
        let spot = self.spot(path, true)?;
        spot.write_new(&spot.name, bytes, None).map_err(|e| Error::io("write", &spot.path, &e))
    }

    /// Writes a file whole, in the place of one that may be there; a link is replaced, not followed.
    pub fn write(&self, path: &str, bytes: &[u8]) -> Result<()> {
        let spot = self.spot(path, true)?;
        let beside = new_name()?;
        let written =
            spot.write_new(&beside, bytes, None).and_then(|_| spot.folder.rename(&beside, &spot.folder, &spot.name));
        written.map_err(|e| {
            let _ = spot.folder.remove_file(&beside);
            Error::io("write", &spot.path, &e)
        })
    }

    /// Removes a file, or a link, where there is one.
    pub fn remove(&self, path: &str) {
        if let Ok(spot) = self.spot(path, false) {
            let _ = spot.folder.remove_file(&spot.name);
        }
    }

    /// Removes a folder with all in it; links in it are removed, not followed.
    pub fn remove_folder(&self, path: &str) -> Result<()> {
        let spot = self.spot(path, false)?;
        spot.folder.remove_dir_all(&spot.name).map_err(|e| Error::io("remove", &spot.path, &e))
    }
}

/// An unpredictable name for a file that stands beside another one for a moment.
pub(crate) fn new_name() -> Result<String> {
    let mut bytes = [0u8; 8];
    getrandom::fill(&mut bytes).map_err(|e| Error::Environment(format!("no random numbers: {e}")))?;
    Ok(format!(".ufold-{:016x}", u64::from_le_bytes(bytes)))
}

/// What stood in a file's place when another one took it.
pub(crate) enum Taken {
    /// What was expected.
    AsExpected,
    /// Something else, which is in its place again.
    Other,
}

impl Spot {
    pub fn read(&self) -> Result<Option<Found>> {
        self.read_name(&self.name)
    }

    pub fn read_name(&self, name: &str) -> Result<Option<Found>> {
        let mut options = OpenOptions::new();
        // a pipe or a device must not be waited for
        options.read(true).follow(FollowSymlinks::No).nonblock(true).maybe_dir(true);
        let mut file = match self.folder.open_with(name, &options) {
            Ok(f) => f,
            Err(e) if e.kind() == ErrorKind::NotFound => return Ok(None),
            Err(e) => return Err(Error::io("read", &self.path, &e)),
        };
        let read = |file: &mut File| -> std::io::Result<Option<Found>> {
            let metadata = file.metadata()?;
            let mut bytes = Vec::new();
            if !metadata.is_file() {
                return Ok(None);
            }
            file.read_to_end(&mut bytes)?;
            Ok(Some(Found { bytes, metadata }))
        };
        match read(&mut file).map_err(|e| Error::io("read", &self.path, &e))? {
            Some(found) => Ok(Some(found)),
            None => Err(Error::Environment(format!("cannot read {}: it is no regular file", self.path.display()))),
        }
    }

    /// Writes a new file under a name that nobody has, with another one's mode and owner, and waits for the disk.
    pub fn write_new(&self, name: &str, bytes: &[u8], like: Option<&Found>) -> std::io::Result<()> {
        let mut options = OpenOptions::new();
        options.write(true).create_new(true).follow(FollowSymlinks::No);
        if like.is_some() {
            options.mode(0o600);
        }
        point();
        let mut file = self.folder.open_with(name, &options)?;
        point();
        file.write_all(bytes)?;
        if let Some(like) = like {
            own_like(&file, &like.metadata)?;
        }
        point();
        file.sync_all()
    }

    /// Lets the file beside take the place of the file, when that still has what it must have; none: it must be missing.
    pub fn place(&self, beside: &str, expected: Option<&str>) -> Result<Taken> {
        let done = |r: std::io::Result<Taken>| r.map_err(|e| Error::io("write", &self.path, &e));
        point();
        let Some(expected) = expected else {
            return done(match self.folder.hard_link(beside, &self.folder, &self.name) {
                Ok(()) => self.folder.remove_file(beside).map(|_| Taken::AsExpected),
                Err(e) if e.kind() == ErrorKind::AlreadyExists => Ok(Taken::Other),
                // a file system without links
                Err(_) if self.folder.symlink_metadata(&self.name).is_err() => {
                    self.folder.rename(beside, &self.folder, &self.name).map(|_| Taken::AsExpected)
                }
                Err(e) => Err(e),
            });
        };
        if self.read()?.is_none_or(|f| f.hash() != expected) {
            return Ok(Taken::Other);
        }
        // between this look and the exchange somebody may write: what comes out of the exchange is looked at too
        match renameat_with(&self.folder, beside, &self.folder, &self.name, RenameFlags::EXCHANGE) {
            Ok(()) => {}
            // a file system that can't exchange
            Err(_) => {
                let renamed = self.folder.rename(beside, &self.folder, &self.name);
                point();
                return done(renamed.map(|_| Taken::AsExpected));
            }
        }
        point();
        if self.read_name(beside)?.is_some_and(|f| f.hash() == expected) {
            done(self.folder.remove_file(beside).map(|_| Taken::AsExpected))
        } else {
            let back = renameat_with(&self.folder, beside, &self.folder, &self.name, RenameFlags::EXCHANGE);
            done(back.map(|_| Taken::Other).map_err(Into::into))
        }
    }

    /// Removes the file when it has what it must have.
    pub fn take_away(&self, beside: &str, expected: &str) -> Result<Taken> {
        let done = |r: std::io::Result<Taken>| r.map_err(|e| Error::io("remove", &self.path, &e));
        point();
        if self.read()?.is_none_or(|f| f.hash() != expected) {
            return Ok(Taken::Other);
        }
        if let Err(e) = self.folder.rename(&self.name, &self.folder, beside) {
            return done(Err(e));
        }
        point();
        // what was taken is looked at: somebody may have written between that look and the move
        if self.read_name(beside)?.is_some_and(|f| f.hash() == expected) {
            return done(self.folder.remove_file(beside).map(|_| Taken::AsExpected));
        }
        let back = self.folder.hard_link(beside, &self.folder, &self.name);
        done(back.and_then(|_| self.folder.remove_file(beside)).map(|_| Taken::Other))
    }

    /// Waits until the disk knows the names in the folder.
    pub fn sync(&self) {
        if let Ok(f) = self.folder.open(".") {
            let _ = f.sync_all();
        }
        point();
    }
}

/// Gives a file the owner and the mode of another one. That another owner can't be given is no error: only a privileged
/// user could.
fn own_like(file: &File, like: &Metadata) -> std::io::Result<()> {
    use cap_std::fs::MetadataExt as _;
    let own = file.metadata()?;
    if (own.uid(), own.gid()) != (like.uid(), like.gid()) {
        let owner = rustix::fs::Uid::from_raw(like.uid());
        let _ = rustix::fs::fchown(file, Some(owner), Some(rustix::fs::Gid::from_raw(like.gid())));
    }
    file.set_permissions(like.permissions())
}
