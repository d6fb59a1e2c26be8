//! Which things hang together: a cut of a graph of uses into parts, by an explicit cost.
//!
//! The cost is that of each part as a file (one price, and what its length costs, which grows faster than the length)
//! and of each bond that is cut. Things that use each other in a circle are never parted, and no two parts come to use
//! each other in a circle. Cutting at the least cost is hard (M. R. Garey, D. S. Johnson, L. Stockmeyer, “Some Simplified
//! NP-Complete Graph Problems”, Theoretical Computer Science 1, 1976), so parts grow from single things, the closest
//! first, and then single things change sides while that costs less: a cut that is good, not one that is best.

use std::collections::BTreeMap;

/// What is to be parted. Things are numbered from 0.
#[derive(Clone, Debug, Default)]
pub struct Graph {
    /// Lines of each.
    pub lines: Vec<usize>,
    /// Which of them stay where they are: part 0.
    pub stays: Vec<bool>,
    /// Parts by themselves: they may stay, but come together with nothing else.
    pub alone: Vec<usize>,
    /// The first uses the second.
    pub uses: Vec<(usize, usize)>,
    /// What stays uses these, wherever they are.
    pub kept: Vec<usize>,
    /// How much two of them belong together.
    pub bonds: Vec<(usize, usize, f64)>,
}

/// Price of one more file.
const PRICE: f64 = 2.0;
/// Lines of a file that cost one: a share of all, within these bounds.
const UNIT_LINES: (f64, f64) = (4.0, 60.0);
const UNIT_SHARE: f64 = 0.15;
/// How the cost grows with the length.
const GROWTH: f64 = 1.5;
/// Rounds in which single things change sides.
const ROUNDS: usize = 4;
/// A loss or gain that is none.
const TINY: f64 = 1e-9;

/// The part of each thing; 0 is what stays, others are numbered so that each uses only those before it, and part 0 may use
/// all.
pub fn parts(g: &Graph) -> Vec<usize> {
    let mut cut = Cut::new(g);
    cut.grow();
    for _ in 0..ROUNDS {
        if !cut.change_sides() {
            break;
        }
    }
    cut.numbered()
}

struct Cut<'g> {
    g: &'g Graph,
    /// The part of each thing; part 0 stays.
    part: Vec<usize>,
    lines: BTreeMap<usize, usize>,
    unit: f64,
}

