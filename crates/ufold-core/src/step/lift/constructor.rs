//! What all constructors begin with: it becomes the constructor of the new base, which they call instead.
//!
//! Only statements that set members of the object, each by what it is given or by what all files know; they are run at the
//! same moment, in the same order, with the same values.

use super::Lift;
use super::classes::{Held, decorators};
use crate::change::{Code, Reason, reason};
use crate::index::class_members::{alike, body, constructors, is_function};
use crate::index::own::makes_empty;
use crate::names::{BindKind, BindingId, Source};
use crate::tree::{Field, NodeId, Role};

/// What goes of the constructor of a class.
pub(super) struct Part {
    pub function: NodeId,
    pub statements: Vec<NodeId>,
    /// The call of the constructor above that there is already.
    pub above: Option<NodeId>,
}

/// The constructor that the base gets, and what goes for it.
pub(super) struct Parts {
    /// As they are written.
    pub parameters: Vec<String>,
    pub names: Vec<String>,
    pub held: Vec<Part>,
}

/// What the constructors have in common, where the base is new and takes it.
pub(super) fn find(lift: &Lift) -> Option<Parts> {
    if !lift.base.is_new() {
        return None;
    }
    let mut held: Vec<Part> = lift.classes.iter().map(|h| own(lift, h)).collect::<Option<_>>()?;
    let first = lift.first();
    let common = (0..held[0].statements.len()).take_while(|i| {
        held.iter().zip(&lift.classes).all(|(p, h)| {
            let n = p.statements.get(*i).copied();
            n.is_some_and(|n| sets_a_member(h, n, p.function) && alike((&first.s, held[0].statements[*i]), (&h.s, n)))
        })
    });
    let count = common.count();
    held.iter_mut().for_each(|p| p.statements.truncate(count));
    if count == 0 || !lift.classes.iter().all(|h| later_ones_do_not_matter(lift, h)) {
        return None;
    }
    let of_member = |n: &NodeId| set_member(&first.s, *n).is_some_and(|w| first.member(w).is_some());
    let needed = held[0].statements.iter().any(of_member);
    // what the members name goes along with them
    let named = |n: &NodeId| {
        let t = &first.s.tree;
        let word = set_member(&first.s, *n);
        let says = |x: NodeId| t.role(x) == Role::MemberName && Some(first.s.str(x)) == word;
        first.nodes().any(|m| t.subtree(m).any(says))
    };
    if !needed && (count < 2 || !held[0].statements.iter().any(named)) {
        return None;
    }
    let used = used_parameters(first, &held[0]);
    let mut parameters = Vec::new();
    for b in &used {
        parameters.push(written(lift, &held, &first.s.names.binding(*b).name)?);
    }
    let object = receiver(&first.s, held[0].function);
    let names = used.iter().map(|b| first.s.names.binding(*b).name.clone()).collect();
    parameters.splice(0..0, object);
    Some(Parts { parameters, names, held })
}

/// The only constructor of a class, with the statements of it that could go.
fn own(lift: &Lift, h: &Held) -> Option<Part> {
    let (s, t) = (&h.s, &h.s.tree);
    let [function] = constructors(s, lift.of, h.class)[..] else { return None };
    // what decorates a class may put another one in its place, of which the call above knows nothing
    if h.goes(function) || !decorators(h).is_empty() {
        return None;
    }
    let statements: Vec<NodeId> = t
        .children(t.child(function, Field::Body)?)
        .filter(|c| !matches!(t.role(*c), Role::Doc | Role::Token))
        .collect();
    let above = statements.first().copied().filter(|n| lift.of.is_call_above(s, *n));
    let later = |n: &NodeId| t.subtree(*n).any(|x| t.is_leaf(x) && s.lang.needs_class(s.str(x)));
    if statements.iter().filter(|n| Some(**n) != above).any(later) {
        return None;
    }
    if let Some(a) = above {
        let plain = lift.of.call_above(s, &[]);
        if s.str(a).trim_end_matches(';') != plain.trim_end_matches(';') {
            return None;
        }
    }
    Some(Part { function, statements: statements.into_iter().filter(|n| Some(*n) != above).collect(), above })
}

/// The member that a statement sets.
pub(super) fn set_member(s: &Source, statement: NodeId) -> Option<&str> {
    let t = &s.tree;
    let assign =
        t.children(statement).next().filter(|a| t.role(statement) == Role::ExprStmt && t.role(*a) == Role::Assign)?;
    let left = t.child(assign, Field::Left).filter(|l| t.role(*l) == Role::Member)?;
    let object = t.child(left, Field::Object).map(|o| s.str(o))?;
    let own = s.lang.is_receiver(object) || Some(object) == s.lang.object_word();
    t.child(left, Field::Member).map(|m| s.str(m)).filter(|_| own)
}

