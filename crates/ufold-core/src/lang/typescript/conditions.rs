//! What a condition says of a type when it holds, and when it does not.
//!
//! None where the condition is not understood, or may have said something of one of the parts of the type.

use super::library;
use super::narrow::Path;
use super::types::{Types, general, is_nothing, something, undefined};
use crate::tree::{Field, NodeId, Role};
use crate::types::{Kind, Ty};

impl Types<'_> {
    /// The type that a path has when a condition holds, or does not.
    pub fn under(&self, condition: NodeId, holds: bool, path: &Path, of: Ty) -> Option<Ty> {
        let (s, t) = (self.s, self.tree());
        if !self.mentions(condition, path) {
            return Some(of);
        }
        let child = |f: Field| t.child(condition, f);
        match t.role(condition) {
            Role::Paren => {
                let inner: Vec<NodeId> = t.children(condition).collect();
                match inner[..] {
                    [one] => self.under(one, holds, path, of),
                    _ => None,
                }
            }
            Role::NotOp => self.under(child(Field::Expression)?, !holds, path, of),
            Role::BoolOp => {
                let [a, b] = [child(Field::Left)?, child(Field::Right)?];
                let both = match child(Field::Operator).map_or("", |o| s.str(o)) {
                    "&&" => true,
                    "||" => false,
                    _ => return None,
                };
                if both == holds {
                    return self.under(b, holds, path, self.under(a, holds, path, of)?);
                }
                let one = self.under(a, holds, path, of)?;
                let other = self.under(b, holds, path, self.under(a, !holds, path, of)?)?;
                let all = self.parts(of);
                let kept = all.iter().copied().filter(|p| self.parts(one).contains(p) || self.parts(other).contains(p));
                Some(self.rebuilt(of, &all, kept.collect()))
            }
            Role::Name | Role::Member => self.under_truth(condition, holds, path, of),
            Role::Compare => self.under_comparison(condition, holds, path, of),
            Role::Call => self.under_call(condition, holds, path, of),
            _ => None,
        }
    }

    /// `x`, `x?.a`, `x.a`
    fn under_truth(&self, value: NodeId, holds: bool, path: &Path, of: Ty) -> Option<Ty> {
        if self.is_path(value, path) {
            let found = self.kept(of, |p| {
                Some(match p.kind() {
                    Kind::Primitive(name) => match name.as_str() {
                        "null" | "undefined" | "void" => !holds,
                        "symbol" | "object" => holds,
                        "unknown" => return None,
                        _ => true,
                    },
                    Kind::Literal(text) => holds != ["false", "0", "\"\"", "''", "0n"].contains(&text.as_str()),
                    _ if !self.is_clear(*p) => return None,
                    Kind::Named { .. } if self.is_one_of_enum(*p) => true,
                    _ => holds,
                })
            })?;
            let truth = if holds { "true" } else { "false" };
            return Some(if found == Ty::primitive("boolean") { Ty::literal(truth) } else { found });
        }
        if self.is_asked_through(value, path) {
            // something of it is there, so it is
            return if holds { something(of).known() } else { Some(of) };
        }
        // a member of one thing tells nothing of it
        (self.parts(of).len() < 2 && self.is_clear(of)).then_some(of)
    }

    /// `x?.a`, `x?.a.b`
    fn is_asked_through(&self, value: NodeId, path: &Path) -> bool {
        let t = self.tree();
        let object = |n: &NodeId| t.child(*n, Field::Object).or_else(|| t.child(*n, Field::Callee));
        let mut chain = std::iter::successors(Some(value), object);
        let marked = |n: NodeId| t.children(n).any(|c| t.role(c) == Role::OptionalMark);
        chain.any(|n| marked(n) && t.child(n, Field::Object).is_some_and(|o| self.is_path(o, path)))
    }

    /// A call that tells something by its outcome.
    fn under_call(&self, call: NodeId, holds: bool, path: &Path, of: Ty) -> Option<Ty> {
        let (s, t) = (self.s, self.tree());
        let (callee, list) = (t.child(call, Field::Callee)?, t.child(call, Field::Arguments)?);
        if !self.mentions(list, path) {
            if self.is_asked_through(call, path) {
                return if holds { something(of).known() } else { Some(of) };
            }
            // `this is T` is said of kinds of one class
            return (self.parts(of).len() < 2 && self.is_clear(of)).then_some(of);
        }
        if s.str(callee) == "Array.isArray" && t.children(list).all(|a| self.is_path(a, path)) {
            return self.kept(of, |p| match p.kind() {
                Kind::Array(_) | Kind::Tuple(_) => Some(holds),
                Kind::Primitive(name) if name != "any" && name != "unknown" => Some(!holds),
                Kind::Literal(_) | Kind::Shape(_) | Kind::Function { .. } => Some(!holds),
                _ => self.has_no_base(*p).then_some(!holds),
            });
        }
        let first = t.subtree(callee).find(|x| t.role(*x) == Role::Name);
        let free = first.is_some_and(|n| s.names.at(n).is_some_and(|r| r.target.is_none()));
        let word = s.str(callee).split('.').next().unwrap_or("");
        let known = library::of_object(word).is_some() || library::FUNCTIONS.iter().any(|(n, _)| *n == word);
        if free && known && s.str(callee) != "Array.isArray" {
            return Some(of);
        }
        let (home, function) = (self.definitions)(s, s.str(callee))?;
        let result = home.str(home.tree.child(function, Field::ReturnType)?);
        let Some((_, wanted)) = result.split_once(" is ") else { return Some(of) };
        let plain = t.children(list).collect::<Vec<_>>();
        let one = matches!(plain[..], [only] if self.is_path(only, path)) && !result.contains("asserts ");
        let wanted = self.in_file(&home, function, |types| types.read(wanted, function).known()).filter(|_| one)?;
        let (parts, wanted) = (self.parts(of), self.parts(wanted));
        let told = wanted.iter().all(|w| parts.contains(w));
        told.then(|| self.kept(of, |p| Some(wanted.contains(p) == holds)))?
    }

    fn under_comparison(&self, compare: NodeId, holds: bool, path: &Path, of: Ty) -> Option<Ty> {
        let (s, t) = (self.s, self.tree());
        let [left, right] = [Field::Left, Field::Right].map(|f| t.child(compare, f));
        let (left, right) = (left?, right?);
        let operator = t.child(compare, Field::Operator).map_or("", |o| s.str(o));
        let equal = match operator {
            "===" | "==" => holds,
            "!==" | "!=" => !holds,
            "in" => return self.under_in(left, right, holds, path, of),
            "instanceof" => return self.under_class(left, right, holds, path, of),
            // what is compared by size is a number or a text already
            "<" | ">" | "<=" | ">=" => return Some(of),
            _ => return None,
        };
        let (subject, value) = if t.role(left) == Role::Literal { (right, left) } else { (left, right) };
        if self.mentions(value, path) {
            return None;
        }
        let both = operator.len() == 2 && ["null", "undefined"].contains(&s.str(value));
        if both && self.is_path(subject, path) {
            let any = Ty::primitive("any");
            return self.kept(of, |p| self.is_clear(*p).then(|| is_nothing(*p) == equal || *p == any));
        }
        if operator.len() == 2 && !s.str(subject).starts_with("typeof ") {
            return None;
        }
        self.under_value(subject, &[value], equal, path, of)
    }

    fn is_clear(&self, p: Ty) -> bool {
        let unknown = p == Ty::primitive("unknown");
        let named = matches!(p.kind(), Kind::Named { .. }) && self.is_loose(p) && !self.is_one_of_enum(p);
        !unknown && !named && !matches!(p.kind(), Kind::Parameter { .. })
    }

    pub fn under_case(&self, subject: NodeId, values: &[NodeId], among: bool, path: &Path, of: Ty) -> Option<Ty> {
        let t = self.tree();
        let inner = t.children(subject).next().filter(|_| t.role(subject) == Role::Paren).unwrap_or(subject);
        self.under_value(inner, values, among, path, of)
    }

    /// The subject of a comparison is one of some values, or none of them.
    fn under_value(&self, subject: NodeId, values: &[NodeId], among: bool, path: &Path, of: Ty) -> Option<Ty> {
        let (s, t) = (self.s, self.tree());
        let literal = |v: &NodeId| match s.str(*v) {
            "null" => Some(Ty::primitive("null")),
            "undefined" => Some(undefined()),
            text => (t.role(*v) == Role::Literal).then(|| Ty::literal(text)),
        };
        let all: Option<Vec<Ty>> = values.iter().map(literal).collect();
        if self.is_path(subject, path) {
            // one of an enumeration, or another variable
            let Some(all) = all else { return self.under_member(values, among, of) };
            return self.under_literals(&all, among, of);
        }
        if t.role(subject) == Role::UnaryOp && s.str(subject).starts_with("typeof") {
            let words: Vec<String> = values.iter().map(|v| s.str(*v).trim_matches(['"', '\'']).to_string()).collect();
            let operand = t.child(subject, Field::Expression)?;
            return self.is_path(operand, path).then(|| self.under_typeof(&words, among, of))?;
        }
        let member = t.child(subject, Field::Member).filter(|_| t.role(subject) == Role::Member)?;
        let object = t.child(subject, Field::Object)?;
        if self.is_path(object, path) && !s.str(subject).contains("?.") {
            let all = all?;
            let parts = self.parts(of);
            if parts.len() < 2 {
                return (!self.is_loose(of)).then_some(of);
            }
            return self.kept(of, |p| {
                let own = self.property(*p, s.str(member))?.alternatives();
                let fits = |o: &Ty| all.iter().any(|a| same_literal(*o, *a));
                let literal = own.iter().all(|o| matches!(o.kind(), Kind::Literal(_)));
                match among {
                    true => Some(own.iter().any(|o| fits(o) || !matches!(o.kind(), Kind::Literal(_)))),
                    false => Some(!literal || !own.iter().all(fits)),
                }
            });
        }
        // a member further down tells nothing of one thing
        (!self.is_loose(of)).then_some(of)
    }

    /// One of an enumeration, or of another variable.
    fn under_member(&self, values: &[NodeId], among: bool, of: Ty) -> Option<Ty> {
        let (s, t) = (self.s, self.tree());
        if let ([value], true, true) = (values, among, self.is_one_of_enum(of))
            && let Kind::Named { name, only_in, .. } = of.kind()
        {
            let member = t.child(*value, Field::Member).filter(|_| t.role(*value) == Role::Member)?;
            let name = format!("{name}.{}", s.str(member));
            return Some(Ty::new(Kind::Named { name, arguments: vec![of], only_in }));
        }
        (!self.is_loose(of)).then_some(of)
    }

    fn under_literals(&self, all: &[Ty], among: bool, of: Ty) -> Option<Ty> {
        let parts = self.parts(of);
        if among && parts.len() == 1 && matches!(parts[0].kind(), Kind::Primitive(_)) {
            let fitting = all.iter().all(|a| general(*a) == parts[0]);
            return match parts[0].kind() {
                Kind::Primitive(p) if p == "any" => Some(of),
                _ if fitting => Ty::union(all.to_vec()).known(),
                _ => None,
            };
        }
        self.kept(of, |p| {
            let fits = all.iter().any(|a| same_literal(*p, *a));
            match p.kind() {
                Kind::Literal(_) => Some(fits == among),
                _ if is_nothing(*p) => Some(fits == among),
                // it may be one of the literals, or any other
                Kind::Primitive(name)
                    if among && ["string", "number", "boolean", "bigint"].contains(&name.as_str()) =>
                {
                    all.iter().all(|a| general(*a) != *p).then_some(false)
                }
                Kind::Primitive(name) if name == "unknown" => (!among).then_some(true),
                _ if !self.is_clear(*p) => None,
                _ => Some(!among || all.iter().any(|a| general(*a) == *p)),
            }
        })
    }

    fn under_typeof(&self, words: &[String], among: bool, of: Ty) -> Option<Ty> {
        let parts = self.parts(of);
        if let [one] = parts[..]
            && let Kind::Primitive(name) = one.kind()
            && ["any", "unknown"].contains(&name.as_str())
        {
            let plain = ["string", "number", "boolean", "bigint", "symbol", "undefined"];
            return match words {
                [word] if among && plain.contains(&word.as_str()) => Some(Ty::primitive(word)),
                _ if !among => Some(of),
                _ => None,
            };
        }
        self.kept(of, |p| {
            let word = match general(*p).kind() {
                Kind::Primitive(name) => match name.as_str() {
                    "null" => "object".to_string(),
                    "void" => "undefined".to_string(),
                    "unknown" | "any" | "never" => return None,
                    _ => name,
                },
                Kind::Array(_) | Kind::Tuple(_) | Kind::Shape(_) => "object".into(),
                Kind::Function { .. } => "function".into(),
                Kind::Named { .. } if !self.is_loose(*p) && !words.iter().any(|w| w == "function") => "object".into(),
                _ => return None,
            };
            Some(words.contains(&word) == among)
        })
    }

    /// `"name" in x`
    fn under_in(&self, key: NodeId, object: NodeId, holds: bool, path: &Path, of: Ty) -> Option<Ty> {
        let (s, t) = (self.s, self.tree());
        if !self.is_path(object, path) || t.role(key) != Role::Literal {
            return None;
        }
        let name = s.str(key).trim_matches(['"', '\'']);
        self.kept(of, |p| Some(self.has_member(*p, name)? == holds))
    }

    /// `x instanceof C`
    fn under_class(&self, left: NodeId, class: NodeId, holds: bool, path: &Path, of: Ty) -> Option<Ty> {
        let (s, t) = (self.s, self.tree());
        if !self.is_path(left, path) || t.role(class) != Role::Name {
            return None;
        }
        let class = self.read(s.str(class), class);
        let parts = self.parts(of);
        if let [one] = parts[..]
            && [Ty::primitive("any"), Ty::primitive("unknown")].contains(&one)
        {
            let plain = |c: &Ty| ![Ty::named("Object", vec![]), Ty::named("Function", vec![])].contains(c);
            return if holds { class.known().filter(plain) } else { Some(of) };
        }
        // another class of the same shape would do, too
        let objects: Vec<&Ty> =
            parts.iter().filter(|p| !matches!(p.kind(), Kind::Primitive(_) | Kind::Literal(_))).collect();
        let clear = objects.iter().all(|p| self.is_below(**p, class));
        clear.then(|| self.kept(of, |p| Some(self.is_below(*p, class) == holds)))?
    }

    /// Those of its parts for which something holds; none when that is unknown of one, or of none of them.
    pub fn kept(&self, of: Ty, holds: impl Fn(&Ty) -> Option<bool>) -> Option<Ty> {
        let parts = self.parts(of);
        let told: Option<Vec<bool>> = parts.iter().map(holds).collect();
        let kept: Vec<Ty> = parts.iter().copied().zip(told?).filter(|(_, k)| *k).map(|(p, _)| p).collect();
        (!kept.is_empty()).then(|| self.rebuilt(of, &parts, kept))
    }

    /// The type as it was when all its parts are left.
    pub fn rebuilt(&self, of: Ty, parts: &[Ty], kept: Vec<Ty>) -> Ty {
        if kept.len() == parts.len() { of } else { Ty::union(kept) }
    }
}

/// Quotes are a habit.
fn same_literal(a: Ty, b: Ty) -> bool {
    let text = |t: Ty| match t.kind() {
        Kind::Literal(text) => Some(text.replace('\'', "\"")),
        _ => None,
    };
    a == b || text(a).is_some() && text(a) == text(b)
}
