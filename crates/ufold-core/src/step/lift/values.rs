//! Members that differ in values: each class gets these as values of its own, by one name, and the members, which say the
//! same then, go up.
//!
//! Two changes, one after the other: the second is a lift like any other. Fails (refuses) where a member differs in
//! more than texts and numbers, or these stand where no expression can.

use super::classes::{Held, Spot, gathered, spots_where};
use super::{LiftRequest, Step};
use crate::change::{Claim, Code, Edits, Found, Link, Outcome, Place, Reason, Verdict, place_of, reason};
use crate::index::Project;
use crate::index::class_members::{Declared, name_of};
use crate::index::class_values::{self, is_value};
use crate::index::method::{Method, method};
use crate::index::{ancestry, unseen};
use crate::lang::{Bases, MethodKind};
use crate::names::Source;
use crate::plan::class_text::with_members;
use crate::plan::words::words;
use crate::step::chain::Several;
use crate::step::proven::proven;
use crate::text::Edit;
use crate::tree::{Field, NodeId, Role, Tree};

/// More values are a table.
const MOST_VALUES: usize = 3;

/// A value that differs: where it stands in each of the classes.
struct Column {
    name: String,
    holes: Vec<Vec<NodeId>>,
}

pub(super) fn run(project: &Project, request: &LiftRequest) -> Found<Outcome> {
    let (held, of) = gathered(project, &request.places)?;
    let mut columns = columns(&held)?;
    let names = Names { project, held: &held, of };
    names.given(&mut columns, &request.values)?;
    let link = Link { claim: claim(&columns), result: names.link(&columns)? };
    let link = Link { result: proven(project, &link.claim, link.result), ..link };
    if link.result.is_refused() {
        return Err(link.result.reasons);
    }
    let mut at = Several::default();
    at.follow(project, &link)?;
    let places: Vec<Place> = held.iter().flat_map(|h| now(&at, h)).collect();
    let next = LiftRequest { places, values: Vec::new(), ..request.clone() };
    let lifted = at.asked(project, |p| next.plan(p).result)?;
    if lifted.is_refused() {
        return Err(lifted.reasons.iter().map(|r| at.before(r)).collect());
    }
    let mut out = Outcome { function: lifted.function.clone(), ..Outcome::refused(Vec::new()) };
    out.reasons = link.result.reasons.iter().cloned().chain(lifted.reasons.iter().map(|r| at.before(r))).collect();
    out.reasons.sort_by(|a, b| (a.code, &a.file, a.line, &a.message).cmp(&(b.code, &b.file, b.line, &b.message)));
    out.reasons.dedup();
    out.verdict = link.result.verdict.max(lifted.verdict);
    out.remarks.clone_from(&lifted.remarks);
    out.links = vec![link, Link { claim: Claim::Lifted, result: lifted }];
    at.follow(project, &out.links[1])?;
    (out.files, out.saves) = at.finish();
    Ok(out)
}

fn claim(columns: &[Column]) -> Claim {
    Claim::Valued { names: columns.iter().map(|c| c.name.clone()).collect() }
}

/// The members of a class in the text that is now.
fn now(at: &Several, h: &Held) -> Vec<Place> {
    let s = at.now(&h.s);
    let t = &s.tree;
    // no class came or went
    let classes = |t: &Tree| t.ids().filter(|n| t.role(*n) == Role::Class).collect::<Vec<_>>();
    let nth = classes(&h.s.tree).iter().position(|c| *c == h.class);
    let class = nth.and_then(|i| classes(t).get(i).copied());
    let body = class.map_or(Vec::new(), |c| crate::index::class_members::body(t, c));
    let words = body.into_iter().filter_map(|n| name_of(&s, n));
    words.filter(|w| h.member(s.str(*w)).is_some()).map(|w| place_of(&s, t.span(w))).collect()
}

