//! Steps that write no function: the edited files, laid over the old ones node by node.
//!
//! Where the plan's kind of step allows it a name may be another word, a value may stand for a name, a parameter or an
//! argument may be added; all else must be the same nodes, and every name must mean what it meant.

use std::sync::Arc;

use rustc_hash::FxHashMap;

use super::first::is_evaluated_first;
use super::outside::{ScopeMap, same_meaning};
use super::{Objection, Opinion, object};
use crate::names::{BindingId, Source, Use};
use crate::step::{FileEdits, Plan, Project};
use crate::text::{Span, apply_edits};
use crate::tree::{Field, NodeId, Role, Tree};

pub(super) fn run(project: &Project, plan: &Plan) -> Opinion<()> {
    if plan.result.files.is_empty() {
        return Err(Objection { message: "nothing is changed".into(), file: String::new(), line: 1 });
    }
    for f in &plan.result.files {
        let file = File::new(project, f)?;
        match plan.step.as_str() {
            "rename" => file.renamed(plan)?,
            "param" => file.with_parameter(plan)?,
            _ => file.inlined(plan)?,
        }
    }
    Ok(())
}

pub(super) struct File {
    pub(super) old: Arc<Source>,
    pub(super) new: Source,
    /// Old ranges and new ones.
    edits: Vec<(Span, Span)>,
}

/// Pairs of leaves and of scopes, found by the walk.
#[derive(Default)]
pub(super) struct Walked {
    pub(super) scopes: ScopeMap,
    leaves: Vec<(NodeId, NodeId)>,
    /// Old nodes with the new ones that took their places.
    pub(super) replaced: Vec<(NodeId, NodeId)>,
    /// Old statements with the new ones that took their places.
    pub(super) spread: Vec<(NodeId, Vec<NodeId>)>,
    pub(super) added: Vec<NodeId>,
    pub(super) gone: Vec<NodeId>,
}

impl File {
    fn new(project: &Project, f: &FileEdits) -> Opinion<File> {
        let nowhere = |message: String| Objection { message, file: f.file.clone(), line: 1 };
        let index = project.index(&f.file).ok_or_else(|| nowhere("not a file of the project".into()))?;
        let old = project.source(index).map_err(&nowhere)?;
        let text = apply_edits(&old.text, &f.edits).map_err(|e| nowhere(e.to_string()))?;
        let new = project.parse(&f.file, text.into()).map_err(nowhere)?;
        if new.tree.errors().len() != old.tree.errors().len() {
            let line = new.tree.errors().first().map_or(1, |e| new.lines.line(e.start));
            return Err(Objection { message: "the new text does not parse".into(), file: f.file.clone(), line });
        }
        let mut list: Vec<_> = f.edits.iter().collect();
        list.sort_by_key(|e| e.span.start);
        let mut shift = 0i64;
        let mut edits = Vec::new();
        for e in list {
            let start = (e.span.start as i64 + shift) as usize;
            edits.push((e.span, Span::new(start, start + e.text.len())));
            shift += e.text.len() as i64 - (e.span.end - e.span.start) as i64;
        }
        Ok(File { old, new, edits })
    }

    fn edited(&self, old: Span) -> bool {
        self.edits.iter().any(|(e, _)| e.contains(old) || old.contains(*e) && e.start < e.end)
    }

    /// The same nodes; words differ only where they were renamed, and each name reaches the same definition.
    fn renamed(&self, plan: &Plan) -> Opinion<()> {
        let (o, s) = (&self.old, &self.new);
        let (t, n) = (&o.tree, &s.tree);
        let new = plan.request.name.as_deref().unwrap_or("");
        let mut at = (t.ids(), n.ids());
        let mut map: FxHashMap<NodeId, NodeId> = FxHashMap::default();
        let mut skip_until = NodeId(0);
        let mut pairs = Vec::new();
        for a in at.0.by_ref() {
            if a < skip_until {
                continue;
            }
            let Some(b) = at.1.next() else { return object(o, a, "code is missing") };
            // `name` became `new as name`
            let split = t.is_leaf(a) && !n.is_leaf(b) && t.role(a) == n.role(b);
            if split || t.role(a) != n.role(b) || t.field(a) != n.field(b) {
                return object(o, a, "code changed");
            }
            map.insert(a, b);
            if t.is_leaf(a) {
                let same = t.exact(a) == n.exact(b);
                let renamed = self.edited(t.span(a)) && (s.str(b) == new || t.role(a) == Role::Literal);
                if !same && !renamed {
                    return object(o, a, "another word changed");
                }
                pairs.push((a, b));
            }
            let alias = t.role(a) == Role::ImportAlias && t.children(a).count() + 1 == n.children(b).count();
            if alias {
                // a name that is passed on keeps its old name for others
                at.1.by_ref().take_while(|x| x.0 + 1 < n.end(b).0).for_each(drop);
                skip_until = t.end(a);
            }
        }
        if let Some(b) = at.1.next() {
            return object(s, b, "code was added");
        }
        for (a, b) in pairs {
            let reached =
                |s: &Source, n: NodeId| s.names.at(n).map(|r| (r.usage, r.target.map(|t| s.names.binding(t).first)));
            let (x, y) = (reached(o, a), reached(s, b));
            let same = match (x, y) {
                (None, None) => true,
                (Some((u, Some(p))), Some((v, Some(q)))) => u == v && map.get(&p) == Some(&q),
                (Some((u, None)), Some((v, None))) => u == v && o.str(a) == s.str(b),
                _ => false,
            };
            if !same {
                return object(o, a, format!("`{}` would mean something else", o.str(a)));
            }
        }
        Ok(())
    }

