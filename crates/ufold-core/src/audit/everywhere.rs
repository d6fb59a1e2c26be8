//! A name has its new word in all files: read again with the new texts, each word that meant it means it still, each other
//! one what it meant.
//!
//! Names of modules are resolved in the project as it would be; members and named arguments, which nothing resolves, are
//! asked for word by word. Languages whose types tell members apart: see [`super::renamed`].

use std::sync::Arc;

use rayon::prelude::*;
use rustc_hash::FxHashMap;

use super::file::{File, Renaming};
use super::{Objection, Opinion, object};
use crate::change::Verdict;
use crate::index::member_uses::{
    Owner, by_other_objects, family_of, is_by_written_type, is_member_word, listed_members, owner,
};
use crate::index::{Entity, Project, looked_up, named_arguments, with_word};
use crate::names::{Binding, BindingId, ImportRef, Names, ScopeKind, Source};
use crate::tree::{Field, NodeId, Role, Tree};

type Map = FxHashMap<NodeId, NodeId>;

pub(super) fn run(project: &Project, renaming: &Renaming, files: &[File], maps: &[Map]) -> Opinion<()> {
    // types tell whose the others are, which another part looks at
    let typed = files[0].old.names.members_in_sight;
    if typed && files[0].old.lang.name_of_arguments().is_none() {
        return Ok(());
    }
    let (old, new) = (renaming.old, renaming.new);
    let all = with_word(project, old, files[0].old.lang).collect();
    let words = files.iter().zip(maps).map(|(f, map)| changed_words(f, map, old)).collect();
    let mut e = Everywhere { project, files, maps, all, words, home: None, given: false, old, new };
    e.named_arguments()?;
    if typed {
        return Ok(());
    }
    e.home = e.definition();
    let index = |f: &File| project.index(&f.old.path);
    e.given = files.iter().any(|f| index(f) == e.home && super::call::gives(&f.new, old));
    e.members(renaming.verdict == Verdict::Assumed)?;
    e.modules()
}

fn changed_words(f: &File, map: &Map, old: &str) -> Vec<NodeId> {
    let t = &f.old.tree;
    let other = |n: &NodeId| map.get(n).is_some_and(|m| f.new.str(*m) != old);
    t.ids().filter(|n| t.is_leaf(*n) && f.old.str(*n) == old && other(n)).collect()
}

struct Everywhere<'a> {
    project: &'a Project<'a>,
    files: &'a [File],
    maps: &'a [Map],
    /// Files that have the old word.
    all: Vec<(usize, Arc<Source>)>,
    /// Of each edited file, the words that changed.
    words: Vec<Vec<NodeId>>,
    /// The file of the definition, when that is what was renamed.
    home: Option<usize>,
    /// Others know it as a member of what its module gives, which has the old name still.
    given: bool,
    old: &'a str,
    new: &'a str,
}