/// Texts and numbers in which the members differ; the same ones in all classes are one value.
fn columns(held: &[Held]) -> Found<Vec<Column>> {
    let first = &held[0];
    let leaves = |h: &Held| -> Vec<NodeId> {
        let t = &h.s.tree;
        h.nodes().flat_map(|m| t.subtree(m)).filter(|n| t.is_leaf(*n)).collect()
    };
    let all: Vec<Vec<NodeId>> = held.iter().map(leaves).collect();
    let nodes = |h: &Held| h.nodes().flat_map(|m| h.s.tree.subtree(m).collect::<Vec<_>>()).collect::<Vec<_>>();
    for (h, own) in held.iter().zip(&all) {
        let names = |h: &Held| h.members.iter().map(|m| m.name.clone()).collect::<Vec<_>>();
        if names(h) != names(first)
            || own.len() != all[0].len()
            || !same_form((&first.s, &nodes(first)), (&h.s, &nodes(h)))
        {
            let why = format!("`{}` and `{}` differ in more than values", first.name, h.name);
            return Err(vec![reason(&h.s, h.class, Code::OtherMember, why)]);
        }
    }
    let mut out: Vec<(Vec<String>, Column)> = Vec::new();
    for i in 0..all[0].len() {
        let at: Vec<NodeId> = all.iter().map(|own| own[i]).collect();
        let texts: Vec<String> = held.iter().zip(&at).map(|(h, n)| h.s.str(*n).to_string()).collect();
        if texts.iter().all(|x| *x == texts[0]) {
            continue;
        }
        if let Some((h, n)) = held.iter().zip(&at).find(|(h, n)| !is_value(&h.s, **n)) {
            let alone = h.s.tree.ancestor(*n, &[Role::ExprStmt, Role::Doc]).is_some_and(|p| h.s.str(p) == h.s.str(*n));
            let why = match alone {
                true => "what the functions say of themselves differs".to_string(),
                false => format!("`{}` is no text or number that could be a value of its class", h.s.str(*n)),
            };
            return Err(vec![reason(&h.s, *n, Code::OtherMember, why)]);
        }
        match out.iter_mut().find(|(known, _)| *known == texts) {
            Some((_, c)) => c.holes.iter_mut().zip(&at).for_each(|(h, n)| h.push(*n)),
            None => out.push((texts, Column { name: String::new(), holes: at.iter().map(|n| vec![*n]).collect() })),
        }
    }
    let columns: Vec<Column> = out.into_iter().map(|o| o.1).collect();
    if columns.is_empty() || columns.len() > MOST_VALUES {
        let why = format!("they differ in {} values, not in one to {MOST_VALUES}", columns.len());
        return Err(vec![reason(&first.s, first.class, Code::OtherMember, why)]);
    }
    Ok(columns)
}

/// Code of two classes is put together in the same way, of the same words but for literals.
fn same_form((a, x): (&Source, &[NodeId]), (b, y): (&Source, &[NodeId])) -> bool {
    let same = |(m, n): (&NodeId, &NodeId)| {
        let (t, u) = (&a.tree, &b.tree);
        let alike = t.role(*m) == u.role(*n) && t.field(*m) == u.field(*n) && t.is_leaf(*m) == u.is_leaf(*n);
        let word = || a.str(*m) == b.str(*n) || t.role(*m) == Role::Literal;
        alike && t.children(*m).count() == u.children(*n).count() && (!t.is_leaf(*m) || word())
    };
    x.len() == y.len() && x.iter().zip(y).all(same)
}

/// The object of a function that a class itself declares; none where it may be another one.
fn object_of(s: &Source, function: NodeId) -> Option<String> {
    let Method { class, kind, receiver } = method(s, function, s.names.scope_of(function)?)?;
    let t = &s.tree;
    let decorated = t.parent(function).is_some_and(|p| t.role(p) == Role::Decorated);
    let own = t.parent(function).and_then(|b| t.parent(b)) == Some(class);
    match s.lang.object_word() {
        _ if kind != MethodKind::Instance || decorated || !own => None,
        // the object is not there before the constructor above has made it
        Some(_) if s.lang.bases().is_some_and(|of| of.is_constructor(s, function)) => None,
        Some(word) => Some(word.to_string()),
        None => Some(s.names.binding(receiver?).name.clone()),
    }
}

