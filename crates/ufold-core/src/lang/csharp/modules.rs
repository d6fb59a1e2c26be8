//! How files find each other: by the names of their classes in the name spaces that they stand in or open, wherever the
//! files are.
//!
//! What is built together sees each other's internal things: all below a folder with a project file. Where there is none,
//! that is not known. Fails for files that a project takes from other folders, or leaves out, by name.

use super::library::LIBRARY;
use crate::lang::{ModuleName, NameSpaces};
use crate::names::Source;
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

pub fn name_spaces(t: &Tree, text: &str) -> NameSpaces {
    // a condition of the compiler may stand around all of them
    let all = |role: Role| t.ids().filter(move |n| t.role(*n) == role && t.is_outermost(*n));
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
    let class = |n: &NodeId| matches!(t.role(*n), Role::Class | Role::TypeAlias) && t.is_outermost(*n);
    let classes = || t.ids().filter(class);
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

#[cfg(test)]
mod tests {
    use super::{module_name, name_spaces};
    use crate::lang;
    use crate::tree::parse;

    fn spaces(text: &str) -> crate::lang::NameSpaces {
        let tree = parse(text, lang::by_name("csharp").expect("the language")).expect("parses");
        name_spaces(&tree, text)
    }

    #[test]
    fn name_spaces_are_what_all_classes_of_a_file_stand_in() {
        for (text, own) in [
            ("class A { }", Some("")),
            ("namespace Port.Sea;\nclass A { }", Some("Port.Sea")),
            ("namespace Port.Sea { class A { } }", Some("Port.Sea")),
            ("namespace Port { class A { } } // }\n", Some("Port")),
            ("#if !SMALL\nusing System;\nnamespace Port.Sea\n{\n    class A { }\n}\n#endif\n", Some("Port.Sea")),
            ("namespace Port { } class A { } // }\n", None),
            ("class A { } namespace Port { class B { } }", None),
            ("namespace Port { class A { } } namespace Sea { class B { } }", None),
        ] {
            assert_eq!(spaces(text).own.as_deref(), own, "{text}");
        }
    }

    #[test]
    fn files_open_name_spaces_for_themselves_and_for_all() {
        let s = spaces("global using Port;\nusing System;\nusing W = Port.Ship;\nusing static Port.Fees;\nclass A { }");
        assert_eq!(s.opened, ["Port", "System", "static Port.Fees"]);
        assert_eq!((s.for_all, s.is_nearer), (vec!["Port".to_string()], false));
        assert!(spaces("namespace Port { using System; class A { } }").is_nearer);
        let adds = spaces(
            "static class A { static int Rate(this int n, int k) { return n; } static int Fee(int n) { return n; } }",
        );
        assert_eq!(adds.added, ["Rate"]);
    }

    #[test]
    fn what_is_built_together_stands_below_a_project_file() {
        let exists = |p: &str| ["port/*.csproj", "port/game/*.asmdef"].contains(&p);
        let base = |path: &str| module_name(path, &exists).map(|m| (m.base, m.in_package));
        let some = |base: &str, said| Some((base.to_string(), said));
        assert_eq!(base("port/sea/A.cs"), some("port", true));
        assert_eq!(base("port/game/deep/A.cs"), some("port/game", true));
        assert_eq!(base("tools/A.cs"), some("", false));
        assert_eq!(base("A.py"), None);
        let root = |p: &str| p == "/*.csproj";
        assert_eq!(module_name("a/A.cs", &root).map(|m| (m.base, m.in_package)), some("", true));
    }
}
