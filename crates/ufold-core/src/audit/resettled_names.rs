//! What words mean when a class stands in another file: those that meant it, and those inside, mean it there; every other
//! word what it meant; no import names what is not there, and who finds the class by its package is told.

use std::sync::Arc;

use rustc_hash::FxHashMap;

use super::renamed::{each_file, words};
use super::resettled_code::{Laid, Settled};
use super::{Objection, Opinion, each, object};
use crate::change::Code;
use crate::index::{Entity, Project, class_tree, unseen};
use crate::lang::{MemberOf, Stored};
use crate::names::{BindingId, Names, Source};
use crate::tree::{Field, NodeId, Role, Tree};
use crate::types::{Kind, Ty};

type At<'f> = (&'f str, NodeId);

/// A class that moved, with the project before and after.
pub(super) struct Compared<'a, 'f> {
    pub x: &'a Settled<'f>,
    pub after: &'a Project<'a>,
    map: FxHashMap<At<'a>, At<'a>>,
}

pub(super) fn check(x: &Settled, seen: impl FnOnce(&Compared) -> Opinion<()>) -> Opinion<()> {
    let texts: Vec<Arc<Source>> = x.pairs.iter().map(|p| p.s.clone()).collect();
    let nowhere = |message: String| Objection { message, file: x.from.o.path.clone(), line: 1 };
    let run = |after: &Project| {
        let map = x.laid.iter().map(|l| ((l.o.path.as_str(), l.a), (l.s.path.as_str(), l.b))).collect();
        let c = Compared { x, after, map };
        each(&x.laid, |l| c.word(l))?;
        x.pairs.iter().try_for_each(|p| c.imports(&p.s))?;
        c.everywhere()?;
        c.told()?;
        seen(&c)
    };
    x.with_new.with_texts(&texts, run).map_err(nowhere)?
}

pub(super) fn member_of(p: &Project, s: &Source, n: NodeId) -> MemberOf {
    s.lang.member_of(s, n, &|s: &Source, name: &str| p.definition(s, name))
}

pub(super) fn class_named(p: &Project, s: &Source, n: NodeId) -> MemberOf {
    s.lang.class_named(s, n, &|s: &Source, name: &str| p.definition(s, name))
}

/// The path of a class.
pub(super) fn path_of(ty: Ty) -> Option<String> {
    match ty.kind() {
        Kind::Named { name, .. } => Some(name),
        _ => None,
    }
}

impl Compared<'_, '_> {
    fn is_told(&self, code: Code, file: &str) -> bool {
        self.x.change.result.reasons.iter().any(|r| r.code == code && r.file == file)
    }

    /// The path that a class has after the move.
    fn path_then(&self, before: &str) -> String {
        let (old, new) = (self.x.path(false), self.x.path(true));
        match before.strip_prefix(&old) {
            Some(rest) if rest.is_empty() || rest.starts_with('.') => format!("{new}{rest}"),
            _ => before.to_string(),
        }
    }

    /// The class that moved, or one inside it.
    pub fn moved(&self, ty: Ty, after: bool) -> bool {
        let own = self.x.path(after);
        path_of(ty).is_some_and(|p| p.strip_prefix(&own).is_some_and(|r| r.is_empty() || r.starts_with('.')))
    }

    fn same(&self, before: Ty, after: Ty) -> bool {
        match (path_of(before), path_of(after)) {
            (Some(a), Some(b)) => self.path_then(&a) == b,
            (None, None) => true,
            _ => false,
        }
    }

    fn word(&self, l: &Laid) -> Opinion<()> {
        let (o, s) = (l.o, l.s);
        if !matches!(o.tree.role(l.a), Role::Name | Role::MemberName | Role::FrameName) && o.names.at(l.a).is_none() {
            return Ok(());
        }
        // what is declared without a value is no use of its name
        let marks = |s: &Source, n: NodeId| s.tree.parent(n).is_some_and(|p| s.tree.role(p) == Role::Decorator);
        let declared = |s: &Source, n: NodeId| s.tree.role(n) == Role::Name && s.names.at(n).is_none() && !marks(s, n);
        // what the class extends is looked at by its words
        let own = o.lang.needs_class(o.str(l.a)) && o.str(l.a) == s.str(l.b);
        match own || declared(o, l.a) && declared(s, l.b) || self.means_the_same(l) {
            true => Ok(()),
            false => object(o, l.a, format!("`{}` would mean something else", s.str(l.b))),
        }
    }

