//! A file's definitions as a graph: which use which, and which belong together by what they use, by their names and by
//! where they stand.

use rustc_hash::FxHashMap;

use crate::index::Project;
use crate::index::unseen::called;
use crate::names::{BindingId, Names, Source};
use crate::plan::clusters::Graph;
use crate::plan::verbs::VERBS;
use crate::plan::words::{WEAK, words};
use crate::step::moves::{self, Definition, Moved, changed_when_loaded};
use crate::text::Span;
use crate::tree::{NodeId, Role, Tree};

/// How much a thing draws all together those who use it.
const BY_USE: f64 = 2.0;
/// What has a word in its name that nothing else has.
const BY_WORD: f64 = 0.6;
/// What stands under one heading.
const BY_HEADING: f64 = 2.0;
const BY_NEIGHBOUR: f64 = 0.3;
/// Shorter words say nothing.
const LEAST_LETTERS: usize = 3;

/// A definition that could go.
pub(super) struct Unit {
    pub statement: NodeId,
    pub names: Vec<String>,
    pub lines: usize,
    pub words: Vec<String>,
    /// Headings before it.
    pub section: usize,
}

/// The definitions of a file; in the graph, 0 is all that is no definition, and the others follow.
pub(super) struct Units {
    pub all: Vec<Unit>,
    pub graph: Graph,
    /// Words of the headings.
    pub headings: Vec<Vec<String>>,
}

impl Units {
    pub fn of(project: &Project, s: &Source, pinned: &[NodeId], no_stay: bool) -> Units {
        let definitions = definitions(s);
        let headings = headings(s);
        let nouns: Vec<String> = definitions.iter().flat_map(|d| &d.names).flat_map(|(_, n)| nouns(n)).collect();
        let all: Vec<Unit> = definitions.iter().map(|d| unit(s, d, &headings, &nouns)).collect();
        let mut units = Units { all, graph: Graph::default(), headings: headings.into_iter().map(|h| h.1).collect() };
        units.graph.lines = std::iter::once(units.rest(s)).chain(units.all.iter().map(|u| u.lines)).collect();
        let back = imported_in_circles(project, s);
        let circle = |d: &Definition| back.iter().any(|n| s.tree.contains(d.statement, *n));
        let stays = |d: &Definition| pinned.contains(&d.statement) || is_of_its_file(s, d) || circle(d);
        units.graph.stays = std::iter::once(true).chain(definitions.iter().map(stays)).collect();
        units.uses(s, &definitions);
        let open = s.module.as_ref().is_some_and(|m| s.lang.is_open_module(m)) && !no_stay;
        let public = |n: &String| !s.lang.is_private(n);
        let kept = |i: &usize| open && units.all[i - 1].names.iter().any(public);
        units.graph.kept = (1..=units.all.len()).filter(kept).collect();
        units.by_names();
        units.by_place();
        units
    }

    /// Lines of what is no definition.
    fn rest(&self, s: &Source) -> usize {
        let all = s.text.lines().filter(|l| !l.trim().is_empty()).count();
        all.saturating_sub(self.all.iter().map(|u| u.lines).sum())
    }

    fn uses(&mut self, s: &Source, definitions: &[Definition]) {
        let t = &s.tree;
        let own: FxHashMap<BindingId, usize> =
            definitions.iter().enumerate().flat_map(|(i, d)| d.names.iter().map(move |(b, _)| (*b, i + 1))).collect();
        let top = |n: NodeId| std::iter::once(n).chain(t.ancestors(n)).find(|a| t.parent(*a) == Some(Tree::ROOT));
        let by_statement: FxHashMap<NodeId, usize> =
            self.all.iter().enumerate().map(|(i, u)| (u.statement, i + 1)).collect();
        let mut uses: Vec<(usize, usize)> = Vec::new();
        for r in &s.names.references {
            let Some(j) = r.target.and_then(|b| own.get(&b)) else { continue };
            let i = top(r.node).and_then(|n| by_statement.get(&n)).copied().unwrap_or(0);
            uses.extend((i != *j).then_some((i, *j)));
        }
        uses.sort_unstable();
        uses.dedup();
        let mut users: FxHashMap<usize, usize> = FxHashMap::default();
        uses.iter().for_each(|(_, j)| *users.entry(*j).or_default() += 1);
        let bond = |(i, j): &(usize, usize)| (*i, *j, BY_USE / users[j] as f64);
        self.graph.bonds.extend(uses.iter().map(bond));
        self.graph.uses = uses;
    }

    fn by_names(&mut self) {
        let mut having: FxHashMap<&str, Vec<usize>> = FxHashMap::default();
        for (i, u) in self.all.iter().enumerate() {
            u.words.iter().for_each(|w| having.entry(w).or_default().push(i + 1));
        }
        let mut all: Vec<(&str, Vec<usize>)> = having.into_iter().collect();
        all.sort();
        // what half of them have tells them apart from nothing
        for (_, units) in all.iter().filter(|(_, u)| u.len() > 1 && u.len() * 2 <= self.all.len()) {
            let weight = BY_WORD / (units.len() - 1) as f64;
            self.graph.bonds.extend(pairs(units).map(|(a, b)| (a, b, weight)));
        }
    }

    fn by_place(&mut self) {
        for i in 2..=self.all.len() {
            self.graph.bonds.push((i - 1, i, BY_NEIGHBOUR));
        }
        let last = self.all.last().map_or(0, |u| u.section);
        for section in (1..=last).filter(|_| last > 1) {
            let units: Vec<usize> = (1..=self.all.len()).filter(|i| self.all[i - 1].section == section).collect();
            let weight = BY_HEADING / units.len().saturating_sub(1).max(1) as f64;
            self.graph.bonds.extend(pairs(&units).map(|(a, b)| (a, b, weight)));
        }
    }
}

