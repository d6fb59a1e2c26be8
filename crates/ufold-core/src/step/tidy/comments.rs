//! Comments that are code, told from prose by parsing them, and comments that only say what the statement below says.
//!
//! Prose that happens to be code in the language's eyes (`see below`, `total = 3`) is told by what code has and prose has
//! not: calls, operators, blocks, several statements. When in doubt it is prose.

use rustc_hash::FxHashSet;

use super::Candidate;
use crate::find::Clutter;
use crate::names::Source;
use crate::plan::lines::line_start;
use crate::plan::words::words;
use crate::text::{Edit, Span, indent_at};
use crate::tree::{Field, NodeId, Role, Tree, parse};

pub(super) fn found(s: &Source) -> Vec<Candidate> {
    let mut out = Vec::new();
    for group in groups(s) {
        if let Some(n) = code_in(s, &group) {
            let span = Span::new(group[0].start, group[group.len() - 1].end);
            let what =
                if n == 1 { "a statement in a comment".to_string() } else { format!("{n} statements in a comment") };
            out.push(item(s, Clutter::CommentedCode, span, what));
        } else if let [one] = group[..]
            && repeats_next_line(s, one)
        {
            out.push(item(s, Clutter::Echo, one, "a comment that says what the next line says".into()));
        }
    }
    out
}

/// Comments that have their lines for themselves, those on neighbouring lines with the same indentation together.
fn groups(s: &Source) -> Vec<Vec<Span>> {
    let mut out: Vec<Vec<Span>> = Vec::new();
    for c in s.tree.comments() {
        let start = line_start(&s.text, c.start);
        let rest = s.text[c.end..].find('\n').map_or(s.text.len(), |i| c.end + i);
        if !s.text[start..c.start].trim().is_empty() || !s.text[c.end..rest].trim().is_empty() {
            continue;
        }
        let joins = out.last().and_then(|g| g.last()).is_some_and(|last: &Span| {
            let between = &s.text[last.end..c.start];
            between.matches('\n').count() == 1
                && between.trim().is_empty()
                && indent_at(&s.text, last.start) == indent_at(&s.text, c.start)
        });
        match out.last_mut().filter(|_| joins) {
            Some(g) => g.push(*c),
            None => out.push(vec![*c]),
        }
    }
    out
}

/// The lines go, and one of two blank lines around them.
fn item(s: &Source, kind: Clutter, span: Span, what: String) -> Candidate {
    let start = line_start(&s.text, span.start);
    let mut end = s.text[span.end..].find('\n').map_or(s.text.len(), |i| span.end + i + 1);
    let blank_above = start == 0 || s.text[..start - 1].rsplit('\n').next().is_some_and(|l| l.trim().is_empty());
    let below = s.text[end..].split_inclusive('\n').next().filter(|l| l.trim().is_empty());
    if let Some(l) = below.filter(|_| blank_above) {
        end += l.len();
    }
    Candidate {
        kind,
        span,
        edit: Edit::new(start, end, ""),
        more: Vec::new(),
        node: None,
        what,
        needs: None,
        local: None,
    }
}

/// How many statements a comment is; none when it is prose, or meant for a program.
fn code_in(s: &Source, group: &[Span]) -> Option<usize> {
    let text = without_marks(s, group)?;
    // what is left out there was never code
    if text.contains("...)") || text.contains("…") {
        return None;
    }
    let tree = parse(&text, s.lang).ok()?;
    if !tree.errors().is_empty() || tree.comments().len() * 2 > group.len() {
        return None;
    }
    let code = Code { tree: &tree, text: &text };
    let all: Vec<NodeId> = tree.children(Tree::ROOT).filter(|n| tree.role(*n) != Role::Pass).collect();
    let strong = all.iter().filter(|n| code.is_strong(**n)).count();
    let plain = all.iter().all(|n| code.is_strong(*n) || code.may_be(*n));
    let bare = s.lang.write_declaration(s, &[("n".into(), None)], "");
    let ended = !bare.trim_end().ends_with(';') || text.trim_end().ends_with([';', '}']);
    let enough = match all.len() {
        0 => false,
        1 => strong == 1 && ended && code.is_sure(all[0]),
        n => strong * 2 >= n && ended,
    };
    (plain && enough).then_some(all.len())
}

/// The comments' lines without their marks and without the indentation that all have.
fn without_marks(s: &Source, group: &[Span]) -> Option<String> {
    let mark = s.lang.line_comment();
    let told = |text: &str| s.lang.directives().iter().any(|d| text.trim_start().starts_with(d));
    let mut lines: Vec<String> = Vec::new();
    for c in group {
        let text = &s.text[c.start..c.end];
        match s.lang.block_comment().filter(|(open, _)| text.starts_with(open)) {
            Some((open, close)) => {
                let inner = text.strip_prefix(open)?.strip_suffix(close)?;
                if inner.starts_with('*') || told(inner) {
                    return None;
                }
                lines.extend(inner.lines().map(|l| l.trim_end().to_string()));
            }
            None => {
                let inner = text.strip_prefix(mark)?;
                if told(inner) {
                    return None;
                }
                lines.push(inner.trim_end().to_string());
            }
        }
    }
    let blank = |l: &String| l.len() - l.trim_start().len();
    let least = lines.iter().filter(|l| !l.is_empty()).map(blank).min()?;
    let cut: Vec<&str> = lines.iter().map(|l| l.get(least..).unwrap_or("")).collect();
    Some(cut.join("\n").trim().to_string() + "\n")
}

struct Code<'a> {
    tree: &'a Tree,
    text: &'a str,
}

