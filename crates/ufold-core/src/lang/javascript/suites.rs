//! The layouts of test suites that are known: the project's own `test` script, else Node's runner.

use crate::lang::Layout;

pub fn command(layout: &dyn Layout) -> Option<String> {
    let package = layout.text("package.json");
    let json: serde_json::Value = serde_json::from_str(&package).unwrap_or_default();
    let script = json["scripts"]["test"].as_str().filter(|s| !s.contains("no test specified"));
    if script.is_some() {
        return Some("npm test --silent".into());
    }
    let is_test = |n: &String| {
        n.rsplit_once('.').is_some_and(|(stem, e)| {
            ["js", "mjs", "cjs", "ts"].contains(&e) && (stem.ends_with(".test") || stem.starts_with("test"))
        })
    };
    let folder = ["test", "tests"].into_iter().find(|d| layout.names_in(d).iter().any(is_test))?;
    (!package.is_empty()).then(|| format!("node --test {folder}/"))
}
