//! Whole private functions whose users are all known need not stay as delegates: they go, and their calls are rewritten.
//!
//! Only when each call is plain (positional, as many arguments as parameters) and the arguments of the rewritten call
//! are evaluated in the same order; anything else keeps the delegate, which is always right.

use crate::align::Aligned;
use crate::change::Retired;
use crate::index::{Project, unseen};
use crate::lang::Leaving;
use crate::names::{BindingId, Names, Source};
use crate::plan::general::General;
use crate::plan::home::Home;
use crate::plan::lines::{comments_above, line_end, line_start};
use crate::plan::region::Portion;
use crate::text::{Edit, Span};
use crate::tree::{Field, NodeId, Role, Tree};

pub struct Retire<'a> {
    pub project: &'a Project<'a>,
    pub sites: &'a [Portion<'a>],
    pub aligned: &'a [Aligned],
    pub home: &'a Home,
    pub general: &'a General,
    pub name: &'a str,
}

/// What replaces the functions: for each site its calls and their edits.
pub struct Retirement {
    pub edits: Vec<Edit>,
    pub sites: Vec<(Retired, String)>,
}

impl Retirement {
    /// Puts `definition` in the place of the first function; the others go.
    pub fn put(&mut self, sites: &[Portion], definition: &str) {
        let source = sites[0].source();
        let t = &source.tree;
        let first = sites.iter().map(|s| s.function).min().expect("a group has sites");
        for s in sites {
            let span = t.span(s.function);
            let start = line_start(&source.text, span.start);
            let end = line_end(source, span.end);
            if s.function == first {
                self.edits.push(Edit::new(start, end, definition.trim_end_matches('\n')));
                continue;
            }
            let block = t.parent(s.function).unwrap_or(Tree::ROOT);
            let before = t.children(block).filter(|c| *c < s.function).last();
            let start = comments_above(source, start);
            // the blank lines before it go along
            let start = before.map_or(start, |b| line_end(source, t.span(b).end).max(trim_blank(&source.text, start)));
            self.edits.push(Edit::new(start, end, ""));
        }
    }
}

/// Comments over functions that go; that over the first one stays, over the new one.
pub fn comments_that_go(sites: &[Portion]) -> Vec<String> {
    let first = sites.iter().map(|s| s.function).min();
    let mut out = Vec::new();
    for site in sites.iter().filter(|s| Some(s.function) != first) {
        let s = site.source();
        let start = line_start(&s.text, s.tree.span(site.function).start);
        let above = Span::new(comments_above(s, start), start);
        let comments = s.tree.comments().iter().filter(|c| above.contains(**c));
        let texts = comments.map(|c| s.lang.comment_text(&s.text[c.start..c.end]).to_string());
        out.extend(texts.map(|c| crate::change::lost_comment(&c, site.copy)));
    }
    out
}

