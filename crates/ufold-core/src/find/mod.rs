//! Finding what is worth changing: copies ([`repeats`]) and overlong functions, in the order worth doing them.
//!
//! Works on [`FileFacts`] only: hashes and ranges, taken from each tree as it is parsed. Nothing here knows whether a
//! finding can be folded; that is planning.

mod calculations;
pub(crate) mod carried;
pub(crate) mod classes;
mod clutter;
mod expressions;
mod facts;
mod gaps;
pub mod history;
mod imported;
pub mod ledger;
mod made;
pub mod map;
mod measures;
mod members;
mod near;
pub mod paths;
mod repeats;
mod rows;
mod series;
pub mod shares;
mod suffix;
pub mod twin_folders;
pub mod twins;

pub use carried::is_carried;
pub use classes::{ClassFact, MemberFact};
pub use clutter::Clutter;
pub use expressions::worth_of_expression;
pub use facts::{BlockFact, FileFacts, FunctionFact, StatementFact, facts, word_hash};
pub use imported::ImportFact;
pub use made::bundles;
pub use measures::Measures;

use std::hash::BuildHasher;

use serde::{Deserialize, Serialize};

#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Kind {
    #[default]
    Repeat,
    /// Copies side by side, which want a loop.
    Series,
    /// The same members in several classes, which want a base.
    Members,
    /// Files that are mostly copies of each other, which are folded piece by piece.
    Twins,
    Long,
    Clutter,
}

impl Kind {
    /// It is made of copies.
    pub fn has_copies(self) -> bool {
        matches!(self, Kind::Repeat | Kind::Series | Kind::Members)
    }
    /// Folding takes lines away, of its own copies or piece by piece.
    pub fn is_worth_lines(self) -> bool {
        self.has_copies() || self == Kind::Twins
    }
    pub fn word(self) -> &'static str {
        match self {
            Kind::Repeat => "repeat",
            Kind::Series => "series",
            Kind::Members => "members",
            Kind::Twins => "twins",
            Kind::Long => "long",
            Kind::Clutter => "clutter",
        }
    }
}

/// One of the places of a finding.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Copy {
    /// Index of the file among those scanned.
    pub file: usize,
    /// Lines from 1, inclusive.
    pub lines: (u32, u32),
    pub bytes: (u32, u32),
    /// The function around it, as `Class.method`.
    pub within: Option<String>,
}

impl Copy {
    /// Whether the other lies in this one.
    pub fn covers(&self, other: &Copy) -> bool {
        self.file == other.file && self.bytes.0 <= other.bytes.0 && other.bytes.1 <= self.bytes.1
    }
}

/// Lines of the longest copy.
pub fn longest(copies: &[Copy]) -> Option<u32> {
    copies.iter().map(|c| (c.lines.1 + 1).saturating_sub(c.lines.0)).max()
}

#[derive(Clone, Debug, Default, Serialize, Deserialize)]
pub struct Finding {
    pub id: String,
    pub kind: Kind,
    pub copies: Vec<Copy>,
    /// All of each copy, where a plan folds only a part of them and `copies` tells that part.
    pub whole: Vec<Copy>,
    /// Code lines of the longest copy.
    pub lines: u32,
    /// Lines that folding would save, estimated.
    pub saves: i64,
    /// Distinct columns of differences that are no mere renaming of a local.
    pub holes: u32,
    /// Share of the leaves that are equal or consistently renamed, 0 to 1.
    pub similarity: f64,
    /// Of an overlong function.
    pub measures: Option<Measures>,
    /// Under the smallest size, found because it is near and alike: worth telling when its plan is ready and saves lines.
    pub small: bool,
    /// Found by likeness.
    pub near: bool,
    /// Some statements stand in one copy and not in another.
    pub drifted: bool,
    /// Of copies that are expressions the names, members and literals of each; 0 where they are statements.
    pub expression: u32,
    /// Of twin folders: which these are; the copies are their twin files.
    pub folders: Vec<String>,
}

impl Finding {
    /// An overlong file, not a function of one.
    pub fn is_file(&self) -> bool {
        self.kind == Kind::Long && self.measures.is_none()
    }
}

#[derive(Clone, Copy, Debug)]
pub struct Options {
    /// Smallest copy, in leaves of the tree that are neither data nor plain declarations.
    pub smallest: u32,
    /// The same for copies that are nearly the same and cost more lines than their function.
    pub smallest_near: u32,
    /// Fewest lines of a copy.
    pub fewest_lines: u32,
    /// What a function may have at most without being a finding: code lines,
    pub longest: u32,
    /// structures inside each other,
    pub deepest: u32,
    /// cognitive complexity,
    pub most_complex: u32,
    /// parameters,
    pub most_parameters: u32,
    /// and names alive at once.
    pub most_names: u32,
    /// Code lines that a file may have without being named.
    pub longest_file: u32,
}

impl Default for Options {
    fn default() -> Self {
        Self {
            smallest: 20,
            smallest_near: 6,
            fewest_lines: 3,
            longest: 40,
            deepest: 5,
            most_complex: 25,
            most_parameters: 7,
            most_names: 14,
            longest_file: 1000,
        }
    }
}

