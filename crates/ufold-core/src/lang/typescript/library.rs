//! What is known of the library that comes with the language.

use std::sync::LazyLock;

use rustc_hash::FxHashMap;

/// A type of the library: its type parameters and its members.
#[derive(Default)]
pub struct Block {
    pub parameters: Vec<String>,
    members: FxHashMap<String, Member>,
}

#[derive(Clone)]
pub struct Member {
    pub is_called: bool,
    /// The type, as it is written.
    pub of: String,
}

impl Block {
    pub fn member(&self, name: &str) -> Option<&Member> {
        self.members.get(name)
    }
}

/// Types by name; objects that are there once have blocks of their own, with a full stop where a type has the name too.
static LIBRARY: LazyLock<FxHashMap<String, Block>> = LazyLock::new(|| read(include_str!("library.txt")));

/// Functions that are there everywhere, and what they give.
pub const FUNCTIONS: &[(&str, &str)] = &[
    ("String", "string"),
    ("Number", "number"),
    ("parseInt", "number"),
    ("parseFloat", "number"),
    ("Boolean", "boolean"),
    ("isNaN", "boolean"),
    ("isFinite", "boolean"),
    ("encodeURIComponent", "string"),
    ("decodeURIComponent", "string"),
];

pub fn of_type(name: &str) -> Option<&'static Block> {
    LIBRARY.get(name)
}

/// An object that is there by its name.
pub fn of_object(name: &str) -> Option<&'static Block> {
    let once = ["Math", "JSON", "Object", "Number", "String", "performance"];
    LIBRARY.get(&format!("{name}.")).or_else(|| LIBRARY.get(name).filter(|_| once.contains(&name)))
}

fn read(text: &str) -> FxHashMap<String, Block> {
    let mut out: FxHashMap<String, Block> = FxHashMap::default();
    let mut at = String::new();
    for line in text.lines().filter(|l| !l.starts_with('#') && !l.trim().is_empty()) {
        if !line.starts_with(' ') {
            let (name, parameters) = line.split_once('<').unwrap_or((line, ""));
            at = name.to_string();
            let parameters = parameters.trim_end_matches('>').split(", ").filter(|p| !p.is_empty());
            out.entry(at.clone()).or_default().parameters = parameters.map(str::to_string).collect();
            continue;
        }
        let (names, of) = line.split_once(": ").expect("a member has a type");
        let block = out.get_mut(&at).expect("members follow their type");
        for name in names.split_whitespace() {
            let is_called = name.ends_with("()");
            block.members.insert(name.trim_end_matches("()").to_string(), Member { is_called, of: of.to_string() });
        }
    }
    out
}
