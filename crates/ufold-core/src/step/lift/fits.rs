//! What of the classes can go, and what others see of it.

use std::sync::Arc;

use super::base::Base;
use super::classes::{Held, decorators};
use super::{Lift, meaning};
use crate::change::{Code, Found, Reason, reason};
use crate::index::ancestry::{self, Ancestor};
use crate::index::class_members::{declared, is_function};
use crate::index::class_tree::{Class, with_word};
use crate::index::loading::acts;
use crate::index::own::makes_empty;
use crate::index::users::is_given_once;
use crate::index::{bases, looked_up, unseen};
use crate::names::Source;
use crate::tree::{Field, NodeId, Role, Tree};

fn refuse(s: &Source, n: NodeId, code: Code, why: impl Into<String>) -> Found<()> {
    Err(vec![reason(s, n, code, why)])
}

/// What must be assumed of a class as a whole.
pub(super) fn class(lift: &Lift, h: &Held) -> Found<Vec<Reason>> {
    let (s, t) = (&h.s, &h.s.tree);
    let mut out = Vec::new();
    for d in decorators(h) {
        let message = format!("this does not go through the members that `{}` itself declares", h.name);
        out.push(reason(s, d, Code::LookedUp, message));
    }
    for (o, base) in foreign(lift, h) {
        let message = format!("`{}` does not go through the members of classes that extend it", o.str(base));
        out.push(reason(&o, base, Code::LookedUp, message));
    }
    let definitions = |s: &Source, name: &str| lift.project.definition(s, name);
    if s.lang.is_stored_by_members(s, h.class, &definitions) {
        if let Some(n) = h.nodes().find(|n| !is_function(s, *n)) {
            let message = "objects of the class are stored with its own fields; its base's are not";
            return Err(vec![reason(s, n, Code::StoredObjects, message)]);
        }
        let message = "no stored object of the class is read again: its form depends on the functions of the class";
        out.push(reason(s, h.class, Code::StoredObjects, message));
    }
    if t.errors().is_empty() {
        Ok(out)
    } else {
        Err(vec![reason(s, Tree::ROOT, Code::Unparsed, "this file can't be parsed as a whole")])
    }
}

/// Classes from outside the project that a class comes to extend, but for those that ask nothing of their members.
fn foreign(lift: &Lift, h: &Held) -> Vec<(Arc<Source>, NodeId)> {
    let all = bases::making(lift.project, &h.s, h.class);
    let mut out = Vec::new();
    for (s, making) in all {
        let known = |n: &NodeId| unseen::definition_of(lift.project, &s, *n).is_some();
        out.extend(making.foreign.into_iter().filter(|n| !known(n)).map(|n| (s.clone(), n)));
    }
    out
}

/// Whether one member can go, from all classes.
pub(super) fn member(lift: &Lift, name: &str) -> Found<()> {
    for (i, h) in lift.classes.iter().enumerate() {
        let Some(m) = h.member(name) else { continue };
        for n in &m.nodes {
            by_itself(lift, h, *n, name)?;
            match is_function(&h.s, *n) {
                true => {}
                false => field(lift, h, *n, name)?,
            }
            meaning::member(lift, i, *n)?;
        }
        named_by_the_rest(h, name)?;
        asked_above(h, name)?;
    }
    above(lift, name)
}

