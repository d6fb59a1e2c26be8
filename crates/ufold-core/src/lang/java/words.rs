//! Words of Java and of its common libraries, and what depends on more than a value's type.

use super::has_word;
use super::spelling::unboxed;
use super::typing::Types;
use crate::lang::{Definitions, Doing, Look, Sort};
use crate::names::Source;
use crate::tree::{Field, NodeId, Role, Tree};
use crate::types::{Kind, Ty};

pub const KEYWORDS: &[&str] = &[
    "abstract",
    "assert",
    "boolean",
    "break",
    "byte",
    "case",
    "catch",
    "char",
    "class",
    "const",
    "continue",
    "default",
    "do",
    "double",
    "else",
    "enum",
    "extends",
    "false",
    "final",
    "finally",
    "float",
    "for",
    "goto",
    "if",
    "implements",
    "import",
    "instanceof",
    "int",
    "interface",
    "long",
    "native",
    "new",
    "null",
    "package",
    "private",
    "protected",
    "public",
    "record",
    "return",
    "sealed",
    "short",
    "static",
    "strictfp",
    "super",
    "switch",
    "synchronized",
    "this",
    "throw",
    "throws",
    "transient",
    "true",
    "try",
    "var",
    "void",
    "volatile",
    "while",
    "yield",
];

/// Members that the language or its library gives a meaning.
pub const SPECIAL: &[&str] = &[
    "main",
    "toString",
    "equals",
    "hashCode",
    "compareTo",
    "clone",
    "finalize",
    "close",
    "run",
    "call",
    "get",
    "apply",
    "accept",
    "test",
    "iterator",
    "next",
    "hasNext",
    "remove",
    "readObject",
    "writeObject",
    "readResolve",
    "writeReplace",
    "valueOf",
    "values",
];

/// Ends of calls that see who called them.
pub const FRAMES: &[&str] = &[
    "getStackTrace",
    "getCallerClass",
    "StackWalker.getInstance",
    "Thread.dumpStack",
    "MethodHandles.lookup",
    "fillInStackTrace",
];

pub const LISTINGS: &[&str] = &[
    "getMethods",
    "getDeclaredMethods",
    "getFields",
    "getDeclaredFields",
    "getDeclaredConstructors",
    "getConstructors",
    "getDeclaredClasses",
];

pub const LOOKUPS: &[&str] = &[
    "getMethod",
    "getDeclaredMethod",
    "getField",
    "getDeclaredField",
    "findVirtual",
    "findStatic",
    "getMethods",
    "getDeclaredMethods",
    "getFields",
    "getDeclaredFields",
    "getDeclaredConstructors",
    "getConstructors",
    "getDeclaredClasses",
    "invokeMethod",
];

/// What a call of one of these looks for. `class_of`: the object whose class a value is.
pub fn look(
    s: &Source,
    call: NodeId,
    word: &str,
    arguments: &[NodeId],
    class_of: &dyn Fn(NodeId) -> Option<NodeId>,
) -> Option<Look> {
    let sort = match word {
        _ if word.ends_with("Field") || word.ends_with("Fields") => Some(Sort::Value),
        _ if word.ends_with("Method") || word.ends_with("Methods") => Some(Sort::Function),
        _ => None,
    };
    let look = match word {
        _ if LISTINGS.contains(&word) && !arguments.is_empty() => return None,
        _ if LISTINGS.contains(&word) => Look { names: None, ..Look::on_object(s, call, &[]) },
        "findVirtual" | "findStatic" => Look::second(arguments),
        "invokeMethod" => return Some(Look::all(&[])),
        // without a name it is another's
        _ => Look::on_object(s, call, &[*arguments.first()?]),
    };
    let object = look.object.and_then(|o| named_class(s, o).or_else(|| class_of(o)));
    Some(Look { object, sort, ..look })
}

/// The name in `Berth.class`, or in what a variable that has that value was given.
fn named_class(s: &Source, value: NodeId) -> Option<NodeId> {
    let t = &s.tree;
    if t.role(value) == Role::Other && s.str(value).ends_with(".class") {
        return t.children(value).next().filter(|n| t.role(*n) == Role::Name);
    }
    let binding = s.names.binding(s.names.at(value)?.target?);
    let given = t.parent(binding.first).filter(|a| t.role(*a) == Role::Assign && binding.writes == 1);
    given.and_then(|a| t.child(a, Field::Right)).filter(|v| t.role(*v) == Role::Other).and_then(|v| named_class(s, v))
}

pub const DATA: &[&str] = &["readValue", "fromJson", "readObject"];

