//! A home in the nearest class that all the classes around the copies extend.
//!
//! Bare names that this class hands down mean the same in it, when no class on the way to it has one of the name. Of what
//! stands above it nothing need be known, for it stands above the copies' classes too. Given up where a copy names its
//! object, a member of its own class or one that is imported; where the base has type parameters, also for what depends on
//! them; and across packages for what only the copies' package sees. There the function is open to the classes below.

use std::sync::Arc;

use rustc_hash::FxHashSet;

use crate::change::{Code, Reason, reason};
use crate::find::paths::is_test;
use crate::index::ancestry::{self, Ancestor};
use crate::index::inherited::{self, Inherited};
use crate::index::{Entity, Project};
use crate::lang::{MethodKind, Reach};
use crate::names::{Names, Reference, Source};
use crate::plan::class_reach::{built_together, hidden, seen_from, stored};
use crate::plan::home::Home;
use crate::plan::package_reach::unseen_there;
use crate::plan::region::Portion;
use crate::tree::{Field, NodeId, Role};

/// Homes in that class: as a method of the object where the copies have one, as a static one where they need none.
pub(crate) fn homes(project: &Project, sites: &[Portion], files: &[usize]) -> Result<Vec<Home>, Option<Reason>> {
    let chains: Vec<Vec<Ancestor>> = sites.iter().map(|x| chain(project, x)).collect::<Option<_>>().ok_or(None)?;
    let (base, below) = ancestry::common(&chains).ok_or(None)?;
    let (s, class) = (&base.source, base.node);
    let file = project.index(&s.path).ok_or(None)?;
    let tests = files.iter().all(|f| is_test(&project.facts[*f].path)) && !is_test(&s.path);
    // a copy may stand in the base itself, but in no other class beside it
    let own: Vec<usize> = (0..sites.len()).filter(|i| below[*i].is_empty()).collect();
    let beside = (0..sites.len()).any(|i| files[i] == file && !own.contains(&i));
    if tests
        || beside
        || own.len() == sites.len()
        || s.lang.takes_no_private(s, class, project.edition(s.lang)).is_some()
    {
        return Err(None);
    }
    let reach = match seen_from(project, files, (file, s, class)) {
        Ok(Reach::All) => Reach::Below,
        // where the class keeps things within its package, it is known to others
        Ok(_) if s.lang.hides_below() && !keeps_near(s, class) => Reach::Below,
        Ok(reach) => reach,
        Err(_) => return Err(None),
    };
    if let Some(r) = sites.iter().find_map(|x| unseen_there(project, &x.region, file, &|_| false)) {
        return Err(Some(r));
    }
    let mut handed: FxHashSet<(usize, NodeId)> = FxHashSet::default();
    for (x, below) in sites.iter().zip(&below) {
        if let Some(r) = hidden(project, &x.region, &|_| false) {
            return Err(Some(r));
        }
        handed.extend(names(project, x, below, &base)?.into_iter().map(|n| (x.copy, n)));
    }
    let with_object = |x: &Portion| {
        let before = x.source().lang.is_before_object(x.source(), x.region.first);
        !before && x.method.is_some_and(|m| m.kind == MethodKind::Instance)
    };
    let by_object = sites.iter().all(with_object);
    let together = built_together(project, files, file).filter(|_| reach == Reach::Near);
    let assumptions: Vec<Reason> = stored(project, s, class).into_iter().chain(together).collect();
    let outside = if own.is_empty() { Some(s.clone()) } else { None };
    let template = own.first().copied().unwrap_or(0);
    let class = Some(class);
    let home = Home { class, reach, outside, handed, ..Home::new(file, template, assumptions) };
    let is_static = home.handed.is_empty() || !sites.iter().any(with_object);
    let mut out = Vec::new();
    if by_object && !home.handed.is_empty() {
        out.push(home.clone());
    }
    if is_static {
        out.push(Home { is_static: true, ..home });
    }
    Ok(out)
}

