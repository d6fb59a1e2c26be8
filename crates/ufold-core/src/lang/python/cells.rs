//! Notebooks (nbformat 4): the code cells as one script, and a changed script as cells again.
//!
//! Each cell begins with a line that says its number, counted as all cells are. Lines that only the notebook understands
//! (`%time`, `!ls`, `rows?`) are comments with a sign of their own in the script, and themselves again in the notebook.
//! Only the sources of changed cells are written; outputs, metadata and all else stay byte for byte. A cell of another
//! language (`%%bash`) is no part of the script. Where an edit would take a cell's first line along, nothing is written.

use serde::Deserialize;
use serde_json::value::RawValue;

/// What the first line of a cell begins with.
const CELL: &str = "#: cell ";

/// Before a line that is no Python.
const OPAQUE: &str = "#~ ";

/// Cell magics whose cells hold Python.
const PYTHON_CELLS: &[&str] = &["%%capture", "%%prun", "%%time", "%%timeit"];

#[derive(Deserialize)]
struct Notebook<'a> {
    nbformat: u32,
    #[serde(borrow)]
    cells: Vec<&'a RawValue>,
    #[serde(default)]
    metadata: Metadata,
}

#[derive(Deserialize, Default)]
struct Metadata {
    kernelspec: Option<Kernel>,
    language_info: Option<Named>,
}

#[derive(Deserialize)]
struct Kernel {
    language: Option<String>,
}

#[derive(Deserialize)]
struct Named {
    name: Option<String>,
}

#[derive(Deserialize)]
struct Cell<'a> {
    cell_type: String,
    #[serde(borrow)]
    source: &'a RawValue,
}

#[derive(Deserialize)]
#[serde(untagged)]
enum Lines {
    One(String),
    Many(Vec<String>),
}

/// A cell's kind and text, and the bytes of the file that hold the text.
pub struct Piece {
    pub is_code: bool,
    pub text: String,
    from: usize,
    to: usize,
}

/// All cells of a notebook.
pub fn pieces(file: &str) -> Result<Vec<Piece>, String> {
    let notebook: Notebook = serde_json::from_str(file).map_err(|e| format!("no notebook: {e}"))?;
    if notebook.nbformat != 4 {
        return Err(format!("nbformat {}, which is not read (4 is)", notebook.nbformat));
    }
    let language = notebook.metadata.language_info.and_then(|l| l.name);
    let language = language.or(notebook.metadata.kernelspec.and_then(|k| k.language));
    if let Some(other) = language.filter(|l| !l.eq_ignore_ascii_case("python")) {
        return Err(format!("a notebook of {other}"));
    }
    let piece = |raw: &&RawValue| {
        let cell: Cell = serde_json::from_str(raw.get()).map_err(|e| format!("no cell: {e}"))?;
        let text = match serde_json::from_str(cell.source.get()).map_err(|e| format!("no cell's source: {e}"))? {
            Lines::One(text) => text,
            Lines::Many(lines) => lines.concat(),
        };
        let from = cell.source.get().as_ptr() as usize - file.as_ptr() as usize;
        Ok(Piece { is_code: cell.cell_type == "code", text, from, to: from + cell.source.get().len() })
    };
    notebook.cells.iter().map(piece).collect()
}

/// A cell that the script holds.
pub fn is_python(piece: &Piece) -> bool {
    let magic = piece.text.trim_start().strip_prefix("%%");
    let word = magic.map(|m| m.split_whitespace().next().unwrap_or(""));
    piece.is_code && word.is_none_or(|w| PYTHON_CELLS.iter().any(|p| p[2..] == *w))
}

pub fn is_opaque_line(line: &str) -> bool {
    let text = line.trim();
    text.starts_with(['%', '!', '?']) || text.ends_with('?') && !text.starts_with('#') || shell_value(text)
}

