//! Code as rows of statements, each without the blocks in it: what near-copies are looked for in.
//!
//! A unit is a function with what is in it; of one that is very long the functions in it are units by themselves. What
//! stands in no function is cut into rows of its own.

use std::hash::Hasher;

use rustc_hash::FxHasher;

use crate::find::facts::{FileFacts, StatementRole, atom, word_hash};
use crate::tree::mix;

/// Items of the longest unit.
pub(super) const LONGEST: usize = 200;

/// Most that one statement counts, in names and literals.
const HEAVIEST: u32 = 12;

/// A statement without the blocks in it.
pub(super) struct Item {
    /// In its file.
    pub statement: u32,
    /// The block it stands in, in its file.
    pub block: u32,
    /// The statement around it, in its unit.
    pub parent: Option<u32>,
    /// Behind the last item in it, in its unit.
    pub end: u32,
    pub header: u64,
    pub shape: u64,
    pub skeleton: u64,
    /// Range in the unit's atoms: its own ones.
    pub atoms: (u32, u32),
    /// How much it counts.
    pub weight: u32,
    /// A copy can begin or end here, and go across.
    pub plain: bool,
}

pub(super) struct Unit {
    pub file: u32,
    pub items: Vec<Item>,
    pub atoms: Vec<u32>,
}

impl Unit {
    pub fn atoms(&self, i: usize) -> &[u32] {
        let (a, z) = self.items[i].atoms;
        &self.atoms[a as usize..z as usize]
    }

    /// With all names and literals, and with its members only.
    fn contents(&self, i: usize) -> (u64, u64) {
        let (mut exact, mut members) = (FxHasher::default(), FxHasher::default());
        [&mut exact, &mut members].into_iter().for_each(|h| h.write_u64(self.items[i].header));
        members.write_u8(1);
        for a in self.atoms(i) {
            exact.write_u32(atom::hash(*a));
            if atom::kind(*a) == atom::MEMBER {
                members.write_u32(atom::hash(*a));
            }
        }
        (mix(exact.finish()), mix(members.finish()))
    }

    /// What two units have in common when they have copies of the same code: statements by themselves, and runs of two or
    /// three.
    pub fn pieces(&self) -> Vec<u64> {
        let n = self.items.len();
        let contents: Vec<(u64, u64)> = (0..n).map(|i| self.contents(i)).collect();
        let join = |salt: u64, list: &[u64]| {
            let mut h = FxHasher::default();
            h.write_u64(salt);
            list.iter().for_each(|x| h.write_u64(*x));
            mix(h.finish())
        };
        let mut out = Vec::with_capacity(4 * n);
        for i in (0..n).filter(|i| self.items[*i].plain) {
            if self.items[i].weight > 2 {
                out.push(contents[i].0);
            }
            if self.items[i].weight > 3 {
                out.push(contents[i].1);
            }
            // the shape of what holds others says as much as two
            if self.items[i].end as usize > i + 1 {
                out.extend([4, 5].map(|salt| join(salt, &[self.items[i].shape])));
            }
            if i + 1 < n {
                out.push(join(2, &[contents[i].1, contents[i + 1].1]));
            }
            if i + 2 < n {
                out.push(join(3, &[self.items[i].header, self.items[i + 1].header, self.items[i + 2].header]));
            }
        }
        out.sort_unstable();
        out.dedup();
        out
    }
}

impl Unit {
    /// Some statement with its names stands in it more than once.
    pub fn repeats(&self) -> bool {
        let mut seen = rustc_hash::FxHashMap::default();
        for i in (0..self.items.len()).filter(|i| self.items[*i].plain && self.items[*i].weight > 4) {
            *seen.entry(self.contents(i).1).or_insert(0) += 1;
        }
        seen.values().filter(|n| **n > 1).count() > 1
    }
}

