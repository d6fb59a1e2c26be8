//! The names in the moved code: what it uses of its own class is named by that, or can't be named from there.

use super::{Member, Moving, name_of};
use crate::align::Region;
use crate::change::{Code, Found, Reason, reason};
use crate::index::class_members::{body, is_function};
use crate::index::class_tree::{self, declarations};
use crate::index::{Entity, ancestry, bases, constants};
use crate::lang::{MemberOf, Reach};
use crate::names::{BindingId, Names, Reference, Source, Space};
use crate::plan::class_home::{hidden_in, inherited};
use crate::plan::class_reach::{hidden, top_class};
use crate::plan::package_reach::unseen_there;
use crate::text::Edit;
use crate::tree::{Field, NodeId, Role, Tree};

/// A member of the old class that only its own code could name, and that the moved code names.
pub(super) struct Opened {
    /// The word that it declares.
    pub word: NodeId,
    pub declaration: NodeId,
}

/// What changes within the moved code.
#[derive(Default)]
pub(super) struct Inner {
    /// In the old file.
    pub edits: Vec<Edit>,
    pub opened: Vec<Opened>,
    /// Names of constants in labels, which stand there without their class.
    pub labels: Vec<String>,
    pub assumed: Vec<Reason>,
}

pub(super) fn find(m: &Moving) -> Found<Inner> {
    let mut out = Inner::default();
    for x in &m.members {
        means_the_same(m, x, &mut out)?;
        for r in m.from.names.in_range(x.node, m.from.tree.end(x.node)) {
            word(m, x, r, &mut out)?;
        }
        members_by_objects(m, x)?;
        if !is_function(&m.from, x.node) {
            first_value(m, x)?;
        }
    }
    Ok(out)
}

/// Names of others than the class's own.
fn means_the_same(m: &Moving, x: &Member, out: &mut Inner) -> Found<()> {
    let (s, t) = (&m.from, &m.from.tree);
    let refuse = |n: NodeId, code: Code, message: String| Err(vec![reason(s, n, code, message)]);
    let of_class = |n: NodeId| t.ancestor(n, &[Role::Class]) == Some(m.class);
    let object = |n: &NodeId| {
        let word = t.is_leaf(*n) && (s.lang.needs_class(s.str(*n)) || Some(s.str(*n)) == s.lang.object_word());
        word && t.role(*n) != Role::Literal && of_class(*n)
    };
    if let Some(n) = t.subtree(x.node).find(object) {
        return refuse(n, Code::NeedsClass, format!("`{}` is of its own class", s.str(n)));
    }
    let frames = |n: &NodeId| {
        let callee = t.child(*n, Field::Callee).filter(|_| t.role(*n) == Role::Call);
        let chains = |c: NodeId| t.parent(*n).is_some_and(|p| t.role(p) == Role::Block) && !s.str(c).contains('.');
        callee.is_some_and(|c| s.reads_frame(*n) && !chains(c))
    };
    if let Some(n) = t.subtree(x.node).find(frames) {
        return refuse(n, Code::Reflection, "this sees in which class it stands".into());
    }
    let code = Region { source: s, first: x.node, last: x.node, is_expression: false };
    let goes = |n: NodeId| m.is_going(n);
    out.assumed.extend(inherited(m.project, &code).map_err(|r| vec![r])?);
    let near = s.path == m.to.path && top_class(t, x.node) == top_class(&m.to.tree, m.home).or(Some(m.home));
    let against = [
        hidden(m.project, &code, &goes).filter(|_| !near),
        hidden_in(&code, &m.to, m.home),
        unseen_there(m.project, &code, m.target, &goes),
    ];
    match against.into_iter().flatten().next() {
        Some(r) => Err(vec![r]),
        None => Ok(()),
    }
}

/// A bare word of the moved code.
fn word(m: &Moving, x: &Member, r: &Reference, out: &mut Inner) -> Found<()> {
    let (s, t, n) = (&m.from, &m.from.tree, r.node);
    let refuse = |code: Code, message: String| Err(vec![reason(s, n, code, message)]);
    let Some(b) = r.target.filter(|b| s.names.binding(*b).scope != Names::MODULE && n != x.word) else {
        return if n == x.word { Ok(()) } else { outer(m, n, s.str(n), r.spaces) };
    };
    let class = s.names.scope(s.names.binding(b).scope).node;
    if t.contains(x.node, class) || m.members.iter().any(|o| o.binding == b || class == m.class && o.name == s.str(n)) {
        return Ok(());
    }
    if !s.names.is_member(b) || t.role(class) != Role::Class || !t.contains(class, m.class) {
        return refuse(Code::NeedsClass, format!("`{}` is not in sight there", s.str(n)));
    }
    let definitions = |s: &Source, name: &str| m.project.definition(s, name);
    let own = s.lang.class_type(s, class, &definitions).0;
    let is_type = s.names.binding(b).space == Space::Types;
    match s.lang.member_of(s, n, &definitions) {
        _ if is_type => {}
        MemberOf::Class(c) if class_tree::same_class(c, own) => {}
        // the constant of an enumeration that a label names
        MemberOf::Class(_) => {
            out.labels.push(s.str(n).to_string());
            return Ok(());
        }
        _ => return refuse(Code::UnknownMember, format!("whose `{}` this is can't be told", s.str(n))),
    }
    let declaration = body(t, class).into_iter().find(|d| t.contains(*d, s.names.binding(b).first));
    let Some(declaration) = declaration else {
        return refuse(Code::UnknownMember, format!("where `{}` is declared can't be told", s.str(n)));
    };
    if !is_type && s.lang.is_of_object(s, b) {
        return refuse(Code::NeedsClass, format!("`{}` belongs to the objects of its class", s.str(n)));
    }
    let path = m.path_of(class);
    class_there(m, x, n, path.split('.').next().unwrap_or(""))?;
    if !sees(m, s, declaration) {
        open(m, (b, declaration), n, out)?;
    }
    let start = t.span(n).start;
    out.edits.push(Edit::new(start, start, format!("{path}.")));
    Ok(())
}

