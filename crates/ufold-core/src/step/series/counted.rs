//! Values that follow a number: the number itself, and texts that say it.
//!
//! A number that stands in all texts of a column is that column's counter (`"berth 1"`, `"berth 2"`). Columns with the same
//! counter become one, and their texts are put together in the turn. Numbers one after the other need no list. Left as they
//! are: texts with marks of their own (escapes, braces), numbers with zeros before them, a single column of texts whose
//! numbers don't follow one another.

use super::table::Column;
use crate::names::Source;
use crate::tree::{NodeId, Role};

/// What the loop's head gives to a name.
pub(super) struct Given {
    /// Of each turn.
    pub texts: Vec<String>,
    /// Where the first copy has it, and what stands there instead.
    pub uses: Vec<(NodeId, Said)>,
}

/// How a place says the value.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Said {
    Plainly,
    /// Between these, in a text with this quote.
    InText {
        before: String,
        behind: String,
        quote: char,
    },
}

/// Numbers that follow one another are counted from this many on, and fewer where texts say them.
const LEAST_COUNTED: usize = 4;

/// The columns as the loop has them. `fixed`: where a text that is put together is not the same as one that is written.
pub(super) fn given(s: &Source, columns: &[Column], fixed: &dyn Fn(NodeId) -> bool) -> Vec<Given> {
    let plain =
        |c: &Column| Given { texts: c.texts.clone(), uses: c.nodes.iter().map(|n| (*n, Said::Plainly)).collect() };
    let mut out: Vec<Given> = Vec::new();
    let plainly = |o: &Numbered, c: &Column| o.said == Said::Plainly || !c.nodes.iter().any(|n| fixed(*n));
    let said: Vec<Option<Numbered>> = columns.iter().map(|c| numbered(s, c).filter(|o| plainly(o, c))).collect();
    for (c, own) in columns.iter().zip(&said) {
        let Some(own) = own else {
            out.push(plain(c));
            continue;
        };
        let same = said.iter().flatten().filter(|o| o.numbers == own.numbers).count();
        let in_text = own.said != Said::Plainly;
        if in_text && same < 2 && !(columns.len() == 1 && follow(&own.numbers).is_some()) {
            out.push(plain(c));
            continue;
        }
        let uses = c.nodes.iter().map(|n| (*n, own.said.clone()));
        let texts: Vec<String> = own.numbers.iter().map(i64::to_string).collect();
        match out.iter_mut().find(|g| g.texts == texts && is_number(&texts[0])) {
            Some(g) => g.uses.extend(uses),
            None => out.push(Given { texts, uses: uses.collect() }),
        }
    }
    out
}

/// First and last of the numbers that the only name counts.
pub(super) fn counts(given: &[Given]) -> Option<(i64, i64)> {
    let [only] = given else { return None };
    let numbers: Vec<i64> = only.texts.iter().map(|x| x.parse().ok()).collect::<Option<_>>()?;
    let said = only.uses.iter().any(|u| u.1 != Said::Plainly);
    follow(&numbers).filter(|_| said || numbers.len() >= LEAST_COUNTED)
}

fn follow(numbers: &[i64]) -> Option<(i64, i64)> {
    let (first, last) = (*numbers.first()?, *numbers.last()?);
    numbers.windows(2).all(|w| w[1] == w[0] + 1).then_some((first, last))
}

struct Numbered {
    numbers: Vec<i64>,
    said: Said,
}

fn numbered(s: &Source, c: &Column) -> Option<Numbered> {
    if c.nodes.iter().any(|n| s.tree.role(*n) != Role::Literal) {
        return None;
    }
    if let Some(numbers) = c.texts.iter().map(|x| number(x)).collect() {
        return Some(Numbered { numbers, said: Said::Plainly });
    }
    let texts: Vec<(char, &str)> = c.texts.iter().map(|x| plain_text(x)).collect::<Option<_>>()?;
    let quote = texts[0].0;
    let inner: Vec<&str> = texts.iter().map(|x| x.1).collect();
    let before = inner[0][..common(&inner)].trim_end_matches(|c: char| c.is_ascii_digit());
    let cut = |x: &&str| -> Option<(i64, String)> {
        let rest = &x[before.len()..];
        let digits = rest.find(|c: char| !c.is_ascii_digit()).unwrap_or(rest.len());
        Some((number(&rest[..digits])?, rest[digits..].to_string()))
    };
    let parts: Vec<(i64, String)> = inner.iter().map(cut).collect::<Option<_>>()?;
    let behind = parts[0].1.clone();
    // a number beside a letter, a point or another number is a part of a word
    let word = |c: Option<char>| c.is_some_and(|c| c.is_ascii_digit() || c == '.' || c == '-' || c == '+');
    let apart = !word(before.chars().last()) && !word(behind.chars().next());
    let same = texts.iter().all(|x| x.0 == quote) && parts.iter().all(|p| p.1 == behind);
    let said = Said::InText { before: before.to_string(), behind, quote };
    (same && apart).then(|| Numbered { numbers: parts.iter().map(|p| p.0).collect(), said })
}

/// Bytes that all texts begin with.
fn common(texts: &[&str]) -> usize {
    let of = |x: &&str| texts[0].char_indices().zip(x.chars()).find(|((_, a), b)| a != b).map(|((i, _), _)| i);
    let least = texts.iter().map(|x| x.len()).min().unwrap_or(0);
    texts.iter().filter_map(of).min().unwrap_or(least).min(least)
}

fn is_number(text: &str) -> bool {
    number(text).is_some()
}

/// A number as it is shown: no sign, no zeros before it.
fn number(text: &str) -> Option<i64> {
    let shown = text == "0" || !text.starts_with('0');
    let digits = !text.is_empty() && text.len() < 10 && text.chars().all(|c| c.is_ascii_digit());
    if shown && digits { text.parse().ok() } else { None }
}

/// Quote and text of a literal in which nothing has a meaning of its own.
fn plain_text(literal: &str) -> Option<(char, &str)> {
    let quote = literal.chars().next().filter(|c| matches!(c, '"' | '\''))?;
    let inner = literal.get(1..literal.len().checked_sub(1)?)?;
    let marks = ['\\', '{', '}', '$', '`', '"', '\'', '\n', '%'];
    (literal.ends_with(quote) && literal.len() > 2 && !inner.contains(marks)).then_some((quote, inner))
}

#[cfg(test)]
mod tests {
    use super::{common, number, plain_text};

    #[test]
    fn numbers_are_those_that_are_shown_so() {
        assert_eq!(
            ["1", "10", "0", "01", "-1", "1.0", "", "x"].map(number),
            [Some(1), Some(10), Some(0), None, None, None, None, None]
        );
    }

    #[test]
    fn texts_have_no_marks() {
        assert_eq!(plain_text("'berth 1'"), Some(('\'', "berth 1")));
        for text in ["'a\\n1'", "f'a1'", "'''a1'''", "\"{1}\"", "''", "'", "b'1'", "`a1`"] {
            assert_eq!(plain_text(text), None, "{text}");
        }
    }

    #[test]
    fn what_texts_begin_with() {
        assert_eq!(common(&["berth 1", "berth 2"]), 6);
        assert_eq!(common(&["berth 1", "berth 11"]), 7);
        assert_eq!(common(&["é1", "è1"]), 0);
    }
}
