//! What goes: the definitions that were named, and those that nothing else uses.

use crate::change::{Code, Found, Place, reason};
use crate::index::target::{Target, target};
use crate::index::{Project, unseen};
use crate::names::{BindKind, BindingId, Names, Reference, Source};
use crate::plan::lines::{comments_above, line_end, line_start, whole_lines};
use crate::text::Span;
use crate::tree::{Field, NodeId, Role, Tree};

/// A statement of the file's level with the names that it defines.
#[derive(Clone)]
pub(in crate::step) struct Definition {
    pub statement: NodeId,
    pub names: Vec<(BindingId, String)>,
    /// From the comments over it to the end of its last line.
    pub span: Span,
    /// It goes since only the others use it.
    pub along: bool,
}

/// All that goes, in the order of the file.
pub(in crate::step) struct Moved {
    pub all: Vec<Definition>,
}

impl Moved {
    pub fn has(&self, b: BindingId) -> bool {
        self.all.iter().any(|d| d.names.iter().any(|(x, _)| *x == b))
    }

    /// A node of the moved code.
    pub fn holds(&self, s: &Source, n: NodeId) -> bool {
        self.all.iter().any(|d| s.tree.contains(d.statement, n))
    }

    pub fn along(&self) -> Option<String> {
        let all = self.all.iter().filter(|d| d.along).flat_map(|d| d.names.iter().map(|(_, n)| format!("`{n}`")));
        let mut names: Vec<String> = all.collect();
        names.dedup();
        let verb = if names.len() == 1 { "goes" } else { "go" };
        (!names.is_empty()).then(|| format!("{} {verb} along: nothing else uses it", names.join(", ")))
    }
}

pub(super) fn find(project: &Project, s: &Source, home: usize, places: &[Place]) -> Found<Moved> {
    let mut moved = Moved { all: Vec::new() };
    for place in places {
        let span = Span::new(place.start_byte, place.end_byte);
        let none = || {
            let at = s.tree.covering(span);
            vec![reason(s, at, Code::NotAName, "no function, class or value of the file's own level stands here")]
        };
        let Some(Target::Binding(b)) = target(s, span) else { return Err(none()) };
        let binding = s.names.binding(b);
        if binding.scope != Names::MODULE || binding.import.is_some() {
            return Err(none());
        }
        if !moved.has(b) {
            moved.all.extend(definitions(s, b, false)?);
        }
    }
    while let Some(d) = next_along(project, s, home, &moved) {
        moved.all.extend(d);
    }
    moved.all.sort_by_key(|d| d.statement);
    match changed_when_loaded(s, &moved) {
        Some((n, name)) => {
            let message = format!("this changes `{name}` when the file is loaded, and would stay here");
            Err(vec![reason(s, n, Code::Order, message)])
        }
        None => Ok(moved),
    }
}

/// A statement that stays and changes what goes: who has that from the new file might get it without the change.
pub(in crate::step) fn changed_when_loaded<'s>(s: &'s Source, moved: &Moved) -> Option<(NodeId, &'s str)> {
    let t = &s.tree;
    let later = |n: NodeId| t.body_around(n).is_some();
    let inner = |n: NodeId| {
        let first = || t.children(n).next().filter(|_| t.role(n) == Role::Index);
        t.child(n, Field::Object).or_else(first)
    };
    let root = |n: NodeId| std::iter::successors(Some(n), |x| inner(*x)).last().unwrap_or(n);
    let goes = |n: NodeId| s.names.at(n).and_then(|r| r.target).filter(|b| moved.has(*b));
    let is_value = |b: BindingId| s.names.binding(b).kind == BindKind::Variable;
    let changed = |n: NodeId| -> Option<NodeId> {
        match t.role(n) {
            Role::Assign | Role::AugAssign => {
                let left = t.child(n, Field::Left)?;
                let exports = s.lang.is_exports(s, t.child(left, Field::Object).map_or("", |o| s.str(o)));
                matches!(t.role(left), Role::Member | Role::Index).then(|| root(left)).filter(|_| !exports)
            }
            Role::Delete => t.children(n).map(root).find(|r| goes(*r).is_some()),
            Role::Call if t.parent(n).is_some_and(|p| t.role(p) == Role::ExprStmt) => {
                let callee = t.child(n, Field::Callee).filter(|c| t.role(*c) == Role::Member).map(root);
                let own = callee.filter(|r| goes(*r).is_some());
                let given = || {
                    t.child(n, Field::Arguments)
                        .into_iter()
                        .flat_map(|a| t.children(a))
                        .find(|a| goes(*a).is_some_and(is_value))
                };
                own.or_else(given)
            }
            _ => None,
        }
    };
    let rest = t.ids().filter(|n| !moved.holds(s, *n) && !later(*n));
    rest.filter_map(|n| changed(n).filter(|r| goes(*r).is_some()).map(|r| (n, s.str(r)))).next()
}

