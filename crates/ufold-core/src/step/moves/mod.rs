//! `move`: functions, classes and values of a file's own level go to another file, with what only they use, and all
//! imports follow.
//!
//! The old file imports what it still uses itself, and what somebody may get from it whom nobody can see: public names
//! of a package, names that are looked up by texts, modules that are handed on. What must hold is that the names in
//! the moved code mean there what they mean here, that nothing is done when it is defined, and that no files come to
//! load each other. Fails where a value is given again later: an import has what it was at first.

mod classes;
mod definitions;
mod importers;
mod kept;
mod loads;
mod members;
mod needed;
mod placed;
mod thinned;
mod through;

use std::sync::Arc;

use serde::{Deserialize, Serialize};

pub(super) use self::definitions::{Definition, Moved, changed_when_loaded, definitions};
pub(super) use self::members::{class_of_file, may_go};
use crate::change::{Claim, Code, Edits, Found, Outcome, Place, Reason, Verdict, reason};
use crate::find::paths::is_test;
use crate::index::Project;
use crate::names::Source;
use crate::plan::emptied::with_emptied;
use crate::plan::outside::of_new_file;
use crate::step::{Plan, Request, Step};
use crate::tree::{Field, NodeId, Tree};

/// What a person may edit of a move.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct MoveRequest {
    /// The place as it was typed, for messages.
    pub finding: String,
    /// The names of the definitions, all of one file.
    pub places: Vec<Place>,
    /// The file that they go to, relative to the root; it is made where it is not there.
    pub to: String,
    /// The old file does not pass a name on only because somebody unseen may import it from there.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub no_stay: bool,
}

impl Step for MoveRequest {
    fn finding(&self) -> &str {
        &self.finding
    }

    fn places(&self) -> &[Place] {
        &self.places
    }

    fn new_files(&self) -> Vec<&str> {
        vec![&self.to]
    }

    fn claim(&self) -> Claim {
        let from = self.places.first().map_or(String::new(), |p| p.file.clone());
        Claim::Moved { from, to: self.to.clone() }
    }

    fn title(&self, _: &Outcome) -> String {
        format!("Move {} to {}", self.finding, self.to)
    }

    fn plan(&self, project: &Project) -> Plan {
        Plan::of(project, Request::Move(self.clone()), run(project, self))
    }
}

/// From where to where, and what.
struct Move<'a> {
    project: &'a Project<'a>,
    from: Arc<Source>,
    home: usize,
    to: Arc<Source>,
    target: usize,
    /// The new file, or where there is nothing in it one of its name that is like the old one: to write as that does.
    style: Arc<Source>,
    moved: Moved,
}

fn run(project: &Project, request: &MoveRequest) -> Found<Outcome> {
    let first = &request.places[0];
    let from = project.source_at(first)?;
    let refuse = |code: Code, message: String| {
        Err(vec![Reason { code, message, file: first.file.clone(), line: first.start_line }])
    };
    if request.places.iter().any(|p| p.file != first.file) {
        return refuse(Code::NotAName, "what is moved at once stands in one file".into());
    }
    let class = classes::pointed_at(&from, &request.places).filter(|_| from.names.members_in_sight);
    if let Some(class) = class {
        return classes::run(project, request, from.clone(), class);
    }
    if from.names.members_in_sight {
        return members::run(project, request, from.clone());
    }
    let home = project.index(&from.path).expect("a planned file was scanned");
    let Some(target) = project.index(&request.to) else {
        return refuse(Code::NoHome, format!("{} is no source file that could be made there", request.to));
    };
    let to = project.source(target).map_err(|e| vec![reason(&from, Tree::ROOT, Code::Unreadable, e)])?;
    fits(project, (&from, home), (&to, target))?;
    let moved = definitions::find(project, &from, home, &request.places)?;
    let style = match to.tree.children(Tree::ROOT).next() {
        Some(_) => to.clone(),
        None => {
            let like = project.parse(&to.path, from.text.clone());
            Arc::new(like.map_err(|e| vec![reason(&from, Tree::ROOT, Code::Unreadable, e)])?)
        }
    };
    Move { project, from, home, to, target, style, moved }.outcome(request.no_stay)
}

