//! The classes that declare the same members, and the members of each.

use std::sync::Arc;

use crate::change::{Code, Found, Place, place_of, reason};
use crate::index::Project;
use crate::index::ancestry::{self, Ancestor};
use crate::index::bases;
use crate::index::class_members::{self, Declared, declared};
use crate::index::class_tree::with_word;
use crate::lang::Bases;
use crate::names::Source;
use crate::plan::file_style::Style;
use crate::plan::words::words;
use crate::text::Span;
use crate::tree::{Field, NodeId, Role, Tree};

/// More classes are not looked at.
const MOST_CLASSES: usize = 60;

/// A class, and the members of it that go.
pub(super) struct Held {
    pub file: usize,
    pub s: Arc<Source>,
    pub class: NodeId,
    pub name: String,
    pub members: Vec<Declared>,
}

impl Held {
    pub fn nodes(&self) -> impl Iterator<Item = NodeId> + '_ {
        self.members.iter().flat_map(|m| m.nodes.iter().copied())
    }

    pub fn member(&self, name: &str) -> Option<&Declared> {
        self.members.iter().find(|m| m.name == name)
    }

    /// A place is a part of what goes.
    pub fn goes(&self, n: NodeId) -> bool {
        self.nodes().any(|m| self.s.tree.contains(m, n))
    }
}

/// The class around a member, and the statement of its body in which a place is.
fn member_at(s: &Source, span: Span) -> Option<(NodeId, NodeId)> {
    let t = &s.tree;
    let node = t.covering(span);
    let around: Vec<NodeId> = std::iter::once(node).chain(t.ancestors(node)).collect();
    let of_class = |n: &NodeId| {
        let body = t.parent(*n).filter(|b| t.field(*b) == Field::Body)?;
        t.parent(body).filter(|c| t.role(*c) == Role::Class)
    };
    around.iter().find_map(|n| Some((of_class(n)?, *n)))
}

/// The statement of a file's own level that a class is, by itself or as what is exported or decorated.
pub(super) fn statement_of(s: &Source, class: NodeId) -> Option<NodeId> {
    let t = &s.tree;
    let outer = t.parent(class).filter(|p| t.role(*p) == Role::Decorated).unwrap_or(class);
    (t.parent(outer) == Some(Tree::ROOT)).then_some(outer)
}

/// What decorates a class.
pub(super) fn decorators(h: &Held) -> Vec<NodeId> {
    let t = &h.s.tree;
    let statement = statement_of(&h.s, h.class).unwrap_or(h.class);
    t.children(statement).filter(|c| t.role(*c) == Role::Decorator).collect()
}

/// All classes with their members, by the places of these.
pub(super) fn read(
    project: &Project,
    places: &[Place],
    new_base: Option<&str>,
) -> Found<(Vec<Held>, &'static dyn Bases)> {
    let (mut out, of) = gathered(project, places)?;
    if let Some((h, why)) = out.iter().find_map(|h| Some((h, of.is_closed(&h.s, h.class)?))) {
        return Err(vec![reason(&h.s, h.class, Code::NoHome, why)]);
    }
    let full = |h: &&Held| new_base.is_some_and(|name| of.extended(&h.s, h.class, name).is_none());
    if let Some(h) = out.iter().find(full) {
        let why = format!("`{}` extends another class already", h.name);
        return Err(vec![reason(&h.s, h.class, Code::NoHome, why)]);
    }
    fits_together(&out)?;
    along(&mut out);
    Ok((out, of))
}

/// The classes around some members, each with those of them that it declares.
pub(super) fn gathered(project: &Project, places: &[Place]) -> Found<(Vec<Held>, &'static dyn Bases)> {
    let mut out: Vec<Held> = Vec::new();
    let mut of = None;
    for p in places {
        let s = project.source_at(p)?;
        let none = |why: &str| {
            let at = s.tree.covering(Span::new(p.start_byte, p.end_byte));
            Err(vec![reason(&s, at, Code::NotAName, why)])
        };
        let Some(bases) = s.lang.bases() else {
            return Err(vec![reason(&s, Tree::ROOT, Code::NoStepYet, "`lift` is not there yet for this language")]);
        };
        of = Some(bases);
        let Some((class, statement)) = member_at(&s, Span::new(p.start_byte, p.end_byte)) else {
            return none("no member of a class stands here");
        };
        let Some(name) = class_members::name_of(&s, statement).map(|n| s.str(n).to_string()) else {
            return none("this is no method or field with a name of its own");
        };
        let Some(word) = s.tree.child(class, Field::Name) else { return none("the class has no name") };
        let file = project.index(&s.path).expect("a planned file was scanned");
        let at = match out.iter().position(|h| h.file == file && h.class == class) {
            Some(i) => i,
            None => {
                let name = s.str(word).to_string();
                out.push(Held { file, s: s.clone(), class, name, members: Vec::new() });
                out.len() - 1
            }
        };
        if out[at].member(&name).is_none() {
            let found = declared(&s, class).into_iter().find(|d| d.name == name);
            out[at].members.extend(found);
        }
    }
    let of = of.expect("a request has a place");
    for h in &mut out {
        h.members.sort_by_key(|m| m.nodes[0]);
    }
    Ok((out, of))
}

