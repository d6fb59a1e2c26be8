//! Values that stand where a name stood: when they are the same there, and how they are written.

use crate::change::{Code, Reason, reason};
use crate::flow::Effects;
use crate::names::{BindKind, BindingId, Names, ScopeId, ScopeKind, Source};
use crate::tree::{Field, NodeId, Role};

/// Parameters without default values.
pub fn plain_parameters(s: &Source, function: NodeId) -> Option<Vec<BindingId>> {
    let t = &s.tree;
    let list = t.child(function, Field::Parameters).map_or(Vec::new(), |p| t.children(p).collect::<Vec<_>>());
    let named = |p: &NodeId| {
        let own = t.child(*p, Field::Name).or_else(|| t.subtree(*p).find(|n| t.role(*n) == Role::Name))?;
        let plain = t.role(*p) == Role::Name || t.role(*p) == Role::Parameter && t.child(*p, Field::Value).is_none();
        s.names.at(own)?.target.filter(|_| plain)
    };
    list.iter().map(named).collect()
}

/// The call at a use of a function's name, with one plain argument for each parameter.
pub fn plain_call(s: &Source, used: NodeId, parameters: usize) -> Result<(NodeId, Vec<NodeId>), Reason> {
    let t = &s.tree;
    let no = |code: Code, message: &str| reason(s, used, code, message);
    let call = t.parent(used).filter(|c| t.role(*c) == Role::Call && t.field(used) == Field::Callee);
    let call = call.ok_or_else(|| no(Code::UsedAsValue, "the function is used here, but not called"))?;
    let list = t.child(call, Field::Arguments).filter(|a| t.role(*a) == Role::Arguments);
    let given: Vec<NodeId> = list.map_or(Vec::new(), |a| t.children(a).collect());
    let special = !given.iter().all(|g| crate::index::users::is_plain_argument(t, *g));
    if list.is_none() || special || given.len() != parameters || is_made(s, call, used) {
        return Err(no(Code::OddCall, "this call does not give one plain argument to each parameter"));
    }
    Ok((call, given))
}

/// A variable of the function around it that no inner function changes.
pub fn is_local(s: &Source, value: NodeId) -> bool {
    let b = s.names.at(value).and_then(|r| r.target).map(|b| s.names.binding(b));
    b.is_some_and(|b| b.scope != Names::MODULE && !b.rebound_inside) && has_value(s, value)
}

/// A local surely has a value where its name stands; reading one that has none fails at once.
fn has_value(s: &Source, name: NodeId) -> bool {
    let t = &s.tree;
    let Some(b) = s.names.at(name).and_then(|r| r.target) else { return true };
    let (binding, frame) = (s.names.binding(b), s.names.scope(s.names.frame_of(b)).node);
    let function = t.callable_around(name);
    if binding.kind != BindKind::Variable || Some(frame) != function || s.names.is_member(b) {
        return true;
    }
    if s.lang.declares_locals() {
        return binding.hoisted || binding.first < name;
    }
    let statement = t.ancestors(name).find(|a| t.parent(*a).is_some_and(|p| t.role(p).is_sequence()));
    statement.is_none_or(|x| !Effects::of_part(s, frame, x, name).may_fail())
}

/// Literals, and names that nothing gives another value.
pub fn is_fixed(s: &Source, value: NodeId) -> bool {
    let t = &s.tree;
    t.subtree(value).all(|n| match t.role(n) {
        Role::Literal | Role::Token | Role::Tuple | Role::Concat | Role::Paren | Role::TemplateText => true,
        Role::UnaryOp => s.str(n).starts_with(['-', '+']),
        Role::Name => {
            let target = s.names.at(n).and_then(|r| r.target);
            // a field may get values by other ways
            let steady = |b: BindingId| !s.names.is_member(b) || s.lang.is_final(s, b);
            target.is_some_and(|b| {
                let binding = s.names.binding(b);
                binding.writes <= 1 && !binding.rebound_inside && steady(b)
            }) && has_value(s, n)
        }
        _ => false,
    })
}

/// Whether a name that stands in an expression would mean something else at another place.
pub fn hidden_at(s: &Source, name: NodeId, value: NodeId, place: NodeId) -> bool {
    let t = &s.tree;
    let Some(r) = s.names.at(name) else { return false };
    let own = r.target.is_some_and(|b| t.contains(value, s.names.scope(s.names.binding(b).scope).node));
    if own {
        return false;
    }
    let seen = |x: &ScopeId| s.names.members_in_sight || s.names.scope(*x).kind != ScopeKind::Class;
    let scopes = || t.ancestors(place).filter_map(|a| s.names.scope_of(a)).filter(seen);
    if s.lang.declares_again() {
        return s.names.seen_at(t, place, s.str(name)) != r.target;
    }
    let found = r.spaces.iter().find_map(|space| scopes().find_map(|x| s.names.declared_as(x, *space, s.str(name))));
    found != r.target
}

