//! Classes where types tell which one a word means: every word is surely the class's, surely another's, or one of which
//! nothing is known. A file that must be called like its class moves.

use std::sync::Arc;

use crate::change::{Code, Found, reason};
use crate::index::references::References;
use crate::index::{Project, Uses, unseen};
use crate::lang::MemberOf;
use crate::names::Source;
use crate::tree::{Field, NodeId, Role};

/// The class whose references they are: where it is declared.
pub(crate) type Declared = Option<(Arc<Source>, NodeId)>;

pub(crate) fn find(project: &Project, s: &Arc<Source>, name: NodeId, old: &str) -> Found<(References, Declared)> {
    let definitions = |s: &Source, name: &str| project.definition(s, name);
    let of = |s: &Source, n: NodeId| s.lang.class_named(s, n, &definitions);
    let MemberOf::Class(own) = of(s, name) else {
        return Err(vec![reason(s, name, Code::UnknownMember, format!("which class `{old}` is can't be told here"))]);
    };
    let (mut uses, mut assumed) = (Vec::new(), Vec::new());
    let mut declared = None;
    for (_, source) in unseen::with_word(project, old, s.lang) {
        let t = &source.tree;
        let words = t.ids().filter(|n| t.is_leaf(*n) && source.str(*n) == old);
        let mut nodes = Vec::new();
        for n in words.filter(|n| matches!(t.role(*n), Role::Name | Role::MemberName)) {
            let found = of(&source, n);
            match found {
                MemberOf::Class(c) | MemberOf::Likely(c) if c == own => {
                    if let Some(c) = t.parent(n).filter(|p| t.role(*p) == Role::Class && t.field(n) == Field::Name) {
                        declared = Some((source.clone(), c));
                    }
                    if found != MemberOf::Class(own) && nodes.is_empty() {
                        let message = format!("no class outside the project has a `{old}` in it that is meant here");
                        assumed.push(reason(&source, n, Code::MemberByName, message));
                    }
                    nodes.push(n);
                }
                MemberOf::Class(_) | MemberOf::Likely(_) | MemberOf::Other => {}
                MemberOf::Unknown => {
                    let message = format!("`{old}` here is another class, of which nothing is known");
                    assumed.push(reason(&source, n, Code::MemberByName, message));
                }
            }
        }
        if !nodes.is_empty() {
            uses.push(Uses { source, nodes });
        }
    }
    assumed.extend(declared.iter().filter(|(s, c)| s.lang.shows_its_name(s, *c, &definitions)).map(|(s, c)| {
        reason(s, *c, Code::ShownName, format!("nothing depends on `{old}` in what is shown or stored of its objects"))
    }));
    Ok((References { sure: uses, possible: assumed }, declared))
}
