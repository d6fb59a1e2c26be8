//! The layouts of test suites that are known: specifications in `spec/`, a script that runs all tests.

use crate::lang::Layout;

pub fn command(layout: &dyn Layout) -> Option<String> {
    // its own file tells the runner
    if layout.exists(".busted") {
        return None;
    }
    if layout.names_in("spec").iter().any(|n| n.ends_with("_spec.lua")) {
        return Some("busted -o TAP".into());
    }
    let scripts = ["tests/run.lua", "test/run.lua", "tests/test.lua", "test/test.lua", "test.lua"];
    scripts.iter().find(|p| layout.exists(p)).map(|p| format!("lua {p}"))
}