/// Without the classes that extend another one of them: these say again what they would have anyway, and stay as they are.
pub(super) fn topmost(project: &Project, all: &mut Vec<Held>) -> Found<()> {
    let tops: Vec<(String, NodeId)> = all.iter().map(|h| (h.s.path.clone(), h.class)).collect();
    let below = |h: &Held| {
        let above = bases::with_bases(project, (h.s.clone(), h.class));
        above.iter().skip(1).any(|(s, n)| tops.iter().any(|(p, c)| *p == s.path && c == n))
    };
    let lower: Vec<bool> = all.iter().map(below).collect();
    let mut at = lower.iter();
    all.retain(|_| at.next() == Some(&false));
    match &all[..] {
        [] | [_] => {
            let place = tops.first().map(|(p, c)| (p.clone(), *c));
            let s = place.as_ref().and_then(|(p, _)| project.source(project.index(p)?).ok());
            let why = "the classes that declare this extend each other: the one below can do without";
            Err(s.zip(place).map(|(s, (_, c))| reason(&s, c, Code::OneCopy, why)).into_iter().collect())
        }
        _ => Ok(()),
    }
}

/// What the members name of their class goes along, where the compiler must find it and all classes declare the same.
fn along(all: &mut [Held]) {
    if !all[0].s.lang.needs_types() {
        return;
    }
    let known: Vec<Vec<Declared>> = all.iter().map(|h| declared(&h.s, h.class)).collect();
    let in_all = |d: &Declared| {
        known.iter().zip(&*all).all(|(k, h)| k.iter().any(|o| class_members::same((&all[0].s, d), (&h.s, o))))
    };
    let shared: Vec<Declared> = known[0].iter().filter(|d| in_all(d)).cloned().collect();
    loop {
        let first = &all[0];
        let named = |d: &&Declared| {
            let t = &first.s.tree;
            first
                .nodes()
                .any(|n| t.subtree(n).any(|x| is_member_of_own(&first.s, first.class, x) && first.s.str(x) == d.name))
        };
        let next = shared.iter().filter(|d| first.member(&d.name).is_none()).find(named);
        let Some(name) = next.map(|d| d.name.clone()) else { return };
        for (h, k) in all.iter_mut().zip(&known) {
            h.members.extend(k.iter().find(|d| d.name == name).cloned());
            h.members.sort_by_key(|m| m.nodes[0]);
        }
    }
}

/// A word that names a member of the object around it.
fn is_member_of_own(s: &Source, class: NodeId, n: NodeId) -> bool {
    let t = &s.tree;
    let object = t.parent(n).filter(|_| t.role(n) == Role::MemberName).and_then(|m| t.child(m, Field::Object));
    let bare = s.names.at(n).and_then(|r| r.target).map(|b| s.names.binding(b).scope);
    object.is_some_and(|o| Some(s.str(o)) == s.lang.object_word()) || bare.is_some() && bare == s.names.scope_of(class)
}

/// There are two classes or more, and they declare the same.
fn fits_together(all: &[Held]) -> Found<()> {
    let first = &all[0];
    let at = |h: &Held, n: NodeId, code, why: String| Err(vec![reason(&h.s, n, code, why)]);
    if all.len() < 2 {
        let why = format!("only `{}` declares this by these words; a member goes up where several do", first.name);
        return at(first, first.members[0].nodes[0], Code::OneCopy, why);
    }
    for h in &all[1..] {
        if h.s.lang.name() != first.s.lang.name() {
            return at(h, h.class, Code::NoHome, "the classes are of different languages".into());
        }
        let differs =
            |m: &&Declared| first.member(&m.name).is_none_or(|f| !class_members::same((&first.s, f), (&h.s, m)));
        if let Some(m) = h.members.iter().find(differs) {
            let why = format!("`{}` is not the same in `{}` and `{}`", m.name, first.name, h.name);
            return at(h, m.nodes[0], Code::OtherMember, why);
        }
        if let Some(m) = first.members.iter().find(|m| h.member(&m.name).is_none()) {
            return at(h, h.class, Code::OtherMember, format!("`{}` has no `{}` that goes", h.name, m.name));
        }
    }
    Ok(())
}

