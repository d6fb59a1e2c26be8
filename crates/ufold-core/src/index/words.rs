//! Words in texts.

use crate::find::word_hash;
use crate::names::Source;
use crate::tree::NodeId;

/// A text without its quotes.
pub fn unquoted(s: &Source, n: NodeId) -> &str {
    let text = s.str(n);
    let start = text.find(['"', '\'', '`']).unwrap_or(0);
    text[start..].trim_matches(['"', '\'', '`'])
}

/// Where a word stands in a text as a whole one; a name that is missing stands nowhere.
pub fn whole_words<'t>(text: &'t str, word: &'t str) -> impl Iterator<Item = usize> + 't {
    let found = memchr::memmem::find_iter(text.as_bytes(), word.as_bytes());
    found.filter(move |i| {
        if word.is_empty() {
            return false;
        }
        let (before, after) = (text[..*i].chars().next_back(), text[i + word.len()..].chars().next());
        !before.is_some_and(is_of_word) && !after.is_some_and(is_of_word)
    })
}

fn is_of_word(c: char) -> bool {
    c.is_alphanumeric() || c == '_' || c == '$'
}

/// Which words a text has, as hashes: to tell which texts need not be looked through.
pub struct WordSet(Vec<u32>);

impl WordSet {
    pub fn of(text: &str) -> WordSet {
        let mut all: Vec<u32> = words_of(text).map(word_hash).collect();
        all.sort_unstable();
        all.dedup();
        WordSet(all)
    }

    /// Whether it may stand there as a whole word; texts of several words, too.
    pub fn may_have(&self, word: &str) -> bool {
        words_of(word).all(|w| self.0.binary_search(&word_hash(w)).is_ok())
    }
}

fn words_of(text: &str) -> impl Iterator<Item = &str> {
    text.split(|c: char| !is_of_word(c)).filter(|w| !w.is_empty())
}

/// The name of a file without its folders and what follows a dot.
pub(crate) fn stem_of(path: &str) -> &str {
    path.rsplit('/').next().and_then(|n| n.split('.').next()).unwrap_or(path)
}

/// Whether a word stands in a text as a whole word.
pub fn has_whole_word(text: &str, word: &str) -> bool {
    whole_words(text, word).next().is_some()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn whole_words_stand_alone() {
        let at = |text: &str, word: &str| whole_words(text, word).collect::<Vec<_>>();
        assert_eq!(at("due dues due_1 Ñdue due", "due"), [0, 21]);
        assert_eq!(at("Ñ(Ñ)", "Ñ"), [0, 3]);
        assert!(at("bÑ", "").is_empty(), "no name");
    }

    #[test]
    fn a_set_of_words_hides_no_whole_word() {
        let text = "berth.fee = $crane_fee\n<name>tide-table</name> \u{fffd}ebb\u{fffd} für";
        let set = WordSet::of(text);
        let all =
            ["berth", "berth.fee", "fee", "$crane_fee", "crane_fee", "tide-table", "tide", "tab", "ebb", "für", "f"];
        for word in all {
            let is_there = has_whole_word(text, word);
            assert!(set.may_have(word) || !is_there, "{word}");
        }
        assert!(!set.may_have("crane_fee") && !set.may_have("tab") && !set.may_have("berth.tide_x"));
        assert_eq!(whole_words(text, "fee").collect::<Vec<_>>(), [6]);
        assert_eq!(whole_words("a aa a", "a").collect::<Vec<_>>(), [0, 5]);
    }
}
