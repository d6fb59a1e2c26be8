//! What the names mean when definitions went to another file: in all files that say one of them, each means the same
//! definition as before, and who got it through a file still does.

use std::sync::Arc;

use rustc_hash::{FxHashMap, FxHashSet};

use super::everywhere::meaning;
use super::file::File;
use super::moved_code::{Pair, leaf_map, only_links};
use super::{Objection, Opinion, object};
use crate::change::{Change, Code};
use crate::index::loading::only_defines;
use crate::index::users::may_load;
use crate::index::{Entity, Project, unseen};
use crate::names::{Binding, BindingId, ImportRef, ScopeId, Source};
use crate::tree::{Field, NodeId, Role, Tree};

pub(super) struct Names<'a> {
    project: &'a Project<'a>,
    from: usize,
    to: usize,
    a: &'a File,
    b: &'a File,
    /// What went, by statements and by names.
    gone: Vec<NodeId>,
    moved: FxHashSet<String>,
    pairs: &'a [Pair<'a>],
}

impl<'a> Names<'a> {
    pub(super) fn new(
        project: &'a Project,
        (a, b): (&'a File, &'a File),
        gone: &[NodeId],
        pairs: &'a [Pair],
    ) -> Names<'a> {
        let s = &a.old;
        let goes = |n: NodeId| gone.iter().any(|g| s.tree.contains(*g, n));
        let of_gone = |b: &BindingId| {
            let inner = |n: NodeId| s.tree.body_around(n).is_some();
            s.names.references_to(*b).any(|r| r.usage.writes() && goes(r.node) && !inner(r.node))
        };
        let all = s.names.bindings_of(crate::names::Names::MODULE).filter(of_gone);
        let moved = all.map(|b| s.names.binding(b).name.clone()).collect();
        let file = |f: &File| project.index(&f.old.path).unwrap_or(usize::MAX);
        Names { project, from: file(a), to: file(b), a, b, gone: gone.to_vec(), moved, pairs }
    }

    /// What was this is that now.
    fn now(&self, e: Entity) -> Entity {
        match e {
            Entity::Member(f, name) if f == self.from && self.moved.contains(&name) => Entity::Member(self.to, name),
            e => e,
        }
    }
}

pub(super) fn check(names: &Names, files: &[File], change: &Change) -> Opinion<()> {
    let texts: Vec<Arc<Source>> = files.iter().map(|f| f.new.clone()).collect();
    let nowhere = |message: String| Objection { message, file: names.a.old.path.clone(), line: 1 };
    let run = |after: &Project| {
        let c = Compared { names, files, change, after };
        c.once_only()?;
        c.code()?;
        c.imports()?;
        c.given()?;
        c.unknown_users()?;
        c.loads()
    };
    names.project.with_texts(&texts, run).map_err(nowhere)?
}

struct Compared<'a> {
    names: &'a Names<'a>,
    files: &'a [File],
    change: &'a Change<'a>,
    after: &'a Project<'a>,
}

