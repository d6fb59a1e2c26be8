//! `init`: ufold.toml with what was detected.

use ufold_project::config::detect;
use ufold_project::root::CONFIG;
use ufold_project::{Error, Result};

use crate::session::Session;

pub fn run(s: &Session, force: bool) -> anyhow::Result<u8> {
    let path = s.root.join(CONFIG);
    if path.exists() && !force {
        Err(Error::Usage(format!("{CONFIG} is already there; --force replaces it")))?;
    }
    let (text, commands) = detect(&s.root);
    write(&path, &text)?;
    match commands.as_slice() {
        [] => say!("wrote {CONFIG}; no test suite was recognized, set check.command in it"),
        list => say!("wrote {CONFIG}; the check is `{}`", list.join("` and `")),
    }
    Ok(0)
}

fn write(path: &std::path::Path, text: &str) -> Result<()> {
    std::fs::write(path, text).map_err(|e| Error::io("write", path, &e))
}
