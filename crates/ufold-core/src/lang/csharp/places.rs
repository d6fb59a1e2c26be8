//! Where an expression is more, or less, than its value: places that are written, names that are no values, constants that
//! the compiler looks at.

use super::has_word;
use super::spelling::{is_number, of};
use super::types::Types;
use crate::lang::Definitions;
use crate::names::Source;
use crate::tree::{Field, NodeId, Role, Tree};
use crate::types::{Kind, Ty};

/// What stands for a variable or for a part of a form, or can only be a constant.
pub fn is_place(s: &Source, node: NodeId) -> bool {
    let t = &s.tree;
    let Some(p) = t.parent(node) else { return false };
    let role = t.role(node);
    let passed = matches!(t.role(p), Role::Spread | Role::KeywordArg)
        && t.children(p).any(|c| t.role(c) == Role::Token && ["ref", "out"].contains(&s.str(c)));
    let given = t.role(p).assigns() && t.field(node) == Field::Left;
    let part = match role {
        // `{ 1, 2 }` says of what only where it stands
        Role::List => s.str(node).starts_with('{'),
        // what follows `?.`
        Role::Member | Role::Index => t.child(node, Field::Object).is_none(),
        // a line of a `switch` that is a value
        Role::BoolOp => t.child(node, Field::Operator).is_none() && t.role(p) == Role::Other,
        Role::Name => s.str(node) == "base",
        Role::Call => t.child(node, Field::Callee).is_none(),
        _ => false,
    };
    passed
        || given
        || part
        || may_be_left_out(s, node)
        || is_behind_mark(s, node)
        || must_be_constant(s, node)
        || is_named(s, node)
}

/// A part of what follows `?.`
fn is_behind_mark(s: &Source, node: NodeId) -> bool {
    let t = &s.tree;
    let first = |n: NodeId| {
        std::iter::successors(Some(n), |n| t.child(*n, Field::Callee).or_else(|| t.child(*n, Field::Object))).last()
    };
    let open = |n: NodeId| matches!(t.role(n), Role::Member | Role::Index) && t.child(n, Field::Object).is_none();
    t.role(node).is_expression() && first(node).is_some_and(open)
}

/// Of what `nameof` is told, the words count.
fn is_named(s: &Source, node: NodeId) -> bool {
    let t = &s.tree;
    let calls = t.ancestors(node).take_while(|a| !t.role(*a).is_sequence()).filter(|a| t.role(*a) == Role::Call);
    let mut callees = calls.filter_map(|c| t.child(c, Field::Callee));
    callees.any(|c| s.str(c) == "nameof")
}

/// What is told to a call that some builds leave out, with all that would be computed for it.
fn may_be_left_out(s: &Source, node: NodeId) -> bool {
    let t = &s.tree;
    let plain = matches!(t.role(node), Role::Literal | Role::Name);
    let calls = t.ancestors(node).take_while(|a| !t.role(*a).is_sequence()).filter(|a| t.role(*a) == Role::Call);
    let mut callees = calls.filter_map(|c| t.child(c, Field::Callee)).map(|c| s.str(c));
    let marked = |word: &str| {
        let named = |f: NodeId| t.child(f, Field::Name).is_some_and(|n| s.str(n) == word);
        let says = |f: NodeId| t.children(f).any(|c| t.role(c) == Role::Decorator && s.str(c).contains("Conditional("));
        s.text.contains("Conditional(") && t.ids().any(|f| t.role(f) == Role::Function && named(f) && says(f))
    };
    let of_builds = |c: &str| {
        ["Debug.", "Trace.", "Contract."].iter().any(|w| c.starts_with(w)) || marked(c.rsplit('.').next().unwrap_or(c))
    };
    !plain && callees.any(of_builds)
}

fn must_be_constant(s: &Source, node: NodeId) -> bool {
    let t = &s.tree;
    let ends = |a: &NodeId| matches!(t.role(*a), Role::Block | Role::Module) || t.role(*a).is_callable();
    let mut at = node;
    for a in t.ancestors(node).take_while(|a| !ends(a)).collect::<Vec<_>>() {
        let constant = match t.role(a) {
            Role::Case => t.field(at) == Field::Value,
            Role::Parameter | Role::Decorator | Role::Jump => true,
            Role::Declare | Role::ClassField => has_word(s, a, "const") || t.child(a, Field::Type).is_none(),
            // the pattern of a line of a `switch`, what `is` compares with
            Role::BoolOp => t.child(a, Field::Operator).is_none() && t.field(at) == Field::Left && is_arm(t, a),
            Role::Compare => t.child(a, Field::Operator).is_none() && t.field(at) == Field::Right,
            _ => false,
        };
        if constant {
            return true;
        }
        at = a;
    }
    false
}

fn is_arm(t: &Tree, n: NodeId) -> bool {
    t.parent(n).is_some_and(|p| t.role(p) == Role::Other)
}