/// The moved code may name a member: it is in the same outermost class, or not kept from the new one's file.
fn sees(m: &Moving, s: &Source, declaration: NodeId) -> bool {
    let (t, to) = (&s.tree, &m.to);
    let top = |s: &Source, n: NodeId| top_class(&s.tree, n).unwrap_or(n);
    if s.path == to.path && top(s, declaration) == top(to, m.home) {
        return true;
    }
    let near = s.package() == to.package();
    let own = |d: NodeId| !s.lang.hides_from_others(s, d) && (near || s.lang.is_open(s, d));
    own(declaration) && t.ancestors(declaration).filter(|a| t.role(*a) == Role::Class).all(own)
}

/// A private member that the moved code names is its class's alone no more, where no related class knows the word.
fn open(m: &Moving, (b, declaration): (BindingId, NodeId), n: NodeId, out: &mut Inner) -> Found<()> {
    let s = &m.from;
    let name = s.str(n);
    let refuse = |message: String| Err(vec![reason(s, n, Code::NeedsClass, message)]);
    if !sees(m, s, s.tree.ancestor(declaration, &[Role::Class]).unwrap_or(declaration)) {
        return refuse(format!("`{name}` can't be seen from {}", m.to.path));
    }
    let can = s.lang.with_reach(s, declaration, Reach::Near).is_some() && s.lang.hides_member(s, declaration);
    if !can || m.to.package() != s.package() {
        return refuse(format!("`{name}` can't be seen from {}", m.to.path));
    }
    let classes = class_tree::with_word(m.project, name_of(s, m.class), s.lang);
    let home = classes.iter().find(|c| c.source.path == s.path && c.node == m.class);
    for c in home.map_or(Vec::new(), |h| class_tree::around(&classes, h)) {
        let own = c.source.path == s.path && c.node == m.class;
        let t = &c.source.tree;
        let says = |n: &NodeId| t.is_leaf(*n) && c.source.str(*n) == name && t.role(*n) != Role::Literal;
        if !own && t.subtree(c.node).any(|n| says(&n)) {
            return refuse(format!("`{name}` is its class's alone, and a related class has the word too"));
        }
    }
    if !out.opened.iter().any(|o| o.declaration == declaration) {
        out.opened.push(Opened { word: s.names.binding(b).first, declaration });
    }
    Ok(())
}

/// What stands in no class of the file, or comes from another one, is nothing that the new class has or inherits.
fn outer(m: &Moving, n: NodeId, name: &str, spaces: &[Space]) -> Found<()> {
    let (s, to) = (&m.from, &m.to);
    let definitions = |s: &Source, name: &str| m.project.definition(s, name);
    let has = |c: &ancestry::Ancestor| {
        let declared = |x, k: &Space| c.source.names.declared_as(x, *k, name).is_some();
        c.source.names.scope_of(c.node).is_some_and(|x| spaces.iter().any(|k| declared(x, k)))
    };
    let own = ancestry::of(m.project, to, m.home).iter().any(has);
    // the class's own name
    let itself = name == m.new_name() && to.tree.parent(m.home) == Some(Tree::ROOT);
    match own || !itself && to.lang.may_inherit(to, m.home, name, &definitions) {
        true => Err(vec![reason(s, n, Code::NameHidden, format!("`{name}` may be something else in {}", to.path))]),
        false => Ok(()),
    }
}

/// The name of the class that is put before a word means that class: nothing nearer has it.
fn class_there(m: &Moving, x: &Member, n: NodeId, name: &str) -> Found<()> {
    let s = &m.from;
    let definitions = |s: &Source, name: &str| m.project.definition(s, name);
    outer(m, n, name, &[Space::Values, Space::Types])?;
    let scopes = || s.names.at(n).into_iter().flat_map(|r| s.names.scope_chain(r.scope));
    let mut within = scopes().filter(|c| s.tree.contains(x.node, s.names.scope(*c).node));
    let hidden = within.any(|c| s.names.declared_in(c, name).is_some())
        || s.lang.member_around(s, n, name, &definitions) != MemberOf::Other
        || s.lang.class_above_place(s, n, name, &definitions) != MemberOf::Other;
    match hidden {
        true => Err(vec![reason(s, n, Code::NameHidden, format!("`{name}` is something else here"))]),
        false => Ok(()),
    }
}

