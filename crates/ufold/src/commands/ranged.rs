//! FILE:RANGE as people type it.

use ufold_core::names::Source;
use ufold_core::plan::resolve;
use ufold_core::text::Span;
use ufold_project::Error;

/// `path:12-20`, `path:12` or `path:12:5-14:30`.
pub struct Ranged {
    pub path: String,
    from: (usize, Option<usize>),
    to: (usize, Option<usize>),
}

impl Ranged {
    pub fn parse(typed: &str) -> Result<Ranged, Error> {
        let wrong = || Error::Usage(format!("{typed} is no FILE:RANGE such as fees.py:12-20 or fees.py:12:5-14:30"));
        let pattern = regex::Regex::new(r"^(.+?):(\d+)(?::(\d+))?(?:-(\d+)(?::(\d+))?)?$").expect("a fixed pattern");
        let c = pattern.captures(typed).ok_or_else(wrong)?;
        let number = |i: usize| c.get(i).and_then(|m| m.as_str().parse::<usize>().ok());
        let first = number(2).filter(|n| *n > 0).ok_or_else(wrong)?;
        let (from, to) = ((first, number(3)), (number(4).unwrap_or(first), number(5)));
        if from.1.is_some() != to.1.is_some() || to < from {
            return Err(wrong());
        }
        Ok(Ranged { path: c[1].to_string(), from, to })
    }

    /// Its bytes, as typed.
    pub fn span(&self, source: &Source) -> Result<Span, Error> {
        let (text, lines) = (&source.text, &source.lines);
        let outside = || Error::Usage(format!("{} has no such lines", source.path));
        let start = lines.byte_at(text, self.from.0, self.from.1.unwrap_or(1)).ok_or_else(outside)?;
        let end = match self.to.1 {
            Some(column) => lines.byte_at(text, self.to.0, column).ok_or_else(outside)?,
            None => lines.start_of(self.to.0 + 1).unwrap_or(text.len()),
        };
        if self.to.0 > lines.count(text) {
            return Err(outside());
        }
        Ok(Span::new(start, end.max(start)))
    }

    /// The whole statements, or the expression, that it covers.
    pub fn covered(&self, source: &Source) -> Result<Span, Error> {
        let (text, lines) = (&source.text, &source.lines);
        resolve(source, self.span(source)?).map_err(|half| {
            let near = half.nearest.iter().map(|n| {
                let (a, z) = (lines.position(text, n.start), lines.position(text, n.end));
                format!("{}:{}:{}-{}:{}", source.path, a.0, a.1, z.0, z.1)
            });
            let near: Vec<String> = near.collect();
            let hint =
                if near.is_empty() { String::new() } else { format!("; the nearest are {}", near.join(" and ")) };
            Error::Usage(format!("the range covers no whole statements and no whole expression{hint}"))
        })
    }
}
