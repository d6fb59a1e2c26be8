//! Values that classes have for their objects now: each stands in place of literals with that very text, which functions of
//! the class itself ask their own object for; nobody else has the name, and all other code is as it was.

use super::file::File;
use super::{Objection, Opinion, object};
use crate::change::{Change, Code};
use crate::index::class_members::{body, declared_words, head};
use crate::index::class_values::{Foreign, for_others, is_value, made_by};
use crate::index::method::method;
use crate::index::{Project, ancestry, unseen};
use crate::lang::MethodKind;
use crate::names::Source;
use crate::tree::{Field, NodeId, Role, Tree};

/// A literal that became a question for a member: the class before and after, the literal, and the member.
struct Asked {
    classes: (NodeId, NodeId),
    literal: NodeId,
    member: NodeId,
}

struct Walk<'a> {
    change: &'a Change<'a>,
    f: &'a File,
    names: &'a [String],
    asked: Vec<Asked>,
    /// Declarations that came, by their class and name.
    declared: Vec<(NodeId, NodeId, String)>,
}

pub(super) fn run(project: &Project, names: &[String], change: &Change, files: &[File]) -> Opinion<()> {
    let nowhere = |message: &str| Objection { message: message.into(), file: String::new(), line: 1 };
    if let Some(n) = names.iter().find(|n| project.word_elsewhere(n, &[])) {
        return Err(nowhere(&format!("`{n}` is in use already")));
    }
    let mut many = 0;
    for f in files {
        let mut w = Walk { change, f, names, asked: Vec::new(), declared: Vec::new() };
        let of = |s: &Source| s.tree.children(Tree::ROOT).collect::<Vec<_>>();
        w.lists((&of(&f.old), &of(&f.new)), None, Tree::ROOT)?;
        w.check(project)?;
        many += w.asked.len();
    }
    for n in names {
        let lookups = unseen::lookups(project, n, unseen::Within::Speakers(files[0].old.lang));
        if lookups.iter().any(|r| !change.result.reasons.contains(r)) {
            return Err(nowhere(&format!("what is looked up by texts may be `{n}`: this is not told")));
        }
    }
    if many == 0 { Err(nowhere("no value became a class's")) } else { Ok(()) }
}

