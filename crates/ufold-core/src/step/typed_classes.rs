//! Classes where types tell which one a word means: every word is surely the class's, surely another's, or one of which
//! nothing is known. A file that must be called like its class moves.

use std::sync::Arc;

use super::project::Project;
use super::region::reason;
use super::rename::{Found, Uses};
use super::{Reason, unseen};
use crate::lang::MemberOf;
use crate::names::Source;
use crate::tree::{Field, NodeId, Role};

/// More places are not told.
const MOST_PLACES: usize = 12;

/// What becomes of the words, what that assumes, and where the class's file goes.
pub(super) struct Renamed {
    pub uses: Vec<Uses>,
    pub assumed: Vec<Reason>,
    pub moves: Option<(String, String)>,
}

pub(super) fn find(project: &Project, s: &Arc<Source>, name: NodeId, old: &str, new: &str) -> Found<Renamed> {
    let definitions = |s: &Source, name: &str| project.definition(s, name);
    let of = |s: &Source, n: NodeId| s.lang.class_named(s, n, &definitions);
    let MemberOf::Class(own) = of(s, name) else {
        return Err(vec![reason(s, name, "unknown-member", format!("which class `{old}` is can't be told here"))]);
    };
    let (mut uses, mut assumed, mut moves) = (Vec::new(), Vec::new(), None);
    for (_, source) in unseen::with_word(project, old).filter(|(_, o)| o.lang.name() == s.lang.name()) {
        let t = &source.tree;
        let words = t.ids().filter(|n| t.is_leaf(*n) && source.str(*n) == old);
        let mut nodes = Vec::new();
        for n in words.filter(|n| matches!(t.role(*n), Role::Name | Role::MemberName)) {
            let found = of(&source, n);
            match found {
                MemberOf::Class(c) | MemberOf::Likely(c) if c == own => {
                    let declared = t.parent(n).filter(|p| t.role(*p) == Role::Class && t.field(n) == Field::Name);
                    let file = declared.and_then(|c| source.lang.file_of_class(&source, c, new));
                    moves = moves.or(file.map(|f| (source.path.clone(), f)));
                    if found != MemberOf::Class(own) && nodes.is_empty() {
                        let message = format!("no class outside the project has a `{old}` in it that is meant here");
                        assumed.push(reason(&source, n, "member-by-name", message));
                    }
                    nodes.push(n);
                }
                MemberOf::Class(_) | MemberOf::Likely(_) | MemberOf::Other => {}
                MemberOf::Unknown => {
                    let message = format!("`{old}` here is another class, of which nothing is known");
                    assumed.push(reason(&source, n, "member-by-name", message));
                }
            }
        }
        if !nodes.is_empty() {
            uses.push(Uses { source, nodes });
        }
    }
    taken(project, s, &uses, new)?;
    if let Some((_, to)) = moves.as_ref().filter(|(_, to)| project.index(to).is_some()) {
        return Err(vec![reason(s, name, "name-taken", format!("{to} is there already"))]);
    }
    assumed.truncate(MOST_PLACES);
    Ok(Renamed { uses, assumed, moves })
}

/// The new name means something in a file that names the class, or in one that sees it without an import.
fn taken(project: &Project, home: &Source, uses: &[Uses], new: &str) -> Found<()> {
    if home.lang.is_builtin(new) || home.lang.is_keyword(new) {
        let at = uses.first().map_or(NodeId(0), |u| u.nodes[0]);
        return Err(vec![reason(home, at, "name-taken", format!("`{new}` has a meaning already"))]);
    }
    let package = |s: &Source| s.module.as_ref().map(|m| m.parts[..m.parts.len() - 1].to_vec());
    for (_, s) in unseen::with_word(project, new) {
        let sees = uses.iter().any(|u| u.source.path == s.path) || package(&s) == package(home);
        let named = |n: &NodeId| s.tree.is_leaf(*n) && s.tree.role(*n) == Role::Name && s.str(*n) == new;
        if let Some(n) = s.tree.ids().find(named).filter(|_| sees) {
            return Err(vec![reason(&s, n, "name-taken", format!("`{new}` is already in use here"))]);
        }
    }
    Ok(())
}