fn by_itself(lift: &Lift, h: &Held, n: NodeId, name: &str) -> Found<()> {
    let (s, of) = (&h.s, lift.of);
    if let Some(why) = of.stays(s, n) {
        return refuse(s, n, Code::NeedsClass, why);
    }
    if of.would_be_shared(s, n) {
        return refuse(s, n, Code::NeedsClass, "each class has one of its own, and would share it");
    }
    if of.is_constructor(s, s.tree.definition_in(n)) && !(lift.base.is_new() && of.inherits_constructors()) {
        return refuse(s, n, Code::ConstructorMember, "a constructor of its own can't be another class's");
    }
    if of.every_object_has(name) && !lift.base.is_new() {
        let message = format!("objects of `{}` have a `{name}` already, which would be another one", lift.base.name());
        return refuse(s, n, Code::Overridden, message);
    }
    if let Some(x) = lift.of.shares_defaults().then(|| shared_default(s, n)).flatten() {
        return refuse(s, x, Code::MoreThanAValue, "each class has a value of its own for what is not passed");
    }
    let left = |o: &&str| declared(s, h.class).iter().any(|d| d.name == **o) && h.member(o).is_none();
    if let Some(o) = of.together().iter().find(|o| of.together().contains(&name) && left(o)) {
        return refuse(s, n, Code::NeedsClass, format!("`{name}` only means something beside `{o}`"));
    }
    if of.every_object_has(name) && !decorators(h).is_empty() {
        return refuse(s, n, Code::NeedsClass, format!("what decorates `{}` may write a `{name}` of its own", h.name));
    }
    if unseen::is_collected(&s.path, name) {
        return refuse(
            s,
            n,
            Code::Demanded,
            format!("`{name}` is found and run by its name, for each class that has it"),
        );
    }
    if s.names.members_in_sight
        && s.package() != lift.base.source().package()
        && !lift.is_new_file()
        && !s.lang.is_open_below(s, n)
    {
        return refuse(s, n, Code::NoHome, format!("only its own package sees `{name}`"));
    }
    Ok(())
}

/// A value for a parameter that is made with the function, and is no fixed one.
fn shared_default(s: &Source, member: NodeId) -> Option<NodeId> {
    use Role::*;
    let t = &s.tree;
    let fixed = |x: NodeId| match t.role(x) {
        Literal | Token | UnaryOp | BinaryOp | Concat | Paren | Tuple => true,
        Name => s.names.at(x).is_some_and(|r| match r.target {
            Some(b) => is_given_once(s, b),
            None => s.lang.is_builtin(s.str(x)),
        }),
        _ => false,
    };
    let list = t.child(t.definition_in(member), Field::Parameters)?;
    let values = t.children(list).filter_map(|p| t.child(p, Field::Value));
    values.into_iter().flat_map(|v| t.subtree(v)).find(|x| !fixed(*x))
}

/// A field has a value that each class, or object, can get from elsewhere.
fn field(lift: &Lift, h: &Held, n: NodeId, name: &str) -> Found<()> {
    use Role::*;
    let (s, t, of) = (&h.s, &h.s.tree, lift.of);
    if !decorators(h).is_empty() || foreign(lift, h).iter().any(|(o, b)| !o.lang.harmless_bases().contains(&o.str(*b)))
    {
        return refuse(
            s,
            n,
            Code::NeedsClass,
            format!("what makes `{}` may go through the fields that it declares", h.name),
        );
    }
    let definitions = |s: &Source, name: &str| lift.project.definition(s, name);
    if s.names.members_in_sight && s.lang.may_get_besides(s, h.class, name, &definitions) {
        let message = format!("what `{}` promises may have a `{name}` too, which it hides", h.name);
        return refuse(s, n, Code::Overridden, message);
    }
    let inner = t.definition_in(n);
    let shared = of.is_of_class(s, n);
    let value = t.child(inner, Field::Value).or_else(|| t.subtree(inner).find(|x| t.field(*x) == Field::Right));
    let plain = |x: NodeId| match t.role(x) {
        Literal | Token | UnaryOp | BinaryOp | Concat | Paren | Type => true,
        Tuple => shared,
        // of another member that goes, or one that there is for all
        Name => s.names.at(x).is_none_or(|r| {
            r.target.is_none() && s.lang.is_builtin(s.str(x)) || r.is_type() || h.member(s.str(x)).is_some()
        }),
        List | Dict | Set | Fresh => !shared && t.children(x).all(|c| t.role(c) == Token),
        Call => !shared && makes_empty(s, x),
        Arguments | TypeParams => true,
        _ => t.is_leaf(x) && t.role(x) == MemberName,
    };
    if let Some(x) = value.into_iter().flat_map(|v| t.subtree(v)).find(|x| !plain(*x)) {
        let why = if shared { "each class has a value of its own" } else { "what makes this value may do more" };
        return refuse(s, x, Code::MoreThanAValue, why);
    }
    if of.keeps_order() && !shared && !lift.base.is_new() {
        let message = format!("each object of `{}` would have it, before what it has now", lift.base.name());
        return refuse(s, n, Code::ShownValue, message);
    }
    if of.keeps_order() && !shared {
        let before = crate::index::class_members::body(t, h.class).into_iter().take_while(|m| *m < n);
        let mut fields = before.filter(|m| !is_function(s, *m) && !of.is_of_class(s, *m) && t.role(*m) == ClassField);
        if let Some(f) = fields.find(|f| !h.goes(*f)) {
            return refuse(
                s,
                n,
                Code::ShownValue,
                format!("`{name}` would come before `{}` in each object", first_words(s, f)),
            );
        }
    }
    Ok(())
}

