//! The loop as it is written: its head with the list, and the first copy as its body.

use super::column_names::Chosen;
use super::table::Table;
use crate::change::{Code, Found, reason};
use crate::lang::Row;
use crate::names::Source;
use crate::plan::lines::{comments_above, indented_more, line_end, line_start};
use crate::text::{Edit, Span, apply_edits, indent_at};
use crate::tree::NodeId;

pub(super) fn edit(s: &Source, table: &Table, names: &Chosen) -> Found<Edit> {
    let t = &s.tree;
    let refuse = |n: NodeId, code: Code, why: &str| Err(vec![reason(s, n, code, why)]);
    let row = |r: &Vec<NodeId>| Span::new(t.span(r[0]).start, t.span(r[r.len() - 1]).end);
    let spans: Vec<Span> = table.rows.iter().map(row).collect();
    for (r, span) in table.rows.iter().zip(&spans) {
        let before = s.text[line_start(&s.text, span.start)..span.start].trim().is_empty();
        let behind = s.text[span.end..line_end(s, span.end)].trim_matches([' ', '\t', ';', '\r']).is_empty();
        if !before || !behind {
            return refuse(r[0], Code::SharedLine, "other code, or a comment, stands on the lines of this copy");
        }
    }
    let inner = |span: &Span| -> Vec<&str> {
        let own = t.comments().iter().filter(|c| span.start <= c.start && c.end <= span.end);
        own.map(|c| &s.text[c.start..c.end]).collect()
    };
    if let Some(i) = (1..spans.len()).find(|i| inner(&spans[*i]) != inner(&spans[0])) {
        return refuse(table.rows[i][0], Code::DifferentStatements, "the comments of the copies differ");
    }
    let (start, labels) = labels(s, table, &spans)?;
    let indent = indent_at(&s.text, spans[0].start);
    let (unit, width) = (s.habits().unit.as_str(), s.habits().width.saturating_sub(indent.chars().count()));
    let rows: Vec<Row> = (0..spans.len())
        .map(|i| Row {
            values: table.columns.iter().map(|c| c.texts[i].clone()).collect(),
            comment: labels.get(i).cloned(),
        })
        .collect();
    let Some((head, closing)) = s.lang.write_loop_over(s, &names.columns, &rows, unit, width) else {
        return refuse(table.rows[0][0], Code::NoStepYet, "a loop over such a list is not there yet for this language");
    };
    let mut edits: Vec<Edit> = Vec::new();
    for (c, name) in table.columns.iter().zip(&names.columns) {
        edits.extend(c.nodes.iter().map(|n| Edit::new(t.span(*n).start, t.span(*n).end, name.clone())));
    }
    for (l, name) in table.locals.iter().zip(&names.locals) {
        let own = s.names.references_to(l.bindings[0]).map(|r| t.span(r.node));
        edits.extend(own.map(|p| Edit::new(p.start, p.end, name.clone())));
    }
    edits.extend(indented_more(s, spans[0], unit));
    edits.sort_by_key(|e| (e.span.start, e.span.end));
    let within = |e: &Edit| Edit::new(e.span.start - spans[0].start, e.span.end - spans[0].start, e.text.clone());
    let edits: Vec<Edit> = edits.iter().map(within).collect();
    let body = apply_edits(&s.text[spans[0].start..spans[0].end], &edits);
    let body = body.map_err(|e| vec![reason(s, table.rows[0][0], Code::Internal, e.to_string())])?;
    let lines = |text: &str| text.replace('\n', &format!("{}{indent}", s.habits().line_end));
    let mut text = format!("{}{}{indent}{unit}{body}", lines(&head), s.habits().line_end);
    if !closing.is_empty() {
        text.push_str(&format!("{}{indent}{closing}", s.habits().line_end));
    }
    Ok(Edit::new(start, spans[spans.len() - 1].end, text))
}

/// Where the loop begins, and what a comment over each copy says of it.
fn labels(s: &Source, table: &Table, spans: &[Span]) -> Found<(usize, Vec<String>)> {
    let own = |i: usize| {
        let line = line_start(&s.text, spans[i].start);
        let start = comments_above(s, line).max(if i > 0 { spans[i - 1].end } else { 0 });
        (start, s.text[start..line].trim().to_string())
    };
    let all: Vec<(usize, String)> = (0..spans.len()).map(own).collect();
    // whatever else stands between two copies is lost
    let between = |i: usize| t_comments(s, spans[i - 1].end, spans[i].start) != t_comments(s, all[i].0, spans[i].start);
    let lost = (1..spans.len()).find(|i| between(*i));
    let one_line = |x: &(usize, String)| !x.1.is_empty() && !x.1.contains('\n');
    match () {
        _ if lost.is_some() => {}
        _ if all[1..].iter().all(|x| x.1.is_empty()) => return Ok((spans[0].start, Vec::new())),
        _ if all.iter().all(one_line) => {
            let start = all[0].0 + s.text[all[0].0..].len() - s.text[all[0].0..].trim_start().len();
            return Ok((start, all.into_iter().map(|x| x.1).collect()));
        }
        _ => {}
    }
    let at = lost.unwrap_or(1);
    Err(vec![reason(
        s,
        table.rows[at][0],
        Code::DifferentStatements,
        "comments stand over some copies, or between them",
    )])
}

fn t_comments(s: &Source, from: usize, to: usize) -> usize {
    s.tree.comments().iter().filter(|c| from <= c.start && c.end <= to).count()
}
