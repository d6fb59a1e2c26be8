//! Suffix array and longest common prefixes of a sequence of numbers, and the maximal repeats in it.
//!
//! Prefix doubling: a round sorts by the first 2^k symbols, and the number of rounds is the logarithm of the longest
//! repeat, five or six for real code; so O(n log n) a round in practice near linear. Fails (slow, not wrong) on
//! sequences that repeat themselves for thousands of symbols. Kasai and others (2001) for the prefixes; maximal repeats
//! from the interval tree of Abouelhoda, Kurtz and Ohlebusch (2004).

use rayon::prelude::*;

pub struct Suffixes {
    pub sorted: Vec<u32>,
    /// `common[i]`: symbols that suffixes `sorted[i - 1]` and `sorted[i]` share.
    pub common: Vec<u32>,
}

pub fn suffixes(symbols: &[u32]) -> Suffixes {
    let n = symbols.len();
    let mut rank: Vec<u32> = symbols.to_vec();
    let mut sorted: Vec<u32> = (0..n as u32).collect();
    let mut step = 0usize;
    loop {
        let key = |i: u32| {
            let i = i as usize;
            let next = if step == 0 { 0 } else { rank.get(i + step).map_or(0, |r| r + 1) };
            (rank[i], next)
        };
        sorted.par_sort_unstable_by_key(|i| key(*i));
        let mut fresh = vec![0u32; n];
        let mut r = 0;
        for w in 1..n {
            r += u32::from(key(sorted[w]) != key(sorted[w - 1]));
            fresh[sorted[w] as usize] = r;
        }
        rank = fresh;
        if n == 0 || r as usize == n - 1 {
            break;
        }
        step = (step * 2).max(1);
    }
    let common = common_prefixes(symbols, &sorted, &rank);
    Suffixes { sorted, common }
}

fn common_prefixes(symbols: &[u32], sorted: &[u32], rank: &[u32]) -> Vec<u32> {
    let n = symbols.len();
    let mut common = vec![0u32; n];
    let mut h = 0usize;
    for i in 0..n {
        let r = rank[i] as usize;
        if r == 0 {
            h = 0;
            continue;
        }
        let j = sorted[r - 1] as usize;
        while i + h < n && j + h < n && symbols[i + h] == symbols[j + h] {
            h += 1;
        }
        common[r] = h as u32;
        h = h.saturating_sub(1);
    }
    common
}

/// Calls `f(length, range of sorted)` for each repeat that can't be made longer to the right, shortest last.
pub fn right_maximal(s: &Suffixes, mut f: impl FnMut(u32, std::ops::Range<usize>)) {
    let n = s.sorted.len();
    let mut stack: Vec<(u32, usize)> = Vec::new();
    for i in 1..=n {
        let h = if i < n { s.common[i] } else { 0 };
        let mut left = i - 1;
        while let Some(&(top, at)) = stack.last() {
            if top <= h {
                break;
            }
            stack.pop();
            f(top, at..i);
            left = at;
        }
        if h > 0 && stack.last().is_none_or(|(top, _)| *top < h) {
            stack.push((h, left));
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn agrees_with_the_plain_definition(symbols in proptest::collection::vec(0u32..4, 0..60)) {
            let s = suffixes(&symbols);
            let mut expected: Vec<u32> = (0..symbols.len() as u32).collect();
            expected.sort_by_key(|i| &symbols[*i as usize..]);
            prop_assert_eq!(&s.sorted, &expected);
            let mut seen = Vec::new();
            right_maximal(&s, |len, range| seen.push((len, range)));
            for (len, range) in seen {
                let first = s.sorted[range.start] as usize;
                for i in range.clone() {
                    let at = s.sorted[i] as usize;
                    prop_assert_eq!(&symbols[at..at + len as usize], &symbols[first..first + len as usize]);
                }
            }
        }
    }
}