impl Compared<'_> {
    fn told(&self, code: Code, file: &str) -> bool {
        self.change.result.reasons.iter().any(|r| r.code == code && r.file == file)
    }

    /// What went is given its value once, in one file; what it has from the old file too.
    fn once_only(&self) -> Opinion<()> {
        let (s, t) = (&self.names.a.old, &self.names.a.old.tree);
        let goes = |n: NodeId| self.names.gone.iter().any(|g| t.contains(*g, n));
        for b in s.names.bindings_of(crate::names::Names::MODULE) {
            let binding = s.names.binding(b);
            if !self.names.moved.contains(&binding.name) {
                continue;
            }
            if binding.writes > 1 || binding.rebound_inside {
                return object(s, binding.first, "this is given a value in more than one place");
            }
            // a type may stand beside a value of its name
            if let Some(r) = s.names.references_to(b).find(|r| r.usage.writes() && !goes(r.node)) {
                return object(s, r.node, "this has the name of what went, and stayed");
            }
        }
        let s = &self.names.b.new;
        let twice = |name: &&String| s.names.in_module(name).is_none_or(|b| s.names.binding(b).writes != 1);
        match self.names.moved.iter().find(twice) {
            Some(name) => object(s, Tree::ROOT, format!("`{name}` is not given its value once here")),
            None => Ok(()),
        }
    }

    /// Each name of the code means what it meant.
    fn code(&self) -> Opinion<()> {
        let n = self.names;
        let mut maps: FxHashMap<(&str, bool), FxHashMap<NodeId, NodeId>> = FxHashMap::default();
        for p in n.pairs {
            let map = leaf_map(p)?;
            for (a, b) in &map {
                self.leaf(p, *a, *b, &map)?;
            }
            if !p.moved {
                maps.entry((&p.old.path, false)).or_default().extend(map);
            }
        }
        // files that are as they were
        let family = n.a.old.lang;
        for word in &n.moved {
            for (f, s) in unseen::with_word(n.project, word, family) {
                if self.files.iter().any(|x| x.old.path == s.path) {
                    continue;
                }
                let now =
                    self.after.source(f).map_err(|message| Objection { message, file: s.path.clone(), line: 1 })?;
                let is_word =
                    |x: &NodeId| matches!(s.tree.role(*x), Role::Name | Role::MemberName) && s.str(*x) == *word;
                for x in s.tree.ids().filter(is_word) {
                    let (was, is) = (meaning(n.project, &s, x), meaning(self.after, &now, x));
                    if was.clone().map(|e| n.now(e)) != is || !self.is_given(is.as_ref(), f) {
                        return object(&s, x, format!("`{word}` would be another one here"));
                    }
                }
            }
        }
        Ok(())
    }

    fn leaf(&self, p: &Pair, a: NodeId, b: NodeId, map: &FxHashMap<NodeId, NodeId>) -> Opinion<()> {
        let n = self.names;
        let changed = || object(p.old, a, format!("`{}` would mean something else", p.old.str(a)));
        let (was, is) = match (p.old.names.at(a), p.new.names.at(b)) {
            (None, None) => {
                // behind a module
                if p.old.tree.role(a) != Role::MemberName {
                    return Ok(());
                }
                let (was, is) = (meaning(n.project, p.old, a), meaning(self.after, p.new, b));
                let file = self.after.index(&p.new.path).unwrap_or(usize::MAX);
                let loads =
                    |e: &Entity| !matches!(e, Entity::Member(f, _) if *f == n.to) || self.after.imports(file, n.to);
                let given = self.is_given(is.as_ref(), file) && (file == n.to || is.as_ref().is_none_or(loads));
                return if was.map(|e| n.now(e)) == is && given { Ok(()) } else { changed() };
            }
            (Some(was), Some(is)) => (was, is),
            _ => return changed(),
        };
        let local = |s: &Source, t: Option<BindingId>| {
            let binding = t.map(|t| s.names.binding(t)).filter(|b| b.scope != crate::names::Names::MODULE);
            binding.map(|b| (b.first, b.import.clone()))
        };
        let (x, y) = (local(p.old, was.target), local(p.new, is.target));
        let entity = |p: &Project, s: &Source, t: Option<BindingId>, n: NodeId| {
            let name = t.map_or(s.str(n), |t| s.names.binding(t).name.as_str());
            p.origin(&p.entity(s, name))
        };
        let same = match (x, y) {
            (None, None) => {
                let before = entity(n.project, p.old, was.target, a);
                let now = entity(self.after, p.new, is.target, b);
                n.now(before.clone()) == now && !(p.moved && matches!(before, Entity::Unknown(..)))
                    || p.moved && (self.is_own_of_each(a, &before, &now) || self.loads_the_same(p, a, b))
            }
            (Some((_, Some(i))), Some((_, Some(j)))) => {
                self.imported(p.old, &i, n.project).map(|e| n.now(e)) == self.imported(p.new, &j, self.after)
            }
            // a function took it from the old file, and has it in its own now
            (Some((_, Some(i))), None) if self.after.index(&p.new.path) == Some(n.to) => {
                let now = entity(self.after, p.new, is.target, b);
                self.imported(p.old, &i, n.project).map(|e| n.now(e)) == Some(now)
            }
            (Some((f, None)), Some((g, None))) => map.get(&f) == Some(&g) || !p.old.tree.is_leaf(f),
            _ => false,
        };
        if same && was.usage == is.usage { Ok(()) } else { changed() }
    }

    /// The same words define it in both files, and it is told that the moved code uses the other one now.
    fn is_own_of_each(&self, a: NodeId, was: &Entity, is: &Entity) -> bool {
        let n = self.names;
        let value = |p: &Project, f: usize, name: &str| {
            let s = p.source(f).ok()?;
            let first = s.names.binding(s.names.in_module(name)?).first;
            let right = s.tree.child(s.tree.parent(first)?, Field::Right)?;
            Some(s.str(right).to_string())
        };
        let (Entity::Member(f, x), Entity::Member(g, y)) = (was, is) else { return false };
        let both = *f == n.from && *g == n.to && x == y && n.a.old.str(a) == x;
        let told = self.told(Code::ShownName, &n.b.old.path);
        both && told && value(n.project, *f, x).is_some_and(|v| Some(v) == value(self.after, *g, y))
    }

    /// What went can be taken from its file by another one.
    fn is_given(&self, e: Option<&Entity>, by: usize) -> bool {
        let n = self.names;
        let Some(Entity::Member(f, name)) = e.filter(|_| by != n.to) else { return true };
        let hidden = |s: &Source| {
            let b = s.names.in_module(name);
            b.is_none_or(|b| s.lang.hides(s, b)) && !super::call::gives(s, name)
        };
        *f != n.to || !n.moved.contains(name) || !self.after.source(*f).is_ok_and(|s| hidden(&s))
    }

    /// A call that loads a file by a text means the same file from both places.
    fn loads_the_same(&self, p: &Pair, a: NodeId, b: NodeId) -> bool {
        let loaded = |s: &Source, n: NodeId, of: &Project| {
            let call = s.tree.parent(n).filter(|c| s.tree.role(*c) == Role::Call)?;
            let (word, arguments) = unseen::called(s, call)?;
            let text = arguments.first().filter(|x| s.tree.role(**x) == Role::Literal)?;
            let text = s.str(*text).trim_matches(['"', '\'', '`']);
            let known = s.lang.loading_words().contains(&word) && s.str(n) == word;
            let i = s.lang.import_of_text(text);
            known.then(|| (of.resolved(s, &i), text.starts_with('.')))
        };
        let (x, y) = (loaded(p.old, a, self.names.project), loaded(p.new, b, self.after));
        x.is_some() && x == y && x.is_some_and(|(files, relative)| !files.is_empty() || !relative || self.beside())
    }

    /// Both files stand in one folder.
    fn beside(&self) -> bool {
        let folder = |f: &File| f.old.path.rsplit_once('/').map_or(String::new(), |p| p.0.to_string());
        folder(self.names.a) == folder(self.names.b)
    }

    /// What an import in whatever scope stands for.
    fn imported(&self, s: &Source, i: &ImportRef, p: &Project) -> Option<Entity> {
        let target = p.resolved(s, i).first().copied();
        let Some((target, m)) = target.zip(i.member.clone()) else {
            return Some(target.map_or(
                Entity::Foreign(format!("{}{}", i.level, i.module), i.member.clone().unwrap_or_default()),
                Entity::Module,
            ));
        };
        let alone = ImportRef { member: None, ..i.clone() };
        let of_file = p.resolved(s, &alone).contains(&target);
        Some(if of_file { p.origin(&Entity::Member(target, m)) } else { Entity::Module(target) })
    }

    /// What each file imports is there, and is what it was.
    fn imports(&self) -> Opinion<()> {
        for f in self.files {
            let (old, new) = (&f.old, &f.new);
            for (statement, all) in loads_of(new) {
                if let Some(why) = all.iter().find_map(|i| self.is_missing(f, i)) {
                    return object(new, statement, why);
                }
            }
            for b in (0..new.names.bindings.len() as u32).map(BindingId) {
                if !self.is_as_before(f, b) {
                    return object(new, new.names.binding(b).first, "this import is another one now");
                }
            }
            if let Some(n) = used_before_import(new) {
                return object(new, n, "this is used before it is imported");
            }
            // effects of imports that bind nothing stay
            let bare = |s: &Source| -> Vec<String> {
                let t = &s.tree;
                let own = t.children(Tree::ROOT).filter(|x| matches!(t.role(*x), Role::Import | Role::ImportFrom));
                own.filter(|x| s.lang.imports_of(t, *x, &s.text).is_empty() && !s.lang.passes_names_on(s.str(*x)))
                    .map(|x| s.str(x).to_string())
                    .collect()
            };
            if bare(old) != bare(new) {
                return object(old, Tree::ROOT, "an import that only loads is another one now");
            }
        }
        Ok(())
    }

    /// Why what an import takes is not there: no file gives it, nor did one of the files import it from elsewhere before.
    fn is_missing(&self, f: &File, i: &ImportRef) -> Option<String> {
        let n = self.names;
        let new = &f.new;
        if i.wildcard {
            return None;
        }
        if self.after.resolved(new, i).is_empty() {
            let had = |s: &Source| loads_of(s).iter().any(|(_, all)| all.contains(i));
            return (!had(&f.old) && !had(&n.a.old)).then(|| format!("nothing is known of `{}`", i.module));
        }
        let Some(Entity::Member(g, name)) = self.imported(new, i, self.after) else { return None };
        let has = |p: &Project, s: Option<Arc<Source>>| {
            s.is_none_or(|s| s.names.in_module(&name).is_some() || super::call::gives(&s, &name))
                || p.passed_from(g, &name).is_some()
        };
        let had = has(n.project, n.project.source(g).ok());
        let seen = self.after.source(g).is_ok_and(|s| {
            let hidden = |b: BindingId| s.lang.hides(&s, b) && !super::call::gives(&s, &name);
            !s.names.in_module(&name).is_some_and(hidden)
        });
        let missing = !has(self.after, self.after.source(g).ok()) && had || !seen;
        missing.then(|| format!("{} gives no `{name}`", self.after.facts[g].path))
    }

    /// A name that a file imported stands for what it stood for.
    fn is_as_before(&self, f: &File, b: BindingId) -> bool {
        let (n, new) = (self.names, &f.new);
        let binding = new.names.binding(b);
        let Some(i) = &binding.import else { return true };
        let of_module = |s: ScopeId| s == crate::names::Names::MODULE;
        let like = |s: &Source| -> Vec<ImportRef> {
            let of = |was: &&Binding| was.name == binding.name && of_module(was.scope) == of_module(binding.scope);
            s.names.bindings.iter().filter(of).filter_map(|was| was.import.clone()).collect()
        };
        let is = self.imported(new, i, self.after);
        let as_before = |s: &Source, i: &ImportRef| self.imported(s, i, n.project).map(|e| n.now(e)) == is;
        let before = like(&f.old);
        // one of a function that went
        let came = || !of_module(binding.scope) && like(&n.a.old).iter().any(|i| as_before(&n.a.old, i));
        before.is_empty() || before.iter().any(|i| as_before(&f.old, i)) || came()
    }

    /// What others had through a file they still have, and nothing else is given by the name.
    fn given(&self) -> Opinion<()> {
        let n = self.names;
        for f in self.files {
            let (old, new) = (&f.old, &f.new);
            let Some(file) = n.project.index(&old.path) else { continue };
            for b in old.names.bindings_of(crate::names::Names::MODULE) {
                let name = &old.names.binding(b).name;
                if !old.lang.exports_by_name(old, b) || old.lang.public_list() == Some(name) {
                    continue;
                }
                let left = new.names.in_module(name);
                let was = n.project.origin(&Entity::Member(file, name.clone()));
                let is = self.after.origin(&Entity::Member(file, name.clone()));
                let passes = new.lang.passed_on(new).iter().any(|p| p.name.as_deref() == Some(name));
                let there = left.is_some_and(|b| new.lang.exports_by_name(new, b)) || passes;
                let used = || {
                    let others = (0..n.project.facts.len()).filter(|g| *g != file && n.project.imports(*g, file));
                    let mut others = others.filter(|g| n.project.facts[*g].has_word(name));
                    others.any(|g| self.gets(g, file, name))
                };
                if there && n.now(was.clone()) != is {
                    return object(
                        old,
                        old.names.binding(b).first,
                        format!("others would get another `{name}` from here"),
                    );
                }
                let may_go = n.moved.contains(name) && file == n.from || old.names.binding(b).import.is_some();
                if !there && (!may_go || used()) {
                    return object(old, old.names.binding(b).first, format!("others get `{name}` from here no more"));
                }
            }
            self.lists(old, new)?;
            self.entries(f)?;
        }
        Ok(())
    }

    /// Entries of export lists under whatever name stand for what they stood for.
    fn entries(&self, f: &File) -> Opinion<()> {
        let n = self.names;
        let (was, is) = (entries(n.project, &f.old), entries(self.after, &f.new));
        let now: Vec<(&str, Option<Entity>)> = was.iter().map(|(k, e)| (*k, e.clone().map(|e| n.now(e)))).collect();
        let is_new = |x: &(&str, Option<Entity>)| n.moved.contains(x.0) && now.iter().all(|w| w.0 != x.0);
        let fresh = is.iter().find(|x| !(now.contains(x) || is_new(x)));
        let file = n.project.index(&f.old.path).unwrap_or(usize::MAX);
        let used = |name: &str| {
            let mut others = (0..n.project.facts.len()).filter(|g| *g != file && n.project.facts[*g].has_word(name));
            others.any(|g| self.gets(g, file, name))
        };
        let lost = now.iter().find(|w| !is.contains(w) && (!n.moved.contains(w.0) || used(w.0)));
        match fresh.or(lost) {
            Some((key, _)) => object(&f.old, Tree::ROOT, format!("`{key}` is exported in another way")),
            None => Ok(()),
        }
    }

    /// A file still takes a name from another one.
    fn gets(&self, g: usize, file: usize, name: &str) -> bool {
        let Ok(s) = self.after.source(g) else { return true };
        let wanted = |i: &ImportRef| i.member.as_deref() == Some(name) && self.after.resolved(&s, i).contains(&file);
        let all = (0..s.names.bindings.len() as u32).filter_map(|b| s.names.binding(BindingId(b)).import.clone());
        let passed = s.lang.passed_on(&s).into_iter().map(|p| p.import);
        let through = s.tree.ids().filter(|x| s.tree.role(*x) == Role::MemberName && s.str(*x) == name);
        let module = |x: NodeId| {
            let object = s.tree.parent(x).and_then(|m| s.tree.child(m, Field::Object));
            let is = |o: NodeId| self.after.may_be_file(&s, o, file) || may_load(self.after, &s, o, file);
            object.is_some_and(is)
        };
        all.chain(passed).any(|i| wanted(&i)) || through.into_iter().any(module) || s.names.wildcard
    }

    /// Lists of public names say what is there.
    fn lists(&self, old: &Source, new: &Source) -> Opinion<()> {
        let Some(list) = old.lang.public_list() else { return Ok(()) };
        let said = |s: &Source| -> Vec<String> {
            let t = &s.tree;
            let own = t.children(Tree::ROOT).filter(|n| only_links(s, *n) && s.str(*n).starts_with(list));
            let texts = own.flat_map(|n| t.subtree(n)).filter(|x| t.role(*x) == Role::Literal);
            texts.map(|x| s.str(x).trim_matches(['"', '\'']).to_string()).collect()
        };
        let (was, is) = (said(old), said(new));
        let fresh = is.iter().find(|w| !was.contains(w) && new.names.in_module(w).is_none());
        let lost = was
            .iter()
            .find(|w| !is.contains(w) && (!self.names.moved.contains(*w) || new.names.in_module(w).is_some()));
        let empty = is.iter().find(|w| new.names.in_module(w).is_none() && old.names.in_module(w).is_some());
        match fresh.or(lost).or(empty) {
            Some(w) => object(old, Tree::ROOT, format!("the list of public names is wrong about `{w}`")),
            None => Ok(()),
        }
    }

    /// Where the old file has a name no more, nobody may look for it there in a way that is not followed.
    fn unknown_users(&self) -> Opinion<()> {
        let n = self.names;
        let (old, new) = (&n.a.old, &n.a.new);
        for name in &n.moved {
            if n.project.named_by_string(n.from, name)
                && !self.change.result.reasons.iter().any(|r| r.code == Code::NamedByString)
            {
                return object(old, Tree::ROOT, format!("a text names `{name}` with its module"));
            }
            let seen = old.names.in_module(name).is_some_and(|b| old.lang.exports_by_name(old, b));
            let passes = new.lang.passed_on(new).iter().any(|p| p.name.as_deref() == Some(name));
            if !seen || new.names.in_module(name).is_some() || passes {
                continue;
            }
            let handed = !unseen::handed_on(n.project, n.from).is_empty();
            let looked = !unseen::lookups(n.project, name, unseen::Within::File(&old.path)).is_empty();
            let wild = |f: usize| n.project.imports(f, n.from) && n.project.source(f).is_ok_and(|s| s.names.wildcard);
            if let Some((s, n)) = self.named_by_text(name) {
                return object(&s, n, format!("`{name}` may be taken from its old file here"));
            }
            if let Some((s, n)) = crate::index::users::by_unknown_path(n.project, old, name) {
                return object(&s, n, format!("this may import `{name}` from its old file"));
            }
            if handed || looked || (0..n.project.facts.len()).any(wild) || n.project.named_by_string(n.from, name) {
                return object(old, Tree::ROOT, format!("`{name}` may be looked for in this file"));
            }
        }
        Ok(())
    }

    /// A text that leads to a name of the old file: a key of it as a whole, or code in which both are said.
    fn named_by_text(&self, name: &str) -> Option<(Arc<Source>, NodeId)> {
        let n = self.names;
        let stem = crate::index::words::stem_of(&n.a.old.path);
        unseen::anywhere(n.project, name).find_map(|(_, s)| {
            let t = &s.tree;
            let quotes = ['"', '\'', '`'];
            let leads = |x: &NodeId| {
                let text = s.str(*x).trim_matches(quotes);
                let import = t.ancestors(*x).any(|a| matches!(t.role(a), Role::Import | Role::ImportFrom));
                match t.role(*x) {
                    _ if import => false,
                    Role::Doc if !text.contains(">>>") => false,
                    Role::Literal | Role::TemplateText | Role::Doc => {
                        let has = |w: &str| crate::index::whole_words(text, w).next().is_some();
                        has(name) && has(stem) || text == name && self.is_key_of_file(&s, *x)
                    }
                    _ => false,
                }
            };
            let own = |x: NodeId| n.pairs.iter().any(|p| p.moved && p.old.path == s.path && t.contains(p.a, x));
            t.ids().find(|x| leads(x) && !own(*x)).map(|x| (s.clone(), x))
        })
    }

    /// A text in brackets behind the old file as a whole, or what it has.
    fn is_key_of_file(&self, s: &Source, text: NodeId) -> bool {
        let t = &s.tree;
        let Some(index) = t.parent(text).filter(|p| t.role(*p) == Role::Index) else { return false };
        let file = |x: NodeId| t.role(x) == Role::Name && self.names.project.may_be_file(s, x, self.names.from);
        t.subtree(index).any(file)
    }

    /// No files load each other that did not, and what is loaded more or less is told.
    fn loads(&self) -> Opinion<()> {
        let n = self.names;
        let (before, now) = (n.project.modules(), self.after.modules());
        for f in self.files {
            let Some(file) = n.project.index(&f.old.path) else { continue };
            for g in now.takes_anew(file, before) {
                let other = &n.project.facts[g].path;
                let told = || only_defines(self.after, g) || self.told(Code::ImportEffects, &f.old.path);
                if now.takes_when_loaded(g, file) || now.takes_in_the_end(g, file) && !told() {
                    return object(&f.old, Tree::ROOT, format!("this file and {other} would load each other"));
                }
            }
            let (was, is) = (before.loaded_by(file), now.loaded_by(file));
            let acting = was.symmetric_difference(&is).find(|g| {
                let quiet = |p: &Project| only_defines(p, **g);
                **g != file && !(quiet(n.project) && quiet(self.after))
            });
            let orders = [before, now].map(|m| {
                let plain = |g: &usize| only_defines(n.project, *g) && only_defines(self.after, *g);
                let acts = |g: &usize| was.contains(g) && is.contains(g) && !plain(g);
                m.order_of_loading(file).into_iter().filter(acts).collect::<Vec<usize>>()
            });
            if orders[0] != orders[1] && !self.told(Code::ImportEffects, &f.old.path) {
                return object(&f.old, Tree::ROOT, "what it loads would be loaded in another order");
            }
            if let Some(g) = acting.filter(|_| !self.told(Code::ImportEffects, &f.old.path)) {
                let message = format!("{} is loaded by it, or no more, and does something", n.project.facts[*g].path);
                return object(&f.old, Tree::ROOT, message);
            }
        }
        Ok(())
    }
}

