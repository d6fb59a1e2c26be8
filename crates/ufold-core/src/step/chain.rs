//! Changes that come after each other, each planned on the text that those before it leave.

use std::collections::BTreeMap;
use std::sync::Arc;

use crate::change::{Code, FileEdits, Found, Link, Outcome, Place, Reason, place_of, sha256};
use crate::index::Project;
use crate::names::Source;
use crate::text::{Edit, Span, apply_edits, compose_edits};

/// The file while it is changed.
#[derive(Clone)]
pub(super) struct Progress {
    pub(super) original: Arc<Source>,
    pub(super) now: Arc<Source>,
    /// From the first text to the one that is now.
    edits: Vec<Edit>,
    /// The text that places speak of: the first, or the one that was settled.
    pub(super) base: Arc<Source>,
    since: Vec<Edit>,
}

impl Progress {
    /// From here on places speak of the text that is now.
    pub(super) fn settle(&mut self) {
        (self.base, self.since) = (self.now.clone(), Vec::new());
    }

    /// A place of the text that places speak of in the text that is now; none where it was edited.
    pub(super) fn moved(&self, place: &Place) -> Option<Place> {
        let span = Span::new(place.start_byte, place.end_byte);
        if self.since.iter().any(|e| e.span.overlaps(span) || span.start < e.span.start && e.span.start < span.end) {
            return None;
        }
        let before = self.since.iter().filter(|e| e.span.end <= span.start);
        let shift: i64 = before.map(|e| e.text.len() as i64 - (e.span.end - e.span.start) as i64).sum();
        let at = |byte: usize| (byte as i64 + shift) as usize;
        Some(place_of(&self.now, Span::new(at(span.start), at(span.end))))
    }

    /// A line of the text that is now in the first one; of new text, the place where it was put.
    pub(super) fn line_before(&self, line: usize) -> usize {
        let byte = self.now.lines.start_of(line).unwrap_or(self.now.text.len());
        let mut shift = 0i64;
        for e in &self.edits {
            let start = (e.span.start as i64 + shift) as usize;
            if byte < start {
                break;
            }
            if byte < start + e.text.len() {
                return self.original.lines.line(e.span.start);
            }
            shift += e.text.len() as i64 - (e.span.end - e.span.start) as i64;
        }
        self.original.lines.line((byte as i64 - shift).max(0) as usize)
    }

    pub(super) fn new(s: &Arc<Source>) -> Progress {
        Progress { original: s.clone(), now: s.clone(), edits: Vec::new(), base: s.clone(), since: Vec::new() }
    }

    /// What is asked of the text that is now.
    pub(super) fn asked<T>(&self, project: &Project, ask: impl FnOnce(&Project) -> T) -> Found<T> {
        if self.edits.is_empty() {
            return Ok(ask(project));
        }
        project.with_texts(std::slice::from_ref(&self.now), ask).map_err(|e| self.unreadable(e))
    }

    fn unreadable(&self, message: String) -> Vec<Reason> {
        vec![Reason { code: Code::Unreadable, message, file: self.original.path.clone(), line: 1 }]
    }

    /// The text after a link.
    pub(super) fn follow(&mut self, project: &Project, link: &Link) -> Found<()> {
        link.result.files.iter().try_for_each(|f| self.edited(project, f))
    }

    fn edited(&mut self, project: &Project, f: &FileEdits) -> Found<()> {
        let wrong = |e: String| self.unreadable(e);
        let text = apply_edits(&self.now.text, &f.edits).map_err(|e| wrong(e.to_string()))?;
        let on = |from: &Source, edits: &[Edit]| {
            compose_edits(from.text.len(), edits, &f.edits).map_err(|e| wrong(e.to_string()))
        };
        let (edits, since) = (on(&self.original, &self.edits)?, on(&self.base, &self.since)?);
        let now = project.parse(&f.file, text.into()).map_err(wrong)?;
        (self.now, self.edits, self.since) = (Arc::new(now), edits, since);
        Ok(())
    }

    /// A link more, unless it is refused.
    pub(super) fn add(&mut self, out: &mut Outcome, project: &Project, link: Link) -> Found<()> {
        let own = |r: &Reason| Reason { line: self.line_before(r.line), ..r.clone() };
        let reasons: Vec<Reason> = link.result.reasons.iter().map(own).collect();
        if link.result.is_refused() {
            return Err(reasons);
        }
        if let Some(f) = link.result.files.iter().find(|f| f.file != self.original.path || f.creates) {
            let message = "a part of the change is in another file".to_string();
            return Err(vec![Reason { code: Code::NoHome, message, file: f.file.clone(), line: 1 }]);
        }
        out.reasons.extend(reasons);
        out.verdict = out.verdict.max(link.result.verdict);
        out.remarks.extend(link.result.remarks.iter().cloned());
        self.follow(project, &link)?;
        out.links.push(link);
        Ok(())
    }

    /// All edits as those of the first text, and the lines that are saved.
    pub(super) fn finish(self) -> (Vec<FileEdits>, i64) {
        let lines = |text: &str| text.matches('\n').count() as i64;
        let (s, saves) = (&self.original, lines(&self.original.text) - lines(&self.now.text));
        let (file, sha256) = (s.path.clone(), sha256(&*s.text));
        (vec![FileEdits { file, sha256, creates: false, moves_to: None, goes: false, edits: self.edits }], saves)
    }
}

/// Changes of several files that come after each other.
#[derive(Clone, Default)]
pub(super) struct Several {
    files: BTreeMap<String, Progress>,
}

impl Several {
    /// The file as it is now.
    pub(super) fn now(&self, s: &Arc<Source>) -> Arc<Source> {
        self.files.get(&s.path).map_or(s, |p| &p.now).clone()
    }

    /// What is asked of the texts that are now.
    pub(super) fn asked<T>(&self, project: &Project, ask: impl FnOnce(&Project) -> T) -> Found<T> {
        let now: Vec<Arc<Source>> = self.files.values().map(|p| p.now.clone()).collect();
        let fault = |message: String| vec![Reason { code: Code::Unreadable, message, file: String::new(), line: 1 }];
        if now.is_empty() { Ok(ask(project)) } else { project.with_texts(&now, ask).map_err(fault) }
    }

    /// A reason with its line as it was at first.
    pub(super) fn before(&self, r: &Reason) -> Reason {
        let line = self.files.get(&r.file).map_or(r.line, |p| p.line_before(r.line));
        Reason { line, ..r.clone() }
    }

    /// The texts after a link.
    pub(super) fn follow(&mut self, project: &Project, link: &Link) -> Found<()> {
        for f in &link.result.files {
            let fault =
                |message: String| vec![Reason { code: Code::Unreadable, message, file: f.file.clone(), line: 1 }];
            if f.goes || f.creates || f.moves_to.is_some() {
                return Err(fault("nothing would be left of this file".into()));
            }
            if !self.files.contains_key(&f.file) {
                let index = project.index(&f.file).ok_or_else(|| fault("not a file of the project".into()))?;
                let s = project.source(index).map_err(fault)?;
                self.files.insert(f.file.clone(), Progress::new(&s));
            }
            self.files.get_mut(&f.file).expect("it was put there").edited(project, f)?;
        }
        Ok(())
    }

    /// All edits as those of the first texts, and the lines that are saved.
    pub(super) fn finish(self) -> (Vec<FileEdits>, i64) {
        let each: Vec<(Vec<FileEdits>, i64)> = self.files.into_values().map(Progress::finish).collect();
        let saves = each.iter().map(|e| e.1).sum();
        (each.into_iter().flat_map(|e| e.0).collect(), saves)
    }
}