impl Code<'_> {
    fn str(&self, n: NodeId) -> &str {
        self.tree.text(n, self.text)
    }

    /// What prose does not look like.
    fn is_strong(&self, n: NodeId) -> bool {
        let t = self.tree;
        match t.role(n) {
            Role::If
            | Role::For
            | Role::CountedFor
            | Role::While
            | Role::Try
            | Role::With
            | Role::Function
            | Role::Class => t.child(n, Field::Body).is_some(),
            Role::ImportFrom => true,
            Role::ExprStmt | Role::Declare | Role::Return | Role::Raise => t.subtree(n).any(|x| self.is_telling(x)),
            _ => false,
        }
    }

    fn is_telling(&self, n: NodeId) -> bool {
        let t = self.tree;
        match t.role(n) {
            Role::Assign | Role::AugAssign => t.child(n, Field::Right).is_some(),
            // in prose a bracket stands apart
            Role::Call => t.child(n, Field::Callee).is_some_and(|c| {
                let end = t.span(c).end;
                matches!(t.role(c), Role::Name | Role::Member) && self.text[end..].starts_with('(')
            }),
            _ => false,
        }
    }

    /// A statement that stands among others.
    fn may_be(&self, n: NodeId) -> bool {
        let jump =
            matches!(self.tree.role(n), Role::Return | Role::Break | Role::Continue | Role::Import | Role::Raise);
        jump || self.tree.role(n) == Role::Switch
    }

    /// Alone it must be a call, or give a value that is computed.
    fn is_sure(&self, n: NodeId) -> bool {
        let t = self.tree;
        let own = t.children(n).next().filter(|_| t.role(n) == Role::ExprStmt).unwrap_or(n);
        let computed = |v: NodeId| {
            t.subtree(v)
                .any(|x| matches!(t.role(x), Role::Call | Role::Index | Role::Member | Role::Fresh | Role::BinaryOp))
        };
        match t.role(own) {
            // `fee()` in prose speaks of a function
            Role::Call => self.str(n).ends_with(';') || !self.str(own).ends_with("()"),
            Role::Assign | Role::AugAssign => t.child(own, Field::Right).is_some_and(computed),
            Role::Declare => t.subtree(own).any(|x| t.child(x, Field::Right).is_some_and(computed)),
            Role::Return | Role::Raise => computed(own),
            _ => true,
        }
    }
}

const SMALL_WORDS: &[&str] = &[
    "a", "an", "and", "as", "at", "by", "from", "if", "in", "into", "is", "it", "its", "now", "of", "on", "our", "out",
    "that", "the", "then", "this", "to", "up", "we", "with",
];

/// All that a comment says is in the words of the statement below it, which nothing else follows.
fn repeats_next_line(s: &Source, comment: Span) -> bool {
    let t = &s.tree;
    let raw = &s.text[comment.start..comment.end];
    let mark = s.lang.line_comment();
    let Some(inner) = raw.strip_prefix(mark) else { return false };
    if s.lang.directives().iter().any(|d| inner.trim_start().starts_with(d)) {
        return false;
    }
    let text = s.lang.comment_text(raw).trim_end_matches(['.', ':']).to_lowercase();
    let plain = text.split_whitespace().all(|w| w.chars().all(|c| c.is_ascii_alphanumeric() || c == '_'));
    let said: Vec<String> =
        text.split_whitespace().flat_map(words).filter(|w| !SMALL_WORDS.contains(&w.as_str())).collect();
    if !plain || !(2..=6).contains(&said.len()) {
        return false;
    }
    let next = s.text[comment.end..].len() - s.text[comment.end..].trim_start().len() + comment.end;
    if s.text[comment.end..next].matches('\n').count() != 1 || t.comments().iter().any(|c| c.start == next) {
        return false;
    }
    let starts = |n: &NodeId| t.span(*n).start == next && t.parent(*n).is_some_and(|p| t.role(p).is_sequence());
    let Some(statement) = t.ids().find(starts) else { return false };
    let one_line = !s.str(statement).contains('\n');
    let end = t.span(statement).end;
    let line_end = s.text[end..].find('\n').map_or(s.text.len(), |i| end + i + 1);
    let after = s.text[line_end..].lines().next().unwrap_or("");
    let last = t.parent(statement).and_then(|b| t.children(b).last()) == Some(statement);
    if !one_line || !(last || after.trim().is_empty()) {
        return false;
    }
    let names = t
        .subtree(statement)
        .filter(|n| t.is_leaf(*n) && matches!(t.role(*n), Role::Name | Role::MemberName | Role::KeywordName));
    let named: FxHashSet<String> = names.flat_map(|n| words(s.str(n))).collect();
    let implied = implied(t, statement);
    let is_named = |w: &String| {
        named.contains(w) || w.strip_suffix('s').is_some_and(|x| named.contains(x)) || named.contains(&format!("{w}s"))
    };
    said.iter().all(|w| is_named(w) || implied.contains(&w.as_str())) && said.iter().any(is_named)
}

/// Words for what a statement does by its form.
fn implied(t: &Tree, statement: NodeId) -> Vec<&'static str> {
    let mut out = Vec::new();
    for n in t.subtree(statement) {
        out.extend_from_slice(match t.role(n) {
            Role::Assign | Role::Declare => {
                &["set", "sets", "assign", "initialize", "init", "store", "define", "create"]
            }
            Role::AugAssign => &["increment", "increase", "add", "update", "decrement"],
            Role::Return => &["return", "returns", "result"],
            Role::If => &["check", "test"],
            Role::For | Role::CountedFor | Role::While => {
                &["loop", "iterate", "each", "every", "over", "through", "all"]
            }
            Role::Call => &["call", "calls", "invoke"],
            Role::Raise => &["raise", "throw", "throws"],
            Role::Fresh => &["create", "new", "make"],
            Role::Import | Role::ImportFrom => &["import", "imports"],
            _ => &[],
        });
    }
    out
}