/// The places of members in all classes that declare them but for values, as [`super::members_like`] finds those of the
/// same words; none where no other class does.
pub fn members_but_values(project: &Project, places: &[Place], new_base: bool) -> Option<Vec<Place>> {
    let alike = |(a, x): (&Source, &Declared), (b, y): (&Source, &Declared)| {
        let nodes = |s: &Source, d: &Declared| d.nodes.iter().flat_map(|n| s.tree.subtree(*n)).collect::<Vec<_>>();
        let values = |s: &Source, all: &[NodeId]| -> Vec<String> {
            let literal = |n: &&NodeId| s.tree.role(**n) == Role::Literal && s.tree.is_leaf(**n);
            all.iter().filter(literal).map(|n| s.str(*n).to_string()).collect()
        };
        let (m, n) = (nodes(a, x), nodes(b, y));
        same_form((a, &m), (b, &n)) && {
            let differ = values(a, &m).iter().zip(&values(b, &n)).filter(|(p, q)| p != q).count();
            // the same value may stand at several places
            differ <= MOST_VALUES * 2
        }
    };
    let all: Vec<Vec<Spot>> = places.iter().filter_map(|p| spots_where(project, p, new_base, &alike)).collect();
    let found = all.iter().all(|a| a.len() > 1) && !all.is_empty();
    let in_all = |x: &&Spot| all.iter().all(|a| a.iter().any(|o| o.path == x.path && o.class == x.class));
    found.then(|| all.iter().flatten().filter(in_all).map(|x| x.place.clone()).collect())
}

struct Names<'a> {
    project: &'a Project<'a>,
    held: &'a [Held],
    of: &'static dyn Bases,
}

