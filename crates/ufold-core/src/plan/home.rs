//! A place that could take the new function, and what every such place must allow.

use std::sync::Arc;

use rustc_hash::FxHashSet;

use crate::change::{Code, Reason};
use crate::find::paths::is_test;
use crate::index::Project;
use crate::lang::Reach;
use crate::names::{ImportRef, Source};
use crate::plan::region::Portion;
use crate::tree::{NodeId, Tree};

/// Places of one assumption about many files.
const MOST_ASSUMED: usize = 12;

/// A place that could take the function.
#[derive(Clone)]
pub struct Home {
    /// Index of the file in the project.
    pub file: usize,
    /// Index of the site whose text becomes the body: the first one in the file.
    pub template: usize,
    /// The class, when it becomes a method.
    pub class: Option<NodeId>,
    /// As a member of the class it needs no object.
    pub is_static: bool,
    /// The name by which code outside the class calls it.
    pub called_by: Option<String>,
    pub reach: Reach,
    /// The function around its sites, when it becomes a function inside that.
    pub nest: Option<NodeId>,
    /// The file, when no site is in it.
    pub outside: Option<Arc<Source>>,
    /// Bare names, by their copies, that the home's class hands down to those of the copies.
    pub handed: FxHashSet<(usize, NodeId)>,
    pub assumptions: Vec<Reason>,
}

impl Home {
    /// A place in a file.
    pub fn new(file: usize, template: usize, assumptions: Vec<Reason>) -> Home {
        Home {
            file,
            template,
            class: None,
            is_static: false,
            called_by: None,
            reach: Reach::Own,
            nest: None,
            outside: None,
            handed: FxHashSet::default(),
            assumptions,
        }
    }

    /// A method that is called on the object of its class.
    pub fn takes_object(&self) -> bool {
        self.class.is_some() && !self.is_static
    }

    /// The file that gets the function.
    pub fn source<'a>(&'a self, sites: &'a [Portion]) -> &'a Source {
        self.outside.as_deref().unwrap_or(sites[self.template].source())
    }
}

/// What keeps the code where it is: a variable of its module that it writes, a name that only its class sees.
pub fn bound_to_its_place(sites: &[Portion], one_file: bool, one_class: bool) -> Option<Reason> {
    let say =
        |s: &Portion, at: NodeId, code: Code, message: String| crate::change::reason(s.source(), at, code, message);
    if let Some(site) = sites.iter().find(|s| !one_file && !s.written_of_module().is_empty()) {
        let name = &site.source().names.binding(site.written_of_module()[0]).name;
        let message =
            format!("`{name}` is a variable of this module and is written here, and other copies are in other files");
        return Some(say(site, site.region.first, Code::RebindsOuter, message));
    }
    let (site, at) = sites.iter().find_map(|s| Some((s, s.needs_class()?))).filter(|_| !one_class)?;
    let message = "this name means something else outside its class, and the copies are not all in one class";
    Some(say(site, at, Code::NeedsClass, message.into()))
}

pub fn no_home(project: &Project, file: usize, message: &str) -> Reason {
    Reason { code: Code::NoHome, message: message.into(), file: project.facts[file].path.clone(), line: 1 }
}

/// A file loads another one before it does anything else, so that all its code sees what that defines.
fn loaded_before(project: &Project, other: usize, home: usize) -> Result<Option<Reason>, String> {
    let (from, to) = (&project.facts[other], &project.facts[home]);
    let (s, there) = (project.source(other)?, project.source(home)?);
    if is_test(&to.path) && !is_test(&from.path) {
        return Err(format!("{} is test code", to.path));
    }
    let m = project.modules();
    let t = &s.tree;
    let head = t.children(Tree::ROOT).take_while(|n| s.lang.is_plain_top_level(t, *n, &s.text));
    let imports: Vec<_> = head.flat_map(|n| s.lang.loaded_by(t, n, &s.text)).collect();
    let leads = |i: &&ImportRef| i.level > 0 && project.resolved(&s, i).iter().any(|f| *f == home || m.loads(*f, home));
    let Some(import) = imports.iter().find(leads) else {
        return Err(format!("{} does not load {} before all else", from.path, to.path));
    };
    if s.lang.said_package(&s) != there.lang.said_package(&there) {
        return Err(format!("{} is of another name space than {}", to.path, from.path));
    }
    let message = format!("{} loads `{}` from its own folder", from.path, import.module);
    // what is loaded on the way may end before it loads more
    let sure = import.level == 1 && project.resolved(&s, import).contains(&home);
    Ok((!sure).then(|| Reason { code: Code::ImportPath, message, file: from.path.clone(), line: 1 }))
}

/// Whether all other files can import from `home`, and what that assumes.
pub fn importable(project: &Project, home: usize, files: &[usize]) -> Result<Vec<Reason>, Reason> {
    let m = project.modules();
    let mut assumptions = Vec::new();
    let reached = m.reached(home);
    let loaders = m.loaders(home);
    for other in files.iter().copied().filter(|f| *f != home) {
        let (from, to) = (&project.facts[other], &project.facts[home]);
        let refuse = |why: String| Err(no_home(project, other, &why));
        if project.source(home).is_ok_and(|s| s.lang.shares_by_loading()) {
            assumptions.extend(loaded_before(project, other, home).map_err(|why| no_home(project, other, &why))?);
            continue;
        }
        let (Some(a), Some(b)) = (m.name(other), m.name(home)) else {
            return refuse(format!("{} can't be imported, or can't import", to.path));
        };
        if to.module_system.is_none() || to.module_system != from.module_system {
            return refuse(format!("{} and {} are no modules that import each other by name", from.path, to.path));
        }
        if project.source(home).is_ok_and(|s| !s.lang.can_export(&s)) {
            return refuse(format!("{} exports something that gets no other members", to.path));
        }
        if a.base != b.base {
            return refuse(format!("{} and {} are imported from different folders", from.path, to.path));
        }
        if is_test(&to.path) && !is_test(&from.path) {
            return refuse(format!("{} is test code", to.path));
        }
        if reached.contains(&other) {
            return refuse(format!("{} already imports {}", to.path, from.path));
        }
        if loaders.contains(&other) {
            continue;
        }
        if is_test(&to.path) && !to.plain {
            return refuse(format!("loading {} would run its tests", to.path));
        }
        let needs = m.new_needs(other, home);
        if !needs.is_empty() {
            return refuse(format!("importing {} would make {} need {}", to.path, from.path, needs.join(", ")));
        }
        let assume = |code: Code, message: String| Reason { code, message, file: from.path.clone(), line: 1 };
        if !to.plain && assumptions.len() < MOST_ASSUMED {
            assumptions
                .push(assume(Code::ImportEffects, format!("loading {} has no effect that can be seen", to.path)));
        }
        let sure = a.in_package && b.in_package || m.is_imported_from(&a.base);
        if !sure && assumptions.len() < MOST_ASSUMED {
            assumptions.push(assume(Code::ImportPath, format!("{} can be imported by its bare name", to.path)));
        }
    }
    Ok(assumptions)
}
