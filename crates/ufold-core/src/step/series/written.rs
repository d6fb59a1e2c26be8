//! The loop as it is written: its head with the list, the first copy as its body, and the lists that its turns make.

use super::column_names::Chosen;
use super::counted::{Given, Said, counts};
use super::kept::{self, Lists};
use super::table::Table;
use crate::change::{Code, Found, reason};
use crate::index::Project;
use crate::lang::{Listed, LoopText, Loops, Row};
use crate::names::Source;
use crate::plan::lines::{comments_above, indented_more, line_end, line_start};
use crate::plan::literal_types::in_its_place;
use crate::text::{Edit, Span, apply_edits, indent_at};
use crate::tree::NodeId;

pub(super) fn edits(
    project: &Project,
    s: &Source,
    table: &Table,
    (given, own_types): (&[Given], bool),
    names: &Chosen,
) -> Found<Vec<Edit>> {
    let t = &s.tree;
    let row = |r: &Vec<NodeId>| Span::new(t.span(r[0]).start, t.span(r[r.len() - 1]).end);
    let spans: Vec<Span> = table.rows.iter().map(row).collect();
    alone_on_lines(s, table, &spans)?;
    let (start, labels) = labels(s, table, &spans)?;
    let no_form = || {
        let why = "a loop over such a list is not there yet for this language";
        vec![reason(s, table.rows[0][0], Code::NoStepYet, why)]
    };
    let loops = s.lang.loops().ok_or_else(no_form)?;
    let indent = indent_at(&s.text, spans[0].start);
    let unit = s.habits().unit.as_str();
    let (head, closing) = head(s, loops, (table, given, own_types), names, (&labels, indent)).ok_or_else(no_form)?;
    let Some(lists) = kept::lists(project, s, loops, table, names) else {
        let why = "code behind the copies uses their variables, for which no list is there yet in this language";
        return Err(vec![reason(s, table.rows[0][0], Code::NoStepYet, why)]);
    };
    let body = body(s, loops, (table, given), names, &lists, spans[0])?;
    let end = s.habits().line_end;
    let lines = |text: &str| text.replace('\n', &format!("{end}{indent}"));
    let mut all: Vec<String> = lists.before.clone();
    all.push(lines(&head));
    all.push(format!("{unit}{body}"));
    all.extend(lists.in_turn.iter().map(|l| format!("{unit}{l}")));
    all.extend((!closing.is_empty()).then_some(closing));
    all.extend(lists.behind.iter().cloned());
    let mut out = vec![Edit::new(start, spans[spans.len() - 1].end, all.join(&format!("{end}{indent}")))];
    out.extend(lists.elsewhere);
    Ok(out)
}

/// Nothing else stands on the lines of the copies, and their comments are the same.
fn alone_on_lines(s: &Source, table: &Table, spans: &[Span]) -> Found<()> {
    let refuse = |n: NodeId, code: Code, why: &str| Err(vec![reason(s, n, code, why)]);
    for (r, span) in table.rows.iter().zip(spans) {
        let before = s.text[line_start(&s.text, span.start)..span.start].trim().is_empty();
        let behind = s.text[span.end..line_end(s, span.end)].trim_matches([' ', '\t', ';', '\r']).is_empty();
        if !before || !behind {
            return refuse(r[0], Code::SharedLine, "other code, or a comment, stands on the lines of this copy");
        }
    }
    let inner = |span: &Span| -> Vec<&str> {
        let own = s.tree.comments().iter().filter(|c| span.start <= c.start && c.end <= span.end);
        own.map(|c| &s.text[c.start..c.end]).collect()
    };
    match (1..spans.len()).find(|i| inner(&spans[*i]) != inner(&spans[0])) {
        Some(i) => refuse(table.rows[i][0], Code::DifferentStatements, "the comments of the copies differ"),
        None => Ok(()),
    }
}

/// Counted where nothing else is given, else a list.
fn head(
    s: &Source,
    loops: &dyn Loops,
    (table, given, own_types): (&Table, &[Given], bool),
    names: &Chosen,
    (labels, indent): (&[String], &str),
) -> Option<LoopText> {
    let later = || given.iter().flat_map(|g| &g.uses).any(|u| table.is_called_later(s, u.0));
    let counted = counts(given).filter(|_| !own_types && labels.is_empty() && (loops.counter_is_fresh(s) || !later()));
    if let Some(text) = counted.and_then(|(a, z)| loops.counting(s, &names.columns[0], a, z)) {
        return Some(text);
    }
    let row =
        |i: usize| Row { values: given.iter().map(|g| g.texts[i].clone()).collect(), comment: labels.get(i).cloned() };
    let rows: Vec<Row> = (0..table.rows.len()).map(row).collect();
    let width = s.habits().width.saturating_sub(indent.chars().count());
    let list = Listed { names: &names.columns, rows: &rows, own_types };
    loops.over_list(s, &list, s.habits().unit.as_str(), width)
}

/// The first copy, with the names of the loop.
fn body(
    s: &Source,
    loops: &dyn Loops,
    (table, given): (&Table, &[Given]),
    names: &Chosen,
    lists: &Lists,
    first: Span,
) -> Found<String> {
    let t = &s.tree;
    let mut edits: Vec<Edit> = lists.computed.clone();
    let computed = |span: Span| lists.computed.iter().any(|e| e.span.contains(span));
    for (g, name) in given.iter().zip(&names.columns) {
        for (n, said) in &g.uses {
            let text = match said {
                Said::Plainly => Some(name.clone()),
                Said::InText { before, behind, quote } => loops.numbered_text(s, before, name, behind, *quote),
            };
            let why = "a text with a number is not there yet for this language";
            let text = text.ok_or_else(|| vec![reason(s, *n, Code::NoStepYet, why)])?;
            edits.push(Edit::new(t.span(*n).start, t.span(*n).end, in_its_place(s, *n, text)));
        }
    }
    for (l, name) in table.locals.iter().zip(&names.locals) {
        let own = s.names.references_to(l.bindings[0]).map(|r| t.span(r.node));
        let own = own.filter(|p| first.contains(*p) && !computed(*p));
        edits.extend(own.map(|p| Edit::new(p.start, p.end, name.clone())));
    }
    edits.extend(indented_more(s, first, s.habits().unit.as_str()));
    edits.sort_by_key(|e| (e.span.start, e.span.end));
    let within = |e: &Edit| Edit::new(e.span.start - first.start, e.span.end - first.start, e.text.clone());
    let edits: Vec<Edit> = edits.iter().map(within).collect();
    let body = apply_edits(&s.text[first.start..first.end], &edits);
    body.map_err(|e| vec![reason(s, table.rows[0][0], Code::Internal, e.to_string())])
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
