//! Sources spoiled by bytes, tokens and splices, and steps at random places in them: nothing panics, whatever is planned.
//!
//! `UFOLD_FUZZ=200000 cargo test -p ufold-core --release --test fuzz` tries so many inputs of each language; `UFOLD_SEED`
//! sets where to begin. What fails is printed with its seed.

use std::cell::RefCell;
use std::collections::BTreeMap;
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::path::Path;
use std::sync::Arc;

use rayon::prelude::*;
use ufold_core::change::{Code, Place, place_of};
use ufold_core::find::{FileFacts, Options, facts, scan};
use ufold_core::index::{Project, Sources, name_at, value_at};
use ufold_core::lang;
use ufold_core::plan::{Wishes, resolve};
use ufold_core::step::{ExtractRequest, FoldRequest, InlineRequest, ParamRequest, RenameRequest, Request, plan};
use ufold_core::text::Span;
use ufold_core::tree::parse;

/// Small numbers one after the other (Steele, Lea, Flood: Fast Splittable Pseudorandom Number Generators, 2014).
struct Random(u64);

impl Random {
    fn next(&mut self) -> u64 {
        self.0 = self.0.wrapping_add(0x9e37_79b9_7f4a_7c15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
        z ^ (z >> 31)
    }
    fn below(&mut self, n: usize) -> usize {
        (self.next() % n.max(1) as u64) as usize
    }
}

thread_local! {
    /// Where the last fault of a thread was.
    static PLACE: RefCell<String> = const { RefCell::new(String::new()) };
}

/// A project in memory.
struct Files(BTreeMap<String, Arc<str>>);

impl Sources for Files {
    fn text(&self, path: &str) -> Result<Arc<str>, String> {
        self.0.get(path).cloned().ok_or_else(|| "not there".into())
    }
}

/// Programs of the case files, by their extension.
fn seeds(extension: &str) -> Vec<String> {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../ufold/tests/cases");
    let mut out = Vec::new();
    for f in std::fs::read_dir(folder).expect("the cases are there").flatten() {
        let text = std::fs::read_to_string(f.path()).expect("text");
        for part in text.split("\n--- ").skip(1) {
            let (name, body) = part.split_once('\n').unwrap_or((part, ""));
            if name.trim().ends_with(extension) {
                out.push(body.split("\n=== ").next().unwrap_or("").to_string());
            }
        }
    }
    assert!(out.len() > 10, "cases of {extension}");
    out
}

fn boundary(text: &str, mut at: usize) -> usize {
    while !text.is_char_boundary(at) {
        at -= 1;
    }
    at
}

/// A piece between two places.
fn piece(r: &mut Random, text: &str, most: usize) -> (usize, usize) {
    let a = boundary(text, r.below(text.len() + 1));
    let z = boundary(text, (a + r.below(most)).min(text.len()));
    (a, z.max(a))
}

const TOKENS: &[&str] = &[
    "(",
    ")",
    "{",
    "}",
    "[",
    "]",
    "\"",
    "'",
    "`",
    "${",
    "/*",
    "*/",
    "//",
    "#",
    ":",
    ";",
    ",",
    "=",
    "=>",
    "\n",
    "\r",
    "\r\n",
    "\t",
    "    ",
    "if ",
    "else",
    "for ",
    "def ",
    "class ",
    "return ",
    "lambda ",
    "async ",
    "await ",
    "yield ",
    "function ",
    "=",
    "...",
    "**",
    "?.",
    "<A>",
    "é",
    "\u{feff}",
    "0x",
    "1e",
    "\\",
    "@",
    "match ",
    "case ",
    "try:",
    "finally",
    "switch (x) {",
    "with ",
];

fn spoil(r: &mut Random, seeds: &[String]) -> String {
    let mut text = seeds[r.below(seeds.len())].clone();
    for _ in 0..1 + r.below(5) {
        match r.below(5) {
            0 => {
                let (a, z) = piece(r, &text, 12);
                text.replace_range(a..z, "");
            }
            1 => {
                let a = boundary(&text, r.below(text.len() + 1));
                text.insert_str(a, TOKENS[r.below(TOKENS.len())]);
            }
            2 => {
                let other = &seeds[r.below(seeds.len())];
                let (a, z) = piece(r, other, 300);
                let at = boundary(&text, r.below(text.len() + 1));
                text.insert_str(at, &other[a..z]);
            }
            3 => {
                let (a, z) = piece(r, &text, 200);
                let copy = text[a..z].to_string();
                let at = boundary(&text, r.below(text.len() + 1));
                text.insert_str(at, &copy);
            }
            _ => {
                let a = boundary(&text, r.below(text.len() + 1));
                let c = char::from_u32(r.below(0x300) as u32).unwrap_or('x');
                text.insert(a, c);
            }
        }
    }
    text
}

/// All that can be asked about two files, at a few random places.
fn ask(r: &mut Random, extension: &str, seeds: &[String]) {
    let names = [format!("main.{extension}"), format!("fees.{extension}")];
    let texts = [spoil(r, seeds), if r.below(2) == 0 { seeds[r.below(seeds.len())].clone() } else { spoil(r, seeds) }];
    let files = Files(names.iter().cloned().zip(texts.map(Arc::from)).collect());
    let of = |path: &String| -> Option<FileFacts> {
        let language = lang::for_path(path)?;
        let text = &files.0[path];
        let tree = parse(text, language).ok()?;
        Some(facts(path, text, &tree, language))
    };
    let all: Vec<FileFacts> = names.iter().filter_map(of).collect();
    let options = Options { smallest: 8, ..Options::default() };
    let findings = scan(&all, &options);
    let project = Project::new(&all, &files);
    let answered = |request: Request| {
        let p = plan(&project, &request);
        if let Some(x) = p.result.reasons.iter().find(|x| x.code == Code::Internal) {
            panic!("{request:?}: {}", x.message);
        }
    };
    for f in findings.iter().take(3) {
        let copies = f.copies.iter().map(|c| Place {
            file: all[c.file].path.clone(),
            start_line: c.lines.0 as usize,
            end_line: c.lines.1 as usize,
            start_byte: c.bytes.0 as usize,
            end_byte: c.bytes.1 as usize,
        });
        let request = FoldRequest { finding: f.id.clone(), copies: copies.collect(), ..FoldRequest::default() };
        answered(Request::Fold(request));
    }
    for _ in 0..3 {
        let Some(file) = project.index(&names[r.below(2)]) else { continue };
        let Ok(s) = project.source(file) else { continue };
        let (a, z) = piece(r, &s.text, 160);
        let (name, finding) = (["fee", "total", "x"][r.below(3)].to_string(), String::new());
        let extract = |span: Span| {
            let function = Wishes { name: Some(name.clone()), ..Wishes::default() };
            let copies = vec![place_of(&s, span)];
            answered(Request::Extract(ExtractRequest { copies, function, ..ExtractRequest::default() }));
        };
        if let Ok(span) = resolve(&s, Span::new(a, z)) {
            extract(span);
        }
        extract(Span::new(a, z));
        if let Some(span) = value_at(&s, a) {
            let (place, name, finding) = (place_of(&s, span), name.clone(), finding.clone());
            answered(Request::Param(ParamRequest { finding, place, name, all_equal: false }));
            extract(span);
        }
        if let Some(span) = name_at(&s, a) {
            let place = place_of(&s, span);
            let (finding, own) = (finding.clone(), place.clone());
            answered(Request::Rename(RenameRequest { finding, place: own, name: name.clone() }));
            answered(Request::Inline(InlineRequest {
                finding: String::new(),
                place,
                except: Vec::new(),
                slide: false,
            }));
        }
    }
}

#[test]
fn spoiled_sources_get_answers() {
    let number = |name: &str, or: u64| std::env::var(name).ok().and_then(|v| v.parse().ok()).unwrap_or(or);
    let (count, first) = (number("UFOLD_FUZZ", 300), number("UFOLD_SEED", 1));
    std::panic::set_hook(Box::new(|info| {
        let at = info.location().map(|l| l.to_string()).unwrap_or_default();
        if !at.contains("fuzz.rs") {
            PLACE.with(|p| *p.borrow_mut() = at);
        }
    }));
    let mut failures: BTreeMap<String, String> = BTreeMap::new();
    for extension in ["py", "js", "ts", "tsx"] {
        eprintln!("{count} inputs of .{extension} from seed {first}");
        let seeds = seeds(if extension == "tsx" { ".ts" } else { extension });
        let failed: Vec<(u64, String)> = (first..first + count)
            .into_par_iter()
            .filter_map(|seed| {
                let run = catch_unwind(AssertUnwindSafe(|| ask(&mut Random(seed), extension, &seeds)));
                let text = |p: Box<dyn std::any::Any + Send>| {
                    p.downcast::<String>()
                        .map_or_else(|p| p.downcast::<&str>().map_or(String::new(), |s| s.to_string()), |s| *s)
                };
                run.err().map(|p| (seed, format!("{} at {}", text(p), PLACE.with(|p| p.borrow().clone()))))
            })
            .collect();
        for (seed, text) in failed {
            // one of each place is enough to look at
            let place = text.split(" at ").last().unwrap_or("").to_string();
            failures.entry(place).or_insert(format!("{extension} UFOLD_SEED={seed}: {text}"));
        }
    }
    let _ = std::panic::take_hook();
    let list: Vec<String> = failures.into_values().collect();
    assert!(list.is_empty(), "{} kinds of panic:\n{}", list.len(), list.join("\n"));
}
