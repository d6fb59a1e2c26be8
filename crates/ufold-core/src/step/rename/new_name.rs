//! What speaks against a new name: others that have it, places where it would catch or be caught by another, and what may
//! be called so outside the project.

use rustc_hash::FxHashSet;

use crate::change::{Code, Found, Reason, reason};
use crate::index::class_tree::Class;
use crate::index::inherited::{self, Inherited};
use crate::index::member_uses::{self, Owner, is_member_word, owner};
use crate::index::typed_members::Typed;
use crate::index::{Project, Uses, globals, unseen};
use crate::lang::MemberOf;
use crate::names::{BindingId, Names, Source};
use crate::tree::{Field, NodeId, Role};

/// A name that something is to have.
pub(super) struct NewName<'a> {
    pub(super) project: &'a Project<'a>,
    pub(super) new: &'a str,
}

impl NewName<'_> {
    pub(super) fn of_binding(&self, s: &Source, b: BindingId, uses: &[Uses]) -> Found<Vec<Reason>> {
        let binding = s.names.binding(b);
        let of_module = binding.scope == Names::MODULE;
        if of_module && unseen::is_collected(&s.path, &binding.name) && !unseen::is_collected(&s.path, self.new) {
            let message = format!("a test runner finds `{}` by its name", binding.name);
            return Err(vec![reason(s, binding.first, Code::Demanded, message)]);
        }
        if let Some((o, n)) = globals::elsewhere(self.project, s, b, self.new).first().cloned() {
            return Err(vec![reason(&o, n, Code::NameTaken, format!("`{}` is another global here", self.new))]);
        }
        let mut out = Vec::new();
        for u in uses {
            if of_module && u.source.path != s.path && u.source.names.in_module(self.new).is_some() {
                let message = format!("`{}` is already a name here", self.new);
                return Err(vec![reason(&u.source, u.nodes[0], Code::NameTaken, message)]);
            }
            self.taken(u)?;
            out.extend(self.inherited(u)?);
        }
        Ok(out)
    }

    /// A member that is followed by its word.
    pub(super) fn of_member(&self, s: &Source, node: NodeId, old: &str, family: &[member_uses::Class]) -> Found<()> {
        let new = self.new;
        if s.lang.is_mangled(old) != s.lang.is_mangled(new) {
            let message = format!("`{old}` and `{new}` are not seen by the same classes");
            return Err(vec![reason(s, node, Code::ForeignName, message)]);
        }
        for (_, other) in unseen::with_word(self.project, new, family[0].0.lang) {
            let t = &other.tree;
            let taken = |n: &NodeId| {
                is_member_word(&other, *n, new) && !matches!(owner(self.project, &other, *n, family), Owner::Other)
            };
            if let Some(n) = t.ids().find(taken) {
                return Err(vec![reason(&other, n, Code::NameTaken, format!("`{new}` is already a member"))]);
            }
        }
        Ok(())
    }

    /// A member whose class is told by types.
    pub(super) fn of_typed_member(&self, m: &Typed) -> Found<Vec<Reason>> {
        let mut out = self.taken_around(&m.around)?;
        self.imported(&m.home)?;
        for u in &m.references.sure {
            out.extend(self.hidden(&u.source, &u.nodes, &m.around)?);
        }
        Ok(out)
    }

    /// A class, in languages whose types tell which one a word means.
    pub(super) fn of_class(&self, home: &Source, uses: &[Uses]) -> Found<Vec<Reason>> {
        let class = OfClass { project: self.project, home, new: self.new };
        class.taken(uses)?;
        class.assumed(uses)
    }

    /// The new name of a local, in a class inside its function that has or inherits a member of that name.
    fn inherited(&self, u: &Uses) -> Found<Option<Reason>> {
        let s = &u.source;
        let mut assumed = None;
        for n in &u.nodes {
            let b = s.names.at(*n).and_then(|r| r.target).filter(|b| !s.names.is_member(*b));
            let Some(b) = b.filter(|b| s.names.binding(*b).scope != Names::MODULE) else { continue };
            let function = s.names.scope(s.names.binding(b).scope).node;
            match inherited::of_local(self.project, s, *n, self.new, function) {
                Inherited::No => {}
                Inherited::Perhaps => {
                    let message = format!("nothing that the class here extends has a member `{}`", self.new);
                    assumed = assumed.or(Some(reason(s, *n, Code::InheritedName, message)));
                }
                Inherited::Surely => {
                    return Err(vec![reason(
                        s,
                        *n,
                        Code::NameTaken,
                        format!("`{}` is a member of the class here", self.new),
                    )]);
                }
            }
        }
        Ok(assumed)
    }

    /// The new name must not stand where it would catch, or be caught by, another.
    fn taken(&self, u: &Uses) -> Found<()> {
        let new = self.new;
        let (s, t) = (&u.source, &u.source.tree);
        let frames: FxHashSet<NodeId> = u
            .nodes
            .iter()
            .filter_map(|n| s.names.at(*n)?.target)
            .map(|b| s.names.scope(s.names.frame_of(b)).node)
            .collect();
        let inside = |n: NodeId| frames.iter().any(|f| t.contains(*f, n));
        let clash =
            t.ids().find(|n| t.role(*n) == Role::Name && s.str(*n) == new && inside(*n) && s.names.at(*n).is_some());
        let hidden = s.lang.is_keyword(new) || s.lang.is_builtin(new) && clash.is_some();
        match clash {
            Some(n) => Err(vec![reason(s, n, Code::NameTaken, format!("`{new}` is already in use here"))]),
            None if hidden => {
                Err(vec![reason(s, u.nodes[0], Code::NameTaken, format!("`{new}` has a meaning already"))])
            }
            None => Ok(()),
        }
    }

    /// The new name among the classes that have the member, or that are above or below them.
    fn taken_around(&self, around: &[Class]) -> Found<Vec<Reason>> {
        let mut out = Vec::new();
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        for c in around {
            let (s, t) = (&c.source, &c.source.tree);
            let named = |n: &NodeId| t.is_leaf(*n) && t.role(*n) == Role::Name && s.str(*n) == self.new;
            if let Some(n) = t.subtree(c.node).find(named) {
                return Err(vec![reason(s, n, Code::NameTaken, format!("`{}` is already in use here", self.new))]);
            }
            if s.lang.may_inherit(s, c.node, self.new, &definitions) {
                let message = format!("nothing that the class extends has a member `{}`", self.new);
                out.push(reason(s, c.node, Code::InheritedName, message));
            }
        }
        Ok(out)
    }

    /// A bare use of the member at a place where the new name means something nearer: a local, what is imported, what a
    /// class in between has or inherits.
    fn hidden(&self, s: &Source, nodes: &[NodeId], around: &[Class]) -> Found<Vec<Reason>> {
        let t = &s.tree;
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        let nearer = |n: NodeId| {
            let Some(r) = s.names.at(n) else { return false };
            s.names.scope_chain(r.scope).any(|x| s.names.declared_in(x, self.new).is_some())
                || s.lang.member_around(s, n, self.new, &definitions) != MemberOf::Other
        };
        let bare = || nodes.iter().copied().filter(|n| t.role(*n) == Role::Name && t.field(*n) != Field::Name);
        if let Some(n) = bare().find(|n| nearer(*n)) {
            return Err(vec![reason(s, n, Code::NameTaken, format!("`{}` means something else here", self.new))]);
        }
        let mut out = Vec::new();
        for c in bare().flat_map(|n| t.ancestors(n).filter(|a| t.role(*a) == Role::Class)) {
            let own = around.iter().any(|a| a.source.path == s.path && a.node == c);
            if !own && out.is_empty() && s.lang.may_inherit(s, c, self.new, &definitions) {
                let message = format!("nothing that this class extends has a member `{}`", self.new);
                out.push(reason(s, c, Code::InheritedName, message));
            }
        }
        Ok(out)
    }

    /// A bare word that is the new name, in a file that may import the member: it could mean either.
    fn imported(&self, home: &Class) -> Found<()> {
        let class = home.source.tree.child(home.node, Field::Name).map_or("", |n| home.source.str(n));
        for s in unseen::with_name(self.project, self.new, home.source.lang) {
            let free = |n: &NodeId| {
                let open = s.names.at(*n).is_some_and(|r| r.target.is_none() && !r.is_type());
                s.tree.is_leaf(*n) && s.str(*n) == self.new && (open || s.names.is_imported(*n))
            };
            let found = s.tree.ids().find(free).filter(|_| crate::index::words::has_whole_word(&s.text, class));
            if let Some(n) = found {
                return Err(vec![reason(&s, n, Code::NameTaken, format!("`{}` is already in use here", self.new))]);
            }
        }
        Ok(())
    }
}

