//! How files find each other: a class by its package's folder below a source root.
//!
//! The root is told by its custom names, else it may be any folder above the file. Fails where two roots have the same
//! package and the same class.

use super::known::LIBRARY;
use crate::lang::ModuleName;
use crate::names::{ImportRef, Source};
use crate::tree::{NodeId, Role, Tree};

/// Folders that packages begin in, the longest first.
const ROOTS: &[&str] = &[
    "src/main/java",
    "src/test/java",
    "src/main/java9",
    "src/integrationTest/java",
    "src/java",
    "src/test",
    "src",
    "java",
    "test",
    "tests",
];

/// Roots whose files see each other's packages.
const PAIRS: &[(&str, &str)] =
    &[("src/main/java", "src/test/java"), ("src/java", "src/test"), ("src", "test"), ("src", "tests")];

pub fn module_name(path: &str) -> Option<ModuleName> {
    let stem = path.strip_suffix(".java")?;
    let (folder, file) = stem.rsplit_once('/').unwrap_or(("", stem));
    let padded = format!("/{folder}/");
    let root =
        ROOTS.iter().filter_map(|r| padded.rfind(&format!("/{r}/")).map(|at| (at, *r))).max_by_key(|(_, r)| r.len());
    let base = root.map_or("", |(at, r)| folder.get(..at + r.len()).unwrap_or(""));
    let rest = folder.strip_prefix(base).unwrap_or(folder).trim_start_matches('/');
    let mut parts: Vec<String> = rest.split('/').filter(|p| !p.is_empty()).map(str::to_string).collect();
    parts.push(file.to_string());
    Some(ModuleName { base: base.to_string(), parts, is_package: false, in_package: true })
}

/// A class by its package, as a name and as a path, and its file; a member by its class.
pub fn named_in_settings(module: &ModuleName, name: &str) -> Vec<String> {
    let owner = match module.parts.as_slice() {
        [.., package, class] if class == name => Some(package),
        [.., class] if class != name => Some(class),
        _ => None,
    };
    let joined = owner.into_iter().flat_map(|o| [".", "/", "$", "#", "::"].map(|sign| format!("{o}{sign}{name}")));
    joined.chain([format!("{name}.java")]).collect()
}

/// The same package, or a name with its package before it.
pub fn import_of_free(from: &ModuleName, name: &str) -> Option<ImportRef> {
    let (module, member) = match name.rsplit_once('.') {
        Some((m, n)) => (m.to_string(), n),
        None => (from.parts[..from.parts.len() - 1].join("."), name),
    };
    Some(ImportRef { level: 0, module, member: Some(member.to_string()), wildcard: false })
}

/// Static members come from classes that are imported whole; a type may come from its package too.
pub fn seen_through(s: &Source, name: &str) -> Option<String> {
    let t = &s.tree;
    let is_static = |i: NodeId| t.children(i).any(|c| s.str(c) == "static");
    let is_type = name.starts_with(char::is_uppercase);
    let known = |m: &str| LIBRARY.classes.contains_key(&format!("{m}.{name}"));
    let mut whole: Vec<_> = super::scopes::wildcards(t, &s.text).collect();
    if let Some((_, x)) = whole.iter().find(|(i, x)| !is_static(*i) && known(&x.module)) {
        return Some(x.module.clone());
    }
    let whole = whole.drain(..);
    let mut all: Vec<String> = whole
        .filter(|(i, _)| is_type || is_static(*i))
        .map(|(i, x)| format!("{} {}", is_static(i), x.module))
        .collect();
    if all.is_empty() {
        return None;
    }
    if is_type {
        let module = s.module.as_ref()?;
        all.push(module.parts[..module.parts.len() - 1].join("."));
    }
    all.sort();
    Some(all.join(" "))
}

/// The same root, or that of what is tested here.
pub fn sees_root(from: &ModuleName, to: &ModuleName) -> bool {
    let twin = |(main, test): &(&str, &str)| {
        let before = from.base.strip_suffix(test);
        before.is_some_and(|b| to.base.strip_suffix(main) == Some(b))
    };
    from.base == to.base || PAIRS.iter().any(twin)
}