    /// One parameter more; the value became its name; calls pass the value.
    fn with_parameter(&self, plan: &Plan) -> Opinion<()> {
        let (o, s) = (&self.old, &self.new);
        let (t, n) = (&o.tree, &s.tree);
        let name = plan.request.name.as_deref().unwrap_or("");
        let w = self.walk(None)?;
        self.meanings(&w)?;
        let value = self.edits.iter().find_map(|(e, _)| filling(o, *e)).map(|v| o.str(v).to_string());
        for (a, b) in &w.replaced {
            let target = s.names.at(*b).and_then(|r| r.target).map(|b| s.names.binding(b).first);
            let own = target.is_some_and(|f| w.added.iter().any(|p| n.contains(*p, f)));
            if n.role(*b) != Role::Name || s.str(*b) != name || !own {
                return object(o, *a, "the value did not become the parameter");
            }
        }
        let mut parameters = 0;
        for p in &w.added {
            let parent = n.parent(*p).unwrap_or(Tree::ROOT);
            match n.role(parent) {
                Role::Parameters => parameters += 1,
                Role::Arguments => {
                    let given = n.child(*p, Field::Value).unwrap_or(*p);
                    let expected = value.as_deref().or(plan.result.remarks.first().map(String::as_str));
                    let same = value.is_none() || expected == Some(s.str(given));
                    if !same || !s.str(*p).is_empty() && n.subtree(*p).any(|x| n.role(x) == Role::Call) {
                        return object(s, *p, "a call passes another value");
                    }
                }
                _ => return object(s, *p, "code was added"),
            }
        }
        if parameters > 1 || !w.replaced.is_empty() && parameters != 1 {
            return object(o, Tree::ROOT, "not one parameter was added");
        }
        match w.gone.first() {
            Some(g) => object(o, *g, "code is missing"),
            None if t.is_empty() => object(o, Tree::ROOT, "an empty file"),
            None => Ok(()),
        }
    }

    /// A definition is gone, and what it stood for is where its name was.
    fn inlined(&self, plan: &Plan) -> Opinion<()> {
        let (o, s) = (&self.old, &self.new);
        let (t, n) = (&o.tree, &s.tree);
        let place = &plan.request.copies[0];
        let at = t.ids().find(|x| t.role(*x) == Role::Name && t.span(*x).start == place.start_byte);
        let b = at.and_then(|x| o.names.at(x)).and_then(|r| r.target);
        let Some(b) = b else { return object(o, Tree::ROOT, "what is inlined is no name") };
        if let Some(function) = super::spread::of_statements(o, b) {
            return self.spread(b, function);
        }
        let definition = Definition::find(o, b)?;
        let w = self.walk(Some(definition.statement))?;
        self.meanings(&w)?;
        if w.gone != [definition.statement] || !w.added.is_empty() || !w.spread.is_empty() {
            return object(o, definition.statement, "not just the definition went");
        }
        let uses = o.names.references_to(b).filter(|r| r.usage == Use::Read).count();
        if uses != w.replaced.len() {
            return object(o, definition.statement, "a use of the name is left");
        }
        for (a, c) in &w.replaced {
            let target = match t.role(*a) {
                Role::Call => t.child(*a, Field::Callee),
                _ => Some(*a),
            };
            if target.and_then(|x| o.names.at(x)).and_then(|r| r.target) != Some(b) {
                return object(o, *a, "something else was replaced");
            }
            let given = t.child(*a, Field::Arguments).filter(|_| t.role(*a) == Role::Call);
            let given: Vec<NodeId> = given.map_or(Vec::new(), |g| t.children(g).collect());
            let bare = if n.role(*c) == Role::Paren && t.role(definition.value) != Role::Paren {
                n.children(*c).next().unwrap_or(*c)
            } else {
                *c
            };
            self.stands_for(&w.scopes, definition.value, bare, &definition.parameters, &given)?;
            let kept = match t.role(definition.statement) {
                Role::Function => self.same_moments(&definition, &given),
                _ => self.same_moment(&definition, *a, uses),
            };
            if !kept {
                return object(o, *a, "the value would be computed at another time");
            }
        }
        Ok(())
    }

