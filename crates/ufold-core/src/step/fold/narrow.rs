//! When the copies as a whole can't be folded, a part of them often can: the widest useful extent is what is folded.
//!
//! Tries the statements of all copies without the first or the last few, the longest rest first, and of a single
//! statement the blocks inside it. Bounded, for each try
//! is a whole plan; a group whose useful part lies deep inside is missed.

use std::sync::Arc;

use super::FoldRequest;
use crate::align::{Region, align_with_gap};
use crate::change::{Code, Outcome, Place, Verdict};
use crate::index::Project;
use crate::names::Source;
use crate::plan::calls::planned;
use crate::plan::region::locate;
use crate::step::Step;
use crate::step::proven::proven;
use crate::text::Span;
use crate::tree::{NodeId, Role};

const MOST_TRIES: usize = 14;

/// Lines that a part may save less than the whole when it needs no function as a parameter.
const WORTH_A_FUNCTION: i64 = 3;

/// Reasons that speak about some statements and not about the copies as such.
const LOCAL: &[Code] = &[
    Code::PartialReturn,
    Code::LeavesLoop,
    Code::Yield,
    Code::MaybeUnbound,
    Code::SeenByHandler,
    Code::DeletesLocal,
    Code::Reflection,
    Code::RebindsCaptured,
    Code::RebindsOuter,
    Code::InconsistentRenaming,
    Code::DeclaredHere,
    Code::HoleNoValue,
    Code::HoleUsesLocal,
    Code::ConditionalHole,
    Code::EvaluationOrder,
    Code::TooManyParameters,
    Code::DifferentStatements,
    Code::SeveralResults,
    Code::SharedLine,
    Code::NeverRuns,
];

/// A narrower request with its outcome, when there is one that saves something: more than the whole does.
pub fn narrower(project: &Project, request: &FoldRequest, whole: &Outcome) -> Option<(FoldRequest, Outcome)> {
    let refused = whole.verdict == Verdict::Refused;
    let why = if refused {
        let reason = whole.reasons.first().filter(|r| LOCAL.contains(&r.code))?;
        format!("the whole is refused: {}", reason.message)
    } else {
        "the whole would need functions as parameters and save less".to_string()
    };
    let worth = if refused { 0 } else { whole.saves - WORTH_A_FUNCTION };
    let least = worth.max(request.least.map_or(i64::MIN, |n| n - 1));
    let mut tries = 0;
    for copies in parts(project, request)? {
        tries += 1;
        if tries > MOST_TRIES {
            return None;
        }
        let narrow = FoldRequest { copies: copies?, ..request.clone() };
        if !holds_pointer(&narrow) {
            continue;
        }
        let o = planned(project, narrow.asked(), 2);
        // nothing is gained by a part that needs functions all the same
        if o.verdict == Verdict::Refused || !refused && o.parameters.iter().any(|p| p.is_function) {
            continue;
        }
        if o.saves <= least && !(refused && request.pointed_at.is_some()) {
            continue;
        }
        let mut o = proven(project, &narrow.claim(), o);
        if o.verdict != Verdict::Refused {
            let first = &narrow.copies[0];
            o.remarks.insert(
                0,
                format!(
                    "only lines {}-{} of copy 1, and the same part of the others, are folded; {why}",
                    first.start_line, first.end_line
                ),
            );
            return Some((narrow, o));
        }
    }
    None
}

/// The parts of all copies that are worth trying, the longest first.
fn parts<'a>(
    project: &'a Project,
    request: &'a FoldRequest,
) -> Option<Box<dyn Iterator<Item = Option<Vec<Place>>> + 'a>> {
    let statements: Vec<Vec<Span>> = request.copies.iter().map(|p| spans(project, p)).collect::<Option<_>>()?;
    let n = statements.iter().map(Vec::len).min()?;
    let uneven = statements.iter().any(|s| s.len() != n);
    let pick = move |ranges: Vec<(usize, usize)>| -> Option<Vec<Place>> {
        let cut = |((p, s), (a, z)): ((&Place, &Vec<Span>), &(usize, usize))| part(project, p, &s[*a..*z]);
        request.copies.iter().zip(&statements).zip(&ranges).map(cut).collect()
    };
    if let Some(gaps) = gaps(project, request) {
        let before = gaps.iter().map(|(k, _, _)| (0, *k)).collect::<Vec<_>>();
        let after = gaps.iter().map(|(k, len, all)| (k + len, *all)).collect::<Vec<_>>();
        let mut both = vec![before, after];
        both.sort_by_key(|r| std::cmp::Reverse(r[0].1 - r[0].0));
        return Some(Box::new(both.into_iter().map(pick)));
    }
    if uneven {
        return None;
    }
    let windows =
        (1..n.saturating_sub(1)).flat_map(move |gone| (0..=gone).map(move |front| (front, n - (gone - front))));
    let copies = request.copies.len();
    let inner = inner_parts(project, request).into_iter().flatten().map(Some);
    Some(Box::new(windows.map(move |range| pick(vec![range; copies])).chain(inner)))
}