fn first_words(s: &Source, n: NodeId) -> String {
    crate::index::class_members::name_of(s, n)
        .map_or_else(|| s.str(n).chars().take(20).collect(), |w| s.str(w).to_string())
}

/// Code of the class's own level that stays, and names the member as if it were a variable.
fn named_by_the_rest(h: &Held, name: &str) -> Found<()> {
    let s = &h.s;
    if s.names.members_in_sight {
        return Ok(());
    }
    let Some(own) = s.names.scope_of(h.class) else { return Ok(()) };
    let mut all = s.names.references.iter().filter(|r| s.str(r.node) == name && !h.goes(r.node));
    match all.find(|r| r.target.is_some_and(|b| s.names.binding(b).scope == own)) {
        Some(r) => refuse(s, r.node, Code::NeedsClass, format!("`{name}` is named here by what stays in the class")),
        None => Ok(()),
    }
}

/// Code of the class that stays asks for what is above it by the name: that would be the member itself now.
fn asked_above(h: &Held, name: &str) -> Found<()> {
    let (s, t) = (&h.s, &h.s.tree);
    let above =
        |o: NodeId| t.subtree(o).any(|x| t.is_leaf(x) && t.role(x) != Role::Literal && s.lang.needs_class(s.str(x)));
    let asks = |n: &NodeId| {
        let member = t.parent(*n).filter(|m| t.role(*n) == Role::MemberName && t.role(*m) == Role::Member);
        s.str(*n) == name && member.and_then(|m| t.child(m, Field::Object)).is_some_and(above)
    };
    match t.subtree(h.class).find(|n| asks(n) && !h.goes(*n)) {
        Some(n) => refuse(s, n, Code::Overridden, format!("this asks for the `{name}` above, which would be its own")),
        None => Ok(()),
    }
}

/// What is done when the members are defined: once now, and not for each class; and no name is read before it is there.
fn when_defined(lift: &Lift) -> Found<Vec<Reason>> {
    let mut out = Vec::new();
    for h in &lift.classes {
        let (s, t) = (&h.s, &h.s.tree);
        let own = s.names.scope_of(h.class);
        // one that is made of a member which goes too
        let of_member = |n: NodeId| {
            let root =
                t.subtree(n).find(|x| t.role(*x) == Role::Name).and_then(|x| s.names.at(x)).and_then(|r| r.target);
            t.role(n) == Role::Decorator && root.is_some_and(|b| Some(s.names.binding(b).scope) == own)
        };
        let at_once = h.nodes().filter(|n| lift.of.runs_when_made(s, *n));
        for n in at_once.flat_map(|n| acts(lift.project, s, n)).filter(|n| !of_member(*n)) {
            let message = "what this does when the class is made may be done once for all classes";
            out.push(reason(s, n, Code::ImportEffects, message));
        }
    }
    let base = lift.base.source();
    let in_file = |h: &&Held| h.s.path == base.path;
    let place = match &lift.base {
        Base::There { class, .. } => Some(class.node),
        Base::New { .. } => lift.classes.iter().filter(in_file).map(|h| h.class).min(),
    };
    let h = lift.first();
    let Some(place) = place.filter(|_| in_file(&h)) else { return Ok(out) };
    let (s, t) = (&h.s, &h.s.tree);
    for n in h.nodes().filter(|n| lift.of.runs_when_made(s, *n)) {
        let at_once = |r: &&crate::names::Reference| t.body_around(r.node).is_none_or(|f| f < n) && !r.is_type();
        let early = |r: &&crate::names::Reference| {
            let b = r.target.map(|b| s.names.binding(b)).filter(|b| b.scope == crate::names::Names::MODULE);
            b.is_some_and(|b| b.first > place && !(b.hoisted && b.kind == crate::names::BindKind::Function))
        };
        if let Some(r) = s.names.in_range(n, t.end(n)).iter().filter(at_once).find(early) {
            let message = format!("`{}` is not there yet where `{}` is made", s.str(r.node), lift.base.name());
            return Err(vec![reason(s, r.node, Code::EarlyRead, message)]);
        }
    }
    Ok(out)
}

