//! Who imports whom: by name at any time, and surely when a file is loaded.

use std::sync::OnceLock;

use rustc_hash::FxHashSet;

use crate::find::FileFacts;
use crate::lang::{self, ModuleName};
use crate::names::ImportRef;

/// What an import in a file, of that module, names.
type Resolve<'a> = dyn Fn(usize, &Option<ModuleName>, &ImportRef) -> Vec<usize> + 'a;

type Found<'a> = (&'a dyn Fn(&str) -> Option<usize>, &'a dyn Fn(&str) -> bool);

/// Who imports whom.
pub struct Modules {
    names: Vec<Option<ModuleName>>,
    /// Files that a file may import at any time.
    pub(super) any: Vec<Vec<usize>>,
    /// The same without the packages around a file, which are loaded before it, where it takes one of their modules.
    takes: Vec<Vec<usize>>,
    /// Those of them that are taken when the file is loaded.
    takes_at_load: Vec<Vec<usize>>,
    /// Files that loading a file surely loads.
    at_load: Vec<Vec<usize>>,
    /// Modules from elsewhere, the language's own left out, that loading a file needs.
    foreign: Vec<FxHashSet<String>>,
    /// For each file, those that surely load it.
    back: OnceLock<Vec<Vec<usize>>>,
    /// The same of those that may import it.
    back_any: OnceLock<Vec<Vec<usize>>>,
    /// Folders in which some file imports relative to itself.
    relative: FxHashSet<String>,
    /// Folders from which some file imports another one.
    bases: OnceLock<FxHashSet<String>>,
}

/// For each file, those that name it.
fn turned(edges: &[Vec<usize>]) -> Vec<Vec<usize>> {
    let mut back = vec![Vec::new(); edges.len()];
    for (from, targets) in edges.iter().enumerate() {
        targets.iter().for_each(|t| back[*t].push(from));
    }
    back
}

impl Modules {
    /// `index`: the file of a path; `exists`: one is there, scanned or not.
    pub(super) fn new(facts: &[FileFacts], (index, exists): Found, resolve: &Resolve) -> Modules {
        let n = facts.len();
        let mut m = Modules {
            names: Vec::new(),
            any: vec![vec![]; n],
            takes: vec![vec![]; n],
            takes_at_load: vec![vec![]; n],
            at_load: vec![vec![]; n],
            foreign: vec![FxHashSet::default(); n],
            back: OnceLock::new(),
            back_any: OnceLock::new(),
            relative: FxHashSet::default(),
            bases: OnceLock::new(),
        };
        for f in facts {
            m.names.push(lang::by_name(&f.language).and_then(|l| l.module_name(&f.path, exists)));
        }
        let relative = facts.iter().filter(|f| f.imports_relative());
        m.relative = relative.map(|f| f.folder().to_string()).collect();
        for (i, f) in facts.iter().enumerate() {
            for import in &f.imports {
                let targets = resolve(i, &m.names[i], &import.import);
                if targets.is_empty() {
                    let own = lang::by_name(&f.language).is_some_and(|l| l.is_standard_module(&import.import.module));
                    if import.at_load && !own {
                        m.foreign[i].insert(import.import.module.clone());
                    }
                }
                m.any[i].extend(&targets);
                let around = |g: &usize| f.path.starts_with(&format!("{}/", facts[*g].folder()));
                let package = |g: &usize| m.names[*g].as_ref().is_some_and(|n| n.is_package) && around(g);
                let taken: Vec<usize> =
                    targets.iter().enumerate().filter(|(k, g)| *k == 0 || !package(g)).map(|(_, g)| *g).collect();
                m.takes[i].extend(&taken);
                if import.at_load {
                    m.takes_at_load[i].extend(taken);
                }
                if import.at_load {
                    m.at_load[i].extend(targets);
                }
            }
            // loading a module loads the packages around it
            let file = lang::by_name(&f.language).and_then(|l| l.package_file());
            if let Some((name, file)) = m.names[i].as_ref().zip(file) {
                m.at_load[i].extend(packages_of(name, file, index).into_iter().filter(|p| *p != i));
            }
        }
        m
    }

    pub fn name(&self, file: usize) -> Option<&ModuleName> {
        self.names[file].as_ref()
    }

    fn closure(edges: &[Vec<usize>], from: usize) -> FxHashSet<usize> {
        let mut seen = FxHashSet::default();
        let mut todo = edges[from].clone();
        while let Some(f) = todo.pop() {
            if seen.insert(f) {
                todo.extend(&edges[f]);
            }
        }
        seen
    }

