//! `move` of a whole class where each has a file of its name: it goes to a new file, in the same or another package.
//!
//! Everything that names it follows: imports, paths, uses by its package alone, comments. What must hold is that all names
//! in the class mean there what they mean here, that each use still means the class, and that what packages keep for
//! themselves is seen by the same code: members open as far as they must, and it is refused where that could choose another
//! overload or make a function override another one, or no more. A class inside another one names what it uses of that by
//! it then. Fails (refuses) for classes whose objects belong to one of the class around them.

mod around;
mod code;
mod opened;
mod places;
mod texts;
mod users;

use std::sync::Arc;

use super::{MoveRequest, begins_a_path, class_name as name_of};
use crate::change::{Code, Edits, Found, Outcome, Place, Reason, Verdict, reason};
use crate::find::paths::is_test;
use crate::index::Project;
use crate::index::class_members::class_named_at;
use crate::index::class_tree::{self, Class, missed_outside};
use crate::index::words::stem_of;
use crate::lang::Bases;
use crate::names::Source;
use crate::plan::outside::of_new_file;
use crate::text::Span;
use crate::tree::{Field, NodeId, Role, Tree};
use crate::types::Ty;

/// Which class goes, and where.
struct Going<'a> {
    /// As it is, without the new file: in its package that would stand for the class already.
    project: &'a Project<'a>,
    with_new: &'a Project<'a>,
    from: Arc<Source>,
    class: NodeId,
    /// The classes around it, from the outermost one.
    outer: Vec<NodeId>,
    own: Ty,
    to: Arc<Source>,
    target: usize,
    /// The packages, as the files say them.
    packages: [Vec<String>; 2],
}

/// The class that is pointed at, where it is one that could have a file of its name.
pub(super) fn pointed_at(s: &Source, places: &[Place]) -> Option<NodeId> {
    let [one] = places else { return None };
    let class = class_named_at(s, Span::new(one.start_byte, one.end_byte))?;
    s.tree.callable_around(class).is_none().then_some(class)
}

pub(super) fn run(project: &Project, request: &MoveRequest, from: Arc<Source>, class: NodeId) -> Found<Outcome> {
    let refuse = |code: Code, why: String| Err(vec![reason(&from, class, code, why)]);
    let name = name_of(&from, class);
    let Some(target) = project.index(&request.to) else {
        return refuse(Code::NoHome, format!("{} is no source file that could be made there", request.to));
    };
    if !project.is_new(target) {
        return refuse(Code::NoHome, format!("{} is there already: `{name}` needs a file of its own", request.to));
    }
    let to = project.source(target).map_err(|e| vec![reason(&from, Tree::ROOT, Code::Unreadable, e)])?;
    let definitions = |s: &Source, name: &str| project.definition(s, name);
    let own = from.lang.class_type(&from, class, &definitions).0;
    let classes = |n: &NodeId| from.tree.role(*n) == Role::Class;
    let mut outer: Vec<NodeId> = from.tree.ancestors(class).filter(classes).collect();
    outer.reverse();
    let packages = [from.lang.said_package(&from), from.lang.said_package(&to)];
    let (with_new, project) = (project, project.as_it_is());
    let g = Going { project, with_new, from: from.clone(), class, outer, own, to, target, packages };
    g.fits()?;
    g.outcome()
}

/// A path from its words.
fn path(packages: &[String], name: &str) -> String {
    packages.iter().map(|p| format!("{p}.")).chain([name.to_string()]).collect()
}

