//! Rows of equal statements, or of a few that repeat: `a a a a`, `a b a b`.
//!
//! Every stretch of such a row repeats within the row; as copies of each other the stretches would say nothing but that it
//! is a row. Longer periods are not looked for.

/// Longest period of a row, in statements.
const LONGEST_PERIOD: usize = 3;

pub struct Rows(Vec<Row>);

/// For each symbol: where the row around it begins, and to where it goes on with the same period.
struct Row {
    begin: Vec<u32>,
    end: Vec<u32>,
}

impl Rows {
    pub fn of<T: PartialEq>(symbols: &[T]) -> Rows {
        let row = |period: usize| {
            let n = symbols.len();
            let goes_on = |i: usize| i + period < n && symbols[i] == symbols[i + period];
            let mut begin: Vec<u32> = (0..n as u32).collect();
            (1..n).filter(|i| goes_on(i - 1)).for_each(|i| begin[i] = begin[i - 1]);
            let mut end: Vec<u32> = (0..n).map(|i| (i + period).min(n) as u32).collect();
            (0..n.saturating_sub(1)).rev().filter(|i| goes_on(*i)).for_each(|i| end[i] = end[i + 1]);
            Row { begin, end }
        };
        Rows((1..=LONGEST_PERIOD).map(row).collect())
    }

    /// Where the row begins of which a stretch of symbols is a part; the stretch itself where it is in none.
    pub fn begin(&self, at: usize, len: usize) -> usize {
        let periods = (1..=LONGEST_PERIOD.min(len / 2)).find(|p| self.0[p - 1].end[at] as usize >= at + len);
        periods.map_or(at, |p| self.0[p - 1].begin[at] as usize)
    }
}

#[cfg(test)]
mod tests {
    use super::Rows;

    #[test]
    fn stretches_of_a_row() {
        //            0  1  2  3  4  5  6  7  8  9
        let symbols = [9, 1, 1, 1, 1, 8, 2, 3, 2, 3];
        let rows = Rows::of(&symbols);
        // place, length, where its row begins
        for (at, len, begin) in [(1, 2, 1), (2, 2, 1), (3, 2, 1), (2, 1, 2), (3, 3, 3), (6, 4, 6), (6, 2, 6), (5, 4, 5)]
        {
            assert_eq!(rows.begin(at, len), begin, "{len} from {at}");
        }
        let longer = [2, 3, 2, 3, 2, 3, 2];
        assert_eq!([0, 1, 2, 3].map(|i| Rows::of(&longer).begin(i, 4)), [0, 0, 0, 0]);
    }
}
