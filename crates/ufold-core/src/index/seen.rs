//! What could see the name of a thing at run time: code that looks names up or lists them, members that show what a
//! function or class is called, texts, and files that are not read as code.
//!
//! Each place is an assumption, or a refusal where the name surely is seen. A place that can't mean this name is none: a
//! text that begins otherwise, the class of an object that is known to be another one.

use std::sync::Arc;

use crate::change::{Code, Found, Reason, reason};
use crate::index::bases::is_closed;
use crate::index::member_uses::{self, is_in, is_type};
use crate::index::target::Target;
use crate::index::{Entity, Project, Uses, bases, is_told, unseen};
use crate::lang::Sort;
use crate::names::{BindKind, BindingId, Names, Source};
use crate::tree::{Field, NodeId, Role, Tree};

/// A name whose uses are known.
pub(crate) struct Seen<'a> {
    pub project: &'a Project<'a>,
    pub home: &'a Arc<Source>,
    pub uses: &'a [Uses],
    pub old: &'a str,
}

const SEEN_HERE: &str = "nothing depends on the name that is seen here";

impl Seen<'_> {
    /// What could lead to the name at run time, and what it is shown by.
    pub fn by(&self, target: Target) -> Found<Vec<Reason>> {
        let mut out = Vec::new();
        match target {
            Target::Binding(b) => {
                out.extend(self.by_code(b)?);
                out.extend(self.shown(b));
                let binding = self.home.names.binding(b);
                if binding.scope != Names::MODULE || !self.home.lang.exports_by_name(self.home, b) {
                    return Ok(out);
                }
                out.extend(unseen::lookups(self.project, self.old, unseen::Within::File(&self.home.path)));
                if self.home.lang.modules_are_values() {
                    out.extend(self.through_the_module()?);
                }
            }
            Target::Member(n) => {
                let family = member_uses::family_of(self.project, self.home, n);
                let other = |s: &Arc<Source>, object: NodeId| {
                    let class = member_uses::class_of_object(self.project, s, object);
                    let unrelated = |c| family.as_ref().is_some_and(|f| !is_in(f, c) && is_closed(self.project, c));
                    class.as_ref().is_some_and(unrelated) || member_uses::is_elsewhere(self.project, s, object)
                };
                let speakers = unseen::Within::Speakers(self.home.lang);
                out.extend(unseen::lookups_of(self.project, self.old, speakers, self.sort_of(n), &other));
                let what = format!("`{}`", self.old);
                out.extend(unseen::computed_members(self.project, self.old, self.home.lang));
                if self.home.tree.ancestor(n, &[Role::TypeAlias]).is_some() {
                    out.extend(unseen::data(self.project, &what));
                }
            }
        }
        out.extend(unseen::texts(self.project, self.old, &|s, n| is_told(self.uses, s, n)));
        out.extend(unseen::elsewhere(self.project, self.old, self.home));
        Ok(out)
    }

    /// A function or a class, where variables have a mark: what sees those of a place does not see it.
    fn is_apart(&self, b: BindingId) -> bool {
        let named = matches!(self.home.names.binding(b).kind, BindKind::Function | BindKind::Class);
        named && !self.home.lang.variable_mark().is_empty()
    }

    /// What a member surely is, where the language tells functions from values.
    fn sort_of(&self, n: NodeId) -> Option<Sort> {
        let t = &self.home.tree;
        let is_function = t.parent(n).is_some_and(|f| t.role(f) == Role::Function && t.field(n) == Field::Name);
        let is_value =
            || t.ancestor(n, &[Role::ClassField, Role::Class]).is_some_and(|a| t.role(a) == Role::ClassField);
        if is_function { Some(Sort::Function) } else { is_value().then_some(Sort::Value) }
    }

    /// A member of the module is seen by whoever has the module as a value.
    fn through_the_module(&self) -> Found<Option<Reason>> {
        let (project, old) = (self.project, self.old);
        let file = project.index(&self.home.path).expect("a planned file was scanned");
        let Some((s, n)) = unseen::handed_on(project, file).into_iter().next() else { return Ok(None) };
        if let Some((other, m)) =
            unseen::possible_member(project, old, self.home.lang, &|s, n| is_told(self.uses, s, n))
        {
            let place = format!("{}:{}", s.path, s.line(n));
            let message = format!("`{old}` here may be of the module, which is handed on at {place}");
            return Err(vec![reason(&other, m, Code::UnclearUse, message)]);
        }
        let message = format!("nobody looks `{old}` up in the module, which is handed on here");
        Ok(Some(reason(&s, n, Code::LookedUp, message)))
    }

    /// Code that sees the names of the variables around it.
    fn by_code(&self, b: BindingId) -> Found<Vec<Reason>> {
        let (home, mut out) = (self.home, Vec::new());
        let frame = home.names.scope(home.names.frame_of(b)).node;
        for u in self.uses {
            let (s, t) = (&u.source, &u.source.tree);
            let within = if s.path == home.path { frame } else { Tree::ROOT };
            let found = match self.is_apart(b) {
                true => s.tree.subtree(within).find(|n| runs_text(s, *n)),
                false => shows_names(self.project, s, within, frame == Tree::ROOT),
            };
            if let Some(n) = found {
                return Err(vec![reason(s, n, Code::Reflection, "names are looked up by texts here")]);
            }
            let shown = |n: &&NodeId| t.ancestors(**n).any(|a| s.shows_its_code(a));
            if let Some(n) = u.nodes.iter().find(shown) {
                return Err(vec![reason(s, *n, Code::ShownName, "the text here shows the name itself")]);
            }
            let unknown = |n: &NodeId| lists(self.project, s, *n) == Some(Listed::Unknown);
            let message = || format!("`{}` is not among the names that are listed here", self.old);
            out.extend(
                t.ids().filter(|_| frame == Tree::ROOT).find(unknown).map(|n| reason(s, n, Code::LookedUp, message())),
            );
        }
        out.truncate(unseen::MOST_PLACES);
        Ok(out)
    }

    /// Members by which code sees what a function or class is called.
    fn shown(&self, b: BindingId) -> Vec<Reason> {
        let lang = self.home.lang;
        let mut out = Vec::new();
        let is_class = self.home.names.binding(b).kind == BindKind::Class;
        for word in lang.class_showing_words().iter().filter(|_| is_class) {
            let all = unseen::with_word(self.project, word, lang);
            let places = all.filter_map(|(_, s)| {
                let leaf = |n: &NodeId| s.tree.is_leaf(*n) && s.tree.role(*n) != Role::Token && s.str(*n) == *word;
                s.tree.ids().find(leaf).map(|n| reason(&s, n, Code::ShownName, SEEN_HERE))
            });
            out.extend(places);
        }
        let Some(named) = self.named(b) else { return out };
        for word in lang.name_members() {
            for (_, s) in unseen::with_word(self.project, word, lang) {
                let t = &s.tree;
                let shows = |n: &NodeId| {
                    let member = t.role(*n) == Role::MemberName && s.str(*n) == *word;
                    let given =
                        |m: NodeId| t.field(m) == Field::Left && t.parent(m).is_some_and(|a| t.role(a) == Role::Assign);
                    let read = t.parent(*n).filter(|m| member && !given(*m));
                    let object = read.and_then(|p| t.child(p, Field::Object));
                    object.is_some_and(|o| self.may_be(&named, &s, o, word))
                };
                out.extend(t.ids().filter(shows).take(1).map(|n| reason(&s, n, Code::ShownName, SEEN_HERE)));
            }
        }
        out.truncate(unseen::MOST_PLACES);
        out
    }

    /// What a name stands for, when that knows its own name.
    fn named(&self, b: BindingId) -> Option<Named> {
        let (s, t) = (self.home, &self.home.tree);
        let binding = s.names.binding(b);
        let statement = t.parent(binding.first)?;
        let value = t.child(statement, Field::Right);
        let is_function = value.is_some_and(|v| matches!(t.role(v), Role::Lambda | Role::Class | Role::Function));
        if !matches!(binding.kind, BindKind::Function | BindKind::Class) && !is_function {
            return None;
        }
        let node = value.unwrap_or(statement);
        let is_class = binding.kind == BindKind::Class || t.role(node) == Role::Class || self.makes_objects(node);
        Some(Named { node, is_class, is_handed: binding.kind == BindKind::Class || self.is_handed_on() })
    }

    /// A function that is called as a maker of objects, or gives them their members.
    fn makes_objects(&self, function: NodeId) -> bool {
        let used = |u: &Uses| {
            let mut uses = u.nodes.iter().filter(|n| u.source.tree.field(**n) != Field::Name);
            uses.any(|n| u.source.lang.is_maker(&u.source, *n))
        };
        self.home.lang.is_maker(self.home, function) || self.uses.iter().any(used)
    }

    /// Whether the object whose name is read may be the thing that is named.
    fn may_be(&self, named: &Named, s: &Arc<Source>, object: NodeId, word: &str) -> bool {
        if is_told(self.uses, s, object) || self.is_imported_from(s, object) {
            return true;
        }
        if let Some(of) = s.lang.class_of(s, object) {
            return named.is_class && !self.is_of_other_class(named, s, of);
        }
        let any = word.starts_with('_') && !is_a_module(s, object) || may_be_callable(s, object);
        named.is_handed && any
    }

    /// An object whose class can't be the named one: one of a class that the named one does not extend.
    fn is_of_other_class(&self, named: &Named, s: &Arc<Source>, object: NodeId) -> bool {
        let Some(class) = member_uses::class_of_object(self.project, s, object) else { return false };
        let own = (self.home.clone(), named.node);
        // the names of classes inside begin with its own
        let inside = class.0.path == own.0.path && own.0.tree.contains(own.1, class.1);
        let family = bases::with_bases(self.project, own.clone());
        is_type(&own) && !inside && !is_in(&family, &class) && family.iter().all(has_plain_bases)
    }

    /// A name that its file imports from a module.
    fn is_imported_from(&self, s: &Source, object: NodeId) -> bool {
        let b = s.names.at(object).and_then(|r| r.target);
        let import = b.and_then(|b| s.names.binding(b).import.as_ref()).filter(|i| i.member.is_some());
        import.is_some_and(|i| {
            self.project.index(&self.home.path).is_some_and(|h| self.project.resolved(s, i).contains(&h))
        })
    }

    /// Used otherwise than by calling it.
    fn is_handed_on(&self) -> bool {
        self.uses.iter().any(|u| {
            let (s, t) = (&u.source, &u.source.tree);
            u.nodes.iter().any(|n| {
                let read = s.names.at(*n).is_some_and(|r| r.usage.reads());
                let marked = t.parent(*n).and_then(|f| t.parent(f)).is_some_and(|d| {
                    t.role(d) == Role::Decorated && t.children(d).any(|c| t.role(c) == Role::Decorator)
                });
                read && t.field(*n) != Field::Callee || marked
            })
        })
    }
}