/// The expression's text as it must stand in another's place.
pub fn in_brackets(s: &Source, value: NodeId, at: &Source, place: NodeId, text: String) -> String {
    let t = &s.tree;
    use Role::*;
    // where a name stood, a call gives its first value
    if s.lang.gives_several(s, value) && at.lang.takes_several(at, place) && !at.lang.gives_several(at, place) {
        return format!("({text})");
    }
    let simple = matches!(
        t.role(value),
        Name | Literal | Call | Member | Index | List | Set | Comprehension | Template | Paren | Fresh | Markup
    ) && !s.lang.is_construction(s.str(value))
        || t.role(value) == Dict && at.tree.role(place) != Lambda
        || t.role(value) == Tuple && s.str(value).starts_with('(');
    let parent = at.tree.parent(place);
    let closed = parent.is_some_and(|p| {
        matches!(at.tree.role(p), Arguments | Return | Paren | Interpolation | KeywordArg | List)
            || matches!(at.tree.role(p), Assign | AugAssign) && at.tree.field(place) == Field::Right
            || at.tree.field(place) == Field::Index
            || at.tree.role(p) == Pair && at.tree.field(place) == Field::Value
            || at.tree.role(p) == Lambda && at.tree.field(place) == Field::Body && t.role(value) != Dict
    });
    let simple = simple && (t.role(value) != Paren || s.str(value).starts_with('('));
    // a path that ends where it has no value must not take what follows along
    let path = matches!(at.tree.field(place), Field::Object | Field::Callee)
        && t.subtree(value).any(|n| t.role(n) == OptionalMark)
        && t.role(value) != Paren;
    let first = at.tree.ancestors(place).take_while(|a| at.tree.span(*a).start == at.tree.span(place).start);
    let begins = first.into_iter().any(|a| at.tree.role(a) == ExprStmt)
        || parent.is_some_and(|p| at.tree.role(p) == Lambda && at.tree.field(place) == Field::Body);
    if path || begins && at.lang.opens_a_statement(&text) {
        return format!("({text})");
    }
    let before_member = matches!(at.tree.field(place), Field::Object | Field::Callee);
    let digits = before_member && !at.lang.stands_before_member(t.role(value), s.str(value));
    let closed = closed || parent.is_some_and(|p| binds_tighter(s, value, at, p, place));
    let comma = t.role(value) == Tuple || t.role(value) == Generator;
    if (simple && !digits) || closed && !comma && !text.contains('\n') { text } else { format!("({text})") }
}

/// Why a value's text can't stand in a place, or has another type there.
pub(super) fn fits(s: &Source, value: NodeId, place: NodeId) -> Option<Reason> {
    let t = &s.tree;
    let template = t.ancestors(place).find(|a| t.role(*a) == Role::Template);
    if template.is_some_and(|x| !s.lang.fits_in_template(s.str(x), s.str(value))) {
        return Some(reason(s, place, Code::NotAValue, "the value's text can't stand inside this text"));
    }
    if s.lang.is_place(s, place) {
        return Some(reason(s, place, Code::NotAValue, "this asks for a variable, not for a value"));
    }
    // an object that is written where a type is asked for must have that type's members and no others
    let parent = t.parent(place).map_or(Role::Other, |p| t.role(p));
    let asked = !matches!(parent, Role::Member | Role::Index | Role::Spread | Role::Interpolation | Role::ExprStmt);
    let written = matches!(t.role(value), Role::Dict | Role::List) && t.subtree(value).any(|n| t.role(n) == Role::Dict);
    (s.lang.needs_types() && written && asked).then(|| {
        reason(s, place, Code::TypedDeclaration, "an object written here is looked at more closely than a variable")
    })
}

/// How tightly an operation holds its operands together; none where the order of the language is not the usual one.
fn strength(s: &Source, n: NodeId) -> Option<u8> {
    let t = &s.tree;
    let operator = || t.child(n, Field::Operator).map_or("", |o| s.str(o));
    Some(match t.role(n) {
        Role::Conditional => 1,
        Role::BoolOp if ["or", "||"].contains(&operator()) => 2,
        Role::BoolOp if ["and", "&&"].contains(&operator()) => 3,
        Role::NotOp if s.str(n).starts_with("not") => 4,
        Role::Compare => 5,
        Role::BinaryOp if ["+", "-"].contains(&operator()) => 6,
        Role::BinaryOp if ["*", "/", "//", "%"].contains(&operator()) => 7,
        _ => return None,
    })
}

/// An operation that needs no brackets in the place of an operand.
fn binds_tighter(s: &Source, value: NodeId, at: &Source, parent: NodeId, place: NodeId) -> bool {
    match (strength(s, value), strength(at, parent)) {
        (Some(inner), Some(outer)) => {
            inner > outer || inner == outer && outer >= 6 && at.tree.field(place) == Field::Left
        }
        _ => false,
    }
}

/// What speaks against a use, with the number by which it can be left out.
pub fn of_use(k: usize, uses: usize, why: Reason) -> Reason {
    match uses {
        1 => why,
        _ => Reason { message: format!("use {}: {}", k + 1, why.message), ..why },
    }
}

/// The call makes an object, rather than calling a member of one that is made.
fn is_made(s: &Source, call: NodeId, callee: NodeId) -> bool {
    s.lang.is_construction(s.str(call)) && !s.lang.is_construction(s.str(callee))
}
