//! The layouts of Python test suites that are known: pytest by its configuration, unittest by what the tests import.

use crate::lang::Layout;

pub fn command(layout: &dyn Layout) -> Option<String> {
    let python = [".venv/bin/python", "venv/bin/python"].into_iter().find(|p| layout.exists(p)).unwrap_or("python3");
    let configured = ["pytest.ini", "conftest.py", "tests/conftest.py"].iter().any(|p| layout.exists(p));
    let said = [("pyproject.toml", "[tool.pytest"), ("setup.cfg", "[tool:pytest]"), ("tox.ini", "pytest")];
    if configured || said.iter().any(|(file, words)| layout.text(file).contains(words)) {
        return Some(format!("{python} -m pytest -q --junit-xml={{report}}"));
    }
    let is_test = |n: &String| n.starts_with("test") && n.ends_with(".py");
    let (folder, test) =
        ["tests", "test"].into_iter().find_map(|d| Some((d, layout.names_in(d).into_iter().find(is_test)?)))?;
    Some(if layout.text(&format!("{folder}/{test}")).contains("unittest") {
        format!("{python} -m unittest discover -v -s {folder} -t .")
    } else {
        format!("{python} -m pytest -q --junit-xml={{report}}")
    })
}
