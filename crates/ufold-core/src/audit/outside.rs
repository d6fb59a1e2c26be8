//! What no edit touched: the same nodes, and each name means what it meant.

use rustc_hash::FxHashMap;

use super::{Opinion, Pair, object};
use crate::find::FileFacts;
use crate::index::Project;
use crate::names::{ImportRef, Names, Source};
use crate::tree::{Field, NodeId, Role, Tree};

/// Old nodes that open scopes, to the new ones.
pub(crate) type ScopeMap = FxHashMap<NodeId, NodeId>;

/// The new function: where it stands in this file, its name and its file.
pub(super) struct New<'a> {
    pub definition: Option<NodeId>,
    /// Types that were made for it.
    pub beside: &'a [NodeId],
    pub name: &'a str,
    pub home: Option<usize>,
}

/// `users`: files whose code calls the new function.
pub(super) fn compare(project: &Project, p: &Pair, new: New, users: &[usize]) -> Opinion<ScopeMap> {
    let New { definition, beside, name, home } = new;
    let mut w =
        Walk { project, users, p, definition, beside, name, home, scopes: FxHashMap::default(), leaves: Vec::new() };
    w.pair(Tree::ROOT, Tree::ROOT)?;
    for (old, new) in &w.leaves {
        if !same_meaning(&p.old, &p.new, &w.scopes, *old, *new) {
            return object(&p.old, *old, format!("`{}` would mean something else", p.old.str(*old)));
        }
    }
    Ok(w.scopes)
}

/// Both names reach the same scope's binding of the same name, or both reach none.
pub(super) fn same_meaning(old: &Source, new: &Source, scopes: &ScopeMap, a: NodeId, b: NodeId) -> bool {
    let target = |s: &Source, n: NodeId| {
        let r = s.names.at(n)?;
        Some((
            r.usage,
            r.target.map(|t| {
                let binding = s.names.binding(t);
                (s.names.scope(binding.scope).node, (s.names.turn(t), binding.name.clone()))
            }),
        ))
    };
    match (target(old, a), target(new, b)) {
        (None, None) => true,
        (Some((u, None)), Some((v, None))) => u == v && old.str(a) == new.str(b),
        (Some((u, Some((x, n)))), Some((v, Some((y, m))))) => u == v && n == m && scopes.get(&x) == Some(&y),
        _ => false,
    }
}

struct Walk<'a> {
    project: &'a Project<'a>,
    users: &'a [usize],
    p: &'a Pair,
    definition: Option<NodeId>,
    beside: &'a [NodeId],
    name: &'a str,
    home: Option<usize>,
    scopes: ScopeMap,
    leaves: Vec<(NodeId, NodeId)>,
}

