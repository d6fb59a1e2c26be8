//! Who names what goes: each use is by the new class then, and its file sees that.

use std::sync::Arc;

use super::{Member, Moving, name_of};
use crate::change::{Code, Found, Reason, reason};
use crate::index::class_members::{body, is_function};
use crate::index::seen::Seen;
use crate::index::target::Target;
use crate::index::{Entity, Project, Uses, constants, typed_members, unseen};
use crate::lang::{MemberOf, Reach};
use crate::names::{Names, Source, Use as Usage};
use crate::plan::class_reach::{seen_from, stored, top_class};
use crate::plan::imports::as_said;
use crate::text::Edit;
use crate::tree::{Field, NodeId, Role};

/// A word that names a moved member.
pub(super) struct Use {
    pub source: Arc<Source>,
    pub node: NodeId,
    /// How its text changes, where it does.
    edit: Option<Edit>,
    /// Who must be able to name the member for this.
    reach: Reach,
    pub name: String,
}

pub(super) struct Users {
    pub all: Vec<Use>,
    pub assumed: Vec<Reason>,
}

impl Users {
    /// Who must be able to name a member.
    pub fn reach(&self, name: &str) -> Reach {
        self.all.iter().filter(|u| u.name == name).map(|u| u.reach).max().unwrap_or_default()
    }

    /// The edits of a file, and whether it names the new class by its name then.
    pub fn edits(&self, path: &str) -> (Vec<Edit>, bool) {
        let own = self.all.iter().filter(|u| u.source.path == path);
        let edits: Vec<Edit> = own.clone().filter_map(|u| u.edit.clone()).collect();
        let imports = |u: &Use| u.source.tree.ancestor(u.node, &[Role::Import, Role::ImportFrom]).is_some();
        let named = own.into_iter().any(|u| u.edit.as_ref().is_some_and(|e| !e.text.is_empty()) && !imports(u));
        (edits, named)
    }

    /// Files with uses, each once.
    pub fn sources(&self) -> Vec<&Arc<Source>> {
        let mut out: Vec<&Arc<Source>> = Vec::new();
        for u in &self.all {
            if !out.iter().any(|s| s.path == u.source.path) {
                out.push(&u.source);
            }
        }
        out
    }
}

pub(super) fn find(m: &Moving) -> Found<Users> {
    let s = &m.from;
    let mut out = Users { all: Vec::new(), assumed: Vec::new() };
    let mut done: Vec<&str> = Vec::new();
    for x in &m.members {
        if done.contains(&x.name.as_str()) {
            continue;
        }
        done.push(&x.name);
        let found = typed_members::find(m.project, s, x.word, &x.name)?;
        if let Some(r) = unseen::unparsed(m.project, &x.name) {
            return Err(vec![r]);
        }
        out.assumed.extend(found.references.possible.clone());
        let uses: Vec<Uses> = found.references.sure;
        let by = Seen { project: m.project, home: s, uses: &uses, old: &x.name }.by(Target::Member(x.word))?;
        out.assumed.extend(by);
        for u in &uses {
            for n in &u.nodes {
                out.all.extend(one(m, x, &u.source, *n)?);
            }
        }
    }
    let moved = m.members.iter().flat_map(|x| s.tree.subtree(x.node));
    out.assumed.extend(unseen::lookers(m.project, s.lang).seen_from(s, moved));
    let mut told: Vec<&str> = Vec::new();
    for u in &out.all {
        if let Some(r) = perhaps_inherited(m, u).filter(|_| !told.contains(&u.source.path.as_str())) {
            told.push(&u.source.path);
            out.assumed.push(r);
        }
    }
    for (s, class) in [(s, m.class), (&m.to, m.home)] {
        let private = m.members.iter().all(|x| m.from.lang.hides_member(&m.from, x.node)) && class == m.class;
        out.assumed.extend(stored(m.project, s, class).filter(|_| !private));
    }
    see_the_class(m, &out)?;
    Ok(out)
}

