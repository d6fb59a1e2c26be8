//! Places as people read and type them: `FILE:LINE`, and in files with cells `FILE:cCELL:LINE`.

use std::path::{Path, PathBuf};
use std::sync::OnceLock;

use ufold_core::lang::for_path;
use ufold_project::files::read;

static ROOT: OnceLock<PathBuf> = OnceLock::new();

/// Paths are relative to this folder from now on.
pub fn set_root(root: &Path) {
    let _ = ROOT.set(root.to_path_buf());
}

/// The cell of a line, and the line in it; none in files without cells.
fn cell(file: &str, line: usize) -> Option<(usize, usize)> {
    let lang = for_path(file).filter(|l| l.script_of("").is_some())?;
    lang.cell_at(&read(ROOT.get()?, file).ok()?, line)
}

/// A line of a file.
pub fn place(file: &str, line: usize) -> String {
    match cell(file, line) {
        Some((cell, line)) => format!("{file}:c{cell}:{line}"),
        None => format!("{file}:{line}"),
    }
}

/// Lines of a file.
pub fn places(file: &str, from: usize, to: usize) -> String {
    match cell(file, to) {
        Some((_, last)) => format!("{}-{last}", place(file, from)),
        None => format!("{file}:{from}-{to}"),
    }
}

/// The number that is shown before a line.
pub fn line_number(file: &str, line: usize) -> usize {
    cell(file, line).map_or(line, |(_, line)| line)
}

/// A typed place with the lines of cells as lines of the file; what says nothing of a cell stays as it is. `path`: the file's,
/// from how it was typed.
pub fn expanded(typed: &str, path: impl Fn(&str) -> Option<String>) -> String {
    let pattern = regex::Regex::new(r"^(.+):c(\d+):(\d+)((?::\d+)?)(?:-(\d+)((?::\d+)?))?$").expect("a fixed pattern");
    let Some(c) = pattern.captures(typed) else { return typed.to_string() };
    let number = |i: usize| c.get(i).and_then(|m| m.as_str().parse::<usize>().ok());
    let lines = || {
        let file = path(&c[1])?;
        let (lang, text) = (for_path(&file)?, read(ROOT.get()?, &file).ok()?);
        let line = |n: usize| lang.line_in_cell(&text, number(2)?, n);
        let first = line(number(3)?)?;
        let last = match number(5) {
            Some(n) => format!("-{}{}", line(n)?, c.get(6).map_or("", |m| m.as_str())),
            None => String::new(),
        };
        Some(format!("{}:{first}{}{last}", &c[1], &c[4]))
    };
    lines().unwrap_or_else(|| typed.to_string())
}
