//! The comment about rights with which the files of a project begin: a new one begins with it too.
//!
//! Only where most files of the language around have the very same; one that says more (a name, a year of its own) is not
//! handed on, nor is a line that means something to a program.

use crate::find::carried::RIGHTS;
use crate::index::Project;
use crate::names::Source;
use crate::text::Span;

/// Files that are looked at.
const MOST_FILES: usize = 12;
/// Words of comments that programs read.
const READ: &[&str] = &["#!", "coding:", "coding=", "eslint", "@ts-", "jshint", "type: ignore", "noqa", "prettier"];

/// What a new file beside one of a number begins with, to the end of the blank lines behind it.
pub(crate) fn shared(project: &Project, like: usize) -> Option<String> {
    let s = project.source(like).ok()?;
    let head = head(&s)?;
    let facts = &project.facts[like];
    let others = || {
        let all = project.facts.iter().enumerate();
        all.filter(|(i, f)| *i != like && f.language == facts.language && !project.is_new(*i))
    };
    let near = others().filter(|(_, f)| f.folder() == facts.folder());
    let far = others().filter(|(_, f)| f.folder() != facts.folder());
    let texts: Vec<_> = near.chain(far).take(MOST_FILES).filter_map(|(i, _)| project.text(i)).collect();
    let same = texts.iter().filter(|text| text.starts_with(head)).count();
    (same * 2 >= texts.len()).then(|| s.text[..head.len() + blank(&s.text[head.len()..])].to_string())
}

/// The comment with which a file begins, where it is one about rights.
fn head(s: &Source) -> Option<&str> {
    let mut comments = s.tree.comments().iter();
    let mut head: Span = *comments.next().filter(|c| c.start == 0)?;
    for c in comments {
        let between = &s.text[head.end..c.start];
        if !between.trim().is_empty() || between.matches('\n').count() != 1 {
            break;
        }
        head.end = c.end;
    }
    let text = &s.text[..head.end];
    let lower = text.to_lowercase();
    let rights = RIGHTS.iter().any(|w| lower.contains(w)) && !READ.iter().any(|w| lower.contains(w));
    (rights && s.text[head.end..].starts_with(['\n', '\r'])).then_some(text)
}

/// The end of the line, and a blank one where there is one.
fn blank(text: &str) -> usize {
    let lines = text.split_inclusive('\n').take(2);
    lines.take_while(|l| l.trim().is_empty()).map(str::len).sum()
}