/// The same where members are looked up on the object when the code runs, whatever class says so: as a method of the object,
/// when the base has all members that the code names.
pub(crate) fn of_objects(project: &Project, sites: &[Portion], files: &[usize]) -> Option<Home> {
    let lang = sites[0].source().lang;
    let method = |x: &Portion| x.method.is_some_and(|m| m.kind == MethodKind::Instance && m.receiver.is_some());
    if !sites.iter().all(|x| method(x) && x.needs_class().is_none()) {
        return None;
    }
    let chains: Vec<Vec<Ancestor>> = sites.iter().map(|x| chain(project, x)).collect::<Option<_>>()?;
    let (base, below) = ancestry::common(&chains)?;
    let file = project.index(&base.source.path)?;
    let tests = files.iter().all(|f| is_test(&project.facts[*f].path)) && !is_test(&base.source.path);
    let unit = |s: &Source| s.habits().unit.clone();
    let watched = |x: &Vec<Ancestor>| x.first().is_some_and(|c| ancestry::is_watched(project, &c.source, c.node));
    if chains.iter().any(watched) {
        return None;
    }
    let own = below.iter().position(Vec::is_empty);
    let fits = below.iter().flatten().all(Ancestor::extends_one)
        && below.iter().any(|b| !b.is_empty())
        && sites.iter().all(|x| unit(x.source()) == unit(&base.source));
    if tests || !fits {
        return None;
    }
    let above = ancestry::of(project, &base.source, base.node);
    // one that a class keeps for itself is another one there
    let keeps = |word: &str| lang.keeps_to_class() && above.iter().chain(below.iter().flatten()).any(|c| c.hides(word));
    let promised = ancestry::promises(project, &above);
    let has = |word: &str| above.iter().chain(&promised).any(|c| c.has_member(word)) && !keeps(word);
    let by_object = |x: &Portion| {
        let (s, t) = (x.source(), &x.source().tree);
        let of_receiver = |m: &NodeId| {
            let object = t.parent(*m).and_then(|p| t.child(p, Field::Object));
            object.is_some_and(|o| s.names.at(o).and_then(|r| r.target) == x.receiver())
        };
        let words = (x.region.first.0..x.region.end().0).map(NodeId).filter(|n| t.role(*n) == Role::MemberName);
        words.filter(of_receiver).all(|m| has(s.str(m)))
    };
    let typed = || base.source.tree.child(base.node, Field::TypeParams).is_none();
    if lang.needs_types() && !(typed() && sites.iter().zip(&below).all(|(x, below)| is_typed_alike(x, below))) {
        return None;
    }
    sites.iter().all(by_object).then(|| Home {
        class: Some(base.node),
        outside: own.is_none().then(|| base.source.clone()),
        reach: if lang.keeps_to_class() { Reach::Below } else { Reach::Own },
        ..Home::new(file, own.unwrap_or(0), Vec::new())
    })
}

/// The object is the same to the compiler in the base: only its members are named, and no class in between says more of
/// these.
fn is_typed_alike(x: &Portion, below: &[Ancestor]) -> bool {
    let (s, t) = (x.source(), &x.source().tree);
    let own = s.names.in_range(x.region.first, x.region.end()).iter().filter(|r| r.target == x.receiver());
    let member =
        |n: NodeId| t.parent(n).filter(|_| t.field(n) == Field::Object).and_then(|m| t.child(m, Field::Member));
    own.map(|r| member(r.node)).all(|m| m.is_some_and(|m| !below.iter().any(|b| b.has_member(s.str(m)))))
}

/// A class that has a member for all code of its package, and for no other.
fn keeps_near(s: &Source, class: NodeId) -> bool {
    let members = s.tree.child(class, Field::Body).map_or(Vec::new(), |b| s.tree.children(b).collect());
    let kept = |m: &NodeId| matches!(s.tree.role(*m), Role::Function | Role::ClassField);
    members
        .into_iter()
        .filter(kept)
        .any(|m| !s.lang.is_open(s, m) && !s.lang.is_open_below(s, m) && !s.lang.hides_from_others(s, m))
}

