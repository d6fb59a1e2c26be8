//! Classes that files see without naming the file: of their folder, or of their name spaces.
//!
//! A name space is seen from inside, and where it is opened. A class that several files give to what a file sees is none
//! that is known: parts of one class, or two of which the compiler takes the nearer one. Fails for what other projects and
//! packages add to a name space: told by the list of all that the file opens.

use std::sync::OnceLock;

use rustc_hash::{FxHashMap, FxHashSet};

use crate::find::FileFacts;
use crate::lang::{Language, NameSpaces};
use crate::names::Source;

/// Files by what they share.
#[derive(Default)]
pub(crate) struct Sharing {
    /// By their folder and a class in them.
    by_folder: OnceLock<FxHashMap<String, FxHashMap<String, usize>>>,
    /// By a class of a language.
    by_class: OnceLock<FxHashMap<(String, String), Vec<usize>>>,
    /// Name spaces that a file of a language opens for all.
    for_all: OnceLock<FxHashMap<String, FxHashSet<String>>>,
}

/// What a class's name is to a file.
pub(super) enum Meaning {
    In(usize),
    /// Of none of the project's files: of this name space, or of one of all that the file sees.
    Outside(String),
    Unknown,
}

impl Sharing {
    /// The file of a folder that has a class of that name.
    pub(super) fn in_folder(&self, facts: &[FileFacts], folder: &str, class: &str) -> Option<usize> {
        let all = self.by_folder.get_or_init(|| {
            let mut all: FxHashMap<String, FxHashMap<String, usize>> = FxHashMap::default();
            for (i, f) in facts.iter().enumerate() {
                for name in &f.shared {
                    all.entry(f.folder().to_string()).or_default().entry(name.clone()).or_insert(i);
                }
            }
            all
        });
        all.get(folder)?.get(class).copied()
    }

    /// Files of a language that have a class of that name.
    pub(super) fn files_with(&self, facts: &[FileFacts], lang: &dyn Language, class: &str) -> &[usize] {
        let all = self.by_class.get_or_init(|| {
            let mut all: FxHashMap<(String, String), Vec<usize>> = FxHashMap::default();
            for (i, f) in facts.iter().enumerate() {
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

    fn opens(&self, facts: &[FileFacts], s: &Source, space: &str) -> bool {
        let all = self.for_all.get_or_init(|| {
            let mut all: FxHashMap<String, FxHashSet<String>> = FxHashMap::default();
            for f in facts {
                let spaces = f.spaces.iter().flat_map(|s| &s.for_all).cloned();
                all.entry(f.language.clone()).or_default().extend(spaces);
            }
            all
        });
        let own = s.name_spaces().is_some_and(|x| x.opened.iter().any(|o| o == space));
        own || all.get(s.lang.name()).is_some_and(|all| all.contains(space))
    }

    /// What a name that nothing in its file binds is by the name spaces that the file sees; none where these tell nothing.
    pub(super) fn seen(&self, facts: &[FileFacts], source: &Source, name: &str) -> Option<Meaning> {
        let lang = source.lang;
        let spaces = source.name_spaces()?;
        if let Some((path, class)) = name.rsplit_once('.') {
            let all = self.files_with(facts, lang, class);
            let mut all = all.iter().filter(|f| space_of(facts, **f).is_some_and(|s| is_said(s, path, spaces)));
            return all.next().filter(|_| all.next().is_none()).map(|f| Meaning::In(*f));
        }
        let all = self.files_with(facts, lang, name);
        if !name.starts_with(char::is_uppercase) {
            return None;
        }
        if let [only] = all
            && (spaces.own.is_none() || space_of(facts, *only).is_none())
        {
            return Some(Meaning::In(*only));
        }
        let Some(own) = &spaces.own else { return Some(Meaning::Unknown).filter(|_| !all.is_empty()) };
        let opens = |space: &str| self.opens(facts, source, space);
        let seen = |f: &usize| space_of(facts, *f).is_none_or(|s| is_around(s, own) || opens(s));
        let seen: Vec<usize> = all.iter().copied().filter(seen).collect();
        let library = lang.library_space(name).filter(|l| opens(l) || is_around(l, own));
        Some(match seen.as_slice() {
            [f] if library.is_none() => Meaning::In(*f),
            [f] if !spaces.is_nearer && space_of(facts, *f).is_some_and(|s| is_around(s, own)) => Meaning::In(*f),
            [] => {
                let path = || first_of_path(facts, lang, own, name);
                Meaning::Outside(library.map(str::to_string).or_else(path).unwrap_or_else(|| of_all(own, spaces)))
            }
            _ => Meaning::Unknown,
        })
    }

    /// Files whose classes add a member of that name to others, as a file sees it.
    pub(crate) fn adding(&self, facts: &[FileFacts], s: &Source, member: &str) -> Vec<usize> {
        let Some(spaces) = s.name_spaces() else { return Vec::new() };
        let sees =
            |space: &str| spaces.own.as_ref().is_none_or(|own| is_around(space, own)) || self.opens(facts, s, space);
        let adds = |f: &usize| {
            let said = facts[*f].spaces.as_ref().filter(|x| x.added.iter().any(|a| a == member));
            said.is_some_and(|x| x.own.as_ref().is_none_or(|own| sees(own)))
        };
        (0..facts.len()).filter(adds).collect()
    }
}

/// Whether opening a file's name space in another file could give something there another meaning: a class of it is named
/// there, or a member that it adds to others.
pub(crate) fn opens_otherwise(facts: &[FileFacts], home: usize, here: usize) -> bool {
    let Some(space) = space_of(facts, home) else { return true };
    facts.iter().any(|f| {
        let own = f.spaces.as_ref().filter(|x| x.own.as_deref() == Some(space));
        own.is_some_and(|x| f.shared.iter().chain(&x.added).any(|word| facts[here].has_word(word)))
    })
}

fn space_of(facts: &[FileFacts], file: usize) -> Option<&str> {
    facts[file].spaces.as_ref().and_then(|s| s.own.as_deref())
}

/// A path is a name space, whole or from one around the file's own.
fn is_said(space: &str, path: &str, spaces: &NameSpaces) -> bool {
    let around = space.strip_suffix(path).and_then(|rest| rest.strip_suffix('.'));
    space == path || around.zip(spaces.own.as_ref()).is_some_and(|(around, own)| is_around(around, own))
}

/// The name space that a word begins a path with: one of those around the file's own has it, or the language itself.
fn first_of_path(facts: &[FileFacts], lang: &dyn Language, own: &str, word: &str) -> Option<String> {
    let ends = own.match_indices('.').map(|(i, _)| i).chain([own.len()]);
    let around: Vec<String> = ends.map(|end| format!("{}.{word}", &own[..end])).collect();
    let there = |path: &&String| (0..facts.len()).any(|f| space_of(facts, f).is_some_and(|s| is_around(path, s)));
    let word = word.to_string();
    let found = around.iter().rev().chain([&word]).find(there).cloned();
    found.or_else(|| lang.is_standard_module(&word).then_some(word))
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
