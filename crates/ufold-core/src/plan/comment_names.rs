//! Names that an author has given a piece of code in the comment over it.

use crate::plan::verbs::VERBS;

/// Verbs that promise a value.
pub(super) fn is_asking(verb: &str) -> bool {
    ["calculate", "compute", "determine", "find", "get", "retrieve"].contains(&verb)
}

/// The name that a clause of a comment is: of the first line, or of one that begins like a sentence.
pub(super) fn from_comment(comment: &str) -> Option<String> {
    let begins = |(i, l): &(usize, &str)| *i == 0 || l.trim_start().starts_with(char::is_uppercase);
    let lines = comment.lines().enumerate().filter(begins).map(|(_, l)| l);
    lines.flat_map(clauses).find_map(from_clause)
}

/// Parts of a line that may each say what is done.
fn clauses(line: &str) -> impl Iterator<Item = &str> {
    line.split(". ").flat_map(|l| l.split(", ")).flat_map(|l| l.split("; ")).flat_map(|l| l.split(" (")).map(str::trim)
}

/// Words that stand before a thing, and say nothing of it.
const BEFORE_THINGS: &[&str] =
    &["the", "a", "an", "all", "our", "its", "any", "both", "this", "these", "each", "every"];

/// Verbs that head a comment as nouns too, where no such word comes next.
const NOUNS: &[&str] = &[
    "cache", "copy", "count", "display", "filter", "format", "group", "hash", "index", "label", "limit", "link",
    "list", "log", "map", "match", "name", "order", "position", "process", "query", "rank", "record", "release",
    "report", "request", "route", "sample", "schedule", "score", "style", "tag", "test", "track",
];

/// Two to four words that open with a verb make a name.
fn from_clause(clause: &str) -> Option<String> {
    let clause = clause.trim_end_matches(['.', ':', '!']);
    let quotes = ['"', '\'', '`', ','];
    let quoted = |w: &str| w.starts_with(&quotes[..3]) && w.trim_end_matches(',').ends_with(&quotes[..3]);
    let compound = |w: &&str| w.contains('-') && w.chars().all(|c| c.is_ascii_alphabetic() || c == '-');
    let all: Vec<(bool, String)> = clause
        .split_whitespace()
        .filter(|w| !compound(w))
        .map(|w| (quoted(w), w.trim_matches(quotes).to_lowercase()))
        .collect();
    let plain = |w: &str| w.chars().all(|c| c.is_ascii_alphanumeric()) && !w.chars().all(|c| c.is_ascii_digit());
    let marks = ["todo", "fixme", "noqa", "type", "pylint", "xxx", "hack", "note"];
    if !(2..=12).contains(&all.len()) || !all.iter().all(|(_, w)| plain(w)) || marks.contains(&all[0].1.as_str()) {
        return None;
    }
    let (verb, next) = (all[0].1.as_str(), all[1].1.as_str());
    let headed = BEFORE_THINGS.contains(&next) || next.ends_with('s') || ["how", "those", "what"].contains(&next);
    let thing = NOUNS.contains(&verb) && !headed;
    if !VERBS.contains(&verb) || thing {
        return None;
    }
    let all: Vec<&(bool, String)> = all.iter().filter(|(_, w)| !ASIDES.contains(&w.as_str())).collect();
    // names in quotes, and what links them, where there are too many words
    let links = |i: usize| ["and", "or"].contains(&all[i].1.as_str()) && i > 0 && all[i - 1].0;
    let unquoted = (0..all.len()).filter(|i| !all[*i].0 && !links(*i)).map(|i| all[i]);
    named(&all).or_else(|| named(&unquoted.collect::<Vec<_>>()))
}

