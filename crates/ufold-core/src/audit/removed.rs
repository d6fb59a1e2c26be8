//! What was removed had no effect: the rest is the same code with the same meaning, and of each statement that is gone it is
//! shown that nothing reached it, or that nothing reads what it gave a name to and computing it did nothing.

use rustc_hash::FxHashSet;

use super::file::File;
use super::order::Order;
use super::outside::{ScopeMap, same_meaning};
use super::{Opinion, object};
use crate::index::Project;
use crate::index::seen::shows_names;
use crate::index::writes::is_sure_write;
use crate::names::{BindKind, Names, Source};
use crate::text::Span;
use crate::tree::{Field, NodeId, Role, Tree};

pub(super) fn run(project: &Project, files: &[File], debug: bool) -> Opinion<()> {
    for f in files {
        if f.edits().iter().any(|(_, new)| new.start < new.end) {
            return object(&f.old, Tree::ROOT, "a text is written where something is only removed");
        }
        let mut w = Rest { f, gone: Vec::new(), scopes: ScopeMap::default(), leaves: Vec::new() };
        w.pair(Tree::ROOT, Tree::ROOT)?;
        for (a, b) in &w.leaves {
            if !same_meaning(&f.old, &f.new, &w.scopes, *a, *b) {
                return object(&f.old, *a, format!("`{}` would mean something else", f.old.str(*a)));
            }
        }
        let check = Gone { project, s: &f.old, all: &w.gone, debug };
        w.gone.iter().try_for_each(|n| check.may_go(*n))?;
        no_directive(&f.old, &f.edits().iter().map(|(e, _)| *e).collect::<Vec<_>>(), &w.gone)?;
    }
    Ok(())
}

/// Comments that programs read stay, unless what they stand in goes.
fn no_directive(s: &Source, edits: &[Span], gone: &[NodeId]) -> Opinion<()> {
    for c in s.tree.comments().iter().filter(|c| edits.iter().any(|e| e.overlaps(**c))) {
        let text = s.lang.comment_text(&s.text[c.start..c.end]);
        let read = s.lang.directives().iter().any(|d| d.len() > 1 && text.starts_with(d));
        let first = c.start == 0 && s.text[..c.end].starts_with("#!");
        if (read || first) && !gone.iter().any(|n| s.tree.span(*n).contains(*c)) {
            return object(s, s.tree.covering(*c), "a comment that programs read is gone");
        }
    }
    Ok(())
}

/// Lays what is left over what was there.
struct Rest<'a> {
    f: &'a File,
    gone: Vec<NodeId>,
    scopes: ScopeMap,
    leaves: Vec<(NodeId, NodeId)>,
}

impl Rest<'_> {
    fn pair(&mut self, a: NodeId, b: NodeId) -> Opinion<()> {
        let f = self.f;
        let (o, s, t, n) = (&f.old, &f.new, &f.old.tree, &f.new.tree);
        if t.role(a) != n.role(b) || t.field(a) != n.field(b) {
            return object(o, a, "code changed");
        }
        if o.names.scope_of(a).is_some() {
            self.scopes.insert(a, b);
        }
        if t.is_leaf(a) && n.is_leaf(b) {
            self.leaves.push((a, b));
            return if t.exact(a) == n.exact(b) { Ok(()) } else { object(o, a, "a word changed") };
        }
        let removed = |c: NodeId| f.edits().iter().any(|(e, _)| e.contains(t.span(c)) && e.start < e.end);
        let mut right = n.children(b);
        for c in t.children(a) {
            if removed(c) {
                self.gone.push(c);
                continue;
            }
            let Some(d) = right.next() else { return object(o, c, "code is missing") };
            self.pair(c, d)?;
        }
        match right.next() {
            Some(d) => object(s, d, "code was added"),
            None => Ok(()),
        }
    }
}

pub(super) struct Gone<'a> {
    pub(super) project: &'a Project<'a>,
    pub(super) s: &'a Source,
    pub(super) all: &'a [NodeId],
    debug: bool,
}