impl Retire<'_> {
    /// The edits of the calls; none when a function must stay.
    pub fn plan(&self) -> Option<Retirement> {
        let source = self.sites[0].source();
        let one_file = self.sites.iter().all(|s| s.source().path == source.path);
        let leaves = self.sites.iter().any(|s| !matches!(s.leaving, Leaving::Plain | Leaving::Tail));
        let is_looked_up = |s: &Portion| {
            let name = source.tree.child(s.function, Field::Name).map_or("", |n| source.str(n));
            !unseen::lookups(self.project, name, unseen::Within::File(&source.path)).is_empty()
        };
        let looked_up = || self.sites.iter().any(is_looked_up);
        if !one_file || leaves || looked_up() || !self.general.results.is_empty() || self.general.optional.is_some() {
            return None;
        }
        let mut out = Retirement { edits: Vec::new(), sites: Vec::new() };
        let mut calls: Vec<Span> = Vec::new();
        for i in 0..self.sites.len() {
            let (retired, edits) = self.site(i)?;
            calls.extend(&retired.calls);
            out.sites.push((retired, edits.first()?.text.clone()));
            out.edits.extend(edits);
        }
        // a call inside another one, or inside code that goes, would be edited twice
        calls.sort();
        let goes = |c: &Span| out.sites.iter().any(|(r, _)| Span::new(r.start_byte, r.end_byte).overlaps(*c));
        if calls.windows(2).any(|w| w[0].overlaps(w[1])) || calls.iter().any(goes) {
            return None;
        }
        Some(out)
    }

    fn site(&self, i: usize) -> Option<(Retired, Vec<Edit>)> {
        let site = &self.sites[i];
        let (s, t) = (site.source(), &site.source().tree);
        let name = t.child(site.function, Field::Name)?;
        let parent = t.parent(site.function)?;
        let member = self.home.class.is_some();
        let at_home = if member { t.parent(parent) == self.home.class } else { parent == Tree::ROOT };
        let body = t.child(site.function, Field::Body)?;
        let plain = site.whole
            && at_home
            && self.is_hidden(s, name)
            && !t.children(body).any(|c| t.role(c) == Role::Doc)
            && t.children(site.function).all(|c| t.role(c) != Role::AsyncMark);
        if !plain || self.is_known_elsewhere(s, s.str(name)) {
            return None;
        }
        let parameters = self.parameters(site, member)?;
        let calls = if member { self.member_calls(site, name)? } else { self.calls(s, name)? };
        let edits: Option<Vec<Edit>> = calls.iter().map(|c| self.rewrite(i, *c, &parameters)).collect();
        let edits = edits.filter(|e| !e.is_empty())?;
        let span = t.span(site.function);
        let calls = calls.iter().map(|c| t.span(*c)).collect();
        Some((Retired { start_byte: span.start, end_byte: span.end, calls }, edits))
    }

    /// By its name, or since no other file can see it.
    fn is_hidden(&self, s: &Source, name: NodeId) -> bool {
        let target = s.names.at(name).and_then(|r| r.target);
        s.lang.is_private(s.str(name)) || self.home.class.is_none() && target.is_some_and(|b| s.lang.hides(s, b))
    }

    /// The name stands in another file, or in a string.
    fn is_known_elsewhere(&self, s: &Source, name: &str) -> bool {
        let own = self.project.index(&s.path).into_iter().collect::<Vec<_>>();
        let quoted = |n: NodeId| s.tree.role(n) == Role::Literal && s.str(n).contains(name);
        let by_module = own.iter().any(|f| self.project.named_by_string(*f, name));
        by_module || self.project.word_elsewhere(name, &own) || s.tree.ids().any(quoted)
    }

    /// Plain parameters, the receiver left out.
    fn parameters(&self, site: &Portion, member: bool) -> Option<Vec<BindingId>> {
        let (s, t) = (site.source(), &site.source().tree);
        let list: Vec<NodeId> = t.children(t.child(site.function, Field::Parameters)?).collect();
        if list.iter().any(|p| t.role(*p) != Role::Name) {
            return None;
        }
        let all: Option<Vec<BindingId>> = list.iter().map(|p| s.names.at(*p)?.target).collect();
        Some(all?.into_iter().skip(usize::from(member)).collect())
    }

    /// Calls of a function of the module; none when it is used in any other way.
    fn calls(&self, s: &Source, name: NodeId) -> Option<Vec<NodeId>> {
        let t = &s.tree;
        let binding = s.names.at(name)?.target?;
        if s.names.binding(binding).writes != 1
            || t.ids().any(|n| t.role(n) == Role::MemberName && s.str(n) == s.str(name))
        {
            return None;
        }
        let reads = s.names.references_to(binding).filter(|r| r.node != name);
        reads
            .map(|r| t.parent(r.node).filter(|p| t.role(*p) == Role::Call && t.field(r.node) == Field::Callee))
            .collect()
    }

    /// Calls of a member by methods of its class; none when the name is used in any other way.
    fn member_calls(&self, site: &Portion, name: NodeId) -> Option<Vec<NodeId>> {
        let s = site.source();
        let class = self.home.class?;
        let own = s.names.at(name)?.target?;
        if s.names.references_to(own).count() != 1 {
            return None;
        }
        // elsewhere the object is no parameter
        let calls =
            crate::index::users::calls_by_class(s, class, s.str(name)).filter(|_| s.lang.object_word().is_none())?;
        Some(calls.into_iter().map(|(call, _)| call).collect())
    }

    /// The call with the new function's arguments.
    fn rewrite(&self, i: usize, call: NodeId, parameters: &[BindingId]) -> Option<Edit> {
        let site = &self.sites[i];
        let (s, t) = (site.source(), &site.source().tree);
        let arguments = t.child(call, Field::Arguments).filter(|a| t.role(*a) == Role::Arguments)?;
        let given: Vec<NodeId> = t.children(arguments).collect();
        if given.len() != parameters.len() || !given.iter().all(|g| crate::index::users::is_plain_argument(t, *g)) {
            return None;
        }
        let simple = given.iter().all(|g| matches!(t.role(*g), Role::Name | Role::Literal));
        let mut order = Vec::new();
        let mut texts = Vec::new();
        for p in &self.general.parameters {
            let node = self.aligned[p.places[0]].nodes[i];
            let own = s.names.at(node).and_then(|r| r.target).and_then(|b| parameters.iter().position(|q| *q == b));
            match own {
                Some(k) => {
                    order.push(k);
                    texts.push(s.str(given[k]).to_string());
                }
                None if self.means_the_same(s, node, call) => texts.push(p.arguments[i].clone()),
                None => return None,
            }
        }
        let in_order = order.iter().copied().eq(0..parameters.len());
        if !in_order && !simple {
            return None;
        }
        let callee = t.child(call, Field::Callee)?;
        let object = t.child(callee, Field::Object).map_or(String::new(), |o| format!("{}.", s.str(o)));
        let span = t.span(call);
        Some(Edit::new(span.start, span.end, format!("{object}{}({})", self.name, texts.join(", "))))
    }

    /// A literal, or a name of the module that nothing hides at the call.
    fn means_the_same(&self, s: &Source, node: NodeId, call: NodeId) -> bool {
        let t = &s.tree;
        match t.role(node) {
            Role::Literal => true,
            Role::Name => {
                let module =
                    s.names.at(node).and_then(|r| r.target).is_some_and(|b| s.names.binding(b).scope == Names::MODULE);
                let scopes = t.ancestors(call).filter_map(|a| s.names.scope_of(a)).filter(|x| *x != Names::MODULE);
                module && !scopes.into_iter().any(|x| s.names.declared_in(x, s.str(node)).is_some())
            }
            _ => false,
        }
    }
}

/// The end of the last line with code on it before a byte.
fn trim_blank(text: &str, start: usize) -> usize {
    text[..start].trim_end().len()
}
