//! Functions as values: the interfaces of `java.util.function` that take and give what is asked for.
//!
//! A primitive goes only where an interface has it as such: boxed, it would be another value to `==` and to overloads.
//! None where nothing fits, or where checked exceptions are thrown: an interface of its own is written for those.

use super::scopes::class_word;
use crate::lang::{FunctionHead, FunctionType, Reach};
use crate::names::{Source, Space};
use crate::tree::{Field, NodeId, Role};

/// Interfaces with the member that calls them.
const MEMBERS: &[(&str, &str)] = &[
    ("Runnable", "run"),
    ("Supplier", "get"),
    ("BooleanSupplier", "getAsBoolean"),
    ("IntSupplier", "getAsInt"),
    ("LongSupplier", "getAsLong"),
    ("DoubleSupplier", "getAsDouble"),
    ("Consumer", "accept"),
    ("IntConsumer", "accept"),
    ("LongConsumer", "accept"),
    ("DoubleConsumer", "accept"),
    ("BiConsumer", "accept"),
    ("Predicate", "test"),
    ("IntPredicate", "test"),
    ("LongPredicate", "test"),
    ("DoublePredicate", "test"),
    ("BiPredicate", "test"),
    ("Function", "apply"),
    ("IntFunction", "apply"),
    ("LongFunction", "apply"),
    ("DoubleFunction", "apply"),
    ("BiFunction", "apply"),
    ("ToIntFunction", "applyAsInt"),
    ("ToLongFunction", "applyAsLong"),
    ("ToDoubleFunction", "applyAsDouble"),
    ("ToIntBiFunction", "applyAsInt"),
    ("ToLongBiFunction", "applyAsLong"),
    ("ToDoubleBiFunction", "applyAsDouble"),
    ("IntUnaryOperator", "applyAsInt"),
    ("LongUnaryOperator", "applyAsLong"),
    ("DoubleUnaryOperator", "applyAsDouble"),
];

fn simple(of_type: &str) -> &str {
    of_type.split('<').next().unwrap_or("")
}

pub fn member(of_type: &str) -> Option<&'static str> {
    MEMBERS.iter().find(|(name, _)| *name == simple(of_type)).map(|(_, m)| *m)
}

/// `Int`, `Long` and `Double` for the primitives that have interfaces of their own; an error for the others.
fn part(of_type: &str) -> Result<Option<&'static str>, ()> {
    match of_type {
        "int" => Ok(Some("Int")),
        "long" => Ok(Some("Long")),
        "double" => Ok(Some("Double")),
        "boolean" | "byte" | "short" | "char" | "float" => Err(()),
        _ => Ok(None),
    }
}

pub fn of(parameters: &[(String, String)], results: &[String]) -> Option<String> {
    let [result] = results else { return None };
    let result = result.as_str();
    let types: Vec<&str> = parameters.iter().map(|(_, t)| t.as_str()).collect();
    let own = types.iter().map(|t| part(t)).collect::<Result<Vec<_>, ()>>().ok()?;
    let truth = result == "boolean";
    let given = if truth || result == "void" { None } else { part(result).ok()? };
    let generic = |name: &str, all: &[&str]| format!("{name}<{}>", all.join(", "));
    match (types.as_slice(), own.as_slice(), given) {
        ([], [], _) if result == "void" => Some("Runnable".into()),
        ([], [], _) if truth => Some("BooleanSupplier".into()),
        ([], [], Some(p)) => Some(format!("{p}Supplier")),
        ([], [], None) => Some(generic("Supplier", &[result])),
        ([_], [Some(p)], _) if result == "void" => Some(format!("{p}Consumer")),
        ([t], [None], _) if result == "void" => Some(generic("Consumer", &[t])),
        ([_], [Some(p)], _) if truth => Some(format!("{p}Predicate")),
        ([t], [None], _) if truth => Some(generic("Predicate", &[t])),
        ([_], [Some(p)], Some(q)) => (*p == q).then(|| format!("{p}UnaryOperator")),
        ([_], [Some(p)], None) => Some(generic(&format!("{p}Function"), &[result])),
        ([t], [None], Some(q)) => Some(generic(&format!("To{q}Function"), &[t])),
        ([t], [None], None) => Some(generic("Function", &[t, result])),
        ([t, u], [None, None], _) if result == "void" => Some(generic("BiConsumer", &[t, u])),
        ([t, u], [None, None], _) if truth => Some(generic("BiPredicate", &[t, u])),
        ([t, u], [None, None], Some(q)) => Some(generic(&format!("To{q}BiFunction"), &[t, u])),
        ([t, u], [None, None], None) => Some(generic("BiFunction", &[t, u, result])),
        _ => None,
    }
}

