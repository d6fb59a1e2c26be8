//! What names stand for, comparable between files: by imports, by what files see of each other, through files that pass
//! them on.

use std::sync::Arc;

use crate::index::Project;
use crate::index::spaces::Meaning;
use crate::names::{BindingId, ImportRef, Names, Source};
use crate::tree::{Field, NodeId, Role};

impl Project<'_> {
    /// Where a name of a file's module is defined, in whatever file of the project.
    pub fn definition(&self, source: &Source, name: &str) -> Option<(Arc<Source>, crate::tree::NodeId)> {
        let Entity::Member(file, name) = self.entity(source, name) else { return None };
        let home = self.source(file).ok()?;
        let first = home.names.binding(home.names.in_module(&name)?).first;
        let definition = home.tree.parent(first)?;
        Some((home, definition))
    }

    /// The type of a value as it would be written where it stands.
    pub fn type_text(&self, source: &Source, node: crate::tree::NodeId) -> Option<String> {
        let definitions = |s: &Source, name: &str| self.definition(s, name);
        source.lang.spell(source.lang.type_of(source, node, &definitions), source, &definitions)
    }

    /// What a module-level name of a file stands for, comparable between files.
    pub fn entity(&self, source: &Source, name: &str) -> Entity {
        let file = self.index(&source.path).unwrap_or(usize::MAX);
        let Some(b) = source.names.in_module(name) else {
            if source.lang.is_module_own(name) {
                return Entity::Member(file, name.to_string());
            }
            if let Some(found) = self.sharing.seen(self.facts, source, name) {
                return match found {
                    Meaning::In(file) => Entity::Member(file, name.rsplit('.').next().unwrap_or(name).to_string()),
                    Meaning::Outside(space) => Entity::Foreign(space, name.to_string()),
                    Meaning::Unknown => Entity::Unknown(file, name.to_string()),
                };
            }
            if let Some(found) = self.loaded_with(source, file, name) {
                return Entity::Member(found, source.lang.last_word(name).to_string());
            }
            // what files of a package see of each other
            let implied = source.module.as_ref().and_then(|m| source.lang.import_of_free(m, name));
            let found =
                implied.and_then(|i| Some((self.resolve(file, &source.module, &i).first().copied()?, i.member?)));
            let own = |f: usize| {
                let same = |o: &Arc<Source>| o.lang.said_package(o) == source.lang.said_package(source);
                !source.lang.shares_by_loading() || self.source(f).is_ok_and(|o| same(&o))
            };
            let found = found.filter(|(target, _)| own(*target));
            if let Some((target, member)) = found {
                return Entity::Member(target, member);
            }
            if let Some(space) = self.of_own_space(source, name) {
                return Entity::Foreign(space, name.to_string());
            }
            if let Some(all) = source.lang.seen_through(source, name).filter(|_| !source.lang.is_builtin(name)) {
                return Entity::Foreign(all, name.to_string());
            }
            let known = source.lang.is_builtin(name) || source.lang.free_names_are_global();
            let sure = known && !(source.names.wildcard && source.lang.wildcards_hide_builtins());
            return if sure { Entity::Builtin(name.to_string()) } else { Entity::Unknown(file, name.to_string()) };
        };
        let binding = source.names.binding(b);
        let Some(import) = binding.import.as_ref().filter(|_| binding.writes == 1) else {
            return Entity::Member(file, name.to_string());
        };
        self.imported(source, import)
    }

    /// The one file whose definition of a name is there because this file loads it, or, of a class, the one of all.
    fn loaded_with(&self, s: &Source, file: usize, name: &str) -> Option<usize> {
        if !s.lang.shares_by_loading() || s.lang.is_builtin(name) || file == usize::MAX {
            return None;
        }
        // a path that says its name space whole
        let word = s.lang.last_word(name);
        let whole = name.starts_with(|c: char| !c.is_alphanumeric()) && word != name;
        let own = s.lang.said_package(s);
        let said = words_of(&name[..name.len() - word.len()]);
        let (space, name) = if whole { (said, word) } else { (own, name) };
        let classes = self.sharing.files_with(self.facts, s.lang, name);
        let loads = self.modules().reached(file);
        let says = |f: &usize| self.facts[*f].gives_member(name) || classes.contains(f);
        let gives = |f: &usize| {
            let other = Some(*f).filter(says).and_then(|f| self.source(f).ok());
            other.is_some_and(|o| o.names.in_module(name).is_some() && o.lang.said_package(&o) == space)
        };
        let only = |all: &mut dyn Iterator<Item = usize>| all.next().filter(|_| all.next().is_none());
        let loaded = only(&mut loads.into_iter().filter(|f| *f != file).filter(gives));
        loaded.or_else(|| only(&mut classes.iter().copied().filter(gives)))
    }

    /// The name space of a file, where a name that nothing here tells may be one of it; none for what only the language has.
    fn of_own_space(&self, s: &Source, name: &str) -> Option<String> {
        let bare = name.starts_with(|c: char| c.is_alphabetic() || c == '_');
        let space = Some(s).filter(|s| s.lang.shares_by_loading() && bare).map(|s| s.lang.said_package(s))?;
        if space.is_empty() {
            return None;
        }
        // without one there functions are the language's; classes are never
        let class = name.starts_with(char::is_uppercase) && name.contains(char::is_lowercase);
        let own = || {
            let gives =
                |f: &&crate::find::FileFacts| f.is_of_family(s.lang) && f.gives_member(name) && f.path != s.path;
            let mut files = self.facts.iter().filter(gives).filter_map(|f| self.source(self.index(&f.path)?).ok());
            files.any(|o| o.lang.said_package(&o) == space)
        };
        (class || !s.lang.is_builtin(name) || own()).then(|| space.join(" "))
    }

    /// What one import gives.
    pub(crate) fn imported(&self, source: &Source, import: &ImportRef) -> Entity {
        let file = self.index(&source.path).unwrap_or(usize::MAX);
        let mut found = self.resolve(file, &source.module, import);
        if import.level == 0 && source.lang.shares_by_loading() {
            // a path leads to a file by custom only: that says whose class it has
            let space = words_of(&import.module);
            let has = |f: &usize| self.source(*f).is_ok_and(|s| s.lang.said_package(&s) == space);
            found.retain(has);
            let member = import.member.as_ref().filter(|_| found.is_empty());
            let all = member.map_or(&[][..], |m| self.sharing.files_with(self.facts, source.lang, m));
            let mut all = all.iter().copied().filter(has);
            found.extend(all.next().filter(|_| all.next().is_none()));
        }
        match (&import.member, found.as_slice()) {
            (Some(m), [target, ..]) => {
                let parent = ImportRef { member: None, ..import.clone() };
                let in_parent = self.resolve(file, &source.module, &parent).contains(target);
                if in_parent || !source.lang.modules_are_values() {
                    Entity::Member(*target, m.clone())
                } else {
                    Entity::Module(*target)
                }
            }
            (None, [target, ..]) => Entity::Module(*target),
            (Some(m), []) => {
                Entity::Foreign(format!("{}{}", ".".repeat(import.level as usize), import.module), m.clone())
            }
            (None, []) => Entity::Foreign(import.module.clone(), String::new()),
        }
    }
}