impl<'g> Cut<'g> {
    fn new(g: &'g Graph) -> Cut<'g> {
        let n = g.lines.len();
        let all = g.lines.iter().sum::<usize>() as f64;
        let unit = (all * UNIT_SHARE).clamp(UNIT_LINES.0, UNIT_LINES.1);
        let mut cut = Cut { g, part: (1..=n).collect(), lines: BTreeMap::new(), unit };
        (0..n).filter(|i| g.stays[*i]).for_each(|i| cut.part[i] = 0);
        // what uses each other in a circle is one
        while let Some((a, b)) = cut.circle() {
            let stay = !cut.may_be_one(a, b);
            cut.join(a, b);
            if stay {
                cut.join(0, a.min(b));
            }
        }
        cut.lines.insert(0, 0);
        for i in 0..n {
            *cut.lines.entry(cut.part[i]).or_default() += g.lines[i];
        }
        cut
    }

    fn cost_of(&self, lines: usize) -> f64 {
        (lines as f64 / self.unit).powf(GROWTH)
    }

    fn join(&mut self, a: usize, b: usize) {
        let (to, from) = (a.min(b), a.max(b));
        self.part.iter_mut().filter(|p| **p == from).for_each(|p| *p = to);
        if let Some(lines) = self.lines.remove(&from) {
            *self.lines.entry(to).or_default() += lines;
        }
    }

    /// Something in the part goes with nothing else.
    fn is_alone(&self, part: usize) -> bool {
        part != 0 && self.g.alone.iter().any(|i| self.part[*i] == part)
    }

    fn may_be_one(&self, a: usize, b: usize) -> bool {
        a == 0 || b == 0 || !self.is_alone(a) && !self.is_alone(b)
    }

    /// Which part uses which.
    fn edges(&self) -> Vec<(usize, usize)> {
        let own = self.g.uses.iter().map(|(a, b)| (self.part[*a], self.part[*b]));
        let kept = self.g.kept.iter().map(|b| (0, self.part[*b]));
        let mut all: Vec<(usize, usize)> = own.chain(kept).filter(|(a, b)| a != b).collect();
        all.sort_unstable();
        all.dedup();
        all
    }

    /// Two parts of a circle.
    fn circle(&self) -> Option<(usize, usize)> {
        let edges = self.edges();
        edges.iter().copied().find(|(a, b)| reaches(&edges, *b, *a, None))
    }

    /// Parts that would use each other in a circle when these two were one.
    fn would_circle(&self, edges: &[(usize, usize)], a: usize, b: usize) -> bool {
        reaches(edges, a, b, Some((a, b))) || reaches(edges, b, a, Some((b, a)))
    }

    fn grow(&mut self) {
        loop {
            let edges = self.edges();
            let mut bonds: BTreeMap<(usize, usize), f64> = BTreeMap::new();
            let ids: Vec<usize> = self.lines.keys().copied().collect();
            // neighbours, and those that belong together
            bonds.extend(ids.windows(2).map(|w| ((w[0], w[1]), 0.0)));
            bonds.extend(ids.iter().filter(|a| **a != 0).map(|a| ((0, *a), 0.0)));
            for (a, b, w) in &self.g.bonds {
                let (a, b) = (self.part[*a], self.part[*b]);
                if a != b {
                    *bonds.entry((a.min(b), a.max(b))).or_default() += w;
                }
            }
            let mut all: Vec<(f64, (usize, usize))> = Vec::new();
            for ((a, b), w) in bonds {
                let (x, y) = (self.lines[&a], self.lines[&b]);
                let gain = w + PRICE + self.cost_of(x) + self.cost_of(y) - self.cost_of(x + y);
                if gain > TINY {
                    // of large ones more is needed to be close
                    let size = ((x.max(5) * y.max(5)) as f64).sqrt();
                    all.push(((w + 0.1) / size, (a, b)));
                }
            }
            all.sort_by(|a, b| b.0.total_cmp(&a.0).then(a.1.cmp(&b.1)));
            let fits = |(a, b): (usize, usize)| self.may_be_one(a, b) && !self.would_circle(&edges, a, b);
            match all.into_iter().find(|(_, pair)| fits(*pair)) {
                Some((_, (a, b))) => self.join(a, b),
                None => return,
            }
        }
    }

    /// Single things go to the part where they cost least; whether one went.
    fn change_sides(&mut self) -> bool {
        let mut changed = false;
        for i in (0..self.part.len()).filter(|i| !self.g.stays[*i]) {
            let own = self.part[i];
            let mut near: Vec<usize> = self.lines.keys().copied().filter(|p| *p != own).collect();
            near.sort_by(|a, b| self.bond(i, *b).total_cmp(&self.bond(i, *a)).then(a.cmp(b)));
            for to in near {
                let (x, y, n) = (self.lines[&own], self.lines[&to], self.g.lines[i]);
                let files = if x == n && own != 0 { PRICE } else { 0.0 };
                let before = self.cost_of(x) + self.cost_of(y) + files;
                let after = self.cost_of(x - n) + self.cost_of(y + n);
                let alone = self.is_alone(to) || to != 0 && self.g.alone.contains(&i);
                if alone || before - after + self.bond(i, to) - self.bond(i, own) <= TINY {
                    continue;
                }
                self.part[i] = to;
                if self.circle().is_some() {
                    self.part[i] = own;
                    continue;
                }
                self.lines.insert(own, x - n);
                self.lines.insert(to, y + n);
                self.lines.retain(|p, _| *p == 0 || self.part.contains(p));
                changed = true;
                break;
            }
        }
        changed
    }

    /// How much a thing belongs to a part.
    fn bond(&self, i: usize, part: usize) -> f64 {
        let other = |(a, b, w): &(usize, usize, f64)| {
            let o = if *a == i { *b } else { *a };
            ((*a == i || *b == i) && o != i && self.part[o] == part).then_some(*w)
        };
        self.g.bonds.iter().filter_map(other).sum()
    }

    fn numbered(&self) -> Vec<usize> {
        let edges = self.edges();
        let mut ids: Vec<usize> = self.part.iter().copied().filter(|p| *p != 0).collect();
        ids.sort_unstable();
        ids.dedup();
        let mut order: Vec<usize> = Vec::new();
        while order.len() < ids.len() {
            let rest: Vec<usize> = ids.iter().copied().filter(|p| !order.contains(p)).collect();
            let free = |p: &&usize| !edges.iter().any(|(a, b)| a == *p && *b != 0 && !order.contains(b));
            let next = rest.iter().find(free).or(rest.first());
            order.extend(next);
        }
        let number = |p: &usize| if *p == 0 { 0 } else { 1 + order.iter().position(|o| o == p).unwrap_or(0) };
        self.part.iter().map(number).collect()
    }
}

/// Whether there is a way from one part to another; without the edge that is left out.
fn reaches(edges: &[(usize, usize)], from: usize, to: usize, without: Option<(usize, usize)>) -> bool {
    let (mut seen, mut open) = (vec![from], vec![from]);
    while let Some(x) = open.pop() {
        for (_, b) in edges.iter().filter(|e| e.0 == x && Some(**e) != without) {
            if *b == to {
                return true;
            }
            if !seen.contains(b) {
                seen.push(*b);
                open.push(*b);
            }
        }
    }
    false
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// Things of so many lines; `uses` are bonds too.
    fn graph(lines: &[usize], uses: &[(usize, usize)]) -> Graph {
        let bonds = uses.iter().map(|(a, b)| (*a, *b, 2.0)).collect();
        let stays = vec![false; lines.len()];
        Graph { lines: lines.to_vec(), stays, uses: uses.to_vec(), bonds, ..Graph::default() }
    }

    #[test]
    fn two_concerns_are_two_parts() {
        let g = graph(&[80, 80, 80, 80, 80, 80], &[(0, 1), (1, 2), (0, 2), (3, 4), (4, 5), (3, 5)]);
        let p = parts(&g);
        assert_eq!((p[0], p[3]), (p[1], p[4]), "{p:?}");
        assert_eq!((p[1], p[4]), (p[2], p[5]), "{p:?}");
        assert_ne!(p[0], p[3]);
    }

    #[test]
    fn what_is_alone_goes_alone_or_stays() {
        let mut g = graph(&[5, 80, 80, 80, 80], &[(1, 2), (3, 4), (2, 4)]);
        g.stays[0] = true;
        g.alone = vec![2];
        let p = parts(&g);
        assert!(p[2] == 0 || (0..5).all(|i| i == 2 || p[i] != p[2]), "{p:?}");
        // in a circle with something else it can't be alone
        g.uses.push((2, 1));
        let p = parts(&g);
        assert_eq!((p[1], p[2]), (0, 0), "{p:?}");
    }

    #[test]
    fn a_short_file_is_one_part() {
        let p = parts(&graph(&[3, 3, 3, 3], &[(0, 1), (1, 2), (2, 3)]));
        assert!(p.iter().all(|x| *x == p[0]), "{p:?}");
    }

    #[test]
    fn what_is_kept_and_uses_what_stays_stays() {
        let mut g = graph(&[200, 200, 200], &[(0, 1)]);
        g.stays[1] = true;
        g.kept = vec![0];
        let p = parts(&g);
        assert_eq!((p[0], p[1]), (0, 0));
        g.kept.clear();
        assert_ne!(parts(&g)[0], 0, "nothing holds it");
    }

    fn any_graph() -> impl Strategy<Value = Graph> {
        (2usize..12).prop_flat_map(|n| {
            let edge = || prop::collection::vec((0..n, 0..n), 0..n * 2);
            let bonds = prop::collection::vec((0..n, 0..n, 0.0..4.0f64), 0..n * 2);
            let each = (prop::collection::vec(1usize..300, n), prop::collection::vec(prop::bool::weighted(0.2), n));
            let some = || prop::collection::vec(0..n, 0..3);
            let graph = |((lines, stays), uses, (kept, alone), bonds)| Graph { lines, stays, alone, uses, kept, bonds };
            (each, edge(), (some(), some()), bonds).prop_map(graph)
        })
    }

    proptest! {
        #[test]
        fn parts_use_only_those_before_them(g in any_graph()) {
            let p = parts(&g);
            prop_assert!(g.stays.iter().zip(&p).all(|(stays, part)| !stays || *part == 0));
            let to_what_stays = |a: usize| g.uses.iter().any(|(x, y)| p[*x] == a && p[*y] == 0);
            for (a, b) in &g.uses {
                prop_assert!(p[*a] == 0 || p[*b] == 0 || p[*b] <= p[*a], "{:?}", p);
                // what stays uses nothing that comes to use it
                let back = p[*a] == 0 && p[*b] != 0 && to_what_stays(p[*b]);
                prop_assert!(!back, "{:?}", p);
            }
            for i in g.alone.iter().filter(|i| p[**i] != 0) {
                prop_assert!((0..p.len()).all(|j| j == *i || p[j] != p[*i]), "{:?}", p);
            }
            let largest = p.iter().copied().max().unwrap_or(0);
            for k in 1..=largest {
                prop_assert!(p.contains(&k), "a part with nothing in it: {:?}", p);
            }
        }
    }
}
