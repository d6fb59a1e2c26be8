//! What a definition does when its file is loaded, besides defining.
//!
//! Bodies of functions are not run then. Decorators, default values, bases, bodies of classes and values are: calls that
//! are not known to only make something, and classes whose base may do something with them. That a value is read of what
//! may be another one at another time is not seen here: names of a file are given once, or the move is refused.

use crate::index::{Entity, Project, bases, unseen};
use crate::names::{BindingId, Source};
use crate::tree::{Field, NodeId, Role, Tree};

/// Places that may do something.
pub(crate) fn acts(project: &Project, s: &Source, statement: NodeId) -> Vec<NodeId> {
    let t = &s.tree;
    let own = |n: NodeId| {
        let later = t.body_around(n).is_some_and(|f| f >= statement);
        !later && t.ancestor(n, &[Role::Type]).is_none_or(|a| a < statement)
    };
    let all = t.subtree(statement).filter(|n| own(*n));
    all.filter(|n| match t.role(*n) {
        Role::Call => !only_makes(project, s, *n),
        Role::Decorator => {
            let marked = t.children(*n).find(|c| t.role(*c).is_expression());
            marked.is_some_and(|m| t.role(m) != Role::Call && !is_known(project, s, m))
        }
        Role::Await | Role::Yield | Role::Delete => true,
        Role::Assign | Role::AugAssign => {
            let left = t.child(*n, Field::Left);
            left.is_some_and(|l| matches!(t.role(l), Role::Member | Role::Index))
        }
        Role::Class => bases_act(project, s, *n),
        _ => false,
    })
    .collect()
}

/// Loading a file does nothing but define: what it loads itself is left out.
pub(crate) fn only_defines(project: &Project, file: usize) -> bool {
    let Ok(s) = project.source(file) else { return false };
    let t = &s.tree;
    let defines = |n: NodeId| match t.role(n) {
        Role::Doc | Role::Pass => true,
        Role::Import | Role::ImportFrom => binds_what_is_used(&s, n),
        Role::If => s.lang.is_plain_top_level(t, n, &s.text),
        Role::Function | Role::Class | Role::Decorated | Role::TypeAlias | Role::Assign | Role::Declare => {
            let link = t.role(n) == Role::Declare && !s.lang.imports_of(t, n, &s.text).is_empty();
            link || acts(project, &s, n).is_empty()
        }
        Role::ExprStmt => t.children(n).all(|c| match t.role(c) {
            Role::Assign => acts(project, &s, c).iter().all(|a| t.role(*a) == Role::Assign && gives(&s, *a)),
            _ => false,
        }),
        _ => false,
    };
    t.children(Tree::ROOT).all(defines) && t.errors().is_empty()
}

/// `exports.a = a`
fn gives(s: &Source, assign: NodeId) -> bool {
    let left = s.tree.child(assign, Field::Left);
    let object = left.and_then(|l| s.tree.child(l, Field::Object)).map_or("", |o| s.str(o));
    left.is_some_and(|l| s.lang.is_exports(s, s.str(l)) || s.lang.is_exports(s, object))
}

/// An import of which nothing is used may be there for what loading it does.
fn binds_what_is_used(s: &Source, import: NodeId) -> bool {
    let t = &s.tree;
    let own = (0..s.names.bindings.len() as u32).map(BindingId).filter(|b| {
        let binding = s.names.binding(*b);
        binding.import.is_some() && t.contains(import, binding.first)
    });
    let of_language =
        || s.lang.imports_of(t, import, &s.text).iter().all(|i| i.level == 0 && s.lang.is_standard_module(&i.module));
    let read = |b: BindingId| {
        s.names.references_to(b).any(|r| r.usage.reads()) || s.module.as_ref().is_some_and(|m| m.is_package)
    };
    let bound: Vec<BindingId> = own.collect();
    let passes = s.lang.passes_names_on(s.str(import));
    let named = t.role(import) == Role::ImportFrom && !bound.is_empty();
    passes || of_language() || named || bound.into_iter().any(read)
}

