//! Folders that are mostly copies of each other: most of their code stands in files that are twins, one in each.
//!
//! Two twin files whose paths end in the same folders speak for the folders before these, so that a whole tree that was
//! copied is one finding. Missed: folders of which one was taken apart into several.

use std::collections::BTreeMap;

use super::{FileFacts, Finding, Kind, id_of_text};

/// Twin files that two folders must have.
const FEWEST_FILES: usize = 2;
/// The part of a folder's lines of code that must stand in files with a twin in the other.
const LEAST_SHARE: f64 = 0.7;

/// Pairs of folders, and the groups of twin files that have one in each.
type Pairs<'f> = BTreeMap<(String, String), Vec<&'f Finding>>;

/// `twins`: groups of twin files.
pub fn twin_folders(files: &[FileFacts], twins: &[Finding]) -> Vec<Finding> {
    let mut pairs: Pairs = BTreeMap::new();
    for t in twins {
        let paths: Vec<&str> = t.copies.iter().map(|c| files[c.file].path.as_str()).collect();
        for (i, a) in paths.iter().enumerate() {
            for pair in paths[i + 1..].iter().filter_map(|b| folders_of(a, b)) {
                let of = pairs.entry(pair).or_default();
                if of.last().is_none_or(|last| last.id != t.id) {
                    of.push(t);
                }
            }
        }
    }
    pairs.retain(|(a, b), of| of.len() >= FEWEST_FILES && share(files, a, of).min(share(files, b, of)) >= LEAST_SHARE);
    let mut out: Vec<Finding> =
        groups(pairs.into_keys().collect()).into_iter().map(|folders| finding(files, twins, folders)).collect();
    out.sort_by_key(|f| (std::cmp::Reverse(f.saves), f.folders.clone()));
    out
}

/// The folders in which two paths differ, without what comes after in both; none where one holds the other.
fn folders_of(a: &str, b: &str) -> Option<(String, String)> {
    let (mut x, mut y) = (a.rsplit_once('/')?.0, b.rsplit_once('/')?.0);
    while let (Some((p, last)), Some((q, other))) = (x.rsplit_once('/'), y.rsplit_once('/'))
        && last == other
    {
        (x, y) = (p, q);
    }
    let apart = !is_inside(x, y) && !is_inside(y, x);
    apart.then(|| if x < y { (x.to_string(), y.to_string()) } else { (y.to_string(), x.to_string()) })
}

fn is_inside(path: &str, folder: &str) -> bool {
    path.strip_prefix(folder).is_some_and(|rest| rest.is_empty() || rest.starts_with('/'))
}

/// The part of a folder's code that stands in files of these groups.
fn share(files: &[FileFacts], folder: &str, of: &[&Finding]) -> f64 {
    let own = |i: &usize| is_inside(&files[*i].path, folder);
    let lines = |i: usize| f64::from(files[i].code_lines);
    let all: f64 = (0..files.len()).filter(own).map(lines).sum();
    let mut both: Vec<usize> = of.iter().flat_map(|t| &t.copies).map(|c| c.file).filter(own).collect();
    both.sort_unstable();
    both.dedup();
    if all > 0.0 { both.into_iter().map(lines).sum::<f64>() / all } else { 0.0 }
}

/// Folders that are twins of each other, also by way of others.
fn groups(pairs: Vec<(String, String)>) -> Vec<Vec<String>> {
    let mut out: Vec<Vec<String>> = Vec::new();
    for (a, b) in pairs {
        let mut joined = vec![a.clone(), b.clone()];
        out.retain(|group| {
            let apart = !group.contains(&a) && !group.contains(&b);
            joined.extend(group.iter().filter(|_| !apart).cloned());
            apart
        });
        joined.sort();
        joined.dedup();
        out.push(joined);
    }
    // of folders inside each other the outer ones say it all
    let inner = |g: &Vec<String>, o: &Vec<String>| g != o && g.iter().all(|f| o.iter().any(|x| is_inside(f, x)));
    let all = out.clone();
    out.retain(|g| !all.iter().any(|o| inner(g, o)));
    out
}