impl Everywhere<'_> {
    fn words(&self) -> impl Iterator<Item = (&Arc<Source>, NodeId)> {
        self.files.iter().zip(&self.words).flat_map(|(f, w)| w.iter().map(|n| (&f.old, *n)))
    }

    fn edited(&self, s: &Source, n: NodeId) -> bool {
        self.files.iter().any(|f| f.old.path == s.path && f.edited(s.tree.span(n)))
    }

    /// The word is another one afterwards.
    fn changed(&self, s: &Source, n: NodeId) -> bool {
        let other = |f: &File, map: &Map| map.get(&n).is_some_and(|m| f.new.str(*m) != f.old.str(n));
        self.files.iter().zip(self.maps).any(|(f, map)| f.old.path == s.path && other(f, map))
    }

    /// Calls that give a value to the renamed parameter by its name.
    fn named_arguments(&self) -> Opinion<()> {
        for (f, words) in self.files.iter().zip(&self.words) {
            let names = &f.old.names;
            let local = |b: &BindingId| names.binding(*b).scope != Names::MODULE && !names.is_member(*b);
            let mut of: Vec<BindingId> = words.iter().filter_map(|n| names.at(*n)?.target).collect();
            of.dedup();
            for b in of.into_iter().filter(local) {
                let Ok(found) = named_arguments::find(self.project, &f.old, b, self.old) else {
                    return object(&f.old, names.binding(b).first, "a call may name this parameter");
                };
                for u in found.sure {
                    if let Some(n) = u.nodes.iter().find(|n| !self.changed(&u.source, **n)) {
                        return object(&u.source, *n, "this call names the parameter by its old name");
                    }
                }
            }
        }
        Ok(())
    }

    /// All words of the members that were renamed, none of another class.
    fn members(&self, assumed: bool) -> Opinion<()> {
        let is_member = |s: &Source, n: NodeId| {
            let scope = s.names.at(n).and_then(|r| r.target).map(|b| s.names.scope(s.names.binding(b).scope).kind);
            s.tree.role(n) == Role::MemberName && scope.is_none() || scope == Some(ScopeKind::Class)
        };
        let is_pattern = |s: &Source, n: NodeId| {
            s.tree.role(n) == Role::KeywordName
                && s.tree.ancestor(n, &[Role::Call, Role::Case]).is_some_and(|c| s.tree.role(c) == Role::Case)
        };
        let members: Vec<_> = self.words().filter(|(s, n)| is_member(s, *n) || is_pattern(s, *n)).collect();
        let Some(family) = members.iter().find_map(|(s, n)| family_of(self.project, s, *n)) else {
            // behind a module it is no member
            return match members.first().filter(|_| self.home.is_none()) {
                Some((s, n)) if meaning(self.project, s, *n).is_none() => object(s, *n, "no class has the new name"),
                _ => Ok(()),
            };
        };
        if let Some(r) = by_other_objects(self.project, self.old, &family).into_iter().next().filter(|_| !assumed) {
            let message = format!("an object of another class may have its `{}` asked for here", self.old);
            return Err(Objection { message, file: r.file, line: r.line });
        }
        for (_, s) in &self.all {
            for n in s.tree.ids().filter(|n| is_member_word(s, *n, self.old)) {
                let fits = match owner(self.project, s, n, &family) {
                    _ if !assumed && is_by_written_type(self.project, s, n, &family) => false,
                    Owner::Family => self.edited(s, n),
                    Owner::Other => true,
                    Owner::Unknown => self.edited(s, n) && assumed,
                };
                if !fits {
                    return object(s, n, format!("`{}` here is, or may be, the renamed member", self.old));
                }
            }
            if let Some(n) = listed_members(s, self.old, &family).into_iter().find(|n| !self.edited(s, *n)) {
                return object(s, n, "the class lists the member by its old name");
            }
        }
        Ok(())
    }

    /// The definition of a module's name, when that is what was renamed.
    fn definition(&self) -> Option<usize> {
        let of_module = |s: &Source, n: NodeId| {
            let b = s.names.at(n).and_then(|r| r.target).map(|b| s.names.binding(b));
            // what an import brings and another statement gives is a variable of the file
            let own = |b: &Binding| b.import.is_none() || b.writes != 1;
            b.is_some_and(|b| b.is_of_file() && own(b) && b.first == n)
        };
        self.words().find(|(s, n)| of_module(s, *n)).and_then(|(s, _)| self.project.index(&s.path))
    }

    fn modules(&self) -> Opinion<()> {
        let texts: Vec<Arc<Source>> = self.files.iter().map(|f| f.new.clone()).collect();
        let nowhere = |message: String| Objection { message, file: self.files[0].old.path.clone(), line: 1 };
        let run = |after: &Project| {
            let all = FxHashMap::default();
            let check = |s: &Source| {
                let k = self.files.iter().position(|f| f.old.path == s.path);
                let file = after.index(&s.path).expect("the same files");
                let new = after.source(file).map_err(|message| Objection { message, file: s.path.clone(), line: 1 })?;
                let map = k.map_or(&all, |k| &self.maps[k]);
                FileAfter { e: self, after, s, new: &new, map: k.map(|_| map) }.check()
            };
            self.all.par_iter().try_for_each(|(_, s)| check(s))
        };
        self.project.with_texts(&texts, run).map_err(nowhere)?
    }
}

/// One file, before and after.
struct FileAfter<'a> {
    e: &'a Everywhere<'a>,
    after: &'a Project<'a>,
    s: &'a Source,
    new: &'a Source,
    /// None: not edited.
    map: Option<&'a Map>,
}

