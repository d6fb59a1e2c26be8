//! Text that several languages write alike.

use crate::names::Source;
use crate::tree::{Field, NodeId, Role};

/// A comment of documentation between `/**` and `*/`.
pub fn doc_comment(doc: &str, indent: &str) -> String {
    let doc = doc.replace("*/", "* /");
    let lines: Vec<&str> = doc.lines().collect();
    if let [one] = lines[..] {
        let stop = if one.ends_with(char::is_alphanumeric) { "." } else { "" };
        return format!("{indent}/** {one}{stop} */\n");
    }
    let body: String = lines.iter().map(|l| format!("{indent} * {l}").trim_end().to_string() + "\n").collect();
    format!("{indent}/**\n{body}{indent} */\n")
}

/// A list of rows between brackets: on the line of its head where it fits, else a line for each.
pub fn list_of_rows(head: &str, tail: &str, rows: &[(String, Option<String>)], unit: &str, width: usize) -> String {
    let values: Vec<&str> = rows.iter().map(|r| r.0.as_str()).collect();
    let line = format!("{head}{}{tail}", values.join(", "));
    let said = rows.iter().any(|r| r.1.is_some());
    if !said && line.chars().count() <= width {
        return line;
    }
    let lines = rows.iter().map(|(values, comment)| {
        let comment = comment.as_ref().map_or(String::new(), |c| format!("  {c}"));
        format!("{unit}{values},{comment}\n")
    });
    format!("{head}\n{}{tail}", lines.collect::<String>())
}

/// First and last of `for (let n = 1; n <= 3; n++)`, with one of these words for its variable.
pub fn counted_head(s: &Source, loop_: NodeId, name: &str, words: &[&str]) -> Option<(i64, i64)> {
    let t = &s.tree;
    let body = t.child(loop_, Field::Body).filter(|_| t.role(loop_) == Role::CountedFor)?;
    let head = s.text[t.span(loop_).start..t.span(body).start].split_whitespace().collect::<Vec<_>>().join(" ");
    let rest = words.iter().find_map(|w| head.strip_prefix(&format!("for ({w} {name} = ")))?;
    let (first, rest) = rest.split_once(&format!("; {name} <= "))?;
    let last = rest.trim_end_matches([' ', '{']).strip_suffix(&format!("; {name}++)"))?;
    Some((first.parse().ok()?, last.parse().ok()?))
}

/// Before and behind the part of a text, where nothing else in it has a meaning of its own.
pub fn text_around<'s>(
    s: &'s Source,
    (text, part): (NodeId, NodeId),
    opens: &[&str],
    is_plain: bool,
) -> Option<(&'s str, &'s str)> {
    let (whole, own) = (s.tree.span(text), s.tree.span(part));
    let before = opens.iter().find_map(|q| s.text[whole.start..own.start].strip_prefix(q))?;
    let behind = s.text[own.end..whole.end].strip_suffix(['"', '\'', '`'])?;
    let marks = ['\\', '{', '}', '$', '`', '"', '\'', '\n'];
    (is_plain && !before.contains(marks) && !behind.contains(marks)).then_some((before, behind))
}

/// A list in as few lines as fit; `end` follows the last.
pub fn filled(list: &[String], indent: &str, end: &str, width: usize) -> String {
    let mut lines = vec![indent.to_string()];
    for (i, item) in list.iter().enumerate() {
        let more = if i + 1 == list.len() { end.len() } else { 1 };
        let line = lines.last_mut().expect("never empty");
        let space = if line.len() == indent.len() { "" } else { " " };
        let fits = line.chars().count() + space.len() + item.chars().count() + more <= width;
        if fits || space.is_empty() {
            line.push_str(&format!("{space}{item}"));
        } else {
            lines.push(format!("{indent}{item}"));
        }
        if i + 1 < list.len() {
            lines.last_mut().expect("never empty").push(',');
        }
    }
    lines.join("\n")
}

/// In this file the brackets of most such nodes stand on lines of their own; those of one line do not count.
pub fn opens_below(s: &Source, of: &[Role]) -> bool {
    let t = &s.tree;
    let bodies = t.ids().filter(|n| of.contains(&t.role(*n))).filter_map(|n| t.child(n, Field::Body));
    let bodies = bodies.filter(|b| t.role(*b) == Role::Block && s.str(*b).contains('\n'));
    let below = |b: NodeId| s.text[..t.span(b).start].rsplit('\n').next().is_some_and(|l| l.trim().is_empty());
    let (own, all) = bodies.fold((0, 0), |(own, all), b| (own + usize::from(below(b)), all + 1));
    own * 2 >= all
}

/// A word before a declaration.
pub fn has_word(source: &Source, declaration: NodeId, word: &str) -> bool {
    let t = &source.tree;
    t.children(declaration).any(|c| matches!(t.role(c), Role::Token | Role::AsyncMark) && source.str(c) == word)
}
