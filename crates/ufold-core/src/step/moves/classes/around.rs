//! What a class uses of the classes around it: it is named by them then, and opens where it was private.

use super::code::{is_above, may_be_called};
use super::opened::Opened;
use super::{Going, name_of};
use crate::change::{Code, Found, reason};
use crate::index::class_members::{constructors, name_of as member_name};
use crate::index::class_tree::{self, declarations};
use crate::lang::{MemberOf, Reach};
use crate::names::{BindingId, Names, Source, Space};
use crate::text::Edit;
use crate::tree::{NodeId, Role};

/// How names in the class change, and what opens of the classes around it.
#[derive(Default)]
pub(super) struct Around {
    pub edits: Vec<Edit>,
    /// Some names are said by the classes around.
    pub names_them: bool,
    pub opened: Vec<Opened>,
}

impl Around {
    pub fn said<'a>(&'a self, g: &'a Going) -> impl Iterator<Item = String> + 'a {
        self.opened.iter().map(|o| o.said(g))
    }
}

pub(super) fn find(g: &Going) -> Found<Around> {
    let (s, t) = (&g.from, &g.from.tree);
    let mut out = Around::default();
    if g.outer.is_empty() {
        return Ok(out);
    }
    out.edits.extend(g.bases().at_top(s, g.class));
    let named = |n: &NodeId| t.is_leaf(*n) && matches!(t.role(*n), Role::Name | Role::MemberName);
    for n in t.subtree(g.class).filter(named) {
        bare(g, n, &mut out)?;
        private(g, n, &mut out)?;
    }
    Ok(out)
}

/// A bare word that is a member of a class around, or what that inherits.
fn bare(g: &Going, n: NodeId, out: &mut Around) -> Found<()> {
    let s = &g.from;
    let refuse = |code: Code, why: String| Err(vec![reason(s, n, code, why)]);
    let definitions = |s: &Source, name: &str| g.project.definition(s, name);
    let Some(r) = s.names.at(n).filter(|_| s.tree.role(n) == Role::Name) else { return Ok(()) };
    let owner = match r.target.map(|b| (b, s.names.binding(b).scope)) {
        Some((_, scope)) if scope == Names::MODULE => return Ok(()),
        Some((b, scope)) => {
            let class = s.names.scope(scope).node;
            let itself = s.tree.child(g.class, crate::tree::Field::Name) == Some(s.names.binding(b).first);
            if s.tree.contains(g.class, class) || itself || inherits(g, n, (b, class)) {
                return Ok(());
            }
            if !g.outer.contains(&class) {
                return refuse(Code::NeedsClass, format!("`{}` is not in sight there", s.str(n)));
            }
            if s.names.binding(b).space != Space::Types && s.lang.is_of_object(s, b) {
                return refuse(Code::NeedsClass, format!("`{}` belongs to the objects of its class", s.str(n)));
            }
            class
        }
        // inherited by one of the classes, or of none
        None => {
            let own = |c: &NodeId| s.lang.may_inherit(s, *c, s.str(n), &definitions);
            let found = s.lang.member_of(s, n, &definitions);
            let inside = g.classes();
            let inherited = |c: NodeId| s.lang.member_above(s, c, s.str(n), &definitions) == found;
            match found {
                MemberOf::Other | MemberOf::Unknown if g.outer.iter().any(own) && !inside.iter().any(own) => {
                    return refuse(Code::NameHidden, format!("a class around may have inherited `{}`", s.str(n)));
                }
                MemberOf::Class(_) | MemberOf::Likely(_) if !inside.iter().any(|c| inherited(*c)) => {
                    return refuse(Code::NameHidden, format!("a class around has inherited `{}`", s.str(n)));
                }
                _ => return Ok(()),
            }
        }
    };
    let depth = g.outer.iter().position(|c| *c == owner).expect("just seen");
    let path: Vec<&str> = g.outer[..=depth].iter().map(|c| name_of(s, *c)).collect();
    let mut scopes = s.names.scope_chain(r.scope).filter(|x| s.tree.contains(g.class, s.names.scope(*x).node));
    let hidden = scopes.any(|x| s.names.declared_in(x, path[0]).is_some()) || path[0] == g.name();
    if hidden {
        return refuse(Code::NameHidden, format!("`{}` is something else here", path[0]));
    }
    let start = s.tree.span(n).start;
    out.names_them = true;
    out.edits.push(Edit::new(start, start, format!("{}.", path.join("."))));
    Ok(())
}

