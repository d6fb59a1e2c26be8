//! Which lines the tests run, as the project's own tools tell it: LCOV, Cobertura XML, JaCoCo XML, coverage.py's JSON.
//!
//! Lines that a report does not name hold no code, or the tool did not look at them. Paths in reports may be absolute, or
//! relative to a source folder; a file is recognized by the longest path that both end in.

use std::collections::BTreeMap;
use std::io::{BufRead, Read};

use quick_xml::Reader;
use quick_xml::events::Event;
use serde::Deserialize;

use crate::text::xml::{attribute, first_byte};

/// Longer lines of a report say nothing.
const LONGEST_LINE: u64 = 1 << 20;

/// Runs of each line, by file.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Coverage {
    files: BTreeMap<String, BTreeMap<u32, u64>>,
}

/// How much of some lines the tests run.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Reach {
    pub run: usize,
    /// Lines with code.
    pub lines: usize,
}

impl Reach {
    pub fn all(self) -> bool {
        self.run == self.lines && self.lines > 0
    }
    pub fn nothing(self) -> bool {
        self.run == 0
    }
    pub fn word(self) -> &'static str {
        match self {
            r if r.all() => "covered",
            r if r.nothing() => "not covered",
            _ => "partly covered",
        }
    }
    pub fn join(self, other: Reach) -> Reach {
        Reach { run: self.run + other.run, lines: self.lines + other.lines }
    }
}

impl Coverage {
    /// Reads a report in any of the formats.
    pub fn read(mut from: impl BufRead) -> Result<Coverage, String> {
        match first_byte(&mut from).map_err(|e| e.to_string())? {
            Some(b'{') => of_json(from),
            Some(b'<') => of_xml(from),
            _ => of_lcov(from),
        }
    }

    fn add(&mut self, file: &str, line: u32, hits: u64) {
        let lines = self.files.entry(file.replace('\\', "/")).or_default();
        let sum = lines.entry(line).or_default();
        *sum = sum.saturating_add(hits);
    }

    pub fn join(&mut self, other: Coverage) {
        for (file, lines) in other.files {
            lines.into_iter().for_each(|(l, h)| self.add(&file, l, h));
        }
    }

    /// How much of lines `first..=last` of a file, given relative to the root, is run. None when no report knows it.
    pub fn of(&self, file: &str, first: u32, last: u32) -> Option<Reach> {
        let lines = self.lines_of(file)?;
        let hits = lines.range(first..=last.max(first)).map(|(_, h)| *h);
        let (run, all) = hits.fold((0, 0), |(r, n), h| (r + usize::from(h > 0), n + 1));
        Some(Reach { run, lines: all })
    }

    fn lines_of(&self, file: &str) -> Option<&BTreeMap<u32, u64>> {
        if let Some(own) = self.files.get(file) {
            return Some(own);
        }
        let ends = |long: &str, short: &str| long.ends_with(short) && long[..long.len() - short.len()].ends_with('/');
        let fits = |path: &&String| {
            let path = path.trim_start_matches("./");
            path == file || ends(path, file) || ends(file, path)
        };
        let longest = self.files.keys().filter(fits).max_by_key(|p| p.len().min(file.len()))?;
        self.files.get(longest)
    }
}

fn of_lcov(mut from: impl BufRead) -> Result<Coverage, String> {
    let mut out = Coverage::default();
    let (mut file, mut bytes) = (None, Vec::new());
    loop {
        bytes.clear();
        let read = from.by_ref().take(LONGEST_LINE).read_until(b'\n', &mut bytes);
        if read.map_err(|e| e.to_string())? == 0 {
            break;
        }
        let line = String::from_utf8_lossy(&bytes);
        let line = line.trim();
        if let Some(f) = line.strip_prefix("SF:") {
            file = Some(f.to_string());
        } else if let Some((rest, file)) = line.strip_prefix("DA:").zip(file.as_ref()) {
            let mut parts = rest.split(',');
            let number = parts.next().and_then(|n| n.parse().ok());
            let hits = parts.next().and_then(|n| n.parse::<f64>().ok());
            if let (Some(n), Some(h)) = (number, hits) {
                out.add(file, n, h.max(0.0) as u64);
            }
        }
    }
    let is_report = file.is_some();
    if is_report { Ok(out) } else { Err("neither LCOV, Cobertura, JaCoCo nor coverage.py's JSON".into()) }
}

#[derive(Deserialize)]
struct Json {
    files: BTreeMap<String, JsonLines>,
}

#[derive(Deserialize, Default)]
#[serde(default)]
struct JsonLines {
    executed_lines: Vec<u32>,
    missing_lines: Vec<u32>,
}

fn of_json(from: impl BufRead) -> Result<Coverage, String> {
    let json: Json = serde_json::from_reader(from).map_err(|e| e.to_string())?;
    let mut out = Coverage::default();
    for (file, lines) in json.files {
        lines.executed_lines.iter().for_each(|l| out.add(&file, *l, 1));
        lines.missing_lines.iter().for_each(|l| out.add(&file, *l, 0));
    }
    Ok(out)
}

