//! Projects that live in memory, for tests.

use std::sync::Arc;

use crate::find::{FileFacts, facts};
use crate::index::Sources;
use crate::lang;
use crate::names::Source;
use crate::text::Span;
use crate::tree::{NodeId, parse};

/// Files by path.
pub struct Texts<'t>(pub &'t [(&'t str, &'t str)]);

impl Sources for Texts<'_> {
    fn text(&self, path: &str) -> Result<Arc<str>, String> {
        let found = self.0.iter().find(|(p, _)| *p == path);
        found.map(|(_, t)| Arc::from(*t)).ok_or_else(|| format!("no {path}"))
    }
}

impl Texts<'_> {
    pub fn facts(&self) -> Vec<FileFacts> {
        let one = |(path, text): &(&str, &str)| {
            let language = lang::for_path(path).expect("a known language");
            facts(path, text, &parse(text, language).expect("parses"), language)
        };
        self.0.iter().map(one).collect()
    }
}

/// A file with a part of it between `‹` and `›`, which are no part of the text.
pub fn marked(path: &str, text: &str) -> (Source, Span) {
    let (from, to) = (text.find('‹').expect("a start"), text.find('›').expect("an end"));
    let span = Span::new(from, to - '‹'.len_utf8());
    let text = text.replace(['‹', '›'], "");
    let language = lang::for_path(path).expect("a known language");
    let source = Source::new(path, text.as_str().into(), language, None).expect("parses");
    assert!(source.tree.errors().is_empty(), "does not parse: {text}");
    (source, span)
}

/// The largest node that fills a span.
pub fn node_at(s: &Source, span: Span) -> NodeId {
    s.tree.ids().find(|n| s.tree.span(*n) == span).expect("a node fills the marks")
}
