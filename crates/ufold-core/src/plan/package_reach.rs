//! What only the files of a package see of each other: code that goes to another package must not name it.
//!
//! A class, a member or a constructor that is not open to all is out of sight there, and one of that package comes into
//! sight, where another one of its name was called before; what its class hands down from outside the project may be. Where
//! it can't be told whose a member is, one of its name that the package keeps for itself is enough.

use std::sync::Arc;

use crate::align::Region;
use crate::change::{Code, Reason, reason};
use crate::index::class_tree::{self, Class, declarations, is_open_to_all};
use crate::index::{Entity, Project};
use crate::lang::MemberOf;
use crate::names::{BindKind, Names, Source};
use crate::tree::{Field, NodeId, Role};

struct Copied<'a> {
    project: &'a Project<'a>,
    s: &'a Source,
    /// The package that the code goes to.
    to: &'a [String],
}

/// The first name in some code that a file of another package does not see; `goes` says of a word that its member comes
/// along.
pub(crate) fn unseen_there(
    project: &Project,
    region: &Region,
    home: usize,
    goes: &dyn Fn(NodeId) -> bool,
) -> Option<Reason> {
    let s = region.source;
    if let Some(r) = added_otherwise(project, region, home) {
        return Some(r);
    }
    let (from, to) = (s.module.as_ref()?.package(), project.modules().name(home)?.package());
    if from == to {
        return None;
    }
    let code = Copied { project, s, to };
    let words = (region.first.0..region.end().0).map(NodeId).filter(|n| s.tree.is_leaf(*n));
    let unseen = |n: &NodeId| match s.tree.role(*n) {
        _ if goes(*n) => false,
        Role::Name => code.hides_name(*n),
        Role::MemberName => code.hides_member(*n),
        _ => false,
    };
    let n = words.into_iter().find(unseen)?;
    let message = format!("which `{}` is seen depends on the package, and this would be in another one", s.str(n));
    Some(reason(s, n, Code::NeedsClass, message))
}

/// A member that other classes add to those of the objects here, and not the same ones there.
fn added_otherwise(project: &Project, region: &Region, home: usize) -> Option<Reason> {
    let (s, t) = (region.source, &region.source.tree);
    s.name_spaces()?;
    let there = project.source(home).ok().filter(|h| h.path != s.path)?;
    let adding = |s: &Source, word: &str| project.sharing.adding(project.facts, s, word);
    let mut words = (region.first.0..region.end().0).map(NodeId).filter(|n| t.role(*n) == Role::MemberName);
    let n = words.find(|n| adding(s, s.str(*n)) != adding(&there, s.str(*n)))?;
    let message = format!("`{}` may be another class's, by what {} sees", s.str(n), there.path);
    Some(reason(s, n, Code::NeedsClass, message))
}

impl Copied<'_> {
    /// A class, with the constructor that is called, or a member that is imported.
    fn hides_name(&self, n: NodeId) -> bool {
        let (s, t) = (self.s, &self.s.tree);
        let binding = s.names.at(n).and_then(|r| r.target).map(|b| s.names.binding(b));
        if binding.is_some_and(|b| b.scope != Names::MODULE || b.import.is_none() && b.kind != BindKind::Class) {
            return false;
        }
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        if s.names.is_imported(n) && matches!(s.lang.member_of(s, n, &definitions), MemberOf::Class(_)) {
            return self.hides_member(n);
        }
        let Entity::Member(file, name) = self.project.entity(s, s.str(n)) else { return false };
        let Ok(home) = self.project.source(file) else { return true };
        let kept = self.is_kept(&home);
        let class = home.names.in_module(&name).and_then(|b| home.tree.parent(home.names.binding(b).first));
        let Some(class) = class.filter(|c| home.tree.role(*c) == Role::Class) else {
            // a member of a class that is imported by itself
            return kept && self.hides_member(n);
        };
        let called = t.parent(n).filter(|c| t.role(*c) == Role::Call && t.field(n) == Field::Callee);
        // one of the function's package comes into sight with all its constructors
        kept && !is_open_to_all(&home, class) || called.is_some() && !makes_open(&home, class)
    }

    fn hides_member(&self, n: NodeId) -> bool {
        let (s, t) = (self.s, &self.s.tree);
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        let word = s.str(n);
        // the object's own are looked at where its class is
        let object = t.parent(n).filter(|_| t.field(n) == Field::Member).and_then(|m| t.child(m, Field::Object));
        if object.is_some_and(|o| Some(s.str(o)) == s.lang.object_word()) {
            return false;
        }
        let found = s.lang.member_of(s, n, &definitions);
        let classes = class_tree::with_word(self.project, word, s.lang);
        let class = |c: &&Class| c.source.tree.child(c.node, Field::Name).is_some_and(|x| c.source.str(x) == word);
        let mut made = classes.iter().filter(|_| self.is_made(n)).filter(class);
        if made.any(|c| !makes_open(&c.source, c.node)) {
            return true;
        }
        let related = |c: &Class| match found {
            MemberOf::Class(of) if of.is_known() => {
                let home = class_tree::of_type(&classes, of);
                home.is_none_or(|h| class_tree::around(&classes, h).iter().any(|x| class_tree::same_class(x.ty, c.ty)))
            }
            MemberOf::Other => false,
            _ => true,
        };
        let closed = |c: &Class| declarations(&c.source, c.node, word).iter().any(|d| !is_open_to_all(&c.source, *d));
        if classes.iter().any(|c| !self.is_kept(&c.source) && closed(c) && related(c)) {
            return true;
        }
        let kept = |c: &Class| self.is_kept(&c.source) && closed(c);
        match found {
            MemberOf::Class(of) if of.is_known() => {
                return classes.iter().any(|c| class_tree::same_class(c.ty, of) && kept(c));
            }
            MemberOf::Other => return false,
            _ if classes.iter().any(kept) => return true,
            _ => {}
        }
        let around = t.ancestors(n).filter(|a| t.role(*a) == Role::Class);
        around.into_iter().any(|c| s.lang.may_inherit(s, c, word, &definitions))
    }

    /// The last word of the path by which a constructor is called.
    fn is_made(&self, n: NodeId) -> bool {
        let (s, t) = (self.s, &self.s.tree);
        let call = t.ancestors(n).find(|a| t.child(*a, Field::Callee).is_some_and(|c| t.contains(c, n)));
        let path = call
            .and_then(|c| t.child(c, Field::Callee))
            .filter(|_| call.is_some_and(|c| s.lang.is_construction(s.str(c))));
        let name = path.map_or("", |p| s.str(p).split('<').next().unwrap_or(""));
        name.trim_end().ends_with(s.str(n))
    }

    /// A file whose package does not show all that it has to the new function's.
    fn is_kept(&self, home: &Arc<Source>) -> bool {
        home.module.as_ref().is_none_or(|m| m.package() != self.to)
    }
}

/// All constructors are open; without one the class is as open as its own.
fn makes_open(s: &Source, class: NodeId) -> bool {
    let t = &s.tree;
    let name = t.child(class, Field::Name).map_or("", |n| s.str(n));
    let body = t.child(class, Field::Body).map_or(Vec::new(), |b| t.children(b).collect());
    let makes = |f: &NodeId| t.role(*f) == Role::Function && t.child(*f, Field::Name).is_some_and(|n| s.str(n) == name);
    body.into_iter().filter(makes).all(|f| s.lang.is_open(s, f))
}
