//! How the author of a file writes: line ends, steps of indentation, the longest line.

use crate::lang::Language;
use crate::text::{indent_at, line_end};
use crate::tree::{Role, Tree};

pub struct Habits {
    pub line_end: &'static str,
    /// One step of indentation.
    pub unit: String,
    /// The longest line that is allowed, in characters.
    pub width: usize,
}

impl Habits {
    pub fn of(text: &str, tree: &Tree, lang: &dyn Language) -> Habits {
        Habits { line_end: line_end(text), unit: unit(text, tree, lang), width: width(text, lang) }
    }
}

fn unit(text: &str, t: &Tree, lang: &dyn Language) -> String {
    let inner = t.ids().filter(|n| t.role(*n) == Role::Block).find_map(|b| {
        let own = indent_at(text, t.span(t.parent(b)?).start);
        // where a block has brackets, they may stand behind a head of several lines
        let body = indent_at(text, t.span(t.children(b).next()?).start);
        body.strip_prefix(own).filter(|u| !u.is_empty())
    });
    inner.unwrap_or(lang.default_unit()).to_string()
}

fn width(text: &str, lang: &dyn Language) -> usize {
    let default = lang.default_width();
    let mut long: Vec<usize> = text.lines().map(|l| l.chars().count()).filter(|n| *n > default).collect();
    long.sort_unstable();
    // a few long lines are slips, many are a habit
    if long.len() < 3 { default } else { long[long.len() / 2].clamp(default, 100) }
}
