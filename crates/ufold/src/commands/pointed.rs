//! What a person points at: a name or an expression in a file.

use std::sync::Arc;

use ufold_core::change::{Place, place_of};
use ufold_core::index::{Project, Target, name_at, name_of, target, value_at};
use ufold_core::lang::Language;
use ufold_core::names::Source;
use ufold_core::plan::resolve;
use ufold_core::step::{Plan, Request, plan};
use ufold_core::text::Span;
use ufold_project::Error;
use ufold_project::files::Disk;

use super::{Ranged, step};
use crate::args::StepFlags;
use crate::session::Session;

/// `FILE:LINE:COL`, `FILE:name` or `FILE:Class.name`.
pub fn name(s: &Session, project: &Project, typed: &str) -> Result<Place, Error> {
    let typed = &s.expanded(typed);
    let wrong = || Error::Usage(format!("{typed} is no place such as fees.py:12:5, fees.py:due or fees.py:Ledger.due"));
    if let Some((path, line, column)) = line_and_column(typed) {
        let source = source(s, project, path)?;
        let byte = source.lines.byte_at(&source.text, line, column);
        let span = byte.and_then(|b| name_at(&source, b));
        let none = || Error::Usage(format!("no name stands at {path}:{line}:{column}"));
        return Ok(place_of(&source, span.ok_or_else(none)?));
    }
    let (path, name) = typed.rsplit_once(':').ok_or_else(wrong)?;
    let source = source(s, project, path)?;
    let span = name_of(&source, name).ok_or_else(|| Error::Usage(format!("{path} defines no `{name}`")))?;
    Ok(place_of(&source, span))
}

/// One or several names of a file: `FILE:name,name`, `FILE:Class.name,name`, or one place.
pub fn names(s: &Session, project: &Project, typed: &str) -> Result<Vec<Place>, Error> {
    let Some((path, all)) = typed.rsplit_once(':').filter(|(_, names)| names.contains(',')) else {
        return Ok(vec![name(s, project, typed)?]);
    };
    // the class of the first is that of those without one
    let class = all.split(',').next().and_then(|first| first.rsplit_once('.')).map(|(class, _)| class);
    let one = |word: &str| match class.filter(|_| !word.contains('.')) {
        Some(class) => name(s, project, &format!("{path}:{class}.{word}")),
        None => name(s, project, &format!("{path}:{word}")),
    };
    all.split(',').map(|word| one(word.trim())).collect()
}

/// A function: `FILE:name`, `FILE:Class.name`, or any line of it.
pub fn function(s: &Session, project: &Project, typed: &str) -> Result<Place, Error> {
    let Some(pointer) = s.pointer(typed)? else { return name(s, project, typed) };
    let source = source(s, project, &pointer.file)?;
    let none = || Error::Usage(format!("{} has no line {}", pointer.file, pointer.line));
    let start = source.lines.start_of(pointer.line).ok_or_else(none)?;
    let line = source.text[start..].lines().next().unwrap_or("");
    let blank = line.len() - line.trim_start().len();
    Ok(place_of(&source, Span::new(start + blank, start + line.trim_end().len().max(blank))))
}

/// An expression: the one at `FILE:LINE:COL`, or all of `FILE:RANGE`.
pub fn value(s: &Session, project: &Project, typed: &str) -> Result<Place, Error> {
    let typed = &s.expanded(typed);
    if let Some((path, line, column)) = line_and_column(typed) {
        let source = source(s, project, path)?;
        let byte = source.lines.byte_at(&source.text, line, column);
        let span = byte.and_then(|b| value_at(&source, b));
        let none = || Error::Usage(format!("no value stands at {path}:{line}:{column}"));
        return Ok(place_of(&source, span.ok_or_else(none)?));
    }
    let ranged = Ranged::parse(typed)?;
    let source = source(s, project, &ranged.path)?;
    let span: Span = ranged.span(&source)?;
    Ok(place_of(&source, resolve(&source, span).unwrap_or(span)))
}

fn line_and_column(typed: &str) -> Option<(&str, usize, usize)> {
    let (rest, column) = typed.rsplit_once(':')?;
    let (path, line) = rest.rsplit_once(':')?;
    Some((path, line.parse().ok()?, column.parse().ok()?))
}

pub fn source(s: &Session, project: &Project, typed: &str) -> Result<Arc<Source>, Error> {
    let path = s.path(typed)?;
    let file = project.index(&path).ok_or_else(|| Error::Usage(format!("{path} is no source file of the project")))?;
    project.source(file).map_err(Error::Environment)
}

/// Plans and carries out a step at one place.
pub fn run(
    s: &Session,
    flags: &StepFlags,
    save: Option<&std::path::Path>,
    request: impl FnOnce(&Project) -> Result<Request, Error>,
) -> anyhow::Result<u8> {
    let scanned = s.scan(&[])?;
    let disk = Disk::new(&s.root, &scanned);
    let project = Project::new(&scanned.facts, &disk);
    let request = request(&project)?;
    let plan: Plan = plan(&project, &request);
    step::save(s, &plan, save)?;
    step::carry_out(s, &plan, flags)
}

/// A variable's name, with the mark that all of them begin with.
pub fn as_variable(lang: &dyn Language, name: &str) -> String {
    let mark = lang.variable_mark();
    format!("{mark}{}", name.trim_start_matches(mark))
}

/// A name that a person typed for something new: a variable's may lack the mark that all of them begin with.
pub fn new_name(project: &Project, place: &Place, name: &str) -> Result<String, Error> {
    let file = project.index(&place.file).and_then(|f| project.source(f).ok());
    let fits = |f: &Arc<Source>| match target(f, Span::new(place.start_byte, place.end_byte)) {
        Some(Target::Member(_)) => f.lang.is_member_identifier(name),
        _ => f.lang.is_identifier(name),
    };
    let is_variable = |f: &&Arc<Source>| f.text[place.start_byte..].starts_with(f.lang.variable_mark());
    match file.as_ref().filter(|f| fits(f)) {
        Some(f) => Ok(Some(f).filter(is_variable).map_or(name.to_string(), |f| as_variable(f.lang, name))),
        None => Err(Error::Usage(format!("`{name}` can't be a name"))),
    }
}