    fn means_the_same(&self, l: &Laid) -> bool {
        let (o, s) = (l.o, l.s);
        let (before, after) = (self.x.project, self.after);
        let bound = |s: &Source, n: NodeId| {
            let b = s.names.at(n)?.target?;
            let binding = s.names.binding(b);
            (binding.scope != Names::MODULE).then_some(b)
        };
        // what the classes around have is said by them now
        let around = |b: &BindingId| {
            let class = o.names.scope(o.names.binding(*b).scope).node;
            o.names.is_member(*b) && o.path == self.x.from.o.path && !o.tree.contains(self.x.old, class)
        };
        let own = bound(o, l.a).filter(|b| !(around(b) && s.path == self.x.to.s.path));
        // the class itself is no member of another one any more
        let itself = |n: NodeId, s: &Source| s.str(n) == self.x.name() && !self.x.outer.is_empty();
        match (own, bound(s, l.b)) {
            _ if itself(l.a, o) && itself(l.b, s) => {}
            (Some(a), Some(b)) => return self.same_binding(l, a, b),
            (None, None) => {}
            _ => return false,
        }
        if let (Some(a), Some(b)) = (o.names.at(l.a), s.names.at(l.b))
            && a.usage != b.usage
        {
            return false;
        }
        match (class_named(before, o, l.a), class_named(after, s, l.b)) {
            (MemberOf::Class(a), MemberOf::Class(b)) => return self.same(a, b),
            (MemberOf::Likely(a), MemberOf::Likely(b) | MemberOf::Class(b)) if self.same(a, b) => return true,
            (MemberOf::Other | MemberOf::Unknown, MemberOf::Other | MemberOf::Unknown) => {}
            _ => return false,
        }
        match (member_of(before, o, l.a), member_of(after, s, l.b)) {
            (MemberOf::Class(a), MemberOf::Class(b)) => return self.same(a, b),
            (MemberOf::Likely(a), MemberOf::Likely(b)) if self.same(a, b) => return true,
            (MemberOf::Other, MemberOf::Other) => {}
            (MemberOf::Other | MemberOf::Unknown, MemberOf::Other | MemberOf::Unknown) => {}
            _ => return false,
        }
        o.tree.role(l.a) == Role::MemberName || self.same_outside(l)
    }

    /// What is bound in the code itself, or a member of a class there.
    fn same_binding(&self, l: &Laid, a: BindingId, b: BindingId) -> bool {
        let (x, y) = (l.o.names.binding(a), l.s.names.binding(b));
        let there = self.map.get(&(l.o.path.as_str(), x.first));
        x.name == y.name && x.kind == y.kind && there == Some(&(l.s.path.as_str(), y.first))
    }

    /// A bare word that is no class of the project, and no member: a package, or what the file says of it.
    fn same_outside(&self, l: &Laid) -> bool {
        let (o, s) = (l.o, l.s);
        let of = |p: &Project, s: &Source, n: NodeId| p.origin(&p.entity(s, s.str(n)));
        let (x, y) = (of(self.x.project, o, l.a), of(self.after, s, l.b));
        let begins = |s: &Source, n: NodeId| {
            let path = s.tree.ancestors(n).take_while(|a| s.str(*a).starts_with(s.str(n))).last();
            path.is_some_and(|p| s.str(p).contains('.')) && s.names.at(n).is_none_or(|r| r.target.is_none())
        };
        let whole = |s: &Source, n: NodeId| {
            let path = s.tree.ancestors(n).take_while(|a| s.str(*a).starts_with(s.str(n))).last();
            path.map(|p| s.str(p).split_whitespace().collect::<String>())
        };
        match (&x, &y) {
            // whatever a file sees by its package alone may be another one in another package
            (Entity::Unknown(..), Entity::Unknown(..)) => {
                let path = begins(o, l.a) && begins(s, l.b) && whole(o, l.a) == whole(s, l.b);
                // what no class is has been inherited, from the same classes
                let no_type = |s: &Source, n: NodeId| s.names.at(n).is_some_and(|r| !r.may_be_type());
                if no_type(o, l.a) && no_type(s, l.b) {
                    return true;
                }
                o.path == s.path || self.x.near() || path && !o.str(l.a).starts_with(char::is_uppercase)
            }
            (Entity::Foreign(a, x), Entity::Foreign(b, y)) => {
                // what a wildcard may bring is written with the package of the file beside it
                x == y && (a == b || same_wildcards(o, s, l))
            }
            _ => x == y,
        }
    }

