//! A notebook as a script for people: cells in order, texts as comments, what a cell shows is printed.
//!
//! Lines that only the notebook understands, and cells of other languages, are comments; what they gave a value to is missing
//! then. Code that can't be parsed stays as it is.

use super::PYTHON;
use super::cells::{Piece, is_opaque_line, is_python, pieces};
use super::shown::is_shown;
use crate::lang::Export;
use crate::text::{Edit, apply_edits};
use crate::tree::{Field, Role, Tree, parse};

/// Calls that give nothing, by their last words: to print that would only be noise.
const GIVES_NOTHING: &[&str] = &["append", "clear", "display", "extend", "print", "savefig", "show", "sort", "update"];

/// `quiet`: without what cells show, and without lines that only print.
pub fn script(file: &str, quiet: bool) -> Result<Export, String> {
    let mut out = Export::default();
    for (i, piece) in pieces(file)?.iter().enumerate() {
        let text = match (piece.is_code, is_python(piece)) {
            (true, true) => code(piece, i + 1, quiet, &mut out.remarks),
            (true, false) => {
                out.remarks.push(format!("cell {} is of another language; it is a comment in the script", i + 1));
                comment(&piece.text)
            }
            (false, _) => {
                // a heading is a line as others
                let plain = |l: &str| l.trim_start_matches('#').trim_start().to_string() + "\n";
                comment(&piece.text.lines().map(plain).collect::<String>())
            }
        };
        let text = text.trim_matches('\n').trim_end();
        if !text.is_empty() {
            out.script.push_str(if out.script.is_empty() { "" } else { "\n" });
            out.script.push_str(text);
            out.script.push('\n');
        }
    }
    Ok(out)
}

fn comment(text: &str) -> String {
    text.lines().map(|l| format!("# {l}").trim_end().to_string() + "\n").collect()
}

fn code(piece: &Piece, number: usize, quiet: bool, remarks: &mut Vec<String>) -> String {
    let mut text = String::new();
    for line in piece.text.lines() {
        let own = is_opaque_line(line);
        let (indent, rest) = line.split_at(line.len() - line.trim_start().len());
        // a block may have nothing else in it
        let pass = if indent.is_empty() { "" } else { "pass  " };
        let line = if own { format!("{indent}{pass}# {rest}") } else { line.to_string() };
        text.push_str(line.trim_end());
        text.push('\n');
        if own && rest.contains('=') && !rest.starts_with(['%', '!']) {
            remarks.push(format!("cell {number}: `{rest}` gives no value in a script"));
        }
    }
    let Ok(t) = parse(&text, &PYTHON) else { return text };
    if !t.errors().is_empty() {
        remarks.push(format!("cell {number} could not be parsed; it stays as it is"));
        return text;
    }
    let callee = |n| t.children(n).next().and_then(|c| t.child(c, Field::Callee)).map_or("", |c| t.text(c, &text));
    let mut edits = Vec::new();
    for n in t.children(Tree::ROOT).filter(|n| t.role(*n) == Role::ExprStmt) {
        let span = t.span(n);
        let shows = is_shown(&t, &text, n);
        let silent = GIVES_NOTHING.contains(&callee(n).rsplit('.').next().unwrap_or(""));
        if quiet && (shows && !silent || callee(n) == "print") {
            let line = text[..span.start].rfind('\n').map_or(0, |k| k + 1);
            let end = text[span.end..].find('\n').map_or(text.len(), |k| span.end + k + 1);
            if text[line..span.start].trim().is_empty() && text[span.end..end].trim_matches([';', '\n', ' ']).is_empty()
            {
                edits.push(Edit::new(line, end, ""));
            }
        } else if shows && !silent {
            edits.push(Edit::new(span.start, span.start, "print("));
            edits.push(Edit::new(span.end, span.end, ")"));
        }
    }
    apply_edits(&text, &edits).unwrap_or(text)
}

#[cfg(test)]
mod tests {
    use super::script;

    fn notebook(cells: &[(&str, &str)]) -> String {
        let cell =
            |(kind, source): &(&str, &str)| serde_json::json!({"cell_type": kind, "metadata": {}, "source": source});
        let cells: Vec<_> = cells.iter().map(cell).collect();
        serde_json::json!({"cells": cells, "metadata": {}, "nbformat": 4, "nbformat_minor": 5}).to_string()
    }

    #[test]
    fn cells_become_a_script() {
        let file = notebook(&[
            ("markdown", "# Tides\nof two gauges"),
            ("code", "%matplotlib inline\nlevel = 3"),
            ("code", "for x in [1]:\n    %time x\n    print(x)\nlevel + \\\n  1"),
            ("code", "%%bash\nls"),
            ("code", "plot(level).show()"),
            ("code", "print(level)\nlevel;"),
        ]);
        let all = script(&file, false).expect("a notebook");
        let expected = "# Tides\n# of two gauges\n\n# %matplotlib inline\nlevel = 3\n\nfor x in [1]:\n    pass  # %time x\n    \
                        print(x)\nprint(level + \\\n  1)\n\n# %%bash\n# ls\n\nplot(level).show()\n\nprint(level)\nlevel;\n";
        assert_eq!(all.script, expected);
        assert_eq!(all.remarks.len(), 1);
        let quiet = script(&file, true).expect("a notebook").script;
        assert!(!quiet.contains("print(level") && quiet.contains("    print(x)"), "{quiet}");
    }
}