impl Options {
    /// Why a function is a finding, in plain words; none when it is not. What only defines others is judged by these.
    pub fn too_much(&self, m: &Measures) -> Vec<String> {
        let wraps = m.is_wrapper();
        let limits = [
            (m.code_lines, self.longest, "lines"),
            (m.cognitive, self.most_complex, "cognitive complexity"),
            (m.nesting, self.deepest, "levels of nesting"),
            (m.parameters, self.most_parameters, "parameters"),
            (m.names_alive, self.most_names, "names alive at once"),
        ];
        let words = |(n, most, what): &(u32, u32, &str)| match *what {
            "cognitive complexity" => format!("{what} {n} (over {most})"),
            _ => format!("{n} {what} (over {most})"),
        };
        let counts = |what: &str| what == "parameters" || !wraps;
        limits.iter().filter(|(n, most, what)| n > most && counts(what)).map(words).collect()
    }

    /// The least that a small copy has; who asks for larger ones gets those.
    fn least(&self, small: u32) -> u32 {
        if self.smallest > Options::default().smallest { self.smallest } else { self.smallest.min(small) }
    }

    /// For code that a person points at: two short statements are enough.
    pub fn pointed_at(self) -> Self {
        Self { smallest: self.smallest.min(4), smallest_near: self.smallest_near.min(4), fewest_lines: 2, ..self }
    }
}

/// All findings, those that save most first.
pub fn scan(files: &[FileFacts], options: &Options) -> Vec<Finding> {
    let (mut found, pairs) = rayon::join(|| repeats::repeats(files, options), || near::pairs(files, options));
    found.extend(pairs.groups(files, options, &found));
    // a statement without a text of its own, in code that lacks something
    for (_, f) in &mut found {
        f.copies.retain(|c| c.bytes.0 < c.bytes.1 && c.lines.0 <= c.lines.1);
    }
    found.retain(|(_, f)| f.copies.len() > 1);
    series::found(files, &mut found);
    let expressions = expressions::repeated(files, &found);
    found.extend(expressions);
    found.extend(members::repeated(files));
    for (i, f) in files.iter().enumerate() {
        for fun in f.functions.iter().filter(|fun| !options.too_much(&fun.measures).is_empty()) {
            found.push((
                fun.exact,
                Finding {
                    kind: Kind::Long,
                    copies: vec![Copy { file: i, lines: fun.lines, bytes: fun.bytes, within: Some(fun.name.clone()) }],
                    lines: fun.measures.code_lines,
                    similarity: 1.0,
                    measures: Some(fun.measures),
                    ..Finding::default()
                },
            ));
        }
    }
    found.extend(files.iter().enumerate().filter_map(|(i, f)| overlong_file(i, f, options)));
    let order = |f: &Finding| {
        let first = &f.copies[0];
        // of what grew apart first what was surely one; tests after what they test
        let worth = if f.drifted { (f.saves as f64 * (f.similarity - 0.4).max(0.0)) as i64 } else { f.saves };
        let worth = if only_tests(f, files) { worth / TESTS_COUNT } else { worth };
        (!f.kind.has_copies(), f.drifted, -worth, -i64::from(f.lines), files[first.file].path.clone(), first.bytes)
    };
    found.sort_by_cached_key(|(_, f)| order(f));
    let mut used = rustc_hash::FxHashSet::default();
    found
        .into_iter()
        .map(|(content, mut f)| {
            let mut h = content;
            loop {
                f.id = id(f.kind, h);
                if used.insert(f.id.clone()) {
                    return f;
                }
                h = crate::tree::mix(h.wrapping_add(1));
            }
        })
        .collect()
}

/// A file of too many lines, when something in it could have a file of its own.
fn overlong_file(file: usize, f: &FileFacts, options: &Options) -> Option<(u64, Finding)> {
    let last = f.statements.iter().max_by_key(|s| s.bytes.1)?;
    if f.code_lines <= options.longest_file || f.functions.len() < 2 || paths::is_test(&f.path) {
        return None;
    }
    let copies = vec![Copy { file, lines: (1, last.lines.1), bytes: (0, last.bytes.1), within: None }];
    let finding = Finding { kind: Kind::Long, copies, lines: f.code_lines, similarity: 1.0, ..Finding::default() };
    Some((u64::from(word_hash(&f.path)), finding))
}

/// A share to three places.
fn rounded(share: f64) -> f64 {
    (share * 1000.0).round() / 1000.0
}

/// All copies stand in tests.
pub fn only_tests(f: &Finding, files: &[FileFacts]) -> bool {
    f.copies.iter().all(|c| paths::is_test(&files[c.file].path))
}

/// How many lines of tests are worth one of other code.
const TESTS_COUNT: i64 = 3;

/// The id of what a text tells apart.
pub fn id_of_text(letter: char, text: &str) -> String {
    let hash = rustc_hash::FxBuildHasher.hash_one(text);
    format!("{letter}{}", &id(Kind::Repeat, crate::tree::mix(hash))[1..])
}

/// Whether a text has the form of such an id.
pub fn is_id_of(letter: char, text: &str) -> bool {
    text.strip_prefix(letter).is_some_and(|rest| rest.len() == 5 && rest.bytes().all(|b| ALPHABET.contains(&b)))
}

const ALPHABET: &[u8; 32] = b"0123456789abcdefghjkmnpqrstvwxyz";

/// The kind's letter and five characters of a hash.
fn id(kind: Kind, hash: u64) -> String {
    let mut out = kind.word()[..1].to_string();
    out.extend((0..5).map(|i| ALPHABET[(hash >> (59 - 5 * i)) as usize & 31] as char));
    out
}

#[cfg(test)]
mod tests;
