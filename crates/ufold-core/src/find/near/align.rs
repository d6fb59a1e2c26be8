//! Where two units have the same statements in the same order, others between them allowed: local alignment of their
//! items (Smith and Waterman, 1981), with what is equal in statements of one shape weighed by their names and literals.

use super::units::Unit;
use crate::find::facts::atom;

/// What a statement that only one of the two has costs.
const GAP: f32 = 0.5;

/// Alignments of two units.
const MOST_PLACES: usize = 3;

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

/// The best places, the best first; within one unit below its diagonal.
pub(super) fn aligned(a: &Unit, b: &Unit, same: bool) -> Vec<Pairs> {
    let (n, m) = (a.items.len(), b.items.len());
    let width = m + 1;
    let mut likeness = vec![0.0f32; n * m];
    for i in 0..n {
        for j in (if same { i + 1 } else { 0 })..m {
            likeness[i * m + j] = alike(a, i, b, j);
        }
    }
    let mut out = Vec::new();
    let mut score = vec![0.0f32; (n + 1) * width];
    let mut from = vec![0u8; (n + 1) * width];
    for _ in 0..MOST_PLACES {
        let mut best = (0.0f32, 0, 0);
        for i in 1..=n {
            for j in 1..=m {
                let l = likeness[(i - 1) * m + j - 1];
                let at = i * width + j;
                let over = if l > 0.0 { score[at - width - 1] + worth(a, i - 1, l) } else { -1.0 };
                let (left, up) = (score[at - 1] - GAP, score[at - width] - GAP);
                let (s, d) = if over >= left && over >= up {
                    (over, 1)
                } else if left >= up {
                    (left, 2)
                } else {
                    (up, 3)
                };
                (score[at], from[at]) = if s > 0.0 { (s, d) } else { (0.0, 0) };
                if score[at] > best.0 {
                    best = (score[at], i, j);
                }
            }
        }
        if best.0 < 3.0 {
            break;
        }
        let (_, mut i, mut j) = best;
        let mut pairs = Pairs::new();
        while from[i * width + j] != 0 {
            match from[i * width + j] {
                1 => {
                    (i, j) = (i - 1, j - 1);
                    pairs.push((i, j, likeness[i * m + j]));
                }
                2 => j -= 1,
                _ => i -= 1,
            }
        }
        pairs.reverse();
        for (i, j, _) in &pairs {
            (0..m).for_each(|k| likeness[i * m + k] = 0.0);
            (0..n).for_each(|k| likeness[k * m + j] = 0.0);
        }
        out.push(pairs);
        if n * m > 2500 && out.len() < MOST_PLACES {
            continue;
        }
        break;
    }
    out
}