/// Cobertura names a class's file and its lines; JaCoCo a package, its source files and their lines.
fn of_xml(from: impl BufRead) -> Result<Coverage, String> {
    let mut reader = Reader::from_reader(from);
    let mut buffer = Vec::new();
    let mut out = Coverage::default();
    let (mut package, mut file) = (String::new(), String::new());
    let mut is_report = false;
    loop {
        buffer.clear();
        let event = reader.read_event_into(&mut buffer).map_err(|e| format!("no XML: {e}"))?;
        let (Event::Start(e) | Event::Empty(e)) = &event else {
            if matches!(event, Event::Eof) {
                break;
            }
            continue;
        };
        match e.local_name().as_ref() {
            b"coverage" | b"report" => is_report = true,
            b"package" => package = attribute(e, "name").unwrap_or_default(),
            b"class" => file = attribute(e, "filename").unwrap_or_default(),
            b"sourcefile" => file = format!("{package}/{}", attribute(e, "name").unwrap_or_default()),
            b"line" if !file.is_empty() => {
                let number = |name: &str| attribute(e, name).and_then(|v| v.parse::<u64>().ok());
                let line = number("number").or_else(|| number("nr"));
                let hits = number("hits").or_else(|| number("ci"));
                if let (Some(l), Some(h)) = (line, hits) {
                    out.add(&file, l.min(u64::from(u32::MAX)) as u32, h);
                }
            }
            _ => {}
        }
    }
    if is_report { Ok(out) } else { Err("the XML is neither Cobertura nor JaCoCo".into()) }
}

#[cfg(test)]
mod tests {
    use super::{Coverage, Reach};

    /// The same four lines in each format: 1 and 2 run, 4 does not.
    const REPORTS: [(&str, &str); 4] = [
        ("lcov", "TN:\nSF:harbour/fees.py\nDA:1,3\nDA:2,1\nDA:4,0\nend_of_record\n"),
        (
            "cobertura",
            r#"<?xml version="1.0"?><coverage><packages><package name="harbour"><classes><class filename="harbour/fees.py">
            <lines><line number="1" hits="3"/><line number="2" hits="1"/><line number="4" hits="0"/></lines></class>
            </classes></package></packages></coverage>"#,
        ),
        (
            "jacoco",
            r#"<report name="x"><package name="harbour"><sourcefile name="fees.py"><line nr="1" mi="0" ci="3"/>
            <line nr="2" mi="1" ci="1"/><line nr="4" mi="2" ci="0"/></sourcefile></package></report>"#,
        ),
        ("json", r#"{"files": {"/home/x/harbour/fees.py": {"executed_lines": [1, 2], "missing_lines": [4]}}}"#),
    ];

    #[test]
    fn all_formats_tell_the_same() {
        for (name, text) in REPORTS {
            let c = Coverage::read(text.as_bytes()).expect(name);
            assert_eq!(c.of("harbour/fees.py", 1, 3), Some(Reach { run: 2, lines: 2 }), "{name}");
            assert_eq!(c.of("harbour/fees.py", 2, 9), Some(Reach { run: 1, lines: 2 }), "{name}");
            assert_eq!(c.of("other/fees.py", 1, 9), None, "{name}");
        }
        assert!(Coverage::read("<html></html>".as_bytes()).is_err() && Coverage::read("nothing".as_bytes()).is_err());
    }

    /// Written by coverage.py 7 and Node 20 for a file of two functions, of which the tests run one in part.
    #[test]
    fn reports_of_real_tools() {
        let python = [
            include_str!("reports/cobertura.xml"),
            include_str!("reports/coverage.json"),
            include_str!("reports/lcov.info"),
        ];
        for text in python {
            let c = Coverage::read(text.as_bytes()).expect("it is read");
            let reach = |a, z| c.of("fees.py", a, z);
            assert_eq!(reach(1, 4), Some(Reach { run: 3, lines: 4 }));
            assert_eq!(reach(8, 8), Some(Reach { run: 0, lines: 1 }));
        }
        let c = Coverage::read(include_str!("reports/node.lcov").as_bytes()).expect("it is read");
        assert_eq!(c.of("fees.mjs", 1, 6), Some(Reach { run: 4, lines: 6 }));
        assert_eq!(c.of("kiosk/fees.mjs", 8, 9), Some(Reach { run: 0, lines: 2 }));
    }

    #[test]
    fn what_is_reached_has_a_word() {
        let c = Coverage::read(REPORTS[0].1.as_bytes()).expect("LCOV");
        let word = |a, z| c.of("harbour/fees.py", a, z).map(Reach::word);
        assert_eq!(
            [word(1, 2), word(1, 4), word(4, 4)],
            [Some("covered"), Some("partly covered"), Some("not covered")]
        );
    }
}
