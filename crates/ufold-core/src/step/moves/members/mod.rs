//! `move` where functions are members of classes: static functions and fields go to another class, there or new, with what
//! only they use, and all uses name the new class.
//!
//! What must hold is that each name in the moved code means there what it means here (members of the old class are named
//! by it then), that whoever names them sees the new class and nothing else of its name, that no class related to the new
//! one has the name for anything, and that nothing is seen of when classes are made ready. Fails (refuses) for what needs
//! an object, for one of several functions of a name when another stays an object's, and for uses through objects.

mod chosen;
mod comments;
mod inside;
mod new_class;
mod users;
mod written;

use std::sync::Arc;

use self::chosen::Member;
pub(in crate::step) use self::chosen::may_go;
use super::{MoveRequest, begins_a_path, class_name as name_of};
use crate::change::{Code, Edits, Found, Outcome, Reason, Verdict, reason};
use crate::find::paths::is_test;
use crate::index::Project;
use crate::index::class_tree::{all_missed_outside, same_class};
use crate::index::constants;
use crate::index::words::stem_of;
use crate::lang::MemberOf;
use crate::names::Source;
use crate::plan::outside::of_new_file;
use crate::tree::{Field, NodeId, Role, Tree};

/// From which class to which one, and what.
struct Moving<'a> {
    project: &'a Project<'a>,
    from: Arc<Source>,
    /// The class that they leave.
    class: NodeId,
    to: Arc<Source>,
    target: usize,
    /// The class that they come to.
    home: NodeId,
    members: Vec<Member>,
}

pub(super) fn run(project: &Project, request: &MoveRequest, from: Arc<Source>) -> Found<Outcome> {
    let refuse = |code: Code, why: String| Err(vec![reason(&from, Tree::ROOT, code, why)]);
    let Some(target) = project.index(&request.to) else {
        return refuse(Code::NoHome, format!("{} is no source file that could be made there", request.to));
    };
    let to = project.source(target).map_err(|e| vec![reason(&from, Tree::ROOT, Code::Unreadable, e)])?;
    let class = chosen::class_of(&from, &request.places)?;
    let stem = stem_of(&to.path);
    if project.is_new(target) && !from.lang.is_identifier(stem) {
        return refuse(Code::NoHome, format!("`{stem}` can't be the name of a class"));
    }
    let none = || vec![reason(&from, Tree::ROOT, Code::NoHome, format!("{} has no class of its name", to.path))];
    let home = class_of_file(&to).ok_or_else(none)?;
    let mut m = Moving { project, from: from.clone(), class, to, target, home, members: Vec::new() };
    m.fits()?;
    chosen::find(&mut m, &request.places)?;
    m.outcome()
}

/// The class of a file that code can come to: that of the file's name, or the only one.
pub(in crate::step) fn class_of_file(s: &Source) -> Option<NodeId> {
    let t = &s.tree;
    let classes: Vec<NodeId> = t.children(Tree::ROOT).filter(|c| t.role(*c) == Role::Class).collect();
    let stem = stem_of(&s.path);
    let named = classes.iter().copied().find(|c| t.child(*c, Field::Name).is_some_and(|n| s.str(n) == stem));
    named.or_else(|| classes.first().copied().filter(|_| classes.len() == 1))
}

