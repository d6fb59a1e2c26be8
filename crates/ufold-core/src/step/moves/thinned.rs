//! A file without what goes: where the rest is put is looked for there, and said as edits of the old text.

use super::Move;
use crate::change::{Code, Found, reason};
use crate::names::Source;
use crate::plan::imports::{add_import, within_width};
use crate::text::{Edit, apply_edits};
use crate::tree::Tree;

pub(super) struct Thinned {
    pub source: Source,
    /// In order, and apart.
    gone: Vec<Edit>,
    added: Vec<Edit>,
}

impl Thinned {
    pub fn new(m: &Move, s: &Source, mut removed: Vec<Edit>) -> Found<Thinned> {
        removed.sort_by_key(|e| e.span.start);
        let mut gone: Vec<Edit> = Vec::new();
        for e in removed {
            match gone.last_mut().filter(|l| e.span.start < l.span.end) {
                Some(l) => l.span.end = l.span.end.max(e.span.end),
                None => gone.push(e),
            }
        }
        let fault = |e: String| vec![reason(s, Tree::ROOT, Code::Internal, e)];
        let text = apply_edits(&s.text, &gone).map_err(|e| fault(e.to_string()))?;
        let source = m.project.parse(&s.path, text.into()).map_err(fault)?;
        Ok(Thinned { source, gone, added: Vec::new() })
    }

    /// A place of the old text in the new one.
    pub fn there(&self, old: usize) -> usize {
        let before = self.gone.iter().filter(|e| e.span.start < old);
        old - before.map(|e| e.span.end.min(old) - e.span.start).sum::<usize>()
    }

    /// The place in the old text; before what went there.
    fn back(&self, at: usize) -> usize {
        let mut old = at;
        for e in &self.gone {
            if old <= e.span.start {
                break;
            }
            old += e.span.end - e.span.start;
        }
        old
    }

    /// Puts something in, at a place of the new text.
    pub fn add(&mut self, edit: Edit) {
        let at = self.back(edit.span.start);
        match self.added.iter_mut().find(|e| e.span.start == at) {
            // lines above the first one
            Some(e) if e.text.ends_with('\n') && !e.text.starts_with('\n') => {
                e.text = format!("{}\n{}", e.text.trim_end_matches('\n'), edit.text);
            }
            Some(e) => e.text.push_str(&edit.text),
            None => self.added.push(Edit::new(at, at, edit.text)),
        }
    }

    /// An import among the others.
    pub fn import(&mut self, line: &str, name: &str) {
        let line = &within_width(&self.source, line, name);
        let text = &self.source.text;
        let alone = || match text.trim().is_empty() {
            true => Edit::new(text.len(), text.len(), format!("{line}\n")),
            false => Edit::new(text.trim_end().len(), text.trim_end().len(), format!("\n\n{line}")),
        };
        self.add(add_import(&self.source, line, name).unwrap_or_else(alone));
    }

    /// Below all else.
    pub fn add_at_end(&mut self, text: &str) {
        let end = self.source.text.trim_end().len();
        self.add(Edit::new(end, end, format!("\n\n{text}")));
    }

    pub fn edits(self) -> Vec<Edit> {
        self.gone.into_iter().chain(self.added).collect()
    }
}
