//! Members that the class keeps for its package, and that code of the old one uses: they open, where that chooses nothing
//! else for anybody.

use super::code::asks_its_own;
use super::users::Users;
use super::{Going, name_of};
use crate::change::{Code, Found, Reason, reason};
use crate::index::class_members::{body, declared_words, is_function, name_of as member_name};
use crate::index::class_tree::{self, same_class};
use crate::index::unseen;
use crate::lang::{MemberOf, Reach};
use crate::names::Source;
use crate::text::Edit;
use crate::tree::{Field, NodeId, Role, Tree};
use crate::types::Ty;

/// A declaration that says otherwise then who may name it.
pub(super) struct Opened {
    pub declaration: NodeId,
    pub name: String,
    pub edits: Vec<Edit>,
    reach: Reach,
}

impl Opened {
    pub fn said(&self, g: &Going) -> String {
        match self.reach {
            Reach::Near => format!("`{}` is no longer only its own class's", self.name),
            _ if g.near() => format!("`{}` is open to others now", self.name),
            _ => format!("`{}` is open to other packages now", self.name),
        }
    }
}

/// What a use of a declaration is.
#[derive(Clone, Copy, PartialEq)]
enum Use {
    /// By code that sees it in any case.
    Seen,
    /// By code of the old package.
    Near,
    /// By code of the old package, of which it is not sure.
    Perhaps,
}

pub(super) fn find(g: &Going, users: &Users) -> Found<Vec<Opened>> {
    let s = &g.from;
    let mut out = Vec::new();
    if g.same_path() {
        return Ok(out);
    }
    let outside = users.all.iter().flat_map(|u| u.nodes.iter().map(move |n| (&u.source, *n)));
    let far = outside.into_iter().any(|(s, n)| !g.holds(s, n) && !g.is_of(s, 1));
    // what an interface has in it is open without a word
    let unsaid = || {
        let edits = s.lang.with_reach(s, g.class, Reach::All).unwrap_or_default();
        s.lang.is_open(s, g.class) && edits.iter().all(|e| e.span.start == e.span.end)
    };
    if far && !s.lang.is_open(s, g.class) || !g.outer.is_empty() && unsaid() {
        out.push(open(g, g.class, g.name(), Reach::All)?);
    } else if s.lang.hides_member(s, g.class) || s.lang.is_open_below(s, g.class) && !s.lang.is_open(s, g.class) {
        // no class of a file's own is private, or for those below
        out.push(Opened {
            edits: s.lang.with_reach(s, g.class, Reach::Near).unwrap_or_default(),
            ..open(g, g.class, "", Reach::Near)?
        });
    }
    let named = |c: &NodeId| s.tree.child(*c, Field::Name).is_some();
    for class in g.classes().into_iter().filter(named) {
        let mut reached = false;
        for d in body(&s.tree, class) {
            // the class around sees what is private, too
            let private = s.lang.hides_member(s, d);
            let kept = !s.lang.is_open(s, d) && (!private || !g.outer.is_empty());
            if kept && (private || !g.near()) {
                for word in declared_words(s, d) {
                    let opened = member(g, class, d, word)?;
                    reached |= opened.is_some() && !g.near();
                    out.extend(opened);
                }
            } else if !g.near() && s.lang.is_open(s, d) && !s.lang.is_open(s, class) {
                reached |= is_reached(g, class, d);
            }
        }
        // a member that is asked for names the classes around it, too
        let around = s.tree.ancestors(class).chain([class]).filter(|c| s.tree.contains(g.class, *c));
        let around = around.filter(|c| s.tree.role(*c) == Role::Class && reached);
        for c in around.filter(|c| !s.lang.is_open(s, *c)).collect::<Vec<_>>() {
            if c == g.class {
                // before what makes it its package's only
                out.insert(0, open(g, c, g.name(), Reach::All)?);
                continue;
            }
            if s.lang.hides_member(s, c) {
                let message = "its class is private, and another one asks for its members".to_string();
                return Err(vec![reason(s, c, Code::NeedsClass, message)]);
            }
            out.push(open(g, c, name_of(s, c), Reach::All)?);
        }
    }
    let mut told: Vec<NodeId> = Vec::new();
    out.retain(|o| {
        let new = !told.contains(&o.declaration);
        told.push(o.declaration);
        new
    });
    Ok(out)
}

/// Code of the old package asks for an open member of a class that it does not name.
fn is_reached(g: &Going, class: NodeId, d: NodeId) -> bool {
    let s = &g.from;
    let words = declared_words(s, d);
    let makes = s.tree.role(d) == Role::Function && g.bases().is_constructor(s, d);
    let near =
        |path: &str| g.project.index(path).and_then(|f| g.project.source(f).ok()).is_some_and(|h| g.is_of(&h, 0));
    let used = |u: &(String, NodeId, Use, bool)| near(&u.0);
    let asked = |word: &NodeId| uses(g, class, d, s.str(*word), false).iter().any(used);
    !makes && s.tree.role(d) != Role::Class && words.iter().any(asked)
}

