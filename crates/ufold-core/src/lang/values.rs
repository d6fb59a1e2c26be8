//! Literals whose value is exact, and how one value follows from another.
//!
//! Only what every language here computes alike: whole decimal numbers that a double holds, truth values, plain ASCII
//! text without escapes. Everything else has no value here, which loses an offer and never makes a wrong one.

use super::Language;

#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Value {
    Whole(i64),
    Truth(bool),
    Text(String),
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Derivation {
    Not,
    Plus(i64),
    Upper,
    Lower,
}

/// Fifteen digits are exact in a double.
const MOST_DIGITS: usize = 15;

/// The value of a literal's text.
pub fn value(lang: &dyn Language, literal: &str) -> Option<Value> {
    if let Some(holds) = [true, false].into_iter().find(|t| lang.truth(*t) == literal) {
        return Some(Value::Truth(holds));
    }
    let digits = literal.bytes().all(|b| b.is_ascii_digit()) && (literal == "0" || !literal.starts_with('0'));
    if digits && literal.len() <= MOST_DIGITS {
        return literal.parse().ok().map(Value::Whole);
    }
    let quote = literal.chars().next().filter(|q| ['"', '\''].contains(q))?;
    let text = literal[1..].strip_suffix(quote)?;
    let plain = text.is_ascii() && !text.contains(['\\', quote, '\n']);
    plain.then(|| Value::Text(text.to_string()))
}

impl Derivation {
    pub fn apply(self, from: &Value) -> Option<Value> {
        Some(match (self, from) {
            (Derivation::Not, Value::Truth(t)) => Value::Truth(!t),
            (Derivation::Plus(k), Value::Whole(n)) => Value::Whole(n.checked_add(k)?),
            (Derivation::Upper, Value::Text(t)) => Value::Text(t.to_ascii_uppercase()),
            (Derivation::Lower, Value::Text(t)) => Value::Text(t.to_ascii_lowercase()),
            _ => return None,
        })
    }

    /// How each of `to` follows from its neighbour in `from`, when the pairs leave no doubt.
    pub fn between(from: &[Value], to: &[Value]) -> Option<Derivation> {
        let step = match (from.first()?, to.first()?) {
            (Value::Whole(a), Value::Whole(b)) => b - a,
            _ => 0,
        };
        let mut distinct: Vec<&Value> = Vec::new();
        from.iter().for_each(|v| {
            if !distinct.contains(&v) {
                distinct.push(v)
            }
        });
        // two pairs may be a number apart by chance
        let sure = step.abs() == 1 || distinct.len() > 2;
        let ways = [Derivation::Not, Derivation::Upper, Derivation::Lower, Derivation::Plus(step)];
        let holds = |d: &Derivation| {
            let number = matches!(d, Derivation::Plus(_));
            (!number || step != 0 && sure) && from.iter().zip(to).all(|(a, b)| d.apply(a).as_ref() == Some(b))
        };
        ways.into_iter().find(holds).filter(|_| distinct.len() > 1)
    }
}

#[cfg(test)]
mod tests {
    use super::{Derivation, Value, value};
    use crate::lang::by_name;

    #[test]
    fn only_exact_literals_have_values() {
        let python = by_name("python").expect("known");
        let of = |text: &str| value(python, text);
        assert_eq!(of("12"), Some(Value::Whole(12)));
        assert_eq!(of("False"), Some(Value::Truth(false)));
        assert_eq!(of("'quay 4'"), Some(Value::Text("quay 4".into())));
        for none in
            ["012", "1.0", "-1", "1_000", "'a\\n'", "\"é\"", "f'a'", "'a' 'b'", "true", "", "'", "1234567890123456"]
        {
            assert_eq!(of(none), None, "{none}");
        }
    }

    #[test]
    fn what_follows_must_follow_in_every_pair() {
        let whole = |list: &[i64]| list.iter().map(|n| Value::Whole(*n)).collect::<Vec<_>>();
        let text = |list: &[&str]| list.iter().map(|t| Value::Text(t.to_string())).collect::<Vec<_>>();
        let truth = |list: &[bool]| list.iter().map(|t| Value::Truth(*t)).collect::<Vec<_>>();
        let between = |a: &[Value], b: &[Value]| Derivation::between(a, b);
        assert_eq!(between(&whole(&[1, 4]), &whole(&[2, 5])), Some(Derivation::Plus(1)));
        assert_eq!(between(&whole(&[1, 4]), &whole(&[4, 7])), None, "two pairs may be three apart by chance");
        assert_eq!(between(&whole(&[1, 4, 9]), &whole(&[4, 7, 12])), Some(Derivation::Plus(3)));
        assert_eq!(between(&whole(&[1, 4, 9]), &whole(&[4, 7, 13])), None);
        assert_eq!(between(&whole(&[1, 1]), &whole(&[2, 2])), None, "what is the same everywhere needs no parameter");
        assert_eq!(between(&truth(&[true, false]), &truth(&[false, true])), Some(Derivation::Not));
        assert_eq!(between(&text(&["a", "B"]), &text(&["A", "B"])), Some(Derivation::Upper));
        assert_eq!(between(&text(&["North", "South"]), &text(&["NORTH", "south"])), None);
        assert_eq!(between(&text(&["1", "2"]), &whole(&[1, 2])), None);
    }
}