/// The site's class and those that it extends; none for a class inside another one.
fn chain(project: &Project, x: &Portion) -> Option<Vec<Ancestor>> {
    let s = x.source();
    let file: Arc<Source> = project.source(project.index(&s.path)?).ok()?;
    let class = s.tree.ancestor(x.region.first, &[Role::Class])?;
    let plain = s.lang.hands_down(s, class) && !(s.names.members_in_sight && Ancestor::is_generic(s, class));
    plain.then(|| ancestry::of(project, &file, class))
}

/// The bare names that the base hands down, or what is something else in it.
fn names(project: &Project, x: &Portion, below: &[Ancestor], base: &Ancestor) -> Result<Vec<NodeId>, Option<Reason>> {
    let s = x.source();
    let code = Copied { project, s, below, base };
    let mut out = Vec::new();
    for r in s.names.in_range(x.region.first, x.region.end()) {
        match code.is_handed_down(r) {
            Ok(true) => out.push(r.node),
            Ok(false) => {}
            Err(what) => {
                let message = format!("`{}` {what}", s.str(r.node));
                return Err(Some(reason(s, r.node, Code::NeedsClass, message)));
            }
        }
    }
    Ok(out)
}

/// Code of a class that stands below the base.
struct Copied<'a> {
    project: &'a Project<'a>,
    s: &'a Source,
    below: &'a [Ancestor],
    base: &'a Ancestor,
}

const OTHER_OBJECT: &str = "is another object to the compiler in the class that all copies' classes extend";
const OTHER_THING: &str = "is something else in the class that all copies' classes extend";

impl Copied<'_> {
    /// The base hands it down, to be named in the same way there; or it means the same without that, or can only be handed
    /// over. An error for what is something else there.
    fn is_handed_down(&self, r: &Reference) -> Result<bool, &'static str> {
        let (s, t) = (self.s, &self.s.tree);
        let (word, binding) = (s.str(r.node), r.target.map(|b| s.names.binding(b)));
        let is_member = r.target.is_some_and(|b| s.names.is_member(b));
        let by_object = Some(word) == s.lang.object_word();
        let local = !by_object && !is_member && binding.is_some_and(|b| b.scope != Names::MODULE);
        if local {
            return Ok(false);
        }
        let class = self.below.first().unwrap_or(self.base).node;
        let class = Some(class);
        if t.ancestor(r.node, &[Role::Class]) != class && !r.is_type() && !s.names.is_imported(r.node) {
            return Err("stands in a class of its own");
        }
        if by_object || s.lang.needs_class(word) {
            let member = t.parent(r.node).filter(|_| t.field(r.node) == Field::Object);
            let member = member.and_then(|m| t.child(m, Field::Member)).filter(|_| by_object);
            return if member.is_some_and(|m| !self.changes(s.str(m))) { Ok(true) } else { Err(OTHER_OBJECT) };
        }
        if is_member {
            let own = class.and_then(|c| s.names.scope_of(c));
            return Ok(binding.is_some_and(|b| Some(b.scope) == own) && !self.changes(word));
        }
        if self.changes(word) {
            return Err(OTHER_THING);
        }
        let known = || binding.is_some() || !matches!(self.project.entity(s, word), Entity::Unknown(..));
        if r.is_type() || r.may_be_type() && known() {
            return if self.base.declares(word) { Err(OTHER_THING) } else { Ok(false) };
        }
        if binding.is_some() || s.lang.seen_through(s, word).is_some() {
            let free = inherited::as_member(self.project, s, r.node) == Inherited::No;
            return if free { Ok(false) } else { Err("may be imported, or something that its class has inherited") };
        }
        Ok(true)
    }

    fn changes(&self, word: &str) -> bool {
        ancestry::changes(self.project, self.below, self.base, word)
    }
}
