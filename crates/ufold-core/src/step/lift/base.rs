//! The class that the members go to: one that all their classes extend, or one that is made.

use std::sync::Arc;

use super::LiftRequest;
use super::classes::{Held, statement_of};
use crate::change::{Code, Found, reason};
use crate::find::paths::is_test;
use crate::index::ancestry::{self, Ancestor};
use crate::index::{Project, bases};
use crate::names::Source;
use crate::tree::{Field, NodeId, Role, Tree};

/// Where the members go.
pub(super) enum Base {
    /// A class of the project; of each of the classes those that stand between the two.
    There { file: usize, class: Ancestor, between: Vec<Vec<Ancestor>> },
    /// A class of that name that is made in the file; `above`: it stands there right above the first of the classes.
    New { file: usize, s: Arc<Source>, name: String },
}

impl Base {
    pub fn source(&self) -> &Arc<Source> {
        match self {
            Base::There { class, .. } => &class.source,
            Base::New { s, .. } => s,
        }
    }

    pub fn file(&self) -> usize {
        match self {
            Base::There { file, .. } | Base::New { file, .. } => *file,
        }
    }

    pub fn name(&self) -> String {
        match self {
            Base::There { class, .. } => {
                class.source.tree.child(class.node, Field::Name).map_or(String::new(), |n| class.source.str(n).into())
            }
            Base::New { name, .. } => name.clone(),
        }
    }

    pub fn is_new(&self) -> bool {
        matches!(self, Base::New { .. })
    }
}

pub(super) fn find(project: &Project, request: &LiftRequest, classes: &[Held]) -> Found<Base> {
    for h in classes {
        if statement_of(&h.s, h.class).is_none() {
            let why = format!("`{}` stands inside other code", h.name);
            return Err(vec![reason(&h.s, h.class, Code::NoHome, why)]);
        }
    }
    match &request.new_base {
        Some(name) => new(project, request, classes, name),
        None => there(project, request.to.as_deref(), classes),
    }
}

fn there(project: &Project, to: Option<&str>, classes: &[Held]) -> Found<Base> {
    let first = &classes[0];
    let refuse = |code, why: String| Err(vec![reason(&first.s, first.class, code, why)]);
    let chains: Vec<Vec<Ancestor>> = classes.iter().map(|h| ancestry::of(project, &h.s, h.class)).collect();
    let holds = |c: &[Ancestor], b: &Ancestor| c.iter().position(|o| o.is(&b.source, b.node)).filter(|i| *i > 0);
    let named = |b: &Ancestor| {
        to.is_none_or(|to| b.source.tree.child(b.node, Field::Name).is_some_and(|n| b.source.str(n) == to))
    };
    let common = chains[0].iter().skip(1).filter(|b| chains.iter().all(|c| holds(c, b).is_some()));
    let Some(class) = common.into_iter().find(|b| named(b)).cloned() else {
        let why = match to {
            Some(to) => format!("not all of the classes extend a `{to}` of the project, each as its only base"),
            None => "the classes extend no class in common; --new-base NAME makes one".into(),
        };
        return refuse(Code::NoHome, why);
    };
    let between: Vec<Vec<Ancestor>> = chains.iter().map(|c| c[1..holds(c, &class).unwrap_or(1)].to_vec()).collect();
    let alone = |s: &Source, n: NodeId| bases::of(s, n).len() == 1;
    for (h, between) in classes.iter().zip(&between) {
        if !alone(&h.s, h.class) || !between.iter().all(|c| alone(&c.source, c.node)) {
            let why = format!("`{}` extends more than one class", h.name);
            return Err(vec![reason(&h.s, h.class, Code::NoHome, why)]);
        }
    }
    let Some(file) = project.index(&class.source.path) else {
        return refuse(Code::NoHome, "the class that they extend is no part of the project".into());
    };
    let tests = classes.iter().all(|h| is_test(&h.s.path)) && !is_test(&class.source.path);
    let kind = class.source.lang.name() == first.s.lang.name();
    let broken = !class.source.tree.errors().is_empty() || class.source.names.wildcard && file != first.file;
    let closed = statement_of(&class.source, class.node).is_none()
        || class.source.lang.bases().is_none_or(|of| of.is_closed(&class.source, class.node).is_some());
    if tests || !kind || broken || closed {
        let why = format!("{} can't take members of these classes", class.source.path);
        return refuse(Code::NoHome, why);
    }
    Ok(Base::There { file, class, between })
}

fn new(project: &Project, request: &LiftRequest, classes: &[Held], name: &str) -> Found<Base> {
    let first = &classes[0];
    let refuse = |code, why: String| Err(vec![reason(&first.s, first.class, code, why)]);
    if !first.s.lang.is_identifier(name) {
        return refuse(Code::BadName, format!("`{name}` can't be the name of a class"));
    }
    let one_file = classes.iter().all(|h| h.file == first.file);
    let file = match request.into.as_deref() {
        Some(path) => project.index(path),
        None if one_file => Some(first.file),
        None => {
            return refuse(Code::NoHome, "the classes stand in several files: say in which the new one should".into());
        }
    };
    let Some(file) = file else {
        let path = request.into.as_deref().unwrap_or_default();
        return refuse(Code::NoHome, format!("{path} is no source file that could be made there"));
    };
    let s = project.source(file).map_err(|e| vec![reason(&first.s, Tree::ROOT, Code::Unreadable, e)])?;
    if s.lang.name() != first.s.lang.name() || !s.tree.errors().is_empty() {
        return refuse(Code::NoHome, format!("{} can't take a class of these", s.path));
    }
    let system = |f: usize| &project.facts[f].module_system;
    if classes.iter().any(|h| h.file != file && (system(h.file) != system(file) || h.s.names.wildcard))
        || is_test(&s.path) && !is_test(&first.s.path)
    {
        return refuse(Code::NoHome, format!("{} can't be imported by all of the classes", s.path));
    }
    let known = |s: &Source| {
        let word = |n: &NodeId| matches!(s.tree.role(*n), Role::Name | Role::MemberName) && s.str(*n) == name;
        s.tree.ids().find(word)
    };
    let taken = classes.iter().map(|h| &h.s).chain([&s]).find_map(|s| Some((s, known(s)?)));
    let taken = taken.filter(|(s, _)| project.index(&s.path).is_some_and(|f| !project.is_new(f)));
    if let Some((s, n)) = taken {
        return Err(vec![reason(s, n, Code::NameTaken, format!("the name `{name}` is already in use"))]);
    }
    if first.s.lang.is_builtin(name) || s.names.members_in_sight && project.word_elsewhere(name, &[file]) {
        return refuse(Code::NameTaken, format!("the name `{name}` is already in use"));
    }
    Ok(Base::New { file, s, name: name.to_string() })
}