/// No base of a class is a type with its owner before it, which is not followed.
fn has_plain_bases((s, class): &(Arc<Source>, NodeId)) -> bool {
    let path = |a: NodeId| s.tree.role(a) == Role::Type && s.str(a).split('<').next().is_some_and(|p| p.contains('.'));
    let within = |n: NodeId| s.tree.ancestors(n).take_while(|a| a != class).any(path);
    !bases::of(s, *class).into_iter().any(within)
}

/// A function or class that knows what it is called.
struct Named {
    node: NodeId,
    is_class: bool,
    /// Code that does not name it may have it.
    is_handed: bool,
}

fn is_a_module(s: &Source, object: NodeId) -> bool {
    let target = s.names.at(object).and_then(|r| r.target);
    target.is_some_and(|b| s.names.binding(b).import.as_ref().is_some_and(|i| i.member.is_none()))
}

/// An object that is called somewhere, or whatever made another one.
fn may_be_callable(s: &Source, object: NodeId) -> bool {
    let Some(target) = s.names.at(object).and_then(|r| r.target) else {
        return s.tree.role(object) == Role::Member || s.tree.role(object) == Role::Call;
    };
    s.names.references_to(target).any(|r| s.tree.field(r.node) == Field::Callee)
}

/// A call that runs what a text says.
fn runs_text(s: &Source, n: NodeId) -> bool {
    let callee = s.tree.child(n, Field::Callee).filter(|_| s.tree.role(n) == Role::Call);
    callee.is_some_and(|c| s.lang.runs_texts(s.str(c)))
}

