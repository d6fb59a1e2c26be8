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
    let mut table = Table::new(a, b, same);
    let mut out = Vec::new();
    while out.len() < MOST_PLACES {
        let Some(path) = table.best() else { break };
        let told = |c: &Cell| {
            let (i, j) = (table.rows[c.row as usize], table.columns[c.column as usize]);
            (i, j, alike(a, i, b, j))
        };
        out.push(path.iter().map(told).collect::<Pairs>());
        if a.items.len() * b.items.len() < LARGE {
            break;
        }
        table.without(&path);
    }
    out
}

/// Two items that are like each other, by their numbers in the table.
#[derive(Clone, Copy)]
struct Cell {
    row: u32,
    column: u32,
    worth: f32,
}

/// The cells with something in them, row by row and from the left, and the items that rows and columns stand for.
struct Table {
    cells: Vec<Cell>,
    rows: Vec<usize>,
    columns: Vec<usize>,
}

/// No cell before this one.
const NONE: u32 = u32::MAX;

impl Table {
    fn new(a: &Unit, b: &Unit, same: bool) -> Table {
        // items that nothing of the other is like are only counted
        let (rows, columns) = (laid(a, b), laid(b, a));
        let mut cells = Vec::with_capacity(rows.len() * columns.len() / 2);
        for (r, i) in rows.iter().enumerate() {
            for (c, j) in columns.iter().enumerate().filter(|(_, j)| !same || **j > *i) {
                let likeness = alike(a, *i, b, *j);
                if likeness > 0.0 {
                    cells.push(Cell { row: r as u32, column: c as u32, worth: worth(a, *i, likeness) });
                }
            }
        }
        Table { cells, rows, columns }
    }

    /// The cells of the best place. What lies between two of them costs by its length: so a score counts with its distance
    /// from the corner, and the best to the left and above is a maximum.
    fn best(&self) -> Option<Vec<Cell>> {
        // of each cell the one before it
        let mut before: Vec<u32> = vec![NONE; self.cells.len()];
        // by column, the best of the rows above, and of the row at hand
        let mut above: Vec<(f32, u32)> = vec![(f32::MIN, NONE); self.columns.len()];
        let mut fresh: Vec<(u32, f32, u32)> = Vec::with_capacity(self.columns.len());
        let mut best = (LEAST_SCORE, NONE);
        let mut at = 0;
        for row in self.cells.chunk_by(|x, y| x.row == y.row) {
            let (mut left, mut seen) = ((f32::MIN, NONE), 0);
            for (k, cell) in row.iter().enumerate() {
                let (k, column) = ((at + k) as u32, cell.column as usize);
                for reached in &above[seen..column] {
                    if reached.0 > left.0 {
                        left = *reached;
                    }
                }
                seen = column;
                let far = GAP * (self.rows[cell.row as usize] + self.columns[column]) as f32;
                let passed = left.0 - far + 2.0 * GAP;
                // what is passed before the first is no loss
                let score = cell.worth + passed.max(0.0);
                if score <= 0.0 {
                    continue;
                }
                if passed > 0.0 {
                    before[k as usize] = left.1;
                }
                if score > best.0 {
                    best = (score, k);
                }
                fresh.push((cell.column, score + far, k));
            }
            for (c, score, k) in fresh.drain(..) {
                if score > above[c as usize].0 {
                    above[c as usize] = (score, k);
                }
            }
            at += row.len();
        }
        let known = |k: u32| (k != NONE).then_some(k);
        let way = std::iter::successors(known(best.1), |k| known(before[*k as usize]));
        let mut path: Vec<Cell> = way.map(|k| self.cells[k as usize]).collect();
        path.reverse();
        (!path.is_empty()).then_some(path)
    }

    /// Takes the rows and columns of a place away.
    fn without(&mut self, path: &[Cell]) {
        let (mut rows, mut columns) = (vec![false; self.rows.len()], vec![false; self.columns.len()]);
        for c in path {
            (rows[c.row as usize], columns[c.column as usize]) = (true, true);
        }
        self.cells.retain(|c| !rows[c.row as usize] && !columns[c.column as usize]);
    }
}