impl Names<'_> {
    /// Names for the values: those that were asked for, or found ones.
    fn given(&self, columns: &mut [Column], asked: &[String]) -> Found<()> {
        let h = &self.held[0];
        for i in 0..columns.len() {
            let wanted = asked.get(i).filter(|n| !n.is_empty());
            let tries: Vec<String> = match wanted {
                Some(n) => vec![n.clone()],
                None => self.names_for(&columns[i]).iter().map(|w| self.of.value_name(w)).collect(),
            };
            let free = |n: &String| {
                h.s.lang.is_identifier(n)
                    && !h.s.lang.is_keyword(n)
                    && !self.project.word_elsewhere(n, &[])
                    && !columns.iter().any(|c| c.name == *n)
            };
            let Some(name) = tries.iter().find(|n| free(n)) else {
                let why = format!("`{}` is in use, or can't be a name", tries.first().map_or("", |n| n));
                return Err(vec![reason(&h.s, columns[i].holes[0][0], Code::NameTaken, why)]);
            };
            columns[i].name = name.clone();
        }
        Ok(())
    }

    /// Words for a value: of what it is given to, of what it is compared with, of the class that it names.
    fn names_for(&self, c: &Column) -> Vec<Vec<String>> {
        let (h, n) = (&self.held[0], c.holes[0][0]);
        let (s, t) = (&h.s, &h.s.tree);
        let mut out: Vec<Vec<String>> = Vec::new();
        let p = t.parent(n).unwrap_or(Tree::ROOT);
        let named = match t.role(p) {
            Role::KeywordArg => t.child(p, Field::Name),
            Role::Assign => t.child(p, Field::Left).filter(|l| t.is_leaf(*l)),
            _ => None,
        };
        out.extend(named.map(|w| words(s.str(w))));
        let names_class = |h: &Held, n: NodeId| {
            let said = h.s.str(n).to_lowercase();
            words(&h.name).iter().any(|w| w.len() > 2 && said.contains(w.as_str()))
        };
        if self.held.iter().zip(&c.holes).all(|(h, own)| names_class(h, own[0])) {
            out.extend(["kind", "kind name"].map(words));
        }
        let member = t.callable_around(n).and_then(|f| t.child(f, Field::Name)).map_or("", |w| s.str(w));
        let what = match (t.role(p), s.str(n).starts_with(|c: char| c.is_ascii_digit())) {
            (Role::Compare, true) => "limit",
            (_, true) => "number",
            _ => "text",
        };
        let all = words(member);
        let last: Vec<String> =
            all.iter().skip(usize::from(all.len() > 1)).cloned().chain([what.to_string()]).collect();
        out.push(last);
        out.push(all.into_iter().chain([what.to_string(), "value".into()]).collect());
        out
    }

    /// Each class gets its values, and the literals are asked of the object.
    fn link(&self, columns: &[Column]) -> Found<Outcome> {
        let (mut edits, mut assumed) = (Edits::default(), Vec::new());
        for (i, h) in self.held.iter().enumerate() {
            assumed.extend(self.fits(h, columns)?);
            let mut own = Vec::new();
            for c in columns {
                let value = h.s.str(c.holes[i][0]);
                let Some((text, function)) = self.of.value_of_class(&h.s, &c.name, value) else {
                    let why = "a class of this language has no values of its own that its base could ask for";
                    return Err(vec![reason(&h.s, h.class, Code::NoStepYet, why)]);
                };
                own.push((indented(h, &text), function));
                for n in &c.holes[i] {
                    let object = h.s.tree.callable_around(*n).and_then(|f| object_of(&h.s, f));
                    let Some(object) = object else {
                        let why = "the function has no object whose class could be asked for the value";
                        return Err(vec![reason(&h.s, *n, Code::NeedsClass, why)]);
                    };
                    let span = h.s.tree.span(*n);
                    edits.add(&h.s, Edit::new(span.start, span.end, format!("{object}.{}", c.name)));
                }
            }
            with_members(&h.s, h.class, &own).into_iter().for_each(|e| edits.add(&h.s, e));
        }
        for c in columns {
            let lang = self.held[0].s.lang;
            assumed.extend(unseen::lookups(self.project, &c.name, unseen::Within::Speakers(lang)));
        }
        assumed.sort_by(|a, b| (a.code, &a.file, a.line).cmp(&(b.code, &b.file, b.line)));
        assumed.dedup();
        let (files, saves) = edits.finish();
        let verdict = if assumed.is_empty() { Verdict::Ready } else { Verdict::Assumed };
        Ok(Outcome { verdict, reasons: assumed, files, saves, ..Outcome::refused(Vec::new()) })
    }

    /// A value more in the class is seen by nobody but who asks for it.
    fn fits(&self, h: &Held, columns: &[Column]) -> Found<Vec<Reason>> {
        let s = &h.s;
        if ancestry::is_watched(self.project, s, h.class) {
            let why = "the class sees each look at a member of its objects";
            return Err(vec![reason(s, h.class, Code::InheritedName, why)]);
        }
        let mut out = Vec::new();
        for f in self.functions(h, columns) {
            let name = s.tree.child(f, Field::Name).map_or("", |n| s.str(n));
            for x in class_values::for_others(self.project, s, f) {
                let (code, o) = (Code::UsedAsValue, &x.source);
                if x.sure {
                    let why = format!("`{name}` is asked of a class here, and may get any object");
                    return Err(vec![reason(o, x.node, code, why)]);
                }
                out.push(reason(o, x.node, code, format!("`{name}` gets an object of its own class here")));
            }
            out.extend(unseen::lookups(self.project, name, unseen::Within::Speakers(s.lang)));
        }
        let message = || format!("this does nothing with what `{}` has besides its functions", h.name);
        let more = class_values::made_by(self.project, s, h.class);
        out.extend(more.into_iter().map(|(o, n)| reason(&o, n, Code::LookedUp, message())));
        Ok(out)
    }

    /// The functions of a class that ask for its values.
    fn functions(&self, h: &Held, columns: &[Column]) -> Vec<NodeId> {
        let at = self.held.iter().position(|o| o.class == h.class && o.s.path == h.s.path).unwrap_or(0);
        let holes = columns.iter().flat_map(|c| &c.holes[at]);
        let mut out: Vec<NodeId> = holes.filter_map(|n| h.s.tree.callable_around(*n)).collect();
        out.sort();
        out.dedup();
        out
    }
}

fn indented(h: &Held, text: &str) -> String {
    let (t, s) = (&h.s.tree, &h.s);
    let first = crate::index::class_members::body(t, h.class).first().copied().unwrap_or(h.class);
    let start = t.span(first).start;
    let indent = &s.text[crate::plan::lines::line_start(&s.text, start)..start];
    let lines: Vec<String> = text.lines().map(|l| format!("{indent}{l}")).collect();
    format!("{}\n", lines.join("\n"))
}