pub fn resolve(from: &ModuleName, import: &ImportRef) -> Vec<String> {
    let Some(member) = &import.member else { return Vec::new() };
    let folder = import.module.replace('.', "/");
    let mut bases = vec![from.base.clone()];
    for (a, b) in PAIRS {
        for (x, y) in [(a, b), (b, a)] {
            let twin = from.base.strip_suffix(x).map(|before| format!("{before}{y}"));
            bases.extend(twin.filter(|t| !bases.contains(t)));
        }
    }
    // a source root of another name is one of the folders above
    let folders = &from.parts[..from.parts.len() - 1];
    let above = (1..=folders.len()).map(|k| folders[..k].join("/"));
    let join = |f: String| if from.base.is_empty() { f } else { format!("{}/{f}", from.base) };
    bases.extend(above.map(join));
    let mut out = Vec::new();
    for base in bases {
        let parts: Vec<&str> = [base.as_str(), folder.as_str()].into_iter().filter(|p| !p.is_empty()).collect();
        let head = parts.join("/");
        let slash = if head.is_empty() { "" } else { "/" };
        out.push(format!("{head}{slash}{member}.java"));
    }
    out
}

/// A class that is there for its functions.
/// The packages of the statement with which a file begins.
pub fn said_package(s: &Source) -> Vec<String> {
    let t = &s.tree;
    let said =
        t.children(Tree::ROOT).filter(|n| t.role(*n) == Role::Doc).find_map(|n| s.str(n).strip_prefix("package"));
    let name: String = said.unwrap_or("").trim_end_matches(';').split_whitespace().collect();
    name.split('.').filter(|p| !p.is_empty()).map(str::to_string).collect()
}

pub fn new_file(module: &ModuleName, open: Option<bool>) -> String {
    let Some((name, package)) = module.parts.split_last() else { return String::new() };
    let package = if package.is_empty() { String::new() } else { format!("package {};\n\n", package.join(".")) };
    let class = |open| format!("{}final class {name} {{\n}}\n", if open { "public " } else { "" });
    format!("{package}{}", open.map_or(String::new(), class))
}

#[cfg(test)]
mod tests {
    use super::{import_of_free, module_name, named_in_settings, resolve};

    #[test]
    fn packages_begin_below_the_source_root() {
        let name = |path: &str| module_name(path).map(|m| (m.base, m.parts.join(".")));
        let some = |base: &str, parts: &str| Some((base.to_string(), parts.to_string()));
        assert_eq!(name("src/main/java/port/fees/Fee.java"), some("src/main/java", "port.fees.Fee"));
        assert_eq!(name("desk/src/test/java/port/FeeTest.java"), some("desk/src/test/java", "port.FeeTest"));
        assert_eq!(name("port/Fee.java"), some("", "port.Fee"));
        assert_eq!(name("Fee.java"), some("", "Fee"));
        assert_eq!(name("src/port/test/Fee.java"), some("src/port/test", "Fee"));
        assert_eq!(name("Fee.py"), None);
    }

    #[test]
    fn neighbours_and_tests_see_a_package() {
        let test = module_name("src/test/java/port/FeeTest.java").expect("a module");
        let import = import_of_free(&test, "Fee").expect("an import");
        assert!(resolve(&test, &import).contains(&"src/main/java/port/Fee.java".to_string()));
        let other = import_of_free(&test, "port.tides.Table").expect("an import");
        assert!(resolve(&test, &other).contains(&"src/main/java/port/tides/Table.java".to_string()));
        let bare = module_name("Fee.java").expect("a module");
        let import = import_of_free(&bare, "Berth").expect("an import");
        assert_eq!(resolve(&bare, &import), ["Berth.java"]);
        let other = module_name("store/port/cold/Desk.java").expect("a module");
        let import = import_of_free(&other, "port.cold.Room").expect("an import");
        assert!(resolve(&other, &import).contains(&"store/port/cold/Room.java".to_string()));
    }

    #[test]
    fn settings_name_classes_and_members() {
        let forms = |path: &str, name: &str| named_in_settings(&module_name(path).expect("a module"), name).join(" ");
        let class = forms("src/main/java/port/Ship.java", "Ship");
        assert_eq!(class, "port.Ship port/Ship port$Ship port#Ship port::Ship Ship.java");
        assert!(forms("src/main/java/port/Ship.java", "turn").starts_with("Ship.turn Ship/turn Ship$turn"));
        // one without a package has only its file
        assert_eq!(forms("Ship.java", "Ship"), "Ship.java");
    }
}
