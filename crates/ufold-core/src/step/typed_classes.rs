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
                        let file = source.lang.file_of_class(&source, c, new);
                        moves = moves.or(file.map(|f| (source.path.clone(), f)));
                        declared = Some((source.clone(), c));
                    }
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
    let name_of = NewName { project, home: s, new };
    name_of.taken(&uses)?;
    assumed.extend(name_of.assumed(&uses)?);
    assumed.extend(declared.filter(|(s, c)| s.lang.shows_its_name(s, *c, &definitions)).map(|(s, c)| {
        reason(&s, c, "shown-name", format!("nothing depends on `{old}` in what is shown or stored of its objects"))
    }));
    if let Some((_, to)) = moves.as_ref().filter(|(_, to)| project.index(to).is_some()) {
        return Err(vec![reason(s, name, "name-taken", format!("{to} is there already"))]);
    }
    assumed.truncate(MOST_PLACES);
    Ok(Renamed { uses, assumed, moves })
}

/// What speaks against the new name: a class that has it, files that see the class and use the name, and what may be
/// called so outside the project.
struct NewName<'a> {
    project: &'a Project<'a>,
    home: &'a Source,
    new: &'a str,
}

impl NewName<'_> {
    fn package<'s>(&self, s: &'s Source) -> Option<&'s [String]> {
        s.module.as_ref().map(|m| &m.parts[..m.parts.len() - 1])
    }

    fn is_own_package(&self, name: &str) -> bool {
        let files = 0..self.project.facts.len();
        let mut modules = files.filter_map(|f| self.project.modules().name(f));
        modules.any(|m| m.parts.join(".") == name || m.parts[..m.parts.len() - 1].join(".") == name)
    }

    fn taken(&self, uses: &[Uses]) -> Found<()> {
        let (home, new) = (self.home, self.new);
        if home.lang.is_builtin(new) || home.lang.is_keyword(new) {
            let at = uses.first().map_or(NodeId(0), |u| u.nodes[0]);
            return Err(vec![reason(home, at, "name-taken", format!("`{new}` has a meaning already"))]);
        }
        for (_, s) in unseen::with_word(self.project, new, home.lang) {
            let t = &s.tree;
            let named = |n: &NodeId| t.is_leaf(*n) && t.role(*n) == Role::Name && s.str(*n) == new;
            let sees = uses.iter().any(|u| u.source.path == s.path)
                || self.package(&s) == self.package(home)
                || s.names.wildcard;
            // classes of one name hide each other where they are inherited or imported
            let class =
                |n: &NodeId| t.field(*n) == Field::Name && t.parent(*n).is_some_and(|p| t.role(p) == Role::Class);
            if let Some(n) = t.ids().filter(named).find(|n| sees || class(n)) {
                return Err(vec![reason(&s, n, "name-taken", format!("`{new}` is already in use here"))]);
            }
        }
        Ok(())
    }

    /// Places where something outside the project may have the new name.
    fn assumed(&self, uses: &[Uses]) -> Found<Vec<Reason>> {
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        let new = self.new;
        let mut out = Vec::new();
        for u in uses {
            let (s, t) = (&u.source, &u.source.tree);
            let imported = u.nodes.iter().any(|n| t.ancestor(*n, &[Role::ImportFrom]).is_some());
            let outside = || {
                let facts = self.project.index(&s.path).map(|f| &self.project.facts[f].imports);
                let mut whole = facts.into_iter().flatten().filter(|i| i.import.wildcard);
                whole.any(|i| !self.is_own_package(&i.import.module))
            };
            if !imported && self.package(s) != self.package(self.home) && outside() {
                let message = format!("no package that is imported whole has a `{new}`");
                out.push(reason(s, u.nodes[0], "member-by-name", message));
            }
            let above = |n: &NodeId| (*n, s.lang.class_above_place(s, *n, new, &definitions));
            let mut hidden = u.nodes.iter().map(above).filter(|(_, found)| *found != MemberOf::Other);
            match hidden.next() {
                Some((n, MemberOf::Unknown)) => {
                    let message = format!("no class outside the project has a `{new}` in it that is meant here then");
                    out.push(reason(s, n, "member-by-name", message));
                }
                Some((n, _)) => {
                    let message = format!("a class that is extended here has a `{new}` in it");
                    return Err(vec![reason(s, n, "name-taken", message)]);
                }
                None => {}
            }
        }
        Ok(out)
    }
}
