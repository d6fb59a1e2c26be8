//! Type expressions: read into types, and written again.
//!
//! What the rules need no parts of (mapped and conditional types, intersections, `keyof`, …) stays a text, which means
//! something only in its own file. A name is the definition that it stands for, so that two files may write it
//! differently; a name from outside the project is what its import names.

use std::cell::RefCell;
use std::sync::Arc;

use rustc_hash::FxHashMap;

use crate::lang::Definitions;
use crate::names::{Names, Source};
use crate::tree::{Field, NodeId, Role};
use crate::types::{Kind, Ty};

/// Object types that are longer are given a name by those who write them.
const LONGEST_SHAPE: usize = 60;

/// Definitions that were met, by file and name.
pub type Seen = RefCell<FxHashMap<(String, String), (Arc<Source>, NodeId)>>;

/// Reads what is written at a place of a file, or in the data about the library.
#[derive(Clone, Copy)]
pub struct Reader<'a> {
    /// The file and the place; none for the library, whose words are the same everywhere.
    pub home: Option<(&'a Source, NodeId)>,
    /// Words that are type parameters, besides those that the place sees.
    pub parameters: &'a [String],
    pub definitions: &'a Definitions<'a>,
    pub seen: &'a Seen,
}

impl Reader<'_> {
    pub fn read(&self, text: &str) -> Ty {
        let text = text.trim();
        let mut p = Parser { reader: self, rest: text };
        match p.union() {
            Some(t) if p.rest.trim().is_empty() => t,
            _ => self.opaque(text),
        }
    }

    /// A text whose parts are not looked at.
    fn opaque(&self, text: &str) -> Ty {
        let Some((s, place)) = self.home else { return Ty::UNKNOWN };
        let flat = text.split_whitespace().collect::<Vec<_>>().join(" ");
        let mut own = false;
        for word in words(&flat) {
            match self.named(word, Vec::new()).kind() {
                Kind::Parameter { .. } => return Ty::UNKNOWN,
                Kind::Named { only_in, .. } => own |= only_in.is_some(),
                _ => {}
            }
            own |= is_bound(s, place, word);
        }
        match own {
            true => Ty::new(Kind::Named { name: flat, arguments: Vec::new(), only_in: Some(s.path.clone()) }),
            false => Ty::written(&flat),
        }
    }

    /// What a name of types means at the place.
    fn named(&self, name: &str, arguments: Vec<Ty>) -> Ty {
        if arguments.iter().any(|a| !a.is_known()) {
            return Ty::UNKNOWN;
        }
        if self.parameters.iter().any(|p| p == name) {
            return Ty::new(Kind::Parameter { name: name.into(), declared: "library".into() });
        }
        let of = |name: &str, only_in: Option<String>| {
            Ty::new(Kind::Named { name: name.into(), arguments: arguments.clone(), only_in })
        };
        let Some((s, place)) = self.home else { return of(name, None) };
        if let Some(declared) = type_parameter(s, place, name) {
            return Ty::new(Kind::Parameter { name: name.into(), declared });
        }
        if is_local(s, place, name) {
            return of(name, Some(format!("{}:", s.path)));
        }
        let Some(b) = s.names.in_module(name) else { return of(name, None) };
        if let Some((home, definition)) = (self.definitions)(s, name) {
            let own = home.tree.child(definition, Field::Name).map(|n| home.str(n).to_string());
            if let Some(own) = own {
                let path = home.path.clone();
                self.seen.borrow_mut().insert((path.clone(), own.clone()), (home, definition));
                return of(&own, Some(path));
            }
        }
        let import = s.names.binding(b).import.as_ref().filter(|i| i.level == 0 && !i.module.starts_with('.'));
        match import.and_then(|i| Some((i, i.member.as_ref()?))) {
            Some((i, member)) => of(member, Some(i.module.clone())),
            None => of(name, Some(s.path.clone())),
        }
    }
}

