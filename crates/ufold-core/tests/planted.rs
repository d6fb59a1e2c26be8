//! Copies planted in made-up code, by what was changed in them: so many must be found, so that none of it falls unseen.
//! Benchmarks tell of real code; here every function is made of a few templates, which makes copies harder to tell apart.

use ufold_core::find::{Copy, FileFacts, Options, facts, scan};
use ufold_core::{lang, tree};

/// Numbers that are the same in each run.
struct Dice(u64);

impl Dice {
    fn roll(&mut self, below: usize) -> usize {
        self.0 = self.0.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (self.0 >> 33) as usize % below
    }

    fn pick<'a>(&mut self, list: &[&'a str]) -> &'a str {
        list[self.roll(list.len())]
    }
}

const NOUNS: &[&str] =
    &["berth", "crane", "tide", "ship", "pilot", "quay", "buoy", "lock", "notice", "harbour", "cargo", "load"];
const MEMBERS: &[&str] =
    &["length", "depth", "level", "owner", "tons", "hours", "rate", "draught", "name", "flag", "due", "paid"];

/// Statements with `a`, `b` for locals, `M`, `N` for members, `F` for a function, `K` for a number.
const FORMS: &[&str] = &[
    "a = b.M + K",
    "a = F(b.M, b.N)",
    "if b.M > K:\n    a = a - b.N",
    "for row in b.M:\n    a += row.N * K",
    "b.M.append(F(a))",
    "print('M', b.N, a)",
    "while a > K:\n    a = F(a)\n    b.M = a",
    "try:\n    a = F(b)\nexcept ValueError:\n    a = K",
    "b.M = a % K",
    "if not b.M:\n    F(b.N, a)\nelse:\n    a = K",
    "a = sorted(b.M, key=lambda row: row.N)",
    "assert a != K, b.M",
];

fn statement(d: &mut Dice) -> String {
    let form = d.pick(FORMS);
    let mut out = String::new();
    for c in form.chars() {
        match c {
            'M' | 'N' => out.push_str(d.pick(MEMBERS)),
            'F' => out.push_str(&format!("{}_{}", d.pick(NOUNS), d.pick(MEMBERS))),
            'K' => out.push_str(&d.roll(90).to_string()),
            c => out.push(c),
        }
    }
    out
}

fn function(d: &mut Dice) -> Vec<String> {
    (0..9).map(|_| statement(d)).collect()
}

fn written(name: &str, statements: &[String], locals: [&str; 2]) -> String {
    let body: String = statements.iter().flat_map(|s| s.lines()).map(|l| format!("    {l}\n")).collect();
    let renamed = body.replace(" a ", &format!(" {} ", locals[0]));
    let word = |text: String, from: &str, to: &str| {
        let mut out = String::new();
        let mut rest = text.as_str();
        while let Some(i) = rest.find(from) {
            let part = |c: Option<char>| c.is_some_and(|c| c.is_alphanumeric() || c == '_');
            let (before, after) = (rest[..i].chars().next_back(), rest[i + 1..].chars().next());
            out.push_str(&rest[..i]);
            out.push_str(if part(before) || part(after) { from } else { to });
            rest = &rest[i + 1..];
        }
        out + rest
    };
    let body = word(word(renamed, "a", locals[0]), "b", locals[1]);
    format!("def {name}({}, {}):\n{body}    return {}\n\n\n", locals[0], locals[1], locals[0])
}

/// What is done to a copy.
fn changed(kind: &str, original: &[String], d: &mut Dice) -> Vec<String> {
    let mut out = original.to_vec();
    let at = 1 + d.roll(out.len() - 2);
    match kind {
        "values" => out.iter_mut().for_each(|s| *s = s.replace("> ", "> 1").replace("% ", "% 2")),
        "one statement more" => out.insert(at, statement(d)),
        "one statement less" => drop(out.remove(at)),
        "two statements others" => {
            out[at] = statement(d);
            let other = d.roll(out.len());
            out[other] = statement(d);
        }
        "neighbours swapped" => out.swap(at, at - 1),
        "foreign ones inside" => (0..3).for_each(|_| out.insert(at, statement(d))),
        _ => {}
    }
    out
}