    /// The only use is the first thing done after the definition, or the value is always the same.
    fn same_moment(&self, d: &Definition, used: NodeId, uses: usize) -> bool {
        let (o, t) = (&self.old, &self.old.tree);
        let block = t.parent(d.statement).unwrap_or(Tree::ROOT);
        let inner = t.callable_around(used) != t.callable_around(d.statement);
        if !t.contains(block, used) || !inner && used < d.statement {
            return false;
        }
        if t.subtree(d.value).all(|n| self.is_settled(n, true)) {
            return true;
        }
        let next = t.children(block).find(|c| *c >= t.end(d.statement)).filter(|n| t.contains(*n, used));
        uses == 1 && !inner && next.is_some_and(|n| is_evaluated_first(o, n, used, |_| false))
    }

    /// Arguments are computed in the order in which they were, and once, or are always the same.
    fn same_moments(&self, d: &Definition, given: &[NodeId]) -> bool {
        let (o, t) = (&self.old, &self.old.tree);
        let target = |n: NodeId| o.names.at(n).and_then(|r| r.target);
        let is_argument = |n: NodeId| target(n).is_some_and(|b| d.parameters.contains(&b));
        let mut last = d.value;
        d.parameters.iter().zip(given).all(|(p, g)| {
            if t.subtree(*g).all(|n| self.is_settled(n, false)) {
                return true;
            }
            let places: Vec<NodeId> = t.subtree(d.value).filter(|n| target(*n) == Some(*p)).collect();
            let [one] = places[..] else { return false };
            let ordered = std::mem::replace(&mut last, one) <= one;
            ordered && is_evaluated_first(o, d.value, one, is_argument)
        })
    }

    /// Gives the same at any time: a literal, or a variable that no one changes in between; `ever`: at all.
    pub(super) fn is_settled(&self, n: NodeId, ever: bool) -> bool {
        let (o, t) = (&self.old, &self.old.tree);
        use Role::*;
        match t.role(n) {
            Literal | Token | Tuple | Concat | Paren | TemplateText | UnaryOp => true,
            Name => o.names.at(n).and_then(|r| r.target).is_some_and(|b| {
                let b = o.names.binding(b);
                let own = !ever && b.scope != crate::names::Names::MODULE;
                !b.rebound_inside && (b.writes <= 1 || own)
            }),
            _ => false,
        }
    }

    /// New code is the old expression, with arguments for parameters.
    fn stands_for(
        &self,
        map: &ScopeMap,
        a: NodeId,
        b: NodeId,
        parameters: &[BindingId],
        given: &[NodeId],
    ) -> Opinion<()> {
        let (o, s) = (&self.old, &self.new);
        let (t, n) = (&o.tree, &s.tree);
        let wrong = || object(o, a, "what stands at the use is not what was defined");
        let own = o.names.at(a).and_then(|r| r.target).and_then(|x| parameters.iter().position(|p| *p == x));
        if let Some(k) = own {
            let bare = n.role(b) == Role::Paren && t.role(given[k]) != Role::Paren;
            let inner = if bare { n.children(b).next().unwrap_or(b) } else { b };
            return self.stands_for(map, given[k], inner, &[], &[]);
        }
        if t.kind(a) != n.kind(b) {
            return wrong();
        }
        if t.is_leaf(a) && n.is_leaf(b) {
            let mut scopes = map.clone();
            let around = |s: &Source, x: NodeId| {
                s.tree.ancestors(x).filter(|p| s.names.scope_of(*p).is_some()).collect::<Vec<_>>()
            };
            for (x, y) in around(o, a).into_iter().zip(around(s, b)) {
                scopes.entry(x).or_insert(y);
            }
            let same = o.names.at(a).is_none() || same_meaning(o, s, &scopes, a, b);
            return if t.exact(a) == n.exact(b) && same { Ok(()) } else { wrong() };
        }
        let (x, y): (Vec<NodeId>, Vec<NodeId>) = (t.children(a).collect(), n.children(b).collect());
        if x.len() != y.len() {
            return wrong();
        }
        x.into_iter().zip(y).try_for_each(|(a, b)| self.stands_for(map, a, b, parameters, given))
    }

