//! Names that an author has given a piece of code in the comment over it.

use crate::plan::verbs::VERBS;

/// Verbs that promise a value.
pub(super) fn is_asking(verb: &str) -> bool {
    ["calculate", "compute", "determine", "find", "get", "retrieve"].contains(&verb)
}

/// The name that a line of a comment is: the first, or one that begins like a sentence.
pub(super) fn from_comment(comment: &str) -> Option<String> {
    let begins = |(i, l): (usize, &str)| i == 0 || l.trim_start().starts_with(char::is_uppercase);
    comment.lines().enumerate().filter(|l| begins(*l)).find_map(|(_, l)| from_line(l))
}

/// Two to four words that open with a verb make a name.
fn from_line(line: &str) -> Option<String> {
    let line = line.trim_end_matches(['.', ':', '!']);
    let quotes = ['"', '\'', '`', ','];
    let list: Vec<String> = line.split_whitespace().map(|w| w.trim_matches(quotes).to_lowercase()).collect();
    let plain =
        list.iter().all(|w| w.chars().all(|c| c.is_ascii_alphanumeric()) && !w.chars().all(|c| c.is_ascii_digit()));
    let marks = ["todo", "fixme", "noqa", "type", "pylint", "xxx", "hack", "note"];
    if !(2..=9).contains(&list.len()) || !plain || marks.contains(&list[0].as_str()) {
        return None;
    }
    if !VERBS.contains(&list[0].as_str()) {
        return None;
    }
    let telling: Vec<&str> =
        list.iter().map(String::as_str).filter(|w| !["the", "a", "an", "all", "our", "its"].contains(w)).collect();
    // what a long comment goes on to say is no part of a name
    let linked = |w: &&&str| LINKS.contains(*w);
    let short: Vec<&str> = match telling.len() > 4 || list.len() > 6 {
        true => telling.iter().take_while(|w| !linked(w)).copied().collect(),
        false => telling,
    };
    (2..=4).contains(&short.len()).then(|| short.join("_"))
}

/// Words after which a comment goes on to say how, when or why.
const LINKS: &[&str] = &[
    "and", "as", "because", "before", "after", "by", "for", "from", "if", "in", "into", "or", "so", "that", "to",
    "unless", "until", "when", "where", "which", "while", "with",
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
        Some((verb, rest)) if VERBS.contains(verb) && !rest.is_empty() => rest.to_vec(),
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
        assert_eq!(from_comment("TODO fix this"), None);
        assert_eq!(from_comment("Data URL."), None);
    }
}