impl Walk<'_> {
    fn lists(&mut self, (a, b): (&[NodeId], &[NodeId]), around: Option<(NodeId, NodeId)>, at: NodeId) -> Opinion<()> {
        if a.len() != b.len() {
            return object(&self.f.old, at, "code is missing, or was added");
        }
        a.iter().zip(b).try_for_each(|(x, y)| self.node(*x, *y, around))
    }

    fn node(&mut self, a: NodeId, b: NodeId, around: Option<(NodeId, NodeId)>) -> Opinion<()> {
        let (o, s) = (&*self.f.old, &*self.f.new);
        let (t, n) = (&o.tree, &s.tree);
        if t.role(a) == Role::Class && n.role(b) == Role::Class {
            return self.class(a, b);
        }
        if t.role(a) == Role::Literal && t.is_leaf(a) && n.role(b) == Role::Member && t.field(a) == n.field(b) {
            let Some(classes) = around else { return object(o, a, "this stands in no class") };
            self.asked.push(Asked { classes, literal: a, member: b });
            return Ok(());
        }
        if t.role(a) != n.role(b) || t.field(a) != n.field(b) || t.is_leaf(a) != n.is_leaf(b) {
            return object(o, a, "this is put together in another way now");
        }
        if t.is_leaf(a) {
            return if o.str(a) == s.str(b) { Ok(()) } else { object(o, a, "another word stands here") };
        }
        let of = |t: &Tree, n: NodeId| t.children(n).collect::<Vec<_>>();
        self.lists((&of(t, a), &of(n, b)), around, a)
    }

    /// A class got declarations of the names, and nothing else.
    fn class(&mut self, a: NodeId, b: NodeId) -> Opinion<()> {
        let (o, s) = (&*self.f.old, &*self.f.new);
        let (olds, mut news) = (body(&o.tree, a), body(&s.tree, b));
        for n in news.clone() {
            let words = declared_words(s, n);
            let named = self.names.iter().find(|x| words.iter().any(|w| s.str(*w) == **x));
            if let Some(name) = named {
                if self.declared.iter().any(|(c, _, x)| *c == b && x == name) {
                    return object(s, n, format!("`{name}` is declared twice"));
                }
                self.declared.push((b, n, name.clone()));
                news.retain(|x| *x != n);
            }
        }
        self.lists((&head(o, a), &head(s, b)), None, a)?;
        self.lists((&olds, &news), Some((a, b)), a)
    }

    fn check(&self, project: &Project) -> Opinion<()> {
        let s = &*self.f.new;
        self.asked.iter().try_for_each(|x| self.asked(project, x))?;
        for (class, n, name) in &self.declared {
            let used = |x: &Asked| {
                let word = s.tree.child(x.member, Field::Member);
                x.classes.1 == *class && word.is_some_and(|w| s.str(w) == name)
            };
            if !self.asked.iter().any(used) {
                return object(s, *n, format!("nothing asks for `{name}`"));
            }
        }
        Ok(())
    }

    fn asked(&self, project: &Project, x: &Asked) -> Opinion<()> {
        let (o, s) = (&self.f.old, &*self.f.new);
        let (t, n) = (&o.tree, &s.tree);
        let refuse = |message: &str| object(o, x.literal, message);
        let (own, word) = (n.child(x.member, Field::Object), n.child(x.member, Field::Member));
        let Some((own, word)) = own.zip(word) else { return refuse("this asks nobody for a value") };
        let name = s.str(word);
        let declared = self.declared.iter().find(|(c, _, d)| *c == x.classes.1 && d == name);
        let Some((_, declaration, _)) = declared else { return refuse("its class has no such value") };
        let form = o.lang.bases().and_then(|of| of.value_of_class(s, name, o.str(x.literal)));
        let words = |text: &str| text.split_whitespace().collect::<String>();
        let literals = n.subtree(*declaration).filter(|l| n.role(*l) == Role::Literal);
        // blanks in a text are not to be passed over
        let text = literals.map(|l| s.str(l)).eq([o.str(x.literal)]);
        if !text || form.is_none_or(|f| words(&f.0) != words(s.str(*declaration).trim_end_matches(';'))) {
            return refuse("the value of the class is another one");
        }
        if !is_value(o, x.literal) {
            return refuse("no member can stand here");
        }
        // the object of a function that the class itself declares
        let function = t.callable_around(x.literal);
        let m = function.and_then(|f| method(o, f, o.names.scope_of(f)?).map(|m| (f, m)));
        let Some((f, m)) = m.filter(|(_, m)| m.class == x.classes.0 && m.kind == MethodKind::Instance) else {
            return refuse("the function has no object of the class");
        };
        let makes = o.lang.bases().is_some_and(|of| of.is_constructor(o, f)) && o.lang.object_word().is_some();
        if makes {
            return refuse("the object may not be there yet");
        }
        let direct = t.parent(f).and_then(|b| t.parent(b)) == Some(m.class);
        let named = match o.lang.object_word() {
            Some(w) => s.str(own) == w,
            None => m.receiver.is_some_and(|b| o.names.binding(b).name == s.str(own) && o.names.binding(b).writes == 1),
        };
        if !direct || !named || !n.is_leaf(own) {
            return refuse("another object is asked");
        }
        self.seen_by_nobody(project, x, f)
    }

    /// Who makes the class, or watches its members, does nothing with one more; the function is asked of its objects.
    fn seen_by_nobody(&self, project: &Project, x: &Asked, function: NodeId) -> Opinion<()> {
        let (o, class) = (&self.f.old, x.classes.0);
        let told = |code: Code, o: &Source, n: NodeId| {
            let line = o.line(n);
            self.change.result.reasons.iter().any(|r| r.code == code && r.file == o.path && r.line == line)
        };
        if let Some((h, n)) = made_by(project, o, class).into_iter().find(|(h, n)| !told(Code::LookedUp, h, *n)) {
            return object(&h, n, "what makes this class may see the value");
        }
        if ancestry::is_watched(project, o, class) {
            return object(o, class, "the class sees each look at a member");
        }
        let untold = |x: &Foreign| x.sure || !told(Code::UsedAsValue, &x.source, x.node);
        match for_others(project, o, function).into_iter().find(untold) {
            Some(x) => object(&x.source, x.node, "the function may get another object"),
            None => Ok(()),
        }
    }
}
