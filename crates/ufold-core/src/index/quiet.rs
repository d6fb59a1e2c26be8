//! Calls that change nothing that anybody could see: of functions of the same file that only compute, methods of the own
//! class that nothing overrides among them, and of some that come with the language. What they read may change in between;
//! they may fail where their operators do.
//!
//! A function only computes when each of its statements gives a local of its own a value, decides, or returns, and all
//! that it calls does no more. Summed up over the calls, once for each function; functions that call each other in a
//! circle are not looked into. Operators and members count as plain, as they do in a value that has no call in it.

use crate::names::{BindKind, Names, Source};
use crate::tree::{Field, NodeId, Role};

/// Calls inside each other that are looked into.
const MOST_DEEP: usize = 6;

/// Whether a function only computes.
struct Quiet(bool);

/// Whether a call changes nothing.
pub(crate) fn is_quiet_call(s: &Source, call: NodeId) -> bool {
    quiet_call(s, call, 0)
}

fn quiet_call(s: &Source, call: NodeId, depth: usize) -> bool {
    let t = &s.tree;
    let Some(callee) = t.child(call, Field::Callee).filter(|_| t.role(call) == Role::Call) else { return false };
    let plain = |a: NodeId| matches!(t.role(a), Role::Spread | Role::Await | Role::Yield);
    if depth > MOST_DEEP || t.child(call, Field::Arguments).is_some_and(|a| t.subtree(a).any(plain)) {
        return false;
    }
    let first = t.subtree(callee).find(|n| t.role(*n) == Role::Name);
    let target = first.and_then(|n| s.names.at(n)).and_then(|r| r.target);
    let Some(b) = target else {
        let word = s.str(callee);
        return s.lang.quiet_calls().iter().any(|q| match q.strip_suffix('*') {
            Some(start) => word.starts_with(start),
            None => *q == word,
        });
    };
    let binding = s.names.binding(b);
    let function = t.parent(binding.first).filter(|f| t.role(*f) == Role::Function);
    let fixed = binding.kind == BindKind::Function && binding.writes == 1 && !binding.rebound_inside;
    let seen = |f: NodeId| binding.scope == Names::MODULE || s.names.is_member(b) && is_fixed_method(s, call, f);
    let known = |f: NodeId| fixed && t.role(callee) == Role::Name && t.child(f, Field::Name) == Some(binding.first);
    function.is_some_and(|f| known(f) && seen(f) && computes(s, f, depth))
}

/// A method of the class that the call stands in, and of no other: its own, or hidden from all that extend it.
fn is_fixed_method(s: &Source, call: NodeId, method: NodeId) -> bool {
    let class = |n: NodeId| s.tree.ancestor(n, &[Role::Class]);
    // what is inherited may be another of the name
    let alone = class(call).is_some_and(|c| s.tree.child(c, Field::Bases).is_none());
    alone && class(call) == class(method) && (s.lang.needs_no_object(s, method) || s.lang.hides_member(s, method))
}

fn computes(s: &Source, function: NodeId, depth: usize) -> bool {
    let t = &s.tree;
    let decorated = t.parent(function).is_some_and(|p| t.role(p) == Role::Decorated && s.str(p).starts_with('@'));
    let marked = t.children(function).any(|c| t.role(c) == Role::AsyncMark);
    let Some(body) = t.child(function, Field::Body).filter(|_| !decorated && !marked) else { return false };
    if depth > MOST_DEEP || s.lang.does_more(s, function) {
        return false;
    }
    let own = |n: NodeId| {
        let b = s.names.at(n).and_then(|r| r.target);
        b.is_some_and(|b| s.names.scope(s.names.frame_of(b)).node == function && !s.names.binding(b).captured)
    };
    let known = s.remember((function, Some(body)), || {
        Quiet(t.subtree(body).all(|n| {
            use Role::*;
            match t.role(n) {
                Call => quiet_call(s, n, depth + 1),
                Assign => t.child(n, Field::Left).is_some_and(|l| t.role(l) == Name && own(l)),
                Name | Literal | Token | Member | MemberName | BinaryOp | UnaryOp | NotOp | Compare | BoolOp => true,
                Conditional | Paren | If | Elif | Else | Block | Return | ExprStmt | Declare | Doc => true,
                Tuple | List | Dict | Pair | Concat | Template | TemplateText | Interpolation | Arguments => true,
                KeywordArg | KeywordName | Type => true,
                _ => t.ancestors(n).take_while(|a| *a != body).any(|a| t.role(a) == Type),
            }
        }))
    });
    known.0
}
