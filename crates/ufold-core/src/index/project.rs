//! The project as planners see it: facts of all files, and sources of those they ask for.

use std::sync::{Arc, Mutex, OnceLock, RwLock};

use rayon::prelude::*;
use rustc_hash::{FxHashMap, FxHashSet};

use crate::find::FileFacts;
use crate::index::following;
use crate::index::frames::Lookers;
use crate::index::known_classes::KnownClasses;
use crate::index::modules::Modules;
use crate::index::spaces::Sharing;
use crate::lang::{self, ModuleName};
use crate::names::{ImportRef, Source};

/// Reads texts for planning.
pub trait Sources: Sync {
    /// Text of a scanned file, or why it can't be read.
    fn text(&self, path: &str) -> Result<Arc<str>, String>;
    /// Places in files that were not scanned where a name is perhaps used: sources that could not be read, and other texts
    /// that have one of these forms of it in them or in their paths.
    fn mentions(&self, _name: &str, _forms: &[String]) -> Vec<Mention> {
        Vec::new()
    }
    /// A file that was not scanned stands in this folder, and its name ends so.
    fn has_file(&self, _folder: &str, _ending: &str) -> bool {
        false
    }
}

/// A place in a file that was not scanned.
pub struct Mention {
    pub file: String,
    /// From 1.
    pub line: usize,
}

/// Files that were read for planning, for projects that come after each other: a step changes few of them.
#[derive(Default)]
pub struct Kept(Mutex<FxHashMap<String, Arc<Source>>>);

/// More files are not kept.
const MOST_KEPT: usize = 1000;

impl Kept {
    fn get(&self, path: &str, text: &str, module: &Option<ModuleName>) -> Option<Arc<Source>> {
        let all = self.0.lock().unwrap_or_else(|e| e.into_inner());
        // what it was told of other files may have changed
        let fits = |s: &&Arc<Source>| &*s.text == text && s.module == *module && s.quiet_elsewhere().is_none();
        all.get(path).filter(fits).cloned()
    }

    fn put(&self, source: &Arc<Source>) {
        let mut all = self.0.lock().unwrap_or_else(|e| e.into_inner());
        if all.len() >= MOST_KEPT {
            all.clear();
        }
        all.insert(source.path.clone(), source.clone());
    }
}

pub struct Project<'a> {
    pub facts: &'a [FileFacts],
    texts: &'a dyn Sources,
    kept: Option<&'a Kept>,
    by_path: FxHashMap<&'a str, usize>,
    read: Mutex<FxHashMap<usize, Arc<Source>>>,
    /// Texts that were looked through; none for what can't be read.
    seen: RwLock<FxHashMap<usize, Option<Arc<str>>>>,
    modules: OnceLock<Modules>,
    pub(crate) sharing: Sharing,
    /// Functions that look at those which called them, by the family of their language.
    pub(super) lookers: Mutex<FxHashMap<&'static str, Arc<Lookers>>>,
    pub(super) classes: KnownClasses,
    /// What imports of files were found to name.
    resolved_before: Mutex<FxHashMap<usize, FxHashMap<ImportRef, Vec<usize>>>>,
    /// The project without the files that a plan may make: it has the others already.
    without_new: Option<&'a Project<'a>>,
    /// Files that are not there yet.
    new: FxHashSet<usize>,
}

/// A file that is not there yet, with what such a file has in it from the first.
#[derive(Clone, Debug)]
pub struct NewFile {
    pub path: String,
    pub text: String,
    /// It is of the module system of this one.
    pub like: usize,
}

impl<'a> Project<'a> {
    pub fn new(facts: &'a [FileFacts], texts: &'a dyn Sources) -> Self {
        let by_path = facts.iter().enumerate().map(|(i, f)| (f.path.as_str(), i)).collect();
        let (modules, sharing) = (OnceLock::new(), Sharing::default());
        let (read, resolved_before) = (Mutex::default(), Mutex::default());
        let (seen, lookers) = (RwLock::default(), Mutex::default());
        Self {
            facts,
            texts,
            kept: None,
            by_path,
            read,
            seen,
            modules,
            sharing,
            lookers,
            classes: KnownClasses::default(),
            resolved_before,
            without_new: None,
            new: FxHashSet::default(),
        }
    }

    /// Takes files that did not change from an earlier project, and keeps those it reads for a later one.
    pub fn keeping(self, kept: &'a Kept) -> Self {
        Self { kept: Some(kept), ..self }
    }

