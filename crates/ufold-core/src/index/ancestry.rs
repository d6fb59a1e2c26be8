//! The classes of the project that a class extends, one after the other, where each is named plainly.

use std::sync::Arc;

use crate::index::class_tree::declarations;
use crate::index::{Entity, Project, bases};
use crate::names::{Source, Space};
use crate::tree::{Field, NodeId, Role};

/// A class in its file.
#[derive(Clone)]
pub(crate) struct Ancestor {
    pub source: Arc<Source>,
    pub node: NodeId,
}

impl Ancestor {
    /// The class declares a member of that name, or one of its methods gives it to the object.
    pub(crate) fn has_member(&self, name: &str) -> bool {
        let (s, t) = (&self.source, &self.source.tree);
        let given = |n: NodeId| {
            let assigns = |m: NodeId| t.parent(m).is_some_and(|a| t.role(a).assigns());
            let assigned = |m: NodeId| t.field(m) == Field::Left && assigns(m);
            let member = t.parent(n).filter(|m| t.role(*m) == Role::Member && assigned(*m));
            let object = member.and_then(|m| t.child(m, Field::Object));
            object.is_some_and(|o| s.lang.is_receiver(s.str(o)))
        };
        let word = |n: &NodeId| t.role(*n) == Role::MemberName && s.str(*n) == name;
        let members = || t.child(self.node, Field::Body).into_iter().flat_map(|b| t.children(b));
        let named = |m: NodeId| t.child(m, Field::Name).is_some_and(|n| s.str(n) == name);
        let made = |m: NodeId| s.lang.members_made_by(s, m).into_iter().any(|n| s.str(n) == name);
        let own = || members().any(|m| named(m) || made(m));
        self.declares(name) || own() || !self.members(name).is_empty() || t.subtree(self.node).filter(word).any(given)
    }

    pub(crate) fn is_generic(s: &Source, class: NodeId) -> bool {
        s.tree.child(class, Field::TypeParams).is_some()
    }

    /// Members of a name, in whose heads a type parameter of the class stands.
    fn has_open_type(&self, name: &str) -> bool {
        let (s, t) = (&self.source, &self.source.tree);
        let Some(list) = t.child(self.node, Field::TypeParams) else { return false };
        let leaf = |n: &NodeId| t.is_leaf(*n);
        let open: Vec<&str> = t.children(list).filter_map(|p| t.subtree(p).find(leaf)).map(|n| s.str(n)).collect();
        let body = t.child(self.node, Field::Body).map_or(Vec::new(), |b| t.children(b).collect());
        body.into_iter().any(|m| {
            let inner = t.child(m, Field::Body).filter(|_| t.role(m) == Role::Function);
            let head: Vec<&str> = t
                .subtree(m)
                .filter(leaf)
                .filter(|n| !inner.is_some_and(|b| t.contains(b, *n)))
                .map(|n| s.str(n))
                .collect();
            head.contains(&name) && head.iter().any(|w| open.contains(w))
        })
    }

    pub(crate) fn is(&self, s: &Source, class: NodeId) -> bool {
        self.source.path == s.path && self.node == class
    }

    /// A member or a class of its own that has the name.
    pub(crate) fn declares(&self, name: &str) -> bool {
        let names = &self.source.names;
        let spaces = [Space::Values, Space::Functions, Space::Types];
        names.scope_of(self.node).is_none_or(|x| spaces.iter().any(|k| names.declared_as(x, *k, name).is_some()))
    }

    /// It names one class that it extends, and nothing beside it.
    pub(crate) fn extends_one(&self) -> bool {
        bases::of(&self.source, self.node).len() == 1
    }

    /// One of the members of that name is kept from classes of other packages that extend it.
    fn keeps(&self, name: &str) -> bool {
        self.members(name).into_iter().any(|m| !self.source.lang.is_open_below(&self.source, m))
    }

