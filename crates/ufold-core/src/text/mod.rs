//! Source text: byte offsets to lines and columns, byte-range edits, unified diffs.
//!
//! Lines and columns count from 1; a column is a Unicode code point, a tab counts one and a byte order mark counts
//! nothing. An edit replaces a half-open byte range; a list of edits must not overlap.

mod compose;
mod diff;
pub mod xml;
pub use compose::compose_edits;
pub use diff::{DiffLine, DiffTag, FileDiff, Run, diff_from, file_diff, side_by_side};

use serde::{Deserialize, Serialize};

/// Half-open byte range.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, schemars::JsonSchema)]
pub struct Span {
    pub start: usize,
    pub end: usize,
}

impl Span {
    pub fn new(start: usize, end: usize) -> Self {
        Self { start, end }
    }
    pub fn contains(&self, other: Span) -> bool {
        self.start <= other.start && other.end <= self.end
    }
    pub fn overlaps(&self, other: Span) -> bool {
        self.start < other.end && other.start < self.end
    }
}

/// Where each line begins.
#[derive(Clone, Debug, Default)]
pub struct LineIndex {
    starts: Vec<usize>,
    bom: bool,
}

impl LineIndex {
    pub fn new(text: &str) -> Self {
        let mut starts = vec![0];
        starts.extend(text.bytes().enumerate().filter(|(_, b)| *b == b'\n').map(|(i, _)| i + 1));
        Self { starts, bom: text.starts_with('\u{feff}') }
    }

    /// Line of a byte offset, from 1.
    pub fn line(&self, byte: usize) -> usize {
        self.starts.partition_point(|s| *s <= byte)
    }

    /// Number of lines; a final line end opens no further line.
    pub fn count(&self, text: &str) -> usize {
        if text.is_empty() { 0 } else { self.starts.len() - usize::from(text.ends_with('\n')) }
    }

    /// Byte offset at which a line (from 1) begins; `None` past the last line.
    pub fn start_of(&self, line: usize) -> Option<usize> {
        self.starts.get(line.checked_sub(1)?).copied()
    }

    /// Byte offset of a column (code points from 1) of a line (from 1); the line's end for a column past it.
    pub fn byte_at(&self, text: &str, line: usize, column: usize) -> Option<usize> {
        let start = self.start_of(line)? + if line == 1 && self.bom { 3 } else { 0 };
        let row = text[start..].split('\n').next().unwrap_or("");
        let within = row.char_indices().nth(column.checked_sub(1)?).map_or(row.len(), |(i, _)| i);
        Some(start + within)
    }

    /// Line and column, both from 1, columns in code points.
    pub fn position(&self, text: &str, byte: usize) -> (usize, usize) {
        let line = self.line(byte);
        let start = self.starts[line - 1];
        let skip = usize::from(line == 1 && self.bom && byte > 0);
        (line, text[start..byte].chars().count() + 1 - skip)
    }
}

/// Replace one byte range by a text.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
pub struct Edit {
    #[serde(flatten)]
    pub span: Span,
    pub text: String,
}

impl Edit {
    pub fn new(start: usize, end: usize, text: impl Into<String>) -> Self {
        Self { span: Span::new(start, end), text: text.into() }
    }
}

#[derive(Debug, thiserror::Error, PartialEq, Eq)]
pub enum EditError {
    #[error("two edits overlap at byte {0}")]
    Overlap(usize),
    #[error("an edit ends at byte {0}, outside the text or inside a character")]
    Outside(usize),
}

/// Applies edits in any order; insertions at one place keep their order.
pub fn apply_edits(text: &str, edits: &[Edit]) -> Result<String, EditError> {
    let mut sorted: Vec<&Edit> = edits.iter().collect();
    sorted.sort_by_key(|e| (e.span.start, e.span.end));
    let mut out = String::with_capacity(text.len());
    let mut at = 0;
    for e in sorted {
        if e.span.start < at {
            return Err(EditError::Overlap(e.span.start));
        }
        let kept = text.get(at..e.span.start).ok_or(EditError::Outside(e.span.start))?;
        if e.span.end < e.span.start || !text.is_char_boundary(e.span.end) {
            return Err(EditError::Outside(e.span.end));
        }
        out.push_str(kept);
        out.push_str(&e.text);
        at = e.span.end;
    }
    out.push_str(&text[at..]);
    Ok(out)
}

/// The line end that most lines of the text use.
pub fn line_end(text: &str) -> &'static str {
    let crlf = text.matches("\r\n").count();
    if crlf * 2 > text.matches('\n').count() { "\r\n" } else { "\n" }
}

/// White space at the start of the line that holds a byte offset.
pub fn indent_at(text: &str, byte: usize) -> &str {
    let start = text[..byte].rfind('\n').map_or(0, |i| i + 1);
    let line = &text[start..];
    let line = line.strip_prefix('\u{feff}').unwrap_or(line);
    &line[..line.len() - line.trim_start_matches([' ', '\t']).len()]
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn positions_count_code_points() {
        let text = "\u{feff}aé\n\tβx\n";
        let index = LineIndex::new(text);
        assert_eq!(index.position(text, text.find('é').unwrap()), (1, 2));
        assert_eq!(index.position(text, text.find('x').unwrap()), (2, 3));
        assert_eq!(index.count(text), 2);
    }

    #[test]
    fn overlapping_edits_are_refused() {
        let edits = [Edit::new(0, 3, "x"), Edit::new(2, 4, "y")];
        assert_eq!(apply_edits("abcdef", &edits), Err(EditError::Overlap(2)));
        assert_eq!(apply_edits("é", &[Edit::new(0, 1, "")]), Err(EditError::Outside(1)));
    }

    proptest! {
        /// Undoing an edit with its inverse gives the text back.
        #[test]
        fn an_edit_has_an_inverse(a in "[a-z\n]{0,20}", b in "[a-z\n]{0,20}", c in "[a-z\n]{0,20}", new in "[A-Z\n]{0,20}") {
            let text = format!("{a}{b}{c}");
            let edited = apply_edits(&text, &[Edit::new(a.len(), a.len() + b.len(), new.clone())]).unwrap();
            let back = apply_edits(&edited, &[Edit::new(a.len(), a.len() + new.len(), b)]).unwrap();
            prop_assert_eq!(back, text);
        }
    }
}