    /// The same with files that are not there yet.
    pub fn with_new<T>(&self, new: &[NewFile], run: impl FnOnce(&Project) -> T) -> Result<T, String> {
        let mut facts: Vec<FileFacts> = self.facts.iter().map(FileFacts::for_index).collect();
        for n in new {
            let lang = lang::for_path(&n.path).ok_or_else(|| format!("{}: no known language", n.path))?;
            let tree = crate::tree::parse(&n.text, lang).map_err(|e| format!("{}: {e}", n.path))?;
            let mut own = crate::find::facts(&n.path, &n.text, &tree, lang);
            (own.module_system, own.plain) = (self.facts[n.like].module_system.clone(), true);
            facts.push(own);
        }
        let texts = WithNew { texts: self.texts, new };
        let new = (self.facts.len()..facts.len()).collect();
        let project = Project { without_new: Some(self), new, ..Project::new(&facts, &texts) };
        Ok(run(&project))
    }

    /// The same with other texts for some of its files.
    pub fn with_texts<T>(&self, edited: &[Arc<Source>], run: impl FnOnce(&Project) -> T) -> Result<T, String> {
        let own = |s: &Arc<Source>| crate::find::facts(&s.path, &s.text, &s.tree, s.lang);
        let own: Vec<FileFacts> = edited.par_iter().map(own).collect();
        let mut all: Vec<FileFacts> = self.facts.iter().map(FileFacts::for_index).collect();
        let (mut read, mut new) = (FxHashMap::default(), self.new.clone());
        for (s, own) in edited.iter().zip(own) {
            let file = self.index(&s.path).ok_or_else(|| format!("{}: not of the project", s.path))?;
            all[file] = FileFacts { module_system: all[file].module_system.clone(), ..own };
            read.insert(file, s.clone());
            new.remove(&file);
        }
        // of all others there is the text that there was
        let unchanged = |f: &usize| !read.contains_key(f);
        let projects = std::iter::successors(Some(self), |p| p.without_new);
        let known: Vec<_> = projects
            .flat_map(|p| p.read.lock().unwrap_or_else(|e| e.into_inner()).clone())
            .filter(|(f, _)| unchanged(f))
            .collect();
        read.extend(known);
        let own = |facts, read, new| Project { read, kept: self.kept, new, ..Project::new(facts, self.texts) };
        if self.without_new.is_none() || new.is_empty() {
            return Ok(run(&own(&all, Mutex::new(read), new)));
        }
        // files keep their numbers: in the place of one that is not there yet stands nothing
        let there = |(i, f): (usize, &FileFacts)| if new.contains(&i) { FileFacts::default() } else { f.for_index() };
        let as_it_is: Vec<FileFacts> = all.iter().enumerate().map(there).collect();
        let inner = own(&as_it_is, Mutex::new(read), FxHashSet::default());
        Ok(run(&Project { without_new: Some(&inner), ..own(&all, Mutex::default(), new) }))
    }

    /// Some code of the language gives that name to a function or a member.
    pub(crate) fn gives_member(&self, name: &str, lang: &dyn lang::Language) -> bool {
        self.facts.iter().any(|f| f.is_of_family(lang) && f.gives_member(name))
    }

    /// The newest edition of a language that is surely in use.
    pub(crate) fn edition(&self, lang: &dyn lang::Language) -> u8 {
        self.facts.iter().filter(|f| f.language == lang.name()).map(|f| f.edition).max().unwrap_or(0)
    }

