//! `init`: ufold.toml with what was detected.

use ufold_project::check::Check;
use ufold_project::config::{self, detect};
use ufold_project::root::CONFIG;
use ufold_project::{Error, trust};

use crate::output::json;
use crate::session::Session;

pub fn run(s: &Session, force: bool) -> anyhow::Result<u8> {
    let there = s.root.join(CONFIG).symlink_metadata().is_ok();
    if there && !force {
        Err(Error::Usage(format!("{CONFIG} is already there; --force replaces it")))?;
    }
    let (text, commands) = detect(&s.root);
    let journal = s.journal()?;
    match force {
        true => journal.tree().write(CONFIG, text.as_bytes())?,
        false => journal.tree().create(CONFIG, text.as_bytes())?,
    }
    // what the person has just had written, and is told, need not be asked about
    let check = config::load(&s.root)?.check.net(&s.root, None)?.map(|c| Check { recordings: Vec::new(), ..c });
    trust::say_yes(&journal, &check.as_ref().map_or(Vec::new(), trust::commands))?;
    if s.json {
        json::print(&json::Initialized { schema: "ufold.init/1", file: CONFIG, commands: &commands });
        return Ok(0);
    }
    match commands.as_slice() {
        [] => say!("wrote {CONFIG}; no test suite was recognized, set check.command in it"),
        list => say!("wrote {CONFIG}; the check is `{}`", list.join("` and `")),
    }
    Ok(0)
}
