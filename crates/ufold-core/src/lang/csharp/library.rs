//! .NET's own library, read from its table, by the simple names of its types.

use std::sync::LazyLock;

use rustc_hash::FxHashMap;

use crate::lang::Collections;
use crate::types::{Kind, Ty};

/// What a member gives.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Answer {
    Is(Ty),
    WidestArgument,
    Depends,
}

pub struct Class {
    pub space: String,
    parameters: Vec<String>,
    above: Vec<Ty>,
    is_enum: bool,
    /// Names of those that are no methods begin with a dot.
    members: FxHashMap<String, Answer>,
}

pub struct Library {
    classes: FxHashMap<String, Class>,
}

pub static LIBRARY: LazyLock<Library> = LazyLock::new(|| read(include_str!("library.txt")));

/// By name and number of type arguments, as `Task` and `Task<T>` are two.
fn key(name: &str, arguments: usize) -> String {
    if arguments == 0 { name.to_string() } else { format!("{name}`{arguments}") }
}

impl Library {
    pub fn class(&self, name: &str, arguments: usize) -> Option<&Class> {
        self.classes.get(&key(name, arguments))
    }

    /// With any number of type arguments.
    pub fn any_class(&self, name: &str) -> Option<&Class> {
        (0..=4).find_map(|n| self.class(name, n))
    }

    /// A member of a type or of what it is seen as, with a dot before the name of one that is no method.
    pub fn member(&self, of: Ty, name: &str) -> Option<Answer> {
        let (class, given) = self.opened(of)?;
        match class.members.get(name) {
            Some(Answer::Is(t)) => Some(Answer::Is(t.with(&given))),
            Some(other) => Some(*other),
            None if of == Ty::primitive("object") => None,
            None => {
                let mut above = class.above.iter().map(|a| a.with(&given)).chain([Ty::primitive("object")]);
                above.find_map(|a| self.member(a, name))
            }
        }
    }

    /// What going through a value gives, one by one.
    pub fn element(&self, of: Ty) -> Option<Ty> {
        if let Kind::Named { name, arguments, .. } = of.kind()
            && name == "IEnumerable"
        {
            return arguments.first().copied();
        }
        let (class, given) = self.opened(of)?;
        class.above.iter().find_map(|a| self.element(a.with(&given)))
    }

    /// A constant of an enumeration.
    pub fn is_enum(&self, of: Ty) -> bool {
        self.opened(of).is_some_and(|(class, _)| class.is_enum)
    }

    fn opened(&self, of: Ty) -> Option<(&Class, Vec<(String, Ty)>)> {
        let (name, arguments) = match of.kind() {
            Kind::Primitive(name) => (name, Vec::new()),
            Kind::Named { name, arguments, only_in: None } => (name, arguments),
            _ => return None,
        };
        let class = self.class(&name, arguments.len())?;
        Some((class, class.parameters.iter().cloned().zip(arguments).collect()))
    }
}

fn read(text: &str) -> Library {
    let mut classes: FxHashMap<String, Class> = FxHashMap::default();
    let mut at = String::new();
    for line in text.lines().filter(|l| !l.starts_with('#') && !l.trim().is_empty()) {
        if let Some((name, result)) = line.strip_prefix("  ").and_then(|m| m.split_once(' ')) {
            if let Some(class) = classes.get_mut(&at) {
                let answer = match result {
                    "@" => Answer::WidestArgument,
                    "?" => Answer::Depends,
                    r => Answer::Is(parse(r, &class.parameters)),
                };
                class.members.insert(name.to_string(), answer);
            }
            continue;
        }
        let (line, is_enum) = line.strip_suffix(" = enum").map_or((line, false), |l| (l, true));
        let (head, above) = line.split_once(" < ").unwrap_or((line, ""));
        let Some((name, space)) = head.split_once(' ') else { continue };
        let (name, list) = name.split_once('<').unwrap_or((name, ""));
        let parameters: Vec<String> =
            list.trim_end_matches('>').split(',').filter(|p| !p.is_empty()).map(str::to_string).collect();
        at = key(name, parameters.len());
        let above = above.split(" & ").filter(|a| !a.is_empty()).map(|a| parse(a, &parameters)).collect();
        let class = Class { space: space.to_string(), parameters, above, is_enum, members: FxHashMap::default() };
        classes.insert(at.clone(), class);
    }
    Library { classes }
}

fn parse(text: &str, parameters: &[String]) -> Ty {
    let text = text.trim();
    if let Some(element) = text.strip_suffix("[]") {
        return Ty::array_of(parse(element, parameters));
    }
    if parameters.iter().any(|p| p == text) {
        return Ty::new(Kind::Parameter { name: text.to_string(), declared: String::new() });
    }
    if let Some((name, list)) = text.strip_suffix('>').and_then(|t| t.split_once('<')) {
        let mut depth = 0;
        let parts = list.split(|c: char| {
            depth += i32::from(c == '<') - i32::from(c == '>');
            c == ',' && depth == 0
        });
        return Ty::named(name, parts.map(|p| parse(p, parameters)).collect());
    }
    if super::words::PREDEFINED.contains(&text) { Ty::primitive(text) } else { Ty::named(text, Vec::new()) }
}

pub static COLLECTIONS: Collections = Collections {
    makers: &[],
    asking_makers: &[],
    growing: &[],
    placing: &[],
    telling: &[],
    views: &[],
    reading: &[],
    counting: &[],
    going: &[],
};

#[cfg(test)]
mod tests {
    use super::{Answer, LIBRARY};
    use crate::types::Ty;

    #[test]
    fn members_with_the_types_of_their_class() {
        let text = Ty::primitive("string");
        let list = Ty::named("List", vec![text]);
        let is = |t: Ty| Some(Answer::Is(t));
        assert_eq!(LIBRARY.member(list, "Find"), is(text));
        assert_eq!(LIBRARY.member(list, "ToArray"), is(Ty::array_of(text)));
        assert_eq!(LIBRARY.member(list, "Any"), is(Ty::primitive("bool")));
        assert_eq!(LIBRARY.member(list, "GetHashCode"), is(Ty::primitive("int")));
        assert_eq!(LIBRARY.member(list, ".Count"), is(Ty::primitive("int")));
        assert_eq!(LIBRARY.member(list, ".Any"), None);
        assert_eq!(LIBRARY.member(list, "Sail"), None);
        assert_eq!(LIBRARY.element(list), Some(text));
        let rows = Ty::named("Dictionary", vec![text, Ty::primitive("int")]);
        assert_eq!(LIBRARY.element(rows), Some(Ty::named("KeyValuePair", vec![text, Ty::primitive("int")])));
        assert_eq!(LIBRARY.member(Ty::named("Task", vec![text]), ".Result"), is(text));
        assert_eq!(LIBRARY.member(Ty::named("Task", Vec::new()), ".Result"), None);
    }
}
