//! Steps that write no function: the edited files, laid over the old ones node by node.
//!
//! Where the plan's kind of step allows it a name may be another word, a value may stand for a name, a parameter or an
//! argument may be added; all else must be the same nodes, and every name must mean what it meant.

use std::sync::Arc;

use rustc_hash::FxHashMap;

use super::outside::{ScopeMap, same_meaning};
use super::{Objection, Opinion, object};
use crate::change::{FileEdits, Verdict};
use crate::index::{Project, whole_words};
use crate::names::Source;
use crate::text::{Span, apply_edits};
use crate::tree::{Field, NodeId, Role, Tree};

/// One word that is another one.
pub(super) struct Renaming<'a> {
    pub(super) old: &'a str,
    pub(super) new: &'a str,
    pub(super) verdict: Verdict,
    pub(super) files: &'a [FileEdits],
}

pub(super) struct File {
    pub(super) old: Arc<Source>,
    pub(super) new: Arc<Source>,
    /// Old ranges and new ones.
    edits: Vec<(Span, Span)>,
}

/// Pairs of leaves and of scopes, found by the walk.
#[derive(Default)]
pub(super) struct Walked {
    pub(super) scopes: ScopeMap,
    pub(super) leaves: Vec<(NodeId, NodeId)>,
    /// Old nodes with the new ones that took their places.
    pub(super) replaced: Vec<(NodeId, NodeId)>,
    /// Old statements with the new ones that took their places.
    pub(super) spread: Vec<(NodeId, Vec<NodeId>)>,
    pub(super) added: Vec<NodeId>,
    pub(super) gone: Vec<NodeId>,
    /// Old functions, those with the same parameters that call the new ones, and the new ones.
    pub(super) kept: Vec<(NodeId, NodeId, NodeId)>,
    /// Old imports that bind other names now, or went.
    pub(super) imports: Vec<(NodeId, Option<NodeId>)>,
}