/// Members of two classes that are told apart as values are one now.
fn as_values(lift: &Lift) -> Vec<Reason> {
    let mut out = Vec::new();
    let lang = lift.first().s.lang;
    for m in lift.first().members.iter().filter(|m| m.nodes.iter().all(|n| is_function(&lift.first().s, *n))) {
        for (_, s) in crate::index::with_word(lift.project, &m.name, lang) {
            let value = |n: &NodeId| {
                crate::index::class_members::is_value_of(&s, *n, &m.name, &|c| lift.classes.iter().any(|h| h.name == c))
            };
            let Some(n) = s.tree.ids().find(value) else { continue };
            let message = format!("nothing tells the `{}` of one class from that of another by it", m.name);
            out.push(reason(&s, n, Code::UsedAsValue, message));
        }
    }
    out
}

/// No class above, between or beside has another one of the name.
fn above(lift: &Lift, name: &str) -> Found<()> {
    let first = lift.first();
    let at = first.member(name).map_or(first.class, |m| m.nodes[0]);
    let Base::There { class, between, .. } = &lift.base else {
        return Ok(());
    };
    let told = |c: &Ancestor, what: &str| {
        let name_of = c.source.tree.child(c.node, Field::Name).map_or("", |n| c.source.str(n));
        refuse(&first.s, at, Code::Overridden, format!("`{name_of}`{what} has a `{name}` of its own"))
    };
    if let Some(c) = between.iter().flatten().find(|c| c.has_member(name)) {
        return told(c, ", in between,");
    }
    let chain = ancestry::of(lift.project, &class.source, class.node);
    if let Some(c) = chain.iter().find(|c| c.has_member(name)) {
        return told(c, "");
    }
    // what answers for all names would be asked for this one no more
    let answers = |s: &Source, n: NodeId| declared(s, n).iter().any(|d| lift.of.answering().contains(&d.name.as_str()));
    let around = lift.around(&lift.base.name());
    let asked = chain.iter().map(|c| (&c.source, c.node)).chain(around.iter().map(|c| (&c.source, c.node)));
    if let Some((s, n)) = asked.into_iter().find(|(s, n)| answers(s, *n)) {
        return refuse(
            s,
            n,
            Code::InheritedName,
            format!("this class answers for names that it has not, `{name}` perhaps among them"),
        );
    }
    let definitions = |s: &Source, name: &str| lift.project.definition(s, name);
    let last = chain.last().unwrap_or(class);
    let open = bases::of(&last.source, last.node);
    let unknown = open.iter().find(|b| !last.source.lang.harmless_bases().contains(&last.source.str(**b)));
    if unknown.is_some() || last.source.lang.may_inherit(&last.source, last.node, name, &definitions) {
        let message = format!("what `{}` extends outside the project may have a `{name}` of its own", lift.base.name());
        return refuse(&first.s, at, Code::InheritedName, message);
    }
    Ok(())
}

impl Lift<'_> {
    pub(super) fn is_new_file(&self) -> bool {
        self.project.is_new(self.base.file())
    }

    fn holds(&self, s: &Source, class: NodeId) -> bool {
        self.classes.iter().any(|h| h.s.path == s.path && h.class == class)
    }

    /// The classes that have another one's name in their files, and those that extend these.
    fn around(&self, name: &str) -> Vec<Class> {
        let mut all = with_word(self.project, name, self.first().s.lang).to_vec();
        all.retain(|c| c.source.tree.role(c.node) == Role::Class);
        all
    }
}