impl Moving<'_> {
    /// The name of the class that they come to.
    fn new_name(&self) -> &str {
        name_of(&self.to, self.home)
    }

    /// The class by which members of one around the moved code are named elsewhere.
    fn path_of(&self, class: NodeId) -> String {
        let t = &self.from.tree;
        let mut names: Vec<&str> = vec![name_of(&self.from, class)];
        names.extend(t.ancestors(class).filter(|a| t.role(*a) == Role::Class).map(|c| name_of(&self.from, c)));
        names.reverse();
        names.join(".")
    }

    /// A node of the moved code.
    fn holds(&self, s: &Source, n: NodeId) -> bool {
        s.path == self.from.path && self.members.iter().any(|m| s.tree.contains(m.node, n))
    }

    /// A word of the old file that means a member which goes.
    fn is_going(&self, n: NodeId) -> bool {
        let s = &self.from;
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        let own = || s.lang.class_type(s, self.class, &definitions).0;
        let named = self.members.iter().any(|x| x.name == s.str(n));
        named && matches!(s.lang.member_of(s, n, &definitions), MemberOf::Class(c) if same_class(c, own()))
    }

    /// The new class can take members, and is no part of the old one's code.
    fn fits(&self) -> Found<()> {
        let (s, to) = (&self.from, &self.to);
        let refuse = |why: String| Err(vec![reason(s, Tree::ROOT, Code::NoHome, why)]);
        let Some(of) = s.lang.bases() else { return refuse("the language has no classes for this".into()) };
        if s.path == to.path && s.tree.contains(self.home, self.class) {
            let own = self.home == self.class;
            let (class, home) = (name_of(s, self.class), self.new_name());
            return refuse(if own {
                format!("it stands in {home} already")
            } else {
                format!("{class} is a part of {home}")
            });
        }
        let heads = [s, to].map(|s| {
            let says = s.tree.children(Tree::ROOT).filter(|n| s.tree.role(*n) == Role::Doc).map(|n| s.str(n));
            says.collect::<Vec<_>>()
        });
        if (s.package() == to.package()) != (heads[0] == heads[1]) {
            return refuse(format!("{} and {} are not in the packages that their folders say", s.path, to.path));
        }
        let roots = s.module.as_ref().zip(to.module.as_ref());
        if !roots.is_some_and(|(a, b)| s.lang.sees_root(b, a)) {
            return refuse(format!("{} is built from another root, and may not see what the code uses", to.path));
        }
        for (s, class) in [(s, self.class), (to, self.home)] {
            if let Some(why) = of.keeps_to_itself(s, class) {
                return refuse(format!("`{}`: {why}", name_of(s, class)));
            }
        }
        let edition = self.project.edition(to.lang);
        if let Some(why) = to.lang.takes_no_private(to, self.home, edition) {
            return refuse(format!("`{}`: {why}", self.new_name()));
        }
        if !to.tree.errors().is_empty() {
            return refuse(format!("{} can't be parsed as a whole", to.path));
        }
        if is_test(&to.path) && !is_test(&s.path) {
            return refuse(format!("{} is test code", to.path));
        }
        if s.lang.mode(s, self.class) != to.lang.mode(to, self.home) {
            return refuse(format!("{} is read in another mode", to.path));
        }
        let name = self.new_name();
        match self.project.is_new(self.target) && self.project.word_elsewhere(name, &[self.target]) {
            true => refuse(format!("the name `{name}`, which the new class would have, is already in use")),
            false => Ok(()),
        }
    }

    fn outcome(&self) -> Found<Outcome> {
        let mut edits = Edits::default();
        let mut assumed: Vec<Reason> = Vec::new();
        if self.project.is_new(self.target) {
            let home = self.project.index(&self.from.path).expect("a planned file was scanned");
            assumed.extend(of_new_file(self.project, &self.from, self.target, &[home])?);
        }
        let inner = inside::find(self)?;
        assumed.extend(inner.assumed.iter().cloned());
        let users = users::find(self)?;
        assumed.extend(users.assumed.iter().cloned());
        assumed.extend(new_class::check(self, &users)?);
        assumed.extend(self.made_ready(&users));
        written::edits(self, &inner, &users, &mut edits)?;
        let (files, saves) = edits.finish();
        let verdict = if assumed.is_empty() { Verdict::Ready } else { Verdict::Assumed };
        let mut remarks: Vec<String> = self.along().into_iter().collect();
        remarks.extend(inner.opened.iter().map(|o| {
            format!(
                "`{}` of {} is no longer only its own class's",
                self.from.str(o.word),
                name_of(&self.from, self.class)
            )
        }));
        let moved: Vec<_> = self.members.iter().map(|x| (x.node, x.name.as_str())).collect();
        remarks.extend(all_missed_outside(&self.from, &moved));
        Ok(Outcome { verdict, reasons: assumed, remarks, files, saves, ..Outcome::refused(Vec::new()) })
    }

    fn along(&self) -> Option<String> {
        let mut names: Vec<String> = self.members.iter().filter(|m| m.along).map(|m| format!("`{}`", m.name)).collect();
        names.dedup();
        let verb = if names.len() == 1 { "goes" } else { "go" };
        (!names.is_empty()).then(|| format!("{} {verb} along: nothing else uses it", names.join(", ")))
    }

    /// The compiler puts the value of a constant in the place of its name: no class is asked for it.
    fn is_known_value(&self, u: &users::Use) -> bool {
        let named = self.members.iter().find(|x| x.name == u.name);
        named.is_some_and(|x| constants::is_known_value(self.project, &self.from, x.node, x.binding))
    }

    /// A use from outside may be the first of either class, which runs code.
    fn made_ready(&self, users: &users::Users) -> Vec<Reason> {
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        let mut out = Vec::new();
        for (s, class) in [(&self.from, self.class), (&self.to, self.home)] {
            if !s.lang.acts_when_loaded(s, class, &definitions) {
                continue;
            }
            let outside = |u: &&users::Use| {
                !crate::index::class_tree::is_ready_at(s, class, &u.source, u.node) && !self.is_known_value(u)
            };
            let Some(u) = users.all.iter().find(outside) else { continue };
            let message = format!("when `{}` is made ready, which runs code, changes nothing here", name_of(s, class));
            out.push(reason(&u.source, u.node, Code::ImportEffects, message));
        }
        out
    }
}