/// The words of a clause that make a name.
fn named(all: &[&(bool, String)]) -> Option<String> {
    let mut telling: Vec<String> = Vec::new();
    let mut each = false;
    for (_, w) in all {
        if BEFORE_THINGS.contains(&w.as_str()) {
            each = ["each", "every"].contains(&w.as_str());
            continue;
        }
        let many = each && w.ends_with(char::is_alphabetic) && !w.ends_with('s');
        telling.push(if many { format!("{w}s") } else { w.clone() });
        each = false;
    }
    // what a long comment goes on to say is no part of a name; of two things one is not the name of both
    let long = telling.len() > 4 || all.len() > 6;
    let end = telling.iter().position(|w| long && LINKS.contains(&w.as_str())).unwrap_or(telling.len());
    let another = |w: &String| VERBS.contains(&w.as_str());
    let half = telling.get(end).is_some_and(|w| ["and", "or"].contains(&w.as_str()))
        && !telling.get(end + 1).is_some_and(another);
    let short = &telling[..end];
    let speaks = short.iter().any(|w| ["it", "them", "one", "that", "we", "you"].contains(&w.as_str()));
    ((2..=4).contains(&short.len()) && !speaks && !half).then(|| short.join("_"))
}

/// Words that say of what is done only how it goes with the rest.
const ASIDES: &[&str] = &["again", "also", "here", "just", "now", "then", "too"];

/// Words after which a comment goes on to say how, when or why.
const LINKS: &[&str] = &[
    "according",
    "against",
    "and",
    "as",
    "at",
    "based",
    "because",
    "before",
    "after",
    "between",
    "by",
    "depending",
    "for",
    "from",
    "given",
    "if",
    "in",
    "into",
    "on",
    "or",
    "per",
    "since",
    "so",
    "than",
    "that",
    "to",
    "unless",
    "until",
    "using",
    "via",
    "when",
    "where",
    "which",
    "while",
    "with",
    "within",
    "without",
];

/// One to four words that name a thing.
pub(super) fn thing_of_comment(comment: &str) -> Option<String> {
    let mut lines = comment.lines();
    let line = lines.next()?.trim_end_matches(['.', ':', '!']);
    let list: Vec<String> = line.split_whitespace().map(|w| w.to_lowercase()).collect();
    let plain = lines.next().is_none() && list.iter().all(|w| w.chars().all(|c| c.is_ascii_alphabetic()));
    let telling: Vec<&str> =
        list.iter().map(String::as_str).filter(|w| !["the", "a", "an", "all", "our", "its"].contains(w)).collect();
    let speaks = [
        "if", "when", "we", "you", "this", "it", "that", "is", "are", "not", "no", "but", "so", "because", "see",
        "now", "hope",
    ];
    // what is to be done is another verb's matter
    let telling = match telling.split_first() {
        Some((verb, rest)) if VERBS.contains(verb) && !NOUNS.contains(verb) && !rest.is_empty() => rest.to_vec(),
        _ => telling,
    };
    let fits = plain && (1..=4).contains(&telling.len()) && !telling.iter().any(|w| speaks.contains(w));
    (fits && !["todo", "fixme", "xxx", "hack", "note"].contains(&telling[0])).then(|| telling.join("_"))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_out_of_comments() {
        assert_eq!(from_comment("Add the harbour dues.").as_deref(), Some("add_harbour_dues"));
        assert_eq!(
            from_comment("A second one was found\nRemove the \"second\" berth").as_deref(),
            Some("remove_second_berth")
        );
        assert_eq!(from_comment("find a sync in the first 1024K, give up later").as_deref(), Some("find_sync"));
        assert_eq!(from_comment("Print each berth in two columns, or one").as_deref(), Some("print_berths"));
        assert_eq!(from_comment("no draught, guess it from the length"), None);
        let new = "Set the new-style \"primary\" and \"secondary\" release types.";
        assert_eq!(from_comment(new).as_deref(), Some("set_release_types"));
        assert_eq!(from_comment("Label name."), None);
        assert_eq!(thing_of_comment("Label name.").as_deref(), Some("label_name"));
        assert_eq!(from_comment("List the berths").as_deref(), Some("list_berths"));
        assert_eq!(from_comment("TODO fix this"), None);
        assert_eq!(from_comment("Data URL."), None);
    }
}