/// The words of a path.
fn words_of(path: &str) -> Vec<String> {
    let words = path.split(|c: char| !c.is_alphanumeric() && c != '_').filter(|w| !w.is_empty());
    words.map(str::to_string).collect()
}

/// Names that lead on to each other.
const MOST_LINKS: usize = 16;

impl Project<'_> {
    /// What a name stands for when others pass it on under the same name.
    pub fn origin(&self, entity: &Entity) -> Entity {
        let mut at = entity.clone();
        for _ in 0..MOST_LINKS {
            let Entity::Member(file, name) = &at else { return at };
            let Some(next) = self.passed_from(*file, name) else { return at };
            at = next;
        }
        at
    }

    /// Where a file has a name from that others get through it.
    pub(crate) fn passed_from(&self, file: usize, name: &str) -> Option<Entity> {
        let s = self.source(file).ok()?;
        if let Some(b) = s.names.in_module(name) {
            s.names.binding(b).import.as_ref()?;
            let found = self.entity(&s, name);
            return (found != Entity::Member(file, name.to_string())).then_some(found);
        }
        // `export * from "./m"`, `from .m import *`: the one that has it
        let all = s.lang.passed_on(&s);
        let named = all.iter().find(|p| p.name.as_deref() == Some(name));
        if let Some(p) = named {
            let target = *self.resolve(file, &s.module, &p.import).first()?;
            return Some(match &p.import.member {
                Some(m) => Entity::Member(target, m.clone()),
                None => Entity::Module(target),
            });
        }
        let through_all = all.iter().filter(|p| p.name.is_none()).find_map(|p| {
            let target = *self.resolve(file, &s.module, &p.import).first()?;
            let has = target != file && self.facts[target].has_word(name);
            (has && self.origin_exists(target, name, 0)).then(|| Entity::Member(target, name.to_string()))
        });
        through_all.or_else(|| self.in_folder_of(&s, file, name))
    }

    /// A module that a package has by its folder.
    fn in_folder_of(&self, s: &Source, file: usize, name: &str) -> Option<Entity> {
        let package = s.module.as_ref().filter(|m| m.is_package && s.lang.modules_are_values())?;
        let member = Some(name.to_string());
        let import = ImportRef { level: 1, module: String::new(), member, wildcard: false };
        let found = self.resolve(file, &Some(package.clone()), &import);
        found.first().filter(|f| **f != file).map(|f| Entity::Module(*f))
    }

    /// What a name of a module's level, or a path that begins with one, stands for.
    pub(crate) fn meant(&self, s: &Source, node: NodeId) -> Option<Entity> {
        let t = &s.tree;
        if t.role(node) == Role::Name {
            return self.of_binding(s, s.names.at(node)?.target?).map(|e| self.origin(&e));
        }
        let Entity::Module(file) = self.meant(s, t.child(node, Field::Object)?)? else { return None };
        let word = s.str(t.child(node, Field::Member)?);
        Some(self.origin(&Entity::Member(file, word.to_string())))
    }

    /// What a name of a module's level stands for, or one that a function imports for itself.
    pub(crate) fn of_binding(&self, s: &Source, b: BindingId) -> Option<Entity> {
        let binding = s.names.binding(b);
        if binding.scope == Names::MODULE {
            return Some(self.entity(s, &binding.name));
        }
        let import = binding.import.as_ref().filter(|_| binding.writes == 1)?;
        Some(self.imported(s, import))
    }

    /// One of the imports that give a variable its value brings a file as a whole.
    pub(crate) fn may_be_module(&self, s: &Source, b: BindingId, file: usize) -> bool {
        let t = &s.tree;
        let several = s.names.binding(b).writes > 1;
        let words = s.names.references_to(b).filter(|r| several && r.usage.writes()).map(|r| r.node);
        let statements = words.filter_map(|n| t.ancestor(n, &[Role::Import, Role::ImportFrom]));
        let own = s.names.binding(b).import.iter().cloned();
        let mut all = own.chain(statements.flat_map(|i| s.lang.imports_of(t, i, &s.text)));
        all.any(|i| self.origin(&self.imported(s, &i)) == Entity::Module(file))
    }

    /// An object is a file as a whole, or may be: what its name has is told by several statements.
    pub(crate) fn may_be_file(&self, s: &Source, object: NodeId, file: usize) -> bool {
        let root = std::iter::successors(Some(object), |o| s.tree.child(*o, Field::Object)).last().unwrap_or(object);
        let several = s.names.at(root).and_then(|r| r.target).filter(|b| s.names.binding(*b).writes > 1);
        self.meant(s, object) == Some(Entity::Module(file)) || several.is_some_and(|b| self.may_be_module(s, b, file))
    }

    fn origin_exists(&self, file: usize, name: &str, depth: usize) -> bool {
        let Ok(s) = self.source(file) else { return false };
        let through = || {
            s.lang.passed_on(&s).iter().any(|p| {
                p.name.as_deref() == Some(name)
                    || p.name.is_none()
                        && depth < MOST_LINKS
                        && self
                            .resolve(file, &s.module, &p.import)
                            .first()
                            .is_some_and(|t| self.origin_exists(*t, name, depth + 1))
            })
        };
        s.names.in_module(name).is_some() || through()
    }
}

#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub enum Entity {
    Builtin(String),
    /// A name of a file of the project.
    Member(usize, String),
    Module(usize),
    Foreign(String, String),
    /// May come from anywhere; the same only within its file.
    Unknown(usize, String),
}

impl Entity {
    /// Of a library: a path from file to file that leads nowhere may lead to what is made of a file of the project.
    pub(crate) fn is_of_library(&self) -> bool {
        matches!(self, Entity::Foreign(module, _) if !module.starts_with('.'))
    }
}