    /// The project without the files that are not there yet.
    pub(crate) fn as_it_is(&self) -> &Project<'_> {
        self.without_new.map_or(self, |p| p)
    }

    /// Whether a file is one that is not there yet.
    pub fn is_new(&self, file: usize) -> bool {
        self.new.contains(&file)
    }

    pub fn index(&self, path: &str) -> Option<usize> {
        self.by_path.get(path).copied()
    }

    /// The file, read and parsed; kept for the next who asks.
    pub fn source(&self, file: usize) -> Result<Arc<Source>, String> {
        if let Some(all) = self.without_new.filter(|_| !self.is_new(file)) {
            return all.source(file);
        }
        if let Some(s) = self.read.lock().unwrap_or_else(|e| e.into_inner()).get(&file) {
            return Ok(s.clone());
        }
        let path = &self.facts[file].path;
        let text = self.texts.text(path)?;
        let earlier = self.kept.and_then(|k| k.get(path, &text, &self.module_name(path)));
        // what its imports follow may have changed
        let follows = |s: &Source| {
            let known = s.names.bindings.iter().any(|b| b.import.is_some() && b.rebound_inside || b.is_shared);
            let told = || s.asking == self.asking(s.lang);
            known || !told() || !self.following(s).is_empty() || !self.written_elsewhere(s).is_empty()
        };
        let source = match earlier.filter(|s| !follows(s)) {
            Some(s) => s,
            None => Arc::new(self.parse(path, text)?),
        };
        self.kept.iter().for_each(|k| k.put(&source));
        self.read.lock().unwrap_or_else(|e| e.into_inner()).insert(file, source.clone());
        Ok(source)
    }

    /// A file's text, whether or not it can be parsed.
    pub fn text(&self, file: usize) -> Option<Arc<str>> {
        if let Some(all) = self.without_new.filter(|_| !self.is_new(file)) {
            return all.text(file);
        }
        if let Some(s) = self.read.lock().unwrap_or_else(|e| e.into_inner()).get(&file) {
            return Some(s.text.clone());
        }
        if let Some(known) = self.seen.read().unwrap_or_else(|e| e.into_inner()).get(&file) {
            return known.clone();
        }
        let text = self.texts.text(&self.facts[file].path).ok();
        self.seen.write().unwrap_or_else(|e| e.into_inner()).insert(file, text.clone());
        text
    }

    /// Places outside the scanned files where a name of a module, or of a class, is perhaps used.
    pub fn mentions(&self, name: &str, forms: &[String]) -> Vec<Mention> {
        self.texts.mentions(name, forms)
    }

    /// A text as the file of that path.
    pub fn parse(&self, path: &str, text: Arc<str>) -> Result<Source, String> {
        let lang = lang::for_path(path).ok_or_else(|| format!("{path}: no known language"))?;
        let mut source = Source::new(path, text, lang, self.module_name(path)).map_err(|e| format!("{path}: {e}"))?;
        for b in self.following(&source) {
            source.names.follows_another(b);
        }
        for b in self.written_elsewhere(&source) {
            source.names.share(b);
        }
        source.asking = self.asking(lang);
        Ok(source)
    }

    fn asking(&self, lang: &dyn lang::Language) -> FxHashSet<String> {
        let own = self.facts.iter().filter(|f| !f.following.asking.is_empty() && f.is_of_family(lang));
        own.flat_map(|f| f.following.asking.iter().cloned()).collect()
    }

    /// Variables of a source that functions of other files may write.
    fn written_elsewhere(&self, source: &Source) -> Vec<crate::names::BindingId> {
        let other = |f: &&FileFacts| f.is_of_family(source.lang) && f.path != source.path;
        let names: FxHashSet<&String> = self.facts.iter().filter(other).flat_map(|f| &f.following.changing).collect();
        if names.is_empty() {
            Vec::new()
        } else {
            source.lang.written_elsewhere(source, &|n| names.contains(&n.to_string()))
        }
    }

    /// Imports of a source whose variables other files give values.
    fn following(&self, source: &Source) -> Vec<crate::names::BindingId> {
        let resolved = |i: &ImportRef| self.resolved(source, i);
        let imports = |file: usize| self.modules().any[file].clone();
        following::imports(&following::Links { facts: self.facts, resolved: &resolved, imports: &imports }, source)
    }

    fn module_name(&self, path: &str) -> Option<ModuleName> {
        lang::for_path(path)?.module_name(path, &|p| self.exists(p))
    }

    /// A file is there; `*` in the place of its name is any one that was not scanned.
    pub(crate) fn exists(&self, path: &str) -> bool {
        let (folder, name) = path.rsplit_once('/').unwrap_or(("", path));
        match name.strip_prefix('*') {
            Some(ending) => self.texts.has_file(folder, ending),
            None => self.by_path.contains_key(path),
        }
    }

    pub fn modules(&self) -> &Modules {
        let resolve = |file: usize, name: &Option<ModuleName>, i: &ImportRef| self.resolve(file, name, i);
        self.modules.get_or_init(|| Modules::new(self.facts, (&|p| self.index(p), &|p| self.exists(p)), &resolve))
    }

    /// Whether nothing is missed when a file imports this no more, but loads `home`: that loads it too, or loading it has no
    /// effect.
    pub fn is_loaded_anyway(&self, source: &Source, import: &ImportRef, home: usize) -> bool {
        // only a name for what is loaded when it is needed
        if source.lang.shares_by_loading() && import.level == 0 {
            return true;
        }
        let (m, targets) = (self.modules(), self.resolved(source, import));
        if targets.is_empty() {
            let standard = source.lang.is_standard_module(&import.module) || m.needs(home).contains(&import.module);
            return import.level == 0 && standard;
        }
        let quiet = |f: usize| {
            let standard = |module: &&String| source.lang.is_standard_module(module);
            m.needs(f).iter().all(standard) && m.loaded_by(f).iter().chain([&f]).all(|g| self.facts[*g].plain)
        };
        targets.iter().all(|f| *f == home || m.loads(home, *f) || quiet(*f))
    }

    /// Whether a file may come to import another one by a statement of its own.
    pub fn imports(&self, file: usize, other: usize) -> bool {
        self.modules().any[file].contains(&other)
    }

    /// Files of the project that an import in a source names.
    pub fn resolved(&self, source: &Source, import: &ImportRef) -> Vec<usize> {
        self.index(&source.path).map_or(Vec::new(), |f| self.resolve(f, &source.module, import))
    }

    /// Whether a source may name a file in a place that is no import statement, such as a type that imports.
    pub fn imports_by_text(&self, source: &Source, file: usize) -> bool {
        let t = &source.tree;
        let texts = t.ids().filter(|n| t.role(*n) == crate::tree::Role::Literal);
        texts.into_iter().any(|n| {
            let text = crate::index::words::unquoted(source, n);
            !text.contains(char::is_whitespace)
                && self.resolved(source, &source.lang.import_of_text(text)).contains(&file)
        })
    }

    /// Whether a string anywhere names a member of a file's module with the module's name before it.
    pub fn named_by_string(&self, file: usize, member: &str) -> bool {
        let Some(module) = self.modules().name(file) else { return false };
        let full = format!("{}.{member}", module.parts.join("."));
        self.facts.iter().any(|f| f.has_word(&full))
    }

    /// Whether a word stands anywhere in the project outside some files.
    pub fn word_elsewhere(&self, word: &str, except: &[usize]) -> bool {
        self.facts.iter().enumerate().any(|(i, f)| !except.contains(&i) && f.has_word(word))
    }
}