/// A call that makes something of what it is given, and does no more.
fn only_makes(project: &Project, s: &Source, call: NodeId) -> bool {
    let t = &s.tree;
    let callee = t.child(call, Field::Callee);
    let known = callee.is_some_and(|c| is_known(project, s, c));
    let constructs = || {
        let named = callee.map_or("", |c| s.str(c));
        s.lang.makers_when_loaded().contains(&named) && callee.is_some_and(|c| is_builtin(project, s, c))
    };
    known || constructs()
}

fn is_builtin(project: &Project, s: &Source, n: NodeId) -> bool {
    let t = &s.tree;
    let root = std::iter::successors(Some(n), |x| t.child(*x, Field::Object)).last().unwrap_or(n);
    let free = s.names.at(root).is_some_and(|r| r.target.is_none());
    free && matches!(project.entity(s, s.str(root)), Entity::Builtin(_))
}

/// What comes with the language, by its module and name, and is known to do nothing else.
fn is_known(project: &Project, s: &Source, n: NodeId) -> bool {
    let t = &s.tree;
    if is_builtin(project, s, n) {
        return s.lang.makers_when_loaded().contains(&s.str(n));
    }
    // `property.setter` of the class's own
    if let Some(object) = t.child(n, Field::Object)
        && s.names.at(object).and_then(|r| r.target).is_some_and(|b| s.names.binding(b).import.is_none())
    {
        let word = t.child(n, Field::Member).map_or("", |m| s.str(m));
        return t.ancestor(n, &[Role::Decorator]).is_some()
            && s.lang.makers_when_loaded().contains(&format!(".{word}").as_str());
    }
    let Some(module) = library_module(project, s, n) else { return false };
    let word = match project.meant(s, n) {
        Some(Entity::Foreign(_, name)) => name,
        _ => t.child(n, Field::Member).map_or(String::new(), |m| s.str(m).to_string()),
    };
    s.lang.makers_when_loaded().contains(&format!("{module}.{word}").as_str())
}

/// A base that is not known may do something with each class that extends it, where the language has a way to; so may a
/// metaclass. Those of the language's own library do not.
fn bases_act(project: &Project, s: &Source, class: NodeId) -> bool {
    let t = &s.tree;
    if s.lang.class_hooks().is_empty() {
        return false;
    }
    let known = |b: NodeId| {
        let plain = s.lang.harmless_bases().contains(&s.str(b)) || is_builtin(project, s, b);
        plain || is_known(project, s, b) || library_module(project, s, b).is_some_and(|m| s.lang.is_standard_module(&m))
    };
    let own = |b: NodeId| {
        unseen::definition_of(project, s, b).is_some_and(|(home, d)| {
            let hook = |n: &NodeId| home.tree.is_leaf(*n) && home.lang.class_hooks().contains(&home.str(*n));
            home.tree.role(d) == Role::Class && !home.tree.subtree(d).any(|n| hook(&n)) && !bases_act(project, &home, d)
        })
    };
    let lists = t.children(class).filter(|c| t.field(*c) == Field::Bases);
    let keywords: Vec<NodeId> = lists.flat_map(|b| t.subtree(b).filter(|n| t.role(*n) == Role::KeywordArg)).collect();
    let plain = |k: &NodeId| {
        t.child(*k, Field::Value).is_some_and(|v| match t.role(v) {
            Role::Name | Role::Member => known(v),
            _ => t.is_leaf(v),
        })
    };
    !keywords.iter().all(plain) || bases::of(s, class).into_iter().any(|b| !known(b) && !own(b))
}

/// The module from elsewhere that a name, or what stands before its dot, is of.
fn library_module(project: &Project, s: &Source, n: NodeId) -> Option<String> {
    match project.meant(s, n) {
        Some(Entity::Foreign(module, _)) => Some(module),
        _ => match project.meant(s, s.tree.child(n, Field::Object)?) {
            Some(Entity::Foreign(module, _)) => Some(module),
            _ => None,
        },
    }
}
