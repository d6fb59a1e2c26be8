//! Unified diffs, changes inside a line marked.

use std::io::Write;

use ufold_core::text::{DiffTag, file_diff};

use super::Paint;

/// Prints the diff of one file; no text: there is no file.
pub fn print_diff(
    out: &mut impl Write,
    paint: Paint,
    path: &str,
    old: Option<&str>,
    new: Option<&str>,
) -> std::io::Result<()> {
    let diff = file_diff(old.unwrap_or(""), new.unwrap_or(""));
    let name = |side: &str, text: Option<&str>| text.map_or("/dev/null".to_string(), |_| format!("{side}/{path}"));
    writeln!(out, "{}", paint.strong(&format!("--- {}", name("a", old))))?;
    writeln!(out, "{}", paint.strong(&format!("+++ {}", name("b", new))))?;
    for (header, lines) in &diff.hunks {
        writeln!(out, "{}", paint.faint(header))?;
        for l in lines {
            let (sign, added) = match l.tag {
                DiffTag::Same => (" ", false),
                DiffTag::Removed => ("-", false),
                DiffTag::Added => ("+", true),
            };
            let all_marked = l.pieces.iter().all(|(m, piece)| *m || piece.trim().is_empty());
            let mut text = String::new();
            for (marked, piece) in &l.pieces {
                let plain = |s: &str| match l.tag {
                    DiffTag::Same => s.to_string(),
                    DiffTag::Removed => paint.bad(s),
                    DiffTag::Added => paint.good(s),
                };
                text.push_str(&if *marked && !all_marked { paint.changed(piece, added) } else { plain(piece) });
            }
            let sign = match l.tag {
                DiffTag::Same => sign.to_string(),
                DiffTag::Removed => paint.bad(sign),
                DiffTag::Added => paint.good(sign),
            };
            writeln!(out, "{sign}{text}")?;
        }
    }
    Ok(())
}
