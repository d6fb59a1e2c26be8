//! What the author of a file does by habit.

use std::sync::Arc;

use crate::names::Source;
use crate::tree::{Field, NodeId, Role, Tree};

/// What the author of a file does by habit.
pub struct Style {
    pub semicolons: bool,
    pub quote: char,
    pub trailing_commas: bool,
    /// What stands between a function's name and its parameters.
    pub gap: &'static str,
}

impl Style {
    pub fn of(source: &Source) -> Arc<Style> {
        source.remember((Tree::ROOT, None), || Style::found(source))
    }

    fn found(source: &Source) -> Style {
        let t = &source.tree;
        let ended = |n: &NodeId| matches!(t.role(*n), Role::ExprStmt | Role::Declare | Role::Return | Role::ImportFrom);
        let (mut with, mut without, mut single, mut double) = (0, 0, 0, 0);
        for n in t.ids() {
            if ended(&n) {
                if source.str(n).ends_with(';') { with += 1 } else { without += 1 }
            } else if t.role(n) == Role::Literal {
                match source.str(n).as_bytes().first() {
                    Some(b'\'') => single += 1,
                    Some(b'"') => double += 1,
                    _ => {}
                }
            }
        }
        let trailing_commas = source.text.contains(",\n") && {
            let mut rest = source.text.lines().zip(source.text.lines().skip(1));
            rest.any(|(a, b)| a.trim_end().ends_with(',') && b.trim_start().starts_with(')'))
        };
        let before_list = |f: NodeId| {
            let (name, list) = (t.child(f, Field::Name)?, t.child(f, Field::Parameters)?);
            source.text.get(t.span(name).end..t.span(list).start)
        };
        let callables = t.ids().filter(|n| t.role(*n).is_callable()).filter_map(before_list);
        let (spaced, all) = callables.fold((0, 0), |(s, n), gap| (s + usize::from(gap == " "), n + 1));
        let gap = if spaced * 2 > all { " " } else { "" };
        let quote = if single >= double { '\'' } else { '"' };
        Style { semicolons: with >= without, quote, trailing_commas, gap }
    }

    pub fn end(&self) -> &'static str {
        if self.semicolons { ";" } else { "" }
    }
}
