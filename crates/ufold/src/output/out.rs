//! Where everything that is printed goes through: what comes from sources, names and test output is made harmless, and
//! nobody who stops reading changes a result.
//!
//! Control characters and those that turn the direction of text are shown as what they are. The program's own colours are
//! told from escape sequences of others by a mark that nobody else can know.

use std::collections::hash_map::RandomState;
use std::hash::{BuildHasher, Hasher};
use std::io::{self, ErrorKind, Write};
use std::sync::OnceLock;
use std::sync::atomic::{AtomicBool, Ordering};

/// What stands before an escape sequence of this program's own, in place of the escape character.
pub fn mark() -> &'static str {
    static MARK: OnceLock<String> = OnceLock::new();
    MARK.get_or_init(|| format!("\x1b{:016x}", RandomState::new().build_hasher().finish()))
}

/// Results could not be written, although somebody wanted them.
static LOST: AtomicBool = AtomicBool::new(false);
/// In JSON a character is told in JSON's own way.
static JSON: AtomicBool = AtomicBool::new(false);

/// Standard output, which never fails: that nobody reads it any more is not a result.
pub struct Out(Vec<u8>);

pub fn out() -> Out {
    Out(Vec::new())
}

impl Out {
    /// The person asked for data.
    pub fn wants_json() -> bool {
        JSON.load(Ordering::Relaxed)
    }

    /// What follows is JSON.
    pub fn is_json() {
        JSON.store(true, Ordering::Relaxed);
    }
}

impl Write for Out {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        self.0.extend(bytes);
        if bytes.contains(&b'\n') {
            self.flush()?;
        }
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        let text = String::from_utf8_lossy(&self.0).into_owned();
        self.0.clear();
        let shown = harmless(&text, JSON.load(Ordering::Relaxed));
        let mut out = io::stdout().lock();
        match out.write_all(shown.as_bytes()).and_then(|_| out.flush()) {
            Err(e) if e.kind() != ErrorKind::BrokenPipe => LOST.store(true, Ordering::Relaxed),
            _ => {}
        }
        Ok(())
    }
}

impl Drop for Out {
    fn drop(&mut self) {
        let _ = self.flush();
    }
}

/// One line of results.
pub fn line(text: std::fmt::Arguments) {
    let _ = writeln!(out(), "{text}");
}

/// One line to standard error, when somebody can read it.
pub fn complain(text: &str) {
    let _ = writeln!(io::stderr().lock(), "{}", harmless(text, false));
}

/// The exit code at the end: results that could not be written are no success.
pub fn finish(code: u8) -> u8 {
    if code == 0 && LOST.load(Ordering::Relaxed) {
        complain("ufold: the output could not be written");
        return 5;
    }
    code
}

/// The text with nothing in it that a terminal would obey but lines, tabs and our own colours.
fn harmless(text: &str, json: bool) -> String {
    let plain = |c: char| (c >= ' ' && c != '\x7f' || c == '\n' || c == '\t') && !turns(c);
    if text.chars().all(plain) {
        return text.to_string();
    }
    let mut out = String::with_capacity(text.len() + 64);
    let mut rest = text;
    while let Some(c) = rest.chars().next() {
        if let Some(own) = rest.strip_prefix(mark()) {
            out.push('\x1b');
            rest = own;
            continue;
        }
        rest = &rest[c.len_utf8()..];
        match c {
            '\r' if rest.starts_with('\n') => out.push(c),
            c if plain(c) => out.push(c),
            c if json => out.push_str(&format!("\\u{:04x}", c as u32)),
            '\0'..=' ' => out.push(char::from_u32(0x2400 + c as u32).unwrap_or('?')),
            '\x7f' => out.push('\u{2421}'),
            c => out.push_str(&format!("<U+{:04X}>", c as u32)),
        }
    }
    out
}

/// Controls beyond ASCII, and what changes the direction of text (Unicode Standard Annex 9) or the lines of it.
fn turns(c: char) -> bool {
    matches!(c, '\u{80}'..='\u{9f}' | '\u{61c}' | '\u{200e}' | '\u{200f}' | '\u{2028}'..='\u{202e}' | '\u{2066}'..='\u{2069}')
}

#[cfg(test)]
mod tests {
    use super::{harmless, mark};

    #[test]
    fn only_own_colours_reach_the_terminal() {
        let cases = [
            ("plain äöü ⟨1⟩\tx\n", "plain äöü ⟨1⟩\tx\n"),
            ("\x1b[31mred\x1b[0m", "␛[31mred␛[0m"),
            ("line\r\n over\rwritten", "line\r\n over␍written"),
            ("a\u{202e}b\u{9b}8m\x7f\x07", "a<U+202E>b<U+009B>8m␡␇"),
        ];
        for (given, shown) in cases {
            assert_eq!(harmless(given, false), shown);
        }
        assert_eq!(harmless(&format!("{}[1mours", mark()), false), "\x1b[1mours");
        let json = harmless("{\"a\": \"x\u{202e}y\"}", true);
        let value: serde_json::Value = serde_json::from_str(&json).expect("still JSON");
        assert_eq!(value["a"], "x\u{202e}y");
        assert!(json.is_ascii());
    }
}
