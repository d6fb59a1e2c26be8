//! Reports that runners really wrote, each of tests that pass, fail and are skipped, and text that is no report.

use std::collections::BTreeSet;

use proptest::prelude::*;

use super::{Change, Format, Outcome, Results, detect, differences, read, unsteady};
use Outcome::{Failed, Passed, Skipped};

macro_rules! report {
    ($file:literal) => {
        ($file, include_str!(concat!("reports/", $file)))
    };
}

/// File, format, and all tests in it.
type Row = ((&'static str, &'static str), Format, &'static [(&'static str, Outcome)]);

/// Made with pytest 9, unittest of Python 3.11, Node 20, mocha 11, vitest 4, PHPUnit 9, busted 2.1, CTest 3.25,
/// cargo 1.90 and go 1.27; only the folder's and the host's names were changed.
const REPORTS: &[Row] = &[
    (
        report!("pytest.xml"),
        Format::Junit,
        &[
            ("test_fees.FeesTest > test_berth", Passed),
            ("test_fees.FeesTest > test_crane", Failed),
            ("test_fees.FeesTest > test_notice", Failed),
            ("test_fees.FeesTest > test_pilot", Passed),
            ("test_fees.FeesTest > test_tide", Skipped),
        ],
    ),
    (
        report!("unittest.txt"),
        Format::Unittest,
        &[
            ("test_fees.FeesTest.test_berth", Passed),
            ("test_fees.FeesTest.test_crane", Failed),
            ("test_fees.FeesTest.test_notice", Failed),
            ("test_fees.FeesTest.test_pilot", Passed),
            ("test_fees.FeesTest.test_tide", Skipped),
        ],
    ),
    (
        report!("node.tap"),
        Format::Tap,
        &[
            ("a crane lifts", Failed),
            ("a ship berths", Passed),
            ("a tide turns", Skipped),
            ("notices", Passed),
            ("notices > are numbered", Passed),
            ("notices > are sorted # by day", Passed),
        ],
    ),
    (
        report!("node.xml"),
        Format::Junit,
        &[
            ("a crane lifts", Failed),
            ("a ship berths", Passed),
            ("a tide turns", Skipped),
            ("notices > are numbered", Passed),
            ("notices > are sorted # by day", Passed),
        ],
    ),
    (
        report!("mocha.tap"),
        Format::Tap,
        &[("board berths a ship", Passed), ("board lifts a crane", Failed), ("board turns the tide", Skipped)],
    ),
    (
        report!("mocha.xml"),
        Format::Junit,
        &[("board > berths a ship", Passed), ("board > lifts a crane", Failed), ("board > turns the tide", Skipped)],
    ),
    (
        report!("vitest.xml"),
        Format::Junit,
        &[
            ("board.test.mjs > board > berths a ship", Passed),
            ("board.test.mjs > board > lifts a crane", Failed),
            ("board.test.mjs > board > turns the tide", Skipped),
        ],
    ),
    (
        report!("vitest.tap"),
        Format::Tap,
        &[
            ("board.test.mjs", Failed),
            ("board.test.mjs > board", Failed),
            ("board.test.mjs > board > berths a ship", Passed),
            ("board.test.mjs > board > lifts a crane", Failed),
            ("board.test.mjs > board > turns the tide", Skipped),
        ],
    ),
    (
        report!("phpunit.xml"),
        Format::Junit,
        &[
            ("FeesTest > testBerth", Passed),
            ("FeesTest > testCrane", Failed),
            ("FeesTest > testNotice", Failed),
            ("FeesTest > testTide", Skipped),
            ("FeesTest::testPilot > testPilot with data set \"long & late\"", Passed),
            ("FeesTest::testPilot > testPilot with data set \"short\"", Passed),
        ],
    ),
    (
        report!("busted.xml"),
        Format::Junit,
        &[
            ("spec/fees_spec.lua > fees berths a ship", Passed),
            ("spec/fees_spec.lua > fees finds notices", Failed),
            ("spec/fees_spec.lua > fees lifts a crane", Failed),
            ("spec/fees_spec.lua > fees turns the tide", Skipped),
        ],
    ),
    (
        report!("busted.tap"),
        Format::Tap,
        &[
            ("fees berths a ship", Passed),
            ("fees finds notices", Failed),
            ("fees lifts a crane", Failed),
            ("fees turns the tide", Skipped),
        ],
    ),
    (report!("ctest.xml"), Format::Junit, &[("berth", Passed), ("crane", Failed), ("tide", Skipped)]),
    (
        report!("cargo.txt"),
        Format::Cargo,
        &[
            ("doc harbour > src/lib.rs - fee", Passed),
            ("unittests src/lib.rs > tests::berth", Passed),
            ("unittests src/lib.rs > tests::crane", Failed),
            ("unittests src/lib.rs > tests::pilot", Passed),
            ("unittests src/lib.rs > tests::tide", Skipped),
        ],
    ),
    (
        report!("go.txt"),
        Format::Go,
        &[
            ("harbour > TestBerth", Passed),
            ("harbour > TestBerth/long_ship", Passed),
            ("harbour > TestBerth/short", Passed),
            ("harbour > TestCrane", Failed),
            ("harbour/tides > TestRange", Passed),
            ("harbour/tides > TestTide", Skipped),
        ],
    ),
];