struct Parser<'a> {
    reader: &'a Reader<'a>,
    rest: &'a str,
}

impl<'a> Parser<'a> {
    fn eat(&mut self, word: &str) -> bool {
        let rest = self.rest.trim_start();
        let Some(after) = rest.strip_prefix(word) else { return false };
        if word.chars().all(char::is_alphabetic) && after.starts_with(is_word) {
            return false;
        }
        self.rest = after;
        true
    }

    fn union(&mut self) -> Option<Ty> {
        self.eat("|");
        let mut parts = vec![self.postfix()?];
        while self.eat("|") {
            parts.push(self.postfix()?);
        }
        Ty::union(parts).known()
    }

    fn postfix(&mut self) -> Option<Ty> {
        let fixed = self.eat("readonly");
        let mut of = self.primary()?;
        let mut arrays = 0;
        while self.rest.trim_start().starts_with('[') {
            self.eat("[");
            // a type at an index
            self.eat("]").then_some(())?;
            arrays += 1;
            of = match fixed && arrays == 1 {
                true => Ty::named("ReadonlyArray", vec![of]),
                false => Ty::array_of(of),
            };
        }
        (!fixed || arrays == 1).then_some(of)
    }

    fn primary(&mut self) -> Option<Ty> {
        let rest = self.rest.trim_start();
        self.rest = rest;
        let first = rest.chars().next()?;
        match first {
            '(' => self.bracketed(),
            '[' => {
                let inner = self.group('[', ']')?;
                let parts = split(inner)
                    .into_iter()
                    .map(|p| self.inner(p).filter(|_| !p.contains("...")))
                    .collect::<Option<_>>()?;
                Some(Ty::new(Kind::Tuple(parts)))
            }
            '{' => {
                let inner = self.group('{', '}')?;
                self.shape(inner)
            }
            '"' | '\'' => {
                let end = rest[1..].find(first)? + 2;
                self.rest = &rest[end..];
                Some(Ty::literal(&rest[..end]))
            }
            c if c.is_ascii_digit() || c == '-' => {
                let end = rest.find(|c: char| !c.is_ascii_alphanumeric() && !"-._".contains(c)).unwrap_or(rest.len());
                self.rest = &rest[end..];
                Some(Ty::literal(&rest[..end]))
            }
            c if is_word(c) => self.name(),
            _ => None,
        }
    }

    fn name(&mut self) -> Option<Ty> {
        let rest = self.rest;
        let end = rest.find(|c: char| !is_word(c) && c != '.').unwrap_or(rest.len());
        let name = &rest[..end];
        self.rest = &rest[end..];
        let arguments = match self.rest.starts_with('<') {
            true => split(self.group('<', '>')?).into_iter().map(|p| self.inner(p)).collect::<Option<Vec<_>>>()?,
            false => Vec::new(),
        };
        let plain = arguments.is_empty();
        match name {
            "keyof" | "typeof" | "infer" | "unique" | "asserts" | "new" | "abstract" | "is" | "this" => None,
            "true" | "false" => Some(Ty::literal(name)),
            _ if PRIMITIVES.contains(&name) && plain => Some(Ty::primitive(name)),
            "Array" if arguments.len() == 1 => Some(Ty::array_of(arguments[0])),
            // what a name of a namespace is can't be told apart
            _ if name.contains('.') => None,
            _ => self.reader.named(name, arguments).known(),
        }
    }

    /// A type in brackets, or a function.
    fn bracketed(&mut self) -> Option<Ty> {
        let inner = self.group('(', ')')?;
        if !self.eat("=>") {
            return self.inner(inner);
        }
        let parameters = split(inner).into_iter().map(|p| self.member(p)).collect::<Option<_>>()?;
        let result = self.union()?;
        // `x is T`
        let plain = !self.rest.trim_start().starts_with("is ");
        plain.then(|| Ty::new(Kind::Function { parameters, result }))
    }

