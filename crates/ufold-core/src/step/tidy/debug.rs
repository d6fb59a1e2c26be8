//! What somebody left behind who looked for a fault. It prints or stops, so it goes only when a person says so.

use super::{Candidate, statement};
use crate::find::Clutter;
use crate::names::Source;
use crate::tree::{Field, NodeId, Role};

/// Texts by which such output is known.
const SIGNS: &[&str] = &["debug", "xxx", "here", "got here", "in here", "test123", "foo", "asdf", "wtf", "!!!"];

pub(super) fn found(s: &Source) -> Vec<Candidate> {
    let t = &s.tree;
    let mut out = Vec::new();
    for n in t.ids().filter(|n| t.parent(*n).is_some_and(|p| t.role(p) == Role::Block)) {
        if t.role(n) == Role::Pass && s.lang.fault_finders().contains(&s.str(n).trim_end_matches(';')) {
            out.push(statement(
                s,
                Clutter::Debug,
                n,
                format!("`{}` was left behind", s.str(n).trim_end_matches(';')),
                None,
            ));
        }
        let call = t.children(n).next().filter(|c| t.role(n) == Role::ExprStmt && t.role(*c) == Role::Call);
        let Some((call, callee)) = call.and_then(|c| Some((c, t.child(c, Field::Callee)?))) else { continue };
        let word = s.str(callee);
        let of_any = word.rsplit_once('.').map(|(_, last)| format!("*.{last}"));
        let finder = s.lang.fault_finders().iter().any(|f| *f == word || of_any.as_deref() == Some(f));
        let printed = s.lang.printers().contains(&word) && has_a_sign(s, call);
        if !finder && !printed {
            continue;
        }
        let acts = t.child(call, Field::Arguments).is_some_and(|a| t.subtree(a).any(|x| may_act(s, x)));
        let needs = acts.then(|| "what it prints is computed by code that may do something".to_string());
        out.push(statement(s, Clutter::Debug, n, format!("`{word}` was left behind"), needs));
    }
    out
}

fn has_a_sign(s: &Source, call: NodeId) -> bool {
    let t = &s.tree;
    let first = t.child(call, Field::Arguments).and_then(|a| t.children(a).next());
    let text = first.filter(|f| matches!(t.role(*f), Role::Literal | Role::Template | Role::BinaryOp));
    let Some(text) =
        text.map(|f| s.str(f).trim_start_matches(|c: char| !c.is_alphanumeric() && c != '!').to_lowercase())
    else {
        return false;
    };
    let word = text.trim_end_matches(|c: char| !c.is_alphanumeric() && c != '!');
    SIGNS.contains(&word)
        || ["debug", "xxx"].iter().any(|w| {
            text.strip_prefix(w).is_some_and(|rest| !rest.starts_with(|c: char| c.is_alphanumeric() || c == '_'))
        })
}

fn may_act(s: &Source, n: NodeId) -> bool {
    use Role::*;
    let quiet = matches!(
        s.tree.role(n),
        Name | Literal
            | Token
            | Member
            | MemberName
            | BinaryOp
            | UnaryOp
            | Compare
            | Paren
            | Arguments
            | Template
            | TemplateText
            | Interpolation
            | Concat
            | Tuple
            | Index
            | KeywordArg
            | KeywordName
    );
    !quiet || s.names.at(n).is_some_and(|r| r.usage.writes())
}