/// The blocks inside copies of one statement, the longest first.
fn inner_parts(project: &Project, request: &FoldRequest) -> Option<Vec<Vec<Place>>> {
    let sources = sources(project, request)?;
    let regions = regions(&sources, request)?;
    if regions.iter().any(|r| r.is_expression || r.first != r.last) {
        return None;
    }
    let block = |nodes: Vec<NodeId>| -> Option<Vec<Place>> {
        let rows = regions.iter().zip(&request.copies).zip(nodes);
        rows.map(|((r, place), b)| part(project, place, &code_of(r.source, b)?)).collect()
    };
    let aligned = align_with_gap(&regions)?.0;
    let mut blocks: Vec<Vec<NodeId>> = aligned.into_iter().filter(|a| !a.differs).map(|a| a.nodes).collect();
    blocks.retain(|nodes| regions[0].source.tree.role(nodes[0]) == Role::Block);
    blocks.sort_by_key(|nodes| std::cmp::Reverse(regions[0].source.tree.subtree(nodes[0]).count()));
    Some(blocks.into_iter().filter_map(block).collect())
}

/// The statements of a block, when they are several.
fn code_of(source: &Source, block: NodeId) -> Option<Vec<Span>> {
    let t = &source.tree;
    let spans: Vec<Span> = t.children(block).filter(|c| t.role(*c) != Role::Doc).map(|c| t.span(c)).collect();
    (spans.len() > 1).then_some(spans)
}

fn sources(project: &Project, request: &FoldRequest) -> Option<Vec<Arc<Source>>> {
    request.copies.iter().map(|p| project.source_at(p).ok()).collect()
}

fn regions<'s>(sources: &'s [Arc<Source>], request: &FoldRequest) -> Option<Vec<Region<'s>>> {
    sources.iter().zip(&request.copies).map(|(s, p)| locate(s, p).ok()).collect()
}

/// Of each copy: the statements before one that some copies lack, whether it has that, and all of its statements.
fn gaps(project: &Project, request: &FoldRequest) -> Option<Vec<(usize, usize, usize)>> {
    let sources = sources(project, request)?;
    let regions = regions(&sources, request)?;
    let gap = align_with_gap(&regions)?.1?;
    let place = |r: &Region, n: &Option<NodeId>| n.and_then(|n| r.statements().iter().position(|s| *s == n));
    let k = regions.iter().zip(&gap.nodes).find_map(|(r, n)| place(r, n))?;
    let row = |(r, n): (&Region, &Option<NodeId>)| (k, usize::from(n.is_some()), r.statements().len());
    Some(regions.iter().zip(&gap.nodes).map(row).collect())
}

/// A person who points at a line means a part with that line.
fn holds_pointer(request: &FoldRequest) -> bool {
    let Some(p) = &request.pointed_at else { return true };
    request.copies.iter().any(|c| c.file == p.file && c.start_line <= p.line && p.line <= c.end_line)
}

fn spans(project: &Project, place: &Place) -> Option<Vec<Span>> {
    let source = project.source(project.index(&place.file)?).ok()?;
    let region = locate(&source, place).ok()?;
    Some(region.statements().into_iter().map(|s| source.tree.span(s)).collect())
}

/// The place of some of a copy's statements; none when they are too few lines.
fn part(project: &Project, place: &Place, statements: &[Span]) -> Option<Place> {
    let source = project.source(project.index(&place.file)?).ok()?;
    let (start, end) = (statements.first()?.start, statements.last()?.end);
    (start < end).then(|| Place {
        file: place.file.clone(),
        start_line: source.lines.line(start),
        end_line: source.lines.line(end - 1),
        start_byte: start,
        end_byte: end,
    })
}