/// The names under which a file lists what it gives, and what they stand for.
fn entries<'s>(p: &Project, s: &'s Source) -> Vec<(&'s str, Option<Entity>)> {
    let t = &s.tree;
    let means = |n: NodeId| meaning(p, s, n);
    let mut out = Vec::new();
    for n in
        t.children(Tree::ROOT).filter(|n| only_links(s, *n) && !matches!(t.role(*n), Role::Import | Role::ImportFrom))
    {
        for x in t.subtree(n) {
            let entry = match t.role(x) {
                Role::ImportAlias => t.child(x, Field::Name).map(|v| (t.child(x, Field::Alias).unwrap_or(v), v)),
                Role::Pair => t.child(x, Field::Key).zip(t.child(x, Field::Value)),
                Role::Assign => {
                    let key = t.child(x, Field::Left).and_then(|l| t.child(l, Field::Member));
                    key.zip(t.child(x, Field::Right)).filter(|(_, v)| t.role(*v) == Role::Name)
                }
                _ => None,
            };
            out.extend(entry.map(|(k, v)| (s.str(k), means(v))));
        }
    }
    out
}

/// A use, when the file is loaded, above the import that it needs; imports that come first wherever they stand are left out.
fn used_before_import(s: &Source) -> Option<NodeId> {
    let t = &s.tree;
    let early = |r: &&crate::names::Reference| {
        let Some(binding) = r.target.map(|b| s.names.binding(b)) else { return false };
        let first = t.ancestors(binding.first).any(|a| t.role(a) == Role::ImportFrom) && s.lang.functions_come_first();
        let above = binding.import.is_some() && r.node < binding.first && !first;
        above && binding.scope == crate::names::Names::MODULE && r.usage.reads() && t.callable_around(r.node).is_none()
    };
    s.names.references.iter().find(early).map(|r| r.node)
}

/// The import statements of a file, however deep, each with what it loads.
fn loads_of(s: &Source) -> Vec<(NodeId, Vec<ImportRef>)> {
    let t = &s.tree;
    let imports = t.ids().filter(|n| matches!(t.role(*n), Role::Import | Role::ImportFrom | Role::Declare));
    imports.map(|n| (n, s.lang.loaded_by(t, n, &s.text))).collect()
}