/// The import that the interface needs, unless the file has it; nothing for a type that is no such interface.
pub fn imports(at: &Source, of_type: &str) -> Vec<(String, String)> {
    let name = simple(of_type);
    if member(of_type).is_none() || name == "Runnable" {
        return Vec::new();
    }
    let import = at.names.in_module_as(Space::Types, name).and_then(|b| at.names.binding(b).import.clone());
    let there = import.is_some_and(|i| i.module == "java.util.function");
    if there { Vec::new() } else { vec![(format!("import java.util.function.{name};"), name.to_string())] }
}

/// An interface of one method.
pub fn write(f: &FunctionType, indent: &str, unit: &str) -> (String, &'static str) {
    let reach = match f.reach {
        Reach::Own => "private ",
        Reach::Near => "",
        Reach::Below => "protected ",
        Reach::All => "public ",
    };
    let member = match (f.result.as_str(), f.parameters.is_empty()) {
        ("void", true) => "run",
        ("void", false) => "accept",
        ("boolean", _) => "test",
        (_, true) => "get",
        _ => "apply",
    };
    let list: Vec<String> = f.parameters.iter().map(|(name, of)| format!("{of} {name}")).collect();
    let throws = if f.throws.is_empty() { String::new() } else { format!(" throws {}", f.throws.join(", ")) };
    let head = format!("{indent}@FunctionalInterface\n{indent}{reach}interface {} {{\n", f.name);
    (format!("{head}{indent}{unit}{} {member}({}){throws};\n{indent}}}\n", f.result, list.join(", ")), member)
}

/// The one method of an interface that has nothing else.
pub fn head(s: &Source, class: NodeId) -> Option<FunctionHead> {
    let t = &s.tree;
    let body = t.child(class, Field::Body)?;
    let inside: Vec<NodeId> = t.children(body).filter(|c| t.role(*c) != Role::Token).collect();
    let [method] = inside[..] else { return None };
    let plain = class_word(s, class) == "interface"
        && t.child(class, Field::TypeParams).is_none()
        && t.child(class, Field::Bases).is_none()
        && t.role(method) == Role::Function
        && t.child(method, Field::Body).is_none()
        && t.child(method, Field::TypeParams).is_none();
    let list = t.child(method, Field::Parameters).filter(|_| plain)?;
    let of = |p: NodeId| t.child(p, Field::Type).filter(|_| !s.str(p).contains("..."));
    Some(FunctionHead {
        member: t.child(method, Field::Name)?,
        parameters: t.children(list).map(of).collect::<Option<_>>()?,
        result: t.child(method, Field::ReturnType)?,
        throws: super::members::throws_of(s, method).into_iter().map(|n| s.str(n).to_string()).collect(),
        reach: super::scopes::reach_of(s, class),
    })
}

#[cfg(test)]
mod tests {
    use super::{member, of};

    #[test]
    fn the_interface_for_a_function() {
        for (parameters, result, expected) in [
            (&[][..], "void", Some("Runnable")),
            (&[], "int", Some("IntSupplier")),
            (&[], "String", Some("Supplier<String>")),
            (&[], "char", None),
            (&["Ship"], "void", Some("Consumer<Ship>")),
            (&["Ship"], "boolean", Some("Predicate<Ship>")),
            (&["Ship"], "String", Some("Function<Ship, String>")),
            (&["Ship"], "double", Some("ToDoubleFunction<Ship>")),
            (&["int"], "int", Some("IntUnaryOperator")),
            (&["int"], "long", None),
            (&["int"], "Ship", Some("IntFunction<Ship>")),
            (&["char"], "Ship", None),
            (&["Ship", "Berth"], "void", Some("BiConsumer<Ship, Berth>")),
            (&["Ship", "int"], "void", None),
            (&["A", "B", "C"], "void", None),
        ] {
            let parameters: Vec<(String, String)> = parameters.iter().map(|t| ("x".into(), t.to_string())).collect();
            let found = of(&parameters, &[result.to_string()]);
            assert_eq!(found.as_deref(), expected, "{parameters:?} to {result}");
            assert!(found.is_none_or(|f| member(&f).is_some()));
        }
    }
}