/// `files = !ls` and `took = %time work()`.
fn shell_value(text: &str) -> bool {
    text.split_once('=').is_some_and(|(name, value)| {
        let plain = name.trim().chars().all(|c| c.is_alphanumeric() || c == '_');
        plain && !name.trim().is_empty() && value.trim_start().starts_with(['!', '%'])
    })
}

/// The script of a notebook.
pub fn script_of(file: &str) -> Result<String, String> {
    let mut out = String::new();
    for (i, p) in pieces(file)?.iter().enumerate().filter(|(_, p)| is_python(p)) {
        if !out.is_empty() {
            out.push('\n');
        }
        out.push_str(&format!("{CELL}{}\n\n", i + 1));
        for line in p.text.lines() {
            let own = line.trim_start().starts_with(OPAQUE) || line.starts_with(CELL);
            let indent = line.len() - line.trim_start().len();
            match own || is_opaque_line(line) {
                true => out.push_str(&format!("{}{OPAQUE}{}\n", &line[..indent], &line[indent..])),
                false => out.push_str(&format!("{line}\n")),
            }
        }
    }
    Ok(out)
}

/// The texts of the cells in a script, by their numbers.
fn cells_in(script: &str) -> Vec<(usize, String)> {
    let mut out: Vec<(usize, String)> = Vec::new();
    for line in script.lines() {
        if let Some(number) = line.strip_prefix(CELL).and_then(|n| n.trim().parse().ok()) {
            out.push((number, String::new()));
        } else if let Some((_, text)) = out.last_mut() {
            let indent = line.len() - line.trim_start().len();
            let own = line[indent..].strip_prefix(OPAQUE).map(|rest| format!("{}{rest}", &line[..indent]));
            text.push_str(own.as_deref().unwrap_or(line));
            text.push('\n');
        }
    }
    out.iter_mut().for_each(|(_, t)| *t = t.trim_matches('\n').to_string());
    out
}

/// A notebook with the changed cells of a script.
pub fn file_of(file: &str, script: &str) -> Result<String, String> {
    let old = pieces(file)?;
    let cells = cells_in(script);
    let numbers = |list: &[(usize, String)]| list.iter().map(|(n, _)| *n).collect::<Vec<_>>();
    if numbers(&cells) != numbers(&cells_in(&script_of(file)?)) {
        return Err("the change crosses the border of a cell".into());
    }
    let mut out = file.to_string();
    for (number, text) in cells.iter().rev() {
        let piece = &old[number - 1];
        let returns = piece.text.contains("\r\n");
        if piece.text.replace("\r\n", "\n").trim_matches('\n') == text {
            continue;
        }
        let text = if returns { text.replace('\n', "\r\n") } else { text.clone() };
        let raw = &file[piece.from..piece.to];
        out.replace_range(piece.from..piece.to, &written(raw, &text));
    }
    Ok(out)
}

/// A text as JSON, in the form that the old one has.
fn written(old: &str, text: &str) -> String {
    let json = |t: &str| serde_json::Value::from(t).to_string();
    let lines: Vec<String> = text.split_inclusive('\n').map(json).collect();
    if old.starts_with('"') {
        return json(text);
    }
    // an empty list says nothing about how lines are indented
    let gap = &old[1..old.find('"').unwrap_or(1)];
    let gap = if gap.is_empty() && old == "[]" { "\n    " } else { gap };
    let close: String = match (gap.rfind('\n'), old.rfind('"')) {
        (Some(_), Some(last)) => old[last + 1..old.len() - 1].to_string(),
        (Some(_), None) => "\n   ".to_string(),
        (None, _) => String::new(),
    };
    match lines.is_empty() {
        true => "[]".into(),
        false => format!("[{gap}{}{close}]", lines.join(&format!(",{}", if gap.is_empty() { " " } else { gap }))),
    }
}

/// The cell of a script's line, and the line in it, both from 1.
pub fn cell_at(script: &str, line: usize) -> Option<(usize, usize)> {
    let (at, number) = starts(script).into_iter().rev().find(|(at, _)| *at <= line)?;
    Some((number, (line + 1).saturating_sub(at + 2).max(1)))
}