/// The two files are of one kind, and can import each other.
fn fits(project: &Project, (from, home): (&Source, usize), (to, target): (&Source, usize)) -> Found<()> {
    let refuse = |why: String| Err(vec![reason(from, Tree::ROOT, Code::NoHome, why)]);
    let extension = |path: &str| path.rsplit_once('.').map(|p| p.1.to_string());
    let (a, b) = (&project.facts[home], &project.facts[target]);
    if home == target {
        return refuse(format!("it stands in {} already", to.path));
    }
    if b.language != a.language || extension(&a.path) != extension(&b.path) {
        return refuse(format!("{} is no file of the same kind as {}", to.path, from.path));
    }
    let names = project.modules().name(home).zip(project.modules().name(target));
    let same = names.is_some_and(|(a, b)| a.base == b.base);
    let system = a.module_system.is_some() && a.module_system == b.module_system;
    if !same || !system || !to.lang.can_export(to) {
        return refuse(format!("{} and {} are no modules that import each other by name", from.path, to.path));
    }
    if is_test(&b.path) && !is_test(&a.path) {
        return refuse(format!("{} is test code", to.path));
    }
    if !to.tree.errors().is_empty() {
        return refuse(format!("{} can't be parsed as a whole", to.path));
    }
    if to.names.wildcard {
        return refuse(format!("{} imports all names of another file, which could be others than these", to.path));
    }
    Ok(())
}

impl Move<'_> {
    fn outcome(&self, no_stay: bool) -> Found<Outcome> {
        let (mut edits, mut assumed, mut remarks) = (Edits::default(), Vec::new(), Vec::new());
        assumed.extend(self.when_loaded());
        if self.project.is_new(self.target) {
            assumed.extend(of_new_file(self.project, &self.from, self.target, &[self.home])?);
        }
        let needed = needed::find(self)?;
        let users = importers::find(self);
        let through = through::of_project(self, &users);
        let kept = kept::find(self, (&users, &through), no_stay)?;
        assumed.extend(kept.assumed.clone());
        remarks.extend(kept.remarks.clone());
        for u in users.iter().filter(|u| u.file != self.target) {
            importers::edits(self, u)?.into_iter().for_each(|e| edits.add(&u.source, e));
        }
        for (_, s, t) in through {
            t.edits.into_iter().for_each(|e| edits.add(&s, e));
        }
        placed::left(self, &kept)?.into_iter().for_each(|e| edits.add(&self.from, e));
        placed::put(self, &kept, &users, &needed)?.into_iter().for_each(|e| edits.add(&self.to, e));
        let (files, saves) = edits.finish();
        let mut outcome = Outcome { files, saves, ..Outcome::refused(Vec::new()) };
        assumed.extend(loads::compared(self, (&kept, &needed), &outcome)?);
        assumed.extend(needed.assumed);
        outcome.verdict = if assumed.is_empty() { Verdict::Ready } else { Verdict::Assumed };
        outcome.reasons = assumed;
        outcome.remarks = self.moved.along().into_iter().chain(remarks).collect();
        Ok(with_emptied(self.project, &self.from, outcome))
    }

    fn names(&self) -> impl Iterator<Item = &str> {
        self.moved.all.iter().flat_map(|d| d.names.iter().map(|(_, n)| n.as_str()))
    }

    /// What the moved code does when it is defined, which is done with the other file then.
    fn when_loaded(&self) -> Vec<Reason> {
        let s = &self.from;
        let acts = self.moved.all.iter().flat_map(|d| crate::index::loading::acts(self.project, s, d.statement));
        let message = "what this does when its file is loaded may be done with the other file, and in another order";
        acts.map(|n| reason(s, n, Code::ImportEffects, message)).collect()
    }
}

fn class_name(s: &Source, class: NodeId) -> &str {
    s.tree.child(class, Field::Name).map_or("", |n| s.str(n))
}

/// The first word of the packages in which the project's classes are, where the files have no such name.
fn begins_a_path(project: &Project, files: &[&Source], name: &str) -> bool {
    let modules = project.modules();
    let mut all = (0..project.facts.len()).filter_map(|f| modules.name(f));
    files.iter().all(|s| s.names.in_module(name).is_none())
        && all.any(|x| x.package().first().is_some_and(|p| p == name))
}