    /// `name: T`
    fn member(&self, text: &str) -> Option<(String, Ty)> {
        let (name, of) = text.split_once(':')?;
        let bare = name.trim().trim_start_matches("...").trim_end_matches('?');
        (!bare.is_empty() && bare.chars().all(is_word)).then_some(())?;
        Some((name.trim().to_string(), self.inner(of)?))
    }

    /// Members with their types and nothing else.
    fn shape(&self, inner: &str) -> Option<Ty> {
        let flat = inner.replace(';', ",").replace('\n', " ");
        let members = split(&flat).into_iter().map(|p| self.member(p)).collect::<Option<Vec<_>>>()?;
        (!members.is_empty()).then(|| Ty::new(Kind::Shape(members)))
    }

    fn inner(&self, text: &str) -> Option<Ty> {
        let mut p = Parser { reader: self.reader, rest: text };
        p.union().filter(|_| p.rest.trim().is_empty())
    }

    /// What is between a pair of brackets, which is left behind.
    fn group(&mut self, open: char, close: char) -> Option<&'a str> {
        let rest = self.rest;
        let mut depth = 0;
        let mut before = ' ';
        for (i, c) in rest.char_indices() {
            if c == open {
                depth += 1;
            } else if c == close && before != '=' {
                depth -= 1;
                if depth == 0 {
                    self.rest = &rest[i + c.len_utf8()..];
                    return Some(&rest[open.len_utf8()..i]);
                }
            }
            before = c;
        }
        None
    }
}

const PRIMITIVES: [&str; 12] = [
    "string",
    "number",
    "boolean",
    "bigint",
    "symbol",
    "null",
    "undefined",
    "void",
    "any",
    "unknown",
    "never",
    "object",
];

fn is_word(c: char) -> bool {
    c.is_alphanumeric() || c == '_' || c == '$'
}

fn words(text: &str) -> impl Iterator<Item = &str> {
    text.split(|c: char| !is_word(c)).filter(|w| w.starts_with(|c: char| is_word(c) && !c.is_ascii_digit()))
}

/// Parts between the commas that are in no brackets.
fn split(text: &str) -> Vec<&str> {
    let (mut out, mut depth, mut from, mut before) = (Vec::new(), 0, 0, ' ');
    for (i, c) in text.char_indices() {
        match c {
            '(' | '[' | '{' | '<' => depth += 1,
            '>' if before == '=' => {}
            ')' | ']' | '}' | '>' => depth -= 1,
            ',' if depth == 0 => {
                out.push(&text[from..i]);
                from = i + 1;
            }
            _ => {}
        }
        before = c;
    }
    out.push(&text[from..]);
    out.into_iter().map(str::trim).filter(|p| !p.is_empty()).collect()
}

/// Where the type parameter is declared that a word means at a place.
fn type_parameter(s: &Source, place: NodeId, name: &str) -> Option<String> {
    let t = &s.tree;
    let named = |list: NodeId| t.children(list).find_map(|p| t.child(p, Field::Name).filter(|n| s.str(*n) == name));
    let lists = t.ancestors(place).chain([place]).filter_map(|a| t.child(a, Field::TypeParams));
    let found = lists.filter(|l| t.role(*l) == Role::TypeParams).filter_map(named).max()?;
    Some(format!("{}:{}", s.path, t.span(found).start))
}

/// A name that a function around the place declares.
fn is_local(s: &Source, place: NodeId, name: &str) -> bool {
    let scopes = s.tree.ancestors(place).chain([place]).filter_map(|a| s.names.scope_of(a));
    scopes.filter(|x| *x != Names::MODULE).any(|x| s.names.declared_in(x, name).is_some())
}

fn is_bound(s: &Source, place: NodeId, name: &str) -> bool {
    s.names.in_module(name).is_some() || is_local(s, place, name)
}

