//! Projects that live in memory, for tests.

use std::sync::Arc;

use crate::find::{FileFacts, facts};
use crate::index::{Project, Sources};
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

/// Files after lines `--- path`, with marks in them: `‹ ›` around the word that is asked about, `« »` around others.
pub struct MarkedProject {
    pub files: Vec<(String, String)>,
    /// The word asked about, by file and byte.
    pub word: (usize, Span),
    /// All marked words, the one asked about among them.
    pub all: Vec<(usize, Span)>,
}

impl MarkedProject {
    pub fn new(text: &str) -> MarkedProject {
        let mut out = MarkedProject { files: Vec::new(), word: (usize::MAX, Span::new(0, 0)), all: Vec::new() };
        for (i, file) in text.split("--- ").skip(1).enumerate() {
            let (path, marked) = file.split_once('\n').expect("a path on a line");
            let (mut code, mut from) = (String::new(), 0);
            for c in marked.chars() {
                match c {
                    '‹' | '«' => from = code.len(),
                    '›' | '»' => {
                        let span = Span::new(from, code.len());
                        out.all.push((i, span));
                        out.word = if c == '›' { (i, span) } else { out.word };
                    }
                    c => code.push(c),
                }
            }
            out.files.push((path.to_string(), code));
        }
        assert!(out.word.0 < out.files.len(), "nothing is asked about: {text}");
        out
    }

    /// What is asked of the project, the file of the word and the word.
    pub fn ask<T>(&self, ask: impl FnOnce(&Project, &Arc<Source>, NodeId) -> T) -> T {
        let list: Vec<(&str, &str)> = self.files.iter().map(|(p, c)| (p.as_str(), c.as_str())).collect();
        let texts = Texts(&list);
        let facts = texts.facts();
        let project = Project::new(&facts, &texts);
        let s = project.source(self.word.0).expect("parses");
        assert!(s.tree.errors().is_empty(), "does not parse: {}", s.text);
        let fills = |n: &NodeId| s.tree.is_leaf(*n) && s.tree.span(*n) == self.word.1;
        let word = s.tree.ids().filter(fills).max_by_key(|n| s.tree.role(*n) == crate::tree::Role::Name);
        ask(&project, &s, word.expect("a word is marked"))
    }
}
