//! `extract --variable`: what was written is right when inlining the variable is, and gives the old text back. So the new
//! text is taken for the old one, and the claim of an inlining is checked on it.

use std::sync::Arc;

use super::file::File;
use super::repeated::Told;
use super::{Objection, Opinion, inlined, object};
use crate::change::{FileEdits, Outcome, place_of, sha256};
use crate::index::Project;
use crate::index::constants::{tells_types, typed_by_place};
use crate::text::{Edit, Span, apply_edits};
use crate::tree::{Field, Role, Tree};

pub(super) fn run(project: &Project, name: &str, result: &Outcome, told: &Told) -> Opinion<()> {
    let nowhere = |message: &str| Objection { message: message.into(), file: String::new(), line: 1 };
    let [f] = result.files.as_slice() else { return Err(nowhere("a variable is written in one file")) };
    let index = project.index(&f.file).ok_or_else(|| nowhere("not a file of the project"))?;
    let old = project.source(index).map_err(|e| nowhere(&e))?;
    let text = apply_edits(&old.text, &f.edits).map_err(|e| nowhere(&e.to_string()))?;
    let new = Arc::new(project.parse(&f.file, text.into()).map_err(|e| nowhere(&e))?);
    if new.tree.errors().len() != old.tree.errors().len() {
        return object(&new, Tree::ROOT, "the new text does not parse");
    }
    let mut back: Vec<Edit> = Vec::new();
    let mut shift = 0i64;
    let mut edits: Vec<&Edit> = f.edits.iter().collect();
    edits.sort_by_key(|e| (e.span.start, e.span.end));
    for e in edits {
        let start = (e.span.start as i64 + shift) as usize;
        back.push(Edit::new(start, start + e.text.len(), old.text[e.span.start..e.span.end].to_string()));
        shift += e.text.len() as i64 - (e.span.end - e.span.start) as i64;
    }
    let taken = f.edits.iter().filter(|e| e.span.start < e.span.end).map(|e| old.tree.covering(e.span));
    for value in taken {
        if old.breaks_outside_brackets(value) {
            return object(&old, value, "a value of several lines without brackets");
        }
        if old.lang.is_several(&old, value) {
            return object(&old, value, "this may be several values here");
        }
        if old.lang.is_place(&old, value) {
            return object(&old, value, "this stands for a variable, and the new one is another");
        }
        if typed_by_place(project, &old, value) || tells_types(&old, value) {
            return object(&old, value, "the type of this comes from its place, or it tells one");
        }
    }
    let t = &new.tree;
    let added = back.iter().filter(|e| e.text.is_empty()).map(|e| e.span);
    let target = added.flat_map(|span| t.ids().filter(move |n| span.contains(t.span(*n)))).find(|n| {
        let bound = t.role(*n) == Role::Name && matches!(t.field(*n), Field::Left | Field::Name);
        bound && new.str(*n) == name && new.names.at(*n).is_some_and(|r| r.usage.writes())
    });
    let Some(target) = target else { return object(&new, Tree::ROOT, "no variable was declared") };
    let place = place_of(&new, Span::new(t.span(target).start, t.span(target).end));
    let sha256 = sha256(&*new.text);
    let back = FileEdits { file: f.file.clone(), sha256, creates: false, moves_to: None, goes: false, edits: back };
    let opinion = project.with_texts(std::slice::from_ref(&new), |p| {
        let file = File::new(p, &back)?;
        // what was computed on some ways only may fail on others
        let told = Told { plain: told.plain.clone(), ..Told::default() };
        inlined::run(p, (&place, false), &[file], &told)
    });
    opinion.map_err(|e| nowhere(&e))?
}
