//! Files that are mostly copies of each other, told as one finding: which pieces they share is known from the findings
//! between them, and what is left of each file is its own.
//!
//! Lines of imports and of what only holds other code are nobody's. Missed: files whose common code stands in many more
//! files ([`MOST_FILES`]), for it says nothing about any two of them.

use std::collections::BTreeMap;

use super::{Copy, FileFacts, Finding, Kind, id_of_text};
use crate::find::facts::StatementRole;

/// Files of one finding beyond which it says nothing about any two of them.
const MOST_FILES: usize = 12;
/// Lines of code that a file must have, and the part of them that must stand in the other one too.
const FEWEST_LINES: usize = 15;
const LEAST_SHARE: f64 = 0.7;

/// Lines of one file, by their number.
type Lines = Vec<bool>;

/// All groups of twin files; what each would save is what its pieces save.
pub fn twins(files: &[FileFacts], findings: &[Finding]) -> Vec<Finding> {
    let own: Vec<Lines> = files.iter().map(lines_of_code).collect();
    let mut shared: BTreeMap<(usize, usize), [Lines; 2]> = BTreeMap::new();
    for f in findings.iter().filter(|f| is_piece(f)) {
        let of = |file: usize| f.copies.iter().filter(move |c| c.file == file);
        let mut all: Vec<usize> = f.copies.iter().map(|c| c.file).collect();
        all.sort_unstable();
        all.dedup();
        for (i, a) in all.iter().enumerate().filter(|_| all.len() <= MOST_FILES) {
            for b in &all[i + 1..] {
                let none = || [*a, *b].map(|f| vec![false; own[f].len()]);
                let marks = shared.entry((*a, *b)).or_insert_with(none);
                for (mark, file) in marks.iter_mut().zip([*a, *b]) {
                    of(file).for_each(|c| (c.lines.0..=c.lines.1).for_each(|l| mark[l as usize] = true));
                }
            }
        }
    }
    let count = |lines: &Lines| lines.iter().filter(|l| **l).count();
    let share = |(pair, marks): (&(usize, usize), &[Lines; 2])| {
        let of = |file: usize, mark: &Lines| {
            let both = own[file].iter().zip(mark).filter(|(own, mark)| **own && **mark).count();
            let all = count(&own[file]);
            if all < FEWEST_LINES { 0.0 } else { both as f64 / all as f64 }
        };
        let least = of(pair.0, &marks[0]).min(of(pair.1, &marks[1]));
        (least >= LEAST_SHARE).then_some((*pair, least))
    };
    let pairs: Vec<((usize, usize), f64)> = shared.iter().filter_map(share).collect();
    let mut out: Vec<Finding> =
        groups(&pairs).into_iter().map(|(group, alike)| finding(files, findings, &group, alike)).collect();
    out.sort_by_key(|f| (std::cmp::Reverse(f.saves), f.copies[0].file));
    out
}

fn is_piece(f: &Finding) -> bool {
    f.kind.has_copies() && f.expression == 0
}

/// Lines of statements that may be part of a copy.
fn lines_of_code(f: &FileFacts) -> Lines {
    let mut out = vec![false; f.lines as usize + 2];
    let whole = |r: StatementRole| matches!(r, StatementRole::Plain | StatementRole::Definition);
    for s in f.statements.iter().filter(|s| whole(s.role)) {
        (s.lines.0..=s.lines.1).for_each(|l| out[l as usize] = true);
    }
    out
}

/// Files that are twins of each other, also by way of others, with the least that two of them have in common.
fn groups(pairs: &[((usize, usize), f64)]) -> Vec<(Vec<usize>, f64)> {
    let mut out: Vec<(Vec<usize>, f64)> = Vec::new();
    for ((a, b), share) in pairs {
        let mut joined = (vec![*a, *b], *share);
        out.retain(|(group, least)| {
            let apart = !group.contains(a) && !group.contains(b);
            if !apart {
                joined.0.extend(group);
                joined.1 = joined.1.min(*least);
            }
            apart
        });
        joined.0.sort_unstable();
        joined.0.dedup();
        out.push(joined);
    }
    out
}

fn finding(files: &[FileFacts], findings: &[Finding], group: &[usize], alike: f64) -> Finding {
    let copy = |f: &usize| {
        let end = files[*f].statements.iter().map(|s| s.bytes.1).max().unwrap_or(0);
        Copy { file: *f, lines: (1, files[*f].lines.max(1)), bytes: (0, end), within: None }
    };
    let paths: Vec<&str> = group.iter().map(|f| files[*f].path.as_str()).collect();
    let twin = Finding {
        id: id_of_text('t', &paths.join("\n")),
        kind: Kind::Twins,
        copies: group.iter().map(copy).collect(),
        lines: group.iter().map(|f| files[*f].code_lines).min().unwrap_or(0),
        similarity: alike,
        ..Finding::default()
    };
    let saves = pieces(&twin, findings).iter().map(|p| saves_inside(p, group)).sum();
    Finding { saves, ..twin }
}

/// What a fold saves in these files of all that it takes away.
fn saves_inside(piece: &Finding, files: &[usize]) -> i64 {
    let inside = piece.copies.iter().filter(|c| files.contains(&c.file)).count() as i64;
    let all = piece.copies.len() as i64;
    piece.saves.max(0) * (inside - 1).max(0) / (all - 1).max(1)
}

