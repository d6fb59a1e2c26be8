//! The house keeps its order: folders use those above them, files do not use each other in circles, languages are named
//! in lang/ alone, and nothing grows too long.

use std::collections::{BTreeMap, BTreeSet};
use std::path::{Path, PathBuf};

use regex::Regex;

/// Folders of the core, each using only those before it; what stands beside them uses nothing of the core but texts.
const ORDER: &[&str] =
    &["text", "tree", "names", "types", "lang", "change", "find", "index", "flow", "align", "audit", "plan", "step"];

/// A tree is made, and a source read, by the language that it carries.
const CARRY_THEIR_LANGUAGE: &[&str] = &["tree", "names"];

/// Lines of a file.
const LONGEST: usize = 600;

fn files(folder: &Path, out: &mut Vec<PathBuf>) {
    for entry in std::fs::read_dir(folder).expect("the folder is there") {
        let path = entry.expect("an entry").path();
        if path.is_dir() {
            files(&path, out);
        } else if path.extension().is_some_and(|e| e == "rs") {
            out.push(path);
        }
    }
}

/// Modules of the core by their path, with the code that is no test and no comment.
fn modules() -> BTreeMap<Vec<String>, String> {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("src");
    let mut all = Vec::new();
    files(&root, &mut all);
    let noise = Regex::new(r"(?ms)//[^\n]*|^#\[cfg\(test\)\]\s*(mod \w+;|mod \w+ \{.*?^\}\n)").expect("a pattern");
    let of_tests = |p: &Path| {
        let p = p.strip_prefix(&root).expect("found there");
        let within = p.components().any(|c| c.as_os_str() == "tests");
        within
            || p.file_stem().is_some_and(|s| s == "memory" || s == "hostile" || s.to_string_lossy().ends_with("tests"))
    };
    all.retain(|p| !of_tests(p));
    let module = |path: PathBuf| {
        let inside = path.strip_prefix(&root).expect("found there").with_extension("");
        let parts: Vec<String> = inside.iter().map(|p| p.to_string_lossy().into_owned()).collect();
        let parts = parts.into_iter().filter(|p| p != "mod" && p != "lib").collect();
        (parts, noise.replace_all(&std::fs::read_to_string(path).expect("a source"), "").into_owned())
    };
    all.into_iter().map(module).collect()
}

/// The paths that a tree of imports names.
fn leaves(tree: &str, before: &str, out: &mut Vec<String>) {
    let tree = tree.trim();
    let Some((head, rest)) = tree.split_once('{') else {
        out.push(format!("{before}{}", tree.split(" as ").next().unwrap_or(tree)));
        return;
    };
    let (mut depth, mut from) = (0, 0);
    let inner = rest.trim_end().trim_end_matches('}');
    for (i, c) in inner.char_indices().chain([(inner.len(), ',')]) {
        depth += i32::from(c == '{') - i32::from(c == '}');
        if c == ',' && depth == 0 {
            if !inner[from..i].trim().is_empty() {
                leaves(&inner[from..i], &format!("{before}{head}"), out);
            }
            from = i + 1;
        }
    }
}

struct House {
    modules: BTreeMap<Vec<String>, String>,
    /// Names that a module passes on, with their paths.
    passed_on: BTreeMap<Vec<String>, BTreeMap<String, Vec<String>>>,
}

impl House {
    fn new() -> House {
        let mut house = House { modules: modules(), passed_on: BTreeMap::new() };
        let public = Regex::new(r"(?m)^pub(?:\([a-z]+\))? use ([^;]*);").expect("a pattern");
        for (own, text) in &house.modules {
            let mut all = Vec::new();
            public.captures_iter(text).for_each(|c| leaves(&c[1], "", &mut all));
            let paths = all.iter().filter_map(|p| house.absolute(own, p));
            let names = paths.filter_map(|p| Some((p.last()?.clone(), p.clone()))).collect();
            house.passed_on.insert(own.clone(), names);
        }
        house
    }

    /// A path as seen from the core's root; none for what is no path of the core.
    fn absolute(&self, own: &[String], path: &str) -> Option<Vec<String>> {
        let parts: Vec<String> = path.split("::").map(str::to_string).collect();
        let up = parts.iter().take_while(|p| *p == "super").count();
        let from = |base: &[String], skip: usize| Some([base, &parts[skip..]].concat());
        match parts[0].as_str() {
            "crate" => from(&[], 1),
            "self" => from(own, 1),
            "super" => from(&own[..own.len().saturating_sub(up)], up),
            child => self.modules.contains_key(&[own, &[child.to_string()]].concat()).then(|| from(own, 0)).flatten(),
        }
    }