impl File {
    pub(super) fn new(project: &Project, f: &FileEdits) -> Opinion<File> {
        let nowhere = |message: String| Objection { message, file: f.file.clone(), line: 1 };
        let index = project.index(&f.file).ok_or_else(|| nowhere("not a file of the project".into()))?;
        let old = project.source(index).map_err(&nowhere)?;
        let text = apply_edits(&old.text, &f.edits).map_err(|e| nowhere(e.to_string()))?;
        let new = Arc::new(project.parse(&f.file, text.into()).map_err(nowhere)?);
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

    /// Old ranges, each with the new one.
    pub(super) fn edits(&self) -> &[(Span, Span)] {
        &self.edits
    }

    pub(super) fn edited(&self, old: Span) -> bool {
        self.edits.iter().any(|(e, _)| e.contains(old) || old.contains(*e) && e.start < e.end)
    }

    /// The word that became another one; texts may hold it, so they do not tell.
    pub(super) fn renamed_word(&self) -> Option<String> {
        let (o, t) = (&self.old, &self.old.tree);
        let is_word = |n: &NodeId| t.is_leaf(*n) && !matches!(t.role(*n), Role::Literal | Role::TemplateText);
        t.ids().filter(is_word).find(|n| self.edits.iter().any(|(e, _)| *e == t.span(*n))).map(|n| o.str(n).to_string())
    }

    /// The same nodes; words differ only where they were renamed, and each name reaches the same definition.
    pub(super) fn renamed(&self, new: &str, old: &str) -> Opinion<FxHashMap<NodeId, NodeId>> {
        let (o, s) = (&self.old, &self.new);
        let (t, n) = (&o.tree, &s.tree);
        let mut at = (t.ids(), n.ids());
        let mut map: FxHashMap<NodeId, NodeId> = FxHashMap::default();
        let bare = |word: &'_ str| word.trim_start_matches(o.lang.variable_mark()).to_string();
        let means = |a: NodeId| {
            let target = o.names.at(a).and_then(|r| r.target);
            let last = o.lang.last_word(o.str(a));
            // of what another file defines, which one it is is looked at with all files
            let loaded = target.is_none() && o.lang.shares_by_loading() && last == old;
            loaded || target.is_some_and(|b| o.names.binding(b).name == old && last.eq_ignore_ascii_case(old))
        };
        // at the end of a path that is one word
        let path_to = |a: NodeId| o.str(a)[..o.str(a).len() - o.lang.last_word(o.str(a)).len()].to_string();
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
                let edited = self.edited(t.span(a));
                let renamed = match t.role(a) {
                    Role::Literal => s.str(b) == text_with(o, a, old, new),
                    // without the mark of variables
                    Role::KeywordName => o.str(a) == bare(old) && s.str(b) == bare(new),
                    // written in other letters, where these are all one
                    _ => (o.str(a) == old || means(a)) && s.str(b) == path_to(a) + new,
                };
                if !(same || edited && renamed) {
                    return object(o, a, "another word changed");
                }
                // of a pair that was one word the key stays
                let pair = t.parent(a).is_some_and(|p| t.span(p) == t.span(a));
                if same && !pair && self.edits.iter().any(|(e, _)| *e == t.span(a)) {
                    return object(o, a, "a word that should change is as it was");
                }
                pairs.push((a, b));
            }
            let alias = t.role(a) == Role::ImportAlias && t.children(a).count() + 1 == n.children(b).count();
            if alias {
                // a name that is passed on keeps its old name for others
                let name = t.subtree(a).filter(|x| t.is_leaf(*x) && self.edited(t.span(*x))).last();
                let words: Vec<NodeId> = n.subtree(b).filter(|x| n.is_leaf(*x)).collect();
                let kept = name.zip(words.last().copied()).filter(|(x, y)| o.str(*x) == s.str(*y));
                let Some(kept) = kept.filter(|_| words.iter().any(|w| s.str(*w) == new)) else {
                    return object(o, a, "another name is passed on");
                };
                map.insert(kept.0, kept.1);
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
                // one that its class inherits is looked at by its type
                (Some((u, None)), Some((v, None))) => {
                    let told = o.names.members_in_sight || o.lang.shares_by_loading();
                    u == v && (o.str(a) == s.str(b) || told && self.edited(t.span(a)))
                }
                // the class of which a member has the name: which of them it is, is told by its type
                (Some((u, Some(_))), Some((v, None))) => {
                    let class = o.names.members_in_sight && t.field(a) == Field::Object;
                    u == v && class && self.edited(t.span(a)) && o.str(a) != s.str(b)
                }
                _ => false,
            };
            if !same {
                return object(o, a, format!("`{}` would mean something else", o.str(a)));
            }
        }
        Ok(map)
    }

    /// One parameter more; the value became its name; calls pass the value.
    pub(super) fn with_parameter(&self, name: &str, value: Option<(&Source, NodeId)>) -> Opinion<Walked> {
        let (o, s) = (&self.old, &self.new);
        let (t, n) = (&o.tree, &s.tree);
        let w = self.walk(None)?;
        self.meanings(&w)?;
        if let Some((import, _)) = w.imports.first() {
            return object(o, *import, "an import changed");
        }
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
            let given = n.child(*p, Field::Value);
            let is_value = |g: NodeId| value.is_some_and(|v| self.is_value(v, g, &w.scopes));
            let called = n.child(*p, Field::Key).or(n.child(*p, Field::Name)).filter(|_| given.is_some());
            if called.is_some_and(|k| s.str(k) != name) {
                return object(s, *p, "another name was added");
            }
            match n.role(parent) {
                Role::Parameters if given.is_none_or(is_value) => parameters += 1,
                Role::Arguments if is_value(given.unwrap_or(*p)) => {}
                Role::Parameters => return object(s, *p, "the parameter has another value by default"),
                Role::Arguments => return object(s, *p, "a call passes another value"),
                _ => return object(s, *p, "code was added"),
            }
        }
        if parameters > 1 || !w.replaced.is_empty() && parameters != 1 {
            return object(o, Tree::ROOT, "not one parameter was added");
        }
        match w.gone.first() {
            Some(g) => object(o, *g, "code is missing"),
            None if t.is_empty() => object(o, Tree::ROOT, "an empty file"),
            None => Ok(w),
        }
    }

    /// The value that becomes a parameter.
    pub(super) fn hole(&self) -> Option<NodeId> {
        self.edits.iter().filter(|(e, _)| e.start < e.end).find_map(|(e, _)| filling(&self.old, *e))
    }

    /// New code is the value: the same words, of which the names mean what they meant.
    pub(super) fn is_value(&self, (o, value): (&Source, NodeId), new: NodeId, scopes: &ScopeMap) -> bool {
        let leaves = |t: &Tree, n: NodeId| t.subtree(n).filter(|x| t.is_leaf(*x)).collect::<Vec<_>>();
        let (x, y) = (leaves(&o.tree, value), leaves(&self.new.tree, new));
        let named = |a: NodeId| o.names.at(a).is_some();
        x.len() == y.len()
            && x.iter().zip(&y).all(|(a, b)| {
                let same = || o.path == self.old.path && same_meaning(o, &self.new, scopes, *a, *b);
                o.tree.exact(*a) == self.new.tree.exact(*b) && (!named(*a) || same())
            })
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
            let within = |e: &Span| t.span(c).contains(*e) || e.contains(t.span(c));
            if a == Tree::ROOT && t.role(c) == Role::ImportFrom && self.edits.iter().any(|(e, _)| within(e)) {
                let stays = right.next_if(|d| n.role(*d) == Role::ImportFrom && self.edited_into(c, *d));
                w.imports.push((c, stays));
                continue;
            }
            let alone = t.role(a).is_sequence() || t.role(c) == Role::ExprStmt;
            let statement = alone && !t.role(c).is_expression();
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
            let body = t.child(c, Field::Body).filter(|_| t.role(c) == Role::Function).map(|b| t.span(b).start);
            let split = self.edits.iter().any(|(e, _)| e.start == e.end && Some(e.start) == body);
            match right.next_if(|_| split) {
                Some(m) => self.kept(c, (d, m), w)?,
                None => self.pair(c, d, gone, w)?,
            }
        }
        for d in right {
            if !self.is_inserted(d) {
                return object(s, d, "code was added");
            }
            w.added.push(d);
        }
        Ok(())
    }

    /// A function became two: the first has its head, the second its body and one parameter more.
    fn kept(&self, old: NodeId, (first, second): (NodeId, NodeId), w: &mut Walked) -> Opinion<()> {
        let (o, s) = (&self.old, &self.new);
        let (t, n) = (&o.tree, &s.tree);
        let changed = || object(o, old, "the head of the function changed");
        w.scopes.insert(old, second);
        let mut heads = [first, second].map(|f| n.children(f).collect::<Vec<_>>().into_iter().peekable());
        for c in t.children(old).filter(|c| t.field(*c) != Field::Body) {
            let same = |a: NodeId, b: NodeId| t.role(a) == n.role(b) && o.str(a) == s.str(b);
            if !heads[0].next().is_some_and(|d| same(c, d)) {
                return changed();
            }
            if t.field(c) == Field::Parameters {
                let list = heads[1].next().filter(|d| n.field(*d) == Field::Parameters);
                let mut all = list.map_or(Vec::new(), |d| n.children(d).collect());
                w.added.extend(all.pop());
                let before: Vec<NodeId> = t.children(c).collect();
                if before.len() != all.len() || !before.iter().zip(&all).all(|(a, b)| same(*a, *b)) {
                    return changed();
                }
                for (a, b) in before.into_iter().zip(all) {
                    let leaves = t.subtree(a).zip(n.subtree(b)).filter(|(x, _)| t.is_leaf(*x));
                    w.leaves.extend(leaves);
                }
            } else if heads[1].next_if(|d| same(c, *d)).is_none() && t.role(c) != Role::Decorator {
                return changed();
            }
        }
        let (Some(body), Some(new)) = (t.child(old, Field::Body), n.child(second, Field::Body)) else {
            return changed();
        };
        w.kept.push((old, first, second));
        self.pair(body, new, None, w)
    }

    /// A statement begins where the edited one began.
    fn edited_into(&self, old: NodeId, new: NodeId) -> bool {
        let start = self.old.tree.span(old).start;
        let whole = self.edits.iter().any(|(e, _)| e.contains(self.old.tree.span(old)));
        let shift: i64 = self
            .edits
            .iter()
            .filter(|(e, _)| e.end <= start)
            .map(|(e, f)| (f.end - f.start) as i64 - (e.end - e.start) as i64)
            .sum();
        !whole && self.new.tree.span(new).start as i64 == start as i64 + shift
    }

    fn is_inserted(&self, new: NodeId) -> bool {
        let span = self.new.tree.span(new);
        self.edits.iter().any(|(e, f)| e.start == e.end && f.contains(span))
    }
}

/// A text with the new name: in a type wherever the old one stands by itself, in a path at its end.
fn text_with(s: &Source, literal: NodeId, old: &str, new: &str) -> String {
    let text = s.str(literal);
    let mut out = String::new();
    let mut from = 0;
    let last = whole_words(text, old).last();
    let of_type = s.tree.ancestor(literal, &[Role::Type]).is_some();
    for at in whole_words(text, old).filter(|at| of_type || Some(*at) == last) {
        out.push_str(&text[from..at]);
        out.push_str(new);
        from = at + old.len();
    }
    out + &text[from..]
}

/// The expression that fills a range.
fn filling(s: &Source, span: Span) -> Option<NodeId> {
    s.tree.ids().find(|n| s.tree.span(*n) == span && s.tree.role(*n).is_expression())
}
