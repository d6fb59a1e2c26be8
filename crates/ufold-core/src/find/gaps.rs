//! Groups that go on behind a statement which some of their copies lack.
//!
//! One such statement, not more: where the copies grew further apart their parts are findings by themselves.

use super::facts::{StatementFact, StatementRole};
use super::repeats::{Columns, Finder, Group, MOST_HOLES, Run};

/// Copies that are tried as the one without the statement.
const MOST_TRIED: usize = 4;

impl Finder<'_> {
    /// What the groups become with what follows behind such a statement.
    pub(super) fn across_gaps(&self, groups: &[Group]) -> Vec<Group> {
        groups.iter().filter_map(|g| self.across(g)).collect()
    }

    fn across(&self, g: &Group) -> Option<Group> {
        let rest: Vec<&[StatementFact]> = g.runs.iter().map(|r| self.after(*r)).collect();
        let skips = (0..rest.len().min(MOST_TRIED)).find_map(|i| skips(&rest, rest[i].first()?.shape))?;
        let tail = |i: usize| &rest[i][skips[i]..];
        let common =
            |k: &usize| (0..rest.len()).all(|i| tail(i).get(*k).map(|s| s.shape) == tail(0).get(*k).map(|s| s.shape));
        let len = (0..tail(0).len()).take_while(common).count() as u32;
        let runs: Vec<Run> = g
            .runs
            .iter()
            .zip(&skips)
            .map(|(r, skip)| Run { first: r.first + r.len + *skip as u32, len, ..*r })
            .collect();
        if len == 0 || self.weight(runs[0]) < self.options.smallest / 2 {
            return None;
        }
        let columns = Columns::new(self.atoms(runs[0]));
        let agreed: Option<Vec<(usize, f64, Columns)>> =
            runs[1..].iter().map(|r| self.agree(runs[0], *r, &columns)).collect();
        let agreed = agreed?;
        let holes = g.holes + agreed.iter().map(|a| a.0).max().unwrap_or(0);
        let similarity = agreed.iter().map(|a| a.1).fold(g.similarity, f64::min);
        let whole = |(r, skip): (&Run, &usize)| Run { len: r.len + *skip as u32 + len, ..*r };
        let runs: Vec<Run> = g.runs.iter().zip(&skips).map(whole).collect();
        let apart = self.apart(&runs);
        (apart && holes <= MOST_HOLES).then_some(Group { runs, holes, similarity })
    }

    /// The plain statements after a run in its block.
    fn after(&self, r: Run) -> &[StatementFact] {
        let f = &self.files[r.file as usize];
        let block = f.blocks.iter().find(|b| b.statements.0 <= r.first && r.first < b.statements.1);
        let end = block.map_or(r.first + r.len, |b| b.statements.1);
        let rest = &f.statements[(r.first + r.len) as usize..end as usize];
        let plain = rest.iter().take_while(|s| s.role == StatementRole::Plain).count();
        &rest[..plain]
    }
}

/// How many statements each copy has before one of this shape; some have one, and some have none.
fn skips(rest: &[&[StatementFact]], shape: u64) -> Option<Vec<usize>> {
    let skip = |r: &&[StatementFact]| r.iter().take(2).position(|s| s.shape == shape);
    let all: Vec<usize> = rest.iter().map(skip).collect::<Option<_>>()?;
    (all.contains(&1)).then_some(all)
}