    /// The module that defines what a path names.
    fn home(&self, path: &[String]) -> Option<Vec<String>> {
        let module = (0..=path.len()).rev().map(|n| &path[..n]).find(|p| self.modules.contains_key(*p))?;
        let further = path.get(module.len()).and_then(|name| self.passed_on[module].get(name));
        match further.filter(|p| p.as_slice() != path) {
            Some(p) => self.home(p),
            None => Some(module.to_vec()),
        }
    }

    /// Of each module, those that it uses, its own parents not counted.
    fn uses(&self) -> BTreeMap<&Vec<String>, BTreeSet<Vec<String>>> {
        let imports = Regex::new(r"(?m)^\s*use ([^;]*);").expect("a pattern");
        let public = Regex::new(r"(?m)^\s*pub(?:\([a-z]+\))? use [^;]*;").expect("a pattern");
        let path = Regex::new(r"\b[a-z_]+(?:::\w+)+").expect("a pattern");
        let of = |own: &Vec<String>, text: &str| {
            let text = public.replace_all(text, "");
            let mut all = Vec::new();
            imports.captures_iter(&text).for_each(|c| leaves(&c[1], "", &mut all));
            all.extend(path.find_iter(&imports.replace_all(&text, "")).map(|m| m.as_str().to_string()));
            let homes = all.iter().filter_map(|p| self.home(&self.absolute(own, p)?));
            homes.filter(|h| !own.starts_with(h)).collect()
        };
        self.modules.iter().map(|(own, text)| (own, of(own, text))).collect()
    }
}

#[test]
fn folders_use_those_above_them() {
    let place = |m: &[String]| ORDER.iter().position(|o| m.first().is_some_and(|f| f == o));
    let house = House::new();
    assert!(house.modules.len() > 100 && house.modules.contains_key(&vec!["step".into(), "rename".into()]));
    let mut wrong = Vec::new();
    for (own, used) in house.uses() {
        for u in used.iter().filter(|u| !u.is_empty() && u[0] != own[0]) {
            let carried = *u == ["lang"] && CARRY_THEIR_LANGUAGE.contains(&own[0].as_str());
            let fits = match (place(own), place(u)) {
                (Some(a), Some(b)) => b < a || carried,
                (None, Some(b)) => b == 0,
                (_, None) => false,
            };
            if !fits {
                wrong.push(format!("{} uses {}", own.join("::"), u.join("::")));
            }
        }
    }
    assert!(wrong.is_empty(), "{wrong:#?}");
}

#[test]
fn files_do_not_use_each_other_in_circles() {
    let house = House::new();
    let mut left = house.uses();
    for (own, used) in &mut left {
        used.retain(|u| !(*u == ["lang"] && CARRY_THEIR_LANGUAGE.contains(&own.first().map_or("", String::as_str))));
    }
    // what uses nothing that is left is in no circle
    loop {
        let before = left.len();
        let names: BTreeSet<Vec<String>> = left.keys().map(|k| k.to_vec()).collect();
        left.retain(|_, used| used.iter().any(|u| names.contains(u)));
        if left.len() == before {
            break;
        }
    }
    let circle: Vec<String> = left.keys().map(|k| k.join("::")).collect();
    assert!(circle.is_empty(), "in a circle, or using one: {circle:#?}");
}

#[test]
fn languages_are_named_by_themselves_alone() {
    let names = Regex::new(r#""(python|javascript|typescript|java|\.?(py|js|mjs|ts|tsx))""#).expect("a pattern");
    let named = |(own, text): (&Vec<String>, &String)| {
        let outside = own.first().is_some_and(|f| f != "lang");
        outside.then(|| names.find(text).map(|m| format!("{} in {}", m.as_str(), own.join("::")))).flatten()
    };
    let found: Vec<String> = modules().iter().filter_map(named).collect();
    assert!(found.is_empty(), "{found:#?}");
}

#[test]
fn no_file_is_too_long() {
    let mut all = Vec::new();
    files(&Path::new(env!("CARGO_MANIFEST_DIR")).join(".."), &mut all);
    all.retain(|p| !p.components().any(|c| c.as_os_str() == "target"));
    let lines = |p: &PathBuf| std::fs::read_to_string(p).expect("a source").lines().count();
    let long: Vec<_> = all.iter().map(|p| (p, lines(p))).filter(|(_, n)| *n > LONGEST).collect();
    assert!(long.is_empty(), "{long:#?}");
}
