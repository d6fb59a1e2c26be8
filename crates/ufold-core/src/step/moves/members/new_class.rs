//! The class that the members come to: neither it nor a class related to it has the name for anything.

use super::Moving;
use super::users::{Users, is_class, is_sure};
use crate::change::{Code, Found, Reason, reason};
use crate::index::class_tree;
use crate::names::Source;
use crate::tree::Role;

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
            let word = |n: &crate::tree::NodeId| {
                t.is_leaf(*n) && matches!(t.role(*n), Role::Name | Role::MemberName) && s.str(*n) == x.name
            };
            let foreign = |n: &crate::tree::NodeId| {
                let bare = t.role(*n) == Role::Name;
                let local = s.names.at(*n).and_then(|r| r.target).is_some_and(|b| {
                    let scope = s.names.binding(b).scope;
                    scope != crate::names::Names::MODULE && !s.names.is_member(b)
                });
                word(n) && bare && !local && !is_sure(users, s, *n) && !m.holds(s, *n)
            };
            if let Some(n) = t.subtree(c.node).find(foreign) {
                return Err(vec![reason(s, n, Code::NameTaken, format!("`{}` is already in use here", x.name))]);
            }
            if is_class(m, s, c.node) && s.lang.may_inherit(s, c.node, &x.name, &definitions) {
                let message = format!("nothing that the class extends has a member `{}`", x.name);
                out.push(reason(s, c.node, Code::InheritedName, message));
            }
        }
    }
    out.dedup_by(|a, b| a.message == b.message);
    Ok(out)
}