/// The oldest Java that has what a file uses: private methods of interfaces, `var`, arrows in `switch`, text blocks,
/// records, sealed classes. What is not looked for does not count.
pub fn edition(t: &Tree, text: &str) -> u8 {
    let word = |n: NodeId, w: &str| t.children(n).any(|c| t.role(c) == Role::Token && t.text(c, text) == w);
    let class = |n: NodeId| t.child(n, Field::Name).map_or("", |name| &text[t.span(n).start..t.span(name).start]);
    let says = |n: NodeId, w: &str| class(n).split_whitespace().any(|x| x == w);
    let needs = |n: NodeId| match t.role(n) {
        Role::Case if t.child(n, Field::Operator).is_some() => 14,
        Role::Literal if t.text(n, text).starts_with("\"\"\"") => 15,
        Role::Name if t.field(n) == Field::Type && t.text(n, text) == "var" => 10,
        Role::Class if says(n, "sealed") => 17,
        Role::Class if says(n, "record") => 16,
        Role::Function if word(n, "private") && t.ancestor(n, &[Role::Class]).is_some_and(|c| says(c, "interface")) => {
            9
        }
        _ => 0,
    };
    t.ids().map(needs).max().unwrap_or(0)
}

/// Where a literal's own value counts: constants narrowed by assignment (JLS 5.2), labels, what is always so in a loop,
/// constant variables; where the kind of a number decides what is done.
pub fn asks_more_than_type(s: &Source, value: NodeId, definitions: &Definitions) -> bool {
    let t = &s.tree;
    let label = |n: NodeId| t.role(n) == Role::Other && t.parent(n).is_some_and(|c| t.role(c) == Role::Case);
    if t.parent(value).is_some_and(label) {
        return true;
    }
    if !is_constant(s, value) {
        return false;
    }
    // what is put together of constants is one constant
    let whole = t.ancestors(value).take_while(|a| {
        matches!(t.role(*a), Role::BinaryOp | Role::Paren | Role::UnaryOp)
            && t.child(*a, Field::Type).is_none()
            && is_constant(s, *a)
    });
    let (types, text) = (Types::new(s, definitions), Ty::named("java.lang.String", Vec::new()));
    let whole = whole.last().unwrap_or(value);
    if whole != value && types.value(whole) == text {
        return true;
    }
    let value = whole;
    let own = types.value(value);
    let Some(parent) = t.parent(value) else { return true };
    let is_truth = own == Ty::primitive("boolean");
    let narrow =
        |ty: Ty| !ty.is_known() || unboxed(ty).is_some_and(|p| ["byte", "short", "char"].contains(&p.as_str()));
    let number = unboxed(own).is_some_and(|p| p == "int" || p == "char" || p == "short" || p == "byte");
    match t.role(parent) {
        // a condition that is always so ends a loop's way on
        Role::While | Role::DoWhile | Role::CountedFor | Role::Case | Role::Decorator => true,
        Role::Paren if is_truth => true,
        Role::Paren | Role::BoolOp | Role::NotOp if is_truth => true,
        Role::If => is_truth,
        Role::Assign if t.field(value) == Field::Right => {
            let around = t.parent(parent);
            let fixed = around.is_some_and(|d| t.role(d) == Role::Declare && has_word(s, d, "final"));
            fixed || number && narrow(t.child(parent, Field::Left).map_or(Ty::UNKNOWN, |l| types.value(l)))
        }
        Role::Return => {
            let function = t.callable_around(parent);
            let written = function.and_then(|f| t.child(f, Field::ReturnType));
            number && written.is_none_or(|w| narrow(types.of_node(w)))
        }
        // what an array holds or a switch takes is not looked at, but for the array's length
        Role::Other => !s.str(parent).starts_with('['),
        Role::Conditional => {
            let both = t.conditional_parts(parent).map(|[_, a, b]| (types.value(a), types.value(b)));
            !both.is_some_and(|(a, b)| a == b && a.is_known())
        }
        // `+` of two constants is one
        Role::Compare => !number && !is_truth && unboxed(own).is_none(),
        _ => false,
    }
}

/// Literals, names of finals, and what operators make of them: perhaps a constant of the compiler.
pub fn is_constant(s: &Source, expression: NodeId) -> bool {
    let t = &s.tree;
    let capitals = |n: NodeId| s.str(n).chars().all(|c| c.is_uppercase() || c == '_' || c.is_ascii_digit());
    use Role::*;
    t.subtree(expression).all(|n| match t.role(n) {
        BinaryOp | BoolOp | NotOp | Conditional | Paren | Token | Literal | UnaryOp | Type | Compare | Member => true,
        MemberName => capitals(n),
        Name if t.field(n) == Field::Object => s.str(n).starts_with(char::is_uppercase),
        Name => match s.names.at(n).and_then(|r| r.target).map(|b| s.names.binding(b)) {
            // inherited, or imported
            None => capitals(n),
            Some(b) if b.import.is_some() => capitals(n),
            Some(b) => {
                let constant = t.parent(b.first).is_some_and(|p| t.role(p) == Assign);
                let declared = t.parent(b.first).and_then(|p| t.parent(p)).filter(|_| constant);
                declared.is_some_and(|d| has_word(s, d, "final") || is_of_interface(s, d))
            }
        },
        _ => false,
    })
}

