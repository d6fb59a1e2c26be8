//! The edits of a plan, collected by file.

use std::collections::BTreeMap;
use std::sync::Arc;

use crate::change::{FileEdits, sha256};
use crate::names::Source;
use crate::text::Edit;

/// Edits by file, in the line ends of each.
#[derive(Clone, Default)]
pub struct Edits {
    files: BTreeMap<String, (Arc<str>, Vec<Edit>)>,
}

impl Edits {
    pub fn add(&mut self, source: &Source, mut edit: Edit) {
        if source.habits().line_end == "\r\n" {
            edit.text = edit.text.replace("\r\n", "\n").replace('\n', "\r\n");
        }
        match self.files.get_mut(&source.path) {
            Some(f) => f.1.push(edit),
            None => {
                self.files.insert(source.path.clone(), (source.text.clone(), vec![edit]));
            }
        }
    }

    /// Edits in order of files and places, and lines removed less lines added.
    pub fn finish(self) -> (Vec<FileEdits>, i64) {
        let mut saves = 0;
        let mut out = Vec::new();
        for (file, (text, mut edits)) in self.files {
            edits.sort_by_key(|e| (e.span.start, e.span.end));
            for e in &edits {
                let old = text[e.span.start..e.span.end].matches('\n').count() as i64;
                saves += old - e.text.matches('\n').count() as i64;
            }
            out.push(FileEdits { file, sha256: sha256(&*text), creates: false, moves_to: None, goes: false, edits });
        }
        (out, saves)
    }
}