#[test]
fn reports_of_real_runners() {
    for ((file, text), format, expected) in REPORTS {
        assert_eq!(detect(text), *format, "{file}");
        let found = read(*format, text).unwrap_or_else(|e| panic!("{file}: {e}"));
        let found: Vec<(&str, Outcome)> = found.tests.iter().map(|(n, t)| (n.as_str(), t.outcome)).collect();
        assert_eq!(found, *expected, "{file}");
    }
    let ((_, text), format, _) = REPORTS[0];
    let message = &read(format, text).expect("read").tests["test_fees.FeesTest > test_notice"].message;
    assert_eq!(message, "ValueError: no notice 7");
    let said = |row: usize, test: &str| {
        let ((_, text), format, _) = REPORTS[row];
        read(format, text).expect("read").tests[test].message.clone()
    };
    assert_eq!(said(1, "test_fees.FeesTest.test_crane"), "AssertionError: 'idle' != 'busy'\n- idle\n+ busy");
    assert_eq!(said(2, "a crane lifts"), "'idle' == 'busy'");
}

#[test]
fn reports_that_end_too_early_are_no_reports() {
    for ((file, text), format, _) in REPORTS {
        let cut = &text[..text.len() * 2 / 3];
        let cut = &cut[..cut.rfind('\n').unwrap_or(0)];
        match format {
            Format::Junit => assert!(read(*format, cut).is_err(), "{file}"),
            Format::Tap if text.starts_with("TAP version 13\n1..") => {}
            _ => {}
        }
    }
    assert!(read(Format::Tap, "1..3\nok 1 - a\nok 2 - b\n").is_err());
    assert!(read(Format::Tap, "1..2\nok 1\nBail out! no tide\n").is_err());
    assert!(read(Format::Tap, "").is_err() && read(Format::Junit, "").is_err());
    assert_eq!(detect("all good\n"), Format::Exit);
}

fn results(list: &[(&str, Outcome)]) -> Results {
    let mut r = Results::default();
    list.iter().for_each(|(n, o)| r.add(n.to_string(), *o, String::new()));
    r
}

#[test]
fn only_changes_for_the_worse_are_differences() {
    let before = results(&[("a", Passed), ("b", Passed), ("c", Passed), ("d", Failed), ("e", Skipped), ("f", Passed)]);
    let after = results(&[("a", Passed), ("b", Failed), ("c", Skipped), ("d", Passed), ("e", Passed), ("new", Failed)]);
    let found = differences(&before, &after, &BTreeSet::new());
    let found: Vec<(&str, Change)> = found.iter().map(|d| (d.test.as_str(), d.change)).collect();
    assert_eq!(found, [("b", Change::Fails), ("c", Change::Skipped), ("f", Change::Vanished)]);
    let left_out = BTreeSet::from(["b".to_string()]);
    assert_eq!(differences(&before, &after, &left_out).len(), 2);
    assert_eq!(unsteady(&before, &before), BTreeSet::new());
    assert_eq!(unsteady(&before, &after).len(), 6);
}

#[test]
fn names_that_occur_again_are_numbered() {
    let r = results(&[("a", Passed), ("a", Failed), ("a", Passed)]);
    assert_eq!(r.tests.keys().map(String::as_str).collect::<Vec<_>>(), ["a", "a #2", "a #3"]);
    assert_eq!(r.count(Failed), 1);
}

/// How many inputs each reader gets; `UFOLD_FUZZ` asks for more.
pub fn inputs() -> ProptestConfig {
    let cases = std::env::var("UFOLD_FUZZ").ok().and_then(|v| v.parse().ok()).unwrap_or(256);
    ProptestConfig { cases, failure_persistence: None, ..ProptestConfig::default() }
}

/// A report with pieces cut out, doubled and put elsewhere.
fn damaged() -> impl Strategy<Value = String> {
    let pieces = prop::collection::vec((0..REPORTS.len(), 0.0..1.0f64, 0usize..200), 1..8);
    pieces.prop_map(|list| {
        let piece = |(i, at, len): (usize, f64, usize)| {
            let text = REPORTS[i].0.1;
            let start = (text.len() as f64 * at) as usize;
            String::from_utf8_lossy(&text.as_bytes()[start..(start + len).min(text.len())]).into_owned()
        };
        list.into_iter().map(piece).collect()
    })
}

proptest! {
    #![proptest_config(inputs())]

    #[test]
    fn no_text_makes_a_reader_fail_badly(text in prop_oneof![damaged(), any::<String>()]) {
        for format in [Format::Junit, Format::Tap, Format::Cargo, Format::Unittest, Format::Go, Format::Exit] {
            let _ = read(format, &text);
        }
        let _ = (detect(&text), crate::coverage::Coverage::read(text.as_bytes()));
    }
}