/// What others would see of it.
pub(super) fn others(lift: &Lift) -> Found<Vec<Reason>> {
    diamonds(lift)?;
    let mut out = when_defined(lift)?;
    out.extend(as_values(lift));
    beside(lift)?;
    if !lift.base.is_new() {
        for m in &lift.first().members {
            out.extend(asked_for(lift, &m.name));
        }
    }
    let lang = lift.first().s.lang;
    let asking: &[&str] = if lift.base.is_new() { lift.of.asking_words() } else { &[] };
    let mut listed = Vec::new();
    for word in lift.of.own_listing_words().iter().chain(asking) {
        for (_, s) in crate::index::with_word(lift.project, word, lang) {
            let t = &s.tree;
            let of_object = |n: NodeId| {
                let member = t.parent(n).filter(|m| t.role(*m) == Role::Member);
                member
                    .and_then(|m| t.child(m, Field::Object))
                    .is_some_and(|o| s.lang.is_receiver(s.str(o)) && !s.lang.is_class_receiver(s.str(o)))
            };
            let says = |n: &NodeId| t.is_leaf(*n) && s.str(*n) == *word && !of_object(*n);
            let Some(n) = t.ids().find(says) else { continue };
            let message = "what this says of classes does not depend on where their members are declared";
            listed.push(reason(&s, n, Code::LookedUp, message));
        }
    }
    listed.truncate(unseen::MOST_PLACES);
    out.extend(listed);
    Ok(out)
}

/// The classes that get the members and had them not.
pub(super) fn also(lift: &Lift, narrow: bool) -> Found<Option<String>> {
    let Base::There { class, .. } = &lift.base else { return Ok(None) };
    let mut names: Vec<String> = Vec::new();
    for c in lift.around(&lift.base.name()) {
        let chain = ancestry::of(lift.project, &c.source, c.node);
        let Some(at) = chain.iter().position(|a| a.is(&class.source, class.node)).filter(|i| *i > 0) else { continue };
        let has = chain[..at].iter().any(|a| lift.holds(&a.source, a.node));
        let own = |d: &str| lift.first().member(d).is_some();
        if !has && !declared(&c.source, c.node).iter().any(|d| own(&d.name)) {
            names.extend(c.source.tree.child(c.node, Field::Name).map(|n| c.source.str(n).to_string()));
        }
    }
    names.sort();
    names.dedup();
    let more = match names.len() {
        0 => return Ok(None),
        1 => format!("`{}` gets", names[0]),
        n => format!("`{}` and {} more get", names[0], n - 1),
    };
    let told = format!("{more} the same from `{}`", lift.base.name());
    if narrow && names.len() > lift.classes.len() {
        let message = format!("{told}, and had none; `ufold lift` does it all the same");
        return Err(vec![reason(&class.source, class.node, Code::LittleGain, message)]);
    }
    Ok(Some(told))
}

/// A class that comes to the members in two ways looks for them in another order.
fn diamonds(lift: &Lift) -> Found<()> {
    let base = match &lift.base {
        Base::There { class, .. } => Some(class),
        Base::New { .. } => None,
    };
    for h in &lift.classes {
        for c in lift.around(&h.name) {
            let bases = bases::of(&c.source, c.node);
            if bases.len() < 2 {
                continue;
            }
            let reaches = |b: &NodeId| {
                let Some(d) = unseen::definition_of(lift.project, &c.source, *b) else { return false };
                let all = bases::with_bases(lift.project, d);
                all.iter().any(|(s, n)| lift.holds(s, *n) || base.is_some_and(|b| b.is(s, *n)))
            };
            if bases.iter().filter(|b| reaches(b)).count() > 1 {
                let message = format!("this class extends `{}` and another one by which it would get the same", h.name);
                return Err(vec![reason(&c.source, c.node, Code::Overridden, message)]);
            }
        }
    }
    Ok(())
}

