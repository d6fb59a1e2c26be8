//! Classes that files see without naming the file: of their folder, or of their name spaces.
//!
//! A name space is seen from inside, and where it is opened. A class that several files give to what a file sees is none
//! that is known: parts of one class, or two of which the compiler takes the nearer one. Fails for what other projects and
//! packages add to a name space: told by the list of all that the file opens.

use std::sync::OnceLock;

use rustc_hash::{FxHashMap, FxHashSet};

use crate::index::{Entity, Project};
use crate::lang::{Language, NameSpaces};
use crate::names::Source;

/// Files by what they share.
#[derive(Default)]
pub struct Sharing {
    /// By their folder and a class in them.
    by_folder: OnceLock<FxHashMap<String, FxHashMap<String, usize>>>,
    /// By a class of a language.
    by_class: OnceLock<FxHashMap<(String, String), Vec<usize>>>,
    /// Name spaces that a file of a language opens for all.
    for_all: OnceLock<FxHashMap<String, FxHashSet<String>>>,
}

impl Project<'_> {
    /// The file of a folder that has a class of that name.
    pub(super) fn shared_in(&self, folder: &str, class: &str) -> Option<usize> {
        let all = self.sharing.by_folder.get_or_init(|| {
            let mut all: FxHashMap<String, FxHashMap<String, usize>> = FxHashMap::default();
            for (i, f) in self.facts.iter().enumerate() {
                for name in &f.shared {
                    all.entry(f.folder().to_string()).or_default().entry(name.clone()).or_insert(i);
                }
            }
            all
        });
        all.get(folder)?.get(class).copied()
    }

    /// Files of a language that have a class of that name.
    fn files_with(&self, lang: &dyn Language, class: &str) -> &[usize] {
        let all = self.sharing.by_class.get_or_init(|| {
            let mut all: FxHashMap<(String, String), Vec<usize>> = FxHashMap::default();
            for (i, f) in self.facts.iter().enumerate() {
                for name in &f.shared {
                    let files = all.entry((f.language.clone(), name.clone())).or_default();
                    if !files.contains(&i) {
                        files.push(i);
                    }
                }
            }
            all
        });
        all.get(&(lang.name().to_string(), class.to_string())).map_or(&[], Vec::as_slice)
    }

    /// The one file that has it.
    pub(super) fn only_file_with(&self, lang: &dyn Language, class: &str) -> Option<usize> {
        let [file] = self.files_with(lang, class) else { return None };
        Some(*file)
    }

    fn opened_for_all(&self, lang: &dyn Language) -> Option<&FxHashSet<String>> {
        let all = self.sharing.for_all.get_or_init(|| {
            let mut all: FxHashMap<String, FxHashSet<String>> = FxHashMap::default();
            for f in self.facts {
                let spaces = f.spaces.iter().flat_map(|s| &s.for_all).cloned();
                all.entry(f.language.clone()).or_default().extend(spaces);
            }
            all
        });
        all.get(lang.name())
    }

    /// What a name that nothing in its file binds is by the name spaces that the file sees; none where these tell nothing.
    pub(super) fn in_name_spaces(&self, source: &Source, file: usize, name: &str) -> Option<Entity> {
        let lang = source.lang;
        let spaces = source.name_spaces()?;
        let all = self.files_with(lang, name);
        if !name.starts_with(char::is_uppercase) {
            return None;
        }
        let unknown = || Some(Entity::Unknown(file, name.to_string()));
        let member = |f: usize| Some(Entity::Member(f, name.to_string()));
        let space_of = |f: usize| self.facts[f].spaces.as_ref().and_then(|s| s.own.as_deref());
        if let [only] = all
            && (spaces.own.is_none() || space_of(*only).is_none())
        {
            return member(*only);
        }
        let Some(own) = &spaces.own else { return if all.is_empty() { None } else { unknown() } };
        let opens = |space: &str| {
            let by_all = self.opened_for_all(lang).is_some_and(|all| all.contains(space));
            by_all || spaces.opened.iter().any(|o| o == space)
        };
        let seen = |f: &usize| space_of(*f).is_none_or(|s| is_around(s, own) || opens(s));
        let seen: Vec<usize> = all.iter().copied().filter(seen).collect();
        let library = lang.library_space(name).filter(|l| opens(l) || is_around(l, own));
        match seen.as_slice() {
            [f] if library.is_none() => member(*f),
            [f] if !spaces.is_nearer && space_of(*f).is_some_and(|s| is_around(s, own)) => member(*f),
            [] => Some(Entity::Foreign(library.map_or_else(|| of_all(own, spaces), str::to_string), name.to_string())),
            _ => unknown(),
        }
    }

    /// Whether opening the name space of a file's classes in another one could give something there another meaning: a
    /// class of it is named there, or a member that it adds to others.
    pub(crate) fn opens_otherwise(&self, s: &Source, home: usize) -> bool {
        let Some(space) = self.facts[home].spaces.as_ref().and_then(|x| x.own.as_ref()) else { return true };
        let Some(here) = self.index(&s.path).map(|f| &self.facts[f]) else { return true };
        self.facts.iter().any(|f| {
            let own = f.spaces.as_ref().filter(|x| x.own.as_ref() == Some(space));
            own.is_some_and(|x| f.shared.iter().chain(&x.added).any(|word| here.has_word(word)))
        })
    }

    /// Files whose classes add a member of that name to others, as a file sees it.
    pub(crate) fn adding(&self, s: &Source, member: &str) -> Vec<usize> {
        let Some(spaces) = s.name_spaces() else { return Vec::new() };
        let sees = |space: &str| {
            let around = spaces.own.as_ref().is_none_or(|own| is_around(space, own));
            let by_all = || self.opened_for_all(s.lang).is_some_and(|all| all.contains(space));
            around || spaces.opened.iter().any(|o| o == space) || by_all()
        };
        let adds = |f: &usize| {
            let said = self.facts[*f].spaces.as_ref().filter(|x| x.added.iter().any(|a| a == member));
            said.is_some_and(|x| x.own.as_ref().is_none_or(|own| sees(own)))
        };
        (0..self.facts.len()).filter(adds).collect()
    }
}

/// A name space is, or is around, another one.
fn is_around(space: &str, own: &str) -> bool {
    space.is_empty() || own == space || own.strip_prefix(space).is_some_and(|rest| rest.starts_with('.'))
}

/// Whatever the file sees: the same in two files that see the same.
fn of_all(own: &str, spaces: &NameSpaces) -> String {
    let mut all = spaces.opened.clone();
    all.sort();
    format!("{own}: {}", all.join(" "))
}