impl Gone<'_> {
    fn may_go(&self, n: NodeId) -> Opinion<()> {
        let (s, t) = (self.s, &self.s.tree);
        if self.is_unreached(n) {
            return self.binds_nothing(n);
        }
        let frame = t.callable_around(n).unwrap_or(Tree::ROOT);
        if let Some(x) = shows_names(self.project, s, frame, frame == Tree::ROOT).filter(|x| !self.is_removed(*x)) {
            return object(s, x, "names are looked at here");
        }
        let statement = t.parent(n).is_some_and(|p| t.role(p).is_sequence());
        match (t.role(n), self.list_of(n)) {
            (_, Some(list)) if t.role(list) == Role::Parameters => return self.parameter(n, list),
            (_, Some(list)) if !t.ancestors(n).any(|a| self.is_import(a)) => return self.argument(n, list),
            _ => {}
        }
        match t.role(n) {
            Role::Import | Role::ImportFrom => self.import(n),
            Role::Function if statement => self.function(n),
            _ if statement && self.is_import(n) => self.import(n),
            Role::ExprStmt | Role::Declare | Role::Pass if statement => {
                if self.debug && self.is_left_behind(n) {
                    return Ok(());
                }
                self.values(n)
            }
            // one name of an import
            _ if !statement && t.parent(n).is_some_and(|p| self.is_import(p)) => self.import(n),
            _ if t.ancestors(n).any(|a| self.is_import(a)) => self.import(n),
            _ => object(s, n, "this may have an effect"),
        }
    }

    /// The statements before it in its block never come to their end.
    fn is_unreached(&self, n: NodeId) -> bool {
        let t = &self.s.tree;
        let Some(block) = t.parent(n).filter(|b| t.role(*b) == Role::Block) else { return false };
        let order = Order { source: self.s, variable: None };
        let jumps = |c: NodeId| matches!(t.role(c), Role::Break | Role::Continue);
        t.children(block).take_while(|c| *c < n).any(|c| jumps(c) || order.node(c).settles)
    }

    pub(super) fn is_removed(&self, n: NodeId) -> bool {
        self.all.iter().any(|g| self.s.tree.contains(*g, n))
    }

    /// Nothing that stays has a name from it, and its function is what it was.
    fn binds_nothing(&self, n: NodeId) -> Opinion<()> {
        let (s, t) = (self.s, &self.s.tree);
        let own = t.callable_around(n);
        let says = |x: NodeId| {
            matches!(t.role(x), Role::Yield | Role::Global | Role::Nonlocal | Role::Labeled | Role::JumpTarget)
        };
        if let Some(x) = t.subtree(n).find(|x| says(*x) && t.callable_around(*x) == own) {
            return object(s, x, "it says what the function is");
        }
        for r in s.names.in_range(n, t.end(n)) {
            let Some(b) = r.target else { continue };
            let outer = !t.contains(n, s.names.scope(s.names.binding(b).scope).node);
            let bound = !r.usage.reads() || r.usage.writes();
            if outer && bound && s.names.references_to(b).any(|o| !self.is_removed(o.node)) {
                return object(s, r.node, format!("`{}` is bound here and used elsewhere", s.str(r.node)));
            }
        }
        Ok(())
    }

    fn is_import(&self, n: NodeId) -> bool {
        let t = &self.s.tree;
        let at_top = t.parent(n) == Some(Tree::ROOT);
        let binds = matches!(t.role(n), Role::Import | Role::ImportFrom | Role::Declare);
        at_top && binds && !self.s.lang.imports_of(t, n, &self.s.text).is_empty()
    }

    /// Whether a word stands in a text of the file that stays, outside of what goes.
    fn is_said(&self, word: &str, within: Span) -> bool {
        let (s, t) = (self.s, &self.s.tree);
        crate::index::whole_words(&s.text, word).any(|at| {
            within.start <= at
                && at < within.end
                && !self.all.iter().any(|g| {
                    let span = t.span(*g);
                    span.start <= at && at < span.end
                })
        })
    }

    fn whole(&self) -> Span {
        Span::new(0, self.s.text.len())
    }

    fn import(&self, n: NodeId) -> Opinion<()> {
        let (s, t, project) = (self.s, &self.s.tree, self.project);
        let Some(file) = project.index(&s.path) else { return object(s, n, "not a file of the project") };
        if s.module.as_ref().is_some_and(|m| m.is_package) && s.lang.modules_are_values() {
            return object(s, n, "the file of a package is what others see of it");
        }
        if !s.names.in_range(n, t.end(n)).iter().any(|r| r.usage.writes()) {
            return object(s, n, "this binds no name");
        }
        for r in s.names.in_range(n, t.end(n)).iter().filter(|r| r.usage.writes()) {
            let word = s.str(r.node);
            let Some(b) = r.target.map(|b| s.names.binding(b)) else { continue };
            let Some(import) = b.import.as_ref().filter(|i| !i.wildcard) else {
                return object(s, n, "this is no import of a name");
            };
            let elsewhere = |f: usize| {
                s.lang.imports_load() && f != file && project.imports(f, file) && project.facts[f].has_word(word)
            };
            if self.is_said(word, self.whole()) || (0..project.facts.len()).any(elsewhere) {
                return object(s, n, format!("`{word}` is used"));
            }
            if !s.lang.imports_load() {
                continue;
            }
            let statement = t.ancestors(n).chain([n]).find(|a| t.parent(*a) == Some(Tree::ROOT)).unwrap_or(n);
            let part = !self.is_removed(statement) && word_is_no_module(import.member.as_deref());
            let files = project.resolved(s, import);
            let m = project.modules();
            let standard = |module: &str| s.lang.is_standard_module(module);
            let idle = |f: usize| project.facts[f].plain && m.needs(f).iter().all(|x| standard(x));
            let quiet = match files.is_empty() {
                true => import.level == 0 && standard(&import.module) && import.module != "__future__",
                false => files.iter().all(|f| idle(*f) && m.loaded_by(*f).iter().all(|g| idle(*g))),
            };
            if !part && !quiet {
                return object(s, n, format!("what the import of `{word}` loads may do something"));
            }
        }
        Ok(())
    }

    fn function(&self, n: NodeId) -> Opinion<()> {
        let (s, t) = (self.s, &self.s.tree);
        let Some(name) = t.child(n, Field::Name) else { return object(s, n, "a function without a name") };
        let word = s.str(name);
        let around = t.callable_around(n);
        if self.is_said(word, around.map_or(self.whole(), |a| t.span(a))) {
            return object(s, n, format!("`{word}` stands elsewhere"));
        }
        self.is_private_function(n)
    }

    /// Only its own file, or the function around it, can use it.
    pub(super) fn is_private_function(&self, n: NodeId) -> Opinion<()> {
        let (s, t, project) = (self.s, &self.s.tree, self.project);
        let Some(name) = t.child(n, Field::Name) else { return object(s, n, "a function without a name") };
        let (word, around) = (s.str(name), t.callable_around(n));
        if s.has_a_meaning(word) || s.lang.is_constructor(word) {
            return object(s, n, format!("`{word}` has a meaning"));
        }
        let class = t.ancestor(n, &[Role::Class, Role::Function, Role::Lambda]).filter(|c| t.role(*c) == Role::Class);
        if around.is_some() && class.is_none() {
            return Ok(());
        }
        let target = s.names.at(name).and_then(|r| r.target);
        let hidden = match class {
            Some(_) => s.lang.hides_member(s, n),
            None => s.lang.is_private(word) || target.is_some_and(|b| s.lang.hides(s, b)),
        };
        let by_name = class.is_some_and(|c| s.lang.is_private(word) && !crate::index::bases::of(s, c).is_empty());
        if by_name {
            return object(s, n, format!("a base of the class may call `{word}`"));
        }
        let file: Vec<usize> = project.index(&s.path).into_iter().collect();
        if !hidden || project.word_elsewhere(word, &file) {
            return object(s, n, format!("`{word}` may be used from elsewhere"));
        }
        Ok(())
    }

    /// The variables that it gives values to are read nowhere, and the values come about without effect.
    fn values(&self, n: NodeId) -> Opinion<()> {
        let (s, t) = (self.s, &self.s.tree);
        let mut written = FxHashSet::default();
        for x in t.subtree(n) {
            let fits = match t.role(x) {
                Role::ExprStmt
                | Role::Declare
                | Role::Assign
                | Role::Literal
                | Role::Token
                | Role::Tuple
                | Role::Values
                | Role::Paren => true,
                Role::List | Role::Dict | Role::Pair | Role::TemplateText | Role::UnaryOp | Role::Type => true,
                Role::Name => match s.names.at(x) {
                    Some(r) if r.usage.writes() && !r.usage.reads() => {
                        is_sure_write(s, x) && r.target.is_some_and(|b| written.insert(b))
                    }
                    Some(r) => r.is_type() || r.target.is_some_and(|b| s.names.binding(b).kind == BindKind::Parameter),
                    None => true,
                },
                _ => t.ancestors(x).take_while(|a| *a >= n).any(|a| t.role(a) == Role::Type),
            };
            if !fits {
                return object(s, x, "this may have an effect");
            }
        }
        for b in &written {
            let binding = s.names.binding(*b);
            let local = s.names.frame_of(*b) != Names::MODULE && !s.names.is_member(*b) && !binding.rebound_inside;
            let used = s.names.references_to(*b).any(|r| r.usage.reads() || !r.usage.writes());
            let said = |r: &crate::names::Reference| t.ancestors(r.node).any(|a| t.role(a) == Role::Declare);
            if s.lang.declares_locals() && !s.names.references_to(*b).any(said) {
                return object(s, n, format!("`{}` is no variable of this function", binding.name));
            }
            if !local || used {
                return object(s, n, format!("`{}` is used", binding.name));
            }
        }
        if written.is_empty() { object(s, n, "this gives no variable a value") } else { Ok(()) }
    }

    /// Prints or stops, and does nothing else.
    fn is_left_behind(&self, n: NodeId) -> bool {
        let (s, t) = (self.s, &self.s.tree);
        let known = |word: &str| {
            let last = word.rsplit('.').next().unwrap_or(word);
            let told = |f: &&&str| **f == word || f.strip_prefix("*.") == Some(last);
            s.lang.fault_finders().iter().find(told).is_some() || s.lang.printers().contains(&word)
        };
        if t.role(n) == Role::Pass {
            return known(s.str(n).trim_end_matches(';'));
        }
        let calls: Vec<NodeId> = t.subtree(n).filter(|x| t.role(*x) == Role::Call).collect();
        let writes = s.names.in_range(n, t.end(n)).iter().any(|r| r.usage.writes());
        let [call] = calls[..] else { return false };
        let runs =
            t.subtree(n).any(|x| matches!(t.role(x), Role::Await | Role::Yield | Role::Fresh | Role::Comprehension));
        !writes && !runs && t.child(call, Field::Callee).is_some_and(|c| known(s.str(c)))
    }
}

/// A name that modules do not have.
fn word_is_no_module(member: Option<&str>) -> bool {
    member.is_some_and(|m| m.chars().next().is_some_and(char::is_uppercase))
}
