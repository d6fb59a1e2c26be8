//! Words in texts.

use crate::names::Source;
use crate::tree::NodeId;

/// A text without its quotes.
pub fn unquoted(s: &Source, n: NodeId) -> &str {
    let text = s.str(n);
    let start = text.find(['"', '\'', '`']).unwrap_or(0);
    text[start..].trim_matches(['"', '\'', '`'])
}

/// Where a word stands in a text as a whole one.
pub fn whole_words<'t>(text: &'t str, word: &'t str) -> impl Iterator<Item = usize> + 't {
    let part = |c: char| c.is_alphanumeric() || c == '_' || c == '$';
    text.match_indices(word).map(|(i, _)| i).filter(move |i| {
        let (before, after) = (text[..*i].chars().next_back(), text[i + word.len()..].chars().next());
        !before.is_some_and(part) && !after.is_some_and(part)
    })
}

/// The name of a file without its folders and what follows a dot.
pub(crate) fn stem_of(path: &str) -> &str {
    path.rsplit('/').next().and_then(|n| n.split('.').next()).unwrap_or(path)
}

/// Whether a word stands in a text as a whole word.
pub fn has_whole_word(text: &str, word: &str) -> bool {
    whole_words(text, word).next().is_some()
}
