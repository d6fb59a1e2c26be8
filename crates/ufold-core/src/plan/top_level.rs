//! Code at the top level of a file: its variables are the file's, for functions and other files to see.
//!
//! Such code is treated as a function's: what it writes and nobody else reads becomes the new function's own. Who else
//! reads is told by the file itself and by the files that may import it; that nobody outside the project does is an
//! assumption where the language shows such names at all. Fails where names are looked up by texts: told as usual.

use crate::align::Region;
use crate::change::{Code, Reason, reason};
use crate::flow::{Flow, RegionFlow};
use crate::index::users::other;
use crate::index::{Project, unseen};
use crate::names::{BindKind, BindingId, Names, Source};
use crate::tree::{NodeId, Role, Tree};

/// More variables than these are a table, not a program: not followed.
const MOST_VARIABLES: usize = 1000;

/// Why nothing of a file's top level can be followed.
pub(crate) fn too_much(s: &Source) -> Option<&'static str> {
    let many = variables(s).count() > MOST_VARIABLES;
    many.then_some("the file has more variables outside its functions than are followed")
}

/// The place is outside all functions and classes.
pub(crate) fn is_at_top(t: &Tree, first: NodeId) -> bool {
    t.ancestor(first, &[Role::Function, Role::Lambda, Role::Class]).is_none()
}

fn variables(s: &Source) -> impl Iterator<Item = BindingId> + '_ {
    s.names.bindings_of(Names::MODULE).filter(|b| s.names.binding(*b).kind == BindKind::Variable)
}

/// Variables of a file's top level that other files read.
#[derive(Default)]
pub(crate) struct Seen {
    pub by_others: Vec<BindingId>,
    /// By one that may run while the file is being loaded.
    pub meanwhile: Vec<(BindingId, String)>,
    /// Several copies have what they name in common: a variable with one value need not be passed.
    pub is_shared: bool,
    /// Calls that load files which do nothing then but define things.
    pub defining: Vec<NodeId>,
}

impl Seen {
    pub(crate) fn of(project: &Project, s: &Source, is_shared: bool) -> Seen {
        let mut seen = Seen { is_shared, defining: defining(project, s), ..Seen::default() };
        let Some(file) = project.index(&s.path).filter(|_| too_much(s).is_none()) else { return seen };
        let readers = project.modules().reaching(file);
        let reached = project.modules().reached(file);
        let shown: Vec<BindingId> = variables(s).filter(|b| !s.lang.hides(s, *b)).collect();
        for b in shown {
            let reads = |f: &usize| reads(project, file, *f, &s.names.binding(b).name);
            let all: Vec<usize> = readers.iter().copied().chain(beside(project, file)).filter(reads).collect();
            seen.by_others.extend(all.first().map(|_| b));
            let meanwhile = all.into_iter().find(|f| reached.contains(f));
            seen.meanwhile.extend(meanwhile.map(|f| (b, project.facts[f].path.clone())));
        }
        seen
    }
}

/// Calls that load files of the project which only define things, and load no others.
fn defining(project: &Project, s: &Source) -> Vec<NodeId> {
    let t = &s.tree;
    let m = project.modules();
    let plain = |f: &usize| project.facts[*f].plain && m.loaded_by(*f).iter().all(|g| project.facts[*g].plain);
    let only = |n: &NodeId| {
        let import = s.lang.load_of(t, *n, &s.text);
        let files = import.map_or(Vec::new(), |i| project.resolved(s, &i));
        !files.is_empty() && files.iter().all(plain)
    };
    t.ids().filter(|n| t.role(*n) == Role::Call && s.lang.shares_by_loading()).filter(only).collect()
}

/// A file has a name of another one's top level.
fn reads(project: &Project, home: usize, file: usize, name: &str) -> bool {
    if !project.facts[file].has_word(name) {
        return false;
    }
    let Some(o) = other(project, home, file, name) else { return true };
    let free = |n: &NodeId| o.source.tree.is_leaf(*n) && o.source.str(*n) == name && is_free(&o.source, *n);
    let shared = project.facts[home].module_system.is_none() && o.source.tree.ids().any(|n| free(&n));
    let t = &o.source.tree;
    let text = |n: NodeId| t.role(n) == Role::Literal && unseen::looked_up(&o.source, n, name).is_some();
    o.binding.is_some() || shared || o.stray(project, home, name).is_some() || t.ids().any(text)
}

fn is_free(s: &Source, n: NodeId) -> bool {
    s.names.at(n).is_some_and(|r| r.target.is_none_or(|b| s.names.binding(b).scope == Names::MODULE))
}

/// Files that share their top level with this one, as the scripts of one page do.
fn beside(project: &Project, file: usize) -> Vec<usize> {
    let own = &project.facts[file];
    let shares = |f: &usize| {
        let other = &project.facts[*f];
        *f != file && other.module_system.is_none() && other.language == own.language
    };
    let alone = own.module_system.is_some();
    (0..project.facts.len()).filter(|f| !alone && shares(f)).collect()
}

