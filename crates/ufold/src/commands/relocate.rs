//! `move`: definitions of a file go to another one, and all imports follow.

use ufold_core::change::place_of;
use ufold_core::lang;
use ufold_core::step::{FilePart, MoveRequest, Request, SplitFileRequest};
use ufold_core::text::Span;
use ufold_project::Error;

use super::pointed;
use crate::args::Move;
use crate::session::Session;

pub fn run(s: &Session, a: &Move) -> anyhow::Result<u8> {
    let typed = s.expanded(&a.place);
    if let Some(names) = several_classes(&typed).filter(|_| is_folder(&a.to)) {
        return to_files(s, a, &typed, &names);
    }
    let to = s.new_path(&in_folder(&a.to, &typed))?;
    if lang::for_path(&to).is_none() {
        Err(Error::Usage(format!("--to {}: no file of a known language", a.to)))?;
    }
    pointed::run(s, &a.step, a.save_plan.as_deref(), |project| {
        let places = pointed::names(s, project, &typed)?;
        Ok(Request::Move(MoveRequest { finding: typed.to_string(), places, to: to.clone(), no_stay: a.no_stay }))
    })
}

/// Classes that go to files of their own, where there are several.
fn several_classes(place: &str) -> Option<Vec<String>> {
    let (file, names) = place.rsplit_once(':')?;
    let names: Vec<String> = names.split(',').map(|n| n.trim().to_string()).collect();
    let class = |n: &String| n.starts_with(char::is_uppercase) && n.contains(char::is_lowercase) && !n.contains('.');
    let own_files = lang::for_path(file).is_some_and(|l| l.packages_share_names());
    (own_files && names.len() > 1 && names.iter().all(class)).then_some(names)
}

/// Each class goes to a file of its name in the folder.
fn to_files(s: &Session, a: &Move, typed: &str, names: &[String]) -> anyhow::Result<u8> {
    let extension = typed.split(':').next().and_then(|file| file.rsplit_once('.')).map_or("", |p| p.1);
    let file = |name: &String| s.new_path(&format!("{}/{name}.{extension}", a.to.trim_end_matches('/')));
    let files = names.iter().map(file).collect::<Result<Vec<String>, _>>()?;
    pointed::run(s, &a.step, a.save_plan.as_deref(), |project| {
        let at = &pointed::names(s, project, typed)?[0].file;
        let source = project.index(at).map(|f| project.source(f).map_err(Error::Environment)).transpose()?;
        let source = source.expect("a place is in a file of the project");
        let part = |(to, name): (&String, &String)| FilePart { to: to.clone(), names: vec![name.clone()] };
        Ok(Request::SplitFile(SplitFileRequest {
            finding: typed.to_string(),
            place: place_of(&source, Span::new(0, source.text.len())),
            parts: files.iter().zip(names).map(part).collect(),
            except: Vec::new(),
            chosen: true,
            no_stay: a.no_stay,
        }))
    })
}

fn is_folder(to: &str) -> bool {
    to.ends_with('/') || std::path::Path::new(to).is_dir()
}

/// A folder stands for the file of the same name in it, or of that of the class which has a file of its own.
fn in_folder(to: &str, place: &str) -> String {
    if !is_folder(to) {
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
