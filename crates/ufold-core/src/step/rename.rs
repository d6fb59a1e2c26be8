//! `rename`: a variable, parameter, function, class or member, with every reference in the project.
//!
//! Variables are followed by binding, names of modules through imports, members by their word: what an object is can't
//! be told in general, so a member that another class has too is refused, and one used on objects of unknown kind is an
//! assumption. Strings and comments are listed, never changed.

use std::sync::Arc;

use rustc_hash::FxHashSet;

use super::inherited::{self, Inherited};
use super::project::{Entity, Project};
use super::region::reason;
use super::seen::Seen;
use super::target::{Target, one_word_pair, target};
use super::users::{is_listed, named_by_text};
use super::{Edits, Outcome, PLAN_SCHEMA, Plan, Reason, Request, Verdict, unseen};
use crate::lang::Language;
use crate::names::{BindingId, ImportRef, Names, Source, Space};
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

struct Rename<'a> {
    project: &'a Project<'a>,
    request: &'a Request,
}

pub(super) type Found<T> = Result<T, Vec<Reason>>;

/// The nodes of one file that change.
pub(crate) struct Uses {
    pub(crate) source: Arc<Source>,
    pub(crate) nodes: Vec<NodeId>,
}

fn add_uses(all: &mut Vec<Uses>, more: Vec<Uses>) {
    for u in more {
        match all.iter_mut().find(|o| o.source.path == u.source.path) {
            Some(o) => {
                o.nodes.extend(u.nodes);
                o.nodes.sort();
                o.nodes.dedup();
            }
            None => all.push(u),
        }
    }
}

/// The node is among those that change.
pub(super) fn is_told(uses: &[Uses], s: &Source, n: NodeId) -> bool {
    uses.iter().any(|u| u.source.path == s.path && u.nodes.contains(&n))
}