impl Project<'_> {
    /// Files of the project that an import names: its module, and the member when that is a module.
    pub(super) fn resolve(&self, file: usize, name: &Option<ModuleName>, import: &ImportRef) -> Vec<usize> {
        let known = || self.resolved_before.lock().unwrap_or_else(|e| e.into_inner());
        if let Some(found) = known().get(&file).and_then(|f| f.get(import)) {
            return found.clone();
        }
        let found = self.look_up(file, name, import);
        known().entry(file).or_default().insert(import.clone(), found.clone());
        found
    }

    fn look_up(&self, file: usize, name: &Option<ModuleName>, import: &ImportRef) -> Vec<usize> {
        let f = &self.facts[file];
        let Some(lang) = lang::by_name(&f.language) else { return Vec::new() };
        let fallback = ModuleName {
            base: f.folder().to_string(),
            parts: vec!["?".to_string()],
            is_package: false,
            in_package: false,
        };
        let from = name.as_ref().unwrap_or(&fallback);
        let paths = lang.resolve_import(from, &f.path, import);
        let mut out: Vec<usize> = paths.iter().filter_map(|p| self.index(p)).collect();
        if let Some(member) = import.member.as_ref().filter(|_| out.is_empty() && lang.packages_share_names()) {
            let folder = |p: &String| p.rsplit_once('/').map_or("", |(f, _)| f).to_string();
            out = paths.iter().filter_map(|p| self.sharing.in_folder(self.facts, &folder(p), member)).collect();
        }
        out.dedup();
        out
    }
}

/// A file that is not there yet, beside those that are.
struct WithNew<'a> {
    texts: &'a dyn Sources,
    new: &'a [NewFile],
}

impl Sources for WithNew<'_> {
    fn text(&self, path: &str) -> Result<Arc<str>, String> {
        match self.new.iter().find(|n| n.path == path) {
            Some(n) => Ok(n.text.as_str().into()),
            None => self.texts.text(path),
        }
    }
    fn mentions(&self, name: &str, forms: &[String]) -> Vec<Mention> {
        self.texts.mentions(name, forms)
    }
    fn has_file(&self, folder: &str, ending: &str) -> bool {
        self.texts.has_file(folder, ending)
    }
}
