//! Findings as they are told outside a terminal: in Markdown for people who review, in SARIF for tools.

use std::fmt::Write;

use serde_json::{Value, json};
use ufold_core::find::{FileFacts, Finding, Kind, Options};

use super::{count, number};

/// One finding, in words.
pub struct Item {
    pub id: String,
    /// As people ask for it.
    pub kind: &'static str,
    pub says: String,
    /// File, first and last line, and the function around them.
    pub places: Vec<(String, u32, u32, Option<String>)>,
    /// How it stands to what was accepted, where that is asked.
    pub standing: Option<&'static str>,
}

/// The kind as people ask for it.
pub fn kind_word(f: &Finding) -> &'static str {
    if f.drifted { "drift" } else { f.kind.word() }
}

impl Item {
    pub fn of(f: &Finding, files: &[FileFacts], options: &Options, standing: Option<&'static str>) -> Item {
        let place = |c: &ufold_core::find::Copy| (files[c.file].path.clone(), c.lines.0, c.lines.1, c.within.clone());
        let could_go = if f.kind.has_copies() { format!("; about {} could go", f.saves) } else { String::new() };
        Item {
            id: f.id.clone(),
            kind: kind_word(f),
            says: says(f, options) + &could_go,
            places: f.copies.iter().map(place).collect(),
            standing,
        }
    }
}

/// What was found, in words.
pub fn says(f: &Finding, options: &Options) -> String {
    if let Some(m) = &f.measures {
        return format!("an overlong function: {}", options.too_much(m).join(", "));
    }
    if f.is_file() {
        let lines = number(u64::from(f.lines));
        return format!("an overlong file: {lines} lines of code (over {})", number(u64::from(options.longest_file)));
    }
    let alike = if f.similarity < 0.9995 { format!(", {:.0} % alike", 100.0 * f.similarity) } else { String::new() };
    let mut lines = count(f.lines as usize, "line", "lines");
    if let Some(whole) = ufold_core::find::longest(&f.whole) {
        lines.push_str(&format!(" of {whole}"));
    }
    if f.kind == Kind::Twins {
        return format!("{} are mostly copies of each other{alike}", crate::twins::counted(f));
    }
    if f.kind == Kind::Members {
        return format!("{lines} of members stand in {} classes", f.copies.len());
    }
    let apart = if f.drifted { "grew apart" } else { "stand" };
    format!("{lines} {apart} in {} places{alike}", f.copies.len())
}

/// A place as code in Markdown, in which nothing of a name is taken for a mark.
fn code(text: &str) -> String {
    let longest = text.split(|c| c != '`').map(str::len).max().unwrap_or(0);
    let fence = "`".repeat(longest + 1);
    let pad = if longest > 0 { " " } else { "" };
    format!("{fence}{pad}{}{pad}{fence}", text.replace('|', "\\|").replace(['\n', '\r'], " "))
}

/// Findings as a list for a review comment.
pub fn markdown(title: &str, remarks: &[String], items: &[Item]) -> String {
    let mut out = format!("### {title}\n");
    for r in remarks {
        let _ = write!(out, "\n{r}\n");
    }
    if items.is_empty() {
        return out;
    }
    let standing = items.iter().any(|i| i.standing.is_some());
    let (head, line) = if standing { ("| ", "|---") } else { ("", "") };
    let _ = write!(out, "\n| finding {head}| what | where |\n|---{line}|---|---|\n");
    for i in items {
        let place = |(file, from, to, within): &(String, u32, u32, Option<String>)| {
            let lines = if from == to { format!("{file}:{from}") } else { format!("{file}:{from}-{to}") };
            let within = within.as_ref().map_or(String::new(), |w| format!(" in {}", code(w)));
            format!("{}{within}", code(&lines))
        };
        let places: Vec<String> = i.places.iter().map(place).collect();
        let standing = i.standing.map_or(String::new(), |s| format!(" {s} |"));
        let _ = writeln!(out, "| {} |{standing} {}: {} | {} |", code(&i.id), i.kind, i.says, places.join("<br>"));
    }
    out
}

