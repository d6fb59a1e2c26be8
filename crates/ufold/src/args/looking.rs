//! What can be typed to look at findings.

use std::path::PathBuf;

use clap::{Args as Group, ValueEnum};
use ufold_core::change::Verdict;
use ufold_core::find::{Finding, Kind, Options};

#[derive(Group, Debug, Clone, Default)]
pub struct Scan {
    /// Files and folders to scan [default: the whole root]
    pub paths: Vec<String>,
    /// Findings to list as text; 0 for all
    #[arg(long, default_value_t = 25, value_name = "N")]
    pub limit: usize,
    /// List only findings of this kind; `drift`: copies in which statements differ
    #[arg(long, value_name = "KIND")]
    pub kind: Option<Kinds>,
    /// List only findings with this verdict
    #[arg(long, value_name = "VERDICT", value_parser = verdict)]
    pub verdict: Option<Verdict>,
    #[command(flatten)]
    pub filters: Filters,
    #[command(flatten)]
    pub limits: Limits,
}

fn verdict(word: &str) -> Result<Verdict, String> {
    let all = [Verdict::Ready, Verdict::Assumed, Verdict::Refused];
    let words: Vec<&str> = all.iter().map(|v| v.word()).collect();
    all.iter().find(|v| v.word() == word).copied().ok_or_else(|| format!("expected one of {}", words.join(", ")))
}

#[derive(ValueEnum, Debug, Clone, Copy, PartialEq, Eq)]
pub enum Kinds {
    Repeat,
    Series,
    Members,
    Twins,
    Drift,
    Long,
    Clutter,
}

impl Kinds {
    pub fn has(self, f: &Finding) -> bool {
        match self {
            Kinds::Repeat => f.kind == Kind::Repeat && !f.drifted,
            Kinds::Series => f.kind == Kind::Series,
            Kinds::Members => f.kind == Kind::Members,
            Kinds::Twins => f.kind == Kind::Twins,
            Kinds::Drift => f.drifted,
            Kinds::Long => f.kind == Kind::Long,
            Kinds::Clutter => f.kind == Kind::Clutter,
        }
    }
}

/// Which findings are told; what is found does not depend on them.
#[derive(Group, Debug, Clone, Default)]
pub struct Filters {
    /// Only findings in this language, by its name in the totals of `scan --format json`
    #[arg(long, value_name = "NAME")]
    pub language: Option<String>,
    /// Only findings with a copy in a file or folder that this pattern fits
    #[arg(long, value_name = "PATTERN")]
    pub path: Vec<String>,
    /// Only findings with a copy in lines that have changed since this revision branched off
    #[arg(long, value_name = "REV")]
    pub since: Option<String>,
    /// The order [default: what a fold saves, how sure it is, tests after other code]
    #[arg(long, value_enum, value_name = "ORDER")]
    pub sort: Option<Sort>,
}

impl Filters {
    /// Whether all findings pass.
    pub fn is_empty(&self) -> bool {
        self.language.is_none() && self.path.is_empty() && self.since.is_none()
    }
}

#[derive(ValueEnum, Debug, Clone, Copy, PartialEq, Eq)]
pub enum Sort {
    /// Lines that a fold would save
    Saves,
    /// Lines of the longest copy
    Lines,
    /// Number of copies
    Copies,
    /// How alike the copies are
    Alike,
    /// How often the files were changed
    Changes,
    /// Path of the first copy
    Path,
}

#[derive(Group, Debug, Clone)]
pub struct Gate {
    /// Take all findings as accepted: write the ledger
    #[arg(long, conflicts_with_all = ["kind", "verdict", "language", "path", "since", "sort"])]
    pub accept: bool,
    /// Only findings of this kind
    #[arg(long, value_name = "KIND")]
    pub kind: Option<Kinds>,
    /// Only findings with this verdict
    #[arg(long, value_name = "VERDICT", value_parser = verdict)]
    pub verdict: Option<Verdict>,
    /// Findings to print at most; 0 for all
    #[arg(long, default_value_t = 25, value_name = "N")]
    pub limit: usize,
    #[command(flatten)]
    pub filters: Filters,
    #[command(flatten)]
    pub limits: Limits,
}

#[derive(Group, Debug, Clone)]
pub struct Report {
    /// Files and folders to report on [default: the whole root]
    pub paths: Vec<String>,
    /// The file to write
    #[arg(short, long, value_name = "FILE")]
    pub output: PathBuf,
    /// Findings to plan and tell, the best first; 0 for all
    #[arg(long, default_value_t = 500, value_name = "N")]
    pub limit: usize,
    /// Only findings of this kind
    #[arg(long, value_name = "KIND")]
    pub kind: Option<Kinds>,
    #[command(flatten)]
    pub filters: Filters,
    #[command(flatten)]
    pub limits: Limits,
}

/// What is a finding, in place of what ufold.toml says.
#[derive(Group, Debug, Clone, Default)]
pub struct Limits {
    /// Smallest copy, in names, literals and operators
    #[arg(long, value_name = "N")]
    pub smallest: Option<u32>,
    /// Code lines that a function may have
    #[arg(long, value_name = "N")]
    pub longest: Option<u32>,
    /// Structures inside each other that a function may have
    #[arg(long, value_name = "N")]
    pub deepest: Option<u32>,
    /// Cognitive complexity that a function may have
    #[arg(long, value_name = "N")]
    pub most_complex: Option<u32>,
    /// Parameters that a function may have
    #[arg(long, value_name = "N")]
    pub most_parameters: Option<u32>,
    /// Parameters and locals that may be alive at once in a function
    #[arg(long, value_name = "N")]
    pub most_names: Option<u32>,
    /// Code lines that a file may have
    #[arg(long, value_name = "N")]
    pub longest_file: Option<u32>,
}

impl Limits {
    /// Whether all is as ufold.toml says.
    pub fn is_empty(&self) -> bool {
        let all = [self.smallest, self.longest, self.deepest, self.most_complex, self.most_parameters, self.most_names];
        all.iter().all(Option::is_none) && self.longest_file.is_none()
    }

    pub fn over(&self, o: Options) -> Options {
        Options {
            smallest: self.smallest.unwrap_or(o.smallest),
            longest: self.longest.unwrap_or(o.longest),
            deepest: self.deepest.unwrap_or(o.deepest),
            most_complex: self.most_complex.unwrap_or(o.most_complex),
            most_parameters: self.most_parameters.unwrap_or(o.most_parameters),
            most_names: self.most_names.unwrap_or(o.most_names),
            longest_file: self.longest_file.unwrap_or(o.longest_file),
            ..o
        }
    }
}
