//! `rename`: a variable, parameter, function, class or member, with every reference in the project.
//!
//! Variables are followed by binding, names of modules through imports, members by their word: what an object is can't
//! be told in general, so a member that another class has too is refused, and one used on objects of unknown kind is an
//! assumption. Strings and comments are listed, never changed.

use std::sync::Arc;

use rustc_hash::FxHashSet;

use super::project::{Entity, Project};
use super::region::reason;
use super::target::{Target, one_word_pair, target};
use super::users::{is_listed, named_by_text};
use super::{Edits, Outcome, PLAN_SCHEMA, Plan, Reason, Request, Verdict};
use crate::names::{BindKind, BindingId, ImportRef, Names, Source};
use crate::text::{Edit, Span};
use crate::tree::{Field, NodeId, Role, Tree};

/// Plans the renaming that a request asks for: its first copy is the name's place.
pub fn plan_rename(project: &Project, request: &Request) -> Plan {
    let result = match (Rename { project, request }).run() {
        Ok(o) => super::audited_step(project, request, "rename", o),
        Err(reasons) => Outcome::refused(reasons),
    };
    Plan { schema: PLAN_SCHEMA.into(), step: "rename".into(), request: request.clone(), result }
}

/// Places that one assumption lists.
const MOST_STRINGS: usize = 5;

struct Rename<'a> {
    project: &'a Project<'a>,
    request: &'a Request,
}

type Found<T> = Result<T, Vec<Reason>>;

/// The nodes of one file that change.
struct Uses {
    source: Arc<Source>,
    nodes: Vec<NodeId>,
}