/// Where types tell which member is meant, another one of the name in a class beside must be one by the same words in its
/// head; what was private could be none of these.
fn beside(lift: &Lift) -> Found<()> {
    if !lift.first().s.lang.needs_types() {
        return Ok(());
    }
    let base = match &lift.base {
        Base::There { class, .. } => Some(class),
        Base::New { .. } => None,
    };
    let head = |s: &Source, n: NodeId| {
        let t = &s.tree;
        let end = t.child(n, Field::Body).map_or(t.span(n).end, |b| t.span(b).start);
        let words = t
            .subtree(n)
            .filter(|x| t.is_leaf(*x) && t.span(*x).end <= end && t.ancestor(*x, &[Role::Decorator]).is_none());
        words.map(|x| s.str(x).to_string()).collect::<Vec<_>>()
    };
    let names = lift.classes.iter().map(|h| h.name.clone()).chain(base.map(|_| lift.base.name()));
    for c in names.flat_map(|name| lift.around(&name)) {
        let chain = ancestry::of(lift.project, &c.source, c.node);
        let gets = |a: &Ancestor| lift.holds(&a.source, a.node) || base.is_some_and(|b| b.is(&a.source, a.node));
        if lift.holds(&c.source, c.node) || !chain.iter().skip(1).any(gets) {
            continue;
        }
        for d in declared(&c.source, c.node) {
            let first = lift.first();
            let Some(m) = first.member(&d.name) else { continue };
            let one = d.nodes.len() == 1 && m.nodes.len() == 1;
            let functions = is_function(&c.source, d.nodes[0]) && is_function(&first.s, m.nodes[0]);
            let alike = one && functions && head(&c.source, d.nodes[0]) == head(&first.s, m.nodes[0]);
            if !alike || first.s.lang.hides_member(&first.s, m.nodes[0]) {
                let message = format!(
                    "`{}` has another `{}`",
                    c.source.tree.child(c.node, Field::Name).map_or("", |n| c.source.str(n)),
                    d.name
                );
                return Err(vec![reason(&c.source, d.nodes[0], Code::Overridden, message)]);
            }
        }
    }
    Ok(())
}

/// Code that asks whether an object has the member: of others that extend the base it will have it.
fn asked_for(lift: &Lift, name: &str) -> Vec<Reason> {
    let lang = lift.first().s.lang;
    let mut out = unseen::lookups(lift.project, name, unseen::Within::Speakers(lang));
    for (_, s) in crate::index::with_word(lift.project, name, lang) {
        let t = &s.tree;
        let asks = |n: &NodeId| match t.role(*n) {
            Role::Literal => looked_up(&s, *n, name).is_some(),
            Role::MemberName if s.str(*n) == name => {
                let member = t.parent(*n).filter(|m| t.role(*m) == Role::Member);
                // one that has it anyway asks for nothing
                let own = |m: NodeId| {
                    let receiver = t.child(m, Field::Object).is_some_and(|o| s.lang.is_receiver(s.str(o)));
                    receiver && lift.classes.iter().any(|h| h.s.path == s.path && t.contains(h.class, m))
                };
                let asks = |m: NodeId| match t.field(m) {
                    Field::Left => true,
                    Field::Callee => t.ancestor(m, &[Role::Try]).is_some(),
                    _ => tested(&s, m) || t.ancestor(m, &[Role::Try]).is_some(),
                };
                !s.lang.needs_types() && member.is_some_and(|m| asks(m) && !own(m))
            }
            _ => false,
        };
        out.extend(t.ids().find(asks).map(|n| {
            let message = format!("`{name}` is not asked for here of objects that get it now");
            reason(&s, n, Code::LookedUp, message)
        }));
    }
    out
}

/// A value on which something depends.
fn tested(s: &Source, n: NodeId) -> bool {
    let t = &s.tree;
    let around = t.ancestors(n).take_while(|a| !t.role(*a).is_sequence());
    std::iter::once(n).chain(around).any(|a| {
        matches!(t.role(a), Role::BoolOp | Role::NotOp | Role::Compare | Role::Conditional | Role::UnaryOp)
            || t.field(a) == Field::Condition
    })
}
