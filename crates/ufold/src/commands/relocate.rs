//! `move`: definitions of a file go to another one, and all imports follow.

use ufold_core::lang;
use ufold_core::step::{MoveRequest, Request};
use ufold_project::Error;

use super::pointed;
use crate::args::Move;
use crate::session::Session;

pub fn run(s: &Session, a: &Move) -> anyhow::Result<u8> {
    let typed = s.expanded(&a.place);
    let to = s.new_path(&in_folder(&a.to, &typed))?;
    if lang::for_path(&to).is_none() {
        Err(Error::Usage(format!("--to {}: no file of a known language", a.to)))?;
    }
    pointed::run(s, &a.step, a.save_plan.as_deref(), |project| {
        let places = pointed::names(s, project, &typed)?;
        Ok(Request::Move(MoveRequest { finding: typed.to_string(), places, to: to.clone(), no_stay: a.no_stay }))
    })
}

/// A folder stands for the file of the same name in it, or of that of the class which has a file of its own.
fn in_folder(to: &str, place: &str) -> String {
    if !to.ends_with('/') && !std::path::Path::new(to).is_dir() {
        return to.to_string();
    }
    let (file, name) = place.rsplit_once(':').unwrap_or((place, ""));
    let own = file.rsplit('/').next().unwrap_or(file);
    let extension = own.rsplit_once('.').map_or("", |p| p.1);
    let classes = lang::for_path(own).is_some_and(|l| l.packages_share_names());
    let class = classes && name.starts_with(char::is_uppercase) && !name.contains(['.', ',']);
    let own = if class { format!("{name}.{extension}") } else { own.to_string() };
    format!("{}/{own}", to.trim_end_matches('/'))
}