/// Code in a part of a file that sees the names of the variables around it; those of the module are seen by code that is
/// made of texts, and where the module's own are listed.
pub(crate) fn looks_at_names(s: &Source, within: NodeId, of_module: bool) -> Option<NodeId> {
    let t = &s.tree;
    let looks = |n: &NodeId| match t.role(*n) {
        Role::Call => {
            let callee = t.child(*n, Field::Callee).map_or("", |c| s.str(c));
            let sees = !of_module || t.callable_around(*n).is_none() || s.lang.runs_texts(callee);
            sees && s.lang.reads_locals(callee, s.str(*n))
        }
        Role::DynamicScope => true,
        _ => false,
    };
    t.subtree(within).find(looks)
}

/// A call that sees the locals around it, or the frame that holds them.
pub(crate) fn asks_for_names(s: &Source, n: NodeId) -> bool {
    let t = &s.tree;
    let Some(callee) = t.child(n, Field::Callee).filter(|_| t.role(n) == Role::Call).map(|c| s.str(c)) else {
        return t.role(n) == Role::DynamicScope;
    };
    s.lang.reads_locals(callee, s.str(n)) || s.reads_frame(n) && !s.lang.needs_class(callee)
}

/// The same, what may bind any name, and tables of the names around.
pub(crate) fn reads_names(s: &Source, n: NodeId) -> bool {
    match s.tree.role(n) {
        Role::ImportFrom => s.lang.imports_of(&s.tree, n, &s.text).iter().any(|i| i.wildcard),
        Role::Name => s.lang.name_tables().contains(&s.str(n)),
        _ => asks_for_names(s, n),
    }
}

