//! How files find each other: by the names of their classes in the name spaces that they stand in or open, wherever the
//! files are.
//!
//! What is built together sees each other's internal things: all below a folder with a project file. Where there is none,
//! that is not known. Fails for files that a project takes from other folders, or leaves out, by name.

use super::library::LIBRARY;
use crate::lang::{ModuleName, NameSpaces};
use crate::names::{ImportRef, Source};
use crate::tree::{Field, NodeId, Role, Tree};

/// Ends of the names of files that say what is built together.
const BUILDS: &[&str] = &[".csproj", ".asmdef"];

pub fn module_name(path: &str, exists: &dyn Fn(&str) -> bool) -> Option<ModuleName> {
    let stem = path.strip_suffix(".cs")?;
    let (mut folder, file) = stem.rsplit_once('/').unwrap_or(("", stem));
    let is_root = |folder: &str| BUILDS.iter().any(|b| exists(&format!("{folder}/*{b}")));
    let parts = vec![file.to_string()];
    loop {
        if is_root(folder) {
            return Some(ModuleName { base: folder.to_string(), parts, is_package: false, in_package: true });
        }
        match folder.rsplit_once('/') {
            Some((above, _)) => folder = above,
            None if !folder.is_empty() => folder = "",
            None => return Some(ModuleName { base: String::new(), parts, is_package: false, in_package: false }),
        }
    }
}

/// What nothing in a file binds may be a class of another one.
pub fn import_of_free(name: &str) -> Option<ImportRef> {
    let class = name.starts_with(char::is_uppercase) && name.chars().all(|c| c.is_alphanumeric() || c == '_');
    class.then(|| ImportRef { level: 0, module: String::new(), member: Some(name.to_string()), wildcard: false })
}

pub fn name_spaces(t: &Tree, text: &str) -> NameSpaces {
    // a condition of the compiler may stand around all of them
    let outside = |n: &NodeId| t.ancestor(*n, &[Role::Class, Role::Function]).is_none();
    let all = |role: Role| t.ids().filter(move |n| t.role(*n) == role).filter(outside);
    let mut spaces = NameSpaces::default();
    let said: Vec<NodeId> = all(Role::Doc).collect();
    for n in all(Role::ImportFrom) {
        let words = t.text(n, text).trim_end_matches(';').trim();
        let (words, for_all) = words.strip_prefix("global ").map_or((words, false), |w| (w.trim_start(), true));
        let Some(opened) = words.strip_prefix("using ").map(str::trim).filter(|o| !o.contains('=')) else { continue };
        spaces.is_nearer |= said.first().is_some_and(|d| *d < n);
        spaces.opened.push(opened.to_string());
        spaces.for_all.extend(for_all.then(|| opened.to_string()));
    }
    spaces.own = own_space(t, text, &said);
    spaces.added = added_members(t, text);
    spaces
}

/// The name space of all classes of a file.
fn own_space(t: &Tree, text: &str, said: &[NodeId]) -> Option<String> {
    let outside = |n: &NodeId| t.ancestor(*n, &[Role::Class, Role::Function]).is_none();
    let classes = || t.ids().filter(|n| matches!(t.role(*n), Role::Class | Role::TypeAlias)).filter(outside);
    let [one] = said else { return said.is_empty().then(String::new) };
    if classes().any(|c| c < *one) {
        return None;
    }
    let words = t.text(*one, text);
    if let Some(name) = words.strip_prefix("namespace") {
        return Some(name.trim_end_matches(';').trim().to_string());
    }
    // its bracket is closed behind the last class
    let end = classes().last().map_or(text.len(), |c| t.span(c).end);
    let comment = |at: usize| t.comments().iter().any(|c| c.start <= at && at < c.end);
    let closed = text[end..].char_indices().any(|(i, c)| c == '}' && !comment(end + i));
    closed.then(|| words.trim().to_string())
}

/// Classes whose functions are called without their names.
pub fn seen_through(s: &Source) -> Option<String> {
    let opened = s.name_spaces().map_or(&[][..], |x| &x.opened);
    let mut all: Vec<&str> = opened.iter().filter_map(|o| o.strip_prefix("static ")).collect();
    all.sort_unstable();
    (!all.is_empty()).then(|| all.join(" "))
}

pub fn library_space(class: &str) -> Option<&'static str> {
    LIBRARY.any_class(class).map(|c| c.space.as_str())
}

/// Methods that are called on objects of other classes.
fn added_members(t: &Tree, text: &str) -> Vec<String> {
    let adds = |f: &NodeId| {
        let list = t.child(*f, Field::Parameters).filter(|_| t.role(*f) == Role::Function);
        let first = list.and_then(|l| t.children(l).find(|p| t.role(*p) == Role::Parameter));
        first.is_some_and(|p| t.text(p, text).starts_with("this "))
    };
    t.ids().filter(adds).filter_map(|f| t.child(f, Field::Name)).map(|n| t.text(n, text).to_string()).collect()
}