    /// No import of an edited file names what is not there, and no two of them the same name.
    fn imports(&self, s: &Source) -> Opinion<()> {
        let t = &s.tree;
        let linked = |n: &NodeId| matches!(t.role(*n), Role::Import | Role::ImportFrom);
        let head = t.children(Tree::ROOT).filter(|n| t.role(*n) == Role::Doc).last();
        if let Some(n) = t.children(Tree::ROOT).find(|n| linked(n) && head.is_some_and(|h| *n < h)) {
            return object(s, n, "this stands above what the file begins with");
        }
        let mut names: Vec<(String, NodeId)> = Vec::new();
        for n in t.children(Tree::ROOT).filter(linked) {
            for i in s.lang.imports_of(t, n, &s.text) {
                let Some(member) = i.member.as_deref().filter(|_| !i.wildcard) else { continue };
                let path = format!("{}.{member}", i.module);
                let old = self.x.path(false);
                let lost = path.strip_prefix(&old).is_some_and(|r| r.is_empty() || r.starts_with('.'));
                if lost && !self.x.same_path() {
                    return object(s, n, "this imports what is not there");
                }
                let word = t.subtree(n).filter(|w| t.is_leaf(*w) && s.str(*w) == member).last();
                let of = word.map_or(MemberOf::Other, |w| class_named(self.after, s, w));
                let classes = class_tree::with_word(self.after, member, s.lang);
                let home = match of {
                    MemberOf::Class(c) => class_tree::of_type(&classes, c),
                    _ => None,
                };
                let closed = |c: &class_tree::Class| !c.source.lang.is_open(&c.source, c.node);
                let far = |c: &class_tree::Class| c.source.lang.said_package(&c.source) != s.lang.said_package(s);
                if home.is_some_and(|c| far(c) && closed(c)) {
                    return object(s, n, "this class is not seen here");
                }
                let is_static = t.children(n).any(|c| s.str(c) == "static");
                let twice = !is_static && names.iter().any(|(m, o)| m == member && s.str(*o) != s.str(n));
                if twice {
                    return object(s, n, format!("`{member}` is imported twice"));
                }
                names.extend((!is_static).then(|| (member.to_string(), n)));
            }
        }
        Ok(())
    }

    /// In all files, edited or not: whoever named the class does, and nobody else.
    fn everywhere(&self) -> Opinion<()> {
        let (x, like) = (self.x, &self.x.from.o);
        let edited = |s: &Source| x.pairs.iter().any(|p| p.o.path == s.path);
        each_file(x.project, like, x.name(), &mut |s| {
            for n in words(s, x.name()).into_iter().filter(|_| !edited(s)) {
                let was = class_named(x.project, s, n);
                let is = class_named(self.after, s, n);
                let own = matches!(was, MemberOf::Class(c) | MemberOf::Likely(c) if self.moved(c, false));
                let linked = s.tree.ancestor(n, &[Role::Import, Role::ImportFrom]).is_some();
                let same = match (was, is) {
                    (MemberOf::Class(a) | MemberOf::Likely(a), MemberOf::Class(b) | MemberOf::Likely(b)) => {
                        self.same(a, b) && (x.same_path() || !own || !linked)
                    }
                    (a, b) => a == b,
                };
                if !same {
                    return object(s, n, format!("`{}` here would be another class, or none", x.name()));
                }
            }
            Ok(())
        })?;
        self.emptied()
    }

    /// No file imports all of a package in which no class is left.
    fn emptied(&self) -> Opinion<()> {
        let x = self.x;
        let Some(last) = x.packages[0].last().filter(|_| !x.near()) else { return Ok(()) };
        let files = || self.after.facts.iter().filter(|f| f.is_of_family(x.from.o.lang));
        let left = files().any(|f| {
            let s = self.after.index(&f.path).and_then(|i| self.after.source(i).ok());
            let class = |s: &Source| s.tree.ids().any(|n| s.tree.role(n) == Role::Class);
            f.path.contains(&x.packages[0].join("/"))
                && s.is_some_and(|s| s.lang.said_package(&s) == x.packages[0] && class(&s))
        });
        if left {
            return Ok(());
        }
        each_file(self.after, &x.from.o, last, &mut |s| {
            let t = &s.tree;
            let module = x.packages[0].join(".");
            let all = |n: &NodeId| s.lang.imports_of(t, *n, &s.text).iter().any(|i| i.wildcard && i.module == module);
            match t.children(Tree::ROOT).find(all) {
                Some(n) => object(s, n, "no class is left in this package"),
                None => Ok(()),
            }
        })
    }