/// The statement sets a member of the object by parameters and what does nothing.
fn sets_a_member(h: &Held, n: NodeId, function: NodeId) -> bool {
    use Role::*;
    let (s, t) = (&h.s, &h.s.tree);
    let Some(word) = set_member(s, n) else { return false };
    // with types the base must have it
    let known = h.member(word).is_some() || !s.lang.needs_types();
    if !known || t.subtree(n).any(|x| t.is_leaf(x) && s.lang.is_mangled(s.str(x))) {
        return false;
    }
    let quiet = |x: NodeId| match t.role(x) {
        Lambda | Function | Class | Await | Yield | NamedExpr | Spread | Comprehension | Generator => false,
        Call => makes_empty(s, x),
        _ => true,
    };
    let scope = s.names.scope_of(function);
    let fixed = |x: NodeId| {
        let target = s.names.at(x).and_then(|r| r.target);
        target.is_none_or(|b| {
            let binding = s.names.binding(b);
            Some(binding.scope) != scope
                || binding.kind == BindKind::Parameter
                    && s.names.references_to(b).all(|r| !r.usage.writes() || r.node == binding.first)
        })
    };
    t.subtree(n).all(|x| quiet(x) && fixed(x))
}

/// Fields that stay get their values after the constructor above has run, and before the rest of their own one.
fn later_ones_do_not_matter(lift: &Lift, h: &Held) -> bool {
    let (s, t) = (&h.s, &h.s.tree);
    let fields = body(t, h.class).into_iter().filter(|n| t.role(*n) == Role::ClassField && !h.goes(*n));
    let given = |n: NodeId| {
        let value = t.child(n, Field::Value).or_else(|| t.subtree(n).find(|x| t.field(*x) == Field::Right));
        value.filter(|_| !lift.of.is_of_class(s, n))
    };
    fields.into_iter().all(|n| {
        let Some(v) = given(n) else {
            // declared without a value it is there all the same
            return !lift.of.keeps_order() || is_function(s, n) || lift.of.is_of_class(s, n);
        };
        !lift.of.keeps_order()
            && t.subtree(v).all(|x| {
                !matches!(t.role(x), Role::Call | Role::Member | Role::Lambda | Role::Name) || makes_empty(s, x)
            })
    })
}

fn used_parameters(h: &Held, p: &Part) -> Vec<BindingId> {
    let s = &h.s;
    let scope = s.names.scope_of(p.function);
    let object = crate::index::method::receiver_of(s, p.function).map(|(_, b)| b);
    let mut out: Vec<BindingId> = Vec::new();
    for n in &p.statements {
        for b in s.names.in_range(*n, s.tree.end(*n)).iter().filter_map(|r| r.target) {
            let own = Some(s.names.binding(b).scope) == scope && Some(b) != object;
            if own && !out.contains(&b) {
                out.push(b);
            }
        }
    }
    out.sort_by_key(|b| s.names.binding(*b).first);
    out
}

/// The object where it is a parameter.
fn receiver(s: &Source, function: NodeId) -> Option<String> {
    let (_, b) = crate::index::method::receiver_of(s, function)?;
    s.lang.object_word().is_none().then(|| s.names.binding(b).name.clone())
}

/// A parameter as the first class writes it, without a value for when it gets none; its type only where all have it.
fn written(lift: &Lift, held: &[Part], name: &str) -> Option<String> {
    let of = |h: &Held, p: &Part| -> Option<(String, Option<String>)> {
        let (s, t) = (&h.s, &h.s.tree);
        let list = t.child(p.function, Field::Parameters)?;
        let own = t.children(list).find(|c| {
            let word = if t.is_leaf(*c) { Some(*c) } else { t.child(*c, Field::Name) };
            word.is_some_and(|w| s.str(w) == name)
        })?;
        if t.is_leaf(own) {
            return Some((name.to_string(), None));
        }
        let marks = |c: NodeId| {
            t.role(c) == Role::Token && s.str(c).chars().all(char::is_alphabetic) && !s.lang.declares_fixed(s.str(c))
        };
        if t.children(own).any(|c| marks(c) || t.role(c) == Role::Spread) {
            return None;
        }
        let end = [Field::Name, Field::Type].iter().filter_map(|f| t.child(own, *f)).map(|n| t.span(n).end).max()?;
        let text = s.text[t.span(own).start..end].to_string();
        Some((text, t.child(own, Field::Type).map(|n| s.str(n).to_string())))
    };
    let all: Vec<_> = lift.classes.iter().zip(held).map(|(h, p)| of(h, p)).collect::<Option<_>>()?;
    let typed = lift.first().s.lang.needs_types();
    if all.iter().all(|a| if typed { a == &all[0] } else { a.1 == all[0].1 }) {
        return Some(all[0].0.clone());
    }
    (!lift.first().s.lang.needs_types()).then(|| name.to_string())
}

/// Why a field can't go: it has no value but by a constructor, which does not go along.
pub(super) fn needs_value(lift: &Lift, parts: Option<&Parts>, name: &str) -> Option<Vec<Reason>> {
    let h = lift.first();
    let n = h.member(name)?.nodes[0];
    let given = parts.is_some_and(|p| p.held[0].statements.iter().any(|x| set_member(&h.s, *x) == Some(name)));
    let set_later = || {
        lift.classes.iter().enumerate().any(|(i, h)| {
            let t = &h.s.tree;
            let goes = |x: NodeId| parts.is_some_and(|p| p.held[i].statements.iter().any(|g| t.contains(*g, x)));
            t.subtree(h.class).any(|x| set_member(&h.s, x) == Some(name) && !goes(x))
        })
    };
    let missing = lift.of.must_be_given(&h.s, n) && (!given || set_later());
    let message = "a constructor gives it its value, and does not go along";
    missing.then(|| vec![reason(&h.s, n, Code::ConstructorMember, message)])
}