    /// One of the members of that name is seen by the class alone: it could be meant where those below mean another.
    pub(crate) fn hides(&self, name: &str) -> bool {
        self.members(name).into_iter().any(|m| self.source.lang.hides_member(&self.source, m))
    }

    fn members(&self, name: &str) -> Vec<NodeId> {
        declarations(&self.source, self.node, name)
    }

    /// What a caller sees of the only method of a name, one that an override may stand for: the types of its result and
    /// parameters, and what it throws.
    fn signature(&self, project: &Project, name: &str) -> Option<Vec<String>> {
        let (s, t) = (&self.source, &self.source.tree);
        let scope = s.names.scope_of(self.node)?;
        let other = [Space::Values, Space::Types].iter().any(|k| s.names.declared_as(scope, *k, name).is_some());
        let body = t.child(self.node, Field::Body)?;
        let named =
            |f: &NodeId| t.role(*f) == Role::Function && t.child(*f, Field::Name).is_some_and(|n| s.str(n) == name);
        let mut all = t.children(body).filter(named);
        let method = all.next().filter(|_| all.next().is_none() && !other)?;
        let b = s.names.declared_as(scope, Space::Functions, name)?;
        if !s.lang.is_of_object(s, b) || s.lang.hides_member(s, method) || t.child(method, Field::TypeParams).is_some()
        {
            return None;
        }
        let result = t.child(method, Field::ReturnType).map(|r| s.str(r).to_string())?;
        let list = t.child(method, Field::Parameters)?;
        let of = t.children(list).map(|p| t.child(p, Field::Type).map(|n| s.str(n).to_string()));
        let thrown = s.lang.says_it_throws(s, method).into_iter().map(|n| s.str(n).to_string());
        let types: Vec<String> = of.collect::<Option<_>>()?;
        // the same word may be another class in another file
        let meant = |n: NodeId| match project.origin(&project.entity(s, s.str(n))) {
            Entity::Unknown(..) => s.str(n).to_string(),
            known => format!("{known:?}"),
        };
        let head = t.child(method, Field::ReturnType).into_iter().chain([list]).flat_map(|x| t.subtree(x));
        let words = head.filter(|n| t.is_leaf(*n) && s.names.at(*n).is_some_and(|r| r.is_type())).map(meant);
        let types = std::iter::once(result).chain(types).chain(["!".into()]).chain(thrown).chain(["!".into()]);
        Some(types.chain(words).collect())
    }
}

/// A class, or one that it extends, sees every look at a member of its objects, one of a new method too.
pub(crate) fn is_watched(project: &Project, s: &Arc<Source>, class: NodeId) -> bool {
    let words = s.lang.member_watchers();
    !words.is_empty() && of(project, s, class).iter().any(|c| words.iter().any(|w| c.declares(w)))
}

/// From the class itself upwards, as far as the project goes; what has no type arguments where it should ends it.
pub(crate) fn of(project: &Project, s: &Arc<Source>, class: NodeId) -> Vec<Ancestor> {
    let mut out = vec![Ancestor { source: s.clone(), node: class }];
    while let Some(next) = out.last().and_then(|c| above(project, c)) {
        if out.iter().any(|c| c.is(&next.source, next.node)) {
            break;
        }
        out.push(next);
    }
    out
}

/// What classes name beside the class that they extend: their objects have its members too.
pub(crate) fn promises(project: &Project, classes: &[Ancestor]) -> Vec<Ancestor> {
    let of = |c: &Ancestor| {
        let named = bases::of(&c.source, c.node).into_iter();
        let all = named.filter_map(|n| project.definition(&c.source, c.source.str(n)));
        all.map(|(source, node)| Ancestor { source, node }).collect::<Vec<_>>()
    };
    let known = |a: &Ancestor| classes.iter().any(|c| c.is(&a.source, a.node));
    classes.iter().flat_map(of).filter(|a| !known(a) && a.source.tree.role(a.node) == Role::Class).collect()
}

