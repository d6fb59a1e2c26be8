//! What is shipped in docs/ must agree with the code: schemas of the JSON, and the list of reason codes.
//! `UFOLD_UPDATE=1 cargo test` writes the schemas anew.

use std::collections::BTreeSet;
use std::path::{Path, PathBuf};

use ufold_core::change::Code;
use ufold_core::step::Plan;

use crate::commands::{
    CheckReport, GateReport, LogReport, ProbeReport, ReadyReport, ScanReport, SplitFileReport, SplitReport,
};
use crate::output::json;

fn top() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

#[test]
fn schemas_agree_with_the_types() {
    let schemas = [
        ("scan-1.json", schemars::schema_for!(ScanReport)),
        ("split-1.json", schemars::schema_for!(SplitReport)),
        ("split-file-1.json", schemars::schema_for!(SplitFileReport)),
        ("plan-2.json", schemars::schema_for!(Plan)),
        ("gate-1.json", schemars::schema_for!(GateReport)),
        ("accepted-1.json", schemars::schema_for!(json::Accepted)),
        ("report-1.json", schemars::schema_for!(json::Reported)),
        ("check-1.json", schemars::schema_for!(CheckReport)),
        ("ready-1.json", schemars::schema_for!(ReadyReport)),
        ("probe-1.json", schemars::schema_for!(ProbeReport)),
        ("log-1.json", schemars::schema_for!(LogReport)),
        ("error-1.json", schemars::schema_for!(json::Failed)),
        ("step-1.json", schemars::schema_for!(json::Stepped)),
        ("undo-1.json", schemars::schema_for!(json::Undone)),
        ("init-1.json", schemars::schema_for!(json::Initialized)),
        ("notebook-1.json", schemars::schema_for!(json::Exported)),
        ("record-1.json", schemars::schema_for!(json::Recorded)),
        ("recordings-1.json", schemars::schema_for!(json::Recordings)),
        ("trust-1.json", schemars::schema_for!(json::Trusted)),
        ("fold-all-1.json", schemars::schema_for!(json::Folding)),
        ("watch-1.json", schemars::schema_for!(json::Changed)),
    ];
    for (name, schema) in schemas {
        let path = top().join("docs/schemas").join(name);
        let text = serde_json::to_string_pretty(&schema).expect("a schema is JSON") + "\n";
        if std::env::var_os("UFOLD_UPDATE").is_some() {
            std::fs::write(&path, &text).expect("the schema can be written");
        }
        let shipped = std::fs::read_to_string(&path).unwrap_or_default();
        assert!(shipped == text, "{} is out of date; run the tests with UFOLD_UPDATE=1", path.display());
    }
}

/// Calls for each file of a folder and the folders in it.
fn sources(folder: &Path, each: &mut dyn FnMut(&Path, &str)) {
    for file in std::fs::read_dir(folder).expect("the folder is there") {
        let path = file.expect("a file").path();
        match path.is_dir() {
            true => sources(&path, each),
            false => each(&path, &std::fs::read_to_string(&path).expect("the source is there")),
        }
    }
}

#[test]
fn every_reason_code_is_given_by_something() {
    let mut left: BTreeSet<String> = Code::ALL.iter().map(|c| format!("Code::{c:?}")).collect();
    for crate_ in ["ufold-core", "ufold"] {
        sources(&top().join("crates").join(crate_).join("src"), &mut |_, text| {
            left.retain(|c| !text.contains(c.as_str()));
        });
    }
    assert!(left.is_empty(), "nothing gives {left:?}");
}
