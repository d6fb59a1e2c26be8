//! Java's own library, read from its table.

use std::sync::LazyLock;

use rustc_hash::FxHashMap;

use crate::lang::Collections;
use crate::types::{Kind, Ty};

pub struct Member {
    pub result: Answer,
    /// Checked exceptions by full name; none where it depends on the call.
    pub throws: Option<Vec<String>>,
}

#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Answer {
    Is(Ty),
    WidestArgument,
    Depends,
}

pub struct Class {
    pub parameters: Vec<String>,
    pub supertypes: Vec<Ty>,
    pub members: FxHashMap<String, Member>,
}

pub struct Library {
    pub classes: FxHashMap<String, Class>,
    /// Full names by simple ones.
    pub full: FxHashMap<String, String>,
}

pub static LIBRARY: LazyLock<Library> = LazyLock::new(|| read(include_str!("library.txt")));

/// Classes of values of all kinds.
pub const PLAIN_TYPES: &[&str] = &[
    "Boolean",
    "Byte",
    "CharSequence",
    "Character",
    "Double",
    "Float",
    "Integer",
    "Long",
    "Number",
    "Object",
    "Short",
    "String",
];

/// By type: the methods that only compute, with `+` those that make an object; where the first is `*`, all but those with
/// `-`.
static COMPUTING: LazyLock<FxHashMap<&str, Vec<&str>>> = LazyLock::new(|| {
    let lines = include_str!("computing.txt").lines().filter(|l| !l.starts_with('#'));
    let parts = lines.filter_map(|l| l.split_once(' '));
    parts.map(|(of, methods)| (of, methods.split(' ').collect())).collect()
});

/// Types that every file sees and of which nothing more is told.
const MORE_OF_LANG: &[&str] = &[
    "Void",
    "Override",
    "Deprecated",
    "FunctionalInterface",
    "SafeVarargs",
    "SuppressWarnings",
    "ThreadLocal",
    "Process",
    "ProcessBuilder",
    "Runtime",
    "StrictMath",
    "Appendable",
    "Readable",
    "Record",
    "NegativeArraySizeException",
    "EnumConstantNotPresentException",
    "NoSuchFieldException",
    "NoSuchMethodException",
    "InstantiationException",
    "IllegalAccessException",
    "LinkageError",
    "VirtualMachineError",
    "ExceptionInInitializerError",
    "ClassLoader",
    "Package",
    "InheritableThreadLocal",
    "ThreadGroup",
];

/// Simple names of public classes that stand in classes of the library.
pub const NESTED: &[&str] = &[
    "Entry",
    "SimpleEntry",
    "SimpleImmutableEntry",
    "State",
    "UncaughtExceptionHandler",
    "Builder",
    "Redirect",
    "Category",
    "FilteringMode",
    "IsoCountryCode",
    "LanguageRange",
    "Subset",
    "UnicodeBlock",
    "UnicodeScript",
    "Encoder",
    "Decoder",
    "OfInt",
    "OfLong",
    "OfDouble",
    "OfPrimitive",
    "GetField",
    "PutField",
    "Control",
    "Type",
    "Attributes",
    "Status",
    "Option",
    "Kind",
    "Modifier",
    "Version",
    "Controller",
    "Segment",
    "AbortPolicy",
    "CallerRunsPolicy",
    "DiscardPolicy",
    "DiscardOldestPolicy",
    "ForkJoinWorkerThreadFactory",
    "ManagedBlocker",
    "ConditionObject",
    "KeySetView",
    "EnumDesc",
    "StackFrame",
    "Caret",
    "Field",
];

