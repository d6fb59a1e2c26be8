//! A file read for planning: text, tree and names together.

use std::sync::Arc;

use super::Names;
use crate::lang::{Language, ModuleName};
use crate::text::LineIndex;
use crate::tree::{NodeId, ParseError, Tree, parse};

pub struct Source {
    /// Relative to the root, with `/`.
    pub path: String,
    pub text: Arc<str>,
    pub tree: Tree,
    pub names: Names,
    pub lines: LineIndex,
    pub lang: &'static dyn Language,
    pub module: Option<ModuleName>,
}

impl Source {
    pub fn new(
        path: &str,
        text: Arc<str>,
        lang: &'static dyn Language,
        module: Option<ModuleName>,
    ) -> Result<Source, ParseError> {
        let tree = parse(&text, lang)?;
        let names = lang.names(&tree, &text);
        let lines = LineIndex::new(&text);
        Ok(Source { path: path.to_string(), text, tree, names, lines, lang, module })
    }

    pub fn str(&self, id: NodeId) -> &str {
        self.tree.text(id, &self.text)
    }
    /// Line of a node's start, from 1.
    pub fn line(&self, id: NodeId) -> usize {
        self.lines.line(self.tree.span(id).start)
    }
}