/// Keeps what must be passed of what the code reads, or says why it can't leave. Variables that the file loses by it.
pub(crate) fn narrow(
    s: &Source,
    region: Region,
    flow: &mut RegionFlow,
    seen: &Seen,
) -> Result<Vec<BindingId>, Vec<Reason>> {
    let t = &s.tree;
    let inside = || (region.first.0..region.end().0).map(NodeId);
    let made = s.names.bindings_of(Names::MODULE).map(|b| s.names.binding(b));
    let made = made.filter(|b| b.kind != BindKind::Variable).map(|b| b.first).find(|n| region.contains(*n));
    let says = |n: &NodeId| matches!(t.role(*n), Role::Import | Role::ImportFrom | Role::Decorated | Role::Global);
    if let Some(n) = made.or_else(|| inside().find(says)) {
        return Err(vec![reason(s, n, Code::DeclaredHere, "what is made here is the file's")]);
    }
    let name = |b: &BindingId| s.names.binding(*b).name.as_str();
    if let Some(b) = flow.written.iter().find(|b| s.has_a_meaning(name(b))) {
        let message = format!("`{}` means something to those who load the file", name(b));
        return Err(vec![reason(s, region.first, Code::DeclaredHere, message)]);
    }
    if let Some((b, by)) = seen.meanwhile.iter().find(|(b, _)| flow.written.contains(b)) {
        let message = format!("{by} reads `{}`, and may do so while this runs", s.names.binding(*b).name);
        return Err(vec![reason(s, region.first, Code::RebindsCaptured, message)]);
    }
    // what is surely looked up by its name is as good as read
    let looked_up = |b: &&BindingId| {
        let name = &s.names.binding(**b).name;
        let looked_up = |n: NodeId| match t.role(n) {
            Role::Literal => unseen::looked_up(s, n, name).is_some(),
            // an example that is run
            Role::Doc => unseen::is_code_in_text(s, n, name),
            _ => false,
        };
        !flow.outs.contains(b) && t.ids().any(looked_up)
    };
    if let Some(b) = flow.written.iter().find(looked_up) {
        let message = format!("`{}` is looked up by its name in this file", s.names.binding(*b).name);
        return Err(vec![reason(s, region.first, Code::Reflection, message)]);
    }
    let written = flow.written.clone();
    let of_file = |b: &BindingId| s.names.binding(*b).scope == Names::MODULE;
    let stays = |b: &BindingId| of_file(b) && !written.contains(b) && is_in_sight(s, *b, seen.is_shared);
    flow.ins.retain(|b| !stays(b));
    flow.unbound_before.retain(|b| !stays(b));
    let shown = |b: &BindingId| of_file(b) && !s.lang.hides(s, *b) && !s.lang.is_private(&s.names.binding(*b).name);
    let all: Vec<BindingId> = variables(s).filter(shown).collect();
    let last = Flow::of_top(s, region.first, &all).region(t, &s.names, region.first, region.last);
    let seen_last = last.map_or(Vec::new(), |l| [l.outs, l.seen_when_left, l.seen_by_handler].concat());
    Ok(seen_last.into_iter().filter(|b| shown(b) && !flow.outs.contains(b)).collect())
}

/// Variables that files lose, a word for each file: nobody looks them up there.
pub(crate) fn lost<'s>(sites: impl Iterator<Item = (&'s Source, NodeId, &'s [BindingId])>) -> Vec<Reason> {
    let mut by_file: Vec<(&Source, NodeId, Vec<&str>)> = Vec::new();
    for (s, first, gone) in sites.filter(|(.., gone)| !gone.is_empty()) {
        let at = by_file.iter().position(|(o, ..)| o.path == s.path).unwrap_or(by_file.len());
        if at == by_file.len() {
            by_file.push((s, first, Vec::new()));
        }
        let names = gone.iter().map(|b| s.names.binding(*b).name.as_str());
        by_file[at].2.extend(names);
    }
    let told = by_file.into_iter().map(|(s, first, mut names)| {
        names.sort_unstable();
        names.dedup();
        let quoted: Vec<String> = names.iter().map(|n| format!("`{n}`")).collect();
        let all = quoted.join(", ");
        reason(
            s,
            first,
            Code::FileVariable,
            format!("no other code looks up {all} in this file; the function has that now"),
        )
    });
    told.collect()
}

/// A variable that functions name rather than take: a constant by its value or its spelling, or one that they name already.
fn is_in_sight(s: &Source, b: BindingId, is_shared: bool) -> bool {
    let binding = s.names.binding(b);
    let constant = binding.name.len() > 1 && !binding.name.chars().any(char::is_lowercase);
    s.lang.functions_see(s, b)
        && (constant || binding.captured || (is_shared || s.lang.declares_locals()) && binding.writes == 1)
}