/// Members that are named by an object or a class, and constructors, can be named from the new class.
fn members_by_objects(m: &Moving, x: &Member) -> Found<()> {
    let (s, t) = (&m.from, &m.from.tree);
    let definitions = |s: &Source, name: &str| m.project.definition(s, name);
    let refuse = |n: NodeId| {
        let message = format!("`{}` can't be seen from {}, or that can't be told", s.str(n), m.to.path);
        Err(vec![reason(s, n, Code::NeedsClass, message)])
    };
    for n in t.subtree(x.node).filter(|n| t.role(*n) == Role::MemberName && t.is_leaf(*n)) {
        let name = s.str(n);
        if m.is_going(n) {
            continue;
        }
        let seen = match s.lang.member_of(s, n, &definitions) {
            MemberOf::Class(c) => {
                let classes = class_tree::with_word(m.project, name, s.lang);
                let home = class_tree::of_type(&classes, c);
                home.is_some_and(|h| declarations(&h.source, h.node, name).iter().all(|d| sees(m, &h.source, *d)))
            }
            // what a class outside the project gives to those that extend it
            _ => is_foreign(m, n) || !s.lang.may_inherit(s, m.class, name, &definitions),
        };
        if !seen {
            return refuse(n);
        }
    }
    let closed = |c: &NodeId| {
        let own = body(t, *c).into_iter().filter(|f| s.lang.bases().is_some_and(|of| of.is_constructor(s, *f)));
        own.into_iter().any(|f| !sees(m, s, f))
    };
    let classes: Vec<&str> =
        t.ids().filter(|n| t.role(*n) == Role::Class).filter(closed).map(|c| name_of(s, c)).collect();
    let made = t.subtree(x.node).filter(|n| t.is_leaf(*n) && t.role(*n) == Role::Name);
    match made.into_iter().find(|n| classes.contains(&s.str(*n)) && class_tree::is_made(s, *n)) {
        Some(n) => refuse(n),
        None => Ok(()),
    }
}

/// The member is asked of a class outside the project, or of an object of one, and not of what the old class extends.
fn is_foreign(m: &Moving, n: NodeId) -> bool {
    let (s, t) = (&m.from, &m.from.tree);
    let definitions = |s: &Source, name: &str| m.project.definition(s, name);
    let Some(object) = t.parent(n).and_then(|p| t.child(p, Field::Object)) else { return false };
    let of = s.lang.type_of(s, object, &definitions);
    let classes = class_tree::with_word(m.project, name_of(s, m.class), s.lang);
    if of.is_known() {
        let home = classes.iter().find(|c| c.source.path == s.path && c.node == m.class);
        let family = home.map_or(Vec::new(), |h| class_tree::around(&classes, h));
        return !family.iter().any(|c| class_tree::same_class(c.ty, of));
    }
    let name = s.str(object);
    let library = t.role(object) == Role::Name
        && (matches!(m.project.entity(s, name), Entity::Foreign(..)) || s.lang.is_builtin(name));
    library && !bases::of(s, m.class).iter().any(|b| t.subtree(*b).any(|w| t.is_leaf(w) && s.str(w) == name))
}

/// What a field begins with hangs on nothing that gets its value when the old class is made ready.
fn first_value(m: &Moving, x: &Member) -> Found<()> {
    let (s, t, to) = (&m.from, &m.from.tree, &m.to);
    let definitions = |s: &Source, name: &str| m.project.definition(s, name);
    let value = t.children(x.node).any(|c| t.child(c, Field::Right).is_some());
    let known = constants::is_known_value(m.project, s, x.node, x.binding);
    let refuse = |n: NodeId, message: String| Err(vec![reason(s, n, Code::Order, message)]);
    if value && !known && to.lang.acts_when_loaded(to, m.home, &definitions) {
        return refuse(x.node, format!("when `{}` is made ready, code runs that could miss this value", m.new_name()));
    }
    for r in s.names.in_range(x.node, t.end(x.node)) {
        let member = r.target.filter(|b| s.names.is_member(*b) && s.names.binding(*b).space == Space::Values);
        let Some(b) = member.filter(|b| !m.members.iter().any(|o| o.binding == *b)) else { continue };
        let field = t.ancestor(s.names.binding(b).first, &[Role::ClassField]);
        let known = field.is_some_and(|f| constants::is_known_value(m.project, s, f, b));
        if !known {
            return refuse(r.node, format!("`{}` may have another value when this is made", s.str(r.node)));
        }
    }
    let path = |n: &NodeId| t.role(*n) == Role::Member && t.field(*n) != Field::Callee;
    let read = t.subtree(x.node).filter(path).find(|n| !s.lang.is_constant(s, *n, &definitions));
    match read {
        Some(n) => refuse(n, format!("`{}` may have another value when this is made", s.str(n))),
        None => Ok(()),
    }
}
