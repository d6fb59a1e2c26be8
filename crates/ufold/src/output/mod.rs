//! What is printed: colour, diffs, excerpts, progress.

mod diff;
pub mod json;
pub mod listed;
mod out;
pub mod page;
mod place;
mod progress;

pub use diff::{print_diff, print_move, print_parts};
pub use place::{expanded, line_number, place, places, set_root};
pub use progress::Progress;

pub use out::{Out, complain, finish, line, mark, out};

use std::io::IsTerminal;

use crate::args::Color;

/// Prints a line of results.
macro_rules! say {
    ($($part:tt)*) => { $crate::output::line(format_args!($($part)*)) };
}

/// Colour, where it is wanted.
#[derive(Clone, Copy, Debug)]
pub struct Paint(bool);

impl Paint {
    pub fn new(when: Color) -> Paint {
        let set = |name: &str| std::env::var_os(name).filter(|v| !v.is_empty());
        let plain = set("NO_COLOR").is_some() || set("TERM").is_some_and(|t| t == "dumb");
        Paint(match when {
            Color::Always => true,
            Color::Never => false,
            Color::Auto => !plain && std::io::stdout().is_terminal(),
        })
    }
    fn wrap(self, code: &str, text: &str) -> String {
        if self.0 { format!("{m}[{code}m{text}{m}[0m", m = mark()) } else { text.to_string() }
    }
    pub fn strong(self, text: &str) -> String {
        self.wrap("1", text)
    }
    pub fn faint(self, text: &str) -> String {
        self.wrap("90", text)
    }
    pub fn good(self, text: &str) -> String {
        self.wrap("32", text)
    }
    pub fn careful(self, text: &str) -> String {
        self.wrap("33", text)
    }
    pub fn bad(self, text: &str) -> String {
        self.wrap("31", text)
    }
    pub fn hole(self, text: &str) -> String {
        self.wrap("1;36", text)
    }
    /// The changed part of a removed or added line.
    pub fn changed(self, text: &str, added: bool) -> String {
        self.wrap(if added { "1;4;32" } else { "1;4;31" }, text)
    }
    pub fn verdict(self, v: ufold_core::change::Verdict, width: usize) -> String {
        use ufold_core::change::Verdict::*;
        let word = format!("{:width$}", v.word());
        match v {
            Ready => self.good(&word),
            Assumed => self.careful(&word),
            Refused => self.faint(&word),
        }
    }
}

/// Columns of the terminal; 100 where there is none.
pub fn width() -> usize {
    terminal_size::terminal_size().map_or(100, |(w, _)| usize::from(w.0).max(40))
}

/// Digits in groups of three.
pub fn number(n: u64) -> String {
    let s = n.to_string();
    let mut out = String::new();
    for (i, c) in s.chars().enumerate() {
        if i > 0 && (s.len() - i).is_multiple_of(3) {
            out.push(',');
        }
        out.push(c);
    }
    out
}

/// `1 copy`, `2 copies`.
pub fn count(n: usize, one: &str, many: &str) -> String {
    format!("{} {}", number(n as u64), if n == 1 { one } else { many })
}

/// The first three of a list; that there are more is marked.
pub fn few<'a>(list: impl IntoIterator<Item = &'a String>) -> String {
    let mut list = list.into_iter();
    let shown: Vec<&str> = list.by_ref().take(3).map(String::as_str).collect();
    let more = if list.next().is_some() { ", …" } else { "" };
    format!("{}{more}", shown.join(", "))
}

/// At most `width` characters; what is cut is marked.
pub fn fit(text: &str, width: usize) -> String {
    if text.chars().count() <= width {
        return text.to_string();
    }
    let mut out: String = text.chars().take(width.saturating_sub(1)).collect();
    out.push('…');
    out
}

/// A word of a command that is printed, so that it can be pasted into a shell.
pub fn quoted(word: &str) -> String {
    let plain = |c: char| c.is_ascii_alphanumeric() || "_-./:,=@%+".contains(c);
    if !word.is_empty() && word.chars().all(plain) {
        return word.to_string();
    }
    format!("'{}'", word.replace('\'', "'\\''"))
}
