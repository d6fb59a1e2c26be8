//! What each reason code means, from the page that is shipped for people.

const PAGE: &str = include_str!("../../../docs/reasons.md");

pub struct Advice {
    pub meaning: String,
    pub example: String,
    pub what_to_do: String,
}

/// The codes that there are.
pub fn codes() -> impl Iterator<Item = &'static str> {
    PAGE.lines().filter_map(|l| l.strip_prefix("## "))
}

/// What the page says of a code.
pub fn advice(code: &str) -> Option<Advice> {
    let section = PAGE.split("\n## ").find_map(|s| s.strip_prefix(code)?.strip_prefix('\n'))?;
    let paragraphs: Vec<String> =
        section.trim().split("\n\n").map(|p| p.split_whitespace().collect::<Vec<_>>().join(" ")).collect();
    let example = paragraphs.iter().position(|p| p.starts_with("Example:"))?;
    Some(Advice {
        meaning: paragraphs[..example].join(" "),
        example: paragraphs[example].trim_start_matches("Example:").trim().to_string(),
        what_to_do: paragraphs[example + 1..].join(" "),
    })
}

#[cfg(test)]
mod tests {
    use super::{advice, codes};

    #[test]
    fn every_code_has_advice() {
        assert!(codes().count() > 40);
        for code in codes() {
            let a = advice(code).unwrap_or_else(|| panic!("{code}: no example"));
            assert!(!a.meaning.is_empty() && !a.example.is_empty() && !a.what_to_do.is_empty(), "{code}");
        }
    }
}