/// What twin files have in common, in the order of the first of them: findings with copies in several of them, those that
/// lie in others left out.
pub fn pieces<'f>(twin: &Finding, findings: &'f [Finding]) -> Vec<&'f Finding> {
    let own = |c: &Copy| twin.copies.iter().any(|t| t.file == c.file);
    let across = |f: &Finding| {
        let mut inside = f.copies.iter().filter(|c| own(c)).map(|c| c.file);
        let first = inside.next();
        inside.any(|file| Some(file) != first)
    };
    let mut all: Vec<&Finding> = findings.iter().filter(|f| is_piece(f) && across(f)).collect();
    // the best of those that lie over each other
    all.sort_by_key(|f| std::cmp::Reverse(f.saves));
    let mut out: Vec<&Finding> = Vec::new();
    for f in all {
        let over = |c: &Copy| {
            let meets = |d: &Copy| d.file == c.file && d.lines.0 <= c.lines.1 && c.lines.0 <= d.lines.1;
            out.iter().flat_map(|o| &o.copies).any(meets)
        };
        if !f.copies.iter().any(over) {
            out.push(f);
        }
    }
    out.sort_by_key(|f| f.copies.iter().map(|c| (c.file, c.lines.0)).min());
    out
}

/// The order in which to fold them: a function before the code that calls it, so that both copies call the same one then.
pub fn in_turn<'f>(pieces: Vec<&'f Finding>, says: &dyn Fn(&Finding, &str) -> bool) -> Vec<&'f Finding> {
    let names = |f: &Finding| -> Vec<String> {
        let own = f.copies.iter().filter_map(|c| c.within.as_deref());
        own.map(|w| w.rsplit('.').next().unwrap_or(w).to_string()).collect()
    };
    let (mut left, mut out) = (pieces, Vec::new());
    while !left.is_empty() {
        let waits = |f: &Finding| {
            left.iter().any(|o| o.id != f.id && names(o).iter().any(|n| says(f, n) && !names(f).contains(n)))
        };
        let next = left.iter().position(|f| !waits(f)).unwrap_or(0);
        out.push(left.remove(next));
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::find::tests::of;
    use crate::find::{Options, scan};

    /// Three functions, of which the second calls the first.
    fn gate(name: &str, hours: u32, last: &str) -> String {
        format!(
            "def due(ship, hours):\n    base = ceil(ship.tons / 100)\n    total = base * RATE\n    if hours > {hours}:\n        \
             total += base\n    return total\n\n\ndef report(ships, hours):\n    rows = []\n    for ship in ships:\n        \
             fee = due(ship, hours)\n        rows.append(f'{{ship.name}}: {{fee}}')\n    rows.append('{name}')\n    \
             return join(rows)\n\n\ndef waiting(ships, now):\n    late = [s for s in ships if s.eta < now]\n    \
             late.sort(key=by_eta)\n    for s in late:\n        s.note('late', now)\n    return late\n\n\n{last}"
        )
    }

    fn found(texts: &[String]) -> Vec<(Vec<usize>, usize)> {
        let files: Vec<FileFacts> = texts.iter().enumerate().map(|(i, t)| of(&format!("f{i}.py"), t)).collect();
        let all = scan(&files, &Options::default());
        let group = |t: &Finding| (t.copies.iter().map(|c| c.file).collect(), pieces(t, &all).len());
        twins(&files, &all).iter().map(group).collect()
    }

    #[test]
    fn files_that_are_mostly_copies() {
        let other = |n: &str| format!("def {n}(x):\n    print('{n}', x)\n    return len(x)\n");
        let long: String = (0..9)
            .map(|i| format!("def own_{i}(x):\n    y = x.a_{i} + {i}\n    x.b_{i}(y)\n    return y\n\n\n"))
            .collect();
        let (east, west) = (gate("east", 12, ""), gate("west", 24, ""));
        assert_eq!(found(&[east.clone(), west.clone()]), [(vec![0, 1], 3)]);
        assert_eq!(
            found(&[east.clone(), other("a"), west.clone(), gate("south", 2, &other("b"))]),
            [(vec![0, 2, 3], 3)]
        );
        // most of the second is its own
        assert_eq!(found(&[east.clone(), format!("{west}{long}")]), []);
        // nothing to fold them by
        assert_eq!(found(&[other("a"), other("b")]), []);
    }

    #[test]
    fn a_function_before_what_calls_it() {
        let swap = |t: String| {
            let at = t.find("def report").expect("it is there");
            let end = t.find("def waiting").expect("it is there");
            format!("{}{}{}", &t[at..end], &t[..at], &t[end..])
        };
        let texts = [swap(gate("east", 12, "")), swap(gate("west", 24, ""))];
        let files: Vec<FileFacts> = texts.iter().enumerate().map(|(i, t)| of(&format!("f{i}.py"), t)).collect();
        let all = scan(&files, &Options::default());
        let twin = &twins(&files, &all)[0];
        let says = |f: &Finding, name: &str| {
            let c = &f.copies[0];
            texts[c.file][c.bytes.0 as usize..c.bytes.1 as usize].contains(name)
        };
        let names = |all: Vec<&Finding>| all.iter().filter_map(|f| f.copies[0].within.clone()).collect::<Vec<_>>();
        assert_eq!(names(pieces(twin, &all)), ["report", "due", "waiting"]);
        assert_eq!(names(in_turn(pieces(twin, &all), &says)), ["due", "report", "waiting"]);
    }
}