/// A class that goes has the member of a class around as one below it.
fn inherits(g: &Going, n: NodeId, (b, owner): (BindingId, NodeId)) -> bool {
    let (s, t) = (&g.from, &g.from.tree);
    let definitions = |s: &Source, name: &str| g.project.definition(s, name);
    let own = s.lang.class_type(s, owner, &definitions).0;
    let first = s.names.binding(b).first;
    let declaration = t.ancestor(first, &[Role::Function, Role::ClassField, Role::Class]);
    let private = declaration.is_none_or(|d| s.lang.hides_member(s, d));
    let mut around = t.ancestors(n).take_while(|a| t.contains(g.class, *a)).filter(|a| t.role(*a) == Role::Class);
    !private && around.any(|c| g.relatives(c).iter().any(|r| class_tree::same_class(r.ty, own) && is_above(g, c, r)))
}

/// A word for something private of the classes around.
fn private(g: &Going, n: NodeId, out: &mut Around) -> Found<()> {
    let s = &g.from;
    let definitions = |s: &Source, name: &str| g.project.definition(s, name);
    let word = s.str(n);
    let mut all: Vec<NodeId> = Vec::new();
    let own = |classes: &[class_tree::Class], c| {
        let home = class_tree::of_type(classes, c);
        home.filter(|h| h.source.path == s.path && !g.holds(s, h.node)).map(|h| h.node)
    };
    let classes = class_tree::with_word(g.project, word, s.lang);
    if let MemberOf::Class(c) = s.lang.class_named(s, n, &definitions)
        && let Some(class) = own(&classes, c)
    {
        all.push(class);
        let made = class_tree::is_made(s, n);
        let makes = constructors(s, g.bases(), class).into_iter();
        all.extend(makes.filter(|f| made && may_be_called(s, n, (s, *f))));
    }
    match s.lang.member_of(s, n, &definitions) {
        MemberOf::Class(c) => all.extend(own(&classes, c).into_iter().flat_map(|x| declarations(s, x, word))),
        MemberOf::Likely(_) | MemberOf::Unknown => {
            let kept = |c: &NodeId| declarations(s, *c, word).iter().any(|d| s.lang.hides_member(s, *d));
            let mut around = s.tree.ids().filter(|c| s.tree.role(*c) == Role::Class && !g.holds(s, *c));
            if around.any(|c| kept(&c)) {
                let message = format!("whose `{word}` this is can't be told, and one is private");
                return Err(vec![reason(s, n, Code::UnknownMember, message)]);
            }
        }
        MemberOf::Other => {}
    }
    for d in all.into_iter().filter(|d| s.lang.hides_member(s, *d)) {
        if out.opened.iter().any(|o| o.declaration == d) {
            continue;
        }
        open(g, (n, d), out)?;
    }
    Ok(())
}

/// A private declaration that the class names is its class's alone no more, where no related class knows the word.
fn open(g: &Going, (n, d): (NodeId, NodeId), out: &mut Around) -> Found<()> {
    let s = &g.from;
    let refuse = |why: String| Err(vec![reason(s, n, Code::NeedsClass, why)]);
    if !g.near() {
        return refuse(format!("`{}` is private to the class around", s.str(n)));
    }
    let makes = s.tree.role(d) == Role::Function && g.bases().is_constructor(s, d);
    let word = member_name(s, d).or_else(|| s.tree.child(d, crate::tree::Field::Name));
    let Some(name) = word.map(|w| s.str(w)) else { return refuse("what this is can't be told".into()) };
    let class = s.tree.ancestor(d, &[Role::Class]);
    let twins = class.map_or(Vec::new(), |c| declarations(s, c, name));
    if twins.len() > 1 {
        return Err(vec![reason(s, n, Code::Overloaded, format!("another `{name}` could be called then"))]);
    }
    let classes = class_tree::with_word(g.project, class.map_or("", |c| name_of(s, c)), s.lang);
    let home = classes.iter().find(|c| c.source.path == s.path && Some(c.node) == class);
    for c in home.map_or(Vec::new(), |h| class_tree::around(&classes, h)).into_iter().filter(|_| !makes) {
        let same = c.source.path == s.path && Some(c.node) == class;
        let t = &c.source.tree;
        let says = |n: &NodeId| t.is_leaf(*n) && c.source.str(*n) == name && t.role(*n) != Role::Literal;
        if !same && t.subtree(c.node).any(|x| says(&x) && !g.holds(&c.source, x)) {
            return refuse(format!("`{name}` is its class's alone, and a related class has the word too"));
        }
    }
    out.opened.push(super::opened::open(g, d, name, Reach::Near)?);
    Ok(())
}