/// How a word that names a member changes.
fn one(m: &Moving, x: &Member, s: &Arc<Source>, n: NodeId) -> Found<Option<Use>> {
    let t = &s.tree;
    let declares = s.path == m.from.path && m.members.iter().any(|o| o.word == n);
    if declares {
        return Ok(None);
    }
    let refuse = |code: Code, message: String| Err(vec![reason(s, n, code, message)]);
    let written = s.names.at(n).map_or(t.field(n) == Field::Left, |r| r.usage != Usage::Read);
    if !is_function(&m.from, x.node) && is_made_ready_by(m, s, n, written) {
        return refuse(Code::Order, format!("`{}` gets what it has when its class is made ready, here", x.name));
    }
    let made = in_home(m, s, n) && !m.holds(s, n) && t.callable_around(n).is_none();
    if made && !is_function(&m.from, x.node) && !constants::is_known_value(m.project, &m.from, x.node, x.binding) {
        return refuse(Code::Order, format!("`{}` has no value yet when its new class makes this", x.name));
    }
    let name = x.name.clone();
    let of = |edit: Option<Edit>| {
        Ok(Some(Use { source: s.clone(), node: n, edit, reach: reach(m, s, n), name: name.clone() }))
    };
    if let Some(import) = t.ancestor(n, &[Role::Import, Role::ImportFrom]) {
        return of(Some(of_import(m, s, import, n)?));
    }
    let span = t.span(n);
    if t.role(n) == Role::MemberName {
        let object = object_of(m.project, s, n)?;
        class_reached(m, s, n)?;
        let at = t.span(object);
        let inside = in_home(m, s, n) && plain(m, s, n, &x.name);
        return of(Some(match inside {
            true => Edit::new(at.start, span.start, ""),
            false => Edit::new(at.start, at.end, m.new_name()),
        }));
    }
    if m.holds(s, n) || s.names.is_imported(n) || in_home(m, s, n) {
        return of(None);
    }
    class_reached(m, s, n)?;
    of(Some(Edit::new(span.start, span.start, format!("{}.", m.new_name()))))
}

/// Code that runs when the old class is made ready, and may change a field there.
fn is_made_ready_by(m: &Moving, s: &Source, n: NodeId, written: bool) -> bool {
    let t = &s.tree;
    let own = s.path == m.from.path && t.ancestor(n, &[Role::Class]) == Some(m.class) && !m.holds(s, n);
    let declaration = body(t, m.class).into_iter().find(|d| own && t.contains(*d, n));
    let of_class = |d: &NodeId| s.lang.bases().is_some_and(|of| of.is_of_class(s, *d));
    let block = || t.ancestors(n).take_while(|a| *a != m.class).any(|a| t.role(a) == Role::Block);
    declaration.filter(of_class).is_some() && t.callable_around(n).is_none() && (written || block())
}

/// A place in the code of the new class.
fn in_home(m: &Moving, s: &Source, n: NodeId) -> bool {
    m.holds(s, n) || s.path == m.to.path && s.tree.contains(m.home, n)
}

/// The word stands in the new class itself and no local has its name, so that the name alone is enough.
fn plain(m: &Moving, s: &Source, n: NodeId, name: &str) -> bool {
    let t = &s.tree;
    // what is handed on has its class before it
    let Some(member) = t.parent(n).filter(|p| t.role(*p) == Role::Member) else { return false };
    let class = t.ancestor(n, &[Role::Class]);
    let own = class == Some(m.home) && s.path == m.to.path || class == Some(m.class) && m.holds(s, n);
    let mut scopes = t.ancestors(n).take_while(|a| Some(*a) != class).filter_map(|a| s.names.scope_of(a));
    // types that are given to the function need a dot before them
    let bare = t.children(member).filter(|c| t.role(*c) != Role::Token).count() == 2;
    // what makes a field stands above those that come
    let later = t.field(member) != Field::Callee && t.callable_around(n).is_none();
    own && bare
        && !later
        && (t.field(member) == Field::Callee || !scopes.any(|x| s.names.declared_in(x, name).is_some()))
}

/// The class by which a member is named: through an object it would be asked for first.
fn object_of(project: &Project, s: &Source, n: NodeId) -> Found<NodeId> {
    let t = &s.tree;
    let refuse = || {
        let message = "this asks an object for what its class has";
        Err(vec![reason(s, n, Code::EvaluationOrder, message)])
    };
    let Some(parent) = t.parent(n) else { return refuse() };
    let Some(object) = t.child(parent, Field::Object).or_else(|| t.children(parent).next()) else { return refuse() };
    let definitions = |s: &Source, name: &str| project.definition(s, name);
    let leaf = std::iter::successors(Some(object), |o| t.child(*o, Field::Member)).last().unwrap_or(object);
    let target = s.names.at(object).and_then(|r| r.target).map(|b| s.names.binding(b));
    let value = target.is_some_and(|b| b.space != crate::names::Space::Types && b.import.is_none());
    let class = !value
        && t.is_leaf(leaf)
        && matches!(s.lang.class_named(s, leaf, &definitions), MemberOf::Class(_) | MemberOf::Likely(_));
    if class { Ok(object) } else { refuse() }
}

