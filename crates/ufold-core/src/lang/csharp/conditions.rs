//! Code that only some builds have: `#if` where the grammar has no place for it, such as before an `else`.
//!
//! The parser gets the first branch of each condition as if it were always there; the lines of the conditions and the other
//! branches are no part of the tree, and are told as places that were not read. Fails where the first branch alone is no
//! code.

use crate::text::Span;

/// The text with blanks where a condition, or what only another build has, stands; and these places. None without
/// conditions.
pub fn without(text: &str) -> Option<(String, Vec<Span>)> {
    let (mut out, mut unread) = (String::with_capacity(text.len()), Vec::new());
    // of each condition around, whether its branch is the first
    let mut around: Vec<bool> = Vec::new();
    let mut at = 0;
    for line in text.split_inclusive('\n') {
        let word = line.trim_start().strip_prefix('#').map(|rest| rest.trim_start());
        let says = |w: &str| word.is_some_and(|r| r.starts_with(w));
        let condition = match () {
            _ if says("if") => {
                around.push(true);
                true
            }
            _ if says("el") => {
                *around.last_mut()? = false;
                true
            }
            _ if says("endif") => {
                around.pop()?;
                true
            }
            _ => false,
        };
        if condition || around.contains(&false) {
            unread.push(Span::new(at, at + line.trim_end().len()));
            out.extend(line.bytes().map(|b| if b == b'\n' || b == b'\r' { b as char } else { ' ' }));
        } else {
            out.push_str(line);
        }
        at += line.len();
    }
    (!unread.is_empty() && around.is_empty()).then_some((out, unread))
}

#[cfg(test)]
mod tests {
    use super::without;
    use crate::lang::csharp::CSharp;
    use crate::tree::{Role, parse};

    #[test]
    fn other_branches_are_not_read() {
        let text = "a\n#if X\nb\n#elif Y\nc\n#else\nd\n#endif\ne\n";
        let (seen, unread) = without(text).expect("a text");
        assert_eq!(seen.len(), text.len());
        assert_eq!(seen.split_whitespace().collect::<String>(), "abe");
        assert_eq!(unread.len(), 6);
        assert!(without("#else\n").is_none() && without("#if X\n").is_none() && without("a\n").is_none());
    }

    #[test]
    fn a_class_stays_whole_around_a_condition() {
        let text = "class Desk\n{\n    void Run(int n)\n    {\n        if (n > 1) n--;\n#if !SMALL\n        else if (n < 0) n++;\n\
                    #endif\n        else n = 0;\n    }\n    void Go() { }\n}\n";
        let tree = parse(text, &CSharp).expect("it can be parsed");
        let functions = tree.ids().filter(|n| tree.role(*n) == Role::Function);
        assert!(functions.into_iter().all(|f| tree.ancestor(f, &[Role::Class]).is_some()));
        let lines = tree.errors().iter().map(|e| &text[e.start..e.end]).collect::<Vec<_>>();
        assert_eq!(lines, ["#if !SMALL", "#endif"]);
        // where the grammar has a place for it nothing is left out
        let plain = "class Desk\n{\n#if X\n    void A() { }\n#else\n    void B() { }\n#endif\n}\n";
        assert!(parse(plain, &CSharp).expect("it can be parsed").errors().is_empty());
    }
}
