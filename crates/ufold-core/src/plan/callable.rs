//! Holes that travel as functions: evaluated in the body, where and when they always were, with the body's own locals
//! handed to them.
//!
//! Right for every expression that neither binds nor waits: the site's other variables are shared, not copied. Refused
//! where the result would be hard to read: many locals, many such holes.

use crate::align::Aligned;
use crate::names::{BindingId, Names};
use crate::plan::general::{Called, NamesSeen, Parameter};
use crate::plan::region::Portion;
use crate::text::Span;
use crate::tree::{NodeId, Role};

/// More locals handed to one function read worse than the copies.
const MOST_LOCALS: usize = 3;
/// More functions handed over do, too.
pub const MOST_CALLABLES: usize = 2;

pub struct Callable<'a> {
    pub sites: &'a [Portion<'a>],
    pub aligned: &'a [Aligned],
    pub template: usize,
    pub names: &'a NamesSeen,
}

/// One such hole.
pub struct Travelling {
    /// The function, as text, of each site that has the hole.
    pub arguments: Vec<Option<String>>,
    /// The same with its parameters numbered, to compare holes by.
    pub forms: Vec<String>,
    /// What the body passes, in the template's names.
    pub passed: Vec<String>,
}

impl Callable<'_> {
    /// The hole at an aligned place as a function, when it can be one.
    pub fn at(&self, i: usize) -> Option<Travelling> {
        self.of(&self.aligned[i].nodes.iter().map(|n| Some(*n)).collect::<Vec<_>>())
    }

    /// The nodes of the sites that have them as a function.
    pub fn of(&self, nodes: &[Option<NodeId>]) -> Option<Travelling> {
        let lang = self.sites[self.template].source().lang;
        let has_type = !lang.needs_types() || lang.function_type(&[], &[lang.no_result_type().to_string()]).is_some();
        if !has_type || nodes.iter().enumerate().any(|(s, n)| n.is_some_and(|n| self.sticks(s, n))) {
            return None;
        }
        let locals = |(s, n): (usize, &Option<NodeId>)| n.map_or(Vec::new(), |n| self.locals(s, n));
        let own: Vec<Vec<BindingId>> = nodes.iter().enumerate().map(locals).collect();
        // in terms of the first copy's locals
        let mut all: Vec<BindingId> = Vec::new();
        for s in std::iter::once(self.template).chain(0..self.sites.len()) {
            for b in &own[s] {
                let first = if s == 0 { *b } else { *self.names.back[s].get(b)? };
                if !all.contains(&first) {
                    all.push(first);
                }
            }
        }
        if all.len() > MOST_LOCALS {
            return None;
        }
        let mut out = Travelling { arguments: Vec::new(), forms: Vec::new(), passed: Vec::new() };
        for (s, node) in nodes.iter().enumerate() {
            let Some(node) = node else {
                out.arguments.push(None);
                continue;
            };
            let source = self.sites[s].source();
            let of_site = |b: &BindingId| if s == 0 { Some(*b) } else { self.names.forth[s].get(b).copied() };
            let locals: Vec<BindingId> = all.iter().map(of_site).collect::<Option<_>>()?;
            let names: Vec<String> = locals.iter().map(|b| source.names.binding(*b).name.clone()).collect();
            if names.iter().any(|n| !source.lang.is_identifier(n)) {
                return None;
            }
            let text = source.str(*node);
            // a function that gives back what it gets says nothing
            if names.iter().any(|n| n == text) {
                return None;
            }
            let given = self.parameter_names(s, &locals, &all)?;
            let text = self.with_names(s, *node, &locals, &given);
            // a statement of several lines inside an argument is hard to read
            if source.lang.lambdas_return() && text.contains('\n') {
                return None;
            }
            out.arguments.push(Some(source.lang.write_lambda(&given, &text)));
            out.forms.push(self.form(s, *node, &locals));
            if s == self.template {
                out.passed = names;
            }
        }
        Some(out)
    }

    /// Binds, waits, or uses what only its own function has.
    fn sticks(&self, s: usize, node: NodeId) -> bool {
        let (source, t) = (self.sites[s].source(), &self.sites[s].source().tree);
        use Role::*;
        let outside = |n: NodeId| !t.ancestors(n).take_while(|a| *a >= node).any(|a| t.role(a).is_callable());
        let gives = |n: NodeId| {
            let used = source.names.at(n).filter(|r| r.usage != crate::names::Use::Read);
            used.is_some_and(|r| {
                !r.target.is_some_and(|b| t.contains(node, source.names.scope(source.names.binding(b).scope).node))
            })
        };
        // what is called where it stands is a statement, or what it gives is no value
        if t.role(node) == Role::Call && source.lang.is_place(source, node) {
            return true;
        }
        t.subtree(node).any(|n| match t.role(n) {
            Await | Yield | NamedExpr | FrameName | AsyncMark => true,
            Assign | AugAssign | OrAssign | Delete => outside(n) || self.writes_shared(s, n),
            Spread => n == node,
            // it would have its value only when the function was called
            Name if outside(n) && gives(n) => true,
            Name if !source.lang.closures_take(source, n) => true,
            Name if source.lang.captures_fixed_only() && self.changes(s, node, n) => true,
            Name if source.lang.closures_copy() && gives(n) => true,
            Name => source.lang.is_frame_name(source.str(n)) || source.lang.needs_class(source.str(n)),
            _ => false,
        }) || t.parent(node).is_some_and(|p| matches!(t.role(p), Spread | MarkupTag))
    }

    /// A local of the function around the code, which gets more values than one.
    fn changes(&self, s: usize, hole: NodeId, name: NodeId) -> bool {
        let site = &self.sites[s];
        let names = &site.source().names;
        let Some(b) = names.at(name).and_then(|r| r.target) else { return false };
        let binding = names.binding(b);
        let home = names.scope(binding.scope);
        let shared = names.is_member(b) || binding.scope == Names::MODULE || site.is_written(b) || site.inner(b);
        let made_inside = site.source().tree.contains(hole, home.node);
        let given = site.source().tree.parent(binding.first).is_some_and(|p| {
            let t = &site.source().tree;
            t.role(p) != Role::Assign || t.child(p, crate::tree::Field::Right).is_some()
        });
        !shared && !made_inside && (binding.writes > 1 || !given)
    }

    /// An inner function assigns a local of the region.
    fn writes_shared(&self, s: usize, node: NodeId) -> bool {
        let site = &self.sites[s];
        let names = &site.source().names;
        names
            .in_range(node, site.source().tree.end(node))
            .iter()
            .any(|r| r.usage.writes() && r.target.is_some_and(|b| site.is_written(b) || site.inner(b)))
    }

    /// Locals of the region that the expression uses and does not make itself, in order of use.
    fn locals(&self, s: usize, node: NodeId) -> Vec<BindingId> {
        let site = &self.sites[s];
        let (source, t) = (site.source(), &site.source().tree);
        let mut out = Vec::new();
        for r in source.names.in_range(node, t.end(node)) {
            let Some(b) = r.target else { continue };
            let made_inside = t.contains(node, source.names.scope(source.names.binding(b).scope).node);
            if (site.is_written(b) || site.inner(b)) && !made_inside && !out.contains(&b) {
                out.push(b);
            }
        }
        out
    }

    /// A local of the first copy, or what it is in another one, is used behind that: all calls may give it.
    fn stays(&self, b: BindingId) -> bool {
        self.sites.iter().enumerate().any(|(s, site)| {
            let own = if s == 0 { Some(b) } else { self.names.forth[s].get(&b).copied() };
            let names = &site.source().names;
            own.is_some_and(|b| {
                let mut nodes = names.references_to(b).map(|r| r.node).chain([names.binding(b).first]);
                nodes.any(|n| !site.region.contains(n))
            })
        })
    }

    /// What the function calls its parameters: like the copy's locals, or by one letter where these are still there at
    /// the call and can't be hidden; `all` are the first copy's.
    fn parameter_names(&self, s: usize, locals: &[BindingId], all: &[BindingId]) -> Option<Vec<String>> {
        let site = &self.sites[s];
        let (source, t) = (site.source(), &site.source().tree);
        let around = t.ancestors(site.function).take_while(|a| t.role(*a) != Role::Class);
        let function = around.filter(|a| t.role(*a).is_callable()).last().unwrap_or(site.function);
        let mut out: Vec<String> = Vec::new();
        for (b, first) in locals.iter().zip(all) {
            let own = &source.names.binding(*b).name;
            if source.lang.closures_hide_locals() || !self.stays(*first) {
                out.push(own.clone());
                continue;
            }
            let first = own.chars().next()?.to_lowercase().to_string();
            let used = |name: &String| {
                let word = |n: &NodeId| t.is_leaf(*n) && t.role(*n) == Role::Name;
                t.subtree(function).any(|n| word(&n) && source.str(n) == name)
            };
            let free = |name: &String| !out.contains(name) && !used(name);
            out.push([first, "it".into(), "each".into()].into_iter().find(free)?);
        }
        Some(out)
    }

    fn form(&self, s: usize, node: NodeId, locals: &[BindingId]) -> String {
        let numbers: Vec<String> = (0..locals.len()).map(|k| format!("${k}")).collect();
        self.with_names(s, node, locals, &numbers)
    }

    fn with_names(&self, s: usize, node: NodeId, locals: &[BindingId], names: &[String]) -> String {
        let source = self.sites[s].source();
        let Span { start, end } = source.tree.span(node);
        let (mut out, mut at) = (String::new(), start);
        for r in source.names.in_range(node, source.tree.end(node)) {
            let Some(k) = r.target.and_then(|b| locals.iter().position(|l| *l == b)) else { continue };
            let span = source.tree.span(r.node);
            out.push_str(&source.text[at..span.start]);
            out.push_str(&names[k]);
            at = span.end;
        }
        out.push_str(&source.text[at..end]);
        out
    }
}

/// Adds a travelling hole to the parameters; holes that are the same function share one.
pub fn add(parameters: &mut Vec<Parameter>, i: usize, t: Travelling) {
    let same = |p: &&mut Parameter| p.callable.as_ref().is_some_and(|c| c.forms == t.forms);
    match parameters.iter_mut().find(same) {
        Some(p) => {
            p.places.push(i);
            p.callable.as_mut().expect("just seen").passed.push(t.passed);
        }
        None => {
            // a value that is the same expression is better read from the function, too
            let as_value = |p: &Parameter| p.callable.is_none() && p.variable.is_none() && p.arguments == t.forms;
            let earlier = parameters.iter().position(as_value).map(|k| parameters.remove(k).places);
            let places: Vec<usize> = earlier.into_iter().flatten().chain([i]).collect();
            let passed = vec![t.passed; places.len()];
            let callable = Some(Called { forms: t.forms, passed });
            let arguments = t.arguments.into_iter().flatten().collect();
            parameters.push(Parameter { callable, places, ..Parameter::new(i, arguments) });
        }
    }
}
