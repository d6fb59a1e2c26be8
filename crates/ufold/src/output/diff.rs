//! Unified diffs, changes inside a line marked.

use std::io::Write;

use ufold_core::text::{DiffTag, FileDiff, diff_from, file_diff};

use super::Paint;

/// Prints the diff of one file; no text: there is no file.
pub fn print_diff(
    out: &mut impl Write,
    paint: Paint,
    path: &str,
    old: Option<&str>,
    new: Option<&str>,
) -> std::io::Result<()> {
    let name = |side: &str, text: Option<&str>| text.map_or("/dev/null".to_string(), |_| format!("{side}/{path}"));
    print_hunks(out, paint, [name("a", old), name("b", new)], [old.unwrap_or(""), new.unwrap_or("")])
}

/// Prints the diff of a file that moves, in git's extended form, which `git apply` reads.
pub fn print_move(out: &mut impl Write, paint: Paint, paths: [&str; 2], texts: [&str; 2]) -> std::io::Result<()> {
    let [from, to] = paths;
    for line in [format!("diff --git a/{from} b/{to}"), format!("rename from {from}"), format!("rename to {to}")] {
        writeln!(out, "{}", paint.strong(&line))?;
    }
    print_hunks(out, paint, [format!("a/{from}"), format!("b/{to}")], texts)
}

/// Prints how one text differs from another.
fn print_hunks(out: &mut impl Write, paint: Paint, names: [String; 2], texts: [&str; 2]) -> std::io::Result<()> {
    print_file(out, paint, names, &file_diff(texts[0], texts[1]))
}

/// Prints how a part of a file differs from a part of another one, with the lines at which they begin.
pub fn print_parts(
    out: &mut impl Write,
    paint: Paint,
    names: [String; 2],
    texts: [&str; 2],
    first: [usize; 2],
) -> std::io::Result<()> {
    print_file(out, paint, names, &diff_from(texts[0], texts[1], first))
}

fn print_file(out: &mut impl Write, paint: Paint, names: [String; 2], diff: &FileDiff) -> std::io::Result<()> {
    writeln!(out, "{}", paint.strong(&format!("--- {}", names[0])))?;
    writeln!(out, "{}", paint.strong(&format!("+++ {}", names[1])))?;
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
                let says = !piece.trim().is_empty();
                text.push_str(&if *marked && says && !all_marked { paint.changed(piece, added) } else { plain(piece) });
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