/// The name of the new class means that at a place.
fn class_reached(m: &Moving, s: &Source, n: NodeId) -> Found<()> {
    let (t, name) = (&s.tree, m.new_name());
    let definitions = |s: &Source, name: &str| m.project.definition(s, name);
    let scopes = t.ancestors(n).filter_map(|a| s.names.scope_of(a)).filter(|x| *x != Names::MODULE);
    let taken = scopes.into_iter().any(|x| s.names.declared_in(x, name).is_some())
        || s.lang.member_around(s, n, name, &definitions) != MemberOf::Other
        || matches!(s.lang.class_above_place(s, n, name, &definitions), MemberOf::Class(_) | MemberOf::Likely(_));
    match taken && !in_home(m, s, n) {
        true => Err(vec![reason(s, n, Code::NameHidden, format!("`{name}` is something else here"))]),
        false => Ok(()),
    }
}

/// A class around a use may inherit something that has the name of the new class, or of the old one.
fn perhaps_inherited(m: &Moving, u: &Use) -> Option<Reason> {
    let (s, t) = (&u.source, &u.source.tree);
    let definitions = |s: &Source, name: &str| m.project.definition(s, name);
    let around: Vec<NodeId> = t.ancestors(u.node).filter(|a| t.role(*a) == Role::Class).collect();
    let inherits = |name: &&str| around.iter().any(|c| s.lang.may_inherit(s, *c, name, &definitions));
    let named = u.edit.is_some() && !in_home(m, s, u.node);
    let name = [m.new_name(), name_of(&m.from, m.class)].into_iter().find(inherits).filter(|_| named)?;
    let message = format!("nothing that this class extends has a `{name}`");
    Some(reason(s, u.node, Code::InheritedName, message))
}

/// Who must be able to name the member for a use of it.
fn reach(m: &Moving, s: &Source, n: NodeId) -> Reach {
    let top = |s: &Source, n: NodeId| top_class(&s.tree, n).unwrap_or(n);
    let own = m.holds(s, n) || s.path == m.to.path && top(s, n) == top(&m.to, m.home);
    match own {
        true => Reach::Own,
        false if s.package() == m.to.package() => Reach::Near,
        false => Reach::All,
    }
}

/// An import of the member by itself.
fn of_import(m: &Moving, s: &Source, import: NodeId, n: NodeId) -> Found<Edit> {
    let t = &s.tree;
    let refuse = |why: &str| Err(vec![reason(s, n, Code::UsedElsewhere, why)]);
    let to = as_said(m.project, m.target).filter(|x| !x.package().is_empty());
    let Some(to) = to else { return refuse("what stands in no package can't be imported") };
    let all = s.lang.imports_of(t, import, &s.text);
    let [one] = &all[..] else { return refuse("this import can't be rewritten") };
    let span = t.span(import);
    let found = s.text[span.start..span.end].find(&one.module);
    let Some(at) = found.map(|i| span.start + i) else { return refuse("this import can't be rewritten") };
    Ok(Edit::new(at, at + one.module.len(), to.parts.join(".")))
}

/// Files that name the new class see it.
fn see_the_class(m: &Moving, users: &Users) -> Found<()> {
    let mut files = Vec::new();
    for s in users.sources() {
        let (edits, named) = users.edits(&s.path);
        let Some(file) = m.project.index(&s.path).filter(|_| named || !edits.is_empty()) else { continue };
        let name = m.new_name();
        let meant = m.project.entity(s, name) == Entity::Member(m.target, name.to_string());
        if file != m.target && s.package() == m.to.package() && !meant {
            let message = format!("`{name}` is something else in {}", s.path);
            return Err(vec![reason(s, crate::tree::Tree::ROOT, Code::NameHidden, message)]);
        }
        files.push(file);
    }
    let home = m.project.index(&m.from.path).expect("a planned file was scanned");
    files.push(home);
    let seen = seen_from(m.project, &files, (m.target, &m.to, m.home));
    // what the old class's own file need not name it may be anywhere
    seen.map(|_| ()).map_err(|why| vec![reason(&m.from, m.members[0].node, Code::NoHome, why)])
}

/// A word of the project that means the new class's member already.
pub(super) fn is_sure(users: &Users, s: &Source, n: NodeId) -> bool {
    users.all.iter().any(|u| u.source.path == s.path && u.node == n)
}