pub(super) fn open(g: &Going, d: NodeId, name: &str, reach: Reach) -> Found<Opened> {
    let s = &g.from;
    let cant = || vec![reason(s, d, Code::NeedsClass, format!("`{name}` can't be opened to other packages"))];
    Ok(Opened {
        reach,
        declaration: d,
        name: name.to_string(),
        edits: s.lang.with_reach(s, d, reach).ok_or_else(cant)?,
    })
}

fn member(g: &Going, class: NodeId, d: NodeId, word: NodeId) -> Found<Option<Opened>> {
    let s = &g.from;
    let name = s.str(word);
    let refuse = |code: Code, why: String| Err(vec![reason(s, d, code, why)]);
    let makes = s.tree.role(d) == Role::Function && g.bases().is_constructor(s, d);
    let uses = uses(g, class, d, name, makes);
    let needed = uses.iter().any(|u| u.2 != Use::Seen);
    let several = |x: &NodeId| *x != d && declared_words(s, *x).iter().any(|w| s.str(*w) == name);
    let others: Vec<NodeId> = body(&s.tree, class).into_iter().filter(several).collect();
    let private = s.lang.hides_member(s, d);
    if private && !needed {
        return Ok(None);
    }
    let mixed = |x: &NodeId| is_function(s, *x) && may_fit(s, d, *x) && s.lang.is_open(s, *x) != s.lang.is_open(s, d);
    if is_function(s, d) && others.iter().any(mixed) {
        return refuse(Code::Overloaded, format!("which `{name}` is chosen depends on the package"));
    }
    if let Some(r) = by_all_of_its_names(g, class, name) {
        return Err(vec![r]);
    }
    let below = s.lang.is_open_below(s, d);
    for r in g.relatives(class).iter().filter(|_| !makes) {
        let (h, t) = (&r.source, &r.source.tree);
        let known = |n: NodeId| uses.iter().any(|u| u.0 == h.path && u.1 == n && u.2 != Use::Perhaps);
        let says = |n: &NodeId| t.is_leaf(*n) && t.role(*n) != Role::Literal && h.str(*n) == name && !known(*n);
        let declares = class_tree::declarations(h, r.node, name);
        let matters = !below || needed && !declares.is_empty();
        if let Some(n) = t.subtree(r.node).find(says).filter(|_| matters) {
            let message = format!("`{name}` is its package's alone, and a related class has the word too");
            return Err(vec![reason(h, n, Code::NeedsClass, message)]);
        }
    }
    if !needed {
        return Ok(None);
    }
    let only_below = makes && uses.iter().all(|u| u.2 == Use::Seen || u.3);
    let reach = match g.near() {
        true => Reach::Near,
        false if only_below => Reach::Below,
        false => Reach::All,
    };
    let mut opened = open(g, d, name, reach)?;
    for f in overriding(g, class, d, name).into_iter().filter(|_| !makes) {
        opened.edits.extend(open(g, f, name, reach)?.edits);
    }
    Ok(Some(opened))
}

/// Functions of classes inside that override one which opens: they can't be less open.
fn overriding(g: &Going, class: NodeId, d: NodeId, name: &str) -> Vec<NodeId> {
    let s = &g.from;
    let definitions = |s: &Source, name: &str| g.project.definition(s, name);
    let own = s.lang.class_type(s, class, &definitions).0;
    let classes = g.classes();
    let above = |ty: Ty| -> Vec<Ty> {
        let inside = classes.iter().map(|x| s.lang.class_type(s, *x, &definitions));
        inside.filter(|(x, _)| same_class(*x, ty)).flat_map(|(_, above)| above).collect()
    };
    let extends = |c: NodeId| class_tree::leads_to(s.lang.class_type(s, c, &definitions).1, own, above);
    let below = classes.iter().copied().filter(|c| *c != class && extends(*c));
    let named = |f: &NodeId| is_function(s, *f) && member_name(s, *f).is_some_and(|w| s.str(w) == name);
    let all = below.flat_map(|c| body(&s.tree, c)).filter(named);
    all.filter(|f| is_function(s, d) && !s.lang.is_open(s, *f) && !s.lang.hides_member(s, *f)).collect()
}