/// The text of a type in a file.
pub fn spelled(of: Ty, at: &Source, definitions: &Definitions) -> Option<String> {
    let inner = |t: &Ty| spelled(*t, at, definitions);
    let all = |list: &[Ty]| list.iter().map(inner).collect::<Option<Vec<_>>>();
    let pairs = |list: &[(String, Ty)]| {
        list.iter().map(|(n, t)| Some(format!("{n}: {}", inner(t)?))).collect::<Option<Vec<_>>>()
    };
    match of.kind() {
        Kind::Primitive(text) | Kind::Written(text) | Kind::Literal(text) => Some(text),
        Kind::Parameter { name, .. } => Some(name),
        Kind::Array(of) => in_brackets(of, at, definitions).map(|t| format!("{t}[]")),
        Kind::Tuple(parts) => Some(format!("[{}]", all(&parts)?.join(", "))),
        Kind::Union(parts) => {
            let texts: Option<Vec<String>> = parts
                .iter()
                .map(|p| match p.kind() {
                    Kind::Function { .. } => inner(p).map(|t| format!("({t})")),
                    _ => inner(p),
                })
                .collect();
            Some(texts?.join(" | "))
        }
        Kind::Function { parameters, result } => {
            Some(format!("({}) => {}", pairs(&parameters)?.join(", "), inner(&result)?))
        }
        Kind::Shape(members) => {
            let text = format!("{{ {} }}", pairs(&members)?.join("; "));
            (text.chars().count() <= LONGEST_SHAPE).then_some(text)
        }
        Kind::Named { name, arguments, only_in } => {
            let arguments = all(&arguments)?;
            if name == "ReadonlyArray" && only_in.is_none() && arguments.len() == 1 {
                let Kind::Named { arguments, .. } = of.kind() else { return None };
                return in_brackets(arguments[0], at, definitions).map(|t| format!("readonly {t}[]"));
            }
            // a member of an enumeration
            if let (Some((_, member)), [of]) = (name.rsplit_once('.'), &arguments[..]) {
                return Some(format!("{of}.{member}"));
            }
            let name = name_in(&name, only_in.as_deref(), at, definitions)?;
            Some(if arguments.is_empty() { name } else { format!("{name}<{}>", arguments.join(", ")) })
        }
        Kind::Unknown | Kind::Pointer(_) | Kind::Reference(_) | Kind::Nullable(_) => None,
    }
}

fn in_brackets(of: Ty, at: &Source, definitions: &Definitions) -> Option<String> {
    let text = spelled(of, at, definitions)?;
    let plain = match of.kind() {
        Kind::Union(_) | Kind::Function { .. } => false,
        Kind::Named { name, .. } => name.chars().all(|c| is_word(c) || c == '.') && !text.starts_with("readonly "),
        Kind::Written(text) => text.chars().all(is_word),
        _ => true,
    };
    Some(if plain { text } else { format!("({text})") })
}

/// The word by which a file names a definition.
fn name_in(name: &str, only_in: Option<&str>, at: &Source, definitions: &Definitions) -> Option<String> {
    let Some(of) = only_in else { return at.names.in_module(name).is_none().then(|| name.to_string()) };
    if of.split(':').next() == Some(at.path.as_str()) {
        return Some(name.to_string());
    }
    let is_it = |word: &str| {
        let Some(b) = at.names.in_module(word) else { return false };
        if let Some((home, definition)) = definitions(at, word) {
            return home.path == of && home.tree.child(definition, Field::Name).is_some_and(|n| home.str(n) == name);
        }
        let import = at.names.binding(b).import.as_ref();
        import.is_some_and(|i| i.module == of && i.member.as_deref() == Some(name))
    };
    if is_it(name) {
        return Some(name.to_string());
    }
    // under another name
    let aliases = at.names.bindings_of(Names::MODULE).map(|b| at.names.binding(b)).filter(|b| b.import.is_some());
    aliases.map(|b| b.name.clone()).find(|n| is_it(n))
}