/// Types whose members the table has all; those of exceptions too.
const COMPLETE: &[&str] = &[
    "java.lang.Object",
    "java.lang.Comparable",
    "java.lang.Runnable",
    "java.lang.Iterable",
    "java.lang.AutoCloseable",
    "java.io.Closeable",
    "java.io.Serializable",
    "java.lang.Cloneable",
    "java.util.RandomAccess",
    "java.util.EventListener",
    "java.util.Iterator",
    "java.util.Comparator",
    "java.util.concurrent.Callable",
    "java.util.function.Function",
    "java.util.function.BiFunction",
    "java.util.function.Supplier",
    "java.util.function.Consumer",
    "java.util.function.BiConsumer",
    "java.util.function.Predicate",
    "java.util.function.BiPredicate",
    "junit.framework.Assert",
    "junit.framework.TestCase",
];

impl Library {
    /// Whether a class surely has no member of that name.
    pub fn lacks(&self, class: &str, name: &str) -> bool {
        let complete = COMPLETE.contains(&class) || self.extends(class, "java.lang.Throwable");
        complete && self.member(class, &[], name).is_none()
    }

    /// The full name of a type of `java.lang`.
    pub fn of_lang(&self, simple: &str) -> Option<String> {
        let full = format!("java.lang.{simple}");
        (self.classes.contains_key(&full) || MORE_OF_LANG.contains(&simple)).then_some(full)
    }

    /// A member of a class or of what it extends, with the class's type arguments in it.
    pub fn member(&self, class: &str, arguments: &[Ty], name: &str) -> Option<(Answer, Option<Vec<String>>)> {
        let c = self.classes.get(class)?;
        let given: Vec<(String, Ty)> = c
            .parameters
            .iter()
            .enumerate()
            .map(|(i, p)| (p.clone(), arguments.get(i).copied().unwrap_or(Ty::UNKNOWN)))
            .collect();
        if let Some(m) = c.members.get(name) {
            let result = match m.result {
                Answer::Is(t) if t.with(&given).parts().contains(&Ty::UNKNOWN) => Answer::Depends,
                Answer::Is(t) => Answer::Is(t.with(&given)),
                other => other,
            };
            return Some((result, m.throws.clone()));
        }
        let supers = c.supertypes.iter().map(|s| s.with(&given));
        let found = supers.into_iter().find_map(|s| match s.kind() {
            Kind::Named { name: class, arguments, .. } => self.member(&class, &arguments, name),
            _ => None,
        });
        found.or_else(|| if class == "java.lang.Object" { None } else { self.member("java.lang.Object", &[], name) })
    }

    /// The type as one of another generic type, which it is or extends: its type arguments there.
    pub fn seen_as(&self, class: &str, arguments: &[Ty], wanted: &str) -> Option<Vec<Ty>> {
        if class == wanted {
            return Some(arguments.to_vec());
        }
        let c = self.classes.get(class)?;
        let given: Vec<(String, Ty)> = c.parameters.iter().cloned().zip(arguments.iter().copied()).collect();
        c.supertypes.iter().find_map(|s| match s.with(&given).kind() {
            Kind::Named { name, arguments, .. } => self.seen_as(&name, &arguments, wanted),
            _ => None,
        })
    }

    /// A method of a class, or one that it has from those it extends, only computes; whether it makes an object.
    pub fn computes(&self, class: &str, method: &str) -> Option<bool> {
        let told = COMPUTING.get(class).and_then(|all| {
            let mark = |mark: char| all.iter().any(|m| m.strip_prefix(mark) == Some(method));
            let plain = all.contains(&method) || all.first() == Some(&"*") && !mark('-');
            (plain || mark('+')).then(|| mark('+'))
        });
        let named = |s: &Ty| match s.kind() {
            Kind::Named { name, .. } => self.computes(&name, method),
            _ => None,
        };
        told.or_else(|| self.classes.get(class)?.supertypes.iter().find_map(named))
    }

    /// Whether an exception need not be declared; none where that is not known.
    pub fn is_unchecked(&self, class: &str) -> Option<bool> {
        let c = self.classes.get(class)?;
        if class == "java.lang.RuntimeException" || class == "java.lang.Error" {
            return Some(true);
        }
        let above = c.supertypes.first().and_then(|s| match s.kind() {
            Kind::Named { name, .. } => self.is_unchecked(&name),
            _ => None,
        });
        Some(above.unwrap_or(false))
    }

