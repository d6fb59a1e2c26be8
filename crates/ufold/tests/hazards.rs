//! Every kind of thing that a plan must not believe without proof has its two cases in each language in which it happens:
//! one that is refused, told or handled, and beside it one that works. The table is `cases/hazards.txt`.

mod common;

use std::collections::BTreeMap;
use std::fs;
use std::path::Path;

use common::load;

const LANGUAGES: [&str; 4] = ["python", "javascript", "typescript", "java"];

/// What the cases of a language expect, by their names.
fn expected() -> BTreeMap<(String, String), Vec<String>> {
    let dir = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/cases");
    let mut out: BTreeMap<_, Vec<String>> = BTreeMap::new();
    for file in fs::read_dir(dir).expect("the folder of cases").flatten() {
        let file = file.file_name().to_string_lossy().to_string();
        let stem = file.trim_end_matches(".txt");
        let Some(language) = LANGUAGES.iter().find(|l| stem == **l || stem.starts_with(&format!("{l}_"))) else {
            continue;
        };
        for case in load(&file) {
            out.entry((language.to_string(), case.name.clone())).or_default().push(case.get("expect").to_string());
        }
    }
    out
}

#[test]
fn every_kind_has_its_two_cases() {
    let cases = expected();
    let path = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/cases/hazards.txt");
    let table = fs::read_to_string(path).expect("the table");
    let mut wrong = Vec::new();
    for section in table.split("\n## ").skip(1) {
        let (kind, lines) = section.split_once('\n').expect("lines below a kind");
        let mut told: Vec<&str> = Vec::new();
        for line in lines.lines() {
            let (language, rest) = line.split_once(' ').expect("a language first");
            told.push(language);
            let of = |name: &str| cases.get(&(language.to_string(), name.trim().to_string()));
            let works = |name: &str| of(name).is_some_and(|all| all.iter().any(|e| e == "ready"));
            let right = match rest.split_at(1) {
                ("|", pair) => pair.split_once('|').is_some_and(|(first, second)| of(first).is_some() && works(second)),
                ("+", name) => works(name),
                ("-", why) => why.trim().len() > 10,
                _ => false,
            };
            if !right {
                wrong.push(format!("{kind}: {line}"));
            }
        }
        let missing = LANGUAGES.iter().filter(|l| **l != "typescript" && !told.contains(l));
        let optional = kind.starts_with("Ordinary") || told.iter().all(|l| ["typescript", "java"].contains(l));
        wrong.extend(missing.filter(|_| !optional).map(|l| format!("{kind}: nothing of {l}")));
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}
