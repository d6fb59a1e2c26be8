//! Words of names: what they are taken apart into, what several share, which of them say something.

/// Words of an identifier, in lower case: `DSFHeader_size2` is `dsf`, `header`, `size2`.
pub fn words(name: &str) -> Vec<String> {
    let chars: Vec<char> = name.chars().collect();
    let mut out: Vec<String> = vec![String::new()];
    for (i, c) in chars.iter().enumerate() {
        if !c.is_alphanumeric() {
            out.push(String::new());
            continue;
        }
        let before = i.checked_sub(1).map(|j| chars[j]);
        let after = chars.get(i + 1);
        let hump = before.is_some_and(|b| b.is_lowercase() || b.is_ascii_digit());
        let acronym_ends = before.is_some_and(char::is_uppercase) && after.is_some_and(|a| a.is_lowercase());
        if c.is_uppercase() && (hump || acronym_ends) {
            out.push(String::new());
        }
        if let Some(w) = out.last_mut() {
            w.extend(c.to_lowercase());
        }
    }
    out.retain(|w| !w.is_empty());
    out
}

/// `CamelCase`, by which classes are known; a single letter is a variable.
pub fn is_class_like(name: &str) -> bool {
    let cased = name.starts_with(char::is_uppercase) && name.contains(char::is_lowercase);
    name.len() > 2 && cased && !name.contains('_')
}

/// Words that all names have, in the order of the first: their longest common subsequence, taken pair by pair.
pub fn shared_words(names: &[&str]) -> Vec<String> {
    let mut all = names.iter().map(|n| words(n));
    let Some(mut common) = all.next() else { return Vec::new() };
    for w in all {
        common = common_subsequence(&common, &w);
    }
    common
}

fn common_subsequence(a: &[String], b: &[String]) -> Vec<String> {
    let mut best = vec![vec![0usize; b.len() + 1]; a.len() + 1];
    for i in (0..a.len()).rev() {
        for j in (0..b.len()).rev() {
            best[i][j] = if a[i] == b[j] { best[i + 1][j + 1] + 1 } else { best[i + 1][j].max(best[i][j + 1]) };
        }
    }
    let (mut i, mut j, mut out) = (0, 0, Vec::new());
    while i < a.len() && j < b.len() {
        if a[i] == b[j] {
            out.push(a[i].clone());
            (i, j) = (i + 1, j + 1);
        } else if best[i + 1][j] >= best[i][j + 1] {
            i += 1;
        } else {
            j += 1;
        }
    }
    out
}

pub(crate) const WEAK: &[&str] = &[
    "get", "set", "do", "run", "print", "append", "write", "log", "test", "is", "make", "on", "to", "of", "for", "the",
    "a", "an", "and", "in",
];

pub fn telling(words: &[String]) -> bool {
    words.iter().any(|w| !WEAK.contains(&w.as_str()) && w.len() > 1 && !w.chars().all(|c| c.is_ascii_digit()))
}

/// Words that say of a result only that it is one.
pub(super) const PLAIN_RESULTS: &[&str] = &[
    "result", "results", "res", "ret", "value", "values", "val", "data", "out", "output", "tmp", "temp", "item",
    "items", "obj", "object", "x", "y", "n", "i", "s", "r", "text", "list", "rows", "args", "self",
];

/// Locals that only count.
pub(super) const COUNTERS: &[&str] =
    &["len", "length", "size", "count", "num", "idx", "index", "pos", "position", "offset", "start", "end", "key"];

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_and_what_names_share() {
        assert_eq!(words("HTTPServer_port2"), ["http", "server", "port2"]);
        assert_eq!(words("craneFeeTotal"), ["crane", "fee", "total"]);
        assert_eq!(shared_words(&["format_berth_line", "format_crane_line"]).join("_"), "format_line");
    }
}