impl Walk<'_> {
    fn pair(&mut self, a: NodeId, b: NodeId) -> Opinion<()> {
        let (old, new) = (&self.p.old, &self.p.new);
        let (t, n) = (&old.tree, &new.tree);
        let rewritten = self.p.retired.iter().flat_map(|r| &r.calls).find(|c| c.0 == a);
        if let Some((_, call)) = rewritten {
            return if *call == b { Ok(()) } else { object(old, a, "a rewritten call stands elsewhere") };
        }
        if t.role(a) != n.role(b) || t.field(a) != n.field(b) {
            return object(old, a, "code outside the copies changed");
        }
        if old.names.scope_of(a).is_some() {
            self.scopes.insert(a, b);
        }
        if t.is_leaf(a) && n.is_leaf(b) {
            if t.exact(a) != n.exact(b) {
                return object(old, a, "a word outside the copies changed");
            }
            self.leaves.push((a, b));
            return Ok(());
        }
        let mut left = t.children(a).peekable();
        let mut right: Vec<NodeId> = n.children(b).filter(|c| !self.is_new(*c)).collect();
        right.reverse();
        while let Some(c) = left.next() {
            if self.p.retired.iter().any(|r| r.function == c) || self.p.dropped.contains(&c) {
                continue;
            }
            let declares = |d: &NodeId| self.p.sites.iter().any(|s| s.first == c && s.declares.contains(d));
            while right.last().is_some_and(declares) {
                right.pop();
            }
            let Some(d) = right.pop() else { return object(old, c, "code outside the copies is missing") };
            if let Some(s) = self.p.sites.iter().find(|s| s.first == c) {
                if s.call != d {
                    return object(old, c, "the call does not stand where the copy stood");
                }
                while right.last().is_some_and(|x| s.unpacks.contains(x)) {
                    right.pop();
                }
                while left.peek().is_some_and(|x| *x <= s.last) {
                    left.next();
                }
                continue;
            }
            self.pair(c, d)?;
        }
        match right.pop() {
            Some(d)
                if matches!(t.role(a), Role::ImportFrom | Role::ImportList)
                    && right.is_empty()
                    && (new.str(d) == self.name || self.is_carried(b)) =>
            {
                Ok(())
            }
            Some(_) => object(old, a, "code outside the copies was added"),
            None => Ok(()),
        }
    }

    /// A statement that gives the new function to a member of the same name.
    fn exports_it(&self, id: NodeId) -> bool {
        let (s, n) = (&self.p.new, &self.p.new.tree);
        let at_end = n.parent(id) == Some(Tree::ROOT) && self.p.inserted.iter().any(|i| i.contains(n.span(id)));
        let assign = n.children(id).next().filter(|a| n.role(*a) == Role::Assign && n.role(id) == Role::ExprStmt);
        let sides = assign.and_then(|a| n.child(a, Field::Left).zip(n.child(a, Field::Right)));
        let Some((left, right)) = sides.filter(|_| at_end && self.definition.is_some()) else { return false };
        // a new file exports nothing else
        let alone: Vec<NodeId> = n.subtree(right).filter(|x| n.is_leaf(*x)).collect();
        if self.p.old.tree.len() <= 1 && n.role(right) == Role::Dict && s.lang.is_exports(s, s.str(left)) {
            return alone.iter().all(|x| s.str(*x) == self.name);
        }
        let member = n.child(left, Field::Member).is_some_and(|m| s.str(m) == self.name);
        let exports = n.child(left, Field::Object).is_some_and(|o| s.lang.is_exports(s, s.str(o)));
        member && exports && s.str(right) == self.name
    }

    /// The new function, or an import of it.
    fn is_new(&self, id: NodeId) -> bool {
        let n = &self.p.new.tree;
        let inner = n.child(id, crate::tree::Field::Definition).unwrap_or(id);
        if Some(inner) == self.definition || self.beside.contains(&id) {
            return true;
        }
        let imports_it = || {
            let bound: Vec<&str> = n
                .subtree(id)
                .filter(|x| self.p.new.names.at(*x).is_some_and(|r| r.usage.writes()))
                .map(|x| self.p.new.str(x))
                .collect();
            // a declaration that imports does nothing else
            let named = &self.p.new;
            let imports = named.lang.imports_of(n, id, &named.text);
            // where files are no values, its class
            let of_class = |i: &ImportRef| {
                let files = self.project.resolved(named, i);
                named.names.members_in_sight && !i.wildcard && self.home.is_some_and(|h| files == [h])
            };
            imports.len() == 1 && (bound == [self.name] || of_class(&imports[0]))
        };
        if self.exports_it(id) {
            return true;
        }
        n.parent(id) == Some(Tree::ROOT)
            && self.p.inserted.iter().any(|s| s.contains(n.span(id)))
            && (matches!(n.role(id), Role::ImportFrom | Role::Declare) && (imports_it() || self.opens_space(id))
                || self.is_carried(id))
    }

    /// It opens the name space of the function's class, which gives no other name of the file another meaning, and adds no
    /// member of a name that stands in it.
    fn opens_space(&self, id: NodeId) -> bool {
        let (old, new, p) = (&self.p.old, &self.p.new, self.project);
        let Some((home, (was, now))) = self.home.zip(old.name_spaces().zip(new.name_spaces())) else { return false };
        let space = p.facts[home].spaces.as_ref().and_then(|s| s.own.clone()).unwrap_or_default();
        let mut more = was.opened.clone();
        let at = now.opened.iter().position(|o| *o == space).unwrap_or(more.len()).min(more.len());
        more.insert(at, space.clone());
        let only = more == now.opened && was.own == now.own && was.for_all == now.for_all;
        let said: Vec<&str> = new.str(id).trim_end_matches(';').split_whitespace().collect();
        let words = || old.tree.ids().filter(|n| old.tree.is_leaf(*n));
        let beside = |f: &&FileFacts| f.spaces.as_ref().is_some_and(|s| s.own.as_ref() == Some(&space));
        let adds = |f: &FileFacts| {
            let added = f.spaces.as_ref().map_or(&[][..], |s| &s.added);
            words().any(|n| old.tree.role(n) == Role::MemberName && added.iter().any(|a| a == old.str(n)))
        };
        let same = |n: NodeId| {
            let free = old.names.at(n).is_some_and(|r| r.target.is_none());
            !free || p.facts.iter().filter(beside).all(|f| !f.shared.iter().any(|c| c == old.str(n)))
        };
        only && said.last() == Some(&space.as_str()) && words().all(same) && !p.facts.iter().filter(beside).any(adds)
    }

    /// An import in the function's file, of names that meant nothing there, by which nothing is loaded that its users do
    /// not load already, and nothing in a circle. That the names mean what they meant is seen where they are used.
    fn is_carried(&self, id: NodeId) -> bool {
        let (s, n) = (&self.p.new, &self.p.new.tree);
        let statement = n.ancestors(id).chain([id]).find(|a| n.parent(*a) == Some(Tree::ROOT)).unwrap_or(id);
        let imports = s.lang.imports_of(n, statement, &s.text);
        let whole = matches!(n.role(statement), Role::Import | Role::ImportFrom | Role::Declare);
        if self.definition.is_none() || !whole || imports.is_empty() || imports.iter().any(|i| i.wildcard) {
            return false;
        }
        let bound = n.subtree(statement).filter(|x| s.names.at(*x).is_some_and(|r| r.usage.writes()));
        let old = &self.p.old;
        let means_nothing = |name: &str| {
            let uses = || old.names.references.iter().filter(|r| old.str(r.node) == name);
            let told =
                |r: &crate::names::Reference| r.target.is_none_or(|b| old.names.binding(b).scope == Names::MODULE);
            !uses().any(told)
        };
        let had: Vec<&str> = old.names.bindings_of(Names::MODULE).map(|b| old.names.binding(b).name.as_str()).collect();
        let fresh = bound.into_iter().map(|x| s.str(x)).filter(|name| !had.contains(name)).all(means_nothing);
        let m = self.project.modules();
        let home = self.project.index(&s.path);
        let loads = |i: &ImportRef| {
            let files = self.project.resolved(s, i);
            let circle = |f: &usize| {
                home.is_none_or(|h| *f == h || m.reaches(*f, h))
                    || self.users.contains(f)
                    || self.users.iter().any(|u| m.reaches(*f, *u))
            };
            let known =
                s.lang.is_standard_module(&i.module) || self.users.iter().all(|u| m.needs(*u).contains(&i.module));
            match files.is_empty() {
                true => i.level == 0 && known,
                false => {
                    let loads = s.lang.imports_load() && !(s.lang.shares_by_loading() && i.level == 0);
                    !loads || !files.iter().any(circle)
                }
            }
        };
        fresh && imports.iter().all(loads)
    }
}

/// Whether a binding is a name of the module.
pub(super) fn is_module_level(names: &Names, target: Option<crate::names::BindingId>) -> bool {
    target.is_none_or(|b| names.binding(b).scope == Names::MODULE)
}