    /// Whether a class is another one or extends it; both of the library.
    pub fn extends(&self, class: &str, wanted: &str) -> bool {
        class == wanted
            || self.classes.get(class).is_some_and(|c| {
                c.supertypes.iter().any(|s| matches!(s.kind(), Kind::Named { name, .. } if self.extends(&name, wanted)))
            })
    }
}

fn read(text: &str) -> Library {
    let lines = || text.lines().filter(|l| !l.starts_with('#') && !l.trim().is_empty());
    let heads = lines().filter(|l| !l.starts_with(' '));
    let name_of = |head: &str| head.split(['<', ' ']).next().unwrap_or("").to_string();
    let full: FxHashMap<String, String> = heads
        .map(|h| {
            let name = name_of(h);
            (name.rsplit('.').next().unwrap_or("").to_string(), name)
        })
        .collect();
    let mut classes: FxHashMap<String, Class> = FxHashMap::default();
    let mut at = String::new();
    for line in lines() {
        let Some(member) = line.strip_prefix("  ") else {
            let (head, supers) = line.split_once(" < ").unwrap_or((line, ""));
            let parameters: Vec<String> = match head.split_once('<') {
                Some((_, p)) => p.trim_end_matches('>').split(',').map(str::to_string).collect(),
                None => Vec::new(),
            };
            let supertypes = split(supers).iter().map(|s| parse(s, &parameters, &full)).collect();
            at = name_of(head);
            classes.insert(at.clone(), Class { parameters, supertypes, members: FxHashMap::default() });
            continue;
        };
        let (told, thrown) = member.split_once(" ! ").unwrap_or((member, ""));
        let Some((name, result)) = told.split_once(' ') else { continue };
        let Some(class) = classes.get_mut(&at) else { continue };
        let result = match result {
            "@" => Answer::WidestArgument,
            "?" => Answer::Depends,
            r => Answer::Is(parse(r, &class.parameters, &full)),
        };
        let names = thrown.split(", ").filter(|t| !t.is_empty());
        let throws = if thrown == "?" {
            None
        } else {
            Some(names.map(|t| full.get(t).cloned().unwrap_or_else(|| t.to_string())).collect())
        };
        class.members.insert(name.to_string(), Member { result, throws });
    }
    Library { classes, full }
}

/// Parts of a list that are not inside brackets.
fn split(list: &str) -> Vec<String> {
    let (mut out, mut depth) = (vec![String::new()], 0);
    for c in list.chars() {
        match c {
            '<' => depth += 1,
            '>' => depth -= 1,
            _ => {}
        }
        match (c, depth) {
            (',', 0) => out.push(String::new()),
            _ => out.last_mut().expect("never empty").push(c),
        }
    }
    out.into_iter().map(|s| s.trim().to_string()).filter(|s| !s.is_empty()).collect()
}

fn parse(text: &str, parameters: &[String], full: &FxHashMap<String, String>) -> Ty {
    if let Some(element) = text.strip_suffix("[]") {
        return Ty::array_of(parse(element, parameters, full));
    }
    let (name, arguments) = text.split_once('<').map_or((text, ""), |(n, a)| (n, a.trim_end_matches('>')));
    if ["int", "long", "char", "boolean", "double", "float", "short", "byte", "void"].contains(&name) {
        return Ty::primitive(name);
    }
    if parameters.iter().any(|p| p == name) {
        return Ty::new(Kind::Parameter { name: name.into(), declared: String::new() });
    }
    // one level of brackets is all that the table has
    let inner = if text.ends_with(">>") { format!("{arguments}>") } else { arguments.to_string() };
    let arguments = split(&inner).iter().map(|a| parse(a, parameters, full)).collect();
    let name =
        if name.contains('.') { name.to_string() } else { full.get(name).cloned().unwrap_or_else(|| name.to_string()) };
    Ty::named(&name, arguments)
}

