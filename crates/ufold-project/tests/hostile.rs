//! A repository that somebody else made: its settings, journal, recordings and coverage may hold anything. Each is read
//! or refused with a message; nothing panics, and nothing outside the root is touched.

use std::fs;
use std::os::unix::fs::PermissionsExt;
use std::path::Path;

use proptest::prelude::*;
use ufold_project::journal::Journal;
use ufold_project::state::State;
use ufold_project::{config, coverage, recording};

const STEP: &str = r#"{"number":1,"time":1,"title":"Fold","finding":"r1","state":"applied","saves":3,"files":[{"file":
"port.py","before":"aa","after":"bb"}],"check":null,"commit":null}"#;
const SETTINGS: &str =
    "[check]\ntimeout = 5\n[[check.commands]]\nrun = \"true\"\nfolder = \"..\"\nfiles = [\"**/*.xml\"]\n";
const RECORDING: &str =
    "command = [\"true\", \"{ship}\"]\nfolder = \"../..\"\nmasks = [\"date\", \"x+\"]\nfiles = [\"../*\"]\n";
const INPUTS: &str = "ship,tons\nann,3\n../../bee,4\n";
const COVERAGE: &str = "SF:../../x\nDA:1,1\nend_of_record\n";

/// A text, whole or with a piece taken out or replaced by anything.
fn spoiled(text: &'static str) -> impl Strategy<Value = Vec<u8>> {
    let bytes = prop::collection::vec(any::<u8>(), 0..12);
    (0..text.len(), 0usize..20, bytes, any::<bool>()).prop_map(move |(at, len, bytes, keep)| {
        let mut out = text.as_bytes().to_vec();
        let end = (at + len).min(out.len());
        if !keep {
            out.splice(at..end, bytes);
        }
        out
    })
}

fn write(root: &Path, file: &str, bytes: &[u8]) {
    let path = root.join(file);
    fs::create_dir_all(path.parent().expect("inside")).expect("folders can be made");
    fs::write(path, bytes).expect("files can be written");
}

/// How many repositories; `UFOLD_FUZZ` asks for more.
fn inputs() -> ProptestConfig {
    let cases = std::env::var("UFOLD_FUZZ").ok().and_then(|v| v.parse().ok()).unwrap_or(200);
    ProptestConfig { cases, failure_persistence: None, ..ProptestConfig::default() }
}

proptest! {
    #![proptest_config(inputs())]

    #[test]
    fn anything_may_lie_in_a_repository(
        step in spoiled(STEP), settings in spoiled(SETTINGS), record in spoiled(RECORDING), inputs in spoiled(INPUTS),
        report in spoiled(COVERAGE), pending in prop_oneof![spoiled(r#"{"step":{"number":1}}"#), spoiled(r#"{"undo":{"number":1}}"#)],
        elsewhere in prop_oneof![Just("../outside"), Just("/etc/hostname"), Just("port.py")],
    ) {
        let outer = tempfile::tempdir().expect("a temporary folder");
        let root = outer.path().join("root");
        write(&root, "port.py", b"x = 1\n");
        write(outer.path(), "outside", b"theirs\n");
        let step = String::from_utf8_lossy(&step).replace("port.py", elsewhere);
        let root = root.canonicalize().expect("it is there");
        // not even a damaged journal of one's own leads out
        let place = State::below(&outer.path().join("state"), &root);
        for own in [place.folder(), &root.join(".ufold")] {
            write(own, "journal/0001/step.json", step.as_bytes());
            write(own, "journal/0001/0", b"hostile\n");
            write(own, "pending", &pending);
            write(own, "baseline.json", &settings);
        }
        fs::set_permissions(place.folder(), fs::Permissions::from_mode(0o700)).expect("it is ours");
        write(&root, "ufold.toml", &settings);
        write(&root, "ufold-recordings/a/recording.toml", &record);
        write(&root, "ufold-recordings/a/inputs.csv", &inputs);
        write(&root, "lcov.info", &report);
        if let Ok((journal, _)) = Journal::open_in(&root, place) {
            let _ = (journal.records(), journal.baseline(), journal.unchecked(), journal.taken_back());
            let _ = journal.undo(None);
        }
        if let Ok(c) = config::load(&root) {
            let _ = (c.check.net(&root, None), coverage::load(&root, &c.check));
        }
        let _ = recording::all(&root);
        prop_assert_eq!(fs::read_to_string(outer.path().join("outside")).expect("it is there"), "theirs\n");
    }
}
