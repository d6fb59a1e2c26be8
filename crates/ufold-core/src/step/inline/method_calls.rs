//! A method that is to be inlined, with all its calls: by the types of their objects, where types tell.

use std::sync::Arc;

use super::function::User;
use crate::change::{Code, Found, Reason, reason};
use crate::index::class_tree::{self, Class, same_class};
use crate::index::{Project, unseen};
use crate::lang::MemberOf;
use crate::names::Source;
use crate::tree::{Field, NodeId, Role, Tree};

/// A method that goes, or is put in the place of some calls.
pub(super) struct Method {
    pub(super) home: Class,
    pub(super) function: NodeId,
    pub(super) name: String,
    pub(super) users: Vec<User>,
    /// Imports of it alone.
    pub(super) imports: Vec<(Arc<Source>, NodeId)>,
    pub(super) assumed: Vec<Reason>,
}

/// The method that a word declares or calls, with all its calls.
pub(super) fn method_of(project: &Project, s: &Arc<Source>, word: NodeId) -> Found<Method> {
    let (t, name) = (&s.tree, s.str(word).to_string());
    let definitions = |s: &Source, name: &str| project.definition(s, name);
    let refuse = |code: Code, message: String| Err(vec![reason(s, word, code, message)]);
    let parent = t.parent(word).unwrap_or(Tree::ROOT);
    let declared = t.role(parent) == Role::Function && t.field(word) == Field::Name;
    if !declared && call_of(s, word).is_none() {
        return refuse(Code::NoStepYet, "only locals and methods can be inlined in this language yet".into());
    }
    let MemberOf::Class(own) = s.lang.member_of(s, word, &definitions) else {
        return refuse(Code::UnknownMember, format!("which class has `{name}` can't be told here"));
    };
    let classes = class_tree::with_word(project, &name, s.lang);
    let Some(home) = class_tree::of_type(&classes, own) else {
        return refuse(Code::UnknownMember, format!("the class of `{name}` was not found"));
    };
    let count = if declared { arity(s, parent) } else { call_of(s, word).map_or(0, |c| given(s, c)) };
    let fits =
        |c: &Class, f: &NodeId| arity(&c.source, *f) == count || crate::index::users::takes_any_number(&c.source, *f);
    let own: Vec<NodeId> = functions(home, &name).into_iter().filter(|f| fits(home, f)).collect();
    let [function] = own[..] else {
        return refuse(Code::Overloaded, format!("several methods `{name}` may take as many arguments"));
    };
    for c in class_tree::around(&classes, home) {
        let own = c.source.path == home.source.path && c.node == home.node;
        let other = functions(c, &name).into_iter().find(|f| !own && fits(c, f));
        let private = home.source.lang.hides_member(&home.source, function);
        if let Some(f) = other.filter(|_| !private) {
            let message = format!("another class has `{name}` too: which one runs depends on the object");
            return Err(vec![reason(&c.source, f, Code::Overridden, message)]);
        }
    }
    let home = Class { source: home.source.clone(), node: home.node, ty: home.ty, above: home.above.clone() };
    let mut m = Method { home, function, name, users: Vec::new(), imports: Vec::new(), assumed: Vec::new() };
    find_calls(project, &mut m)?;
    Ok(m)
}

fn find_calls(project: &Project, m: &mut Method) -> Found<()> {
    let definitions = |s: &Source, name: &str| project.definition(s, name);
    let (home, function) = (m.home.source.clone(), m.function);
    let (private, count) = (home.lang.hides_member(&home, function), arity(&home, function));
    let alone = functions(&m.home, &m.name).len() == 1;
    for s in unseen::with_name(project, &m.name, home.lang).filter(|s| !private || s.path == home.path) {
        let t = &s.tree;
        for n in t.ids().filter(|n| t.is_leaf(*n) && s.str(*n) == m.name) {
            let declared = t.parent(n).is_some_and(|f| t.role(f) == Role::Function && t.field(n) == Field::Name);
            if !matches!(t.role(n), Role::Name | Role::MemberName) || declared {
                continue;
            }
            let import = t.ancestor(n, &[Role::ImportFrom]);
            let (call, handed) = (call_of(&s, n), s.lang.hands_on(&s, n));
            if call.is_none() && import.is_none() && !handed || call.is_some_and(|c| given(&s, c) != count) {
                continue;
            }
            let sure = match s.lang.member_of(&s, n, &definitions) {
                MemberOf::Class(c) if same_class(c, m.home.ty) => true,
                MemberOf::Class(_) | MemberOf::Other => continue,
                MemberOf::Likely(_) | MemberOf::Unknown => false,
            };
            match (import, call) {
                (Some(i), _) if sure && alone => m.imports.push((s.clone(), i)),
                (Some(_), _) => {}
                (None, Some(c)) if sure && s.path == home.path && t.contains(function, c) => {
                    return Err(vec![reason(&s, n, Code::OddCall, "the method calls itself")]);
                }
                (None, Some(_)) if sure => {
                    let used = t.parent(n).filter(|p| t.role(*p) == Role::Member).unwrap_or(n);
                    m.users.push(User { source: s.clone(), node: used });
                }
                (None, None) => {
                    return Err(vec![reason(&s, n, Code::UsedAsValue, "the method is handed on here")]);
                }
                _ => {
                    let message = format!("`{}` here is of another class, of which nothing is known", m.name);
                    m.assumed.push(reason(&s, n, Code::MemberByName, message));
                }
            }
        }
    }
    Ok(())
}

/// How many calls of a method there are that could be inlined.
pub(super) fn calls_of_method(project: &Project, s: &Arc<Source>, word: NodeId) -> usize {
    method_of(project, s, word).map_or(0, |m| m.users.len())
}

/// The call whose function a word names.
pub(super) fn call_of(s: &Source, word: NodeId) -> Option<NodeId> {
    let t = &s.tree;
    let used = t.parent(word).filter(|m| t.role(*m) == Role::Member && t.field(word) == Field::Member).unwrap_or(word);
    t.parent(used).filter(|c| t.role(*c) == Role::Call && t.field(used) == Field::Callee)
}

pub(super) fn given(s: &Source, call: NodeId) -> usize {
    s.tree.child(call, Field::Arguments).map_or(0, |a| s.tree.children(a).count())
}

fn arity(s: &Source, function: NodeId) -> usize {
    s.tree.child(function, Field::Parameters).map_or(0, |p| s.tree.children(p).count())
}

/// Functions of a class itself that have a name.
fn functions(c: &Class, name: &str) -> Vec<NodeId> {
    class_tree::functions(c, |n| c.source.str(n) == name)
}
