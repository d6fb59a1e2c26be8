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