pub const COLLECTIONS: Collections = Collections {
    makers: &["ArrayList", "LinkedList"],
    asking_makers: &["HashMap", "HashSet", "LinkedHashMap", "LinkedHashSet", "StringBuilder"],
    growing: &["add", "append"],
    placing: &["put"],
    telling: &["contains", "containsKey", "get", "isEmpty", "length", "size", "toString"],
    views: &["entrySet", "keySet", "values"],
    reading: &["Collections.max", "Collections.min", "List.copyOf", "Set.copyOf", "String.join"],
    counting: &[],
    going: &[],
};

#[cfg(test)]
mod tests {
    use super::{Answer, COMPUTING, LIBRARY};
    use crate::types::Ty;

    #[test]
    fn what_computes_is_of_the_table() {
        for (name, methods) in COMPUTING.iter() {
            assert!(LIBRARY.classes.contains_key(*name), "{name}");
            let of_it = methods.iter().filter(|m| **m != "*" && !m.starts_with('-'));
            of_it.for_each(|m| assert!(LIBRARY.member(name, &[], m.trim_start_matches('+')).is_some(), "{name}.{m}"));
        }
        let known = |class: &str, method: &str| LIBRARY.computes(&format!("java.{class}"), method);
        assert_eq!(known("lang.String", "trim"), Some(false));
        assert_eq!(known("lang.String", "split"), Some(true));
        assert_eq!(known("lang.String", "chars"), None);
        assert_eq!(known("util.ArrayList", "get"), Some(false));
        assert_eq!(known("util.ArrayList", "add"), None);
        assert_eq!(known("util.Iterator", "next"), None);
        assert_eq!(known("lang.StringBuilder", "append"), None);
    }

    #[test]
    fn every_name_of_the_table_is_known() {
        for (name, class) in &LIBRARY.classes {
            let told = class.members.values().filter_map(|m| match m.result {
                Answer::Is(t) => Some(t),
                _ => None,
            });
            let thrown = class.members.values().flat_map(|m| m.throws.iter().flatten());
            assert!(thrown.into_iter().all(|t| LIBRARY.classes.contains_key(t)), "{name} throws something unknown");
            for t in told.chain(class.supertypes.iter().copied()).flat_map(Ty::parts) {
                if let crate::types::Kind::Named { name: n, .. } = t.kind() {
                    assert!(LIBRARY.classes.contains_key(&n), "{name} speaks of {n}");
                }
            }
        }
    }

    #[test]
    fn members_are_inherited_with_their_type_arguments() {
        let text = Ty::named("java.lang.String", vec![]);
        let of = |class: &str, arguments: &[Ty], name: &str| LIBRARY.member(class, arguments, name).map(|m| m.0);
        assert_eq!(of("java.util.ArrayList", &[text], "get"), Some(Answer::Is(text)));
        assert_eq!(of("java.util.ArrayList", &[], "get"), Some(Answer::Depends));
        assert_eq!(of("java.util.TreeMap", &[text, text], "size"), Some(Answer::Is(Ty::primitive("int"))));
        assert_eq!(of("java.util.ArrayList", &[text], "hashCode"), Some(Answer::Is(Ty::primitive("int"))));
        assert_eq!(of("java.util.ArrayList", &[text], "sail"), None);
        let entries = Ty::named("java.util.Set", vec![Ty::named("java.util.Map.Entry", vec![text, text])]);
        assert_eq!(of("java.util.Map", &[text, text], "entrySet"), Some(Answer::Is(entries)));
        assert_eq!(LIBRARY.seen_as("java.util.LinkedList", &[text], "java.lang.Iterable"), Some(vec![text]));
        assert_eq!(LIBRARY.is_unchecked("java.lang.NumberFormatException"), Some(true));
        assert_eq!(LIBRARY.is_unchecked("java.io.EOFException"), Some(false));
        assert_eq!(LIBRARY.is_unchecked("port.Closed"), None);
    }
}