/// Literals, names of constants, and what operators make of them.
pub fn is_constant(s: &Source, expression: NodeId) -> bool {
    let t = &s.tree;
    use Role::*;
    t.subtree(expression).all(|n| match t.role(n) {
        BinaryOp | BoolOp | NotOp | Conditional | Paren | Token | Literal | UnaryOp | Type | Compare => true,
        Name => s.names.at(n).and_then(|r| r.target).is_some_and(|b| {
            let parent = t.parent(s.names.binding(b).first);
            let around = parent.and_then(|p| if t.role(p) == Assign { t.parent(p) } else { Some(p) });
            around.is_some_and(|d| has_word(s, d, "const"))
        }),
        _ => false,
    })
}

/// A type of numbers that only fitting constants become by themselves, or one that is an enumeration.
fn is_narrow(ty: Ty) -> bool {
    match ty.kind() {
        Kind::Primitive(w) => ["byte", "sbyte", "short", "ushort", "uint", "ulong", "char"].contains(&w.as_str()),
        Kind::Nullable(inner) => is_narrow(inner),
        _ => false,
    }
}

/// Where a constant's own value counts: conditions that always hold, numbers that fit because they are small, zero as a
/// value of an enumeration.
pub fn asks_more_than_type(s: &Source, value: NodeId, definitions: &Definitions) -> bool {
    let t = &s.tree;
    if must_be_constant(s, value) {
        return true;
    }
    if !is_constant(s, value) {
        return false;
    }
    // what is put together of constants is one constant
    let whole = t
        .ancestors(value)
        .take_while(|a| matches!(t.role(*a), Role::BinaryOp | Role::Paren | Role::UnaryOp) && is_constant(s, *a));
    let value = whole.last().unwrap_or(value);
    let types = Types::new(s, definitions);
    let own = types.value(value);
    let Some(parent) = t.parent(value) else { return true };
    if own == of("bool") {
        use Role::*;
        return matches!(
            t.role(parent),
            While | DoWhile | CountedFor | If | Paren | BoolOp | NotOp | Conditional | With
        );
    }
    if !is_number(own) {
        return !own.is_known();
    }
    let zero = s.str(value).trim_start_matches(['0', '.', 'x']).is_empty();
    let type_of = |f: Field| t.child(parent, f).filter(|n| *n != value).map_or(Ty::UNKNOWN, |n| types.value(n));
    let narrow = |ty: Ty| is_narrow(ty) || zero && matches!(ty.kind(), Kind::Named { .. });
    match t.role(parent) {
        Role::Assign if t.field(value) == Field::Right => narrow(type_of(Field::Left)),
        Role::Return => {
            let function = t.callable_around(parent);
            let written = function.and_then(|f| t.child(f, Field::ReturnType));
            written.is_some_and(|w| narrow(types.of_node(w)))
        }
        Role::BinaryOp | Role::AugAssign => {
            let shift =
                t.child(parent, Field::Operator).is_some_and(|o| s.str(o).contains("<<") || s.str(o).contains(">>"));
            let other = if t.field(value) == Field::Left { type_of(Field::Right) } else { type_of(Field::Left) };
            let small = ["byte", "sbyte", "short", "ushort", "char"].map(of);
            let fits =
                other.is_known() && (!is_narrow(other) || t.role(parent) == Role::BinaryOp && small.contains(&other));
            !shift && !fits
        }
        Role::Compare => {
            let other = if t.field(value) == Field::Left { type_of(Field::Right) } else { type_of(Field::Left) };
            other == of("ulong") || zero && !is_number(other)
        }
        Role::List => {
            let element = t.parent(parent).map_or(Ty::UNKNOWN, |p| match t.role(p) {
                Role::List => types.value(p),
                Role::Assign => t.child(p, Field::Left).map_or(Ty::UNKNOWN, |l| types.value(l)),
                _ => Ty::UNKNOWN,
            });
            let written = t.parent(parent).is_some_and(|p| t.role(p) == Role::Call);
            !written && !matches!(element.kind(), Kind::Array(e) if e.is_known() && !narrow(e))
        }
        Role::Conditional => {
            let both = t.conditional_parts(parent).map(|[_, a, b]| (types.value(a), types.value(b)));
            !both.is_some_and(|(a, b)| a == b && a.is_known())
        }
        Role::Arguments => narrow(parameter_of(s, value, types)),
        _ => false,
    }
}

/// The type of the parameter that a method of the file has for an argument.
fn parameter_of(s: &Source, value: NodeId, types: Types) -> Ty {
    let t = &s.tree;
    let list = t.parent(value).unwrap_or(Tree::ROOT);
    let at = t.children(list).position(|a| a == value).unwrap_or(0);
    let callee = t.parent(list).and_then(|c| t.child(c, Field::Callee));
    let word = callee.map(|c| t.child(c, Field::Member).unwrap_or(c)).map_or("", |n| s.str(n));
    let named = |f: &NodeId| t.role(*f) == Role::Function && t.child(*f, Field::Name).is_some_and(|n| s.str(n) == word);
    let nth = |f: NodeId| {
        let p = t.children(t.child(f, Field::Parameters)?).nth(at)?;
        Some(types.of_node(t.child(p, Field::Type)?))
    };
    let mut all = t.ids().filter(named).filter_map(nth);
    all.find(|ty| is_narrow(*ty) || matches!(ty.kind(), Kind::Named { .. })).unwrap_or(Ty::UNKNOWN)
}