/// A file of the new package imports all that the class has, and this comes into its sight.
fn by_all_of_its_names(g: &Going, class: NodeId, name: &str) -> Option<Reason> {
    let old = super::path(&g.old_words(), g.name());
    let far = class == g.class && !g.near();
    unseen::with_name(g.project, name, g.from.lang).filter(|s| far && g.is_of(s, 1)).find_map(|s| {
        let all = |n: &NodeId| s.lang.imports_of(&s.tree, *n, &s.text).iter().any(|i| i.wildcard && i.module == old);
        let import = s.tree.children(Tree::ROOT).find(all)?;
        Some(reason(&s, import, Code::NameHidden, format!("this would bring a `{name}`, which it does not now")))
    })
}

/// Two functions that one call may mean.
fn may_fit(s: &Source, a: NodeId, b: NodeId) -> bool {
    let parameters = |f: NodeId| {
        let list = s.tree.child(f, Field::Parameters);
        let all: Vec<NodeId> =
            list.map_or(Vec::new(), |l| s.tree.children(l).filter(|c| s.tree.role(*c) != Role::Token).collect());
        (all.len(), list.is_some_and(|l| s.str(l).contains("...")))
    };
    let ((x, p), (y, q)) = (parameters(a), parameters(b));
    x == y || p || q
}

/// Uses of a declaration outside the class: file, word, what it is, and whether a class below only calls it above.
fn uses(g: &Going, class: NodeId, d: NodeId, name: &str, makes: bool) -> Vec<(String, NodeId, Use, bool)> {
    let home = &g.from;
    let definitions = |s: &Source, name: &str| g.project.definition(s, name);
    let is_type = home.tree.role(d) == Role::Class;
    let own = home.lang.class_type(home, if is_type { d } else { class }, &definitions).0;
    let mut out = Vec::new();
    for s in unseen::with_name(g.project, name, home.lang) {
        let t = &s.tree;
        let words = t.ids().filter(|n| t.is_leaf(*n) && s.str(*n) == name && !g.holds(&s, *n));
        let is_field = home.tree.role(d) == Role::ClassField;
        let words = words.filter(|n| matches!(t.role(*n), Role::Name | Role::MemberName));
        // what is called is a function, also one of the field's name
        for n in words.filter(|n| !(is_field && is_called(t, *n))) {
            let found = match is_type || makes {
                true => s.lang.class_named(&s, n, &definitions),
                false => s.lang.member_of(&s, n, &definitions),
            };
            let sure = matches!(found, MemberOf::Class(c) if same_class(c, own));
            let perhaps = matches!(found, MemberOf::Likely(_) | MemberOf::Unknown);
            let own_file = s.path == home.path;
            let private = home.lang.hides_member(home, d);
            if !sure && !perhaps || makes && !class_tree::is_made(&s, n) || private && !own_file {
                continue;
            }
            let near = g.is_of(&s, 0) || sure && t.ancestor(n, &[Role::ImportFrom]).is_some() && !g.is_of(&s, 1);
            let below = home.lang.is_open_below(home, d) && (!near || is_asked_below(g, &s, n, own));
            let needs = private || !g.near() && near && !below;
            let of = match (needs, sure) {
                (false, _) => Use::Seen,
                (_, true) => Use::Near,
                _ => Use::Perhaps,
            };
            out.push((s.path.clone(), n, of, false));
        }
    }
    if makes {
        for r in g.relatives(class).iter().filter(|r| g.is_of(&r.source, 0) && extends(r, own)) {
            let seen = home.lang.is_open_below(home, d) || g.near() && !home.lang.hides_member(home, d);
            out.push((r.source.path.clone(), r.node, if seen { Use::Seen } else { Use::Near }, true));
        }
    }
    out
}

fn is_called(t: &Tree, n: NodeId) -> bool {
    let member = t.parent(n).filter(|m| t.role(*m) == Role::Member && t.role(n) == Role::MemberName);
    t.field(member.unwrap_or(n)) == Field::Callee
}

fn extends(r: &class_tree::Class, own: Ty) -> bool {
    r.above.iter().any(|a| same_class(*a, own))
}

/// A class below the one that declares it asks its own object for it.
fn is_asked_below(g: &Going, s: &Source, n: NodeId, own: Ty) -> bool {
    let t = &s.tree;
    let definitions = |s: &Source, name: &str| g.project.definition(s, name);
    let classes = class_tree::with_word(g.project, name_of(&g.from, g.class), s.lang);
    let above = |ty: Ty| class_tree::of_type(&classes, ty).map_or(Vec::new(), |c| c.above.clone());
    let below = |c: NodeId| class_tree::leads_to(s.lang.class_type(s, c, &definitions).1, own, above);
    let mut around = t.ancestors(n).filter(|a| t.role(*a) == Role::Class);
    asks_its_own(s, n) && around.any(below)
}
