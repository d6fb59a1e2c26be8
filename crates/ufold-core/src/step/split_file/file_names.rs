//! The name of a new file: what its definitions have in common, in the way in which the files around it are written.

use rustc_hash::FxHashMap;

use super::graph::{Unit, Units, singular};
use super::movable::file_of;
use crate::find::paths::is_test_file;
use crate::index::Project;
use crate::names::Source;
use crate::plan::file_style::Style;
use crate::plan::outside::hidden_by;
use crate::plan::words::{WEAK, words};

/// Words of a heading that say nothing of what is under it.
const PLAIN: &[&str] = &[
    "the", "and", "for", "with", "section", "part", "helper", "function", "class", "misc", "other", "all", "various",
    "general", "public", "private", "api", "method", "code", "stuff",
];

/// Numbers that are tried where no word is free.
const MOST_NUMBERED: usize = 50;

/// A path that is free, for some units of a file.
pub(super) fn path_for(project: &Project, s: &Source, units: &Units, own: &[usize], taken: &[String]) -> String {
    let (folder, file) = s.path.rsplit_once('/').map_or(("", s.path.as_str()), |(a, b)| (&s.path[..a.len() + 1], b));
    let (stem, extension) = file.split_at(file.find('.').filter(|i| *i > 0).unwrap_or(file.len()));
    let parts: Vec<&Unit> = own.iter().map(|i| &units.all[*i]).collect();
    if let [class] = parts[..]
        && class.alone
    {
        return file_of(s, &class.names[0]);
    }
    // a file has the name of its class
    let of_class = s.names.members_in_sight;
    let style = if of_class { Style::Camel } else { Style::of(project, s, folder) };
    let topics = topics(units, &parts);
    let mut stems: Vec<String> = topics.iter().map(|w| style.write(w)).collect();
    let joined = |t: &Vec<String>| style.write(&words(stem).into_iter().chain(t.iter().cloned()).collect::<Vec<_>>());
    stems.extend(topics.first().map(joined));
    let test = is_test_file(&s.path);
    if test {
        let first = topics.first().cloned().unwrap_or_default();
        let behind = format!("{stem}{}{}", style.joint(), style.write(&first));
        let before = words(stem).into_iter().rev().skip(1).collect::<Vec<_>>();
        let before = before.into_iter().rev().chain(first).chain(["test".to_string()]).collect::<Vec<_>>();
        stems = vec![behind, style.write(&before)];
    }
    let free = |path: &String| {
        let like = |p: &str| p.eq_ignore_ascii_case(path);
        let there = project.facts.iter().any(|f| like(&f.path)) || taken.iter().any(|t| like(t));
        let name = path[folder.len()..].split('.').next().unwrap_or("");
        let other = s.lang.is_builtin(name)
            || s.lang.is_standard_module(name)
            || of_class && project.word_elsewhere(name, &[])
            || !s.lang.is_identifier(&name.replace('-', "_"));
        !there && !other && hidden_by(project, path).is_none() && (!test || is_test_file(path))
    };
    let mut paths = stems.iter().map(|x| format!("{folder}{x}{extension}"));
    paths.find(&free).unwrap_or_else(|| {
        let numbered = |n: usize| format!("{folder}{stem}{}{n}{extension}", style.joint());
        // none of them may be a name: an empty path is refused as no home
        (2..MOST_NUMBERED).map(numbered).find(&free).unwrap_or_default()
    })
}

/// What units are about, the best first.
fn topics(units: &Units, own: &[&Unit]) -> Vec<Vec<String>> {
    let mut out: Vec<Vec<String>> = Vec::new();
    // one heading stands over most of them
    let mut by_section: FxHashMap<usize, usize> = FxHashMap::default();
    own.iter().for_each(|u| *by_section.entry(u.section).or_default() += u.lines);
    let lines: usize = own.iter().map(|u| u.lines).sum();
    let most = by_section.into_iter().max_by_key(|(section, n)| (*n, *section));
    if let Some((section, _)) = most.filter(|(section, n)| *section > 0 && n * 3 >= lines * 2) {
        let said: Vec<String> = units.headings[section - 1].iter().filter(|w| !is_plain(w)).cloned().collect();
        out.extend((1..=3).contains(&said.len()).then_some(said));
    }
    if let [only] = own {
        out.extend(only.names.first().map(|n| words(n)));
    }
    let mut scores: FxHashMap<&str, (f64, f64)> = FxHashMap::default();
    for u in &units.all {
        let inside = own.iter().any(|o| o.first() == u.first());
        for w in &u.words {
            let (here, all) = scores.entry(w).or_default();
            let weight = 1.0 + (u.lines as f64).sqrt() / 4.0;
            *all += weight;
            *here += if inside { weight } else { 0.0 };
        }
    }
    let mut ranked: Vec<(f64, &str)> = scores.into_iter().map(|(w, (here, all))| (here * here / all, w)).collect();
    ranked.retain(|(score, w)| *score > 0.0 && !is_plain(w));
    ranked.sort_by(|a, b| b.0.total_cmp(&a.0).then(a.1.cmp(b.1)));
    // of several things of a kind
    let many = |w: &str| {
        let plural = format!("{w}s");
        let written = own.iter().flat_map(|u| &u.names).flat_map(|n| words(n)).filter(|x| singular(x) == *w);
        let (a, b): (Vec<String>, Vec<String>) = written.partition(|x| *x == plural);
        if a.len() > b.len() { plural } else { w.to_string() }
    };
    out.extend(ranked.iter().take(2).map(|(_, w)| vec![many(w)]));
    if let [(_, a), (_, b), ..] = ranked[..] {
        out.push(vec![a.to_string(), b.to_string()]);
    }
    let largest = own.iter().max_by_key(|u| u.lines).and_then(|u| u.names.first());
    out.extend(largest.map(|n| words(n)));
    out.retain(|w| !w.is_empty());
    out
}

fn is_plain(word: &str) -> bool {
    PLAIN.contains(&singular(word).as_str()) || WEAK.contains(&word)
}