/// A class can be made to extend another one.
fn takes_another(s: &Source, class: NodeId) -> bool {
    let of = s.lang.bases().filter(|_| statement_of(s, class).is_some());
    of.is_some_and(|of| of.extended(s, class, "Base").is_some() && of.is_closed(s, class).is_none())
}

/// The places of members in all classes that declare them by the same words: those below the nearest class that one of
/// the others extends too; where there is none, or where a new base is wanted, those that could extend a new one.
pub fn members_like(project: &Project, places: &[Place], new_base: bool) -> Vec<Place> {
    let all: Vec<Vec<Spot>> = places.iter().filter_map(|p| spots(project, p, new_base)).collect();
    let in_all = |x: &Spot| all.iter().all(|a| a.iter().any(|o| o.path == x.path && o.class == x.class));
    let mut out: Vec<Place> = Vec::new();
    for x in all.iter().flatten().filter(|x| in_all(x)) {
        if !out.contains(&x.place) {
            out.push(x.place.clone());
        }
    }
    if out.is_empty() { places.to_vec() } else { out }
}

/// The member of a class in which some code stands: where it is named, and how it is written with its class.
pub fn member_around(project: &Project, code: &Place) -> Option<(Place, String)> {
    let s = project.source_at(code).ok()?;
    let (class, statement) = member_at(&s, Span::new(code.start_byte, code.start_byte + 1))?;
    let (word, name) = (class_members::name_of(&s, statement)?, s.tree.child(class, Field::Name)?);
    Some((place_of(&s, s.tree.span(word)), format!("{}.{}", s.str(name), s.str(word))))
}

/// A member of a class.
pub(super) struct Spot {
    pub path: String,
    pub class: NodeId,
    pub place: Place,
}

impl Spot {
    fn new(s: &Source, class: NodeId, n: NodeId) -> Spot {
        let word = class_members::name_of(s, n).unwrap_or(n);
        Spot { path: s.path.clone(), class, place: place_of(s, s.tree.span(word)) }
    }
}

fn spots(project: &Project, place: &Place, new_base: bool) -> Option<Vec<Spot>> {
    spots_where(project, place, new_base, &class_members::same)
}

/// A member as one class declares it is like that of another.
type Alike<'a> = dyn Fn((&Source, &Declared), (&Source, &Declared)) -> bool + 'a;

pub(super) fn spots_where(project: &Project, place: &Place, new_base: bool, alike: &Alike) -> Option<Vec<Spot>> {
    let s = project.source_at(place).ok()?;
    let (class, statement) = member_at(&s, Span::new(place.start_byte, place.end_byte))?;
    let name = s.str(class_members::name_of(&s, statement)?).to_string();
    let own = declared(&s, class).into_iter().find(|d| d.name == name)?;
    let mut others: Vec<(Arc<Source>, NodeId, Declared)> = Vec::new();
    for c in with_word(project, &name, s.lang).iter() {
        if c.source.path == s.path && c.node == class || others.len() >= MOST_CLASSES {
            continue;
        }
        let found = declared(&c.source, c.node).into_iter().find(|d| d.name == name);
        if let Some(d) = found.filter(|d| alike((&s, &own), (&c.source, d))) {
            others.push((c.source.clone(), c.node, d));
        }
    }
    let chain = |s: &Arc<Source>, n: NodeId| ancestry::of(project, s, n);
    let below = |c: &(Arc<Source>, NodeId, Declared), base: &Ancestor| {
        chain(&c.0, c.1).iter().skip(1).any(|a| a.is(&base.source, base.node))
    };
    let own_chain = chain(&s, class);
    let base = own_chain.iter().skip(1).find(|b| others.iter().any(|o| below(o, b))).filter(|_| !new_base);
    match base {
        Some(b) => others.retain(|o| below(o, b)),
        None => others.retain(|o| takes_another(&o.0, o.1)),
    }
    let mut out = vec![Spot::new(&s, class, own.nodes[0])];
    out.extend(others.iter().map(|o| Spot::new(&o.0, o.1, o.2.nodes[0])));
    Some(out)
}

