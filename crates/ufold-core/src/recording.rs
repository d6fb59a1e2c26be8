//! Captured output of a command, and what of it may differ from run to run.
//!
//! A mask replaces what it matches by its own name, on both sides of a comparison: two different times are the same
//! text then. A mask that matches too much hides real changes, so each is one that a person accepted.

use regex::Regex;

/// The masks that have a name, in the order in which they are applied.
const KNOWN: &[(&str, &str)] = &[
    ("id", r"\b[0-9a-fA-F]{8}-[0-9a-fA-F]{4}-[0-9a-fA-F]{4}-[0-9a-fA-F]{4}-[0-9a-fA-F]{12}\b|\b[0-9a-f]{16,64}\b"),
    ("address", r"\b0x[0-9a-fA-F]{4,16}\b"),
    ("temporary", r#"(?:/private)?(?:/var/folders/|/var/tmp/|/tmp/)[^\s"'<>:,;)\]]+"#),
    (
        "date",
        r"\b\d{4}-\d{2}-\d{2}\b|\b\d{1,2}[./]\d{1,2}[./]\d{4}\b|\b\d{1,2} (?:Jan|Feb|Mar|Apr|May|Jun|Jul|Aug|Sep|Oct|Nov|Dec)[a-z]* \d{4}\b",
    ),
    ("time", r"T?\b\d{1,2}:\d{2}(?::\d{2}(?:[.,]\d+)?)?(?:Z|[+-]\d{2}:?\d{2}\b)?|T\d{2}:\d{2}:\d{2}(?:\.\d+)?Z?"),
    ("duration", r"\b\d+(?:\.\d+)?(?:e-\d+)? ?(?:ns|us|µs|ms|s|sec|secs|seconds?|min|minutes?)\b"),
];

/// A rule that says what may differ.
#[derive(Clone, Debug)]
pub struct Mask {
    name: String,
    pattern: Regex,
}

/// Longer patterns, and those with more word boundaries, take too long on large outputs.
const LONGEST: usize = 500;
const MOST_BOUNDARIES: usize = 20;

impl Mask {
    /// A known one by its name, else a regular expression.
    pub fn new(rule: &str) -> Result<Mask, String> {
        let known = KNOWN.iter().find(|(n, _)| *n == rule);
        let (name, pattern) = known.copied().unwrap_or(("masked", rule));
        if pattern.len() > LONGEST || rule.matches("\\b").count() > MOST_BOUNDARIES && known.is_none() {
            return Err(format!("longer than {LONGEST} characters, or with more than {MOST_BOUNDARIES} `\\b`"));
        }
        let pattern = regex::RegexBuilder::new(pattern).size_limit(1 << 20).build().map_err(|e| e.to_string())?;
        if pattern.is_match("") {
            return Err(format!("`{rule}` matches the empty text"));
        }
        Ok(Mask { name: name.to_string(), pattern })
    }

    pub fn known() -> impl Iterator<Item = &'static str> {
        KNOWN.iter().map(|(n, _)| *n)
    }
}

/// The text with everything replaced that may differ.
pub fn masked(text: &str, masks: &[Mask]) -> String {
    // known ones in their own order: a date inside a path goes with the path
    let place = |m: &&Mask| KNOWN.iter().position(|(n, _)| *n == m.name).map_or(0, |i| i + 1);
    let mut order: Vec<&Mask> = masks.iter().collect();
    order.sort_by_key(place);
    order.iter().fold(text.to_string(), |text, m| {
        let name = format!("<{}>", m.name);
        m.pattern.replace_all(&text, regex::NoExpand(&name)).into_owned()
    })
}

/// The known masks that make two texts the same: as few as one by one can be left out. None when they do not suffice.
pub fn masks_for(a: &str, b: &str) -> Option<Vec<&'static str>> {
    let same = |names: &[&str]| {
        let masks: Vec<Mask> = names.iter().filter_map(|n| Mask::new(n).ok()).collect();
        masked(a, &masks) == masked(b, &masks)
    };
    let mut names: Vec<&'static str> = Mask::known().collect();
    if !same(&names) {
        return None;
    }
    for n in Mask::known() {
        let fewer: Vec<&'static str> = names.iter().copied().filter(|m| *m != n).collect();
        if same(&fewer) {
            names = fewer;
        }
    }
    Some(names)
}

#[cfg(test)]
mod tests {
    use super::{Mask, masked, masks_for};

    fn with(rule: &str, text: &str) -> String {
        masked(text, &[Mask::new(rule).expect("a rule")])
    }

    #[test]
    fn known_masks_cover_what_they_are_named_for() {
        let cases = [
            ("time", "at 12:04:05.123 and 7:30", "at <time> and <time>"),
            ("date", "2026-11-03, 3.11.2026, 3 Nov 2026", "<date>, <date>, <date>"),
            ("duration", "in 0.123 s, 45ms, 2 minutes", "in <duration>, <duration>, <duration>"),
            ("address", "object at 0x7f00aa10, 0x12", "object at <address>, 0x12"),
            ("temporary", "wrote /tmp/abc/x.csv, done", "wrote <temporary>, done"),
            ("id", "id 123e4567-e89b-12d3-a456-426614174000.", "id <id>."),
            (r"job \d+", "job 17 of berth 4", "<masked> of berth 4"),
        ];
        for (rule, text, expected) in cases {
            assert_eq!(with(rule, text), expected, "{rule}");
        }
        assert_eq!(with("duration", "5 ships, 12 berths"), "5 ships, 12 berths");
        assert!(Mask::new("(").is_err() && Mask::new("x*").is_err());
    }

    #[test]
    fn proposes_the_fewest_masks() {
        assert_eq!(masks_for("took 12 ms", "took 7 ms"), Some(vec!["duration"]));
        assert_eq!(masks_for("2026-11-03 took 12 ms", "2026-11-04 took 7 ms"), Some(vec!["date", "duration"]));
        assert_eq!(masks_for("5 ships", "6 ships"), None);
        assert_eq!(masks_for("same", "same"), Some(vec![]));
    }
}
