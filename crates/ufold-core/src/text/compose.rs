//! Edits that come after each other as one list of edits of the first text.

use super::{Edit, EditError, Span};

/// A piece of a text: what stays of the first one, or what is new.
enum Piece {
    Kept(Span),
    New(String),
}

impl Piece {
    fn len(&self) -> usize {
        match self {
            Piece::Kept(s) => s.end - s.start,
            Piece::New(t) => t.len(),
        }
    }

    /// Its bytes from `a` up to `z`.
    fn part(&self, a: usize, z: usize) -> Piece {
        match self {
            Piece::Kept(s) => Piece::Kept(Span::new(s.start + a, s.start + z)),
            Piece::New(t) => Piece::New(t[a..z].to_string()),
        }
    }
}

/// Edits of a text that do what `first`, and then `second` on what that made, do. `len`: bytes of the text.
pub fn compose_edits(len: usize, first: &[Edit], second: &[Edit]) -> Result<Vec<Edit>, EditError> {
    let pieces = edited(vec![Piece::Kept(Span::new(0, len))], first)?;
    let pieces = edited(pieces, second)?;
    let mut out: Vec<Edit> = Vec::new();
    let (mut at, mut new) = (0, String::new());
    for p in pieces.into_iter().chain([Piece::Kept(Span::new(len, len))]) {
        match p {
            Piece::New(t) => new.push_str(&t),
            Piece::Kept(s) if s.start == s.end && s.end < len => {}
            Piece::Kept(s) => {
                if at < s.start || !new.is_empty() {
                    out.push(Edit::new(at, s.start, std::mem::take(&mut new)));
                }
                at = s.end;
            }
        }
    }
    Ok(out)
}

fn edited(pieces: Vec<Piece>, edits: &[Edit]) -> Result<Vec<Piece>, EditError> {
    let mut sorted: Vec<&Edit> = edits.iter().collect();
    sorted.sort_by_key(|e| (e.span.start, e.span.end));
    let mut out = Vec::new();
    let mut rest = pieces.into_iter();
    // a piece that was begun, with the bytes of it that were taken
    let mut open: Option<(Piece, usize)> = None;
    let mut at = 0;
    let mut take = |until: usize, at: &mut usize, keep: Option<&mut Vec<Piece>>| {
        let mut kept = keep;
        while *at < until {
            let Some((piece, from)) = open.take().or_else(|| rest.next().map(|p| (p, 0))) else {
                return Err(EditError::Outside(until));
            };
            let n = (piece.len() - from).min(until - *at);
            if let Some(list) = &mut kept {
                list.push(piece.part(from, from + n));
            }
            *at += n;
            if from + n < piece.len() {
                open = Some((piece, from + n));
            }
        }
        Ok(())
    };
    for e in sorted {
        if e.span.start < at {
            return Err(EditError::Overlap(e.span.start));
        }
        take(e.span.start, &mut at, Some(&mut out))?;
        take(e.span.end, &mut at, None)?;
        out.push(Piece::New(e.text.clone()));
    }
    if let Some((piece, from)) = open {
        let end = piece.len();
        out.push(piece.part(from, end));
    }
    out.extend(rest);
    Ok(out)
}

#[cfg(test)]
mod tests {
    use super::super::apply_edits;
    use super::*;
    use proptest::prelude::*;

    fn edits(cuts: &[usize], len: usize, word: &str) -> Vec<Edit> {
        let mut at: Vec<usize> = cuts.iter().map(|c| c % (len + 1)).collect();
        at.sort_unstable();
        at.chunks_exact(2).enumerate().map(|(i, c)| Edit::new(c[0], c[1], word.repeat(i))).collect()
    }

    proptest! {
        /// One list of edits does what two do one after the other.
        #[test]
        fn composed_edits_do_what_both_do(text in "[a-z]{0,30}", a in proptest::collection::vec(0usize..99, 0..8),
                                          b in proptest::collection::vec(0usize..99, 0..8)) {
            let first = edits(&a, text.len(), "AB");
            let between = apply_edits(&text, &first).unwrap();
            let second = edits(&b, between.len(), "C");
            let whole = compose_edits(text.len(), &first, &second).unwrap();
            prop_assert_eq!(apply_edits(&text, &whole).unwrap(), apply_edits(&between, &second).unwrap());
        }
    }
}