/// Operators of the language's own types run no code of others; members may, when they are properties.
pub fn doing(s: &Source, expression: NodeId) -> crate::lang::Doing {
    use crate::lang::Doing;
    let t = &s.tree;
    let none = |_: &Source, _: &str| None;
    let types = Types::new(s, &none);
    let plain = |n: NodeId| matches!(types.value(n).kind(), Kind::Primitive(w) if w != "object");
    let sides = || [Field::Left, Field::Right].map(|f| t.child(expression, f));
    match t.role(expression) {
        // only the library's own are known to be no more than a look
        Role::Member if is_of_library(s, expression, types) => match t.field(expression) {
            Field::Callee => Doing::Nothing,
            _ if types.value(expression).is_known() => Doing::MayThrow,
            _ => Doing::Anything,
        },
        Role::Member if is_own_field(s, expression) => Doing::MayThrow,
        Role::Index => {
            let of_it = t.child(expression, Field::Object).map_or(Ty::UNKNOWN, |o| types.value(o));
            let known = matches!(of_it.kind(), Kind::Array(_) | Kind::Primitive(_) | Kind::Named { only_in: None, .. });
            if known { Doing::MayThrow } else { Doing::Anything }
        }
        Role::BinaryOp | Role::AugAssign | Role::Compare => {
            let [a, b] = sides();
            let operator = t.child(expression, Field::Operator).map_or("", |o| s.str(o));
            let known = a.is_some_and(plain) && b.is_none_or(|b| plain(b) || s.str(b) == "null");
            let divides = operator.starts_with(['/', '%']) || s.lang.mode(s, expression) != 0;
            let is_null = b.is_some_and(|b| s.str(b) == "null") && ["==", "!="].contains(&operator);
            let pattern = t.role(expression) == Role::Compare && operator.is_empty();
            match () {
                _ if pattern => Doing::MayThrow,
                _ if known && !divides => Doing::Nothing,
                _ if known || is_null && a.is_some_and(|a| types.value(a).is_known()) => Doing::MayThrow,
                _ => Doing::Anything,
            }
        }
        Role::UnaryOp | Role::NotOp => {
            let written = t.child(expression, Field::Type);
            // `x as T` asks, and converts nothing
            let asks = written.is_some_and(|w| t.child(expression, Field::Expression).is_some_and(|x| x < w));
            let own = t.child(expression, Field::Expression).is_none_or(plain);
            match (written.is_some(), own) {
                _ if asks => Doing::Nothing,
                (false, true) => Doing::Nothing,
                (true, true) => Doing::MayThrow,
                _ => Doing::Anything,
            }
        }
        _ => Doing::Anything,
    }
}

fn is_of_library(s: &Source, member: NodeId, types: Types) -> bool {
    let object = s.tree.child(member, Field::Object);
    let of_it = object.map_or(Ty::UNKNOWN, |o| types.owner(o));
    matches!(of_it.kind(), Kind::Array(_) | Kind::Primitive(_) | Kind::Named { only_in: None, .. })
}

/// `this.berth`, where that is a field.
fn is_own_field(s: &Source, member: NodeId) -> bool {
    let t = &s.tree;
    let of_this = t.child(member, Field::Object).is_some_and(|o| s.str(o) == "this");
    let class = t.ancestor(member, &[Role::Class]).and_then(|c| s.names.scope_of(c));
    let word = t.child(member, Field::Member).map_or("", |m| s.str(m));
    let own = class.and_then(|c| s.names.declared_in(c, word)).filter(|_| of_this);
    own.is_some_and(|b| !super::classes::is_property(s, b))
}

/// A lambda can use a name: no parameter that stands for a variable of the caller, and no part of a struct's object.
pub fn is_taken(s: &Source, name: NodeId) -> bool {
    let t = &s.tree;
    let in_struct = || t.ancestor(name, &[Role::Class]).is_some_and(|c| super::classes::class_word(s, c) == "struct");
    let Some(b) = s.names.at(name).and_then(|r| r.target) else { return s.str(name) != "this" || !in_struct() };
    let parameter = t.parent(s.names.binding(b).first).filter(|p| t.role(*p) == Role::Parameter);
    let by_reference = parameter.is_some_and(|p| ["ref", "out", "in"].iter().any(|w| has_word(s, p, w)));
    let of_object = s.str(name) == "this" || s.names.is_member(b) && !super::classes::is_static(s, b);
    !(by_reference || of_object && in_struct())
}