/// `null` in a place where it is of the type that others have there: no overload is chosen by it.
pub fn nothing_fits(s: &Source, value: NodeId, of: Ty, definitions: &Definitions) -> bool {
    let t = &s.tree;
    let types = Types::new(s, definitions);
    if s.str(value) != "null" || !of.is_known() || matches!(of.kind(), Kind::Primitive(_)) {
        return false;
    }
    let Some(parent) = t.parent(value) else { return false };
    match t.role(parent) {
        Role::Return | Role::Compare => true,
        // `var` would have no type
        Role::Assign => t.child(parent, Field::Left).is_some_and(|l| types.value(l) == of),
        Role::Arguments => t.parent(parent).is_some_and(|call| types.is_only_target(call)),
        _ => false,
    }
}

fn is_of_interface(s: &Source, field: NodeId) -> bool {
    let class = s.tree.ancestor(field, &[Role::Class]).filter(|_| s.tree.role(field) == Role::ClassField);
    class.is_some_and(|c| super::scopes::class_word(s, c) == "interface")
}

/// Of a primitive type, or a text.
pub fn is_plain_value(s: &Source, value: NodeId) -> bool {
    let of = Types::new(s, &|_: &Source, _: &str| None).value(value);
    of == Ty::named("java.lang.String", Vec::new()) || matches!(of.kind(), Kind::Primitive(_))
}

/// Operators run no code of others, but for `+` that makes a text of an object; dividing and unboxing may throw.
pub fn doing(s: &Source, expression: NodeId) -> Doing {
    let t = &s.tree;
    let none = |_: &Source, _: &str| None;
    let types = Types::new(s, &none);
    let kind = |n: NodeId| types.value(n);
    let text = Ty::named("java.lang.String", Vec::new());
    let plain = |n: NodeId| matches!(kind(n).kind(), Kind::Primitive(_));
    match t.role(expression) {
        Role::Member | Role::Index => Doing::MayThrow,
        Role::BinaryOp | Role::AugAssign => {
            let [Some(a), Some(b)] = [Field::Left, Field::Right].map(|f| t.child(expression, f)) else {
                // `n++`
                return if t.children(expression).any(plain) { Doing::Nothing } else { Doing::MayThrow };
            };
            let told = |n: NodeId| kind(n) == text || unboxed(kind(n)).is_some();
            let operator = t.child(expression, Field::Operator).map_or("", |o| s.str(o));
            match operator.trim_end_matches('=') {
                "+" if !told(a) || !told(b) => Doing::Anything,
                "/" | "%" => Doing::MayThrow,
                _ if plain(a) && plain(b) || kind(a) == text && told(b) || kind(b) == text && told(a) => Doing::Nothing,
                _ => Doing::MayThrow,
            }
        }
        Role::Compare | Role::NotOp | Role::UnaryOp => {
            let parts = t.children(expression).filter(|c| t.role(*c) != Role::Token && t.field(*c) != Field::Type);
            let cast = t.child(expression, Field::Type).is_some();
            if !cast && parts.into_iter().all(plain) { Doing::Nothing } else { Doing::MayThrow }
        }
        _ => Doing::Anything,
    }
}

/// Annotations of the language itself, which look nothing up by its name.
const QUIET: &[&str] = &["@Override", "@Deprecated", "@SuppressWarnings", "@SafeVarargs", "@FunctionalInterface"];

/// What else knows a member by its name; whether that keeps it from getting another one.
pub fn named_from_outside(s: &Source, declaration: NodeId) -> Option<(&'static str, bool)> {
    let t = &s.tree;
    if t.role(declaration) == Role::Parameter {
        return Some(("the accessor and the constructor of a record are named by it", true));
    }
    let class = t.ancestor(declaration, &[Role::Class]);
    let in_annotation =
        class.is_some_and(|c| super::scopes::class_word(s, c) == "interface" && s.str(c).contains("@interface"));
    if in_annotation {
        return Some(("it is named where the annotation is used", true));
    }
    if t.role(declaration) == Role::ClassField && t.child(declaration, Field::Type).is_none() {
        return Some(("nothing shows a constant of an enumeration, or looks it up, by its name", false));
    }
    let marks = |n: NodeId| {
        t.children(n).any(|c| t.role(c) == Role::Decorator && !QUIET.iter().any(|q| s.str(c).starts_with(q)))
    };
    let field = t.role(declaration) == Role::ClassField;
    if marks(declaration) || field && class.is_some_and(marks) {
        return Some(("what reads the annotations here does not look it up by its name", false));
    }
    None
}

/// A word of what hands a function or a constructor on.
pub fn hands_on(s: &Source, word: NodeId) -> bool {
    let around = s.tree.parent(word).filter(|p| s.tree.role(*p) == Role::Other);
    let last = around.and_then(|p| s.str(p).rsplit_once("::")).map(|(_, last)| last);
    last.is_some_and(|last| last == "new" || last == s.str(word))
}