impl FileAfter<'_> {
    fn check(&self) -> Opinion<()> {
        let (s, t) = (self.s, &self.s.tree);
        let changed = |n: NodeId| object(s, n, format!("`{}` would be another one here", self.e.old));
        let (mut before, mut now) = (Known::default(), Known::default());
        for n in t.ids().filter(|n| t.is_leaf(*n)) {
            let Some(m) = self.there(n) else { continue };
            let is_word = matches!(t.role(n), Role::Name | Role::MemberName) && s.str(n) == self.e.old;
            let (was, is) = match is_word {
                true => (before.meaning(self.e.project, s, n), now.meaning(self.after, self.new, m)),
                false => (None, None),
            };
            let followed = was.is_some();
            let home = self.e.home.map(|h| Entity::Member(h, self.e.old.to_string()));
            let fits = match home.is_some() && was == home && self.is_given() {
                true => self.new.str(m) == self.e.old,
                false => was.map(|x| self.renamed(x)) == is,
            };
            if is_word && !fits {
                return changed(n);
            }
            if t.role(n) == Role::MemberName && s.str(n) == self.e.old && !followed && self.may_be_of_home(n) {
                return changed(n);
            }
            if t.role(n) == Role::Literal && !self.text_fits(n, m) {
                return object(s, n, "this text names what has another name now");
            }
        }
        for b in s.names.bindings.iter().filter(|b| b.import.is_some()) {
            let first = b.first;
            let Some(m) = self.there(first) else { continue };
            let now = self.new.names.at(m).and_then(|r| r.target).map(|b| self.new.names.binding(b));
            let was = given_by_import(self.e.project, s, b);
            let is = now.map(|b| given_by_import(self.after, self.new, b));
            if Some(self.renamed(was)) != is || !is.is_some_and(|e| self.exists(&e)) {
                return changed(first);
            }
        }
        let (was, is) = (s.lang.passed_on(s), self.new.lang.passed_on(self.new));
        for (a, b) in was.iter().zip(&is) {
            let of = |p: &Project, s: &Source, i: &ImportRef| {
                let target = *p.resolved(s, i).first()?;
                Some(i.member.as_ref().map(|m| p.origin(&Entity::Member(target, m.clone()))))
            };
            let (x, y) = (of(self.e.project, s, &a.import), of(self.after, self.new, &b.import));
            let x = x.map(|e| e.map(|e| self.renamed(e)));
            if x != y || y.flatten().is_some_and(|e| !self.exists(&e)) {
                return changed(Tree::ROOT);
            }
        }
        match was.len() == is.len() {
            true => Ok(()),
            false => changed(Tree::ROOT),
        }
    }

    /// The object has its value from several places, of which one imports the module.
    fn may_be_of_home(&self, n: NodeId) -> bool {
        let (s, t) = (self.s, &self.s.tree);
        let object = t.parent(n).and_then(|m| t.child(m, Field::Object)).and_then(|o| s.names.at(o)?.target);
        let Some((b, home)) = object.zip(self.e.home) else { return false };
        let statement = |n: NodeId| t.ancestors(n).find(|a| !s.lang.imports_of(t, *a, &s.text).is_empty());
        let words = s.names.references_to(b).filter(|r| r.usage.writes());
        let all = words.filter_map(|r| statement(r.node)).flat_map(|i| s.lang.imports_of(t, i, &s.text));
        all.into_iter().any(|i| self.e.project.resolved(s, &i).contains(&home))
    }

    /// The leaf in the new text.
    fn there(&self, n: NodeId) -> Option<NodeId> {
        self.map.map_or(Some(n), |m| m.get(&n).copied())
    }

    fn is_given(&self) -> bool {
        self.e.given && self.e.project.index(&self.s.path) != self.e.home
    }

    fn renamed(&self, e: Entity) -> Entity {
        match e {
            _ if self.is_given() => e,
            Entity::Member(f, name) if Some(f) == self.e.home && name == self.e.old => {
                Entity::Member(f, self.e.new.to_string())
            }
            Entity::Unknown(f, name) if Some(f) == self.e.home && name == self.e.old => {
                Entity::Unknown(f, self.e.new.to_string())
            }
            e => e,
        }
    }

    /// A name that a file is said to have is there, where it was there before.
    fn exists(&self, e: &Entity) -> bool {
        let Entity::Member(f, name) = e else { return true };
        let own = |p: &Project, name: &str| p.source(*f).is_ok_and(|s| s.names.in_module(name).is_some());
        let was = if name == self.e.new { self.e.old } else { name };
        let given = self.after.source(*f).is_ok_and(|s| super::call::gives(&s, name));
        own(self.after, name) || given || !own(self.e.project, was)
    }

    /// A text that is the module's path with the name, a type, or an item of the list of what is public.
    fn text_fits(&self, n: NodeId, m: NodeId) -> bool {
        let (p, s, t) = (self.e.project, self.s, &self.s.tree);
        let Some(home) = self.e.home else { return true };
        let quotes = ['"', '\'', '`'];
        let (was, is) = (s.str(n).trim_matches(quotes), self.new.str(m).trim_matches(quotes));
        let path = p.modules().name(home).map(|m| m.parts.join("."));
        if path.as_ref().is_some_and(|d| was == format!("{d}.{}", self.e.old)) {
            return is == format!("{}.{}", path.unwrap_or_default(), self.e.new);
        }
        // the module is asked for it by a text
        if let Some(Some(o)) = looked_up(s, n, self.e.old) {
            let module = s.names.at(o).and_then(|r| r.target).map(|b| &s.names.binding(b).name);
            let asked = module.is_some_and(|name| p.origin(&p.entity(s, name)) == Entity::Module(home));
            if asked && !self.e.given {
                return is == self.e.new;
            }
        }
        let file = p.index(&s.path).unwrap_or(usize::MAX);
        let own = p.origin(&Entity::Member(file, self.e.old.to_string()));
        let named = own == Entity::Member(home, self.e.old.to_string());
        let whole = |text: &str| crate::index::whole_words(text, self.e.old).next().is_some();
        let listed = || {
            let assign = t.ancestor(n, &[Role::Assign, Role::AugAssign]);
            let list = assign.and_then(|a| t.child(a, Field::Left)).map(|l| s.str(l));
            list.is_some() && list == s.lang.public_list()
        };
        let names_it = t.ancestor(n, &[Role::Type]).is_some() && whole(was) || was == self.e.old && listed();
        // the file passes it on by its old name
        let kept = || self.new.names.in_module(self.e.old).is_some();
        !(named && names_it && whole(is)) || kept()
    }
}

