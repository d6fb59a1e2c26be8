//! Unified diffs with the changed part of each line marked.

use serde::Serialize;
use similar::{Algorithm, ChangeTag, DiffOp, TextDiff, capture_diff_slices};

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
pub enum DiffTag {
    Same,
    Removed,
    Added,
}

/// One line of a hunk: its tag and its pieces, each with a mark that says whether it is what changed in the line.
#[derive(Clone, Debug)]
pub struct DiffLine {
    pub tag: DiffTag,
    pub pieces: Vec<(bool, String)>,
}

/// The hunks of one file, each with its `@@` header.
#[derive(Clone, Debug)]
pub struct FileDiff {
    pub hunks: Vec<(String, Vec<DiffLine>)>,
    pub added: usize,
    pub removed: usize,
}

/// A run of lines that two texts have alike, or that stand for each other: whether they are the same, and how many each has.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Run {
    pub same: bool,
    pub old: usize,
    pub new: usize,
}

/// How two texts lie beside each other; blanks around a line do not count.
pub fn side_by_side(old: &[String], new: &[String]) -> Vec<Run> {
    let trimmed = |lines: &'_ [String]| lines.iter().map(|l| l.trim().to_string()).collect::<Vec<_>>();
    let ops = capture_diff_slices(Algorithm::Patience, &trimmed(old), &trimmed(new));
    let run = |op: &DiffOp| Run {
        same: matches!(op, DiffOp::Equal { .. }),
        old: op.old_range().len(),
        new: op.new_range().len(),
    };
    ops.iter().map(run).collect()
}

/// Three lines of context around each change.
pub fn file_diff(old: &str, new: &str) -> FileDiff {
    diff_from(old, new, [1, 1])
}

/// The same of two parts of files, which begin at these lines.
pub fn diff_from(old: &str, new: &str, first: [usize; 2]) -> FileDiff {
    // lines that stand once in both are sure to be the same: near-linear where much changed
    let diff = TextDiff::configure().algorithm(Algorithm::Patience).diff_lines(old, new);
    let mut out = FileDiff { hunks: Vec::new(), added: 0, removed: 0 };
    for group in diff.grouped_ops(3) {
        let (Some(head), Some(last)) = (group.first(), group.last()) else { continue };
        let range = |start: usize, end: usize, first: usize| {
            format!("{},{}", start + usize::from(end > start) + first - 1, end - start)
        };
        let header = format!(
            "@@ -{} +{} @@",
            range(head.old_range().start, last.old_range().end, first[0]),
            range(head.new_range().start, last.new_range().end, first[1])
        );
        let mut lines = Vec::new();
        for op in &group {
            for change in diff.iter_inline_changes(op) {
                let tag = match change.tag() {
                    ChangeTag::Equal => DiffTag::Same,
                    ChangeTag::Delete => DiffTag::Removed,
                    ChangeTag::Insert => DiffTag::Added,
                };
                out.added += usize::from(tag == DiffTag::Added);
                out.removed += usize::from(tag == DiffTag::Removed);
                let pieces = change
                    .iter_strings_lossy()
                    .map(|(mark, s)| (mark, s.trim_end_matches(['\r', '\n']).to_string()))
                    .collect();
                lines.push(DiffLine { tag, pieces });
            }
        }
        out.hunks.push((header, lines));
    }
    out
}