fn finding(files: &[FileFacts], twins: &[Finding], folders: Vec<String>) -> Finding {
    let of = |file: usize| folders.iter().position(|f| is_inside(&files[file].path, f));
    let across = |t: &&Finding| {
        let mut all = t.copies.iter().filter_map(|c| of(c.file));
        let first = all.next();
        all.any(|x| Some(x) != first)
    };
    let own: Vec<&Finding> = twins.iter().filter(across).collect();
    let mut copies: Vec<_> = own.iter().flat_map(|t| &t.copies).filter(|c| of(c.file).is_some()).cloned().collect();
    copies.sort_by_key(|c| (of(c.file), files[c.file].path.clone()));
    let first = copies.iter().filter(|c| of(c.file) == Some(0));
    Finding {
        id: id_of_text('t', &folders.join("\n")),
        kind: Kind::Twins,
        lines: first.map(|c| files[c.file].code_lines).sum(),
        saves: own.iter().map(|t| t.saves).sum(),
        similarity: own.iter().map(|t| t.similarity).fold(1.0, f64::min),
        copies,
        folders,
        ..Finding::default()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::find::Copy;
    use crate::find::tests::of;

    fn found(paths: &[(&str, usize)], groups: &[&[usize]]) -> Vec<(Vec<String>, usize)> {
        let text = |n: usize| "x.tide(1)\n".repeat(n);
        let files: Vec<FileFacts> = paths.iter().map(|(p, n)| of(p, &text(*n))).collect();
        let copy = |f: &usize| Copy { file: *f, lines: (1, 9), bytes: (0, 9), within: None };
        let twin = |(i, g): (usize, &&[usize])| Finding {
            id: format!("t{i}"),
            kind: Kind::Twins,
            copies: g.iter().map(copy).collect(),
            similarity: 0.9,
            saves: 5,
            ..Finding::default()
        };
        let twins: Vec<Finding> = groups.iter().enumerate().map(twin).collect();
        twin_folders(&files, &twins).into_iter().map(|f| (f.folders, f.copies.len())).collect()
    }

    #[test]
    fn folders_that_are_mostly_copies() {
        let two = |a: &str, b: &str| vec![a.to_string(), b.to_string()];
        let (east, west) = ([("e/a.py", 20), ("e/b.py", 20)], [("w/a.py", 20), ("w/b.py", 20)]);
        let both = [east, west].concat();
        assert_eq!(found(&both, &[&[0, 2], &[1, 3]]), [(two("e", "w"), 4)]);
        // other names, and a folder inside
        let deep = [("p/e/a.py", 20), ("p/e/in/b.py", 20), ("p/w/c.py", 20), ("p/w/in/b.py", 20)];
        assert_eq!(found(&deep, &[&[0, 2], &[1, 3]]), [(two("p/e", "p/w"), 4)]);
        // one file, most of another folder, a folder in the other, files of one folder
        assert_eq!(found(&both, &[&[0, 2]]), []);
        assert_eq!(found(&[&both[..], &[("w/c.py", 90)]].concat(), &[&[0, 2], &[1, 3]]), []);
        assert_eq!(found(&[("e/a.py", 9), ("e/b.py", 9), ("e/w/a.py", 9), ("e/w/b.py", 9)], &[&[0, 2], &[1, 3]]), []);
        assert_eq!(found(&both, &[&[0, 1], &[2, 3]]), []);
        // three
        let third = [&both[..], &[("x/a.py", 20), ("x/b.py", 20)]].concat();
        let all = found(&third, &[&[0, 2, 4], &[1, 3, 5]]);
        assert_eq!((all.len(), all[0].0.len(), all[0].1), (1, 3, 6));
    }
}
