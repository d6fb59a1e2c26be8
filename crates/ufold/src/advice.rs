//! What each reason code means, from the page that is shipped for people.

use ufold_core::change::Code;

const PAGE: &str = include_str!("../../../docs/reasons.md");

pub struct Advice {
    pub meaning: String,
    pub example: String,
    pub what_to_do: String,
}

/// What the page says of a code.
pub fn advice(code: Code) -> Option<Advice> {
    let section = PAGE.split("\n## ").find_map(|s| s.strip_prefix(code.word())?.strip_prefix('\n'))?;
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
    use ufold_core::change::Code;

    use super::{PAGE, advice};

    #[test]
    fn every_code_has_advice_and_the_page_no_others() {
        for code in Code::ALL {
            let a = advice(*code).unwrap_or_else(|| panic!("docs/reasons.md lacks {code}, or an example of it"));
            assert!(!a.meaning.is_empty() && !a.example.is_empty() && !a.what_to_do.is_empty(), "{code}");
        }
        let told: Vec<&str> = PAGE.lines().filter_map(|l| l.strip_prefix("## ")).collect();
        assert_eq!(told, Code::ALL.iter().map(|c| c.word()).collect::<Vec<_>>());
    }
}
