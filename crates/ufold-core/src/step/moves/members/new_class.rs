//! The class that the members come to: neither it nor a class related to it has the name for anything.

use super::Moving;
use super::users::{Users, is_sure};
use crate::change::{Code, Found, Reason, reason};
use crate::index::class_tree;
use crate::names::{Names, Source};
use crate::tree::{NodeId, Role};

pub(super) fn check(m: &Moving, users: &Users) -> Found<Vec<Reason>> {
    let mut out: Vec<Reason> = Vec::new();
    let definitions = |s: &Source, name: &str| m.project.definition(s, name);
    let classes = class_tree::with_word(m.project, m.new_name(), m.to.lang);
    let home = classes.iter().find(|c| c.source.path == m.to.path && c.node == m.home);
    let Some(home) = home else {
        return Err(vec![reason(&m.to, m.home, Code::UnknownMember, "the new class was not found")]);
    };
    for x in &m.members {
        for c in class_tree::around(&classes, home) {
            let (s, t) = (&c.source, &c.source.tree);
            let foreign = |n: &NodeId| {
                let word = t.is_leaf(*n) && t.role(*n) == Role::Name && s.str(*n) == x.name;
                let local = s.names.at(*n).and_then(|r| r.target).is_some_and(|b| {
                    let scope = s.names.binding(b).scope;
                    scope != Names::MODULE && !s.names.is_member(b)
                });
                word && !local && !is_sure(users, s, *n) && !m.holds(s, *n)
            };
            if let Some(n) = t.subtree(c.node).find(foreign) {
                return Err(vec![reason(s, n, Code::NameTaken, format!("`{}` is already in use here", x.name))]);
            }
            if std::ptr::eq(c, home) && s.lang.may_inherit(s, c.node, &x.name, &definitions) {
                let message = format!("nothing that the class extends has a member `{}`", x.name);
                out.push(reason(s, c.node, Code::InheritedName, message));
            }
        }
    }
    out.dedup_by(|a, b| a.message == b.message);
    Ok(out)
}