    pub(super) fn meanings(&self, w: &Walked) -> Opinion<()> {
        for (a, b) in &w.leaves {
            if !same_meaning(&self.old, &self.new, &w.scopes, *a, *b) {
                return object(&self.old, *a, format!("`{}` would mean something else", self.old.str(*a)));
            }
        }
        Ok(())
    }

    /// Lays the trees over each other; `gone` is the statement that may be missing.
    pub(super) fn walk(&self, gone: Option<NodeId>) -> Opinion<Walked> {
        let mut w = Walked::default();
        self.pair(Tree::ROOT, Tree::ROOT, gone, &mut w)?;
        Ok(w)
    }

    fn pair(&self, a: NodeId, b: NodeId, gone: Option<NodeId>, w: &mut Walked) -> Opinion<()> {
        let (o, s) = (&self.old, &self.new);
        let (t, n) = (&o.tree, &s.tree);
        let (from, to) = (t.span(a), n.span(b));
        if t.field(a) == n.field(b)
            && self.edits.iter().any(|(e, f)| *e == from && f.contains(to) && t.role(a).is_expression())
        {
            w.replaced.push((a, b));
            return Ok(());
        }
        if t.role(a) != n.role(b) || t.field(a) != n.field(b) {
            return object(o, a, "code changed");
        }
        if o.names.scope_of(a).is_some() {
            w.scopes.insert(a, b);
        }
        if t.is_leaf(a) && n.is_leaf(b) {
            if t.exact(a) != n.exact(b) {
                return object(o, a, "a word changed");
            }
            w.leaves.push((a, b));
            return Ok(());
        }
        let mut right = n.children(b).peekable();
        for c in t.children(a) {
            if Some(c) == gone
                || gone.is_some() && t.contains(c, gone.unwrap_or(c)) && t.span(c) == t.span(gone.unwrap_or(c))
            {
                w.gone.push(gone.unwrap_or(c));
                continue;
            }
            let statement = t.role(a).is_sequence() && !t.role(c).is_expression();
            let edit = self.edits.iter().find(|(e, f)| statement && *e == t.span(c) && f.start < f.end);
            if let Some((_, f)) = edit {
                let mut news = Vec::new();
                while right.peek().is_some_and(|d| f.contains(n.span(*d))) {
                    news.extend(right.next());
                }
                w.spread.push((c, news));
                continue;
            }
            while right.peek().is_some_and(|d| self.is_inserted(*d)) {
                w.added.extend(right.next());
            }
            let Some(d) = right.next() else { return object(o, c, "code is missing") };
            self.pair(c, d, gone, w)?;
        }
        for d in right {
            if !self.is_inserted(d) {
                return object(s, d, "code was added");
            }
            w.added.push(d);
        }
        Ok(())
    }

    fn is_inserted(&self, new: NodeId) -> bool {
        let span = self.new.tree.span(new);
        self.edits.iter().any(|(e, f)| e.start == e.end && f.contains(span))
    }
}

/// What a name stands for.
struct Definition {
    statement: NodeId,
    value: NodeId,
    parameters: Vec<BindingId>,
}

impl Definition {
    fn find(o: &Source, b: BindingId) -> Opinion<Definition> {
        let t = &o.tree;
        let first = o.names.binding(b).first;
        let parent = t.parent(first).unwrap_or(Tree::ROOT);
        if t.role(parent) == Role::Function {
            let body = t.child(parent, Field::Body).unwrap_or(parent);
            let returned = t.children(body).filter(|c| t.role(*c) != Role::Doc).last();
            let value = returned.filter(|r| t.role(*r) == Role::Return).and_then(|r| t.children(r).next());
            let list = t.child(parent, Field::Parameters).map_or(Vec::new(), |p| t.children(p).collect::<Vec<_>>());
            let named =
                |p: &NodeId| t.subtree(*p).find(|x| t.role(*x) == Role::Name).and_then(|x| o.names.at(x)?.target);
            let parameters: Option<Vec<BindingId>> = list.iter().map(named).collect();
            return match value.zip(parameters) {
                Some((value, parameters)) => Ok(Definition { statement: parent, value, parameters }),
                None => object(o, parent, "the function returns no single expression"),
            };
        }
        let statement = t.ancestor(first, &[Role::ExprStmt, Role::Declare]);
        let value = t.child(parent, Field::Right).filter(|_| t.role(parent) == Role::Assign);
        match statement.zip(value).filter(|_| o.names.binding(b).writes == 1) {
            Some((statement, value)) => Ok(Definition { statement, value, parameters: Vec::new() }),
            None => object(o, first, "the name is given no single value"),
        }
    }
}

/// The expression that fills a range.
fn filling(s: &Source, span: Span) -> Option<NodeId> {
    s.tree.ids().find(|n| s.tree.span(*n) == span && s.tree.role(*n).is_expression())
}
