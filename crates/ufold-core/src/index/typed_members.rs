//! Members where types tell whose they are: every word is surely the member's, surely another's, or one of which nothing is
//! known.
//!
//! Methods of classes that extend each other are one member; fields, static and private ones are their class's own. What
//! is not known stays as it is, and is an assumption with its place: were it the member, the compiler would say so.

use std::sync::Arc;

use rustc_hash::FxHashSet;

use crate::change::{Code, Found, Reason, reason};
use crate::index::class_tree::{self, Class, same_class};
use crate::index::references::References;
use crate::index::{Project, Uses, unseen};
use crate::lang::MemberOf;
use crate::names::{BindKind, BindingId, Source, Space};
use crate::tree::{NodeId, Role};
use crate::types::Ty;

struct Member<'a> {
    project: &'a Project<'a>,
    old: &'a str,
}

/// A member's references, with its class and those above and below it.
pub(crate) struct Typed {
    pub(crate) references: References,
    pub(crate) home: Class,
    pub(crate) around: Vec<Class>,
}

pub(crate) fn find(project: &Project, s: &Arc<Source>, node: NodeId, old: &str) -> Found<Typed> {
    Member { project, old }.find(s, node)
}

impl Member<'_> {
    fn of(&self, s: &Source, word: NodeId) -> MemberOf {
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        let found = s.lang.member_of(s, word, &definitions);
        // what its class extends may stand in the part that was not read
        let open = s.names.at(word).is_some_and(|r| r.target.is_none() && !r.is_type());
        if found == MemberOf::Other && open && !s.tree.errors().is_empty() { MemberOf::Unknown } else { found }
    }

    fn find(&self, s: &Arc<Source>, node: NodeId) -> Found<Typed> {
        let refuse = |code: Code, message: String| Err(vec![reason(s, node, code, message)]);
        let MemberOf::Class(own) = self.of(s, node) else {
            return refuse(Code::UnknownMember, format!("which class has `{}` can't be told here", self.old));
        };
        let classes = class_tree::with_word(self.project, self.old, s.lang);
        let is_home = |c: &&Class| match own.is_known() {
            true => c.ty == own,
            false => c.source.path == s.path && Some(c.node) == class_of_word(s, node),
        };
        let Some(home) = classes.iter().find(is_home) else {
            return refuse(Code::UnknownMember, format!("the class of `{}` was not found", self.old));
        };
        let of_class = self.member(home, self.old).is_some_and(|b| !home.source.lang.is_of_object(&home.source, b));
        let special = match of_class {
            true => s.lang.is_special_of_class(self.old),
            false => s.lang.is_special_member(self.old),
        };
        if special {
            return refuse(Code::ForeignName, format!("the language gives `{}` its meaning", self.old));
        }
        let (family, around) = self.family(&classes, home);
        let mut assumed = self.outside(&family)?;
        let types: FxHashSet<Ty> = family.iter().map(|c| c.ty).collect();
        let mut out = Vec::new();
        for source in unseen::with_name(self.project, self.old, home.source.lang) {
            let t = &source.tree;
            let words = t.ids().filter(|n| t.is_leaf(*n) && source.str(*n) == self.old);
            let mut nodes = Vec::new();
            for n in words.filter(|n| matches!(t.role(*n), Role::Name | Role::MemberName)) {
                match self.of(&source, n) {
                    MemberOf::Class(c) if c.is_known() && types.contains(&c) => nodes.push(n),
                    // a class without a name is told by its place
                    MemberOf::Class(c) if !c.is_known() => {
                        let class = class_of_word(&source, n);
                        if family.iter().any(|f| f.source.path == source.path && Some(f.node) == class) {
                            nodes.push(n);
                        }
                    }
                    MemberOf::Class(_) | MemberOf::Other => {}
                    MemberOf::Likely(_) | MemberOf::Unknown => {
                        let message = format!("`{}` here is of another class, of which nothing is known", self.old);
                        assumed.push(reason(&source, n, Code::MemberByName, message));
                    }
                }
            }
            if !nodes.is_empty() {
                out.push(Uses { source, nodes });
            }
        }
        let references = References { sure: out, possible: assumed };
        let around = around.into_iter().cloned().collect();
        Ok(Typed { references, home: home.clone(), around })
    }

    fn member(&self, c: &Class, name: &str) -> Option<BindingId> {
        let scope = c.source.names.scope_of(c.node)?;
        [Space::Functions, Space::Values].into_iter().find_map(|x| c.source.names.declared_as(scope, x, name))
    }

    /// The classes that have the member in common, and all that are above or below one of them.
    fn family<'c>(&self, classes: &'c [Class], home: &'c Class) -> (Vec<&'c Class>, Vec<&'c Class>) {
        let around = class_tree::around(classes, home);
        let own = self.member(home, self.old).filter(|b| self.is_shared(home, *b));
        let family = match own {
            Some(_) => around
                .iter()
                .copied()
                .filter(|c| self.member(c, self.old).is_some_and(|b| self.is_shared(c, b)))
                .collect(),
            None => vec![home],
        };
        (family, around)
    }

    /// A method of the object that classes below may have, too.
    fn is_shared(&self, c: &Class, b: BindingId) -> bool {
        let (s, t) = (&c.source, &c.source.tree);
        let binding = s.names.binding(b);
        let private = t.parent(binding.first).is_some_and(|f| s.lang.hides_member(s, f));
        binding.kind == BindKind::Function && s.lang.is_of_object(s, b) && !private
    }

    /// Who else calls it by its name.
    fn outside(&self, family: &[&Class]) -> Found<Vec<Reason>> {
        let mut out = Vec::new();
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        for c in family {
            let (s, t) = (&c.source, &c.source.tree);
            let Some(b) = self.member(c, self.old) else { continue };
            let first = s.names.binding(b).first;
            let parent = t.parent(first).unwrap_or(first);
            let declaration = if t.role(parent) == Role::Assign { t.parent(parent).unwrap_or(parent) } else { parent };
            if let Some((why, keeps)) = s.lang.named_from_outside(s, declaration) {
                let found = reason(s, first, Code::Demanded, why);
                if keeps {
                    return Err(vec![found]);
                }
                out.push(found);
            }
            if self.is_shared(c, b) && s.lang.may_inherit(s, c.node, self.old, &definitions) {
                let foreign = c.above.iter().any(|a| !family.iter().any(|f| same_class(*a, f.ty)));
                if foreign {
                    let message =
                        format!("nothing outside the project that its class extends has or calls `{}`", self.old);
                    out.push(reason(s, first, Code::Demanded, message));
                }
            }
        }
        Ok(out)
    }
}

/// The class whose member a bare word, or the word of a declaration, names.
fn class_of_word(s: &Source, word: NodeId) -> Option<NodeId> {
    let b = s.names.at(word).and_then(|r| r.target).filter(|b| s.names.is_member(*b));
    let scope = b.map(|b| s.names.scope(s.names.binding(b).scope).node);
    scope.or_else(|| s.tree.ancestor(word, &[Role::Class]))
}