/// A text with the old name in it: the last word of a path, or every one of a type.
fn renamed_text(s: &Source, n: NodeId, old: &str, new: &str) -> String {
    let text = s.str(n);
    let mut places: Vec<usize> = unseen::whole_words(text, old).collect();
    if s.tree.ancestor(n, &[Role::Type]).is_none() {
        places.drain(..places.len().saturating_sub(1));
    }
    let mut out = text.to_string();
    places.into_iter().rev().for_each(|i| out.replace_range(i..i + old.len(), new));
    out
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
        // all at once, on all processors
        unseen::anywhere(self.project, &old).for_each(drop);
        let mut moves = None;
        let (uses, mut assumed) = match target {
            _ if self.is_class(&source, target) => {
                let name = self.word(&source, target);
                let found = super::typed_classes::find(self.project, &source, name, &old, &new)?;
                moves = found.moves;
                (found.uses, found.assumed)
            }
            Target::Binding(b) => self.binding(&source, b, &old, &new)?,
            Target::Member(n) if source.names.members_in_sight => {
                super::typed_members::find(self.project, &source, n, &old, &new)?
            }
            Target::Member(n) => super::member_uses::find(self.project, &source, n, &old, &new)?,
        };
        if let Some(r) = unseen::unparsed(self.project, &old) {
            return Err(vec![r]);
        }
        // a class is seen by its name wherever it is defined
        let of_class = |n: NodeId| source.names.at(n).and_then(|r| r.target).filter(|_| self.is_class(&source, target));
        let seen = match target {
            Target::Member(n) => of_class(n).map_or(target, Target::Binding),
            Target::Binding(_) => target,
        };
        assumed.extend(Seen { project: self.project, home: &source, uses: &uses, old: &old }.by(seen)?);
        let mut edits = Edits::default();
        for u in &uses {
            self.taken(u, target, &new)?;
            assumed.extend(self.inherited(u, &new)?);
            for n in &u.nodes {
                let span = u.source.tree.span(*n);
                edits.add(&u.source, Edit::new(span.start, span.end, self.text(&u.source, *n, &old, &new)));
            }
        }
        let (mut files, saves) = edits.finish();
        if let Some((from, to)) = moves {
            files.iter_mut().filter(|f| f.file == from).for_each(|f| f.moves_to = Some(to.clone()));
        }
        let remarks = self.mentions(&uses, &old);
        let verdict = if assumed.is_empty() { Verdict::Ready } else { Verdict::Assumed };
        Ok(Outcome { verdict, reasons: assumed, remarks, files, saves, ..Outcome::refused(Vec::new()) })
    }

    /// A class, in languages whose types tell which one a word means.
    fn is_class(&self, s: &Source, target: Target) -> bool {
        let b = match target {
            Target::Binding(b) => Some(b),
            Target::Member(n) => s.names.at(n).and_then(|r| r.target),
        };
        let declares = |b: BindingId| {
            let binding = s.names.binding(b);
            let parameter = s.tree.parent(binding.first).is_some_and(|p| s.tree.role(p) != Role::Class);
            binding.space == Space::Types && (binding.import.is_some() || !parameter)
        };
        s.names.members_in_sight && b.is_some_and(declares)
    }

    fn word(&self, s: &Source, target: Target) -> NodeId {
        match target {
            Target::Member(n) => n,
            Target::Binding(b) => {
                let place = &self.request.copies[0];
                let uses = s.names.references_to(b).map(|r| r.node);
                uses.into_iter().find(|n| s.tree.span(*n).start == place.start_byte).unwrap_or(s.names.binding(b).first)
            }
        }
    }

    /// The new word; a key that was named by the old one stays.
    fn text(&self, s: &Source, n: NodeId, old: &str, new: &str) -> String {
        let t = &s.tree;
        match one_word_pair(t, n) {
            Some(_) if t.role(n) == Role::Name => format!("{old}: {new}"),
            Some(_) => format!("{new}: {old}"),
            _ if t.role(n) == Role::Literal => renamed_text(s, n, old, new),
            _ if self.is_passed_on(s, n) => format!("{new} as {old}"),
            _ => new.to_string(),
        }
    }

    /// The word of an import whose name the file exports again, or of `export { name } from "./m"`: others know it
    /// under the old one.
    fn is_passed_on(&self, s: &Source, n: NodeId) -> bool {
        let t = &s.tree;
        let alias = t.parent(n).filter(|p| t.role(*p) == Role::ImportAlias && t.child(*p, Field::Alias).is_none());
        let statement = alias.and_then(|a| t.ancestor(a, &[Role::ImportFrom, Role::Import]));
        let again = || s.names.at(n).and_then(|r| r.target).is_some_and(|b| s.lang.exports_again(s, b));
        statement.is_some_and(|i| t.role(i) == Role::ImportFrom && s.lang.passes_names_on(s.str(i)) || again())
    }

    fn binding(&self, s: &Arc<Source>, b: BindingId, old: &str, new: &str) -> Found<(Vec<Uses>, Vec<Reason>)> {
        let binding = s.names.binding(b);
        let given = Some(old) == s.lang.object_word() || s.lang.is_frame_name(old);
        if given || binding.import.is_some() && !self.is_aliased(s, b) {
            let message = format!("`{old}` gets its name elsewhere");
            return Err(vec![reason(s, binding.first, "foreign-name", message)]);
        }
        if s.lang.is_member_too(s, b) {
            let message = format!("`{old}` is a member of its class too, which can't be renamed by its parameter");
            return Err(vec![reason(s, binding.first, "foreign-name", message)]);
        }
        let mut own = Uses { source: s.clone(), nodes: self.references(s, b) };
        if binding.scope != Names::MODULE {
            let (named, assumed) = super::named_arguments::find(self.project, s, b, old)?;
            let mut all = vec![own];
            add_uses(&mut all, named);
            return Ok((all, assumed));
        }
        own.nodes.extend(self.listed(s, old));
        let file = self.project.index(&s.path).expect("a planned file was scanned");
        let mut all = vec![own];
        if unseen::is_collected(&s.path, old) && !unseen::is_collected(&s.path, new) {
            return Err(vec![reason(s, binding.first, "demanded", format!("a test runner finds `{old}` by its name"))]);
        }
        if s.lang.exports_by_name(s, b) {
            add_uses(&mut all, self.other_files(s, file, old, new)?);
            add_uses(&mut all, self.full_paths(file, old, s.lang));
        }
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
                let text = unseen::unquoted(&source, *n);
                let of_type = own && t.ancestor(*n, &[Role::Type]).is_some() && unseen::has_whole_word(text, old);
                t.role(*n) == Role::Literal && (of_type || path.as_deref() == Some(text))
            };
            let nodes = t.ids().filter(sure).collect();
            Uses { source, nodes }
        });
        uses.filter(|u| !u.nodes.is_empty()).collect()
    }

    /// Imports of a module's name, their uses, and uses through the module.
    fn other_files(&self, s: &Source, home: usize, old: &str, new: &str) -> Found<Vec<Uses>> {
        let mut out = Vec::new();
        let named = Entity::Member(home, old.to_string());
        for f in (0..self.project.facts.len()).filter(|f| *f != home) {
            let loads = self.project.imports(f, home);
            let says = self.project.text(f).is_some_and(|t| unseen::has_whole_word(&t, old));
            if !says && !loads {
                continue;
            }
            let Ok(other) = self.project.source(f) else { continue };
            if other.names.wildcard && loads {
                let message = format!("this file imports all names of {}", s.path);
                return Err(vec![reason(&other, Tree::ROOT, "imports-all", message)]);
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
            nodes.extend(self.through_module(&other, &named, old));
            nodes.extend(self.passed_on(&other, home, old));
            nodes.sort();
            nodes.dedup();
            if let Some(n) = self.unclear_import(&other, home, old, &nodes) {
                return Err(vec![reason(
                    &other,
                    n,
                    "unclear-use",
                    format!("what `{old}` is imported from is not clear"),
                )]);
            }
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
        let own = s.names.at(object).and_then(|r| r.target);
        if let Some(b) = own.filter(|b| s.names.binding(*b).scope == Names::MODULE) {
            return match self.project.origin(&self.project.entity(s, &s.names.binding(b).name)) {
                Entity::Module(m) => vec![m],
                _ => Vec::new(),
            };
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

    /// The new name of a local, in a class inside its function that has or inherits a member of that name.
    fn inherited(&self, u: &Uses, new: &str) -> Found<Option<Reason>> {
        let s = &u.source;
        let mut assumed = None;
        for n in &u.nodes {
            let b = s.names.at(*n).and_then(|r| r.target).filter(|b| !s.names.is_member(*b));
            let Some(b) = b.filter(|b| s.names.binding(*b).scope != Names::MODULE) else { continue };
            let function = s.names.scope(s.names.binding(b).scope).node;
            match inherited::of_local(self.project, s, *n, new, function) {
                Inherited::No => {}
                Inherited::Perhaps => {
                    let message = format!("nothing that the class here extends has a member `{new}`");
                    assumed = assumed.or(Some(reason(s, *n, "inherited-name", message)));
                }
                Inherited::Surely => {
                    return Err(vec![reason(s, *n, "name-taken", format!("`{new}` is a member of the class here"))]);
                }
            }
        }
        Ok(assumed)
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
            let changed = |n: &NodeId| u.nodes.contains(n);
            let strings = s
                .tree
                .ids()
                .filter(|n| matches!(s.tree.role(*n), Role::Literal | Role::TemplateText | Role::Doc) && !changed(n));
            let strings = strings.map(|n| s.tree.span(n)).chain(s.tree.comments().iter().copied());
            for span in strings.filter(|p| unseen::has_whole_word(&s.text[p.start..p.end], old)) {
                out.push(format!("`{old}` stays in a text or comment at {}:{}", s.path, s.lines.line(span.start)));
            }
        }
        out.truncate(20);
        out
    }
}
