//! Calls that give a parameter its value by name: those of its function are told from those of others.
//!
//! What a call calls is known for functions of modules, for methods of objects whose class is known, and for classes, whose
//! maker is called. A call from elsewhere that is given the function may call it in turn.

use std::sync::Arc;

use crate::change::{Code, Found, reason};
use crate::index::member_uses::class_of_object;
use crate::index::references::References;
use crate::index::{Entity, Project, Uses, unseen};
use crate::names::{BindKind, BindingId, Names, Source};
use crate::tree::{Field, NodeId, Role};

/// The words that name a parameter, and what that assumes; refused where a call may be one of its function.
pub fn find(project: &Project, s: &Source, b: BindingId, old: &str) -> Found<References> {
    NamedArguments { project }.uses(s, b, old)
}

struct NamedArguments<'a> {
    project: &'a Project<'a>,
}

impl NamedArguments<'_> {
    /// Calls that name a parameter: those of its function are renamed, those that may be are refused.
    pub fn uses(&self, s: &Source, b: BindingId, old: &str) -> Found<References> {
        let binding = s.names.binding(b);
        let function = s.names.scope(binding.scope).node;
        let (mut out, mut assumed) = (Vec::new(), Vec::new());
        if binding.kind != BindKind::Parameter || s.lang.name_of_arguments().is_none() {
            return Ok(References { sure: out, possible: assumed });
        }
        let own = s.tree.name_of_callable(function);
        // calls name it without the mark of variables
        let bare = old.trim_start_matches(s.lang.variable_mark());
        for (_, other) in unseen::with_word(self.project, bare, s.lang) {
            let t = &other.tree;
            let mut uses = Uses { source: other.clone(), nodes: Vec::new() };
            for n in t.ids().filter(|n| t.role(*n) == Role::KeywordName && other.str(*n) == bare) {
                let call = t.ancestor(n, &[Role::Call]);
                let callee = call.and_then(|c| t.child(c, Field::Callee));
                let found = callee.and_then(|c| self.called_definition(&other, c));
                match found {
                    Some((home, d)) if home.path == s.path && d == function => uses.nodes.push(n),
                    Some(_) => {}
                    None if callee.is_some_and(|c| self.is_foreign(&other, c))
                        && !call.is_some_and(|c| self.hands_on(&other, c, s, function)) => {}
                    None => {
                        let name = own.map_or("", |n| s.str(n));
                        let message =
                            format!("a call gives a value to `{old}` by name; that may be a call of `{name}`");
                        return Err(vec![reason(&other, n, Code::NamedArgument, message)]);
                    }
                }
            }
            if !uses.nodes.is_empty() {
                out.push(uses);
            }
        }
        // names that come from a collection
        let name = own.map_or("", |n| s.str(n)).to_string();
        for (_, other) in unseen::with_word(self.project, &name, s.lang).filter(|_| !name.is_empty()) {
            let t = &other.tree;
            let spreads = |n: &NodeId| {
                let own = unseen::called(&other, *n).filter(|(word, _)| *word == name);
                own.is_some_and(|(_, a)| {
                    a.iter().any(|a| t.role(*a) == Role::Spread && other.lang.spreads_names(other.str(*a)))
                })
            };
            let message = format!("the collection that is spread here has no key `{old}`");
            assumed.extend(
                t.ids().filter(spreads).take(1).map(|n| reason(&other, n, Code::NamedArgument, message.clone())),
            );
            let handed = |n: &NodeId| {
                let t = &other.tree;
                let read = other.names.at(*n).is_some_and(|r| r.usage.reads());
                t.role(*n) == Role::Name && other.str(*n) == name && read && t.field(*n) != Field::Callee
            };
            let message = format!("whoever calls the function that is handed on here does not name `{old}`");
            assumed.extend(
                t.ids().filter(handed).take(1).map(|n| reason(&other, n, Code::NamedArgument, message.clone())),
            );
        }
        assumed.truncate(unseen::MOST_PLACES);
        Ok(References { sure: out, possible: assumed })
    }

    /// The function that a callee surely is: of a module, or of the class that the object is of.
    fn called_definition(&self, s: &Source, callee: NodeId) -> Option<(Arc<Source>, NodeId)> {
        let t = &s.tree;
        if t.role(callee) == Role::Member
            && let Some(class) = class_of_object(self.project, s, t.child(callee, Field::Object)?)
        {
            let (home, class) = class;
            let scope = home.names.scope_of(class)?;
            let b = home.names.declared_in(scope, s.str(t.child(callee, Field::Member)?))?;
            let first = home.names.binding(b).first;
            return home.tree.parent(first).map(|d| (home.clone(), d));
        }
        if let Some(b) = s.names.at(callee).and_then(|r| r.target)
            && s.names.binding(b).scope != Names::MODULE
            && s.names.binding(b).kind == BindKind::Function
            && s.names.binding(b).writes == 1
        {
            let own = self.project.source(self.project.index(&s.path)?).ok()?;
            return t.parent(s.names.binding(b).first).map(|d| (own, d));
        }
        let (home, d) = unseen::definition_of(self.project, s, callee)?;
        if home.tree.role(d) != Role::Class {
            return Some((home, d));
        }
        let scope = home.names.scope_of(d)?;
        let made = home.names.bindings_of(scope).find(|b| home.lang.is_constructor(&home.names.binding(*b).name))?;
        home.tree.parent(home.names.binding(made).first).map(|d| (home.clone(), d))
    }

    /// A call that is given the function, or a class that it makes objects of, and may call it with what else it is given.
    fn hands_on(&self, s: &Source, call: NodeId, home: &Source, function: NodeId) -> bool {
        let t = &s.tree;
        let Some(list) = t.child(call, Field::Arguments) else { return false };
        let values = t.subtree(list).filter(|n| matches!(t.role(*n), Role::Name | Role::Member));
        values
            .into_iter()
            .any(|n| self.called_definition(s, n).is_some_and(|(h, d)| h.path == home.path && d == function))
    }

    /// A callee that the project does not define.
    fn is_foreign(&self, s: &Source, callee: NodeId) -> bool {
        let root = s.tree.subtree(callee).find(|n| s.tree.role(*n) == Role::Name);
        let Some(root) = root.filter(|r| s.tree.span(*r).start == s.tree.span(callee).start) else { return false };
        match s.names.at(root).map(|r| r.target) {
            Some(Some(b)) => {
                let binding = s.names.binding(b);
                let entity = self.project.origin(&self.project.entity(s, &binding.name));
                binding.scope == Names::MODULE && matches!(entity, Entity::Foreign(..))
            }
            Some(None) => s.lang.is_builtin(s.str(root)) && s.tree.role(callee) == Role::Name,
            None => false,
        }
    }
}
