//! References of names that are bound: variables by their binding, names of modules through imports.
//!
//! What can't be followed is an error with its place: nobody can say then who refers to the name.

use std::sync::Arc;

use crate::change::{Code, Found, reason};
use crate::index::references::{References, add_uses};
use crate::index::users::{is_listed, named_by_text};
use crate::index::{Entity, Project, Uses, globals, named_arguments, unseen};
use crate::lang::Language;
use crate::names::{BindKind, BindingId, ImportRef, Names, ScopeKind, Source};
use crate::tree::{Field, NodeId, Role, Tree};

/// References of names that are bound.
pub(crate) struct Bound<'a> {
    pub(crate) project: &'a Project<'a>,
}

impl Bound<'_> {
    /// References of a variable, parameter, function, class or import.
    pub(crate) fn of(&self, s: &Arc<Source>, b: BindingId, old: &str) -> Found<References> {
        let binding = s.names.binding(b);
        let given = Some(old) == s.lang.object_word() || s.lang.is_frame_name(old);
        if given || binding.import.is_some() && !self.is_aliased(s, b) {
            let message = format!("`{old}` gets its name elsewhere");
            return Err(vec![reason(s, binding.first, Code::ForeignName, message)]);
        }
        if s.lang.is_member_too(s, b) {
            let message = format!("`{old}` is a member of its class too, which can't be renamed by its parameter");
            return Err(vec![reason(s, binding.first, Code::ForeignName, message)]);
        }
        let mut own = Uses { source: s.clone(), nodes: self.references(s, b) };
        if binding.scope != Names::MODULE {
            let named = named_arguments::find(self.project, s, b, old)?;
            let mut all = vec![own];
            add_uses(&mut all, named.sure);
            return Ok(References { sure: all, possible: named.possible });
        }
        own.nodes.extend(self.listed(s, old));
        let file = self.project.index(&s.path).expect("a planned file was scanned");
        let mut all = vec![own];
        match self.is_loaded(s, file, b) {
            true => add_uses(&mut all, globals::by_loading(self.project, s, old)?),
            false => globals::stays(self.project, s, b).map_err(|r| vec![r])?,
        }
        if s.lang.exports_by_name(s, b) {
            add_uses(&mut all, self.other_files(s, file, old)?);
            add_uses(&mut all, self.full_paths(file, old, s.lang));
        }
        Ok(References { sure: all, possible: Vec::new() })
    }

    /// A function, or a class of a file that others load by its path: one that a loader finds has the name of its file.
    fn is_loaded(&self, s: &Source, file: usize, b: BindingId) -> bool {
        let path =
            || (0..self.project.facts.len()).any(|f| f != file && self.project.modules().direct(f).contains(&file));
        let kind = s.names.binding(b).kind;
        s.lang.shares_by_loading() && (kind == BindKind::Function || kind == BindKind::Class && path())
    }

    fn is_aliased(&self, s: &Source, b: BindingId) -> bool {
        let (first, t) = (s.names.binding(b).first, &s.tree);
        // `const fees = require("./fees")` is a variable of its own
        t.field(first) == Field::Alias || t.parent(first).is_some_and(|p| t.role(p) == Role::Assign)
    }

    fn references(&self, s: &Source, b: BindingId) -> Vec<NodeId> {
        let mut nodes: Vec<NodeId> = s.names.references_to(b).map(|r| r.node).collect();
        let first = s.names.binding(b).first;
        if s.tree.is_leaf(first) && s.tree.role(first) == Role::Name {
            nodes.push(first);
        }
        nodes.extend(super::declared::bare_declarations(s, b));
        // words of `global` and `nonlocal` statements
        let name = &s.names.binding(b).name;
        let says = |n: &NodeId| {
            let parent = s.tree.parent(*n).map(|p| s.tree.role(p));
            matches!(parent, Some(Role::Global | Role::Nonlocal)) && s.str(*n) == name
        };
        nodes.extend(s.tree.ids().filter(says));
        nodes.sort();
        nodes.dedup();
        nodes
    }

    /// Strings that list a module's public names.
    fn listed(&self, s: &Source, old: &str) -> Vec<NodeId> {
        named_by_text(s, old).filter(|n| is_listed(s, *n)).collect()
    }

    /// Texts that are surely the name: its module's path with it, and types that are written as texts.
    fn full_paths(&self, home: usize, old: &str, lang: &dyn Language) -> Vec<Uses> {
        let module = self.project.modules().name(home);
        let path = module.map(|m| format!("{}.{old}", m.parts.join(".")));
        let named = Entity::Member(home, old.to_string());
        let uses = unseen::with_word(self.project, old, lang).map(|(f, source)| {
            let t = &source.tree;
            let own = self.project.origin(&Entity::Member(f, old.to_string())) == named;
            let sure = |n: &NodeId| {
                let text = crate::index::words::unquoted(&source, *n);
                let of_type =
                    own && t.ancestor(*n, &[Role::Type]).is_some() && crate::index::words::has_whole_word(text, old);
                t.role(*n) == Role::Literal && (of_type || path.as_deref() == Some(text))
            };
            let nodes = t.ids().filter(sure).collect();
            Uses { source, nodes }
        });
        uses.filter(|u| !u.nodes.is_empty()).collect()
    }

    /// Imports of a module's name, their uses, and uses through the module.
    fn other_files(&self, s: &Source, home: usize, old: &str) -> Found<Vec<Uses>> {
        let mut out = Vec::new();
        let named = Entity::Member(home, old.to_string());
        for f in (0..self.project.facts.len()).filter(|f| *f != home) {
            let loads = self.project.imports(f, home);
            let says = self.project.text(f).is_some_and(|t| crate::index::words::has_whole_word(&t, old));
            if !says && !loads {
                continue;
            }
            let Ok(other) = self.project.source(f) else { continue };
            if other.names.wildcard && loads {
                let message = format!("this file imports all names of {}", s.path);
                return Err(vec![reason(&other, Tree::ROOT, Code::ImportsAll, message)]);
            }
            let mut nodes = Vec::new();
            let own = other.names.in_module(old).or_else(|| self.alias_of(&other, &named));
            let same = |b: &BindingId| self.stands_for(&other, &other.names.binding(*b).name, &named);
            if let Some(b) = own.filter(same) {
                nodes.extend(self.import_words(&other, b, old));
                if other.names.binding(b).name == old && !other.lang.exports_again(&other, b) {
                    nodes.extend(self.references(&other, b));
                    nodes.extend(self.listed(&other, old));
                }
            }
            nodes.extend(self.taken_inside(&other, &named, old));
            nodes.extend(self.through_module(&other, &named, old));
            nodes.extend(self.passed_on(&other, home, old));
            nodes.sort();
            nodes.dedup();
            let unclear = |n: NodeId, message: String| Err(vec![reason(&other, n, Code::UnclearUse, message)]);
            if let Some(n) = self.unclear_import(&other, home, old, &nodes) {
                return unclear(n, format!("what `{old}` is imported from is not clear"));
            }
            if let Some(n) = self.unclear_module(&other, home, old, &nodes) {
                return unclear(n, format!("`{old}` here is of {}, or of what else the variable may be", s.path));
            }
            if !nodes.is_empty() {
                out.push(Uses { source: other, nodes });
            }
        }
        Ok(out)
    }

    /// A name of a file is the name that is renamed, passed on without getting another one.
    fn stands_for(&self, s: &Source, name: &str, named: &Entity) -> bool {
        self.leads_to(self.project.entity(s, name), named)
    }

    fn leads_to(&self, entity: Entity, named: &Entity) -> bool {
        let mut at = entity;
        for _ in 0..16 {
            if at == *named {
                return true;
            }
            let Entity::Member(file, own) = &at else { return false };
            let Ok(other) = self.project.source(*file) else { return false };
            // where a file says what it passes on, others keep the name that they know
            let said = other.lang.passed_on(&other).iter().any(|p| p.name.as_deref() == Some(own))
                || other.names.in_module(own).is_some_and(|b| other.lang.exports_again(&other, b));
            let next = self.project.passed_from(*file, own).filter(|_| !said);
            match next {
                Some(e) => at = e,
                None => return false,
            }
        }
        false
    }

    /// The old word in an import or an unknown place that may mean the home's name, and was not followed.
    fn unclear_import(&self, s: &Source, home: usize, old: &str, told: &[NodeId]) -> Option<NodeId> {
        let t = &s.tree;
        let unclear = |n: &NodeId| {
            if !t.is_leaf(*n) || s.str(*n) != old || told.contains(n) {
                return false;
            }
            if let Some(i) = t.ancestor(*n, &[Role::Import, Role::ImportFrom]) {
                let named = Entity::Member(home, old.to_string());
                return s.lang.imports_of(t, i, &s.text).iter().any(|r| {
                    r.member.as_deref() == Some(old)
                        && self
                            .project
                            .resolved(s, r)
                            .iter()
                            .any(|f| *f == home || self.stands_for_member(*f, old, &named))
                });
            }
            // a name that nothing in the tree explains
            t.role(*n) == Role::Name && s.names.at(*n).is_none() && self.project.imports_by_text(s, home)
        };
        t.ids().find(unclear)
    }

    fn stands_for_member(&self, file: usize, name: &str, named: &Entity) -> bool {
        self.leads_to(Entity::Member(file, name.to_string()), named)
    }

    fn alias_of(&self, s: &Source, named: &Entity) -> Option<BindingId> {
        s.names.bindings_of(Names::MODULE).find(|b| self.stands_for(s, &s.names.binding(*b).name, named))
    }

    /// The word that an import statement takes from the module.
    fn import_words(&self, s: &Source, b: BindingId, old: &str) -> Vec<NodeId> {
        let t = &s.tree;
        let first = s.names.binding(b).first;
        let Some(around) = t.parent(first) else { return Vec::new() };
        let statement =
            if matches!(t.role(around), Role::ImportAlias | Role::DottedName | Role::Pattern) { around } else { first };
        t.subtree(statement).filter(|n| t.is_leaf(*n) && s.str(*n) == old).collect()
    }

    /// Words of imports in functions that take the name for themselves, and their uses.
    fn taken_inside(&self, s: &Source, named: &Entity, old: &str) -> Vec<NodeId> {
        let mut out = Vec::new();
        for b in (0..s.names.bindings.len() as u32).map(BindingId) {
            let binding = s.names.binding(b);
            // what a class takes is a member of it
            let inside = binding.scope != Names::MODULE && s.names.scope(binding.scope).kind != ScopeKind::Class;
            if inside && self.project.of_binding(s, b).is_some_and(|e| self.leads_to(e, named)) {
                out.extend(self.import_words(s, b, old));
                if binding.name == old {
                    out.extend(self.references(s, b));
                }
            }
        }
        out
    }

    /// The old word behind a variable that is the module by one of several values.
    fn unclear_module(&self, s: &Source, home: usize, old: &str, told: &[NodeId]) -> Option<NodeId> {
        let t = &s.tree;
        let may_be = |o: NodeId| {
            let target = s.names.at(o).and_then(|r| r.target);
            target.is_some_and(|b| self.project.may_be_module(s, b, home))
        };
        let object = |n: NodeId| t.parent(n).and_then(|m| t.child(m, Field::Object)).filter(|o| *o != n);
        let words = t.ids().filter(|n| t.role(*n) == Role::MemberName && s.str(*n) == old && !told.contains(n));
        words.into_iter().find(|n| object(*n).is_some_and(may_be))
    }

    /// `module.name`, or a look-up of that name in the module.
    fn through_module(&self, s: &Source, named: &Entity, old: &str) -> Vec<NodeId> {
        let t = &s.tree;
        let object = |n: NodeId| match t.role(n) {
            Role::MemberName if s.str(n) == old => t.parent(n).and_then(|m| t.child(m, Field::Object)),
            Role::Literal => unseen::looked_up(s, n, old).flatten(),
            _ => None,
        };
        let has = |m: usize| self.stands_for_member(m, old, named);
        t.ids().filter(|n| object(*n).is_some_and(|o| self.modules_of(s, o).into_iter().any(has))).collect()
    }

    /// The modules that an object may be.
    fn modules_of(&self, s: &Source, object: NodeId) -> Vec<usize> {
        match self.project.meant(s, object) {
            Some(Entity::Module(m)) => return vec![m],
            Some(_) => return Vec::new(),
            None => {}
        }
        // a path of packages
        let path = s.str(object);
        let root = path.split('.').next().unwrap_or("");
        let import = ImportRef { level: 0, module: path.to_string(), member: None, wildcard: false };
        let imported = s.names.in_module(root).is_some_and(|b| s.names.binding(b).import.is_some());
        if path.contains('.') && imported { self.project.resolved(s, &import) } else { Vec::new() }
    }

    /// Words of `export { name } from "./m"`.
    fn passed_on(&self, s: &Source, home: usize, old: &str) -> Vec<NodeId> {
        let t = &s.tree;
        let mut out = Vec::new();
        for i in t.children(Tree::ROOT).filter(|i| t.role(*i) == Role::ImportFrom && s.lang.passes_names_on(s.str(*i)))
        {
            let reached = s.lang.imports_of(t, i, &s.text).iter().any(|r| self.project.resolved(s, r).contains(&home));
            let words =
                t.subtree(i).filter(|n| t.role(*n) == Role::Name && t.field(*n) == Field::Name && s.str(*n) == old);
            if reached {
                out.extend(words);
            }
        }
        out
    }
}