/// The same, and code anywhere in the file that lists the names of its own module; at the file's level, of what may be it.
pub(crate) fn shows_names(project: &Project, s: &Source, within: NodeId, of_module: bool) -> Option<NodeId> {
    let shows = |n: &NodeId| match lists(project, s, *n) {
        Some(Listed::Own) => true,
        Some(Listed::Unknown) => s.tree.callable_around(*n).is_none(),
        None => false,
    };
    looks_at_names(s, within, of_module).or_else(|| s.tree.ids().filter(|_| of_module).find(shows))
}

/// What a call lists the names of, unless it is surely not the module of the file.
#[derive(PartialEq)]
enum Listed {
    Own,
    Unknown,
}

fn lists(project: &Project, s: &Source, call: NodeId) -> Option<Listed> {
    let (word, arguments) = unseen::called(s, call)?;
    let value = *arguments.first().filter(|_| s.lang.frame_listers().contains(&word))?;
    if let Some(Entity::Module(m)) = project.meant(s, value) {
        return (project.index(&s.path) == Some(m)).then_some(Listed::Own);
    }
    let given = crate::index::declared::value_of(s, value).unwrap_or(value);
    if [value, given].iter().any(|v| s.lang.loads_modules(s.str(*v))) {
        return Some(Listed::Own);
    }
    let known =
        member_uses::class_of_object(project, s, value).is_some() || member_uses::is_elsewhere(project, s, value);
    (!known).then_some(Listed::Unknown)
}