fn pairs(units: &[usize]) -> impl Iterator<Item = (usize, usize)> {
    units.iter().enumerate().flat_map(|(i, a)| units[i + 1..].iter().map(move |b| (*a, *b)))
}

/// Uses of what is imported from files that come to load this one: a new file that imports them can't be imported here.
fn imported_in_circles(project: &Project, s: &Source) -> Vec<NodeId> {
    let Some(home) = project.index(&s.path) else { return Vec::new() };
    let back = |b: BindingId| {
        let import = s.names.binding(b).import.as_ref();
        let files = import.map_or(Vec::new(), |i| project.resolved(s, i));
        files.into_iter().any(|f| project.modules().takes_when_loaded(f, home))
    };
    let imports = s.names.bindings_of(Names::MODULE).filter(|b| back(*b));
    imports.flat_map(|b| s.names.references_to(b)).map(|r| r.node).collect()
}

/// What could be moved by itself, in the order of the file.
fn definitions(s: &Source) -> Vec<Definition> {
    let mut out: Vec<Definition> = Vec::new();
    for b in s.names.bindings_of(Names::MODULE).filter(|b| s.names.binding(*b).import.is_none()) {
        let Ok(all) = moves::definitions(s, b, false) else { continue };
        let alone = all.len() == 1 && !out.iter().any(|o| o.statement == all[0].statement);
        out.extend(all.into_iter().filter(|_| alone));
    }
    out.sort_by_key(|d| d.statement);
    out
}

/// Words of a name that are surely no verb of it: those behind the first, and all of a constant.
fn nouns(name: &str) -> Vec<String> {
    let constant = name.chars().all(|c| !c.is_lowercase());
    words(name).iter().skip(usize::from(!constant)).map(|w| singular(w)).collect()
}

fn unit(s: &Source, d: &Definition, headings: &[(Span, Vec<String>)], nouns: &[String]) -> Unit {
    let names: Vec<String> = d.names.iter().map(|(_, n)| n.clone()).collect();
    let mut all: Vec<String> = names.iter().flat_map(|n| words(n)).map(|w| singular(&w)).collect();
    let verb = |w: &String| VERBS.contains(&w.as_str()) && !nouns.contains(w);
    all.retain(|w| w.len() >= LEAST_LETTERS && !WEAK.contains(&w.as_str()) && !verb(w));
    all.sort();
    all.dedup();
    let start = s.tree.span(d.statement).start;
    let lines = s.text[d.span.start..d.span.end].lines().filter(|l| !l.trim().is_empty()).count();
    let section = headings.iter().filter(|h| h.0.end <= start).count();
    Unit { statement: d.statement, names, lines, words: all, section }
}

pub(super) fn singular(word: &str) -> String {
    let plural = word.len() > LEAST_LETTERS && word.ends_with('s') && !word.ends_with("ss");
    word[..word.len() - usize::from(plural)].to_string()
}

/// It means something else in another file, or something here changes it when the file is loaded.
fn is_of_its_file(s: &Source, d: &Definition) -> bool {
    let t = &s.tree;
    let own = |n: NodeId| t.role(n) == Role::FrameName && s.lang.is_module_own(s.str(n));
    let sees = |n: NodeId| called(s, n).is_some_and(|(word, _)| s.lang.reads_module_names().contains(&word));
    let special = |n: &str| n.starts_with('_') && s.lang.is_special_member(n) || s.lang.public_list() == Some(n);
    let names = d.names.iter().any(|(_, n)| special(n) || s.lang.is_module_own(n));
    let alone = Moved { all: vec![d.clone()] };
    names || t.subtree(d.statement).any(|n| own(n) || sees(n)) || changed_when_loaded(s, &alone).is_some()
}

/// Comments of the file's level that head what follows: a line of words among lines, with their words.
fn headings(s: &Source) -> Vec<(Span, Vec<String>)> {
    let t = &s.tree;
    let marks: &[char] = &['-', '=', '*', '#', '~', '/', '_', '+'];
    let inside = |c: &Span| t.children(Tree::ROOT).any(|n| t.span(n).start < c.start && c.start < t.span(n).end);
    let at_margin = |c: &Span| c.start == 0 || s.text.as_bytes()[c.start - 1] == b'\n';
    let ruled = |text: &str| {
        text.split(|c: char| c.is_alphanumeric() || c.is_whitespace()).any(|run| {
            run.len() > 2
                && run.chars().all(|c| marks.contains(&c))
                && run.chars().any(|c| !['/', '*', '#'].contains(&c) || run.len() > 4)
        })
    };
    let mut out: Vec<(Span, Vec<String>)> = Vec::new();
    let own: Vec<Span> = t.comments().iter().copied().filter(|c| at_margin(c) && !inside(c)).collect();
    // lines of comments without a blank line between
    let mut blocks: Vec<Span> = Vec::new();
    for c in own {
        match blocks.last_mut() {
            Some(b) if s.text[b.end..c.start].trim().is_empty() && s.text[b.end..c.start].matches('\n').count() < 2 => {
                b.end = c.end
            }
            _ => blocks.push(c),
        }
    }
    for b in blocks {
        let text = &s.text[b.start..b.end];
        let said: Vec<String> = text
            .lines()
            .map(|l| l.trim_matches(|c: char| !c.is_alphanumeric()).to_string())
            .filter(|l| !l.is_empty())
            .collect();
        let [one] = &said[..] else { continue };
        let w = words(one);
        if ruled(text) && (1..=6).contains(&w.len()) {
            out.push((b, w));
        }
    }
    out
}
