//! What comments say of members that go: `Fees#due` is `Dues#due` then, and `#due` by itself means its own class no more.
//! Only names with their class, or with the sign that stands for it, are taken for the member's; prose is left alone.

use std::sync::Arc;

use super::{Moving, name_of};
use crate::index::class_members::declared;
use crate::index::unseen;
use crate::index::words::whole_words;
use crate::names::Source;
use crate::text::{Edit, Span};

/// The edits of comments, each with its file.
pub(super) fn edits(m: &Moving) -> Vec<(Arc<Source>, Edit)> {
    let (s, old, new) = (&m.from, name_of(&m.from, m.class), m.new_name());
    let Some(sign) = s.lang.member_sign() else { return Vec::new() };
    let mut out: Vec<(Arc<Source>, Edit)> = Vec::new();
    let mut add = |s: &Arc<Source>, at: Span, text: &str| {
        let e = Edit::new(at.start, at.end, text);
        if !out.iter().any(|(o, x)| o.path == s.path && x.span == e.span) {
            out.push((s.clone(), e));
        }
    };
    let mut names: Vec<&str> = m.members.iter().map(|x| x.name.as_str()).collect();
    names.dedup();
    for name in &names {
        for other in unseen::with_name(m.project, name, s.lang) {
            for at in named(&other, name, sign) {
                let before = &other.text[..at];
                let inside = other.tree.covering(Span::new(at, at));
                if before.ends_with(old)
                    && !before[..at - old.len()].ends_with(|c: char| c.is_alphanumeric() || c == '_')
                {
                    add(&other, Span::new(at - old.len(), at), new);
                } else if before.ends_with(|c: char| !c.is_alphanumeric() && c != '_')
                    && other.path == s.path
                    && s.tree.contains(m.class, inside)
                    && !goes(m, at)
                {
                    add(&other, Span::new(at, at), new);
                }
            }
        }
    }
    // in the moved comments what stays is the old class's
    for d in declared(s, m.class).iter().filter(|d| !names.contains(&d.name.as_str())) {
        for at in named(s, &d.name, sign).into_iter().filter(|at| goes(m, *at)) {
            if s.text[..at].ends_with(|c: char| !c.is_alphanumeric() && c != '_') {
                add(s, Span::new(at, at), old);
            }
        }
    }
    out
}

/// The place is in a comment of a member that goes.
fn goes(m: &Moving, at: usize) -> bool {
    m.members.iter().any(|x| {
        let span = crate::plan::class_text::lines_of(&m.from, x.node);
        span.start <= at && at < span.end
    })
}

/// Where comments say a name behind the sign: the places of the signs.
fn named(s: &Source, name: &str, sign: &str) -> Vec<usize> {
    let comments = s.tree.comments().iter();
    let in_one = |c: &Span| {
        let text = &s.text[c.start..c.end];
        let found = whole_words(text, name).filter(|i| text[..*i].ends_with(sign)).map(|i| c.start + i - sign.len());
        found.collect::<Vec<_>>()
    };
    comments.flat_map(in_one).collect()
}