impl Going<'_> {
    fn name(&self) -> &str {
        name_of(&self.from, self.class)
    }

    /// It stays in its package.
    fn near(&self) -> bool {
        self.packages[0] == self.packages[1]
    }

    /// It keeps its path.
    fn same_path(&self) -> bool {
        self.near() && self.outer.is_empty()
    }

    /// The words before its name in its old path.
    fn old_words(&self) -> Vec<String> {
        let outer = self.outer.iter().map(|c| name_of(&self.from, *c).to_string());
        self.packages[0].iter().cloned().chain(outer).collect()
    }

    fn bases(&self) -> &'static dyn Bases {
        self.from.lang.bases().expect("the language has classes")
    }

    /// A node of the class itself.
    fn holds(&self, s: &Source, n: NodeId) -> bool {
        s.path == self.from.path && s.tree.contains(self.class, n)
    }

    /// The class is all the code that its file has.
    fn is_whole(&self) -> bool {
        let t = &self.from.tree;
        let code = |n: &NodeId| !matches!(t.role(*n), Role::Import | Role::ImportFrom | Role::Doc);
        t.children(Tree::ROOT).filter(code).eq([self.class])
    }

    /// The classes that go: it, and those inside.
    fn classes(&self) -> Vec<NodeId> {
        let t = &self.from.tree;
        t.subtree(self.class).filter(|n| t.role(*n) == Role::Class).collect()
    }

    /// Classes above and below one that goes, which stay.
    fn relatives(&self, class: NodeId) -> Vec<Class> {
        let s = &self.from;
        let definitions = |s: &Source, name: &str| self.project.definition(s, name);
        let (ty, above) = s.lang.class_type(s, class, &definitions);
        let home = Class { source: s.clone(), node: class, ty, above };
        let mut out: Vec<Class> = Vec::new();
        let words = bases_and_name(s, class);
        for word in words {
            let classes = class_tree::with_word(self.project, &word, s.lang);
            for c in class_tree::around(&classes, &home).into_iter().filter(|c| !self.holds(&c.source, c.node)) {
                if !out.iter().any(|o| o.source.path == c.source.path && o.node == c.node) {
                    out.push(c.clone());
                }
            }
        }
        out
    }

    /// A file of the package that the class leaves, or of the one that it comes to.
    fn is_of(&self, s: &Source, package: usize) -> bool {
        s.lang.said_package(s) == self.packages[package]
    }

    fn fits(&self) -> Found<()> {
        let (s, to) = (&self.from, &self.to);
        let refuse = |why: String| Err(vec![reason(s, self.class, Code::NoHome, why)]);
        if s.lang.bases().is_none() || !self.own.is_known() {
            return refuse("which class this is can't be told".into());
        }
        if !self.outer.is_empty() && !s.lang.needs_no_object(s, self.class) {
            let why = "its objects belong to one of the class around it".to_string();
            return Err(vec![reason(s, self.class, Code::NeedsClass, why)]);
        }
        if self.outer.iter().any(|c| name_of(s, *c).is_empty()) {
            return refuse("a class around it has no name".into());
        }
        if stem_of(&to.path) != self.name() {
            let right = to.path.replace(&format!("{}.", stem_of(&to.path)), &format!("{}.", self.name()));
            return refuse(format!("a class stands in a file of its name: {right}"));
        }
        if (s.package() == to.package()) != self.near() {
            return refuse(format!("{} and {} are not in the packages that their folders say", s.path, to.path));
        }
        let base = |s: &Source| s.module.as_ref().map(|m| m.base.clone());
        if base(s) != base(to) {
            return refuse(format!("{} is built from another root, and may not see what the class uses", to.path));
        }
        if is_test(&to.path) && !is_test(&s.path) {
            return refuse(format!("{} is test code", to.path));
        }
        if !s.tree.errors().is_empty() {
            return refuse(format!("{} can't be parsed as a whole", s.path));
        }
        let folder = format!("{}/", to.path.rsplit_once('.').map_or("", |p| p.0));
        if self.project.facts.iter().any(|f| f.path.starts_with(&folder)) {
            return refuse(format!("{folder} is a package of that name"));
        }
        let family = self.relatives(self.class);
        let mut all = family.iter().map(|c| (&*c.source, c.node)).chain([(&**s, self.class)]);
        let stays = all.find_map(|(s, c)| self.bases().is_of_its_package(s, c));
        match stays.filter(|_| !self.near()) {
            Some(why) => Err(vec![reason(s, self.class, Code::NeedsClass, why)]),
            None => Ok(()),
        }
    }

    fn outcome(&self) -> Found<Outcome> {
        let file = self.project.index(&self.from.path).expect("a planned file was scanned");
        let mut assumed: Vec<Reason> = of_new_file(self.with_new, &self.from, self.target, &[file])?;
        let users = users::find(self)?;
        assumed.extend(users.assumed.iter().cloned());
        code::check(self)?;
        let around = around::find(self)?;
        let opened = opened::find(self, &users)?;
        assumed.extend(places::find(self));
        let mut edits = Edits::default();
        users::edits(self, &users, &mut edits)?;
        let moved = texts::edits(self, &users, (&opened, &around), &mut edits)?;
        users::mean_it_still(self, &users, &edits, &moved)?;
        let (mut files, saves) = edits.finish();
        if self.is_whole() {
            files.iter_mut().filter(|f| f.file == self.from.path).for_each(|f| f.moves_to = Some(self.to.path.clone()));
        }
        assumed.dedup_by(|a, b| a.message == b.message && a.file == b.file);
        let verdict = if assumed.is_empty() { Verdict::Ready } else { Verdict::Assumed };
        let missed = missed_outside(&self.from, self.class, self.name());
        let said = opened.iter().filter(|o| !o.name.is_empty()).map(|o| o.said(self));
        let mut remarks: Vec<String> = said.chain(around.said(self)).chain(missed).collect();
        // a class and its constructors have one name
        remarks.dedup();
        Ok(Outcome { verdict, reasons: assumed, remarks, files, saves, ..Outcome::refused(Vec::new()) })
    }
}

/// Words by which what is above and below a class is found: its own name, and those that it extends.
fn bases_and_name(s: &Source, class: NodeId) -> Vec<String> {
    let t = &s.tree;
    let made = t.parent(class).and_then(|p| t.child(p, Field::Callee));
    let bases = crate::index::bases::of(s, class).into_iter().chain(made);
    let leaves = bases.flat_map(|b| t.subtree(b)).filter(|n| t.is_leaf(*n) && t.role(*n) != Role::Token);
    let mut out: Vec<String> = leaves.chain(t.child(class, Field::Name)).map(|n| s.str(n).to_string()).collect();
    out.sort();
    out.dedup();
    out
}