/// What the names of a module's level stand for, each asked once.
#[derive(Default)]
struct Known(FxHashMap<String, Entity>);

impl Known {
    fn meaning(&mut self, p: &Project, s: &Source, n: NodeId) -> Option<Entity> {
        let of_module = |r: &crate::names::Reference| r.target.is_some_and(|b| s.names.binding(b).is_of_file());
        if s.tree.role(n) != Role::Name || !s.names.at(n).is_some_and(of_module) {
            return meaning(p, s, n);
        }
        if let Some(e) = self.0.get(s.str(n)) {
            return Some(e.clone());
        }
        let found = meaning(p, s, n)?;
        self.0.insert(s.str(n).to_string(), found.clone());
        Some(found)
    }
}

/// What an import gives to its variable, unless others give it a value too.
fn given_by_import(p: &Project, s: &Source, b: &Binding) -> Entity {
    match b.import.as_ref().filter(|_| b.writes == 1) {
        _ if b.scope == Names::MODULE => p.origin(&p.entity(s, &b.name)),
        Some(i) => p.origin(&p.imported(s, i)),
        None => Entity::Unknown(p.index(&s.path).unwrap_or(usize::MAX), String::new()),
    }
}

/// What a word of a module's level, or one behind a module, stands for.
pub(super) fn meaning(p: &Project, s: &Source, n: NodeId) -> Option<Entity> {
    let t = &s.tree;
    if t.role(n) == Role::Name {
        let r = s.names.at(n)?;
        let name = match r.target.map(|b| s.names.binding(b)) {
            Some(b) if b.is_of_file() => b.name.as_str(),
            Some(b) => return b.import.as_ref().map(|_| given_by_import(p, s, b)),
            // the global of that name
            None if s.names.is_above_declaration(r, s.str(n)) => return Some(Entity::Builtin(s.str(n).to_string())),
            None => s.str(n),
        };
        return Some(p.origin(&p.entity(s, name)));
    }
    let object = t
        .parent(n)
        .filter(|m| matches!(t.role(*m), Role::Member | Role::Type))
        .and_then(|m| t.child(m, Field::Object))?;
    let path = |o: NodeId| t.child(o, Field::Member).and_then(|word| meaning(p, s, word));
    let means = if t.role(object) == Role::Name { meaning(p, s, object) } else { path(object) };
    let module = match means {
        Some(Entity::Module(m)) => m,
        Some(_) if t.role(object) == Role::Name => return None,
        _ => {
            let module = s.str(object).to_string();
            let root = module.split('.').next().unwrap_or("");
            s.names.in_module(root).filter(|_| module.contains('.'))?;
            *p.resolved(s, &ImportRef { level: 0, module, member: None, wildcard: false }).first()?
        }
    };
    let found = p.origin(&Entity::Member(module, s.str(n).to_string()));
    let known = match &found {
        Entity::Member(f, name) => {
            p.source(*f).is_ok_and(|h| h.names.in_module(name).is_some() || super::call::gives(&h, name))
        }
        _ => true,
    };
    known.then_some(found)
}