/// All members that the classes around some places declare by the same words; none where no object has any of them.
pub fn members_of(project: &Project, places: &[Place]) -> Vec<Place> {
    let around = |p: &Place| {
        let s = project.source_at(p).ok()?;
        let (class, _) = member_at(&s, Span::new(p.start_byte, p.start_byte + 1))?;
        let all = declared(&s, class);
        Some((s, class, all))
    };
    let Some(classes) = places.iter().map(around).collect::<Option<Vec<_>>>() else { return Vec::new() };
    let Some((first, _, own)) = classes.first() else { return Vec::new() };
    let in_all =
        |d: &&Declared| classes.iter().all(|(s, _, all)| all.iter().any(|o| class_members::same((first, d), (s, o))));
    let names: Vec<&str> = own.iter().filter(in_all).map(|d| d.name.as_str()).collect();
    let of_class = |n: &NodeId| first.lang.bases().is_none_or(|of| of.is_of_class(first, *n));
    let shared = own.iter().filter(|d| names.contains(&d.name.as_str()));
    if shared.flat_map(|d| &d.nodes).all(of_class) {
        return Vec::new();
    }
    let of = |(s, class, all): &(Arc<Source>, NodeId, Vec<Declared>)| -> Vec<Place> {
        let mine = all.iter().filter(|d| names.contains(&d.name.as_str()));
        mine.map(|d| Spot::new(s, *class, d.nodes[0]).place).collect()
    };
    classes.iter().flat_map(of).collect()
}

/// A name for a new base of the classes around some places, by the words that their names share; and whether these say
/// enough.
pub fn name_for_base(project: &Project, places: &[Place]) -> (String, bool) {
    let mut names: Vec<String> = Vec::new();
    for p in places {
        let Ok(s) = project.source_at(p) else { continue };
        let class = member_at(&s, Span::new(p.start_byte, p.end_byte)).and_then(|(c, _)| s.tree.child(c, Field::Name));
        let name = class.map_or(String::new(), |n| s.str(n).to_string());
        if !names.contains(&name) {
            names.push(name);
        }
    }
    let split: Vec<Vec<String>> = names.iter().map(|n| words(n)).collect();
    let upper = |all: &[String]| -> String { all.iter().map(|w| w[..1].to_uppercase() + &w[1..]).collect() };
    let shared = |back: bool| {
        let at =
            |w: &[String], i: usize| if back { w.len().checked_sub(i + 1) } else { Some(i).filter(|i| *i < w.len()) };
        let alike = |i: &usize| {
            let of = |w: &Vec<String>| at(w, *i).map(|k| w[k].clone());
            of(&split[0]).is_some_and(|x| split.iter().all(|w| of(w).as_ref() == Some(&x)))
        };
        let count = (0..split[0].len()).take_while(alike).count();
        let w = &split[0];
        if back { upper(&w[w.len() - count..]) } else { upper(&w[..count]) }
    };
    let free = |name: &String| !name.is_empty() && !names.contains(name) && !project.word_elsewhere(name, &[]);
    if split.is_empty() {
        return ("Base".into(), false);
    }
    let (last, head) = (shared(true), shared(false));
    let tries = [last.clone(), format!("Base{last}"), format!("{head}Base")];
    let named = !last.is_empty() || !head.is_empty();
    if let Some(name) = tries.into_iter().find(|n| free(n) && n != "Base").filter(|_| named) {
        return (name, true);
    }
    let fallback = ["SharedBase".to_string(), format!("{}Base", names[0])];
    (fallback.into_iter().find(free).unwrap_or_else(|| format!("Shared{}", names[0])), false)
}

/// The folder around all of the files, where it has source files of its own; else that of the first.
fn folder_for<'p>(project: &Project, places: &'p [Place]) -> &'p str {
    let of = |path: &'p str| path.rfind('/').map_or("", |i| &path[..=i]);
    let first = of(&places[0].file);
    let around = |f: &str| places.iter().all(|p| p.file.starts_with(f));
    let ends = std::iter::once(0).chain(first.match_indices('/').map(|(i, _)| i + 1));
    let folders: Vec<&str> = ends.map(|i| &first[..i]).filter(|f| around(f)).collect();
    let shared = folders.last().copied().unwrap_or("");
    let own = |f: &crate::find::FileFacts| f.path.strip_prefix(shared).is_some_and(|rest| !rest.contains('/'));
    if shared == first || project.facts.iter().any(own) { shared } else { first }
}

/// The file that a new base of these members' classes is made in; none where they stand in one file.
pub fn file_for_base(project: &Project, places: &[Place], name: &str) -> Option<String> {
    let first = places.first().filter(|f| places.iter().any(|p| p.file != f.file))?;
    let s = project.source_at(first).ok()?;
    let (class, _) = member_at(&s, Span::new(first.start_byte, first.end_byte))?;
    if let Some(path) = s.lang.file_of_class(&s, class, name) {
        return Some(path);
    }
    let folder = folder_for(project, places);
    let stem = Style::of(project, &s, folder).write(&words(name));
    let ending = first.file.rsplit_once('.').map_or("", |p| p.1);
    Some(format!("{folder}{stem}.{ending}"))
}