/// The statement that defines a name, where one gives it its value; a type of the same name has another.
pub(in crate::step) fn definitions(s: &Source, b: BindingId, along: bool) -> Found<Vec<Definition>> {
    let mut out: Vec<Definition> = Vec::new();
    let mut left = vec![b];
    while let Some(b) = left.pop() {
        for statement in defining(s, b) {
            if !out.iter().any(|d| d.statement == statement) {
                let d = definition(s, statement, b, along)?;
                left.extend(d.names.iter().map(|n| n.0));
                out.push(d);
            }
        }
    }
    out.sort_by_key(|d| d.statement);
    Ok(out)
}

/// Statements of the file's level in which a word of it is one that defines.
fn defining(s: &Source, b: BindingId) -> Vec<NodeId> {
    let t = &s.tree;
    let first = std::iter::once(s.names.binding(b).first);
    let words = s.names.references_to(b).filter(|r| r.usage.writes() && t.body_around(r.node).is_none());
    let top = |n: NodeId| std::iter::once(n).chain(t.ancestors(n)).find(|n| t.parent(*n) == Some(Tree::ROOT));
    let mut all: Vec<NodeId> = first.chain(words.map(|r| r.node)).filter_map(top).collect();
    all.sort();
    all.dedup();
    all
}

fn definition(s: &Source, statement: NodeId, b: BindingId, along: bool) -> Found<Definition> {
    let t = &s.tree;
    let binding = s.names.binding(b);
    let refuse = |code: Code, message: String| Err(vec![reason(s, statement, code, message)]);
    if binding.writes != 1 || binding.rebound_inside {
        let message =
            format!("`{}` is given a value in more than one place; an import has only the first", binding.name);
        return refuse(Code::RebindsOuter, message);
    }
    let inner = t.definition_in(statement);
    use Role::*;
    let defines = matches!(t.role(inner), Function | Class | TypeAlias | Declare | Assign)
        || t.role(inner) == ExprStmt && t.children(inner).all(|c| t.role(c) == Assign);
    if !defines {
        return refuse(Code::NotAName, format!("`{}` is defined within another statement", binding.name));
    }
    if s.text[..t.span(statement).start].rsplit('\n').next().is_some_and(|l| !l.trim().is_empty())
        || whole_lines(s, t.span(statement)) == t.span(statement) && !ends_its_line(s, statement)
    {
        return refuse(Code::SharedLine, "another statement stands on the same line".into());
    }
    // what a function inside gives to its file is a variable of that
    let own = |r: &Reference| r.usage.writes() && t.body_around(r.node).is_none();
    let words = s.names.references.iter().filter(|r| t.contains(statement, r.node) && own(r));
    let of_file = |b: &BindingId| s.names.binding(*b).scope == Names::MODULE;
    let mut names: Vec<BindingId> = words.filter_map(|r| r.target).filter(of_file).collect();
    names.sort();
    names.dedup();
    if let Some(other) = names.iter().find(|o| s.names.binding(**o).writes != 1) {
        let message =
            format!("`{}`, defined by the same statement, is given another value", s.names.binding(*other).name);
        return refuse(Code::RebindsOuter, message);
    }
    if s.lang.is_default_export(s, statement) {
        return refuse(Code::NoStepYet, "what a file exports as its default can't be moved yet".into());
    }
    let start = comments_above(s, line_start(&s.text, t.span(statement).start));
    let start = if is_file_head(s, start) { line_start(&s.text, t.span(statement).start) } else { start };
    let span = Span::new(start, line_end(s, t.span(statement).end));
    let names = names.into_iter().map(|b| (b, s.names.binding(b).name.clone())).collect();
    Ok(Definition { statement, names, span, along })
}

/// Nothing but a comment follows on its last line.
fn ends_its_line(s: &Source, statement: NodeId) -> bool {
    let end = s.tree.span(statement).end;
    let rest = s.text[end..line_end(s, end)].trim();
    rest.is_empty() || rest == ";" || s.tree.comments().iter().any(|c| s.text[end..c.start.max(end)].trim().is_empty())
}

/// Comments with which a file begins are of the file.
fn is_file_head(s: &Source, start: usize) -> bool {
    s.text[..start].trim_start_matches('\u{feff}').trim().is_empty()
}

/// A definition that only the moved ones use.
fn next_along(project: &Project, s: &Source, home: usize, moved: &Moved) -> Option<Vec<Definition>> {
    let used = s.names.references.iter().filter(|r| moved.holds(s, r.node)).filter_map(|r| r.target);
    let mut used: Vec<BindingId> = used.filter(|b| !moved.has(*b)).collect();
    used.sort();
    used.dedup();
    used.into_iter().find_map(|b| {
        let binding = s.names.binding(b);
        if binding.scope != Names::MODULE || binding.import.is_some() || s.has_a_meaning(&binding.name) {
            return None;
        }
        let all = definitions(s, b, true).ok()?;
        let within = |n: NodeId| moved.holds(s, n) || all.iter().any(|d| s.tree.contains(d.statement, n));
        let names = || all.iter().flat_map(|d| &d.names);
        let own = names().all(|(b, _)| s.names.references_to(*b).all(|r| within(r.node)));
        let seen = |name: &str| {
            project.word_elsewhere(name, &[home])
                || project.named_by_string(home, name)
                || !unseen::lookups(project, name, unseen::Within::File(&s.path)).is_empty()
        };
        (own && !names().any(|(_, n)| seen(n))).then_some(all)
    })
}
