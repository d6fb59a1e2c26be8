//! What is surely evaluated, once, before anything else that could tell the difference.

use crate::index::quiet::is_quiet_call;
use crate::lang::Doing;
use crate::names::Source;
use crate::tree::{Field, NodeId, Role, Tree};

/// No condition, loop, handler or inner function around a node in a piece of code, and nothing done before it, uses of
/// arguments left out.
pub(crate) fn is_evaluated_first(
    s: &Source,
    within: NodeId,
    node: NodeId,
    is_argument: impl Fn(NodeId) -> bool,
) -> bool {
    // what only reads may be read before something throws
    let itself_acts = acts_itself(s, node);
    is_first_of(s, within, node, is_argument, itself_acts)
}

/// Does more than to compute.
fn acts_itself(s: &Source, node: NodeId) -> bool {
    acts_but_for(s, node, |_| false)
}

fn acts_but_for(s: &Source, node: NodeId, told: impl Fn(NodeId) -> bool) -> bool {
    let t = &s.tree;
    t.subtree(node).any(|n| match t.role(n) {
        Role::Call => !is_quiet_call(s, n) && !told(n),
        role => matches!(role, Role::Await | Role::Yield),
    })
}

/// The same for a variable's value in the place of its use, where operators and members that were told of do nothing, nor do
/// methods of the language's own values.
pub(crate) fn is_first_when_told(s: &Source, within: NodeId, used: NodeId, value: NodeId, told: &[String]) -> bool {
    let t = &s.tree;
    let named = |n: NodeId| told.iter().any(|m| m.contains(&format!("`{}`", s.str(n))));
    // what is told of an expression holds of its parts
    let told = |n: NodeId| named(n) || t.ancestors(n).take_while(|a| t.contains(within, *a)).any(named);
    let of_value = named(value);
    let itself_acts = acts_but_for(s, value, |n| of_value && s.likely_quiet(n).is_some());
    let computes = |n: NodeId| s.likely_quiet(n).is_some() && told(n);
    let plain = |n: NodeId| {
        use Role::*;
        let known = match t.role(n) {
            Call => computes(n),
            Member if t.field(n) == Field::Callee => t.parent(n).is_some_and(computes) || told(n),
            Member | Index | BinaryOp | UnaryOp | NotOp | Compare | AugAssign => told(n),
            _ => false,
        };
        !itself_acts && known
    };
    is_first_of(s, within, used, plain, itself_acts)
}

/// The same for a node in the place of something that acts, or not.
pub(crate) fn is_first_of(
    s: &Source,
    within: NodeId,
    node: NodeId,
    is_argument: impl Fn(NodeId) -> bool,
    itself_acts: bool,
) -> bool {
    let t = &s.tree;
    let least = if itself_acts { Doing::MayThrow } else { Doing::Anything };
    use Role::*;
    let maybe = |id: NodeId, child: NodeId| match t.role(id) {
        If | For => t.field(child) != Field::Condition && t.field(child) != Field::Right,
        With => t.field(child) == Field::Body,
        Conditional => t.conditional_parts(id).map(|p| p[0]) != Some(child),
        CountedFor => t.field(child) != Field::Init,
        Switch => t.field(child) != Field::Subject,
        OrAssign | Default => t.field(child) != Field::Left,
        Call | Member | Index => !matches!(t.field(child), Field::Callee | Field::Object) && may_end_early(t, id),
        While | DoWhile | Try | Match | Lambda | Function | Comprehension | Generator | Class | Assert => true,
        BoolOp => t.field(child) == Field::Right,
        // a chain ends with the first that does not hold
        Compare => t.children(id).filter(|c| t.role(*c) != Token).skip(2).any(|c| c == child),
        _ => false,
    };
    let acts = |n: NodeId| {
        let reads = matches!(t.role(n), Call | Await | Yield | Import | ImportFrom | DynamicScope)
            || t.role(n) == Name && s.lang.runs_when_read(s, n);
        let operator = matches!(t.role(n), Member | Index | BinaryOp | UnaryOp | NotOp | Compare | AugAssign);
        let operates = operator && s.lang.doing(s, n) >= least || matches!(t.role(n), Template | Spread | Markup);
        // a member that is named without its object, or what nothing declares
        let member = |l: NodeId| match t.role(l) {
            Name => s.names.at(l).is_some_and(|r| r.target.is_none_or(|b| s.names.is_member(b))),
            _ => false,
        };
        let stores = t.role(n).assigns() && t.child(n, Field::Left).is_some_and(member);
        let loops = matches!(t.role(n), Comprehension | Generator);
        // what acts may change what was read before it
        let changes = itself_acts && s.reads_what_may_change(n);
        reads
            || operates
            || stores
            || loops
            || changes
            || matches!(t.role(n), OrAssign | Default | With | Raise | Delete)
    };
    // targets stand before the value that is evaluated first
    let value_acts = |p: NodeId| t.child(p, Field::Right).is_none_or(|r| t.subtree(r).any(acts));
    let in_target =
        |a: NodeId| t.field(a) == Field::Left && t.parent(a).is_some_and(|p| t.role(p) == Assign && value_acts(p));
    if std::iter::once(node).chain(t.ancestors(node)).any(in_target) {
        return false;
    }
    let mut child = node;
    for a in t.ancestors(node).take_while(|a| t.contains(within, *a)) {
        if maybe(a, child) && !first_source(t, a, node) {
            return false;
        }
        child = a;
    }
    let done_before = |n: NodeId| {
        let target = t.ancestors(n).any(|a| {
            t.role(a) == Assign
                && t.child(a, Field::Left).is_some_and(|l| t.contains(l, n) && !t.contains(l, node))
                && t.contains(a, node)
        });
        // what a comprehension gives is computed after its first source
        let element = t.ancestors(n).any(|a| first_source(t, a, node) && !first_source(t, a, n));
        t.end(n) <= node && !target && !element
    };
    !t.subtree(within).any(|n| acts(n) && done_before(n) && !is_argument(n))
}

/// The first source of a comprehension is evaluated where it stands.
pub(super) fn first_source(t: &Tree, comprehension: NodeId, node: NodeId) -> bool {
    matches!(t.role(comprehension), Role::Comprehension | Role::Generator)
        && t.children(comprehension)
            .find(|c| t.role(*c) == Role::CompFor)
            .and_then(|c| t.child(c, Field::Right))
            .is_some_and(|r| t.contains(r, node))
}

/// A path that is left where its beginning has no value.
fn may_end_early(t: &Tree, id: NodeId) -> bool {
    let mut spine = std::iter::successors(Some(id), |n| t.child(*n, Field::Callee).or(t.child(*n, Field::Object)));
    spine.any(|n| t.children(n).any(|c| t.role(c) == Role::OptionalMark))
}