impl Rename<'_> {
    fn run(&self) -> Found<Outcome> {
        let (place, new) = (&self.request.copies[0], self.request.name.clone().unwrap_or_default());
        let source = super::source_of(self.project, place)?;
        let span = Span::new(place.start_byte, place.end_byte);
        let refuse = |code: &str, message: String| {
            Err(vec![Reason { code: code.into(), message, file: place.file.clone(), line: place.start_line }])
        };
        let Some(target) = target(&source, span) else {
            return refuse("not-a-name", "no name of this project stands here".into());
        };
        let old = source.text[span.start..span.end].to_string();
        if old == new {
            return refuse("name-taken", format!("`{new}` is its name already"));
        }
        let (uses, mut assumed) = match target {
            Target::Binding(b) => self.binding(&source, b, &old, &new)?,
            Target::Member(n) => self.member(&source, n, &old, &new)?,
        };
        if self.is_found_by_name(&source, target) {
            assumed.extend(self.named_by_strings(&source, &uses, &old));
        }
        let mut edits = Edits::default();
        for u in &uses {
            self.taken(u, target, &new)?;
            for n in &u.nodes {
                let span = u.source.tree.span(*n);
                edits.add(&u.source, Edit::new(span.start, span.end, self.text(&u.source, *n, &old, &new)));
            }
        }
        let (files, saves) = edits.finish();
        let remarks = self.mentions(&uses, &old);
        let verdict = if assumed.is_empty() { Verdict::Ready } else { Verdict::Assumed };
        Ok(Outcome { verdict, reasons: assumed, remarks, files, saves, ..Outcome::refused(Vec::new()) })
    }

    /// A string could lead to it at run time.
    fn is_found_by_name(&self, s: &Source, target: Target) -> bool {
        match target {
            Target::Member(_) => true,
            Target::Binding(b) => s.names.binding(b).scope == Names::MODULE && s.lang.exports_by_name(s, b),
        }
    }

    /// Strings that are the old name, or a path with it.
    fn named_by_strings(&self, home: &Source, uses: &[Uses], old: &str) -> Vec<Reason> {
        let mut out = Vec::new();
        let module = self.project.index(&home.path).and_then(|f| self.project.modules().name(f));
        let path = module.map(|m| format!("{}.{old}", m.parts.join(".")));
        let facts = &self.project.facts;
        let said = |f: &usize| facts[*f].has_word(old) || path.as_ref().is_some_and(|p| facts[*f].has_word(p));
        for f in (0..facts.len()).filter(said) {
            let Ok(s) = self.project.source(f) else { continue };
            let changed = |n: NodeId| uses.iter().any(|u| u.source.path == s.path && u.nodes.contains(&n));
            let names = |n: &NodeId| {
                let text = s.str(*n).trim_matches(['"', '\'', '`']);
                text.split('.').any(|p| p == old) && text.split('.').all(|p| s.lang.is_identifier(p))
            };
            let t = &s.tree;
            let texts = t.ids().filter(|n| matches!(t.role(*n), Role::Literal | Role::TemplateText) && names(n));
            for n in texts.filter(|n| !changed(*n) && t.ancestor(*n, &[Role::Import, Role::ImportFrom]).is_none()) {
                let message = format!("nothing is looked up by the text `{old}`, which stays");
                out.push(reason(&s, n, "named-by-string", message));
            }
        }
        out.truncate(MOST_STRINGS);
        out
    }

    /// The new word; a key that was named by the old one stays.
    fn text(&self, s: &Source, n: NodeId, old: &str, new: &str) -> String {
        let t = &s.tree;
        match one_word_pair(t, n) {
            Some(_) if t.role(n) == Role::Name => format!("{old}: {new}"),
            _ if t.role(n) == Role::Literal => s.str(n).replace(old, new),
            _ if self.is_passed_on(s, n) => format!("{new} as {old}"),
            _ => new.to_string(),
        }
    }

    /// `export { name } from "./m"`: others import it from here under the old name.
    fn is_passed_on(&self, s: &Source, n: NodeId) -> bool {
        let t = &s.tree;
        let alias = t.parent(n).filter(|p| t.role(*p) == Role::ImportAlias && t.child(*p, Field::Alias).is_none());
        let statement = alias.and_then(|a| t.ancestor(a, &[Role::ImportFrom]));
        statement.is_some_and(|i| s.lang.passes_names_on(s.str(i)))
    }

    fn binding(&self, s: &Arc<Source>, b: BindingId, old: &str, new: &str) -> Found<(Vec<Uses>, Vec<Reason>)> {
        let binding = s.names.binding(b);
        let given = Some(old) == s.lang.object_word() || s.lang.is_frame_name(old);
        if given || binding.import.is_some() && !self.is_aliased(s, b) {
            let message = format!("`{old}` gets its name elsewhere");
            return Err(vec![reason(s, binding.first, "foreign-name", message)]);
        }
        let mut own = Uses { source: s.clone(), nodes: self.references(s, b) };
        if binding.scope != Names::MODULE {
            self.keyword_uses(s, b, old)?;
            return Ok((vec![own], Vec::new()));
        }
        own.nodes.extend(self.listed(s, old));
        let file = self.project.index(&s.path).expect("a planned file was scanned");
        let mut all = Vec::new();
        if s.lang.exports_by_name(s, b) {
            all = self.other_files(s, file, old, new)?;
        }
        all.insert(0, own);
        Ok((all, Vec::new()))
    }

    fn is_aliased(&self, s: &Source, b: BindingId) -> bool {
        let first = s.names.binding(b).first;
        s.tree.field(first) == Field::Alias
    }

    fn references(&self, s: &Source, b: BindingId) -> Vec<NodeId> {
        let mut nodes: Vec<NodeId> = s.names.references_to(b).map(|r| r.node).collect();
        let first = s.names.binding(b).first;
        if s.tree.is_leaf(first) && s.tree.role(first) == Role::Name {
            nodes.push(first);
        }
        nodes.extend(super::region::bare_declarations(s, b));
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

    /// A parameter that callers name can't change without them.
    fn keyword_uses(&self, s: &Source, b: BindingId, old: &str) -> Found<()> {
        let binding = s.names.binding(b);
        let function = s.names.scope(binding.scope).node;
        if binding.kind != BindKind::Parameter {
            return Ok(());
        }
        for f in (0..self.project.facts.len()).filter(|f| self.project.facts[*f].has_word(old)) {
            let Ok(other) = self.project.source(f) else { continue };
            let t = &other.tree;
            if let Some(n) = t.ids().find(|n| t.role(*n) == Role::KeywordName && other.str(*n) == old) {
                let name = s.tree.name_of_callable(function).map_or("", |n| s.str(n));
                let message = format!("a call gives a value to `{old}` by name; that may be a call of `{name}`");
                return Err(vec![reason(&other, n, "named-argument", message)]);
            }
        }
        Ok(())
    }

    /// Imports of a module's name, their uses, and uses through the module.
    fn other_files(&self, s: &Source, home: usize, old: &str, new: &str) -> Found<Vec<Uses>> {
        let mut out = Vec::new();
        let named = Entity::Member(home, old.to_string());
        for f in (0..self.project.facts.len())
            .filter(|f| *f != home && self.project.facts[*f].language == self.project.facts[home].language)
        {
            let facts = &self.project.facts[f];
            let loads = self.project.imports(f, home);
            if !facts.has_word(old) && !loads {
                continue;
            }
            let Ok(other) = self.project.source(f) else { continue };
            if other.names.wildcard && loads {
                let message = format!("this file imports all names of {}", s.path);
                return Err(vec![reason(&other, Tree::ROOT, "imports-all", message)]);
            }
            let mut nodes = Vec::new();
            let own = other.names.in_module(old).or_else(|| self.alias_of(&other, &named));
            let same = |b: &BindingId| self.project.entity(&other, &other.names.binding(*b).name) == named;
            if let Some(b) = own.filter(same) {
                nodes.extend(self.import_words(&other, b, old));
                if other.names.binding(b).name == old {
                    nodes.extend(self.references(&other, b));
                    nodes.extend(self.listed(&other, old));
                }
            }
            nodes.extend(self.through_module(&other, home, old));
            nodes.extend(self.passed_on(&other, f, home, old));
            nodes.sort();
            nodes.dedup();
            if !nodes.is_empty() {
                if other.names.in_module(new).is_some() {
                    let message = format!("`{new}` is already a name here");
                    return Err(vec![reason(&other, nodes[0], "name-taken", message)]);
                }
                out.push(Uses { source: other, nodes });
            }
        }
        Ok(out)
    }

    fn alias_of(&self, s: &Source, named: &Entity) -> Option<BindingId> {
        s.names.bindings_of(Names::MODULE).find(|b| self.project.entity(s, &s.names.binding(*b).name) == *named)
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

    /// `module.name`
    fn through_module(&self, s: &Source, home: usize, old: &str) -> Vec<NodeId> {
        let t = &s.tree;
        let uses = t.ids().filter(|n| t.role(*n) == Role::MemberName && s.str(*n) == old);
        let of_module = |n: &NodeId| {
            let object = t.parent(*n).and_then(|m| t.child(m, Field::Object));
            object.is_some_and(|o| self.is_module(s, o, home))
        };
        uses.filter(of_module).collect()
    }

    fn is_module(&self, s: &Source, object: NodeId, home: usize) -> bool {
        let own = s.names.at(object).and_then(|r| r.target);
        if let Some(b) = own.filter(|b| s.names.binding(*b).scope == Names::MODULE) {
            return self.project.entity(s, &s.names.binding(b).name) == Entity::Module(home);
        }
        // a path of packages
        let path = s.str(object);
        let root = path.split('.').next().unwrap_or("");
        let import = ImportRef { level: 0, module: path.to_string(), member: None, wildcard: false };
        path.contains('.')
            && s.names.in_module(root).is_some_and(|b| s.names.binding(b).import.is_some())
            && self.project.resolved(s, &import).contains(&home)
    }

    /// Words of `export { name } from "./m"`.
    fn passed_on(&self, s: &Source, _file: usize, home: usize, old: &str) -> Vec<NodeId> {
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

    fn member(&self, s: &Arc<Source>, node: NodeId, old: &str, new: &str) -> Found<(Vec<Uses>, Vec<Reason>)> {
        let class = self.class_of(s, node);
        let refuse = |s: &Source, n: NodeId, code: &str, message: String| Err(vec![reason(s, n, code, message)]);
        let Some(class) = class else {
            return refuse(s, node, "unknown-member", format!("which class has `{old}` can't be told here"));
        };
        if s.lang.is_special_member(old) {
            return refuse(s, node, "foreign-name", format!("the language gives `{old}` its meaning"));
        }
        let (mut out, mut assumed) = (Vec::new(), Vec::new());
        for f in 0..self.project.facts.len() {
            if self.project.facts[f].has_word(new) {
                let Ok(other) = self.project.source(f) else { continue };
                let t = &other.tree;
                if let Some(n) = t.ids().find(|n| self.is_member_word(&other, *n, new)) {
                    return refuse(&other, n, "name-taken", format!("`{new}` is already a member"));
                }
            }
            if !self.project.facts[f].has_word(old) {
                continue;
            }
            let Ok(other) = self.project.source(f) else { continue };
            let nodes: Vec<NodeId> = other.tree.ids().filter(|n| self.is_member_word(&other, *n, old)).collect();
            for n in &nodes {
                let own = self.class_of(&other, *n);
                if own.is_some_and(|c| other.path != s.path || c != class) {
                    return refuse(&other, *n, "other-member", format!("another class has `{old}` too"));
                }
                if own.is_none() && assumed.len() < 5 {
                    let message = format!("the object here is one of the class, or `{old}` of others is renamed too");
                    assumed.push(reason(&other, *n, "member-by-name", message));
                }
            }
            if !nodes.is_empty() {
                out.push(Uses { source: other, nodes });
            }
        }
        Ok((out, assumed))
    }

    fn is_member_word(&self, s: &Source, n: NodeId, word: &str) -> bool {
        let t = &s.tree;
        let member = match t.role(n) {
            Role::MemberName => true,
            Role::Name => {
                let b = s.names.at(n).and_then(|r| r.target);
                b.is_some_and(|b| s.names.scope(s.names.binding(b).scope).kind == crate::names::ScopeKind::Class)
            }
            _ => false,
        };
        member && s.str(n) == word
    }

    /// The class whose member a word surely names: in its body, or on the object of one of its methods.
    fn class_of(&self, s: &Source, n: NodeId) -> Option<NodeId> {
        let t = &s.tree;
        let parent = t.parent(n)?;
        if t.role(parent) == Role::Member {
            let object = t.child(parent, Field::Object)?;
            let b = s.names.at(object)?.target?;
            let function = s.names.scope(s.names.binding(b).scope).node;
            let receiver = super::region::receiver_of(s, function)?;
            return (receiver.1 == b).then_some(receiver.0);
        }
        let scope = s.names.at(n).and_then(|r| r.target).map(|b| s.names.binding(b).scope);
        match scope.map(|x| s.names.scope(x)) {
            Some(x) if x.kind == crate::names::ScopeKind::Class => Some(x.node),
            _ if t.role(parent) == Role::ClassField => t.ancestor(parent, &[Role::Class]),
            _ => None,
        }
    }

    /// The new name must not stand where it would catch, or be caught by, another.
    fn taken(&self, u: &Uses, target: Target, new: &str) -> Found<()> {
        let Target::Binding(_) = target else { return Ok(()) };
        let (s, t) = (&u.source, &u.source.tree);
        let frames: FxHashSet<NodeId> = u
            .nodes
            .iter()
            .filter_map(|n| s.names.at(*n)?.target)
            .map(|b| s.names.scope(s.names.frame_of(b)).node)
            .collect();
        let inside = |n: NodeId| frames.iter().any(|f| t.contains(*f, n));
        let clash =
            t.ids().find(|n| t.role(*n) == Role::Name && s.str(*n) == new && inside(*n) && s.names.at(*n).is_some());
        let hidden = s.lang.is_keyword(new) || s.lang.is_builtin(new) && clash.is_some();
        match clash {
            Some(n) => Err(vec![reason(s, n, "name-taken", format!("`{new}` is already in use here"))]),
            None if hidden => Err(vec![reason(s, u.nodes[0], "name-taken", format!("`{new}` has a meaning already"))]),
            None => Ok(()),
        }
    }

    /// Strings and comments with the word, which stay.
    fn mentions(&self, uses: &[Uses], old: &str) -> Vec<String> {
        let mut out = Vec::new();
        for u in uses {
            let s = &u.source;
            let whole =
                |text: &str| text.split(|c: char| !c.is_alphanumeric() && c != '_' && c != '$').any(|w| w == old);
            let changed = |n: &NodeId| u.nodes.contains(n);
            let strings = s
                .tree
                .ids()
                .filter(|n| matches!(s.tree.role(*n), Role::Literal | Role::TemplateText | Role::Doc) && !changed(n));
            let strings = strings.map(|n| s.tree.span(n)).chain(s.tree.comments().iter().copied());
            for span in strings.filter(|p| whole(&s.text[p.start..p.end])) {
                out.push(format!("`{old}` stays in a text or comment at {}:{}", s.path, s.lines.line(span.start)));
            }
        }
        out.truncate(20);
        out
    }
}
