//! Coverage that the project's own tools wrote: the files that ufold.toml names, else those in the usual places.

use std::path::Path;

use ufold_core::coverage::{Coverage, Reach};

use crate::config::Check;
use crate::files::open_report;
use crate::{Error, Result};

/// Where tools write their reports by default.
const USUAL: &[&str] = &[
    "coverage.xml",
    "coverage.json",
    "lcov.info",
    "coverage/lcov.info",
    "coverage/cobertura-coverage.xml",
    "target/site/jacoco/jacoco.xml",
    "build/reports/jacoco/test/jacocoTestReport.xml",
];

/// What is known of a root; none when there is no report.
pub struct Known {
    coverage: Coverage,
    /// Reports that were read.
    reports: usize,
    /// When the oldest of them was written.
    written: std::time::SystemTime,
}

pub fn load(root: &Path, config: &Check) -> Result<Option<Known>> {
    let named = !config.coverage.is_empty();
    let list: Vec<String> = if named { config.coverage.clone() } else { USUAL.iter().map(|f| f.to_string()).collect() };
    let mut known = Known { coverage: Coverage::default(), reports: 0, written: std::time::SystemTime::now() };
    for file in list {
        let path = root.join(&file);
        let report = match open_report(&path) {
            Ok(report) => report,
            Err(e) if named => return Err(Error::io("read", &path, &e)),
            Err(_) => continue,
        };
        match Coverage::read(report) {
            Ok(c) => known.coverage.join(c),
            Err(e) if named => return Err(Error::Usage(format!("{file}: no coverage: {e}"))),
            Err(_) => continue,
        }
        let time = std::fs::metadata(&path).and_then(|m| m.modified());
        known.written = known.written.min(time.unwrap_or(known.written));
        known.reports += 1;
    }
    Ok((known.reports > 0).then_some(known))
}

impl Known {
    /// What the tests run of some lines. A file that no report knows is one that nothing loads.
    pub fn of(&self, file: &str, first: usize, last: usize) -> Reach {
        self.coverage.of(file, first as u32, last as u32).unwrap_or(Reach { run: 0, lines: 1 })
    }

    /// The file was changed after the reports were written: its lines may have moved.
    pub fn is_older_than(&self, root: &Path, file: &str) -> bool {
        std::fs::metadata(root.join(file)).and_then(|m| m.modified()).is_ok_and(|t| t > self.written)
    }
}