/// A class's new name: another class that has it, files that see the class and use the name, and what may be called so
/// outside the project.
struct OfClass<'a> {
    project: &'a Project<'a>,
    home: &'a Source,
    new: &'a str,
}

impl OfClass<'_> {
    fn is_own_package(&self, name: &str) -> bool {
        let files = 0..self.project.facts.len();
        let mut modules = files.filter_map(|f| self.project.modules().name(f));
        modules.any(|m| m.parts.join(".") == name || m.package().join(".") == name)
    }

    fn taken(&self, uses: &[Uses]) -> Found<()> {
        let (home, new) = (self.home, self.new);
        if home.lang.is_builtin(new) || home.lang.is_keyword(new) {
            let at = uses.first().map_or(NodeId(0), |u| u.nodes[0]);
            return Err(vec![reason(home, at, Code::NameTaken, format!("`{new}` has a meaning already"))]);
        }
        for (_, s) in unseen::with_word(self.project, new, home.lang) {
            let t = &s.tree;
            let named = |n: &NodeId| t.is_leaf(*n) && t.role(*n) == Role::Name && s.str(*n) == new;
            let sees =
                uses.iter().any(|u| u.source.path == s.path) || s.package() == home.package() || s.names.wildcard;
            // classes of one name hide each other where they are inherited or imported
            let class =
                |n: &NodeId| t.field(*n) == Field::Name && t.parent(*n).is_some_and(|p| t.role(p) == Role::Class);
            if let Some(n) = t.ids().filter(named).find(|n| sees || class(n)) {
                return Err(vec![reason(&s, n, Code::NameTaken, format!("`{new}` is already in use here"))]);
            }
        }
        Ok(())
    }

    /// Places where something outside the project may have the new name.
    fn assumed(&self, uses: &[Uses]) -> Found<Vec<Reason>> {
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        let new = self.new;
        let mut out = Vec::new();
        for u in uses {
            let (s, t) = (&u.source, &u.source.tree);
            let imported = u.nodes.iter().any(|n| t.ancestor(*n, &[Role::ImportFrom]).is_some());
            let outside = || {
                let facts = self.project.index(&s.path).map(|f| &self.project.facts[f].imports);
                let mut whole = facts.into_iter().flatten().filter(|i| i.import.wildcard);
                whole.any(|i| !self.is_own_package(&i.import.module))
            };
            if !imported && s.package() != self.home.package() && outside() {
                let message = format!("no package that is imported whole has a `{new}`");
                out.push(reason(s, u.nodes[0], Code::MemberByName, message));
            }
            let above = |n: &NodeId| (*n, s.lang.class_above_place(s, *n, new, &definitions));
            let mut hidden = u.nodes.iter().map(above).filter(|(_, found)| *found != MemberOf::Other);
            match hidden.next() {
                Some((n, MemberOf::Unknown)) => {
                    let message = format!("no class outside the project has a `{new}` in it that is meant here then");
                    out.push(reason(s, n, Code::MemberByName, message));
                }
                Some((n, _)) => {
                    let message = format!("a class that is extended here has a `{new}` in it");
                    return Err(vec![reason(s, n, Code::NameTaken, message)]);
                }
                None => {}
            }
        }
        Ok(out)
    }
}
