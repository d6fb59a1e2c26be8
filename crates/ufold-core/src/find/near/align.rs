//! Where two units have the same statements in the same order, others between them allowed: local alignment of their
//! items (Smith and Waterman, 1981), with what is equal in statements of one shape weighed by their names and literals.

use rustc_hash::FxHashSet;

use super::units::Unit;
use crate::find::facts::atom;

/// What a statement that only one of the two has costs.
const GAP: f32 = 0.5;

/// Alignments of two units, where they are large: where so many pairs of items are compared.
const MOST_PLACES: usize = 3;
const LARGE: usize = 2500;

/// The least that is worth a look.
const LEAST_SCORE: f32 = 3.0;

/// Aligned items in both, with how alike they are, 0 to 1.
pub(super) type Pairs = Vec<(usize, usize, f32)>;

/// How alike two statements are.
fn alike(a: &Unit, i: usize, b: &Unit, j: usize) -> f32 {
    let (x, y) = (&a.items[i], &b.items[j]);
    if !x.plain || !y.plain {
        return 0.0;
    }
    if x.header != y.header {
        return if x.skeleton == y.skeleton { 0.5 } else { 0.0 };
    }
    let (p, q) = (a.atoms(i), b.atoms(j));
    if p.len() != q.len() {
        return 0.5;
    }
    let cost = |k: u32| match k {
        atom::MEMBER => 1.0,
        atom::LITERAL => 0.5,
        _ => 0.35,
    };
    let different: f32 =
        p.iter().zip(q).filter(|(x, y)| atom::hash(**x) != atom::hash(**y)).map(|(x, _)| cost(atom::kind(*x))).sum();
    // that they have one shape says something too
    1.0 - 0.7 * different / p.len().max(1) as f32
}

/// What it is worth that two such statements stand over each other.
fn worth(a: &Unit, i: usize, alike: f32) -> f32 {
    let heavy = if a.items[i].weight > 1 { 1.0 + a.items[i].weight as f32 / 4.0 } else { 0.3 };
    heavy * (1.5 * alike - 0.5)
}

/// Items of one that some of the other may be laid over, by number.
fn laid(a: &Unit, b: &Unit) -> Vec<usize> {
    let headers: FxHashSet<u64> = b.items.iter().flat_map(|i| [i.header, i.skeleton]).collect();
    let fits = |i: &usize| [a.items[*i].header, a.items[*i].skeleton].iter().any(|h| headers.contains(h));
    (0..a.items.len()).filter(fits).collect()
}

/// The best places, the best first; within one unit below its diagonal.
pub(super) fn aligned(a: &Unit, b: &Unit, same: bool) -> Vec<Pairs> {
    // items that nothing of the other is like are only counted
    let (rows, columns) = (laid(a, b), laid(b, a));
    let (n, m) = (rows.len(), columns.len());
    let mut likeness = vec![0.0f32; n * m];
    for (r, i) in rows.iter().enumerate() {
        for (c, j) in columns.iter().enumerate().filter(|(_, j)| !same || *j > i) {
            likeness[r * m + c] = alike(a, *i, b, *j);
        }
    }
    let mut out = Vec::new();
    let mut table =
        Table { rows: &rows, columns: &columns, score: vec![0.0; (n + 1) * (m + 1)], from: vec![0; (n + 1) * (m + 1)] };
    while out.len() < MOST_PLACES {
        let Some(cells) = table.best(a, &likeness) else { break };
        for (r, c) in &cells {
            (0..m).for_each(|k| likeness[r * m + k] = 0.0);
            (0..n).for_each(|k| likeness[k * m + c] = 0.0);
        }
        out.push(cells.into_iter().map(|(r, c)| (rows[r], columns[c], 0.0)).collect::<Pairs>());
        if a.items.len() * b.items.len() < LARGE {
            break;
        }
    }
    let told = |(i, j, _): (usize, usize, f32)| (i, j, alike(a, i, b, j));
    out.into_iter().map(|p| p.into_iter().map(told).collect()).collect()
}

/// Scores up to each pair of items, and how they came about.
struct Table<'a> {
    rows: &'a [usize],
    columns: &'a [usize],
    score: Vec<f32>,
    from: Vec<u8>,
}

impl Table<'_> {
    /// The cells of the best place.
    fn best(&mut self, a: &Unit, likeness: &[f32]) -> Option<Vec<(usize, usize)>> {
        let (n, m) = (self.rows.len(), self.columns.len());
        let width = m + 1;
        let step = |list: &[usize], k: usize| if k == 0 { 1 } else { list[k] - list[k - 1] };
        let mut best = (LEAST_SCORE, 0, 0);
        for r in 1..=n {
            let down = step(self.rows, r - 1) as f32;
            for c in 1..=m {
                let right = step(self.columns, c - 1) as f32;
                let (l, at) = (likeness[(r - 1) * m + c - 1], r * width + c);
                let passed = GAP * (down + right - 2.0);
                let over = match l > 0.0 {
                    // what is passed before the first is no loss
                    true => (self.score[at - width - 1] - passed).max(0.0) + worth(a, self.rows[r - 1], l),
                    false => -1.0,
                };
                let (left, up) = (self.score[at - 1] - GAP * right, self.score[at - width] - GAP * down);
                let (s, way) = if over >= left && over >= up {
                    (over, 1)
                } else if left >= up {
                    (left, 2)
                } else {
                    (up, 3)
                };
                (self.score[at], self.from[at]) = if s > 0.0 { (s, way) } else { (0.0, 0) };
                if way == 1 && self.score[at - width - 1] - passed <= 0.0 && s > 0.0 {
                    self.from[at] = 4;
                }
                if s > best.0 {
                    best = (s, r, c);
                }
            }
        }
        let (_, mut r, mut c) = best;
        let mut cells = Vec::new();
        while r > 0 && c > 0 && self.from[r * width + c] != 0 {
            match self.from[r * width + c] {
                way @ (1 | 4) => {
                    (r, c) = (r - 1, c - 1);
                    cells.push((r, c));
                    if way == 4 {
                        break;
                    }
                }
                2 => c -= 1,
                _ => r -= 1,
            }
        }
        cells.reverse();
        (!cells.is_empty()).then_some(cells)
    }
}