fn above(project: &Project, c: &Ancestor) -> Option<Ancestor> {
    let s = &c.source;
    let around = |n: NodeId| s.tree.ancestors(n).take_while(|a| *a != c.node).collect::<Vec<_>>();
    let argument = |n: NodeId| around(n).into_iter().any(|a| s.tree.role(a) == Role::Type && s.str(a).starts_with('<'));
    let plain = |n: &NodeId| s.tree.role(*n) == Role::Name && s.tree.is_leaf(*n) && !argument(*n);
    let named = bases::of(s, c.node).into_iter().filter(plain);
    let mut found = named
        .filter_map(|n| Some((n, project.definition(s, s.str(n))?)))
        .filter(|(_, (o, n))| o.lang.hands_down(o, *n));
    let (name, (source, node)) = found.next()?;
    // without its arguments a generic class hands down other types than it has
    let raw = Ancestor::is_generic(&source, node) && !s.text[s.tree.span(name).end..].starts_with('<');
    (found.next().is_none() && !(raw && s.lang.needs_types())).then_some(Ancestor { source, node })
}

/// A name may mean something else in a class than in the one of which it is told what is below: one of those gets it from
/// an interface, or has one of its own that is more than an override, by the same types, of a method from above; or the
/// class has one that they do not see.
pub(crate) fn changes(project: &Project, below: &[Ancestor], base: &Ancestor, name: &str) -> bool {
    let definitions = |s: &Source, name: &str| project.definition(s, name);
    let besides = |c: &Ancestor| c.source.lang.may_get_besides(&c.source, c.node, name, &definitions);
    if below.iter().any(besides) || base.hides(name) {
        return true;
    }
    // what the base's package has for itself may be meant in it
    let apart = below.first().is_some_and(|c| c.source.package() != base.source.package());
    if apart && base.source.names.members_in_sight {
        let above = of(project, &base.source, base.node);
        if above.iter().any(|c| c.keeps(name)) {
            return true;
        }
    }
    // what depends on a type parameter has a type in the class that it has not in those below
    if !below.is_empty() && Ancestor::is_generic(&base.source, base.node) {
        let above = of(project, &base.source, base.node);
        let ends = above.last().is_some_and(|c| bases::of(&c.source, c.node).is_empty());
        let told = ends || above.iter().any(|c| c.declares(name));
        if !told || above.iter().any(|c| c.has_open_type(name)) {
            return true;
        }
    }
    let own: Vec<&Ancestor> = below.iter().filter(|c| c.declares(name)).collect();
    if own.is_empty() {
        return false;
    }
    let above = of(project, &base.source, base.node);
    let Some(first) = above.iter().find(|c| c.declares(name)) else { return true };
    let Some(signature) = first.signature(project, name) else { return true };
    !own.iter().all(|c| c.signature(project, name).as_ref() == Some(&signature))
}

/// A member that the base has is the same for objects of the classes below: none of these has more than an override of it,
/// or, where nothing but the object tells, one of the name at all.
pub(crate) fn hands_down(project: &Project, below: &[Ancestor], base: &Ancestor, name: &str) -> bool {
    match base.source.names.members_in_sight {
        true => !changes(project, below, base, name),
        false => below.iter().all(|c| c.members(name).is_empty()),
    }
}

/// The classes below the nearest one that all have above them, of each class; with that one.
pub(crate) fn common(all: &[Vec<Ancestor>]) -> Option<(Ancestor, Vec<Vec<Ancestor>>)> {
    let holds = |chain: &[Ancestor], c: &Ancestor| chain.iter().position(|o| o.is(&c.source, c.node));
    let base = all.first()?.iter().find(|c| all.iter().all(|o| holds(o, c).is_some()))?;
    let below = all.iter().map(|o| o[..holds(o, base).unwrap_or(0)].to_vec()).collect();
    Some((base.clone(), below))
}