/// The rules of the log: kind, and what it means.
const RULES: &[(&str, &str)] = &[
    ("repeat", "The same code stands in several places, up to names and values."),
    ("series", "Copies of the same code stand side by side, up to names and values."),
    ("members", "Several classes declare the same members."),
    ("twins", "Files or folders are mostly copies of each other."),
    ("drift", "Copies of the same code have grown apart by some statements."),
    ("long", "A function is longer, deeper or more complex than the project allows."),
];

/// Findings as a log of SARIF 2.1.0 (OASIS standard). Paths are relative to the root, as `%SRCROOT%`.
pub fn sarif(items: &[Item]) -> Value {
    let rules: Vec<Value> =
        RULES.iter().map(|(id, text)| json!({ "id": id, "shortDescription": { "text": text } })).collect();
    let location = |n: usize, (file, from, to, within): &(String, u32, u32, Option<String>)| {
        let mut l = json!({
            "physicalLocation": {
                "artifactLocation": { "uri": uri(file), "uriBaseId": "%SRCROOT%" },
                "region": { "startLine": from, "endLine": to },
            },
        });
        if let Some(w) = within {
            l["logicalLocations"] = json!([{ "fullyQualifiedName": w }]);
        }
        if n > 0 {
            l["id"] = json!(n);
            l["message"] = json!({ "text": format!("copy {}", n + 1) });
        }
        l
    };
    let result = |i: &Item| {
        let all: Vec<Value> = i.places.iter().enumerate().map(|(n, p)| location(n, p)).collect();
        let rule = RULES.iter().position(|r| r.0 == i.kind);
        let is_old = i.standing == Some("known");
        let mut r = json!({
            "ruleId": i.kind,
            "ruleIndex": rule,
            "level": if is_old { "note" } else { "warning" },
            "message": { "text": format!("{}: {}", i.id, i.says) },
            "locations": [all[0]],
            "partialFingerprints": { "finding/1": i.id },
        });
        if all.len() > 1 {
            r["relatedLocations"] = json!(all[1..]);
        }
        if let Some(s) = i.standing {
            r["baselineState"] = json!(match s {
                "known" => "unchanged",
                "grew" => "updated",
                _ => "new",
            });
        }
        r
    };
    json!({
        "$schema": "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json",
        "version": "2.1.0",
        "runs": [{
            "tool": { "driver": { "name": "ufold", "version": env!("CARGO_PKG_VERSION"), "rules": rules } },
            "columnKind": "unicodeCodePoints",
            "results": items.iter().map(result).collect::<Vec<Value>>(),
        }],
    })
}

/// A relative path as a URI reference (RFC 3986): what is not unreserved is written as bytes.
fn uri(path: &str) -> String {
    let mut out = String::new();
    for b in path.bytes() {
        match b {
            b'/' | b'-' | b'.' | b'_' | b'~' | b'0'..=b'9' | b'A'..=b'Z' | b'a'..=b'z' => out.push(b as char),
            _ => {
                let _ = write!(out, "%{b:02X}");
            }
        }
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    fn item(file: &str, within: &str) -> Item {
        let places = vec![(file.into(), 3, 9, Some(within.into())), (file.into(), 20, 26, None)];
        Item {
            id: "r4f2c".into(),
            kind: "repeat",
            says: "7 lines stand in 2 places".into(),
            places,
            standing: Some("new"),
        }
    }

    #[test]
    fn no_name_breaks_the_table() {
        let text = markdown("Two", &[], &[item("a|b`c.py", "f")]);
        let row = text.lines().last().expect("a row");
        assert!(row.contains("`` a\\|b`c.py:3-9 ``"), "{row}");
        assert_eq!(row.replace("\\|", "").matches('|').count(), 5, "{row}");
        assert_eq!(text.lines().filter(|l| l.starts_with("|---")).count(), 1);
    }

    #[test]
    fn paths_are_uris_and_other_copies_are_related() {
        let log = sarif(&[item("tide table/ä.py", "f")]);
        let r = &log["runs"][0]["results"][0];
        assert_eq!(r["locations"][0]["physicalLocation"]["artifactLocation"]["uri"], "tide%20table/%C3%A4.py");
        assert_eq!(r["relatedLocations"][0]["physicalLocation"]["region"]["startLine"], 20);
        assert_eq!(r["baselineState"], "new");
        assert_eq!(r["ruleIndex"], 0);
    }
}
