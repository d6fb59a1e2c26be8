//! Functions that go: each of their calls must have become a call of the new function that does the same.

use super::{Objection, Opinion, Pair, RetiredFunction, SitePair, object};
use crate::change::{FileEdits, Site};
use crate::index::Project;
use crate::names::{BindingId, Source};
use crate::text::{Edit, Span};
use crate::tree::{Field, NodeId, Role};

/// The functions of a file that the plan says go, with no calls yet.
pub(super) fn functions(old: &Source, f: &FileEdits, sites: &[&Site]) -> Opinion<Vec<RetiredFunction>> {
    let t = &old.tree;
    let mut out = Vec::new();
    for s in sites {
        let Some(r) = &s.retired else { continue };
        let span = Span::new(r.start_byte, r.end_byte);
        let found = t.ids().find(|n| t.role(*n) == Role::Function && t.span(*n) == span);
        match found {
            Some(function) if !r.calls.is_empty() => out.push(RetiredFunction { function, calls: Vec::new() }),
            _ => {
                let line = s.place.start_line;
                return Err(Objection {
                    message: "what goes is no function that is called".into(),
                    file: f.file.clone(),
                    line,
                });
            }
        }
    }
    Ok(out)
}

/// Whether an edit takes a function away, or rewrites one of its calls.
pub(super) fn accounts_for(p: &mut Pair, sites: &[&Site], e: &Edit, new: Span) -> bool {
    let t = &p.old.tree;
    for i in 0..p.retired.len() {
        let span = t.span(p.retired[i].function);
        if e.span.contains(span) {
            let touched = t.ids().filter(|n| t.is_leaf(*n) && e.span.contains(t.span(*n)));
            if touched.into_iter().any(|n| !span.contains(t.span(n))) {
                return false;
            }
            p.inserted.push(new);
            return true;
        }
        let own = sites.iter().filter_map(|s| s.retired.as_ref()).find(|r| r.start_byte == span.start);
        if own.is_some_and(|r| r.calls.contains(&e.span)) {
            let call =
                |s: &Source, at: Span| s.tree.ids().find(|n| s.tree.role(*n) == Role::Call && s.tree.span(*n) == at);
            let (Some(a), Some(b)) = (call(&p.old, e.span), call(&p.new, new)) else { return false };
            p.retired[i].calls.push((a, b));
            return true;
        }
    }
    false
}

/// Nothing refers to the function any more, and each of its calls reached it.
pub(super) fn nothing_left(project: &Project, p: &Pair, gone: &RetiredFunction) -> Opinion<()> {
    let (o, t) = (&p.old, &p.old.tree);
    let Some(name) = t.child(gone.function, Field::Name) else {
        return object(o, gone.function, "a function without a name goes");
    };
    let own = project.index(&o.path).into_iter().collect::<Vec<_>>();
    let n = &p.new.tree;
    let still = n.ids().any(|x| matches!(n.role(x), Role::Name | Role::MemberName) && p.new.str(x) == o.str(name));
    if still || project.word_elsewhere(o.str(name), &own) {
        return object(o, name, format!("`{}` goes and is still named", o.str(name)));
    }
    for (call, _) in &gone.calls {
        let callee = t.child(*call, Field::Callee);
        let called = callee.map(|c| t.child(c, Field::Member).unwrap_or(c)).map(|c| o.str(c));
        if called != Some(o.str(name)) {
            return object(o, *call, "a call of another function was rewritten");
        }
    }
    Ok(())
}

/// The function's body with each call that was rewritten.
pub(super) fn sites(p: &Pair, gone: &RetiredFunction, is_member: bool) -> Opinion<Vec<(SitePair, OldCall)>> {
    let t = &p.old.tree;
    let body = t.child(gone.function, Field::Body).unwrap_or(gone.function);
    let statements: Vec<NodeId> = t.children(body).filter(|c| t.role(*c) != Role::Doc).collect();
    let (Some(first), Some(last)) = (statements.first(), statements.last()) else {
        return object(&p.old, gone.function, "an empty function goes");
    };
    let pair = |(old, new): &(NodeId, NodeId)| {
        let call = OldCall::new(&p.old, gone.function, *old, is_member)?;
        Ok((
            SitePair {
                first: *first,
                last: *last,
                call: *new,
                is_expression: false,
                declares: Vec::new(),
                unpacks: Vec::new(),
            },
            call,
        ))
    };
    gone.calls.iter().map(pair).collect()
}

/// The old function's parameters and what a call of it passed for them.
pub(super) struct OldCall {
    pub parameters: Vec<BindingId>,
    pub arguments: Vec<NodeId>,
}

impl OldCall {
    pub fn new(o: &Source, function: NodeId, call: NodeId, is_member: bool) -> Opinion<OldCall> {
        let t = &o.tree;
        let list = t.child(function, Field::Parameters).map_or(Vec::new(), |p| t.children(p).collect::<Vec<_>>());
        let plain: Option<Vec<BindingId>> = list
            .iter()
            .map(|p| (t.role(*p) == Role::Name).then(|| o.names.at(*p).and_then(|r| r.target)).flatten())
            .collect();
        let arguments: Vec<NodeId> = t.child(call, Field::Arguments).map_or(Vec::new(), |a| t.children(a).collect());
        let special = |n: &NodeId| matches!(t.role(*n), Role::KeywordArg | Role::Spread);
        let parameters: Vec<BindingId> = plain.unwrap_or_default().into_iter().skip(usize::from(is_member)).collect();
        if parameters.len() != arguments.len()
            || list.len() != parameters.len() + usize::from(is_member)
            || arguments.iter().any(special)
        {
            return object(o, call, "the old call does not match its function plainly");
        }
        Ok(OldCall { parameters, arguments })
    }

    /// Arguments that do more than name a value must be passed once each, in the same order.
    pub fn keeps_order(&self, o: &Source, passed: &[Option<usize>]) -> bool {
        let simple = |k: usize| matches!(o.tree.role(self.arguments[k]), Role::Name | Role::Literal);
        if (0..self.arguments.len()).all(simple) {
            return true;
        }
        passed.iter().flatten().copied().eq(0..self.arguments.len())
    }
}