/// The script's line of a cell's line.
pub fn line_in(script: &str, cell: usize, line: usize) -> Option<usize> {
    let all = starts(script);
    let i = all.iter().position(|(_, n)| *n == cell)?;
    let found = all[i].0 + 1 + line;
    all.get(i + 1).is_none_or(|(next, _)| found < *next).then_some(found)
}

/// Lines at which cells begin, with their numbers.
fn starts(script: &str) -> Vec<(usize, usize)> {
    let number = |l: &str| l.strip_prefix(CELL).and_then(|n| n.trim().parse().ok());
    script.lines().enumerate().filter_map(|(i, l)| Some((i + 1, number(l)?))).collect()
}

/// A comment that stands for a line of the notebook's own.
pub fn is_opaque(comment: &str) -> bool {
    comment.starts_with(OPAQUE)
}

/// A comment that a cell begins with.
pub fn begins_cell(comment: &str) -> bool {
    comment.starts_with(CELL)
}

#[cfg(test)]
mod tests {
    use super::{cell_at, file_of, line_in, script_of};

    const FILE: &str = "{\n \"cells\": [\n  {\n   \"cell_type\": \"markdown\",\n   \"metadata\": {},\n   \"source\": [\n    \"# Tides\"\n   ]\n  },\n  {\n   \"cell_type\": \"code\",\n   \"execution_count\": 3,\n   \"metadata\": {\"kept\": 1},\n   \"outputs\": [{\"text\": \"é\\u00e9\"}],\n   \"source\": [\n    \"%matplotlib inline\\n\",\n    \"level = 3\\n\",\n    \"level\"\n   ]\n  },\n  {\"cell_type\": \"code\", \"metadata\": {}, \"outputs\": [], \"source\": \"print(level)\"}\n ],\n \"metadata\": {},\n \"nbformat\": 4,\n \"nbformat_minor\": 5\n}\n";

    #[test]
    fn the_same_script_gives_the_same_file() {
        let script = script_of(FILE).expect("a notebook");
        assert_eq!(script, "#: cell 2\n\n#~ %matplotlib inline\nlevel = 3\nlevel\n\n#: cell 3\n\nprint(level)\n");
        assert_eq!(file_of(FILE, &script).expect("it fits"), FILE);
    }

    #[test]
    fn only_changed_cells_are_written() {
        let script = script_of(FILE).expect("a notebook").replace("level", "height");
        let expected = FILE.replace("level = 3", "height = 3").replace("\"level\"", "\"height\"");
        let expected = expected.replace("print(level)", "print(height)");
        assert_eq!(file_of(FILE, &script).expect("it fits"), expected);
    }

    #[test]
    fn ends_of_lines_stay() {
        let file = FILE.replace("level = 3\\n", "level = 3\\r\\n");
        let script = script_of(&file).expect("a notebook");
        assert_eq!(file_of(&file, &script).expect("it fits"), file);
        let changed = file_of(&file, &script.replace("level = 3", "level = 4")).expect("it fits");
        assert!(changed.contains("level = 4\\r\\n") && !changed.contains("level = 3"), "{changed}");
    }

    #[test]
    fn a_border_stays() {
        let script = script_of(FILE).expect("a notebook").replace("#: cell 3\n", "");
        assert!(file_of(FILE, &script).is_err());
    }

    #[test]
    fn lines_are_counted_in_their_cells() {
        let script = script_of(FILE).expect("a notebook");
        for (line, cell) in [(4, (2, 2)), (5, (2, 3)), (9, (3, 1))] {
            assert_eq!(cell_at(&script, line), Some(cell));
            assert_eq!(line_in(&script, cell.0, cell.1), Some(line));
        }
        assert_eq!(line_in(&script, 2, 9), None);
        assert_eq!(line_in(&script, 1, 1), None);
    }
}