/// The units of a file.
pub(super) fn units(file: u32, f: &FileFacts) -> Vec<Unit> {
    let mut order: Vec<u32> = (0..f.statements.len() as u32).collect();
    let bytes = |s: u32| f.statements[s as usize].bytes;
    order.sort_by_key(|s| (bytes(*s).0, std::cmp::Reverse(bytes(*s).1)));
    let mut block = vec![0u32; f.statements.len()];
    for (i, b) in f.blocks.iter().enumerate() {
        block[b.statements.0 as usize..b.statements.1 as usize].fill(i as u32);
    }
    let mut out = Vec::new();
    for (inside, rows) in rows(f, &order) {
        for part in rows.chunks(LONGEST) {
            out.push(unit(file, f, part, &block, inside));
        }
    }
    out.retain(|u| u.items.len() > 1);
    out
}

/// Statements in order, those of each unit together; whether they stand in a function.
fn rows(f: &FileFacts, order: &[u32]) -> Vec<(bool, Vec<u32>)> {
    let start = |s: u32| f.statements[s as usize].bytes.0;
    let mut functions: Vec<usize> = (0..f.functions.len()).collect();
    functions.sort_by_key(|i| (f.functions[*i].bytes.0, std::cmp::Reverse(f.functions[*i].bytes.1)));
    let mut owner: Vec<Option<usize>> = vec![None; order.len()];
    let mut until = 0;
    for i in functions {
        let (a, z) = f.functions[i].bytes;
        if a < until {
            continue;
        }
        // a function that is itself a statement stands outside of what is in it
        let from = order.partition_point(|s| start(*s) < a);
        let from = from + order[from..].iter().take_while(|s| start(**s) == a).count();
        let to = from + order[from..].partition_point(|s| start(*s) < z);
        owner[from..to].fill(Some(i));
        if to - from <= LONGEST {
            until = z;
        }
    }
    let mut out: Vec<(Option<usize>, Vec<u32>)> = Vec::new();
    let mut at: rustc_hash::FxHashMap<Option<usize>, usize> = Default::default();
    for (s, o) in order.iter().zip(owner) {
        let k = *at.entry(o).or_insert_with(|| {
            out.push((o, Vec::new()));
            out.len() - 1
        });
        out[k].1.push(*s);
    }
    out.into_iter().map(|(o, rows)| (o.is_some(), rows)).collect()
}

fn unit(file: u32, f: &FileFacts, rows: &[u32], block: &[u32], inside: bool) -> Unit {
    let language = u64::from(word_hash(&f.language));
    let mut u = Unit { file, items: Vec::with_capacity(rows.len()), atoms: Vec::new() };
    let mut around: Vec<u32> = Vec::new();
    for (i, s) in rows.iter().enumerate() {
        let fact = &f.statements[*s as usize];
        while around.last().is_some_and(|a| f.statements[rows[*a as usize] as usize].bytes.1 <= fact.bytes.0) {
            around.pop();
        }
        let from = u.atoms.len() as u32;
        let (mut at, end) = fact.atoms;
        // those of the statements in it are theirs
        for inner in rows[i + 1..].iter().map(|r| &f.statements[*r as usize]).take_while(|x| x.bytes.0 < fact.bytes.1) {
            if inner.atoms.0 >= at {
                u.atoms.extend(&f.atoms[at as usize..inner.atoms.0 as usize]);
                at = inner.atoms.1;
            }
        }
        u.atoms.extend(&f.atoms[at as usize..end.max(at) as usize]);
        let own = u.atoms.len() as u32 - from;
        // methods of a class are copies by themselves
        let plain = match fact.role {
            StatementRole::Plain => true,
            StatementRole::Definition => inside,
            StatementRole::Holder | StatementRole::Barrier => false,
        };
        u.items.push(Item {
            statement: *s,
            block: block[*s as usize],
            parent: around.last().copied(),
            end: i as u32 + 1,
            header: fact.header ^ language,
            shape: fact.shape ^ language,
            skeleton: fact.skeleton ^ language,
            atoms: (from, from + own),
            weight: 1 + own.min(HEAVIEST),
            plain,
        });
        for a in &around {
            u.items[*a as usize].end = i as u32 + 1;
        }
        around.push(i as u32);
    }
    u
}
