//! Text that several languages write alike.

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
