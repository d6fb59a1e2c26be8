//! Files without a copy that could take the function, where no file with one can: one that is there for what others
//! share, one that all copies' files import already, else a new one in the nearest folder around them.
//!
//! Only names of files are weighed here; whether a file is fit is for the planner to say.

use crate::change::Place;
use crate::find::paths::is_test;
use crate::index::Project;
use crate::lang;
use crate::plan::home::importable;

/// Files that are there and are tried; a plan is made for each.
const MOST_TRIED: usize = 3;

/// The files to try, the best first.
pub fn files(project: &Project, places: &[Place]) -> Vec<String> {
    let mut own: Vec<usize> = places.iter().filter_map(|p| project.index(&p.file)).collect();
    own.sort_unstable();
    own.dedup();
    let Some(first) = own.first().map(|f| &project.facts[*f]) else { return Vec::new() };
    let language = lang::by_name(&first.language).filter(|_| own.len() > 1);
    let Some(lang) = language.filter(|l| own.iter().all(|f| project.facts[*f].language == l.name())) else {
        return Vec::new();
    };
    let folder = common_folder(own.iter().map(|f| project.facts[*f].folder()));
    // a runner would take the file for tests by where it is
    let folder = match folder.rsplit_once('/') {
        Some((above, "__tests__")) => above,
        None if folder == "__tests__" => "",
        _ => folder,
    };
    let mut out = imported_by_all(project, &own, folder, lang.shared_file_names());
    // what a package has is seen by all who import any of it
    let of_package = |path: &String| lang.package_file().is_some_and(|f| path.ends_with(&format!("/{f}")));
    out.retain(|path| !of_package(path) && is_fit(project, path, &own));
    let own_extension = first.path.rsplit_once('.').map_or("", |p| p.1);
    let extension = lang.importable_extension().unwrap_or(own_extension);
    let beside = |stem: &&str| match folder.is_empty() {
        true => format!("{stem}.{extension}"),
        false => format!("{folder}/{stem}.{extension}"),
    };
    let package = |path: &String| path.rsplit_once('.').is_some_and(|(stem, _)| is_folder(project, stem));
    let names = lang.shared_file_names().iter().map(beside).filter(|n| !package(n));
    let (there, new): (Vec<String>, Vec<String>) = names.partition(|n| project.index(n).is_some());
    let there: Vec<String> = there.into_iter().filter(|path| is_fit(project, path, &own)).collect();
    for path in there.into_iter().take(MOST_TRIED).chain(new.into_iter().take(1)) {
        if !out.contains(&path) && !places.iter().any(|p| p.file == path) {
            out.push(path);
        }
    }
    out
}

/// All copies' files can import it; a plan would find the same, after more work.
fn is_fit(project: &Project, path: &str, own: &[usize]) -> bool {
    project.index(path).is_some_and(|file| importable(project, file, own).is_ok())
}

/// Files of the folder around the copies that all their files import, and those that are there to be shared.
fn imported_by_all(project: &Project, own: &[usize], folder: &str, shared: &[&str]) -> Vec<String> {
    let m = project.modules();
    let tests = own.iter().all(|f| is_test(&project.facts[*f].path));
    let fits = |f: &usize| {
        let path = &project.facts[*f].path;
        !own.contains(f) && own.iter().all(|o| m.direct(*o).contains(f)) && (tests == is_test(path))
    };
    let is_shared = |path: &str| shared.contains(&stem(path));
    let mut all: Vec<usize> = m.direct(own[0]).iter().copied().filter(fits).collect();
    all.sort_unstable();
    all.dedup();
    all.retain(|f| is_shared(&project.facts[*f].path) || project.facts[*f].folder() == folder);
    all.sort_by_key(|f| (!is_shared(&project.facts[*f].path), project.facts[*f].path.clone()));
    all.into_iter().take(MOST_TRIED).map(|f| project.facts[f].path.clone()).collect()
}

/// Code would be found by the one name in two places.
fn is_folder(project: &Project, path: &str) -> bool {
    let inside = format!("{path}/");
    project.facts.iter().any(|f| f.path.starts_with(&inside))
}

fn stem(path: &str) -> &str {
    let name = path.rsplit('/').next().unwrap_or(path);
    name.split('.').next().unwrap_or(name)
}

/// The innermost folder that is around all of them.
fn common_folder<'p>(mut folders: impl Iterator<Item = &'p str>) -> &'p str {
    let first = folders.next().unwrap_or("");
    let both = |a: &'p str, b: &'p str| {
        let same = a.split('/').zip(b.split('/')).take_while(|(x, y)| x == y).map(|(x, _)| x.len() + 1).sum::<usize>();
        &a[..same.saturating_sub(1)]
    };
    folders.fold(first, both)
}