    /// Files that a file may come to import, itself or through others.
    pub fn reached(&self, from: usize) -> FxHashSet<usize> {
        Self::closure(&self.any, from)
    }

    /// Files that may come to import `to`, themselves or through others.
    pub fn reaching(&self, to: usize) -> FxHashSet<usize> {
        Self::closure(self.back_any.get_or_init(|| turned(&self.any)), to)
    }

    /// Files whose loading surely loads `to`.
    pub fn loaders(&self, to: usize) -> FxHashSet<usize> {
        Self::closure(self.back.get_or_init(|| turned(&self.at_load)), to)
    }

    /// Whether files of a folder import relative to themselves.
    pub fn is_relative_in(&self, folder: &str) -> bool {
        self.relative.contains(folder)
    }

    /// Whether any file imports another one from this folder.
    pub fn is_imported_from(&self, base: &str) -> bool {
        let bases = self.bases.get_or_init(|| {
            let of = |f: usize| {
                let others = self.at_load[f].iter().filter(move |d| **d != f);
                others.filter_map(|d| self.name(*d)).map(|n| n.base.clone()).collect::<Vec<_>>()
            };
            (0..self.at_load.len()).flat_map(of).collect()
        });
        bases.contains(base)
    }

    /// Whether `from` may come to import `to`, itself or through others.
    pub fn reaches(&self, from: usize, to: usize) -> bool {
        Self::closure(&self.any, from).contains(&to)
    }

    /// Whether loading `from` surely loads `to`.
    pub fn loads(&self, from: usize, to: usize) -> bool {
        Self::closure(&self.at_load, from).contains(&to)
    }

    /// Files that loading a file surely loads.
    pub fn loaded_by(&self, file: usize) -> FxHashSet<usize> {
        Self::closure(&self.at_load, file)
    }

    /// Files that loading a file loads, in the order in which they have run.
    pub fn order_of_loading(&self, file: usize) -> Vec<usize> {
        let (mut seen, mut out) = (FxHashSet::default(), Vec::new());
        // a file with how many of those that it loads were looked at
        let mut open = vec![(file, 0)];
        seen.insert(file);
        while let Some((f, next)) = open.pop() {
            match self.at_load[f].get(next) {
                Some(g) => {
                    open.push((f, next + 1));
                    if seen.insert(*g) {
                        open.push((*g, 0));
                    }
                }
                None if f != file => out.push(f),
                None => {}
            }
        }
        out
    }

    /// Files that a file takes something from when it is loaded, and did not before.
    pub fn takes_anew(&self, from: usize, before: &Modules) -> Vec<usize> {
        let had = &before.takes_at_load[from];
        self.takes_at_load[from].iter().copied().filter(|g| !had.contains(g)).collect()
    }

    /// Whether loading `from` comes to take something from `to`, itself or through others.
    pub fn takes_when_loaded(&self, from: usize, to: usize) -> bool {
        Self::closure(&self.takes_at_load, from).contains(&to)
    }

    /// The same at whatever time.
    pub fn takes_in_the_end(&self, from: usize, to: usize) -> bool {
        Self::closure(&self.takes, from).contains(&to)
    }

    pub fn direct(&self, from: usize) -> &[usize] {
        &self.at_load[from]
    }

    /// Modules from elsewhere that loading a file needs.
    pub fn needs(&self, file: usize) -> FxHashSet<&String> {
        let mut all: FxHashSet<&String> = self.foreign[file].iter().collect();
        Self::closure(&self.at_load, file).iter().for_each(|g| all.extend(&self.foreign[*g]));
        all
    }

    /// Whether some file loads a module from elsewhere by this first word.
    pub fn is_foreign(&self, word: &str) -> bool {
        self.foreign.iter().flatten().any(|m| m.split('.').next() == Some(word))
    }

    /// Modules from elsewhere that loading `to` needs and loading `from` does not.
    pub fn new_needs(&self, from: usize, to: usize) -> Vec<String> {
        let have = self.needs(from);
        let mut fresh: Vec<String> = self.needs(to).into_iter().filter(|m| !have.contains(*m)).cloned().collect();
        fresh.sort();
        fresh
    }
}

fn packages_of(name: &ModuleName, file: &str, index: &dyn Fn(&str) -> Option<usize>) -> Vec<usize> {
    let keep = name.parts.len() - usize::from(!name.is_package);
    let mut dir = name.base.clone();
    let mut out = Vec::new();
    for p in &name.parts[..keep] {
        if !dir.is_empty() {
            dir.push('/');
        }
        dir.push_str(p);
        out.extend(index(&format!("{dir}/{file}")));
    }
    out
}