/// The lines of each function of a text, by name.
fn ranges(text: &str) -> Vec<(String, (u32, u32))> {
    let mut out: Vec<(String, (u32, u32))> = Vec::new();
    for (i, l) in text.lines().enumerate() {
        let line = i as u32 + 1;
        if let Some(rest) = l.strip_prefix("def ") {
            out.push((rest.split('(').next().unwrap_or("").to_string(), (line, line)));
        } else if let (Some((_, range)), false) = (out.last_mut(), l.is_empty()) {
            range.1 = line;
        }
    }
    out
}

const KINDS: &[(&str, f64)] = &[
    ("nothing", 1.0),
    ("values", 1.0),
    ("one statement more", 0.95),
    ("one statement less", 0.95),
    ("two statements others", 0.9),
    ("neighbours swapped", 0.95),
    ("foreign ones inside", 0.9),
];

/// Pairs of each kind.
const PAIRS: usize = 20;

#[test]
fn so_many_planted_copies_are_found() {
    let mut d = Dice(7);
    let mut texts = [String::new(), String::new(), String::new()];
    for (k, (kind, _)) in KINDS.iter().enumerate() {
        for n in 0..PAIRS {
            let original = function(&mut d);
            let copy = changed(kind, &original, &mut d);
            let renamed = if n % 2 == 0 { ["total", "item"] } else { ["a", "b"] };
            texts[n % 3].push_str(&written(&format!("own_{k}_{n}"), &original, ["a", "b"]));
            texts[(n + 1) % 3].push_str(&written(&format!("copy_{k}_{n}"), &copy, renamed));
            // code that is like nothing else
            texts[(n + 2) % 3].push_str(&written(&format!("other_{k}_{n}"), &function(&mut d), ["a", "b"]));
        }
    }
    let python = lang::by_name("python").expect("a language");
    let fact =
        |(i, t): (usize, &String)| facts(&format!("f{i}.py"), t, &tree::parse(t, python).expect("it parses"), python);
    let files: Vec<FileFacts> = texts.iter().enumerate().map(fact).collect();
    let findings = scan(&files, &Options::default());
    let places: Vec<Vec<(String, (u32, u32))>> = texts.iter().map(|t| ranges(t)).collect();
    let place = |name: &str| {
        let found = places.iter().enumerate().flat_map(|(i, all)| all.iter().map(move |(n, r)| (n, i, *r)));
        found.filter(|(n, ..)| *n == name).map(|(_, i, r)| (i, r)).next().expect("it was written")
    };
    let covers = |c: &Copy, (file, (from, to)): (usize, (u32, u32))| {
        let common = i64::from(c.lines.1.min(to)) + 1 - i64::from(c.lines.0.max(from));
        c.file == file && common as f64 >= 0.7 * f64::from(to + 1 - from)
    };
    for (k, (kind, least)) in KINDS.iter().enumerate() {
        let is_found = |n: &usize| {
            let (own, copy) = (place(&format!("own_{k}_{n}")), place(&format!("copy_{k}_{n}")));
            findings.iter().any(|f| f.copies.iter().any(|c| covers(c, own)) && f.copies.iter().any(|c| covers(c, copy)))
        };
        let found = (0..PAIRS).filter(is_found).count();
        assert!(found as f64 >= least * PAIRS as f64, "{kind}: {found} of {PAIRS}");
    }
    let others = |c: &Copy| places[c.file].iter().any(|(n, r)| n.starts_with("other_") && covers(c, (c.file, *r)));
    // of a few templates some rows are half alike by chance; none is nearly the same
    let wrong = findings.iter().filter(|f| !f.is_file() && f.similarity >= 0.75 && f.copies.iter().any(others)).count();
    assert_eq!(wrong, 0, "findings that hold a function which is like no other");
}