    /// Who finds the class by its package is told.
    fn told(&self) -> Opinion<()> {
        let (x, o) = (self.x, &self.x.from.o);
        if x.same_path() {
            return Ok(());
        }
        let Some(of) = o.lang.bases() else { return object(o, x.old, "the language has no classes for this") };
        if let Some(why) = of.is_of_its_package(o, x.old).filter(|_| !x.near()) {
            return object(o, x.old, why);
        }
        let definitions = |s: &Source, name: &str| x.project.definition(s, name);
        let list = |f: &&crate::find::FileFacts| {
            of.package_lists().iter().any(|l| f.path == *l || f.path.ends_with(&format!("/{l}")))
        };
        let untold = |f: &&crate::find::FileFacts| !self.is_told(Code::BuildList, &f.path);
        if x.project.facts.iter().filter(list).any(|f| untold(&f)) && !x.near() {
            return object(o, x.old, "which packages others may use is said elsewhere");
        }
        let demands = [
            (of.is_found_from_outside(o, x.old).is_some(), Code::Demanded),
            (o.lang.stored(o, x.old, &definitions) != Stored::Not, Code::StoredObjects),
        ];
        for (needed, code) in demands {
            if needed && !self.is_told(code, &o.path) {
                return object(o, x.old, "who finds the class from outside is not told");
            }
        }
        let asks = |n: &NodeId| of.package_words().contains(&o.str(*n)) && o.tree.is_leaf(*n);
        let own = o.tree.subtree(x.old).find(|n| asks(n) && asks_itself(o, *n));
        if let Some(n) = own.filter(|_| !x.near() && !self.is_told(Code::ShownName, &o.path)) {
            return object(o, n, "this asks in which package it is");
        }
        let outer = x.outer.iter().map(|c| format!("{c}$")).collect::<String>();
        for (_, s) in unseen::anywhere(x.project, &format!("{outer}{}", x.name())).filter(|_| !outer.is_empty()) {
            let t = &s.tree;
            let text = |n: &NodeId| matches!(t.role(*n), Role::Literal | Role::TemplateText);
            let says = |n: &NodeId| s.str(*n).contains(&format!("{outer}{}", x.name()));
            if let Some(n) = t.ids().filter(text).find(says).filter(|_| !self.is_told(Code::NamedByString, &s.path)) {
                return object(&s, n, "a text names the class by the one around it");
            }
        }
        each_file(x.project, o, x.name(), &mut |s| {
            let text = |n: &NodeId| matches!(s.tree.role(*n), Role::Literal | Role::TemplateText);
            let says = |n: &NodeId| crate::index::words::has_whole_word(s.str(*n), &x.path(false));
            let found = s.tree.ids().filter(text).find(says).filter(|_| x.path(false).contains('.'));
            match found.filter(|_| !self.is_told(Code::NamedByString, &s.path)) {
                Some(n) => object(s, n, "a text names the class by its package"),
                None => Ok(()),
            }
        })
    }
}

/// A question that is asked of no other class: `getClass().getResource("rates")`.
fn asks_itself(s: &Source, n: NodeId) -> bool {
    let t = &s.tree;
    let object = t.parent(n).and_then(|m| t.child(m, Field::Object));
    object.is_none_or(|o| s.str(o).contains("getClass"))
}

/// Two files import the same packages whole, and a name that no file of theirs has.
fn same_wildcards(o: &Source, s: &Source, l: &Laid) -> bool {
    let all = |s: &Source| {
        let t = &s.tree;
        let imports = t.children(Tree::ROOT).flat_map(|n| s.lang.imports_of(t, n, &s.text)).filter(|i| i.wildcard);
        let mut out: Vec<String> = imports.map(|i| i.module).collect();
        out.sort();
        out
    };
    let unbound = |s: &Source, n: NodeId| s.names.in_module(s.str(n)).is_none();
    unbound(o, l.a) && unbound(s, l.b) && all(o) == all(s)
}
